"""Quantiles by every definition, hinges, and boxes."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhabdos.data.pooled import Pooled
from rhabdos.stats.boxes import box, letters
from rhabdos.stats.quantiles import IN_WORDS, quantiles, quartiles
from tests.conftest import sample_of

IN_NUMPY = {
    1: "inverted_cdf", 2: "averaged_inverted_cdf", 3: "closest_observation",
    4: "interpolated_inverted_cdf", 5: "hazen", 6: "weibull", 7: "linear", 8: "median_unbiased",
    9: "normal_unbiased",
}  # fmt: skip
numbers = st.floats(-1e6, 1e6)
lists = st.lists(numbers, min_size=1, max_size=60)
ROUND_SHARES = [0, 0.05, 0.1, 0.25, 0.5, 0.75, 0.9, 1]


@pytest.mark.parametrize("definition", IN_NUMPY)
@given(values=lists)
def test_every_definition_is_that_of_numpy(definition, values):
    shares = np.array([0.25, 0.5, 0.75, 0.03, 0.971])
    ours = quantiles(sample_of(values), shares, definition)
    theirs = np.quantile(values, shares, method=IN_NUMPY[definition])
    assert ours.tolist() == pytest.approx(theirs.tolist(), rel=1e-9, abs=1e-6)


@pytest.mark.parametrize("definition", IN_NUMPY)
@given(values=lists)
def test_quantiles_never_fall_as_the_share_rises(definition, values):
    found = quantiles(sample_of(values), np.linspace(0, 1, 41), definition)
    assert np.all(np.diff(found) >= -1e-9 * (1 + np.abs(found[:-1])))
    assert min(values) <= found[0] <= found[-1] <= max(values)


@pytest.mark.parametrize("rule", IN_WORDS)
@given(
    values=st.lists(st.integers(-500, 500), min_size=1, max_size=40),
    factor=st.sampled_from([0.5, 2, 8]),
    shift=st.integers(-64, 64),
)
def test_shifting_and_scaling_shifts_and_scales_quartiles(rule, values, factor, shift):
    plain = np.array(quartiles(sample_of(values), rule))
    moved = quartiles(sample_of(np.array(values) * factor + shift), rule)
    assert list(moved) == pytest.approx((plain * factor + shift).tolist(), abs=1e-9)


# Worked by hand: the eight numbers, their halves, and n = 1 … 5.
HINGES = {
    (1.0,): (1, 1, 1),
    (1.0, 2.0): (1, 1.5, 2),
    (1.0, 2.0, 3.0): (1.5, 2, 2.5),
    (1.0, 2.0, 3.0, 4.0): (1.5, 2.5, 3.5),
    (1.0, 2.0, 3.0, 4.0, 5.0): (2, 3, 4),
    (2.0, 4.0, 4.0, 5.0, 6.0, 7.0, 8.0): (4, 5, 6.5),
    (1.0, 1.0, 2.0, 3.0, 5.0, 8.0, 13.0, 21.0): (1.5, 4, 10.5),
}


@pytest.mark.parametrize("values", HINGES)
def test_hinges(values):
    assert quartiles(sample_of(values), "hinges") == HINGES[values]


@pytest.mark.parametrize("definition", [*IN_NUMPY, "hinges"])
def test_quartiles_of_nothing_and_of_one(definition):
    assert np.isnan(quartiles(sample_of([]), definition)).all()
    assert quartiles(sample_of([4.0]), definition) == (4, 4, 4)


def test_pooled_groups_have_the_quartiles_of_all():
    rng = np.random.default_rng(5)
    parts = [rng.normal(i, 2, 40 + i) for i in range(4)]
    pooled = Pooled(tuple(sample_of(part) for part in parts))
    for rule in IN_WORDS:
        assert quartiles(pooled, rule) == quartiles(sample_of(np.concatenate(parts)), rule)


def brute_box(values, rule, reach, far):
    """The definition, one value at a time."""
    q1, _, q3 = quartiles(sample_of(values), rule)
    iqr = q3 - q1
    inside = [v for v in values if q1 - reach * iqr <= v <= q3 + reach * iqr]
    outside = sorted(v for v in values if v not in inside)
    past = [v for v in outside if v < q1 - far * iqr or v > q3 + far * iqr]
    return min(inside), max(inside), [v for v in outside if v not in past], past


@given(lists, st.sampled_from([7, 6, 2, "hinges"]), st.sampled_from([0.5, 1.0, 1.5, 3.0]))
def test_boxes_agree_with_brute_force(values, rule, reach):
    found = box(sample_of(values), rule, reach, 3.0)
    q1, median, q3 = quartiles(sample_of(values), rule)
    inside = [v for v in values if q1 - reach * (q3 - q1) <= v <= q3 + reach * (q3 - q1)]
    if not inside:
        return
    low, high, beyond, far = brute_box(values, rule, reach, 3.0)
    assert (found.q1, found.median, found.q3) == (q1, median, q3)
    assert found.whisker_low == min(low, q1)
    assert found.whisker_high == max(high, q3)
    assert found.beyond.tolist() == beyond
    assert found.far.tolist() == far
    assert len(beyond) + len(far) + len(inside) == len(values)


def test_a_box_by_hand():
    found = box(sample_of([1, 2, 3, 4, 5, 6, 7, 8, 9, 17, 30]))
    assert (found.q1, found.median, found.q3) == (3.5, 6, 8.5)
    assert (found.whisker_low, found.whisker_high) == (1, 9)
    assert (found.beyond.tolist(), found.far.tolist()) == ([17], [30])
    assert found.mean == pytest.approx(92 / 11)
    assert found.notch_high - found.median == pytest.approx(1.57 * 5 / 11**0.5)


def test_whiskers_to_the_extremes_and_to_percentiles():
    values = list(range(1, 102))
    assert box(sample_of(values), whiskers="range").beyond.size == 0
    found = box(sample_of(values), whiskers=(5, 95))
    assert (found.whisker_low, found.whisker_high) == (6, 96)
    assert found.beyond.tolist() == [1, 2, 3, 4, 5, 97, 98, 99, 100, 101]


@pytest.mark.parametrize("values", [[], [3.0], [3.0, 3.0], [1.0, 2.0], [1.0, 2.0, 9.0], [5.0] * 40])
@pytest.mark.parametrize("whiskers", [1.5, "range", (5, 95), 0.0])
def test_small_and_equal_samples_have_boxes(values, whiskers):
    found = box(sample_of(values), whiskers=whiskers)
    assert found.n == len(values)
    if values:
        assert found.whisker_low <= found.q1 <= found.median <= found.q3 <= found.whisker_high
    else:
        assert np.isnan(found.median)
        assert found.beyond.size == found.far.size == 0


def test_letter_values_by_hand():
    assert [(one.depth, one.low, one.high) for one in letters(sample_of(range(1, 34)))] == [
        (17, 17, 17),
        (9, 9, 25),
        (5, 5, 29),
    ]
    assert [(one.depth, one.low, one.high) for one in letters(sample_of([1, 2, 4, 8]))] == [
        (2.5, 3, 3)
    ]
    assert letters(sample_of([])) == ()
    assert len(letters(sample_of(np.arange(10_000.0)))) == 11


@given(st.lists(numbers, min_size=1, max_size=300))
def test_letter_values_are_ordered_and_halve_the_depth(values):
    ordered = sorted(values)
    found = letters(sample_of(values))
    assert found[0].low == pytest.approx(np.median(values))
    for outer, inner in itertools.pairwise(found[::-1]):
        assert outer.depth == (math.floor(inner.depth) + 1) / 2
        assert outer.low <= inner.low <= inner.high <= outer.high
    for one in found:
        below, above = ordered[math.floor(one.depth) - 1], ordered[math.ceil(one.depth) - 1]
        assert one.low == pytest.approx((below + above) / 2)
