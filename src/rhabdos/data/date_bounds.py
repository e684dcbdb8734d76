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


def date_bound_or_none(text: str, upper: bool) -> float | None:
    """The same; None where the text is no date."""
    try:
        return date_bound(text, upper)
    except Refusal:
        return None
