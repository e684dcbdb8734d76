"""Ticks of axes on which equal steps are not equal differences: of logs, roots, and logs to both
sides of 0."""

import math
import sys
from collections.abc import Callable, Iterable, Sequence

from rhabdos.scene.axes.ticks import USUAL, Ticks, Writing, label, ticks, ticks_at
from rhabdos.stats.axis_scale import AxisScale
from rhabdos.stats.rounding import exponent_of, multiple_below, round_steps, sequence

_FEW = 3  # ticks that such an axis has at least, if round places of its own are to do
# Of each decade, that get labels where they have room.
_DIGITS = ((1, 2, 3, 4, 5, 6, 7, 8, 9), (1, 2, 5), (1, 3), (1,))
_MOST = 12  # ticks of an axis
_SLACK = 1e-9  # of the axis, by which a tick may lie beyond its end
_Fits = Callable[[Ticks, float], bool]


def ticks_along(axis: AxisScale, low: float, high: float, fits: _Fits, writing: Writing) -> Ticks:
    """The closest round ticks whose labels still fit.

    Parameters
    ----------
    axis : AxisScale
        What is even along the axis; not values themselves.
    low, high : float
        Its ends, in the variable's unit.
    fits : callable
        Told the ticks; says whether the labels have room.
    """
    if axis.log:
        return log_ticks(low, high, fits, writing)
    if axis.kind == "root":
        return root_ticks(low, high, fits, writing)
    return arsinh_ticks(axis.near, low, high, fits, writing)


def root_ticks(low: float, high: float, fits: _Fits, writing: Writing = USUAL) -> Ticks:
    """Squares of round numbers, which lie at even distances: 0, 100, 400, 900; those of an axis
    that spans less are as of any other."""
    first, last = math.sqrt(low), math.sqrt(high)
    if last <= 2 * first:  # squares there are not round
        return ticks(low, high, fits, False, writing)
    span = last - first
    for step in round_steps(span / _MOST / 1.01, span * 10):
        if f"{step:e}".startswith("2.5"):
            continue
        count = int(span / step) + 2
        roots = sequence(multiple_below(first, step), step, count)
        inside = ticks_at(_within((roots * roots).tolist(), low, high), writing)
        if len(inside.places) >= _FEW and fits(inside, 0.0):
            return inside
    return ticks(low, high, fits, False, writing)


def arsinh_ticks(
    near: float, low: float, high: float, fits: _Fits, writing: Writing = USUAL
) -> Ticks:
    """0, and to both sides of it powers of ten with their multiples, from where the axis begins to
    be one of logs; those of an axis that spans less are as of any other."""
    most = max(abs(low), abs(high))
    if most <= 2 * near or ((low > 0 or high < 0) and max(low, -high) * 4 > most):
        return ticks(low, high, fits, False, writing)
    first, last = math.floor(math.log10(near)), math.ceil(math.log10(most))
    for digits in _DIGITS:
        inside = _to_both_sides(_multiples(digits, range(first, last + 1)), low, high, writing)
        if len(inside.places) >= _FEW and fits(inside, 0.0):
            return inside
    for every in range(2, max(3, last - first + 1)):
        places = _multiples((1,), range(first + 1, last + 1, every))
        inside = _to_both_sides(places, low, high, writing)
        if len(inside.places) >= _FEW and fits(inside, 0.0):
            return inside
    return ticks(low, high, fits, False, writing)


def _to_both_sides(places: Sequence[float], low: float, high: float, writing: Writing) -> Ticks:
    both = [*(-place for place in reversed(places)), 0.0, *places]
    return _in_decades(_within(both, low, high), writing)


def _multiples(digits: Iterable[int], decades: Iterable[int]) -> list[float]:
    return [float(f"{digit}e{decade}") for decade in decades for digit in digits]


def _within(places: Iterable[float], low: float, high: float) -> list[float]:
    slack = _SLACK * max(abs(low), abs(high))
    return [place for place in places if low - slack <= place <= high + slack]


def log_ticks(low: float, high: float, fits: _Fits, writing: Writing = USUAL) -> Ticks:
    """The closest round ticks of a log axis whose labels still fit: within decades, at each of
    them, or at every so manieth; those of an axis that spans less are as of any other."""
    first, last = math.floor(math.log10(low)), math.ceil(math.log10(high))
    slack = 1e-9  # a decade at an end is a tick, though its logarithm is rounded
    within = low * (1 - slack), min(high * (1 + slack), sys.float_info.max)
    for digits in _DIGITS:
        places = _multiples(digits, range(first, last + 1))
        places = [place for place in places if within[0] <= place <= within[1]]
        inside = _in_decades(places, writing)
        if len(places) >= _FEW and fits(inside, 0.0):
            return inside
    for every in range(2, max(3, last - first + 1)):
        places = [float(f"1e{decade}") for decade in range(first, last + 1) if decade % every == 0]
        places = [place for place in places if within[0] <= place <= within[1]]
        inside = _in_decades(places, writing)
        if len(places) >= _FEW and fits(inside, 0.0):
            return inside
    return ticks(low, high, fits, False, writing)


def _in_decades(places: Sequence[float], writing: Writing) -> Ticks:
    """Each with the decimals that it needs by itself: 0.1, 1, 10."""
    reach = max((max(abs(place), 1 / abs(place)) for place in places if place), default=1.0)
    far = reach >= 1e5
    texts = (
        label(place, 10.0 ** exponent_of(abs(place) or 1.0), 1e9 if far else 1.0, writing)
        for place in places
    )
    # A power of ten alone needs no "1 ×" before it.
    alone = (text.removeprefix("1×").replace("−1×", "−") for text in texts)
    return Ticks(tuple(places), tuple(alone))
