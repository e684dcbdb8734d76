"""Published rules for the width of bins, by name."""

import math
from collections.abc import Callable, Mapping
from typing import Literal

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.memo import memoised
from rhabdos.stats.binning import BinningError, Edges, Side, around, by_count, by_width
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import quantiles
from rhabdos.stats.rounding import nearest_round_step
from rhabdos.wording import about

MOST_RULE_BINS = 1_000  # that a rule may make
# Counts of bins that a search tries one by one; then every few.
_ALL_SEARCHED, _MOST_SEARCHED = 100, 500
_AUTOMATIC_MOST = 80  # bins that the automatic choice takes


class Rule(Struct, frozen=True):
    """A rule that suggests a bin width.

    Attributes
    ----------
    title : str
        As people call it.
    source : str
        Where it was published, and what it does, in one line.
    width : callable
        From a sample of n >= 2 values that are not all the same to a width above 0.
    """

    title: str
    source: str
    width: Callable[[Ordered], float]


def _span(sample: Ordered) -> float:
    return sample.maximum - sample.minimum


def _square_root(sample: Ordered) -> float:
    return _span(sample) / math.sqrt(sample.n)


def _sturges(sample: Ordered) -> float:
    return _span(sample) / (math.log2(sample.n) + 1)


def _rice(sample: Ordered) -> float:
    return _span(sample) / (2 * math.cbrt(sample.n))


def _doane(sample: Ordered) -> float:
    n = sample.n
    if n < 3:
        return _span(sample)
    error = math.sqrt(6 * (n - 2) / ((n + 1) * (n + 3)))
    return _span(sample) / (1 + math.log2(n) + math.log2(1 + abs(_skewness(sample)) / error))


def _skewness(sample: Ordered) -> float:
    """Third standardised moment, with divisor n."""
    moments = sample.moments
    return math.sqrt(sample.n) * (moments.cube / moments.norm) ** 3 if moments.norm else 0.0


def _sd(sample: Ordered) -> float:
    """Standard deviation with divisor n, as these rules were published."""
    return sample.moments.norm / math.sqrt(sample.n)


def _scott(sample: Ordered) -> float:
    return math.cbrt(24 * math.sqrt(math.pi) / sample.n) * _sd(sample)


def _freedman_diaconis(sample: Ordered) -> float:
    low, high = quantiles(sample, np.array([0.25, 0.75]))
    return 2 * float(high - low) / math.cbrt(sample.n)


def _automatic(sample: Ordered) -> float:
    width = _freedman_diaconis(sample) or _scott(sample)
    return max(width, _span(sample) / _AUTOMATIC_MOST)


def _searched(sample: Ordered, cost: Callable[[FloatArray, float, int], float]) -> float:
    """The width with the least cost among numbers of equal bins from the smallest value to the
    largest.

    Every number up to 100 is tried; beyond, up to the square root of n but at most 500, in steps of
    2 %. ``cost`` is told the counts, the width as a share of the span, and n.
    """
    most = min(_MOST_SEARCHED, max(_ALL_SEARCHED, math.isqrt(sample.n)))
    numbers = list(range(1, min(most, _ALL_SEARCHED) + 1))
    while numbers[-1] < most:
        numbers.append(min(most, math.ceil(numbers[-1] * 1.02)))
    tried = [
        (cost(_equal_counts(sample, number), 1 / number, sample.n), number) for number in numbers
    ]
    return _span(sample) / min(tried)[1]


def _equal_counts(sample: Ordered, count: int) -> FloatArray:
    """Counts in equal bins that reach exactly from the smallest value to the largest."""
    inner = sample.minimum + _span(sample) * (np.arange(1, count) / count)
    below = np.concatenate([[0], sample.about_below(inner), [sample.n]])
    return np.asarray(np.diff(below), dtype=np.float64)


def _stone(sample: Ordered) -> float:
    def cost(counts: FloatArray, width: float, n: int) -> float:
        """The estimated loss with so many bins, less what is the same for all."""
        shares = counts / n
        return float((2 - (n + 1) * np.dot(shares, shares)) / width)

    return _searched(sample, cost)


def _knuth(sample: Ordered) -> float:
    def cost(counts: FloatArray, _width: float, n: int) -> float:
        """Minus the log posterior of so many bins."""
        m = len(counts)
        known = n * math.log(m) + math.lgamma(m / 2) - m * math.lgamma(0.5) - math.lgamma(n + m / 2)
        return -(known + sum(map(math.lgamma, (counts + 0.5).tolist())))

    return _searched(sample, cost)


def _shimazaki_shinomoto(sample: Ordered) -> float:
    def cost(counts: FloatArray, width: float, _n: int) -> float:
        """The estimated loss with so many bins."""
        return float((2 * counts.mean() - counts.var()) / width**2)

    return _searched(sample, cost)


RuleName = Literal[
    "automatic",
    "square-root",
    "sturges",
    "rice",
    "doane",
    "scott",
    "freedman-diaconis",
    "stone",
    "knuth",
    "shimazaki-shinomoto",
]

RULES: Mapping[RuleName, Rule] = {
    "automatic": Rule(
        "Automatic", "Freedman–Diaconis, but at most 80 bins; Scott where the IQR is 0", _automatic
    ),
    "square-root": Rule("Square root", "as many bins as the square root of n", _square_root),
    "sturges": Rule("Sturges", "Sturges 1926: log2 n + 1 bins", _sturges),
    "rice": Rule("Rice", "twice the cube root of n bins", _rice),
    "doane": Rule("Doane", "Doane 1976: Sturges with more bins for skewed data", _doane),
    "scott": Rule("Scott", "Scott 1979: width 3.49 sd / cube root of n", _scott),
    "freedman-diaconis": Rule(
        "Freedman–Diaconis",
        "Freedman and Diaconis 1981: width 2 IQR / cube root of n",
        _freedman_diaconis,
    ),
    "stone": Rule("Stone", "Stone 1984: the least estimated error of the heights", _stone),
    "knuth": Rule(
        "Knuth", "Knuth 2006: the most probable number of bins, given the values", _knuth
    ),
    "shimazaki-shinomoto": Rule(
        "Shimazaki–Shinomoto",
        "Shimazaki and Shinomoto 2007: the least expected error of a rate",
        _shimazaki_shinomoto,
    ),
}


@memoised  # several are offered side by side, each of which goes through the sample
def _width(sample: Ordered, rule: RuleName) -> float:
    """The width that a rule suggests for a sample."""
    return RULES[rule].width(sample)


class Ruled(Struct, frozen=True):
    """Edges that a rule gave.

    Attributes
    ----------
    limited : bool
        Whether the most bins that rules may make held it back.
    instead : RuleName or None
        The rule that stood in, where the one asked for gives no width.
    """

    edges: Edges
    limited: bool = False
    instead: RuleName | None = None


def by_rule(
    sample: Ordered,
    rule: RuleName,
    start: float | None = None,
    closed: Side = "left",
    rounded: bool = True,
    centred: bool = False,
) -> Ruled:
    """Bins by a published rule, with round edges if ``rounded``, exact ones if not; where
    ``centred``, round ones of width 1 lie about whole numbers.

    Parameters
    ----------
    sample : Ordered
        The values, in any unit.
    rule : str
        A key of ``RULES``, each with its source.
    start : float, optional
        Where bins begin; else at a round place below the smallest value.
    closed : {"left", "right"}
        Which end of a bin belongs to it.

    Raises
    ------
    BinningError
        The sample is empty, its values are too far apart, or the start lies above them all.
    """
    if not sample.n:
        raise BinningError("There are no values to divide into bins.")
    if sample.minimum == sample.maximum:
        if start is None:
            return Ruled(around(sample, closed))
        return Ruled(by_count(sample, 1, start, closed, rounded))
    span = _span(sample)
    if not math.isfinite(span):
        raise BinningError(
            f"Values from {about(sample.minimum, 3)} to {about(sample.maximum, 3)} are too "
            "far apart to divide into bins."
        )
    width = _width(sample, rule)
    instead: RuleName | None = None
    if not width:  # Freedman–Diaconis, where the quartiles are equal
        width, instead = _width(sample, "scott") or span, "scott"
    suggested = min(width, span) if math.isfinite(width) else span
    finest = max(span / MOST_RULE_BINS, 8 * math.ulp(max(abs(sample.minimum), abs(sample.maximum))))
    width = max(suggested, finest)
    limited = width > suggested
    if rounded or start is not None:
        step = nearest_round_step(width, sample.whole) if rounded else width
        return Ruled(by_width(sample, step, start, closed, centred), limited, instead)
    # A span of just so many widths must not come to one bin more by rounding.
    exact = by_count(sample, max(1, math.ceil(span / width - 1e-9)), None, closed, rounded=False)
    return Ruled(exact, limited, instead)
