"""What is this? By the key on what the mouse or the keys are on."""

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QCursor
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QDialog, QLineEdit, QTextBrowser

from tests.app.test_reading import at


def told(hands) -> str:
    card = hands.window.explaining.card
    assert card is not None
    assert card.isVisible()
    return card.words.toPlainText()


def over_bar(hands, value: float) -> None:
    canvas = hands.window.figure.stage.canvas
    frame = canvas.scene.frame
    QTest.mouseMove(canvas, at(canvas, value, frame.bottom - 8))
    assert canvas.stop is not None


def test_a_part_of_the_figure_is_explained_with_its_numbers(hands):
    over_bar(hands, 78.0)
    hands.press("F1")
    words = told(hands)
    assert "Here: c = " in words
    assert "from 76 to under 80 mm" in words
    assert "A bin [a, b) counts the values" in words


def test_the_card_stays_and_tells_of_the_next_thing(hands):
    over_bar(hands, 86.0)  # elsewhere than in other tests: a mouse that stays does not move
    hands.press("?")
    first = told(hands)
    over_bar(hands, 66.0)
    assert told(hands) == first
    hands.press("?")
    assert told(hands) != first
    assert len([d for d in hands.window.findChildren(QDialog) if d.isVisible()]) == 1
    QTest.keyClick(hands.window.explaining.card, Qt.Key.Key_Escape)
    assert not hands.window.explaining.card.isVisible()


def test_a_number_at_the_foot_is_explained_by_keys(hands):
    table = hands.window.figure.foot.table
    table.setFocus()
    table.setCurrentIndex(table.model().index(1, 4))
    hands.press("F1")
    assert "Standard deviation of Saltmere" in told(hands)
    assert "/ (817 − 1)) = 12.658 mm" in told(hands)
    hands.window.figure.foot.show_face("quantiles")
    table.setFocus()
    table.setCurrentIndex(table.model().index(0, 3))
    hands.press("F1")
    assert "Quantile at 5 % of Heron Sound" in told(hands)


@pytest.mark.parametrize(("face", "said"), [("compare", "Ratio of sd"), ("bins", "Bar of")])
def test_every_face_of_the_foot_answers(hands, face, said):
    foot = hands.window.figure.foot
    foot.show_face(face)
    hands.qtbot.waitUntil(foot.table.isVisible, timeout=10_000)
    foot.table.setFocus()
    foot.table.setCurrentIndex(foot.table.model().index(1, 3))
    hands.press("F1")
    assert said in told(hands)


def test_a_notice_and_the_settings_of_a_phrase_are_explained(hands):
    recipe = hands.recipe
    hands.window.session.ask("Hide", recipe.grouped(hidden=("Wick Narrows",)))
    strip = hands.window.figure.foot.notices
    assert strip.isVisible()
    strip.cure.setFocus()
    hands.press("F1")
    assert "Notices" in told(hands)
    assert "When:" in told(hands)
    hands.window.choose_phrase("bins")
    panel = hands.window.figure.side.panel("bins")
    next(field for field in panel.findChildren(QLineEdit) if field.isVisible()).setFocus()
    hands.press("F1")
    assert "Rules for the width of bins" in told(hands)


def test_a_question_mark_is_typed_into_fields_as_it_is(hands):
    search = hands.window.figure.variables.findChild(QLineEdit)
    search.setFocus()
    QTest.keyClicks(search, "what?")
    assert search.text() == "what?"
    assert hands.window.explaining.card is None


def test_where_there_is_nothing_to_explain_the_page_of_keys_opens(hands):
    hands.window.figure.variables.setFocus()
    hands.press("F1")
    (dialog,) = [d for d in hands.window.findChildren(QDialog) if d.isVisible()]
    assert "Ctrl + wheel" in dialog.findChild(QTextBrowser).toPlainText()


def test_the_number_under_the_mouse_is_explained(hands):
    table = hands.window.figure.foot.table
    index = table.model().index(0, 3)
    place = table.visualRect(index).center()
    QCursor.setPos(table.viewport().mapToGlobal(place))
    QTest.mouseMove(table.viewport(), place)
    if not table.viewport().underMouse():
        pytest.skip("this platform moves no pointer")
    hands.press("F1")
    assert "Mean of Heron Sound" in told(hands)
    QCursor.setPos(hands.window.mapToGlobal(QPoint(2, 2)))
