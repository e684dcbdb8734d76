"""The card that is read: beside what it tells of, whole on the paper, and over it only without room."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QFont, QImage, QPainter

from rhabdos.app.controls import theme
from rhabdos.app.paper.reading_card import card_size, paint_card
from rhabdos.figure.words.tooltip import Card, Line

COLOURS = ("#FF0000", "#00FF00")
LINES = (Line("Saltmere", ("12", "3 %"), 0), Line("Low", ("7", "2 %"), 1))
CARD = Card("60 to 64 mm", ("n", "share"), LINES)
PAGE = QRectF(0, 0, 700, 400)


def painted(beside: QRectF, within: QRectF = PAGE, card: Card = CARD) -> tuple[QRectF, np.ndarray]:
    """The rectangle that the card's ground takes, and the colours of all pixels."""
    image = QImage(700, 400, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    paint_card(painter, card, beside, within, COLOURS, QFont())
    painter.end()
    data = image.bits().asarray(700 * 400 * 4)
    pixels = np.frombuffer(data, np.uint8).reshape(400, 700, 4)[:, :, 2::-1].copy()
    ys, xs = np.nonzero((pixels != 255).any(axis=2))
    return QRectF(xs.min(), ys.min(), np.ptp(xs) + 1, np.ptp(ys) + 1), pixels


def near(one: float, other: float) -> bool:
    return abs(one - other) <= 1.5  # what edges between pixels make of it


@pytest.fixture(autouse=True)
def _letters(dressed):
    assert theme.sized(10) == 10


@pytest.mark.parametrize("top", [10, 150, 380])
def test_it_stands_at_the_right_or_where_there_is_no_room_at_the_left(top):
    size = card_size(CARD, QFont())
    for left, side in ((30, "right"), (640, "left")):
        place = QRectF(left, top, 20, 15)
        box, _ = painted(place)
        assert near(box.width(), size.width())
        assert near(box.height(), size.height())
        assert near(box.left(), 58) if side == "right" else near(box.right(), 632)
        assert near(box.top(), min(top, 400 - 4 - size.height()))


def test_without_room_at_either_side_it_lies_over_the_figure_and_whole_on_the_paper():
    narrow = QRectF(0, 0, card_size(CARD, QFont()).width() + 40, 400)
    box, _ = painted(QRectF(narrow.width() / 2 - 15, 40, 30, 20), narrow)
    assert near(box.right(), narrow.right() - 4)
    assert box.left() >= narrow.left()


@pytest.mark.parametrize(("top", "where"), [(20, "under"), (350, "over")])
def test_beside_what_takes_the_width_it_stands_under_or_over(top, where):
    place = QRectF(200, top, 300, 30)  # more than a third of the page
    box, _ = painted(place)
    assert near(box.center().x(), place.center().x())
    assert near(box.top(), top + 36) if where == "under" else near(box.bottom(), top - 6)
    third, _ = painted(QRectF(200, top, 230, 30))  # less than that
    assert near(third.left(), 438)


def test_on_a_small_paper_it_is_drawn_smaller_with_the_same_proportions():
    size = card_size(CARD, QFont())
    small = QRectF(0, 0, size.width() * 0.75, size.height() * 2)
    box, _ = painted(QRectF(5, 5, 4, 4), small)
    assert small.adjusted(-1, -1, 1, 1).contains(box)
    assert box.width() / box.height() == pytest.approx(size.width() / size.height(), rel=0.05)
    assert near(box.width(), small.width() - 8)


def test_each_line_has_the_swatch_of_its_group_under_one_another():
    _, pixels = painted(QRectF(30, 30, 10, 10))
    middles = []
    for colour in ((255, 0, 0), (0, 255, 0)):
        ys, xs = np.nonzero((pixels == colour).all(axis=2))
        assert {7, 8, 9} >= {np.ptp(xs) + 1, np.ptp(ys) + 1}  # nine pixels with their rim
        middles.append(QPointF(xs.mean(), ys.mean()))
    assert near(middles[0].x(), middles[1].x())
    row = middles[1].y() - middles[0].y()
    assert row == pytest.approx(19, abs=2)


def test_more_groups_notes_and_headings_make_room_for_themselves():
    bare = Card("A title", ("", ""), LINES)
    heights = {
        name: card_size(card, QFont()).height()
        for name, card in {
            "bare": bare,
            "headed": CARD,
            "more": Card("A title", ("", ""), LINES, more=3),
            "note": Card("A title", ("", ""), LINES, notes=("A sentence.",)),
            "notes": Card("A title", ("", ""), LINES, notes=("A sentence.", "Another one.")),
        }.items()
    }
    row = heights["headed"] - heights["bare"]
    assert row > 10
    assert heights["more"] - heights["bare"] == row
    note = heights["note"] - heights["bare"]
    assert note > 10
    assert heights["notes"] - heights["note"] == pytest.approx(note, abs=1)
