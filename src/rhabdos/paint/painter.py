"""Draw a scene on any paint device."""

import math
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import (
    QBrush,
    QColor,
    QFont,
    QFontMetricsF,
    QImage,
    QPaintDevice,
    QPainter,
    QPainterPath,
    QPen,
    QPixmap,
    QPolygonF,
    QStaticText,
    QTransform,
)

from rhabdos.arrays import FloatArray
from rhabdos.paint import fonts
from rhabdos.paint.hatching import HATCH_LINE, HATCH_SLOPES, HATCH_STEP
from rhabdos.paint.stroked import stroked
from rhabdos.quoting import printable
from rhabdos.scene.marks import Area, Dots, Meaning, Path, Scene, Segments, Shape, Swatch, Text
from rhabdos.scene.style.lettering import face_of

# Than whole pixels: what rounding makes wider than one pixel takes the slow way through Qt
_A_LITTLE_LESS = 0.999
FINE = 16.0
"""How many times as large letters are written on pixels, on paper scaled down as much."""
_SHIFT = {
    "start": 0.0,
    "middle": 0.5,
    "end": 1.0,
}  # of its width, by which a text lies before its anchor


def paint(scene: Scene, painter: QPainter, paper: bool = True, live: bool = False) -> None:
    """Draw a scene; the painter's unit is the point, its origin the page's top left.

    ``live`` uses letters that were placed before, which only the interface thread may, for a
    picture on the screen. Bars, axes and grid consist of level and upright lines only: they sit on
    whole pixels, unsmoothed, which is sharper and faster. Curves and slanting lines are smoothed.
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.setRenderHint(QPainter.RenderHint.TextAntialiasing, True)
    if paper:
        painter.fillRect(QRectF(0, 0, scene.width, scene.height), _colour(scene.paper, 1.0))
    hand = _Hand(painter, live, scene.font)
    for mark in scene.marks:
        match mark:
            case Area() if len(mark.points):
                hand.fill(mark)
            case Path() if len(mark.points) and mark.width:
                hand.line(mark)
            case Segments() if len(mark.lines) and mark.width:
                hand.segments(mark)
            case Dots() if len(mark.places):
                hand.dots(mark)
            case Swatch():
                hand.swatch(mark)
            case Text():
                hand.write(mark)
    hand.done()


@contextmanager
def painter_on(device: QPaintDevice) -> Iterator[QPainter]:
    """A painter that is ended before its device goes, whatever happens: Qt would not survive the
    reverse."""
    painter = QPainter(device)
    try:
        yield painter
    finally:
        painter.end()


class _Hand:
    """Draws marks, and remembers what it holds: pens and fonts are changed only where they
    differ."""

    def __init__(self, painter: QPainter, live: bool, family: str) -> None:
        device = painter.device()
        self._painter = painter
        self._pen: QPen | None = None
        self._font: QFont | None = None
        self._live = live
        self._family = family
        # Pixels for a point, where there are pixels: there, straight lines are whole pixels wide
        # and lie on them.
        on_pixels = isinstance(device, QPixmap | QImage)
        self._scale = painter.deviceTransform().m11() if on_pixels else 0.0
        self._offset = 0.5 if self._pixels(1.0) % 2 else 0.0
        self._smooth = False
        # Fonts have whole pixels, also in a PDF, so that letters at 8.5 would be as wide as at 9:
        # they are written so many times as large, on a paper that is scaled down.
        self._plain = painter.transform()
        self._fine = QTransform(self._plain).scale(1 / FINE, 1 / FINE)
        self._writing = False
        self._shapes: dict[
            int, QPolygonF
        ] = {}  # a silhouette is filled and outlined from the same points

    def _write_fine(self, fine: bool) -> None:
        """Scale the paper for letters, or back for everything else."""
        if fine is not self._writing:
            self._painter.setTransform(self._fine if fine else self._plain)
            self._writing = fine

    def done(self) -> None:
        """Leave the painter as it was."""
        self._write_fine(False)

    def take_pen(self, pen: QPen) -> None:
        """Change the pen, if it is another."""
        if pen is not self._pen:
            self._painter.setPen(pen)
            self._pen = pen

    def _pixels(self, width: float) -> int:
        """A line's width in whole pixels."""
        return max(1, round(width * self._scale))

    def _straight_pen(
        self, colour: str, width: float, opacity: float, dash: tuple[float, ...] = ()
    ) -> QPen:
        if self._scale:
            width = _A_LITTLE_LESS * self._pixels(width) / self._scale
        return _pen(colour, width, opacity, dash)

    def _make_smooth(self, smooth: bool) -> None:
        self._write_fine(False)
        if smooth is not self._smooth:
            self._painter.setRenderHint(QPainter.RenderHint.Antialiasing, smooth)
            self._smooth = smooth

    def fill(self, mark: Area) -> None:
        """Fill a polygon."""
        self._make_smooth(mark.smooth)
        self.take_pen(_NO_PEN)
        self._painter.setBrush(_brush(mark.fill, mark.opacity))
        if mark.bars is not None and self._scale:
            for bar in self._rectangles(mark.bars):
                self._painter.drawRect(bar)
        else:
            self._painter.drawPolygon(self._shape(mark.points, mark.smooth))
        if mark.hatch:
            self._hatch(self._shape(mark.points, mark.smooth), mark.fill, mark.hatch)

    def _hatch(self, shape: QPolygonF, colour: str, hatch: int) -> None:
        """Lines over a polygon that was filled."""
        lines = hatched(shape.boundingRect(), hatch)
        if not lines:  # it is so small that it lies between two of them
            return
        path = QPainterPath()
        path.addPolygon(shape)
        self._painter.save()
        self._painter.setClipPath(path, Qt.ClipOperation.IntersectClip)
        self._painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        self._painter.setPen(_pen(colour, HATCH_LINE, 1.0))
        self._painter.drawLines(*lines)
        self._painter.restore()
        self._pen = None

    def line(self, mark: Path) -> None:
        """Draw a line through points."""
        self._make_smooth(mark.smooth)
        if self._scale and mark.smooth and not mark.dash:
            self.take_pen(_NO_PEN)
            self._painter.setBrush(_brush(mark.colour, mark.opacity))
            outline = polygon(stroked(mark.points, mark.width))
            self._painter.drawPolygon(outline, Qt.FillRule.WindingFill)
            return
        straight = not mark.smooth
        pen = self._straight_pen if straight else _pen
        self.take_pen(pen(mark.colour, mark.width, mark.opacity, mark.dash))
        self._painter.setBrush(Qt.BrushStyle.NoBrush)
        self._painter.drawPolyline(self._shape(mark.points, mark.smooth))

    def segments(self, mark: Segments) -> None:
        """Draw separate straight lines."""
        self._make_smooth(mark.smooth)
        if mark.smooth:
            self.take_pen(_pen(mark.colour, mark.width, mark.opacity, mark.dash))
            self._painter.drawLines(*[QLineF(*line) for line in mark.lines.tolist()])
            return
        self.take_pen(self._straight_pen(mark.colour, mark.width, mark.opacity, mark.dash))
        lines = self._on_pixels(mark.lines, 0.5 if self._pixels(mark.width) % 2 else 0.0)
        self._painter.drawLines(*[QLineF(*line) for line in lines.tolist()])

    def swatch(self, mark: Swatch) -> None:
        """Draw a swatch of the legend."""
        self._make_smooth(False)
        self.take_pen(_pen(mark.colour, 1.0, 1.0))
        self._painter.setBrush(_brush(mark.colour, mark.opacity))
        square = QRectF(mark.x, mark.y, mark.size, mark.size)
        self._painter.drawRect(square)
        if mark.hatch:
            self._hatch(QPolygonF(square), mark.colour, mark.hatch)

    def dots(self, mark: Dots) -> None:
        """Draw the same shape at many places; live, from a picture of it that is stamped."""
        if self._live and self._scale and mark.shape in _STAMPED and len(mark.places) > _FEW:
            self._stamp(mark)
            return
        self._make_smooth(True)
        pen, brush = _dot_tools(mark)
        self.take_pen(pen)
        self._painter.setBrush(brush)
        draw = _SHAPES[mark.shape]
        for x, y in mark.places.tolist():
            draw(self._painter, x, y, mark.size / 2)

    def _stamp(self, mark: Dots) -> None:
        self._write_fine(False)
        stamp = _stamped(
            mark.shape, mark.size, mark.colour, mark.opacity, mark.fill, mark.width, self._scale
        )
        side = stamp.width()
        whole = QRectF(0, 0, side, side)
        create, share = QPainter.PixmapFragment.create, 1 / self._scale
        pieces = [create(QPointF(x, y), whole, share, share) for x, y in mark.places.tolist()]
        self._painter.drawPixmapFragments(pieces, stamp)  # type: ignore[arg-type]

    def write(self, mark: Text) -> None:
        """Write a line of text; live and level from letters that were placed once.

        A dragged figure keeps most of its words.
        """
        self.take_pen(_pen(mark.colour, 1.0, 1.0))
        self._write_fine(True)
        if self._live and self._scale and not mark.angle:
            placed, corner, font = _placed(mark, self._family)
            self._take_font(font)
            self._painter.drawStaticText(corner, placed)
            return
        size = mark.size * FINE
        self._take_font(fonts.font(size, mark.bold, mark.slant, self._family))
        text = printable(mark.text)
        back = _back(mark, text, self._family) * FINE
        if mark.angle:
            self._painter.save()
            self._painter.translate(mark.x * FINE, mark.y * FINE)
            self._painter.rotate(-mark.angle)
            self._painter.drawText(QPointF(back, 0), text)
            self._painter.restore()
        else:
            self._painter.drawText(QPointF(mark.x * FINE + back, mark.y * FINE), text)

    def _take_font(self, font: QFont) -> None:
        if font is not self._font:
            self._painter.setFont(font)
            self._font = font

    def _on_pixels(self, places: FloatArray, offset: float) -> FloatArray:
        if not self._scale:
            return places
        return np.asarray((np.floor(places * self._scale) + offset) / self._scale)

    def _rectangles(self, corners: FloatArray) -> list[QRectF]:
        """Rectangles of the pixels that a polygon with these corners would fill."""
        pixels = np.floor(corners * self._scale) + math.ceil(self._offset)
        first, last = pixels[:, :2], pixels[:, 2:]
        corner, sides = np.minimum(first, last), np.abs(last - first)
        places = np.hstack([corner, sides]) / self._scale
        return [QRectF(*place) for place in places[(sides > 0).all(axis=1)].tolist()]

    def _shape(self, points: FloatArray, smooth: bool) -> QPolygonF:
        if id(points) not in self._shapes:
            self._shapes[id(points)] = polygon(
                points if smooth else self._on_pixels(points, self._offset)
            )
        return self._shapes[id(points)]


def hatched(place: QRectF, hatch: int) -> list[QLineF]:
    """The lines of a hatching over a rectangle; they lie at the same places of the paper whatever
    they fill. They end a line's width beyond it: of what lies further off, Qt works out what shows
    of each pixel."""
    lines = []
    place = place.adjusted(-HATCH_LINE, -HATCH_LINE, HATCH_LINE, HATCH_LINE)
    for slope in HATCH_SLOPES[hatch]:
        if slope is None:
            for step in _within(place.left(), place.right(), HATCH_STEP):
                x = step * HATCH_STEP
                lines.append(QLineF(x, place.top(), x, place.bottom()))
            continue
        starts = [place.top(), place.bottom()]
        if slope:
            starts = [y + slope * x for y in starts for x in (place.left(), place.right())]
        gap = HATCH_STEP * (math.sqrt(2) if slope else 1.0)
        for step in _within(min(starts), max(starts), gap):
            at = step * gap
            ends = sorted((at - y) / slope for y in (place.top(), place.bottom())) if slope else []
            left, right = max([place.left(), *ends[:1]]), min([place.right(), *ends[1:]])
            if left < right:
                lines.append(QLineF(left, at - slope * left, right, at - slope * right))
    return lines


def _within(low: float, high: float, step: float) -> range:
    """Which multiples of a step lie within a stretch."""
    return range(math.ceil(low / step), math.floor(high / step) + 1)


def polygon(points: FloatArray) -> QPolygonF:
    """Points as Qt takes them, copied as one block.

    Parameters
    ----------
    points : array, shape (n, 2)
        In the unit of who paints them.
    """
    shape = QPolygonF()
    shape.fill(QPointF(), len(points))
    block = shape.data()
    assert block is not None
    block.setsize(16 * len(points))
    corners: FloatArray = np.frombuffer(block, dtype=np.float64)  # type: ignore[call-overload]
    corners[:] = np.ravel(points)
    return shape


def _round(painter: QPainter, x: float, y: float, half: float) -> None:
    painter.drawEllipse(QPointF(x, y), half, half)


def _square(painter: QPainter, x: float, y: float, half: float) -> None:
    half *= 0.86  # looks as large as a circle
    painter.drawRect(QRectF(x - half, y - half, 2 * half, 2 * half))


def _diamond(painter: QPainter, x: float, y: float, half: float) -> None:
    half *= 1.12
    corners = ((x, y - half), (x + half, y), (x, y + half), (x - half, y))
    painter.drawPolygon(QPolygonF([QPointF(*corner) for corner in corners]))


def _cross(painter: QPainter, x: float, y: float, half: float) -> None:
    half *= 0.8
    painter.drawLine(QPointF(x - half, y - half), QPointF(x + half, y + half))
    painter.drawLine(QPointF(x - half, y + half), QPointF(x + half, y - half))


_SHAPES: dict[Shape, Callable[[QPainter, float, float, float], None]] = {
    "ring": _round,
    "disc": _round,
    "circle": _round,
    "diamond": _diamond,
    "square": _square,
    "cross": _cross,
}
_STAMPED = ("ring", "disc")  # shapes of points that may be painted as one picture at many places
_FEW = 12  # dots that are drawn one by one


def _dot_tools(mark: Dots) -> tuple[QPen, QBrush]:
    """Pen and brush of dots: rings are open, discs have no rim, markers are filled."""
    if mark.shape == "disc":
        return _NO_PEN, _brush(mark.colour, mark.opacity)
    pen = _pen(mark.colour, mark.width, mark.opacity)
    if mark.shape == "ring" or not mark.fill:
        return pen, QBrush(Qt.BrushStyle.NoBrush)
    return pen, _brush(mark.fill, 1.0)


@lru_cache(maxsize=64)  # ten thousand points are the same picture at other places
def _stamped(
    shape: Shape, size: float, colour: str, opacity: float, fill: str, width: float, scale: float
) -> QPixmap:
    """A picture of one dot, so many pixels a point."""
    side = math.ceil((size + 2 * width) * scale) + 2
    picture = QPixmap(side, side)
    picture.fill(Qt.GlobalColor.transparent)
    nowhere = np.empty((0, 2))
    mark = Dots(nowhere, shape, size, colour, opacity, Meaning("points"), fill, width)
    with painter_on(picture) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(scale, scale)
        pen, brush = _dot_tools(mark)
        painter.setPen(pen)
        painter.setBrush(brush)
        middle = side / 2 / scale
        _SHAPES[shape](painter, middle, middle, size / 2)
    return picture


def _back(mark: Text, text: str, family: str) -> float:
    """How far a text begins before its anchor, below 0."""
    shift = _SHIFT[mark.anchor]
    face = face_of(mark.bold, mark.slant)
    return -shift * fonts.measure_in(family)(text, mark.size, face) if shift else 0.0


@lru_cache(maxsize=1024)  # placing letters costs more than painting them
def _placed(mark: Text, family: str) -> tuple[QStaticText, QPointF, QFont]:
    """A level text with its letters placed, its top left corner, and its font; on fine paper."""
    font = fonts.font(mark.size * FINE, mark.bold, mark.slant, family)
    text = printable(mark.text)
    placed = QStaticText(text)
    placed.setTextFormat(Qt.TextFormat.PlainText)
    placed.setPerformanceHint(QStaticText.PerformanceHint.AggressiveCaching)
    placed.prepare(QTransform(), font)
    ascent = QFontMetricsF(font).ascent()
    corner = QPointF((mark.x + _back(mark, text, family)) * FINE, mark.y * FINE - ascent)
    return placed, corner, font


_NO_PEN = QPen(Qt.PenStyle.NoPen)


@lru_cache(maxsize=512)  # reading a name like #1E2B2F takes as long as a small polygon
def _colour(name: str, opacity: float) -> QColor:
    colour = QColor(name)
    colour.setAlphaF(opacity)
    return colour


@lru_cache(maxsize=512)  # a figure asks for few, at every step of a hand
def _brush(name: str, opacity: float) -> QBrush:
    return QBrush(_colour(name, opacity))


@lru_cache(maxsize=512)  # made for each mark of each step otherwise
def _pen(name: str, width: float, opacity: float, dash: tuple[float, ...] = ()) -> QPen:
    pen = QPen(_colour(name, opacity), width)
    if dash:
        pen.setDashPattern([part / width for part in dash])
    pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
    return pen
