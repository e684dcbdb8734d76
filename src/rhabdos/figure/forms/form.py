"""What the file of every form answers."""

import math
from collections.abc import Callable, Sequence
from typing import Any

from msgspec import Struct

from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.words.notice import Notice
from rhabdos.figure.words.tooltip import Card


def _no_notices(_readings: Readings) -> tuple[Notice | None, ...]:
    return ()


def _no_numbers(_readings: Readings) -> dict[str, Any]:
    return {}


def _no_stops(_readings: Readings, _groups: Sequence[int]) -> tuple[float, ...]:
    return ()


def _here(_readings: Readings, _groups: Sequence[int], value: float) -> tuple[float, float]:
    return value, value


def _everywhere(_readings: Readings, _groups: Sequence[int]) -> tuple[float, float]:
    return -math.inf, math.inf


class FigureForm(Struct, frozen=True):
    """What a form says beside its drawing.

    Each is told of which groups: those of a panel that are read together, or one of them alone.

    Attributes
    ----------
    card : callable
        What it says at a value, and which of the groups is pointed at, if one is.
    stops : callable
        The values at which a reader stops who steps through it by keys; none where groups are the
        steps.
    span, reach : callable
        From which value to which the part at a value reaches, and the whole form.
    notices, numbers : callable
        Its notices, and its tables among the numbers.
    """

    card: Callable[[Readings, Sequence[int], int | None, float], Card]
    stops: Callable[[Readings, Sequence[int]], tuple[float, ...]] = _no_stops
    span: Callable[[Readings, Sequence[int], float], tuple[float, float]] = _here
    reach: Callable[[Readings, Sequence[int]], tuple[float, float]] = _everywhere
    notices: Callable[[Readings], tuple[Notice | None, ...]] = _no_notices
    numbers: Callable[[Readings], dict[str, Any]] = _no_numbers
