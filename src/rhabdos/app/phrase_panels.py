"""The finer settings of the phrases "variable", "split", "heights" and "words"."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QIcon, QPixmap
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QHeaderView,
    QLabel,
    QRadioButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from rhabdos.app.fields import Field, chooser, heading, plain_tip, quiet
from rhabdos.data.columns import Column, NumberColumn
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import Recipe
from rhabdos.figure.wording import counted, height_axis_title, in_running_text, value_axis_title
from rhabdos.scene.palette import group_colours

SCALES = {
    "count": ("Count", "how many values lie in each bin"),
    "percent": ("Percent", "of the values, in each bin"),
    "proportion": ("Proportion", "from 0 to 1, also called relative frequency"),
    "density": ("Density", "proportion per unit, so that areas add up to 1"),
}


_GROUP_ROW = 22


class Panel(QWidget):
    """What the panels share: a heading, a column of widgets, and a way to ask."""

    asked = pyqtSignal(str, object)
    """What the step is called, and the recipe."""

    def __init__(self, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.readings: Readings | None = None
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(14, 10, 14, 10)
        self.column.setSpacing(4)
        self.column.addWidget(heading(title))

    @property
    def recipe(self) -> Recipe:
        assert self.readings
        return self.readings.recipe

    def show_readings(self, readings: Readings) -> None:
        """Show the settings of a figure."""
        self.readings = readings


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
        if (rows := self.groups.verticalHeader()) is not None:
            rows.hide()
            rows.setDefaultSectionSize(_GROUP_ROW)
        if (columns := self.groups.horizontalHeader()) is not None:
            columns.hide()
            columns.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            columns.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self.column.addWidget(self.groups, 1)
        self.column.addWidget(
            quiet("All groups share the same bin edges, so that they can be compared.")
        )
        self.factor.activated.connect(self._choose)

    def offer(self, factors: list[Column]) -> None:
        self.factor.clear()
        self.factor.addItem("all together", None)
        for column in factors:
            self.factor.addItem(column.label, column.name)

    def show_readings(self, readings: Readings) -> None:
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


class HeightsPanel(Panel):
    """What the height of a bar stands for."""

    def __init__(self) -> None:
        super().__init__("Heights")
        self.scales = QButtonGroup(self)
        self.buttons: dict[str, QRadioButton] = {}
        for key, (title, meaning) in SCALES.items():
            button = QRadioButton(title)
            self.buttons[key] = button
            self.scales.addButton(button)
            self.column.addWidget(button)
            words = quiet(meaning)
            words.setContentsMargins(22, 0, 0, 4)
            self.column.addWidget(words)
            button.clicked.connect(lambda _checked, chosen=key: self._choose_scale(chosen))
        self.shares = QLabel("Shares of")
        self.shares.setObjectName("quiet")
        self.column.addSpacing(8)
        self.column.addWidget(self.shares)
        self.of = QButtonGroup(self)
        self.of_group, self.of_all = QRadioButton("each group"), QRadioButton("all shown")
        for button, key in ((self.of_group, "group"), (self.of_all, "all")):
            self.of.addButton(button)
            self.column.addWidget(button)
            button.clicked.connect(lambda _checked, chosen=key: self._choose_whole(chosen))
        self.cumulative = QCheckBox("Add up from left to right")
        self.cumulative.clicked.connect(self._choose_cumulative)
        self.column.addSpacing(8)
        self.column.addWidget(self.cumulative)
        self.why = quiet()
        self.column.addSpacing(8)
        self.column.addWidget(self.why)
        self.column.addStretch()

    def show_readings(self, readings: Readings) -> None:
        super().show_readings(readings)
        self.buttons[readings.scale].setChecked(True)
        unequal = readings.edges.width is None and not readings.cumulative
        for key, button in self.buttons.items():
            button.setEnabled(
                key != "density" if readings.cumulative else key == "density" or not unequal
            )
        self.cumulative.setChecked(readings.cumulative)
        shared = bool(readings.split) and readings.scale != "count"
        for widget in (self.shares, self.of_group, self.of_all):
            widget.setVisible(shared)
        if readings.split:
            self.of_group.setText(f"each {in_running_text(readings.split.label)}")
        (self.of_all if readings.recipe.show.of == "all" else self.of_group).setChecked(True)
        self.why.setText(
            "The bins are unequal, so only density is fair: by any other height a wide bin would "
            "look "
            "taller than its values deserve."
            if unequal
            else "Densities add up to a proportion."
            if readings.cumulative
            else ""
        )

    def _choose_scale(self, scale: str) -> None:
        self.asked.emit(
            f"Heights in {SCALES[scale][0].lower()}", self.recipe.showing(heights=scale)
        )

    def _choose_cumulative(self, cumulative: bool) -> None:
        words = "Cumulative heights" if cumulative else "Heights of single bins"
        self.asked.emit(words, self.recipe.showing(cumulative=cumulative))

    def _choose_whole(self, of: str) -> None:
        self.asked.emit(
            "Shares of all" if of == "all" else "Shares of each group", self.recipe.showing(of=of)
        )


class LinesPanel(Panel):
    """Lines at the centre of each group."""

    def __init__(self) -> None:
        super().__init__("Lines")
        self.mean, self.median = QCheckBox("At the mean, dashed"), QCheckBox("At the median, whole")
        self.column.addSpacing(6)
        for box, name in ((self.mean, "mean"), (self.median, "median")):
            box.clicked.connect(lambda marked, key=name: self._mark(key, marked))
            self.column.addWidget(box)
        self.column.addSpacing(8)
        self.column.addWidget(quiet("Each group has its own, in its colour and with its value."))
        self.column.addStretch()

    def show_readings(self, readings: Readings) -> None:
        super().show_readings(readings)
        self.mean.setChecked(readings.recipe.lines.mean)
        self.median.setChecked(readings.recipe.lines.median)

    def _mark(self, key: str, marked: bool) -> None:
        words = f"Mark the {key}" if marked else f"Without the {key}’s line"
        self.asked.emit(
            words, self.recipe.changed(lines=self.recipe.lines.changed(**{key: marked}))
        )


class WordsPanel(Panel):
    """Title and axis titles; the figure follows the typing."""

    previewed = pyqtSignal(object)
    taken_back = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("Words")
        self.fields: dict[str, Field] = {}
        for key, words in (
            ("title", "Title"),
            ("value_axis", "Value axis"),
            ("height_axis", "Height axis"),
        ):
            label = QLabel(words)
            label.setObjectName("quiet")
            field = Field(words)
            label.setBuddy(field)
            self.column.addSpacing(4)
            self.column.addWidget(label)
            self.column.addWidget(field)
            self.fields[key] = field
            field.textEdited.connect(
                lambda text, chosen=key: self.previewed.emit(self._worded(chosen, text))
            )
            field.entered.connect(lambda text, chosen=key: self._enter(chosen, text))
            field.taken_back.connect(self.taken_back)
        self.column.addSpacing(8)
        self.column.addWidget(quiet("Left empty, an axis is named after its variable and unit."))
        self.column.addStretch()

    def show_readings(self, readings: Readings) -> None:
        super().show_readings(readings)
        words, column = readings.recipe.words, readings.variable
        split = readings.split.label if readings.split else None
        self.fields["title"].setPlaceholderText("none")
        self.fields["value_axis"].setPlaceholderText(value_axis_title(column.label, column.unit))
        usual = height_axis_title(
            readings.scale, readings.recipe.show.of, split, column.unit, readings.cumulative
        )
        self.fields["height_axis"].setPlaceholderText(usual)
        for key, field in self.fields.items():
            field.show_value(getattr(words, key) or "")

    def _worded(self, key: str, text: str) -> Recipe:
        return self.recipe.worded(**{key: text.strip() or None})

    def _enter(self, key: str, text: str) -> None:
        what = {
            "title": "title",
            "value_axis": "value axis title",
            "height_axis": "height axis title",
        }[key]
        self.asked.emit(f"Change {what}", self._worded(key, text))


def swatch_of(colour: str, size: int = 12) -> QPixmap:
    """A square of a group's colour."""
    pixels = QPixmap(size, size)
    pixels.fill(QColor(colour))
    return pixels
