"""The list of groups: ticks show or leave out, a click brings forward, dragging sets the order."""

from PyQt6.QtCore import (
    QEvent,
    QPoint,
    QSignalBlocker,
    QSize,
    Qt,
    QTimer,
    pyqtBoundSignal,
    pyqtSignal,
)
from PyQt6.QtGui import QColor, QIcon, QKeyEvent, QMouseEvent, QPixmap
from PyQt6.QtWidgets import QApplication, QHeaderView, QTreeWidget, QTreeWidgetItem, QWidget

from rhabdos.app.controls.plain_texts import plain_tip
from rhabdos.app.controls.theme import sized, theme
from rhabdos.figure.edits.level_edits import LevelList, ListedLevel

_ROW, _MOST_ROWS = 24, 18  # pixels, and rows before the list scrolls
_LEVEL = Qt.ItemDataRole.UserRole
_FACTOR = Qt.ItemDataRole.UserRole + 1


class LevelsList(QTreeWidget):
    """Levels under the names of their factors; what a hand asks for is told by signals."""

    ticked = pyqtSignal(object)
    """A level to leave out, or to show again."""
    chosen = pyqtSignal(str, bool)
    """The name of a level to bring forward, and whether others stay so."""
    ordered = pyqtSignal(str, list)
    """A factor, and the names of its levels in their new order."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._shown: tuple[tuple[LevelList, ...], tuple[str, ...]] | None = None
        self.setAccessibleName("Groups")
        self.setColumnCount(2)
        self.setHeaderHidden(True)
        self.setRootIsDecorated(False)
        self.setIndentation(0)
        self.setUniformRowHeights(True)
        self.setSelectionMode(QTreeWidget.SelectionMode.NoSelection)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setTextElideMode(Qt.TextElideMode.ElideMiddle)
        self.setDragDropMode(QTreeWidget.DragDropMode.NoDragDrop)
        if (columns := self.header()) is not None:
            columns.setStretchLastSection(False)
            columns.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            columns.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self._held: QTreeWidgetItem | None = None
        self._pressed_at = QPoint()
        self._dragged = False
        self._was_ticked = self._more = False
        self.itemChanged.connect(self._changed)
        self.itemClicked.connect(self._clicked)

    def show_lists(self, lists: tuple[LevelList, ...], colours: tuple[str, ...]) -> None:
        """Show the levels of a figure; ``colours`` are by place."""
        # The same rows made anew would lose the selection and the place.
        if self._shown == (lists, colours):
            return
        self._shown = lists, colours
        row = self.indexOfTopLevelItem(self.currentItem()) if self.currentItem() else 0
        with QSignalBlocker(self):
            self.clear()
            for listed in lists:
                if len(lists) > 1:
                    title = QTreeWidgetItem([listed.title, ""])
                    title.setFlags(Qt.ItemFlag.NoItemFlags)
                    title.setSizeHint(0, QSize(0, sized(_ROW)))
                    self.addTopLevelItem(title)
                for level in listed.levels:
                    self.addTopLevelItem(_item(listed.title, level, colours))
        count = self.topLevelItemCount()
        if count:
            self.setCurrentItem(self.topLevelItem(min(max(row, 0), count - 1)))
        self.setFixedHeight(sized(_ROW) * min(max(count, 1), _MOST_ROWS) + 6)

    def changeEvent(self, event: QEvent | None) -> None:
        """Rows hold their colours: others are wanted where the window is dressed anew."""
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.StyleChange and self._shown:
            (lists, colours), self._shown = self._shown, None
            self.show_lists(lists, colours)

    def item_of(self, label: str) -> QTreeWidgetItem:
        """The row of a level."""
        rows = (self.topLevelItem(row) for row in range(self.topLevelItemCount()))
        return next(item for item in rows if item and _level_of(item) and item.text(0) == label)

    # What a hand does

    def _changed(self, item: QTreeWidgetItem, _column: int) -> None:
        if level := _level_of(item):
            self._was_ticked, self._shown = True, None
            _later(self.ticked, level)

    def _clicked(self, item: QTreeWidgetItem, _column: int) -> None:
        ticked, self._was_ticked = self._was_ticked, False
        level = _level_of(item)
        if level and not ticked:
            _later(self.chosen, level.label, self._more)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        super().mousePressEvent(event)
        self._was_ticked = self._dragged = False
        if event and event.button() == Qt.MouseButton.LeftButton:
            self._pressed_at = event.position().toPoint()
            more = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
            self._more = bool(event.modifiers() & more)
            self._held = self.itemAt(self._pressed_at)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Let the row that is held stand where the hand is, among the levels of its factor."""
        if event is None or self._held is None:
            return
        place = event.position().toPoint()
        away = abs(place.y() - self._pressed_at.y())
        self._dragged |= away >= QApplication.startDragDistance()
        if self._dragged:
            self._carry(self._held, self.itemAt(QPoint(self._pressed_at.x(), place.y())))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        held, self._held = self._held, None
        if not self._dragged:
            super().mouseReleaseEvent(event)
        elif held is not None:
            self._tell_order(held)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """With Alt, up and down move a row; Enter brings its level forward."""
        item = self.currentItem()
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key())) if event else None
        if event is None or item is None:
            super().keyPressEvent(event)
        elif step and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            target = self.topLevelItem(self.indexOfTopLevelItem(item) + step)
            if self._carry(item, target):
                self._tell_order(item)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and (level := _level_of(item)):
            more = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            _later(self.chosen, level.label, more)
        else:
            super().keyPressEvent(event)

    def _carry(self, item: QTreeWidgetItem, target: QTreeWidgetItem | None) -> bool:
        """Move a row to the place of another; tells whether it may stand there."""
        if target is None or target is item or target.data(0, _FACTOR) != item.data(0, _FACTOR):
            return False
        held, there = _level_of(item), _level_of(target)
        if held is None or there is None or held.missing or there.missing:
            return False
        index = self.indexOfTopLevelItem(target)
        self._shown = None  # what the hand has changed is made anew, also if it is refused
        with QSignalBlocker(self):
            self.insertTopLevelItem(index, self.takeTopLevelItem(self.indexOfTopLevelItem(item)))
            self.setCurrentItem(item)
        return True

    def _tell_order(self, item: QTreeWidgetItem) -> None:
        factor = item.data(0, _FACTOR)
        rows = [self.topLevelItem(row) for row in range(self.topLevelItemCount())]
        levels = [_level_of(row) for row in rows if row and row.data(0, _FACTOR) == factor]
        labels = [level.label for level in levels if level and not level.missing]
        _later(self.ordered, factor, labels)


def _later(signal: pyqtBoundSignal, *told: object) -> None:
    """Tell in the next turn: what follows makes the rows anew, and Qt still holds them now."""
    QTimer.singleShot(0, lambda: signal.emit(*told))


def _level_of(item: QTreeWidgetItem) -> ListedLevel | None:
    level = item.data(0, _LEVEL)
    return level if isinstance(level, ListedLevel) else None


def _item(factor: str, level: ListedLevel, colours: tuple[str, ...]) -> QTreeWidgetItem:
    """A row: a tick, the colour, the name, and how many values there are."""
    item = QTreeWidgetItem([level.label, f"{level.n:,}"])
    item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsUserCheckable)
    item.setCheckState(0, Qt.CheckState.Checked if level.shown else Qt.CheckState.Unchecked)
    item.setData(0, _LEVEL, level)
    item.setData(0, _FACTOR, factor)
    item.setToolTip(0, plain_tip(level.label))
    item.setTextAlignment(1, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
    item.setForeground(1, QColor(theme().quiet))
    item.setSizeHint(0, QSize(0, sized(_ROW)))
    if level.colour is not None:
        item.setIcon(0, QIcon(swatch_of(colours[level.colour])))
    if not level.shown:
        item.setForeground(0, QColor(theme().quiet))
    if level.forward:
        font = item.font(0)
        font.setBold(True)
        item.setFont(0, font)
        for column in (0, 1):
            item.setBackground(column, QColor(theme().shown_ground))
    return item


def swatch_of(colour: str, size: int = 12) -> QPixmap:
    """A square of a group's colour."""
    pixels = QPixmap(size, size)
    pixels.fill(QColor(colour))
    return pixels
