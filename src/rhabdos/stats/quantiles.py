"""Quantiles of an ordered sample, by any of the published definitions."""

from typing import Literal

import numpy as np

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.stats.ordered import Ordered

Definition = Literal[1, 2, 3, 4, 5, 6, 7, 8, 9]
QuartileRule = Literal[1, 2, 3, 4, 5, 6, 7, 8, 9, "hinges"]

# What each definition does, in plain words.
IN_WORDS: dict[QuartileRule, str] = {
    1: "the first value that reaches the share",
    2: "the first value that reaches the share, averaged with the next where it does so exactly",
    3: "the value whose rank is nearest to the share of n",
    4: "between ranks, the last value standing at the whole",
    5: "between ranks, each value standing in the middle of its nth",
    6: "between ranks, as shares of n + 1",
    7: "between ranks, as shares of n − 1",
    8: "between ranks, about median-unbiased for any distribution",
    9: "between ranks, about unbiased for normal values",
    "hinges": "Tukey’s hinges: the medians of the lower and the upper half, each with the median",
}

# m of Hyndman and Fan (1996), as a + b p: the share p stands at rank np + m, counted from 1.
_FEW = 64  # shares that are asked for each by itself

_SHIFT: dict[int, tuple[float, float]] = {
    1: (0.0, 0.0),
    2: (0.0, 0.0),
    3: (-0.5, 0.0),
    4: (0.0, 0.0),
    5: (0.5, 0.0),
    6: (0.0, 1.0),
    7: (1.0, -1.0),
    8: (1 / 3, 1 / 3),
    9: (3 / 8, 1 / 4),
}


def quantiles(sample: Ordered, shares: FloatArray, definition: Definition = 7) -> FloatArray:
    """Values below which the given shares of a sample lie.

    Parameters
    ----------
    sample : Ordered
        n sorted values.
    shares : array
        From 0 to 1.
    definition : 1 … 9
        Of Hyndman and Fan (1996); ``IN_WORDS`` tells what each does.

    Returns
    -------
    array of the same shape
        NaN where the sample is empty.
    """
    shares = np.asarray(shares, dtype=np.float64)
    n = sample.n
    if not n:
        return np.full(shares.shape, np.nan)
    lower, upper, part = placed(n, shares, definition)
    at = sample.at if shares.size <= _FEW else sample.about_at
    below, above = at(lower), at(upper)
    # Two products rather than one difference, which could overflow between very large values.
    mixed = below * (1 - part) + above * part
    return np.where((part == 0) | (below == above), below, np.where(part == 1, above, mixed))


def placed(
    n: int, shares: FloatArray, definition: Definition
) -> tuple[IntArray, IntArray, FloatArray]:
    """The two ranks (from 0) that the quantiles of n >= 1 values lie between, and how far towards
    the second.

    Parameters
    ----------
    n : int
        Values of the sample.
    shares : array, shape (k,)
        From 0 to 1.
    definition : 1 … 9
        As Hyndman and Fan (1996) number them.
    """
    fixed, by_share = _SHIFT[definition]
    rank = n * shares + fixed + by_share * shares
    # A rank that only rounding keeps from being whole is whole.
    near = np.rint(rank)
    rank = np.where(
        np.abs(rank - near) <= 4 * np.finfo(np.float64).eps * np.maximum(1, np.abs(rank)),
        near,
        rank,
    )
    whole = np.floor(rank)
    part = rank - whole
    if definition == 1:
        part = np.where(part > 0, 1.0, 0.0)
    elif definition == 2:
        part = np.where(part > 0, 1.0, 0.5)
    elif definition == 3:
        part = np.where((part == 0) & (whole % 2 == 0), 0.0, 1.0)
    return (
        np.clip(whole, 1, n).astype(np.int64) - 1,
        np.clip(whole + 1, 1, n).astype(np.int64) - 1,
        part,
    )


def quartiles(sample: Ordered, rule: QuartileRule = 7) -> tuple[float, float, float]:
    """Lower quartile, median and upper quartile, by a definition or as Tukey's hinges (Tukey
    1977).

    Parameters
    ----------
    sample : Ordered
        Of at least one value.
    rule : 1 … 9 or "hinges"
        Which definition.
    """
    if rule != "hinges":
        low, middle, high = quantiles(sample, np.array([0.25, 0.5, 0.75]), rule)
        return float(low), float(middle), float(high)
    if not sample.n:
        return float("nan"), float("nan"), float("nan")
    depth = ((sample.n + 1) // 2 + 1) / 2
    return (
        at_depth(sample, depth),
        at_depth(sample, (sample.n + 1) / 2),
        at_depth(sample, sample.n + 1 - depth),
    )


def at_depth(sample: Ordered, depth: float) -> float:
    """The value at a whole rank from 1, or midway between two.

    Parameters
    ----------
    sample : Ordered
        Of at least ``depth`` values.
    depth : float
        A rank from 1, or half-way between two.
    """
    below, above = sample.at(np.array([int(np.floor(depth)) - 1, int(np.ceil(depth)) - 1]))
    return float(below) if below == above else float(below / 2 + above / 2)
