"""Rounding, quantiles, summaries and heights, against exact and independent answers."""

import statistics
from decimal import Decimal
from fractions import Fraction
from unittest import mock

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as scipy_stats

import rhabdos.data.pooled as pooled_module
from rhabdos.data.pooled import Pooled
from rhabdos.data.samples import Sample, Weighted
from rhabdos.stats.binning import Edges, counts
from rhabdos.stats.heights import heights
from rhabdos.stats.quantiles import quantiles
from rhabdos.stats.rounding import multiple_below, nearest_round_step, round_steps, sequence
from rhabdos.stats.summary import summarise
from tests.conftest import sample_of

numbers = st.floats(-1e9, 1e9)
two_places = st.decimals(-10_000, 10_000, places=2).map(float)
steps = st.sampled_from([0.05, 0.1, 0.25, 0.3, 1.0, 2.5, 4.0, 1000.0])


@given(two_places, steps, st.integers(1, 200))
def test_a_sequence_is_the_nearest_doubles_of_the_decimals(start, step, count):
    expected = [float(Decimal(repr(start)) + k * Decimal(repr(step))) for k in range(count)]
    assert sequence(start, step, count).tolist() == expected


@given(two_places, steps)
def test_the_multiple_below_is_below_and_near(value, step):
    below = multiple_below(value, step)
    assert below <= value
    assert Decimal(repr(value)) - Decimal(repr(below)) < Decimal(repr(step)) * Decimal("1.0000001")


@pytest.mark.parametrize(
    ("value", "whole", "expected"),
    [
        (4.2, False, 5), (3.1, False, 2.5), (0.0123, False, 0.01), (870, False, 1000),
        (0.2, True, 1), (2.4, True, 2),
    ],
)  # fmt: skip
def test_the_nearest_round_step(value, whole, expected):
    assert nearest_round_step(value, whole) == expected


def test_round_steps_between_two_numbers():
    assert round_steps(0.4, 6) == [0.5, 1, 2, 2.5, 5]
    assert round_steps(0.4, 6, whole=True) == [1, 2, 5]


@given(
    st.lists(numbers, min_size=1, max_size=80), st.lists(st.floats(0, 1), min_size=1, max_size=9)
)
def test_quantiles_are_those_of_numpy(values, shares):
    ours = quantiles(sample_of(values), np.array(shares))
    assert ours.tolist() == pytest.approx(np.quantile(values, shares).tolist(), rel=1e-9, abs=1e-9)


@given(st.lists(st.lists(numbers, max_size=25), min_size=1, max_size=4).filter(any))
def test_pooled_samples_answer_like_one(groups):
    together = sample_of([value for group in groups for value in group])
    pooled = Pooled(tuple(sample_of(group) for group in groups))
    ranks = np.arange(together.n)
    assert pooled.at(ranks).tolist() == together.values.tolist()
    with mock.patch.object(pooled_module, "_FEW_VALUES", 0):  # as if they were very many
        assert pooled.at(ranks[:60]).tolist() == together.values[:60].tolist()
        assert pooled.at(ranks).tolist() == together.values.tolist()
    assert pooled.moments.mean == pytest.approx(together.moments.mean, rel=1e-9, abs=1e-6)
    assert pooled.moments.norm == pytest.approx(together.moments.norm, rel=1e-7, abs=1e-4)
    unit = together.moments.norm or 1.0
    assert (pooled.moments.cube / unit) ** 3 == pytest.approx(
        (together.moments.cube / unit) ** 3, rel=1e-6, abs=1e-6
    )
    assert (pooled.minimum, pooled.maximum) == (together.minimum, together.maximum)


@given(st.lists(st.integers(-(10**6), 10**6).map(lambda k: k / 8), min_size=2, max_size=60))
def test_mean_and_sd_are_those_of_exact_fractions(values):
    summary = summarise(sample_of(values))
    exact = [Fraction(value) for value in values]
    assert summary.mean == pytest.approx(float(statistics.mean(exact)), rel=1e-12, abs=1e-12)
    assert summary.sd**2 == pytest.approx(float(statistics.variance(exact)), rel=1e-9, abs=1e-12)


@pytest.mark.parametrize("offset", [0.0, 1e6, 1e9, 1e12, 1e15])
def test_sd_keeps_its_digits_far_from_zero(offset):
    spread = np.tile([-0.5, 0.25, 0.5, -0.125], 250)
    values = offset + spread
    exact = statistics.variance([Fraction(float(v)) for v in values])
    assert summarise(sample_of(values)).sd == pytest.approx(float(exact) ** 0.5, rel=1e-12)


@pytest.mark.parametrize("scale", [1e-308, 1e-200, 1.0, 1e200, 1e307])
def test_mean_and_sd_survive_the_ends_of_the_range(scale):
    values = np.array([1.0, 2.0, 4.0, 8.0]) * scale
    summary = summarise(sample_of(values))
    assert summary.mean == pytest.approx(3.75 * scale, rel=1e-9)
    assert summary.sd == pytest.approx(3.0956959368344519 * scale, rel=1e-9)


def test_a_long_sample_agrees_with_scipy():
    values = np.random.default_rng(1).gamma(2, 3, 700_001)
    summary, theirs = summarise(sample_of(values)), scipy_stats.describe(values)
    assert summary.mean == pytest.approx(theirs.mean, rel=1e-12)
    assert summary.sd == pytest.approx(theirs.variance**0.5, rel=1e-11)
    assert (summary.min, summary.max) == theirs.minmax
    moments = sample_of(values).moments
    assert len(values) ** 0.5 * (moments.cube / moments.norm) ** 3 == pytest.approx(
        theirs.skewness, rel=1e-10
    )
    assert summary.iqr == pytest.approx(scipy_stats.iqr(values), rel=1e-12)


def test_samples_of_none_and_one():
    nothing, one = summarise(sample_of([])), summarise(sample_of([4.5]))
    assert nothing.n == 0
    assert all(
        np.isnan(v)
        for v in (nothing.mean, nothing.sd, nothing.median, nothing.iqr, nothing.mad, nothing.se)
    )
    assert (one.mean, one.median, one.q1, one.max, one.iqr) == (4.5, 4.5, 4.5, 4.5, 0)
    assert (one.trimmed_mean, one.mad) == (4.5, 0)
    assert all(
        np.isnan(v) for v in (one.sd, one.se, one.variance, one.skewness, one.kurtosis, one.cv)
    )


@pytest.mark.slow
@given(st.lists(st.integers(-(10**5), 10**5).map(lambda k: k / 4), min_size=4, max_size=60))
def test_shape_and_robust_numbers_are_those_of_scipy(values):
    ours = summarise(sample_of(values))
    assert ours.trimmed_mean == pytest.approx(
        scipy_stats.trim_mean(values, 0.1), rel=1e-12, abs=1e-9
    )
    assert ours.mad == pytest.approx(scipy_stats.median_abs_deviation(values), rel=1e-12)
    assert ours.se == pytest.approx(scipy_stats.sem(values), rel=1e-9, abs=1e-12)
    if len(set(values)) > 1:
        assert ours.skewness == pytest.approx(
            scipy_stats.skew(values, bias=False), rel=1e-6, abs=1e-6
        )
        assert ours.kurtosis == pytest.approx(
            scipy_stats.kurtosis(values, bias=False), rel=1e-6, abs=1e-6
        )
        if ours.mean:
            assert ours.cv == pytest.approx(abs(scipy_stats.variation(values, ddof=1)), rel=1e-9)


@given(
    st.lists(st.integers(-1000, 1000), min_size=4, max_size=40).filter(lambda v: len(set(v)) > 1),
    st.sampled_from([0.5, 2.0, 8.0]),
    st.integers(-500, 500),
)
def test_shifting_and_scaling_shifts_and_scales_a_summary(values, factor, shift):
    plain, moved = (
        summarise(sample_of(values)),
        summarise(sample_of(np.array(values) * factor + shift)),
    )
    for name in ("mean", "trimmed_mean", "min", "q1", "median", "q3", "max"):
        assert getattr(moved, name) == pytest.approx(
            getattr(plain, name) * factor + shift, abs=1e-9
        )
    for name in ("sd", "se", "mad", "iqr"):
        assert getattr(moved, name) == pytest.approx(getattr(plain, name) * factor, abs=1e-9)
    for name in ("skewness", "kurtosis"):
        assert getattr(moved, name) == pytest.approx(getattr(plain, name), abs=1e-6)


@pytest.mark.slow
@given(st.lists(st.lists(numbers, max_size=25), min_size=1, max_size=4).filter(any), st.data())
def test_means_of_runs_are_those_of_the_merged_values(groups, data):
    merged = np.sort([value for group in groups for value in group])
    pooled = Pooled(tuple(sample_of(group) for group in groups))
    start = data.draw(st.integers(0, len(merged) - 1))
    stop = data.draw(st.integers(start + 1, len(merged)))
    assert pooled.mean_of(start, stop) == pytest.approx(
        merged[start:stop].mean(), rel=1e-9, abs=1e-6
    )
    assert np.isnan(pooled.mean_of(stop, stop))
    ours, theirs = summarise(pooled), summarise(sample_of(merged))
    assert ours.mad == pytest.approx(theirs.mad, rel=1e-12)
    unit = theirs.kurtosis if theirs.kurtosis == theirs.kurtosis else 0.0
    assert (ours.kurtosis if ours.kurtosis == ours.kurtosis else 0.0) == pytest.approx(
        unit, rel=1e-3, abs=1e-3
    )


# A hundred measurements of the speed of light, in km/s above 299,000 (Michelson 1879).
MICHELSON = [
    850, 740, 900, 1070, 930, 850, 950, 980, 980, 880, 1000, 980, 930, 650, 760, 810, 1000, 1000,
    960, 960, 960, 940, 960, 940, 880, 800, 850, 880, 900, 840, 830, 790, 810, 880, 880, 830, 800,
    790, 760, 800, 880, 880, 880, 860, 720, 720, 620, 860, 970, 950, 880, 910, 850, 870, 840, 840,
    850, 840, 840, 840, 890, 810, 810, 820, 800, 770, 760, 740, 750, 760, 910, 920, 890, 860, 880,
    720, 840, 850, 850, 780, 890, 840, 780, 810, 760, 810, 790, 810, 820, 850, 870, 870, 810, 740,
    810, 940, 950, 800, 810, 870,
]  # fmt: skip


@pytest.mark.parametrize(
    ("values", "mean", "sd"),
    [
        ([10000001, 10000003, 10000002], 10000002, 1),
        ([1.2, *([1.1, 1.3] * 500)], 1.2, 0.1),
        ([1000000.2, *([1000000.1, 1000000.3] * 500)], 1000000.2, 0.1),
        ([10000000.2, *([10000000.1, 10000000.3] * 500)], 10000000.2, 0.1),
        ([299 + one / 1000 for one in MICHELSON], 299.8524, 0.0790105478190518),
    ],
    ids=["three", "near 1", "near 10^6", "near 10^7", "light"],
)
def test_certified_values_of_the_statistical_reference_datasets(values, mean, sd):
    """The univariate datasets of the NIST (Rogers et al. 1998) that can be written down, to their hardness."""
    summary = summarise(sample_of(values))
    assert summary.mean == pytest.approx(mean, rel=1e-14)
    assert summary.sd == pytest.approx(
        sd, rel=2e-8 if mean > 9e6 else 1e-9 if mean > 9e5 else 5e-14
    )


@given(
    st.lists(st.floats(-100, 100), min_size=1, max_size=60),
    st.lists(st.floats(-120, 120), min_size=2, max_size=10, unique=True),
)
def test_every_scale_says_the_same(values, edges):
    sample, wanted = sample_of(values), Edges(np.sort(edges))
    inside = counts(sample, wanted)
    percent = heights(inside, wanted.widths, "percent", sample.n)
    density = heights(inside, wanted.widths, "density", sample.n)
    share_inside = inside.sum() / sample.n
    outside = sum(v < wanted.low or v > wanted.high for v in values)
    assert inside.sum() + outside == sample.n
    assert (density * wanted.widths).sum() == pytest.approx(share_inside, abs=1e-12)
    assert percent.sum() == pytest.approx(100 * share_inside)
    assert heights(inside, wanted.widths, "proportion", sample.n) * 100 == pytest.approx(percent)
    assert heights(inside, wanted.widths, "count", sample.n).tolist() == inside.tolist()


def test_density_is_that_of_numpy():
    values = np.random.default_rng(2).normal(0, 1, 300)
    edges = np.array([-4, -1, -0.5, 0, 2, 5.0])
    expected, _ = np.histogram(values, edges, density=True)
    inside = counts(sample_of(values), Edges(edges))
    assert heights(inside, np.diff(edges), "density", 300) == pytest.approx(expected)


def test_heights_of_an_empty_group_are_zero():
    assert heights(np.zeros(3, int), np.ones(3), "percent", 0).tolist() == [0, 0, 0]


SHAPES = {
    "far from zero": lambda rng: 1e8 + rng.normal(0, 1, 300),
    "skewed": lambda rng: rng.lognormal(0, 3, 300),
    "of two values": lambda rng: rng.integers(0, 2, 300).astype(float),
    "with one far off": lambda rng: np.append(rng.normal(0, 1e-6, 299), 1e6),
    "very large": lambda rng: rng.normal(0, 1, 300) * 1e300,
    "very small": lambda rng: rng.normal(0, 1, 300) * 1e-300,
    "all the same": lambda rng: np.full(300, 0.1),
}


@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize("heavy", [None, 1, 10**12])
def test_moments_agree_with_exact_fractions(shape, heavy):
    rng = np.random.default_rng(8)
    values = np.sort(SHAPES[shape](rng))
    cases = np.ones(300, dtype=np.int64)
    sample = Sample("v", values)
    if heavy is not None:
        cases = rng.integers(1, 9, 300)
        cases[0] = heavy
        sample = Weighted("v", values, np.cumsum(cases))
    exact = [Fraction(value) for value in values.tolist()]
    n = int(cases.sum())
    mean = sum(value * int(k) for value, k in zip(exact, cases, strict=True)) / n

    def root(power: int) -> float:
        """The root of the summed powers of deviations, as a double."""
        total = sum(int(k) * (v - mean) ** power for v, k in zip(exact, cases, strict=True))
        scale = Fraction(2) ** {"very small": 990, "very large": -990}.get(shape, 0)
        sign = -1 if total < 0 else 1
        return sign * float(abs(total) * scale**power) ** (1 / power) / float(scale)

    moments = sample.moments
    assert moments.mean == pytest.approx(float(mean), rel=1e-11, abs=0)
    assert moments.norm == pytest.approx(root(2), rel=1e-12, abs=0)
    assert moments.fourth == pytest.approx(root(4), rel=1e-12, abs=0)
    assert moments.cube == pytest.approx(root(3), rel=1e-9, abs=1e-6 * moments.norm)


@pytest.mark.parametrize("ranks", [40, 100, 4_000])  # searched, searched, merged
def test_ranks_of_very_many_pooled_values_are_those_of_all_in_order(ranks):
    rng = np.random.default_rng(ranks)
    groups = [rng.normal(40, 9, 70_000).round(3), rng.gamma(2, 30, 60_000), np.full(9, 41.0)]
    pooled = Pooled(tuple(sample_of(group.tolist()) for group in groups))
    everything = np.sort(np.concatenate(groups))
    asked = rng.integers(0, len(everything), (2, ranks // 2))
    np.testing.assert_array_equal(pooled.at(asked), everything[asked])
