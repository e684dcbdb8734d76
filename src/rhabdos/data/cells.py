"""What stands in a cell of a table, as people read it."""

import math
from collections.abc import Callable

import numpy as np
from msgspec import Struct

from rhabdos.data.columns import (
    BLANK,
    CategoryColumn,
    Column,
    DateColumn,
    LabelColumn,
    NumberColumn,
)
from rhabdos.memo import memoised
from rhabdos.quoting import printable
from rhabdos.wording import counted, exact, places_for, rounded

_GLANCE = 2_000  # rows that tell how a column is written
_MOST_PLACES = 6  # decimals that are shown as they stand; of more as many as tell values apart
_LONGEST = 200  # letters that a cell shows


class Cell(Struct, frozen=True):
    """The text of a cell, and whether it is missing: then the text says what stood there."""

    text: str
    missing: bool = False


@memoised  # a view of rows asks for each cell that it paints
def places_of(column: NumberColumn) -> int | None:
    """Decimal places that show the values of a column, all alike; None where they need powers."""
    values = column.values[:_GLANCE]
    known = values[~np.isnan(values)]
    if not len(known):
        return 0
    texts = [f"{value:.12g}" for value in known[:_GLANCE].tolist()]
    if any("e" in text for text in texts):
        return None
    longest = max(len(text.partition(".")[2]) for text in texts)
    if longest <= _MOST_PLACES:
        return longest
    return places_for(float(np.std(known)), float(np.abs(known).max()))


def cell_reader(column: Column) -> Callable[[int], Cell]:
    """Reads the cells of a column by their row, from 0."""
    if isinstance(column, NumberColumn):
        written = value_writer(column)
        return lambda row: _number(column, row, written)
    if isinstance(column, CategoryColumn):
        levels = [printable(level[:_LONGEST]) for level in column.levels]
        codes = column.codes
        return lambda row: Cell(levels[codes[row]]) if codes[row] >= 0 else _missing(column, row)
    assert isinstance(column, LabelColumn)
    texts = column.texts
    return lambda row: _label(column, texts[row], row)


def value_writer(column: NumberColumn) -> Callable[[float], str]:
    """Writes values of a column, all with as many places."""
    if isinstance(column, DateColumn):
        return column.written
    places = places_of(column)
    return exact if places is None else lambda value: _plain(value, places)


def _plain(value: float, places: int) -> str:
    return rounded(value, places).replace(",", "")


def _number(column: NumberColumn, row: int, written: Callable[[float], str]) -> Cell:
    value = float(column.values[row])
    return _missing(column, row) if math.isnan(value) else Cell(written(value))


def _label(column: Column, text: str | None, row: int) -> Cell:
    return _missing(column, row) if text is None else Cell(printable(text[:_LONGEST]))


def _missing(column: Column, row: int) -> Cell:
    word = column.stood.word_at(row) if column.stood is not None else None
    if word is None and column.stood is None:
        words = list(column.missing_as)
        word = words[0] if len(words) == 1 and words[0] != BLANK else None
    return Cell(f"{printable(word)} · missing" if word else "missing", True)


def kind_words(column: Column) -> str:
    """What stands under a column's name: its unit, its number of levels, or its kind."""
    if column.made_by:
        return f"{column.unit} · made here" if column.unit else "made here"
    if isinstance(column, CategoryColumn):
        if column.kind == "yes/no":
            return " · ".join(printable(level) for level in column.levels[:2])
        if column.kind == "ordered category":
            return f"{len(column.levels):,}, ordered"
        return counted(len(column.levels), "group", "groups")
    if isinstance(column, DateColumn):
        return "date"
    if isinstance(column, LabelColumn):
        return "label"
    return column.unit or "number"
