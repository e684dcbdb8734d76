"""Density curves: sums of kernels over a sample, at a cost that does not grow with it."""

import math
from collections.abc import Callable
from functools import cache

import numpy as np
from msgspec import Struct

from rhabdos.arrays import ComplexArray, FloatArray, IntArray
from rhabdos.errors import Refusal
from rhabdos.memo import last_answers, memoised
from rhabdos.stats.kernels import KERNELS, PARTS, KernelName
from rhabdos.stats.ordered import Ordered

CELLS_PER_BANDWIDTH = 50
_POINTS_PER_BANDWIDTH = 10
_POINTS_PER_STEP = (
    71  # across a rectangular kernel; odd, so that no value has both its steps on points
)
_LEAST_BETWEEN_BOUNDS = 64
_MOST_POINTS = 1 << 16
_MOST_CELLS = 1 << 21
_MOST_KEPT = 1 << 16  # cells of a grid that is kept with its sample
_MOST_READ = 1 << 15  # values; of a longer sample every k-th in order stands for its neighbours …
_ENDS_READ = 1 << 10  # … but for so many at either end, which a reader looks for one by one
_MOST_FOLDS = 2_000
_AREA_OFF = 5e-4
_RESOLUTION = 16  # a bandwidth is at least so many steps between neighbouring doubles


class DensityError(Refusal):
    """A density curve cannot be drawn of these values."""


class NoCurveError(DensityError):
    """These values have no curve with this bandwidth; others of the figure may."""


class Curve(Struct, frozen=True, eq=False):
    """A density at points along the scale, 0 between far ones; its trapezia add up to 1.

    Attributes
    ----------
    x, y : array, shape (k,)
        Ten points a bandwidth where values are, none where there is nothing to show.
    averaged_over : float
        0 where ``y`` is the density at ``x``. Where that would take more than 65,536 points, y is
        its average over so much of the scale.
    """

    x: FloatArray
    y: FloatArray
    bandwidth: float
    averaged_over: float = 0.0

    @property
    def mode(self) -> float:
        """Where the curve is highest: the top of a parabola through its highest points, or the
        middle of a level."""
        top = int(self.y.argmax())
        level = self.y[top:] >= self.y[top] * (1 - 1e-12)
        if (last := len(level) if level.all() else int(level.argmin())) > 1:
            return float(self.x[top] / 2 + self.x[top + last - 1] / 2)
        if not 0 < top < len(self.x) - 1:
            return float(self.x[top])
        before, here, after = self.y[top - 1 : top + 2].tolist()
        bend = before - 2 * here + after
        step, place = float(self.x[top + 1] - self.x[top]), float(self.x[top])
        if bend >= 0 or abs(step - (place - float(self.x[top - 1]))) > 1e-6 * step:
            return place
        return place + float(step * (before - after) / bend / 2)


def density(
    sample: Ordered,
    bandwidth: float,
    kernel: KernelName = "gaussian",
    lower: float | None = None,
    upper: float | None = None,
) -> Curve:
    """The density curve of a sample.

    Up to 32,768 values are read: the 1,024 at either end, and the others evenly spaced in rank.
    Smooth kernels are summed on a grid of at most 1/50 bandwidth by Fourier transform, in which
    gaps wider than the kernel take no room; kernels with corners from running sums, which is exact.
    The error against the sum over all values is below 1e-4 of the peak for bandwidths near those of
    the rules, as long as the values’ surroundings span fewer than 26,000.

    Parameters
    ----------
    bandwidth : float
        Standard deviation of the kernel, in the variable's unit.
    lower, upper : float, optional
        Bounds that no value can pass; the curve is reflected there, as often as it takes, so that
        nothing is lost.

    Raises
    ------
    NoCurveError
        No values, or a bandwidth that is not above 0, or that numbers of this size cannot tell.
    DensityError
        Values lie beyond a bound.
    """
    if not sample.n:
        raise NoCurveError("There are no values to draw a curve of.")
    if not (math.isfinite(bandwidth) and bandwidth > 0):
        raise NoCurveError(
            "A curve needs a bandwidth above 0. Equal values have none of their own; type one."
        )
    _check_bounds(sample, lower, upper)
    reach = KERNELS[kernel].reach * bandwidth
    _check_resolution(sample, bandwidth, reach)
    values, shares = _read(sample)
    felt = reach + bandwidth
    bounds = _Bounds(
        lower if lower is not None and sample.minimum - lower <= felt else None,
        upper if upper is not None and upper - sample.maximum <= felt else None,
    )
    if (
        bounds.width and reach > _MOST_FOLDS * bounds.width
    ):  # smoothed until nothing but the bounds is left
        return Curve(
            np.array([bounds.lower, bounds.upper]), np.full(2, 1 / bounds.width), bandwidth
        )
    lattice = _lattice(values, shares, bandwidth, kernel, bounds)
    sum_at: _Sum | None = None
    # Between two bounds, the steps of a rectangular kernel may need closer points to have the right
    # area.
    for step in (lattice.step, lattice.step / 8, lattice.step / 64):
        points = _points_near(values, reach, _Lattice(lattice.anchor, step))
        if points is None:
            break
        if sum_at is None:
            sum_at = (
                _running(values, shares, bandwidth, kernel)
                if kernel in PARTS
                else _gridded(sample, bandwidth, kernel)
            )
        x = bounds.within(np.asarray(lattice.anchor + step * points, dtype=np.float64))
        y = bounds.folded(sum_at, x, reach)
        if not np.all(np.isfinite(y)):
            raise NoCurveError(
                "The values lie so close together that a density passes the largest number."
            )
        y = np.where(y > 1e-13 * y.max(), y, 0.0)
        if abs(float(np.sum((y[1:] + y[:-1]) / 2 * np.diff(x))) - 1) < _AREA_OFF:
            return Curve(x, y, bandwidth)
    return _averaged(values, shares, bandwidth, kernel, bounds, lattice)


def _check_bounds(sample: Ordered, lower: float | None, upper: float | None) -> None:
    if lower is not None and sample.minimum < lower:
        count = int(sample.below(np.array([lower]))[0])
        raise DensityError(
            f"{count:,} of the values lie below the lower bound {lower:g}, so it is no bound of "
            "theirs."
        )
    if upper is not None and sample.maximum > upper:
        count = sample.n - int(sample.below(np.array([upper]), inclusive=True)[0])
        raise DensityError(
            f"{count:,} of the values lie above the upper bound {upper:g}, so it is no bound of "
            "theirs."
        )


def _check_resolution(sample: Ordered, bandwidth: float, reach: float) -> None:
    low, high = sample.minimum - 2 * reach, sample.maximum + 2 * reach
    if not math.isfinite(high - low) or not math.isfinite(1 / bandwidth):
        raise NoCurveError(
            f"A bandwidth of {bandwidth:.3g} is too large or too small for these values. Choose "
            "another one."
        )
    furthest = max(abs(sample.minimum), abs(sample.maximum))
    if bandwidth < _RESOLUTION * math.ulp(furthest):
        raise NoCurveError(
            f"A bandwidth of {bandwidth:.3g} is finer than numbers near {furthest:.3g} can be "
            "told apart. "
            "Choose a wider one."
        )


class _Lattice(Struct, frozen=True):
    """Equally spaced places: anchor + step * k for whole k."""

    anchor: float
    step: float


_Sum = Callable[[FloatArray], FloatArray]


class _Bounds(Struct, frozen=True):
    """The bounds that lie within a kernel's reach of the values, at which curves are reflected."""

    lower: float | None
    upper: float | None

    @property
    def width(self) -> float:
        """From one to the other; 0 unless there are both."""
        return self.upper - self.lower if self.lower is not None and self.upper is not None else 0.0

    def within(self, x: FloatArray) -> FloatArray:
        """The points between the bounds, with the bounds themselves."""
        if self.lower is not None:
            x = np.concatenate([[self.lower], x[x > self.lower]])
        if self.upper is not None:
            x = np.concatenate([x[x < self.upper], [self.upper]])
        return x

    def folded(self, sum_at: _Sum, x: FloatArray, reach: float) -> FloatArray:
        """The sum at x and at all its mirror images that the kernels reach."""
        if self.lower is None and self.upper is None:
            return sum_at(x)
        if self.lower is None or self.upper is None:
            mirror = self.lower if self.lower is not None else self.upper
            assert mirror is not None
            return sum_at(x) + sum_at(2 * mirror - x)
        y = np.zeros_like(x)
        for turn in range(-(times := math.ceil(reach / self.width / 2) + 1), times + 1):
            moved = x + 2 * turn * self.width
            y += sum_at(moved) + sum_at(2 * self.lower - moved)
        return y


def _lattice(
    values: FloatArray, shares: FloatArray, bandwidth: float, kernel: KernelName, bounds: _Bounds
) -> _Lattice:
    """Where the points of a curve may lie: with a bound on one of them, and steps of the curve
    between them."""
    reach = KERNELS[kernel].reach * bandwidth
    step = (
        2 * reach / _POINTS_PER_STEP
        if kernel == "rectangular"
        else bandwidth / _POINTS_PER_BANDWIDTH
    )
    if bounds.width:
        return _Lattice(
            bounds.lower or 0.0,
            bounds.width / max(_LEAST_BETWEEN_BOUNDS, math.ceil(bounds.width / step)),
        )
    if bounds.lower is not None or bounds.upper is not None:
        return _Lattice(
            bounds.lower if bounds.lower is not None else float(bounds.upper or 0.0), step
        )
    if kernel != "rectangular":
        return _Lattice(float(values[0]), step)
    # Every value steps up and down at the same place between points. Where fewest do, no point is
    # in doubt.
    between = ((values - values[0]) / step) % 1.0
    held = np.bincount((between * 64).astype(np.int64) % 64, shares, 64)
    return _Lattice(float(values[0]) - reach + step * (int(held.argmin()) + 0.5) / 64, step)


def _points_near(values: FloatArray, reach: float, lattice: _Lattice) -> IntArray | None:
    """The lattice's points within reach of a value and one to either side, or None where they are
    too many."""
    # Stretches of values so near to each other that their points go on from one to the next.
    closes = np.flatnonzero(np.diff(values) > 2 * reach + 5 * lattice.step)
    opening, closing = (
        values[np.concatenate([[0], closes + 1])],
        values[np.append(closes, len(values) - 1)],
    )
    begin = np.floor((opening - reach - lattice.anchor) / lattice.step).astype(np.int64) - 1
    end = np.ceil((closing + reach - lattice.anchor) / lattice.step).astype(np.int64) + 1
    lengths = end - begin + 1
    total = int(lengths.sum())
    if total > _MOST_POINTS:
        return None
    passed = np.concatenate([[0], np.cumsum(lengths)[:-1]])
    return np.asarray(np.arange(total) + np.repeat(begin - passed, lengths))


def _running(values: FloatArray, shares: FloatArray, bandwidth: float, kernel: KernelName) -> _Sum:
    """The sum of a kernel with corners, from running sums of its terms over the values.

    The scale is parted into blocks one reach wide, and terms are of places within a block: of
    places far from where the scale begins, nothing would be left when one running sum is taken from
    another.
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


class _Packed(Struct, frozen=True):
    """Whole places along a scale, with gaps wider than any kernel taken out."""

    places: IntArray
    removed: IntArray
    """How much was taken out before each value."""

    @classmethod
    def of(cls, cells: IntArray, margin: int) -> "_Packed":
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


def _shared_out(
    values: FloatArray, shares: FloatArray, lattice: _Lattice, margin: int
) -> tuple[FloatArray, IntArray, _Packed]:
    """Each value's share in the two points of a lattice beside it, and which these are, packed."""
    place = (values - lattice.anchor) / lattice.step
    floors = np.floor(place)
    cells, part = floors.astype(np.int64), place - floors
    packed = _Packed.of(cells, margin)
    first, second = (
        np.bincount(packed.places + place, weights, packed.length)
        for place, weights in ((0, (1 - part) * shares), (1, part * shares))
    )
    return np.asarray(first + second, dtype=np.float64), cells, packed


class _Grid(Struct, frozen=True, eq=False):
    """The values of a sample on a grid: where they are, and their shares as a spectrum."""

    cells: IntArray
    packed: _Packed
    size: int
    spectrum: ComplexArray


def _grid(sample: Ordered, step: float, margin: int) -> _Grid:
    """``margin`` cells are left free on either side, for what kernels reach beyond the values."""
    values, shares = _read(sample)
    held, cells, packed = _shared_out(values, shares, _Lattice(float(values[0]), step), margin)
    size = _fast_length(packed.length + 2 * margin)
    return _Grid(cells, packed, size, np.fft.rfft(np.pad(held, (margin, 0)), size))


_kept_grid = last_answers(lambda _, *of: of, most=2)(_grid)


def _gridded(sample: Ordered, bandwidth: float, kernel: KernelName) -> _Sum:
    """The sum of a smooth kernel, from the values' shares in two neighbouring points of a grid
    each.

    The grid's step is the span of the values halved as often as it takes, so that it stays while a
    hand moves the bandwidth, and with it all but the kernel.
    """
    shape, origin = KERNELS[kernel], float(_read(sample)[0][0])
    step, span = bandwidth / CELLS_PER_BANDWIDTH, _span(sample)
    if span:
        step = math.ldexp(span, -math.ceil(math.log2(span / step)))
    widest = 2 * CELLS_PER_BANDWIDTH * step
    while True:
        most = math.ceil(shape.reach * widest / step) + 1
        if most < 4 or _cells(sample, step, most) <= _MOST_CELLS:
            break
        step *= 2
    grid = (_kept_grid if _span(sample) / step < _MOST_KEPT else _grid)(sample, step, most)
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
    values = _read(sample)[0]
    return float(values[-1] - values[0])


def _cells(sample: Ordered, step: float, margin: int) -> int:
    """How many cells a grid would have, without the gaps that no kernel reaches."""
    if _span(sample) / step < _MOST_CELLS:  # the usual case needs no look at the gaps
        return 0
    values = _read(sample)[0]
    return _Packed.of(np.floor((values - values[0]) / step).astype(np.int64), margin).length


def _averaged(
    values: FloatArray,
    shares: FloatArray,
    bandwidth: float,
    kernel: KernelName,
    bounds: _Bounds,
    lattice: _Lattice,
) -> Curve:
    """A curve with too much detail for its points: each has the average over the lattice's step
    around it."""
    shape = KERNELS[kernel]
    step = lattice.step
    while True:
        coarse = _Lattice(lattice.anchor, step)
        margin = math.ceil(shape.reach * bandwidth / step) + 1
        held, cells, packed = _shared_out(values, shares, coarse, margin)
        if packed.length + 2 * margin <= _MOST_POINTS:
            break
        step *= 2
    if bounds.width:
        across = max(1, round(bounds.width / step))
        step = bounds.width / across
        coarse = _Lattice(lattice.anchor, step)
        held, cells, packed = _shared_out(values, shares, coarse, margin)
    distances = np.asarray(np.arange(-margin, margin + 1) * (step / bandwidth), dtype=np.float64)
    weights = np.where(np.abs(distances) <= shape.reach, shape.height(distances), 0.0)
    smooth = np.maximum(convolved(held, weights / weights.sum()), 0.0)
    # Which point of the lattice each packed place is: those between two values belong to the nearer
    # one.
    spots = np.arange(len(smooth)) - margin
    owner = np.minimum((packed.places + margin + 2).searchsorted(spots), len(cells) - 1)
    points = spots + cells[0] + packed.removed[owner]
    weights = np.ones(len(points))
    if bounds.lower is not None or bounds.upper is not None:
        points = np.abs(points) if bounds.lower is not None else -np.abs(points)
        if bounds.width:
            turned = points % (2 * across)
            points = np.minimum(turned, 2 * across - turned)
        points, back = np.unique(points, return_inverse=True)
        smooth = np.bincount(back, smooth, len(points))
        weights = np.where(points == 0, 2.0, 1.0)
        if bounds.width:
            weights = np.where(points == across, 2.0, weights)
    y = np.where(smooth > 1e-13 * smooth.max(), smooth, 0.0) * weights / step
    return Curve(np.asarray(coarse.anchor + step * points), y, bandwidth, step)


@memoised  # while a hand sets the bandwidth, the values stay
def _read(sample: Ordered) -> tuple[FloatArray, FloatArray]:
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
    """Full convolution by Fourier transform."""
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
