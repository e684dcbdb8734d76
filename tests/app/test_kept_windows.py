"""Nothing that windows say, offer and answer changes unseen."""

from difflib import unified_diff

import pytest

from tests.kept_windows import FOLDER, WALKS, lines_of


@pytest.mark.parametrize("name", WALKS)
def test_a_window_says_and_does_what_it_did_when_it_was_looked_at(empty, name):
    kept = (FOLDER / f"{name}.txt").read_text().splitlines()
    now = lines_of(name, empty.window)
    assert now == kept, "\n".join(list(unified_diff(kept, now, lineterm="", n=1))[:40])


def test_each_file_is_that_of_a_walk():
    assert {file.stem for file in FOLDER.iterdir()} == set(WALKS)
