"""The settings of the phrase "arrangement": each as a small true picture of this figure."""

from functools import partial

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QLabel, QToolButton

from rhabdos.app.controls.dialog_layout import pause
from rhabdos.app.controls.pictures import PAUSE, PictureGrid, picture_button, show_picture
from rhabdos.app.controls.typed_fields import quiet
from rhabdos.app.panels.panel import Panel
from rhabdos.figure.phrases.grouping import ARRANGE, ARRANGED, arrangements, in_panels
from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.miniature import small

_PICTURE = QSize(92, 58)
_PANELS = "panels"


class ArrangePanel(Panel):
    """A picture for each way in which the groups of this figure may lie, and for panels."""

    def __init__(self) -> None:
        super().__init__(ARRANGE.title)
        grid = PictureGrid()
        self.pictures: dict[str, QToolButton] = {}
        self.words: dict[str, QLabel] = {}
        named: dict[str, str] = {**ARRANGED, _PANELS: "in panels"}  # type: ignore[dict-item]
        for key, words in named.items():
            button = picture_button(f"Groups {words}", _PICTURE)
            button.clicked.connect(partial(self._choose, key))
            self.pictures[key], self.words[key] = button, quiet(words[0].upper() + words[1:])
            grid.add(button, self.words[key])
        self.column.addLayout(grid)
        self.column.addWidget(self.fault)
        self.column.addSpacing(4)
        self.column.addWidget(quiet(ARRANGE.hint))
        self.column.addStretch()
        self._painting = pause(self, PAUSE, self._paint)

    def show_readings(self, readings: Readings) -> None:
        """Show how the groups of a figure lie; the pictures follow when it stands still."""
        super().show_readings(readings)
        self.say("")
        for key, _text, _recipe, _why in arrangements(readings):
            self.pictures[key].setChecked(key == readings.plan.arrange)
        panels = in_panels(readings)
        self.pictures[_PANELS].setChecked(False)
        for widget in (self.pictures[_PANELS], self.words[_PANELS]):
            widget.setVisible(panels is not None)
        self._painting.start()

    def begin(self) -> None:
        """Take the keys at the first picture."""
        self.pictures["overlaid"].setFocus()

    def _choose(self, key: str) -> None:
        assert self.readings
        self.pictures[key].setChecked(key == self.readings.plan.arrange)
        if key == _PANELS:
            if panels := in_panels(self.readings):
                self.recipe_asked.emit(*panels)
            return
        _, _, wanted, why = next(each for each in arrangements(self.readings) if each[0] == key)
        if why:
            self.say(why)
        elif wanted != self.recipe:
            named = self.words[key].text().partition("\n")[0].lower()
            self.recipe_asked.emit(f"Groups {named}", wanted)

    def _paint(self) -> None:
        """Paint every arrangement that can be had; the others say why they cannot."""
        if self.readings is None:
            return
        for key, _text, recipe, why in arrangements(self.readings):
            button = self.pictures[key]
            button.setProperty("unfit", bool(why))
            button.setToolTip(why)
            named = self.words[key].text().partition("\n")[0]
            self.words[key].setText(f"{named}\n{why}" if why else named)
            self.words[key].setEnabled(not why)
            if why:
                button.setIcon(QIcon())
            else:
                show_picture(button, partial(small, recipe, self.readings))
        if panels := in_panels(self.readings):
            show_picture(self.pictures[_PANELS], partial(small, panels[1], self.readings))
