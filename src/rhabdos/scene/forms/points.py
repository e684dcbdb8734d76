"""The values themselves: stacks of dots, or dots spread by chance across their strip."""

import math
from collections.abc import Sequence
from typing import cast

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.coordinates import Band, Frame
from rhabdos.scene.forms.form import Drawing, Layers, SceneForm
from rhabdos.scene.marks import Dots, Mark, Meaning, Shape
from rhabdos.stats.ordered import Ordered

_ROOM = 0.03  # of the span of the values, left free at either end of the axis
_LEAST = 1.1  # points across, of the smallest dot
_CROWDED = 0.6  # of a strip's area, which dots cover at most
_MOST = 4_000  # dots a group
_LARGEST = 4.5  # points across a dot of few values


class Cloud(Struct, frozen=True, eq=False):
    """Dots of one group: their places along and across, their size, and of how many values."""

    along: FloatArray
    across: FloatArray
    size: float
    of: int


def padded_reach(readings: Readings, groups: Sequence[int]) -> tuple[float, float] | None:
    """All values of some groups, with a little room at either end, as the axis shows it."""
    samples = [readings.groups[group].sample for group in groups]
    filled = [sample for sample in samples if sample.n]
    if not filled:
        return None
    least, greatest = min(s.minimum for s in filled), max(s.maximum for s in filled)
    axis = readings.scale_of(groups[0]).axis
    if not axis.even and axis.admits(least):
        first, last = axis.place(least), axis.place(greatest)
        room = _ROOM * (last - first)
        low = axis.value(first - room)
        return max(low, 0.0) if axis.kind == "root" else low, axis.value(last + room)
    room = _ROOM * (greatest / 2 - least / 2) * 2
    low, high = least - room, greatest + room
    if not (math.isfinite(low) and math.isfinite(high)):
        return least, greatest
    return low, high


def _layers(drawing: Drawing, band: Band, groups: Sequence[int]) -> Layers:
    lines = []
    for group in drawing.in_front(groups):
        if not drawing.readings.groups[group].n:
            continue
        cloud = cloud_of(drawing, band, group)
        places = drawing.frame.points(cloud.along, cloud.across)
        colour, meaning = drawing.colours[group], Meaning("points", group)
        own = drawing.readings.recipe.points.colour
        if own is not None and drawing.readings.groups[group].forward:
            colour = own
        opacity = drawing.style.point_fill
        if drawing.readings.recipe.points.spread == "stacked":
            opacity = 1.0
        shape = cast(Shape, drawing.style.point_shape)
        if shape != "disc":
            opacity = 1.0
        lines.append(Dots(places, shape, cloud.size, colour, opacity, meaning, width=0.6))
    return [], list(lines)


def cloud_of(drawing: Drawing, band: Band, group: int) -> Cloud:
    """The dots of a group, as many as its strip can show."""
    sample = drawing.readings.groups[group].sample
    if drawing.readings.recipe.points.spread == "stacked":
        return _stacked(drawing, band, sample)
    return _jittered(drawing, band, sample, group)


def _jittered(drawing: Drawing, band: Band, sample: Ordered, group: int) -> Cloud:
    """Each value at its place, at a distance across that chance chose, by the recipe's seed."""
    frame, size = drawing.frame, drawing.style.point
    area = band.thickness * abs(frame.end - frame.start)
    most = max(1, min(_MOST, int(_CROWDED * area / (size * size))))
    values = _evenly(sample, most)
    chance = np.random.default_rng([drawing.readings.recipe.points.seed, group])
    spread = chance.random(len(values))
    inside = (values >= frame.low) & (values <= frame.high)
    values, spread = values[inside], spread[inside]
    margin = min(size, band.thickness) / 2 / (band.thickness or 1.0)
    across = band.ats(margin + (1 - 2 * margin) * spread)
    return Cloud(frame.alongs(values), across, size, sample.n)


def _evenly(sample: Ordered, most: int) -> FloatArray:
    """The values, or so many of them at evenly spaced ranks, both ends included."""
    if sample.n <= most:
        return sample.run(0, sample.n)
    ranks = np.linspace(0, sample.n - 1, most).round().astype(np.int64)
    return sample.about_at(np.unique(ranks))


def _stacked(drawing: Drawing, band: Band, sample: Ordered) -> Cloud:
    """Values closer than a dot is wide stand over one another, in their middle (Wilkinson 1999).

    Dots get smaller until the highest stack has room; then every stack is thinned alike, and none
    goes.
    """
    frame = drawing.frame
    size = min(_LARGEST, band.thickness)
    while True:
        middles, counts = _stacks(sample, frame, size)
        highest = int(counts.max(initial=1))
        room = max(1, int(band.thickness / size))
        if highest <= room or size <= _LEAST:
            break
        size = max(_LEAST, min(size * 0.85, size * math.sqrt(room / highest)))
    if highest > room:
        counts = np.maximum(1, np.floor(counts * (room / highest)).astype(np.int64))
    along = np.repeat(middles, counts)
    levels = np.concatenate([np.arange(count) for count in counts.tolist()] or [np.empty(0)])
    sign = 1.0 if band.tip > band.base else -1.0
    return Cloud(along, band.base + sign * size * (levels + 0.5), size, sample.n)


def _stacks(sample: Ordered, frame: Frame, size: float) -> tuple[FloatArray, IntArray]:
    """The middle of each stack along the axis, and how many values it holds."""
    rank = int(sample.below(np.array([frame.low]))[0])
    stop = int(sample.below(np.array([frame.high]), inclusive=True)[0])
    width = size / abs(frame.end - frame.start) * (frame.high - frame.low)
    onwards = -size if frame.reversed else size
    middles, counts = [], []
    while rank < stop:
        first = float(sample.at(np.array([rank]))[0])
        reach = frame.value(frame.along(first) + onwards) if not frame.axis.even else first + width
        after = int(sample.below(np.array([reach]))[0])
        after = min(stop, max(after, int(sample.below(np.array([first]), inclusive=True)[0])))
        last = float(sample.at(np.array([after - 1]))[0])
        middles.append((frame.along(first) + frame.along(last)) / 2)
        counts.append(after - rank)
        rank = after
    return np.array(middles), np.array(counts, dtype=np.int64)


def _note(readings: Readings, marks: Sequence[Mark]) -> str:
    """How many of the values are drawn, where the page cannot show them all."""
    drawn = (mark for mark in marks if isinstance(mark, Dots) and mark.meaning.part == "points")
    shown, total = sum(len(mark.places) for mark in drawn), readings.samples.pooled.n
    if shown >= total:
        return ""
    numbers = (readings.marked(f"{number:,}") for number in (shown, total))
    return f"{' of '.join(numbers)} values are drawn as points"


DRAWN = {"points": SceneForm(padded_reach, _layers, note=_note)}
