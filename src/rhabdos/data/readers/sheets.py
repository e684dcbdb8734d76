"""Read a sheet of a workbook (XLSX, XLS, ODS): the library that parses it works in a process of its
own."""

import shutil
import tempfile
import zipfile

from rhabdos.data.files.opening import OpenFile, table_name
from rhabdos.data.limits import ReadingError
from rhabdos.data.readers.frames import columns_from
from rhabdos.data.readers.guarded import frame_apart
from rhabdos.data.reporting import Report
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.quoting import file_named, shortened_to

MOST_UNPACKED = 4 << 30
_ENDLESS = 300  # times its own size, which no workbook is unpacked to
_UNSUSPECTED = 256 << 20  # bytes unpacked, up to which nothing is taken for a bomb


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
    name = file_named(opened.path.name)
    _refuse_endless(opened, name)
    options = {"sheet": how.sheet, "range": how.range, "header": how.header} if how else {}
    answer, frame = frame_apart("sheet_cells:table", "a workbook", opened, options, report)
    series = frame.get_columns()
    hours = {answer["names"][at]: "h" for at in answer["hours"]}
    columns = columns_from(series, answer["names"], report, units=hours)
    there = tuple(answer["sheets"])
    title = answer["sheet"] if len(there) > 1 else table_name(opened.path)
    return Table(shortened_to(200, title), columns, tuple(answer["remarks"])), there


def read_flat(opened: OpenFile, report: Report, how: Read | None = None) -> Table:
    """Read a workbook in one XML file (FODS).

    Raises
    ------
    ReadingError
        As `read_sheet`.
    """
    return read_flat_book(opened, report, how)[0]


def read_flat_book(
    opened: OpenFile, report: Report, how: Read | None = None
) -> tuple[Table, tuple[str, ...]]:
    """The same, with the names of all sheets.

    The library knows such a text as the one part of a zipped workbook that matters.
    """
    with tempfile.TemporaryFile() as store:
        with zipfile.ZipFile(store, "w", zipfile.ZIP_STORED) as parts:
            parts.writestr("mimetype", _OPEN_DOCUMENT)
            parts.writestr("META-INF/manifest.xml", _MANIFEST)
            with parts.open("content.xml", "w", force_zip64=True) as content:
                shutil.copyfileobj(opened.stream(), content)
        store.flush()
        size = store.tell()
        return read_book(OpenFile(opened.path, store, size, opened.stamp), report, how)


_OPEN_DOCUMENT = "application/vnd.oasis.opendocument.spreadsheet"
_MANIFEST = (
    '<?xml version="1.0"?><manifest:manifest '
    'xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"/>'
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
