"""The place of rows, by mouse and keyboard: sentences, rows, and the facts of a variable."""

import csv
from itertools import pairwise
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from msgspec import structs
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu, QWidget

from rhabdos.app.controls.theme import sized
from rhabdos.app.rows.cell_steps import cell_steps
from rhabdos.app.rows.keep_form import ConditionPart
from rhabdos.app.rows.listed_rows import HEADER, ROW
from rhabdos.app.rows.rows_view import RowsView
from rhabdos.data.columns import CategoryColumn, DateColumn, LabelColumn, NumberColumn
from rhabdos.data.steps.derive import Make
from rhabdos.data.steps.filling import FillDown
from rhabdos.data.steps.joining import Join
from rhabdos.data.steps.keep import Condition, KeepRows
from rhabdos.data.steps.missing import DeclareMissing
from rhabdos.data.steps.naming import RenameLevels
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.recoding import Recode
from rhabdos.data.steps.stacking import Gather, Stack
from rhabdos.data.steps.step import StepError, no_others
from rhabdos.data.table import Table
from rhabdos.figure.recipe.recipe_bins import Bins

DEMO = Path(__file__).parents[2] / "demo" / "oyster-landings.csv"
LEFT = Qt.MouseButton.LeftButton


class Rows:
    """What a user does in the place of rows."""

    def __init__(self, hands) -> None:
        self.hands = hands
        hands.press("F3")
        self.place = hands.window.rows_place
        self.view, self.facts, self.steps = self.place.view, self.place.facts, self.place.steps
        QApplication.processEvents()

    def sentences(self):
        return [card.accessibleName() for card in self.steps.cards]

    def tick(self, place):
        QApplication.processEvents()
        QTest.mouseClick(self.steps.cards[place].tick, LEFT)

    def told(self):
        return [card.accessibleDescription() for card in self.steps.cards]

    def click_name(self, name):
        """Click a variable's name over the rows."""
        column = [c.name for c in self.view.table.columns].index(name)
        self.view.go_to(self.view.row, column)
        x = self.view._x(column) + 20
        QTest.mouseClick(self.view.viewport(), LEFT, pos=QPoint(x, 12))

    def click_cell(self, place, name, button=LEFT):
        column = [c.name for c in self.view.table.columns].index(name)
        self.view.go_to(place, column)
        top = HEADER + place * ROW - self.view.verticalScrollBar().value()
        where = QPoint(self.view._x(column) + 10, top + ROW // 2)
        QTest.mouseClick(self.view.viewport(), button, pos=where)
        return where

    def column(self, name):
        return self.hands.window.session.table.column(name)

    def choose_kind(self, kind):
        box = self.facts.kind
        box.setCurrentIndex(box.findText(kind))
        box.activated.emit(box.currentIndex())
        QApplication.processEvents()

    def press_deed(self, beginning):
        button = next(
            b for n in self.facts.notices for b in n.buttons if b.text().startswith(beginning)
        )
        QTest.mouseClick(button, LEFT)
        QApplication.processEvents()

    def notices(self):
        return [notice.text.text() for notice in self.facts.notices]

    def wait(self):
        session = self.hands.window.session
        self.hands.qtbot.waitUntil(lambda: not session.runner.running(), timeout=10_000)
        QTest.qWait(260)
        self.hands.qtbot.waitUntil(lambda: not session.runner.running(), timeout=10_000)


@pytest.fixture
def rows(hands):
    return Rows(hands)


def test_rows_are_reached_by_key_and_by_word_and_the_sentence_stays(hands, rows):
    window = hands.window
    assert window.place == "rows"
    assert window.sentence.isVisible()
    QTest.mouseClick(window.menus.places, LEFT, pos=window.menus.places.tabRect(2).center())
    assert window.place == "figure"
    assert window.figure.stage.canvas.isVisible()
    QTest.mouseClick(window.menus.places, LEFT, pos=window.menus.places.tabRect(1).center())
    assert rows.view.isVisible()
    assert rows.sentences() == ["Read from the demo data."]
    assert rows.told() == ["2,416 rows, 20 variables"]


def test_a_code_is_typed_as_missing_in_one_place_and_struck_out_by_a_click(hands, rows):
    rows.click_name("Water temperature")
    before = rows.column("Water temperature").missing
    hands.type_into(rows.facts.missing, "-9")
    assert rows.column("Water temperature").missing == before + 23
    assert rows.sentences()[1] == "In Water temperature, −9 stands for missing."
    assert rows.told()[1] == "23 values"
    rows.tick(1)
    assert rows.column("Water temperature").missing == before
    assert rows.told()[1] == "struck out"
    hands.press("Ctrl+Z")
    hands.press("Ctrl+Z")
    assert rows.sentences() == ["Read from the demo data."]
    hands.press("Ctrl+Shift+Z")
    assert rows.column("Water temperature").missing == before + 23
    hands.type_into(rows.facts.missing, "")
    assert rows.sentences() == ["Read from the demo data."]


def test_levels_that_differ_by_case_are_made_one_by_the_cure(hands, rows):
    rows.click_name("Culture")
    assert "“rack” (449) and “Rack ” (54)" in rows.notices()[0]
    rows.press_deed("Make them one")
    assert rows.column("Culture").levels == ("basket", "line", "rack")
    assert rows.notices() == []
    assert rows.sentences()[1] == "In Culture, “Rack ” became rack."


def test_a_level_gets_another_name_and_is_called_so_everywhere(hands, rows):
    rows.click_name("Bay")
    table = rows.facts.levels
    item = table.item(1, 0)
    assert item.text() == "Saltmere"
    table.setCurrentCell(1, 0)
    table.editItem(item)
    editor = QApplication.focusWidget()
    editor.selectAll()
    QTest.keyClicks(editor, "Salt Mere")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    QApplication.processEvents()
    assert rows.column("Bay").levels[1] == "Salt Mere"
    assert "Salt Mere" in [group.label for group in hands.readings.groups]
    table.setCurrentCell(2, 0)
    QTest.keyClick(table, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    QApplication.processEvents()
    assert rows.column("Bay").levels == ("Heron Sound", "Wick Narrows", "Salt Mere")
    assert rows.column("Bay").kind == "ordered category"


def test_a_kind_that_loses_nothing_is_changed_at_once_and_comes_back(hands, rows):
    rows.click_name("Cracked")
    rows.choose_kind("yes/no")
    assert rows.column("Cracked").kind == "yes/no"
    assert rows.column("Cracked").levels == ("0", "1")
    rows.choose_kind("number")
    assert rows.column("Cracked").kind == "number"
    assert len(rows.sentences()) == 2


def test_before_a_kind_loses_something_a_notice_says_what(hands, rows):
    rows.click_name("Tag")
    rows.choose_kind("number")
    assert rows.column("Tag").kind == "label"
    assert rows.notices()[0].startswith("2,416 values are not numbers: “T-2")
    assert "and 2,412 more" in rows.notices()[0]
    rows.press_deed("Leave it")
    assert rows.facts.kind.currentText() == "label"
    assert rows.column("Tag").kind == "label"


def test_a_category_of_many_levels_is_offered_as_classes(hands, rows):
    rows.click_name("Water temperature")
    rows.choose_kind("category")
    assert "it would have" in rows.notices()[0]
    rows.press_deed("Cut it into classes")
    form = rows.place.form
    hands.type_into(form.cuts, "10, 15")
    QTest.mouseClick(form.do_button, LEFT)
    made = rows.column("Water temperature, in classes")
    assert made.levels == ("below 10", "10 to 15", "15 or more")


def test_dates_are_typed_as_missing_and_where_they_are_cut(empty, tmp_path):
    path, hands = tmp_path / "landed.csv", empty
    days = [f"2026-{month:02d}-{day:02d}" for month in (2, 3, 4) for day in range(1, 29)]
    path.write_text("Landed,v\n" + "".join(f"{d},{i}\n" for i, d in enumerate(days)))
    empty.open(path)
    rows = Rows(empty)
    rows.click_name("Landed")
    left_out = dict(cell_steps(rows.column("Landed"), 0))["Leave out rows of 2026-02-01"]
    assert left_out.apply(hands.window.session.table, no_others).table.rows == 83
    hands.type_into(rows.facts.missing, "2026-02-09, 2026-02-10")
    assert rows.sentences()[1].startswith("In Landed, “2026-02-09” and “2026-02-10” stand for")
    hands.type_into(rows.facts.missing, "2026-02-09, soon")
    assert rows.facts.fault.text() == "“soon” is no date, and “Landed” holds dates."
    rows.place.begin("make", "Landed", "classes")
    form = rows.place.form
    assert "2026-03-01, 2026-06-01" in form.cuts.placeholderText()
    hands.type_into(form.cuts, "2026-03-01, 2026-04-15")
    QTest.mouseClick(form.do_button, LEFT)
    made = rows.column("Landed, in classes")
    assert made.levels[1] == "2026-03-01 to 2026-04-15"
    assert rows.sentences()[2].endswith("is Landed, cut at 2026-03-01, 2026-04-15.")
    rows.place.open_step(1)
    assert rows.place.form.cuts.text() == "2026-03-01, 2026-04-15"


def test_a_name_and_a_unit_are_typed_and_the_axis_follows(hands, rows):
    rows.click_name("Shell length")
    hands.type_into(rows.facts.label, "Length of shell")
    hands.type_into(rows.facts.unit, "millimetres")
    assert len(rows.sentences()) == 2
    assert hands.readings.variable.label == "Length of shell"
    assert hands.sentence().startswith("Length of shell of every row")


def test_times_that_are_counted_become_dates_and_what_counts_them_is_shown(hands, rows, tmp_path):
    path = tmp_path / "logger.csv"
    path.write_text(
        "t,other,depth\n"
        + "".join(f"{1_772_353_800 + 60 * i},1.3.2026,{i % 7}\n" for i in range(40))
    )
    hands.window.session.opening.open_file(path)
    hands.qtbot.waitUntil(lambda: hands.window.session.table.name == "logger", timeout=5_000)
    rows.place.choose("t")
    assert any("seconds since 1970" in text for text in rows.notices())
    rows.press_deed("Read them as dates")
    assert rows.column("t").written(rows.column("t").values[0]) == "2026-03-01 08:30"
    assert rows.facts.order.currentText() == "seconds since 1970"
    rows.place.choose("other")
    assert rows.facts.order.currentText() == "as told from them"
    rows.place.choose("t")
    assert rows.facts.order.currentText() == "seconds since 1970"
    rows.facts.order.setCurrentIndex(rows.facts.order.findText("milliseconds since 1970"))
    rows.facts.order.activated.emit(rows.facts.order.currentIndex())
    QApplication.processEvents()
    assert rows.column("t").written(rows.column("t").values[0]) == "1970-01-21 12:19:14"
    assert len(rows.sentences()) == 2
    rows.facts.order.setCurrentIndex(rows.facts.order.findText("day month year"))
    rows.facts.order.activated.emit(rows.facts.order.currentIndex())
    assert "holds nothing that is written as a date" in rows.facts.fault.text()
    assert rows.facts.order.currentText() == "milliseconds since 1970"


def test_bounds_are_typed_and_what_lies_beyond_is_told(hands, rows):
    rows.click_name("Shell length")
    hands.type_into(rows.facts.least, "45")
    assert rows.column("Shell length").lower == 45
    below = int((rows.column("Shell length").values < 45).sum())
    assert below
    assert any(f"{below} value" in text for text in rows.notices())
    hands.type_into(rows.facts.greatest, "wide")
    assert "is no number" in rows.facts.fault.text()
    assert rows.column("Shell length").upper is None


@pytest.mark.parametrize(
    ("step", "shown"), [({"quantiles": 3}, "3 classes"), ({"edges": (10.0, 20.0)}, "10, 20")]
)
def test_cuts_of_a_step_are_shown_when_it_is_opened_again(hands, rows, step, shown):
    made = Make(name="mass class", by="classes", of=("Wet mass",), **step)
    hands.window.session.rows.prepare("Classes", made)
    rows.place.open_step(0)
    assert rows.place.form.cuts.text() == shown


def test_rows_are_kept_by_levels_and_the_sentence_says_how_many(hands, rows):
    hands.press("Ctrl+Shift+K")
    form = rows.place.form
    part = form.parts[0]
    part.variable.setCurrentIndex(part.variable.findText("Season"))
    part.variable.activated.emit(part.variable.currentIndex())
    item = next(
        part.levels.item(i) for i in range(4) if part.levels.item(i).text().startswith("Winter")
    )
    item.setCheckState(Qt.CheckState.Checked)
    rows.wait()
    assert form.told.text() == "598 of 2,416 rows would stay."
    QTest.mouseClick(form.do_button, LEFT)
    assert hands.window.session.table.rows == 598
    assert "of 598 of 2,416 rows, those whose season is “Winter”" in hands.sentence()
    assert rows.place.form is None
    rows.tick(1)
    assert hands.window.session.table.rows == 2416


def test_a_kept_range_is_changed_by_its_phrase(hands, rows):
    rows.click_name("Shell length")
    QTest.mouseClick(rows.steps.add_buttons["keep"], LEFT)
    part = rows.place.form.parts[0]
    QTest.keyClicks(part.low, "60")
    QTest.keyClicks(part.high, "80")
    QTest.keyClick(part.high, Qt.Key.Key_Return)
    values = rows.hands.window.session.rows.before(0).column("Shell length").values
    assert hands.window.session.table.rows == int(((values >= 60) & (values <= 80)).sum())
    card = rows.steps.cards[1]
    card.setFocus()
    QTest.keyClick(card, Qt.Key.Key_Return)
    part = rows.place.form.parts[0]
    assert (part.low.text(), part.high.text()) == ("60", "80")
    hands.type_into(part.high, "70")
    assert hands.window.session.table.rows == int(((values >= 60) & (values <= 70)).sum())
    assert len(rows.sentences()) == 2


def test_a_range_that_makes_no_sense_is_told_and_nothing_is_done(hands, rows):
    rows.click_name("Shell length")
    rows.place.begin("keep")
    part = rows.place.form.parts[0]
    QTest.keyClicks(part.low, "80")
    QTest.keyClicks(part.high, "60")
    QTest.keyClick(part.high, Qt.Key.Key_Return)
    assert "ends before it begins" in rows.place.form.fault.text()
    assert hands.window.session.table.rows == 2416
    QTest.keyClick(part.high, Qt.Key.Key_Escape)
    assert rows.place.form is None


def test_two_conditions_hold_both_or_one(hands, rows):
    rows.place.begin("keep", "Bay")
    form = rows.place.form
    form.parts[0].levels.item(0).setCheckState(Qt.CheckState.Checked)
    QTest.mouseClick(form.more, LEFT)
    second = form.parts[1]
    second.variable.setCurrentIndex(second.variable.findText("Stock"))
    second.variable.activated.emit(second.variable.currentIndex())
    second.levels.item(1).setCheckState(Qt.CheckState.Checked)
    table = hands.window.session.table
    bay, stock = table.column("Bay").codes == 0, table.column("Stock").codes == 1
    assert form.step().apply(table, None).table.rows == int((bay & stock).sum())
    form.any.setCurrentIndex(1)
    assert form.step().apply(table, None).table.rows == int((bay | stock).sum())
    QTest.mouseClick(second.away, LEFT)
    assert len(form.step().where) == 1


def test_a_variable_is_made_and_what_has_no_result_is_told(hands, rows):
    rows.click_name("Barnacles")
    QTest.mouseClick(rows.steps.add_buttons["make"], LEFT)
    form = rows.place.form
    assert form.name.text() == "log₁₀ Barnacles"
    rows.wait()
    zeros = int((rows.column("Barnacles").values == 0).sum())
    assert f"{zeros:,} without one: log of 0" in form.told.text()
    QTest.mouseClick(form.do_button, LEFT)
    made = rows.column("log₁₀ Barnacles")
    assert made.missing_as["log of 0"] == zeros
    assert rows.view.chosen == "log₁₀ Barnacles"
    assert rows.sentences()[1] == "log₁₀ Barnacles is log₁₀ of Barnacles."


def test_steps_are_moved_and_taken_away_by_keys(hands, rows):
    session = hands.window.session
    session.rows.prepare("a", DeclareMissing(variable="Water temperature", codes=(-9.0,)))
    session.rows.prepare("b", RenameLevels(variable="Culture", become={"Rack ": "rack"}))
    first = rows.sentences()[1]
    rows.steps.cards[2].setFocus()
    QTest.keyClick(rows.steps.cards[2], Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert rows.sentences()[2] == first
    assert rows.steps.chosen == 0
    rows.steps.cards[1].setFocus()
    QTest.keyClick(rows.steps.cards[1], Qt.Key.Key_Delete)
    assert rows.sentences()[1:] == [first]
    QTest.keyClick(rows.steps.cards[1], Qt.Key.Key_Space)
    assert rows.told()[1] == "struck out"


def test_rows_are_sorted_found_and_walked_by_keys(hands, rows):
    view = rows.view
    values = rows.column("Shell length").values
    rows.click_name("Shell length")
    rows.click_name("Shell length")
    assert values[view.row_at(0)] == np.nanmin(values)
    rows.click_name("Shell length")
    assert values[view.row_at(0)] == np.nanmax(values)
    rows.click_name("Shell length")
    assert view.row_at(0) == 0
    QTest.keyClicks(rows.place.search, "T-2100")
    QTest.keyClick(rows.place.search, Qt.Key.Key_Return)
    assert rows.place.hits.text() == "1 of 1 row"
    assert view.current[0] == 99
    hands.keys(view, (Qt.Key.Key_End, Qt.KeyboardModifier.ControlModifier))
    assert (view.row, view.column) == (2415, view.column)
    down, held = view.verticalScrollBar(), view.viewport().height() - sized(HEADER)
    assert down.value() <= 2415 * sized(ROW) <= down.value() + held - sized(ROW) + 1
    hands.keys(view, *[Qt.Key.Key_Up] * 3)
    assert down.value() == 2416 * sized(ROW) - held  # what is in sight does not move
    hands.keys(view, *[Qt.Key.Key_Down] * 3)
    hands.keys(view, Qt.Key.Key_PageUp, Qt.Key.Key_Up, Qt.Key.Key_Home, Qt.Key.Key_Right)
    assert view.row < 2415
    assert view.column == 1
    assert view.accessibleDescription().startswith(f"Row {view.row + 1:,}, Bay: ")


def test_a_missing_cell_says_what_stood_there(hands, rows):
    hands.window.session.rows.prepare(
        "a", DeclareMissing(variable="Water temperature", codes=(-9.0,))
    )
    column = rows.column("Water temperature")
    row = int(column.stood.rows[0])
    rows.click_cell(row, "Water temperature")
    assert rows.view.accessibleDescription().endswith("−9 · missing")
    assert "−9 stands for missing" in hands.window.statusBar().currentMessage()


def test_a_cell_offers_what_can_be_done_with_it(hands, rows, monkeypatch):
    opened = []
    monkeypatch.setattr(QMenu, "popup", lambda menu, _place: opened.append(menu))
    row = int(np.flatnonzero(rows.column("Season").codes == 0)[0])
    level = rows.column("Season").levels[0]
    where = rows.click_cell(row, "Season")
    rows.view.menu_asked.emit(row, "Season", rows.view.viewport().mapToGlobal(where))
    action = next(a for a in opened[0].actions() if a.text() == f"Keep only rows of {level}")
    action.trigger()
    assert hands.window.session.table.column("Season").levels == (level,)
    assert isinstance(hands.window.session.document.steps[-1], KeepRows)


def test_keys_copy_the_cell_they_are_in_and_elsewhere_the_figure(hands, rows):
    board, session = QApplication.clipboard(), hands.window.session
    session.rows.prepare("a", DeclareMissing(variable="Water temperature", codes=(-9.0,)))
    column = rows.column("Water temperature")
    with DEMO.open(newline="") as file:
        written = list(csv.DictReader(file))
    blank = next(
        r for r in range(2416) if np.isnan(column.values[r]) and r not in column.stood.rows
    )
    for row, name, expected in (
        (4, "Shell length", written[4]["Shell length (mm)"]),
        (7, "Bay", written[7]["Bay"]),
        (9, "Tag", written[9]["Tag"]),
        (int(column.stood.rows[0]), "Water temperature", "-9"),
        (blank, "Water temperature", ""),
    ):
        board.setText("something else")
        rows.click_cell(row, name)
        QTest.keyClick(rows.view, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
        assert board.text() == expected
        assert not board.mimeData().hasImage()
        told = hands.window.statusBar().currentMessage()
        assert told.endswith("copied.")
        assert expected.removeprefix("-") in told
    hands.press("F4")
    hands.press("Ctrl+C")
    assert board.mimeData().hasImage()


def test_words_are_copied_as_they_are_and_numbers_with_a_plain_minus(empty, tmp_path):
    path = tmp_path / "cold.csv"
    path.write_text("x,batch\n" + "".join(f"{i - 9},−5 °C\n{i},warm\n" for i in range(9)))
    empty.open(path)
    rows, board = Rows(empty), QApplication.clipboard()
    for name, expected in (("x", "-9"), ("batch", "−5 °C")):
        rows.click_cell(0, name)
        QTest.keyClick(rows.view, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
        assert board.text() == expected


def test_a_row_is_shown_in_the_figure(hands, rows):
    rows.click_cell(4, "Shell length")
    QTest.keyClick(rows.view, Qt.Key.Key_Return)
    assert hands.window.place == "figure"
    assert hands.window.figure.stage.canvas.pointed_row == ("Shell length", 4)
    hands.press("F3")
    rows.click_cell(4, "Wet mass")
    QTest.keyClick(rows.view, Qt.Key.Key_Return)
    assert hands.readings.variable.name == "Wet mass"


def test_other_columns_begin_at_the_first_and_the_same_stay_where_they_are(hands, rows):
    table = hands.window.session.table
    rows.view.go_to(3, 7)
    rows.view.show_table(structs.replace(table))
    assert rows.view.column == 7
    rows.view.show_table(structs.replace(table, columns=table.columns[::-1]))
    assert rows.view.column == 0


def test_nothing_grows_with_the_rows_that_are_not_in_sight(hands, rows, monkeypatch):
    values = np.arange(10_000_000.0)
    table = Table("many", (NumberColumn("v", values=values),))
    read = []
    rows.view.show_table(table)
    real = rows.view._read
    monkeypatch.setattr(rows.view, "_read", lambda c, r: read.append(r) or real(c, r))
    rows.view.go_to(9_999_999)
    rows.view.viewport().repaint()
    assert 9_999_999 in read
    assert len(set(read)) < 100


def test_more_rows_than_a_bar_counts_pixels_are_listed_row_by_row(qtbot, dressed):
    many = 90_000_000  # each of which is 28 pixels high, and a bar counts to two thousand millions
    values = np.lib.stride_tricks.as_strided(np.arange(2.0), (many,), (0,))
    view = RowsView()
    qtbot.addWidget(view)
    view.resize(800, 500)
    view.show()
    bar = view.verticalScrollBar()
    view.show_table(Table("many", (NumberColumn("v", values=values),)))
    view.go_to(many - 1)
    listed = view._rows_in_sight()
    assert listed == list(range(listed[0], many))
    last = view._place_in_sight(len(listed) - 1, 0)
    assert view.viewport().rect().contains(last)
    assert view.viewport().height() - last.bottom() < sized(ROW)
    QTest.mouseClick(view.viewport(), LEFT, pos=last.center())
    assert view.row == many - 1
    bar.triggerAction(bar.SliderAction.SliderSingleStepSub)
    assert view._rows_in_sight()[0] == listed[0] - 1
    bar.triggerAction(bar.SliderAction.SliderPageStepSub)
    above = view._rows_in_sight()
    assert listed[0] - 1 - len(above) <= above[0] <= listed[0] + 1 - len(above)
    view.go_to(12)
    assert view._rows_in_sight()[0] == 12
    assert view._place_in_sight(0, 0).top() == sized(HEADER)


def test_cells_that_are_gone_are_heard_no_more(hands, rows):
    """A screen reader may ask before what is in sight is told anew."""
    heard = rows.view.heard.model()
    hands.qtbot.waitUntil(lambda: heard.rowCount() > 5)
    below, beside = heard.index(5, 0), heard.index(0, 5)
    assert below.data()
    assert beside.data()
    assert rows.view.heard.visualRect(below).isValid()
    rows.view.show_table(Table("few", (NumberColumn("v", values=np.arange(3.0)),)))
    across, down = Qt.Orientation.Horizontal, Qt.Orientation.Vertical
    assert [heard.index(row, 0).data() for row in range(6)] == ["0", "1", "2", None, None, None]
    assert heard.headerData(0, across) == "v"
    assert (heard.headerData(5, across), heard.headerData(5, down)) == (None, None)
    assert beside.data() is None
    assert not rows.view.heard.visualRect(below).isValid()


def test_the_rows_phrase_leads_to_rows_and_back_to_all(hands, rows):
    hands.press("F4")
    menu = hands.click_phrase("rows")
    hands.pick(menu, "See the rows")
    assert hands.window.place == "rows"
    rows.click_cell(0, "Season")
    rows.place.cells.ask(KeepRows(where=rows_of("Winter")))
    hands.press("F4")
    assert hands.window.session.table.rows == 598
    hands.pick(hands.click_phrase("rows"), "All 2,416 rows again")
    assert hands.window.session.table.rows == 2416
    assert hands.window.session.document.steps[-1].off


def rows_of(level):
    from rhabdos.data.steps.keep import Condition

    return (Condition(variable="Season", levels=(level,)),)


def test_a_variable_that_is_drawn_and_changes_its_kind_leaves_what_can_be_drawn(hands, rows):
    hands.window.variable_actions.draw("Cracked")
    hands.press("F3")
    rows.click_name("Cracked")
    rows.choose_kind("yes/no")
    assert hands.readings is not None
    assert hands.readings.variable.name != "Cracked"
    hands.press("Ctrl+Z")
    assert hands.readings.variable.name == "Cracked"


def test_a_level_that_is_brought_forward_or_left_out_stays_so_under_its_new_name(hands, rows):
    session = hands.window.session
    groups = hands.recipe.groups.changed(forward=("Saltmere",), hidden=("Wick Narrows",))
    session.ask("groups", hands.recipe.changed(groups=groups))
    session.rows.prepare("name", RenameLevels(variable="Bay", become={"Saltmere": "Salt Mere"}))
    assert hands.recipe.groups.forward == ("Salt Mere",)
    assert [group.label for group in hands.readings.groups] == ["Heron Sound", "Salt Mere"]


def test_a_figure_that_names_variables_by_labels_stays_under_a_new_label(hands, rows, tmp_path):
    (tmp_path / "shells.csv").write_text(
        "shell_length_mm,bay_name\n" + "".join(f"{50 + i % 17},{'AB'[i % 2]}\n" for i in range(60))
    )
    session = hands.window.session
    session.opening.open_file(tmp_path / "shells.csv")
    hands.qtbot.waitUntil(lambda: hands.readings.variable.name == "shell_length_mm", timeout=5_000)
    show = hands.recipe.show
    session.ask("by labels", hands.recipe.showing(variables=("Shell length",), split=("Bay name",)))
    rows.place.choose("shell_length_mm")
    hands.type_into(rows.facts.label, "Length of shells")
    assert hands.readings.variable.label == "Length of shells"
    assert [group.label for group in hands.readings.groups] == ["A", "B"]
    hands.press("Ctrl+Z")
    assert hands.recipe.show.variables == ("Shell length",)
    assert show.variables == ("shell_length_mm",)


def test_all_that_names_a_level_follows_its_new_name_in_every_figure(hands, rows):
    from rhabdos.figure.recipe.toml_text import read_recipe

    first = read_recipe("""rhabdos = 1
[show]
variables = ["Shell length"]
split = ["Bay", "Season"]
[compare]
reference = "Saltmere, Spring"
[look.colours]
Saltmere = "#AA0033"
"Heron Sound" = "#00AA33"
[words]
title = "From {mean of Saltmere} on, {{mean of Saltmere}}"
note = "{n of  Saltmere } and {n of Heron Sound}, {n}"
[words.names]
"Saltmere" = "Salt{down 2}"
"Saltmere, Spring" = "{mean of Saltmere}"
[legend]
title = "{sd of Saltmere}"
[[text]]
text = "{median of Saltmere}"
value = 60.0
panel = "Saltmere, Spring"
[[range]]
from = 50.0
to = 60.0
words = "{n of Saltmere}"
panel = "Saltmere"
""")
    session = hands.window.session
    session.ask("one", first)
    session.figures.keep_variant()
    session.ask("two", first.changed(panels=first.panels.changed(by=("Bay",))))
    other = session.document.figures[0].recipe
    session.rows.prepare("name", RenameLevels(variable="Bay", become={"Saltmere": "Salt Mere"}))
    assert len(session.document.figures) == 2
    for drawn in (figure.recipe for figure in session.document.figures):
        assert drawn.compare.reference == "Salt Mere, Spring"
        assert drawn.look.colours == {"Salt Mere": "#AA0033", "Heron Sound": "#00AA33"}
        assert drawn.words.title == "From {mean of Salt Mere} on, {{mean of Saltmere}}"
        assert drawn.words.note == "{n of Salt Mere} and {n of Heron Sound}, {n}"
        assert drawn.words.names == {
            "Salt Mere": "Salt{down 2}",
            "Salt Mere, Spring": "{mean of Salt Mere}",
        }
        assert drawn.legend.title == "{sd of Salt Mere}"
        (text,) = drawn.text
        assert (text.text, text.panel) == ("{median of Salt Mere}", "Salt Mere, Spring")
        (kept,) = drawn.range
        assert (kept.words, kept.panel) == ("{n of Salt Mere}", "Salt Mere")
    hands.press("Ctrl+Z")
    assert session.document.figures[0].recipe == other


def test_columns_are_gathered_into_one_number_and_one_group(hands, rows):
    QTest.mouseClick(rows.steps.add_buttons["gather"], LEFT)
    form = rows.place.form
    ticked = [
        form.list.item(i).text()
        for i in range(form.list.count())
        if form.list.item(i).checkState() == Qt.CheckState.Checked
    ]
    assert ticked == [f"Growth week {i}" for i in range(1, 7)]
    assert (form.number.text(), form.group.text()) == ("Growth", "Week")
    QTest.mouseClick(form.do_button, LEFT)
    table = hands.window.session.table
    assert table.rows == 6 * 2416
    assert table.column("Week").levels == tuple(ticked)
    assert hands.readings.variable.name == "Shell length"


def test_tables_are_joined_with_what_matches_told_before(hands, rows, tmp_path, monkeypatch):
    sites = tmp_path / "sites.csv"
    sites.write_text("depth,Bay\n3,Heron Sound\n5,Saltmere\n8,Lee Bank\n")
    monkeypatch.setattr("PyQt6.QtWidgets.QFileDialog.getOpenFileName", lambda *_: (str(sites), ""))
    hands.press("Ctrl+J")
    form = rows.place.form
    assert not form.do_button.isEnabled()
    QTest.mouseClick(form.choose_button, LEFT)
    hands.qtbot.waitUntil(lambda: form.other is not None, timeout=5_000)
    rows.wait()
    assert form.keys[0][0].currentText() == form.keys[0][1].currentText() == "Bay"
    wick = int((rows.column("Bay").codes == 2).sum())
    assert f"{2416 - wick:,} of 2,416 rows here match, 2 of 3 there" in form.told.text()
    assert "Only here: Wick Narrows" in form.lone.text()
    assert "Only there: Lee Bank" in form.lone.text()
    QTest.mouseClick(form.more, LEFT)
    assert len(form.step().keys) == 2
    QTest.mouseClick(form.less, LEFT)
    assert form.step().keys == ("Bay",)
    assert not form.less.isVisible()
    form.keep.setCurrentIndex(1)
    form.keep.activated.emit(1)
    QTest.mouseClick(form.do_button, LEFT)
    rows.wait()
    table = hands.window.session.table
    assert table.rows == 2416 - wick
    assert set(np.unique(table.column("depth").values)) == {3, 5}
    assert rows.sentences()[1] == "Joined sites.csv by Bay, keeping only matching rows."
    rows.place.open_step(0)
    form = rows.place.form
    hands.qtbot.waitUntil(lambda: form.other is not None, timeout=5_000)
    assert form.keep.currentData() == "matched"


def test_a_join_of_what_is_no_table_is_told_in_the_form(hands, rows, tmp_path):
    bad = tmp_path / "bad.csv"
    bad.write_bytes(b"%PDF-1.7")
    rows.place.begin("join")
    rows.place.form.open(str(bad))
    rows.wait()
    assert "is a PDF" in rows.place.form.fault.text()


def test_tables_are_stacked_with_names(hands, rows, tmp_path):
    more = tmp_path / "more.csv"
    more.write_text("Tag,Bay,Shell length\nX-1,Saltmere,70\nX-2,Lee Bank,71\n")
    rows.place.begin("stack")
    form = rows.place.form
    form.add_files([str(more)])
    hands.type_into(form.names, "2025, 2026")
    rows.wait()
    table = hands.window.session.table
    assert table.rows == 2418
    assert table.column("Table").levels == ("2025", "2026")
    assert table.column("Table").level_counts.tolist() == [2416, 2]


def test_nothing_is_stacked_before_tables_are_chosen(hands, rows):
    before = hands.window.session.document
    rows.place.begin("stack")
    form = rows.place.form
    hands.type_into(form.factor, "Year")
    assert hands.window.session.document is before
    form.do_button.setEnabled(True)
    QTest.mouseClick(form.do_button, LEFT)
    assert form.fault.text() == "Choose the tables that come beneath this one."
    assert hands.window.session.document is before


def test_what_no_recipe_could_hold_is_refused_and_everything_stays(hands):
    session = hands.window.session
    before = session.document
    session.rows.prepare("Stack", Stack(files=()))
    assert "Step 1: files is [], but must be a list of files" in hands.refusal()
    session.ask("Bins", hands.recipe.binned(Bins(count=0)))
    assert "bins.count is 0, but must be" in hands.refusal()
    assert session.document is before


def test_a_curve_keeps_to_the_bound_that_its_variable_has_by_nature(hands, rows):
    from rhabdos.data.steps.naming import Bound
    from rhabdos.figure.forms.curve import density_curves

    session = hands.window.session
    hands.window.variable_actions.draw("Grit")
    session.ask("curve", hands.recipe.showing(forms=("curve",), split=()))
    assert density_curves(hands.readings)[0].curve.x[0] < 0
    session.rows.prepare("bound", Bound(variable="Grit", lower=0.0))
    assert density_curves(hands.readings)[0].curve.x[0] >= 0
    field = hands.panel("curve").widgets["Not below"]
    assert field.placeholderText() == "0 mg, known"


def test_the_list_of_levels_has_no_numbers_of_rows_and_shows_four_levels_whole(hands, rows):
    rows.click_name("Culture")
    table = rows.facts.levels
    assert not table.verticalHeader().isVisible()
    assert table.viewport().height() >= 4 * table.rowHeight(0)


@pytest.mark.parametrize(("key", "name"), [("F2", "Find a variable"), ("F3", "Find in the rows")])
def test_the_key_for_finding_goes_to_the_field_of_the_place_in_sight(hands, key, name):
    hands.press(key)
    hands.press("Ctrl+F")
    field = QApplication.focusWidget()
    assert field.accessibleName() == name
    assert field.isVisible()


def test_a_value_is_changed_from_its_cell_and_blanks_are_filled(hands, tmp_path):
    path = tmp_path / "wind.csv"
    path.write_text("bay,wind\nA,3.5\n,calm\n,7\nB,calm\n,\n,4\n,5\n")
    hands.open(path)
    rows = Rows(hands)
    where = rows.click_cell(1, "wind")
    QApplication.processEvents()
    rows.place.cells.offer(1, "wind", rows.view.mapToGlobal(where))
    menu = QApplication.activePopupWidget() or rows.place.findChildren(QMenu)[-1]
    action = next(a for a in menu.actions() if a.text().startswith("Change this value"))
    action.trigger()
    menu.close()
    form = rows.place.form
    assert form.old.currentText() == "calm"
    form.new.setFocus()
    QTest.keyClicks(form.new, "0")
    rows.wait()
    assert form.told.text() == "2 values"
    QTest.keyClick(form.new, Qt.Key.Key_Return)
    rows.wait()
    assert rows.column("wind").kind == "number"
    assert rows.sentences()[-1] == "In wind, “calm” becomes 0."
    rows.click_name("bay")
    assert any("stands once" in notice for notice in rows.notices())
    rows.press_deed("Fill them from above")
    rows.wait()
    assert rows.column("bay").level_counts.tolist() == [3, 4]
    rows.place.open_step(1)
    assert rows.place.form.list.ticked == ("bay",)
    QTest.mouseClick(rows.place.form.leave_button, LEFT)
    rows.place.open_step(0)
    assert (rows.place.form.old.currentText(), rows.place.form.new.text()) == ("calm", "0")
    rows.place.form.new.selectAll()
    QTest.keyClicks(rows.place.form.new, "1")
    QTest.mouseClick(rows.place.form.do_button, LEFT)
    rows.wait()
    assert rows.column("wind").values[1] == 1


def test_of_very_many_columns_only_those_in_sight_first_are_read_for_their_width(hands):
    columns = tuple(
        NumberColumn(f"v{at}", f"v{at}", values=np.full(90, 123_456_789.0 + at))
        for at in range(900)
    )
    view = hands.window.rows_place.view
    view.show_table(Table("wide", columns))
    assert len(view._readers) < 100
    assert view._widths[0] > view._widths[-1]  # its numbers are longer than its name
    view.show_table(Table("narrow", columns[:200]))
    assert set(view._widths) == {view._widths[0]}


WAYS_TO_KEEP = (
    {"low": 60.0, "high": 64.0}, {"low": 60.0, "below": 64.0},
    {"above": 60.0, "high": 64.0, "other": True}, {"above": 60.5}, {"below": 64.0},
    {"missing": True}, {"missing": False}, {"missing": True, "other": True},
    {"levels": ("1", "3"), "other": True}, {"levels": ("7",)}, {"contains": "6"},
    {"contains": "a", "other": True}, {"low": 60.0, "levels": ("1", "2")},
    {"levels": ("2",), "contains": "2"}, {}, {"other": True},
)  # fmt: skip


@pytest.mark.parametrize("asked", WAYS_TO_KEEP)
@pytest.mark.parametrize("variable", ["Length", "Grade", "Bay", "Tag", "Landed"])
def test_a_condition_that_is_opened_again_asks_the_same(qtbot, asked, variable):
    """Whatever a bar, a cell or a recipe asked: what the fields have no room for stays."""
    n = 200
    table = Table(
        "t",
        (
            NumberColumn("Length", values=np.linspace(50, 70, n)),
            NumberColumn("Grade", values=np.arange(n) % 3 + 1.0),
            CategoryColumn("Bay", codes=np.arange(n) % 3, levels=("1", "2", "3")),
            LabelColumn("Tag", texts=pl.Series([f"{at}a" for at in range(n)]), distinct=n),
            DateColumn("Landed", values=np.arange(n) + 20_000.0),
        ),
    )
    if variable == "Landed":
        days = {60.0: "2024-10-01", 60.5: "2024-10-02 12:00", 64.0: "2024-11-03"}
        asked = {key: days.get(value, value) if isinstance(value, float) else value
                 for key, value in asked.items()}  # fmt: skip
    condition = Condition(variable=variable, **asked)
    part = ConditionPart(table, condition, "")
    qtbot.addWidget(part)
    again = part.condition()
    rows = [KeepRows(where=(each,)) for each in (condition, again)]
    told = [each.describe()[1] for each in (condition, again)]
    assert told[0] == told[1] or asked in ({}, {"other": True}) or "missing" in asked
    try:
        expected = rows[0].holds(table)
    except StepError:
        return  # a range of what holds no numbers
    np.testing.assert_array_equal(rows[1].holds(table), expected)


def test_an_end_of_a_range_is_left_out_by_a_word(hands, rows):
    hands.press("Ctrl+Shift+K")
    part = rows.place.form.parts[0]
    part.variable.setCurrentIndex(part.variable.findText("Shell length"))
    part.variable.activated.emit(part.variable.currentIndex())
    for field, text in ((part.low, "above 60"), (part.high, "below 64")):
        field.setFocus()
        QTest.keyClicks(field, text)
    QTest.mouseClick(rows.place.form.do_button, LEFT)
    (step,) = hands.window.session.document.steps
    assert step.where == (Condition(variable="Shell length", above=60.0, below=64.0),)
    values = rows.column("Shell length").values
    assert 60 < values.min() < values.max() < 64


OPENED_AGAIN = (
    Make(name="l2", by="log", of=("Length",), base=2.0),
    Make(name="le", by="log", of=("mass",), base="e"),
    Make(name="root", by="root", of=("mass",)),
    Make(name="z", by="standardised", of=("mass",)),
    Make(name="less", by="difference", of=("mass", "Length")),
    Make(name="ratio", by="ratio", of=("mass", "Length")),
    Make(name="sum", by="sum", of=("Length", "mass")),
    Make(name="one cut", by="classes", of=("mass",), edges=(2.0,)),
    Make(name="cuts", by="classes", of=("Length",), edges=(0.1, 0.25, 1e6)),
    Make(name="parts", by="classes", of=("mass",), quantiles=5),
    Make(name="struck", by="root", of=("mass",), off=True),
    Make(name="day", by="weekday", of=("when",)),
    Join(file="sites.csv", keys=(("bay", "site"),)),
    Join(file="sites.csv", keys=(("bay", "site"),), keep="matched", read=Read(separator=";")),
    Join(file="more.csv", keys=("tag", "bay"), keep="both"),
    Stack(files=("more.csv",), factor="Where", names=("here", "there")),
    Stack(files=("more.csv", "more.csv"), factor="File", read=Read(separator=",")),
    Gather(variables=("Length", "mass"), number="v", group="which"),
    Recode(variable="bay", become={"N": "North", "S": "South"}),
    Recode(variable="note", become={"": "0"}),
    Recode(variable="bay", become={"N": "1", "S": "2", "E": "3"}),
    FillDown(variables=("bay", "note")),
    KeepRows(where=(Condition(variable="bay", levels=("N",)),), out=True),
    KeepRows(
        where=(Condition(variable="bay", levels=("N",)), Condition(variable="mass", low=1.0)),
        any=True,
    ),
    KeepRows(where=(Condition(variable="when", low="2024-05-03", below="2024-05-10"),)),
)


def test_each_step_that_is_opened_again_is_the_same_until_a_hand_changes_it(hands, tmp_path):
    (tmp_path / "main.csv").write_text(
        "tag,bay,Length,mass,note,when\n"
        + "".join(
            f"T{i},{'NSE'[i % 3]},{50 + i},{i % 5},{'x' * (i % 2)},2024-05-{1 + i % 28:02d}\n"
            for i in range(40)
        )
    )
    (tmp_path / "sites.csv").write_text("site;depth\nN;1,5\nS;2,5\n")
    (tmp_path / "more.csv").write_text("tag,bay,mass\nA,N,3\nB,S,4\n")
    session = hands.window.session
    session.opening.open_file(tmp_path / "main.csv")
    hands.qtbot.waitUntil(
        lambda: session.table is not None and session.table.has("mass"), timeout=5_000
    )
    hands.window.go_to("rows")
    place, begun = hands.window.rows_place, len(session.document.steps)
    for step in OPENED_AGAIN:
        session.rows.prepare(step.words, step)
        hands.qtbot.waitUntil(
            lambda: not session.runner.running() and len(session.document.steps) > begun,
            timeout=5_000,
        )
        place.open_step(begun)
        assert place.form is not None, step.words
        if isinstance(step, Join):  # the other table is read beside the window
            hands.qtbot.waitUntil(lambda: place.form.other is not None, timeout=5_000)
        assert place.form.step() == step
        place.leave_form()
        hands.press("Ctrl+Z")
        hands.qtbot.waitUntil(
            lambda: not session.runner.running() and len(session.document.steps) == begun,
            timeout=5_000,
        )


def with_keys(window):
    """What Tab goes through from what has the keys on, until it comes round."""
    reached = []
    while (held := window.focusWidget()) not in reached:
        reached.append(held)
        QTest.keyClick(held, Qt.Key.Key_Tab)
    return reached


@pytest.mark.parametrize("typed", ["1", "0", "-2", "ten"])
def test_a_base_that_is_none_is_said_in_the_form(rows, typed):
    rows.place.begin("make", "Wet mass")
    form = rows.place.form
    assert "log" in [form.way.itemData(at) for at in range(form.way.count())]
    form.way.setCurrentIndex(form.way.findData("log"))
    form.way.activated.emit(form.way.currentIndex())
    form.base.setCurrentText(typed)
    form.do()
    assert f"“{typed}” is no base: type a number above 0 but 1, or e." in form.fault.text()
    form.base.setCurrentText("2")
    form.do()
    assert rows.place.form is None


@pytest.mark.parametrize("kind", ["keep", "make", "recode", "fill", "join", "stack", "gather"])
def test_tab_goes_through_a_form_as_it_stands_and_then_the_rows_have_the_keys(hands, rows, kind):
    place = rows.place
    rows.view.setFocus()
    place.begin(kind, "Bay" if kind in ("keep", "recode") else "Wet mass")
    QApplication.processEvents()
    form, first = place.form, hands.window.focusWidget()
    if kind == "keep":
        form.more.click()
        first.setFocus()
        QApplication.processEvents()
    reached = [widget for widget in with_keys(hands.window) if form.isAncestorOf(widget)]
    heights = [widget.mapTo(form, QPoint(0, widget.height() // 2)).y() for widget in reached]
    assert reached[0] is first
    assert first is not form.do_button
    ends = reached.index(form.leave_button if form.leave_button in reached else form.do_button)
    assert ends == len(reached) - 1
    assert all(after > before - 8 for before, after in pairwise(heights)), heights
    form.leave_button.setFocus()
    hands.keys(form.leave_button, Qt.Key.Key_Space)
    assert hands.window.focusWidget() in (rows.view, *rows.view.findChildren(QWidget))
