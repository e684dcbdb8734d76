"""Panels, arrangements and legends on the page."""

import itertools
import random

import numpy as np
import pytest
from coloraide import Color

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.demo import BAYS
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.forms.read import read
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.recipe.forms import FORMS
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.recipe import Bars, Boxes, Groups, Legend, Lines, Panels, Recipe, Show
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.scene.build import build
from rhabdos.scene.legend.legend_entries import LARGEST
from rhabdos.scene.marks import Area, Path, Scene, Segments, Swatch, Text
from rhabdos.scene.miniature import small
from rhabdos.scene.style.palette import readable
from rhabdos.scene.style.style import HOUSE
from tests.conftest import marks_of, measure

WAYS = pytest.mark.parametrize("upright", [False, True], ids=["lying", "standing"])


def recipe_of(variables=("Shell length",), split=(), by=(), size=None, **parts) -> Recipe:
    asked = {"panels": {}, "groups": {}, "legend": {}, "bins": {}, "lines": {}}
    asked |= {name: parts.pop(name) for name in list(parts) if name in asked}
    recipe = Recipe(
        show=Show(variables=variables, split=split, **parts),
        panels=Panels(by=by, **asked["panels"]),
        groups=Groups(**asked["groups"]),
        legend=Legend(**asked["legend"]),
        bins=Bins(**asked["bins"]),
        lines=Lines(**asked["lines"]),
    )
    return recipe.changed(page=recipe.page.changed(size=size)) if size else recipe


def drawn(table, *args, **kwargs):
    recipe = recipe_of(*args, **kwargs)
    readings = read(recipe, samples_for(recipe, table))
    return readings, build(readings, measure)


def texts(scene: Scene, part: str) -> list[str]:
    return [mark.text for mark in marks_of(scene, part, Text)]


def highest_over(scene: Scene, group: int, edges, panel=0):
    """The greatest and the least height that a group's bars have over the middle of each bin."""
    frame = scene.frames[panel]
    (area,) = marks_of(scene, "bars", Area, group)
    band = next(h.band for lane in frame.lanes for h in lane.heights if group in h.groups)
    along, across = frame.backs(area.points)
    answers = []
    for middle in (edges[:-1] + edges[1:]) / 2:
        at = frame.along(middle)
        ends = zip(along[:-1], along[1:], across[:-1], across[1:], strict=True)
        crossed = [
            band.height(float(a + (at - x) / (y - x) * (b - a)))
            for x, y, a, b in ends
            if min(x, y) < at < max(x, y)
        ]
        crossed.append(band.height(band.base) if len(crossed) == 1 else max(crossed, default=0.0))
        answers.append((max(crossed), min(crossed)))
    return np.array(answers)


# Arrangements


@WAYS
@pytest.mark.parametrize("scale", ["count", "percent", "density"])
def test_stacked_bars_stand_on_those_before_them(demo, upright, scale):
    readings, scene = drawn(
        demo, split=("Bay",), arrange="stacked", heights=scale, of="all", upright=upright,
        bins={"width": 8.0, "start": 40.0},
    )  # fmt: skip
    ground = np.zeros(readings.edges.count)
    for group, of_group in enumerate(bars(readings)):
        seen = highest_over(scene, group, readings.edges.values)
        standing = of_group.heights > 0
        assert seen[standing, 1] == pytest.approx(ground[standing], abs=1e-9)
        ground = ground + of_group.heights
        assert seen[standing, 0] == pytest.approx(ground[standing])
    assert scene.frame.band.tallest >= ground.max()


SCALES = pytest.mark.parametrize("scale", ["count", "percent", "proportion", "density"])


@WAYS
@SCALES
def test_bars_side_by_side_share_each_bin_and_none_lies_over_another(demo, upright, scale):
    readings, scene = drawn(
        demo,
        split=("Bay",),
        arrange="side-by-side",
        upright=upright,
        heights=scale,
        bins={"width": 8.0},
    )
    frame, spans = scene.frame, {}
    for group in range(3):
        (area,) = marks_of(scene, "bars", Area, group)
        along, across = frame.backs(area.points)
        lefts, rights = along[0::4], along[2::4]
        spans[group] = list(zip(lefts.tolist(), rights.tolist(), strict=True))
        held = bars(readings)[group].heights
        held = held[np.flatnonzero(held)[0] : np.flatnonzero(held)[-1] + 1]
        tops = [frame.band.height(place) for place in across[1::4].tolist()]
        assert tops == pytest.approx(held.tolist())
    every = sorted(span for of_group in spans.values() for span in of_group)
    assert all(one[1] <= other[0] + 1e-9 for one, other in itertools.pairwise(every))
    edges = frame.alongs(readings.edges.values)
    for group, of_group in spans.items():
        for left, right in of_group:
            bin_number = np.searchsorted(edges, (left + right) / 2) - 1
            wide = edges[bin_number + 1] - edges[bin_number]
            share = ((left + right) / 2 - edges[bin_number]) / wide
            assert round(share * 3 - 0.5) == group


@WAYS
@SCALES
@pytest.mark.parametrize("form", ["bars", "curve"])
def test_back_to_back_heights_go_to_both_sides_of_one_axis(demo, upright, scale, form):
    readings, scene = drawn(
        demo,
        split=("Stock",),
        arrange="back-to-back",
        upright=upright,
        forms=(form,),
        heights=scale,
    )
    (lane,) = scene.frame.lanes
    first, second = (heights.band for heights in lane.heights)
    assert first.base == second.base == pytest.approx((lane.first + lane.last) / 2)
    assert first.thickness == second.thickness
    assert first.tip < first.base
    assert second.tip > second.base
    for group, band in enumerate((first, second)):
        path = marks_of(scene, form, Path, group)[-1]
        _, across = scene.frame.backs(path.points)
        heights = [band.height(place) for place in across.tolist()]
        assert min(heights) >= -1e-9
        if form == "bars":
            assert max(heights) == pytest.approx(bars(readings)[group].heights.max())


@WAYS
@SCALES
def test_overlaid_bars_are_as_high_as_their_numbers(demo, upright, scale):
    readings, scene = drawn(
        demo, split=("Bay",), arrange="overlaid", upright=upright, heights=scale
    )
    for group, of_group in enumerate(bars(readings)):
        seen = highest_over(scene, group, readings.edges.values)
        assert seen[:, 0] == pytest.approx(of_group.heights, abs=1e-9)


def test_panels_together_hold_every_value_once(demo):
    readings, _ = drawn(demo, split=("Stock",), by=("Bay", "Season"))
    values = demo.column("Shell length").values
    known, _ = np.histogram(values[~np.isnan(values)], readings.edges.values)
    assert sum(of_group.counts for of_group in bars(readings)).tolist() == known.tolist()


@WAYS
@SCALES
def test_two_factors_in_lanes_give_each_group_its_own_band(demo, upright, scale):
    readings, scene = drawn(
        demo, split=("Bay", "Stock"), arrange="lanes", upright=upright, heights=scale
    )
    lanes = scene.frame.lanes
    assert [lane.groups for lane in lanes] == [(0, 1), (2, 3), (4, 5)]
    bands = [h.band for lane in lanes for h in lane.heights]
    spans = [(min(b.base, b.tip), max(b.base, b.tip)) for b in bands]
    assert spans == sorted(spans)
    assert all(a[1] <= b[0] for a, b in itertools.pairwise(spans))
    assert len({round(band.thickness, 6) for band in bands}) == 1
    for group in range(6):
        (area,) = marks_of(scene, "bars", Area, group)
        _, across = scene.frame.backs(area.points)
        tallest = max(abs(place - bands[group].base) for place in across.tolist())
        assert tallest / bands[group].thickness * bands[group].tallest == pytest.approx(
            bars(readings)[group].heights.max()
        )


@WAYS
def test_clustered_boxes_stand_in_the_order_of_their_colours(demo, upright):
    _readings, scene = drawn(demo, split=("Bay", "Stock"), forms=("box",), upright=upright)
    for lane in scene.frame.lanes:
        placed = sorted(lane.strips, key=lambda strip: strip.band.middle)
        assert [strip.group for strip in placed] == list(lane.groups)
    swatches = [mark.colour for mark in scene.marks if isinstance(mark, Swatch)]
    assert swatches == list(HOUSE.colours(2))


def test_stacked_curves_rise_from_one_another(demo):
    readings, scene = drawn(
        demo, split=("Bay",), arrange="stacked", forms=("curve",), bins={"width": 4.0}
    )
    alone, _ = drawn(
        demo, split=("Bay",), arrange="overlaid", forms=("curve",), bins={"width": 4.0}
    )
    from rhabdos.figure.forms.lines import curves_of

    own = curves_of(alone, "curve")
    frame, total = scene.frame, 0.0
    for group in range(3):
        total += own[group].height_at(80.0)
        (path,) = marks_of(scene, "curve", Path, group)
        along, across = frame.backs(path.points)
        drawn_at = frame.band.height(float(np.interp(frame.along(80.0), along, across)))
        assert drawn_at == pytest.approx(total, rel=0.01)
    assert readings.plan.arrange == "stacked"


def test_stacked_ecdfs_of_many_values_have_no_more_steps_than_one_of_them():
    rng = np.random.default_rng(6)
    each = [rng.gamma(shape, 2.0, 6_000) for shape in (2, 4, 9)]
    bay = CategoryColumn(
        "Bay", codes=np.repeat([0, 1, 2], 6_000).astype(np.int8), levels=("A", "B", "C")
    )
    length = NumberColumn("Shell length", values=np.concatenate(each))
    _, scene = drawn(Table("t", (length, bay)), split=("Bay",), arrange="stacked", forms=("ecdf",))
    frame, below = scene.frame, np.zeros(200)
    places = np.linspace(frame.low, frame.high, 202)[1:-1]
    for group, values in enumerate(each):
        below = below + (values[:, None] <= places).sum(axis=0)
        (path,) = marks_of(scene, "ecdf", Path, group)
        assert 4_000 < len(path.points) < 8_400
        along, across = frame.backs(path.points)
        last = along.searchsorted(frame.alongs(places), side="right") - 1
        heights = [frame.band.height(at) for at in across[last]]
        np.testing.assert_allclose(heights, below, atol=18_000 / 4_000 + 3 * 1.5)


def test_many_stacked_curves_rise_to_the_sum_of_all():
    rng = np.random.default_rng(7)
    each = [rng.normal(60 + group, 1 + group % 5, 400) for group in range(24)]
    bay = CategoryColumn(
        "Bay",
        codes=np.repeat(np.arange(24), 400).astype(np.int8),
        levels=tuple(f"Bay {at:02d}" for at in range(24)),
    )
    table = Table("t", (NumberColumn("Shell length", values=np.concatenate(each)), bay))
    asked = {"split": ("Bay",), "forms": ("curve",), "heights": "density", "of": "all"}
    _, scene = drawn(table, arrange="stacked", **asked)
    alone, _ = drawn(table, arrange="overlaid", **asked)
    from rhabdos.figure.forms.lines import curves_of

    own = curves_of(alone, "curve")
    assert len(np.unique(np.concatenate([curve.x for curve in own]))) > 8_192
    frame, places = scene.frame, np.linspace(56, 88, 300)
    total = sum(np.interp(places, curve.x, curve.y, left=0, right=0) for curve in own)
    path = marks_of(scene, "curve", Path, 23)[-1]
    along, across = frame.backs(path.points)
    lies = np.interp(frame.alongs(places), along, across)
    reached = np.array([frame.band.height(at) for at in lies])
    assert np.abs(reached - total).max() < 0.004 * total.max()


def test_overlaid_fills_stay_light_and_outlines_lie_above_all_of_them(demo):
    _, scene = drawn(demo, split=("Bay",), arrange="overlaid")
    kinds = [type(mark) for mark in scene.marks if mark.meaning and mark.meaning.part == "bars"]
    assert kinds == [Area] * 3 + [Path] * 3
    areas = marks_of(scene, "bars", Area)
    through = np.prod([1 - area.opacity for area in areas])
    assert through > 0.5  # where all lie over one another, more paper than ink shows


# Panels


def overlaps(frames) -> bool:
    return any(
        a.left < b.right and b.left < a.right and a.top < b.bottom and b.top < a.bottom
        for a, b in itertools.combinations(frames, 2)
    )


@WAYS
@pytest.mark.parametrize("count", [2, 3, 7, 12, 40, 60])
def test_panels_are_equal_lie_apart_and_fill_rows_from_left_to_right(upright, count):
    names = tuple(f"Farm {i + 1}" for i in range(count))
    codes = (np.arange(count * 20) % count).astype(np.int8)
    table = Table(
        "t",
        (
            NumberColumn("Length", label="Length", values=np.arange(count * 20) % 37.0),
            CategoryColumn("Farm", label="Farm", codes=codes, levels=names),
        ),
    )
    _, scene = drawn(table, ("Length",), by=("Farm",), upright=upright)
    frames = scene.frames
    assert len(frames) == count
    assert not overlaps(frames)
    assert len({round(f.right - f.left, 6) for f in frames}) == 1
    assert len({round(f.bottom - f.top, 6) for f in frames}) == 1
    assert len({(f.low, f.high) for f in frames}) == 1
    assert len({f.band.tallest for f in frames}) == 1
    places = [(f.top, f.left) for f in frames]
    assert places == sorted(places)
    assert frames[0].bottom - frames[0].top > 30
    for frame in frames:
        assert 0 < frame.left < frame.right < scene.width
        assert 0 < frame.top < frame.bottom < scene.height


def test_shared_ticks_and_titles_stand_once(demo):
    _, scene = drawn(demo, by=("Season",), panels={"columns": 2})
    labels = texts(scene, "value-title")
    assert labels.count("Shell length (mm)") == 1
    assert texts(scene, "height-title").count("Count") == 1
    lowest = max(frame.bottom for frame in scene.frames)
    ticks = [m for m in marks_of(scene, "value-axis", Text) if m.text != "Shell length (mm)"]
    assert ticks
    assert all(mark.y > lowest for mark in ticks)
    leftmost = min(frame.left for frame in scene.frames)
    heights = [m for m in marks_of(scene, "height-axis", Text) if m.text != "Count"]
    assert all(mark.x < leftmost for mark in heights)


def test_freed_axes_show_each_panels_own_ticks_and_limits(demo):
    freed = {"columns": 2, "free": ("value", "height")}
    readings, scene = drawn(demo, by=("Bay",), panels=freed)
    shared, _ = drawn(demo, by=("Bay",), panels={"columns": 2})
    assert readings.edges.values.tolist() == shared.edges.values.tolist()
    assert len({frame.band.tallest for frame in scene.frames}) == 3
    assert len({(frame.low, frame.high) for frame in scene.frames}) == 3
    for frame in scene.frames:
        group = readings.groups[frame.panel]
        assert frame.low <= group.sample.minimum <= group.sample.maximum <= frame.high
    parts = ("value-axis", "value-title")
    deeper = [m.y for part in parts for m in marks_of(scene, part, Text)]
    assert len({round(y) for y in deeper}) >= 3  # two rows of ticks, and the title


@WAYS
def test_lanes_in_panels_are_named_without_a_size_that_no_panel_has(demo, upright):
    _, scene = drawn(demo, split=("Bay",), by=("Season",), forms=("box",), upright=upright)
    named = texts(scene, "lane")
    assert set(named) == set(BAYS)
    assert texts(scene, "factor") == ["Bay"]
    _, single = drawn(demo, split=("Bay",), forms=("box",), upright=upright)
    assert {"n = 820", "n = 817", "n = 776"} <= set(texts(single, "lane"))


def test_two_factors_of_panels_have_their_names_at_rows_and_columns(demo):
    _, scene = drawn(demo, by=("Bay", "Season"))
    heads = [m for m in marks_of(scene, "panel", Text) if m.bold]
    assert sorted(m.text for m in heads) == sorted([*BAYS, "Spring", "Summer", "Autumn", "Winter"])
    rows = {m.text: m for m in heads if m.text in BAYS}
    for number, bay in enumerate(BAYS):
        frame = scene.frames[4 * number]
        assert rows[bay].x == frame.left
        assert frame.top - 12 < rows[bay].y < frame.top


def test_a_panel_that_no_row_is_in_says_so():
    table = Table(
        "t",
        (
            NumberColumn("Length", label="Length", values=np.array([1.0, 2, 3, np.nan]),
                         missing_as={"": 1}),
            CategoryColumn("Bay", label="Bay", codes=np.array([0, 0, 1, 2]), levels=("A", "B", "C")),
            CategoryColumn("Gear", label="Gear", codes=np.array([0, 1, 0, 0]), levels=("x", "y")),
        ),
    )  # fmt: skip
    _, scene = drawn(table, ("Length",), by=("Bay", "Gear"))
    said = texts(scene, "panel")
    assert said.count("no rows") == 2
    assert said.count("no values") == 1
    lacking = {("C", "x"): "no values", ("B", "y"): "no rows", ("C", "y"): "no rows"}
    for place, frame in enumerate(scene.frames):
        bay, gear = "ABC"[place // 2], "xy"[place % 2]
        inside = [
            m.text
            for m in scene.marks
            if isinstance(m, Text)
            and m.text in lacking.values()
            and abs(m.x - (frame.left + frame.right) / 2) < 1
            and abs(m.y - (frame.top + frame.bottom) / 2) < 5
        ]
        assert inside == ([lacking[bay, gear]] if (bay, gear) in lacking else [])


@WAYS
@pytest.mark.parametrize("forms", [("box",), ("bars",)])
def test_a_place_in_a_cluster_that_no_row_has_says_so(upright, forms):
    bays, gears = [0] * 20 + [0] * 20 + [1] * 20, [0] * 20 + [1] * 20 + [0] * 20
    table = Table(
        "t",
        (
            NumberColumn("Length", label="Length", values=np.arange(60.0)),
            CategoryColumn("Bay", label="Bay", codes=np.array(bays), levels=("A", "B")),
            CategoryColumn("Gear", label="Gear", codes=np.array(gears), levels=("x", "y")),
        ),
    )
    _, scene = drawn(
        table, ("Length",), ("Bay", "Gear"), forms=forms, arrange="lanes", upright=upright
    )
    (said,) = [m for m in scene.marks if isinstance(m, Text) and m.text == "no rows"]
    frame = scene.frame
    lane = frame.lanes[1]
    across = said.x if upright else said.y
    assert (lane.first + lane.last) / 2 < across < lane.last


def test_variables_of_two_units_have_axes_of_their_own(demo):
    readings, scene = drawn(demo, ("Shell length", "Wet mass"), by=("Bay",))
    assert len(scene.frames) == 6
    by_axis = {}
    for frame in scene.frames:
        axis = readings.plan.panels[frame.panel].axis
        by_axis.setdefault(axis, set()).add((frame.low, frame.high, frame.band.tallest))
    assert [len(limits) for limits in by_axis.values()] == [1, 1]
    assert by_axis[0] != by_axis[1]
    heads = [m.text for m in marks_of(scene, "panel", Text) if m.bold]
    assert {"Shell length (mm)", "Wet mass (g)"} < set(heads)


def test_a_page_grows_for_many_lanes_and_panels_unless_its_size_is_asked_for(demo):
    names = tuple(f"Mooring {i}" for i in range(60))
    codes = (np.arange(600) % 60).astype(np.int8)
    table = Table(
        "t",
        (
            NumberColumn("Length", label="Length", values=np.arange(600.0) % 41),
            CategoryColumn("Mooring", label="Mooring", codes=codes, levels=names),
        ),
    )
    _, few = drawn(demo, split=("Bay",))
    assert (few.width, few.height) == pytest.approx(Size.parse("16x10cm").points())
    _, many = drawn(table, ("Length",), ("Mooring",))
    assert (many.width, many.height) == pytest.approx(Size.parse("16x24cm").points())
    lane = many.frame.lanes[0]
    assert lane.last - lane.first > 8
    _, asked = drawn(table, ("Length",), ("Mooring",), size="16x10cm")
    assert asked.height == few.height


# Legends


def legend_box(scene):
    marks = [*marks_of(scene, "legend", Text), *(m for m in scene.marks if isinstance(m, Swatch))]
    left = min(m.x for m in marks)
    right = max(m.x + measure(m.text, m.size, False) for m in marks if isinstance(m, Text))
    return left, min(m.y for m in marks) - 8, right, max(m.y for m in marks)


@pytest.mark.parametrize("upright", [False, True])
@pytest.mark.parametrize(
    ("place", "where"),
    [
        ("above", lambda box, f: box[3] < f.top),
        ("right", lambda box, f: box[0] > f.right),
        ("below", lambda box, f: box[1] > f.bottom),
    ],
)
def test_a_legend_stands_where_it_is_asked_for(demo, place, where, upright):
    legend = {"place": place, "title": "The bay", "n": False}
    _, scene = drawn(demo, split=("Bay",), arrange="overlaid", legend=legend, upright=upright)
    assert texts(scene, "legend-title") == ["The bay"]
    assert texts(scene, "legend") == list(BAYS)
    box = legend_box(scene)
    assert where(box, scene.frame), (box, scene.frame)
    assert box[0] >= 0
    assert box[1] >= -1
    assert box[2] <= scene.width
    assert box[3] <= scene.height


def test_a_legend_can_be_reversed_and_left_out(demo):
    _, scene = drawn(demo, split=("Bay",), legend={"reverse": True, "n": False})
    assert texts(scene, "legend") == list(BAYS[::-1])
    _, without = drawn(demo, split=("Bay",), legend={"place": "none"})
    assert texts(without, "legend") == []


CORNERS = ("top-left", "top-right", "bottom-left", "bottom-right")


@pytest.mark.parametrize(
    "values", [[0.0, 90, 90, 90, 91, 92, 92], [0.0, 1, 1, 1, 2, 2, 2, 90], [0.0, *[45] * 9, 90]]
)
@pytest.mark.parametrize("place", CORNERS)
def test_a_legend_in_a_corner_lies_there_or_where_nothing_is_drawn(place, values):
    codes = np.repeat([0, 1], len(values)).astype(np.int8)
    table = Table(
        "t",
        (
            NumberColumn("Length", values=np.array(values * 2)),
            CategoryColumn("Bay", codes=codes, levels=("A", "B")),
        ),
    )
    recipe = {"arrange": "overlaid", "legend": {"place": place}}
    readings, scene = drawn(table, ("Length",), ("Bay",), **recipe)
    frame, edges = scene.frame, readings.edges.values
    heights, _ = np.histogram(values, edges)
    left, top, right, bottom = legend_box(scene)
    wide, high = right - left, bottom - top

    def covered(x, y):
        """Whether a legend at a place lies over a bar, or over the base line."""
        over = (frame.alongs(edges[:-1]) < x + wide + 5) & (frame.alongs(edges[1:]) > x - 5)
        tops = [frame.band.at(float(height)) for height in heights[over] if height]
        return min(tops, default=frame.bottom) < y + high

    asked = (
        frame.left + 10 if "left" in place else frame.right - wide - 10,
        frame.top + 7.5 if "top" in place else frame.bottom - high - 7.5,
    )
    assert not covered(left, top)
    if not covered(*asked):
        beside = "left" if left + right < frame.left + frame.right else "right"
        assert place == ("top-" if top + bottom < frame.top + frame.bottom else "bottom-") + beside


@pytest.mark.parametrize("place", ["above", "right", "below", "top-right"])
def test_a_legend_never_takes_more_than_a_third_of_the_paper(place):
    names = tuple(f"A rather long name of the mooring {i}" for i in range(50))
    codes = (np.arange(500) % 50).astype(np.int8)
    table = Table(
        "t",
        (
            NumberColumn("Length", label="Length", values=np.arange(500.0) % 41),
            CategoryColumn("Mooring", label="Mooring", codes=codes, levels=names),
        ),
    )
    _, scene = drawn(
        table, ("Length",), ("Mooring",), arrange="overlaid", size="12x8cm", legend={"place": place}
    )
    left, top, right, bottom = legend_box(scene)
    assert (bottom - top <= scene.height * LARGEST + 14) or (right - left <= scene.width * LARGEST)
    (rest,) = [text for text in texts(scene, "legend") if text.endswith(" more")]
    shown = sum(isinstance(mark, Swatch) for mark in scene.marks)
    assert rest == f"and {50 - shown} more"


def dense(points):
    """Points along a line, a point or less apart."""
    parts = [
        np.linspace(a, b, max(2, int(np.hypot(*(b - a))) + 1))
        for a, b in itertools.pairwise(points)
    ]
    return np.concatenate(parts)


@WAYS
@pytest.mark.parametrize("form", ["curve", "ecdf", "polygon"])
def test_names_at_the_lines_are_near_their_own_line_and_over_no_other(demo, upright, form):
    _, scene = drawn(
        demo, split=("Bay",), forms=(form,), legend={"place": "lines", "n": False}, upright=upright
    )
    names = marks_of(scene, "legend", Text)
    assert sorted(mark.text for mark in names) == sorted(BAYS)
    assert not any(isinstance(mark, Swatch) for mark in scene.marks)
    colours = dict(zip(BAYS, HOUSE.colours(3), strict=True))
    inked = {bay: readable(colour, HOUSE.paper, HOUSE.ink) for bay, colour in colours.items()}
    lines = {
        m.colour: dense(m.points)
        for m in scene.marks
        if isinstance(m, Path) and m.meaning.group is not None
    }
    for mark in names:
        assert mark.colour == inked[mark.text]
        assert Color(mark.colour).contrast("white") >= 4.5
        own = colours[mark.text]
        left = mark.x - measure(mark.text, mark.size, True) / 2
        right = 2 * mark.x - left
        away = {
            colour: np.hypot(
                np.maximum(left - points[:, 0], points[:, 0] - right).clip(min=0),
                np.maximum(mark.y - 6 - points[:, 1], points[:, 1] - mark.y - 1.5).clip(min=0),
            ).min()
            for colour, points in lines.items()
        }
        assert 0 < away[own] < 14
        assert min(away, key=away.get) == own


@WAYS
@pytest.mark.parametrize("form", ["curve", "ecdf", "polygon"])
@pytest.mark.parametrize("size", ["16x10cm", "12x8cm", "24x9cm", "30x20cm"])
def test_names_at_the_lines_stand_beside_lines_of_means_and_medians(demo, upright, form, size):
    _, scene = drawn(
        demo, split=("Bay",), forms=(form,), legend={"place": "lines"}, upright=upright,
        lines={"mean": True, "median": True}, size=size,
    )  # fmt: skip
    centres = np.concatenate([m.lines for m in marks_of(scene, "centre", Segments)])
    assert len(centres) == 6
    names = marks_of(scene, "legend", Text)
    assert names
    for mark in names:
        left, top, right, bottom = rect_of(mark)
        points = np.concatenate([dense(line.reshape(2, 2)) for line in centres])
        within = (left < points[:, 0]) & (points[:, 0] < right)
        within &= (top < points[:, 1]) & (points[:, 1] < bottom)
        assert not within.any()


def test_where_a_line_has_no_room_for_its_name_there_is_a_legend():
    same = np.tile(np.arange(30.0), 8)
    table = Table(
        "t",
        (
            NumberColumn("Length", label="Length", values=same),
            CategoryColumn(
                "Bay", label="Bay", codes=np.repeat(np.arange(8), 30).astype(np.int8),
                levels=tuple(f"A very long name of the bay number {i}" for i in range(8)),
            ),
        ),
    )  # fmt: skip
    _, scene = drawn(
        table, ("Length",), ("Bay",), forms=("curve",), arrange="overlaid", size="6x5cm",
        legend={"place": "lines"},
    )  # fmt: skip
    assert any(isinstance(mark, Swatch) for mark in scene.marks)


# One forward


@pytest.mark.parametrize("form", [form for form in FORMS if form != "points"])
def test_the_rest_is_quiet_and_lies_behind(demo, form):
    readings, scene = drawn(
        demo,
        split=("Bay",),
        forms=(form,),
        arrange="overlaid",
        groups={"forward": ("Heron Sound",)},
    )
    part = FORMS[form].part
    colours = [
        (mark.meaning.group, getattr(mark, "colour", None) or getattr(mark, "fill", None))
        for mark in scene.marks
        if isinstance(mark, Area | Path) and mark.meaning and mark.meaning.part == part
    ]
    assert colours
    for group, colour in colours:
        quiet = colour in (HOUSE.receded, HOUSE.paper)
        assert quiet is not readings.groups[group].forward or (form == "box" and group == 0)
    if not FORMS[form].strip:
        assert colours[-1][0] == 0


# Whatever is asked for


def random_figure(chance: random.Random):
    """Panels, arrangements, variables and legends of any kind, on pages of four shapes."""
    rows = chance.choice([60, 400])
    rng = np.random.default_rng(chance.randint(0, 10**6))

    def factor(name, most):
        count = chance.choice([1, 2, 3, 5, most])
        words = chance.choice(["A", "Bay", "A very long name of a level"])
        codes = rng.integers(-1, count, rows)
        codes[:count] = np.arange(count)
        levels = tuple(f"{words} {i}" for i in range(count))
        missing = {"": int((codes < 0).sum())} if (codes < 0).any() else {}
        return CategoryColumn(
            name, label=name, codes=codes.astype(np.int8), levels=levels, missing_as=missing
        )

    factors = [factor("Bay", 8), factor("Gear", 4), factor("Season", 12), factor("Stock", 3)]
    numbers = [
        NumberColumn(name, label=name, unit=unit, values=rng.normal(50, wide, rows).round(1))
        for name, unit, wide in (("Length", "mm", 9), ("Width", "mm", 4), ("Mass", "g", 30))
    ]
    table = Table("t", (*numbers, *factors))
    names = [f.name for f in factors]
    chance.shuffle(names)
    split, by = names[: chance.randint(0, 2)], names[2 : 2 + chance.randint(0, 2)]
    recipe = recipe_of(
        tuple(n.name for n in numbers[: chance.choice([1, 1, 2, 3])]),
        tuple(split),
        tuple(by),
        forms=tuple(chance.sample(list(FORMS), chance.randint(1, 3))),
        heights=chance.choice(["count", "percent", "density"]),
        of=chance.choice(["group", "all"]),
        arrange=chance.choice([None, "overlaid", "stacked", "side-by-side", "back-to-back", "lanes"]),
        upright=chance.choice([None, True, False]),
        panels={"free": chance.choice([(), ("value",), ("height",), ("value", "height")]),
                "columns": chance.choice([None, None, 2])},
        groups={"missing": chance.random() < 0.3, "order": chance.choice([None, "median", "n"])},
        legend={"place": chance.choice([None, "right", "below", "lines", "none", "above"]),
                "title": chance.choice([None, "A title of the legend"])},
        size=chance.choice([None, "16x10cm", "25x14cm", "12x16cm"]),
    )  # fmt: skip
    recipe = recipe.changed(
        bars=Bars(labels=chance.choice([None, None, "count"])),
        box=Boxes(numbers=chance.choice([(), ("n", "mean")])),
        lines=Lines(mean=chance.random() < 0.3, median=chance.random() < 0.2),
    ).worded(title=chance.choice([None, "Two harvests hide in Saltmere"]))
    return recipe, read(recipe, samples_for(recipe, table))


def rect_of(mark: Text):
    wide = measure(mark.text, mark.size, mark.bold)
    before = {"start": 0.0, "middle": 0.5, "end": 1.0}[mark.anchor] * wide
    if mark.angle:
        return mark.x - 0.7 * mark.size, mark.y - wide + before, mark.x, mark.y + before
    return mark.x - before, mark.y - 0.7 * mark.size, mark.x - before + wide, mark.y


@pytest.mark.parametrize(
    "seed", [*range(2), *(pytest.param(seed, marks=pytest.mark.long) for seed in range(2, 8))]
)
def test_in_no_grouping_does_a_word_lie_over_another_or_leave_the_page(seed):
    chance = random.Random(seed)
    made = 0
    while made < 10:
        try:
            recipe, readings = random_figure(chance)
        except Refusal:
            continue
        made += 1
        scene = build(readings, measure)
        words = [(m, rect_of(m)) for m in scene.marks if isinstance(m, Text)]
        for mark, rect in words:
            assert rect[0] >= -1, (recipe, mark)
            assert rect[1] >= -1, (recipe, mark)
            assert rect[2] <= scene.width + 1, (recipe, mark)
            assert rect[3] <= scene.height + 1, (recipe, mark)
        for (one, a), (other, b) in itertools.combinations(words, 2):
            across = min(a[2], b[2]) - max(a[0], b[0])
            down = min(a[3], b[3]) - max(a[1], b[1])
            assert min(across, down) < 0.6, (recipe, one, other)
        assert not overlaps(scene.frames), recipe
        small(recipe, readings, 92, 58)


def test_the_n_of_a_lane_gives_way_where_it_would_leave_little_of_its_name(demo):
    for size, told in (("6x4cm", False), ("16x12cm", True)):
        _, scene = drawn(demo, split=("Bay",), forms=("box",), upright=True, size=size)
        names = texts(scene, "lane")
        assert any("n = " in name for name in names) is told
        assert all(any(name.startswith(bay[:4]) for name in names) for bay in BAYS)
