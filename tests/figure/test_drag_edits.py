"""What hands do to bins: laws that hold wherever they pull."""

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from rhabdos.figure.edits import drag_edits
from rhabdos.figure.readings.readings import edges_for
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.stats.binning import counts
from rhabdos.stats.boxes import box
from tests.conftest import sample_of

SAMPLE = sample_of(np.random.default_rng(8).normal(70, 8, 400).round(2))
EDGES = edges_for(Bins(width=4.0, start=40.0), SAMPLE).edges
OWN = edges_for(Bins(edges=(40.0, 50.0, 70.0, 75.0, 110.0)), SAMPLE).edges


def made(bins):
    return edges_for(bins, SAMPLE).edges


@given(st.integers(1, 10), st.floats(30, 130))
def test_a_dragged_tab_comes_to_lie_under_the_hand(tab, value):
    bins = drag_edits.width_dragged(EDGES, SAMPLE, tab, value, per_pixel=0.1)
    assert bins.width > 0
    if value > EDGES.low + tab:
        step = max(0.1 / tab, 4 / 40) * 2.5
        assert abs((value - EDGES.low) / tab - bins.width) <= step
    assert counts(SAMPLE, made(bins)).sum() == SAMPLE.n


@given(st.floats(-60, 60))
@example(-11.25)
def test_dragging_the_rod_moves_the_start_and_never_hides_a_value(shift):
    bins = drag_edits.start_dragged(EDGES, SAMPLE, shift, per_pixel=0.1)
    moved = made(bins)
    assert moved.width == 4
    assert counts(SAMPLE, moved).sum() == SAMPLE.n
    assert moved.low > SAMPLE.minimum - 4
    phase = (moved.low - EDGES.low - shift) / 4
    assert abs(phase - round(phase)) <= 0.051 / 4 + 1e-9


@given(st.integers(0, 4), st.floats(0, 150))
def test_an_edge_moved_alone_stays_between_its_neighbours(tab, value):
    bins = drag_edits.edge_moved(OWN, SAMPLE, tab, value, per_pixel=0.1)
    assert list(bins.edges) == sorted(set(bins.edges))
    assert [e for i, e in enumerate(bins.edges) if i != tab] == [
        e for i, e in enumerate(OWN.values) if i != tab
    ]


def test_own_edges_move_together():
    bins = drag_edits.start_dragged(OWN, SAMPLE, 2.02, per_pixel=0.1)
    assert bins.edges == (42.0, 52.0, 72.0, 77.0, 112.0)


def test_splitting_and_merging_undo_each_other():
    split = drag_edits.bin_split(OWN, 1)
    assert split.edges == (40, 50, 60, 70, 75, 110)
    assert drag_edits.bin_merged(made(split), 2).edges == tuple(OWN.values)


@pytest.mark.parametrize("tab", [0, 4])
def test_the_outermost_edges_cannot_be_merged_away(tab):
    assert drag_edits.bin_merged(OWN, tab) is None


@pytest.mark.parametrize("steps", [-3, -1, 1, 5])
def test_keys_change_the_width_by_steps_that_show(steps):
    bins = drag_edits.width_stepped(EDGES, SAMPLE, steps)
    assert bins.width == pytest.approx(4 + steps * 0.2)


def test_keys_never_bring_the_width_to_nothing():
    assert drag_edits.width_stepped(EDGES, SAMPLE, -1000).width > 0


def test_whole_numbers_keep_whole_widths():
    whole = sample_of(np.arange(100))
    edges = edges_for(Bins(width=5.0, start=0.0), whole).edges
    assert drag_edits.width_dragged(edges, whole, 3, 19.4, 0.1).width == 6
    assert drag_edits.width_stepped(edges, whole, 1).width == 6


@pytest.mark.parametrize("steps", [-1, 1])
def test_one_edge_and_the_start_move_by_key(steps):
    assert drag_edits.edge_stepped(OWN, SAMPLE, 2, steps).edges[2] != 70
    assert (drag_edits.start_stepped(EDGES, SAMPLE, steps).start - 40) % 4 in (
        pytest.approx(0.2),
        pytest.approx(3.8),
    )


@pytest.mark.parametrize(
    ("values", "value", "upper", "expected"),
    [
        ([0.0, 10, 20, 30, 40], 60.0, True, 1.5),
        ([0.0, 10, 20, 30, 40], 10.0, True, 0.0),
        ([0.0, 10, 20, 30, 40], -10.0, False, 1.0),
        ([5.0, 5, 5, 5], 9.0, True, None),
        ([0.0, 5e-324, 5e-324, 1e-323], 1e308, True, None),
    ],
)
def test_a_grip_at_a_value_sets_the_multiple_that_reaches_it(values, value, upper, expected):
    found = drag_edits.reach_dragged(box(sample_of(values)), value, upper, 0.1)
    assert found == (None if expected is None else pytest.approx(expected))


def test_keys_change_a_reach_by_a_twentieth_and_never_below_nothing():
    assert drag_edits.reach_stepped(1.5, 1) == 1.55
    assert drag_edits.reach_stepped(0.0, -1) == 0.0


LOGS = edges_for(Bins(logs=True, count=12), SAMPLE).edges


DECADES = sample_of(10 ** np.random.default_rng(3).uniform(-2, 4, 500))
EVERY = [edges_for(Bins(logs=True, count=count), DECADES).edges for count in range(1, 201)]


@example(1, 0.4)  # half-way between two numbers of bins
@given(st.integers(1, 12), st.floats(-2, 5))
def test_a_tab_of_bins_equal_in_logs_comes_as_near_the_hand_as_whole_bins_can(tab, exponent):
    bins = drag_edits.even_dragged(EVERY[11], DECADES, tab, 10**exponent)
    assert bins.logs
    away = [abs(np.log10(edges.values[tab]) - exponent) for edges in EVERY[tab - 1 :]]
    if exponent > -1.9 + tab / 40:
        assert away[max(tab, bins.count) - tab] <= min(away) + 0.02


@pytest.mark.parametrize("times", [0.5, 1.0, 1.7, float("inf"), float("nan"), 0.0, -1.0])
def test_edges_equal_in_logs_are_multiplied_or_stay(times):
    edges = np.array(drag_edits.even_shifted(LOGS, 1.0, times).edges)
    wanted = times if 0 < times < np.inf else 1.0
    assert edges / LOGS.values == pytest.approx(np.full(13, wanted), rel=1e-3)


def test_a_bin_equal_in_logs_is_split_in_the_middle_of_its_logs():
    low, middle, high = drag_edits.bin_split(LOGS, 3).edges[3:6]
    assert middle / low == pytest.approx(high / middle)
    assert middle < (low + high) / 2


@pytest.mark.parametrize("tab", [0, 1, 12])
def test_a_step_of_one_edge_shows_beside_its_own_bins(tab):
    wide = Bins(edges=tuple((10.0 ** np.arange(-2, 11)).tolist()))
    edges = edges_for(wide, SAMPLE).edges
    moved = drag_edits.edge_stepped(edges, SAMPLE, tab, 1).edges[tab]
    beside = np.diff(edges.values)[max(0, tab - 1) : tab + 1].min()
    assert 0.02 < (moved - edges.values[tab]) / beside < 0.3
