"""What a hand holds of the figure, between pressing the mouse and letting go."""

from typing import Literal

from msgspec import Struct
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent

from rhabdos.figure.edits.stops import Towards
from rhabdos.figure.edits.typed_words import PARTS
from rhabdos.scene.marks import Meaning, Scene

What = Literal["words", "level", "part", "range", "margin", "paper"]


class Held(Struct, frozen=True):
    """What the mouse was pressed on, and where.

    Attributes
    ----------
    what : str
        Words, which are typed or moved; a level, which is clicked or moved; a part within a frame
        or in the margin, which is clicked, or begins a range; an end of a range; or the bare paper.
    more : bool
        With Ctrl or Shift: what is clicked is added, and from a text an arrow is drawn.
    moving : bool
        Whether a text has left its place already.
    middle : QPointF, optional
        Of a text that is moved, on the page, when it was taken.
    marks : bool
        Whether it marks a range already.
    """

    what: What
    place: QPointF
    meaning: Meaning | None
    more: bool
    moving: bool = False
    middle: QPointF | None = None
    marks: bool = False

    @property
    def follows(self) -> bool:
        """Whether something follows the hand that stays where it was if this is given up."""
        return self.moving or self.what == "range"

    @property
    def moves_text(self) -> bool:
        """Whether it is a text that stands in the figure."""
        return self.what == "words" and self.meaning is not None and self.meaning.part == "text"


def cursor_over(meaning: Meaning | None, inside: bool) -> Qt.CursorShape:
    """What a hand could do at a place: type, click, or take the paper away."""
    if meaning is not None and meaning.part in PARTS:
        return Qt.CursorShape.IBeamCursor
    if inside:
        return Qt.CursorShape.ArrowCursor
    return Qt.CursorShape.PointingHandCursor if meaning else Qt.CursorShape.OpenHandCursor


def adds_to(event: QMouseEvent) -> bool:
    """Whether a click adds to what is brought forward."""
    keys = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    return bool(event.modifiers() & keys)


def middle_of(held: Held, scene: Scene | None, scale: float) -> QPointF | None:
    """The middle of the words that were taken, on the page."""
    at = held.place / scale
    zones = scene.zones if scene else ()
    taken = [z for z in zones if z.meaning == held.meaning and z.holds(at.x(), at.y())]
    rects = [QRectF(QPointF(z.left, z.top), QPointF(z.right, z.bottom)) for z in taken]
    return rects[0].center() if rects else None


STEPS: dict[int, Towards] = {
    Qt.Key.Key_Right: "next",
    Qt.Key.Key_Left: "before",
    Qt.Key.Key_Home: "first",
    Qt.Key.Key_End: "last",
    Qt.Key.Key_Up: "row above",
    Qt.Key.Key_Down: "row below",
}
"""Which way keys lead from part to part of the figure."""
