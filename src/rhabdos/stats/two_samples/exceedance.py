"""How often a random member of one sample exceeds one of another, and where the two part most."""

import math
from collections.abc import Iterator
from typing import Protocol

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.two_samples.comparing import Estimate
from rhabdos.stats.two_samples.shifting import thinned

_MOST_READ, _READ = 1_000_000, 30_000  # values that are read, and that stand for more of them
_LEAST_RANKED = 10  # values of either sample, below which the interval of ranks does not hold


class Ahead(Struct, frozen=True):
    """How often a random member of a sample lies above, or level with, one of the reference, and
    how far ECDFs part.

    Attributes
    ----------
    above, level : float
        Shares of all pairs.
    distance, at : float
        The largest difference of the two cumulative shares, and the value at which it is first
        reached.
    """

    above: float
    level: float
    distance: float
    at: float

    @property
    def exceeds(self) -> float:
        """The chance that a member of the first exceeds one of the second."""
        return self.above + self.level / 2

    @property
    def delta(self) -> float:
        """Cliff's delta: how much more often one exceeds than the other."""
        return 2 * self.above + self.level - 1


def ahead(sample: Ordered, reference: Ordered) -> Ahead:
    """Compare every member of one sample with every member of the other, in one pass over
    either; of more than a million values, 30,000 evenly spaced in rank stand for all.

    Parameters
    ----------
    sample, reference : Ordered
        The group and the one that it is compared with, in the same unit.
    """
    if not sample.n or not reference.n:
        return Ahead(math.nan, math.nan, math.nan, math.nan)
    ours, theirs = _read(sample), _read(reference)
    n, m = ours.n, theirs.n
    above = level = 0.0
    parted, at = -1.0, math.nan

    def part(values: FloatArray, up: IntArray, up_theirs: IntArray) -> None:
        """How far the shares part at one stretch of values."""
        nonlocal parted, at
        gaps = np.abs(up / n - up_theirs / m)
        furthest = int(gaps.argmax())
        if gaps[furthest] > parted or (gaps[furthest] == parted and values[furthest] < at):
            parted, at = float(gaps[furthest]), float(values[furthest])

    for values, cases in ours.pieces():
        times = np.ones(len(values)) if cases is None else np.asarray(cases, np.float64)
        less = theirs.about_below(values)
        upto = _upto(theirs, values, less)
        above += float(np.dot(less, times))
        level += float(np.dot(upto - less, times))
        part(values, ours.about_below(values, inclusive=True), upto)
    for values, _ in theirs.pieces():
        part(
            values,
            ours.about_below(values, inclusive=True),
            theirs.about_below(values, inclusive=True),
        )
    return Ahead(above / n / m, level / n / m, parted, at)


class _Readable(Protocol):
    """What pairs are counted of: a sample, or values that stand for one."""

    @property
    def n(self) -> int:
        """How many values there are."""

    def about_below(self, points: FloatArray, *, inclusive: bool = False) -> IntArray:
        """How many are less than each point, or at most it."""
        ...

    def at(self, ranks: IntArray) -> FloatArray:
        """Values at ranks."""

    def pieces(self) -> Iterator[tuple[FloatArray, IntArray | None]]:
        """All values, and how many cases each stands for."""


class _Spread(Struct, frozen=True, eq=False):
    """Values in rising order that stand for a long sample."""

    values: FloatArray

    @property
    def n(self) -> int:
        """How many values there are."""
        return len(self.values)

    def about_below(self, points: FloatArray, *, inclusive: bool = False) -> IntArray:
        """How many are less than each point, or at most it."""
        counted: IntArray = self.values.searchsorted(points, "right" if inclusive else "left")
        return counted

    def at(self, ranks: IntArray) -> FloatArray:
        """Values at ranks."""
        values: FloatArray = self.values[ranks]
        return values

    def pieces(self) -> Iterator[tuple[FloatArray, IntArray | None]]:
        """All values, each once."""
        yield self.values, None


def _read(sample: Ordered) -> _Readable:
    """A sample, or fewer values that stand for it."""
    return sample if sample.n <= _MOST_READ else _Spread(thinned(sample, _READ))


def _upto(sample: _Readable, values: FloatArray, less: IntArray) -> IntArray:
    """How many of a sample are at most each value, where so many are less: only values that are
    in the sample are searched for again."""
    level = (less < sample.n) & (sample.at(np.minimum(less, sample.n - 1)) == values)
    if not level.any():
        return less
    upto = less.copy()  # what ties add comes on top of it
    upto[level] = sample.about_below(values[level], inclusive=True)
    return upto


def exceedance(sample: Ordered, reference: Ordered, found: Ahead, confidence: float) -> Estimate:
    """How often a random member exceeds one of the reference, with the interval of its ranks.

    Each value's place among those of the other sample has a variance; with Welch's degrees of
    freedom they give an interval of the log odds (Brunner and Munzel 2000), which stays between 0
    and 1. Spreads and shapes may differ. Of samples beyond 10,000 values, 10,000 evenly spaced in
    rank stand for all.

    Parameters
    ----------
    sample, reference : Ordered
        The group and the one that it is compared with, in the same unit.
    found : Ahead
        Of the two.
    confidence : float
        Of the interval, between 0 and 1, such as 0.95.
    """
    n, m, value = sample.n, reference.n, found.exceeds
    if min(n, m) < _LEAST_RANKED:
        lack = f"An interval needs {_LEAST_RANKED} values in either group; these have {n} and {m}."
        return Estimate(value, math.nan, math.nan, lack if n and m else "")
    from scipy.special import expit, logit, stdtrit

    ours, theirs = thinned(sample), thinned(reference)
    first, second = _rank_error(ours, theirs) / n, _rank_error(theirs, ours) / m
    if not 0 < value < 1 or not first + second:
        lack = "All pairs are in one order, which shows no variation."
        return Estimate(value, math.nan, math.nan, lack)
    freedom = (first + second) ** 2 / (first**2 / (n - 1) + second**2 / (m - 1))
    error = math.sqrt(first + second) / (value * (1 - value))
    reach = float(stdtrit(freedom, (1 + confidence) / 2)) * error
    odds = float(logit(value))
    return Estimate(value, float(expit(odds - reach)), float(expit(odds + reach)))


def _rank_error(values: FloatArray, others: FloatArray) -> float:
    """The variance of where values lie among others, as shares of these."""
    below = others.searchsorted(values, "left") + others.searchsorted(values, "right")
    return float(np.var(below / (2 * len(others)), ddof=1))
