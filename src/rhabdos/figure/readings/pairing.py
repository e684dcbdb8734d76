"""Pairs: the same case measured twice, found by its row or by what names it."""

from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.columns import CategoryColumn, Column, LabelColumn, NumberColumn
from rhabdos.data.sample_sets import Cell, SampleSet
from rhabdos.data.table import VariableError
from rhabdos.errors import Refusal
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.memo import last_answers, memoised
from rhabdos.quoting import listed, quoted
from rhabdos.wording import counted

if TYPE_CHECKING:
    from numpy.typing import NDArray

_MOST_TRIED = 12  # columns that are looked at for names of cases …
_MOST_ROWS = 500_000  # … of tables up to so many rows
_LEAST_SHARED = 0.5  # of the cases of the smaller group, that a name must find in both


class Paired(Struct, frozen=True, eq=False):
    """Both values of each case that has them.

    Attributes
    ----------
    ours, theirs : array, shape (n,)
        Of the group and of the reference, case by case.
    alone, alone_there : int
        Values of either that have no partner.
    """

    ours: FloatArray
    theirs: FloatArray
    alone: int
    alone_there: int


def paired_values(readings: Readings, group: Group, reference: Group) -> Paired | None:
    """The cases that a group and the reference have in common; None where rows are independent.

    Raises
    ------
    Refusal
        Rows cannot be paired so.
    """
    settings = readings.recipe.compare
    if settings is None or settings.paired is False:
        return None
    return _paired(readings.samples, group.index, reference.index, settings.paired)


@last_answers(lambda _samples, *how: how, most=64)  # so many pairs a comparison of groups has
def _paired(samples: SampleSet, ours: int, theirs: int, by: bool | str) -> Paired:
    if samples.weight is not None:
        raise Refusal("Rows that count by a weight have no pairs. Compare them as independent.")
    cells = samples.cells[ours], samples.cells[theirs]
    if by is True:
        if cells[0].codes != cells[1].codes:
            raise Refusal(
                "Rows pair several variables of one group, and these groups are of different rows. "
                "Name a variable that names each case, such as a number of cases."
            )
        values = [_values(samples, cell) for cell in cells]
        both = ~np.isnan(values[0]) & ~np.isnan(values[1])
        if not both.any():
            raise Refusal("No row has a value in both variables. Compare them as independent.")
        alone = [int(np.count_nonzero(~np.isnan(v) & ~both)) for v in values]
        return Paired(values[0][both], values[1][both], *alone)
    assert isinstance(by, str)
    assert samples.table is not None
    column = samples.table.column(by)
    codes = _codes_of(column)
    of_cells = [_by_case(samples, cell, codes) for cell in cells]
    for index, (cases, _) in zip((ours, theirs), of_cells, strict=True):
        _refuse_repeated(column, cases, codes, samples.samples[index].label)
    _, first, second = np.intersect1d(
        of_cells[0][0], of_cells[1][0], assume_unique=True, return_indices=True
    )
    alone = [len(cases) - len(first) for cases, _ in of_cells]
    if not len(first):
        raise Refusal(
            f"{quoted(column.name)} finds no case in both "
            f"{listed([samples.samples[at].label for at in (ours, theirs)])}. "
            "Name another variable, or compare them as independent."
        )
    return Paired(of_cells[0][1][first], of_cells[1][1][second], *alone)


def _values(samples: SampleSet, cell: Cell) -> FloatArray:
    """The values of all rows, NaN in those that are not of a cell; shape (rows,)."""
    values = samples.variables[cell.variable].values
    return np.where(_inside(samples, cell, len(values)), values, np.nan)


def _inside(samples: SampleSet, cell: Cell, rows: int) -> "NDArray[np.bool_]":
    inside = np.ones(rows, dtype=bool)
    for factor, code in zip(samples.factors, cell.codes, strict=True):
        inside &= factor.codes == code
    return inside


def _by_case(samples: SampleSet, cell: Cell, codes: IntArray) -> tuple[IntArray, FloatArray]:
    """What names each case of a cell, and its value."""
    values = samples.variables[cell.variable].values
    inside = _inside(samples, cell, len(values)) & (codes >= 0) & ~np.isnan(values)
    return codes[inside], values[inside]


@memoised  # names of cases are compared as texts once, and as numbers from then on
def _codes_of(column: Column) -> IntArray:
    """The same whole number for the same name of a case; -1 for none."""
    if isinstance(column, CategoryColumn):
        return column.codes.astype(np.int64)
    if isinstance(column, NumberColumn):
        _, codes = np.unique(column.values, return_inverse=True, equal_nan=True)
        return np.where(np.isnan(column.values), -1, codes).astype(np.int64)
    assert isinstance(column, LabelColumn)
    from rhabdos.data.fields.texts import label_series

    ranks = label_series(column).rank("dense").fill_null(0).to_numpy()
    return ranks.astype(np.int64) - 1


def _refuse_repeated(column: Column, cases: IntArray, codes: IntArray, label: str) -> None:
    different, times = np.unique(cases, return_counts=True)
    if len(different) == len(cases):
        return
    twice = int(np.count_nonzero(times > 1))
    row = int(np.flatnonzero(codes == different[times > 1][0])[0])
    raise Refusal(
        f"{quoted(column.name)} names {counted(twice, 'case', 'cases')} of {label} more than once, "
        f"such as {quoted(_written(column, row))}, so it finds no pairs. Name a variable that has "
        "each case once in a group."
    )


def _written(column: Column, row: int) -> str:
    if isinstance(column, CategoryColumn):
        return column.levels[int(column.codes[row])]
    if isinstance(column, NumberColumn):
        return column.written(float(column.values[row]))
    assert isinstance(column, LabelColumn)
    return str(column.texts[row])


def ways_to_pair(readings: Readings) -> list[tuple[str, bool | str]]:
    """How groups of this figure can be paired, in words and as the recipe has it; independent rows
    first."""
    return [("independent rows", False), *_ways(readings.samples)]


@memoised  # whether names repeat is looked for in all rows
def _ways(samples: SampleSet) -> tuple[tuple[str, bool | str], ...]:
    if samples.weight is not None or samples.table is None:
        return ()
    filled = [at for at, sample in enumerate(samples.samples) if sample.n]
    ways: list[tuple[str, bool | str]] = []
    if len({samples.cells[at].variable for at in filled}) > 1:
        ways.append(("the same row", True))
    if len({samples.cells[at].codes for at in filled}) > 1 and samples.table.rows <= _MOST_ROWS:
        shown = {column.name for column in (*samples.variables, *samples.factors)}
        others = [c for c in samples.table.columns if c.name not in shown and _may_name(c)]
        ways += [
            (f"the same {column.label}", column.name)
            for column in others[:_MOST_TRIED]
            if _names_cases(samples, filled, column)
        ]
    return tuple(ways)


def _may_name(column: Column) -> bool:
    """Whether a column may name cases: numbers must be whole."""
    if not isinstance(column, NumberColumn):
        return True
    values = column.values[~np.isnan(column.values)]
    return bool(len(values)) and bool(np.all(values == np.round(values)))


def _names_cases(samples: SampleSet, filled: list[int], column: Column) -> bool:
    """Whether it finds enough cases of the first two groups of different rows."""
    first = filled[0]
    other = next(at for at in filled if samples.cells[at].codes != samples.cells[first].codes)
    try:
        paired = _paired(samples, other, first, column.name)
    except (Refusal, VariableError):
        return False
    smaller = min(len(paired.ours) + paired.alone, len(paired.ours) + paired.alone_there)
    return len(paired.ours) >= max(2, _LEAST_SHARED * smaller)
