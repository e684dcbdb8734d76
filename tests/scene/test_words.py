"""Words on the page: where they stand, how they are set, and that none is lost."""

import itertools

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.toml_text import read_recipe, write_recipe
from rhabdos.paint.fonts import measure
from rhabdos.scene.build import build
from rhabdos.scene.drawing_notices import texts_notice
from rhabdos.scene.marks import Area, Dots, Meaning, Path, Segments, Text
from rhabdos.scene.style.style import HOUSE
from rhabdos.scene.words.cover import Cover
from rhabdos.scene.words.label_places import Rect, placed_names, rect_of
from tests.conftest import set_of

pytestmark = pytest.mark.usefixtures("qapp")


def scene_of(text, *groups, show=""):
    split = 'split = ["Bay"]\n' if len(groups) > 1 else ""
    recipe = read_recipe(f'rhabdos = 1\n[show]\nvariables = ["Length"]\n{split}{show}\n{text}')
    assert read_recipe(write_recipe(recipe)) == recipe
    readings = read(recipe, set_of(*(groups or (np.arange(50.0).tolist(),))))
    return build(readings, measure)


def words(scene, part):
    return [m for m in scene.marks if isinstance(m, Text) and m.meaning and m.meaning.part == part]


def away(mark, frame, place):
    """How far a word is from an end of a frame, or from its middle."""
    rect = rect_of(mark, measure)
    at = {
        "left": rect.left - frame.left,
        "middle": (rect.left + rect.right) / 2 - (frame.left + frame.right) / 2,
        "right": rect.right - frame.right,
    }
    return abs(at[place])


@pytest.mark.parametrize("place", ["left", "middle", "right"])
def test_a_title_stands_where_it_is_asked_for(place):
    scene = scene_of(f'[words]\ntitle = "Shells"\n[words.title_style]\nplace = "{place}"')
    (title,) = words(scene, "title")
    assert away(title, scene.frame, place) < 0.5


def test_size_weight_slant_and_colour_are_as_asked():
    style = '[words.subtitle_style]\nsize = 14\nbold = true\nslant = true\ncolour = "#AA0000"'
    (subtitle,) = words(scene_of(f'[words]\nsubtitle = "By hand"\n{style}'), "subtitle")
    assert (subtitle.size, subtitle.bold, subtitle.slant) == (14, True, True)
    assert subtitle.colour == "#AA0000"


def test_what_stands_above_and_below_the_line_is_smaller_and_beside_its_word():
    scene = scene_of('[words]\nvalue_axis = "Area (m{up 2}), {slant n} of H{down 2}O"')
    runs = words(scene, "value-title")
    assert [run.text for run in runs] == ["Area (m", "2", "), ", "n", " of H", "2", "O"]
    assert runs[1].y < runs[0].y < runs[5].y
    assert runs[1].size < runs[0].size
    assert runs[3].slant
    for before, after in itertools.pairwise(runs):
        end = rect_of(before, measure).right
        assert abs(rect_of(after, measure).left - end) < 0.2


def test_a_standing_title_with_markup_runs_upwards():
    scene = scene_of('[words]\nheight_axis = "n{down i} of all"')
    runs = words(scene, "height-title")
    assert [run.text for run in runs] == ["n", "i", " of all"]
    assert runs[0].y > runs[1].y > runs[2].y
    assert all(run.angle == 90 for run in runs)


def test_long_words_wrap_and_the_frame_makes_room():
    long = "The length of every shell that was landed in the three bays, by hand, " * 4
    scene = scene_of(f'[words]\ntitle = "{long}"\nsubtitle = "{long}"\nnote = "{long}"')
    plain = scene_of("")
    assert len(words(scene, "title")) == 3
    assert len(words(scene, "subtitle")) == 3
    assert scene.frame.top > plain.frame.top + 60
    assert scene.frame.bottom < plain.frame.bottom - 15
    for mark in scene.marks:
        if isinstance(mark, Text):
            rect = rect_of(mark, measure)
            assert rect.left >= -0.5
            assert rect.right <= scene.width + 0.5


def test_names_of_levels_are_shown_as_asked_everywhere_and_keep_their_breaks():
    names = '[words.names]\nA = "Heron Sound\\n(north)"\nB = "Saltmere"'
    scene = scene_of(names, [1.0, 2, 3], [2.0, 3, 4], show='forms = ["box"]\nupright = false')
    shown = [m.text for m in words(scene, "lane")]
    assert "Heron Sound" in shown
    assert "(north)" in shown
    assert "A" not in shown
    over = scene_of(names, [1.0, 2, 3], [2.0, 3, 4], show='arrange = "overlaid"')
    first, second, other = words(over, "legend")
    assert [m.text.split("  ")[0] for m in (first, second, other)] == [
        "Heron Sound", "(north)", "Saltmere",
    ]  # fmt: skip
    assert first.x == second.x
    assert second.y > first.y + 8
    assert other.y == first.y
    assert second.meaning.level == "A"


STYLE = 'size = 12\nbold = true\nslant = true\ncolour = "#AA0000"'
TWO = ([1.0, 2, 3], [2.0, 3, 4])


@pytest.mark.parametrize(
    ("style", "part", "asked"),
    [
        ("levels_style", "legend", 'arrange = "overlaid"'),
        ("levels_style", "legend", 'forms = ["curve"]'),
        ("levels_style", "lane", 'forms = ["box"]'),
        ("levels_style", "lane", 'forms = ["box"]\nupright = false'),
        ("legend_title_style", "legend-title", '[legend]\ntitle = "Bays"\nplace = "right"'),
        ("legend_title_style", "factor", 'forms = ["box"]'),
        ("panels_style", "panel", '[panels]\nby = ["Bay"]'),
        ("numbers_style", "value-axis", ""),
        ("numbers_style", "value-axis", "upright = true"),
        ("numbers_style", "height-axis", ""),
    ],
)
def test_all_words_are_set_as_asked_and_have_room(style, part, asked):
    scene = scene_of(f"[words.{style}]\n{STYLE}", *TWO, show=asked)
    drawn = [m for m in words(scene, part) if not m.text.startswith("n = ")]
    assert drawn
    for mark in drawn:
        assert (mark.size, mark.bold, mark.slant, mark.colour) == (12, True, True, "#AA0000")
    usual = scene_of("", *TWO, show=asked)
    assert len(words(usual, part)) == len(words(scene, part))
    if part.endswith("-axis"):
        others = words(scene, "lane") + words(scene, "legend")
        assert all(m.size != 12 for m in others)


def test_points_are_points_however_large_other_letters_are():
    style = '[words]\ntitle = "T"\nsubtitle = "S"\n[words.title_style]\nsize = 18\n'
    look = '[look]\nbase = "slide"\noutline = 2\n'
    scene = scene_of(style + look)
    (title,), (subtitle,) = words(scene, "title"), words(scene, "subtitle")
    assert title.size * scene.letters == pytest.approx(18)
    assert subtitle.size * scene.letters > 12
    outlines = sorted({m.width for m in scene.marks if isinstance(m, Path)})
    assert outlines == pytest.approx([2 / scene.letters])


@pytest.mark.parametrize("place", ["left", "middle", "right"])
def test_names_of_panels_stand_where_they_are_asked_for(place):
    style = f'[panels]\nby = ["Bay"]\n[words.panels_style]\nplace = "{place}"'
    scene = scene_of(style, *TWO).frames
    named = [m for m in words(scene_of(style, *TWO), "panel") if not m.text.startswith("n =")]
    for frame, name in zip(scene, named, strict=True):
        assert away(name, frame, place) < 0.5


def test_a_title_over_a_column_of_levels_may_stand_at_its_right():
    def ends(place):
        legend = '[legend]\nplace = "right"\ntitle = "Bay"'
        style = f'[words.legend_title_style]\nplace = "{place}"'
        scene = scene_of(f"{legend}\n{style}", *TWO)
        (title,) = words(scene, "legend-title")
        entry = max(rect_of(m, measure).right for m in words(scene, "legend"))
        return rect_of(title, measure).right - entry

    assert ends("right") == pytest.approx(0, abs=0.2)
    assert ends("left") < -10


@pytest.mark.parametrize(
    "asked", ["", 'forms = ["curve"]', 'forms = ["box"]', '[panels]\nby = ["Bay"]']
)
def test_names_hold_markup_and_the_data_do_not(asked):
    names = '[words.names]\nA = "H{down 2}O {mu}"'
    scene = scene_of(names, *TWO, show=asked)
    text = "".join(m.text for m in scene.marks if isinstance(m, Text))
    assert "{" not in text
    low, *_ = [m for m in scene.marks if isinstance(m, Text) and m.text == "2" and m.size < 6.5]
    beside = [m for m in scene.marks if isinstance(m, Text) and m.text == "H"]
    assert low.y > beside[0].y


def test_braces_in_the_data_are_letters():
    values = NumberColumn("v", label="{mu} {n}", values=np.arange(20.0))
    codes = np.repeat([0, 1], 10).astype(np.int8)
    bays = CategoryColumn("g", label="{bold g}", codes=codes, levels=("{mu}", "{up 2}}"))
    recipe = read_recipe('rhabdos = 1\n[show]\nvariables = ["v"]\nsplit = ["g"]\nforms = ["box"]')
    gathered = gather(Table("t", (values, bays)), recipe.show.variables, recipe.factors)
    scene = build(read(recipe, gathered), measure)
    shown = {m.text for m in scene.marks if isinstance(m, Text)}
    assert {"{mu} {n}", "{bold g}", "{mu}", "{up 2}}"} <= shown


def test_a_text_in_the_figure_moves_with_the_axis():
    text = '[[text]]\ntext = "here"\nvalue = 20\nshare = 0.5\n'
    scene = scene_of(text)
    (mark,) = words(scene, "text")
    assert mark.x == pytest.approx(scene.frame.along(20.0))
    moved = scene_of(text + "[axes.value]\nfrom = 10\nto = 30")
    (mark,) = words(moved, "text")
    assert mark.x == pytest.approx(moved.frame.along(20.0))
    assert words(scene_of(text + "[axes.value]\nfrom = 25"), "text") == []


def test_an_arrow_points_to_its_value_and_height_and_does_not_cross_its_text():
    text = '[[text]]\ntext = "peak"\nvalue = 10\nheight = 8\narrow = {value = 30, height = 4}\n'
    scene = scene_of(text + "[bins]\nwidth = 5\nstart = 0\n[axes.height]\nto = 10")
    frame = scene.frame
    (head,) = [m for m in scene.marks if isinstance(m, Area) and m.meaning.part == "text"]
    tip = head.points[0]
    assert tip.tolist() == pytest.approx([frame.along(30.0), frame.band.at(4.0)])
    (line,) = [m for m in scene.marks if isinstance(m, Segments) and m.meaning
               and m.meaning.part == "text"]  # fmt: skip
    rect = rect_of(words(scene, "text")[0], measure)
    x, y = line.lines[0][:2]
    assert not (rect.left < x < rect.right and rect.top < y < rect.bottom)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("value = 20", None),
        ("value = 20\narrow = {value = 20.1, share = 0.9}", None),  # too near to be drawn
        ("value = 99", "“peak” at 99 mm"),
        ("value = -1", "“peak” at −1 mm"),
        ('value = 20\npanel = "Nowhere"', "“peak” at 20 mm in the panel “Nowhere”"),
        ("value = 20\narrow = {value = 99}", "the arrow of “peak” to 99 mm"),
    ],
)
def test_texts_and_arrows_that_stand_nowhere_are_told(text, told):
    recipe = read_recipe(
        f'rhabdos = 1\n[show]\nvariables = ["Length"]\n[[text]]\ntext = "peak"\n{text}'
    )
    readings = read(recipe, set_of(np.arange(50.0).tolist()))
    notice = texts_notice(build(readings, measure), readings)
    assert (notice is None) == (told is None)
    if told:
        assert f"does not reach there: {told}. Move" in notice.text


@pytest.mark.parametrize("value", [0.0, 49.9])
def test_a_text_at_the_edge_stays_within_the_frame(value):
    scene = scene_of(f'[[text]]\ntext = "at the very edge"\nvalue = {value}\nshare = 1.0\n')
    rect = rect_of(words(scene, "text")[0], measure)
    assert rect.left >= scene.frame.left
    assert rect.right <= scene.frame.right
    assert rect.top >= scene.frame.top - 1


def test_names_of_panels_keep_their_breaks_and_have_room():
    names = '[panels]\nby = ["Bay"]\n[words.names]\nA = "Heron Sound\\n(north)"'
    recipe = read_recipe(f'rhabdos = 1\n[show]\nvariables = ["Length"]\n{names}')
    scene = build(read(recipe, set_of([1.0, 2, 3], [2.0, 3, 4])), measure)
    first, second, other = sorted(
        (m for m in words(scene, "panel") if not m.text.startswith("n =")), key=lambda m: (m.x, m.y)
    )
    assert [first.text, second.text, other.text] == ["Heron Sound", "(north)", "B"]
    assert first.y < second.y < scene.frames[0].top
    assert other.y == second.y
    assert rect_of(first, measure).bottom <= rect_of(second, measure).top + 1


TITLE = '[words]\ntitle = "{n} shells; {mean} on average; {width} wide"\n[bins]\nwidth = 2.5'


@pytest.mark.parametrize(
    ("show", "text", "groups"),
    [
        ('forms = ["bars"]', f"{TITLE}\n[lines]\nmean = true\nmedian = true", 1),
        ('forms = ["bars"]\narrange = "lanes"', TITLE, 2),
        ('forms = ["bars"]', f'{TITLE}\n[panels]\nby = ["Bay"]', 2),
        ('forms = ["bars"]', f'{TITLE}\n[bars]\nlabels = "percent"\n[axes.height]\nto = 1500', 1),
        (
            'forms = ["box", "points"]',
            '[words]\ntitle = "{sd of A}"\n[box]\nnumbers = ["n", "mean", "median"]\nnames = "value"',
            2,
        ),
    ],
)
def test_all_numbers_of_a_figure_are_written_with_the_same_marks(show, text, groups):
    values = np.linspace(0.25, 99.75, 1500).tolist()
    of = [[*values, 201.25], [*values[40:], 301.75]][:groups]
    plain = [m.text for m in scene_of(text, *of, show=show).marks if isinstance(m, Text)]
    scene = scene_of(f'{text}\n[axes.value]\ndecimal = ","', *of, show=show)
    with_comma = [m.text for m in scene.marks if isinstance(m, Text)]
    assert with_comma == [
        t.translate(str.maketrans(",.", ".,")) if any(map(str.isdigit, t)) else t for t in plain
    ]
    numbers = [t for t in plain if "," in t or "." in t]
    assert any("1,5" in t for t in numbers)
    assert any("." in t for t in numbers)


def beside(dots, room=None, taken=()):
    """The names that are written beside dots, and where."""
    room = room or Rect(-100.0, -100.0, 100.0, 100.0)
    return placed_names(dots, 2.0, taken, room, Meaning("box"), measure, HOUSE)


def test_a_name_beside_a_dot_takes_its_room_from_the_next():
    alone, both = beside([(0.0, 0.0, "ab")]), beside([(0.0, 0.0, "ab"), (4.5, 0.0, "cd")])
    assert [text.text for text in alone] == ["ab"]
    rects = [rect_of(text, measure) for text in both]
    assert not any(a.meets(b) for a, b in itertools.combinations(rects, 2))
    crowded = [(x / 2, 0.0, f"n{x}") for x in range(40)]
    rects = [rect_of(text, measure) for text in beside(crowded)]
    assert 0 < len(rects) < 40, "some give way"
    assert not any(a.meets(b) for a, b in itertools.combinations(rects, 2))


def test_dots_without_a_name_and_what_is_taken_keep_names_away():
    free = beside([(0.0, 0.0, "ab")])[0]
    over = beside([(0.0, 0.0, "ab"), (free.x + 3.0, 0.0, "")])
    assert all(
        not rect_of(text, measure).meets(Rect(free.x + 1, -2.0, free.x + 5, 2.0)) for text in over
    )
    everything = Rect(-99.0, -99.0, 99.0, 99.0)
    assert beside([(0.0, 0.0, "ab")], taken=(everything,)) == []
    assert beside([(0.0, 0.0, "ab")], room=Rect(-1.0, -1.0, 1.0, 1.0)) == []


@pytest.mark.parametrize("angle", [0.0, 30.0, 45.0, 90.0, 135.0])
@pytest.mark.parametrize(("anchor", "share"), [("start", 0.0), ("middle", 0.5), ("end", 1.0)])
def test_the_rectangle_of_a_text_holds_its_turned_letters_and_no_more(angle, anchor, share):
    def wide(_text, size, _face):
        return 5 * size

    text = Text(40.0, 70.0, "Heron", 10.0, anchor, "#000000", None, angle=angle)
    along = np.array([-share, 1 - share]) * 50
    upward = np.array([-2.2, 7.4])  # beneath the base line and over it
    # Anticlockwise about the anchor, on a page whose y goes down.
    corners = np.array([a + 1j * up for a in along for up in upward]) * np.exp(
        1j * np.radians(angle)
    )
    xs, ys = 40 + corners.real, 70 - corners.imag
    found = rect_of(text, wide)
    assert (found.left, found.right) == pytest.approx((xs.min(), xs.max()))
    assert (found.top, found.bottom) == pytest.approx((ys.min(), ys.max()))


def test_a_place_is_free_where_neither_fills_nor_lines_nor_dots_lie():
    square = np.array([[10.0, 10], [60, 10], [60, 60], [10, 60]])
    line = np.array([[100.0, 0, 100, 90]])
    cover = Cover(
        [
            Area(square, "#123456", 1.0, Meaning("bars")),
            Segments(line, "#123456", 1.0, 1.0, Meaning("lines")),
            Dots(np.array([[150.0, 40.0]]), "disc", 8.0, "#123456", 1.0, Meaning("points")),
        ]
    )
    for rect, free in (
        (Rect(30, 30, 40, 40), False),  # within the fill
        (Rect(55, 30, 70, 40), False),  # over its edge
        (Rect(70, 30, 90, 40), True),
        (Rect(95, 30, 105, 40), False),
        (Rect(145, 35, 149, 45), False),
        (Rect(160, 35, 170, 45), True),
        (Rect(70, 200, 400, 300), True),
    ):
        assert cover.free(rect) == free, rect
