"""What is this? A card that tells what the number, part or notice under the hand is."""

from collections.abc import Mapping
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QCursor, QTextBlockFormat, QTextCursor
from PyQt6.QtWidgets import QApplication, QDialog, QDialogButtonBox, QTextBrowser

from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.controls.theme import sized
from rhabdos.figure.output.explained import Explanation, explain
from rhabdos.figure.output.subjects import FORM_TOPICS, Subject
from rhabdos.figure.phrases.phrase import Key

if TYPE_CHECKING:
    from rhabdos.app.shell.window import Window

PHRASE_TOPICS: Mapping[Key, str] = {
    "bins": "bins",
    "bars": "bars",
    "heights": "bars",
    "curve": "bandwidth",
    "box": "box",
    "points": "points",
    "pairs": "pairs",
    "sway": "sway",
    "compare": "compare",
    "look": "colours",
    "value_axis": "logs",
}
"""Of the panels of settings."""
_WIDE, _HIGH = 430, 400  # pixels of the card
_MARGIN, _BETWEEN = 10, 7  # pixels around its words, and between paragraphs
_AWAY = 18  # pixels between it and the edge of the window


class ExplainingCard(QDialog):
    """Tells what something is; it stays open beside the window until it is closed."""

    def __init__(self, window: "Window") -> None:
        super().__init__(window)
        self.setWindowTitle("What is this?")
        self.words = QTextBrowser()
        self.words.setAccessibleName("What it is")
        self.words.setFrameShape(QTextBrowser.Shape.NoFrame)
        self.words.setOpenLinks(False)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        in_a_column((self.words, 1), buttons, around=(14, 10, 14, 10), gap=8, of=self)
        wide, high = min(sized(_WIDE), window.width()), min(sized(_HIGH), window.height())
        self.resize(wide, high)
        away = QPoint(window.width() - wide - _AWAY, window.height() - high - _AWAY)
        self.move(window.mapToGlobal(away))

    def tell(self, explanation: Explanation) -> None:
        """Tell of something else."""
        self.words.setMarkdown(explanation.as_markdown())
        self._set_apart()
        self.setAccessibleDescription(explanation.title)
        self.show()
        self.raise_()

    def _set_apart(self) -> None:
        """A little room between its paragraphs."""
        if (document := self.words.document()) is None:
            return
        document.setDocumentMargin(_MARGIN)
        room = QTextBlockFormat()
        room.setBottomMargin(_BETWEEN)
        cursor = QTextCursor(document)
        cursor.select(QTextCursor.SelectionType.Document)
        cursor.mergeBlockFormat(room)


class Explaining:
    """Finds what is asked about, and has it told."""

    def __init__(self, window: "Window") -> None:
        self._window = window
        self.card: ExplainingCard | None = None

    def ask(self) -> bool:
        """Tell of what the mouse or the keys are on; whether there is anything to tell."""
        readings, subject = self._window.session.readings, self.subject()
        if readings is None or subject is None:
            return False
        explained = explain(readings, subject)
        if explained is None:
            return False
        if self.card is None:
            self.card = ExplainingCard(self._window)
        self.card.tell(explained)
        return True

    def subject(self) -> Subject | None:
        """What the mouse or the keys are on: a part that is read, a number or a notice at the foot,
        what is seen, or the settings of a phrase."""
        figure = self._window.figure
        canvas, foot, seen = figure.stage.canvas, figure.foot, self._window.seen
        if not figure.isVisible():
            return None
        if (stop := canvas.stop) is not None:
            group = canvas.read_group
            return Subject(FORM_TOPICS[stop.form], 0 if group is None else group, stop.value)
        if foot.notices.isVisible() and foot.notices.underMouse():
            return Subject(f"notice {foot.notices.shown.code}")
        if (rows := foot.table.viewport()) is not None and rows.underMouse():
            return foot.subject_at(foot.table.indexAt(rows.mapFromGlobal(QCursor.pos())))
        if seen.underMouse():
            return Subject("seen")
        return self._by_keys()

    def _by_keys(self) -> Subject | None:
        figure, seen = self._window.figure, self._window.seen
        focus = QApplication.focusWidget()
        if focus is None:
            return None
        if focus is figure.foot.table:
            return figure.foot.subject_at(figure.foot.table.currentIndex())
        if figure.foot.notices.isAncestorOf(focus):
            return Subject(f"notice {figure.foot.notices.shown.code}")
        if focus is seen or seen.isAncestorOf(focus):
            return Subject("seen")
        chosen = figure.side.chosen if figure.side.isAncestorOf(focus) else None
        topic = PHRASE_TOPICS.get(chosen) if chosen is not None else None
        return Subject(topic) if topic is not None else None
