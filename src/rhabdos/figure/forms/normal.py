"""Normal curves: each group's mean and standard deviation as a bell; on an axis of
logs or roots, those of its logs or roots."""

import math
from functools import partial

import numpy as np

from rhabdos.figure.forms.curve import lacking
from rhabdos.figure.forms.form import FigureForm
from rhabdos.figure.forms.lines import (
    CurveReading,
    curve_card,
    curve_stops,
    curve_table,
    factor,
    in_values,
    on_scale,
    without_curve,
)
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.figure.readings.value_scale import WORDS, placed

_REACH = 4.0  # standard deviations to which a normal curve is followed …
_POINTS = 257  # … at so many points


def curve_reading(readings: Readings, group: Group) -> CurveReading:
    """The normal curve of a group's mean and sd, as high as its bars would be."""
    mean, sd, share, below = _moments(readings, group)
    if not (sd > 0 and math.isfinite(abs(mean) + _REACH * sd)):
        return without_curve(group.index, "normal", _needs(readings))
    u = np.linspace(-_REACH, _REACH, _POINTS)
    if readings.cumulative:
        upto = np.array([math.erfc(-each / math.sqrt(2)) / 2 for each in u.tolist()])
        y = below + share * upto
    else:
        # Of a tiny standard deviation a height may pass the largest double.
        with np.errstate(over="ignore"):
            y = share * np.exp(-u * u / 2) / math.sqrt(2 * math.pi) / sd
    x, y = in_values(mean + sd * u, y, readings.scale_of(group.index).axis)
    curve = CurveReading(group.index, "normal", None, x, y, rises=readings.cumulative)
    return on_scale(curve, factor(readings, group, curve.x))


def _moments(readings: Readings, group: Group) -> tuple[float, float, float, float]:
    """Mean and standard deviation along the axis; the share of values that has a place on it, and
    the share below it."""
    axis = readings.scale_of(group.index).axis
    if axis.even:
        summary = readings.summaries[group.index]
        return summary.mean, summary.sd, 1.0, 0.0
    places = placed(group.sample, axis)
    if places.n < 2:
        return math.nan, math.nan, 0.0, 1.0
    sd = places.moments.norm / math.sqrt(places.n - 1)
    share = places.n / group.n
    return places.moments.mean, sd, share, 1 - share


def _needs(readings: Readings) -> str:
    if readings.kind in ("log", "root"):
        values = "values above 0" if readings.kind == "log" else "values of 0 or more"
        return f"On {WORDS[readings.kind].on} a normal curve needs {values} that differ."
    return "A normal curve needs values that differ."


FORM = FigureForm(
    card=partial(curve_card, "normal"),
    stops=partial(curve_stops, "normal"),
    notices=partial(lacking, form="normal"),
    numbers=partial(curve_table, form="normal"),
)
