"""Lists of numbers: sorted by a click on a heading, and copied as cells."""

import math

from PyQt6.QtCore import (
    QAbstractTableModel,
    QEvent,
    QModelIndex,
    QSortFilterProxyModel,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import QContextMenuEvent, QGuiApplication, QKeyEvent
from PyQt6.QtWidgets import QAbstractItemView, QTableView, QWidget

from rhabdos.app.controls.choices import Choices
from rhabdos.app.controls.copying import is_copy, keeps_copy
from rhabdos.app.controls.plain_texts import plain_tip
from rhabdos.figure.output.listed import Listed, plain

_SORTED_BY = Qt.ItemDataRole.UserRole


class ListedModel(QAbstractTableModel):
    """Rows of cells under titles; what is not worked out yet is "…"."""

    names = 1
    """How many of the first columns hold words, which begin at the left."""

    @property
    def titles(self) -> tuple[str, ...]:
        """What the columns hold."""
        raise NotImplementedError

    def cell(self, row: int, column: int) -> Listed | None:
        """A cell; None where it is not worked out yet."""
        raise NotImplementedError

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent and parent.isValid() else len(self.titles)

    def headerData(
        self, section: int, way: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        if way == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return self.titles[section]
        if way == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.TextAlignmentRole:
            return self._side(section)
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """The text of a cell, what it is sorted by, its side, and its tip."""
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return self._side(index.column())
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole, _SORTED_BY):
            return None
        cell = self.cell(index.row(), index.column())
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(cell.tip) if cell and cell.tip else None
        if cell is None:
            return "…" if role == Qt.ItemDataRole.DisplayRole else math.nan
        return cell.text if role == Qt.ItemDataRole.DisplayRole else cell.value

    def _side(self, section: int) -> Qt.AlignmentFlag:
        left = section < self.names
        side = Qt.AlignmentFlag.AlignLeft if left else Qt.AlignmentFlag.AlignRight
        return side | Qt.AlignmentFlag.AlignVCenter


class _Sorted(QSortFilterProxyModel):
    """Rows by a column; those that have nothing there come last, whichever way."""

    def lessThan(self, left: QModelIndex, right: QModelIndex) -> bool:
        first, second = left.data(_SORTED_BY), right.data(_SORTED_BY)
        if isinstance(first, float) and isinstance(second, float):
            if math.isnan(first) or math.isnan(second):
                rising = self.sortOrder() == Qt.SortOrder.AscendingOrder
                return rising if math.isnan(second) and not math.isnan(first) else not rising
            return first < second
        return str(first) < str(second)


class SortedList(QTableView):
    """A view of such rows; Ctrl+C copies those that are chosen, as they are shown; the right button
    offers all digits too.

    Signals
    -------
    pointed : the row of the unsorted list that the mouse is on; -1 where it has left.
    """

    pointed = pyqtSignal(int)

    def __init__(self, rows: ListedModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.listed = rows
        self.sorted = _Sorted(self)
        self.sorted.setSourceModel(rows)
        self.setModel(self.sorted)
        self.setShowGrid(False)
        self.setSortingEnabled(True)
        self.setTabKeyNavigation(False)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setMouseTracking(True)
        self.entered.connect(lambda index: self.pointed.emit(self.row_of(index)))
        if (names := self.verticalHeader()) is not None:
            names.hide()
        if (heads := self.horizontalHeader()) is not None:
            heads.setSortIndicatorClearable(True)
            heads.setHighlightSections(False)
            heads.setSortIndicator(-1, Qt.SortOrder.AscendingOrder)

    def row_of(self, index: QModelIndex) -> int:
        """The row of the unsorted list that stands there."""
        return self.sorted.mapToSource(index).row()

    def leaveEvent(self, event: QEvent | None) -> None:
        super().leaveEvent(event)
        self.pointed.emit(-1)

    def event(self, event: QEvent | None) -> bool:
        """Keep Ctrl+C."""
        return keeps_copy(event) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Ctrl+C copies."""
        if is_copy(event):
            self._copy(False)
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """Copy as shown, or with all digits."""
        if event is None or not self.sorted.rowCount():
            return
        menu = Choices(self)
        menu.offer("Copy as shown", lambda: self._copy(False))
        menu.offer("Copy with all digits", lambda: self._copy(True))
        menu.open_at(event.globalPos())

    def _copy(self, full: bool) -> None:
        if (board := QGuiApplication.clipboard()) is not None:
            board.setText(self.as_cells(full))

    def as_cells(self, full: bool = False) -> str:
        """The chosen rows, or all where none is chosen, under their headings: cells parted by tabs
        as spreadsheets take them, with plain numbers as they are shown, or in ``full``."""
        chosen = self.selectionModel()
        rows = sorted({index.row() for index in chosen.selectedRows()}) if chosen else []
        rows = rows or list(range(self.sorted.rowCount()))
        titles = self.listed.titles
        lines = ["\t".join(titles)]
        for row in rows:
            source = self.row_of(self.sorted.index(row, 0))
            cells = (self.listed.cell(source, column) for column in range(len(titles)))
            lines.append("\t".join(plain(cell, full) for cell in cells))
        return "\n".join(lines) + "\n"
