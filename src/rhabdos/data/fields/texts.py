"""Text of fields: words for "missing", what stood where, and columns written as text again."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np

from rhabdos.arrays import BoolArray, FloatArray
from rhabdos.data.chunks import in_halves
from rhabdos.data.columns import (
    BLANK,
    CategoryColumn,
    Column,
    DateColumn,
    LabelColumn,
    NumberColumn,
    Stood,
)
from rhabdos.data.fields.names import NO_VALUES
from rhabdos.quoting import quoted

if TYPE_CHECKING:
    import polars as pl

SHEET_ERRORS = ("#n/a", "#div/0!", "#value!", "#ref!", "#name?", "#num!", "#null!")
"""What a formula without a result says in a spreadsheet."""
# Read as missing wherever they stand …
MISSING_WORDS = ("na", "n/a", "n.a.", *SHEET_ERRORS)
# … and these among numbers and dates only: "none" or "-" may well be a level of a category.
MISSING_AMONG_NUMBERS = (*MISSING_WORDS, *NO_VALUES)
_MOST_WORDS = 100  # the commonest, among which words for missing are looked for
DAY = 86_400e6
"""Microseconds."""
_WHOLE = 1e15  # below this, whole numbers are written without a point
OTHER_TEXT = "other text"
"""What stands for words that are too many to be counted one by one."""


def over(numbers: "pl.Series", divisor: float) -> "pl.Series":
    """Numbers divided by one, rounded once: polars would multiply by one over it, and be off in
    the last digit."""
    import polars as pl

    each = pl.repeat(divisor, len(numbers), dtype=pl.Float64, eager=True)
    return numbers.cast(pl.Float64) / each


def days_of(moments: "pl.Series") -> "pl.Series":
    """Moments as days since 1970."""
    return over(moments.dt.epoch("us"), DAY)


def missing_words(text: "pl.Series", among_numbers: bool) -> "pl.Series":
    """Which of the fields stand for a missing value, shape (rows,); a null does too."""
    bare = text.str.strip_chars()
    words = MISSING_AMONG_NUMBERS if among_numbers else MISSING_WORDS
    return bare.str.to_lowercase().is_in(["", *words]) | text.is_null()


def only_where(kept: "pl.Series", text: "pl.Series") -> "pl.Series":
    """The fields where ``kept`` is true, and null elsewhere."""
    import polars as pl

    return text.to_frame("t").select(pl.when(pl.lit(kept)).then(pl.col("t")).alias("t"))["t"]


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
    places = {name: index for index, name in enumerate(names)}
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
    places = {word: index for index, word in enumerate(words)}
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
        return _dates_written((known * DAY).round().cast(pl.Int64))
    whole = bool(((known == known.round()) & (known.abs() < _WHOLE)).all())
    return known.cast(pl.Int64).cast(pl.String) if whole else _without_point(known.cast(pl.String))


def _without_point(numbers: "pl.Series") -> "pl.Series":
    """Whole numbers among others as 2, and not as 2.0."""
    return numbers.str.strip_suffix(".0")


def _dates_written(microseconds: "pl.Series") -> "pl.Series":
    """Moments as 2026-05-31, with their time of day where they have one, to the parts of seconds
    that they have."""
    import polars as pl

    moments = microseconds.cast(pl.Datetime("us"))
    written = moments.dt.strftime("%Y-%m-%d %H:%M:%S")
    whole = written.str.strip_suffix(" 00:00:00").str.strip_suffix(":00")
    parts = moments.dt.microsecond() != 0
    if not parts.any():
        return whole
    exact = (written + moments.dt.strftime("%.6f")).str.strip_chars_end("0")
    return exact.zip_with(parts.fill_null(False), whole)


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
