"""Numbers that boxes are asked to show: at the right of lying ones, over standing ones."""

from collections.abc import Sequence

from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.coordinates import Frame, Lane
from rhabdos.scene.marks import Mark, Meaning, Text
from rhabdos.scene.style.lettering import Measure
from rhabdos.scene.style.style import Style

_WIDEST = 0.27  # of the page’s width that numbers take at the right
_GAP = 7.0  # points from box to number
_SMALLEST = 3.0  # points of a box that has its numbers written
_WRITTEN, _WRITTEN_ROW = 7.5, 9.5  # points of letters and of a row


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
    texts = [text for group in readings.groups for text in _beside(readings, group.index, extent)]
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
