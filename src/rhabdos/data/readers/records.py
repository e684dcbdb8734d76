"""Read JSON: a list of records, or one record a line."""

import io
import json
import re
from collections.abc import Collection, Iterator
from typing import TYPE_CHECKING, Any

import msgspec

from rhabdos.data.fields.names import unique_names
from rhabdos.data.files.encodings import encoding_of
from rhabdos.data.files.opening import OpenFile, table_name
from rhabdos.data.limits import MOST_COLUMNS, ReadingError
from rhabdos.data.readers.frames import frame_columns
from rhabdos.data.reporting import Report
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.quoting import file_named, quoted, shortened_to

if TYPE_CHECKING:
    import polars as pl

_HEAD_BYTES = 1 << 12  # in which GeoJSON says that it is one
_LONGEST_RECORD = 1 << 24  # bytes in which the first record must end to be looked at
_DEEPEST = 6  # objects within objects that are told apart
_NOT_FINITE = (b"NaN", b"Infinity")  # no JSON, and yet written by many programs
_ALONE = "Value"  # what the variable is called that a list of values is
_EVERY = 50_000  # lines between reports


def read_records(opened: OpenFile, report: Report, how: Read | None = None) -> Table:
    """Read a list of JSON objects, or JSON lines; what a record lacks is missing. A list of plain
    values is a variable.

    Objects within a record are told apart by names such as "site.name"; of GeoJSON the properties
    are read. Lists are read as text, and so are fields of mixed kinds.

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
    told: list[str] = []
    if _is_geojson(content):
        frame = _frame(list(_features(content, name, told)), name, report)
    else:
        _refuse_wide(content, name)
        quick = _quickly(content)
        frame = (
            quick
            if quick is not None
            else _frame(list(_records(content, name, report)), name, report)
        )
    columns, remarks = frame_columns(frame, name, report)
    return Table(table_name(opened.path), columns, (*told, *remarks))


def _refuse_wide(content: bytes, name: str) -> None:
    """Refuse records of too many names before more than the first one is looked at."""
    head = content[:_LONGEST_RECORD].decode("utf-8", "ignore").lstrip("\ufeff \t\r\n[")
    try:
        first, _ = json.JSONDecoder().raw_decode(head)
    except (ValueError, RecursionError):
        return
    if isinstance(first, dict):
        _refuse_many(len(first), name)


def _refuse_many(count: int, name: str) -> None:
    if count > MOST_COLUMNS:
        raise ReadingError(
            f"{name} has {count:,} names in its records; at most {MOST_COLUMNS:,} variables are "
            "read. Take a part of them."
        )


def _is_geojson(content: bytes) -> bool:
    # What it is stands as its type, beside what any feature has; records may have fields so named.
    head = content[:_HEAD_BYTES]
    told = re.search(rb'"type"\s*:\s*"Feature(Collection)?"', head) is not None
    return told and (b'"geometry"' in head or b'"properties"' in head)


def _features(content: bytes, name: str, told: list[str]) -> Iterator[dict[str, Any]]:
    """The properties of the features of GeoJSON; their shapes stay out, which is told."""
    bare = content.lstrip(b"\xef\xbb\xbf \t\r\n\x1e")
    lines = bare.splitlines()
    if len(lines) > 1 and all(line.lstrip(b"\x1e").startswith(b"{") for line in lines[:2]):
        features = [_whole(line.lstrip(b"\x1e"), name) for line in lines if line.strip(b"\x1e ")]
    else:
        whole = _whole(bare, name)
        listed = whole.get("features") if isinstance(whole, dict) else None
        features = [whole] if listed is None else listed
    if not isinstance(features, list):
        raise ReadingError(f"{name} is GeoJSON without a list of features. Save it again.")
    told.append(f"The shapes of {name} stayed out; the properties of its features were read.")
    for number, feature in enumerate(features, 1):
        properties = feature.get("properties") if isinstance(feature, dict) else None
        record = dict(properties) if isinstance(properties, dict) else {}
        if isinstance(feature, dict) and "id" in feature and "id" not in record:
            record = {"id": feature["id"], **record}
        yield _record(record, f"feature {number:,}", name)


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
        whole = _whole(bare, name)
        if whole and isinstance(whole[0], list):
            yield from _of_lists(whole, name)
            return
        if whole and not any(isinstance(value, dict | list) for value in whole):
            yield from ({_ALONE: value} for value in whole)
            return
        for number, record in enumerate(whole, 1):
            yield _record(record, f"record {number:,}", name)
        return
    lines = bare.splitlines()
    if len(lines) == 1:
        yield from _within(_whole(bare, name), name)
        return
    first_fault = None
    for number, line in enumerate(lines, 1):
        if number % _EVERY == 0:
            report(f"Reading {name}, {number:,} records so far", number / len(lines))
        if not line.strip():
            continue
        try:
            record = _decoded(line)
        except (ValueError, RecursionError) as error:
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


def _decoded(content: bytes) -> Any:
    """What JSON says; NaN and Infinity, which many programs write, are numbers too."""
    try:
        return msgspec.json.decode(content)
    except msgspec.DecodeError:
        if not any(word in content for word in _NOT_FINITE):
            raise
        return json.loads(content)


def _whole(content: bytes, name: str, of_first_line: str = "") -> Any:
    try:
        return _decoded(content)
    except (ValueError, RecursionError) as error:
        fault = of_first_line or str(error) or "too deep"
        raise ReadingError(
            f"{name} looks like JSON but is none: {shortened_to(80, fault)}. It may be cut short; "
            "correct it, or save it again."
        ) from None


def _within(whole: Any, name: str) -> Iterator[dict[str, Any]]:
    """Records in an object: in its only list of such, wherever that lies; as rows beside a list of
    their names; as columns of equal length; or itself."""
    if isinstance(whole, dict):
        if (records := _only_records(whole)) is not None:
            yield from records
            return
        lists = {key: value for key, value in whole.items() if isinstance(value, list)}
        if (named := _rows_beside_names(lists)) is not None:
            yield from _of_lists(named, name)
            return
        if lists and len(lists) == len(whole) and len({len(v) for v in lists.values()}) == 1:
            for values in zip(*lists.values(), strict=True):
                yield dict(zip(lists, values, strict=True))
            return
        columns = [value for value in whole.values() if isinstance(value, dict)]
        if _by_columns(whole, columns):
            rows = dict.fromkeys(row for column in columns for row in column)
            for row in rows:
                yield {key: column.get(row) for key, column in whole.items()}
            return
    yield _record(whole, "it", name)


def _only_records(whole: dict[str, Any]) -> list[Any] | None:
    """The list of objects in an object that has one, or in the objects within it: what a service
    answers often has them beneath "result" or "data". None where there is none, or are several."""
    level = [whole]
    for _depth in range(_DEEPEST):
        values = [value for each in level for value in each.values()]
        lists = [v for v in values if isinstance(v, list) and v]
        records = [v for v in lists if all(isinstance(each, dict) for each in v)]
        if records:
            return records[0] if len(records) == 1 else None
        level = [value for value in values if isinstance(value, dict)]
    return None


def _rows_beside_names(lists: dict[str, list[Any]]) -> list[list[Any]] | None:
    """The names, and the rows beneath them, of a list of texts and a list of lists as long as
    that; None where these are not there, or not alone."""
    names = [v for v in lists.values() if v and all(isinstance(each, str) for each in v)]
    rows = [v for v in lists.values() if v and all(isinstance(each, list) for each in v)]
    if len(names) != 1 or len(rows) != 1:
        return None
    alike = all(len(row) == len(names[0]) for row in rows[0])
    return [names[0], *rows[0]] if alike else None


def _by_columns(whole: dict[str, Any], columns: list[dict[str, Any]]) -> bool:
    """Whether an object holds columns, each an object of the same rows."""
    if not columns or len(columns) < len(whole):
        return False
    first = list(columns[0])
    alike = all(len(column) == len(first) and list(column) == first for column in columns)
    plain = not any(isinstance(v, dict | list) for column in columns for v in column.values())
    return alike and plain and ((len(first) > 1 and len(columns) > 1) or first[:1] == ["0"])


def _of_lists(rows: list[Any], name: str) -> Iterator[dict[str, Any]]:
    """Rows that are lists, the first of which may hold names."""
    width = max(len(row) for row in rows if isinstance(row, list))
    _refuse_many(width, name)
    named = all(isinstance(field, str) for field in rows[0]) and len(rows) > 1
    names, _ = unique_names(tuple(rows[0]) if named else (), width)
    for number, row in enumerate(rows[1:] if named else rows, 1):
        if not isinstance(row, list):
            raise ReadingError(
                f"{name} is JSON of rows that are lists, but row {number:,} is none. Correct it."
            )
        yield dict(zip(names, row, strict=False))


def _record(record: object, where: str, name: str) -> dict[str, Any]:
    if not isinstance(record, dict):
        raise ReadingError(
            f"{name} is JSON but no list of records: {where} is "
            f"{quoted(shortened_to(30, str(record)))}. Each record must be an object, such as "
            '{"length": 64.5}.'
        )
    return record


def _frame(records: list[dict[str, Any]], name: str, report: Report) -> "pl.DataFrame":
    """Columns of records; a field of one kind stays so, all others become text."""
    import polars as pl

    nested = any(isinstance(value, dict) for record in records for value in record.values())
    if nested:
        records = [_flat(record) for record in records]
    names: dict[str, None] = {}
    for record in records:
        names.update(dict.fromkeys(record))
        _refuse_many(len(names), name)
    columns = []
    for index, field in enumerate(names):
        if index % 20 == 0:
            report(f"Reading {shortened_to(60, field)}", index / len(names))
        values = [record.get(field) for record in records]
        # An object that is null in some records has fields of its own, and no values itself.
        if nested and all(value is None for value in values) and _is_opened(field, names):
            continue
        columns.append(_series(field, values))
    if not columns:
        return pl.DataFrame()
    return pl.DataFrame(columns)


def _is_opened(field: str, names: Collection[str]) -> bool:
    """Whether a field is an object whose own fields are among the names."""
    return any(name.startswith(f"{field}.") for name in names)


def _flat(record: dict[str, Any]) -> dict[str, Any]:
    """A record whose objects are told apart by names such as "site.name"."""
    flat: dict[str, Any] = {}
    left = [(key, value, 1) for key, value in reversed(record.items())]
    while left:
        key, value, depth = left.pop()
        if isinstance(value, dict) and value and depth < _DEEPEST:
            inner = reversed(value.items())
            left += [(f"{key}.{within}", part, depth + 1) for within, part in inner]
        else:
            flat[key] = value
    return flat


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
