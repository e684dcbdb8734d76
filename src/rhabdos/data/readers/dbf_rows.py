"""The rows of a DBF table, read by the library in a process of its own: see `rhabdos.apart`."""

import shutil
import tempfile
import warnings
from pathlib import Path
from typing import Any, BinaryIO

import dbf
import polars as pl

from rhabdos.apart import Answer
from rhabdos.data.limits import ReadingError
from rhabdos.data.readers.guarded import arrow_of
from rhabdos.quoting import shortened_to
from rhabdos.wording import counted


def table(source: BinaryIO, options: dict[str, Any]) -> Answer:
    """All rows that are not struck out, as bytes of Arrow. Asked is ``name``."""
    name: str = options["name"]
    warnings.simplefilter("ignore")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "table.dbf"  # the library opens files by name only
        with path.open("wb") as copy:
            shutil.copyfileobj(source, copy)
        try:
            frame, struck = _frame(path, options.get("encoding"))
        except (dbf.DbfError, ValueError, IndexError, KeyError, LookupError, OSError) as error:
            raise ReadingError(
                f"{name} cannot be read as a DBF table ({shortened_to(80, str(error))}). It may be "
                "damaged; copy it again."
            ) from error
    rows = counted(struck, "row that is", "rows that are")
    remarks = [f"{rows} struck out in {name} stayed out."] if struck else []
    return {"remarks": remarks, "memos": frame.width == 0}, arrow_of(frame)


def _frame(path: Path, encoding: str | None) -> tuple[pl.DataFrame, int]:
    with dbf.Table(str(path), ignore_memos=True, codepage=encoding).open(dbf.READ_ONLY) as rows:
        names = [str(name) for name in rows.field_names]
        columns: list[list[Any]] = [[] for _ in names]
        struck = 0
        for row in rows:
            if dbf.is_deleted(row):
                struck += 1
                continue
            for column, value in zip(columns, row, strict=True):
                column.append(value)
    series = [_series(name, values) for name, values in zip(names, columns, strict=True)]
    return pl.DataFrame(series), struck


def _series(name: str, values: list[Any]) -> pl.Series:
    """Numbers, dates and truths as such, all else as text without the blanks that fill it up."""
    plain = [None if not _known(value) else value for value in values]
    kinds = {type(value) for value in plain} - {type(None)}
    if kinds == {bool}:
        return pl.Series(name, plain, dtype=pl.Boolean)
    if kinds and kinds <= {int, float}:
        return pl.Series(name, plain, dtype=pl.Float64, strict=False)
    if kinds and all(issubclass(kind, _dates) for kind in kinds):
        return pl.Series(name, plain)
    return pl.Series(
        name, [None if v is None else str(v).strip() or None for v in plain], dtype=pl.String
    )


_dates = __import__("datetime").date


def _known(value: Any) -> bool:
    """Whether a field holds anything: the library has values of its own for nothing."""
    return value is not None and value is not dbf.Unknown and bool(value or value in (0, False, ""))
