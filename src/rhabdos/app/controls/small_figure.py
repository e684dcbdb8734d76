"""A live small picture: a true figure of a table that is still being made."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from rhabdos.app.controls.theme import theme
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.paint.fonts import measure_for
from rhabdos.paint.painter import paint
from rhabdos.scene.build import build
from rhabdos.scene.marks import Scene


class SmallFigure(QWidget):
    """Draws a figure as large as there is room for."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(280, 180)
        self.setAccessibleName("The figure so far")
        self.scene: Scene | None = None
        self.words = ""

    def show_nothing(self, words: str = "Nothing to draw yet.") -> None:
        """Say why there is no figure."""
        self.scene, self.words = None, words
        self.update()

    def show_figure(self, table: Table, recipe: Recipe) -> None:
        """Draw a recipe of a table."""
        try:
            readings = read(recipe, samples_for(recipe, table))
            self.scene = build(readings, measure_for(readings.recipe), size=Size.parse("13x9cm"))
        except Refusal as refusal:
            self.show_nothing(str(refusal))
            return
        self.words = ""
        self.setAccessibleDescription(self.scene.describe())
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t = theme()
        if self.scene is None:
            painter.setPen(QPen(QColor(t.hairline), 1))
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
            painter.setPen(QColor(t.quiet))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(QRectF(self.rect()).adjusted(20, 20, -20, -20), flags, self.words)
            return
        scale = min(self.width() / self.scene.width, self.height() / self.scene.height)
        painter.translate(
            (self.width() - self.scene.width * scale) / 2,
            (self.height() - self.scene.height * scale) / 2,
        )
        painter.scale(scale, scale)
        paint(self.scene, painter, live=True)
