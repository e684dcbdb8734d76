"""What stands over panels: their names, and how many values are in each."""

from collections.abc import Sequence

from rhabdos.figure.readings import Readings, shown_lines, shown_name
from rhabdos.scene.grid import Grid
from rhabdos.scene.labels import told_apart
from rhabdos.scene.marks import Mark, Meaning, Text, Zone
from rhabdos.scene.names import Rect
from rhabdos.scene.plane import Frame
from rhabdos.scene.style import Style
from rhabdos.scene.text import Measure, shortened

_SIZE, _SMALLER, _SMALLEST = 8.5, 7.5, 6.0
_MANY, _VERY_MANY = 4, 6  # columns of panels, from which on names get smaller
_ROW = 1.35  # of the size of its letters, that a row takes
_BASE = 0.38  # of it, from the bottom of a row up to the base line
_GAP = 6.0
_MOST_SPARING = 2


def size_of(readings: Readings) -> float:
    """The size of the names of panels, in points."""
    plan = readings.plan
    columns = len(plan.columns) or readings.recipe.panels.columns or len(plan.panels) // 2
    return _SIZE if columns <= _MANY else _SMALLER if columns <= _VERY_MANY else _SMALLEST


def height(readings: Readings, spare: int = 0) -> float:
    """The room over each panel, in points: for its name, or for the name of its row and its n.

    There is none where a page is most sparing.
    """
    named = len(readings.plan.panels) > 1 and spare < _MOST_SPARING
    return size_of(readings) * _ROW * _rows(readings) if named else 0.0


def _rows(readings: Readings) -> int:
    """How many lines the names of panels have, where the recipe breaks one."""
    if not readings.recipe.words.names:
        return 1
    plan = readings.plan
    names = plan.rows if plan.crossed else [panel.label for panel in plan.panels]
    return max(shown_lines(readings, name).count("\n") + 1 for name in names)


def columns_height(readings: Readings, spare: int = 0) -> float:
    """The room over all panels for the names of columns, in points."""
    return _SIZE * _ROW if readings.plan.crossed and spare < _MOST_SPARING else 0.0


def marks(
    readings: Readings,
    grid: Grid,
    frames: Sequence[Frame],
    room: Rect,
    lift: float,
    measure: Measure,
    style: Style,
) -> list[Mark]:
    """The names of panels, or of their rows and columns; and how many values each panel has.

    They stand over what is written over the frames, which takes ``lift`` points.
    """
    plan = readings.plan
    if len(plan.panels) == 1:
        return []
    size, drawn = size_of(readings), list[Mark]()
    sizes = [f"n = {_n(readings, frame.panel):,}" for frame in frames]
    labels = [plan.rows[panel.row] if plan.crossed else panel.label for panel in plan.panels]
    names = [shown_name(readings, label) for label in labels]
    if plan.crossed:
        names = [
            name if cell.column == 0 else "" for name, cell in zip(names, grid.cells, strict=True)
        ]
        widths = [frames[column].right - frames[column].left for column in range(grid.columns)]
        shown = told_apart(
            [shown_name(readings, name) for name in plan.columns], widths, _SIZE, measure, True
        )
        for column, text in enumerate(shown):
            frame = frames[column]
            x, base = (frame.left + frame.right) / 2, room.top - _SIZE * _BASE
            meaning = Meaning("panel", level=plan.columns[column])
            drawn.append(Text(x, base, text, _SIZE, "middle", style.ink, meaning, bold=True))
    # Names are more than numbers: n is there where all names have room beside it.
    each = list(zip(frames, sizes, names, strict=True))
    rooms = [
        f.right - f.left - measure(text, size, False) - _GAP * bool(name) for f, text, name in each
    ]
    fits = all(
        measure(_tidy(name), size, True) <= room for name, room in zip(names, rooms, strict=True)
    )
    if not fits:
        sizes, rooms = [""] * len(frames), [frame.right - frame.left for frame in frames]
    shown = told_apart([_tidy(name) for name in names], rooms, size, measure, True)
    for frame, name, cut, text in zip(frames, names, shown, sizes, strict=True):
        base = frame.top - lift - size * _BASE
        if name:
            meaning = Meaning("panel", level=labels[frame.panel])
            lines = shown_lines(readings, labels[frame.panel]).split("\n")
            lines = lines if len(lines) > 1 else [cut]
            for row, line in enumerate(reversed(lines)):
                held = shortened(line, frame.right - frame.left, size, True, measure)
                y = base - row * size * _ROW
                drawn.append(Text(frame.left, y, held, size, "start", style.ink, meaning, True))
        if text:
            meaning = Meaning("panel")
            drawn.append(Text(frame.right, base, text, size, "end", style.quiet, meaning))
    return drawn


def zones(readings: Readings, grid: Grid, frames: Sequence[Frame], lift: float) -> list[Zone]:
    """Where the names of panels are pointed at."""
    if len(frames) == 1:
        return []
    plan, high = readings.plan, height(readings)
    places = []
    for cell, frame in zip(grid.cells, frames, strict=True):
        name = plan.rows[cell.row] if plan.crossed else plan.panels[cell.panel].label
        meaning = Meaning("panel", level=name)
        foot = frame.top - lift
        places.append(Zone(frame.left, foot - high, frame.right, foot, meaning))
        if plan.crossed and cell.row == 0:
            top = foot - high - columns_height(readings)
            meaning = Meaning("panel", level=plan.columns[cell.column])
            places.append(Zone(frame.left, top, frame.right, foot - high, meaning))
    return places


def _n(readings: Readings, panel: int) -> int:
    return sum(readings.groups[group].n for group in readings.plan.panels[panel].groups)


def _tidy(name: str) -> str:
    return " ".join(name.split())
