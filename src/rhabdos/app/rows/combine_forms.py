"""The forms that bring other rows in: joining, stacking, gathering."""

from pathlib import Path

from PyQt6.QtWidgets import QComboBox, QFileDialog, QPushButton

from rhabdos.app.controls.plain_texts import as_written
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.tick_list import TickList
from rhabdos.app.controls.typed_fields import chooser, labelled, quiet, text_field
from rhabdos.app.controls.variable_list import chosen_variable, variable_chooser
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.app.rows.step_form import StepForm, numbers_of
from rhabdos.app.session.preparing import Foreseen
from rhabdos.data.files.formats import ENDINGS
from rhabdos.data.steps.joining import Join, Key, Matching, matching
from rhabdos.data.steps.stacking import Gather, Stack
from rhabdos.data.steps.step import StepError
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.phrases.shown import families
from rhabdos.quoting import file_named, printable
from rhabdos.wording import counted

_FILES = f"Data ({' '.join(f'*.{ending}' for ending in ENDINGS)});;All files (*)"
_KEEPS = (
    ("this", "all rows of this table"),
    ("matched", "only rows that match"),
    ("both", "all rows of both tables"),
)
_LISTED = 8  # names in a foresight


def ask_for_files(form: StepForm, title: str, several: bool) -> list[str]:
    """Ask which files to bring in; beside the present one to begin with."""
    source = form.session.document.source
    folder = str(source.path.parent) if source and source.path else str(Path.home())
    if several:
        return QFileDialog.getOpenFileNames(form, title, folder, _FILES)[0]
    path = QFileDialog.getOpenFileName(form, title, folder, _FILES)[0]
    return [path] if path else []


class JoinForm(StepForm):
    """The other table, the keys, which rows stay; how many match and which do not."""

    title, deed = "Join a table", "Join it"

    def fill(self, former: Join | None, _variable: str, _wish: str | None, /) -> None:
        """Make the fields."""
        self.file = former.file if former else ""
        self._read = former.read if former else None
        self.other: Table | None = None
        self.match: Matching | None = None
        self.choose_button = QPushButton("Choose the other table …")
        self.choose_button.clicked.connect(self._ask)
        self.keep = chooser(
            "Which rows stay", ((f"Keep {words}", value) for value, words in _KEEPS)
        )
        self.keys: list[tuple[QComboBox, QComboBox]] = []
        self._keys = in_a_column(gap=5)
        self.more = word_button("+ Another key", lambda: self._add_key("", ""), "add")
        self.less = word_button("− Without the last key", self._take_key_away, "add")
        self.lone = quiet()
        self.body.addWidget(self.choose_button)
        self.body.addLayout(self._keys)
        self.body.addWidget(self.more)
        self.body.addWidget(self.less)
        self.body.addWidget(self.keep)
        self.column.insertWidget(self.column.indexOf(self.fault), self.lone)
        self.keep.activated.connect(self.changed)
        if former:
            self.keep.setCurrentIndex([value for value, _ in _KEEPS].index(former.keep))
            self.open(self.file, former.keys)
        self._show_other()

    def _ask(self) -> None:
        for path in ask_for_files(self, "Choose the other table", False):
            self.open(path)

    def open(self, path: str, keys: tuple[Key, ...] = ()) -> None:
        """Read the other table, and look for keys that both have."""
        others, how = self.session.others, self._read

        def work(_report: object) -> Table:
            """Read it."""
            return others(path, how)

        def done(other: Table) -> None:
            """Offer its variables as keys."""
            self.file, self.other = path, other
            while self.keys:
                self._drop_key()
            pairs = [key if isinstance(key, tuple) else (key, key) for key in keys]
            for mine, theirs in pairs or [self._likely_key(other)]:
                self._add_key(mine, theirs)
            self._show_other()
            self.changed()

        def refused(sentence: str) -> None:
            """Say why it cannot be read."""
            self.say("", sentence)

        name = file_named(Path(path).name)
        self.session.runner.run("looking", f"Reading {name}", work, done, refused)

    def _likely_key(self, other: Table) -> tuple[str, str]:
        """The first variable that both tables have, labels and categories before numbers."""
        theirs = {column.name: column for column in other.columns}
        shared = [column for column in self.table.columns if column.name in theirs]
        shared.sort(key=lambda column: column.kind in ("number", "date/time"))
        first = shared[0].name if shared else self.table.columns[0].name
        return first, first if shared else other.columns[0].name

    def _show_other(self) -> None:
        there = self.other is not None
        for widget in (self.more, self.keep):
            widget.setVisible(there)
        self.less.setVisible(len(self.keys) > 1)
        self.do_button.setEnabled(there)
        if self.other is not None:
            rows = counted(self.other.rows, "row", "rows")
            self.choose_button.setText(as_written(f"{file_named(Path(self.file).name)}: {rows}"))
        else:
            self.say("Rows are put beside those of this table where their keys are the same.", "")

    def _add_key(self, mine: str, theirs: str) -> None:
        if self.other is None:
            return
        here = variable_chooser("Key of this table", self.table.columns, mine)
        there = variable_chooser("Key of the other table", self.other.columns, theirs)
        self._keys.addLayout(in_a_row((here, 1), quiet("="), (there, 1), gap=4))
        self.keys.append((here, there))
        for box in (here, there):
            box.activated.connect(self.changed)
            if edit := box.lineEdit():
                edit.editingFinished.connect(self.changed)
        self.less.setVisible(len(self.keys) > 1)
        self.changed()

    def _take_key_away(self) -> None:
        self._drop_key()
        self.less.setVisible(len(self.keys) > 1)
        self.changed()

    def _drop_key(self) -> None:
        self.keys.pop()
        row = self._keys.takeAt(len(self.keys))
        inner = row.layout() if row else None
        while inner is not None and inner.count():
            if (item := inner.takeAt(0)) and (widget := item.widget()):
                widget.hide()
                widget.deleteLater()

    def step(self) -> Join:
        """The join."""
        if self.other is None:
            raise StepError("Choose the other table first.")
        keys: list[Key] = []
        for here, there in self.keys:
            mine = chosen_variable(here, self.table).name
            theirs = chosen_variable(there, self.other).name
            keys.append(mine if mine == theirs else (mine, theirs))
        return Join(
            file=self.file,
            keys=tuple(keys),
            keep=self.keep.currentData(),
            read=self._read,
            off=self.former.off if self.former else False,
        )

    def foresee(self) -> None:
        """Count what matches, on each side, before it is done."""
        self.lone.setText("")
        try:
            step = self.step()
        except Refusal as refusal:
            if self.other is not None:
                self.say(str(refusal), "")
            return
        table, other = self.table, self.other
        assert other is not None

        def work(_report: object) -> Matching:
            """Count pairs of rows."""
            return matching(table, other, step.keys)

        def done(match: Matching) -> None:
            """Tell them."""
            self._tell(match, step)

        def refused(sentence: str) -> None:
            """Say why they cannot be counted."""
            self.say("", sentence)

        self.session.runner.run("looking", "Matching rows", work, done, refused)

    def _tell(self, match: Matching, step: Join) -> None:
        self.match = match
        here, there = match.matched
        alone, beyond = match.unmatched
        self.say(
            f"{here:,} of {here + alone:,} rows here match, {there:,} of {there + beyond:,} there. "
            f"The joined table has {match.rows_with(step.keep):,} rows.",
            "",
        )
        words = []
        for keys, where in zip(match.lone, ("here", "there"), strict=True):
            if keys:
                shown = ", ".join(printable(key) for key in keys[:_LISTED])
                more = " …" if len(keys) > _LISTED else ""
                words.append(f"Only {where}: {shown}{more}")
        if match.most > 1:
            words.append(f"One row here matches up to {match.most:,} there, and is repeated.")
        self.lone.setText("\n".join(words))


class StackForm(StepForm):
    """Tables beneath this one, and what their factor and its levels are called."""

    title, deed = "Stack tables", "Stack them"

    def fill(self, former: Stack | None, _variable: str, _wish: str | None, /) -> None:
        """Make the fields."""
        self.files = list(former.files) if former else []
        self._read = former.read if former else None  # how they are read has no field
        self.choose_button = QPushButton("Choose tables …")
        self.choose_button.clicked.connect(self._ask)
        self.factor = text_field("The new factor", former.factor if former else "Table")
        self.names = text_field(
            "Names of the tables", ", ".join(former.names) if former else "", "e.g. 2025, 2026"
        )
        self.listed = quiet()
        self.body.addWidget(self.choose_button)
        self.body.addWidget(self.listed)
        self.body.addLayout(labelled([("Factor", self.factor), ("Its levels", self.names)]))
        for field in (self.factor, self.names):
            field.textEdited.connect(self.changed)
        self._show_files()

    def _ask(self) -> None:
        self.add_files(ask_for_files(self, "Choose tables to stack beneath this one", True))

    def add_files(self, paths: list[str]) -> None:
        """Stack these files too."""
        self.files += [path for path in paths if path not in self.files]
        self._show_files()

    def _show_files(self) -> None:
        names = [file_named(Path(file).name) for file in self.files]
        self.listed.setText("Beneath this table: " + ", ".join(names) if names else "")
        self.do_button.setEnabled(bool(self.files))
        if self.files:
            self.changed()
        else:
            self.say("Rows of other tables with the same columns come beneath these.", "")

    def step(self) -> Stack:
        """The stack."""
        if not self.files:
            raise StepError("Choose the tables that come beneath this one.")
        names = tuple(name.strip() for name in self.names.text().split(",") if name.strip())
        if not self.factor.text().strip():
            raise StepError("Type a name for the factor that tells which row is from which table.")
        return Stack(
            files=tuple(self.files),
            factor=self.factor.text().strip(),
            names=names,
            read=self._read,
            off=self.former.off if self.former else False,
        )

    def words_of(self, foreseen: Foreseen) -> str:
        """How many rows there would be, and which columns not all tables have."""
        if foreseen.done is None:
            return ""
        lacking = [
            printable(column.label)
            for column in foreseen.done.table.columns
            if "not in this table" in column.missing_as
        ]
        some = f" Not in every table: {', '.join(lacking[:_LISTED])}." if lacking else ""
        return f"{foreseen.done.told}.{some}"


class GatherForm(StepForm):
    """The columns that measure the same, and what the number and the group are called."""

    title, deed = "Gather columns", "Gather them"

    def fill(self, former: Gather | None, _variable: str, _wish: str | None, /) -> None:
        """Make the fields."""
        columns = numbers_of(self.table)
        alike = families(columns)
        ticked = former.variables if former else [c.name for c in alike[0]] if alike else []
        self.list = TickList("Columns that measure the same", columns, ticked, 220)
        stem = alike[0][0].label.rstrip("0123456789 ") if alike else ""
        number, _, group = stem.rpartition(" ")
        self.number = text_field(
            "The number", former.number if former else number or stem or "Value"
        )
        self.group = text_field(
            "The group", former.group if former else (group or "Column").capitalize()
        )
        self.body.addWidget(quiet("Columns that measure the same:"))
        self.body.addWidget(self.list)
        self.body.addLayout(labelled([("Number", self.number), ("Group", self.group)]))
        self.list.itemChanged.connect(self.changed)
        for field in (self.number, self.group):
            field.textEdited.connect(self.changed)

    def step(self) -> Gather:
        """The gathering."""
        variables = self.list.ticked
        if len(variables) < 2:
            raise StepError("Tick two or more columns that measure the same.")
        return Gather(
            variables=variables,
            number=self.number.text().strip(),
            group=self.group.text().strip(),
            off=self.former.off if self.former else False,
        )
