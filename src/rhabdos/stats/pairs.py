"""Quantiles of a sample beside those of a normal shape or of another sample."""

import math
from statistics import NormalDist

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import quantiles

_MOST = 512  # pairs of quantiles that stand for all
_WIDEST = 10.0  # standard deviations within which all quantiles of a normal shape lie


class Pairs(Struct, frozen=True, eq=False):
    """At the same shares: ``x`` of the shape or sample compared with, ``y`` of the sample; in the
    variable's unit."""

    x: FloatArray
    y: FloatArray


def beside_normal(sample: Ordered) -> Pairs:
    """Against the normal shape with the sample's mean and sd: on a line y = x where that is its
    shape.

    The shares are (i - 1/2) / n (Hazen 1914), of which the quantiles are the values themselves; of
    more than 512 values, 512 such shares stand for all. None of fewer than two values, or of equal
    ones.
    """
    if sample.n < 2 or not sample.moments.norm or not math.isfinite(_WIDEST * sample.moments.norm):
        return Pairs(np.empty(0), np.empty(0))
    shares = _shares(sample.n)
    shape = NormalDist(0.0, 1.0)
    u = np.array([shape.inv_cdf(share) for share in shares.tolist()])
    sd = sample.moments.norm / np.sqrt(sample.n - 1)
    return Pairs(
        np.asarray(sample.moments.mean + sd * u, dtype=np.float64), quantiles(sample, shares, 5)
    )


def beside(sample: Ordered, reference: Ordered) -> Pairs:
    """Against another sample, at the shares of the smaller of the two.

    Parameters
    ----------
    sample, reference : Ordered
        Either of at least two values, in the same unit.
    """
    if not sample.n or not reference.n:
        return Pairs(np.empty(0), np.empty(0))
    shares = _shares(min(sample.n, reference.n))
    return Pairs(quantiles(reference, shares, 5), quantiles(sample, shares, 5))


def _shares(n: int) -> FloatArray:
    count = min(n, _MOST)
    return np.asarray((np.arange(count) + 0.5) / count, dtype=np.float64)
