"""Names in scripts that run from right to left, in sentences that run from left to right."""

import unicodedata

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.seen import all_seen
from rhabdos.figure.phrases.sentence import plain, sentence
from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.quoting import brief, listed, printable, quoted, set_apart
from rhabdos.scene.build import build
from rhabdos.scene.marks import Text

_NAMES = ("مفرص الشمال 3", "חוף (ים)", "Ebba")


def _measure(text, size, _bold):
    return 0.5 * size * len(text)


def _outside(text):
    """What of a text stands in no isolate; whoever reads it from the left sees that in order."""
    depth, kept = 0, ""
    for letter in text:
        if letter == "\u2068":
            depth += 1
        elif letter == "\u2069":
            depth -= 1
            assert depth >= 0, text
        elif not depth:
            kept += letter
    assert depth == 0, text
    return kept


def _runs_left_to_right(text):
    outside = _outside(text)
    return not any(unicodedata.bidirectional(letter) in ("R", "AL", "AN") for letter in outside)


@pytest.fixture
def readings():
    chance = np.random.default_rng(4)
    codes = chance.integers(0, 3, 400).astype(np.int16)
    table = Table(
        "landings",
        (
            NumberColumn("אורך", "אורך", "mm", values=chance.normal(70, 9, 400)),
            CategoryColumn("מפרץ", codes=codes, levels=_NAMES),
        ),
    )
    recipe = Recipe(show=Show(variables=("אורך",), split=("מפרץ",), heights="percent"))
    return read(recipe, gather(table, ("אורך",), ("מפרץ",)))


def test_a_name_of_another_direction_is_set_apart_and_others_are_not():
    for name in _NAMES[:2]:
        assert set_apart(name) == f"\u2068{name}\u2069"
        assert set_apart(set_apart(name)) == set_apart(name)
        assert _runs_left_to_right(f"In {quoted(name)} 23 values are −9, {brief(name)} (4).")
        assert printable(f"  {brief(name)}\x07") == f"  \u2068{name}\u2069␇"
    assert set_apart("Ebba 3") == "Ebba 3"
    assert set_apart("Ångström μ 3") == "Ångström μ 3"
    assert _runs_left_to_right(listed(list(_NAMES)))


def test_a_name_cannot_end_the_setting_apart_by_itself():
    hostile = "חוף\u2069 4 mm \u202efrom\u2068 40"
    for text in (brief(hostile), quoted(hostile)):
        assert _runs_left_to_right(text)
        assert "\u202e" not in text
    assert "\u202e" not in printable(f"\u2068{hostile}\u2069")


def test_sentences_of_a_figure_keep_their_order(readings):
    said = plain(readings)
    assert _runs_left_to_right(said)
    assert "mm wide from" in said
    for fragment in sentence(readings):
        assert _runs_left_to_right(set_apart(fragment.text))
    for notice in notices(readings):
        assert _runs_left_to_right(notice.text), notice.text
    for seen in all_seen(readings):
        assert _runs_left_to_right(seen.text), seen.text
    assert all_seen(readings)


def test_words_in_the_figure_that_hold_a_name_and_a_number_keep_their_order(readings):
    texts = [mark.text for mark in build(readings, _measure).marks if isinstance(mark, Text)]
    mixed = [text for text in texts if any(name in text for name in ("n = ", "(mm)"))]
    assert len(mixed) >= 3
    for text in mixed:
        assert _runs_left_to_right(text), text
