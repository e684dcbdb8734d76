"""What stands where: thin lanes, one colour for many groups, titles, ticks of logs, words in their places."""

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.toml_text import read_recipe
from rhabdos.paint.fonts import measure_for
from rhabdos.scene.build import build
from rhabdos.scene.drawing_notices import room_notice
from rhabdos.scene.marks import Area, Path, Segments, Swatch, Text
from rhabdos.scene.words.label_places import rect_of

pytestmark = pytest.mark.usefixtures("qapp")


def drawn(text, groups=3, rows=240, levels=None):
    values = np.random.default_rng(7).gamma(3.0, 9.0, rows)
    levels = tuple(levels or (f"Bay {at}" for at in range(groups)))
    codes = (np.arange(rows) % len(levels)).astype(np.int8)
    table = Table(
        "t",
        (
            NumberColumn("v", label="Mass", unit="g", values=values),
            CategoryColumn("g", label="Bay", codes=codes, levels=levels),
            CategoryColumn(
                "h",
                label="Season",
                codes=(np.arange(rows) // 3 % 2).astype(np.int8),
                levels=("wet", "dry"),
            ),
        ),
    )
    text = text.replace("[show]", '[show]\nvariables = ["v"]', 1)
    recipe = read_recipe(f"rhabdos = 1\n{text}")
    readings = read(recipe, gather(table, recipe.show.variables, recipe.factors))
    measure = measure_for(recipe)
    return readings, build(readings, measure), measure


def words(scene, part):
    return [m for m in scene.marks if isinstance(m, Text) and m.meaning and m.meaning.part == part]


def fills(scene):
    return {m.fill for m in scene.marks if isinstance(m, Area) and m.meaning.part == "bars"}


def test_thirty_lanes_have_the_top_tick_of_one_of_them_and_no_lone_zeros():
    _, scene, _ = drawn('[show]\nsplit = ["g"]', groups=30, rows=900)
    ticks = words(scene, "height-axis")
    assert len(ticks) == 1
    assert float(ticks[0].text) > 0
    assert ticks[0].y < scene.frame.top + 12
    _, scene, _ = drawn('[show]\nsplit = ["g"]\narrange = "lanes"', groups=3)
    assert [tick.text for tick in words(scene, "height-axis")].count("0") == 3


@pytest.mark.parametrize("named", ['split = ["g"]', 'split = ["g"]\n[panels]\nby = ["g"]'])
def test_past_eight_groups_that_are_named_one_colour_serves(named):
    assert len(fills(drawn(f"[show]\n{named}", groups=8, rows=320)[1])) == 8
    _, scene, _ = drawn(f"[show]\n{named}", groups=9, rows=360)
    assert len(fills(scene)) == 1
    assert not any(isinstance(mark, Swatch) for mark in scene.marks)
    asked = f"[show]\n{named}\n[look]\nmany_colours = true"
    assert len(fills(drawn(asked, groups=9, rows=360)[1])) == 9


def test_many_colours_stay_where_they_alone_tell_groups_apart():
    _, scene, _ = drawn('[show]\nsplit = ["g"]\narrange = "overlaid"', groups=9, rows=360)
    assert len(fills(scene)) == 9
    _, scene, _ = drawn('[show]\nsplit = ["h", "g"]', groups=9, rows=360)
    assert len(fills(scene)) == 9  # lanes name seasons, colours the bays
    own = '[show]\nsplit = ["g"]\n[look.colours]\n"Bay 3" = "#AA0000"'
    assert fills(drawn(own, groups=9, rows=360)[1]) > {"#AA0000"}


def test_the_title_of_heights_of_standing_lanes_stands_between_their_ticks_and_names():
    _, scene, _ = drawn('[show]\nsplit = ["g"]\narrange = "lanes"\nupright = true')
    (title,) = words(scene, "height-title")
    assert title.text == "Count"
    ticks, names = words(scene, "height-axis"), words(scene, "lane")
    assert max(tick.y for tick in ticks) < title.y < min(name.y for name in names)
    assert title.y - max(tick.y for tick in ticks) < 16


def test_a_second_axis_stands_in_lanes_and_on_both_sides_back_to_back():
    asked = 'of = "all"\n[axes.height]\nsecond = "percent"'
    _, scene, _ = drawn(f'[show]\nsplit = ["g"]\narrange = "lanes"\n{asked}')
    right = [m for m in words(scene, "height-axis") if m.x > scene.frame.right and not m.angle]
    assert len(right) >= 6
    _, scene, _ = drawn(f'[show]\nsplit = ["h"]\narrange = "back-to-back"\n{asked}')
    middle = scene.frame.lanes[0].heights[0].band.base
    right = [m for m in words(scene, "height-axis") if m.x > scene.frame.right and not m.angle]
    assert any(m.y < middle - 9 for m in right)
    assert any(m.y > middle + 9 for m in right)


def test_ticks_at_edges_equal_in_logs_have_the_digits_that_tell_them_apart():
    _, scene, _ = drawn('[show]\n[axes.value]\nscale = "log"\nticks = "edges"')
    labels = [m.text for m in words(scene, "value-axis") if m.text]
    assert labels
    assert all(len(label.replace(".", "")) <= 5 for label in labels)
    typed = "[show]\n[axes.value]\nticks = [10.125, 40.5]"
    assert [m.text for m in words(drawn(typed)[1], "value-axis")] == ["10.125", "40.500"]


def test_a_polygon_over_bins_equal_in_logs_has_corners_at_geometric_middles_and_feet_above_0():
    readings, scene, _ = drawn('[show]\nforms = ["polygon"]\n[axes.value]\nscale = "log"')
    edges = readings.edges.values
    (line,) = [m for m in scene.marks if isinstance(m, Path) and m.meaning.part == "bars"]
    xs = [scene.frame.value(x) for x in line.points[:, 0]]
    assert xs[1:-1] == pytest.approx(np.sqrt(edges[1:] * edges[:-1]).tolist(), rel=1e-6)
    ratio = edges[1] / edges[0]
    assert xs[0] == pytest.approx(edges[0] / ratio**0.5, rel=1e-6)
    assert xs[-1] == pytest.approx(edges[-1] * ratio**0.5, rel=1e-6)


def test_stacked_cumulative_curves_end_at_the_total_of_all():
    asked = '[show]\nsplit = ["g"]\nforms = ["curve"]\narrange = "stacked"\ncumulative = true'
    readings, scene, _ = drawn(asked)
    band = scene.frame.band
    tops = [
        max(band.height(y) for y in m.points[-3:, 1])
        for m in scene.marks
        if isinstance(m, Path) and m.meaning.part == "curve"
    ]
    sizes = np.cumsum([group.n for group in readings.groups])
    assert sorted(tops) == pytest.approx(sizes.tolist(), rel=3e-3)  # a page shows no more


@pytest.mark.parametrize("arrange", ["overlaid", "lanes"])
def test_words_at_lines_are_in_their_groups_colour_and_on_no_mark(arrange):
    asked = f'[show]\nsplit = ["g"]\narrange = "{arrange}"\nforms = ["bars", "curve"]'
    readings, scene, measure = drawn(f"{asked}\n[lines]\nmean = true\nmedian = true", groups=4)
    said = words(scene, "centre")
    assert len(said) == 8
    assert len({word.colour for word in said}) == 4
    lines = [
        m
        for m in scene.marks
        if isinstance(m, Segments) and m.meaning and m.meaning.part == "centre"
    ]
    for word in said:
        rect = rect_of(word, measure)
        for line in lines:
            x1, y1, _, y2 = line.lines[0]
            crosses = (
                rect.left < x1 < rect.right and min(y1, y2) < rect.bottom and max(y1, y2) > rect.top
            )
            assert not crosses
        own = readings.summaries[word.meaning.group]
        assert word.text in (f"mean {own.mean:.1f}", f"median {own.median:.1f}")


def test_a_slide_leaves_its_frame_room_on_a_small_page_and_tells_what_went():
    levels = [f"Upper pens {at}" for at in range(12)]
    asked = '[show]\nsplit = ["g"]\nforms = ["box"]\nupright = true\n[look]\nbase = "slide"'
    titled = (
        asked
        + '\n[words]\ntitle = "A title"\nsubtitle = "And a subtitle"\n[page]\nsize = "16x10cm"'
    )
    _, scene, _ = drawn(titled, levels=levels)
    frame = scene.frame
    assert frame.bottom - frame.top > 0.4 * scene.height
    without_n = not any(name.text.endswith("n = 20") for name in words(scene, "lane"))
    smaller = scene.letters < 1.45
    told = room_notice(scene).text
    assert without_n or smaller
    assert ("n beside names" in told) is without_n
    assert ("letters as large" in told) is smaller
    _, roomy, _ = drawn(titled.replace("16x10cm", "32x22cm"), levels=levels)
    assert room_notice(roomy) is None


def test_numbers_on_stacked_bars_stand_within_them_and_can_be_read():
    asked = '[show]\nsplit = ["g"]\narrange = "stacked"\n[bars]\ngap = 0.1\nlabels = "count"\n[bins]\ncount = 5'
    readings, scene, measure = drawn(asked)
    numbers = words(scene, "bars")
    assert len(numbers) > 6
    for number in numbers:
        rect = rect_of(number, measure)
        mine = [
            m for m in scene.marks
            if isinstance(m, Area) and (m.meaning.part, m.meaning.group) == ("bars", number.meaning.group)
        ]  # fmt: skip
        ys = mine[0].points[:, 1]
        assert ys.min() <= rect.top
        assert rect.bottom <= ys.max()
    assert sum(group.n for group in readings.groups) == 240


def test_letters_of_a_whole_look_are_smaller_on_pages_too_small_for_them_and_it_is_told():
    asked = '[show]\nsplit = ["g"]\n[look]\nbase = "slide"\n[words]\ntitle = "Two harvests hide"\nsubtitle = "in one bay"'
    _, small, _ = drawn(f'{asked}\n[page]\nsize = "8x6cm"')
    _, large, _ = drawn(f'{asked}\n[page]\nsize = "24x14cm"')
    assert 1 <= small.letters < large.letters == 1.45
    assert small.frame.bottom - small.frame.top > 0.4 * small.height
    assert "letters as large as the look has them" in room_notice(small).text
    _, typed, _ = drawn(
        f'{asked.replace("slide", "house")}\n[look]\nletters = 1.45\n[page]\nsize = "8x6cm"'.replace(
            '[look]\nbase = "house"\n', ""
        )
    )
    assert typed.letters == 1.45  # what is asked for stays
