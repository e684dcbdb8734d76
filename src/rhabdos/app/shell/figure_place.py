"""The place of the figure: variables at its left, finer settings at its right, a summary below."""

from typing import TYPE_CHECKING, Literal, get_args

from PyQt6.QtCore import QByteArray, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QBoxLayout, QSplitter, QStackedWidget, QWidget

from rhabdos.app.controls.dialog_layout import pause
from rhabdos.app.controls.rows_and_columns import in_a_column, keys_in
from rhabdos.app.controls.theme import sized
from rhabdos.app.paper.stage import Stage
from rhabdos.app.session.session import Session
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.phrases.sentence import Fragment, sentence
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.words.notice import Notice
from rhabdos.lazy import lazy
from rhabdos.scene.marks import Scene

if TYPE_CHECKING:
    from rhabdos.app.shelf.beside import Beside
    from rhabdos.app.shelf.shelf import Shelf
    from rhabdos.app.variables.plain_chart_view import PlainChartView
    from rhabdos.figure.recipe.plain_charts import PlainChart

Pane = Literal["variables", "settings", "summary"]
_PANES: tuple[Pane, ...] = get_args(Pane)
_COLUMNS = (
    (186, 250, 0.182),
    (256, 280, 0.21),
)  # least, most and share of the width: variables, settings
_SUMMARY, _ROW = 74, 23  # height of the summary around its rows, and of one
_NARROW, _LOW = 760, 560  # pixels, below which lists and numbers give way to the figure unasked
_RESTS = 60  # milliseconds in which a hand has not moved on
_MOST_ROWS = 4  # of the summary that are seen at once; of more groups the others scroll
_LEAST = 170, 200  # to which a hand can bring them


class FigurePlace(QSplitter):
    """Shows the figure of a session, or a plain chart, or why there is neither.

    Attributes
    ----------
    stage, variables, side, foot : QWidget
        The paper with its rod, the variables, the finer settings, and the numbers of each group;
        but for the stage they are there after ``complete``.
    """

    level_clicked = pyqtSignal(object)  # a name; see VariablesPanel
    """A bar of a plain chart of levels."""

    def __init__(self, session: Session) -> None:
        super().__init__(Qt.Orientation.Vertical)
        self._session = session
        self.stage = Stage()
        self.middle = QStackedWidget()
        self.middle.addWidget(self.stage)
        self.columns = QSplitter(Qt.Orientation.Horizontal)
        self.center = QWidget()
        in_a_column((self.middle, 1), gap=0, of=self.center)
        for widget in (QWidget(), self.center, QWidget()):
            self.columns.addWidget(widget)
        self.columns.setStretchFactor(1, 1)
        self._columns_moved = False
        self._complete = False
        self._folds: dict[Pane, bool] = {}
        """Which panes are folded away or kept, by hand."""
        self.columns.splitterMoved.connect(self._keep_columns)
        self.addWidget(self.columns)
        self.addWidget(QWidget())
        self.setStretchFactor(0, 1)
        for splitter in (self, self.columns):
            splitter.setHandleWidth(1)
            splitter.setChildrenCollapsible(False)

    def complete(self) -> None:
        """Make the lists, which the first figure does not wait for."""
        from rhabdos.app.panels.foot import Foot
        from rhabdos.app.panels.side import Side
        from rhabdos.app.variables.variables_panel import VariablesPanel

        self.variables = VariablesPanel()
        self.side = Side(self._session)
        self.foot = Foot()
        self._resting = pause(self, _RESTS, self._show_settings)
        self._complete = True
        for splitter, position, panel in (
            (self.columns, 0, self.variables),
            (self.columns, 2, self.side),
            (self, 1, self.foot),
        ):
            if former := splitter.replaceWidget(position, panel):
                former.deleteLater()  # Qt hands it back, and nobody else has it
        for column, least in ((0, _LEAST[0]), (2, _LEAST[1])):
            if widget := self.columns.widget(column):
                widget.setMinimumWidth(least)
        for before, after in (
            (self.variables.list, self.stage.canvas),
            (self.stage.canvas, self.stage.rod),
            (self.stage.rod, self.side),
        ):
            QWidget.setTabOrder(before, after)

    @lazy
    def chart_view(self) -> "PlainChartView":
        """Level bars, or a scatter, in place of the figure."""
        from rhabdos.app.variables.plain_chart_view import PlainChartView

        view = PlainChartView(self._session)
        view.level_clicked.connect(self.level_clicked)
        self.middle.addWidget(view)
        return view

    @lazy
    def shelf(self) -> "Shelf":
        """All figures, where there are several."""
        from rhabdos.app.shelf.shelf import Shelf

        shelf = Shelf(self._session)
        layout = self.center.layout()
        assert isinstance(layout, QBoxLayout)
        layout.insertWidget(0, shelf)
        QWidget.setTabOrder(self.variables.list, shelf.cards)
        QWidget.setTabOrder(shelf.cards, self.stage.canvas)
        return shelf

    @lazy
    def beside(self) -> "Beside":
        """The figures that stand beside the one in sight, which stands among them from then on."""
        from rhabdos.app.shelf.beside import Beside

        layout = self.center.layout()
        assert isinstance(layout, QBoxLayout)
        held = keys_in(self.middle)
        layout.removeWidget(self.middle)
        beside = Beside(self._session, self.stage, self.middle)
        layout.addWidget(beside, 1)
        if held is not None:
            held.setFocus()  # who moves to another parent loses the keys
        return beside

    def _show_shelf(self) -> None:
        if len(self._session.figures) > 1 or FigurePlace.shelf.made(self):
            self.shelf.show_figures()
        if self._session.document.beside or FigurePlace.beside.made(self):
            self.beside.show_figures()

    @property
    def scene(self) -> Scene | None:
        """What is drawn: the figure, or what is looked at instead of one."""
        charted = self._session.document.chart is not None
        return self.chart_view.paper.scene if charted else self.stage.canvas.scene

    # Showing

    def fragments(self) -> tuple[Fragment, ...]:
        """What is shown, as a sentence."""
        chart, table, readings = self._shown
        if chart is not None and table is not None:
            from rhabdos.figure.phrases.chart_phrases import chart_fragments

            try:
                return chart_fragments(chart, table)
            except Refusal as refusal:  # a step took a variable of it
                return (Fragment(str(refusal)),)
        if readings is None:
            return (Fragment(self._reason.partition("\n")[0] or "No figure yet."),)
        return sentence(readings)

    @property
    def _shown(self) -> "tuple[PlainChart | None, Table | None, Readings | None]":
        session = self._session
        return session.document.chart, session.table, session.readings

    @property
    def _reason(self) -> str:
        from rhabdos.app.variables.variable_actions import nothing_drawn

        return nothing_drawn(self._session.table)

    def show_table(self) -> None:
        """Show the variables of another table."""
        self.variables.show_table(self._session.table)
        self.side.show_table()

    def show_figure(self) -> None:
        """Show what the session shows now."""
        chart, table, readings = self._shown
        notices = self._session.notices
        self._show_shelf()
        if chart is not None and table is not None:
            self._show_chart(chart, table)
            return
        self.middle.setCurrentWidget(self.stage)
        self._fold()
        if readings is None:
            self.stage.show_nothing(self._reason)
            self.foot.show_readings(None, notices)
            self.variables.mark(set())
            return
        factors = {factor.name for factor in readings.gathered.factors}
        self.variables.mark({variable.name for variable in readings.variables} | factors)
        self.show_drawn(readings)
        told = sorted((*notices, *self.stage.notices), key=lambda notice: notice.weight)
        self.foot.show_readings(readings, tuple(told))
        self._resting.stop()
        self.side.show_readings(readings)

    def _show_chart(self, chart: "PlainChart", table: Table) -> None:
        self.middle.setCurrentWidget(self.chart_view)
        self.chart_view.show_chart(chart, table)
        self.foot.show_readings(None, self._notices_of_chart)
        self._fold()
        there = (name for name in chart.names if table.has_any(name))
        self.variables.mark({table.column(name).name for name in there})

    @property
    def _notices_of_chart(self) -> tuple[Notice, ...]:
        """Those of the rows, and what found no room on the page of the chart."""
        from rhabdos.scene.drawing_notices import room_notice

        scene = self.chart_view.paper.scene
        lacking = room_notice(scene) if scene is not None else None
        return (*self._session.notices, lacking) if lacking else self._session.notices

    def show_preview(self, readings: Readings) -> None:
        """Show a figure that follows a hand; its settings follow where that rests, and what is to
        be said of it is told when it lets go."""
        self.show_drawn(readings)
        self.foot.follow(readings)
        self.side.follow(readings)
        if (beside := FigurePlace.beside.made(self)) is not None:
            beside.follow(readings)
        self._resting.start()

    def _show_settings(self) -> None:
        if readings := self._session.readings:
            self.side.show_readings(readings)

    def show_drawn(self, readings: Readings) -> None:
        """The figure itself."""
        self.stage.show_readings(readings)
        height = sized(_SUMMARY) + sized(_ROW) * min(max(len(readings.groups), 1), _MOST_ROWS)
        if self.sizes()[1] < height:
            self.setSizes([max(200, sum(self.sizes()) - height), height])

    # Panes

    def fold(self, pane: Pane, away: bool | None = None) -> None:
        """Fold a pane away, or bring it back; by itself, whichever it is not."""
        self._folds[pane] = not self._is_folded(pane) if away is None else away
        self._fold()

    def fold_all(self) -> None:
        """Fold away what is beside the figure, or bring all of it back."""
        away = not all(self._is_folded(pane) for pane in _PANES)
        self._folds = dict.fromkeys(_PANES, away)
        self._fold()

    def _is_folded(self, pane: Pane) -> bool:
        whole = self.window() or self
        small = (
            whole.height() < sized(_LOW) if pane == "summary" else whole.width() < sized(_NARROW)
        )
        return self._folds.get(pane, small and pane != "settings")

    def _fold(self) -> None:
        if not self._complete:  # the panes come after the first figure
            return
        chart, _, readings = self._shown
        drawn = chart is None and readings is not None
        self.variables.setVisible(not self._is_folded("variables"))
        self.side.setVisible(drawn and not self._is_folded("settings"))
        told = drawn or bool(self._notices_of_chart if chart else self._session.notices)
        self.foot.setVisible(told and not self._is_folded("summary"))

    # Columns

    def _keep_columns(self) -> None:
        self._columns_moved = True

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """In a smaller window the lists give way to the figure, until the user sets them by
        hand."""
        super().resizeEvent(event)
        self._fold()
        if not self._columns_moved:
            left, right = (
                min(sized(most), max(sized(least), int(self.width() * share)))
                for least, most, share in _COLUMNS
            )
            self.columns.setSizes([left, self.width() - left - right, right])

    @property
    def columns_state(self) -> str:
        """How wide a hand has set the columns, as text; empty where none has."""
        state = self.columns.saveState().toBase64().data().decode()
        return state if self._columns_moved else ""

    def restore_columns(self, state: str) -> None:
        """Set the columns as a hand had set them."""
        self._columns_moved = self.columns.restoreState(QByteArray.fromBase64(state.encode()))
