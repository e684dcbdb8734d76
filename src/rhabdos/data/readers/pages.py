"""Read a table of a web page."""

from rhabdos.data.files.opening import OpenFile, table_name
from rhabdos.data.readers.frames import columns_from
from rhabdos.data.readers.guarded import frame_apart
from rhabdos.data.reporting import Report
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.quoting import shortened_to


def read_page(opened: OpenFile, report: Report, how: Read | None = None) -> Table:
    """Read the table that ``how`` names, else the one with most cells.

    Raises
    ------
    ReadingError
        There is no table, or none of that name.
    """
    return read_tables(opened, report, how)[0]


def read_tables(
    opened: OpenFile, report: Report, how: Read | None = None
) -> tuple[Table, tuple[str, ...]]:
    """The same, with the names of all tables."""
    options = {"table": how.table, "header": how.header, "encoding": how.encoding} if how else {}
    answer, frame = frame_apart("page_cells:table", "a web page", opened, options, report)
    columns = columns_from(frame.get_columns(), answer["names"], report)
    there = tuple(answer["tables"])
    title = answer["table"] if len(there) > 1 else table_name(opened.path)
    return Table(shortened_to(200, title), columns, tuple(answer["remarks"])), there
