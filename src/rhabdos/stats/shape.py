"""What stands out of a shape: peaks that do not depend on the bins, and the side of the longer
tail."""

import math

import numpy as np

from rhabdos.stats.binning import BinningError, by_width, counts
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.peaks import peaks
from rhabdos.stats.quantiles import quantiles
from rhabdos.stats.resampling import resampled_quantiles
from rhabdos.stats.rounding import multiple_below, nearest_round_step

_LEAST = 50  # values, of which a shape can be told
_MOST_BINS = 60  # over the middle 98 %, so that no grain of the values makes peaks
_LOOKED_AT = 5_000  # values at evenly spaced ranks, of which the grain is told
_FINE = 20  # grains, from which on a width need not be so many whole ones
_WIDER = 1.5  # times the width, at which peaks must stand too
_SURE = 0.01  # of resamples on the other side, for which a tail is not told
_SEED = 1  # the same answer for the same sample, each time


def standing_peaks(sample: Ordered) -> tuple[float, ...]:
    """Where two or more peaks stand out of counting noise, in bins of the width of Freedman and
    Diaconis (1981) and of half as much again, each begun at two places half a bin apart; nothing
    where any of these bins show a single one.

    Parameters
    ----------
    sample : Ordered
        The values, in any unit; of fewer than 50 nothing is told.
    """
    if sample.n < _LEAST or sample.minimum == sample.maximum:
        return ()
    low, q1, q3, high = quantiles(sample, np.array([0.01, 0.25, 0.75, 0.99]), 7).tolist()
    least = max(2 * (q3 - q1) / math.cbrt(sample.n), (high - low) / _MOST_BINS)
    if not (math.isfinite(least) and least > 0):
        return ()
    width, grain = nearest_round_step(least), grain_of(sample)
    fewest: list[float] | None = None
    for wide in (width, _WIDER * width):
        for late in (0.0, 0.5):
            places = _peaks_at(sample, wide, late, grain)
            if len(places) < 2:
                return ()
            if fewest is None or len(places) < len(fewest):
                fewest = places
    return tuple(fewest or ())


def grain_of(sample: Ordered) -> float:
    """How far apart values lie that were rounded: the usual distance from one to the next that
    differs from it.

    Parameters
    ----------
    sample : Ordered
        At least one value.
    """
    kept = min(sample.n, _LOOKED_AT)
    ranks = ((np.arange(kept) + 0.5) * (sample.n / kept)).astype(np.int64)
    values = np.unique(sample.about_at(ranks))
    return float(np.median(np.diff(values))) if len(values) > 1 else 0.0


def _peaks_at(sample: Ordered, width: float, late: float, grain: float) -> list[float]:
    """The middles of the bins at which peaks stand; bins of rounded values hold as many places
    each, and begin between two of them."""
    start = multiple_below(sample.minimum, width) - width * late
    if grain and width < _FINE * grain:
        places = max(1, math.ceil(width / grain - 1e-9))  # 1.1 / 0.1 is above 11
        width = places * grain
        start = sample.minimum - grain / 2 - math.floor(places * late) * grain
    try:
        edges = by_width(sample, width, start)
    except BinningError:
        return []
    values = edges.values
    return [float(values[at] / 2 + values[at + 1] / 2) for at in peaks(counts(sample, edges))]


def longer_tail(sample: Ordered) -> int:
    """On which side the longer tail is: 1 at large values, -1 at small ones, 0 where it cannot be
    told.

    The outer tenths and twentieths must both lie farther from the median on that side, in 99 of
    100 resamples (the shape of Bowley and of Kelley).

    Parameters
    ----------
    sample : Ordered
        The values, in any unit; of fewer than 50 nothing is told.
    """
    if sample.n < _LEAST or sample.minimum == sample.maximum:
        return 0
    shares = np.array([0.05, 0.1, 0.5, 0.9, 0.95])
    # Differences of values near the largest double are endless, and nothing is said then.
    with np.errstate(over="ignore", invalid="ignore"):
        drawn = resampled_quantiles(sample, shares, 7, _SEED)
        farther = [(drawn[:, 4 - at] - drawn[:, 2]) - (drawn[:, 2] - drawn[:, at]) for at in (0, 1)]
    if not all(np.all(np.isfinite(each)) for each in farther):
        return 0
    if all((each <= 0).mean() <= _SURE for each in farther):
        return 1
    return -1 if all((each >= 0).mean() <= _SURE for each in farther) else 0
