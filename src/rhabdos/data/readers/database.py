"""Read a table or a view of an SQLite database."""

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from typing import TYPE_CHECKING, Any
from urllib.parse import quote

import numpy as np

from rhabdos.data.dialect import ReadingError
from rhabdos.data.gathering import Report
from rhabdos.data.names import unique_names
from rhabdos.data.opening import OpenFile, table_name
from rhabdos.data.readers.frames import frame_columns
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.errors import Cancelled
from rhabdos.quoting import file_named, listed, quoted, shortened_to

if TYPE_CHECKING:
    import polars as pl

_BATCH = 50_000
_PATIENCE = 2.0  # seconds that a database in use is waited for
_BEAT = 100_000  # steps of the database's machine between looks whether the user has stopped it


def read_database(opened: OpenFile, report: Report, how: Read | None = None) -> Table:
    """Read the table or view that ``how`` names, else the first one that has rows.

    Raises
    ------
    ReadingError
        The database is damaged or in use, or has no such table.
    """
    name = file_named(opened.path.name)
    with _connected(opened, name, report) as database:
        there = tables_of(database)
        if not there:
            raise ReadingError(f"{name} holds no table and no view. Choose another file.")
        asked = how.table if how else None
        if asked is not None and asked not in there:
            raise ReadingError(f"{name} has no table {quoted(asked)}. It has {listed(there)}.")
        chosen = asked or next((table for table in there if _has_rows(database, table)), there[0])
        frame = _frame(database, chosen, report)
        columns, remarks = frame_columns(frame, f"Table {quoted(chosen)} of {name}", report)
    if asked is None and len(there) > 1:
        remarks.insert(
            0, f"{name} holds {len(there):,} tables and views; {quoted(chosen)} was read."
        )
    title = chosen if len(there) > 1 else table_name(opened.path)
    return Table(shortened_to(200, title), columns, tuple(remarks))


def database_tables(opened: OpenFile) -> list[str]:
    """The tables and views of a database, by name."""
    with _connected(opened, file_named(opened.path.name), lambda _stage, _share: None) as database:
        return tables_of(database)


@contextmanager
def _connected(opened: OpenFile, name: str, report: Report) -> Iterator[sqlite3.Connection]:
    """The database, for reading only; its faults are told in sentences."""
    stopped: list[Cancelled] = []

    def beat() -> int:
        """Whether to stop: called by the database while it works."""
        try:
            report(f"Reading {name}", None)
        except Cancelled as cancelled:
            stopped.append(cancelled)
            return 1
        return 0

    try:
        with closing(_open(opened)) as database:
            database.text_factory = _text_of
            database.set_progress_handler(beat, _BEAT)
            yield database
    except sqlite3.Error as error:
        if stopped:
            raise Cancelled from None
        if "locked" in str(error) or "busy" in str(error):
            raise ReadingError(
                f"{name} is in use by another program, which is writing to it. Close that, or wait "
                "a moment, and open it again."
            ) from error
        raise ReadingError(
            f"{name} cannot be read as a database ({shortened_to(80, str(error))}). It may be "
            "damaged or cut short; copy it again."
        ) from error


def _open(opened: OpenFile) -> sqlite3.Connection:
    if opened.on_disk:
        path = quote(str(opened.path.absolute()))
        return sqlite3.connect(
            f"file:{path}?mode=ro", uri=True, timeout=_PATIENCE, check_same_thread=False
        )
    database = sqlite3.connect(":memory:", check_same_thread=False)
    database.deserialize(opened.whole())
    return database


def _text_of(stored: bytes) -> str:
    return stored.decode("utf-8", errors="replace")


def tables_of(database: sqlite3.Connection) -> list[str]:
    """The tables, then the views, in the order in which they were made."""
    rows = database.execute(
        "SELECT name FROM sqlite_master WHERE type IN ('table', 'view') "
        "AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY type, rowid"
    )
    return [name for (name,) in rows]


def _identifier(table: str) -> str:
    return '"' + table.replace('"', '""') + '"'


def _has_rows(database: sqlite3.Connection, table: str) -> bool:
    return database.execute(f"SELECT 1 FROM {_identifier(table)} LIMIT 1").fetchone() is not None


def _frame(database: sqlite3.Connection, table: str, report: Report) -> "pl.DataFrame":
    import polars as pl

    cursor = database.execute(f"SELECT * FROM {_identifier(table)}")
    names = [column[0] for column in cursor.description]
    parts: list[list[_Part]] = [[] for _ in names]
    done = 0
    while rows := cursor.fetchmany(_BATCH):
        for part, values in zip(parts, zip(*rows, strict=True), strict=True):
            part.append(_part(values))
        done += len(rows)
        report(f"Reading {shortened_to(60, table)}, {done:,} rows so far", None)
    if not done:
        return pl.DataFrame()
    # Names may come twice in a view; they are told apart with those of all other formats.
    series = [_joined(part).alias(f"{at}") for at, part in enumerate(parts)]
    frame = pl.DataFrame(series)
    frame.columns = unique_names(tuple(names), len(names))[0]
    return frame


_Part = tuple[str, Any]  # "number", "text" or "none", and the values


def _part(values: tuple[Any, ...]) -> _Part:
    """A batch of one column: numbers as an array, anything else as it came."""
    kinds = {type(value) for value in values} - {type(None)}
    if not kinds:
        return "none", len(values)
    if kinds == {float} or (kinds <= {int, float} and all(abs(v or 0) <= 1 << 53 for v in values)):
        return "number", np.array([np.nan if v is None else v for v in values], dtype=np.float64)
    return "text", [_as_text(value) for value in values]


def _as_text(value: Any) -> str | None:
    if value is None or isinstance(value, str):
        return value
    return value.hex() if isinstance(value, bytes) else f"{value}"


def _joined(parts: list[_Part]) -> "pl.Series":
    """All batches of a column; numbers among texts become texts, as they are written."""
    import polars as pl

    if any(kind == "text" for kind, _ in parts):
        pieces = [pl.Series("", _texts(part), dtype=pl.String) for part in parts]
    else:
        pieces = [
            pl.Series("", values if kind == "number" else [None] * values, dtype=pl.Float64)
            for kind, values in parts
        ]
        pieces = [piece.fill_nan(None) for piece in pieces]
    return pl.concat(pieces)


def _texts(part: _Part) -> list[str | None]:
    kind, values = part
    if kind == "none":
        return [None] * values
    if kind == "text":
        return list(values)
    return [None if np.isnan(v) else f"{v:.15g}" if v != round(v) else f"{int(v)}" for v in values]
