"""Peaks that stand out and the side of the longer tail: found where they are, and hardly ever where not."""

import numpy as np
import pytest
from scipy import stats

from rhabdos.stats.shape import longer_tail, standing_peaks
from tests.conftest import sample_of

ONE_PEAK = {
    "normal": stats.norm(70, 9), "lognormal": stats.lognorm(0.8), "t of 3": stats.t(3),
    "uniform": stats.uniform(), "exponential": stats.expon(), "gamma": stats.gamma(2),
    "triangle": stats.triang(0.3), "logistic": stats.logistic(), "Poisson": stats.poisson(9),
    "whole": stats.poisson(400),
}  # fmt: skip
SYMMETRIC = {
    "normal": stats.norm(), "t of 3": stats.t(3), "t of 2": stats.t(2), "uniform": stats.uniform(),
    "logistic": stats.logistic(), "two arches": stats.beta(0.5, 0.5), "dice": stats.randint(1, 7),
}  # fmt: skip


def test_two_heaps_have_two_peaks_where_they_lie():
    rng = np.random.default_rng(3)
    values = np.concatenate([rng.normal(20, 3, 500), rng.normal(44, 5, 700)])
    first, second = standing_peaks(sample_of(values))
    assert first == pytest.approx(20, abs=3)
    assert second == pytest.approx(44, abs=4)
    assert standing_peaks(sample_of(values * 1e-9))[0] == pytest.approx(20e-9, abs=3e-9)
    assert len(standing_peaks(sample_of(np.round(values)))) == 2


def test_few_values_equal_ones_and_endless_ones_have_none():
    rng = np.random.default_rng(3)
    few = np.concatenate([rng.normal(20, 1, 20), rng.normal(90, 1, 20)])
    for values in (few, [4.0] * 100, [], [1.0], [-1.7e308, 1.7e308] * 40):
        assert standing_peaks(sample_of(values)) == ()
        assert longer_tail(sample_of(values)) == 0


def test_values_of_a_coarse_grain_have_no_peaks_of_it():
    rng = np.random.default_rng(8)
    for grain in (1 / 3, 0.25, 1 / 7):
        values = np.round(rng.normal(40, 6, 200_000) / grain) * grain
        assert standing_peaks(sample_of(values)) == ()


@pytest.mark.slow
@pytest.mark.parametrize("n", [60, 400, 5_000])
@pytest.mark.parametrize("shape", ONE_PEAK)
def test_one_peak_is_hardly_ever_told_as_two(shape, n):
    """Of 120 samples each at most two: with a chance of 1 in 50, more come once in three hundred."""
    rng = np.random.default_rng([n, len(shape)])
    told = [
        bool(standing_peaks(sample_of(ONE_PEAK[shape].rvs(n, random_state=rng))))
        for _ in range(120)
    ]
    assert sum(told) <= 2


@pytest.mark.slow
@pytest.mark.parametrize("n", [50, 300, 3_000])
@pytest.mark.parametrize("shape", SYMMETRIC)
def test_a_symmetric_shape_is_hardly_ever_told_to_have_a_longer_tail(shape, n):
    rng = np.random.default_rng([n, len(shape), 1])
    told = [longer_tail(sample_of(SYMMETRIC[shape].rvs(n, random_state=rng))) for _ in range(120)]
    assert sum(side != 0 for side in told) <= 6  # one in fifty: more come once in three hundred


def test_the_longer_tail_is_told_on_its_side():
    rng = np.random.default_rng(5)
    for values in (rng.exponential(3, 300), rng.lognormal(0, 0.7, 200), rng.gamma(2, 1, 2_000)):
        assert longer_tail(sample_of(values)) == 1
        assert longer_tail(sample_of(-values)) == -1
