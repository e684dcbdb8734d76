"""Violins: density curves mirrored about the middle of a strip."""

from functools import partial

from rhabdos.figure.forms.curve import density_curves, density_notices
from rhabdos.figure.forms.form import FigureForm
from rhabdos.figure.forms.lines import (
    CurveReading,
    curve_card,
    curve_table,
    in_values,
    without_curve,
)
from rhabdos.figure.readings.readings import Group, Readings


def curve_reading(readings: Readings, group: Group) -> CurveReading:
    """The density of a group; always per unit (or per step along an axis of logs or roots), since
    a strip has no scale of heights."""
    reading = density_curves(readings)[group.index]
    drawn = reading.curve
    if drawn is None:
        return without_curve(group.index, "violin", reading.lack)
    x, y = in_values(drawn.x, reading.share * drawn.y, reading.axis)
    return CurveReading(group.index, "violin", reading.bandwidth, x, y)


FORM = FigureForm(
    card=partial(curve_card, "violin"),
    notices=partial(density_notices, form="violin"),
    numbers=partial(curve_table, form="violin"),
)
