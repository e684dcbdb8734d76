"""Where values lie along the axis, never more of them than a page can show apart."""

import numpy as np

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.memo import last_answers
from rhabdos.scene.coordinates import Frame
from rhabdos.stats.axis_scale import AxisScale
from rhabdos.stats.ordered import Ordered

APART = 0.75  # points: a pixel of a screen
# Values that are looked at one by one. It hangs on nothing of the page: what is asked ahead of data
# that lie elsewhere would else be other values than those of a frame that turns out wider.
_FEW = 2_000
_NONE, _FIRST = np.empty(0), np.array([True])


def spots(sample: Ordered, start: int, stop: int, frame: Frame) -> FloatArray:
    """Where the values at ranks ``start`` … ``stop`` - 1 lie along, at most one a pixel.

    Values outside the frame are in no spot. The cost does not grow with the values.
    """
    if stop > start and frame.low > sample.minimum:
        start = max(start, int(sample.below(np.array([frame.low]))[0]))
    if stop > start and frame.high < sample.maximum:
        stop = min(stop, int(sample.below(np.array([frame.high]), inclusive=True)[0]))
    if stop <= start:
        return _NONE
    if stop - start <= _FEW:
        alongs = frame.alongs(sample.run(start, stop))
        pixels = np.floor((alongs - alongs[0]) / APART)  # in order, as the values are
        first = np.concatenate([_FIRST, pixels[1:] != pixels[:-1]])
        return np.asarray(alongs[first])
    ranks = _ranks_of_columns(sample, frame)
    after, before = int(ranks.searchsorted(start, "right")), int(ranks.searchsorted(stop))
    within = ranks[after:before]
    of_each = within[np.flatnonzero(within[1:] != within[:-1]) + 1]
    return frame.alongs(sample.about_at(np.concatenate([[start], within[:1], of_each])))


def _axis(_sample: Ordered, frame: Frame, /) -> tuple[float, float, float, float, AxisScale, bool]:
    return frame.low, frame.high, frame.start, frame.end, frame.axis, frame.reversed


@last_answers(_axis)  # which stays while a hand moves the whiskers
def _ranks_of_columns(sample: Ordered, frame: Frame, /) -> IntArray:
    """How many values lie below the beginning of each column of pixels, and below the axis's
    end."""
    places = np.arange(frame.start, frame.end + APART, APART)
    return sample.about_below(np.sort(frame.values(np.minimum(places, frame.end))))
