"""Groups compared case by case: found by rows, or by what names cases."""

import json

import numpy as np
import pytest
from scipy import stats

from rhabdos.data.columns import CategoryColumn, LabelColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.forms.shift import arrows
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.comparisons import comparisons
from rhabdos.figure.output.explained import explain
from rhabdos.figure.output.faces import compare_face
from rhabdos.figure.output.numbers import numbers_json
from rhabdos.figure.output.seen import seen
from rhabdos.figure.output.subjects import Subject
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.readings.pairing import ways_to_pair
from rhabdos.figure.recipe.toml_text import read_recipe, write_recipe

RNG = np.random.default_rng(29)
CASES = 64
BEFORE = RNG.normal(50, 8, CASES).round(1)
AFTER = (BEFORE + RNG.normal(2, 3, CASES)).round(1)
ORDER = RNG.permutation(2 * CASES)


def wide() -> Table:
    before, after = BEFORE.copy(), AFTER.copy()
    before[[3, 9]], after[[9, 20, 21]] = np.nan, np.nan
    return Table(
        "w",
        (
            NumberColumn("Week 1", unit="mm", values=before, missing_as={"blank": 2}),
            NumberColumn("Week 2", unit="mm", values=after, missing_as={"blank": 3}),
            CategoryColumn("Bay", codes=(np.arange(CASES) % 2).astype(np.int8), levels=("A", "B")),
        ),
    )


def long(key: str = "label") -> Table:
    values = np.concatenate([BEFORE, AFTER])[ORDER]
    codes = np.repeat([0, 1], CASES)[ORDER]
    case = np.tile(np.arange(CASES), 2)[ORDER]
    names = {
        "label": LabelColumn("Tag", texts=[f"T{c}" for c in case], distinct=CASES),
        "number": NumberColumn("Tag", values=case.astype(float)),
        "category": CategoryColumn(
            "Tag", codes=case.astype(np.int16), levels=tuple(f"T{c}" for c in range(CASES))
        ),
    }[key]
    when = CategoryColumn("When", codes=codes.astype(np.int8), levels=("before", "after"))
    return Table("l", (NumberColumn("Length", unit="mm", values=values), when, names))


def figure(table: Table, paired: str, show: str = "", more: str = ""):
    names = '["Week 1", "Week 2"]' if table.name == "w" else '["Length"]\nsplit = ["When"]'
    reference = "Week 1" if table.name == "w" else "before"
    recipe = read_recipe(
        f"rhabdos = 1\n[show]\nvariables = {names}\n{show}\n[compare]\n"
        f'reference = "{reference}"\npaired = {paired}\n{more}'
    )
    return read(recipe, samples_for(recipe, table))


def test_rows_are_pairs_where_both_have_a_value():
    (found,) = comparisons(figure(wide(), "true"))
    kept = ~np.isin(np.arange(CASES), [3, 9, 20, 21])
    off = (AFTER - BEFORE)[kept]
    expected = stats.ttest_rel(AFTER[kept], BEFORE[kept]).confidence_interval(0.95)
    assert found.mean.value == pytest.approx(off.mean())
    assert (found.mean.low, found.mean.high) == pytest.approx((expected.low, expected.high))
    assert found.median.value == pytest.approx(np.median(off))
    assert found.median.low < np.median(off) < found.median.high
    assert found.exceeds.value == pytest.approx(np.mean(off > 0) + np.mean(off == 0) / 2)
    assert (found.paired.alone, found.paired.alone_there) == (1, 2)
    assert all(np.isnan(each.low) for each in found.quantiles)
    # Independent rows say much less.
    (apart,) = comparisons(figure(wide(), "false"))
    assert apart.mean.high - apart.mean.low > 2 * (found.mean.high - found.mean.low)


@pytest.mark.parametrize(("rule", "method"), [(7, "linear"), (6, "weibull"), (1, "inverted_cdf")])
def test_spreads_and_medians_of_pairs_are_by_the_definition_that_is_asked_for(rule, method):
    (found,) = comparisons(figure(long(), '"Tag"', more=f"[box]\nquartiles = {rule}"))
    both = [np.quantile(values, [0.25, 0.75], method=method) for values in (AFTER, BEFORE)]
    assert found.iqr_ratio.value == pytest.approx(np.ptp(both[0]) / np.ptp(both[1]))
    assert found.median.value == pytest.approx(np.quantile(AFTER - BEFORE, 0.5, method=method))


@pytest.mark.parametrize("key", ["label", "number", "category"])
def test_cases_are_found_by_what_names_them_in_whatever_order(key):
    (found,) = comparisons(figure(long(key), '"Tag"'))
    expected = stats.ttest_rel(AFTER, BEFORE).confidence_interval(0.95)
    assert (found.mean.low, found.mean.high) == pytest.approx((expected.low, expected.high))
    assert (found.paired.alone, found.paired.alone_there) == (0, 0)


def test_on_an_axis_of_logs_pairs_are_compared_by_ratios():
    (found,) = comparisons(figure(long(), '"Tag"', more='[axes.value]\nscale = "log"'))
    logs = np.log(AFTER / BEFORE)
    expected = stats.ttest_1samp(logs, 0).confidence_interval(0.95)
    assert found.ratios
    assert found.mean.value == pytest.approx(np.exp(logs.mean()))
    assert (found.mean.low, found.mean.high) == pytest.approx(
        (np.exp(expected.low), np.exp(expected.high))
    )


def test_what_finds_no_pairs_is_refused_and_offered_as_independent():
    readings = figure(long(), "true")
    with pytest.raises(Refusal, match="of different rows"):
        comparisons(readings)
    (notice,) = [n for n in notices(readings) if n.code == "not-paired"]
    assert notice.cure.compare.paired is False
    assert comparisons(read(notice.cure, readings.gathered))
    twice = Table(
        "l",
        (
            NumberColumn("Length", values=np.arange(7.0)),
            CategoryColumn(
                "When", codes=np.array([0, 0, 0, 1, 1, 1, 1], np.int8), levels=("before", "B")
            ),
            NumberColumn("Case", values=np.array([0.0, 1, 2, 0, 1, 0, 1])),
        ),
    )
    repeated = figure(twice, '"Case"')
    with pytest.raises(Refusal, match="names 2 cases of B more than once, such as “0”"):
        comparisons(repeated)
    nobody = figure(long(), '"Nobody"')
    with pytest.raises(Refusal, match="“Nobody”"):
        comparisons(nobody)


def test_the_foot_the_numbers_and_the_card_tell_of_pairs():
    readings = figure(wide(), "true")
    face = compare_face(readings)
    assert face.sentence.startswith("60 pairs. The value of Week 2 is the greater of a pair ")
    assert "60 pairs; 1 and 2 values have no partner" in face.rows[1].cells[0].tip
    assert "median of the differences" in face.rows[1].cells[1].tip
    (told,) = json.loads(numbers_json(readings))["comparisons"]
    assert (told["pairs"], told["without_partner"]) == (60, [1, 2])
    assert "Independent pairs" in told["mean"]["assumes"]
    lines = explain(readings, Subject("compare mean", 1)).here
    assert lines[0].startswith("d̄ of 60 pairs = ")
    assert any(
        "same cases were measured twice" in text
        for _, text in explain(readings, Subject("compare mean", 1)).passage.parts
    )
    assert not [each for each in seen(readings) if each.code == "difference"]
    assert seen(figure(wide(), "false"))


def test_ways_to_pair_are_looked_for_and_chosen_by_a_phrase():
    assert ways_to_pair(figure(wide(), "false")) == [
        ("independent rows", False),
        ("the same row", True),
    ]
    assert ways_to_pair(figure(long(), "false")) == [
        ("independent rows", False), ("the same Tag", "Tag"),
    ]  # fmt: skip
    readings = figure(long("category"), "false")
    (setting,) = [s for s in PHRASES["compare"].settings if s.label == "Cases"]
    assert setting.matters(readings)
    recipe = setting.changed(readings.recipe, setting.chosen("Tag", readings))
    assert recipe.compare.paired == "Tag"
    assert read_recipe(write_recipe(recipe)) == recipe
    alone = gather(Table("t", (NumberColumn("Length", values=np.arange(5.0)),)), "Length")
    assert (
        len(ways_to_pair(read(read_recipe('rhabdos = 1\n[show]\nvariables = ["Length"]'), alone)))
        == 1
    )


def test_rows_without_any_pair_are_refused():
    values = (np.array([1.0, np.nan, 3.0]), np.array([np.nan, 2.0, np.nan]))
    columns = (
        NumberColumn(f"Week {at}", unit="mm", values=each, missing_as={"blank": at})
        for at, each in enumerate(values, 1)
    )
    with pytest.raises(Refusal, match="No row has a value in both"):
        comparisons(figure(Table("w", tuple(columns)), "true"))


def test_empty_and_single_pairs_say_what_they_lack():
    table = Table(
        "w",
        (
            NumberColumn("Week 1", values=np.array([1.0, np.nan, 3.0]), missing_as={"blank": 1}),
            NumberColumn("Week 2", values=np.array([np.nan, 2.0, 4.0]), missing_as={"blank": 1}),
        ),
    )
    (found,) = comparisons(figure(table, "true"))
    assert found.mean.value == 1.0
    assert "two pairs" in found.mean.lack
    assert "6 pairs" in found.median.lack
    compare_face(figure(table, "true"))
    numbers_json(figure(table, "true"))


def test_variables_that_share_an_axis_are_compared_and_others_are_not():
    table = Table(
        "w",
        (
            NumberColumn("Week 1", unit="mm", values=BEFORE),
            NumberColumn("Week 2", unit="mm", values=AFTER),
            NumberColumn("Mass", unit="g", values=BEFORE * 3),
        ),
    )
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["Week 1", "Week 2"]\nforms = ["shift"]\n'
        '[compare]\nreference = "Week 1"'
    )
    readings = read(recipe, samples_for(recipe, table))
    assert list(arrows(readings)) == [1]
    assert arrows(readings)[1].ends == pytest.approx(np.quantile(AFTER, np.arange(1, 10) / 10))
    other = recipe.showing(variables=("Week 1", "Mass"))
    apart = read(other, samples_for(other, table))
    assert apart.plan.axes == 2
    assert arrows(apart) == {}
    assert comparisons(apart) == ()
    assert compare_face(apart).rows[1].cells[1].text == ""
