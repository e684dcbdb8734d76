"""Under the figure: its groups in numbers, one face at a time, and the notices."""

import math
from collections.abc import Callable
from functools import partial
from typing import Literal

from msgspec import structs
from PyQt6.QtCore import QModelIndex, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QHeaderView, QLabel, QSizePolicy, QToolButton, QWidget

from rhabdos.app.controls.choices import Choices
from rhabdos.app.controls.marked import dressed_as, mark
from rhabdos.app.controls.plain_texts import as_written
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.sorted_list import SortedList
from rhabdos.app.controls.theme import growing, sized
from rhabdos.app.controls.typed_fields import Field, quiet
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.app.panels.face_model import FaceModel
from rhabdos.app.panels.notice_strip import NoticeStrip
from rhabdos.app.session.tasks import Task
from rhabdos.data.reporting import Report
from rhabdos.data.steps.keep import KeepRows
from rhabdos.errors import Refusal
from rhabdos.figure.output.faces import (
    FURTHER,
    SHARES,
    Face,
    bins_face,
    compare_face,
    has_groups,
    lack_of,
    quantiles_face,
    read_shares,
    summary_face,
)
from rhabdos.figure.output.rows_face import ListedRows, all_rows, forward_rows, rows_face
from rhabdos.figure.output.subjects import COMPARED_TOPICS, SUMMARY_TOPICS, Subject
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.reference import compared_with, sure_told
from rhabdos.figure.recipe.recipe import Compare, Recipe
from rhabdos.figure.words.notice import Notice
from rhabdos.project.memory import recall, remember
from rhabdos.quoting import brief, printable
from rhabdos.scene.style.look import colours_of
from rhabdos.stats.quantiles import IN_WORDS

FaceName = Literal["summary", "compare", "bins", "rows", "quantiles"]
FACES: dict[FaceName, tuple[str, str, Callable[[Readings], Face]]] = {
    "summary": ("Summary", "Summary of each group", summary_face),
    "compare": ("Compare", "Each group compared with one of them", compare_face),
    "bins": ("Bins", "Each bin of each group", bins_face),
    "rows": ("Rows", "The rows of the range that is read, of what is forward, or all", all_rows),
    "quantiles": ("Quantiles", "Each group at shares of its values", quantiles_face),
}
"""Of each face: its title, what it is for who cannot see it, and what makes it."""
_Listing = tuple[tuple[object, ...], ListedRows]
"""Rows that are listed, and of what they are."""
_Maker = Callable[[], Face | _Listing]
_ROW = 23  # pixels
_SHARES_WIDE = 190  # pixels of the field of shares
_BESIDE_A_NOTICE = 420  # pixels of what stands beside a notice
_AT_ONCE = 200_000  # values, whose comparisons are not waited for
_CONFIDENCES = (0.8, 0.9, 0.95, 0.99)  # that are offered besides the one that is asked for


class Foot(QWidget):
    """Faces of the figure in numbers, and the notices.

    Signals
    -------
    tables_asked : the tables of the figure, to be copied or saved.
    recipe_asked : a step's name, and the recipe it makes.
    refused : why something that was typed makes no sense.
    row_opened : a row of the table, whose value is to be seen in the figure.
    group_pointed : the group whose row the mouse is on; -1 where it has left.
    """

    tables_asked = pyqtSignal()
    recipe_asked = pyqtSignal(str, Recipe)
    refused = pyqtSignal(str)
    group_pointed = pyqtSignal(int)
    row_opened = pyqtSignal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        dressed_as(self, "readings")
        self.face: FaceName = "summary"
        self._readings: Readings | None = None
        self._task: Task | None = None
        self._working_for: tuple[Readings, FaceName] | None = None
        self.rows_read: Callable[[], KeepRows | None] = lambda: None
        """What would keep the rows of the range that is read, if one is."""
        self._listed: _Listing | None = None
        self.buttons: dict[FaceName, QToolButton] = {}
        for face, (title, meant, _) in FACES.items():
            button = word_button(title, partial(self.show_face, face), "part")
            button.setToolTip(meant)
            self.buttons[face] = button
        self.notices = NoticeStrip()
        self.quartiles = word_button("", self._offer_quartiles)
        self.reference = word_button("", self._offer_references)
        self.confidence = word_button("", self._offer_confidences)
        self.told = quiet()
        self.told.hide()  # where there is nothing to tell, it takes no room
        memory = recall()
        self.columns = tuple(name for name in memory.columns if name in FURTHER)
        """Numbers that the summary lists besides."""
        self.shares = tuple(share for share in memory.shares if 0 <= share <= 1) or SHARES
        """Shares at which quantiles are listed."""
        self.further = word_button("Columns …", self._offer_columns)
        self.further.setToolTip("Further numbers of each group")
        self.typed_shares = Field("Shares in percent")
        self.typed_shares.setToolTip("At which shares quantiles are listed, such as 5, 50, 95")
        growing(QWidget.setFixedWidth, self.typed_shares, _SHARES_WIDE)
        self.typed_shares.entered.connect(self._type_shares)
        self.tables = word_button("Tables …", self.tables_asked.emit)
        self.tables.setToolTip("Summary, bins, boxes and comparisons, to copy or to save")
        self.main = QLabel()
        self._model = FaceModel(self)
        self.table = SortedList(self._model)
        self._head = QHBoxLayout()
        self._lay_out()
        self._mark_face()

    def _lay_out(self) -> None:
        """Put faces, choices and the main number into a line, and the table under it."""
        head = self._head
        head.setContentsMargins(14, 5, 14, 2)
        head.setSpacing(10)
        for button in self.buttons.values():
            head.addWidget(button)
        head.addSpacing(10)
        choices = self.typed_shares, self.further, self.quartiles, self.reference, self.confidence
        for widget in (*choices, self.tables):
            head.addWidget(widget)
        self.main.setTextFormat(Qt.TextFormat.PlainText)
        self.main.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.main.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        head.addWidget(self.main, 1)
        head.addWidget(self.notices)
        self.table.pointed.connect(self._point)
        self.table.activated.connect(self._open_row)
        self.table.setTextElideMode(Qt.TextElideMode.ElideMiddle)  # long names end differently
        self.table.setToolTip("Click a heading to sort; Ctrl+C copies the rows")
        if (rows := self.table.verticalHeader()) is not None:
            growing(QHeaderView.setDefaultSectionSize, rows, _ROW)
        if (columns := self.table.horizontalHeader()) is not None:
            columns.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
            columns.setMinimumSectionSize(54)
        layout = in_a_column(head, around=(0, 0, 0, 4), gap=0, of=self)
        layout.addLayout(in_a_row(self.told, around=(17, 4, 13, 0)))
        layout.addLayout(in_a_row(self.table, around=(13, 0, 13, 0)), 1)

    # Showing

    def show_face(self, face: FaceName) -> None:
        """Bring another face to the front."""
        self.face = face
        if (columns := self.table.horizontalHeader()) is not None:
            modes = QHeaderView.ResizeMode
            columns.setSectionResizeMode(modes.Interactive if face == "rows" else modes.Stretch)
        self.table.sortByColumn(-1, Qt.SortOrder.AscendingOrder)
        self._mark_face()
        self.show_numbers(self._readings)

    def _point(self, row: int) -> None:
        rows = self._model.face.rows
        if self.face == "rows":  # which would go from under the mouse
            return
        self.group_pointed.emit(rows[row].group if 0 <= row < len(rows) else -1)

    def subject_at(self, index: QModelIndex) -> Subject | None:
        """What the number in a cell is; None of a name and of rows."""
        column = index.column() - 1
        if not index.isValid() or column < 0 or self.face == "rows":
            return None
        row = self._model.face.rows[self.table.row_of(index)]
        value = row.cells[index.column()].value
        number = value if isinstance(value, float) and math.isfinite(value) else None
        if self.face == "summary":
            return Subject((*SUMMARY_TOPICS, *self.columns)[column], row.group)
        if self.face == "compare":
            return Subject(COMPARED_TOPICS[column], row.group, number)
        if self.face == "bins":
            ends = [row.cells[at].value for at in (1, 2)]
            middle = sum(end / 2 for end in ends if isinstance(end, float))
            return Subject("bars", row.group, middle if math.isfinite(middle) else None)
        return Subject("quantile", row.group, self.shares[column - 1]) if column else Subject("n")

    def mark_group(self, group: int | None) -> None:
        """Mark the rows of the group that is pointed at in the figure."""
        self._model.point_at(group)

    def show_next(self, by: int) -> None:
        """Bring the next face to the front, or the one before."""
        names = list(FACES)
        self.show_face(names[(names.index(self.face) + by) % len(names)])

    def _mark_face(self) -> None:
        for face, button in self.buttons.items():
            mark(button, "chosen", face == self.face)
        self.table.setAccessibleName(FACES[self.face][1])

    def show_readings(self, readings: Readings | None, notices: tuple[Notice, ...]) -> None:
        """Show the numbers and the notices of a figure."""
        self.show_numbers(readings)
        self.notices.show_notices(notices)
        self._break_notice()

    def show_numbers(self, readings: Readings | None) -> None:
        """Show the numbers of a figure, and leave the notices as they are."""
        self._readings = readings
        there = readings is not None
        for widget in (self.tables, *self.buttons.values()):
            widget.setVisible(there)
        self.quartiles.setVisible(there and self.face in ("summary", "quantiles"))
        self.further.setVisible(there and self.face == "summary")
        self.typed_shares.setVisible(there and self.face == "quantiles")
        self.typed_shares.show_value(", ".join(f"{100 * share:g}" for share in self.shares))
        for widget in (self.reference, self.confidence):
            widget.setVisible(there and self.face == "compare" and has_groups(readings))
        if readings is None:
            self._tell("")
            self.table.hide()
            return
        rule = readings.recipe.box.quartiles
        named = "Tukey’s hinges" if rule == "hinges" else f"definition {rule}"
        self.quartiles.setText(f"Quartiles: {named}")
        self.quartiles.setToolTip(IN_WORDS[rule])
        settings = compared_with(readings)
        self.reference.setText(as_written(f"with {brief(settings.reference)}"))
        self.confidence.setText(sure_told(readings))
        self.follow(readings)

    def follow(self, readings: Readings) -> None:
        """Show the rows of a figure, which may follow a hand; what can be set of them stays."""
        self._readings = readings
        lack = lack_of(self.face, readings)
        if lack:
            self._tell(lack)
            return
        make = self._maker(readings)
        if make is not None and self._takes_long(readings):
            self._work(readings, make)
            return
        try:
            self._show(readings, self.face_of(readings))
        except Refusal as refusal:
            self._tell(str(refusal))

    def face_of(self, readings: Readings) -> Face:
        """The face in sight, of a figure.

        Raises
        ------
        Refusal
            It has nothing to list.
        """
        make = self._maker(readings)
        if make is not None:
            return self._kept(make())
        assert self._listed is not None
        return self._listed[1].face

    def _maker(self, readings: Readings) -> _Maker | None:
        """What makes the face in sight; None where it lists the rows that are listed already, as
        while only bins and looks change."""
        columns, shares, face = self.columns, self.shares, self.face
        if face == "summary":
            return lambda: summary_face(readings, columns)
        if face == "quantiles":
            return lambda: quantiles_face(readings, shares)
        if face != "rows":
            return lambda: FACES[face][2](readings)
        step = self.rows_read() or forward_rows(readings)
        table, recipe = readings.gathered.table, readings.recipe
        key = (id(table), step, recipe.show.variables, recipe.factors, recipe.groups)
        if self._listed is not None and self._listed[0] == key:
            return None
        return lambda: (key, rows_face(readings, step))

    def _takes_long(self, readings: Readings) -> bool:
        """Whether the face in sight may not be waited for: groups are long, or it asks what lies
        elsewhere."""
        if self.face == "compare" and sum(group.n for group in readings.groups) > _AT_ONCE:
            return True
        table = readings.gathered.table
        far = table is not None and table.far is not None
        return far and self.face in ("compare", "rows", "quantiles")

    def _kept(self, answer: Face | _Listing) -> Face:
        """A face that was made; rows are kept."""
        if isinstance(answer, Face):
            return answer
        self._listed = answer
        return answer[1].face

    def _open_row(self, index: QModelIndex) -> None:
        """Show in the figure where the value of a row lies."""
        if self.face == "rows" and self._listed is not None and index.isValid():
            self.row_opened.emit(self._listed[1].rows[self.table.row_of(index)])

    def _show(self, readings: Readings, face: Face) -> None:
        self._tell("")
        known = self._model.face.titles
        self._model.show_face(face, colours_of(readings))
        if face.sentence != self.main.toolTip():
            self.main.setToolTip(face.sentence)
            self._fit_main()
        if face.titles != known:
            self._widen_names()

    def _work(self, readings: Readings, make: _Maker) -> None:
        """Make a face beside the window; a newer wish takes the place of an older one."""
        if self._task is not None:
            self._task.cancel()
        self._working_for = readings, self.face

        def work(_report: Report) -> Face | _Listing:
            """Compare, or ask."""
            return make()

        self._task = Task(work, self)
        self._task.succeeded.connect(self._worked)  # a method, which goes with the window
        self._task.refused.connect(self._tell)
        self._tell("Comparing …" if self.face == "compare" else "Asking where the data lie …")
        self._task.begin()

    def _worked(self, answer: Face | _Listing) -> None:
        """Show what was compared or asked, if it is still wished for."""
        self._task = None
        readings, face = self._working_for or (None, None)
        if readings is not None and readings is self._readings and self.face == face:
            self._show(readings, self._kept(answer))

    def _tell(self, words: str) -> None:
        """Say why there are no rows, or show them."""
        if words == self.told.text() and self.table.isVisibleTo(self) == (not words):
            return  # which a hand that drags must not wait for
        self.told.setText(words)
        self.told.setVisible(bool(words))
        self.table.setVisible(not words)

    def _break_notice(self) -> None:
        """Let the text of a notice break where it would be cut at the edge."""
        strip = self.notices
        others = sum(b.sizeHint().width() + 8 for b in (*strip.cures, strip.more) if b.isVisible())
        wide = strip.text.fontMetrics().horizontalAdvance(strip.text.text()) + others
        narrow = wide > self.width() - sized(_BESIDE_A_NOTICE)
        strip.text.setWordWrap(narrow)
        self._head.setStretchFactor(strip, 30 if narrow else 0)

    def _widen_names(self) -> None:
        """Names want more room than numbers do."""
        if (columns := self.table.horizontalHeader()) is not None and columns.count():
            columns.setSectionResizeMode(0, QHeaderView.ResizeMode.Fixed)
            columns.resizeSection(0, min(280, max(150, self.width() // 6)))

    def _fit_main(self) -> None:
        """As much of the main sentence as there is room for."""
        metrics, room = self.main.fontMetrics(), max(0, self.main.width() - 4)
        words = self.main.toolTip()
        self.main.setText(metrics.elidedText(words, Qt.TextElideMode.ElideRight, room))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._break_notice()
        self._widen_names()
        self._fit_main()

    # Asking

    def _offer_quartiles(self) -> None:
        """The definitions in plain words, as a menu."""
        if self._readings is None:
            return
        recipe, menu = self._readings.recipe, Choices(self)
        for rule, words in IN_WORDS.items():
            other = recipe.changed(box=recipe.box.changed(quartiles=rule))
            name = "Quartiles by hinges" if rule == "hinges" else f"Quartiles by definition {rule}"
            text = words if rule == "hinges" else f"{rule}   {words}"
            menu.offer(
                text, partial(self.recipe_asked.emit, name, other), rule == recipe.box.quartiles
            )
        self._open(menu, self.quartiles)

    def _offer_columns(self) -> None:
        """Further numbers, each there or not."""
        menu = Choices(self, several=True)
        for name, title in FURTHER.items():
            menu.offer(title, partial(self._turn_column, name), name in self.columns)
        self._open(menu, self.further)

    def _turn_column(self, name: str) -> None:
        self.columns = tuple(each for each in FURTHER if (each in self.columns) != (each == name))
        remember(lambda memory: structs.replace(memory, columns=self.columns))
        self.show_numbers(self._readings)

    def _type_shares(self, text: str) -> None:
        try:
            self.shares = read_shares(text) or SHARES
        except Refusal as refusal:
            self.typed_shares.mark_wrong(True)
            self.typed_shares.setToolTip(str(refusal))
            self.refused.emit(str(refusal))
            return
        remember(lambda memory: structs.replace(memory, shares=self.shares))
        self.show_numbers(self._readings)

    def _offer_references(self) -> None:
        """The groups that the others may be compared with."""
        if self._readings is None:
            return
        settings, menu = compared_with(self._readings), Choices(self)
        for group in self._readings.groups:
            if group.n:
                other = structs.replace(settings, reference=group.label)
                words = f"Compare with {brief(group.label)}"
                menu.offer(
                    printable(group.label),
                    partial(self._ask, words, other),
                    group.label == settings.reference,
                )
        self._open(menu, self.reference)

    def _offer_confidences(self) -> None:
        """How sure intervals may be."""
        if self._readings is None:
            return
        settings, menu = compared_with(self._readings), Choices(self)
        for sure in sorted({*_CONFIDENCES, settings.confidence}):
            words = f"Intervals of {100 * sure:g} %"
            other = structs.replace(settings, confidence=sure)
            menu.offer(words, partial(self._ask, words, other), sure == settings.confidence)
        menu.addSeparator()
        words = "Intervals one by one" if settings.together else "Intervals that hold together"
        other = structs.replace(settings, together=not settings.together)
        menu.offer(words, partial(self._ask, words, other))
        self._open(menu, self.confidence)

    def _ask(self, words: str, settings: Compare) -> None:
        if self._readings is not None:
            self.recipe_asked.emit(words, self._readings.recipe.changed(compare=settings))

    def _open(self, menu: Choices, button: QToolButton) -> None:
        menu.open_at(button.mapToGlobal(QPoint(0, button.height() + 1)))
