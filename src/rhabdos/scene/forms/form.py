"""What every form answers."""

from collections.abc import Callable, Sequence

from msgspec import Struct

from rhabdos.figure.readings import Readings
from rhabdos.scene.marks import Frame, Mark

Layers = tuple[list[Mark], list[Mark]]
"""Fills and lines: the lines of all groups lie above all fills, so that no fill dulls a line."""


class HeightsForm(Struct, frozen=True):
    """A form that is drawn on an axis of heights.

    Attributes
    ----------
    reach : callable
        The stretch of the value axis that it needs, or None where it draws nothing.
    tallest : callable
        Its greatest height.
    layers : callable
        Its marks in a frame, with a colour for each group.
    """

    reach: Callable[[Readings], tuple[float, float] | None]
    tallest: Callable[[Readings], float]
    layers: Callable[[Readings, Frame, Sequence[str]], Layers]
