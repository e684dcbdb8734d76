"""The format of a file, told from its first bytes whatever its name says."""

import codecs
import re
import zipfile
from typing import Literal

from rhabdos.data.files.opening import OpenFile
from rhabdos.data.limits import ReadingError
from rhabdos.quoting import file_named

Format = Literal[
    "text", "workbook", "flat workbook", "parquet", "arrow", "arrow stream", "avro", "json",
    "database", "page", "dbf", "array", "arrays",
]  # fmt: skip
FORMATS: dict[Format, str] = {
    "text": "delimited text",
    "workbook": "a workbook",
    "flat workbook": "a workbook",
    "parquet": "Parquet",
    "arrow": "Arrow",
    "arrow stream": "an Arrow stream",
    "avro": "Avro",
    "json": "JSON",
    "database": "an SQLite database",
    "page": "a web page",
    "dbf": "a DBF table",
    "array": "an array",
    "arrays": "arrays",
}
BOOKS: tuple[Format, ...] = ("workbook", "flat workbook")
WITH_PARTS: tuple[Format, ...] = ("database", "page", "arrays")
"""Formats of which a part is named as a table, and workbooks' sheets apart."""
READ_HERE = (
    "delimited text, XLSX, ODS, Parquet, Arrow, Avro, JSON, SQLite, DBF, HTML tables and NumPy "
    "arrays"
)
ENDINGS = (
    "csv", "tsv", "txt", "tab", "dat", "gz", "zst", "bz2", "xz", "zip", "xlsx", "xlsm", "xlsb",
    "xls", "ods", "fods", "parquet", "arrow", "feather", "ipc", "avro", "json", "jsonl", "ndjson",
    "geojson", "sqlite", "sqlite3", "db", "gpkg", "dbf", "html", "htm", "npy", "npz",
)  # fmt: skip

_OLE = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
_HEAD = 1 << 12  # bytes that tell what a file is
# What else comes under the name of a table, and what to do with it.
_OTHERS: tuple[tuple[bytes, str], ...] = (
    (b"%PDF", "a PDF, from which no table can be read"),
    (b"\x89PNG", "a picture"),
    (b"\xff\xd8\xff", "a picture"),
    (b"GIF8", "a picture"),
    (b"{\\rtf", "a formatted text"),
    (b"FEA1", "Feather of the first version, which is no longer written"),
    (b"7z\xbc\xaf", "an archive, which must be unpacked first"),
    (b"Rar!", "an archive, which must be unpacked first"),
    (b"PARE", "Parquet behind a password"),
    (b"ORC", "ORC, which is not read here"),
    (b"\x89HDF\r\n\x1a\n", "HDF5, which is not read here"),
    (b"CDF\x01", "NetCDF, which is not read here"),
    (b"CDF\x02", "NetCDF, which is not read here"),
)
_DUCKDB = b"DUCK"  # eight bytes behind its beginning
_OF_TEXTS = b"\t\n\r\f"  # what controls a page, and stands in texts
_OF_DBF = b"\x02\x03\x04\x05\x30\x31\x32\x43\x63\x83\x8b\x8c\xcb\xf5\xfb"


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
        (b"Obj\x01", "avro"),
        (b"SQLite format 3\x00", "database"),
        (b"\x93NUMPY", "array"),
        (_OLE, "workbook"),
    ):
        if begins(head, magic):
            return told  # type: ignore[return-value]
    if head.startswith(b"PK\x03\x04"):
        return _zipped(opened, name)
    for magic, what in _OTHERS:
        if begins(head, magic):
            raise _not_read(name, what)
    if begins(head[8:], _DUCKDB):
        raise _not_read(name, "a DuckDB database, which is not read here")
    if not _in_letters(head) and _is_dbf(head):
        return "dbf"
    text = _in_one_byte(head).lstrip(b"\xef\xbb\xbf \t\r\n")
    if re.match(rb"<(!doctype html|html|table|head|body|meta|style)\b", text, re.IGNORECASE):
        return "page"
    if text.startswith((b"<?xml", b"<office:document")):
        if b"<html" in text:
            return "page"
        if b"office:document" in text and b"opendocument" in text:
            return "flat workbook"
        raise _not_read(name, "XML")
    if re.match(rb"\[\s*[{\]\[]|\{\s*[\"}]", text) or (
        opened.path.suffix.lower() in (".json", ".jsonl", ".ndjson", ".geojson") and text
    ):
        return "json"
    return "text"


def _in_letters(head: bytes) -> bool:
    """Whether the first bytes are none but those of a text in one encoding or another: a row of
    names may begin with PAR1, ORCHARD or a digit as well as a file of columns does."""
    return not head.translate(None, _OF_TEXTS).translate(None, bytes(range(32, 256)))


def begins(head: bytes, magic: bytes) -> bool:
    """Whether a file begins with a mark, and not with a name written in the same letters."""
    return head.startswith(magic) and not (magic.isalnum() and _in_letters(head))


def _is_dbf(head: bytes) -> bool:
    """Whether a file begins as a DBF table does: a version, a date, and the length of its head,
    which ends with a mark."""
    if len(head) < 65 or head[0] not in _OF_DBF or not (head[2] <= 12 and head[3] <= 31):
        return False
    begin = int.from_bytes(head[8:10], "little")
    fields = head[32:begin]
    return begin >= 65 and int.from_bytes(head[10:12], "little") > 1 and b"\r" in fields[32:]


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
    """A workbook is a zip of parts, and so are several arrays."""
    names = zip_names(opened)
    if is_workbook(names):
        return "workbook"
    if is_arrays(names):
        return "arrays"
    raise _not_read(name, "an archive of files, which must be unpacked first")


def zip_names(opened: OpenFile) -> list[str]:
    """The names of the parts of a zip.

    Raises
    ------
    ReadingError
        It is damaged.
    """
    try:
        with zipfile.ZipFile(opened.stream()) as parts:
            return parts.namelist()
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError):
        raise ReadingError(
            f"{file_named(opened.path.name)} is not a text file, whatever its name says, and as a "
            "workbook or an archive it is cut short or damaged. Copy or download it again."
        ) from None


def is_workbook(names: list[str]) -> bool:
    """Whether the parts of a zip are those of a workbook."""
    return any(part.startswith("xl/") for part in names) or "content.xml" in names


def is_arrays(names: list[str]) -> bool:
    """Whether the parts of a zip are arrays."""
    return bool(names) and all(part.endswith(".npy") for part in names)
