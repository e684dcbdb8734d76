"""Delimited text that is larger than memory, laid out once as Parquet.

It is read as smaller texts are, in pieces: how numbers and dates are written is told by the first
rows, and told anew where later rows refute it.
"""

import csv
from collections import Counter
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from rhabdos.data.fields.calendars import date_notation, dates_in
from rhabdos.data.fields.dialect import Dialect, dialect_of, rows_of
from rhabdos.data.fields.names import unique_names
from rhabdos.data.fields.notation import PLAIN, Notation
from rhabdos.data.fields.numerals import number_notation, numbers_in
from rhabdos.data.fields.texts import DAY, OTHER_TEXT, missing_words
from rhabdos.data.files.opening import OpenFile
from rhabdos.data.limits import ReadingError
from rhabdos.data.problems.problem import misfits
from rhabdos.data.readers.notes import MOST_NOTES, is_note, lines_at_end, notes_told, remarks_at_end
from rhabdos.data.readers.plain_text import damaged, encoding_told, guessed_told, returns_alone
from rhabdos.data.readers.rewritten import encoding_of_all, in_utf8, with_tabs
from rhabdos.data.readers.uneven import (
    extra_columns,
    field_counts,
    filled_up,
    has_blank_line,
    rows_below_names,
    unclosed_quote,
    unequal,
)
from rhabdos.data.reporting import Report
from rhabdos.quoting import file_named, quoted
from rhabdos.wording import counted

if TYPE_CHECKING:
    import polars as pl

    from rhabdos.data.steps.reading import Read

_FIRST_ROWS = 5_000  # that tell how numbers and dates are written
_ROWS = 500_000  # of a piece, between two looks at whether to stop …
_CELLS = 10_000_000  # … and fewer of a wide table, so that a piece fits into memory
_ROWS_TOGETHER = 200_000  # that lie together in a file
_MOST_KINDS = 1_000  # of fields that are no numbers, which are told apart
_TRUTH = r"^(?:true|false|TRUE|FALSE|True|False)$"
_LIKE_PACKED = (b"x^", b"x\x01")  # a text that begins so would be taken for a compressed one


class LaidOut(Struct, frozen=True):
    """What became of a text.

    Attributes
    ----------
    parts : tuple of Path
        Parquet files, the rows in their order.
    units : dict of str to str
        What stood behind all numbers of a column, or what they count.
    remarks : tuple of str
        What its user should know of how it was read.
    """

    parts: tuple[Path, ...]
    units: dict[str, str]
    remarks: tuple[str, ...]


class _Way(Struct, frozen=True):
    """How the fields of a column are read: as numbers, as dates, as truths, or as the texts that
    they are; or not at all."""

    kind: str = "text"
    notation: Notation = PLAIN

    def read(self, fields: "pl.Series") -> "pl.Series":
        """The fields as they are laid out; null where they are not of this kind."""
        import polars as pl

        if self.kind == "numbers":
            if self.notation == PLAIN:
                numbers = fields.cast(pl.Float64, strict=False)
                if numbers.null_count() == fields.null_count():
                    return numbers
            return numbers_in(fields, self.notation).cast(pl.Float64)
        if self.kind == "dates":
            days = dates_in(fields, self.notation)
            return (days * DAY).round().cast(pl.Int64).cast(pl.Datetime("us"))
        if self.kind == "nothing":
            return fields.clear(len(fields))
        if self.kind == "truths" and fields.drop_nulls().str.contains(_TRUTH).all():
            return fields.str.to_lowercase()
        return fields


_AS_TEXT, _LEFT_OUT = _Way(), _Way("nothing")


class _Unread(Struct):
    """Fields of a column that are not of its kind."""

    words: Counter[str]
    first: int = 0
    """The first of the rows where one stands, from 1."""
    read: int = 0
    """How many are of it."""

    def add(self, fields: "pl.Series", values: "pl.Series", above: int) -> None:
        """Count those of a piece, above which so many rows stand."""
        self.read += len(values) - values.null_count()
        if values.null_count() == fields.null_count():
            return
        odd = values.is_null() & ~missing_words(fields, among_numbers=True)
        if not odd.any():
            return
        self.first = self.first or above + 1 + int(odd.arg_true()[0])
        for word, count in fields.filter(odd).str.strip_chars().value_counts().iter_rows():
            if word in self.words or len(self.words) < _MOST_KINDS:
                self.words[word] += count
            else:
                self.words[OTHER_TEXT] += count

    def told(self, name: str, kind: str) -> str:
        """A sentence about them."""
        counts = "it counts" if self.words.total() == 1 else "they count"
        what = misfits(self.words.total(), dict(sorted(self.words.items())), kind.removesuffix("s"))
        return f"In {quoted(name)} {what} (the first in row {self.first:,}); {counts} as missing."


def text_laid_out(
    opened: OpenFile, folder: Path, report: Report, how: "Read | None" = None
) -> LaidOut:
    """The rows of a delimited text, as Parquet files in a folder.

    Raises
    ------
    ReadingError
        It is no text, or its rows cannot be told apart.
    Cancelled
        From ``report``.
    """
    name = file_named(opened.path.name)
    head, encoding, guessed = encoding_told(opened, how)
    text, remarks = head.decode(encoding, errors="ignore").lstrip("\ufeff"), list[str]()
    asked = how is not None and how.encoding is not None
    if encoding == "utf-8" and not asked and not guessed:
        encoding, guessed = encoding_of_all(opened, report)
    source = opened.path
    plain = encoding in ("utf-8", "utf-8-sig")
    errors = "replace" if damaged(encoding, guessed) else "strict"
    if not plain or guessed or returns_alone(head) or head[:2] in _LIKE_PACKED:
        source = in_utf8(opened, encoding, errors, folder / "text", report)
        text = text.replace("\r\n", "\n").replace("\r", "\n")
    if guessed:
        remarks.append(guessed_told(name, encoding))
    dialect = dialect_of(text, len(head) >= opened.size, how)
    if how is None or how.header is None:
        remarks += dialect.remarks
    if dialect.indirect:
        source, dialect = with_tabs(source, dialect, folder / "tabs", report)
    laid = _LayingOut(source, text, dialect, folder, report, name).done(remarks)
    for rewritten in ("text", "tabs", "even"):
        (folder / rewritten).unlink(missing_ok=True)
    return laid


class _PartedOtherwise(Exception):
    """Quotes in the midst of fields, which two readers part differently."""


class _LayingOut:
    """A text whose fields a library can part, on its way to Parquet."""

    def __init__(
        self, source: Path, head: str, dialect: Dialect, folder: Path, report: Report, name: str
    ) -> None:
        self._source, self._dialect, self._folder = source, dialect, folder
        self._report, self._name = report, name
        self._names, self._of_names = unique_names(dialect.header, dialect.fields)
        self._usual = Notation("," if dialect.decimal_comma else ".", dialect.thousands)
        self._unread: list[_Unread] = []
        self._heads: list[pl.Series] = []
        self._refuting: dict[int, dict[str, None]] = {}
        self._blank = self._at_end = 0
        self._blank_line: bool | None = None
        with OpenFile.open(source) as text:
            self._remarks = remarks_at_end(text, head)
            self._notes_below_blank = _notes_below_blank(text, dialect)
        self._notes: list[str] = []

    def done(self, remarks: Sequence[str]) -> LaidOut:
        """All rows laid out, with these remarks and those about them."""
        import polars as pl

        more = list[str]()
        with OpenFile.open(self._source) as source:
            if unclosed := unclosed_quote(source, self._dialect, self._report):
                more.append(unclosed)
        try:
            parts, ways = self._parts()
        except (pl.exceptions.ComputeError, _PartedOtherwise):
            more += self._make_even()
            parts, ways = self._parts()
        more += [
            unread.told(name, way.kind)
            for name, way, unread in zip(self._names, ways, self._unread, strict=True)
            if unread.words and way.kind in ("numbers", "dates")
        ]
        if self._blank:
            rows, were = counted(self._blank, "row", "rows"), "was" if self._blank == 1 else "were"
            more.append(f"{rows} without any value {were} passed over.")
        more += notes_told(self._notes)
        units = {
            name: way.notation.unit
            for name, way in zip(self._names, ways, strict=True)
            if way.kind == "numbers" and way.notation.unit
        }
        return LaidOut(tuple(parts), units, (*remarks, *self._of_names, *more))

    def _parts(self) -> tuple[list[Path], list[_Way]]:
        """The files, and how each column was read. Where later rows refute what the first rows
        tell, all are read once more."""
        ways: list[_Way] | None = None
        while True:
            parts = list[Path]()
            for number, frame in enumerate(self._pieces()):
                if ways is None:
                    self._heads = frame.head(_FIRST_ROWS).get_columns()
                    ways = [self._way(place) for place in range(frame.width)]
                parts.append(self._folder / f"rows-{number:05}.parquet")
                laid = self._laid(frame, ways)
                laid.write_parquet(parts[-1], row_group_size=_ROWS_TOGETHER)
            if ways is None:
                raise ReadingError(
                    f"{self._name} holds a row of names but no rows of values. Choose a file with "
                    "data below its header."
                )
            others = [self._way_of_all(place, way) for place, way in enumerate(ways)]
            if others == ways:
                return parts, ways
            for part in parts:
                part.unlink()
            ways = others

    def _pieces(self) -> "Iterator[pl.DataFrame]":
        """The rows as texts, without those that have no field; what is counted begins anew."""
        import polars as pl

        dialect = self._dialect
        frame = pl.scan_csv(
            self._source,
            separator=dialect.separator,
            quote_char=dialect.quote or None,
            has_header=bool(dialect.header_rows) and not dialect.row_names,
            skip_lines=dialect.above_rows if dialect.row_names else dialect.above_names,
            infer_schema=False,
            raise_if_empty=False,
            glob=False,
        )
        width = len(frame.collect_schema())
        if width < dialect.fields:
            raise _PartedOtherwise
        if width > len(self._names):
            self._names, self._of_names = unique_names(dialect.header, width)
        self._unread = [_Unread(Counter()) for _ in range(width)]
        self._above = self._blank = self._at_end = 0
        rows = min(_ROWS, max(1, _CELLS // width))
        batches = frame.collect_batches(chunk_size=rows, maintain_order=True)
        for batch, is_last in _with_last(batches):
            piece = batch.rename(dict(zip(batch.columns, self._names, strict=True)))
            if is_last:
                piece = self._without_notes(piece)
            if width > 1:
                piece = self._without_blank(piece)
            if piece.height:
                yield piece
                self._above += piece.height
                self._report(f"Laying out on disk, {self._above:,} rows so far", None)

    def _without_notes(self, piece: "pl.DataFrame") -> "pl.DataFrame":
        """The last piece without the remarks and notes beneath the rows."""
        import polars as pl

        filled = (~piece.select(pl.all_horizontal(pl.all().is_null())).to_series()).arg_true()
        if not len(filled):
            return piece
        rows = piece.head(int(filled[-1]) + 1)
        self._notes = self._remarks or self._notes_below_blank * (piece.width > 1)
        if not self._remarks and self._notes:
            above = rows.head(-len(self._notes)).tail(1).rows()
            self._notes = [] if not above or any(above[0]) else self._notes
        return rows.head(-len(self._notes)) if self._notes else piece

    def _without_blank(self, piece: "pl.DataFrame") -> "pl.DataFrame":
        """A piece without the rows that have no field, which are counted; those that end it may
        be blank lines at the end of the text, of which nothing is to be told."""
        import polars as pl

        if not piece.to_series(0).null_count() or not self._has_blank_line():
            self._blank, self._at_end = self._blank + self._at_end, 0
            return piece
        blank = piece.select(pl.all_horizontal(pl.all().is_null())).to_series()
        rows = (~blank).arg_true()
        if not len(rows):
            self._at_end += piece.height
            return piece.clear()
        at_end = piece.height - 1 - int(rows[-1])
        self._blank += self._at_end + piece.height - len(rows) - at_end
        self._at_end = at_end
        return piece.filter(~blank)

    def _has_blank_line(self) -> bool:
        """Whether the text has a blank line at all, without which rows of blank fields stay."""
        if self._blank_line is None:
            with OpenFile.open(self._source) as source:
                self._blank_line = has_blank_line(source)
        return self._blank_line

    def _laid(self, frame: "pl.DataFrame", ways: Sequence[_Way]) -> "pl.DataFrame":
        """A piece with its fields as they are read; what is not of its column's kind is counted."""
        import polars as pl

        columns = []
        for fields, way, unread in zip(frame.get_columns(), ways, self._unread, strict=True):
            values = way.read(fields)
            if way.kind not in ("text", "truths"):
                unread.add(fields, values, self._above)
            if way != _LEFT_OUT:
                columns.append(values.alias(fields.name))
        return pl.DataFrame(columns)

    def _way(self, place: int, more: Sequence[str] = ()) -> _Way:
        """How a column is read by its first rows, and by more fields of it."""
        import polars as pl

        fields = self._heads[place]
        known = fields.drop_nulls()
        header = self._dialect.header
        named = place < len(header) and header[place].strip()
        if not len(known) and not more and header and not named:
            return _LEFT_OUT  # behind a separator at the end of each line there is no column
        if len(known) and known.str.contains(_TRUTH).all():
            return _Way("truths")
        fields = pl.concat([pl.Series(fields.name, more, dtype=pl.String), fields])
        if (notation := number_notation(fields, self._usual)) is not None:
            return _Way("numbers", notation)
        dates = date_notation(fields)
        return _AS_TEXT if dates is None else _Way("dates", dates[0])

    def _way_of_all(self, place: int, way: _Way) -> _Way:
        """How a column is to be read, now that all rows are known: otherwise where this reads what
        was no number or date, and as text where most fields are neither."""
        unread = self._unread[place]
        if not unread.words:
            return way
        # With those of earlier turns, so that two ways never take turns without end.
        refuting = self._refuting.setdefault(place, {})
        refuting.update(dict.fromkeys(word for word in unread.words if word != OTHER_TEXT))
        other = self._way(place, [*refuting])
        if other.kind in ("numbers", "dates"):
            return other
        return _AS_TEXT if unread.words.total() > unread.read else way

    def _make_even(self) -> list[str]:
        """Write the rows anew, all with the same number of fields; what is to be told of it."""
        dialect, even = self._dialect, self._folder / "even"
        with OpenFile.open(self._source) as source:
            widest, long, short = field_counts(source, dialect, self._report)
            with even.open("w", encoding="utf-8", newline="") as file:
                writer = csv.writer(file, delimiter=dialect.separator, lineterminator="\n")
                for number, (_, row) in enumerate(rows_below_names(source, dialect)):
                    if number % _ROWS == 0:
                        self._report(f"Making {number:,} rows even", None)
                    writer.writerow(row + [""] * (widest - len(row)))
        self._source, self._dialect, self._blank_line = even, filled_up(dialect), None
        self._names, self._of_names = unique_names(dialect.header, widest)
        told = []
        if long:
            extra = f"The extra ones are in {extra_columns(dialect.fields, self._names)}."
            told.append(unequal(long, "more fields than the first row", extra))
        if short:
            told.append(
                unequal(
                    short,
                    "fewer fields than the first row",
                    "The fields they lack count as missing.",
                )
            )
        return told


def _with_last(frames: "Iterator[pl.DataFrame]") -> "Iterator[tuple[pl.DataFrame, bool]]":
    """Each of some frames, and whether it is the last one."""
    before = next(frames, None)
    for frame in frames:
        assert before is not None
        yield before, False
        before = frame
    if before is not None:
        yield before, True


def _notes_below_blank(opened: OpenFile, dialect: Dialect) -> list[str]:
    """The notes beneath the last line that is blank, where nothing else stands there; that line
    may still be a part of a field."""
    lines = lines_at_end(opened)
    blank = [at for at, line in enumerate(lines) if not line.strip()]
    if not blank:
        return []
    rows = [row for _, row in rows_of(lines[blank[-1] + 1 :], dialect.separator, dialect.quote)]
    alone = all(is_note(row + [""] * (2 - len(row))) for row in rows)
    return [row[0].strip() for row in rows] if alone and len(rows) <= MOST_NOTES else []
