"""Notices of odd values: what they find, what they leave alone, and what their cures do."""

import numpy as np
import pytest
from scipy.stats import norm

from rhabdos.data.gathering import gather
from rhabdos.figure.forms.bars import bars, outside
from rhabdos.figure.forms.curve import density_curves
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.recipe.demo_recipe import demo_recipe
from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.stats.oddities import heaping, missing_code
from tests.conftest import asking, sample_of, set_of

rng = np.random.default_rng(11)
NORMAL = rng.normal(20, 4, 400)


def told(recipe, samples):
    return {notice.code: notice for notice in notices(read(recipe, samples))}


@pytest.mark.parametrize(("code", "times"), [(-9, 5), (-1, 2), (999, 8), (-99, 3), (99, 3)])
def test_codes_for_missing_are_found(code, times):
    spike = missing_code(sample_of(np.append(np.abs(NORMAL), [code] * times)))
    assert (spike.code, spike.count) == (code, times)


@pytest.mark.parametrize(
    "values",
    [
        NORMAL,
        np.append(NORMAL, 999.0),  # once is a value
        np.append(NORMAL, [998.0] * 5),  # no usual code
        rng.normal(0, 6, 500).round(),  # -9 is among the values
        rng.integers(90, 100, 300),  # and so is 99
        np.array([-9.0] * 300 + [5.0] * 20),  # what most values are is no code
        [-9.0, -9.0, 3.0],
        [],
    ],
)
def test_values_that_are_no_code_are_left_alone(values):
    assert missing_code(sample_of(values)) is None


def test_the_cure_of_a_code_begins_the_bins_above_it_and_counts_it_outside():
    samples = set_of(np.append(np.abs(NORMAL), [-9] * 5).tolist())
    notice = told(asking(), samples)["missing-code"]
    assert "5 values are exactly −9" in notice.text
    assert outside(read(notice.cure, samples)) == 5
    assert "missing-code" not in told(notice.cure, samples)


@pytest.mark.parametrize(("step", "share"), [(5, 0.7), (10, 0.5), (5, 1.0)])
def test_heaped_values_are_found(step, share):
    values = rng.normal(300, 60, 800).round()
    heaped = rng.random(800) < share
    values[heaped] = step * np.round(values[heaped] / step)
    assert heaping(sample_of(values)).step == step


@pytest.mark.parametrize(
    "values", [NORMAL, rng.normal(300, 60, 800).round(), rng.integers(0, 20, 500), [5.0] * 40, []]
)
def test_values_that_are_not_heaped_are_left_alone(values):
    assert heaping(sample_of(values)) is None


def test_the_cure_of_heaping_makes_bins_of_whole_steps():
    samples = set_of((5 * rng.normal(60, 12, 500).round()).tolist())
    notice = told(asking(width=7.0), samples)["heaped-values"]
    assert read(notice.cure, samples).edges.width == 5
    assert told(notice.cure, samples)["heaped-values"].cure is None


def test_very_small_groups_are_named():
    recipe = asking(width=5.0).showing(split=("Bay",), heights="percent")
    groups = [float(v) for v in range(40)], [1.0, 2.0], [3.0]
    assert told(recipe, set_of(*groups))["small-groups"].text.endswith("shape: B (2), C (1).")


@pytest.mark.parametrize(
    ("variable", "code"),
    [("Water temperature", "missing-code"), ("Days to harvest", "heaped-values")],
)
def test_the_demo_has_what_notices_are_for(demo, variable, code):
    assert code in told(Recipe(show=Show(variables=(variable,))), gather(demo, variable))


def test_oddities_are_not_looked_for_again_while_a_hand_drags(monkeypatch):
    sample = sample_of(5 * rng.normal(60, 12, 500).round())
    first = heaping(sample), missing_code(sample)
    monkeypatch.setattr(type(sample), "below", None)
    assert (heaping(sample), missing_code(sample)) == first


def test_the_demo_figure_itself_needs_no_notice(demo):
    assert told(demo_recipe(), gather(demo, "Shell length", "Bay")) == {}


def test_too_few_bins_are_told_and_the_cure_shows_the_peaks():
    humps = np.concatenate([rng.normal(40, 3, 500), rng.normal(60, 3, 500)]).round(2)
    samples = set_of(humps.tolist())
    notice = told(asking(width=25.0), samples)["too-few-bins"]
    assert notice.text == "Length shows 2 peaks in bins 5 mm wide, and only 1 peak in these."
    assert "too-few-bins" not in told(notice.cure, samples)
    assert sum(bars(read(notice.cure, samples))[0].counts) == 1000


@pytest.mark.parametrize(
    "values", [NORMAL, rng.normal(300, 60, 800).round(), rng.integers(0, 9, 400), [1.0, 2.0]]
)
def test_one_hump_asks_for_no_more_bins(values):
    assert "too-few-bins" not in told(
        asking(width=5.0), set_of(np.asarray(values, dtype=float).tolist())
    )


@pytest.mark.parametrize(
    ("values", "unit", "bound", "name"),
    [
        (rng.exponential(3, 300), "g", 0, "lower"),
        (100 - rng.exponential(3, 300), "%", 100, "upper"),
    ],
)
def test_a_curve_past_a_bound_is_told_and_the_cure_ends_it_there(values, unit, bound, name):
    samples = set_of(values.tolist(), unit=unit)
    recipe = asking().showing(forms=("bars", "curve"))
    notice = told(recipe, samples)["past-bound"]
    assert f"{bound}, where no value lies" in notice.text
    width = density_curves(read(recipe, samples))[0].bandwidth
    past = norm.cdf((bound - values) / width if bound == 0 else (values - bound) / width).mean()
    assert f"puts up to {100 * past:.1f} % of" in notice.text
    assert getattr(notice.cure.curve, name) == bound
    assert "past-bound" not in told(notice.cure, samples)
    assert "past-bound" not in told(asking(), samples)


def test_a_curve_far_from_any_bound_is_left_alone():
    assert "past-bound" not in told(
        asking().showing(forms=("curve",)), set_of(rng.normal(70, 3, 200).tolist(), unit="%")
    )
