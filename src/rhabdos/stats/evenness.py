"""How evenly values fill the axis that they lie on."""

import math

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.memo import memoised
from rhabdos.stats.axis_scale import LINEAR_AXIS, AxisScale
from rhabdos.stats.ordered import Ordered

_MOST = 0.75  # of the values, whose shortest stretch is looked at
_TRIED = 400  # beginnings of such a stretch, at evenly spaced ranks …
_OF_MANY = 64  # … or so many, of more values than these:
_MANY = 1_000_000


@memoised  # every figure of the values asks, as soon as it is shown
def most_within(sample: Ordered, share: float) -> bool:
    """Whether some stretch with three quarters of the values takes less than a share of their span.

    Any such stretch holds the values between the first and the last quarter: where these alone lie
    wider apart, which two ranks tell, no stretch is looked for.
    """
    many = math.ceil(_MOST * sample.n)
    inner = sample.about_at(np.array([sample.n - many, many - 1])) / 2
    if inner[1] - inner[0] >= share * (sample.maximum / 2 - sample.minimum / 2) > 0:
        return False
    return stretch_of_most(sample) < share


@memoised  # goes through the whole sample
def stretch_of_most(
    sample: Ordered,
    axis: AxisScale = LINEAR_AXIS,
    low: float | None = None,
    high: float | None = None,
) -> float:
    """The share of an axis that the shortest stretch with three quarters of the values takes.

    It is 0.75 where values lie evenly, and near 0 where most of them crowd in a sliver; 1 where
    fewer than three quarters are shown, or all are equal.

    Parameters
    ----------
    sample : Ordered
        The values; all that are shown must have a place on the axis.
    axis : AxisScale
        What is even along it.
    low, high : float, optional
        Where it begins and ends, in the variable's unit; by default at the smallest and the largest
        value.
    """
    if sample.n < 2:
        return 1.0
    low = sample.minimum if low is None else low
    high = sample.maximum if high is None else high
    first = int(sample.below(np.array([low]))[0])
    last = int(sample.below(np.array([high]), inclusive=True)[0])
    many = math.ceil(_MOST * sample.n)
    if last - first < many or low >= high:
        return 1.0
    starts, ends = (axis.placed(each) for each in _stretches(sample, first, last - many, many))
    # Halved, since a span may pass the largest number.
    whole = axis.place(high) / 2 - axis.place(low) / 2
    if not whole:  # nearer to one another than numbers can tell
        return 1.0
    return float((ends / 2 - starts / 2).min() / whole)


@memoised  # the same on every axis
def _stretches(sample: Ordered, first: int, last: int, many: int) -> tuple[FloatArray, FloatArray]:
    """The first and the last values of stretches of so many, which begin between two ranks; of
    data that lie elsewhere about, since nothing is asked for a notice."""
    tried = _TRIED if sample.n <= _MANY else _OF_MANY
    begins = np.unique(np.linspace(first, last, tried).astype(np.int64))
    starts, ends = sample.about_at(np.stack([begins, begins + many - 1]))
    return starts, ends
