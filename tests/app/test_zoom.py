"""The page larger and smaller, by wheel, keys and bars; and what is pointed at stays what it is."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, QRect, QRectF, QSize, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QDialog, QTextBrowser

from rhabdos.app.paper.stage import whole_paper
from rhabdos.app.paper.zoom import LARGEST, Zoom
from rhabdos.app.rods.ruler import thickness
from tests.kept_hands import wheel


@given(
    st.floats(0.25, LARGEST), st.floats(-1, 2), st.floats(-1, 2), st.integers(150, 900)
)  # fmt: skip
def test_a_page_beyond_its_room_leaves_nothing_of_it_free_and_a_smaller_one_lies_in_the_middle(
    times, across, down, wide
):
    zoom = Zoom()
    zoom.to(times)
    zoom.across, zoom.down = across, down
    room = QRectF(20, 10, 600, 400)
    place = zoom.placed(QRect(100, 60, wide, 250), room)
    if zoom.whole:
        assert place == QRect(100, 60, wide, 250)
        return
    for begins, long, low, free in (
        (place.left(), place.width(), room.left(), room.width()),
        (place.top(), place.height(), room.top(), room.height()),
    ):
        if long > free:
            assert begins <= low + 1
            assert begins + long >= low + free - 1
        else:
            assert abs((begins + long / 2) - (low + free / 2)) <= 1


def test_steps_go_up_and_down_and_back_to_the_whole_page():
    zoom = Zoom()
    for _ in range(30):
        zoom.by(1)
    assert zoom.times == LARGEST
    for _ in range(60):
        zoom.by(-1)
    assert zoom.times == 0.25
    zoom.fit()
    assert zoom.whole
    zoom.by(1)
    zoom.by(-1)
    assert zoom.whole


def test_ctrl_and_wheel_enlarge_the_page_about_the_pointer_and_keys_bring_it_back(hands):
    stage = hands.window.figure.stage
    usual = stage.canvas.geometry()
    assert usual.width() <= stage.width()
    wheel(stage.canvas, 3, Qt.KeyboardModifier.ControlModifier, at=(0.9, 0.5))
    assert stage.canvas.width() == pytest.approx(usual.width() * 1.25**3, abs=2)
    assert stage.zoom.across > 0.5
    assert stage.bars[0].isVisible()
    before = stage.canvas.y()
    wheel(stage.canvas, 1)
    assert stage.canvas.y() >= before
    hands.press("Ctrl+Alt+F")
    assert stage.canvas.geometry() == usual
    assert not stage.bars[0].isVisible()
    hands.press("Ctrl++")
    hands.press("Ctrl+-")
    assert stage.canvas.geometry() == usual
    hands.press("Ctrl+Alt+W")
    assert stage.canvas.width() == pytest.approx(stage.width() - 32, abs=2)


@pytest.mark.parametrize("upright", [False, True])
def test_nothing_of_a_larger_page_lies_under_its_rod(hands, upright):
    hands.window.session.ask("Stand", hands.recipe.showing(upright=upright))
    stage = hands.window.figure.stage
    assert stage.canvas.mask().isEmpty()
    for _ in range(4):
        hands.press("Ctrl++")
    seen = stage.canvas.mask().translated(stage.canvas.pos())
    rod = stage.held_rod.geometry()
    assert stage.canvas.geometry().intersects(rod)
    assert not seen.intersects(rod)
    beside = rod.adjusted(0, 0, 2, 0) if upright else rod.adjusted(0, -2, 0, 0)
    assert seen.intersects(beside)
    hands.press("Ctrl+Alt+F")
    assert stage.canvas.mask().isEmpty()


def test_what_is_pointed_at_and_dragged_is_the_same_at_any_size(hands):
    stage = hands.window.figure.stage
    rod = stage.rod

    def drag(window):
        x = round(rod.x_of(60.0))
        left = Qt.MouseButton.LeftButton
        QTest.mousePress(rod, left, Qt.KeyboardModifier.NoModifier, QPoint(x, 8))
        QTest.mouseMove(rod, QPoint(round(rod.x_of(65.0)), 8))
        QTest.mouseRelease(
            rod, left, Qt.KeyboardModifier.NoModifier, QPoint(round(rod.x_of(65.0)), 8)
        )
        return window.session.recipe.bins

    hands.press("Ctrl++")
    assert rod.isVisible()
    assert rod.geometry().bottom() <= stage.height()
    large = drag(hands.window)
    assert large.width == pytest.approx(5.0, abs=0.11)
    stage.bars[0].setValue(stage.bars[0].maximum())
    frame = stage.canvas.scene.frame
    along = frame.along(90.0) * stage.canvas.scale
    place = QPoint(round(along), round(frame.bottom * stage.canvas.scale) - 12)
    QTest.mouseMove(stage.canvas, place)
    assert stage.canvas.stop is not None
    assert stage.canvas.stop.value == pytest.approx(90.0, abs=large.width)


def test_the_page_of_keys_scrolls_and_fits_into_a_small_window(hands):
    hands.window.resize(700, 500)
    hands.press("F1")
    (dialog,) = [d for d in hands.window.findChildren(QDialog) if d.isVisible()]
    assert dialog.height() <= 500
    page = dialog.findChild(QTextBrowser)
    bar = page.verticalScrollBar()
    assert bar.maximum() > 0
    QTest.keyClick(page, Qt.Key.Key_PageDown)
    assert 0 < bar.value() < bar.maximum()
    QTest.keyClick(page, Qt.Key.Key_End)
    assert bar.value() == bar.maximum()
    assert "Ctrl + wheel" in page.toPlainText()
    dialog.close()


@pytest.mark.parametrize("upright", [False, True])
def test_a_page_with_room_to_spare_stands_in_the_middle_of_it(upright):
    room = QSize(600, 1400)
    page = whole_paper(room, 400, 200, upright)
    beside, under = (
        (page.left(), room.width() - page.right()),
        (page.top(), room.height() - page.bottom()),
    )
    rod = thickness()
    assert under[1] - under[0] == pytest.approx(0 if upright else rod, abs=12)
    assert beside[0] - beside[1] == pytest.approx(rod if upright else 0, abs=12)
    assert page.width() / page.height() == pytest.approx(2, rel=0.01)
