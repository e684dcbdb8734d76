"""The panels of the phrases "variable" and "split"."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QIcon, QPixmap
from PyQt6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem

from rhabdos.app.fields import chooser, plain_tip, quiet
from rhabdos.app.panel import Panel
from rhabdos.data.columns import Column, NumberColumn
from rhabdos.figure.readings import Readings
from rhabdos.figure.wording import counted, value_axis_title
from rhabdos.scene.palette import group_colours

_GROUP_ROW = 22


class VariablePanel(Panel):
    """What is known of the variable that is drawn."""

    def __init__(self) -> None:
        super().__init__("Variable")
        self.facts = quiet()
        self.column.addWidget(self.facts)
        self.column.addSpacing(8)
        self.column.addWidget(
            quiet("Choose another one in the sentence, or in the list at the left.")
        )
        self.weigh = chooser("Each row counts")
        self.column.addSpacing(12)
        self.column.addWidget(quiet("Each row counts"))
        self.column.addWidget(self.weigh)
        self.column.addWidget(
            quiet("For data already counted, where one row stands for many cases.")
        )
        self.column.addStretch()
        self.weigh.activated.connect(self._choose_weight)

    def offer(self, weights: list[NumberColumn]) -> None:
        """The variables that may tell how many cases a row stands for."""
        self.weigh.clear()
        self.weigh.addItem("once", None)
        for column in weights:
            self.weigh.addItem(f"by {column.label}", column.name)

    def _choose_weight(self) -> None:
        name = self.weigh.currentData()
        words = f"Count rows {self.weigh.currentText()}" if name else "Count each row once"
        self.asked.emit(words, self.recipe.showing(weight=name))

    def show_readings(self, readings: Readings) -> None:
        """Show what is known of the figure."""
        super().show_readings(readings)
        weight = readings.samples.weight
        if weight and self.weigh.findData(weight.name) < 0:
            self.weigh.addItem(
                f"by {weight.label}", weight.name
            )  # a recipe may name what is not offered
        self.weigh.setCurrentIndex(self.weigh.findData(weight.name if weight else None))
        column, pooled = readings.variable, readings.samples.pooled
        lines = [value_axis_title(column.label, column.unit)]
        if column.name not in (column.label, lines[0]):
            lines.append(f"In the file: {column.name}")
        lines.append(counted(column.n, "value", "values"))
        if column.missing:
            codes = ", ".join(f"{count:,} {code}" for code, count in column.missing_as.items())
            lines.append(f"{column.missing:,} missing: {codes}")
        else:
            lines.append("none missing")
        if pooled.whole:
            lines.append("whole numbers only")
        self.facts.setText("\n".join(lines))


class SplitPanel(Panel):
    """The factor that splits the figure, and its groups in their colours."""

    def __init__(self) -> None:
        super().__init__("Groups")
        self.factor = chooser("Split by")
        self.column.addWidget(self.factor)
        self.column.addSpacing(6)
        self.hint = quiet("Choose a variable whose levels are the groups.")
        self.column.addWidget(self.hint)
        self.groups = QTableWidget(0, 2)
        self.groups.setAccessibleName("Groups")
        self.groups.setShowGrid(False)
        self.groups.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.groups.setSelectionMode(QTableWidget.SelectionMode.NoSelection)
        self.groups.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.groups.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.groups.setWordWrap(False)
        self.groups.setTextElideMode(Qt.TextElideMode.ElideMiddle)
        if (rows := self.groups.verticalHeader()) is not None:
            rows.hide()
            rows.setDefaultSectionSize(_GROUP_ROW)
        if (columns := self.groups.horizontalHeader()) is not None:
            columns.hide()
            columns.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            columns.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self.column.addWidget(self.groups, 1)
        self.column.addWidget(
            quiet("Groups share the same bin edges, unless the bins’ settings say otherwise.")
        )
        self.factor.activated.connect(self._choose)

    def offer(self, factors: list[Column]) -> None:
        """The variables whose levels may be groups."""
        self.factor.clear()
        self.factor.addItem("all together", None)
        for column in factors:
            self.factor.addItem(column.label, column.name)

    def show_readings(self, readings: Readings) -> None:
        """Show what is known of the figure."""
        super().show_readings(readings)
        self.factor.setCurrentIndex(
            self.factor.findData(readings.split.name if readings.split else None)
        )
        self.hint.setVisible(readings.split is None)
        shown = readings.groups if readings.split else ()
        self.groups.setRowCount(len(shown))
        for row, (group, colour) in enumerate(zip(shown, group_colours(len(shown)), strict=True)):
            name = QTableWidgetItem(QIcon(swatch_of(colour)), group.label)
            name.setToolTip(plain_tip(group.label))
            size = QTableWidgetItem(f"n = {group.n:,}")
            size.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            self.groups.setItem(row, 0, name)
            self.groups.setItem(row, 1, size)

    def _choose(self) -> None:
        name = self.factor.currentData()
        words = f"Split by {self.factor.currentText()}" if name else "All together"
        self.asked.emit(words, self.recipe.showing(split=(name,) if name else ()))


def swatch_of(colour: str, size: int = 12) -> QPixmap:
    """A square of a group's colour."""
    pixels = QPixmap(size, size)
    pixels.fill(QColor(colour))
    return pixels
