"""The settings of the phrase "bins", and the ladder: the same values at other widths."""

from functools import partial

from PyQt6.QtCore import QEvent, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QIcon, QKeyEvent
from PyQt6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem

from rhabdos.app.controls.dialog_layout import pause
from rhabdos.app.controls.pictures import PAUSE, picture_of
from rhabdos.app.controls.theme import sized, theme
from rhabdos.app.controls.typed_fields import heading
from rhabdos.app.panels.settings_panel import SettingsPanel
from rhabdos.data.sample_sets import SampleSet
from rhabdos.errors import Refusal
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.readings.ladder import ladder_widths, peaks_said, rungs_at
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.scene.miniature import small

_PICTURE = 92, 34  # pixels
_FOLLOWS = 50  # milliseconds between pictures that follow a hand
_NEARLY = 1e-9  # by which a width may differ from one that stands in the ladder


class Ladder(QListWidget):
    """Widths from narrow to wide, each with a small true picture and its peaks.

    Signals
    -------
    adopted : a width, by click or by an arrow key.
    """

    adopted = pyqtSignal(float)

    def __init__(self) -> None:
        super().__init__()
        self._warning: list[bool] = []
        self.setObjectName("ladder")
        self.setAccessibleName("The same values at other widths")
        self.setIconSize(QSize(*_PICTURE))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.widths: tuple[float, ...] = ()
        self.itemClicked.connect(lambda item: self._adopt(self.row(item)))

    def show_rungs(self, widths: tuple[float, ...], words: list[tuple[str, bool]], at: int) -> None:
        """List widths, each with its words and whether they warn; ``at`` is the present one."""
        if len(widths) != len(self.widths):
            self.clear()
            for _ in widths:
                row = QListWidgetItem()
                row.setSizeHint(QSize(0, _PICTURE[1] + sized(10)))
                self.addItem(row)
            self.setFixedHeight((_PICTURE[1] + sized(10)) * len(widths) + 4)
        self.widths = widths
        self._warning = [warns for _, warns in words]
        for index, (text, _) in enumerate(words):
            if (item := self.item(index)) is not None:
                item.setText(text)
        self._colour()
        self.setCurrentRow(at)

    def _colour(self) -> None:
        for index, warns in enumerate(self._warning):
            if (item := self.item(index)) is not None:
                item.setForeground(QColor(theme().notice_ink if warns else theme().ink))

    def changeEvent(self, event: QEvent | None) -> None:
        """Rows hold their colours: others are wanted where the window is dressed anew."""
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.StyleChange:
            self._colour()

    def _adopt(self, row: int) -> None:
        if 0 <= row < len(self.widths):
            self.adopted.emit(self.widths[row])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows adopt the width beside the present one."""
        by = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key())) if event else None
        if by is None:
            super().keyPressEvent(event)
        else:
            self._adopt(self.currentRow() + by)


class BinsPanel(SettingsPanel):
    """The settings of bins with the ladder beneath them."""

    def __init__(self) -> None:
        super().__init__(PHRASES["bins"])
        self.ladder = Ladder()
        self._heading = heading("The same values at other widths")
        self.column.insertSpacing(self.column.count() - 1, 12)
        place = self.column.count() - 1
        for widget in (self._heading, self.ladder):
            self.column.insertWidget(place, widget)
            place += 1
        self.ladder.adopted.connect(self._adopt)
        self._of: SampleSet | None = None
        self._widths: tuple[float, ...] = ()
        self._pictures: dict[float, QIcon] = {}
        """Of the widths that have been painted, since the figure was another."""
        self._followed, self._stale = -1, False
        """The row that follows a hand, and whether it has moved on since that was painted."""
        self._following = QTimer(self)
        self._following.setSingleShot(True)
        self._following.timeout.connect(self._catch_up)
        self._painting = pause(self, PAUSE, self._paint)

    def show_readings(self, readings: Readings) -> None:
        """Show the settings and the ladder; its pictures follow when the figure stands still."""
        super().show_readings(readings)
        self._pictures, self._followed, self._stale = {}, -1, False
        if self._show_ladder(readings):
            self._painting.start()

    def follow(self, readings: Readings) -> None:
        """Show the ladder of a figure that follows a hand: the present width at its place, counted
        anew and, a few times a second, painted, and the others as they were."""
        if self.readings is None or not self.isVisible():
            return
        self.readings = readings
        if not self._show_ladder(readings):
            return
        for row, width in enumerate(self._widths):
            if width == readings.edges.width:
                if row != self._followed or not self._following.isActive():
                    self._paint_followed(row)
                    self._following.start(_FOLLOWS)
                else:
                    self._stale = True
            elif (item := self.ladder.item(row)) is not None:
                item.setIcon(self._pictures.get(width, QIcon()))

    def _catch_up(self) -> None:
        if self._stale and 0 <= self._followed < len(self._widths):
            self._paint_followed(self._followed)

    def _paint_followed(self, row: int) -> None:
        self._followed, self._stale = row, False
        self._paint_rung(row, self._widths[row])

    def _show_ladder(self, readings: Readings) -> bool:
        """List the rungs in words; whether there are any."""
        self._widths = self._widths_for(readings)
        rungs = rungs_at(readings, self._widths)
        self._widths = tuple(rung.width for rung in rungs)
        for widget in (self._heading, self.ladder):
            widget.setVisible(bool(rungs))
        if not rungs:
            return False
        told, said = readings.variable.format_difference, peaks_said(rungs)
        words = [
            (f"{told(rung.width)}\n{text}", lost)
            for rung, (text, lost) in zip(rungs, said, strict=True)
        ]
        at = next((row for row, w in enumerate(self._widths) if w == readings.edges.width), -1)
        self.ladder.show_rungs(self._widths, words, at)
        return True

    def _widths_for(self, readings: Readings) -> tuple[float, ...]:
        """Those that stand there already, as long as the present width is one of them."""
        width, same = readings.edges.width, self._of is readings.samples
        self._of = readings.samples
        if same and width is not None and self._widths:
            near = [abs(each - width) <= _NEARLY * width for each in self._widths]
            if any(near):
                return tuple(
                    width if is_near else each
                    for each, is_near in zip(self._widths, near, strict=True)
                )
        return ladder_widths(readings)

    def _recipe_at(self, width: float) -> Recipe:
        assert self.readings
        bins = self.readings.recipe.bins
        return self.readings.recipe.binned(bins.with_width(width))

    def _adopt(self, width: float) -> None:
        if self.readings is not None and width != self.readings.edges.width:
            self.say("")
            self.recipe_asked.emit(
                f"Bin width {self.readings.variable.difference_written(width)}",
                self._recipe_at(width),
            )

    def _paint(self) -> None:
        """A small true picture of the figure at each width."""
        if self.readings is not None and self.isVisible():
            for row, width in enumerate(self.ladder.widths):
                self._paint_rung(row, width)

    def _paint_rung(self, row: int, width: float) -> None:
        item = self.ladder.item(row)
        if self.readings is None or item is None:
            return
        present = width == self.readings.edges.width
        recipe = self.readings.recipe if present else self._recipe_at(width)
        bare = recipe.showing(upright=False, arrange=None)
        try:
            picture = picture_of(partial(small, bare, self.readings), self.ladder.iconSize(), self)
        except Refusal:
            picture = QIcon()
        if not present:
            self._pictures[width] = picture
        item.setIcon(picture)
