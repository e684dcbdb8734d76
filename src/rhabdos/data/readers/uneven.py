"""What is amiss in a delimited text: uneven rows, blank lines, quotes that are not closed."""

import csv
import io
from collections.abc import Iterator
from itertools import islice
from typing import TYPE_CHECKING

from msgspec import structs

from rhabdos.data.fields.dialect import Dialect, rows_of
from rhabdos.data.files.opening import OpenFile
from rhabdos.data.limits import MOST_COLUMNS, ReadingError
from rhabdos.data.readers.notes import MOST_NOTES, is_note
from rhabdos.data.readers.plain_text import text_of
from rhabdos.data.reporting import Report
from rhabdos.quoting import file_named, quoted

if TYPE_CHECKING:
    import polars as pl

_TAIL_BYTES = 1 << 16  # in which a last line without an end is looked for


def unclosed_quote(opened: OpenFile, dialect: Dialect, report: Report) -> str:
    """A sentence about a quote that swallows the rows after it, or nothing."""
    quote = dialect.quote.encode()
    if len(quote) != 1 or opened.count(quote) % 2 == 0:
        return ""
    # A lone quote is either a mark within a field, which harms nothing, or one that opens a field
    # and never ends.
    ends_at = opened_at = 0
    with text_of(opened) as text:
        reader = csv.reader(text, delimiter=dialect.separator, quotechar=dialect.quote)
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


def without_blank_end(frame: "pl.DataFrame", opened: OpenFile) -> "pl.DataFrame":
    """The rows without those that the reader makes of blank lines at the end of a text."""
    blank = _blank_lines_at_end(opened)
    if frame.width < 2 or not 0 < blank < frame.height:
        return frame
    last = frame.tail(blank)
    empty = all(last.to_series(at).null_count() == blank for at in range(frame.width))
    return frame.head(frame.height - blank) if empty else frame


def _blank_lines_at_end(opened: OpenFile) -> int:
    tail = opened.tail(_TAIL_BYTES).replace(b"\r\n", b"\n").replace(b"\r", b"\n")
    return max(0, len(tail) - len(tail.rstrip(b"\n")) - 1)


def blank_lines(
    frame: "pl.DataFrame", opened: OpenFile, dialect: Dialect, report: Report
) -> list[int]:
    """The numbers of blank lines between rows; looked for only where a row has no field at all."""
    import polars as pl

    if frame.width < 2 or not (frame.to_series(0).null_count() and has_blank_line(opened)):
        return []
    if not frame.lazy().select(pl.all_horizontal(pl.all().is_null()).any()).collect().item():
        return []
    blank: list[int] = []
    before = dialect.above_names
    for count, (line, row) in enumerate(rows_below_names(opened, dialect)):
        if count % 100_000 == 0:
            report("Looking for blank lines", None)
        first = line - sum(field.count("\n") for field in row)
        blank += range(before + 1, first)
        before = line
    return blank


def notes_at_end(opened: OpenFile, dialect: Dialect, blank: list[int]) -> list[str]:
    """The notes beneath the last blank line of a text, where nothing else stands there."""
    if not blank:
        return []
    rows = (row for line, row in rows_below_names(opened, dialect) if line > blank[-1])
    tail = [row + [""] * (2 - len(row)) for row in islice(rows, MOST_NOTES + 1)]
    notes = len(tail) <= MOST_NOTES and all(map(is_note, tail))
    return [row[0].strip() for row in tail] if notes else []


def without_last_run(lines: list[int]) -> list[int]:
    """The numbers of lines without the last ones that follow one another."""
    last = len(lines) - 1
    while last > 0 and lines[last - 1] == lines[last] - 1:
        last -= 1
    return lines[:last]


def has_blank_line(opened: OpenFile) -> bool:
    """Whether two ends of lines follow one another somewhere in a text."""
    before = b""
    for piece in opened.pieces():
        together = before + piece
        if any(mark in together for mark in (b"\n\n", b"\n\r\n", b"\r\r")):
            return True
        before = piece[-2:]
    return False


def filled_up(dialect: Dialect) -> Dialect:
    """How rows are written that were filled up: with one row of names at the most, in quotes."""
    header_rows = min(1, dialect.header_rows)
    return structs.replace(
        dialect,
        skipped=0,
        above_names=0,
        above_rows=header_rows,
        header_rows=header_rows,
        quote='"',
    )


def parted_by_tabs(dialect: Dialect) -> Dialect:
    """How rows are written whose fields were parted anew by tabs, from the last row of names on."""
    return structs.replace(
        dialect,
        separator="\t",
        quote='"',
        skipped=0,
        above_names=0,
        above_rows=min(1, dialect.header_rows),
        loose_quotes=False,
        places=(),
    )


def field_counts(
    opened: OpenFile, dialect: Dialect, report: Report
) -> tuple[int, list[int], list[int]]:
    """The widest row, and the line numbers of rows with more and with fewer fields than the
    first."""
    widest, long, short = dialect.fields, [], []
    for count, (line, row) in enumerate(rows_below_names(opened, dialect)):
        if count % 100_000 == 0:
            report("Counting the fields of each row", None)
        if count == 0 and dialect.row_names:
            continue  # which has a field less, and is not called short
        if len(row) > dialect.fields:
            long.append(line)
            widest = max(widest, len(row))
        elif len(row) < dialect.fields:
            short.append(line)
    if widest > MOST_COLUMNS:
        raise ReadingError(
            f"Line {long[0]:,} of {file_named(opened.path.name)} has over {MOST_COLUMNS:,} "
            "fields. Correct it first."
        )
    return widest, long, short


def with_even_rows(opened: OpenFile, dialect: Dialect, fields: int) -> bytes:
    """The same text with every row filled up to the same number of fields."""
    even = io.StringIO()
    writer = csv.writer(even, delimiter=dialect.separator, lineterminator="\n")
    for _, row in rows_below_names(opened, dialect):
        writer.writerow(row + [""] * (fields - len(row)))
    return even.getvalue().encode()


def rows_below_names(opened: OpenFile, dialect: Dialect) -> Iterator[tuple[int, list[str]]]:
    """The rows from the last row of names on, each with the number of the line that it ends in."""
    with text_of(opened) as text:
        for line, row in rows_of(text, dialect.separator, dialect.quote):
            if line > dialect.above_names:
                yield line, row


def unequal(lines: list[int], what: str, then: str) -> str:
    """A sentence about rows with more or fewer fields than the first, and what became of them."""
    rows = "1 row has" if len(lines) == 1 else f"{len(lines):,} rows have"
    return f"{rows} {what} (first at line {lines[0]:,}). {then}"


def extra_columns(known: int, names: list[str]) -> str:
    """Which columns came to be beside those that have names."""
    added = names[known:]
    return (
        f"{quoted(added[0])}" if len(added) == 1 else f"{quoted(added[0])} to {quoted(added[-1])}"
    )
