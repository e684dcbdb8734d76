"""The axes: ticks with their labels, titles, and the grid behind the bars."""

import math
from functools import lru_cache

import numpy as np

from rhabdos.scene.marks import Frame, Mark, Meaning, Segments, Text
from rhabdos.scene.palette import HAIRLINE, INK
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


def height_ticks(
    tallest: float, page_height: float, whole: bool, room: float = ROOM_ABOVE
) -> tuple[Ticks, float]:
    """Ticks of the height axis, and where it ends: at a tick above the tallest bar if one is
    near."""
    reach = min((tallest or 1.0) * room, _HIGHEST)
    most = max(2, min(8, int(page_height / _POINTS_PER_TICK)))
    step = round_steps(reach / most, min(reach * 10, _HIGHEST), whole)[0]
    next_tick = step * math.ceil(reach / step)
    top = next_tick if next_tick <= _MOST_ROOM_ABOVE * reach else reach
    return ticks_by(0.0, top, step), top


def grid(frame: Frame, at: Ticks) -> Mark:
    """Hairlines across the frame at the ticks of the height axis."""
    levels = frame.ys(np.array([place for place in at.places if place > 0]))
    lines = np.column_stack(
        [np.full(len(levels), frame.left), levels, np.full(len(levels), frame.right), levels]
    )
    return Segments(lines, HAIRLINE, 0.6, 1.0, None)


def height_axis(frame: Frame, at: Ticks, title: list[str], left: float) -> list[Mark]:
    """Labels of the heights, and the axis title turned upright at ``left``."""
    meaning = Meaning("height-axis")
    levels = frame.ys(np.array(at.places)).tolist()
    x = frame.left - TICK - LABEL_GAP
    marks: list[Mark] = [
        Text(x, y + TICK_SIZE * 0.33, text, TICK_SIZE, "end", INK, meaning)
        for y, text in zip(levels, at.labels, strict=True)
    ]
    x = left + TITLE_SIZE - 1
    for line in title:
        marks.append(
            Text(
                x,
                (frame.top + frame.bottom) / 2,
                line,
                TITLE_SIZE,
                "middle",
                INK,
                meaning,
                angle=90,
            )
        )
        x += TITLE_ROW
    return marks


@lru_cache(maxsize=16)
def value_axis(
    left: float,
    right: float,
    base: float,
    low: float,
    high: float,
    title: tuple[str, ...],
    bottom: float,
    whole: bool,
    measure: Measure,
) -> tuple[Mark, ...]:
    """Base line, ticks and labels of the values, and the axis title; kept, since the axis mostly
    stands still.

    Parameters
    ----------
    left, right, base : float
        Ends and height of the axis on the page.
    low, high : float
        The values at its ends.
    bottom : float
        Base line of the title's last line.
    whole : bool
        Whether only whole numbers get ticks.
    """

    def fits(made: Ticks, step: float) -> bool:
        apart = step / (high - low) * (right - left)
        return all(
            measure(text, TICK_SIZE, False) + _BETWEEN_LABELS <= apart for text in made.labels
        )

    meaning = Meaning("value-axis")
    made = ticks(low, high, fits, whole)
    xs = [left + (place - low) / (high - low) * (right - left) for place in made.places]
    lines = [[left, base, right, base], *([x, base, x, base + TICK] for x in xs)]
    marks: list[Mark] = [Segments(np.array(lines), INK, 0.8, 1.0, meaning)]
    for x, text in zip(xs, made.labels, strict=True):
        marks.append(Text(x, base + TICK + TICK_SIZE + 1, text, TICK_SIZE, "middle", INK, meaning))
    y = bottom - (len(title) - 1) * TITLE_ROW
    for line in title:
        marks.append(Text((left + right) / 2, y, line, TITLE_SIZE, "middle", INK, meaning))
        y += TITLE_ROW
    return tuple(marks)
