"""The paper of a chart in place of the figure: seen, heard, and stepped through by keys."""

from collections.abc import Sequence

from PyQt6.QtCore import QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QLabel

from rhabdos.app.controls.heard import HeardList, Spoken, be_a_picture
from rhabdos.app.controls.theme import theme
from rhabdos.paint.painter import paint
from rhabdos.scene.marks import Scene, Zone

MARGIN = 16
"""Pixels around the paper."""
_LARGEST = 2.2  # times its own size that a chart is drawn
_STEPS = {Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1}
_OPENS = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space)


class ChartPaper(QLabel):
    """A scene on its paper, as large as there is room for.

    Signals
    -------
    clicked : the level of a bar.
    """

    clicked = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        be_a_picture(self)
        self.setAccessibleName("Figure")
        self.setMinimumSize(200, 160)
        self.setMouseTracking(True)
        self.scene: Scene | None = None
        self.words = ""
        self.current = -1
        """The bar that keys are at, from 0; before one was chosen, −1."""
        self._bars: tuple[Zone, ...] = ()
        self._said: Sequence[str] = ()
        spoken = Spoken(lambda: len(self._bars), lambda at: self._said[at], self.place_of)
        self.heard = HeardList("Bars of the figure", spoken, self, self)

    def show_scene(self, scene: Scene | None, words: str, said: Sequence[str] = ()) -> None:
        """Show a scene, or words why there is none.

        Parameters
        ----------
        said : sequence of str
            Each bar in words, in their order; of a chart without bars nothing.
        """
        self.scene, self.words, self._said = scene, words, said
        zones = scene.zones if scene else ()
        bars = [zone for zone in zones if zone.meaning.level is not None]
        self._bars = tuple(sorted(bars, key=lambda zone: zone.meaning.group or 0))[: len(said)]
        self.current = min(self.current, len(self._bars) - 1)
        self.heard.renew_later()
        self.update()

    @property
    def _scale(self) -> float:
        assert self.scene
        across = (self.width() - 2 * MARGIN) / self.scene.width
        return min(across, (self.height() - MARGIN) / self.scene.height, _LARGEST)

    def _paper(self) -> QRectF:
        assert self.scene
        wide, high = self.scene.width * self._scale, self.scene.height * self._scale
        return QRectF((self.width() - wide) / 2, MARGIN / 2, wide, high)

    def place_of(self, at: int) -> QRect:
        """Where a bar lies, with its name and its number."""
        if self.scene is None or at >= len(self._bars):
            return QRect()
        bar, scale, corner = self._bars[at], self._scale, self._paper().topLeft()
        wide, high = bar.right - bar.left, bar.bottom - bar.top
        place = QRectF(bar.left * scale, bar.top * scale, wide * scale, high * scale)
        return place.translated(corner).toAlignedRect()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self.scene is None:
            painter.setPen(QColor(theme().quiet))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect().adjusted(40, 40, -40, -40), flags, self.words)
            return
        paper = self._paper()
        painter.fillRect(paper, QColor(self.scene.paper or "#FFFFFF"))
        painter.save()
        painter.translate(paper.topLeft())
        painter.scale(self._scale, self._scale)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint(self.scene, painter, live=True)
        painter.restore()
        if self.heard.hasFocus():
            place = self.place_of(self.current) if self.current >= 0 else paper.toAlignedRect()
            painter.setPen(QPen(QColor(theme().chosen), 1))
            painter.drawRect(place.adjusted(0, 0, -1, -1))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.heard.setGeometry(self.rect())

    def level_at(self, event: QMouseEvent) -> str | None:
        """The level whose bar is under the pointer."""
        if self.scene is None:
            return None
        place = (event.position() - self._paper().topLeft()) / self._scale
        meaning = self.scene.meaning_at(place.x(), place.y())
        return meaning.level if meaning else None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            level = self.level_at(event)
            shape = Qt.CursorShape.PointingHandCursor if level else Qt.CursorShape.ArrowCursor
            self.setCursor(shape)
            self.setToolTip(f"Click to see the rows of {level}" if level else "")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and (level := self.level_at(event)) is not None:
            self.clicked.emit(level)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows, Home and End go from bar to bar; Enter and Space are a click."""
        if event is None:
            return
        key, last = Qt.Key(event.key()), len(self._bars) - 1
        if key in _OPENS and self.current >= 0:
            self.clicked.emit(self._bars[self.current].meaning.level)
        elif key in _STEPS and last >= 0:
            self._go_to(max(self.current + _STEPS[key], 0))
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End) and last >= 0:
            self._go_to(0 if key == Qt.Key.Key_Home else last)
        else:
            super().keyPressEvent(event)

    def _go_to(self, bar: int) -> None:
        self.current = min(bar, len(self._bars) - 1)
        self.heard.go_to(self.current)
        self.update()
