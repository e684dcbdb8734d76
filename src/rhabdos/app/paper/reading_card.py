"""The dark card that says what lies under the pointer."""

import math
from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSizeF, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen

from rhabdos.app.controls.theme import sized, theme
from rhabdos.figure.words.tooltip import Card, Line

_PAD, _ROW, _GAP, _SWATCH = 10.0, 19.0, 16.0, 9.0  # pixels, as all of these
_LONGEST_LABEL = 180.0  # pixels; longer names are cut
_LEAST_NOTE = 260.0  # the width at which notes break, in a card that is narrower
_DIM = "#B4C0C1"
_SMALLEST = 0.5  # of its size, that a card is drawn in a paper that is narrower


class _Sheet:
    """Where the parts of one card lie, in its own coordinates."""

    def __init__(self, card: Card, base: QFont) -> None:
        self.card = card
        self.plain, self.bold = QFont(base), QFont(base)
        for font in (self.plain, self.bold):
            font.setPixelSize(sized(13))
        self.bold.setWeight(QFont.Weight.DemiBold)
        metrics, bold = QFontMetricsF(self.plain), QFontMetricsF(self.bold)
        elide = Qt.TextElideMode.ElideRight
        self.labels = [
            bold.elidedText(line.label, elide, sized(_LONGEST_LABEL)) for line in card.lines
        ]
        self.swatch = (
            sized(_SWATCH) + 7 if any(line.group is not None for line in card.lines) else 0.0
        )
        self.label_width = max(map(bold.horizontalAdvance, self.labels), default=0.0)
        cells = [line.cells for line in card.lines] or [("",) * len(card.headings)]
        columns = zip(*cells, strict=True)
        self.widths = [
            max(metrics.horizontalAdvance(text) for text in (heading, *column))
            for heading, column in zip(card.headings, columns, strict=True)
        ]
        table = self.swatch + self.label_width + sum(self.widths) + sized(_GAP) * len(self.widths)
        self.inner = max(table, bold.horizontalAdvance(card.title))
        self.headed = any(card.headings)
        if card.notes:
            self.inner = max(self.inner, sized(_LEAST_NOTE))
        flags = Qt.TextFlag.TextWordWrap
        self.note_heights = [
            metrics.boundingRect(QRectF(0, 0, self.inner, 1e4), flags, note).height() + 5
            for note in card.notes
        ]

    @property
    def height(self) -> float:
        """Of the whole card."""
        rows = 1 + self.headed + len(self.card.lines) + bool(self.card.more)
        return rows * sized(_ROW) + sum(self.note_heights) + 2 * sized(_PAD) - 6

    @property
    def width(self) -> float:
        """Of the whole card."""
        return self.inner + 2 * sized(_PAD)

    def numbers_right(self, column: int) -> bool:
        """Whether a column holds numbers, which stand at its right."""
        return self.swatch != 0.0 or column == 0


def card_size(card: Card, base: QFont) -> QSizeF:
    """How large a card is, in pixels."""
    sheet = _Sheet(card, base)
    return QSizeF(math.ceil(sheet.width), math.ceil(sheet.height))


def paint_card(
    painter: QPainter,
    card: Card,
    beside: QRectF,
    within: QRectF,
    colours: Sequence[str],
    base: QFont,
    filling: bool = False,
) -> None:
    """Draw a card to the right of a place, or to its left where there is more room; or ``filling``
    what it is within. A card larger than that is drawn smaller, so that no word of it is cut."""
    sheet = _Sheet(card, base)
    painter.save()
    if not filling:
        room = (within.width() - 8) / sheet.width, (within.height() - 8) / sheet.height
        smaller = max(_SMALLEST, min(1.0, *room))
        painter.scale(smaller, smaller)
        beside, within = (_larger(place, 1 / smaller) for place in (beside, within))
    box = within if filling else _placed(sheet, beside, within)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillRect(box, QColor(theme().rod))
    left = box.left() + sized(_PAD)
    y = _write_lines(painter, sheet, colours, left, box.top() + sized(_PAD) - 3) + 4
    painter.setFont(sheet.plain)
    painter.setPen(QColor(theme().on_rod))
    for note, height in zip(card.notes, sheet.note_heights, strict=True):
        painter.drawText(QRectF(left, y, sheet.inner, height), Qt.TextFlag.TextWordWrap, note)
        y += height
    painter.restore()


def _write_lines(
    painter: QPainter, sheet: _Sheet, colours: Sequence[str], left: float, y: float
) -> float:
    """Write the title and all lines from a height down; the height under the last."""
    card = sheet.card
    light, dim = QColor(theme().on_rod), QColor(_DIM)

    def write(
        text: str, x: float, width: float, font: QFont, colour: QColor, right: bool = False
    ) -> None:
        """Write a text of one line."""
        painter.setFont(font)
        painter.setPen(colour)
        side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
        painter.drawText(
            QRectF(x, y, width + 1, sized(_ROW)), side | Qt.AlignmentFlag.AlignVCenter, text
        )

    write(card.title, left, sheet.inner, sheet.bold, light)
    starts = [left + sheet.swatch + sheet.label_width + sized(_GAP)]
    for width in sheet.widths[:-1]:
        starts.append(starts[-1] + width + sized(_GAP))
    if sheet.headed:
        y += sized(_ROW)
        for heading, x, width in zip(card.headings, starts, sheet.widths, strict=False):
            write(heading, x, width, sheet.plain, dim, right=True)
    for line, label in zip(card.lines, sheet.labels, strict=True):
        y += sized(_ROW)
        _paint_swatch(painter, line, colours, left, y, light)
        font = sheet.bold if line.pointed else sheet.plain
        write(label, left + sheet.swatch, sheet.label_width + 2, font, light)
        columns = zip(line.cells, starts, sheet.widths, strict=True)
        for number, (text, x, width) in enumerate(columns):
            right = sheet.numbers_right(number)
            write(text, x, width, sheet.plain, light if right else dim, right)
    if card.more:
        y += sized(_ROW)
        write(f"and {card.more} groups with fewer", left, sheet.inner, sheet.plain, dim)
    return y + sized(_ROW)


def _larger(place: QRectF, times: float) -> QRectF:
    return QRectF(place.topLeft() * times, place.size() * times)


def _placed(sheet: _Sheet, beside: QRectF, within: QRectF) -> QRectF:
    """To the right of a place or its left; under or over it where it takes all of the width."""
    if beside.width() > within.width() / 3:
        return _under_or_over(sheet, beside, within)
    box = QRectF(beside.right() + 8, beside.top(), sheet.width, sheet.height)
    if box.right() > within.right() - 4:
        left = beside.left() - 8
        if left - box.width() < within.left() + 4:  # no room at either side: over the figure
            left = within.right() - 4
        box.moveRight(left)
    box.moveTop(max(within.top() + 4, min(box.top(), within.bottom() - box.height() - 4)))
    return box


def _under_or_over(sheet: _Sheet, place: QRectF, within: QRectF) -> QRectF:
    left = max(within.left() + 4, place.center().x() - sheet.width / 2)
    box = QRectF(left, place.bottom() + 6, sheet.width, sheet.height)
    if box.bottom() > within.bottom() - 4 and place.center().y() > within.center().y():
        box.moveBottom(place.top() - 6)
    box.moveTop(max(within.top() + 4, min(box.top(), within.bottom() - box.height() - 4)))
    return box


def _paint_swatch(
    painter: QPainter, line: Line, colours: Sequence[str], x: float, y: float, rim: QColor
) -> None:
    if line.group is None:
        return
    painter.setPen(QPen(rim, 0.7))  # since some colours are as dark as the card
    painter.setBrush(QColor(colours[line.group]))
    painter.drawRect(
        QRectF(x, y + sized(_ROW) / 2 - sized(_SWATCH) / 2, sized(_SWATCH), sized(_SWATCH))
    )
