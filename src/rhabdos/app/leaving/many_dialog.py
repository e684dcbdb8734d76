"""Many at once: the same figure of every variable, level or file, looked at and made."""

from collections.abc import Iterator, Sequence
from functools import partial
from pathlib import Path
from typing import Literal

from msgspec import Struct
from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFileDialog,
    QFormLayout,
    QLabel,
    QListView,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QWidget,
)

from rhabdos.app.controls.dialog_layout import lay_out_beside
from rhabdos.app.controls.mnemonics import give_letters
from rhabdos.app.controls.pictures import picture_of
from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.controls.typed_fields import ChoiceBox, fault_line, quiet, text_field
from rhabdos.app.leaving.saving_over import refuse_over, told_replaced
from rhabdos.app.session.session import Session
from rhabdos.app.session.tasks import Task
from rhabdos.data.columns import CategoryColumn
from rhabdos.data.files.formats import ENDINGS
from rhabdos.data.reporting import Report
from rhabdos.data.steps.step import Step
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.phrases.grouping import split_by
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.paint.many import Batch, Scales
from rhabdos.project.batch import (
    Item,
    each_file,
    each_level,
    each_variable,
    file_names,
    limited,
    readings_of,
)
from rhabdos.project.document import Figure
from rhabdos.scene.marks import Scene
from rhabdos.scene.miniature import small
from rhabdos.wording import counted

Each = Literal["variable", "level", "file"]
_PICTURE = QSize(132, 84)
_FIELDS = 340  # pixels of the fields beside the pictures
_AS = (
    ("One PDF, a page each", "pdf"),
    ("Files, named by a pattern", "files"),
    ("One page, all set together", "page"),
    ("Figures of this work", "figures"),
)
_TRIED = Qt.ItemDataRole.UserRole


class Wish(Struct, frozen=True, eq=False):
    """What is to be written: the figures, where to, and a file for all numbers."""

    batch: Batch
    output: str
    numbers: str | None


class ManyDialog(QDialog):
    """Chooses what each is of, shows small true pictures, and lets some be left out.

    Signals
    -------
    wished : what is to be written.
    added : figures that become some of this work, with what the step is called.
    """

    wished = pyqtSignal(object)
    added = pyqtSignal(object, str)

    def __init__(
        self,
        session: Session,
        folder: Path,
        name: str,
        parent: QWidget,
        not_over: Sequence[Path] = (),
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Many at once")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)  # Qt only hides what is closed
        recipe, table = session.recipe, session.table
        assert recipe is not None
        assert table is not None
        self._recipe, self._table = recipe, table
        self._steps = session.document.steps
        self._folder, self._name, self._not_over = folder, name, tuple(not_over)
        self._files: list[str] = []
        self._items: list[Item] = []
        self._waiting: Iterator[int] = iter(())
        self._make_fields()
        self._make_list()
        self._drawing: Task | None = None
        self.fault = fault_line()
        self.make_button = QPushButton("Make them")
        self.make_button.setDefault(True)
        self.make_button.clicked.connect(self.make)
        cancel = QPushButton("Cancel")
        cancel.clicked.connect(self.reject)
        shown = [self.list, self.said, self.fault]
        buttons = [self.every, self.none, None, cancel, self.make_button]
        lay_out_beside(self, self._fields, _FIELDS, shown, buttons)
        give_letters(self)
        self.resize(980, 620)
        self._choose_each()

    def _make_fields(self) -> None:
        each = (
            ("variable", "variable"),
            ("level of a factor", "level"),
            ("file of a folder", "file"),
        )
        self.each = ChoiceBox("One figure for each", each)
        self.each.activated.connect(lambda _row: self._choose_each())
        split = {self._table.column(name).name for name in self._recipe.show.split}
        columns = [c for c in self._table.columns if isinstance(c, CategoryColumn)]
        columns.sort(key=lambda column: column.name not in split)
        self.factor = ChoiceBox("Factor", ((column.label, column.name) for column in columns))
        self.factor.activated.connect(lambda _row: self._choose_each())
        self.choose = QPushButton("Choose files …")
        self.choose.setAutoDefault(False)
        self.choose.clicked.connect(self._ask_for_files)
        scales = ("each its own", "free"), ("the same for all", "same")
        self.scales = ChoiceBox("Scales", scales)
        self.made_as = ChoiceBox("Made as", _AS)
        self.made_as.activated.connect(lambda _row: self._tell_as())
        self.path = text_field("File or pattern", str(self._folder / f"{self._name}-all.pdf"))
        self.path.textEdited.connect(lambda _text: self.fault.hide())
        self.path.textChanged.connect(lambda _text: self._remark())
        self.hint, self.remark = quiet(), quiet()
        self.numbers = QCheckBox("All numbers as CSV beside")
        self.numbers.toggled.connect(lambda _on: self._remark())
        form = QFormLayout()
        form.setContentsMargins(0, 0, 0, 0)
        form.setVerticalSpacing(9)
        form.addRow("One for each", self.each)
        form.addRow("Factor", self.factor)
        form.addRow("", self.choose)
        form.addRow("Scales", self.scales)
        form.addRow("Made as", self.made_as)
        form.addRow("File", self.path)
        form.addRow("", self.hint)
        form.addRow("", self.numbers)
        self._form = form
        self._fields = in_a_column(form, self.remark, None, gap=9)

    def _make_list(self) -> None:
        self.list = QListWidget()
        self.list.setAccessibleName("Figures to be made; those without a tick are left out")
        self.list.setViewMode(QListView.ViewMode.IconMode)
        self.list.setResizeMode(QListView.ResizeMode.Adjust)
        self.list.setMovement(QListView.Movement.Static)
        self.list.setIconSize(_PICTURE)
        self.list.setSpacing(8)
        self.list.setWordWrap(True)
        self.list.itemChanged.connect(lambda _item: self._tell_count())
        self.said = QLabel()
        self.said.setObjectName("quiet")
        self.every = QPushButton("Tick all")
        self.none = QPushButton("Tick none")
        for button, ticked in ((self.every, True), (self.none, False)):
            button.setAutoDefault(False)
            button.clicked.connect(partial(self._tick_all, ticked))

    # What each is of

    def _choose_each(self) -> None:
        """List what is to be made now."""
        each: Each = self.each.currentData()
        self._form.setRowVisible(self.factor, each == "level")
        self._form.setRowVisible(self.choose, each == "file")
        self._waiting = iter(())
        self.fault.hide()
        try:
            self._items = self._items_of(each)
        except Refusal as refusal:
            self._items = []
            self._say(str(refusal))
        self._fill()
        self._tell_as()

    def _items_of(self, each: Each) -> list[Item]:
        if each == "variable":
            return limited(each_variable(self._recipe, self._table), "numeric variable")
        if each == "file":
            return each_file(self._recipe, self._files)
        factor = self.factor.currentData()
        if factor is None:
            raise Refusal("There is no variable with levels. Choose another one for each.")
        same = self.scales.currentData() == "same"
        return limited(each_level(self._recipe, self._table, factor, same), "level")

    def _ask_for_files(self) -> None:
        kinds = f"Data ({' '.join(f'*.{ending}' for ending in ENDINGS)});;All files (*)"
        files, _ = QFileDialog.getOpenFileNames(
            self, "One figure for each of these", str(self._folder), kinds
        )
        if files:
            self._files = files
            self._choose_each()

    def _fill(self) -> None:
        self.list.clear()
        for item in self._items:
            card = QListWidgetItem(item.name)
            card.setFlags(card.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            card.setCheckState(Qt.CheckState.Checked)
            card.setToolTip(item.name)
            card.setSizeHint(QSize(_PICTURE.width() + 26, _PICTURE.height() + 44))
            self.list.addItem(card)
        self._waiting = iter(range(len(self._items)))
        if self._drawing is not None:
            self._drawing.cancel()
        self._draw_next()
        self._tell_count()

    def _draw_next(self) -> None:
        """Draw one small figure, and come back for the others; sorting many rows, or reading a
        file, is not waited for."""
        at = next(self._waiting, None)
        if at is None:
            self._drawing = None
            return
        drawn = partial(_drawn_small, self._items[at], self._steps, self._table)
        self._drawing = task = Task(drawn, self)
        task.succeeded.connect(partial(self._paint, at))
        task.refused.connect(partial(self._mark_undrawn, at))
        task.begin()

    def _paint(self, at: int, scene: Scene) -> None:
        if (card := self.list.item(at)) is not None:
            card.setIcon(picture_of(lambda _wide, _high: scene, _PICTURE, self.list))
        self._draw_next()

    def _mark_undrawn(self, at: int, why: str) -> None:
        if (card := self.list.item(at)) is not None:
            card.setIcon(QIcon())
            card.setText(f"{self._items[at].name}\nnot drawn")
            card.setToolTip(why)
            card.setCheckState(Qt.CheckState.Unchecked)
        self._draw_next()

    def _tick_all(self, ticked: bool) -> None:
        for row in range(self.list.count()):
            if (card := self.list.item(row)) is not None:
                card.setCheckState(Qt.CheckState.Checked if ticked else Qt.CheckState.Unchecked)

    def chosen(self) -> list[Item]:
        """The figures that have a tick."""
        cards = (self.list.item(row) for row in range(self.list.count()))
        ticked = [c is not None and c.checkState() == Qt.CheckState.Checked for c in cards]
        return [item for item, keep in zip(self._items, ticked, strict=True) if keep]

    def _tell_count(self) -> None:
        count = len(self.chosen()) if self.list.count() == len(self._items) else 0
        if not self._items and self.each.currentData() == "file":
            self.said.setText("Choose the files that this figure is to be drawn of.")
        else:
            self.said.setText(f"{count} of {counted(len(self._items), 'figure', 'figures')}")
        self.make_button.setEnabled(count > 0)
        self._remark()

    # What becomes of them

    def _tell_as(self) -> None:
        key = self.made_as.currentData()
        written = key != "figures"
        for field in (self.path, self.numbers):
            self._form.setRowVisible(field, written)
        self._form.setRowVisible(self.hint, key == "files")
        self.scales.setEnabled(written)
        path = Path(self.path.text())
        if key == "files":
            self.hint.setText("{name} and {number} stand for each figure’s own.")
            if "{" not in path.name:
                self.path.setText(str(path.with_name(f"{self._name}-{{name}}.png")))
        elif "{" in path.name:
            self.path.setText(str(path.with_name(f"{self._name}-all.pdf")))

    def _say(self, fault: str) -> None:
        self.fault.setText(fault)
        self.fault.show()

    def make(self) -> None:
        """Make the figures that are ticked."""
        items = self.chosen()
        try:
            if self.made_as.currentData() == "figures":
                self.added.emit(*self._figures(items))
            else:
                self.wished.emit(self._wish(items))
        except Refusal as refusal:
            self._say(str(refusal))
        else:
            self.accept()

    def _wish(self, items: list[Item]) -> Wish:
        from rhabdos.paint.export import format_of

        output, files, numbers = self._outputs(items)
        format_of(output)
        refuse_over(files, [*self._not_over, *self._files])
        scales: Scales = self.scales.currentData()
        if self.each.currentData() == "level" and scales == "same":
            kept = {item.name for item in items}
            items = [item for item in self._items_of("level") if item.name in kept]
        of_files = self.each.currentData() == "file"
        table: Table | None = None if of_files else self._table
        steps: tuple[Step, ...] = self._steps
        together = self.made_as.currentData() == "page"
        batch = Batch(items, steps, table, scales, one_page=together)
        return Wish(batch, output, numbers)

    def _outputs(self, items: list[Item]) -> tuple[str, list[str], str | None]:
        """The file or pattern, all files that would be written, and that of the numbers.

        Raises
        ------
        Refusal
            The pattern is none.
        """
        output = str(Path(self.path.text().strip()).expanduser())
        made_as = self.made_as.currentData()
        if made_as == "pdf" and not output.lower().endswith(".pdf"):
            output += ".pdf"
        files = file_names(output, items) if made_as == "files" else [output]
        if not self.numbers.isChecked():
            return output, files, None
        stem = Path(output.replace("{name}", "all").replace("{number}", "all"))
        numbers = str(stem.with_suffix(".csv")) if stem.name else ""
        return output, [*files, numbers], numbers

    def _remark(self) -> None:
        """Say which files would be replaced."""
        said = ""
        if self.made_as.currentData() != "figures":
            try:
                said = told_replaced(self._outputs(self.chosen())[1])
            except (Refusal, OSError, ValueError):  # which is said when they are made
                said = ""
        self.remark.setText(said)
        self.remark.setVisible(bool(said))

    def _figures(self, items: list[Item]) -> tuple[list[Figure], str]:
        """The figures as some of this work, whose rows are the same for all: of a level the others
        are hidden."""
        each: Each = self.each.currentData()
        if each == "file":
            raise Refusal("Figures of one work are drawn of one table. Write files or a PDF.")
        if each == "variable":
            figures = [Figure(item.recipe, item.name) for item in items]
        else:
            figures = [Figure(self._of_level(item), item.name) for item in items]
        return figures, counted(len(figures), "figure more", "figures more")

    def _of_level(self, item: Item) -> Recipe:
        factor = self.factor.currentData()
        recipe = self._recipe
        split = [self._table.column(name).name for name in recipe.show.split]
        if factor not in split:
            recipe = split_by(recipe, factor)
        others = tuple(other.name for other in self._items if other.name != item.name)
        title = item.recipe.words.title
        return recipe.grouped(hidden=others, order=None).worded(title=title)


def _drawn_small(item: Item, steps: Sequence[Step], table: Table, report: Report) -> Scene:
    """A figure as it is drawn small."""
    readings = readings_of(item, steps, table, report, only_looked_at=True)
    return small(readings.recipe, readings, _PICTURE.width(), _PICTURE.height())
