"""The form that makes a variable of others."""

from typing import Literal

from rhabdos.app.controls.tick_list import TickList
from rhabdos.app.controls.typed_fields import be_typed_in, chooser, labelled, text_field
from rhabdos.app.controls.variable_list import chosen_variable, variable_chooser
from rhabdos.app.rows.step_form import StepForm, numbers_of
from rhabdos.app.session.preparing import Foreseen
from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.data.steps.derive import OF_TWO, WAYS, Make, Way, suggested_name
from rhabdos.data.steps.keep import Bound
from rhabdos.data.steps.step import StepError
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.edge_text import (
    read_edges,
    read_number,
    read_place,
    write_edges,
    written_place,
)
from rhabdos.quoting import quoted
from rhabdos.wording import exact

_OF_ONE = "Of"
_BASES = (("10", 10.0), ("2", 2.0), ("e", "e"))


class MakeForm(StepForm):
    """What is made, of which variables, and what it is called."""

    title, deed = "Make a variable", "Make it"

    def fill(self, former: Make | None, variable: str, wish: str | None, /) -> None:
        """Make the fields."""
        columns = numbers_of(self.table)
        first = former.of[0] if former else variable
        second = former.of[1] if former and len(former.of) > 1 else ""
        self.way = chooser("What is made", ((words, name) for name, words in WAYS.items()))
        self.first = variable_chooser("Of", columns, first)
        self.second = variable_chooser("And", columns, second)
        self.base = chooser("Base")
        be_typed_in(self.base)
        for words, _ in _BASES:
            self.base.addItem(words)
        self.cuts = text_field("Cut at")
        ticked = former.of if former and former.by == "sum" else ()
        self.several = TickList("Variables that are added up", columns, ticked, 170)
        self.name = text_field("Name")
        self._named = bool(former)
        self.form = labelled(
            [
                ("Make", self.way),
                (_OF_ONE, self.first),
                ("and", self.second),
                ("of", self.several),
                ("Base", self.base),
                ("Cut at", self.cuts),
                ("Name", self.name),
            ]
        )
        self.body.addLayout(self.form)
        wanted = former.by if former else wish
        if wanted:
            self.way.setCurrentIndex(self.way.findData(wanted))
        elif isinstance(self._column(), DateColumn):
            self.way.setCurrentIndex(list(WAYS).index("month"))
        if former:
            self._fill(former)
        self._connect()
        self._choose()

    def _connect(self) -> None:
        for box in (self.way, self.first, self.second, self.base):
            box.activated.connect(self._choose)
        for box in (self.first, self.second, self.base):
            if edit := box.lineEdit():
                edit.textEdited.connect(self._choose)
        self.cuts.textEdited.connect(self.changed)
        self.several.itemChanged.connect(self._choose)
        self.name.textEdited.connect(self._name_typed)

    def _fill(self, former: Make) -> None:
        self.name.setText(former.name)
        if former.base is not None:
            self.base.setCurrentText(former.base if former.base == "e" else exact(former.base))
        if former.edges is not None:
            column = self._column()
            dates = isinstance(column, DateColumn)
            edges = former.edges_in(column) if column else ()
            self.cuts.setText(write_edges(tuple(edges), dates))
        elif former.quantiles is not None:
            self.cuts.setText(f"{former.quantiles} classes")

    @property
    def _by(self) -> Way:
        by: Way = self.way.currentData()
        return by

    def _column(self) -> NumberColumn | None:
        try:
            column = chosen_variable(self.first, self.table)
        except Refusal:
            return None
        return column if isinstance(column, NumberColumn) else None

    def _choose(self) -> None:
        by = self._by
        self.form.setRowVisible(self.first, by != "sum")
        self.form.setRowVisible(self.second, by in OF_TWO)
        self.form.setRowVisible(self.several, by == "sum")
        self.form.setRowVisible(self.base, by == "log")
        self.form.setRowVisible(self.cuts, by == "classes")
        some = "2026-03-01, 2026-06-01" if isinstance(self._column(), DateColumn) else "40, 60, 80"
        self.cuts.setPlaceholderText(f"e.g. {some}; or 4 classes")
        if not self._named:
            self.name.setText(self._suggested())
            self.name.setCursorPosition(0)
        self.changed()

    def _suggested(self) -> str:
        try:
            of = self._of()
            base = self._base() or 10.0
        except Refusal:
            return ""
        labels = [self.table.column(name).label for name in of]
        if not labels:
            return ""
        name = suggested_name(self._by, labels[:4], base)
        free, number = name, 2
        while self.table.has(free):
            free, number = f"{name} ({number})", number + 1
        return free

    def _name_typed(self) -> None:
        self._named = bool(self.name.text())
        self.changed()

    def _of(self) -> tuple[str, ...]:
        if self._by == "sum":
            return self.several.ticked
        boxes = [self.first, self.second] if self._by in OF_TWO else [self.first]
        return tuple(chosen_variable(box, self.table).name for box in boxes)

    def _base(self) -> float | Literal["e"] | None:
        if self._by != "log":
            return None
        text = self.base.currentText().strip()
        if text == "e":
            return "e"
        number = read_number(text)
        if number is None or number <= 0 or number == 1:
            raise StepError(f"{quoted(text)} is no base: type a number above 0 but 1, or e.")
        return number

    def step(self) -> Make:
        """The variable that is made."""
        of = self._of()
        if self._by == "sum" and len(of) < 2:
            raise StepError("Tick two or more variables to add up.")
        edges, quantiles = self._classes()
        name = self.name.text().strip()
        if not name:
            raise StepError("Type a name for the new variable.")
        return Make(
            name=name,
            by=self._by,
            of=of,
            base=self._base(),
            edges=edges,
            quantiles=quantiles,
            off=self.former.off if self.former else False,
        )

    def _classes(self) -> tuple[tuple[Bound, ...] | None, int | None]:
        text = self.cuts.text().strip()
        if self._by != "classes":
            return None, None
        words = text.split()
        if not text:
            return None, 4
        if len(words) == 2 and words[0].isdecimal() and words[1].startswith("class"):
            parts = int(words[0])
            if not 2 <= parts <= 100:
                raise StepError("Cut it into 2 to 100 classes.")
            return None, parts
        dates = isinstance(self._column(), DateColumn)
        alone = read_place(text, dates) if len(words) == 1 or dates else None
        edges = read_edges(text, dates) if alone is None else (alone,)
        return tuple(written_place(edge, True) for edge in edges) if dates else edges, None

    def words_of(self, foreseen: Foreseen) -> str:
        """What it would hold, and how many rows would have none."""
        if foreseen.done is None:
            return ""
        column = foreseen.done.table.columns[-1]
        words = [column.values_told]
        words += [f"{count:,} without one: {why}" for why, count in column.missing_as.items()]
        return "; ".join(words) + "."
