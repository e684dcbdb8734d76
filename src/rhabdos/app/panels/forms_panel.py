"""The settings of the phrase "drawn as": every form as a small true picture of this figure."""

from contextlib import suppress
from functools import partial

from PyQt6.QtWidgets import QCheckBox, QToolButton

from rhabdos.app.controls.dialog_layout import pause
from rhabdos.app.controls.pictures import PAUSE, SIZE, PictureGrid, picture_button, show_picture
from rhabdos.app.controls.typed_fields import quiet
from rhabdos.app.panels.panel import Panel
from rhabdos.app.session.tasks import Task
from rhabdos.data.reporting import Report
from rhabdos.errors import Refusal
from rhabdos.figure.phrases.shown import drawn_as
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.forms import FORMS
from rhabdos.figure.recipe.recipe import Form
from rhabdos.scene.miniature import miniature


class FormsPanel(Panel):
    """A picture a form, which draws it alone, and a tick, which combines it with others."""

    def __init__(self) -> None:
        super().__init__("Drawn as")
        grid = PictureGrid()
        self.pictures: dict[Form, QToolButton] = {}
        self.ticks: dict[Form, QCheckBox] = {}
        for form, line in FORMS.items():
            picture = picture_button(f"Draw {line.title} alone")
            picture.clicked.connect(partial(self._draw_alone, form))
            tick = QCheckBox(line.title[0].upper() + line.title[1:])
            tick.setAccessibleName(line.title)
            tick.clicked.connect(partial(self._toggle, form))
            self.pictures[form], self.ticks[form] = picture, tick
            grid.add(picture, tick)
        self.column.addLayout(grid)
        self.column.addSpacing(4)
        self.column.addWidget(
            quiet(
                "A click on a picture draws it alone; ticks combine several. Words, colours, bins "
                "and limits stay."
            )
        )
        self.column.addStretch()
        self._painting = pause(self, PAUSE, self._paint)
        self._asked: Readings | None = None

    def show_readings(self, readings: Readings) -> None:
        """Show which forms a figure is drawn as; the pictures follow when it stands still."""
        super().show_readings(readings)
        drawn = readings.recipe.show.forms
        for form, tick in self.ticks.items():
            tick.setChecked(form in drawn)
            self.pictures[form].setChecked(form in drawn)
        self._painting.start()

    def begin(self) -> None:
        """Take the keys at the first picture."""
        self.pictures["bars"].setFocus()

    def _draw_alone(self, form: Form) -> None:
        self.pictures[form].setChecked(True)
        if self.recipe.show.forms != (form,):
            title = FORMS[form].title
            self._draw(f"Drawn as {title}", (form,))

    def _toggle(self, form: Form) -> None:
        drawn = self.recipe.show.forms
        if drawn == (form,):
            self.ticks[form].setChecked(True)  # a figure is drawn as something
            return
        title = FORMS[form].title
        others = tuple(other for other in FORMS if (other in drawn) != (other == form))
        words = f"Without {title}" if form in drawn else f"Draw {title}"
        self._draw(words, others)

    def _draw(self, words: str, forms: tuple[Form, ...]) -> None:
        assert self.readings
        self.recipe_asked.emit(words, drawn_as(self.readings, forms))

    def _paint(self) -> None:
        readings = self.readings
        if readings is None:
            return
        table = readings.gathered.table
        if table is None or table.far is None or readings is self._asked:
            for form, button in self.pictures.items():
                show_picture(button, partial(miniature, readings, form))
            return
        # What forms need of data that lie elsewhere is asked beside the window, and then at hand.
        self._asked = readings
        task = Task(partial(_drawn, readings), self)
        task.succeeded.connect(self._paint)
        task.begin()


def _drawn(readings: Readings, report: Report) -> None:
    """Draw a figure in all forms, so that all is known that they need."""
    for form in FORMS:
        report("Drawing pictures", None)
        with suppress(Refusal):  # which is told where the picture would be
            miniature(readings, form, SIZE.width(), SIZE.height())
