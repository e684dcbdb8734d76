"""What the rod is made of, whichever grips it holds: the slate bar with its ruler, and the words
under it."""

import math
from collections.abc import Iterator

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFocusEvent, QFont, QMouseEvent, QPainter, QPen, QPixmap, QTransform
from PyQt6.QtWidgets import QWidget

from rhabdos.app.controls.heard import HeardValue, Standing
from rhabdos.app.controls.theme import sized, theme
from rhabdos.figure.readings.readings import Readings
from rhabdos.paint.painter import painter_on
from rhabdos.scene.coordinates import Frame
from rhabdos.stats.rounding import multiple_below, nearest_round_step, sequence

BAR_HEIGHT, READOUT_HEIGHT = 28, 28  # pixels
_PIXELS_A_MARK = 5  # at least
_MOST_MARKS = 2_000  # that are worth painting
_FURTHEST = 1.7e308  # where the ruler ends, just short of the range of numbers


class OnRod(HeardValue):
    """A rod under the figure, or beside a standing one, aligned with its value axis.

    What its grips are, its kinds know. They reckon along the rod and away from the figure; only
    here is known whether it lies or stands.
    """

    part_asked = pyqtSignal(object, str)
    """A part of the recipe, and what the step is called."""
    moved = pyqtSignal(object)
    """That part while the hand is still moving."""
    held = pyqtSignal(bool)
    """A hand takes hold (True) or lets go (False)."""

    def __init__(self, name: str, hint: str, parent: QWidget | None = None) -> None:
        super().__init__(name, parent, self.set_to)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.upright = False
        self.setToolTip(hint)
        self._readings: Readings | None = None
        self._frame: Frame | None = None
        self._scale = 1.0
        self._dragged = False
        self._bar: tuple[tuple[object, ...], QPixmap] | None = None

    def show_figure(self, readings: Readings, frame: Frame, scale: float) -> None:
        """Show the grips of a figure whose frame is drawn at this scale, from the same left."""
        self._readings, self._frame, self._scale = readings, frame, scale
        self.upright = frame.upright
        if not self.in_hand:  # nobody listens to every pixel: it is told when the hand lets go
            self.tell()
        self.update()

    @property
    def in_hand(self) -> bool:
        """Whether a hand holds a grip."""
        return False

    def tell(self) -> None:
        """Tell what the grips stand at, to those who hear it."""
        self.setAccessibleDescription(self.readout())
        if (standing := self.standing()) is not None:
            self.show_value(standing)

    def standing(self) -> Standing | None:
        """What is set; None where nothing is."""
        return None

    def set_to(self, value: float) -> None:
        """Set what the grips stand at, as a screen reader does."""

    def readout(self) -> str:
        """What the grips stand at, in words."""
        return ""

    def let_go(self) -> None:
        """Let go of what a hand holds, as though it had not been moved."""

    @property
    def length(self) -> int:
        """Pixels along the rod."""
        return self.height() if self.upright else self.width()

    def at(self, event: QMouseEvent) -> QPointF:
        """Where the mouse is: along the rod, and away from the figure."""
        place = event.position()
        return (
            QPointF(self.height() - place.y(), self.width() - place.x()) if self.upright else place
        )

    def place_of(self, along: float, away: float) -> QPointF:
        """Where a place of the rod lies in the widget."""
        if self.upright:
            return QPointF(self.width() - away, self.height() - along)
        return QPointF(along, away)

    def painter(self) -> QPainter:
        """A painter whose x runs along the rod, and y away from the figure."""
        painter = QPainter(self)
        if self.upright:
            painter.setTransform(QTransform(0, -1, -1, 0, self.width(), self.height()))
        return painter

    def paint_bar(self, painter: QPainter) -> None:
        """The bar, and a ruler along its lower side with a longer mark at every fifth round step,
        or at every power of ten.

        It is painted once for each axis and kept, since the grips move over it and not the marks.
        """
        frame = self._frame
        assert frame is not None
        ratio = self.devicePixelRatioF()
        axis = frame.low, frame.high, frame.start, frame.end, frame.axis
        wanted = *axis, self._scale, self.length, ratio, theme().rod
        if self._bar is None or self._bar[0] != wanted:
            picture = QPixmap(round(self.length * ratio), round(BAR_HEIGHT * ratio))
            picture.setDevicePixelRatio(ratio)
            with painter_on(picture) as on_picture:
                _paint_bar(on_picture, self.length, frame, self._scale)
            self._bar = wanted, picture
        painter.drawPixmap(0, 0, self._bar[1])

    @property
    def along_cursor(self) -> Qt.CursorShape:
        """That of a grip that moves along the rod."""
        return Qt.CursorShape.SizeVerCursor if self.upright else Qt.CursorShape.SizeHorCursor

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.update()


def thickness() -> int:
    """Pixels of a rod across: its bar, and the words beyond it."""
    return BAR_HEIGHT + sized(READOUT_HEIGHT)


def units_per_pixel(frame: Frame, scale: float, along: float | None = None) -> float:
    """What one pixel stands for, in the variable's unit: at a place along, in pixels, or in all."""
    if along is None:
        return (frame.high - frame.low) / ((frame.end - frame.start) * scale)
    return frame.units_over(along / scale, 1 / scale)


def _paint_bar(painter: QPainter, length: int, frame: Frame, scale: float) -> None:
    painter.fillRect(0, 0, length, BAR_HEIGHT, QColor(theme().rod))
    ends = sorted((frame.value(0), frame.value(length / scale)))
    low, high = (max(-_FURTHEST, min(_FURTHEST, end)) for end in ends)
    painter.setPen(QColor("#8FA0A3"))
    marks_of = {"linear": _marks, "log": _marks_in_logs, "root": _marks_of_roots}
    for value, long in marks_of.get(frame.axis.kind, _marks_to_both_sides)(frame, scale, low, high):
        if not abs(value) <= _FURTHEST:
            continue
        place = frame.along(value) * scale
        if not math.isfinite(place):  # the distance to the frame is past the range of numbers
            continue
        x = round(place)
        if 0 <= x <= length:
            painter.drawLine(x, BAR_HEIGHT - (7 if long else 4), x, BAR_HEIGHT - 1)


def _marks(frame: Frame, scale: float, low: float, high: float) -> Iterator[tuple[float, bool]]:
    """Values at round steps, and whether their marks are longer."""
    step = nearest_round_step(
        max(units_per_pixel(frame, scale) * _PIXELS_A_MARK, math.ulp(max(abs(low), abs(high))))
    )
    count = min(_MOST_MARKS, int(high / step - low / step) + 2)
    first = multiple_below(low, step)
    for position, value in enumerate(sequence(first, step, count + 2).tolist()):
        yield value, (round(first / step) + position) % 5 == 0


def _marks_of_roots(
    frame: Frame, scale: float, low: float, high: float
) -> Iterator[tuple[float, bool]]:
    """The squares of round numbers, which lie at even distances."""
    axis, across = frame.axis, (frame.end - frame.start) * scale
    ends = axis.place(max(low, 0.0)), axis.place(high)
    in_a_pixel = (axis.place(frame.high) - axis.place(frame.low)) / across
    step = nearest_round_step(max(in_a_pixel * _PIXELS_A_MARK, math.ulp(ends[1])))
    count = min(_MOST_MARKS, int((ends[1] - ends[0]) / step) + 2)
    first = multiple_below(ends[0], step)
    for position, root in enumerate(sequence(first, step, count).tolist()):
        yield root * root, (round(first / step) + position) % 5 == 0


def _marks_to_both_sides(
    frame: Frame, scale: float, low: float, high: float
) -> Iterator[tuple[float, bool]]:
    """0, and to both sides the powers of ten with their multiples from where they part."""
    axis, most = frame.axis, max(abs(low), abs(high))
    yield 0.0, True
    across = (frame.end - frame.start) * scale
    decade = across / (axis.place(frame.high) - axis.place(frame.low))
    multiples = range(1, 10 if decade * math.log10(10 / 9) >= _PIXELS_A_MARK / 2 else 2)
    first, last = math.floor(math.log10(axis.near)), math.ceil(math.log10(max(most, axis.near)))
    for exponent in range(first, last + 1, max(1, math.ceil(_PIXELS_A_MARK / decade))):
        for multiple in multiples:
            value = multiple * 10.0 ** min(308, max(-307, exponent))
            yield value, multiple == 1
            yield -value, multiple == 1


def _marks_in_logs(
    frame: Frame, scale: float, low: float, high: float
) -> Iterator[tuple[float, bool]]:
    """The powers of ten with their multiples up to nine, where these have room."""
    first, last = math.floor(math.log10(low)), math.ceil(math.log10(high))
    decades = math.log10(frame.high) - math.log10(frame.low)
    across = (frame.end - frame.start) * scale / decades
    multiples = range(1, 10 if across * math.log10(10 / 9) >= _PIXELS_A_MARK / 2 else 2)
    every = max(1, math.ceil(_PIXELS_A_MARK / across))
    for exponent in range(first - first % every, last + 1, every):
        for multiple in multiples:
            yield multiple * 10.0 ** min(308, max(-307, exponent)), multiple == 1


def paint_focus(painter: QPainter, widget: OnRod) -> None:
    """The frame of a bar that keys would move."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.setPen(QPen(QColor(theme().chosen), 2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(1, 1, widget.length - 2, BAR_HEIGHT - 2)


def paint_readout(painter: QPainter, widget: OnRod, text: str, x: float) -> None:
    """Words on a small dark ground beyond a place of the bar; beside a standing one, turned."""
    font = QFont(widget.font())
    font.setPixelSize(sized(13))
    painter.setFont(font)
    width = painter.fontMetrics().horizontalAdvance(text) + 18
    left = max(0.0, min(x - width / 2, widget.length - width))
    top = BAR_HEIGHT + 4.0
    if widget.upright:
        painter.resetTransform()
        painter.translate(0, widget.height())
        painter.rotate(-90)
        top = 1.0
    box = QRectF(left, top, width, sized(READOUT_HEIGHT) - 5)
    painter.fillRect(box, QColor(theme().rod))
    painter.setPen(QColor(theme().on_rod))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
