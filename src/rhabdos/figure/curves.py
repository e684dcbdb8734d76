"""Curves over the values, on whatever scale the heights are shown."""

import math
import sys
from typing import Literal

import numpy as np
from msgspec import Struct, structs

from rhabdos.arrays import FloatArray
from rhabdos.figure.readings import Group, Readings, lying_below
from rhabdos.figure.recipe import Curves
from rhabdos.keeping import kept_last, kept_with
from rhabdos.stats.bandwidths import BandwidthRule, ruled_bandwidth
from rhabdos.stats.density import Curve, DensityError, NoCurveError, density
from rhabdos.stats.ordered import Ordered

CurveKind = Literal["density", "normal", "polygon", "ecdf"]
# The forms that are curves, and what each is called among the numbers.
KINDS: dict[str, CurveKind] = {
    "curve": "density",
    "normal": "normal",
    "polygon": "polygon",
    "ecdf": "ecdf",
}
_MOST_STEPS = 4096
_FURTHEST = sys.float_info.max
_REACH = 4.0  # standard deviations to which a normal curve is followed …
_NORMAL_POINTS = 257  # … at so many points


class CurveReading(Struct, frozen=True, eq=False):
    """One curve of one group.

    Attributes
    ----------
    bandwidth : float or None
        None where it has none.
    x, y : array, shape (k,)
        Empty where the group has no such curve; ``lack`` then says why.
    """

    group: int
    kind: CurveKind
    bandwidth: float | None
    x: FloatArray
    y: FloatArray
    lack: str = ""


class DensityReading(Struct, frozen=True, eq=False):
    """The density curve of one group, or why it has none, and the rule that gave its bandwidth
    (None: by hand)."""

    curve: Curve | None
    lack: str = ""
    rule: BandwidthRule | None = None


def curves(readings: Readings) -> tuple[CurveReading, ...]:
    """The curves that the recipe's forms ask for, form by form and group by group; empty groups
    have none.

    Raises
    ------
    DensityError
        Values lie beyond a bound.
    """
    asked = [KINDS[form] for form in readings.recipe.show.forms if form in KINDS]
    return tuple(curve for kind in asked for curve in curves_of(readings, kind))


@kept_with
def curves_of(readings: Readings, kind: CurveKind) -> tuple[CurveReading, ...]:
    """The curves of one kind, group by group; empty groups have none."""
    return tuple(
        _curve(readings, kind, position)
        for position, group in enumerate(readings.groups)
        if group.n
    )


def density_curves(readings: Readings) -> tuple[DensityReading, ...]:
    """Each group's density curve, as the recipe asks for it; kept while bins change under it."""
    settings, samples = readings.recipe.curve.changed(fill=False), readings.samples
    return kept_last(
        samples,
        "density curves",
        settings,
        lambda: tuple(_density(settings, sample) for sample in samples.samples),
    )


def _density(settings: Curves, sample: Ordered) -> DensityReading:
    if isinstance(settings.bandwidth, str):
        ruled = ruled_bandwidth(sample, settings.bandwidth)
        width, rule = ruled.width, ruled.rule
    else:
        width, rule = settings.bandwidth, None
    try:
        drawn = density(
            sample, settings.factor * width, settings.kernel, settings.lower, settings.upper
        )
    except NoCurveError as error:
        return DensityReading(None, str(error), rule)
    return DensityReading(drawn, rule=rule)


def _curve(readings: Readings, kind: CurveKind, position: int) -> CurveReading:
    group, sample = readings.groups[position], readings.samples.samples[position]
    none = np.empty(0)
    if kind == "polygon":
        x, y = _ogive(readings, group, sample) if readings.cumulative else _polygon(group)
        return CurveReading(position, kind, None, x, y)
    if kind == "ecdf":
        x, shares = _steps(sample)
        return CurveReading(position, kind, None, x, shares * _whole(readings, group))
    factor = _factor(readings, group)
    if kind == "normal":
        summary = readings.summaries[position]
        u = np.linspace(-_REACH, _REACH, _NORMAL_POINTS)
        if not (summary.sd > 0 and math.isfinite(abs(summary.mean) + _REACH * summary.sd)):
            return CurveReading(
                position, kind, None, none, none, "A normal curve needs values that differ."
            )
        if readings.cumulative:
            y = np.array([math.erfc(-each / math.sqrt(2)) / 2 for each in u.tolist()])
        else:
            with np.errstate(over="ignore"):
                y = np.exp(-u * u / 2) / math.sqrt(2 * math.pi) / summary.sd
        return _on_scale(
            CurveReading(position, kind, None, summary.mean + summary.sd * u, y), factor
        )
    reading = density_curves(readings)[position]
    drawn = reading.curve
    if drawn is None:
        return CurveReading(position, kind, None, none, none, reading.lack)
    y = _cumulated(drawn.x, drawn.y) if readings.cumulative else drawn.y
    return _on_scale(CurveReading(position, kind, drawn.bandwidth, drawn.x, y), factor)


def _on_scale(curve: CurveReading, factor: float) -> CurveReading:
    """A density as heights; a curve that no number is high enough for is none."""
    with np.errstate(over="ignore", invalid="ignore"):
        heights = curve.y * factor
    if np.all(np.isfinite(heights)):
        return structs.replace(curve, y=heights)
    none = np.empty(0)
    return structs.replace(
        curve, x=none, y=none, lack="It would be higher than the largest number a computer holds."
    )


def modes(readings: Readings) -> tuple[float, ...]:
    """Where each group's density curve is highest, with the recipe's bandwidth; NaN where it has
    none."""
    try:
        drawn = density_curves(readings)
    except DensityError:  # values beyond a bound: of this figure, only curves are refused
        return tuple(math.nan for _ in readings.groups)
    return tuple(
        reading.curve.mode
        if reading.curve
        else sample.minimum
        if sample.n and sample.minimum == sample.maximum
        else math.nan
        for reading, sample in zip(drawn, readings.samples.samples, strict=True)
    )


def _whole(readings: Readings, group: Group) -> float:
    """What all of a group's values amount to on the scale of the heights."""
    if readings.scale == "count":
        return float(group.n)
    share = group.n / readings.samples.pooled.n if readings.recipe.show.of == "all" else 1.0
    return 100 * share if readings.scale == "percent" else share


def _factor(readings: Readings, group: Group) -> float:
    """From a density (or its cumulative share) to the scale of the heights: bars of it are as
    high."""
    width = 1.0 if readings.scale == "density" or readings.cumulative else group.edges.width
    assert width is not None  # unequal bins are always drawn by density
    return _whole(readings, group) * width


def _cumulated(x: FloatArray, y: FloatArray) -> FloatArray:
    """The share up to each point: areas of trapezia."""
    return np.concatenate([[0.0], np.cumsum((y[1:] + y[:-1]) / 2 * np.diff(x))])


def _ogive(readings: Readings, group: Group, sample: Ordered) -> tuple[FloatArray, FloatArray]:
    """The cumulative polygon: over the end of each bin, the height up to there."""
    first = _whole(readings, group) * lying_below(sample, group.edges) / group.n
    return group.edges.values, np.concatenate([[first], group.heights])


def _polygon(group: Group) -> tuple[FloatArray, FloatArray]:
    """The frequency polygon: heights over the middles of bins, down to 0 half a bin beyond either
    end."""
    edges, widths = group.edges.values, group.edges.widths
    middles = edges[:-1] + widths / 2
    first = max(-_FURTHEST, float(edges[0]) - float(widths[0]) / 2)
    last = min(_FURTHEST, float(edges[-1]) + float(widths[-1]) / 2)
    x = np.concatenate([[first], middles, [last]])
    return x, np.concatenate([[0.0], group.heights, [0.0]])


def _steps(sample: Ordered) -> tuple[FloatArray, FloatArray]:
    """Where the cumulative share steps up, and to what; of a long sample, at evenly spaced
    ranks."""
    ranks = np.unique(
        np.linspace(0, sample.n - 1, min(sample.n, _MOST_STEPS)).round().astype(np.int64)
    )
    x = np.unique(sample.at(ranks))
    return x, sample.below(x, inclusive=True) / sample.n
