"""What is even along an axis, against closed forms; and how evenly values lie on it."""

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from rhabdos.data.samples import Sample
from rhabdos.stats.axis_scale import LINEAR_AXIS, LOGS, AxisScale
from rhabdos.stats.evenness import most_within, stretch_of_most

ROOTS = AxisScale("root")
AROUND = AxisScale("arsinh", 10.0)
NUMBERS = st.floats(-1e12, 1e12)


@pytest.mark.parametrize(
    ("axis", "value", "place"),
    [
        (LINEAR_AXIS, -3.5, -3.5), (LOGS, 1000.0, 3.0), (ROOTS, 49.0, 7.0), (ROOTS, 0.0, 0.0),
        (AROUND, 0.0, 0.0), (AROUND, 10.0, math.log10(1 + math.sqrt(2))),
        (AROUND, -10.0, -math.log10(1 + math.sqrt(2))),
    ],
)  # fmt: skip
def test_places_are_those_of_closed_forms(axis, value, place):
    assert axis.place(value) == pytest.approx(place, abs=1e-12)
    assert axis.placed(np.array([value]))[0] == pytest.approx(place, abs=1e-12)
    assert axis.value(place) == pytest.approx(value, abs=1e-9)


@given(NUMBERS, st.sampled_from([LINEAR_AXIS, ROOTS, AROUND, AxisScale("arsinh", 1e-3)]))
def test_a_value_comes_back_from_its_place(value, axis):
    assert axis.value(axis.place(value)) == pytest.approx(value, rel=1e-9, abs=1e-9)


@given(NUMBERS, NUMBERS, st.sampled_from([ROOTS, AROUND]))
def test_places_rise_with_values(one, other, axis):
    if one < other:
        assert axis.place(one) <= axis.place(other)


@pytest.mark.parametrize("decades", [3, 6, 12])
def test_far_from_0_each_factor_of_10_is_one_step_to_both_sides(decades):
    far = 10.0 * 10**decades
    assert AROUND.place(far * 10) - AROUND.place(far) == pytest.approx(1, abs=1e-5)
    assert AROUND.place(-far * 10) - AROUND.place(-far) == pytest.approx(-1, abs=1e-5)


@given(st.floats(-1e6, 1e6), st.sampled_from([AROUND, ROOTS, LOGS]))
def test_the_pace_of_values_is_the_derivative(value, axis):
    if not axis.admits(value) or abs(value) < 1e-3:
        return
    place, step = axis.place(value), 1e-6
    slope = (axis.value(place + step) - axis.value(place - step)) / (2 * step)
    assert axis.per_place(value) == pytest.approx(slope, rel=1e-4)


@pytest.mark.parametrize("axis", [LOGS, ROOTS, AROUND])
def test_places_past_all_numbers_are_the_largest_number(axis):
    with np.errstate(all="raise"):
        assert 1e308 <= axis.value(1e300) < math.inf


def test_an_axis_admits_what_it_has_a_place_for():
    assert [LOGS.admits(v) for v in (-1.0, 0.0, 1.0)] == [False, False, True]
    assert [ROOTS.admits(v) for v in (-1.0, 0.0, 1.0)] == [False, True, True]
    assert all(AROUND.admits(v) and LINEAR_AXIS.admits(v) for v in (-1.0, 0.0, 1.0))


# How evenly values lie


def stretched(values, axis=LINEAR_AXIS, low=None, high=None):
    return stretch_of_most(Sample("x", np.sort(np.asarray(values, dtype=float))), axis, low, high)


def by_hand(values, low, high):
    """Every stretch that begins at a value and holds three quarters of them."""
    values = np.sort(values)
    many = math.ceil(0.75 * len(values))
    spans = [values[i + many - 1] - values[i] for i in range(len(values) - many + 1)]
    return min(spans) / (high - low)


@given(st.lists(st.floats(-1e6, 1e6), min_size=2, max_size=60).filter(lambda v: max(v) > min(v)))
def test_the_shortest_stretch_of_most_is_that_by_brute_force(values):
    expected = by_hand(np.array(values), min(values), max(values))
    assert stretched(values) == pytest.approx(expected, abs=1e-12)


@given(
    st.lists(st.floats(-1e6, 1e6), min_size=2, max_size=40).filter(lambda v: max(v) > min(v)),
    st.integers(0, 60),
    st.sampled_from([0.02, 0.06, 0.3, 0.8]),
)
def test_whether_most_lie_within_a_share_is_what_brute_force_says(values, crowd, share):
    values = np.array([*values, *np.linspace(0, 1, crowd)])  # which is a sliver of a wide span
    stretch = by_hand(values, values.min(), values.max())
    assume(abs(stretch - share) > 1e-9)
    assert most_within(Sample("x", np.sort(values)), share) == (stretch < share)


def test_a_long_tail_is_looked_for_once_whatever_figures_ask(monkeypatch):
    asked, at = [], Sample.about_at
    monkeypatch.setattr(Sample, "about_at", lambda *of: asked.append(of) or at(*of))
    sample = Sample("x", np.arange(100.0))
    assert [most_within(sample, 0.06) for _ in range(3)] == [False] * 3
    assert len(asked) == 1


def test_even_values_take_three_quarters_of_their_span_and_one_far_value_makes_a_sliver():
    even = np.arange(1000.0)
    assert stretched(even) == pytest.approx(0.75, abs=0.002)
    assert stretched([*even, 1e6]) < 0.001
    assert stretched([*(even + 1), 1e6], LOGS) > 0.1
    assert stretched([*even, 1e6], high=1000.0) == pytest.approx(0.75, abs=0.01)


def test_fewer_than_three_quarters_in_sight_are_no_sliver():
    assert stretched(np.arange(100.0), high=50.0) == 1.0
    assert stretched([4.0, 4.0, 4.0]) == 1.0
