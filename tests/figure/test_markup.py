"""Markup in words, read letter by letter; and placeholders, against the data itself."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.figure.words.markup import Run, greek, plain_text, runs_of, unknown
from rhabdos.figure.words.placeholders import NAMES, not_standing, stands_in
from tests.conftest import asking, set_of


@pytest.mark.parametrize(
    ("text", "runs"),
    [
        ("plain", [Run("plain")]),
        ("", []),
        ("m{up 2}", [Run("m"), Run("2", level=1)]),
        ("H{down 2}O", [Run("H"), Run("2", level=-1), Run("O")]),
        ("{slant Ostrea edulis}, wild", [Run("Ostrea edulis", slant=True), Run(", wild")]),
        ("{bold {slant a} b}", [Run("a", bold=True, slant=True), Run(" b", bold=True)]),
        ("{up {slant n}}x", [Run("n", slant=True, level=1), Run("x")]),
        ("{mu}m", [Run("μm")]),
        ("{Sigma}{sigma}", [Run("Σσ")]),
        ("{up {mu}}", [Run("μ", level=1)]),
        ("{{n}}", [Run("{n}")]),
        ("a } b", [Run("a } b")]),
        ("{", [Run("{")]),
        ("{up", [Run("{up")]),
        ("{up 2", [Run("{up 2")]),
        ("{nothing}", [Run("{nothing}")]),
        ("{}", [Run("{}")]),
        ("a\n{bold b}", [Run("a\n"), Run("b", bold=True)]),
    ],
)
def test_markup_says_how_letters_are_set(text, runs):
    assert runs_of(text) == runs


@given(st.text(alphabet="{}up dnslat 2\n", max_size=40))
def test_no_text_is_lost_or_fails(text):
    written = plain_text(text)
    kept = [letter for letter in text if letter not in "{} \n"]
    assert len([c for c in written if c not in "{} \n"]) <= len(kept)
    if "{" not in text and "}" not in text:
        assert written == text


@pytest.mark.parametrize(
    ("name", "letter"), [("alpha", "α"), ("Omega", "Ω"), ("lambda", "λ"), ("mu", "μ"), ("m", None)]
)
def test_greek_letters_are_called_by_their_names(name, letter):
    assert greek(name) == letter


def figure(**words) -> object:
    recipe = Recipe(show=Show(variables=("Length",), split=("Bay",)))
    return read(recipe.worded(**words), set_of([1.0, 2, 3, 10], [4.0, 6, np.nan]))


@pytest.mark.parametrize(
    ("name", "shown"),
    [
        ("n", "6"), ("missing", "1"), ("mean", "4.33"), ("median", "3.50"), ("min", "1.00"),
        ("max", "10.00"), ("n of A", "4"), ("mean of B", "5.00"), ("median of a", "2.50"),
        ("missing of B", "1"), ("variable", "Length"), ("unit", "mm"), ("rows", "7"),
        ("mean of Nowhere", None), ("spring", None),
    ],
)  # fmt: skip
def test_placeholders_stand_for_what_the_data_hold(name, shown):
    answer = stands_in(figure())(name)
    assert answer == shown or (shown and float(answer) == pytest.approx(float(shown)))


def test_a_mean_is_written_as_its_own_variable_is():
    days = DateColumn("Landed", values=np.array([20_510.0, 20_512.0]))
    table = Table("t", (NumberColumn("Length", values=np.array([1.0, 2.0])), days))
    names = ("Length", "Landed")
    stands = stands_in(read(Recipe(show=Show(variables=names)), gather(table, names)))
    assert (stands("mean of Landed"), stands("sd of Landed")) == ("2026-02-27", "1.4 d")


def test_every_placeholder_stands_for_something():
    stands = stands_in(figure())
    assert all(stands(name) is not None for name in NAMES)


def test_what_stands_for_nothing_is_told():
    readings = figure(title="{n} shells of {spring}", note="{mu} {up 2}")
    assert not_standing(readings) == ["spring"]
    told = [n.text for n in notices(readings) if n.code == "words-stand-for-nothing"]
    assert len(told) == 1
    assert "“{spring}”" in told[0]
    assert unknown("{{n}} {up {x}}", lambda _name: None) == ["x"]
    assert not_standing(read(asking(), set_of([1.0, 2.0]))) == []
