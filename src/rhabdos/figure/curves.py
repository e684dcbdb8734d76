"""Curves over the values, on whatever scale the heights are shown."""

import math
from typing import Literal

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.figure.readings import Group, Readings, lying_below
from rhabdos.figure.recipe import Curves
from rhabdos.stats.bandwidths import bandwidth_by
from rhabdos.stats.density import POINTS, DensityError, density
from rhabdos.stats.ordered import Ordered

CurveKind = Literal["density", "normal", "polygon", "ecdf"]
# The forms that are curves, and what each is called among the numbers.
KINDS: dict[str, CurveKind] = {"curve": "density", "normal": "normal", "polygon": "polygon", "ecdf": "ecdf"}
_MOST_STEPS = 4096
_REACH = 4.0  # standard deviations to which a normal curve is followed


class CurveReading(Struct, frozen=True, eq=False):
    """One curve of one group; ``bandwidth`` is None where it has none."""

    group: int
    kind: CurveKind
    bandwidth: float | None
    x: FloatArray
    y: FloatArray


def curves(readings: Readings) -> tuple[CurveReading, ...]:
    """The curves that the recipe's forms ask for, form by form and group by group; empty groups have none.

    Raises
    ------
    DensityError
        A group's density curve cannot be made: equal values without a bandwidth, or values beyond a bound.
    """
    asked = [KINDS[form] for form in readings.recipe.show.forms if form in KINDS]
    return tuple(
        _curve(readings, kind, position)
        for kind in asked
        for position, group in enumerate(readings.groups)
        if group.n and not (kind == "normal" and not _spread(readings, position))
    )


def _spread(readings: Readings, position: int) -> float:
    sd = readings.summaries[position].sd
    return 0.0 if math.isnan(sd) else sd


def _curve(readings: Readings, kind: CurveKind, position: int) -> CurveReading:
    group, sample = readings.groups[position], readings.samples.samples[position]
    if kind == "polygon":
        x, y = _ogive(readings, group, sample) if readings.cumulative else _polygon(group)
        return CurveReading(position, kind, None, x, y)
    if kind == "ecdf":
        x, shares = _steps(sample)
        return CurveReading(position, kind, None, x, shares * _whole(readings, group))
    factor = _factor(readings, group)
    if kind == "normal":
        summary = readings.summaries[position]
        u = np.linspace(-_REACH, _REACH, POINTS)
        if readings.cumulative:
            y = np.array([math.erfc(-each / math.sqrt(2)) / 2 for each in u.tolist()])
        else:
            y = np.exp(-u * u / 2) / (math.sqrt(2 * math.pi) * summary.sd)
        return CurveReading(position, kind, None, summary.mean + summary.sd * u, y * factor)
    settings = readings.recipe.curve
    drawn = density(sample, bandwidth_of(settings, sample), settings.kernel, settings.lower, settings.upper)
    y = _cumulated(drawn.x, drawn.y) if readings.cumulative else drawn.y
    return CurveReading(position, kind, drawn.bandwidth, drawn.x, y * factor)


def modes(readings: Readings) -> tuple[float, ...]:
    """Where each group's density curve is highest, with the recipe's bandwidth; NaN where it has none."""
    return tuple(_mode(readings.recipe.curve, sample) for sample in readings.samples.samples)


def _mode(settings: Curves, sample: Ordered) -> float:
    try:
        drawn = density(sample, bandwidth_of(settings, sample), settings.kernel, settings.lower, settings.upper)
    except DensityError:
        return sample.minimum if sample.n and sample.minimum == sample.maximum else math.nan
    return float(drawn.x[drawn.y.argmax()])


def bandwidth_of(settings: Curves, sample: Ordered) -> float:
    """The bandwidth that a recipe asks for, in the variable's unit."""
    asked = settings.bandwidth
    return settings.adjust * (bandwidth_by(sample, asked) if isinstance(asked, str) else asked)


def _whole(readings: Readings, group: Group) -> float:
    """What all of a group's values amount to on the scale of the heights."""
    if readings.scale == "count":
        return float(group.n)
    share = group.n / readings.samples.pooled.n if readings.recipe.show.of == "all" else 1.0
    return 100 * share if readings.scale == "percent" else share


def _factor(readings: Readings, group: Group) -> float:
    """From a density (or its cumulative share) to the scale of the heights: bars of it are as high."""
    width = 1.0 if readings.scale == "density" or readings.cumulative else group.edges.width
    assert width is not None  # unequal bins are always drawn by density
    return _whole(readings, group) * width


def _cumulated(x: FloatArray, y: FloatArray) -> FloatArray:
    """The share up to each point: areas of trapezia, of which all together are 1."""
    areas = np.concatenate([[0.0], np.cumsum((y[1:] + y[:-1]) / 2 * np.diff(x))])
    return np.asarray(areas / areas[-1], dtype=np.float64)


def _ogive(readings: Readings, group: Group, sample: Ordered) -> tuple[FloatArray, FloatArray]:
    """The cumulative polygon: over the end of each bin, the height up to there."""
    first = _whole(readings, group) * lying_below(sample, group.edges) / group.n
    return group.edges.values, np.concatenate([[first], group.heights])


def _polygon(group: Group) -> tuple[FloatArray, FloatArray]:
    """The frequency polygon: heights over the middles of bins, down to 0 half a bin beyond either end."""
    edges, widths = group.edges.values, group.edges.widths
    middles = edges[:-1] + widths / 2
    x = np.concatenate([[edges[0] - widths[0] / 2], middles, [edges[-1] + widths[-1] / 2]])
    return x, np.concatenate([[0.0], group.heights, [0.0]])


def _steps(sample: Ordered) -> tuple[FloatArray, FloatArray]:
    """Where the cumulative share steps up, and to what; of a long sample, at evenly spaced ranks."""
    ranks = np.unique(np.linspace(0, sample.n - 1, min(sample.n, _MOST_STEPS)).round().astype(np.int64))
    x = np.unique(sample.at(ranks))
    return x, sample.below(x, inclusive=True) / sample.n
