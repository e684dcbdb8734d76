"""A small sheet that draws as one types: numbers, with names if wanted."""

from contextlib import suppress

from msgspec import structs
from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractItemDelegate,
    QApplication,
    QDialog,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from rhabdos.app.controls.dialog_layout import lay_out_beside, pause
from rhabdos.app.controls.mnemonics import give_letters
from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.controls.small_figure import SmallFigure
from rhabdos.app.controls.theme import sized
from rhabdos.app.controls.typed_fields import fault_line, heading, labelled, quiet
from rhabdos.data.columns import CategoryColumn, LabelColumn, NumberColumn
from rhabdos.data.files.pasted import one_a_line
from rhabdos.data.problems.measuring import measuring
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.sources import Values
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.project.making import new_figure
from rhabdos.wording import counted

_PAUSE = 150  # milliseconds without a keystroke, after which the figure follows
_FIRST_ROWS, _MORE = 30, 20
_COLUMNS = ("Value", "Group")  # as they are called until somebody names them


def may_be_typed(step: Values) -> bool:
    """Whether a sheet of a number and a name in each row holds all of some values."""
    wide = max(line.count("\t") + 1 for line in step.text.split("\n"))
    try:
        columns = step.table().columns
    except Refusal:
        return False
    return wide <= 2 and len(columns) == wide and isinstance(columns[0], NumberColumn)


class TypingDialog(QDialog):
    """Two columns to type into, and the figure of what was typed so far.

    Signals
    -------
    typed : the values so far as a step, or None.
    """

    typed = pyqtSignal(object)

    def __init__(self, step: Values | None = None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Type values")
        self.resize(860, 540)
        self.step: Values | None = None
        self._former = step
        self.number, self.group = QLineEdit(_COLUMNS[0]), QLineEdit(_COLUMNS[1])
        self.number.setAccessibleName("What the numbers are called")
        self.group.setAccessibleName("What the names are called")
        self.sheet = Sheet()
        self.figure = SmallFigure()
        self.told, self.fault = quiet(), fault_line()
        self.done_button = QPushButton("Draw them")
        self.done_button.setDefault(True)
        self.leave_button = QPushButton("Leave it")
        left = in_a_column(
            heading("Numbers, and names if wanted"),
            labelled([("Numbers are", self.number), ("Names are", self.group)]),
            (self.sheet, 1),
        )
        shown = (self.figure, self.told, self.fault)
        lay_out_beside(self, left, 300, shown, (None, self.leave_button, self.done_button))
        self._pause = pause(self, _PAUSE, self.draw)
        self.sheet.changed.connect(self._pause.start)
        for field in (self.number, self.group):
            field.textEdited.connect(lambda _text: self._pause.start())
        self.done_button.clicked.connect(self.accept_values)
        self.leave_button.clicked.connect(self.reject)
        if step is not None:
            self._fill(step)
        give_letters(self)
        self.draw()
        self.sheet.setFocus()
        self.sheet.setCurrentCell(0, 0)

    def _fill(self, step: Values) -> None:
        lines = [line.split("\t") for line in step.text.split("\n") if line]
        if lines and lines[0][0] and not _is_number(lines[0][0]):
            lines.pop(0)
        # As they are called now, which without a row of names is by their number.
        with suppress(Refusal):
            columns = step.table().columns
            for field, column in zip((self.number, self.group), columns, strict=False):
                field.setText(column.name)
        self.sheet.fill([[*line, ""][:2] for line in lines])

    def values(self) -> Values | None:
        """What was typed, as a step; None where nothing was."""
        rows = self.sheet.rows()
        if not any(number or name for number, name in rows):
            return None
        named = any(name for _, name in rows)
        number = self.number.text().strip() or _COLUMNS[0]
        group = self.group.text().strip() or _COLUMNS[1]
        lines = [f"{number}\t{group}" if named else number]
        lines += ["\t".join(row) if named else row[0] for row in rows]
        step = Values(text="\n".join(lines) + "\n", read=Read(separator="\t"))
        if self._former is None:
            return step
        return structs.replace(step, name=self._former.name, off=self._former.off)

    def draw(self) -> None:
        """Draw what was typed so far, and say what of it is no number."""
        step = self.values()
        self.typed.emit(step)
        self.fault.hide()
        self.done_button.setEnabled(False)
        if step is None:
            self.told.setText("Type a number in each row, or paste a column of them.")
            self.figure.show_nothing()
            return
        try:
            table = step.table()
        except Refusal:
            self.told.setText("Type a number in each row, or paste a column of them.")
            self.figure.show_nothing()
            return
        number = table.columns[0]
        if not isinstance(number, NumberColumn):
            wrong = next((n for n, _ in self.sheet.rows() if n and not _is_number(n)), "")
            self.fault.setText(f"“{wrong}” is no number. Correct it, or leave the cell blank.")
            self.fault.show()
            return
        self.step = step
        self.done_button.setEnabled(bool(number.n))
        self.told.setText(_told(table))
        recipe = first_look(table)
        if recipe is not None:
            self.figure.show_figure(table, recipe)

    def accept_values(self) -> None:
        """Take over what was typed."""
        self.draw()
        if self.done_button.isEnabled() and not self.fault.isVisible():
            self.accept()


def first_look(table: Table) -> Recipe | None:
    """Bars of the first number, split by the first group of which there are few."""
    number = next(iter(measuring(table)), None)
    if number is None:
        return None
    groups = [
        c.name for c in table.columns if isinstance(c, CategoryColumn) and 2 <= len(c.levels) <= 12
    ]
    return new_figure(number.name, tuple(groups[:1]))


def _told(table: Table) -> str:
    number = table.columns[0]
    words = counted(number.n, "number", "numbers")
    if len(table.columns) > 1:
        group = table.columns[1]
        if isinstance(group, CategoryColumn):
            words += f" in {counted(len(group.levels), 'group', 'groups')}"
        elif isinstance(group, LabelColumn):
            words += ", each with its name"
    return f"{words}; {number.missing} blank." if number.missing else f"{words}."


def _is_number(text: str) -> bool:
    from rhabdos.figure.recipe.edge_text import read_number

    return read_number(text) is not None


class Sheet(QTableWidget):
    """Two columns of cells, in which keys go as a typist expects: Tab to the next cell, also from
    the end of a row to the next one; Enter down, to where the row was begun. A paste fills as many
    cells as it has."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__(_FIRST_ROWS, 2)
        self.setAccessibleName("Cells")
        self.setObjectName("typed")
        self.setHorizontalHeaderLabels(["Number", "Name, if wanted"])
        if (columns := self.horizontalHeader()) is not None:
            columns.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        if (rows := self.verticalHeader()) is not None:
            rows.setDefaultSectionSize(sized(26))
        self.setTabKeyNavigation(False)
        self._begun = 0
        self._by_tab = False
        self.itemChanged.connect(self._edited)
        self.currentCellChanged.connect(self._arrived)

    def _edited(self, item: QTableWidgetItem) -> None:
        if item.row() >= self.rowCount() - 3:
            self.setRowCount(self.rowCount() + _MORE)
        self.changed.emit()

    def _arrived(self, _row: int, column: int, _before: int, _from: int) -> None:
        """Remember where a row is begun, to which Enter comes back."""
        if not self._by_tab:
            self._begun = max(0, column)

    def _across(self, step: int) -> None:
        """To the next cell or the one before, also from row to row."""
        at = max(0, self.currentRow()) * 2 + max(0, self.currentColumn()) + step
        if 0 <= at < 2 * self.rowCount():
            self._by_tab = True
            self.setCurrentCell(*divmod(at, 2))
            self._by_tab = False

    def _down(self) -> None:
        self.setCurrentCell(min(self.currentRow() + 1, self.rowCount() - 1), self._begun)

    def closeEditor(self, editor: QWidget | None, hint: QAbstractItemDelegate.EndEditHint) -> None:
        """Go on from a cell that was typed into."""
        ends = QAbstractItemDelegate.EndEditHint
        entered = hint == ends.NoHint and editor is not None and editor.hasFocus()
        steps = {ends.EditNextItem: 1, ends.EditPreviousItem: -1}
        super().closeEditor(editor, ends.NoHint if hint in steps else hint)
        if hint in steps:
            self._across(steps[hint])
        elif entered:
            self._down()

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Tab goes from cell to cell; from the first one back, and after the last, on to what is
        beside."""
        row, column = self.currentRow(), self.currentColumn()
        if forward and not (row > len(self.rows()) and column == 0):
            self._across(1)
            return True
        if not forward and (row, column) > (0, 0):
            self._across(-1)
            return True
        return super().focusNextPrevChild(forward)

    def rows(self) -> list[tuple[str, str]]:
        """What was typed, without the blank rows at the end."""
        typed = [(self._text(row, 0), self._text(row, 1)) for row in range(self.rowCount())]
        while typed and not any(typed[-1]):
            typed.pop()
        return typed

    def _text(self, row: int, column: int) -> str:
        item = self.item(row, column)
        return " ".join(item.text().split()) if item else ""

    def fill(self, rows: list[list[str]], row: int = 0, column: int = 0) -> None:
        """Put texts into cells, from one on."""
        with QSignalBlocker(self):  # one change, however many cells
            self.setRowCount(max(self.rowCount(), row + len(rows) + _MORE))
            for down, texts in enumerate(rows):
                for across, text in enumerate(texts[: 2 - column]):
                    self.setItem(row + down, column + across, QTableWidgetItem(text.strip()))
        self.changed.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter goes down, Ctrl+V pastes cells, Del clears them."""
        if event is None:
            return
        ctrl = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if ctrl and event.key() == Qt.Key.Key_V:
            clipboard = QApplication.clipboard()
            text = clipboard.text() if clipboard else ""
            lines = (one_a_line(text) or text).splitlines()
            self.fill(
                [line.split("\t") for line in lines],
                max(0, self.currentRow()),
                max(0, self.currentColumn()),
            )
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._down()
        elif event.key() == Qt.Key.Key_Delete:
            for index in self.selectedIndexes():
                self.takeItem(index.row(), index.column())
            self.changed.emit()
        else:
            super().keyPressEvent(event)
