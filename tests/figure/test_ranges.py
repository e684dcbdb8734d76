"""Ranges of values that are read in a figure, and kept in it: counts, words, recipe and painting."""

import datetime
import itertools

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, DateColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.edits.part_rows import rows_between
from rhabdos.figure.edits.placed_texts import value_of, with_text
from rhabdos.figure.edits.ranges import (
    kept_range,
    moved_range,
    range_called,
    range_card,
    ranges_typed,
    ranges_written,
    read_range,
    snapped,
    without_range,
)
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.explained import explain
from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.output.numbers_csv import numbers_csv
from rhabdos.figure.output.subjects import Subject
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.readings.axis_limits import range_ends
from rhabdos.figure.readings.between import between
from rhabdos.figure.recipe.recipe_ranges import Range
from rhabdos.figure.recipe.toml_text import RecipeError, read_recipe, write_recipe
from rhabdos.scene.build import build
from rhabdos.scene.drawing_notices import ranges_notice
from rhabdos.scene.marks import Area, Segments, Text
from tests.conftest import measure, set_of

GROUPS = ([1.0, 2, 2, 3, 5, 8], [2.0, 4, 4, 9, 9, 9, 12], [7.0])


def figure(text: str = "", groups=GROUPS):
    recipe = read_recipe(f'rhabdos = 1\n[show]\nvariables = ["Length"]\nsplit = ["Bay"]\n{text}')
    return read(recipe, set_of(*groups))


def test_what_lies_below_within_and_above_is_counted_value_by_value():
    rng = np.random.default_rng(4)
    for closed, low, high in itertools.product(("left", "right"), (0, 1, 2.5, 4), (4.5, 8, 9, 30)):
        groups = [rng.integers(0, 12, n).astype(float).tolist() for n in (5, 30, 1)]
        readings = figure(f'[bins]\nwidth = 2\nstart = 0\nclosed = "{closed}"', groups)
        edges = readings.edges.values.tolist()
        for each, values in zip(between(readings, (0, 1, 2), low, high), groups, strict=True):
            x = np.array(values)
            whole = low in edges and high in edges
            first = x > low if whole and closed == "right" and low != edges[0] else x >= low
            last = x < high if whole and closed == "left" and high != edges[-1] else x <= high
            assert each.within == (first & last).sum()
            assert each.below == (~first).sum()
            assert each.above == (~last).sum()


def test_a_card_tells_shares_and_differences_from_the_reference():
    readings = figure('forms = ["curve"]\nheights = "density"\n[compare]\nreference = "B"')
    card = range_card(readings, None, 2.0, 4.0)
    assert card.title == "2 to 4 mm"
    assert card.headings == ("between", "", "below", "above", "from B")
    assert [line.cells for line in card.lines] == [
        ("3", "50.0 %", "16.7 %", "33.3 %", "+7.1 points"),  # 3/6 - 3/7
        ("3", "42.9 %", "0.0 %", "57.1 %", "reference"),
        ("0", "0.0 %", "0.0 %", "100.0 %", "−42.9 points"),
    ]
    assert not card.notes
    alone = read(read_recipe('rhabdos = 1\n[show]\nvariables = ["Length"]'), set_of([1.0, 2, 3]))
    assert range_card(alone, None, 1.0, 2.0).headings[-1] == "above"


def test_a_value_at_an_edge_of_a_bin_is_told_where_the_bin_has_it():
    readings = figure("[bins]\nwidth = 2\nstart = 0")
    card = range_card(readings, None, 2.0, 4.0)
    assert card.lines[1].cells[0] == "1"
    assert card.notes == ("4 mm itself counts above, as in the bins.",)


def test_ends_are_typed_in_either_order_with_their_unit_and_wrong_ones_are_refused():
    readings = figure()
    assert read_range(readings, "9 mm", "2.5") == (2.5, 9.0)
    for low, high in (("2", "two"), ("2", "2"), ("", "4"), ("nan", "3")):
        with pytest.raises(Refusal):
            read_range(readings, low, high)


def test_an_end_snaps_to_the_nearest_edge_of_a_bin_and_stays_where_there_are_none():
    readings = figure("[bins]\nwidth = 2\nstart = 0")
    assert [snapped(readings, None, value) for value in (2.9, 3.1, 99)] == [2, 4, 14]
    assert snapped(figure('forms = ["curve"]\nheights = "density"'), None, 2.9) == 2.9


def test_a_range_is_kept_moved_called_and_taken_out():
    recipe = kept_range(figure(), 2.0, 4.5, None)
    readings = read(recipe, set_of(*GROUPS))
    assert range_ends(readings, 0) == (2.0, 4.5)
    assert "shaded is 2 to 4.5 mm" in plain(readings)
    recipe = range_called(moved_range(readings, 0, 3.0, 5.0), 0, "for market")
    assert read_recipe(write_recipe(recipe)) == recipe
    assert '{ from = 3.0, to = 5.0, words = "for market" }' in write_recipe(recipe)
    assert not without_range(recipe, 0).range
    many = recipe.changed(range=recipe.range * 40)
    with pytest.raises(Refusal, match="at most 40"):
        kept_range(read(many, set_of(*GROUPS)), 1.0, 2.0, None)


def test_ranges_are_typed_as_they_are_written():
    readings = figure()
    ranges = ranges_typed(readings, "2 to 4.5 mm for market; -1 to 1; 8 mm to 9 mm big, and old")
    told = [(each.low, each.high, each.words) for each in ranges]
    assert told == [(2, 4.5, "for market"), (-1, 1, None), (8, 9, "big, and old")]
    again = read(readings.recipe.changed(range=ranges), set_of(*GROUPS))
    assert ranges_written(again) == "2 to 4.5 for market; −1 to 1; 8 to 9 big, and old"
    assert ranges_typed(again, ranges_written(again)) == ranges
    coloured = tuple(each.changed(colour="#112233", words="") for each in ranges)
    silent = read(readings.recipe.changed(range=coloured), set_of(*GROUPS))
    assert ranges_typed(silent, ranges_written(silent)) == coloured
    (grouped,) = ranges_typed(readings, "1 000 to 12 500.5 for market")
    assert (grouped.low, grouped.high, grouped.words) == (1000, 12500.5, "for market")
    for wrong in ("2", "2 to", "two to four", "4 to 4"):
        with pytest.raises(Refusal):
            ranges_typed(readings, wrong)


def test_ranges_that_come_and_go_leave_the_others_their_colours():
    readings = figure()
    typed = ranges_typed(readings, "1 to 2; 3 to 4; 5 to 6")
    colours = ("#AA0000", "#00AA00", "#0000AA")
    coloured = tuple(r.changed(colour=c) for r, c in zip(typed, colours, strict=True))
    now = read(readings.recipe.changed(range=coloured), set_of(*GROUPS))

    def told(text):
        return [(each.low, each.colour) for each in ranges_typed(now, text)]

    assert told("3 to 4; 5 to 6") == [(3, "#00AA00"), (5, "#0000AA")]
    assert told("1 to 2; 5 to 6") == [(1, "#AA0000"), (5, "#0000AA")]
    assert told("0 to 9; 1 to 2; 3 to 4; 5 to 6") == [
        (0, None),
        *zip((1, 3, 5), colours, strict=True),
    ]
    assert told("1 to 2; 3 to 4.5; 5 to 6") == [*zip((1, 3, 5), colours, strict=True)]
    assert told("5 to 6; 3 to 4; 1 to 2") == [*zip((5, 3, 1), colours[::-1], strict=True)]
    third = 10 / 3
    endless = read(readings.recipe.changed(range=(Range(low=third, high=5.0),)), set_of(*GROUPS))
    more = ranges_typed(endless, f"{ranges_written(endless)}; 1 to 2")
    assert [each.low for each in more] == [third, 1]
    assert told("0 to 9; 3 to 4; 5 to 6") == [(0, "#AA0000"), (3, "#00AA00"), (5, "#0000AA")]


DAYS = Table(
    "Days",
    (
        DateColumn("When", values=np.arange(19_000.0, 19_100.0)),
        NumberColumn("Length", values=np.arange(100.0)),
    ),
)


def test_a_range_of_dates_holds_whole_days_where_it_is_typed_and_edges_where_it_is_dragged():
    recipe = read_recipe('rhabdos = 1\n[show]\nvariables = ["When"]\nforms = ["curve"]')
    readings = read(recipe, gather(DAYS, "When"))
    first = (datetime.date(2022, 1, 20) - datetime.date(1970, 1, 1)).days
    low, high = read_range(readings, "2022-01-20", "2022-01-22")
    (told,) = between(readings, (0,), low, high)
    assert told.within == 3
    assert read_range(readings, "2022-01-22", "2022-01-20") == (low, high)
    (typed,) = ranges_typed(readings, "2022-01-20 to 2022-01-22 floods")
    assert (typed.low, typed.high, typed.words) == ("2022-01-20", "2022-01-22", "floods")
    of = readings.recipe.changed(range=(typed,))
    (told,) = between(readings, (0,), *range_ends(read(of, gather(DAYS, "When")), 0))
    assert told.within == 3
    dragged = kept_range(readings, float(first), float(first + 2), None)
    again = read(read_recipe(write_recipe(dragged)), gather(DAYS, "When"))
    assert range_ends(again, 0) == (first, first + 2)
    assert ranges_typed(again, ranges_written(again)) == dragged.range


def test_what_is_no_range_is_refused_by_its_name():
    for keys, told in (
        ("from = 4\nto = 2", "Range 1 in the figure must begin below its end"),
        ('from = "2022-01-01"\nto = 4', "is no number"),
    ):
        with pytest.raises(Refusal, match=told):
            figure(f"[[range]]\n{keys}")
    with pytest.raises(RecipeError, match="range 1.to is missing"):
        figure("[[range]]\nfrom = 4")
    with pytest.raises(RecipeError, match="range 1.from is -inf. Ends of a range must be finite"):
        figure("[[range]]\nfrom = -inf\nto = 2")


@pytest.mark.parametrize("axis", ["", "reversed = true", 'scale = "log"', 'scale = "root"'])
@pytest.mark.parametrize("upright", ["false", "true"])
def test_a_range_is_painted_from_end_to_end_of_its_values_in_every_panel(axis, upright):
    text = f"upright = {upright}\n[axes.value]\nfrom = 1\nto = 12\n{axis}\n"
    text += '[[range]]\nfrom = 2\nto = 5\nwords = "for market"\ncolour = "#112233"\n'
    text += "[[range]]\nfrom = -3\nto = 1.5\n[[range]]\nfrom = 40\nto = 50\n"
    readings = figure(text)
    scene = build(readings, measure)
    frame = scene.frame
    shades = [m for m in scene.marks if isinstance(m, Area) and m.meaning.part == "range"]
    assert len(shades) == 2
    assert shades[0].fill == "#112233"
    along = 1 if upright == "true" else 0
    start, end = (frame.bottom, frame.top) if along else (frame.left, frame.right)
    place = {
        'scale = "log"': lambda v: np.log(v) / np.log(12),
        'scale = "root"': lambda v: (np.sqrt(v) - 1) / (np.sqrt(12) - 1),
    }.get(axis, lambda v: (v - 1) / 11)
    for shade, ends in zip(shades, ((2, 5), (1, 1.5)), strict=True):
        shares = [1 - place(v) if "reversed" in axis else place(v) for v in ends]
        wanted = sorted(start + share * (end - start) for share in shares)
        assert sorted({round(v, 3) for v in shade.points[:, along]}) == pytest.approx(
            wanted, abs=2e-3
        )
        across = shade.points[:, 1 - along]
        sides = (frame.left, frame.right) if along else (frame.top, frame.bottom)
        assert (across.min(), across.max()) == sides
    lines = [
        m
        for m in scene.marks
        if isinstance(m, Segments) and m.meaning and m.meaning.part == "range"
    ]
    assert [len(m.lines) for m in lines] == [2, 1]  # of the second, one end is off the axis
    words = [m.text for m in scene.marks if isinstance(m, Text) and m.meaning.part == "range"]
    assert words == ["for market", "−3 to 1.5 mm"]
    assert "40 to 50 mm" in ranges_notice(scene, readings).text


def test_a_range_of_one_panel_is_shaded_and_counted_there_alone():
    bay = CategoryColumn("Bay", codes=np.array([0, 0, 1, 1, 1], np.int8), levels=("A", "B"))
    number = NumberColumn("Length", unit="mm", values=np.array([1.0, 2, 2, 3, 9]))
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["Length"]\n[panels]\nby = ["Bay"]\n'
        '[[range]]\nfrom = 2\nto = 4\npanel = "B"'
    )
    readings = read(recipe, samples_for(recipe, Table("t", (number, bay))))
    scene = build(readings, measure)
    (shade,) = [m for m in scene.marks if isinstance(m, Area) and m.meaning.part == "range"]
    assert shade.points[:, 0].min() >= scene.frames[1].left
    (told,) = numbers_data(readings)["ranges"]
    assert (told["below"], told["within"], told["above"]) == (0, 2, 1)
    assert ",n in shaded range,2.0,4.0,2" in numbers_csv(readings)


def test_what_is_put_in_a_panel_with_an_axis_of_its_own_is_of_its_variable():
    days = DateColumn("Day", values=np.arange(20_500.0, 20_540.0))
    table = Table("t", (NumberColumn("Mass", unit="g", values=np.arange(40.0)), days))
    samples = gather(table, ("Mass", "Day"))
    readings = read(read_recipe('rhabdos = 1\n[show]\nvariables = ["Mass", "Day"]'), samples)
    for panel, ends, told in ((0, (10.0, 12.5), "10 to 12.5 g"),
                              (1, (20_510.0, 20_520.0), "2026-02-26 to 2026-03-08")):  # fmt: skip
        again = read(kept_range(readings, *ends, panel), samples)
        assert range_ends(again, 0) == ends
        assert plain(again).endswith(f"shaded is {told}.")
        assert ranges_typed(again, ranges_written(again)) == again.recipe.range
        (text,) = with_text(readings, ends[0], 0.5, panel).text
        assert value_of(readings, text, text.panel) == ends[0]
        assert text.panel == again.recipe.range[0].panel
    assert not [n for n in notices(readings) if n.code == "own-bins"]  # of bins of other units
    (month,) = rows_between(readings, 20_514.0, 20_528.5, (1,)).where
    assert month.describe()[1] == "is from 2026-03-02 to 2026-03-16 12:00"
    assert explain(readings, Subject("curve", 1)).here[0].endswith(" days")
