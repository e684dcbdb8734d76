"""Axes set by hand: at the ends of the rod, in their panels, and taken back again."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QComboBox

from rhabdos.figure.phrases.shown import with_variable
from rhabdos.figure.recipe.recipe_axes import ValueAxis
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.figure.recipe.recipe_words import FigureText
from rhabdos.figure.recipe.toml_text import read_recipe
from rhabdos.scene.marks import Text

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def drag_end(hands, end: str, by: int, release: bool = True):
    """Drag a grip of the axis' ends so many pixels along the rod."""
    hands.window.choose_phrase("value_axis")
    rod = hands.window.figure.stage.held_rod
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
    frame = hands.window.figure.stage.canvas.scene.frame
    wanted = frame.value(frame.start + 120 / hands.window.figure.stage.canvas.scale)
    drag_end(hands, "low", 120)
    low = hands.recipe.axes.value.low
    assert abs(low - wanted) < (frame.high - frame.low) / 100
    assert hands.window.figure.stage.canvas.scene.frame.low == low
    assert f"runs from {low:g} mm" in hands.sentence()
    below = int((hands.window.session.table.number("Shell length").values < low).sum())
    assert f"{below:,} values lie below the value axis; " in told(hands)
    hands.press("Ctrl+Z")
    assert hands.recipe.axes.value.low is None
    assert hands.window.figure.stage.canvas.scene.frame.low == frame.low


def test_while_an_end_is_dragged_the_axis_stands_still_and_the_rod_tells(hands):
    frame = hands.window.figure.stage.canvas.scene.frame
    rod = drag_end(hands, "high", -200, release=False)
    assert hands.window.figure.stage.canvas.scene.frame.high == frame.high
    assert "values hidden" in rod.readout()
    QTest.keyClick(rod, Qt.Key.Key_Escape)
    assert hands.recipe.axes.value.high is None


def test_an_end_is_moved_by_keys(hands):
    hands.window.choose_phrase("value_axis")
    rod = hands.window.figure.stage.held_rod
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
    for typed, ticks in (("1,000, 2,500", (1000, 2500)), ("70, 65, 60", (70, 65, 60))):
        hands.type_into(panel.widgets["Ticks"], typed)
        assert hands.recipe.axes.value.ticks == ticks


def test_a_log_axis_has_bins_equal_in_logs_unless_they_are_unticked(hands):
    hands.window.session.ask("Automatic", hands.recipe.binned(Bins()))
    panel = hands.panel("value_axis")
    assert not panel.widgets["Bins equal in logs"].isVisible()
    hands.choose("value_axis", "Scale", "in logs")
    assert hands.readings.edges.ratio > 1
    assert "times the one before" in hands.sentence()
    assert "in logs" in hands.sentence()
    hands.tick("value_axis", "Bins equal in logs")
    assert hands.readings.edges.ratio is None
    hands.tick("value_axis", "Bins equal in logs")
    assert hands.readings.edges.ratio > 1


def test_bins_of_one_width_on_a_log_axis_show_density_and_the_cure_makes_them_equal(hands):
    assert hands.recipe.bins.width
    hands.choose("value_axis", "Scale", "in logs")
    assert "heights in density of each bay per factor of 10" in hands.sentence()
    notice = next(n for n in hands.window.session.notices if n.code == "unequal-bins")
    assert "log axis" in notice.text
    hands.window.session.ask(notice.cure_text, notice.cure)
    assert hands.readings.edges.ratio > 1
    assert hands.readings.scale == "percent"


def test_a_rod_backwards_has_its_tabs_and_bins_are_dragged_on_it(hands):
    hands.window.session.ask("Backwards", hands.recipe.with_value_axis(reversed=True))
    hands.window.choose_phrase("bins")
    rod = hands.window.figure.stage.rod
    places = [x for _, x in rod._tabs()]
    assert len(places) > 10
    assert places == sorted(places, reverse=True)
    hands.drag_rod(60.0, 63.0)
    assert hands.recipe.bins.width not in (None, 4.0)


def test_what_was_pressed_hovered_or_marked_is_let_go_with_its_figure(hands):
    canvas, rod = hands.window.figure.stage.canvas, hands.window.figure.stage.rod
    hands.window.session.ask("Panels", hands.recipe.showing(split=()).paneled(by=("Season",)))
    frame = canvas.scene.frames[-1]
    place = QPoint(*(round(side * canvas.scale) for side in (frame.left + 30, frame.top + 30)))
    QTest.mousePress(canvas, LEFT, NONE, place)
    QTest.mouseMove(canvas, place + QPoint(60, 0))
    assert canvas.range_hand.marked.panel is None  # panels share their axis
    QTest.mouseMove(rod, QPoint(round(rod.x_of(hands.readings.edges.high)), 8))
    wide = hands.recipe.paneled(by=()).binned(hands.recipe.bins.with_width(20.0))
    hands.window.session.ask("One panel of wide bins", wide)
    hands.window.grab()
    marked = canvas.range_hand.marked
    QTest.mouseMove(canvas, place + QPoint(90, 0))
    assert canvas.range_hand.marked == marked  # it stays, and the hand has let go
    QTest.mouseRelease(canvas, LEFT, NONE, place)
    assert hands.recipe == wide


def test_what_belongs_to_values_is_let_go_with_their_variable(hands):
    axes = hands.recipe.axes
    axes = axes.changed(
        value=axes.value.changed(low=60.0, high=80.0, ticks=5.0, decimals=2, reversed=True),
        height=axes.height.changed(high=50.0, ticks="none"),
    )
    text = FigureText(text="here", value=70.0)
    hands.window.session.ask("Axes", hands.recipe.changed(axes=axes, text=(text,)))
    added = with_variable(hands.recipe, hands.readings, "Wet mass")
    assert (added.axes, added.text) == (axes, (text,))
    hands.click_variable("Wet mass")
    value, height = hands.recipe.axes.value, hands.recipe.axes.height
    assert (value.low, value.high, value.ticks, value.decimals) == (None, None, None, None)
    assert (value.reversed, height.high, height.ticks) == (True, None, "none")
    assert hands.recipe.text == ()
    hands.press("Ctrl+Z")
    assert hands.recipe.text == (text,)


def test_heights_are_written_as_values_are_unless_they_have_marks_of_their_own(hands):
    def heights():
        """The longest number at the height axis."""
        marks = hands.window.figure.stage.canvas.scene.marks
        texts = [m.text for m in marks if isinstance(m, Text) and m.meaning.part == "height-axis"]
        return max(texts, key=len)

    hands.choose("height_axis", "Numbers", "plain")
    hands.type_into(hands.panel("height_axis").widgets["Decimals"], "1")
    assert heights() == "10.0"
    hands.choose("value_axis", "Written as", "1.234,5")
    assert heights() == "10,0"
    written = hands.panel("height_axis").widgets["Written as"]
    assert written.currentText() == "as the value axis"
    hands.choose("height_axis", "Written as", "1,234.5")
    assert (heights(), written.currentText()) == ("10.0", "1,234.5")
    hands.choose("height_axis", "Written as", "as the value axis")
    assert heights() == "10,0"
    hands.choose("value_axis", "Written as", "1,234.5")
    assert hands.recipe.axes.value == ValueAxis()


def test_each_side_of_the_frame_is_switched_by_itself(hands):
    panel = hands.panel("value_axis")
    assert not panel.widgets["Upper side"].isVisible()
    hands.choose("value_axis", "Frame", "all around")
    hands.tick("value_axis", "Upper side")
    assert hands.recipe.axes.frame == ("left", "bottom", "right")
    assert panel.widgets["Frame"].currentText() == "left, bottom, right"
    hands.tick("value_axis", "Right side")
    assert panel.widgets["Frame"].currentText() == "left and below"
    hands.tick("value_axis", "Upper side")
    assert hands.recipe.axes.frame == ("left", "bottom", "top")
    hands.choose("value_axis", "Frame", "left, bottom, top")  # what it is anyway
    assert hands.recipe.axes.frame == ("left", "bottom", "top")
    hands.choose("value_axis", "Frame", "as usual")
    assert hands.recipe.axes.frame is None


@pytest.mark.parametrize(
    ("table", "phrase"),
    [
        ('[axes]\nframe = ["top", "left"]', "value_axis"),
        ('[axes.value]\nthousands = "’"\nturn = 0', "value_axis"),
        ('[axes.height]\nthousands = "’"\ndecimal = ","', "height_axis"),
        ('[box]\nnumbers = ["median", "n"]', "box"),
        ('[page]\nsize = "13x7in"', "page"),
    ],
)
def test_a_list_shows_whatever_a_recipe_asks_for(hands, table, phrase):
    text = f'rhabdos = 1\n[show]\nvariables = ["Shell length"]\nforms = ["box", "bars"]\n{table}'
    hands.window.session.ask("Recipe", read_recipe(text))
    panel = hands.panel(phrase)
    lists = [widget for widget in panel.widgets.values() if isinstance(widget, QComboBox)]
    assert lists
    assert all(chosen.currentText() for chosen in lists if chosen.isVisible())


# Hands on a log axis, where a pixel is not everywhere the same


@pytest.fixture
def decades(hands, tmp_path):
    """Values over six decades, in bins equal in logs."""
    path = tmp_path / "grit.csv"
    values = 10 ** np.random.default_rng(3).uniform(-2, 4, 2000)
    path.write_text("Grit\n" + "\n".join(f"{value:.6g}" for value in values))
    hands.open(path)
    hands.choose("value_axis", "Scale", "in logs")
    hands.window.choose_phrase("bins")
    return hands


def test_a_tab_dragged_on_a_log_axis_brings_its_edge_there(decades):
    edges = decades.readings.edges
    decades.drag_rod(edges.values[2], edges.values[4])
    fewer = decades.readings.edges
    assert decades.recipe.bins.logs
    assert fewer.ratio == pytest.approx(edges.ratio**2)
    assert "each " in decades.window.figure.stage.rod.readout()
    assert "bins equal in logs" in decades.window.menus.undo.iconText()
    rod = decades.window.figure.stage.rod
    decades.keys(rod, Qt.Key.Key_Up)
    assert decades.readings.edges.count == fewer.count - 1
    decades.keys(rod, Qt.Key.Key_Down, Qt.Key.Key_Down)
    assert decades.readings.edges.count == fewer.count + 1


def test_the_rod_moved_on_a_log_axis_multiplies_all_edges(decades):
    before = np.array(decades.edges())
    between = float(np.sqrt(before[4] * before[5]))
    decades.drag_rod(between, between * 1.3)
    times = np.array(decades.edges()) / before
    assert times == pytest.approx(np.full(len(before), 1.3), rel=0.03)


@pytest.mark.parametrize("value", [0.03, 5.0, 3000.0])
def test_one_edge_a_range_and_a_text_are_moved_on_a_log_axis_as_fine_as_a_pixel(decades, value):
    canvas, edges = decades.window.figure.stage.canvas, np.array(decades.edges())
    frame = canvas.scene.frame
    a_pixel = float(np.log(frame.high / frame.low) / ((frame.end - frame.start) * canvas.scale))
    near = int(np.abs(np.log(edges / value)).argmin())
    wanted = edges[near] * 1.1
    decades.drag_rod(edges[near], wanted, Qt.KeyboardModifier.ControlModifier)
    moved = decades.edges()[near]
    assert abs(np.log(moved / wanted)) < 2 * a_pixel

    frame = canvas.scene.frame
    middle = (frame.top + frame.bottom) / 2
    here, there = (
        QPoint(*(round(part * canvas.scale) for part in (frame.along(v), middle)))
        for v in (value, 1.5 * value)
    )
    QTest.mousePress(canvas, LEFT, NONE, here)
    QTest.mouseMove(canvas, there)
    ends = np.array(canvas.range_hand.marked.ends)
    assert np.abs(np.log(ends / [value, 1.5 * value])).max() < 2 * a_pixel
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    text = FigureText(text="here", value=value, share=0.5)
    decades.window.session.ask("Text", decades.recipe.changed(text=(text,)))
    QTest.mousePress(canvas, LEFT, NONE, here)
    QTest.mouseMove(canvas, there)
    QTest.mouseRelease(canvas, LEFT, NONE, there)
    assert abs(np.log(decades.recipe.text[0].value / (1.5 * value))) < 2 * a_pixel


def test_the_end_of_a_short_log_axis_moves_by_keys_both_ways(hands):
    hands.choose("value_axis", "Scale", "in logs")
    rod = hands.window.figure.stage.held_rod
    rod.chosen_end = "high"
    high = hands.window.figure.stage.canvas.scene.frame.high
    hands.keys(rod, Qt.Key.Key_Left)
    assert hands.recipe.axes.value.high < high
    once = hands.recipe.axes.value.high
    hands.keys(rod, Qt.Key.Key_Left)
    assert hands.recipe.axes.value.high < once


def test_the_ruler_of_a_log_axis_has_its_long_marks_at_powers_of_ten(decades):
    rod, frame = decades.window.figure.stage.rod, decades.window.figure.stage.canvas.scene.frame
    picture = rod.grab().toImage()
    ground = picture.pixelColor(2, 18)
    marked = [x for x in range(rod.width()) if picture.pixelColor(x, 22) != ground]
    powers = [10.0**k for k in range(-2, 5) if frame.low <= 10.0**k <= frame.high]
    assert len(powers) >= 5
    for power in powers:
        assert any(abs(x - rod.x_of(power)) <= 1.5 for x in marked)
    assert len(marked) <= len(powers) + 2
