"""The places of the window, switched in one corner by word and by key."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QToolButton, QWidget

from rhabdos.app.controls.rows_and_columns import in_a_row
from rhabdos.app.session.surroundings import Place

PLACES: dict[Place, tuple[str, str]] = {
    "overview": ("Overview", "F2"),
    "rows": ("Rows", "F3"),
    "figure": ("Figure", "F4"),
}


class Places(QWidget):
    """One word a place; the present one is marked."""

    chosen = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        layout = in_a_row(around=(0, 0, 10, 0), gap=0, of=self)
        self.buttons: dict[Place, QToolButton] = {}
        for place, (words, keys) in PLACES.items():
            button = QToolButton()
            button.setObjectName("place")
            button.setText(words)
            button.setToolTip(f"{words} ({keys})")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            button.clicked.connect(lambda _checked, place=place: self.chosen.emit(place))
            self.buttons[place] = button
            layout.addWidget(button)
        self.mark("figure")

    def mark(self, present: Place) -> None:
        """Show which place is in sight."""
        for place, button in self.buttons.items():
            button.setChecked(place == present)
