"""Columns of a table and what kind each is."""

import re
from collections.abc import Mapping, Sequence
from typing import Literal

import numpy as np
from msgspec import Struct, field
from msgspec.structs import force_setattr

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.quoting import printable

Kind = Literal["number", "category", "label"]

BLANK = "blank"
INFINITE = "infinite"


class Column(Struct, frozen=True, eq=False):
    """What all columns have.

    Attributes
    ----------
    name : str
        As it stands in the file; unique within its table.
    label, unit : str
        For the reader: "Shell length" and "mm". The unit may be empty.
    missing_as : mapping of str to int
        What stood in place of a value ("blank", "n/a", "infinite"), and how often.
    remark : str
        A sentence about something odd that reading noticed, or empty.
    """

    name: str
    label: str = ""
    unit: str = ""
    missing_as: Mapping[str, int] = field(default_factory=dict)
    remark: str = ""

    def __post_init__(self) -> None:
        if not self.label:
            label, unit = label_and_unit(self.name)
            force_setattr(self, "label", label)
            force_setattr(self, "unit", self.unit or unit)

    @property
    def kind(self) -> Kind:
        """What sort of values it holds."""
        raise TypeError(f"{type(self).__name__} is no kind of column by itself")

    @property
    def rows(self) -> int:
        """How many rows it has, with and without a value."""
        raise TypeError(f"{type(self).__name__} holds no rows by itself")

    @property
    def missing(self) -> int:
        """How many rows have no value."""
        return sum(self.missing_as.values())

    @property
    def n(self) -> int:
        """Number of rows that hold a value."""
        return self.rows - self.missing


class NumberColumn(Column, frozen=True, eq=False):
    """Measured or counted values; NaN where missing, never infinite."""

    values: FloatArray = field(default_factory=lambda: np.empty(0))

    @property
    def kind(self) -> Kind:
        """It holds numbers."""
        return "number"

    @property
    def rows(self) -> int:
        """How many rows it has."""
        return len(self.values)


class CategoryColumn(Column, frozen=True, eq=False):
    """Group membership: ``codes`` index ``levels``; -1 where missing."""

    codes: IntArray = field(default_factory=lambda: np.empty(0, np.int8))
    levels: tuple[str, ...] = ()

    @property
    def kind(self) -> Kind:
        """It holds levels."""
        return "category"

    @property
    def rows(self) -> int:
        """How many rows it has."""
        return len(self.codes)

    @property
    def level_counts(self) -> IntArray:
        """Rows in each level, shape (len(levels),)."""
        return np.bincount(self.codes[self.codes >= 0], minlength=len(self.levels))


class LabelColumn(Column, frozen=True, eq=False):
    """Text that names rows rather than groups them; None where missing."""

    texts: Sequence[str | None] = ()
    distinct: int = 0

    @property
    def kind(self) -> Kind:
        """It names rows."""
        return "label"

    @property
    def rows(self) -> int:
        """How many rows it has."""
        return len(self.texts)


_LONGEST_UNIT = 24
_LONGEST_LABELLED = 300  # letters; what is longer is no name with a unit

# Units that stand at the end of a technical name ("shell_length_mm"), as people write them.
_UNITS = {
    "mm": "mm", "cm": "cm", "m": "m", "km": "km", "mg": "mg", "g": "g", "kg": "kg", "t": "t",
    "ml": "ml", "l": "l", "s": "s", "min": "min", "h": "h", "d": "d", "days": "d", "yr": "yr",
    "pct": "%", "percent": "%", "psu": "psu", "c": "°C", "degc": "°C", "eur": "EUR", "usd": "USD",
}  # fmt: skip


def natural(level: str) -> tuple[tuple[int, float, str], ...]:
    """Sort key that puts "rack 2" before "rack 10", the same on every file."""
    parts = re.split(r"(\d+)", level.casefold())
    return (
        *((0, float(p), "") if p.isdecimal() else (1, 0.0, p) for p in parts if p),
        (2, 0.0, level),
    )


def label_and_unit(name: str) -> tuple[str, str]:
    """Turn a column's name into words for a reader: ``shell_length_mm`` gives ("Shell length",
    "mm").

    A unit in brackets at the end is taken as it is; a technical name loses its underscores.
    """
    text = printable(" ".join(name.split()))
    if len(text) > _LONGEST_LABELLED:
        return text, ""
    if (
        bracketed := re.fullmatch(r"(.+?)\s*[(\[]([^()\[\]]*[^\d()\[\]][^()\[\]]*)[)\]]", text)
    ) and len(bracketed[2]) <= _LONGEST_UNIT:
        return bracketed[1], bracketed[2].strip()
    unit = ""
    if "_" in text and " " not in text:
        words = [word for word in text.split("_") if word]
        if len(words) > 1 and words[-1].lower() in _UNITS:
            unit = _UNITS[words.pop().lower()]
        text = " ".join(words) or text
        if text.islower():
            text = text[0].upper() + text[1:]
    return text, unit
