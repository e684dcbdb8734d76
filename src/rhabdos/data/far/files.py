"""Files larger than memory, and folders of files: read from disk as needed."""

import os
import shutil
from pathlib import Path
from typing import TYPE_CHECKING

from rhabdos.data.far.aside import Aside
from rhabdos.data.far.connection import FarError
from rhabdos.data.far.duck import DuckFiles
from rhabdos.data.far.table import far_table
from rhabdos.data.files.formats import format_of
from rhabdos.data.files.opening import table_name
from rhabdos.data.files.reading import opened_file
from rhabdos.data.reporting import Report
from rhabdos.data.table import Table
from rhabdos.quoting import file_named
from rhabdos.wording import counted

if TYPE_CHECKING:
    import polars as pl

    from rhabdos.data.steps.reading import Read

_BYTES_OF_TEXT = 24  # of a cell, as it takes in memory on the whole
_USUAL_MEMORY = 2 << 30  # bytes, where the system does not say how much is free


def memory_allowed() -> int:
    """Bytes that a table may take: half of what is free, or what RHABDOS_MEMORY says in
    megabytes."""
    asked = os.environ.get("RHABDOS_MEMORY", "")
    if asked.isdecimal():
        return int(asked) << 20
    try:
        pages, size = os.sysconf("SC_AVPHYS_PAGES"), os.sysconf("SC_PAGE_SIZE")
        with open("/proc/meminfo", encoding="ascii") as lines:
            free = next((line for line in lines if line.startswith("MemAvailable")), "")
        return (int(free.split()[1]) << 10 if free else pages * size) // 2
    except (OSError, ValueError, IndexError):
        return _USUAL_MEMORY


def beyond_memory(path: Path) -> bool:
    """Whether a file is to be asked where it lies: a folder, or more than memory is allowed for."""
    if path.is_dir():
        return True
    try:
        size = path.stat().st_size
    except OSError:
        return False
    allowed = memory_allowed()
    if size > allowed:
        return _format(path) in ("parquet", "arrow", "text")
    return _format(path) == "parquet" and _bytes_unpacked(path) > allowed


def _format(path: Path) -> str:
    with opened_file(path) as opened:
        return str(format_of(opened)) if opened.on_disk else ""


def _bytes_unpacked(path: Path) -> int:
    """About how many bytes the columns of a Parquet file take in memory."""
    import polars as pl

    try:
        frame = pl.scan_parquet(path, glob=False)
        rows = int(frame.select(pl.len()).collect().item())
        kinds = frame.collect_schema().dtypes()
    except (pl.exceptions.PolarsError, OSError):
        return 0  # whoever reads it will say what is wrong
    return rows * sum(_BYTES_OF_TEXT if kind == pl.String else 8 for kind in kinds)


def far_file(path: Path, report: Report, how: "Read | None" = None) -> Table:
    """The table of a file or a folder that is asked where it lies.

    Parquet is asked as it is. Text and Arrow are laid out once as Parquet, in the folder for
    temporary files, since to go through them for every question would take far longer.

    Raises
    ------
    FarError
        It cannot be asked, or there is no room to lay it out.
    """
    files = _files_in(path) if path.is_dir() else (path,)
    name = file_named(path.name)
    report(f"Looking at {name}", None)
    told = "read from disk as needed"
    folder: Aside | None = None
    if not path.is_dir() and _format(path) != "parquet":
        folder = Aside()
        files = (_laid_out(path, folder.path, report, how),)
    connection = DuckFiles(files, memory_allowed() // 2, folder)
    what = f"The folder {name}" if path.is_dir() else name
    table = far_table(table_name(path), connection, what)
    many = f" of {counted(len(files), 'file', 'files')}" if path.is_dir() else ""
    remark = f"{what}{many} is {told}: figures count all rows, and lists of rows show some of them."
    from msgspec import structs

    return structs.replace(table, remarks=(remark, *table.remarks))


def _files_in(folder: Path) -> tuple[Path, ...]:
    try:
        names = sorted(folder.rglob("*"))
    except OSError as error:
        raise FarError(
            f"The folder {file_named(folder.name)} cannot be listed: {error.strerror}. Ask its "
            "owner for permission."
        ) from None
    files = tuple(name for name in names if name.suffix.lower() == ".parquet" and name.is_file())
    if not files:
        raise FarError(
            f"The folder {file_named(folder.name)} holds no Parquet files. Open one of its files, "
            "or a folder of Parquet files of the same variables."
        )
    return files


def _laid_out(path: Path, folder: Path, report: Report, how: "Read | None") -> Path:
    """The rows of a file as Parquet."""
    import polars as pl

    size = path.stat().st_size
    free = shutil.disk_usage(folder).free
    if free < size:
        raise FarError(
            f"{file_named(path.name)} does not fit into memory, and to lay it out on disk takes up "
            f"to {size >> 20:,} MB, of which {free >> 20:,} MB are free. Free some, or set TMPDIR "
            "to a folder with room."
        )
    report(f"Laying out {file_named(path.name)} on disk", None)
    there = folder / "rows.parquet"
    try:
        frame = pl.scan_ipc(path) if _format(path) == "arrow" else _text_frame(path, how)
        frame.sink_parquet(there, row_group_size=200_000)
    except (pl.exceptions.PolarsError, OSError) as error:
        said = " ".join(str(error).split())[:120]
        raise FarError(
            f"{file_named(path.name)} cannot be laid out to be read in parts: {said}. Put its rows "
            "right, or write it as Parquet."
        ) from None
    return there


def _text_frame(path: Path, how: "Read | None") -> "pl.LazyFrame":
    """The rows of a delimited text, numbers and dates told by its first rows."""
    import polars as pl

    from rhabdos.data.columns import DateColumn, NumberColumn
    from rhabdos.data.fields.calendars import date_notation
    from rhabdos.data.fields.dialect import dialect_of
    from rhabdos.data.fields.names import unique_names
    from rhabdos.data.fields.notation import Notation
    from rhabdos.data.fields.numerals import number_notation
    from rhabdos.data.readers.delimited import first_rows
    from rhabdos.data.readers.plain_text import as_text

    with opened_file(path) as opened:
        text = as_text(opened, how)
        dialect = dialect_of(text.head, False, how)
        if text.opened is not opened or dialect.indirect:
            raise FarError(
                f"{file_named(path.name)} does not fit into memory, and texts that are not in "
                "UTF-8, or of fixed places, are read there only. Write it in UTF-8 with commas, or "
                "as Parquet."
            )
        seen = first_rows(text, dialect, 5_000)
    frame = pl.scan_csv(
        path,
        separator=dialect.separator,
        quote_char=dialect.quote or None,
        has_header=bool(dialect.header_rows) and not dialect.row_names,
        skip_lines=dialect.above_rows if dialect.row_names else dialect.above_names,
        infer_schema=False,
        glob=False,
    )
    width = len(frame.collect_schema().names())
    names, _remarks = unique_names(dialect.header, max(dialect.fields, width))
    frame = frame.rename(dict(zip(frame.collect_schema().names(), names, strict=False)))
    usual = Notation("," if dialect.decimal_comma else ".", dialect.thousands)
    head = frame.head(5_000).collect()
    reading = []
    for name in head.columns:
        column = seen.column(name) if seen.has(name) else None
        fields = head[name]
        if isinstance(column, DateColumn) and (written_as := date_notation(fields)) is not None:
            reading.append(_as_dates(name, written_as[0]))
        elif isinstance(column, NumberColumn):
            notation = number_notation(fields, usual)
            if notation is not None:
                reading.append(_as_numbers(name, notation))
    return frame.with_columns(reading) if reading else frame


def _as_numbers(name: str, notation: object) -> "pl.Expr":
    import polars as pl

    from rhabdos.data.fields.numerals import numbers_in

    return pl.col(name).map_batches(
        lambda text: numbers_in(text, notation).cast(pl.Float64),  # type: ignore[arg-type]
        return_dtype=pl.Float64,
        is_elementwise=True,
    )


def _as_dates(name: str, notation: object) -> "pl.Expr":
    import polars as pl

    from rhabdos.data.fields.calendars import dates_in
    from rhabdos.data.fields.texts import DAY

    moment = pl.Datetime("us")

    def dated(text: "pl.Series") -> "pl.Series":
        """Moments in microseconds, since 1970."""
        days = dates_in(text, notation)  # type: ignore[arg-type]
        return (days * DAY).round().cast(pl.Int64).cast(moment)

    return pl.col(name).map_batches(dated, return_dtype=moment, is_elementwise=True)
