"""Several samples read as one."""

import math
from collections.abc import Iterator
from functools import cached_property
from itertools import chain

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray, from_ordinals, to_ordinal
from rhabdos.data.celled import Celled
from rhabdos.data.samples import NO_MOMENTS, Moments, Sample, Weighted

AnySample = Sample | Weighted | Celled
# Up to which ranks are searched one by one; for more, plain values are put in order, where there
# are not so many of them for each search in a sample that this takes longer.
_FEW_RANKS = 64
_WORTH_SEARCHING = 400
_FEW_VALUES = 100_000  # that are merged once and kept, less than a megabyte
_PARTS = 16  # into which a range is cut at each question, where a question is dear


class Pooled(Struct, frozen=True, eq=False, dict=True, weakref=True):
    """Several samples read as one, without copying their values."""

    samples: tuple[AnySample, ...]

    @cached_property
    def _filled(self) -> tuple[AnySample, ...]:
        return tuple(sample for sample in self.samples if sample.n)

    @cached_property
    def n(self) -> int:
        """How many values all samples have."""
        return sum(sample.n for sample in self.samples)

    @cached_property
    def minimum(self) -> float:
        """The smallest value of all."""
        return min(sample.minimum for sample in self._filled)

    @cached_property
    def maximum(self) -> float:
        """The largest value of all."""
        return max(sample.maximum for sample in self._filled)

    @cached_property
    def whole(self) -> bool:
        """Whether every value is a whole number."""
        return all(sample.whole for sample in self._filled)

    def below(self, points: FloatArray, *, inclusive: bool = False) -> IntArray:
        """Number of values less than each point, or less than or equal to it if ``inclusive``.

        Parameters
        ----------
        points : array, shape (k,)
            In the variable's unit, finite.
        """
        return np.asarray(
            np.sum([s.below(points, inclusive=inclusive) for s in self._filled], axis=0)
        )

    def about_below(self, points: FloatArray, *, inclusive: bool = False) -> IntArray:
        """The same, of values that lie elsewhere as far as they are known here.

        Parameters
        ----------
        points : array, shape (k,)
            In the variable's unit, finite.
        inclusive : bool
            Whether values equal to a point count as well.
        """
        return np.asarray(
            np.sum([s.about_below(points, inclusive=inclusive) for s in self._filled], axis=0)
        )

    def at(self, ranks: IntArray) -> FloatArray:
        """Values at ranks: where there are very many values, a few are found by halving
        the interval that holds each, and more by merging.

        Parameters
        ----------
        ranks : array of int, any shape
            From 0, the least value, to n − 1, the largest.
        """
        return self._at(ranks, about=False)

    def about_at(self, ranks: IntArray) -> FloatArray:
        """The same, of values that lie elsewhere as far as they are known here.

        Parameters
        ----------
        ranks : array of int, any shape
            From 0, the least value, to n − 1, the largest.
        """
        return self._at(ranks, about=True)

    def _at(self, ranks: IntArray, about: bool) -> FloatArray:
        if len(self._filled) == 1:
            return self._filled[0].about_at(ranks) if about else self._filled[0].at(ranks)
        few = np.size(ranks) <= _FEW_RANKS
        searches = np.size(ranks) * len(self._filled)
        dear = not few and searches * _WORTH_SEARCHING > self.n
        if self._plain and (self.n <= _FEW_VALUES or dear):
            merged = self._merged if self.n <= _FEW_VALUES else self._all_in_order()
            return np.asarray(merged[ranks])
        values = self._searched(ranks)
        celled = [sample for sample in self._filled if isinstance(sample, Celled)]
        # An answer is exact once the cells about it are open, and it may move while they open.
        while few and not about and any(sample.open_about(values) for sample in celled):
            values = self._searched(ranks)
        return values

    @cached_property
    def _plain(self) -> bool:
        """Whether every value is in memory and stands for one case."""
        return all(isinstance(sample, Sample) for sample in self._filled)

    @cached_property
    def _merged(self) -> FloatArray:
        return self._all_in_order()

    def _all_in_order(self) -> FloatArray:
        return np.sort(np.concatenate([s.values for s in self._filled if isinstance(s, Sample)]))

    def _searched(self, ranks: IntArray) -> FloatArray:
        """Ordered doubles have ordered bit patterns, so halving on the bits takes at most 64
        steps. Of cells, which are few, many places are looked at in one step."""
        cells = all(isinstance(sample, Celled) for sample in self._filled)
        parts = _PARTS if cells and np.size(ranks) <= _FEW_RANKS else 2
        ranks = np.asarray(ranks)
        low = np.full(ranks.shape, to_ordinal(self.minimum))
        high = np.full(ranks.shape, to_ordinal(self.maximum))
        share = np.arange(1, parts, dtype=np.uint64)
        while np.any(low < high):
            # Two places may be farther apart than a whole number with a sign can tell.
            apart = (high.view(np.uint64) - low.view(np.uint64))[..., None]
            along = apart // parts * share + apart % parts * share // parts
            places = low[..., None] + along.view(np.int64)
            reached = self.about_below(from_ordinals(places), inclusive=True) > ranks[..., None]
            first = np.argmax(reached, axis=-1)  # which is 0 where none is
            none, at = ~reached.any(axis=-1), first[..., None]
            before = np.where(none, parts - 2, first - 1)
            low, high = (
                np.where(
                    (before < 0) | (low >= high),
                    low,
                    np.take_along_axis(places, np.maximum(before, 0)[..., None], -1)[..., 0] + 1,
                ),
                np.where(none, high, np.take_along_axis(places, at, -1)[..., 0]),
            )
        return from_ordinals(low)

    def run(self, start: int, stop: int) -> FloatArray:
        """Values at ranks ``start`` … ``stop`` - 1, in order."""
        return self.at(np.arange(start, stop)) if stop > start else np.empty(0)

    def mean_of(self, start: int, stop: int) -> float:
        """Mean of the values at ranks ``start`` … ``stop`` - 1; NaN of none."""
        if stop <= start:
            return math.nan
        low, high = self.at(np.array([start, stop - 1]))
        ends = np.array([low, high])
        mean, count = 0.0, 0
        for sample in self._filled:  # those strictly between, then the ties at either end
            first, last = (
                int(sample.below(ends[:1], inclusive=True)[0]),
                int(sample.below(ends[1:])[0]),
            )
            if last > first:
                count += last - first
                mean += (sample.mean_of(first, last) - mean) * ((last - first) / count)
        if low == high:
            return float(low)
        lows = int(self.below(ends[:1], inclusive=True)[0]) - start
        for value, ties in ((low, lows), (high, stop - start - count - lows)):
            count += ties
            mean += (float(value) - mean) * (ties / count) if ties else 0.0
        return mean

    def pieces(self) -> Iterator[tuple[FloatArray, IntArray | None]]:
        """All values, and how many cases each stands for (None: one), sample by sample."""
        return chain.from_iterable(sample.pieces() for sample in self._filled)

    @cached_property
    def moments(self) -> Moments:
        """Combined from those of the samples, so that no value is read again (Chan, Golub and
        LeVeque 1983)."""
        if not self.n:
            return NO_MOMENTS
        parts = [(sample.n, sample.moments) for sample in self._filled]
        first = parts[0][1].mean
        mean = first + sum(n / self.n * (part.mean - first) for n, part in parts)
        norm = math.hypot(
            *(
                length
                for n, part in parts
                for length in (part.norm, math.sqrt(n) * (part.mean - mean))
            )
        )
        unit = norm or 1.0
        cubes = fourths = 0.0
        for n, part in parts:
            gap, squares, cubed = (
                (part.mean - mean) / unit,
                (part.norm / unit) ** 2,
                (part.cube / unit) ** 3,
            )
            cubes += cubed + 3 * gap * squares + n * gap**3
            fourths += (
                (part.fourth / unit) ** 4 + 4 * gap * cubed + 6 * gap**2 * squares + n * gap**4
            )
        return Moments(
            mean, norm, math.cbrt(cubes) * unit, math.sqrt(math.sqrt(max(0.0, fourths))) * unit
        )
