"""What is painted over the figure while it is read: where its parts lie, the range that a hand has
marked, and the value of a row."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from rhabdos.app.controls.theme import theme
from rhabdos.figure.edits.stops import Stop, span_of
from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.marks import Scene
from rhabdos.wording import with_unit

_NARROWEST = 2.0  # pixels of the band over what is read


class OverFigure:
    """Paints over a scene that is shown so many pixels a point."""

    def __init__(self, scene: Scene, readings: Readings, scale: float) -> None:
        self._scene, self._readings, self._scale = scene, readings, scale

    def places(self, stop: Stop) -> list[QRectF]:
        """Where what is read lies, in pixels: over the heights of each lane, or over a strip."""
        frame, span = self._scene.frames[stop.panel], span_of(self._readings, stop)
        low, high = (frame.low, frame.high) if span is None else span
        ends = [frame.along(min(max(value, frame.low), frame.high)) for value in (low, high)]
        bands = []
        for lane in frame.lanes:
            meant = stop.group is None or stop.group in lane.groups
            if stop.form in self._readings.plan.heights and lane.heights and meant:
                whole = len(frame.lanes) == 1 and not lane.strips
                each = [of.band for of in lane.heights if stop.group in (None, *of.groups)]
                bands += (
                    [(frame.first, frame.last)]
                    if whole and len(lane.heights) == 1
                    else [(band.base, band.tip) for band in each]
                )
            bands += [
                (strip.band.base, strip.band.tip)
                for strip in lane.strips
                if strip.form == stop.form and strip.group == stop.group
            ]
        return [self._rect(frame, ends, band) for band in bands]

    def range_rects(self, panel: int | None, low: float, high: float) -> list[QRectF]:
        """Where a range lies in each frame that has it, or in that of one panel; in pixels."""
        rects = []
        for frame in self._scene.frames:
            if panel in (None, frame.panel) and low <= frame.high and high >= frame.low:
                held = (min(max(end, frame.low), frame.high) for end in (low, high))
                ends = [frame.along(end) for end in held]
                rects.append(self._rect(frame, ends, (frame.first, frame.last)))
        return rects

    def paint_range(self, painter: QPainter, panel: int | None, low: float, high: float) -> None:
        """The range that is marked."""
        tint = QColor(theme().chosen)
        tint.setAlphaF(0.14)
        for rect in self.range_rects(panel, low, high):
            painter.fillRect(rect, tint)
            painter.setPen(QPen(QColor(theme().chosen), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(rect)

    def paint_row(self, painter: QPainter, variable: str, row: int) -> None:
        """A line across the frames at the value of a row, and what it is."""
        readings = self._readings
        table = readings.gathered.table
        shown = next((v for v in readings.gathered.variables if v.name == variable), None)
        if shown is None or table is None or row >= shown.rows:
            return
        value = float(shown.values[row])
        painter.setPen(QPen(QColor(theme().chosen), 1.5))
        words = f"row {table.row_number(row):,}: {with_unit(shown.written(value), shown.unit)}"
        for index, frame in enumerate(self._scene.frames):
            if not frame.low <= value <= frame.high:
                continue
            along = frame.along(value)
            first = QPointF(*frame.point(along, frame.first)) * self._scale
            last = QPointF(*frame.point(along, frame.last)) * self._scale
            painter.drawLine(first, last)
            if not index:
                corner = QPointF(first.x() + 6, min(first.y(), last.y()) + 4)
                self._paint_words(painter, words, corner)
                painter.setPen(QPen(QColor(theme().chosen), 1.5))

    def _paint_words(self, painter: QPainter, words: str, corner: QPointF) -> None:
        """Words on a dark ground, within the paper."""
        metrics = painter.fontMetrics()
        wide = metrics.horizontalAdvance(words) + 12
        left = min(max(corner.x(), 4.0), max(4.0, self._scene.width * self._scale - wide - 4.0))
        box = QRectF(left, max(2.0, corner.y()), wide, metrics.height() + 6)
        painter.fillRect(box, QColor(theme().rod))
        painter.setPen(QColor(theme().on_rod))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _rect(self, frame: Frame, ends: list[float], band: tuple[float, float]) -> QRectF:
        first = QPointF(*frame.point(ends[0], band[0])) * self._scale
        last = QPointF(*frame.point(ends[1], band[1])) * self._scale
        rect = QRectF(first, last).normalized()
        if rect.width() < _NARROWEST:
            rect.adjust(-_NARROWEST / 2, 0, _NARROWEST / 2, 0)
        if rect.height() < _NARROWEST:
            rect.adjust(0, -_NARROWEST / 2, 0, _NARROWEST / 2)
        return rect
