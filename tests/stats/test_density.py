"""Density curves against sums over all values, SciPy, and known shapes."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as scipy_stats
from scipy.integrate import quad, trapezoid
from scipy.optimize import brentq

from rhabdos.data.pooled import Pooled
from rhabdos.stats.bandwidths import ruled_bandwidth
from rhabdos.stats.density import DensityError, density
from rhabdos.stats.kernels import KERNELS
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


def bandwidth_by(sample, rule):
    return ruled_bandwidth(sample, rule).width


def direct_sum(values, x, bandwidth, kernel):
    shape, values = KERNELS[kernel], np.asarray(values)

    def heights(some):
        u = (some[:, None] - values[None, :]) / bandwidth
        return np.where(np.abs(u) <= shape.reach, shape.height(u), 0).mean(axis=1) / bandwidth

    # A few at a time, which the processor's own memory holds.
    at_once = max(1, 30_000 // len(values))
    return np.concatenate([heights(x[at : at + at_once]) for at in range(0, len(x), at_once)])


@pytest.mark.parametrize("kernel", KERNELS)
def test_kernels_have_area_1_and_standard_deviation_1(kernel):
    shape = KERNELS[kernel]

    def height(u):
        return float(shape.height(np.array([u]))[0])

    assert quad(height, -shape.reach, shape.reach)[0] == pytest.approx(1, abs=1e-7)
    assert quad(lambda u: u * u * height(u), -shape.reach, shape.reach)[0] == pytest.approx(
        1, abs=1e-6
    )


@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize("kernel", KERNELS)
@pytest.mark.parametrize("share", [0.3, 1.0])
def test_curves_agree_with_the_direct_sum(shape, kernel, share):
    values = SHAPES[shape]
    bandwidth = share * bandwidth_by(sample_of(values), "silverman")
    curve = density(sample_of(values), bandwidth, kernel)
    exact = direct_sum(values, curve.x, bandwidth, kernel)
    off = np.abs(curve.y - exact)
    if (
        kernel == "rectangular"
    ):  # where a value lies at the very end of the reach, either answer is right
        assert np.mean(off > 1e-9) < 0.02
    else:
        assert off.max() <= (2e-5 if kernel == "gaussian" else 1e-10) * exact.max()


@pytest.mark.slow
@pytest.mark.parametrize("kernel", ["gaussian", "triangular"])
@pytest.mark.parametrize("heaped", [False, True])
def test_long_samples_agree_too_though_not_every_value_is_read(kernel, heaped):
    values = np.random.default_rng(7).gamma(3, 2, 400_000)
    values = np.round(values * 2) / 2 if heaped else values
    curve = density(sample_of(values), 0.35, kernel)
    looked_at = slice(None, None, max(1, len(curve.x) // 64))
    places, counts = np.unique(values, return_counts=True)
    u = (curve.x[looked_at, None] - places[None, :]) / 0.35
    shape = KERNELS[kernel]
    exact = (np.where(np.abs(u) <= shape.reach, shape.height(u), 0) @ counts) / len(values) / 0.35
    assert np.abs(curve.y[looked_at] - exact).max() <= 1e-4 * exact.max()


@pytest.mark.parametrize("shape", SHAPES)
def test_gaussian_curves_are_those_of_scipy(shape):
    values = SHAPES[shape]
    theirs = scipy_stats.gaussian_kde(values, bw_method=0.2)
    bandwidth = 0.2 * values.std(ddof=1)
    curve = density(sample_of(values), bandwidth)
    assert np.abs(curve.y - theirs(curve.x)).max() <= 2e-5 * curve.y.max()


@pytest.mark.slow
@pytest.mark.parametrize("kernel", KERNELS)
@given(values=st.lists(st.floats(0, 10), min_size=2, max_size=40), bandwidth=st.floats(0.2, 3))
def test_curves_integrate_to_1_also_within_bounds(kernel, values, bandwidth):
    for lower, upper in (
        (None, None),
        (0.0, None),
        (None, 10.5),
        (0.0, 10.5),
        (min(values), max(values) + 0.001),
    ):
        curve = density(sample_of(values), bandwidth, kernel, lower, upper)
        assert trapezoid(curve.y, curve.x) == pytest.approx(1, abs=1e-3)
        assert curve.y.min() >= 0
        assert np.all(np.diff(curve.x) > 0)
        assert lower is None or curve.x[0] >= lower
        assert upper is None or curve.x[-1] <= upper


HARD = {
    "one value at 10⁴": np.append(SHAPES["normal"] - 70, 1e4),
    "Cauchy": rng.standard_cauchy(1000),
    "a million Cauchy": rng.standard_cauchy(1_000_000),
    "ties": np.concatenate([np.zeros(700), rng.exponential(1, 300)]),
    "whole numbers": rng.poisson(300, 20_000).astype(float),
    "far from zero": 1e12 + rng.normal(0, 1, 300),
    "two far apart": np.array([-1e12, 1e12]),
    "large": 1e300 * rng.normal(0, 1, 200),
    "small": 1e-300 * rng.normal(0, 1, 200),
    "one": np.array([5.0]),
}


@pytest.mark.parametrize("kernel", KERNELS)
@pytest.mark.parametrize("name", HARD)
@pytest.mark.parametrize("narrow", [1.0, 1e-3])
def test_the_area_is_1_however_the_values_lie(name, kernel, narrow):
    values = HARD[name]
    spread = scipy_stats.iqr(values) or np.ptp(values) or 1.0
    bandwidth = max(
        narrow * 0.3 * spread * len(values) ** -0.2, 20 * np.spacing(np.abs(values).max())
    )
    for lower, upper in ((None, None), (values.min(), None), (values.min(), values.max())):
        if lower == upper and lower is not None:
            continue
        curve = density(sample_of(values), bandwidth, kernel, lower, upper)
        assert np.sum((curve.y[1:] + curve.y[:-1]) * (np.diff(curve.x) / 2)) == pytest.approx(
            1, abs=1e-3
        )
        assert len(curve.x) <= 1 << 17


def test_a_far_value_has_its_own_points_and_the_others_keep_theirs():
    values = HARD["one value at 10⁴"]
    curve = density(sample_of(values), 2.0)
    assert curve.mode == pytest.approx(density(sample_of(values[:-1]), 2.0).mode, abs=0.01)
    far = curve.x > 5000
    assert trapezoid(curve.y[far], curve.x[far]) == pytest.approx(1 / len(values), rel=1e-3)
    assert not np.any((curve.x > 200) & (curve.x < 9000))


@pytest.mark.slow
@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize("kernel", ["gaussian", "biweight", "epanechnikov"])
def test_the_mode_is_where_the_direct_sum_is_highest(shape, kernel):
    values = SHAPES[shape]
    bandwidth = bandwidth_by(sample_of(values), "silverman")
    x = np.linspace(values.min(), values.max(), 40_001)
    exact = (
        direct_sum(values, x, bandwidth, kernel)
        if len(values) * len(x) < 4e7
        else direct_sum(values, x[::4], bandwidth, kernel)
    )
    mode = density(sample_of(values), bandwidth, kernel).mode
    assert direct_sum(values, np.array([mode]), bandwidth, kernel)[0] >= exact.max() * (1 - 1e-3)


@pytest.mark.slow
@pytest.mark.parametrize("kernel", KERNELS)
@pytest.mark.parametrize("bandwidth", [0.1, 0.5, 2.0, 40.0])
def test_between_two_bounds_a_curve_is_reflected_until_nothing_is_lost(kernel, bandwidth):
    values = np.array([0.1, 0.2, 0.25, 0.9])
    curve = density(sample_of(values), bandwidth, kernel, 0.0, 1.0)
    turns = range(-400, 401)
    images = np.concatenate([sign * values + 2 * turn for turn in turns for sign in (1, -1)])
    exact = direct_sum(images, curve.x, bandwidth, kernel) * len(images) / len(values)
    off = np.abs(curve.y - exact)
    assert np.mean(off > 1e-4 * exact.max()) < (0.2 if kernel == "rectangular" else 1e-9)
    assert trapezoid(curve.y, curve.x) == pytest.approx(1, abs=1e-3)


@pytest.mark.parametrize(
    ("lower", "upper", "told"),
    [
        (None, 10.0, "1 of the values lies above the upper bound 10"),
        (None, 2.0, "3 of the values lie above the upper bound 2"),
        (2.0, None, "1 of the values lies below the lower bound 2"),
        (10.0, None, "3 of the values lie below the lower bound 10"),
    ],
)
def test_values_beyond_a_bound_are_counted_and_those_on_it_are_not(lower, upper, told):
    with pytest.raises(DensityError, match=told):
        density(sample_of([1.0, 2.0, 4.0, 10.0, 11.0]), 1.0, lower=lower, upper=upper)


@pytest.mark.parametrize("values", [[0.0, 0.0, 1.0], [3.0, 3.0, 3.0, 4.1, 4.1], [10.0, 10.0, 11.7]])
def test_the_mode_lies_between_points_where_the_slope_is_0(values):
    curve = density(sample_of(values), 1.5)
    u = np.asarray(values)

    def slope(x):
        return float(((u - x) * np.exp(-(((x - u) / 1.5) ** 2) / 2)).sum())

    mode = brentq(slope, u[0], u[-1], xtol=1e-13)
    step = np.diff(curve.x).max()
    assert abs(curve.mode - mode) < 0.01 * step
    assert np.abs(curve.x - mode).min() > 0.02 * step  # no point lies there by chance


def test_more_detail_than_points_can_show_is_averaged_and_said():
    values = rng.uniform(0, 1, 30_000)
    curve = density(sample_of(values), 1e-7)
    assert curve.averaged_over > 1e-7
    for low, high in ((0.0, 0.25), (0.4, 0.9)):
        part = (curve.x >= low) & (curve.x <= high)
        share = np.mean((values >= low) & (values <= high))
        assert trapezoid(curve.y[part], curve.x[part]) == pytest.approx(share, abs=1e-3)


def test_a_bounded_curve_folds_back_what_would_lie_beyond():
    values = rng.exponential(1, 2000)
    free, bounded = density(sample_of(values), 0.2), density(sample_of(values), 0.2, lower=0.0)
    assert free.x[0] < 0 == bounded.x[0]
    assert bounded.y[0] == pytest.approx(2 * np.interp(0, free.x, free.y), rel=1e-3)
    exact = direct_sum(values, bounded.x, 0.2, "gaussian") + direct_sum(
        values, -bounded.x, 0.2, "gaussian"
    )
    assert np.abs(bounded.y - exact).max() <= 1e-4 * exact.max()


def test_shifting_and_scaling_does_the_same_to_curve_and_bandwidths():
    values = SHAPES["two humps"]
    for rule in RULES:
        wider = bandwidth_by(sample_of(4 * values - 32), rule)
        assert wider == pytest.approx(4 * bandwidth_by(sample_of(values), rule), rel=1e-6)
    plain, moved = density(sample_of(values), 1.0), density(sample_of(4 * values - 32), 4.0)
    assert moved.x == pytest.approx(4 * plain.x - 32)
    assert moved.y == pytest.approx(plain.y / 4, abs=1e-9)
    assert moved.mode == pytest.approx(4 * plain.mode - 32)


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
    # The pilots are what is best for a normal shape, (-2 φ⁗(0) / (ψ₆ n))^(1/7) and its like, from the closed forms
    # ψ₆ = -15 / (16 √π σ⁷) and ψ₈ = 105 / (32 √π σ⁹).
    first = scale * (2 * 3 / math.sqrt(2 * math.pi) * 16 * math.sqrt(math.pi) / 15 / n) ** (1 / 7)
    second = scale * (2 * 15 / math.sqrt(2 * math.pi) * 32 * math.sqrt(math.pi) / 105 / n) ** (
        1 / 9
    )

    def phi4(h):
        u2 = (gaps / h) ** 2
        return ((u2 * u2 - 6 * u2 + 3) * np.exp(-u2 / 2)).sum() / (
            math.sqrt(2 * math.pi) * n * (n - 1) * h**5
        )

    def phi6(h):
        u2 = (gaps / h) ** 2
        return ((((u2 - 15) * u2 + 45) * u2 - 15) * np.exp(-u2 / 2)).sum() / (
            math.sqrt(2 * math.pi) * n * (n - 1) * h**7
        )

    ratio = 1.357 * (phi4(first) / -phi6(second)) ** (1 / 7)
    return brentq(
        lambda h: (1 / (2 * math.sqrt(math.pi) * n * phi4(ratio * h ** (5 / 7)))) ** 0.2 - h,
        0.05 * scale,
        2 * scale,
    )


@pytest.mark.slow
@pytest.mark.parametrize("shape", ["normal", "skewed", "two humps", "with a far value", "Cauchy"])
def test_sheather_and_jones_agree_with_all_pairs(shape):
    values = (SHAPES | HARD)[shape]
    assert bandwidth_by(sample_of(values), "sheather-jones") == pytest.approx(
        sheather_jones_by_all_pairs(values), rel=2e-3
    )


def improved_by_direct_cosines(values):
    """Botev, Grotowski and Kroese's equation from cosines of the values themselves, and a general root finder."""
    n, low, reach = len(values), values.min() - np.ptp(values) / 2, 2 * np.ptp(values)
    k = np.arange(1, 1200)
    squares = np.cos(np.pi * k[:, None] * (values - low) / reach).mean(axis=1) ** 2

    def roughness(s, t):
        return (
            2 * np.pi ** (2 * s) * (k ** (2.0 * s) * squares * np.exp(-(k**2) * np.pi**2 * t)).sum()
        )

    def gamma(t):
        f = roughness(7, t)
        for s in range(6, 1, -1):
            odd = math.prod(range(1, 2 * s, 2))
            t = (2 / (n * f) * (1 + 0.5 ** (s + 0.5)) / 3 * odd / math.sqrt(2 * math.pi)) ** (
                2 / (3 + 2 * s)
            )
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


@pytest.mark.parametrize("rule", ["sheather-jones", "improved-sheather-jones"])
@pytest.mark.parametrize(("grain", "n"), [(1.0, 1000), (1.0, 100_000), (0.5, 3000), (0.1, 500)])
def test_rounded_values_get_no_bandwidth_below_their_grain(rule, grain, n):
    smooth = np.random.default_rng(n).normal(0, 3, n)
    ruled = ruled_bandwidth(sample_of(np.round(smooth / grain) * grain), rule)
    if ruled.rule == rule:  # a root that the values had before they were rounded
        assert ruled.width == pytest.approx(bandwidth_by(sample_of(smooth), rule), rel=0.35)
    else:
        assert ruled.rule == "silverman"
    assert ruled.width > 0.15


def test_the_improved_rule_keeps_far_humps_apart_as_if_each_were_alone():
    hump = scipy_stats.norm.ppf((np.arange(2000) + 0.5) / 2000)
    alone = bandwidth_by(sample_of(hump), "improved-sheather-jones")
    apart = sample_of(np.concatenate([hump, hump + 60]))
    assert alone == pytest.approx(1.06 * 2000**-0.2, rel=0.1)
    assert bandwidth_by(apart, "improved-sheather-jones") == pytest.approx(
        1.06 * 2000**-0.2, rel=0.15
    )
    assert bandwidth_by(apart, "silverman") > 10 * alone


def test_sheather_and_jones_keep_two_humps_apart_where_the_normal_rule_smooths():
    sample = sample_of(SHAPES["two humps"])
    assert bandwidth_by(sample, "sheather-jones") < 0.5 * bandwidth_by(sample, "silverman")


@pytest.mark.parametrize("rule", RULES)
@pytest.mark.parametrize("values", [[], [3.0], [3.0] * 9])
def test_nothing_and_equal_values_have_no_bandwidth(rule, values):
    assert bandwidth_by(sample_of(values), rule) == 0


def test_the_smallest_numbers_have_a_bandwidth_by_another_rule():
    assert ruled_bandwidth(sample_of([-5e-324, 0.0, 0.0]), "sheather-jones").rule == "silverman"


@pytest.mark.parametrize("values", [[1.0, 2.0], [0, 0, 0, 0, 7], [1.0, 1.0, 2.0]])
def test_small_samples_have_one(values):
    for rule in RULES:
        assert 0 < bandwidth_by(sample_of(values), rule) < 20


@pytest.mark.parametrize(
    ("values", "more", "reason"),
    [
        ([], {}, "no values"),
        ([1.0], {"bandwidth": 0.0}, "bandwidth above 0"),
        ([-1.0, 2], {"lower": 0.0}, "1 of the values lies below"),
        ([1.0, 5, 6], {"upper": 4.0}, "2 of the values lie above"),
        ([1e15, 2e15], {"bandwidth": 0.01}, "finer than numbers near 2 × 10¹⁵"),
        ([1.0, 5, 6], {"bandwidth": 1e-300}, "finer than numbers"),
        ([1.0, 5, 6], {"bandwidth": 1e308}, "too large or too small"),
        ([-1.7e308, 1.7e308], {}, "too large or too small"),
    ],
)
def test_curves_that_cannot_be(values, more, reason):
    with pytest.raises(DensityError, match=reason):
        density(sample_of(values), **{"bandwidth": 1.0, **more})
