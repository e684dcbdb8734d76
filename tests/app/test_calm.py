"""The calm of the window: the side follows what was clicked, faults stand at their field, usual
sizes are said, notices come gravest first, and nothing happens unsaid."""

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu

from rhabdos.figure.words.notice import HIDES, LACKS, MISLEADS, Notice
from rhabdos.scene.marks import Area
from tests.app.texts import words_of

LEFT = Qt.MouseButton.LeftButton


def inside(hands, part, group):
    """A place within a filled mark of a group, in pixels."""
    canvas = hands.window.figure.stage.canvas
    for mark in canvas.scene.marks:
        if isinstance(mark, Area) and (mark.meaning.part, mark.meaning.group) == (part, group):
            middle = mark.points.mean(axis=0) * canvas.scale
            return QPoint(round(float(middle[0])), round(float(middle[1])))
    raise AssertionError((part, group))


def test_a_click_on_a_box_shows_the_colour_of_its_group_which_is_changed_there(hands):
    hands.pick(hands.click_phrase("forms"), "box")
    canvas = hands.window.figure.stage.canvas
    QTest.mouseClick(canvas, LEFT, pos=inside(hands, "box", 1))
    panel = hands.panel("box")
    assert panel.level_colour.isVisible()
    level = hands.readings.groups[1].label
    assert words_of(panel._level_form.labelForField(panel.level_colour)) == level
    hands.type_into(panel.level_colour.field, "crimson")
    assert hands.recipe.look.colours == {level: "#DC143C"}
    hands.type_into(panel.level_colour.field, "")
    assert hands.recipe.look.colours == {}
    hands.window.choose_phrase("value_axis")
    assert not hands.panel("value_axis").level_colour.isVisible()


def test_many_groups_in_lanes_of_one_colour_still_have_one_of_their_own_by_a_click(empty, tmp_path):
    rows = [f"{50 + i * 7 % 31},{'ABCDEFGHIJKL'[i % 12]}" for i in range(240)]
    (tmp_path / "m.csv").write_text("\n".join(["v,g", *rows]))
    empty.open(tmp_path / "m.csv")
    empty.pick(empty.click_phrase("split"), "g")
    empty.pick(empty.click_phrase("forms"), "box")
    canvas = empty.window.figure.stage.canvas
    fills = {m.fill for m in canvas.scene.marks if isinstance(m, Area) and m.meaning.part == "box"}
    assert len(fills) == 1
    QTest.mouseClick(canvas, LEFT, pos=inside(empty, "box", 3))
    empty.type_into(empty.panel("box").level_colour.field, "#AA0000")
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    own = [
        m.meaning.group for m in canvas.scene.marks
        if isinstance(m, Area) and m.meaning.part == "box" and m.fill == "#AA0000"
    ]  # fmt: skip
    assert own == [3]


def test_what_is_wrong_is_said_right_under_its_field_and_in_sight(hands):
    hands.window.resize(1024, 640)
    panel = hands.panel("value_axis")
    field = panel.widgets["Aspect"]
    hands.type_into(field, "many")
    QApplication.processEvents()
    assert panel.fault.isVisible()
    gap = panel.fault.mapTo(panel, QPoint(0, 0)).y() - (
        field.mapTo(panel, QPoint(0, 0)).y() + field.height()
    )
    assert 0 <= gap < 30
    assert not panel.fault.visibleRegion().isEmpty()
    hands.type_into(field, "0.5")
    assert not panel.fault.isVisible()
    other = panel.widgets["Decimals"]
    hands.type_into(other, "many")
    assert panel.fault.mapTo(panel, QPoint(0, 0)).y() > other.mapTo(panel, QPoint(0, 0)).y()
    assert "whole number" in panel.fault.text() or "number" in panel.fault.text()


@pytest.mark.parametrize(
    ("typed", "share"), [("30", 0.3), ("30 %", 0.3), ("0.3", 0.3), ("1 %", 0.01)]
)
def test_how_see_through_fills_are_is_one_number(hands, typed, share):
    field = hands.panel("look").widgets["See-through"]
    hands.type_into(field, typed)
    assert hands.recipe.look.see_through == pytest.approx(share)
    assert field.text() == f"{round(share * 100)} %"
    scene = hands.window.figure.stage.canvas.scene
    opaque = {m.opacity for m in scene.marks if isinstance(m, Area) and m.meaning.part == "bars"}
    assert max(opaque) <= 1 - share + 1e-9


def test_usual_sizes_stand_in_empty_fields(hands):
    hands.pick(hands.click_phrase("forms"), "box")
    assert hands.panel("box").widgets["Lines, width"].placeholderText() == "as the look: 0.8 pt"
    panel = hands.panel("look")
    assert panel.widgets["See-through"].placeholderText().endswith(" %")
    panel.looks["slide"].click()
    QApplication.processEvents()
    assert panel.widgets["Box"].placeholderText() == "as the look: 1.45 pt"


def test_a_palette_that_is_chosen_later_says_which_colours_stay(hands):
    panel = hands.panel("look")
    assert not panel.own_stay.isVisible()
    hands.type_into(panel.colours["Saltmere"].field, "#AA0000")
    panel.palettes["kelp"].click()
    QApplication.processEvents()
    assert panel.own_stay.isVisible()
    assert panel.own_stay.text().endswith("colours of your own stay: Saltmere.")
    assert hands.recipe.look.colours == {"Saltmere": "#AA0000"}


def test_the_gravest_notice_is_shown_first_and_what_has_just_come_up_among_equals(hands):
    strip = hands.window.figure.foot.notices
    lacks = Notice("a", "It lacks something.", weight=LACKS)
    misleads = Notice("b", "It misleads.", weight=MISLEADS)
    other = Notice("c", "It misleads otherwise.", weight=MISLEADS)
    hides = Notice("d", "It hides something.", weight=HIDES)
    strip.show_notices((misleads, lacks))
    assert strip.text.text() == "It misleads."
    strip.show_notices((misleads, other, lacks))
    assert strip.text.text() == "It misleads otherwise."
    strip.show_notices((hides, misleads, other, lacks))
    assert strip.text.text() == "It hides something."
    fresh = Notice("e", "It lacks more.", weight=LACKS)
    strip.show_notices((hides, misleads, lacks, fresh))
    assert strip.text.text() == "It hides something."
    strip.show_notices(())
    assert not strip.isVisible()


def test_a_long_notice_breaks_rather_than_being_cut(hands):
    strip = hands.window.figure.foot.notices
    long = Notice("a", "A long sentence about the values that lie in the figure. " * 3)
    hands.window.figure.foot.show_readings(hands.readings, (long,))
    QApplication.processEvents()
    wide = strip.text.fontMetrics().boundingRect(
        strip.text.rect(), int(Qt.TextFlag.TextWordWrap), strip.text.text()
    )
    assert wide.width() <= strip.text.width()
    assert wide.height() <= strip.text.height() + 2


def test_arrangements_that_do_not_fit_say_why_in_sight(hands):
    panel = hands.panel("arrange")
    words = panel.words["back-to-back"]
    hands.qtbot.waitUntil(lambda: "\n" in words.text(), timeout=3_000)
    assert "room for two groups" in words.text()
    assert not words.isEnabled()
    hands.qtbot.waitUntil(lambda: "\n" not in panel.words["lanes"].text(), timeout=3_000)


def test_bins_of_their_own_say_that_groups_lie_in_lanes(hands):
    hands.tick("bins", "Shared by all groups")
    assert hands.readings.plan.arrange == "lanes"
    assert "the groups lie in lanes" in hands.panel("bins").facts.text()
    assert "in lanes" in hands.window.session.history.past[-1].name
    hands.tick("bins", "Shared by all groups")
    assert "lanes" not in hands.panel("bins").facts.text()


def test_a_menu_of_one_entry_is_no_menu(empty, tmp_path):
    (tmp_path / "one.csv").write_text("v\n" + "\n".join(str(40 + i % 13) for i in range(60)))
    empty.open(tmp_path / "one.csv")
    empty.click_phrase("variable")
    assert not [m for m in empty.window.findChildren(QMenu) if m.isVisible()]
    assert empty.window.figure.side.chosen == "variable"


def test_what_was_just_done_stays_readable_and_reaches_screen_readers(hands):
    hands.window.tell("Figure written to shells.png.")
    bar = hands.window.statusBar()
    assert bar.accessibleDescription() == "Figure written to shells.png."
    QTest.qWait(50)
    assert bar.currentMessage() == "Figure written to shells.png."


def test_several_variables_are_put_in_an_order_of_ones_own(hands):
    for name in ("Growth week 1", "Growth week 2", "Growth week 3"):
        hands.window.variable_actions.add(name)
    hands.window.session.ask(
        "Growth", hands.recipe.showing(
            variables=("Growth week 1", "Growth week 2", "Growth week 3"), split=()
        )
    )  # fmt: skip
    hands.window.choose_phrase("split")
    levels = hands.window.figure.side.panel("split").levels
    item = levels.item_of("Growth week 3")
    levels.setCurrentItem(item)
    levels.setFocus()
    for _ in range(2):
        QTest.keyClick(levels, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
        QApplication.processEvents()
    hands.qtbot.waitUntil(lambda: hands.readings.groups[0].label == "Growth week 3", timeout=3_000)
    assert isinstance(hands.recipe.groups.order, tuple)
