"""Words beside lanes: their names with n, and the numbers that boxes are asked to show."""

from collections.abc import Sequence

from msgspec import Struct

from rhabdos.figure.ordering import VARIABLE
from rhabdos.figure.readings import Readings, shown_lines, shown_name, size_words
from rhabdos.scene.marks import Mark, Meaning, Text
from rhabdos.scene.plane import Frame, Lane
from rhabdos.scene.style import Style
from rhabdos.scene.text import Measure, shortened, wrapped

SIZE = 8.5
_ROW = 10.5
_FACTOR = 7.5
_WIDEST = 0.27  # of the page's width that names take at the left …
_HIGHEST = 0.30  # … and of its height at the bottom
_GAP = 7.0
_SMALLEST = 3.0
_WRITTEN, _WRITTEN_ROW = 7.5, 9.5
_MEANING = Meaning("lane")


class LaneNames(Struct, frozen=True):
    """The lines beside each lane, and the room they take.

    Attributes
    ----------
    lines : tuple of tuple of str
        For each lane; where they are ``sized``, the last one is its n.
    factor : str
        What the levels are levels of.
    """

    lines: tuple[tuple[str, ...], ...] = ()
    factor: str = ""
    size: float = SIZE
    turned: bool = False
    width: float = 0.0
    height: float = 0.0
    sized: bool = True

    def bold(self, number: int, lines: Sequence[str]) -> bool:
        """Whether a line of a lane is its name, and stands out from its n."""
        return number < len(lines) - 1 if self.sized else self.size == SIZE


def _rows(*lines: str) -> tuple[str, ...]:
    """Lines one under the other, without an n that is not told."""
    return lines if lines[-1] else lines[:-1]


def _labels(readings: Readings) -> list[tuple[str, str]]:
    """Name and n of each lane; of several panels, which all have other sizes, no n."""
    plan = readings.plan
    if len(plan.panels) > 1:
        return [(shown_lines(readings, lane.label) or "“ ”", "") for lane in plan.lanes]
    named = []
    for number, lane in enumerate(plan.lanes):
        all_panels = (panel.lanes[number].groups for panel in plan.panels)
        groups = [group.place for of_panel in all_panels for group in of_panel]
        named.append((shown_lines(readings, lane.label) or "“ ”", size_words(readings, groups)))
    return named


def _factor(readings: Readings) -> str:
    laned = readings.plan.laned
    return shown_name(readings, laned.label) if laned and laned.name != VARIABLE else ""


def _in_one_line(named: Sequence[tuple[str, str]]) -> list[str]:
    return [name.replace("\n", " ") for name, _ in named]


def told_apart(
    names: Sequence[str],
    rooms: Sequence[float],
    size: float,
    measure: Measure,
    bold: bool = False,
) -> list[str]:
    """Names cut to their rooms: at their ends, or where these are alike, in their middles."""
    cut = [
        shortened(name, room, size, bold, measure) for name, room in zip(names, rooms, strict=True)
    ]
    if len(set(cut)) == len(set(names)):
        return cut
    return [
        _cut_within(name, room, size, measure, bold)
        for name, room in zip(names, rooms, strict=True)
    ]


def _cut_within(name: str, room: float, size: float, measure: Measure, bold: bool) -> str:
    """As much of both ends of a name as fits around "…", more of its end than of its beginning."""
    if measure(name, size, bold) <= room:
        return name
    for kept in range(len(name) - 1, 1, -1):
        head = kept // 3
        text = f"{name[:head].rstrip()}…{name[len(name) - (kept - head) :].lstrip()}"
        if measure(text, size, bold) <= room:
            return text
    return "…"


def at_left(readings: Readings, page_width: float, extent: float, measure: Measure) -> LaneNames:
    """Names beside lying lanes: over their n where there is room, else before it."""
    plan = readings.plan
    each = extent / len(plan.lanes)
    if len(plan.lanes) == 1 or each < _SMALLEST:  # nobody could read them: pointing tells
        return LaneNames()
    most = page_width * _WIDEST
    two_rows = each >= 2.2 * _ROW
    size = SIZE if two_rows else max(_SMALLEST, min(SIZE, 0.82 * each))
    named = _labels(readings)
    lines: list[tuple[str, ...]]
    broken = [tuple(wrapped(name, most, size, True, measure, 2)) for name, _ in named]
    if each >= 3.3 * _ROW and len(set(broken)) == len({name for name, _ in named}):
        lines = [_rows(*rows, n) for rows, (_, n) in zip(broken, named, strict=True)]
    else:
        ends = ["" if two_rows or not n else f"  {n}" for _, n in named]
        rooms = [most - measure(end, size, False) for end in ends]
        cut = told_apart(_in_one_line(named), rooms, size, measure, two_rows)
        both = zip(cut, ends, named, strict=True)
        lines = [_rows(name, n) if two_rows else (name + end,) for name, end, (_, n) in both]
    sized = bool(named[0][1])
    wide = max(
        measure(line, size, len(texts) > 1 or not sized) for texts in lines for line in texts
    )
    factor = shortened(_factor(readings), most, _FACTOR, False, measure)
    wide = max(wide, measure(factor, _FACTOR, False))
    return LaneNames(tuple(lines), factor, size, False, wide + _GAP, sized=sized)


def at_bottom(readings: Readings, extent: float, page_height: float, measure: Measure) -> LaneNames:
    """Names under standing lanes: level where they have room, else turned."""
    plan = readings.plan
    each = extent / len(plan.lanes) - 4
    if len(plan.lanes) == 1 or each + 4 < _SMALLEST:
        return LaneNames()
    named = _labels(readings)
    sized = bool(named[0][1])
    level = [_rows(*wrapped(name, each, SIZE, True, measure, 2), n) for name, n in named]
    factor = shortened(_factor(readings), extent, SIZE, False, measure)
    under = _ROW if factor else 2.0
    fits = all(
        measure(line, SIZE, True) <= each and not line.endswith("…")
        for texts in level
        for line in texts
    )
    if fits:
        rows = max(len(texts) for texts in level)
        height = rows * _ROW + 4 + under
        return LaneNames(tuple(level), factor, SIZE, False, 0.0, height, sized)
    size = max(_SMALLEST, min(SIZE, 0.85 * (each + 4)))
    most = page_height * _HIGHEST
    ends = [f"  {n}" if n else "" for _, n in named]
    rooms = [most - measure(end, size, False) for end in ends]
    cut = told_apart(_in_one_line(named), rooms, size, measure)
    turned = [(name + end,) for name, end in zip(cut, ends, strict=True)]
    longest = max(measure(line, size, False) for texts in turned for line in texts)
    return LaneNames(tuple(turned), factor, size, True, 0.0, longest + 6 + under, sized)


def left_marks(
    names: LaneNames, frame: Frame, right: float, titled: bool, style: Style
) -> list[Mark]:
    """The names of lying lanes, right against ``right``; the factor over them where ``titled``."""
    marks: list[Mark] = []
    x = right - _GAP
    if names.factor and titled:
        y = frame.top - 2
        marks.append(Text(x, y, names.factor, _FACTOR, "end", style.quiet, _MEANING))
    for lane, lines in zip(frame.lanes, names.lines, strict=False):
        # Lanes can turn out narrower than they were when their names were set.
        row = min(names.size * _ROW / SIZE, (lane.last - lane.first) / len(lines))
        size = row * SIZE / _ROW
        if size < _SMALLEST:
            continue
        base = (lane.first + lane.last) / 2 - (len(lines) / 2 - 0.78) * row
        for number, line in enumerate(lines):
            bold = names.bold(number, lines)
            colour = style.ink if bold or len(lines) == 1 else style.quiet
            y = base + number * row
            marks.append(Text(x, y, line, size, "end", colour, _MEANING, bold))
    return marks


def bottom_marks(names: LaneNames, frame: Frame, top: float, style: Style) -> list[Mark]:
    """The names of standing lanes below ``top``."""
    marks: list[Mark] = []
    for lane, lines in zip(frame.lanes, names.lines, strict=False):
        middle = (lane.first + lane.last) / 2
        if names.turned:
            x = middle + names.size * 0.33
            y = top + 4
            marks += [
                Text(x, y, line, names.size, "end", style.ink, _MEANING, angle=90) for line in lines
            ]
            continue
        for number, line in enumerate(lines):
            bold = names.bold(number, lines)
            colour = style.ink if bold else style.quiet
            y = top + 2 + (number + 0.85) * _ROW
            marks.append(Text(middle, y, line, names.size, "middle", colour, _MEANING, bold))
    return marks


def factor_mark(names: LaneNames, frames: Sequence[Frame], top: float, style: Style) -> list[Mark]:
    """What standing lanes are levels of, once under all frames; their names begin at ``top``."""
    if not names.factor:
        return []
    left, right = min(f.left for f in frames), max(f.right for f in frames)
    y = top + names.height - 2
    return [Text((left + right) / 2, y, names.factor, SIZE, "middle", style.ink, _MEANING)]


# Numbers beside boxes


def _asked(readings: Readings) -> bool:
    return bool(readings.recipe.box.numbers) and "box" in readings.plan.strips


def _beside(readings: Readings, group: int, extent: float) -> list[str]:
    """The numbers beside a lying box, in one line where lanes are too thin for several."""
    from rhabdos.figure.forms.box import written  # which no figure without boxes waits for

    texts = written(readings, group)
    thin = extent / len(readings.plan.panels[0].groups) < len(texts) * _WRITTEN_ROW
    return ["  ".join(texts)] if thin and texts else texts


def written_width(readings: Readings, extent: float, page_width: float, measure: Measure) -> float:
    """The room that numbers beside lying boxes take at the right, in points.

    ``extent`` is that of all lanes together. Numbers get smaller where they would take more than
    their share of the page.
    """
    if not _asked(readings):
        return 0.0
    texts = [text for group in readings.groups for text in _beside(readings, group.place, extent)]
    wide = max((measure(text, _WRITTEN, False) + _GAP for text in texts), default=0.0)
    return min(wide, _WIDEST * page_width)


def written_height(readings: Readings) -> float:
    """The room that numbers over standing boxes take at the top, in points."""
    rows = len(set(readings.recipe.box.numbers)) if _asked(readings) else 0
    return rows * _WRITTEN_ROW + 2 if rows else 0.0


def _boxed(frame: Frame) -> list[tuple[Lane, int, float]]:
    """Lane, group and middle of each box."""
    return [
        (lane, strip.group, strip.band.middle)
        for lane in frame.lanes
        for strip in lane.strips
        if strip.form == "box"
    ]


def _rooms(boxed: Sequence[tuple[Lane, int, float]]) -> list[float]:
    """How far from each box the next one in its lane is; alone, the lane's extent."""
    rooms = []
    for lane, group, middle in boxed:
        others = [abs(place - middle) for other, g, place in boxed if other is lane and g != group]
        rooms.append(min(others, default=lane.last - lane.first))
    return rooms


def written_right(
    readings: Readings, frame: Frame, extent: float, most: float, measure: Measure, style: Style
) -> list[Mark]:
    """Numbers at the right of each lying box, one under the other where its lane has room.

    ``most`` is the room that they take there, in points.
    """
    if not _asked(readings):
        return []
    marks: list[Mark] = []
    boxed = _boxed(frame)
    for (lane, group, middle), room in zip(boxed, _rooms(boxed), strict=True):
        texts = _beside(readings, group, extent)
        wide = max((measure(text, _WRITTEN, False) for text in texts), default=1.0)
        level = _WRITTEN * (most - _GAP) / wide
        size = min(_WRITTEN, level, 0.75 * room / max(1, len(texts)))
        if size < _SMALLEST:  # where nobody could read them, pointing tells
            continue
        row = size * _WRITTEN_ROW / _WRITTEN
        alone = room == lane.last - lane.first
        centre = min(middle, lane.last - row * len(texts) / 2) if alone else middle
        base = centre - (len(texts) / 2 - 0.78) * row
        for number, text in enumerate(texts):
            x, y = frame.right + _GAP, base + number * row
            meaning = Meaning("box", group)
            marks.append(Text(x, y, text, size, "start", style.ink, meaning))
    return marks


def written_top(readings: Readings, frame: Frame, style: Style, measure: Measure) -> list[Mark]:
    """Numbers over each standing box, as small as its lane asks for."""
    if not _asked(readings):
        return []
    from rhabdos.figure.forms.box import written

    marks: list[Mark] = []
    boxed = _boxed(frame)
    for (lane, group, middle), room in zip(boxed, _rooms(boxed), strict=True):
        texts = written(readings, group)
        alone = room == lane.last - lane.first
        centre = (lane.first + lane.last) / 2 if alone else middle
        wide = max((measure(text, _WRITTEN, False) for text in texts), default=0.0)
        size = min(_WRITTEN, _WRITTEN * (room - 3) / wide if wide else _WRITTEN)
        if size < _SMALLEST:  # where nobody could read them, pointing tells
            continue
        base = frame.top - written_height(readings) + 0.8 * _WRITTEN_ROW
        for number, text in enumerate(texts):
            y = base + number * _WRITTEN_ROW
            meaning = Meaning("box", group)
            marks.append(Text(centre, y, text, size, "middle", style.ink, meaning))
    return marks
