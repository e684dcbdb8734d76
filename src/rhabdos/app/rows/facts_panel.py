"""The facts of one variable, each put right in its place."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QRect, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QLabel, QPushButton, QWidget

from rhabdos.app.controls.flow import in_lines
from rhabdos.app.controls.marked import dressed_as
from rhabdos.app.controls.mnemonics import OF_MENUS, give_letters
from rhabdos.app.controls.plain_texts import as_written
from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.controls.theme import growing, theme
from rhabdos.app.controls.typed_fields import Field, chooser, fault_line, heading, labelled, quiet
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.app.rows.facts_levels import LevelsTable
from rhabdos.app.session.preparing import Foreseen
from rhabdos.app.session.session import Session
from rhabdos.app.variables.silhouettes import Silhouette, Silhouettes, paint_silhouette
from rhabdos.data.columns import (
    KINDS,
    CategoryColumn,
    Column,
    DateColumn,
    Kind,
    LabelColumn,
    NumberColumn,
)
from rhabdos.data.fields.counted_times import COUNTINGS
from rhabdos.data.fields.texts import words_by_count
from rhabdos.data.merging_steps import amended, codes_of, order_of, with_codes
from rhabdos.data.problems.problems import problems_in
from rhabdos.data.steps.kind import ChangeKind
from rhabdos.data.steps.missing import Code, code_written, number_meant
from rhabdos.data.steps.naming import Bound, Describe, OrderLevels, RenameLevels
from rhabdos.data.steps.step import Step
from rhabdos.figure.recipe.edge_text import read_number
from rhabdos.quoting import brief, printable, quoted
from rhabdos.wording import counted, exact

_MANY_LEVELS = 60  # above which one is asked before a variable is changed
_MOST_NAMED = 4  # of what a change would lose
_ORDERS = (
    "as told from them", "day month year", "month day year", "year month day", *COUNTINGS
)  # fmt: skip


class FactNotice(QFrame):
    """A sentence, and up to two things to do about it."""

    def __init__(self, text: str, deeds: Sequence[tuple[str, Callable[[], object]]]) -> None:
        super().__init__()
        dressed_as(self, "notice")
        self.text = QLabel(printable(text))
        self.text.setObjectName("noticeText")
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        self.text.setWordWrap(True)
        self.text.setMinimumWidth(1)
        self.buttons = []
        for words, deed in deeds:
            button = QPushButton(as_written(words[:1].upper() + words[1:]))
            button.setObjectName("cure")
            button.clicked.connect(lambda _checked, deed=deed: deed())
            self.buttons.append(button)
        row = in_lines(*self.buttons, apart=10, under=2)
        row.setVisible(bool(deeds))
        in_a_column(self.text, row, around=(10, 6, 10, 6), gap=2, of=self)


class FirstLook(QPushButton):
    """The shape of a variable; a click draws it."""

    def __init__(self, silhouettes: Silhouettes) -> None:
        super().__init__()
        self._silhouettes = silhouettes
        self.column: Column | None = None
        growing(QWidget.setFixedHeight, self, 96)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("Click to draw it.")
        self.setAccessibleName("First look: draw it")
        silhouettes.ready.connect(self.update)

    @property
    def shape(self) -> Silhouette | None:
        """What is shown; None before it is counted."""
        return self._silhouettes.of(self.column) if self.column is not None else None

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        shape = self.shape
        painter = QPainter(self)
        if shape is not None:
            paint_silhouette(painter, QRect(0, 4, self.width() - 2, self.height() - 8), shape)
        if self.hasFocus():
            painter.setPen(QColor(theme().chosen))
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter draws it, as Space does."""
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
        else:
            super().keyPressEvent(event)


class FactsPanel(QWidget):
    """Kind, names, unit, missing codes, bounds, levels and problems of one variable.

    Signals
    -------
    drawn : a variable's name, to be drawn.
    drawn_along : a variable's name and a kind of axis, to be drawn along that.
    classes_asked : a variable's name, to be cut into classes.
    numbers_asked : a variable's name, whose texts shall be given numbers.
    """

    drawn = pyqtSignal(object)
    drawn_along = pyqtSignal(object, str)
    classes_asked = pyqtSignal(object)
    numbers_asked = pyqtSignal(object)

    def __init__(self, session: Session, silhouettes: Silhouettes) -> None:
        super().__init__()
        self._session = session
        self.column: Column | None = None
        self.title = heading("")
        self.title.setWordWrap(True)
        self.title.setMinimumWidth(1)
        self.counts = quiet()
        self.fault = fault_line()
        self.kind = chooser("Kind")
        for kind in KINDS:
            self.kind.addItem(kind, kind)
        self.order = chooser("Order of dates")
        for words in _ORDERS:
            self.order.addItem(words)
        self.label, self.unit = Field("Long name"), Field("Unit", "none")
        self.missing = Field("Missing")
        self.least, self.greatest = Field("Not below", "no bound"), Field("Not above", "no bound")
        self.form = labelled(
            [
                ("Kind", self.kind),
                ("Written", self.order),
                ("Long name", self.label),
                ("Unit", self.unit),
                ("Missing", self.missing),
                ("Not below", self.least),
                ("Not above", self.greatest),
            ]
        )
        self.notices: list[FactNotice] = []
        self._notices = in_a_column(gap=6)
        self.levels = LevelsTable()
        self.levels_title = heading("Levels")
        self.levels_note = quiet()
        self.look_title = heading("First look")
        self.look = FirstLook(silhouettes)
        self.along = word_button("", self._draw_along)
        silhouettes.ready.connect(self._offer_along)
        self._lay_out()
        self._connect()
        give_letters(self, OF_MENUS)

    def _lay_out(self) -> None:
        in_a_column(
            self.title,
            self.counts,
            self.form,
            self.fault,
            self._notices,
            6,
            self.levels_title,
            self.levels,
            self.levels_note,
            self.look_title,
            self.look,
            self.along,
            None,
            around=(14, 10, 14, 10),
            gap=5,
            of=self,
        )

    def _connect(self) -> None:
        self.kind.activated.connect(self._choose_kind)
        self.order.activated.connect(self._choose_order)
        self.label.entered.connect(lambda text: self._describe(label=text))
        self.unit.entered.connect(lambda text: self._describe(unit=text))
        self.missing.entered.connect(self._declare)
        self.least.entered.connect(lambda _text: self._bound())
        self.greatest.entered.connect(lambda _text: self._bound())
        self.levels.renamed.connect(self._rename)
        self.levels.ordered.connect(self._order)
        self.levels.dropped.connect(self._drop_levels)
        self.look.clicked.connect(
            lambda: self.drawn.emit(self.column.name) if self.column else None
        )

    # What is shown

    def show_column(self, column: Column | None) -> None:
        """Show the facts of another variable, or of the same one after a step."""
        self.column = column
        self.say("")
        self.setEnabled(column is not None)
        if column is None:
            self.title.setText("No variable")
            self.counts.setText("")
            return
        self.title.setText(printable(column.label))
        self.counts.setText(_counts(column))
        self._show_kind(column)
        self.label.show_value(column.label)
        self.unit.show_value(column.unit)
        codes = codes_of(self._session.document.steps, column.name)
        self.missing.show_value(", ".join(code_written(code).strip("“”") for code in codes))
        number = isinstance(column, NumberColumn)
        dates = isinstance(column, DateColumn)
        self.missing.setPlaceholderText(f"e.g. {'1900-01-01' if dates else '−9, n/a'}")
        self.form.setRowVisible(self.order, dates)
        self.form.setRowVisible(self.unit, not dates and not isinstance(column, LabelColumn))
        for field in (self.least, self.greatest):
            self.form.setRowVisible(field, number and not dates)
        if isinstance(column, NumberColumn):
            self.least.show_value(exact(column.lower) if column.lower is not None else "")
            self.greatest.show_value(exact(column.upper) if column.upper is not None else "")
        self._show_problems(column)
        groups = isinstance(column, CategoryColumn)
        for widget in (self.levels_title, self.levels):
            widget.setVisible(groups)
        if isinstance(column, CategoryColumn):
            hidden = self.levels.show_column(column)
            self.levels_note.setText(
                f"{hidden:,} more levels are not listed. Cut their number down first."
                if hidden
                else "Type another name; levels of one name become one. Alt+↑ ↓ moves a level."
            )
        self.levels_note.setVisible(groups)
        self.look.column = column
        self.look.setVisible(not isinstance(column, LabelColumn))
        self.look_title.setVisible(not isinstance(column, LabelColumn))
        self.look.update()
        self._offer_along()

    def _offer_along(self) -> None:
        """Offer the axis that suits the variable, where most values lie in a sliver of another."""
        shape = self.look.shape
        words = shape.offer if shape else ""
        self.along.setText(words)
        self.along.setVisible(bool(words))

    def _draw_along(self) -> None:
        if self.column is not None and (shape := self.look.shape) is not None:
            self.drawn_along.emit(self.column.name, shape.along)

    def say(self, sentence: str) -> None:
        """Say what is wrong with what was typed."""
        self.fault.setText(sentence)
        self.fault.setVisible(bool(sentence))

    def _show_kind(self, column: Column) -> None:
        self.kind.setCurrentIndex(KINDS.index(column.kind))
        order = order_of(self._session.document.steps, column.name)
        self.order.setCurrentIndex(_ORDERS.index(order) if order in _ORDERS else 0)

    def _show_problems(self, column: Column) -> None:
        self._clear_notices()
        table = self._session.table
        for problem in problems_in(table, column) if table else ():
            deeds = []
            if problem.cure is not None:
                cure = problem.cure
                deeds.append((problem.cure_text, lambda cure=cure: self._cure(cure)))
            self._add_notice(problem.text, deeds)

    def _clear_notices(self) -> None:
        for notice in self.notices:
            self._notices.removeWidget(notice)
            notice.hide()
            notice.deleteLater()
        self.notices = []

    def _add_notice(self, text: str, deeds: Sequence[tuple[str, Callable[[], object]]]) -> None:
        notice = FactNotice(text, deeds)
        self.notices.append(notice)
        self._notices.addWidget(notice)

    # What a hand asks

    def _ask(self, name: str, step: Step) -> None:
        self._session.rows.ask_steps(name, amended(self._session.document.steps, step))

    def _cure(self, cure: Step) -> None:
        self._ask(cure.words.rstrip("."), cure)

    def _choose_kind(self) -> None:
        column, kind = self.column, self.kind.currentData()
        if column is not None and kind != column.kind:
            self.foresee_kind(ChangeKind(variable=column.name, kind=kind))

    def _choose_order(self) -> None:
        column, index = self.column, self.order.currentIndex()
        if column is not None:
            order = _ORDERS[index] if index else ""
            self.foresee_kind(ChangeKind(variable=column.name, kind="date/time", order=order))

    def foresee_kind(self, step: ChangeKind) -> None:
        """Change the kind at once where nothing is lost; else say first what would be."""
        column = self.column
        assert column is not None

        def then(foreseen: Foreseen) -> None:
            """Do it, or say what would be lost."""
            if self.column is not column:
                return
            if foreseen.done is None:
                self._show_kind(column)
                self.say(foreseen.refusal)
                return
            changed = foreseen.done.table.column(column.name)
            lost = what_is_lost(column, changed)
            many = isinstance(changed, CategoryColumn) and len(changed.levels) > _MANY_LEVELS
            if not lost and not many:
                self._ask(f"{brief(column.label)} as {step.kind}", step)
                return
            assert not many or isinstance(changed, CategoryColumn)
            levels = len(changed.levels) if isinstance(changed, CategoryColumn) else 0
            text = lost or f"As {_a(step.kind)} it would have {levels:,} levels."
            deeds: list[tuple[str, Callable[[], object]]] = [
                (f"read it as {_a(step.kind)}", lambda: self._ask_kind(column, step))
            ]
            if many and isinstance(column, NumberColumn):
                name = column.name
                deeds.append(("cut it into classes", lambda: self._ask_classes(name)))
            if step.kind == "number" and isinstance(column, CategoryColumn):
                name = column.name
                mostly = 2 * changed.n > column.n  # are numbers as they stand
                number_each = ("give each text a number", lambda: self._ask_numbers(name))
                deeds.insert(1 if mostly else 0, number_each)
            deeds.append(("leave it", lambda: self.show_column(column)))
            self._clear_notices()
            self._add_notice(text, deeds)

        self._session.rows.foresee(step, then)

    def _ask_kind(self, column: Column, step: ChangeKind) -> None:
        self._ask(f"{brief(column.label)} as {step.kind}", step)

    def _ask_classes(self, name: str) -> None:
        self.show_column(self.column)
        self.classes_asked.emit(name)

    def _ask_numbers(self, name: str) -> None:
        self.show_column(self.column)
        self.numbers_asked.emit(name)

    def _describe(self, label: str | None = None, unit: str | None = None) -> None:
        if self.column is not None:
            name = f"Call it {brief(label)}" if label else f"Unit {brief(unit or 'none')}"
            self._ask(name, Describe(variable=self.column.name, label=label, unit=unit))

    def _declare(self, text: str) -> None:
        column = self.column
        if column is None:
            return
        words = [word.strip() for word in text.split(",") if word.strip()]
        codes: list[Code] = []
        for word in words:
            code: Code | None = word
            if isinstance(column, DateColumn):  # a date stays as it is typed
                code = None if number_meant(column, word) is None else word
            elif isinstance(column, NumberColumn):
                code = read_number(word)
            if code is None:
                self.missing.mark_wrong(True)
                what = "date" if isinstance(column, DateColumn) else "number"
                self.say(f"{quoted(word)} is no {what}, and {quoted(column.label)} holds {what}s.")
                return
            codes.append(code)
        steps = with_codes(self._session.document.steps, column.name, codes)
        self._session.rows.ask_steps(f"Missing codes of {brief(column.label)}", steps)

    def _bound(self) -> None:
        column = self.column
        if not isinstance(column, NumberColumn):
            return
        ends: list[float | None] = []
        for field in (self.least, self.greatest):
            text = field.text().strip()
            number = read_number(text) if text else None
            if text and number is None:
                field.mark_wrong(True)
                self.say(f"{quoted(text)} is no number. Type one, or nothing for no bound.")
                return
            ends.append(number)
        step = Bound(variable=column.name, lower=ends[0], upper=ends[1])
        self._ask(f"Bounds of {brief(column.label)}", step)

    def _rename(self, become: dict[str, str]) -> None:
        if self.column is not None:
            step = RenameLevels(variable=self.column.name, become=become)
            self._session.rows.prepare(step.words.rstrip("."), step)

    def _order(self, levels: list[str]) -> None:
        if self.column is not None:
            step = OrderLevels(variable=self.column.name, levels=tuple(levels))
            self._ask(f"Order of {brief(self.column.label)}", step)

    def _drop_levels(self, levels: list[str]) -> None:
        if self.column is not None:
            steps = self._session.document.steps
            codes = (*codes_of(steps, self.column.name), *levels)
            name = f"Missing codes of {brief(self.column.label)}"
            self._session.rows.ask_steps(name, with_codes(steps, self.column.name, codes))


def _a(kind: Kind) -> str:
    return "yes or no" if kind == "yes/no" else f"{'an' if kind[0] in 'aeiou' else 'a'} {kind}"


def _counts(column: Column) -> str:
    """How many values there are, and why the others are missing."""
    words = column.values_told
    if isinstance(column, CategoryColumn):
        words += f" in {counted(len(column.levels), 'level', 'levels')}"
    elif isinstance(column, LabelColumn):
        words += f", {column.distinct:,} different"
    if column.missing:
        parts = [f"{count:,} {printable(word)}" for word, count in column.missing_as.items()]
        shown = ", ".join(parts[:_MOST_NAMED]) + (" …" if len(parts) > _MOST_NAMED else "")
        words += f" · {column.missing:,} missing: {shown}"
    if column.made_by:
        words += f"\n{column.made_by}"
    return words


def what_is_lost(before: Column, after: Column) -> str:
    """What has no place in a kind: "14 values are not numbers: “n/a” 9, “broken” 5"."""
    lost = {
        word: count - before.missing_as.get(word, 0)
        for word, count in after.missing_as.items()
        if count > before.missing_as.get(word, 0)
    }
    total = sum(lost.values())
    if not total:
        return ""
    what = {"number": "numbers", "date/time": "dates"}.get(after.kind, f"{after.kind} values")
    are = f"1 value has no place among {what}" if total == 1 else f"{total:,} values are not {what}"
    named = words_by_count(lost, _MOST_NAMED)
    return f"{are}: {named}. They would count as missing, and stay known."
