"""What lies under words, worked out anew with fractions and by winding angles."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhabdos.scene.marks import Area, Dots, Meaning, Path, Segments
from rhabdos.scene.words.cover import Cover, holds
from rhabdos.scene.words.label_places import Rect

WHOLE = st.integers(0, 9)
PLACE = st.tuples(WHOLE, WHOLE)
BARS = Meaning("bars")


def share_within(line: tuple[int, int, int, int], rect: Rect) -> Fraction:
    """The share of a line that lies within a rectangle, by cutting at each of its sides."""
    x1, y1, x2, y2 = map(Fraction, line)
    first, last = Fraction(0), Fraction(1)
    for start, step, low, high in (
        (x1, x2 - x1, rect.left, rect.right),
        (y1, y2 - y1, rect.top, rect.bottom),
    ):
        if not step:
            if not low < start < high:
                return Fraction(0)
            continue
        ends = sorted(((Fraction(low) - start) / step, (Fraction(high) - start) / step))
        first, last = max(first, ends[0]), min(last, ends[1])
    return last - first


@st.composite
def rects(draw) -> Rect:
    left, top = draw(PLACE)
    return Rect(left, top, left + draw(st.integers(1, 5)), top + draw(st.integers(1, 5)))


@given(st.tuples(WHOLE, WHOLE, WHOLE, WHOLE).filter(lambda of: of[:2] != of[2:]), rects())
def test_a_line_crosses_what_it_has_a_share_in(line, rect):
    points = np.array(line, float).reshape(2, 2)
    crossed = share_within(line, rect) > 0
    for mark in (
        Segments(np.array([line], float), "#000000", 1.0, 1.0, BARS),
        Path(points, "#000000", 1.0, 1.0, BARS),
    ):
        found = Cover([mark]).crosses(rect)
        # A line that only touches a corner may be counted, as words there are better elsewhere.
        assert found or not crossed
        if found and not crossed:
            slack = Rect(rect.left - 1e-6, rect.top - 1e-6, rect.right + 1e-6, rect.bottom + 1e-6)
            assert share_within(line, slack) > 0


@given(st.lists(PLACE, min_size=1, max_size=4), st.integers(1, 6), rects())
def test_a_dot_crosses_what_the_square_around_it_meets(places, size, rect):
    dots = Dots(np.array(places, float), "disc", float(size), "#000000", 1.0, BARS)
    met = any(
        x + size / 2 > rect.left
        and x - size / 2 < rect.right
        and y + size / 2 > rect.top
        and y - size / 2 < rect.bottom
        for x, y in places
    )
    assert Cover([dots]).crosses(rect) == met


@given(st.lists(PLACE, min_size=3, max_size=7, unique=True), PLACE)
def test_an_outline_holds_the_places_that_it_turns_around(outline, place):
    x, y = place[0] + 0.371, place[1] + 0.523  # on no line between whole places
    around = np.array([complex(px - x, py - y) for px, py in outline])
    turned = np.angle(np.roll(around, -1) / around).sum() / (2 * np.pi)
    assert holds(np.array(outline, float), x, y) == (round(turned) != 0)


def test_a_triangle_covers_what_lies_in_it_and_a_line_of_two_corners_nothing():
    triangle = np.array([[0.0, 0.0], [40.0, 0.0], [0.0, 40.0]])
    inside = Rect(5, 5, 12, 12)
    assert not Cover([Area(triangle, "#000000", 1.0, BARS)]).free(inside)
    assert Cover([Area(triangle[:2], "#000000", 1.0, BARS)]).free(inside)
    away = [inside.away(*place) for place in ((6, 11), (5, 2), (14, 8), (2, 1), (15, 16))]
    assert away == [0, 3, 2, 5, 5]


@pytest.mark.parametrize(
    ("rect", "least", "most"),
    [(Rect(12, 12, 20, 20), 3, 200), (Rect(40, 40, 50, 50), 0, 0), (Rect(5, 12, 35, 20), 2, 200)],
)
def test_more_lies_under_what_is_drawn_over(rect, least, most):
    square = np.array([[10.0, 10.0], [30.0, 10.0], [30.0, 30.0], [10.0, 30.0]])
    cover = Cover([Area(square, "#000000", 1.0, BARS)])
    assert least <= cover.lies_under(rect) <= most
    assert cover.free(rect) == (most == 0)
