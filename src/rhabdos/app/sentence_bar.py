"""The sentence across the top: the figure in words, whose phrases are choices."""

from collections.abc import Sequence

from PyQt6.QtCore import QPoint, QSize, Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QToolButton, QWidget

from rhabdos.app.flow import FlowLayout
from rhabdos.figure.sentence import Fragment, Phrase

_SPACE = 4


class SentenceBar(QWidget):
    """Shows fragments as running text; phrases are buttons that ask to be opened."""

    opened = pyqtSignal(str, QPoint)
    """A phrase, and the place on the screen below it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("sentence")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        self._layout = FlowLayout(self)
        self._layout.setContentsMargins(16, 9, 16, 10)
        self._fragments: tuple[Fragment, ...] = ()
        self._buttons: dict[Phrase, QToolButton] = {}
        self._chosen: Phrase | None = None

    def show_fragments(self, fragments: Sequence[Fragment]) -> None:
        """Show another sentence; where only wordings changed, the buttons (and the focus) stay."""
        shown = tuple(fragments)
        if shown == self._fragments:
            return
        same_shape = [(f.phrase, f.phrase or f.text) for f in shown] == [
            (f.phrase, f.phrase or f.text) for f in self._fragments
        ]
        self._fragments = shown
        if same_shape:
            for fragment in shown:
                if fragment.phrase:
                    self._word_button(self._buttons[fragment.phrase], fragment)
        else:
            self._rebuild()
        self._layout.invalidate()
        self.updateGeometry()
        self.setAccessibleName("The figure in words")
        self.setAccessibleDescription("".join(f.text for f in shown if f.phrase != "words").strip())

    def _rebuild(self) -> None:
        focused = next((phrase for phrase, button in self._buttons.items() if button.hasFocus()), None)
        while item := self._layout.takeAt(0):
            if widget := item.widget():
                widget.hide()
                widget.deleteLater()
        self._buttons = {}
        position = 0
        while position < len(self._fragments):
            fragment = self._fragments[position]
            position += 1
            if not fragment.phrase:
                self._add_words(fragment.text)
                continue
            rest = ""
            if position < len(self._fragments) and not self._fragments[position].phrase:
                rest = self._fragments[position].text
                position += 1
            mark = rest[:1] if rest[:1] in (",", ".", ";", ":") else ""
            rest = rest.removeprefix(mark)
            self._layout.addWidget(self._held(self._button(fragment), mark, rest.startswith(" ")))
            self._add_words(rest)
        if focused in self._buttons:
            self._buttons[focused].setFocus()

    @staticmethod
    def _held(button: QToolButton, mark: str, spaced: bool) -> QWidget:
        """A phrase that keeps the comma or full stop behind it on its line."""
        held = QWidget()
        row = QHBoxLayout(held)
        row.setContentsMargins(0, 0, _SPACE if spaced else 0, 0)
        row.setSpacing(0)
        row.addWidget(button)
        if mark:
            row.addWidget(_word(mark))
        return held

    def _add_words(self, text: str) -> None:
        for word in text.split():
            label = _word(word)
            label.setContentsMargins(0, 0, _SPACE, 0)
            self._layout.addWidget(label)

    def _button(self, fragment: Fragment) -> QToolButton:
        assert fragment.phrase
        button = _PhraseButton()
        button.setObjectName("phrase")
        button.setCursor(Qt.CursorShape.PointingHandCursor)
        button.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        phrase = fragment.phrase
        button.clicked.connect(lambda: self.open(phrase))
        self._buttons[phrase] = button
        self._word_button(button, fragment)
        self._mark(button, phrase == self._chosen)
        return button

    def _word_button(self, button: QToolButton, fragment: Fragment) -> None:
        button.setText(fragment.text.replace("&", "&&"))
        button.setAccessibleName(f"{fragment.phrase}: {fragment.text}")
        if (held := button.parentWidget()) and held is not self:
            held.updateGeometry()
            if layout := held.layout():
                layout.invalidate()

    def button(self, phrase: Phrase) -> QToolButton | None:
        return self._buttons.get(phrase)

    def open(self, phrase: Phrase) -> None:
        """Ask for a phrase's alternatives, at the place of its button."""
        if button := self._buttons.get(phrase):
            self.opened.emit(phrase, button.mapToGlobal(QPoint(0, button.height() + 1)))

    def choose(self, phrase: Phrase) -> None:
        """Mark the phrase whose settings are beside the figure."""
        self._chosen = phrase
        for name, button in self._buttons.items():
            self._mark(button, name == phrase)

    @staticmethod
    def _mark(button: QToolButton, chosen: bool) -> None:
        if bool(button.property("chosen")) != chosen:
            button.setProperty("chosen", chosen)
            if style := button.style():
                style.unpolish(button)
                style.polish(button)


class _PhraseButton(QToolButton):
    """A button no wider than its words, so that it reads as part of the text."""

    def sizeHint(self) -> QSize:
        metrics = self.fontMetrics()
        return QSize(metrics.horizontalAdvance(self.text().replace("&&", "&")) + 4, metrics.height() + 3)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()


def _word(text: str) -> QLabel:
    label = QLabel(text)
    label.setObjectName("word")
    label.setTextFormat(Qt.TextFormat.PlainText)
    return label
