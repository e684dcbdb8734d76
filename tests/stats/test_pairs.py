"""Quantiles in pairs and values in a range, against SciPy and sorting."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as scipy_stats

from rhabdos.figure.forms.read import read
from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.recipe.recipe import Check, Compare
from rhabdos.figure.recipe.toml_text import RecipeError, read_recipe
from rhabdos.stats.pairs import beside, beside_normal
from tests.conftest import asking, sample_of, set_of

lists = st.lists(st.floats(-1e3, 1e3).map(lambda v: round(v, 2)), min_size=2, max_size=40)


@given(lists.filter(lambda v: len(set(v)) > 1))
def test_values_stand_beside_the_normal_quantiles_of_their_ranks(values):
    found = beside_normal(sample_of(values))
    assert found.y.tolist() == pytest.approx(sorted(values))
    shares = (np.arange(len(values)) + 0.5) / len(values)
    expected = scipy_stats.norm.ppf(shares, np.mean(values), np.std(values, ddof=1))
    assert found.x.tolist() == pytest.approx(expected.tolist(), abs=1e-6)


@given(lists, lists)
def test_two_samples_stand_beside_one_another_at_the_shares_of_the_smaller(ours, theirs):
    found = beside(sample_of(ours), sample_of(theirs))
    size = min(len(ours), len(theirs))
    shares = (np.arange(size) + 0.5) / size
    for side, values in ((found.y, ours), (found.x, theirs)):
        assert side.tolist() == pytest.approx(
            np.quantile(values, shares, method="hazen").tolist(), abs=1e-9
        )


def test_long_samples_keep_512_pairs_and_too_short_ones_have_none():
    assert len(beside_normal(sample_of(np.arange(9000.0))).x) == 512
    assert (
        len(beside_normal(sample_of([1.0])).x) == len(beside_normal(sample_of([2.0, 2.0])).x) == 0
    )
    assert len(beside(sample_of([]), sample_of([1.0])).x) == 0


def test_pairs_and_ranges_are_printed_where_they_are_asked_for():
    samples = set_of([1.0, 2, 3, 4], [2.0, 2, 9])
    recipe = (
        asking()
        .showing(split=("Bay",))
        .changed(check=Check(pairs=True, range=(2.0, 4.0)), compare=Compare("A"))
    )
    found = numbers_data(read(recipe, samples))
    assert [(one["sample"], one["beside"]) for one in found["pairs"]] == [
        ("A", "normal"),
        ("B", "normal"),
        ("B", "A"),
    ]
    assert [(one["sample"], one["n"], one["share"]) for one in found["range"]] == [
        ("A", 3, 0.75),
        ("B", 2, 2 / 3),
    ]
    assert "range" not in numbers_data(read(recipe.changed(check=Check()), samples))


def test_a_range_that_falls_is_refused_with_its_path():
    with pytest.raises(
        RecipeError, match=r"check\.range is \[5, 2\]\. Two finite numbers must rise"
    ):
        read_recipe('rhabdos = 1\n[show]\nvariables = ["a"]\n[check]\nrange = [5, 2]')
