"""Find rows and put them in order, for who looks at them; the table stays as it is."""

from decimal import Decimal

import numpy as np

from rhabdos.arrays import BoolArray, IntArray
from rhabdos.data.cells import places_of, value_writer
from rhabdos.data.columns import CategoryColumn, Column, DateColumn, LabelColumn, NumberColumn
from rhabdos.data.fields.numerals import as_float
from rhabdos.data.fields.texts import label_series, missing_rows, texts_of
from rhabdos.data.table import Table
from rhabdos.wording import without_powers

_MOST_LOOKED_AT = 2_000_000  # dates are written out only up to so many
_HALF_OF_ALL = 5e-12  # of a number, that is half of the last digit where twelve are shown


def rows_with(table: Table, sought: str, within: IntArray | None = None) -> IntArray:
    """The rows in which a text stands somewhere, or a number is it as far as that is shown; rising.

    Parameters
    ----------
    within : array of int, optional
        Rows that are looked at; by default all.
    """
    text = sought.strip()
    holding = np.zeros(table.rows, dtype=bool)
    if text:
        number = as_float(without_powers(text).replace(",", "."))
        for column in table.columns:
            holding |= _holding(column, text)
            if number is not None and type(column) is NumberColumn:
                holding |= _shown_as(column, number)
    if within is not None:
        return within[holding[within]]
    return np.flatnonzero(holding)


def _holding(column: Column, text: str) -> BoolArray:
    nothing = np.zeros(column.rows, dtype=bool)
    if isinstance(column, CategoryColumn):
        matching = np.array([text.casefold() in v.casefold() for v in column.levels] + [False])
        levels: BoolArray = matching[column.codes]
        return levels
    if isinstance(column, LabelColumn):
        return _containing(label_series(column), text)
    if isinstance(column, DateColumn):
        if column.rows > _MOST_LOOKED_AT or not any(letter.isdigit() for letter in text):
            return nothing
        return _containing(texts_of(column), text)
    assert isinstance(column, NumberColumn)
    return _stood(column, text)


def _shown_as(column: NumberColumn, number: float) -> BoolArray:
    """The rows whose value is a number at the places that are shown of it, or that it has."""
    places, values = places_of(column), column.values
    decimals = len(f"{Decimal(f'{number:.15g}'):f}".partition(".")[2])
    half = _HALF_OF_ALL * abs(number) if places is None else 0.5 * 10.0 ** -max(places, decimals)
    low, high = number - half, number + half
    holding: BoolArray = (values >= low) & (values <= high)
    if places is not None and decimals <= places:
        # Which way a half is rounded, only the words tell.
        rows, near = np.flatnonzero(holding), half * 1e-9  # decimals lie a little off as doubles
        halves = rows[np.abs(values[rows] - number) >= half - near]
        write = value_writer(column)
        wanted = write(number)
        holding[[row for row in halves.tolist() if write(float(values[row])) != wanted]] = False
    return holding


def _stood(column: Column, text: str) -> BoolArray:
    """The rows that have no value, in which a text stood."""
    holding = np.zeros(column.rows, dtype=bool)
    if column.stood is not None:
        words = np.array([text.casefold() in word.casefold() for word in column.stood.words])
        holding[column.stood.rows[words[column.stood.codes]]] = True
    return holding


def _containing(texts, text: str) -> BoolArray:  # type: ignore[no-untyped-def]
    hits: BoolArray = (
        texts.str.to_lowercase()
        .str.contains(text.lower(), literal=True)
        .fill_null(False)
        .to_numpy()
    )
    return hits


def in_order(column: Column, falling: bool = False, within: IntArray | None = None) -> IntArray:
    """Rows by the values of a column, equal ones as they stand; those without a value come last.

    Parameters
    ----------
    within : array of int, optional
        Rows that are put in order; by default all.
    """
    keys = _keys(column)
    missing = missing_rows(column)
    if within is not None:
        keys, missing = keys[within], missing[within]
    known, lacking = np.flatnonzero(~missing), np.flatnonzero(missing)
    order = known[np.argsort(keys[known], kind="stable")]
    if falling:  # equal values stay as they stand: the order of falling keys, not the reverse
        backwards = known[::-1]
        order = backwards[np.argsort(keys[backwards], kind="stable")][::-1]
    places = np.concatenate([order, lacking])
    return places if within is None else within[places]


def _keys(column: Column) -> IntArray:
    if isinstance(column, NumberColumn):
        return column.values  # type: ignore[return-value]
    if isinstance(column, CategoryColumn):
        return column.codes
    assert isinstance(column, LabelColumn)
    ranks: IntArray = label_series(column).rank("dense").fill_null(0).to_numpy()
    return ranks
