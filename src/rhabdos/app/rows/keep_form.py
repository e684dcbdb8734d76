"""The form that keeps rows: by levels, by a range, or by a condition of several parts."""

from msgspec import structs
from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QWidget

from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.theme import sized
from rhabdos.app.controls.typed_fields import chooser, quiet
from rhabdos.app.controls.variable_list import chosen_variable, variable_chooser
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.app.rows.step_form import StepForm
from rhabdos.app.session.preparing import Foreseen
from rhabdos.data.columns import CategoryColumn, Column, DateColumn, NumberColumn
from rhabdos.data.date_bounds import date_bound
from rhabdos.data.gathering import few_values
from rhabdos.data.steps.keep import Bound, Condition, KeepRows, bound_of, bound_written
from rhabdos.data.steps.step import StepError
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.edge_text import read_number
from rhabdos.quoting import printable, quoted
from rhabdos.wording import exact

_IS, _FROM, _HAS, _GONE, _KNOWN = "is", "from", "has", "gone", "known"
_WAYS = {
    _IS: ("is one of", "is none of"),
    _FROM: ("lies from … to", "lies outside"),
    _HAS: ("has in its text", "lacks in its text"),
}
_MOST_LEVELS = 500  # in a list of ticks; of more, some are typed
_ABOVE, _BELOW = "above", "below"
"""Before an end of a range that is left out of it."""


class KeepForm(StepForm):
    """Conditions beneath one another, how they are joined, and how many rows they keep."""

    title, deed = "Keep rows", "Keep these rows"

    def fill(self, former: KeepRows | None, variable: str, _wish: str | None, /) -> None:
        """Make the fields."""
        self.out = chooser(
            "Keep or leave out", (("Keep rows of which", False), ("Leave out rows of which", True))
        )
        self.any = chooser(
            "How conditions are joined",
            (("all of these hold", False), ("one of these holds", True)),
        )
        self.parts: list[ConditionPart] = []
        self._parts = in_a_column(gap=10)
        self.more = word_button("+ Another condition", lambda: self._add(None, ""), "add")
        self.body.addWidget(self.out)
        self.body.addWidget(self.any)
        self.body.addSpacing(4)
        self.body.addLayout(self._parts)
        self.body.addWidget(self.more)
        for box in (self.out, self.any):
            box.activated.connect(self.changed)
        if former:
            self.out.setCurrentIndex(int(former.out))
            self.any.setCurrentIndex(int(former.any))
            for condition in former.where:
                self._add(condition, "")
        else:
            self._add(None, variable)

    def _add(self, condition: Condition | None, variable: str) -> None:
        part = ConditionPart(self.table, condition, variable)
        part.changed.connect(self.changed)
        part.taken_away.connect(lambda: self._take_away(part))
        self.parts.append(part)
        self._parts.addWidget(part)
        self._show_parts()

    def _take_away(self, part: "ConditionPart") -> None:
        self.parts.remove(part)
        self._parts.removeWidget(part)
        part.hide()
        part.deleteLater()
        self._show_parts()
        self.changed()

    def _show_parts(self) -> None:
        several = len(self.parts) > 1
        self.any.setVisible(several)
        for part in self.parts:
            part.away.setVisible(several)

    def step(self) -> KeepRows:
        """The rows that are kept."""
        return KeepRows(
            where=tuple(part.condition() for part in self.parts),
            any=bool(self.any.currentData()) and len(self.parts) > 1,
            out=bool(self.out.currentData()),
            off=self.former.off if self.former else False,
        )

    def words_of(self, foreseen: Foreseen) -> str:
        """How many rows would be kept."""
        return f"{foreseen.done.told} would stay." if foreseen.done else ""


class ConditionPart(QFrame):
    """One condition: a variable, what must hold, and the levels or the range."""

    changed = pyqtSignal()
    taken_away = pyqtSignal()

    def __init__(self, table: Table, condition: Condition | None, variable: str) -> None:
        super().__init__()
        self._table = table
        named = condition.variable if condition else variable
        first = table.column(named).name if named else ""
        self.variable = variable_chooser("Variable", table.columns, first)
        self.way = chooser("What must hold")
        self.levels = QListWidget()
        self.levels.setObjectName("ticks")
        self.levels.setAccessibleName("Levels")
        self.low, self.high, self.text = QLineEdit(), QLineEdit(), QLineEdit()
        self.low.setAccessibleName("From")
        self.high.setAccessibleName("To")
        self.low.setPlaceholderText("the smallest")
        self.high.setPlaceholderText("the largest")
        self.low.setToolTip(f"“{_ABOVE} 60” leaves 60 itself out")
        self.high.setToolTip(f"“{_BELOW} 64” leaves 64 itself out")
        self.text.setAccessibleName("Text")
        self.away = word_button("without this", self.taken_away.emit)
        self.note = quiet()
        self._range = QWidget()
        ends = in_a_row(self.low, of=self._range)
        between = quiet("to")
        between.setWordWrap(False)
        between.setMinimumWidth(between.sizeHint().width())
        ends.addWidget(between)
        ends.addWidget(self.high)
        in_a_column(
            self.variable,
            self.way,
            self.levels,
            self._range,
            self.text,
            self.note,
            (self.away, 0, Qt.AlignmentFlag.AlignLeft),
            gap=5,
            of=self,
        )
        self.variable.activated.connect(self._choose)
        if edit := self.variable.lineEdit():
            edit.editingFinished.connect(self._choose)
        self.way.activated.connect(self._choose_way)
        self.levels.itemChanged.connect(self.changed)
        for field in (self.low, self.high, self.text):
            field.textEdited.connect(self.changed)
        self._shown: Column | None = None
        # What the fields do not show of it stays as it is, while they ask the same.
        self._former = condition
        self._filled: tuple[str, bool] | None = None
        self._choose()
        if condition:
            self._fill(condition)
            self._filled = self._way

    def _column(self) -> Column | None:
        try:
            return chosen_variable(self.variable, self._table)
        except Refusal:
            return None

    def _choose(self) -> None:
        """Another variable: offer what can be asked of it."""
        column = self._column()
        if column is None or column is self._shown:
            return
        self._shown = column
        self.way.clear()
        levels = self._levels_of(column)
        ways = [_FROM] if isinstance(column, NumberColumn) else []
        ways += [_IS] if levels else []
        ways += [] if isinstance(column, NumberColumn) else [_HAS]
        for way in ways:
            for other, words in enumerate(_WAYS[way]):
                self.way.addItem(words, (way, bool(other)))
        self.way.addItem("is known", (_KNOWN, False))
        self.way.addItem("is missing", (_GONE, False))
        with QSignalBlocker(self.levels):  # filling in is no change of the condition
            self.levels.clear()
            for level, count in levels[:_MOST_LEVELS]:
                self._add_level(level, f"{printable(level)}   {count:,}")
        self.levels.setFixedHeight(sized(22) * min(max(self.levels.count(), 2), 8) + 8)
        hidden = len(levels) - _MOST_LEVELS
        self.note.setText(f"{hidden:,} more levels are kept by their text." if hidden > 0 else "")
        self._choose_way()

    def _items(self) -> list[QListWidgetItem]:
        """The levels that can be ticked."""
        items = (self.levels.item(index) for index in range(self.levels.count()))
        return [item for item in items if item]

    def _add_level(self, level: str, words: str) -> QListWidgetItem:
        item = QListWidgetItem(words)
        item.setData(Qt.ItemDataRole.UserRole, level)
        item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
        item.setCheckState(Qt.CheckState.Unchecked)
        self.levels.addItem(item)
        return item

    def _levels_of(self, column: Column) -> list[tuple[str, int]]:
        """The levels that can be ticked, and the rows of each; of few numbers these."""
        if isinstance(column, CategoryColumn):
            return list(zip(column.levels, column.level_counts.tolist(), strict=True))
        if not isinstance(column, NumberColumn) or isinstance(column, DateColumn):
            return []
        few = few_values(column)
        if few is None:
            return []
        rows = ((value, int((column.values == value).sum())) for value in few.tolist())
        return [(exact(value), many) for value, many in rows]

    def _choose_way(self) -> None:
        way = self._way[0]
        self.levels.setVisible(way == _IS)
        self._range.setVisible(way == _FROM)
        self.text.setVisible(way == _HAS)
        self.note.setVisible(way == _IS and bool(self.note.text()))
        self.changed.emit()

    @property
    def _way(self) -> tuple[str, bool]:
        return self.way.currentData() or (_KNOWN, False)

    def _fill(self, condition: Condition) -> None:
        if condition.missing is not None:
            wanted = (_GONE if condition.missing is not condition.other else _KNOWN, False)
        elif condition.levels is not None:
            wanted = (_IS, condition.other)
        elif condition.contains is not None:
            wanted = (_HAS, condition.other)
        elif any(end is not None for end in _ends_of(condition)):
            wanted = (_FROM, condition.other)
        else:
            wanted = (_GONE if condition.other else _KNOWN, False)
        ways = [self.way.itemData(index) for index in range(self.way.count())]
        if wanted not in ways:  # asked of a variable of another kind, by a cell or a recipe
            self.way.addItem(_WAYS[wanted[0]][condition.other], wanted)
            ways.append(wanted)
        self.way.setCurrentIndex(ways.index(wanted))
        items = {str(item.data(Qt.ItemDataRole.UserRole)): item for item in self._items()}
        for level in condition.levels or ():  # also such as no row has, or the list no room for
            item = items.get(level) or self._add_level(level, printable(level))
            item.setCheckState(Qt.CheckState.Checked)
        self.low.setText(_written(condition.low) or _written(condition.above, _ABOVE))
        self.high.setText(_written(condition.high) or _written(condition.below, _BELOW))
        self.text.setText(condition.contains or "")
        self._choose_way()

    def condition(self) -> Condition:
        """What the fields say.

        Raises
        ------
        Refusal
            They do not say a condition yet.
        """
        column = chosen_variable(self.variable, self._table)
        asked = self._asked(column)
        former = self._former
        if former is None or self._way != self._filled or not self._is_former(column):
            return asked
        if asked.levels is not None:
            return structs.replace(former, levels=asked.levels)
        if self._way[0] == _FROM:
            ends = {key: getattr(asked, key) for key in ("low", "high", "above", "below")}
            return structs.replace(former, **ends)
        return structs.replace(former, contains=asked.contains)

    def _is_former(self, column: Column) -> bool:
        """Whether the condition was about that variable before."""
        assert self._former is not None
        named = self._former.variable
        return self._table.has_any(named) and self._table.column(named) is column

    def _asked(self, column: Column) -> Condition:
        """The condition that the fields alone say."""
        name, (way, other) = column.name, self._way
        if way == _IS:
            ticked = tuple(
                str(item.data(Qt.ItemDataRole.UserRole))
                for item in self._items()
                if item.checkState() == Qt.CheckState.Checked
            )
            if not ticked:
                raise StepError(f"Tick the levels of {quoted(column.label)}.")
            return Condition(variable=name, levels=ticked, other=other)
        if way == _FROM:
            low, without_low = _bound(self.low, column, _ABOVE)
            high, without_high = _bound(self.high, column, _BELOW)
            if low is None and high is None:
                raise StepError(f"Type where {quoted(column.label)} begins or ends.")
            if isinstance(column, NumberColumn) and low is not None and high is not None:
                ends = bound_of(column, low, without_low), bound_of(column, high, not without_high)
                if ends[0] > ends[1]:
                    raise StepError("The range ends before it begins. Change one of its ends.")
            return Condition(
                variable=name,
                low=None if without_low else low,
                above=low if without_low else None,
                high=None if without_high else high,
                below=high if without_high else None,
                other=other,
            )
        if way == _HAS:
            if not self.text.text():
                raise StepError(f"Type what stands in {quoted(column.label)}.")
            return Condition(variable=name, contains=self.text.text(), other=other)
        return Condition(variable=name, missing=way == _GONE)


def _ends_of(condition: Condition) -> tuple[Bound | None, ...]:
    return condition.low, condition.above, condition.high, condition.below


def _bound(field: QLineEdit, column: Column, beyond: str) -> tuple[Bound | None, bool]:
    """An end of a range, and whether it is left out."""
    text = field.text().strip()
    bare = text[len(beyond) :].strip() if text.casefold().startswith(beyond) else text
    if not bare:
        return None, False
    if isinstance(column, DateColumn):
        date_bound(bare, False)
        return bare, bare != text
    number = read_number(bare)
    if number is None:
        raise StepError(
            f"{quoted(bare)} is no number. Type one, such as 64.5, or {beyond} 64.5, which leaves "
            "64.5 itself out."
        )
    return number, bare != text


def _written(bound: Bound | None, beyond: str = "") -> str:
    if bound is None:
        return ""
    return f"{beyond} {bound_written(bound)}".strip()
