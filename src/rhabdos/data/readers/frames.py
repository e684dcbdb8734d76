"""From a frame of the file reader to the columns of a table."""

from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from types import MappingProxyType
from typing import TYPE_CHECKING

from msgspec import structs

from rhabdos.data.columns import Column
from rhabdos.data.fields.kinds import column_from
from rhabdos.data.fields.names import unique_names
from rhabdos.data.fields.notation import PLAIN, Notation
from rhabdos.data.limits import MOST_COLUMNS, ReadingError
from rhabdos.data.reporting import Report
from rhabdos.quoting import shortened_to

if TYPE_CHECKING:
    import polars as pl

READING_SHARE = 0.7  # of the time that opening takes
FEW_COLUMNS = 200
NO_UNITS: Mapping[str, str] = MappingProxyType({})
_AT_ONCE = 2


def columns_from(
    series: "list[pl.Series]",
    names: Sequence[str],
    report: Report,
    usual: Notation = PLAIN,
    units: Mapping[str, str] = NO_UNITS,
) -> tuple[Column, ...]:
    """Each series as a column of the kind that it looks like; the list is emptied on the way, so
    that each is let go as soon as it is ours. ``units`` are by name, of numbers that have one."""
    series.reverse()
    columns: list[Column] = []
    # Polars lets go of the interpreter while it works.
    with ThreadPoolExecutor(_AT_ONCE) as threads:
        # Two at a time: more would hold as many as were read, besides those that came of them.
        for first in range(0, len(names), _AT_ONCE):
            some = names[first : first + _AT_ONCE]
            if first % 20 == 0 or len(names) < FEW_COLUMNS:
                share = READING_SHARE + (1 - READING_SHARE) * first / len(names)
                report(f"Reading {shortened_to(60, some[0])}", share)
            read = [series.pop() for _ in some]
            columns += threads.map(column_from, some, read, [usual] * len(some))
    return tuple(
        structs.replace(column, unit=units[column.name]) if column.name in units else column
        for column in columns
    )


def frame_columns(
    frame: "pl.DataFrame", file: str, report: Report
) -> tuple[tuple[Column, ...], list[str]]:
    """The columns of a frame that has names already, and what is to be said of these.

    Raises
    ------
    ReadingError
        It has no columns, no rows, or too many columns.
    """
    if not frame.width or not frame.height:
        raise ReadingError(f"{file} holds no rows of values. Choose a file with some.")
    if frame.width > MOST_COLUMNS:
        raise ReadingError(
            f"{file} has {frame.width:,} columns; at most {MOST_COLUMNS:,} variables are read. "
            "Take a part of them."
        )
    names, remarks = unique_names(tuple(frame.columns), frame.width)
    return columns_from(frame.get_columns(), names, report), remarks
