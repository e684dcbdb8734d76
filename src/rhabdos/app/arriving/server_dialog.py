"""Data at a server: where it is, what is there, and a look at the first rows."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from msgspec import structs
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHeaderView,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QSizePolicy,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from rhabdos.app.controls.dialog_layout import lay_out_beside
from rhabdos.app.controls.mnemonics import give_letters
from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.controls.theme import sized
from rhabdos.app.controls.typed_fields import (
    chooser,
    fault_line,
    heading,
    labelled,
    quiet,
    text_field,
)
from rhabdos.app.session.tasks import Task
from rhabdos.data.cells import cell_reader
from rhabdos.data.far.place import Place, PlaceError, is_address, place_of
from rhabdos.data.reporting import Report
from rhabdos.data.steps.asking import Ask
from rhabdos.wording import counted

if TYPE_CHECKING:
    from rhabdos.data.far.connection import Connection
    from rhabdos.data.table import Table

_FIRST_ROWS = 30  # that are shown of a table before it is chosen
_QUERY_HIGH, _TABLES_HIGH = 64, 84  # pixels


class ServerDialog(QDialog):
    """An address, the tables there with a search, and the first rows of the one that is chosen.

    Nothing of it is asked on the interface thread, and a password stays in memory only.

    Signals
    -------
    chosen : an Ask, the step that rows begin with.
    """

    chosen = pyqtSignal(object)

    def __init__(self, step: Ask | None = None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Data at a server")
        self.resize(1000, 640)
        self._connection: Connection | None = None
        self._place: Place | None = None
        self._names: list[tuple[str, str, int]] = []
        self._task: Task | None = None
        place = step.place if step else None
        self.engine = chooser("Kind", (("PostgreSQL", "postgresql"), ("Spark", "spark")))
        self.where = text_field("Service or host", _where(place), "oysters, or data.example.org")
        self.port = text_field("Port", str(place.port) if place and place.port else "", "usual")
        self.database = text_field("Database", place.database if place else "")
        self.user = text_field("User", place.user if place else "")
        self.password = text_field("Password", "", "from your password file")
        self.password.setEchoMode(QLineEdit.EchoMode.Password)
        self.reach = QPushButton("Look what is there")
        self.search = text_field("Find a table", "", "Find a table")
        self.tables = QListWidget()
        self.tables.setAccessibleName("Tables and views")
        self.tables.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.tables.setTextElideMode(Qt.TextElideMode.ElideMiddle)
        self.tables.setMinimumHeight(sized(_TABLES_HIGH))
        # It takes what room there is, so that all fields stand without scrolling where they can.
        self.tables.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Ignored)
        self.query = QPlainTextEdit(step.query if step else "")
        self.query.setAccessibleName("Or a query of your own")
        self.query.setPlaceholderText("SELECT … FROM …")
        self.query.setFixedHeight(sized(_QUERY_HIGH))
        self.query.setTabChangesFocus(True)
        self.look = QPushButton("Look at what it gives")
        self.rows = QTableWidget()
        self.rows.setAccessibleName("The first rows")
        self.rows.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.told, self.fault = quiet(), fault_line()
        self.done_button = QPushButton("Draw them")
        self.leave_button = QPushButton("Leave it")
        self._lay_out()
        self._connect()
        give_letters(self)
        self._say("Type a service of your service file, or where the server is.")
        self._show_ready()

    def _lay_out(self) -> None:
        fields = labelled(
            [
                ("Kind", self.engine),
                ("Service or host", self.where),
                ("Port", self.port),
                ("Database", self.database),
                ("User", self.user),
                ("Password", self.password),
            ]
        )
        left = in_a_column(
            heading("Data at a server"),
            quiet("They stay there: figures ask for counts only, and nothing is ever changed."),
            fields,
            self.reach,
            self.search,
            (self.tables, 1),
            quiet("Or a query of your own:"),
            self.query,
            self.look,
        )
        shown = (self.rows, self.told, self.fault)
        lay_out_beside(self, left, 330, shown, (None, self.leave_button, self.done_button))

    def _connect(self) -> None:
        self.reach.clicked.connect(self.look_around)
        self.look.clicked.connect(self.look_at_rows)
        self.search.textChanged.connect(lambda _text: self._list())
        self.tables.itemSelectionChanged.connect(self._picked)
        self.query.textChanged.connect(self._show_ready)
        self.engine.currentIndexChanged.connect(lambda _at: self._show_ready())
        for field in self._of_server:
            field.textChanged.connect(lambda _text: self._forget())
        self.done_button.clicked.connect(self._take)
        self.leave_button.clicked.connect(self.reject)

    @property
    def _of_server(self) -> tuple[QLineEdit, ...]:
        """The fields that say where the server is."""
        return self.where, self.port, self.database, self.user, self.password

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Return looks what is there, or takes the first table that is sought, and does not press
        the default button besides."""
        returned = event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if returned and self.focusWidget() in self._of_server:
            self.look_around()
        elif returned and self.focusWidget() is self.search:
            self.tables.setCurrentRow(0)
        else:
            super().keyPressEvent(event)

    # What is typed

    def place(self) -> Place:
        """Where the fields point, with what is chosen there.

        Raises
        ------
        PlaceError
            They say no address.
        """
        typed = self.where.text().strip()
        item = self.tables.currentItem()
        schema, table = item.data(Qt.ItemDataRole.UserRole) if item else ("", "")
        query = self.query.toPlainText().strip()
        if is_address(typed):
            place, password = place_of(typed, query)
            if password:
                self.password.setText(password)
            return (
                place if query or not table else structs.replace(place, schema=schema, table=table)
            )
        if not typed:
            raise PlaceError("Type a service, or the host of the server.")
        port = self.port.text().strip()
        if port and not (port.isdecimal() and 0 < int(port) < 65_536):
            raise PlaceError("A port is a whole number from 1 to 65535. Leave it empty if unsure.")
        engine = self.engine.currentData()
        what = {"query": query} if query else {"schema": schema, "table": table}
        service = engine == "postgresql" and not (
            "." in typed or ":" in typed or port or self.database.text().strip()
            or typed == "localhost"
        )  # fmt: skip
        if service:
            place_of(f"service:{typed}")
            return Place("postgresql", service=typed, **what)
        return Place(
            engine,
            typed,
            int(port or 0),
            self.database.text().strip(),
            self.user.text().strip(),
            **what,
        )

    def step(self) -> Ask | None:
        """The step that rows begin with; None where nothing is chosen."""
        try:
            place = self.place()
            return Ask(server=place.text, query=place.query)
        except (PlaceError, ValueError):
            return None

    # What is asked

    def look_around(self) -> None:
        """List the tables there."""

        def work(_report: Report) -> tuple["Connection", list[tuple[str, str, int]]]:
            """Connect, and ask for tables."""
            from rhabdos.data.far.reaching import connection_to, remember_password

            if password:
                remember_password(place, password)
            connection = connection_to(place)
            return connection, connection.tables()

        def done(result: "tuple[Connection, list[tuple[str, str, int]]]") -> None:
            """Show them."""
            self._connection, names = result
            self.show_tables(names)

        try:
            place = structs.replace(self.place(), schema="", table="", query="")
        except PlaceError as error:
            self.fault.setText(str(error))
            return
        password = self.password.text()
        self._run(f"Reaching {place.server} …", work, done)

    def look_at_rows(self) -> None:
        """Show the first rows of what is chosen, how many there are, and what a count takes."""
        step = self.step()
        if step is None:
            self.fault.setText("Choose a table, or write a query.")
            return

        def work(_report: Report) -> "Table":
            """Look at it."""
            return step.table()

        if self.password.text():
            from rhabdos.data.far.reaching import remember_password

            remember_password(step.place, self.password.text())
        self._run(f"Looking at {step.place.name} …", work, self.show_rows)

    def _run(
        self, words: str, work: Callable[[Report], object], done: Callable[[Any], None]
    ) -> None:
        if self._task is not None:
            self._task.cancel()
        self._say(words)
        task = Task(work, self)
        self._task = task
        task.succeeded.connect(done)
        task.refused.connect(self._refused)
        task.begin()

    def _refused(self, sentence: str) -> None:
        self.told.setText("")
        self.fault.setText(sentence)

    # What is shown

    def show_tables(self, names: list[tuple[str, str, int]]) -> None:
        """List tables by schema and name, with about how many rows each has."""
        self._names = names
        self._list()
        many = counted(len(names), "table or view", "tables and views")
        self._say(f"{many} may be read there. Choose one, or write a query.")

    def _say(self, words: str) -> None:
        self.fault.setText("")
        self.told.setText(words)

    def _list(self) -> None:
        sought = self.search.text().strip().casefold()
        self.tables.clear()
        for schema, table, rows in self._names:
            name = f"{schema}.{table}"
            if sought in name.casefold():
                about = f"   about {counted(rows, 'row', 'rows')}" if rows else ""
                item = QListWidgetItem(f"{name}{about}")
                item.setToolTip(item.text())
                item.setData(Qt.ItemDataRole.UserRole, (schema, table))
                self.tables.addItem(item)
        self._show_ready()

    def _picked(self) -> None:
        if self.tables.currentItem() is not None and self.query.toPlainText().strip():
            self._say("The query is taken. Empty it to take a table.")
            return
        self._show_ready()
        if self.tables.currentItem() is not None:
            self.look_at_rows()

    def _forget(self) -> None:
        if self._names:
            self._names = []
            self._list()

    def _show_ready(self) -> None:
        ready = self.step() is not None
        self.look.setEnabled(ready)
        self.done_button.setEnabled(ready)
        self.done_button.setDefault(ready)

    def show_rows(self, table: "Table") -> None:
        """Show the first rows of a table, and how many there are."""
        columns = table.columns[:60]
        rows = min(_FIRST_ROWS, table.rows)
        self.rows.setColumnCount(len(columns))
        self.rows.setRowCount(rows)
        self.rows.setHorizontalHeaderLabels([column.name for column in columns])
        for at, column in enumerate(columns):
            read = cell_reader(column)
            for row in range(rows):
                self.rows.setItem(row, at, QTableWidgetItem(read(row).text))
        if header := self.rows.horizontalHeader():
            header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        size = f"{table.size[:1].upper()}{table.size[1:]}"
        cost = f": {table.far.cost}" if table.far is not None and table.far.cost else ""
        self._say(f"{size}. A figure goes through all of them once, at the server{cost}.")

    def _take(self) -> None:
        step = self.step()
        if step is None:
            return
        if self.password.text():
            from rhabdos.data.far.reaching import remember_password

            remember_password(step.place, self.password.text())
        self.chosen.emit(step)
        self.accept()


def _where(place: Place | None) -> str:
    return (place.service or place.host) if place else ""
