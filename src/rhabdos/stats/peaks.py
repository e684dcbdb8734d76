"""What a histogram owes to its bins: peaks above counting noise, and how heights change as the start slides."""

import math
from functools import lru_cache

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.stats.binning import Side
from rhabdos.stats.ordered import Ordered

_FALSE_ALARMS = 0.05
PHASES = 32


def peaks(counts: IntArray) -> list[int]:
    """The bins at which peaks stand above counting noise, from left to right.

    Counts scatter about what they stand for like Poisson counts, so that z = 2 √(c + 3/8) scatters by about 1
    wherever it lies (Anscombe 1948). A peak counts if z falls by more than √2 q on both sides before it rises
    to a higher peak, or to the nothing beyond the last bins. q is the normal quantile that in k bins without any
    structure raises a false alarm about once in 20: that of 1 - 0.05 / (2 k).

    Parameters
    ----------
    counts : array, shape (k,)
        Of bins of one width.
    """
    if not len(counts) or not np.any(counts):
        return []
    noise = _noise(len(counts))
    padded = np.concatenate([[0], counts, [0]])
    z: list[float] = (2 * np.sqrt(padded + 0.375)).tolist()
    found: list[int] = []
    top = low = 1
    rising = True  # whether a peak is being climbed (top is its highest bin yet) or a valley entered (low its lowest)
    for place in range(1, len(z)):
        if rising:
            if z[place] > z[top]:
                top = place
            elif z[top] - z[place] > noise:
                if z[top] - z[low] > noise or not found:
                    found.append(top - 1)
                rising, low = False, place
        elif z[place] < z[low]:
            low = place
        elif z[place] - z[low] > noise:
            rising, top = True, place
    return found


@lru_cache(maxsize=64)
def _noise(bins: int) -> float:
    """By how much z must fall beside a peak."""
    from statistics import NormalDist  # brings fractions and decimals, which no start should wait for

    return math.sqrt(2) * NormalDist().inv_cdf(1 - _FALSE_ALARMS / (2 * bins))


class Slide(Struct, frozen=True, eq=False):
    """How many values the bin over each place holds, at least and at most, wherever bins of a width begin.

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
    sample: Ordered, width: float, first: float, last: float, phases: int = PHASES, closed: Side = "left"
) -> Slide:
    """Move bins of one width through one width, in ``phases`` steps, and follow the count over every place.

    Parameters
    ----------
    first, last : float
        Between which places are looked at, in the variable's unit.
    closed : {"left", "right"}
        The side on which bins include their edge.
    """
    step = width / phases
    places = max(1, math.ceil((last - first) / step - 1e-9))
    # A place is covered by the windows that begin up to one width less a step before it.
    x: FloatArray = np.asarray(first + step * np.arange(1 - phases, places + phases), dtype=np.float64)
    below = sample.below(x, inclusive=closed == "right") if sample.n else np.zeros(len(x), dtype=np.int64)
    windows = below[phases:] - below[:-phases]
    over = np.lib.stride_tricks.sliding_window_view(windows, phases)[:places]
    return Slide(x[phases - 1 : phases + places], over.min(axis=1), over.max(axis=1))
