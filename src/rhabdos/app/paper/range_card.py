"""The card of a range that is marked: what lies in it, its ends to be typed, and what to do with
it."""

from functools import partial

from PyQt6.QtCore import QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QLabel, QWidget

from rhabdos.app.controls.marked import dressed_as
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.theme import growing
from rhabdos.app.controls.typed_fields import Field, fault_line
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.app.paper.range_hand import MarkedRange, RangeHand
from rhabdos.app.paper.reading_card import card_size, paint_card
from rhabdos.app.session.session import Session
from rhabdos.errors import Refusal
from rhabdos.figure.edits.ranges import (
    kept_range,
    moved_range,
    range_called,
    range_told,
    read_range,
    without_range,
)
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.words.tooltip import Card
from rhabdos.scene.style.look import colours_of

_FIELD = 92  # pixels
_GAP = 8  # pixels between the card and its range, and the edge of the figure


class _Told(QWidget):
    """The dark part of it, that tells."""

    def __init__(self) -> None:
        super().__init__()
        self.card: Card | None = None
        self.colours: tuple[str, ...] = ()

    def show_card(self, card: Card, colours: tuple[str, ...]) -> None:
        """Tell something else."""
        self.card, self.colours = card, colours
        self.setAccessibleName(card.spoken())
        if self.minimumSize() != self.sizeHint():
            self.setMinimumSize(self.sizeHint())
        self.update()

    def sizeHint(self) -> QSize:
        return card_size(self.card, self.font()).toSize() if self.card else QSize(0, 0)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        if self.card is not None:
            painter = QPainter(self)
            whole = QRectF(self.rect())
            paint_card(painter, self.card, whole, whole, self.colours, self.font(), filling=True)


class RangeCard(QFrame):
    """Tells what lies in the range that is marked; its ends are typed, it is kept in the figure or
    taken out, and its rows are seen.

    Signals
    -------
    rows_asked : the rows in it, at a place on the screen.
    left : nothing more is wanted of it; whether the figure takes the keys again.
    """

    rows_asked = pyqtSignal(object)
    left = pyqtSignal(bool)

    def __init__(self, session: Session, hand: RangeHand, parent: QWidget) -> None:
        super().__init__(parent)
        dressed_as(self, "card")
        self.setAccessibleName("Range")
        self._session, self._hand = session, hand
        self.told = _Told()
        self.low, self.high = Field("From"), Field("To")
        self.words = Field("Words", "Words at it: its ends")
        self.words.setToolTip("What stands at the range in the figure; a blank for nothing")
        for field in (self.low, self.high):
            growing(QWidget.setFixedWidth, field, _FIELD)
            field.entered.connect(self._type_ends)
        self.words.entered.connect(self._type_words)
        for field in (self.low, self.high, self.words):
            field.taken_back.connect(partial(self.left.emit, True))
        self.fault = fault_line()
        self.keep = word_button("Keep in the figure", self._keep)
        self.take_out = word_button("Take out of the figure", self._take_out)
        self.rows = word_button("Rows …", self._ask_rows)
        self.close_button = word_button("Close", partial(self.left.emit, True))
        ends = in_a_row(self.low, QLabel("to"), self.high, None, gap=6)
        deeds = in_a_row(self.keep, self.take_out, self.rows, None, self.close_button, gap=12)
        below = in_a_column(ends, self.words, self.fault, deeds, around=(10, 8, 10, 8), gap=6)
        layout = in_a_column(self.told, gap=0, of=self)
        layout.addLayout(below)
        self.hide()

    def show_range(self, marked: MarkedRange | None) -> None:
        """Tell of another range, or go."""
        readings, card = self._session.readings, self._hand.card()
        if marked is None or card is None or readings is None:
            self.hide()
            return
        low, high = marked.ends
        groups = self._hand.groups()
        variable = readings.groups[groups[0]].variable if groups else readings.variable
        self.told.show_card(card, colours_of(readings))
        self.low.show_value(variable.written(low))
        self.high.show_value(variable.written(high))
        kept = marked.kept is not None
        self.words.setVisible(kept)
        if marked.kept is not None:
            self.words.show_value(readings.recipe.range[marked.kept].words or "")
        self.keep.setVisible(not kept)
        self.take_out.setVisible(kept)
        self.rows.setVisible(not readings.recipe.show.standardised)
        self._say("")
        self.show()

    def place_beside(self, taken: QRect, within: QRect) -> None:
        """Stand beside a range at the right or at the left, where there is more room, and else at
        the top of the figure's right side."""
        self.adjustSize()
        size = self.sizeHint()
        right, left = within.right() - taken.right(), taken.left() - within.left()
        x = within.right() - size.width() - _GAP
        if right >= size.width() + 2 * _GAP:
            x = taken.right() + _GAP
        elif left >= size.width() + 2 * _GAP:
            x = taken.left() - _GAP - size.width()
        self.setGeometry(max(within.left(), x), within.top() + _GAP, size.width(), size.height())
        self.raise_()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape leaves it."""
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit(True)
        else:
            super().keyPressEvent(event)

    # Asking

    def _say(self, fault: str) -> None:
        self.fault.setText(fault)
        self.fault.setVisible(bool(fault))
        for field in (self.low, self.high):
            field.mark_wrong(bool(fault))

    def _type_ends(self, _text: str) -> None:
        readings, marked = self._session.readings, self._hand.marked
        if readings is None or marked is None:
            return
        try:
            typed = self.low.text().strip(), self.high.text().strip()
            low, high = read_range(readings, *typed, marked.panel)
        except Refusal as refusal:
            self._say(str(refusal))
            return
        if marked.kept is None:
            self._hand.show(MarkedRange(low, high, marked.panel))
        else:
            self._ask("Move a range", moved_range(readings, marked.kept, low, high))

    def _type_words(self, text: str) -> None:
        readings, marked = self._session.readings, self._hand.marked
        if readings is not None and marked is not None and marked.kept is not None:
            words = self.words.text() if self.words.text().isspace() else text
            called = range_called(readings.recipe, marked.kept, words.strip() if words else None)
            self._ask("Words at a range", called)

    def _keep(self) -> None:
        readings, marked = self._session.readings, self._hand.marked
        if readings is None or marked is None:
            return
        low, high = marked.ends
        try:
            kept = kept_range(readings, low, high, marked.panel)
        except Refusal as refusal:
            self._say(str(refusal))
            return
        self._ask(f"Shade {range_told(readings.variable_in(marked.panel), low, high)}", kept)
        self._hand.open_kept(len(kept.range) - 1)

    def _take_out(self) -> None:
        readings, marked = self._session.readings, self._hand.marked
        if readings is not None and marked is not None and marked.kept is not None:
            recipe = without_range(readings.recipe, marked.kept)
            self.left.emit(True)
            self._ask("Take a range out", recipe)

    def _ask(self, name: str, recipe: Recipe) -> None:
        self._session.ask(name, recipe)

    def _ask_rows(self) -> None:
        self.rows_asked.emit(self.rows.mapToGlobal(self.rows.rect().bottomLeft()))
