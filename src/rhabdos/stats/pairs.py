"""Quantiles of a sample beside those of a named shape or of another sample, and where chance alone
would have them."""

import math
from functools import lru_cache

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.stats.named_shapes import SHAPES, NamedShape, ShapeName
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import quantiles

MOST_PAIRS = 512
"""Pairs of quantiles that stand for all."""
_FURTHEST = 1e150  # values and spreads beyond, of which squares or shapes would overflow
_DRAWS = 999  # samples by chance, which say where the points of others lie …
_SEED = 20_240_229  # … the same ones each time
_MOST_DOUBLINGS = 12  # of 512, up to which sizes differ: beyond, bands are narrower by a root alone
_KEPT = 64  # bands by chance that are remembered: they depend on numbers of values alone


class Pairs(Struct, frozen=True, eq=False):
    """At the same ``shares``: ``x`` of the shape or sample compared with, ``y`` of the sample; all
    of shape (k,), x and y in the variable's unit."""

    shares: FloatArray
    x: FloatArray
    y: FloatArray


class PairBand(Struct, frozen=True, eq=False):
    """From where to where the ``y`` of each pair lies, of all pairs at once, in so many samples of
    that shape; infinite where none is too far. Shape (k,), in the variable's unit."""

    low: FloatArray
    high: FloatArray


_NONE = Pairs(np.empty(0), np.empty(0), np.empty(0))


def beside_normal(sample: Ordered) -> Pairs:
    """Against the normal shape with the sample's mean and sd: on a line y = x where that is its
    shape."""
    return beside_shape(sample, "normal")


def beside_shape(sample: Ordered, name: ShapeName) -> Pairs:
    """Against a shape with the sample's mean and sd; one that begins at 0 has its mean alone.

    The shares are (i - 1/2) / n (Hazen 1914), of which the quantiles are the values themselves. Of
    more than 512 values, 512 such shares stand for all, and the shape has the mean and sd of these.

    Parameters
    ----------
    sample : Ordered
        Above 0 for a shape of logs, and not below 0 for one that begins there; else, as for fewer
        than two values or equal ones, there are no pairs.
    """
    shape = SHAPES[name]
    if sample.n < 2 or sample.minimum == sample.maximum or _lacks_place(sample, shape):
        return _NONE
    if max(-sample.minimum, sample.maximum) > _FURTHEST:
        return _NONE
    shares = _shares(sample.n)
    y = quantiles(sample, shares, 5)
    plain = shape.quantiles(shares)
    told = _told(y, shape)
    middle, spread = _fitted(told, shape)
    if not spread > 0:
        return _NONE
    if shape.begins_at_0:
        times = float(plain.mean()) if sample.n > MOST_PAIRS else shape.mean
        x = plain / times * middle
    elif sample.n > MOST_PAIRS:
        x = middle + spread * (plain - plain.mean()) / plain.std(ddof=1)
    else:
        x = middle + spread * (plain - shape.mean) / shape.sd
    return Pairs(shares, _back(x, shape), y)


def beside(sample: Ordered, reference: Ordered) -> Pairs:
    """Against another sample, at the shares of the smaller of the two.

    Parameters
    ----------
    sample, reference : Ordered
        Either of at least two values, in the same unit.
    """
    if not sample.n or not reference.n:
        return _NONE
    shares = _shares(min(sample.n, reference.n))
    return Pairs(shares, quantiles(reference, shares, 5), quantiles(sample, shares, 5))


def band_of_shape(sample: Ordered, name: ShapeName, confidence: float) -> PairBand:
    """Where all points of a sample of that shape would lie, which is fitted to it as here.

    Of 999 such samples so many lie whole in the band, which is as wide at each point as these are
    spread there (a band for a whole curve by chance: Davison and Hinkley 1997, 4.2.4).

    Parameters
    ----------
    confidence : float
        Above 0, up to 0.99: how often all points lie in the band.
    """
    pairs, shape = beside_shape(sample, name), SHAPES[name]
    if not len(pairs.y):
        return PairBand(np.empty(0), np.empty(0))
    low, high = _outcomes(sample.n, name, confidence)
    middle, spread = _fitted(_told(pairs.y, shape), shape)
    ends = (
        (low * middle, high * middle)
        if shape.begins_at_0
        else (middle + spread * low, middle + spread * high)
    )
    return PairBand(*(_back(end, shape) for end in ends))


def band_of_reference(sample: Ordered, reference: Ordered, confidence: float) -> PairBand:
    """Where all points would lie if both samples were of one distribution, whatever that is.

    How many values of the reference lie below each quantile of the sample depends on the sizes
    alone; the band is where so many of 999 such pairs of samples would have them all.
    """
    n, m = sample.n, reference.n
    if not n or not m:
        return PairBand(np.empty(0), np.empty(0))
    least, most = _counts_below(n, m, confidence)
    low = np.where(least > 0, reference.about_at(np.clip(least - 1, 0, m - 1)), -np.inf)
    high = np.where(most < m, reference.about_at(np.clip(most, 0, m - 1)), np.inf)
    return PairBand(np.asarray(low, dtype=np.float64), np.asarray(high, dtype=np.float64))


def _lacks_place(sample: Ordered, shape: NamedShape) -> bool:
    return (shape.of_logs and sample.minimum <= 0) or (shape.begins_at_0 and sample.minimum < 0)


def _told(y: FloatArray, shape: NamedShape) -> FloatArray:
    return np.log(y) if shape.of_logs else y


def _back(x: FloatArray, shape: NamedShape) -> FloatArray:
    if not shape.of_logs:
        return np.asarray(x, dtype=np.float64)
    # Beyond the largest double a value is endless.
    with np.errstate(over="ignore"):
        return np.asarray(np.exp(x), dtype=np.float64)


def _fitted(y: FloatArray, shape: NamedShape) -> tuple[float, float]:
    """The mean and sd of points; of a shape that begins at 0 its mean is its spread too."""
    middle = float(y.mean())
    return middle, middle if shape.begins_at_0 else float(y.std(ddof=1))


def _shares(n: int) -> FloatArray:
    count = min(n, MOST_PAIRS)
    return np.asarray((np.arange(count) + 0.5) / count, dtype=np.float64)


def _uniform_quantiles(n: int, chance: np.random.Generator) -> FloatArray:
    """Quantiles of uniform samples at the shares of n values, shape (draws, k): sums of exponential
    and gamma numbers (Devroye 1986)."""
    count = min(n, MOST_PAIRS)
    if n == count:
        steps = chance.standard_exponential((_DRAWS, n + 1))
    else:
        # Definition 5 at the share p is at the rank n p + 1/2.
        ranks = n * _shares(n) + 0.5
        gaps = np.diff(np.concatenate([[0.0], ranks, [n + 1.0]]))
        steps = chance.standard_gamma(gaps, (_DRAWS, count + 1))
    sums = np.cumsum(steps, axis=1)
    return np.asarray(sums[:, :-1] / sums[:, -1:])


def _outcomes(n: int, name: ShapeName, confidence: float) -> tuple[FloatArray, FloatArray]:
    """Between which places all points of samples of n values lie, told in means and sds."""
    alike = _of_like_size(n)
    plain, low, high = _outcomes_of(alike, name, confidence)
    times = math.sqrt(alike / n)
    return plain + times * (low - plain), plain + times * (high - plain)


@lru_cache(maxsize=_KEPT)  # hundreds of samples, which depend on n alone
def _outcomes_of(n: int, name: ShapeName, confidence: float) -> tuple[FloatArray, ...]:
    """The middle of all outcomes, and between which places they lie."""
    shape = SHAPES[name]
    drawn = shape.quantiles(_uniform_quantiles(n, np.random.default_rng([_SEED, n])))
    middles = drawn.mean(axis=1, keepdims=True)
    if shape.begins_at_0:
        return _envelope(drawn / middles, confidence)
    return _envelope((drawn - middles) / drawn.std(axis=1, ddof=1, keepdims=True), confidence)


def _counts_below(n: int, m: int, confidence: float) -> tuple[IntArray, IntArray]:
    """The least and the most values of m that lie below each quantile of n from the same
    distribution."""
    alike = _of_like_size(n), _of_like_size(m)
    _, low, high = _shares_below(*alike, confidence)
    shares = _shares(min(n, m))
    times = math.sqrt((1 / n + 1 / m) / (1 / alike[0] + 1 / alike[1]))
    ends = (np.ceil(m * (shares + times * low) - 0.5), np.floor(m * (shares + times * high) + 0.5))
    least, most = (np.clip(end, 0, m).astype(np.int64) for end in ends)
    return least, most


@lru_cache(maxsize=_KEPT)  # as above
def _shares_below(n: int, m: int, confidence: float) -> tuple[FloatArray, ...]:
    """How far the share of m values below a quantile of n is from its own share: the middle of all
    outcomes, and between which they lie."""
    chance = np.random.default_rng([_SEED, n, m])
    shares = _shares(min(n, m))
    if n > m:  # at the shares of the smaller
        gaps = np.diff(np.concatenate([[0.0], n * shares + 0.5, [n + 1.0]]))
        sums = np.cumsum(chance.standard_gamma(gaps, (_DRAWS, len(gaps))), axis=1)
        places = sums[:, :-1] / sums[:, -1:]
    else:
        places = _uniform_quantiles(n, chance)
    below = chance.random(places.shape) - 0.5  # so that equal counts have an order
    left, last = np.full(_DRAWS, m), np.zeros(_DRAWS)
    for index in range(len(shares)):
        here = places[:, index]
        left = left - chance.binomial(left, np.clip((here - last) / (1 - last), 0.0, 1.0))
        below[:, index] += m - left
        last = here
    return _envelope(below / m - shares, confidence)


def _of_like_size(n: int) -> int:
    """The size of sample that stands for one of n values, times a root: of long ones, few sizes
    are drawn by chance."""
    if n <= MOST_PAIRS:
        return n
    doublings = min(_MOST_DOUBLINGS, math.log2(n / MOST_PAIRS))
    return round(MOST_PAIRS * 2 ** (round(2 * doublings) / 2))


def _envelope(drawn: FloatArray, confidence: float) -> tuple[FloatArray, ...]:
    """The middle of some curves, and the lines between which so many of them lie whole.

    The lines are as far from the middle curve, at either side of each place, as the middle 95 % of
    the curves are there, times one number that is as large as is needed.

    Parameters
    ----------
    drawn : array, shape (draws, k)
        A curve a row.
    """
    curves = np.ascontiguousarray(drawn.T)
    ordered = np.sort(curves, axis=1)
    low, middle, high = (
        ordered[:, round(share * (_DRAWS - 1)), None] for share in (0.025, 0.5, 0.975)
    )
    # Where all outcomes are alike there is no way off the middle.
    with np.errstate(divide="ignore", invalid="ignore"):
        off = np.where(curves < middle, (middle - curves) / (middle - low), 0.0)
        off = np.where(curves > middle, (curves - middle) / (high - middle), off)
    furthest = np.sort(np.nanmax(off, axis=0))
    times = float(furthest[min(_DRAWS, math.ceil(confidence * (_DRAWS + 1))) - 1])
    ends = (middle, middle - times * (middle - low), middle + times * (high - middle))
    return tuple(end[:, 0] for end in ends)
