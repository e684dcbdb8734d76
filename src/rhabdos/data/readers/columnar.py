"""Read Parquet, Arrow and Avro, which hold typed columns."""

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
    with opened.settled() as source:
        return reader(source)
