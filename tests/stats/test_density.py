"""Density curves against sums over all values, SciPy, and known shapes."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as scipy_stats
from scipy.integrate import quad, trapezoid
from scipy.optimize import brentq

from rhabdos.data.samples import Pooled
from rhabdos.stats.bandwidths import bandwidth_by
from rhabdos.stats.density import KERNELS, DensityError, density
from tests.conftest import sample_of

RULES = ["silverman", "scott", "sheather-jones", "improved-sheather-jones"]
rng = np.random.default_rng(12)
SHAPES = {
    "normal": rng.normal(70, 8, 900),
    "skewed": rng.gamma(2, 3, 700),
    "two humps": np.concatenate([rng.normal(60, 2, 300), rng.normal(90, 5, 500)]),
    "heaped": np.round(rng.normal(50, 9, 600) / 5) * 5,
    "with a far value": np.append(rng.normal(0, 1, 200), 60.0),
}


def direct_sum(values, x, bandwidth, kernel):
    shape = KERNELS[kernel]
    u = (x[:, None] - np.asarray(values)[None, :]) / bandwidth
    return np.where(np.abs(u) <= shape.reach, shape.height(u), 0).mean(axis=1) / bandwidth


@pytest.mark.parametrize("kernel", KERNELS)
def test_kernels_have_area_1_and_standard_deviation_1(kernel):
    shape = KERNELS[kernel]

    def height(u):
        return float(shape.height(np.array([u]))[0])

    assert quad(height, -shape.reach, shape.reach)[0] == pytest.approx(1, abs=1e-7)
    assert quad(lambda u: u * u * height(u), -shape.reach, shape.reach)[0] == pytest.approx(1, abs=1e-6)


@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize("kernel", KERNELS)
@pytest.mark.parametrize("share", [0.3, 1.0])
def test_curves_agree_with_the_direct_sum(shape, kernel, share):
    values = SHAPES[shape]
    bandwidth = share * bandwidth_by(sample_of(values), "silverman")
    curve = density(sample_of(values), bandwidth, kernel)
    exact = direct_sum(values, curve.x, bandwidth, kernel)
    off = np.abs(curve.y - exact)
    if kernel == "rectangular":  # where a value lies at the very end of the reach, either answer is right
        assert np.mean(off > 1e-9) < 0.02
    else:
        assert off.max() <= 1e-4 * exact.max()


@pytest.mark.parametrize("kernel", ["gaussian", "triangular"])
@pytest.mark.parametrize("heaped", [False, True])
def test_long_samples_agree_too_though_not_every_value_is_read(kernel, heaped):
    values = np.random.default_rng(7).gamma(3, 2, 400_000)
    values = np.round(values * 2) / 2 if heaped else values
    curve = density(sample_of(values), 0.35, kernel, points=64)
    places, counts = np.unique(values, return_counts=True)
    u = (curve.x[:, None] - places[None, :]) / 0.35
    shape = KERNELS[kernel]
    exact = (np.where(np.abs(u) <= shape.reach, shape.height(u), 0) @ counts) / len(values) / 0.35
    assert np.abs(curve.y - exact).max() <= 1e-4 * exact.max()


@pytest.mark.parametrize("shape", SHAPES)
def test_gaussian_curves_are_those_of_scipy(shape):
    values = SHAPES[shape]
    theirs = scipy_stats.gaussian_kde(values, bw_method=0.2)
    bandwidth = 0.2 * values.std(ddof=1)
    curve = density(sample_of(values), bandwidth)
    assert np.abs(curve.y - theirs(curve.x)).max() <= 1e-4 * curve.y.max()


@pytest.mark.parametrize("kernel", KERNELS)
@given(values=st.lists(st.floats(0, 10), min_size=2, max_size=40), bandwidth=st.floats(0.2, 3))
def test_curves_integrate_to_1_also_within_bounds(kernel, values, bandwidth):
    for lower, upper in ((None, None), (0.0, None)):
        curve = density(sample_of(values), bandwidth, kernel, lower, upper, points=4096)
        assert trapezoid(curve.y, curve.x) == pytest.approx(1, abs=4e-3)
        assert curve.y.min() >= 0
    assert curve.x[0] == 0 or curve.x[0] > 0


def test_a_bounded_curve_folds_back_what_would_lie_beyond():
    values = rng.exponential(1, 2000)
    free, bounded = density(sample_of(values), 0.2), density(sample_of(values), 0.2, lower=0.0)
    assert free.x[0] < 0 == bounded.x[0]
    assert bounded.y[0] == pytest.approx(2 * np.interp(0, free.x, free.y), rel=1e-3)
    exact = direct_sum(values, bounded.x, 0.2, "gaussian") + direct_sum(values, -bounded.x, 0.2, "gaussian")
    assert np.abs(bounded.y - exact).max() <= 1e-4 * exact.max()


def test_shifting_and_scaling_does_the_same_to_curve_and_bandwidths():
    values = SHAPES["two humps"]
    for rule in RULES:
        plain, moved = bandwidth_by(sample_of(values), rule), bandwidth_by(sample_of(4 * values - 32), rule)
        assert moved == pytest.approx(4 * plain, rel=1e-6)
    plain, moved = density(sample_of(values), 1.0), density(sample_of(4 * values - 32), 4.0)
    assert moved.x == pytest.approx(4 * plain.x - 32)
    assert moved.y == pytest.approx(plain.y / 4, abs=1e-9)


def test_pooled_groups_have_the_curve_of_all():
    values = SHAPES["two humps"]
    pooled = Pooled((sample_of(values[:300]), sample_of(values[300:])))
    assert density(pooled, 1.5).y == pytest.approx(density(sample_of(values), 1.5).y, abs=1e-12)


def test_normal_reference_bandwidths_follow_their_formulas():
    values = SHAPES["skewed"]
    scale = min(values.std(ddof=1), scipy_stats.iqr(values) / 1.34) * len(values) ** -0.2
    assert bandwidth_by(sample_of(values), "silverman") == pytest.approx(0.9 * scale, rel=1e-12)
    assert bandwidth_by(sample_of(values), "scott") == pytest.approx(1.06 * scale, rel=1e-12)


def sheather_jones_by_all_pairs(values):
    """Their equation with every pair of values, and a general root finder."""
    n = len(values)
    gaps = values[:, None] - values[None, :]
    scale = min(values.std(ddof=1), scipy_stats.iqr(values) / 1.349)

    def phi4(h):
        u = gaps / h
        return ((u**4 - 6 * u**2 + 3) * np.exp(-(u**2) / 2)).sum() / (math.sqrt(2 * math.pi) * n * (n - 1) * h**5)

    def phi6(h):
        u = gaps / h
        return ((u**6 - 15 * u**4 + 45 * u**2 - 15) * np.exp(-(u**2) / 2)).sum() / (
            math.sqrt(2 * math.pi) * n * (n - 1) * h**7
        )

    ratio = 1.357 * (phi4(0.92 * scale * n ** (-1 / 7)) / -phi6(0.912 * scale * n ** (-1 / 9))) ** (1 / 7)
    return brentq(
        lambda h: (1 / (2 * math.sqrt(math.pi) * n * phi4(ratio * h ** (5 / 7)))) ** 0.2 - h, 0.05 * scale, 2 * scale
    )


@pytest.mark.parametrize("shape", ["normal", "skewed", "two humps"])
def test_sheather_and_jones_agree_with_all_pairs(shape):
    values = SHAPES[shape]
    assert bandwidth_by(sample_of(values), "sheather-jones") == pytest.approx(
        sheather_jones_by_all_pairs(values), rel=2e-3
    )


def improved_by_direct_cosines(values):
    """Botev, Grotowski and Kroese's equation from cosines of the values themselves, and a general root finder."""
    n, low, reach = len(values), values.min() - np.ptp(values) / 2, 2 * np.ptp(values)
    k = np.arange(1, 1200)
    squares = np.cos(np.pi * k[:, None] * (values - low) / reach).mean(axis=1) ** 2

    def roughness(s, t):
        return 2 * np.pi ** (2 * s) * (k ** (2.0 * s) * squares * np.exp(-(k**2) * np.pi**2 * t)).sum()

    def gamma(t):
        f = roughness(7, t)
        for s in range(6, 1, -1):
            odd = math.prod(range(1, 2 * s, 2))
            t = (2 / (n * f) * (1 + 0.5 ** (s + 0.5)) / 3 * odd / math.sqrt(2 * math.pi)) ** (2 / (3 + 2 * s))
            f = roughness(s, t)
        return (2 * n * math.sqrt(math.pi) * f) ** -0.4

    tried = np.geomspace(1e-5, 0.1, 400)
    first = next(i for i, t in enumerate(tried) if gamma(t) <= t)
    return math.sqrt(brentq(lambda t: gamma(t) - t, tried[first - 1], tried[first])) * reach


@pytest.mark.parametrize("shape", ["normal", "skewed", "two humps"])
def test_the_improved_rule_agrees_with_direct_cosines(shape):
    values = SHAPES[shape]
    assert bandwidth_by(sample_of(values), "improved-sheather-jones") == pytest.approx(
        improved_by_direct_cosines(values), rel=2e-3
    )


def test_the_improved_rule_keeps_far_humps_apart_as_if_each_were_alone():
    hump = scipy_stats.norm.ppf((np.arange(2000) + 0.5) / 2000)
    alone = bandwidth_by(sample_of(hump), "improved-sheather-jones")
    apart = sample_of(np.concatenate([hump, hump + 60]))
    assert alone == pytest.approx(1.06 * 2000**-0.2, rel=0.1)
    assert bandwidth_by(apart, "improved-sheather-jones") == pytest.approx(1.06 * 2000**-0.2, rel=0.15)
    assert bandwidth_by(apart, "silverman") > 10 * alone


def test_sheather_and_jones_keep_two_humps_apart_where_the_normal_rule_smooths():
    sample = sample_of(SHAPES["two humps"])
    assert bandwidth_by(sample, "sheather-jones") < 0.5 * bandwidth_by(sample, "silverman")


@pytest.mark.parametrize("rule", RULES)
@pytest.mark.parametrize("values", [[], [3.0], [3.0] * 9])
def test_nothing_and_equal_values_have_no_bandwidth(rule, values):
    assert bandwidth_by(sample_of(values), rule) == 0


@pytest.mark.parametrize("values", [[1.0, 2.0], [0, 0, 0, 0, 7], [1.0, 1.0, 2.0]])
def test_small_samples_have_one(values):
    for rule in RULES:
        assert 0 < bandwidth_by(sample_of(values), rule) < 20


@pytest.mark.parametrize(
    ("values", "more", "reason"),
    [
        ([], {}, "no values"),
        ([1.0], {"bandwidth": 0.0}, "bandwidth above 0"),
        ([-1.0, 2], {"lower": 0.0}, "1 of the values lie below"),
        ([1.0, 5, 6], {"upper": 4.0}, "2 of the values lie above"),
    ],
)
def test_curves_that_cannot_be(values, more, reason):
    with pytest.raises(DensityError, match=reason):
        density(sample_of(values), **{"bandwidth": 1.0, **more})
