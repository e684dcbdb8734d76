"""The rows of a table, painted by themselves: ten million scroll as smoothly as ten.

A table widget of the toolkit keeps something for every row; this one keeps nothing but what is in
sight.
"""

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QPoint, QRect, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFocusEvent,
    QFont,
    QFontMetrics,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PyQt6.QtWidgets import QAbstractScrollArea, QWidget

from rhabdos.app.controls.heard import Grid, HeardTable
from rhabdos.app.controls.theme import sized, theme
from rhabdos.app.rows.listing_order import Order
from rhabdos.data.cells import Cell, cell_reader, kind_words
from rhabdos.data.columns import Column, NumberColumn
from rhabdos.data.table import Table
from rhabdos.quoting import printable

HEADER, ROW = 44, 28
NARROWEST, _WIDEST = 64, 240
_PADDING = 12  # pixels to either side of a cell's words
_GLANCE = 60  # rows by which a column's width is set
_FEW_CELLS = 30_000  # of a table, that are all measured
_SORT = 16  # pixels at the right of a name that put the rows in order
_BAR_COUNTS = 2_000_000_000  # steps of a scroll bar, which are whole numbers of 32 bits


class ListedRows(QAbstractScrollArea):
    """Shows rows under the names of their variables; a cell is current, a variable is chosen.

    Signals
    -------
    moved : the current cell is another one.
    """

    moved = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Rows, painted")
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.table: Table | None = None
        self.order = Order()
        self.row, self.column = 0, 0
        self.chosen = ""
        self.found: set[int] = set()
        """Rows of the table in which something that is sought stands."""
        self._widths: list[int] = []
        self._lefts: list[int] = []
        self._readers: dict[int, Callable[[int], Cell]] = {}
        self._numbers = 48
        port = self.viewport()
        assert port is not None
        self.heard = HeardTable(
            "Rows",
            Grid(
                lambda: len(self._rows_in_sight()),
                lambda: len(self.table.columns) if self.table else 0,
                lambda row, column: self._read(column, self._rows_in_sight()[row]).text,
                lambda column: self.table.columns[column].label if self.table else "",
                lambda row: (
                    f"Row {self.table.row_number(self._rows_in_sight()[row]):,}"
                    if self.table
                    else ""
                ),
                self._place_in_sight,
            ),
            port,
            self,
        )

    @property
    def scrolled(self) -> int:
        """Pixels of rows above the first that is in sight."""
        down = self.verticalScrollBar()
        return down.value() * self._step if down else 0

    @property
    def _step(self) -> int:
        """Pixels that the bar goes by: one, or a row of those that are too many for that."""
        return 1 if self.count * sized(ROW) < _BAR_COUNTS else sized(ROW)

    def _rows_in_sight(self) -> list[int]:
        """The rows of the table that are in sight."""
        first, port = self.scrolled // sized(ROW), self.viewport()
        many = (port.height() - sized(HEADER)) // sized(ROW) + 1 if port else 0
        return [self.row_at(index) for index in range(first, min(self.count, first + many))]

    def _place_in_sight(self, row: int, column: int) -> QRect:
        if column >= len(self._widths):
            return QRect()
        shift = sized(HEADER) - self.scrolled % sized(ROW)
        return QRect(self._x(column), shift + row * sized(ROW), self._widths[column], sized(ROW))

    # What is shown

    def show_table(self, table: Table | None, order: Order | None = None) -> None:
        """Show another table, or the same rows in another order."""
        same = table is not None and self.table is not None
        names = [column.name for column in table.columns] if table else []
        before = [column.name for column in self.table.columns] if self.table else []
        self.table, self.order = table, order or Order()
        self._readers.clear()
        self.found = set()
        if not same or names != before:
            self.column = 0
            self.horizontalScrollBar().setValue(0)  # type: ignore[union-attr]
        self._measure()
        self.row = min(self.row, max(0, self.count - 1))
        self._set_bars()
        self._touch()

    def sort(self, order: Order) -> None:
        """List the rows in another order, or others of them."""
        self.order, self.row = order, 0
        self._set_bars()
        self.verticalScrollBar().setValue(0)  # type: ignore[union-attr]
        self._touch()

    def choose(self, name: str) -> None:
        """Mark a variable as the one that is chosen, and bring it in sight."""
        if name != self.chosen and self.table is not None and self.table.has(name):
            self.column = [column.name for column in self.table.columns].index(name)
            self._bring_in_sight()
        self.chosen = name
        self._touch()

    @property
    def count(self) -> int:
        """How many rows are listed."""
        if self.table is None:
            return 0
        return self.table.rows if self.order.rows is None else len(self.order.rows)

    def row_at(self, index: int) -> int:
        """The row of the table that is listed at a place, both from 0."""
        return index if self.order.rows is None else int(self.order.rows[index])

    def place_of(self, row: int) -> int | None:
        """At which place a row of the table is listed."""
        if self.order.rows is None:
            return row
        places = (self.order.rows == row).nonzero()[0]
        return int(places[0]) if len(places) else None

    @property
    def current(self) -> tuple[int, Column] | None:
        """The row of the table and the column of the current cell."""
        if self.table is None or not self.count:
            return None
        return self.row_at(self.row), self.table.columns[self.column]

    def go_to(self, index: int, column: int | None = None) -> None:
        """Make a cell the current one, and bring it in sight."""
        if self.table is None or not self.count:
            return
        self.row = min(max(0, index), self.count - 1)
        if column is not None:
            self.column = min(max(0, column), len(self.table.columns) - 1)
        self._bring_in_sight()
        self._touch()
        self.moved.emit()

    def mark(self, rows: set[int]) -> None:
        """Mark rows of the table in which something stands that is sought."""
        self.found = rows
        self._touch()

    def _touch(self) -> None:
        if port := self.viewport():
            port.update()
        self.heard.renew_later()
        if (current := self.current) and self.table:
            row, column = current
            number = f"{self.table.row_number(row):,}"
            words = f"Row {number}, {column.label}: {self._read(self.column, row).text}"
            self.setAccessibleDescription(words)
            if self.hasFocus():
                self.heard.renew_later()
                self.heard.go_to(self.row - self.scrolled // sized(ROW), self.column)

    def _read(self, column: int, row: int) -> Cell:
        assert self.table
        reader = self._readers.get(column)
        if reader is None:
            reader = self._readers[column] = cell_reader(self.table.columns[column])
        return reader(row)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self._touch()

    # Room

    def _measure(self) -> None:
        self._widths, self._lefts = [], []
        if self.table is None:
            return
        bold, plain = QFontMetrics(self._font(bold=True)), QFontMetrics(self._font())
        small = QFontMetrics(self._font(small=True))
        glance = min(_GLANCE, self.count)
        few = len(self.table.columns) * self.count <= _FEW_CELLS
        left = 0
        for index, column in enumerate(self.table.columns):
            width = max(
                bold.horizontalAdvance(printable(column.label)) + _SORT,
                small.horizontalAdvance(printable(kind_words(column))),
            )
            if few or index < _GLANCE:  # of the others their heads tell
                cells = {self._read(index, self.row_at(row)).text for row in range(glance)}
                width = max(width, *(plain.horizontalAdvance(cell) for cell in cells), 0)
            width = min(_WIDEST, max(NARROWEST, width + 2 * _PADDING + 4))
            self._widths.append(width)
            self._lefts.append(left)
            left += width
        self._numbers = plain.horizontalAdvance(f"{max(self.count, 100):,}") + 2 * _PADDING

    def changeEvent(self, event: QEvent | None) -> None:
        """Letters of another size take other room."""
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.FontChange:
            self._measure()
            self._set_bars()

    def _set_bars(self) -> None:
        port = self.viewport()
        across, down = self.horizontalScrollBar(), self.verticalScrollBar()
        if port is None or across is None or down is None:
            return
        whole = self._lefts[-1] + self._widths[-1] if self._widths else 0
        across.setPageStep(max(1, port.width() - self._numbers))
        across.setSingleStep(40)
        across.setRange(0, max(0, whole - port.width() + self._numbers))
        room = port.height() - sized(HEADER)
        down.setPageStep(max(1, room // self._step))
        down.setSingleStep(sized(ROW) // self._step)
        down.setRange(0, max(0, -((room - self.count * sized(ROW)) // self._step)))

    def _bring_in_sight(self) -> None:
        port = self.viewport()
        across, down = self.horizontalScrollBar(), self.verticalScrollBar()
        if port is None or across is None or down is None or not self._widths:
            return
        top, room = self.row * sized(ROW), port.height() - sized(HEADER)
        if top < self.scrolled:
            down.setValue(top // self._step)
        elif top + sized(ROW) > self.scrolled + room:
            down.setValue(-((room - top - sized(ROW)) // self._step))
        left, width = self._lefts[self.column], self._widths[self.column]
        wide = port.width() - self._numbers
        if left < across.value():
            across.setValue(left)
        elif left + width > across.value() + wide:
            across.setValue(min(left, left + width - wide))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if port := self.viewport():
            self.heard.setGeometry(port.rect())
        self._set_bars()

    def scrollContentsBy(self, _across: int, _down: int) -> None:
        """Paint anew where a scroll bar was moved."""
        self.heard.renew_later()
        if port := self.viewport():
            port.update()

    def _font(self, bold: bool = False, small: bool = False, slanting: bool = False) -> QFont:
        font = QFont(self.font())
        font.setPixelSize(sized(12 if small else 14))
        font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
        font.setItalic(slanting)
        return font

    # Painting

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        port = self.viewport()
        if port is None:
            return
        painter = QPainter(port)
        painter.fillRect(port.rect(), QColor(theme().field))
        if self.table is not None and self.table.columns:
            self.paint_rows(painter, port.rect())

    def columns_in_sight(self) -> list[int]:
        """The columns of which something is in sight."""
        port, across = self.viewport(), self.horizontalScrollBar()
        if port is None or across is None:
            return []
        first, last = across.value(), across.value() + port.width() - self._numbers
        both = zip(self._lefts, self._widths, strict=True)
        return [
            index for index, (left, wide) in enumerate(both) if left < last and left + wide > first
        ]

    def paint_rows(self, painter: QPainter, rect: QRect) -> None:
        """Paint names, numbers of rows and cells that are in sight."""
        assert self.table
        t = theme()
        first, above = divmod(self.scrolled, sized(ROW))
        shift = sized(HEADER) - above
        last = min(self.count, first + (rect.height() - shift) // sized(ROW) + 1)
        places = self.columns_in_sight()
        rows = [self.row_at(index) for index in range(first, last)]
        self._paint_grounds(painter, rect, rows, first, shift)
        painter.setClipRect(self._numbers, sized(HEADER), rect.width(), rect.height())
        for column in places:
            self._paint_column(painter, column, rows, shift, self._x(column))
        painter.setClipping(False)
        self._paint_numbers(painter, rows, shift)
        self._paint_names(painter, rect, places)
        if self.hasFocus() and first <= self.row < last:
            top = shift + (self.row - first) * sized(ROW)
            cell = QRect(self._x(self.column), top, self._widths[self.column] - 1, sized(ROW) - 1)
            painter.setClipRect(self._numbers, sized(HEADER), rect.width(), rect.height())
            painter.setPen(QPen(QColor(t.chosen), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(cell)
            painter.setClipping(False)

    def _x(self, column: int) -> int:
        across = self.horizontalScrollBar()
        assert across
        return self._numbers + self._lefts[column] - across.value()

    def _paint_grounds(
        self, painter: QPainter, rect: QRect, rows: list[int], first: int, shift: int
    ) -> None:
        t = theme()
        for index, row in enumerate(rows):
            top = shift + index * sized(ROW)
            if row in self.found:
                painter.fillRect(0, top, rect.width(), sized(ROW), QColor(t.notice_ground))
            elif first + index == self.row:
                painter.fillRect(0, top, rect.width(), sized(ROW), QColor(t.shown_ground))
        painter.setPen(QPen(QColor(t.hairline), 1))
        for index in range(len(rows)):
            bottom = shift + (index + 1) * sized(ROW) - 1
            painter.drawLine(0, bottom, rect.width(), bottom)

    def _paint_column(
        self, painter: QPainter, column: int, rows: list[int], shift: int, left: int
    ) -> None:
        assert self.table
        t, high = theme(), sized(ROW)
        number = isinstance(self.table.columns[column], NumberColumn)
        side = Qt.AlignmentFlag.AlignRight if number else Qt.AlignmentFlag.AlignLeft
        side |= Qt.AlignmentFlag.AlignVCenter
        plain, slanting = self._font(), self._font(slanting=True)
        metrics = QFontMetrics(plain)
        room = self._widths[column] - 2 * _PADDING
        sure = room // metrics.horizontalAdvance("@")  # no letter of ASCII is wider
        ink, quiet = QColor(t.ink), QColor(t.quiet)
        painter.setFont(plain)
        painter.setPen(ink)
        for index, row in enumerate(rows):
            cell = self._read(column, row)
            text = cell.text
            fits = len(text) <= sure and text.isascii()
            if not fits and metrics.horizontalAdvance(text) > room:
                text = metrics.elidedText(text, Qt.TextElideMode.ElideRight, room)
            where = QRect(left + _PADDING, shift + index * high, room, high)
            if cell.missing:
                painter.setFont(slanting)
                painter.setPen(quiet)
                painter.drawText(where, side, text)
                painter.setFont(plain)
                painter.setPen(ink)
            else:
                painter.drawText(where, side, text)

    def _paint_numbers(self, painter: QPainter, rows: list[int], shift: int) -> None:
        assert self.table
        painter.setFont(self._font())
        painter.setPen(QColor(theme().quiet))
        side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for index, row in enumerate(rows):
            where = QRect(0, shift + index * sized(ROW), self._numbers - _PADDING, sized(ROW))
            if where.bottom() > sized(HEADER):
                painter.drawText(where, side, f"{self.table.row_number(row):,}")

    def _paint_names(self, painter: QPainter, rect: QRect, places: list[int]) -> None:
        assert self.table
        t = theme()
        painter.fillRect(0, 0, rect.width(), sized(HEADER), QColor(t.panel))
        painter.setClipRect(self._numbers, 0, rect.width(), sized(HEADER))
        bold, small = self._font(bold=True), self._font(small=True)
        metrics = QFontMetrics(bold)
        for column in places:
            variable = self.table.columns[column]
            left, width = self._x(column), self._widths[column]
            if variable.name == self.chosen:
                painter.fillRect(left, 0, width, sized(HEADER), QColor(t.chosen_ground))
            number = isinstance(variable, NumberColumn)
            side = Qt.AlignmentFlag.AlignRight if number else Qt.AlignmentFlag.AlignLeft
            room = width - 2 * _PADDING
            name = metrics.elidedText(printable(variable.label), Qt.TextElideMode.ElideRight, room)
            painter.setFont(bold)
            painter.setPen(QColor(t.ink))
            painter.drawText(QRect(left + _PADDING, sized(4), room, sized(20)), side, name)
            painter.setFont(small)
            painter.setPen(QColor(t.quiet))
            words = QFontMetrics(small).elidedText(
                printable(kind_words(variable)), Qt.TextElideMode.ElideRight, room
            )
            painter.drawText(QRect(left + _PADDING, sized(23), room, sized(18)), side, words)
            if variable.name == self.order.column:
                self._paint_arrow(painter, left + width - _PADDING + 5, sized(15))
        painter.setClipping(False)
        painter.setPen(QPen(QColor(t.hairline), 1))
        painter.drawLine(0, sized(HEADER) - 1, rect.width(), sized(HEADER) - 1)

    def _paint_arrow(self, painter: QPainter, x: int, y: int) -> None:
        """Which way the rows are in order: the thin end is the smaller one."""
        up = -3 if self.order.falling else 3
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme().chosen))
        painter.drawPolygon(QPoint(x - 4, y + up), QPoint(x + 4, y + up), QPoint(x, y - up))
