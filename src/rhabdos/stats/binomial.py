"""How counts vary from sample to sample."""

from functools import lru_cache

import numpy as np

from rhabdos.arrays import FloatArray, IntArray

_FEW = 20  # values of a bin
_MUCH = 4.0  # variance of counts, from which the expansion is as near as it is said to be


def binomial_ends(
    counts: IntArray, n: int | IntArray, confidence: float
) -> tuple[IntArray, IntArray]:
    """Between which counts most samples would have so many values in a bin, each value being in it
    with the share that it holds: what resampling comes to, without resampling.

    Parameters
    ----------
    counts : array, shape (k,)
        Of each bin.
    n : int, or array of int, shape (k,)
        All values, at least 1; those of the sample that each bin is of.
    confidence : float
        The share of samples, such as 0.95; half of the others lie beyond either end.
    """
    sizes = np.broadcast_to(np.asarray(n, dtype=np.int64), counts.shape)
    much = np.flatnonzero((counts > _FEW) & (counts < sizes))  # no sample has others of all
    few = counts <= _FEW
    few_of = [(size, np.flatnonzero(few & (sizes == size))) for size in np.unique(sizes).tolist()]
    ends = []
    for beyond in ((1 - confidence) / 2, (1 + confidence) / 2):
        counted = np.asarray(counts, dtype=np.int64).copy()
        counted[much] = _quantiles(sizes[much], counts[much] / sizes[much], beyond)
        for size, bins in few_of:
            counted[bins] = _of_few(size, beyond)[counts[bins]]
        ends.append(counted)
    return ends[0], ends[1]


@lru_cache(maxsize=64)  # one solution of an equation, the same for all groups of a size
def _of_few(n: int, below: float) -> IntArray:
    """Where bins of 0, 1, 2 … values would end, which are asked for at every step of a hand."""
    counts = np.arange(min(_FEW, n) + 1)
    inner = counts[1 : -1 if n <= _FEW else None]
    ends = counts.copy()
    ends[inner] = _quantiles(np.full(len(inner), n), inner / n, below)
    return ends


def _quantiles(n: IntArray, shares: FloatArray, below: float) -> IntArray:
    """The least counts up to which at least so much of each binomial lies; ``n`` and ``shares`` are
    of shape (k,).

    The expansion of Cornish and Fisher (1938) to the third order, with the variance that whole
    numbers add to what lies between them, is hardly ever one off: its error falls as the variance
    grows. Where it may be, the binomial itself puts it right, step by step. Its inverse would take
    thirty times as long.
    """
    from scipy.special import bdtr, ndtri

    z, left = float(ndtri(below)), 1 - shares
    variance, lean = n * shares * left, 1 - 2 * shares
    # Shares of 0 and 1 have no variance to divide by; they are put right below.
    with np.errstate(divide="ignore", invalid="ignore"):
        third = (z**3 - 3 * z) * (1 - 6 * shares * left) / 24
        third -= (2 * z**3 - 5 * z) * lean * lean / 36 + z / 24
        guess = n * shares + z * np.sqrt(variance) + (z * z - 1) * lean / 6 + 0.5
        guess += third / np.sqrt(np.maximum(variance, 1.0))
        off = (0.05 + z**4 / 80) / variance + 1e-14 * n  # and what is rounded
    reaching = np.clip(np.floor(guess), 0, n)
    rising = falling = np.flatnonzero((variance < _MUCH) | (np.abs(guess - np.rint(guess)) < off))
    guessed = reaching[falling]
    while len(rising):
        rising = rising[bdtr(reaching[rising], n[rising], shares[rising]) < below]
        reaching[rising] += 1
    falling = falling[reaching[falling] == guessed]
    while len(falling):
        falling = falling[reaching[falling] > 0]
        falling = falling[bdtr(reaching[falling] - 1, n[falling], shares[falling]) >= below]
        reaching[falling] -= 1
    return np.asarray(reaching, dtype=np.int64)
