"""How far one sample is shifted from another: the middle of all differences between them."""

import math
from functools import lru_cache

import numpy as np

from rhabdos.arrays import FloatArray, IntArray, from_ordinal, to_ordinal
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.two_samples.comparing import Estimate

_MOST_EXACT = 2_500  # pairs, of which the rank interval is exact
_MOST_PAIRED = (
    10_000  # values of each sample; of longer ones so many, evenly spaced in rank, stand for all
)
_ROUNDED = 2  # places by which a sum may stand off where the difference does
_GUESSED, _REFINED = 128, 6  # values of either that guesses begin with, and times they are refined
# Differences that are left to be sorted, once halving has narrowed them down.
_MOST_SORTED = 100_000


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
    untied = max(0.0, n + m + 1 - _ties(ours, theirs, n + m))  # where all are equal, but for digits
    error = math.sqrt(untied / (12 * n * m))  # of the share of pairs
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


@lru_cache(maxsize=256)  # counted over all orders, whatever the values
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
    allowed = (1 - confidence) / 2 * (1 + 1e-12)  # 1 − 0.95 is above 0.05
    return int(shares.searchsorted(allowed, side="right")) - 1


def thinned(sample: Ordered, most: int = _MOST_PAIRED) -> FloatArray:
    """All values of a sample in rising order, or so many evenly spaced in rank that stand for
    them."""
    kept = min(sample.n, most)
    return sample.about_at(((np.arange(kept) + 0.5) * (sample.n / kept)).astype(np.int64))


def _ties(ours: FloatArray, theirs: FloatArray, total: int) -> float:
    """Σ (t³ - t) / (N (N - 1)) over groups of t equal values among all N, for which the given ones
    stand."""
    _, together = np.unique(np.concatenate([ours, theirs]), return_counts=True)
    tied = together[together > 1] * (total / (len(ours) + len(theirs)))
    return float(np.sum(tied**3 - tied)) / (total * (total - 1)) if total > 1 else 0.0


def _difference(ours: FloatArray, theirs: FloatArray, rank: int) -> float:
    """The difference ours - theirs at a rank (from 0) among all pairs, exactly one of them.

    Differences as numbers hold them rise along either sample, so that pairs up to one are counted
    by halving in each row. What they are compared with is a guess at first, and then a difference
    in the middle of those left and the number before it, until few enough pairs are left to sort,
    or all of them are equal.
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
        tried = [to_ordinal(guess) for guess in guesses]
        while int((many - few).sum()) > _MOST_SORTED and low < high:
            if not tried:
                middle = to_ordinal(_among(ours, falling, few, many))
                tried = [middle - 1, middle]
            middle = min(max(tried.pop(), low), high - 1)
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


def _among(ours: FloatArray, falling: FloatArray, few: IntArray, many: IntArray) -> float:
    """A difference of the pairs left that a quarter of them at least lie on either side of: the
    middle of the rows' middles (Johnson and Mizoguchi 1978)."""
    rows = np.flatnonzero(few < many)
    middles = ours[rows] - falling[(few[rows] + many[rows]) // 2]
    order = middles.argsort()
    passed = (many - few)[rows][order].cumsum()
    return float(middles[order[passed.searchsorted(passed[-1] / 2)]])


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
    below = len(falling) - falling[::-1].searchsorted(ours - most)
    for near, within in ((below - _ROUNDED, True), (below + _ROUNDED, False)):
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
