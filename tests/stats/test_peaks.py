"""Peaks above counting noise, and bins that slide, against counting by hand."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhabdos.figure.forms.read import read
from rhabdos.figure.readings.ladder import ladder, slides
from rhabdos.stats.binning import counts, own_edges
from rhabdos.stats.peaks import least_valley, peaks, slide
from tests.conftest import asking, sample_of, set_of


@pytest.mark.parametrize(
    ("heights", "expected"),
    [
        ([], []),
        ([0, 0, 0], []),
        ([40], [0]),
        ([2, 20, 60, 22, 3], [2]),
        ([5, 60, 20, 8, 25, 70, 4], [1, 5]),  # a deep valley
        ([5, 60, 52, 49, 55, 64, 4], [5]),  # a valley within the noise: only the taller of the two
        ([80, 10, 0, 0, 9, 80], [0, 5]),  # at the ends
        ([30, 90, 30, 90, 30, 90, 30], [1, 3, 5]),
        ([1, 0, 2, 1, 0, 1], []),  # too few values to tell
    ],
)
def test_peaks_by_hand(heights, expected):
    assert peaks(np.array(heights, dtype=int)) == expected


def by_definition(heights):
    """Every local maximum from which z falls far enough on either side before it rises above it."""
    z = 2 * np.sqrt(np.concatenate([[0], heights, [0]]) + 0.375)
    noise = least_valley(len(heights), int(heights.sum()))
    found = set()
    for place in range(1, len(z) - 1):
        left = next(
            (i for i in range(place - 1, -1, -1) if z[i] >= z[place]), -1
        )  # of equals, the first one stands
        right = next((i for i in range(place + 1, len(z)) if z[i] > z[place]), len(z))
        fall = min(
            z[place] - z[left + 1 : place].min(initial=np.inf),
            z[place] - z[place + 1 : right].min(initial=np.inf),
        )
        if -np.inf < fall and fall > noise:
            found.add(place - 1)
    return sorted(found)


@given(st.lists(st.integers(0, 200), min_size=1, max_size=25))
def test_peaks_are_those_of_the_definition(heights):
    assert peaks(np.array(heights)) == by_definition(np.array(heights))


@pytest.mark.slow
@pytest.mark.parametrize("bins", [5, 17, 60, 200, 500])
@pytest.mark.parametrize("mean", [2, 8, 12, 60, 1000])
def test_flat_bins_look_like_two_peaks_once_in_twenty_times(bins, mean):
    rows = np.random.default_rng(bins + mean).multinomial(
        bins * mean, np.full(bins, 1 / bins), 4000
    )
    # By the definition of a valley, row by row at once: what peaks() answers is compared below.
    z = 2 * np.sqrt(rows + 0.375)
    left = np.maximum.accumulate(z, axis=1)[:, :-2]
    right = np.maximum.accumulate(z[:, ::-1], axis=1)[:, ::-1][:, 2:]
    alarms = (np.minimum(left, right) - z[:, 1:-1]).max(axis=1) > least_valley(bins, bins * mean)
    assert (0.02 if mean > 10 else 0.0) <= alarms.mean() <= 0.075
    for row, alarm in zip(rows[:150], alarms, strict=False):
        assert (len(peaks(row)) > 1) == alarm


@given(
    st.lists(st.integers(0, 60).map(lambda k: k / 4), min_size=1, max_size=30),
    st.sampled_from([0.5, 1.0, 2.0, 4.0]),
    st.sampled_from(["left", "right"]),
)
def test_sliding_bins_hold_what_counting_finds(values, width, closed):
    found = slide(sample_of(values), width, 0.0, 15.0, phases=8, closed=closed)
    assert found.x[0] == 0
    assert found.x[-1] >= 15
    for place in (0, len(found.low) // 2, len(found.low) - 1):
        starts = [found.x[place] - shift * width / 8 for shift in range(8)]
        if closed == "left":
            held = [sum(start <= value < start + width for value in values) for start in starts]
        else:
            held = [sum(start < value <= start + width for value in values) for start in starts]
        assert (found.low[place], found.high[place]) == (min(held), max(held))


def test_the_bars_lie_between_what_sliding_bins_hold():
    values = np.random.default_rng(1).normal(20, 3, 500)
    sample, edges = sample_of(values), own_edges(np.arange(8.0, 33.0, 2.0))
    found = slide(sample, 2.0, edges.low, edges.high)
    heights = counts(sample, edges).repeat(32)
    assert np.all(found.low <= heights)
    assert np.all(heights <= found.high)


def two_humped(n):
    return np.concatenate(
        [np.random.default_rng(4).normal(0, 1, n), np.random.default_rng(5).normal(6, 1, n)]
    ).round(3)


def test_the_ladder_shows_peaks_appear_and_vanish():
    samples = set_of(two_humped(400).tolist(), np.random.default_rng(6).normal(3, 2, 500).tolist())
    rungs = ladder(read(asking(width=1.0).showing(split=("Bay",)), samples))
    widths = [rung.width for rung in rungs]
    assert widths == [0.1, 0.2, 0.25, 0.5, 1.0, 2.0, 2.5, 5.0, 10.0]
    peaks_at = {rung.width: rung.peaks for rung in rungs}
    assert peaks_at[0.5] == peaks_at[1.0] == peaks_at[2.0] == (2, 1)
    assert peaks_at[10.0] == (1, 1)
    assert all(rung.bins > 1 for rung in rungs)
    assert ladder(read(asking(edges=(0.0, 1.0, 5.0)).showing(split=("Bay",)), samples)) == ()
    assert ladder(read(asking(), set_of([2.0, 2.0]))) == ()


@pytest.mark.parametrize(
    ("scale", "factor"), [("count", 1), ("percent", 100 / 900), ("density", 1 / 900)]
)
def test_slides_are_on_the_scale_of_the_heights(scale, factor):
    samples = set_of(np.random.default_rng(6).normal(3, 2, 900).tolist())
    (found,) = slides(read(asking(width=1.0).showing(heights=scale), samples))
    plain = slide(samples.samples[0], 1.0, found.x[0], found.x[-1])
    assert found.high == pytest.approx(plain.high * factor)
    assert found.low == pytest.approx(plain.low * factor)
