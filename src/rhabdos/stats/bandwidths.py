"""Bandwidths of density curves, by rule."""

import math
from itertools import pairwise
from typing import Literal

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.stats.density import CELLS_PER_BANDWIDTH, TAIL, convolved
from rhabdos.stats.ordered import Ordered, once_per_sample
from rhabdos.stats.quantiles import quartiles

BandwidthRule = Literal["silverman", "scott", "sheather-jones", "improved-sheather-jones"]

_MOST_COUNTED = 1 << 15
_COSINES = 1 << 14  # cells over the values and as much room again, for the improved rule
_STAGES = 7


def _cells(sample: Ordered, bandwidth: float) -> tuple[FloatArray, FloatArray]:
    """Centres of fine cells over the values, and each cell's share of them."""
    span = sample.maximum - sample.minimum
    step = max(bandwidth / CELLS_PER_BANDWIDTH, span / _MOST_COUNTED)
    count = max(2, math.ceil(span / step) + 1)
    edges = np.asarray(sample.minimum - step / 2 + step * np.arange(count + 1), dtype=np.float64)
    below = sample.below(edges)
    below[0], below[-1] = 0, sample.n
    return edges[:-1] + step / 2, (below[1:] - below[:-1]) / sample.n


@once_per_sample
def bandwidth_by(sample: Ordered, rule: BandwidthRule) -> float:
    """A bandwidth by rule, in the variable's unit; 0 where all values are the same.

    "silverman" and "scott" suppose a normal shape: 0.9 and 1.06 times min(sd, IQR / 1.34) over the fifth root
    of n (Silverman 1986, Scott 1992). "sheather-jones" solves their equation (Sheather and Jones 1991);
    "improved-sheather-jones" supposes no normal shape at any stage (Botev, Grotowski and Kroese 2010).
    """
    if sample.n < 2 or sample.minimum == sample.maximum:
        return 0.0
    if rule == "improved-sheather-jones":
        return _improved(sample)
    if rule == "sheather-jones":
        return _sheather_jones(sample)
    return (0.9 if rule == "silverman" else 1.06) * _scale(sample, 1.34) * float(sample.n ** (-1 / 5))


def _scale(sample: Ordered, iqr_of_normal: float) -> float:
    """The smaller of sd and normalised IQR; the sd where the IQR is 0."""
    sd = sample.moments.norm / math.sqrt(sample.n - 1)
    low, _, high = quartiles(sample)
    return min(sd, (high - low) / iqr_of_normal) or sd


def _sheather_jones(sample: Ordered) -> float:
    """The bandwidth h with h = (1 / (2 √π n S(α(h))))^(1/5), from distances between cells of a fine grid."""
    scale, n = _scale(sample, 1.349), sample.n
    if not scale:
        return 0.0
    centres, shares = _cells(sample, 0.2 * scale * n ** (-1 / 5))
    step = (centres[-1] - centres[0]) / (len(centres) - 1)
    counts = np.rint(shares * n)
    pairs = np.rint(convolved(counts, counts[::-1])[len(counts) - 1 :])  # at a distance of 0, 1, 2 … cells
    pairs[0] -= n  # no value is its own neighbour
    distances = step * np.arange(len(pairs))

    def functional(order: int, width: float) -> float:
        u = distances / width
        near = u < TAIL + 4
        u2 = u[near] ** 2
        hermite = u2**2 - 6 * u2 + 3 if order == 4 else u2**3 - 15 * u2**2 + 45 * u2 - 15
        terms = pairs[near] * hermite * np.exp(-u2 / 2)
        total = 2 * float(terms.sum()) - float(terms[0]) + n * (3 if order == 4 else -15)
        return total / (math.sqrt(2 * math.pi) * n * (n - 1) * width ** (order + 1))

    curvature = functional(4, 0.920 * scale * n ** (-1 / 7))
    slope = -functional(6, 0.912 * scale * n ** (-1 / 9))
    if curvature <= 0 or slope <= 0:
        return bandwidth_by(sample, "silverman")
    ratio = 1.357 * (curvature / slope) ** (1 / 7)

    def excess(h: float) -> float:
        s = functional(4, ratio * h ** (5 / 7))
        return math.inf if s <= 0 else float(1 / (2 * math.sqrt(math.pi) * n * s)) ** 0.2 - h

    low, high = float(0.02 * scale * n ** (-1 / 5)), 2.5 * scale
    if excess(low) < 0 or excess(high) > 0:
        return bandwidth_by(sample, "silverman")
    for _ in range(60):  # halving: the equation is costly to differentiate and quick to evaluate
        middle = (low + high) / 2
        low, high = (middle, high) if excess(middle) > 0 else (low, middle)
    return (low + high) / 2


def _improved(sample: Ordered) -> float:
    """The smallest root of Botev, Grotowski and Kroese's equation t = ξ γ(t), as a bandwidth.

    The values' shares in fine cells are taken apart into cosines over twice their range, in which smoothing by
    a Gaussian is a factor on each.
    """
    from scipy.fft import dct

    span = sample.maximum - sample.minimum
    reach = 2 * span
    edges = sample.minimum - span / 2 + reach * (np.arange(_COSINES + 1) / _COSINES)
    shares = np.diff(sample.below(np.asarray(edges, dtype=np.float64))) / sample.n
    squares = (dct(shares)[1:] / 2) ** 2
    orders = np.arange(1.0, _COSINES) ** 2

    def roughness(order: int, time: float) -> float:
        near = orders * (math.pi**2 * time) < 700
        terms = orders[near] ** order * squares[near] * np.exp(-orders[near] * (math.pi**2 * time))
        return 2 * math.pi ** (2 * order) * float(terms.sum())

    def excess(time: float) -> float:
        found = roughness(_STAGES, time)
        for order in range(_STAGES - 1, 1, -1):
            if not found:
                return -time
            odd = math.prod(range(1, 2 * order, 2)) / math.sqrt(2 * math.pi)
            share = (1 + 0.5 ** (order + 0.5)) / 3
            found = roughness(order, (2 * share * odd / (sample.n * found)) ** (2 / (3 + 2 * order)))
        return (2 * sample.n * math.sqrt(math.pi) * found) ** -0.4 - time if found else -time

    times = np.geomspace(1e-11, 0.1, 121).tolist()
    for low, high in pairwise(times):
        if excess(low) > 0 >= excess(high):
            for _ in range(50):
                middle = (low + high) / 2
                low, high = (middle, high) if excess(middle) > 0 else (low, middle)
            return math.sqrt((low + high) / 2) * reach
    return bandwidth_by(sample, "silverman")
