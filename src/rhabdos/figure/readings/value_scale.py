"""What a value axis is even in: values, or their logs; widths, middles and densities follow it."""

import math

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.data.samples import AnySample, Pooled, Sample, Weighted
from rhabdos.memo import memoised
from rhabdos.stats.binning import Edges
from rhabdos.stats.ordered import Ordered

PER_LOG = "factor of 10"
"""What a density on a log axis is per: one step of log10."""
_ROUND_BEGINS = (1.0, 2.0, 5.0)
# Near the largest double, and its log: beyond, a width would overflow.
_FURTHEST, _LAST_LOG = 1.7e308, 308.25
_SAME = 1e-6  # of a width, by which others may differ from it and count as equal


class ValueScale(Struct, frozen=True):
    """What equal stretches of a value axis stand for.

    Attributes
    ----------
    log : bool
        Whether they are equal differences of log10, or of the values.
    begin : float
        Where a log axis begins that shows all values above 0: a bin from 0 or less begins there.
    """

    log: bool = False
    begin: float = 0.0

    def widths(self, edges: Edges) -> FloatArray:
        """How wide each bin is on the axis, shape (k,); infinite for one that has no place."""
        if not self.log:
            return edges.widths
        if edges.ratio is not None:
            return np.full(edges.count, math.log10(edges.ratio))
        widths = np.diff(self.ends(edges))
        return np.where(widths > 0, widths, np.inf)

    def middles(self, edges: Edges) -> FloatArray:
        """The middle of each bin on the axis, in the variable's unit, shape (k,)."""
        ends = self.ends(edges)
        return self.values(ends[:-1] / 2 + ends[1:] / 2)

    def beyond(self, edges: Edges) -> tuple[float, float]:
        """Half a bin before the first, and half a bin after the last, in the variable's unit."""
        widths = self.widths(edges)
        if not self.log:
            low = max(-_FURTHEST, edges.low - float(widths[0]) / 2)
            return low, min(_FURTHEST, edges.high + float(widths[-1]) / 2)
        shown = np.isfinite(widths)
        first, last = (float(widths[shown][end]) if shown.any() else 0.0 for end in (0, -1))
        ends = self.ends(edges)
        low, high = float(ends[0]) - first / 2, float(ends[-1]) + last / 2
        return 10**low, min(_FURTHEST, 10 ** min(high, _LAST_LOG))

    def ends(self, edges: Edges) -> FloatArray:
        """Where the edges lie on the even axis, shape (k + 1,); those of 0 or less lie where a log
        axis begins."""
        if not self.log:
            return edges.values
        return np.asarray(np.log10(np.where(edges.values > 0, edges.values, self.begin)))

    def fair(self, edges: Edges) -> bool:
        """Whether heights by count can be compared: where bins are as wide as one another on the
        axis, or steps of the calendar."""
        if edges.count == 1 or not self.log:
            return edges.equal or edges.count == 1
        widths = self.widths(edges)
        if not np.all(np.isfinite(widths)):
            return False
        return bool(np.all(np.abs(widths - widths[0]) <= _SAME * widths[0]))

    def placed(self, x: FloatArray) -> FloatArray:
        """Values as places on the even axis.

        Parameters
        ----------
        x : array, shape (k,)
            In the variable's unit.
        """
        return np.log10(x) if self.log else x

    def values(self, places: FloatArray) -> FloatArray:
        """Places on the even axis as values; those past all numbers are the largest one.

        Parameters
        ----------
        places : array, shape (k,)
            Values, or their logs to base 10.
        """
        if not self.log:
            return places
        return np.minimum(np.power(10.0, np.minimum(places, _LAST_LOG)), _FURTHEST)


LINEAR = ValueScale()


def value_scale(log: bool, pool: Ordered) -> ValueScale:
    """The scale of an axis that shows the values of a pool."""
    return ValueScale(True, log_begin(least_positive(pool))) if log else LINEAR


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
    decade = 10.0 ** math.floor(math.log10(least))
    steps = (step * decade for step in _ROUND_BEGINS if step * decade <= least * (1 + 1e-12))
    return max(steps, default=least) or least


@memoised
def logs_of(sample: AnySample) -> AnySample:
    """The logs, to base 10, of all values above 0; kept with their sample."""
    first = int(np.searchsorted(sample.values, 0.0, side="right"))
    values = np.log10(sample.values[first:])
    if isinstance(sample, Sample):
        return Sample(sample.label, values)
    before = int(sample.ends[first - 1]) if first else 0
    return Weighted(sample.label, values, sample.ends[first:] - before)


def pooled_logs(pooled: Ordered) -> Ordered:
    """The same of several samples read as one."""
    if isinstance(pooled, Pooled):
        return Pooled(tuple(logs_of(sample) for sample in pooled.samples))
    assert isinstance(pooled, Sample | Weighted)
    return logs_of(pooled)
