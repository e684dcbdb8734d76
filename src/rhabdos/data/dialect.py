"""How a text file is written: its encoding, separator, decimal mark and header."""

import codecs
import csv
import io
import re
from collections import Counter

from msgspec import Struct

from rhabdos.errors import Refusal
from rhabdos.quoting import listed

SEPARATORS = {",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars"}
_HEAD_LINES = 200
MOST_COLUMNS = 50_000
LONGEST_NAME = 1_000
"""Letters of a variable's name, and of a level of a factor."""
_ENOUGH_TO_GUESS = 24


class ReadingError(Refusal):
    """A file cannot be read as a table."""


class Dialect(Struct, frozen=True):
    """How the fields of a delimited text are told apart.

    Attributes
    ----------
    separator : str
        One character.
    decimal_comma : bool
        Whether "3,5" means three and a half.
    header : tuple of str
        The names in the first row, or empty where the first row already holds values.
    fields : int
        Number of fields in the first row.
    """

    separator: str
    decimal_comma: bool
    header: tuple[str, ...]
    fields: int


def encoding_of(head: bytes, name: str) -> tuple[str, bool]:
    """Tell a text's encoding from its first bytes, and whether it had to be guessed.

    Raises
    ------
    ReadingError
        The bytes are no text.
    """
    for mark, encoding in (
        (codecs.BOM_UTF8, "utf-8-sig"),
        (codecs.BOM_UTF32_LE, "utf-32"),
        (codecs.BOM_UTF32_BE, "utf-32"),
        (codecs.BOM_UTF16_LE, "utf-16"),
        (codecs.BOM_UTF16_BE, "utf-16"),
    ):
        if head.startswith(mark):
            return encoding, False
    if (
        head.startswith(
            (b"PK\x03\x04", b"\x1f\x8b", b"PAR1", b"SQLite format 3", b"%PDF", b"\x89PNG")
        )
        or b"\x00" in head
    ):
        raise ReadingError(
            f"{name} is not a text file, whatever its name says. "
            "Rhabdos reads delimited text (CSV, TSV): save the data as CSV and open that."
        )
    try:
        codecs.getincrementaldecoder("utf-8")().decode(head)
    except UnicodeDecodeError:
        return _guessed_encoding(head, name), True
    return "utf-8", False


def _guessed_encoding(head: bytes, name: str) -> str:
    import charset_normalizer  # only for the rare file that is not UTF-8

    control = sum(byte < 32 and byte not in b"\t\n\r\f" for byte in head)
    best = charset_normalizer.from_bytes(head).best()
    if control > len(head) // 100 or best is None:
        raise ReadingError(
            f"{name} is not readable as text in any common encoding. Save it as CSV in UTF-8 and "
            "open that."
        )
    # A guess from a few odd bytes is no better than chance; the Windows code page is by far the
    # most common one.
    odd = sum(byte > 127 for byte in head)
    return "cp1252" if odd < _ENOUGH_TO_GUESS and _decodes(head, "cp1252") else best.encoding


def _decodes(head: bytes, encoding: str) -> bool:
    try:
        head.decode(encoding)
    except UnicodeDecodeError:
        return False
    return True


def dialect_of(head: str, whole: bool) -> Dialect:
    """Tell the dialect from the first part of a text.

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
    text = "".join(lines[:_HEAD_LINES])
    separator = max(
        SEPARATORS, key=lambda mark: (_agreement(text, mark), -list(SEPARATORS).index(mark))
    )
    if _agreement(text, separator) == (0.0, 0):
        separator = ","
    try:
        rows = _rows(text, separator)
    except csv.Error as error:
        raise ReadingError(
            f"The first lines cannot be read as rows of fields ({error}). Save the data as CSV "
            "and open that."
        ) from error
    first = rows[0] if rows else []
    fields = [field for row in rows[1:] for field in row]
    with_comma = sum(bool(_COMMA_NUMBER.fullmatch(field.strip())) for field in fields)
    with_point = sum(bool(_POINT_NUMBER.fullmatch(field.strip())) for field in fields)
    decimal_comma = separator != "," and with_comma > with_point
    if (
        separator == ","
        and len(first) == 1
        and rows[1:]
        and all(_COMMA_NUMBER.fullmatch(",".join(row)) for row in rows[1:])
    ):
        separator, decimal_comma = ";", True  # one column of decimal commas, not two columns
    header = (
        () if first and all(_is_number(field, decimal_comma) for field in first) else tuple(first)
    )
    return Dialect(separator, decimal_comma, header, len(first))


_COMMA_NUMBER = re.compile(r"[-+]?\d+,\d+")
_POINT_NUMBER = re.compile(r"[-+]?\d+\.\d+")


def _rows(text: str, separator: str) -> list[list[str]]:
    return [row for row in csv.reader(io.StringIO(text, newline=None), delimiter=separator) if row]


def _agreement(text: str, separator: str) -> tuple[float, int]:
    """Share of rows with as many fields as the first row, and that number; (0, 0) where it divides
    nothing."""
    try:
        widths = [len(row) for row in _rows(text, separator)]
    except csv.Error:
        return 0.0, 0
    if not widths or widths[0] < 2:
        return 0.0, 0
    return round(Counter(widths)[widths[0]] / len(widths), 1), widths[0]


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
