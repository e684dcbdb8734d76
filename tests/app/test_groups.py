"""Groups by hand: arrangements, factors, panels, variables, order, and one brought forward."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from rhabdos.data.demo import BAYS
from rhabdos.scene.style.style import HOUSE

LEFT = Qt.MouseButton.LeftButton
CTRL = Qt.KeyboardModifier.ControlModifier


def labels(hands) -> list[str]:
    return [group.label for group in hands.readings.groups]


def forward(hands) -> list[str]:
    return [group.label for group in hands.readings.groups if group.forward]


def list_of_groups(hands):
    hands.panel("split")
    QApplication.processEvents()
    return hands.window.figure.side.panel("split").levels


def click_row(hands, view, place, keys=Qt.KeyboardModifier.NoModifier) -> None:
    QTest.mouseClick(view.viewport(), LEFT, keys, place)
    QApplication.processEvents()


def row_place(view, label: str, column: int = 0) -> QPoint:
    rect = view.visualItemRect(view.item_of(label))
    return QPoint(60, rect.center().y()) if column == 0 else QPoint(9, rect.center().y())


def legend_place(hands, level: str) -> QPoint:
    canvas = hands.window.figure.stage.canvas
    zone = next(
        z for z in canvas.scene.zones if z.meaning.part == "legend" and z.meaning.level == level
    )
    centre = QPointF((zone.left + zone.right) / 2, (zone.top + zone.bottom) / 2)
    return (centre * canvas.scale).toPoint()


def figure_place(hands, value: float, height: float, panel: int = 0) -> QPoint:
    canvas = hands.window.figure.stage.canvas
    frame = canvas.scene.frames[panel]
    band = frame.lanes[0].heights[0].band
    return (QPointF(*frame.point(frame.along(value), band.at(height))) * canvas.scale).toPoint()


# Arrangements


@pytest.mark.parametrize("key", ["stacked", "side-by-side", "lanes"])
def test_an_arrangement_is_chosen_by_its_picture(hands, key):
    panel = hands.panel("arrange")
    hands.qtbot.waitUntil(lambda: not panel.pictures[key].icon().isNull())
    QTest.mouseClick(panel.pictures[key], LEFT)
    assert hands.readings.plan.arrange == key
    assert panel.pictures[key].isChecked()
    assert not panel.pictures["overlaid"].isChecked()
    if key == "stacked":  # percents of each bay add up to nothing
        assert hands.recipe.show.of == "all"
    hands.press("Ctrl+Z")
    assert hands.readings.plan.arrange == "overlaid"


def test_an_arrangement_that_cannot_be_had_says_why(hands):
    panel = hands.panel("arrange")
    before = hands.recipe
    QTest.mouseClick(panel.pictures["back-to-back"], LEFT)
    assert "room for two groups, and this figure has 3" in panel.fault.text()
    assert hands.recipe == before
    assert not panel.pictures["back-to-back"].isChecked()


def test_the_menu_of_arrangements_offers_what_can_be_had(hands):
    hands.pick(hands.click_phrase("split"), "Stock")
    menu = hands.click_phrase("arrange")
    texts = [action.text() for action in menu.actions()]
    assert any(text.startswith("back to back") for text in texts)
    hands.pick(menu, "back to back")
    assert "split by Stock back to back" in hands.sentence()
    hands.pick(hands.click_phrase("split"), "Bay")  # which has three levels
    assert hands.readings.plan.arrange == "overlaid"
    hands.pick(hands.click_phrase("arrange"), "in panels")
    assert [panel.label for panel in hands.readings.plan.panels] == list(BAYS)
    assert hands.recipe.show.split == ()


# Two factors


def test_a_second_factor_and_the_swap_take_one_choice_each(hands):
    hands.pick(hands.click_phrase("split"), "Bay, and Stock in colour")
    assert "split by Bay in lanes and Stock in colour" in hands.sentence()
    hands.pick(hands.click_phrase("split"), "swap")
    assert "split by Stock in lanes and Bay in colour" in hands.sentence()
    assert hands.window.menus.undo.iconText() == "Undo Swap Stock and Bay" or (
        "Swap" in hands.window.menus.undo.iconText()
    )


def test_the_panel_of_groups_does_the_same(hands):
    panel = hands.panel("split")
    panel.second.setCurrentIndex(panel.second.findText("Stock"))
    panel.second.activated.emit(panel.second.currentIndex())
    assert hands.recipe.show.split == ("Bay", "Stock")
    QApplication.processEvents()
    QTest.mouseClick(panel.swap, LEFT)
    assert hands.recipe.show.split == ("Stock", "Bay")
    panel.second.setCurrentIndex(0)
    panel.second.activated.emit(0)
    assert hands.recipe.show.split == ("Stock",)


# Panels


def test_panels_by_one_factor_and_by_two(hands):
    hands.pick(hands.click_phrase("panels"), "Season")
    assert len(hands.window.figure.stage.canvas.scene.frames) == 4
    assert "in panels by Season" in hands.sentence()
    hands.pick(hands.click_phrase("panels"), "Season in rows, Stock in columns")
    assert len(hands.window.figure.stage.canvas.scene.frames) == 8
    assert "in panels of Season by Stock" in hands.sentence()
    hands.pick(hands.click_phrase("panels"), "swap")
    assert hands.readings.plan.rows == ("diploid", "triploid")
    hands.pick(hands.click_phrase("panels"), "one panel")
    assert len(hands.window.figure.stage.canvas.scene.frames) == 1


def test_columns_and_freed_axes_are_set_in_the_panel(hands):
    hands.pick(hands.click_phrase("panels"), "Season")
    panel = hands.panel("panels")
    hands.type_into(panel.widgets["Columns"], "4")
    frames = hands.window.figure.stage.canvas.scene.frames
    assert len({frame.top for frame in frames}) == 1
    hands.tick("panels", "Own heights")
    tallest = {frame.band.tallest for frame in hands.window.figure.stage.canvas.scene.frames}
    assert len(tallest) > 1
    hands.type_into(panel.widgets["Columns"], "many")
    assert "whole number from 1 to 60" in panel.fault.text()
    assert hands.recipe.panels.columns == 4


def test_one_drag_of_the_rod_reaches_every_panel(hands):
    hands.choose("panels", "By", "Season")
    hands.window.choose_phrase("bins")
    assert len(hands.window.figure.stage.canvas.scene.frames) == 4
    before = hands.edges()
    hands.drag_rod(44, 48)
    after = hands.edges()
    assert after != before
    for edges in hands.readings.own_edges:
        assert edges.values.tolist() == after
    rod, frames = hands.window.figure.stage.rod, hands.window.figure.stage.canvas.scene.frames
    canvas = hands.window.figure.stage.canvas
    beside = min(f.left for f in frames if f.left > frames[0].right)
    assert rod.geometry().right() <= canvas.geometry().left() + beside * canvas.scale + 1


def test_pointing_tells_of_the_panel_that_is_pointed_at(hands):
    hands.pick(hands.click_phrase("panels"), "Stock")
    canvas = hands.window.figure.stage.canvas
    for panel, stock in enumerate(("diploid", "triploid")):
        QTest.mouseMove(canvas, figure_place(hands, 78.0, 1.0, panel))
        card = canvas.card()
        assert card.title.endswith(f"· {stock}")
        assert [line.label for line in card.lines] == list(BAYS)
        groups = [g for g in hands.readings.groups if dict(g.levels)["Stock"] == stock]
        for line, group in zip(card.lines, groups, strict=True):
            inside = np.count_nonzero((group.sample.values >= 76) & (group.sample.values < 80))
            assert line.cells[0] == f"{inside:,} of {group.n:,}"
    canvas.setFocus()
    for _ in range(40):
        QTest.keyClick(canvas, Qt.Key.Key_Down)
    assert canvas.stop.panel == 1


# Several variables


def test_variables_are_added_at_the_left_with_ctrl(hands):
    view, model = hands.window.figure.variables.list, hands.window.figure.variables.model
    for name in ("Wet mass", "Salinity", "Wet mass"):
        row = next(i for i in range(model.rowCount()) if model.index(i).data() == name)
        view.scrollTo(model.index(row))
        place = view.visualRect(model.index(row)).center()
        QTest.mouseClick(view.viewport(), LEFT, CTRL, place)
    assert hands.recipe.show.variables == ("Shell length (mm)", "Salinity (psu)") or (
        [v.label for v in hands.readings.variables] == ["Shell length", "Salinity"]
    )
    assert len(hands.window.figure.stage.canvas.scene.frames) == 2
    assert hands.window.figure.stage.held_rod is None  # a width means something else on each axis


def test_variables_are_ticked_in_the_panel_and_standardised(hands):
    panel = hands.panel("variable")
    QApplication.processEvents()
    item = next(
        panel.together.item(i)
        for i in range(panel.together.count())
        if panel.together.item(i).text() == "Wet mass"
    )
    rect = panel.together.visualItemRect(item)
    QTest.mouseClick(panel.together.viewport(), LEFT, pos=QPoint(9, rect.center().y()))
    assert [v.label for v in hands.readings.variables] == ["Shell length", "Wet mass"]
    assert hands.readings.plan.axes == 2
    QTest.mouseClick(panel.standardised, LEFT, pos=QPoint(8, panel.standardised.height() // 2))
    assert hands.readings.plan.axes == 1
    assert "standardised" in hands.sentence()


def test_weeks_and_all_numbers_are_one_choice_away(hands):
    hands.pick(hands.click_phrase("variable"), "Growth week 1 to Growth week 6")
    assert [v.label for v in hands.readings.variables] == [f"Growth week {i}" for i in range(1, 7)]
    hands.pick(hands.click_phrase("variable"), "all ")
    assert hands.recipe.show.variables == "numbers"
    assert len(hands.window.figure.stage.canvas.scene.frames) == len(hands.readings.variables) > 10


# Order, and what is left out


def test_the_order_is_chosen_from_a_list_and_reversed(hands):
    panel = hands.panel("split")
    panel.order.setCurrentIndex(panel.order.findText("by median"))
    panel.order.activated.emit(panel.order.currentIndex())
    medians = [np.median(group.sample.values) for group in hands.readings.groups]
    assert medians == sorted(medians)
    QTest.mouseClick(panel.reverse, LEFT, pos=QPoint(8, panel.reverse.height() // 2))
    assert labels(hands)[0] == "Heron Sound"
    assert "from the greatest to the least median" in hands.sentence()


def test_groups_are_ordered_by_dragging_in_the_list(hands):
    view = list_of_groups(hands)
    port = view.viewport()
    QTest.mousePress(port, LEFT, pos=row_place(view, "Wick Narrows"))
    for target in ("Saltmere", "Heron Sound"):
        QTest.mouseMove(port, row_place(view, target))
    QTest.mouseRelease(port, LEFT, pos=row_place(view, "Wick Narrows"))
    QApplication.processEvents()
    assert labels(hands) == ["Wick Narrows", "Heron Sound", "Saltmere"]
    assert [group.colour for group in hands.readings.groups] == [2, 0, 1]
    assert hands.window.menus.undo.iconText() == "Undo Order groups by hand"
    assert forward(hands) == labels(hands)  # a drag is no click


def test_groups_are_ordered_by_keys(hands):
    view = list_of_groups(hands)
    view.setFocus()
    view.setCurrentItem(view.item_of("Heron Sound"))
    QTest.keyClick(view, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    QApplication.processEvents()
    assert labels(hands) == ["Saltmere", "Heron Sound", "Wick Narrows"]


def test_groups_are_ordered_by_dragging_in_the_legend(hands):
    canvas = hands.window.figure.stage.canvas
    QTest.mousePress(canvas, LEFT, pos=legend_place(hands, "Wick Narrows"))
    QTest.mouseMove(canvas, legend_place(hands, "Heron Sound"))
    QTest.mouseRelease(canvas, LEFT, pos=legend_place(hands, "Heron Sound"))
    assert labels(hands) == ["Wick Narrows", "Heron Sound", "Saltmere"]


def test_a_level_is_left_out_by_its_tick_and_shown_again_by_the_notice(hands):
    view = list_of_groups(hands)
    click_row(hands, view, row_place(view, "Saltmere", column=1))
    assert labels(hands) == ["Heron Sound", "Wick Narrows"]
    assert forward(hands) == labels(hands)
    strip = hands.window.figure.foot.notices
    assert "Saltmere is left out: 1,596 of 2,413 values are shown." in strip.text.text()
    QTest.mouseClick(strip.cure, LEFT)
    assert labels(hands) == list(BAYS)


def test_the_last_level_stays(hands):
    for level in BAYS:
        view = list_of_groups(hands)
        click_row(hands, view, row_place(view, level, column=1))
    QTest.qWait(20)
    panel = hands.window.figure.side.panel("split")
    said = panel.fault.text() if panel.fault.isVisible() else hands.refusal()
    assert "All levels of “Bay” are left out" in said
    assert labels(hands) == ["Wick Narrows"]


# One brought forward


def test_a_click_in_the_legend_brings_a_group_forward_and_escape_ends_it(hands):
    canvas = hands.window.figure.stage.canvas
    QTest.mouseClick(canvas, LEFT, pos=legend_place(hands, "Saltmere"))
    assert forward(hands) == ["Saltmere"]
    assert hands.window.figure.side.chosen == "legend"
    colours = {mark.colour for mark in canvas.scene.marks if type(mark).__name__ == "Swatch"}
    assert colours == {HOUSE.colours(3)[1], HOUSE.receded}
    QTest.mouseClick(canvas, LEFT, CTRL, legend_place(hands, "Heron Sound"))
    assert forward(hands) == ["Heron Sound", "Saltmere"]
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    assert forward(hands) == list(BAYS)
    hands.press("Ctrl+Z")
    assert forward(hands) == ["Heron Sound", "Saltmere"]


def test_a_click_in_the_list_brings_a_group_forward(hands):
    view = list_of_groups(hands)
    click_row(hands, view, row_place(view, "Wick Narrows"))
    assert forward(hands) == ["Wick Narrows"]
    view = list_of_groups(hands)
    click_row(hands, view, row_place(view, "Saltmere"), CTRL)
    assert forward(hands) == ["Saltmere", "Wick Narrows"]
    QTest.keyClick(view, Qt.Key.Key_Escape)
    assert forward(hands) == list(BAYS)


def test_a_click_on_a_bar_brings_its_group_forward_and_on_the_ground_none(hands):
    canvas = hands.window.figure.stage.canvas
    QTest.mouseClick(canvas, LEFT, pos=figure_place(hands, 90.0, 10.0))
    assert forward(hands) == ["Saltmere"]
    assert hands.window.figure.side.chosen == "bins"
    QTest.mouseClick(canvas, LEFT, pos=figure_place(hands, 45.0, 25.0))
    assert forward(hands) == ["Saltmere"]  # paper, where no bar is


@pytest.mark.parametrize("form", ["box", "curve", "violin"])
def test_a_click_on_a_box_or_a_curve_brings_its_group_forward(hands, form):
    hands.window.session.ask("Forms", hands.recipe.showing(forms=(form,), heights="density"))
    canvas = hands.window.figure.stage.canvas
    if form == "curve":
        paths = [m for m in canvas.scene.marks if m.meaning and m.meaning.part == "curve"]
        points = paths[1].points
        place = (QPointF(*points[int(points[:, 1].argmin())].tolist()) * canvas.scale).toPoint()
    else:
        strip = next(s for lane in canvas.scene.frame.lanes for s in lane.strips if s.group == 1)
        frame = canvas.scene.frame
        place = QPointF(*frame.point(frame.along(75.0), strip.band.middle)) * canvas.scale
        place = place.toPoint()
    QTest.mouseClick(canvas, LEFT, pos=place)
    assert forward(hands) == ["Saltmere"]


def test_a_click_on_the_name_of_a_lane_or_a_panel_brings_it_forward(hands):
    canvas = hands.window.figure.stage.canvas
    for phrase, choice, part in (
        ("arrange", "in lanes", "lane"),
        ("arrange", "in panels", "panel"),
    ):
        hands.pick(hands.click_phrase(phrase), choice)
        zone = next(
            z for z in canvas.scene.zones if z.meaning.part == part and z.meaning.level == BAYS[2]
        )
        place = QPointF(zone.right - 8, (zone.top + zone.bottom) / 2) * canvas.scale
        QTest.mouseClick(canvas, LEFT, pos=place.toPoint())
        assert forward(hands) == ["Wick Narrows"]
        QTest.keyClick(canvas, Qt.Key.Key_Escape)


# Legend


def test_the_legend_is_placed_titled_and_left_without_n(hands):
    hands.choose("legend", "Place", "at the right")
    canvas = hands.window.figure.stage.canvas
    assert legend_place(hands, "Saltmere").x() > canvas.scene.frame.right * canvas.scale
    panel = hands.panel("legend")
    hands.type_into(panel.widgets["Title"], "The bay")
    assert hands.recipe.legend.title == "The bay"
    hands.tick("legend", "n of each group")
    parts = ("legend-title", "legend")
    written = [m.text for m in canvas.scene.marks if m.meaning and m.meaning.part in parts
               and hasattr(m, "text")]  # fmt: skip
    assert written == ["The bay", *BAYS]


def test_what_was_read_is_let_go_where_its_group_has_no_values(empty, tmp_path):
    path = tmp_path / "two.csv"
    rows = [f"{i},{'AB'[i % 2]},{'xy'[i % 2]}" for i in range(40)]
    path.write_text("Length,Bay,Gear\n" + "\n".join(rows))
    empty.open(path)
    recipe = empty.recipe.showing(variables=("Length",), split=("Bay",)).paneled(by=("Gear",))
    empty.window.session.ask("Panels", recipe)
    canvas = empty.window.figure.stage.canvas
    canvas.setFocus()
    for _ in range(4):
        QTest.keyClick(canvas, Qt.Key.Key_Down)
    assert canvas.stop.panel == 1
    empty.window.session.ask("Hide", recipe.grouped(hidden=("B",)))
    assert canvas.stop is None
    empty.window.grab()
    for panel in (0, 1):
        QTest.mouseMove(canvas, figure_place(empty, 20.0, 0.1, panel))
        empty.window.grab()


def test_lanes_that_are_empty_in_a_panel_are_drawn_empty(hands):
    recipe = hands.recipe.showing(forms=("box",)).paneled(by=("Bay",))
    hands.window.session.ask("Panels", recipe)
    frames = hands.window.figure.stage.canvas.scene.frames
    assert [[len(lane.strips) for lane in frame.lanes] for frame in frames] == [
        [1, 0, 0],
        [0, 1, 0],
        [0, 0, 1],
    ]


def test_variables_on_one_axis_are_summed_up_in_the_same_decimals(hands):
    hands.pick(hands.click_phrase("variable"), "Growth week 1 to Growth week 6")
    model = hands.window.figure.foot.table.model()
    means = [model.index(row, 3).data() for row in range(model.rowCount())]
    assert len({len(mean.partition(".")[2]) for mean in means}) == 1
