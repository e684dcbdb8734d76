"""A chart in place of the figure: level bars or a scatter, with the few choices it has."""

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QComboBox, QWidget

from rhabdos.app.controls.choices import Choices
from rhabdos.app.controls.flow import in_lines
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.theme import growing
from rhabdos.app.controls.typed_fields import chooser, scrolled
from rhabdos.app.controls.variable_list import choose_variable, variable_chooser
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.app.variables.chart_panel import ChartPanel
from rhabdos.app.variables.chart_paper import MARGIN, ChartPaper
from rhabdos.data.columns import CategoryColumn
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.phrases.chart_phrases import chart_choices
from rhabdos.figure.phrases.phrase import Key
from rhabdos.figure.readings.plain_chart_readings import bars_told, chart_sentence
from rhabdos.figure.recipe.plain_charts import LevelBars, PlainChart, Scatter
from rhabdos.memo import last_answers
from rhabdos.paint.fonts import measure
from rhabdos.scene.marks import Scene
from rhabdos.scene.plain_charts import chart_scene

if TYPE_CHECKING:
    from rhabdos.app.session.session import Session

_ORDERS = (("in their order", "level"), ("by height", "count"), ("by name", "name"))
_WIDE = 280  # pixels of the settings


class PlainChartView(QWidget):
    """The paper of a chart under a line of choices; a click on a bar leads to its rows.

    Signals
    -------
    level_clicked : a level whose rows are asked for.
    """

    level_clicked = pyqtSignal(object)

    def __init__(self, session: "Session", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.chart: PlainChart | None = None
        self.paper = ChartPaper()
        self.paper.clicked.connect(self._click)
        self.order = chooser(
            "Order of the bars", ((f"Bars {words}", value) for words, value in _ORDERS)
        )
        growing(QWidget.setMinimumWidth, self.order, 180)
        self.reverse = word_button("the other way round", self._turn)
        self.lying: QComboBox | None = None
        self.upright: QComboBox | None = None
        self.back = word_button("Back to the figure", self.leave)
        self._choices = in_lines(self.order, self.reverse, apart=12)
        bar = in_a_row((self._choices, 1), self.back, around=(MARGIN, 10, MARGIN, 0), gap=12)
        left = in_a_column(bar, (self.paper, 1), around=(0, 0, 0, MARGIN))
        self.panel = ChartPanel()
        self.panel.asked.connect(session.look_at)
        self._side = scrolled(self.panel, "side")
        growing(QWidget.setFixedWidth, self._side, _WIDE)
        in_a_row((left, 1), self._side, gap=0, of=self)
        self.order.activated.connect(self._choose_order)

    def show_chart(self, chart: PlainChart, table: Table) -> None:
        """Show a chart of a table, or say which of its variables a step took."""
        self.chart = chart
        there = all(table.has_any(name) for name in chart.names)
        levels = there and isinstance(chart, LevelBars)
        self.order.setVisible(levels)
        self.reverse.setVisible(levels)
        if isinstance(chart, LevelBars):
            self.order.setCurrentIndex([value for _, value in _ORDERS].index(chart.order))
        self._show_variables(chart if there else None, table)
        self._side.setVisible(there)
        if there:
            self.panel.show_chart(chart, table)
        self.back.setVisible(self._session.recipe is not None)
        try:
            scene, told = _shown(table, chart)
        except Refusal as refusal:
            self.paper.show_scene(None, str(refusal))
        else:
            self.paper.show_scene(scene, "", told)
            self.paper.setAccessibleDescription(chart_sentence(chart, table))

    def _show_variables(self, chart: PlainChart | None, table: Table) -> None:
        """Two lists of variables over a scatter."""
        for box in (self.lying, self.upright):
            if box is not None:
                box.hide()
                box.deleteLater()
        self.lying = self.upright = None
        if not isinstance(chart, Scatter):
            return
        columns = list(table.drawable)
        self.upright = variable_chooser("Upright", columns, table.column(chart.y).name)
        self.lying = variable_chooser("Lying", columns, table.column(chart.x).name)
        for box in (self.upright, self.lying):
            growing(QWidget.setMinimumWidth, box, 170)
            if (choices := self._choices.layout()) is not None:
                choices.addWidget(box)
            box.activated.connect(self._choose_variables)

    def _choose_variables(self) -> None:
        if self.lying is None or self.upright is None or not isinstance(self.chart, Scatter):
            return
        x, y = str(self.lying.currentData()), str(self.upright.currentData())
        if x == y:  # the two change places
            x, y = (self.chart.y, x) if x == self.chart.x else (x, self.chart.x)
            choose_variable(self.lying, x)
            choose_variable(self.upright, y)
        self._session.look_at("Look at two numbers", self.chart.of(x, y))

    def _choose_order(self) -> None:
        if isinstance(self.chart, LevelBars):
            chart = self.chart.changed(order=self.order.currentData())
            self._session.look_at(self.order.currentText(), chart)

    def _turn(self) -> None:
        if isinstance(self.chart, LevelBars):
            chart = self.chart.changed(reverse=not self.chart.reverse)
            self._session.look_at("Bars the other way round", chart)

    def open_alternatives(self, phrase: Key, at: QPoint) -> None:
        """Open what else a phrase of the chart could say."""
        session = self._session
        if self.chart is None or session.table is None:
            return
        menu = Choices(self)
        for choice in chart_choices(phrase, self.chart, session.table, session.recipe):
            if choice.recipe is not None:
                menu.offer(choice.text, partial(session.ask, choice.step, choice.recipe))
            elif choice.chart is not None:
                deed = partial(session.look_at, choice.step, choice.chart)
                menu.offer(choice.text, deed, choice.current)
            else:
                menu.offer(choice.text, lambda: None).setEnabled(False)
        menu.open_at(at)

    def leave(self) -> None:
        """Show the figure again."""
        self._session.look_at("Back to the figure", None)

    def _click(self, level: object) -> None:
        if isinstance(self.chart, LevelBars) and self._session.table is not None:
            column = self._session.table.column(self.chart.variable)
            if isinstance(column, CategoryColumn):
                self.level_clicked.emit(level)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape goes back to the figure."""
        if event is not None and event.key() == Qt.Key.Key_Escape and self._session.recipe:
            self.leave()
        else:
            super().keyPressEvent(event)


# Coming back to a chart, or a window that is shown anew, counts nothing again.
@last_answers(lambda _table, chart, /: chart)
def _shown(table: Table, chart: PlainChart, /) -> tuple[Scene, tuple[str, ...]]:
    """A chart, and its bars in words."""
    return chart_scene(chart, table, measure), bars_told(chart, table)
