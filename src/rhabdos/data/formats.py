"""The format of a file, told from its first bytes whatever its name says."""

import codecs
import re
import zipfile
from typing import Literal

from rhabdos.data.dialect import ReadingError
from rhabdos.data.opening import OpenFile
from rhabdos.quoting import file_named

Format = Literal["text", "workbook", "parquet", "arrow", "arrow stream", "json", "database"]
FORMATS: dict[Format, str] = {
    "text": "delimited text",
    "workbook": "a workbook",
    "parquet": "Parquet",
    "arrow": "Arrow",
    "arrow stream": "an Arrow stream",
    "json": "JSON",
    "database": "an SQLite database",
}
READ_HERE = "delimited text, XLSX, ODS, Parquet, Arrow, JSON and SQLite"
ENDINGS = (
    "csv", "tsv", "txt", "tab", "dat", "gz", "zst", "xlsx", "xlsm", "ods", "parquet", "arrow",
    "feather", "ipc", "json", "jsonl", "ndjson", "sqlite", "sqlite3", "db",
)  # fmt: skip

_OLE = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
_HEAD = 1 << 12
# What else comes under the name of a table, and what to do with it.
_OTHERS: tuple[tuple[bytes, str], ...] = (
    (b"%PDF", "a PDF, from which no table can be read"),
    (b"\x89PNG", "a picture"),
    (b"\xff\xd8\xff", "a picture"),
    (b"GIF8", "a picture"),
    (b"{\\rtf", "a formatted text"),
    (b"FEA1", "Feather of the first version, which is no longer written"),
    (b"BZh", "compressed by bzip2, which must be unpacked first"),
    (b"\xfd7zXZ", "compressed by xz, which must be unpacked first"),
    (b"7z\xbc\xaf", "an archive, which must be unpacked first"),
    (b"Rar!", "an archive, which must be unpacked first"),
    (b"PARE", "Parquet behind a password"),
)


def format_of(opened: OpenFile) -> Format:
    """Tell the format of a file.

    Raises
    ------
    ReadingError
        It is of none that is read here.
    """
    head = opened.head(_HEAD)
    name = file_named(opened.path.name)
    for magic, told in (
        (b"PAR1", "parquet"),
        (b"ARROW1", "arrow"),
        (b"\xff\xff\xff\xff", "arrow stream"),
        (b"SQLite format 3\x00", "database"),
        (_OLE, "workbook"),
    ):
        if head.startswith(magic):
            return told  # type: ignore[return-value]
    if head.startswith(b"PK\x03\x04"):
        return _zipped(opened, name)
    for magic, what in _OTHERS:
        if head.startswith(magic):
            raise _not_read(name, what)
    text = _in_one_byte(head).lstrip(b"\xef\xbb\xbf \t\r\n")
    if re.match(rb"<(!doctype html|html|table|head|body|meta|style)\b", text, re.IGNORECASE):
        raise ReadingError(
            f"{name} is a web page, whatever its name says. Open it in a spreadsheet, save it as "
            "XLSX or CSV, and open that."
        )
    if text.startswith(b"<?xml"):
        raise _not_read(name, "XML")
    if re.match(rb"\[\s*[{\]]|\{\s*[\"}]", text) or (
        opened.path.suffix.lower() in (".json", ".jsonl", ".ndjson") and text
    ):
        return "json"
    return "text"


def _in_one_byte(head: bytes) -> bytes:
    """The first letters, where each takes two or four bytes."""
    if head.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return head.translate(None, b"\xff\xfe\x00")
    return head


def _not_read(name: str, what: str) -> ReadingError:
    return ReadingError(
        f"{name} is {what}, whatever its name says. Rhabdos reads {READ_HERE}: save the data as "
        "one of these."
    )


def _zipped(opened: OpenFile, name: str) -> Format:
    """A workbook is a zip of parts."""
    try:
        with zipfile.ZipFile(opened.stream()) as parts:
            names = parts.namelist()
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError):
        raise ReadingError(
            f"{name} is not a text file, whatever its name says, and as a workbook it is cut short "
            "or damaged. Copy or download it again."
        ) from None
    if any(part.startswith("xl/") for part in names) or "content.xml" in names:
        return "workbook"
    raise _not_read(name, "an archive of files, which must be unpacked first")
