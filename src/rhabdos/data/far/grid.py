"""The cells in which values are counted: of a round width, wider far out, so that few suffice
whatever the values are."""

import math
from collections.abc import Callable, Sequence

import numpy as np
from msgspec import Struct
from sqlglot import exp

from rhabdos.arrays import FloatArray
from rhabdos.data.far.connection import Connection
from rhabdos.data.far.words import (
    between,
    both,
    column,
    finite,
    known,
    less,
    named,
    number,
    of_rows,
    only_when,
    when,
    where_one_of,
)
from rhabdos.data.samples import Sample
from rhabdos.stats.bandwidths import ruled_bandwidth

MOST_CELLS = 100_000
"""Cells that a figure is made of, at most and about."""

_MANY_ROWS = 2_500_000  # of a group, of which more cells than curves need cost what can be felt
_A_BANDWIDTH = 25  # cells at least then, of that which a rule of thumb gives
_ACROSS = 10_000  # cells at least, over what nearly all values lie in

_MOST_VALUES = 600_000  # of decimals, each of which then is a cell of its own
_WIDENINGS = 7  # times that cells grow tenfold on the way outwards
_MOST_PLACES = 9  # decimals up to which values are looked for on a grid
# Of a value: by so much its place in steps may be rounded, twice.
_ROUNDED = 2.0**-51
_MOST_TAKEN = 0.25  # of a cell
_SMALLEST_SQUARED = 1e-150  # of which the square is a double
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

    def begin_of(self, x: exp.Expression, furthest: float) -> exp.Expression:
        """Where the cell of a value begins.

        x × 100 is 28.999999999999996 for 0.29; so it is moved up by what rounding may have taken.
        A value that lies closer than that below an edge then counts to the cell above it, which
        does no harm: what a cell holds is told by its least and its greatest value.

        Parameters
        ----------
        furthest : float
            The largest size of a value that is asked about.
        """
        place = self.place_of(x, furthest)
        if self.exponent < 0:
            return both(place, number(self._parts), exp.Div)
        return both(place, number(self.width), exp.Mul)

    def place_of(self, x: exp.Expression, furthest: float) -> exp.Expression:
        """The number of a value's cell, from 0."""
        if self.exponent < 0:
            taken = min(furthest * self._parts * _ROUNDED, _MOST_TAKEN)
            return _floor(self.in_steps(x), taken)
        taken = min(furthest / self.width * _ROUNDED, _MOST_TAKEN)
        return _floor(self.in_steps(x), taken)

    def in_steps(self, x: exp.Expression) -> exp.Expression:
        """How many widths a value is."""
        if self.exponent < 0:
            return both(x, number(self._parts), exp.Mul)
        return both(x, number(self.width), exp.Div)

    def places(self, begins: FloatArray) -> FloatArray:
        """The numbers of the cells that begin here.

        Parameters
        ----------
        begins : array, shape (k,)
            In the variable's unit.
        """
        return np.round(begins * self._parts if self.exponent < 0 else begins / self.width)

    @property
    def _parts(self) -> float:
        """How many make 1, of those narrower than that."""
        return float(10**-self.exponent // self.digit)


def _floor(place: exp.Expression, taken: float) -> exp.Expression:
    return exp.Floor(this=both(place, number(taken), exp.Add))


class Grid(Struct, frozen=True):
    """Cells of a step about a centre; from ``reach`` on they grow tenfold with the distance.

    With ``by_value`` each value is a cell of its own.
    """

    step: Step
    centre: float
    reach: float
    by_value: bool = False

    @property
    def ends(self) -> tuple[float, float]:
        """Where the cells begin, by name, that hold all values beyond the widest ones."""
        far = self.reach * 10.0**_WIDENINGS if self.reach < 1e290 else 1e300
        return self.centre - far, self.centre + far

    def begins(
        self, rows: exp.Select, kept: Sequence[str], apart: Callable[[exp.Select], exp.Select]
    ) -> exp.Select:
        """Rows with "c", where the cell of their value begins; nothing, or NaN, or infinite, where
        there is none.

        Parameters
        ----------
        rows : select
            With a column "x".
        kept : sequence of str
            Further columns.
        apart : callable
            Keeps the engine from working a query out anew for each mention of its columns.
        """
        x, taken = column("x"), [column(name) for name in kept]
        if self.by_value:
            return of_rows(exp.select(*taken, x, named(x.copy(), "c")), rows, "r")
        # Widths are written out for each part of the axis: an engine is several times faster with
        # numbers that it knows than with those that it looks up for each row.
        begin = when(
            *((self._within(tens), self._begin_at(x, tens)) for tens in self._tens),
            other=only_when(finite(x), self._begin_beyond(x)),
        )
        return apart(of_rows(exp.select(*taken, x, named(begin, "c")), apart(rows), "r"))

    def within(
        self, rows: exp.Select, kept: Sequence[str], begins: FloatArray, connection: Connection
    ) -> exp.Select:
        """The rows, with "x", whose value lies in one of the cells that begin here.

        Parameters
        ----------
        rows : select
            With a column "x".
        kept : sequence of str
            Further columns.
        begins : array, shape (k,)
            In the variable's unit.
        """
        taken = [column(name) for name in (*kept, "x")]
        if self._narrow(begins):
            place = self.step.place_of(column("x"), self._furthest(0))
            if connection.guarded:
                place = only_when(self._within(0), place)
            all_rows = of_rows(exp.select(*taken), rows, "r")
            return where_one_of(
                all_rows, place, self.step.places(begins).tolist(), connection.joins
            )
        cells = of_rows(exp.select(*taken), self.begins(rows, kept, connection.apart), "b")
        return where_one_of(cells, column("c"), begins.tolist(), connection.joins)

    def _narrow(self, begins: FloatArray) -> bool:
        """Whether cells that begin here are all of one step, so that their numbers tell them."""
        least, most = self._ends_of(0)
        # The first of the wider cells may begin where a narrow one does, and be one cell with it.
        inside = (least < begins) & (begins < most - self.step.wider(1).width)
        return bool(inside.all()) and not self.by_value

    def _begin_beyond(self, x: exp.Expression) -> exp.Expression:
        low, high = (number(end) for end in self.ends)
        return when((less(x, number(self.centre)), low), other=high)

    def _begin_at(self, x: exp.Expression, tens: int) -> exp.Expression:
        return self.step.wider(tens).begin_of(x, self._furthest(tens))

    def _furthest(self, tens: int) -> float:
        """The largest size of a value where cells have grown so often."""
        return abs(self.centre) + self.reach * 10.0**tens

    def away(self, strict: bool) -> exp.Expression:
        """How far a value lies from where its cell begins, in steps.

        Parameters
        ----------
        strict : bool
            Whether the engine refuses to work out what is no double; then 0 stands for what is too
            small to be squared, and for all that lies beyond the widest cells.
        """
        x, c = column("x"), column("c")
        away = self.step.in_steps(both(x, c, exp.Sub))
        if not strict:
            return away
        small = less(exp.Abs(this=away.copy()), number(_SMALLEST_SQUARED))
        low, high = (number(end) for end in self.ends)
        inside = both(less(low, c), less(c, high), exp.And)
        kept = when((small, number(0.0)), other=away)
        return when((inside, kept), (known(x), number(0.0)), other=exp.null())

    @property
    def _tens(self) -> list[int]:
        return [
            tens
            for tens in range(_WIDENINGS)
            if self.reach * 10.0**tens < 1e300 and self.step.exponent + tens < _LARGEST_STEP
        ]

    @property
    def by_cells(self) -> "Grid":
        """The same where there are too many values for that."""
        step = _step_for(self.reach, MOST_CELLS / 4)
        return Grid(step, self.centre, self.reach)

    def _within(self, tens: int) -> exp.Expression:
        """Whether a value lies where cells have grown so often."""
        low, high = (number(end) for end in self._ends_of(tens))
        return between(column("x"), low, high)

    def _ends_of(self, tens: int) -> tuple[float, float]:
        """How far cells reach that have grown so often."""
        reach = self.reach * 10.0**tens
        return max(self.centre - reach, -1.7e308), min(self.centre + reach, 1.7e308)


def grid_for(seen: FloatArray, groups: int, rows: int | None = None) -> Grid:
    """The cells for values such as these.

    Decimals of few places are each a cell of their own where there are not too many; then all
    values are known. Otherwise cells of very many rows are no narrower than their curves need:
    more of them would take an engine longer, and show nothing.

    Parameters
    ----------
    seen : array, shape (n,)
        Some of the values, finite.
    groups : int
        Among how many groups cells are shared out.
    rows : int, optional
        How many rows there are, where that is known.
    """
    if not len(seen):
        return Grid(Step(1, 0), 0.0, 1e4)
    low, middle, high = np.quantile(seen, (0.005, 0.5, 0.995)).tolist()
    centre = float(f"{middle:.3g}")
    # Values that are all alike, or nearly, still need a step that doubles can tell.
    spread = max(high - centre, centre - low, abs(centre) * 1e-9, 1e-300)
    reach = 10.0 ** min(max(math.ceil(math.log10(spread * 1.5)), -290), 290)
    # Half a power of ten less, where that holds nearly all as well.
    reach = next(r for r in (0.2 * reach, 0.5 * reach, reach) if r >= spread * 1.5 or r == reach)
    places = _places(seen)
    if places is not None:
        values = 2 * reach * 10.0**places * groups
        if values <= _MOST_VALUES:
            return Grid(Step(1, -places), centre, reach, True)
    step = _step_for(reach, MOST_CELLS / groups)
    if rows is not None and rows / groups >= _MANY_ROWS:
        for_curves = _bandwidth(seen, rows / groups) / _A_BANDWIDTH
        needed = _step_within(min(for_curves, 2 * reach / _ACROSS))
        step = max(step, needed, key=lambda each: each.width)
    return Grid(step, centre, reach)


def _bandwidth(seen: FloatArray, n: float) -> float:
    """Of so many values such as these, by a rule of thumb, which wants the fifth root of n."""
    of_seen = ruled_bandwidth(Sample("", np.sort(seen)), "silverman").width
    return of_seen * float((n / len(seen)) ** -0.2)


def _step_within(width: float) -> Step:
    """The widest step that is not wider than that."""
    if not 1e-290 < width < 1e290:  # where powers of ten leave the doubles
        return Step(1, _SMALLEST_STEP)
    exponent = math.floor(math.log10(width))
    digit = max((d for d in (1, 2, 5) if d * 10.0**exponent <= width), default=1)
    return Step(digit, exponent)


def _step_for(reach: float, most: float) -> Step:
    """The narrowest step of which at most so many reach to both sides."""
    exponent = math.floor(math.log10(2 * reach / most))
    digit = next(d for d in (1, 2, 5, 10) if d * 10.0**exponent >= 2 * reach / most * (1 - 1e-9))
    digit, exponent = (1, exponent + 1) if digit == 10 else (digit, exponent)
    return Step(digit, min(max(exponent, _SMALLEST_STEP), _LARGEST_STEP))


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
