"""On one page: figures of the work set together, arranged by hand, exported and printed as one."""

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Literal

from msgspec import structs
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
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
from rhabdos.app.controls.theme import theme
from rhabdos.app.controls.typed_fields import fault_line, text_field
from rhabdos.app.leaving.size_fields import SizeFields
from rhabdos.app.session.session import Session
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.page_size import SCREEN_DPI, Size
from rhabdos.figure.recipe.plate import MOST_ON_PLATE, Plate, new_plate
from rhabdos.paint.export import write_figure
from rhabdos.paint.fonts import measure_for
from rhabdos.paint.painter import paint
from rhabdos.quoting import file_named
from rhabdos.scene.plate import PlateScene, plate_scene

_FIELDS = 420  # pixels of the fields beside the page
_AFTER = 120  # milliseconds after a change in which the page is set anew
_NEAR = 6.0  # pixels about a gap between figures in which it is taken hold of
_LEAST_SHARE = 0.1  # of a column or a row
_FILES = "Pictures (*.pdf *.svg *.png)"


class PlatePage(QWidget):
    """The page as it will be printed: a figure dragged onto another changes places with it, and a
    gap between them is dragged.

    Signals
    -------
    swapped : two places of figures on the page.
    parted : "across" or "down", and the shares that columns or rows have then.
    """

    swapped = pyqtSignal(int, int)
    parted = pyqtSignal(str, tuple)

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(360, 300)
        self.setAccessibleName("The page")
        self.setMouseTracking(True)
        self._drawn: PlateScene | None = None
        self._plate: Plate | None = None
        self._words = ""
        self._held: int | None = None
        self._gap: tuple[Literal["across", "down"], int] | None = None
        self._over: int | None = None

    def show_plate(self, plate: Plate, drawn: PlateScene) -> None:
        """Show a page."""
        self._plate, self._drawn, self._words = plate, drawn, ""
        self.setAccessibleDescription(drawn.scene.describe())
        self.update()

    def say(self, words: str) -> None:
        """Say why there is no page."""
        self._drawn, self._words = None, words
        self.update()

    @property
    def _scale(self) -> float:
        assert self._drawn
        scene = self._drawn.scene
        return min((self.width() - 16) / scene.width, (self.height() - 16) / scene.height)

    @property
    def _corner(self) -> QPointF:
        assert self._drawn
        scene, scale = self._drawn.scene, self._scale
        return QPointF(
            (self.width() - scene.width * scale) / 2, (self.height() - scene.height * scale) / 2
        )

    def rect_of(self, at: int) -> QRectF:
        """Where a figure lies, in pixels."""
        assert self._drawn
        place, scale, corner = self._drawn.places[at], self._scale, self._corner
        return QRectF(
            corner.x() + place.left * scale,
            corner.y() + place.top * scale,
            place.width * scale,
            place.height * scale,
        )

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter, t = QPainter(self), theme()
        if self._drawn is None or self._plate is None:
            painter.setPen(QColor(t.quiet))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect().adjusted(20, 20, -20, -20), flags, self._words)
            return
        painter.save()
        painter.translate(self._corner)
        painter.scale(self._scale, self._scale)
        paint(self._drawn.scene, painter, live=True)
        painter.restore()
        painter.setPen(QPen(QColor(t.hairline), 1))
        scene, scale = self._drawn.scene, self._scale
        page = QRectF(self._corner.x(), self._corner.y(), scene.width * scale, scene.height * scale)
        painter.drawRect(page)
        for at, width in ((self._held, 1), (self._over, 3)):
            if at is not None:
                painter.setPen(QPen(QColor(t.chosen), width))
                painter.drawRect(self.rect_of(at))

    def _at(self, place: QPointF) -> int | None:
        if self._drawn is None:
            return None
        inside = (n for n in range(len(self._drawn.places)) if self.rect_of(n).contains(place))
        return next(inside, None)

    def _gap_at(self, place: QPointF) -> tuple[Literal["across", "down"], int] | None:
        """The gap between columns or rows at a place, by the number of the one before it."""
        if self._drawn is None or self._plate is None:
            return None
        columns = len(self._plate.across)
        for column in range(columns - 1):
            if abs(place.x() - self._middle(column, True)) < _NEAR:
                return "across", column
        for row in range(self._plate.rows - 1):
            if abs(place.y() - self._middle(row * columns, False)) < _NEAR:
                return "down", row
        return None

    def _middle(self, at: int, across: bool) -> float:
        """The middle of the gap after a figure, in pixels."""
        assert self._plate
        columns = len(self._plate.across)
        here, there = self.rect_of(at), self.rect_of(at + (1 if across else columns))
        if across:
            return (here.right() + there.left()) / 2
        return (here.bottom() + there.top()) / 2

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self._gap = self._gap_at(event.position())
        self._held = None if self._gap else self._at(event.position())
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._drawn is None:
            return
        if self._gap is not None:
            self._part(*self._gap, event.position())
        elif self._held is not None:
            over = self._at(event.position())
            self._over = over if over != self._held else None
            self.update()
        else:
            gap = self._gap_at(event.position())
            shape = Qt.CursorShape.OpenHandCursor
            if gap is not None:
                across = gap[0] == "across"
                shape = Qt.CursorShape.SplitHCursor if across else Qt.CursorShape.SplitVCursor
            self.setCursor(shape)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        held, over = self._held, self._over
        self._held = self._over = self._gap = None
        self.update()
        if held is not None and over is not None:
            self.swapped.emit(held, over)

    def _part(self, way: Literal["across", "down"], before: int, place: QPointF) -> None:
        """Move the gap after a column or a row to a place."""
        assert self._plate
        columns = len(self._plate.across)
        shares = list(self._plate.across if way == "across" else self._plate.down)
        first = self.rect_of(before if way == "across" else before * columns)
        second = self.rect_of(before + 1 if way == "across" else (before + 1) * columns)
        both = shares[before] + shares[before + 1]
        if way == "across":
            share = (place.x() - first.left()) / (second.right() - first.left())
        else:
            share = (place.y() - first.top()) / (second.bottom() - first.top())
        share = min(max(share, _LEAST_SHARE), 1 - _LEAST_SHARE)
        shares[before], shares[before + 1] = both * share, both * (1 - share)
        self.parted.emit(way, tuple(round(each, 4) for each in shares))


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
        self, session: Session, path: Path, printed: Callable[..., None], parent: QWidget
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("On one page")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._session, self._path, self._printed = session, path, printed
        self._known: dict[int, Readings | str] = {}
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
        self.which = QComboBox()
        self.which.setAccessibleName("Which page")
        for number in range(1, len(self.plates) + 1):
            self.which.addItem(f"page {number}", number - 1)
        self.which.addItem("a new page", -1)
        self.which.activated.connect(lambda _row: self._choose(self.which.currentData()))
        self.list = QListWidget()
        self.list.setAccessibleName("Figures; those with a tick are on the page, in this order")
        self.list.setDragDropMode(QListWidget.DragDropMode.InternalMove)
        self.list.itemChanged.connect(lambda _item: self._ticked())
        if model := self.list.model():
            model.rowsMoved.connect(lambda *_: self._ticked(), Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]
        self.columns = QSpinBox()
        self.columns.setAccessibleName("Columns")
        self.columns.setRange(1, MOST_ON_PLATE)
        self.columns.valueChanged.connect(self._changed)
        self.size_fields = SizeFields(Size.parse("18x12cm"), lambda: int(SCREEN_DPI))
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
        blocked: list[QWidget] = [self.list, self.columns, self.size_fields]
        for widget in blocked:
            widget.blockSignals(True)
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
        for widget in blocked:
            widget.blockSignals(False)

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
            figures = [self._readings(place) for place in self._plate.figures]
            self.drawn = plate_scene(self._plate, figures, measure_for(figures[0].recipe))
        except Refusal as refusal:
            self.drawn = None
            self.page.say(str(refusal))
        else:
            self.page.show_plate(self._plate, self.drawn)
        for button in (self.keep, self.export, self.print_button):
            button.setEnabled(self.drawn is not None)

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
        found = self._known[place]
        if isinstance(found, str):
            raise Refusal(found)
        return found

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
