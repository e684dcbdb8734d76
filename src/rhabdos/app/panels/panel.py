"""What the panels of all phrases share."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFormLayout, QWidget

from rhabdos.app.controls.rows_and_columns import in_a_column, tab_in_order
from rhabdos.app.controls.typed_fields import fault_line, heading
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Recipe


class Panel(QWidget):
    """A heading, a column of widgets, a way to ask, and a line for what is wrong."""

    recipe_asked = pyqtSignal(str, Recipe)
    """What the step is called, and the recipe."""
    previewed = pyqtSignal(Recipe)
    """A recipe that the figure follows while it is typed."""
    taken_back = pyqtSignal()
    fault_shown = pyqtSignal(QWidget)
    """What is wrong is said there, which is to be in sight."""

    def __init__(self, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.readings: Readings | None = None
        self.fault = fault_line()
        self.column = in_a_column(heading(title), around=(14, 10, 14, 10), gap=4, of=self)

    def focusNextPrevChild(self, forwards: bool) -> bool:
        """From setting to setting as they stand, whenever each was made."""
        tab_in_order(self)
        return super().focusNextPrevChild(forwards)

    @property
    def recipe(self) -> Recipe:
        """That of the figure that is shown."""
        assert self.readings
        return self.readings.recipe

    def show_readings(self, readings: Readings) -> None:
        """Show the settings of a figure."""
        self.readings = readings

    def say(self, sentence: str) -> None:
        """Say what is wrong with what was typed; the figure stays as it is."""
        self.fault.setText(sentence)
        self.fault.setVisible(bool(sentence))

    def say_at(self, widget: QWidget, sentence: str) -> None:
        """Say what is wrong right under the field that it was typed into, in sight."""
        for form in self.findChildren(QFormLayout):
            row, _ = form.getWidgetPosition(widget)
            if row < 0:
                continue
            if (holder := self.fault.parentWidget()) is not None and (all_ := holder.layout()):
                all_.removeWidget(self.fault)
            for other in self.findChildren(QFormLayout):
                if other.indexOf(self.fault) >= 0:
                    other.takeRow(self.fault)
            form.insertRow(form.getWidgetPosition(widget)[0] + 1, self.fault)
            break
        self.say(sentence)
        self.fault_shown.emit(self.fault)

    def choose_part(self, _part: str, _level: str | None) -> None:
        """Show the settings of a part of the figure that was clicked, where it has some."""

    def begin(self) -> None:
        """Take the keys, where the panel is what a phrase leads to."""
        self.setFocus()
