"""The window: puts the places together, and says what there is to say."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QByteArray, QPoint, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import QMainWindow, QMenuBar, QMessageBox, QStackedWidget, QWidget

from rhabdos.app.controls.mnemonics import TOPS
from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.controls.theme import sized
from rhabdos.app.panels.group_actions import end_forward
from rhabdos.app.sentence.seen_line import SeenLine
from rhabdos.app.sentence.sentence_bar import SentenceBar
from rhabdos.app.session.session import Session
from rhabdos.app.session.unsaved import Unsaved, listed_plainly
from rhabdos.app.shell.banner import Banner
from rhabdos.app.shell.figure_place import FigurePlace
from rhabdos.figure.phrases.phrase import Key
from rhabdos.figure.phrases.shown import ALL, FIND, KEEP, SEE
from rhabdos.lazy import lazy
from rhabdos.project.folders import Folders
from rhabdos.project.window_state import WindowState, keep_window_state, window_state
from rhabdos.quoting import file_named

if TYPE_CHECKING:
    from rhabdos.app.controls.progress import Progress, QuietProgress
    from rhabdos.app.leaving.filing import Filing
    from rhabdos.app.rows.row_actions import RowActions
    from rhabdos.app.rows.rows_place import RowsPlace
    from rhabdos.app.session.surroundings import Place
    from rhabdos.app.shell.explaining import Explaining
    from rhabdos.app.shell.figure_actions import FigureActions
    from rhabdos.app.variables.overview import Overview
    from rhabdos.app.variables.variable_actions import VariableActions

_ROOM_FOR_SEEN = 660  # pixels of the window, from which there is room for what is seen
_TOLD_FOR, _A_LETTER = 12_000, 120  # milliseconds, and as many more for each letter


class Window(QMainWindow):
    """The main window of Rhabdos."""

    def __init__(self, session: Session | None = None) -> None:
        super().__init__()
        self.session = session or Session(self)
        self.unsaved = Unsaved(self.session, parent=self)
        self.sentence = SentenceBar()
        self.seen = SeenLine(self.session)
        self.figure = FigurePlace(self.session)
        self.banner = Banner(self.session, self.unsaved, lambda: self.filing.arriving.reload())
        self._complete = False
        self._place: Place = "figure"
        self._last_folders = Folders()
        self._lay_out()
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.setMinimumSize(640, 480)
        first, later = self.figure.stage.canvas.first_painted, Qt.ConnectionType.QueuedConnection
        if self.session.readings:  # the figure comes first, then what stands around it
            self.sentence.show_fragments(self.figure.fragments())
            self.figure.show_drawn(self.session.readings)
            first.connect(self.complete, later)  # type: ignore[call-arg]
        else:
            self.complete()
        first.connect(self._settle, later)  # type: ignore[call-arg]

    def complete(self) -> None:
        """Make the lists and menus, which the first figure does not wait for."""
        from rhabdos.app.shell.menus import Menus

        self.figure.complete()
        QWidget.setTabOrder(self.sentence, self.figure.variables.search)
        self.menus = Menus(self)
        self._complete = True
        self._connect()
        self._show_table()
        self._show_figure()
        welcome = self.figure.stage.welcome
        (self.figure.variables.list if self.session.table else welcome.open_button).setFocus()

    def _settle(self) -> None:
        if self.figure.side.chosen is None:  # a hand may have been quicker
            self.choose_phrase("bins")

    # What is not in sight at once is made when it is first wanted, which makes for a quicker start.

    @lazy
    def variable_actions(self) -> "VariableActions":
        """What a hand wishes of variables."""
        from rhabdos.app.variables.variable_actions import VariableActions

        return VariableActions(self.session, self)

    @lazy
    def row_actions(self) -> "RowActions":
        """What a hand wishes of the rows of a part of the figure."""
        from rhabdos.app.rows.row_actions import RowActions

        canvas = self.figure.stage.canvas
        return RowActions(
            self.session, self, canvas, self.variable_actions, lambda: self.rows_place
        )

    @lazy
    def figure_actions(self) -> "FigureActions":
        """What a hand does in the figure."""
        from rhabdos.app.shell.figure_actions import FigureActions

        return FigureActions(self.session, self.figure, self)

    @lazy
    def filing(self) -> "Filing":
        """Opening, saving and exporting."""
        from rhabdos.app.leaving.filing import Filing

        filing = Filing(self.session, self, self.unsaved)
        filing.folders = self._last_folders
        filing.told.connect(self.tell)
        filing.arriving.refused.connect(self.refuse)
        filing.arriving.told.connect(self.tell)
        filing.arriving.changed_on_disk.connect(self.banner.say_changed)
        return filing

    @lazy
    def explaining(self) -> "Explaining":
        """What is this?"""
        from rhabdos.app.shell.explaining import Explaining

        return Explaining(self)

    @lazy
    def rows_place(self) -> "RowsPlace":
        """The rows, how they came about, and the facts of a variable."""
        from rhabdos.app.rows.rows_place import RowsPlace

        rows = RowsPlace(self.session, self.figure.variables.silhouettes)
        rows.drawn.connect(self.variable_actions.draw)
        rows.drawn_along.connect(self.variable_actions.draw_along)
        rows.placed.connect(self.row_actions.show_in_figure)
        rows.told.connect(self.tell)
        rows.reading_asked.connect(lambda: self.filing.arriving.choose_reading())
        rows.beginning_asked.connect(lambda step: self.filing.arriving.change_beginning(step))
        self.places.addWidget(rows)
        return rows

    @lazy
    def overview(self) -> "Overview":
        """Every variable's first look."""
        from rhabdos.app.variables.overview import Overview

        overview = Overview(self.figure.variables.silhouettes)
        overview.opened.connect(self.variable_actions.draw)
        overview.rows_asked.connect(self._put_right)
        overview.opened_along.connect(self.variable_actions.draw_along)
        self.places.addWidget(overview)
        return overview

    @lazy
    def progress(self) -> "Progress":
        """What is going on, over the place in sight."""
        from rhabdos.app.controls.progress import Progress

        return Progress(self.places, self.session.cancel)

    @lazy
    def quiet_progress(self) -> "QuietProgress":
        """What is going on while everything can be used, at the foot."""
        from rhabdos.app.controls.progress import QuietProgress

        return QuietProgress(self.statusBar(), self.session.cancel)

    @property
    def is_busy(self) -> bool:
        """Whether something is going on that can be stopped."""
        return bool((progress := Window.progress.made(self)) and progress.isVisible())

    def _lay_out(self) -> None:
        whole = QWidget()
        layout = in_a_column(self.sentence, self.seen, self.banner, gap=0, of=whole)
        self.places = QStackedWidget()
        self.places.addWidget(self.figure)
        layout.addWidget(self.places, 1)
        self.setCentralWidget(whole)
        if bar := self.statusBar():
            bar.setSizeGripEnabled(False)
            bar.setAccessibleName("What was just done")
        self.menu_bar = QMenuBar()
        self.menu_bar_of = [menu for name in TOPS if (menu := self.menu_bar.addMenu(name))]

    def _connect(self) -> None:
        session, figure, stage = self.session, self.figure, self.figure.stage
        session.table_changed.connect(self._show_table)
        session.changed.connect(self._show_figure)
        session.previewed.connect(self._show_preview)
        self.unsaved.changed.connect(self._show_title)
        session.refused.connect(self.refuse)
        session.told.connect(self.tell)
        session.busy.connect(lambda stage, share: self.progress.tell(stage, share))
        session.idle.connect(lambda: self.progress.hide() if self.is_busy else None)
        session.runner.counting.connect(lambda stage: self.quiet_progress.tell(stage))
        session.runner.counted.connect(lambda: self.quiet_progress.hide())
        stage.open_asked.connect(lambda: self.filing.ask_for_data())
        stage.paste_asked.connect(lambda: self.filing.arriving.paste())
        stage.typing_asked.connect(lambda: self.filing.arriving.type_values())
        stage.simulating_asked.connect(lambda: self.filing.arriving.simulate())
        stage.demo_asked.connect(session.opening.open_demo)
        stage.canvas.dragged_out.connect(self._drag_out)
        stage.canvas.rows_asked.connect(self.row_actions.offer)
        figure.level_clicked.connect(self.row_actions.list_level)
        figure.variables.chosen.connect(self.variable_actions.choose)
        figure.variables.added.connect(self.variable_actions.add)
        figure.foot.notices.cured.connect(session.cure)
        figure.foot.recipe_asked.connect(session.ask)
        figure.foot.refused.connect(self.tell)
        figure.foot.tables_asked.connect(lambda: self.filing.show_tables())
        self.sentence.opened.connect(self._open_alternatives)
        figure.side.parts.chosen.connect(self._choose_part)
        self.seen.said.connect(self.figure_actions.hear_seen)

    # Places

    @property
    def place(self) -> "Place":
        """Which place is in sight."""
        return self._place

    def go_to(self, place: "Place") -> None:
        """Bring a place in sight."""
        if self.session.table is None and place != "figure":
            place = "figure"
        self._place = place
        if place == "rows":
            self.places.setCurrentWidget(self.rows_place)
            self.rows_place.view.setFocus()
        elif place == "overview":
            self.places.setCurrentWidget(self.overview)
            self.overview.take_keys()
        else:
            self.places.setCurrentWidget(self.figure)
            self.figure.stage.canvas.setFocus()
        self._show_place()
        self._show_seen()
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

    def begin_finding(self) -> None:
        """Take the keys to the search field of the place in sight."""
        search = self.figure.variables.search
        if self.place != "figure":
            search = (self.overview if self.place == "overview" else self.rows_place).search
        search.setFocus()
        search.selectAll()

    # Showing

    def _show_table(self) -> None:
        self.figure.show_table()
        self._show_title()
        self.menus.enable(self.session)
        if self.session.table is None and self._place != "figure":
            self.go_to("figure")

    def _show_title(self) -> None:
        """The name of the data, and what of the work is not saved."""
        table, said = self.session.table, self.unsaved.words()
        parts = [table.name] if table else []
        if said:
            parts.append(f"not saved: {listed_plainly(said)}")
        self.setWindowTitle(" – ".join((*parts, "Rhabdos")))

    def _show_figure(self) -> None:
        self._show_place()
        self.menus.enable(self.session)
        self.sentence.show_fragments(self.figure.fragments())
        self.figure.show_figure()
        self._show_seen()

    def _show_seen(self) -> None:
        """What is seen in the data, where the figure is in sight and has room beneath."""
        drawn = self._place == "figure" and self.session.document.chart is None
        self.seen.show_readings(self.session.readings if drawn else None)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.seen.give_room(self.height() >= sized(_ROOM_FOR_SEEN))

    def _show_preview(self) -> None:
        if readings := self.session.readings:
            self.sentence.show_fragments(self.figure.fragments())
            self.figure.show_preview(readings)

    def tell(self, text: str) -> None:
        """Say something in passing, at the foot of the window."""
        if bar := self.statusBar():
            bar.setStyleSheet("")
            bar.showMessage(text, _TOLD_FOR + _A_LETTER * len(text))
            bar.setAccessibleDescription(text)  # which screen readers are told of

    def refuse(self, text: str) -> None:
        """Say a refusal where the eye is: in the panel that asked, or in a box of its own."""
        panel = self.figure.side.typing() if self.isVisible() else None
        if panel:
            QTimer.singleShot(0, lambda: panel.say(text))  # which this turn shows anew
            return
        box = QMessageBox(
            QMessageBox.Icon.NoIcon, "Rhabdos", text, QMessageBox.StandardButton.Ok, self
        )
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        box.open()

    # Phrases

    def open_phrase(self, phrase: Key) -> None:
        """Open a phrase's alternatives, as a click on it does; one that is not in the sentence
        does so at the side, and what has none takes the keys there."""
        if self.sentence.button(phrase):
            self.sentence.open(phrase)
            return
        self.choose_phrase(phrase)
        side = self.figure.side
        if side.has_settings:
            self._open_alternatives(phrase, side.parts.under(phrase))
            return
        self.figure.fold("settings", False)
        if side.idle.cure.isVisible():
            side.idle.cure.setFocus()

    def _choose_part(self, phrase: Key) -> None:
        """What the sentence says is set at the side; of what it does not say, there is a first
        choice to make."""
        if self.sentence.button(phrase):
            self.choose_phrase(phrase)
        else:
            self.open_phrase(phrase)

    def choose_phrase(self, phrase: Key) -> None:
        """Bring the finer settings of a phrase to the side."""
        self.figure.side.choose(phrase)
        self.sentence.choose(phrase)
        self.figure.stage.hold_grips_of(phrase)

    def _open_alternatives(self, phrase: Key, place: QPoint) -> None:
        self.figure_actions.open_alternatives(phrase, place, self._do_aside)

    def _do_aside(self, wish: str) -> None:
        """Do what a menu offers beside other figures."""
        if wish == FIND:
            self.begin_finding()
        elif wish == KEEP:
            self.begin_step("keep")
        elif wish == SEE:
            self.go_to("rows")
        elif wish == ALL:
            self.figure_actions.every_row_again()

    # Out of the window

    def print(self) -> None:
        """Print the figure, or what is looked at instead of one."""
        if scene := self.figure.scene:
            self.filing.print(scene)

    def copy(self) -> None:
        """Copy the figure."""
        if scene := self.figure.scene:
            self.filing.copy(scene)

    def _drag_out(self) -> None:
        if scene := self.figure.stage.canvas.scene:
            self.filing.drag_out(scene)

    # Events

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape, where nothing nearer has a use for it, stops what is going on, or else ends what
        is brought forward."""
        escaped = event is not None and event.key() == Qt.Key.Key_Escape
        if escaped and self.is_busy:
            self.session.cancel()
        elif not (escaped and end_forward(self.session)):
            super().keyPressEvent(event)

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
        if self._complete:
            self.figure.variables.silhouettes.finish()
        self.session.finish()
        self.unsaved.end()
        self.banner.finish()
        self._keep_state()
        super().closeEvent(event)

    def restore(self) -> None:
        """Stand as the window stood when it was closed last."""
        state = window_state()
        if state.geometry:
            self.restoreGeometry(QByteArray.fromBase64(state.geometry.encode()))
        if state.columns:
            self.figure.restore_columns(state.columns)
        self._last_folders = state.folders

    def _keep_state(self) -> None:
        geometry = self.saveGeometry().toBase64().data().decode()
        filing = Window.filing.made(self)
        folders = filing.folders if filing else self._last_folders
        keep_window_state(WindowState(geometry, self.figure.columns_state, folders))
