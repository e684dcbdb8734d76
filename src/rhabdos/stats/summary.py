"""A sample in a few numbers."""

import math

from msgspec import Struct

from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import QuartileRule, quartiles


class Summary(Struct, frozen=True):
    """Location and spread of one sample, in the variable's unit; NaN where there are too few values.

    ``sd`` has the divisor n - 1.
    """

    n: int
    mean: float
    sd: float
    min: float
    q1: float
    median: float
    q3: float
    max: float

    @property
    def iqr(self) -> float:
        return self.q3 - self.q1


def summarise(sample: Ordered, rule: QuartileRule = 7) -> Summary:
    """Summarise a sample of any size, also of none; ``rule`` tells which quartiles."""
    if not sample.n:
        nan = math.nan
        return Summary(0, nan, nan, nan, nan, nan, nan, nan)
    moments = sample.moments
    sd = moments.norm / math.sqrt(sample.n - 1) if sample.n > 1 else math.nan
    q1, median, q3 = quartiles(sample, rule)
    return Summary(sample.n, moments.mean, sd, sample.minimum, q1, median, q3, sample.maximum)
