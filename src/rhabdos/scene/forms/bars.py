"""Bars as silhouettes, filled or as an outline alone: one polygon a group, however many bins."""

from collections.abc import Sequence
from functools import partial

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.figure.readings import Readings
from rhabdos.scene.forms.form import HeightsForm, Layers
from rhabdos.scene.marks import Area, Frame, Mark, Meaning, Path, Segments
from rhabdos.scene.palette import PAPER

_NARROWEST_PARTED = (
    3.5  # points; closer bars are told apart by their steps alone, drawn as a hairline
)
_LINE, _HAIRLINE = 1.0, 0.35


def _reach(readings: Readings) -> tuple[float, float]:
    return readings.edges.low, readings.edges.high


def _tallest(readings: Readings) -> float:
    return readings.tallest


def _layers(readings: Readings, frame: Frame, colours: Sequence[str], *, filled: bool) -> Layers:
    fills: list[Mark] = []
    lines: list[Mark] = []
    xs = frame.xs(readings.edges.values)
    for group, (reading, colour) in enumerate(zip(readings.groups, colours, strict=True)):
        if reading.n:
            below, above = _silhouette(frame, xs, reading.heights, colour, group, len(colours))
            fills += below if filled else []
            lines += above if filled else above[-1:]
    return fills, lines


def _silhouette(
    frame: Frame, x: FloatArray, heights: FloatArray, colour: str, group: int, groups: int
) -> tuple[list[Mark], list[Mark]]:
    """Fills and lines of one group's bars; the lines of all groups belong above all fills.

    Parameters
    ----------
    x : array, shape (k + 1,)
        Where the edges lie, in points.
    heights : array, shape (k,)
        In the scale of the height axis.
    groups : int
        How many lie over one another: alone, bars are solid and parted by paper; together,
        see-through.
    """
    standing = np.flatnonzero(heights)
    if not len(standing):
        return [], []
    first, last = (
        standing[0],
        standing[-1],
    )  # a silhouette does not run along the base line beyond its bars
    x, heights = x[first : last + 2], heights[first : last + 1]
    y = frame.ys(heights)
    meaning = Meaning("bars", group)
    outline = np.empty((2 * len(heights) + 2, 2))
    outline[0] = x[0], frame.bottom
    outline[-1] = x[-1], frame.bottom
    outline[1:-1:2, 0], outline[2:-1:2, 0] = x[:-1], x[1:]
    outline[1:-1:2, 1] = outline[2:-1:2, 1] = y
    alone = groups == 1
    fill = 0.82 if alone else max(0.10, 0.34 - 0.03 * groups)
    lines: list[Mark] = []
    narrow = (x[-1] - x[0]) / len(heights) < _NARROWEST_PARTED
    if len(heights) > 1 and not narrow:
        lower = np.maximum(y[:-1], y[1:])
        met = lower < frame.bottom
        inner = x[1:-1][met]
        parting = np.column_stack([inner, np.full(len(inner), frame.bottom), inner, lower[met]])
        lines.append(
            Segments(parting, PAPER if alone else colour, 0.6, 1.0 if alone else 0.45, meaning)
        )
    lines.append(Path(outline, colour, _HAIRLINE if narrow else _LINE, 1.0, meaning))
    return [Area(outline, colour, fill, meaning)], lines


BARS = HeightsForm(_reach, _tallest, partial(_layers, filled=True))
OUTLINE = HeightsForm(_reach, _tallest, partial(_layers, filled=False))
