"""Looks: what comes of them on the page, and what is said of palettes, measured by themselves."""

import itertools
import pathlib
import re

import pytest
from coloraide import Color

from rhabdos.errors import Refusal
from rhabdos.figure.forms.box import boxes
from rhabdos.figure.forms.curve import density_curves
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.dress import Dress, dress_of
from rhabdos.figure.recipe.plate import Plate
from rhabdos.figure.recipe.recipe import LegendDress
from rhabdos.figure.recipe.recipe_axes import AxesDress, AxisDress
from rhabdos.figure.recipe.recipe_look import BASES, PALETTES, Look, LookDress
from rhabdos.figure.recipe.recipe_words import BoxedStyle, LetterStyle, TextStyle, WordsDress
from rhabdos.figure.recipe.toml_text import (
    RecipeError,
    read_dress,
    read_recipe,
    write_dress,
    write_recipe,
)
from rhabdos.project import looks
from rhabdos.scene.build import build
from rhabdos.scene.marks import Area, Dots, Path, Segments, Swatch, Text
from rhabdos.scene.plate import plate_scene
from rhabdos.scene.style.look import brightness, colours_of, mix, style_of
from rhabdos.scene.style.palette import group_colours, more_readable, palette_colours, safety
from tests.conftest import measure, set_of

GROUPS = ([1.0, 2, 3, 3, 4], [2.0, 3, 4, 5, 5], [3.0, 4, 4, 5, 6])


def readings_of(look="", forms='"bars", "curve"', text=""):
    recipe = read_recipe(
        f'rhabdos = 1\n[show]\nvariables = ["Length"]\nsplit = ["Bay"]\nforms = [{forms}]\n'
        f"{text}\n[look]\n{look}"
    )
    return read(recipe, set_of(*GROUPS))


def scene_of(look="", forms='"bars", "curve"', text=""):
    return build(readings_of(look, forms, text), measure)


def of(scene, kind, part):
    return [m for m in scene.marks if isinstance(m, kind) and m.meaning and m.meaning.part == part]


def test_single_colours_are_given_by_level_and_the_others_keep_theirs():
    usual = colours_of(readings_of())
    own = colours_of(readings_of("[look.colours]\nB = '#AA0000'"))
    assert own == (usual[0], "#AA0000", usual[2])
    scene = scene_of("[look.colours]\nB = '#AA0000'")
    assert {m.fill for m in of(scene, Area, "bars")} == {usual[0], "#AA0000", usual[2]}


def test_widths_opacity_dashes_and_hatching_reach_the_marks():
    scene = scene_of(
        "outline = 2.5\ncurve = 3\nsee_through = 0.1\ndashes = 'by-group'\nhatching = true"
    )
    assert {m.width for m in of(scene, Path, "bars")} == {2.5}
    assert {m.width for m in of(scene, Path, "curve")} == {3.0}
    assert len({m.dash for m in of(scene, Path, "curve")}) == 3
    assert sorted(m.hatch for m in of(scene, Area, "bars")) == [1, 2, 3]
    assert {m.opacity for m in of(scene_of("see_through = 0.75", '"box"'), Area, "box")} == {0.25}


def test_points_have_the_shape_and_size_that_are_asked_for():
    scene = scene_of("point = 'square'\npoint_size = 5", '"points"')
    assert {(m.shape, m.size) for m in of(scene, Dots, "points")} == {("square", 5.0)}


@pytest.mark.parametrize("base", BASES)
def test_every_whole_look_can_be_read_on_its_paper(base):
    scene = scene_of(f"base = '{base}'", '"bars", "box"')
    for text in (m for m in scene.marks if isinstance(m, Text)):
        contrast = Color(text.colour).contrast(Color(scene.paper), method="wcag21")
        assert contrast >= 4.5, (base, text.text, text.colour)


def test_letters_grow_and_the_page_does_not():
    plain, large = scene_of(), scene_of("letters = 2")
    assert large.points == plain.points
    assert large.width == plain.width / 2
    assert of(large, Text, "value-title")[0].size * large.letters == 2 * 9.0


def test_a_change_of_look_sorts_and_curves_nothing_again():
    before = readings_of(forms='"bars", "curve", "box"')
    after = read(before.recipe.looking(palette="kelp").worded(title="Shells"), before.gathered)
    assert after.recipe.look.palette == "kelp"
    assert after.plan is before.plan
    assert boxes(after) is boxes(before)
    both = zip(density_curves(after), density_curves(before), strict=True)
    assert all(new is old for new, old in both)


@pytest.mark.parametrize("name", PALETTES)
@pytest.mark.parametrize("count", [2, 3, 5])
def test_what_is_said_of_a_palette_is_measured(name, count):
    colours = palette_colours(name, count)
    assert len(colours) == count
    shown = [Color(colour) for colour in colours]
    pairs = list(itertools.combinations(range(count), 2))
    worst = min(
        shown[a].filter(reader).delta_e(shown[b].filter(reader), method="2000")
        if reader
        else shown[a].delta_e(shown[b], method="2000")
        for reader in ("", "protan", "deutan", "tritan")
        for a, b in pairs
    )
    grey = min(abs(shown[a].convert("lab")["l"] - shown[b].convert("lab")["l"]) for a, b in pairs)
    assert safety(colours).colour_blind == (worst >= 15)
    assert safety(colours).grey == (grey >= 7)


@pytest.mark.parametrize("count", [1, 8, 9, 17, 30])
def test_there_are_as_many_colours_as_groups_and_the_first_stay(count):
    colours = group_colours(count)
    assert len(set(colours)) == len(colours) == count
    assert colours[:8] == group_colours(8)[:count]


def test_a_palette_of_one_colour_gives_it_to_all_groups():
    assert len(set(palette_colours("black", 5))) == 1
    assert len(palette_colours("black", 5)) == 5


def test_words_take_the_colour_that_is_read_more_easily():
    dark, light = "#1D2424", "#F7F8F6"
    for first, second in ((dark, light), (light, dark)):
        assert more_readable(first, second, "#FFFFFF") == dark
        assert more_readable(first, second, "#20306A") == light


@pytest.mark.parametrize("name", [name for name in PALETTES if name != "black"])
def test_three_groups_stay_apart_in_every_palette(name):
    assert safety(palette_colours(name, 3)).colour_blind
    assert len(set(palette_colours(name, 30))) == 30


def test_black_tells_groups_apart_by_hatching_alone():
    scene = scene_of("base = 'ink'", '"bars"')
    assert {m.fill for m in of(scene, Area, "bars")} == {"#000000"}
    assert len({m.hatch for m in of(scene, Area, "bars")}) == 3


@pytest.mark.parametrize(
    ("forms", "more"),
    [
        ('"outline"', ""), ('"curve"', ""), ('"polygon", "normal"', ""), ('"ecdf"', ""),
        ('"outline", "curve"', "[strokes.bars]\nwidth = 3"), ('"curve"', "[curve]\nfill = true"),
        ('"bars", "curve"', ""),
    ],
)  # fmt: skip
def test_in_black_the_legend_shows_of_each_group_what_it_has_in_the_figure(forms, more):
    scene = scene_of("base = 'ink'", forms, f"[legend]\nplace = 'above'\n{more}")
    meant = [mark for mark in scene.marks if mark.meaning]
    levels = [mark for mark in meant if mark.meaning.part == "legend"]
    areas, lines = ([m for m in meant if isinstance(m, kind)] for kind in (Area, Path))
    for group, level in enumerate("ABC"):
        (sample,) = (m for m in levels if m.meaning.level == level and not isinstance(m, Text))
        if isinstance(sample, Swatch):
            assert sample.hatch in {m.hatch for m in areas if m.meaning.group == group} - {0}
        else:
            drawn = {(m.width, m.dash) for m in lines if m.meaning.group == group}
            assert (sample.width, sample.dash) in drawn
    zones = [zone for zone in scene.zones if zone.meaning.part == "legend"]
    assert len({(zone.bottom - zone.top) for zone in zones if zone.meaning.level}) == 1


def test_mixing_and_brightness_are_what_they_say():
    assert mix("#000000", "#FFFFFF", 0.5) in ("#808080", "#7F7F7F")
    assert brightness("#FFFFFF") == pytest.approx(1.0)
    assert brightness("#000000") == 0.0


# Looks as files


WORN = Dress(
    look=LookDress(base="slide", palette="dusk", see_through=0.7, font="Serif"),
    words=WordsDress(
        title_style=TextStyle(size=20, place="right"), numbers_style=LetterStyle(bold=True)
    ),
    axes=AxesDress(value=AxisDress(decimal=",", grid=False), frame=("left",)),
    legend=LegendDress(place="below"),
)


def test_a_look_is_written_and_read_again():
    assert read_dress(write_dress(WORN)) == WORN
    assert write_dress(Dress()) == "rhabdos-look = 1\n"


def test_a_figure_takes_all_of_a_look_and_keeps_what_is_its_own():
    figure = read_recipe("""
rhabdos = 1
[show]
variables = ["v"]
[legend]
title = "Bays"
place = "none"
[axes]
aspect = 0.5
frame = ["top"]
[axes.value]
from = 3.0
grid = true
[axes.height]
thousands = " "
[look]
ink = "#333333"
[look.colours]
A = "#AA0000"
[words]
title = "Catch"
[words.title_style]
slant = true
[words.note_style]
slant = true
""")
    worn = WORN.on(figure)
    assert dress_of(worn) == WORN
    assert read_recipe(write_recipe(worn)) == worn
    assert (worn.words.title, worn.legend.title, worn.axes.aspect) == ("Catch", "Bays", 0.5)
    assert (worn.axes.value.low, worn.look.colours) == (3.0, {"A": "#AA0000"})
    assert worn.words.title_style == TextStyle(size=20, place="right")
    assert worn.words.note_style == BoxedStyle()  # as absent keys of the look say
    assert (worn.look.ink, worn.axes.height.thousands, worn.axes.frame) == (None, None, ("left",))


def test_every_key_of_a_look_is_documented_where_looks_are():
    text = pathlib.Path("docs/recipe.md").read_text(encoding="utf-8")
    told = text[text.index("### Looks as files") : text.index("## `[words]`")]
    for kind in (AxesDress, AxisDress, LegendDress):
        for key in kind.__struct_fields__:
            assert f"`{key}`" in told or f"[axes.{key}]" in told
    assert all(key.endswith("_style") for key in WordsDress.__struct_fields__)
    assert {*Look.__struct_fields__} - {*LookDress.__struct_fields__} == {"colours"}


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("[look]\npalette = 'reef'", "begins with the line “rhabdos-look = 1”"),
        ("rhabdos-look = 2", "begins with the line “rhabdos-look = 1”"),
        ("rhabdos-look = 1\n[look]\npalette = 'rainbow'", "look.palette is “rainbow”, but must be"),
        ("rhabdos-look = 1\n[look]\npalete = 'reef'", "Did you mean look.palette"),
        ("rhabdos-look = 1\n[look]\nink = 'red'", "must be a colour such as #1F838A"),
        ("rhabdos-look = 1\nlook = 3", "look is 3, but must be a table of base, palette"),
        ("rhabdos-look = 1\npalette = 'reef'", "Keys of the look are rhabdos-look, look, words"),
        ("rhabdos-look = 1\n[words]\ntitle = 'Catch'", "is not a key of a look"),
        ("rhabdos-look = 1\n[axes.value]\nfrom = 3", "axes.value.from (here 3) is not a key"),
        ("rhabdos-look = 1\n[axes.value]\nthousands = '.'\ndecimal = '.'", "same mark"),
        ("rhabdos-look = [", "is not valid TOML"),
        ("a = " + "[" * 5000, "too deep to follow"),
    ],
)
def test_a_damaged_look_is_refused_with_a_reason(text, sentence):
    with pytest.raises(RecipeError, match=re.escape(sentence)):
        read_dress(text)


@pytest.fixture
def folder(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    return tmp_path


def test_looks_are_kept_by_name_and_taken_away(folder):
    looks.save_look("Harbour at night", WORN)
    looks.save_look("Æbeltoft", Dress(look=LookDress(palette="kelp")))
    assert looks.look_names() == ["Harbour at night", "Æbeltoft"]
    assert looks.saved_look("Harbour at night") == WORN
    looks.forget_look("Harbour at night")
    assert looks.look_names() == ["Æbeltoft"]


@pytest.mark.parametrize("name", ["", "  ", "a/b", ".hidden", "x" * 81, "a\nb"])
def test_a_name_that_no_file_can_have_is_refused(folder, name):
    with pytest.raises(Refusal, match="no name for a look"):
        looks.save_look(name, Dress())


def test_new_figures_have_the_look_that_was_set_for_them(folder):
    assert looks.for_new() == Dress()
    looks.use_for_new(WORN)
    assert looks.for_new() == WORN
    (looks.looks_folder() / "new figures.txt").write_text("rhabdos-look = 1\n[look]\nbase = 'gone'")
    assert looks.for_new() == Dress()  # damaged: the log says so, and nothing fails
    looks.use_for_new(None)
    assert style_of(readings_of().recipe).letters == 1.0


def _contrast(one, other):
    return Color(one).contrast(Color(other), method="wcag21")


@pytest.mark.parametrize("look", ["house", "night", "paper", "ink", "slide"])
@pytest.mark.parametrize("ground", ["#FFF0BE", "#101418", "#8A8F8C", "#FFFFFF"])
def test_letters_are_readable_on_a_ground_of_their_own(look, ground):
    asked = f"""rhabdos = 1
[show]
variables = ["Length"]
[look]
base = "{look}"
[words]
note = "by hand"
[words.note_style]
ground = "{ground}"
[[text]]
text = "most of them"
value = 2.0
arrow = {{ value = 3.0 }}
[text.style]
ground = "{ground}"
"""
    scene = build(read(read_recipe(asked), set_of([1.0, 2, 3, 4, 5])), measure)
    written = [
        m for m in scene.marks if isinstance(m, Text) and m.text in ("by hand", "most of them")
    ]
    assert len(written) == 2
    style = style_of(read_recipe(asked))
    best = max(_contrast(colour, ground) for colour in (style.ink, style.paper))
    for mark in written:
        assert _contrast(mark.colour, ground) >= min(4.5, best) - 0.02
    (line,) = [
        m for m in scene.marks if isinstance(m, Segments) and m.meaning and m.meaning.part == "text"
    ]
    assert line.colour == style.ink


def test_a_dark_figure_on_a_light_page_has_its_own_paper():
    figures = [readings_of(f"base = '{base}'") for base in ("house", "night", "house")]
    page = plate_scene(Plate((0, 1, 2), 2, "20x16cm"), figures, measure).scene
    papers = [m for m in page.marks if isinstance(m, Area) and m.meaning.part.endswith(" paper")]
    (paper,) = papers
    night = style_of(figures[1].recipe)
    assert (paper.fill, paper.meaning.part) == (night.paper, "B paper")
    (left, top), (right, bottom) = paper.points.min(axis=0), paper.points.max(axis=0)
    after = page.marks[page.marks.index(paper) :]
    of_it = [
        m for m in after if isinstance(m, Text) and m.meaning.part.startswith(("B ", "letter B"))
    ]
    assert len(of_it) > 10
    for mark in of_it:
        assert left <= mark.x <= right
        assert top <= mark.y <= bottom
        assert _contrast(mark.colour, night.paper) > 3
    others = [m for m in page.marks if isinstance(m, Text) and m not in of_it]
    assert all(_contrast(mark.colour, page.paper) > 3 for mark in others)
