"""Read a delimited text file into a table."""

import csv
import io
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any, TextIO

from rhabdos.data.columns import Column
from rhabdos.data.dialect import (
    MOST_COLUMNS,
    Dialect,
    ReadingError,
    dialect_of,
    encoding_of,
    unique_names,
)
from rhabdos.data.gathering import Report, silent
from rhabdos.data.kinds import column_from, looks_grouped
from rhabdos.data.opening import OpenFile
from rhabdos.data.table import Table
from rhabdos.quoting import file_named, quoted, shortened_to

if TYPE_CHECKING:
    import polars as pl

_HEAD_BYTES = 1 << 18
_LONGEST_LINE = 1 << 26
_BATCH_ROWS = 500_000
_KINDS_FROM_ROWS = 5_000
_FEW_COLUMNS = 200
_MARK = b"\xef\xbb\xbf"
READING_SHARE = 0.7  # of the time that opening takes


def read_table(path: str | os.PathLike[str], report: Report = silent) -> Table:
    """Read a CSV, TSV or otherwise delimited text file.

    Encoding, separator, decimal mark, header and kinds are told from the text; whatever was unsure
    or unusual stands in the table's remarks. The file is opened once, and its path is taken as a
    name only.

    Raises
    ------
    ReadingError
        The file is missing, may not be read, is no text, or holds no rows.
    Cancelled
        From ``report``.
    """
    file = Path(path)
    try:
        report(f"Opening {shortened_to(60, file.name)}", 0.0)
        with OpenFile.open(file, beat=lambda: report("Reading a pipe", None)) as opened:
            return _read(opened, report)
    except FileNotFoundError:
        raise ReadingError(
            f"There is no file {file_named(file)}. Check the name, or whether it was moved."
        ) from None
    except PermissionError:
        raise ReadingError(
            f"{file_named(file)} may not be read by you. Ask its owner for permission, or open a "
            "copy."
        ) from None
    except csv.Error as error:
        raise ReadingError(
            f"{file_named(file.name)} cannot be read as rows of fields "
            f"({shortened_to(80, str(error))}). "
            "Save the data as CSV and open that."
        ) from error
    except OSError as error:
        raise ReadingError(
            f"{file_named(file)} could not be read: {error.strerror or error}. Try again, or copy "
            "it elsewhere first."
        ) from error


def _read(opened: OpenFile, report: Report) -> Table:
    name = file_named(opened.path.name)
    head = _head_of(opened)
    if not head.strip():
        raise ReadingError(
            f"{name} is empty. Choose a file with a row of names and rows of values."
        )
    encoding, guessed = encoding_of(head, name)
    only_returns = (
        b"\r" in head and b"\n" not in head
    )  # line ends of old, which only decoding understands
    if encoding == "utf-8" and not only_returns:
        try:
            return _table_from(opened, head.decode("utf-8", errors="ignore"), (), report)
        except UnicodeDecodeError:
            encoding, guessed = encoding_of(_undecodable_part(opened), name)
    text = _decoded(opened, encoding)
    remarks = (
        (f"{name} is not in UTF-8; it was read as {encoding}. Check its accented letters.",)
        if guessed
        else ()
    )
    content = text.encode()
    again = OpenFile(opened.path, io.BytesIO(content), len(content))
    return _table_from(again, _head_of(again).decode("utf-8", errors="ignore"), remarks, report)


def _head_of(opened: OpenFile) -> bytes:
    """The first bytes, with the whole first line at least."""
    count = _HEAD_BYTES
    while True:
        head = opened.head(count)
        lines = head.strip(b"\r\n")
        if len(head) < count or b"\n" in lines or (b"\r" in lines and b"\n" not in head):
            return head
        if count >= _LONGEST_LINE:
            raise ReadingError(
                f"The first line of {file_named(opened.path.name)} is longer than "
                f"{_LONGEST_LINE >> 20} MiB, so it is "
                "no row of names. Check that it is the file you mean."
            )
        count *= 4


def _undecodable_part(opened: OpenFile) -> bytes:
    """Bytes around the first that is not UTF-8, where the head promised it would be."""
    content = opened.whole()
    try:
        content.decode("utf-8")
    except UnicodeDecodeError as error:
        return content[max(0, error.start - _HEAD_BYTES) : error.start + _HEAD_BYTES]
    return content[:_HEAD_BYTES]


def _decoded(opened: OpenFile, encoding: str) -> str:
    """The text with line ends as they are written now."""
    try:
        text = opened.whole().decode(encoding)
    except (UnicodeDecodeError, UnicodeError) as error:
        raise ReadingError(
            f"{file_named(opened.path.name)} says it is {encoding} but is not. Save it as CSV in "
            "UTF-8 and open that."
        ) from error
    return text.replace("\r\n", "\n").replace("\r", "\n")


def _table_from(opened: OpenFile, head: str, remarks: tuple[str, ...], report: Report) -> Table:
    name = file_named(opened.path.name)
    dialect = dialect_of(head, whole=len(head.encode()) >= opened.size)
    unclosed = _unclosed_quote(opened, dialect, report)
    try:
        frame, more_remarks, names = _frame(opened, dialect, head, report)
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
    read = frame.get_columns()[::-1]
    del frame
    for position, column_name in enumerate(names):
        if position % 20 == 0 or len(names) < _FEW_COLUMNS:
            told = f"Reading {shortened_to(60, column_name)}"
            report(told, READING_SHARE + (1 - READING_SHARE) * position / len(names))
        series = read.pop()  # each column is let go as soon as it is ours
        named = position < len(dialect.header) and dialect.header[position].strip()
        if named or not dialect.header or series.null_count() < len(series):
            columns.append(column_from(column_name, series, dialect.decimal_comma))
    return Table(shortened_to(200, opened.path.stem), tuple(columns), remarks + tuple(more_remarks))


def _unclosed_quote(opened: OpenFile, dialect: Dialect, report: Report) -> str:
    """A sentence about a quote that swallows the rows after it, or nothing."""
    if opened.count(b'"') % 2 == 0:
        return ""
    # A lone quote is either a mark within a field, which harms nothing, or one that opens a field
    # and never ends.
    ends_at = opened_at = 0
    with _text_of(opened) as text:
        reader = csv.reader(text, delimiter=dialect.separator)
        try:
            for count, _ in enumerate(reader):
                if count % 100_000 == 0:
                    report("Looking for a quote that is not closed", None)
                opened_at, ends_at = ends_at + 1, reader.line_num
        except csv.Error:  # the field grew past what the reader takes
            opened_at, ends_at = ends_at + 1, reader.line_num
    if ends_at - opened_at < 1:
        return ""
    return (
        f"A quote that opens in line {opened_at:,} is never closed: the lines after it were "
        "taken into its field."
    )


def _frame(
    opened: OpenFile, dialect: Dialect, head: str, report: Report
) -> tuple["pl.DataFrame", list[str], list[str]]:
    import polars as pl

    names, remarks = unique_names(dialect.header, dialect.fields)
    if not dialect.header:
        remarks.append(
            "The first row holds numbers, so it was read as data; the columns are numbered."
        )
    rows = max(1, opened.size // _bytes_per_row(head))
    fewer = "fewer fields than the first row", "The fields they lack count as missing."
    try:
        frame = _scan(opened, dialect, rows, report)
    except pl.exceptions.ComputeError:
        fields, long, short = _field_counts(opened, dialect, report)
        if long:
            names, more = unique_names(dialect.header, fields)
            extra = f"The extra ones are in {_extra(dialect.fields, names)}."
            remarks = [*more, *remarks, _unequal(long, "more fields than the first row", extra)]
        if short:
            remarks.append(_unequal(short, *fewer))
        evened = _evened(opened, dialect, fields)
        even = OpenFile(opened.path, io.BytesIO(evened), len(evened))
        return _scan(even, dialect, rows, report, all_text=True), remarks, names
    if frame.width > 1 and frame.height and frame.to_series(frame.width - 1).null_count():
        _, _, short = _field_counts(opened, dialect, report)
        if short:
            remarks.append(_unequal(short, *fewer))
    return frame, remarks, names


def _scan(
    opened: OpenFile, dialect: Dialect, expected_rows: int, report: Report, all_text: bool = False
) -> "pl.DataFrame":
    """Read batch by batch, so that progress can be told and the reading stopped."""
    import polars as pl

    def plan(**more: Any) -> "pl.LazyFrame":
        """How a batch of the file is read."""
        return pl.scan_csv(
            _unmistakable(opened),
            separator=dialect.separator,
            has_header=bool(dialect.header),
            infer_schema=not all_text,
            decimal_comma=dialect.decimal_comma,
            infer_schema_length=_KINDS_FROM_ROWS,
            truncate_ragged_lines=False,
            raise_if_empty=False,
            glob=False,
            **more,
        )

    head = plan(n_rows=_KINDS_FROM_ROWS).collect()
    likely = [s.name for s in head if s.dtype == pl.String and looks_grouped(s)]
    reader = plan(schema_overrides=dict.fromkeys(likely, pl.Categorical))
    batches, done = [], 0
    for batch in reader.collect_batches(chunk_size=_BATCH_ROWS, maintain_order=True):
        batches.append(batch)
        done += batch.height
        report(f"Reading, {done:,} rows so far", READING_SHARE * min(1.0, done / expected_rows))
    return pl.concat(batches) if batches else reader.head(0).collect()


def _unmistakable(opened: OpenFile) -> Any:
    """What the reader is handed: the open file, or its bytes behind a mark where it would take them
    for compressed."""
    if opened.head(2) in (b"x^", b"x\x01"):
        return io.BytesIO(_MARK + opened.whole())
    return opened.stream()


def _bytes_per_row(head: str) -> int:
    return max(1, len(head) // max(1, head.count("\n")))


def _field_counts(
    opened: OpenFile, dialect: Dialect, report: Report
) -> tuple[int, list[int], list[int]]:
    """The widest row, and the line numbers of rows with more and with fewer fields than the
    first."""
    widest, long, short = dialect.fields, [], []
    with _text_of(opened) as text:
        reader = csv.reader(text, delimiter=dialect.separator)
        for count, row in enumerate(reader):
            if count % 100_000 == 0:
                report("Counting the fields of each row", None)
            if len(row) > dialect.fields:
                long.append(reader.line_num)
                widest = max(widest, len(row))
            elif 0 < len(row) < dialect.fields:
                short.append(reader.line_num)
    if widest > MOST_COLUMNS:
        raise ReadingError(
            f"Line {long[0]:,} of {file_named(opened.path.name)} has over {MOST_COLUMNS:,} "
            "fields. Correct it first."
        )
    return widest, long, short


def _evened(opened: OpenFile, dialect: Dialect, fields: int) -> bytes:
    """The same text with every row filled up to the same number of fields."""
    even = io.StringIO()
    writer = csv.writer(even, delimiter=dialect.separator, lineterminator="\n")
    with _text_of(opened) as text:
        for row in csv.reader(text, delimiter=dialect.separator):
            if row:
                writer.writerow(row + [""] * (fields - len(row)))
    return even.getvalue().encode()


@contextmanager
def _text_of(opened: OpenFile) -> Iterator[TextIO]:
    """The text from its beginning; the file stays open."""
    text = io.TextIOWrapper(opened.stream(), encoding="utf-8", newline="")
    try:
        yield text
    finally:
        text.detach()


def _unequal(lines: list[int], what: str, then: str) -> str:
    rows = "1 row has" if len(lines) == 1 else f"{len(lines):,} rows have"
    return f"{rows} {what} (first at line {lines[0]:,}). {then}"


def _extra(known: int, names: list[str]) -> str:
    added = names[known:]
    return (
        f"{quoted(added[0])}" if len(added) == 1 else f"{quoted(added[0])} to {quoted(added[-1])}"
    )
