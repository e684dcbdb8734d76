"""The place of overview: every variable's first look on one page."""

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QLabel, QLineEdit, QStackedWidget, QWidget

from rhabdos.app.controls.marked import dressed_as, mark
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.theme import growing
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.app.variables.cards import GAP, Cards
from rhabdos.app.variables.silhouettes import Silhouettes
from rhabdos.data.problems.problems import problems_in, problems_of
from rhabdos.data.table import Table
from rhabdos.lazy import lazy
from rhabdos.wording import counted

if TYPE_CHECKING:
    from rhabdos.app.variables.numbers_list import NumbersList


class Overview(QWidget):
    """A field to find variables, what looks wrong at all, and a card a variable; or a list of their
    numbers.

    Signals
    -------
    opened : a variable's name, to be drawn.
    rows_asked : a variable's name, whose facts shall be put right.
    opened_along : a variable's name and a kind of axis, to be drawn along that.
    """

    opened = pyqtSignal(object)
    rows_asked = pyqtSignal(object)
    opened_along = pyqtSignal(object, str)

    def __init__(self, silhouettes: Silhouettes, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.cards = Cards(silhouettes)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a variable")
        self.search.setAccessibleName("Find a variable")
        self.search.setClearButtonEnabled(True)
        growing(QWidget.setFixedWidth, self.search, 240)
        self.summary = QLabel()
        self.summary.setObjectName("quiet")
        self.summary.setTextFormat(Qt.TextFormat.PlainText)
        self.summary.setWordWrap(True)
        head = QWidget()
        dressed_as(head, "variables")
        self.faces = QStackedWidget()
        self.faces.addWidget(self.cards)
        self.pictures = word_button("Pictures", partial(self.show_face, numbers=False), "part")
        self.numbers = word_button("Numbers", partial(self.show_face, numbers=True), "part")
        faces = in_a_row(self.pictures, self.numbers, gap=4)
        in_a_row(self.search, (self.summary, 1), faces, around=(GAP, 8, GAP, 8), gap=16, of=head)
        in_a_column(head, (self.faces, 1), gap=0, of=self)
        self._table: Table | None = None
        self.search.textEdited.connect(self._filter)
        self.search.returnPressed.connect(self.take_keys)
        self.cards.opened.connect(self.opened)
        self.cards.opened_along.connect(self.opened_along)
        self.cards.rows_asked.connect(self.rows_asked)
        silhouettes.ready.connect(self._tell)
        self.show_face(numbers=False)

    @lazy
    def list(self) -> "NumbersList":
        """The numbers of every variable."""
        from rhabdos.app.variables.numbers_list import NumbersList

        numbers = NumbersList()
        numbers.opened.connect(self.opened)
        framed = QWidget()
        in_a_column((numbers, 1), around=(GAP, 0, GAP, GAP), of=framed)
        self.faces.addWidget(framed)
        return numbers

    def show_face(self, numbers: bool) -> None:
        """Show the numbers of every variable, or its picture."""
        mark(self.numbers, "chosen", numbers)
        mark(self.pictures, "chosen", not numbers)
        if numbers:
            self.list.show_columns(self.cards.columns)
        self.faces.setCurrentIndex(1 if numbers else 0)

    def take_keys(self) -> None:
        """Give the keys to the face in sight."""
        (self.list if self.faces.currentIndex() else self.cards).setFocus()

    def show_table(self, table: Table | None, shown: set[str]) -> None:
        """Show the variables of a table; those in the figure are marked."""
        self.cards.marked = shown
        if table is not self._table:
            self._table = table
            if (numbers := Overview.list.made(self)) is not None:
                numbers.forget()
            self._filter(self.search.text())
        self.cards.touch()
        self._tell()

    def _filter(self, sought: str) -> None:
        columns = self._table.columns if self._table else ()
        word = sought.casefold()
        self.cards.show_columns([c for c in columns if word in f"{c.label}\n{c.name}".casefold()])
        if (numbers := Overview.list.made(self)) is not None:
            numbers.show_columns(self.cards.columns)
        self._tell()

    def _tell(self) -> None:
        table = self._table
        self.cards.problems_of = partial(problems_in, table) if table else problems_of
        if table is None:
            self.summary.setText("")
            return
        known = [column for column in table.columns if self.cards.looked_at(column)]
        odd = sum(bool(problems_in(table, column)) for column in known)
        words = f"{table.size}, {len(table.columns):,} variables"
        if table.far is not None:
            words += f" · what is shown is of {table.rows:,} rows looked at"
        if odd:
            words += f" · something looks wrong with {counted(odd, 'of them', 'of them')}"
        if not self.cards.columns:
            words = "No variable has that in its name."
        self.summary.setText(words)
