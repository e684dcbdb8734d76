"""Read a delimited text file into a table."""

import csv
import io
import os
from pathlib import Path
from typing import TYPE_CHECKING, Any, TextIO

from rhabdos.data.columns import Column
from rhabdos.data.dialect import Dialect, ReadingError, dialect_of, encoding_of, unique_names
from rhabdos.data.gathering import Report, silent
from rhabdos.data.kinds import column_from, likely_categories
from rhabdos.data.table import Table

if TYPE_CHECKING:
    import polars as pl

_HEAD_BYTES = 1 << 18
_BATCH_ROWS = 500_000
_KINDS_FROM_ROWS = 5_000
READING_SHARE = 0.7  # of the time that opening takes


def read_table(path: str | os.PathLike[str], report: Report = silent) -> Table:
    """Read a CSV, TSV or otherwise delimited text file.

    Encoding, separator, decimal mark, header and kinds are told from the text; whatever was unsure or
    unusual stands in the table's remarks.

    Raises
    ------
    ReadingError
        The file is missing, may not be read, is no text, or holds no rows.
    Cancelled
        From ``report``.
    """
    file = Path(path)
    try:
        return _read(file, report)
    except FileNotFoundError:
        raise ReadingError(f"There is no file {file}. Check the name, or whether it was moved.") from None
    except IsADirectoryError:
        raise ReadingError(f"{file} is a folder. Open one of the files in it.") from None
    except PermissionError:
        raise ReadingError(f"{file} may not be read by you. Ask its owner for permission, or open a copy.") from None
    except csv.Error as error:
        raise ReadingError(
            f"{file.name} cannot be read as rows of fields ({error}). Save the data as CSV and open that."
        ) from error
    except OSError as error:
        raise ReadingError(
            f"{file} could not be read: {error.strerror or error}. Try again, or copy it elsewhere first."
        ) from error


def _read(file: Path, report: Report) -> Table:
    report(f"Opening {file.name}", 0.0)
    with file.open("rb") as stream:
        head = stream.read(_HEAD_BYTES)
    if not head.strip():
        raise ReadingError(f"{file.name} is empty. Choose a file with a row of names and rows of values.")
    encoding, guessed = encoding_of(head, file.name)
    only_returns = b"\r" in head and b"\n" not in head  # line ends of old, which only decoding understands
    if encoding == "utf-8" and not only_returns:
        try:
            return _table_from(file, str(file), head.decode("utf-8", errors="ignore"), file.stat().st_size, (), report)
        except UnicodeDecodeError:
            encoding, guessed = encoding_of(_undecodable_part(file), file.name)
    text = _decoded(file, encoding)
    remarks = (
        (f"{file.name} is not in UTF-8; it was read as {encoding}. Check its accented letters.",) if guessed else ()
    )
    return _table_from(file, text.encode(), text[:_HEAD_BYTES], len(text), remarks, report)


def _undecodable_part(file: Path) -> bytes:
    """Bytes around the first that is not UTF-8, where the head promised it would be."""
    content = file.read_bytes()
    try:
        content.decode("utf-8")
    except UnicodeDecodeError as error:
        return content[max(0, error.start - _HEAD_BYTES) : error.start + _HEAD_BYTES]
    return content[:_HEAD_BYTES]


def _decoded(file: Path, encoding: str) -> str:
    try:
        return file.read_text(encoding=encoding)
    except (UnicodeDecodeError, UnicodeError) as error:
        raise ReadingError(
            f"{file.name} says it is {encoding} but is not. Save it as CSV in UTF-8 and open that."
        ) from error


def _table_from(
    file: Path, source: str | bytes, head: str, size: int, remarks: tuple[str, ...], report: Report
) -> Table:
    dialect = dialect_of(head, whole=len(head.encode()) >= size)
    frame, more_remarks, names = _frame(file, source, dialect, head, size, report)
    if frame.height == 0:
        raise ReadingError(
            f"{file.name} holds a row of names but no rows of values. Choose a file with data below its header."
        )
    columns: list[Column] = []
    for position, name in enumerate(names):
        report(f"Reading {name}", READING_SHARE + (1 - READING_SHARE) * position / len(names))
        series = frame.drop_in_place(frame.columns[0])  # each column is let go as soon as it is ours
        named = position < len(dialect.header) and dialect.header[position].strip()
        if named or not dialect.header or series.null_count() < len(series):
            columns.append(column_from(name, series, dialect.decimal_comma))
    return Table(file.stem, tuple(columns), remarks + tuple(more_remarks))


def _frame(
    file: Path, source: str | bytes, dialect: Dialect, head: str, size: int, report: Report
) -> tuple["pl.DataFrame", list[str], list[str]]:
    import polars as pl

    names, remarks = unique_names(dialect.header, dialect.fields)
    if not dialect.header:
        remarks.append("The first row holds numbers, so it was read as data; the columns are numbered.")
    rows = max(1, size // _bytes_per_row(head))
    try:
        frame = _scan(source, dialect, rows, report)
    except pl.exceptions.ComputeError:
        fields, long, short = _field_counts(file, source, dialect, report)
        if long:
            names, more = unique_names(dialect.header, fields)
            remarks = [
                *more,
                *remarks,
                _unequal(
                    long, "more fields than the first row", f"The extra ones are in {_extra(dialect.fields, names)}."
                ),
            ]
        if short:
            remarks.append(_unequal(short, "fewer fields than the first row", "The fields they lack count as missing."))
        return _scan(_evened(file, source, dialect, fields), dialect, rows, report, all_text=True), remarks, names
    if frame.width > 1 and frame.height and frame.to_series(frame.width - 1).null_count():
        _, _, short = _field_counts(file, source, dialect, report)
        if short:
            remarks.append(_unequal(short, "fewer fields than the first row", "The fields they lack count as missing."))
    return frame, remarks, names


def _scan(
    source: str | bytes, dialect: Dialect, expected_rows: int, report: Report, all_text: bool = False
) -> "pl.DataFrame":
    """Read batch by batch, so that progress can be told and the reading stopped."""
    import polars as pl

    def plan(**more: Any) -> "pl.LazyFrame":
        return pl.scan_csv(
            io.BytesIO(source) if isinstance(source, bytes) else source,
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

    likely = likely_categories(plan(n_rows=_KINDS_FROM_ROWS).collect())
    reader = plan(schema_overrides=dict.fromkeys(likely, pl.Categorical))
    batches, done = [], 0
    for batch in reader.collect_batches(chunk_size=_BATCH_ROWS, maintain_order=True):
        batches.append(batch)
        done += batch.height
        report(f"Reading, {done:,} rows so far", READING_SHARE * min(1.0, done / expected_rows))
    return pl.concat(batches) if batches else reader.head(0).collect()


def _bytes_per_row(head: str) -> int:
    return max(1, len(head) // max(1, head.count("\n")))


def _field_counts(
    file: Path, source: str | bytes, dialect: Dialect, report: Report
) -> tuple[int, list[int], list[int]]:
    """The widest row, and the line numbers of rows with more and with fewer fields than the first."""
    widest, long, short = dialect.fields, [], []
    with _as_text(file, source) as stream:
        reader = csv.reader(stream, delimiter=dialect.separator)
        for count, row in enumerate(reader):
            if count % 100_000 == 0:
                report("Counting the fields of each row", None)
            if len(row) > dialect.fields:
                long.append(reader.line_num)
                widest = max(widest, len(row))
            elif 0 < len(row) < dialect.fields:
                short.append(reader.line_num)
    return widest, long, short


def _evened(file: Path, source: str | bytes, dialect: Dialect, fields: int) -> bytes:
    """The same text with every row filled up to the same number of fields."""
    even = io.StringIO()
    writer = csv.writer(even, delimiter=dialect.separator, lineterminator="\n")
    with _as_text(file, source) as stream:
        for row in csv.reader(stream, delimiter=dialect.separator):
            if row:
                writer.writerow(row + [""] * (fields - len(row)))
    return even.getvalue().encode()


def _as_text(file: Path, source: str | bytes) -> TextIO:
    return (
        io.StringIO(source.decode(), newline="")
        if isinstance(source, bytes)
        else file.open(encoding="utf-8", newline="")
    )


def _unequal(lines: list[int], what: str, then: str) -> str:
    rows = "1 row has" if len(lines) == 1 else f"{len(lines):,} rows have"
    return f"{rows} {what} (first at line {lines[0]:,}). {then}"


def _extra(known: int, names: list[str]) -> str:
    added = names[known:]
    return f"“{added[0]}”" if len(added) == 1 else f"“{added[0]}” to “{added[-1]}”"
