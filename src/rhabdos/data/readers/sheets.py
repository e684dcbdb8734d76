"""Read a sheet of a workbook (XLSX, ODS)."""

import re
import zipfile
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from rhabdos.data.dialect import MOST_COLUMNS, NUMBERED, ReadingError
from rhabdos.data.gathering import Report
from rhabdos.data.names import joined_names, preamble, rows_of_names, unique_names
from rhabdos.data.opening import OpenFile, table_name
from rhabdos.data.readers.frames import columns_from
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.quoting import file_named, listed, quoted, shortened_to

if TYPE_CHECKING:
    import fastexcel
    import polars as pl

_HEAD_ROWS = 60
_LOCKED = "EncryptedPackage".encode("utf-16-le")
MOST_UNPACKED = 4 << 30
_ENDLESS = 300  # times its own size, which no workbook is unpacked to
_UNSUSPECTED = 256 << 20


def read_sheet(opened: OpenFile, report: Report, how: Read | None = None) -> Table:
    """Read the sheet and the cells that ``how`` names, else the first sheet that holds something.

    Names are looked for in the first rows; cells are read as what they hold, whatever their format
    shows.

    Raises
    ------
    ReadingError
        The workbook is damaged or behind a password, or has no such sheet or cells.
    """
    name = file_named(opened.path.name)
    report(f"Reading {name}", None)
    book = _book(opened, name)
    there = list(book.sheet_names)
    sheet, cells = _sheet(book, there, how, name)
    report(f"Reading {shortened_to(60, sheet)}", 0.3)
    read = _Cells.of(book, sheet, cells, name)
    for (row, column), word in formula_errors(opened, there.index(sheet)).items():
        read.put(row, column, word)
    rows = read.head()
    above, header_rows, remarks = _names_at(rows, how, cells)
    names, more = unique_names(joined_names(rows[above:], header_rows), read.texts.width)
    first = above + header_rows
    if read.texts.height <= first:
        raise ReadingError(
            f"Sheet {quoted(sheet)} of {name} holds no rows of values. Choose another sheet or "
            "other cells."
        )
    series = read.columns_below(book, sheet, cells, first)
    kept = [at for at, part in enumerate(series) if part.null_count() < len(part) or header_rows]
    columns = columns_from([series[at] for at in kept], [names[at] for at in kept], report)
    remarks += more
    if len(there) > 1 and not (how and how.sheet):
        remarks.insert(0, f"{name} has {len(there):,} sheets; {quoted(sheet)} was read.")
    title = sheet if len(there) > 1 else table_name(opened.path)
    return Table(shortened_to(200, title), columns, tuple(remarks))


def sheet_names(opened: OpenFile) -> list[str]:
    """The sheets of a workbook."""
    return list(_book(opened, file_named(opened.path.name)).sheet_names)


def _book(opened: OpenFile, name: str) -> "fastexcel.ExcelReader":
    import fastexcel

    _refuse_endless(opened, name)
    content = opened.whole()
    try:
        return fastexcel.read_excel(content)
    except fastexcel.FastExcelError as error:
        if "assword" in str(error) or _LOCKED in content:
            raise ReadingError(
                f"{name} is behind a password. Open it in a spreadsheet, save a copy without one, "
                "and open that."
            ) from None
        raise _damaged(name, error) from error
    except BaseException as error:  # the library's own way to say that it cannot go on
        if type(error).__name__ != "PanicException":
            raise
        raise _damaged(name, error) from error


def _damaged(name: str, error: BaseException) -> ReadingError:
    first = str(error).splitlines()[0] if str(error) else "unknown"
    return ReadingError(
        f"{name} cannot be read as a workbook ({shortened_to(80, first)}). It may be damaged; save "
        "it again as XLSX or CSV."
    )


def _refuse_endless(opened: OpenFile, name: str) -> None:
    """A workbook is a zip: how much it holds is told before it is unpacked."""
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


class Cells(Struct, frozen=True):
    """A block of cells, rows and columns counted from 0; ends are included."""

    top: int
    left: int
    bottom: int
    right: int

    @classmethod
    def parse(cls, text: str) -> "Cells":
        """Read "B3:F200"."""
        corners = re.fullmatch(r"([A-Za-z]+)(\d+):([A-Za-z]+)(\d+)", text.replace("$", ""))
        assert corners
        columns = sorted((_column_number(corners[1]), _column_number(corners[3])))
        rows = sorted((int(corners[2]) - 1, int(corners[4]) - 1))
        return cls(max(0, rows[0]), columns[0], max(0, rows[1]), columns[1])


def _column_number(letters: str) -> int:
    number = 0
    for letter in letters.upper():
        number = number * 26 + ord(letter) - 64
    return number - 1


def _sheet(
    book: "fastexcel.ExcelReader", there: list[str], how: Read | None, name: str
) -> tuple[str, Cells | None]:
    cells = Cells.parse(how.range) if how and how.range else None
    if how is not None and how.sheet is not None:
        if how.sheet not in there:
            raise ReadingError(f"{name} has no sheet {quoted(how.sheet)}. It has {listed(there)}.")
        return how.sheet, cells
    for sheet in there:
        if _load(book, sheet, name, header_row=None, n_rows=2, dtypes="string").height:
            return sheet, cells
    raise ReadingError(f"{name} has no sheet that holds anything. Choose another file.")


def _load(book: "fastexcel.ExcelReader", sheet: str, name: str, **how: Any) -> "pl.DataFrame":
    import fastexcel

    try:
        frame: pl.DataFrame = book.load_sheet(sheet, **how).to_polars()
    except fastexcel.FastExcelError as error:
        if "use_columns" in how:
            raise ReadingError(
                f"Sheet {quoted(sheet)} of {name} has no such cells. Name others, or none for all."
            ) from error
        raise _damaged(name, error) from error
    return frame


class _Cells:
    """The cells of a sheet as text, and where they stand."""

    def __init__(self, texts: "pl.DataFrame", top: int, left: int, name: str) -> None:
        self.texts, self.top, self.left, self.name = texts, top, left, name

    @classmethod
    def of(
        cls, book: "fastexcel.ExcelReader", sheet: str, cells: Cells | None, name: str
    ) -> "_Cells":
        """The cells of a sheet, or those that are asked for, as they are shown."""
        loaded = _load(book, sheet, name, header_row=None, dtypes="string", **_part(cells, 0))
        if not loaded.height or not loaded.width:
            raise ReadingError(
                f"Sheet {quoted(sheet)} of {name} is empty"
                f"{' there' if cells else ''}. Choose another sheet or other cells."
            )
        if loaded.width > MOST_COLUMNS:
            raise ReadingError(
                f"{name} has {loaded.width:,} columns; at most {MOST_COLUMNS:,} are read."
            )
        return cls(
            loaded, cells.top if cells else 0, cells.left if cells else _left(book, sheet), name
        )

    def put(self, row: int, column: int, word: str) -> None:
        """Say what stands in a cell."""
        at, place = row - self.top, column - self.left
        if 0 <= at < self.texts.height and 0 <= place < self.texts.width:
            self.texts[at, place] = word

    def head(self) -> list[list[str | None]]:
        """The first rows."""
        return [list(row) for row in self.texts.head(_HEAD_ROWS).rows()]

    def columns_below(
        self, book: "fastexcel.ExcelReader", sheet: str, cells: Cells | None, first: int
    ) -> "list[pl.Series]":
        """Each column below the names: numbers with all their digits where all cells are numbers,
        else texts."""
        import polars as pl

        texts = self.texts[first:]
        part = _part(cells, self.top + first)
        numbers = _load(book, sheet, self.name, header_row=None, schema_sample_rows=None, **part)
        series = []
        for place in range(texts.width):
            text = texts.to_series(place)
            exact = numbers.to_series(place) if place < numbers.width else text
            same = len(exact) == len(text) and exact.null_count() == text.null_count()
            series.append(exact if exact.dtype == pl.Float64 and same else text)
        return series


def _left(book: "fastexcel.ExcelReader", sheet: str) -> int:
    """The first column of a sheet that holds anything."""
    glance = book.load_sheet(sheet, header_row=None, dtypes="string", n_rows=1, skip_rows=0)
    return glance.selected_columns[0].absolute_index if glance.selected_columns else 0


def _part(cells: Cells | None, first: int) -> dict[str, Any]:
    """How the library is asked for some cells, from a row on."""
    if cells is None:
        return {"skip_rows": first}
    first = max(first, cells.top)
    columns = list(range(cells.left, cells.right + 1))
    return {"skip_rows": first, "n_rows": cells.bottom - first + 1, "use_columns": columns}


def _names_at(
    rows: list[list[str | None]], how: Read | None, cells: Cells | None
) -> tuple[int, int, list[str]]:
    """How many rows stand above the names, how many hold names, and what is to be said of them."""
    if how is not None and how.header is not None:
        above = max(0, how.header - 1 - (cells.top if cells else 0))
        return above if how.header else 0, min(1, how.header), []
    above = preamble(rows)
    blank = next((at for at, row in enumerate(rows) if any(row)), 0)
    above = max(above, blank)
    header_rows = rows_of_names(rows[above:])
    remarks = []
    if said := next((cell for row in rows[:above] for cell in row if cell), ""):
        remarks.append(
            f"Above the names stands {quoted(said)}, which is no row of this table; it stayed out."
        )
    if header_rows == 2:
        remarks.append("Names stand in two rows; they were put together.")
    if not header_rows:
        remarks.append(NUMBERED)
    return above, header_rows, remarks


_ERROR = re.compile(
    rb'<c r="([A-Z]{1,3})(\d{1,7})"[^>]*?\bt="e"[^>]*>(?:<f[^>]*/>|<f[^>]*>[^<]*</f>)?'
    rb"<v>(#[^<]{1,12})</v>"
)


def formula_errors(opened: OpenFile, sheet: int) -> dict[tuple[int, int], str]:
    """The cells of an XLSX sheet whose formula has no result, with what they say ("#DIV/0!").

    The reader takes them for blank cells; a person who looks at the sheet sees them.
    """
    try:
        with zipfile.ZipFile(opened.stream()) as parts:
            part = _part_of_sheet(parts, sheet)
            content = parts.read(part) if part else b""
    except (zipfile.BadZipFile, KeyError, OSError, ValueError, NotImplementedError):
        return {}
    return {
        (int(row) - 1, _column_number(column.decode())): word.decode("utf-8", "replace")
        for column, row, word in _ERROR.findall(content)
    }


def _part_of_sheet(parts: zipfile.ZipFile, sheet: int) -> str | None:
    names = parts.namelist()
    if "xl/workbook.xml" not in names or "xl/_rels/workbook.xml.rels" not in names:
        return None
    ids = re.findall(rb'<(?:\w+:)?sheet\b[^>]*?r:id="([^"]+)"', parts.read("xl/workbook.xml"))
    relations = parts.read("xl/_rels/workbook.xml.rels")
    if sheet >= len(ids):
        return None
    for relation in re.findall(rb"<(?:\w+:)?Relationship\b[^>]*>", relations):
        if b'Id="' + ids[sheet] + b'"' in relation:
            target = re.search(rb'Target="([^"]+)"', relation)
            if target:
                path = target[1].decode().lstrip("/")
                return path if path.startswith("xl/") else f"xl/{path}"
    return None
