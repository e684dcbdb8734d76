"""The window and its desktop: light and dark, large letters, and how it stood last time."""

import json
import re
from collections import Counter
from pathlib import Path
from typing import get_args

import pytest
from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QListWidget,
    QListWidgetItem,
    QRadioButton,
)

from rhabdos.app.controls import theme
from rhabdos.app.shell.window import Window
from rhabdos.project.folders import Folders, Kept
from rhabdos.project.state_file import state_file
from rhabdos.project.window_state import FILE, WindowState, keep_window_state, window_state


@pytest.fixture
def fresh(dressed, qtbot, tmp_path, monkeypatch):
    """Windows one after the other, with a memory of their own."""
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    opened = []

    def window():
        opened.append(Window())
        opened[-1].restore()
        opened[-1].show()
        QApplication.processEvents()
        return opened[-1]

    yield window
    for one in opened:
        one.close()
        one.deleteLater()


def test_a_window_stands_as_it_was_closed(fresh, tmp_path):
    first = fresh()
    first.resize(790, 700)
    first.figure.columns.setSizes([200, 360, 228])
    first.figure.columns.splitterMoved.emit(200, 1)
    for kind in get_args(Kept):
        (tmp_path / kind).mkdir()
        first.filing.folders = first.filing.folders.after(kind, tmp_path / kind / "a.x")
    first.close()
    second = fresh()
    assert (second.width(), second.height()) == (first.width(), first.height())
    assert abs(second.figure.columns.sizes()[0] - first.figure.columns.sizes()[0]) <= 2
    for kind in get_args(Kept):
        assert second.filing.folders.of(kind) == tmp_path / kind


def test_a_first_window_stands_as_usual(fresh):
    assert window_state() == WindowState()
    assert fresh().figure.columns.count() == 3


@pytest.mark.parametrize("content", ["", "{", '{"geometry": 5}', json.dumps({"geometry": "AAAA"}),
                                     json.dumps({"columns": "AAAA"})])  # fmt: skip
def test_a_damaged_memory_of_the_window_harms_nothing(fresh, content):
    state_file(FILE).parent.mkdir(parents=True)
    state_file(FILE).write_text(content)
    window = fresh()
    assert window.isVisible()
    assert window.width() > 300


def test_a_folder_that_has_gone_is_not_begun_in(fresh, tmp_path):
    folders = Folders(data=str(tmp_path / "gone"), latest=str(tmp_path))
    keep_window_state(WindowState(folders=folders))
    assert fresh().filing.folders.of("data") == tmp_path


def test_files_are_looked_for_where_such_files_were_last(fresh, tmp_path, monkeypatch, qtbot):
    begun = []

    def chosen(_parent, title, at, *_):
        begun.append((title, Path(at)))
        return "", ""

    monkeypatch.setattr(QFileDialog, "getOpenFileName", chosen)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", chosen)
    window = fresh()
    files = {kind: tmp_path / kind for kind in ("data", "recipes")}
    for folder in files.values():
        folder.mkdir()
    (files["data"] / "a.csv").write_text("Length,Bay\n1,A\n2,B\n3,A\n")
    window.filing.open(files["data"] / "a.csv")
    qtbot.waitUntil(lambda: window.session.readings is not None)
    window.filing.ask_for_recipe()
    window.filing._save(files["recipes"] / "r.toml")
    window.filing.ask_for_data()
    window.filing.ask_for_recipe()
    assert begun == [
        ("Open work or recipe", files["data"]),
        ("Open data", files["data"]),
        ("Open work or recipe", files["recipes"]),
    ]


@pytest.mark.parametrize(("desktop", "times"), [(12, 1.0), (15, 1.0), (20, 20 / 13.3), (60, 2.0)])
def test_letters_are_as_large_as_the_desktop_asks_for(desktop, times):
    assert theme.larger_letters(desktop) == pytest.approx(times)
    style = theme.enlarged("QLabel { font-size: 16px; border: 2px solid }", times)
    assert f"font-size: {round(16 * times)}px" in style
    assert "border: 2px" in style


def test_the_window_follows_the_desktop_from_light_to_dark_and_back(hands):
    hints = QGuiApplication.styleHints()
    hints.setColorScheme(Qt.ColorScheme.Dark)
    QApplication.processEvents()
    try:
        theme.dress(QApplication.instance(), theme.DARK)
        assert theme.theme() is theme.DARK
        dark = hands.window.grab().toImage().pixelColor(5, 300)
    finally:
        hints.unsetColorScheme()
        theme.dress(QApplication.instance(), theme.LIGHT)
    light = hands.window.grab().toImage().pixelColor(5, 300)
    assert dark.lightness() < 100 < light.lightness()


@pytest.mark.parametrize("colours", [theme.LIGHT, theme.DARK, theme.HIGH_LIGHT, theme.HIGH_DARK])
def test_every_picture_that_the_style_names_is_there(qapp, colours):
    theme.dress(qapp, colours)
    named = re.findall(r"url\(([^)]+)\)", qapp.styleSheet())
    theme.dress(qapp, theme.LIGHT)
    assert named
    assert [path for path in named if not Path(path.strip("\"'")).exists()] == []


def _against(colours):
    """What must be told from what it lies on: outlines of controls and handles of scroll bars,
    silhouettes, marks of focus, and what the rod holds."""
    grounds = [colours.panel, colours.ground, colours.field, colours.shown_ground]
    for name in ("outline", "chosen", "number_shape", "group_shape"):
        for ground in grounds if name in ("outline", "chosen") else grounds[::3] + grounds[:1]:
            yield name, getattr(colours, name), ground
    for name in ("brass", "on_rod"):
        yield name, getattr(colours, name), colours.rod


@pytest.mark.parametrize(
    "colours",
    [theme.LIGHT, theme.DARK, theme.HIGH_LIGHT, theme.HIGH_DARK],
    ids=["light", "dark", "high", "high dark"],
)
def test_outlines_handles_silhouettes_and_focus_stand_out_three_to_one(colours):
    low = [(n, a, b) for n, a, b in _against(colours) if relative_contrast(a, b) < 3]
    assert low == []
    words = ((colours.ink, 7), (colours.quiet, 4.5), (colours.fault, 4.5))
    for colour, least in words:
        assert relative_contrast(colour, colours.panel) >= least
    assert relative_contrast(colours.notice_ink, colours.notice_ground) >= 4.5
    assert f"QScrollBar::handle {{ background: {colours.outline}" in theme._style(colours)


def relative_contrast(one, other):
    """Of WCAG 2.1, worked out from its definition."""

    def luminance(colour):
        parts = [int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)]
        linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


@pytest.mark.parametrize("colours", [theme.HIGH_LIGHT, theme.HIGH_DARK], ids=["light", "dark"])
def test_high_contrast_is_seven_to_one_wherever_words_stand(colours):
    for words in (colours.ink, colours.quiet, colours.fault, colours.chosen):
        for ground in (colours.panel, colours.ground, colours.field, colours.shown_ground):
            assert relative_contrast(words, ground) >= 7, (words, ground)
    assert relative_contrast(colours.chosen, colours.chosen_ground) >= 4.5
    assert relative_contrast(colours.notice_ink, colours.notice_ground) >= 7


@pytest.mark.parametrize(
    ("colours", "least"),
    [(theme.LIGHT, 3), (theme.DARK, 3), (theme.HIGH_LIGHT, 7), (theme.HIGH_DARK, 7)],
    ids=["light", "dark", "high", "high dark"],
)
def test_arrows_of_lists_stand_out_from_their_field(colours, least):
    for way in ("up", "down"):
        picture = (Path(theme._ASSETS) / f"{way}-{colours.shade}.svg").read_text()
        assert (
            relative_contrast(re.search('stroke="(#[0-9A-F]{6})"', picture)[1], colours.field)
            >= least
        )
        assert f"{way}-{colours.shade}.svg" in theme._style(colours)


@pytest.mark.parametrize(
    ("colours", "least"),
    [(theme.LIGHT, 3), (theme.DARK, 3), (theme.HIGH_LIGHT, 7), (theme.HIGH_DARK, 7)],
    ids=["light", "dark", "high", "high dark"],
)
@pytest.mark.parametrize("kind", [QCheckBox, QRadioButton, QListWidget])
def test_what_is_not_ticked_is_seen_and_told_from_what_is(qtbot, qapp, colours, least, kind):
    theme.dress(qapp, colours)
    try:
        box = kind()
        qtbot.addWidget(box)
        if kind is QListWidget:
            box.setObjectName("ticks")
            box.addItem(QListWidgetItem(""))
        box.resize(40, 30)

        def painted(ticked):
            """Each colour of the box and how many pixels have it, without the frame of a list."""
            if kind is QListWidget:
                state = Qt.CheckState.Checked if ticked else Qt.CheckState.Unchecked
                box.item(0).setCheckState(state)
            else:
                box.setChecked(ticked)
            image = box.grab().toImage()
            inner = [(x, y) for x in range(2, 38) for y in range(2, 28)]
            return Counter(image.pixelColor(x, y).name().upper() for x, y in inner)

        unset, chosen = painted(False), painted(True)
        ground = unset.most_common(1)[0][0]
        seen = sum(n for c, n in unset.items() if relative_contrast(c, ground) >= least)
        assert seen >= 12, unset
        told = {c for c in chosen if unset[c] < chosen[c] - 20}
        assert max(relative_contrast(c, ground) for c in told) >= least, chosen
    finally:
        theme.dress(qapp, theme.LIGHT)


def test_high_contrast_is_followed_while_running(qapp, monkeypatch):
    wishes = QObject()

    class Hints(QObject):
        colorSchemeChanged = pyqtSignal()  # noqa: N815
        contrast, scheme = Qt.ContrastPreference.NoPreference, Qt.ColorScheme.Light

        def accessibility(self):
            return self

        def contrastPreference(self):
            return self.contrast

        def colorScheme(self):
            return self.scheme

    hints = Hints(wishes)
    monkeypatch.setattr(theme.QGuiApplication, "styleHints", lambda: hints)
    theme.follow_desktop(qapp)
    assert theme.theme() is theme.LIGHT
    hints.contrast = Qt.ContrastPreference.HighContrast
    theme.keep_up(qapp)
    assert theme.theme() is theme.HIGH_LIGHT
    hints.scheme = Qt.ColorScheme.Dark
    hints.colorSchemeChanged.emit()
    assert theme.theme() is theme.HIGH_DARK
    hints.contrast = Qt.ContrastPreference.NoPreference
    theme.keep_up(qapp)
    assert theme.theme() is theme.DARK
    theme.dress(qapp, theme.LIGHT)


def test_rows_that_hold_their_colours_take_those_of_the_new_dress(hands, qapp):
    levels, ladder = hands.panel("split").levels, hands.panel("bins").ladder
    hands.panel("split")
    held = [levels.item_of("Saltmere").foreground(1), ladder.item(0).foreground()]
    try:
        theme.dress(qapp, theme.HIGH_DARK)
        QApplication.processEvents()
        now = [levels.item_of("Saltmere").foreground(1), ladder.item(0).foreground()]
    finally:
        theme.dress(qapp, theme.LIGHT)
    assert all(max(c.color().getRgb()[:3]) < 120 for c in held)
    assert all(max(c.color().getRgb()[:3]) > 200 for c in now)


def test_letters_are_followed_while_running(hands, qapp, monkeypatch):
    window = hands.window
    window.go_to("rows")
    before = window.sentence.height(), window.rows_place.search.minimumWidth()
    usual = theme.desktop_letters()
    try:
        monkeypatch.setattr(theme, "desktop_letters", lambda: 2 * usual)
        theme.keep_up(qapp)
        hands.qtbot.waitUntil(lambda: window.sentence.height() > 1.5 * before[0])
        assert window.rows_place.search.minimumWidth() == pytest.approx(
            before[1] * theme.sized(100) / 100, abs=1
        )
        assert window.menu_bar.font().pixelSize() == theme.sized(14)
    finally:
        monkeypatch.setattr(theme, "desktop_letters", lambda: usual)
        theme.keep_up(qapp)
    hands.qtbot.waitUntil(lambda: window.sentence.height() == before[0])


def _cut(dialog):
    """Buttons and fields of a dialog that have less room than their words, or lie beyond it."""
    found = []
    for widget in dialog.findChildren(QAbstractButton) + dialog.findChildren(QComboBox):
        words = widget.text() if isinstance(widget, QAbstractButton) else widget.currentText()
        if not widget.isVisibleTo(dialog) or not words:
            continue
        needed = widget.fontMetrics().horizontalAdvance(words.replace("&", ""))
        if isinstance(widget, QCheckBox | QRadioButton):
            needed += theme.sized(14)
        inside = widget.parentWidget().rect().contains(widget.geometry().center())
        if widget.width() < needed or not inside:
            found.append((words, widget.width(), needed, inside))
    return found


@pytest.mark.parametrize("title", ["Export figure …", "Many at once …", "On one page …"])
def test_no_words_of_a_dialog_are_cut_where_letters_are_twice_as_large(
    hands, qapp, monkeypatch, title
):
    usual = theme.desktop_letters()
    monkeypatch.setattr(theme, "desktop_letters", lambda: 27)
    theme.keep_up(qapp)
    try:
        entry = next(
            action
            for menu in hands.window.menu_bar_of
            for action in menu.actions()
            if action.text().replace("&", "") == title
        )
        entry.trigger()
        QTest.qWait(100)
        dialog = next(d for d in hands.window.findChildren(QDialog) if d.isVisible())
        assert _cut(dialog) == []
        assert dialog.width() <= 1180
        dialog.close()
    finally:
        monkeypatch.setattr(theme, "desktop_letters", lambda: usual)
        theme.keep_up(qapp)


def test_nothing_moves_by_itself():
    """So that who asks for less motion has nothing to ask for."""
    source = Path(theme.__file__).parents[2]
    for path in source.rglob("*.py"):
        assert not re.search(r"Q\w*Animation|QTimeLine|UI_Animate", path.read_text()), path
