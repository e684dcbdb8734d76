"""The outline of a line that has a width.

Filling it takes a third of the time in which Qt strokes the same line, which it does piece by
piece.
"""

import math

import numpy as np

from rhabdos.arrays import BoolArray, FloatArray

# Widths of the line, past which a sharp turn has a flat end: where an SVG has it, whose limit is 4.
_LONGEST_TIP = math.sqrt(15) / 2


def stroked(points: FloatArray, width: float) -> FloatArray:
    """The corners of a line of some width, with mitred joins and flat ends.

    Parameters
    ----------
    points : array of shape (n, 2)
        Where the line goes, in any unit.
    width : float
        How wide it is, in the same unit.

    Returns
    -------
    array of shape (m, 2)
        One side and the other one back, to be filled wherever they wind around. No corners where
        the line has no length.
    """
    steps = np.diff(points, axis=0)
    lengths = np.hypot(steps[:, 0], steps[:, 1])
    if not lengths.all():
        moved = lengths > 0
        points = points[np.concatenate([[True], moved])]
        steps, lengths = steps[moved], lengths[moved]
    if not len(steps):
        return np.empty((0, 2))
    normals = steps[:, ::-1] / lengths[:, None] * (-1, 1) * (width / 2)
    before, after = np.concatenate([normals[:1], normals]), np.concatenate([normals, normals[-1:]])
    cosines = np.sum(before * after, axis=1) / (width / 2) ** 2
    with np.errstate(divide="ignore", invalid="ignore"):  # where it goes straight back
        meet = (before + after) / (1 + cosines)[:, None]
        tip = width / 2 * np.sqrt(np.maximum(1 - cosines, 0) / (1 + cosines))
    shortest = np.minimum(np.append(lengths, np.inf), np.insert(lengths, 0, np.inf))
    pointed = tip <= _LONGEST_TIP * width
    gentle = pointed & (tip <= shortest / 2)  # the edges of neighbours meet before they end
    if gentle.all():
        return np.concatenate([points + meet, (points - meet)[::-1]])
    leftwards = before[:, 0] * after[:, 1] > before[:, 1] * after[:, 0]
    left = _side(points, before, meet, after, gentle, leftwards, pointed)
    right = _side(points, -before, -meet, -after, gentle, ~leftwards, pointed)
    return np.concatenate([left, right[::-1]])


def _side(
    points: FloatArray,
    before: FloatArray,
    meet: FloatArray,
    after: FloatArray,
    gentle: BoolArray,
    inner: BoolArray,
    pointed: BoolArray,
) -> FloatArray:
    """One side of a line that turns sharply somewhere: there, each piece has its own corner. The
    inner ones are joined through the line itself, so that nothing is wound around backwards."""
    through = inner & ~gentle
    tips = points + np.where(through[:, None], 0.0, meet)
    corners = np.stack([points + before, tips, points + after], axis=1)
    kept = np.stack([~gentle, gentle | inner | pointed, ~gentle], axis=1)
    return corners[kept]
