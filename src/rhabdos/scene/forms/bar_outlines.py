"""Outlines of bars, along and across: touching, over a part of each bin, or apart."""

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray


class Slot(Struct, frozen=True):
    """The part of each bin that a group's bars have: from which share of its width to which."""

    first: float = 0.0
    last: float = 1.0

    def of(self, edges: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Where it begins and ends along, shape (k,) each.

        Parameters
        ----------
        edges : array, shape (k + 1,)
            Along, of k bins; points on the paper.
        """
        widths = np.diff(edges)
        return edges[:-1] + widths * self.first, edges[:-1] + widths * self.last


def between_steps(edges: FloatArray, tops: FloatArray, base: FloatArray) -> FloatArray:
    """Along the tops of touching steps, and back along their feet.

    Parameters
    ----------
    edges : array, shape (k + 1,)
        Along, of k bins.
    tops, base : array, shape (k,)
        Across: where each bar ends, and what it stands on.
    """
    outline = np.empty((4 * len(tops), 2))
    there, back = outline[: 2 * len(tops)], outline[2 * len(tops) :][::-1]
    for line, across in ((there, tops), (back, base)):
        line[0::2, 0], line[1::2, 0] = edges[:-1], edges[1:]
        line[0::2, 1] = line[1::2, 1] = across
    return outline


def steps(edges: FloatArray, tops: FloatArray, base: FloatArray) -> FloatArray:
    """Touching bars: up at the first edge, along their tops, down at the last one, and back along
    what they stand on.

    Parameters
    ----------
    edges : array, shape (k + 1,)
        Along, of k bins.
    tops, base : array, shape (k,)
        Across: where each bar ends, and what it stands on.
    """
    level = base[0] == base[-1] and bool(np.all(base == base[0]))
    outline = np.empty((2 * len(tops) + 2, 2))
    outline[0] = edges[0], base[0]
    outline[-1] = edges[-1], base[-1]
    outline[1:-1:2, 0], outline[2:-1:2, 0] = edges[:-1], edges[1:]
    outline[1:-1:2, 1] = outline[2:-1:2, 1] = tops
    if level:
        return outline
    back = np.empty((2 * len(base), 2))
    back[0::2, 0], back[1::2, 0] = edges[1:][::-1], edges[:-1][::-1]
    back[0::2, 1] = back[1::2, 1] = base[::-1]
    return np.concatenate([outline, back])


def slotted(edges: FloatArray, tops: FloatArray, base: FloatArray, slot: Slot) -> FloatArray:
    """Bars over a part of each bin, each down to what it stands on.

    Parameters
    ----------
    edges : array, shape (k + 1,)
        Along, of k bins.
    tops, base : array, shape (k,)
        Across: where each bar ends, and what it stands on.
    """
    first, last = slot.of(edges)
    outline = np.empty((4 * len(tops), 2))
    outline[0::4, 0] = outline[1::4, 0] = first
    outline[2::4, 0] = outline[3::4, 0] = last
    outline[0::4, 1] = outline[3::4, 1] = base
    outline[1::4, 1] = outline[2::4, 1] = tops
    return outline


def apart(
    edges: FloatArray, tops: FloatArray, base: FloatArray, foot: float, slot: Slot
) -> FloatArray:
    """Bars over a part of each bin that stand at different heights, as one outline: from bar to
    bar it runs to the foot of the band, along that, and back the same way, which holds no area.

    Parameters
    ----------
    edges : array, shape (k + 1,)
        Along, of k bins.
    tops, base : array, shape (k,)
        Across: where each bar ends, and what it stands on.
    foot : float
        Across: that of the band.
    """
    first, last = slot.of(edges)
    outline = np.empty((7 * len(tops), 2))
    for corner, (along, across) in enumerate(
        (
            (first, np.full(len(tops), foot)),
            (first, base),
            (first, tops),
            (last, tops),
            (last, base),
            (first, base),
            (first, np.full(len(tops), foot)),
        )
    ):
        outline[corner::7, 0], outline[corner::7, 1] = along, across
    return outline
