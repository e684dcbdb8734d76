"""How one sample differs from a reference: effects with intervals, never a verdict."""

import math
from functools import lru_cache

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray, from_ordinal, to_ordinal
from rhabdos.stats.density import Curve
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import Definition, quantiles
from rhabdos.stats.resampling import resampled_quantiles

DECILES = tuple(round(0.1 * k, 1) for k in range(1, 10))
_MOST_EXACT = 2_500  # pairs, of which the rank interval is exact
_MOST_PAIRED = (
    10_000  # values of each sample; of longer ones so many, evenly spaced in rank, stand for all
)
_ROUNDED = 2  # places by which a sum may stand off where the difference does
_GUESSED, _REFINED = 128, 6  # values of either that guesses begin with, and times they are refined
# Differences that are left to be sorted, once halving has narrowed them down.
_MOST_SORTED = 100_000
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


@lru_cache(maxsize=512)
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


def shift(sample: Ordered, reference: Ordered, confidence: float) -> Estimate:
    """The median of all differences between a member of either (Hodges and Lehmann 1963), with its
    rank interval.

    The interval leaves out as many differences at either end as the rank-sum statistic does: by its
    exact distribution for up to 2,500 pairs, and else by its normal approximation with ties. Small
    groups may have no interval that is as sure. Of samples beyond 10,000 values, 10,000 evenly
    spaced in rank stand for all.

    Parameters
    ----------
    sample, reference : Ordered
        The group and the one that it is compared with, in the same unit.
    confidence : float
        Of the interval, between 0 and 1, such as 0.95.
    """
    if not sample.n or not reference.n:
        return Estimate(math.nan, math.nan, math.nan)
    from scipy.special import ndtri

    ours, theirs = thinned(sample), thinned(reference)
    pairs = len(ours) * len(theirs)
    low = _difference(ours, theirs, (pairs - 1) // 2)
    high = low if pairs % 2 else _next_difference(ours, theirs, low, pairs // 2)
    value = (
        low
        if low == high
        else (low + high) / 2
        if math.isfinite(low + high)
        else low / 2 + high / 2
    )
    n, m = sample.n, reference.n
    if not math.isfinite(value):  # the range of numbers ends before the difference
        return Estimate(math.nan, math.nan, math.nan)
    error = math.sqrt(
        (n + m + 1 - _ties(ours, theirs, n + m)) / (12 * n * m)
    )  # of the share of pairs
    if pairs <= _MOST_EXACT:
        out = _left_out(n, m, confidence)
    else:
        share_out = 0.5 - float(ndtri((1 + confidence) / 2)) * error
        out = math.floor(pairs * share_out) if share_out >= 0 else -1
    if out < 0:
        surest = 1 - 2 / math.comb(n + m, n)
        lack = f"Groups of {n} and {m} have a rank interval of {100 * surest:.3g} % at most."
        return Estimate(value, math.nan, math.nan, lack)
    return Estimate(
        value, _difference(ours, theirs, out), _difference(ours, theirs, pairs - 1 - out)
    )


@lru_cache(maxsize=256)
def _left_out(n: int, m: int, confidence: float) -> int:
    """How many of the n m differences the exact rank interval leaves out at either end; -1 where
    even all of them are not as sure.

    The number of ways in which so many pairs are in order are the coefficients of the Gaussian
    binomial (n + m over n), of which each factor is multiplied and divided out in turn (Mann and
    Whitney 1947).
    """
    ways = np.zeros(n * m + 1)
    ways[0] = 1.0
    for i in range(1, n + 1):
        for first in range(i):
            ways[first::i] = np.cumsum(ways[first::i])
        ways[m + i :] -= ways[: max(0, len(ways) - m - i)].copy()
    shares = np.cumsum(ways) / math.comb(n + m, n)
    allowed = (1 - confidence) / 2 * (1 + 1e-12)
    return int(shares.searchsorted(allowed, side="right")) - 1


def thinned(sample: Ordered, most: int = _MOST_PAIRED) -> FloatArray:
    """All values of a sample in rising order, or so many evenly spaced in rank that stand for
    them."""
    kept = min(sample.n, most)
    return sample.at(((np.arange(kept) + 0.5) * (sample.n / kept)).astype(np.int64))


def _ties(ours: FloatArray, theirs: FloatArray, total: int) -> float:
    """Σ (t³ - t) / (N (N - 1)) over groups of t equal values among all N, for which the given ones
    stand."""
    _, together = np.unique(np.concatenate([ours, theirs]), return_counts=True)
    tied = together[together > 1] * (total / (len(ours) + len(theirs)))
    return float(np.sum(tied**3 - tied)) / (total * (total - 1)) if total > 1 else 0.0


def _difference(ours: FloatArray, theirs: FloatArray, rank: int) -> float:
    """The difference ours - theirs at a rank (from 0) among all pairs, exactly one of them.

    Differences as numbers hold them rise along either sample, so that pairs up to one are counted
    by halving in each row. What they are compared with is halved by the order of doubles, until few
    enough pairs are left to sort.
    """
    with np.errstate(over="ignore"):  # what lies beyond all numbers is in order too
        falling = theirs[::-1]
        few: IntArray = np.zeros(
            len(ours), dtype=np.int64
        )  # of each row, the pairs known to lie below the one that is sought …
        many: IntArray = np.full(len(ours), len(falling))  # … and those that may
        low, high = (
            to_ordinal(float(ours[0] - falling[0])),
            to_ordinal(float(ours[-1] - falling[-1])),
        )
        guesses = _guesses(ours, theirs, rank) if len(ours) * len(theirs) > _MOST_SORTED else []
        while int((many - few).sum()) > _MOST_SORTED and low < high:
            middle = (low + high) // 2
            if guesses:
                middle = min(max(to_ordinal(guesses.pop()), low), high - 1)
            upto = _upto(ours, falling, from_ordinal(middle), few, many)
            if int(upto.sum()) > rank:
                high, many = middle, upto
            else:
                low, few = middle + 1, upto
        if low >= high:
            return from_ordinal(low)
        left = many - few
        rows = np.repeat(np.arange(len(ours)), left)
        columns = (
            np.arange(len(rows)) - np.repeat(np.cumsum(left) - left, left) + np.repeat(few, left)
        )
        rest = ours[rows] - falling[columns]
        return float(np.partition(rest, rank - int(few.sum()))[rank - int(few.sum())])


def _next_difference(ours: FloatArray, theirs: FloatArray, before: float, rank: int) -> float:
    """The difference at a rank, where ``before`` is that at the rank before it."""
    falling = theirs[::-1]
    with np.errstate(over="ignore"):
        none, all_of = np.zeros(len(ours), dtype=np.int64), np.full(len(ours), len(falling))
        upto = _upto(ours, falling, before, none, all_of)
        if int(upto.sum()) > rank:
            return before
        rows = np.flatnonzero(upto < len(falling))
        return float((ours[rows] - falling[upto[rows]]).min())


def _guesses(ours: FloatArray, theirs: FloatArray, rank: int) -> list[float]:
    """A value about so few pairs below the one that is sought, and one about as many above it.

    They are guesses, since sums and differences are rounded otherwise: what is told by them is only
    where to begin to count.
    """
    pairs = len(ours) * len(theirs)

    def upto(value: float) -> int:
        """About how many differences are at most a value."""
        return pairs - int(theirs.searchsorted(ours - value).sum())

    some = [v[:: max(1, len(v) // _GUESSED)] for v in (ours, theirs)]
    differences = np.sort(np.subtract.outer(*some), axis=None)
    share, last = rank / pairs, len(differences) - 1
    low, high = (
        float(differences[round(last * min(1.0, max(0.0, share + off)))]) for off in (-0.03, 0.03)
    )
    few, many = upto(low), upto(high)
    for _ in range(_REFINED):
        if not few <= rank < many or many - few <= _MOST_SORTED or not math.isfinite(high - low):
            break
        per_pair = (high - low) / (many - few)
        middle, half = low + (rank - few) * per_pair, _MOST_SORTED / 3 * per_pair
        nearer = max(low, middle - half), min(high, middle + half)
        counted = upto(nearer[0]), upto(nearer[1])
        if counted[0] <= rank:
            low, few = nearer[0], counted[0]
        if counted[1] > rank:
            high, many = nearer[1], counted[1]
    return [high, low]


def _upto(
    ours: FloatArray, falling: FloatArray, most: float, few: IntArray, many: IntArray
) -> IntArray:
    """In each row, how many differences are at most ``most``, where at least ``few`` are and at
    most ``many``."""
    low, high = few.copy(), many.copy()
    # Where the sum is found is where the difference is, but for what is rounded.
    found = len(falling) - falling[::-1].searchsorted(ours - most)
    for near, within in ((found - _ROUNDED, True), (found + _ROUNDED, False)):
        tried = np.clip(near, 0, len(falling) - 1)
        sure = (ours - falling[tried] <= most) == within
        if within:
            low = np.where(sure, np.clip(tried + 1, few, many), low)
        else:
            high = np.where(sure, np.clip(tried, low, many), high)
    while np.any(low < high):
        middle = (low + high) // 2
        within = (ours - falling[np.minimum(middle, len(falling) - 1)] <= most) & (low < high)
        low, high = (
            np.where(within, middle + 1, low),
            np.where(within | (low >= high), high, middle),
        )
    return low


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
