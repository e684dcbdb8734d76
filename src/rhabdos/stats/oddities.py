"""Oddities of values that a reader should know of: heaping, and codes that stand for missing
values."""

import math

import numpy as np
from msgspec import Struct

from rhabdos.memo import memoised
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import quartiles
from rhabdos.stats.rounding import multiple_below, sequence

CODES = (-1.0, -9.0, -99.0, -999.0, -9999.0, 99.0, 999.0, 9999.0)
"""Numbers that people write where a value is missing."""
DATE_CODES = (-25_569.0, -25_568.0, -25_567.0, 0.0, 47_481.0, 376_199.0, 2_932_896.0)
"""Dates that programs write there, as days since 1970: 1899-12-30, 1899-12-31, 1900-01-01,
1970-01-01, 2099-12-31, 2999-12-31 and 9999-12-31."""
_LEAST_HEAPED = 30  # values, and units that they span, below which heaps come by chance
_MOST_MULTIPLES = 2000  # places that a grid of multiples may have


class Spike(Struct, frozen=True):
    """A code that may stand for missing: how many values are it, and which true value is
    nearest."""

    code: float
    count: int
    nearest: float


@memoised  # it looks at all values, and notices ask after every change
def missing_code(sample: Ordered, codes: tuple[float, ...] = CODES) -> Spike | None:
    """A likely code for missing among the values, if there is one.

    It is the smallest or the largest value, stands there more than once, and is far from the
    others: negative where all others are not, or further from them than their IQR.

    Parameters
    ----------
    sample : Ordered
        In any unit.
    codes : tuple of float
        What may be one, in that unit.
    """
    if sample.n < 10:
        return None
    for code in (sample.minimum, sample.maximum):
        if code not in codes:
            continue
        at = np.array([code])
        before, upto = int(sample.below(at)[0]), int(sample.below(at, inclusive=True)[0])
        count = upto - before
        if not 2 <= count <= sample.n // 2:
            continue
        lowest = code == sample.minimum
        nearest = float(sample.at(np.array([upto if lowest else before - 1]))[0])
        q1, _, q3 = quartiles(sample)
        alone_in_sign = lowest and code < 0 <= nearest
        if alone_in_sign or abs(nearest - code) > max(q3 - q1, 0.0) * 1.5:
            return Spike(code, count, nearest)
    return None


class Heap(Struct, frozen=True):
    """Values heaped on multiples of a step, and the share of all values that lie there."""

    step: float
    share: float


@memoised  # it looks at all values, and notices ask after every change
def heaping(sample: Ordered) -> Heap | None:
    """Whether whole numbers crowd on multiples of 10 or 5, well beyond chance (1 in 10, 1 in 5)."""
    span = sample.maximum - sample.minimum if sample.n else 0.0
    if (
        sample.n < _LEAST_HEAPED
        or not sample.whole
        or span < _LEAST_HEAPED
        or span > 5 * _MOST_MULTIPLES
    ):
        return None
    tens, fives = _share_on(sample, 10.0), _share_on(sample, 5.0)
    if tens > 0.35 and tens > 0.75 * fives:  # where fives are as common as tens, the step is 5
        return Heap(10.0, tens)
    return Heap(5.0, fives) if fives > 0.45 else None


def _share_on(sample: Ordered, step: float) -> float:
    """Share of the values that are multiples of a step."""
    first = multiple_below(sample.minimum, step)
    places = sequence(first, step, math.floor((sample.maximum - first) / step) + 1)
    return float((sample.below(places, inclusive=True) - sample.below(places)).sum()) / sample.n
