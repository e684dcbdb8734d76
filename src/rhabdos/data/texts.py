"""Text of fields, and what it says: numbers, dates, words for "missing"."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from rhabdos.arrays import BoolArray, FloatArray
from rhabdos.data.columns import (
    BLANK,
    CategoryColumn,
    Column,
    DateColumn,
    LabelColumn,
    NumberColumn,
    Stood,
)
from rhabdos.data.dialect import NO_VALUES
from rhabdos.data.pieces import in_halves
from rhabdos.quoting import quoted

if TYPE_CHECKING:
    import polars as pl

SHEET_ERRORS = ("#n/a", "#div/0!", "#value!", "#ref!", "#name?", "#num!", "#null!")
"""What a formula without a result says in a spreadsheet."""
# Read as missing wherever they stand …
MISSING_WORDS = ("na", "n/a", *SHEET_ERRORS)
# … and these among numbers and dates only: "none" or "-" may well be a level of a category.
MISSING_AMONG_NUMBERS = (*MISSING_WORDS, *NO_VALUES)
THOUSANDS = (",", ".", " ", "\u00a0", "\u202f", "'", "’", "_")
"""Marks that part thousands."""
_MOST_WORDS = 100
_DAY = 86_400e6  # microseconds
_WHOLE = 1e15  # below this, whole numbers are written without a point
OTHER_TEXT = "other text"
"""What stands for words that are too many to be counted one by one."""


class Notation(Struct, frozen=True):
    """How numbers and dates are written.

    Attributes
    ----------
    decimal : str
        "." or ",".
    thousands : str
        The mark between thousands, or empty.
    unit : str
        What stands behind every number, or empty.
    date : str
        How dates are written, such as "%d.%m.%Y"; empty where it is told from the dates.
    """

    decimal: str = "."
    thousands: str = ""
    unit: str = ""
    date: str = ""


PLAIN = Notation()


def missing_words(text: "pl.Series", among_numbers: bool) -> "pl.Series":
    """Which of the fields stand for a missing value, shape (rows,); a null does too."""
    bare = text.str.strip_chars()
    words = MISSING_AMONG_NUMBERS if among_numbers else MISSING_WORDS
    return bare.str.to_lowercase().is_in(["", *words]) | text.is_null()


def only_where(kept: "pl.Series", text: "pl.Series") -> "pl.Series":
    """The fields where ``kept`` is true, and null elsewhere."""
    import polars as pl

    return text.to_frame("t").select(pl.when(pl.lit(kept)).then(pl.col("t")).alias("t"))["t"]


def numbers_in(text: "pl.Series", notation: Notation = PLAIN) -> "pl.Series":
    """The fields as numbers; null where they are none."""
    import polars as pl

    figures = text.str.strip_chars()
    if notation.unit:
        figures = figures.str.strip_suffix(notation.unit).str.strip_chars()
    figures = figures.str.replace("−", "-", literal=True)
    if notation.thousands:
        mark, point = _escaped(notation.thousands), _escaped(notation.decimal)
        grouped = figures.str.contains(
            rf"^[-+]?[1-9]\d{{0,2}}(?:{mark}\d{{3}})+(?:{point}\d*)?$"
        ).fill_null(False)
        parted = figures.str.contains(notation.thousands, literal=True).fill_null(False)
        figures = only_where(grouped | ~parted, figures).str.replace_all(
            notation.thousands, "", literal=True
        )
    if notation.decimal != ".":
        pointed = figures.str.contains(".", literal=True).fill_null(False)
        figures = only_where(~pointed, figures).str.replace(notation.decimal, ".", literal=True)
    return figures.cast(pl.Float64, strict=False)


def as_float(text: str) -> float | None:
    """A number that was typed, with a true minus or not; None where it is none."""
    try:
        return float(text.replace("−", "-"))
    except ValueError:
        return None


def _escaped(mark: str) -> str:
    return f"\\{mark}" if mark in ".'" else mark


_DATES = (
    "%Y-%m-%d", "%Y/%m/%d", "%Y.%m.%d", "%d.%m.%Y", "%d/%m/%Y", "%m/%d/%Y", "%d-%m-%Y", "%m-%d-%Y",
    "%d %b %Y", "%d %B %Y", "%b %d, %Y", "%B %d, %Y", "%Y%m%d",
)  # fmt: skip
_TIMES = ("", " %H:%M:%S%.f", " %H:%M:%S", " %H:%M", "T%H:%M:%S%.f", "T%H:%M:%S", "T%H:%M")
_ZONED = ("T%H:%M:%S%.f%#z", " %H:%M:%S%.f%#z", "T%H:%M%#z")
DATE_ORDERS = {
    "year month day": ("%Y-%m-%d", "%Y/%m/%d", "%Y.%m.%d", "%Y%m%d"),
    "day month year": ("%d.%m.%Y", "%d/%m/%Y", "%d-%m-%Y", "%d %b %Y", "%d %B %Y"),
    "month day year": ("%m/%d/%Y", "%m-%d-%Y", "%b %d, %Y", "%B %d, %Y"),
}
_NOT_BY_ITSELF = ("%Y%m%d",)  # which might as well be numbers


def dates_in(text: "pl.Series", notation: Notation = PLAIN) -> "pl.Series":
    """The fields as days since 1970; null where they are no dates written so."""
    import polars as pl

    bare = text.str.strip_chars()
    if notation.date.endswith("%#z"):
        moments = bare.str.replace("Z$", "+00:00").str.to_datetime(
            notation.date, strict=False, time_unit="us", time_zone="UTC"
        )
        return _days(moments.dt.replace_time_zone(None))
    if "%H" in notation.date:
        return _days(bare.str.to_datetime(notation.date, strict=False, time_unit="us"))
    dates = bare.str.to_date(notation.date or _DATES[0], strict=False)
    return dates.cast(pl.Int32).cast(pl.Float64)


def _days(moments: "pl.Series") -> "pl.Series":
    import polars as pl

    return moments.dt.epoch("us").cast(pl.Float64) / _DAY


def date_notations(text: "pl.Series", asked: bool = False) -> list[Notation]:
    """The ways of writing dates in which all fields are dates, the likeliest first.

    ``asked`` also tries those that might as well be numbers.
    """
    glance = text.head(1_000)
    if not len(glance):
        return []
    longest = int(glance.str.len_chars().max() or 0)  # type: ignore[arg-type]
    if longest < 6 or longest > 40 or not glance.str.contains(r"\d").all():
        return []
    fitting = []
    for date in _DATES:
        if date in _NOT_BY_ITSELF and not asked:
            continue
        for time in (*_TIMES, *_ZONED):
            notation = Notation(date=date + time)
            if dates_in(glance, notation).null_count() == glance.null_count():
                whole = text if len(text) > len(glance) else glance
                if dates_in(whole, notation).null_count() == whole.null_count():
                    fitting.append(notation)
                    break
    return fitting


def all_date_notations() -> list[Notation]:
    """Every way of writing dates that is known."""
    return [Notation(date=date + time) for date in _DATES for time in (*_TIMES, *_ZONED)]


def stood_of(texts: "pl.Series", gone: "pl.Series") -> tuple[dict[str, int], Stood | None]:
    """How often what stood in the rows that are gone, and in which; blanks are counted only."""
    import polars as pl

    rows = gone.arg_true()
    if not len(rows):
        return {}, None
    words = texts.cast(pl.String).gather(rows).str.strip_chars().fill_null("")
    blank = int((words == "").sum())
    missing_as = {BLANK: blank} if blank else {}
    if blank == len(words):
        return missing_as, None
    said = (words != "").arg_true()
    words, rows = words.gather(said), rows.gather(said)
    counted = words.value_counts(sort=True)
    common = counted.head(_MOST_WORDS)
    names = tuple(str(word) for word in common.to_series(0).to_list())
    missing_as |= dict(zip(names, common.to_series(1).to_list(), strict=True))
    places = {name: place for place, name in enumerate(names)}
    if len(counted) > len(names):
        missing_as[OTHER_TEXT] = len(words) - int(common.to_series(1).sum())
        names = (*names, OTHER_TEXT)
    codes = words.replace_strict(places, default=len(places), return_dtype=pl.Int16).to_numpy()
    return missing_as, Stood(rows.to_numpy().astype(np.int64), codes, names)


def words_by_count(words: Mapping[str, int], most: int) -> str:
    """The most common words with their counts: "“broken” 9, “lost” 5 and 3 more"."""
    named = {word: count for word, count in words.items() if word != OTHER_TEXT}
    common = sorted(named.items(), key=lambda pair: -pair[1])
    shown = ", ".join(f"{quoted(word, 24)} {count:,}" for word, count in common[:most])
    rest = sum(words.values()) - sum(count for _, count in common[:most])
    return f"{shown} and {rest:,} more" if rest else shown


def joined_stood(parts: Sequence[Stood | None]) -> Stood | None:
    """What stood in rows of several kinds together; a row is in one of them only."""
    known = [part for part in parts if part is not None and len(part.rows)]
    if len(known) < 2:
        return known[0] if known else None
    words = tuple(dict.fromkeys(word for part in known for word in part.words))
    places = {word: place for place, word in enumerate(words)}
    rows = np.concatenate([part.rows for part in known])
    codes = np.concatenate(
        [np.array([places[w] for w in part.words], np.int32)[part.codes] for part in known]
    )
    order = np.argsort(rows, kind="stable")
    return Stood(rows[order], codes[order], words)


def missing_rows(column: Column) -> BoolArray:
    """Which rows have no value, shape (rows,), as truths."""
    if isinstance(column, NumberColumn):
        return np.isnan(column.values)
    if isinstance(column, CategoryColumn):
        return column.codes < 0
    assert isinstance(column, LabelColumn)
    gone: BoolArray = label_series(column).is_null().to_numpy()
    return gone


def label_series(column: LabelColumn) -> "pl.Series":
    """The labels of a column, whatever holds them."""
    import polars as pl

    if isinstance(column.texts, pl.Series):
        return column.texts
    return pl.Series(column.name, list(column.texts), dtype=pl.String)


def texts_of(column: Column) -> "pl.Series":
    """The fields of a column as text: as they were written where that is known, else as they are
    shown; null where a value is missing."""
    import polars as pl

    if isinstance(column, LabelColumn):
        return label_series(column)
    if column.original is not None:
        return only_where(~pl.Series(missing_rows(column)), column.original().cast(pl.String))
    if isinstance(column, CategoryColumn):
        codes = pl.Series(column.codes.astype(np.int32))
        codes = only_where(codes >= 0, codes)
        levels = dict(enumerate(column.levels))
        return codes.replace_strict(levels, default=None, return_dtype=pl.String)
    assert isinstance(column, NumberColumn)
    known = pl.Series(column.values).fill_nan(None)
    if isinstance(column, DateColumn):
        microseconds = (known * _DAY).round().cast(pl.Int64)
        written = microseconds.cast(pl.Datetime("us")).dt.strftime("%Y-%m-%d %H:%M:%S")
        return written.str.strip_suffix(" 00:00:00").str.strip_suffix(":00")
    whole = bool(((known == known.round()) & (known.abs() < _WHOLE)).all())
    return (known.cast(pl.Int64) if whole else known).cast(pl.String)


def float_array(numbers: "pl.Series") -> FloatArray:
    """Numbers as an array, NaN where null."""
    import polars as pl

    numbers = numbers.cast(pl.Float64)
    if numbers.n_chunks() == 1:
        return numbers.to_numpy()
    values = np.empty(len(numbers))
    chunks = numbers.get_chunks()
    starts = np.cumsum([0, *(len(chunk) for chunk in chunks)])

    def copy(piece: slice) -> None:
        """The numbers of some chunks."""
        for at in range(piece.start, piece.stop):
            values[starts[at] : starts[at + 1]] = chunks[at].to_numpy()

    in_halves(len(chunks), copy)
    return values
