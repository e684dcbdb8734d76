"""Frequency polygons: a line through the heights of the bins."""

from functools import partial

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.figure.forms import bars as bars_form
from rhabdos.figure.forms.bars import Bars, bars, lying_below
from rhabdos.figure.forms.form import FigureForm
from rhabdos.figure.forms.lines import CurveReading, curve_table, whole
from rhabdos.figure.readings.readings import Group, Readings


def curve_reading(readings: Readings, group: Group) -> CurveReading:
    """Heights over the middles of bins; where they add up, over their ends."""
    of_group = bars(readings)[group.index]
    rises = readings.cumulative
    x, y = _ogive(readings, group, of_group) if rises else _polygon(readings, group, of_group)
    return CurveReading(group.index, "polygon", None, x, y, rises=rises)


def _ogive(readings: Readings, group: Group, of_group: Bars) -> tuple[FloatArray, FloatArray]:
    """The cumulative polygon: over the end of each bin, the height up to there."""
    edges = of_group.edges
    first = whole(readings, group) * lying_below(group.sample, edges) / group.n
    scale = readings.scale_of(group.index)
    x, y = scale.axis.values(scale.ends(edges)), np.concatenate([[first], of_group.heights])
    apart = np.append(np.diff(x) > 0, True)  # edges without a place lie together
    return x[apart], y[apart]


def _polygon(readings: Readings, group: Group, of_group: Bars) -> tuple[FloatArray, FloatArray]:
    """Over the middles of the bins as the axis shows them, and down to 0 half a bin beyond either
    end; bins that have no place on the axis are left out."""
    scale, edges = readings.scale_of(group.index), of_group.edges
    shown = np.isfinite(scale.widths(edges))
    first, last = scale.beyond(edges)
    x = np.concatenate([[first], scale.middles(edges)[shown], [last]])
    return x, np.concatenate([[0.0], of_group.heights[shown], [0.0]])


FORM = FigureForm(
    card=bars_form.card,
    stops=bars_form.stops,
    span=bars_form.span,
    reach=bars_form.reach,
    notices=bars_form.bar_notices,
    numbers=partial(curve_table, form="polygon"),
)
