"""Read a table or a view of an SQLite database, or a layer of a GeoPackage, which is one."""

import os
import sqlite3
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager
from typing import TYPE_CHECKING, Any
from urllib.parse import quote

from rhabdos.data.fields.names import unique_names
from rhabdos.data.files.opening import OpenFile, table_name
from rhabdos.data.limits import MOST_COLUMNS, ReadingError
from rhabdos.data.readers.frames import frame_columns
from rhabdos.data.reporting import Report
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.errors import Cancelled
from rhabdos.quoting import file_named, listed, quoted, shortened_to
from rhabdos.wording import counted

if TYPE_CHECKING:
    import polars as pl

_BATCH_CELLS = 1_000_000  # read between two looks at whether to stop
_MOST_ROWS = 50_000_000  # of a table
_MOST_OF_VIEW = 5_000_000  # rows; a view may be without end
_MOST_BYTES = 2 << 30  # of texts
LONGEST_VALUE = 16 << 20
_LONGEST_SILENCE = 15.0  # seconds without a row after which a view is given up
_PATIENCE = 2.0  # seconds that a database in use is waited for
_BEAT = 100_000  # steps of the database's machine between looks whether the user has stopped it


def read_database(opened: OpenFile, report: Report, how: Read | None = None) -> Table:
    """Read the table or view that ``how`` names, else the first one that has rows.

    Raises
    ------
    ReadingError
        The database is damaged or in use, or has no such table; or there is more in it than can be
        read.
    """
    name = file_named(opened.path.name)
    with _connected(opened, name, report) as base:
        there = tables_of(base.database)
        if not there:
            raise ReadingError(f"{name} holds no table and no view. Choose another file.")
        wanted = how.table if how else None
        if wanted is not None and wanted not in there:
            raise ReadingError(f"{name} has no table {quoted(wanted)}. It has {listed(there)}.")
        chosen = wanted or next((t for t in there if _has_rows(base.database, t)), there[0])
        called = f"Table {quoted(chosen)} of {name}"
        frame, left_out = _frame(base, chosen, called, report)
        columns, remarks = frame_columns(frame, called, report)
    if left_out:
        shapes = counted(len(left_out), "column of shapes", "columns of shapes")
        remarks.insert(0, f"{shapes} stayed out: {listed(left_out)}.")
    if wanted is None and len(there) > 1:
        remarks.insert(
            0, f"{name} holds {len(there):,} tables and views; {quoted(chosen)} was read."
        )
    title = chosen if len(there) > 1 else table_name(opened.path)
    return Table(shortened_to(200, title), columns, tuple(remarks))


def database_tables(opened: OpenFile) -> list[str]:
    """The tables and views of a database, by name."""
    with _connected(opened, file_named(opened.path.name), lambda _stage, _share: None) as base:
        return tables_of(base.database)


class _Base:
    """A database that is open, and when it last gave something."""

    def __init__(self, database: sqlite3.Connection) -> None:
        self.database = database
        self.heard = time.monotonic()


@contextmanager
def _connected(opened: OpenFile, name: str, report: Report) -> Iterator[_Base]:
    """The database, for reading only and within limits; its faults are told in sentences."""
    stopped: list[Cancelled] = []
    silent = False
    try:
        with closing(_open(opened)) as database:
            base = _Base(database)

            def beat() -> int:
                """Whether to stop: called by the database while it works."""
                nonlocal silent
                try:
                    report(f"Reading {name}", None)
                except Cancelled as cancelled:
                    stopped.append(cancelled)
                    return 1
                silent = time.monotonic() - base.heard > _LONGEST_SILENCE
                return int(silent)

            database.text_factory = _text_of
            database.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, LONGEST_VALUE)
            database.set_progress_handler(beat, _BEAT)
            yield base
    except (sqlite3.Error, sqlite3.Warning, UnicodeError) as error:
        if stopped:
            raise Cancelled from None
        if silent:
            raise ReadingError(
                f"{name} gave no row within {_LONGEST_SILENCE:.0f} seconds, so reading was "
                "stopped. A view may be without end; choose another table."
            ) from None
        raise _fault(name, error) from error


def _fault(name: str, error: Exception) -> ReadingError:
    said = str(error)
    if "locked" in said or "busy" in said:
        return ReadingError(
            f"{name} is in use by another program, which is writing to it. Close that, or wait "
            "a moment, and open it again."
        )
    if "too big" in said:
        return ReadingError(
            f"{name} holds a value of more than {LONGEST_VALUE >> 20} MiB, which is no number and "
            "no name. Make a view without that column, and open it."
        )
    return ReadingError(
        f"{name} cannot be read as a database ({shortened_to(80, said)}). It may be "
        "damaged or cut short; copy it again."
    )


def _open(opened: OpenFile) -> sqlite3.Connection:
    if opened.on_disk:
        path = quote(os.fsencode(opened.path.absolute()))
        return sqlite3.connect(
            f"file:{path}?mode=ro", uri=True, timeout=_PATIENCE, check_same_thread=False
        )
    database = sqlite3.connect(":memory:", check_same_thread=False)
    database.deserialize(opened.whole())
    return database


def _text_of(stored: bytes) -> str:
    return stored.decode("utf-8", errors="replace")


def tables_of(database: sqlite3.Connection) -> list[str]:
    """The tables, then the views, in the order in which they were made; of a GeoPackage, what its
    table of contents lists."""
    if _is_geopackage(database):
        rows = database.execute(
            "SELECT table_name FROM gpkg_contents WHERE data_type IN ('features', 'attributes') "
            "ORDER BY rowid"
        )
        return [str(name) for (name,) in rows]
    rows = database.execute(
        "SELECT name FROM sqlite_master WHERE type IN ('table', 'view') "
        "AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY type, rowid"
    )
    return [name for (name,) in rows]


def _is_geopackage(database: sqlite3.Connection) -> bool:
    return _has_table(database, "gpkg_contents")


def _has_table(database: sqlite3.Connection, name: str) -> bool:
    wanted = "SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = ?"
    return database.execute(wanted, (name,)).fetchone() is not None


def _shapes(database: sqlite3.Connection, table: str) -> list[str]:
    """The columns of a GeoPackage's layer that hold shapes."""
    if not (_is_geopackage(database) and _has_table(database, "gpkg_geometry_columns")):
        return []
    wanted = "SELECT column_name FROM gpkg_geometry_columns WHERE table_name = ?"
    return [str(name) for (name,) in database.execute(wanted, (table,))]


def _identifier(table: str) -> str:
    return '"' + table.replace('"', '""') + '"'


def _has_rows(database: sqlite3.Connection, table: str) -> bool:
    return database.execute(f"SELECT 1 FROM {_identifier(table)} LIMIT 1").fetchone() is not None


def _frame(
    base: _Base, table: str, called: str, report: Report
) -> "tuple[pl.DataFrame, list[str]]":
    """The rows of a table, and the columns of shapes that were left out."""
    import polars as pl

    database = base.database
    shapes = _shapes(database, table)
    cursor = database.execute(f"SELECT * FROM {_identifier(table)}")
    names = [column[0] for column in cursor.description]
    kept = [at for at, name in enumerate(names) if name not in shapes]
    if len(kept) > MOST_COLUMNS:
        raise ReadingError(
            f"{called} has {len(kept):,} columns; at most {MOST_COLUMNS:,} are read."
        )
    view = database.execute("SELECT type FROM sqlite_master WHERE name = ?", (table,)).fetchone()
    most = _MOST_OF_VIEW if view and view[0] == "view" else _MOST_ROWS
    parts: list[list[pl.Series]] = [[] for _ in kept]
    done = size = 0
    while rows := cursor.fetchmany(max(1, _BATCH_CELLS // len(names))):
        base.heard = time.monotonic()
        columns = list(zip(*rows, strict=True))
        for part, at in zip(parts, kept, strict=True):
            part.append(_part(columns[at]))
            size += int(part[-1].estimated_size()) if part[-1].dtype == pl.String else 0
        done += len(rows)
        if done > most or size > _MOST_BYTES:
            limit = f"{most:,} rows" if done > most else f"{_MOST_BYTES >> 30} GiB of text"
            raise ReadingError(
                f"{called} holds more than {limit}, and a view may be without end. Choose another "
                "one, or make one of the rows that you need."
            )
        report(f"Reading {shortened_to(60, table)}, {done:,} rows so far", None)
    left_out = [name for name in names if name in shapes]
    if not done:
        return pl.DataFrame(), left_out
    # Names may come twice in a view; they are told apart with those of all other formats.
    frame = pl.DataFrame([_joined(part).alias(f"{at}") for at, part in enumerate(parts)])
    frame.columns = unique_names(tuple(names[at] for at in kept), len(kept))[0]
    return frame, left_out


def _part(values: tuple[Any, ...]) -> "pl.Series":
    """A batch of one column: whole numbers, numbers, nothing, or anything else as text."""
    import polars as pl

    kinds = {type(value) for value in values} - {type(None)}
    if not kinds:
        return pl.Series(values, dtype=pl.Null)
    if kinds == {int}:
        return pl.Series(values, dtype=pl.Int64)
    if kinds <= {int, float}:
        return pl.Series(values, dtype=pl.Float64, strict=False)
    if kinds == {bytes}:
        return pl.Series(values, dtype=pl.Binary)
    return pl.Series([_as_text(value) for value in values], dtype=pl.String)


def _as_text(value: Any) -> str | None:
    if value is None or isinstance(value, str):
        return value
    return f"0x{value.hex()}" if isinstance(value, bytes) else f"{value}"


def _joined(parts: "list[pl.Series]") -> "pl.Series":
    """All batches of a column; numbers among texts become texts, as they are written."""
    import polars as pl

    kinds = {part.dtype for part in parts}
    if pl.Binary in kinds:
        if kinds <= {pl.Binary, pl.Null}:
            return pl.concat([part.cast(pl.Binary) for part in parts])
        parts = [
            pl.Series(map(_as_text, part), dtype=pl.String) if part.dtype == pl.Binary else part
            for part in parts
        ]
    if pl.String in kinds:
        return pl.concat([_texts(part) for part in parts])
    kind = pl.Float64 if pl.Float64 in kinds or pl.Int64 not in kinds else pl.Int64
    return pl.concat([part.cast(kind) for part in parts])


def _texts(part: "pl.Series") -> "pl.Series":
    import polars as pl

    if part.dtype != pl.Float64:
        return part.cast(pl.String)
    texts = [
        None if value is None else f"{value:.15g}" if value != round(value) else f"{int(value)}"
        for value in part.to_list()
    ]
    return pl.Series(texts, dtype=pl.String)
