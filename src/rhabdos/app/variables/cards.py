"""The cards of the overview: a first look at every variable, with what looks wrong with it."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from msgspec import Struct
from PyQt6.QtCore import QEvent, QPoint, QRect, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFocusEvent,
    QFont,
    QFontMetrics,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PyQt6.QtWidgets import QAbstractScrollArea, QToolTip

from rhabdos.app.controls.heard import HeardList, Spoken
from rhabdos.app.controls.plain_texts import plain_tip
from rhabdos.app.controls.theme import sized, theme
from rhabdos.app.variables.silhouettes import Silhouette, Silhouettes, paint_silhouette
from rhabdos.data.cells import value_writer
from rhabdos.data.columns import CategoryColumn, Column, LabelColumn, NumberColumn
from rhabdos.data.problems.problem import Problem
from rhabdos.data.problems.problems import problems_of
from rhabdos.quoting import printable
from rhabdos.wording import counted, with_unit

if TYPE_CHECKING:
    pass

WIDTH, HEIGHT, GAP = 232, 158, 14
_SHAPE = 62  # pixels, how high a silhouette is
_GAP_SHARE = 0.3  # between the bars of levels, of their width


class Grid(Struct, frozen=True):
    """How many cards stand side by side, and how wide each is."""

    across: int
    width: int

    def rect(self, index: int, top: int) -> QRect:
        """Where a card stands, ``top`` pixels scrolled."""
        row, column = divmod(index, self.across)
        left = GAP + column * (self.width + GAP)
        return QRect(left, GAP + row * (sized(HEIGHT) + GAP) - top, self.width, sized(HEIGHT))


class Cards(QAbstractScrollArea):
    """The cards, painted by themselves: a thousand scroll smoothly, and only what is in sight is
    looked at."""

    opened = pyqtSignal(object)
    rows_asked = pyqtSignal(object)
    opened_along = pyqtSignal(object, str)

    def __init__(self, silhouettes: Silhouettes) -> None:
        super().__init__()
        self.setAccessibleName("Overview")
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._silhouettes = silhouettes
        self.columns: list[Column] = []
        self.problems_of: Callable[[Column], tuple[Problem, ...]] = problems_of
        self.marked: set[str] = set()
        self.current = 0
        self._pointed = -1
        silhouettes.ready.connect(self.touch)
        port = self.viewport()
        assert port is not None
        port.setMouseTracking(True)
        spoken = Spoken(lambda: len(self.columns), self._said, self.rect_of)
        self.heard = HeardList("Variables", spoken, port, self)

    def _said(self, index: int) -> str:
        """A card in words."""
        column = self.columns[index]
        problems = self.problems_of(column) if self.looked_at(column) else ()
        drawn = " Drawn in the figure." if column.name in self.marked else ""
        return f"{_spoken(column, problems)}{drawn}"

    def show_columns(self, columns: list[Column]) -> None:
        """Show other variables."""
        self.columns, self.current = columns, 0
        self._set_bar()
        self.verticalScrollBar().setValue(0)  # type: ignore[union-attr]
        self.heard.renew_later()
        self.touch()

    def looked_at(self, column: Column) -> bool:
        """Whether the first look at a variable was worked out already."""
        return self._silhouettes.known(column)

    def touch(self) -> None:
        """Paint again."""
        if port := self.viewport():
            port.update()
        if 0 <= self.current < len(self.columns):
            self.setAccessibleDescription(self._said(self.current))

    @property
    def grid(self) -> Grid:
        """How the cards stand in the present width."""
        room = max(sized(WIDTH), (self.viewport() or self).width() - GAP)
        across = max(1, room // (sized(WIDTH) + GAP))
        return Grid(across, room // across - GAP)

    def _set_bar(self) -> None:
        port, bar = self.viewport(), self.verticalScrollBar()
        if port is None or bar is None:
            return
        rows = -(-len(self.columns) // self.grid.across)
        bar.setPageStep(max(1, port.height()))
        bar.setSingleStep(48)
        bar.setRange(0, max(0, rows * (sized(HEIGHT) + GAP) + GAP - port.height()))

    def changeEvent(self, event: QEvent | None) -> None:
        """Letters of another size take other room."""
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.FontChange:
            self._set_bar()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if port := self.viewport():
            self.heard.setGeometry(port.rect())
        self._set_bar()

    def scrollContentsBy(self, _across: int, _down: int) -> None:
        """Paint anew where the scroll bar was moved."""
        self.touch()

    def rect_of(self, index: int) -> QRect:
        """Where a card stands now."""
        bar = self.verticalScrollBar()
        return self.grid.rect(index, bar.value() if bar else 0)

    # Painting

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        port, bar = self.viewport(), self.verticalScrollBar()
        if port is None or bar is None:
            return
        painter = QPainter(port)
        painter.fillRect(port.rect(), QColor(theme().ground))
        grid = self.grid
        first = max(0, (bar.value() - GAP) // (sized(HEIGHT) + GAP)) * grid.across
        last = ((bar.value() + port.height()) // (sized(HEIGHT) + GAP) + 1) * grid.across
        for index in range(first, min(last, len(self.columns))):
            self._paint(painter, index, grid.rect(index, bar.value()))

    def _paint(self, painter: QPainter, index: int, rect: QRect) -> None:
        t, column = theme(), self.columns[index]
        painter.fillRect(rect, QColor(t.panel))
        if column.name in self.marked:
            painter.fillRect(QRect(rect.left(), rect.top(), 3, rect.height()), QColor(t.chosen))
        here = self.hasFocus() and index == self.current
        edge = t.chosen if here or index == self._pointed else t.hairline
        painter.setPen(QPen(QColor(edge), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(rect.adjusted(0, 0, -1, -1))
        inner = rect.adjusted(14, 9, -12, -9)
        bold, small = self._font(15, True), self._font(12)
        self._write(painter, inner, 0, printable(column.label), bold, t.ink)
        self._write(painter, inner, sized(20), _facts(column), small, t.quiet)
        shape = self._silhouettes.of(column)
        box = QRect(inner.left(), inner.top() + sized(44), inner.width(), sized(_SHAPE))
        if shape is None:
            self._write(painter, inner, sized(66), "looking …", small, t.quiet)
            return
        under = sized(44) + sized(_SHAPE) + 3
        if isinstance(column, CategoryColumn):
            self._paint_levels(painter, box, shape)
            names = ", ".join(printable(level) for level in column.levels[:6])
            self._write(painter, inner, under, names, small, t.quiet)
        elif isinstance(column, NumberColumn) and shape.ends:
            paint_silhouette(painter, box, shape)
            ends = " to ".join(map(value_writer(column), shape.ends))
            self._write(painter, inner, under, with_unit(ends, column.unit), small, t.quiet)
        elif isinstance(column, LabelColumn):
            some = ", ".join(printable(text) for text in column.texts[:4] if text)
            self._write(painter, inner, sized(60), some, small, t.quiet)
        if problems := self.problems_of(column):
            problem = problems[0]
            words = SHORT.get(problem.code, problem.code.replace("-", " "))
            text = f"{problem.n:,} {words}" if problem.code in _COUNTED else words
            self._paint_foot(painter, rect, text, t.notice_ground, t.notice_ink)
        elif said := self.tail_words(column):
            self._paint_foot(painter, rect, said, t.ground, t.ink)

    def _paint_levels(self, painter: QPainter, box: QRect, shape: Silhouette) -> None:
        """Bars with gaps between them, in the order of the levels."""
        most = max(shape.levels, default=0)
        if not most:
            return
        step = min(box.width() / max(len(shape.levels), 1), 46.0)
        for index, count in enumerate(shape.levels):
            height = max(1, round(count / most * box.height()))
            left = box.left() + round(index * step)
            width = max(1, round(step * (1 - _GAP_SHARE)))
            colour = QColor(theme().group_shape)
            painter.fillRect(QRect(left, box.bottom() - height + 1, width, height), colour)

    def tail_words(self, column: Column) -> str:
        """What is offered at the foot of a card where most values lie in a sliver of their span;
        empty where they do not."""
        shape = self._silhouettes.of(column) if self.looked_at(column) else None
        return shape.offer if shape else ""

    def _paint_foot(self, painter: QPainter, rect: QRect, text: str, ground: str, ink: str) -> None:
        """What looks wrong, or is offered, at the foot of the card."""
        small = self._font(12)
        foot = QRect(rect.left() + 1, rect.bottom() - sized(21), rect.width() - 2, sized(21))
        painter.fillRect(foot, QColor(ground))
        painter.setFont(small)
        painter.setPen(QColor(ink))
        room = foot.adjusted(13, 0, -10, 0)
        shown = QFontMetrics(small).elidedText(text, Qt.TextElideMode.ElideRight, room.width())
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shown)

    def _write(
        self, painter: QPainter, inner: QRect, down: int, text: str, font: QFont, colour: str
    ) -> None:
        painter.setFont(font)
        painter.setPen(QColor(colour))
        metrics = QFontMetrics(font)
        shown = metrics.elidedText(text, Qt.TextElideMode.ElideRight, inner.width())
        place = QRect(inner.left(), inner.top() + down, inner.width(), sized(20))
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, shown)

    def _font(self, pixels: int, bold: bool = False) -> QFont:
        font = QFont(self.font())
        font.setPixelSize(sized(pixels))
        font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
        return font

    # By hand

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        if self.columns:
            self.heard.go_to(self.current)
        self.touch()

    def place_at(self, point: QPoint) -> int:
        """The card at a point, or −1."""
        return next((p for p in range(len(self.columns)) if self.rect_of(p).contains(point)), -1)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        pointed = self.place_at(event.position().toPoint())
        if pointed != self._pointed:
            self._pointed = pointed
            self.touch()

    def leaveEvent(self, _event: object) -> None:
        self._pointed = -1
        self.touch()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Open a variable; at the foot, where something looks wrong, its facts."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        point = event.position().toPoint()
        index = self.place_at(point)
        if index < 0:
            return
        self.current = index
        column = self.columns[index]
        at_foot = point.y() > self.rect_of(index).bottom() - sized(22)
        if at_foot and self.looked_at(column) and self.problems_of(column):
            self.rows_asked.emit(column.name)
        elif at_foot and self.tail_words(column):
            self._open_along(column)
        else:
            self.opened.emit(column.name)

    def _open_along(self, column: Column) -> None:
        """Draw a variable along the axis that suits it."""
        if (shape := self._silhouettes.of(column)) is not None:
            self.opened_along.emit(column.name, shape.along)

    def viewportEvent(self, event: object) -> bool:
        """Tell on pointing what looks wrong."""
        if isinstance(event, QHelpEvent):
            index = self.place_at(event.pos())
            column = self.columns[index] if index >= 0 else None
            if column is not None and self.looked_at(column) and self.problems_of(column):
                text = "\n".join(problem.text for problem in self.problems_of(column))
                QToolTip.showText(event.globalPos(), plain_tip(text), self)
                return True
        return super().viewportEvent(event)  # type: ignore[arg-type]

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows go from card to card, Enter draws, with Shift along the axis that suits best;
        Space puts right."""
        if event is None or not self.columns:
            return
        across = self.grid.across
        moves = {
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Down: across,
            Qt.Key.Key_Up: -across,
            Qt.Key.Key_PageDown: 3 * across,
            Qt.Key.Key_PageUp: -3 * across,
            Qt.Key.Key_Home: -len(self.columns),
            Qt.Key.Key_End: len(self.columns),
        }
        key = Qt.Key(event.key())
        if key in moves:
            self.current = min(max(0, self.current + moves[key]), len(self.columns) - 1)
            self._bring_in_sight()
            self.heard.go_to(self.current)
            self.touch()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            shifted = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            if shifted and self.looked_at(self.columns[self.current]):
                self._open_along(self.columns[self.current])
                return
            self.opened.emit(self.columns[self.current].name)
        elif key == Qt.Key.Key_Space:
            self.rows_asked.emit(self.columns[self.current].name)
        else:
            super().keyPressEvent(event)

    def _bring_in_sight(self) -> None:
        port, bar = self.viewport(), self.verticalScrollBar()
        if port is None or bar is None:
            return
        rect = self.rect_of(self.current)
        if rect.top() < 0:
            bar.setValue(bar.value() + rect.top() - GAP)
        elif rect.bottom() > port.height():
            bar.setValue(bar.value() + rect.bottom() - port.height() + GAP)


SHORT = {
    "no-values": "no values",
    "infinite": "infinite values",
    "missing-code": "may stand for missing",
    "group-codes": "may be codes of groups",
    "named-code": "named like a code",
    "paired-codes": "may be codes of groups",
    "similar-levels": "in levels that differ by case or blanks",
    "not-numbers": "values are not numbers",
    "not-dates": "values are not dates",
    "numbers-as-text": "numbers that read as text",
    "numbers-with-unit": "numbers with a unit behind them",
    "dates-as-text": "most values are dates",
    "serial-dates": "may be dates of a spreadsheet",
    "digit-dates": "are dates in digits",
    "counted-times": "may be times that are counted",
    "beyond-bounds": "beyond its bounds",
}
"""What looks wrong, in a few words."""
# Problems of single values, which are told with their number.
_COUNTED = (
    "infinite",
    "missing-code",
    "similar-levels",
    "not-numbers",
    "not-dates",
    "beyond-bounds",
)


def _facts(column: Column) -> str:
    words = column.values_told
    if isinstance(column, CategoryColumn):
        words += f" in {counted(len(column.levels), 'level', 'levels')}"
    elif isinstance(column, LabelColumn):
        words = counted(column.distinct, "label", "labels")
    return f"{words} · {column.missing:,} missing" if column.missing else words


def _spoken(column: Column, problems: Sequence[Problem]) -> str:
    told = " ".join(problem.text for problem in problems)
    return f"{column.label}, {column.kind}, {_facts(column)}. {told}".strip()
