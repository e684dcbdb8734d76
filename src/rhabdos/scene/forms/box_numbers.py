"""Numbers that boxes are asked to show: at the right of lying ones, over standing ones; or as a
table, whose columns stand at the right, or whose rows lie beneath."""

from collections.abc import Sequence

from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.coordinates import Frame, Lane
from rhabdos.scene.marks import Mark, Meaning, Text
from rhabdos.scene.style.lettering import Measure, shortened
from rhabdos.scene.style.style import Style

_WIDEST = 0.27  # of the page’s width that numbers take at the right …
_WIDEST_TABLE = 0.4  # … and a table of them
_GAP = 7.0  # points from box to number
_SMALLEST = 3.0  # points of a box that has its numbers written
_WRITTEN, _WRITTEN_ROW = 7.5, 9.5  # points of letters and of a row


def _asked(readings: Readings) -> bool:
    return bool(readings.recipe.box.numbers) and "box" in readings.plan.strips


def in_table(readings: Readings) -> bool:
    """Whether numbers stand in a table, under or beside what they are."""
    return _asked(readings) and readings.recipe.box.numbers_as == "table"


def _titles(readings: Readings) -> list[str]:
    from rhabdos.figure.forms.box import NUMBER_TITLES

    return [NUMBER_TITLES[asked] for asked in dict.fromkeys(readings.recipe.box.numbers)]


def table_height(readings: Readings, upright: bool) -> float:
    """The room of a table's rows under standing boxes, or of its heads over lying ones, in
    points."""
    if not in_table(readings):
        return 0.0
    return len(_titles(readings)) * _WRITTEN_ROW + 3 if upright else _WRITTEN_ROW


def titles_width(readings: Readings, measure: Measure) -> float:
    """The room for what the rows of a table beneath boxes are, at their left, in points."""
    if not in_table(readings):
        return 0.0
    return max(measure(title, _WRITTEN, False) for title in _titles(readings)) + 5.0


def _columns(readings: Readings, measure: Measure) -> list[float]:
    """How wide each column of a table beside lying boxes is, in points."""
    from rhabdos.figure.forms.box import written

    rows = [texts for group in readings.groups if (texts := written(readings, group.index))]
    return [
        max(measure(text, _WRITTEN, False) for text in (title, *(row[at] for row in rows))) + _GAP
        for at, title in enumerate(_titles(readings))
    ]


def table_beneath(
    readings: Readings, frame: Frame, top: float, left: float, measure: Measure, style: Style
) -> list[Mark]:
    """Rows of numbers under standing boxes, each under its box, from ``top`` down.

    ``left`` is where the room for what the rows are begins.
    """
    if not in_table(readings):
        return []
    from rhabdos.figure.forms.box import written

    marks: list[Mark] = []
    bases = [top + (row + 0.85) * _WRITTEN_ROW for row in range(len(_titles(readings)))]
    room = frame.left - left - 3
    for title, base in zip(_titles(readings), bases, strict=True):
        shown = shortened(title, room, _WRITTEN, False, measure)
        if shown:
            x = frame.left - 4
            marks.append(Text(x, base, shown, _WRITTEN, "end", style.quiet, Meaning("box")))
    boxed = _boxed(frame)
    for (lane, group, middle), apart in zip(boxed, _rooms(boxed), strict=True):
        texts = written(readings, group)
        alone = apart == lane.last - lane.first
        centre = (lane.first + lane.last) / 2 if alone else middle
        wide = max((measure(text, _WRITTEN, False) for text in texts), default=0.0)
        size = min(_WRITTEN, _WRITTEN * (apart - 3) / wide if wide else _WRITTEN)
        if size < _SMALLEST:
            continue
        for text, base in zip(texts, bases, strict=False):
            meaning = Meaning("box", group)
            marks.append(Text(centre, base, text, size, "middle", style.ink, meaning))
    return marks


def table_beside(
    readings: Readings, frame: Frame, most: float, measure: Measure, style: Style
) -> list[Mark]:
    """Columns of numbers at the right of lying boxes, with their heads over the first."""
    columns = _columns(readings, measure)
    shrunk = min(1.0, most / sum(columns)) if columns else 1.0
    from rhabdos.figure.forms.box import written

    ends: list[float] = []
    x = frame.right
    for wide in columns:
        x += wide * shrunk
        ends.append(x)
    marks: list[Mark] = [
        Text(end, frame.top - 3, title, _WRITTEN * shrunk, "end", style.quiet, Meaning("box"))
        for end, title in zip(ends, _titles(readings), strict=True)
    ]
    boxed = _boxed(frame)
    for (_, group, middle), room in zip(boxed, _rooms(boxed), strict=True):
        size = min(_WRITTEN * shrunk, 0.75 * room)
        if size < _SMALLEST:
            continue
        base = middle + 0.34 * size
        for end, text in zip(ends, written(readings, group), strict=False):
            marks.append(Text(end, base, text, size, "end", style.ink, Meaning("box", group)))
    return marks


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
    if in_table(readings):
        return min(sum(_columns(readings, measure)), _WIDEST_TABLE * page_width)
    texts = [text for group in readings.groups for text in _beside(readings, group.index, extent)]
    wide = max((measure(text, _WRITTEN, False) + _GAP for text in texts), default=0.0)
    return min(wide, _WIDEST * page_width)


def written_height(readings: Readings) -> float:
    """The room that numbers over standing boxes take at the top, in points."""
    over = _asked(readings) and not in_table(readings)
    rows = len(set(readings.recipe.box.numbers)) if over else 0
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
        others = [abs(index - middle) for other, g, index in boxed if other is lane and g != group]
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
    if in_table(readings):
        return table_beside(readings, frame, most, measure, style)
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
    if not _asked(readings) or in_table(readings):
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
