"""Files larger than memory, and folders of files: read from disk as needed."""

import csv
import os
import shutil
from collections import Counter
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import structs

from rhabdos.data.columns import Column, NumberColumn
from rhabdos.data.far.aside import Aside
from rhabdos.data.far.connection import FarError
from rhabdos.data.far.duck import DuckFiles, folder_names, names_in
from rhabdos.data.far.laying_out import LaidOut, text_laid_out
from rhabdos.data.far.table import far_table
from rhabdos.data.files.formats import format_of
from rhabdos.data.files.opening import table_name
from rhabdos.data.files.reading import opened_file
from rhabdos.data.reporting import Report
from rhabdos.data.table import Table
from rhabdos.quoting import file_named, listed
from rhabdos.wording import counted

if TYPE_CHECKING:
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
    laid = LaidOut(files, {}, ())
    if not path.is_dir() and _format(path) != "parquet":
        folder = Aside()
        laid = _laid_out(path, folder.path, report, how)
    files = laid.parts
    keys = _keys_of(path, files) if path.is_dir() else ()
    connection = DuckFiles(files, memory_allowed() // 2, folder, keys)
    what = f"The folder {name}" if path.is_dir() else name
    table = far_table(table_name(path), connection, what)
    assert table.far is not None
    size = sum(part.stat().st_size for part in files) if folder is not None else 0
    far = structs.replace(table.far, aside=size)
    columns = tuple(_with_unit(column, laid.units) for column in table.columns)
    many = f" of {counted(len(files), 'file', 'files')}" if path.is_dir() else ""
    remark = f"{what}{many} is {told}: figures count all rows, and lists of rows show some of them."
    named = (f"{listed(keys)} {'is' if len(keys) == 1 else 'are'} told by names of folders.",)
    lacking = _lacking(files) if path.is_dir() else ()
    remarks = (remark, *named * bool(keys), *lacking, *laid.remarks, *table.remarks)
    return structs.replace(table, columns=columns, remarks=remarks, far=far)


def _with_unit(column: Column, units: dict[str, str]) -> Column:
    """A column with what stood behind its numbers, where its name does not say it."""
    if isinstance(column, NumberColumn) and not column.unit and column.name in units:
        return structs.replace(column, unit=units[column.name])
    return column


def _files_in(folder: Path) -> tuple[Path, ...]:
    try:
        names = sorted(folder.rglob("*"))
    except OSError as error:
        raise FarError(
            f"The folder {file_named(folder.name)} cannot be listed: {error.strerror}. Ask its "
            "owner for permission."
        ) from None
    files = tuple(
        name
        for name in names
        if name.suffix.lower() == ".parquet" and name.is_file() and not _put_aside(name, folder)
    )
    if not files:
        raise FarError(
            f"The folder {file_named(folder.name)} holds no Parquet files. Open one of its files, "
            "or a folder of Parquet files of the same variables."
        )
    return files


def _put_aside(file: Path, folder: Path) -> bool:
    """Whether programs that write such folders put a file aside: its name, or that of a folder on
    the way to it, begins with a point or a low line."""
    return any(part.startswith((".", "_")) for part in file.relative_to(folder).parts)


def _keys_of(folder: Path, files: tuple[Path, ...]) -> tuple[str, ...]:
    """The variables that folders within this one are named for, as in bay=Saltmere, where the way
    to each file names the same."""
    keys = {tuple(folder_names(file.relative_to(folder))) for file in files}
    return keys.pop() if len(keys) == 1 else ()


def _lacking(files: tuple[Path, ...]) -> tuple[str, ...]:
    """What is to be said where not all files have the same variables."""
    called, having = dict[str, str](), Counter[str]()
    for file in files:
        names = names_in(file)
        if not names:
            return ()
        called = {name.casefold(): name for name in names} | called
        having.update({name.casefold() for name in names})
    fewer = [called[name] for name, count in having.items() if count < len(files)]
    if not fewer:
        return ()
    are = "is" if len(fewer) == 1 else "are"
    return (
        f"{listed(fewer, most=4)} {are} not in all {len(files):,} files: rows of those that lack a "
        "variable have no value of it.",
    )


def _laid_out(path: Path, folder: Path, report: Report, how: "Read | None") -> LaidOut:
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
    try:
        with opened_file(path) as opened:
            if format_of(opened) != "arrow":
                return text_laid_out(opened, folder, report, how)
        there = folder / "rows.parquet"
        pl.scan_ipc(path, glob=False).sink_parquet(there, row_group_size=200_000)
    except (pl.exceptions.PolarsError, OSError, csv.Error) as error:
        said = " ".join(str(error).split())[:120]
        raise FarError(
            f"{file_named(path.name)} cannot be laid out to be read in parts: {said}. Put its rows "
            "right, or write it as Parquet."
        ) from None
    return LaidOut((there,), {}, ())
