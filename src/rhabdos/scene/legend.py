"""The legend: a swatch, a name and the size of each group."""

from collections.abc import Sequence

from msgspec import Struct

from rhabdos.scene.marks import Mark, Meaning, Swatch, Text
from rhabdos.scene.style import Style
from rhabdos.scene.text import Measure, shortened

SIZE = 8.5
ROW = 12.5
_SWATCH = 8.0
_GAP = 4.0
_BETWEEN = 14.0


class Entry(Struct, frozen=True):
    """One group in the legend, with its width in points; without a colour, words alone."""

    label: str
    colour: str
    group: int
    width: float


def entries(
    labels: Sequence[str],
    sizes: Sequence[int],
    colours: Sequence[str],
    room: float,
    measure: Measure,
) -> list[Entry]:
    """The legend's entries; a name too long for ``room`` is cut before its n."""
    shown_entries = []
    for group, (label, n, colour) in enumerate(zip(labels, sizes, colours, strict=True)):
        size = f"  n = {n:,}"
        name_room = room - _SWATCH - _GAP - measure(size, SIZE, False)
        text = shortened(" ".join(label.split()) or "“ ”", name_room, SIZE, False, measure) + size
        shown_entries.append(
            Entry(text, colour, group, _SWATCH + _GAP + measure(text, SIZE, False))
        )
    return shown_entries


def rows(
    shown_entries: Sequence[Entry], room: float, most: int, measure: Measure
) -> list[list[Entry]]:
    """Fill at most ``most`` rows of at most ``room`` points, in order; the last one tells how many
    are left out."""
    filled = _filled(shown_entries, room)
    if len(filled) <= most:
        return filled
    shown = filled[:most]
    while True:
        left_out = len(shown_entries) - sum(len(row) for row in shown)
        text = f"and {left_out:,} more"
        more = Entry(text, "", -1, measure(text, SIZE, False))
        if not shown[-1] or width([*shown[-1], more]) <= room:
            return [*shown[:-1], [*shown[-1], more]]
        shown[-1] = shown[-1][:-1]


def _filled(shown_entries: Sequence[Entry], room: float) -> list[list[Entry]]:
    filled: list[list[Entry]] = [[]]
    used = 0.0
    for entry in shown_entries:
        if filled[-1] and used + entry.width > room:
            filled.append([])
            used = 0.0
        filled[-1].append(entry)
        used += entry.width + _BETWEEN
    return filled


def width(row: Sequence[Entry]) -> float:
    """How wide a row of entries is, in points."""
    return sum(entry.width for entry in row) + _BETWEEN * (len(row) - 1)


def marks(row: Sequence[Entry], left: float, baseline: float, style: Style) -> list[Mark]:
    """Draw one row of entries from ``left`` on."""
    drawn: list[Mark] = []
    for entry in row:
        if not entry.colour:
            drawn.append(
                Text(left, baseline, entry.label, SIZE, "start", style.quiet, Meaning("legend"))
            )
            continue
        meaning = Meaning("legend", entry.group)
        drawn.append(Swatch(left, baseline - _SWATCH + 1, _SWATCH, entry.colour, 0.4, meaning))
        drawn.append(
            Text(left + _SWATCH + _GAP, baseline, entry.label, SIZE, "start", style.ink, meaning)
        )
        left += entry.width + _BETWEEN
    return drawn
