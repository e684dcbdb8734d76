"""The axes: ticks with their labels, titles and grids, at the bottom and at the left of a frame.

Which of the two measures values, and which heights, the plane decides.
"""

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from rhabdos.scene.marks import Mark, Meaning, Segments, Text
from rhabdos.scene.plane import Frame
from rhabdos.scene.style import Style
from rhabdos.scene.text import Measure
from rhabdos.scene.ticks import Ticks, ticks, ticks_by
from rhabdos.stats.rounding import round_steps

TITLE_SIZE, TICK_SIZE = 9.0, 8.5
TITLE_ROW = 11.5
TICK = 3.5
LABEL_GAP = 3.0  # between a tick and its label
ROOM_ABOVE = 1.02  # the axis reaches at least this much beyond the tallest bar …
_MOST_ROOM_ABOVE = 1.25  # … and to the next tick only if that is no further than this
_HIGHEST = 1.7e308  # where axes end, just short of the range of numbers
_POINTS_PER_TICK = 42
_BETWEEN_LABELS = 9.0
_PAST_THE_END = 8.0  # points by which a label may reach past the end of its axis
_LEAST_ROW = 2.2  # heights of a letter from one label to the next, one under the other


def height_ticks(
    tallest: float, extent: float, whole: bool, room: float = ROOM_ABOVE
) -> tuple[Ticks, float]:
    """Ticks of the height axis, and where it ends: at a tick above the tallest bar if one is
    near.

    Parameters
    ----------
    extent : float
        Of the page or the lane, in points.
    room : float
        How far the axis reaches beyond the tallest, at least.
    """
    reach = min((tallest or 1.0) * room, _HIGHEST)
    most = max(2, min(8, int(extent / _POINTS_PER_TICK)))
    ends = reach / most, min(reach * 10, _HIGHEST)
    # Curves may be less than one value high, where no whole number is a step.
    step = (round_steps(*ends, whole) or round_steps(*ends))[0]
    next_tick = step * math.ceil(reach / step)
    top = next_tick if next_tick <= _MOST_ROOM_ABOVE * reach else reach
    return ticks_by(0.0, top, step), top


@lru_cache(maxsize=64)  # the axis mostly stands still
def value_ticks(
    low: float,
    high: float,
    extent: float,
    upright: bool,
    whole: bool,
    measure: Measure,
    dates: bool = False,
) -> Ticks:
    """The closest round ticks of the value axis whose labels have room.

    Parameters
    ----------
    extent : float
        Of the axis, in points.
    upright : bool
        Whether labels stand one under the other.
    whole : bool
        Whether only whole numbers get ticks.
    dates : bool
        Whether values are days since 1970, and ticks are those of the calendar.
    """

    def fits(candidates: Ticks, step: float) -> bool:
        """Whether the labels have room beside one another."""
        apart = step / (high - low) * extent
        if upright:
            return apart >= _LEAST_ROW * TICK_SIZE
        labels = candidates.labels
        return all(measure(text, TICK_SIZE, False) + _BETWEEN_LABELS <= apart for text in labels)

    if dates:
        from rhabdos.scene.date_ticks import date_ticks

        along = date_ticks(low, high, fits)
        return along if upright else _within_the_page(along, low, high, extent, measure)
    return ticks(low, high, fits, whole)


def _within_the_page(
    found: Ticks, low: float, high: float, extent: float, measure: Measure
) -> Ticks:
    """The same ticks without the labels that would reach past the ends of the axis too far."""
    kept = []
    for place, label in zip(found.places, found.labels, strict=True):
        half = measure(label, TICK_SIZE, False) / 2
        at = (place - low) / (high - low) * extent
        kept.append(label if min(at, extent - at) + _PAST_THE_END >= half else "")
    return Ticks(found.places, tuple(kept))


def grid_along(frame: Frame, at: Sequence[float], style: Style) -> Mark:
    """Hairlines at values, across the whole frame."""
    places = frame.alongs(np.array(at))
    first, last = np.full(len(places), frame.first), np.full(len(places), frame.last)
    lines = frame.lines(places, first, places, last)
    return Segments(lines, style.hairline, style.grid_line, 1.0, None)


def grid_across(frame: Frame, levels: Sequence[float], style: Style) -> Mark:
    """Hairlines at places across, along the whole frame."""
    places = np.array(levels)
    start, end = np.full(len(places), frame.start), np.full(len(places), frame.end)
    return Segments(
        frame.lines(start, places, end, places), style.hairline, style.grid_line, 1.0, None
    )


def bottom_labels(
    xs: Sequence[float], labels: Sequence[str], base: float, meaning: Meaning, style: Style
) -> list[Text]:
    """Labels of ticks under an axis whose line lies at ``base``."""
    y = base + TICK + TICK_SIZE + 1
    return [
        Text(x, y, text, TICK_SIZE, "middle", style.ink, meaning)
        for x, text in zip(xs, labels, strict=True)
    ]


def left_labels(
    ys: Sequence[float], labels: Sequence[str], right: float, meaning: Meaning, style: Style
) -> list[Text]:
    """Labels of ticks beside an axis that stands at ``right``."""
    x = right - TICK - LABEL_GAP
    return [
        Text(x, y + TICK_SIZE * 0.33, text, TICK_SIZE, "end", style.ink, meaning)
        for y, text in zip(ys, labels, strict=True)
    ]


def bottom_title(
    lines: Sequence[str], middle: float, bottom: float, meaning: Meaning, style: Style
) -> list[Mark]:
    """The title of the axis at the bottom; the base line of its last line is at ``bottom``."""
    first = bottom - (len(lines) - 1) * TITLE_ROW
    return [
        Text(middle, first + row * TITLE_ROW, line, TITLE_SIZE, "middle", style.ink, meaning)
        for row, line in enumerate(lines)
    ]


def left_title(
    lines: Sequence[str], left: float, middle: float, meaning: Meaning, style: Style
) -> list[Mark]:
    """The title of the axis at the left, turned upright."""
    first = left + TITLE_SIZE - 1
    return [
        Text(
            first + row * TITLE_ROW,
            middle,
            line,
            TITLE_SIZE,
            "middle",
            style.ink,
            meaning,
            angle=90,
        )
        for row, line in enumerate(lines)
    ]


def outline(frame: Frame, style: Style) -> Mark:
    """A hairline around a frame."""
    left, top, right, bottom = frame.left, frame.top, frame.right, frame.bottom
    sides = [
        [left, top, right, top],
        [right, top, right, bottom],
        [right, bottom, left, bottom],
        [left, bottom, left, top],
    ]
    return Segments(np.array(sides), style.hairline, style.grid_line, 1.0, None)


@lru_cache(maxsize=64)  # the axis mostly stands still
def value_line(frame: Frame, at: Ticks, style: Style) -> Mark:
    """The line of the value axis with its ticks, at the bottom or left of a frame without lanes."""
    base, out = (frame.left, -TICK) if frame.upright else (frame.bottom, TICK)
    places = frame.alongs(np.array(at.places)) if at.places else np.empty(0)
    line = frame.lines(*(np.array([end]) for end in (frame.start, base, frame.end, base)))
    bases = np.full(len(places), base)
    marks = frame.lines(places, bases, places, bases + out)
    return Segments(
        np.vstack([line, marks]), style.ink, style.axis_line, 1.0, Meaning("value-axis")
    )
