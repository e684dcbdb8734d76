"""Two thousand random figures: no two texts lie over one another, none leaves its page, and none is
covered or struck through by what is drawn."""

import numpy as np
import pytest
from msgspec import structs

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.table import Table
from rhabdos.figure.forms.read import read
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.recipe.toml_text import read_recipe
from rhabdos.paint.fonts import measure_for
from rhabdos.scene.build import build
from rhabdos.scene.drawing_notices import room_notice
from rhabdos.scene.marks import Area, Meaning, Path, Segments, Swatch, Text
from rhabdos.scene.words.label_places import rect_of
from tests.conftest import set_of
from tests.figures import random_figure
from tests.kept_figures import SEEDS
from tests.scene.layouts import corners, faults, figure, struck

pytestmark = pytest.mark.usefixtures("qapp")
PARTS, EACH = 16, 125
SHORT = 1  # parts that are drawn each time; all others with ``make long``


@pytest.mark.parametrize(
    "part",
    [*range(SHORT), *(pytest.param(part, marks=pytest.mark.long) for part in range(SHORT, PARTS))],
)
def test_no_words_overlap_leave_the_page_or_are_struck_through(part):
    drawn = 0
    for seed in range(part * EACH, (part + 1) * EACH):
        made = figure(seed)
        if made is None:
            continue
        recipe, readings = made
        measure = measure_for(recipe)
        scene = build(readings, measure)
        wrong = faults(scene, measure) + struck(scene, measure)
        assert not wrong, (seed, wrong[:5])
        drawn += 1
    assert drawn > EACH * 0.8


@pytest.mark.parametrize(
    ("count", "most_lost", "most_sparing"),
    [(130, 1, 11), pytest.param(400, 4, 24, marks=pytest.mark.long)],
)
def test_on_a_page_of_a_usual_size_hardly_any_words_give_way(count, most_lost, most_sparing):
    lost = sparing = 0
    for seed in range(count):
        made = figure(seed)
        if made is None:
            continue
        recipe, readings = made
        wide, high = (float(side) for side in recipe.page.size.removesuffix("cm").split("x"))
        if wide < 12 or high < 10 or len(readings.groups) > 30:
            continue
        scene = build(readings, measure_for(recipe))
        gone = set(scene.left_out) - {"value-axis", "centre", "box", "bars", "shift", "pairs"}
        lost += bool(gone - {"sizes", "letters"})
        sparing += bool(gone & {"sizes", "letters"})
    assert lost <= most_lost
    # With names of eighty letters, n and large letters give way first.
    assert sparing <= most_sparing


def words_of(scene, part):
    return [m.text for m in scene.marks if isinstance(m, Text) and m.meaning.part == part]


@pytest.mark.parametrize("shortest_first", [True, False])
def test_names_that_are_turned_have_the_room_of_the_longest(shortest_first):
    names = [f"P{i}" + " and more" * (i % 3) for i in range(40)]
    names.sort(key=len, reverse=not shortest_first)
    rng = np.random.default_rng(2)
    table = Table(
        "t",
        (
            NumberColumn("v", values=rng.normal(50, 9, 400)),
            CategoryColumn("pond", codes=np.arange(400) % 40, levels=names),
        ),
    )
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["v"]\nsplit = ["pond"]\nforms = ["box"]\nupright = true'
    )
    measure = measure_for(recipe)
    scene = build(read(recipe, samples_for(recipe, table)), measure)
    turned = [m for m in scene.marks if isinstance(m, Text) and m.angle and "P" in m.text]
    assert len(turned) == 40
    assert not faults(scene, measure) + struck(scene, measure)
    down = [corners(mark, measure)[:, 1] for mark in turned]
    assert min(places.min() for places in down) >= scene.frame.bottom
    assert max(places.max() for places in down) <= scene.height


def test_what_has_no_room_is_told():
    text = (
        'rhabdos = 1\n[show]\nvariables = ["Length"]\nsplit = ["Bay"]\n[words]\n'
        'title = "A title"\nsubtitle = "Which a page of three centimetres has no room for"\n'
        '[page]\nsize = "6x3cm"'
    )
    recipe = read_recipe(text)
    scene = build(read(recipe, set_of([1.0, 2, 3], [2.0, 3, 4])), measure_for(recipe))
    assert words_of(scene, "subtitle") == []
    assert "the subtitle" in room_notice(scene).text
    large = recipe.changed(page=recipe.page.changed(size="16x10cm"))
    scene = build(read(large, set_of([1.0, 2, 3], [2.0, 3, 4])), measure_for(large))
    assert words_of(scene, "subtitle")
    assert room_notice(scene) is None


def test_a_legend_goes_as_a_whole_with_its_swatches():
    for seed in range(300):
        made = figure(seed)
        if made is None:
            continue
        scene = build(made[1], measure_for(made[0]))
        if "legend" in scene.left_out:
            assert not [m for m in scene.marks if isinstance(m, Swatch)]
            return
    pytest.fail("no figure without room for its legend")


def test_a_legend_over_bars_keeps_the_names_of_forms_on_its_ground():
    readings = random_figure(329).readings()  # its bars and shades leave no corner free
    scene = build(readings, measure_for(readings.recipe))
    assert any(isinstance(m, Area) and m.meaning.part == "legend" for m in scene.marks)
    assert {"bars", "frequency polygon"} <= {m.text for m in scene.marks if isinstance(m, Text)}
    assert not scene.left_out


def test_legends_have_names_and_whatever_gives_way_is_named_in_the_notice():
    parts, named_forms = set(), 0
    for seed in {*SEEDS, *range(40)}:
        readings = random_figure(seed).readings()
        if readings is None:
            continue
        scene = build(readings, lambda text, size, _face: len(text) * size * 0.52)
        of_legend = [m for m in scene.marks if m.meaning and m.meaning.part in _OF_LEGEND]
        for part in _OF_LEGEND:
            drawn = [m for m in of_legend if m.meaning.part == part and not isinstance(m, Text)]
            names = [m for m in of_legend if m.meaning.part == part and isinstance(m, Text)]
            grounds = [m for m in drawn if isinstance(m, Area)]
            assert len(drawn) == len(grounds) or names, (seed, part)
        assert not (of_legend and not any(isinstance(m, Text) for m in of_legend)), seed
        named_forms += any(m.meaning.part == "legend-form" for m in of_legend)
        parts |= {m.meaning.part for m in scene.marks if isinstance(m, Text) and m.meaning}
    assert named_forms > 1
    assert len(parts) > 15
    for part in parts:
        told = room_notice(structs.replace(scene, left_out=(part,))).text
        assert "-" not in told
        assert f"for {part}." not in told


def test_what_slants_is_smoothed_and_what_is_not_lies_level_or_upright():
    slanting = set()
    for seed in range(0, 240, 5):
        readings = random_figure(seed).readings()
        scene = readings and build(readings, lambda text, size, _face: len(text) * size * 0.52)
        for mark in scene.marks if scene else ():
            if isinstance(mark, Segments):
                pieces = mark.lines[:, 2:] - mark.lines[:, :2]
            elif isinstance(mark, Path | Area) and len(mark.points):
                closed = mark.points[:1] if isinstance(mark, Area) else mark.points[:0]
                pieces = np.diff(np.concatenate([mark.points, closed]), axis=0)
            else:
                continue
            if mark.smooth:
                slanting.add(mark.meaning.part)
            else:
                assert np.abs(pieces).min(axis=1).max(initial=0) < 1e-6, (seed, mark.meaning)
    assert slanting >= {"curve", "normal", "pairs", "sway", "shift"}


_OF_LEGEND = ("legend", "legend-form")


@pytest.mark.parametrize("place", ["right", "top-left"])
def test_words_of_a_legend_in_a_column_begin_in_line(place):
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["Length"]\nsplit = ["Bay"]\n'
        f'forms = ["bars", "curve", "box"]\n[legend]\nplace = "{place}"\nforms = true\n'
        'title = "Bay"\n[page]\nsize = "20x14cm"'
    )
    readings = read(recipe, set_of([1.0, 1, 2, 3, 3, 4], [1.0, 1, 1, 2, 2, 3]))
    scene = build(readings, measure_for(recipe))
    words = [m for m in scene.marks if isinstance(m, Text) and m.meaning.part in _OF_LEGEND]
    assert [m.text.partition("  ")[0] for m in words] == ["A", "B", "bars", "density curve"]
    assert len({round(m.x, 3) for m in words}) == 1
    samples = [m for m in scene.marks if not isinstance(m, Text) and m.meaning in
               {mark.meaning for mark in words}]  # fmt: skip
    ends = [m.x + m.size if isinstance(m, Swatch) else m.lines[0][2] for m in samples
            if not isinstance(m, Area)]  # fmt: skip
    assert max(ends) < words[0].x
    (room,) = [z for z in scene.zones if z.meaning == Meaning("legend")]
    assert all(rect_of(m, measure_for(recipe)).right <= room.right + 0.01 for m in words)
