"""The forms that put values in the place of others: of a word, a level, a code or a blank."""

import math

from rhabdos.app.controls.tick_list import TickList
from rhabdos.app.controls.typed_fields import be_typed_in, chooser, labelled, quiet, text_field
from rhabdos.app.controls.variable_list import chosen_variable, variable_chooser
from rhabdos.app.rows.step_form import StepForm
from rhabdos.data.columns import BLANK, CategoryColumn, Column, LabelColumn, NumberColumn
from rhabdos.data.steps.filling import FillDown
from rhabdos.data.steps.recoding import Recode
from rhabdos.data.steps.step import StepError
from rhabdos.errors import Refusal
from rhabdos.quoting import printable

_MOST_OFFERED = 200  # values in a list; others are typed
A_BLANK = "a blank"
"""What a blank is called where fields are named by what they say."""


class RecodeForm(StepForm):
    """What stands in a variable, and what shall stand there instead."""

    title, deed = "Change a value", "Change it"

    def fill(self, former: Recode | None, variable: str, wish: str | None, /) -> None:
        """Make the fields."""
        # What a step of several values says of the others stays as it is.
        self._others = dict(list(former.become.items())[1:]) if former else {}
        old, new = next(iter(former.become.items())) if former else ("", "")
        named = former.variable if former else variable
        self.variable = variable_chooser("In", self.table.columns, named)
        self.old = chooser("Where it says")
        be_typed_in(self.old)
        self.new = text_field("Put", new, "a number, a level or a word")
        self.body.addLayout(
            labelled([("In", self.variable), ("Where it says", self.old), ("Put", self.new)])
        )
        self._offer()
        if former or wish is not None:
            self.old.setCurrentText(wish or old or A_BLANK)
        self.variable.activated.connect(self._offer)
        for box in (self.variable, self.old):
            box.activated.connect(self.changed)
            if edit := box.lineEdit():
                edit.textEdited.connect(self.changed)
        self.new.textEdited.connect(self.changed)

    def _offer(self) -> None:
        """Offer what stands in the variable, what counts as missing first."""
        try:
            column = chosen_variable(self.variable, self.table)
        except Refusal:
            return
        self.old.clear()
        for text in _said_in(column):
            self.old.addItem(printable(text) if text else A_BLANK, text)

    def step(self) -> Recode:
        """The values that are changed."""
        column = chosen_variable(self.variable, self.table)
        typed = self.old.currentText()
        index = self.old.findText(typed)
        old = str(self.old.itemData(index)) if index >= 0 else typed.strip()
        old = "" if old == A_BLANK else old
        new = self.new.text().strip()
        if not new:
            raise StepError("Type what shall stand there instead.")
        return Recode(
            variable=column.name,
            become={old: new, **{o: n for o, n in self._others.items() if o != old}},
            off=self.former.off if self.former else False,
        )


def said_at(column: Column, row: int) -> str:
    """What stands in a row: a value as it is written, a word for a missing one, or nothing."""
    word = column.stood.word_at(row) if column.stood is not None else None
    if word is not None:
        return word
    if isinstance(column, NumberColumn):
        value = float(column.values[row])
        return "" if math.isnan(value) else column.written(value)
    if isinstance(column, CategoryColumn):
        code = int(column.codes[row])
        return column.levels[code] if code >= 0 else ""
    assert isinstance(column, LabelColumn)
    return column.texts[row] or ""


def copied_at(column: Column, row: int) -> str:
    """The same for other programs, which take a number as computers write it: with all its
    figures, a plain minus and perhaps an e."""
    if type(column) is NumberColumn and math.isfinite(value := float(column.values[row])):
        return repr(value).removesuffix(".0")
    said = said_at(column, row)
    return said.replace("−", "-") if isinstance(column, NumberColumn) else said


def _said_in(column: Column) -> list[str]:
    """What stands in a variable: words for missing values, a blank, then levels."""
    words = ["" if word == BLANK else word for word in column.missing_as]
    levels = column.levels if isinstance(column, CategoryColumn) else ()
    return [*words, *levels[:_MOST_OFFERED]]


class FillForm(StepForm):
    """The variables whose blanks take over what stands above them."""

    title, deed = "Fill blanks from above", "Fill them"

    def fill(self, former: FillDown | None, variable: str, _wish: str | None, /) -> None:
        """Make the fields."""
        ticked = former.variables if former else (variable,) if variable else ()
        ticked = tuple(self.table.column(n).name for n in ticked if self.table.has_any(n))
        columns = [c for c in self.table.columns if c.missing or c.name in ticked]
        self.list = TickList("Variables with blanks", columns, ticked, 220)
        self.body.addWidget(quiet("Blanks take over what stands above them, in:"))
        self.body.addWidget(self.list)
        self.list.itemChanged.connect(self.changed)

    def step(self) -> FillDown:
        """The filling."""
        if not self.list.ticked:
            raise StepError("Tick the variables whose blanks shall be filled.")
        return FillDown(variables=self.list.ticked, off=self.former.off if self.former else False)
