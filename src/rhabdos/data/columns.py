"""Columns of a table and what kind each is."""

import math
import re
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from typing import TYPE_CHECKING, Literal

import numpy as np
from msgspec import Struct, field
from msgspec.structs import force_setattr

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.fields.notation import Doubt
from rhabdos.data.fields.units import label_and_unit
from rhabdos.wording import counted, exact, rounded, with_unit

if TYPE_CHECKING:
    import polars as pl

Kind = Literal["number", "category", "ordered category", "label", "date/time", "yes/no"]
KINDS: tuple[Kind, ...] = (
    "number", "category", "ordered category", "label", "date/time", "yes/no",
)  # fmt: skip
Grouping = Literal["category", "ordered category", "yes/no"]

BLANK = "blank"
INFINITE = "infinite"

Texts = Callable[[], "pl.Series"]
"""The fields of a column as they were written, read again when they are asked for."""


class Stood(Struct, frozen=True, eq=False):
    """What stood in the rows that have no value, where that was more than a blank.

    Attributes
    ----------
    rows : array of int, shape (m,)
        Rising.
    codes : array of int, shape (m,)
        Which of ``words`` stood there.
    """

    rows: IntArray
    codes: IntArray
    words: tuple[str, ...]

    def word_at(self, row: int) -> str | None:
        """What stood in a row; None for a blank."""
        index = int(self.rows.searchsorted(row))
        holds = index < len(self.rows) and self.rows[index] == row
        return self.words[self.codes[index]] if holds else None


class Column(Struct, frozen=True, eq=False, dict=True):
    """What all columns have.

    Attributes
    ----------
    name : str
        As it stands in the file; unique within its table.
    label, unit : str
        For the reader: "Shell length" and "mm". The unit may be empty.
    missing_as : mapping of str to int
        What stood in place of a value ("blank", "n/a", "infinite"), and how often.
    stood : Stood or None
        In which rows it stood.
    original : callable or None
        The fields as they were written, where the kind that was chosen does not keep them.
    made_by : str
        How it was made of other variables, in words; empty for what was read.
    doubts : tuple of Doubt
        What else its fields might have been taken for.
    some : bool
        Whether its rows are only some that were looked at, of those that lie elsewhere.
    """

    name: str
    label: str = ""
    unit: str = ""
    missing_as: Mapping[str, int] = field(default_factory=dict)
    stood: Stood | None = None
    original: Texts | None = None
    made_by: str = ""
    doubts: tuple[Doubt, ...] = ()
    some: bool = False

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
    def values_told(self) -> str:
        """How many values it has, in words."""
        told = counted(self.n, "value", "values")
        return f"{told} looked at" if self.some else told

    @property
    def missing(self) -> int:
        """How many rows have no value."""
        return sum(self.missing_as.values())

    @property
    def n(self) -> int:
        """Number of rows that hold a value."""
        return self.rows - self.missing


class NumberColumn(Column, frozen=True, eq=False):
    """Measured or counted values; NaN where missing, never infinite.

    ``lower`` and ``upper`` are bounds known from nature: no value can lie beyond them.
    """

    values: FloatArray = field(default_factory=lambda: np.empty(0))
    lower: float | None = None
    upper: float | None = None

    @property
    def kind(self) -> Kind:
        """It holds numbers."""
        return "number"

    @property
    def rows(self) -> int:
        """How many rows it has."""
        return len(self.values)

    def written(self, value: float) -> str:
        """A value as people read it, without its unit."""
        return exact(value)

    def format_with_unit(self, value: float) -> str:
        """A value with its unit."""
        return with_unit(self.written(value), self.unit)

    def rounded(self, value: float, places: int | None) -> str:
        """A value with so many places, without its unit."""
        return rounded(value, places)

    @property
    def distance_unit(self) -> str:
        """What the distance of two values is a number of."""
        return self.unit

    @property
    def place_unit(self) -> str:
        """What a value is a number of."""
        return self.unit

    def difference_written(self, width: float) -> str:
        """How far two values lie apart, without the unit."""
        return exact(width)

    def format_difference(self, width: float) -> str:
        """The same with the unit."""
        return with_unit(self.difference_written(width), self.unit)

    def format_rounded_difference(self, width: float, places: int | None) -> str:
        """The same with so many places, without the unit."""
        return rounded(width, places)


class DateColumn(NumberColumn, frozen=True, eq=False):
    """Dates, or dates with times: days since the beginning of 1970, with their parts."""

    @property
    def kind(self) -> Kind:
        """It holds dates."""
        return "date/time"

    def written(self, value: float) -> str:
        """A date as 2026-05-31, with its time where it has one."""
        return date_written(value)

    def format_with_unit(self, value: float) -> str:
        """The same: a date has no unit."""
        return date_written(value)

    def rounded(self, value: float, places: int | None) -> str:
        """The day, since a mean of dates knows no minutes; with its time where they lie within a
        few days."""
        if not math.isfinite(value):
            return "–"
        if places is None or places < _PLACES_OF_MINUTES:
            return date_written(math.floor(value))
        if places < _PLACES_OF_SECONDS:
            return date_written(round(value * _MINUTES) / _MINUTES)
        return date_written(value)

    @property
    def distance_unit(self) -> str:
        """Days."""
        return "days"

    @property
    def place_unit(self) -> str:
        """Days, too."""
        return "days since 1970"

    def difference_written(self, width: float) -> str:
        """How long from one date to another: days, hours or minutes."""
        units = (("day", 1, 4), ("hour", 24, 3), ("minute", _MINUTES, 3))
        told = [(float(f"{width * many:.{digits}g}"), unit) for unit, many, digits in units]
        number, unit = next((each for each in told if abs(each[0]) >= 1), told[-1])
        return f"{exact(number)} {unit}{'' if abs(number) == 1 else 's'}"

    def format_rounded_difference(self, width: float, _places: int | None) -> str:
        """Days with one place; less than one in hours or minutes."""
        if not math.isfinite(width):
            return "–"
        width = round(width, _SURE)
        if abs(width) >= 1 or not width:
            return f"{rounded(width, 1)} d"
        hours = width * 24
        return f"{rounded(hours, 1)} h" if abs(hours) >= 1 else f"{rounded(hours * 60, 1)} min"


class CategoryColumn(Column, frozen=True, eq=False):
    """Group membership: ``codes`` index ``levels``; -1 where missing.

    ``grouping`` tells whether the order of the levels means something, or they are yes and no.
    """

    codes: IntArray = field(default_factory=lambda: np.empty(0, np.int8))
    levels: tuple[str, ...] = ()
    grouping: Grouping = "category"

    @property
    def kind(self) -> Kind:
        """It holds levels."""
        return self.grouping

    @property
    def rows(self) -> int:
        """How many rows it has."""
        return len(self.codes)

    @property
    def level_counts(self) -> IntArray:
        """Rows in each level, shape (len(levels),)."""
        return np.bincount(self.codes[self.codes >= 0], minlength=len(self.levels))


def places_of(levels: Sequence[str]) -> dict[str, int]:
    """The place of each level; there may be very many, of which a tuple finds none quickly."""
    return {level: place for place, level in enumerate(levels)}


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


def bytes_of(column: Column) -> int:
    """About how many bytes a column takes."""
    if isinstance(column, NumberColumn):
        size = column.values.nbytes
    elif isinstance(column, CategoryColumn):
        size = column.codes.nbytes
    else:
        assert isinstance(column, LabelColumn)
        estimated = getattr(column.texts, "estimated_size", None)
        size = int(estimated()) if estimated else _BYTES_OF_TEXT * column.rows
    # What was written is held beside it, where it is not read again from the file.
    again = column.original is None or isinstance(column.original, partial)
    return size + (0 if again else _BYTES_OF_TEXT * column.rows)


def date_written(days: float) -> str:
    """Days since 1970 as 2026-05-31; with 14:30, or 14:30:05, where they are not whole."""
    if not math.isfinite(days):
        return "–"
    if abs(days) > _LAST_DAY:
        return f"day {exact(days)}"
    moment = np.datetime64(round(days * _SECONDS), "s")
    text = str(moment.astype("datetime64[s]")).replace("T", " ")
    return text.removesuffix(" 00:00:00").removesuffix(":00") if " " in text else text


def level_written(value: float, dates: bool = False) -> str:
    """A number, or a date as days since 1970, as the name of a group."""
    return date_written(value) if dates else f"{value:.15g}"


_SECONDS, _MINUTES = 86_400, 1_440
_SURE = 9  # decimals of days: between moments of our time no more are told apart
_BYTES_OF_TEXT = 24  # of a cell, where its library does not tell
_PLACES_OF_MINUTES, _PLACES_OF_SECONDS = 3, 5  # of a day, that dates are to be told with
_LAST_DAY = 3_000_000  # beyond the year 9999, where calendars end


def natural(level: str) -> tuple[tuple[int, float, str], ...]:
    """Sort key that puts "rack 2" before "rack 10", the same on every file."""
    parts = re.split(r"(\d+)", level.casefold())
    return (
        *((0, float(p), "") if p.isdecimal() else (1, 0.0, p) for p in parts if p),
        (2, 0.0, level),
    )
