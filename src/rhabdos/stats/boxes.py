"""Boxes: quartiles, whiskers, the values beyond them, and notches."""

import math
from functools import cached_property
from typing import Literal

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import QuartileRule, at_depth, quantiles, quartiles

Whiskers = float | Literal["range"] | tuple[float, float]
"""How far whiskers reach: a multiple of the IQR, to the extremes, or to two percentiles."""

_NOTCH = 1.57  # IQR/√n of it are half a notch (McGill, Tukey and Larsen 1978)


class Tail(Struct, frozen=True):
    """Values at ranks ``start`` … ``stop`` - 1, outside the whiskers; far ones or not."""

    start: int
    stop: int
    far: bool


class Box(Struct, frozen=True, eq=False, dict=True):
    """One sample as a box, in the variable's unit; NaN where it has no values.

    Attributes
    ----------
    whisker_low, whisker_high : float
        Where whiskers end: always at a value of the sample.
    notch_low, notch_high : float
        median ± 1.57 IQR / √n (McGill, Tukey and Larsen 1978).
    sample : Ordered
        What it is the box of.
    ranks : tuple of int
        Ranks of the first value that is not far, the first within the whiskers, the first past
        them, and the first that is far again.
    """

    n: int
    q1: float
    median: float
    q3: float
    whisker_low: float
    whisker_high: float
    mean: float
    notch_low: float
    notch_high: float
    sample: Ordered
    ranks: tuple[int, int, int, int] = (0, 0, 0, 0)

    @property
    def tails(self) -> tuple[Tail, Tail, Tail, Tail]:
        """The values outside the whiskers, as stretches of ranks in ascending order."""
        far_low, first, stop, far_high = self.ranks
        return (
            Tail(0, far_low, True),
            Tail(far_low, first, False),
            Tail(stop, far_high, False),
            Tail(far_high, self.n, True),
        )

    @cached_property
    def beyond(self) -> FloatArray:
        """Values outside the whiskers, ascending, up to ``far`` times the IQR from the box."""
        return self._values(far=False)

    @cached_property
    def far(self) -> FloatArray:
        """Values outside the whiskers, ascending, past ``far`` times the IQR from the box."""
        return self._values(far=True)

    def _values(self, far: bool) -> FloatArray:
        tails = [tail for tail in self.tails if tail.far is far]
        return np.concatenate([self.sample.run(tail.start, tail.stop) for tail in tails])


class Letter(Struct, frozen=True):
    """A pair of letter values: how far from either end they stand, counted from 1, and what stands
    there."""

    depth: float
    low: float
    high: float


def letters(sample: Ordered) -> tuple[Letter, ...]:
    """Letter values: the median, the fourths, the eighths and so on, each at half the depth of the
    last (Tukey 1977).

    They go on as long as they can be trusted: ⌊log₂ n⌋ - 2 of them, so that the 95 % interval of
    one does not reach the next (Hofmann, Wickham and Kafadar 2017); the median always.

    Parameters
    ----------
    sample : Ordered
        Of any size; of none there are no letters.
    """
    if not sample.n:
        return ()
    depths = [(sample.n + 1) / 2]
    for _ in range(max(0, sample.n.bit_length() - 4)):
        depths.append((math.floor(depths[-1]) + 1) / 2)
    # Values that lie elsewhere are asked for at once.
    of_all = np.array([end for depth in depths for end in (depth, sample.n + 1 - depth)])
    sample.at(np.concatenate([np.floor(of_all), np.ceil(of_all)]).astype(np.int64) - 1)
    return tuple(
        Letter(depth, at_depth(sample, depth), at_depth(sample, sample.n + 1 - depth))
        for depth in depths
    )


def box(sample: Ordered, rule: QuartileRule = 7, whiskers: Whiskers = 1.5, far: float = 3.0) -> Box:
    """Work out a box for a sample of any size, also of none.

    Parameters
    ----------
    rule : 1 … 9 or "hinges"
        Which definition of quartiles.
    whiskers : float, "range" or (low, high)
        Reach to the last value within this multiple of the IQR from the box (Tukey 1977); to the
        extremes; or to the last values within two percentiles.
    far : float
        Multiple of the IQR past which a value beyond counts as far.
    """
    if not sample.n:
        nan = math.nan
        return Box(0, nan, nan, nan, nan, nan, nan, nan, nan, sample)
    q1, median, q3 = quartiles(sample, rule)
    iqr = q3 - q1
    low, high = _fences(sample, q1, q3, whiskers)
    first = int(sample.below(np.array([low]))[0])
    last = int(sample.below(np.array([high]), inclusive=True)[0]) - 1
    if first > last:  # fences that hold no value: the whiskers stay at the box
        first = int(sample.below(np.array([q1]))[0])
        last = int(sample.below(np.array([q3]), inclusive=True)[0]) - 1
    ends = sample.at(np.array([min(first, sample.n - 1), max(last, 0)]))
    far_low = min(first, int(sample.below(np.array([q1 - far * iqr]))[0]))
    far_high = max(last + 1, int(sample.below(np.array([q3 + far * iqr]), inclusive=True)[0]))
    reach = _NOTCH * iqr / math.sqrt(sample.n)
    return Box(
        sample.n,
        q1,
        median,
        q3,
        min(float(ends[0]), q1),
        max(float(ends[1]), q3),
        sample.moments.mean,
        median - reach,
        median + reach,
        sample,
        (far_low, first, last + 1, far_high),
    )


def _fences(sample: Ordered, q1: float, q3: float, whiskers: Whiskers) -> tuple[float, float]:
    """Between which points a value is within the whiskers' reach."""
    if whiskers == "range":
        return sample.minimum, sample.maximum
    if isinstance(whiskers, tuple):
        low, high = quantiles(sample, np.array(whiskers) / 100)
        return float(low), float(high)
    assert not isinstance(whiskers, str)
    return q1 - whiskers * (q3 - q1), q3 + whiskers * (q3 - q1)
