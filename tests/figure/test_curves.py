"""Curves on the scale of the heights, and as they are printed."""

import numpy as np
import pytest
from msgspec import structs
from scipy.integrate import trapezoid

from rhabdos.figure.forms.bars import bars
from rhabdos.figure.forms.lines import CurveReading, curves, curves_of
from rhabdos.figure.forms.read import read
from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.recipe.recipe import Curves
from rhabdos.stats.density import DensityError
from tests.conftest import asking, set_of

rng = np.random.default_rng(6)
GROUPS = rng.normal(70, 5, 300).tolist(), rng.normal(80, 3, 100).tolist()


def readings_of(*forms, heights="density", of="group", **curve):
    recipe = asking(width=2.0).showing(
        forms=("bars", *forms), heights=heights, of=of, split=("Bay",)
    )
    return read(recipe.changed(curve=Curves(**curve)), set_of(*GROUPS))


@pytest.mark.parametrize(
    ("heights", "of", "wholes"),
    [
        ("density", "group", (1, 1)),
        ("density", "all", (0.75, 0.25)),
        ("percent", "group", (200, 200)),
        ("percent", "all", (150, 50)),
        ("proportion", "group", (2, 2)),
        ("count", "group", (600, 200)),
    ],
)
@pytest.mark.parametrize("form", ["curve", "normal", "polygon"])
def test_the_area_under_a_curve_is_that_of_the_bars(form, heights, of, wholes):
    found = curves(readings_of(form, heights=heights, of=of))
    areas = [(g.heights * 2).sum() for g in bars(readings_of(form, heights=heights, of=of))]
    for curve, whole, bar in zip(found, wholes, areas, strict=True):
        assert trapezoid(curve.y, curve.x) == pytest.approx(whole, rel=2e-3)
        assert bar == pytest.approx(whole)


def test_the_normal_curve_has_the_mean_and_sd_of_its_group():
    first = curves(readings_of("normal"))[0]
    mean = trapezoid(first.x * first.y, first.x)
    assert mean == pytest.approx(np.mean(GROUPS[0]), rel=1e-3)
    assert trapezoid((first.x - mean) ** 2 * first.y, first.x) ** 0.5 == pytest.approx(
        np.std(GROUPS[0], ddof=1), rel=1e-2
    )


def test_the_cumulative_curve_steps_by_what_each_value_weighs():
    recipe = asking().showing(forms=("ecdf",), heights="proportion")
    (curve,) = curves(read(recipe, set_of([3.0, 1.0, 3.0, 7.0])))
    assert curve.x.tolist() == [1, 3, 7]
    assert curve.y.tolist() == [0.25, 0.75, 1]
    (counted,) = curves(read(recipe.showing(heights="count"), set_of([3.0, 1.0, 3.0, 7.0])))
    assert counted.y.tolist() == [1, 3, 4]


def test_bandwidth_rule_adjustment_and_bounds_are_taken_from_the_recipe():
    plain, wide = (curves(readings_of("curve", factor=factor))[0] for factor in (1.0, 2.0))
    assert wide.bandwidth == pytest.approx(2 * plain.bandwidth)
    assert curves(readings_of("curve", bandwidth=1.5))[1].bandwidth == 1.5
    assert curves(readings_of("curve", upper=95.0))[1].x.max() <= 95
    with pytest.raises(DensityError, match="below the lower bound 75"):
        curves(readings_of("curve", lower=75.0))


def test_a_bound_on_an_axis_of_logs_is_told_as_a_value():
    recipe = asking().showing(forms=("curve",)).with_value_axis(scale="log")
    bounded = recipe.changed(curve=recipe.curve.changed(lower=2.0))
    with pytest.raises(
        DensityError, match=r"^1 of the values lies below the lower bound 2( mm)?, so"
    ):
        curves(read(bounded, set_of([1.0, 5.0, 50.0])))


def test_curves_are_printed_with_the_numbers():
    data = numbers_data(readings_of("curve", "normal", "ecdf"))
    assert [(c["sample"], c["kind"]) for c in data["curves"]] == [
        (group, kind) for kind in ("density", "normal", "ecdf") for group in "AB"
    ]
    assert data["curves"][0]["bandwidth"] > 0
    assert data["curves"][2]["bandwidth"] is None
    assert all(len(c["x"]) == len(c["y"]) for c in data["curves"])
    assert "curves" not in numbers_data(read(asking(), set_of(GROUPS[0])))


def test_a_group_of_equal_values_has_no_curve_and_the_others_keep_theirs():
    recipe = asking().showing(forms=("normal", "curve"), split=("Bay",))
    readings = read(recipe, set_of([5.0, 5.0], [1.0, 2.0, 4.0]))
    lacking = [curve for form in ("normal", "curve") for curve in curves_of(readings, form)][::2]
    assert [(len(curve.x), len(curve.y)) for curve in lacking] == [(0, 0), (0, 0)]
    printed = numbers_data(readings)
    assert [
        (c["sample"], c["kind"], c["x"] is None, c["y"] is None) for c in printed["curves"]
    ] == [
        ("A", "normal", True, True),
        ("B", "normal", False, False),
        ("A", "density", True, True),
        ("B", "density", False, False),
    ]
    told = [notice["text"] for notice in printed["notices"] if notice["code"] == "no-curve"]
    assert len(told) == 2
    assert all("No curve of A." in text for text in told)
    assert [sample["mode"] for sample in printed["samples"]] == [5.0, pytest.approx(1.7, abs=0.5)]
    by_hand = recipe.changed(curve=Curves(bandwidth=1.0))
    assert [
        c.lack
        for c in curves(read(by_hand.showing(split=()), set_of([5.0, 5.0])))
        if c.kind == "density"
    ] == [""]


@pytest.mark.parametrize(
    ("heights", "wholes"), [("count", (60, 30)), ("percent", (100, 100)), ("density", (1, 1))]
)
def test_cumulative_curves_rise_to_the_whole_beside_the_bars(heights, wholes):
    rng = np.random.default_rng(5)
    samples = set_of(rng.normal(10, 2, 60).tolist(), rng.normal(14, 1, 30).tolist())
    forms = ("bars", "curve", "normal", "polygon", "ecdf")
    readings = read(
        asking(width=0.5).showing(heights=heights, cumulative=True, forms=forms, split=("Bay",)),
        samples,
    )
    for curve in curves(readings):
        assert np.all(np.diff(curve.y) >= -1e-12)
        assert curve.y[-1] == pytest.approx(wholes[curve.group], rel=1e-3)
        group = bars(readings)[curve.group]
        apart = 0.12 if curve.kind in ("density", "normal") else 0.06
        beside = np.interp(group.edges.values[1:], curve.x, curve.y, left=0.0)
        assert np.abs(beside - group.heights).max() < apart * wholes[curve.group]


def test_the_cumulative_polygon_begins_with_what_lies_below_the_first_bin():
    readings = read(
        asking(edges=(2.0, 3.0, 5.0)).showing(cumulative=True, forms=("polygon",)),
        set_of([1.0, 2, 2.5, 4]),
    )
    (polygon,) = curves(readings)
    assert polygon.x.tolist() == [2, 3, 5]
    assert polygon.y.tolist() == [1, 3, 4]


def test_a_curve_is_0_beyond_its_ends_and_one_that_rises_stays_as_high():
    falling = CurveReading(0, "curve", 1.0, np.array([1.0, 2.0, 4.0]), np.array([0.5, 2.0, 1.0]))
    assert [falling.height_at(x) for x in (0.999, 1.0, 1.5, 3.0, 4.0, 4.001)] == [
        0.0, 0.5, 1.25, 1.5, 1.0, 0.0,
    ]  # fmt: skip
    rising = structs.replace(falling, y=np.array([0.25, 0.5, 1.0]), rises=True)
    assert [rising.height_at(x) for x in (-50.0, 3.0, 50.0)] == [0.25, 0.75, 1.0]
    steps = [rising.height_at(x, stepped=True) for x in (0.9, 1.0, 1.9, 2.0, 99.0)]
    assert steps == [0.0, 0.25, 0.25, 0.5, 1.0]
    nothing = structs.replace(falling, x=np.empty(0), y=np.empty(0))
    assert nothing.height_at(1.0) == 0.0
