"""Each thing of a figure styled by itself: legends of forms, lines at means, points, values beyond,
grounds of words, words at ticks, tables beside boxes, and fills that vanish."""

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.toml_text import RecipeError, read_recipe, write_recipe
from rhabdos.scene.build import build
from rhabdos.scene.drawing_notices import vanishing_notice
from rhabdos.scene.marks import Area, Dots, Path, Segments, Swatch, Text

RNG = np.random.default_rng(7)
VALUES = np.concatenate([RNG.normal(60, 6, 90), RNG.normal(85, 4, 90), [20.0, 140.0]]).round(1)
BAYS = CategoryColumn("Bay", codes=np.arange(182) % 2, levels=("Saltmere", "Ledge"))
TABLE = Table("t", (NumberColumn("Length", unit="mm", values=VALUES), BAYS))


def measure(text, size, face):
    return len(text) * size * (0.5 + 0.03 * int(face))


def readings_of(forms, text="", split=("Bay",)):
    text = (
        f"rhabdos = 1\n[show]\nvariables = ['Length']\nsplit = {list(split)}\n"
        f"forms = {list(forms)}\n{text}"
    )
    recipe = read_recipe(text)
    assert read_recipe(write_recipe(recipe)) == recipe
    return read(recipe, gather(TABLE, "Length", split))


def scene_of(forms, text="", split=("Bay",)):
    return build(readings_of(forms, text, split), measure)


def texts(scene, part):
    return [m.text for m in scene.marks if isinstance(m, Text) and m.meaning.part == part]


def of(scene, kind, part):
    return [m for m in scene.marks if isinstance(m, kind) and m.meaning and m.meaning.part == part]


# A legend of forms


def test_a_density_and_a_normal_curve_are_told_apart_and_named_of_their_own_accord():
    scene = scene_of(("bars", "curve", "normal"), "heights = 'density'", split=())
    assert texts(scene, "legend-form") == ["bars", "density curve", "normal curve"]
    assert len(of(scene, Swatch, "legend-form")) == 1
    density, normal = of(scene, Segments, "legend-form")
    drawn = {m.meaning.part: m for m in scene.marks if isinstance(m, Path)}
    for sample, part in ((density, "curve"), (normal, "normal")):
        line = drawn[part]
        assert (sample.colour, sample.width, sample.dash) == (line.colour, line.width, line.dash)
    assert density.dash != normal.dash


def test_the_legend_shows_forms_as_they_are_drawn_after_the_groups():
    text = (
        "[legend]\nforms = true\nplace = 'right'\n[strokes.polygon]\ncolour = '#AA0000'\n"
        "width = 3\ndash = 'dotted'\n[words.names]\n'frequency polygon' = 'our polygon'"
    )
    scene = scene_of(("bars", "polygon"), text)
    assert texts(scene, "legend-form") == ["bars", "our polygon"]
    (line,) = of(scene, Segments, "legend-form")
    assert (line.colour, line.width) == ("#AA0000", 3.0)
    names = [m for m in scene.marks if isinstance(m, Text) and m.meaning.part.startswith("legend")]
    assert [m.meaning.part for m in names] == ["legend"] * 2 + ["legend-form"] * 2
    assert [m.y for m in names] == sorted(m.y for m in names)


@pytest.mark.parametrize(
    ("forms", "text"),
    [
        (("bars", "curve"), ""),
        (("bars", "curve", "normal"), "[legend]\nforms = false"),
        (("bars", "curve", "normal"), "[legend]\nplace = 'none'"),
        (("bars",), "[legend]\nforms = true"),
    ],
)
def test_no_forms_are_named_where_nobody_asks(forms, text):
    assert texts(scene_of(forms, text), "legend-form") == []


# Lines and points of their own


def test_lines_at_mean_and_median_have_strokes_of_their_own():
    text = (
        "[lines]\nmean = true\nmedian = true\n[strokes.mean_line]\ncolour = '#AA0000'\n"
        "width = 2.5\ndash = 'dotted'\n[strokes.median_line]\nwidth = 4"
    )
    scene = scene_of(("bars",), text, split=())
    by_colour = {line.colour: line for line in of(scene, Segments, "centre")}
    mean = by_colour.pop("#AA0000")
    assert (mean.width, len(mean.dash)) == (2.5, 2)
    (median,) = by_colour.values()
    assert (median.width, median.dash) == (4.0, ())
    (words,) = [t for t in of(scene, Text, "centre") if t.text.startswith("mean")]
    assert words.colour == "#AA0000"


def test_points_and_values_beyond_have_a_colour_and_sizes_of_their_own():
    text = "[points]\ncolour = '#7A3E9D'\n[box]\nmark_size = 7\nname_size = 5\nnames = 'row'\n"
    scene = scene_of(("box", "points"), text, split=())
    (points,) = of(scene, Dots, "points")
    assert points.colour == "#7A3E9D"
    beyond = of(scene, Dots, "box")
    assert beyond
    assert {dots.size for dots in beyond} == {7.0}
    names = of(scene, Text, "box")
    assert {t.text for t in names} == {"181", "182"}
    assert {t.size for t in names} == {5.0}


def test_a_group_that_others_are_brought_forward_of_keeps_its_quiet_points():
    text = "[points]\ncolour = '#7A3E9D'\n[groups]\nforward = ['Ledge']"
    colours = {m.meaning.group: m.colour for m in of(scene_of(("points",), text), Dots, "points")}
    assert sorted(colour == "#7A3E9D" for colour in colours.values()) == [False, True]


# Words


def test_a_text_and_the_note_lie_on_a_ground_within_a_border_and_on_the_page():
    text = (
        "[words]\nnote = 'Measured twice.'\n[words.note_style]\nground = '#FFF3C4'\n"
        "border = '#B58900'\npadding = 6\n[[text]]\ntext = 'here'\nvalue = 139\nshare = 1\n"
        "[text.style]\nground = '#E3F1EE'\n"
    )
    scene = scene_of(("bars",), text, split=())
    for part, ground, padding in (("own-note", "#FFF3C4", 6.0), ("text", "#E3F1EE", 3.0)):
        (area,) = of(scene, Area, part)
        (words,) = of(scene, Text, part)
        assert area.fill == ground
        left, top = area.points.min(axis=0)
        right, bottom = area.points.max(axis=0)
        size = words.size
        wide = measure(words.text, size, 0)
        start = words.x - {"start": 0, "middle": wide / 2, "end": wide}[words.anchor]
        assert left == pytest.approx(start - padding)
        assert right == pytest.approx(start + wide + padding)
        assert top < words.y - 0.6 * size
        assert bottom > words.y
        assert left >= 0
        assert right <= scene.width
        assert bottom <= scene.height
        assert scene.marks.index(area) < scene.marks.index(words)
    assert len(of(scene, Path, "own-note")) == 1
    assert of(scene, Path, "text") == []


def test_words_stand_for_numbers_at_ticks_alone_or_among_others():
    words = "words = [[40, 'few'], [80, 'many']]"
    alone = scene_of(("bars",), f"[axes.value]\n{words}", split=())
    assert [t for t in texts(alone, "value-axis") if t in ("few", "many", "60")] == ["few", "many"]
    among = scene_of(("bars",), f"[axes.value]\nticks = 20\n{words}", split=())
    shown = [t for t in texts(among, "value-axis") if t != "Length (mm)"]
    assert shown[:4] == ["20", "few", "60", "many"]
    heights = scene_of(("bars",), "[axes.height]\nwords = [[0, 'none'], [10, 'ten']]", split=())
    assert texts(heights, "height-axis")[:2] == ["none", "ten"]
    # A word between ticks has one of its own, and goes before the numbers that it would touch.
    between = "ticks = 20\nwords = [[57, 'a storm from the north'], [1e9, 'never']]"
    shown = texts(scene_of(("bars",), f"[axes.value]\n{between}", split=()), "value-axis")
    assert [t for t in shown if t != "Length (mm)"][:3] == ["20", "a storm from the north", "80"]
    heights = scene_of(("bars",), "[axes.height]\nticks = 10\nwords = [[3, 'few']]", split=())
    assert texts(heights, "height-axis")[:3] == ["0", "few", "10"]


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("words = [[1, 'a'], [1, 'b']]", "a finite number of its own"),
        ("words = [['x', 'a']]", "words"),
        ("words = {a = 'b'}", "pairs such as"),
    ],
)
def test_words_that_stand_for_no_number_are_refused(line, said):
    with pytest.raises(RecipeError, match=said):
        readings_of(("bars",), f"[axes.value]\n{line}")


# Tables of boxes


@pytest.mark.parametrize("upright", [True, False])
def test_a_table_of_boxes_lines_its_numbers_up_under_what_they_are(upright):
    text = (
        f"upright = {str(upright).lower()}\n[box]\nnumbers = ['n', 'mean', 'median']\n"
        "numbers_as = 'table'"
    )
    readings = readings_of(("box",), text)
    scene = build(readings, measure)
    words = of(scene, Text, "box")
    heads = [t for t in words if t.meaning.group is None]
    assert [t.text for t in heads] == ["n", "mean ± sd", "median"]
    for group in readings.groups:
        own = [t for t in words if t.meaning.group == group.index]
        held = VALUES[BAYS.codes == BAYS.levels.index(group.label)]
        assert own[0].text == "91"
        assert float(own[2].text) == pytest.approx(np.median(held), abs=0.06)
        mean, _, sd = own[1].text.partition(" ± ")
        assert float(mean) == pytest.approx(held.mean(), abs=0.06)
        assert float(sd) == pytest.approx(held.std(ddof=1), abs=0.06)
        for head, number in zip(heads, own, strict=True):
            assert (number.y == head.y) is upright
            assert (number.x == head.x) is not upright
    assert all(0 <= t.x <= scene.width and 0 < t.y < scene.height for t in words)


@pytest.mark.parametrize("page", ["3.5 x 9 cm", "4 x 9 cm", "16 x 9 cm"])
def test_numbers_over_boxes_are_no_wider_than_their_lane(page):
    text = "upright = true\n[box]\nnumbers = ['n', 'mean', 'median']"
    scene = build(readings_of(("box",), text), measure, size=Size.parse(page))
    words = [t for t in of(scene, Text, "box") if t.meaning.group is not None]
    narrowest = min(lane.last - lane.first for lane in scene.frame.lanes)
    assert words
    assert max(measure(t.text, t.size, 0) for t in words) <= narrowest


# Fills that vanish

BARE = "[look]\nsee_through = 0\noutline = 0\n[look.colours]\n'Length' = '#FFFFFF'"


def test_a_fill_as_the_paper_without_a_line_is_told_and_cured():
    readings = readings_of(("bars",), BARE, split=())
    notice = vanishing_notice(build(readings, measure), readings)
    assert notice.text.startswith("The fill of Length is as the paper")
    cured = read(notice.cure, readings.gathered)
    assert vanishing_notice(build(cured, measure), cured) is None


@pytest.mark.parametrize(
    ("forms", "text"),
    [
        (("bars",), ""),
        (("bars",), f"{BARE}\n[strokes.bars]\ncolour = '#333333'\nwidth = 1"),
        (("box",), BARE),
        (("bars",), "[look]\nbase = 'night'"),
        (("bars",), "[look]\nbase = 'ink'"),
    ],
)
def test_fills_that_are_seen_or_have_a_line_are_not_told(forms, text):
    readings = readings_of(forms, text, split=())
    assert vanishing_notice(build(readings, measure), readings) is None


# The lightest lines


def test_lines_that_are_nearly_as_light_as_the_paper_have_an_edge():
    text = "arrange = 'overlaid'\n[look]\npalette = 'kelp'\n[look.colours]\n'Ledge' = '#F5E6B8'"
    lines = of(scene_of(("curve",), text), Path, "curve")
    light = [line for line in lines if line.colour == "#F5E6B8"]
    assert len(light) == 1
    (edge,) = [
        m for m in lines if m.meaning == light[0].meaning and m.width == light[0].width + 1.0
    ]
    assert lines.index(edge) < lines.index(light[0])
    assert np.array_equal(edge.points, light[0].points)
    dark = [line for line in lines if line.meaning != light[0].meaning]
    assert len(dark) == 1
