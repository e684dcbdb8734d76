"""The figure as it is heard: a picture that says its sentence and what the data show, and its parts
one by one, each with its words and its place."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QRect, QTimer

from rhabdos.app.controls.heard import HeardList, HeardRange, Spoken, be_a_picture
from rhabdos.app.paper.over_figure import OverFigure
from rhabdos.figure.edits.stops import Stop, card_of, rows_of_stops
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.readings.readings import Readings

if TYPE_CHECKING:
    from rhabdos.app.paper.canvas import Canvas

_FIRST = 400  # milliseconds after which the first list is made, so that no start waits for it


class HeardFigure(QObject):
    """Keeps what is heard of a canvas.

    The list of parts has the focus in place of the canvas, and tells on each step what is read.
    """

    def __init__(self, canvas: "Canvas") -> None:
        super().__init__(canvas)
        self._canvas = canvas
        be_a_picture(canvas)
        self.seen = ""
        """What the data show, in sentences of their own."""
        self.told = ""
        """What was told last: of a part, or of the range that is marked."""
        self._readings: Readings | None = None
        self._stops: tuple[Stop, ...] | None = None
        self.parts: HeardList | None = None
        self._taking_over = False
        self.ends: HeardRange | None = None

    def show_figure(self, readings: Readings) -> None:
        """Another figure is drawn, or the same with other numbers."""
        first = self._readings is None
        self._readings, self._stops = readings, None
        self._describe()
        if self.parts is not None:
            self.parts.renew_later()
        elif first:
            # Whoever hears is told as soon as the figure stands, and no start waits for it.
            QTimer.singleShot(_FIRST, self._make)

    @property
    def is_taking_over(self) -> bool:
        """Whether the focus goes from the canvas to its own list, and nothing is left."""
        return self._taking_over

    def show_seen(self, sentences: str) -> None:
        """The data show something else."""
        self.seen = sentences
        self._describe()

    def _describe(self) -> None:
        if self._readings is not None:
            self._canvas.setAccessibleDescription(f"{plain(self._readings)} {self.seen}".strip())

    def read(self, stop: Stop) -> None:
        """Another part is read."""
        self._make()
        if (card := self._canvas.card()) is not None:
            self.told = card.spoken()
        if self.parts is not None and stop in (stops := self._all()):
            self.parts.go_to(stops.index(stop))

    def show_range(self) -> None:
        """Another range is marked, or none."""
        hand = self._canvas.range_hand
        if (card := hand.card()) is not None:
            self.told = card.spoken()
        if self.ends is None and hand.marked is not None:
            self.ends = HeardRange("range that is marked", self._canvas, hand.move_end)
        scene, readings = self._canvas.scene, self._readings
        if self.ends is not None and scene is not None and readings is not None:
            marked = hand.marked
            frame = scene.frames[(marked.panel if marked else None) or 0]
            ends = marked.ends if marked else None
            self.ends.show_ends(ends, frame.low, frame.high, readings.variable.unit)

    def resize(self) -> None:
        """The canvas has another size."""
        if self.parts is not None:
            self.parts.setGeometry(self._canvas.rect())

    def _make(self) -> None:
        """Make the list, which no start waits for."""
        if self.parts is not None:
            return
        canvas = self._canvas
        self._taking_over = focused = canvas.hasFocus()
        spoken = Spoken(lambda: len(self._all()), self._words, self._place)
        self.parts = HeardList("Parts of the figure", spoken, canvas, canvas)
        self.parts.setGeometry(canvas.rect())
        self.parts.show()
        self.parts.renew_later()
        if focused:
            self.parts.setFocus()
        self._taking_over = False

    def _all(self) -> tuple[Stop, ...]:
        if self._readings is None:
            return ()
        if self._stops is None:
            rows = rows_of_stops(self._readings)
            self._stops = tuple(stop for row in rows for stop in row)
        return self._stops

    def _words(self, index: int) -> str:
        stops = self._all()
        if self._readings is None or index >= len(stops):
            return ""
        return card_of(self._readings, stops[index]).spoken()

    def _place(self, index: int) -> QRect:
        canvas, stops = self._canvas, self._all()
        if self._readings is None or canvas.scene is None or index >= len(stops):
            return QRect()
        over = OverFigure(canvas.scene, self._readings, canvas.scale)
        whole = QRect()
        for place in over.places(stops[index]):
            whole = whole.united(place.toAlignedRect())
        return whole
