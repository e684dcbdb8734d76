"""Read a file into a table, whatever its format."""

import os
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from importlib import import_module
from pathlib import Path

from msgspec import structs

from rhabdos.data.files.formats import Format, format_of
from rhabdos.data.files.opening import OpenFile
from rhabdos.data.files.unpacking import unpacked
from rhabdos.data.limits import ReadingError
from rhabdos.data.reporting import Report, silent
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.quoting import file_named, shortened_to

Reader = Callable[[OpenFile, Report, Read | None], Table]


def read_table(
    path: str | os.PathLike[str], report: Report = silent, how: Read | None = None
) -> Table:
    """Read a table of any format that is known: see `docs/formats.md`.

    The format is told from the contents, whatever the name says, and what ``how`` does not say is
    told from the file. It is opened once, and its path is taken as a name only.

    Raises
    ------
    ReadingError
        The file is missing, may not be read, is of no format that is known, or holds no rows.
    Cancelled
        From ``report``.
    """
    file = Path(path)
    report(f"Opening {shortened_to(60, file.name)}", 0.0)
    with opened_file(file, report) as opened:
        return table_of(opened, report, how)


@contextmanager
def opened_file(path: Path, report: Report = silent) -> Iterator[OpenFile]:
    """A file that is open and unpacked, whose faults are told in sentences."""
    with ExitStack() as closing:
        try:
            opened = closing.enter_context(
                OpenFile.open(path, beat=lambda: report("Reading a pipe", None))
            )
            plain = unpacked(opened, report)
            if plain is not opened:
                closing.enter_context(plain)
            yield plain
        except FileNotFoundError:
            raise ReadingError(
                f"There is no file {file_named(path)}. Check the name, or whether it was moved."
            ) from None
        except PermissionError:
            raise ReadingError(
                f"{file_named(path)} may not be read by you. Ask its owner for permission, or open "
                "a copy."
            ) from None
        except OSError as error:
            raise ReadingError(
                f"{file_named(path)} could not be read: {error.strerror or error}. Try again, or "
                "copy it elsewhere first."
            ) from error


def table_of(opened: OpenFile, report: Report = silent, how: Read | None = None) -> Table:
    """The table in a file that is open.

    Raises
    ------
    ReadingError
        It cannot be read, or it changed meanwhile; or there is too little memory for it.
    """
    try:
        table = _reader(format_of(opened))(opened, report, how)
    except MemoryError:
        raise ReadingError(
            f"There is too little memory for {file_named(opened.path.name)}. Close other programs, "
            "or take a part of its rows or columns."
        ) from None
    except Refusal:
        opened.grown()  # a file that is cut meanwhile is told as such
        raise
    except BaseException as error:  # a library's own way to say that it cannot go on
        if type(error).__name__ != "PanicException":
            raise
        opened.grown()
        raise ReadingError(
            f"{file_named(opened.path.name)} cannot be read: it is damaged, or written in a way "
            f"that is not read here ({shortened_to(80, str(error))}). Copy or write it again."
        ) from error
    told = opened.grown()
    return structs.replace(table, remarks=(*table.remarks, told)) if told else table


def _reader(told: Format) -> Reader:
    """What reads a format; imported when a file of it is first opened."""
    module, name = _READERS[told]
    read: Reader = getattr(import_module(f"rhabdos.data.readers.{module}"), name)
    return read


_READERS: dict[Format, tuple[str, str]] = {
    "text": ("delimited", "read_delimited"),
    "workbook": ("sheets", "read_sheet"),
    "flat workbook": ("sheets", "read_flat"),
    "parquet": ("columnar", "read_columns"),
    "arrow": ("columnar", "read_columns"),
    "arrow stream": ("columnar", "read_columns"),
    "avro": ("columnar", "read_columns"),
    "json": ("records", "read_records"),
    "database": ("database", "read_database"),
    "page": ("pages", "read_page"),
    "dbf": ("dbf_file", "read_dbf"),
    "array": ("arrays", "read_array"),
    "arrays": ("arrays", "read_arrays"),
}
