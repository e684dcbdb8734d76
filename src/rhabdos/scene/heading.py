"""What stands above the frame: the title, and the legend or the number of values."""

from functools import lru_cache

from msgspec import Struct

from rhabdos.scene import legend
from rhabdos.scene.marks import Mark, Meaning, Text, Zone
from rhabdos.scene.style import Style
from rhabdos.scene.text import Measure, wrapped

TITLE_SIZE = 12.5
_TITLE_ROW = 15.0
_BASE = 3.5  # from the bottom of a row up to the base line of its text
_APART = 24.0  # between a title and a legend on one row
_BELOW = 8.0


class Heading(Struct, frozen=True, eq=False):
    """Marks and zones, and where the frame may begin."""

    marks: tuple[Mark, ...]
    zones: tuple[Zone, ...]
    bottom: float


@lru_cache(maxsize=16)
def heading(
    title: str,
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
    """Lay the title and the legend out; kept, since neither changes while bins do.

    A legend that is elsewhere has no ``levels`` here; ``size`` is the number of values of a figure
    of one group. The room is from ``left`` to ``right``, down from ``top``, in points.
    """
    marks: list[Mark] = []
    zones: list[Zone] = []
    room, y = right - left, top
    lines = wrapped(title, room, TITLE_SIZE, True, measure) if title else []
    for line in lines:
        y += _TITLE_ROW
        marks.append(
            Text(left, y - _BASE, line, TITLE_SIZE, "start", style.ink, Meaning("title"), bold=True)
        )
    free = room - _APART - measure(lines[-1], TITLE_SIZE, True) if lines else 0.0
    entries = legend.entries(legend_title, levels, room, measure) if levels else []
    rows = legend.rows(entries, room, most_rows, measure) if entries else []
    beside = len(rows) == 1 and legend.width(rows[0]) <= free
    if lines:
        zones.append(
            Zone(0, 0, right - legend.width(rows[0]) - 4 if beside else right, y, Meaning("title"))
        )
    if beside:
        start = right - legend.width(rows[0])
        marks += legend.marks(rows[0], start, y - _BASE, style)
        zones.append(Zone(start, 0, right, y, Meaning("legend")))
        zones += legend.zones(rows[0], start, y - _BASE)
    elif rows:
        above = y
        y += 2 if lines else 0
        for row in rows:
            y += legend.ROW
            marks += legend.marks(row, left, y - _BASE + 0.5, style)
        zones.append(Zone(left, above, right, y, Meaning("legend")))
        for number, row in enumerate(rows, 1):
            zones += legend.zones(row, left, y - (len(rows) - number) * legend.ROW - _BASE)
    if size is not None:
        words = f"n = {size:,}"
        if measure(words, legend.SIZE, False) > free:
            y += legend.ROW
        marks.append(
            Text(right, y - _BASE, words, legend.SIZE, "end", style.quiet, Meaning("note"))
        )
    return Heading(tuple(marks), tuple(zones), y + _BELOW)
