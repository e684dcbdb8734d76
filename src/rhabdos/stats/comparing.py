"""How one sample differs from a reference: effects with intervals, never a verdict."""

import math

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.stats.density import Curve
from rhabdos.stats.ordered import Ordered, once_per_sample
from rhabdos.stats.quantiles import Definition, quantiles
from rhabdos.stats.resampling import resampled_quantiles

DECILES = tuple(round(0.1 * k, 1) for k in range(1, 10))
_MOST_PAIRED = 10_000  # values of each sample; of longer ones so many, evenly spaced in rank, stand for all
_CHUNK = 1 << 18
_OVERLAP_POINTS = 4_096

# What each comparison supposes, for the reader.
ASSUMES = {
    "mean": "Independent rows; means that vary about normally, as they do but for very small or heavy-tailed groups. "
    "Spreads may differ.",
    "median": "Independent rows; enough values near the medians for resampling to show how these vary.",
    "shift": "Independent rows; both groups of one shape, one moved along the scale: otherwise it is the median "
    "difference of two random members.",
    "sd_ratio": "Independent rows; the interval also supposes normal shapes, and errs much where tails are heavy.",
    "iqr_ratio": "Independent rows; enough values near the quartiles for resampling to show how these vary.",
    "overlap": "Density curves that are smoothed neither too much nor too little: it is shared area under the two.",
    "exceeds": "Random members drawn from each group as it is; equal values count half to either side.",
    "cliffs_delta": "The same as the chance to exceed, on a scale from −1 to 1.",
    "ecdf_distance": "None about shapes; with few values the distance is above 0 even between equal groups.",
    "quantiles": "Independent rows; each interval holds for its own quantile, not for all of them at once.",
}


class Estimate(Struct, frozen=True):
    """A number with its interval; NaN where too few values give none."""

    value: float
    low: float
    high: float


class Ahead(Struct, frozen=True):
    """How often a random member of a sample lies above, or level with, one of the reference, and how far ECDFs part.

    Attributes
    ----------
    above, level : float
        Shares of all pairs.
    distance, at : float
        The largest difference of the two cumulative shares, and the value at which it is first reached.
    """

    above: float
    level: float
    distance: float
    at: float

    @property
    def exceeds(self) -> float:
        return self.above + self.level / 2

    @property
    def delta(self) -> float:
        return 2 * self.above + self.level - 1


def mean_difference(sample: Ordered, reference: Ordered, confidence: float) -> Estimate:
    """Difference of means with Welch's interval (Welch 1947)."""
    value = sample.moments.mean - reference.moments.mean
    if sample.n < 2 or reference.n < 2:
        return Estimate(value, math.nan, math.nan)
    from scipy.special import stdtrit

    first, second = (_sd(one) / math.sqrt(one.n) for one in (sample, reference))
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
    """Ratio of standard deviations, with the interval of normal samples (Fisher's F)."""
    if sample.n < 2 or reference.n < 2 or not reference.moments.norm:
        return Estimate(math.nan, math.nan, math.nan)
    from scipy.special import fdtri

    ratio = _sd(sample) / _sd(reference)
    freedoms = sample.n - 1, reference.n - 1
    upper, lower = (float(fdtri(*freedoms, (1 + sign * confidence) / 2)) for sign in (1, -1))
    return Estimate(ratio, ratio / math.sqrt(upper), ratio / math.sqrt(lower))


def quantile_differences(
    sample: Ordered, reference: Ordered, shares: FloatArray, definition: Definition, confidence: float, seed: int
) -> tuple[Estimate, ...]:
    """Differences of quantiles with percentile-bootstrap intervals (Efron and Tibshirani 1993): the shift function."""
    values = quantiles(sample, shares, definition) - quantiles(reference, shares, definition)
    if not sample.n or not reference.n:
        return tuple(Estimate(math.nan, math.nan, math.nan) for _ in shares)
    drawn = resampled_quantiles(sample, shares, definition, seed) - resampled_quantiles(
        reference, shares, definition, seed + 1
    )
    return tuple(_estimate(float(value), column, confidence) for value, column in zip(values, drawn.T, strict=True))


def iqr_ratio(sample: Ordered, reference: Ordered, definition: Definition, confidence: float, seed: int) -> Estimate:
    """Ratio of interquartile ranges, with a percentile-bootstrap interval."""
    shares = np.array([0.25, 0.75])
    if not sample.n or not reference.n:
        return Estimate(math.nan, math.nan, math.nan)
    first, second = (float(np.diff(quantiles(one, shares, definition))[0]) for one in (sample, reference))
    if not second:
        return Estimate(math.nan, math.nan, math.nan)
    spreads = [
        np.diff(resampled_quantiles(one, shares, definition, seed + place), axis=1)[:, 0]
        for place, one in enumerate((sample, reference))
    ]
    with np.errstate(divide="ignore", invalid="ignore"):
        return _estimate(first / second, spreads[0] / spreads[1], confidence)


def _estimate(value: float, drawn: FloatArray, confidence: float) -> Estimate:
    """A value with the interval that leaves out equal shares of what was drawn; NaN where a resample gave nothing."""
    ordered = np.sort(drawn)
    places = np.array([(1 - confidence) / 2, (1 + confidence) / 2]) * (len(ordered) - 1)
    low, high = ordered[np.rint(places).astype(np.int64)].tolist()
    return (
        Estimate(value, low, high)
        if math.isfinite(low) and math.isfinite(high)
        else Estimate(value, math.nan, math.nan)
    )


def shift(sample: Ordered, reference: Ordered, confidence: float) -> Estimate:
    """The median of all differences between a member of either (Hodges and Lehmann 1963), with its rank interval.

    The interval leaves out as many differences at either end as the rank-sum statistic does, by its normal
    approximation with ties. Of samples beyond 10,000 values, 10,000 evenly spaced in rank stand for all.
    """
    if not sample.n or not reference.n:
        return Estimate(math.nan, math.nan, math.nan)
    from scipy.special import ndtri

    ours, theirs = _thinned(sample), _thinned(reference)
    pairs = len(ours) * len(theirs)
    middle = [(pairs - 1) // 2, pairs // 2]
    n, m = sample.n, reference.n
    error = math.sqrt((n + m + 1 - _ties(ours, theirs, n + m)) / (12 * n * m))  # of the share of pairs
    out = math.floor(pairs * (0.5 - float(ndtri((1 + confidence) / 2)) * error))
    found = [_difference(ours, theirs, rank) for rank in middle]
    value = found[0] / 2 + found[1] / 2
    if out < 0:
        return Estimate(value, math.nan, math.nan)
    return Estimate(value, _difference(ours, theirs, out), _difference(ours, theirs, pairs - 1 - out))


def _thinned(sample: Ordered) -> FloatArray:
    kept = min(sample.n, _MOST_PAIRED)
    return sample.at(((np.arange(kept) + 0.5) * (sample.n / kept)).astype(np.int64))


def _ties(ours: FloatArray, theirs: FloatArray, total: int) -> float:
    """Σ (t³ - t) / (N (N - 1)) over groups of t equal values among all N, for which the given ones stand."""
    _, together = np.unique(np.concatenate([ours, theirs]), return_counts=True)
    tied = together[together > 1] * (total / (len(ours) + len(theirs)))
    return float(np.sum(tied**3 - tied)) / (total * (total - 1)) if total > 1 else 0.0


def _difference(ours: FloatArray, theirs: FloatArray, rank: int) -> float:
    """The difference ours - theirs at a rank (from 0) among all pairs, by halving on its value."""
    low, high = float(ours[0] - theirs[-1]), float(ours[-1] - theirs[0])
    while True:
        middle = low / 2 + high / 2
        if not low < middle < high:
            break
        # Pairs that differ by no more than the middle.
        upto = int((len(theirs) - theirs.searchsorted(ours - middle)).sum())
        low, high = (low, middle) if upto > rank else (middle, high)
    upto = int((len(theirs) - theirs.searchsorted(ours - low)).sum())
    return low if upto > rank else high


@once_per_sample
def ahead(sample: Ordered, reference: Ordered) -> Ahead:
    """Compare every member of one sample with every member of the other, in one pass over either."""
    n, m = sample.n, reference.n
    if not n or not m:
        return Ahead(math.nan, math.nan, math.nan, math.nan)
    above = level = 0.0
    parted, at = -1.0, math.nan

    def part(values: FloatArray, ours: IntArray, theirs: IntArray) -> None:
        nonlocal parted, at
        gaps = np.abs(ours / n - theirs / m)
        furthest = int(gaps.argmax())
        if gaps[furthest] > parted or (gaps[furthest] == parted and values[furthest] < at):
            parted, at = float(gaps[furthest]), float(values[furthest])

    for values, cases in sample.pieces():
        times = np.ones(len(values)) if cases is None else cases
        less, upto = reference.below(values), reference.below(values, inclusive=True)
        above += float(np.dot(less, times))
        level += float(np.dot(upto - less, times))
        part(values, sample.below(values, inclusive=True), upto)
    for values, _ in reference.pieces():
        part(values, sample.below(values, inclusive=True), reference.below(values, inclusive=True))
    return Ahead(above / n / m, level / n / m, parted, at)


def overlap(first: Curve, second: Curve) -> float:
    """The area that two density curves share, from 0 to 1."""
    low, span = min(first.x[0], second.x[0]), max(first.x[-1], second.x[-1]) - min(first.x[0], second.x[0])
    u = np.linspace(0, 1, _OVERLAP_POINTS)  # of the span, so that the ends of the range of numbers are far
    heights = (np.interp(u, (one.x - low) / span, one.y * span, left=0.0, right=0.0) for one in (first, second))
    lower = np.minimum(*heights)
    return min(1.0, float(np.sum((lower[1:] + lower[:-1]) / 2) / (_OVERLAP_POINTS - 1)))
