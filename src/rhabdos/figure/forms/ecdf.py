"""ECDFs: what share of a group lies up to each value."""

from functools import partial

import numpy as np

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.figure.forms.form import FigureForm
from rhabdos.figure.forms.lines import CurveReading, curve_card, curve_stops, curve_table, whole
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.memo import memoised
from rhabdos.stats.ordered import Ordered

_MOST_STEPS = 4096  # of a line; more would not show on paper


def curve_reading(readings: Readings, group: Group) -> CurveReading:
    """The steps of a group's ECDF, on the scale of the heights."""
    x, shares = _steps(group.sample)
    heights = shares * whole(readings, group)
    return CurveReading(group.index, "ecdf", None, x, heights, rises=True)


@memoised  # a hand that moves bins or a curve leaves them
def _steps(sample: Ordered) -> tuple[FloatArray, FloatArray]:
    """Where the cumulative share steps up, and to what; of a long sample, at even ranks."""
    x = np.unique(sample.about_at(shown_of(sample.n)))
    return x, sample.about_below(x, inclusive=True) / sample.n


def shown_of(steps: int) -> IntArray:
    """Which of many steps a line shows: all, or as many as show on paper, equally many apart."""
    if steps <= _MOST_STEPS:
        return np.arange(steps)
    return np.linspace(0, steps - 1, _MOST_STEPS).round().astype(np.int64)


FORM = FigureForm(
    card=partial(curve_card, "ecdf"),
    stops=partial(curve_stops, "ecdf"),
    numbers=partial(curve_table, form="ecdf"),
)
