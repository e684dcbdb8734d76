"""Read JSON: a list of records, or one record a line."""

import io
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

import msgspec

from rhabdos.data.dialect import ReadingError
from rhabdos.data.encodings import encoding_of
from rhabdos.data.gathering import Report
from rhabdos.data.opening import OpenFile, table_name
from rhabdos.data.readers.frames import frame_columns
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.quoting import file_named, quoted, shortened_to

if TYPE_CHECKING:
    import polars as pl

_EVERY = 50_000  # lines between reports


def read_records(opened: OpenFile, report: Report, how: Read | None = None) -> Table:
    """Read a list of JSON objects, or JSON lines; what a record lacks is missing.

    Values within values (lists, tables) are read as text, and so are fields of mixed kinds.

    Raises
    ------
    ReadingError
        It is no JSON, or no list of records.
    """
    name = file_named(opened.path.name)
    report(f"Reading {name}", None)
    content = opened.whole()
    encoding, _ = encoding_of(content[: 1 << 16], name)
    if encoding != "utf-8":
        content = _recoded(content, encoding, name)
    frame = _quickly(content)
    if frame is None:
        frame = _frame(list(_records(content, name, report)), report)
    columns, remarks = frame_columns(frame, name, report)
    return Table(table_name(opened.path), columns, tuple(remarks))


def _recoded(content: bytes, encoding: str, name: str) -> bytes:
    try:
        return content.decode(encoding).encode()
    except UnicodeError:
        raise ReadingError(
            f"{name} cannot be read as {encoding}. Save it in UTF-8, as JSON is."
        ) from None


def _quickly(content: bytes) -> "pl.DataFrame | None":
    """The frame of records whose fields are of one kind each; None of all others."""
    import polars as pl

    start = content[:64].lstrip()[:1]
    read: Any = pl.read_json if start == b"[" else pl.read_ndjson
    try:
        frame: pl.DataFrame = read(io.BytesIO(content), infer_schema_length=None)
    except (pl.exceptions.PolarsError, ValueError, pl.exceptions.PanicException):
        return None
    odd = any(dtype.is_nested() or dtype == pl.Object for dtype in frame.dtypes)
    return None if odd or not frame.width else frame


def _records(content: bytes, name: str, report: Report) -> Iterator[dict[str, Any]]:
    """Record by record, whatever the kinds of their fields."""
    bare = content.lstrip()
    if bare[:1] == b"[":
        for number, record in enumerate(_whole(bare, name), 1):
            yield _record(record, f"record {number:,}", name)
        return
    lines = bare.splitlines()
    if len(lines) == 1:
        yield from _within(_whole(bare, name), name)
        return
    decoder = msgspec.json.Decoder()
    first_fault = None
    for number, line in enumerate(lines, 1):
        if number % _EVERY == 0:
            report(f"Reading {name}, {number:,} records so far", number / len(lines))
        if not line.strip():
            continue
        try:
            record = decoder.decode(line)
        except (msgspec.DecodeError, RecursionError) as error:
            first_fault = number, str(error)
            break
        yield _record(record, f"line {number:,}", name)
    if first_fault is None:
        return
    number, fault = first_fault
    if number == 1:  # perhaps one object over several lines
        whole = _whole(bare, name, of_first_line=fault)
        yield from _within(whole, name)
        return
    raise ReadingError(
        f"Line {number:,} of {name} is no JSON ({shortened_to(80, fault)}). Correct it, and open "
        "the file again."
    )


def _whole(content: bytes, name: str, of_first_line: str = "") -> Any:
    try:
        return msgspec.json.decode(content)
    except (msgspec.DecodeError, RecursionError) as error:
        fault = of_first_line or str(error) or "too deep"
        raise ReadingError(
            f"{name} looks like JSON but is none: {shortened_to(80, fault)}. It may be cut short; "
            "correct it, or save it again."
        ) from None


def _within(whole: Any, name: str) -> Iterator[dict[str, Any]]:
    """Records in an object: in its only list, or as lists of equal length, or itself."""
    if isinstance(whole, dict):
        lists = {key: value for key, value in whole.items() if isinstance(value, list)}
        records = [v for v in lists.values() if v and all(isinstance(r, dict) for r in v)]
        if len(records) == 1:
            yield from records[0]
            return
        if lists and len(lists) == len(whole) and len({len(v) for v in lists.values()}) == 1:
            for values in zip(*lists.values(), strict=True):
                yield dict(zip(lists, values, strict=True))
            return
    yield _record(whole, "it", name)


def _record(record: object, where: str, name: str) -> dict[str, Any]:
    if not isinstance(record, dict):
        raise ReadingError(
            f"{name} is JSON but no list of records: {where} is "
            f"{quoted(shortened_to(30, str(record)))}. Each record must be an object, such as "
            '{"length": 64.5}.'
        )
    return record


def _frame(records: list[dict[str, Any]], report: Report) -> "pl.DataFrame":
    """Columns of records; a field of one kind stays so, all others become text."""
    import polars as pl

    names: dict[str, None] = {}
    for record in records:
        names.update(dict.fromkeys(record))
    columns = []
    for place, name in enumerate(names):
        report(f"Reading {shortened_to(60, name)}", place / len(names))
        values = [record.get(name) for record in records]
        columns.append(_series(name, values))
    if not columns:
        return pl.DataFrame()
    return pl.DataFrame(columns)


def _series(name: str, values: list[Any]) -> "pl.Series":
    import polars as pl

    kinds = {type(value) for value in values} - {type(None)}
    if kinds == {bool}:
        return pl.Series(name, values, dtype=pl.Boolean)
    if kinds <= {int, float} and kinds:
        whole = kinds == {int} and all(v is None or abs(v) < 1 << 62 for v in values)
        return pl.Series(name, values, dtype=pl.Int64 if whole else pl.Float64, strict=False)
    return pl.Series(name, [_text(value) for value in values], dtype=pl.String)


def _text(value: Any) -> str | None:
    if value is None or isinstance(value, str):
        return value
    return msgspec.json.encode(value).decode()
