"""Plain charts and ranges in the window, by real events."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QColor
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu

from rhabdos.app.controls.choices import Choices
from rhabdos.app.leaving.export_dialog import ExportDialog
from rhabdos.app.leaving.tables_dialog import TablesDialog
from rhabdos.data.steps.derive import Make
from rhabdos.data.steps.keep import KeepRows
from rhabdos.figure.recipe.plain_charts import LevelBars, Scatter
from rhabdos.project.folders import Folders
from rhabdos.scene.marks import Area, Dots

CULTURES = ("basket", "line", "rack", "Rack ")
LEFT = Qt.MouseButton.LeftButton


def level_place(paper, level):
    scene = paper.scene
    zone = next(z for z in scene.zones if z.meaning.level == level)
    middle = QPointF((zone.left + zone.right) / 2, (zone.top + zone.bottom) / 2)
    return (middle * paper._scale + paper._paper().topLeft()).toPoint()


def test_a_category_in_the_overview_opens_as_bars_whose_order_is_chosen(hands):
    hands.press("F2")
    hands.window.overview.opened.emit("Culture")
    view = hands.window.figure.chart_view
    assert view.isVisible()
    assert (
        hands.sentence()
        == "How many rows have each culture, drawn as bars with gaps, in their order."
    )
    view.order.setCurrentIndex(1)
    view.order.activated.emit(1)
    assert hands.window.session.document.chart == LevelBars(variable="Culture", order="count")
    QTest.mouseClick(view.reverse, LEFT)
    assert (
        hands.sentence()
        == "How many rows have each culture, drawn as bars with gaps, by height, the other way round."
    )
    hands.press("Ctrl+Z")
    hands.press("Ctrl+Z")
    assert hands.window.session.document.chart == LevelBars(variable="Culture")
    assert any("differ only by case" in n.text for n in hands.window.session.notices)
    QTest.mouseClick(view.back, LEFT)
    assert hands.window.figure.stage.isVisible()
    assert hands.sentence().startswith("Shell length of every row")


def test_bars_are_painted_where_they_are_clicked(hands):
    hands.window.variable_actions.draw("Culture")
    QApplication.processEvents()
    paper = hands.window.figure.chart_view.paper
    shown = paper.grab().toImage()
    bars = [m for m in paper.scene.marks if isinstance(m, Area) and m.meaning.level]
    assert [bar.meaning.level for bar in bars] == list(CULTURES)
    for bar in bars:
        middle = QPointF(*bar.points.mean(axis=0)) * paper._scale + paper._paper().topLeft()
        assert shown.pixelColor(middle.toPoint()).name() == QColor(bar.fill).name()


def test_a_click_on_a_bar_lists_its_rows_and_they_are_kept(hands):
    hands.window.variable_actions.draw("Culture")
    QApplication.processEvents()
    paper = hands.window.figure.chart_view.paper
    QTest.mouseClick(paper, LEFT, pos=level_place(paper, "Rack "))
    place = hands.window.rows_place
    assert hands.window.place == "rows"
    assert place.view.count == 54
    assert place.only.text() == "54 rows whose Culture is “Rack ”"
    column = hands.window.session.table.column("Culture")
    rows = {place.view.row_at(i) for i in range(54)}
    assert rows == set(np.flatnonzero(column.codes == column.levels.index("Rack ")).tolist())
    QTest.mouseClick(place.all_rows, LEFT)
    assert place.view.count == 2416
    hands.press("F4")
    QTest.mouseClick(paper, LEFT, pos=level_place(paper, "Rack "))
    QTest.mouseClick(place.keep_only, LEFT)
    assert hands.window.session.table.rows == 54


def test_bars_are_gone_through_by_keys_and_opened(hands):
    hands.window.variable_actions.draw("Culture")
    QApplication.processEvents()
    paper, table = hands.window.figure.chart_view.paper, hands.window.session.table
    culture = table.column("Culture")
    hands.keys(paper.heard, Qt.Key.Key_Down, Qt.Key.Key_Right, Qt.Key.Key_Down, Qt.Key.Key_Up)
    count = np.count_nonzero(culture.codes == 1)
    spoken = paper.heard.model().index(1, 0).data()
    assert (
        spoken == f"line: {count} rows, {100 * count / np.count_nonzero(culture.codes >= 0):.1f} %"
    )
    assert paper.heard.currentIndex().row() == 1
    assert paper.place_of(1).contains(level_place(paper, "line"))
    hands.keys(paper.heard, Qt.Key.Key_End)
    assert paper.heard.currentIndex().data().startswith("Rack : 54 rows")
    hands.keys(paper.heard, Qt.Key.Key_Home, Qt.Key.Key_Down, Qt.Key.Key_Return)
    assert hands.window.place == "rows"
    assert hands.window.rows_place.only.text() == f"{count:,} rows whose Culture is “line”"


def test_two_numbers_are_looked_at_and_changed(hands):
    hands.press("Ctrl+Shift+X")
    view = hands.window.figure.chart_view
    assert hands.window.session.document.chart == Scatter(x="Shell length", y="Wet mass")
    view.upright.setCurrentIndex(view.upright.findText("Salinity"))
    view.upright.activated.emit(view.upright.currentIndex())
    assert hands.window.session.document.chart == Scatter(x="Shell length", y="Salinity")
    view.lying.setCurrentIndex(view.lying.findText("Salinity"))
    view.lying.activated.emit(view.lying.currentIndex())
    assert hands.window.session.document.chart == Scatter(x="Salinity", y="Shell length")
    view.paper.setFocus()
    QTest.keyClick(view.paper, Qt.Key.Key_Escape)
    assert hands.window.session.document.chart is None
    hands.press("Ctrl+Shift+L")
    assert hands.window.session.document.chart == LevelBars(variable="Bay")
    hands.click_variable("Salinity")
    assert hands.window.session.document.chart is None
    assert hands.readings.variable.name == "Salinity"


@pytest.mark.parametrize("numbers", [("12", "0", "9"), ("2026-05-03", "2026-05-04", "2026-05-09")])
def test_typed_heights_with_names_are_bars_and_dates_are_no_heights(empty, numbers):
    from rhabdos.app.arriving.typing_dialog import TypingDialog
    from tests.app.test_arriving import dialog_of, settle

    empty.press("Ctrl+T")
    dialog = dialog_of(empty, TypingDialog)
    names = ("Saltmere", "Gull Spit", "Lee Bank")
    dialog.sheet.fill([list(row) for row in zip(numbers, names, strict=True)])
    empty.qtbot.waitUntil(lambda: dialog.done_button.isEnabled(), timeout=3_000)
    QTest.mouseClick(dialog.done_button, LEFT)
    settle(empty)
    if "-" in numbers[0]:
        assert empty.window.session.document.chart is None
        assert empty.sentence().startswith("Value of every row")
        return
    assert empty.window.session.document.chart == LevelBars(variable="Group", heights="Value")
    assert empty.sentence() == "Value of each group, drawn as bars with gaps, in their order."


def test_a_chart_is_worded_coloured_and_exported_as_a_figure_is(hands, tmp_path):
    hands.press("Ctrl+Shift+L")
    panel = hands.window.figure.chart_view.panel
    hands.type_into(panel.words["title"], "Three bays")
    hands.type_into(panel.levels["Saltmere"].field, "teal")
    QTest.mouseClick(panel.upright, LEFT, pos=QPoint(8, panel.upright.height() // 2))
    hands.type_into(panel.words["height_axis"], "Oysters")
    chart = hands.window.session.document.chart
    assert chart == LevelBars(
        variable="Bay",
        title="Three bays",
        colours={"Saltmere": "#008080"},
        upright=True,
        height_axis="Oysters",
    )
    hands.type_into(panel.size_field, "nothing")
    assert "is no size" in panel.fault.text()
    hands.window.filing.folders = Folders(latest=str(tmp_path))
    hands.press("Ctrl+Shift+E")
    dialog = hands.window.findChild(ExportDialog)
    QTest.mouseClick(dialog.format_buttons["svg"], LEFT, pos=QPoint(8, 10))
    dialog.path.setText(str(tmp_path / "bays.svg"))
    QTest.mouseClick(dialog.export_button, LEFT)
    written = (tmp_path / "bays.svg").read_text(encoding="utf-8")
    assert "Three bays" in written
    assert "#008080" in written
    hands.press("Ctrl+Z")
    hands.window.filing.open(tmp_path / "bays.svg")
    opened = hands.window.session.document.chart
    assert opened == chart.changed(size=opened.size)


def test_drawn_as_tells_why_a_category_has_no_histogram_and_leads_to_those_of_a_number(hands):
    hands.press("Ctrl+Shift+L")
    menu = hands.click_phrase("forms")
    why = [action for action in menu.actions() if not action.isEnabled()]
    assert [action.text() for action in why] == [
        "No histogram: Bay is no number, and bins need distances between values"
    ]
    hands.pick(menu, "standing bars")
    assert hands.window.session.document.chart.upright
    hands.pick(hands.click_phrase("variable"), "Culture")
    assert hands.sentence() == (
        "How many rows have each culture, drawn as standing bars with gaps, in their order."
    )
    hands.pick(hands.click_phrase("split"), "by height")
    assert hands.window.session.document.chart.order == "count"
    hands.pick(hands.click_phrase("forms"), "Bars of Shell length instead")
    assert hands.window.session.document.chart is None
    assert hands.recipe.show.split == ("Culture",)


def test_the_dots_of_a_scatter_take_a_size_and_a_colour(hands):
    hands.press("Ctrl+Shift+X")
    panel = hands.window.figure.chart_view.panel
    hands.type_into(panel.dot, "6 pt")
    hands.type_into(panel.colour.field, "#AA0000")
    (dots,) = [m for m in hands.window.figure.scene.marks if isinstance(m, Dots)]
    assert (dots.size, dots.colour) == (6.0, "#AA0000")
    hands.type_into(panel.dot, "60")
    assert "no size of dots" in panel.fault.text()


def menu_of(hands):
    QApplication.processEvents()
    menus = [menu for menu in hands.window.findChildren(QMenu) if menu.isVisible()]
    assert menus, "no menu is open"
    assert isinstance(menus[-1], Choices)
    return menus[-1]


def test_a_range_is_marked_by_dragging_and_its_rows_are_kept(hands):
    canvas = hands.window.figure.stage.canvas
    frame, scale = canvas.scene.frame, canvas.scale
    y = round((frame.top + 30) * scale)
    start, end = (QPoint(round(frame.along(v) * scale), y) for v in (61, 79))
    recipe = hands.recipe
    QTest.mousePress(canvas, LEFT, pos=start)
    QTest.mouseMove(canvas, (start + end) / 2)
    QTest.mouseMove(canvas, end)
    low, high = canvas.range_hand.marked.ends
    assert abs(low - 61) < 0.5
    assert abs(high - 79) < 0.5
    values = hands.window.session.table.column("Shell length").values
    within = int(((values >= low) & (values <= high)).sum())
    told = canvas.range_hand.card().lines
    assert sum(int(line.cells[0]) for line in told) == within
    QTest.mouseRelease(canvas, LEFT, pos=end)
    assert hands.recipe == recipe
    QTest.mouseClick(hands.window.figure_actions.ranges.card.rows, LEFT)
    hands.pick(menu_of(hands), "Keep only these")
    assert hands.window.session.table.rows == within
    assert canvas.range_hand.marked is None
    assert isinstance(hands.window.session.document.steps[-1], KeepRows)
    assert f"of {within:,} of 2,416 rows" in hands.sentence()


def test_a_range_is_marked_by_keys_and_left_by_escape(hands):
    canvas = hands.window.figure.stage.canvas
    shift = Qt.KeyboardModifier.ShiftModifier
    hands.keys(canvas, Qt.Key.Key_Home, Qt.Key.Key_Right, Qt.Key.Key_Right)
    hands.keys(canvas, (Qt.Key.Key_Right, shift), (Qt.Key.Key_Right, shift))
    low, high = canvas.range_hand.marked.ends
    assert high - low == 8
    hands.keys(canvas, Qt.Key.Key_Return)
    hands.pick(menu_of(hands), "See these")
    shown = hands.window.rows_place.view.count
    values = hands.window.session.table.column("Shell length").values
    assert shown == int(((values >= low) & (values < high)).sum())
    hands.press("F4")
    hands.keys(canvas, Qt.Key.Key_Escape)
    assert canvas.range_hand.marked is None


def test_the_rows_of_a_bar_are_seen_by_a_right_click(hands):
    canvas = hands.window.figure.stage.canvas
    frame, scale = canvas.scene.frame, canvas.scale
    QTest.mouseMove(canvas, QPoint(round(frame.along(90) * scale), round(frame.bottom * scale - 6)))
    hands.press("Ctrl+Shift+R")
    hands.pick(menu_of(hands), "See these")
    place = hands.window.rows_place
    low, high = hands.readings.edges.values[[12, 13]]
    values = hands.window.session.table.column("Shell length").values
    shown = values[[place.view.row_at(i) for i in range(place.view.count)]]
    assert shown.min() >= low
    assert shown.max() < high
    assert "Shell length is from 88 to below 92" in place.only.text()
    QTest.mouseClick(place.keep_only, LEFT)
    assert hands.window.session.table.rows == len(shown)


def test_a_click_still_brings_forward_and_a_short_drag_is_a_click(hands):
    canvas = hands.window.figure.stage.canvas
    frame, scale = canvas.scene.frame, canvas.scale
    place = QPoint(round(frame.along(90) * scale), round(frame.bottom * scale - 6))
    QTest.mousePress(canvas, LEFT, pos=place)
    QTest.mouseMove(canvas, place + QPoint(2, 0))
    QTest.mouseRelease(canvas, LEFT, pos=place + QPoint(2, 0))
    assert canvas.range_hand.marked is None
    assert hands.recipe.groups.forward


def test_the_numbers_of_a_chart_are_a_table_to_copy(hands):
    hands.press("F2")
    hands.window.overview.opened.emit("Bay")
    hands.press("Ctrl+Shift+C")
    dialog = hands.window.findChildren(TablesDialog)[-1]
    assert [dialog.tabs.tabText(i) for i in range(dialog.tabs.count())] == ["Levels"]
    QTest.mouseClick(dialog.copy_button, LEFT)
    lines = QApplication.clipboard().text().splitlines()
    assert [line.split("\t")[0] for line in lines] == [
        "Bay",
        "Heron Sound",
        "Saltmere",
        "Wick Narrows",
    ]
    assert sum(int(line.split("\t")[1]) for line in lines[1:]) == 2416
    dialog.close()


def test_words_without_room_on_the_page_of_a_chart_are_told(hands):
    hands.press("F2")
    hands.window.overview.opened.emit("Bay")
    assert not any("no room" in n.text for n in hands.window.figure.foot.notices.notices)
    panel = hands.window.figure.chart_view.panel
    hands.type_into(panel.words["note"], "What came in with the boats of three bays.")
    hands.type_into(panel.size_field, "4 x 3 cm")
    told = [n.text for n in hands.window.figure.foot.notices.notices]
    assert any("On this page there is no room for" in text and "note" in text for text in told)
    assert hands.window.figure.foot.isVisible()
    hands.press("Ctrl+Z")
    assert not any("no room" in n.text for n in hands.window.figure.foot.notices.notices)


@pytest.mark.parametrize(
    ("made", "chart"),
    [
        (Make(name="Log", by="log", of=("Wet mass",)), Scatter(x="Shell length", y="Log")),
        (
            Make(name="Size", by="classes", of=("Wet mass",), edges=(20.0, 60.0)),
            LevelBars(variable="Size"),
        ),
    ],
)
def test_a_chart_whose_variable_goes_with_a_step_says_so_until_it_is_back(hands, made, chart):
    window, session = hands.window, hands.window.session

    def prepared(*steps):
        session.rows.ask_steps("Prepare", steps)
        hands.qtbot.waitUntil(lambda: not session.runner.running())
        QApplication.processEvents()
        return window.sentence.accessibleDescription()

    prepared(made)
    session.look_at("A chart", chart)
    view, said = window.figure.chart_view, window.sentence.accessibleDescription()
    assert made.name.lower() in said.lower()
    assert view.panel.isVisible()
    lacking = f"Oyster landings has no variable “{made.name}”."
    assert prepared().startswith(lacking)
    assert view.paper.words.startswith(lacking)
    assert not view.panel.isVisible()
    assert not view.order.isVisible()
    assert prepared(made) == said
    assert view.paper.scene is not None
    assert view.panel.isVisible()
