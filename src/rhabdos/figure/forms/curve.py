"""Density curves: their readings, their notices and what they say."""

import math
from functools import partial

import numpy as np
from msgspec import Struct, structs

from rhabdos.data.columns import NumberColumn
from rhabdos.data.pooled import AnySample
from rhabdos.figure.forms.form import FigureForm
from rhabdos.figure.forms.lines import (
    CurveReading,
    cumulated_area,
    curve_card,
    curve_stops,
    curve_table,
    curves_of,
    factor,
    in_values,
    on_scale,
    without_curve,
)
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.figure.readings.value_scale import WORDS, least_positive, placed
from rhabdos.figure.recipe.recipe import Curves, Form
from rhabdos.figure.words.notice import DIFFERS, LACKS, Notice, listed_briefly
from rhabdos.memo import last_answers, memoised
from rhabdos.stats.axis_scale import LINEAR_AXIS, AxisScale
from rhabdos.stats.bandwidths import BandwidthRule, ruled_bandwidth
from rhabdos.stats.density import BeyondBoundError, Curve, DensityError, NoCurveError, density
from rhabdos.stats.ordered import Ordered
from rhabdos.wording import about

_SHARE_PAST = 0.01  # of a curve's area beyond a natural bound, from which on a notice says so
_FINEST = 2_000  # bandwidths from the smallest to the largest value that a page can show


class DensityReading(Struct, frozen=True, eq=False):
    """The density curve of one group, or why it has none.

    Attributes
    ----------
    curve : Curve or None
        Along the even ``axis``: of logs, where that is in logs.
    rule : str or None
        What gave its bandwidth; None where it was set by hand.
    share : float
        The share of the values that has a place on the axis.
    """

    curve: Curve | None
    lack: str = ""
    rule: BandwidthRule | None = None
    axis: AxisScale = LINEAR_AXIS
    share: float = 1.0

    @property
    def bandwidth(self) -> float:
        """In the variable's unit, or in steps of the root; on an axis of logs a ratio, such as
        1.2."""
        width = self.curve.bandwidth if self.curve else math.nan
        return 10**width if self.axis.by_ratio else width

    @property
    def mode(self) -> float:
        """Where the curve is highest, in the variable's unit; NaN where there is none."""
        if self.curve is None:
            return math.nan
        return self.axis.value(self.curve.mode)


@memoised  # each group asks for its own
def density_curves(readings: Readings) -> tuple[DensityReading, ...]:
    """Each group's density curve, as the recipe asks for it; kept while bins change under it."""
    settings = readings.recipe.curve.changed(fill=False)
    variables = readings.samples.variables
    curves = []
    for group, cell in enumerate(readings.samples.cells):
        sample = readings.samples.samples[group]
        variable, axis = variables[cell.variable], readings.scale_of(group).axis
        try:
            curves.append(_density_reading(sample, _bounded(settings, variable, sample), axis))
        except BeyondBoundError as error:
            raise _in_values(error, variable, axis) from None
    return tuple(curves)


def _in_values(
    error: BeyondBoundError, variable: NumberColumn, axis: AxisScale
) -> BeyondBoundError:
    """What is said of places of an axis, said of values."""
    return error.told(lambda place: variable.format_with_unit(axis.value(place)))


@last_answers(lambda _, *settings: settings, most=2)  # a curve may have 65,536 points
def _density_reading(sample: AnySample, settings: Curves, axis: AxisScale) -> DensityReading:
    return _density(settings, sample) if axis.even else _density_along(axis, settings, sample)


def _bounded(settings: Curves, variable: NumberColumn, sample: Ordered) -> Curves:
    """The settings with the bounds that a variable has by nature, where none are asked for and no
    value lies beyond."""
    lower, upper = settings.lower, settings.upper
    if not sample.n or (lower, upper) == (None, None) == (variable.lower, variable.upper):
        return settings
    if lower is None and variable.lower is not None and sample.minimum >= variable.lower:
        lower = variable.lower
    if upper is None and variable.upper is not None and sample.maximum <= variable.upper:
        upper = variable.upper
    if lower is not None and upper is not None and lower >= upper:
        return settings
    return settings.changed(lower=lower, upper=upper)


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


def _density_along(axis: AxisScale, settings: Curves, sample: AnySample) -> DensityReading:
    """The same of the places of all values that have one: bandwidth and bounds are those of
    places."""
    settings = settings.changed(
        lower=_bound_on(axis, settings.lower), upper=_bound_on(axis, settings.upper)
    )
    if axis.by_ratio and isinstance(settings.bandwidth, float):
        if settings.bandwidth <= 1:
            raise DensityError(
                f"On {WORDS[axis.kind].on} a bandwidth is a ratio, such as 1.2, and must be above "
                "1."
            )
        settings = settings.changed(bandwidth=math.log10(settings.bandwidth))
    places = placed(sample, axis)
    if not places.n and sample.n:
        above = "above 0" if axis.log else "0 or more"
        return DensityReading(None, f"No value of it is {above}, as {WORDS[axis.kind].on} needs.")
    reading = _density(settings, places)
    share = places.n / sample.n if sample.n else 1.0
    return structs.replace(reading, axis=axis, share=share)


def _bound_on(axis: AxisScale, bound: float | None) -> float | None:
    """A bound as a place; one that has none on the axis bounds nothing there."""
    return axis.place(bound) if bound is not None and axis.admits(bound) else None


def curve_reading(readings: Readings, group: Group) -> CurveReading:
    """The density of a group, as high as its bars would be."""
    reading = density_curves(readings)[group.index]
    drawn, share = reading.curve, reading.share
    if drawn is None:
        return without_curve(group.index, "density", reading.lack)
    rises = readings.cumulative
    y = 1 - share + share * cumulated_area(drawn.x, drawn.y) if rises else share * drawn.y
    x, y = in_values(drawn.x, y, reading.axis)
    curve = CurveReading(group.index, "density", reading.bandwidth, x, y, rises=rises)
    return on_scale(curve, factor(readings, group, curve.x))


def modes(readings: Readings) -> tuple[float, ...]:
    """Where each group's density curve is highest, with the recipe's bandwidth.

    NaN where it has none.
    """
    try:
        drawn = density_curves(readings)
    except DensityError:  # values beyond a bound: of this figure, only curves are refused
        return tuple(math.nan for _ in readings.groups)
    return tuple(
        reading.mode
        if reading.curve
        else sample.minimum
        if sample.n and sample.minimum == sample.maximum
        else math.nan
        for reading, sample in zip(drawn, readings.samples.samples, strict=True)
    )


# Notices


def lacking(readings: Readings, form: Form) -> tuple[Notice, ...]:
    """The groups that have no curve of a form, and why."""
    reasons: dict[str, list[str]] = {}
    for curve in curves_of(readings, form):
        if curve.lack:
            reasons.setdefault(curve.lack, []).append(readings.groups[curve.group].label)
    return tuple(
        Notice("no-curve", f"No curve of {listed_briefly(names)}. {lack}", weight=LACKS)
        for lack, names in reasons.items()
    )


def density_notices(readings: Readings, form: Form) -> tuple[Notice | None, ...]:
    """What is to be known of densities, drawn as curves or as violins."""
    return (
        *lacking(readings, form),
        _past_bound(readings),
        _bandwidth_instead(readings),
        _too_fine(readings),
    )


def bandwidth_words(width: float, readings: Readings, variable: NumberColumn | None = None) -> str:
    """A bandwidth in words: with the unit of a variable, by default the first, or on an axis of
    logs as the ratio that it is."""
    if readings.by_ratio:
        return f"a factor of {about(width, 4)}"
    if readings.kind == "root":
        return f"{about(width, 3)} in the root"
    return (variable or readings.variable).format_difference(float(f"{width:.3g}"))


def _past_bound(readings: Readings) -> Notice | None:
    """A curve says that values may lie where the data, and what they measure, say that none can."""
    recipe, pooled = readings.recipe, readings.samples.pooled
    drawn = [reading.curve for reading in density_curves(readings) if reading.curve]
    bounds = [("lower", 0.0)] if pooled.minimum >= 0 else []
    if {variable.unit for variable in readings.variables} == {"%"} and pooled.maximum <= 100:
        bounds.append(("upper", 100.0))
    for name, bound in bounds:
        if getattr(recipe.curve, name) is not None:
            continue
        axis = readings.scales[0].axis
        if not axis.admits(bound) or (bound == 0 and axis.kind == "arsinh"):
            continue  # logs end nowhere
        place = axis.place(bound)
        shares = (_share_past(curve, place, name == "lower") for curve in drawn)
        past = max(shares, default=0.0)
        if past > _SHARE_PAST:
            side = "below" if name == "lower" else "above"
            text = (
                f"A curve puts up to {100 * past:.1f} % of its values {side} {bound:g}, where no "
                "value lies."
            )
            cure = recipe.changed(curve=recipe.curve.changed(**{name: bound}))
            return Notice("past-bound", text, cure, f"end the curve at {bound:g}")
    return None


def _share_past(curve: Curve, bound: float, below: bool) -> float:
    risen = cumulated_area(curve.x, curve.y)
    upto = float(np.interp(bound, curve.x, risen)) / (float(risen[-1]) or 1.0)
    return upto if below else 1 - upto


def _bandwidth_instead(readings: Readings) -> Notice | None:
    """The bandwidth rule has no answer for some groups."""
    rule = readings.recipe.curve.bandwidth
    names = [
        group.label
        for group, reading in zip(readings.groups, density_curves(readings), strict=True)
        if reading.rule not in (rule, None)
    ]
    if not names:
        return None
    why = "values are rounded too coarsely, or lie too far apart"
    text = (
        f"The bandwidth’s rule has no answer for {listed_briefly(names)}: {why}. Silverman’s is "
        "used there."
    )
    return Notice("bandwidth-instead", text, weight=DIFFERS)


def _span_along(readings: Readings, axis: int) -> float:
    """How far the values on a value axis lie apart as that is even."""
    pooled, along = readings.pools[axis], readings.scales[axis].axis
    if along.even:
        return pooled.maximum - pooled.minimum
    least = least_positive(pooled) if along.log else max(pooled.minimum, 0.0)
    least = pooled.minimum if along.kind == "arsinh" else least
    return along.place(pooled.maximum) - along.place(least)


def _too_fine(readings: Readings) -> Notice | None:
    """A curve has more detail than a page can show."""
    for group, reading in zip(readings.groups, density_curves(readings), strict=True):
        curve = reading.curve
        if curve is None:
            continue
        span = _span_along(readings, group.axis)
        if not curve.averaged_over and curve.bandwidth >= span / _FINEST:
            continue
        width = bandwidth_words(reading.bandwidth, readings, group.variable)
        text = (
            f"The curve of {listed_briefly([group.label])} is smoothed over {width} only, finer "
            "than a page shows it all."
        )
        if curve.averaged_over:
            over = bandwidth_words(
                10**curve.averaged_over if readings.by_ratio else curve.averaged_over,
                readings,
                group.variable,
            )
            text += f" Its points are averages over {over}."
        return Notice("fine-curve", text, weight=DIFFERS)
    return None


FORM = FigureForm(
    card=partial(curve_card, "curve"),
    stops=partial(curve_stops, "curve"),
    notices=partial(density_notices, form="curve"),
    numbers=partial(curve_table, form="curve"),
)
