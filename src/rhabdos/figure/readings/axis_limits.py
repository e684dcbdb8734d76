"""Limits that a recipe asks of the value axis, and how many values lie beyond them."""

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.data.date_bounds import date_bound, date_bound_or_none
from rhabdos.errors import Refusal
from rhabdos.figure.readings.value_scale import WORDS, without_place
from rhabdos.figure.recipe.edge_text import read_number
from rhabdos.figure.recipe.recipe_axes import Bound, ValueAxis
from rhabdos.quoting import quoted
from rhabdos.stats.axis_scale import AxisScale
from rhabdos.wording import exact

if TYPE_CHECKING:
    from rhabdos.figure.readings.readings import Readings

MOST_SPACED = 1_000  # ticks that a spacing may ask for
"""Ticks that one axis may have."""
FARTHEST = 1e200  # times what an arsinh axis is even up to, which a value may lie from 0
_USUAL = ValueAxis()


class Beyond(Struct, frozen=True):
    """How many values lie below and above the limits, and how many the axis has no place for."""

    below: int
    above: int
    without_place: int

    @property
    def hidden(self) -> int:
        """How many are not to be seen."""
        return self.below + self.above + self.without_place


def value_bounds(readings: "Readings") -> tuple[float | None, float | None]:
    """The ends of the value axis that a recipe asks for, in the variable's unit; dates in days.

    Raises
    ------
    Refusal
        One of them is no number, or no date where values are dates.
    """
    settings = readings.recipe.axes.value
    dates = isinstance(readings.variable, DateColumn)
    what = "The limit of the value axis"
    return bound_value(settings.low, dates, what), bound_value(
        settings.high, dates, what, upper=True
    )


def bounds_on(readings: "Readings", axis: int) -> tuple[float | None, float | None]:
    """The ends that a recipe asks for on one of the value axes, in the unit of that.

    Of several axes those have them that measure what the ends are, numbers or dates, and have
    values between them; the others run as their values do.

    Raises
    ------
    Refusal
        One of them is no number and no date.
    """
    if readings.plan.axes == 1:
        return value_bounds(readings)
    settings, dates, pool = (
        readings.recipe.axes.value,
        readings.dates_on(axis),
        readings.pools[axis],
    )
    low, high = (
        _of_kind(readings, settings.low, dates),
        _of_kind(readings, settings.high, dates, True),
    )
    if not pool.n or (low is None and high is None):
        return None, None
    begins, ends = pool.minimum if low is None else low, pool.maximum if high is None else high
    shows = begins < ends and begins <= pool.maximum and ends >= pool.minimum
    return (low, high) if shows else (None, None)


def _of_kind(
    readings: "Readings", bound: Bound | None, dates: bool, upper: bool = False
) -> float | None:
    """An end of an axis of dates or of numbers; None where figures have both, and it is of the
    other."""
    what = "The limit of the value axis"
    kinds = {readings.dates_on(axis) for axis in range(readings.plan.axes)}
    if len(kinds) == 1 or bound is None:
        return bound_value(bound, dates, what, upper)
    if isinstance(bound, float):
        return None if dates else bound
    day = date_bound_or_none(bound, upper)
    if day is None:
        number = bound_value(bound, False, what)
        return None if dates else number
    return day if dates else None


def settings_on(readings: "Readings", low: float, high: float) -> ValueAxis:
    """What is asked of one of the value axes, which runs from ``low`` to ``high``: of several axes
    those have the ticks and the words that stand on them."""
    settings: ValueAxis = readings.recipe.axes.value
    if readings.plan.axes == 1:
        return settings
    ticks, words = settings.ticks, settings.words
    if isinstance(ticks, float) and not 1 <= (high - low) / ticks <= MOST_SPACED:
        ticks = None
    if isinstance(ticks, tuple) and not any(low <= place <= high for place in ticks):
        ticks = None
    words = tuple(word for word in words if low <= word[0] <= high)
    return settings.changed(ticks=ticks, words=words)


def number_typed(
    readings: "Readings", text: str, variable: NumberColumn | None = None
) -> float | None:
    """A number of a variable, by default the first, that was typed, with its unit or without, and
    with the marks that the figure has; None where it is none."""
    unit = (variable or readings.variable).unit
    bare = text.removesuffix(unit) if unit else text
    return read_number(bare, readings.recipe.axes.value.marks[1])


def bound_value(bound: Bound | None, dates: bool, what: str, upper: bool = False) -> float | None:
    """A place on the value axis that a recipe holds as a number or as a date, in days.

    Parameters
    ----------
    what : str
        What stands there, for a refusal.
    upper : bool
        Whether a day means its end.

    Raises
    ------
    Refusal
        It is no number, or no date where values are dates.
    """
    if bound is None or isinstance(bound, float):
        return bound
    if dates:
        try:
            return date_bound(bound, upper)
        except Refusal as error:
            raise Refusal(f"{what}: {error}") from error
    number = read_number(bound)
    if number is None:
        raise Refusal(f"{what}: {quoted(bound)} is no number. Write one, such as 40.")
    return number


def told_bound(variable: NumberColumn, value: float, upper: bool = False) -> Bound:
    """A value as recipes hold it: of dates, the date; of one that ends something, with its time,
    since a bare day would mean its end."""
    if not isinstance(variable, DateColumn):
        return value
    day = variable.written(math.floor(value))
    if upper and date_bound_or_none(day, True) == value:
        return day  # its last moment
    date = variable.written(value)
    if upper and date_bound_or_none(date, True) != date_bound_or_none(date, False):
        date += " 00:00"
    return value if date_bound_or_none(date, upper) is None else date  # beyond the calendar


def range_ends(readings: "Readings", number: int) -> tuple[float, float]:
    """The ends of a range that is shaded, in the variable's unit; of dates, in days.

    Raises
    ------
    Refusal
        They are no places on the axis, or do not rise.
    """
    kept = readings.recipe.range[number]
    dates = isinstance(readings.variable_in(kept.panel), DateColumn)
    called = f"Range {number + 1} in the figure"
    low = bound_value(kept.low, dates, called)
    high = bound_value(kept.high, dates, called, upper=True)
    assert low is not None
    assert high is not None
    if low >= high:
        raise Refusal(f"{called} must begin below its end. Write the smaller value as from.")
    return low, high


def check_axes(readings: "Readings") -> None:
    """Refuse limits between which nothing lies, more ticks than anybody could read, and texts
    and ranges at places that are none.

    Raises
    ------
    Refusal
        With what is wrong and what to do.
    """
    settings = readings.recipe.axes.value
    _check_places(readings)
    if settings == _USUAL:
        return
    several = readings.plan.axes > 1
    dates = any(readings.dates_on(axis) for axis in range(readings.plan.axes))
    low, high = _bounds_of_several(readings) if several else value_bounds(readings)
    filled = [pool for pool in readings.pools if pool.n]
    least, most = min(p.minimum for p in filled), max(p.maximum for p in filled)
    told = readings.variable.format_with_unit
    if settings.scale != "linear" and dates:
        raise Refusal("Dates have no logs and no roots. Make the value axis linear.")
    axis = AxisScale(settings.scale)
    on = WORDS[settings.scale].on
    none, some = ("0 or less", "above 0") if axis.log else ("less than 0", "0 or more")
    if not axis.admits(most):
        raise Refusal(
            f"{on[0].upper()}{on[1:]} has no place for {none}, and no value is {some}. Make the "
            "axis linear."
        )
    if low is not None and not axis.admits(low):
        raise Refusal(
            f"{on[0].upper()}{on[1:]} cannot begin at {told(low)}, since it has no place for "
            f"{none}. Let it begin at {some}, or make it linear.".replace("at above", "above")
        )
    if settings.near is not None and max(abs(least), abs(most)) / settings.near > FARTHEST:
        raise Refusal(
            f"The value axis is near to 0 up to {exact(settings.near)}, and values reach to "
            f"{told(most)}, too far from that. Choose more."
        )
    if several:
        return
    if low is not None and low >= (most if high is None else high):
        beyond = "all values lie below that" if high is None else "that is where it ends"
        raise Refusal(f"The value axis cannot begin at {told(low)}: {beyond}. Choose less.")
    if high is not None and low is None and high <= least:
        raise Refusal(
            f"The value axis cannot end at {told(high)}: all values lie above that. Choose more."
        )
    span = (most if high is None else high) - (least if low is None else low)
    if isinstance(settings.ticks, float) and span / settings.ticks > MOST_SPACED:
        apart = readings.variable.format_difference(settings.ticks)
        raise Refusal(
            f"Ticks {apart} apart would be {_many(span / settings.ticks)}, and at "
            f"most {MOST_SPACED:,} are drawn. Choose a greater distance."
        )


def _check_places(readings: "Readings") -> None:
    """Refuse texts and ranges at places that are none."""
    for number, text in enumerate(readings.recipe.text, 1):
        days = isinstance(readings.variable_in(text.panel), DateColumn)
        places = [text.value, *([text.arrow.value] if text.arrow else [])]
        for place in places:
            bound_value(place, days, f"Text {number} in the figure")
    for number in range(len(readings.recipe.range)):
        range_ends(readings, number)


def _bounds_of_several(readings: "Readings") -> tuple[float | None, float | None]:
    """The first ends that any of several axes has.

    Raises
    ------
    Refusal
        Ends are asked for, and no axis has values between them.
    """
    settings = readings.recipe.axes.value
    if settings.low is None and settings.high is None:
        return None, None
    for axis in range(readings.plan.axes):
        ends = bounds_on(readings, axis)
        if ends != (None, None):
            return ends
    raise Refusal(
        "No value axis can run so: none of the variables has values there. Choose other limits."
    )


def _many(count: float) -> str:
    """How many, in words that stay short."""
    # No doubles tell so many ticks apart, let alone eyes.
    if not math.isfinite(count) or count >= 1e12:
        return "more than anybody could count"
    return f"{count:,.0f} of them"


def beyond_limits(readings: "Readings", groups: Sequence[int] | None = None) -> Beyond:
    """The values of some groups, or of all, that the limits of the value axis hide."""
    axis = AxisScale(readings.kind)
    ends = [bounds_on(readings, each) for each in range(readings.plan.axes)]
    below = above = without = 0
    chosen = range(len(readings.groups)) if groups is None else groups
    for group in (readings.groups[index] for index in chosen):
        sample, (low, high) = group.sample, ends[group.axis]
        if not sample.n:
            continue
        none = without_place(sample, axis)
        without += none
        if low is not None:
            below += max(0, int(sample.below(np.array([low]))[0]) - none)
        if high is not None:
            above += sample.n - int(sample.below(np.array([high]), inclusive=True)[0])
    return Beyond(below, above, without)
