"""On one page: figures of the work set together, arranged by hand, exported and printed as one."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from functools import partial
from pathlib import Path

from msgspec import structs
from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFileDialog,
    QFormLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QSpinBox,
    QWidget,
)

from rhabdos.app.controls.dialog_layout import lay_out_beside, pause
from rhabdos.app.controls.mnemonics import give_letters
from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.controls.typed_fields import ChoiceBox, fault_line, text_field
from rhabdos.app.leaving.plate_page import PlatePage
from rhabdos.app.leaving.saving_over import refuse_over
from rhabdos.app.leaving.size_fields import SizeFields
from rhabdos.app.session.reaching import is_quick
from rhabdos.app.session.session import Session
from rhabdos.app.session.tasks import Task
from rhabdos.data.sample_sets import SampleSet
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.page_size import SCREEN_DPI, Size
from rhabdos.figure.recipe.plate import MOST_ON_PLATE, Plate, new_plate
from rhabdos.paint.export import write_figure
from rhabdos.paint.fonts import measure_for
from rhabdos.project.making import make
from rhabdos.quoting import file_named
from rhabdos.scene.plate import PlateScene, plate_scene

_FIELDS = 420  # pixels of the fields beside the page
_AFTER = 120  # milliseconds after a change in which the page is set anew
_FILES = "Pictures (*.pdf *.svg *.png)"


class PlateDialog(QDialog):
    """Chooses figures and how they are set on a page; the pages are part of the work.

    Signals
    -------
    kept : all pages of the work, and what the step is called.
    told : a sentence about what was written.
    """

    kept = pyqtSignal(tuple, str)
    told = pyqtSignal(str)

    def __init__(
        self,
        session: Session,
        path: Path,
        printed: Callable[..., None],
        parent: QWidget,
        not_over: Sequence[Path] = (),
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("On one page")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)  # Qt only hides what is closed
        self._session, self._path, self._printed = session, path, printed
        self._not_over = tuple(not_over)
        self._known: dict[int, Readings | str] = {}
        self._sorting: tuple[int, Task] | None = None
        self.plates = list(session.document.plates)
        self.drawn: PlateScene | None = None
        self.page = PlatePage()
        self.page.swapped.connect(self._swap)
        self.page.parted.connect(self._part)
        self.fault = fault_line()
        self._setting = pause(self, _AFTER, self.set_anew)
        self._make_fields()
        self.keep = QPushButton("Keep in the work")
        self.keep.clicked.connect(self._keep)
        self.export = QPushButton("Export …")
        self.export.clicked.connect(self._export)
        self.print_button = QPushButton("Print …")
        self.print_button.clicked.connect(self._print)
        close = QPushButton("Close")
        close.clicked.connect(self.reject)
        for button in (self.export, self.print_button, close):
            button.setAutoDefault(False)
        self.keep.setDefault(True)
        buttons = [None, close, self.print_button, self.export, self.keep]
        lay_out_beside(self, self._fields, _FIELDS, [self.page, self.fault], buttons)
        give_letters(self)
        self.resize(1180, 680)
        self._choose(0 if self.plates else -1)

    def _make_fields(self) -> None:
        pages = ((f"page {number + 1}", number) for number in range(len(self.plates)))
        self.which = ChoiceBox("Which page", (*pages, ("a new page", -1)))
        self.which.activated.connect(lambda _row: self._choose(self.which.currentData()))
        self.list = QListWidget()
        self.list.setAccessibleName("Figures; those with a tick are on the page, in this order")
        self.list.setDragDropMode(QListWidget.DragDropMode.InternalMove)
        self.list.itemChanged.connect(lambda _item: self._ticked())
        if model := self.list.model():
            later = Qt.ConnectionType.QueuedConnection
            model.rowsMoved.connect(lambda *_: self._ticked(), later)  # type: ignore[call-arg]
        self.columns = QSpinBox()
        self.columns.setAccessibleName("Columns")
        self.columns.setRange(1, MOST_ON_PLATE)
        self.columns.valueChanged.connect(self._changed)
        self.size_fields = SizeFields(
            Size.parse("18x12cm"), lambda: int(SCREEN_DPI), "a usual page"
        )
        self.size_fields.changed.connect(self._changed)
        self.title = text_field("Title of the page", "")
        self.note = text_field("Note of the page", "")
        for field in (self.title, self.note):
            field.textEdited.connect(self._changed)
        self.letters = QCheckBox("Letters A, B, C …")
        self.one_legend = QCheckBox("One legend where it is the same")
        for tick in (self.letters, self.one_legend):
            tick.clicked.connect(self._changed)
        form = QFormLayout()
        form.setContentsMargins(0, 0, 0, 0)
        form.setVerticalSpacing(9)
        form.addRow("Page", self.which)
        form.addRow("Figures", self.list)
        form.addRow("Columns", self.columns)
        form.addRow("Size", self.size_fields)
        form.addRow("Title", self.title)
        form.addRow("Note", self.note)
        form.addRow("", self.letters)
        form.addRow("", self.one_legend)
        self._fields = in_a_column(form)

    # The page

    def _choose(self, number: int) -> None:
        """Begin with a page of the work, or with a new one of its first figures."""
        count = len(self._session.figures)
        if number >= 0:
            plate = self.plates[number]
        else:
            first = self._session.document.beside or tuple(range(min(count, 4)))
            plate = new_plate(first)
        self._number, self._plate = number, plate
        for row in range(self.which.count()):
            if self.which.itemData(row) == number:
                self.which.setCurrentIndex(row)
        self._fill(plate, count)
        self.set_anew()

    def _fill(self, plate: Plate, count: int) -> None:
        # Filling in is no wish of a hand, and would set the page at each row.
        lists, fields = QSignalBlocker(self.list), QSignalBlocker(self.size_fields)
        with lists, fields, QSignalBlocker(self.columns):
            self.list.clear()
            others = [place for place in range(count) if place not in plate.figures]
            for place in (*plate.figures, *others):
                card = QListWidgetItem(f"{place + 1}  {self._session.figures.name(place)}")
                card.setData(Qt.ItemDataRole.UserRole, place)
                card.setFlags(card.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                on_page = place in plate.figures
                card.setCheckState(Qt.CheckState.Checked if on_page else Qt.CheckState.Unchecked)
                self.list.addItem(card)
            self.columns.setValue(plate.columns)
            self.size_fields.show_size(Size.parse(plate.size))
            self.title.setText(plate.title)
            self.note.setText(plate.note)
            self.letters.setChecked(plate.letters)
            self.one_legend.setChecked(plate.legend == "one")

    def _cards(self) -> Iterator[tuple[int, bool]]:
        for row in range(self.list.count()):
            if (card := self.list.item(row)) is not None:
                ticked = card.checkState() == Qt.CheckState.Checked
                yield card.data(Qt.ItemDataRole.UserRole), ticked

    def _ticked(self) -> None:
        self._plate = structs.replace(self._plate, widths=(), heights=())
        self._changed()

    def _changed(self, *_: object) -> None:
        self._setting.start()

    def plate(self) -> Plate:
        """The page as it is chosen.

        Raises
        ------
        Refusal
            It holds no figure, too many, or its size is none.
        """
        figures = tuple(place for place, ticked in self._cards() if ticked)
        if not figures:
            raise Refusal("Tick the figures that the page is to hold.")
        if len(figures) > MOST_ON_PLATE:
            raise Refusal(f"A page holds at most {MOST_ON_PLATE} figures. Leave some out.")
        columns = min(self.columns.value(), len(figures))
        same = columns == len(self._plate.across)
        try:
            return Plate(
                figures,
                columns,
                str(self.size_fields.size_),
                self.title.text().strip(),
                self.note.text().strip(),
                self.letters.isChecked(),
                "one" if self.one_legend.isChecked() else "own",
                self._plate.widths if same else (),
                self._plate.heights if same else (),
            )
        except ValueError as error:
            raise Refusal(f"{error}.") from None

    def set_anew(self) -> None:
        """Set the page as it is chosen now."""
        self._setting.stop()
        try:
            self._plate = self.plate()
            if (waiting := self._first_to_sort()) is not None:
                self._sort(waiting)
                return
            figures = [self._readings(place) for place in self._plate.figures]
            self.drawn = plate_scene(self._plate, figures, measure_for(figures[0].recipe))
        except Refusal as refusal:
            self.drawn = None
            self.page.say(str(refusal))
        else:
            self.page.show_plate(self._plate, self.drawn)
        for button in (self.keep, self.export, self.print_button):
            button.setEnabled(self.drawn is not None)

    def _first_to_sort(self) -> int | None:
        """The first figure on the page whose values must be sorted first, which may take long."""
        session = self._session
        if session.table is None or is_quick(session.table):
            return None
        places = (place for place in self._plate.figures if place not in self._known)
        unsorted = (p for p in places if session.store.samples(session.document.showing(p)) is None)
        return next(unsorted, None)

    def _sort(self, place: int) -> None:
        """Sort the values of a figure off the interface thread, and then set the page."""
        self.drawn = None
        self.page.say(f"Sorting the values of figure {place + 1} …")
        for button in (self.keep, self.export, self.print_button):
            button.setEnabled(False)
        if self._sorting is not None and self._sorting[0] == place:
            return
        session = self._session
        document = session.document.showing(place)
        task = Task(
            lambda report: make(document, session.store, session.others, report).samples, self
        )

        def done(samples: SampleSet | None) -> None:
            """Keep what was sorted, here too, since others may push it out; and go on."""
            assert samples is not None  # a document that shows a figure has some
            session.store.keep_samples(document, samples)
            with suppress(Refusal):  # which is said of the page
                self._readings(place)
            self._end_sorting(place, "")

        task.succeeded.connect(done)
        task.refused.connect(partial(self._end_sorting, place))
        self._sorting = place, task
        task.begin()

    def _end_sorting(self, place: int, why_not: str) -> None:
        self._sorting = None
        if why_not:
            self._known[place] = f"Figure {place + 1} cannot be drawn. {why_not}"
        self.set_anew()

    def _readings(self, place: int) -> Readings:
        """The readings of a figure, kept while the dialog is open."""
        if place not in self._known:
            session = self._session
            recipe = session.document.figures[place].recipe
            samples = session.store.samples(session.document.showing(place))
            try:
                if samples is None:
                    assert session.table is not None
                    samples = samples_for(recipe, session.table)
                self._known[place] = read(recipe, samples)
            except Refusal as refusal:
                self._known[place] = f"Figure {place + 1} cannot be drawn. {refusal}"
        known = self._known[place]
        if isinstance(known, str):
            raise Refusal(known)
        return known

    # By hand

    def _swap(self, first: int, second: int) -> None:
        """Let two figures change places."""
        figures = list(self._plate.figures)
        figures[first], figures[second] = figures[second], figures[first]
        self._plate = structs.replace(self._plate, figures=tuple(figures))
        self._fill(self._plate, len(self._session.figures))
        self.set_anew()

    def _part(self, way: str, shares: tuple[float, ...]) -> None:
        name = "widths" if way == "across" else "heights"
        self._plate = structs.replace(self._plate, **{name: shares})
        self.set_anew()

    # What becomes of it

    def _keep(self) -> None:
        self.set_anew()
        if self.drawn is None:
            return
        plates = list(self.plates)
        if self._number >= 0:
            plates[self._number] = self._plate
        else:
            plates.append(self._plate)
        number = self._number + 1 if self._number >= 0 else len(plates)
        self.kept.emit(tuple(plates), f"Page {number}")
        self.accept()

    def _export(self) -> None:
        self.set_anew()
        if self.drawn is None:
            return
        path, _ = QFileDialog.getSaveFileName(self, "Export the page", str(self._path), _FILES)
        if not path:
            return
        chosen = Path(path) if Path(path).suffix else Path(path).with_suffix(".pdf")
        try:
            refuse_over([chosen], self._not_over)
            write_figure(self.drawn.scene, chosen, letters="embedded")
        except Refusal as refusal:
            self.fault.setText(str(refusal))
            self.fault.show()
        else:
            self._path = chosen
            self.told.emit(f"Page written to {file_named(chosen.name)}.")

    def _print(self) -> None:
        self.set_anew()
        if self.drawn is not None:
            self._printed(self.drawn.scene)
