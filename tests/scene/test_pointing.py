"""What a place on the page is taken for, worked out from where things are drawn."""

import itertools

import numpy as np
import pytest

from rhabdos.figure.edits.stops import rows_of_stops, stepped, still_there
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.toml_text import read_recipe
from rhabdos.scene.build import build
from rhabdos.scene.pointing import Pointing
from tests.conftest import measure, set_of

GROUPS = ([1.2, 2.1, 2.2, 3.4, 4.5], [2.3, 3.1, 3.3, 3.6, 4.4, 5.2])


def pointed(show="", forms='"bars"'):
    recipe = read_recipe(
        f'rhabdos = 1\n[show]\nvariables = ["Length"]\nsplit = ["Bay"]\nforms = [{forms}]\n{show}\n'
        "[bins]\nwidth = 1.0\nstart = 1.0"
    )
    readings = read(recipe, set_of(*GROUPS))
    return Pointing(build(readings, measure), readings, 0.5, 2.0)


UPRIGHT = pytest.mark.parametrize("upright", ["", "upright = true"])


@UPRIGHT
def test_a_place_in_a_bar_is_read_as_that_bin_of_that_group(upright):
    at = pointed(f'arrange = "lanes"\n{upright}')
    frame = at.scene.frame
    for group, values in enumerate(bars(at.readings)):
        band = frame.lanes[group].heights[0].band
        for place, count in enumerate(values.counts):
            middle = float(at.readings.edges.values[place]) + 0.5
            x, y = frame.point(frame.along(middle), band.at(max(count, 0.5) / 2))
            stop = at.stop(x, y)
            assert (stop.form, stop.panel) == ("bars", 0)
            assert stop.value == pytest.approx(middle)
            assert at.group(x, y, stop) == group
            if count:
                assert at.meaning(x, y).group == group


def test_where_bars_overlap_the_lowest_over_the_place_is_meant():
    at = pointed('arrange = "overlaid"')
    frame = at.scene.frame
    band = frame.lanes[0].heights[0].band
    counts = [of.counts for of in bars(at.readings)]
    for place in range(at.readings.edges.count):
        both = [int(of[place]) for of in counts]
        middle = float(at.readings.edges.values[place]) + 0.5
        for height in np.arange(0.25, max(both) + 1):
            x, y = frame.point(frame.along(middle), band.at(height))
            over = [(count, group) for group, count in enumerate(both) if count > height]
            meant = min(over)[1] if over else None
            lowest = [group for count, group in over if count == min(over)[0]]
            assert at.group(x, y, at.stop(x, y)) in (lowest or [meant])


def test_beyond_the_frames_nothing_is_read():
    at = pointed()
    frame = at.scene.frame
    for x, y in ((frame.left - 5, frame.top + 5), (frame.right + 5, frame.top + 5)):
        assert at.stop(x, y) is None
        assert at.group(x, y, None) is None


@UPRIGHT
def test_a_spot_is_where_it_is_pointed_and_stays_in_the_frame(upright):
    at = pointed(upright)
    frame = at.scene.frame
    for along, share in itertools.product((0.2, 0.5, 0.8), (0.25, 0.75)):
        value = frame.low + along * (frame.high - frame.low)
        across = frame.first + share * (frame.last - frame.first)
        spot = at.spot(frame, *frame.point(frame.along(value), across))
        assert spot.value == pytest.approx(value, abs=frame.units_over(frame.along(value), 1.0))
        upwards = share if frame.upright else 1 - share
        assert spot.share == pytest.approx(upwards, abs=0.002)
    out = at.spot(frame, frame.right + 500, frame.top - 500)
    assert frame.low <= out.value <= frame.high
    assert 0 <= out.share <= 1


def test_keys_step_along_rows_of_parts_and_stop_at_their_ends():
    at = pointed(forms='"bars", "box"')
    rows = rows_of_stops(at.readings)
    assert len(rows) >= 2
    first = rows[0]
    assert stepped(rows, None, "next") == first[0]
    assert stepped(rows, None, "last") == first[-1]
    assert stepped(rows, first[0], "next") == first[1]
    assert stepped(rows, first[1], "before") == first[0]
    assert stepped(rows, first[0], "before") == first[0]
    assert stepped(rows, first[1], "last") == first[-1]
    assert stepped(rows, first[-1], "next") == first[-1]
    assert stepped(rows, first[-1], "first") == first[0]
    assert stepped(rows, first[0], "row below") == rows[1][0]
    assert stepped(rows, rows[1][0], "row above") == first[0]
    assert stepped(rows, first[2], "row above") == first[2]
    assert stepped(rows, rows[-1][0], "row below") == rows[-1][0]


def test_a_part_is_still_there_as_long_as_its_form_and_group_are():
    at = pointed(forms='"bars", "box"')
    box = rows_of_stops(at.readings)[-1][0]
    assert still_there(box, at.readings)
    assert not still_there(box, pointed().readings)
    one = read(
        read_recipe('rhabdos = 1\n[show]\nvariables = ["Length"]\nforms = ["box"]'),
        set_of(GROUPS[0]),
    )
    last = rows_of_stops(at.readings)[-1][-1]
    assert last.group
    assert not still_there(last, one)
