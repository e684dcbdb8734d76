"""The settings of a plain chart: its words, its look, and how its bars or dots are."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QWidget

from rhabdos.app.controls.colour_field import ColourField
from rhabdos.app.controls.mnemonics import OF_MENUS, give_letters
from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.controls.typed_fields import Field, chooser, fault_line, heading, labelled, quiet
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.planning.titles import value_axis_title
from rhabdos.figure.readings.plain_chart_readings import height_words, levels_reading
from rhabdos.figure.recipe.edge_text import read_number
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.plain_charts import LevelBars, PlainChart
from rhabdos.quoting import brief, quoted
from rhabdos.scene.charts.sheet import usual_colour
from rhabdos.scene.plain_charts import chart_size
from rhabdos.scene.style.look import TITLES

_MOST_COLOURED = 12  # levels that have a field for a colour of their own
_WORDS = (
    ("title", "Title", "Title of the chart"),
    ("note", "Note", "Note under the chart"),
    ("value_axis", "Lying axis", "Title of the lying axis"),
    ("height_axis", "Standing axis", "Title of the standing axis"),
)
_NUMBERS = (
    ("counts and percent", "both"), ("counts", "count"), ("percent", "percent"), ("none", "none"),
)  # fmt: skip


class ChartPanel(QWidget):
    """Fields of a chart; what is wrong with what was typed is said under them.

    Signals
    -------
    asked : what the step is called, and the chart.
    """

    asked = pyqtSignal(str, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._chart: PlainChart | None = None
        self.words = {key: Field(name) for key, _, name in _WORDS}
        self.colour = ColourField("Colour of all")
        self.base = chooser("Look", ((words, key) for key, (words, _) in TITLES.items()))
        self.size_field = Field("Size")
        self.upright = QCheckBox("Bars that stand")
        self.numbers = chooser("Numbers at the bars", _NUMBERS)
        self.dot = Field("Size of dots")
        self.fault = fault_line()
        rows: list[tuple[str, QWidget]] = [(label, self.words[key]) for key, label, _ in _WORDS]
        rows += [
            ("", self.upright),
            ("Numbers", self.numbers),
            ("Dots", self.dot),
            ("Colour", self.colour),
            ("Look", self.base),
            ("Size", self.size_field),
        ]
        self._form = labelled(rows)
        self.levels: dict[str, ColourField] = {}
        in_a_column(
            heading("Chart"),
            self._form,
            self.fault,
            quiet("A click on a bar lists its rows. Export, copy and save as with any figure."),
            None,
            around=(14, 10, 14, 10),
            gap=6,
            of=self,
        )
        for key, _, name in _WORDS:
            self.words[key].entered.connect(partial(self._word, key, name))
        self.colour.picked.connect(lambda colour: self._ask("Colour", colour=colour or None))
        self.colour.wrong.connect(self.say)
        self.base.activated.connect(
            lambda _row: self._ask(f"Look {self.base.currentText()}", base=self.base.currentData())
        )
        self.upright.clicked.connect(
            lambda upright: self._ask(
                "Bars that stand" if upright else "Bars that lie", upright=upright
            )
        )
        self.numbers.activated.connect(
            lambda _row: self._ask(
                f"Numbers at the bars: {self.numbers.currentText()}",
                numbers=self.numbers.currentData(),
            )
        )
        self.size_field.entered.connect(partial(self._typed, _size, "Figure size", "size"))
        self.dot.entered.connect(partial(self._typed, _dot, "Dots", "dot"))

    def show_chart(self, chart: PlainChart, table: Table) -> None:
        """Show the settings of a chart of a table."""
        self._chart = chart
        self.say("")
        bars = isinstance(chart, LevelBars)
        for widget, shown in ((self.upright, bars), (self.numbers, bars), (self.dot, not bars)):
            self._form.setRowVisible(widget, shown)
        for key, field in self.words.items():
            field.show_value(getattr(chart, key) or "")
            field.setPlaceholderText("")
        self.base.setCurrentIndex(self.base.findData(chart.base))
        self.colour.show_colour(chart.colour or usual_colour(chart), bool(chart.colour))
        self.size_field.show_value(chart.size or "")
        if isinstance(chart, LevelBars):
            self._show_levels(chart, table)
        else:
            self.dot.show_value(f"{chart.dot:g} pt")
            self._show_colours(())
            x, y = table.column(chart.x), table.column(chart.y)
            self.words["value_axis"].setPlaceholderText(value_axis_title(x.label, x.unit))
            self.words["height_axis"].setPlaceholderText(value_axis_title(y.label, y.unit))
        try:
            self.size_field.setPlaceholderText(str(chart_size(chart, table)))
        except Refusal:
            self.size_field.setPlaceholderText("")
        give_letters(self, OF_MENUS)

    def _show_levels(self, chart: LevelBars, table: Table) -> None:
        self.upright.setChecked(chart.upright)
        self.numbers.setCurrentIndex(self.numbers.findData(chart.numbers))
        self.words["title"].setPlaceholderText(table.column(chart.variable).label)
        try:
            reading = levels_reading(chart, table)
        except Refusal:
            self._show_colours(())
            return
        heights = "value_axis" if not chart.upright else "height_axis"
        names = "height_axis" if not chart.upright else "value_axis"
        self._axis = {heights: "height_axis", names: "value_axis"}
        for shown, key in self._axis.items():
            self.words[shown].show_value(getattr(chart, key) or "")
        self.words[heights].setPlaceholderText(height_words(reading))
        self._show_colours(tuple(bar.level for bar in reading.bars[:_MOST_COLOURED]))
        for level, field in self.levels.items():
            own = chart.colours.get(level)
            field.show_colour(own or chart.colour or usual_colour(chart), bool(own))

    def _show_colours(self, levels: tuple[str, ...]) -> None:
        """A field for the colour of each level."""
        if tuple(self.levels) == levels:
            return
        for field in self.levels.values():
            self._form.removeRow(field)
        self.levels = {}
        for level in levels:
            field = ColourField(f"Colour of {level}")
            field.picked.connect(partial(self._level, level))
            field.wrong.connect(self.say)
            self.levels[level] = field
            label = quiet(brief(level))
            label.setBuddy(field.focusProxy())
            self._form.addRow(label, field)

    def _level(self, level: str, colour: str) -> None:
        assert isinstance(self._chart, LevelBars)
        colours = {key: value for key, value in self._chart.colours.items() if key != level}
        if colour:
            colours[level] = colour
        self._ask(f"Colour of {level}", colours=colours)

    def _word(self, key: str, name: str, text: str) -> None:
        if isinstance(self._chart, LevelBars):  # whose axes change places when bars stand
            key = self._axis.get(key, key)
        self._ask(name, **{key: text or None})

    def _typed(self, read: Callable[[str], object], name: str, key: str, text: str) -> None:
        try:
            value = read(text)
        except Refusal as refusal:
            self.say(str(refusal))
            return
        self._ask(f"{name} {text}" if text else f"{name} as usual", **{key: value})

    def _ask(self, step: str, **values: object) -> None:
        if self._chart is None:
            return
        try:
            chart = self._chart.changed(**values)
        except ValueError as error:
            self.say(str(error).partition(": ")[2] or str(error))
            return
        if chart != self._chart:
            self.asked.emit(step, chart)

    def say(self, sentence: str) -> None:
        """Say what is wrong with what was typed; the chart stays as it is."""
        self.fault.setText(sentence)
        self.fault.setVisible(bool(sentence))


def _size(text: str) -> object:
    if not text:
        return None
    try:
        size = Size.parse(text)
        size.points()
    except ValueError as error:
        raise Refusal(f"{str(error)[0].upper()}{str(error)[1:]}.") from error
    return str(size)


def _dot(text: str) -> object:
    if not text:
        return 3.2
    value = read_number(text.removesuffix("pt"))
    if value is None or not 1 <= value <= 20:
        raise Refusal(f"{quoted(text)} is no size of dots. Write points from 1 to 20.")
    return value
