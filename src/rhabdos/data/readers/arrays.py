"""Read arrays of NumPy: one of an NPY file, or those of equal length of an NPZ file."""

import io
import tokenize
import zipfile
import zlib
from typing import TYPE_CHECKING, Any

import numpy as np

from rhabdos.data.files.opening import OpenFile, table_name
from rhabdos.data.limits import MOST_COLUMNS, ReadingError
from rhabdos.data.readers.frames import frame_columns
from rhabdos.data.reporting import Report
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.quoting import file_named, listed, quoted, shortened_to

if TYPE_CHECKING:
    import polars as pl

MOST_BYTES = 8 << 30
_Array = np.ndarray[Any, np.dtype[Any]]


def read_array(opened: OpenFile, report: Report, _how: Read | None = None) -> Table:
    """Read an NPY file: an array of one dimension is a variable, one of two has a variable a
    column, and one of records has one a field.

    Raises
    ------
    ReadingError
        It is damaged, or holds objects, or more dimensions than a table has.
    """
    name = file_named(opened.path.name)
    report(f"Reading {name}", None)
    array = _loaded(opened.whole(), name)
    columns, remarks = frame_columns(_frame({"Value": array}, name), name, report)
    return Table(table_name(opened.path), columns, tuple(remarks))


def read_arrays(opened: OpenFile, report: Report, how: Read | None = None) -> Table:
    """Read an NPZ file: arrays of one length are the variables of a table; ``how.table`` names one
    array alone.

    Raises
    ------
    ReadingError
        It is damaged, or its arrays are of several lengths and none was named.
    """
    name = file_named(opened.path.name)
    report(f"Reading {name}", None)
    arrays = _members(opened, name)
    remarks: list[str] = []
    if how is not None and how.table is not None:
        if how.table not in arrays:
            raise ReadingError(
                f"{name} has no array {quoted(how.table)}. It has {listed(list(arrays))}."
            )
        chosen = {how.table: arrays[how.table]}
    else:
        longest = max(map(_length, arrays.values()))
        chosen = {key: array for key, array in arrays.items() if _length(array) == longest}
        if others := [key for key in arrays if key not in chosen]:
            remarks.append(
                f"The arrays of {longest:,} rows were read; of other lengths are {listed(others)}."
            )
    columns, more = frame_columns(_frame(chosen, name), name, report)
    return Table(table_name(opened.path), columns, (*remarks, *more))


def array_names(opened: OpenFile) -> list[str]:
    """The arrays of an NPZ file, by name."""
    with zipfile.ZipFile(opened.stream()) as parts:
        return [part.removesuffix(".npy") for part in parts.namelist() if part.endswith(".npy")]


def _length(array: _Array) -> int:
    return array.shape[0] if array.ndim else 1


def _members(opened: OpenFile, name: str) -> dict[str, _Array]:
    try:
        with zipfile.ZipFile(opened.stream()) as parts:
            members = [part for part in parts.infolist() if part.filename.endswith(".npy")]
            if sum(part.file_size for part in members) > MOST_BYTES:
                raise ReadingError(
                    f"{name} would unpack to more than {MOST_BYTES >> 30} GiB. Save the arrays "
                    "that you need by themselves."
                )
            return {
                part.filename.removesuffix(".npy"): _loaded(parts.read(part), name)
                for part in members
            }
    except (zipfile.BadZipFile, zlib.error, OSError, EOFError, NotImplementedError) as error:
        raise _damaged(name, error) from error
    except RuntimeError:
        raise ReadingError(f"{name} is behind a password. Save it without one.") from None


def _loaded(content: bytes, name: str) -> _Array:
    """An array, of no more values than its bytes hold, whatever its head says."""
    stream = io.BytesIO(content)
    try:
        version = np.lib.format.read_magic(stream)
        read_head: Any = (
            np.lib.format.read_array_header_1_0
            if version == (1, 0)
            else np.lib.format.read_array_header_2_0
        )
        shape, _, kind = read_head(stream)
        size = int(np.prod([int(side) for side in shape], dtype=object)) * kind.itemsize
        if kind.hasobject:
            raise ReadingError(
                f"{name} holds objects of Python, which may run as programs and are not read. "
                "Save the array as numbers or texts."
            )
        if size > len(content) - stream.tell():
            raise ValueError("it is cut short")
        stream.seek(0)
        array: _Array = np.lib.format.read_array(stream, allow_pickle=False)
    except _FAULTS as error:
        raise _damaged(name, error) from error
    return array


# What reading a damaged head raises, which is a text of Python.
_FAULTS = (
    ValueError, TypeError, KeyError, SyntaxError, EOFError, OverflowError, RecursionError,
    tokenize.TokenError, SystemError, AttributeError,
)  # fmt: skip


def _damaged(name: str, error: Exception) -> ReadingError:
    return ReadingError(
        f"{name} cannot be read as arrays ({shortened_to(80, str(error))}). It may be damaged or "
        "cut short; write it again."
    )


def _frame(arrays: dict[str, _Array], name: str) -> "pl.DataFrame":
    import polars as pl

    series = [each for key, array in arrays.items() for each in _series(key, array, name)]
    if len(series) > MOST_COLUMNS:
        raise ReadingError(
            f"{name} has {len(series):,} columns; at most {MOST_COLUMNS:,} variables are read."
        )
    return pl.DataFrame(series)


def _series(key: str, array: _Array, name: str) -> "list[pl.Series]":
    if array.ndim == 0:
        array = array.reshape(1)
    if array.dtype.names:
        fields = [(field, array[field]) for field in array.dtype.names]
        return [_one(field, values, name) for field, values in fields]
    if array.ndim == 1:
        return [_one(key, array, name)]
    if array.ndim == 2:
        if array.shape[1] > MOST_COLUMNS:
            raise ReadingError(
                f"{name} has {array.shape[1]:,} columns; at most {MOST_COLUMNS:,} variables are "
                "read."
            )
        stem = "Column" if key == "Value" else key
        return [_one(f"{stem} {at + 1}", array[:, at], name) for at in range(array.shape[1])]
    raise ReadingError(
        f"{name} holds an array of {array.ndim} dimensions, and a table has two. Save it as one of "
        "rows and columns."
    )


def _one(key: str, values: _Array, name: str) -> "pl.Series":
    import polars as pl

    kind = values.dtype.kind
    if values.ndim != 1 or kind == "c":
        what = "complex numbers" if kind == "c" else "arrays within fields"
        raise ReadingError(f"{name} holds {what}, which are not drawn. Save their parts instead.")
    if kind in "US":
        try:
            texts = values if kind == "U" else np.char.decode(values, "utf-8", "replace")
            return pl.Series(key, texts.tolist(), dtype=pl.String)
        except (ValueError, SystemError, UnicodeError) as error:  # letters that are none
            raise _damaged(name, error) from error
    if kind == "f":
        # Columns of a matrix do not lie together, as series must.
        kept = np.float32 if values.dtype.itemsize == 4 else np.float64
        return pl.Series(key, np.ascontiguousarray(values, dtype=kept))
    if kind == "M":
        return pl.Series(key, values.astype("datetime64[us]"))
    if kind == "m":
        return pl.Series(key, values.astype("timedelta64[us]"))
    if kind in "iu":
        native = values.dtype.newbyteorder("=")
        return pl.Series(key, np.ascontiguousarray(values, dtype=native))
    if kind == "b":
        return pl.Series(key, np.ascontiguousarray(values))
    raise ReadingError(f"{name} holds values of a kind that is not drawn ({values.dtype}).")
