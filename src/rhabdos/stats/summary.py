"""A sample in a few numbers."""

import math

import numpy as np
from msgspec import Struct

from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import quantiles


class Summary(Struct, frozen=True):
    """Location and spread of one sample, in the variable's unit; NaN where there are too few values.

    ``sd`` has the divisor n - 1; the quartiles follow definition 7 of Hyndman and Fan (1996).
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


def summarise(sample: Ordered) -> Summary:
    """Summarise a sample of any size, also of none."""
    if not sample.n:
        nan = math.nan
        return Summary(0, nan, nan, nan, nan, nan, nan, nan)
    moments = sample.moments
    sd = moments.norm / math.sqrt(sample.n - 1) if sample.n > 1 else math.nan
    q1, median, q3 = (float(q) for q in quantiles(sample, np.array([0.25, 0.5, 0.75])))
    return Summary(sample.n, moments.mean, sd, sample.minimum, q1, median, q3, sample.maximum)
