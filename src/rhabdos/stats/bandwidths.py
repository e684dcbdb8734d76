"""Bandwidths of density curves, by rule."""

import math
from itertools import pairwise
from typing import Literal

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.memo import memoised
from rhabdos.stats.kernels import TAIL
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import quartiles

BandwidthRule = Literal["silverman", "scott", "sheather-jones", "improved-sheather-jones"]

TITLES: dict[BandwidthRule, str] = {
    "silverman": "Silverman",
    "scott": "Scott",
    "sheather-jones": "Sheather–Jones",
    "improved-sheather-jones": "Sheather–Jones, improved",
}
"""The rules as people call them."""

_MOST_COUNTED = 1 << 17  # cells over the values; more are of no use to a bandwidth
_CELLS_PER_BANDWIDTH = 50  # of the finest bandwidth that the equation may come to
_TAILS = (
    5e-4  # of the values at either end, which are left out where they would make the cells coarse
)
_COSINES = 1 << 14  # cells over the values and as much room again, for the improved rule
_STAGES = 7  # of plugging in, as its authors advise
_NORMAL = ("silverman", "scott")  # the rules that suppose a normal shape, and need no cells


class Bandwidth(Struct, frozen=True):
    """A bandwidth in the variable's unit, and the rule that gave it: Silverman's where the one
    asked for has no answer.

    All rules give 0 where the values are all the same.
    """

    width: float
    rule: BandwidthRule


@memoised  # each rule goes through the whole sample
def ruled_bandwidth(sample: Ordered, rule: BandwidthRule) -> Bandwidth:
    """A bandwidth by rule, in the variable's unit.

    "silverman" and "scott" suppose a normal shape: 0.9 and 1.06 times min(sd, IQR / 1.34) over the
    fifth root of n (Silverman 1986, Scott 1992). "sheather-jones" solves their equation (Sheather
    and Jones 1991); "improved-sheather-jones" supposes no normal shape at any stage (Botev,
    Grotowski and Kroese 2010).

    Parameters
    ----------
    sample : Ordered
        The values; equal ones have no bandwidth of their own.
    rule : str
        silverman, scott, sheather-jones or improved-sheather-jones.
    """
    if sample.n < 2 or sample.minimum == sample.maximum:
        return Bandwidth(0.0, rule)
    solved: float | None
    if rule not in _NORMAL and not math.isfinite(4 * (sample.maximum - sample.minimum)):
        solved = None
    elif rule == "improved-sheather-jones":
        solved = _improved(sample)
    elif rule == "sheather-jones":
        solved = _sheather_jones(sample)
    else:
        solved = (
            (0.9 if rule == "silverman" else 1.06)
            * _scale(sample, 1.34)
            * float(sample.n ** (-1 / 5))
        )
    return Bandwidth(solved, rule) if solved is not None else ruled_bandwidth(sample, "silverman")


def _scale(sample: Ordered, iqr_of_normal: float) -> float:
    """The smaller of sd and normalised IQR; the sd where the IQR is 0."""
    sd = sample.moments.norm / math.sqrt(sample.n - 1)
    low, _, high = quartiles(sample)
    return min(sd, (high - low) / iqr_of_normal) or sd


def _cells(sample: Ordered, finest: float) -> tuple[float, FloatArray]:
    """The width of fine cells over the values, and the counts in them.

    A few values far from all others would make the cells coarse. They have no neighbours that the
    equation could feel, so that it changes nothing to leave the outermost ones out.
    """
    low, high = sample.minimum, sample.maximum
    if (high - low) / finest > _MOST_COUNTED:
        cut = math.ceil(_TAILS * sample.n)
        inner_low, inner_high = (
            sample.at(np.array([cut, sample.n - 1 - cut])).tolist()
            if sample.n > 2 * cut
            else (low, high)
        )
        if inner_low < inner_high:
            low, high = inner_low, inner_high
    step = max(finest, (high - low) / _MOST_COUNTED)
    count = max(2, math.ceil((high - low) / step) + 1)
    edges = np.asarray(low - step / 2 + step * np.arange(count + 1), dtype=np.float64)
    below = sample.about_below(edges)
    return step, np.asarray(below[1:] - below[:-1], dtype=np.float64)


def _sheather_jones(sample: Ordered) -> float | None:
    """The bandwidth h with h = (1 / (2 √π n S(α(h))))^(1/5), from distances between cells of a fine
    grid.

    The pilot bandwidths are the paper's 0.920 IQR n^(-1/7) and 0.912 IQR n^(-1/9), with the more
    robust min(sd, IQR / 1.349) in place of the IQR: for a normal shape, whose IQR is 1.349 sd, they
    are the same.
    """
    from rhabdos.stats.kernel_sums import convolved

    scale, n = _scale(sample, 1.349), sample.n
    finest = 0.2 * scale * n ** (-1 / 5) / _CELLS_PER_BANDWIDTH
    if not finest:  # below the smallest number
        return None
    step, counts = _cells(sample, finest)
    pairs = np.rint(
        convolved(counts, counts[::-1])[len(counts) - 1 :]
    )  # at a distance of 0, 1, 2 … cells
    pairs[0] -= counts.sum()  # no value is its own neighbour
    distances = (
        step / scale * np.arange(len(pairs))
    )  # all is worked out in units of the scale, and fits any number

    def functional(order: int, width: float) -> float:
        """The estimated functional of the density, of this order."""
        near = distances.searchsorted((TAIL + 4) * width)
        u2 = (distances[:near] / width) ** 2
        hermite = u2**2 - 6 * u2 + 3 if order == 4 else u2**3 - 15 * u2**2 + 45 * u2 - 15
        terms = pairs[:near] * hermite * np.exp(-u2 / 2)
        total = 2 * float(terms.sum()) - float(terms[0]) + n * (3 if order == 4 else -15)
        return total / (math.sqrt(2 * math.pi) * n * (n - 1)) / width ** (order + 1)

    curvature = functional(4, 0.920 * 1.349 * n ** (-1 / 7))
    slope = -functional(6, 0.912 * 1.349 * n ** (-1 / 9))
    if curvature <= 0 or slope <= 0:
        return None
    ratio = 1.357 * (curvature / slope) ** (1 / 7)

    def excess(h: float) -> float:
        """By how much a bandwidth misses its own equation."""
        s = functional(4, ratio * h ** (5 / 7))
        return math.inf if s <= 0 else float(1 / (2 * math.sqrt(math.pi) * n * s)) ** 0.2 - h

    low, high = float(0.02 * n ** (-1 / 5)), 2.5
    if excess(low) < 0 or excess(high) > 0:
        return None
    for _ in range(40):  # halving: the equation is costly to differentiate and quick to evaluate
        middle = (low + high) / 2
        low, high = (middle, high) if excess(middle) > 0 else (low, middle)
    return (low + high) / 2 * scale


def _improved(sample: Ordered) -> float | None:
    """The root of Botev, Grotowski and Kroese's equation t = ξ γ(t), as a bandwidth.

    The values' shares in fine cells are taken apart into cosines over twice their range, in which
    smoothing by a Gaussian is a factor on each. Rounded and repeated values give the equation a
    second root, below the cells and the grain of the values, at which each value is a spike of its
    own: such a root is none.
    """
    from scipy.fft import dct

    span = sample.maximum - sample.minimum
    reach = 2 * span
    edges = sample.minimum - span / 2 + reach * (np.arange(_COSINES + 1) / _COSINES)
    shares = np.diff(sample.about_below(np.asarray(edges, dtype=np.float64))) / sample.n
    squares = (dct(shares)[1:] / 2) ** 2
    orders = np.arange(1.0, _COSINES) ** 2

    def roughness(order: int, time: float) -> float:
        """The estimated roughness at this stage."""
        near = orders * (math.pi**2 * time) < 700
        terms = orders[near] ** order * squares[near] * np.exp(-orders[near] * (math.pi**2 * time))
        return 2 * math.pi ** (2 * order) * float(terms.sum())

    def excess(time: float) -> float:
        """By how much a bandwidth misses its own fixed point."""
        integral = roughness(_STAGES, time)
        for order in range(_STAGES - 1, 1, -1):
            if not integral:
                return -time
            odd = math.prod(range(1, 2 * order, 2)) / math.sqrt(2 * math.pi)
            share = (1 + 0.5 ** (order + 0.5)) / 3
            integral = roughness(
                order, (2 * share * odd / (sample.n * integral)) ** (2 / (3 + 2 * order))
            )
        return (2 * sample.n * math.sqrt(math.pi) * integral) ** -0.4 - time if integral else -time

    finest = max(reach / _COSINES, _grain(sample) / 2)
    times = np.geomspace((finest / reach) ** 2, 0.1, 121).tolist()
    for low, high in pairwise(times):
        if excess(low) > 0 >= excess(high):
            for _ in range(50):
                middle = (low + high) / 2
                low, high = (middle, high) if excess(middle) > 0 else (low, middle)
            return math.sqrt((low + high) / 2) * reach
    return None


def _grain(sample: Ordered) -> float:
    """The step to which values are rounded, where most of them are not alone; 0 otherwise."""
    read = min(sample.n, _MOST_COUNTED)
    values = np.unique(sample.about_at((np.arange(read) * (sample.n / read)).astype(np.int64)))
    return float(np.diff(values).min()) if 1 < len(values) <= read / 2 else 0.0
