"""The same cases measured twice: their differences, with intervals."""

import math
from functools import lru_cache

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.stats.two_samples.comparing import Estimate

_LEAST_SPREAD = 60  # pairs, from which spreads have an interval
_MOST_EXACT = 60  # differences, of which the rank interval is exact
_MOST_AVERAGED = 2_000  # differences; of more, so many evenly spaced in rank stand for all

ASSUMES_PAIRED = {
    "mean": "Independent pairs; a mean of differences that varies about normally.",
    "median": "The median of the differences, which is not the difference of the medians. "
    "Independent pairs; nothing about shapes.",
    "shift": "The median of the means of any two differences. Independent pairs; differences that "
    "lie alike to both sides of their middle.",
    "sd_ratio": "Independent pairs; nothing about shapes, but that squares of distances vary about "
    "normally: where tails are heavy the interval is less sure than it says.",
    "iqr_ratio": "Of pairs no interval is worked out.",
    "exceeds": "How often the one of a pair is the greater; equal ones count half. Independent "
    "pairs.",
    "quantiles": "Of pairs no interval is worked out for a tenth.",
}
"""What each number of pairs supposes, for the reader."""
NO_INTERVAL = "Of pairs it has no interval."


def mean_of_pairs(differences: FloatArray, confidence: float) -> Estimate:
    """The mean difference, with Student's interval.

    Parameters
    ----------
    differences : array, shape (n,)
        One less the other, a pair each.
    confidence : float
        Of the interval, between 0 and 1, such as 0.95.
    """
    n = len(differences)
    value = float(differences.mean()) if n else math.nan
    if n < 2:
        return Estimate(value, math.nan, math.nan, "An interval needs two pairs." if n else "")
    from scipy.special import stdtrit

    reach = float(stdtrit(n - 1, (1 + confidence) / 2)) * float(differences.std(ddof=1))
    reach /= math.sqrt(n)
    return Estimate(value, value - reach, value + reach)


def greater_of_pairs(differences: FloatArray, confidence: float) -> Estimate:
    """How often the one of a pair is the greater, equal ones half, with Wilson's interval (Wilson
    1927).

    Parameters
    ----------
    differences : array, shape (n,)
        One less the other, a pair each.
    confidence : float
        Of the interval, between 0 and 1, such as 0.95.
    """
    n = len(differences)
    if not n:
        return Estimate(math.nan, math.nan, math.nan)
    from scipy.special import ndtri

    share = (np.count_nonzero(differences > 0) + np.count_nonzero(differences == 0) / 2) / n
    z = float(ndtri((1 + confidence) / 2))
    middle = (share + z * z / (2 * n)) / (1 + z * z / n)
    reach = z / (1 + z * z / n) * math.sqrt(share * (1 - share) / n + z * z / (4 * n * n))
    low = 0.0 if share == 0 else max(0.0, middle - reach)
    high = 1.0 if share == 1 else min(1.0, middle + reach)
    return Estimate(float(share), low, high)


def shift_of_pairs(differences: FloatArray, confidence: float) -> Estimate:
    """The median of the means of any two differences, one with itself too (Hodges and Lehmann
    1963), with the interval of the signed ranks (Wilcoxon 1945): exact of up to 60 differences
    without ties, else by its normal approximation.

    Parameters
    ----------
    differences : array, shape (n,)
        One less the other, a pair each.
    confidence : float
        Of the interval, between 0 and 1, such as 0.95.
    """
    n = len(differences)
    if not n:
        return Estimate(math.nan, math.nan, math.nan)
    ordered = np.sort(differences)
    if n > _MOST_AVERAGED:
        ranks = ((np.arange(_MOST_AVERAGED) + 0.5) * (n / _MOST_AVERAGED)).astype(np.int64)
        ordered = ordered[ranks]
    at = np.triu_indices(len(ordered))
    means = np.sort(ordered[at[0]] / 2 + ordered[at[1]] / 2)
    value = float(np.median(means))
    if n <= _MOST_EXACT:
        out = _left_out(n, confidence)
    else:
        from scipy.special import ndtri

        error = math.sqrt((2 * n + 1) / (6 * n * (n + 1)))  # of the share of all these means
        share = 0.5 - float(ndtri((1 + confidence) / 2)) * error
        out = math.floor(share * len(means))
    if out < 0:
        surest = 100 * (1 - 2.0 ** (1 - n))
        lack = f"A rank interval of {n} {'pair' if n == 1 else 'pairs'} is {surest:.3g} % at most."
        return Estimate(value, math.nan, math.nan, lack)
    return Estimate(value, float(means[out]), float(means[-1 - out]))


@lru_cache(maxsize=128)  # counted over all signs, whatever the values
def _left_out(n: int, confidence: float) -> int:
    """How many of the means the exact interval of n signed ranks leaves out at either end; -1 where
    even all of them are not as sure."""
    ways = np.zeros(n * (n + 1) // 2 + 1)
    ways[0] = 1.0
    for rank in range(1, n + 1):
        ways[rank:] = ways[rank:] + ways[:-rank]
    shares = np.cumsum(ways) / 2.0**n
    allowed = (1 - confidence) / 2 * (1 + 1e-12)  # 1 − 0.95 is above 0.05
    return int(shares.searchsorted(allowed, side="right")) - 1


def sd_ratio_of_pairs(ours: FloatArray, theirs: FloatArray, confidence: float) -> Estimate:
    """Ratio of standard deviations of two measures of the same cases, with an interval of its log
    that supposes no shape: its variance is that of half of how much farther from the mean the one
    lies than the other, in squares (the delta method; Cramér 1946).

    Parameters
    ----------
    ours, theirs : array, shape (n,)
        Both measures of each case.
    confidence : float
        Of the interval, between 0 and 1, such as 0.95.
    """
    n = len(ours)
    if n < 2:
        return Estimate(math.nan, math.nan, math.nan)
    first, second = float(ours.std(ddof=1)), float(theirs.std(ddof=1))
    if not second > 0:
        return Estimate(math.nan, math.nan, math.nan)
    ratio = first / second
    if n < _LEAST_SPREAD or not first > 0:
        lack = f"An interval needs {_LEAST_SPREAD} pairs." if first > 0 else ""
        return Estimate(ratio, math.nan, math.nan, lack)
    from scipy.special import stdtrit

    farther = np.square((ours - ours.mean()) / first) - np.square((theirs - theirs.mean()) / second)
    error = float(farther.std(ddof=1)) / 2 / math.sqrt(n)
    times = math.exp(float(stdtrit(n - 1, (1 + confidence) / 2)) * error)
    return Estimate(ratio, ratio / times, ratio * times)
