"""How a file is read: what the app told from it, shown on its first rows, and changed there."""

from pathlib import Path

from msgspec import structs
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QDialog, QFrame, QPushButton, QScrollArea, QWidget

from rhabdos.app.arriving.places_ruler import PlacesRuler
from rhabdos.app.controls.dialog_layout import lay_out_beside, pause
from rhabdos.app.controls.mnemonics import give_letters
from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.controls.typed_fields import (
    be_typed_in,
    chooser,
    fault_line,
    heading,
    labelled,
    quiet,
    text_field,
)
from rhabdos.app.rows.rows_view import RowsView
from rhabdos.data.fields.places import fixed_places, words_begin
from rhabdos.data.files.formats import BOOKS, WITH_PARTS
from rhabdos.data.files.preview import Preview, preview
from rhabdos.data.steps.reading import Read
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.quoting import file_named, quoted
from rhabdos.wording import counted

_BAR = 14  # pixels for the bar that moves long lines
_PAUSE = 250  # milliseconds after typing before the rows are read so
PLACES = "places"
_SEPARATORS = (
    ("commas", ","), ("semicolons", ";"), ("tabs", "\t"), ("bars", "|"), ("blanks", " "),
    ("colons", ":"), ("carets", "^"), ("tildes", "~"), ("fixed places", PLACES),
)  # fmt: skip
_QUOTES = (('double, "', '"'), ("single, '", "'"), ("none", ""))
_DECIMALS = (("a point", "."), ("a comma", ","))
_THOUSANDS = (
    ("none, or told from them", ""), ("a comma", ","), ("a point", "."), ("a blank", " "),
    ("an apostrophe", "'"),
)  # fmt: skip
_ENCODINGS = (
    "utf-8", "windows-1252", "iso-8859-1", "iso-8859-15", "windows-1250", "windows-1251",
    "utf-16", "mac-roman", "cp437",
)  # fmt: skip


class ReadingDialog(QDialog):
    """Fields at the left, the first rows at the right; ``chosen`` is how the file shall be read."""

    def __init__(self, path: Path, how: Read | None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"How {file_named(path.name)} is read")
        self.resize(980, 560)
        self.path = path
        self.chosen: Read | None = how
        self.how = how or Read()
        """What the user says of it; all else is told from the file."""
        self.shown: Preview | None = None
        self.facts = quiet()
        self.fault = fault_line()
        self.view = RowsView()
        self.view.setAccessibleName("The first rows")
        self.ruler = PlacesRuler()
        self.ruler_area = QScrollArea()
        self.ruler_area.setWidget(self.ruler)
        self.ruler_area.setObjectName("settings")
        self.ruler_area.setFrameShape(QFrame.Shape.NoFrame)
        self.ruler_area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.ruler_told = quiet(
            "Drag the lines to where columns begin; click between letters for one more, "
            "double-click to take one away."
        )
        self.sheet, self.table_name = chooser("Sheet"), chooser("Table")
        self.cells = text_field("Cells", "", "all, or such as B3:F200")
        self.separator = _choices("Parted by", _SEPARATORS)
        self.quote = _choices("Quotes", _QUOTES)
        self.decimal = _choices("Decimal mark", _DECIMALS)
        self.thousands = _choices("Thousands mark", _THOUSANDS)
        self.encoding = chooser("Encoding")
        be_typed_in(self.encoding)
        self.encoding.addItems(_ENCODINGS)
        self.header = text_field("Names in row", "", "told from it; 0 for none")
        self.form = labelled(
            [
                ("Sheet", self.sheet),
                ("Cells", self.cells),
                ("Table", self.table_name),
                ("Parted by", self.separator),
                ("Quotes", self.quote),
                ("Decimal mark", self.decimal),
                ("Thousands", self.thousands),
                ("Encoding", self.encoding),
                ("Names in row", self.header),
            ]
        )
        self.as_told = QPushButton("As it looks")
        self.as_told.setToolTip("Forget what was chosen here, and tell all from the file again.")
        self.read_button = QPushButton("Read it so")
        self.read_button.setDefault(True)
        self.leave_button = QPushButton("Leave it")
        self._lay_out(path)
        self._pause = pause(self, _PAUSE, self._ask_typed)
        self._connect()
        self.show_preview()
        give_letters(self)

    def _connect(self) -> None:
        for box, key in (
            (self.sheet, "sheet"),
            (self.table_name, "table"),
            (self.quote, "quote"),
            (self.decimal, "decimal"),
            (self.thousands, "thousands"),
        ):
            box.activated.connect(lambda _place, key=key, box=box: self._ask(key, _value(box)))
        self.separator.activated.connect(lambda _place: self._ask_separator(_value(self.separator)))
        self.ruler.changed.connect(lambda places: self._ask("places", places))
        for field in (self.header, self.cells):
            field.textEdited.connect(lambda _text: self._pause.start())
        self.encoding.activated.connect(lambda _place: self._ask_typed())
        if edit := self.encoding.lineEdit():
            edit.textEdited.connect(lambda _text: self._pause.start())
        self.as_told.clicked.connect(self.forget)
        self.read_button.clicked.connect(self.accept_reading)
        self.leave_button.clicked.connect(self.reject)

    def _lay_out(self, path: Path) -> None:
        left = in_a_column()
        title = heading(file_named(path.name))
        title.setWordWrap(True)
        left.addWidget(title)
        left.addWidget(self.facts)
        left.addLayout(self.form)
        left.addWidget(self.fault)
        left.addStretch()
        buttons = (self.as_told, None, self.leave_button, self.read_button)
        lay_out_beside(self, left, 310, (self.view, self.ruler_told, self.ruler_area), buttons)

    # Showing

    def show_preview(self) -> None:
        """Read the first rows as it is asked now, or say why they cannot be read so."""
        try:
            self.shown = preview(self.path, self.how)
        except Refusal as refusal:
            self.fault.setText(str(refusal))
            self.fault.show()
            self.read_button.setEnabled(False)
            return
        shown = self.shown
        self.fault.hide()
        self.read_button.setEnabled(True)
        variables = counted(len(shown.columns), "variable", "variables")
        remarks = "\n".join(shown.remarks)
        self.facts.setText(
            f"It is {shown.words}: {variables}." + (f"\n{remarks}" if remarks else "")
        )
        self._show_fields(shown)
        table = Table(self.path.stem, shown.columns)
        self.view.show_table(table)

    def _show_fields(self, shown: Preview) -> None:
        text, book = shown.format == "text", shown.format in BOOKS
        base = shown.format in WITH_PARTS
        for widget, matters in (
            (self.sheet, book),
            (self.cells, book),
            (self.table_name, base),
            (self.separator, text),
            (self.quote, text and not shown.how.places),
            (self.decimal, text),
            (self.thousands, text),
            (self.encoding, text or shown.format in ("page", "dbf")),
            (self.header, text or book or shown.format == "page"),
        ):
            self.form.setRowVisible(widget, matters)
        how = shown.how
        if book or base:
            box, chosen = (self.sheet, how.sheet) if book else (self.table_name, how.table)
            box.clear()
            for part in shown.parts:
                box.addItem(part, part)
            box.setCurrentIndex(max(0, box.findData(chosen)))
        self.ruler_told.setVisible(bool(how.places))
        self.ruler_area.setVisible(bool(how.places))
        if how.places:
            self.ruler.show_lines(shown.lines, how.places)
            self.ruler_area.setFixedHeight(self.ruler.height() + _BAR)
        for box, value in (
            (self.separator, PLACES if how.places else how.separator),
            (self.quote, how.quote),
            (self.decimal, how.decimal),
            (self.thousands, how.thousands),
        ):
            index = box.findData(value)
            if index < 0 and value:
                box.addItem(value, value)
                index = box.count() - 1
            box.setCurrentIndex(max(0, index))
        if not (self.encoding.lineEdit() or self).hasFocus():
            self.encoding.setCurrentText(how.encoding or "")
        if not self.header.hasFocus():
            self.header.setText("" if how.header is None else f"{how.header}")

    # What a hand asks

    def _ask(self, key: str, value: object) -> None:
        self.how = structs.replace(self.how, **{key: value})
        self.show_preview()

    def _ask_separator(self, mark: object) -> None:
        """Part fields by a mark, or at places: those that blanks propose, which can be dragged."""
        if mark != PLACES:
            self.how = structs.replace(self.how, places=())
            self._ask("separator", mark)
            return
        lines = self.shown.lines if self.shown else ()
        self.how = structs.replace(self.how, separator=None)
        self._ask("places", fixed_places("\n".join(lines)) or words_begin(lines))

    def _ask_typed(self) -> None:
        header, cells = self.header.text().strip(), self.cells.text().strip().upper()
        encoding = self.encoding.currentText().strip()
        wrong = ""
        row = self.how.header
        if header and not (header.isdecimal() and int(header) <= 1_000):
            wrong = f"{quoted(header)} is no row: type a number from 1 to 1,000, or 0 for none."
        elif header != (f"{self.shown.how.header}" if self.shown else ""):
            row = int(header) if header else None
        if cells and not _is_range(cells):
            wrong = f"{quoted(cells)} names no cells: type such as B3:F200."
        if wrong:
            self.fault.setText(wrong)
            self.fault.show()
            return
        told = self.shown.how.encoding if self.shown else None
        self.how = structs.replace(
            self.how,
            header=row,
            range=cells or None,
            encoding=self.how.encoding if encoding in ("", told) else encoding,
        )
        self.show_preview()

    def forget(self) -> None:
        """Tell all from the file again."""
        self.how = Read()
        self.cells.clear()
        self.show_preview()

    def accept_reading(self) -> None:
        """Read it so."""
        if self._pause.isActive():
            self._pause.stop()
            self._ask_typed()
        if self.read_button.isEnabled() and not self.fault.isVisible():
            self.chosen = self.how if self.how != Read() else None
            self.accept()


def _choices(name: str, choices: tuple[tuple[str, str], ...]) -> QComboBox:
    box = chooser(name)
    for words, value in choices:
        box.addItem(words, value)
    return box


def _value(box: QComboBox) -> object:
    return box.currentData(Qt.ItemDataRole.UserRole)


def _is_range(cells: str) -> bool:
    import re

    from rhabdos.data.steps.reading import RANGE

    return re.fullmatch(RANGE, cells) is not None
