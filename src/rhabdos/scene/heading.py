"""What stands above the frame: title and subtitle, and the legend or the number of values."""

from functools import lru_cache

from msgspec import Struct

from rhabdos.scene import legend
from rhabdos.scene.marks import Anchor, Mark, Meaning, Text, Zone
from rhabdos.scene.rich import Face, Line, marks_of, width_of
from rhabdos.scene.style import Style
from rhabdos.scene.text import Measure

TITLE_SIZE, SUBTITLE_SIZE = 12.5, 9.5
_ROW = 1.2  # of the size of its letters, that a line takes
_BASE = 0.28  # of it, from the bottom of a line up to its base line
_LEGEND_BASE = 3.5
_APART = 24.0  # between a title and a legend on one row
_BELOW = 8.0
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


@lru_cache(maxsize=16)
def heading(
    words: tuple[HeadWords, ...],
    legend_title: str,
    levels: tuple[legend.Named, ...],
    size: int | None,
    left: float,
    right: float,
    top: float,
    most_rows: int,
    measure: Measure,
    style: Style,
) -> Heading:
    """Lay the titles and the legend out; kept, since neither changes while bins do.

    A legend that is elsewhere has no ``levels`` here; ``size`` is the number of values of a figure
    of one group. The room is from ``left`` to ``right``, down from ``top``, in points.
    """
    marks: list[Mark] = []
    zones: list[Zone] = []
    room, y = right - left, top
    last: tuple[float, HeadWords | None] = (0.0, None)
    for said in words:
        first, row = y, said.face.size * _ROW
        x = {"left": left, "middle": (left + right) / 2, "right": right}[said.place]
        for line in said.lines:
            y += row
            base = y - said.face.size * _BASE
            meaning = Meaning(said.part)
            marks += marks_of(line, x, base, _ANCHORS[said.place], said.face, meaning, measure)
            last = width_of(line, said.face, measure), said
        if said.lines:
            zones.append(Zone(0, 0 if first == top else first, right, y, Meaning(said.part)))
    if not any(said.part == "title" and said.lines for said in words):
        zones.insert(0, Zone(0, 0, right, _ENTRY, Meaning("title")))
    alone = last[1] is None or last[1].place == "left"
    free = room - _APART - last[0] if last[1] and alone else 0.0
    entries = legend.entries(legend_title, levels, room, measure) if levels else []
    rows = legend.rows(entries, room, most_rows, measure) if entries else []
    beside = len(rows) == 1 and legend.width(rows[0]) <= free
    base = y - _LEGEND_BASE
    if beside:
        start = right - legend.width(rows[0])
        marks += legend.marks(rows[0], start, base, style)
        zones.append(Zone(start - 4, 0, right, y, Meaning("legend")))
        zones += legend.zones(rows[0], start, base)
    elif rows:
        above = y
        y += 2 if last[1] else 0
        for row_of in rows:
            y += legend.ROW
            marks += legend.marks(row_of, left, y - _LEGEND_BASE + 0.5, style)
        zones.append(Zone(left, above, right, y, Meaning("legend")))
        for number, row_of in enumerate(rows, 1):
            foot = y - (len(rows) - number) * legend.ROW - _LEGEND_BASE
            zones += legend.zones(row_of, left, foot)
    if size is not None:
        text = f"n = {size:,}"
        if beside or measure(text, legend.SIZE, 0) > free:
            y += legend.ROW
        base = y - _LEGEND_BASE
        marks.append(Text(right, base, text, legend.SIZE, "end", style.quiet, Meaning("note")))
    return Heading(tuple(marks), tuple(zones), y + _BELOW)
