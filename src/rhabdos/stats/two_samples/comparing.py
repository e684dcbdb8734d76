"""How one sample differs from a reference: effects with intervals, never a verdict."""

import math
from functools import lru_cache

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.stats.density import Curve
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import Definition, quantiles
from rhabdos.stats.resampling import resampled_quantiles

DECILES = tuple(round(0.1 * k, 1) for k in range(1, 10))
_HIGHEST = 1e150  # a steeper curve would overflow when areas are summed

# What each comparison supposes, for the reader.
ASSUMES = {
    "mean": "Independent rows; means that vary about normally, as they do but for very small or "
    "heavy-tailed groups. "
    "Spreads may differ.",
    "median": "Independent rows; nothing about shapes.",
    "shift": "Independent rows; both groups of one shape, one moved along the scale: otherwise it "
    "is the median "
    "difference of two random members.",
    "sd_ratio": "Independent rows; the interval also supposes normal shapes, and errs much where "
    "tails are heavy.",
    "iqr_ratio": "Independent rows; enough values near the quartiles for resampling to show how "
    "these vary.",
    "overlap": "Density curves that are smoothed neither too much nor too little: it is shared "
    "area under the two.",
    "exceeds": "Random members drawn from each group as it is; equal values count half to either "
    "side. The interval supposes independent rows, and is a little less sure than it says where "
    "one group of few decides.",
    "cliffs_delta": "The same as the chance to exceed, on a scale from −1 to 1.",
    "ecdf_distance": "None about shapes; with few values the distance is above 0 even between "
    "equal groups.",
    "quantiles": "Independent rows; each interval holds for its own quantile, not for all of them "
    "at once.",
}


class Estimate(Struct, frozen=True):
    """A number with its interval; NaN where too few values give none, and why if that is known."""

    value: float
    low: float
    high: float
    lack: str = ""


def mean_difference(sample: Ordered, reference: Ordered, confidence: float) -> Estimate:
    """Difference of means with Welch's interval (Welch 1947).

    Parameters
    ----------
    sample, reference : Ordered
        The group and the one that it is compared with, in the same unit.
    confidence : float
        Of the interval, between 0 and 1, such as 0.95.
    """
    value = sample.moments.mean - reference.moments.mean
    if sample.n < 2 or reference.n < 2:
        return Estimate(value, math.nan, math.nan)
    from scipy.special import stdtrit

    first, second = (_sd(either) / math.sqrt(either.n) for either in (sample, reference))
    error = math.hypot(first, second)
    if not error:
        return Estimate(value, value, value)
    share = (first / error) ** 2
    freedom = 1 / (share**2 / (sample.n - 1) + (1 - share) ** 2 / (reference.n - 1))
    reach = float(stdtrit(freedom, (1 + confidence) / 2)) * error
    return Estimate(value, value - reach, value + reach)


def _sd(sample: Ordered) -> float:
    return sample.moments.norm / math.sqrt(sample.n - 1)


def sd_ratio(sample: Ordered, reference: Ordered, confidence: float) -> Estimate:
    """Ratio of standard deviations, with the interval of normal samples (Fisher's F).

    Parameters
    ----------
    sample, reference : Ordered
        The group and the one that it is compared with, in the same unit.
    confidence : float
        Of the interval, between 0 and 1, such as 0.95.
    """
    if sample.n < 2 or reference.n < 2 or not reference.moments.norm:
        return Estimate(math.nan, math.nan, math.nan)
    from scipy.special import fdtri

    ratio = _sd(sample) / _sd(reference)
    freedoms = sample.n - 1, reference.n - 1
    upper, lower = (float(fdtri(*freedoms, (1 + sign * confidence) / 2)) for sign in (1, -1))
    return Estimate(ratio, ratio / math.sqrt(upper), ratio / math.sqrt(lower))


def quantile_differences(
    sample: Ordered,
    reference: Ordered,
    shares: FloatArray,
    definition: Definition,
    confidence: float,
) -> tuple[Estimate, ...]:
    """Differences of quantiles, such as the deciles of the shift function (Doksum 1974).

    Each interval is put together of those of either quantile (Zou and Donner 2008), which suppose
    no shape: it is as far from the difference as the ends of these are from them, by Pythagoras.
    Where a group has too few values for one, there is none.

    Parameters
    ----------
    sample, reference : Ordered
        The group and the one that it is compared with, in the same unit.
    shares : array, shape (k,)
        Of the quantiles, from 0 to 1.
    definition : 1 … 9
        Of a sample quantile (Hyndman and Fan 1996).
    confidence : float
        Of the interval, between 0 and 1, such as 0.95.
    """
    ours, theirs = (quantiles(each, shares, definition).tolist() for each in (sample, reference))
    both = zip(shares.tolist(), ours, theirs, strict=True)
    return tuple(
        _quantile_difference(sample, reference, share, (ours, theirs), confidence)
        for share, ours, theirs in both
    )


def _quantile_difference(
    sample: Ordered,
    reference: Ordered,
    share: float,
    values: tuple[float, float],
    confidence: float,
) -> Estimate:
    with np.errstate(over="ignore", invalid="ignore"):  # beyond all numbers there is none to tell
        value = float(np.subtract(*values))
    least = least_for_interval(share, confidence)
    if min(sample.n, reference.n) < least:
        lack = ""
        if sample.n and reference.n:
            lack = (
                f"An interval needs {least} values in either group; these have {sample.n} and "
                f"{reference.n}."
            )
        return Estimate(value, math.nan, math.nan, lack)
    low, high = quantile_interval(sample, share, confidence)
    low_there, high_there = quantile_interval(reference, share, confidence)
    ours, theirs = values
    # An end that is no double is no end: then there is no interval.
    with np.errstate(over="ignore", invalid="ignore"):
        down = math.hypot(max(ours - low, 0.0), max(high_there - theirs, 0.0))
        up = math.hypot(max(high - ours, 0.0), max(theirs - low_there, 0.0))
    if not (math.isfinite(value - down) and math.isfinite(value + up)):
        return Estimate(value, math.nan, math.nan)
    return Estimate(value, value - down, value + up)


def least_for_interval(share: float, confidence: float) -> int:
    """Of how many values a quantile has an interval: fewer lie too often all on one side of it."""
    outer = max(share, 1 - share)
    if outer >= 1:
        return 1 << 62  # the least and the greatest of all have none, however many there are
    return max(2, math.ceil(math.log((1 - confidence) / 2) / math.log(outer)))


def quantile_interval(sample: Ordered, share: float, confidence: float) -> tuple[float, float]:
    """The interval of a quantile between values of the sample, whatever their shape: binomial, and
    between two ranks interpolated (Hutson 1999); at least :func:`least_for_interval` values.

    Parameters
    ----------
    share : float
        Of the quantile, between 0 and 1.
    confidence : float
        Of the interval, such as 0.95.
    """
    beyond = (1 - confidence) / 2
    at = [_share_reached(sample.n, share, reached) for reached in (1 - beyond, beyond)]
    low, high = quantiles(sample, np.array(at), 6).tolist()
    return low, high


@lru_cache(maxsize=512)  # an equation, solved once for all groups of a size
def _share_reached(n: int, share: float, reached: float) -> float:
    """The share of a sample of ``n`` whose order statistic, of a fractional rank, lies below the
    quantile of all with this probability."""
    from scipy.optimize import brentq
    from scipy.special import betainc

    def beyond(at: float) -> float:
        """How far the probability at a share is from the one that is sought."""
        return float(betainc((n + 1) * at, (n + 1) * (1 - at), share)) - reached

    first, last = 1 / (n + 1), n / (n + 1)
    if beyond(first) <= 0:
        return first
    if beyond(last) >= 0:
        return last
    # To the last digit, so that an interval is the same on every machine.
    return float(brentq(beyond, first, last, xtol=1e-15))


def iqr_ratio(
    sample: Ordered, reference: Ordered, definition: Definition, confidence: float, seed: int
) -> Estimate:
    """Ratio of interquartile ranges, with a percentile-bootstrap interval.

    Parameters
    ----------
    sample, reference : Ordered
        The group and the one that it is compared with, in the same unit.
    definition : 1 … 9
        Of a sample quantile (Hyndman and Fan 1996).
    confidence : float
        Of the interval, between 0 and 1, such as 0.95.
    seed : int
        Of the resampling.
    """
    shares = np.array([0.25, 0.75])
    if not sample.n or not reference.n:
        return Estimate(math.nan, math.nan, math.nan)
    first, second = (
        float(np.diff(quantiles(either, shares, definition))[0]) for either in (sample, reference)
    )
    if not second:
        return Estimate(math.nan, math.nan, math.nan)
    if sample.n < 2 or reference.n < 2:
        return Estimate(first / second, math.nan, math.nan)
    spreads = [
        np.diff(resampled_quantiles(either, shares, definition, seed + index), axis=1)[:, 0]
        for index, either in enumerate((sample, reference))
    ]
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        return _estimate(first / second, spreads[0] / spreads[1], confidence)


def _estimate(value: float, drawn: FloatArray, confidence: float) -> Estimate:
    """A value with the interval that leaves out equal shares of what was drawn; NaN where a
    resample gave nothing."""
    ordered = np.sort(drawn)
    places = np.array([(1 - confidence) / 2, (1 + confidence) / 2]) * (len(ordered) - 1)
    low, high = ordered[np.rint(places).astype(np.int64)].tolist()
    return (
        Estimate(value, low, high)
        if math.isfinite(low) and math.isfinite(high)
        else Estimate(value, math.nan, math.nan)
    )


def overlap(first: Curve, second: Curve) -> float:
    """The area that two density curves share, from 0 to 1: ∫ min(f, g) = ∫ (f + g - |f - g|) / 2,
    line by line."""
    unit = max(first.bandwidth, second.bandwidth)  # in which no place is too large for a number
    x = np.union1d(first.x / unit, second.x / unit)
    with np.errstate(
        over="ignore"
    ):  # a curve so much narrower than the other shares what is under it, however high
        heights = [np.minimum(curve.y * unit, _HIGHEST) for curve in (first, second)]
    ours, theirs = (
        np.interp(x, curve.x / unit, y, left=0.0, right=0.0)
        for curve, y in zip((first, second), heights, strict=True)
    )
    gaps, both = ours - theirs, ours + theirs
    before, after = np.abs(gaps[:-1]), np.abs(gaps[1:])
    # Between two points the curves are lines: their gap is a trapezium, or two triangles where they
    # cross.
    crossed = np.sign(gaps[:-1]) * np.sign(gaps[1:]) < 0
    share = before / np.where(before + after > 0, before + after, 1.0)
    apart = np.where(crossed, before * share + after * (1 - share), before + after) / 2
    return min(1.0, max(0.0, float(np.dot(np.diff(x), (both[1:] + both[:-1]) / 2 - apart)) / 2))
