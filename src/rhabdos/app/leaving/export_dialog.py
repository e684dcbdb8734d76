"""The dialog that writes the figure to a file."""

from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QRadioButton,
    QSpinBox,
    QWidget,
)

from rhabdos.app.controls.flow import in_lines
from rhabdos.app.controls.mnemonics import give_letters
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.theme import sized
from rhabdos.app.controls.typed_fields import ChoiceBox, fault_line, quiet, text_field
from rhabdos.app.leaving.exports import Drawn, Export, Sheet, keep_export
from rhabdos.app.leaving.saving_over import refuse_over, told_replaced
from rhabdos.app.leaving.size_fields import SizeFields
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.page_size import COMMON, Size
from rhabdos.paint.export import LEAST_DPI, MOST_DPI
from rhabdos.project.export_choice import ExportChoice
from rhabdos.quoting import file_named

if TYPE_CHECKING:
    from rhabdos.app.session.tasks import Task

_WIDEST = 960  # pixels, however large letters are
_MEANINGS = {
    "png": "pixels, for documents and slides",
    "svg": "lines and text, for the web and for drawing programs",
    "pdf": "lines and text, for print",
}
_LETTERS = (
    ("as text", "text"),
    ("as text, with the font in the file", "embedded"),
    ("as outlines", "outlines"),
)


class ExportDialog(QDialog):
    """Format, size, resolution, paper and file of an export.

    The figure takes the size that is chosen here, so that what is written is what is on the screen.
    """

    def __init__(
        self,
        drawn: Drawn,
        path: Path,
        recipe: Callable[[Size], str],
        parent: QWidget | None = None,
        not_over: Sequence[Path] = (),
        before: ExportChoice | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Export figure")
        self.setMinimumWidth(min(sized(700), _WIDEST))
        self._drawn = drawn
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)  # Qt only hides what is closed
        self._not_over = tuple(not_over)
        self._recipe = recipe
        self._task: Task | None = None
        self._done_aside: list[Path] = []
        self.written: Path | None = None
        self.all_written: list[Path] = []

        choices, dpi_row = self._format_row(path), self._dpi_row()
        self.size_fields = SizeFields(drawn.size, lambda: self.dpi.value())
        self.transparent = QCheckBox("Transparent, without the paper")
        file_row = self._file_row(path)
        also_row, also_sizes = self._also_rows()
        self._make_progress()
        self._lay_out(choices, also_row, also_sizes, dpi_row, file_row)
        self.size_fields.changed.connect(self._tell_pixels)
        self.size_fields.wrong.connect(self._say)
        self._tell_pixels()
        ending = path.suffix.lower().removeprefix(".")
        self._choose_format(ending if ending in _MEANINGS else "png")
        if before is not None:
            self._begin_as(before)
        give_letters(self)

    def _begin_as(self, before: ExportChoice) -> None:
        """Begin with what was chosen last, but for size and name, which are the figure's."""
        self.dpi.setValue(before.dpi)
        self.transparent.setChecked(before.transparent)
        self.letters.setCurrentIndex(self.letters.findData(before.letters))
        self.inside.setChecked(before.with_recipe)
        self._choose_format(before.formats[0])
        for key, tick in self.also_formats.items():
            tick.setChecked(key in before.formats[1:])
        for name, tick in self.also_sizes.items():
            tick.setChecked(name in before.also)

    def _also_rows(self) -> tuple[QWidget, QWidget]:
        """Formats and common sizes that are written beside; how words are, and the recipe."""
        self.also_formats = {key: QCheckBox(key.upper()) for key in _MEANINGS}
        self.also_sizes = {name: QCheckBox(name[0].upper() + name[1:]) for name in COMMON}
        rows = []
        for ticks in (self.also_formats, self.also_sizes):
            for name, tick in ticks.items():
                tick.setAccessibleName(f"Also {name}")
                tick.clicked.connect(lambda _checked: self._tell_letters())
            rows.append(in_lines(*ticks.values(), apart=14))
        for name, tick in self.also_sizes.items():
            tick.setToolTip(str(COMMON[name]))
        self.letters = ChoiceBox("Letters of an SVG", _LETTERS)
        self.letters.activated.connect(lambda _row: self._remark())
        self.inside = QCheckBox("The recipe inside, so that the file can be opened as a figure")
        self.inside.setChecked(True)
        return rows[0], rows[1]

    @property
    def choice(self) -> ExportChoice:
        """What is chosen, but for the file's name."""
        first = self.format
        others = [key for key, tick in self.also_formats.items() if tick.isChecked()]
        return ExportChoice(
            (first, *(key for key in others if key != first)),
            str(self.size_fields.size_),
            tuple(name for name, tick in self.also_sizes.items() if tick.isChecked()),
            self.dpi.value(),
            self.transparent.isChecked(),
            self.letters.currentData(),
            self.inside.isChecked(),
            str(Path(self.path.text()).expanduser().parent),
        )

    def _tell_letters(self) -> None:
        """Letters are chosen for an SVG, dots for a PNG."""
        formats = self.choice.formats
        self.letters.setEnabled("svg" in formats)
        for widget in (self.dpi, self.dpi_label, self.pixels):
            widget.setEnabled("png" in formats)
        self._tell_pixels()
        self._remark()

    def _remark(self) -> None:
        """Say which files would be replaced, and that letters of another font are not kept."""
        path, said = self._path, list[str]()
        if path is not None:
            with suppress(OSError, ValueError):  # such a path or size is refused when it is written
                said.append(told_replaced(file for file, _ in Export(self.choice).files(path)))
        font = self._drawn.font
        if font and self.letters.isEnabled() and self.letters.currentData() == "embedded":
            said.append(
                f"{font} is named in the file, but only letters of the usual font are kept."
            )
        self.remark.setText(" ".join(filter(None, said)))
        self.remark.setVisible(any(said))

    @property
    def _path(self) -> Path | None:
        """The file that is named, with the ending of its format; None where none is."""
        text = self.path.text().strip()
        path = Path(text).expanduser()
        if not text or path.name == "":
            return None
        if path.suffix.lower() != f".{self.format}":
            path = path.with_name(f"{path.name}.{self.format}")
        return path

    def _format_row(self, path: Path) -> QHBoxLayout:
        """The kinds of file, the one that the path ends in chosen."""
        self.formats = QButtonGroup(self)
        self.format_buttons: dict[str, QRadioButton] = {}
        for key in _MEANINGS:
            button = QRadioButton(key.upper())
            button.clicked.connect(lambda _checked, chosen=key: self._choose_format(chosen))
            self.format_buttons[key] = button
            self.formats.addButton(button)
            button.setChecked(path.suffix == f".{key}" or key == "png")
        self.meaning = quiet()
        self.meaning.setWordWrap(False)  # a few words, which are not to take a second line's room
        return in_a_row(*self.format_buttons.values(), None, gap=18)

    def _dpi_row(self) -> QHBoxLayout:
        """The resolution, and what it comes to in pixels."""
        self.dpi = QSpinBox()
        self.dpi.setAccessibleName("Dots per inch")
        self.dpi.setRange(LEAST_DPI, MOST_DPI)
        self.dpi.setValue(300)
        self.dpi.setSingleStep(50)
        self.dpi.valueChanged.connect(self._tell_pixels)
        self.dpi_label = QLabel("Dots per inch")
        self.pixels = quiet()
        return in_a_row(self.dpi, (self.pixels, 1), gap=12)

    def _file_row(self, path: Path) -> QHBoxLayout:
        """Where to write, typed or chosen."""
        self.path = text_field("File", str(path))
        self.path.textChanged.connect(self._remark)
        self.path.textEdited.connect(self._follow_ending)
        self.remark = quiet()
        choose = QPushButton("Choose …")
        choose.setAutoDefault(False)
        choose.clicked.connect(self._choose_file)
        return in_a_row((self.path, 1), choose, gap=8)

    def _make_progress(self) -> None:
        """What is wrong, what is going on, and how far it is."""
        self.fault = fault_line()
        self.progress = QProgressBar()
        self.progress.setAccessibleName("Progress of the export")
        self.progress.setTextVisible(False)
        self.progress.setFixedHeight(6)
        self.stage = quiet()
        self.progress.hide()
        self.stage.hide()

    def _buttons(self) -> QDialogButtonBox:
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.export_button = QPushButton("Export")
        self.export_button.setDefault(True)
        buttons.addButton(self.export_button, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.rejected.connect(self.reject)
        buttons.accepted.connect(self.export)
        return buttons

    def _lay_out(
        self,
        choices: QHBoxLayout,
        also_row: QWidget,
        also_sizes: QWidget,
        dpi_row: QHBoxLayout,
        file_row: QHBoxLayout,
    ) -> None:
        self._form = QWidget()
        form = QFormLayout(self._form)
        form.setContentsMargins(0, 0, 0, 0)
        form.setHorizontalSpacing(16)
        form.setVerticalSpacing(9)
        form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        form.addRow("Format", choices)
        form.addRow("", self.meaning)
        form.addRow("Also as", also_row)
        form.addRow("Size", self.size_fields)
        form.addRow("Also sized", also_sizes)
        form.addRow(self.dpi_label, dpi_row)
        form.addRow("Paper", self.transparent)
        form.addRow("Letters", self.letters)
        form.addRow("Inside", self.inside)
        file_label = QLabel("File")
        file_label.setBuddy(self.path)
        form.addRow(file_label, file_row)
        form.addRow("", self.remark)
        in_a_column(
            self._form,
            self.fault,
            self.stage,
            self.progress,
            6,
            self._buttons(),
            around=(18, 16, 18, 14),
            of=self,
        )

    def showEvent(self, event: QShowEvent | None) -> None:
        """Have room for all lines: by itself a dialog takes two thirds of a screen at most."""
        super().showEvent(event)
        restored = event is not None and event.spontaneous()  # by the desktop, as it was left
        if (whole := self.layout()) is not None and not restored:
            self.resize(self.width(), whole.totalHeightForWidth(self.width()))

    @property
    def format(self) -> str:
        """The kind of file that is chosen."""
        return next(key for key, button in self.format_buttons.items() if button.isChecked())

    @property
    def size_on_paper(self) -> Size:
        """The size in a unit of length, which pixels are at the chosen resolution."""
        return self.size_fields.size_.on_paper(self.dpi.value())

    def _choose_format(self, key: str) -> None:
        self.format_buttons[key].setChecked(True)
        self.meaning.setText(_MEANINGS[key])
        path = Path(self.path.text())
        ending = path.suffix.lower().removeprefix(".")
        if ending in _MEANINGS and ending != key:
            self.path.setText(str(path.with_suffix(f".{key}")))
        for other, tick in self.also_formats.items():
            tick.setVisible(other != key)
        self._tell_letters()

    def _follow_ending(self, text: str) -> None:
        """Choose the format that is typed as the ending of the file."""
        ending = Path(text.strip()).suffix.lower().removeprefix(".")
        if ending in _MEANINGS and ending != self.format:
            self._choose_format(ending)

    def _tell_pixels(self) -> None:
        self._say("")
        try:
            width, height = self.size_fields.size_.points(self.dpi.value())
        except ValueError:
            self.pixels.setText("")
            return
        across, down = (round(side / 72 * self.dpi.value()) for side in (width, height))
        self.pixels.setText(
            f"{across:,} × {down:,} pixels"
            if "png" in self.choice.formats
            else "not for lines and text"
        )

    def _choose_file(self) -> None:
        chosen, _ = QFileDialog.getSaveFileName(
            self, "Export figure", self.path.text(), "Figures (*.png *.svg *.pdf)"
        )
        if chosen:
            ending = Path(chosen).suffix.lower().removeprefix(".")
            if ending in _MEANINGS:
                self.path.setText(chosen)
                self._choose_format(ending)
            else:
                self.path.setText(f"{chosen}.{self.format}")

    def export(self) -> None:
        """Write the files, or say what is wrong."""
        path = self._path
        if path is None:
            self._say("Name a file to write to.")
            return
        export = Export(self.choice)
        try:
            export.check(path)
            refuse_over((file for file, _ in export.files(path)), self._not_over)
            sheets = export.sheets(path, self._drawn, self._recipe)
            self.all_written = [sheet.file for sheet in sheets]
            if export.takes_long(path):
                self._write_aside(export, sheets, path)
                return
            export.write(sheets)
        except Refusal as refusal:
            self._say(str(refusal))
        except ValueError as error:
            self._say(f"{str(error)[0].upper()}{str(error)[1:]}.")
        else:
            self._finish(path)

    def _finish(self, path: Path) -> None:
        self.written = path
        keep_export(self.choice)
        self.accept()

    def _write_aside(self, export: Export, sheets: list[Sheet], path: Path) -> None:
        """Write large pictures off the interface thread; the dialog stays until it is done, or
        stopped."""
        from rhabdos.app.session.tasks import Task

        done = self._done_aside = list[Path]()
        task = Task(lambda report: export.write(sheets, report, done.append))
        self._task = task
        task.progressed.connect(self._tell_progress)
        task.succeeded.connect(lambda _result: self._finish(path))
        task.refused.connect(self._say)
        for ended in (task.succeeded, task.refused, task.cancelled):
            ended.connect(self._end_task)
        self._form.setEnabled(False)
        self.export_button.setEnabled(False)
        self._tell_progress("Painting", 0.0)
        task.begin()

    def _tell_progress(self, stage: str, share: float) -> None:
        self.stage.setText(f"{stage} …")
        self.stage.show()
        self.progress.setRange(0, 0 if share < 0 else 100)
        self.progress.setValue(round(100 * share))
        self.progress.show()

    def _end_task(self) -> None:
        self._task = None
        self._form.setEnabled(True)
        self.export_button.setEnabled(True)
        self.progress.hide()
        self.stage.hide()

    def reject(self) -> None:
        """Stop the writing that is going on, or close the dialog."""
        if self._task:
            self._task.cancel()
            files = ", ".join(file_named(file.name) for file in self._done_aside)
            written = f"only {files} had been written" if files else "no file was written"
            self._say(f"The export was stopped; {written}.")
        else:
            super().reject()

    def _say(self, sentence: str) -> None:
        self.fault.setText(sentence)
        self.fault.setVisible(bool(sentence))
