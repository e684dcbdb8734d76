"""Formulas of a sheet that have no value, which the library that reads cells takes for blanks."""

import io
import re
import zipfile
import zlib
from collections.abc import Iterator

from msgspec import Struct

_PIECE = 1 << 20  # bytes unpacked at a time
_OVERLAP = 4_096  # bytes, longer than any cell without a result
_ERROR = re.compile(
    rb'<c r="([A-Z]{1,3})(\d{1,7})"[^>]*?\bt="e"[^>]*>(?:<f[^>]*/>|<f[^>]*>[^<]*</f>)?'
    rb"<v>(#[^<]{1,12})</v>"
)
# Of a formula that nobody has worked out: a text may be its result, and empty.
_NO_RESULT = re.compile(
    rb'<c r="([A-Z]{1,3})(\d{1,7})"(?![^>]*\bt="str")[^>]*>(?:<f[^>]*/>|<f[^>]*>[^<]*</f>)'
    rb"(?:<v ?/>|<v></v>)?</c>"
)


class Formulas(Struct, frozen=True):
    """Cells of a sheet, by row and column from 0, in which a formula stands without a value.

    A person who looks at the sheet sees more than a blank there.

    Attributes
    ----------
    errors : list of (row, column, word)
        What says that there can be none, such as "#DIV/0!".
    without : list of (row, column)
        What no spreadsheet has worked out, as programs write it that only write.
    """

    errors: list[tuple[int, int, str]] = []
    without: list[tuple[int, int]] = []


def formulas_of(content: bytes, sheet: int) -> Formulas:
    """The formulas without a value of a sheet of XLSX; of other workbooks none are known."""
    errors, without = set[tuple[bytes, bytes, bytes]](), set[tuple[bytes, bytes]]()
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as parts:
            for piece in _pieces(parts, _part_of_sheet(parts, sheet)):
                errors.update(_ERROR.findall(piece))
                without.update(_NO_RESULT.findall(piece) if b"<f" in piece else ())
    except (zipfile.BadZipFile, KeyError, OSError, ValueError, NotImplementedError, zlib.error):
        return Formulas()
    places = [(int(row) - 1, column_number(column.decode())) for column, row in without]
    return Formulas(
        [
            (int(row) - 1, column_number(column.decode()), word.decode("utf-8", "replace"))
            for column, row, word in errors
        ],
        sorted(places),
    )


def _pieces(parts: zipfile.ZipFile, part: str | None) -> Iterator[bytes]:
    """A part of a workbook piece by piece, each with the end of the one before it."""
    if part is None:
        return
    before = b""
    with parts.open(part) as unpacked:
        while piece := unpacked.read(_PIECE):
            whole = before + piece
            yield whole
            before = whole[-_OVERLAP:]


def _part_of_sheet(parts: zipfile.ZipFile, sheet: int) -> str | None:
    names = parts.namelist()
    if "xl/workbook.xml" not in names or "xl/_rels/workbook.xml.rels" not in names:
        return None
    ids = re.findall(rb'<(?:\w+:)?sheet\b[^>]*?r:id="([^"]+)"', parts.read("xl/workbook.xml"))
    relations = parts.read("xl/_rels/workbook.xml.rels")
    if sheet >= len(ids):
        return None
    for relation in re.findall(rb"<(?:\w+:)?Relationship\b[^>]*>", relations):
        if b'Id="' + ids[sheet] + b'"' in relation:
            target = re.search(rb'Target="([^"]+)"', relation)
            if target:
                path = target[1].decode().lstrip("/")
                return path if path.startswith("xl/") else f"xl/{path}"
    return None


def column_number(letters: str) -> int:
    """A column as sheets call it, counted from 0: AB is 27."""
    number = 0
    for letter in letters.upper():
        number = number * 26 + ord(letter) - 64
    return number - 1


def column_letters(column: int) -> str:
    """A column counted from 0 as sheets call it: 27 is AB."""
    letters = ""
    while column >= 0:
        letters = chr(65 + column % 26) + letters
        column = column // 26 - 1
    return letters
