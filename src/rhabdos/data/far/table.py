"""A table that stays where it lies: what is looked at of it, and what it is asked."""

from collections.abc import Sequence
from typing import TYPE_CHECKING, cast

from msgspec import Struct, structs
from sqlglot import exp

from rhabdos.data.columns import (
    CategoryColumn,
    Column,
    DateColumn,
    NumberColumn,
    level_written,
    natural,
)
from rhabdos.data.far.connection import Connection, FarError
from rhabdos.data.far.pushing import text_column, truth_column
from rhabdos.data.far.relation import FarColumn, Relation, of_decimals, of_doubles, of_singles
from rhabdos.data.far.words import double
from rhabdos.data.fields.kinds import column_from, fits_double, grouped
from rhabdos.data.fields.singles import of_few_digits
from rhabdos.data.fields.texts import MISSING_WORDS
from rhabdos.data.limits import MOST_COLUMNS
from rhabdos.data.table import Table
from rhabdos.quoting import listed

if TYPE_CHECKING:
    import polars as pl

LOOK_ROWS = 20_000
"""Rows that are looked at to begin with."""

SEED = 1_827


class Far(Struct, frozen=True, eq=False):
    """What a table is asked, and how.

    Attributes
    ----------
    connection : Connection
        To where it lies.
    relation : Relation
        What is asked there, after all steps.
    rows : int or None
        How many rows lie there before all steps, as far as that is known.
    estimated : bool
        Whether that is an estimate.
    kept : int or None
        How many of them the steps keep, once they were counted.
    where : str
        Where that is, in words: "the file harvest.parquet".
    cost : str
        What it takes to go through all of them once, in words.
    aside : int
        Bytes on disk that were laid out for it, and go with it.
    """

    connection: Connection
    relation: Relation
    rows: int | None = None
    estimated: bool = False
    kept: int | None = None
    where: str = ""
    cost: str = ""
    aside: int = 0


def far_table(name: str, connection: Connection, where: str) -> Table:
    """A table of data that stay where they lie: the rows that were looked at, and the way to all.

    Everything that looks at columns looks at these rows; a figure asks for all.

    Raises
    ------
    FarError
        They hold no rows, or nothing that can be asked.
    Cancelled
        It was stopped.
    """
    seen = connection.look(LOOK_ROWS, SEED)
    if not seen.height:
        raise FarError(f"{where} holds no rows. Choose data with some.")
    if seen.width > MOST_COLUMNS:
        raise FarError(
            f"{where} has {seen.width:,} columns; at most {MOST_COLUMNS:,} "
            "variables are read. Ask for some of them by a query."
        )
    columns: list[Column] = []
    asked: dict[str, FarColumn] = {}
    left: list[str] = []
    for series in seen.get_columns():
        how = _asked_as(series, connection)
        if how is None:
            left.append(series.name)
            continue
        columns.append(structs.replace(_looked_at(series), some=True))
        asked[series.name] = how
    if not columns:
        raise FarError(f"{where} holds no numbers, dates, texts or truths. Choose other data.")
    remarks = (_left_out(left),) if left else ()
    rows, estimated = connection.about_rows()
    far = Far(
        connection,
        Relation(connection.base, asked),
        rows,
        estimated,
        None,
        where,
        connection.cost(),
    )
    return Table(name, tuple(columns), remarks, far=far)


def _left_out(names: list[str]) -> str:
    are = "is" if len(names) == 1 else "are"
    return (
        f"{listed(names, most=4)} {are} left out: lists, bytes and the like are not asked where "
        "they lie."
    )


def _looked_at(series: "pl.Series") -> Column:
    """The rows that were looked at of a column, of the kind that they have where they lie: a text
    is not taken for a number."""
    import polars as pl

    if series.dtype == pl.String or _names_things(series):
        return grouped(series.name, series.cast(pl.String))
    # Numbers in single precision tell by themselves which doubles they are.
    others = series.dtype.is_numeric() and series.dtype != pl.Float32
    return column_from(series.name, series.cast(pl.Float64) if others else series)


def _names_things(series: "pl.Series") -> bool:
    """Whether whole numbers are too long for doubles, as only numbers of things are: as texts they
    lose no digit."""
    return series.dtype.is_integer() and not fits_double(series)


def _asked_as(series: "pl.Series", connection: Connection) -> FarColumn | None:
    """How a column is asked, by what it holds where it lies; None where it is not."""
    import polars as pl

    there, kind = connection.column(series.name), series.dtype
    if kind == pl.Boolean:
        return truth_column(there)
    if series.name in connection.decimals:
        return of_decimals(there)
    if kind.is_integer() and not _names_things(series):
        return FarColumn("number", double(there))
    if kind == pl.Float32 and of_few_digits(series):
        return of_singles(there)
    if kind.is_float():
        return of_doubles(double(there))
    if kind.is_decimal():
        return of_decimals(there)
    if kind in (pl.Date, pl.Datetime):
        return of_doubles(connection.days_of(there), "date", there)
    if kind == pl.Time or isinstance(kind, pl.Duration):
        hours = connection.hours_of(there, kind)
        return None if hours is None else of_doubles(hours)
    if kind == pl.String or kind.is_integer() or kind in (pl.Categorical, pl.Enum):
        return text_column(cast("exp.Expression", exp.cast(there, "text")), MISSING_WORDS)
    return None


def levels_of(look: Column, values: Sequence[object]) -> tuple[str, ...]:
    """The levels of a factor in order: those that were looked at as they are, then others that
    came up, in the order of their kind.

    Raises
    ------
    VariableError
        There are more than a figure shows.
    """
    if isinstance(look, NumberColumn):
        dates = isinstance(look, DateColumn)
        ordered = sorted(float(str(value)) for value in values)
        return tuple(dict.fromkeys(level_written(value, dates) for value in ordered))
    known = look.levels if isinstance(look, CategoryColumn) else ()
    texts = {str(value) for value in values}
    if isinstance(look, CategoryColumn) and look.kind != "category":  # their order means something
        new = sorted(texts - set(known), key=natural)
        return (*(level for level in known if level in texts), *new)
    return tuple(sorted(texts, key=natural))
