"""Read delimited text into a table."""

import csv
import io
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec import structs

from rhabdos.data.columns import Column, NumberColumn
from rhabdos.data.fields.dialect import Dialect, dialect_of, rows_of
from rhabdos.data.fields.kinds import column_from
from rhabdos.data.fields.names import unique_names
from rhabdos.data.fields.notation import Notation
from rhabdos.data.files.opening import OpenFile, Stamp, table_name
from rhabdos.data.files.unpacking import unpacked
from rhabdos.data.limits import ReadingError
from rhabdos.data.readers.frames import FEW_COLUMNS, READING_SHARE
from rhabdos.data.readers.notes import notes_told
from rhabdos.data.readers.plain_text import Text, as_other_text, as_text, holding, text_of
from rhabdos.data.readers.uneven import (
    blank_lines,
    extra_columns,
    field_counts,
    filled_up,
    notes_at_end,
    parted_by_tabs,
    unclosed_quote,
    unequal,
    with_even_rows,
    without_blank_end,
    without_last_run,
)
from rhabdos.data.reporting import Report, silent
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.quoting import file_named, shortened_to
from rhabdos.wording import counted

if TYPE_CHECKING:
    import polars as pl

_HEAD_BYTES = 1 << 18
_LONGEST_LINE = 1 << 26
_BATCH_ROWS = 500_000  # read between two looks at whether to stop
_FEW_ROWS = 10_000
_KINDS_FROM_ROWS = 5_000  # of which kinds of columns are told; later rows may refute them
_TAIL_BYTES = 1 << 16
_MARK = b"\xef\xbb\xbf"


def read_delimited(opened: OpenFile, report: Report = silent, how: Read | None = None) -> Table:
    """Read a CSV, TSV or otherwise delimited text.

    Encoding, separator, decimal mark, rows of names and kinds are told from the text where ``how``
    does not say them; whatever was unsure or unusual stands in the table's remarks.

    Raises
    ------
    ReadingError
        It is no text, or holds no rows.
    Cancelled
        From ``report``.
    """
    text = as_text(opened, how)
    try:
        return _table_from(text, report, how)
    except csv.Error as error:
        raise ReadingError(
            f"{file_named(opened.path.name)} cannot be read as rows of fields "
            f"({shortened_to(80, str(error))}). Save the data as CSV and open that."
        ) from error
    except UnicodeDecodeError:  # far below the head, which promised UTF-8
        return _table_from(as_other_text(opened, how), report, how)


def _table_from(text: Text, report: Report, how: Read | None) -> Table:
    opened = text.opened
    name = file_named(opened.path.name)
    dialect = dialect_of(text.head, len(text.head.encode()) >= opened.size, how)
    noticed = () if how is not None and how.header is not None else dialect.remarks
    if dialect.indirect:
        opened, dialect = _parted_by_tabs(opened, dialect)
    unclosed = unclosed_quote(opened, dialect, report)
    try:
        frame, more_remarks, names, evened = _frame(opened, dialect, text.head, report)
    except (csv.Error, ReadingError):
        if unclosed:
            raise ReadingError(f"{unclosed} Close it, and open the file again.") from None
        raise
    if unclosed:
        more_remarks.insert(0, unclosed)
    if frame.height == 0:
        raise ReadingError(
            f"{name} holds a row of names but no rows of values. Choose a file with data below "
            "its header."
        )
    columns: list[Column] = []
    manner = structs.replace(how or Read(), encoding=text.encoding)
    usual = Notation("," if dialect.decimal_comma else ".", dialect.thousands)
    read = frame.get_columns()[::-1]
    del frame
    for position, column_name in enumerate(names):
        if position % 20 == 0 or len(names) < FEW_COLUMNS:
            told = f"Reading {shortened_to(60, column_name)}"
            report(told, READING_SHARE + (1 - READING_SHARE) * position / len(names))
        series = read.pop()  # each column is let go as soon as it is ours
        named = position < len(dialect.header) and dialect.header[position].strip()
        if named or not dialect.header or series.null_count() < len(series):
            column = column_from(column_name, series, usual)
            if isinstance(column, NumberColumn) and column.original is None and opened.stamp:
                place = opened.path, manner, position, opened.stamp
                again = partial(column_again, *place, len(series), evened)
                column = structs.replace(column, original=again)
            columns.append(column)
    remarks = (*text.remarks, *noticed, *more_remarks)
    return Table(table_name(opened.path), tuple(columns), remarks)


def first_rows(text: Text, dialect: Dialect, rows: int) -> Table:
    """The first rows of a text, for a look at them before all are read."""
    lines = text.head.splitlines(keepends=True)
    whole = len(text.head.encode()) >= text.opened.size
    head = "".join(
        lines[: rows + dialect.skipped] if whole else lines[:-1][: rows + dialect.skipped]
    )
    part = holding(text.opened, head.encode())
    how = Read(
        separator=dialect.separator,
        quote=dialect.quote,
        decimal="," if dialect.decimal_comma else ".",
        thousands=dialect.thousands,
        encoding="utf-8",
        header=None if dialect.header_rows > 1 else dialect.skipped + min(1, dialect.header_rows),
        places=dialect.places,
    )
    if not dialect.header_rows:
        how = structs.replace(how, header=0)
    return _table_from(Text(part, head), silent, how)


def _parted_by_tabs(opened: OpenFile, dialect: Dialect) -> tuple[OpenFile, Dialect]:
    """The same rows with tabs between fields that are parted in a way that the reader lacks."""
    even = io.StringIO()
    writer = csv.writer(even, delimiter="\t", lineterminator="\n")
    with text_of(opened) as lines:
        how = dialect.separator, dialect.quote, dialect.places, dialect.loose_quotes
        writer.writerows(
            row for number, row in rows_of(lines, *how) if number > dialect.above_names
        )
    return holding(opened, even.getvalue().encode()), parted_by_tabs(dialect)


def _frame(
    opened: OpenFile, dialect: Dialect, head: str, report: Report
) -> tuple["pl.DataFrame", list[str], list[str], bool]:
    """The text as columns, what is to be told of it, their names, and whether its rows had to be
    filled up."""
    import polars as pl

    rows = max(1, opened.size // _bytes_per_row(head))
    fewer = (
        f"fewer fields than {'the first row' if dialect.header_rows else 'the others'}",
        "The fields they lack count as missing.",
    )
    frame: pl.DataFrame | None = None
    blank: list[int] = []
    try:
        frame = without_blank_end(_scan(opened, dialect, rows, report), opened)
        blank = blank_lines(frame, opened, dialect, report)
    except pl.exceptions.ComputeError:
        pass  # rows have more or fewer fields than the first
    if frame is not None and frame.width < dialect.fields:
        frame = None  # quotes in the midst of fields, which the two readers part differently
    if frame is not None and not dialect.header_rows and frame.width > dialect.fields:
        dialect = structs.replace(dialect, fields=frame.width)
    short = list[int]()
    if frame is not None and not blank and _may_lack_fields(frame):
        _, _, short = field_counts(opened, dialect, report)
    if short and not dialect.header_rows:
        frame = None  # the first row may be one of them, by which fields are counted later
    names, remarks = unique_names(dialect.header, dialect.fields)
    if frame is None or blank:
        fields, long, short = field_counts(opened, dialect, report)
        notes = notes_at_end(opened, dialect, blank) if dialect.fields > 1 else []
        if notes:
            short = [line for line in short if line < blank[-1]]
            blank = without_last_run(blank)
        if blank:
            lines = counted(len(blank), "blank line", "blank lines")
            passed = "was" if len(blank) == 1 else "were"
            at = f"line {blank[0]:,}" if len(blank) == 1 else f"the first is line {blank[0]:,}"
            remarks.append(f"{lines} between rows {passed} passed over ({at}).")
        if long:
            names, more = unique_names(dialect.header, fields)
            extra = f"The extra ones are in {extra_columns(dialect.fields, names)}."
            remarks = [*more, *remarks, unequal(long, "more fields than the first row", extra)]
        if short:
            remarks.append(unequal(short, *fewer))
        even = holding(opened, with_even_rows(opened, dialect, fields))
        frame = _scan(even, filled_up(dialect), rows, report, all_text=True)
        remarks += notes_told(notes)
        return frame.head(frame.height - len(notes)), remarks, names, True
    if short:
        remarks.append(unequal(short, *fewer))
    return frame, remarks, names, False


def _may_lack_fields(frame: "pl.DataFrame") -> bool:
    """Whether some row may have fewer fields than others: the last one is missing from it."""
    last = frame.width - 1
    return last > 0 and frame.height > 0 and frame.to_series(last).null_count() > 0


def _scan(
    opened: OpenFile,
    dialect: Dialect,
    expected_rows: int,
    report: Report,
    all_text: bool = False,
    only: int | None = None,
) -> "pl.DataFrame":
    """Read batch by batch, so that progress can be told and the reading stopped; all columns, or
    ``only`` the one at a place."""
    import polars as pl

    def plan(**more: Any) -> "pl.LazyFrame":
        """How a batch of the file is read."""
        frame = pl.scan_csv(
            source,
            separator=dialect.separator,
            quote_char=dialect.quote or None,
            # Where rows have a name of their own, the row of names is too short to be one.
            has_header=bool(dialect.header_rows) and not dialect.row_names,
            skip_lines=dialect.above_rows if dialect.row_names else dialect.above_names,
            infer_schema=not all_text,
            decimal_comma=dialect.decimal_comma,
            infer_schema_length=_KINDS_FROM_ROWS,
            truncate_ragged_lines=False,
            raise_if_empty=False,
            glob=False,
            **more,
        )
        return frame if only is None else frame.select(pl.nth(only))

    unlucky = opened.head(2) in (b"x^", b"x\x01")  # which the reader would take for compressed
    with opened.settled(lambda: report("Copying", None)) as settled:
        source = io.BytesIO(_MARK + opened.whole()) if unlucky else settled
        reader = plan()
        batches, done = [], 0
        for batch in reader.collect_batches(chunk_size=_BATCH_ROWS, maintain_order=True):
            batches.append(batch)
            done += batch.height
            share = READING_SHARE * min(1.0, done / expected_rows)
            report(f"Reading, {done:,} rows so far", share)
        frame = pl.concat(batches) if batches else reader.head(0).collect()
    # Columns of few rows in several pieces would each be put together by itself.
    return frame.rechunk() if frame.height < _FEW_ROWS else frame


def _bytes_per_row(head: str) -> int:
    return max(1, len(head) // max(1, head.count("\n")))


def column_again(
    path: Path, how: Read | None, position: int, stamp: Stamp, rows: int, evened: bool
) -> "pl.Series":
    """The fields of one column as they are written, read once more; of so many rows, which had to
    be filled up or had not.

    Raises
    ------
    ReadingError
        The file has changed since, or is gone.
    """

    changed = ReadingError(
        f"{file_named(path.name)} has changed since it was opened, so that its text cannot be read "
        "again. Reload it first."
    )
    try:
        opened = OpenFile.open(path)
    except OSError:
        raise changed from None
    with opened:
        if opened.stamp != stamp:
            raise changed
        with unpacked(opened, silent) as plain:
            text = as_text(plain, how)
            content = text.opened
            dialect = dialect_of(text.head, len(text.head.encode()) >= content.size, how)
            if dialect.indirect:
                content, dialect = _parted_by_tabs(content, dialect)
            if evened:
                fields, _, _ = field_counts(content, dialect, silent)
                content = holding(content, with_even_rows(content, dialect, fields))
                dialect = filled_up(dialect)
            frame = _scan(content, dialect, 1, silent, all_text=True, only=position)
    return frame.to_series(0).head(rows)
