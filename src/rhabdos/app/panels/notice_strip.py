"""Under the figure: the notices, one at a time, and all of them one click away."""

import itertools
from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QPoint, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QLabel, QPushButton, QWidget

from rhabdos.app.controls.marked import dressed_as
from rhabdos.app.controls.plain_texts import as_written, plain_tip
from rhabdos.app.controls.rows_and_columns import Part, in_a_column, in_a_row
from rhabdos.app.controls.theme import sized, theme
from rhabdos.figure.words.notice import Notice

_MOST_CURES = 4  # of one notice that stand beside it
_LEAST_WORDS = 60  # pixels that a notice keeps beside its cures
_LIST_WIDE = 460  # pixels of the words in the list of notices


def _begun(words: str) -> str:
    """Words with which a button begins."""
    return words[:1].upper() + words[1:]


def _cure_button(words: str = "") -> QPushButton:
    button = QPushButton(as_written(_begun(words)))
    button.setObjectName("cure")
    return button


class NoticeList(QFrame):
    """All notices at once, whole, the gravest first, each with its cure."""

    cured = pyqtSignal(int, int)

    def __init__(self, notices: Sequence[Notice], parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("notice")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setAccessibleName("All notices")
        rows: list[Part] = []
        self.cures: dict[tuple[int, int], QPushButton] = {}
        for index, notice in enumerate(notices):
            text = QLabel(notice.text)
            text.setObjectName("noticeText")
            text.setTextFormat(Qt.TextFormat.PlainText)
            text.setWordWrap(True)
            text.setMinimumWidth(_LIST_WIDE)
            rows.append(text)
            offered = []
            for place, (words, _) in enumerate(notice.offers):
                button = _cure_button(words)
                button.clicked.connect(partial(self._cure, index, place))
                self.cures[index, place] = button
                offered.append(button)
            if offered:
                rows.append(in_a_row(*offered, None))
            rows.append(4)
        in_a_column(*rows[:-1], around=(12, 9, 12, 9), gap=2, of=self)

    def _cure(self, index: int, place: int, _checked: bool) -> None:
        self.close()
        self.cured.emit(index, place)

    def open_over(self, widget: QWidget) -> None:
        """Open with the lower right corner at a widget's upper right one, within the window."""
        self.adjustSize()
        corner = widget.mapToGlobal(QPoint(widget.width() - self.width(), -self.height() - 2))
        self.move(max(corner.x(), 0), max(corner.y(), 0))
        self.show()
        if self.cures:
            next(iter(self.cures.values())).setFocus()


class _OneLine(QLabel):
    """A sentence in one line, with dots where there is no room for all of it."""

    def minimumSizeHint(self) -> QSize:
        return QSize(sized(_LEAST_WORDS), super().minimumSizeHint().height())

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(QColor(theme().notice_ink))
        shown = self.fontMetrics().elidedText(
            self.text(), Qt.TextElideMode.ElideRight, self.width()
        )
        painter.drawText(self.rect(), self.alignment() | Qt.AlignmentFlag.AlignVCenter, shown)


class NoticeStrip(QWidget):
    """One notice at a time, with its cure; all of them one click away."""

    cured = pyqtSignal(str, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        dressed_as(self, "notice")
        self.text = _OneLine()
        self.text.setObjectName("noticeText")
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        self.cures = [_cure_button() for _ in range(_MOST_CURES)]
        self.more = _cure_button()
        in_a_row(self.text, *self.cures, self.more, around=(9, 2, 7, 2), gap=8, of=self)
        self.notices: tuple[Notice, ...] = ()
        self._at = 0
        for place, button in enumerate(self.cures):
            button.clicked.connect(partial(self._cure, place))
        self.more.clicked.connect(self._list)
        self.hide()

    def show_notices(self, notices: tuple[Notice, ...]) -> None:
        """Show notices, beginning with the gravest; with what has just come up, where that is as
        grave."""
        known = {notice.code for notice in self.notices}
        fresh = [index for index, notice in enumerate(notices) if notice.code not in known]
        if fresh and notices[fresh[0]].weight <= min(notice.weight for notice in notices):
            self._at = fresh[0]  # what has just come up is what the user has just done
        elif fresh or len(notices) != len(self.notices):
            self._at = 0
        self.notices = notices
        self._show()

    def _show(self) -> None:
        self.setVisible(bool(self.notices))
        if not self.notices:
            return
        notice = self.notices[self._at]
        self.text.setText(notice.text)
        self.text.setToolTip(plain_tip(notice.text))
        words = [words for words, _ in notice.offers]
        for button, said in itertools.zip_longest(self.cures, words[: len(self.cures)]):
            button.setText(as_written(_begun(said or "")))
            button.setVisible(said is not None)
        self.more.setText(f"All {len(self.notices)}")
        self.more.setAccessibleName("All notices")
        self.more.setVisible(len(self.notices) > 1)

    @property
    def shown(self) -> Notice:
        """The notice in sight."""
        return self.notices[self._at]

    @property
    def cure(self) -> QPushButton:
        """The button of the cure that suits best."""
        return self.cures[0]

    def _cure(self, place: int, _checked: bool) -> None:
        self._take(self._at, place)

    def _take(self, index: int, place: int) -> None:
        words, cure = self.notices[index].offers[place]
        self.cured.emit(_begun(words), cure)

    def _list(self) -> None:
        self.listed = NoticeList(self.notices, self)
        self.listed.cured.connect(self._take)
        self.listed.open_over(self)
