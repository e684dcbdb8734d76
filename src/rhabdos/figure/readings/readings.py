"""Readings: every number in the figure, each worked out when it is first asked for.

The readings have the shape of the plan. A form's numbers are worked out by its own file, group by
group, and kept here: drawing, hovering, notices and ``rhabdos numbers`` all read the same ones.
"""

from collections.abc import Sequence
from functools import cached_property

import numpy as np
from msgspec import Struct

from rhabdos.data.columns import CategoryColumn, DateColumn, NumberColumn, date_written
from rhabdos.data.pooled import AnySample, Pooled
from rhabdos.data.sample_sets import SampleSet
from rhabdos.errors import Refusal
from rhabdos.figure.planning.ordering import (
    VARIABLE,
    Dimension,
    factor_dimension,
    variable_dimension,
)
from rhabdos.figure.planning.plan import Levels, Plan, plan_of
from rhabdos.figure.readings.even_bins import even_edges
from rhabdos.figure.readings.value_scale import WORDS, ValueScale, value_scale
from rhabdos.figure.recipe.forms import needs_bins
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.memo import last_answers, memoised
from rhabdos.stats.axis_scale import LINEAR_AXIS, LOGS, AxisScale, ScaleKind
from rhabdos.stats.binning import (
    BinningError,
    Edges,
    StartsTooHighError,
    by_count,
    by_width,
    own_edges,
)
from rhabdos.stats.calendar import calendar_edges, nearest_step
from rhabdos.stats.heights import Scale
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import QuartileRule
from rhabdos.stats.rules import Ruled, by_rule
from rhabdos.stats.summary import Summary, summarise
from rhabdos.wording import exact, marked

_LEAST_SHARE = 0.05  # of the span of all variables, that each must have to share their axis


class Group(Struct, frozen=True, eq=False):
    """One group of the figure: what it is called, its levels, what is measured, and its sample.

    ``index``, ``name``, ``colour``, ``panel`` and ``forward`` are those of the plan; ``axis`` is
    its panel's.
    """

    index: int
    label: str
    name: str
    levels: Levels
    variable: NumberColumn
    sample: AnySample
    colour: int
    panel: int
    axis: int
    forward: bool

    @property
    def n(self) -> int:
        """How many values it has."""
        return self.sample.n

    @property
    def missing(self) -> int:
        """How many of its rows have none."""
        return self.sample.missing

    @property
    def unit(self) -> str:
        """The unit of its values."""
        return self.variable.unit


class _Planned(Struct, frozen=True, eq=False):
    """The plan with its groups, and their samples in the same order."""

    plan: Plan
    groups: tuple[Group, ...]
    samples: SampleSet


class Readings(Struct, frozen=True, eq=False, dict=True):
    """All that is known of a figure before it is drawn.

    ``gathered`` has the samples of all levels, also those that are not shown.
    """

    recipe: Recipe
    gathered: SampleSet

    @property
    def plan(self) -> Plan:
        """Which panels, lanes and groups there are."""
        return self._planned.plan

    @property
    def groups(self) -> tuple[Group, ...]:
        """All groups, panel by panel and lane by lane."""
        return self._planned.groups

    @property
    def samples(self) -> SampleSet:
        """The samples that are shown, in the order of the groups."""
        return self._planned.samples

    @cached_property
    def _planned(self) -> _Planned:
        return _planned(self.gathered, self.recipe)

    def group(self, **levels: str) -> Group:
        """The group with these levels: ``readings.group(Bay="Saltmere")``."""
        return next(group for group in self.groups if dict(group.levels) == levels)

    @property
    def variable(self) -> NumberColumn:
        """What is measured; of several variables the first one that is shown."""
        return self.groups[0].variable

    @cached_property
    def variables(self) -> tuple[NumberColumn, ...]:
        """What is measured, in the order in which it is shown."""
        return tuple({group.variable.name: group.variable for group in self.groups}.values())

    @property
    def split(self) -> CategoryColumn | None:
        """The factor that makes the groups within a panel, if any; of two the first."""
        asked = self.recipe.show.split
        return self.gathered.factor(asked[0]) if asked else None

    @property
    def divided(self) -> str | None:
        """What the groups are levels of, in words; None where all values are together."""
        dimensions = {d.name: d.label for d in (*self.plan.within, *self.plan.paneled)}
        if len(dimensions) > 1:
            return "Group"
        return next(iter(dimensions.values()), None)

    @property
    def cumulative(self) -> bool:
        """Whether heights add up from left to right."""
        return self.recipe.show.cumulative

    @cached_property
    def by_variable(self) -> tuple[tuple[NumberColumn, Pooled], ...]:
        """Each variable with all of its values that are shown, read as one."""
        if len(self.variables) == 1:
            return ((self.variable, self.samples.pooled),)
        return tuple(
            (variable, Pooled(tuple(g.sample for g in self.groups if g.variable is variable)))
            for variable in self.variables
        )

    def variable_in(self, panel: str | int | None) -> NumberColumn:
        """What lies along the axis of a panel, by its name or place; of all panels (None), and of
        one that there is not, the first variable."""
        for planned in self.plan.panels:
            if panel in (planned.label, planned.index) and panel != "" and planned.groups:
                return self.groups[planned.groups[0]].variable
        return self.variable

    @cached_property
    def pools(self) -> tuple[Pooled, ...]:
        """All values that are shown on each value axis, read as one."""
        if self.plan.axes == 1:
            return (self.samples.pooled,)
        on_axis: list[list[int]] = [[] for _ in range(self.plan.axes)]
        for group in self.groups:
            on_axis[group.axis].append(group.index)
        return tuple(self.samples.pooled_at(tuple(places)) for places in on_axis)

    @cached_property
    def ruled_by_axis(self) -> tuple[Ruled | None, ...]:
        """The bins on each value axis, and how they came about; None where it has no values."""
        return tuple(
            self._edges_for(pool, axis) if pool.n else None for axis, pool in enumerate(self.pools)
        )

    def _edges_for(self, values: Ordered, axis: int) -> Ruled:
        bins, dates = self.recipe.bins, self.dates_on(axis)
        try:
            return edges_for(bins, values, dates, self.scales[axis].axis)
        except StartsTooHighError as error:
            raise error.told(date_written if dates else exact) from None

    @property
    def kind(self) -> ScaleKind:
        """What values lie along their axis by: themselves, their logs or roots."""
        return self.recipe.axes.value.scale

    @property
    def by_ratio(self) -> bool:
        """Whether steps along the axis are ratios, as bandwidths then are."""
        return self.kind in ("log", "arsinh")

    @property
    def per(self) -> str:
        """What a density is per: the unit, a day of dates, or a step along the axis."""
        if self.kind != "linear":
            return WORDS[self.kind].per
        if self.recipe.show.standardised or self.plan.axes > 1:
            return ""
        return "day" if isinstance(self.variable, DateColumn) else self.variable.unit

    @cached_property
    def scales(self) -> tuple[ValueScale, ...]:
        """What each value axis is even in: values, their logs or roots."""
        asked = self.recipe.axes.value
        return tuple(value_scale(asked.scale, asked.near, pool) for pool in self.pools)

    def scale_of(self, group: int) -> ValueScale:
        """What the value axis of a group is even in."""
        return self.scales[self.groups[group].axis]

    def dates_on(self, axis: int) -> bool:
        """Whether a value axis measures dates."""
        return any(isinstance(g.variable, DateColumn) for g in self.groups if g.axis == axis)

    @property
    def ruled(self) -> Ruled:
        """The bins of the figure, and how they came about; of several axes those of the first."""
        return next(ruled for ruled in self.ruled_by_axis if ruled)

    @property
    def edges(self) -> Edges:
        """Shared by all groups, unless each has its own: then those of all values together."""
        return self.ruled.edges

    @cached_property
    def own_edges(self) -> tuple[Edges, ...]:
        """The bins of each group: those of its axis, or its own."""
        bins, answers = self.recipe.bins, []
        for group in self.groups:
            ruled = self.ruled_by_axis[group.axis]
            shared = ruled.edges if ruled else self.edges
            if bins.shared or not group.n:
                answers.append(shared)
            else:
                answers.append(self._edges_for(group.sample, group.axis).edges)
        return tuple(answers)

    @property
    def needs_bins(self) -> bool:
        """Whether the figure changes with its bins."""
        return needs_bins(self.recipe)

    @cached_property
    def scale(self) -> Scale:
        """The heights that are drawn.

        Unequal bins allow none but densities. What densities add up to is a proportion, and so is
        an ECDF that stands alone.
        """
        asked: Scale = self.recipe.show.heights
        if self.cumulative or self.plan.heights == ("ecdf",):
            return "proportion" if asked == "density" else asked
        if not self.needs_bins:
            return asked
        return asked if self.fair else "density"

    @cached_property
    def fair(self) -> bool:
        """Whether heights by count can be compared: where bins are equal as the axis shows them."""
        own = {id(edges): group for group, edges in enumerate(self.own_edges)}
        return all(self.scale_of(group).fair(self.own_edges[group]) for group in own.values())

    @cached_property
    def summaries(self) -> tuple[Summary, ...]:
        """One per group, in order; they do not depend on the bins."""
        return summaries_of(self.samples, self.recipe.box.quartiles)

    def marked(self, number: str) -> str:
        """A number in the figure, with the marks of the value axis."""
        return marked(number, *self.recipe.axes.value.marks)

    def n_words(self, n: int) -> str:
        """How many values something has, as the figure says it."""
        return f"n = {self.marked(f'{n:,}')}"

    def total(self, group: int) -> int:
        """What the shares of a group are of: its own values, or all that are shown on its axis."""
        of_group = self.groups[group]
        return self.pools[of_group.axis].n if self.recipe.show.of == "all" else of_group.n


@last_answers(
    lambda _, recipe: (
        recipe.show,
        recipe.panels,
        recipe.groups,
        recipe.bins.shared,
        recipe.box.quartiles,  # by which medians are put in order
    )
)
def _planned(gathered: SampleSet, recipe: Recipe) -> _Planned:
    """Plan and groups, which stay while a hand moves bins, a bandwidth or a reach."""
    dimensions = [factor_dimension(gathered, at, recipe) for at in range(len(gathered.factors))]
    by_name = {dimension.name: dimension for dimension in dimensions}

    def named(asked: Sequence[str]) -> list[Dimension]:
        """The dimensions of factors, each once though it may be called by two names."""
        return list({d.name: d for d in (by_name[gathered.factor(a).name] for a in asked)}.values())

    plan = plan_of(
        recipe,
        variable_dimension(gathered, recipe),
        named(recipe.show.split),
        named(recipe.panels.by),
        [dimension.name for dimension in dimensions],
        len(gathered.variables) > 1 and not _share_an_axis(gathered),
    )
    place_of = {cell: index for index, cell in enumerate(gathered.cells)}
    places = [place_of.get(group.cell) for group in plan.groups]
    known = tuple(index for index in places if index is not None)
    samples = gathered.chosen(known)
    if len(known) < len(places):  # no row lacks just these levels
        samples = gathered.with_empty(tuple(group.cell for group in plan.groups))
    groups = tuple(
        Group(
            planned.index,
            planned.label,
            planned.name,
            planned.levels,
            gathered.variables[planned.cell.variable],
            sample,
            planned.colour,
            planned.panel,
            plan.panels[planned.panel].axis,
            planned.forward,
        )
        for planned, sample in zip(plan.groups, samples.samples, strict=True)
    )
    if not any(group.n for group in groups):
        raise Refusal("The levels that are shown have no values. Show others too.")
    return _Planned(plan, groups, samples)


def size_words(readings: Readings, groups: Sequence[int]) -> str:
    """How many values some groups have, in words; of several variables in panels, at most.

    Nothing where the look takes sizes off.
    """
    if readings.recipe.look.sizes is False:
        return ""
    each: dict[str, int] = {}
    for index in groups:
        group = readings.groups[index]
        each[group.variable.name] = each.get(group.variable.name, 0) + group.n
    sizes = set(each.values())
    if len(each) > 1 and any(d.name == VARIABLE for d in readings.plan.paneled):
        words = readings.n_words(max(sizes))
        return words.replace("=", "≤") if len(sizes) > 1 else words
    return readings.n_words(sum(each.values()))


def _share_an_axis(gathered: SampleSet) -> bool:
    """Whether several variables can be read along one axis.

    They have the same unit; or none, and values in about the same place.
    """
    units = {column.unit for column in gathered.variables}
    if len(units) > 1 or len({type(column) for column in gathered.variables}) > 1:
        return False
    if units != {""}:
        return True
    spans = []
    for index in range(len(gathered.variables)):
        both = zip(gathered.cells, gathered.samples, strict=True)
        filled = [sample for cell, sample in both if cell.variable == index and sample.n]
        if filled:  # a weight of 0 can leave a variable without values
            spans.append((min(s.minimum for s in filled), max(s.maximum for s in filled)))
    if not spans:
        return True
    whole = max(high for _, high in spans) / 2 - min(low for low, _ in spans) / 2
    return all(high / 2 - low / 2 >= _LEAST_SHARE * whole for low, high in spans)


def edges_for(
    bins: Bins, pooled: Ordered, dates: bool = False, axis: AxisScale = LINEAR_AXIS
) -> Ruled:
    """The edges that a recipe asks for, shared by all groups; those of dates are steps of the
    calendar, and on an axis of logs or roots they are equal there, unless it asks for others.

    Parameters
    ----------
    bins : Bins
        What the recipe asks of them.
    pooled : Ordered
        All values on the axis; at least one.
    dates : bool
        Whether these are days since 1970.
    axis : AxisScale
        What the axis is even in.

    Raises
    ------
    Refusal
        There are no values, or no such bins can be made of them.
    """
    if not pooled.n:
        raise Refusal("There are no values to draw.")
    if bins.logs or (not dates and not axis.even and bins.follow_the_axis):
        return even_edges(bins, pooled, LOGS if bins.logs else axis, dates)
    if bins.every is not None:
        if not dates:
            raise BinningError(
                f"Bins of one {bins.every} each are for dates, and these are numbers. Choose a "
                "width."
            )
        return Ruled(calendar_edges(pooled, bins.every, bins.closed, bins.start))
    if dates and bins.by_rule and bins.round and bins.start is None:
        ruled = by_rule(pooled, bins.rule or "automatic", None, bins.closed, True)
        every = nearest_step(pooled.maximum - pooled.minimum, ruled.edges.count)
        calendar = calendar_edges(pooled, every, bins.closed)
        return Ruled(calendar, ruled.limited, ruled.instead)
    centred = not dates  # a day is a stretch of time, and no point of it
    if bins.edges is not None:
        return Ruled(own_edges(np.array(bins.edges), bins.closed))
    if bins.width is not None:
        return Ruled(by_width(pooled, bins.width, bins.start, bins.closed, centred))
    if bins.count is not None:
        counted = by_count(pooled, bins.count, bins.start, bins.closed, bins.round, centred)
        return Ruled(counted)
    return by_rule(pooled, bins.rule or "automatic", bins.start, bins.closed, bins.round, centred)


@memoised
def summaries_of(samples: SampleSet, rule: QuartileRule = 7) -> tuple[Summary, ...]:
    """The summaries of a set of samples, by a definition of quartiles; kept with each sample."""
    return tuple(summarise(sample, rule) for sample in samples.samples)
