"""What is drawn under words: lines, dots and fills, and grounds for words that they cross."""

from collections.abc import Sequence
from functools import cached_property

import numpy as np
from msgspec import structs

from rhabdos.arrays import BoolArray, FloatArray
from rhabdos.scene.marks import Area, Dots, Mark, Meaning, Path, Segments, Text
from rhabdos.scene.style.lettering import Measure
from rhabdos.scene.style.palette import readable
from rhabdos.scene.style.style import Style
from rhabdos.scene.words.label_places import Rect, rect_of

GROUND = "words-ground"
"""The part of the figure that paper under words is."""
_OPACITY = 0.85  # of the ground under words that stand on a form
_BESIDE = 1.0  # points of paper at either end of a word
_LOOKED_AT = 8, 5  # places along and down a rectangle, at which fills are looked for


class Cover:
    """The lines, dots and fills of some marks; hairlines of a grid are none of them.

    They are put together when they are first asked for.
    """

    def __init__(self, marks: Sequence[Mark]) -> None:
        self._marks = marks

    @cached_property
    def _fills(self) -> list[FloatArray]:
        """Outlines, of shape (n, 2) each."""
        return [
            mark.points
            for mark in self._marks
            if isinstance(mark, Area) and len(mark.points) > 2 and mark.meaning.part != "panel"
        ]

    @cached_property
    def _lines(self) -> FloatArray:
        """Straight pieces, shape (n, 4); those of outlines too."""
        lines = [np.hstack([fill, np.roll(fill, -1, axis=0)]) for fill in self._fills]
        for mark in self._marks:
            if isinstance(mark, Path) and len(mark.points) > 1:
                lines.append(np.hstack([mark.points[:-1], mark.points[1:]]))
            elif isinstance(mark, Segments) and mark.meaning is not None:
                lines.append(mark.lines)
        return np.concatenate(lines) if lines else np.empty((0, 4))

    @cached_property
    def _dots(self) -> FloatArray:
        """Places and half a size, shape (n, 3)."""
        dots = [
            np.hstack([mark.places, np.full((len(mark.places), 1), mark.size / 2)])
            for mark in self._marks
            if isinstance(mark, Dots)
        ]
        return np.concatenate(dots) if dots else np.empty((0, 3))

    def crosses(self, rect: Rect) -> bool:
        """Whether a line or a dot lies in a rectangle."""
        x, y, half = self._dots.T
        near = (x + half > rect.left) & (x - half < rect.right)
        if bool(np.any(near & (y + half > rect.top) & (y - half < rect.bottom))):
            return True
        return bool(np.any(_crossing(self._lines, rect)))

    def hatched(self, rect: Rect) -> bool:
        """Whether the hatching of a fill runs through a rectangle."""
        x, y = (rect.left + rect.right) / 2, (rect.top + rect.bottom) / 2
        return any(
            isinstance(mark, Area) and mark.hatch and holds(mark.points, x, y)
            for mark in self._marks
        )

    def lies_under(self, rect: Rect) -> float:
        """How much of a rectangle lines, dots and fills take: 0 for nothing, more for more."""
        across, down = _LOOKED_AT
        places = [
            (x, y)
            for x in np.linspace(rect.left, rect.right, across).tolist()
            for y in np.linspace(rect.top, rect.bottom, down).tolist()
        ]
        filled = sum(any(holds(fill, x, y) for fill in self._fills) for x, y in places)
        return filled + int(_crossing(self._lines, rect).sum()) + 2.0 * self.crosses(rect)

    def free(self, rect: Rect) -> bool:
        """Whether nothing at all lies in a rectangle."""
        if self.crosses(rect):
            return False
        x, y = (rect.left + rect.right) / 2, (rect.top + rect.bottom) / 2
        return not any(holds(fill, x, y) for fill in self._fills)


def _crossing(lines: FloatArray, rect: Rect) -> BoolArray:
    """Which straight lines of shape (n, 4) pass through a rectangle, shape (n,)."""
    x1, y1, x2, y2 = lines.T
    near: BoolArray = (np.minimum(x1, x2) < rect.right) & (np.maximum(x1, x2) > rect.left)
    near &= (np.minimum(y1, y2) < rect.bottom) & (np.maximum(y1, y2) > rect.top)
    chosen = np.flatnonzero(near)
    if not len(chosen):
        return near
    x1, y1, x2, y2 = lines[chosen].T
    sides = [
        (x2 - x1) * (y - y1) - (y2 - y1) * (x - x1)
        for x in (rect.left, rect.right)
        for y in (rect.top, rect.bottom)
    ]
    near[chosen] = (np.max(sides, axis=0) >= 0) & (np.min(sides, axis=0) <= 0)
    return near


def holds(outline: FloatArray, x: float, y: float) -> bool:
    """Whether a place lies within an outline.

    It is counted how often the outline turns around the place; none is outside.

    Parameters
    ----------
    outline : array, shape (n, 2)
        Its corners, in the unit of a scene.
    x, y : float
        The place, in the same unit.
    """
    (x1, y1), (x2, y2) = outline.T, np.roll(outline, -1, axis=0).T
    upward = (y1 <= y) & (y2 > y)
    downward = (y1 > y) & (y2 <= y)
    side = (x2 - x1) * (y - y1) - (x - x1) * (y2 - y1)
    return bool((upward & (side > 0)).sum() != (downward & (side < 0)).sum())


def grounded(words: Sequence[Text], cover: Cover, measure: Measure, style: Style) -> list[Mark]:
    """Words, each on paper of its own where a line or a dot would strike through it."""
    marks: list[Mark] = []
    for word in words:
        rect = rect_of(word, measure)
        if cover.crosses(rect) or cover.hatched(rect):
            marks.append(ground_of(rect, style))
            colour = readable(word.colour, style.ground or style.paper, style.ink)
            word = structs.replace(word, colour=colour)
        marks.append(word)
    return marks


def ground_of(rect: Rect, style: Style) -> Mark:
    """Paper under a word."""
    left, right = rect.left - _BESIDE, rect.right + _BESIDE
    corners = [[left, rect.top], [right, rect.top], [right, rect.bottom], [left, rect.bottom]]
    paper = style.ground or style.paper
    return Area(np.array(corners), paper, _OPACITY, Meaning(GROUND))
