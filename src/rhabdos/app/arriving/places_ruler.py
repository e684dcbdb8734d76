"""The first lines of a text and the places where its columns begin, moved by hand."""

from bisect import bisect

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFont,
    QFontDatabase,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PyQt6.QtWidgets import QWidget

from rhabdos.app.controls.heard import HeardList, Spoken
from rhabdos.app.controls.theme import theme
from rhabdos.quoting import printable

_LINES = 8  # of the file, that are shown
_LETTERS = 400  # of a line, that are shown
_TOP = 16  # pixels above the lines, for the grips
_NEAR = 6  # pixels, within which a hand takes hold of a place
_LEFT = 6  # pixels before the first letter


class PlacesRuler(QWidget):
    """A click between letters begins a column there, a drag moves one, a double click takes it
    away; the arrows, Insert and Delete do the same.

    Signals
    -------
    changed : the places, rising, the first at 0.
    """

    changed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setToolTip(
            "Drag a line to move it; click between letters for one more, double-click to take one "
            "away. By keys: Tab to here, ← → move it, Shift+← → choose, Insert, Delete."
        )
        self.setMouseTracking(True)
        self.setFont(_letters())
        self.lines: tuple[str, ...] = ()
        self.places: tuple[int, ...] = (0,)
        self.current = 1
        self._held: int | None = None
        spoken = Spoken(lambda: len(self.places), self._said, self._where)
        self.heard = HeardList("Where columns begin", spoken, self, self)

    def _said(self, at: int) -> str:
        return f"Column {at + 1} begins at letter {self.places[at] + 1}"

    def _where(self, at: int) -> QRect:
        left = round(self.x_of(self.places[at]))
        return QRect(left - _NEAR, 0, 2 * _NEAR, self.height())

    def show_lines(self, lines: tuple[str, ...], places: tuple[int, ...]) -> None:
        """Show the first lines of a text and where its columns begin."""
        self.lines = tuple(printable(line[:_LETTERS]) for line in lines[:_LINES])
        if self._held is None:
            self.places = places or (0,)
        self.current = min(self.current, max(0, len(self.places) - 1))
        self.heard.renew_later()
        metrics = QFontMetricsF(self.font())
        width = max((len(line) for line in self.lines), default=20)
        self.setFixedSize(
            int(width * self._step + 3 * _LEFT),
            int(_TOP + metrics.lineSpacing() * max(1, len(self.lines)) + 6),
        )
        self.update()

    @property
    def _step(self) -> float:
        return QFontMetricsF(self.font()).horizontalAdvance("0")

    def x_of(self, index: int) -> float:
        """Where a place stands, in pixels."""
        return _LEFT + index * self._step

    def _place_at(self, x: float) -> int:
        return max(0, round((x - _LEFT) / self._step))

    def _line_near(self, x: float) -> int | None:
        """Which of the lines a hand is at; the first stays where it is."""
        near = [
            (abs(self.x_of(place) - x), at)
            for at, place in enumerate(self.places)
            if at and abs(self.x_of(place) - x) <= _NEAR
        ]
        return min(near)[1] if near else None

    def _set(self, places: tuple[int, ...]) -> None:
        if places != self.places:
            self.places = places
            self.heard.renew_later()
            if self.heard.hasFocus():
                self.heard.go_to(self.current)
            self.update()
            self.changed.emit(places)

    def _move(self, at: int, place: int) -> None:
        """Move a line as far as its neighbours allow."""
        low = self.places[at - 1] + 1
        high = self.places[at + 1] - 1 if at + 1 < len(self.places) else _LETTERS
        place = min(max(place, low), high)
        self._set((*self.places[:at], place, *self.places[at + 1 :]))

    def _add(self, index: int) -> None:
        if 0 < index <= _LETTERS and index not in self.places:
            at = bisect(self.places, index)
            self.current = at
            self._set((*self.places[:at], index, *self.places[at:]))

    def _take_away(self, at: int) -> None:
        if 0 < at < len(self.places):
            self.current = max(0, min(at, len(self.places) - 2))
            self._set((*self.places[:at], *self.places[at + 1 :]))

    # What a hand does

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        near = self._line_near(event.position().x())
        if near is None:
            self._add(self._place_at(event.position().x()))
        else:
            self._held = self.current = near
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        x = event.position().x()
        if self._held is not None:
            self._move(self._held, self._place_at(x))
        near = self._held if self._held is not None else self._line_near(x)
        shape = Qt.CursorShape.SizeHorCursor if near is not None else Qt.CursorShape.ArrowCursor
        self.setCursor(shape)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        self._held = None

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and (near := self._line_near(event.position().x())) is not None:
            self._held = None
            self._take_away(near)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows move the current line, with Shift they choose another; Insert and Delete."""
        if event is None:
            return
        key = event.key()
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(key))
        if by and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.current = min(max(1, self.current + by), len(self.places) - 1)
            self.heard.go_to(self.current)
            self.update()
        elif by and 0 < self.current < len(self.places):
            self._move(self.current, self.places[self.current] + by)
        elif key == Qt.Key.Key_Insert:
            ahead = self.places[self.current] + 1
            self._add(next(p for p in range(ahead, ahead + _LETTERS) if p not in self.places))
        elif key == Qt.Key.Key_Delete:
            self._take_away(self.current)
        else:
            super().keyPressEvent(event)

    def sizeHint(self) -> QSize:
        return self.size()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.heard.setGeometry(self.rect())

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = theme()
        painter.fillRect(self.rect(), QColor(colours.field))
        painter.setFont(self.font())
        metrics = QFontMetricsF(self.font())
        painter.setPen(QColor(colours.ink))
        for row, line in enumerate(self.lines):
            y = _TOP + row * metrics.lineSpacing() + metrics.ascent()
            for at, letter in enumerate(line):  # each in its own place, whatever its width
                painter.drawText(QPointF(self.x_of(at), y), letter)
        for at, place in enumerate(self.places[1:], 1):
            chosen = at == self.current and self.heard.hasFocus()
            colour = QColor(colours.chosen if chosen else colours.outline)
            painter.setPen(QPen(colour, 2 if chosen else 1))
            x = self.x_of(place) - 1
            painter.drawLine(QPointF(x, _TOP - 4), QPointF(x, self.height()))
            painter.setBrush(colour)
            painter.drawEllipse(QRectF(x - 4, _TOP - 12, 8, 8))


def _letters() -> QFont:
    return QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont)
