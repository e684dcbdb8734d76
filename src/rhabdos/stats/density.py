"""Density curves: sums of kernels over a sample, at a cost that does not grow with it."""

import math
from collections.abc import Callable, Mapping
from typing import Literal

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.errors import Refusal
from rhabdos.stats.ordered import Ordered

KernelName = Literal["gaussian", "epanechnikov", "biweight", "triangular", "rectangular", "cosine"]

POINTS = 512
CELLS_PER_BANDWIDTH = 80
_MOST_CELLS = 1 << 20
_MOST_READ = 1 << 17  # values; of a longer sample every k-th in order stands for its neighbours
TAIL = 8.0  # bandwidths after which a Gaussian is nothing to a double's eye


class DensityError(Refusal):
    """A density curve cannot be drawn of these values."""


class Kernel(Struct, frozen=True):
    """A kernel with standard deviation 1, so that one bandwidth smooths as much with any of them.

    Attributes
    ----------
    reach : float
        Beyond which it is 0.
    height : callable
        Of |u| <= reach.
    """

    reach: float
    height: Callable[[FloatArray], FloatArray]


_COSINE = 1 / math.sqrt(1 - 8 / math.pi**2)


def _within(reach: float, shape: Callable[[FloatArray], FloatArray]) -> Kernel:
    """A kernel that is ``shape`` of u / reach, for |u| <= reach."""
    return Kernel(reach, lambda u: shape(np.minimum(np.abs(u) / reach, 1.0)) / reach)


KERNELS: Mapping[KernelName, Kernel] = {
    "gaussian": Kernel(TAIL, lambda u: np.exp(-u * u / 2) / math.sqrt(2 * math.pi)),
    "epanechnikov": _within(math.sqrt(5), lambda t: 0.75 * (1 - t * t)),
    "biweight": _within(math.sqrt(7), lambda t: 15 / 16 * (1 - t * t) ** 2),
    "triangular": _within(math.sqrt(6), lambda t: 1 - t),
    "rectangular": _within(math.sqrt(3), lambda t: np.full_like(t, 0.5)),
    "cosine": _within(_COSINE, lambda t: math.pi / 4 * np.cos(math.pi * t / 2)),
}


class Curve(Struct, frozen=True, eq=False):
    """A density at points along the scale; ``y`` integrates to 1 between the bounds."""

    x: FloatArray
    y: FloatArray
    bandwidth: float


def density(
    sample: Ordered,
    bandwidth: float,
    kernel: KernelName = "gaussian",
    lower: float | None = None,
    upper: float | None = None,
    points: int = POINTS,
) -> Curve:
    """The density curve of a sample.

    Up to 131,072 values are read, evenly spaced in rank. Smooth kernels are summed on a grid of 1/80 bandwidth
    by Fourier transform; kernels with corners from running sums, which is exact. The error against the
    sum over all values is below 1e-4 of the peak as long as they span fewer than 13,000 bandwidths.

    Parameters
    ----------
    bandwidth : float
        Standard deviation of the kernel, in the variable's unit.
    lower, upper : float, optional
        Bounds that no value can pass; the curve is reflected there, so that nothing lies beyond.

    Raises
    ------
    DensityError
        No values, a bandwidth that is not above 0, or values beyond a bound.
    """
    if not sample.n:
        raise DensityError("There are no values to draw a curve of.")
    if not (math.isfinite(bandwidth) and bandwidth > 0):
        raise DensityError("A curve needs a bandwidth above 0. Equal values have none of their own; type one.")
    _check_bounds(sample, lower, upper)
    reach = KERNELS[kernel].reach * bandwidth
    low = max(sample.minimum - reach, -math.inf if lower is None else lower)
    high = min(sample.maximum + reach, math.inf if upper is None else upper)
    x: FloatArray = np.asarray(np.linspace(low, high, points), dtype=np.float64)
    sum_at = _running(sample, bandwidth, kernel) if kernel in _PARTS else _gridded(sample, bandwidth, kernel)
    with np.errstate(over="ignore"):
        y = sum_at(x)
        if lower is not None:
            y = y + sum_at(2 * lower - x)
        if upper is not None:
            y = y + sum_at(2 * upper - x)
    if not np.all(np.isfinite(y)):
        raise DensityError("The values lie so close together that a density passes the largest number.")
    return Curve(x, np.maximum(y, 0.0), bandwidth)


def _check_bounds(sample: Ordered, lower: float | None, upper: float | None) -> None:
    if lower is not None and sample.minimum < lower:
        count = int(sample.below(np.array([lower]))[0])
        raise DensityError(f"{count:,} of the values lie below the lower bound {lower:g}, so it is no bound of theirs.")
    if upper is not None and sample.maximum > upper:
        count = sample.n - int(sample.below(np.array([upper]), inclusive=True)[0])
        raise DensityError(f"{count:,} of the values lie above the upper bound {upper:g}, so it is no bound of theirs.")


_Sum = Callable[[FloatArray], FloatArray]
_Terms = tuple[Callable[[FloatArray], FloatArray], Callable[[FloatArray], FloatArray]]


def _one(t: FloatArray) -> FloatArray:
    return np.ones_like(t)


def _turn(t: FloatArray) -> FloatArray:
    return math.pi / 2 * t


# Kernels of t = u / reach as sums of products of a term in the place x and a term in the value v, so that
# running sums over the values answer for every place. The triangle has two: left and right of the place.
_PARTS: Mapping[KernelName, tuple[tuple[_Terms, ...], tuple[_Terms, ...]]] = {
    "rectangular": (((lambda x: 0.5 * _one(x), _one),), ((lambda x: 0.5 * _one(x), _one),)),
    "triangular": (((lambda x: 1 - x, _one), (_one, lambda v: v)), ((lambda x: 1 + x, _one), (_one, lambda v: -v))),
    "epanechnikov": (
        ((lambda x: 0.75 * (1 - x * x), _one), (lambda x: 1.5 * x, lambda v: v), (_one, lambda v: -0.75 * v * v)),
    )
    * 2,
    "cosine": (
        (
            (lambda x: math.pi / 4 * np.cos(_turn(x)), lambda v: np.cos(_turn(v))),
            (lambda x: math.pi / 4 * np.sin(_turn(x)), lambda v: np.sin(_turn(v))),
        ),
    )
    * 2,
}


def _running(sample: Ordered, bandwidth: float, kernel: KernelName) -> _Sum:
    """The sum of a kernel with corners, from running sums of its terms over the values."""
    reach = KERNELS[kernel].reach * bandwidth
    values = _read(sample)
    middle = float(values[len(values) // 2])
    scaled = (values - middle) / reach
    left_terms, right_terms = (
        [(of_x, np.concatenate([[0.0], np.cumsum(of_v(scaled))])) for of_x, of_v in side] for side in _PARTS[kernel]
    )

    def sum_at(x: FloatArray) -> FloatArray:
        place = (x - middle) / reach
        first = scaled.searchsorted(place - 1)
        here = scaled.searchsorted(place)
        last = scaled.searchsorted(place + 1, "right")
        total = np.zeros_like(x)
        for terms, begin, end in ((left_terms, first, here), (right_terms, here, last)):
            for of_x, running in terms:
                total += of_x(place) * (running[end] - running[begin])
        return total / (len(values) * reach)

    return sum_at


def _gridded(sample: Ordered, bandwidth: float, kernel: KernelName) -> _Sum:
    """The sum of a smooth kernel, from the values' shares in two neighbouring points of a grid each."""
    values = _read(sample)
    low, span = float(values[0]), float(values[-1] - values[0])
    step = max(bandwidth / CELLS_PER_BANDWIDTH, span / _MOST_CELLS)
    place = (values - low) / step
    cell = np.floor(place).astype(np.int64)
    part = place - cell
    size = int(cell[-1]) + 2
    shares = np.bincount(cell, 1 - part, size) + np.bincount(cell + 1, part, size)
    shape = KERNELS[kernel]
    margin = math.ceil(shape.reach * bandwidth / step) + 1
    distances = np.asarray(np.arange(-margin, margin + 1) * (step / bandwidth), dtype=np.float64)
    smooth = convolved(shares / len(values), shape.height(distances))
    cells = np.arange(-margin, size + margin)
    return lambda x: np.asarray(
        np.interp((x - low) / step, cells, smooth, left=0.0, right=0.0) / bandwidth, dtype=np.float64
    )


def _read(sample: Ordered) -> FloatArray:
    """The values in order, or as many of them, evenly spaced in rank, as stand for all."""
    if sample.n <= _MOST_READ:
        return sample.at(np.arange(sample.n))
    return sample.at(((np.arange(_MOST_READ) + 0.5) * (sample.n / _MOST_READ)).astype(np.int64))


def convolved(shares: FloatArray, heights: FloatArray) -> FloatArray:
    """Full convolution by Fourier transform."""
    length = len(shares) + len(heights) - 1
    size = 1 << (length - 1).bit_length()
    product = np.fft.rfft(shares, size) * np.fft.rfft(heights, size)
    return np.asarray(np.fft.irfft(product, size)[:length], dtype=np.float64)
