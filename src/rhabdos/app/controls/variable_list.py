"""A list of variables to choose one from."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox

from rhabdos.app.controls.typed_fields import be_typed_in, chooser
from rhabdos.data.columns import Column
from rhabdos.data.table import Table
from rhabdos.quoting import printable


def variable_chooser(name: str, columns: Sequence[Column], present: str = "") -> QComboBox:
    """A list of variables that can be typed into, since there may be a thousand."""
    box = chooser(name)
    be_typed_in(box)
    box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
    if completer := box.completer():
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.setCompletionMode(completer.CompletionMode.PopupCompletion)
    if line := box.lineEdit():  # a long name shows how it begins
        box.currentIndexChanged.connect(lambda: line.setCursorPosition(0))
        box.activated.connect(lambda: line.setCursorPosition(0))
    for column in columns:
        box.addItem(printable(column.label), column.name)
    choose_variable(box, present)
    return box


def choose_variable(box: QComboBox, name: str) -> None:
    """Let a list of variables show one of them, if it is there."""
    index = box.findData(name)
    if index >= 0:
        box.setCurrentIndex(index)


def chosen_variable(box: QComboBox, table: Table) -> Column:
    """The variable that a list shows, or whose name was typed into it.

    Raises
    ------
    VariableError
        There is none of that name.
    """
    typed = box.currentText().strip()
    if box.currentIndex() >= 0 and box.itemText(box.currentIndex()) == typed:
        return table.column(str(box.currentData()))
    return table.column(typed)
