"""The place of rows: how they came about, the rows themselves, and the facts of one variable."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QFrame, QLabel, QLineEdit, QSplitter, QStackedWidget, QWidget

from rhabdos.app.controls.marked import dressed_as
from rhabdos.app.controls.rows_and_columns import (
    give_keys,
    in_a_column,
    in_a_row,
    keys_in,
    tab_in_order,
)
from rhabdos.app.controls.theme import growing, sized
from rhabdos.app.controls.typed_fields import quiet, scrolled
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.app.rows.cell_actions import CellActions
from rhabdos.app.rows.facts_panel import FactsPanel
from rhabdos.app.rows.far_rows import FetchedRows, fetch_rows
from rhabdos.app.rows.listing_order import Order
from rhabdos.app.rows.rows_view import RowsView
from rhabdos.app.rows.step_form import StepForm
from rhabdos.app.rows.steps_panel import StepsPanel
from rhabdos.app.session.session import Session
from rhabdos.app.variables.silhouettes import Silhouettes
from rhabdos.arrays import IntArray
from rhabdos.data.finding import in_order, rows_with
from rhabdos.data.merging_steps import with_step_changed
from rhabdos.data.reporting import Report
from rhabdos.data.steps.derive import Make
from rhabdos.data.steps.keep import KeepRows
from rhabdos.data.steps.recoding import Recode
from rhabdos.data.steps.step import Step
from rhabdos.quoting import brief, printable
from rhabdos.wording import counted

_AT_ONCE_ROWS = 200_000  # up to which rows are sorted and sought without a task
_COLUMNS = (232, 268)  # pixels of the panels at either side


class RowsPlace(QWidget):
    """Steps at the left, rows in the middle, the facts of the chosen variable at the right.

    Signals
    -------
    drawn : a variable's name, to be drawn in the figure.
    drawn_along : a variable's name and a kind of axis, to be drawn along that.
    placed : a row of the table and a variable's name, to be shown in the figure.
    reading_asked : how the file is read shall be chosen.
    beginning_asked : what rows begin with shall be changed (typed values, practice samples).
    told : a sentence about what is current.
    """

    drawn = pyqtSignal(object)
    drawn_along = pyqtSignal(object, str)
    placed = pyqtSignal(object, object)
    reading_asked = pyqtSignal()
    beginning_asked = pyqtSignal(object)
    told = pyqtSignal(str)

    def __init__(
        self, session: Session, silhouettes: Silhouettes, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.session = session
        self.steps = StepsPanel(session)
        self.view = RowsView()
        self.facts = FactsPanel(session, silhouettes)
        self.cells = CellActions(self)
        self.form: StepForm | None = None
        self._found: IntArray | None = None
        self._at = -1
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find in the rows")
        self.search.setAccessibleName("Find in the rows")
        self.search.setClearButtonEnabled(True)
        self.hits = quiet()
        self.hits.setWordWrap(False)
        self.only = QLabel()
        self.only.setObjectName("noticeText")
        self.only.setTextFormat(Qt.TextFormat.PlainText)
        self.keep_only = word_button("Keep only these")
        self.all_rows = word_button("Show all rows")
        self._only_bar = QFrame()
        dressed_as(self._only_bar, "notice")
        in_a_row(
            (self.only, 1),
            self.keep_only,
            self.all_rows,
            around=(10, 3, 10, 3),
            gap=12,
            of=self._only_bar,
        )
        self._only_bar.hide()
        self._wish: Step | None = None
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        bar = in_a_row(
            (self.search, 1), self.hits, (self._only_bar, 2), around=(12, 8, 12, 8), gap=10
        )
        growing(QWidget.setMinimumWidth, self.search, 180)
        head = QWidget()
        dressed_as(head, "variables")
        head.setLayout(bar)
        middle = QWidget()
        in_a_column(head, (self.view, 1), gap=0, of=middle)
        self.side = QStackedWidget()
        dressed_as(self.side, "side")
        self._facts_area = scrolled(self.facts)
        self.side.addWidget(self._facts_area)
        self.columns = QSplitter(Qt.Orientation.Horizontal)
        self.columns.setHandleWidth(1)
        self.columns.setChildrenCollapsible(False)
        for widget in (self.steps, middle, self.side):
            self.columns.addWidget(widget)
        self.columns.setStretchFactor(1, 1)
        growing(QWidget.setMinimumWidth, self.steps, 180)
        growing(QWidget.setMinimumWidth, self.side, 210)
        self.columns.setSizes([sized(_COLUMNS[0]), 780, sized(_COLUMNS[1])])
        in_a_column(self.columns, of=self)

    def _connect(self) -> None:
        self.view.column_chosen.connect(self.choose)
        self.view.sort_asked.connect(self.sort_by)
        self.view.menu_asked.connect(self.cells.offer)
        self.view.shown.connect(self.cells.show)
        self.view.copied.connect(self.cells.copy)
        self.view.moved.connect(self._tell_current)
        self.steps.added.connect(self.begin)
        self.steps.opened.connect(self.open_step)
        self.facts.drawn.connect(self.drawn)
        self.facts.drawn_along.connect(self.drawn_along)
        self.facts.classes_asked.connect(lambda name: self.begin("make", name, "classes"))
        self.facts.numbers_asked.connect(lambda name: self.begin("numbers", name))
        self.search.textEdited.connect(self._forget_found)
        self.search.returnPressed.connect(lambda: self.find_next(1))
        self.all_rows.clicked.connect(self.show_all)
        self.keep_only.clicked.connect(self._keep_wish)
        back = QShortcut(QKeySequence("Shift+Return"), self.search)
        back.setContext(Qt.ShortcutContext.WidgetShortcut)
        back.activated.connect(lambda: self.find_next(-1))

    # Showing

    def show_table(self) -> None:
        """Show the session's table, its steps and the facts of the chosen variable."""
        table = self.session.table
        if table is not self.view.table:
            self._forget_found()
            self._wish = None
            self._only_bar.hide()
            looked = f"{table.rows:,} rows looked at" if table and table.far else "rows"
            self.search.setPlaceholderText(f"Find in the {looked}")
            self.view.show_table(table)
            if self.form is not None and self.form.index is not None:
                self.leave_form()  # it was about steps that are others now
        self.steps.show_steps()
        names = [column.name for column in table.columns] if table else []
        chosen = self.view.chosen if self.view.chosen in names else next(iter(names), "")
        self.choose(chosen)

    def choose(self, name: str) -> None:
        """Show the facts of a variable."""
        table = self.session.table
        self.view.choose(name)
        column = table.column(name) if table is not None and name else None
        self.facts.show_column(column)
        if self.form is None:
            self.side.setCurrentWidget(self._facts_area)

    def _tell_current(self) -> None:
        current, table = self.view.current, self.view.table
        if current is None or table is None:
            return
        row, column = current
        word = column.stood.word_at(row) if column.stood is not None else None
        where = f"Row {table.row_number(row):,}"
        if table is not self.session.table:  # which has no numbers where it lies
            self.told.emit(f"{where} of the {table.rows:,} that were fetched")
            return
        of = f" of {table.of_rows or table.rows:,}{' looked at' if table.far else ''}"
        said = f" · {printable(word)} stands for missing in {column.label}" if word else ""
        self.told.emit(f"{where}{of}{said}")

    def show_rows(self, rows: IntArray, words: str, wish: Step | None = None) -> None:
        """List some rows only, such as those of a bar.

        Parameters
        ----------
        rows : array of int, shape (k,)
            Their places in the table, from 0.
        words : str
            What they are.
        wish : Step, optional
            The step that keeps only them.
        """
        self._wish = wish
        self.only.setText(words)
        self.keep_only.setVisible(wish is not None)
        self._only_bar.show()
        self.view.sort(Order(rows, words=words))
        self.view.setFocus()

    def show_fetched(self, rows: FetchedRows) -> None:
        """List rows that were fetched from where the data lie."""
        self._wish = rows.step
        self.only.setText(rows.words)
        self.only.setToolTip(rows.words)
        self.keep_only.setVisible(rows.step is not None)
        self._only_bar.show()
        self._forget_found()
        self.view.show_table(rows.table, Order(None, rows.by, rows.falling))
        self.view.go_to(0)
        self.view.setFocus()

    def show_all(self) -> None:
        """List all rows again."""
        self._wish = None
        self._only_bar.hide()
        if self.view.table is not self.session.table:
            self.view.show_table(self.session.table)
        self.view.sort(Order())

    def _keep_wish(self) -> None:
        if self._wish is not None:
            self.session.rows.prepare(self._wish.words.rstrip("."), self._wish)

    # Order

    def sort_by(self, name: str) -> None:
        """Put the rows in order by a variable: rising, falling, then as they stand."""
        order, table = self.view.order, self.view.table
        if table is None:
            return
        if table.far is not None:
            self._fetch_by(name, order)
            return
        if order.column == name and order.falling:
            rows = self._listed()
            self.view.sort(Order(rows, words=order.words))
            return
        falling = order.column == name
        column, within = table.column(name), self._listed()

        def work(_report: object) -> IntArray:
            """Sort."""
            return in_order(column, falling, within)

        def done(rows: IntArray) -> None:
            """Show them so."""
            self.view.sort(Order(rows, name, falling, order.words))

        self._work(f"Sorting by {column.label}", work, done)

    def _fetch_by(self, name: str, before: Order) -> None:
        """The same of rows that lie elsewhere: the first of all, or of those that are listed."""
        if before.column == name and before.falling and self._wish is None:
            self.show_all()
            return
        step = self._wish if isinstance(self._wish, KeepRows) else None
        falling = before.column == name and not before.falling
        fetch_rows(self.session, step, name, falling, self.show_fetched)

    def _listed(self) -> IntArray | None:
        """The rows that are listed, as they stand; None for all."""
        import numpy as np

        order = self.view.order
        if not order.words or order.rows is None:
            return None
        return np.sort(order.rows)

    def _work(
        self, stage: str, work: Callable[[Report], IntArray], done: Callable[[IntArray], None]
    ) -> None:
        table, refuse = self.view.table, self.session.refused.emit
        at_once = table is not None and table.rows <= _AT_ONCE_ROWS
        self.session.runner.run("looking", stage, work, done, refuse, at_once)

    # Finding

    def _forget_found(self) -> None:
        self._found, self._at = None, -1
        self.hits.setText("")
        self.view.mark(set())

    def find_next(self, by: int) -> None:
        """Go to the next row in which the text stands, or to the one before."""
        table, text = self.view.table, self.search.text().strip()
        if table is None or not text:
            return
        if self._found is not None:
            self._go_to_hit(by)
            return
        within = self.view.order.rows

        def work(_report: object) -> IntArray:
            """Look through the rows."""
            return rows_with(table, text, within)

        def done(rows: IntArray) -> None:
            """Mark them, and go to the first."""
            self._found = rows
            self.view.mark(set(rows[:10_000].tolist()))
            self._at = -1 if by > 0 else len(rows)
            self._go_to_hit(by)

        self._work(f"Looking for {brief(text)}", work, done)

    def _go_to_hit(self, by: int) -> None:
        assert self._found is not None
        if not len(self._found):
            self.hits.setText("in no row")
            return
        self._at = (self._at + by) % len(self._found)
        self.hits.setText(f"{self._at + 1:,} of {counted(len(self._found), 'row', 'rows')}")
        index = self.view.place_of(int(self._found[self._at]))
        if index is not None:
            self.view.go_to(index)

    # Forms

    def begin(self, kind: str, variable: str = "", way: str = "") -> None:
        """Open the form that makes a step."""
        if self.session.table is not None:
            self._open(self._form(kind, None, None, variable, way))

    def open_step(self, index: int) -> None:
        """Change a step where it can best be changed."""
        steps = self.session.document.steps
        if index < 0 or (steps[index].begins and not steps[index].makes_rows):
            self.reading_asked.emit()
            return
        step = steps[index]
        if step.begins:
            self.beginning_asked.emit(step)
            return
        kind = step.__struct_config__.tag
        if kind in ("keep", "make", "join", "stack", "gather", "recode", "fill"):
            self._open(self._form(str(kind), index, step, "", ""))
            return
        table = self.session.table
        for name in step.about:
            if table is not None and table.has(name):
                self.leave_form()
                self.choose(name)
                self.facts.setFocus()

    def _form(
        self, kind: str, index: int | None, step: Step | None, variable: str, way: str
    ) -> StepForm:
        from rhabdos.app.rows.combine_forms import GatherForm, JoinForm, StackForm
        from rhabdos.app.rows.keep_form import KeepForm
        from rhabdos.app.rows.make_form import MakeForm
        from rhabdos.app.rows.number_each_form import NumberEachForm, gives_numbers
        from rhabdos.app.rows.value_forms import FillForm, RecodeForm

        forms: dict[str, type[StepForm]] = {
            "keep": KeepForm,
            "make": MakeForm,
            "recode": RecodeForm,
            "numbers": NumberEachForm,
            "fill": FillForm,
            "join": JoinForm,
            "stack": StackForm,
            "gather": GatherForm,
        }
        if isinstance(step, Recode) and gives_numbers(step):
            kind = "numbers"
        named = variable or self.view.chosen
        return forms[kind](self.session, index, step, named, way or None)

    def _open(self, form: StepForm) -> None:
        self.leave_form()
        self.form = form
        form.step_asked.connect(partial(self._do, form))
        form.left.connect(self.leave_form)
        area = scrolled(form)
        self.side.addWidget(area)
        self.side.setCurrentWidget(area)
        give_keys(form)

    def focusNextPrevChild(self, forwards: bool) -> bool:
        """From the steps to the rows, and on to the facts."""
        tab_in_order(self)
        return super().focusNextPrevChild(forwards)

    def leave_form(self) -> None:
        """Put the form away."""
        if self.form is None:
            return
        self.form.foresee_no_more()
        self.session.runner.cancel("looking")
        area = self.side.currentWidget()
        self.form = None
        if keys_in(self.side) is not None:
            self.view.setFocus()  # else whatever lies next has the keys, and changes by them
        self.side.setCurrentWidget(self._facts_area)
        if area is not None and area is not self._facts_area:
            self.side.removeWidget(area)
            area.hide()  # until Qt takes it away, which is not at once
            area.deleteLater()

    def _do(self, form: StepForm, step: Step) -> None:
        """Do the step that a form made; its place is let go first, since steps will be others."""
        place, steps = form.index, self.session.document.steps
        self.leave_form()
        name = step.words.rstrip(".")
        if place is not None:
            self.session.rows.ask_steps(f"Change: {name}", with_step_changed(steps, place, step))
        else:
            self.session.rows.prepare(name, step)
        if isinstance(step, Make) and (table := self.session.table) and table.has(step.name):
            self.choose(step.name)
            self.view.go_to(self.view.row, len(table.columns) - 1)
        self.steps.choose(place if place is not None else len(steps))
