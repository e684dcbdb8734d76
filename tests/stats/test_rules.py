"""Rules for bin widths, against NumPy where it has them and published formulas elsewhere."""

import math
from typing import get_args

import numpy as np
import pytest

from rhabdos.stats.binning import BinningError, counts
from rhabdos.stats.rounding import STEPS, exponent_of
from rhabdos.stats.rules import MOST_RULE_BINS, RULES, Rule, RuleName, by_rule
from tests.conftest import sample_of

IN_NUMPY = {
    "sturges": "sturges",
    "rice": "rice",
    "scott": "scott",
    "freedman-diaconis": "fd",
    "square-root": "sqrt",
}
rng = np.random.default_rng(4)
SHAPES = {
    "normal": rng.normal(70, 8, 1500),
    "skewed": rng.gamma(2, 3, 900),
    "two humps": np.concatenate([rng.normal(60, 4, 300), rng.normal(90, 5, 500)]),
    "few": rng.normal(0, 1, 12),
    "tied": rng.normal(0, 1, 400).round(1),
}


@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize("rule", IN_NUMPY)
def test_exact_edges_are_those_of_numpy(rule, shape):
    values = SHAPES[shape]
    ours = by_rule(sample_of(values), rule, rounded=False).edges.values
    theirs = np.histogram_bin_edges(values, IN_NUMPY[rule])
    assert ours.tolist() == pytest.approx(theirs.tolist(), rel=1e-12, abs=1e-12)


def _least(values, most, cost):
    """The number of equal bins with the least cost, by NumPy's own counting."""
    return min(
        range(1, most + 1), key=lambda m: cost(np.histogram(values, m)[0], np.ptp(values) / m)
    )


@pytest.mark.parametrize("shape", SHAPES)
def test_stone_finds_the_least_estimated_error(shape):
    values = SHAPES[shape]

    def error(counts, width):
        shares = counts / len(values)
        return (2 - (len(values) + 1) * shares @ shares) / width

    bins = round(np.ptp(values) / RULES["stone"].width(sample_of(values)))
    assert bins == _least(values, 100, error)


@pytest.mark.parametrize("shape", SHAPES)
def test_knuth_finds_the_most_probable_number_of_bins(shape):
    values = SHAPES[shape]

    def improbability(counts, _width):
        n, m = len(values), len(counts)
        known = n * math.log(m) + math.lgamma(m / 2) - m * math.lgamma(0.5) - math.lgamma(n + m / 2)
        return -(known + sum(math.lgamma(k + 0.5) for k in counts))

    bins = round(np.ptp(values) / RULES["knuth"].width(sample_of(values)))
    assert bins == _least(values, 100, improbability)


@pytest.mark.parametrize("shape", SHAPES)
def test_shimazaki_and_shinomoto_find_the_least_expected_error(shape):
    values = SHAPES[shape]
    bins = round(np.ptp(values) / RULES["shimazaki-shinomoto"].width(sample_of(values)))
    assert bins == _least(
        values, 100, lambda counts, width: (2 * counts.mean() - counts.var()) / width**2
    )


def test_a_rule_is_worked_out_once_for_a_sample(monkeypatch):
    asked = []
    rule = Rule("x", "x", lambda sample: asked.append(1) or 1.0)
    monkeypatch.setitem(RULES, "stone", rule)
    sample = sample_of(SHAPES["few"])
    by_rule(sample, "stone")
    by_rule(sample, "stone", closed="right")
    assert len(asked) == 1


def test_searching_rules_see_two_humps_that_sturges_smooths_over():
    rng = np.random.default_rng(3)
    values = np.concatenate([rng.normal(0, 0.3, 4000), rng.normal(3, 0.3, 4000)])
    sample = sample_of(values)
    for rule in ("stone", "knuth"):
        assert by_rule(sample, rule).edges.width < by_rule(sample, "sturges").edges.width


def test_doane_follows_its_formula():
    values = SHAPES["skewed"]
    n, spread = len(values), values.std()
    skewness = np.mean(((values - values.mean()) / spread) ** 3)
    error = math.sqrt(6 * (n - 2) / ((n + 1) * (n + 3)))
    expected = 1 + math.log2(n) + math.log2(1 + abs(skewness) / error)
    assert RULES["doane"].width(sample_of(values)) == pytest.approx(
        np.ptp(values) / expected, rel=1e-12
    )


@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize("rule", RULES)
def test_round_edges_are_round_and_hold_every_value(rule, shape):
    sample = sample_of(SHAPES[shape])
    edges = by_rule(sample, rule).edges
    digits = edges.width / 10.0 ** exponent_of(edges.width)
    assert min(abs(digits - step) for step in (*STEPS, 10.0)) < 1e-9
    assert (edges.low / edges.width) == pytest.approx(round(edges.low / edges.width), abs=1e-6)
    assert counts(sample, edges).sum() == sample.n


@pytest.mark.parametrize("rule", RULES)
@pytest.mark.parametrize(
    "values",
    [[3.0], [2.0] * 9, [1.0, 2.0], [0, 0, 0, 0, 0, 0, 7], [1e-308, 3e-308], [1e307, 5e307]],
)
def test_small_and_odd_samples_get_bins(rule, values):
    sample = sample_of(values)
    assert counts(sample, by_rule(sample, rule).edges).sum() == sample.n


def test_whole_numbers_get_whole_widths_and_a_bin_for_each_value():
    sample = sample_of(rng.poisson(2, 500))
    edges = by_rule(sample, "freedman-diaconis").edges
    assert edges.width == 1
    assert counts(sample, edges).tolist() == np.bincount(sample.values.astype(int)).tolist()


def test_a_rule_without_a_width_hands_over_and_says_to_whom():
    sample = sample_of([5.0] * 80 + rng.normal(5, 2, 20).tolist())
    ruled = by_rule(sample, "freedman-diaconis")
    assert ruled.instead == "scott"
    assert ruled.edges.values.tolist() == by_rule(sample, "scott").edges.values.tolist()
    assert by_rule(sample_of(SHAPES["normal"]), "freedman-diaconis").instead is None


def test_a_rule_never_makes_more_than_its_most_bins_and_says_so():
    sample = sample_of(np.concatenate([rng.normal(0, 1, 5000), [1e7]]))
    ruled = by_rule(sample, "freedman-diaconis", rounded=False)
    assert ruled.edges.count <= MOST_RULE_BINS
    assert ruled.limited
    assert not by_rule(sample_of(SHAPES["normal"]), "freedman-diaconis").limited


def test_values_from_end_to_end_of_the_range_are_refused():
    with pytest.raises(BinningError, match="too far apart"):
        by_rule(sample_of([-1e308, 1e308]), "sturges")


def test_an_empty_sample_is_refused():
    with pytest.raises(BinningError, match="no values"):
        by_rule(sample_of([]), "sturges")


def test_every_rule_name_has_its_rule():
    assert set(get_args(RuleName)) == set(RULES)


def test_shifting_and_scaling_the_values_does_the_same_to_exact_edges():
    values = SHAPES["two humps"]
    for rule in RULES:
        plain = by_rule(sample_of(values), rule, rounded=False).edges.values
        moved = by_rule(sample_of(8 * values + 64), rule, rounded=False).edges.values
        assert moved.tolist() == pytest.approx((8 * plain + 64).tolist(), rel=1e-9)
