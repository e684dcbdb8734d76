"""The step that declares what stands for a missing value."""

from collections.abc import Mapping
from typing import TypeVar

import numpy as np
from msgspec import structs

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.chunks import in_pieces
from rhabdos.data.columns import (
    CategoryColumn,
    Column,
    DateColumn,
    LabelColumn,
    NumberColumn,
    Stood,
)
from rhabdos.data.fields.calendars import date_notations, dates_in
from rhabdos.data.fields.numerals import as_float
from rhabdos.data.fields.texts import joined_stood, label_series, only_where
from rhabdos.data.rows import with_used_levels
from rhabdos.data.steps.step import Applied, Others, Piece, Step, choice, words_of
from rhabdos.data.table import Table
from rhabdos.quoting import brief
from rhabdos.wording import counted, exact

Code = float | str
_Column = TypeVar("_Column", bound=Column)


class DeclareMissing(Step, frozen=True, tag="missing"):
    """The values of a variable that are exactly one of the codes stand for missing ones.

    Of numbers the codes are numbers; of levels and labels, texts.
    """

    variable: str
    codes: tuple[Code, ...]

    def apply(self, table: Table, _others: Others) -> Applied:
        """The table without these values; as it was where the variable holds none."""
        column = table.column(self.variable)
        count = 0
        for code in self.codes:
            column, more = without_code(column, code)
            count += more
        told = counted(count, "value", "values") if count else "no value is that"
        return Applied(table.with_column(column) if count else table, told)

    def describe(self) -> tuple[Piece, ...]:
        """In Water temperature, −9 stands for missing."""
        names = " and ".join(code_written(code) for code in self.codes)
        verb = "stands" if len(self.codes) == 1 else "stand"
        return words_of(
            f"In {brief(self.variable)}, ", choice(brief(names)), f" {verb} for missing."
        )


def code_written(code: Code) -> str:
    """A code as sentences name it."""
    return f"“{code}”" if isinstance(code, str) else exact(code)


def without_code(column: Column, code: Code) -> tuple[Column, int]:
    """A column in which the rows that hold a code have no value, and how many these are."""
    if isinstance(column, NumberColumn):
        number = number_meant(column, code)
        if number is None:
            return column, 0
        values, rows = _numbers_without(column.values, number)
        if not len(rows):
            return column, 0
        missing, stood = _missing_now(column, rows, code_written(code))
        lacking = structs.replace(column, values=values, missing_as=missing, stood=stood)
        return _forgetting(lacking, rows), len(rows)
    rows = _rows_with(column, f"{code:.15g}" if isinstance(code, float) else code)
    return (without(column, rows, code_written(code)), len(rows)) if len(rows) else (column, 0)


def number_meant(column: NumberColumn, code: Code) -> float | None:
    """A code as the column holds it: of dates it may be written as a date, and is preferred where
    the column has it; None where it is neither."""
    import polars as pl

    number = code if isinstance(code, float) else as_float(code)
    if number is not None or not isinstance(column, DateColumn):
        return number
    written = pl.Series([str(code)])
    read = [dates_in(written, notation)[0] for notation in date_notations(written, asked=True)]
    known = [float(days) for days in read if days is not None]
    seen = (days for days in known if (column.values == days).any())
    return next(seen, known[0] if known else None)


def _forgetting(column: _Column, rows: IntArray) -> _Column:
    """The same column, of which a change of kind does not bring these rows back."""
    import polars as pl

    original = column.original
    if original is None:
        return column
    kept = np.ones(column.rows, dtype=bool)
    kept[rows] = False
    known = pl.Series(kept)
    return structs.replace(column, original=lambda: only_where(known, original()))


def _numbers_without(values: FloatArray, code: float) -> tuple[FloatArray, IntArray]:
    """The values with NaN in place of a code, and the rows that held it."""
    kept = np.empty(len(values))

    def work(piece: slice) -> IntArray:
        """The values of some rows, and which of them held the code."""
        part = kept[piece]
        part[:] = values[piece]
        rows: IntArray = np.flatnonzero(part == code)
        part[rows] = np.nan
        rows += piece.start
        return rows

    return kept, np.concatenate(in_pieces(len(values), work) or [np.empty(0, np.int64)])


def _rows_with(column: Column, text: str) -> IntArray:
    if isinstance(column, CategoryColumn):
        index = column.levels.index(text) if text in column.levels else -2
        return np.flatnonzero(column.codes == index)
    assert isinstance(column, LabelColumn)
    return (label_series(column) == text).fill_null(False).arg_true().to_numpy().astype(np.int64)


def _missing_now(
    column: Column, rows: IntArray, word: str
) -> tuple[Mapping[str, int], Stood | None]:
    """What is missing once these rows are too, since ``word`` stood there."""
    stood = joined_stood([column.stood, Stood(rows, np.zeros(len(rows), np.int16), (word,))])
    counted_now = column.missing_as.get(word, 0) + len(rows)
    return {**column.missing_as, word: counted_now}, stood


def without(column: Column, rows: IntArray, word: str) -> Column:
    """Levels or labels of which these rows have none, since ``word`` stood there.

    Parameters
    ----------
    rows : array of int, shape (k,)
        By their place in the table.
    """
    import polars as pl

    missing, stood = _missing_now(column, rows, word)
    if isinstance(column, CategoryColumn):
        codes = column.codes.copy()
        codes[rows] = -1
        lacking = structs.replace(column, codes=codes, missing_as=missing, stood=stood)
        return _forgetting(with_used_levels(lacking), rows)
    assert isinstance(column, LabelColumn)
    kept = np.ones(column.rows, dtype=bool)
    kept[rows] = False
    texts = only_where(pl.Series(kept), label_series(column))
    distinct = texts.n_unique() - bool(texts.null_count())
    named = structs.replace(column, texts=texts, distinct=distinct, missing_as=missing, stood=stood)
    return _forgetting(named, rows)
