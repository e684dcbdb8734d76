"""Samples: the values of one variable in one group, sorted once.

Everything downstream asks a sample only for what an ordered sequence answers fast: how many values
lie below a point, which value stands at a rank, and the moments. Whoever answers these can stand in
for it.
"""

import math
from collections.abc import Iterator
from functools import cached_property
from typing import Literal, TypeVar

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray

_LARGEST_WHOLE = 2.0**53  # up to which doubles tell whole numbers apart
_BLOCK = 32  # values: the last of each block stay in the processor's cache
# From so many points and values on, a search by blocks is quicker, up to where so many points lie
# closer than blocks.
_MANY_POINTS, _MANY_VALUES, _MOST_POINTS = 64, 1 << 18, 1 << 15
_CHUNK = 1 << 16  # values worked on at a time, so that temporaries stay in the processor's cache
# Values whose products are summed at a time. Sums of more than 10,000 are shared among threads,
# where a script has loaded NumPy before us; while other processors have work to do, waiting for
# those takes ten times as long as the sums.
_SUMMED = 1 << 13


Side = Literal["left", "right"]


class Moments(Struct, frozen=True, dict=True):
    """The mean, and the roots of the summed second, third and fourth powers of deviations from it.

    Roots stay within the range of doubles for values as large or small as doubles get.
    """

    mean: float
    norm: float
    cube: float
    fourth: float


NO_MOMENTS = Moments(math.nan, math.nan, math.nan, math.nan)


class _Sorted(Struct, frozen=True, eq=False, dict=True, weakref=True):
    """Values of one group in ascending order, with its label."""

    label: str
    values: FloatArray

    @property
    def minimum(self) -> float:
        """The smallest value."""
        return float(self.values[0])

    @property
    def maximum(self) -> float:
        """The largest value."""
        return float(self.values[-1])


class Sample(_Sorted, frozen=True, eq=False, dict=True, weakref=True):
    """The finite values of one variable in one group, in ascending order.

    Attributes
    ----------
    label : str
        The group's level, or the variable's label where there is one group.
    values : array, shape (n,)
        Ascending, finite.
    missing : int
        Rows of the group without a value.
    """

    missing: int = 0

    @property
    def n(self) -> int:
        """How many values there are."""
        return len(self.values)

    def below(self, points: FloatArray, *, inclusive: bool = False) -> IntArray:
        """Number of values less than each point, or less than or equal to it if ``inclusive``.

        Parameters
        ----------
        points : array, shape (k,)
            In the variable's unit, finite.
        inclusive : bool
            Whether values equal to a point count as well.
        """
        side: Side = "right" if inclusive else "left"
        if self.n >= _MANY_VALUES and _MANY_POINTS <= len(points) <= _MOST_POINTS:
            return _searched(self.values, self._block_ends, points, side)
        ranks_below: IntArray = self.values.searchsorted(points, side=side)
        return ranks_below

    @cached_property
    def _block_ends(self) -> FloatArray:
        """The last value of each whole block."""
        return self.values[_BLOCK - 1 :: _BLOCK].copy()

    def at(self, ranks: IntArray) -> FloatArray:
        """Values at ranks 0 … n - 1.

        Parameters
        ----------
        ranks : array of int, shape (k,)
        """
        values: FloatArray = self.values[ranks]
        return values

    about_below, about_at = below, at

    def run(self, start: int, stop: int) -> FloatArray:
        """Values at ranks ``start`` … ``stop`` - 1, in order, without copying them."""
        return self.values[start:stop]

    def mean_of(self, start: int, stop: int) -> float:
        """Mean of the values at ranks ``start`` … ``stop`` - 1; NaN of none."""
        return _mean(self.values[start:stop])

    def pieces(self) -> Iterator[tuple[FloatArray, IntArray | None]]:
        """All values, in pieces that fit the processor's cache."""
        return in_parts(self.values, None)

    @cached_property
    def whole(self) -> bool:
        """Whether every value is a whole number, of a size at which doubles still tell neighbours
        apart."""
        if self.n and max(abs(self.minimum), abs(self.maximum)) > _LARGEST_WHOLE:
            return False
        return all(bool(np.all(part == np.floor(part))) for part in parts_of(self.values))

    @cached_property
    def moments(self) -> Moments:
        """Mean and summed powers, worked out once."""
        return moments_of(self.values)


class Weighted(_Sorted, frozen=True, eq=False, dict=True, weakref=True):
    """A sample whose values each stand for a whole number of cases, too many to write out.

    Attributes
    ----------
    values : array, shape (k,)
        Ascending, finite.
    ends : array of int, shape (k,)
        Number of cases up to and including each value.
    missing : int
        Cases of the group without a value.
    """

    ends: IntArray
    missing: int = 0

    @property
    def n(self) -> int:
        """How many cases there are."""
        return int(self.ends[-1]) if len(self.ends) else 0

    @cached_property
    def _starts(self) -> IntArray:
        starts: IntArray = np.concatenate([[0], self.ends])
        return starts

    def below(self, points: FloatArray, *, inclusive: bool = False) -> IntArray:
        """Number of cases less than each point, or less than or equal to it if ``inclusive``.

        Parameters
        ----------
        points : array, shape (k,)
            In the variable's unit, finite.
        """
        ranks_below: IntArray = self._starts[
            self.values.searchsorted(points, side="right" if inclusive else "left")
        ]
        return ranks_below

    def at(self, ranks: IntArray) -> FloatArray:
        """Values at ranks 0 … n - 1.

        Parameters
        ----------
        ranks : array of int, shape (k,)
        """
        values: FloatArray = self.values[self.ends.searchsorted(ranks, side="right")]
        return values

    about_below, about_at = below, at

    def run(self, start: int, stop: int) -> FloatArray:
        """Values at ranks ``start`` … ``stop`` - 1, in order."""
        return self.at(np.arange(start, stop))

    def mean_of(self, start: int, stop: int) -> float:
        """Mean of the values at ranks ``start`` … ``stop`` - 1; NaN of none."""
        reached = np.clip(self._starts, start, stop)
        within = reached[1:] - reached[:-1]
        positive = within > 0
        return moments_of(self.values[positive], within[positive]).mean

    def pieces(self) -> Iterator[tuple[FloatArray, IntArray | None]]:
        """All values, and how many cases each stands for, in pieces that fit the processor's
        cache."""
        return in_parts(self.values, self._starts[1:] - self._starts[:-1])

    @cached_property
    def whole(self) -> bool:
        """Whether every value is a whole number, of a size at which doubles still tell neighbours
        apart."""
        return Sample("", self.values).whole

    @cached_property
    def moments(self) -> Moments:
        """Mean and summed powers over cases, worked out once."""
        return moments_of(self.values, self._starts[1:] - self._starts[:-1])


def _searched(values: FloatArray, ends: FloatArray, points: FloatArray, side: Side) -> IntArray:
    """What ``values.searchsorted(points, side)`` answers, for many points among many values.

    The search for one point after the other waits for memory at each step of it. Here the block of
    each point is found among the last values of blocks, which are few, and then all blocks are
    fetched at once.

    Parameters
    ----------
    values : array, shape (n,)
        Ascending, at least a block of them.
    ends : array
        The last value of each whole block.
    points : array, shape (k,)
    """
    whole = len(ends) * _BLOCK
    blocks = values[:whole].reshape(-1, _BLOCK)
    is_below = np.less if side == "left" else np.less_equal
    block: IntArray = ends.searchsorted(points, side)
    # The last value of a point's block is not below it, so there is a first one that is not.
    below = is_below(blocks.take(block, axis=0, mode="clip"), points[:, None])
    at: IntArray = block * _BLOCK + below.argmin(axis=1)
    past = block == len(ends)
    if past.any():
        at[past] = whole + values[whole:].searchsorted(points[past], side)
    return at


def moments_of(values: FloatArray, weights: IntArray | None = None) -> Moments:
    """Mean and powers of deviations, in one pass about the median, which is never further from the
    mean than a standard deviation: moving the powers there loses no digits to speak of.

    Shifting by the median keeps the digits of values far from zero; scaling by a power of two,
    which is exact, keeps squares of very large and very small values from overflowing or vanishing.

    Parameters
    ----------
    values : array, shape (n,)
        Ascending, finite.
    weights : array of int, shape (n,), optional
        Cases that each value stands for.
    """
    if not len(values):
        return NO_MOMENTS
    n = len(values) if weights is None else int(weights.sum())
    unscaled, centre = _unit(values), _median(values, weights, n)
    sums = np.zeros(4)
    rooms = np.empty((2, min(len(values), _SUMMED)))  # used again for every part, which is faster
    for part, share in in_parts(values, weights):
        deviation = _deviations(part, centre, unscaled, rooms[0, : len(part)])
        squared = np.multiply(deviation, deviation, out=rooms[1, : len(part)])
        weighed = squared if share is None else squared * share
        sums += (
            _total(deviation, share),
            np.sum(weighed),
            np.dot(weighed, deviation),
            np.dot(weighed, squared),
        )
    first, second, third, fourth = sums.tolist()
    shift = first / n
    squares = max(0.0, second - shift * first)
    cubes = third - 3 * shift * second + 2 * shift * shift * first
    fourths = fourth - shift * (4 * third - shift * (6 * second - 3 * shift * first))
    return Moments(
        centre + shift / unscaled,
        math.sqrt(squares) / unscaled,
        math.cbrt(cubes) / unscaled,
        math.sqrt(math.sqrt(max(0.0, fourths))) / unscaled,
    )


def _unit(values: FloatArray) -> float:
    """A power of two that values are multiplied by, so that their fourth powers are doubles."""
    reach = max(abs(float(values[0])), abs(float(values[-1])))
    # Powers of values beyond these would leave the doubles, so they are scaled by a power of 2.
    exponent = int(np.frexp(reach)[1]) if reach and not 1e-70 < reach < 1e70 else 0
    return float(np.ldexp(1.0, min(max(-exponent, -1000), 1000)))


def _median(values: FloatArray, weights: IntArray | None, n: int) -> float:
    """A value from the middle of all cases."""
    middle = n // 2
    if weights is not None:
        middle = int(np.cumsum(weights).searchsorted(middle, side="right"))
    return float(values[middle])


def _deviations(
    part: FloatArray, centre: float, unscaled: float, room: FloatArray | None = None
) -> FloatArray:
    if unscaled == 1:
        return np.subtract(part, centre, out=room)
    deviations: FloatArray = part * unscaled - centre * unscaled
    return deviations


def _mean(values: FloatArray) -> float:
    """The mean alone, in one pass; NaN of none."""
    if not len(values):
        return math.nan
    unscaled, centre = _unit(values), _median(values, None, len(values))
    total = sum(_total(_deviations(part, centre, unscaled), None) for part in parts_of(values))
    return centre + total / len(values) / unscaled


def _total(values: FloatArray, weights: IntArray | None) -> float:
    return float(np.sum(values) if weights is None else np.dot(values, weights))


def in_parts(
    values: FloatArray, weights: IntArray | None
) -> Iterator[tuple[FloatArray, IntArray | None]]:
    """Values with how many cases each stands for, in pieces that fit the processor's cache.

    Parameters
    ----------
    values : array, shape (n,)
        Of any order.
    weights : array of int, shape (n,), optional
        Cases; without them each value is one.
    """
    for start in range(0, len(values), _SUMMED):
        chunk = slice(start, start + _SUMMED)
        yield values[chunk], None if weights is None else weights[chunk]


_Array = TypeVar("_Array", FloatArray, IntArray)


def parts_of(values: _Array) -> list[_Array]:
    """The values in pieces that fit the processor's cache.

    Parameters
    ----------
    values : array, shape (n,)
        Of any kind; the pieces are views of it.
    """
    return [values[i : i + _CHUNK] for i in range(0, len(values), _CHUNK)]
