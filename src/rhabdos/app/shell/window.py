"""The window: puts the parts together and takes wishes from one to another."""

from collections.abc import Callable, Sequence
from functools import cached_property, partial
from typing import TYPE_CHECKING

from msgspec import structs
from PyQt6.QtCore import QByteArray, QPoint, Qt, QTimer
from PyQt6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QResizeEvent,
)
from PyQt6.QtWidgets import (
    QMainWindow,
    QMessageBox,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from rhabdos.app.panels.group_actions import bring_forward, end_forward, move_level
from rhabdos.app.paper.stage import Stage
from rhabdos.app.sentence.sentence_bar import SentenceBar
from rhabdos.app.session.session import Session
from rhabdos.app.session.surroundings import Place
from rhabdos.app.session.unsaved import Unsaved, listed_plainly
from rhabdos.app.shell.menus import TOPS, Menus
from rhabdos.figure.edits.drag_edits import place_dragged
from rhabdos.figure.phrases import phrase_of
from rhabdos.figure.phrases.phrase import Key
from rhabdos.figure.phrases.sentence import Fragment, asides, sentence
from rhabdos.figure.phrases.shown import ALL, FIND, KEEP, SEE
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Bins, Boxes, Curves, Recipe
from rhabdos.figure.recipe.recipe_axes import Axes
from rhabdos.project.folders import Folders
from rhabdos.project.window_state import WindowState, keep_window_state, window_state
from rhabdos.quoting import file_named
from rhabdos.scene.marks import Meaning

if TYPE_CHECKING:
    from rhabdos.app.controls.progress import Progress
    from rhabdos.app.leaving.bringing_back import BringingBack
    from rhabdos.app.leaving.filing import Filing
    from rhabdos.app.paper.words_actions import WordsActions
    from rhabdos.app.rods.bell import Bell
    from rhabdos.app.rods.ends import Ends
    from rhabdos.app.rods.reach import Reach
    from rhabdos.app.rows.row_actions import RowActions
    from rhabdos.app.rows.rows_place import RowsPlace
    from rhabdos.app.variables.overview import Overview
    from rhabdos.app.variables.plain_chart_view import AidView
    from rhabdos.app.variables.variable_actions import VariableActions

_COLUMNS = (
    (186, 250, 0.182),
    (256, 280, 0.21),
)  # least, most and share of the width: variables, settings
_SUMMARY, _ROW = 74, 23  # height of the summary around its rows, and of one
_A_LITTLE = 6.0  # points to which the value of a new text is round
_LEAST = 170, 200  # to which a hand can bring them


class Window(QMainWindow):
    """The main window of Rhabdos."""

    def __init__(self, session: Session | None = None) -> None:
        super().__init__()
        self.session = session or Session(self)
        self.unsaved = Unsaved(self.session, parent=self)
        self.sentence = SentenceBar()
        self.stage = Stage()
        self._place: Place = "figure"
        self._bringing: BringingBack | None = None
        self._file_told = False
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
        from rhabdos.app.panels.side import Side
        from rhabdos.app.panels.summary_panel import ReadingsPanel
        from rhabdos.app.variables.variables_panel import VariablesPanel

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
        self.menus = Menus(self)
        self._connect()
        self._show_table()
        self._show_figure()
        self.variables.list.setFocus()

    def _settle(self) -> None:
        self.choose_phrase("bins")

    # What is not in sight at once is made when it is first wanted, which makes for a quicker start.

    @cached_property
    def variable_actions(self) -> "VariableActions":
        """What a hand wishes of variables."""
        from rhabdos.app.variables.variable_actions import VariableActions

        return VariableActions(self.session, self)

    @cached_property
    def row_actions(self) -> "RowActions":
        """What a hand wishes of the rows of a part of the figure."""
        from rhabdos.app.rows.row_actions import RowActions

        return RowActions(
            self.session,
            self,
            self.stage.canvas,
            self.variable_actions,
            lambda: self.rows_place,
        )

    @cached_property
    def words_actions(self) -> "WordsActions":
        """What a hand wishes of the words in the figure."""
        from rhabdos.app.paper.words_actions import WordsActions

        return WordsActions(self.session, self.stage.canvas)

    @cached_property
    def filing(self) -> "Filing":
        """Opening, saving and exporting."""
        from rhabdos.app.leaving.filing import Filing

        filing = Filing(self.session, self, self.unsaved)
        filing.folders = self._last_folders
        filing.told.connect(self.tell)
        filing.arriving.refused.connect(self.refuse)
        filing.arriving.told.connect(self.tell)
        filing.arriving.changed_on_disk.connect(self._show_changed)
        return filing

    @cached_property
    def rows_place(self) -> "RowsPlace":
        """The rows, how they came about, and the facts of a variable."""
        from rhabdos.app.rows.rows_place import RowsPlace

        rows = RowsPlace(self.session, self.variables.silhouettes)
        rows.drawn.connect(self.variable_actions.draw)
        rows.placed.connect(self.row_actions.show_in_figure)
        rows.told.connect(self.tell)
        rows.reading_asked.connect(self.arriving_deed("choose_reading"))
        rows.beginning_asked.connect(lambda step: self.filing.arriving.change_beginning(step))
        self.places.addWidget(rows)
        return rows

    @cached_property
    def progress(self) -> "Progress":
        """What is going on, over the place in sight."""
        from rhabdos.app.controls.progress import Progress

        progress = Progress(self.places)
        progress.cancel_button.clicked.connect(self.session.cancel)
        return progress

    @property
    def is_busy(self) -> bool:
        """Whether something is going on that can be stopped."""
        return "progress" in self.__dict__ and self.progress.isVisible()

    @cached_property
    def overview(self) -> "Overview":
        """Every variable's first look."""
        from rhabdos.app.variables.overview import Overview

        overview = Overview(self.variables.silhouettes)
        overview.opened.connect(self.variable_actions.draw)
        overview.rows_asked.connect(self._put_right)
        self.places.addWidget(overview)
        return overview

    @cached_property
    def aid_view(self) -> "AidView":
        """Level bars, or a scatter, in place of the figure."""
        from rhabdos.app.variables.plain_chart_view import AidView

        view = AidView(self.session)
        view.level_clicked.connect(self.row_actions.list_level)
        self.middle.addWidget(view)
        return view

    def filing_deed(self, name: str) -> Callable[[], None]:
        """What opens, saves or exports, for a menu; imported when it is first wanted."""
        return lambda: getattr(self.filing, name)()

    def arriving_deed(self, name: str) -> Callable[[], None]:
        """What brings data in, for a menu."""
        return lambda: getattr(self.filing.arriving, name)()

    def help_deed(self, name: str) -> Callable[[], None]:
        """What opens a page of help, for a menu."""

        def show() -> None:
            """Open the box, whose file is imported when it is first wanted."""
            from rhabdos.app.shell import help_boxes

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
        self._last_folders = Folders()
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
            self.menu_bar_of = [menus.addMenu(name) for name in TOPS]

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

    def _connect(self) -> None:
        session, stage = self.session, self.stage
        session.table_changed.connect(self._show_table)
        session.changed.connect(self._show_figure)
        session.previewed.connect(self._show_preview)
        self.unsaved.changed.connect(self._show_title)
        session.refused.connect(self.refuse)
        session.told.connect(self.tell)
        session.busy.connect(lambda stage, share: self.progress.tell(stage, share))
        session.idle.connect(lambda: self.progress.hide() if self.is_busy else None)
        stage.open_asked.connect(self.filing_deed("ask_for_data"))
        stage.paste_asked.connect(self.arriving_deed("paste"))
        stage.typing_asked.connect(self.arriving_deed("type_values"))
        stage.simulating_asked.connect(self.arriving_deed("simulate"))
        stage.demo_asked.connect(session.open_demo)
        stage.canvas.part_clicked.connect(self._click)
        stage.canvas.words_clicked.connect(self._type_over)
        self.side.writing_asked.connect(self.write_in_figure)
        stage.canvas.dragged_out.connect(
            lambda: self.filing.drag_out(stage.canvas.scene) if stage.canvas.scene else None
        )
        stage.canvas.swatch_clicked.connect(self._pick_colour)
        stage.canvas.given_up.connect(session.end_preview)
        stage.canvas.text_placed.connect(lambda *where: self.words_actions.place(*where))
        stage.canvas.rows_asked.connect(self.row_actions.offer)
        stage.canvas.level_moved.connect(partial(move_level, session))
        stage.rod.moved.connect(lambda bins: self._preview_bins(bins))
        stage.rod.asked.connect(self._ask_bins)
        stage.rod.held.connect(lambda held: None if held else session.end_preview())
        stage.rod_made.connect(self._connect_rod)
        self.sentence.opened.connect(self._open_alternatives)
        self.variables.chosen.connect(self.variable_actions.choose)
        self.variables.added.connect(self.variable_actions.add)
        self.readings.notices.cured.connect(session.cure)
        self.readings.asked.connect(session.ask)
        self.readings.tables_asked.connect(lambda: self.filing.show_tables())

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
        self.menus.places.mark(place)

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

    # Showing

    def _show_table(self) -> None:
        table = self.session.table
        self.variables.show_table(table)
        self.side.show_table()
        self._show_title()
        self.menus.enable(self.session)
        if table is None and self._place != "figure":
            self.go_to("figure")

    def _show_title(self) -> None:
        """The name of the data, and what of the work is not saved."""
        table, said = self.session.table, self.unsaved.words()
        parts = [table.name] if table else []
        if said:
            parts.append(f"not saved: {listed_plainly(said)}")
        self.setWindowTitle(" – ".join((*parts, "Rhabdos")))

    def _show_figure(self) -> None:
        readings, history = self.session.readings, self.session.history
        self._show_place()
        self.menus.undo.setText(f"Undo {history.undo_name}" if history.undo_name else "Undo")
        self.menus.redo.setText(f"Redo {history.redo_name}" if history.redo_name else "Redo")
        self.menus.undo.setEnabled(history.undo_name is not None)
        self.menus.redo.setEnabled(history.redo_name is not None)
        self.menus.enable(self.session)
        self.side.setVisible(readings is not None)
        self.readings.setVisible(readings is not None or bool(self.session.notices))
        if self._show_aid():
            return
        if readings is None:
            from rhabdos.app.variables.variable_actions import nothing_drawn

            reason = nothing_drawn(self.session.table)
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
        from rhabdos.figure.readings.plain_chart_readings import aid_sentence

        self.middle.setCurrentWidget(self.aid_view)
        self.aid_view.show_aid(aid, table)
        self.sentence.show_fragments((Fragment(aid_sentence(aid, table)),))
        self.side.setVisible(False)
        notices = self.session.notices
        self.readings.show_readings(None, notices)
        self.readings.setVisible(bool(notices))
        self.variables.mark({table.column(name).name for name in aid.names})
        return True

    def _show_preview(self) -> None:
        readings = self.session.readings
        assert readings
        self._show_drawn(readings)
        self.readings.show_readings(readings, (*self.session.notices, *self.stage.notices))
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
        """Say that a file changed on disk, and offer to read it again; what stood there before
        comes back afterwards."""
        if text:
            reload = ("reload it", self.arriving_deed("reload"))
            self._show_banner(text, (reload, ("leave it", self.banner_away)))
            self._file_told = True
        elif self._file_told:
            self.banner_away()

    def _show_banner(self, text: str, deeds: Sequence[tuple[str, Callable[[], object]]]) -> None:
        """A sentence above the places, with what can be done; nothing takes it away."""
        from rhabdos.app.rows.facts_panel import FactNotice

        self._file_told = False
        banner = FactNotice(text, deeds) if text else QWidget()
        if layout := self.banner.parentWidget().layout():  # type: ignore[union-attr]
            layout.replaceWidget(self.banner, banner)
        self.banner.hide()
        self.banner.deleteLater()
        self.banner = banner
        self.banner.setVisible(bool(text))

    def banner_away(self) -> None:
        """Put the notice about a changed file away."""
        self._show_banner("", ())
        if self._bringing is not None:
            self._bringing.offer_next()

    def offer_left_behind(self) -> None:
        """Offer what windows left behind that did not end by themselves, one after the other."""
        from rhabdos.app.leaving.bringing_back import BringingBack

        if self._bringing is not None:  # what waits is in its hands
            return
        self._bringing = BringingBack(self.session, self.unsaved, self._show_banner)
        self._bringing.offer_next()

    def tell(self, text: str) -> None:
        """Say something in passing, at the foot of the window."""
        if bar := self.statusBar():
            bar.setStyleSheet("")
            bar.showMessage(text, 8000)

    def refuse(self, text: str) -> None:
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
        from rhabdos.app.sentence.alternatives import alternatives

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
            self.begin_finding()
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

    def begin_finding(self) -> None:
        """Take the keys to the search field of the place in sight."""
        search = self.variables.search
        if self.place != "figure":
            search = (self.overview if self.place == "overview" else self.rows_place).search
        search.setFocus()
        search.selectAll()

    def _click(self, meaning: Meaning, more: bool) -> None:
        """Choose the phrase of a part of the figure, and bring the group forward that is there."""
        self.choose_phrase(phrase_of(meaning.part))
        if meaning.part != "text":
            bring_forward(self.session, meaning, more)

    def _type_over(self, meaning: Meaning) -> None:
        """Let words of the figure be typed where they stand, and show how they are set."""
        panel = self.side.panel("words")
        panel.choose_part(meaning.part, meaning.level)
        self.words_actions.type_over(meaning)

    def _pick_colour(self, level: str) -> None:
        """Let the colour of a level be picked that was clicked in the legend."""
        self.choose_phrase("look")
        self.side.panel("look").choose_part("swatch", level)

    def write_in_figure(self) -> None:
        """Place a text in the figure, and type it."""
        frame = self.stage.canvas.scene.frame if self.stage.canvas.scene else None
        if frame is not None:
            middle = (frame.start + frame.end) / 2
            grain = frame.grain(middle, _A_LITTLE)
            value = place_dragged(frame.value(middle), grain, frame.low, frame.high)
            self.words_actions.write_here(value, 0.85)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape, where nothing nearer has a use for it, stops what is going on, or else ends what
        is brought forward."""
        escaped = event is not None and event.key() == Qt.Key.Key_Escape
        if escaped and self.is_busy:
            self.session.cancel()
        elif not (escaped and end_forward(self.session)):
            super().keyPressEvent(event)

    # By hand

    def take_hold(self) -> None:
        """Take the keys to the rod."""
        if rod := self.stage.held_rod:
            rod.setFocus()

    def _connect_rod(self, rod: "Bell | Reach | Ends") -> None:
        rod.moved.connect(lambda part: self.session.preview(self._with(part)))
        rod.asked.connect(lambda part, name: self.session.ask(name, self._with(part)))
        rod.held.connect(lambda held: None if held else self.session.end_preview())

    def _with(self, part: Curves | Boxes | Axes) -> Recipe:
        assert self.session.recipe
        if isinstance(part, Curves):
            return self.session.recipe.changed(curve=part)
        if isinstance(part, Axes):
            return self.session.recipe.changed(axes=part)
        return self.session.recipe.changed(box=part)

    def _preview_bins(self, bins: Bins) -> None:
        if recipe := self.session.recipe:
            self.session.preview(recipe.binned(bins.changed(shared=recipe.bins.shared)))

    def _ask_bins(self, bins: Bins, name: str) -> None:
        if recipe := self.session.recipe:
            self.session.ask(name, recipe.binned(bins.changed(shared=recipe.bins.shared)))

    def print(self) -> None:
        """Print the figure, or what is looked at instead of one."""
        aid = self.session.document.aid
        if scene := self.aid_view.paper.scene if aid else self.stage.canvas.scene:
            self.filing.print(scene)

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
                self.tell(
                    f"One file at a time: {file_named(files[0].name)} is opened, {len(files) - 1} "
                    "more are not."
                )

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if (self.unsaved.words() or self.unsaved.left_behind()) and not self.filing.may_close():
            if event:
                event.ignore()
            return
        if hasattr(self, "variables"):
            self.variables.silhouettes.finish()
        self.session.finish()
        self.unsaved.end()
        if self._bringing is not None:
            self._bringing.let_go()
        self._keep_state()
        super().closeEvent(event)

    def restore(self) -> None:
        """Stand as the window stood when it was closed last."""
        state = window_state()
        if state.geometry:
            self.restoreGeometry(_bytes(state.geometry))
        if state.columns:
            self._columns_moved = self.columns.restoreState(_bytes(state.columns))
        self._last_folders = state.folders

    def _keep_state(self) -> None:
        geometry = self.saveGeometry().toBase64().data().decode()
        columns = self.columns.saveState().toBase64().data().decode()
        columns = columns if self._columns_moved else ""
        known = "filing" in self.__dict__
        folders = self.filing.folders if known else self._last_folders
        keep_window_state(WindowState(geometry, columns, folders))


def _bytes(text: str) -> QByteArray:
    return QByteArray.fromBase64(text.encode())
