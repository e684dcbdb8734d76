"""A rod with grips that set one number: what hands and keys do is the same for all of them."""

from typing import Generic, TypeVar

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent

from rhabdos.app.rods.ruler import OnRod
from rhabdos.scene.coordinates import Frame

Part = TypeVar("Part")
"""The part of the recipe that a hand changes."""

_STEPS = {Qt.Key.Key_Up: 1, Qt.Key.Key_Right: 1, Qt.Key.Key_Down: -1, Qt.Key.Key_Left: -1}


class OnGrips(OnRod, Generic[Part]):
    """Takes hold of a grip, drags it in the frame that it was taken in, and lets go.

    Each kind says which grip is near a place, what dragging and stepping make of the recipe, and
    what such a step is called.
    """

    _taken: object | None = None
    """The grip that is held."""
    _hover: object | None = None
    """The grip under the pointer."""
    _held_frame: Frame | None = None

    def grip_near(self, place: QPointF) -> object | None:
        """The grip at a place of the rod, if one is there."""
        raise NotImplementedError

    def dragged_to(self, along: float, frame: Frame) -> Part | None:
        """The part with the held grip at a place; None where nothing follows from it."""
        raise NotImplementedError

    def stepped(self, steps: int) -> Part | None:
        """The part a little wider, or narrower for negative steps; None where nothing follows."""
        raise NotImplementedError

    def step_name(self, part: Part) -> str:
        """What the step to a part is called."""
        raise NotImplementedError

    @property
    def in_hand(self) -> bool:
        return self._taken is not None

    # By mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton or not self._frame:
            return
        self._taken = self.grip_near(self.at(event))
        if self._taken is not None:
            self._held_frame, self._dragged = self._frame, False
            self.held.emit(True)
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self._frame:
            return
        place = self.at(event)
        if self._taken is None:
            self._hover = self.grip_near(place)
            over = self._hover is not None
            self.setCursor(self.along_cursor if over else Qt.CursorShape.ArrowCursor)
            self.update()
            return
        self._dragged = True
        assert self._held_frame
        if (part := self.dragged_to(place.x(), self._held_frame)) is not None:
            self.moved.emit(part)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._taken is None or self._held_frame is None:
            return
        part = self.dragged_to(self.at(event).x(), self._held_frame)
        self._taken = None
        self.held.emit(False)
        if self._dragged and part is not None:
            self._ask(part)
        self.update()

    def let_go(self) -> None:
        if self._taken is not None:
            self._taken = None
            self.held.emit(False)

    def leaveEvent(self, _event: object) -> None:
        self._hover = None
        self.update()

    # By keys

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self._readings is None:
            return
        if event.key() == Qt.Key.Key_Escape and self._taken is not None:
            self.let_go()
        elif event.key() in _STEPS:
            if (part := self.stepped(_STEPS[Qt.Key(event.key())])) is not None:
                self._ask(part)
        else:
            event.ignore()

    def set_to(self, value: float) -> None:
        """Set the one number, as a screen reader does."""
        if self._readings is not None and (part := self.with_value(value)) is not None:
            self._ask(part)

    def with_value(self, value: float) -> Part | None:
        """The part with another number; None where nothing follows from it."""
        raise NotImplementedError

    def _ask(self, part: Part) -> None:
        self.part_asked.emit(part, self.step_name(part))

    @property
    def _in_hand(self) -> bool:
        """Whether the words under the rod are due."""
        return self.hasFocus() or self._hover is not None or self._taken is not None
