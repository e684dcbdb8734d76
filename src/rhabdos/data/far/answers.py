"""From what an engine answers to samples."""

import math
from collections.abc import Sequence
from itertools import product
from typing import TYPE_CHECKING, Self

import numpy as np
from msgspec import Struct, structs

from rhabdos.arrays import BoolArray, FloatArray, IntArray
from rhabdos.data.celled import Celled, Cells, DataChanged, Fetch, GroupCells
from rhabdos.data.columns import CategoryColumn, Column, level_written
from rhabdos.data.far.foreseeing import foresee
from rhabdos.data.far.grid import Grid
from rhabdos.data.far.questions import POWERS
from rhabdos.data.far.relation import FarColumn
from rhabdos.data.far.table import levels_of
from rhabdos.data.fields.texts import MISSING_WORDS
from rhabdos.data.gathering import MOST_GROUPS, MOST_SAMPLES, as_factor
from rhabdos.data.pooled import AnySample
from rhabdos.data.samples import Moments, Weighted, moments_of
from rhabdos.data.table import VariableError
from rhabdos.quoting import quoted

if TYPE_CHECKING:
    import polars as pl

_FEW = 50  # cells
_MOST_VALUES = 200_000  # of few cells, above which finer cells are asked for instead
_NONE = frozenset(("", *MISSING_WORDS))
_EVEN = 1.8  # fourth moment over the squared second one, of even values


class Parting(Struct, frozen=True, eq=False):
    """Into which combinations of levels the rows part.

    Attributes
    ----------
    factors : tuple of CategoryColumn
        With all levels that came up; their rows are those that were looked at.
    kinds : tuple of {"number", "date", "text"}
        What the levels of each are where the data lie.
    fields : tuple of bool
        Whether they come as they stand there, words for a missing value among them.
    kept : array of int, shape (k,)
        The combinations that are samples, by their number among all of them.
    codes : tuple of tuple of int
        Their levels, by place; -1 has none.
    """

    factors: tuple[CategoryColumn, ...]
    kinds: tuple[str, ...]
    fields: tuple[bool, ...]
    kept: IntArray
    codes: tuple[tuple[int, ...], ...]

    @classmethod
    def of(
        cls, looked: Sequence[Column], by: Sequence[FarColumn], answer: "pl.DataFrame", times: int
    ) -> tuple[Self, IntArray]:
        """How the rows of an answer part by its columns "f0", "f1" …, and the number of each row's
        combination, shape (rows,).

        Raises
        ------
        VariableError
            A factor has no levels, or there are more groups than a figure can hold.
        """
        factors = tuple(
            _with_levels(each, _told(answer[f"f{at}"].unique(), how.field is not None))
            for at, (each, how) in enumerate(zip(looked, by, strict=True))
        )
        if math.prod(len(factor.levels) for factor in factors) * times > MOST_SAMPLES:
            raise VariableError(
                f"That makes more than {MOST_SAMPLES:,} groups. Take a factor away, or choose one "
                "with fewer levels."
            )
        every = list(product(*((*range(len(factor.levels)), -1) for factor in factors)))
        kinds = tuple(each.kind for each in by)
        fields = tuple(each.field is not None for each in by)
        parting = cls(factors, kinds, fields, np.arange(0), ())
        combined = parting.of_rows(answer)
        present = np.bincount(combined, minlength=len(every)) > 0
        kept = [at for at, codes in enumerate(every) if present[at] or -1 not in codes]
        codes = tuple(every[at] for at in kept)
        return structs.replace(parting, kept=np.array(kept), codes=codes), combined

    def of_rows(self, answer: "pl.DataFrame") -> IntArray:
        """The number of each row's combination, shape (rows,).

        Raises
        ------
        DataChanged
            A level came up that was not there before.
        """
        combined = np.zeros(answer.height, dtype=np.int64)
        for at, factor in enumerate(self.factors):
            column = answer[f"f{at}"].rename("f")
            place = {level: index for index, level in enumerate(factor.levels)}
            every = column.unique()
            code: dict[object, int] = dict.fromkeys(every.to_list(), len(factor.levels))
            for value in _told(every, self.fields[at]):
                level = (
                    str(value)
                    if self.kinds[at] == "text"
                    else level_written(float(str(value)), self.kinds[at] == "date")
                )
                if level not in place:
                    raise DataChanged(
                        f"{quoted(factor.name)} has a level {quoted(level)} that was not there "
                        "before: the data have changed. Reload them to count them anew."
                    )
                code[value] = place[level]
            codes = every.to_frame().with_columns(
                code=np.array(list(code.values()), dtype=np.int64)
            )
            each = column.to_frame().join(
                codes, on="f", how="left", nulls_equal=True, maintain_order="left"
            )
            combined = combined * (len(factor.levels) + 1) + each["code"].to_numpy()
        return combined

    def values(self, answer: "pl.DataFrame") -> list[tuple[FloatArray, IntArray]]:
        """The values "x" of an answer with their counts "n", ascending, combination by
        combination; counted here where that does not say how often each occurs."""
        combined = self.of_rows(answer)
        values = answer["x"].to_numpy().astype(np.float64)
        # By values first: of whole numbers of few bytes, NumPy sorts in one pass, and stably.
        order = np.argsort(values)
        order = order[np.argsort(combined[order].astype(np.uint16), kind="stable")]
        combined, values = combined[order], values[order]
        if "n" in answer.columns:
            counts = answer["n"].to_numpy().astype(np.int64)[order]
        else:
            other = (values[1:] != values[:-1]) | (combined[1:] != combined[:-1])
            begin = np.flatnonzero(np.concatenate([[True], other]))[: len(values)]
            counts = np.diff(begin, append=len(values))
            combined, values = combined[begin], values[begin]
        first, last = (combined.searchsorted(self.kept, side=side) for side in ("left", "right"))
        return [
            (values[a:b], counts[a:b]) for a, b in zip(first.tolist(), last.tolist(), strict=True)
        ]


def _told(different: "pl.Series", as_they_stand: bool) -> list[object]:
    """The levels of a factor among its different values, without what stands for a missing one."""
    values = different.drop_nulls().to_list()
    if not as_they_stand:
        return values
    return [value for value in values if str(value).strip().lower() not in _NONE]


def _with_levels(look: Column, values: Sequence[object]) -> CategoryColumn:
    levels = levels_of(look, values)
    if not levels:
        raise VariableError(f"{quoted(look.name)} has no levels: all rows are missing.")
    if len(levels) > MOST_GROUPS:
        raise VariableError(
            f"{quoted(look.name)} has {len(levels):,} different values, too many to split by: a "
            f"figure shows at most {MOST_GROUPS} groups. Choose a variable with fewer."
        )
    before = as_factor(look)
    place = {level: index for index, level in enumerate(levels)}
    codes = np.array([*(place.get(level, -1) for level in before.levels), -1])[before.codes]
    return structs.replace(before, codes=codes.astype(np.int16), levels=levels)


def samples_of(
    answer: "pl.DataFrame",
    combined: IntArray,
    parting: Parting,
    grid: Grid,
    labels: Sequence[str],
    fetch: Fetch,
) -> list[AnySample]:
    """The samples of one variable, combination by combination.

    Parameters
    ----------
    answer : frame
        Its cells: "c" where each begins, "n", "lo", "hi" and sums of powers from there.
    combined : array of int
        The number of the combination that each is of.
    grid : Grid
        Whose step powers are in units of.
    """
    counts = answer["n"].to_numpy().astype(np.int64)
    begins, lows, highs, *sums = (
        answer[name].cast(float).to_numpy() for name in ("c", "lo", "hi", *POWERS)
    )
    none = ~np.isfinite(begins)
    groups: list[GroupCells] = []
    powers: list[list[FloatArray]] = []
    missing: list[int] = []
    for number in parting.kept.tolist():
        mine = combined == number
        missing.append(int(counts[mine & none].sum()))
        rows = np.flatnonzero(mine & ~none)
        rows = rows[np.argsort(lows[rows], kind="stable")]
        powers.append([each[rows] for each in sums])
        means = begins[rows] + grid.step.width * (powers[-1][0] / counts[rows])
        means = np.where(lows[rows] == highs[rows], lows[rows], means)
        means = np.clip(means, lows[rows], highs[rows])
        groups.append(GroupCells(begins[rows], lows[rows], highs[rows], counts[rows], means))
    if all(group.alike for group in groups):
        each = zip(groups, labels, missing, strict=True)
        return [group.weighted(label, gone) for group, label, gone in each]
    cells = Cells(groups, fetch, grid.step.width)
    # Beyond all widenings a cell is as wide as doubles get, and its powers mean nothing; and what
    # is much narrower than all together lies in too few cells to show its shape.
    coarse = [g.begins for g in groups if len(g.counts) < _FEW and g.counts.sum() <= _MOST_VALUES]
    beyond = begins[~none & np.isin(begins, grid.ends)]
    cells.open_at(np.unique(np.concatenate([beyond, *coarse])))
    samples: list[AnySample] = []
    for at, (label, before) in enumerate(zip(labels, groups, strict=True)):
        if len(before.counts):
            moments = _moments(cells.group(at), before, powers[at], grid.step.width)
            samples.append(Celled(label, cells, at, moments, False, missing[at]))
        else:
            samples.append(Weighted(label, np.empty(0), np.arange(0), missing[at]))
    foresee(cells, [sample for sample in samples if isinstance(sample, Celled)])
    return samples


def _moments(
    group: GroupCells, before: GroupCells, summed: Sequence[FloatArray], width: float
) -> Moments:
    """Of all values, from the means of cells and the powers within them (Chan, Golub and LeVeque
    1983); ``summed`` are those of the cells before some were opened."""
    if group.alike:
        return moments_of(group.lows, group.counts)
    n = group.counts.astype(np.float64)
    total, first = n.sum(), float(group.begins[len(n) // 2])
    # Far from 0 a mean has fewer digits than its distance from a mean nearby.
    alone = group.lows == group.highs
    places = np.minimum(before.begins.searchsorted(group.begins), len(before.begins) - 1)
    sums = [np.where(alone, 0.0, each[places]) for each in summed]
    away = np.where(alone, group.lows - first, group.begins - first + width * sums[0] / n)
    mean = float(np.sum(n / total * away))
    gap = away - mean
    with np.errstate(all="ignore"):  # values may be so far apart that powers are no doubles
        return _combined(group, alone, gap, n, sums, width, first + mean)


def _combined(
    group: GroupCells,
    alone: BoolArray,
    gap: FloatArray,
    n: FloatArray,
    sums: Sequence[FloatArray],
    width: float,
    mean: float,
) -> Moments:
    wide = float(np.max(np.where(alone, 0.0, group.highs - group.lows)))
    unit = max(float(np.abs(gap).max()), wide, width)
    gap, scale = gap / unit, width / unit
    s1, s2 = sums
    a = s1 / n
    squares = np.maximum(s2 - n * a**2, 0.0) * scale**2
    fourths = _EVEN * squares**2 / n  # as of values that lie evenly within their cell
    second = float(np.sum(squares + n * gap**2))
    third = float(np.sum(3 * gap * squares + n * gap**3))
    fourth = float(np.sum(fourths + 6 * gap**2 * squares + n * gap**4))
    return Moments(
        mean, math.sqrt(second) * unit, math.cbrt(third) * unit, math.sqrt(math.sqrt(fourth)) * unit
    )
