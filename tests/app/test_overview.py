"""The overview: a card a variable, opened and put right by mouse and keyboard."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from scipy import stats

from rhabdos.app.variables import numbers_list, silhouettes
from rhabdos.data.columns import NumberColumn
from rhabdos.data.table import Table
from rhabdos.figure.output.variable_numbers import TITLES


def overview(hands):
    hands.press("F2")
    cards = hands.window.overview.cards
    hands.qtbot.waitUntil(lambda: all(map(cards.looked_at, cards.columns[:10])), timeout=10_000)
    return cards


def card(cards, name):
    return [column.name for column in cards.columns].index(name)


def test_a_click_on_a_card_draws_its_variable(hands):
    cards = overview(hands)
    assert [c.name for c in cards.columns][:2] == ["Tag", "Bay"]
    place = cards.rect_of(card(cards, "Wet mass")).center()
    QTest.mouseClick(cards.viewport(), Qt.MouseButton.LeftButton, pos=place)
    assert hands.window.place == "figure"
    assert hands.readings.variable.name == "Wet mass"


def test_what_looks_wrong_is_said_and_leads_to_its_facts(hands):
    cards = overview(hands)
    assert "something looks wrong with" in hands.window.overview.summary.text()
    rect = cards.rect_of(card(cards, "Culture"))
    foot = QPoint(rect.center().x(), rect.bottom() - 5)
    QTest.mouseClick(cards.viewport(), Qt.MouseButton.LeftButton, pos=foot)
    assert hands.window.place == "rows"
    assert hands.window.rows_place.facts.column.name == "Culture"


def test_cards_are_walked_and_opened_by_keys(hands):
    cards = overview(hands)
    hands.keys(cards, Qt.Key.Key_Home, Qt.Key.Key_Down, Qt.Key.Key_Right)
    name = cards.columns[cards.grid.across + 1].name
    assert cards.accessibleDescription().startswith(f"{name}, number")
    hands.keys(cards, Qt.Key.Key_Return)
    assert hands.readings.variable.name == name


def test_variables_are_found_by_a_part_of_their_name(hands):
    overview(hands)
    QTest.keyClicks(hands.window.overview.search, "growth")
    assert len(hands.window.overview.cards.columns) == 6
    QTest.keyClicks(hands.window.overview.search, "x")
    assert "No variable" in hands.window.overview.summary.text()


def test_of_a_thousand_variables_only_those_in_sight_are_looked_at(hands, monkeypatch):
    looked = []
    real = silhouettes.silhouette
    monkeypatch.setattr(silhouettes, "silhouette", lambda c: looked.append(c.name) or real(c))
    columns = tuple(NumberColumn(f"v{i}", values=np.arange(50.0)) for i in range(1000))
    overview(hands)
    hands.window.overview.show_table(Table("wide", columns), set())
    cards = hands.window.overview.cards
    hands.qtbot.waitUntil(lambda: cards.looked_at(columns[0]), timeout=5_000)
    assert len(looked) < 60
    cards.verticalScrollBar().setValue(cards.verticalScrollBar().maximum())
    hands.qtbot.waitUntil(lambda: cards.looked_at(columns[-1]), timeout=5_000)
    assert len(looked) < 120
    hands.keys(cards, Qt.Key.Key_Home, Qt.Key.Key_PageDown)
    assert cards.current == 3 * cards.grid.across
    hands.keys(cards, Qt.Key.Key_PageUp, Qt.Key.Key_End)
    assert cards.current == 999


@pytest.fixture
def costs(hands, tmp_path):
    """A file with a long tail, opened."""
    rng = np.random.default_rng(8)
    lines = ["Bay,Cost (€),Mass (g),Nothing"]
    for bay, cost, mass in zip(
        ["Saltmere", "Heron Sound", "Ledge"] * 130,
        np.exp(rng.normal(4, 2.2, 390)).round(4),
        rng.normal(70, 9, 390).round(1),
        strict=True,
    ):
        lines.append(f"{bay},{cost},{mass},")
    (tmp_path / "costs.csv").write_text("\n".join(lines), encoding="utf-8")
    hands.open(tmp_path / "costs.csv")
    return hands.window.session.table


def test_a_long_tail_is_pictured_and_drawn_along_the_axis_that_suits_it(hands, costs):
    cards = overview(hands)
    cost = next(i for i, c in enumerate(cards.columns) if c.label == "Cost")
    assert cards.tail_words(cards.columns[cost]) == "in logs · draw it so"
    assert cards.tail_words(cards.columns[cost + 1]) == ""
    rect = cards.rect_of(cost)
    foot = QPoint(rect.center().x(), rect.bottom() - 5)
    QTest.mouseClick(cards.viewport(), Qt.MouseButton.LeftButton, pos=foot)
    assert hands.window.place == "figure"
    assert hands.recipe.axes.value.scale == "log"
    hands.press("F2")
    hands.keys(cards, Qt.Key.Key_Home, Qt.Key.Key_Right)
    hands.keys(cards, (Qt.Key.Key_Return, Qt.KeyboardModifier.NoModifier))
    assert hands.readings.variable.label == "Cost"


def test_the_first_look_of_the_facts_offers_that_axis_too(hands, costs):
    window, so = hands.window, "in logs · draw it so"
    hands.press("F3")
    facts = window.rows_place.facts
    names = {column.label: column.name for column in costs.columns}
    for label, words in (("Cost", so), ("Mass", ""), ("Cost", so)):
        window.rows_place.choose(names[label])
        hands.qtbot.waitUntil(lambda: facts.look.shape is not None, timeout=5_000)
        assert facts.along.text() == words
        assert facts.along.isVisible() == bool(words)
    QTest.keyClick(facts.along, Qt.Key.Key_Space)
    assert window.place == "figure"
    assert (hands.readings.variable.label, hands.recipe.axes.value.scale) == ("Cost", "log")
    hands.press("F3")
    window.rows_place.choose(names["Mass"])
    QTest.keyClick(facts.look, Qt.Key.Key_Return)
    assert (window.place, hands.readings.variable.label) == ("figure", "Mass")


def numbers(hands):
    hands.press("F2")
    place = hands.window.overview
    QTest.mouseClick(place.numbers, Qt.MouseButton.LeftButton)
    hands.qtbot.waitUntil(lambda: place.list.isVisible() and place.list.complete, timeout=10_000)
    return place.list


def column_of(listed, name):
    section = TITLES.index(name)
    model = listed.model()
    return [model.index(row, section).data() for row in range(model.rowCount())]


def test_the_numbers_of_all_variables_are_those_of_numpy(hands, costs):
    listed = numbers(hands)
    names = column_of(listed, "Variable")
    assert names == ["Bay", "Cost (€)", "Mass (g)", "Nothing"]
    mass = costs.column("Mass").values
    row = names.index("Mass (g)")
    expected = {
        "n": len(mass), "Mean": mass.mean(), "sd": mass.std(ddof=1), "Min": mass.min(),
        "Q1": np.percentile(mass, 25), "Median": np.median(mass), "Q3": np.percentile(mass, 75),
        "Max": mass.max(), "Skew": stats.skew(mass, bias=False),
    }  # fmt: skip
    for title, number in expected.items():
        written = float(column_of(listed, title)[row].replace("−", "-"))
        assert written == pytest.approx(number, abs=0.06 if title != "Skew" else 0.006), title
    assert column_of(listed, "Levels") == ["3", "", "", ""]
    assert column_of(listed, "Missing")[3] == "390"
    assert column_of(listed, "Mean")[3] == ""


def test_a_click_on_a_heading_sorts_and_what_has_no_number_comes_last(hands, costs):
    listed = numbers(hands)
    heads = listed.horizontalHeader()
    section = TITLES.index("Mean")
    place = QPoint(heads.sectionViewportPosition(section) + 8, heads.height() // 2)
    QTest.mouseClick(heads.viewport(), Qt.MouseButton.LeftButton, pos=place)
    assert column_of(listed, "Variable")[:2] == ["Mass (g)", "Cost (€)"]
    QTest.mouseClick(heads.viewport(), Qt.MouseButton.LeftButton, pos=place)
    assert column_of(listed, "Variable")[:2] == ["Cost (€)", "Mass (g)"]
    assert set(column_of(listed, "Mean")[2:]) == {""}


def test_rows_of_the_list_are_copied_as_cells_and_a_name_draws_its_variable(hands, costs):
    listed = numbers(hands)
    listed.selectRow(1)
    hands.keys(listed, (Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier))
    lines = QGuiApplication.clipboard().text().splitlines()
    assert lines[0].split("\t") == list(TITLES)
    assert len(lines) == 2
    cells = lines[1].split("\t")
    assert cells[0] == "Cost (€)"
    assert float(cells[TITLES.index("Max")]) > 1000
    place = listed.visualRect(listed.model().index(2, 0)).center()
    QTest.mouseClick(listed.viewport(), Qt.MouseButton.LeftButton, pos=place)
    assert hands.window.place == "figure"
    assert hands.readings.variable.label == "Mass"


def test_a_long_variable_is_summed_up_beside_the_window(hands, costs, monkeypatch):
    monkeypatch.setattr(numbers_list, "_AT_ONCE_ROWS", 10)
    listed = numbers(hands)
    assert column_of(listed, "Mean")[2] != "…"
    hands.window.overview.search.setFocus()
    QTest.keyClicks(hands.window.overview.search, "mas")
    assert column_of(listed, "Variable") == ["Mass (g)"]


def test_cards_that_are_gone_are_heard_no_more(hands):
    """A screen reader may ask before the list that it reads is made anew."""
    cards = overview(hands)
    heard = cards.heard.model()
    hands.qtbot.waitUntil(lambda: heard.rowCount() == len(cards.columns))
    last = heard.index(heard.rowCount() - 1, 0)
    assert last.data()
    assert cards.heard.visualRect(last).isValid()
    assert cards.heard.geometry() == cards.viewport().rect()
    QTest.keyClicks(hands.window.overview.search, "growth")
    assert heard.index(0, 0).data().startswith("Growth week 1, number")
    assert last.data() is None
    assert not cards.heard.visualRect(last).isValid()
