"""Sums of a kernel over the values of a sample, at any places: what density curves are made of."""

import math
from collections.abc import Callable
from functools import cache

import numpy as np
from msgspec import Struct

from rhabdos.arrays import ComplexArray, FloatArray, IntArray
from rhabdos.memo import last_answers, memoised
from rhabdos.stats.kernels import KERNELS, PARTS, TAIL, KernelName
from rhabdos.stats.ordered import Ordered

POINTS_PER_BANDWIDTH = 10
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
        """The packed place of cells.

        Parameters
        ----------
        cells : array of int, shape (k,)
            Numbers of cells, ascending.
        """
        beyond = np.diff(cells) - (2 * margin + 4)
        removed: IntArray = np.zeros(len(cells), dtype=np.int64)
        if len(beyond) and beyond.max() > 0:
            removed[1:] = np.cumsum(np.maximum(beyond, 0))
        return cls(cells - cells[0] - removed, removed)

    @property
    def length(self) -> int:
        """How many points there are without the gaps, with those that values share in."""
        return int(self.places[-1]) + 3


def shared_out(
    values: FloatArray, shares: FloatArray, lattice: Lattice, margin: int
) -> tuple[FloatArray, IntArray, Packed]:
    """Each value's share in the three points of a lattice around it, by a quadratic spline, and
    which is the first of them, packed.

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
    nearest = np.floor(place + 0.5)
    first, off = nearest.astype(np.int64) - 1, place - nearest
    packed = Packed.of(first, margin)
    parts = ((0.5 - off) ** 2 / 2, 0.75 - off**2, (0.5 + off) ** 2 / 2)
    shared = np.zeros(packed.length)
    for shift, part in enumerate(parts):
        shared += np.bincount(packed.places + shift, part * shares, packed.length)
    return shared, first, packed


def lattice_for(bandwidth: float, anchor: float, whole: float, most: float) -> Lattice:
    """A lattice with 10 to 20 points a bandwidth, or more where they would be further apart than
    ``most``.

    Parameters
    ----------
    whole : float
        A length that is halved, or doubled, as often as it takes: so the points stay while a hand
        moves the bandwidth, and with them all of a sum but the kernel. 0 for the bandwidth itself.
    """
    step = min(bandwidth / POINTS_PER_BANDWIDTH, most)
    if whole:
        halvings = math.frexp(step)[1] - math.frexp(whole)[1]
        step, wanted = math.ldexp(whole, halvings), step
        step = step if step <= wanted else step / 2
    return Lattice(anchor, step)


class _Grid(Struct, frozen=True, eq=False):
    """The values of a sample on a lattice: their shares as a spectrum, and the stretches of points
    that kernels reach, with how much was taken out before each."""

    begins: IntArray
    ends: IntArray
    removed: IntArray
    size: int
    turns: FloatArray
    """Frequencies in radians from point to point, squared and halved."""
    spectrum: ComplexArray


# A few, so that curve, violin and small pictures do not drive each other out.
@last_answers(lambda _, *of: of)
def _grid(sample: Ordered, lattice: Lattice, reach: int) -> _Grid:
    """As many points as a kernel reaches are left free on either side of the values."""
    values, shares = values_read(sample)
    shared, at, packed = shared_out(values, shares, lattice, reach)
    size = _fast_length(packed.length + 2 * reach)
    opens = np.flatnonzero(np.concatenate([[True], np.diff(packed.removed) > 0]))
    turns = np.arange(size // 2 + 1) / size
    # Sharing values has smoothed them with a spline already, whose transform is taken out again.
    spectrum = np.fft.rfft(np.pad(shared, (reach, 0)), size) / np.sinc(turns) ** 3
    return _Grid(
        at[opens] - reach,
        at[np.append(opens[1:], len(at)) - 1] + reach + 2,
        packed.removed[opens] + at[0] - reach,
        size,
        2 * (np.pi * turns) ** 2,
        spectrum,
    )


def gridded(sample: Ordered, bandwidth: float, lattice: Lattice) -> KernelSum:
    """The sum of a Gaussian, from the values' shares in the points of a lattice; between them it is
    interpolated.

    Its transform is taken in closed form.

    Parameters
    ----------
    sample : Ordered
        Of at least one value.
    bandwidth : float
        Standard deviation of the kernel, in the values' unit.
    """
    step, anchor = lattice.step, lattice.anchor
    # As far as the widest bandwidth on this lattice reaches, so that the grid stays.
    doublings = math.frexp(bandwidth / step / POINTS_PER_BANDWIDTH)[1]
    reach = math.ceil(TAIL * math.ldexp(POINTS_PER_BANDWIDTH, doublings)) + 1
    grid = _grid(sample, lattice, reach)
    width = bandwidth / step
    gaussian = np.exp(grid.turns * -(width**2)) * width
    smooth = np.fft.irfft(grid.spectrum * gaussian, grid.size)
    places = np.arange(len(smooth), dtype=np.float64)

    def sum_at(x: FloatArray) -> FloatArray:
        """The sum of kernels at places."""
        place = (x - anchor) / step
        if len(grid.begins) == 1:
            heights = np.interp(place - grid.removed[0], places, smooth, left=0.0, right=0.0)
            return np.asarray(heights / bandwidth, dtype=np.float64)
        stretch = np.maximum(grid.begins.searchsorted(place, "right") - 1, 0)
        heights = np.interp(place - grid.removed[stretch], places, smooth)
        inside = (place >= grid.begins[stretch]) & (place <= grid.ends[stretch])
        return np.asarray(np.where(inside, heights, 0.0) / bandwidth, dtype=np.float64)

    return sum_at


@memoised  # while a hand sets the bandwidth, the values stay
def values_read(sample: Ordered) -> tuple[FloatArray, FloatArray]:
    """The values in order with their shares: all of them, or as many as stand for all."""
    n = sample.n
    if n <= _MOST_READ:
        return sample.about_at(np.arange(n)), np.full(n, 1 / n)
    inner, read = n - 2 * _ENDS_READ, _MOST_READ - 2 * _ENDS_READ
    between = _ENDS_READ + ((np.arange(read) + 0.5) * (inner / read)).astype(np.int64)
    ranks = np.concatenate([np.arange(_ENDS_READ), between, np.arange(n - _ENDS_READ, n)])
    values = sample.about_at(ranks)
    different = np.unique(values)
    if (
        len(different) <= len(values) // 2
    ):  # rounded values: each has the share of all that are the same
        upto = sample.about_below(different, inclusive=True)
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


@cache  # asked for at every step of the bell
def _fast_length(least: int) -> int:
    """The smallest length from here on whose only factors are 2, 3 and 5, which transforms are
    quick at."""
    fives = (5**i for i in range(math.ceil(math.log(least, 5)) + 1))
    products = (five * 3**i for five in fives for i in range(math.ceil(math.log(least, 3)) + 1))
    doublings: list[int] = [odd << (-(-least // odd) - 1).bit_length() for odd in products]
    return min(doublings)
