"""What all curves over the values share: their readings, and the scale of the heights."""

from collections.abc import Callable, Sequence
from importlib import import_module
from typing import Any, Literal

import numpy as np
from msgspec import Struct, structs

from rhabdos.arrays import FloatArray
from rhabdos.data.columns import DateColumn
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.figure.recipe.forms import FORMS
from rhabdos.figure.recipe.recipe import Form
from rhabdos.figure.words.tooltip import Card, Line, few_of, panel_words
from rhabdos.memo import memoised
from rhabdos.stats.axis_scale import AxisScale
from rhabdos.wording import in_three_figures

CurveKind = Literal["density", "normal", "polygon", "ecdf", "violin"]
KINDS: dict[Form, CurveKind] = {
    "polygon": "polygon",
    "curve": "density",
    "normal": "normal",
    "ecdf": "ecdf",
    "violin": "violin",
}
"""The forms that are curves, and what each is called among the numbers."""
_STOPS = 41  # along a curve that is stepped through


class CurveReading(Struct, frozen=True, eq=False):
    """One curve of one group.

    Attributes
    ----------
    bandwidth : float or None
        None where it has none.
    x, y : array, shape (k,)
        Empty where the group has no such curve; ``lack`` then says why.
    rises : bool
        Whether heights add up from left to right: beyond its last point it then stays as high.
    """

    group: int
    kind: CurveKind
    bandwidth: float | None
    x: FloatArray
    y: FloatArray
    lack: str = ""
    rises: bool = False

    def height_at(self, value: float, stepped: bool = False) -> float:
        """The height over a value; 0 beyond the curve.

        Parameters
        ----------
        value : float
            In the variable's unit.
        stepped : bool
            Whether the curve stays level from point to point, as an ECDF does.
        """
        if not len(self.x):
            return 0.0
        if stepped:
            index = int(self.x.searchsorted(value, side="right"))
            return float(self.y[index - 1]) if index else 0.0
        beyond = float(self.y[-1]) if self.rises else 0.0
        before = float(self.y[0]) if self.rises else 0.0
        return float(np.interp(value, self.x, self.y, left=before, right=beyond))


def curves(readings: Readings) -> tuple[CurveReading, ...]:
    """The curves that the recipe's forms ask for, form by form and group by group.

    Empty groups have none.

    Raises
    ------
    DensityError
        Values lie beyond a bound.
    """
    drawn_forms = [form for form in readings.recipe.show.forms if form in KINDS]
    return tuple(curve for form in drawn_forms for curve in curves_of(readings, form))


@memoised  # the same curves are drawn, told, pointed at and tabled
def curves_of(readings: Readings, form: Form) -> tuple[CurveReading, ...]:
    """The curves of one form, group by group; empty groups have none."""
    home = import_module(f"rhabdos.figure.forms.{FORMS[form].home}")
    reading: Callable[[Readings, Group], CurveReading] = home.curve_reading
    return tuple(reading(readings, group) for group in readings.groups if group.n)


def in_values(
    places: FloatArray, heights: FloatArray, axis: AxisScale
) -> tuple[FloatArray, FloatArray]:
    """A line along an even axis as one along values; on an axis of roots it begins at 0.

    Parameters
    ----------
    places, heights : array, shape (k,)
        Its points on the even axis, rising, and its heights there.
    axis : AxisScale
        What places stand for.
    """
    if axis.kind == "root" and len(places) and places[0] < 0 < places[-1]:
        at_zero = np.interp(0.0, places, heights)
        shown = places > 0
        places = np.concatenate([[0.0], places[shown]])
        heights = np.concatenate([[at_zero], heights[shown]])
    return axis.values(places), heights


def whole(readings: Readings, group: Group) -> float:
    """What all of a group's values amount to on the scale of the heights."""
    if readings.scale == "count":
        return float(group.n)
    share = group.n / readings.total(group.index)
    return 100 * share if readings.scale == "percent" else share


def factor(readings: Readings, group: Group, x: FloatArray) -> float | FloatArray:
    """From a density (or its cumulative share) to the scale of the heights, at each place.

    Bars of that density are as high.

    Parameters
    ----------
    group : Group
        Whose values the curve is of.
    x : array, shape (k,)
        Places along the value axis.
    """
    if readings.scale == "density" or readings.cumulative:
        return whole(readings, group)
    edges, scale = readings.own_edges[group.index], readings.scale_of(group.index)
    widths = scale.widths(edges)
    if edges.every and edges.width is None:  # months differ a little: a place has its own width
        return whole(readings, group) * np.interp(x, scale.middles(edges), widths)
    return whole(readings, group) * float(widths[0])  # unequal ones are always drawn by density


def on_scale(curve: CurveReading, times: float | FloatArray) -> CurveReading:
    """A density as heights; a curve that no number is high enough for is none.

    Parameters
    ----------
    curve : CurveReading
        A density.
    times : float or array, shape (k,)
        What it is multiplied by, at each of its points.
    """
    with np.errstate(over="ignore", invalid="ignore"):
        heights = curve.y * times
    if np.all(np.isfinite(heights)):
        return structs.replace(curve, y=heights)
    return without_curve(
        curve.group, curve.kind, "It would be higher than the largest number a computer holds."
    )


def without_curve(group: int, kind: CurveKind, lack: str) -> CurveReading:
    """The reading of a group that has no curve, and why."""
    none = np.empty(0)
    return CurveReading(group, kind, None, none, none, lack)


def cumulated_area(x: FloatArray, y: FloatArray) -> FloatArray:
    """The share up to each point: areas of trapezia.

    Parameters
    ----------
    x, y : array, shape (k,)
        Points of a density, x rising.
    """
    return np.concatenate([[0.0], np.cumsum((y[1:] + y[:-1]) / 2 * np.diff(x))])


def curve_table(readings: Readings, form: Form) -> dict[str, Any]:
    """The curves of a form among the numbers."""
    return {
        "curves": [
            {
                "sample": readings.groups[curve.group].label,
                "kind": curve.kind,
                "bandwidth": curve.bandwidth,
                "x": None if curve.lack else curve.x.tolist(),
                "y": None if curve.lack else curve.y.tolist(),
            }
            for curve in curves_of(readings, form)
        ]
    }


def curve_card(
    form: Form, readings: Readings, groups: Sequence[int], pointed: int | None, value: float
) -> Card:
    """The height of a form's curves over a value, and what share of each group lies up to there."""
    stepped = form == "ecdf"
    drawn = {curve.group: curve for curve in curves_of(readings, form)}
    filled = [index for index in groups if readings.groups[index].n]
    heights = {index: drawn[index].height_at(value, stepped) for index in filled}
    chosen = few_of(filled, heights, pointed)
    lines = []
    for index in chosen:
        group = readings.groups[index]
        upto = int(group.sample.about_below(np.array([value]), inclusive=True)[0])
        height = "no curve" if drawn[index].lack else in_three_figures(heights[index])
        share = f"{100 * upto / readings.total(index):.1f} %"
        lines.append(Line(group.name, (height, share), index, index == pointed))
    of_all = " of all" if readings.recipe.show.of == "all" and readings.divided else ""
    if form == "violin" or readings.scale == "density":
        scale = "density" + (f" per {readings.per}" if readings.per else "")
    else:
        adds_up = readings.cumulative or form == "ecdf"
        scale = f"cumulative {readings.scale}" if adds_up else readings.scale
    variable = readings.groups[groups[0]].variable
    short = value if isinstance(variable, DateColumn) else float(f"{value:.6g}")
    title = f"{FORMS[form].title} at {variable.format_with_unit(short)}"
    return Card(
        title[0].upper() + title[1:] + panel_words(readings, groups[0]),
        (scale, f"lie up to there{of_all}"),
        tuple(lines),
        len(filled) - len(chosen),
    )


def curve_stops(form: Form, readings: Readings, groups: Sequence[int]) -> tuple[float, ...]:
    """Places along the curves of a form, for who steps through it by keys."""
    ends = [
        (curve.x[0], curve.x[-1])
        for curve in curves_of(readings, form)
        if len(curve.x) and curve.group in groups
    ]
    if not ends:
        return ()
    low, high = min(low for low, _ in ends), max(high for _, high in ends)
    return tuple(np.linspace(low, high, _STOPS).tolist())
