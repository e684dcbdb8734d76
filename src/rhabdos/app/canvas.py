"""The paper: the figure as it will be printed, and what lies under the pointer."""

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
)
from PyQt6.QtWidgets import QWidget

from rhabdos.app.reading_card import paint_card
from rhabdos.app.theme import theme
from rhabdos.figure.hover import Card, bin_card
from rhabdos.figure.readings import Readings
from rhabdos.figure.sentence import plain
from rhabdos.paint.painter import paint, painter_on
from rhabdos.scene.marks import Scene
from rhabdos.scene.palette import group_colours

_NEAR = 5.0  # pixels beside a line within which it is meant


class Canvas(QWidget):
    """Shows a scene scaled to its own width; reads bins on hovering or by arrow keys."""

    part_clicked = pyqtSignal(str)
    first_painted = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Figure")
        self.scene: Scene | None = None
        self._readings: Readings | None = None
        self._drawn: QPixmap | None = None
        self.bin: int | None = None
        self._pointer: QPointF | None = None
        self.hovering = True
        self.painted = False
        """Whether a figure has ever been painted."""

    @property
    def scale(self) -> float:
        """Pixels for a point of the page."""
        return self.width() / self.scene.width if self.scene else 1.0

    def show_scene(self, scene: Scene, readings: Readings) -> None:
        self.scene, self._readings = scene, readings
        self._drawn = None
        if self.bin is not None and self.bin >= readings.edges.count:
            self.bin = None
        self.setAccessibleDescription(plain(readings))
        self.update()

    def card(self) -> Card | None:
        """What the bin under the pointer (or reached by key) holds."""
        if self._readings is None or self.bin is None:
            return None
        pointed = None
        if self._pointer is not None and self.scene:
            height = self.scene.frame.height(self._pointer.y() / self.scale)
            tops = [(float(g.heights[self.bin]), i) for i, g in enumerate(self._readings.groups)]
            above = [top for top in tops if top[0] >= height]
            pointed = min(above)[1] if above else None
        return bin_card(self._readings, self.bin, pointed)

    # Painting

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self.scene is None:
            return
        painter.drawPixmap(0, 0, self._picture(self.scene))
        if not self.painted:
            self.painted = True
            self.first_painted.emit()
        if self.bin is not None and self.hovering:
            self._paint_band(painter, self.scene)
            if card := self.card():
                self._paint_card(painter, card)
        painter.setPen(QPen(QColor(theme().chosen if self.hasFocus() else theme().hairline), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def _picture(self, scene: Scene) -> QPixmap:
        """The painted scene, kept until it changes, so that hovering costs no painting."""
        ratio = self.devicePixelRatioF()
        if self._drawn is None or self._drawn.size() != self.size() * ratio:
            self._drawn = QPixmap(self.size() * ratio)
            self._drawn.setDevicePixelRatio(ratio)
            with painter_on(self._drawn) as painter:
                painter.scale(self.scale, self.scale)
                paint(scene, painter, live=True)
        return self._drawn

    def _paint_band(self, painter: QPainter, scene: Scene) -> None:
        assert self._readings is not None
        assert self.bin is not None
        edges = self._readings.edges.values
        left, right = scene.frame.xs(edges[self.bin : self.bin + 2]) * self.scale
        top, bottom = scene.frame.top * self.scale, scene.frame.bottom * self.scale
        band = QColor("#3D4EA1")
        band.setAlphaF(0.12)
        painter.fillRect(QRectF(left, top, right - left, bottom - top), band)

    def _paint_card(self, painter: QPainter, card: Card) -> None:
        assert self.scene is not None
        assert self._readings is not None
        assert self.bin is not None
        edges = self._readings.edges.values
        right = float(self.scene.frame.xs(edges[self.bin + 1 : self.bin + 2])[0]) * self.scale
        left = float(self.scene.frame.xs(edges[self.bin : self.bin + 1])[0]) * self.scale
        beside = QRectF(left, self.scene.frame.top * self.scale + 6, right - left, 0)
        colours = group_colours(len(self._readings.groups))
        paint_card(painter, card, beside, QRectF(self.rect()), colours, self.font())

    # Pointing

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.scene is None:
            return
        self._pointer = event.position()
        x, y = self._pointer.x() / self.scale, self._pointer.y() / self.scale
        inside = self.scene.frame.holds(x, y)
        self._point_at(self._bin_at(self.scene.frame.value(x)) if inside else None)
        meaning = self.scene.meaning_at(x, y)
        self.setCursor(
            Qt.CursorShape.PointingHandCursor
            if meaning and not inside
            else Qt.CursorShape.ArrowCursor
        )

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.scene is None or event.button() != Qt.MouseButton.LeftButton:
            return
        x, y = event.position().x() / self.scale, event.position().y() / self.scale
        meaning = self.scene.line_at(x, y, _NEAR / self.scale) or self.scene.meaning_at(x, y)
        if meaning:
            self.part_clicked.emit(meaning.part)

    def leaveEvent(self, _event: object) -> None:
        self._point_at(None)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self._point_at(None)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self._readings is None:
            return
        last = self._readings.edges.count - 1
        here = self.bin
        moves = {
            Qt.Key.Key_Right: 0 if here is None else min(last, here + 1),
            Qt.Key.Key_Left: last if here is None else max(0, here - 1),
            Qt.Key.Key_Home: 0,
            Qt.Key.Key_End: last,
        }
        if event.key() in moves:
            self._pointer = None
            self._point_at(moves[Qt.Key(event.key())])
            if card := self.card():
                self.setAccessibleDescription(card.spoken())
        else:
            super().keyPressEvent(event)

    def _bin_at(self, value: float) -> int | None:
        assert self._readings is not None
        edges = self._readings.edges
        if not edges.low <= value <= edges.high:
            return None
        return min(edges.count - 1, int(edges.values.searchsorted(value, side="right")) - 1)

    def _point_at(self, position: int | None) -> None:
        if position != self.bin or position is not None:
            self.bin = position
            self.update()
