"""What goes in and out of files: data, works, recipes, figures, and the clipboard."""

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import structs
from PyQt6.QtCore import QByteArray, QMimeData, QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QApplication, QFileDialog, QMessageBox, QWidget

from rhabdos.app.arriving.arriving import Arriving
from rhabdos.app.leaving.saving_over import State, files_read, may_save_over, state_of
from rhabdos.app.session.saving import is_packed, recipe_text, save_recipe, save_work
from rhabdos.app.session.session import Session
from rhabdos.app.session.unsaved import Unsaved, listed_plainly
from rhabdos.data.files.formats import ENDINGS
from rhabdos.errors import Refusal
from rhabdos.project.folders import Folders, Kept
from rhabdos.project.memory import recall, remember
from rhabdos.project.recently_used import note_opened
from rhabdos.project.work_file import ENDING
from rhabdos.quoting import file_named
from rhabdos.scene.marks import Scene

if TYPE_CHECKING:
    from rhabdos.app.leaving.exports import Drawn as ToExport

_DATA_FILES = f"Data ({' '.join(f'*.{ending}' for ending in ENDINGS)});;All files (*)"
_RECIPES = "Works, recipes, and figures with one inside (*.rhabdos *.toml *.svg *.png *.pdf)"
_AS_WORK = "Work: all figures, and where the data are (*.rhabdos)"
_AS_PACKED = "Work with the data inside (*.rhabdos)"
_AS_RECIPE = "Recipe: the figure in sight, for any data (*.toml)"


class Filing(QObject):
    """Asks for files and hands them to the session; remembers the folders and the recipe's file."""

    told = pyqtSignal(str)

    def __init__(self, session: Session, window: QWidget, unsaved: Unsaved) -> None:
        super().__init__(window)
        self.unsaved = unsaved
        self._session = session
        self._window = window
        self.arriving = Arriving(session, window, unsaved)
        self.arriving.opens = self.open
        self.folders = Folders()
        self.recipe_path: Path | None = None
        self._as_stored: State = None
        source = session.document.source
        self._drawn = source.path if source else None
        self._opening: Path | None = None
        session.table_changed.connect(self._forget_recipe)
        session.recipe_opened.connect(self._recipe_opened)

    def _forget_recipe(self) -> None:
        """A figure of other data must not be saved over the recipe of the former ones."""
        source = self._session.document.source
        path = source.path if source else None
        if path != self._drawn:
            self._drawn = path
            self.recipe_path = None

    def _was(self, kind: Kept, file: Path) -> None:
        self.folders = self.folders.after(kind, file)

    # Opening

    def ask_for_data(self) -> None:
        """Ask which file of data to open."""
        path, _ = QFileDialog.getOpenFileName(
            self._window, "Open data", str(self.folders.of("data")), _DATA_FILES
        )
        if path:
            self.open(Path(path))

    def ask_for_recipe(self) -> None:
        """Ask which recipe to open."""
        path, _ = QFileDialog.getOpenFileName(
            self._window, "Open work or recipe", str(self.folders.of("recipe")), _RECIPES
        )
        if path:
            self.open(Path(path))

    def open(self, path: Path) -> None:
        """Open a data file, or a recipe if its name says that it is one."""
        from rhabdos.paint.inside import is_picture
        from rhabdos.project.work_file import is_work

        picture = is_picture(path)
        if is_work(path):
            self._was("recipe", path)
            self._open_work(path)
            return
        if path.suffix.lower() != ".toml" and not picture:
            self._was("data", path)
            self.arriving.open(path)
            return
        self._was("recipe", path)
        opening = self._session.opening
        work = opening.read_recipe(path)
        if work is None:
            return
        data = None
        if opening.needs_data(work):
            data = self._data_for(path)
            if data is None:
                self.told.emit(f"{file_named(path.name)} is not drawn: it needs a file of data.")
                return
        # A picture holds a recipe, and is not what one is saved over.
        self._opening = None if picture else path
        opening.open_recipe(work, path, data)

    def _open_work(self, path: Path) -> None:
        """Open a work: its data where they lie, or where its user says they do now."""
        from rhabdos.app.leaving.works import NotOpened, asked_work

        try:
            work, data = asked_work(path, self._window, _DATA_FILES)
        except NotOpened as told:
            self.told.emit(str(told))
        except Refusal as refusal:
            self.arriving.refused.emit(str(refusal))
        else:
            self._opening = path
            self._session.opening.open_work(work, path, data)
            note_opened(path)

    def _recipe_opened(self) -> None:
        """What is shown is what a recipe's file holds, which it is saved over from now on."""
        if self._opening is not None:
            self._stored(self._opening)
            self._opening = None

    def _data_for(self, recipe: Path) -> Path | None:
        """The data that a recipe drew last, or else those that its user chooses."""
        known = recall().data_of(recipe.absolute())
        if known is not None and known.exists():
            return known
        path, _ = QFileDialog.getOpenFileName(
            self._window,
            f"Which data shall {file_named(recipe.name)} draw?",
            str(self.folders.of("data")),
            _DATA_FILES,
        )
        return Path(path) if path else None

    def ask_for_other_data(self) -> None:
        """Ask for another file, and draw the present figure of that."""
        path, _ = QFileDialog.getOpenFileName(
            self._window, "Other data for this figure", str(self.folders.of("data")), _DATA_FILES
        )
        if path:
            self.draw_other_data(Path(path))

    def draw_other_data(self, path: Path) -> None:
        """Draw the present figure of another file; its recipe stays what it is saved over."""
        recipe = self.recipe_path

        def drawn() -> None:
            """Remember both."""
            self._was("data", path)
            note_opened(path)
            if recipe is not None:
                self._stored(recipe)

        how = recall().how(path.absolute())
        self._session.opening.open_other_data(path, how, drawn)

    def ask_to_look_into(self) -> None:
        """Ask for a file, and show how it is read before it is."""
        path, _ = QFileDialog.getOpenFileName(
            self._window, "Look into a file", str(self.folders.of("data")), _DATA_FILES
        )
        if path:
            self._was("data", Path(path))
            self.arriving.look_into(Path(path))

    # Saving works and recipes

    def save(self) -> None:
        """Save the work or the recipe where it came from, or ask where."""
        if self.recipe_path is None:
            self.save_as()
        elif may_save_over(self.recipe_path, self._as_stored, self._window):
            self._save(self.recipe_path, inside=is_packed(self._session.document))

    def save_as(self) -> None:
        """Ask where to save, and as what: the whole work, or the recipe of the figure in sight."""
        several = len(self._session.figures) > 1
        kinds = [_AS_WORK, _AS_PACKED, _AS_RECIPE]
        first = _AS_WORK if several or self._saves_work else _AS_RECIPE
        kinds.sort(key=lambda kind: kind != first)
        ending = ".toml" if first == _AS_RECIPE else ENDING
        suggestion = self.folders.of("recipe") / f"{self._name()}{ending}"
        if self.recipe_path is not None:
            suggestion = self.recipe_path
        path, kind = QFileDialog.getSaveFileName(
            self._window, "Save work or recipe", str(suggestion), ";;".join(kinds), first
        )
        if path:
            usual = ".toml" if kind == _AS_RECIPE else ENDING
            chosen = Path(path) if Path(path).suffix else Path(path).with_suffix(usual)
            self._save(chosen, inside=kind == _AS_PACKED)

    def show_versions(self) -> None:
        """Show the last versions of the work that is open."""
        from rhabdos.app.leaving.versions_dialog import show_versions

        if self.recipe_path is not None and self._saves_work:
            show_versions(self.recipe_path, self._session, self._window)
        else:
            self.told.emit("Versions are kept of works: save this one as a work first.")

    @property
    def _saves_work(self) -> bool:
        return self.recipe_path is not None and self.recipe_path.suffix == ENDING

    def _save(self, path: Path, inside: bool = False) -> None:
        if path.suffix.lower() == ENDING:
            if save_work(self._session, path, inside):
                self._stored(path)
                self.arriving.wrote(path)
                self.unsaved.saved()
        elif save_recipe(self._session, path):
            if len(self._session.figures) == 1:
                self._stored(path)
                self.unsaved.saved()
            else:  # the other figures are in no file yet
                self._was("recipe", path)

    def _stored(self, path: Path) -> None:
        self._was("recipe", path)
        self.recipe_path, self._as_stored = path, state_of(path)
        source = self._session.document.source
        if source is not None and source.path is not None:
            data = source.path
            remember(lambda memory: memory.drew(path.absolute(), data))

    def may_close(self) -> bool:
        """Whether nothing is lost by closing; asks where something is not saved."""
        said, behind = self.unsaved.words(), self.unsaved.left_behind()
        if not said and not behind:
            return True
        button = QMessageBox.StandardButton
        box = QMessageBox(self._window)
        box.setWindowTitle("Rhabdos")
        box.setTextFormat(Qt.TextFormat.PlainText)
        text = ""
        if said and self.recipe_path:
            name = file_named(self.recipe_path.name)
            text = f"Changed since {name} was saved: {listed_plainly(said)}."
        elif said:
            text = f"Not saved: {listed_plainly(said)}."
        if behind:
            text += (
                f"{' ' if text else ''}Not saved either is the work on {listed_plainly(behind)}, "
                "to which undo leads back."
            )
        box.setText(text)
        box.setInformativeText(
            "Save it before closing?" if said else "Close without it all the same?"
        )
        box.setStandardButtons(
            button.Save | button.Discard | button.Cancel if said else button.Discard | button.Cancel
        )
        box.setDefaultButton(button.Save if said else button.Cancel)
        answer = box.exec()
        box.deleteLater()
        if answer == button.Save:
            self.save()
            return not self.unsaved.words()
        return bool(answer == button.Discard)

    def _name(self) -> str:
        """A name for a file, from the title or the variable."""
        from rhabdos.figure.words.naming import shown_title

        readings, chart = self._session.readings, self._session.document.chart
        if chart is not None:
            readings = None
        words = (shown_title(readings) or readings.variable.label) if readings else ""
        words = words or (" ".join(chart.names) if chart is not None else "")
        return (
            "-".join("".join(c if c.isalnum() else " " for c in words.lower()).split())[:60]
            or "figure"
        )

    # Figures

    def export(self, path: Path | None = None) -> None:
        """Open the export dialog; the figure takes the size that is chosen there.

        With a ``path``, all is as it was chosen last, and it begins to write at once.
        """
        from rhabdos.app.leaving.export_dialog import ExportDialog
        from rhabdos.app.leaving.exports import last_export

        drawn = self._drawn_now()
        if drawn is None:
            return
        dialog = ExportDialog(
            drawn,
            path or self.folders.of("figure") / f"{self._name()}.png",
            partial(recipe_text, self._session),
            self._window,
            self._not_over(),
            last_export(),
        )

        def done() -> None:
            """Tell what was written."""
            if dialog.written:
                self._was("figure", dialog.written)
                self._take_size(str(dialog.size_on_paper))
                self._tell_written(dialog.all_written)

        dialog.accepted.connect(done)
        dialog.open()
        if path is not None:
            dialog.export()

    def _drawn_now(self) -> "ToExport | None":
        """What is in sight, to be exported."""
        from rhabdos.app.leaving.exports import Drawn

        chart, table = self._session.document.chart, self._session.table
        if chart is not None and table is not None:
            return Drawn.of_chart(chart, table)
        readings = self._session.readings
        return Drawn.of_figure(readings) if readings else None

    def _take_size(self, size: str) -> None:
        """What is in sight becomes as large as it was exported."""
        chart, recipe = self._session.document.chart, self._session.recipe
        if chart is not None:
            self._session.look_at(f"Figure size {size}", chart.changed(size=size))
        elif recipe is not None:
            wanted = recipe.changed(page=recipe.page.changed(size=size))
            self._session.ask(f"Figure size {size}", wanted)

    def export_again(self) -> None:
        """Write the figure as it was exported last, without asking: one key."""
        from rhabdos.app.leaving.exports import Export, last_export

        drawn, choice = self._drawn_now(), last_export()
        if drawn is None:
            return
        if choice is None:
            self.export()
            return
        export = Export(structs.replace(choice, size=str(drawn.size)))
        folder = Path(choice.folder) if choice.folder else self.folders.of("figure")
        path = folder / f"{self._name()}.{choice.formats[0]}"
        try:
            export.check(path)
            if export.over(path, tuple(self._not_over())) is not None:
                self.export()
                return
            if export.takes_long(path):  # with its progress
                self.export(path)
                return
            sheets = export.sheets(path, drawn, partial(recipe_text, self._session))
            export.write(sheets)
        except Refusal as refusal:
            self.told.emit(str(refusal))
            return
        self._tell_written([sheet.file for sheet in sheets])

    def _tell_written(self, files: list[Path]) -> None:
        more = f" and {len(files) - 1} beside it" if len(files) > 1 else ""
        self.told.emit(f"Figure written to {file_named(files[0])}{more}.")

    def _not_over(self) -> list[Path]:
        """The files of this figure, over which nothing that is made of it may be written."""
        return files_read(self._session, self.recipe_path)

    def ask_for_many(self) -> None:
        """Open the dialog of many figures at once."""
        from rhabdos.app.leaving.many_figures import ask_for_many

        if self._session.readings is not None:
            folder = self.folders.of("figure")
            written = partial(self._was, "figure")
            ask_for_many(
                self._session, self._window, folder, self._name(), written, self._not_over()
            )

    def set_on_a_page(self) -> None:
        """Open the dialog of figures on one page."""
        from rhabdos.app.leaving.plate_dialog import PlateDialog

        if self._session.readings is not None:
            path = self.folders.of("figure") / f"{self._name()}-page.pdf"
            dialog = PlateDialog(self._session, path, self.print, self._window, self._not_over())
            dialog.kept.connect(self._session.figures.set_pages)
            dialog.told.connect(self.told)
            dialog.open()

    def report(self) -> None:
        """Ask for a file, and write a report of all figures."""
        from rhabdos.app.leaving.reporting import ask_for_report

        suggestion = self.folders.of("figure") / f"{self._name()}.html"
        written = partial(self._was, "figure")
        ask_for_report(self._session, self._window, suggestion, written, self._not_over())

    def copy(self, scene: Scene) -> None:
        """Put a figure on the clipboard, as pixels and as SVG."""
        from rhabdos.app.leaving.dragging import COPY_DPI
        from rhabdos.paint.export import image
        from rhabdos.paint.svg import svg

        clipboard = QApplication.clipboard()
        if clipboard:
            content = QMimeData()
            content.setImageData(image(scene, COPY_DPI))
            recipe = recipe_text(self._session)
            content.setData("image/svg+xml", QByteArray(svg(scene, recipe=recipe)))
            clipboard.setMimeData(content)
            self.told.emit("Figure copied.")

    def show_tables(self) -> None:
        """Show the tables of the figure."""
        from rhabdos.app.leaving.tables_dialog import TablesDialog, offered_tables

        if offered := offered_tables(self._session):
            folder, kept = self.folders.of("table"), self._not_over()
            dialog = TablesDialog(offered, folder, self._name(), self._window, kept)
            dialog.told.connect(self.told)
            dialog.saved.connect(partial(self._was, "table"))
            dialog.open()

    def print(self, scene: Scene) -> None:
        """Show the figure on paper, and print it from there."""
        from rhabdos.app.leaving.printing import preview

        dialog = preview(scene, self._window, self.told.emit)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.open()

    def drag_out(self, scene: Scene) -> None:
        """Let a hand drag the figure into another program: as a file, as pixels and as SVG."""
        from rhabdos.app.leaving.dragging import drag_away

        drag_away(self._window, scene, self._name(), recipe_text(self._session))
