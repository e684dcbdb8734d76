"""Counting and making bins, against brute force, NumPy and exact decimals."""

import itertools
from decimal import Decimal
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from rhabdos.data.pooled import Pooled
from rhabdos.stats.binning import (
    MOST_BINS,
    BinningError,
    Edges,
    around,
    by_count,
    by_width,
    counts,
    own_edges,
)
from rhabdos.stats.rules import by_rule
from tests.conftest import sample_of

numbers = st.floats(allow_nan=False, allow_infinity=False, width=64)
modest = st.floats(-1e6, 1e6)


def brute_force(values: list[float], edges: list[float], closed: str) -> list[int]:
    """The definition, one value and one bin at a time, in exact arithmetic."""
    found = []
    for position, (low, high) in enumerate(itertools.pairwise(edges)):
        first, last = position == 0, position == len(edges) - 2
        inside = 0
        for value in values:
            v, a, b = Fraction(value), Fraction(low), Fraction(high)
            if closed == "left":
                inside += a <= v < b or (last and v == b)
            else:
                inside += a < v <= b or (first and v == a)
        found.append(inside)
    return found


ADVERSARIAL = {
    "values on edges": ([0, 0, 5, 5, 10, 10, 15], [0, 5, 10, 15]),
    "unequal edges": ([1, 2, 3, 50, 99, 100], [0, 1.5, 3, 50, 100]),
    "values outside": ([-7, -1, 0, 3, 9, 12, 400], [0, 3, 9]),
    "decimals that doubles miss": ([0.1, 0.2, 0.3, 0.1 + 0.2, 0.7], [0.1, 0.2, 0.3, 0.7]),
    "subnormals": ([5e-324, 1e-323, 1.5e-323, 1e-310], [5e-324, 1e-323, 2e-323, 1e-309]),
    "huge offset": (
        [1e15, 1e15 + 0.125, 1e15 + 0.5, 1e15 + 1],
        [1e15, 1e15 + 0.125, 1e15 + 0.5, 1e15 + 1],
    ),
    "the ends of the range": ([-1.7e308, 0, 1e308, 1.7e308], [-1.7e308, 0, 1e308]),
    "one value": ([3], [3, 4]),
    "all equal": ([2, 2, 2], [1, 2, 3]),
    "minus zero": ([-0.0, 0.0], [-1, 0, 1]),
}


@pytest.mark.parametrize("closed", ["left", "right"])
@pytest.mark.parametrize("case", ADVERSARIAL)
def test_counts_agree_with_brute_force(case, closed):
    values, edges = ADVERSARIAL[case]
    found = counts(sample_of(values), Edges(np.array(edges, float), closed))
    assert found.tolist() == brute_force(values, edges, closed)


@given(
    st.lists(numbers, max_size=40),
    st.lists(numbers, min_size=2, max_size=12, unique=True),
    st.booleans(),
)
def test_counts_agree_with_brute_force_for_any_values(values, edges, left):
    edges = sorted(edges)
    assume(all(a < b for a, b in itertools.pairwise(edges)))
    closed = "left" if left else "right"
    found = counts(sample_of(values), Edges(np.array(edges), closed))
    assert found.tolist() == brute_force(values, edges, closed)


@given(
    st.lists(modest, min_size=1, max_size=200),
    st.lists(modest, min_size=2, max_size=20, unique=True),
)
def test_counts_agree_with_numpy(values, edges):
    edges = np.sort(edges)
    expected, _ = np.histogram(values, edges)
    assert counts(sample_of(values), Edges(edges)).tolist() == expected.tolist()


@given(
    st.lists(st.lists(modest, max_size=30), min_size=1, max_size=5),
    st.lists(modest, min_size=2, max_size=9, unique=True),
)
def test_pooled_samples_count_like_one(groups, edges):
    together = [value for group in groups for value in group]
    pooled = Pooled(tuple(sample_of(group) for group in groups))
    wanted = Edges(np.sort(edges))
    assert counts(pooled, wanted).tolist() == counts(sample_of(together), wanted).tolist()


def test_edges_of_a_decimal_width_are_the_nearest_doubles():
    edges = by_width(sample_of([40.0, 52.3]), 0.1, 40.0).values
    exact = [float(Decimal("40.0") + k * Decimal("0.1")) for k in range(len(edges))]
    assert edges.tolist() == exact
    assert 40.3 in edges.tolist()


def test_a_value_on_a_decimal_edge_goes_to_the_bin_that_it_opens():
    edges = by_width(sample_of([40.3, 41.0]), 0.1, 40.0)
    assert counts(sample_of([40.3]), edges).tolist().index(1) == 3


@pytest.mark.parametrize(
    ("values", "width", "start", "closed", "expected"),
    [
        ([41.2, 58.9], 4, 40, "left", [40, 44, 48, 52, 56, 60]),
        (
            [41.2, 60.0],
            4,
            40,
            "left",
            [40, 44, 48, 52, 56, 60],
        ),  # the last bin includes both its edges
        (
            [41, 60],
            4,
            40,
            "left",
            [40, 44, 48, 52, 56, 60, 64],
        ),  # but whole numbers do not share it
        ([41, 60], 4, 40, "right", [40, 44, 48, 52, 56, 60]),
        ([2.5, 7.2], 5, None, "left", [0, 5, 10]),
        ([-2.5, 7.2], 5, None, "left", [-5, 0, 5, 10]),
        ([5, 9], 5, None, "right", [0, 5, 10]),
        ([50.5, 61.0], 10, 20, "left", [20, 30, 40, 50, 60, 70]),
        ([0.35, 0.61], 0.05, None, "left", [0.35, 0.4, 0.45, 0.5, 0.55, 0.6, 0.65]),
    ],
)
def test_width_and_start(values, width, start, closed, expected):
    assert by_width(sample_of(values), width, start, closed).values.tolist() == pytest.approx(
        expected, rel=1e-15
    )


def test_values_below_the_start_are_in_no_bin():
    sample = sample_of([38.1, 39.9, 40.0, 55.0])
    edges = by_width(sample, 4, 40)
    assert edges.low == 40
    assert counts(sample, edges).sum() == 2


@given(
    st.lists(st.decimals(-1000, 1000, places=2).map(float), min_size=2, max_size=60, unique=True),
    st.integers(1, 300),
    st.sampled_from(["left", "right"]),
)
def test_a_number_of_bins_is_kept_and_holds_every_value(values, number, closed):
    sample = sample_of(values)
    edges = by_count(sample, number, closed=closed)
    assert edges.count == number
    assert np.all(np.diff(edges.values) > 0)
    assert counts(sample, edges).sum() == sample.n


def test_a_number_of_bins_prefers_a_width_of_few_digits():
    sample = sample_of([38.1, 50.0, 105.9])
    assert by_count(sample, 12).width == 6
    assert by_count(sample, 12).low == 36


def test_exact_bins_reach_from_the_smallest_value_to_the_largest():
    sample = sample_of([1.3, 2.0, 9.7])
    edges = by_count(sample, 7, rounded=False)
    assert edges.values.tolist() == pytest.approx(
        np.histogram_bin_edges([1.3, 2.0, 9.7], 7).tolist(), rel=1e-14
    )


@pytest.mark.parametrize("value", [0.0, 5.0, -3.0, 0.003, 1e15, 1e308, 5e-324, 12.5])
def test_equal_values_lie_within_one_bin(value):
    sample = sample_of([value, value])
    edges = around(sample)
    assert edges.low < value < edges.high
    assert counts(sample, edges).tolist() == [2]


@pytest.mark.parametrize("below", [0.0, 2.0, 1e6, 0.25])
@pytest.mark.parametrize("closed", ["left", "right"])
@pytest.mark.parametrize("value", [0.0, 5.0, -3.0, 12.5])
def test_bins_of_equal_values_begin_where_they_are_asked_to(value, closed, below):
    sample, start = sample_of([value, value]), value - below
    for edges in (
        *(by_count(sample, count, start, closed) for count in (1, 4)),
        by_rule(sample, "scott", start, closed).edges,
    ):
        assert edges.low == start
        found = counts(sample, edges).tolist()
        assert found == brute_force([value, value], edges.values.tolist(), closed)
        assert sum(found) == 2


def test_bins_may_be_as_fine_as_numbers_are():
    sample = sample_of([1e15, 1e15 + 0.25, 1e15 + 0.875])  # where doubles are 0.125 apart
    for width in (0.125, 0.25, 0.375, 0.5):
        edges = by_width(sample, width)
        assert np.all(np.diff(edges.values) == width)
        assert counts(sample, edges).sum() == 3


REFUSED = {
    "a width of nothing": lambda: by_width(sample_of([1, 2]), 0),
    "a negative width": lambda: by_width(sample_of([1, 2]), -1),
    "an endless width": lambda: by_width(sample_of([1, 2]), float("inf")),
    "far too many bins": lambda: by_width(sample_of([0, 1]), 1e-9, 0.0),
    "a start above all values": lambda: by_width(sample_of([1, 2]), 1, 3),
    "a width between two doubles": lambda: by_width(sample_of([1e15, 1e15 + 4]), 0.3),
    "a width finer than doubles": lambda: by_width(sample_of([1e15, 1e15 + 4]), 0.01),
    "values too far apart": lambda: by_width(sample_of([-1.7e308, 1.7e308]), 1),
    "no bins": lambda: by_count(sample_of([1, 2]), 0),
    "too many bins": lambda: by_count(sample_of([1, 2]), MOST_BINS + 1),
    "one edge": lambda: own_edges(np.array([1.0])),
    "falling edges": lambda: own_edges(np.array([1.0, 3.0, 2.0])),
    "an edge twice": lambda: own_edges(np.array([1.0, 1.0, 2.0])),
    "an endless edge": lambda: own_edges(np.array([1.0, np.inf])),
    "bins beyond the largest number": lambda: by_width(sample_of([1.5e308, 1.6e308]), 1.2e308, 0.0),
}


@pytest.mark.parametrize("case", REFUSED)
def test_what_cannot_be_is_refused_in_a_sentence(case):
    with pytest.raises(BinningError, match=r"^[A-Z].*\.$"):
        REFUSED[case]()


def test_a_refusal_of_too_many_bins_names_a_width_that_works():
    sample = sample_of([0.0, 100.0])
    with pytest.raises(BinningError) as refused:
        by_width(sample, 0.001, 0.0)
    proposed = float(str(refused.value).split("width of ")[1].split(" or")[0])
    assert by_width(sample, proposed, 0.0).count <= MOST_BINS


def test_equal_edges_are_known_as_equal_and_unequal_ones_as_unequal():
    assert own_edges(np.array([0.1, 0.2, 0.3, 0.4])).width == pytest.approx(0.1, rel=1e-12)
    assert own_edges(np.array([0.0, 1.0, 2.5])).width is None


def test_the_fewest_and_the_most_bins_are_drawn():
    values = sample_of([1.0, 2.0, 3.0, 3.5])
    for number in (1, MOST_BINS):
        assert by_count(values, number, rounded=False).count == number
    assert own_edges(np.array([0.0, 1.0])).count == 1
    assert own_edges(np.linspace(0.0, 100.0, MOST_BINS + 1)).count == MOST_BINS
    with pytest.raises(BinningError, match="more than a figure can show"):
        own_edges(np.linspace(0.0, 100.0, MOST_BINS + 2))


def test_bins_may_begin_at_the_largest_value_and_not_beyond_it():
    values = sample_of([1.0, 2.0, 3.0])
    assert by_width(values, 1.0, start=3.0).low == 3.0
    for start in (3.0000001, 4.0):
        with pytest.raises(BinningError):
            by_width(values, 1.0, start=start)
    with pytest.raises(BinningError):
        by_count(values, 2, start=3.0)  # nothing is left to divide


def test_a_value_on_the_last_edge_and_one_beyond_it():
    edges = own_edges(np.array([0.0, 1.0, 2.0]))
    right = own_edges(np.array([0.0, 1.0, 2.0]), "right")
    assert counts(sample_of([0.0, 1.0, 2.0]), edges).tolist() == [1, 2]
    assert counts(sample_of([0.0, 1.0, 2.0]), right).tolist() == [2, 1]
    assert counts(sample_of([-0.5, 0.0, 2.0, 2.5]), edges).tolist() == [1, 1]
    assert counts(sample_of([-0.5, 0.0, 2.0, 2.5]), right).tolist() == [1, 1]
