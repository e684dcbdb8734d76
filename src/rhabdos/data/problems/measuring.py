"""Which numbers measure something, and which more likely stand for groups, rows or dates."""

import re
from typing import TypeGuard

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.data.columns import CategoryColumn, Column, DateColumn, NumberColumn
from rhabdos.data.fields.counted_times import likely_counting
from rhabdos.data.gathering import few_values
from rhabdos.data.table import Table
from rhabdos.memo import memoised

_GLANCE = 2_000  # rows from which most columns show that they are no codes
_MOST_CODES = 8  # different numbers that may be groups
_LEAST_OF_EACH = 5  # values for each different one, of numbers that stand for groups
_LEAST_IN_DIGITS = 5  # values, of which all may be dates by chance where they are fewer
_YEARS_IN_DIGITS = 1700, 2199
_LEAST_PAIRED = 10  # rows, below which anything looks like a rule
_MOST_LOOKED_AT = 20_000  # pairs of columns
_NEAR = 4  # columns, in a wide table
# Words that name codes wherever they stand in a name, and those that do so alone.
_CODES = ("id", "ids", "code", "codes", "zip", "postcode", "year", "years", "yr")
_OF_TIME = ("time", "timestamp", "timestamps", "date", "datetime", "epoch", "unix", "ts", "utc")
_ALONE = ("no", "nr", "index", "idx", "key", "row", "month", "week", "weekday", "day", "serial")


def measuring(table: Table) -> tuple[NumberColumn, ...]:
    """The columns that can be drawn, those that measure something first, then dates, then codes."""
    numbers = [c for c in table.drawable if not isinstance(c, DateColumn)]
    dates = [c for c in table.drawable if isinstance(c, DateColumn)]
    measures: list[NumberColumn] = []
    codes: list[NumberColumn] = []
    for column in numbers:
        (codes if may_be_codes(table, column) else measures).append(column)
    return (*measures, *dates, *codes)


def may_be_codes(table: Table, column: NumberColumn) -> bool:
    """Whether numbers more likely stand for groups or rows than measure something."""
    if named_as_code(column) or few_codes(column) is not None or counts_rows(column):
        return True
    if dates_in_digits(column) or counting_since_1970(column):
        return True
    return paired_text(table, column) is not None


def named_as_code(column: NumberColumn) -> bool:
    """Whether whole numbers are named id, code, year or the like."""
    spaced = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", column.name)
    words = [word for word in re.split(r"[^a-z]+", spaced.lower()) if word]
    named = bool(set(_CODES) & set(words)) or (len(words) == 1 and words[0] in _ALONE)
    return named and _whole(_head(column))


def dates_in_digits(column: NumberColumn) -> bool:
    """Whether all values are a year, a month and a day in a row, such as 20260301: of other whole
    numbers of that size not one in 25 is."""
    if isinstance(column, DateColumn) or column.n < _LEAST_IN_DIGITS:
        return False
    # The first values show of nearly all columns that they are none: few are gone through whole.
    return _are_dates(_head(column)) and _are_dates(column.values[~np.isnan(column.values)])


def counting_since_1970(column: NumberColumn) -> str:
    """What numbers count since 1970, where all may be moments of our time and are whole, or named
    for time; empty for none."""
    head = _head(column)
    if isinstance(column, DateColumn) or not likely_counting(head).endswith("1970"):
        return ""
    words = re.split(r"[^a-z]+", re.sub(r"(?<=[a-z])(?=[A-Z])", " ", column.name).lower())
    if not set(_OF_TIME) & set(words) and (column.n < _LEAST_IN_DIGITS or not _whole(head)):
        return ""
    return likely_counting(column.values)


def _are_dates(values: FloatArray) -> bool:
    low, high = _YEARS_IN_DIGITS
    if not len(values) or values.min() < low * 10_000 or values.max() >= (high + 1) * 10_000:
        return False
    month, day = values // 100 % 100, values % 100
    shaped = (values % 1 == 0) & (month >= 1) & (month <= 12) & (day >= 1) & (day <= 31)
    return bool(shaped.all())


def few_codes(column: NumberColumn) -> FloatArray | None:
    """Few whole numbers one after the other from 0 or 1 on, each of them often; None for others."""
    head = _head(column)
    if len(head) < _LEAST_PAIRED or len(np.unique(head)) > _MOST_CODES:
        return None
    few = few_values(column)
    if few is None or not 2 <= len(few) <= _MOST_CODES or column.n < _LEAST_OF_EACH * len(few):
        return None
    first = few[0]
    consecutive = first in (0, 1) and np.array_equal(few, first + np.arange(len(few)))
    return few if consecutive else None


def counts_rows(column: NumberColumn) -> bool:
    """Whether values number the rows, each one more than the one before."""
    head = _head(column)
    return len(head) >= _LEAST_PAIRED and _whole(head) and bool(np.all(np.diff(head) == 1))


@memoised  # each column of a table is asked about all others
def _pairs(table: Table) -> dict[str, CategoryColumn]:
    """Numbers, by name, of which each stands beside one level of a category, and the other way
    round."""
    paired: dict[str, CategoryColumn] = {}
    groups = [(at, c) for at, c in enumerate(table.columns) if isinstance(c, CategoryColumn)]
    numbers = [(at, c) for at, c in enumerate(table.columns) if _is_plain_number(c)]
    wide = len(groups) * len(numbers) > _MOST_LOOKED_AT
    for index, column in numbers:
        values = column.values[:_GLANCE]
        known = ~np.isnan(values)
        if known.sum() < _LEAST_PAIRED or not _whole(values[known]):
            continue
        for at, group in groups:
            if wide and abs(at - index) > _NEAR:  # a code stands beside its name
                continue
            both = known & (group.codes[:_GLANCE] >= 0)
            pairs = np.unique(np.stack([values[both], group.codes[:_GLANCE][both]]), axis=1)
            each = [len(np.unique(side)) for side in pairs]
            if 2 <= each[0] == each[1] == pairs.shape[1] and both.sum() > 2 * each[0]:
                paired[column.name] = group
                break
    return paired


def _is_plain_number(column: Column) -> TypeGuard[NumberColumn]:
    return isinstance(column, NumberColumn) and not isinstance(column, DateColumn)


def paired_text(table: Table, column: NumberColumn) -> CategoryColumn | None:
    """The category of which each level has one number, and each number one level, if any."""
    return _pairs(table).get(column.name)


def _head(column: NumberColumn) -> FloatArray:
    head = column.values[:_GLANCE]
    return head[~np.isnan(head)]


def _whole(values: FloatArray) -> bool:
    return len(values) > 0 and bool(np.all(values == np.floor(values)))
