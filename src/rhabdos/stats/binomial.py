"""How counts vary from sample to sample."""

import numpy as np

from rhabdos.arrays import FloatArray, IntArray

_MUCH, _NEAR = 200.0, 0.15  # variance of counts, from which the expansion is so near


def binomial_ends(counts: IntArray, n: int, confidence: float) -> tuple[IntArray, IntArray]:
    """Between which counts most samples would have so many values in a bin, each value being in it
    with the share that it holds: what resampling comes to, without resampling.

    Parameters
    ----------
    counts : array, shape (k,)
        Of each bin.
    n : int
        All values, at least 1.
    confidence : float
        The share of samples, such as 0.95; half of the others lie beyond either end.
    """
    shares: FloatArray = counts / n
    inner = np.flatnonzero((counts > 0) & (counts < n))  # no sample has others of all, or of none
    ends = []
    for beyond in ((1 - confidence) / 2, (1 + confidence) / 2):
        found = np.asarray(counts, dtype=np.int64).copy()
        found[inner] = _quantiles(n, shares[inner], beyond)
        ends.append(found)
    return ends[0], ends[1]


def _quantiles(n: int, shares: FloatArray, below: float) -> IntArray:
    """The least counts up to which at least so much of each binomial lies.

    The expansion of Cornish and Fisher (1938) is hardly ever more than one off; where it may be,
    the binomial itself puts it right, step by step. Its inverse would take thirty times as long.
    """
    from scipy.special import bdtr, ndtri

    z, variance = float(ndtri(below)), n * shares * (1 - shares)
    guess = n * shares + z * np.sqrt(variance) + (z * z - 1) * (1 - 2 * shares) / 6 + 0.5
    found = np.clip(np.floor(guess), 0, n)
    doubtful = (variance < _MUCH) | (np.abs(guess - np.rint(guess)) < _NEAR)
    moving = np.flatnonzero(doubtful)
    while len(moving):
        here, share = found[moving], shares[moving]
        more = bdtr(here, n, share) < below
        less = ~more & (here > 0) & (bdtr(np.maximum(here - 1, 0), n, share) >= below)
        found[moving] = here + more - less
        moving = moving[more | less]
    return np.asarray(found, dtype=np.int64)
