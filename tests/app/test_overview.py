"""The overview: a card a variable, opened and put right by mouse and keyboard."""

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from rhabdos.app.variables import silhouettes
from rhabdos.data.columns import NumberColumn
from rhabdos.data.table import Table


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
