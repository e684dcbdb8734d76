"""Quantiles of an ordered sample."""

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.stats.ordered import Ordered


def quantiles(sample: Ordered, shares: FloatArray) -> FloatArray:
    """Values below which the given shares of a sample lie, interpolated between ranks.

    Definition 7 of Hyndman and Fan (1996): the share p stands at rank (n - 1) p, counted from 0.

    Parameters
    ----------
    sample : Ordered
        n sorted values.
    shares : array
        From 0 to 1.

    Returns
    -------
    array of the same shape
        NaN where the sample is empty.
    """
    shares = np.asarray(shares, dtype=np.float64)
    if not sample.n:
        return np.full(shares.shape, np.nan)
    position = (sample.n - 1) * shares
    lower = np.floor(position).astype(np.int64)
    upper = np.minimum(lower + 1, sample.n - 1)
    part = position - lower
    below, above = sample.at(lower), sample.at(upper)
    # Two products rather than one difference, which could overflow between very large values.
    mixed = below * (1 - part) + above * part
    return np.where((part == 0) | (below == above), below, mixed)
