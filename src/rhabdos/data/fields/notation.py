"""How numbers and dates are written, and what else their writing might mean."""

from msgspec import Struct

THOUSANDS = (",", ".", " ", "\u00a0", "\u202f", "\u2009", "'", "’", "_")
"""Marks that part thousands."""
USUAL_YEARS = 1970
"""The first of the hundred years that years of two digits lie in, where nothing else is said."""


class Notation(Struct, frozen=True):
    """How numbers and dates are written.

    Attributes
    ----------
    decimal : str
        "." or ",".
    thousands : str
        The mark between thousands, or empty.
    unit : str
        What stands behind every number, or the sign of a currency before or behind it; or empty.
    brackets : bool
        Whether "(3.50)" is −3.50, as books of account have it.
    clock : str
        What "09:05" is: "hours" and minutes, or "minutes" and seconds; empty for no number.
    date : str
        How dates are written, such as "%d.%m.%Y"; empty where numbers are meant.
    times : tuple of str
        How times of day stand behind the dates; an empty one is a date alone.
    years_from : int
        The first of the hundred years that years of two digits lie in.
    """

    decimal: str = "."
    thousands: str = ""
    unit: str = ""
    brackets: bool = False
    clock: str = ""
    date: str = ""
    times: tuple[str, ...] = ("",)
    years_from: int = USUAL_YEARS


PLAIN = Notation()


class Doubt(Struct, frozen=True):
    """Another way in which all fields of a column might have been read.

    Attributes
    ----------
    code : str
        Of the notice that tells it.
    example, taken, other : str
        A field, what it was taken for, and what it might be; the last may be empty.
    cure : tuple of (str, str or int)
        What a change of kind must say, by the names of its fields; empty where there is no cure.
    """

    code: str
    example: str
    taken: str
    other: str = ""
    cure: tuple[tuple[str, str | int], ...] = ()
