"""Sets of samples: which part of the rows each is of, and which rows hold its values."""

import math
from functools import cached_property

import numpy as np
from msgspec import Struct, structs

from rhabdos.arrays import IntArray
from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.pooled import AnySample, Pooled
from rhabdos.data.samples import Sample
from rhabdos.data.table import Table
from rhabdos.memo import memoised

_CASES_A_ROW = 64  # times as many cases are looked at where rows stand for several
MOST_TAIL_ROWS = 200


class Cell(Struct, frozen=True):
    """What a sample is of: a variable, and a level of each factor, by place; -1 has no level."""

    variable: int = 0
    codes: tuple[int, ...] = ()

    @property
    def ungrouped(self) -> bool:
        """Whether its rows lack a level of some factor."""
        return -1 in self.codes


class SampleSet(Struct, frozen=True, eq=False, dict=True):
    """The samples of a figure.

    Attributes
    ----------
    variables : tuple of NumberColumn
        What is measured.
    factors : tuple of CategoryColumn
        What splits it.
    cells : tuple of Cell
        What each sample is of.
    samples : tuple of Sample or Weighted
        One per variable and combination of levels, in the levels' order, also where no row has it;
        and one per combination that lacks a level, where a row does.
    weight : Column or None
        What tells how many cases a row stands for.
    unweighted : int
        Rows left out, because they have no weight.
    table : Table or None
        Where they come from, which can name their rows.
    provisional : int
        The rows that were looked at, where these stand for all of them until those are counted;
        else 0.
    """

    variables: tuple[NumberColumn, ...]
    factors: tuple[CategoryColumn, ...]
    cells: tuple[Cell, ...]
    samples: tuple[AnySample, ...]
    weight: NumberColumn | None = None
    unweighted: int = 0
    table: Table | None = None
    pool: Pooled | None = None
    provisional: int = 0

    @cached_property
    def pooled(self) -> Pooled:
        """All samples read as one; the same in whatever order they are."""
        return self.pool or Pooled(self.samples)

    @property
    def variable(self) -> NumberColumn:
        """What is measured; of several variables the first."""
        return self.variables[0]

    def factor(self, asked: str) -> CategoryColumn:
        """A factor by its name in the file or by its label."""
        name = self.table.column(asked).name if self.table else asked
        return next(factor for factor in self.factors if factor.name == name)

    @property
    def ungrouped(self) -> int:
        """Values whose row lacks a level."""
        both = zip(self.cells, self.samples, strict=True)
        return sum(sample.n for cell, sample in both if cell.ungrouped)

    @memoised  # what is kept with the pool is lost with it
    def pooled_at(self, places: tuple[int, ...]) -> Pooled:
        """The samples at these places, read as one; places are in order."""
        if places == tuple(range(len(self.samples))):
            return self.pooled
        return Pooled(tuple(self.samples[index] for index in places))

    @memoised  # the same groups at each step of a hand are one set, with all that is kept of it
    def chosen(self, places: tuple[int, ...]) -> "SampleSet":
        """The samples at these places, in this order, without copying a value."""
        return structs.replace(
            self,
            cells=tuple(self.cells[index] for index in places),
            samples=tuple(self.samples[index] for index in places),
            pool=self.pooled_at(tuple(sorted(places))),
        )

    def with_empty(self, cells: tuple[Cell, ...]) -> "SampleSet":
        """The samples of these cells, in this order; empty ones where no row is of a cell."""
        known = dict(zip(self.cells, self.samples, strict=True))
        nothing = Sample("", np.empty(0))
        samples = tuple(known.get(cell, nothing) for cell in cells)
        return structs.replace(self, cells=cells, samples=samples, pool=None)

    @memoised
    def tail_rows(self, group: int, most: int = MOST_TAIL_ROWS) -> IntArray:
        """Rows (from 0) of the lowest and the highest values of a group, at most so many at an end.

        They are looked for once: what lies beyond a whisker is among them, however it is moved.
        """
        sample, values = self.samples[group], self.variables[self.cells[group].variable].values
        cases = most
        while sample.n > 2 * cases:
            low, high = sample.at(np.array([cases, sample.n - 1 - cases])).tolist()
            rows = self.rows_past(group, low, high)
            if self.weight is None:
                return np.unique(rows)
            below = int((values[rows] < low).sum())
            if min(below, len(rows) - below) >= most:
                return np.unique([*rows[:most], *rows[-most:]])
            cases *= _CASES_A_ROW  # a row may stand for more than were looked at
        rows = self.rows_past(group, math.inf, -math.inf)
        return np.unique([*rows[:most], *rows[most:][-most:]]).astype(np.int64)

    def rows_past(self, group: int, low: float, high: float) -> IntArray:
        """Rows (from 0) of a group whose value is below ``low`` or above ``high``, by value, then
        by row; those that stand for no case are left out.

        Parameters
        ----------
        group : int
            Its place among the cells.
        low, high : float
            In the variable's unit; values equal to them are not outside.
        """
        cell = self.cells[group]
        values = self.variables[cell.variable].values
        chosen = (values < low) | (values > high)
        for factor, code in zip(self.factors, cell.codes, strict=True):
            chosen &= factor.codes == code
        rows = np.flatnonzero(chosen)
        rows = rows[np.argsort(values[rows], kind="stable")]
        return rows if self.weight is None else rows[self.cases_of(rows) > 0]

    def cases_of(self, rows: IntArray) -> IntArray:
        """How many cases rows stand for.

        Parameters
        ----------
        rows : array of int, shape (k,)
            Counted from 0.
        """
        if self.weight is None:
            return np.ones(len(rows), dtype=np.int64)
        return np.nan_to_num(self.weight.values[rows]).astype(np.int64)
