"""Lists of numbers as the window shows them: what is read, what it is sorted by, and what a hand
resting on it is told."""

import math

from msgspec import Struct


class Listed(Struct, frozen=True):
    """One cell of a list: how it is written, what it is sorted by, and more of it.

    What is not there, such as the mean of a category, is NaN and written as nothing.
    """

    text: str
    value: float | str
    tip: str = ""


NOTHING = Listed("", math.nan)


def as_name(text: str) -> Listed:
    """A name, sorted without regard to capitals."""
    return Listed(text, text.casefold())


def as_count(number: int) -> Listed:
    """A whole number."""
    return Listed(f"{number:,}", float(number))


def plain(cell: Listed | None, full: bool = False) -> str:
    """A cell as spreadsheets take it: a number without marks of thousands, in ``full`` with all its
    digits; words in one line."""
    if cell is None:
        return ""
    if isinstance(cell.value, float):
        text = cell.text.replace(",", "").replace("−", "-")
        return f"{cell.value:.15g}" if full and _is_number(text) else text
    return " ".join(cell.text.split())


def _is_number(text: str) -> bool:
    """Whether a text is a number and nothing else: no date, no interval, no word."""
    try:
        return math.isfinite(float(text))
    except ValueError:
        return False
