"""How something looks, as a number: that of all pixels of its picture.

Letters and lines are drawn alike, pixel by pixel, wherever the same Qt draws the same fonts. Where it
does not, ``letters`` has another number, and pictures are not compared.
"""

import os
import zlib
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPointF, QRect, Qt
from PyQt6.QtGui import QColor, QFont, QImage, QPainter, QPen, QPolygonF
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel, QLineEdit, QStatusBar, QTextEdit, QToolButton, QWidget

from rhabdos.paint.fonts import font, load

_FORMAT = QImage.Format.Format_RGB32
_SIZES = (8, 9, 10, 11, 13, 17, 22)
_PICTURES = os.environ.get("RHABDOS_LOOKS", "")
"""A folder in which all pictures are kept, to be compared with those of another checkout."""


def look_of(picture: QImage, called: str = "") -> str:
    """The number of a picture, as eight letters."""
    plain = picture.convertToFormat(_FORMAT)
    pixels = plain.constBits()
    assert pixels is not None
    pixels.setsize(plain.sizeInBytes())
    number = f"{zlib.crc32(bytes(pixels)):08x}"
    if _PICTURES:
        kept = "".join(letter if letter.isalnum() else "-" for letter in called)[:80]
        plain.save(str(Path(_PICTURES) / f"{kept}-{number}.png"))
    return number


def look_of_text(text: bytes) -> str:
    """The number of a file of letters."""
    return f"{zlib.crc32(text):08x}"


def look_of_widget(widget: QWidget, called: str) -> str:
    """The number of what a widget shows, without what passes."""
    for text in widget.findChildren(QTextEdit):
        text.document().pageCount()  # lays it out to its end, which Qt does bit by bit
    QTest.qWait(1)
    picture = widget.grab().toImage()
    painter = QPainter(picture)
    for each in widget.findChildren((QLabel, QLineEdit, QStatusBar, QToolButton)):
        if each.isVisible() and _passes(each):
            corner = each.mapTo(widget, each.rect().topLeft())
            painter.fillRect(QRect(corner, each.size()), Qt.GlobalColor.white)
    painter.end()
    return look_of(picture, called)


def _passes(part: QWidget) -> bool:
    """Whether a part names a folder, which is this machine's, is shown for some seconds, or fades
    in."""
    match part:
        case QLabel() | QLineEdit():
            return "/" in part.text()
        case QToolButton():
            return isinstance(part.parent(), QLineEdit)
    return True


def letters(of_window: QFont | None = None) -> str:
    """The number of letters and of a smooth line, as they are drawn here."""
    load()
    picture = QImage(900, 320, _FORMAT)
    picture.fill(QColor("white"))
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for row, size in enumerate(_SIZES):
        for bold in (False, True):
            painter.setFont(of_window if of_window and not row else font(size, bold))
            painter.drawText(10 + 450 * bold, 30 + 40 * row, "Shell length −0.5 ≤ 12,340 µm · n")
    x = np.linspace(-4, 4, 200)
    heights = 300 * np.exp(-x * x / 2) * np.abs(np.sin(3 * x) + np.log1p(x * x))
    painter.setPen(QPen(QColor("teal"), 1.4))
    places = zip((450 + 110 * x).tolist(), (310 - heights).tolist(), strict=True)
    painter.drawPolyline(QPolygonF([QPointF(*place) for place in places]))
    painter.end()
    return look_of(picture, "letters")
