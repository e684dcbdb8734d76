"""What is painted quickly, against the same painted plainly.

Lines are painted as filled outlines, and compared with the shape that the standard of SVG gives
them: a rectangle a piece, and at each turn what lies between two of them, with its tip.
"""

import math
from itertools import pairwise

import numpy as np
import pytest
from msgspec import structs
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen

from rhabdos.paint.fonts import measure
from rhabdos.paint.painter import paint, painter_on, polygon
from rhabdos.paint.stroked import stroked
from rhabdos.scene.build import build
from rhabdos.scene.marks import Area, Meaning, Path, Scene, Swatch
from rhabdos.scene.style.look import style_of
from tests.figures import random_figure

WIDE, HIGH = 120, 90
FINE = 5
SVG_MITRE_LIMIT = 4
_X, _Y = np.meshgrid((np.arange(WIDE * FINE) + 0.5) / FINE, (np.arange(HIGH * FINE) + 0.5) / FINE)


def within(corners):
    """What of the page lies in a triangle."""
    sides = []
    for (ax, ay), (bx, by) in zip(corners, [*corners[1:], corners[0]], strict=True):
        sides.append((bx - ax) * (_Y - ay) - (by - ay) * (_X - ax))
    return np.all(np.array(sides) >= 0, axis=0) | np.all(np.array(sides) <= 0, axis=0)


def covered(points, width):
    """What share of each pixel a line covers, from 0 to 1."""
    on = np.zeros(_X.shape, dtype=bool)
    directions = []
    for (ax, ay), (bx, by) in pairwise(points):
        long = math.hypot(bx - ax, by - ay)
        dx, dy = (bx - ax) / long, (by - ay) / long
        directions.append((dx, dy))
        along = (_X - ax) * dx + (_Y - ay) * dy
        aside = (_Y - ay) * dx - (_X - ax) * dy
        on |= (along >= 0) & (along <= long) & (np.abs(aside) <= width / 2)
    for (x, y), (ax, ay), (bx, by) in zip(points[1:], directions, directions[1:], strict=False):
        bend = ax * by - ay * bx
        if bend == 0:
            continue
        side = -math.copysign(width / 2, bend)
        one, two = (x - side * ay, y + side * ax), (x - side * by, y + side * bx)
        on |= within([(x, y), one, two])
        half = math.atan2(abs(bend), ax * bx + ay * by) / 2
        if 1 / math.cos(half) <= SVG_MITRE_LIMIT:
            far = width / 2 * math.tan(half)
            on |= within([one, two, (one[0] + far * ax, one[1] + far * ay)])
    return on.reshape(HIGH, FINE, WIDE, FINE).mean(axis=(1, 3))


def picture():
    image = QImage(WIDE, HIGH, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    return image


def darkness(image):
    """How dark each pixel is, from 0 to 1."""
    bits = image.constBits()
    bits.setsize(image.sizeInBytes())
    return 1 - np.frombuffer(bits, np.uint8).reshape(HIGH, WIDE, 4)[:, :, 0] / 255.0


def filled(points, width):
    image = picture()
    with painter_on(image) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("black"))
        painter.drawPolygon(
            polygon(stroked(np.array(points, dtype=float), width)), Qt.FillRule.WindingFill
        )
    return darkness(image)


GENTLE = np.column_stack([np.linspace(10, 110, 48), 45 - 30 * np.sin(np.linspace(0, 6, 48))])
SHARP = [(20, 20), (95, 40), (25, 50), (100, 70), (30, 75)]
CLOSE = [(30 + 1.5 * step, 45 + 6 * (-1) ** step) for step in range(40)]
THERE_AND_BACK = [(20.3, 30.7), (80.1, 31.3), (50.2, 31), (49.6, 70.3)]
CORNER = [(20.2, 20.1), (90.3, 22.4), (88, 70.2)]


@pytest.mark.parametrize(
    ("points", "twice"),  # of pixels whose edge two pieces share, a painter counts both shares
    [(GENTLE, 0.1), (SHARP, 0.3), (CLOSE, 0.35), (THERE_AND_BACK, 0.6), (CORNER, 0.1)],
)
@pytest.mark.parametrize("width", [1.4, 5.0])
def test_an_outline_covers_what_the_line_covers(points, twice, width):
    off = np.abs(filled(points, width) - covered(points, width))
    assert off.max() < twice
    assert off.sum() < twice * covered(points, width).sum()


def test_random_lines_have_no_holes_and_no_spikes():
    rng = np.random.default_rng(11)
    for _ in range(6):
        points = rng.uniform(15, 75, (int(rng.integers(2, 12)), 2))
        width = float(rng.uniform(0.5, 8))
        off = np.abs(filled(points, width) - covered(points, width))
        assert off.max() < 0.6
        assert off.sum() < 0.06 * covered(points, width).sum()


def test_what_has_no_length_is_no_line():
    assert len(stroked(np.array([[3.0, 4.0]]), 2)) == 0
    assert len(stroked(np.array([[3.0, 4.0], [3.0, 4.0]]), 2)) == 0
    twice = np.repeat(np.array([[0.0, 0.0], [10.0, 0.0]]), 3, axis=0)
    np.testing.assert_allclose(stroked(twice, 2), [[0, 1], [10, 1], [10, -1], [0, -1]])


@pytest.mark.parametrize("opacity", [1.0, 0.4])
def test_a_curve_is_painted_as_a_pen_would_draw_it(opacity):
    x = np.linspace(10, 110, 120)
    gentle = np.column_stack([x, 45 - 30 * np.sin(x / 17)])
    curve = Path(gentle, "#000000", 2.0, opacity, Meaning("curve", 0), smooth=True)
    ours = picture()
    with painter_on(ours) as painter:
        paint(Scene(WIDE, HIGH, (curve,), (), (), describe=str), painter)
    pens = picture()
    with painter_on(pens) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colour = QColor("black")
        colour.setAlphaF(opacity)
        painter.setPen(QPen(colour, 2.0, cap=Qt.PenCapStyle.FlatCap))
        painter.drawPolyline(polygon(gentle))
    assert darkness(pens).max() > 0.9 * opacity
    assert np.abs(darkness(ours) - darkness(pens)).max() < 0.08


@pytest.mark.parametrize("seed", [44, 189, 198, 234])  # gaps, side by side, upright, with shades
@pytest.mark.parametrize("scale", [1.0, 1.37, 2.6])
def test_bars_one_by_one_fill_the_pixels_of_their_polygon(qapp, seed, scale):
    scene = build(random_figure(seed).readings(), measure)
    parted = [m for m in scene.marks if isinstance(m, Area) and m.bars is not None]
    assert parted
    pictures = []
    for marks in (parted, [structs.replace(mark, bars=None) for mark in parted]):
        image = QImage(
            int(scene.width * scale), int(scene.height * scale), QImage.Format.Format_RGB32
        )
        image.fill(QColor("white"))
        with painter_on(image) as painter:
            painter.scale(scale, scale)
            paint(structs.replace(scene, marks=tuple(marks)), painter, paper=False)
        pictures.append(image)
    assert pictures[0] == pictures[1]
    pictures[1].fill(QColor("white"))
    assert pictures[0] != pictures[1]


@pytest.mark.parametrize("hatch", range(1, 7))
def test_what_is_smaller_than_the_gaps_of_a_hatching_is_filled(qapp, hatch):
    """As a bar of one value is; whether a line of the hatching passes through it or not."""
    inked = 0
    for x, y in np.random.default_rng(hatch).uniform(5, 15, (60, 2)).tolist():
        corners = np.array([[x, y], [x + 1, y], [x + 1, y + 1], [x, y + 1]])
        bar = Area(corners, "#000000", 0.5, meaning=Meaning("bars"), hatch=hatch)
        pictures = []
        for mark in (bar, structs.replace(bar, hatch=0)):
            image = picture()
            with painter_on(image) as painter:
                paint(Scene(WIDE, HIGH, (mark,), (), (), describe=str), painter)
            pictures.append(darkness(image))
        assert pictures[1].max() == pytest.approx(0.5, abs=0.01)
        inked += (pictures[0] > pictures[1] + 0.01).any()
    assert 0 < inked < 60


def test_random_figures_are_painted_hatched_and_plain_large_and_small(qapp):
    """However small what is filled; another picture comes of hatching where anything is filled."""
    for seed in range(60):
        readings = random_figure(seed).readings()
        if readings is None:
            continue
        inks = []
        for hatching in (False, True):
            scene = build(
                readings, measure, style=style_of(readings.recipe.looking(hatching=hatching))
            )
            scale = (0.3, 1.0, 2.7)[seed % 3]
            image = QImage(
                math.ceil(scene.width * scale),
                math.ceil(scene.height * scale),
                QImage.Format.Format_RGB32,
            )
            image.fill(QColor("white"))
            with painter_on(image) as painter:
                painter.scale(scale, scale)
                paint(scene, painter, live=seed % 2 == 0)
            inks.append(image)
        filled = [m for m in scene.marks if isinstance(m, Area | Swatch) and m.hatch]
        assert (inks[0] != inks[1]) == bool(filled), seed
