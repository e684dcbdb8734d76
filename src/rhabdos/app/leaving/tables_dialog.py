"""The tables of a figure: to look at, to copy as cells, and to save."""

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from PyQt6.QtCore import QMimeData, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QCheckBox,
    QDialog,
    QFileDialog,
    QPushButton,
    QTabBar,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from rhabdos.app.controls.mnemonics import give_letters
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.typed_fields import fault_line, quiet
from rhabdos.app.leaving.saving_over import refuse_over
from rhabdos.app.session.session import Session
from rhabdos.errors import Refusal
from rhabdos.figure.output.tables import NumberTable, as_html, as_tabs, written_for
from rhabdos.project.files import write_whole
from rhabdos.quoting import file_named, printable, quoted

_MOST_SHOWN = 2_000  # rows; a file gets all
_FILES = "Tables (*.csv *.md *.html)"


class TablesDialog(QDialog):
    """Summary, bins, boxes and comparisons, one at a time.

    Parameters
    ----------
    offered : mapping of str to callable
        What makes each table, by its name; it may refuse to.
    folder : Path
        Where a file goes if nothing else is chosen.
    name : str
        Of the figure, for such a file.
    not_over : sequence of Path
        What may not be written over.
    """

    told = pyqtSignal(str)
    saved = pyqtSignal(Path)

    def __init__(
        self,
        offered: Mapping[str, Callable[[], NumberTable]],
        folder: Path,
        name: str,
        parent: QWidget,
        not_over: Sequence[Path] = (),
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Tables of the figure")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)  # Qt only hides what is closed
        self.resize(780, 420)
        self._offered, self._folder, self._name = offered, folder, name
        self._not_over = tuple(not_over)
        self._made: dict[str, NumberTable] = {}
        self.tabs = QTabBar()
        self.tabs.setDrawBase(False)
        self.tabs.setExpanding(False)
        for title in self._offered:
            self.tabs.addTab(title)
        self.tabs.currentChanged.connect(lambda _at: self._show())
        self.table = QTableWidget()
        self.table.setAccessibleName("The table")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        if (header := self.table.verticalHeader()) is not None:  # without rows it is false
            header.setVisible(False)
        self.all_digits = QCheckBox("All digits")
        self.all_digits.setToolTip("Otherwise numbers are shown, copied and saved rounded")
        self.all_digits.toggled.connect(lambda _on: self._show())
        self.guard = QCheckBox("An apostrophe before them")
        self.guard.setToolTip("So that a spreadsheet shows them as texts, and runs nothing")
        self.guard.setChecked(True)
        self.formulas = quiet()
        self.fault = fault_line()
        self.copy_button = QPushButton("Copy")
        self.copy_button.setDefault(True)
        self.copy_button.clicked.connect(self.copy)
        self.save_button = QPushButton("Save …")
        self.save_button.clicked.connect(self.save)
        close = QPushButton("Close")
        close.clicked.connect(self.close)
        buttons = in_a_row(self.all_digits, None, self.copy_button, self.save_button, close)
        layout = in_a_column(self.tabs, (self.table, 1), around=(16, 12, 16, 12), of=self)
        guarding = in_a_row((self.formulas, 1), self.guard)
        layout.addLayout(guarding)
        layout.addWidget(self.fault)
        layout.addLayout(buttons)
        self._show()
        give_letters(self)

    @property
    def shown(self) -> NumberTable | None:
        """The table in sight; None where it cannot be made, which is told."""
        title = self.tabs.tabText(self.tabs.currentIndex())
        if title not in self._made:
            try:
                self._made[title] = self._offered[title]()
            except Refusal as refusal:
                self._say(str(refusal))
                return None
        table = self._made[title]
        return table if self.all_digits.isChecked() else table.rounded()

    def _show(self) -> None:
        self._say("")
        table = self.shown
        formulas = table.formulas if table else ()
        for widget in (self.guard, self.formulas):
            widget.setVisible(bool(formulas))
        if formulas:
            begin = "1 text begins" if len(formulas) == 1 else f"{len(formulas):,} texts begin"
            self.formulas.setText(
                f"{begin} as formulas do, such as {quoted(formulas[0], 24)}: a spreadsheet would "
                "run them."
            )
        rows = table.texts[:_MOST_SHOWN] if table else ()
        self.table.setRowCount(len(rows))
        self.table.setColumnCount(len(table.columns) if table else 0)
        if table is None:
            return
        self.table.setHorizontalHeaderLabels([printable(name) for name in table.columns])
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for row, cells in enumerate(rows):
            for column, cell in enumerate(cells):
                item = QTableWidgetItem(printable(cell or "–"))
                if not isinstance(table.rows[row][column], str):
                    item.setTextAlignment(right)
                self.table.setItem(row, column, item)
        self.table.resizeColumnsToContents()
        if len(table.rows) > _MOST_SHOWN:
            self._say(
                f"The first {_MOST_SHOWN:,} of {len(table.rows):,} rows are shown; all are copied "
                "and saved."
            )

    def _for_spreadsheets(self, table: NumberTable) -> NumberTable:
        return table.guarded() if self.guard.isChecked() else table

    def copy(self) -> None:
        """Put the table on the clipboard, as cells and as HTML, with the digits that are shown."""
        table, clipboard = self.shown, QApplication.clipboard()
        if table is None or clipboard is None:
            return
        cells = self._for_spreadsheets(table)
        content = QMimeData()
        content.setText(as_tabs(cells))
        content.setHtml(as_html(cells))
        clipboard.setMimeData(content)
        self.told.emit(f"{table.title.partition(',')[0]} copied: {len(table.rows):,} rows.")

    def save(self) -> None:
        """Ask where to save the table, and save it."""
        title = self.tabs.tabText(self.tabs.currentIndex()).lower()
        suggestion = self._folder / f"{self._name}-{title}.csv"
        path, _ = QFileDialog.getSaveFileName(self, "Save table", str(suggestion), _FILES)
        if path:
            self.save_to(Path(path))

    def save_to(self, path: Path) -> None:
        """Save the table in sight; the ending tells the format."""
        table = self.shown
        if table is None:
            return
        try:
            cells = table if path.suffix.lower() == ".md" else self._for_spreadsheets(table)
            refuse_over([path], self._not_over)
            write_whole(path, written_for(path, cells))
        except Refusal as refusal:
            self._say(str(refusal))
            return
        self._folder = path.parent
        self.saved.emit(path)
        self._say("")
        self.told.emit(f"Table written to {file_named(path)}.")

    def _say(self, sentence: str) -> None:
        self.fault.setText(sentence)
        self.fault.setVisible(bool(sentence))


def offered_tables(session: Session) -> dict[str, Callable[[], NumberTable]]:
    """The tables of the figure or the chart that is shown."""
    from rhabdos.figure.output.chart_numbers import chart_tables
    from rhabdos.figure.output.tables import tables_of

    if session.document.chart is not None and session.table is not None:
        return chart_tables(session.document.chart, session.table)
    return tables_of(session.readings) if session.readings else {}
