"""The bell: on the rod, the kernel of the curves in its true width, to set their bandwidth by
hand."""

import math

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from rhabdos.app.controls.heard import Standing
from rhabdos.app.controls.theme import theme
from rhabdos.app.rods.gestures import BELL_HINT
from rhabdos.app.rods.grips import OnGrips
from rhabdos.app.rods.ruler import BAR_HEIGHT, paint_focus, paint_readout, units_per_pixel
from rhabdos.figure.edits import drag_edits
from rhabdos.figure.forms.curve import bandwidth_words, density_curves
from rhabdos.figure.phrases.curve import curve_phrase
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Curves
from rhabdos.paint.painter import polygon
from rhabdos.scene.coordinates import Frame
from rhabdos.stats.kernels import KERNELS
from rhabdos.wording import exact

_TALLEST = BAR_HEIGHT - 6.0
_GRIP = 9.0  # pixels beside a flank within which it is still meant
_GRIP_WIDTH, _GRIP_HEIGHT = 8.0, 12.0  # pixels
_POINTS = 81  # of its outline


class Bell(OnGrips[Curves]):
    """A kernel in the middle of the rod; its flanks, one bandwidth from its top, are grips."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Rod: the bandwidth of the curves", BELL_HINT, parent)

    # Where things are

    @property
    def bandwidth(self) -> float | None:
        """That of the curves, in the middle of where they differ; None where there is none. On an
        axis of logs it is a ratio."""
        if self._readings is None:
            return None
        widths = [reading.bandwidth for reading in density_curves(self._readings) if reading.curve]
        return (min(widths) + max(widths)) / 2 if widths else None

    @property
    def centre(self) -> float:
        """Pixel position of the top of the bell."""
        assert self._frame
        return (self._frame.start + self._frame.end) / 2 * self._scale

    def flank(self) -> float:
        """Pixel position of the right grip: one bandwidth from the top."""
        return self.centre + self._pixels(self.bandwidth)

    def _pixels(self, bandwidth: float | None) -> float:
        """How long a bandwidth is on the rod."""
        assert self._frame
        if bandwidth is None:
            return 0.0
        if not self._frame.axis.even:
            width = math.log10(bandwidth) if self._frame.axis.by_ratio else bandwidth
            return width / self._in_a_pixel(self._frame)
        return bandwidth / units_per_pixel(self._frame, self._scale)

    def _in_a_pixel(self, frame: Frame) -> float:
        """How far on an axis of logs or roots one pixel reaches: in powers of ten, or in roots."""
        reach = frame.axis.place(frame.high) - frame.axis.place(frame.low)
        return reach / ((frame.end - frame.start) * self._scale)

    def readout(self) -> str:
        """The bandwidth in words, as it stands."""
        return f"bandwidth {curve_phrase(self._readings)}" if self._readings else ""

    # By hand

    def grip_near(self, place: QPointF) -> str | None:
        """The flank at a place; either is as good."""
        away = abs(abs(place.x() - self.centre) - (self.flank() - self.centre))
        near = self.bandwidth is not None and away <= _GRIP and place.y() <= BAR_HEIGHT
        return "flank" if near else None

    def dragged_to(self, along: float, frame: Frame) -> Curves | None:
        """The curves with a flank of the bell at a place."""
        per_pixel = (
            units_per_pixel(frame, self._scale) if frame.axis.even else self._in_a_pixel(frame)
        )
        if frame.axis.by_ratio:
            away = abs(along - self.centre) * per_pixel
            return self._with_width(drag_edits.ratio_bandwidth_dragged(away, per_pixel))
        width = drag_edits.bandwidth_dragged(abs(along - self.centre) * per_pixel, per_pixel)
        return self._with_width(width)

    def stepped(self, steps: int) -> Curves | None:
        """The curves a little wider, or narrower."""
        if self.bandwidth is None:
            return None
        in_logs = self._frame is not None and self._frame.axis.by_ratio
        stepped = drag_edits.ratio_bandwidth_stepped if in_logs else drag_edits.bandwidth_stepped
        return self._with_width(stepped(self.bandwidth, steps))

    def standing(self) -> Standing | None:
        """The bandwidth; on an axis of logs as a ratio."""
        width, readings = self.bandwidth, self._readings
        if width is None or readings is None or self._frame is None:
            return None
        wider = self.stepped(1)
        step = abs(wider.bandwidth - width) if wider and isinstance(wider.bandwidth, float) else 0.0
        if self._frame.axis.by_ratio:
            return Standing("bandwidth", width, 1.0, max(10.0, width), step, "times")
        most = max(self._frame.high - self._frame.low, width)
        return Standing("bandwidth", width, 0.0, most, step, readings.variable.distance_unit)

    def with_value(self, value: float) -> Curves | None:
        """The curves of a bandwidth."""
        return self._with_width(value) if value > 0 else None

    def step_name(self, part: Curves) -> str:
        """ "Bandwidth 2.3 mm"."""
        assert isinstance(part.bandwidth, float)
        if self._readings is None:
            return f"Bandwidth {exact(part.bandwidth)}"
        return f"Bandwidth {bandwidth_words(part.bandwidth, self._readings)}"

    def _with_width(self, width: float) -> Curves | None:
        if self._readings is None:
            return None
        return self._readings.recipe.curve.changed(bandwidth=width, factor=1.0)

    # Painting

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        if self._readings is None or self._frame is None:
            return
        painter = self.painter()
        self.paint_bar(painter)
        width = self.bandwidth
        if width is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_bell(painter, self._readings, self._pixels(width))
        if self.hasFocus():
            paint_focus(painter, self)
        if self._in_hand:
            paint_readout(painter, self, self.readout(), self.flank())

    def _paint_bell(self, painter: QPainter, readings: Readings, pixels: float) -> None:
        """The kernel, ``pixels`` a bandwidth, and its two grips."""
        kernel, brass = KERNELS[readings.recipe.curve.kernel], QColor(theme().brass)
        reach = min(kernel.reach, 4.0)
        u = np.linspace(-reach, reach, _POINTS)
        heights = kernel.height(u)
        y = BAR_HEIGHT - 1 - heights / heights.max() * _TALLEST
        along = self.centre + u * pixels
        foot = BAR_HEIGHT - 1
        shape = np.column_stack([along[[0, *range(_POINTS), -1]], [foot, *y, foot]])
        fill = QColor(brass)
        fill.setAlphaF(0.25)
        painter.setPen(QPen(brass, 1.4))
        painter.setBrush(fill)
        painter.drawPolygon(polygon(shape))
        chosen = self._taken is not None or self._hover is not None
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#FFFFFF") if chosen else brass)
        half, top = _GRIP_WIDTH / 2, (BAR_HEIGHT - _GRIP_HEIGHT) / 2
        for x in (self.centre - pixels, self.centre + pixels):
            corners = [(-half, 0.0), (half, 0.0), (half, 8.0), (0.0, _GRIP_HEIGHT), (-half, 8.0)]
            painter.drawPolygon(QPolygonF([QPointF(x + dx, top + dy) for dx, dy in corners]))
