"""How the fields of a text are told apart: separator, quote, decimal mark and rows of names."""

import csv
import io
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from typing import TYPE_CHECKING

from msgspec import Struct

from rhabdos.data.columns import is_unit
from rhabdos.errors import Refusal
from rhabdos.quoting import listed, quoted

if TYPE_CHECKING:
    from rhabdos.data.steps.reading import Read

SEPARATORS = {",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars"}
BLANKS = " "
NO_VALUES = ("na", "n/a", "#n/a", "nan", "null", "none", "-", "–", ".", "?", "missing")
"""Words that stand for a missing value among numbers."""
_MOST_ABOVE = 20  # lines that may stand above the names
_LOOKED_AT = 40
_HEAD_LINES = 200
MOST_COLUMNS = 50_000
LONGEST_NAME = 1_000
"""Letters of a variable's name, and of a level of a factor."""


class ReadingError(Refusal):
    """A file cannot be read as a table."""


class Dialect(Struct, frozen=True):
    """How the fields of a delimited text are told apart.

    Attributes
    ----------
    separator : str
        One character; a blank stands for any run of blanks.
    decimal_comma : bool
        Whether "3,5" means three and a half.
    header : tuple of str
        The names in the first row, or empty where the first row already holds values.
    fields : int
        Number of fields in the first row.
    quote : str
        What fields may stand between; empty for nothing.
    thousands : str
        The mark between thousands where it was asked for; columns are looked at for it anyway.
    skipped : int
        Lines above the names that are no rows.
    header_rows : int
        How many rows hold names: none, one or two.
    first_line : str
        What the first of the lines that are no rows says.
    above_names : int
        Lines above the last row of names.
    """

    separator: str
    decimal_comma: bool
    header: tuple[str, ...]
    fields: int
    quote: str = '"'
    thousands: str = ""
    skipped: int = 0
    header_rows: int = 1
    first_line: str = ""
    above_names: int = 0

    @property
    def remarks(self) -> list[str]:
        """What its user should know of how the names were found."""
        told = []
        if self.skipped and self.first_line:
            lines = (
                "The first line is" if self.skipped == 1 else f"The first {self.skipped} lines are"
            )
            told.append(
                f"{lines} no row of this table and stayed out; it begins with "
                f"{quoted(self.first_line)}."
            )
        if self.header_rows == 2:
            told.append("Names stand in two rows; they were put together.")
        if not self.header_rows:
            told.append(
                "The first row holds numbers, so it was read as data; the columns are numbered."
            )
        return told


def dialect_of(head: str, whole: bool, how: "Read | None" = None) -> Dialect:
    """Tell the dialect from the first part of a text; what ``how`` says is taken at its word.

    Parameters
    ----------
    head : str
        The first lines.
    whole : bool
        Whether ``head`` is the whole text; if not, its last line may be cut and is passed over.
    """
    first_line = head.lstrip("\r\n").partition("\n")[0]
    if (most := max(first_line.count(mark) for mark in SEPARATORS)) >= MOST_COLUMNS:
        raise ReadingError(
            f"The first row has {most + 1:,} fields; at most {MOST_COLUMNS:,} variables are read. "
            "Take a part of them."
        )
    lines = head.splitlines(keepends=True)
    if not whole and len(lines) > 1:
        lines.pop()
    quote = how.quote if how and how.quote is not None else '"'
    above = max(0, how.header - 1) if how and how.header is not None else 0
    text = "".join(lines[above : above + _HEAD_LINES])
    asked = how.separator if how else None
    separator = asked or _likeliest_separator(text, quote)
    numbered = _numbered_rows(text, separator, quote)
    rows = [row for _, row in numbered]
    skipped, decimal_comma = 0, False
    if separator == "," and asked is None and _one_column_of_comma_numbers(rows):
        separator, decimal_comma = ";", True
        rows = [[",".join(row)] for row in rows]
    elif how is None or how.header is None:
        skipped = preamble(rows)
    said = next((f.strip() for row in rows[:skipped] for f in row if f.strip()), "")
    begins = [above + line - sum(f.count("\n") for f in row) for line, row in numbered[skipped:]]
    skipped_lines = begins[0] - 1 if begins and (skipped or above) else 0
    rows = rows[skipped:]
    first = rows[0] if rows else []
    if how and how.decimal is not None:
        decimal_comma = how.decimal == ","
    elif separator != ",":
        decimal_comma = decimal_comma or _comma_is_decimal(rows)
    if how and how.header is not None:
        header_rows = min(1, how.header)
    else:
        header_rows = rows_of_names(rows, decimal_comma)
    return Dialect(
        separator,
        decimal_comma,
        joined_names(rows, header_rows),
        len(rows[header_rows - 1] if header_rows == 2 else first),
        quote,
        (how.thousands if how else None) or "",
        skipped_lines,
        header_rows,
        said,
        begins[header_rows - 1] - 1 if header_rows == 2 else skipped_lines,
    )


def _one_column_of_comma_numbers(rows: Sequence[Sequence[str]]) -> bool:
    """Whether what looks like two columns under one name is one column of decimal commas."""
    if len(rows) < 2 or len(rows[0]) != 1:
        return False
    return all(_COMMA_NUMBER.fullmatch(",".join(row)) for row in rows[1:])


def _comma_is_decimal(rows: Sequence[Sequence[str]]) -> bool:
    fields = [field.strip() for row in rows[1:] for field in row]
    with_comma = sum(bool(_COMMA_NUMBER.fullmatch(field)) for field in fields)
    with_point = sum(bool(_POINT_NUMBER.fullmatch(field)) for field in fields)
    return with_comma > with_point


def _likeliest_separator(text: str, quote: str) -> str:
    """The mark by which most rows have as many fields, and the most of them."""
    scores = {mark: _agreement(text, mark, quote) for mark in SEPARATORS}
    best = max(scores, key=lambda mark: (scores[mark], -list(SEPARATORS).index(mark)))
    if scores[best] != _DIVIDES_NOTHING:
        return best
    return BLANKS if _aligned(text) else ","


_COMMA_NUMBER = re.compile(r"[-+]?\d+,\d+")
_POINT_NUMBER = re.compile(r"[-+]?\d+\.\d+")


def _numbered_rows(text: str, separator: str, quote: str) -> list[tuple[int, list[str]]]:
    """The rows that have fields, each with the number of the line that it ends in.

    Raises
    ------
    ReadingError
        They cannot be told apart.
    """
    try:
        return list(rows_of(io.StringIO(text, newline=None), separator, quote))
    except csv.Error as error:
        raise ReadingError(
            f"The first lines cannot be read as rows of fields ({error}). Save the data as CSV "
            "and open that."
        ) from error


def rows_of(text: Iterable[str], separator: str, quote: str) -> Iterator[tuple[int, list[str]]]:
    """Rows of a delimited text that have fields, each with the number of the line it ends in."""
    if separator == BLANKS:
        for number, line in enumerate(text, 1):
            if line.strip():
                yield number, line.split()
        return
    if quote:
        reader = csv.reader(text, delimiter=separator, quotechar=quote)
    else:
        reader = csv.reader(text, delimiter=separator, quoting=csv.QUOTE_NONE)
    for row in reader:
        if row:
            yield reader.line_num, row


_Score = tuple[float, int, int]
_DIVIDES_NOTHING: _Score = (0.0, 0, 0)


def _agreement(text: str, separator: str, quote: str) -> _Score:
    """Share of rows with as many fields as the first row, how few lines stand above that, and the
    number of fields."""
    try:
        rows = [row for _, row in rows_of(io.StringIO(text, newline=None), separator, quote)]
    except csv.Error:
        return _DIVIDES_NOTHING
    above = preamble(rows)
    widths = [len(row) for row in rows[above:]]
    if not widths or widths[0] < 2:
        return _DIVIDES_NOTHING
    return round(Counter(widths)[widths[0]] / len(widths), 1), -above, widths[0]


def _aligned(text: str) -> bool:
    """Whether columns are parted by runs of blanks: all rows have as many words, some numbers."""
    rows = [line.split() for line in text.splitlines() if line.strip()]
    if len(rows) < 3 or len({len(row) for row in rows}) != 1 or len(rows[0]) < 2:
        return False
    return all(any(_is_number(word, False) for word in row) for row in rows[1:])


def preamble(rows: Sequence[Sequence[str | None]]) -> int:
    """How many rows above the names are no rows of the table: one field of words each."""
    filled = [sum(bool(field and field.strip()) for field in row) for row in rows]
    if not filled:
        return 0
    usual = Counter(filled).most_common(1)[0][0]
    if usual < 2:
        return 0
    for count, row in enumerate(rows[:_MOST_ABOVE]):
        if filled[count] > 1 or (filled[count] == 1 and not (row[0] and row[0].strip())):
            above = _above_names(rows, count, usual)
            return above if len(rows) - above > 1 else 0
    return 0


def _above_names(rows: Sequence[Sequence[str | None]], first: int, usual: int) -> int:
    """Where names begin: at a row, or beneath remarks that happen to hold a separator.

    Those have fewer fields than the row of names beneath them, which is known by numbers that
    stand beneath it and not in it.
    """
    if len(rows[first]) >= usual:  # names over several columns
        return first
    for at in range(first, min(len(rows), _MOST_ABOVE)):
        words = [(field or "").strip() for field in rows[at]]
        if sum(map(bool, words)) < usual:
            continue
        below = [[(field or "").strip() for field in row] for row in rows[at + 1 : _LOOKED_AT]]
        columns = [[row[place] for row in below if place < len(row)] for place in range(usual)]
        numbers = any(2 * sum(map(_has_number, column)) > len(column) > 0 for column in columns)
        return at if numbers and not any(map(_has_number, words)) else first
    return first


def _has_number(field: str) -> bool:
    return _is_number(field, False) or _is_number(field, True)


def rows_of_names(rows: Sequence[Sequence[str | None]], decimal_comma: bool = False) -> int:
    """Whether no, one or two of the first rows hold names."""
    if not rows:
        return 1
    if rows[0] and all(_is_number(field or "", decimal_comma) for field in rows[0]):
        return 0
    return 2 if _two_rows_of_names(rows, decimal_comma) else 1


def _two_rows_of_names(rows: Sequence[Sequence[str | None]], decimal_comma: bool) -> bool:
    """Whether the second row holds units or second names over columns of numbers."""
    if len(rows) < 4:
        return False
    second, below = rows[1], rows[2:_LOOKED_AT]
    if any(_is_number(field or "", decimal_comma) for field in second):
        return False
    over_numbers = []
    for place, field in enumerate(second):
        word = (field or "").strip()
        column = [(row[place] or "").strip() for row in below if place < len(row)]
        known = [text for text in column if text]
        if word and word in known:
            return False  # a level, which names do not repeat
        if word and len(known) > 1 and all(_is_number(text, decimal_comma) for text in known):
            over_numbers.append(word)
    if not over_numbers or any(word.casefold() in NO_VALUES for word in over_numbers):
        return False
    return len(over_numbers) > 1 or is_unit(over_numbers[0])


def joined_names(rows: Sequence[Sequence[str | None]], header_rows: int) -> tuple[str, ...]:
    """The names in the first row or the first two; a name over several columns is each one's."""
    if not header_rows:
        return ()
    upper = [field or "" for field in rows[0]] if rows else []
    if header_rows == 1:
        return tuple(upper)
    lower = [(field or "").strip() for field in rows[1]]
    upper += [""] * (len(lower) - len(upper))
    lower += [""] * (len(upper) - len(lower))
    names, over = [], ""
    for above, below in zip(upper, lower, strict=True):
        over = above.strip() or over
        if is_unit(below):
            names.append(f"{above.strip()} ({below.strip('()[]')})")
        else:
            names.append(f"{over if below else above.strip()} {below}".strip())
    return tuple(names)


def _is_number(field: str, decimal_comma: bool) -> bool:
    text = field.strip()
    try:
        float(text.replace(",", ".") if decimal_comma else text)
    except ValueError:
        return False
    return text.lower() not in {"nan", "inf", "infinity"}


def unique_names(header: tuple[str, ...], count: int) -> tuple[list[str], list[str]]:
    """Name ``count`` columns after a header, each name once; returns the names and remarks on what
    was changed."""
    names: list[str] = []
    changed: list[str] = []
    cut = 0
    seen: set[str] = set()
    last_number: dict[str, int] = {}
    for position in range(count):
        given = header[position].strip() if position < len(header) else ""
        if len(given) > LONGEST_NAME:
            given, cut = given[:LONGEST_NAME], cut + 1
        base = given or f"Column {position + 1}"
        name, number = base, last_number.get(base, 1)
        while name in seen:
            number += 1
            name = f"{base} ({number})"
        last_number[base] = number
        if given and name != given:
            changed.append(name)
        seen.add(name)
        names.append(name)
    remarks = []
    if cut:
        remarks.append(
            f"{cut:,} of the names are longer than {LONGEST_NAME:,} letters and were cut there."
        )
    if changed:
        remarks.append(
            f"Several columns share a name; the later ones are now called {listed(changed)}."
        )
    return names, remarks
