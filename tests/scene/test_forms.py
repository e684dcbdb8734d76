"""Boxes, violins, points, bars and lanes: marks against readings, lying and standing, without Qt."""

import itertools
import random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhabdos.data.columns import CategoryColumn, LabelColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.forms.box import boxes
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.forms import FORMS
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.recipe import Bars, Boxes, Curves, Lines, Points
from rhabdos.figure.recipe.recipe_axes import Axes, ValueAxis
from rhabdos.scene.build import build
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.forms.form import Drawing
from rhabdos.scene.forms.pixel_thinning import APART, spots
from rhabdos.scene.forms.points import cloud_of
from rhabdos.scene.marks import Area, Dots, Path, Segments, Text
from rhabdos.scene.style.style import HOUSE, Style
from rhabdos.scene.words.label_places import Rect
from tests.conftest import asking, marks_of, measure, sample_of, set_of

RNG = np.random.default_rng(8)
NEAR, WIDE = RNG.normal(70, 6, 300).round(1).tolist(), RNG.normal(80, 14, 120).round(1).tolist()
WAYS = pytest.mark.parametrize("upright", [False, True], ids=["lying", "standing"])


def drawn(forms, *groups, upright=False, size=None, style=HOUSE, show=None, **parts):
    split = ("Bay",) if len(groups) > 1 else ()
    recipe = asking().showing(forms=forms, split=split, upright=upright, **(show or {}))
    readings = read(recipe.changed(**parts), set_of(*groups))
    return readings, build(readings, measure, size=size, style=style)


def values_of(scene, points):
    """The values at which places of the page lie."""
    return [scene.frame.value(along) for along in scene.frame.backs(np.asarray(points))[0].tolist()]


# Boxes


@WAYS
def test_the_parts_of_a_box_lie_at_its_quartiles_and_whiskers(upright):
    _readings, scene = drawn(("box",), NEAR, WIDE, upright=upright)
    for group, values in enumerate((NEAR, WIDE)):
        q1, median, q3 = np.percentile(values, [25, 50, 75])
        (body,) = marks_of(scene, "box", Area, group)
        assert sorted({round(v, 6) for v in values_of(scene, body.points)}) == pytest.approx(
            [q1, q3], abs=1e-5
        )
        whiskers, middle = marks_of(scene, "box", Segments, group)
        ends = np.array(whiskers.lines)
        inside = [v for v in values if q1 - 1.5 * (q3 - q1) <= v <= q3 + 1.5 * (q3 - q1)]
        assert values_of(scene, ends[:2, 2:]) == pytest.approx([min(inside), max(inside)])
        assert values_of(scene, ends[:2, :2]) == pytest.approx([q1, q3])
        assert values_of(scene, np.array(middle.lines)[:, :2]) == pytest.approx([median])
        beyond = sorted({v for v in values if v < min(inside) or v > max(inside)})
        dots = marks_of(scene, "box", Dots, group)
        shown = sorted(v for mark in dots for v in values_of(scene, mark.places))
        assert shown == pytest.approx(beyond)


@WAYS
def test_values_beyond_are_rings_and_far_ones_discs(upright):
    values = [*range(20, 31), 50.0, 90.0]
    _, scene = drawn(("box",), values, upright=upright)
    shapes = {mark.shape: values_of(scene, mark.places) for mark in marks_of(scene, "box", Dots)}
    assert shapes["disc"] == pytest.approx([50, 90])
    _, scene = drawn(("box",), values, upright=upright, box=Boxes(far=5.0))
    shapes = {mark.shape: values_of(scene, mark.places) for mark in marks_of(scene, "box", Dots)}
    assert (shapes["ring"], shapes["disc"]) == (pytest.approx([50]), pytest.approx([90]))


def test_a_notched_box_has_its_waist_at_the_median():
    readings, scene = drawn(("box",), NEAR, box=Boxes(notches=True))
    (body,) = marks_of(scene, "box", Area)
    along, across = scene.frame.backs(body.points)
    half = np.abs(across - (across.max() + across.min()) / 2)
    waist = {round(scene.frame.value(a), 6) for a in along[half < half.max() * 0.9].tolist()}
    assert waist == {round(float(np.median(NEAR)), 6)}
    box = boxes(readings)[0]
    iqr = np.subtract(*np.percentile(NEAR, [75, 25]))
    assert box.notch_high - box.median == pytest.approx(1.57 * iqr / np.sqrt(len(NEAR)))


@WAYS
@pytest.mark.parametrize("scale", ["linear", "log", "root"])
def test_a_notch_that_folds_past_its_box_is_drawn_whole(upright, scale):
    values = [3.0, 3.0, 4.0, 4.0, 6.0, 7.0, 7.0, 7.0, 7.0]
    axes = Axes(value=ValueAxis(scale=scale))
    _, scene = drawn(("box",), values, upright=upright, box=Boxes(notches=True), axes=axes)
    (body,) = marks_of(scene, "box", Area)
    reached = scene.frame.values(scene.frame.backs(body.points)[0])
    half = 1.57 * np.subtract(*np.percentile(values, [75, 25])) / 3
    assert reached.max() == pytest.approx(6 + half, abs=0.01)
    assert reached.max() > max(values)
    assert reached.min() == pytest.approx(4, abs=0.01)


def test_boxes_by_n_are_as_wide_as_the_root_of_n():
    _, scene = drawn(("box",), NEAR, WIDE, box=Boxes(width="by-n"))
    extents = [
        np.ptp(scene.frame.backs(marks_of(scene, "box", Area, g)[0].points)[1]) for g in (0, 1)
    ]
    assert extents[1] / extents[0] == pytest.approx(np.sqrt(120 / 300))


@pytest.mark.parametrize("shape", ["diamond", "circle", "square", "cross"])
def test_the_mean_is_marked_where_it_lies(shape):
    _, scene = drawn(("box",), NEAR, box=Boxes(mean=True, mean_shape=shape, mean_size=5.0))
    (mark,) = [m for m in marks_of(scene, "box", Dots) if m.shape == shape]
    assert values_of(scene, mark.places) == pytest.approx([np.mean(NEAR)])
    assert mark.size == 5.0


def test_letter_value_boxes_lie_within_one_another_at_the_letter_values():
    values = RNG.normal(0, 1, 1000).tolist()
    _, scene = drawn(("box",), values, box=Boxes(letters=True))
    bodies = [body for body in marks_of(scene, "box", Area) if body.fill != HOUSE.paper]
    ends = [(min(v), max(v)) for v in (values_of(scene, body.points) for body in bodies)]
    assert len(ends) == 6  # ⌊log₂ 1000⌋ - 2 letter values, of which the first is the median
    assert all(a[0] < b[0] and b[1] < a[1] for a, b in itertools.pairwise(ends))
    ordered = np.sort(values)
    depth, pairs = (1000 + 1) / 2, []
    for _ in range(6):
        depth = (np.floor(depth) + 1) / 2
        low, high = int(np.floor(depth)) - 1, int(np.ceil(depth)) - 1
        pairs.append(
            ((ordered[low] + ordered[high]) / 2, (ordered[-1 - low] + ordered[-1 - high]) / 2)
        )
    assert ends[::-1] == pytest.approx(np.array(pairs))
    shown = sum(len(mark.places) for mark in marks_of(scene, "box", Dots))
    assert shown == np.sum((ordered < pairs[-1][0]) | (ordered > pairs[-1][1]))


def test_letter_value_boxes_are_darker_the_nearer_to_the_median():
    _, scene = drawn(("box",), RNG.normal(0, 1, 4000).tolist(), box=Boxes(letters=True))
    bodies = [body for body in marks_of(scene, "box", Area) if body.fill != HOUSE.paper]
    narrowest_first = sorted(bodies, key=lambda body: np.ptp(body.points[:, 0]))
    shades = [body.opacity for body in narrowest_first]
    assert len(shades) >= 6
    assert shades == sorted(shades, reverse=True)
    assert max(shades) > 1.5 * min(shades)


def tagged(count=200, split=True):
    values = np.concatenate([RNG.normal(50, 3, count), [10.0, 12, 90, 95, 95.5]])
    length = NumberColumn("Length", values=values)
    tag = LabelColumn("Tag", texts=[f"T-{row}" for row in range(len(values))], distinct=len(values))
    bay = CategoryColumn(
        "Bay", codes=(np.arange(len(values)) % 2).astype(np.int8), levels=("A", "B")
    )
    return gather(Table("t", (length, tag, bay)), "Length", "Bay" if split else ())


@WAYS
@pytest.mark.parametrize("names", ["row", "value", "Tag"])
def test_values_beyond_are_named_and_no_name_lies_over_another(names, upright):
    samples = tagged()
    recipe = asking().showing(forms=("box",), split=("Bay",), upright=upright)
    scene = build(read(recipe.changed(box=Boxes(names=names)), samples), measure)
    texts = marks_of(scene, "box", Text)
    expected = {"row": {"201", "204"}, "value": {"10", "95"}, "Tag": {"T-200", "T-203"}}[names]
    assert expected <= {text.text for text in texts}
    rects = [
        Rect(t.x, t.y - 0.7 * t.size, t.x + measure(t.text, t.size, False), t.y) for t in texts
    ]
    for one, other in itertools.combinations(rects, 2):
        assert not one.meets(other)
    for rect in rects:
        assert rect.left >= 0
        assert rect.right <= scene.width
        assert rect.top >= 0
        assert rect.bottom <= scene.frame.bottom


def test_names_that_find_no_room_give_way():
    values = [*range(40, 60), *(70 + step / 10 for step in range(60))]
    _, scene = drawn(("box",), values, box=Boxes(names="value", whiskers=0.0))
    names = list(marks_of(scene, "box", Text))
    assert 2 < len(names) < 60
    dots = np.concatenate([dots.places for dots in marks_of(scene, "box", Dots)])
    at = dict(zip(dots[:, 0].round(3).tolist(), dots.tolist(), strict=True))
    for name in names:  # each is nearer to its own dot than to any other
        own = at[round(scene.frame.along(float(name.text)), 3)]
        wide = measure(name.text, name.size, False)
        beside = np.maximum(name.x - dots[:, 0], dots[:, 0] - name.x - wide).clip(min=0)
        over = np.maximum(name.y - 5.2 - dots[:, 1], dots[:, 1] - name.y - 1.5).clip(min=0)
        assert dots[int(np.hypot(beside, over).argmin())].tolist() == own


@WAYS
def test_numbers_stand_beside_each_box(upright):
    _, scene = drawn(
        ("box",), NEAR, WIDE, upright=upright, box=Boxes(numbers=("n", "mean", "median"))
    )
    texts = [mark.text for mark in marks_of(scene, "box", Text)]
    mean, sd, median = np.mean(WIDE), np.std(WIDE, ddof=1), np.median(WIDE)
    assert texts[3:] == ["n = 120", f"{mean:.1f} ± {sd:.1f}", f"median {median:.1f}"]


def test_numbers_over_narrow_lanes_are_as_small_as_it_takes():
    style = {"size": Size.parse("9x8cm"), "box": Boxes(numbers=("mean",))}
    _, scene = drawn(("box",), *[WIDE] * 8, upright=True, **style)
    texts = [mark for mark in marks_of(scene, "box", Text) if "±" in mark.text]
    assert len(texts) == 8
    reach = [measure(mark.text, mark.size) / 2 for mark in texts]
    ends = [(mark.x - half, mark.x + half) for mark, half in zip(texts, reach, strict=True)]
    assert all(former[1] < latter[0] for former, latter in itertools.pairwise(ends))


# Marks are never more than pixels


@given(st.lists(st.floats(-1e3, 1e3), min_size=1, max_size=300), st.integers(1, 60))
def test_spots_are_where_values_are_and_at_most_one_a_pixel(values, repeat):
    sample = sample_of(np.repeat(values, repeat) + np.arange(len(values) * repeat) * 1e-4)
    frame = Frame(0, 0, 30, 10, -800.0, 900.0, 10)
    places = spots(sample, 0, sample.n, frame)
    inside = sample.values[(sample.values >= -800) & (sample.values <= 900)]
    assert len(places) <= 30 / APART + 2
    assert bool(len(places)) == bool(len(inside))
    exact = frame.alongs(inside)
    for place in places.tolist():
        assert np.abs(exact - place).min() < 1e-9  # every spot is a value
    for place in exact.tolist():
        assert np.abs(places - place).min() <= 2 * APART  # and every value is at a spot


def test_a_lone_value_has_its_spot_beside_very_many():
    sample = sample_of(np.append(np.linspace(0, 10, 5_000), 60.0))
    frame = Frame(0, 0, 100, 10, 0.0, 100.0, 10)
    assert spots(sample, 0, sample.n, frame)[-1] == pytest.approx(60)


def test_very_many_values_beyond_are_few_marks():
    values = RNG.normal(0, 1, 400_000).tolist()
    _, scene = drawn(("box",), values, box=Boxes(whiskers=0.0))
    assert sum(len(mark.places) for mark in marks_of(scene, "box", Dots)) < 2 * 454 / APART


# Violins


@WAYS
def test_a_violin_is_a_density_mirrored_on_one_scale_for_all(upright):
    _readings, scene = drawn(("violin",), NEAR, WIDE, upright=upright, curve=Curves(bandwidth=3.0))
    areas = []
    for group in (0, 1):
        over, under = marks_of(scene, "curve", Path, group)
        along, upper = scene.frame.backs(over.points)
        _, lower = scene.frame.backs(under.points)
        (strip,) = [s for lane in scene.frame.lanes for s in lane.strips if s.group == group]
        assert (upper + lower) / 2 == pytest.approx(np.full(len(upper), strip.band.middle))
        areas.append(np.trapezoid(np.abs(upper - lower), along))
        assert np.abs(upper - lower).max() <= strip.band.thickness + 1e-9
    assert areas[0] == pytest.approx(areas[1], rel=0.02)  # as each holds all of its group


# Points


@WAYS
@pytest.mark.parametrize("spread", ["stacked", "jittered"])
def test_points_are_as_many_as_values_and_lie_in_their_strip(spread, upright):
    values = np.arange(60.0).tolist() + [30.0] * 5
    _, scene = drawn(("points",), values, upright=upright, points=Points(spread=spread))
    (mark,) = marks_of(scene, "points", Dots)
    assert len(mark.places) == len(values)
    _along, across = scene.frame.backs(mark.places)
    (strip,) = scene.frame.lanes[0].strips
    low, high = sorted((strip.band.base, strip.band.tip))
    assert across.min() >= low - 1e-6
    assert across.max() <= high + 1e-6
    width = mark.size / abs(scene.frame.end - scene.frame.start)
    slack = width * (scene.frame.high - scene.frame.low) if spread == "stacked" else 1e-9
    assert np.sort(values_of(scene, mark.places)) == pytest.approx(np.sort(values), abs=slack)
    assert not [t for t in scene.marks if isinstance(t, Text) and "drawn as points" in t.text]


def test_stacked_dots_do_not_lie_over_one_another():
    _, scene = drawn(("points",), RNG.normal(0, 1, 300).tolist(), points=Points(spread="stacked"))
    (mark,) = marks_of(scene, "points", Dots)
    gaps = np.abs(mark.places[:, None, :] - mark.places[None, :, :]).max(axis=2)
    np.fill_diagonal(gaps, np.inf)
    assert gaps.min() >= mark.size / 2 - 1e-6


def test_jitter_follows_its_seed():
    def across(seed):
        _, scene = drawn(("points",), NEAR, points=Points(seed=seed))
        return marks_of(scene, "points", Dots)[0].places[:, 1]

    assert np.array_equal(across(4), across(4))
    assert not np.array_equal(across(4), across(5))


@pytest.mark.parametrize("spread", ["stacked", "jittered"])
def test_points_past_what_a_page_shows_thin_out_and_the_figure_says_so(spread):
    values = RNG.normal(0, 1, 30_000)
    _readings, scene = drawn(("points",), values.tolist(), points=Points(spread=spread))
    (mark,) = marks_of(scene, "points", Dots)
    (note,) = [t.text for t in scene.marks if isinstance(t, Text) and "drawn as points" in t.text]
    assert note == f"{len(mark.places):,} of 30,000 values are drawn as points"
    assert 500 < len(mark.places) < 10_000
    shown = values_of(scene, mark.places)
    assert min(shown) == pytest.approx(values.min(), abs=0.05)
    assert max(shown) == pytest.approx(values.max(), abs=0.05)
    assert np.median(shown) == pytest.approx(np.median(values), abs=0.1)


# Lanes, and lying or standing


@WAYS
def test_lanes_share_one_scale_of_heights_and_lie_apart(upright):
    readings, scene = drawn(
        ("bars",), NEAR, WIDE, upright=upright, show={"arrange": "lanes", "heights": "count"}
    )
    lanes = scene.frame.lanes
    assert [lane.groups for lane in lanes] == [(0,), (1,)]
    assert lanes[0].last <= lanes[1].first + 1e-9
    for lane, own in zip(lanes, bars(readings), strict=True):
        (area,) = marks_of(scene, "bars", Area, lane.groups[0])
        _along, across = scene.frame.backs(area.points)
        assert lane.first <= across.min() <= across.max() <= lane.last
        tallest = max(abs(place - lane.heights[0].band.base) for place in across.tolist())
        assert tallest / lane.heights[0].band.thickness * lane.heights[
            0
        ].band.tallest == pytest.approx(own.heights.max())
    names = [mark.text for mark in marks_of(scene, "lane", Text)]
    assert {"A", "B", "n = 300", "n = 120"} <= set(names)
    assert [mark.text for mark in marks_of(scene, "factor", Text)] == ["Bay"]


@pytest.mark.parametrize("form", list(FORMS))
def test_standing_is_lying_with_along_and_across_exchanged(form):
    parts = {"show": {"arrange": "lanes", "heights": "density"}, "curve": Curves(fill=True)}
    _, lying = drawn((form,), NEAR, WIDE, **parts)
    _, standing = drawn((form,), NEAR, WIDE, upright=True, **parts)

    def reach(scene):
        """For each mark of data: its kind, and the values between which it lies."""
        found = []
        for mark in scene.marks:
            points = getattr(mark, "points", getattr(mark, "places", None))
            if points is not None and mark.meaning.group is not None and len(points):
                values = values_of(scene, points)
                found.append((type(mark).__name__, mark.meaning, min(values), max(values)))
        return found

    first, second = reach(lying), reach(standing)
    assert [mark[:2] for mark in first] == [mark[:2] for mark in second]
    span = lying.frame.high - lying.frame.low
    for a, b in zip(first, second, strict=True):
        assert a[2:] == pytest.approx(b[2:], abs=span / 50)


@pytest.mark.parametrize("form", list(FORMS))
@pytest.mark.parametrize("groups", [1, 2, 7])
@WAYS
def test_every_form_stays_in_its_frame_and_its_words_on_the_page(form, groups, upright):
    samples = [RNG.normal(40 + 5 * g, 6, 80).tolist() for g in range(groups)]
    extras = {
        "box": Boxes(mean=True, names="row", numbers=("n", "mean")),
        "lines": Lines(mean=True, median=True),
    }
    for size in ("16x10cm", "7x6cm", "30x9cm"):
        _, scene = drawn((form,), *samples, upright=upright, size=Size.parse(size), **extras)
        frame = scene.frame
        for mark in scene.marks:
            points = getattr(mark, "points", getattr(mark, "places", None))
            if points is not None and mark.meaning.part not in ("legend", "centre"):
                assert points[:, 0].min() >= frame.left - 1e-6
                assert points[:, 0].max() <= frame.right + 1e-6
                assert points[:, 1].min() >= frame.top - 1e-6
                assert points[:, 1].max() <= frame.bottom + 1e-6
            if isinstance(mark, Text) and not mark.angle:
                wide = measure(mark.text, mark.size, mark.bold)
                left = mark.x - {"start": 0, "middle": 0.5, "end": 1}[mark.anchor] * wide
                assert left >= -1, mark
                assert left + wide <= scene.width + 6, mark
                assert -1 <= mark.y <= scene.height, mark


@pytest.mark.parametrize("upright", [False, True])
def test_thirty_lanes_have_all_their_names(upright):
    codes = np.repeat(np.arange(30), 20).astype(np.int8)
    levels = tuple(f"A long name of a mooring number {i}" for i in range(30))
    table = Table(
        "t",
        (
            NumberColumn("Length", values=np.arange(600.0)),
            CategoryColumn("Mooring", codes=codes, levels=levels),
        ),
    )
    recipe = asking().showing(split=("Mooring",), forms=("box",), upright=upright)
    scene = build(read(recipe, gather(table, "Length", "Mooring")), measure)
    names = [m for m in marks_of(scene, "lane", Text) if "n = 20" in m.text]
    assert len(names) == 30
    places = sorted(m.x if upright else m.y for m in names)
    assert min(b - a for a, b in itertools.pairwise(places)) >= 0.99 * names[0].size
    frame = scene.frame
    assert (frame.right - frame.left) * (
        frame.bottom - frame.top
    ) > 0.3 * scene.width * scene.height


def test_heights_stand_over_strips_and_a_box_within_its_violin():
    _, scene = drawn(("curve", "violin", "box", "points"), NEAR, WIDE)
    for lane in scene.frame.lanes:
        place = {strip.form: strip.band for strip in lane.strips}
        assert lane.heights[0].band.base <= place["violin"].tip < place["violin"].base
        assert place["violin"].base <= place["points"].tip
        assert place["violin"].tip < place["box"].tip < place["box"].base < place["violin"].base


# Bars


@WAYS
def test_a_gap_is_a_share_of_each_bins_width(upright):
    _readings, scene = drawn(
        ("bars",), [1.0, 2, 6, 11, 12], upright=upright, bars=Bars(gap=0.3),
        bins=asking(edges=(0.0, 5, 10, 20)).bins,
    )  # fmt: skip
    (area,) = marks_of(scene, "bars", Area)
    values = np.array(values_of(scene, area.points)).reshape(3, 4)
    widths = np.array([5, 5, 10])
    assert values[:, 2] - values[:, 1] == pytest.approx(0.7 * widths)
    assert (values[:, 1] + values[:, 2]) / 2 == pytest.approx([2.5, 7.5, 15])


@pytest.mark.parametrize(("edges", "inner"), [((0, 5, 10), [5]), ((0, 5, 10, 15), [5, 10])])
def test_bars_that_touch_are_parted_by_paper_where_both_are(edges, inner):
    _readings, scene = drawn(("bars",), [1.0, 2, 3, 6, 7, 11], bins=asking(edges=edges).bins)
    (parting,) = [s for s in marks_of(scene, "bars", Segments) if s.colour == HOUSE.paper]
    assert values_of(scene, parting.lines[:, :2]) == pytest.approx(inner)
    lengths = np.abs(parting.lines[:, 3] - parting.lines[:, 1])
    counts = np.histogram([1.0, 2, 3, 6, 7, 11], edges)[0]
    assert lengths / lengths[0] == pytest.approx(
        np.minimum(counts[:-1], counts[1:]) / min(counts[:2])
    )


@WAYS
def test_parts_of_a_stack_with_gaps_are_outlined_where_they_are_filled(upright):
    readings, scene = drawn(
        ("bars",), [1.0, 2, 6, 11, 12], [3.0, 7, 8, 9], upright=upright, bars=Bars(gap=0.3),
        bins=asking(edges=(0.0, 5, 10, 20)).bins, show={"arrange": "stacked"},
    )  # fmt: skip
    (sides,) = marks_of(scene, "bars", Segments)  # of the part that stands on the other
    (area,) = marks_of(scene, "bars", Area, sides.meaning.group)
    filled = {tuple(corner) for corner in np.round(area.points, 6).tolist()}
    ends = {tuple(end) for end in np.round(sides.lines.reshape(-1, 2), 6).tolist()}
    assert ends <= filled
    bars_of_it = int((bars(readings)[sides.meaning.group].heights > 0).sum())
    assert len(ends) == 4 * bars_of_it


@WAYS
@pytest.mark.parametrize(
    ("labels", "texts"),
    [
        ("count", ["1", "3", "1"]),
        ("percent", ["20 %", "60 %", "20 %"]),
        ("proportion", ["0.2", "0.6", "0.2"]),
        ("density", ["0.04", "0.12", "0.04"]),
    ],
)
def test_numbers_on_bars_are_apart_from_the_axis_and_above_their_bars(labels, texts, upright):
    _readings, scene = drawn(
        ("bars",), [1.0, 6, 7, 8, 12], upright=upright, bars=Bars(labels=labels),
        bins=asking(width=5.0, start=0.0).bins,
    )  # fmt: skip
    written = marks_of(scene, "bars", Text)
    assert [mark.text for mark in written] == texts
    band = scene.frame.band
    for mark, height in zip(written, (1, 3, 1), strict=True):
        _, across = scene.frame.back(mark.x, mark.y)
        assert band.height(across) >= height * 0.99
        assert scene.frame.top <= mark.y <= scene.frame.bottom
        if upright:
            assert mark.x + measure(mark.text, mark.size, False) <= scene.width


@pytest.mark.parametrize("count", [5, 40, 90, 400])
def test_numbers_on_bars_turn_shrink_thin_out_and_give_way(count):
    values = RNG.uniform(0, 100, 60_000).tolist()
    _, scene = drawn(("bars",), values, bars=Bars(labels="count"), bins=asking(count=count).bins)
    written = marks_of(scene, "bars", Text)
    expected = {5: (5, False), 40: (40, True), 90: (45, True), 400: (0, None)}[count]
    assert len(written) == pytest.approx(expected[0], abs=count / 6)
    assert all(bool(mark.angle) is expected[1] for mark in written)
    assert all(mark.size >= 5.5 for mark in written)
    for one, other in itertools.pairwise(written):
        extent = one.size if one.angle else measure(one.text, one.size, False)
        assert other.x - one.x >= extent * 0.99


def test_groups_with_bins_of_their_own_are_drawn_in_lanes_at_those_bins():
    recipe = asking(rule="sturges", shared=False).showing(split=("Bay",))
    readings = read(recipe, set_of(NEAR, WIDE))
    scene = build(readings, measure)
    assert len(scene.frame.lanes) == 2
    for group, own in enumerate(readings.own_edges):
        (area,) = marks_of(scene, "bars", Area, group)
        values = {round(v, 6) for v in values_of(scene, area.points)}
        assert values <= {round(edge, 6) for edge in own.values.tolist()}
    assert readings.own_edges[0].width != readings.own_edges[1].width


@WAYS
def test_lines_in_lanes_run_through_their_own_lane(upright):
    _, scene = drawn(
        ("curve",), NEAR, WIDE, upright=upright, show={"arrange": "lanes"},
        lines=Lines(mean=True),
    )  # fmt: skip
    for lane, values in zip(scene.frame.lanes, (NEAR, WIDE), strict=True):
        (line,) = marks_of(scene, "centre", Segments, lane.groups[0])
        ends = line.lines.reshape(2, 2)
        assert values_of(scene, ends) == pytest.approx([np.mean(values)] * 2)
        _, across = scene.frame.backs(ends)
        assert sorted(across.tolist()) == pytest.approx([lane.first, lane.last])
    texts = [mark.text for mark in marks_of(scene, "centre", Text)]
    assert sorted(texts) == sorted(f"mean {np.mean(v):.1f}" for v in (NEAR, WIDE))


# Style


def test_a_style_colours_everything_and_the_scene_has_none_of_its_own():
    own = Style(
        paper="#000001", ink="#000002", quiet="#000003", hairline="#000004",
        palette=("#000005", "#000006"),
    )  # fmt: skip
    _, scene = drawn(
        ("bars", "curve", "box", "points"), NEAR, WIDE, style=own,
        box=Boxes(mean=True, names="row", numbers=("n",)), lines=Lines(mean=True),
    )  # fmt: skip
    colours = {
        getattr(mark, name)
        for mark in scene.marks
        for name in ("colour", "fill")
        if getattr(mark, name, "")
    }
    assert colours <= {f"#00000{digit}" for digit in range(1, 7)}


def test_a_cloud_is_the_same_whoever_asks():
    readings, scene = drawn(("points",), NEAR)
    drawing = Drawing(readings, scene.frame, HOUSE, ("#000000",), ("#000000",), (0,), measure)
    (strip,) = scene.frame.lanes[0].strips
    cloud = cloud_of(drawing, strip.band, 0)
    (mark,) = marks_of(scene, "points", Dots)
    assert np.array_equal(scene.frame.points(cloud.along, cloud.across), mark.places)


@WAYS
def test_lanes_of_heights_and_strips_share_one_scale_too(upright):
    readings, scene = drawn(
        ("bars", "box"), NEAR, WIDE, upright=upright, show={"heights": "percent"}
    )  # fmt: skip
    for lane, own in zip(scene.frame.lanes, bars(readings), strict=True):
        (area,) = marks_of(scene, "bars", Area, lane.groups[0])
        _, across = scene.frame.backs(area.points)
        reached = max(abs(place - lane.heights[0].band.base) for place in across.tolist())
        first = scene.frame.lanes[0].heights[0].band
        assert reached == pytest.approx(
            own.heights.max() / first.tallest * first.thickness, rel=1e-6
        )


def lane_words(levels, upright, size):
    """The words under or beside the lanes of so many boxes, and whether any is turned."""
    values = np.arange(20.0 * len(levels))
    codes = (values % len(levels)).astype(np.int8)
    mooring = CategoryColumn("Mooring", codes=codes, levels=tuple(levels))
    table = Table("t", (NumberColumn("Length", values=values), mooring))
    recipe = asking().showing(split=("Mooring",), forms=("box",), upright=upright)
    readings = read(recipe, gather(table, "Length", "Mooring"))
    scene = build(readings, measure, size=Size.parse(size))
    words = [m for m in marks_of(scene, "lane", Text) if not m.text.startswith("n =")]
    return [word.text for word in words], any(word.angle for word in words)


def test_long_names_of_lanes_that_begin_alike_are_cut_in_their_middles():
    levels = [f"The upper and outer mooring of the northern bay {i}" for i in range(1, 3)]
    names, _ = lane_words(levels, False, "9x6cm")
    assert sum("1" in name and "…" in name for name in names) == 1, names
    assert sum("2" in name and "…" in name for name in names) >= 1, names


@pytest.mark.parametrize(
    ("levels", "size", "words", "turned"),
    [
        (["Upper pens", "North rack", "Low"], "16x10cm", ["Upper pens", "North rack", "Low"], False),
        (["Upper pens of the bay", "Low"], "6x8cm", ["Upper pens", "of the bay", "Low"], False),
        ([f"Bay {i}, upper northern pens" for i in range(8)], "16x10cm", None, False),
        (["Saltmerebottombeds", *(f"Bay {i}" for i in range(7))], "16x10cm", None, False),
        ([f"Saltmerebottombeds {i}" for i in range(8)], "16x10cm", None, True),
        ([f"Bay {i}" for i in range(40)], "16x10cm", None, True),
    ],
)  # fmt: skip
def test_names_under_boxes_are_broken_first_then_the_longest_cut_and_turned_last(
    levels, size, words, turned
):
    written, are_turned = lane_words(levels, True, size)
    assert are_turned is turned
    if words is not None:
        assert written == words
    if not turned:
        assert sum("…" in word for word in written) <= max(1, len(levels) // 3)


def random_figure(chance):
    """A figure of anything that can be asked for, on pages of four shapes."""
    count = chance.choice([1, 2, 3, 5, 8, 14, 30])
    each = chance.choice([5, 40, 200])
    values = np.concatenate(
        [
            chance.normalvariate(50 + 3 * g, 4) + RNG.normal(0, chance.choice([2, 8, 30]), each)
            for g in range(count)
        ]
    )
    names = tuple(
        f"{chance.choice(['A', 'Bay', 'A very long name of a group'])} {g}" for g in range(count)
    )
    codes = np.repeat(np.arange(count), each).astype(np.int8)
    table = Table(
        "t",
        (
            NumberColumn("Length", unit="mm", values=values.round(chance.choice([0, 1, 3]))),
            CategoryColumn("Bay", codes=codes, levels=names),
        ),
    )
    split = ("Bay",) if count > 1 else ()
    recipe = asking().showing(
        forms=tuple(chance.sample(list(FORMS), chance.randint(1, 4))),
        split=split,
        heights=chance.choice(["count", "percent", "density"]),
        arrange=chance.choice([None, "lanes", "overlaid"]),
        upright=chance.choice([None, True, False]),
    )
    recipe = recipe.changed(
        bars=Bars(labels=chance.choice([None, "count", "percent"]), gap=chance.choice([0.0, 0.3])),
        box=Boxes(
            names=chance.choice([None, "row", "value"]),
            numbers=chance.choice([(), ("n",), ("n", "mean", "median")]),
            letters=chance.random() < 0.2,
        ),
        lines=Lines(mean=chance.random() < 0.4, median=chance.random() < 0.4),
        points=Points(spread=chance.choice(["stacked", "jittered"])),
    ).worded(title=chance.choice([None, "Two harvests hide in Saltmere"]))
    readings = read(recipe, gather(table, "Length", "Bay" if split else ()))
    size = Size.parse(chance.choice(["16x10cm", "10x8cm", "8x16cm", "25x14cm"]))
    return build(readings, measure, size=size)


@pytest.mark.parametrize("seed", range(8))
def test_whatever_is_asked_for_no_word_lies_over_another_and_none_leaves_the_page(seed):
    chance = random.Random(seed)
    for _ in range(10):
        scene = random_figure(chance)
        words = []
        for mark in (m for m in scene.marks if isinstance(m, Text)):
            wide = measure(mark.text, mark.size, mark.bold)
            before = {"start": 0.0, "middle": 0.5, "end": 1.0}[mark.anchor] * wide
            if mark.angle:
                rect = (mark.x - 0.7 * mark.size, mark.y - wide + before, mark.x, mark.y + before)
            else:
                rect = (mark.x - before, mark.y - 0.7 * mark.size, mark.x - before + wide, mark.y)
            assert rect[0] >= -1, mark
            assert rect[1] >= -1, mark
            assert rect[2] <= scene.width + 1, mark
            assert rect[3] <= scene.height + 1, mark
            words.append((mark, rect))
        for (one, a), (other, b) in itertools.combinations(words, 2):
            across = min(a[2], b[2]) - max(a[0], b[0])
            down = min(a[3], b[3]) - max(a[1], b[1])
            assert min(across, down) < 0.6, (one, other)


@pytest.mark.parametrize(("fill", "areas", "lines"), [(False, 0, 1), (True, 1, 1), ("only", 1, 0)])
def test_curves_are_lines_or_filled_or_both(fill, areas, lines):
    _, scene = drawn(("curve",), NEAR, curve=Curves(fill=fill))
    assert len(marks_of(scene, "curve", Area)) == areas
    assert len(marks_of(scene, "curve", Path)) == lines


def test_numbers_asked_for_bars_that_are_not_drawn_ask_for_no_bins():
    recipe = asking(width=1e-300).showing(forms=("curve",), heights="density")
    readings = read(recipe.changed(bars=Bars(labels="count")), set_of(NEAR))
    scene = build(readings, measure)
    plainly = build(read(recipe, set_of(NEAR)), measure)
    assert scene.frame.band.tallest == plainly.frame.band.tallest


@pytest.mark.parametrize(("high", "named"), [(12.0, True), (3.0, False)])
def test_lanes_too_thin_for_letters_have_no_names(high, named):
    labels = "ABCDEFGH"
    _, scene = drawn(
        ("curve",), *[[1.0, 2.0, 3.0 + at] for at in range(8)],
        size=Size(12.0, high, "cm"), show={"arrange": "lanes"},
    )  # fmt: skip
    written = {mark.text for mark in scene.marks if isinstance(mark, Text)}
    assert set(labels) <= written if named else not set(labels) & written
