"""A menu of choices, of which one is the present one, or several are."""

from collections.abc import Callable

from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QAction, QActionGroup
from PyQt6.QtWidgets import QMenu, QWidget

from rhabdos.app.controls.plain_texts import as_written


class Choices(QMenu):
    """Opens at the present choice, and is gone when it closes."""

    def __init__(self, parent: QWidget, several: bool = False) -> None:
        super().__init__(parent)
        self._group = QActionGroup(self)
        if several:
            self._group.setExclusionPolicy(QActionGroup.ExclusionPolicy.None_)
        # A menu is made each time it is opened, and Qt keeps it otherwise.
        self.aboutToHide.connect(self.deleteLater)

    def offer(self, text: str, does: Callable[[], object], present: bool | None = None) -> QAction:
        """Add an entry; of choices the present one is marked, of mere deeds (None) none is."""
        action = QAction(as_written(text), self)
        action.triggered.connect(lambda: does())
        if present is not None:
            action.setCheckable(True)
            action.setChecked(present)
            self._group.addAction(action)
        self.addAction(action)
        return action

    def open_at(self, place: QPoint) -> None:
        """Open below a place on the screen."""
        self.popup(place)
        if (present := self._group.checkedAction()) and self._group.isExclusive():
            self.setActiveAction(present)
