"""A font, chosen from those installed here."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QFontDatabase
from PyQt6.QtWidgets import QComboBox

from rhabdos.figure.phrases.look import USUAL


class FontField(QComboBox):
    """The families of letters installed here; ``chosen`` tells one, or "" for the usual one."""

    chosen = pyqtSignal(str)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setSizeAdjustPolicy(self.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(6)
        self.activated.connect(lambda row: self.chosen.emit(self.itemText(row) if row else ""))

    def show_font(self, family: str) -> None:
        """Show the font in use; one that is not installed here too, marked as such."""
        if not self.count():
            self.addItem(USUAL)
            self.addItems(QFontDatabase.families())
        at = self.findText(family) if family else 0
        if at < 0:
            self.addItem(family)
            at = self.count() - 1
        self.setCurrentIndex(at)
