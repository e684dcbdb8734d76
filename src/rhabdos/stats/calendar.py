"""Bins and ticks along the calendar: hours, days, weeks, months, years.

Dates are days since the beginning of 1970, with their parts; the calendar is the Gregorian one,
carried on into the past as ISO 8601 has it, and a week begins on Monday.
"""

import math
from typing import Literal

import numpy as np

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.stats.binning import MOST_BINS, BinningError, Edges, Side, StartsTooHighError
from rhabdos.stats.ordered import Ordered

Every = Literal["hour", "day", "week", "month", "quarter", "year", "decade"]
EVERY: dict[Every, float] = {
    "hour": 1 / 24,
    "day": 1.0,
    "week": 7.0,
    "month": 30.436875,
    "quarter": 91.310625,
    "year": 365.2425,
    "decade": 3652.425,
}
"""Steps along the calendar, and how many days each has in the mean."""
_MONTHS: dict[Every, int] = {"month": 1, "quarter": 3, "year": 12, "decade": 120}
_EVEN: dict[Every, tuple[int, int]] = {"hour": (1, 24), "day": (1, 1), "week": (7, 1)}
"""Steps of one length: so many days, divided into so many."""
_MONDAY = 4.0  # 1970 began on a Thursday: its fifth day was a Monday
_FIRST, _LAST = -719_528.0, 2_932_896.0  # the years 0 to 9999


def calendar_places(low: float, high: float, every: Every, step: int = 1) -> FloatArray:
    """The beginnings of every step from the one at or before ``low`` to the one past ``high``.

    Parameters
    ----------
    low, high : float
        Days since 1970.
    step : int
        Only each so manieth hour, day, week, month … counted from the calendar's own beginning.

    Returns
    -------
    array, shape (k,)
        Days since 1970, rising; at least two.
    """
    if every in _EVEN:
        return _even_places(low, high, every, step)
    months = _MONTHS[every] * step
    first = _month_of(low) // months
    last = _month_of(high) // months + 1
    counted = np.arange(first, last + 1, dtype=np.int64) * months
    return counted.astype("datetime64[M]").astype("datetime64[D]").astype(np.float64)


def _even_places(low: float, high: float, every: Every, step: int) -> FloatArray:
    days, parts = _EVEN[every]
    origin = _MONDAY if every == "week" else 0.0

    def place(number: IntArray | int) -> FloatArray:
        """Where a step begins, rounded once: a moment at it is the same double."""
        return np.asarray(origin + number * (days * step) / parts, dtype=np.float64)

    first, last = (math.floor((end - origin) * parts / (days * step)) for end in (low, high))
    # The number of a step may be rounded over its end, and no value may lie before the first.
    first += int(place(first + 1) <= low) - int(place(first) > low)
    last += int(place(last + 1) <= high) - int(place(last) > high)
    return place(np.arange(first, last + 2))


def _month_of(days: float) -> int:
    """The month that a day lies in, counted from January 1970."""
    return int(np.datetime64(math.floor(days), "D").astype("datetime64[M]").astype(np.int64))


def calendar_edges(
    sample: Ordered, every: Every, closed: Side = "left", start: float | None = None
) -> Edges:
    """Bins from one beginning of an hour, day, week, month … to the next.

    Parameters
    ----------
    sample : Ordered
        Dates in days since 1970.
    every : str
        The step of the calendar: hour, day, week, month, quarter, year or decade.
    closed : {"left", "right"}
        Which end of a bin belongs to it.
    start : float, optional
        A day in the first step, instead of the first date.

    Raises
    ------
    BinningError
        There would be too many, the dates lie beyond the calendar, or all lie before the start.
    """
    low, high = sample.minimum if start is None else start, sample.maximum
    if low > high:
        raise StartsTooHighError(low, high)
    if low < _FIRST or high > _LAST:
        raise BinningError("These dates lie beyond the years 0 to 9999, where calendars end.")
    if (high - low) / EVERY[every] > MOST_BINS:
        raise BinningError(
            f"One bin {_a(every)} would make over {MOST_BINS:,} bins. Choose longer ones."
        )
    places = calendar_places(low, high, every)
    if (
        closed == "right" and start is None and low == places[0]
    ):  # which would belong to the bin before
        places = np.concatenate([calendar_places(low - EVERY[every] / 2, low, every)[:1], places])
    if len(places) > 2 and closed == "right" and high <= places[-2]:
        places = places[:-1]
    return Edges(places, closed, EVERY[every] if every in _EVEN else None, every)


def _a(every: Every) -> str:
    return f"an {every}" if every == "hour" else f"a {every}"


def nearest_step(span: float, bins: int) -> Every:
    """The step that divides so many days into about so many bins.

    Parameters
    ----------
    span : float
        In days.
    bins : int
        About how many there shall be.
    """
    wanted = math.log(max(span, 1e-9) / max(bins, 1))  # of one moment only, a span of no length
    return min(EVERY, key=lambda every: abs(math.log(EVERY[every]) - wanted))
