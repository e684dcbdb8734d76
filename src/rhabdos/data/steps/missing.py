"""The step that declares what stands for a missing value."""

from collections.abc import Mapping

import numpy as np
from msgspec import structs

from rhabdos.arrays import IntArray
from rhabdos.data.columns import CategoryColumn, Column, LabelColumn, NumberColumn, Stood
from rhabdos.data.rows import with_used_levels
from rhabdos.data.steps.step import Done, Others, Piece, Step, choice, said
from rhabdos.data.table import Table
from rhabdos.data.texts import joined_stood, label_series, only_where
from rhabdos.quoting import brief
from rhabdos.wording import counted, exact

Code = float | str


class DeclareMissing(Step, frozen=True, tag="missing"):
    """The values of a variable that are exactly one of the codes stand for missing ones.

    Of numbers the codes are numbers; of levels and labels, texts.
    """

    variable: str
    codes: tuple[Code, ...]

    def done(self, table: Table, _others: Others) -> Done:
        """The table without these values; as it was where the variable holds none."""
        column = table.column(self.variable)
        count = 0
        for code in self.codes:
            where = _rows_with(column, code)
            if len(where):
                count += len(where)
                column = without(column, where, code_written(code))
        told = counted(count, "value", "values") if count else "no value is that"
        return Done(table.with_column(column) if count else table, told)

    def said(self) -> tuple[Piece, ...]:
        """In Water temperature, −9 stands for missing."""
        names = " and ".join(code_written(code) for code in self.codes)
        verb = "stands" if len(self.codes) == 1 else "stand"
        return said(f"In {brief(self.variable)}, ", choice(brief(names)), f" {verb} for missing.")


def code_written(code: Code) -> str:
    """A code as sentences name it."""
    return f"“{code}”" if isinstance(code, str) else exact(code)


def _rows_with(column: Column, code: Code) -> IntArray:
    if isinstance(column, NumberColumn):
        try:
            return np.flatnonzero(column.values == float(code))
        except ValueError:
            return np.empty(0, np.int64)
    text = f"{code:.15g}" if isinstance(code, float) else code
    if isinstance(column, CategoryColumn):
        place = column.levels.index(text) if text in column.levels else -2
        return np.flatnonzero(column.codes == place)
    assert isinstance(column, LabelColumn)
    return (label_series(column) == text).fill_null(False).arg_true().to_numpy().astype(np.int64)


def without(column: Column, rows: IntArray, word: str) -> Column:
    """A column in which these rows have no value, since ``word`` stood there."""
    import polars as pl

    stood = joined_stood([column.stood, Stood(rows, np.zeros(len(rows), np.int16), (word,))])
    missing: Mapping[str, int] = {
        **column.missing_as, word: column.missing_as.get(word, 0) + len(rows)
    }  # fmt: skip
    if isinstance(column, NumberColumn):
        values = column.values.copy()
        values[rows] = np.nan
        return structs.replace(column, values=values, missing_as=missing, stood=stood)
    if isinstance(column, CategoryColumn):
        codes = column.codes.copy()
        codes[rows] = -1
        lacking = structs.replace(column, codes=codes, missing_as=missing, stood=stood)
        return with_used_levels(lacking)
    assert isinstance(column, LabelColumn)
    kept = np.ones(column.rows, dtype=bool)
    kept[rows] = False
    texts = only_where(pl.Series(kept), label_series(column))
    distinct = texts.n_unique() - bool(texts.null_count())
    return structs.replace(column, texts=texts, distinct=distinct, missing_as=missing, stood=stood)
