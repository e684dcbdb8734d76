"""The step that puts one value in the place of another: 0 for "calm", no for a blank."""

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated

import numpy as np
from msgspec import Meta, structs

from rhabdos.arrays import BoolArray, IntArray
from rhabdos.data.columns import (
    BLANK,
    CategoryColumn,
    Column,
    DateColumn,
    LabelColumn,
    NumberColumn,
    Stood,
    Texts,
    natural,
    places_of,
)
from rhabdos.data.fields.coding import codes_for
from rhabdos.data.fields.kinds import column_from
from rhabdos.data.fields.levels import regrouped
from rhabdos.data.fields.numerals import number_notation, written_so
from rhabdos.data.fields.texts import label_series, missing_rows, texts_of
from rhabdos.data.rows import with_used_levels
from rhabdos.data.steps.missing import number_meant
from rhabdos.data.steps.step import Applied, Others, Piece, Step, StepError, choice, words_of
from rhabdos.data.table import Table
from rhabdos.quoting import brief, quoted
from rhabdos.wording import counted

if TYPE_CHECKING:
    import polars as pl

_MOST_SAID = 3  # values, in the words of a step


class Recode(Step, frozen=True, tag="recode"):
    """Fields of a variable that say just this come to say something else.

    An empty text stands for a blank. A word that counts as missing, such as NA, becomes a value
    where it is put in its own place. Texts that all are numbers then are read as numbers.
    """

    variable: str
    become: Annotated[dict[str, str], Meta(min_length=1)]

    def __post_init__(self) -> None:
        if any(not new.strip() for new in self.become.values()):
            raise ValueError("become: a value must be put; step = missing takes one away")

    def __hash__(self) -> int:
        return hash((self.variable, tuple(sorted(self.become.items())), self.off))

    def apply(self, table: Table, _others: Others) -> Applied:
        """The table with these values; as it was where no field says so."""
        column = table.column(self.variable)
        rows_of = {old: rows_saying(column, old) for old in self.become}
        touched = sum(len(rows) for rows in rows_of.values())
        if not touched:
            return Applied(table, "no value is that")
        rows = {old: rows for old, rows in rows_of.items() if len(rows)}
        if isinstance(column, NumberColumn):
            changed: Column = _with_numbers(column, rows, self.become)
        else:
            changed = _with_texts(column, rows, self.become)
        return Applied(table.with_column(changed), counted(touched, "value", "values"))

    def describe(self) -> tuple[Piece, ...]:
        """In Wind, “calm” becomes 0."""
        words: list[str | Piece] = [f"In {brief(self.variable)}, "]
        for index, (old, new) in enumerate(list(self.become.items())[:_MOST_SAID]):
            joint = "" if not index else " and " if index == len(self.become) - 1 else ", "
            former = f"{joint}{quoted(old, 24) if old else 'a blank'}"
            words += [f"{former} is ", choice("a value")] if old == new else [
                f"{former} becomes ", choice(brief(new)),
            ]  # fmt: skip
        more = len(self.become) - _MOST_SAID
        return words_of(*words, f" and {more:,} more." if more > 0 else ".")


def rows_saying(column: Column, text: str) -> IntArray:
    """The rows in which just this stands, whether it counts as missing or not; of an empty text,
    the blank ones."""
    said = _rows_of_word(column, text)
    if not text:
        return said
    if isinstance(column, NumberColumn):
        values = np.flatnonzero(_are_written(column, text))
    elif isinstance(column, CategoryColumn):
        index = column.levels.index(text) if text in column.levels else -2
        values = np.flatnonzero(column.codes == index)
    else:
        assert isinstance(column, LabelColumn)
        same = (label_series(column) == text).fill_null(False)
        values = same.arg_true().to_numpy().astype(np.int64)
    return np.union1d(said, values)


def _are_written(column: NumberColumn, text: str) -> BoolArray:
    """Which values a cell shows as a text: dates by the day that is meant."""
    if isinstance(column, DateColumn):
        number = number_meant(column, text)
        ends = None if number is None else (number, number)
    else:
        ends = written_so(text)
    if ends is None:
        return np.zeros(column.rows, dtype=bool)
    return (column.values >= ends[0]) & (column.values <= ends[1])


def _rows_of_word(column: Column, word: str) -> IntArray:
    """The rows without a value in which a word stood; of an empty one, those in which none did."""
    stood = column.stood
    if not word:
        blank = missing_rows(column)
        if stood is not None:
            blank = blank.copy()
            blank[stood.rows] = False
        return np.flatnonzero(blank)
    if stood is None or word not in stood.words:
        return np.empty(0, np.int64)
    rows: IntArray = stood.rows[stood.codes == stood.words.index(word)]
    return rows


def _no_longer_missing(
    column: Column, rows: Mapping[str, IntArray]
) -> tuple[dict[str, int], Stood | None]:
    """What is missing once these rows have values."""
    missing, stood = dict(column.missing_as), column.stood
    gone = missing_rows(column)
    for old, places in rows.items():
        word = old or BLANK
        count = int(np.count_nonzero(gone[places]))
        if count:
            missing[word] = missing.get(word, count) - count
    if stood is not None:
        stays = ~np.isin(stood.rows, np.concatenate(list(rows.values())))
        stood = Stood(stood.rows[stays], stood.codes[stays], stood.words)
        stood = stood if len(stood.rows) else None
    return {word: count for word, count in missing.items() if count > 0}, stood


def _with_numbers(
    column: NumberColumn, rows: Mapping[str, IntArray], become: Mapping[str, str]
) -> NumberColumn:
    values = column.values.copy()
    for old, places in rows.items():
        number = number_meant(column, become[old])
        if number is None or not np.isfinite(number):
            what = "a date" if column.kind == "date/time" else "a number"
            raise StepError(
                f"{quoted(become[old], 24)} is not {what}, and {quoted(column.name)} holds such. "
                "Put one, or read the variable as a label first."
            )
        values[places] = number
    missing, stood = _no_longer_missing(column, rows)
    return structs.replace(
        column,
        values=values,
        missing_as=missing,
        stood=stood,
        original=_rewritten(column.original, rows, become),
    )


def _rewritten(
    original: Texts | None, rows: Mapping[str, IntArray], become: Mapping[str, str]
) -> Texts | None:
    """The fields as they were written, but for those that say something else now."""
    if original is None:
        return None
    return lambda: _put(original(), rows, become)


def _put(text: "pl.Series", rows: Mapping[str, IntArray], become: Mapping[str, str]) -> "pl.Series":
    import polars as pl

    text = text.cast(pl.String)
    for old, places in rows.items():
        text = text.scatter(places, become[old])
    return text


def _with_texts(column: Column, rows: Mapping[str, IntArray], become: Mapping[str, str]) -> Column:
    missing, stood = _no_longer_missing(column, rows)
    before = texts_of(structs.replace(column, original=None))
    text = _put(before.clone(), rows, become)
    common = {"missing_as": missing, "stood": stood, "original": None}
    if number_notation(before) is None and (read := _as_measure(column, text)) is not None:
        described = {"label": column.label, "unit": read.unit or column.unit}
        return structs.replace(read, **described, missing_as=missing, stood=stood)
    if isinstance(column, LabelColumn):
        distinct = text.n_unique() - bool(text.null_count())
        return structs.replace(column, texts=text, distinct=distinct, **common)
    assert isinstance(column, CategoryColumn)
    levels = list(column.levels)
    for old in rows:  # a level that another one takes the place of leaves it to that one
        new = become[old]
        if new not in levels:
            levels.insert(levels.index(old) + 1 if old in levels else len(levels), new)
    if column.grouping != "ordered category" and not all(old in column.levels for old in rows):
        levels.sort(key=natural)
    at = places_of(levels)
    codes = np.array([*(at[level] for level in column.levels), -1])[column.codes]
    for old, places in rows.items():
        codes[places] = at[become[old]]
    kind = codes_for(len(levels))
    recoded = structs.replace(column, codes=codes.astype(kind), levels=tuple(levels), **common)
    return regrouped(with_used_levels(recoded))


def _as_measure(column: Column, text: "pl.Series") -> NumberColumn | None:
    """The fields as numbers or dates, where all of them are now; what was missing stays so."""
    read = column_from(column.name, text)
    return read if isinstance(read, NumberColumn) else None
