"""A random hand in the real window: no act of it fails, and what is shown is what the recipe says."""

import pytest

from tests.conftest import one_in
from tests.fuzzing_window import faults_of, what_differs


@pytest.mark.slow
@pytest.mark.parametrize("seed", one_in(2, range(1, 7)))
def test_no_act_of_a_random_hand_fails_and_what_is_shown_is_what_is_recorded(
    empty, tmp_path, monkeypatch, seed
):
    monkeypatch.chdir(tmp_path)  # where names that are typed without a folder lead
    assert not faults_of(empty.window, tmp_path, 80, seed)


def test_a_figure_that_is_painted_or_told_otherwise_is_found(hands):
    window = hands.window
    assert not what_differs(window)
    kept = window.figure.stage.canvas.scene
    window.session.preview(hands.recipe.binned(hands.recipe.bins.changed(width=17.0)))
    other = window.figure.stage.canvas.scene
    window.session.end_preview()
    window.figure.stage.canvas.scene = other
    assert any("area" in fault for fault in what_differs(window))
    window.figure.stage.canvas.scene = kept
    window.sentence.setAccessibleDescription("Something else")
    assert any("sentence" in fault for fault in what_differs(window))
