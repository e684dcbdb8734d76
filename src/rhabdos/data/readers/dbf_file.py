"""Read a DBF table."""

from rhabdos.data.files.opening import OpenFile, table_name
from rhabdos.data.readers.frames import frame_columns
from rhabdos.data.readers.guarded import frame_apart
from rhabdos.data.reporting import Report
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.quoting import file_named


def read_dbf(opened: OpenFile, report: Report, how: Read | None = None) -> Table:
    """Read all rows that are not struck out.

    Raises
    ------
    ReadingError
        It is damaged, or holds no rows.
    """
    options = {"encoding": how.encoding} if how else {}
    answer, frame = frame_apart("dbf_rows:table", "a DBF table", opened, options, report)
    columns, remarks = frame_columns(frame, file_named(opened.path.name), report)
    return Table(table_name(opened.path), columns, (*answer["remarks"], *remarks))
