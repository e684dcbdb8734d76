"""Where value axes begin and end."""

import math
import sys

from msgspec import Struct

from rhabdos.data.columns import DateColumn
from rhabdos.errors import Refusal
from rhabdos.figure.readings.axis_limits import bounds_on
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.value_scale import least_positive, log_begin
from rhabdos.scene.coordinates import share_of
from rhabdos.scene.forms import scene_form
from rhabdos.scene.panels.grid import value_key
from rhabdos.stats.axis_scale import LINEAR_AXIS, AxisScale
from rhabdos.stats.rules import by_rule

_FARTHEST_DAY = 1e7  # from 1970, that an axis shows about dates of the years 0 to 9999
_LEAST_RATIO = 1 + 1e-9  # of the ends of a log axis


class Limits(Struct, frozen=True):
    """Where a value axis begins and ends, in the variable's unit."""

    low: float
    high: float
    axis: AxisScale = LINEAR_AXIS
    reversed: bool = False

    def share(self, value: float) -> float:
        """How far a value lies from the left end of the axis, or from the lower one: 0 to 1."""
        along = share_of(value, self.low, self.high, self.axis)
        return 1 - along if self.reversed else along


def limits_of(readings: Readings) -> tuple[Limits, ...]:
    """The limits of each panel that show all of every form; shared unless axes are freed."""
    together: dict[tuple[str, int], list[int]] = {}
    for panel in readings.plan.panels:
        together.setdefault(value_key(readings, panel.index), []).extend(panel.groups)
    each = {key: _asked(readings, groups) for key, groups in together.items()}
    usual = next(limits for limits in each.values() if limits)
    return tuple(each[value_key(readings, panel.index)] or usual for panel in readings.plan.panels)


def _asked(readings: Readings, groups: list[int]) -> Limits | None:
    """The limits of some groups with what the recipe asks of the axis."""
    limits, asked = _limits(readings, groups), readings.recipe.axes.value
    if limits is None:
        return None
    low, high = limits.low, limits.high
    filled = next(group for group in groups if readings.groups[group].n)
    axis = readings.scale_of(filled).axis
    if axis.log:
        low, high = _positive(readings, groups, low, high)
    elif axis.kind == "root":
        low, high = max(low, 0.0), max(high, math.ulp(0.0))
    asked_low, asked_high = bounds_on(readings, readings.groups[filled].axis)
    low = low if asked_low is None else asked_low
    high = high if asked_high is None else asked_high
    high = max(high, math.nextafter(low, math.inf))  # an axis of one value has a length too
    dates = isinstance(readings.groups[filled].variable, DateColumn)
    if dates and (max(-low, high) > _FARTHEST_DAY):
        raise Refusal(
            "The axis would reach far beyond the years 0 to 9999, where calendars end. Choose "
            "narrower bins, bandwidths or limits."
        )
    if axis.log and high / low < _LEAST_RATIO:  # too near for their logs to differ
        wider = max(high * _LEAST_RATIO, high + 4 * math.ulp(0.0))
        low, high = low / _LEAST_RATIO, min(wider, sys.float_info.max)
    if not axis.even and not axis.place(low) < axis.place(high):
        high = axis.value(axis.place(low) + 1.0)  # too near for their places to differ
    return Limits(low, high, axis, asked.reversed)


def _positive(
    readings: Readings, groups: list[int], low: float, high: float
) -> tuple[float, float]:
    """The limits of a log axis: from the smallest value above 0."""
    filled = [readings.groups[group].sample for group in groups if readings.groups[group].n]
    firsts = [least_positive(sample) for sample in filled if sample.maximum > 0]
    least = min(firsts, default=high)  # what has no place on the axis was refused before
    if low > 0:
        return low, high
    begin = log_begin(least)
    return begin, max(high, least * 1.01)  # decades end before numbers do


def _limits(readings: Readings, groups: list[int]) -> Limits | None:
    """The limits of some groups; None where they have no values."""
    filled = [group for group in groups if readings.groups[group].n]
    if not filled:
        return None
    forms = (*readings.plan.heights, *readings.plan.strips)
    reaches = [
        reach for form in forms if (reach := scene_form(form).reach(readings, filled)) is not None
    ]
    if reaches:
        low, high = min(low for low, _ in reaches), max(high for _, high in reaches)
        if not math.isfinite(high - low):
            raise Refusal(
                "The values lie farther apart than the largest number, so no axis holds them all. "
                "Divide them by a power of ten."
            )
        if low < high:
            return Limits(low, high)
    axis = readings.groups[filled[0]].axis
    edges = by_rule(readings.pools[axis], "automatic").edges  # round places about one value
    return Limits(edges.low, edges.high)
