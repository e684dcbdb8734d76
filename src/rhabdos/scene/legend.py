"""The legend: a swatch, a name and the size of each group, in rows or one under the other."""

from collections.abc import Sequence

from msgspec import Struct

from rhabdos.figure.readings import Readings, shown_name, size_words
from rhabdos.figure.recipe import Form, LegendPlace
from rhabdos.scene.look import colours_of_levels
from rhabdos.scene.marks import Mark, Meaning, Swatch, Text, Zone
from rhabdos.scene.style import Style
from rhabdos.scene.text import Measure, shortened

SIZE = 8.5
ROW = 12.5
LARGEST = 1 / 3  # of the paper's width and height
_SWATCH = 8.0
_GAP = 4.0
_BETWEEN = 14.0
_LINES: set[Form] = {"polygon", "curve", "normal", "ecdf"}
_MOST_AT_LINES = 5


class Named(Struct, frozen=True):
    """A level with a colour: its name, what it is called, its colour, and its size in words, if
    told."""

    label: str
    shown: str
    colour: str
    size: str = ""
    hatch: int = 0


class Entry(Struct, frozen=True):
    """One line of the legend with its width in points; words alone have no colour."""

    label: str
    colour: str
    level: str
    width: float
    part: str = "legend"
    hatch: int = 0


def place_of(readings: Readings) -> LegendPlace:
    """Where the legend of a figure is, if it is not asked for elsewhere.

    A few lines alone have their names beside them; other groups that colours tell apart have a
    legend above.
    """
    plan, asked = readings.plan, readings.recipe.legend.place
    if plan.coloured is None:
        return "none"
    if asked is not None:
        return asked
    if len(plan.within) == 1 and plan.laned is not None:
        return "none"
    lines = set(plan.heights) <= _LINES and not plan.strips
    single = len(plan.panels) == len(plan.lanes) == 1 and plan.arrange == "overlaid"
    few = 1 < len(plan.coloured.levels) <= _MOST_AT_LINES
    return "lines" if lines and single and few else "above"


def named(readings: Readings, style: Style) -> tuple[Named, ...]:
    """The levels that colours stand for, in the order of the legend."""
    plan, asked = readings.plan, readings.recipe.legend
    if plan.coloured is None:
        return ()
    groups: dict[int, list[int]] = {}
    forward: dict[int, bool] = {}
    for group in readings.groups:
        groups.setdefault(group.colour, []).append(group.place)
        forward[group.colour] = forward.get(group.colour, False) or group.forward
    colours = colours_of_levels(readings, style)
    levels = plan.coloured.levels[::-1] if asked.reverse else plan.coloured.levels
    return tuple(
        Named(
            level.label,
            shown_name(readings, level.label) or "“ ”",
            colours[level.place] if forward.get(level.place, True) else style.receded,
            size_words(readings, groups.get(level.place, [])) if asked.n else "",
            style.hatch_of(level.place),
        )
        for level in levels
    )


def title_of(readings: Readings) -> str:
    """What stands before or over the legend: as asked, or the factor where there are several."""
    plan, asked = readings.plan, readings.recipe.legend.title
    if asked is not None:
        return asked
    several = len(plan.within) > 1 or plan.paneled
    return shown_name(readings, plan.coloured.label) if plan.coloured and several else ""


def entries(title: str, levels: Sequence[Named], room: float, measure: Measure) -> list[Entry]:
    """The legend's entries; a name too long for ``room`` is cut before its n."""
    shown = []
    if title:
        text = shortened(" ".join(title.split()), room, SIZE, False, measure)
        shown.append(Entry(text, "", "", measure(text, SIZE, False), "legend-title"))
    for level in levels:
        size = f"  {level.size}" if level.size else ""
        name_room = room - _SWATCH - _GAP - measure(size, SIZE, False)
        text = shortened(level.shown, name_room, SIZE, False, measure) + size
        wide = _SWATCH + _GAP + measure(text, SIZE, False)
        shown.append(Entry(text, level.colour, level.label, wide, hatch=level.hatch))
    return shown


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
        left_out = _coloured(shown_entries) - sum(_coloured(row) for row in shown)
        text = f"and {left_out:,} more"
        more = Entry(text, "", "", measure(text, SIZE, False))
        if not shown[-1] or width([*shown[-1], more]) <= room:
            return [*shown[:-1], [*shown[-1], more]]
        shown[-1] = shown[-1][:-1]


def column(shown_entries: Sequence[Entry], most: int, measure: Measure) -> list[list[Entry]]:
    """One entry a row, at most so many; the last one tells how many are left out."""
    if len(shown_entries) <= most:
        return [[entry] for entry in shown_entries]
    left_out = _coloured(shown_entries[max(0, most - 1) :])
    text = f"and {left_out:,} more"
    more = Entry(text, "", "", measure(text, SIZE, False))
    return [*([entry] for entry in shown_entries[: max(0, most - 1)]), [more]]


def _coloured(row: Sequence[Entry]) -> int:
    return sum(1 for entry in row if entry.colour)


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
                Text(left, baseline, entry.label, SIZE, "start", style.quiet, Meaning(entry.part))
            )
        else:
            meaning = Meaning("legend", level=entry.level)
            x = left + _SWATCH + _GAP
            drawn.append(
                Swatch(
                    left, baseline - _SWATCH + 1, _SWATCH, entry.colour, 0.4, meaning, entry.hatch
                )
            )
            drawn.append(Text(x, baseline, entry.label, SIZE, "start", style.ink, meaning))
        left += entry.width + _BETWEEN
    return drawn


def zones(row: Sequence[Entry], left: float, baseline: float) -> list[Zone]:
    """Where each entry of a row is pointed at."""
    places = []
    for entry in row:
        if entry.colour:
            meaning = Meaning("legend", level=entry.level)
            right = left + entry.width
            top, foot = baseline - _SWATCH - 1, baseline + 3
            places.append(Zone(left, top, right, foot, meaning))
            swatch = Meaning("swatch", level=entry.level)
            places.append(Zone(left - 1, top, left + _SWATCH + 1, foot, swatch))
        elif entry.part == "legend-title":
            right = left + entry.width
            place = (left, baseline - _SWATCH - 1, right, baseline + 3)
            places.append(Zone(*place, Meaning(entry.part)))
        left += entry.width + _BETWEEN
    return places
