"""What is going on, with a way to stop it: over whatever place of the window is in sight, or at the
foot of the window while what is in sight can be used."""

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtWidgets import QLabel, QProgressBar, QPushButton, QSizePolicy, QStatusBar, QWidget

from rhabdos.app.controls.marked import dressed_as
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row

_QUIET_WIDTH = 120  # pixels
_MARGIN, _WIDTH, _HEIGHT = 16, 420, 104  # pixels, as all of these


class QuietProgress(QWidget):
    """The same on one line of the foot of the window."""

    def __init__(self, bar: QStatusBar | None, cancel: Callable[[], object]) -> None:
        super().__init__()
        self.stage = QLabel()
        self.stage.setTextFormat(Qt.TextFormat.PlainText)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setFixedSize(_QUIET_WIDTH, 6)
        self.bar.setRange(0, 0)
        self.cancel_button = QPushButton("Stop")
        self.cancel_button.setObjectName("quiet")
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Preferred)
        in_a_row(self.stage, self.bar, self.cancel_button, of=self)
        self.hide()
        self.cancel_button.clicked.connect(lambda: cancel())
        if bar is not None:
            bar.addPermanentWidget(self)

    def tell(self, stage: str) -> None:
        """Show what is going on."""
        self.stage.setText(f"{stage} …")
        self.show()


class Progress(QWidget):
    """What is going on, how far it is, and a way to stop it."""

    def __init__(self, parent: QWidget, cancel: Callable[[], object]) -> None:
        super().__init__(parent)
        self.hide()
        parent.installEventFilter(self)  # stays at its place where the window changes its size
        dressed_as(self, "card")
        self.stage = QLabel()
        self.stage.setTextFormat(Qt.TextFormat.PlainText)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(6)
        self.cancel_button = QPushButton("Cancel")
        self.cancel_button.clicked.connect(lambda: cancel())
        row = in_a_row(None, self.cancel_button)
        in_a_column(self.stage, self.bar, row, around=(16, 12, 16, 12), of=self)

    def tell(self, stage: str, share: float) -> None:
        """Show the stage and the share done; below 0 where it is unknown."""
        self.stage.setText(f"{stage} …")
        if share < 0:
            self.bar.setRange(0, 0)
        else:
            self.bar.setRange(0, 1000)
            self.bar.setValue(round(share * 1000))
        self._place()
        self.show()
        self.raise_()

    def _place(self) -> None:
        over = self.parentWidget()
        assert over
        width = min(_WIDTH, over.width() - 2 * _MARGIN)
        top = max(_MARGIN, over.height() // 2 - 60)
        self.setGeometry((over.width() - width) // 2, top, width, _HEIGHT)

    def eventFilter(self, over: QObject | None, event: QEvent | None) -> bool:
        """Stay in the middle of what it lies over."""
        if event is not None and event.type() == QEvent.Type.Resize and self.isVisible():
            self._place()
        return super().eventFilter(over, event)
