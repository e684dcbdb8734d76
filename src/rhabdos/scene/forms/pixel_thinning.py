"""Where values lie along the axis, never more of them than a page can show apart."""

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.scene.coordinates import Frame
from rhabdos.stats.ordered import Ordered

APART = 0.75  # points: a pixel of a screen


def spots(sample: Ordered, start: int, stop: int, frame: Frame) -> FloatArray:
    """Where the values at ranks ``start`` … ``stop`` - 1 lie along, at most one a pixel.

    Values outside the frame are in no spot. The cost does not grow with the values.
    """
    ends = np.array([frame.low, frame.high])
    if stop > start:
        start = max(start, int(sample.below(ends[:1])[0]))
        stop = min(stop, int(sample.below(ends[1:], inclusive=True)[0]))
    if stop <= start:
        return np.empty(0)
    low, high = sample.at(np.array([start, stop - 1])).tolist()
    first, last = frame.along(low), frame.along(high)
    onwards = 1.0 if last >= first else -1.0
    columns = int(abs(last - first) / APART) + 1
    if stop - start <= 4 * columns:
        alongs = frame.alongs(sample.run(start, stop))
        _, places = np.unique(np.floor((alongs - first) / APART), return_index=True)
        return np.asarray(alongs[places])
    steps = np.asarray(np.arange(columns + 1) * (APART * onwards), dtype=np.float64)
    ranks = np.clip(sample.below(frame.values(first + steps)), start, stop)
    ranks[0], ranks[-1] = start, stop
    of_each = ranks[:-1][np.diff(ranks) > 0]
    return frame.alongs(sample.at(of_each))
