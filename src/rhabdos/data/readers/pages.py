"""Read a table of a web page."""

import re

from rhabdos.data.files.encodings import encoding_of
from rhabdos.data.files.opening import OpenFile, table_name
from rhabdos.data.readers.frames import columns_from
from rhabdos.data.readers.guarded import frame_apart
from rhabdos.data.reporting import Report
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.quoting import file_named, shortened_to

_HEAD_BYTES = 1 << 18  # which tell how a page is written
_SAYS_IT = re.compile(rb"charset\s*=|<\?xml[^>]*encoding", re.IGNORECASE)


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
    options = {"table": how.table, "header": how.header} if how else {}
    asked = how.encoding if how else None
    options["encoding"] = asked or _encoding(opened)
    answer, frame = frame_apart("page_cells:table", "a web page", opened, options, report)
    columns = columns_from(frame.get_columns(), answer["names"], report)
    there = tuple(answer["tables"])
    title = answer["table"] if len(there) > 1 else table_name(opened.path)
    return Table(shortened_to(200, title), columns, tuple(answer["remarks"])), there


def _encoding(opened: OpenFile) -> str | None:
    """The encoding of a page that does not say it, as of any other text; None of one that does."""
    head = opened.head(_HEAD_BYTES)
    if _SAYS_IT.search(head):
        return None
    return encoding_of(head, file_named(opened.path.name))[0]
