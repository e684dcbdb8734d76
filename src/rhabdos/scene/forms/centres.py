"""Lines at the mean and the median of each group, through all of a frame, with their values above
it."""

import numpy as np
from msgspec import Struct

from rhabdos.figure.readings import Readings
from rhabdos.figure.wording import places_for, rounded
from rhabdos.scene.marks import Frame, Mark, Meaning, Segments, Text
from rhabdos.scene.palette import INK, group_colours
from rhabdos.scene.text import Measure

SIZE, ROW = 8.0, 10.5
_WIDTH = 1.0
_DASHES: dict[str, tuple[float, ...]] = {"mean": (4.0, 2.5), "median": ()}
_APART = 3.0
_MOST_ROWS = 6


class Centre(Struct, frozen=True):
    """One line: its place on the page and on the scale, and the row above the frame (from 0) of its
    words, if any."""

    x: float
    name: str
    group: int
    text: str
    row: int | None


def centres(
    readings: Readings, left: float, right: float, low: float, high: float, measure: Measure
) -> tuple[Centre, ...]:
    """The lines that a recipe asks for, from right to left, each with its words to the right of it.

    The further left a line is, the higher its words: so that no line has to pass through the words
    of another. Words that would need a seventh row are left out. So are lines beyond the limits.

    Parameters
    ----------
    left, right : float
        Ends of the value axis on the page, in points.
    low, high : float
        The values there.
    """
    asked = [name for name in ("mean", "median") if getattr(readings.recipe.lines, name)]
    if not asked:
        return ()
    lines = [
        (getattr(summary, name), name, group)
        for group, summary in enumerate(readings.summaries)
        for name in asked
        if low <= getattr(summary, name) <= high
    ]
    spread = max((summary.sd for summary in readings.summaries if summary.sd > 0), default=0.0)
    places = places_for(spread, max(abs(low), abs(high)))
    placed: list[Centre] = []
    free: list[
        float
    ] = []  # up to where words may reach in each row: the nearest line that goes up so far
    for value, name, group in sorted(lines, reverse=True):
        x = left + (value - low) / (high - low) * (right - left)
        text = f"{name} {rounded(value, places)}"
        end = x + _APART + measure(text, SIZE, False)
        row = next((row for row, limit in enumerate(free) if end + _APART <= limit), len(free))
        if row < _MOST_ROWS:
            free[row:] = [x] if row == len(free) else free[row:]
            free = [min(limit, x) if above <= row else limit for above, limit in enumerate(free)]
        placed.append(Centre(x, name, group, text, row if row < _MOST_ROWS else None))
    return tuple(placed)


def height_of(placed: tuple[Centre, ...]) -> float:
    """The room that words need above a frame, in points."""
    rows = [centre.row for centre in placed if centre.row is not None]
    return (max(rows) + 1) * ROW if rows else 0.0


def centre_lines(
    placed: tuple[Centre, ...], readings: Readings, frame: Frame, right: float, measure: Measure
) -> list[Mark]:
    """A dashed line at each mean and a whole one at each median, up to its words; ``right`` ends
    the page."""
    colours = group_colours(len(readings.groups))
    marks: list[Mark] = []
    for centre in placed:
        meaning = Meaning("centre", centre.group)
        top = frame.top - (0.0 if centre.row is None else (centre.row + 1) * ROW - 2)
        line = np.array([[centre.x, top, centre.x, frame.bottom]])
        marks.append(
            Segments(line, colours[centre.group], _WIDTH, 1.0, meaning, _DASHES[centre.name])
        )
        if centre.row is not None:
            start = min(centre.x + _APART, right - measure(centre.text, SIZE, False))
            baseline = frame.top - centre.row * ROW - 3
            marks.append(Text(start, baseline, centre.text, SIZE, "start", INK, meaning))
    return marks
