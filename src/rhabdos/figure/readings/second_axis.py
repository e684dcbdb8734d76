"""A second scale of the same heights: counts at one side, percent at the other."""

import math

from rhabdos.figure.readings.readings import Readings
from rhabdos.stats.heights import Scale


def second_factor(readings: Readings) -> float | None:
    """By how much a height of the second scale is one of the first; None where there is no second
    axis, or none is asked for."""
    second = readings.recipe.axes.height.second
    if second is None or not readings.plan.heights or why_no_second(readings):
        return None
    return _factor(readings, second)


def why_no_second(readings: Readings) -> str:
    """Why there is no second axis though one is asked for; empty where there is one."""
    second = readings.recipe.axes.height.second
    if second is None:
        return ""
    if second == readings.scale:
        return f"the heights are in {second} already"
    if "height" in readings.recipe.panels.free and len(readings.plan.panels) > 1:
        return "panels with heights of their own would need one each"
    if readings.plan.axes > 1:
        return "variables with axes of their own would need one each"
    if _factor(readings, second) is None:
        return "groups of different size would need one each, and so would bins of different width"
    return ""


def _factor(readings: Readings, second: Scale) -> float | None:
    """The one factor of all groups, if there is one."""
    each = [
        _per_value(readings, second, index) / _per_value(readings, readings.scale, index)
        for index, group in enumerate(readings.groups)
        if group.n
    ]
    if not each or not all(math.isfinite(factor) and factor > 0 for factor in each):
        return None
    # Widths of bins that are one decimal differ in their last digits as doubles.
    return each[0] if max(each) - min(each) <= 1e-9 * max(each) else None


def _per_value(readings: Readings, scale: Scale, group: int) -> float:
    """The height of a bar with one value in it; NaN where bars differ."""
    if scale == "count":
        return 1.0
    share = 1 / readings.total(group)
    if scale == "percent":
        return 100 * share
    if scale == "proportion":
        return share
    if not readings.needs_bins or readings.cumulative or not readings.fair:
        return math.nan
    along, edges = readings.scale_of(group), readings.own_edges[group]
    alike = edges.width or not along.axis.even
    return share / float(along.widths(edges)[0]) if alike else math.nan
