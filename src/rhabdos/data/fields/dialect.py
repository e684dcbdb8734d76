"""How the fields of a text are told apart: separator, quote, decimal mark and rows of names."""

import csv
import io
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from typing import TYPE_CHECKING

from msgspec import Struct

from rhabdos.data.fields.names import NO_VALUES, is_number, joined_names, preamble, rows_of_names
from rhabdos.data.fields.places import aligned, fixed_places
from rhabdos.data.limits import MOST_COLUMNS, ReadingError
from rhabdos.quoting import quoted

if TYPE_CHECKING:
    from rhabdos.data.steps.reading import Read

SEPARATORS = {",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars"}
RARE_SEPARATORS = {":": "colons", "^": "carets", "~": "tildes"}
"""Marks that part fields only where all rows agree on it, which is then told."""
BLANKS = " "
ROW_NAMES = "Row"
"""What names of rows are called that have no name of their own."""
_HEAD_LINES = 200  # that tell how a file is written


NUMBERED = (
    "The first row holds values like those below it, so it was read as data; the columns are "
    "numbered."
)


TOGETHER = {
    2: "Names stand in two rows; they were put together.",
    3: "Names stand in two rows, and units in a third; they were put together.",
}
"""What is to be said where so many rows hold names."""


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
        How many rows hold names: none, one, two or three.
    first_line : str
        What the first of the lines that are no rows says.
    above_names : int
        Lines above the last row of names.
    above_rows : int
        Lines above the first row.
    row_names : bool
        Whether rows begin with a name of their own, over which no name stands.
    loose_quotes : bool
        Whether blanks stand between separators and quotes.
    places : tuple of int
        Where columns begin in lines of fixed places, the first at 0; empty of all other texts.
    doubts : tuple of str
        Sentences on what else the text might be.
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
    above_rows: int = 0
    row_names: bool = False
    loose_quotes: bool = False
    places: tuple[int, ...] = ()
    doubts: tuple[str, ...] = ()

    @property
    def indirect(self) -> bool:
        """Whether the text is written anew with tabs before it is read."""
        return self.separator == BLANKS or self.loose_quotes

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
        if self.header_rows > 1:
            told.append(TOGETHER[self.header_rows])
        if not self.header_rows:
            told.append(NUMBERED)
        if self.row_names:
            told.append(
                "Rows have one field more than there are names: the first was taken for names of "
                f"rows, and is called {quoted(ROW_NAMES)}."
            )
        return [*told, *self.doubts]


def _refuse_wide(head: str) -> None:
    first_line = head.lstrip("\r\n").partition("\n")[0]
    if (most := max(first_line.count(mark) for mark in SEPARATORS)) >= MOST_COLUMNS:
        raise ReadingError(
            f"The first row has {most + 1:,} fields; at most {MOST_COLUMNS:,} variables are read. "
            "Take a part of them."
        )


def _doubts_of_parting(guessed: str, by_places: bool, how: "Read | None") -> list[str]:
    """What was told from the look of the lines, and may be wrong."""
    doubts = []
    if guessed in RARE_SEPARATORS:
        doubts.append(
            f"Fields were taken to be parted by {RARE_SEPARATORS[guessed]}. If they are not, "
            "choose how the file is read."
        )
    if by_places and not (how and how.places):
        doubts.append(
            "Columns were told by their places in the lines. If words were cut, choose how the "
            "file is read."
        )
    return doubts


def _looked_at(head: str, whole: bool, above: int) -> str:
    """The lines of a head that are looked at, without so many above them and one that is cut."""
    _refuse_wide(head)
    lines = head.splitlines(keepends=True)
    if not whole and len(lines) > 1:
        lines.pop()
    return "".join(lines[above : above + _HEAD_LINES])


def dialect_of(head: str, whole: bool, how: "Read | None" = None) -> Dialect:
    """Tell the dialect from the first part of a text; what ``how`` says is taken at its word.

    Parameters
    ----------
    head : str
        The first lines.
    whole : bool
        Whether ``head`` is the whole text; if not, its last line may be cut and is passed over.
    """
    quote = how.quote if how and how.quote is not None else '"'
    above = max(0, how.header - 1) if how and how.header is not None else 0
    text = _looked_at(head, whole, above)
    given = how.separator if how else None
    places = how.places if how and how.places else ()
    separator = BLANKS if places else given or _likeliest_separator(text, quote)
    if separator == BLANKS and given is None and not places:
        places = fixed_places(text)
    loose = bool(quote) and _quotes_behind_blanks(text, separator, quote)
    numbered = _numbered_rows(text, separator, quote, places, loose)
    rows = [row for _, row in numbered]
    skipped, decimal_comma, doubts = 0, False, list[str]()
    thousands = (how.thousands if how else None) or ""
    one_column = separator == "," and given is None and _one_column_of_comma_numbers(rows)
    if one_column:
        separator, rows = ";", [[",".join(row)] for row in rows]
        decimal_comma = thousands != "," and not _parts_thousands(rows)
    else:
        skipped = _above(rows, how)
    said = next((f.strip() for row in rows[:skipped] for f in row if f.strip()), "")
    begins = [above + line - sum(f.count("\n") for f in row) for line, row in numbered[skipped:]]
    skipped_lines = begins[0] - 1 if begins and (skipped or above) else 0
    rows = rows[skipped:]
    if how and how.decimal is not None:
        decimal_comma = how.decimal == ","
    elif separator != "," and thousands != ",":
        if not one_column:
            decimal_comma = _comma_is_decimal(rows, separator)
        if decimal_comma or one_column:
            doubts += _doubt_of_commas(rows, decimal_comma)
    header_rows, header, fields, row_names = _names_of(rows, decimal_comma, how)
    doubts += _doubts_of_parting(separator if given is None else "", bool(places), how)
    ends = [above + line for line, _ in numbered[skipped:]]
    return Dialect(
        separator,
        decimal_comma,
        header,
        fields,
        quote,
        thousands,
        skipped_lines,
        header_rows,
        said,
        begins[header_rows - 1] - 1 if header_rows > 1 else skipped_lines,
        ends[header_rows - 1] if header_rows and len(ends) >= header_rows else skipped_lines,
        row_names,
        loose,
        places,
        tuple(doubts),
    )


def _above(rows: Sequence[Sequence[str]], how: "Read | None") -> int:
    """How many of the first rows are none of the table, where nobody said in which its names stand;
    also of rows that were said to have no names, and look so."""
    header = None if how is None else how.header
    if header is not None and header > 0:
        return 0
    above = preamble(rows)
    decimal_comma = how is not None and how.decimal == ","
    return 0 if header == 0 and rows_of_names(rows[above:], decimal_comma) else above


def _names_of(
    rows: Sequence[Sequence[str]], decimal_comma: bool, how: "Read | None"
) -> tuple[int, tuple[str, ...], int, bool]:
    """In how many rows names stand, the names, how many fields a row has, and whether names of
    rows stand first."""
    if how and how.header is not None:
        header_rows = min(1, how.header)
    else:
        header_rows = rows_of_names(rows, decimal_comma)
    header = joined_names(rows, header_rows)
    if not header_rows:
        return 0, header, max(map(len, rows), default=0), False
    fields = len(rows[header_rows - 1]) if len(rows) >= header_rows else 0
    if header_rows == 1 and _one_field_more(rows, decimal_comma):
        return 1, (ROW_NAMES, *header), fields + 1, True
    return header_rows, header, fields, False


def _one_field_more(rows: Sequence[Sequence[str]], decimal_comma: bool) -> bool:
    """Whether all rows have one field more than the row of names, with names of rows first: texts,
    or numbers of which none comes twice."""
    if not rows:
        return False
    width, below = len(rows[0]), rows[1:]
    if len(below) < 2 or any(len(row) != width + 1 for row in below):
        return False
    if not any(row[-1].strip() for row in below):  # a separator at the end of each line
        return False
    names = [row[0].strip() for row in below]
    return len(set(names)) == len(names) or not all(
        is_number(name, decimal_comma) for name in names
    )


def _one_column_of_comma_numbers(rows: Sequence[Sequence[str]]) -> bool:
    """Whether what looks like two columns under one name is one column of decimal commas."""
    if len(rows) < 2 or len(rows[0]) != 1 or not any(len(row) == 2 for row in rows[1:]):
        return False
    texts = (",".join(row).strip() for row in rows[1:])
    known = (text for text in texts if text.casefold() not in NO_VALUES)
    return all(_COMMA_OR_WHOLE.fullmatch(text) for text in known)


def _parts_thousands(rows: Sequence[Sequence[str]]) -> bool:
    """Whether commas in one column part thousands: three digits stand behind each of them, and
    smaller numbers have none."""
    fields = [row[0].strip() for row in rows[1:]]
    commas = [field for field in fields if "," in field]
    smaller = any(field.isdigit() and len(field) <= 3 for field in fields)
    return smaller and all(_ONE_THOUSAND.fullmatch(field) for field in commas)


def _comma_is_decimal(rows: Sequence[Sequence[str]], separator: str) -> bool:
    """Whether commas stand before decimals.

    Where three digits stand behind each of them they might part thousands; semicolons speak for
    decimals then, since they part fields where commas cannot.
    """
    fields = [field.strip() for row in rows[1:] or rows for field in row]
    commas = [field for field in fields if _COMMA_NUMBER.fullmatch(field)]
    with_point = sum(bool(_POINT_NUMBER.fullmatch(field)) for field in fields)
    if any(_THOUSANDS.fullmatch(field) for field in fields):
        return False
    only_thousands = all(_ONE_THOUSAND.fullmatch(field) for field in commas)
    return len(commas) > with_point and (not only_thousands or separator == ";")


def _doubt_of_commas(rows: Sequence[Sequence[str]], decimal: bool) -> list[str]:
    """What is to be said where commas before three digits were taken for what they may not be."""
    fields = [field.strip() for row in rows[1:] or rows for field in row]
    commas = [field for field in fields if _COMMA_NUMBER.fullmatch(field)]
    if not commas or not all(_ONE_THOUSAND.fullmatch(field) for field in commas):
        return []
    read = f"{quoted(commas[0])} was read as"
    if not decimal:
        return [
            f"{read} {commas[0].replace(',', '')}, with a comma between thousands; if commas stand "
            "before decimals here, choose how the file is read."
        ]
    return [
        f"{read} {commas[0].replace(',', '.')}, with a decimal comma; if commas part thousands "
        "here, choose how the file is read."
    ]


def _likeliest_separator(text: str, quote: str) -> str:
    """The mark by which most rows have as many fields, and the most of them."""
    scores = {mark: _agreement(text, mark, quote) for mark in SEPARATORS}
    best = max(scores, key=lambda mark: (scores[mark], -list(SEPARATORS).index(mark)))
    if scores[best] != _DIVIDES_NOTHING:
        return best
    for mark in RARE_SEPARATORS:
        share, above, _ = _agreement(text, mark, quote)
        if share == 1.0 and above == 0 and not _CLOCKS.search(text):
            return mark
    return BLANKS if aligned(text) or fixed_places(text) else ","


def _quotes_behind_blanks(text: str, separator: str, quote: str) -> bool:
    """Whether blanks stand between a separator and the quote behind it."""
    if separator in (BLANKS, "\t") or f"{separator} {quote}" not in text:
        return False
    mark, around = re.escape(separator), re.escape(quote)
    late = re.compile(rf"{mark}(?= +{around}[^{around}\n]*{around} *({mark}|\r?$))", re.MULTILINE)
    # A separator within quotes parts nothing: an odd number of them stands before it.
    return any(text.count(quote, 0, match.start()) % 2 == 0 for match in late.finditer(text))


_COMMA_NUMBER = re.compile(r"[-+]?\d+,\d+")
# With a sign or two before it, such as of a currency, and with a unit behind it; thousands apart.
_COMMA_OR_WHOLE = re.compile(
    r"(?:[^\d\s,.+\-−]{1,3}\s?)?[-+−]?(?:\d+|\d{1,3}(?:[. '’\u00a0\u2009\u202f]\d{3})+)(?:,\d+)?"
    r"(?:\s?[^\d\s,;][^\d,;]{0,8})?"
)
_POINT_NUMBER = re.compile(r"[-+]?\d+\.\d+")
_ONE_THOUSAND = re.compile(r"[-+]?[1-9]\d{0,2},\d{3}")
_THOUSANDS = re.compile(r"[-+]?[1-9]\d{0,2}((,\d{3}){2,}|(,\d{3})+\.\d+|(,\d\d)+,\d{3})")
_CLOCKS = re.compile(r"\b\d{1,2}:\d\d\b")


def _numbered_rows(
    text: str, separator: str, quote: str, places: Sequence[int], loose: bool
) -> list[tuple[int, list[str]]]:
    """The rows that have fields, each with the number of the line that it ends in.

    Raises
    ------
    ReadingError
        They cannot be told apart.
    """
    try:
        lines = io.StringIO(text, newline=None)
        return list(rows_of(lines, separator, quote, places, loose))
    except csv.Error as error:
        raise ReadingError(
            f"The first lines cannot be read as rows of fields ({error}). Save the data as CSV "
            "and open that."
        ) from error


def rows_of(
    text: Iterable[str], separator: str, quote: str, places: Sequence[int] = (), loose: bool = False
) -> Iterator[tuple[int, list[str]]]:
    """Rows of a delimited text that have fields, each with the number of the line it ends in."""
    if separator == BLANKS:
        ends = [*places[1:], None]
        for number, line in enumerate(text, 1):
            if line.strip():
                bare = line.rstrip("\r\n")
                cut = [bare[at:end].strip() for at, end in zip(places, ends, strict=False)]
                yield number, cut if places else line.split()
        return
    if quote:
        reader = csv.reader(text, delimiter=separator, quotechar=quote, skipinitialspace=loose)
    else:
        reader = csv.reader(text, delimiter=separator, quoting=csv.QUOTE_NONE)
    for row in reader:
        if row:
            yield reader.line_num, [field.strip() for field in row] if loose else row


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
    beneath = set(widths[1:])
    if beneath == {widths[0] + 1}:  # rows begin with names of their own
        return 1.0, -above, widths[0]
    return round(Counter(widths)[widths[0]] / len(widths), 1), -above, widths[0]
