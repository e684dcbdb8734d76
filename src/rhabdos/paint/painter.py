"""Draw a scene on any paint device."""

from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPen, QPolygonF

from rhabdos.arrays import FloatArray
from rhabdos.paint import fonts
from rhabdos.scene.marks import Area, Path, Scene, Segments, Text
from rhabdos.scene.palette import PAPER


def paint(scene: Scene, painter: QPainter, paper: bool = True) -> None:
    """Draw a scene; the painter's unit is the point, its origin the page's top left.

    Bars, axes and grid consist of level and upright lines only: drawn unsmoothed they are sharper, and faster.
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.setRenderHint(QPainter.RenderHint.TextAntialiasing, True)
    if paper:
        painter.fillRect(QRectF(0, 0, scene.width, scene.height), _colour(PAPER, 1.0))
    device = painter.device()
    dpi = float(device.logicalDpiY()) if device else 72.0
    shapes: dict[int, QPolygonF] = {}  # a silhouette is filled and outlined from the same points

    def shape_of(points: FloatArray) -> QPolygonF:
        if id(points) not in shapes:
            shapes[id(points)] = polygon(points)
        return shapes[id(points)]

    for mark in scene.marks:
        match mark:
            case Area():
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(_brush(mark.fill, mark.opacity))
                painter.drawPolygon(shape_of(mark.points))
            case Path():
                painter.setPen(_pen(mark.colour, mark.width, mark.opacity))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawPolyline(shape_of(mark.points))
            case Segments() if len(mark.lines):
                painter.setPen(_pen(mark.colour, mark.width, mark.opacity))
                painter.drawLines(*[QLineF(*line) for line in mark.lines.tolist()])
            case Text():
                _text(painter, mark, dpi)


def polygon(points: FloatArray) -> QPolygonF:
    """Points of shape (n, 2) as Qt takes them, copied as one block."""
    shape = QPolygonF()
    shape.fill(QPointF(), len(points))
    block = shape.data()
    assert block is not None
    block.setsize(16 * len(points))
    corners: FloatArray = np.frombuffer(block, dtype=np.float64)  # type: ignore[call-overload]
    corners[:] = np.ravel(points)
    return shape


def _text(painter: QPainter, mark: Text, dpi: float) -> None:
    painter.setFont(fonts.font(mark.size, mark.bold, dpi))
    painter.setPen(_colour(mark.colour, 1.0))
    shift = {"start": 0.0, "middle": 0.5, "end": 1.0}[mark.anchor]
    back = -shift * fonts.measure(mark.text, mark.size, mark.bold) if shift else 0.0
    if mark.angle:
        painter.save()
        painter.translate(mark.x, mark.y)
        painter.rotate(-mark.angle)
        painter.drawText(QPointF(back, 0), mark.text)
        painter.restore()
    else:
        painter.drawText(QPointF(mark.x + back, mark.y), mark.text)


@lru_cache(maxsize=512)
def _colour(name: str, opacity: float) -> QColor:
    colour = QColor(name)
    colour.setAlphaF(opacity)
    return colour


@lru_cache(maxsize=512)
def _brush(name: str, opacity: float) -> QBrush:
    return QBrush(_colour(name, opacity))


@lru_cache(maxsize=512)
def _pen(name: str, width: float, opacity: float) -> QPen:
    pen = QPen(_colour(name, opacity), width)
    pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
    return pen
