"""The second face of the overview: the numbers of every variable in a list, to be sorted."""

from PyQt6.QtCore import QModelIndex, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QKeyEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QWidget

from rhabdos.app.controls.sorted_list import ListedModel, SortedList
from rhabdos.app.session.tasks import Task
from rhabdos.data.columns import Column
from rhabdos.data.reporting import Report
from rhabdos.figure.output.listed import Listed
from rhabdos.figure.output.variable_numbers import FIRST_LOOK, TITLES, first_cells, further_cells

_SORTED_BY = Qt.ItemDataRole.UserRole
_AT_ONCE_ROWS = 20_000  # of a column whose numbers are not waited for
_WIDEST, _AFTER_NAMES = 320, 16  # pixels of the names of variables, and free after them


class _Model(ListedModel):
    """One row a variable."""

    names = 2
    titles = TITLES

    def __init__(self, parent: QWidget | None) -> None:
        super().__init__(parent)
        self.columns: list[Column] = []
        self._first: list[list[Listed]] = []
        self._further: dict[int, tuple[Column, list[Listed]]] = {}

    def show_columns(self, columns: list[Column]) -> None:
        """List other variables."""
        self.beginResetModel()
        self.columns = columns
        self._first = [first_cells(column) for column in columns]
        self.endResetModel()

    def forget(self) -> None:
        """Let go of the numbers of another table."""
        self._further.clear()

    def waiting(self) -> Column | None:
        """The first variable whose numbers are not worked out."""
        return next((c for c in self.columns if id(c) not in self._further), None)

    def keep(self, column: Column, cells: list[Listed]) -> None:
        """Show the numbers of a variable; it is kept too, so that its id stays its own."""
        self._further[id(column)] = column, cells
        row = next((r for r, listed in enumerate(self.columns) if listed is column), None)
        if row is not None:
            last = self.index(row, len(TITLES) - 1)
            self.dataChanged.emit(self.index(row, FIRST_LOOK), last)

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent and parent.isValid() else len(self.columns)

    def cell(self, row: int, column: int) -> Listed | None:
        """A cell; None where it is not worked out yet."""
        if column < FIRST_LOOK:
            return self._first[row][column]
        kept = self._further.get(id(self.columns[row]))
        return kept[1][column - FIRST_LOOK] if kept else None


class NumbersList(SortedList):
    """The list; a click on a variable draws it, and Ctrl+C copies the rows that are chosen.

    Signals
    -------
    opened : a variable's name, to be drawn.
    """

    opened = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        self.model_of_all = _Model(parent)
        super().__init__(self.model_of_all, parent)
        self.setAccessibleName("Numbers of every variable")
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setToolTip(
            "Click a variable’s name to draw it; click a heading to sort; Ctrl+C copies the rows"
        )
        if (heads := self.horizontalHeader()) is not None:
            heads.setMinimumSectionSize(heads.fontMetrics().horizontalAdvance("0") * 8)
            heads.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
            heads.setSectionResizeMode(0, QHeaderView.ResizeMode.Fixed)
        self._task: Task | None = None
        self._begin = QTimer(self)  # after the list is painted, which shall not wait
        self._begin.setSingleShot(True)
        self._begin.timeout.connect(self._next)
        self.clicked.connect(self._click)
        self.doubleClicked.connect(self._open)

    def show_columns(self, columns: list[Column]) -> None:
        """List other variables, and work their numbers out while the list is in sight."""
        self.model_of_all.show_columns(columns)
        self.resizeColumnToContents(0)
        self.setColumnWidth(0, min(self.columnWidth(0) + _AFTER_NAMES, _WIDEST))
        if self.isVisible():
            self._begin.start()

    def showEvent(self, event: object) -> None:
        """Begin to work out what is missing."""
        super().showEvent(event)  # type: ignore[arg-type]
        self._begin.start()

    def forget(self) -> None:
        """Let go of another table's numbers."""
        if self._task:
            self._task.cancel()
            self._task = None
        self.model_of_all.forget()

    @property
    def complete(self) -> bool:
        """Whether all numbers are there."""
        return self.model_of_all.waiting() is None

    def _next(self) -> None:
        """Short variables at once, a long one after the other beside them."""
        if self._task is not None or not self.isVisible():
            return
        while (column := self.model_of_all.waiting()) is not None:
            if column.rows > _AT_ONCE_ROWS:
                break
            self.model_of_all.keep(column, further_cells(column))
        if column is None:
            return
        long = column

        def work(_report: Report) -> list[Listed]:
            """Work the numbers of a variable out."""
            return further_cells(long)

        def done(cells: list[Listed]) -> None:
            """Show them, and go on with the next."""
            self._task = None
            self.model_of_all.keep(long, cells)
            self._next()

        self._task = Task(work, self)
        self._task.succeeded.connect(done)
        self._task.begin()

    def _column_at(self, index: QModelIndex) -> Column:
        return self.model_of_all.columns[self.row_of(index)]

    def _click(self, index: QModelIndex) -> None:
        keys = QGuiApplication.keyboardModifiers()
        choosing = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
        if index.column() == 0 and not keys & choosing:
            self._open(index)

    def _open(self, index: QModelIndex) -> None:
        self.opened.emit(self._column_at(index).name)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter draws."""
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.currentIndex().isValid():
            self._open(self.currentIndex())
        else:
            super().keyPressEvent(event)
