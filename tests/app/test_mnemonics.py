"""Letters by which menus, labels and buttons are reached, and names that hold their sign."""

import re
from collections import Counter

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QCheckBox, QLabel, QPushButton

from rhabdos.app.controls.mnemonics import OF_MENUS, TOPS, lettered
from rhabdos.app.leaving.export_dialog import ExportDialog
from rhabdos.figure.phrases import PHRASES
from tests.app.texts import words_of


def letter_of(text: str) -> str:
    """What Qt itself makes of a text."""
    return QKeySequence.mnemonic(text).toString().rpartition("+")[2].lower()


@given(st.lists(st.text(max_size=12), max_size=40), st.text(alphabet="abcdef", max_size=4))
def test_letters_differ_and_no_word_is_changed(texts, taken):
    marked = lettered(texts, taken)
    letters = [letter for _, letter in marked if letter]
    assert len(set(letters)) == len(letters)
    assert not set(letters) & set(taken)
    for text, (words, letter) in zip(texts, marked, strict=True):
        assert re.sub("&(.)", r"\1", words, flags=re.DOTALL) == text
        if not letter:  # then none was left of those in it
            assert {c for c in text.lower() if "a" <= c <= "z"} <= set(letters) | set(taken)


def test_the_letters_of_the_menu_bar_are_those_kept_free():
    assert sorted(letter_of(top) for top in TOPS) == sorted(OF_MENUS)


def test_every_menu_entry_has_a_letter_of_its_own(hands):
    for menu in hands.window.menu_bar_of:
        letters = [letter_of(a.text()) for a in menu.actions() if not a.isSeparator()]
        counts = Counter(letters)
        assert all(count == 1 for letter, count in counts.items() if letter), counts
        for action in menu.actions():  # where one has none, all that are in it are taken
            if not action.isSeparator() and not letter_of(action.text()):
                assert {c for c in action.text().lower() if "a" <= c <= "z"} <= set(letters)


@pytest.mark.parametrize("key", PHRASES)
def test_fields_of_each_panel_are_reached_by_alt(hands, key):
    panel = hands.panel(key)
    reached = [
        widget
        for kind in (QLabel, QCheckBox, QPushButton)
        for widget in panel.findChildren(kind)
        if widget.isVisibleTo(panel) and letter_of(widget.text())
        if kind is not QLabel or widget.buddy() is not None
    ]
    letters = [letter_of(widget.text()) for widget in reached]
    assert len(set(letters)) == len(letters)
    assert not set(letters) & set(OF_MENUS)
    for widget, letter in zip(reached, letters, strict=True):
        goal = widget.buddy() if isinstance(widget, QLabel) else widget
        if not goal.isEnabled() or isinstance(widget, QPushButton):
            continue
        before = hands.window.session.recipe
        hands.window.setFocus()
        QTest.keyClick(hands.window, letter, Qt.KeyboardModifier.AltModifier)
        focus = hands.window.focusWidget()
        assert focus is goal or goal.isAncestorOf(focus), (key, widget.text())
        if isinstance(widget, QCheckBox):  # which is ticked by it as well, a moment later
            hands.qtbot.waitUntil(lambda widget=widget: not widget.isDown())
            if hands.window.session.recipe != before:
                hands.window.session.undo()


def test_names_keep_their_sign(empty, tmp_path):
    path = tmp_path / "sand & silt.csv"
    path.write_text(
        "Sand & silt,Grain\n"
        + "\n".join(f"{i % 17},{'A & B' if i % 2 else 'C'}" for i in range(90))
    )
    empty.open(path)
    window = empty.window
    empty.click_variable("Sand & silt")
    window.go_to("figure")
    assert "&&" in window.menus.undo.text()
    assert "Sand & silt" in window.menus.undo.iconText() or "&" in window.menus.undo.iconText()
    window.menus.recent.aboutToShow.emit()
    assert "sand && silt.csv" in window.menus.recent.actions()[0].text()


def test_the_export_is_all_reached_by_letters(hands):
    QTest.keyClick(
        hands.window,
        Qt.Key.Key_E,
        Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
    )
    dialog = hands.window.findChildren(ExportDialog)[-1]
    dialog.activateWindow()
    hands.qtbot.waitUntil(dialog.isActiveWindow)
    label = next(w for w in dialog.findChildren(QLabel) if words_of(w) == "File")
    QTest.keyClick(dialog, letter_of(label.text()), Qt.KeyboardModifier.AltModifier)
    assert dialog.focusWidget() is dialog.path
    dialog.close()
