"""The levels of one variable with their counts: renamed, merged, put in order, declared missing."""

from PyQt6.QtCore import QPoint, QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem, QWidget

from rhabdos.app.controls.choices import Choices
from rhabdos.app.controls.theme import growing, sized
from rhabdos.data.columns import CategoryColumn
from rhabdos.quoting import brief, printable

MOST_LISTED = 500
_ROW, _MOST_ROWS = 26, 9
_LEVEL = Qt.ItemDataRole.UserRole


class LevelsTable(QTableWidget):
    """One row a level.

    Signals
    -------
    renamed : a dict from names to new ones; several that come to be the same become one level.
    ordered : all levels in their new order.
    dropped : levels that stand for missing values.
    """

    renamed = pyqtSignal(object)
    ordered = pyqtSignal(list)
    dropped = pyqtSignal(list)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(0, 2, parent)
        self.setAccessibleName("Levels")
        self.setShowGrid(False)
        self.setTabKeyNavigation(False)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._offer)
        if (rows := self.verticalHeader()) is not None:
            rows.hide()
            growing(QHeaderView.setDefaultSectionSize, rows, _ROW)
        if (columns := self.horizontalHeader()) is not None:
            columns.hide()
            columns.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            columns.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self._levels: tuple[str, ...] = ()
        self.itemChanged.connect(self._edited)

    def show_column(self, column: CategoryColumn) -> int:
        """List the levels of a column; returns how many there was no room for."""
        row = self.currentRow()
        listed = column.levels[:MOST_LISTED]
        counts = column.level_counts
        self._levels = listed
        with QSignalBlocker(self):  # a cell that is filled in is no name that was typed
            self.setRowCount(len(listed))
            for index, level in enumerate(listed):
                name = QTableWidgetItem(printable(level))
                name.setData(_LEVEL, level)
                number = QTableWidgetItem(f"{int(counts[index]):,}")
                number.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
                number.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.setItem(index, 0, name)
                self.setItem(index, 1, number)
            if 0 <= row < len(listed):
                self.setCurrentCell(row, 0)
        self.setFixedHeight(sized(_ROW) * min(max(len(listed), 1), _MOST_ROWS) + 4)
        return len(column.levels) - len(listed)

    def _edited(self, item: QTableWidgetItem) -> None:
        level, typed = item.data(_LEVEL), item.text().strip()
        if item.column() or typed == printable(str(level)):
            return
        if not typed:
            with QSignalBlocker(self):
                item.setText(printable(str(level)))
            return
        self.renamed.emit({str(level): typed})

    def chosen_levels(self) -> list[str]:
        """The levels whose rows are selected."""
        rows = sorted({index.row() for index in self.selectedIndexes()})
        return [self._levels[row] for row in rows]

    def _offer(self, place: QPoint) -> None:
        chosen = self.chosen_levels()
        port = self.viewport()
        if not chosen or port is None:
            return
        menu = Choices(self)
        if len(chosen) > 1:
            menu.offer(f"Make them one, “{brief(chosen[0])}”", lambda: self.merge(chosen))
        else:
            menu.offer("Another name", lambda: self.editItem(self.currentItem()))
        menu.offer("Earlier", lambda: self.shift(-1))
        menu.offer("Later", lambda: self.shift(1))
        menu.offer("Count as missing", lambda: self.dropped.emit(chosen))
        menu.open_at(port.mapToGlobal(place))

    def merge(self, levels: list[str]) -> None:
        """Make several levels one, called as the first of them."""
        if len(levels) > 1:
            self.renamed.emit({level: levels[0].strip() for level in levels[1:]})

    def shift(self, by: int) -> None:
        """Move the current level up or down."""
        row = self.currentRow()
        there = row + by
        if 0 <= row < len(self._levels) and 0 <= there < len(self._levels):
            order = list(self._levels)
            order.insert(there, order.pop(row))
            self.setCurrentCell(there, 0)
            self.ordered.emit(order)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Alt and arrows move a level, M makes the chosen ones one, Del counts them as missing."""
        if event is None:
            return
        alt = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if alt and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.shift(-1 if event.key() == Qt.Key.Key_Up else 1)
        elif event.key() == Qt.Key.Key_Delete and (chosen := self.chosen_levels()):
            self.dropped.emit(chosen)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.currentItem():
            self.editItem(self.item(self.currentRow(), 0))
        else:
            super().keyPressEvent(event)
