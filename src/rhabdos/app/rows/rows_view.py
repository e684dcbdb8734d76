"""The rows of a table in the hand: cells, names and edges between names, by mouse and keys."""

from PyQt6.QtCore import QEvent, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QWidget

from rhabdos.app.controls.copying import is_copy, keeps_copy
from rhabdos.app.controls.theme import sized
from rhabdos.app.rows.listed_rows import HEADER, NARROWEST, ROW, ListedRows


class RowsView(ListedRows):
    """Rows of which one is chosen, put in order, shown in the figure, or offered a menu.

    Signals
    -------
    column_chosen : a variable's name.
    sort_asked : a variable's name, by which the rows shall be in order.
    menu_asked : a row of the table, a variable's name and the place on the screen.
    shown : a row of the table and a variable's name, to be shown in the figure.
    copied : a row of the table and a variable's name, whose cell is wanted elsewhere.
    """

    column_chosen = pyqtSignal(object)
    sort_asked = pyqtSignal(object)
    menu_asked = pyqtSignal(object, object, object)
    shown = pyqtSignal(object, object)
    copied = pyqtSignal(object, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._held: int | None = None
        if port := self.viewport():
            port.setMouseTracking(True)

    def _column_at(self, x: int) -> int | None:
        return next(
            (c for c in self.columns_in_sight() if self._x(c) <= x < self._x(c) + self._widths[c]),
            None,
        )

    def _edge_at(self, x: int, y: int) -> int | None:
        """The column whose right edge is there, to be dragged."""
        if y >= sized(HEADER):
            return None
        edges = ((c, self._x(c) + self._widths[c]) for c in self.columns_in_sight())
        return next((c for c, edge in edges if abs(edge - x) <= 3), None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose a variable by its name, or a cell; take an edge between names in the hand."""
        if event is None or self.table is None or event.button() != Qt.MouseButton.LeftButton:
            return
        x, y = event.position().toPoint().x(), event.position().toPoint().y()
        self._held = self._edge_at(x, y)
        if self._held is not None:
            return
        column = self._column_at(x)
        if y < sized(HEADER) and column is not None:
            name = self.table.columns[column].name
            if name == self.chosen:
                self.sort_asked.emit(name)
            self.column_chosen.emit(name)
        elif y >= sized(HEADER):
            row = (y - sized(HEADER) + self.scrolled) // sized(ROW)
            if row < self.count:
                self.go_to(row, column)
                if column is not None:
                    self.column_chosen.emit(self.table.columns[column].name)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Drag an edge between names."""
        if event is None:
            return
        x, y = event.position().toPoint().x(), event.position().toPoint().y()
        if self._held is not None:
            self._widths[self._held] = max(NARROWEST // 2, x - self._x(self._held))
            self._lefts = [sum(self._widths[:index]) for index in range(len(self._widths))]
            self._set_bars()
            self._touch()
        elif port := self.viewport():
            at_edge = self._edge_at(x, y) is not None
            port.setCursor(Qt.CursorShape.SplitHCursor if at_edge else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        self._held = None

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """Show a cell in the figure."""
        if event is not None and event.position().y() >= sized(HEADER):
            self._show()

    def _show(self) -> None:
        if current := self.current:
            row, column = current
            self.shown.emit(row, column.name)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """Offer what can be done with a cell."""
        if event is None or self.table is None:
            return
        column = self._column_at(event.pos().x())
        if column is None:
            return
        if event.reason() == QContextMenuEvent.Reason.Mouse and event.pos().y() >= sized(HEADER):
            row = (event.pos().y() - sized(HEADER) + self.scrolled) // sized(ROW)
            if row < self.count:
                self.go_to(row, column)
        if current := self.current:
            self.menu_asked.emit(current[0], self.table.columns[column].name, event.globalPos())

    def event(self, event: QEvent | None) -> bool:
        """Keep Ctrl+C."""
        return keeps_copy(event) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows, pages and ends move the current cell; Enter shows it in the figure, and Ctrl+C
        copies it."""
        if event is None or self.table is None:
            return
        ctrl = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        port = self.viewport()
        page = max(1, ((port.height() if port else 0) - sized(HEADER)) // sized(ROW) - 1)
        key, last = event.key(), len(self.table.columns) - 1
        moves: dict[int, tuple[int, int]] = {
            Qt.Key.Key_Down: (self.row + 1, self.column),
            Qt.Key.Key_Up: (self.row - 1, self.column),
            Qt.Key.Key_Left: (self.row, self.column - 1),
            Qt.Key.Key_Right: (self.row, self.column + 1),
            Qt.Key.Key_PageDown: (self.row + page, self.column),
            Qt.Key.Key_PageUp: (self.row - page, self.column),
            Qt.Key.Key_Home: (0 if ctrl else self.row, self.column if ctrl else 0),
            Qt.Key.Key_End: (self.count - 1 if ctrl else self.row, self.column if ctrl else last),
        }
        if key in moves:
            before = self.column
            self.go_to(*moves[key])
            if self.column != before:
                self.column_chosen.emit(self.table.columns[self.column].name)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._show()
        elif is_copy(event) and (current := self.current):
            self.copied.emit(current[0], current[1].name)
        elif key == Qt.Key.Key_Menu and (current := self.current) and port:
            where = QPoint(self._x(self.column) + 8, sized(HEADER))
            self.menu_asked.emit(current[0], current[1].name, port.mapToGlobal(where))
        else:
            super().keyPressEvent(event)
