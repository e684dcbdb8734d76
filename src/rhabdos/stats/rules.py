"""Published rules for the width of bins, by name."""

import math
from collections.abc import Callable, Mapping
from typing import Literal

import numpy as np
from msgspec import Struct

from rhabdos.stats.binning import BinningError, Edges, Side, around, by_count, by_width
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import quantiles
from rhabdos.stats.rounding import nearest_round_step

MOST_RULE_BINS = 1_000
_AUTOMATIC_MOST = 80


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


RuleName = Literal["automatic", "square-root", "sturges", "rice", "doane", "scott", "freedman-diaconis"]

RULES: Mapping[RuleName, Rule] = {
    "automatic": Rule("Automatic", "Freedman–Diaconis, but at most 80 bins; Scott where the IQR is 0", _automatic),
    "square-root": Rule("Square root", "as many bins as the square root of n", _square_root),
    "sturges": Rule("Sturges", "Sturges 1926: log2 n + 1 bins", _sturges),
    "rice": Rule("Rice", "twice the cube root of n bins", _rice),
    "doane": Rule("Doane", "Doane 1976: Sturges with more bins for skewed data", _doane),
    "scott": Rule("Scott", "Scott 1979: width 3.49 sd / cube root of n", _scott),
    "freedman-diaconis": Rule(
        "Freedman–Diaconis", "Freedman and Diaconis 1981: width 2 IQR / cube root of n", _freedman_diaconis
    ),
}


class Ruled(Struct, frozen=True):
    """Edges that a rule gave, and whether the most bins that rules may make held it back."""

    edges: Edges
    limited: bool = False


def by_rule(
    sample: Ordered, rule: RuleName, start: float | None = None, closed: Side = "left", nice: bool = True
) -> Ruled:
    """Bins by a published rule, with round edges if ``nice``, exact ones if not.

    Raises
    ------
    BinningError
        The sample is empty, its values are too far apart, or the start lies above them all.
    """
    if not sample.n:
        raise BinningError("There are no values to divide into bins.")
    if sample.minimum == sample.maximum:
        return Ruled(around(sample, closed))
    span = _span(sample)
    if not math.isfinite(span):
        raise BinningError(
            f"Values from {sample.minimum:.3g} to {sample.maximum:.3g} are too far apart to divide into bins."
        )
    suggested = min(RULES[rule].width(sample) or span, span)
    finest = max(span / MOST_RULE_BINS, 8 * float(np.spacing(max(abs(sample.minimum), abs(sample.maximum)))))
    width = max(suggested, finest)
    limited = width > suggested
    if nice or start is not None:
        step = nearest_round_step(width, sample.whole) if nice else width
        return Ruled(by_width(sample, step, start, closed), limited)
    return Ruled(by_count(sample, max(1, math.ceil(span / width - 1e-9)), None, closed, nice=False), limited)
