"""Long tails: seen, told, and shown by one choice."""

import numpy as np
import pytest

from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.notices.of_tails import scales_for
from rhabdos.figure.recipe.toml_text import read_recipe, write_recipe
from tests.conftest import sample_of

RNG = np.random.default_rng(11)
COSTS = np.exp(RNG.normal(4.6, 1.9, 1575))
WITH_ZEROS = np.where(RNG.random(1575) < 0.05, 0.0, COSTS)
BALANCE = np.sinh(RNG.normal(0.3, 2.2, 1575)) * 30
SQUARES = np.concatenate([RNG.uniform(0, 1, 1500) ** 6 * 100, [4000.0]])


def figure(values, text="", column=NumberColumn):
    recipe = read_recipe(f"rhabdos = 1\n[show]\nvariables = ['Cost']\n{text}")
    return read(recipe, gather(Table("t", (column("Cost", unit="€", values=values),)), "Cost"))


def tail_of(readings):
    return next((n for n in notices(readings) if n.code == "long-tail"), None)


def offered(values):
    notice = tail_of(figure(values))
    return [words for words, _ in notice.offers] if notice else []


@pytest.mark.parametrize(
    ("values", "kinds"),
    [(COSTS, {"log", "root"}), (WITH_ZEROS, {"root", "arsinh"}), (BALANCE, {"arsinh"})],
)
def test_every_axis_is_thought_of_that_has_a_place_for_all_values(values, kinds):
    assert set(scales_for(sample_of(values))) == kinds


def test_a_long_tail_of_values_above_0_is_offered_logs_first():
    words = offered(COSTS)
    assert words[0] == "show them in logs"
    assert set(words[1:]) == {"in square roots", "the middle 98 %"}


def test_zeros_and_values_below_are_offered_logs_to_both_sides():
    assert offered(WITH_ZEROS)[0] == "show them in logs to both sides of 0"
    assert "in logs" not in offered(WITH_ZEROS)
    assert not any("roots" in words for words in offered(BALANCE))


@pytest.mark.parametrize(
    "values", [RNG.normal(70, 12, 900), RNG.exponential(5, 900), np.full(50, 3.0), COSTS[:12]]
)
def test_what_its_axis_suits_is_offered_nothing(values):
    assert offered(values) == []


def test_codes_for_missing_dates_and_other_axes_are_no_tails():
    coded = np.concatenate([RNG.normal(5, 1, 400), [9999.0] * 5])
    codes = [n.code for n in notices(figure(coded))]
    assert "missing-code" in codes
    assert "long-tail" not in codes
    days = np.concatenate([RNG.uniform(20_000, 20_030, 400), [3.0]])
    assert tail_of(figure(days, column=DateColumn)) is None
    assert tail_of(figure(COSTS, "[axes.value]\nscale = 'log'")) is None
    assert tail_of(figure(COSTS, "[axes.value]\nto = 900")) is None


@pytest.mark.parametrize("values", [COSTS, WITH_ZEROS, BALANCE, SQUARES])
def test_each_cure_draws_a_figure_without_the_trouble_and_as_its_recipe_says(values):
    readings = figure(values)
    for words, recipe in tail_of(readings).offers:
        cured = read(read_recipe(write_recipe(recipe)), readings.gathered)
        assert tail_of(cured) is None, words
        assert cured.scale == "count", words
        assert cured.recipe == recipe


def test_the_middle_holds_98_in_100_values_and_the_rest_is_counted():
    readings = figure(COSTS)
    ((_, recipe),) = [o for o in tail_of(readings).offers if "middle" in o[0]]
    cured = read(recipe, readings.gathered)
    (drawn,) = bars(cured)
    low, high = cured.edges.low, cured.edges.high
    outside = int(((low > COSTS) | (high < COSTS)).sum())
    assert drawn.counts.sum() == len(COSTS) - outside
    assert 0.97 * len(COSTS) <= drawn.counts.sum() <= len(COSTS)
    told = [n.text for n in notices(cured) if n.code == "limits-hide"]
    assert told
    assert f"{outside:,} value" in told[0]


def test_values_whose_middle_is_wider_than_numbers_go_have_no_such_cure():
    far = np.concatenate([np.full(8, -1.7e308), np.full(200, 0.25), np.full(8, 1.7e308)])
    table = Table("t", (NumberColumn("Cost", values=far),))
    recipe = read_recipe("rhabdos = 1\n[show]\nvariables = ['Cost']\nforms = ['violin']")
    notice = tail_of(read(recipe, gather(table, "Cost")))
    assert notice is None or not [o for o in notice.offers if "middle" in o[0]]


@pytest.mark.parametrize("scale", ["root", "arsinh", "log"])
def test_bins_by_number_are_equal_along_the_axis(scale):
    readings = figure(COSTS, f"[bins]\ncount = 9\nround = false\n[axes.value]\nscale = '{scale}'")
    edges = readings.edges.values
    near = readings.scales[0].axis.near
    places = {"root": np.sqrt, "log": np.log, "arsinh": lambda x: np.arcsinh(x / near)}[scale](
        edges
    )
    assert len(edges) == 10
    assert np.diff(places) == pytest.approx(np.full(9, np.diff(places).mean()))
    assert readings.scale == "count"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("near = 5", 'for an axis whose scale is "arsinh"'),
        ("scale = 'arsinh'\nnear = 0", "above 0"),
        ("scale = 'cubes'", "linear, log, root or arsinh"),
    ],
)
def test_a_scale_that_is_none_is_refused_with_its_key(text, said):
    with pytest.raises(Exception, match=said):
        read_recipe(f"rhabdos = 1\n[show]\nvariables = ['Cost']\n[axes.value]\n{text}")


def test_values_below_0_have_no_place_among_roots_and_are_told():
    readings = figure(BALANCE, "[axes.value]\nscale = 'root'")
    (notice,) = [n for n in notices(readings) if n.code == "root-axis-hides"]
    assert notice.text.startswith(f"{int((BALANCE < 0).sum()):,} values are less than 0")
    assert bars(readings)[0].counts.sum() == (BALANCE >= 0).sum()
