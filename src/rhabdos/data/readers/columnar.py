"""Read Parquet, Arrow and Avro, which hold typed columns."""

from pathlib import Path
from typing import TYPE_CHECKING

from rhabdos.data.files.formats import format_of
from rhabdos.data.files.opening import OpenFile, table_name
from rhabdos.data.limits import ReadingError
from rhabdos.data.readers.frames import frame_columns
from rhabdos.data.reporting import Report
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.quoting import file_named, shortened_to

if TYPE_CHECKING:
    import polars as pl


def read_columns(opened: OpenFile, report: Report, how: Read | None = None) -> Table:
    """Read a Parquet file, an Arrow file or stream, or an Avro file.

    Raises
    ------
    ReadingError
        It is damaged, of a version that is not read, or holds no rows.
    """
    import polars as pl

    name = file_named(opened.path.name)
    report(f"Reading {name}", None)
    try:
        frame = _frame(opened)
    except (pl.exceptions.PolarsError, OSError, ValueError, pl.exceptions.PanicException) as error:
        raise ReadingError(
            f"{name} is cut short, damaged, or written in a way that is not read here "
            f"({shortened_to(80, str(error))}). Copy or write it again."
        ) from error
    columns, remarks = frame_columns(frame, name, report)
    return Table(table_name(opened.path), columns, tuple(remarks))


def _frame(opened: OpenFile) -> "pl.DataFrame":
    import polars as pl

    readers = {"parquet": pl.read_parquet, "arrow": pl.read_ipc, "avro": pl.read_avro}
    # Told first: to look at the head of an unpacked file moves on in what is read from.
    reader = readers.get(format_of(opened), pl.read_ipc_stream)
    try:
        with opened.settled() as source:
            return reader(source)
    except pl.exceptions.PanicException as error:
        if reader is pl.read_parquet and opened.on_disk and "interval" in str(error):
            return _with_spans(opened.path)
        raise


def _with_spans(path: Path) -> "pl.DataFrame":
    """A Parquet file of which another library reads the columns of intervals, which a frame does
    not know."""
    import duckdb
    import polars as pl

    try:
        with duckdb.connect() as engine:
            rows = engine.read_parquet(exactly(path))
            kinds = dict(zip(rows.columns, map(str, rows.types), strict=True))
            spans = [name for name, kind in kinds.items() if kind == "INTERVAL"]
            asked = [
                duckdb.FunctionExpression("epoch_us", duckdb.ColumnExpression(name)).alias(name)
                if name in spans
                else duckdb.ColumnExpression(name)
                for name in kinds
            ]
            frame = pl.DataFrame(rows.select(*asked))
    except duckdb.Error as error:
        raise ValueError(str(error)) from error
    return frame.with_columns(pl.col(spans).cast(pl.Duration("us")))


def exactly(path: Path) -> str:
    """A path for duckdb, which sees patterns in stars, question marks and brackets."""
    return "".join(f"[{letter}]" if letter in "*?[" else letter for letter in str(path))
