"""The places of the window, switched in one corner by word and by key."""

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import QTabBar, QWidget

from rhabdos.app.session.surroundings import Place

PLACES: dict[Place, tuple[str, str]] = {
    "overview": ("Overview", "F2"),
    "rows": ("Rows", "F3"),
    "figure": ("Figure", "F4"),
}


class Places(QTabBar):
    """One word a place; the present one is marked."""

    chosen = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("places")
        self.setAccessibleName("Places")
        self.setDrawBase(False)
        self.setExpanding(False)
        self.setUsesScrollButtons(False)
        self.setElideMode(Qt.TextElideMode.ElideNone)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        for words, keys in PLACES.values():
            self.setTabToolTip(self.addTab(words), f"{words} ({keys})")
        self.mark("figure")
        self.currentChanged.connect(lambda index: self.chosen.emit(list(PLACES)[index]))

    def mark(self, present: Place) -> None:
        """Show which place is in sight."""
        with QSignalBlocker(self):  # what is in sight already is not gone to again
            self.setCurrentIndex(list(PLACES).index(present))
