"""The finer settings of the phrase "drawn as": every form as a small true picture of this figure,
on or off."""

from PyQt6.QtCore import QSize, Qt, QTimer
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QGridLayout, QToolButton

from rhabdos.app.fields import quiet
from rhabdos.app.phrase_panels import Panel
from rhabdos.errors import Refusal
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import Form
from rhabdos.figure.wording import FORM_TITLES
from rhabdos.paint.painter import paint, painter_on
from rhabdos.scene.build import miniature
from rhabdos.scene.forms import HEIGHTS_FORMS

_PICTURE = QSize(92, 46)
_COLUMNS = 2
_PAUSE = 80  # milliseconds without a change after which the pictures are painted


class FormsPanel(Panel):
    """A button a form; pressed are those that the figure is drawn as."""

    def __init__(self) -> None:
        super().__init__("Drawn as")
        grid = QGridLayout()
        grid.setContentsMargins(0, 6, 0, 0)
        grid.setSpacing(8)
        self.buttons: dict[Form, QToolButton] = {}
        for place, form in enumerate(HEIGHTS_FORMS):
            button = QToolButton()
            button.setObjectName("picture")
            button.setText(
                FORM_TITLES[form].capitalize() if FORM_TITLES[form].islower() else FORM_TITLES[form]
            )
            button.setAccessibleName(FORM_TITLES[form])
            button.setCheckable(True)
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
            button.setIconSize(_PICTURE)
            button.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            button.clicked.connect(lambda _checked, chosen=form: self._toggle(chosen))
            self.buttons[form] = button
            grid.addWidget(button, place // _COLUMNS, place % _COLUMNS)
        grid.setColumnStretch(_COLUMNS, 1)
        self.column.addLayout(grid)
        self.column.addSpacing(8)
        self.column.addWidget(
            quiet("Forms combine: press as many as you like. Words, colours, bins and limits stay.")
        )
        self.column.addStretch()
        self._painting = QTimer(self)
        self._painting.setSingleShot(True)
        self._painting.timeout.connect(self._paint)

    def show_readings(self, readings: Readings) -> None:
        super().show_readings(readings)
        for form, button in self.buttons.items():
            button.setChecked(form in readings.recipe.show.forms)
        self._painting.start(_PAUSE)

    def _toggle(self, form: Form) -> None:
        drawn = self.recipe.show.forms
        if drawn == (form,):
            self.buttons[form].setChecked(True)  # a figure is drawn as something
            return
        title = FORM_TITLES[form]
        others = tuple(other for other in HEIGHTS_FORMS if (other in drawn) != (other == form))
        words = f"Without {title}" if form in drawn else f"Draw {title}"
        self.asked.emit(words, self.recipe.showing(forms=others))

    def _paint(self) -> None:
        if self.readings is None:
            return
        ratio = self.devicePixelRatioF()
        for form, button in self.buttons.items():
            picture = QPixmap(_PICTURE * ratio)
            picture.setDevicePixelRatio(ratio)
            try:
                scene = miniature(self.readings, form, _PICTURE.width(), _PICTURE.height())
            except Refusal as refusal:
                button.setToolTip(str(refusal))
                continue
            with painter_on(picture) as painter:
                paint(scene, painter)
            button.setIcon(QIcon(picture))
