"""A second scale of the same heights: counts at one side, percent at the other."""

import math

from rhabdos.figure.readings import Readings
from rhabdos.stats.heights import Scale


def second_factor(readings: Readings) -> float | None:
    """By how much a height of the second scale is one of the first; None where the groups would
    need one each, or nothing is asked for."""
    second = readings.recipe.axes.height.second
    if second is None or not readings.plan.heights or second == readings.scale:
        return None
    each = [
        _per_value(readings, second, place) / _per_value(readings, readings.scale, place)
        for place, group in enumerate(readings.groups)
        if group.n
    ]
    if not each or not all(math.isfinite(factor) and factor > 0 for factor in each):
        return None
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
    width = readings.own_edges[group].width if readings.needs_bins else None
    return share / width if width and not readings.cumulative else math.nan
