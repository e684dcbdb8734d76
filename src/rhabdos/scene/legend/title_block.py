"""What stands above the frame: title and subtitle, and the legend or the number of values."""

from collections.abc import Sequence
from functools import lru_cache

from msgspec import Struct

from rhabdos.scene.legend import legend_entries
from rhabdos.scene.marks import Anchor, Mark, Meaning, Text, Zone
from rhabdos.scene.style.lettering import Face, Measure
from rhabdos.scene.style.style import Style
from rhabdos.scene.words.label_places import Rect
from rhabdos.scene.words.rich import Line, marks_of, width_of

_ROW = 1.2  # of the size of its letters, that a line takes
_BASE = 0.28  # of it, from the bottom of a line up to its base line
_SIZE, _SIZE_ROW, _SIZE_BASE = 8.5, 12.5 / 8.5, 3.5 / 8.5  # of the number of values
_APART = 24.0  # between a title and a legend on one row
_BESIDE = 1.35  # of the last row of titles, that a legend beside it is high at most
_BELOW = 8.0  # points under titles
_ENTRY = 13.0  # points at the top of a page without a title, where one is typed
_ANCHORS: dict[str, Anchor] = {"left": "start", "middle": "middle", "right": "end"}


class HeadWords(Struct, frozen=True):
    """A title or a subtitle, broken into lines, and how it is set."""

    lines: tuple[Line, ...]
    face: Face
    place: str
    part: str


class Heading(Struct, frozen=True, eq=False):
    """Marks and zones, and where the frame may begin."""

    marks: tuple[Mark, ...]
    zones: tuple[Zone, ...]
    bottom: float


@lru_cache(maxsize=16)  # a title is broken into lines by trying
def heading(
    words: tuple[HeadWords, ...],
    of_legend: tuple[legend_entries.Entry, ...],
    size: str,
    room: Rect,
    measure: Measure,
    style: Style,
) -> Heading:
    """Lay the titles and the legend out; kept, since neither changes while bins do.

    Parameters
    ----------
    of_legend : tuple of Entry
        Of a legend that stands here; none of one that is elsewhere.
    size : str
        How many values a figure of one group has, in words.
    room : Rect
        Where they lie, from its top down; a legend is at most as high as it.
    """
    marks, zones, last, y = _titles(words, room, measure)
    said = next((said for said in reversed(words) if said.lines), None)
    free, most_beside = 0.0, 0.0
    if said and said.place == "left":
        free = room.right - room.left - _APART - last
        most_beside = said.face.size * _ROW * _BESIDE
    beside = False
    if of_legend:
        most = room.bottom - room.top
        rows = legend_entries.rows(of_legend, room.right - room.left, most, measure)
        high = legend_entries.height(rows)
        beside = len(rows) == 1 and legend_entries.width(rows[0]) <= free and high <= most_beside
        if beside:
            start = room.right - legend_entries.width(rows[0])
            top = y - high
            zones.append(Zone(start - 4, 0, room.right, y, Meaning("legend")))
        else:
            start, top = room.left, y + (2 if said else 0) + 0.5
            y = top + high - 0.5
            zones.append(Zone(start, top, room.right, y, Meaning("legend")))
        for row in rows:
            marks += legend_entries.marks(row, start, top, style, measure)
            zones += legend_entries.zones(row, start, top)
            top += legend_entries.row_height(row)
    if size:
        face = Face(_SIZE, False, False, style.quiet)
        if beside or face.wide(size, measure) > free:
            y += face.size * _SIZE_ROW
        base = y - face.size * _SIZE_BASE
        marks.append(Text(room.right, base, size, face.size, "end", face.colour, Meaning("note")))
    return Heading(tuple(marks), tuple(zones), y + _BELOW)


def _titles(
    words: Sequence[HeadWords], room: Rect, measure: Measure
) -> tuple[list[Mark], list[Zone], float, float]:
    """Title and subtitle, the width of their last line, and where they end."""
    marks: list[Mark] = []
    zones: list[Zone] = []
    last, y = 0.0, room.top
    for said in words:
        first, row = y, said.face.size * _ROW
        x = {"left": room.left, "middle": (room.left + room.right) / 2, "right": room.right}
        for line in said.lines:
            y += row
            base = y - said.face.size * _BASE
            place, meaning = x[said.place], Meaning(said.part)
            marks += marks_of(line, place, base, _ANCHORS[said.place], said.face, meaning, measure)
            last = width_of(line, said.face, measure)
        if said.lines:
            top = 0 if first == room.top else first
            zones.append(Zone(0, top, room.right, y, Meaning(said.part)))
    if not any(said.part == "title" and said.lines for said in words):
        zones.insert(0, Zone(0, 0, room.right, _ENTRY, Meaning("title")))
    return marks, zones, last, y
