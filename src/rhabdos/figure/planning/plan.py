"""The plan: which panels, lanes and groups a figure has, by names alone."""

from collections.abc import Sequence
from functools import cached_property
from itertools import product

from msgspec import Struct

from rhabdos.data.sample_sets import Cell
from rhabdos.errors import Refusal
from rhabdos.figure.planning.ordering import VARIABLE, Dimension, Level
from rhabdos.figure.recipe.forms import heights_forms, needs_bins, strip_forms
from rhabdos.figure.recipe.recipe import Arrange, Form, Recipe
from rhabdos.quoting import quoted

MOST_OVERLAID = 4  # groups; more of them hide one another, and start in lanes
MOST_COLOURED = 8  # groups that have colours of their own though lanes or panels name them
_MOST_STANDING = 12  # lanes; more of them lie, where their names have room

Levels = tuple[tuple[str, str | None], ...]
"""Factors and levels that tell a group from all others: (("Bay", "Saltmere"),)."""


class PlannedGroup(Struct, frozen=True):
    """One group of the figure.

    Attributes
    ----------
    index : int
        In the order of all groups: panel by panel, lane by lane.
    label, name : str
        What it is called in the whole figure, and within its panel.
    levels : Levels
        Its level of each factor; None where its rows have none.
    cell : Cell
        Which part of the rows it is of.
    colour : int
        The place of its colour, which neither order nor what is hidden changes.
    panel : int
        The place of its panel.
    forward : bool
        Whether it is drawn in its colour, or quietened behind others.
    """

    index: int
    label: str
    name: str
    levels: Levels
    cell: Cell
    colour: int
    panel: int
    forward: bool


class PlannedLane(Struct, frozen=True):
    """A lane along the value axis, and the groups in it; without a label where all are in it."""

    label: str
    levels: Levels
    groups: tuple[PlannedGroup, ...]


class PlannedPanel(Struct, frozen=True, dict=True):
    """A panel, its place in the grid, and its lanes.

    Attributes
    ----------
    row, column : int
        In a grid of rows by columns; of wrapped panels the row is 0, and the page decides.
    label : str
        Empty where it is the only one.
    axis : int
        Which of the figure's value axes it has.
    """

    index: int
    row: int
    column: int
    label: str
    axis: int
    lanes: tuple[PlannedLane, ...]

    @cached_property
    def groups(self) -> tuple[int, ...]:
        """The places of its groups."""
        return tuple(group.index for lane in self.lanes for group in lane.groups)


class Plan(Struct, frozen=True, dict=True):
    """What stands where.

    Attributes
    ----------
    panels : tuple of PlannedPanel
        Row by row.
    rows, columns : tuple of str
        The names of rows and columns of panels; empty where panels are wrapped, or alone.
    paneled : tuple of Dimension
        What makes the panels.
    within : tuple of Dimension
        What makes the groups in a panel. Of two, the first makes the lanes, and the second has the
        colours.
    arrange : Arrange
        How groups lie that share a lane, or "lanes" where each has its own.
    upright : bool
        Whether the value axis stands.
    heights, strips : tuple of str
        The forms over an axis of heights, and those in strips of their own.
    colours : int
        How many colours there are, also of groups that are hidden.
    """

    panels: tuple[PlannedPanel, ...]
    rows: tuple[str, ...]
    columns: tuple[str, ...]
    paneled: tuple[Dimension, ...]
    within: tuple[Dimension, ...]
    arrange: Arrange
    upright: bool
    heights: tuple[Form, ...]
    strips: tuple[Form, ...]
    colours: int

    @property
    def lanes(self) -> tuple[PlannedLane, ...]:
        """The lanes of the first panel; all others have the same."""
        return self.panels[0].lanes

    @cached_property
    def groups(self) -> tuple[PlannedGroup, ...]:
        """All groups, by place."""
        return tuple(
            group for panel in self.panels for lane in panel.lanes for group in lane.groups
        )

    @property
    def crossed(self) -> bool:
        """Whether panels are rows by columns."""
        return bool(self.rows)

    @property
    def axes(self) -> int:
        """How many value axes there are."""
        return 1 + max(panel.axis for panel in self.panels)

    @property
    def coloured(self) -> Dimension | None:
        """What the colours stand for."""
        return self.within[-1] if self.within else None

    @property
    def named_without_colours(self) -> bool:
        """Whether lanes or panels name many groups, so that their colours would say no more."""
        if self.coloured is None or len(self.coloured.levels) <= MOST_COLOURED:
            return False
        in_lanes = len(self.within) == 1 and len(self.lanes) > 1
        return in_lanes or self.coloured.name in {d.name for d in self.paneled}

    @property
    def stacks_curves(self) -> bool:
        """Whether densities and normal curves of several groups lie on top of one another, of which
        those of each group, with an area of 1 by itself, add up to nothing."""
        several = any(len(lane.groups) > 1 for panel in self.panels for lane in panel.lanes)
        return self.arrange == "stacked" and several and bool({"curve", "normal"} & {*self.heights})

    @property
    def laned(self) -> Dimension | None:
        """What the lanes stand for, where there are any."""
        return self.within[0] if len(self.lanes) > 1 or len(self.within) > 1 else None


def plan_of(
    recipe: Recipe,
    variables: Dimension,
    split: Sequence[Dimension],
    paneled: Sequence[Dimension],
    factors: Sequence[str],
    apart: bool,
) -> Plan:
    """Plan a figure.

    Parameters
    ----------
    variables : Dimension
        What is measured.
    split, paneled : sequence of Dimension
        What makes groups and panels, each with the levels that are shown.
    factors : sequence of str
        Their names in the order of the samples' cells.
    apart : bool
        Whether variables have no axis in common, and so panels of their own.

    Raises
    ------
    Refusal
        No level is left to show, or there are too many groups for the arrangement.
    """
    for dimension in (variables, *split, *paneled):
        if not dimension.levels:
            raise Refusal(
                f"All levels of {quoted(dimension.label)} are left out. Show at least one of them."
            )
    several = len(variables.levels) > 1
    placed_apart = apart if recipe.panels.variables is None else recipe.panels.variables
    in_panels = several and (apart or placed_apart or len(split) > 1)
    within = (*(() if in_panels or not several else (variables,)), *split)
    across = (*((variables,) if in_panels else ()), *paneled)
    heights, strips = heights_forms(recipe), strip_forms(recipe)
    arrange = _arrangement(recipe, within)
    lanes_of = within[:1] if arrange == "lanes" or len(within) > 1 else ()
    count = len(lanes_of[0].levels) if lanes_of else 1
    upright = recipe.show.upright
    if upright is None:
        boxes = count * (len(within[1].levels) if len(within) > 1 else 1)
        upright = not heights and count > 1 and boxes <= _MOST_STANDING
    rows, columns = _grid(across, upright)
    maker = _Maker(recipe, variables, within, across, factors)
    return Plan(
        maker.panels(rows, columns, lanes_of, apart),
        tuple(_head(at, apart) for at in _combinations(rows)) if rows else (),
        tuple(_head(at, apart) for at in _combinations(columns)) if rows else (),
        across,
        within,
        arrange,
        upright,
        heights,
        strips,
        within[-1].total if within else 1,
    )


_At = dict[str, Level]
"""A level of each of some dimensions, by their names."""


def _combinations(dimensions: Sequence[Dimension]) -> list[_At]:
    names = [dimension.name for dimension in dimensions]
    every = product(*(dimension.levels for dimension in dimensions))
    return [dict(zip(names, levels, strict=True)) for levels in every]


def _joined(at: _At) -> str:
    return ", ".join(level.label for level in at.values())


def _head(at: _At, apart: bool) -> str:
    """What panels are called: variables with axes of their own by their units too."""
    return ", ".join(level.head if apart else level.label for level in at.values())


def _grid(
    across: Sequence[Dimension], upright: bool
) -> tuple[tuple[Dimension, ...], tuple[Dimension, ...]]:
    """What makes the rows and the columns of panels; without rows, panels wrap.

    Variables run so that the panels of each share the axis it lies on.
    """
    if len(across) < 2:
        return (), tuple(across)
    if across[0].name == VARIABLE:
        others = tuple(across[1:])
        return ((across[0],), others) if upright else (others, (across[0],))
    return (across[0],), (across[1],)


class _Maker:
    """Makes panels, and counts their groups."""

    def __init__(
        self,
        recipe: Recipe,
        variables: Dimension,
        within: Sequence[Dimension],
        across: Sequence[Dimension],
        factors: Sequence[str],
    ) -> None:
        self._variables, self._within, self._factors = variables, within, factors
        self._across = [d for d in across if d.name not in {other.name for other in within}]
        self._made = 0
        self._forward = _forward(recipe, (*within, *across))

    def panels(
        self,
        rows: Sequence[Dimension],
        columns: Sequence[Dimension],
        lanes_of: Sequence[Dimension],
        apart: bool,
    ) -> tuple[PlannedPanel, ...]:
        """All panels, row by row."""
        panels: list[PlannedPanel] = []
        for row, at_row in enumerate(_combinations(rows)):
            for column, at_column in enumerate(_combinations(columns)):
                at = {**at_row, **at_column}
                panels.append(self._panel(len(panels), row, column, at, lanes_of, apart))
        return tuple(panels)

    def _panel(
        self, index: int, row: int, column: int, at: _At, lanes_of: Sequence[Dimension], apart: bool
    ) -> PlannedPanel:
        """The panel at some levels."""
        lanes = []
        for in_lane in _combinations(lanes_of):
            rest = [d for d in self._within if d.name not in in_lane]
            groups = [
                self._group({**at, **in_lane, **inner}, index)
                for inner in _combinations(rest)
                if self._agree(at, {**in_lane, **inner})
            ]
            lanes.append(PlannedLane(_joined(in_lane), self._levels(in_lane), tuple(groups)))
        axis = at[VARIABLE].code if apart and VARIABLE in at else 0
        return PlannedPanel(index, row, column, _head(at, apart), axis, tuple(lanes))

    @staticmethod
    def _agree(panel: _At, group: _At) -> bool:
        """Whether a group belongs in a panel of the same factor."""
        return all(panel.get(name, level) == level for name, level in group.items())

    def _levels(self, at: _At) -> Levels:
        """The levels of factors, in their order."""
        return tuple((name, at[name].name) for name in self._factors if name in at)

    def _group(self, at: _At, panel: int) -> PlannedGroup:
        variable = at.get(VARIABLE, self._variables.levels[0])
        inner = [at[dimension.name].label for dimension in self._within]
        outer = [at[dimension.name].label for dimension in self._across]
        own = [*inner, *outer] or [variable.label]
        group = PlannedGroup(
            self._made,
            ", ".join(own),
            ", ".join(inner or outer or own),
            self._levels(at),
            Cell(variable.code, tuple(at[name].code for name in self._factors)),
            at[self._within[-1].name].index if self._within else 0,
            panel,
            all(at[name] in levels for name, levels in self._forward.items()),
        )
        self._made += 1
        return group


def _forward(recipe: Recipe, dimensions: Sequence[Dimension]) -> dict[str, set[Level]]:
    """The levels that are brought forward, by the dimensions that have any."""
    asked = set(recipe.groups.forward)
    forward = {}
    for dimension in dimensions:
        levels = {level for level in dimension.levels if {level.name, level.label} & asked}
        if levels:
            forward[dimension.name] = levels
    return forward


def _arrangement(recipe: Recipe, within: Sequence[Dimension]) -> Arrange:
    """How the groups of a lane lie, where it is not asked for: so that each can be read.

    Boxes, points and violins have lanes; so do groups too many to lie over one another.
    """
    heights, asked = heights_forms(recipe), recipe.show.arrange
    groups = len(within[-1].levels) if within else 1
    if not heights:
        return "lanes" if within and (groups > 1 or len(within) > 1) else "overlaid"
    if asked == "back-to-back" and groups > 2:
        raise Refusal(
            f"Back to back there is room for two groups, and {quoted(within[-1].label)} has "
            f"{groups:,}. Leave others out, or choose another arrangement."
        )
    bars = {"bars", "outline"} & set(heights)
    binned = (asked == "stacked" and needs_bins(recipe)) or (asked == "side-by-side" and bars)
    if asked is not None and binned and not recipe.bins.shared and groups > 1:
        raise Refusal(
            f"Groups that are {asked.replace('-', ' ')} share their bins. Share the bins "
            "(bins.shared), or choose another arrangement."
        )
    if groups == 1 and len(within) < 2:
        return "overlaid"
    if asked is not None:
        return "overlaid" if asked == "side-by-side" and not bars else asked
    crowded = groups > MOST_OVERLAID or not recipe.bins.shared
    strips = bool(strip_forms(recipe)) and len(within) < 2
    return "lanes" if crowded or strips else "overlaid"
