"""Lines of each form by themselves: what is asked for is drawn, and nothing else is."""

import itertools

import numpy as np
import pytest

from rhabdos.data.demo import demo_table
from rhabdos.data.gathering import gather
from rhabdos.figure.forms.read import read
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.recipe.recipe import Boxes, Groups, Recipe, Show
from rhabdos.figure.recipe.recipe_look import Look
from rhabdos.figure.recipe.recipe_strokes import Stroke, Strokes
from rhabdos.figure.recipe.toml_text import RecipeError, read_recipe, write_recipe
from rhabdos.paint.export import image
from rhabdos.paint.svg import svg
from rhabdos.scene.build import build
from rhabdos.scene.marks import Area, Meaning, Path, Segments, Text
from tests.conftest import measure

TABLE = demo_table()


OWN = Stroke(colour="#AA00CC", width=3.25, dash="dotted")
FORM_OF = {
    "curve": "curve", "normal": "normal", "polygon": "polygon", "ecdf": "ecdf", "bars": "bars",
    "box": "box", "median": "box",
}  # fmt: skip


def drawn(strokes, *forms, split=("Bay",), **more):
    show = Show(variables=("Shell length",), split=split, forms=forms, arrange="overlaid")
    recipe = Recipe(show=show, strokes=strokes, **more)
    return build(read(recipe, gather(TABLE, "Shell length", *split)), measure)


def lines_of(scene):
    return [mark for mark in scene.marks if isinstance(mark, Path | Segments)]


@pytest.mark.parametrize("what", FORM_OF)
def test_a_stroke_of_its_own_is_drawn_and_no_other_line_changes(what):
    form = FORM_OF[what]
    usual = lines_of(drawn(Strokes(), form))
    own = lines_of(drawn(Strokes(**{what: OWN}), form))
    assert len(usual) == len(own)
    changed = [(a, b) for a, b in zip(usual, own, strict=True) if a.colour != b.colour]
    assert len(changed) in (3, 6)  # a line a group, or a box and its whiskers
    for before, after in changed:
        assert (after.colour, after.width) == ("#AA00CC", 3.25)
        assert after.dash == (1.2, 2.2)
        assert after.meaning == before.meaning
    same = [(a, b) for a, b in zip(usual, own, strict=True) if a.colour == b.colour]
    assert all((a.width, a.dash) == (b.width, b.dash) for a, b in same)


def test_one_form_has_its_line_and_another_over_it_the_usual_one():
    def dashes(strokes, *forms, **more):
        scene = drawn(strokes, *forms, split=(), **more)
        return {mark.meaning.part: mark.dash for mark in lines_of(scene) if mark.meaning}

    dotted = Strokes(normal=Stroke(dash="dotted"))
    assert dashes(dotted, "curve", "normal")["normal"] == (1.2, 2.2)
    assert dashes(dotted, "curve", "normal")["curve"] == ()
    # A density and a normal curve differ at sight without being asked to.
    assert dashes(Strokes(), "curve", "normal")["normal"] == (5.0, 3.0)
    assert dashes(Strokes(), "normal")["normal"] == ()
    assert dashes(Strokes(normal=Stroke(dash="whole")), "curve", "normal")["normal"] == ()
    assert dashes(Strokes(), "curve", "normal", look=Look(dashes="dotted"))["normal"] == (1.2, 2.2)


@pytest.mark.parametrize("dashes", ["whole", "dashed", "dotted", "by-group"])
def test_curves_of_the_same_values_are_told_apart_whatever_dashes_mean(dashes):
    for forms in (["curve", "normal"], ["polygon", "curve"], ["polygon", "normal"]):
        scene = drawn(Strokes(), *forms, look=Look(dashes=dashes))
        curves = [mark for mark in lines_of(scene) if mark.meaning and mark.meaning.group == 0]
        assert len({(line.width, line.dash) for line in curves}) == len(curves) == 2


def test_white_bars_may_have_a_dark_outline_each_dashed_as_the_look_says():
    look = Look(colours={"Saltmere": "#FFFFFF"}, dashes="by-group")
    scene = drawn(Strokes(bars=Stroke(colour="#1E2B2F")), "bars", look=look)
    outlines = [m for m in lines_of(scene) if m.meaning and m.meaning.part == "bars"]
    assert {mark.colour for mark in outlines} == {"#1E2B2F"}
    assert len({mark.dash for mark in outlines}) == 3


def test_a_group_behind_others_stays_quiet_whatever_its_line_is():
    groups = Groups(forward=("Saltmere",))
    scene = drawn(Strokes(curve=OWN), "curve", groups=groups)
    colours = [m.colour for m in lines_of(scene) if m.meaning and m.meaning.part == "curve"]
    assert colours.count("#AA00CC") == 1
    assert len(set(colours)) == 2


def test_a_width_in_points_stays_that_when_letters_grow():
    scene = drawn(Strokes(curve=OWN), "curve", look=Look(letters=2.0))
    widths = {m.width for m in lines_of(scene) if m.meaning and m.meaning.part == "curve"}
    assert np.allclose(np.array(list(widths)) * 2, 3.25)  # the page is drawn twice as large


def test_strokes_are_written_and_read_and_drawn_to_files(qapp):
    strokes = Strokes(curve=OWN, median=Stroke(width=4.0))
    show = Show(variables=("Shell length",), forms=("curve", "box"))
    recipe = Recipe(show=show, strokes=strokes)
    text = write_recipe(recipe)
    assert "[strokes.curve]" in text
    assert "[strokes.box]" not in text
    assert read_recipe(text) == recipe
    scene = build(read(recipe, gather(TABLE, "Shell length")), measure)
    assert 'stroke="#aa00cc" stroke-width="3.25"' in svg(scene).decode()


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ('[strokes.curve]\ncolour = "red"', "strokes.curve.colour is “red”, but must be a colour"),
        ("[strokes.curve]\nwidth = 11", "strokes.curve.width is 11, but must be points"),
        ('[strokes.box]\ndash = "wavy"', "strokes.box.dash is “wavy”, but must be whole, dashed"),
        ('[strokes.violin]\ndash = "whole"', "is not a key"),
    ],
)
def test_a_stroke_that_makes_no_sense_is_refused(text, words):
    with pytest.raises(RecipeError) as refused:
        read_recipe(f'rhabdos = 1\n[show]\nvariables = ["a"]\n{text}')
    assert words in str(refused.value)


@pytest.mark.parametrize("share", [0.2, 0.5, 1.0])
def test_boxes_take_the_share_of_their_strip_that_is_asked_for(share):
    usual, asked = (drawn(Strokes(), "box", box=Boxes(share=s)) for s in (None, share))
    boxes = [[m.points for m in scene.marks if is_box(m)] for scene in (usual, asked)]
    across = 0 if usual.frame.upright else 1
    assert len(boxes[0]) == len(boxes[1]) == 3
    for before, after in zip(*boxes, strict=True):
        wide = np.ptp(after[:, across]) / np.ptp(before[:, across])
        assert wide == pytest.approx(share / 0.86)
        assert np.allclose(after[:, 1 - across], before[:, 1 - across])  # the values stay


def is_box(mark):
    return isinstance(mark, Area) and mark.meaning == Meaning("box", mark.meaning.group)


@pytest.mark.parametrize(
    ("show", "panels"),
    [
        ({"split": ("Bay",), "arrange": "overlaid"}, ()),
        ({"split": ("Bay",), "arrange": "lanes"}, ()),
        ({"split": ("Bay",), "forms": ("box",)}, ()),
        ({"split": ("Bay",)}, ("Season",)),
        ({"split": ()}, ()),
        ({"split": (), "upright": True}, ("Bay",)),
    ],
)
def test_no_n_is_written_anywhere_where_the_look_takes_it_off(show, panels):
    def words(look):
        recipe = Recipe(show=Show(variables=("Shell length",), **show), look=look)
        recipe = recipe.paneled(by=panels)
        readings = read(recipe, samples_for(recipe, TABLE))
        return [m.text for m in build(readings, measure).marks if isinstance(m, Text)]

    usual, without = words(Look()), words(Look(sizes=False))
    assert any("n = " in text for text in usual)
    assert not any("n = " in text for text in without)
    stripped = {text.partition("  n = ")[0] for text in usual if not text.startswith("n = ")}
    assert stripped <= set(without) | {text for text in stripped if text.isdigit()}


@pytest.mark.parametrize(("what", "form"), [("box", "box"), ("median", "box"), ("bars", "bars")])
def test_a_line_without_width_is_not_painted_as_it_is_not_in_an_svg(qapp, what, form):
    def red(width):
        stroke = Stroke(colour="#FF0000", width=width)
        picture = image(drawn(Strokes(**{what: stroke}), form), 96)
        places = itertools.product(range(picture.width()), range(picture.height()))
        return sum(picture.pixelColor(x, y).name() == "#ff0000" for x, y in places)

    assert red(3.0) > 20
    assert red(0.0) == 0
