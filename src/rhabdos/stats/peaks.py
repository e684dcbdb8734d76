"""What a histogram owes to its bins: peaks above counting noise, and how heights change as the
start slides."""

import math
from functools import lru_cache

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.stats.binning import Side
from rhabdos.stats.ordered import Ordered

PHASES = 32  # starts of bins that are tried within one width


def peaks(counts: IntArray) -> list[int]:
    """The bins at which peaks stand above counting noise, from left to right.

    Counts scatter about what they stand for like Poisson counts, so that z = 2 √(c + 3/8) scatters
    by about 1 wherever it lies (Anscombe 1948). A peak counts if z falls far enough on both sides
    before it rises to a higher peak, or to the nothing beyond the last bins. Far enough is what
    flat bins, as many and as full, come to by chance once in 20 times (``least_valley``).

    Parameters
    ----------
    counts : array, shape (k,)
        Of bins of one width.
    """
    if not len(counts) or not np.any(counts):
        return []
    noise = least_valley(len(counts), int(counts.sum()))
    padded = np.concatenate([[0], counts, [0]])
    z: list[float] = (2 * np.sqrt(padded + 0.375)).tolist()
    tops: list[int] = []
    top = low = 1
    # Whether a peak is being climbed (top is its highest bin yet) or a valley entered (low its
    # lowest)
    rising = True
    for index in range(1, len(z)):
        if rising:
            if z[index] > z[top]:
                top = index
            elif z[top] - z[index] > noise:
                if z[top] - z[low] > noise or not tops:
                    tops.append(top - 1)
                rising, low = False, index
        elif z[index] < z[low]:
            low = index
        elif z[index] - z[low] > noise:
            rising, top = True, index
    return tops


# What a valley must be deeper than, so that one flat row of bins in 20 holds a deeper one by
# chance: one that is entered from as high and left as high. By numbers of bins, for mean counts of
# 10 (the most of 7 … 12) to 100 and for normal numbers (infinity). They were worked out bin by bin,
# for Poisson counts, from the chances of every highest count so far and every lowest since.
_BINS = (5, 7, 10, 14, 20, 28, 40, 56, 80, 112, 160, 224, 320, 450, 640, 900, 1280, 2000)
_VALLEYS = {
    10: (
        2.70,
        3.08,
        3.64,
        3.94,
        4.24,
        4.68,
        4.96,
        5.22,
        5.53,
        5.81,
        6.09,
        6.35,
        6.61,
        6.87,
        7.11,
        7.35,
        7.57,
        7.81,
    ),
    17: (
        2.59,
        3.05,
        3.52,
        3.83,
        4.19,
        4.48,
        4.83,
        5.07,
        5.28,
        5.60,
        5.83,
        6.08,
        6.30,
        6.58,
        6.79,
        6.98,
        7.19,
        7.40,
    ),
    25: (
        2.58,
        3.05,
        3.47,
        3.81,
        4.16,
        4.45,
        4.75,
        5.02,
        5.29,
        5.51,
        5.79,
        5.97,
        6.26,
        6.43,
        6.61,
        6.89,
        7.06,
        7.33,
    ),
    100: (
        2.56,
        3.02,
        3.44,
        3.78,
        4.11,
        4.40,
        4.70,
        4.96,
        5.23,
        5.46,
        5.71,
        5.92,
        6.14,
        6.35,
        6.56,
        6.75,
        6.95,
        7.19,
    ),
    math.inf: (
        2.53,
        2.99,
        3.40,
        3.74,
        4.08,
        4.37,
        4.66,
        4.91,
        5.17,
        5.41,
        5.65,
        5.86,
        6.08,
        6.29,
        6.50,
        6.69,
        6.89,
        7.13,
    ),
}


@lru_cache(maxsize=256)  # a bound of chance, the same for all samples of a size
def least_valley(bins: int, values: int) -> float:
    """How far z must fall beside a peak, for so many bins and values in them.

    Between the numbers of bins and mean counts that are tabled, by their logarithm and the inverse
    of their root. Below 10 values a bin, false alarms are rarer than one in 20; beyond 2,000 bins,
    what is needed goes on rising.
    """
    mean = max(values / bins, min(_VALLEYS))
    place = math.log(bins)
    tabled = np.log(_BINS)
    beyond = max(0.0, place - float(tabled[-1]))
    depths = [
        float(np.interp(place, tabled, row))
        + beyond * (row[-1] - row[-4]) / float(tabled[-1] - tabled[-4])
        for row in _VALLEYS.values()
    ]
    roots = [1 / math.sqrt(count) for count in _VALLEYS]
    return float(np.interp(1 / math.sqrt(mean), roots[::-1], depths[::-1]))


class Slide(Struct, frozen=True, eq=False):
    """How many values the bin over each place holds, at least and at most, wherever bins of a width
    begin.

    Attributes
    ----------
    x : array, shape (m + 1,)
        Edges of m places.
    low, high : array, shape (m,)
    """

    x: FloatArray
    low: IntArray
    high: IntArray


def slide(
    sample: Ordered,
    width: float,
    first: float,
    last: float,
    phases: int = PHASES,
    closed: Side = "left",
) -> Slide:
    """Move bins of one width through one width, in ``phases`` steps, and follow the count over
    every place.

    Parameters
    ----------
    first, last : float
        Between which places are looked at, in the variable's unit.
    closed : {"left", "right"}
        The side on which bins include their edge.
    """
    step = width / phases
    places = max(1, math.ceil((last - first) / step - 1e-9))  # 2.1 / 0.7 is above 3
    # A place is covered by the windows that begin up to one width less a step before it.
    x: FloatArray = np.asarray(
        first + step * np.arange(1 - phases, places + phases), dtype=np.float64
    )
    below = (
        sample.about_below(x, inclusive=closed == "right")
        if sample.n
        else np.zeros(len(x), dtype=np.int64)
    )
    windows = below[phases:] - below[:-phases]
    over = np.lib.stride_tricks.sliding_window_view(windows, phases)[:places]
    return Slide(x[phases - 1 : phases + places], over.min(axis=1), over.max(axis=1))
