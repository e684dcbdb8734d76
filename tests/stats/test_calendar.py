"""Bins and ticks along the calendar, against the calendar of Python's own dates."""

import math
import random
from collections import Counter
from datetime import date, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhabdos.data.samples import Sample
from rhabdos.scene.axes.date_ticks import date_ticks
from rhabdos.stats.binning import BinningError, counts
from rhabdos.stats.calendar import EVERY, calendar_edges, calendar_places, nearest_step

EPOCH = date(1970, 1, 1)


def days(*day):
    return float((date(*day) - EPOCH).days)


def dates_of(places):
    return [EPOCH + timedelta(days=float(place)) for place in places]


BEGINS = {
    "week": lambda d: d.weekday() == 0,
    "month": lambda d: d.day == 1,
    "quarter": lambda d: d.day == 1 and d.month in (1, 4, 7, 10),
    "year": lambda d: (d.month, d.day) == (1, 1),
    "decade": lambda d: (d.month, d.day) == (1, 1) and d.year % 10 == 0,
}
some_days = st.dates(date(1600, 1, 1), date(2300, 1, 1))


@given(some_days, st.integers(0, 4000), st.sampled_from(sorted(BEGINS)))
def test_places_are_all_the_beginnings_that_the_calendar_has(first, span, every):
    last = first + timedelta(days=span)
    places = dates_of(calendar_places((first - EPOCH).days, (last - EPOCH).days, every))
    everything = [places[0] + timedelta(days=i) for i in range((places[-1] - places[0]).days + 1)]
    assert places == [day for day in everything if BEGINS[every](day)]
    assert places[0] <= first
    assert places[-2] <= last < places[-1]


@given(
    st.lists(some_days, min_size=1, max_size=40),
    st.sampled_from(["month", "quarter", "year"]),
    st.sampled_from(["left", "right"]),
)
def test_every_date_is_counted_in_its_own_bin(chosen, every, closed):
    values = np.sort([float((day - EPOCH).days) for day in chosen])
    sample = Sample("d", values)
    edges = calendar_edges(sample, every, closed)
    assert counts(sample, edges).sum() == len(values)
    assert all(BEGINS[every](day) for day in dates_of(edges.values))
    if closed == "left" and every == "month":
        expected = {}
        for day in chosen:
            expected[day.replace(day=1)] = expected.get(day.replace(day=1), 0) + 1
        counted = dict(
            zip(dates_of(edges.values[:-1]), counts(sample, edges).tolist(), strict=True)
        )
        assert {day: n for day, n in counted.items() if n} == expected


def test_hours_and_days_are_even_and_months_are_equal_all_the_same():
    sample = Sample("d", np.array([days(2026, 1, 1), days(2026, 3, 5)]))
    assert calendar_edges(sample, "day").width == 1
    assert calendar_edges(sample, "hour").width == 1 / 24
    month = calendar_edges(sample, "month")
    assert (month.width, month.equal, month.count) == (None, True, 3)
    assert np.diff(month.values).tolist() == [31, 28, 31]


def test_too_many_bins_and_dates_beyond_calendars_are_refused():
    with pytest.raises(BinningError, match="an hour would make over"):
        calendar_edges(Sample("d", np.array([0.0, 20_000.0])), "hour")
    with pytest.raises(BinningError, match="beyond the years"):
        calendar_edges(Sample("d", np.array([0.0, 1e9])), "year")


@pytest.mark.parametrize(
    ("span", "bins", "every"),
    [(365, 12, "month"), (30, 30, "day"), (2, 48, "hour"), (3650, 10, "year"), (90, 12, "week")],
)
def test_the_step_that_makes_about_so_many_bins(span, bins, every):
    assert nearest_step(span, bins) == every
    assert every in EVERY


@pytest.mark.parametrize(
    ("first", "last", "labels"),
    [
        ((2026, 1, 1), (2026, 12, 31), ["Jan 2026", "Apr 2026", "Jul 2026", "Oct 2026"]),
        ((2020, 1, 1), (2026, 1, 1), ["2020", "2022", "2024", "2026"]),
        ((2026, 5, 4), (2026, 5, 25), ["4 May 2026", "11 May 2026", "18 May 2026", "25 May 2026"]),
    ],
)
def test_ticks_are_round_in_the_calendar(first, last, labels):
    ticks = date_ticks(days(*first), days(*last), lambda t, _days: len(t.places) <= 4)
    assert list(ticks.labels) == labels


def test_hours_are_ticks_of_a_day():
    start = days(2026, 5, 31)
    ticks = date_ticks(start, start + 1, lambda t, _days: len(t.places) <= 5)
    assert ticks.labels[0] == "31 May 2026 00:00"
    moments = [datetime(1970, 1, 1) + timedelta(days=place) for place in ticks.places]
    assert [moment.hour for moment in moments] == [0, 6, 12, 18, 0]


def test_the_calendar_reaches_to_its_very_ends():
    for ends in ((1, 1, 1), (9999, 12, 31)):
        here = days(*ends)
        assert calendar_edges(Sample("d", np.array([here, here])), "year").count == 1
    with pytest.raises(BinningError):
        calendar_edges(Sample("d", np.array([days(9999, 12, 31) + 400])), "year")


@pytest.mark.parametrize(
    ("closed", "first", "last"),
    [("left", (2025, 1, 1), (2025, 4, 1)), ("right", (2024, 12, 1), (2025, 3, 1))],
)
def test_a_date_on_the_first_or_the_last_edge_is_in_one_bin(closed, first, last):
    """Closed at the left, the first of March opens a bin of its own; at the right it ends
    February's, and the first of January ends December's."""
    sample = Sample("d", np.array([days(2025, 1, 1), days(2025, 3, 1)]))
    edges = calendar_edges(sample, "month", closed)
    assert (edges.values[0], edges.values[-1]) == (days(*first), days(*last))
    assert counts(sample, edges).sum() == 2


@pytest.mark.parametrize("every", ["hour", "day", "week"])
@pytest.mark.parametrize("closed", ["left", "right"])
def test_moments_beside_a_boundary_are_in_the_bin_of_the_clock(every, closed):
    """Microseconds before and after hours and midnights, counted in whole numbers."""
    chance = random.Random(f"{every} {closed}")
    hour = 3_600_000_000
    size = {"hour": hour, "day": 24 * hour, "week": 7 * 24 * hour}[every]
    origin = 4 * 24 * hour if every == "week" else 0  # a Monday
    for _ in range(300):
        first = chance.randrange(-25_000 * 24 * hour, 40_000 * 24 * hour) // size
        moments = sorted(
            origin
            + (first + chance.randrange(40)) * size
            + chance.choice([-2, -1, 0, 1, 2, chance.randrange(size)])
            for _ in range(12)
        )
        sample = Sample("d", np.array(moments) / 86_400e6)
        edges = calendar_edges(sample, every, closed)
        short = 0 if closed == "left" else 1  # a moment on a boundary belongs to what it ends
        expected = Counter((moment - origin - short) // size for moment in moments)
        told = [count for count in counts(sample, edges).tolist() if count]
        assert told == [expected[bin_] for bin_ in sorted(expected)]


def test_no_value_lies_before_the_first_edge_by_a_last_digit():
    for midnight in (20_574.0, -3.0, 0.0, 36_000.0):
        low = math.nextafter(midnight, -math.inf)
        for every in ("hour", "day", "week", "month", "year"):
            sample = Sample("d", np.array([low, midnight, midnight + 0.5]))
            assert counts(sample, calendar_edges(sample, every)).sum() == 3
