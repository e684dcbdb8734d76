"""Texts of a category are given numbers: from the facts, as a step, and changed afterwards."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from rhabdos.app.rows.number_each_form import NumberEachForm, _guessed
from rhabdos.data.columns import KINDS, NumberColumn
from rhabdos.data.steps.recoding import Recode
from tests.app.texts import words_of

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def graded(empty, tmp_path):
    lines = ["Grade,Mass"] + [f"{('low', 'fair', 'high')[i % 3]},{40 + i % 9}" for i in range(60)]
    (tmp_path / "g.csv").write_text("\n".join(lines))
    empty.open(tmp_path / "g.csv")
    empty.press("F3")
    return empty


def settle(hands):
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=10_000)
    QApplication.processEvents()


def put(form, level, number):
    table = form.numbers
    row = next(r for r in range(table.rowCount()) if table.item(r, 0).text() == level)
    table.item(row, 1).setText(number)


def test_a_text_becomes_a_number_from_its_facts_and_is_drawn(graded):
    place = graded.window.rows_place
    place.choose("Grade")
    kind = place.facts.kind
    kind.setCurrentIndex(KINDS.index("number"))
    kind.activated.emit(kind.currentIndex())
    graded.qtbot.waitUntil(lambda: bool(place.facts.notices), timeout=5_000)
    buttons = place.facts.notices[-1].findChildren(QPushButton)
    offer = next(b for b in buttons if words_of(b).lower() == "give each text a number")
    QTest.mouseClick(offer, LEFT)
    form = place.form
    assert isinstance(form, NumberEachForm)
    for level, number in (("low", "1"), ("fair", "2,5"), ("high", "4")):
        put(form, level, number)
    QTest.mouseClick(form.do_button, LEFT)
    settle(graded)
    column = graded.window.session.table.column("Grade")
    assert isinstance(column, NumberColumn)
    assert np.unique(column.values).tolist() == [1.0, 2.5, 4.0]
    assert graded.window.session.document.steps[-1] == Recode(
        variable="Grade", become={"fair": "2.5", "high": "4", "low": "1"}
    )
    graded.press("F4")
    graded.click_variable("Grade")
    assert graded.readings.variable.name == "Grade"


def test_the_step_is_added_changed_and_says_what_is_no_number(graded):
    place = graded.window.rows_place
    place.begin("numbers", "Grade")
    form = place.form
    put(form, "low", "few")
    QTest.mouseClick(form.do_button, LEFT)
    assert "“few”, which is no number" in form.fault.text()
    put(form, "low", "7")
    QTest.mouseClick(form.do_button, LEFT)
    settle(graded)
    index = len(graded.window.session.document.steps) - 1
    place.open_step(index)
    form = place.form
    assert isinstance(form, NumberEachForm)
    put(form, "low", "9")
    QTest.mouseClick(form.do_button, LEFT)
    settle(graded)
    assert len(graded.window.session.document.steps) == index + 1
    assert graded.window.session.table.column("Grade").values.max() == 9.0


def test_numbers_that_texts_begin_with_are_offered():
    assert _guessed(("1 low", "2 fair", "3 high")) == ["1", "2", "3"]
    assert _guessed(("0,5 m", "−2 m")) == ["0.5", "-2"]
    assert _guessed(("low", "2 fair")) == ["1", "2"]
    assert _guessed(("5 a", "5 b")) == ["1", "2"]


def test_without_a_category_the_form_says_so(empty, tmp_path):
    (tmp_path / "n.csv").write_text("a\n" + "\n".join(str(i * 1.7) for i in range(50)))
    empty.open(tmp_path / "n.csv")
    empty.press("F3")
    place = empty.window.rows_place
    place.begin("numbers")
    QTest.mouseClick(place.form.do_button, LEFT, pos=QPoint(5, 5))
    assert "no category here" in place.form.fault.text()


def test_a_notice_of_many_deeds_fits_beside_the_rows(graded):
    place = graded.window.rows_place
    assert place.facts.column is not None
    graded.press("F3")
    place.choose("Grade")
    place.facts.kind.setCurrentText("number")
    place.facts.kind.activated.emit(place.facts.kind.currentIndex())
    graded.qtbot.waitUntil(lambda: bool(place.facts.notices), timeout=5_000)
    QApplication.processEvents()
    buttons = place.facts.notices[-1].buttons
    assert [words_of(b) for b in buttons][:2] == ["Give each text a number", "Read it as a number"]
    room = place.facts.parentWidget().width()
    assert place.facts.minimumSizeHint().width() <= room
    graded.qtbot.waitUntil(lambda: buttons[-1].width() > 20, timeout=2_000)
    for button in buttons:
        assert button.mapTo(place.facts, button.rect().bottomRight()).x() <= room


def test_a_form_whose_variable_was_undone_says_so(graded):
    place = graded.window.rows_place
    place.begin("numbers")
    form = place.form
    form.variable.addItem("Gone", "Gone")
    form.variable.setCurrentIndex(form.variable.count() - 1)
    form.variable.activated.emit(form.variable.currentIndex())
    assert form.numbers.rowCount() == 0
    form.do()
    assert "no category" in form.fault.text()
