"""Round numbers: steps of 1, 2, 2.5 and 5 times a power of ten, and sequences that stay round."""

import math
from decimal import Decimal

import numpy as np

from rhabdos.arrays import FloatArray

STEPS = (1.0, 2.0, 2.5, 5.0)
_EXACT = 2**53  # up to here doubles hold every whole number
_MOST_PLACES = 22  # decimal places up to which a power of ten is exact


def power_of_ten(exponent: int) -> float:
    """The double nearest to 10 ** exponent; 0 or infinity beyond the range of doubles."""
    return float(f"1e{exponent}")


def exponent_of(value: float) -> int:
    """The power of ten that the first digit of a positive, finite value stands for."""
    return int(f"{value:e}".partition("e")[2])


def round_steps(low: float, high: float, whole: bool = False) -> list[float]:
    """The round steps from ``low`` to ``high``, ascending; only whole numbers if ``whole``.

    Parameters
    ----------
    low, high : float
        Above 0.
    whole : bool
        Whether only whole numbers are wanted.
    """
    steps = []
    for exponent in range(exponent_of(low), exponent_of(high) + 1):
        for digit in STEPS:
            step = float(f"{digit}e{exponent}")
            if low <= step <= high and not (whole and step != math.floor(step)):
                steps.append(step)
    return steps


def nearest_round_step(value: float, whole: bool = False) -> float:
    """The round step nearest to a positive value in ratio; at least 1 if ``whole``."""
    if whole:
        value = max(value, 1.0)
    steps = round_steps(value / 3, min(value * 3, 1.7e308), whole) or [value]
    return min(steps, key=lambda step: abs(math.log(step / value)))


def sequence(start: float, step: float, count: int) -> FloatArray:
    """start, start + step, … (``count`` values), each the double nearest to the exact decimal sum.

    Adding 0.1 over and over drifts to 40.300000000000004, and a value of 40.3 then lies on the
    wrong side of its edge. Here the sum is made in whole numbers of the last decimal place and
    divided once.

    Parameters
    ----------
    start, step : float
        As they are written in decimals; the step above 0.
    count : int
        How many values, at least 1.
    """
    places = (
        max(_places(start), _places(step))
        if math.isfinite(start) and math.isfinite(step)
        else _MOST_PLACES + 1
    )
    if places <= _MOST_PLACES:
        scale = 10**places
        first, jump = round(Decimal(repr(start)) * scale), round(Decimal(repr(step)) * scale)
        if abs(first) + abs(jump) * count < _EXACT and scale < _EXACT:
            return np.asarray(
                (first + jump * np.arange(count, dtype=np.int64)) / float(scale), dtype=np.float64
            )
    with np.errstate(over="ignore", invalid="ignore"):  # the caller sees the infinity
        return np.asarray(start + step * np.arange(count), dtype=np.float64)


def multiple_below(value: float, step: float) -> float:
    """The largest multiple of ``step`` that is not above ``value``, as an exact decimal.

    Where numbers of the value's size are further apart than the steps, it is a multiple as good as
    any.

    Parameters
    ----------
    value : float
        Finite.
    step : float
        Above 0.
    """
    if abs(value) >= _EXACT * step:
        return value
    times = math.floor(value / step)
    for candidate in (times + 1, times, times - 1):
        multiple = float(sequence(0.0, step, 1)[0]) if candidate == 0 else _times(step, candidate)
        if multiple <= value:
            return multiple
    return _times(step, times)


def _times(step: float, count: int) -> float:
    return float(Decimal(repr(step)) * count)


def _places(value: float) -> int:
    """Number of decimal places in the shortest text of a value."""
    exponent = Decimal(repr(value)).normalize().as_tuple().exponent
    return max(0, -int(exponent))
