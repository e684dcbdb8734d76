"""A sample in a few numbers."""

import math
from collections.abc import Callable

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.memo import memoised
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import QuartileRule, quartiles

_Values = Callable[[IntArray], FloatArray]
TRIMMED = 0.1  # of the values at either end
"""Share of the values that a trimmed mean leaves out at either end."""


class Summary(Struct, frozen=True):
    """Location, spread and shape of one sample; NaN where there are too few values.

    In the variable's unit: ``mean``, ``sd`` (divisor n - 1), its standard error ``se``, ``min`` …
    ``max``, ``iqr``, the median of distances from the median ``mad`` (not rescaled), and
    ``trimmed_mean``. Without a unit: ``skewness`` and excess ``kurtosis``, both adjusted for n, and
    ``cv``, the sd as a share of the mean.
    """

    n: int
    mean: float
    sd: float
    skewness: float
    kurtosis: float
    trimmed_mean: float
    mad: float
    min: float
    q1: float
    median: float
    q3: float
    max: float

    @property
    def iqr(self) -> float:
        """The distance between the quartiles."""
        return self.q3 - self.q1

    @property
    def variance(self) -> float:
        """The square of the sd."""
        return self.sd * self.sd

    @property
    def se(self) -> float:
        """The standard error of the mean."""
        return self.sd / math.sqrt(self.n) if self.n else math.nan

    @property
    def cv(self) -> float:
        """The sd as a share of the mean."""
        return self.sd / abs(self.mean) if self.mean else math.nan


@memoised  # table, sentence, notices and lines of a figure ask for the same
def summarise(sample: Ordered, rule: QuartileRule = 7) -> Summary:
    """Summarise a sample of any size, also of none; ``rule`` tells which quartiles.

    Parameters
    ----------
    sample : Ordered
        In any unit; numbers that need more values than it has are NaN.
    rule : 1 … 9 or "hinges"
        Which definition of quartiles.
    """
    n, nan = sample.n, math.nan
    if not n:
        return Summary(0, *(nan,) * 11)
    moments = sample.moments
    sd = moments.norm / math.sqrt(n - 1) if n > 1 else nan
    q1, median, q3 = quartiles(sample, rule)
    cut = math.floor(TRIMMED * n)
    return Summary(
        n,
        moments.mean,
        sd,
        _skewness(sample),
        _kurtosis(sample),
        sample.mean_of(cut, n - cut),
        _mad(sample),
        sample.minimum,
        q1,
        median,
        q3,
        sample.maximum,
    )


def _skewness(sample: Ordered) -> float:
    """The adjusted third standardised moment, G1 of Joanes and Gill (1998)."""
    n, moments = sample.n, sample.moments
    if n < 3 or not moments.norm:
        return math.nan
    return math.sqrt(n) * (moments.cube / moments.norm) ** 3 * math.sqrt(n * (n - 1)) / (n - 2)


def _kurtosis(sample: Ordered) -> float:
    """The adjusted fourth standardised moment less that of a normal shape, G2 of Joanes and Gill
    (1998)."""
    n, moments = sample.n, sample.moments
    if n < 4 or not moments.norm:
        return math.nan
    excess = n * (moments.fourth / moments.norm) ** 4 - 3
    return ((n + 1) * excess + 6) * (n - 1) / ((n - 2) * (n - 3))


def _mad(sample: Ordered) -> float:
    """Median of the distances from the median, which lie in order to either side of it."""
    n = sample.n
    low, high = sample.at(np.array([(n - 1) // 2, n // 2]))
    median = float(low / 2 + high / 2)
    left = int(sample.below(np.array([median]))[0])
    ranks = {(n - 1) // 2, n // 2}
    return math.fsum(_distance(sample, median, left, rank) / len(ranks) for rank in sorted(ranks))


def _distance(sample: Ordered, centre: float, left: int, rank: int) -> float:
    """The distance from ``centre`` at a rank, where ``left`` values lie below it.

    By halving: of the ``rank`` smaller distances some lie to the left; the fewest that leave no
    smaller one unused there are sought. On the way values are known well enough; where it ends they
    are asked for, and the way is gone once more where that told another one.
    """
    right = sample.n - left

    def to_left(count: int, at: _Values) -> float:
        """The distance of the value that is ``count`` places further left than the nearest."""
        return centre - float(at(np.array([left - 1 - count]))[0]) if count < left else math.inf

    def to_right(count: int, at: _Values) -> float:
        """The distance of values above the median."""
        return float(at(np.array([left + count]))[0]) - centre if count < right else math.inf

    def fewest_left() -> int:
        """How many of the smaller distances lie to the left."""
        fewest, most = max(0, rank - right), min(rank, left)
        while fewest < most:
            middle = (fewest + most) // 2
            nearer = to_left(middle, sample.about_at)
            if nearer < to_right(rank - middle - 1, sample.about_at):
                fewest = middle + 1
            else:
                most = middle
        return fewest

    while True:
        fewest = fewest_left()
        for count in (fewest - 1, fewest):  # the last that is nearer, and the first that is not
            if count >= 0:
                to_left(count, sample.at)
                to_right(rank - count - 1, sample.at) if rank > count else None
        distance = min(to_left(fewest, sample.at), to_right(rank - fewest, sample.at))
        if fewest_left() == fewest:
            return distance
