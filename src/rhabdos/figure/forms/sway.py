"""Sway: between which heights a figure of another sample, or of bins that begin elsewhere, would
mostly lie."""

import math

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.figure.forms.bars import bars, lying_below
from rhabdos.figure.forms.curve import density_curves
from rhabdos.figure.forms.lines import CurveReading
from rhabdos.figure.readings.ladder import slides
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.value_scale import placed
from rhabdos.memo import memoised
from rhabdos.stats.binomial import binomial_ends
from rhabdos.stats.heights import cumulated, heights
from rhabdos.stats.kernels import roughness
from rhabdos.stats.two_samples.comparing import least_for_interval, quantile_interval

_FEW = 200  # values, up to which an ECDF's ends are those of the binomial itself


class Band(Struct, frozen=True, eq=False):
    """Heights between which something would mostly lie.

    Attributes
    ----------
    x : array, shape (k + 1,) or (k,)
        Edges of k steps, or k places of a line.
    low, high : array, shape (k,)
    """

    x: FloatArray
    low: FloatArray
    high: FloatArray

    @property
    def highest(self) -> float:
        """The greatest of its heights."""
        return float(self.high.max(initial=0.0, where=np.isfinite(self.high)))


@memoised  # limits ask for their tops, bars for their shades
def bar_bands(readings: Readings) -> tuple[Band | None, ...]:
    """For each group, between which heights its bars would lie as they are drawn: in a stack the
    sum up to there; None where there is nothing to tell."""
    own = own_bar_bands(readings)
    if readings.plan.arrange != "stacked":
        return own
    answers = list(own)
    each = bars(readings)
    for lane in (lane for panel in readings.plan.panels for lane in panel.lanes):
        stack = Stack()
        for group in lane.groups:
            if (band := own[group.index]) is not None:
                answers[group.index] = stack.raised(band, each[group.index].heights)
    return tuple(answers)


@memoised  # asked for as often as those
def own_bar_bands(readings: Readings) -> tuple[Band | None, ...]:
    """For each group, between which heights its bars would lie by themselves."""
    if readings.recipe.sway.of == "start":
        slid_of = {slid.group: slid for slid in slides(readings)}
        return tuple(
            Band(slid_of[g.index].x, slid_of[g.index].low, slid_of[g.index].high)
            if g.index in slid_of and g.n
            else None
            for g in readings.groups
        )
    return _resampled_bands(readings)


class Stack:
    """The sums of heights over one another, and between which they would lie: as far from them as
    those of independent groups are together, by Pythagoras (Zou and Donner 2008)."""

    def __init__(self) -> None:
        self._top: FloatArray | float = 0.0
        self._down: FloatArray | float = 0.0
        self._up: FloatArray | float = 0.0

    def raised(self, band: Band, own: FloatArray) -> Band:
        """The band of the sum up to a group, of which ``own`` are the heights by themselves.

        Parameters
        ----------
        own : array, shape (k,)
            By themselves, in the heights of the axis.
        """
        self._top = self._top + own
        self._down = np.hypot(self._down, own - band.low)
        self._up = np.hypot(self._up, band.high - own)
        low = np.maximum(self._top - self._down, 0.0)
        return Band(band.x, np.asarray(low), np.asarray(self._top + self._up))


def _resampled_bands(readings: Readings) -> tuple[Band | None, ...]:
    drawn, filled = bars(readings), [group for group in readings.groups if group.n]
    if not filled:
        return (None,) * len(drawn)
    counted = [drawn[group.index].counts for group in filled]
    if readings.cumulative:
        counted = [
            cumulated(counts, lying_below(group.sample, drawn[group.index].edges))
            for counts, group in zip(counted, filled, strict=True)
        ]
    sizes = np.repeat([group.n for group in filled], [len(counts) for counts in counted])
    # All groups at once: so many small steps of arrays would take longer than what they work out.
    ends = binomial_ends(np.concatenate(counted), sizes, readings.recipe.sway.confidence)
    answers: list[Band | None] = [None] * len(drawn)
    begun = 0
    for group, counts in zip(filled, counted, strict=True):
        own, edges = slice(begun, begun := begun + len(counts)), drawn[group.index].edges
        widths, total = readings.scale_of(group.index).widths(edges), readings.total(group.index)
        low, high = (heights(end[own], widths, readings.scale, total) for end in ends)
        answers[group.index] = Band(edges.values, low, high)
    return tuple(answers)


def curve_band(readings: Readings, curve: CurveReading) -> Band | None:
    """Between which heights a curve would lie, at its own points; None where nothing is told."""
    group = readings.groups[curve.group]
    if not group.n or not len(curve.x):
        return None
    if curve.kind == "polygon":
        return _polygon_band(readings, curve)
    if curve.kind == "normal":
        return _normal_band(readings, curve)
    top = float(curve.y.max())
    if top <= 0:
        return None
    from scipy.special import ndtri

    confidence = readings.recipe.sway.confidence
    z = float(ndtri((1 + confidence) / 2))
    if curve.rises:
        share = np.minimum(curve.y / top, 1.0)
        if group.n <= _FEW:
            ends = binomial_ends(np.rint(share * group.n).astype(np.int64), group.n, confidence)
            return Band(curve.x, ends[0] / group.n * top, ends[1] / group.n * top)
        away = z * np.sqrt(share * (1 - share) / group.n) * top
        return Band(curve.x, np.maximum(curve.y - away, 0.0), np.minimum(curve.y + away, top))
    reading = density_curves(readings)[curve.group]
    drawn = reading.curve
    if drawn is None or len(drawn.x) != len(curve.x):
        return None
    # A density is a mean of kernels: its variance is that of one kernel, by the number of values.
    mass = np.maximum(drawn.y * drawn.bandwidth, 1e-300)  # there is nothing to divide by at 0
    spread = np.maximum(roughness(readings.recipe.curve.kernel) / mass - 1, 0.0)
    away = z * np.sqrt(spread / (group.n * reading.share))
    away = np.where(drawn.y > 0, away, 0.0)
    return Band(curve.x, np.maximum(curve.y * (1 - away), 0.0), curve.y * (1 + away))


def _normal_band(readings: Readings, curve: CurveReading) -> Band | None:
    """How its mean and sd vary, and how these go together, is told by the skewness and the kurtosis
    of the values (the delta method; Cramér 1946)."""
    from scipy.special import ndtri

    axis = readings.scale_of(curve.group).axis
    sample = readings.groups[curve.group].sample
    moments = (sample if axis.even else placed(sample, axis)).moments
    n = sample.n if axis.even else placed(sample, axis).n
    if n < 2 or not moments.norm:
        return None
    skewness = math.sqrt(n) * (moments.cube / moments.norm) ** 3
    kurtosis = n * (moments.fourth / moments.norm) ** 4
    sd = moments.norm / math.sqrt(n - 1)
    u = (axis.placed(curve.x) - moments.mean) / sd
    z = float(ndtri((1 + readings.recipe.sway.confidence) / 2))
    if curve.rises:
        spread = 1 + u * u * (kurtosis - 1) / 4 + u * skewness
        steep = np.exp(-u * u / 2) / math.sqrt(2 * math.pi)
        risen = float(curve.y.max() - curve.y.min())
        away = z * steep * np.sqrt(np.maximum(spread, 0.0) / n) * risen
        return Band(curve.x, np.maximum(curve.y - away, 0.0), curve.y + away)
    bend = u * u - 1
    spread = u * u + bend * bend * (kurtosis - 1) / 4 + u * bend * skewness
    times = np.exp(z * np.sqrt(np.maximum(spread, 0.0) / n))
    return Band(curve.x, curve.y / times, curve.y * times)


def _polygon_band(readings: Readings, curve: CurveReading) -> Band | None:
    """As that of the bars, at the middles or the ends of the bins."""
    of_bars = own_bar_bands(readings)[curve.group]
    lead = 1  # the point before the first bin
    if of_bars is None or len(curve.x) - lead not in (len(of_bars.low), len(of_bars.low) + 1):
        return None
    low, high = curve.y.copy(), curve.y.copy()
    inner = slice(lead, lead + len(of_bars.low))
    low[inner], high[inner] = of_bars.low, of_bars.high
    return Band(curve.x, low, high)


def box_ends(readings: Readings, index: int) -> tuple[tuple[float, float] | None, ...]:
    """The intervals of the lower quartile, the median and the upper quartile of a group; None of
    those for which it has too few values."""
    group, sure = readings.groups[index], readings.recipe.sway.confidence
    return tuple(
        quantile_interval(group.sample, share, sure)
        if group.n >= least_for_interval(share, sure)
        else None
        for share in (0.25, 0.5, 0.75)
    )
