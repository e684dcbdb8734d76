"""Bins: their edges, and how many values lie between them."""

import math
from collections.abc import Callable
from decimal import Decimal
from typing import Literal

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.errors import Refusal
from rhabdos.stats.axis_scale import AxisScale
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.rounding import (
    exponent_of,
    multiple_below,
    nearest_round_step,
    power_of_ten,
    sequence,
)
from rhabdos.wording import about, exact

Side = Literal["left", "right"]

MOST_BINS = 10_000  # that are made at all: more than a page has pixels
_MOST_TOLD = 1e12  # bins, past which a sentence says only that they are too many
_MOST_HALVED = 2.0**50  # up to which whole numbers have halves between them


class BinningError(Refusal):
    """The bins that were asked for cannot be made."""


class StartsTooHighError(BinningError):
    """Bins start above every value; ``written`` says where, as values of a column are written."""

    def __init__(self, start: float, high: float, written: Callable[[float], str] = exact) -> None:
        super().__init__(
            f"Bins that start at {written(start)} would hold no values: the largest is "
            f"{written(high)}. Choose a lower start."
        )
        self.start, self.high = start, high

    def told(self, written: Callable[[float], str]) -> "StartsTooHighError":
        """The same, with its values written in another way."""
        return StartsTooHighError(self.start, self.high, written)


class Edges(Struct, frozen=True, eq=False):
    """Edges of k bins.

    Attributes
    ----------
    values : array, shape (k + 1,)
        Strictly increasing, in the variable's unit.
    closed : {"left", "right"}
        The side on which a bin includes its edge. The outermost bin includes both.
    width : float or None
        The common width, or None where the bins are unequal.
    every : str
        The step of the calendar that each bin is, or nothing.
    along : AxisScale or None
        On which the bins are equal, if not in values; each is ``step`` wide there.
    """

    values: FloatArray
    closed: Side = "left"
    width: float | None = None
    every: str = ""
    along: AxisScale | None = None
    step: float = 0.0

    @property
    def equal(self) -> bool:
        """Whether heights by count can be compared: widths are equal, or steps of the calendar."""
        return self.width is not None or bool(self.every)

    @property
    def ratio(self) -> float | None:
        """By which each edge is the one before, where bins are equal in logs."""
        return 10**self.step if self.along is not None and self.along.log else None

    @property
    def centred(self) -> bool:
        """Whether each bin has a whole number in its middle, and no other."""
        return self.width == 1 and self.low % 1 == 0.5

    @property
    def count(self) -> int:
        """How many bins there are."""
        return len(self.values) - 1

    @property
    def widths(self) -> FloatArray:
        """Width of each bin, shape (k,)."""
        return self.values[1:] - self.values[:-1]

    @property
    def low(self) -> float:
        """Where the first bin begins."""
        return float(self.values[0])

    @property
    def high(self) -> float:
        """Where the last bin ends."""
        return float(self.values[-1])


def counts(sample: Ordered, edges: Edges) -> IntArray:
    """Count the values of a sample between successive edges.

    Parameters
    ----------
    sample : Ordered
        n sorted values.
    edges : Edges
        k bins.

    Returns
    -------
    array of int, shape (k,)
        Values outside the edges are in no bin.
    """
    if not sample.n:
        return np.zeros(edges.count, dtype=np.int64)
    below = sample.below(edges.values, inclusive=edges.closed == "right")
    # The outermost bin includes its outer edge too, which the rule for the others leaves out.
    if edges.closed == "left":
        below[-1] = (
            sample.below(edges.values[-1:], inclusive=True)[0]
            if edges.high < sample.maximum
            else sample.n
        )
    else:
        below[0] = sample.below(edges.values[:1])[0] if edges.low > sample.minimum else 0
    inside: IntArray = below[1:] - below[:-1]
    return inside


def own_edges(
    values: FloatArray, closed: Side = "left", written: Callable[[float], str] = "{:.15g}".format
) -> Edges:
    """Bins from a list of edges, equal or not.

    Parameters
    ----------
    values : array, shape (k + 1,)
        Rising, finite, in the values' unit.
    closed : {"left", "right"}
        Which end of a bin belongs to it; the outermost edges belong to the outermost bins.
    written : callable
        Writes an edge, for where they are refused.

    Raises
    ------
    BinningError
        Fewer than two edges, too many, an edge that is not finite, or edges that do not increase.
    """
    array = np.asarray(values, dtype=np.float64)
    if len(array) < 2:
        raise BinningError("Own edges need at least two numbers, such as 0, 5, 10.")
    if len(array) > MOST_BINS + 1:
        raise BinningError(
            f"{len(array) - 1:,} bins are more than a figure can show; at most {MOST_BINS:,} are "
            "drawn."
        )
    if not np.all(np.isfinite(array)):
        raise BinningError("Every edge must be a finite number.")
    falls = np.flatnonzero(np.diff(array) <= 0)
    if len(falls):
        first, second = array[falls[0]], array[falls[0] + 1]
        raise BinningError(
            f"Edges must increase, but {written(second)} comes after {written(first)}. Put them in "
            "rising order, each once."
        )
    _check_span(array[0], array[-1])
    widths = np.diff(array)
    equal = bool(
        np.all(
            np.abs(widths - widths[0])
            # Decimals that are typed, and what subtracting them rounds.
            <= 1e-9 * widths[0] + 2 * math.ulp(max(abs(array[0]), abs(array[-1])))
        )
    )
    # The width as people write it: the shortest decimal that gives the same bins.
    width = float(f"{(array[-1] - array[0]) / len(widths):.12g}") if equal else None
    return Edges(array, closed, width)


def by_width(
    sample: Ordered,
    width: float,
    start: float | None = None,
    closed: Side = "left",
    centred: bool = False,
) -> Edges:
    """Bins of one width, from ``start`` until the largest value is in a bin.

    Without a start the bins begin at the multiple of the width below the smallest value; where
    ``centred``, those of width 1 over whole numbers lie about these, from 1.5 to 2.5 for the 2.
    Whole-number data never share their last bin with its closed outer edge: every bin holds as many
    possible values.

    Parameters
    ----------
    sample : Ordered
        The values, in any unit.
    width : float
        Above 0, in that unit.
    start : float, optional
        The first edge.
    closed : {"left", "right"}
        Which end of a bin belongs to it.
    centred : bool
        Whether bins of width 1 lie about whole numbers.

    Raises
    ------
    BinningError
        A width that is not positive or too small, or a start above every value.
    """
    if not (math.isfinite(width) and width > 0):
        raise BinningError(f"A bin width must be a number above 0, not {exact(width)}.")
    low, high = sample.minimum, sample.maximum
    _check_span(low, high)
    _check_resolution(width, max(abs(low), abs(high)))
    if start is None and centred and width == 1 and _can_be_centred(sample):
        return Edges(_edges_to(low - 0.5, width, high, extra=False), closed, width)
    if start is None:
        first = multiple_below(low, width)
        if closed == "right" and first == low and sample.whole:
            first = multiple_below(low - width, width)
    else:
        first = start
        if not math.isfinite(start):
            raise BinningError(f"Bins must start at a finite number, not {start:g}.")
        if first > high:
            raise StartsTooHighError(start, high)
    return _held(
        Edges(_edges_to(first, width, high, extra=closed == "left" and sample.whole), closed, width)
    )


def _can_be_centred(sample: Ordered) -> bool:
    """Whether values are whole numbers small enough to have halves between them."""
    reach = max(abs(sample.minimum), abs(sample.maximum))
    return reach < _MOST_HALVED and sample.whole


def _edges_to(first: float, width: float, high: float, extra: bool) -> FloatArray:
    """Edges from ``first`` on until one reaches ``high``, or lies beyond it where ``extra``."""
    _check_span(first, high)
    needed = high / width - first / width
    if needed > MOST_BINS:
        least = nearest_round_step((high - first) / (MOST_BINS / 2))
        number = f"{needed:,.0f}" if needed < _MOST_TOLD else "far too many"
        raise BinningError(
            f"Bins {about(width, 6)} wide would be {number} in number; at most "
            f"{MOST_BINS:,} are drawn. Choose a width of {exact(least)} or more."
        )
    values = sequence(first, width, math.ceil(needed) + 3)
    count = max(1, int(values.searchsorted(high, "right" if extra else "left")))
    return values[: count + 1]


def by_count(
    sample: Ordered,
    count: int,
    start: float | None = None,
    closed: Side = "left",
    rounded: bool = True,
    centred: bool = False,
) -> Edges:
    """Exactly ``count`` bins of one width that hold every value from ``start`` on.

    With ``rounded`` the width and the start have few digits; otherwise the bins reach exactly from
    the smallest value (or the start) to the largest. Where ``centred``, those of width 1 lie about
    whole numbers.

    Parameters
    ----------
    sample : Ordered
        The values, in any unit.
    count : int
        From 1 to the most that are drawn.
    start : float, optional
        The first edge.
    closed : {"left", "right"}
        Which end of a bin belongs to it.
    rounded : bool
        Whether width and start have few digits.
    centred : bool
        Whether bins of width 1 lie about whole numbers.

    Raises
    ------
    BinningError
        A number of bins below 1 or above the most that are drawn, or a start above every value.
    """
    if not 1 <= count <= MOST_BINS:
        raise BinningError(f"The number of bins must be from 1 to {MOST_BINS:,}, not {count:,}.")
    low, high = sample.minimum, sample.maximum
    _check_span(low, high)
    if start is not None:
        # From the largest of several values on, nothing is left to divide.
        if not math.isfinite(start) or start > high or start == high != low:
            raise StartsTooHighError(start, high)
        low = start
    if low == high:
        return _of_one_value(low, count, start, closed)
    raw = (high / count) - (low / count)
    if not rounded:
        values = low + (high - low) * (np.arange(count + 1) / count)
        values[-1] = high
        return own_edges(values, closed) if count == 1 else _exact(values, closed)
    _check_resolution(raw, max(abs(low), abs(high)))
    may_be_centred = centred and start is None and _can_be_centred(sample)
    one_each = may_be_centred and high - low + 1 == count
    edges = None if one_each else _held(_roundest(sample, count, raw, start, closed))
    if edges is None or (may_be_centred and edges.width == 1):
        return Edges(sequence(low - 0.5, 1.0, count + 1), closed, 1.0)
    return edges


def _roundest(sample: Ordered, count: int, raw: float, start: float | None, closed: Side) -> Edges:
    """The bins with the fewest digits in their width that hold every value and leave the last bin
    in use."""
    low, high = sample.minimum if start is None else start, sample.maximum
    exponent = exponent_of(raw)
    for unit in (
        power_of_ten(exponent),
        float(f"5e{exponent - 1}"),
        power_of_ten(exponent - 1),
        power_of_ten(exponent - 2),
    ):
        if sample.whole and raw >= 1 and unit < 1:
            continue
        steps = math.ceil(raw / unit * (1 - 1e-12))  # 1.1 / 0.1 is above 11
        for width in (float(value) for value in sequence(0.0, unit, steps + 2)[steps:]):
            for first in (
                [multiple_below(low, width), multiple_below(low, unit)]
                if start is None
                else [start]
            ):
                values = sequence(first, width, count + 1)
                reaches = values[-1] > high or (
                    values[-1] == high and not (sample.whole and closed == "left")
                )
                if reaches and values[-2] <= high:
                    return Edges(values, closed, width)
    # Whole-number data may need more bins than there are numbers: then empty bins at the end are
    # what was asked for. Others are wider by a hair, so that rounding leaves the largest value in.
    width = 1.0 if sample.whole and raw <= 1 and low + count > high else raw * (1 + 1e-9)
    return Edges(sequence(low, width, count + 1), closed, width)


def _exact(values: FloatArray, closed: Side) -> Edges:
    if not np.all(np.isfinite(values)) or not np.isfinite(values[-1] / 2 - values[0] / 2):
        raise BinningError("The values lie too far apart for bins. Leave out the farthest ones.")
    if not np.all(np.diff(values) > 0):
        raise BinningError("The values lie too close together for that many bins. Choose fewer.")
    return Edges(values, closed, float(values[-1] - values[0]) / (len(values) - 1))


def around(sample: Ordered, closed: Side = "left") -> Edges:
    """One bin for values that are all the same, which they lie in the middle of."""
    return _of_one_value(sample.minimum, 1, None, closed)


def _of_one_value(value: float, count: int, start: float | None, closed: Side) -> Edges:
    """Bins about a value, or from it on, with a width that suits numbers of its size."""
    width = (
        power_of_ten(max(-300, exponent_of(abs(value)) - 1))
        if value and value != round(value)
        else 1.0
    )
    width = max(width, 8 * math.ulp(value))
    if (first := start) is None:
        first = float(Decimal(repr(value)) - Decimal(repr(width)) * count / 2)
    return _held(Edges(sequence(first, width, count + 1), closed, width))


def _held(edges: Edges) -> Edges:
    """The edges, if numbers can hold them and all that lies between."""
    if not math.isfinite(edges.high - edges.low):
        raise BinningError(
            "These bins run past the largest number a computer holds. Choose narrower ones."
        )
    return edges


def _check_span(low: float, high: float) -> None:
    if not math.isfinite(float(high) - float(low)) or not (
        math.isfinite(low) and math.isfinite(high)
    ):
        raise BinningError(
            f"Values from {about(low, 3)} to {about(high, 3)} are too far apart to divide into "
            "bins."
        )


def _check_resolution(width: float, reach: float) -> None:
    grain = math.ulp(reach)
    if width < grain or (width < 4 * grain and width % grain):
        raise BinningError(
            f"A width of {about(width, 3)} is finer than numbers near {about(reach, 3)} can be "
            "told apart. Choose a larger width."
        )
