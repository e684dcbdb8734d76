"""Large letters of the desktop: nothing that holds words is in fixed pixels, whatever the place."""

import pytest
from PyQt6.QtCore import QEvent
from PyQt6.QtGui import QFont, QFontMetrics
from PyQt6.QtWidgets import QAbstractButton, QApplication, QComboBox, QLabel, QLineEdit

from rhabdos.app.controls import theme
from rhabdos.app.rows.listed_rows import HEADER, ROW
from rhabdos.app.shell.window import Window
from tests.app.conftest import Hands


@pytest.fixture(params=[1.0, 1.5, 2.0])
def lettered(request, qtbot, dressed, monkeypatch):
    """A window whose letters are so many times as large, at a size that a laptop has."""
    usual = QFont(dressed.font())
    monkeypatch.setattr(theme, "_larger", request.param)
    large = QFont(usual)
    large.setPixelSize(round(14 * request.param))
    dressed.setFont(large)
    theme.dress(dressed, theme.LIGHT)
    window = Window()
    window.resize(1366, 768)
    window.show()
    window.session.opening.open_demo()
    qtbot.waitUntil(lambda: window.figure.stage.canvas.painted)
    QApplication.processEvents()
    yield Hands(window, qtbot)
    window.filing.may_close = lambda: True
    window.close()
    window.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    monkeypatch.setattr(theme, "_larger", 1.0)
    dressed.setFont(usual)
    theme.dress(dressed, theme.LIGHT)


def cut(window) -> list[str]:
    """What holds words in sight and is lower than its letters, or narrower than its one word."""
    wrong = []
    for kind in (QLabel, QAbstractButton, QLineEdit, QComboBox):
        for widget in window.findChildren(kind):
            text = widget.currentText() if isinstance(widget, QComboBox) else widget.text()
            if not widget.isVisible() or not text.strip():
                continue
            letters = QFontMetrics(widget.font())
            if widget.height() < letters.ascent() + letters.descent() - 1:
                wrong.append(f"{type(widget).__name__} {text[:30]!r} is {widget.height()} high")
            words = isinstance(widget, QAbstractButton) and widget.objectName() != "swatch"
            if words and " " not in text and widget.width() < letters.horizontalAdvance(text):
                wrong.append(f"{type(widget).__name__} {text[:30]!r} is {widget.width()} wide")
    return wrong


@pytest.mark.parametrize("place", ["figure", "rows", "overview", "chart"])
def test_nothing_in_sight_is_cut(lettered, place):
    window = lettered.window
    if place == "chart":
        window.variable_actions.draw("Bay")
    else:
        window.go_to(place)
    lettered.qtbot.waitUntil(lambda: not cut(window), timeout=2_000)  # once it is laid out
    assert cut(window) == []
    assert window.minimumSizeHint().width() <= 1366


def test_the_panel_of_each_phrase_holds_its_words(lettered):
    from rhabdos.figure.phrases import PHRASES

    for phrase in PHRASES:
        lettered.window.choose_phrase(phrase)
        QApplication.processEvents()
        assert cut(lettered.window.figure.side) == [], phrase


def test_painted_rows_are_as_high_as_their_letters(lettered):
    large = theme.sized(14)
    font = QFont(lettered.window.font())
    font.setPixelSize(large)
    high = QFontMetrics(font).height()
    variables = lettered.window.figure.variables.list
    model = variables.model()
    rows = [variables.sizeHintForIndex(model.index(i, 0)).height() for i in range(3)]
    assert min(rows) >= high
    assert max(rows) >= 1.8 * high
    assert theme.sized(ROW) >= high
    assert theme.sized(HEADER) >= 1.9 * high
    table = lettered.window.figure.foot.table
    assert table.verticalHeader().defaultSectionSize() >= high


def test_the_sentence_breaks_rather_than_being_cut(lettered):
    bar = lettered.window.sentence
    lettered.window.resize(700, 600)
    QApplication.processEvents()
    for button in bar._buttons.values():
        assert button.geometry().right() <= bar.width()
        assert button.geometry().bottom() <= bar.height()
