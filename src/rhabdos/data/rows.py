"""Rows of a table taken in another order, more often than once, or left out."""

from collections.abc import Sequence
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from msgspec import structs

from rhabdos.arrays import BoolArray, IntArray
from rhabdos.data.columns import (
    BLANK,
    CategoryColumn,
    Column,
    LabelColumn,
    NumberColumn,
    Stood,
    Texts,
)
from rhabdos.data.fields.texts import label_series, only_where
from rhabdos.data.table import Table

if TYPE_CHECKING:
    import polars as pl


_FIRST = 50_000  # rows, among which mostly all levels are seen
_PIECE = 1 << 16  # stays near the processor
_FEW_MOVES = 12  # that are faster than looking every number up


def with_rows(table: Table, kept: "pl.Series") -> Table:
    """The rows of a table that are kept.

    Parameters
    ----------
    kept : series of bool, length rows
    """
    import polars as pl

    # All columns at once: polars parts the work among processors, and copies nothing to begin with.
    frame = pl.DataFrame([_series(column, str(at)) for at, column in enumerate(table.columns)])
    frame = frame.filter(kept)
    rows = _Kept(kept)
    columns = tuple(
        _with_rows_left(_filled(column, frame.to_series(at), rows))
        for at, column in enumerate(table.columns)
    )
    before = table.numbering

    def numbering() -> IntArray:
        """Where the rows that are kept stood before."""
        stays: IntArray = kept.arg_true().to_numpy().astype(np.int64)
        return stays if before is None else before()[stays]

    return structs.replace(table, columns=columns, numbering=numbering)


def _series(column: Column, name: str) -> "pl.Series":
    import polars as pl

    if isinstance(column, NumberColumn):
        return pl.Series(name, column.values)
    if isinstance(column, CategoryColumn):
        return pl.Series(name, column.codes)
    assert isinstance(column, LabelColumn)
    return label_series(column).alias(name)


def _with_rows_left(column: Column) -> Column:
    """The same column without levels of which no row is left."""
    return with_used_levels(column) if isinstance(column, CategoryColumn) else column


class _Kept:
    """Which rows are kept, and where they come to stand."""

    def __init__(self, kept: "pl.Series") -> None:
        self.series = kept

    @cached_property
    def mask(self) -> BoolArray:
        """As an array; most columns ask for none."""
        mask: BoolArray = self.series.to_numpy()
        return mask

    @cached_property
    def places(self) -> IntArray:
        """Where each row comes to stand, shape (rows,); of those left out it means nothing."""
        return np.cumsum(self.mask) - 1


def _filled(column: Column, series: "pl.Series", rows: _Kept) -> Column:
    content = series.to_numpy() if not isinstance(column, LabelColumn) else series
    missing_as, stood = column.missing_as, column.stood
    if column.missing:
        if stood is not None:
            stays = rows.mask[stood.rows]
            stood = Stood(rows.places[stood.rows[stays]], stood.codes[stays], stood.words)
        missing_as = _counted(column, content, stood)
    original = _picked(column.original, rows.series)
    return _holding(column, content, missing_as, stood, original)


def _picked(original: Texts | None, kept: "pl.Series") -> Texts | None:
    return (lambda: original().filter(kept)) if original is not None else None


def _holding(
    column: Column, content: object, missing_as: object, stood: Stood | None, original: Texts | None
) -> Column:
    """The same column with other rows."""
    import polars as pl

    common = {"missing_as": missing_as, "stood": stood, "original": original}
    if isinstance(column, NumberColumn):
        return structs.replace(column, values=content, **common)
    if isinstance(column, CategoryColumn):
        return structs.replace(column, codes=content, **common)
    assert isinstance(column, LabelColumn)
    assert isinstance(content, pl.Series)
    distinct = content.n_unique() - bool(content.null_count())
    return structs.replace(column, texts=content, distinct=distinct, **common)


def _counted(column: Column, content: object, stood: Stood | None) -> dict[str, int]:
    """What stands in place of values, where rows were taken."""
    import polars as pl

    if isinstance(content, pl.Series):
        gone = content.null_count()
    else:
        assert isinstance(content, np.ndarray)
        number = isinstance(column, NumberColumn)
        gone = int(np.count_nonzero(np.isnan(content) if number else content < 0))
    counted: dict[str, int] = {}
    if stood is not None:
        times = np.bincount(stood.codes, minlength=len(stood.words))
        counted = {w: int(n) for w, n in zip(stood.words, times, strict=True) if n}
    if blank := gone - sum(counted.values()):
        # Where it is not known which row held what, all that is missing counts by its first word.
        first = next(iter(column.missing_as), BLANK) if column.stood is None else BLANK
        counted[first] = counted.get(first, 0) + blank
    return counted


def taken(columns: Sequence[Column], rows: IntArray, absent: str) -> tuple[Column, ...]:
    """Rows of columns by number; where a number is −1 they have no value, because of ``absent``.

    Parameters
    ----------
    columns : sequence of Column
        All of the same length.
    rows : array of int, shape (k,)
        From 0, or −1.
    absent : str
        What is said to have stood where there is no row.
    """
    lacking = rows < 0
    any_lacking = bool(lacking.any())
    return tuple(
        _taken(column, rows, lacking if any_lacking else None, absent) for column in columns
    )


def _taken(column: Column, rows: IntArray, lacking: BoolArray | None, absent: str) -> Column:

    safe = np.where(lacking, 0, rows) if lacking is not None else rows
    content: object
    if isinstance(column, LabelColumn):
        series = label_series(column).gather(safe)
        content = series if lacking is None else _nulled(series, lacking)
    elif isinstance(column, NumberColumn):
        values = column.values[safe] if column.rows else np.full(len(rows), np.nan)
        content = values if lacking is None else np.where(lacking, np.nan, values)
    else:
        assert isinstance(column, CategoryColumn)
        codes = column.codes[safe] if column.rows else np.full(len(rows), -1, np.int8)
        content = codes if lacking is None else np.where(lacking, -1, codes).astype(codes.dtype)
    stood = _taken_stood(column.stood, safe, lacking, absent)
    counted = _counted(column, content, stood) if column.missing or lacking is not None else {}
    original = column.original
    again: Texts | None = (lambda: _gathered(original(), safe, lacking)) if original else None
    return _holding(column, content, counted, stood, again)


def _nulled(series: "pl.Series", lacking: BoolArray) -> "pl.Series":
    import polars as pl

    return only_where(pl.Series(~lacking), series)


def _gathered(series: "pl.Series", rows: IntArray, lacking: BoolArray | None) -> "pl.Series":
    picked = series.gather(rows)
    return picked if lacking is None else _nulled(picked, lacking)


def _taken_stood(
    stood: Stood | None, rows: IntArray, lacking: BoolArray | None, absent: str
) -> Stood | None:
    words = stood.words if stood is not None else ()
    code_of = np.full(len(rows), -1, dtype=np.int32)
    if stood is not None and len(stood.rows):
        at = np.minimum(stood.rows.searchsorted(rows), len(stood.rows) - 1)
        known = stood.rows[at] == rows
        code_of[known] = stood.codes[at[known]]
    if lacking is not None:
        code_of[lacking] = words.index(absent) if absent in words else len(words)
        words = words if absent in words else (*words, absent)
    where = np.flatnonzero(code_of >= 0)
    return Stood(where, code_of[where], words) if len(where) else None


def with_used_levels(column: CategoryColumn) -> CategoryColumn:
    """The same groups without the levels that no row has."""
    used = np.zeros(len(column.levels) + 1, dtype=bool)  # the last one is for no level
    used[column.codes[:_FIRST]] = True  # the first rows mostly tell
    used = used[:-1]
    unseen = np.flatnonzero(~used)
    if column.codes.dtype == np.int8:
        # Bytes are searched and translated several times faster than numbers are.
        content = column.codes.tobytes()
        for code in unseen.tolist():
            used[code] = content.find(code) >= 0
    elif len(unseen):
        used = column.level_counts > 0
    if used.all():
        return column
    levels = tuple(level for level, has in zip(column.levels, used, strict=True) if has)
    return structs.replace(column, codes=_renumbered(column.codes, used), levels=levels)


def _renumbered(codes: IntArray, used: BoolArray) -> IntArray:
    """The numbers of levels once those that are not used are gone."""
    places = np.append(np.cumsum(used) - 1, -1).astype(codes.dtype)
    moved = np.flatnonzero(used)
    steps = np.diff(moved - places[moved], prepend=0)  # by how much more each level moves down
    # Of the codes' own kind, so that no array grows wider than it is.
    kind = codes.dtype.type
    moving = [(kind(moved[at]), kind(steps[at])) for at in np.flatnonzero(steps)]
    if len(moving) > _FEW_MOVES:
        return places[codes]
    renumbered = np.empty_like(codes)
    for start in range(0, len(codes), _PIECE):
        part, there = codes[start : start + _PIECE], renumbered[start : start + _PIECE]
        there[:] = part
        for first, down in moving:
            above = (part >= first).view(np.int8)
            there -= above if down == 1 else above * down
    return renumbered
