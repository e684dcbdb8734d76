"""The menus: every deed of the window, with its key."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QWidget

from rhabdos.app.controls.marked import dressed_as
from rhabdos.app.controls.mnemonics import letter_menu
from rhabdos.app.controls.plain_texts import as_written
from rhabdos.app.controls.rows_and_columns import in_a_row
from rhabdos.app.shell.figure_place import Pane
from rhabdos.app.shell.panes import to_next_pane
from rhabdos.app.shell.places import PLACES, Places
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.phrase import Key

if TYPE_CHECKING:
    from rhabdos.app.panels.foot import FaceName
    from rhabdos.app.session.session import Session
    from rhabdos.app.session.surroundings import Place
    from rhabdos.app.shell.window import Window


_STEPS = (
    ("keep", "Keep rows", "Ctrl+Shift+K"),
    ("make", "Make a variable", "Ctrl+M"),
    ("join", "Join a table", "Ctrl+J"),
    ("stack", "Stack tables", ""),
    ("gather", "Gather columns", ""),
)


FACES: tuple[tuple["FaceName", str], ...] = (
    ("summary", "Summary"),
    ("compare", "Compared"),
    ("bins", "Bins"),
    ("rows", "Rows"),
    ("quantiles", "Quantiles"),
)
"""What stands under the figure, as the menu calls it."""
_FOLDS: tuple[tuple[Pane, str, str], ...] = (
    ("variables", "Variables", "F7"),
    ("settings", "Settings", "F8"),
    ("summary", "Summary", "F9"),
)


class Menus:
    """Fills the menus of a window, and lets those be chosen that have something to do."""

    def __init__(self, window: "Window") -> None:
        self._window = window
        file, edit, data, figure, help_ = window.menu_bar_of
        self._fill_file(file)
        self._fill_edit(edit)
        self._fill_data(data)
        self._fill_figure(figure)
        what = self._add(help_, "What is this?", lambda: _explain(window), "F1")
        what.setShortcuts([QKeySequence("F1"), QKeySequence("?")])
        self._add(help_, "Manual", partial(_show_manual, window), "Ctrl+F1")
        self._add(help_, "A tour", partial(_take_tour, window))
        window.figure.stage.tour_asked.connect(partial(_take_tour, window))
        self._add(help_, "Keys and gestures", partial(_show_keys, window), "Shift+F1")
        self._add(help_, "About Rhabdos", partial(_show_about, window))
        for menu in window.menu_bar_of:
            letter_menu(menu)
        self.places = Places()
        self.places.chosen.connect(window.go_to)
        # Beside the bar of menus, and not in its corner: there no screen reader finds them.
        top = QWidget()
        dressed_as(top, "top")
        in_a_row(window.menu_bar, None, self.places, gap=0, of=top)
        window.setMenuWidget(top)

    def _add(self, menu: QMenu, text: str, does: Callable[[], object], keys: str = "") -> QAction:
        action = QAction(text, self._window)
        action.setShortcut(keys)
        action.triggered.connect(lambda: does())
        menu.addAction(action)
        return action

    def _add_there(
        self, menu: QMenu, text: str, does: Callable[[], object], keys: str = ""
    ) -> QAction:
        """The same of what is done in the figure, which is brought in sight."""

        def done() -> None:
            """Do it there."""
            if self._window.place != "figure":
                self._window.go_to("figure")
            does()

        return self._add(menu, text, done, keys)

    def _list_samples(self) -> None:
        """The questions of the teaching samples."""
        from rhabdos.app.arriving.teaching import open_sample, questions

        self.samples.clear()
        for path, question in questions():
            if action := self.samples.addAction(question):
                action.triggered.connect(partial(open_sample, self._window.session, path))

    def _fill_file(self, menu: QMenu) -> None:
        window = self._window
        self._add(menu, "Open data …", lambda: window.filing.ask_for_data(), "Ctrl+O")
        self.recent = QMenu("Recent files", window)
        self.recent.aboutToShow.connect(lambda: window.filing.arriving.fill_recent(self.recent))
        menu.addMenu(self.recent)
        self._add(
            menu, "Look into a file …", lambda: window.filing.ask_to_look_into(), "Ctrl+Alt+O"
        )
        self._add(menu, "Open the demo data", window.session.opening.open_demo)
        menu.addSeparator()
        self._add(menu, "Paste cells", lambda: window.filing.arriving.paste(), "Ctrl+V")
        self._add(menu, "Data at a server …", lambda: window.filing.arriving.ask_server())
        self._add(menu, "Type values …", lambda: window.filing.arriving.type_values(), "Ctrl+T")
        self._add(
            menu, "Practice samples …", lambda: window.filing.arriving.simulate(), "Ctrl+Shift+T"
        )
        self.samples = QMenu("Teaching samples", window)
        self.samples.aboutToShow.connect(self._list_samples)
        menu.addMenu(self.samples)
        self.reload = self._add(
            menu, "Reload the file", lambda: window.filing.arriving.reload(), "F5"
        )
        menu.addSeparator()
        self._add(
            menu, "Open work or recipe …", lambda: window.filing.ask_for_recipe(), "Ctrl+Shift+O"
        )
        self.other_data = self._add(
            menu,
            "Other data for this figure …",
            lambda: window.filing.ask_for_other_data(),
            "Ctrl+Shift+N",
        )
        self.save = self._add(menu, "Save", lambda: window.filing.save(), "Ctrl+S")
        self.save_as = self._add(menu, "Save as …", lambda: window.filing.save_as(), "Ctrl+Shift+S")
        self._add(menu, "Versions of this work …", lambda: window.filing.show_versions())
        menu.addSeparator()
        self.export = self._add(
            menu, "Export figure …", lambda: window.filing.export(), "Ctrl+Shift+E"
        )
        self.many = self._add(
            menu, "Many at once …", lambda: window.filing.ask_for_many(), "Ctrl+Alt+M"
        )
        self.plate = self._add(
            menu, "On one page …", lambda: window.filing.set_on_a_page(), "Ctrl+Alt+L"
        )
        self.report = self._add(menu, "Report …", lambda: window.filing.report(), "Ctrl+Shift+P")
        self.printing = self._add(menu, "Print …", window.print, "Ctrl+P")
        self.again = self._add(
            menu, "Export as before", lambda: window.filing.export_again(), "Ctrl+Alt+E"
        )
        menu.addSeparator()
        self._add(menu, "Quit", window.close, "Ctrl+Q")

    def _fill_edit(self, menu: QMenu) -> None:
        window = self._window
        self.undo = self._add(menu, "Undo", window.session.undo, "Ctrl+Z")
        self.redo = self._add(menu, "Redo", window.session.redo, "Ctrl+Shift+Z")
        menu.addSeparator()
        self.copy = self._add(menu, "Copy figure", window.copy, "Ctrl+C")
        self.tables = self._add(
            menu, "Tables …", lambda: window.filing.show_tables(), "Ctrl+Shift+C"
        )
        menu.addSeparator()
        self.find = self._add(menu, "Find", window.begin_finding, "Ctrl+F")
        menu.addSeparator()
        self._add(menu, "Next pane", partial(to_next_pane, window, 1), "F6")
        self._add(menu, "Pane before", partial(to_next_pane, window, -1), "Shift+F6")

    def _fill_data(self, menu: QMenu) -> None:
        window = self._window
        self.place_actions: dict[Place, QAction] = {
            place: self._add(menu, words, partial(window.go_to, place), keys)
            for place, (words, keys) in PLACES.items()
        }
        menu.addSeparator()
        self.step_actions = [
            self._add(menu, f"{words} …", partial(window.begin_step, kind), keys)
            for kind, words, keys in _STEPS
        ]

        menu.addSeparator()
        self.faces = [
            self._add_there(menu, f"{words} under the figure", partial(self._show_face, face))
            for face, words in FACES
        ]
        self.faces += [
            self._add_there(menu, "The next of these", partial(self._next_face, 1), "F12"),
            self._add_there(menu, "The one before", partial(self._next_face, -1), "Shift+F12"),
        ]

    def _show_face(self, face: "FaceName") -> None:
        self._window.figure.fold("summary", away=False)
        self._window.figure.foot.show_face(face)

    def _next_face(self, by: int) -> None:
        self._window.figure.fold("summary", away=False)
        self._window.figure.foot.show_next(by)

    def _fill_figure(self, menu: QMenu) -> None:
        window = self._window
        self.phrases: dict[Key, QAction] = {
            phrase.key: self._add_there(
                menu, f"{phrase.title} …", partial(window.open_phrase, phrase.key), phrase.keys
            )
            for phrase in PHRASES.values()
        }
        menu.addSeparator()
        figures = window.session.figures
        self.several = [
            self._add_there(menu, "Keep a variant", figures.keep_variant, "Ctrl+Shift+D"),
            self._add_there(menu, "New figure", figures.add, "Ctrl+N"),
            self._add_there(menu, "Beside one another or alone", figures.part, "Ctrl+Alt+D"),
            self._add_there(menu, "Take this one of those beside", figures.take),
            self._add_there(menu, "Next figure", partial(self._to_figure, 1), "Ctrl+PgDown"),
            self._add_there(menu, "Figure before", partial(self._to_figure, -1), "Ctrl+PgUp"),
            self._add_there(menu, "Take the figure out", self._take_out, "Ctrl+Shift+W"),
        ]
        menu.addSeparator()
        wishes = window.variable_actions
        self.levels = self._add_there(
            menu, "Look at levels as bars", wishes.look_at_levels, "Ctrl+Shift+L"
        )
        self.scatter = self._add_there(
            menu, "Look at two numbers", wishes.look_at_two, "Ctrl+Shift+X"
        )
        self.part_rows = self._add_there(
            menu, "Rows of the part that is read …", window.row_actions.offer_read, "Ctrl+Shift+R"
        )
        menu.addSeparator()
        self.folds = [
            self._add_there(menu, f"{words} there or not", partial(window.figure.fold, pane), keys)
            for pane, words, keys in _FOLDS
        ]
        self._add_there(menu, "Only the figure, or all", window.figure.fold_all, "F11")
        stage = window.figure.stage
        self.sizes = [
            self._add_there(menu, "Page larger", partial(stage.zoom_by, 1), "Ctrl++"),
            self._add_there(menu, "Page smaller", partial(stage.zoom_by, -1), "Ctrl+-"),
            self._add_there(menu, "Whole page", stage.fit_page, "Ctrl+Alt+F"),
            self._add_there(menu, "Page as wide as there is room", stage.fit_width, "Ctrl+Alt+W"),
        ]
        self.sizes[0].setShortcuts([QKeySequence("Ctrl++"), QKeySequence("Ctrl+=")])
        menu.addSeparator()
        self.rod = self._add_there(
            menu, "Take hold of the rod", lambda: window.figure_actions.take_hold(), "Ctrl+R"
        )
        self.read = self._add_there(
            menu, "Read the bars one by one", window.figure.stage.canvas.setFocus, "Ctrl+B"
        )
        self.read_range = self._add_there(
            menu, "Read a range …", lambda: window.figure_actions.ranges.open(), "Ctrl+Shift+B"
        )

    def _to_figure(self, by: int) -> None:
        figures = self._window.session.figures
        figures.show((figures.shown + by) % max(1, len(figures)))

    def _take_out(self) -> None:
        figures = self._window.session.figures
        figures.remove(figures.shown)

    def enable(self, session: "Session") -> None:
        """Let those be chosen that have something to do."""
        history, source = session.history, session.document.source
        for action, word, name in (
            (self.undo, "&Undo", history.undo_name),
            (self.redo, "&Redo", history.redo_name),
        ):
            action.setText(f"{word} {as_written(name)}" if name else word)
            action.setEnabled(name is not None)
        self.reload.setEnabled(source is not None and source.path is not None)
        figure = session.readings is not None
        drawn = figure and session.document.chart is None
        for action in (
            self.other_data,
            self.rod,
            self.read,
            *self.sizes,
            *self.faces,
            self.part_rows,
            *self.phrases.values(),
        ):
            action.setEnabled(drawn)
        open_table = session.table is not None
        self.report.setEnabled(drawn)
        self.many.setEnabled(drawn)
        self.plate.setEnabled(drawn)
        for action, least in zip(self.several, (1, 0, 2, 2, 2, 2, 2), strict=True):
            action.setEnabled(open_table and len(session.figures) >= least)
        for action in (self.copy, self.tables, self.printing, self.export, self.again):
            action.setEnabled(figure or session.document.chart is not None)
        for action in (self.save, self.save_as):
            action.setEnabled(figure or bool(session.document.steps))
        for action in (
            self.find,
            self.levels,
            self.scatter,
            *self.step_actions,
            *self.place_actions.values(),
        ):
            action.setEnabled(open_table)
        for index, place in enumerate(PLACES):
            self.places.setTabEnabled(index, open_table or place == "figure")


# The boxes of the help menu are imported when one is first wanted.


def _show_manual(window: "Window") -> None:
    from rhabdos.app.shell.manual_window import ManualWindow

    ManualWindow(window).show()


def _take_tour(window: "Window") -> None:
    from rhabdos.app.shell.tour import take_tour

    take_tour(window)


def _explain(window: "Window") -> None:
    """Tell what the hand is on; of nothing that can be told, which keys there are."""
    if not window.explaining.ask():
        _show_keys(window)


def _show_keys(window: "Window") -> None:
    from rhabdos.app.shell.help_boxes import show_keys

    show_keys(window)


def _show_about(window: "Window") -> None:
    from rhabdos.app.shell.help_boxes import show_about

    show_about(window)
