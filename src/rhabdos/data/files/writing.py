"""Write a table in open formats."""

import io
from typing import TYPE_CHECKING

import numpy as np

from rhabdos.data.columns import CategoryColumn, Column, DateColumn, LabelColumn, NumberColumn
from rhabdos.data.fields.texts import label_series, only_where, texts_of
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.quoting import quoted

if TYPE_CHECKING:
    import polars as pl

_DAY = 86_400e6  # microseconds


def written(table: Table, ending: str) -> bytes:
    """A table as CSV or Parquet, by a file's ending; what is missing is blank there.

    Raises
    ------
    Refusal
        The ending is of neither.
    """
    content = io.BytesIO()
    if ending == ".csv":
        frame(table, as_text=True).write_csv(content)
    elif ending == ".parquet":
        frame(table).write_parquet(content)
    else:
        raise Refusal(
            f"{quoted(ending or 'No ending')} is no format that tables are written in. End the "
            "name with .csv or .parquet."
        )
    return content.getvalue()


def frame(table: Table, as_text: bool = False) -> "pl.DataFrame":
    """The columns of a table as typed ones: numbers, dates, levels and texts.

    Raises
    ------
    Refusal
        Its rows are only some of those that lie elsewhere.
    """
    import polars as pl

    if table.far is not None:
        raise Refusal(
            f"The rows of {quoted(table.name)} stay where they lie, and only some were looked at. "
            "Keep or export them there."
        )

    return pl.DataFrame([_series(column, as_text).alias(column.name) for column in table.columns])


def _series(column: Column, as_text: bool) -> "pl.Series":
    import polars as pl

    if isinstance(column, DateColumn):
        if as_text:
            return texts_of(_without_original(column))
        known = pl.Series(column.values).fill_nan(None)
        if bool((known == known.floor()).all()):
            return known.cast(pl.Int32).cast(pl.Date)
        return (known * _DAY).round().cast(pl.Int64).cast(pl.Datetime("us"))
    if isinstance(column, NumberColumn):
        if as_text:  # whole numbers without a point
            return texts_of(_without_original(column))
        return pl.Series(column.values).fill_nan(None)
    if isinstance(column, CategoryColumn):
        codes = pl.Series(column.codes.astype(np.int32))
        if as_text or column.grouping != "ordered category":
            return texts_of(_without_original(column))
        known = only_where(codes >= 0, codes)
        levels = pl.Enum(list(column.levels))
        places = dict(enumerate(column.levels))
        return known.replace_strict(places, default=None, return_dtype=levels)
    assert isinstance(column, LabelColumn)
    return label_series(column)


def _without_original(column: Column) -> Column:
    """The column as it is shown, whatever was written in the file."""
    from msgspec import structs

    return structs.replace(column, original=None)
