"""The finer settings of the phrase "bins"."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox

from rhabdos.app.controls.typed_fields import Field, chooser, labelled, quiet
from rhabdos.app.panels.panel import Panel
from rhabdos.data.columns import DateColumn
from rhabdos.data.steps.keep import date_bound
from rhabdos.errors import Refusal
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.edge_text import read_edges, read_number, write_edges
from rhabdos.figure.recipe.recipe import Bins
from rhabdos.quoting import quoted
from rhabdos.stats.binning import MOST_BINS
from rhabdos.stats.calendar import EVERY
from rhabdos.stats.rules import RULES
from rhabdos.wording import counted

_BY_HAND = "by hand"


class BinsPanel(Panel):
    """Rule, number, width, start, side and own edges; each field makes the bins in its own way."""

    def __init__(self) -> None:
        super().__init__("Bins")
        self.facts = quiet()
        self.rule = chooser("Rule")
        for key, rule in RULES.items():
            self.rule.addItem(rule.title, key)
            self.rule.setItemData(self.rule.count() - 1, rule.source, Qt.ItemDataRole.ToolTipRole)
        self.rule.addItem(_BY_HAND, None)
        self.count = Field("Number of bins")
        self.width_ = Field("Bin width")
        self.start = Field("Start")
        self.closed = chooser("Edges belong to")
        self.closed.addItem("the bin above", "left")
        self.closed.addItem("the bin below", "right")
        for row, notation in enumerate(
            ("[a, b): a value on an edge opens a bin", "(a, b]: a value on an edge closes a bin")
        ):
            self.closed.setItemData(row, notation, Qt.ItemDataRole.ToolTipRole)
        self.edges = Field("Own edges", "0, 5, 10 … 60")
        self.round_edges = QCheckBox("Round edges")
        self.shared = QCheckBox("Shared by all groups")

        self.form = form = labelled(
            (
                ("Rule", self.rule),
                ("Number", self.count),
                ("Width", self.width_),
                ("Start at", self.start),
                ("Edges go to", self.closed),
                ("Own edges", self.edges),
            )
        )
        form.addRow("", self.round_edges)
        form.addRow("", self.shared)
        self.column.addWidget(self.facts)
        self.column.addLayout(form)
        self.column.addWidget(self.fault)
        self.column.addSpacing(10)
        self.hint = quiet(
            "Or take hold of the rod under the figure: its tabs set the width, the rod itself the "
            "start."
        )
        self.column.addWidget(self.hint)
        self.column.addStretch()

        self.rule.activated.connect(self._choose_rule)
        self.closed.activated.connect(self._choose_side)
        self.round_edges.clicked.connect(self._choose_round)
        self.shared.clicked.connect(self._choose_shared)
        self.count.entered.connect(self._enter_count)
        self.width_.entered.connect(self._enter_width)
        self.start.entered.connect(self._enter_start)
        self.edges.entered.connect(self._enter_edges)

    def show_readings(self, readings: Readings) -> None:
        """Show the bins of a figure."""
        super().show_readings(readings)
        bins, edges, variable = readings.recipe.bins, readings.edges, readings.variable
        self.say("")
        kind = "equal width" if edges.width else "unequal widths"
        if edges.ratio is not None:
            kind = "equal in logs"
        if edges.every:
            kind = f"one {edges.every} each"
        self.facts.setText(f"{counted(edges.count, 'bin', 'bins')}, {kind}")
        by_hand = not bins.by_rule
        chosen = None if by_hand else bins.rule or "automatic"
        self.rule.setCurrentIndex(self.rule.findData(chosen))
        self.count.show_value(f"{edges.count}")
        self.width_.show_value(
            edges.every or variable.format_difference(float(f"{edges.width:.6g}"))
            if edges.equal
            else "unequal"
        )
        self.start.show_value(variable.format_with_unit(float(f"{edges.low:.10g}")))
        self.closed.setCurrentIndex(self.closed.findData(edges.closed))
        self.edges.show_value(write_edges(bins.edges) if bins.edges is not None else "")
        self.round_edges.setChecked(bins.round)
        self.round_edges.setEnabled(bins.width is None and bins.edges is None)
        self.shared.setChecked(bins.shared)
        self.shared.setVisible(readings.divided is not None)
        single = readings.plan.axes == 1  # a width or an edge means something else on each axis
        for row in (2, 3, 5):
            self.form.setRowVisible(row, single)
        self.hint.setVisible(single)
        if not single:
            self.facts.setText("Each value axis has bins of its own, by the same rule or number.")

    # What the fields ask for

    def _ask(self, name: str, bins: Bins) -> None:
        self.asked.emit(name, self.recipe.binned(bins))

    @property
    def _bins(self) -> Bins:
        return self.recipe.bins

    def _choose_rule(self) -> None:
        key = self.rule.currentData()
        if key is None:
            assert self.readings
            edges = self.readings.edges
            own = self._bins.with_edges(tuple(edges.values.tolist()))
            by_width = self._bins.with_width(edges.width, edges.low) if edges.width else own
            self._ask("Bins by hand", by_width if self._bins.round else own)
        else:
            self._ask(
                f"Bins by {RULES[key].title}",
                self._bins.with_rule(key),
            )

    def _choose_side(self) -> None:
        side = self.closed.currentData()
        self._ask(f"Edges belong to {self.closed.currentText()}", self._bins.changed(closed=side))

    def _choose_round(self, checked: bool) -> None:
        self._ask("Round edges" if checked else "Exact edges", self._bins.changed(round=checked))

    def _choose_shared(self, checked: bool) -> None:
        words = "Bins shared by all groups" if checked else "Bins of each group’s own"
        self._ask(words, self._bins.changed(shared=checked))

    def _enter_count(self, text: str) -> None:
        number = self._number(text, self.count, "The number of bins")
        if number is None:
            return
        if number != round(number) or not 1 <= number <= MOST_BINS:
            self._wrong(
                self.count, f"The number of bins must be a whole number from 1 to {MOST_BINS:,}."
            )
            return
        self._ask(
            f"{counted(int(number), 'bin', 'bins')}",
            self._bins.with_count(int(number)),
        )

    def _enter_width(self, text: str) -> None:
        assert self.readings
        step = text.strip().lower().removeprefix("a ").removeprefix("an ").removesuffix("s")
        if isinstance(self.readings.variable, DateColumn) and step in EVERY:
            self._ask(f"Bins of a {step}", self._bins.with_every(step))
            return
        number = self._number(text, self.width_, "The width")
        if number is None:
            return
        if number <= 0:
            self._wrong(self.width_, "The width must be above 0.")
            return
        self._ask(
            f"Bin width {text}",
            self._bins.with_width(number, self._bins.start),
        )

    def _enter_start(self, text: str) -> None:
        if not text and self._bins.start is not None:
            self._ask("Bins start where the values do", self._bins.changed(start=None))
            return
        number = self._number(text, self.start, "The start")
        if number is None:
            return
        assert self.readings
        bins = self._bins
        if bins.edges is not None:
            width = self.readings.edges.width
            bins = bins.with_width(width) if width else bins.with_rule("automatic")
        self._ask(f"Bins start at {text}", bins.changed(start=number))

    def _enter_edges(self, text: str) -> None:
        if not text:
            self._ask("Bins by Automatic", self._bins.with_rule("automatic"))
            return
        try:
            self._ask("Own edges", self._bins.with_edges(read_edges(text)))
        except Refusal as refusal:
            self._wrong(self.edges, str(refusal))

    def _number(self, text: str, field: Field, what: str) -> float | None:
        assert self.readings
        if isinstance(self.readings.variable, DateColumn):
            return self._of_calendar(text, field, what)
        unit = self.readings.variable.unit
        number = read_number(text.removesuffix(unit) if unit else text)
        if number is None:
            self._wrong(
                field,
                f"{what} is to be a number, and {quoted(text)} is none. The figure is as it was.",
            )
        return number

    def _of_calendar(self, text: str, field: Field, what: str) -> float | None:
        """A date, or a number of days."""
        days = read_number(text.lower().removesuffix("days").removesuffix("day").removesuffix("d"))
        if days is not None:
            return days
        try:
            return date_bound(text, False)
        except Refusal:
            self._wrong(field, f"{what} is to be a date such as 2026-05-31, or a number of days.")
            return None

    def _wrong(self, field: Field, sentence: str) -> None:
        self.say(sentence)
        field.mark_wrong(True)
