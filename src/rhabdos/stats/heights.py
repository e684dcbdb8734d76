"""Heights of bars from counts."""

from typing import Literal

import numpy as np

from rhabdos.arrays import FloatArray, IntArray

Scale = Literal["count", "percent", "proportion", "density"]


def cumulated(counts: IntArray, below: int) -> IntArray:
    """Running counts: how many values lie up to the end of each bin, with those ``below`` the
    first.

    Parameters
    ----------
    counts : array, shape (k,)
        Of each bin.
    below : int
        How many values lie below the first bin.
    """
    return np.asarray(below + np.cumsum(counts))


def heights(counts: IntArray, widths: FloatArray, scale: Scale, total: int) -> FloatArray:
    """Turn the counts of bins into heights.

    Parameters
    ----------
    counts, widths : array, shape (k,)
        Values in each bin, and its width in the variable's unit.
    scale : {"count", "percent", "proportion", "density"}
        A density is a proportion per unit of the variable, so that areas add up to 1.
    total : int
        What the shares are of: the values of the group, or of all groups. They include values in no
        bin.

    Returns
    -------
    array, shape (k,)
        All 0 where ``total`` is 0.
    """
    numbers = counts.astype(np.float64)
    if scale == "count":
        return numbers
    if not total:
        return np.zeros(len(numbers))
    if scale == "percent":
        return np.asarray(100 * numbers / total, dtype=np.float64)
    if scale == "proportion":
        return np.asarray(numbers / total, dtype=np.float64)
    with np.errstate(over="ignore"):  # readings refuse a density that no number can hold
        return np.asarray(numbers / total / widths, dtype=np.float64)
