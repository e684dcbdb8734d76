"""Where value axes begin and end."""

import math

from msgspec import Struct

from rhabdos.errors import Refusal
from rhabdos.figure.readings import Readings
from rhabdos.scene.forms import scene_form
from rhabdos.scene.grid import value_key
from rhabdos.stats.rules import by_rule


class Limits(Struct, frozen=True):
    """Where a value axis begins and ends, in the variable's unit."""

    low: float
    high: float


def limits_of(readings: Readings) -> tuple[Limits, ...]:
    """The limits of each panel that show all of every form; shared unless axes are freed."""
    together: dict[tuple[str, int], list[int]] = {}
    for panel in readings.plan.panels:
        together.setdefault(value_key(readings, panel.place), []).extend(panel.groups)
    each = {key: _limits(readings, groups) for key, groups in together.items()}
    usual = next(limits for limits in each.values() if limits)
    return tuple(each[value_key(readings, panel.place)] or usual for panel in readings.plan.panels)


def _limits(readings: Readings, groups: list[int]) -> Limits | None:
    """The limits of some groups; None where they have no values."""
    filled = [group for group in groups if readings.groups[group].n]
    if not filled:
        return None
    asked = (*readings.plan.heights, *readings.plan.strips)
    reaches = [
        reach for form in asked if (reach := scene_form(form).reach(readings, filled)) is not None
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
