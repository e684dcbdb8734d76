"""What is asked of the axes, against plain arithmetic on the marks that come of it."""

import itertools
import math

import numpy as np
import pytest

from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.recipe.recipe_axes import HeightAxis, ValueAxis
from rhabdos.figure.recipe.toml_text import read_recipe, write_recipe
from rhabdos.figure.words.naming import default_value_title
from rhabdos.scene.axes.axes import height_scale, value_ticks
from rhabdos.scene.axes.limits import Limits, limits_of
from rhabdos.scene.axes.ticks import USUAL, Writing, label, ticks_at
from rhabdos.scene.axes.uneven_ticks import log_ticks
from rhabdos.scene.build import build
from rhabdos.scene.coordinates import Band
from rhabdos.scene.drawing_notices import cut_notice
from rhabdos.scene.layout.page_parts import Page
from rhabdos.scene.marks import Area, Dots, Path, Segments, Text
from rhabdos.scene.style.look import style_of
from rhabdos.stats.axis_scale import LOGS
from tests.conftest import measure, set_of

WHOLE = np.arange(1.0, 101.0)


def figure(text="", values=WHOLE, forms=("bars",)):
    shown = ", ".join(f'"{form}"' for form in forms)
    recipe = read_recipe(f'rhabdos = 1\n[show]\nvariables = ["Length"]\nforms = [{shown}]\n{text}')
    assert read_recipe(write_recipe(recipe)) == recipe
    return read(recipe, set_of(values.tolist()))


def scene_of(text="", values=WHOLE, forms=("bars",)):
    return build(figure(text, values, forms), measure)


def labels(scene, part="value-axis"):
    """The numbers of an axis, from left to right or from the bottom up."""
    texts = [m for m in scene.marks if isinstance(m, Text) and m.meaning and m.meaning.part == part]
    numbers = [t for t in texts if t.text not in ("Length (mm)", "Count", "Percent", "Proportion")]
    return [t.text for t in sorted(numbers, key=lambda t: round(t.x) if part[0] == "v" else -t.y)]


def codes(readings):
    return {notice.code: notice for notice in notices(readings)}


# Limits


SEVERAL = Table("t", (NumberColumn("Length", unit="mm", values=np.linspace(10.0, 50.0, 41)),
                      NumberColumn("Mass", unit="g", values=np.linspace(400.0, 440.0, 41)),
                      DateColumn("Day", values=np.arange(20_500.0, 20_541.0))))  # fmt: skip


def several(text):
    recipe = read_recipe('rhabdos = 1\n[show]\nvariables = ["Length", "Mass", "Day"]\n' + text)
    return read(recipe, gather(SEVERAL, ("Length", "Mass", "Day")))


@pytest.mark.parametrize(
    ("asked", "ends", "free", "hidden"),
    [
        ("from = 0", [(0, None), (0, None), (None, None)], ["Day"], 0),
        ("from = 20\nto = 60", [(20, 60), (None, None), (None, None)], ["Mass", "Day"], 10),
        ("to = 420", [(None, 420), (None, 420), (None, None)], ["Day"], 20),
        (
            'from = "2026-03-01"',
            [(None, None), (None, None), (20513, None)],
            ["Length", "Mass"],
            13,
        ),
    ],
)
def test_of_several_axes_those_have_limits_that_have_values_between_them(asked, ends, free, hidden):
    readings, usual = several(f"[axes.value]\n{asked}"), build(several(""), measure).frames
    for frame, plain_frame, (low, high) in zip(
        build(readings, measure).frames, usual, ends, strict=True
    ):
        assert frame.low == (plain_frame.low if low is None else low)
        assert frame.high == (plain_frame.high if high is None else high)
    assert "; value axes run " in plain(readings)
    assert codes(readings)["limits-elsewhere"].text.startswith(", ".join(free))
    told = codes(readings).get("limits-hide")
    assert int(told.text.split()[0]) == hidden if hidden else told is None


@pytest.mark.parametrize("asked", ["from = 1e6", 'from = "soon"', 'scale = "log"'])
def test_limits_and_logs_that_suit_no_axis_are_refused(asked):
    with pytest.raises(Refusal):
        several(f"[axes.value]\n{asked}")


@pytest.mark.parametrize(
    ("asked", "labels"), [("ticks = 20", 3), ("ticks = [20, 30]", 2), ("ticks = 0.01", None)]
)
def test_of_several_axes_those_have_ticks_that_have_room_for_them(asked, labels):
    text = f"[axes.value]\n{asked}"
    counts = [len(of) for of in _ticks_of_panels(several(text))]
    usual = [len(of) for of in _ticks_of_panels(several(""))]
    assert counts[0] == (usual[0] if labels is None else labels)
    if asked != "ticks = 20":
        assert counts[1:] == usual[1:]


def _ticks_of_panels(readings):
    page = Page(readings, 500.0, 400.0, limits_of(readings), measure, style_of(readings.recipe))
    return [page.value_ticks(panel, 300.0).places for panel in range(3)]


def test_limits_cut_the_axis_and_not_what_is_worked_out():
    scene, plain = scene_of("[axes.value]\nfrom = 20\nto = 60"), scene_of()
    assert (scene.frame.low, scene.frame.high) == (20.0, 60.0)
    whole, cut = figure(), figure("[axes.value]\nfrom = 20\nto = 60")
    assert bars(cut)[0].counts.tolist() == bars(whole)[0].counts.tolist()
    assert cut.summaries == whole.summaries
    assert plain.frame.low < 20
    (area,) = [m for m in scene.marks if isinstance(m, Area)]
    assert area.points[:, 0].min() >= scene.frame.left
    assert area.points[:, 0].max() <= scene.frame.right


def test_values_beyond_the_limits_are_counted_and_offered_back():
    cut = figure("[axes.value]\nfrom = 20\nto = 60")
    notice = codes(cut)["limits-hide"]
    assert notice.text.startswith("59 values lie beyond the value axis, 19 below it and 40 above")
    assert notice.cure.axes.value.low is None
    assert notice.cure.axes.value.high is None
    assert "limits-hide" not in codes(figure("[axes.value]\nfrom = 1\nto = 100"))


@pytest.mark.parametrize("forms", ['"box"', '"points"', '"box", "points"'])
def test_boxes_and_points_have_as_much_room_at_both_ends_of_a_log_axis(forms):
    recipe = read_recipe(
        f'rhabdos = 1\n[show]\nvariables = ["Length"]\nforms = [{forms}]\n'
        '[axes.value]\nscale = "log"\n[bins]\nlogs = true\ncount = 4'
    )
    values = np.geomspace(0.01, 1000.0, 400)
    frame = build(read(recipe, set_of(values.tolist())), measure).frame
    below, above = values[0] / frame.low, frame.high / values[-1]
    assert 1.0 < below < 2.0
    assert below == pytest.approx(above)


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("[axes.value]\nfrom = 100.5", "cannot begin at 100.5"),
        ("[axes.value]\nto = 0.5", "cannot end at 0.5"),
        ("[axes.value]\nfrom = -1\nscale = 'log'", "no place for 0 or less"),
        ("[axes.value]\nfrom = 'spring'", "The limit of the value axis: “spring” is no number"),
        ("[axes.value]\nticks = 0.001", "99,000 of them, and at most 1,000"),
    ],
)
def test_limits_that_show_nothing_are_refused(text, sentence):
    with pytest.raises(Refusal, match=sentence):
        figure(text)


def test_ticks_beyond_counting_are_refused_in_a_short_sentence():
    with pytest.raises(Refusal, match="more than anybody could count") as refusal:
        figure("[axes.value]\nticks = 5", np.array([-1e308, 0.5, 0.7e308]))
    assert len(str(refusal.value)) < 200


@pytest.mark.parametrize("values", [[1.7e308, 1.7e308], [5e-324, 5e-324], [7.0]])
def test_a_log_axis_of_equal_values_has_two_ends(values):
    frame = scene_of("[axes.value]\nscale = 'log'", np.array(values), ("points",)).frame
    assert frame.low < frame.high
    assert frame.start <= frame.along(values[0]) <= frame.end


def test_a_log_axis_without_a_value_above_0_is_refused():
    with pytest.raises(Refusal, match="no value is above 0"):
        figure("[axes.value]\nscale = 'log'", -WHOLE)


# Where values lie


@pytest.mark.parametrize("upright", [False, True])
@pytest.mark.parametrize("backwards", [False, True])
@pytest.mark.parametrize("log", [False, True])
def test_every_value_has_its_place_and_every_place_its_value(log, backwards, upright):
    text = f"upright = {str(upright).lower()}\n[axes.value]\nreversed = {str(backwards).lower()}\n"
    scene = scene_of(text + f"scale = '{'log' if log else 'linear'}'", forms=("box", "points"))
    frame = scene.frame
    start, end = (frame.high, frame.low) if backwards else (frame.low, frame.high)
    assert frame.value(frame.start) == pytest.approx(start)
    assert frame.value(frame.end) == pytest.approx(end)
    middle = math.sqrt(start * end) if log else (start + end) / 2
    assert frame.along(middle) == pytest.approx((frame.start + frame.end) / 2)
    many = np.linspace(frame.low, frame.high, 50)
    assert frame.alongs(many).tolist() == pytest.approx([frame.along(v) for v in many.tolist()])
    assert [frame.value(a) for a in frame.alongs(many).tolist()] == pytest.approx(many.tolist())
    for mark in scene.marks:
        if isinstance(mark, Dots):
            assert all(frame.holds(x, y) for x, y in mark.places.tolist())


def test_a_curve_backwards_is_the_mirror_of_the_curve():
    (there,) = [m for m in scene_of(forms=("curve",)).marks if isinstance(m, Path)]
    scene = scene_of("[axes.value]\nreversed = true", forms=("curve",))
    (back,) = [m for m in scene.marks if isinstance(m, Path)]
    mirrored = scene.frame.left + scene.frame.right - back.points[::-1, 0]
    shared = np.interp(there.points[:, 0], mirrored, back.points[::-1, 1])
    assert np.abs(shared - there.points[:, 1]).max() < 0.6
    x, y = back.points[len(back.points) // 2]
    assert scene.line_at(float(x), float(y), 3.0) is not None


def test_what_a_log_axis_has_no_place_for_is_told():
    readings = figure("[axes.value]\nscale = 'log'", np.array([0.0, -3.0, 1.0, 10.0, 100.0]))
    assert "2 values are 0 or less" in codes(readings)["log-axis-hides"].text
    assert build(readings, measure).frame.low == 1.0


# Bins equal in logs


def test_bins_equal_in_logs_are_as_wide_as_one_another_on_a_log_axis():
    values = 10 ** np.random.default_rng(4).normal(1.5, 0.4, 4_000)
    readings = figure("[bins]\nlogs = true\ncount = 20\n[axes.value]\nscale = 'log'", values)
    edges = readings.edges.values
    assert np.diff(np.log10(edges)).tolist() == pytest.approx(
        [math.log10(edges[1] / edges[0])] * (len(edges) - 1)
    )
    assert readings.scale == "count"
    expected, _ = np.histogram(values, edges)
    assert bars(readings)[0].counts.tolist() == expected.tolist()
    frame = build(readings, measure).frame
    apart = np.diff(frame.alongs(edges))
    assert apart.tolist() == pytest.approx([apart[0]] * len(apart))


def test_a_curve_over_bins_equal_in_logs_is_the_density_of_the_logs():
    logs = np.random.default_rng(4).normal(1.5, 0.2, 40_000)
    text = "[bins]\nlogs = true\n[curve]\nfactor = 0.5\n[axes.value]\nscale = 'log'"
    readings = figure(text, 10**logs, ("bars", "curve"))
    from rhabdos.figure.forms.lines import curves_of

    (curve,) = curves_of(readings, "curve")
    width = math.log10(readings.edges.ratio)
    x, y = curve.x[curve.x > 1], curve.y[curve.x > 1]
    normal = np.exp(-((np.log10(x) - 1.5) ** 2) / 2 / 0.04) / math.sqrt(2 * math.pi) / 0.2
    expected = 40_000 * width * normal
    near = np.abs(np.log10(x) - 1.5) < 0.3
    assert np.abs(y - expected)[near].max() < 0.1 * expected.max()


def test_bins_equal_in_logs_on_a_linear_axis_show_density():
    readings = figure("[bins]\nlogs = true")
    assert readings.scale == "density"
    assert "unequal-bins" in codes(readings)


def test_bins_in_logs_of_values_of_0_and_less_say_so():
    with pytest.raises(Refusal, match="need values above 0"):
        figure("[bins]\nlogs = true", -WHOLE)


# Ticks


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("ticks = 25", ["0", "25", "50", "75", "100"]),
        ("ticks = [90, 10.5, 50, 400]", ["10.5", "50.0", "90.0"]),
        ("ticks = 'edges'", ["0", "20", "40", "60", "80", "100", "120"]),
        ("ticks = 'middles'", ["10", "30", "50", "70", "90", "110"]),
        ("ticks = 'none'", []),
        ("ticks = 50\nreversed = true", ["100", "50", "0"]),
        ("ticks = 50\ndecimals = 1\ndecimal = ','", ["0,0", "50,0", "100,0"]),
    ],
)
def test_ticks_stand_where_they_are_asked_for(text, shown):
    scene = scene_of(f"[bins]\nwidth = 20\nstart = 0\n[axes.value]\n{text}")
    assert labels(scene) == shown


def test_labels_that_would_touch_give_way_and_their_ticks_stay():
    scene = scene_of("[axes.value]\nticks = 1\nfrom = 1\nto = 100")
    texts = [m for m in scene.marks if isinstance(m, Text) and m.meaning.part == "value-axis"]
    numbers = sorted((t for t in texts if t.text != "Length (mm)"), key=lambda t: t.x)
    assert 10 < len(numbers) < 60
    for before, after in itertools.pairwise(numbers):
        room = (measure(before.text, 8.5, False) + measure(after.text, 8.5, False)) / 2
        assert after.x - before.x > room
    lines = next(
        m for m in scene.marks
        if isinstance(m, Segments) and m.meaning and m.meaning.part == "value-axis"
    )  # fmt: skip
    assert len(lines.lines) == 101


@pytest.mark.parametrize(
    ("place", "step", "writing", "text"),
    [
        (1234.5, 0.5, USUAL, "1,234.5"),
        (1234.5, 0.5, Writing(thousands=".", decimal=","), "1.234,5"),
        (1234.5, 0.5, Writing(thousands=" ", decimal=","), "1 234,5"),
        (1234.5, 0.5, Writing(thousands="", decimals=0), "1234"),
        (-0.25, 0.25, Writing(decimals=3), "−0.250"),
        (0.25, 0.05, Writing(numbers="percent"), "25 %"),
        (0.125, 0.005, Writing(numbers="percent"), "12.5 %"),
        (12_000.0, 1_000.0, Writing(numbers="powers"), "1.2×10⁴"),
        (0.0, 0.05, Writing(numbers="percent"), "0 %"),
    ],
)
def test_numbers_are_written_as_asked(place, step, writing, text):
    assert label(place, step, abs(place), writing) == text


def test_a_log_axis_has_ticks_in_its_decades():
    def room_for(count):
        return lambda found, _step: len(found.places) <= count

    assert log_ticks(1, 1000, room_for(30)).labels[:4] == ("1", "2", "3", "4")
    assert log_ticks(1, 1000, room_for(10)).labels == (
        "1", "2", "5", "10", "20", "50", "100", "200", "500", "1,000",
    )  # fmt: skip
    assert log_ticks(1, 1000, room_for(5)).labels == ("1", "10", "100", "1,000")
    every_other = ("10⁻⁶", "10⁻⁴", "10⁻²", "10⁰", "10²", "10⁴", "10⁶")
    assert log_ticks(1e-6, 1e6, room_for(7)).labels == every_other
    assert log_ticks(20, 24, room_for(9)).labels == ticks_at((20, 20.5, 21, 21.5, 22, 22.5, 23, 23.5, 24)).labels  # fmt: skip


@pytest.mark.parametrize("turn", [45, 90])
def test_turned_labels_end_at_their_ticks_and_lie_within_the_page(turn):
    scene = scene_of(f"[axes.value]\nturn = {turn}\nticks = 5")
    turned = [m for m in scene.marks if isinstance(m, Text) and m.angle == turn]
    turned = [m for m in turned if m.meaning.part == "value-axis"]
    assert len(turned) >= 20
    for text in turned:
        assert text.anchor == "end"
        reach = measure(text.text, 8.5, False) * math.sin(math.radians(turn))
        assert scene.frame.bottom < text.y
        assert text.y + reach < scene.height - 12


# Heights


def test_heights_begin_where_they_are_asked_to_and_a_notice_says_so():
    text = "[bins]\nwidth = 20\nstart = 0\n[axes.height]\nfrom = 10\nto = 30"
    scene = scene_of(text)
    band = scene.frame.band
    assert (band.least, band.tallest) == (10.0, 30.0)
    assert band.at(10.0) == scene.frame.bottom
    assert band.at(30.0) == scene.frame.top
    assert band.at(20.0) == pytest.approx((scene.frame.top + scene.frame.bottom) / 2)
    assert band.at(5.0) == scene.frame.bottom  # what is lower is cut, and does not hang out
    assert "begin at 10 and not at 0" in codes(figure(text))["heights-cut"].text
    assert "heights-cut" not in codes(figure("[axes.height]\nto = 30"))


def test_a_second_axis_writes_the_same_heights_in_another_scale():
    scene = scene_of("[axes.height]\nsecond = 'percent'", np.repeat(np.arange(10.0), 20))
    texts = [m for m in scene.marks if isinstance(m, Text) and m.meaning.part == "height-axis"]
    left = {t.text: t.y for t in texts if t.x < scene.frame.left}
    right = {t.text: t.y for t in texts if t.x > scene.frame.right}
    assert "Percent" in right
    assert left["20"] == pytest.approx(right["10"])  # 20 of 200 values
    assert left["0"] == pytest.approx(right["0"])


def test_groups_of_different_size_have_no_second_axis_and_a_notice_says_why():
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["Length"]\nsplit = ["Bay"]\n[axes.height]\nsecond = "percent"'
    )
    unequal = read(recipe, set_of([1.0] * 10, [2.0] * 30))
    assert "groups of different size" in codes(unequal)["no-second-axis"].text
    assert "no-second-axis" not in codes(read(recipe, set_of([1.0] * 20, [2.0] * 20)))


# The frame


@pytest.mark.parametrize("aspect", [0.3, 1.0, 2.5])
def test_a_frame_has_the_shape_that_is_asked_for(aspect):
    frame, free = scene_of(f"[axes]\naspect = {aspect}").frame, scene_of("").frame
    assert (frame.bottom - frame.top) / (frame.right - frame.left) == pytest.approx(aspect)
    assert frame.top + frame.bottom == pytest.approx(free.top + free.bottom)  # in the middle
    assert frame.left + frame.right == pytest.approx(free.left + free.right)


def test_sides_of_the_frame_are_drawn_as_asked():
    def lines_at(scene):
        """The sides along which an inked line runs all the way."""
        frame = scene.frame
        ends = {
            "left": [frame.left, frame.top, frame.left, frame.bottom],
            "right": [frame.right, frame.top, frame.right, frame.bottom],
            "top": [frame.left, frame.top, frame.right, frame.top],
            "bottom": [frame.left, frame.bottom, frame.right, frame.bottom],
        }
        inked = [
            line
            for m in scene.marks
            if isinstance(m, Segments) and m.colour == "#1E2B2F"
            for line in m.lines.tolist()
        ]
        return {side for side, end in ends.items() if end in inked}

    assert lines_at(scene_of()) == {"bottom"}
    assert lines_at(scene_of("[axes]\nframe = ['left', 'top']")) == {"left", "top"}
    assert lines_at(scene_of("[axes]\nframe = []")) == set()


@pytest.mark.parametrize("tallest", [5e-324, 1e-323, 1.5e-323, 2.5e-308, 1.0, 1.7e308])
@pytest.mark.parametrize("extent", [20.0, 180.0, 400.0])
@pytest.mark.parametrize("whole", [False, True])
def test_an_axis_of_heights_has_room_for_any_number(tallest, extent, whole):
    scale = height_scale(tallest, extent, whole)
    assert scale.top >= tallest
    assert all(0 <= place <= scale.top for place in scale.ticks.places)


def test_bars_stand_on_0_where_the_axis_begins_below_it():
    scene = scene_of("[axes.height]\nfrom = -20\nto = 40\n[bins]\nwidth = 10\nstart = 1")
    band = scene.frame.band
    (area,) = [m for m in scene.marks if isinstance(m, Area) and m.meaning.part == "bars"]
    _, across = scene.frame.backs(area.points)
    share = (scene.frame.bottom - across.max()) / (scene.frame.bottom - scene.frame.top)
    assert share == pytest.approx(20 / 60)
    assert across.max() == pytest.approx(band.at(0.0))
    assert "heights-cut" not in codes(figure("[axes.height]\nfrom = -20"))


def test_heights_that_the_axis_cuts_are_told_with_how_far_they_reach():
    text = "[axes.height]\nto = 6\n[bins]\nwidth = 10\nstart = 1"
    notice = cut_notice(scene_of(text), figure(text).recipe)
    assert "reach to 10 and are cut at 6" in notice.text
    assert cut_notice(build(read(notice.cure, figure(text).gathered), measure), notice.cure) is None
    assert cut_notice(scene_of("[axes.height]\nto = 60"), figure().recipe) is None


def test_of_panels_with_heights_of_their_own_the_tallest_that_is_cut_is_told():
    text = '[show]\nvariables = ["Length"]\n[panels]\nby = ["Bay"]\nfree = ["height"]\n'
    recipe = read_recipe(f"rhabdos = 1\n{text}[axes.height]\nto = 2\n[bins]\nwidth = 10")
    readings = read(recipe, set_of([1.0] * 4 + [12.0], [2.0] * 9 + [12.0]))
    assert "reach to 9 and are cut at 2" in cut_notice(build(readings, measure), recipe).text


@pytest.mark.parametrize(
    ("heights", "shown"),
    [
        ("percent", ["0 %", "5 %", "10 %"]),
        ("proportion", ["0 %", "5 %", "10 %"]),
        ("count", ["0", "5", "10"]),
    ],
)
def test_percents_are_written_once(heights, shown):
    text = f'heights = "{heights}"\n[axes.height]\nnumbers = "percent"\nticks = {{}}\n[bins]\n'
    step = 0.05 if heights == "proportion" else 5
    text = text.format(step) + "width = 10\nstart = 1"
    assert labels(scene_of(text), "height-axis") == shown
    assert ("counts-no-shares" in codes(figure(text))) == (heights == "count")


def test_a_second_axis_is_written_in_its_own_way():
    text = (
        '[axes.height]\nnumbers = "percent"\nsecond = "percent"\nticks = "none"\n[bins]\ncount = 5'
    )
    assert labels(scene_of(text), "height-axis")[:2] == ["0 %", "5 %"]
    text = (
        f'heights = "percent"\n{text.replace("percent", "count", 2).replace("count", "percent", 1)}'
    )
    assert "%" not in "".join(labels(scene_of(text), "height-axis"))


def test_a_variable_in_percent_is_written_in_percent():
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["v"]\n[axes.value]\nnumbers = "percent"'
    )
    column = NumberColumn("v", label="Lost", unit="%", values=np.arange(101.0))
    scene = build(read(recipe, gather(Table("t", (column,)), ("v",), ())), measure)
    assert "50 %" in labels(scene) or "40 %" in labels(scene)
    assert not any("," in text for text in labels(scene))


@pytest.mark.parametrize("low", [1.0, 1e16, 1e300, 1.7976931348623157e308, -1.7e308])
@pytest.mark.parametrize("high", [None, 2.0, 1.7976931348623157e308])
@pytest.mark.parametrize("tallest", [0.0, 1.0, 1.7e308])
def test_an_axis_of_heights_begins_where_it_is_asked_to_whatever_that_is(low, high, tallest):
    if high is not None and high <= low:
        return
    scale = height_scale(tallest, 180.0, False, settings=HeightAxis(low=low, high=high))
    assert scale.least < scale.top < math.inf
    assert len(scale.ticks.places) < 30


@pytest.mark.parametrize(
    ("low", "high"), [(1e-300, 1.7976931348623157e308), (5e-324, 1e-234), (1.0, 10.0)]
)
@pytest.mark.parametrize("ticks", [None, (1e254, -5e-248, 2.0)])
def test_a_log_axis_reaches_from_any_number_to_any_other(low, high, ticks):
    asked = ValueAxis(scale="log", ticks=ticks)
    found = value_ticks(Limits(low, high, LOGS), 300.0, False, False, measure, settings=asked)
    assert all(low * (1 - 1e-9) <= place <= high for place in found.places)
    assert ticks or len(found.places) >= 3


@pytest.mark.parametrize(
    ("axes", "said"),
    [
        ("[axes.value]\nfrom = 2", "from 2"),
        ("[axes.value]\nto = 8", "to 8"),
        ("[axes.value]\nfrom = 2\nto = 8", "from 2 mm to 8 mm"),
        ("[axes.height]\nfrom = 1\nto = 9", "from 1 to 9"),
        ("[axes.height]\nto = 9", "to 9"),
    ],
)
def test_limits_are_said_at_their_own_ends(axes, said):
    readings = figure(axes)
    phrase = PHRASES["value_axis" if "value" in axes else "height_axis"]
    words = phrase.said(readings).text
    assert said in words
    assert ("from" in words) == ("from" in axes)


def test_one_standardised_variable_is_named_on_its_axis():
    one = figure("standardised = true")
    assert default_value_title(one) == "Length, standard deviations from the mean"


def test_an_axis_of_no_height_reaches_to_the_first_round_number_above_1():
    nothing = height_scale(0.0, 180.0, True)
    assert (nothing.least, nothing.top) == (0.0, pytest.approx(1.0, rel=0.3))
    assert nothing.top == height_scale(1.0, 180.0, True).top


@pytest.mark.parametrize(("least", "tallest"), [(0.0, 8.0), (3.0, 8.0), (-2.0, 6.0)])
def test_heights_lie_on_a_straight_line_between_the_ends_of_their_band(least, tallest):
    band = Band(100.0, 20.0, tallest, least)
    for share in (0.0, 0.25, 1.0):
        height = least + share * (tallest - least)
        assert band.at(height) == pytest.approx(100 - 80 * share)
        assert band.ats(np.array([height]))[0] == pytest.approx(100 - 80 * share)
        assert band.height(100 - 80 * share) == pytest.approx(height)
    assert (band.at(least - 1), band.at(tallest + 1)) == (100, 20)  # what lies beyond stays within
    assert band.foot == pytest.approx(100 if least >= 0 else 80)
