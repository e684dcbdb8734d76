"""The parts of a figure in a line: what its sentence says, and what it could have besides."""

from functools import partial

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QToolButton, QWidget

from rhabdos.app.controls.dialog_layout import pause
from rhabdos.app.controls.flow import Flow
from rhabdos.app.controls.marked import dressed_as, mark
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.phrase import Key
from rhabdos.figure.readings.readings import Readings

_APART, _UNDER = 1, 1  # pixels between words, and between their lines
_TYPED = 900  # milliseconds after which letters begin another word
_STEPS: dict[int, int] = {
    Qt.Key.Key_Left: -1,
    Qt.Key.Key_Up: -1,
    Qt.Key.Key_Right: 1,
    Qt.Key.Key_Down: 1,
}


class PartsLine(QWidget):
    """A word a part: a click shows its settings; arrows go along, and letters find one.

    It is one stop of the Tab key.
    """

    chosen = pyqtSignal(str)
    """The phrase whose settings are wanted."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Parts of the figure")
        dressed_as(self, "parts")
        flow = Flow(self, _APART, _UNDER)
        flow.setContentsMargins(7, 9, 7, 7)
        self.buttons: dict[Key, QToolButton] = {}
        for key, phrase in PHRASES.items():
            words = phrase.title[0].lower() + phrase.title[1:]
            button = word_button(words, partial(self.chosen.emit, key), "part")
            button.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
            button.installEventFilter(self)  # to a button by itself, arrows are as Tab
            self.buttons[key] = button
            flow.addWidget(button)
        self._shown: dict[Key, tuple[bool, bool]] = {}  # whether each is there, and said
        self._letters = ""
        self._forget = pause(self, _TYPED, self._begin_word)

    def show_parts(self, readings: Readings | None) -> None:
        """Tell what is said in the sentence of a figure from what could be besides."""
        shown = {
            key: (phrase.applies(readings), phrase.matters(readings)) if readings else (False,) * 2
            for key, phrase in PHRASES.items()
        }
        if shown == self._shown:  # as at each step of a hand
            return
        before, self._shown = self._shown, shown
        for key, (there, said) in shown.items():
            if before.get(key) == shown[key]:  # Qt lays the line out anew for each that it is told
                continue
            button = self.buttons[key]
            button.setVisible(there)
            mark(button, "said", said)
            button.setToolTip("" if said else "Not in the sentence: as usual")
        self._take_tab()

    @property
    def current(self) -> QToolButton | None:
        """The word that takes the keys: that of the chosen part, or the first."""
        shown = [button for button in self.buttons.values() if not button.isHidden()]
        return next(
            (button for button in shown if button.property("chosen")), next(iter(shown), None)
        )

    def under(self, phrase: Key) -> QPoint:
        """The place on the screen under the word of a phrase."""
        button = self.buttons[phrase]
        return button.mapToGlobal(QPoint(0, button.height() + 1))

    def choose(self, phrase: Key | None) -> None:
        """Show whose settings stand below."""
        for key, button in self.buttons.items():
            mark(button, "chosen", key == phrase)
        self._take_tab()

    def _take_tab(self) -> None:
        """One word is the line's stop of Tab, also where the chosen one is not in sight."""
        current = self.current
        for button in self.buttons.values():
            here = button is current
            button.setFocusPolicy(Qt.FocusPolicy.StrongFocus if here else Qt.FocusPolicy.ClickFocus)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Arrows go to the next word; letters to the first one that begins with them."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            return self._take_key(event) or super().eventFilter(watched, event)
        return super().eventFilter(watched, event)

    def _take_key(self, event: QKeyEvent) -> bool:
        shown = [button for button in self.buttons.values() if not button.isHidden()]
        here = next((at for at, button in enumerate(shown) if button.hasFocus()), -1)
        if (by := _STEPS.get(event.key())) and shown:
            shown[(here + by) % len(shown)].setFocus()
            return True
        typed = event.text().strip().lower()
        if typed.isprintable() and typed:
            self._letters += typed
            self._forget.start()
            if begun := [b for b in shown if b.text().startswith(self._letters)]:
                begun[0].setFocus()
            return True
        return False

    def _begin_word(self) -> None:
        self._letters = ""
