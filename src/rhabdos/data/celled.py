"""Samples whose values stay where they are: counts in small cells tell nearly everything, and what
lies within a cell is fetched when a question needs it.

A cell is known by its least and its greatest value and how many there are. A point between two
cells, and the first and last rank of one, are answered at once; for a point or rank within a cell
its values are fetched, those of all groups together, and it falls apart into single values. So
counts and quantiles are exact. Only where a question is about very many places at once (a line
through each pixel, the resamples of a bootstrap, a curve) are cells read as they are: values are
then taken to lie evenly within their cell.
"""

from collections.abc import Callable, Iterator, Sequence
from functools import cached_property
from threading import Lock
from typing import Self

import numpy as np
from msgspec import Struct, structs

from rhabdos.arrays import BoolArray, FloatArray, IntArray
from rhabdos.data.samples import Moments, Weighted, in_parts, moments_of
from rhabdos.errors import Refusal
from rhabdos.stats.axis_scale import AxisScale

MOST_OPENED = 5_000
"""Cells that are opened for one question; of more, values are taken to lie evenly within each."""

_ROUNDED = 1e-12  # of a value, by which working with it may have changed it


class Opening(Struct, frozen=True, eq=False):
    """Cells that are opened together.

    Attributes
    ----------
    begins : array, shape (k,)
        Where each begins, in the variable's unit.
    low, high : float
        The least and the greatest value of all of them.
    most : bool
        Whether most of all values lie between these.
    n : int
        How many values lie in the cells.
    """

    begins: FloatArray
    low: float
    high: float
    most: bool
    n: int


Fetch = Callable[[Opening], Sequence[tuple[FloatArray, IntArray]]]
"""The values in some cells, and how often each occurs, group by group; ascending."""


class DataChanged(Refusal):
    """The rows that are asked now are not those that were counted before."""


class GroupCells(Struct, frozen=True, eq=False):
    """The cells of one group, in order.

    Attributes
    ----------
    begins : array, shape (k,)
        Where each cell of the grid begins; the same for all groups.
    lows, highs : array, shape (k,)
        The least and the greatest value in each.
    counts : array of int, shape (k,)
        How many values, at least one.
    means : array, shape (k,)
        Their means.
    """

    begins: FloatArray
    lows: FloatArray
    highs: FloatArray
    counts: IntArray
    means: FloatArray

    @property
    def alike(self) -> bool:
        """Whether every cell holds one value only, so that all values are known."""
        return bool(np.all(self.lows == self.highs))

    def weighted(self, label: str, missing: int) -> Weighted:
        """The values as they are, where they are all known."""
        return Weighted(label, self.lows, np.cumsum(self.counts), missing)


class Cells:
    """The cells of one variable in all groups, which open for all groups together.

    ``width`` is that of a cell where most values are, in the variable's unit.
    """

    def __init__(self, groups: Sequence[GroupCells], fetch: Fetch, width: float) -> None:
        self.width = width
        self._groups = list(groups)
        self._fetch = fetch
        self._lock = Lock()  # the window and a task may ask within cells at the same time
        self._grid = np.unique(np.concatenate([group.begins for group in groups]))
        self._open = np.zeros(len(self._grid), dtype=bool)
        self._counts = np.zeros(len(self._grid), dtype=np.int64)
        self._least = np.full(len(self._grid), np.inf)
        self._greatest = np.full(len(self._grid), -np.inf)
        for group in groups:
            at = self._grid.searchsorted(group.begins)
            np.add.at(self._counts, at, group.counts)
            np.minimum.at(self._least, at, group.lows)
            np.maximum.at(self._greatest, at, group.highs)
        self._open |= self._least == self._greatest
        self.version = 0

    def group(self, number: int) -> GroupCells:
        """The cells of a group as far as they are open now."""
        return self._groups[number]

    def open_at(self, begins: FloatArray) -> bool:
        """Open the cells of the grid that begin here; tells whether any was closed.

        Parameters
        ----------
        begins : array, shape (k,)
            Where each begins, in the variable's unit.

        Raises
        ------
        DataChanged
            What is fetched is not what was counted.
        """
        with self._lock:
            places = np.unique(self._grid.searchsorted(begins))
            places = places[~self._open[places]]
            if not len(places):
                return False
            lows, highs = self._least[places], self._greatest[places]
            between = self._counts[places[0] : places[-1] + 1].sum() > self._counts.sum() / 2
            least, greatest = float(lows.min()), float(highs.max())
            n = int(self._counts[places].sum())
            fetched = self._fetch(Opening(self._grid[places], least, greatest, bool(between), n))
            opening = np.zeros(len(self._grid), dtype=bool)
            opening[places] = True
            opened = [
                self._with_values(group, opening, lows, highs, places, *values)
                for group, values in zip(self._groups, fetched, strict=True)
            ]
            self._groups = opened
            self._open |= opening
            self.version += 1
            return True

    def _with_values(
        self,
        group: GroupCells,
        opening: BoolArray,
        lows: FloatArray,
        highs: FloatArray,
        places: IntArray,
        values: FloatArray,
        counts: IntArray,
    ) -> GroupCells:
        at = self._grid.searchsorted(group.begins)
        goes = opening[at]
        within = np.maximum(lows.searchsorted(values, side="right") - 1, 0)
        expected = np.zeros(len(lows), dtype=np.int64)
        expected[places.searchsorted(at[goes])] = group.counts[goes]
        if np.any(values > highs[within]) or np.any(
            np.bincount(within, counts, minlength=len(lows)) != expected
        ):
            raise DataChanged(
                "The data have changed while they were asked: some rows were counted that are not "
                "there now, or the other way round. Reload the data to count them anew."
            )
        stays = ~goes
        begins = np.concatenate([group.begins[stays], self._grid[places[within]]])
        each = [
            np.concatenate([old[stays], new])
            for old, new in (
                (group.lows, values), (group.highs, values), (group.counts, counts),
                (group.means, values),
            )
        ]  # fmt: skip
        order = np.argsort(each[0], kind="stable")
        return GroupCells(begins[order], *(array[order] for array in each))

    def cells_at(self, points: FloatArray, inclusive: bool, ends: bool = False) -> FloatArray:
        """Where the closed cells begin in which some group may have values on either side of a
        point; with ``ends`` those too that a point is an end of.

        Parameters
        ----------
        points : array, shape (k,)
            In the variable's unit.
        inclusive : bool
            Whether values equal to a point count to what lies below it.
        ends : bool
            Whether to tell also those of which a point is the least or the greatest value.
        """
        first = self._greatest.searchsorted(points, side="right" if inclusive else "left")
        first = np.minimum(first, len(self._grid) - 1)
        least, greatest = self._least[first], self._greatest[first]
        if ends:
            within = (least <= points) & (points <= greatest)
        elif inclusive:
            within = (least <= points) & (points < greatest)
        else:
            within = (least < points) & (points <= greatest)
        return np.unique(self._grid[first[within & ~self._open[first]]])


class Rehearsal(Cells):
    """The same cells, of which what is asked is written down instead of being opened.

    Answers are near to the true ones; what is worked out of them must not be kept.
    """

    def __init__(self, cells: Cells) -> None:
        self.__dict__ |= cells.__dict__
        self.wanted: list[FloatArray] = []

    def open_at(self, begins: FloatArray) -> bool:
        """Write down which closed cells are asked for.

        Parameters
        ----------
        begins : array, shape (k,)
            Where each begins, in the variable's unit.
        """
        places = np.unique(self._grid.searchsorted(begins))
        closed = self._grid[places[~self._open[places]]]
        if len(closed):
            self.wanted.append(closed)
        return False


class Celled(Struct, frozen=True, eq=False, dict=True, weakref=True):
    """A sample whose values are known by the cells that they lie in.

    Attributes
    ----------
    label : str
        The group's level, or the variable's label where there is one group.
    cells : Cells
        Of all groups.
    number : int
        Which group it is.
    moments : Moments
        Mean and summed powers of deviations, of all its values.
    whole : bool
        Whether every value is a whole number.
    missing : int
        Rows of the group without a value.
    axis : AxisScale or None
        What turns values into places, where these are wanted in their stead.
    first : int
        How many of its lowest values have no place there.
    """

    label: str
    cells: Cells
    number: int
    moments: Moments
    whole: bool = False
    missing: int = 0
    axis: AxisScale | None = None
    first: int = 0

    @cached_property
    def n(self) -> int:
        """How many values there are."""
        return int(self.cells.group(self.number).counts.sum()) - self.first

    @property
    def minimum(self) -> float:
        """The smallest value."""
        return float(self._now().lows[0])

    @property
    def maximum(self) -> float:
        """The largest value."""
        return float(self._now().highs[-1])

    def below(self, points: FloatArray, *, inclusive: bool = False) -> IntArray:
        """Number of values less than each point, or less than or equal to it if ``inclusive``.

        Parameters
        ----------
        points : array, shape (k,)
            In the variable's unit.
        inclusive : bool
            Whether values equal to a point count as well.
        """
        points = np.asarray(points, dtype=np.float64)
        closed = self.cells.cells_at(self._values_of(points), inclusive)
        if 0 < len(closed) <= MOST_OPENED:
            self.cells.open_at(closed)
        return self.about_below(points, inclusive=inclusive)

    def about_below(self, points: FloatArray, *, inclusive: bool = False) -> IntArray:
        """The same as far as it is known: within a cell, values are taken to lie evenly.

        Parameters
        ----------
        points : array, shape (k,)
            In the variable's unit, finite.
        inclusive : bool
            Whether values equal to a point count as well.
        """
        now = self._now()
        points = np.asarray(points, dtype=np.float64)
        full = now.highs.searchsorted(points, side="right" if inclusive else "left")
        counted: IntArray = now.starts[full]
        last = len(now.lows) - 1
        inside = np.minimum(full, last)
        low, high = now.lows[inside], now.highs[inside]
        within = (full <= last) & (low < high) & ((low <= points) if inclusive else (low < points))
        if not np.any(within):
            return counted
        count = now.starts[inside + 1] - now.starts[inside]
        # Cells of one value divide by nothing; they are not taken.
        with np.errstate(all="ignore"):
            share = np.where(within, (points - low) / (high - low), 0.0)
        some = np.clip(np.floor(share * count), 1, np.maximum(count - 1, 1)).astype(np.int64)
        return np.asarray(counted + np.where(within, some, 0))

    def at(self, ranks: IntArray) -> FloatArray:
        """Values at ranks 0 … n - 1.

        Parameters
        ----------
        ranks : array of int, shape (k,)
        """
        ranks = np.asarray(ranks)
        now = self._now()
        cell = now.starts[1:].searchsorted(ranks, side="right")
        place, count = ranks - now.starts[cell], now.starts[cell + 1] - now.starts[cell]
        within = (now.lows[cell] < now.highs[cell]) & (place > 0) & (place < count - 1)
        closed = np.unique(np.atleast_1d(now.begins[cell])[np.atleast_1d(within)])
        if 0 < len(closed) <= MOST_OPENED:
            self.cells.open_at(closed)
        return self.about_at(ranks)

    def about_at(self, ranks: IntArray) -> FloatArray:
        """The same as far as it is known: within a cell, values are taken to lie evenly.

        Parameters
        ----------
        ranks : array of int, any shape
            From 0, the least value, to n − 1, the largest.
        """
        ranks = np.asarray(ranks)
        now = self._now()
        cell = now.starts[1:].searchsorted(ranks, side="right")
        place, count = ranks - now.starts[cell], now.starts[cell + 1] - now.starts[cell]
        share = place / np.maximum(count - 1, 1)
        low, high = now.lows[cell], now.highs[cell]
        known = (low == high) | (share >= 1)
        return np.asarray(np.where(known, high, low * (1 - share) + high * share))

    def open_about(self, points: FloatArray) -> bool:
        """Open the cells that hold these points; tells whether any was closed.

        Parameters
        ----------
        points : array, shape (k,)
            In the variable's unit.
        """
        at = self._values_of(points)
        return self.cells.open_at(self.cells.cells_at(at, inclusive=False, ends=True))

    def run(self, start: int, stop: int) -> FloatArray:
        """Values at ranks ``start`` … ``stop`` - 1, in order."""
        return self.at(np.arange(start, stop))

    def mean_of(self, start: int, stop: int) -> float:
        """Mean of the values at ranks ``start`` … ``stop`` - 1; NaN of none."""
        if (start, stop) == (0, self.n):
            return self.moments.mean
        if stop <= start:
            return float("nan")
        now = self._now()
        ends = np.array([start, stop])
        cut = now.starts.searchsorted(ends, side="right") - 1
        cut = cut[(now.starts[cut] < ends) & (ends < self.n)]
        if len(cut):  # a cell that is taken in part
            self.cells.open_at(now.begins[cut[now.lows[cut] < now.highs[cut]]])
            now = self._now()
        reached = np.clip(now.starts, start, stop)
        within = np.diff(reached)
        some = within > 0
        return moments_of(now.means[some], within[some]).mean

    def pieces(self) -> Iterator[tuple[FloatArray, IntArray | None]]:
        """The mean of each cell, and how many values it stands for, in pieces."""
        return in_parts(*self._apart)

    @cached_property
    def _apart(self) -> tuple[FloatArray, IntArray]:
        """What is told piece by piece; the same whatever opens later."""
        now = self._now()
        return now.means, np.diff(now.starts)

    def placed(self, axis: AxisScale, first: int) -> Self:
        """The places of its values on an axis, all but the first ones, which have none."""
        placed = structs.replace(self, axis=axis, first=first, whole=False)
        means, counts = placed._apart
        return structs.replace(placed, moments=moments_of(means, counts))

    def _values_of(self, points: FloatArray) -> FloatArray:
        """Points in the variable's unit; of places, with room for what rounding does."""
        points = np.atleast_1d(points)
        if self.axis is None:
            return points
        values = self.axis.values(points)
        return np.concatenate([values, values * (1 - _ROUNDED), values * (1 + _ROUNDED)])

    def _now(self) -> "_Now":
        known: _Now | None = self.__dict__.get("_latest")
        if known is None or known.version != self.cells.version:
            known = _Now.of(self)
            self.__dict__["_latest"] = known
        return known


class _Now(Struct, frozen=True, eq=False):
    """What is known of a sample by the cells that are open."""

    version: int
    begins: FloatArray
    lows: FloatArray
    highs: FloatArray
    means: FloatArray
    starts: IntArray

    @classmethod
    def of(cls, sample: Celled) -> Self:
        """As far as the cells are open now."""
        version = sample.cells.version
        group = sample.cells.group(sample.number)
        starts = np.concatenate([[0], np.cumsum(group.counts)])
        skipped = int(starts.searchsorted(sample.first, side="right")) - 1
        lows, highs, means = (a[skipped:] for a in (group.lows, group.highs, group.means))
        if sample.axis is not None:
            lows, highs, means = (sample.axis.placed(array) for array in (lows, highs, means))
        begins, starts = group.begins[skipped:], starts[skipped:] - sample.first
        return cls(version, begins, lows, highs, means, starts)
