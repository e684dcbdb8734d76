"""Density curves: sums of kernels over a sample, at a cost that does not grow with it."""

import math
from collections.abc import Callable
from typing import Literal

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.errors import Refusal
from rhabdos.memo import memoised
from rhabdos.stats.kernel_sums import (
    POINTS_PER_BANDWIDTH,
    KernelSum,
    Lattice,
    convolved,
    gridded,
    lattice_for,
    running,
    shared_out,
    values_read,
)
from rhabdos.stats.kernels import KERNELS, PARTS, KernelName
from rhabdos.stats.ordered import Ordered
from rhabdos.wording import about, exact

_POINTS_PER_STEP = (
    71  # across a rectangular kernel; odd, so that no value has both its steps on points
)
_LEAST_BETWEEN_BOUNDS = 64  # points of a curve between two bounds, however wide the kernel
_MOST_POINTS = 1 << 16  # of a curve; more are averaged
# Reflections between two bounds, after which a kernel of any shape is flat there.
_MOST_FOLDS = 2_000
_AREA_OFF = 5e-4  # of a curve's trapezia from 1, at which its points are too few
_RESOLUTION = 16  # a bandwidth is at least so many steps between neighbouring doubles


class DensityError(Refusal):
    """A density curve cannot be drawn of these values."""


class BeyondBoundError(DensityError):
    """Values lie beyond a bound; ``written`` says where that is, as values of a column are
    written."""

    def __init__(
        self,
        count: int,
        which: Literal["lower", "upper"],
        bound: float,
        written: Callable[[float], str] = exact,
    ) -> None:
        lie = "lies" if count == 1 else "lie"
        side = "below" if which == "lower" else "above"
        super().__init__(
            f"{count:,} of the values {lie} {side} the {which} bound {written(bound)}, so it is no "
            "bound of theirs."
        )
        self.count, self.which, self.bound = count, which, bound

    def told(self, written: Callable[[float], str]) -> "BeyondBoundError":
        """The same, with the bound written in another way."""
        return BeyondBoundError(self.count, self.which, self.bound, written)


class NoCurveError(DensityError):
    """These values have no curve with this bandwidth; others of the figure may."""


class Curve(Struct, frozen=True, eq=False):
    """A density at points along the scale, 0 between far ones; its trapezia add up to 1.

    Attributes
    ----------
    x, y : array, shape (k,)
        Ten to twenty points a bandwidth where values are, none where there is nothing to show.
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
        # A flat top is flat to the last digits only.
        level = self.y[top:] >= self.y[top] * (1 - 1e-12)
        if (last := len(level) if level.all() else int(level.argmin())) > 1:
            return float(self.x[top] / 2 + self.x[top + last - 1] / 2)
        if not 0 < top < len(self.x) - 1:
            return float(self.x[top])
        before, here, after = self.y[top - 1 : top + 2].tolist()
        bend = before - 2 * here + after
        step, place = float(self.x[top + 1] - self.x[top]), float(self.x[top])
        # A parabola needs three points equally far apart, which they are not beside a gap.
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
    The Gaussian is summed on a grid of at most 1/10 bandwidth by Fourier transform, in which gaps
    wider than it take no room; kernels that end somewhere from running sums, which is exact.
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
    values, shares = values_read(sample)
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
    return _summed(sample, values, shares, bandwidth, kernel, bounds)


def _check_bounds(sample: Ordered, lower: float | None, upper: float | None) -> None:
    if lower is not None and sample.minimum < lower:
        count = int(sample.below(np.array([lower]))[0])
        raise BeyondBoundError(count, "lower", lower)
    if upper is not None and sample.maximum > upper:
        count = sample.n - int(sample.below(np.array([upper]), inclusive=True)[0])
        raise BeyondBoundError(count, "upper", upper)


def _check_resolution(sample: Ordered, bandwidth: float, reach: float) -> None:
    low, high = sample.minimum - 2 * reach, sample.maximum + 2 * reach
    if not math.isfinite(high - low) or not math.isfinite(1 / bandwidth):
        raise NoCurveError(
            f"A bandwidth of {about(bandwidth, 3)} is too large or too small for these values. "
            "Choose another one."
        )
    furthest = max(abs(sample.minimum), abs(sample.maximum))
    if bandwidth < _RESOLUTION * math.ulp(furthest):
        raise NoCurveError(
            f"A bandwidth of {about(bandwidth, 3)} is finer than numbers near {about(furthest, 3)} "
            "can be told apart. Choose a wider one."
        )


class _Bounds(Struct, frozen=True):
    """The bounds that lie within a kernel's reach of the values, at which curves are reflected."""

    lower: float | None
    upper: float | None

    @property
    def width(self) -> float:
        """From one to the other; 0 unless there are both."""
        return self.upper - self.lower if self.lower is not None and self.upper is not None else 0.0

    def anchor(self, values: FloatArray) -> float:
        """Where a lattice begins: at a bound, so that its points are mirrored upon others; without
        one at the least of the values, which are of shape (n,) in rising order."""
        bound = self.lower if self.lower is not None else self.upper
        return float(values[0]) if bound is None else bound

    def within(self, x: FloatArray) -> FloatArray:
        """The points between the bounds, with the bounds themselves; ``x`` of shape (k,) rises."""
        if self.lower is not None:
            x = np.concatenate([[self.lower], x[x > self.lower]])
        if self.upper is not None:
            x = np.concatenate([x[x < self.upper], [self.upper]])
        return x

    def folded(self, sum_at: KernelSum, x: FloatArray, reach: float) -> FloatArray:
        """The sum at x, of shape (k,), and at all its mirror images that the kernels reach."""
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
) -> Lattice:
    """Where the points of a curve may lie: with a bound on one of them, and steps of the curve
    between them."""
    anchor, reach = bounds.anchor(values), KERNELS[kernel].reach * bandwidth
    most = bounds.width / _LEAST_BETWEEN_BOUNDS or math.inf
    if kernel not in PARTS:
        span = float(values[-1] - values[0])
        return lattice_for(bandwidth, anchor, bounds.width or span, most)
    step = (
        2 * reach / _POINTS_PER_STEP
        if kernel == "rectangular"
        else bandwidth / POINTS_PER_BANDWIDTH
    )
    if bounds.width:
        return Lattice(anchor, bounds.width / math.ceil(bounds.width / min(step, most)))
    if kernel != "rectangular" or bounds.lower is not None or bounds.upper is not None:
        return Lattice(anchor, step)
    # Every value steps up and down at the same place between points. Where fewest do, no point is
    # in doubt.
    between = ((values - values[0]) / step) % 1.0
    share_there = np.bincount((between * 64).astype(np.int64) % 64, shares, 64)
    return Lattice(float(values[0]) - reach + step * (int(share_there.argmin()) + 0.5) / 64, step)


@memoised  # it stays while a hand moves the bandwidth
def _widest_gap(sample: Ordered) -> float:
    return float(np.diff(values_read(sample)[0]).max(initial=0.0))


def _points_near(sample: Ordered, reach: float, lattice: Lattice) -> IntArray | None:
    """The lattice's points within reach of a value and one to either side, or None where they are
    too many."""
    values, far = values_read(sample)[0], 2 * reach + 5 * lattice.step
    # Stretches of values so near to each other that their points go on from one to the next.
    opening, closing = values[:1], values[-1:]
    if _widest_gap(sample) > far:
        closes = np.flatnonzero(np.diff(values) > far)
        opening = np.concatenate([opening, values[closes + 1]])
        closing = np.concatenate([values[closes], closing])
    begin = np.floor((opening - reach - lattice.anchor) / lattice.step).astype(np.int64) - 1
    end = np.ceil((closing + reach - lattice.anchor) / lattice.step).astype(np.int64) + 1
    lengths = end - begin + 1
    total = int(lengths.sum())
    if total > _MOST_POINTS:
        return None
    if len(lengths) == 1:
        return np.arange(int(begin[0]), int(end[0]) + 1)
    passed = np.concatenate([[0], np.cumsum(lengths)[:-1]])
    return np.asarray(np.arange(total) + np.repeat(begin - passed, lengths))


def _summed(
    sample: Ordered,
    values: FloatArray,
    shares: FloatArray,
    bandwidth: float,
    kernel: KernelName,
    bounds: _Bounds,
) -> Curve:
    """The curve at points so close that its area is 1."""
    lattice, reach = _lattice(values, shares, bandwidth, kernel, bounds), KERNELS[kernel].reach
    reach *= bandwidth
    sum_at: KernelSum | None = None
    # Between two bounds, the steps of a rectangular kernel may need closer points to have the right
    # area.
    for step in (lattice.step, lattice.step / 8, lattice.step / 64):
        points = _points_near(sample, reach, Lattice(lattice.anchor, step))
        if points is None:
            break
        if sum_at is None:
            sum_at = (
                running(values, shares, bandwidth, kernel)
                if kernel in PARTS
                else gridded(sample, bandwidth, lattice)
            )
        x = bounds.within(np.asarray(lattice.anchor + step * points, dtype=np.float64))
        y = bounds.folded(sum_at, x, reach)
        if not np.all(np.isfinite(y)):
            raise NoCurveError(
                "The values lie so close together that a density passes the largest number."
            )
        # Fourier transforms leave noise of this size where there is nothing.
        y = np.where(y > 1e-13 * y.max(), y, 0.0)
        if abs(float(np.sum((y[1:] + y[:-1]) / 2 * (x[1:] - x[:-1]))) - 1) < _AREA_OFF:
            return Curve(x, y, bandwidth)
    return _averaged(values, shares, bandwidth, kernel, bounds, lattice)


def _averaged(
    values: FloatArray,
    shares: FloatArray,
    bandwidth: float,
    kernel: KernelName,
    bounds: _Bounds,
    lattice: Lattice,
) -> Curve:
    """A curve with too much detail for its points: each has the average over the lattice's step
    around it."""
    shape = KERNELS[kernel]
    step = lattice.step
    while True:
        coarse = Lattice(lattice.anchor, step)
        margin = math.ceil(shape.reach * bandwidth / step) + 1
        shared, cells, packed = shared_out(values, shares, coarse, margin)
        if packed.length + 2 * margin <= _MOST_POINTS:
            break
        step *= 2
    if bounds.width:
        across = max(1, round(bounds.width / step))
        step = bounds.width / across
        coarse = Lattice(lattice.anchor, step)
        shared, cells, packed = shared_out(values, shares, coarse, margin)
    distances = np.asarray(np.arange(-margin, margin + 1) * (step / bandwidth), dtype=np.float64)
    weights = np.where(np.abs(distances) <= shape.reach, shape.height(distances), 0.0)
    smooth = np.maximum(convolved(shared, weights / weights.sum()), 0.0)
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
    # Fourier transforms leave noise of this size where there is nothing.
    y = np.where(smooth > 1e-13 * smooth.max(), smooth, 0.0) * weights / step
    return Curve(np.asarray(coarse.anchor + step * points), y, bandwidth, step)
