"""How counts vary from sample to sample."""

import numpy as np

from rhabdos.arrays import FloatArray, IntArray


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
    from scipy.special import bdtrik

    shares: FloatArray = counts / n
    ends = []
    for beyond in ((1 - confidence) / 2, (1 + confidence) / 2):
        with np.errstate(invalid="ignore", divide="ignore"):
            found = np.ceil(bdtrik(beyond, n, shares) - 1e-9)
        sure = (counts <= 0) | (counts >= n)  # which no sample has otherwise
        ends.append(np.where(sure, counts, np.maximum(np.nan_to_num(found), 0)).astype(np.int64))
    return ends[0], ends[1]
