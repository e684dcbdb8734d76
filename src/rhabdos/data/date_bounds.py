"""Dates that are typed as bounds."""

from datetime import date, datetime

from rhabdos.errors import Refusal
from rhabdos.quoting import quoted


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
    days = (moment.replace(tzinfo=None) - datetime(1970, 1, 1)).total_seconds() / 86_400
    whole = len(text.strip()) <= len(str(date.today()))
    return days + (1 - 1e-9 if upper and whole else 0)  # the last moment of a day, within 0.1 ms


def date_bound_or_none(text: str, upper: bool) -> float | None:
    """The same; None where the text is no date."""
    try:
        return date_bound(text, upper)
    except Refusal:
        return None
