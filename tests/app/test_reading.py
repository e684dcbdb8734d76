"""Boxes, points and lanes in the window, by real events: chosen, pointed at, stepped and dragged."""

import itertools

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QMenu

from rhabdos.figure.forms.box import boxes
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.sentence import sentence
from rhabdos.figure.recipe.forms import FORMS
from rhabdos.scene.marks import Dots, Text

LEFT = Qt.MouseButton.LeftButton


def at(canvas, value, across):
    """Where a value lies on the canvas, at a place across its axis."""
    frame = canvas.scene.frame
    x, y = frame.point(frame.along(value), across)
    return QPoint(round(x * canvas.scale), round(y * canvas.scale))


def strip(canvas, form, group=0):
    frame = canvas.scene.frame
    return next(
        s for lane in frame.lanes for s in lane.strips if (s.form, s.group) == (form, group)
    )


def draw(hands, *forms, **show):
    hands.window.session.ask("Draw", hands.recipe.showing(forms=forms, **show))
    QTest.qWait(1)  # a longer sentence moves the paper
    return hands.window.figure.stage.canvas


def test_a_click_on_a_picture_makes_a_box_plot_and_all_else_stays(hands):
    before = hands.recipe
    picture = hands.panel("forms").pictures["box"]
    QTest.mouseClick(picture, Qt.MouseButton.LeftButton)
    assert hands.recipe == before.showing(forms=("box",))
    assert "split by Bay in lanes, drawn as box, standing. Whiskers reach 1.5" in hands.sentence()
    assert hands.window.sentence.button("bins") is None
    assert hands.window.menus.undo.iconText() == "Undo Drawn as box"
    texts = [m.text for m in hands.window.figure.stage.canvas.scene.marks if isinstance(m, Text)]
    assert "Two harvests hide in Saltmere" in texts
    hands.press("Ctrl+Z")
    assert hands.recipe == before


def test_from_the_sentence_it_is_one_choice_too(hands):
    hands.pick(hands.click_phrase("forms"), "box")
    assert hands.recipe.show.forms == ("box",)
    hands.pick(hands.click_phrase("way"), "lying")
    assert hands.recipe.show.upright is False
    hands.pick(hands.click_phrase("box"), "whiskers to percentiles 5 and 95")
    assert hands.recipe.box.whiskers == (5.0, 95.0)
    assert "whiskers reach percentiles 5 and 95" in hands.sentence().lower()


def test_pointing_at_a_box_reads_it_and_a_click_chooses_it(hands):
    canvas = draw(hands, "box", upright=False)
    band = strip(canvas, "box", 2).band
    QTest.mouseMove(canvas, at(canvas, 71, band.middle))
    card = canvas.card()
    assert card.title == "Wick Narrows, n = 776"
    drawn = boxes(hands.readings)[2]
    assert f"{drawn.median:.1f} mm" in {cell for line in card.lines for cell in line.cells}
    assert "2 values lie beyond the whiskers" in card.notes[0]
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=at(canvas, 71, band.middle))
    assert hands.window.figure.side.chosen == "box"
    QTest.mouseMove(canvas, QPoint(2, 2))
    assert canvas.card() is None


def test_a_value_beyond_is_named_and_followed_to_its_row(hands):
    canvas = draw(hands, "box")
    hands.choose("box", "Beyond", "by Tag")
    names = {
        m.text
        for m in canvas.scene.marks
        if isinstance(m, Text) and m.meaning.part == "box" and m.text.startswith("T-")
    }
    assert names
    tags = hands.window.session.table.column("Tag").texts
    values = hands.readings.variable.values
    hands.press("Ctrl+B")
    hands.keys(canvas, Qt.Key.Key_Right)
    spoken = canvas.heard.told
    assert spoken.startswith("Heron Sound, n = 820")
    for name in names:
        row = list(tags).index(name)
        group = hands.readings.split.codes[row]
        box = boxes(hands.readings)[group]
        assert not box.whisker_low <= values[row] <= box.whisker_high
        if group == 0:
            assert f"row {row + 1:,} {name}: {values[row]:g}" in spoken


def test_keys_step_along_a_row_of_parts_and_from_row_to_row(hands):
    canvas = draw(hands, "bars", "box", "points")
    hands.press("Ctrl+B")
    hands.keys(canvas, Qt.Key.Key_Right)
    assert canvas.card().title == "40 to under 44 mm"
    hands.keys(canvas, Qt.Key.Key_Down)
    assert canvas.card().title == "Heron Sound, n = 820"
    hands.keys(canvas, Qt.Key.Key_Right)
    assert canvas.card().title == "Saltmere, n = 817"
    hands.keys(canvas, Qt.Key.Key_Down)
    assert canvas.card().title.startswith("Saltmere: ")
    hands.keys(canvas, Qt.Key.Key_Up, Qt.Key.Key_Up, Qt.Key.Key_End)
    assert canvas.card().title == "104 to 108 mm"


@pytest.mark.parametrize("upright", [False, True])
@pytest.mark.parametrize("form", list(FORMS))
def test_every_form_answers_the_pointer_lying_and_standing(hands, form, upright):
    canvas = draw(hands, form, upright=upright, heights="density")
    lane = canvas.scene.frame.lanes[0]
    band = strip(canvas, form).band if FORMS[form].strip else lane.heights[0].band
    QTest.mouseMove(canvas, at(canvas, 75, (band.base * 3 + band.tip) / 4))
    card = canvas.card()
    assert card.lines
    assert canvas.grab().toImage().width()  # and paints it
    QTest.mouseClick(
        canvas, Qt.MouseButton.LeftButton, pos=at(canvas, 75, (band.base * 3 + band.tip) / 4)
    )
    governed = {"box": "box", "points": "points", "violin": "curve", "curve": "curve"}
    governed |= {"shift": "compare", "pairs": "pairs"}
    if form in ("normal", "ecdf"):
        governed[form] = "curve"
    assert hands.window.figure.side.chosen == governed.get(form, "bins")
    assert PHRASES[hands.window.figure.side.chosen].applies(hands.readings)


@pytest.fixture
def reach(hands):
    draw(hands, "box", upright=False)
    hands.window.choose_phrase("box")
    return hands.window.figure.stage.held_rod


def drag(rod, start, end, release=True):
    button = Qt.MouseButton.LeftButton
    QTest.mousePress(rod, button, pos=rod.place_of(start, 12).toPoint())
    QTest.mouseMove(rod, rod.place_of((start + end) / 2, 12).toPoint())
    QTest.mouseMove(rod, rod.place_of(end, 12).toPoint())
    if release:
        QTest.mouseRelease(rod, button, pos=rod.place_of(end, 12).toPoint())


def beyond(hands):
    marks = [m for m in hands.window.figure.stage.canvas.scene.marks if isinstance(m, Dots)]
    return sum(len(m.places) for m in marks)


def test_dragging_the_grip_moves_values_from_beyond_to_within(hands, reach):
    box = boxes(hands.readings)[0]
    frame, scale = (
        hands.window.figure.stage.canvas.scene.frame,
        hands.window.figure.stage.canvas.scale,
    )
    assert reach.grip(True) == pytest.approx(
        frame.along(box.q3 + 1.5 * (box.q3 - box.q1)) * scale, abs=0.01
    )
    before = beyond(hands)
    wanted = box.q3 + 0.5 * (box.q3 - box.q1)
    drag(reach, reach.grip(True), frame.along(wanted) * scale, release=False)
    assert hands.readings.recipe.box.whiskers == pytest.approx(0.5, abs=0.04)
    assert hands.recipe.box.whiskers == 1.5  # nothing is recorded while the hand moves
    assert beyond(hands) > before + 20
    QTest.mouseRelease(
        reach, Qt.MouseButton.LeftButton, pos=QPoint(round(frame.along(wanted) * scale), 12)
    )
    assert hands.recipe.box.whiskers == pytest.approx(0.5, abs=0.04)
    hands.press("Ctrl+Z")
    assert beyond(hands) == before


def test_the_reach_follows_the_box_that_is_pointed_at_and_keys(hands, reach):
    canvas = hands.window.figure.stage.canvas
    QTest.mouseMove(canvas, at(canvas, 75, strip(canvas, "box", 1).band.middle))
    assert reach.group == 1
    assert "Saltmere: 0 values beyond" in reach.readout()
    hands.keys(reach, Qt.Key.Key_Down, Qt.Key.Key_Down)
    assert hands.recipe.box.whiskers == pytest.approx(1.4)
    drag(reach, reach.grip(False), reach.grip(False) + 30, release=False)
    assert hands.readings.recipe.box.whiskers < 1.4
    hands.keys(reach, Qt.Key.Key_Escape)
    assert hands.readings.recipe.box.whiskers == pytest.approx(1.4)


def test_a_standing_rod_stands_beside_the_paper_and_its_tabs_are_dragged_upwards(hands):
    canvas = draw(hands, "bars", upright=True)
    rod = hands.window.figure.stage.rod
    assert rod.isVisible()
    assert rod.geometry().right() < canvas.x()
    assert rod.height() == canvas.height()
    frame = canvas.scene.frame
    tab = rod.place_of(rod.x_of(60), 8)
    assert rod.y() + tab.y() == pytest.approx(
        canvas.y() + (frame.page_height - frame.along(60)) * canvas.scale, abs=1
    )
    drag(rod, rod.x_of(60), rod.x_of(66))
    assert hands.readings.edges.width == pytest.approx(5.2, abs=0.11)
    drag(rod, rod.x_of(hands.readings.edges.low), rod.x_of(hands.readings.edges.low + 2))
    assert rod.grab().toImage().height() == rod.height()


def test_where_nothing_has_a_grip_there_is_no_rod(hands):
    draw(hands, "points")
    assert hands.window.figure.stage.held_rod is None
    assert not hands.window.figure.stage.rod.isVisible()
    hands.press("Ctrl+R")  # which does nothing
    draw(hands, "bars")
    assert hands.window.figure.stage.rod.isVisible()


def test_the_panel_of_a_phrase_that_does_not_matter_says_so(hands):
    hands.window.choose_phrase("bins")
    draw(hands, "box")
    side = hands.window.figure.side
    assert not side.has_settings
    shown = [label.text() for label in side.idle.findChildren(QLabel)]
    assert shown == ["Bins: nothing in this figure follows from it now."]
    QTest.mouseClick(side.idle.cure, LEFT)
    assert hands.recipe.show.forms == ("bars", "box")
    assert side.panel("bins").isVisible()


def test_menus_lead_to_what_the_sentence_does_not_say(hands):
    menus, side = hands.window.menus, hands.window.figure.side
    menus.phrases["curve"].trigger()
    assert (side.chosen, side.has_settings) == ("curve", False)
    assert side.idle.cure.hasFocus()
    QTest.keyClick(side.idle.cure, Qt.Key.Key_Space)
    assert hands.recipe.show.forms == ("bars", "curve")
    assert side.panel("curve").isVisible()
    menus.phrases["legend"].trigger()
    assert (side.chosen, side.has_settings) == ("legend", True)
    hands.window.session.ask("All together", hands.recipe.showing(split=()))
    menus.phrases["arrange"].trigger()
    assert side.idle.cure.text() == "Split by a factor"
    QTest.keyClick(side.idle.cure, Qt.Key.Key_Space)
    assert side.chosen == "split"


def test_parts_are_told_apart_by_whether_they_are_said_and_found_by_typing(hands):
    parts, side = hands.window.figure.side.parts, hands.window.figure.side
    said = {key for key, button in parts.buttons.items() if button.property("said")}
    assert said == {fragment.phrase for fragment in sentence(hands.readings)} - {None}
    assert not parts.buttons["legend"].isHidden()
    assert parts.buttons["curve"].isHidden()  # nothing follows from it in a figure of bars
    hands.window.menus.phrases["curve"].trigger()  # which is chosen, and not in sight
    stops = [b for b in parts.buttons.values() if b.focusPolicy() & Qt.FocusPolicy.TabFocus]
    assert len(stops) == 1
    assert stops[0].isVisible()
    parts.buttons["bins"].setFocus()
    QTest.keyClick(parts.buttons["bins"], Qt.Key.Key_Right)
    assert parts.buttons["bars"].hasFocus()
    QTest.keyClicks(parts.buttons["bars"], "le")
    assert parts.buttons["legend"].hasFocus()
    QTest.keyClick(parts.buttons["legend"], Qt.Key.Key_Space)
    assert side.chosen == "legend"
    assert parts.buttons["legend"].property("chosen")
    assert not parts.buttons["bins"].property("chosen")
    QTest.mouseClick(parts.buttons["heights"], LEFT)
    assert side.chosen == "heights"
    assert not any(menu.isVisible() for menu in hands.window.findChildren(QMenu))


@pytest.mark.parametrize("width", [240, 268, 320])
def test_parts_break_into_lines_like_words(hands, width):
    parts = hands.window.figure.side.parts
    parts.setFixedWidth(width)
    QApplication.processEvents()
    shown = [b.geometry() for b in parts.buttons.values() if not b.isHidden()]
    assert all(g.left() >= 7 and g.right() <= width - 7 for g in shown)
    for one, other in itertools.pairwise(shown):
        assert not one.intersects(other)
        below = other.top() > one.top()
        assert below or other.left() > one.right()
        assert not below or one.right() + 1 + other.width() + 1 > width - 14


@pytest.mark.parametrize("key", list(PHRASES))
def test_every_phrase_is_opened_by_its_keys_and_shows_its_panel(hands, key):
    draw(hands, "bars", "curve", "box", "points")
    hands.press(PHRASES[key].keys)
    assert hands.window.figure.side.chosen == key
    assert hands.window.figure.side.panel(key).isVisible()
    hands.window.grab()


def test_boxes_are_set_in_their_panel(hands):
    canvas = draw(hands, "box")
    hands.type_into(hands.panel("box").widgets["Whiskers"], "range")
    assert hands.recipe.box.whiskers == "range"
    assert beyond(hands) == 0
    hands.type_into(hands.panel("box").widgets["Whiskers"], "nowhere")
    assert "no reach of whiskers" in hands.panel("box").fault.text() or hands.recipe.box.whiskers
    hands.choose("box", "Mean", "square")
    assert [m.shape for m in canvas.scene.marks if isinstance(m, Dots)] == ["square"] * 3
    hands.choose("box", "Beside it", "n, mean ± sd")
    texts = [m.text for m in canvas.scene.marks if isinstance(m, Text)]
    assert "77.3 ± 6.1" in texts
    hands.tick("box", "Notches")
    hands.tick("box", "Letter values")
    assert hands.recipe.box.letters
    assert not hands.panel("box").widgets["Notches"].isVisible()  # which letter values have not
    assert hands.window.figure.stage.held_rod is None


def test_lanes_are_asked_for_and_left_again(hands):
    hands.pick(hands.click_phrase("arrange"), "in lanes")
    canvas = hands.window.figure.stage.canvas
    assert len(canvas.scene.frame.lanes) == 3
    QTest.mouseMove(canvas, at(canvas, 78, canvas.scene.frame.lanes[1].heights[0].band.base))
    assert canvas.card().title == "76 to under 80 mm"
    assert [line.pointed for line in canvas.card().lines] == [False, True, False]
    hands.pick(hands.click_phrase("arrange"), "overlaid")
    assert len(canvas.scene.frame.lanes) == 1


def test_own_bins_of_groups_are_chosen_and_drawn_in_lanes(hands):
    panel = hands.panel("bins")
    panel.widgets["Rule"].setCurrentIndex(0)
    panel.widgets["Rule"].activated.emit(0)
    QTest.mouseClick(
        panel.widgets["Shared by all groups"], Qt.MouseButton.LeftButton, pos=QPoint(8, 10)
    )
    assert hands.recipe.bins.shared is False
    canvas = hands.window.figure.stage.canvas
    assert len(canvas.scene.frame.lanes) == 3
    own = hands.readings.own_edges[2]
    middle = float(own.values[3] + own.values[4]) / 2
    QTest.mouseMove(canvas, at(canvas, middle, canvas.scene.frame.lanes[2].heights[0].band.base))
    assert [line.label for line in canvas.card().lines] == ["Wick Narrows"]
    assert canvas.stop.value == pytest.approx(middle)
    hands.drag_rod(float(hands.readings.edges.values[2]), float(hands.readings.edges.values[2]) + 3)
    assert hands.recipe.bins.shared is False


def test_points_and_bars_have_their_settings(hands):
    canvas = draw(hands, "points")
    hands.choose("points", "Points", "stacked")
    assert hands.recipe.points.spread == "stacked"
    canvas = draw(hands, "bars", arrange="lanes")
    hands.type_into(hands.panel("bars").widgets["Gap"], "20")
    hands.choose("bars", "Numbers", "percent")
    assert hands.recipe.bars.gap == pytest.approx(0.2)
    assert "bars are 20 % apart, each with its percent" in hands.sentence()
    texts = [m.text for m in canvas.scene.marks if isinstance(m, Text) and m.meaning.part == "bars"]
    assert texts
    assert all(text.endswith("%") for text in texts)
    counts = np.array([float(text.removesuffix("%")) for text in texts])
    assert counts.max() == pytest.approx(25, abs=0.5)


def test_the_group_whose_curve_is_pointed_at_stands_out(hands):
    canvas = draw(hands, "curve", heights="density")
    frame = canvas.scene.frame
    from rhabdos.figure.forms.lines import curves_of

    for curve in curves_of(hands.readings, "curve"):
        value = float(curve.x[curve.y.argmax()])
        QTest.mouseMove(canvas, at(canvas, value, frame.band.at(float(curve.y.max()))))
        assert [line.group for line in canvas.card().lines if line.pointed] == [curve.group]


def test_the_reach_holds_another_box_when_its_own_has_gone(hands, reach):
    canvas = hands.window.figure.stage.canvas
    QTest.mouseMove(canvas, at(canvas, 71, strip(canvas, "box", 2).band.middle))
    assert reach.group == 2
    hands.window.session.ask("Together", hands.recipe.showing(split=()))
    assert "3 values beyond" in reach.readout()
    drag(reach, reach.grip(True), reach.grip(True) - 30)
    assert hands.recipe.box.whiskers < 1.5


@pytest.mark.parametrize("form", list(FORMS))
def test_figures_at_the_ends_of_the_range_of_numbers_are_painted_with_their_rods(
    empty, tmp_path, form
):
    path = tmp_path / "ends.csv"
    path.write_text("x\n-4e307\n4e307\n1e307\n-1e307\n2\n")
    empty.open(path)
    empty.window.session.ask("Draw", empty.recipe.showing(forms=(form,), heights="density"))
    for phrase in ("bins", "curve", "box"):
        empty.window.choose_phrase(phrase)
        empty.window.grab()
        if (rod := empty.window.figure.stage.held_rod) and empty.readings:
            drag(rod, rod.length // 2, rod.length - 3)
            empty.keys(rod, Qt.Key.Key_Up, Qt.Key.Key_Down)
    empty.window.grab()
    assert empty.readings is not None


@pytest.mark.parametrize("upper", [True, False])
def test_what_the_whiskers_reach_is_told_at_the_grip_in_the_hand(reach, monkeypatch, upper):
    told = []
    monkeypatch.setattr(
        "rhabdos.app.rods.reach.paint_readout",
        lambda _painter, _rod, text, along: told.append((text, along)),
    )
    start = reach.grip(upper)
    drag(reach, start, start + (8 if upper else -8), release=False)
    reach.grab()
    text, along = told[-1]
    assert text == reach.readout()
    assert along == pytest.approx(reach.grip(upper))
    assert abs(along - reach.grip(not upper)) > 20
    QTest.mouseRelease(reach, Qt.MouseButton.LeftButton)
