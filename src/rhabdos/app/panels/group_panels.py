"""The panels of the phrases "variable" and "split"."""

from PyQt6.QtCore import QSignalBlocker, Qt
from PyQt6.QtWidgets import QCheckBox, QListWidget, QListWidgetItem, QPushButton

from rhabdos.app.controls.typed_fields import chooser, labelled, quiet
from rhabdos.app.panels.levels_list import LevelsList
from rhabdos.app.panels.panel import Panel
from rhabdos.data.columns import Column, NumberColumn
from rhabdos.figure.edits.level_edits import brought_forward, by_hand, left_out, level_lists
from rhabdos.figure.phrases.grouping import split_by, swapped
from rhabdos.figure.phrases.shown import with_variable
from rhabdos.figure.planning.titles import value_axis_title
from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.style.look import colours_of_levels, style_of
from rhabdos.wording import counted

_MOST_LISTED = 200  # variables; of more, those at the left are added with Ctrl


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
        self.column.addSpacing(12)
        self.column.addWidget(quiet("Shown together (or Ctrl and a click at the left)"))
        self.together = QListWidget()
        self.together.setAccessibleName("Shown together")
        self.together.setSelectionMode(QListWidget.SelectionMode.NoSelection)
        self.together.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.column.addWidget(self.together, 1)
        self.standardised = QCheckBox("In standard deviations")
        self.column.addWidget(self.standardised)
        self.column.addWidget(self.fault)
        self.together.itemChanged.connect(self._tick)
        self.standardised.clicked.connect(self._standardise)
        self.weigh = chooser("Each row counts")
        self.column.addSpacing(12)
        counts = quiet("Each row counts")
        counts.setBuddy(self.weigh)
        self.column.addWidget(counts)
        self.column.addWidget(self.weigh)
        self.column.addWidget(
            quiet("For data already counted, where one row stands for many cases.")
        )
        self.column.addStretch()
        self.weigh.activated.connect(self._choose_weight)

    def offer(self, numbers: list[NumberColumn], weights: list[NumberColumn]) -> None:
        """The variables that may be shown, and those that may tell how many cases a row is."""
        with QSignalBlocker(self.together):  # filling in is no wish of a hand
            self.together.clear()
            for column in numbers[:_MOST_LISTED]:
                item = QListWidgetItem(column.label)
                item.setData(Qt.ItemDataRole.UserRole, column.name)
                item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsUserCheckable)
                item.setCheckState(Qt.CheckState.Unchecked)
                self.together.addItem(item)
        self.weigh.clear()
        self.weigh.addItem("once", None)
        for column in weights:
            self.weigh.addItem(f"by {column.label}", column.name)

    def _tick(self, item: QListWidgetItem) -> None:
        assert self.readings
        name = item.data(Qt.ItemDataRole.UserRole)
        wanted = with_variable(self.recipe, self.readings, name)
        ticked = item.checkState() == Qt.CheckState.Checked
        if wanted == self.recipe:  # a figure shows one variable at least
            self.show_readings(self.readings)
        else:
            words = f"Show {item.text()} too" if ticked else f"Without {item.text()}"
            self.recipe_asked.emit(words, wanted)

    def _standardise(self, wanted: bool) -> None:
        words = "Standardise" if wanted else "Values as they are"
        self.recipe_asked.emit(words, self.recipe.showing(standardised=wanted))

    def _choose_weight(self) -> None:
        name = self.weigh.currentData()
        words = f"Count rows {self.weigh.currentText()}" if name else "Count each row once"
        self.recipe_asked.emit(words, self.recipe.showing(weight=name))

    def show_readings(self, readings: Readings) -> None:
        """Show what is known of the figure."""
        super().show_readings(readings)
        weight = readings.samples.weight
        if weight and self.weigh.findData(weight.name) < 0:
            self.weigh.addItem(
                f"by {weight.label}", weight.name
            )  # a recipe may name what is not offered
        self.weigh.setCurrentIndex(self.weigh.findData(weight.name if weight else None))
        self.say("")
        shown = {variable.name for variable in readings.gathered.variables}
        with QSignalBlocker(self.together):
            for row in range(self.together.count()):
                if item := self.together.item(row):
                    ticked = item.data(Qt.ItemDataRole.UserRole) in shown
                    state = Qt.CheckState.Checked if ticked else Qt.CheckState.Unchecked
                    item.setCheckState(state)
        self.standardised.setChecked(readings.recipe.show.standardised)
        column, pooled = readings.variable, readings.samples.pooled
        if len(readings.variables) > 1:
            self.facts.setText(f"{len(readings.variables)} variables are shown.")
            return
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


_ORDERS: dict[object, str] = {
    None: "by name",
    "data": "as in the data",
    "n": "by n",
    "mean": "by mean",
    "median": "by median",
    "sd": "by standard deviation",
}
_BY_HAND = "by hand"


class SplitPanel(Panel):
    """The factors that split the figure, and their levels: which are shown, and in which order."""

    def __init__(self) -> None:
        super().__init__("Groups")
        self.factor = chooser("Split by")
        self.second = chooser("and by")
        self.swap = QPushButton("Swap the two")
        self.order = chooser("Order", ((words, value) for value, words in _ORDERS.items()))
        self.reverse = QCheckBox("From last to first")
        self.form = labelled(
            (
                ("Split by", self.factor),
                ("and by", self.second),
                ("", self.swap),
                ("Order", self.order),
                ("", self.reverse),
            )
        )
        self.column.addLayout(self.form)
        self.column.addSpacing(6)
        self.hint = quiet("Choose a variable whose levels are the groups.")
        self.column.addWidget(self.hint)
        self.levels = LevelsList()
        self.column.addWidget(self.levels, 1)
        self.column.addWidget(self.fault)
        self.how = quiet(
            "A tick shows a group or leaves it out. A click on a name brings it forward, with Ctrl "
            "several; Escape ends it. Drag a name, or press Alt with ↑ or ↓, to set the order."
        )
        self.column.addWidget(self.how)
        self.column.addStretch()
        self.factor.activated.connect(self._choose)
        self.second.activated.connect(self._choose_second)
        self.swap.clicked.connect(self._swap)
        self.order.activated.connect(self._choose_order)
        self.reverse.clicked.connect(self._choose_reverse)
        self.levels.ticked.connect(
            lambda level: self.recipe_asked.emit(*left_out(self.recipe, level))
        )
        self.levels.chosen.connect(
            lambda label, more: self.recipe_asked.emit(*brought_forward(self.recipe, label, more))
        )
        self.levels.ordered.connect(self._order_by_hand)
        self._factors: list[Column] = []

    def offer(self, factors: list[Column]) -> None:
        """The variables whose levels may be groups."""
        self._factors = factors
        self.factor.clear()
        self.factor.addItem("all together", None)
        for column in factors:
            self.factor.addItem(column.label, column.name)

    def show_readings(self, readings: Readings) -> None:
        """Show what is known of the figure."""
        super().show_readings(readings)
        self.say("")
        split = [readings.gathered.factor(name).name for name in readings.recipe.show.split]
        self.factor.setCurrentIndex(self.factor.findData(split[0] if split else None))
        self.second.clear()
        self.second.addItem("nothing", None)
        for column in self._factors:
            if column.name not in split[:1]:
                self.second.addItem(column.label, column.name)
        self.second.setCurrentIndex(self.second.findData(split[1] if len(split) > 1 else None))
        lists = level_lists(readings)
        rows = {1: bool(split), 2: len(split) > 1, 3: bool(lists), 4: bool(lists)}
        for row, matters in rows.items():
            self.form.setRowVisible(row, matters)
        self.hint.setVisible(not lists)
        self.how.setVisible(bool(lists))
        self.levels.setVisible(bool(lists))
        self._show_order(readings)
        self.levels.show_lists(lists, colours_of_levels(readings, style_of(readings.recipe)))

    def _show_order(self, readings: Readings) -> None:
        order = readings.recipe.groups.order
        order = None if order == "name" else order
        hand = self.order.findText(_BY_HAND)
        if isinstance(order, tuple):
            if hand < 0:
                self.order.addItem(_BY_HAND, _BY_HAND)
            self.order.setCurrentIndex(self.order.findText(_BY_HAND))
        else:
            if hand >= 0:
                self.order.removeItem(hand)
            self.order.setCurrentIndex(self.order.findData(order))
        self.reverse.setChecked(readings.recipe.groups.reverse)

    def _choose(self) -> None:
        name = self.factor.currentData()
        words = f"Split by {self.factor.currentText()}" if name else "All together"
        self.recipe_asked.emit(words, split_by(self.recipe, *((name,) if name else ())))

    def _choose_second(self) -> None:
        name, first = self.second.currentData(), self.recipe.show.split[:1]
        words = f"Also split by {self.second.currentText()}" if name else "One factor only"
        self.recipe_asked.emit(words, split_by(self.recipe, *first, *((name,) if name else ())))

    def _swap(self) -> None:
        self.recipe_asked.emit("Swap the factors", swapped(self.recipe))

    def _choose_order(self) -> None:
        value = self.order.currentData()
        if value != _BY_HAND:
            words = f"Groups {self.order.currentText()}"
            self.recipe_asked.emit(words, self.recipe.grouped(order=value))

    def _choose_reverse(self, reverse: bool) -> None:
        words = "Groups from last to first" if reverse else "Groups from first to last"
        self.recipe_asked.emit(words, self.recipe.grouped(reverse=reverse))

    def _order_by_hand(self, factor: str, labels: list[str]) -> None:
        assert self.readings
        self.recipe_asked.emit(*by_hand(self.readings, {factor: labels}))
