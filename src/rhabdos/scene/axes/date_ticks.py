"""Ticks of a date axis: hours, days, months or years, whichever have room."""

from collections.abc import Callable, Sequence

import numpy as np

from rhabdos.scene.axes.ticks import Ticks, ticks_by
from rhabdos.stats.calendar import EVERY, Every, calendar_places

_STEPS: tuple[tuple[Every, int], ...] = (
    ("hour", 1), ("hour", 3), ("hour", 6), ("hour", 12), ("day", 1), ("day", 2), ("week", 1),
    ("week", 2), ("month", 1), ("month", 2), ("quarter", 1), ("month", 6), ("year", 1), ("year", 2),
    ("year", 5), ("year", 10), ("year", 20), ("year", 50), ("year", 100), ("year", 200),
    ("year", 500), ("year", 1000),
)  # fmt: skip
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
_MOST = 14  # ticks of an axis
_INSTANT = 1e-6  # of a day, in which nothing happens
_MONDAY = 4  # the first since 1970


def date_ticks(low: float, high: float, fits: Callable[[Ticks, float], bool]) -> Ticks:
    """The closest ticks along the calendar whose labels fit; days since 1970.

    Parameters
    ----------
    fits : callable
        Told the ticks and the days of a step; says whether the labels have room.
    """
    best = Ticks((low, high), (_day(low), _day(high)))
    for every, step in _STEPS:
        days = EVERY[every] * step
        if (high - low) / days > _MOST:
            continue
        places = calendar_places(low, high, every, step)
        inside = tuple(float(p) for p in places if low - 1e-9 <= p <= high + 1e-9)  # 0.1 ms
        if not inside:
            continue
        labels = tuple(_label(place, every) for place in inside)
        best = Ticks(inside, labels)
        if fits(best, days):
            return best
    return best


def _label(days: float, every: Every) -> str:
    moment = np.datetime64(round(days * 24), "h")
    day = moment.astype("datetime64[D]")
    year, month = str(day)[:-6], int(str(day)[-5:-3])
    if every == "hour":
        return f"{_day(days)} {str(moment)[-2:]}:00"
    if every in ("day", "week"):
        return _day(days)
    if every in ("month", "quarter"):
        return f"{_MONTHS[month - 1]} {year}"
    return year


def _day(days: float) -> str:
    day = str(np.datetime64(int(np.floor(days)), "D"))
    return f"{int(day[-2:])} {_MONTHS[int(day[-5:-3]) - 1]} {day[:-6]}"


def dates_at(places: Sequence[float], roughly: bool = False) -> Ticks:
    """Ticks at given days, each written with its date; with the time where one of them has one, or
    where ``roughly`` means the day, only where days repeat."""
    days = tuple(_day(place + _INSTANT) for place in places)
    whole = all(abs(place - round(place)) <= _INSTANT for place in places)
    if whole or (roughly and len(set(days)) == len(days)):
        return Ticks(tuple(places), days)
    times = (str(np.datetime64(round(place * 1_440), "m"))[-5:] for place in places)
    timed = (f"{day} {time}" for day, time in zip(days, times, strict=True))
    return Ticks(tuple(places), tuple(timed))


def dates_by(low: float, high: float, step: float) -> Ticks:
    """Ticks so many days apart; those of weeks are Mondays.

    Parameters
    ----------
    low, high : float
        Days since 1970.
    step : float
        Days, which may be parts of one.
    """
    places = ticks_by(low - _MONDAY, high - _MONDAY, step).places
    return dates_at([place + _MONDAY for place in places])
