"""Samples: the values of one variable in one group, sorted once.

Everything downstream asks a sample only for what an ordered sequence answers fast: how many values lie
below a point, which value stands at a rank, and the moments. Whoever answers these can stand in for it.
"""

import math
from collections.abc import Callable, Sequence
from functools import cached_property

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.columns import CategoryColumn, Column, NumberColumn
from rhabdos.data.table import Table, VariableError

Report = Callable[[str, float | None], None]
"""Told a stage and the share done (None where unknown); raises Cancelled when the user has stopped the task."""

MOST_GROUPS = 60
_FEW_RANKS = 64
_LARGEST_WHOLE = 2.0**53
_CHUNK = 1 << 18  # values worked on at a time, so that temporaries stay in the processor's cache


def silent(_stage: str, _share: float | None) -> None:
    """A report that nobody reads."""


class Moments(Struct, frozen=True, dict=True):
    """The mean, and the roots of the summed squared and cubed deviations from it.

    Roots stay within the range of doubles for values as large or small as doubles get.
    """

    mean: float
    norm: float
    cube: float


class Sample(Struct, frozen=True, eq=False, dict=True, weakref=True):
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

    label: str
    values: FloatArray
    missing: int = 0

    @property
    def n(self) -> int:
        return len(self.values)

    @property
    def minimum(self) -> float:
        return float(self.values[0])

    @property
    def maximum(self) -> float:
        return float(self.values[-1])

    def below(self, points: FloatArray, *, inclusive: bool = False) -> IntArray:
        """Number of values less than each point, or less than or equal to it if ``inclusive``."""
        found: IntArray = self.values.searchsorted(points, side="right" if inclusive else "left")
        return found

    def at(self, ranks: IntArray) -> FloatArray:
        """Values at ranks 0 … n - 1."""
        found: FloatArray = self.values[ranks]
        return found

    def run(self, start: int, stop: int) -> FloatArray:
        """Values at ranks ``start`` … ``stop`` - 1, in order, without copying them."""
        return self.values[start:stop]

    @cached_property
    def whole(self) -> bool:
        """Whether every value is a whole number, of a size at which doubles still tell neighbours apart."""
        if self.n and max(abs(self.minimum), abs(self.maximum)) > _LARGEST_WHOLE:
            return False
        return all(bool(np.all(part == np.floor(part))) for part in _parts(self.values))

    @cached_property
    def moments(self) -> Moments:
        """Mean and squared deviations, in two passes about a value from the middle.

        Shifting by the median keeps the digits of values far from zero; scaling by a power of two, which
        is exact, keeps squares of very large and very small values from overflowing or vanishing.
        """
        if not self.n:
            return Moments(math.nan, math.nan, math.nan)
        reach = max(abs(self.minimum), abs(self.maximum))
        exponent = int(np.frexp(reach)[1]) if reach and not 1e-90 < reach < 1e90 else 0
        unscaled = float(np.ldexp(1.0, min(max(-exponent, -1000), 1000)))
        centre = float(self.values[self.n // 2]) * unscaled
        shift = sum(float(np.sum(part * unscaled - centre)) for part in _parts(self.values)) / self.n
        squares = cubes = rest = 0.0
        for part in _parts(self.values):
            deviation = part * unscaled - centre
            deviation -= shift
            rest += float(np.sum(deviation))
            squared = deviation * deviation
            squares += float(np.sum(squared))
            cubes += float(np.dot(squared, deviation))
        squares = max(0.0, squares - rest * rest / self.n)
        return Moments((centre + shift) / unscaled, math.sqrt(squares) / unscaled, math.cbrt(cubes) / unscaled)


def _parts(values: FloatArray) -> list[FloatArray]:
    return [values[i : i + _CHUNK] for i in range(0, len(values), _CHUNK)]


class Pooled(Struct, frozen=True, eq=False, dict=True, weakref=True):
    """Several samples read as one, without copying their values."""

    samples: tuple[Sample, ...]

    @cached_property
    def _filled(self) -> tuple[Sample, ...]:
        return tuple(sample for sample in self.samples if sample.n)

    @cached_property
    def n(self) -> int:
        return sum(sample.n for sample in self.samples)

    @cached_property
    def minimum(self) -> float:
        return min(sample.minimum for sample in self._filled)

    @cached_property
    def maximum(self) -> float:
        return max(sample.maximum for sample in self._filled)

    @cached_property
    def whole(self) -> bool:
        return all(sample.whole for sample in self._filled)

    def below(self, points: FloatArray, *, inclusive: bool = False) -> IntArray:
        """Number of values less than each point, or less than or equal to it if ``inclusive``."""
        return np.asarray(np.sum([s.below(points, inclusive=inclusive) for s in self._filled], axis=0))

    def at(self, ranks: IntArray) -> FloatArray:
        """Values at ranks 0 … n - 1: a few found by halving the interval that holds each, many by merging."""
        if np.size(ranks) > _FEW_RANKS:
            merged: FloatArray = np.sort(np.concatenate([sample.values for sample in self._filled]))[ranks]
            return merged
        return np.array([self._value_at(int(rank)) for rank in np.ravel(ranks)]).reshape(np.shape(ranks))

    def run(self, start: int, stop: int) -> FloatArray:
        """Values at ranks ``start`` … ``stop`` - 1, in order."""
        return self.at(np.arange(start, stop)) if stop > start else np.empty(0)

    def _value_at(self, rank: int) -> float:
        if len(self._filled) == 1:
            return float(self._filled[0].values[rank])
        # Ordered doubles have ordered bit patterns, so halving on the bits takes at most 64 steps.
        low, high = _to_ordinal(self.minimum), _to_ordinal(self.maximum)
        while low < high:
            middle = (low + high) // 2
            if int(self.below(np.array(_from_ordinal(middle)), inclusive=True)) > rank:
                high = middle
            else:
                low = middle + 1
        return _from_ordinal(low)

    @cached_property
    def moments(self) -> Moments:
        """Combined from those of the samples, so that no value is read again (Chan, Golub and LeVeque 1983)."""
        if not self.n:
            return Moments(math.nan, math.nan, math.nan)
        parts = [(sample.n, sample.moments) for sample in self._filled]
        first = parts[0][1].mean
        mean = first + sum(n / self.n * (part.mean - first) for n, part in parts)
        norm = math.hypot(*(length for n, part in parts for length in (part.norm, math.sqrt(n) * (part.mean - mean))))
        unit = norm or 1.0
        cubes = 0.0
        for n, part in parts:
            gap, spread = (part.mean - mean) / unit, part.norm / unit
            cubes += (part.cube / unit) ** 3 + 3 * gap * spread * spread + n * gap**3
        return Moments(mean, norm, math.cbrt(cubes) * unit)


def _to_ordinal(value: float) -> int:
    bits = int(np.float64(value).view(np.int64))
    return bits if bits >= 0 else -(bits & 0x7FFFFFFFFFFFFFFF)


def _from_ordinal(ordinal: int) -> float:
    if ordinal >= 0:
        return float(np.int64(ordinal).view(np.float64))
    return -float(np.int64(-ordinal).view(np.float64))


class SampleSet(Struct, frozen=True, eq=False, dict=True):
    """The samples of a figure.

    Attributes
    ----------
    variable, split : Column
        What is measured, and the factor that splits it, if any.
    samples : tuple of Sample
        One per level of the factor, in the levels' order; a level without a value has n = 0.
    ungrouped : int
        Values in no sample, because their row has no level.
    """

    variable: NumberColumn
    split: CategoryColumn | None
    samples: tuple[Sample, ...]
    ungrouped: int = 0

    @cached_property
    def pooled(self) -> Pooled:
        return Pooled(self.samples)


def gather(table: Table, variable: str, split: str | None = None, report: Report = silent) -> SampleSet:
    """Sort the values of a variable, in each group of a factor.

    Raises
    ------
    VariableError
        A variable is not in the table or of the wrong kind, or no row has a value.
    Cancelled
        From ``report``.
    """
    measured = table.number(variable)
    if not measured.n:
        raise VariableError(f"“{variable}” has no values: all {measured.rows:,} rows are missing.")
    values = measured.values
    if split is None:
        report(f"Sorting {measured.label}", None)
        ordered = np.sort(values)[: measured.n]  # NaN sorts to the end
        return SampleSet(measured, None, (Sample(measured.label, ordered, measured.missing),))
    factor = as_factor(table.column(split))
    samples = []
    for code, level in enumerate(factor.levels):
        report(f"Sorting {measured.label}, {level}", code / len(factor.levels))
        group = values[factor.codes == code]
        group.sort()
        n = len(group) - int(np.count_nonzero(np.isnan(group))) if measured.missing else len(group)
        samples.append(Sample(level, group[:n], len(group) - n))
    if not any(sample.n for sample in samples):
        raise VariableError(f"No row has both a value of “{variable}” and a level of “{split}”.")
    ungrouped = measured.n - sum(sample.n for sample in samples)
    return SampleSet(measured, factor, tuple(samples), ungrouped)


def as_factor(column: Column) -> CategoryColumn:
    """Read a column as a factor: a category as it is, a number with few different values as its levels."""
    factor = column
    if isinstance(column, NumberColumn):
        different = few_values(column)
        if different is not None:
            codes = np.searchsorted(different, column.values).astype(np.int16)
            codes[np.isnan(column.values)] = -1
            levels = tuple(f"{value:.15g}" for value in different)
            factor = CategoryColumn(column.name, column.label, column.unit, column.missing_as, "", codes, levels)
    if not isinstance(factor, CategoryColumn) or len(factor.levels) > MOST_GROUPS:
        raise VariableError(
            f"“{column.name}” has too many different values to split by: "
            f"a figure shows at most {MOST_GROUPS} groups. Choose a variable with fewer."
        )
    if not factor.levels:
        raise VariableError(f"“{column.name}” has no levels: all {column.rows:,} rows are missing.")
    return factor


def few_values(column: NumberColumn) -> FloatArray | None:
    """The different values of a column in order, or None where they are too many to be groups."""
    seen: FloatArray = np.empty(0)
    for part in _parts(column.values):
        fresh = part[~np.isnan(part)]
        for known in seen.tolist():  # passing over what is known is faster than sorting it again
            fresh = fresh[fresh != known]
        seen = np.union1d(seen, fresh)
        if len(seen) > MOST_GROUPS:
            return None
    return seen


def can_split(columns: Sequence[Column]) -> list[Column]:
    """The columns that a figure may be split by, categories first."""
    groups: list[Column] = [c for c in columns if isinstance(c, CategoryColumn) and 0 < len(c.levels) <= MOST_GROUPS]
    for column in columns:
        if isinstance(column, NumberColumn) and column.n:
            head = column.values[:2000]
            if (
                len(np.unique(head[~np.isnan(head)])) <= 12
                and (few := few_values(column)) is not None
                and len(few) <= 12
            ):
                groups.append(column)
    return groups
