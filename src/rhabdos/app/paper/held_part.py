"""What a hand holds of the figure, between pressing the mouse and letting go."""

from typing import Literal

from msgspec import Struct
from PyQt6.QtCore import QPointF

from rhabdos.scene.marks import Meaning

What = Literal["words", "level", "part", "margin", "paper"]


class Held(Struct, frozen=True):
    """What the mouse was pressed on, and where.

    Attributes
    ----------
    what : str
        Words, which are typed or moved; a level, which is clicked or moved; a part within a frame
        or in the margin, which is clicked, or begins a range; or the bare paper.
    more : bool
        With Ctrl or Shift: what is clicked is added, and from a text an arrow is drawn.
    moving : bool
        Whether a text has left its place already.
    middle : QPointF, optional
        Of a text that is moved, on the page, when it was taken.
    """

    what: What
    place: QPointF
    meaning: Meaning | None
    more: bool
    moving: bool = False
    middle: QPointF | None = None

    @property
    def moves_text(self) -> bool:
        """Whether it is a text that stands in the figure."""
        return self.what == "words" and self.meaning is not None and self.meaning.part == "text"
