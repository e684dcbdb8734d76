"""A page of several figures under the hand: figures change places, gaps are dragged."""

from typing import Literal

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from rhabdos.app.controls.theme import theme
from rhabdos.figure.recipe.plate import Plate
from rhabdos.paint.painter import paint
from rhabdos.scene.plate import PlateScene

_NEAR = 6.0  # pixels about a gap between figures in which it is taken hold of
_LEAST_SHARE = 0.1  # of a column or a row


class PlatePage(QWidget):
    """The page as it will be printed: a figure dragged onto another changes places with it, and a
    gap between them is dragged.

    Signals
    -------
    swapped : two places of figures on the page.
    parted : "across" or "down", and the shares that columns or rows have then.
    """

    swapped = pyqtSignal(int, int)
    parted = pyqtSignal(str, tuple)

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(360, 300)
        self.setAccessibleName("The page")
        self.setMouseTracking(True)
        self._drawn: PlateScene | None = None
        self._plate: Plate | None = None
        self._words = ""
        self._held: int | None = None
        self._gap: tuple[Literal["across", "down"], int] | None = None
        self._over: int | None = None

    def show_plate(self, plate: Plate, drawn: PlateScene) -> None:
        """Show a page."""
        self._plate, self._drawn, self._words = plate, drawn, ""
        self.setAccessibleDescription(drawn.scene.describe())
        self.update()

    def say(self, words: str) -> None:
        """Say why there is no page."""
        self._drawn, self._words = None, words
        self.update()

    @property
    def _scale(self) -> float:
        assert self._drawn
        scene = self._drawn.scene
        return min((self.width() - 16) / scene.width, (self.height() - 16) / scene.height)

    @property
    def _corner(self) -> QPointF:
        assert self._drawn
        scene, scale = self._drawn.scene, self._scale
        return QPointF(
            (self.width() - scene.width * scale) / 2, (self.height() - scene.height * scale) / 2
        )

    def rect_of(self, at: int) -> QRectF:
        """Where a figure lies, in pixels."""
        assert self._drawn
        place, scale, corner = self._drawn.places[at], self._scale, self._corner
        return QRectF(
            corner.x() + place.left * scale,
            corner.y() + place.top * scale,
            place.width * scale,
            place.height * scale,
        )

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter, t = QPainter(self), theme()
        if self._drawn is None or self._plate is None:
            painter.setPen(QColor(t.quiet))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect().adjusted(20, 20, -20, -20), flags, self._words)
            return
        painter.save()
        painter.translate(self._corner)
        painter.scale(self._scale, self._scale)
        paint(self._drawn.scene, painter, live=True)
        painter.restore()
        painter.setPen(QPen(QColor(t.hairline), 1))
        scene, scale = self._drawn.scene, self._scale
        page = QRectF(self._corner.x(), self._corner.y(), scene.width * scale, scene.height * scale)
        painter.drawRect(page)
        for at, width in ((self._held, 1), (self._over, 3)):
            if at is not None:
                painter.setPen(QPen(QColor(t.chosen), width))
                painter.drawRect(self.rect_of(at))

    def _at(self, place: QPointF) -> int | None:
        if self._drawn is None:
            return None
        inside = (n for n in range(len(self._drawn.places)) if self.rect_of(n).contains(place))
        return next(inside, None)

    def _gap_at(self, place: QPointF) -> tuple[Literal["across", "down"], int] | None:
        """The gap between columns or rows at a place, by the number of the one before it."""
        if self._drawn is None or self._plate is None:
            return None
        columns = len(self._plate.across)
        for column in range(columns - 1):
            if abs(place.x() - self._middle(column, True)) < _NEAR:
                return "across", column
        for row in range(self._plate.rows - 1):
            if abs(place.y() - self._middle(row * columns, False)) < _NEAR:
                return "down", row
        return None

    def _middle(self, at: int, across: bool) -> float:
        """The middle of the gap after a figure, in pixels."""
        assert self._plate
        columns = len(self._plate.across)
        here, there = self.rect_of(at), self.rect_of(at + (1 if across else columns))
        if across:
            return (here.right() + there.left()) / 2
        return (here.bottom() + there.top()) / 2

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self._gap = self._gap_at(event.position())
        self._held = None if self._gap else self._at(event.position())
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._drawn is None:
            return
        if self._gap is not None:
            self._part(*self._gap, event.position())
        elif self._held is not None:
            over = self._at(event.position())
            self._over = over if over != self._held else None
            self.update()
        else:
            gap = self._gap_at(event.position())
            shape = Qt.CursorShape.OpenHandCursor
            if gap is not None:
                across = gap[0] == "across"
                shape = Qt.CursorShape.SplitHCursor if across else Qt.CursorShape.SplitVCursor
            self.setCursor(shape)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        held, over = self._held, self._over
        self._held = self._over = self._gap = None
        self.update()
        if held is not None and over is not None:
            self.swapped.emit(held, over)

    def _part(self, way: Literal["across", "down"], before: int, place: QPointF) -> None:
        """Move the gap after a column or a row to a place."""
        assert self._plate
        columns = len(self._plate.across)
        shares = list(self._plate.across if way == "across" else self._plate.down)
        first = self.rect_of(before if way == "across" else before * columns)
        second = self.rect_of(before + 1 if way == "across" else (before + 1) * columns)
        both = shares[before] + shares[before + 1]
        if way == "across":
            share = (place.x() - first.left()) / (second.right() - first.left())
        else:
            share = (place.y() - first.top()) / (second.bottom() - first.top())
        share = min(max(share, _LEAST_SHARE), 1 - _LEAST_SHARE)
        shares[before], shares[before + 1] = both * share, both * (1 - share)
        self.parted.emit(way, tuple(round(each, 4) for each in shares))
