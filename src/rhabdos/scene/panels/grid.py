"""The grid of panels: how many rows and columns, which panels have labels, and where frames lie."""

import math
from collections.abc import Sequence
from functools import cached_property

from msgspec import Struct, structs

from rhabdos.figure.planning.plan import Plan
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.page_size import Size
from rhabdos.scene.words.label_places import Rect

_USUAL = Size(16.0, 10.0, "cm")
_HIGHEST = 24.0  # cm, to which a page grows by itself
_POINTS = 72 / 2.54  # of a cm
_AROUND = 64.0  # points of a page that are around its frames, or about so many
_LANE = 10.5  # points that each of many lanes gets at least …
_PANEL = 64.0  # … and each of many panels
_NARROWEST = 66.0  # points of a panel that still reads
_SHAPE = 1.35  # of a panel: its width by its height, as near as rows and columns allow
# Points between panels, where there is room and where there is none.
_MOST_GAP, _LEAST_GAP = 10.0, 3.0


class Cell(Struct, frozen=True):
    """Where a panel stands, and at which sides it has labels because no neighbour has the same."""

    panel: int
    row: int
    column: int
    values: bool
    heights: bool


class Grid(Struct, frozen=True, dict=True):
    """Panels in rows and columns, in the order of the plan."""

    rows: int
    columns: int
    cells: tuple[Cell, ...]

    @cached_property
    def places(self) -> frozenset[tuple[int, int]]:
        """The rows and columns where there is a panel."""
        return frozenset((cell.row, cell.column) for cell in self.cells)

    def with_outer_labels(self, upright: bool) -> "Grid":
        """The same grid with labels of axes at its left and its lower ends only."""
        cells = []
        for cell in self.cells:
            under, beside = self.ends_column(cell), cell.column == 0
            values, heights = (beside, under) if upright else (under, beside)
            cells.append(
                structs.replace(
                    cell, values=cell.values and values, heights=cell.heights and heights
                )
            )
        return structs.replace(self, cells=tuple(cells))

    def ends_column(self, cell: Cell) -> bool:
        """Whether nothing stands under a panel."""
        return (cell.row + 1, cell.column) not in self.places


def page_size(readings: Readings) -> Size:
    """The size of a figure's page: the one asked for, or one on which its lanes can be read."""
    settings = readings.recipe.page.size
    if settings is not None:
        return Size.parse(settings)
    plan = readings.plan
    panels = len(plan.panels)
    rows = 1
    if panels > 1:
        width = _USUAL.width * _POINTS
        rows = len(plan.rows) or _wrapped(panels, width, _USUAL.height * _POINTS)[0]
        if readings.recipe.panels.columns and not plan.rows:
            rows = math.ceil(panels / readings.recipe.panels.columns)
    lanes = 1
    if not plan.upright:
        lanes = max(
            sum(max(1, _parts(plan, len(lane.groups))) for lane in panel.lanes)
            for panel in plan.panels
        )
    least = rows * max(_PANEL if panels > 1 else 0.0, lanes * _LANE) + _AROUND
    height = min(_HIGHEST, max(_USUAL.height, math.ceil(least / _POINTS * 2) / 2))
    return Size(_USUAL.width, height, "cm")


def _parts(plan: Plan, groups: int) -> int:
    """How many strips or bands a lane of so many groups has across."""
    return groups if plan.strips or plan.arrange == "lanes" else 1


def grid_of(readings: Readings, width: float, height: float) -> Grid:
    """The grid of a figure's panels on a page of so many points."""
    plan, settings = readings.plan, readings.recipe.panels
    if plan.crossed:
        rows, columns = len(plan.rows), len(plan.columns)
        places = [(panel.row, panel.column) for panel in plan.panels]
    else:
        count = len(plan.panels)
        rows, columns = _wrapped(count, width, height)
        if settings.columns:
            columns = min(settings.columns, count)
            rows = math.ceil(count / columns)
        places = [divmod(number, columns) for number in range(count)]
    at = {place: number for number, place in enumerate(places)}
    cells = []
    for number, (row, column) in enumerate(places):
        beside = at.get((row, column - 1))
        under = at.get((row + 1, column))
        values_from, heights_from = (beside, under) if plan.upright else (under, beside)
        cells.append(
            Cell(
                number,
                row,
                column,
                values_from is None
                or value_key(readings, values_from) != value_key(readings, number),
                heights_from is None
                or height_key(readings, heights_from) != height_key(readings, number),
            )
        )
    return Grid(rows, columns, tuple(cells))


def value_key(readings: Readings, panel: int) -> tuple[str, int]:
    """Panels of one key share the limits of their value axes."""
    if "value" in readings.recipe.panels.free:
        return "panel", panel
    return "axis", readings.plan.panels[panel].axis


def height_key(readings: Readings, panel: int) -> tuple[str, int]:
    """Panels of one key share the scale of their heights."""
    if "height" in readings.recipe.panels.free:
        return "panel", panel
    return "axis", readings.plan.panels[panel].axis


def _wrapped(count: int, width: float, height: float) -> tuple[int, int]:
    """Rows and columns in which panels have the best shape, and few places stay empty."""
    most = max(1, int((width - _AROUND / 2) / _NARROWEST))
    best, least = 1, math.inf
    for columns in range(1, min(count, most) + 1):
        rows = math.ceil(count / columns)
        high = max((height - _AROUND) / rows, _PANEL)
        shape = (width - _AROUND / 2) / columns / high
        empty = (rows * columns - count) / count
        badness = abs(math.log(shape / _SHAPE)) + empty
        if badness < least:
            best, least = columns, badness
    return math.ceil(count / best), best


class Margins(Struct, frozen=True):
    """The room around the frame of each panel, in points."""

    left: float = 0.0
    top: float = 0.0
    right: float = 0.0
    bottom: float = 0.0


def gap_of(grid: Grid, width: float) -> float:
    """The room between panels, in points; less between many."""
    return max(_LEAST_GAP, min(_MOST_GAP, 0.12 * width / max(grid.columns, grid.rows)))


def laid_out(
    grid: Grid, room: Rect, margins: Sequence[Margins], least: float, aspect: float | None = None
) -> tuple[Rect, ...]:
    """The frames of all panels, equal in size, with room around each for its labels.

    With an ``aspect``, their height by their width, they take less of one of the two.

    Labels of a panel with nothing under it may hang into the place that is empty there.
    """
    lefts, rights = [0.0] * grid.columns, [0.0] * grid.columns
    tops, bottoms = [0.0] * grid.rows, [0.0] * grid.rows
    for cell in grid.cells:
        margin = margins[cell.panel]
        lefts[cell.column] = max(lefts[cell.column], margin.left)
        rights[cell.column] = max(rights[cell.column], margin.right)
        tops[cell.row] = max(tops[cell.row], margin.top)
        if cell.row == grid.rows - 1 or not grid.ends_column(cell):
            bottoms[cell.row] = max(bottoms[cell.row], margin.bottom)
    gap = gap_of(grid, room.right - room.left) if len(grid.cells) > 1 else 0.0
    free_x = room.right - room.left - sum(lefts) - sum(rights) - gap * (grid.columns - 1)
    free_y = room.bottom - room.top - sum(tops) - sum(bottoms) - gap * (grid.rows - 1)
    wide, high = max(least, free_x) / grid.columns, max(least, free_y) / grid.rows
    over_x = over_y = 0.0
    if aspect is not None:
        over_x = max(0.0, wide - high / aspect)
        over_y = max(0.0, high - wide * aspect)
        wide, high = wide - over_x, high - over_y
    xs = [room.left + lefts[0] + over_x * grid.columns / 2]
    ys = [room.top + tops[0] + over_y * grid.rows / 2]
    for column in range(1, grid.columns):
        xs.append(xs[-1] + wide + rights[column - 1] + gap + lefts[column])
    for row in range(1, grid.rows):
        ys.append(ys[-1] + high + bottoms[row - 1] + gap + tops[row])
    return tuple(
        Rect(xs[cell.column], ys[cell.row], xs[cell.column] + wide, ys[cell.row] + high)
        for cell in grid.cells
    )
