"""The bootstrap of quantiles, at a cost that does not grow with the sample.

The j-th smallest of n draws with replacement from n ordered values is the value at rank ⌊n U⌋,
where U is the j-th smallest of n uniform numbers; and those are Beta-distributed, the next given
the last (Devroye 1986). So the resampled order statistics are drawn themselves, and no resample is
ever made.
"""

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import Definition, placed

RESAMPLES = 4_000  # enough for an end of a 99 % interval to stand on twenty of them


def resampled_quantiles(
    sample: Ordered,
    shares: FloatArray,
    definition: Definition,
    seed: int,
    resamples: int = RESAMPLES,
) -> FloatArray:
    """Quantiles of bootstrap resamples of a sample of n >= 1.

    Parameters
    ----------
    shares : array, shape (k,)
    seed : int
        The same seed gives the same resamples.

    Returns
    -------
    array, shape (resamples, k)
    """
    n = sample.n
    below, above, part = placed(n, shares, definition)
    ranks = np.unique(np.concatenate([below, above]))  # from 0
    rng = np.random.Generator(np.random.PCG64(seed))
    drawn = np.empty((resamples, len(ranks)))
    former, reached = np.zeros(resamples), 0
    for index, rank in enumerate((ranks + 1).tolist()):
        former = former + (1 - former) * rng.beta(rank - reached, n - rank + 1, resamples)
        drawn[:, index] = former
        reached = rank
    values = sample.about_at(np.minimum((drawn * n).astype(np.int64), n - 1))
    low, high = values[:, np.searchsorted(ranks, below)], values[:, np.searchsorted(ranks, above)]
    return np.asarray(low * (1 - part) + high * part, dtype=np.float64)
