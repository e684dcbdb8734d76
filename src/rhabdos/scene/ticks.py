"""Ticks of an axis: round places, and the words beside them."""

import math
from collections.abc import Callable
from functools import lru_cache

from msgspec import Struct

from rhabdos.stats.rounding import (
    exponent_of,
    multiple_below,
    nearest_round_step,
    round_steps,
    sequence,
)

_MOST = 12


class Ticks(Struct, frozen=True):
    """Places along an axis and their labels, in rising order."""

    places: tuple[float, ...]
    labels: tuple[str, ...]


def ticks(
    low: float, high: float, fits: Callable[[Ticks, float], bool], whole: bool = False
) -> Ticks:
    """The closest round ticks from ``low`` to ``high`` whose labels still fit.

    Parameters
    ----------
    fits : callable
        Told the ticks and their step; says whether the labels have room.
    whole : bool
        Only whole numbers.
    """
    span = high - low
    for step in round_steps(span / _MOST / 1.01, min(span * 10, 1.7e308), whole):
        candidates = ticks_by(low, high, step)
        if candidates.places and fits(candidates, step):
            return candidates
    return ticks_by(low, high, nearest_round_step(span, whole))


@lru_cache(maxsize=512)
def ticks_by(low: float, high: float, step: float) -> Ticks:
    """Ticks at the multiples of a step from ``low`` to ``high``; kept, since an axis mostly stands
    still."""
    first = multiple_below(low, step)
    if not math.isfinite(first):  # the range of numbers ends between it and the axis
        first = math.ceil(low / step) * step
    count = math.floor((high / step - first / step) * (1 + 1e-12)) + 2
    slack = step * 1e-9
    places = tuple(
        float(v)
        for v in sequence(first, step, count)
        if low - slack <= v <= high + slack and math.isfinite(v)
    )
    reach = max(abs(low), abs(high))
    return Ticks(places, tuple(label(place, step, reach) for place in places))


def label(place: float, step: float, reach: float) -> str:
    """A tick's label, with the decimals its step needs; scientific far from 1."""
    if place == 0:
        return "0"
    if reach >= 1e7 or reach < 1e-4:
        digits = max(0, exponent_of(abs(place)) - exponent_of(step)) + 1 + _second_digit(step)
        if digits <= 7:
            digit, _, exponent = f"{place:.{max(0, digits - 1)}e}".partition("e")
            digit = digit.rstrip("0").rstrip(".") if "." in digit else digit
            raised = str(int(exponent)).translate(str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹"))
            return f"{digit}×10{raised}".replace("-", "−")
    decimals = max(0, -exponent_of(step) + _second_digit(step))
    return f"{place:,.{decimals}f}".replace("-", "−")


def _second_digit(step: float) -> int:
    return 1 if f"{step:e}".startswith("2.5") else 0
