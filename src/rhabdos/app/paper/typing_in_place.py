"""Words typed on the paper, where they stand."""

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QTextOption
from PyQt6.QtWidgets import QPlainTextEdit, QToolTip, QWidget

from rhabdos.app.controls.theme import sized, theme
from rhabdos.figure.recipe.recipe_part import LONGEST_WORDING

_LEAST_WIDE, _LEAST_HIGH = 220, 34  # pixels of the field
_LETTERS = 15  # pixels
_AROUND = 4  # pixels between words and the edge of the field over them
_SHARE = 0.6  # of the paper’s width, that the field has at least


class InPlace(QPlainTextEdit):
    """A field over the words of the figure: Enter writes them, Shift and Enter begins a line,
    Escape leaves all as it was."""

    typed = pyqtSignal(str)
    written = pyqtSignal(str)
    given_up = pyqtSignal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("inplace")
        self.setAccessibleName("Words of the figure")
        self.setWordWrapMode(QTextOption.WrapMode.WrapAtWordBoundaryOrAnywhere)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setTabChangesFocus(True)
        self.setToolTip(
            "Enter: write it · Shift + Enter: a new line · Esc: leave it\n"
            "{up 2} above the line, {down 2} below it, {slant word}, {bold word}, {mu}: a Greek "
            "letter, {n} {mean} {median}: numbers of the data"
        )
        self._ended = False
        self._before = ""
        self.textChanged.connect(self._follow)
        self.hide()

    def begin(self, place: QRectF, text: str) -> None:
        """Type over a text at a place of the parent."""
        self._ended, self._before = True, text  # what is set is not typed
        font = self.font()
        font.setPixelSize(sized(_LETTERS))
        self.setFont(font)
        self.setStyleSheet(f"QPlainTextEdit {{ border: 2px solid {theme().chosen}; }}")
        self.setPlainText(text)
        parent = self.parentWidget()
        assert parent
        least = max(_LEAST_WIDE, round(parent.width() * _SHARE))
        wide = min(max(least, round(place.width()) + 30), parent.width() - 16)
        left = min(max(4, round(place.left()) - 8), parent.width() - wide - 4)
        if place.height() > place.width():  # words that stand: beside them
            left = min(max(4, round(place.right()) + 4), parent.width() - wide - 4)
        self.setGeometry(left, 0, wide, sized(_LEAST_HIGH))
        high = self._needed
        top = place.center().y() - high / 2
        if place.height() <= place.width():  # away from what stands on the figure's side of them
            upper = place.center().y() < parent.height() / 2
            top = place.bottom() + _AROUND - high if upper else place.top() - _AROUND
        top = min(max(2, round(top)), parent.height() - high - 2)
        self.setGeometry(left, top, wide, high)
        self.show()
        self.raise_()
        self.setFocus()
        self.selectAll()
        self._ended = False

    @property
    def _needed(self) -> int:
        """How high the field is to be for all of its lines, as they are broken now."""
        document = self.document()
        lines = document.size().height() if document else 1.0  # a plain field counts lines
        return max(sized(_LEAST_HIGH), 14 + round(lines * self.fontMetrics().lineSpacing()))

    def _follow(self) -> None:
        if self._ended:
            return
        text = self.toPlainText()
        if len(text) > LONGEST_WORDING:
            cursor = self.textCursor()
            self._ended = True
            self.setPlainText(text[:LONGEST_WORDING])
            cursor.setPosition(LONGEST_WORDING)
            self.setTextCursor(cursor)
            self._ended = False
            told = f"Words have at most {LONGEST_WORDING:,} letters; the others were left out."
            QToolTip.showText(self.mapToGlobal(self.rect().bottomLeft()), told, self)
        self.resize(self.width(), self._needed)
        self.typed.emit(self.toPlainText())

    def _end(self, keep: bool) -> None:
        if self._ended:
            return
        self._ended = True
        text = self.toPlainText().strip()
        self.hide()
        if keep and text != self._before:
            self.written.emit(text)
        else:
            self.given_up.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        shifted = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if event.key() == Qt.Key.Key_Escape:
            self._end(keep=False)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not shifted:
            self._end(keep=True)
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if event is None or event.reason() != Qt.FocusReason.PopupFocusReason:
            self._end(keep=True)
