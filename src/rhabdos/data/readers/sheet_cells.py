"""What a workbook holds, read by the library in a process of its own: see `rhabdos.apart`."""

import re
from typing import TYPE_CHECKING, Any, BinaryIO

from msgspec import Struct

from rhabdos.apart import Answer
from rhabdos.data.fields.names import is_number, joined_names, unique_names
from rhabdos.data.limits import MOST_COLUMNS, ReadingError
from rhabdos.data.readers.cell_rows import names_at, without_blank_rows
from rhabdos.data.readers.formulas import Formulas, column_letters, column_number, formulas_of
from rhabdos.data.readers.guarded import arrow_of
from rhabdos.quoting import listed, quoted, shortened_to

if TYPE_CHECKING:
    import fastexcel
    import polars as pl

_HEAD_ROWS = 60  # among which the row of names is looked for
_PLAIN = r"^-?(0|[1-9]\d*)(\.\d+)?$"
_EXACT_DIGITS = 15  # letters of a number, up to which a double has them all
_LOCKED = "EncryptedPackage".encode("utf-16-le")
_TABLE_ROWS = 3  # rows of several cells that make a table of a sheet
_DAYS_OF_TIMES = 60  # before the first of March 1900, where sheets count a day that never was


def table(source: BinaryIO, options: dict[str, Any]) -> Answer:
    """The cells of a sheet: its columns as bytes of Arrow, and how they are called.

    Asked are ``name``, and where wanted ``sheet``, ``range`` and ``header``.
    """
    name: str = options["name"]
    content = source.read()
    book = _book(content, name)
    there = list(book.sheet_names)
    cells = Cells.parse(options["range"]) if options.get("range") else None
    read, remarks = _sheet(book, there, options.get("sheet"), cells, name)
    sheet = read.sheet
    formulas = formulas_of(content, there.index(sheet))
    for row, column, word in formulas.errors:
        read.put(row, column, word)
    rows = read.head()
    above, header_rows, more = names_at(rows, options.get("header"), cells.top if cells else 0)
    given = joined_names(rows[above:], header_rows)
    names, renamed = unique_names(given, read.texts.width)
    first = above + header_rows
    if read.texts.height <= first:
        raise ReadingError(
            f"Sheet {quoted(sheet)} of {name} holds no rows of values. Choose another sheet or "
            "other cells."
        )
    series = read.columns_below(book, cells, first)
    kept = [
        at
        for at, part in enumerate(series)
        if part.null_count() < len(part) or (at < len(given) and given[at].strip())
    ]
    frame, passed_over = without_blank_rows([series[at].alias(f"{at}") for at in kept])
    if not frame.height:
        raise ReadingError(
            f"Sheet {quoted(sheet)} of {name} holds no rows of values. Choose another sheet or "
            "other cells."
        )
    answer = {
        "sheet": sheet,
        "sheets": there,
        "names": [names[at] for at in kept],
        "hours": [at for at, place in enumerate(kept) if place in read.hours],
        "remarks": [*remarks, *more, *renamed, *passed_over, *read.without_result(formulas)],
    }
    return answer, arrow_of(frame)


def _book(content: bytes, name: str) -> "fastexcel.ExcelReader":
    import fastexcel

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
        columns = sorted((column_number(corners[1]), column_number(corners[3])))
        rows = sorted((int(corners[2]) - 1, int(corners[4]) - 1))
        return cls(max(0, rows[0]), columns[0], max(0, rows[1]), columns[1])


def _sheet(
    book: "fastexcel.ExcelReader",
    there: list[str],
    asked: str | None,
    cells: "Cells | None",
    name: str,
) -> tuple["_Sheet", list[str]]:
    """The sheet that is read, and what is to be said of that: the one asked for, else the first
    that holds a table, else the first that holds anything."""
    if asked is not None and asked not in there:
        raise ReadingError(f"{name} has no sheet {quoted(asked)}. It has {listed(there)}.")
    filled: list[_Sheet] = []
    chosen: _Sheet | None = None
    for sheet in [asked] if asked is not None else there:
        read = _Sheet.of(book, sheet, cells, name)
        if not read.texts.height or not read.texts.width:
            continue
        filled.append(read)
        if _is_table(read.head()):
            chosen = read
            break
    if not filled:
        if asked is None and cells is None:
            raise ReadingError(f"{name} has no sheet that holds anything. Choose another file.")
        where = f"Sheet {quoted(asked)} of {name}" if asked is not None else name
        raise ReadingError(
            f"{where} is empty{' there' if cells else ''}. Choose another sheet or other cells."
        )
    chosen = chosen or filled[0]
    told = [f"{name} has {len(there):,} sheets; {quoted(chosen.sheet)} was read."]
    return chosen, told if len(there) > 1 and asked is None else []


def _is_table(rows: list[list[str | None]]) -> bool:
    """Whether rows hold several cells, or a column of numbers; a cover holds sentences."""
    filled = [[cell for cell in row if cell is not None] for row in rows]
    filled = [row for row in filled if row]
    several = sum(len(row) > 1 for row in filled)
    numbers = sum(is_number(row[-1], False) for row in filled)
    return several >= _TABLE_ROWS or (numbers > 1 and numbers * 2 >= len(filled))


def _load(
    book: "fastexcel.ExcelReader", sheet: str, name: str, **how: Any
) -> "tuple[pl.DataFrame, int]":
    """Cells of a sheet, and the column from 0 that they begin in."""
    import fastexcel

    try:
        loaded = book.load_sheet(sheet, **how)
        chosen = loaded.selected_columns
        return loaded.to_polars(), chosen[0].absolute_index if chosen else 0
    except fastexcel.FastExcelError as error:
        if "use_columns" in how:
            raise ReadingError(
                f"Sheet {quoted(sheet)} of {name} has no such cells. Name others, or none for all."
            ) from error
        raise _damaged(name, error) from error
    except BaseException as error:
        if type(error).__name__ != "PanicException":
            raise
        raise _damaged(name, error) from error


class _Sheet:
    """The cells of a sheet as text, and where they stand."""

    def __init__(self, sheet: str, texts: "pl.DataFrame", top: int, left: int, name: str) -> None:
        self.sheet, self.texts, self.top, self.left, self.name = sheet, texts, top, left, name
        self.hours: set[int] = set()
        """The columns that hold times of day and spans."""

    @classmethod
    def of(
        cls, book: "fastexcel.ExcelReader", sheet: str, cells: Cells | None, name: str
    ) -> "_Sheet":
        """The cells of a sheet, or those that are asked for, as they are shown."""
        texts, left = _load(book, sheet, name, header_row=None, dtypes="string", **_part(cells, 0))
        if texts.width > MOST_COLUMNS:
            raise ReadingError(
                f"{name} has {texts.width:,} columns; at most {MOST_COLUMNS:,} are read."
            )
        return cls(sheet, texts, cells.top if cells else 0, cells.left if cells else left, name)

    def put(self, row: int, column: int, word: str) -> None:
        """Say what stands in a cell."""
        at, place = row - self.top, column - self.left
        if 0 <= at < self.texts.height and 0 <= place < self.texts.width:
            self.texts[at, place] = word

    def without_result(self, formulas: Formulas) -> list[str]:
        """What is to be said of formulas among these cells that nobody has worked out."""
        here = [
            (row, column)
            for row, column in formulas.without
            if 0 <= row - self.top < self.texts.height
            and 0 <= column - self.left < self.texts.width
        ]
        if not here:
            return []
        first = f"{column_letters(here[0][1])}{here[0][0] + 1}"
        if len(here) == 1:
            told = f"The formula in {first} has no result in the file and reads as missing"
        else:
            told = (
                f"{len(here):,} formulas have no result in the file (the first in {first}) and "
                "read as missing"
            )
        return [
            f"{told}: no spreadsheet has worked it out. Open the file in one, save it there, and "
            "open it again."
        ]

    def head(self) -> list[list[str | None]]:
        """The first rows."""
        return [list(row) for row in self.texts.head(_HEAD_ROWS).rows()]

    def columns_below(
        self, book: "fastexcel.ExcelReader", cells: Cells | None, first: int
    ) -> "list[pl.Series]":
        """Each column below the names: numbers with all their digits where all cells are numbers,
        times in hours where all are such, else texts."""
        import polars as pl

        below = self.texts[first:]
        texts = below.get_columns()
        # All columns at a time: a sheet may have sixteen thousand.
        plain = pl.all().str.contains(_PLAIN)
        some, every = below.select(plain.any()).row(0), below.select(plain.all()).row(0)
        known = below.select(pl.all().is_not_null().any()).row(0)
        likely = {index for index, has in enumerate(some) if has}
        columns = dict[int, pl.Series]()
        if likely:
            left = cells.left if cells else 0
            kinds = {
                left + index: "float" if index in likely else "string"
                for index in range(below.width)
            }
            part = _part(cells, self.top + first)
            exact, _ = _load(book, self.sheet, self.name, header_row=None, dtypes=kinds, **part)
            columns = {index: exact.to_series(index) for index in likely if index < exact.width}
        series = []
        for index, text in enumerate(texts):
            number = columns.get(index)
            if number is not None and number.dtype == pl.Float64 and len(number) == len(text):
                series.append(number if every[index] else _with_all_digits(text, number))
            elif known[index] and (hours := _hours(text)) is not None:
                self.hours.add(index)
                series.append(hours)
            else:
                series.append(text)
        return series


def _with_all_digits(text: "pl.Series", exact: "pl.Series") -> "pl.Series":
    """Texts of which numbers have all their digits, and not as many as their text is rounded to."""
    import polars as pl

    rounded = text.str.contains(_PLAIN) & (
        text.str.contains(r"\.\d{9}$")
        | ((exact != 0) & text.is_in(["0", "-0"]))
        | (text.str.len_bytes() > _EXACT_DIGITS)
    )
    rounded = (rounded & exact.is_not_null()).fill_null(False)
    return exact.cast(pl.String).zip_with(rounded, text).alias(text.name)


def _hours(text: "pl.Series") -> "pl.Series | None":
    """Times of day and spans, which the library gives as moments of the first days that a sheet
    counts, in hours; None where a cell is something else."""
    import polars as pl

    known = text.drop_nulls()
    if not len(known) or not known[0].startswith(("1899-12-3", "1900-0")):
        return None
    moments = text.str.to_datetime("%Y-%m-%d %H:%M:%S%.f", strict=False, time_unit="us")
    if moments.null_count() > text.null_count():
        return None
    begin = pl.datetime(1899, 12, 31, time_unit="us")
    hours = pl.DataFrame({"m": moments}).select(
        (pl.col("m") - begin).dt.total_microseconds().cast(pl.Float64) / 3600e6
    )
    values = hours.to_series().alias(text.name)
    longest = values.max()
    if longest is None or float(longest) >= 24 * _DAYS_OF_TIMES:  # type: ignore[arg-type]
        return None
    return values


def _part(cells: Cells | None, first: int) -> dict[str, Any]:
    """How the library is asked for some cells, from a row on."""
    if cells is None:
        return {"skip_rows": first}
    first = max(first, cells.top)
    columns = list(range(cells.left, cells.right + 1))
    return {"skip_rows": first, "n_rows": cells.bottom - first + 1, "use_columns": columns}
