"""Under the figure: the summary of each group in its colour, and the notices."""

import itertools
from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTableView,
    QWidget,
)

from rhabdos.app.controls.choices import Choices
from rhabdos.app.controls.mnemonics import as_written
from rhabdos.app.controls.rows_and_columns import Part, in_a_column, in_a_row
from rhabdos.app.controls.theme import sized
from rhabdos.app.controls.typed_fields import plain_tip
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.app.panels.levels_list import swatch_of
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.words.notice import Notice
from rhabdos.scene.style.look import colours_of
from rhabdos.stats.quantiles import IN_WORDS
from rhabdos.stats.summary import TRIMMED
from rhabdos.wording import finer, places_for, rounded

_MEASURES = ("mean", "sd", "min", "q1", "median", "q3", "max", "iqr")
_APART = ("sd", "iqr")
_TITLES = ("n", "missing", "mean", "sd", "min", "Q1", "median", "Q3", "max", "IQR")
_ROW = 23  # pixels
_MOST_CURES = 4  # of one notice that stand beside it
_LIST_WIDE = 460  # pixels of the words in the list of notices
_BESIDE_A_NOTICE = 420  # pixels of what stands beside a notice


class _Model(QAbstractTableModel):
    """One row a group: n, missing and the summary."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._readings: Readings | None = None
        self._rows: list[list[str]] = []
        self._colours: tuple[str, ...] = ()

    def show_readings(self, readings: Readings | None) -> None:
        """Show another figure's summary."""
        before = self._readings
        if (
            readings
            and before
            and readings.summaries is before.summaries
            and readings.samples is before.samples
            and readings.recipe.groups == before.recipe.groups
        ):
            self._readings = readings  # other bins do not change a summary
            self._show_colours(colours_of(readings))
            return
        self.beginResetModel()
        self._readings = readings
        self._colours = colours_of(readings) if readings else ()
        self._rows = _rows(readings) if readings else []
        self.endResetModel()

    def _show_colours(self, colours: tuple[str, ...]) -> None:
        if colours != self._colours:
            self._colours = colours
            last = self.index(len(self._rows) - 1, 0)
            self.dataChanged.emit(self.index(0, 0), last, [Qt.ItemDataRole.DecorationRole])

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent and parent.isValid() else len(self._rows)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent and parent.isValid() else len(_TITLES) + 1

    def headerData(
        self, section: int, way: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        if way != Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _side(section)
        if role == Qt.ItemDataRole.DisplayRole:
            if section:
                return _TITLES[section - 1]
            return (self._readings.divided or "") if self._readings else ""
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """The text of a cell, its side, its swatch and its tip."""
        if role == Qt.ItemDataRole.DisplayRole:
            return self._rows[index.row()][index.column()]
        if role == Qt.ItemDataRole.ToolTipRole and self._readings:
            return plain_tip(_more(self._readings, index.row()))
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _side(index.column())
        if role == Qt.ItemDataRole.DecorationRole and index.column() == 0:
            return swatch_of(self._colours[index.row()]) if self._colours else None
        return None


def _side(column: int) -> Qt.AlignmentFlag:
    return (
        Qt.AlignmentFlag.AlignLeft if column == 0 else Qt.AlignmentFlag.AlignRight
    ) | Qt.AlignmentFlag.AlignVCenter


def _rows(readings: Readings) -> list[list[str]]:
    rows = []
    places = [_places(readings, axis) for axis in range(readings.plan.axes)]
    for group, summary in zip(readings.groups, readings.summaries, strict=True):
        decimals = places[group.axis]
        numbers = [
            (
                group.variable.format_rounded_difference
                if name in _APART
                else group.variable.rounded
            )(getattr(summary, name), decimals)
            for name in _MEASURES
        ]
        rows.append([group.label, f"{group.n:,}", f"{group.missing:,}", *numbers])
    return rows


def _more(readings: Readings, row: int) -> str:
    """The numbers of a group that the table has no room for."""
    summary = readings.summaries[row]
    places = _places(readings, readings.groups[row].axis)
    more = finer(places)
    lines = [
        readings.groups[row].label,
        f"standard error of the mean: {rounded(summary.se, more)}",
        f"variance: {rounded(summary.variance, more)}",
        f"sd as a share of the mean: {rounded(100 * summary.cv, 1)} %",
        f"skewness: {rounded(summary.skewness, 2)}, excess kurtosis: "
        f"{rounded(summary.kurtosis, 2)}",
        f"median distance from the median: {rounded(summary.mad, more)}",
        f"mean without the outer {100 * TRIMMED:.0f} % at either end: "
        f"{rounded(summary.trimmed_mean, places)}",
    ]
    return "\n".join(lines)


def _places(readings: Readings, axis: int) -> int | None:
    """The same number of decimals for all groups on a value axis, so that columns line up."""
    both = zip(readings.groups, readings.summaries, strict=True)
    filled = [summary for group, summary in both if summary.n and group.axis == axis]
    spread = max((s.sd for s in filled if s.sd == s.sd), default=0.0)
    reach = max((max(abs(s.min), abs(s.max)) for s in filled), default=0.0)
    return places_for(spread, reach)


def _begun(words: str) -> str:
    """Words with which a button begins."""
    return words[:1].upper() + words[1:]


def _cure_button(words: str = "") -> QPushButton:
    button = QPushButton(as_written(_begun(words)))
    button.setObjectName("cure")
    return button


class NoticeList(QFrame):
    """All notices at once, whole, the gravest first, each with its cure."""

    cured = pyqtSignal(int, int)

    def __init__(self, notices: Sequence[Notice], parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("notice")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setAccessibleName("All notices")
        rows: list[Part] = []
        self.cures: dict[tuple[int, int], QPushButton] = {}
        for index, notice in enumerate(notices):
            text = QLabel(notice.text)
            text.setObjectName("noticeText")
            text.setTextFormat(Qt.TextFormat.PlainText)
            text.setWordWrap(True)
            text.setMinimumWidth(_LIST_WIDE)
            rows.append(text)
            offered = []
            for place, (words, _) in enumerate(notice.offers):
                button = _cure_button(words)
                button.clicked.connect(partial(self._cure, index, place))
                self.cures[index, place] = button
                offered.append(button)
            if offered:
                rows.append(in_a_row(*offered, None))
            rows.append(4)
        in_a_column(*rows[:-1], around=(12, 9, 12, 9), gap=2, of=self)

    def _cure(self, index: int, place: int, _checked: bool) -> None:
        self.close()
        self.cured.emit(index, place)

    def open_over(self, widget: QWidget) -> None:
        """Open with the lower right corner at a widget's upper right one, within the window."""
        self.adjustSize()
        corner = widget.mapToGlobal(QPoint(widget.width() - self.width(), -self.height() - 2))
        self.move(max(corner.x(), 0), max(corner.y(), 0))
        self.show()
        if self.cures:
            next(iter(self.cures.values())).setFocus()


class NoticeStrip(QWidget):
    """One notice at a time, with its cure; all of them one click away."""

    cured = pyqtSignal(str, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("notice")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.text = QLabel()
        self.text.setObjectName("noticeText")
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        self.cures = [_cure_button() for _ in range(_MOST_CURES)]
        self.more = _cure_button()
        in_a_row(self.text, *self.cures, self.more, around=(9, 2, 7, 2), gap=8, of=self)
        self._notices: tuple[Notice, ...] = ()
        self._at = 0
        for place, button in enumerate(self.cures):
            button.clicked.connect(partial(self._cure, place))
        self.more.clicked.connect(self._list)
        self.hide()

    def show_notices(self, notices: tuple[Notice, ...]) -> None:
        """Show notices, beginning with the gravest; with what has just come up, where that is as
        grave."""
        known = {notice.code for notice in self._notices}
        fresh = [index for index, notice in enumerate(notices) if notice.code not in known]
        if fresh and notices[fresh[0]].weight <= min(notice.weight for notice in notices):
            self._at = fresh[0]  # what has just come up is what the user has just done
        elif fresh or len(notices) != len(self._notices):
            self._at = 0
        self._notices = notices
        self._show()

    def _show(self) -> None:
        self.setVisible(bool(self._notices))
        if not self._notices:
            return
        notice = self._notices[self._at]
        self.text.setText(notice.text)
        self.text.setToolTip(plain_tip(notice.text))
        words = [words for words, _ in notice.offers]
        for button, said in itertools.zip_longest(self.cures, words[: len(self.cures)]):
            button.setText(as_written(_begun(said or "")))
            button.setVisible(said is not None)
        self.more.setText(f"All {len(self._notices)}")
        self.more.setAccessibleName("All notices")
        self.more.setVisible(len(self._notices) > 1)

    @property
    def cure(self) -> QPushButton:
        """The button of the cure that suits best."""
        return self.cures[0]

    def _cure(self, place: int, _checked: bool) -> None:
        self._take(self._at, place)

    def _take(self, index: int, place: int) -> None:
        words, cure = self._notices[index].offers[place]
        self.cured.emit(_begun(words), cure)

    def _list(self) -> None:
        self.listed = NoticeList(self._notices, self)
        self.listed.cured.connect(self._take)
        self.listed.open_over(self)


class SummaryPanel(QWidget):
    """The summary table and the notices; asks for other quartiles."""

    tables_asked = pyqtSignal()
    recipe_asked = pyqtSignal(str, Recipe)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("readings")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        title = QLabel("Summary")
        title.setObjectName("strong")
        self.notices = NoticeStrip()
        self.quartiles = word_button("", self._offer_quartiles)
        self.tables = word_button("Tables …", self.tables_asked.emit)
        self.tables.setToolTip("Summary, bins, boxes and comparisons, to copy or to save")
        self._recipe: Recipe | None = None
        self._head = head = QHBoxLayout()
        head.setContentsMargins(16, 5, 14, 2)
        head.setSpacing(24)
        head.addWidget(title)
        head.addWidget(self.quartiles)
        head.addWidget(self.tables)
        head.addStretch(1)
        head.addWidget(self.notices)
        self.table = QTableView()
        self.table.setAccessibleName("Summary of each group")
        self._model = _Model(self)
        self.table.setModel(self._model)
        self.table.setShowGrid(False)
        self.table.setSelectionBehavior(QTableView.SelectionBehavior.SelectRows)
        self.table.setEditTriggers(QTableView.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        self.table.setTextElideMode(Qt.TextElideMode.ElideMiddle)  # long names end differently
        if (rows := self.table.verticalHeader()) is not None:
            rows.hide()
            rows.setDefaultSectionSize(sized(_ROW))
        if (columns := self.table.horizontalHeader()) is not None:
            columns.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
            columns.setHighlightSections(False)
            columns.setMinimumSectionSize(54)
        layout = in_a_column(head, around=(0, 0, 0, 4), gap=0, of=self)
        framed = in_a_row(self.table, around=(13, 0, 13, 0))
        layout.addLayout(framed, 1)

    def show_readings(self, readings: Readings | None, notices: tuple[Notice, ...]) -> None:
        """Show the summary and the notices of a figure."""
        self.show_numbers(readings)
        self.notices.show_notices(notices)
        self._break_notice()

    def show_numbers(self, readings: Readings | None) -> None:
        """Show the summary of a figure, and leave the notices as they are."""
        self._model.show_readings(readings)
        self.table.setVisible(readings is not None)
        self.quartiles.setVisible(readings is not None)
        self.tables.setVisible(readings is not None)
        self._recipe = readings.recipe if readings else None
        if readings:
            rule = readings.recipe.box.quartiles
            self.quartiles.setText(
                "Quartiles: Tukey’s hinges" if rule == "hinges" else f"Quartiles: definition {rule}"
            )
            self.quartiles.setToolTip(IN_WORDS[rule])

    def _break_notice(self) -> None:
        """Let the text of a notice break where it would be cut at the edge."""
        strip = self.notices
        others = sum(b.sizeHint().width() + 8 for b in (*strip.cures, strip.more) if b.isVisible())
        wide = strip.text.fontMetrics().horizontalAdvance(strip.text.text()) + others
        narrow = wide > self.width() - sized(_BESIDE_A_NOTICE)
        strip.text.setWordWrap(narrow)
        self._head.setStretchFactor(strip, 30 if narrow else 0)

    def _offer_quartiles(self) -> None:
        """The definitions in plain words, as a menu."""
        recipe = self._recipe
        if recipe is None:
            return
        menu = Choices(self)
        for rule, words in IN_WORDS.items():
            other = recipe.changed(box=recipe.box.changed(quartiles=rule))
            name = "Quartiles by hinges" if rule == "hinges" else f"Quartiles by definition {rule}"
            text = words if rule == "hinges" else f"{rule}   {words}"
            menu.offer(
                text, partial(self.recipe_asked.emit, name, other), rule == recipe.box.quartiles
            )
        menu.open_at(self.quartiles.mapToGlobal(QPoint(0, self.quartiles.height() + 1)))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._break_notice()
        if (columns := self.table.horizontalHeader()) is not None and columns.count():
            # Names want more room than numbers do.
            columns.setSectionResizeMode(0, QHeaderView.ResizeMode.Fixed)
            columns.resizeSection(0, min(280, max(150, self.width() // 6)))
