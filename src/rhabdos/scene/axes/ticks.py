"""Ticks of an axis: round places, and the words beside them."""

import itertools
import math
from collections.abc import Callable, Sequence
from functools import lru_cache

from msgspec import Struct

from rhabdos.figure.recipe.recipe_axes import Axis
from rhabdos.stats.rounding import (
    exponent_of,
    multiple_below,
    nearest_round_step,
    round_steps,
    sequence,
)
from rhabdos.wording import marked

_MOST = 12  # ticks of an axis


class Writing(Struct, frozen=True):
    """How the numbers of an axis are written.

    Attributes
    ----------
    decimals : int, optional
        By default as many as the ticks need.
    numbers : {"plain", "powers", "percent"}, optional
        By default powers of ten far from 1, and else plain.
    percents : bool
        Whether the numbers are percents already, and not shares of 1.
    """

    decimals: int | None = None
    thousands: str = ","
    decimal: str = "."
    numbers: str | None = None
    percents: bool = False

    def marked(self, plain: str) -> str:
        """A number with this writing's own marks, and a true minus sign."""
        return marked(plain, self.thousands, self.decimal).replace("-", "−")


USUAL = Writing()


def writing_of(axis: Axis, percents: bool = False, marks: tuple[str, str] | None = None) -> Writing:
    """How a recipe asks for the numbers of an axis, which may be ``percents`` already; with other
    ``marks`` than its own for thousands and decimals."""
    return Writing(axis.decimals, *(marks or axis.marks), axis.numbers, percents)


class Ticks(Struct, frozen=True):
    """Places along an axis and their labels, in rising order."""

    places: tuple[float, ...]
    labels: tuple[str, ...]


def ticks(
    low: float,
    high: float,
    fits: Callable[[Ticks, float], bool],
    whole: bool = False,
    writing: Writing = USUAL,
) -> Ticks:
    """The closest round ticks from ``low`` to ``high`` whose labels still fit.

    Parameters
    ----------
    fits : callable
        Told the ticks and their step; says whether the labels have room.
    whole : bool
        Only whole numbers.
    """
    span = high - low
    for step in round_steps(span / _MOST / 1.01, min(span * 10, 1.7e308), whole):
        candidates = ticks_by(low, high, step, writing)
        if candidates.places and fits(candidates, step):
            return candidates
    return ticks_by(low, high, nearest_round_step(span, whole), writing)


@lru_cache(maxsize=512)  # mostly the same at the next step of a hand
def ticks_by(low: float, high: float, step: float, writing: Writing = USUAL) -> Ticks:
    """Ticks at the multiples of a step from ``low`` to ``high``; kept, since an axis mostly stands
    still."""
    first = multiple_below(low, step)
    if not math.isfinite(first):  # the range of numbers ends between it and the axis
        first = math.ceil(low / step) * step
    # One more than there are, so that none is lost to rounding; those beyond are left out after.
    count = math.floor((high / step - first / step) * (1 + 1e-12)) + 2
    slack = step * 1e-9  # a multiple of 0.1 may lie beyond the end by its last digit
    places = tuple(
        float(v)
        for v in sequence(first, step, count)
        if low - slack <= v <= high + slack and math.isfinite(v)
    )
    reach = max(abs(low), abs(high))
    return Ticks(places, _labels(places, step, reach, writing))


def _labels(
    places: Sequence[float], step: float, reach: float, writing: Writing
) -> tuple[str, ...]:
    """The labels of ticks, all with as many decimals before a power of ten."""
    texts = tuple(label(place, step, reach, writing) for place in places)
    if writing.decimals is not None or not any("×" in text for text in texts):
        return texts
    mark = writing.decimal
    most = max(len(text.partition("×")[0].partition(mark)[2]) for text in texts)
    return tuple(_padded(text, most, mark) for text in texts)


def _padded(text: str, decimals: int, mark: str) -> str:
    """A label with a power of ten, with so many decimals before that."""
    digits, times, power = text.partition("×")
    whole, _, after = digits.partition(mark)
    if not times or len(after) == decimals:
        return text
    return f"{whole}{mark}{after:0<{decimals}}{times}{power}"


def ticks_at(places: Sequence[float], writing: Writing = USUAL, apart: bool = False) -> Ticks:
    """Ticks at places of any distance, all with the decimals that the most exact one needs; with no
    more than tell them ``apart`` where they were worked out, and not typed."""
    if not places:
        return Ticks((), ())
    digits = [f"{place:.10g}" for place in places]
    decimals = max(len(text.partition(".")[2]) if "e" not in text else 0 for text in digits)
    if apart and len(places) > 1:
        least = min(abs(b - a) for a, b in itertools.pairwise(places))
        decimals = min(decimals, max(0, 1 - exponent_of(least)))
    reach = max(abs(place) for place in places)
    step = 10.0**-decimals
    return Ticks(tuple(places), _labels(places, step, reach, writing))


def label(place: float, step: float, reach: float, writing: Writing = USUAL) -> str:
    """A tick's label, with the decimals its step needs; scientific far from 1."""
    place = place or 0.0  # which has no sign
    if place == 0 and (writing.decimals is None or writing.numbers == "powers"):
        return "0 %" if writing.numbers == "percent" else "0"
    if writing.numbers == "percent":
        shift = 0 if writing.percents else 2
        decimals = max(0, -exponent_of(step) + _second_digit(step) - shift)
        decimals = decimals if writing.decimals is None else writing.decimals
        return writing.marked(f"{10**shift * place:,.{decimals}f} %")
    powers = writing.numbers == "powers"
    # Longer numbers are told by a power of ten beside the axis.
    far = (reach >= 1e7 or reach < 1e-4) and writing.numbers is None
    if powers or (far and writing.decimals is None):
        digits = max(0, exponent_of(abs(place)) - exponent_of(step)) + 1 + _second_digit(step)
        if writing.decimals is not None:
            digits = writing.decimals + 1
        if digits <= 7 or powers:
            digit, _, exponent = f"{place:.{max(0, digits - 1)}e}".partition("e")
            if writing.decimals is None:
                digit = digit.rstrip("0").rstrip(".") if "." in digit else digit
            raised = str(int(exponent)).translate(str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹"))
            return writing.marked(f"{digit}×10{raised}")
    decimals = max(0, -exponent_of(step) + _second_digit(step))
    decimals = decimals if writing.decimals is None else writing.decimals
    return writing.marked(f"{place:,.{decimals}f}")


def _second_digit(step: float) -> int:
    return 1 if f"{step:e}".startswith("2.5") else 0
