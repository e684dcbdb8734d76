"""The data's own sentences: true of the values, and never said where there is nothing."""

import re
from datetime import date

import numpy as np
import pytest

from rhabdos.data.columns import DateColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.figure.forms.read import read
from rhabdos.figure.output.faces import compare_face
from rhabdos.figure.output.seen import all_seen, seen
from rhabdos.figure.recipe.toml_text import read_recipe, write_recipe
from tests.conftest import set_of

RNG = np.random.default_rng(21)
LOW = RNG.normal(60, 5, 300).round(1).tolist()
HIGH = RNG.normal(66, 5, 300).round(1).tolist()


def figure(*groups, text=""):
    split = 'split = ["Bay"]' if len(groups) > 1 else ""
    recipe = read_recipe(f'rhabdos = 1\n[show]\nvariables = ["Length"]\n{split}\n{text}')
    return read(recipe, set_of(*groups))


def numbers_of(words):
    return [float(number) for number in re.findall(r"\d+(?:\.\d+)?", words)]


def told(readings):
    return {each.code: each.text for each in all_seen(readings)}


def test_the_middle_half_is_that_of_the_quartiles():
    q1, q3 = np.quantile(LOW, [0.25, 0.75])
    words = told(figure(LOW))["middle"]
    assert words.startswith("The middle half of 300 values lies from ")
    assert numbers_of(words)[1:] == pytest.approx([q1, q3], abs=0.006)
    ends = [end for values in (LOW, HIGH) for end in np.quantile(values, [0.25, 0.75])]
    words = told(figure(LOW, HIGH))["middle"]
    assert numbers_of(words) == pytest.approx(ends, abs=0.006)
    assert " mm in A and from " in words
    assert words.endswith(" mm in B.")
    four = figure(LOW, HIGH, LOW, HIGH)
    assert told(four)["middle"] == "1,200 values in 4 groups."


@pytest.mark.parametrize(
    ("groups", "words"),
    [
        ([[44.1]], "The only value is 44.1 mm."),
        ([[4.2] * 9], "The middle half of 9 values lies at 4.2 mm."),
        (
            [[4.0] * 9, [6.0, 7.0, 8.0]],
            "The middle half lies at 4.00 mm in A and from 6.50 to 7.50 mm in B.",
        ),
    ],
)
def test_values_that_are_equal_lie_at_one_place(groups, words):
    assert seen(figure(*groups))[-1].text == words


def test_a_difference_of_medians_is_told_with_its_side_and_only_where_it_is_clear():
    by = np.median(HIGH) - np.median(LOW)
    assert told(figure(LOW, HIGH))["difference"] == (
        f"The median of B is {by:.1f} mm higher than that of A."
    )
    other = told(figure(LOW, HIGH, LOW, text='[compare]\nreference = "B"'))["difference"]
    assert other == f"A differs most from B: its median is {by:.1f} mm lower."
    assert "difference" not in told(figure(LOW, RNG.permutation(LOW).tolist()))
    assert "difference" not in told(figure(LOW[:4], HIGH[:4]))
    assert "difference" not in told(figure(LOW))


def test_differences_are_told_falsely_in_at_most_one_of_fifty():
    rng = np.random.default_rng(6)
    false = 0
    for _ in range(200):
        groups = [rng.gamma(2, 3, n).tolist() for n in (40, 25, 90, 12)]
        false += "difference" in told(figure(*groups))
    assert false <= 9  # with a chance of 1 in 50, more come once in a hundred


def test_peaks_and_tails_are_told_of_their_groups():
    two = np.concatenate([RNG.normal(40, 3, 400), RNG.normal(70, 3, 400)]).tolist()
    long = RNG.exponential(9, 600).tolist()
    words = told(figure(LOW, two, long))
    assert words["peaks"].startswith("Two peaks stand out in B, near ")
    assert words["tail"] == "The longer tail is at large values in C."
    assert told(figure(two))["peaks"].startswith("Two peaks stand out, near ")
    both = told(figure(two, two))["peaks"]
    assert both.startswith("Two peaks in A, near ")
    assert "; two peaks in B, near " in both
    assert told(figure(long, long))["tail"] == "The longer tail is at large values in every group."
    assert "tail" not in told(figure(long, text='[axes.value]\nscale = "root"'))


def test_peaks_far_from_zero_are_told_apart():
    two = np.concatenate([RNG.normal(0, 1, 900), RNG.normal(12, 1, 900)])
    low, high = numbers_of(told(figure((two + 1e6).tolist()))["peaks"])
    assert (low, high) == (pytest.approx(1e6, abs=1), pytest.approx(1e6 + 12, abs=1))
    days = DateColumn("Day", values=np.floor(two) + 20_510)
    readings = read(read_recipe('rhabdos = 1\n[show]\nvariables = ["Day"]'),
                    gather(Table("t", (days,)), "Day"))  # fmt: skip
    near = [
        date.fromisoformat(day) for day in re.findall(r"\d{4}-\d\d-\d\d", told(readings)["peaks"])
    ]
    assert [abs((day - at).days) <= 1 for day, at in zip(
        near, (date(2026, 2, 26), date(2026, 3, 10)), strict=True)] == [True, True]  # fmt: skip


def test_what_is_struck_out_is_not_said_and_stays_so_in_the_recipe():
    readings = figure(LOW, HIGH, text='[words]\nunsaid = ["difference"]')
    assert [each.code for each in seen(readings)] == ["middle"]
    assert [each.code for each in all_seen(readings)] == ["difference", "middle"]
    assert read_recipe(write_recipe(readings.recipe)) == readings.recipe


@pytest.mark.parametrize("groups", [([],), ([5.0],), ([5.0, 5.0], [5.0]), ([float("nan")], LOW)])
def test_hardly_any_values_are_told_as_what_they_are(groups):
    if groups == ([],):
        return
    for each in all_seen(figure(*groups)):
        assert "nan" not in each.text
        assert "–" not in each.text


def test_the_main_thing_of_a_comparison_claims_no_more_than_its_interval():
    sentence = compare_face(figure(LOW, HIGH)).sentence
    assert sentence.startswith("A value of B is the greater of two ")
    assert "times in 100 (" in sentence
    shares = np.mean(np.array(HIGH)[:, None] > np.array(LOW)) + 0.5 * np.mean(
        np.array(HIGH)[:, None] == np.array(LOW)
    )
    assert f" {round(100 * shares)} times" in sentence
    same = compare_face(figure(LOW, RNG.permutation(LOW).tolist())).sentence
    assert same == "Of two values, one of A, neither is clearly the greater more often."
    assert compare_face(figure(LOW[:5], HIGH[:5])).sentence == ""
