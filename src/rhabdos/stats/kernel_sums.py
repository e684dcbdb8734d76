"""Sums of a kernel over the values of a sample, at any places: what density curves are made of."""

import math
from collections.abc import Callable
from functools import cache

import numpy as np
from msgspec import Struct

from rhabdos.arrays import ComplexArray, FloatArray, IntArray
from rhabdos.memo import last_answers, memoised
from rhabdos.stats.kernels import KERNELS, PARTS, KernelName
from rhabdos.stats.ordered import Ordered

CELLS_PER_BANDWIDTH = 50
_MOST_CELLS = 1 << 21
_MOST_KEPT = 1 << 16  # cells of a grid that is kept with its sample
_MOST_READ = 1 << 15  # values; of a longer sample every k-th in order stands for its neighbours …
_ENDS_READ = 1 << 10  # … but for so many at either end, which a reader looks for one by one


class Lattice(Struct, frozen=True):
    """Equally spaced places: anchor + step * k for whole k."""

    anchor: float
    step: float


KernelSum = Callable[[FloatArray], FloatArray]


def running(
    values: FloatArray, shares: FloatArray, bandwidth: float, kernel: KernelName
) -> KernelSum:
    """The sum of a kernel with corners, from running sums of its terms over the values.

    The scale is parted into blocks one reach wide, and terms are of places within a block: of
    places far from where the scale begins, nothing would be left when one running sum is taken from
    another.

    Parameters
    ----------
    values, shares : array, shape (k,)
        In order, and what share of the sample each stands for; shares add up to 1.
    bandwidth : float
        Standard deviation of the kernel, in the values' unit.
    kernel : str
        One of ``PARTS``.
    """
    reach = KERNELS[kernel].reach * bandwidth
    origin = float(values[0])
    scaled = (values - origin) / reach
    within = scaled - np.floor(scaled)
    left_terms, right_terms = (
        [(of_x, np.concatenate([[0.0], np.cumsum(of_v(within) * shares)])) for of_x, of_v in side]
        for side in PARTS[kernel]
    )

    def sum_at(x: FloatArray) -> FloatArray:
        """The sum of kernels at places."""
        place = (x - origin) / reach
        block = np.floor(place)
        first = scaled.searchsorted(place - 1)
        here = scaled.searchsorted(place)
        last = scaled.searchsorted(place + 1, "right")
        total = np.zeros_like(x)
        starts = [scaled.searchsorted(block + shift) for shift in (-1, 0, 1, 2)]
        for shift, opens, closes in zip((-1, 0, 1), starts, starts[1:], strict=False):
            for terms, begin, end in ((left_terms, first, here), (right_terms, here, last)):
                low, high = np.clip(opens, begin, end), np.clip(closes, begin, end)
                for of_x, running in terms:
                    total += of_x(place - block - shift) * (running[high] - running[low])
        return total / reach

    return sum_at


class Packed(Struct, frozen=True):
    """Whole places along a scale, with gaps wider than any kernel taken out."""

    places: IntArray
    removed: IntArray
    """How much was taken out before each value."""

    @classmethod
    def of(cls, cells: IntArray, margin: int) -> "Packed":
        """The packed place of cells."""
        beyond = np.diff(cells) - (2 * margin + 4)
        removed: IntArray = np.zeros(len(cells), dtype=np.int64)
        if len(beyond) and beyond.max() > 0:
            removed[1:] = np.cumsum(np.maximum(beyond, 0))
        return cls(cells - cells[0] - removed, removed)

    @property
    def length(self) -> int:
        """How many cells there are without the gaps."""
        return int(self.places[-1]) + 2


def shared_out(
    values: FloatArray, shares: FloatArray, lattice: Lattice, margin: int
) -> tuple[FloatArray, IntArray, Packed]:
    """Each value's share in the two points of a lattice beside it, and which these are, packed.

    Parameters
    ----------
    values, shares : array, shape (k,)
        In order, and what share of the sample each stands for.
    lattice : Lattice
        Whose points take the shares.
    margin : int
        Points that a kernel reaches; wider gaps between values are taken out.
    """
    place = (values - lattice.anchor) / lattice.step
    floors = np.floor(place)
    cells, part = floors.astype(np.int64), place - floors
    packed = Packed.of(cells, margin)
    first, second = (
        np.bincount(packed.places + place, weights, packed.length)
        for place, weights in ((0, (1 - part) * shares), (1, part * shares))
    )
    return np.asarray(first + second, dtype=np.float64), cells, packed


class _Grid(Struct, frozen=True, eq=False):
    """The values of a sample on a grid: where they are, and their shares as a spectrum."""

    cells: IntArray
    packed: Packed
    size: int
    spectrum: ComplexArray


def _grid(sample: Ordered, step: float, margin: int) -> _Grid:
    """``margin`` cells are left free on either side, for what kernels reach beyond the values."""
    values, shares = values_read(sample)
    held, cells, packed = shared_out(values, shares, Lattice(float(values[0]), step), margin)
    size = _fast_length(packed.length + 2 * margin)
    return _Grid(cells, packed, size, np.fft.rfft(np.pad(held, (margin, 0)), size))


_kept_grid = last_answers(lambda _, *of: of, most=2)(_grid)


def gridded(sample: Ordered, bandwidth: float, kernel: KernelName) -> KernelSum:
    """The sum of a smooth kernel, from the values' shares in two neighbouring points of a grid
    each.

    The grid's step is the span of the values halved as often as it takes, so that it stays while a
    hand moves the bandwidth, and with it all but the kernel.

    Parameters
    ----------
    sample : Ordered
        Of at least one value.
    bandwidth : float
        Standard deviation of the kernel, in the values' unit.
    kernel : str
        One that is not in ``PARTS``.
    """
    shape, origin = KERNELS[kernel], float(values_read(sample)[0][0])
    step, span = bandwidth / CELLS_PER_BANDWIDTH, _span(sample)
    if span:
        step = math.ldexp(span, -math.ceil(math.log2(span / step)))
    widest = 2 * CELLS_PER_BANDWIDTH * step
    while True:
        most = math.ceil(shape.reach * widest / step) + 1
        if most < 4 or _cells(sample, step, most) <= _MOST_CELLS:
            break
        step *= 2
    grid = (_kept_grid if span / step < _MOST_KEPT else _grid)(sample, step, most)
    margin = math.ceil(shape.reach * bandwidth / step) + 1
    product = grid.spectrum * _spectrum(kernel, step / bandwidth, margin, grid.size)
    smooth = np.fft.irfft(product, grid.size)
    cells, gaps = grid.cells, grid.packed.removed
    opens = np.flatnonzero(np.concatenate([[True], np.diff(gaps) > 0]))
    begins, removed = cells[opens] - margin, gaps[opens]
    ends = cells[np.concatenate([opens[1:] - 1, [len(cells) - 1]])] + margin + 1
    places = np.arange(len(smooth), dtype=np.float64)

    def sum_at(x: FloatArray) -> FloatArray:
        """The sum of kernels at places."""
        place = (x - origin) / step
        stretch = np.maximum(begins.searchsorted(place, "right") - 1, 0)
        heights = np.interp(place - removed[stretch] + most, places, smooth)
        inside = (place >= begins[stretch]) & (place <= ends[stretch])
        return np.asarray(np.where(inside, heights, 0.0) / bandwidth, dtype=np.float64)

    return sum_at


def _spectrum(kernel: KernelName, cell: float, margin: int, size: int) -> FloatArray | ComplexArray:
    """The transform of a kernel on a grid of ``size`` cells, each so many bandwidths wide, with its
    middle in the first one."""
    if kernel == "gaussian":
        # In closed form. Sharing each value between two cells has smoothed with a triangle, whose
        # transform is taken out of it again.
        turns = np.arange(size // 2 + 1) / size
        smoothed = np.exp(-2 * (np.pi * turns / cell) ** 2) / cell
        return np.asarray(smoothed / np.sinc(turns) ** 2, dtype=np.float64)
    shape = KERNELS[kernel]
    distances = np.asarray(np.arange(margin + 1) * cell, dtype=np.float64)
    half = np.where(distances <= shape.reach, shape.height(distances), 0.0)
    heights = np.zeros(size)
    heights[: margin + 1] = half
    heights[size - margin :] = half[:0:-1]
    return np.fft.rfft(heights)


def _span(sample: Ordered) -> float:
    values = values_read(sample)[0]
    return float(values[-1] - values[0])


def _cells(sample: Ordered, step: float, margin: int) -> int:
    """How many cells a grid would have, without the gaps that no kernel reaches."""
    if _span(sample) / step < _MOST_CELLS:  # the usual case needs no look at the gaps
        return 0
    values = values_read(sample)[0]
    return Packed.of(np.floor((values - values[0]) / step).astype(np.int64), margin).length


@memoised  # while a hand sets the bandwidth, the values stay
def values_read(sample: Ordered) -> tuple[FloatArray, FloatArray]:
    """The values in order with their shares: all of them, or as many as stand for all."""
    n = sample.n
    if n <= _MOST_READ:
        return sample.at(np.arange(n)), np.full(n, 1 / n)
    inner, read = n - 2 * _ENDS_READ, _MOST_READ - 2 * _ENDS_READ
    between = _ENDS_READ + ((np.arange(read) + 0.5) * (inner / read)).astype(np.int64)
    ranks = np.concatenate([np.arange(_ENDS_READ), between, np.arange(n - _ENDS_READ, n)])
    values = sample.at(ranks)
    different = np.unique(values)
    if (
        len(different) <= len(values) // 2
    ):  # rounded values: each has the share of all that are the same
        upto = sample.below(different, inclusive=True)
        return different, np.diff(np.concatenate([[0], upto])) / n
    shares = np.full(_MOST_READ, 1 / n)
    shares[_ENDS_READ:-_ENDS_READ] = inner / read / n
    return values, shares


def convolved(shares: FloatArray, heights: FloatArray) -> FloatArray:
    """Full convolution by Fourier transform.

    Parameters
    ----------
    shares : array, shape (n,)
    heights : array, shape (m,)
    """
    length = len(shares) + len(heights) - 1
    size = _fast_length(length)
    product = np.fft.rfft(shares, size) * np.fft.rfft(heights, size)
    return np.asarray(np.fft.irfft(product, size)[:length], dtype=np.float64)


@cache
def _fast_length(least: int) -> int:
    """The smallest length from here on whose only factors are 2, 3 and 5, which transforms are
    quick at."""
    fives = (5**i for i in range(math.ceil(math.log(least, 5)) + 1))
    products = (five * 3**i for five in fives for i in range(math.ceil(math.log(least, 3)) + 1))
    doublings: list[int] = [odd << (-(-least // odd) - 1).bit_length() for odd in products]
    return min(doublings)
