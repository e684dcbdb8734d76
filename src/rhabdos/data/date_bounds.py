"""Dates that are typed as bounds."""

import math
from datetime import date, datetime, timedelta

from rhabdos.errors import Refusal
from rhabdos.quoting import quoted

_DAY = 86_400_000_000  # microseconds


def date_bound(text: str, upper: bool) -> float:
    """A day such as 2026-05-31 as days since 1970; as an upper bound its last moment.

    Raises
    ------
    Refusal
        The text is no date.
    """
    try:
        moment = datetime.fromisoformat(text.strip())
    except ValueError:
        raise Refusal(f"{quoted(text)} is no date. Write it as 2026-05-31.") from None
    since = moment.replace(tzinfo=None) - datetime(1970, 1, 1)
    # Divided once, as the dates of columns are: the same moment is the same double.
    days = since // timedelta(microseconds=1) / _DAY
    whole = len(text.strip()) <= len(str(date.today()))
    return math.nextafter(days + 1, days) if upper and whole else days


def bound_written(days: float, upper: bool, ahead: bool) -> str | None:
    """A place among dates as a bound that parts them as it does: dates are whole microseconds, so
    that the nearest one says the same. None beyond the calendar.

    Parameters
    ----------
    days : float
        Since 1970.
    upper : bool
        Whether a bare day would mean its end, as `date_bound` has it.
    ahead : bool
        Whether the first moment from there on is meant; else the last one up to there.
    """
    try:
        # From a little before or behind on, since the product may be off by one of them.
        at = round(days * _DAY) + (-2 if ahead else 2)
        while ahead and at / _DAY < days:
            at += 1
        while not ahead and at / _DAY > days:
            at -= 1
        moment = datetime(1970, 1, 1) + timedelta(microseconds=at)
    except (OverflowError, ValueError):
        return None
    text = moment.isoformat(sep=" ").removesuffix(":00")
    return text if upper else text.removesuffix(" 00:00")


def date_bound_or_none(text: str, upper: bool) -> float | None:
    """The same; None where the text is no date."""
    try:
        return date_bound(text, upper)
    except Refusal:
        return None
