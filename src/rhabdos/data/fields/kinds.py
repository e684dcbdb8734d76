"""Decide a column's kind from what was read, and make columns of a kind that is asked for.

Whatever has no place in a kind counts as missing, by what stood there, and stays known.
"""

from typing import TYPE_CHECKING

import numpy as np
from msgspec import structs

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.columns import (
    BLANK,
    INFINITE,
    CategoryColumn,
    Column,
    DateColumn,
    Grouping,
    LabelColumn,
    NumberColumn,
    Stood,
    Texts,
)
from rhabdos.data.fields.calendars import date_notation, dates_in, read_in_utc
from rhabdos.data.fields.coding import Coded, coded_texts, codes_for
from rhabdos.data.fields.few_rows import FEW, column_of_few
from rhabdos.data.fields.levels import MOST_LEVELS, as_pair, pair_of, paired, repeats
from rhabdos.data.fields.notation import PLAIN, Doubt, Notation
from rhabdos.data.fields.numerals import doubts_of_numbers, number_notation, numbers_in
from rhabdos.data.fields.singles import doubles_of
from rhabdos.data.fields.texts import (
    days_of,
    float_array,
    joined_stood,
    missing_words,
    only_where,
    over,
    stood_of,
)
from rhabdos.data.limits import LONGEST_NAME

if TYPE_CHECKING:
    import polars as pl

_NO_LETTERS = r"[\x00-\x08\x0e-\x1f\x7f]"
_SHORT_RANGE = 100_000  # whole numbers that a table by number is made of


# From what was read


def column_from(
    name: str, series: "pl.Series", usual: Notation = PLAIN, original: Texts | None = None
) -> Column:
    """Turn a column as read into the kind that it looks like.

    ``original`` reads its fields again as they were written, where the reader keeps less.
    """
    import polars as pl

    if series.dtype == pl.Boolean:
        return grouped(name, series.cast(pl.String))
    if isinstance(series.dtype, pl.Enum):
        return _in_order(name, series)
    if series.dtype == pl.Binary and (letters := letters_of(series)) is not None:
        return column_from(name, letters, usual, original)
    if series.dtype.is_nested() or series.dtype in (pl.Binary, pl.Object):
        return as_label(name, _as_text(series))
    if series.dtype.is_integer() and not fits_double(series):
        return as_label(name, series.cast(pl.String))
    if series.dtype == pl.Float32:
        series = doubles_of(series)
    if series.dtype.is_numeric():
        return number_column(name, series, {}, None, original)
    if series.dtype.is_temporal():
        return _moments(name, series)
    if series.dtype == pl.Categorical:
        return grouped(name, series)
    if len(series) <= FEW and series.dtype == pl.String and original is None:
        few = column_of_few(name, series, usual)
        if few is not None:
            return few
    text = series.cast(pl.String)
    notation = number_notation(text, usual)
    if notation is not None:
        doubts = () if notation == PLAIN else doubts_of_numbers(text, notation)
        return as_number(name, text, notation, doubts)
    if (dates := date_notation(text)) is not None:
        return as_dates(name, text, *dates)
    return grouped(name, text)


def letters_of(series: "pl.Series") -> "pl.Series | None":
    """Bytes as the text that they are, as older programs keep texts; None where some are none."""
    import polars as pl

    try:
        letters = series.cast(pl.String)
    except pl.exceptions.ComputeError:
        return None
    return None if letters.str.contains(_NO_LETTERS).any() else letters


def fits_double(whole: "pl.Series") -> bool:
    """Whether whole numbers lose no digit as floating numbers; identifiers of 17 digits do."""
    import polars as pl

    low, high = whole.min(), whole.max()
    if low is None or max(abs(int(low)), abs(int(high))) <= 1 << 53:  # type: ignore[arg-type]
        return True
    return bool((whole.cast(pl.Float64).cast(pl.Int128) == whole.cast(pl.Int128)).all())


def _as_text(series: "pl.Series") -> "pl.Series":
    """Lists, tables within fields and bytes, as text."""
    import json

    import polars as pl

    if series.dtype == pl.Binary:
        return series.bin.encode("hex")
    texts = [
        None if value is None else json.dumps(value, ensure_ascii=False, default=str)
        for value in series.to_list()
    ]
    return pl.Series(series.name, texts, dtype=pl.String)


def _in_order(name: str, series: "pl.Series") -> CategoryColumn:
    """Levels whose order the file itself gives."""
    import polars as pl

    assert isinstance(series.dtype, pl.Enum)
    levels = tuple(series.dtype.categories.to_list())
    codes = series.to_physical().cast(pl.Int32).fill_null(-1).to_numpy()
    missing_as = {BLANK: series.null_count()} if series.null_count() else {}
    return CategoryColumn(
        name,
        missing_as=missing_as,
        codes=codes.astype(codes_for(len(levels))),
        levels=levels,
        grouping="ordered category",
    )


def grouped(name: str, text: "pl.Series") -> CategoryColumn | LabelColumn:
    """Levels where they come back often enough, else labels."""
    import polars as pl

    coded = coded_texts(text, MOST_LEVELS)
    if coded is not None:
        column = _of_codes(name, text, coded, "category")
        longest = max((len(level) for level in column.levels), default=0)
        if longest <= LONGEST_NAME and repeats(len(column.levels), column.n):
            return as_pair(column)
    return as_label(name, text.cast(pl.String))


# Of a kind that is asked for


def as_number(
    name: str, text: "pl.Series", notation: Notation = PLAIN, doubts: tuple[Doubt, ...] = ()
) -> NumberColumn:
    """Numbers; what is none counts as missing."""
    numbers = numbers_in(text, notation)
    missing_as, stood = stood_of(text, numbers.is_null())
    original = None if notation == PLAIN and not stood else _known(text)
    column = number_column(name, numbers, missing_as, stood, original, notation.unit)
    return structs.replace(column, doubts=doubts) if doubts else column


def _known(text: "pl.Series") -> Texts:
    return lambda: text


def number_column(
    name: str,
    series: "pl.Series",
    missing_as: dict[str, int],
    stood: Stood | None,
    original: Texts | None,
    unit: str = "",
) -> NumberColumn:
    """A column of numbers, of which none is infinite; what stood in place of those that are null
    was counted before, or is blank."""
    missing = dict(missing_as)
    blank = series.null_count() - sum(missing.values())
    if blank:
        missing[BLANK] = missing.get(BLANK, 0) + blank
    values = float_array(series)
    finite = np.isfinite(values)
    if int(np.count_nonzero(finite)) + series.null_count() < len(values):
        values = np.where(finite, values, np.nan)
        endless = np.flatnonzero(np.isinf(float_array(series)))
        undefined = np.flatnonzero(~finite & ~series.is_null().to_numpy())
        undefined = np.setdiff1d(undefined, endless, assume_unique=True)
        for rows, word in ((undefined, "NaN"), (endless, INFINITE)):
            if len(rows):
                missing[word] = missing.get(word, 0) + len(rows)
                stood = joined_stood([stood, Stood(rows, np.zeros(len(rows), np.int16), (word,))])
    return NumberColumn(
        name, unit=unit, missing_as=missing, stood=stood, original=original, values=values
    )


def as_dates(
    name: str, text: "pl.Series", notation: Notation, doubts: tuple[Doubt, ...] = ()
) -> DateColumn:
    """Dates; what is none counts as missing."""
    days = dates_in(text, notation)
    missing_as, stood = stood_of(text, days.is_null())
    return DateColumn(
        name,
        missing_as=missing_as,
        stood=stood,
        original=_known(text),
        doubts=doubts,
        values=float_array(days),
    )


def _moments(name: str, series: "pl.Series") -> Column:
    """Dates that a typed format holds; times of day and spans are numbers of hours and days."""
    import polars as pl

    missing_as = {BLANK: series.null_count()} if series.null_count() else {}
    if series.dtype == pl.Date:
        return DateColumn(name, missing_as=missing_as, values=float_array(series.cast(pl.Int32)))
    if series.dtype == pl.Duration:
        hours = over(series.dt.total_microseconds(), 3600e6)
        return NumberColumn(name, unit="h", missing_as=missing_as, values=float_array(hours))
    if series.dtype == pl.Time:
        hours = over(series.cast(pl.Int64), 3600e9)
        return NumberColumn(name, unit="h", missing_as=missing_as, values=float_array(hours))
    doubts: tuple[Doubt, ...] = ()
    if zone := getattr(series.dtype, "time_zone", None):
        there, series = series, series.dt.convert_time_zone("UTC").dt.replace_time_zone(None)
        moved = (there.dt.replace_time_zone(None) != series).fill_null(False).arg_true()
        doubts = tuple(
            read_in_utc(f"{there[at]:%Y-%m-%d %H:%M} {zone}", days_of(series[at : at + 1])[0])
            for at in moved[:1].to_list()
        )
    return DateColumn(
        name, missing_as=missing_as, doubts=doubts, values=float_array(days_of(series))
    )


def as_category(name: str, text: "pl.Series", grouping: Grouping = "category") -> CategoryColumn:
    """Levels in natural order; blanks and words for "missing" are none."""
    coded = coded_texts(text, len(text) + 1)
    assert coded is not None
    return _of_codes(name, text, coded, grouping)


def _of_codes(name: str, text: "pl.Series", coded: Coded, grouping: Grouping) -> CategoryColumn:
    """Levels in natural order, of texts that are numbers of different ones."""
    import polars as pl

    gone_words = int(missing_words(coded.words, among_numbers=False).sum())
    words: list[str] = coded.words.to_list()
    levels = words[: len(words) - gone_words]
    codes, missing_as, stood = coded.codes, dict[str, int](), None
    if coded.absent or gone_words:
        # The words are in the order of levels, those for missing values last: numbers are codes.
        codes = np.where(codes < len(levels), codes, codes.dtype.type(-1))
        missing_as, stood = stood_of(text, pl.Series(codes < 0))
    return CategoryColumn(
        name,
        missing_as=missing_as,
        stood=stood,
        codes=codes.astype(codes_for(len(levels)), copy=False),
        levels=tuple(levels),
        grouping=grouping,
    )


def whole_codes(values: FloatArray) -> tuple[IntArray, list[int]] | None:
    """Whole numbers in a short range as places among the different ones, −1 where missing; None of
    all others.

    Parameters
    ----------
    values : array, shape (rows,)
        NaN where missing.

    Returns
    -------
    codes : array of int, shape (rows,)
    numbers : list of int
        The different ones, rising.
    """
    import polars as pl

    if not len(values):
        return None
    series = pl.Series(values)
    bounds = (
        pl.DataFrame({"v": series})
        .lazy()
        .select(
            low=pl.col("v").fill_nan(None).min(),
            high=pl.col("v").fill_nan(None).max(),
            whole=(pl.col("v").fill_nan(0) == pl.col("v").fill_nan(0).floor()).all(),
        )
        .collect()
    )
    low, high, whole = bounds.row(0)
    if not whole or low is None or high - low >= _SHORT_RANGE or abs(low) > _SHORT_RANGE:
        return None
    gap = int(high - low) + 1
    places = (series - low).fill_nan(gap).cast(pl.Int32).to_numpy()
    there = np.zeros(gap + 1, dtype=bool)
    there[places] = True
    numbers = np.flatnonzero(there[:gap])
    translation = np.full(gap + 1, -1, dtype=codes_for(len(numbers)))
    translation[numbers] = np.arange(len(numbers))
    return translation[places], [int(low) + int(number) for number in numbers]


def as_label(name: str, text: "pl.Series") -> LabelColumn:
    """Names of rows; blanks and words for "missing" are none."""
    gone = missing_words(text, among_numbers=False)
    missing_as, stood = stood_of(text, gone)
    if missing_as:
        text = only_where(~gone, text)
    distinct = text.n_unique() - bool(text.null_count())
    return LabelColumn(
        name,
        missing_as=missing_as,
        stood=stood,
        texts=text,  # type: ignore[arg-type]
        distinct=distinct,
    )


def as_yes_no(name: str, text: "pl.Series") -> CategoryColumn:
    """Two levels: yes and no where they are called so, else as they stand in natural order."""
    column = as_category(name, text, "yes/no")
    pair = pair_of(column.levels)
    return paired(column, pair) if pair else column
