"""A field that is typed into: it asks when the typing is done, and says so when it makes no
sense."""

from collections.abc import Iterable, Sequence

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence, QShowEvent
from PyQt6.QtWidgets import QComboBox, QFormLayout, QFrame, QLabel, QLineEdit, QScrollArea, QWidget

from rhabdos.app.controls.marked import dressed_as, mark


class Field(QLineEdit):
    """A line of text that shows a value of the figure.

    ``entered`` tells what was typed, once Enter is pressed, or the field is left with something
    else than what is shown. Escape takes the typing back.
    """

    entered = pyqtSignal(str)
    taken_back = pyqtSignal()

    def __init__(self, name: str, placeholder: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setPlaceholderText(placeholder)
        self._shown = ""
        self.returnPressed.connect(self._confirm)
        self.editingFinished.connect(self._finish)

    def show_value(self, text: str) -> None:
        """Show the figure's value, unless the user is in the middle of typing another."""
        if self.hasFocus() and self.isModified():
            return
        self.mark_wrong(False)
        self._shown = text
        if text != self.text():
            self.setText(text)
            self.setCursorPosition(0)

    def mark_wrong(self, wrong: bool) -> None:
        """Show whether what was typed makes no sense."""
        mark(self, "wrong", wrong)

    def _confirm(self) -> None:
        """What is typed and confirmed is meant, also where a rule had come to the same."""
        if self.isModified():
            self.setModified(False)
            self.entered.emit(self.text().strip())

    def _finish(self) -> None:
        if self.isModified() and self.text().strip() != self._shown:
            self.setModified(False)
            self.entered.emit(self.text().strip())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event and event.key() == Qt.Key.Key_Escape:
            self.setText(self._shown)
            self.mark_wrong(False)
            self.selectAll()
            self.taken_back.emit()
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent | None) -> bool:
        """Leave undo to the figure while nothing is typed; select all on entering."""
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and not self.isModified()
        ):
            undo, redo = QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo
            if event.matches(undo) or event.matches(redo):
                event.ignore()  # nothing is being typed: the figure's own undo is meant
                return False
        if event and event.type() == QEvent.Type.FocusIn:
            handled = super().event(event)
            self.selectAll()
            return handled
        return super().event(event)


class ChoiceBox(QComboBox):
    """A list of choices, words with what they stand for, that is heard by its name."""

    def __init__(self, name: str, choices: Iterable[tuple[str, object]] = ()) -> None:
        super().__init__()
        self.setAccessibleName(name)
        for words, meant in choices:
            self.addItem(words, meant)

    def showEvent(self, event: QShowEvent | None) -> None:
        """Have a label for those who hear it, where none is to be seen: what a box is called is
        not heard otherwise, only what is chosen in it."""
        super().showEvent(event)
        around = self.parentWidget()
        directly = Qt.FindChildOption.FindDirectChildrenOnly
        labels = around.findChildren(QLabel, options=directly) if around else []
        if not any(label.buddy() is self for label in labels):
            label = QLabel(self.accessibleName(), around)
            label.setBuddy(self)
            label.hide()


def chooser(name: str, choices: Iterable[tuple[str, object]] = ()) -> QComboBox:
    """A list of choices that is as wide as its panel, however long its names are."""
    box = ChoiceBox(name, choices)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(6)
    return box


def text_field(name: str, text: str = "", placeholder: str = "") -> QLineEdit:
    """A line to type in."""
    line = QLineEdit(text)
    line.setAccessibleName(name)
    line.setPlaceholderText(placeholder)
    return line


def labelled(rows: Sequence[tuple[str, QWidget]]) -> QFormLayout:
    """Widgets below one another, each with its name beside it."""
    form = QFormLayout()
    form.setContentsMargins(0, 8, 0, 0)
    form.setHorizontalSpacing(10)
    form.setVerticalSpacing(7)
    form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
    for words, widget in rows:
        label = QLabel(words)
        label.setObjectName("quiet")
        label.setBuddy(widget.focusProxy() or widget)
        form.addRow(label, widget)
    return form


def be_typed_in(box: QComboBox) -> None:
    """Let what is not listed in a box be typed; the field for it is called as the box is."""
    box.setEditable(True)
    if (field := box.lineEdit()) is not None:
        field.setAccessibleName(box.accessibleName())


def heading(text: str) -> QLabel:
    """The title of a panel."""
    label = QLabel(text)
    label.setObjectName("heading")
    return label


def quiet(text: str = "") -> QLabel:
    """Small grey text that breaks lines."""
    label = QLabel(text)
    label.setObjectName("quiet")
    label.setWordWrap(True)
    label.setTextFormat(Qt.TextFormat.PlainText)
    label.setMinimumWidth(1)  # a word longer than the panel is cut, and does not widen it
    return label


def fault_line() -> QLabel:
    """Where a panel says what is wrong with what was typed."""
    label = quiet()
    label.setObjectName("fault")
    label.hide()
    return label


def scrolled(widget: QWidget, ground: str = "") -> QScrollArea:
    """A column of settings that scrolls where it is too long; the ground is that of what is
    around, or the one that the style sheet has under a name."""
    area = QScrollArea()
    area.setObjectName("settings")
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(widget)
    if ground:
        dressed_as(widget, ground)
    for within in (widget, area.viewport()):
        if within:
            within.setAutoFillBackground(False)
    return area
