"""Axes set by hand: at the ends of the rod, in their panels, and taken back again."""

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def drag_end(hands, end: str, by: int, release: bool = True):
    """Drag a grip of the axis' ends so many pixels along the rod."""
    hands.window.choose_phrase("value_axis")
    rod = hands.window.stage.held_rod
    start = QPoint(round(rod.grip(end)), 8)
    QTest.mousePress(rod, LEFT, NONE, start)
    for share in (0.3, 0.7, 1.0):
        QTest.mouseMove(rod, start + QPoint(round(by * share), 0))
    if release:
        QTest.mouseRelease(rod, LEFT, NONE, start + QPoint(by, 0))
    return rod


def told(hands) -> str:
    return " ".join(notice.text for notice in hands.window.session.notices)


def test_an_end_of_the_axis_is_dragged_and_taken_back(hands):
    frame = hands.window.stage.canvas.scene.frame
    wanted = frame.value(frame.start + 120 / hands.window.stage.canvas.scale)
    drag_end(hands, "low", 120)
    low = hands.recipe.axes.value.low
    assert abs(low - wanted) < (frame.high - frame.low) / 100
    assert hands.window.stage.canvas.scene.frame.low == low
    assert f"runs from {low:g} mm" in hands.sentence()
    below = int((hands.window.session.table.number("Shell length").values < low).sum())
    assert f"{below:,} values lie beyond the value axis" in told(hands)
    hands.press("Ctrl+Z")
    assert hands.recipe.axes.value.low is None
    assert hands.window.stage.canvas.scene.frame.low == frame.low


def test_while_an_end_is_dragged_the_axis_stands_still_and_the_rod_tells(hands):
    frame = hands.window.stage.canvas.scene.frame
    rod = drag_end(hands, "high", -200, release=False)
    assert hands.window.stage.canvas.scene.frame.high == frame.high
    assert "values hidden" in rod.readout()
    QTest.keyClick(rod, Qt.Key.Key_Escape)
    assert hands.recipe.axes.value.high is None


def test_an_end_is_moved_by_keys(hands):
    hands.window.choose_phrase("value_axis")
    rod = hands.window.stage.held_rod
    hands.keys(rod, Qt.Key.Key_Right, Qt.Key.Key_Right)
    assert hands.recipe.axes.value.low > 40


def test_limits_and_ticks_are_typed_in_the_panel(hands):
    panel = hands.panel("value_axis")
    hands.type_into(panel.widgets["From"], "60")
    hands.type_into(panel.widgets["To"], "80 mm")
    hands.type_into(panel.widgets["Ticks"], "every 5")
    hands.choose("value_axis", "Labels", "upright")
    axis = hands.recipe.axes.value
    assert (axis.low, axis.high, axis.ticks, axis.turn) == (60.0, 80.0, 5.0, 90)
    hands.type_into(panel.widgets["From"], "200")
    assert panel.fault.text() == "An axis must end above where it begins."
    assert hands.recipe.axes.value.low == 60.0
    hands.type_into(panel.widgets["Ticks"], "many")
    assert "names no ticks" in panel.fault.text()


def test_a_log_axis_offers_bins_equal_in_logs(hands):
    panel = hands.panel("value_axis")
    assert not panel.widgets["Bins equal in logs"].isVisible()
    hands.choose("value_axis", "Scale", "in logs")
    hands.tick("value_axis", "Bins equal in logs")
    assert hands.readings.edges.ratio > 1
    assert "times the one before" in hands.sentence()
    assert "in logs" in hands.sentence()
    hands.tick("value_axis", "Bins equal in logs")
    assert hands.readings.edges.ratio is None


def test_a_rod_backwards_has_its_tabs_and_bins_are_dragged_on_it(hands):
    hands.window.session.ask("Backwards", hands.recipe.with_value_axis(reversed=True))
    hands.window.choose_phrase("bins")
    rod = hands.window.stage.rod
    places = [x for _, x in rod._tabs()]
    assert len(places) > 10
    assert places == sorted(places, reverse=True)
    hands.drag_rod(60.0, 63.0)
    assert hands.recipe.bins.width not in (None, 4.0)


def test_what_was_pressed_hovered_or_marked_is_let_go_with_its_figure(hands):
    canvas, rod = hands.window.stage.canvas, hands.window.stage.rod
    hands.window.session.ask("Panels", hands.recipe.showing(split=()).paneled(by=("Season",)))
    frame = canvas.scene.frames[-1]
    place = QPoint(*(round(side * canvas.scale) for side in (frame.left + 30, frame.top + 30)))
    QTest.mousePress(canvas, LEFT, NONE, place)
    QTest.mouseMove(canvas, place + QPoint(60, 0))
    assert canvas.brushed.panel == 3
    QTest.mouseMove(rod, QPoint(round(rod.x_of(hands.readings.edges.high)), 8))
    wide = hands.recipe.paneled(by=()).binned(hands.recipe.bins.with_width(20.0))
    hands.window.session.ask("One panel of wide bins", wide)
    hands.window.grab()
    assert canvas.brushed is None
    QTest.mouseRelease(canvas, LEFT, NONE, place)
    assert hands.recipe == wide
