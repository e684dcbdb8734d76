"""The sentence across the top: the figure in words, whose phrases are choices."""

from collections.abc import Sequence
from functools import partial
from itertools import pairwise

from msgspec import Struct
from PyQt6.QtCore import QEvent, QPoint, QRect, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFont, QFontMetrics, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QApplication, QMenu, QToolButton, QWidget

from rhabdos.app.controls.marked import dressed_as, mark
from rhabdos.app.controls.plain_texts import as_written, plain_tip
from rhabdos.app.controls.theme import sized
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.phrase import Key
from rhabdos.figure.phrases.sentence import Fragment
from rhabdos.quoting import set_apart

_SIZE = 17  # pixels
_SIDE, _ABOVE, _BELOW = 16, 9, 10  # pixels around the sentence
_LINE_GAP = 4  # pixels
_WIDEST = 420  # pixels of a phrase; longer names are cut, and shown whole on pointing
# What stands close to the word before it, so that no line begins with one.
_MARKS = (",", ".", ";", ":")


class _Piece(Struct, frozen=True):
    """What stays together on a line: words, or a phrase with the mark behind it."""

    text: str
    phrase: Key | None
    spaced: bool
    """Whether a blank follows."""
    across: int
    """Pixels that its words take, beside the phrase."""


class SentenceBar(QWidget):
    """Shows fragments as running text; phrases are buttons that ask to be opened.

    The words between the phrases are painted rather than labels of their own: twenty labels take as
    long to make and to style as the rest of the window.
    """

    opened = pyqtSignal(str, QPoint)
    """A phrase, and the place on the screen below it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        dressed_as(self, "sentence")
        self._set_font()
        self._fragments: tuple[Fragment, ...] = ()
        self._pieces: list[_Piece] = []
        self.words: list[tuple[QRect, str]] = []
        """What is painted between the buttons, and where."""
        self._buttons: dict[Key, _PhraseButton] = {}
        """In the order of the sentence."""
        self._high = 0
        self._chosen: Key | None = None
        self._menu = QMenu(self)
        """Empty: a button with a menu is heard as one, and its alternatives open by a click."""
        self._menu.aboutToShow.connect(self._opened_otherwise)

    def _set_font(self) -> None:
        self._font = QFont(self.font())
        self._font.setPixelSize(sized(_SIZE))
        self._metrics = QFontMetrics(self._font)
        self._blank = self._metrics.horizontalAdvance(" ")

    def changeEvent(self, event: QEvent | None) -> None:
        """Letters of another size take other room."""
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.FontChange:
            self._set_font()
            shown, self._fragments = self._fragments, ()
            self.show_fragments(shown)
            self.updateGeometry()

    def show_fragments(self, fragments: Sequence[Fragment]) -> None:
        """Show another sentence; the buttons of phrases that it shares with the last one stay, and
        their focus."""
        shown = tuple(fragments)
        if shown == self._fragments:
            return
        self._fragments = shown
        self._pieces = _pieces(shown, self._metrics)
        wanted = {fragment.phrase: fragment.text for fragment in shown if fragment.phrase}
        for phrase in [phrase for phrase in self._buttons if phrase not in wanted]:
            button = self._buttons.pop(phrase)
            button.hide()
            button.deleteLater()
        buttons = [self._buttons.get(phrase) or self._made(phrase) for phrase in wanted]
        for button, text in zip(buttons, wanted.values(), strict=True):
            button.say(text)
        if list(self._buttons) != list(wanted):
            self._buttons = dict(zip(wanted, buttons, strict=True))
            for former, button in pairwise(buttons):
                QWidget.setTabOrder(former, button)
        # While a hand moves, most of a sentence stays where it is, and is not painted again.
        words, high = self.words, self._high
        self._place(self.width())
        if self._high != high:
            self.updateGeometry()
        if self.words != words:
            self.update()
        self.setAccessibleName("The figure in words")
        self.setAccessibleDescription("".join(set_apart(f.text) for f in shown))

    def _made(self, phrase: Key) -> "_PhraseButton":
        button = _PhraseButton(phrase, self._menu, self)
        button.clicked.connect(lambda: self.open(phrase))
        button.hang_back()
        self._buttons[phrase] = button
        mark(button, "chosen", phrase == self._chosen)
        button.show()
        return button

    # Lines

    def _place(self, width: int, move: bool = True) -> int:
        """Break the pieces into lines, put the phrases where they belong, and return the height of
        it all."""
        line = self._metrics.height() + 3
        blank = self._blank
        x, y = sized(_SIDE), sized(_ABOVE)
        words: list[tuple[QRect, str]] = []
        for piece in self._pieces:
            button = self._buttons[piece.phrase] if piece.phrase else None
            own = button.across if button else 0
            across = own + piece.across
            if x > sized(_SIDE) and x + across > width - sized(_SIDE):
                x, y = sized(_SIDE), y + line + sized(_LINE_GAP)
            if button and move:
                button.setGeometry(QRect(x, y, own, line))
            if piece.text:
                words.append((QRect(x + own, y, across - own, line), piece.text))
            x += across + (blank if piece.spaced else 0)
        if move:
            self.words, self._high = words, y + line + sized(_BELOW)
        return y + line + sized(_BELOW)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._place(width, move=False)

    def sizeHint(self) -> QSize:
        return QSize(600, self._place(self.width(), move=False))

    def minimumSizeHint(self) -> QSize:
        return QSize(300, self._metrics.height() + 3 + sized(_ABOVE) + sized(_BELOW))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._place(self.width())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setFont(self._font)
        for where, text in self.words:
            painter.drawText(where, Qt.AlignmentFlag.AlignVCenter, text)

    # Phrases

    def button(self, phrase: Key) -> QToolButton | None:
        """The button of a phrase that the sentence has."""
        return self._buttons.get(phrase)

    @property
    def first_button(self) -> QToolButton | None:
        """The button of the first phrase, if there is one."""
        return next(iter(self._buttons.values()), None)

    def open(self, phrase: Key) -> None:
        """Ask for a phrase's alternatives, at the place of its button."""
        if button := self._buttons.get(phrase):
            self.opened.emit(phrase, button.mapToGlobal(QPoint(0, button.height() + 1)))
            if isinstance(menu := QApplication.activePopupWidget(), QMenu):
                button.hang(menu)

    def _opened_otherwise(self) -> None:
        """A screen reader has asked for the menu of the button that is focused."""
        for phrase, button in self._buttons.items():
            if button.hasFocus():
                # A menu that opens within a key's event would take that key as well.
                QTimer.singleShot(0, partial(self.open, phrase))

    def choose(self, phrase: Key) -> None:
        """Mark the phrase whose settings are beside the figure."""
        self._chosen = phrase
        for name, button in self._buttons.items():
            mark(button, "chosen", name == phrase)


def _pieces(fragments: Sequence[Fragment], metrics: QFontMetrics) -> list[_Piece]:
    """Words one by one, so that lines may break between them; a mark stays with the phrase before
    it."""
    pieces: list[_Piece] = []

    def add(text: str, phrase: Key | None, spaced: bool) -> None:
        """One piece more."""
        pieces.append(_Piece(text, phrase, spaced, metrics.horizontalAdvance(text)))

    for position, fragment in enumerate(fragments):
        follows = fragments[position + 1].text if position + 1 < len(fragments) else ""
        if fragment.phrase:
            mark = follows[:1] if follows.startswith(_MARKS) else ""
            add(mark, fragment.phrase, follows.removeprefix(mark).startswith(" "))
            continue
        text = fragment.text
        if position and fragments[position - 1].phrase and text.startswith(_MARKS):
            text = text[1:]
        words = text.split()
        for word in words[:-1]:
            add(word, None, True)
        if words:
            add(words[-1], None, text.endswith(" "))
    return pieces


class _PhraseButton(QToolButton):
    """A button no wider than its words, so that it reads as part of the text."""

    def __init__(self, phrase: Key, usual: QMenu, parent: QWidget) -> None:
        self.across = 0
        super().__init__(parent)
        self._phrase, self._usual = phrase, usual
        self.setPopupMode(QToolButton.ToolButtonPopupMode.MenuButtonPopup)
        self._said = ""
        self.setObjectName("phrase")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def hang(self, menu: QMenu) -> None:
        """Have a menu beneath as long as it is open: there those who hear the window find it."""
        self.setMenu(menu)
        menu.aboutToHide.connect(self.hang_back)

    def hang_back(self) -> None:
        """Have the usual menu again."""
        self.setMenu(self._usual)

    def say(self, text: str) -> None:
        """Show words, cut where they are too long."""
        if text == self._said:
            return
        self._said = text
        shown = self.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, sized(_WIDEST))
        self.setText(as_written(shown))
        self.setToolTip(plain_tip(text) if shown != text else "")
        self.setAccessibleName(f"{PHRASES[self._phrase].title}: {text}")
        self._measure()

    def _measure(self) -> None:
        # Kept, since the sentence asks for it several times each time that a hand moves.
        self.across = self.fontMetrics().horizontalAdvance(self.text().replace("&&", "&")) + 4

    def changeEvent(self, event: QEvent | None) -> None:
        """Another font, of the style or of the phrase that is chosen, has other widths."""
        super().changeEvent(event)
        self._measure()

    def sizeHint(self) -> QSize:
        return QSize(self.across, self.fontMetrics().height() + 3)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()
