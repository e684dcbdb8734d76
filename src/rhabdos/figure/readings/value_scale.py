"""What a value axis is even in: values, their logs or roots; widths, middles and densities follow
it."""

import math

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.data.celled import Celled
from rhabdos.data.pooled import AnySample, Pooled
from rhabdos.data.samples import Sample, Weighted
from rhabdos.memo import memoised
from rhabdos.stats.axis_scale import LINEAR_AXIS, AxisScale, ScaleKind
from rhabdos.stats.binning import Edges
from rhabdos.stats.ordered import Ordered

_ROUND_BEGINS = (1, 2, 5)  # of each decade, at which an axis of logs may begin
_FURTHEST = 1.7e308  # near the largest double: beyond, a width would overflow
_SAME = 1e-6  # of a width, by which others may differ from it and count as equal
_NEAR = 0.1  # the share of values, other than 0, that may lie where an arsinh axis is even
_DECADES = 40  # below the largest value, in which that is looked for


class ScaleWords(Struct, frozen=True):
    """How a kind of axis is spoken of: on what, in what, and what a density on it is per."""

    on: str
    said: str
    per: str


WORDS: dict[ScaleKind, ScaleWords] = {
    "linear": ScaleWords("a linear axis", "linear", ""),
    "log": ScaleWords("a log axis", "in logs", "factor of 10"),
    "root": ScaleWords("an axis of square roots", "in square roots", "step of 1 in the root"),
    "arsinh": ScaleWords(
        "an axis of logs to both sides of 0",
        "in logs to both sides of 0",
        "factor of 10 far from 0",
    ),
}


class ValueScale(Struct, frozen=True):
    """What equal stretches of a value axis stand for.

    Attributes
    ----------
    axis : AxisScale
        From values to places, and back.
    begin : float
        Where a log axis begins that shows all values above 0: a bin from 0 or less begins there.
    """

    axis: AxisScale = LINEAR_AXIS
    begin: float = 0.0

    def widths(self, edges: Edges) -> FloatArray:
        """How wide each bin is on the axis, shape (k,); infinite for one that has no place."""
        if self.axis.even:
            return edges.widths
        if edges.along == self.axis:
            return np.full(edges.count, edges.step)
        widths = np.diff(self.ends(edges))
        return np.where(widths > 0, widths, np.inf)

    def middles(self, edges: Edges) -> FloatArray:
        """The middle of each bin on the axis, in the variable's unit, shape (k,)."""
        ends = self.ends(edges)
        return self.axis.values(ends[:-1] / 2 + ends[1:] / 2)

    def beyond(self, edges: Edges) -> tuple[float, float]:
        """Half a bin before the first, and half a bin after the last, in the variable's unit."""
        widths = self.widths(edges)
        if self.axis.even:
            low = max(-_FURTHEST, edges.low - float(widths[0]) / 2)
            return low, min(_FURTHEST, edges.high + float(widths[-1]) / 2)
        shown = np.isfinite(widths)
        first, last = (float(widths[shown][end]) if shown.any() else 0.0 for end in (0, -1))
        ends = self.ends(edges)
        low = float(ends[0]) - first / 2
        if self.axis.kind == "root":  # which begins at 0
            low = max(0.0, low)
        return self.axis.value(low), self.axis.value(float(ends[-1]) + last / 2)

    def ends(self, edges: Edges) -> FloatArray:
        """Where the edges lie on the even axis, shape (k + 1,); those that have no place on it lie
        where it begins."""
        if self.axis.kind == "log":
            return self.axis.placed(np.where(edges.values > 0, edges.values, self.begin))
        if self.axis.kind == "root":
            return self.axis.placed(np.maximum(edges.values, 0.0))
        return self.axis.placed(edges.values)

    def fair(self, edges: Edges) -> bool:
        """Whether heights by count can be compared: where bins are as wide as one another on the
        axis, or steps of the calendar."""
        if edges.count == 1 or self.axis.even:
            return edges.equal or edges.count == 1
        widths = self.widths(edges)
        if not np.all(np.isfinite(widths)):
            return False
        return bool(np.all(np.abs(widths - widths[0]) <= _SAME * widths[0]))


LINEAR = ValueScale()


def value_scale(kind: ScaleKind, near: float | None, pool: Ordered) -> ValueScale:
    """The scale of an axis that shows the values of a pool.

    Parameters
    ----------
    kind : {"linear", "log", "root", "arsinh"}
        What the recipe asks of the axis.
    near : float, optional
        Up to about where an arsinh axis is even about 0, in the variable's unit.
    pool : Ordered
        All values on it.
    """
    if kind == "linear":
        return LINEAR
    if kind == "log":
        return ValueScale(AxisScale("log"), log_begin(least_positive(pool)))
    return ValueScale(AxisScale(kind, (near or usual_near(pool)) if kind == "arsinh" else 1.0))


@memoised  # every figure of the values asks, and every step of a hand
def usual_near(pool: Ordered) -> float:
    """Up to where an arsinh axis is even about 0, if nothing is asked: the largest power of ten
    that at most a tenth of the values other than 0 are nearer to 0 than; 1 where all are 0."""
    if not pool.n:
        return 1.0
    most = max(abs(pool.minimum), abs(pool.maximum))
    if not most:
        return 1.0
    first = math.floor(math.log10(most))
    tens = np.array([10.0 ** max(-300, first - back) for back in range(_DECADES)])
    zeros = _between(pool, np.array([0.0]), inclusive=True)
    nearer = _between(pool, tens) - zeros
    allowed = np.flatnonzero(nearer <= _NEAR * (pool.n - int(zeros[0])))
    return float(tens[allowed[0] if len(allowed) else -1])


def _between(pool: Ordered, distances: FloatArray, inclusive: bool = False) -> FloatArray:
    """How many values are nearer to 0 than each distance; or as near, if ``inclusive``."""
    below = pool.below(distances, inclusive=inclusive)
    return np.asarray(below - pool.below(-distances, inclusive=not inclusive), dtype=np.float64)


@memoised  # scale, limits and curves ask, and it searches the values
def least_positive(values: Ordered) -> float:
    """The smallest value above 0; 1 where there is none."""
    if not values.n:
        return 1.0
    rank = int(values.below(np.array([0.0]), inclusive=True)[0])
    return float(values.at(np.array([rank]))[0]) if rank < values.n else 1.0


def log_begin(least: float) -> float:
    """The round place at or before the smallest value, where a log axis begins.

    Parameters
    ----------
    least : float
        Above 0.
    """
    exponent = math.floor(math.log10(least))  # which may be rounded up
    # Of 0.5, five tenths are a begin, though 5 × 0.1 need not be; and none is above the value.
    begins = (float(f"{digit}e{exponent - less}") for less in (0, 1) for digit in _ROUND_BEGINS)
    return max((begin for begin in begins if begin <= least), default=least) or least


def without_place(sample: Ordered, axis: AxisScale) -> int:
    """How many values have no place on an axis: all of them lie below those that have one."""
    if axis.kind in ("linear", "arsinh"):
        return 0
    return int(sample.below(np.array([0.0]), inclusive=axis.log)[0])


@memoised  # a copy of all values along another axis: made once, and sorted already
def placed(sample: AnySample, axis: AxisScale) -> AnySample:
    """The places, on the even axis, of all values that have one; kept with their sample."""
    first = without_place(sample, axis) if sample.n else 0
    if isinstance(sample, Sample):
        return Sample(sample.label, axis.placed(sample.values[first:]))
    if isinstance(sample, Celled):
        return sample.placed(axis, first)
    skipped = int(sample.values.searchsorted(0.0, "right" if axis.log else "left")) if first else 0
    values = axis.placed(sample.values[skipped:])
    return Weighted(sample.label, values, sample.ends[skipped:] - first)


def pooled_places(pooled: Ordered, axis: AxisScale) -> Ordered:
    """The same of several samples read as one."""
    if isinstance(pooled, Pooled):
        return Pooled(tuple(placed(sample, axis) for sample in pooled.samples))
    assert isinstance(pooled, Sample | Weighted | Celled)
    return placed(pooled, axis)
