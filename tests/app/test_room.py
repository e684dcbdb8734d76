"""Panels fit in the room beside the figure and the rows, whatever names they hold."""

import pytest
from PyQt6.QtWidgets import QApplication

from rhabdos.app.rows.steps_panel import ADDING
from rhabdos.figure.phrases import PHRASES

LONG = "a level whose name is far longer than any column of settings is wide"


@pytest.fixture
def long_names(empty, tmp_path):
    lines = [f"{LONG} and it is a factor,{LONG} and it is a number,Other"]
    lines += [f"{LONG} {i % 4},{(i * 37) % 101},{i % 7}" for i in range(120)]
    (tmp_path / "long.csv").write_text("\n".join(lines))
    empty.open(tmp_path / "long.csv")
    empty.click_variable(f"{LONG} and it is a number")
    recipe = empty.recipe
    split = (f"{LONG} and it is a factor",)
    forms = ("bars", "curve", "box", "points")
    empty.window.session.ask("Split", recipe.showing(split=split, forms=forms))
    return empty


@pytest.mark.parametrize("key", PHRASES)
def test_settings_are_no_wider_than_their_room(long_names, key):
    panel = long_names.panel(key)
    QApplication.processEvents()
    area = panel.parentWidget()
    assert panel.minimumSizeHint().width() <= area.width(), key


@pytest.mark.parametrize("kind", [kind for kind, _ in ADDING])
def test_steps_are_no_wider_than_their_room(long_names, kind):
    long_names.press("F3")
    place = long_names.window.rows_place
    place.begin(kind)
    QApplication.processEvents()
    assert place.form is not None
    assert place.form.minimumSizeHint().width() <= place.form.parentWidget().width()
