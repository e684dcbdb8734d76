"""Gathering: from the columns of a table to sorted samples, group by group."""

import math
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from itertools import product
from typing import Any

import numpy as np

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.columns import CategoryColumn, Column, DateColumn, NumberColumn, level_written
from rhabdos.data.pooled import AnySample
from rhabdos.data.reporting import Report, silent
from rhabdos.data.sample_sets import Cell, SampleSet
from rhabdos.data.samples import Sample, Weighted, parts_of
from rhabdos.data.standard import standardised as in_deviations
from rhabdos.data.table import Table, VariableError
from rhabdos.memo import memoised
from rhabdos.quoting import listed, quoted

MOST_GROUPS = 60
MOST_SAMPLES = 1_200
_FEW_PARTS = 8  # that are picked one by one faster than all rows are put in order
_MOST_CODES = 12  # different numbers, up to which they can split
_MOST_REPEATED = (
    20_000_000  # cases; up to so many, a row that stands for several is written out as often
)
_MOST_CASES = 2.0**53  # up to which doubles tell whole numbers apart


def gather(
    table: Table,
    variables: str | Sequence[str],
    factors: str | Sequence[str] = (),
    report: Report = silent,
    weight: str | None = None,
    standardised: bool = False,
) -> SampleSet:
    """Sort the values of variables, in each combination of the levels of factors.

    Parameters
    ----------
    variables, factors : str or sequence of str
        Names of columns.
    weight : str, optional
        A variable that tells how many cases each row stands for, in whole numbers.
    standardised : bool
        Each variable in standard deviations from its mean.

    Raises
    ------
    VariableError
        A variable is not in the table or of the wrong kind, no row has a value, a weight is none,
        or there are more combinations than a figure can hold.
    Cancelled
        From ``report``.
    """
    names = (variables,) if isinstance(variables, str) else tuple(variables)
    split_by = (factors,) if isinstance(factors, str) else tuple(factors)
    measured = tuple(table.number(name) for name in names)
    _refuse_empty(measured)
    columns = {column.name: column for column in (table.column(name) for name in split_by)}
    splitting = tuple(as_factor(column) for column in columns.values())
    refuse_twice(measured)
    weigher = table.number(weight) if weight is not None else None
    weights = _weights(weigher) if weigher else None
    parted = _Parts(splitting, table.rows, len(measured))
    if standardised:
        measured = tuple(in_deviations(column, weights) for column in measured)
    cells = [Cell(index, codes) for index in range(len(measured)) for codes in parted.codes]
    samples: list[AnySample] = []
    for index, column in enumerate(measured):
        labels = [label_of(measured, index, splitting, codes) for codes in parted.codes]
        for label, sample in zip(labels, _sorted(column, parted, labels, weights), strict=False):
            report(f"Sorting {label}", len(samples) / len(cells))
            samples.append(sample())
    gathered = SampleSet(
        measured,
        splitting,
        tuple(cells),
        tuple(samples),
        weigher,
        weigher.missing if weigher else 0,
        table,
    )
    if gathered.ungrouped == gathered.pooled.n:
        raise without_values(gathered)
    return gathered


def _refuse_empty(columns: Sequence[NumberColumn]) -> None:
    for column in columns:
        if not column.n:
            raise VariableError(
                f"{quoted(column.name)} has no values: all {column.rows:,} rows are missing."
            )


def without_values(gathered: SampleSet) -> VariableError:
    """What is said where no row has all that a figure needs."""
    factors, weight = gathered.factors, gathered.weight
    by = f" and a level of {quoted(factors[0].name)}" if factors else ""
    of = f" and a weight by {quoted(weight.name)}" if weight else ""
    both = "both " if by or of else ""
    return VariableError(f"No row has {both}a value of {quoted(gathered.variable.name)}{by}{of}.")


def _sorted(
    column: NumberColumn, parted: "_Parts", labels: Sequence[str], weights: IntArray | None
) -> Iterator[Callable[[], AnySample]]:
    """The samples of a variable, each sorted when it is called for."""
    gaps, values = column.missing > 0, parted.sorted_into_parts(column.values)
    cases = parted.sorted_into_parts(weights) if weights is not None else None
    for number, label in enumerate(labels):
        if cases is None:
            yield partial(_sample, label, values.part(number), gaps)
        else:
            yield partial(_weighed, label, values.part(number), cases.part(number))


def refuse_twice(columns: Sequence[Column]) -> None:
    """A column cannot be two of the variables, though it may be named in two ways."""
    seen: set[str] = set()
    for column in columns:
        if column.name in seen:
            raise VariableError(f"{quoted(column.name)} is asked for twice. Name it once.")
        seen.add(column.name)


def label_of(
    measured: Sequence[NumberColumn],
    index: int,
    factors: Sequence[CategoryColumn],
    codes: Sequence[int],
) -> str:
    """What a sample is called: its levels, and its variable where there are several or none."""
    both = zip(factors, codes, strict=True)
    named = [
        factor.levels[code] if code >= 0 else without_level(factor.label) for factor, code in both
    ]
    if len(measured) > 1 or not named:
        named.insert(0, measured[index].label)
    return ", ".join(named)


def without_level(label: str) -> str:
    """What the rows are called that lack a level of a factor: "no Bay"."""
    return f"no {label}"


class _InParts:
    """The values of a column, part by part; each part is a copy of its own."""

    def __init__(self, parts: "_Parts", values: FloatArray | IntArray) -> None:
        self._parts, self._values = parts, values
        self._ordered = values[parts.order] if parts.order is not None else None

    def part(self, number: int) -> Any:
        """The values of one combination, in the order of their rows."""
        parts = self._parts
        if self._ordered is not None:
            return self._ordered[parts.starts[number] : parts.starts[number + 1]]
        if parts.combined is None:
            return self._values.copy()
        return self._values[parts.combined == parts.numbers[number]]


class _Parts:
    """How the rows of a table part into combinations of levels.

    A few parts are picked one by one. For many, all rows are put in the order of their parts once,
    which for small whole numbers takes a few passes.
    """

    def __init__(self, factors: Sequence[CategoryColumn], rows: int, variables: int) -> None:
        cells = math.prod(len(factor.levels) for factor in factors) * variables
        if cells > MOST_SAMPLES:
            names = listed([factor.label for factor in factors])
            of = f" for {variables:,} variables" if variables > 1 else ""
            raise VariableError(
                f"{names} make {cells:,} groups{of}, and a figure holds at most {MOST_SAMPLES:,}. "
                "Take one of them away, or choose one with fewer levels."
            )
        sides = [len(factor.levels) + 1 for factor in factors]
        whole = math.prod(sides)
        self.combined = self._combined(factors, whole)
        present = np.array([rows])
        if self.combined is not None:
            pieces = parts_of(self.combined)
            present = sum(
                (np.bincount(piece, minlength=whole) for piece in pieces), np.zeros(whole, np.int64)
            )
        every = list(product(*(range(side) for side in sides)))
        without = [side - 1 for side in sides]
        lacking = [
            any(code == none for code, none in zip(codes, without, strict=True)) for codes in every
        ]
        kept_numbers = [number for number in range(whole) if not lacking[number] or present[number]]
        self.numbers = kept_numbers
        self.codes = [
            tuple(
                -1 if code == none else code
                for code, none in zip(every[number], without, strict=True)
            )
            for number in kept_numbers
        ]
        self.order: IntArray | None = None
        self.starts: list[int] = []
        if self.combined is not None and len(kept_numbers) > _FEW_PARTS:
            self.order = np.argsort(self.combined, kind="stable")
            ends = np.cumsum(present)
            self.starts = [int(ends[number] - present[number]) for number in kept_numbers]
            self.starts.append(rows)
            # Parts that are left out are empty, so each part ends where the next one begins.

    @staticmethod
    def _combined(factors: Sequence[CategoryColumn], whole: int) -> IntArray | None:
        """The number of each row's combination; a missing level counts as one beyond the last."""
        if not factors:
            return None
        kind: type[np.signedinteger[Any]] = np.int16 if whole < 2**15 else np.int32
        combined: IntArray | None = None
        for factor in factors:
            codes: IntArray = factor.codes.astype(kind)
            codes[codes < 0] = len(factor.levels)
            if combined is None:
                combined = codes
            else:
                combined *= len(factor.levels) + 1
                combined += codes
        return combined

    def sorted_into_parts(self, values: FloatArray | IntArray) -> _InParts:
        """The values of a column, part by part.

        Parameters
        ----------
        values : array, shape (rows,)
            Of a column, row by row.
        """
        return _InParts(self, values)


def _sample(label: str, values: FloatArray, gaps: bool) -> Sample:
    """A sample of values that are its own to sort."""
    values.sort()
    n = len(values) - int(np.count_nonzero(np.isnan(values))) if gaps else len(values)
    return Sample(label, values[:n], len(values) - n)


def _weights(column: NumberColumn) -> IntArray:
    """Cases that each row stands for; 0 where there is no weight."""
    weights = np.where(np.isnan(column.values), 0.0, column.values)
    wrong = np.flatnonzero((weights < 0) | (weights != np.floor(weights)))
    if len(wrong):
        raise VariableError(
            f"{quoted(column.name)} cannot be a weight: row {wrong[0] + 1:,} holds "
            f"{weights[wrong[0]]:.12g}, and a "
            "weight is the whole number of cases that a row stands for, 0 or more. Choose another "
            "variable."
        )
    if weights.sum() >= _MOST_CASES:
        raise VariableError(
            f"{quoted(column.name)} cannot be a weight: it adds up to more cases than can be "
            "counted."
        )
    return weights.astype(np.int64)


def _weighed(label: str, values: FloatArray, weights: IntArray) -> AnySample:
    """A sample of rows that stand for several cases each."""
    known = ~np.isnan(values)
    missing = int(weights[~known].sum())
    positive = known & (weights > 0)
    values, weights = values[positive], weights[positive]
    order = np.argsort(values, kind="stable")
    if weights.sum() <= _MOST_REPEATED:
        return Sample(label, np.repeat(values[order], weights[order]), missing)
    return Weighted(label, values[order], np.cumsum(weights[order]), missing)


def as_factor(column: Column) -> CategoryColumn:
    """Read a column as a factor: a category as it is, a number with few different values as its
    levels."""
    factor = column
    if isinstance(column, NumberColumn):
        different = few_values(column)
        if different is not None:
            dates = isinstance(column, DateColumn)
            names = [level_written(value, dates) for value in different.tolist()]
            levels = tuple(dict.fromkeys(names))
            # Sums such as 0.1 + 0.2 and 0.3 are two numbers, and one group.
            level_of = np.array([*map(levels.index, names), -1], dtype=np.int16)
            codes = level_of[np.searchsorted(different, column.values)]
            codes[np.isnan(column.values)] = -1
            factor = CategoryColumn(
                column.name,
                column.label,
                column.unit,
                column.missing_as,
                column.stood,
                codes=codes,
                levels=levels,
            )
    if not isinstance(factor, CategoryColumn) or len(factor.levels) > MOST_GROUPS:
        raise VariableError(
            f"{quoted(column.name)} has too many different values to split by: "
            f"a figure shows at most {MOST_GROUPS} groups. Choose a variable with fewer."
        )
    if not factor.levels:
        raise VariableError(
            f"{quoted(column.name)} has no levels: all {column.rows:,} rows are missing."
        )
    return factor


def few_values(column: NumberColumn) -> FloatArray | None:
    """The different values of a column in order, or None where they are too many to be groups."""
    seen: FloatArray = np.empty(0)
    for part in parts_of(column.values):
        fresh = part[~np.isnan(part)]
        for known in seen.tolist():  # passing over what is known is faster than sorting it again
            fresh = fresh[fresh != known]
        seen = np.union1d(seen, fresh)
        if len(seen) > MOST_GROUPS:
            return None
    return seen


@memoised  # a text is counted for it, which takes long where there are many
def can_split(table: Table) -> list[Column]:
    """The columns that a figure may be split by, categories first; looked for once in a table."""
    factors: list[Column] = [
        c
        for c in table.columns
        if isinstance(c, CategoryColumn) and 0 < len(c.levels) <= MOST_GROUPS
    ]
    return factors + [column for column in table.numbers if column.n and _is_code(column)]


def _is_code(column: NumberColumn) -> bool:
    """Whether a column of numbers has so few different ones that they may stand for groups."""
    head = column.values[:2000]
    if len(np.unique(head[~np.isnan(head)])) > _MOST_CODES:
        return False
    few = few_values(column)
    return few is not None and len(few) <= _MOST_CODES


def can_weigh(columns: Sequence[NumberColumn]) -> list[NumberColumn]:
    """The columns that may tell how many cases a row stands for, to judge by their first rows."""
    weights = []
    for column in columns:
        head = column.values[:2000]
        head = head[~np.isnan(head)]
        if len(head) and head.max() > 1 and head.min() >= 0 and np.all(head == np.floor(head)):
            weights.append(column)
    return weights
