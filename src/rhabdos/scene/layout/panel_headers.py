"""What stands over panels: their names, and how many values are in each."""

from collections.abc import Sequence

from msgspec import structs

from rhabdos.figure.recipe.recipe_part import Place
from rhabdos.figure.words.naming import shown_words
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.layout.lane_names import lines_apart
from rhabdos.scene.layout.page_parts import MOST_CROWDED, Page
from rhabdos.scene.marks import Anchor, Mark, Meaning, Text, Zone
from rhabdos.scene.style.lettering import Face
from rhabdos.scene.words.label_places import Rect
from rhabdos.scene.words.rich import Line, lines_of, marks_of, width_of

_SMALLER, _SMALLEST = 7.5, 6.0  # points of letters over narrow panels
_MANY, _VERY_MANY = 4, 6  # columns of panels, from which on names get smaller
_ROW = 1.35  # of the size of its letters, that a row takes
_BASE = 0.38  # of it, from the bottom of a row up to the base line
_GAP = 6.0  # points between header and frame
_MOST_LINES = 4  # of a header
_OTHER_END: dict[Place, Place] = {"left": "right", "middle": "right", "right": "left"}


def _face(page: Page) -> Face:
    """How the names of panels are set: smaller where there are many."""
    plan = page.readings.plan
    columns = len(plan.columns) or page.readings.recipe.panels.columns or len(plan.panels) // 2
    if columns <= _MANY:
        return page.style.face("panels")
    return page.style.face("panels", size=_SMALLER if columns <= _VERY_MANY else _SMALLEST)


def _names(page: Page) -> list[str]:
    """What is written over each panel: its name, or that of its row over the first one of it."""
    readings, plan = page.readings, page.readings.plan
    if not plan.crossed:
        return [shown_words(readings, panel.label) for panel in plan.panels]
    return [
        "" if cell.column else shown_words(readings, plan.rows[cell.row])
        for cell in page.grid.cells
    ]


def height(page: Page) -> float:
    """The room over each panel, in points: for its name, or for the name of its row and its n.

    There is none where a page is most sparing.
    """
    if page.alone or page.crowding >= MOST_CROWDED:
        return 0.0
    lines = 1
    if page.readings.recipe.words.names:
        lines = max(min(_MOST_LINES, name.count("\n") + 1) for name in _names(page))
    return _face(page).size * _ROW * lines


def columns_height(page: Page) -> float:
    """The room over all panels for the names of columns, in points."""
    crossed = page.readings.plan.crossed and page.crowding < MOST_CROWDED
    return page.style.face("panels").size * _ROW if crossed else 0.0


def marks(page: Page, frames: Sequence[Frame], room: Rect, lift: float) -> list[Mark]:
    """The names of panels, or of their rows and columns; and how many values each panel has.

    They stand over what is written over the frames, which takes ``lift`` points.
    """
    if page.alone:
        return []
    drawn = _columns(page, frames, room) if page.readings.plan.crossed else []
    face, names = _face(page), _names(page)
    beside = structs.replace(face, bold=False, colour=page.style.quiet)
    place = page.style.lettering.panels.place or "left"
    told = page.readings.recipe.look.sizes is not False
    sizes = [page.readings.n_words(_n(page, frame.panel)) if told else "" for frame in frames]
    shown, sizes = _shown(page, names, sizes, frames, face, beside)
    for frame, lines, text in zip(frames, shown, sizes, strict=True):
        base = frame.top - lift - face.size * _BASE
        meaning = Meaning("panel", level=_label(page, frame.panel))
        x, anchor = _at(frame, place)
        for row, line in enumerate(reversed(lines)):
            y = base - row * face.size * _ROW
            drawn += marks_of(line, x, y, anchor, face, meaning, page.measure)
        if text:
            x, anchor = _at(frame, _OTHER_END[place])
            drawn.append(
                Text(
                    x, base, text, beside.size, anchor, beside.colour, Meaning("panel"),
                    slant=beside.slant,
                )
            )  # fmt: skip
    return drawn


def _columns(page: Page, frames: Sequence[Frame], room: Rect) -> list[Mark]:
    """The names of columns of panels, over the uppermost ones."""
    face, columns = page.style.face("panels"), page.readings.plan.columns
    widths = [frames[column].right - frames[column].left for column in range(page.grid.columns)]
    names = [shown_words(page.readings, name) for name in columns]
    drawn: list[Mark] = []
    for column, line in enumerate(lines_apart(page, names, widths, face)):
        x, anchor = _at(frames[column], "middle")
        meaning = Meaning("panel", level=columns[column])
        base = room.top - face.size * _BASE
        drawn += marks_of(line, x, base, anchor, face, meaning, page.measure)
    return drawn


def _shown(
    page: Page,
    names: Sequence[str],
    sizes: list[str],
    frames: Sequence[Frame],
    face: Face,
    beside: Face,
) -> tuple[list[list[Line]], list[str]]:
    """Each panel's name in lines, and its n where all names have room beside it: names are more
    than numbers."""
    widths = [frame.right - frame.left for frame in frames]
    lines = [_lines(page, name, 1e9, face) for name in names]
    reach = [max((width_of(line, face, page.measure) for line in of), default=0.0) for of in lines]
    share = 2 if page.style.lettering.panels.place == "middle" else 1
    fits = all(
        wide + share * (beside.wide(text, page.measure) + _GAP * bool(wide)) <= width
        for wide, text, width in zip(reach, sizes, widths, strict=True)
    )
    if fits:
        return lines, sizes
    cut = lines_apart(page, names, widths, face)
    shown = [
        _lines(page, name, width, face) if "\n" in name else [line] if line else []
        for name, line, width in zip(names, cut, widths, strict=True)
    ]
    return shown, [""] * len(frames)


def _lines(page: Page, name: str, width: float, face: Face) -> list[Line]:
    return lines_of(
        name, width, face, page.measure, page.stands, min(_MOST_LINES, name.count("\n") + 1)
    )


def _at(frame: Frame, place: Place) -> tuple[float, Anchor]:
    if place == "middle":
        return (frame.left + frame.right) / 2, "middle"
    return (frame.left, "start") if place == "left" else (frame.right, "end")


def _label(page: Page, panel: int) -> str:
    plan = page.readings.plan
    return plan.rows[plan.panels[panel].row] if plan.crossed else plan.panels[panel].label


def zones(page: Page, frames: Sequence[Frame], lift: float) -> list[Zone]:
    """Where the names of panels are pointed at."""
    if len(frames) == 1:
        return []
    plan, high = page.readings.plan, height(page)
    places = []
    for cell, frame in zip(page.grid.cells, frames, strict=True):
        meaning = Meaning("panel", level=_label(page, cell.panel))
        foot = frame.top - lift
        places.append(Zone(frame.left, foot - high, frame.right, foot, meaning))
        if plan.crossed and cell.row == 0:
            top = foot - high - columns_height(page)
            meaning = Meaning("panel", level=plan.columns[cell.column])
            places.append(Zone(frame.left, top, frame.right, foot - high, meaning))
    return places


def _n(page: Page, panel: int) -> int:
    readings = page.readings
    return sum(readings.groups[group].n for group in readings.plan.panels[panel].groups)
