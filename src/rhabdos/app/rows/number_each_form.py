"""The form that gives each text of a category a number: low 1, middling 2, high 3."""

import re

from PyQt6.QtCore import QSignalBlocker, Qt
from PyQt6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem

from rhabdos.app.controls.theme import sized
from rhabdos.app.controls.typed_fields import labelled, quiet
from rhabdos.app.controls.variable_list import chosen_variable, variable_chooser
from rhabdos.app.rows.step_form import StepForm
from rhabdos.data.columns import CategoryColumn
from rhabdos.data.steps.recoding import Recode
from rhabdos.data.steps.step import StepError
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.edge_text import read_number
from rhabdos.quoting import printable, quoted
from rhabdos.wording import exact

MOST_LEVELS = 60  # that are given numbers by hand
_ROW, _MOST_ROWS = 26, 10
_LEVEL = Qt.ItemDataRole.UserRole
_NUMBER = re.compile(r"[-+−]?\d+(?:[.,]\d+)?")


class NumberEachForm(StepForm):
    """Each text of a category, and the number that it becomes; the variable is one of numbers
    then."""

    title, deed = "Give each text a number", "Make them numbers"

    def fill(self, former: Recode | None, variable: str, _wish: str | None, /) -> None:
        """Make the fields."""
        columns = [c for c in self.table.columns if isinstance(c, CategoryColumn)]
        named = former.variable if former else variable
        self.variable = variable_chooser("Texts of", columns, named)
        self.numbers = QTableWidget(0, 2)
        self.numbers.setAccessibleName("A number for each text")
        self.numbers.setObjectName("typed")
        self.numbers.setHorizontalHeaderLabels(["Text", "Number"])
        self.numbers.setTabKeyNavigation(False)
        if (rows := self.numbers.verticalHeader()) is not None:
            rows.hide()
            rows.setDefaultSectionSize(sized(_ROW))
        if (heads := self.numbers.horizontalHeader()) is not None:
            heads.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.body.addLayout(labelled([("Texts of", self.variable)]))
        self.body.addWidget(self.numbers)
        self.body.addWidget(quiet("The variable is one of numbers then, in bins and boxes."))
        self._list(former)
        self.variable.activated.connect(lambda _row: self._list(None))
        self.numbers.itemChanged.connect(self.changed)

    def _list(self, former: Recode | None) -> None:
        """List the texts, with the numbers that they begin with, or else as they follow."""
        with QSignalBlocker(self.numbers):  # filling in is no change by a hand
            column = self._column()
            levels = column.levels[:MOST_LEVELS] if column else ()
            become = former.become if former else dict(zip(levels, _guessed(levels), strict=True))
            self.numbers.setRowCount(len(levels))
            for row, level in enumerate(levels):
                text = QTableWidgetItem(printable(level))
                text.setData(_LEVEL, level)
                text.setFlags(Qt.ItemFlag.ItemIsEnabled)
                self.numbers.setItem(row, 0, text)
                self.numbers.setItem(row, 1, QTableWidgetItem(become.get(level, "")))
            high = sized(_ROW) * (min(max(len(levels), 1), _MOST_ROWS) + 1) + 6
            self.numbers.setFixedHeight(high)
        self.changed()

    def _column(self) -> CategoryColumn | None:
        try:
            column = chosen_variable(self.variable, self.table)
        except Refusal:  # there is none, or it went with a step that was undone
            return None
        return column if isinstance(column, CategoryColumn) else None

    def step(self) -> Recode:
        """The texts with their numbers.

        Raises
        ------
        StepError
            There is no category, or what stands beside a text is no number.
        """
        column = self._column()
        if column is None:
            raise StepError("There is no category here whose texts could be given numbers.")
        if len(column.levels) > MOST_LEVELS:
            raise StepError(
                f"{quoted(column.label)} has {len(column.levels):,} different texts, and at most "
                f"{MOST_LEVELS} are given numbers by hand. Merge some first."
            )
        become: dict[str, str] = {}
        for row in range(self.numbers.rowCount()):
            text, typed = self.numbers.item(row, 0), self.numbers.item(row, 1)
            if text is None or typed is None:
                continue
            level, number = str(text.data(_LEVEL)), read_number(typed.text())
            if number is None:
                raise StepError(
                    f"Beside {quoted(level, 24)} stands {quoted(typed.text(), 24)}, which is no "
                    "number. Type one for each."
                    if typed.text().strip()
                    else f"Type a number for {quoted(level, 24)}."
                )
            become[level] = exact(number).replace("−", "-")
        off = self.former.off if self.former else False
        return Recode(variable=column.name, become=become, off=off)


def gives_numbers(step: Recode) -> bool:
    """Whether a step gives several texts a number each."""
    return len(step.become) > 1 and all(
        read_number(new) is not None and read_number(old) is None
        for old, new in step.become.items()
    )


def _guessed(levels: tuple[str, ...]) -> list[str]:
    """The number that each text begins with, if all begin with different ones; else 1, 2, 3 …"""
    numbers = [_NUMBER.match(level.strip()) for level in levels]
    leading = [match[0].replace(",", ".").replace("−", "-") for match in numbers if match]
    if len(set(leading)) == len(levels):
        return leading
    return [str(place) for place in range(1, len(levels) + 1)]
