"""Rows that stand for several cases: the same numbers as rows written out."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhabdos.data import gathering
from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.samples import Weighted
from rhabdos.data.table import Table, VariableError
from rhabdos.figure.edits.stops import card_of, rows_of_stops
from rhabdos.figure.forms.box import named_beyond
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.recipe.recipe import Boxes, Recipe, Show
from rhabdos.figure.recipe.recipe_bins import Bins

rows = st.lists(
    st.tuples(
        st.floats(-1e6, 1e6).map(lambda v: round(v, 2)), st.integers(0, 9), st.integers(0, 1)
    ),
    min_size=3,
    max_size=40,
).filter(lambda found: all(sum(w for _, w, g in found if g == group) > 1 for group in (0, 1)))
RANKED = ("n", "missing", "min", "q1", "median", "q3", "max", "iqr", "mad")
FORMS = ("bars", "polygon", "curve", "normal", "ecdf", "box")


def table_of(values, weights, groups):
    return Table(
        "catch",
        (
            NumberColumn("Length", values=np.array(values, dtype=float)),
            NumberColumn("Cases", values=np.array(weights, dtype=float)),
            CategoryColumn("Bay", codes=np.array(groups, dtype=np.int8), levels=("A", "B")),
        ),
    )


def numbers_of(table, weight=None, forms=FORMS):
    recipe = Recipe(
        show=Show(variables=("Length",), split=("Bay",), forms=forms, weight=weight),
        bins=Bins(count=7),
    )
    found = numbers_data(read(recipe, gather(table, "Length", "Bay", weight=weight)))
    for box in found.get("boxes", ()):
        del box["beyond_rows"], box["far_rows"]  # which are of the table that was given
    return found


def test_a_row_beyond_the_whiskers_is_named_as_often_as_it_counts():
    weighed = table_of([1.0, 90.0, 2.0, 3.0, -50.0], [5, 2, 6, 5, 0], [0, 0, 0, 0, 0])
    recipe = Recipe(show=Show(variables=("Length",), forms=("box",), weight="Cases"))
    (box,) = numbers_data(read(recipe, gather(weighed, "Length", weight="Cases")))["boxes"]
    assert (box["far"], box["far_rows"]) == ([90, 90], [2, 2])
    assert (box["beyond"], box["beyond_rows"]) == ([], [])


def spread_out(found):
    return [
        np.repeat([row[part] for row in found], [row[1] for row in found]) for part in (0, 1, 2)
    ]


def is_drawable(found):
    values, _, groups = spread_out(found)
    return all(len(set(values[groups == group])) > 1 for group in (0, 1))


@given(rows.filter(is_drawable))
def test_a_row_of_weight_w_is_w_rows_to_the_last_digit(found):
    weighed = table_of(*zip(*found, strict=True))
    assert numbers_of(weighed, "Cases") == numbers_of(table_of(*spread_out(found)))


@given(rows.filter(is_drawable))
def test_too_many_cases_to_write_out_give_the_same_numbers(found):
    weighed = table_of(*zip(*found, strict=True))
    expected = numbers_of(table_of(*spread_out(found)), forms=("bars", "box", "ecdf"))
    most = gathering._MOST_REPEATED
    gathering._MOST_REPEATED = 0
    try:
        samples = gather(weighed, "Length", "Bay", weight="Cases")
        found_numbers = numbers_of(weighed, "Cases", ("bars", "box", "ecdf"))
    finally:
        gathering._MOST_REPEATED = most
    assert all(isinstance(sample, Weighted) for sample in samples.samples)
    assert found_numbers["bins"] == expected["bins"]
    for ours, theirs in zip(found_numbers["samples"], expected["samples"], strict=True):
        assert {k: ours[k] for k in RANKED}.items() <= theirs.items()
        assert ours["mean"] == pytest.approx(theirs["mean"], rel=1e-13, abs=1e-8)
        assert ours["trimmed_mean"] == pytest.approx(theirs["trimmed_mean"], rel=1e-13, abs=1e-8)
        assert ours["sd"] == pytest.approx(theirs["sd"], rel=1e-9)
        assert ours["skewness"] == pytest.approx(theirs["skewness"], abs=1e-7)
        assert ours["kurtosis"] == pytest.approx(theirs["kurtosis"], abs=1e-7)
    for ours, theirs in zip(found_numbers["boxes"], expected["boxes"], strict=True):
        assert {k: v for k, v in ours.items() if k != "mean"}.items() <= theirs.items()
    assert [c["x"] for c in found_numbers["curves"]] == [c["x"] for c in expected["curves"]]


def test_a_billion_cases_are_summarised_without_writing_them_out():
    weighed = table_of([1.0, 2.0, 3.0, 4.0], [10**9, 2 * 10**9, 10**9, 5], [0, 0, 0, 1])
    first = numbers_of(weighed, "Cases", ("bars", "box"))["samples"][0]
    assert (first["n"], first["mean"], first["median"], first["q1"]) == (4 * 10**9, 2.0, 2.0, 1.75)
    assert first["sd"] == pytest.approx(0.5**0.5)


def test_rows_of_many_cases_beyond_whiskers_are_named_with_them():
    weighed = table_of([*range(60), 200.0, 900.0], [*[10**7] * 60, 3, 7 * 10**7], [0] * 62)
    show = Show(variables=("Length",), forms=("box",), weight="Cases")
    box = Boxes(names="row", whiskers=(25.0, 75.0))
    readings = read(Recipe(show=show, box=box), gather(weighed, "Length", weight="Cases"))
    spoken = card_of(readings, rows_of_stops(readings)[0][0]).spoken()
    assert "farthest out: row 62, 70,000,000 cases: 900; row 61, 3 cases: 200; row 1," in spoken
    assert spoken.count(", .") == 0
    assert [each.row for each in named_beyond(readings, 0, 3)] == [61, 60, 0]
    (found,) = numbers_data(readings)["boxes"]  # of so many cases each row is there once
    rows, low, high = [*range(60), 200, 900], found["whisker_low"], found["whisker_high"]
    assert found["beyond"] + found["far"] == [v for v in rows if not low <= v <= high]


def test_rows_without_a_weight_or_a_value_are_counted_and_told():
    weighed = table_of([1.0, np.nan, 3.0, 4.0], [2, 3, np.nan, 1], [0, 0, 1, 1])
    weighed.column("Length").missing_as["blank"] = 1
    weighed.column("Cases").missing_as["blank"] = 1
    recipe = Recipe(show=Show(variables=("Length",), split=("Bay",), weight="Cases"))
    readings = read(recipe, gather(weighed, "Length", "Bay", weight="Cases"))
    assert [(group.n, group.missing) for group in readings.groups] == [(2, 3), (1, 0)]
    told = {notice.code: notice.text for notice in notices(readings)}
    assert told["unweighted-rows"] == "1 row has no Cases and is left out."
    assert "of every row that has one, counted by Cases" in plain(readings)


@pytest.mark.parametrize(
    ("weights", "words"),
    [
        ([1, -3, 1], "row 2 holds -3"),
        ([1, 2, 1.5], "row 3 holds 1.5"),
        ([0, 0, 0], "No row has both"),
    ],
)
def test_a_weight_that_is_none_is_refused_with_its_row(weights, words):
    with pytest.raises(VariableError, match=words):
        gather(table_of([1, 2, 3], weights, [0, 1, 0]), "Length", weight="Cases")


def test_text_cannot_be_a_weight():
    with pytest.raises(VariableError, match="holds text"):
        gather(table_of([1, 2], [1, 1], [0, 1]), "Length", weight="Bay")


def test_a_variable_that_a_weight_leaves_without_values_does_not_fail_the_others():
    columns = {"Length": [61.0, 72.0, np.nan], "Width": [np.nan, np.nan, 31.0], "Cases": [2, 1, 0]}
    table = Table(
        "t",
        tuple(
            NumberColumn(name, values=np.array(values, float), missing_as={"blank": 2 * (n == 1)})
            for n, (name, values) in enumerate(columns.items())
        ),
    )
    recipe = Recipe(show=Show(variables=("Length", "Width"), weight="Cases"))
    readings = read(recipe, gather(table, ("Length", "Width"), weight="Cases"))
    assert [group.n for group in readings.groups] == [3, 0]
