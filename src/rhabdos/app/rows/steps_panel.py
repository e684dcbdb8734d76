"""How these rows came about: one sentence a step, each struck out by a click."""

from functools import partial
from html import escape
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QFrame,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from rhabdos.app.controls.choices import Choices
from rhabdos.app.controls.marked import dressed_as, mark
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.theme import theme
from rhabdos.app.controls.typed_fields import heading, quiet
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.app.session.session import Session
from rhabdos.data.steps.step import Piece, Step, choice, words_of
from rhabdos.quoting import file_named, printable
from rhabdos.wording import counted

if TYPE_CHECKING:
    from rhabdos.data.preparing import Stage

ADDING = (
    ("keep", "Keep rows"),
    ("make", "Make a variable"),
    ("recode", "Change a value"),
    ("numbers", "Give texts numbers"),
    ("fill", "Fill blanks from above"),
    ("join", "Join a table"),
    ("stack", "Stack tables"),
    ("gather", "Gather columns"),
)
"""What can be added, by its kind."""


class StepsPanel(QWidget):
    """The sentences, and what can be added to them.

    Signals
    -------
    added : the kind of a step that shall be made.
    opened : the place of a step whose choice was clicked; −1 is how the rows are read.
    """

    added = pyqtSignal(str)
    opened = pyqtSignal(int)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        dressed_as(self, "variables")
        self._session = session
        self.cards: list[StepCard] = []
        self.chosen = -2
        """The place of the sentence that is chosen; −1 is how the rows are read."""
        title = heading("How these rows came about")
        title.setWordWrap(True)
        title.setContentsMargins(14, 10, 14, 4)
        self._list = in_a_column(gap=0)
        inner = QWidget()
        inner.setObjectName("variables")
        in_a_column(self._list, 10, self._adding(), None, around=(0, 0, 0, 8), gap=0, of=inner)
        self._area = QScrollArea()
        self._area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._area.setObjectName("settings")
        self._area.setFrameShape(QFrame.Shape.NoFrame)
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setWidget(inner)
        in_a_column(title, (self._area, 1), gap=0, of=self)

    def _adding(self) -> QVBoxLayout:
        rows = in_a_column(around=(14, 0, 14, 0), gap=5)
        self.add_buttons: dict[str, QToolButton] = {}
        for kind, words in ADDING:
            button = word_button(f"+ {words}", partial(self.added.emit, kind), "add")
            self.add_buttons[kind] = button
            rows.addWidget(button)
        return rows

    def show_steps(self) -> None:
        """Show the steps of the document."""
        steps, stages = self._session.document.steps, self._session.stages
        wanted: list[tuple[int, Step | None]] = []
        if not steps or not steps[0].begins:
            wanted.append((-1, None))
        wanted += list(enumerate(steps))
        focused = next((c.index for c in self.cards if c.isAncestorOf(self.focusWidget())), None)
        for card in self.cards:
            self._list.removeWidget(card)
            card.hide()
            card.deleteLater()
        self.cards = []
        for index, step in wanted:
            stage = stages[index] if 0 <= index < len(stages) else None
            card = StepCard(self, index, step, self._pieces(step), self._told(step, stage))
            self._list.addWidget(card)
            self.cards.append(card)
            if index == focused:
                card.setFocus()
        self.choose(self.chosen)

    def _pieces(self, step: Step | None) -> tuple[Piece, ...]:
        """A step in words; of reading, with the file that is read."""
        source = self._session.document.source
        if step is not None and not (step.begins and not step.makes_rows):
            return step.describe()
        name = file_named(source.path.name) if source and source.path else "the demo data"
        from rhabdos.data.steps.reading import Read

        manner = step.manner() if isinstance(step, Read) else []
        return words_of("Read from ", choice(name), *manner, ".")

    def _told(self, step: Step | None, stage: "Stage | None") -> str:
        if stage is not None and step is not None:
            more = stage.table.far is not None and step.knows_all_first and not step.off
            return f"{stage.told}; asks all rows once more" if more else stage.told
        table = self._session.rows.before(0)
        if step is None and table is not None:
            some = f", of which {table.rows:,} are looked at" if table.far else ""
            return f"{table.size}{some}, {counted(len(table.columns), 'variable', 'variables')}"
        return ""

    def choose(self, index: int) -> None:
        """Mark a sentence as the one that is chosen."""
        self.chosen = index
        for card in self.cards:
            card.mark(card.index == index)

    # What a hand asks of a step

    def strike(self, index: int) -> None:
        """Strike a step out, or take it back."""
        from rhabdos.data.merging_steps import struck

        steps = self._session.document.steps
        words = "Take back" if steps[index].off else "Strike out"
        self._session.rows.ask_steps(f"{words}: {steps[index].words}", struck(steps, index))

    def take_away(self, index: int) -> None:
        """Take a step away."""
        from rhabdos.data.merging_steps import without_step

        steps = self._session.document.steps
        self._session.rows.ask_steps(f"Take away: {steps[index].words}", without_step(steps, index))

    def shift(self, index: int, by: int) -> None:
        """Do a step earlier or later."""
        from rhabdos.data.merging_steps import with_step_moved

        steps = self._session.document.steps
        words = "Earlier" if by < 0 else "Later"
        self.chosen = index + by
        self._session.rows.ask_steps(
            f"{words}: {steps[index].words}", with_step_moved(steps, index, by)
        )


class StepCard(QPushButton):
    """One sentence, with a tick that strikes it out, and what it touched.

    A button, since it is chosen, opened and heard as one; its room is that of what stands on it.
    """

    def __init__(
        self, panel: StepsPanel, index: int, step: Step | None, pieces: tuple[Piece, ...], told: str
    ) -> None:
        super().__init__(panel)
        dressed_as(self, "step")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._panel = panel
        self.index = index
        self._off = step is not None and step.off
        self._fixed = step is None or step.begins
        """Whether it stands first for good."""
        words = "".join(piece.text for piece in pieces)
        self.setAccessibleName(printable(words))
        self.setAccessibleDescription(told)
        self.tick = QCheckBox()
        self.tick.setAccessibleName("In force")
        self.tick.setToolTip("Untick to strike this out; it stays here and does nothing.")
        self.tick.setChecked(not self._off)
        self.tick.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.tick.clicked.connect(lambda: panel.strike(index))
        self.sentence = QLabel(_rich(pieces, self._off))
        self.sentence.setTextFormat(Qt.TextFormat.RichText)
        self.sentence.setWordWrap(True)
        self.sentence.setMinimumWidth(1)
        self.sentence.setTextInteractionFlags(Qt.TextInteractionFlag.LinksAccessibleByMouse)
        self.sentence.linkActivated.connect(lambda _link: self._open())
        self.told = quiet(told)
        self.more = word_button("more", self.offer)
        self.more.setAccessibleName("What can be done with this step")
        self.more.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        under = in_a_row((self.told, 1), (self.more, 0, Qt.AlignmentFlag.AlignTop))
        text = in_a_column(self.sentence, under, gap=1)
        in_a_row(
            (self.tick, 0, Qt.AlignmentFlag.AlignTop),
            (text, 1),
            around=(14, 6, 14, 7),
            gap=5,
            of=self,
        )
        if step is None:
            self.tick.hide()
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.clicked.connect(lambda: panel.choose(index))
        self.mark(False)

    def sizeHint(self) -> QSize:
        layout = self.layout()
        return layout.totalSizeHint() if layout else super().sizeHint()

    def minimumSizeHint(self) -> QSize:
        layout = self.layout()
        return layout.totalMinimumSize() if layout else super().minimumSizeHint()

    def heightForWidth(self, width: int) -> int:
        layout = self.layout()
        return layout.totalHeightForWidth(width) if layout else -1

    def mark(self, chosen: bool) -> None:
        """Show whether it is the sentence that is chosen."""
        mark(self, "chosen", chosen)
        self.more.setVisible(chosen and self.index >= 0)

    def _open(self) -> None:
        self._panel.choose(self.index)
        self._panel.opened.emit(self.index)

    def offer(self) -> None:
        """What can be done with the step, as a menu."""
        panel, place = self._panel, self.index
        menu = Choices(self)
        menu.offer("Change …", self._open)
        menu.offer("Take back" if self._off else "Strike out", lambda: panel.strike(place))
        if not self._fixed:
            menu.offer("Earlier", lambda: panel.shift(place, -1))
            menu.offer("Later", lambda: panel.shift(place, 1))
        menu.offer("Take away", lambda: panel.take_away(place))
        menu.open_at(self.more.mapToGlobal(QPoint(0, self.more.height() + 1)))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose the sentence."""
        self.setFocus()
        self._panel.choose(self.index)
        super().mousePressEvent(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter changes, Space strikes out, Del takes away, Alt and arrows move."""
        if event is None:
            return
        key, alt = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        real = self.index >= 0
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._open()
        elif key == Qt.Key.Key_Space and real:
            self._panel.strike(self.index)
        elif key == Qt.Key.Key_Delete and real:
            self._panel.take_away(self.index)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            by = -1 if key == Qt.Key.Key_Up else 1
            if alt and real and not self._fixed:
                self._panel.shift(self.index, by)
            elif not alt:
                self._step(by)
        else:
            super().keyPressEvent(event)

    def _step(self, by: int) -> None:
        cards = self._panel.cards
        there = cards.index(self) + by
        if 0 <= there < len(cards):
            cards[there].setFocus()
            self._panel.choose(cards[there].index)


def _rich(pieces: tuple[Piece, ...], off: bool) -> str:
    """A sentence with its choices underlined; struck out where it is not in force."""
    t = theme()
    words = ""
    for piece in pieces:
        text = escape(printable(piece.text))
        if piece.choice:
            colour = t.quiet if off else t.ink
            words += f"<a href='#' style='color:{colour}'>{text}</a>"
        else:
            words += text
    return f"<s style='color:{t.quiet}'>{words}</s>" if off else words
