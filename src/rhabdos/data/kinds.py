"""Decide a column's kind from what was read, and keep count of what stands for a missing value."""

from typing import TYPE_CHECKING

import numpy as np

from rhabdos.data.columns import (
    BLANK,
    INFINITE,
    CategoryColumn,
    Column,
    LabelColumn,
    NumberColumn,
    natural,
)
from rhabdos.data.dialect import LONGEST_NAME
from rhabdos.quoting import quoted

if TYPE_CHECKING:
    import polars as pl

# Read as missing wherever they stand …
MISSING_WORDS = ("na", "n/a", "#n/a")
# … and these among numbers only: "none" or "-" may well be a level of a category.
MISSING_AMONG_NUMBERS = (*MISSING_WORDS, "nan", "null", "none", "-", "–", ".", "?", "missing")

_MOST_LEVELS = 1000
_GLANCE = 2000


def column_from(name: str, series: "pl.Series", decimal_comma: bool = False) -> Column:
    """Turn a column as read into a number, a category or a label."""
    import polars as pl

    if series.dtype.is_numeric():
        return _number(name, series, {})
    if series.dtype == pl.Boolean:
        return _text(name, series.cast(pl.String))
    if series.dtype == pl.Categorical:
        return _text(name, series)
    text = series.cast(pl.String)
    return _number_from_text(name, text, decimal_comma) or _text(name, text)


def _number(name: str, series: "pl.Series", missing_as: dict[str, int]) -> NumberColumn:
    import polars as pl

    missing = dict(missing_as)
    blank = series.null_count() - sum(missing.values())
    if blank:
        missing[BLANK] = blank
    values = series.cast(pl.Float64).rechunk().to_numpy()
    finite = np.isfinite(values)
    if int(np.count_nonzero(finite)) + series.null_count() < len(values):
        infinite = int(np.count_nonzero(np.isinf(values)))
        undefined = len(values) - series.null_count() - int(np.count_nonzero(finite)) - infinite
        if undefined:
            missing["NaN"] = missing.get("NaN", 0) + undefined
        if infinite:
            missing[INFINITE] = infinite
        values = np.where(finite, values, np.nan)
    remark = ""
    if count := missing.get(INFINITE, 0):
        remark = (
            f"{quoted(name)} holds {count:,} infinite "
            f"{'value' if count == 1 else 'values'}, counted as missing."
        )
    return NumberColumn(name, missing_as=missing, remark=remark, values=values)


def _number_from_text(name: str, text: "pl.Series", decimal_comma: bool) -> NumberColumn | None:
    """Numbers among blanks and words for "missing", or None where the text is something else."""
    glance = text.drop_nulls().head(_GLANCE)
    if len(glance) and _numbers_in(glance, decimal_comma)[1].null_count() > len(glance) // 2:
        words, numbers = _numbers_in(glance, decimal_comma)
        if (numbers.is_null() & words.is_not_null()).any():
            return None
    words, numbers = _numbers_in(text, decimal_comma)
    if (numbers.is_null() & words.is_not_null()).any():
        return None
    if (
        numbers.null_count() == len(numbers)
        and text.null_count() < len(text)
        and words.null_count() < len(words)
    ):
        return None
    gone = text.filter(words.is_null() & text.is_not_null()).str.strip_chars()
    counted = gone.filter(gone != "").value_counts(sort=True)
    missing_as = {str(row[0]): int(row[1]) for row in counted.iter_rows()}
    return _number(name, numbers, missing_as)


def _numbers_in(text: "pl.Series", decimal_comma: bool) -> tuple["pl.Series", "pl.Series"]:
    """The fields that are neither blank nor a word for "missing", and the same as numbers (null if
    none)."""
    import polars as pl

    stripped = text.str.strip_chars()
    gone = stripped.str.to_lowercase().is_in(["", *MISSING_AMONG_NUMBERS])
    words = stripped.to_frame("t").select(
        pl.when(pl.lit(gone)).then(None).otherwise(pl.col("t")).alias("t")
    )["t"]
    figures = words.str.replace("−", "-", literal=True)
    if decimal_comma:
        figures = figures.str.replace(",", ".", literal=True)
    return words, figures.cast(pl.Float64, strict=False)


def _text(name: str, text: "pl.Series") -> CategoryColumn | LabelColumn:
    import polars as pl

    remark = _almost_numbers(name, text)
    if text.dtype != pl.Categorical:
        distinct = text.n_unique() - bool(text.null_count())
        if not _repeats(distinct, text.len() - text.null_count()):
            return _label(name, text, distinct, remark)
        text = text.cast(pl.Categorical)
    distinct_texts = text.unique().drop_nulls()
    words: list[str] = distinct_texts.cast(pl.String).to_list()
    numbers = distinct_texts.to_physical().to_numpy()
    codes = text.to_physical().fill_null(int(numbers.max(initial=0)) + 1).to_numpy()
    counts = np.bincount(codes, minlength=int(numbers.max(initial=0)) + 2)
    missing_as = {BLANK: text.null_count()} if text.null_count() else {}
    levels = []
    for word, number in zip(words, numbers, strict=True):
        bare = word.strip()
        if not bare or bare.lower() in MISSING_WORDS:
            missing_as[bare or BLANK] = missing_as.get(bare or BLANK, 0) + int(counts[number])
        else:
            levels.append(word)
    too_long = any(len(level) > LONGEST_NAME for level in levels)
    if too_long or not _repeats(len(levels), len(text) - sum(missing_as.values())):
        return _label(name, text.cast(pl.String), len(levels), remark)
    levels.sort(key=natural)
    kind_of_code = np.int8 if len(levels) < 127 else np.int16
    translation = np.full(len(counts), -1, dtype=kind_of_code)
    places = {level: place for place, level in enumerate(levels)}
    for word, number in zip(words, numbers, strict=True):
        translation[number] = places.get(word, -1)
    remark = remark or _near_twins(name, tuple(levels))
    return CategoryColumn(
        name, missing_as=missing_as, remark=remark, codes=translation[codes], levels=tuple(levels)
    )


def _label(name: str, text: "pl.Series", distinct: int, remark: str) -> LabelColumn:
    import polars as pl

    bare = text.str.strip_chars()
    gone = (bare.str.to_lowercase().is_in(["", *MISSING_WORDS])) & text.is_not_null()
    missing_as = {BLANK: text.null_count()} if text.null_count() else {}
    if gone.any():
        for word, count in bare.filter(gone).value_counts().iter_rows():
            missing_as[word or BLANK] = missing_as.get(word or BLANK, 0) + int(count)
        text = text.to_frame("t").select(pl.when(~pl.lit(gone)).then(pl.col("t")).alias("t"))["t"]
        distinct = text.n_unique() - 1
    return LabelColumn(name, missing_as=missing_as, remark=remark, texts=text, distinct=distinct)  # type: ignore[arg-type]


def likely_categories(head: "pl.DataFrame") -> list[str]:
    """Which text columns look like groups in their first rows; reading these as such at once is
    faster."""
    import polars as pl

    likely = []
    for series in head:
        if (
            series.dtype == pl.String
            and _repeats(series.n_unique(), len(series))
            and len(series) > 100
        ):
            words, numbers = _numbers_in(series, False)
            if numbers.null_count() - words.null_count() > len(series) // 2:
                likely.append(series.name)
    return likely


def _repeats(distinct: int, present: int) -> bool:
    """Whether levels come back often enough to be groups rather than names of rows."""
    if distinct > _MOST_LEVELS:
        return False
    return (
        distinct * 2 <= present
        or (distinct < present and distinct <= 12)
        or (present <= 2 and distinct > 0)
    )


def _near_twins(name: str, levels: tuple[str, ...]) -> str:
    folded: dict[str, str] = {}
    for level in levels:
        key = " ".join(level.casefold().split())
        if key in folded:
            return (
                f"{quoted(name)} has levels that differ only by case or blanks, "
                f"{quoted(folded[key])} and "
                f"{quoted(level)}: they are drawn as two groups."
            )
        folded[key] = level
    return ""


def _almost_numbers(name: str, text: "pl.Series") -> str:
    """Say why a column of numbers reads as text: the first field that is none, and its row."""
    import polars as pl

    glance = text.head(_GLANCE).drop_nulls().cast(pl.String)
    if len(glance) < 5:
        return ""
    words, numbers = _numbers_in(glance, False)
    readable = len(words) - words.null_count()
    if not readable or len(numbers) - numbers.null_count() < 0.8 * readable:
        return ""
    words, numbers = _numbers_in(text.cast(pl.String), False)
    odd = (numbers.is_null() & words.is_not_null()).arg_true()
    rows = "1 row is no number" if len(odd) == 1 else f"{len(odd):,} rows are no numbers"
    first = int(odd[0])
    return (
        f"{quoted(name)} reads as text because {rows}; the first is {quoted(text[first])} in "
        f"data row {first + 1:,}."
    )
