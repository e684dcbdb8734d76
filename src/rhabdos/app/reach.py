"""The reach of the whiskers: two grips on the rod, to set by hand which values lie beyond."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from rhabdos.app.keys import REACH_HINT
from rhabdos.app.ruler import BAR_HEIGHT, OnRod, grain_of, paint_bar, paint_focus, paint_readout
from rhabdos.app.theme import theme
from rhabdos.figure import handling
from rhabdos.figure.forms.box import boxes
from rhabdos.figure.phrases.box import whiskers_phrase
from rhabdos.figure.recipe import Boxes
from rhabdos.figure.stops import Stop
from rhabdos.figure.wording import counted
from rhabdos.scene.plane import Frame
from rhabdos.stats.boxes import Box

_GRIP = 9.0  # pixels beside a grip within which it is still meant
_HALF, _HEIGHT = 5.0, 14.0
_BOX = 7.0  # half the thickness of the small box on the bar


class Reach(OnRod):
    """Shows the box that was pointed at last on the rod, with a grip at the end of each reach."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Rod: the reach of the whiskers", REACH_HINT, parent)
        self.group = 0
        self._held: bool | None = None
        """Whether the upper grip is held; None where neither is."""
        self._held_frame: Frame | None = None
        self._hover: bool | None = None

    # Where things are

    def point_at(self, stop: Stop | None) -> None:
        """Hold the reach of the box that is read."""
        if stop and stop.form == "box" and stop.group is not None and self._held is None:
            self.group = stop.group
            self.setAccessibleDescription(self.readout())
            self.update()

    @property
    def box(self) -> Box | None:
        """The box whose reach is held; None where there is none."""
        if self._readings is None:
            return None
        drawn = boxes(self._readings)
        chosen = drawn[self.group] if self.group < len(drawn) else None
        return chosen if chosen and chosen.n else next((box for box in drawn if box.n), None)

    @property
    def multiple(self) -> float | None:
        """The present multiple of the IQR; None where whiskers follow another rule."""
        asked = self._readings.recipe.box.whiskers if self._readings else None
        return float(asked) if isinstance(asked, int | float) else None

    def grip(self, upper: bool) -> float:
        """Pixel position of a grip: at the fence, or at the whisker's end by another rule."""
        box = self.box
        assert box
        assert self._frame
        multiple = self.multiple
        if multiple is None:
            value = box.whisker_high if upper else box.whisker_low
        else:
            away = multiple * (box.q3 - box.q1)
            value = box.q3 + away if upper else box.q1 - away
        value = min(max(value, self._frame.low), self._frame.high)
        return self._frame.along(value) * self._scale

    def readout(self) -> str:
        """The reach and what lies beyond it, in words."""
        box = self.box
        if self._readings is None or box is None:
            return ""
        label = self._readings.groups[self.group].label if self._readings.split else ""
        beyond = sum(tail.stop - tail.start for tail in box.tails)
        words = f"whiskers reach {whiskers_phrase(self._readings.recipe.box)}"
        told = counted(beyond, "value", "values")
        return f"{words} · {label + ': ' if label else ''}{told} beyond"

    def _near(self, place: QPointF) -> bool | None:
        if self.box is None or place.y() > BAR_HEIGHT:
            return None
        away = {upper: abs(place.x() - self.grip(upper)) for upper in (False, True)}
        nearest = min(away, key=lambda upper: away[upper])
        return nearest if away[nearest] <= _GRIP else None

    # By mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton or not self._frame:
            return
        self._held = self._near(self.at(event))
        if self._held is not None:
            self._held_frame, self._dragged = self._frame, False
            self.held.emit(True)
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self._frame:
            return
        place = self.at(event)
        if self._held is None:
            self._hover = self._near(place)
            over = self._hover is not None
            self.setCursor(self.along_cursor if over else Qt.CursorShape.ArrowCursor)
            self.update()
            return
        self._dragged = True
        if asked := self._dragged_to(place.x()):
            self.moved.emit(asked)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._held is None:
            return
        asked = self._dragged_to(self.at(event).x())
        self._held = None
        self.held.emit(False)
        if self._dragged and asked:
            self._ask(asked)
        self.update()

    def leaveEvent(self, _event: object) -> None:
        self._hover = None
        self.update()

    def _dragged_to(self, x: float) -> Boxes | None:
        box = self.box
        if box is None or self._held is None or not self._readings or not self._held_frame:
            return None
        value = self._held_frame.value(x / self._scale)
        grain = grain_of(self._held_frame, self._scale)
        multiple = handling.reach_dragged(box, value, self._held, grain)
        return None if multiple is None else self._readings.recipe.box.changed(whiskers=multiple)

    def _ask(self, asked: Boxes) -> None:
        self.asked.emit(asked, f"Whiskers to {whiskers_phrase(asked)}")

    # By keys

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self._readings is None:
            return
        steps = {Qt.Key.Key_Up: 1, Qt.Key.Key_Right: 1, Qt.Key.Key_Down: -1, Qt.Key.Key_Left: -1}
        if event.key() == Qt.Key.Key_Escape and self._held is not None:
            self._held = None
            self.held.emit(False)
        elif event.key() in steps:
            multiple = self.multiple if self.multiple is not None else 1.5
            stepped = handling.reach_stepped(multiple, steps[Qt.Key(event.key())])
            self._ask(self._readings.recipe.box.changed(whiskers=stepped))
        else:
            super().keyPressEvent(event)

    # Painting

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        if self._readings is None or self._frame is None:
            return
        painter = self.painter()
        paint_bar(painter, self, self._frame, self._scale)
        box = self.box
        if box is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_box(painter, box)
        if self.hasFocus():
            paint_focus(painter, self)
        if self.hasFocus() or self._hover is not None or self._held is not None:
            upper = self._held if self._held is not None else self._hover
            paint_readout(painter, self, self.readout(), self.grip(upper is not False))

    def _paint_box(self, painter: QPainter, box: Box) -> None:
        """The box without its whiskers, lines to how far they may reach, and the grips there."""
        assert self._frame
        brass, middle = QColor(theme().brass), BAR_HEIGHT / 2 - 2
        q1, q3 = (self._frame.along(value) * self._scale for value in (box.q1, box.q3))
        painter.setPen(QPen(brass, 1.2))
        painter.drawLine(QPointF(self.grip(False), middle), QPointF(q1, middle))
        painter.drawLine(QPointF(q3, middle), QPointF(self.grip(True), middle))
        fill = QColor(brass)
        fill.setAlphaF(0.25)
        painter.setBrush(fill)
        corners = ((q1, -_BOX), (q3, -_BOX), (q3, _BOX), (q1, _BOX))
        painter.drawPolygon(QPolygonF([QPointF(x, middle + dy) for x, dy in corners]))
        painter.setPen(Qt.PenStyle.NoPen)
        for upper in (False, True):
            chosen = upper in (self._held, self._hover)
            painter.setBrush(QColor("#FFFFFF") if chosen else brass)
            x, top = self.grip(upper), middle - _HEIGHT / 2
            shape = [(-_HALF, 0.0), (_HALF, 0.0), (_HALF, 9.0), (0.0, _HEIGHT), (-_HALF, 9.0)]
            painter.drawPolygon(QPolygonF([QPointF(x + dx, top + dy) for dx, dy in shape]))
