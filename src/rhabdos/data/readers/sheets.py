"""Read a sheet of a workbook (XLSX, XLS, ODS): the library that parses it works in a process of its
own."""

import io
import zipfile
from typing import Any

from rhabdos.apart import Limits, Overrun, apart
from rhabdos.data.dialect import ReadingError
from rhabdos.data.gathering import Report
from rhabdos.data.opening import OpenFile, table_name
from rhabdos.data.readers.frames import columns_from
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.quoting import file_named, shortened_to

MOST_UNPACKED = 4 << 30
_ENDLESS = 300  # times its own size, which no workbook is unpacked to
_UNSUSPECTED = 256 << 20
LIMITS = Limits(memory=3 << 30, seconds=300)
"""What the reading of a workbook may take."""


def read_sheet(opened: OpenFile, report: Report, how: Read | None = None) -> Table:
    """Read the sheet and the cells that ``how`` names, else the first sheet that holds a table.

    Names are looked for in the first rows; cells are read as what they hold, whatever their format
    shows.

    Raises
    ------
    ReadingError
        The workbook is damaged or behind a password, or has no such sheet or cells; or it takes
        more memory or time than a workbook may.
    """
    return read_book(opened, report, how)[0]


def read_book(
    opened: OpenFile, report: Report, how: Read | None = None
) -> tuple[Table, tuple[str, ...]]:
    """The same, with the names of all sheets."""
    import polars as pl

    name = file_named(opened.path.name)
    report(f"Reading {name}", None)
    _refuse_endless(opened, name)
    asked: dict[str, Any] = {"name": name}
    if how is not None:
        asked |= {"sheet": how.sheet, "range": how.range, "header": how.header}
    try:
        answer, arrow = apart(
            "rhabdos.data.readers.sheet_cells:table",
            opened.stream(),
            asked,
            LIMITS,
            lambda: report(f"Reading {name}", None),
        )
    except Overrun as overrun:
        raise _too_much(name, overrun.reason) from None
    except ReadingError:
        raise
    except Refusal as refusal:
        raise ReadingError(str(refusal)) from None
    series = pl.read_ipc(io.BytesIO(arrow)).get_columns()
    hours = {answer["names"][at]: "h" for at in answer["hours"]}
    columns = columns_from(series, answer["names"], report, units=hours)
    there = tuple(answer["sheets"])
    title = answer["sheet"] if len(there) > 1 else table_name(opened.path)
    return Table(shortened_to(200, title), columns, tuple(answer["remarks"])), there


def _too_much(name: str, reason: str) -> ReadingError:
    if reason == "died":
        return ReadingError(
            f"{name} cannot be read as a workbook: its reader ended without an answer. Save it "
            "again as XLSX or CSV."
        )
    limit = (
        f"more than {LIMITS.memory >> 30} GiB of memory"
        if reason == "memory"
        else f"longer than {LIMITS.seconds} seconds"
    )
    return ReadingError(
        f"{name} takes {limit} to read, so reading was stopped. A cell far from all others makes a "
        "sheet as large as that: delete the rows and columns behind the data, or save the sheet as "
        "CSV."
    )


def _refuse_endless(opened: OpenFile, name: str) -> None:
    """A workbook is a zip: how much it holds is told before it is unpacked.

    Where it lies, the limits of its process hold.
    """
    try:
        with zipfile.ZipFile(opened.stream()) as parts:
            size = sum(part.file_size for part in parts.infolist())
    except (zipfile.BadZipFile, ValueError, NotImplementedError):
        return  # an older kind of workbook
    if size > MOST_UNPACKED or size > max(_UNSUSPECTED, _ENDLESS * opened.size):
        raise ReadingError(
            f"{name} would unpack to {size >> 20:,} MiB, {size // max(1, opened.size):,} times its "
            f"own size; at most {MOST_UNPACKED >> 30} GiB and {_ENDLESS} times are read. Save the "
            "sheet that you need as CSV."
        )
