"""Nothing that windows say, offer and answer changes unseen."""

from difflib import unified_diff

import pytest

from tests.kept_figures import differing
from tests.kept_windows import FOLDER, WALKS, seen_on

_LATER, _LONG = ("figure-109", "figure-309"), [pytest.mark.long]
"""Of walks over a random figure, a test of minutes takes one."""
_NEAR, _SHARE = 1.5, 0.02
"""Pixels that fonts of another machine may move what is painted by, and the share of a width."""


@pytest.mark.parametrize(
    "name", [pytest.param(name, marks=_LONG * (name in _LATER)) for name in WALKS]
)
def test_a_window_says_and_does_what_it_did_when_it_was_looked_at(
    empty, name, tmp_path, monkeypatch
):
    for kept in ("XDG_STATE_HOME", "XDG_CONFIG_HOME"):  # what the walk keeps is its own
        monkeypatch.setenv(kept, str(tmp_path))
    kept = (FOLDER / f"{name}.txt").read_text().splitlines()
    looked = (FOLDER / f"{name}.looks").read_text().splitlines()
    now, looks = seen_on(name, empty.window)
    told = "\n".join(list(unified_diff(kept, now, lineterm="", n=1))[:40])
    assert not differing(kept, now, _NEAR, _SHARE), told
    if looks[0] != looked[0]:
        pytest.skip("letters are drawn in another way here, so that looks are not compared")
    other = [look for look, was in zip(looks, looked, strict=True) if look != was]
    assert not other, "\n".join(other[:40])


def test_each_file_is_that_of_a_walk():
    assert {file.stem for file in FOLDER.iterdir()} == set(WALKS)
