"""A text on disk, written anew there so that a library can part its fields."""

import codecs
import csv
import io
from pathlib import Path

from rhabdos.data.fields.dialect import Dialect, rows_of
from rhabdos.data.files.encodings import encoding_of
from rhabdos.data.files.opening import OpenFile
from rhabdos.data.readers.plain_text import not_in, text_of
from rhabdos.data.readers.uneven import parted_by_tabs
from rhabdos.data.reporting import Report
from rhabdos.quoting import file_named

_LETTERS = 1 << 20  # that are read and written at a time
_ROWS = 500_000  # between two looks at whether to stop


def encoding_of_all(opened: OpenFile, report: Report) -> tuple[str, bool]:
    """The encoding of a text whose first bytes are UTF-8, and whether it was guessed, since later
    bytes are not."""
    report("Looking at how it is written", None)
    name = file_named(opened.path.name)
    decoder = codecs.getincrementaldecoder("utf-8")()
    stream = opened.stream()
    before = b""
    while True:
        piece = stream.read(_LETTERS)
        try:
            decoder.decode(piece, final=not piece)
        except UnicodeDecodeError:
            return encoding_of(before + piece, name)
        if not piece:
            return "utf-8", False
        before = piece


def in_utf8(opened: OpenFile, encoding: str, errors: str, there: Path, report: Report) -> Path:
    """The text written in UTF-8, with the line ends of today."""
    reader = io.TextIOWrapper(opened.stream(), encoding, errors, newline=None)
    try:
        with there.open("w", encoding="utf-8-sig", newline="") as file:
            while letters := reader.read(_LETTERS):
                report("Writing it in UTF-8", None)
                file.write(letters)
    except (UnicodeDecodeError, UnicodeError):
        raise not_in(encoding, file_named(opened.path.name)) from None
    finally:
        reader.detach()
    return there


def with_tabs(source: Path, dialect: Dialect, there: Path, report: Report) -> tuple[Path, Dialect]:
    """The same rows with tabs between fields that are parted in a way that the library lacks."""
    how = dialect.separator, dialect.quote, dialect.places, dialect.loose_quotes
    with (
        OpenFile.open(source) as opened,
        text_of(opened) as lines,
        there.open("w", encoding="utf-8", newline="") as file,
    ):
        writer = csv.writer(file, delimiter="\t", lineterminator="\n")
        for number, (line, row) in enumerate(rows_of(lines, *how)):
            if number % _ROWS == 0:
                report(f"Parting the fields of {number:,} rows", None)
            if line > dialect.above_names:
                writer.writerow(row)
    return there, parted_by_tabs(dialect)
