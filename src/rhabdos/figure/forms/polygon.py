"""Frequency polygons: a line through the heights of the bins."""

import sys
from functools import partial

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.figure.curves import CurveReading, curve_table, whole
from rhabdos.figure.forms import bars as bars_form
from rhabdos.figure.forms.bars import Bars, bars, lying_below
from rhabdos.figure.forms.form import FigureForm
from rhabdos.figure.readings import Group, Readings

_FURTHEST = sys.float_info.max


def curve_reading(readings: Readings, group: Group) -> CurveReading:
    """Heights over the middles of bins; where they add up, over their ends."""
    of_group = bars(readings)[group.place]
    x, y = _ogive(readings, group, of_group) if readings.cumulative else _polygon(of_group)
    return CurveReading(group.place, "polygon", None, x, y)


def _ogive(readings: Readings, group: Group, of_group: Bars) -> tuple[FloatArray, FloatArray]:
    """The cumulative polygon: over the end of each bin, the height up to there."""
    edges = of_group.edges
    first = whole(readings, group) * lying_below(group.sample, edges) / group.n
    return edges.values, np.concatenate([[first], of_group.heights])


def _polygon(of_group: Bars) -> tuple[FloatArray, FloatArray]:
    """Down to 0 half a bin beyond either end."""
    edges, widths = of_group.edges.values, of_group.edges.widths
    middles = edges[:-1] + widths / 2
    first = max(-_FURTHEST, float(edges[0]) - float(widths[0]) / 2)
    last = min(_FURTHEST, float(edges[-1]) + float(widths[-1]) / 2)
    x = np.concatenate([[first], middles, [last]])
    return x, np.concatenate([[0.0], of_group.heights, [0.0]])


FORM = FigureForm(
    card=bars_form.card,
    stops=bars_form.stops,
    span=bars_form.span,
    reach=bars_form.reach,
    notices=bars_form.bar_notices,
    numbers=partial(curve_table, form="polygon"),
)
