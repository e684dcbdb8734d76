"""Read delimited text into a table."""

import codecs
import csv
import io
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, TextIO

from msgspec import Struct, structs

from rhabdos.data.columns import Column, NumberColumn
from rhabdos.data.dialect import (
    BLANKS,
    MOST_COLUMNS,
    Dialect,
    ReadingError,
    dialect_of,
    rows_of,
    unique_names,
)
from rhabdos.data.encodings import encoding_of, named
from rhabdos.data.gathering import Report, silent
from rhabdos.data.kinds import column_from
from rhabdos.data.opening import OpenFile, Stamp, table_name
from rhabdos.data.readers.frames import FEW_COLUMNS, READING_SHARE
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.data.texts import Notation
from rhabdos.data.unpacking import unpacked
from rhabdos.quoting import file_named, quoted, shortened_to
from rhabdos.wording import counted

if TYPE_CHECKING:
    import polars as pl

_HEAD_BYTES = 1 << 18
_LONGEST_LINE = 1 << 26
_BATCH_ROWS = 500_000
_KINDS_FROM_ROWS = 5_000
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
        name = file_named(opened.path.name)
        if how is not None and how.encoding is not None:
            raise _not_in("utf-8", name) from None
        encoding, guessed = encoding_of(_undecodable_part(opened), name)
        return _table_from(_in_utf8(opened, encoding, guessed), report, how)


class Text(Struct, frozen=True, eq=False):
    """A text in UTF-8, its first part, and what is to be said of its encoding."""

    opened: OpenFile
    head: str
    encoding: str = "utf-8"
    remarks: tuple[str, ...] = ()


def as_text(opened: OpenFile, how: Read | None) -> Text:
    """The text of a file in UTF-8, and its first part.

    Raises
    ------
    ReadingError
        It is empty, or no text in the encoding that is asked for or told.
    """
    name = file_named(opened.path.name)
    head = _head_of(opened)
    if not head.strip():
        raise ReadingError(
            f"{name} is empty. Choose a file with a row of names and rows of values."
        )
    if how is not None and how.encoding is not None:
        encoding, guessed = _known_encoding(how.encoding), False
    else:
        encoding, guessed = encoding_of(head, name)
    only_returns = (
        b"\r" in head and b"\n" not in head
    )  # line ends of old, which only decoding understands
    if encoding == "utf-8" and not only_returns:
        return Text(opened, head.decode("utf-8", errors="ignore"))
    return _in_utf8(opened, encoding, guessed)


def _in_utf8(opened: OpenFile, encoding: str, guessed: bool) -> Text:
    """The same text written in UTF-8."""
    name = file_named(opened.path.name)
    again = _holding(opened, _decoded(opened, encoding).encode(errors="replace"))
    remarks = (
        (f"{name} is not in UTF-8; it was read as {encoding}. Check its accented letters.",)
        if guessed
        else ()
    )
    return Text(again, _head_of(again).decode("utf-8", errors="ignore"), encoding, remarks)


def _holding(opened: OpenFile, content: bytes) -> OpenFile:
    """Other bytes in place of those of a file."""
    return OpenFile(opened.path, io.BytesIO(content), len(content), opened.stamp)


def _not_in(encoding: str, name: str) -> ReadingError:
    return ReadingError(
        f"{name} cannot be read as {encoding}. Choose another encoding, or save it as CSV in UTF-8 "
        "and open that."
    )


def _known_encoding(asked: str) -> str:
    try:
        known = codecs.lookup(asked)
    except (LookupError, ValueError):
        raise ReadingError(
            f"{quoted(asked)} is no encoding that is known here. Common ones are utf-8, utf-16, "
            "windows-1252 and iso-8859-1."
        ) from None
    if not getattr(known, "_is_text_encoding", True):
        raise ReadingError(f"{quoted(asked)} is no encoding of text. Name another, such as utf-8.")
    return named(known.name)


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
        raise _not_in(encoding, file_named(opened.path.name)) from error
    return text.replace("\r\n", "\n").replace("\r", "\n")


def _table_from(text: Text, report: Report, how: Read | None) -> Table:
    opened = text.opened
    name = file_named(opened.path.name)
    dialect = dialect_of(text.head, len(text.head.encode()) >= opened.size, how)
    if dialect.separator == BLANKS:
        opened, dialect = _parted_by_tabs(opened, dialect)
    unclosed = _unclosed_quote(opened, dialect, report)
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
    noticed = () if how is not None and how.header is not None else dialect.remarks
    remarks = (*text.remarks, *noticed, *more_remarks)
    return Table(table_name(opened.path), tuple(columns), remarks)


def first_rows(text: Text, dialect: Dialect, rows: int) -> Table:
    """The first rows of a text, for a look at them before all are read."""
    lines = text.head.splitlines(keepends=True)
    whole = len(text.head.encode()) >= text.opened.size
    head = "".join(
        lines[: rows + dialect.skipped] if whole else lines[:-1][: rows + dialect.skipped]
    )
    part = _holding(text.opened, head.encode())
    how = Read(
        separator=dialect.separator,
        quote=dialect.quote,
        decimal="," if dialect.decimal_comma else ".",
        thousands=dialect.thousands,
        encoding="utf-8",
        header=None if dialect.header_rows == 2 else dialect.skipped + min(1, dialect.header_rows),
    )
    if not dialect.header_rows:
        how = structs.replace(how, header=0)
    return _table_from(Text(part, head), silent, how)


def _parted_by_tabs(opened: OpenFile, dialect: Dialect) -> tuple[OpenFile, Dialect]:
    """The same rows with one tab where there were blanks."""
    with _text_of(opened) as lines:
        rows = rows_of(lines, BLANKS, "")
        even = "".join(
            "\t".join(row) + "\n" for number, row in rows if number > dialect.above_names
        )
    content = even.encode()
    tabbed = structs.replace(dialect, separator="\t", quote="", skipped=0, above_names=0)
    return _holding(opened, content), tabbed


def _unclosed_quote(opened: OpenFile, dialect: Dialect, report: Report) -> str:
    """A sentence about a quote that swallows the rows after it, or nothing."""
    quote = dialect.quote.encode()
    if len(quote) != 1 or opened.count(quote) % 2 == 0:
        return ""
    # A lone quote is either a mark within a field, which harms nothing, or one that opens a field
    # and never ends.
    ends_at = opened_at = 0
    with _text_of(opened) as text:
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


def _frame(
    opened: OpenFile, dialect: Dialect, head: str, report: Report
) -> tuple["pl.DataFrame", list[str], list[str], bool]:
    """The text as columns, what is to be told of it, their names, and whether its rows had to be
    filled up."""
    import polars as pl

    names, remarks = unique_names(dialect.header, dialect.fields)
    rows = max(1, opened.size // _bytes_per_row(head))
    fewer = "fewer fields than the first row", "The fields they lack count as missing."
    frame: pl.DataFrame | None = None
    blank: list[int] = []
    try:
        frame = _without_blank_end(_scan(opened, dialect, rows, report), opened)
        blank = _blank_lines(frame, opened, dialect, report)
    except pl.exceptions.ComputeError:
        pass  # rows have more or fewer fields than the first
    if frame is None or blank:
        fields, long, short = _field_counts(opened, dialect, report)
        if blank:
            lines = counted(len(blank), "blank line", "blank lines")
            passed = "was" if len(blank) == 1 else "were"
            at = f"line {blank[0]:,}" if len(blank) == 1 else f"the first is line {blank[0]:,}"
            remarks.append(f"{lines} between rows {passed} passed over ({at}).")
        if long:
            names, more = unique_names(dialect.header, fields)
            extra = f"The extra ones are in {_extra(dialect.fields, names)}."
            remarks = [*more, *remarks, _unequal(long, "more fields than the first row", extra)]
        if short:
            remarks.append(_unequal(short, *fewer))
        even = _holding(opened, _evened(opened, dialect, fields))
        return _scan(even, _plain(dialect), rows, report, all_text=True), remarks, names, True
    if frame.width > 1 and frame.height and frame.to_series(frame.width - 1).null_count():
        _, _, short = _field_counts(opened, dialect, report)
        if short:
            remarks.append(_unequal(short, *fewer))
    return frame, remarks, names, False


def _without_blank_end(frame: "pl.DataFrame", opened: OpenFile) -> "pl.DataFrame":
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


def _blank_lines(
    frame: "pl.DataFrame", opened: OpenFile, dialect: Dialect, report: Report
) -> list[int]:
    """The numbers of blank lines between rows; looked for only where a row has no field at all."""
    import polars as pl

    if frame.width < 2 or not (frame.to_series(0).null_count() and _has_blank_line(opened)):
        return []
    if not frame.lazy().select(pl.all_horizontal(pl.all().is_null()).any()).collect().item():
        return []
    blank: list[int] = []
    before = dialect.above_names
    for count, (line, row) in enumerate(_rows(opened, dialect)):
        if count % 100_000 == 0:
            report("Looking for blank lines", None)
        first = line - sum(field.count("\n") for field in row)
        blank += range(before + 1, first)
        before = line
    return blank


def _has_blank_line(opened: OpenFile) -> bool:
    content = opened.whole()
    return any(mark in content for mark in (b"\n\n", b"\n\r\n", b"\r\r"))


def _plain(dialect: Dialect) -> Dialect:
    """How rows are written that were filled up: with one row of names at the most, in quotes."""
    header_rows = min(1, dialect.header_rows)
    return structs.replace(dialect, skipped=0, above_names=0, header_rows=header_rows, quote='"')


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
            _unmistakable(opened),
            separator=dialect.separator,
            quote_char=dialect.quote or None,
            has_header=bool(dialect.header_rows),
            skip_lines=dialect.above_names,
            infer_schema=not all_text,
            decimal_comma=dialect.decimal_comma,
            infer_schema_length=_KINDS_FROM_ROWS,
            truncate_ragged_lines=False,
            raise_if_empty=False,
            glob=False,
            **more,
        )
        return frame if only is None else frame.select(pl.nth(only))

    reader = plan()
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
    for count, (line, row) in enumerate(_rows(opened, dialect)):
        if count % 100_000 == 0:
            report("Counting the fields of each row", None)
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


def _evened(opened: OpenFile, dialect: Dialect, fields: int) -> bytes:
    """The same text with every row filled up to the same number of fields."""
    even = io.StringIO()
    writer = csv.writer(even, delimiter=dialect.separator, lineterminator="\n")
    for _, row in _rows(opened, dialect):
        writer.writerow(row + [""] * (fields - len(row)))
    return even.getvalue().encode()


def _rows(opened: OpenFile, dialect: Dialect) -> Iterator[tuple[int, list[str]]]:
    """The rows from the last row of names on, each with the number of the line that it ends in."""
    with _text_of(opened) as text:
        for line, row in rows_of(text, dialect.separator, dialect.quote):
            if line > dialect.above_names:
                yield line, row


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
            if dialect.separator == BLANKS:
                content, dialect = _parted_by_tabs(content, dialect)
            if evened:
                fields, _, _ = _field_counts(content, dialect, silent)
                content = _holding(content, _evened(content, dialect, fields))
                dialect = _plain(dialect)
            frame = _scan(content, dialect, 1, silent, all_text=True, only=position)
    return frame.to_series(0).head(rows)
