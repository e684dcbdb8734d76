"""Gathering: from the columns of a table to sorted samples, group by group."""

from collections.abc import Callable, Sequence

import numpy as np

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.columns import CategoryColumn, Column, NumberColumn
from rhabdos.data.samples import AnySample, Sample, SampleSet, Weighted, parts_of
from rhabdos.data.table import Table, VariableError
from rhabdos.keeping import kept_with
from rhabdos.quoting import quoted

Report = Callable[[str, float | None], None]
"""Told a stage and the share done (None where unknown); raises Cancelled when the user has stopped
the task."""

MOST_GROUPS = 60
_MOST_CODES = 12
_MOST_REPEATED = (
    20_000_000  # cases; up to so many, a row that stands for several is written out as often
)
_MOST_CASES = 2.0**53


def silent(_stage: str, _share: float | None) -> None:
    """A report that nobody reads."""


def gather(
    table: Table,
    variable: str,
    split: str | None = None,
    report: Report = silent,
    weight: str | None = None,
) -> SampleSet:
    """Sort the values of a variable, in each group of a factor.

    Parameters
    ----------
    weight : str, optional
        A variable that tells how many cases each row stands for, in whole numbers.

    Raises
    ------
    VariableError
        A variable is not in the table or of the wrong kind, no row has a value, or a weight is
        none.
    Cancelled
        From ``report``.
    """
    measured = table.number(variable)
    if not measured.n:
        raise VariableError(
            f"{quoted(variable)} has no values: all {measured.rows:,} rows are missing."
        )
    weigher = table.number(weight) if weight is not None else None
    if split is None and weigher is None:
        report(f"Sorting {measured.label}", None)
        ordered = np.sort(measured.values)[: measured.n]  # NaN sorts to the end
        alone = Sample(measured.label, ordered, measured.missing)
        return SampleSet(measured, None, (alone,), table=table)
    factor = as_factor(table.column(split)) if split is not None else None
    weights = _weights(weigher) if weigher else None
    samples: list[AnySample] = []
    for code, level in enumerate(factor.levels if factor else (measured.label,)):
        report(f"Sorting {measured.label}, {level}", code / len(factor.levels) if factor else None)
        chosen = factor.codes == code if factor else slice(None)
        if weights is None:
            samples.append(_sample(level, measured.values[chosen], measured.missing > 0))
        else:
            samples.append(_weighed(level, measured.values[chosen], weights[chosen]))
    if not any(sample.n for sample in samples):
        by, of = (
            (f" and a level of {quoted(split)}" if split is not None else ""),
            (f" and a weight by {quoted(weight)}" if weight is not None else ""),
        )
        raise VariableError(
            f"No row has {'both ' if by or of else ''}a value of {quoted(variable)}{by}{of}."
        )
    counted = measured.n if weights is None else int(weights[~np.isnan(measured.values)].sum())
    ungrouped = counted - sum(sample.n for sample in samples)
    unweighted = weigher.missing if weigher else 0
    return SampleSet(measured, factor, tuple(samples), ungrouped, weigher, unweighted, table)


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
    held = known & (weights > 0)
    values, weights = values[held], weights[held]
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
            codes = np.searchsorted(different, column.values).astype(np.int16)
            codes[np.isnan(column.values)] = -1
            levels = tuple(f"{value:.15g}" for value in different)
            factor = CategoryColumn(
                column.name, column.label, column.unit, column.missing_as, "", codes, levels
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


@kept_with
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
