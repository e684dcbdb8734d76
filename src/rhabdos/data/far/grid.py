"""The cells in which values are counted: of a round width, wider far out, so that few suffice
whatever the values are."""

import math
from collections.abc import Callable, Sequence

import numpy as np
from msgspec import Struct
from sqlglot import exp

from rhabdos.arrays import FloatArray
from rhabdos.data.far.words import between, both, column, is_in, known, less, named, number, when

MOST_CELLS = 100_000
"""Cells that a figure is made of, about."""

_MOST_VALUES = 600_000  # of decimals, each of which then is a cell of its own
_WIDENINGS = 7  # times that cells grow tenfold on the way outwards
_MOST_PLACES = 9
_NONE = exp.null()
Apart = Callable[[exp.Select], exp.Select]
_ROUNDED = 2.0**-51
_SMALLEST_POWERED = 1e-70  # of which the fourth power is a double
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

    def begin_of(self, x: exp.Expression) -> exp.Expression:
        """Where the cell of a value begins.

        x × 100 is 28.999999999999996 for 0.29; so it is moved up by what rounding may have taken.
        A value that lies closer than that below an edge then counts to the cell above it, which
        does no harm: what a cell holds is told by its least and its greatest value.
        """
        if self.exponent < 0:
            parts = number(float(10**-self.exponent // self.digit))
            return both(_floor(both(x, parts, exp.Mul)), parts, exp.Div)
        width = number(self.width)
        return both(_floor(both(x, width, exp.Div)), width, exp.Mul)


def _floor(place: exp.Expression) -> exp.Expression:
    taken = both(exp.Abs(this=place.copy()), number(_ROUNDED), exp.Mul)
    return exp.Floor(this=both(place, taken, exp.Add))


class Grid(Struct, frozen=True):
    """Cells of a step about a centre; from ``reach`` on they grow tenfold with the distance."""

    step: Step
    centre: float
    reach: float

    @property
    def ends(self) -> tuple[float, float]:
        """Where the cells begin, by name, that hold all values beyond the widest ones."""
        far = self.reach * 10.0**_WIDENINGS if self.reach < 1e290 else 1e300
        return self.centre - far, self.centre + far

    def cells(
        self, rows: exp.Select, kept: Sequence[str], apart: Apart, only: FloatArray | None = None
    ) -> exp.Select:
        """Rows with "c", where the cell of their value "x" begins, nowhere where there is none, and
        "d", how far the value lies from there in steps.

        Parameters
        ----------
        rows : select
            With a column "x".
        kept : sequence of str
            Further columns.
        apart : callable
            Keeps the engine from working a query out anew for each mention of its columns.
        only : array, optional
            Where the cells begin whose rows are wanted, without "d".
        """
        x, taken = column("x"), [column(name) for name in kept]
        low, high = (number(end) for end in self.ends)
        beyond = when((less(x, number(self.centre)), low), other=high)
        # Widths are written out for each part of the axis: an engine is several times faster with
        # numbers that it knows than with those that it looks up for each row.
        begin = when(
            *((self._within(tens), self.step.wider(tens).begin_of(x)) for tens in self._tens),
            (known(x), beyond),
            other=_NONE,
        )
        query = exp.select(*taken, x, named(begin, "c")).from_(apart(rows).subquery("r"))
        query = apart(query)
        if only is None:
            c = column("c")
            return apart(
                exp.select(*taken, x, c, named(self._away(x, c), "d")).from_(query.subquery("m"))
            )
        of_these = is_in(column("c"), [number(value) for value in only.tolist()])
        return exp.select(*taken, x, column("c")).from_(query.subquery("n")).where(of_these)

    def _away(self, x: exp.Expression, c: exp.Expression) -> exp.Expression:
        """How far a value lies from where its cell begins, in steps; 0 where its powers would be no
        doubles, which some engines refuse to work out."""
        away = both(both(x, c, exp.Sub), number(self.step.width), exp.Div)
        small = less(exp.Abs(this=away.copy()), number(_SMALLEST_POWERED))
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
