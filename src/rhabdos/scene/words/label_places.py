"""Names beside dots, placed so that none lies over another, over a dot, or over a box."""

import math
from collections.abc import Sequence

from msgspec import Struct

from rhabdos.scene.marks import Meaning, Text
from rhabdos.scene.style.lettering import Measure, face_of, shortened
from rhabdos.scene.style.style import Style

SIZE = 7.0  # points
_ASCENT, _DESCENT = 0.74, 0.22  # of its size, by which a text reaches over and under its base line
_GAP = 1.8  # points from a dot to its name
_LONGEST = 80.0  # points of a name beside a dot


class Rect(Struct, frozen=True):
    """A rectangle on the page."""

    left: float
    top: float
    right: float
    bottom: float

    def meets(self, other: "Rect") -> bool:
        """Whether two rectangles share more than an edge."""
        return (
            self.left < other.right
            and other.left < self.right
            and self.top < other.bottom
            and other.top < self.bottom
        )

    def away(self, x: float, y: float) -> float:
        """How far a place lies from it; 0 within."""
        beside = max(self.left - x, x - self.right, 0.0)
        over = max(self.top - y, y - self.bottom, 0.0)
        return math.hypot(beside, over)

    def within(self, other: "Rect") -> bool:
        """Whether it lies in another one as a whole."""
        return (
            self.left >= other.left
            and self.right <= other.right
            and self.top >= other.top
            and self.bottom <= other.bottom
        )


def rect_of(text: Text, measure: Measure) -> Rect:
    """The rectangle that a text takes on its page; one that is turned stands."""
    wide = measure(text.text, text.size, face_of(text.bold, text.slant))
    before = {"start": 0.0, "middle": 0.5, "end": 1.0}[text.anchor] * wide
    over, under = _ASCENT * text.size, _DESCENT * text.size
    if text.angle not in (0.0, 90.0):
        return _slanting(text, wide, before, over, under)
    if text.angle:
        return Rect(text.x - over, text.y - wide + before, text.x + under, text.y + before)
    return Rect(text.x - before, text.y - over, text.x - before + wide, text.y + under)


def _slanting(text: Text, wide: float, before: float, over: float, under: float) -> Rect:
    """The rectangle around a text that lies aslant."""
    turn = math.radians(text.angle)
    cos, sin = math.cos(turn), math.sin(turn)
    corners = [(a, b) for a in (-before, wide - before) for b in (-over, under)]
    xs = [text.x + a * cos + b * sin for a, b in corners]
    ys = [text.y - a * sin + b * cos for a, b in corners]
    return Rect(min(xs), min(ys), max(xs), max(ys))


def placed_names(
    dots: Sequence[tuple[float, float, str]],
    radius: float,
    taken: Sequence[Rect],
    room: Rect,
    meaning: Meaning,
    measure: Measure,
    style: Style,
    points: float | None = None,
) -> list[Text]:
    """Write names beside dots, the first ones first, each nearer to its own than to any other; one
    that finds no room gives way.

    Parameters
    ----------
    dots : sequence of (x, y, name)
        On the page; those without a name only take room.
    radius : float
        Of a dot.
    taken : sequence of Rect
        Where no name may lie.
    room : Rect
        Which no name may leave.
    points : float, optional
        The size of their letters on paper.
    """
    size = SIZE if points is None else points / style.letters
    busy = [*taken, *(Rect(x - radius, y - radius, x + radius, y + radius) for x, y, _ in dots)]
    texts: list[Text] = []
    for x, y, name in dots:
        if not name:
            continue
        shown = shortened(name, _LONGEST * size / SIZE, size, False, measure)
        wide = measure(shown, size, False)
        for left, base in _candidates(x, y, wide, radius, size):
            rect = Rect(left, base - _ASCENT * size, left + wide, base + _DESCENT * size)
            others = [(a, b) for a, b, _ in dots if (a, b) != (x, y)]
            if not rect.within(room) or any(rect.meets(other) for other in busy):
                continue
            if rect.away(x, y) < min((rect.away(*other) for other in others), default=math.inf):
                busy.append(rect)
                texts.append(Text(left, base, shown, size, "start", style.ink, meaning))
                break
    return texts


def _candidates(
    x: float, y: float, wide: float, radius: float, size: float
) -> list[tuple[float, float]]:
    """Left end and base line of a name: right of its dot, left of it, above and below."""
    level = y + 0.26 * size
    over, under = y - radius - _GAP / 2 - _DESCENT * size, y + radius + _GAP / 2 + _ASCENT * size
    right, left = x + radius + _GAP, x - radius - _GAP - wide
    return [
        (right, level),
        (left, level),
        (x - wide / 2, over),
        (x - wide / 2, under),
        (right, over),
        (right, under),
        (left, over),
        (left, under),
    ]
