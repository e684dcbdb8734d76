"""Readings, notices, sentence, hover and the printed numbers."""

import csv
import io
import json
import math
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from rhabdos.data.columns import CategoryColumn, DateColumn, NumberColumn
from rhabdos.data.demo import BAYS
from rhabdos.data.gathering import gather
from rhabdos.data.listing import variables_data, variables_text
from rhabdos.data.table import Table
from rhabdos.figure.forms.bars import bars, bin_card, interval, outside
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.numbers import numbers_data, numbers_json
from rhabdos.figure.output.numbers_csv import numbers_csv
from rhabdos.figure.phrases.sentence import plain, sentence
from rhabdos.figure.readings.value_scale import log_begin
from rhabdos.figure.recipe.demo_recipe import demo_recipe
from rhabdos.figure.recipe.recipe import Boxes, Compare, Recipe, Show
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.stats.binning import BinningError
from rhabdos.wording import exact, in_running_text, places_for, rounded
from tests.conftest import asking, set_of

TWO = ([1.0, 2, 3, 4, 9], [2.0, 2, 8])
values = st.lists(st.floats(-50, 50), min_size=1, max_size=40)


def split_if_several(recipe, groups):
    return recipe.showing(split=("Bay",)) if len(groups) > 1 else recipe


@given(
    st.lists(values, min_size=1, max_size=4),
    st.lists(st.floats(-60, 60), min_size=2, max_size=8, unique=True),
)
def test_every_value_is_counted_or_outside(groups, edges):
    assume(np.min(np.diff(np.sort(edges))) > 1e-290)
    recipe = split_if_several(asking(edges=tuple(sorted(edges))), groups)
    readings = read(recipe, set_of(*groups))
    both = zip(readings.groups, bars(readings), groups, strict=True)
    for group, drawn, given_values in both:
        assert drawn.counts.sum() + drawn.outside == group.n == len(given_values)


@given(
    st.lists(values, min_size=2, max_size=4), st.sampled_from(["percent", "proportion", "density"])
)
def test_shares_of_all_add_up_to_all_and_of_groups_to_each(groups, scale):
    whole = {"percent": 100, "proportion": 1, "density": 1}[scale]
    for of, expected in (("all", whole), ("group", whole * len(groups))):
        recipe = asking(count=6).showing(split=("Bay",), heights=scale, of=of)
        readings = read(recipe, set_of(*groups))
        widths = readings.edges.widths if scale == "density" else 1
        assert sum((g.heights * widths).sum() for g in bars(readings)) == pytest.approx(expected)


def test_groups_share_their_edges():
    readings = read(asking(rule="sturges").showing(split=("Bay",)), set_of(*TWO))
    assert all(len(group.counts) == readings.edges.count for group in bars(readings))
    assert readings.edges.low <= 1
    assert readings.edges.high >= 9


def test_unequal_bins_switch_to_density_and_say_why():
    readings = read(asking(edges=(0.0, 2, 10)).showing(heights="percent"), set_of(TWO[0]))
    assert readings.scale == "density"
    assert bars(readings)[0].heights.tolist() == [1 / 5 / 2, 4 / 5 / 8]
    notice = next(n for n in notices(readings) if n.code == "unequal-bins")
    assert "instead of percent" in notice.text


def test_bins_too_narrow_for_any_density_are_refused():
    with pytest.raises(BinningError, match="so narrow"):
        read(asking(edges=(0.0, 1e-311, 1.0)), set_of([0.0]))


@pytest.mark.parametrize(
    "bins",
    [
        {"width": 2.0, "start": 3.0},
        {"edges": (3.0, 5.0, 8.0)},
        {"count": 3, "start": 3.0},
        {"rule": "rice", "start": 3.0},
    ],
)
def test_hidden_values_are_told_and_the_cure_shows_them(bins):
    samples = set_of([1.0, 2, 3, 4, 8.5])
    readings = read(asking(**bins), samples)
    assert outside(readings) >= 2
    notice = notices(readings)[0]
    assert notice.code == "hidden-values"
    assert notice.text.startswith(f"{outside(readings)} values lie outside")
    assert outside(read(notice.cure, samples)) == 0


def test_unequal_groups_are_told_and_the_cure_is_percent_of_each():
    samples = set_of([1.0] * 9 + [2.0], [1.0, 2.0])
    readings = read(asking(width=1.0).showing(split=("Bay",)), samples)
    notice = next(n for n in notices(readings) if n.code == "unequal-n")
    cured = read(notice.cure, samples)
    assert (cured.scale, cured.recipe.show.of) == ("percent", "group")
    assert "unequal-n" not in [n.code for n in notices(cured)]


def test_empty_groups_and_values_without_a_group_are_told(demo):
    samples = set_of([1.0, 2.0], [float("nan")])
    assert "empty-groups" in [
        n.code for n in notices(read(asking().showing(split=("Bay",)), samples))
    ]
    assert samples.samples[1].missing == 1
    bay = CategoryColumn(
        "Bay", codes=np.array([0, -1, 0, -1], np.int8), levels=("A",), missing_as={"blank": 2}
    )
    length = NumberColumn(
        "Length", values=np.array([1.0, 2.0, 3.0, np.nan]), missing_as={"blank": 1}
    )
    ungrouped = gather(Table("t", (length, bay)), "Length", "Bay")
    told = {
        notice.code: notice.text
        for notice in notices(read(asking().showing(split=("Bay",)), ungrouped))
    }
    assert told["ungrouped-values"] == "1 value has no bay and is in no group."


def test_the_sentence_reads_aloud(demo):
    readings = read(demo_recipe(), gather(demo, "Shell length", "Bay"))
    assert plain(readings) == (
        "Shell length of every row that has one, split by Bay overlaid, drawn as bars, lying, "
        "heights in percent of each bay. Bins are 4 mm wide from 40."
    )
    assert [f.phrase for f in sentence(readings) if f.phrase] == [
        "variable", "rows", "split", "arrange", "forms", "way", "heights", "bins",
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("forms", "more", "words"),
    [
        (
            ("bars", "curve"),
            {},
            "drawn as bars + curve, lying, heights in counts. Bins are 5 mm wide from 0; curve bandwidth is ",
        ),
        (
            ("curve",),
            {"heights": "density"},
            "drawn as curve, lying, heights in density per mm. Curve bandwidth is ",
        ),
        (
            ("curve",),
            {"heights": "percent"},
            "heights in percent. Bins are 5 mm wide from 0; curve bandwidth is ",
        ),
        (("ecdf",), {"heights": "percent"}, "drawn as ECDF, lying, heights in percent."),
        (
            ("normal", "outline"),
            {},
            "drawn as outline + normal curve, lying, heights in counts. Bins are 5 mm wide from 0.",
        ),
    ],
)
def test_only_phrases_that_matter_are_in_the_sentence(forms, more, words):
    samples = set_of([float(v) for v in range(40)])
    text = plain(read(asking(width=5.0).showing(forms=forms, **more), samples))
    assert words in text
    assert text.endswith(words) == ("curve" not in forms)
    assert ("by Silverman." in text) == ("curve" in forms)


@pytest.mark.parametrize(
    ("recipe", "ending"),
    [
        (asking(), "heights in counts. Bins are 2.5 mm wide from 0, automatic."),
        (asking(rule="sturges"), "Bins are 2 mm wide from 0, by Sturges."),
        (asking(count=4), "Bins are 4 in number, 2 mm wide from 1."),
        (
            asking(edges=(0.0, 2, 10)),
            "heights in density per mm. Bins are 2 of your own, 0 to 10 mm.",
        ),
        (
            asking(width=3.0).showing(heights="proportion"),
            "heights in proportion. Bins are 3 mm wide from 0.",
        ),
    ],
)
def test_every_way_of_binning_has_its_words(recipe, ending):
    assert plain(read(recipe, set_of([1.5, 2, 3, 4, 8.5]))).endswith(ending)


@pytest.mark.parametrize(
    ("closed", "position", "words"),
    [
        ("left", 0, "0 to under 5 mm"),
        ("left", 1, "5 to 10 mm"),
        ("right", 0, "0 to 5 mm"),
        ("right", 1, "over 5 to 10 mm"),
    ],
)
def test_an_interval_says_which_edge_belongs_to_it(closed, position, words):
    readings = read(asking(edges=(0.0, 5, 10), closed=closed), set_of([1.0, 5, 7]))
    assert interval(readings.edges, position, readings.variable) == words


def test_a_bin_says_what_each_group_has_in_it():
    readings = read(asking(edges=(0.0, 5, 10)).showing(split=("Bay",)), set_of(*TWO))
    card = bin_card(readings, 1, [0, 1], pointed=1)
    assert [(ln.label, *ln.cells, ln.pointed) for ln in card.lines] == [
        ("A", "1 of 5", "20.0 %", "0.04", False),
        ("B", "1 of 3", "33.3 %", "0.0667", True),
    ]
    assert (
        card.spoken()
        == "5 to 10 mm. A: 1 of 5, 20.0 %, density 0.04; B: 1 of 3, 33.3 %, density 0.0667."
    )


def test_the_printed_numbers_are_the_readings(demo):
    readings = read(demo_recipe(), gather(demo, "Shell length", "Bay"))
    data = json.loads(numbers_json(readings))
    assert [s["label"] for s in data["samples"]] == ["Heron Sound", "Saltmere", "Wick Narrows"]
    assert [s["missing"] for s in data["samples"]] == [0, 3, 0]
    for position, (name, sample) in enumerate(
        zip(("Heron Sound", "Saltmere", "Wick Narrows"), data["samples"], strict=True)
    ):
        bay = demo.column("Bay")
        own = demo.number("Shell length").values[bay.codes == bay.levels.index(name)]
        own = own[~np.isnan(own)]
        expected, _ = np.histogram(own, data["bins"]["edges"])
        assert data["bins"]["counts"][position] == expected.tolist()
        assert data["bins"]["heights"][position] == pytest.approx(
            (100 * expected / len(own)).tolist()
        )
        assert sample["n"] == len(own)
        assert sample["mean"] == pytest.approx(own.mean())
        assert sample["sd"] == pytest.approx(own.std(ddof=1))
        assert sample["iqr"] == pytest.approx(np.subtract(*np.percentile(own, [75, 25])))
    assert data["bins"]["closed"] == "left"
    assert data["bins"]["outside"] == [0, 0, 0]


def test_numbers_that_do_not_exist_are_null():
    data = numbers_data(read(asking(), set_of([5.0])))
    assert data["samples"][0]["sd"] is None
    assert "NaN" not in numbers_json(read(asking(), set_of([5.0])))


def test_boxes_are_printed_where_they_are_asked_for():
    values = [1.0, 2, 3, 4, 5, 6, 7, 8, 9, 17, 30]
    recipe = asking(width=5.0)
    assert "boxes" not in numbers_data(read(recipe, set_of(values)))
    asked = recipe.showing(forms=("bars", "box"))
    (made,) = numbers_data(read(asked, set_of(values)))["boxes"]
    assert made["sample"] == "Length"
    assert (made["q1"], made["whisker_high"], made["beyond"], made["far"]) == (3.5, 9, [17], [30])
    assert "\nLength,far,11,,30.0\n" in numbers_csv(read(asked, set_of(values)))


def test_the_summary_follows_the_definition_of_quartiles():
    values = [1.0, 2, 3, 4, 5, 6, 7, 8]
    recipe = asking().changed(box=Boxes(quartiles=6))
    assert read(recipe, set_of(values)).summaries[0].q1 == np.quantile(
        values, 0.25, method="weibull"
    )
    assert read(asking(), set_of(values)).summaries[0].q1 == np.quantile(values, 0.25)


def test_the_csv_holds_the_same_numbers_one_a_row():
    readings = read(
        asking(edges=(0.0, 5, 10)).showing(split=("Bay",), heights="percent"), set_of(*TWO)
    )
    rows = list(csv.DictReader(io.StringIO(numbers_csv(readings))))
    counts = [
        (r["sample"], float(r["from"]), int(r["value"])) for r in rows if r["measure"] == "count"
    ]
    assert counts == [("A", 0, 4), ("A", 5, 1), ("B", 0, 2), ("B", 5, 1)]
    assert [float(r["value"]) for r in rows if r["measure"] == "percent"] == pytest.approx(
        [80, 20, 200 / 3, 100 / 3]
    )
    assert len([r for r in rows if r["measure"] == "median"]) == 2


def test_variables_are_listed_with_their_levels(demo):
    listed = {one["name"]: one for one in variables_data(demo)}
    assert listed["Bay"]["levels"] == [
        {"value": "Heron Sound", "n": 820},
        {"value": "Saltmere", "n": 820},
        {"value": "Wick Narrows", "n": 776},
    ]
    assert listed["Tag"]["kind"] == "label"
    assert (listed["Wet mass"]["n"], listed["Wet mass"]["missing"]) == (2369, 47)
    assert "Heron Sound (820)" in variables_text(demo)


@pytest.mark.parametrize(
    ("value", "places", "text"),
    [
        (77.349, 1, "77.3"),
        (-0.04, 1, "0.0"),
        (-12.5, 1, "−12.5"),
        (12345.6, 0, "12,346"),
        (float("nan"), 1, "–"),
        (3e9, None, "3 × 10⁹"),
    ],
)
def test_numbers_in_tables(value, places, text):
    assert rounded(value, places) == text


def test_decimals_follow_the_spread():
    assert [places_for(s, 100) for s in (6.6, 0.05, 300)] == [2, 4, 0]
    assert places_for(1, 1e12) == 2  # or 1,000,000,000,000.2 and .7 would be told as one


@pytest.mark.parametrize(
    ("values", "texts"),
    [
        ([1.61e9, 1.61e9 + 1e6], ["1,610,000,000", "1,611,000,000"]),
        ([1.2e9, 7.5e9], ["1.20 × 10⁹", "7.50 × 10⁹"]),
        ([3.0001e-7, 3.0002e-7], ["3.0001000 × 10⁻⁷", "3.0002000 × 10⁻⁷"]),
        ([2e20, 2.001e20], ["2.000000 × 10²⁰", "2.001000 × 10²⁰"]),
        ([5.5, 5.5 + 1e-9], ["5.500000000000", "5.500000001000"]),
        ([0.0, 4e9], ["0", "4.00 × 10⁹"]),
        ([3e-7, 3e-7], ["3 × 10⁻⁷", "3 × 10⁻⁷"]),  # what was given, as there is no more to tell
        ([3.25e-7, 3.25e-7], ["3.25 × 10⁻⁷", "3.25 × 10⁻⁷"]),
        ([2.464e-6, 2.54e-6, 2.5e-6], ["2.4640 × 10⁻⁶", "2.5400 × 10⁻⁶", "2.5000 × 10⁻⁶"]),
    ],
)
def test_numbers_far_from_1_keep_the_digits_in_which_they_differ(values, texts):
    places = places_for(float(np.std(values, ddof=1)), max(map(abs, values)))
    assert [rounded(value, places) for value in values] == texts
    assert rounded(float("nan"), places) == "–"


def test_dates_within_a_day_are_told_apart_by_their_times():
    days = 20_600 + np.array([8.5, 9.25, 17.0]) / 24
    column = DateColumn("Landed", values=days)
    places = places_for(float(np.std(days, ddof=1)), float(days.max()))
    told = [column.rounded(float(day), places) for day in days]
    assert told == ["2026-05-27 08:30", "2026-05-27 09:15", "2026-05-27 17:00"]
    assert column.format_rounded_difference(4.6 / 24, places) == "4.6 h"
    assert column.format_rounded_difference(0.25 / 24, places) == "15.0 min"
    far = places_for(40.0, 20_600)
    assert column.rounded(20_600.4, far) == "2026-05-27"


def test_wording_of_labels_and_exact_numbers():
    assert [in_running_text(t) for t in ("Bay", "pH", "IQR", "x")] == ["bay", "pH", "IQR", "x"]
    assert [exact(v) for v in (4.0, 0.1, -2.5, 1e20)] == ["4", "0.1", "−2.5", "1 × 10²⁰"]
    assert [exact(v) for v in (1e12, 1_609_997_123_134.0)] == ["1000000000000", "1609997123134"]
    assert [exact(v) for v in (999_999_999_999.9, 2e-4, 5e-5)] == [
        "999999999999.9", "0.0002", "5 × 10⁻⁵",
    ]  # fmt: skip


def test_a_recipe_that_shows_another_scale_changes_nothing_else():
    recipe = Recipe(show=Show(variables=("a",)), bins=Bins(width=2.0))
    assert recipe.showing(heights="density").bins is recipe.bins


@given(
    st.lists(
        st.lists(st.integers(-40, 40).map(float), min_size=1, max_size=20), min_size=1, max_size=3
    ),
    st.lists(st.integers(-30, 30).map(float), min_size=2, max_size=6, unique=True).map(sorted),
    st.sampled_from(["count", "percent", "proportion", "density"]),
    st.sampled_from(["group", "all"]),
)
def test_cumulative_heights_are_the_values_up_to_each_bins_end(groups, edges, scale, of):
    recipe = asking(edges=tuple(edges)).showing(heights=scale, of=of, cumulative=True)
    recipe = split_if_several(recipe, groups)
    readings = read(recipe, set_of(*groups))
    total = sum(map(len, groups))
    for group, values in zip(bars(readings), groups, strict=True):
        ends = [sum(v < end for v in values) for end in edges[1:-1]] + [
            sum(v <= edges[-1] for v in values)
        ]
        whole = (
            1
            if scale == "count"
            else (total if of == "all" else len(values)) / (100 if scale == "percent" else 1)
        )
        assert group.heights == pytest.approx([count / whole for count in ends])
    assert readings.scale == ("proportion" if scale == "density" else scale)
    assert "unequal-bins" not in [notice.code for notice in notices(readings)]


def test_cumulative_heights_are_named_so():
    readings = read(
        asking(width=2.0).showing(heights="percent", cumulative=True, split=("Bay",)),
        set_of([1.0, 2, 3], [2.0, 5]),
    )
    assert "heights in cumulative percent of each bay" in plain(readings)
    counts = read(asking(width=2.0).showing(cumulative=True), set_of([1.0, 2, 3]))
    assert "heights in cumulative counts" in plain(counts)


@pytest.mark.parametrize(
    "bins", [{"rule": "sturges"}, {"count": 4, "round": False}, {"width": 1.5}]
)
def test_groups_may_have_bins_of_their_own(bins):
    groups = [1.0, 2.5, 2.75, 4.5], [10.0, 11.25, 30.5]
    recipe = asking(**bins, shared=False).showing(heights="density", split=("Bay",))
    together = numbers_data(read(recipe, set_of(*groups)))["bins"]
    for position, values in enumerate(groups):
        alone = numbers_data(read(asking(**bins).showing(heights="density"), set_of(values)))[
            "bins"
        ]
        assert together["edges"][position] == alone["edges"]
        assert together["counts"][position] == alone["counts"][0]
        assert together["heights"][position] == alone["heights"][0]
    rows = list(csv.DictReader(io.StringIO(numbers_csv(read(recipe, set_of(*groups))))))
    second = [
        float(row["from"]) for row in rows if row["sample"] == "B" and row["measure"] == "count"
    ]
    assert second == together["edges"][1][:-1]


def test_the_ladder_and_sliding_bins_are_printed_where_they_are_asked_for(demo):
    recipe = demo_recipe()
    samples = gather(demo, "Shell length", "Bay")
    assert {"ladder", "slides"}.isdisjoint(numbers_data(read(recipe, samples)))
    asked = recipe.changed(check=recipe.check.changed(ladder=True, slide=True))
    found = numbers_data(read(asked, samples))
    here = next(rung for rung in found["ladder"] if rung["width"] == 4)
    assert (here["bins"], here["peaks"]) == (17, [1, 2, 1])
    assert [one["sample"] for one in found["slides"]] == list(BAYS)
    for one, heights in zip(found["slides"], found["bins"]["heights"], strict=True):
        assert len(one["x"]) == len(one["low"]) + 1 == 17 * 32 + 1
        assert np.all(np.array(one["low"]).reshape(17, 32).min(axis=1) <= np.array(heights) + 1e-9)


def test_values_beyond_whiskers_are_printed_with_their_rows():
    samples = set_of([5.0, 90, 6, 7, 8, 9, 10, 11, 18], [1.0, 2, 3, 4, -40, 3, 2, 3, -40])
    recipe = asking().showing(split=("Bay",), forms=("box",)).changed(box=Boxes(width="by-n"))
    first, second = numbers_data(read(recipe, samples))["boxes"]
    assert (first["beyond"], first["beyond_rows"]) == ([18], [9])
    assert (first["far"], first["far_rows"]) == ([90], [2])
    assert (second["far"], second["far_rows"]) == ([-40, -40], [14, 18])
    assert (first["width"], second["width"]) == (1, 1)
    wider = set_of([1.0] * 8, [2.0, 3.0])
    assert [box["width"] for box in numbers_data(read(recipe, wider))["boxes"]] == [1, 0.5]


def leaves(data):
    """All finite numbers in nested data, but for edges, which the CSV has once a bin."""
    if isinstance(data, dict):
        return [
            leaf
            for key, value in data.items()
            if key not in ("edges", "x", "confidence")
            for leaf in leaves(value)
        ]
    if isinstance(data, list):
        return [leaf for value in data for leaf in leaves(value)]
    return [data] if isinstance(data, int | float) else []


def test_the_csv_leaves_no_number_out(demo):
    recipe = demo_recipe().showing(
        cumulative=True,
        heights="count",
        forms=("bars", "curve", "normal", "polygon", "ecdf", "box"),
    )
    recipe = recipe.changed(
        check=recipe.check.changed(ladder=True, slide=True, pairs=True, range=(60.0, 80.0)),
        compare=Compare("Saltmere"),
    )
    readings = read(recipe, gather(demo, "Shell length", "Bay"))
    rows = list(csv.DictReader(io.StringIO(numbers_csv(readings))))
    assert ["level of Bay", "Saltmere"] in [[row["measure"], row["value"]] for row in rows]
    rows = [row for row in rows if row["measure"] != "level of Bay"]
    written = {float(row[key]) for row in rows for key in ("from", "to", "value") if row[key]}
    assert not set(leaves(numbers_data(readings))) - written
    apart = read(recipe.showing(cumulative=False), readings.gathered)
    assert [row["measure"] for row in csv.DictReader(io.StringIO(numbers_csv(apart)))].count(
        "sliding low"
    ) == 3 * 17 * 32
    upto = [
        float(row["value"])
        for row in rows
        if (row["sample"], row["measure"]) == ("Saltmere", "cumulative count")
    ]
    assert upto[-1] == 817
    beside = [row for row in rows if row["measure"] == "beside Saltmere: mean difference"]
    assert [row["sample"] for row in beside] == ["Heron Sound", "Wick Narrows"]


@given(st.floats(5e-324, 1.7e308, allow_subnormal=True))
def test_a_log_axis_begins_at_a_round_place_that_holds_the_least_value(least):
    for value in (least, math.nextafter(float(f"{least:.0e}"), 0), float(f"{least:.0e}")):
        if not 0 < value < math.inf:
            continue
        begin = log_begin(value)
        assert 0 < begin <= value
        if value > 1e-300:
            assert value < begin * Fraction(5, 2) * (1 + Fraction(1, 10**12))
            assert begin == value or f"{begin:.14e}"[0] in "125"
            assert set(f"{begin:.14e}".partition("e")[0][1:]) <= set(".0")


@pytest.mark.parametrize(
    ("first", "last", "told", "rounded"),
    [
        ("2026-05-01 13:00", "2026-05-01 14:00", "1 hour", "1.0 h"),
        ("2026-05-01 13:00", "2026-05-02 13:00", "1 day", "1.0 d"),
        ("2026-05-01 23:59:59", "2026-05-02 23:59:59", "1 day", "1.0 d"),
        ("2026-05-01 13:00", "2026-05-01 13:01", "1 minute", "1.0 min"),
        ("2026-05-01 13:00", "2026-05-01 13:30", "30 minutes", "30.0 min"),
        ("2026-05-01", "2026-05-11 12:00", "10.5 days", "10.5 d"),
        ("2026-05-02", "2026-05-01", "-1 day", "−1.0 d"),
        ("2026-05-01 13:00", "2026-05-01 19:30", "6.5 hours", "6.5 h"),
    ],
)
def test_how_long_it_is_from_one_moment_to_another_is_told_as_whole_as_it_is(
    first, last, told, rounded
):
    moments = [np.datetime64(moment, "s").astype(float) / 86_400 for moment in (first, last)]
    column = DateColumn("d", values=np.array(moments))
    assert column.format_difference(moments[1] - moments[0]).replace("−", "-") == told
    assert column.format_rounded_difference(moments[1] - moments[0], None) == rounded
