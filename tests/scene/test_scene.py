"""Ticks, texts, colours and the layout of figures, without Qt: a text's width is told by a rule of thumb."""

import itertools

import numpy as np
import pytest
from coloraide import Color
from hypothesis import given
from hypothesis import strategies as st

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.forms.lines import curves_of
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.demo_recipe import demo_recipe
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.recipe import Curves, Lines
from rhabdos.scene.axes.limits import Limits
from rhabdos.scene.axes.ticks import label, ticks
from rhabdos.scene.build import build
from rhabdos.scene.marks import Area, Path, Segments, Text
from rhabdos.scene.style import palette
from rhabdos.scene.style.lettering import shortened, wrapped
from rhabdos.scene.style.palette import group_colours
from tests.conftest import asking, measure, set_of


def texts(scene):
    return [mark.text for mark in scene.marks if isinstance(mark, Text)]


@given(st.floats(-1e9, 1e9), st.floats(1e-6, 1e9))
def test_ticks_lie_within_their_axis_in_equal_round_steps(low, span):
    high = low + span
    if high - low < 1e-9 * max(1, abs(low)):
        return
    made = ticks(low, high, lambda t, step: len(t.places) <= 9)
    assert len(made.places) == len(made.labels) <= 12
    assert all(low - span * 1e-6 <= p <= high + span * 1e-6 for p in made.places)
    if len(made.places) > 2:
        rounding = 4 * np.spacing(max(abs(low), abs(high)))
        assert np.diff(made.places) == pytest.approx(
            made.places[1] - made.places[0], rel=1e-6, abs=rounding
        )


@given(st.floats(-12, 12).map(lambda k: 10.0**k))
def test_labels_of_ticks_say_where_they_are(span):
    made = ticks(0.0, span, lambda t, step: len(t.places) <= 8)
    raised = str.maketrans("⁻⁰¹²³⁴⁵⁶⁷⁸⁹−", "-0123456789-", ",")
    read_back = [float(text.translate(raised).replace("×10", "e")) for text in made.labels]
    assert read_back == pytest.approx(list(made.places), rel=1e-9, abs=1e-12)
    assert len(set(made.labels)) == len(made.labels)


@pytest.mark.parametrize(
    ("place", "step", "reach", "text"),
    [
        (20, 5, 30, "20"), (2.5, 2.5, 10, "2.5"), (5, 2.5, 10, "5.0"), (-0.25, 0.25, 1, "−0.25"),
        (1500, 500, 5000, "1,500"), (1e308, 5e307, 1e308, "1×10³⁰⁸"), (0, 1, 1e9, "0"),
    ],
)  # fmt: skip
def test_tick_labels(place, step, reach, text):
    assert label(place, step, reach) == text


def test_only_whole_ticks_where_they_are_asked_for():
    assert ticks(0, 3, lambda t, step: True, whole=True).places == (0, 1, 2, 3)


@given(st.text(max_size=60), st.floats(30, 300))
def test_wrapped_lines_fit_and_lose_nothing_but_where_they_say_so(text, width):
    lines = wrapped(text, width, 10, False, measure)
    assert len(lines) <= 3
    assert all(measure(line, 10, False) <= width or line == "…" for line in lines)
    if not any("…" in line for line in lines):
        assert " ".join(" ".join(lines).split(" ")) == text.replace("\n", " ")


def test_a_text_too_long_is_shortened_and_says_so():
    assert shortened("Upper and outer mooring", 50, 10, False, measure) == "Upper and…"


def test_the_demo_figure_has_its_parts(demo):
    readings = read(demo_recipe(), gather(demo, "Shell length", "Bay"))
    scene = build(readings, measure)
    assert (scene.width, scene.height) == pytest.approx((453.54, 283.46), abs=0.01)
    found = texts(scene)
    assert "Two harvests hide in Saltmere" in found
    assert "Shell length (mm)" in found
    assert "Percent of each bay" in found
    assert "Saltmere  n = 817" in found
    bars = [m for m in scene.marks if isinstance(m, Area) and m.meaning.part == "bars"]
    assert [m.meaning.group for m in bars] == [0, 1, 2]
    assert len({m.fill for m in bars}) == 3


@pytest.mark.parametrize("upright", [False, True])
@pytest.mark.parametrize("arrange", ["overlaid", "stacked"])
def test_a_filled_curve_has_the_area_that_is_under_it(demo, upright, arrange):
    """That of one distribution, or of a group's share of all; from one end of it to the other."""
    of = "all" if arrange == "stacked" else "group"
    recipe = demo_recipe().showing(
        forms=("curve",), heights="density", of=of, arrange=arrange, upright=upright
    )
    recipe = recipe.changed(curve=Curves(fill=True))
    readings = read(recipe, gather(demo, "Shell length", "Bay"))
    scene = build(readings, measure)
    frame, band = scene.frame, scene.frame.lanes[0].heights[0].band
    fills = [m for m in scene.marks if isinstance(m, Area) and m.meaning.part == "curve"]
    assert len(fills) == 3
    unit = abs(np.diff(frame.alongs(np.array([70.0, 71.0])))[0])
    high = 100 * abs(band.at(0.01) - band.at(0.0))
    whole = sum(group.n for group in readings.groups)
    for fill in fills:
        x, y = fill.points.T
        area = abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2
        share = readings.groups[fill.meaning.group].n / whole if arrange == "stacked" else 1
        assert area == pytest.approx(unit * high * share, rel=5e-3)
        along = fill.points[:, 1 if upright else 0]
        assert along[-1] == pytest.approx(along[0])
        if arrange == "overlaid":  # down from its end to the foot of the axis
            assert along[-2] == pytest.approx(along[-3])


def test_a_silhouette_has_the_heights_of_its_bars():
    readings = read(asking(edges=(0.0, 5, 10, 15)), set_of([1.0, 2, 6, 11, 12, 13]))
    scene = build(readings, measure)
    outline = next(
        m for m in scene.marks if isinstance(m, Path) and m.meaning.part == "bars"
    ).points
    values = [scene.frame.value(x) for x in outline[:, 0]]
    heights = [scene.frame.band.height(y) for y in outline[:, 1]]
    assert values == pytest.approx([0, 0, 5, 5, 10, 10, 15, 15])
    assert heights == pytest.approx([0, 2, 2, 1, 1, 3, 3, 0], abs=1e-9)


@pytest.mark.parametrize("size", ["16x10cm", "6x5cm", "40x12cm", "1200x800px"])
@pytest.mark.parametrize("groups", [1, 2, 30])
def test_nothing_leaves_the_page_and_no_two_labels_of_an_axis_overlap(size, groups):
    rng = np.random.default_rng(groups)
    many = [rng.normal(70 + i, 8, 40).round(1).tolist() for i in range(min(groups, 8))]
    recipe = asking().worded(
        title="A title that goes on and on about oysters and says very little in the end"
    )
    recipe = recipe.showing(split=("Bay",)) if groups > 1 else recipe
    scene = build(read(recipe, set_of(*many)), measure, size=Size.parse(size))
    boxes = []
    for mark in (m for m in scene.marks if isinstance(m, Text)):
        width = measure(mark.text, mark.size, mark.bold)
        if mark.angle:
            continue
        left = mark.x - {"start": 0, "middle": 0.5, "end": 1}[mark.anchor] * width
        assert left >= -1
        assert left + width <= scene.width + 6
        assert 0 <= mark.y <= scene.height
        boxes.append((mark.meaning.part, left, left + width, mark.y - mark.size * 0.7, mark.y))
    for one, other in itertools.combinations(boxes, 2):
        if one[0] == other[0]:
            apart = (
                one[2] <= other[1] or other[2] <= one[1] or one[4] <= other[3] or other[4] <= one[3]
            )
            assert apart, (one, other)


def test_bins_beyond_the_limits_are_cut_at_the_frame():
    readings = read(asking(edges=(0.0, 5, 10, 15)), set_of([1.0, 2, 6, 11]))
    scene = build(readings, measure, (Limits(2.0, 12.0),))
    outline = next(
        m for m in scene.marks if isinstance(m, Area) and m.meaning.part == "bars"
    ).points
    assert outline[:, 0].min() == scene.frame.left
    assert outline[:, 0].max() == scene.frame.right


def test_the_axis_makes_room_above_the_tallest_bar():
    for heights in ([3] * 3, [1], [7] * 99):
        scene = build(read(asking(), set_of([float(h) for h in heights])), measure)
        assert scene.frame.band.tallest >= len(heights) * 1.02


@pytest.mark.parametrize("form", ["bars", "outline", "polygon", "curve", "normal", "ecdf"])
@pytest.mark.parametrize(
    "values", [[0.0, 1e-307, 2e-307, 2e-307], [-8e307, 1e308, 2.0], [1.6e308, 1.7e308, 1.5e308]]
)
def test_figures_at_the_ends_of_the_range_of_numbers_are_laid_out_or_refused(form, values):
    recipe = asking(count=2).showing(forms=(form,), heights="density")
    try:
        scene = build(read(recipe, set_of(values)), measure)
    except Refusal:
        return
    for mark in scene.marks:
        if isinstance(mark, Path | Area):
            assert np.all(np.isfinite(mark.points))


def test_parts_of_the_page_have_their_meaning(demo):
    scene = build(read(demo_recipe(), gather(demo, "Shell length", "Bay")), measure)
    frame = scene.frame
    assert (
        scene.meaning_at((frame.left + frame.right) / 2, (frame.top + frame.bottom) / 2).part
        == "bars"
    )
    assert scene.meaning_at(5, (frame.top + frame.bottom) / 2).part == "height-title"
    assert scene.meaning_at(frame.left - 4, (frame.top + frame.bottom) / 2).part == "height-axis"
    assert scene.meaning_at((frame.left + frame.right) / 2, scene.height - 3).part == "value-axis"
    assert scene.meaning_at(frame.left + 20, 12).part == "title"


@pytest.mark.parametrize("count", [1, 3, 8, 9, 30, 60])
def test_every_group_has_a_colour_of_its_own(count):
    colours = group_colours(count)
    assert len(set(colours)) == count
    assert all(Color(colour).in_gamut("srgb") for colour in colours)


@pytest.mark.parametrize("deficiency", ["none", "protan", "deutan", "tritan"])
def test_any_two_of_eight_colours_stay_apart_for_every_reader(deficiency):
    seen = [Color(colour) for colour in palette.GROUPS]
    if deficiency != "none":
        seen = [colour.filter(deficiency) for colour in seen]
    assert len(seen) == 8
    for one, other in itertools.combinations(seen, 2):
        assert one.delta_e(other, method="2000") > 15


def test_any_two_of_eight_colours_stay_apart_in_grey_print():
    lightness = [Color(colour).convert("lab")["l"] for colour in palette.GROUPS]
    for one, other in itertools.combinations(lightness, 2):
        assert abs(one - other) > 7


def test_inks_are_legible_on_paper():
    for ink in (palette.INK, palette.QUIET):
        assert Color(ink).contrast(palette.PAPER) >= 4.5


@pytest.mark.parametrize("of", ["group", "all"])
@pytest.mark.parametrize("heights", ["count", "percent", "density"])
def test_a_drawn_curve_has_the_area_of_its_groups_bars(heights, of):
    groups = (
        np.random.default_rng(4).normal(20, 3, 400).tolist(),
        np.random.default_rng(5).normal(28, 2, 150).tolist(),
    )
    recipe = asking(width=2.0).showing(
        forms=("bars", "curve"), heights=heights, of=of, split=("Bay",)
    )
    readings = read(recipe, set_of(*groups))
    scene = build(readings, measure)
    lines = [m for m in scene.marks if isinstance(m, Path) and m.meaning.part == "curve"]
    for line, group in zip(lines, bars(readings), strict=True):
        x = np.array([scene.frame.value(place) for place in line.points[:, 0]])
        y = np.array([scene.frame.band.height(place) for place in line.points[:, 1]])
        assert np.trapezoid(y, x) == pytest.approx((group.heights * 2.0).sum(), rel=5e-3)


def test_an_ecdf_steps_up_at_every_value_from_side_to_side():
    readings = read(
        asking().showing(forms=("ecdf",), heights="proportion"), set_of([3.0, 1.0, 3.0, 7.0])
    )
    scene = build(readings, measure)
    (line,) = [m for m in scene.marks if isinstance(m, Path)]
    corners = [(scene.frame.value(x), scene.frame.band.height(y)) for x, y in line.points.tolist()]
    assert corners == pytest.approx(
        np.array([(1, 0), (1, 0), (1, 0.25), (3, 0.25), (3, 0.75), (7, 0.75), (7, 1), (7, 1)]),
        abs=1e-9,
    )


def smoothed(bandwidth):
    """The curve of some values, its figure, and its line."""
    values = np.random.default_rng(4).normal(20, 3, 4000)
    recipe = asking().showing(forms=("curve",), heights="density")
    readings = read(recipe.changed(curve=Curves(bandwidth=bandwidth)), set_of(values.tolist()))
    (curve,) = curves_of(readings, "curve")
    scene = build(readings, measure)
    (line,) = [m for m in scene.marks if isinstance(m, Path)]
    return curve, scene, line


def test_a_line_of_very_many_points_keeps_its_shape():
    curve, scene, line = smoothed(0.004)
    assert len(curve.x) > 10_000 > 5_000 > len(line.points)
    assert min(line.points[:, 1]) == pytest.approx(float(scene.frame.band.ats(curve.y.max())))


def test_a_smooth_line_has_one_point_a_column_of_the_page_and_lies_where_all_its_points_do():
    curve, scene, line = smoothed(0.4)
    x, y = line.points[:, 0], line.points[:, 1]
    assert len(np.unique(np.floor(x))) == len(x) - 1  # the last point of all is another
    inside = (scene.frame.low < curve.x) & (curve.x < scene.frame.high)
    across = scene.frame.band.ats(curve.y[inside])
    assert inside.sum() > 1.5 * len(x)
    drawn = np.interp(scene.frame.alongs(curve.x[inside]), x, y)
    assert np.abs(drawn - across).max() < 0.1


def test_thirty_groups_leave_the_figure_most_of_the_paper():
    codes = np.repeat(np.arange(30), 20).astype(np.int8)
    bay = CategoryColumn(
        "Bay", codes=codes, levels=tuple(f"A group of its own {i}" for i in range(30))
    )
    length = NumberColumn("Length", values=np.arange(600.0))
    readings = read(
        asking().showing(split=("Bay",), arrange="overlaid"),
        gather(Table("t", (length, bay)), "Length", "Bay"),
    )
    scene = build(readings, measure)
    assert scene.frame.top < scene.height / 3
    (rest,) = [m.text for m in scene.marks if isinstance(m, Text) and m.text.endswith(" more")]
    named = [
        m for m in scene.marks if isinstance(m, Text) and m.meaning and m.meaning.level is not None
    ]
    assert rest == f"and {30 - len(named)} more"


@given(
    st.lists(st.tuples(st.integers(0, 400), st.integers(1, 120)), min_size=1, max_size=6),
    st.booleans(),
)
def test_no_line_passes_through_the_words_of_another_and_nothing_leaves_the_page(shapes, both):
    groups = [
        [(middle - spread) / 4, middle / 4, (middle + 2 * spread) / 4] for middle, spread in shapes
    ]
    recipe = asking(count=5).showing(split=("Bay",) if len(groups) > 1 else (), arrange="overlaid")
    readings = read(recipe.changed(lines=Lines(mean=True, median=both)), set_of(*groups))
    scene = build(readings, measure)
    marks = [m for m in scene.marks if m.meaning and m.meaning.part == "centre"]
    lines = [m.lines[0].tolist() for m in marks if isinstance(m, Segments)]
    words = []
    for m in marks:
        if isinstance(m, Text):
            wide = measure(m.text, m.size, False)
            left = m.x - (wide if m.anchor == "end" else 0.0)
            words.append((left, left + wide, m.y - m.size * 0.7, m.y))
    assert len(lines) == len(groups) * (1 + both)
    for (left, right, top, bottom), (x, high, _, low) in itertools.product(words, lines):
        assert right <= scene.width
        assert top >= 0
        assert not (left + 0.01 < x < right - 0.01 and high < bottom and low > top)
    for a, b in itertools.combinations(words, 2):
        assert a[3] <= b[2] or b[3] <= a[2] or a[1] <= b[0] or b[1] <= a[0]
