"""Columns of few rows, read without the machinery for many: a table of fifty thousand of them
would wait for it at every one."""

from typing import TYPE_CHECKING

import numpy as np

from rhabdos.arrays import IntArray
from rhabdos.data.columns import (
    BLANK,
    CategoryColumn,
    Column,
    LabelColumn,
    NumberColumn,
    Stood,
    natural,
)
from rhabdos.data.fields.levels import as_pair, repeats
from rhabdos.data.fields.notation import PLAIN, Notation
from rhabdos.data.fields.numerals import EXACT, may_be_a_number
from rhabdos.data.fields.texts import MISSING_AMONG_NUMBERS, MISSING_WORDS
from rhabdos.data.limits import LONGEST_NAME

if TYPE_CHECKING:
    import polars as pl

FEW = 1_000
"""Rows up to which this is the faster way."""


def column_of_few(name: str, series: "pl.Series", usual: Notation) -> Column | None:
    """A text column of few rows as plain numbers, levels or labels; None where it has to be looked
    at more closely, as for dates and numbers of another notation."""
    fields: list[str | None] = series.to_list()
    bare = [field.strip() if field is not None else "" for field in fields]
    known = [text for text in bare if text.lower() not in _NO_NUMBERS]
    if not known:
        return _numbers(name, series, bare) if usual == PLAIN and not any(bare) else None
    if may_be_a_number(known[0]):
        return _numbers(name, series, bare) if usual == PLAIN else None
    return _words(name, series, fields, bare)


_NO_NUMBERS = frozenset(("", *MISSING_AMONG_NUMBERS))
_NO_LEVELS = frozenset(("", *MISSING_WORDS))


def _numbers(name: str, series: "pl.Series", bare: list[str]) -> NumberColumn | None:
    """Plain numbers among words for missing ones."""
    values = np.full(len(bare), np.nan)
    for row, text in enumerate(bare):
        if text.lower() in _NO_NUMBERS:
            continue
        try:
            values[row] = float(text)
        except ValueError:
            return None
        if "_" in text or not abs(values[row]) < EXACT:
            return None
    missing_as, stood = _stood(bare, np.flatnonzero(np.isnan(values)))
    original = (lambda: series) if stood is not None else None
    return NumberColumn(name, missing_as=missing_as, stood=stood, original=original, values=values)


def _stood(bare: list[str], gone: IntArray) -> tuple[dict[str, int], Stood | None]:
    """What stood in the rows that are gone, the most common first, and in which."""
    counted: dict[str, int] = {}
    for row in gone.tolist():
        counted[bare[row]] = counted.get(bare[row], 0) + 1
    blank = counted.pop("", 0)
    missing_as = {BLANK: blank} if blank else {}
    if not counted:
        return missing_as, None
    words = tuple(sorted(counted, key=lambda word: -counted[word]))
    missing_as |= {word: counted[word] for word in words}
    rows = np.array([row for row in gone.tolist() if bare[row]], dtype=np.int64)
    codes = np.array([words.index(bare[row]) for row in rows.tolist()], dtype=np.int16)
    return missing_as, Stood(rows, codes, words)


def _words(
    name: str, series: "pl.Series", fields: list[str | None], bare: list[str]
) -> Column | None:
    """Levels where they come back often enough, else labels."""
    gone = np.array([text.lower() in _NO_LEVELS for text in bare])
    missing_as, stood = _stood(bare, np.flatnonzero(gone))
    present = [None if lost else field for field, lost in zip(fields, gone, strict=True)]
    distinct = {field for field in present if field is not None}
    if repeats(len(distinct), len(present) - int(gone.sum())) and all(
        len(level) <= LONGEST_NAME for level in distinct
    ):
        levels = sorted(distinct, key=natural)
        places = {level: index for index, level in enumerate(levels)}
        codes = np.array([-1 if f is None else places[f] for f in present], dtype=np.int16)
        kind = np.int8 if len(levels) < 127 else np.int16
        return as_pair(
            CategoryColumn(
                name,
                missing_as=missing_as,
                stood=stood,
                codes=codes.astype(kind),
                levels=tuple(levels),
            )
        )
    import polars as pl

    texts = pl.Series(series.name, present, dtype=pl.String) if gone.any() else series
    return LabelColumn(
        name,
        missing_as=missing_as,
        stood=stood,
        texts=texts,  # type: ignore[arg-type]
        distinct=len(distinct),
    )
