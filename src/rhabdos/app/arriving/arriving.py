"""How data arrive: from files and how these are read, from the clipboard, by hand, by chance."""

import os
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QFileSystemWatcher, QObject, pyqtSignal
from PyQt6.QtWidgets import QApplication, QDialog, QMenu, QWidget

from rhabdos.app.controls.dialog_layout import pause
from rhabdos.app.controls.plain_texts import as_written
from rhabdos.app.session.session import Session
from rhabdos.app.session.unsaved import Unsaved
from rhabdos.data.columns import CategoryColumn, DateColumn, LabelColumn, NumberColumn
from rhabdos.data.steps.asking import Ask
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.sources import Simulate, Values
from rhabdos.data.steps.step import Step
from rhabdos.data.table import Table
from rhabdos.figure.recipe.plain_charts import LevelBars
from rhabdos.project.memory import Memory, recall, remember
from rhabdos.project.recently_used import note_opened
from rhabdos.quoting import brief, file_named, printable

_SETTLED = 400  # milliseconds after which a file that is being written is looked at
_MOST_PASTED = 50_000_000  # letters


class Arriving(QObject):
    """Opens, pastes, types and simulates; remembers files, and notices when they change.

    Signals
    -------
    refused : a sentence about what could not be done.
    told : a sentence in passing.
    changed_on_disk : a sentence about a file that is another now; nothing, where it is the same.
    """

    refused = pyqtSignal(str)
    told = pyqtSignal(str)
    changed_on_disk = pyqtSignal(str)

    def __init__(self, session: Session, window: QWidget, unsaved: Unsaved) -> None:
        super().__init__(window)
        self._unsaved = unsaved
        self._left: Values | None = None
        self.opens: Callable[[Path], None] = self.open
        """What opens a file of any kind."""
        self._session = session
        self._window = window
        self._watcher = QFileSystemWatcher(self)
        self._watched: tuple[str, ...] = ()
        self._stamps: dict[str, tuple[int, int] | None] = {}
        self._settling = pause(self, _SETTLED, self.look_at_files)
        self._watcher.fileChanged.connect(lambda _path: self._settling.start())
        self._watcher.directoryChanged.connect(lambda _path: self._settling.start())
        session.table_changed.connect(self.watch)

    @property
    def memory(self) -> Memory:
        """What is remembered, by this window or another."""
        return recall()

    # Files

    def open(self, path: Path) -> None:
        """Open a file, read as its user chose before, if they did."""
        whole = path.absolute()
        self._session.opening.open_file(path, self.memory.how(whole))
        note_opened(path)

    def fill_recent(self, menu: QMenu) -> None:
        """List recent files in a menu."""
        menu.clear()
        recent = self.memory.recent
        for name in recent:
            path = Path(name)
            words = printable(f"{path.name}   in {brief(str(path.parent))}")
            action = menu.addAction(as_written(words))
            if action:
                action.triggered.connect(lambda _checked, path=path: self.opens(path))
        if not recent and (nothing := menu.addAction("None yet")):
            nothing.setEnabled(False)

    def choose_reading(self) -> None:
        """Show how the present file is read, and read it otherwise if that is wished."""
        source = self._session.document.source
        if source is None or source.path is None:
            self.refused.emit(
                "The demo data are made by Rhabdos itself, so there is nothing to choose."
            )
            return
        self.look_into(source.path, self._session.document.beginning)

    def look_into(self, path: Path, how: Step | None = None) -> None:
        """Show how a file is read before it is read."""
        from rhabdos.app.arriving.reading_dialog import ReadingDialog

        present = how if isinstance(how, Read) else self.memory.how(path.absolute())
        dialog = ReadingDialog(path, present, self._window)
        dialog.accepted.connect(lambda: self._read_so(path, dialog.chosen))
        _open(dialog)

    def _read_so(self, path: Path, how: Read | None) -> None:
        remember(lambda memory: memory.read_so(path.absolute(), how))
        document = self._session.document
        source = document.source
        if source is None or source.path is None or source.path != path.absolute():
            self.open(path)
            return
        rest = document.steps[1:] if document.beginning is not None else document.steps
        steps = (how, *rest) if how is not None else rest
        words = how.words.rstrip(".") if how is not None else "as it looks"
        name = file_named(path.name)
        self._session.rows.ask_steps(
            f"{words}: {name}" if how else f"Read {name} as it looks", steps
        )

    # By hand

    def paste(self) -> None:
        """Draw the cells on the clipboard, or open the files there."""
        clipboard = QApplication.clipboard()
        content = clipboard.mimeData() if clipboard else None
        if content is None:
            return
        files = [Path(url.toLocalFile()) for url in content.urls() if url.isLocalFile()]
        if files:
            self.open(files[0])
            return
        text = content.text()
        if not text.strip():
            self.refused.emit(
                "There are no cells on the clipboard. Copy some in a spreadsheet first."
            )
            return
        if len(text) > _MOST_PASTED:
            self.refused.emit(
                f"The clipboard holds over {_MOST_PASTED:,} letters. Save them as a file, and open "
                "that."
            )
            return
        step = Values(text=text.replace("\r\n", "\n"), name="Pasted values")
        self._session.opening.open_steps("Pasted values", step)

    def type_values(self, step: Values | None = None) -> None:
        """Type numbers into a small sheet."""
        from rhabdos.app.arriving.typing_dialog import TypingDialog

        dialog = TypingDialog(step or self._left, self._window)
        dialog.typed.connect(self._unsaved.typing)

        def taken() -> None:
            """Draw what was typed."""
            self._left = None
            self._unsaved.typing(None)
            self._begin_with(dialog.step, step, "Typed values")

        def left() -> None:
            """Keep what was typed for the next time."""
            values = dialog.values()
            self._left = values if step is None else self._left
            self._unsaved.typing(None)
            if values is not None and step is None:
                self.told.emit("What was typed is kept until the next time.")

        dialog.accepted.connect(taken)
        dialog.rejected.connect(left)
        _open(dialog)

    def simulate(self, step: Simulate | None = None) -> None:
        """Draw practice samples."""
        from rhabdos.app.arriving.simulating_dialog import SimulatingDialog

        dialog = SimulatingDialog(step, self._window)
        dialog.accepted.connect(lambda: self._begin_with(dialog.step, step, "Practice samples"))
        _open(dialog)

    def ask_server(self, step: Ask | None = None) -> None:
        """Draw data that stay at a server."""
        from rhabdos.app.arriving.server_dialog import ServerDialog

        dialog = ServerDialog(step, self._window)
        dialog.chosen.connect(lambda chosen: self._asked_server(chosen, step))
        _open(dialog)

    def open_address(self, address: str) -> None:
        """Draw data at an address, as it is typed at a command line."""
        from rhabdos.data.far.place import PlaceError, place_of
        from rhabdos.data.far.reaching import remember_password

        try:
            place, password = place_of(address)
            if password:
                remember_password(place, password)
            if not place.table:
                raise PlaceError("Say which table, after #: service:oysters#harvest.shells.")
            step = Ask(server=place.text)
        except (PlaceError, ValueError) as error:
            self._session.refused.emit(str(error).removeprefix("server: "))
            return
        self._session.opening.open_steps(place.name, step)

    def _asked_server(self, step: Ask, former: Ask | None) -> None:
        if former is not None and self._session.document.beginning == former:
            steps = (step, *self._session.document.steps[1:])
            self._session.rows.ask_steps("Change where the data lie", steps)
        else:
            self._session.opening.open_steps(step.place.name, step)

    def change_beginning(self, step: Step) -> None:
        """Change what rows begin with: typed values, or practice samples."""
        if isinstance(step, Simulate):
            self.simulate(step)
        elif isinstance(step, Values):
            self._type_again(step)
        elif isinstance(step, Ask):
            self.ask_server(step)

    def _type_again(self, step: Values) -> None:
        from rhabdos.app.arriving.typing_dialog import may_be_typed

        if may_be_typed(step):
            self.type_values(step)
            return
        self.refused.emit(
            "These values are more than a number and a name in each row, which is all that the "
            "small sheet holds. Change single ones in their cells, or paste other values (Ctrl+V)."
        )

    def _begin_with(self, step: Step | None, former: Step | None, name: str) -> None:
        if step is None:
            return
        if former is not None and self._session.document.beginning == former:
            steps = (step, *self._session.document.steps[1:])
            self._session.rows.ask_steps(f"Change {name.lower()}", steps)
            return
        from rhabdos.app.arriving.typing_dialog import first_look

        assert isinstance(step, Values | Simulate)
        table = step.table()
        self._session.opening.open_steps(
            name, step, recipe=first_look(table), chart=_named_heights(table)
        )

    # Files that change

    def watch(self) -> None:
        """Watch the files of the present document."""
        document = self._session.document
        source = document.source
        files = [str(source.path)] if source and source.path else []
        files += [file for step in document.steps for file in step.files]
        wanted = tuple(dict.fromkeys(files))
        if wanted == self._watched and (source is None or source.revision == self._revision):
            return
        self._revision = source.revision if source else 0
        if former := [*self._watcher.files(), *self._watcher.directories()]:
            self._watcher.removePaths(former)
        self._watched = wanted
        self._stamps = {file: _stamp(file) for file in wanted}
        folders = {str(Path(file).parent) for file in wanted}
        there = [path for path in (*wanted, *folders) if Path(path).exists()]
        if there:
            self._watcher.addPaths(there)
        self.changed_on_disk.emit("")

    _revision = 0

    def wrote(self, path: Path) -> None:
        """A file was written by this window: what stands there now is no change from outside."""
        file = os.path.realpath(path)
        if file in self._stamps:
            self._stamps[file] = _stamp(file)
            self.look_at_files()

    def look_at_files(self) -> None:
        """Say which of the files are others now."""
        changed = [file for file in self._watched if _stamp(file) != self._stamps[file]]
        for file in self._watched:  # one that was replaced is no longer watched
            if file not in self._watcher.files() and Path(file).exists():
                self._watcher.addPath(file)
        gone = [file for file in changed if not Path(file).exists()]
        told = gone or changed
        names = " and ".join(file_named(Path(file).name) for file in told[:3])
        if not changed:
            self.changed_on_disk.emit("")
        elif gone:
            verb = "is" if len(gone) == 1 else "are"
            self.changed_on_disk.emit(
                f"{names} {verb} no longer there; the figure shows what was read."
            )
        else:
            verb = "has" if len(changed) == 1 else "have"
            self.changed_on_disk.emit(f"{names} {verb} changed on disk.")

    def reload(self) -> None:
        """Read the file again, with its steps and figures applied anew."""
        self._session.opening.reload()


def _named_heights(table: Table) -> LevelBars | None:
    """Bars with names, where each number that was typed has a name of its own."""
    number, *names = table.columns
    if not isinstance(number, NumberColumn) or not names or table.rows < 2:
        return None
    if isinstance(number, DateColumn):  # nothing is as high as a date
        return None
    distinct = 0
    if isinstance(names[0], CategoryColumn):
        distinct = len(names[0].levels)
    elif isinstance(names[0], LabelColumn):
        distinct = names[0].distinct
    if distinct != table.rows or number.missing or float(number.values.min()) < 0:
        return None
    return LevelBars(variable=names[0].name, heights=number.name)


def _stamp(file: str) -> tuple[int, int] | None:
    try:
        state = Path(file).stat()
    except OSError:
        return None
    return state.st_size, state.st_mtime_ns


def _open(dialog: QDialog) -> None:
    from PyQt6.QtCore import Qt

    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.open()
