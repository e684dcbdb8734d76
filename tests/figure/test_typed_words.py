"""Words that are typed over in the figure: what each is, and what taking it away leaves."""

import pytest

from rhabdos.figure.edits.typed_words import words_at
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.recipe import Legend
from tests.conftest import asking, set_of

TWO = ([1.0, 2.0, 4.0], [2.0, 3.0, 5.0])


def reading(**parts):
    return read(asking(width=1.0).showing(split=("Bay",)).changed(**parts), set_of(*TWO))


def test_a_level_is_called_otherwise_until_that_is_taken_away():
    readings = reading()
    typed = words_at(readings, "legend", "A")
    assert (typed.present, typed.step) == ("A", "Call A otherwise")
    renamed = read(typed.changed("Heron"), set_of(*TWO))
    assert renamed.recipe.words.names == {"A": "Heron"}
    assert words_at(renamed, "legend", "A").present == "Heron"
    for gone in ("", "A"):
        assert words_at(renamed, "legend", "A").changed(gone).words.names == {}
    assert words_at(renamed, "legend", "B").changed("Spit").words.names == {
        "A": "Heron",
        "B": "Spit",
    }


@pytest.mark.parametrize(("title", "shown"), [(None, "Bay"), ("Where", "Where"), ("", "")])
def test_the_title_of_a_legend_is_that_of_its_variable_unless_it_is_typed(title, shown):
    typed = words_at(reading(legend=Legend(title=title)), "legend-title", None)
    assert typed.present == shown
    assert typed.changed("Cove").legend.title == "Cove"


def test_what_is_no_word_is_typed_over_nowhere():
    readings = reading()
    assert words_at(readings, "bars", None) is None
    assert words_at(readings, "range", "0") is None
    assert words_at(readings, "text", "0") is None
