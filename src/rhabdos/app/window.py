"""The window: puts the parts together and takes wishes from one to another."""

from collections.abc import Callable
from functools import cached_property, partial
from typing import TYPE_CHECKING

from msgspec import structs
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtGui import (
    QAction,
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QResizeEvent,
)
from PyQt6.QtWidgets import (
    QMainWindow,
    QMenu,
    QMessageBox,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from rhabdos.app.choices import Choices
from rhabdos.app.group_wishes import bring_forward, end_forward, move_level
from rhabdos.app.places import PLACES, Place, Places
from rhabdos.app.sentence_bar import SentenceBar
from rhabdos.app.session import Session
from rhabdos.app.stage import Stage
from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.table import Table
from rhabdos.figure.phrases import PHRASES, phrase_of
from rhabdos.figure.phrases.grouping import split_by
from rhabdos.figure.phrases.phrase import Key
from rhabdos.figure.phrases.shown import ALL, FIND, KEEP, SEE, showing, with_variable
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import Bins, Boxes, Curves, Recipe, Show
from rhabdos.figure.sentence import Fragment, asides, sentence
from rhabdos.quoting import file_named, quoted
from rhabdos.scene.marks import Meaning

if TYPE_CHECKING:
    from rhabdos.app.aid_view import AidView
    from rhabdos.app.bell import Bell
    from rhabdos.app.filing import Filing
    from rhabdos.app.overview import Overview
    from rhabdos.app.reach import Reach
    from rhabdos.app.rows_place import RowsPlace
    from rhabdos.data.steps.keep import KeepRows

_COLUMNS = (
    (186, 250, 0.182),
    (228, 280, 0.21),
)  # least, most and share of the width: variables, settings
_SUMMARY, _ROW = 74, 23  # height of the summary around its rows, and of one
_LEAST = 170, 200  # to which a hand can bring them


def _nothing_drawn(table: Table | None) -> str:
    """Why there is no figure, and what to do; empty where nothing is open yet."""
    if table is None:
        return ""
    if table.drawable:
        return f"{quoted(table.name)} is open.\nChoose a variable at the left to draw it."
    what = "no numeric variable with a value" if table.numbers else "no numeric variable"
    return (
        f"{quoted(table.name)} has {what}, and a histogram needs one.\n"
        "Open another file, or add a column of numbers to this one."
    )


class Window(QMainWindow):
    """The main window of Rhabdos."""

    def __init__(self, session: Session | None = None) -> None:
        super().__init__()
        self.session = session or Session(self)
        self.sentence = SentenceBar()
        self.stage = Stage()
        self._place: Place = "figure"
        self._lay_out()
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.setMinimumSize(900, 600)
        first = self.stage.canvas.first_painted
        if self.session.readings:  # the figure comes first, then what stands around it
            self._show_drawn(self.session.readings)
            first.connect(self._complete, Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]
        else:
            self._complete()
        first.connect(self._settle, Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]

    def _complete(self) -> None:
        """Make the lists and menus, which the first figure does not wait for."""
        from rhabdos.app.readings_panel import ReadingsPanel
        from rhabdos.app.side import Side
        from rhabdos.app.variables_panel import VariablesPanel

        self.variables = VariablesPanel()
        self.side = Side(self.session)
        self.readings = ReadingsPanel()
        for splitter, position, panel in (
            (self.columns, 0, self.variables),
            (self.columns, 2, self.side),
            (self.rows, 1, self.readings),
        ):
            if former := splitter.replaceWidget(position, panel):
                former.deleteLater()
        for column, least in ((0, _LEAST[0]), (2, _LEAST[1])):
            if widget := self.columns.widget(column):
                widget.setMinimumWidth(least)
        for before, after in (
            (self.sentence, self.variables.search),
            (self.variables.list, self.stage.canvas),
            (self.stage.canvas, self.stage.rod),
            (self.stage.rod, self.side),
        ):
            QWidget.setTabOrder(before, after)
        self._make_menus()
        self._connect()
        self._show_table()
        self._show_figure()
        self.variables.list.setFocus()

    def _settle(self) -> None:
        self.choose_phrase("bins")

    # What is not in sight at once is made when it is first wanted, which makes for a quicker start.

    @cached_property
    def filing(self) -> "Filing":
        """Opening, saving and exporting."""
        from rhabdos.app.filing import Filing

        filing = Filing(self.session, self)
        filing.told.connect(self._tell)
        filing.arriving.refused.connect(self._refuse)
        filing.arriving.changed_on_disk.connect(self._show_changed)
        return filing

    @cached_property
    def rows_place(self) -> "RowsPlace":
        """The rows, how they came about, and the facts of a variable."""
        from rhabdos.app.rows_place import RowsPlace

        rows = RowsPlace(self.session, self.variables.silhouettes)
        rows.drawn.connect(self._draw)
        rows.placed.connect(self._show_in_figure)
        rows.told.connect(self._tell)
        rows.reading_asked.connect(self._arriving("choose_reading"))
        rows.beginning_asked.connect(lambda step: self.filing.arriving.change_beginning(step))
        self.places.addWidget(rows)
        return rows

    @cached_property
    def overview(self) -> "Overview":
        """Every variable's first look."""
        from rhabdos.app.overview import Overview

        overview = Overview(self.variables.silhouettes)
        overview.opened.connect(self._draw)
        overview.rows_asked.connect(self._put_right)
        self.places.addWidget(overview)
        return overview

    @cached_property
    def aid_view(self) -> "AidView":
        """Level bars, or a scatter, in place of the figure."""
        from rhabdos.app.aid_view import AidView

        view = AidView(self.session)
        view.level_clicked.connect(self._show_level_rows)
        self.middle.addWidget(view)
        return view

    def _filing(self, name: str) -> Callable[[], None]:
        return lambda: getattr(self.filing, name)()

    def _arriving(self, name: str) -> Callable[[], None]:
        return lambda: getattr(self.filing.arriving, name)()

    def _help(self, name: str) -> Callable[[], None]:
        def show() -> None:
            """Open the box, whose file is imported when it is first wanted."""
            from rhabdos.app import help_boxes

            getattr(help_boxes, name)(self)

        return show

    def _lay_out(self) -> None:
        self.columns = QSplitter(Qt.Orientation.Horizontal)
        self.middle = QStackedWidget()
        self.middle.addWidget(self.stage)
        for widget in (QWidget(), self.middle, QWidget()):
            self.columns.addWidget(widget)
        self.columns.setStretchFactor(1, 1)
        self.columns.splitterMoved.connect(self._keep_columns)
        self._columns_moved = False
        self.rows = QSplitter(Qt.Orientation.Vertical)
        self.rows.addWidget(self.columns)
        self.rows.addWidget(QWidget())
        self.rows.setStretchFactor(0, 1)
        for splitter in (self.columns, self.rows):
            splitter.setHandleWidth(1)
            splitter.setChildrenCollapsible(False)
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.sentence)
        self.banner = QWidget()
        self.banner.hide()
        layout.addWidget(self.banner)
        self.places = QStackedWidget()
        self.places.addWidget(self.rows)
        layout.addWidget(self.places, 1)
        self.setCentralWidget(whole)
        if bar := self.statusBar():
            bar.setSizeGripEnabled(False)
        if menus := self.menuBar():
            names = ("&File", "&Edit", "&Data", "F&igure", "&Help")
            self._menus = [menus.addMenu(name) for name in names]

    def _keep_columns(self) -> None:
        self._columns_moved = True

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """In a smaller window the lists give way to the figure, until the user sets them by
        hand."""
        super().resizeEvent(event)
        if not self._columns_moved:
            left, right = (
                min(most, max(least, int(self.width() * share))) for least, most, share in _COLUMNS
            )
            self.columns.setSizes([left, self.width() - left - right, right])

    def _make_menus(self) -> None:
        file, edit, data, figure, help_ = self._menus
        self.open_action = self._action(file, "Open data …", self._filing("ask_for_data"), "Ctrl+O")
        self._recent = QMenu("Recent files", self)
        self._recent.aboutToShow.connect(lambda: self.filing.arriving.fill_recent(self._recent))
        if file:
            file.addMenu(self._recent)
        self._action(file, "Look into a file …", self._filing("ask_to_look_into"), "Ctrl+Alt+O")
        self.demo_action = self._action(file, "Open the demo data", self.session.open_demo)
        self._line(file)
        for words, name, keys in (
            ("Paste cells", "paste", "Ctrl+V"),
            ("Type values …", "type_values", "Ctrl+T"),
            ("Practice samples …", "simulate", "Ctrl+Shift+T"),
        ):
            self._action(file, words, self._arriving(name), keys)
        self.reload_action = self._action(file, "Reload the file", self._arriving("reload"), "F5")
        self._line(file)
        self.open_recipe_action = self._action(
            file, "Open recipe …", self._filing("ask_for_recipe"), "Ctrl+Shift+O"
        )
        self.save_action = self._action(file, "Save recipe", self._filing("save_recipe"), "Ctrl+S")
        self.save_as_action = self._action(
            file, "Save recipe as …", self._filing("save_recipe_as"), "Ctrl+Shift+S"
        )
        self._line(file)
        self.export_action = self._action(file, "Export figure …", self._filing("export"), "Ctrl+E")
        self._line(file)
        self._action(file, "Quit", self.close, "Ctrl+Q")
        self.undo_action = self._action(edit, "Undo", self.session.undo, "Ctrl+Z")
        self.redo_action = self._action(edit, "Redo", self.session.redo, "Ctrl+Shift+Z")
        self._line(edit)
        self.copy_action = self._action(edit, "Copy figure", self.copy, "Ctrl+C")
        self._line(edit)
        self.find_action = self._action(edit, "Find a variable", self.find_variable, "Ctrl+F")
        self._make_data_menu(data)
        self.phrase_actions: dict[Key, QAction] = {}
        for phrase in PHRASES.values():
            self.phrase_actions[phrase.key] = self._action(
                figure, f"{phrase.title} …", partial(self.open_phrase, phrase.key), phrase.keys
            )
        self._line(figure)
        self.levels_action = self._action(
            figure, "Look at levels as bars", self.look_at_levels, "Ctrl+Shift+L"
        )
        self.scatter_action = self._action(
            figure, "Look at two numbers", self.look_at_two, "Ctrl+Shift+X"
        )
        self.part_rows_action = self._action(
            figure, "Rows of the part that is read …", self._offer_part_rows, "Ctrl+Shift+R"
        )
        self._line(figure)
        self.rod_action = self._action(figure, "Take hold of the rod", self._take_hold, "Ctrl+R")
        self.read_action = self._action(
            figure, "Read the bars one by one", self.stage.canvas.setFocus, "Ctrl+B"
        )
        self._action(help_, "Keys and gestures", self._help("show_keys"), "F1")
        self._action(help_, "About Rhabdos", self._help("show_about"))

    def _make_data_menu(self, data: QMenu | None) -> None:
        self.place_actions: dict[Place, QAction] = {}
        for place, (words, keys) in PLACES.items():
            action = self._action(data, words, partial(self.go_to, place), keys)
            self.place_actions[place] = action
        self._line(data)
        self.step_actions = {
            kind: self._action(data, f"{words} …", partial(self.begin_step, kind), keys)
            for kind, words, keys in (
                ("keep", "Keep rows", "Ctrl+K"),
                ("make", "Make a variable", "Ctrl+M"),
                ("join", "Join a table", "Ctrl+J"),
                ("stack", "Stack tables", ""),
                ("gather", "Gather columns", ""),
            )
        }
        if bar := self.menuBar():
            self.place_words = Places()
            self.place_words.chosen.connect(self.go_to)
            bar.setCornerWidget(self.place_words)
            self.place_words.show()

    @staticmethod
    def _line(menu: QMenu | None) -> None:
        assert menu is not None
        menu.addSeparator()

    def _action(
        self,
        menu: QMenu | None,
        text: str,
        does: Callable[[], object],
        keys: str = "",
    ) -> QAction:
        action = QAction(text, self)
        action.setShortcut(keys)
        action.triggered.connect(lambda: does())
        assert menu is not None
        menu.addAction(action)
        return action

    def _connect(self) -> None:
        session, stage = self.session, self.stage
        session.table_changed.connect(self._show_table)
        session.changed.connect(self._show_figure)
        session.previewed.connect(self._show_preview)
        session.refused.connect(self._refuse)
        session.told.connect(self._tell)
        session.busy.connect(stage.show_progress)
        session.idle.connect(stage.hide_progress)
        stage.cancel_asked.connect(session.cancel)
        stage.open_asked.connect(self._filing("ask_for_data"))
        stage.demo_asked.connect(session.open_demo)
        stage.canvas.part_clicked.connect(self._click)
        stage.canvas.rows_asked.connect(self._offer_rows)
        stage.canvas.level_moved.connect(partial(move_level, session))
        stage.rod.moved.connect(lambda bins: self._preview_bins(bins))
        stage.rod.asked.connect(self._ask_bins)
        stage.rod.held.connect(lambda held: None if held else session.end_preview())
        stage.rod_made.connect(self._connect_rod)
        self.sentence.opened.connect(self._open_alternatives)
        self.variables.chosen.connect(self._choose_variable)
        self.variables.added.connect(self._add_variable)
        self.readings.notices.cured.connect(session.cure)
        self.readings.asked.connect(session.ask)

    # Places

    @property
    def place(self) -> Place:
        """Which place is in sight."""
        return self._place

    def go_to(self, place: Place) -> None:
        """Bring a place in sight."""
        if self.session.table is None and place != "figure":
            place = "figure"
        self._place = place
        if place == "rows":
            self.places.setCurrentWidget(self.rows_place)
            self.rows_place.view.setFocus()
        elif place == "overview":
            self.places.setCurrentWidget(self.overview)
            self.overview.cards.setFocus()
        else:
            self.places.setCurrentWidget(self.rows)
            self.stage.canvas.setFocus()
        self._show_place()
        self.place_words.mark(place)

    def _show_place(self) -> None:
        """Let the place in sight show what is there now."""
        if self._place == "rows":
            self.rows_place.show_table()
        elif self._place == "overview":
            readings = self.session.readings
            columns = (*readings.variables, *readings.gathered.factors) if readings else ()
            self.overview.show_table(self.session.table, {column.name for column in columns})

    def _put_right(self, name: str) -> None:
        """Bring the facts of a variable in sight."""
        self.go_to("rows")
        self.rows_place.choose(name)

    def begin_step(self, kind: str) -> None:
        """Open the form of a step."""
        self.go_to("rows")
        if self._place == "rows":
            self.rows_place.begin(kind)

    def _draw(self, name: str) -> None:
        """Draw a variable, whatever place it was asked from: bars of its levels, if it has some."""
        table = self.session.table
        if table is not None and isinstance(table.column(name), CategoryColumn):
            self._look_at_levels(name)
        else:
            self._choose_variable(name)
        self.go_to("figure")

    def _show_in_figure(self, row: int, name: str) -> None:
        """Show a row's value in the figure of its variable."""
        table = self.session.table
        column = table.column(name) if table else None
        if not isinstance(column, NumberColumn) or table is None:
            self._draw(name)
            return
        value = float(column.values[row])
        if value != value:
            self._tell(f"Row {table.row_number(row):,} has no {column.label} to show.")
            return
        readings = self.session.readings
        if readings is None or name not in {v.name for v in readings.variables}:
            self._choose_variable(name)
        self.go_to("figure")
        self.stage.canvas.point_at(name, row)

    # Showing

    def _show_table(self) -> None:
        table = self.session.table
        self.variables.show_table(table)
        self.side.show_table()
        self.setWindowTitle(f"{table.name} – Rhabdos" if table else "Rhabdos")
        on_data = (*self.step_actions.values(), *self.place_actions.values())
        for action in (*on_data, self.levels_action, self.scatter_action):
            action.setEnabled(table is not None)
        for place, button in self.place_words.buttons.items():
            button.setEnabled(table is not None or place == "figure")
        if table is None and self._place != "figure":
            self.go_to("figure")

    def _show_figure(self) -> None:
        readings, history = self.session.readings, self.session.history
        self._show_place()
        self.undo_action.setText(f"Undo {history.undo_name}" if history.undo_name else "Undo")
        self.redo_action.setText(f"Redo {history.redo_name}" if history.redo_name else "Redo")
        self.undo_action.setEnabled(history.undo_name is not None)
        self.redo_action.setEnabled(history.redo_name is not None)
        source = self.session.document.source
        self.reload_action.setEnabled(source is not None and source.path is not None)
        with_figure = (
            self.save_action,
            self.save_as_action,
            self.export_action,
            self.copy_action,
            self.rod_action,
            self.read_action,
            self.part_rows_action,
        )
        for action in (*with_figure, *self.phrase_actions.values()):
            action.setEnabled(readings is not None)
        self.find_action.setEnabled(self.session.table is not None)
        self.side.setVisible(readings is not None)
        self.readings.setVisible(readings is not None or bool(self.session.notices))
        if self._show_aid():
            return
        if readings is None:
            reason = _nothing_drawn(self.session.table)
            self.stage.show_nothing(reason)
            self.sentence.show_fragments((Fragment(reason.partition("\n")[0] or "No figure yet."),))
            self.readings.show_readings(None, self.session.notices)
            self.variables.mark(set())
            return
        factors = {factor.name for factor in readings.gathered.factors}
        self.variables.mark({variable.name for variable in readings.variables} | factors)
        self._show_preview()

    def _show_aid(self) -> bool:
        """Show the aid that is looked at in place of the figure; tells whether there is one."""
        aid, table = self.session.document.aid, self.session.table
        if aid is None or table is None:
            self.middle.setCurrentWidget(self.stage)
            return False
        from rhabdos.figure.aid_readings import aid_sentence

        self.middle.setCurrentWidget(self.aid_view)
        self.aid_view.show_aid(aid, table)
        self.sentence.show_fragments((Fragment(aid_sentence(aid, table)),))
        self.side.setVisible(False)
        notices = self.session.notices
        self.readings.show_readings(None, notices)
        self.readings.setVisible(bool(notices))
        self.variables.mark({table.column(name).name for name in aid.names})
        for action in self.phrase_actions.values():
            action.setEnabled(False)
        return True

    def _show_level_rows(self, level: str) -> None:
        """List the rows of a level."""
        from rhabdos.figure.aids import LevelsAid

        aid, table = self.session.document.aid, self.session.table
        if isinstance(aid, LevelsAid) and table is not None:
            from rhabdos.data.steps.keep import Condition, KeepRows

            condition = Condition(variable=table.column(aid.variable).name, levels=(level,))
            self._list_rows(KeepRows(where=(condition,)))

    def _offer_rows(self, step: "KeepRows", place: QPoint) -> None:
        """Offer to see, to keep or to leave out the rows of a part or of a range."""
        table = self.session.table
        if table is None:
            return
        count = int(step.holds(table).sum())
        rows = "this row" if count == 1 else f"these {count:,} rows"
        out = structs.replace(step, out=True)
        menu = Choices(self)
        menu.offer(f"See {rows}", lambda: self._list_rows(step))
        menu.offer(f"Keep only {rows}", lambda: self._keep(step))
        menu.offer(f"Leave {rows} out", lambda: self._keep(out))
        menu.open_at(place)

    def _offer_part_rows(self) -> None:
        """Offer the rows of the part that is read by keys, or of the range that is marked."""
        canvas = self.stage.canvas
        if not canvas.offer_rows(canvas.mapToGlobal(QPoint(40, 40))):
            self._tell("Read a part of the figure first: point at it, or press Ctrl+B and arrows.")

    def _keep(self, step: "KeepRows") -> None:
        self.stage.canvas.forget_range()
        self.session.prepare(step.words.rstrip("."), step)

    def _list_rows(self, step: "KeepRows", words: str = "") -> None:
        """List the rows that a step would keep, without keeping them."""
        table = self.session.table
        if table is None:
            return
        rows = step.holds(table).nonzero()[0]
        self.go_to("rows")
        said = words or step.words.removeprefix("Kept rows ").rstrip(".")
        listed = "1 row" if len(rows) == 1 else f"{len(rows):,} rows"
        self.rows_place.show_rows(rows, f"{listed} {said}", step)

    def _show_preview(self) -> None:
        readings = self.session.readings
        assert readings
        self._show_drawn(readings)
        self.readings.show_readings(readings, self.session.notices)
        self.side.show_readings(readings)

    def _show_drawn(self, readings: Readings) -> None:
        """The figure itself, and its sentence."""
        self.sentence.show_fragments((*sentence(readings)[:-1], Fragment(". "), *asides(readings)))
        self.stage.show_readings(readings)
        height = _SUMMARY + _ROW * min(
            max(len(readings.groups), 1), 4
        )  # of more groups the others scroll
        if self.rows.sizes()[1] < height:
            self.rows.setSizes([max(200, sum(self.rows.sizes()) - height), height])

    def _show_changed(self, text: str) -> None:
        """Say that a file changed on disk, and offer to read it again."""
        from rhabdos.app.facts_panel import FactNotice

        banner = QWidget()
        if text:
            deeds = [("reload it", self._arriving("reload")), ("leave it", self.banner_away)]
            banner = FactNotice(text, deeds)
        if layout := self.banner.parentWidget().layout():  # type: ignore[union-attr]
            layout.replaceWidget(self.banner, banner)
        self.banner.hide()
        self.banner.deleteLater()
        self.banner = banner
        self.banner.setVisible(bool(text))

    def banner_away(self) -> None:
        """Put the notice about a changed file away."""
        self._show_changed("")

    def _tell(self, text: str) -> None:
        if bar := self.statusBar():
            bar.setStyleSheet("")
            bar.showMessage(text, 8000)

    def _refuse(self, text: str) -> None:
        """Say a refusal where the eye is: in the panel that asked, or in a box of its own."""
        panel = self.side.typing() if self.isVisible() else None
        if panel:
            QTimer.singleShot(0, lambda: panel.say(text))
            return
        box = QMessageBox(
            QMessageBox.Icon.NoIcon, "Rhabdos", text, QMessageBox.StandardButton.Ok, self
        )
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        box.open()

    # Phrases

    def open_phrase(self, phrase: Key) -> None:
        """Open a phrase's alternatives, as a click on it does."""
        self.sentence.open(phrase)

    def choose_phrase(self, phrase: Key) -> None:
        """Bring the finer settings of a phrase to the side."""
        self.side.choose(phrase)
        self.sentence.choose(phrase)
        self.stage.hold_grips_of(phrase)

    def _open_alternatives(self, phrase: Key, place: QPoint) -> None:
        from rhabdos.app.alternatives import alternatives

        self.choose_phrase(phrase)
        readings = self.session.readings
        if not readings:
            return
        menu = alternatives(phrase, readings, self.session.ask, self._asked_aside, self)
        if menu is None:
            self.side.panel(phrase).begin()
        else:
            menu.open_at(place)

    def _asked_aside(self, wish: str) -> None:
        """Do what a menu offers beside other figures."""
        if wish == FIND:
            self.find_variable()
        elif wish == KEEP:
            self.begin_step("keep")
        elif wish == SEE:
            self.go_to("rows")
        elif wish == ALL:
            from rhabdos.data.steps.keep import KeepRows

            steps = self.session.document.steps
            rest = tuple(
                structs.replace(s, off=True) if isinstance(s, KeepRows) else s for s in steps
            )
            self.session.ask_steps("All rows again", rest)

    def _add_variable(self, name: str) -> None:
        """Show a numeric variable with the others, or leave it out again."""
        readings, table = self.session.readings, self.session.table
        column = table.column(name) if table else None
        if readings is None or not isinstance(column, NumberColumn) or not column.n:
            self._choose_variable(name)
            return
        wanted = with_variable(readings.recipe, readings, name)
        if wanted != readings.recipe:
            more = name not in {variable.name for variable in readings.gathered.variables}
            words = f"Show {column.label} too" if more else f"Without {column.label}"
            self.session.ask(words, wanted)

    def _choose_variable(self, name: str) -> None:
        table, recipe = self.session.table, self.session.recipe
        if not table:
            return
        column = table.column(name)
        if isinstance(column, NumberColumn):
            if not column.n:
                self._refuse(
                    f"{quoted(column.label)} has no values: all {column.rows:,} rows are missing."
                )
            else:
                wanted = showing(recipe, name) if recipe else Recipe(show=Show(variables=(name,)))
                self.session.ask(f"Show {column.label}", wanted)
        elif isinstance(column, CategoryColumn) and (not recipe or self.session.document.aid):
            self._look_at_levels(name)
        elif isinstance(column, CategoryColumn) and recipe:
            split = [table.column(factor) for factor in recipe.show.split]
            together = column in split
            words = "All together" if together else f"Split by {column.label}"
            self.session.ask(words, split_by(recipe, *(() if together else (name,))))
            self.choose_phrase("split")
        else:
            self._refuse(
                f"{quoted(column.label)} names rows: it is neither numbers to draw nor groups to "
                "split by."
            )

    def _look_at_levels(self, name: str) -> None:
        """Look at the levels of a category as bars."""
        from rhabdos.figure.aids import LevelsAid

        self.session.look_at(f"Levels of {name}", LevelsAid(variable=name))

    def look_at_two(self) -> None:
        """Look at two numbers as a scatter: the one that is drawn, and the next."""
        from rhabdos.figure.aids import ScatterAid

        table, readings = self.session.table, self.session.readings
        columns = table.drawable if table else ()
        if len(columns) < 2:
            self._refuse("Two numeric variables are needed, and there is one at most.")
            return
        shown = [v.name for v in readings.variables] if readings else []
        x = shown[0] if shown else columns[0].name
        y = next((n for n in shown[1:] if n != x), None)
        y = y or next(column.name for column in columns if column.name != x)
        self.go_to("figure")
        self.session.look_at("Look at two numbers", ScatterAid(x=x, y=y))

    def look_at_levels(self) -> None:
        """Look at the levels of the factor that splits, or of the first category."""
        table, readings = self.session.table, self.session.readings
        groups = [c for c in table.columns if isinstance(c, CategoryColumn)] if table else []
        factors = [f.name for f in readings.gathered.factors] if readings else []
        name = next((c.name for c in groups if c.name in factors), None)
        name = name or next((c.name for c in groups), None)
        if name is None:
            self._refuse("There is no category here whose levels could be looked at.")
            return
        self.go_to("figure")
        self._look_at_levels(name)

    def find_variable(self) -> None:
        """Take the keys to the search field."""
        self.variables.search.setFocus()
        self.variables.search.selectAll()

    def _click(self, meaning: Meaning, more: bool) -> None:
        """Choose the phrase of a part of the figure, and bring the group forward that is there."""
        self.choose_phrase(phrase_of(meaning.part))
        bring_forward(self.session, meaning, more)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape, where nothing nearer has a use for it, ends what is brought forward."""
        escaped = event is not None and event.key() == Qt.Key.Key_Escape
        if not (escaped and end_forward(self.session)):
            super().keyPressEvent(event)

    # By hand

    def _take_hold(self) -> None:
        if rod := self.stage.held_rod:
            rod.setFocus()

    def _connect_rod(self, rod: "Bell | Reach") -> None:
        rod.moved.connect(lambda part: self.session.preview(self._with(part)))
        rod.asked.connect(lambda part, name: self.session.ask(name, self._with(part)))
        rod.held.connect(lambda held: None if held else self.session.end_preview())

    def _with(self, part: Curves | Boxes) -> Recipe:
        assert self.session.recipe
        if isinstance(part, Curves):
            return self.session.recipe.changed(curve=part)
        return self.session.recipe.changed(box=part)

    def _preview_bins(self, bins: Bins) -> None:
        if recipe := self.session.recipe:
            self.session.preview(recipe.binned(bins.changed(shared=recipe.bins.shared)))

    def _ask_bins(self, bins: Bins, name: str) -> None:
        if recipe := self.session.recipe:
            self.session.ask(name, recipe.binned(bins.changed(shared=recipe.bins.shared)))

    def copy(self) -> None:
        """Copy the figure."""
        aid = self.session.document.aid
        if scene := self.aid_view.paper.scene if aid else self.stage.canvas.scene:
            self.filing.copy(scene)

    # Events

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if (
            event
            and (content := event.mimeData())
            and any(url.isLocalFile() for url in content.urls())
        ):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event and (content := event.mimeData()):
            from pathlib import Path

            files = [Path(url.toLocalFile()) for url in content.urls() if url.isLocalFile()]
            self.filing.open(files[0])
            if len(files) > 1:
                self._tell(
                    f"One file at a time: {file_named(files[0].name)} is opened, {len(files) - 1} "
                    "more are not."
                )

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if "filing" in self.__dict__ and not self.filing.may_close():
            if event:
                event.ignore()
            return
        if hasattr(self, "variables"):
            self.variables.silhouettes.finish()
        self.session.finish()
        super().closeEvent(event)
