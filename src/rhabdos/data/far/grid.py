"""The cells in which values are counted: of a round width, wider far out, so that few suffice
whatever the values are."""

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from sqlglot import exp

from rhabdos.arrays import FloatArray
from rhabdos.data.far.words import (
    at_least,
    between,
    both,
    column,
    is_in,
    known,
    less,
    named,
    number,
    when,
)

MOST_CELLS = 100_000
"""Cells that a figure is made of, about."""

_MOST_VALUES = 600_000  # of decimals, each of which then is a cell of its own
_WIDENINGS = 7  # times that cells grow tenfold on the way outwards
_MOST_PLACES = 9
_NONE = exp.null()
_SMALLEST_STEP, _LARGEST_STEP = -300, 290  # powers of ten


class Step(Struct, frozen=True):
    """A width of 1, 2 or 5 times a power of ten: ``digit`` × 10 ** ``exponent``."""

    digit: int
    exponent: int

    @property
    def width(self) -> float:
        """As a number."""
        return float(f"{self.digit}e{self.exponent}")

    def wider(self, tens: int) -> "Step":
        """Ten times as wide, so often."""
        return Step(self.digit, self.exponent + tens)

    @property
    def parts(self) -> float:
        """How many of it make 1, where it is below 1; else 1."""
        return float(10**-self.exponent // self.digit) if self.exponent < 0 else 1.0

    @property
    def ones(self) -> float:
        """How many ones make it, where it is not below 1; else 1."""
        return 1.0 if self.exponent < 0 else self.width

    def floor(self, x: exp.Expression) -> exp.Expression:
        """About which cell a value is in, counted from 0."""
        if self.exponent < 0:
            return exp.Floor(this=both(x, number(self.parts), exp.Mul))
        return exp.Floor(this=both(x, number(self.ones), exp.Div))

    def begin(self, x: exp.Expression, k: exp.Expression) -> exp.Expression:
        """Where the cell of a value begins, which is about the k-th."""

        def at(place: exp.Expression) -> exp.Expression:
            """Where a cell begins."""
            if self.exponent < 0:
                return both(place, number(self.parts), exp.Div)
            return both(place, number(self.ones), exp.Mul)

        before, after = at(both(k, number(1.0), exp.Sub)), at(both(k, number(1.0), exp.Add))
        return when((less(x, at(k)), before), (at_least(x, after), after), other=at(k))


class Grid(Struct, frozen=True):
    """Cells of a step about a centre; from ``reach`` on they grow tenfold with the distance."""

    step: Step
    centre: float
    reach: float

    @property
    def last(self) -> float:
        """Where the cell begins that holds all values beyond the widest ones; on the other side
        too."""
        return self.reach * 10.0**_WIDENINGS if self.reach < 1e290 else 1e300

    def cells(self, rows: exp.Select, kept: Sequence[str], only: FloatArray | None) -> exp.Select:
        """Rows with "c", where the cell of their value "x" begins: exactly at the double of
        k × width, and nowhere where there is no value.

        Widths below 1 are one over a whole number, and others whole numbers, which doubles hold;
        so a begin is rounded once. The floor of x × 100 alone would put 0.29 into the cell of 0.28.

        Parameters
        ----------
        rows : select
            With a column "x".
        kept : sequence of str
            Further columns.
        only : array, optional
            Where the cells begin whose rows are wanted; the others are passed over early.
        """
        x, k = column("x"), column("k")
        taken = [column(name) for name in kept]
        # Widths are written out for each part of the axis: an engine is several times faster with
        # numbers that it knows than with those that it looks up for each row.
        floors = when(*((self._within(t), self._step(t).floor(x)) for t in self._tens), other=_NONE)
        counted = exp.select(*taken, x, named(floors, "k")).from_(rows.subquery("r"))
        if only is not None:
            near = is_in(k, [number(value) for value in self._near(only).tolist()])
            counted = counted.where(near) if len(near.expressions) else counted

        last = number(self.last)
        beyond = when((less(x, number(self.centre)), exp.Neg(this=last)), other=last)
        begin = when(
            *((self._within(tens), self._step(tens).begin(x, k)) for tens in self._tens),
            (known(x), beyond),
            other=_NONE,
        )
        query = exp.select(*taken, x, named(begin, "c")).from_(counted.subquery("k"))
        if only is None:
            return query
        of_these = is_in(column("c"), [number(value) for value in only.tolist()])
        return exp.select(*taken, x, column("c")).from_(query.subquery("n")).where(of_these)

    def _near(self, begins: FloatArray) -> FloatArray:
        """The numbers that rows of cells may have at first, before rounding is seen to; none where
        a cell has no number."""
        inside = begins[np.abs(begins) < self.last]
        if len(inside) < len(begins):
            return np.empty(0)
        numbers = [
            np.round(inside * self._step(tens).parts / self._step(tens).ones) for tens in self._tens
        ]
        whole = np.unique(np.concatenate(numbers))
        return np.unique(np.concatenate([whole - 1, whole, whole + 1]))

    def _step(self, tens: int) -> Step:
        return self.step.wider(tens)

    @property
    def _tens(self) -> list[int]:
        return [
            tens
            for tens in range(_WIDENINGS)
            if self.reach * 10.0**tens < 1e300 and self.step.exponent + tens < _LARGEST_STEP
        ]

    def _within(self, tens: int) -> exp.Expression:
        """Whether a value lies where cells have grown so often."""
        reach = self.reach * 10.0**tens
        low, high = max(self.centre - reach, -1.7e308), min(self.centre + reach, 1.7e308)
        return between(column("x"), number(low), number(high))


def grid_for(seen: FloatArray, groups: int) -> Grid:
    """The cells for values such as these.

    Decimals of few places are each a cell of their own where there are not too many; then all
    values are known.

    Parameters
    ----------
    seen : array, shape (n,)
        Some of the values, finite.
    groups : int
        Among how many groups cells are shared out.
    """
    if not len(seen):
        return Grid(Step(1, 0), 0.0, 1e4)
    low, middle, high = np.quantile(seen, (0.005, 0.5, 0.995)).tolist()
    centre = float(f"{middle:.3g}")
    spread = max(high - centre, centre - low, abs(centre) * 1e-9, 1e-300)
    reach = 10.0 ** min(max(math.ceil(math.log10(spread * 1.5)), -290), 290)
    # Half a power of ten less, where that holds nearly all as well.
    reach = next(r for r in (0.2 * reach, 0.5 * reach, reach) if r >= spread * 1.5 or r == reach)
    places = _places(seen)
    if places is not None:
        values = 2 * reach * 10.0**places * groups
        if values <= _MOST_VALUES:
            return Grid(Step(1, -places), centre, reach)
    most = MOST_CELLS / groups
    exponent = math.floor(math.log10(2 * reach / most))
    digit = next(d for d in (1, 2, 5, 10) if d * 10.0**exponent >= 2 * reach / most * (1 - 1e-9))
    digit, exponent = (1, exponent + 1) if digit == 10 else (digit, exponent)
    exponent = min(max(exponent, _SMALLEST_STEP), _LARGEST_STEP)
    return Grid(Step(digit, exponent), centre, reach)


def _places(seen: FloatArray) -> int | None:
    """Decimal places that write all these values, if few do."""
    if np.abs(seen).max() >= 2.0**53:
        return None
    for places in range(_MOST_PLACES + 1):
        scaled = seen * 10.0**places
        whole = np.round(scaled)
        if np.all(np.abs(whole) < 2.0**53) and np.array_equal(whole / 10.0**places, seen):
            return places
    return None
