"""A first look at a file before it is read: how it is told apart, and its first rows."""

from pathlib import Path

import msgspec
from msgspec import Struct

from rhabdos.data.columns import Column
from rhabdos.data.files.formats import BOOKS, FORMATS, WITH_PARTS, Format, format_of
from rhabdos.data.files.opening import OpenFile
from rhabdos.data.files.reading import opened_file
from rhabdos.data.reporting import silent
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table

ROWS = 40
_GLANCE = 400  # rows that are read anew at each change of how to read
_MOST_LETTERS = 100_000  # of a file without line ends


class Preview(Struct, frozen=True, eq=False):
    """What a file looks like.

    Attributes
    ----------
    format : Format
        Told from its contents.
    how : Read
        How it is read: as it was asked for, and as it was told from the file.
    parts : tuple of str
        The sheets of a workbook, or the tables of a database.
    columns : tuple of Column
        Of the first rows.
    remarks : tuple of str
        What reading them noticed.
    lines : tuple of str
        The first lines of a text, as they stand there.
    """

    format: Format
    how: Read
    parts: tuple[str, ...]
    columns: tuple[Column, ...]
    remarks: tuple[str, ...]
    lines: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """The format, in words."""
        return FORMATS[self.format]


def preview(path: Path, how: Read | None = None) -> Preview:
    """Look at a file, as it would be read.

    Raises
    ------
    ReadingError
        It cannot be read so.
    """
    with opened_file(path) as opened:
        told = format_of(opened)
        if told == "text":
            return _of_text(opened, how)
        table, parts = _with_parts(opened, told, how)
        chosen = how or Read()
        if told in BOOKS and chosen.sheet is None:
            chosen = msgspec.structs.replace(chosen, sheet=_chosen(table, parts))
        if told in WITH_PARTS and told != "arrays" and chosen.table is None:
            chosen = msgspec.structs.replace(chosen, table=_chosen(table, parts))
        return Preview(told, chosen, parts, table.columns, table.remarks)


def _with_parts(opened: OpenFile, told: Format, how: Read | None) -> tuple[Table, tuple[str, ...]]:
    """A table, and the sheets or tables that it is one of."""
    from rhabdos.data.files.reading import table_of

    if told == "workbook":
        from rhabdos.data.readers.sheets import read_book

        return read_book(opened, silent, how)
    if told == "flat workbook":
        from rhabdos.data.readers.sheets import read_flat_book

        return read_flat_book(opened, silent, how)
    if told == "page":
        from rhabdos.data.readers.pages import read_tables

        return read_tables(opened, silent, how)
    table, parts = table_of(opened, how=how), list[str]()
    if told == "database":
        from rhabdos.data.readers.database import database_tables

        parts = database_tables(opened)
    elif told == "arrays":
        from rhabdos.data.readers.arrays import array_names

        parts = array_names(opened)
    return table, tuple(parts)


def _chosen(table: Table, parts: tuple[str, ...]) -> str | None:
    """The part that was read: of several, the table is called by its name."""
    return table.name if table.name in parts else next(iter(parts), None)


def _of_text(opened: OpenFile, how: Read | None) -> Preview:
    """A text: only its beginning is read."""
    from rhabdos.data.fields.dialect import dialect_of
    from rhabdos.data.readers.delimited import first_rows
    from rhabdos.data.readers.plain_text import as_text

    text = as_text(opened, how)
    dialect = dialect_of(text.head, len(text.head.encode()) >= text.opened.size, how)
    table = first_rows(text, dialect, _GLANCE)
    told = Read(
        separator=dialect.separator,
        quote=dialect.quote,
        decimal="," if dialect.decimal_comma else ".",
        thousands=dialect.thousands,
        encoding=text.encoding,
        header=_header_of(dialect.skipped, dialect.header_rows),
        places=dialect.places,
    )
    lines = tuple(text.head[:_MOST_LETTERS].splitlines()[:ROWS])
    noticed = () if how is not None and how.header is not None else dialect.remarks
    remarks = (*text.remarks, *noticed, *table.remarks)
    return Preview("text", told, (), table.columns, remarks, lines)


def _header_of(skipped: int, header_rows: int) -> int | None:
    """The line that holds the names, as it is asked for; two rows of names have none."""
    return None if header_rows > 1 else skipped + 1 if header_rows else 0
