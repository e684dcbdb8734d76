"""How many values of each group lie in a range, below it and above it."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from rhabdos.figure.readings.readings import Readings


class Between(Struct, frozen=True):
    """The values of one group: how many lie below a range, within it, and above it."""

    group: int
    below: int
    within: int
    above: int

    @property
    def n(self) -> int:
        """All values of the group."""
        return self.below + self.within + self.above

    def share(self, count: int) -> float:
        """What share of the group's values so many are; NaN of a group without any."""
        return count / self.n if self.n else float("nan")


def between(
    readings: Readings, groups: Sequence[int], low: float, high: float
) -> tuple[Between, ...]:
    """The values of some groups below, within and above a range.

    Parameters
    ----------
    groups : sequence of int
        Their places in the plan.
    low, high : float
        Ends of the range in the variable's unit, the smaller one first; of dates, in days since
        1970. Both belong to it, unless they are edges of the groups' bins (:func:`ends_belong`).
    """
    with_low, with_high = ends_belong(readings, groups, low, high)
    counts = []
    for group in groups:
        sample = readings.groups[group].sample
        below = up_to = 0
        if sample.n:
            below = int(sample.below(np.array([low]), inclusive=not with_low)[0])
            up_to = max(below, int(sample.below(np.array([high]), inclusive=with_high)[0]))
        counts.append(Between(group, below, up_to - below, sample.n - up_to))
    return tuple(counts)


def ends_belong(
    readings: Readings, groups: Sequence[int], low: float | None, high: float
) -> tuple[bool, bool]:
    """Whether a range has the values at its ends: both of them, unless they are edges of the bins
    of all these groups; then an edge belongs to the bin that it belongs to in the figure."""
    if not groups or not readings.needs_bins:
        return True, True
    if len({id(readings.own_edges[group]) for group in groups}) > 1:
        return True, True
    edges = readings.own_edges[groups[0]]
    ends = set(edges.values.tolist())
    if high not in ends or (low is not None and low not in ends) or low == high:
        return True, True
    if edges.closed == "left":
        return True, high == edges.high
    return low == edges.low, True
