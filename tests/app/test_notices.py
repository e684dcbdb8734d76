"""Every notice comes up in the window when its reason does, and goes with it."""

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel

from rhabdos.figure.recipe.recipe import Curves, Recipe, Show
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.figure.words.notice import Notice

rng = np.random.default_rng(3)
NORMAL = rng.normal(70, 8, 300).round(2).tolist()
HUMPS = np.concatenate([rng.normal(20, 1, 500), rng.normal(30, 1, 500)]).round(3).tolist()
TIED = [5.0] * 80 + rng.normal(5, 2, 20).round(2).tolist()


def rows(*columns):
    return [",".join(str(field) for field in row) for row in zip(*columns, strict=True)]


def groups(*sizes):
    return [name for name, size in zip("ABC", sizes, strict=False) for _ in range(size)]


def asked(split=(), forms=("bars",), weight=None, heights="count", bins=None, curve=None):
    show = Show(variables=("v",), split=split, forms=forms, weight=weight, heights=heights)
    return Recipe(show=show, bins=bins or Bins(), curve=curve or Curves())


# The column or columns of a file, the recipe that has the trouble, and what is told.
CASES = {
    "hidden-values": (
        rows(NORMAL),
        asked(bins=Bins(width=4.0, start=70.0)),
        "lie outside the bins",
    ),
    "unequal-bins": (
        rows(NORMAL),
        asked(bins=Bins(edges=(0.0, 60.0, 200.0))),
        "The bins are unequal",
    ),
    "missing-code": (rows(NORMAL + [-9] * 5), asked(), "exactly −9"),
    "ungrouped-values": (
        rows(NORMAL, [*groups(150, 149), ""]),
        asked(split=("g",)),
        "has no g and is in no group",
    ),
    "unweighted-rows": (
        rows(NORMAL, [2] * 299 + [""]),
        asked(weight="g"),
        "1 row has no g and is left out",
    ),
    "empty-groups": (
        rows([*NORMAL, "", ""], groups(150, 150, 2)),
        asked(split=("g",)),
        "No values in C",
    ),
    "small-groups": (
        rows([*NORMAL, 70, 71], groups(150, 150, 2)),
        asked(split=("g",)),
        "Too few values to show a shape",
    ),
    "unequal-n": (
        rows(NORMAL, groups(250, 50)),
        asked(split=("g",)),
        "heights show size as well as shape",
    ),
    "heaped-values": (
        rows((5 * np.round(np.array(NORMAL) / 5)).tolist()),
        asked(bins=Bins(width=7.0)),
        "multiples of 5",
    ),
    "too-few-bins": (rows(HUMPS), asked(bins=Bins(width=20.0)), "shows 2 peaks in bins"),
    "past-bound": (
        rows(rng.exponential(3, 400).round(3).tolist()),
        asked(forms=("bars", "curve")),
        "below 0, where no",
    ),
    "no-curve": (
        rows([*NORMAL, 5.0, 5.0], groups(150, 150, 2)),
        asked(split=("g",), forms=("bars", "curve")),
        "No curve of C",
    ),
    "bandwidth-instead": (
        rows(np.round(rng.normal(50, 9, 600) / 5).tolist()),
        asked(forms=("bars", "curve"), curve=Curves(bandwidth="improved-sheather-jones")),
        "Silverman’s is used there",
    ),
    "fine-curve": (
        rows([*NORMAL, 1e6]),
        asked(forms=("bars", "curve"), bins=Bins(count=9)),
        "finer than a page shows",
    ),
    "bins-limited": (
        rows([*NORMAL, 1e7]),
        asked(bins=Bins(rule="freedman-diaconis")),
        "more bins than can be told apart",
    ),
    "rule-instead": (
        rows(TIED),
        asked(bins=Bins(rule="freedman-diaconis")),
        "Scott’s rule is used",
    ),
    "infinite": (rows(["2.5", "3", "4", "inf"]), asked(), "1 infinite value, counted as missing"),
}


def told(hands):
    """The texts of all notices: of one alone, or of the list that a click opens."""
    strip = hands.window.figure.foot.notices
    if not strip.isVisible():
        return []
    if not strip.more.isVisible():
        return [strip.text.text()]
    QTest.mouseClick(strip.more, Qt.MouseButton.LeftButton)
    listed, corner = strip.listed, strip.mapToGlobal(strip.rect().topRight())
    over = listed.x() + listed.width() - 1, listed.y() + listed.height() + 2
    there = max(corner.x(), listed.width() - 1), max(corner.y(), listed.height() + 2)
    assert over == pytest.approx(there, abs=2)  # the frame that a platform reckons with
    texts = [label.text() for label in strip.listed.findChildren(QLabel)]
    assert strip.text.text() in texts
    assert strip.more.text() == f"All {len(texts)}"
    strip.listed.close()
    return texts


@pytest.mark.parametrize("code", CASES)
def test_a_notice_comes_up_and_goes_with_its_reason(empty, tmp_path, code):
    lines, recipe, words = CASES[code]
    path = tmp_path / "case.csv"
    path.write_text("\n".join(["v,g" if "," in lines[0] else "v", *lines]) + "\n")
    empty.open(path)
    empty.window.session.ask("Show the case", recipe)
    assert any(words in text for text in told(empty)), told(empty)
    assert any(
        words in notice.text and notice.code == code for notice in empty.window.session.notices
    )
    empty.window.session.opening.open_demo()
    assert told(empty) == []


def test_a_code_is_counted_as_missing_by_one_click_and_undone(hands):
    hands.click_variable("Water temperature")
    strip = hands.window.figure.foot.notices
    before = hands.readings.variable.missing
    if strip.more.isVisible():
        QTest.mouseClick(strip.more, Qt.MouseButton.LeftButton)
        cures = {button.text(): button for button in strip.listed.cures.values()}
    else:
        cures = {strip.cure.text(): strip.cure}
    QTest.mouseClick(cures["Count −9 as missing"], Qt.MouseButton.LeftButton)
    assert hands.readings.variable.missing > before
    assert hands.readings.samples.pooled.minimum > -9
    assert hands.window.menus.undo.iconText() == "Undo Count −9 as missing"
    assert "−9" in hands.panel("variable").facts.text()
    hands.press("Ctrl+Z")
    assert hands.readings.variable.missing == before
    assert hands.readings.samples.pooled.minimum == -9
    hands.press("Ctrl+Shift+Z")
    hands.window.session.ask("Shell length", hands.recipe.showing(variables=("Shell length",)))
    hands.click_variable("Water temperature")  # which stays prepared
    assert hands.readings.samples.pooled.minimum > -9


def test_the_list_has_all_notices_whole_and_the_gravest_first(hands, tmp_path):
    path = tmp_path / "two.csv"
    path.write_text(
        "v,g\n" + "\n".join(f"{i % 7}.5,{'ab'[i % 11 == 0]}" for i in range(60)) + "\n-9,a\n"
    )
    hands.open(path)
    hands.window.session.ask(
        "Draw", hands.recipe.showing(split=("g",), forms=("bars",), heights="count")
    )
    strip = hands.window.figure.foot.notices
    assert strip.more.isVisible()
    QTest.mouseClick(strip.more, Qt.MouseButton.LeftButton)
    weights = [notice.weight for notice in hands.window.figure.stage.notices]
    assert weights == sorted(weights)
    labels = strip.listed.findChildren(QLabel)
    assert len(labels) == len(told(hands)) > 1
    for label in labels:
        assert label.heightForWidth(label.width()) <= label.height()  # nothing is cut
    QTest.keyClick(strip.listed, Qt.Key.Key_Escape)


def test_a_long_tail_is_shown_in_logs_by_one_click_and_the_other_ways_stand_beside(hands, tmp_path):
    costs = np.exp(rng.normal(4, 2.2, 400)).round(3)
    (tmp_path / "c.csv").write_text("Cost\n" + "\n".join(map(str, costs.tolist())))
    hands.open(tmp_path / "c.csv")
    strip = hands.window.figure.foot.notices
    assert strip.text.text().startswith("Three quarters of the values lie in")
    shown = [button for button in strip.cures if button.isVisible()]
    assert shown[0].text() == "Show them in logs"
    assert {b.text() for b in shown[1:]} == {"In square roots", "The middle 98 %"}
    QTest.mouseClick(shown[0], Qt.MouseButton.LeftButton)
    assert hands.recipe.axes.value.scale == "log"
    assert "in logs" in hands.sentence()
    hands.press("Ctrl+Z")
    QTest.mouseClick(strip.cures[2], Qt.MouseButton.LeftButton)
    assert hands.recipe.axes.value.scale != "log"


def test_a_notice_without_room_gives_way_to_its_cures(hands):
    strip = hands.window.figure.foot.notices
    hands.window.resize(1024, 700)
    cure = (hands.recipe, "draw it otherwise, in a way that has a long name")
    strip.show_notices(
        (Notice("long", "A long story of a figure. " * 20, *cure), Notice("b", "B."))
    )
    QApplication.processEvents()
    assert strip.geometry().right() <= strip.parentWidget().width()
    assert strip.more.geometry().right() <= strip.width()
    assert strip.cure.geometry().right() < strip.more.x()
    assert strip.text.width() >= 40
    whole = strip.text.fontMetrics().horizontalAdvance(strip.text.text())
    assert strip.text.minimumSizeHint().width() < 100 < whole  # it never asks for all of it
    with_dots, cut = strip.text.grab().toImage(), QLabel(strip.text.text())
    cut.setObjectName("noticeText")
    cut.resize(strip.text.size())
    assert with_dots != cut.grab().toImage()
