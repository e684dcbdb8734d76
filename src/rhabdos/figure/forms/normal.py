"""Normal curves: each group's mean and standard deviation as a bell."""

import math
from functools import partial

import numpy as np

from rhabdos.figure.curves import (
    CurveReading,
    curve_card,
    curve_stops,
    curve_table,
    factor,
    on_scale,
    without_curve,
)
from rhabdos.figure.forms.curve import lacking
from rhabdos.figure.forms.form import FigureForm
from rhabdos.figure.readings import Group, Readings

_REACH = 4.0  # standard deviations to which a normal curve is followed …
_POINTS = 257  # … at so many points


def curve_reading(readings: Readings, group: Group) -> CurveReading:
    """The normal curve of a group's mean and sd, as high as its bars would be."""
    summary = readings.summaries[group.place]
    if not (summary.sd > 0 and math.isfinite(abs(summary.mean) + _REACH * summary.sd)):
        return without_curve(group.place, "normal", "A normal curve needs values that differ.")
    u = np.linspace(-_REACH, _REACH, _POINTS)
    if readings.cumulative:
        y = np.array([math.erfc(-each / math.sqrt(2)) / 2 for each in u.tolist()])
    else:
        with np.errstate(over="ignore"):
            y = np.exp(-u * u / 2) / math.sqrt(2 * math.pi) / summary.sd
    curve = CurveReading(group.place, "normal", None, summary.mean + summary.sd * u, y)
    return on_scale(curve, factor(readings, group, curve.x))


FORM = FigureForm(
    card=partial(curve_card, "normal"),
    stops=partial(curve_stops, "normal"),
    notices=partial(lacking, form="normal"),
    numbers=partial(curve_table, form="normal"),
)
