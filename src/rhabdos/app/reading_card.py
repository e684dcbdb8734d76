"""The dark card that says what lies under the pointer."""

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen

from rhabdos.app.theme import theme
from rhabdos.figure.hover import Card

_PAD, _ROW, _GAP, _SWATCH = 10.0, 19.0, 16.0, 9.0
_LONGEST_LABEL = 180.0


def paint_card(
    painter: QPainter,
    card: Card,
    beside: QRectF,
    within: QRectF,
    colours: Sequence[str],
    base: QFont,
) -> None:
    """Draw a card to the right of a band, or to its left where there is more room."""
    plain, bold = QFont(base), QFont(base)
    for font in (plain, bold):
        font.setPixelSize(13)
    bold.setWeight(QFont.Weight.DemiBold)
    metrics, bold_metrics = QFontMetricsF(plain), QFontMetricsF(bold)
    elide = Qt.TextElideMode.ElideRight
    labels = [bold_metrics.elidedText(line.label, elide, _LONGEST_LABEL) for line in card.lines]
    columns = list(
        zip(*((line.count, line.percent, line.density) for line in card.lines), strict=True)
    )
    label_width = max((bold_metrics.horizontalAdvance(label) for label in labels), default=0.0)
    widths = [
        max(metrics.horizontalAdvance(text) for text in (heading, *column))
        for heading, column in zip(card.headings, columns, strict=True)
    ]
    inner = max(
        _SWATCH + 7 + label_width + sum(widths) + _GAP * len(widths),
        bold_metrics.horizontalAdvance(card.interval),
    )
    rows = len(card.lines) + 2 + (1 if card.more else 0)
    box = QRectF(beside.right() + 8, beside.top(), inner + 2 * _PAD, rows * _ROW + 2 * _PAD - 6)
    if box.right() > within.right() - 4:
        box.moveRight(max(within.left() + box.width() + 4, beside.left() - 8))
    box.moveTop(max(within.top() + 4, min(box.top(), within.bottom() - box.height() - 4)))

    t = theme()
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillRect(box, QColor(t.rod))
    light, dim = QColor(t.on_rod), QColor("#B4C0C1")
    y = box.top() + _PAD - 3
    left = box.left() + _PAD

    def write(
        text: str, x: float, width: float, font: QFont, colour: QColor, right: bool = False
    ) -> None:
        painter.setFont(font)
        painter.setPen(colour)
        side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
        painter.drawText(QRectF(x, y, width, _ROW), side | Qt.AlignmentFlag.AlignVCenter, text)

    write(card.interval, left, inner, bold, light)
    y += _ROW
    starts = [left + _SWATCH + 7 + label_width + _GAP]
    for width in widths[:-1]:
        starts.append(starts[-1] + width + _GAP)
    for heading, x, width in zip(card.headings, starts, widths, strict=True):
        write(heading, x, width, plain, dim, right=True)
    for line, label in zip(card.lines, labels, strict=True):
        y += _ROW
        painter.setPen(QPen(light, 0.7))  # a rim, since some colours are as dark as the card
        painter.setBrush(QColor(colours[line.group]))
        painter.drawRect(QRectF(left, y + _ROW / 2 - _SWATCH / 2, _SWATCH, _SWATCH))
        font = bold if line.pointed else plain
        write(label, left + _SWATCH + 7, label_width + 2, font, light)
        for text, x, width in zip(
            (line.count, line.percent, line.density), starts, widths, strict=True
        ):
            write(text, x, width, plain, light, right=True)
    if card.more:
        y += _ROW
        write(f"and {card.more} groups with fewer", left, inner, plain, dim)
    painter.restore()
