"""From pane to pane by keys, panes folded away, and keys that text fields do not take."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

FIELDS_TAKE = {"Ctrl+A", "Ctrl+D", "Ctrl+E", "Ctrl+K", "Ctrl+U"}
"""What a text field does something else with under X11."""


def panes_of(window):
    figure = window.figure
    return [
        window.sentence,
        figure.variables,
        figure.stage.canvas,
        figure.stage.rod,
        figure.side,
        figure.foot,
    ]


def with_focus(window):
    focus = QApplication.focusWidget()
    panes = panes_of(window)
    return next((n for n, p in enumerate(panes) if p is focus or p.isAncestorOf(focus)), None)


def test_a_key_goes_from_pane_to_pane_and_back(hands):
    hands.window.figure.variables.list.setFocus()
    visited = []
    for _ in range(6):
        hands.press("F6")
        visited.append(with_focus(hands.window))
    assert visited == [2, 3, 4, 5, 0, 1]
    hands.press("Shift+F6")
    assert with_focus(hands.window) == 0


def test_the_key_goes_round_the_rows_and_the_overview_too(hands):
    hands.window.go_to("rows")
    rows = hands.window.rows_place
    hands.press("F6")
    assert rows.side.isAncestorOf(QApplication.focusWidget())
    hands.press("F6")
    assert rows.steps.isAncestorOf(QApplication.focusWidget())
    hands.press("F6")
    assert QApplication.focusWidget() is rows.view.heard
    hands.window.go_to("overview")
    hands.press("F6")
    assert QApplication.focusWidget() is hands.window.overview.search


def test_what_is_folded_away_gives_its_room_to_the_figure(hands):
    figure = hands.window.figure
    panes = figure.variables, figure.side, figure.foot
    before = figure.stage.size()
    for key, pane in zip(("F7", "F8", "F9"), panes, strict=True):
        hands.press(key)
        assert not pane.isVisible()
    QApplication.processEvents()
    assert figure.stage.width() > before.width() + 300
    assert figure.stage.height() > before.height()
    hands.window.session.ask("Draw", hands.recipe.showing(forms=("box",)))  # folded all the same
    assert not any(pane.isVisible() for pane in panes)
    hands.press("F11")
    assert all(pane.isVisible() for pane in panes)
    hands.press("F11")
    assert not any(pane.isVisible() for pane in panes)
    hands.window.menus.phrases["look"].trigger()  # whose settings are wanted
    assert figure.side.isVisible()


def test_small_windows_keep_the_figure(hands):
    figure = hands.window.figure
    hands.window.resize(640, 480)
    QApplication.processEvents()
    assert (hands.window.width(), hands.window.height()) == (640, 480)
    assert not figure.variables.isVisible()
    assert not figure.foot.isVisible()
    assert figure.stage.width() >= 360
    hands.press("F9")
    assert figure.foot.isVisible()
    hands.window.resize(1280, 800)
    QApplication.processEvents()
    assert figure.variables.isVisible()


def test_home_and_end_go_to_the_first_and_the_last_variable(hands):
    view = hands.window.figure.variables.list
    hands.keys(view, Qt.Key.Key_End)
    assert view.currentIndex().data() == "Stock"
    hands.keys(view, Qt.Key.Key_Home)
    assert view.currentIndex().data() == "Shell length"


def test_an_empty_window_begins_at_opening_data(empty):
    assert empty.window.figure.stage.welcome.open_button.hasFocus()


def test_a_menu_of_recent_files_opens_again_after_it_was_empty(empty, tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    menu = empty.window.menus.recent
    menu.aboutToShow.emit()
    assert [action.text() for action in menu.actions()] == ["None yet"]
    assert menu.isEnabled()
    path = tmp_path / "weights.csv"
    path.write_text("x\n1\n2\n")
    empty.open(path)
    menu.aboutToShow.emit()
    assert menu.actions()[0].text().startswith("weights.csv")
    assert menu.actions()[0].isEnabled()


def test_every_key_does_one_thing_that_no_text_field_does(hands):
    actions = hands.window.findChildren(QAction)
    keys = [action.shortcut().toString() for action in actions if action.shortcut().toString()]
    assert len(keys) > 30
    assert len(keys) == len(set(keys))
    assert not FIELDS_TAKE & set(keys)
    shifted = [key for key in keys if key.startswith("Ctrl+Shift+") and key[-1].isdigit()]
    assert not shifted  # which several layouts do not have


@pytest.mark.parametrize("text", ["Keep", "length"])
def test_typing_in_a_field_is_not_taken_for_a_deed(hands, text):
    field = hands.window.figure.variables.search
    field.setFocus()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(field, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    assert hands.window.place == "figure"
    assert QApplication.activeModalWidget() is None
