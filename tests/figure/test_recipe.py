"""Recipes: round trips, refusals, sizes, and edges as text."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhabdos.figure.forms.read import read
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.recipe.edge_text import read_edges, read_number, write_edges
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.recipe import Boxes, Page, Recipe, Show, Words
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.figure.recipe.toml_text import RecipeError, read_recipe, read_work, write_recipe
from rhabdos.stats.binning import BinningError
from rhabdos.stats.rules import RULES
from rhabdos.wording import exact
from tests.conftest import set_of

EXAMPLE = """
rhabdos = 1                     # version of the recipe format

[show]
variables = ["Shell length"]
split = ["Bay"]                 # may be absent
forms = ["bars"]
heights = "percent"             # count, percent, proportion, density
of = "group"                    # or "all"

[bins]                          # one of rule, count, width or edges
width = 4.0
start = 40.0
closed = "left"

[words]
title = "Two harvests hide in Saltmere"
"""

words = st.none() | st.text(
    st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"]), max_size=30
)
finite = st.floats(-1e12, 1e12)
bins = st.one_of(
    st.builds(
        Bins,
        rule=st.sampled_from([None, *RULES]),
        round=st.booleans(),
        closed=st.sampled_from(["left", "right"]),
    ),
    st.builds(Bins, count=st.integers(1, 10_000), start=st.none() | finite),
    st.builds(Bins, width=st.floats(1e-9, 1e9), start=st.none() | finite),
    st.builds(
        Bins,
        edges=st.lists(finite, min_size=2, max_size=9, unique=True).map(lambda e: tuple(sorted(e))),
    ),
)
recipes = st.builds(
    Recipe,
    show=st.builds(
        Show,
        variables=st.text(
            st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"]), max_size=20
        ).map(lambda t: (t,)),
        split=st.just(()) | st.just(("Bay",)),
        heights=st.sampled_from(["count", "percent", "proportion", "density"]),
        of=st.sampled_from(["group", "all"]),
    ),
    bins=bins,
    box=st.builds(
        Boxes,
        quartiles=st.sampled_from([*range(1, 10), "hinges"]),
        whiskers=st.one_of(st.floats(0, 9), st.just("range"), st.just((5.0, 95.0))),
        far=st.floats(0, 9),
    ),
    words=st.builds(Words, title=words, value_axis=words, height_axis=words),
    page=st.sampled_from([Page(), Page(size="6x4in")]),
)


@given(recipes)
def test_a_recipe_survives_being_written_and_read(recipe):
    assert read_recipe(write_recipe(recipe)) == recipe


def test_what_an_axis_is_near_to_goes_with_its_kind():
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["v"]\n[axes.value]\nscale = "arsinh"\nnear = 5'
    )
    assert recipe.with_value_axis(low=1.0).axes.value.near == 5
    assert recipe.with_value_axis(scale="arsinh").axes.value.near == 5
    assert recipe.with_value_axis(scale="log").axes.value.near is None


def test_the_example_reads_as_it_says():
    recipe = read_recipe(EXAMPLE)
    assert recipe.show.variables == ("Shell length",)
    assert recipe.show.split == ("Bay",)
    assert (recipe.bins.width, recipe.bins.start, recipe.bins.closed) == (4, 40, "left")
    assert recipe.words.title == "Two harvests hide in Saltmere"


def test_whole_numbers_will_do_for_decimals_and_split_may_be_absent():
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["a"]\n[bins]\nwidth = 4\nedges_ = 1\n'.replace(
            "edges_ = 1\n", ""
        )
    )
    assert recipe.bins.width == 4
    assert recipe.show.split == ()


BASE = 'rhabdos = 1\n[show]\nvariables = ["a"]\n'
WRONG = {
    "no TOML": ("a = [", "not valid TOML"),
    "no version": ('[show]\nvariables = ["a"]', "rhabdos is missing"),
    "a newer version": ("rhabdos = 2", "rhabdos is 2, but must be 1"),
    "nothing shown": ("rhabdos = 1", "show is missing"),
    "no variable": ("rhabdos = 1\n[show]\n", "show.variables is missing"),
    "a misspelled key": (
        BASE + "[bins]\nwidht = 3",
        r"bins\.widht \(here 3\).*Did you mean bins\.width\?",
    ),
    "an unknown table": (
        BASE + "[axis]\na = 1",
        r"axis \(here .*is not a key.*show, panels, groups, bins, curve, bars, box, points, lines, check, sway, pairs, compare, legend, axes, look, strokes, words, text, range, page",
    ),
    "a key of the longest table": (
        BASE + '[words]\n"' + "a" * 38 + '" = "' + "b" * 60 + '"',
        r"Keys of words are title, subtitle, note, .*, title_style, .* and \d more\.$",
    ),
    "text for a number": (
        BASE + '[bins]\nwidth = "wide"',
        r"bins\.width is “wide”, but must be a finite number above 0",
    ),
    "a number for text": (BASE + "[words]\ntitle = 3", r"words\.title is 3, but must be text"),
    "a negative width": (
        BASE + "[bins]\nwidth = -1",
        r"bins\.width is -1, but must be a finite number above 0",
    ),
    "an endless width": (
        BASE + "[bins]\nwidth = inf",
        r"bins\.width is inf\. It must be a finite number",
    ),
    "an endless start": (BASE + "[bins]\nwidth = 1\nstart = nan", r"bins\.start is nan"),
    "half a bin": (
        BASE + "[bins]\ncount = 4.5",
        r"bins\.count is 4\.5, but must be a whole number from 1",
    ),
    "no bin": (BASE + "[bins]\ncount = 0", r"bins\.count is 0, but must be a whole number from 1"),
    "two ways at once": (
        BASE + "[bins]\ncount = 4\nwidth = 3",
        r"bins\.width is 3\. It excludes count",
    ),
    "edges and a start": (
        BASE + "[bins]\nedges = [1, 2]\nstart = 0",
        r"bins\.start is 0\. It excludes edges",
    ),
    "falling edges": (
        BASE + "[bins]\nedges = [1, 3, 2]",
        r"bins\.edges is \[1, 3, 2\]\. Edges must increase",
    ),
    "a word among edges": (
        BASE + '[bins]\nedges = [1, "b"]',
        r'bins\.edges is \[1, "b"\], but must be a list',
    ),
    "an unknown rule": (
        BASE + '[bins]\nrule = "best"',
        r"bins\.rule is “best”, but must be automatic, square-root",
    ),
    "an unknown scale": (
        BASE + 'heights = "tall"',
        r"show\.heights is “tall”, but must be count, percent",
    ),
    "an unknown side": (
        BASE + '[bins]\nclosed = "both"',
        r"bins\.closed is “both”, but must be left or right",
    ),
    "an unknown form": (
        BASE + 'forms = ["cake"]',
        r'show\.forms is \["cake"\], but must be a list of forms: bars, outline, polygon, curve, normal, ecdf, violin, box, points',
    ),
    "a bandwidth of nothing": (
        BASE + "[curve]\nbandwidth = 0",
        r"curve\.bandwidth is 0\. A number must be above 0",
    ),
    "an unknown bandwidth": (
        BASE + '[curve]\nbandwidth = "best"',
        r"curve\.bandwidth is “best”, but must be a number above 0, silverman",
    ),
    "an unknown kernel": (
        BASE + '[curve]\nkernel = "round"',
        r"curve\.kernel is “round”, but must be gaussian, epanechnikov",
    ),
    "bounds the wrong way round": (
        BASE + "[curve]\nlower = 2\nupper = 1",
        r"curve\.upper is 1\. It must be above lower",
    ),
    "quartiles beyond the nine": (
        BASE + "[box]\nquartiles = 10",
        r"box\.quartiles is 10, but must be a definition from 1 to 9, or hinges",
    ),
    "an odd reach": (
        BASE + '[box]\nwhiskers = "long"',
        r"box\.whiskers is “long”, but must be a multiple of the IQR",
    ),
    "falling percentiles": (
        BASE + "[box]\nwhiskers = [95, 5]",
        r"box\.whiskers is \[95, 5\]\. Two percentiles must rise",
    ),
    "a negative reach": (BASE + "[box]\nwhiskers = -1", r"box\.whiskers is -1\. A multiple"),
    "no variables": (
        "rhabdos = 1\n[show]\nvariables = []",
        r"show\.variables is \[\], but must be a list of 1 to 60 variables",
    ),
    "a variable twice": (
        'rhabdos = 1\n[show]\nvariables = ["a", "a"]',
        r"show\.variables is .* names “a” twice",
    ),
    "three factors": (BASE + 'split = ["a", "b", "c"]', r"show\.split is .* at most two"),
    "an unknown order": (BASE + '[groups]\norder = "size"', r"groups\.order is “size”.*median"),
    "a free title": (BASE + '[panels]\nfree = ["title"]', r"panels\.free is .*value, height"),
    "a variable that is no list": (
        'rhabdos = 1\n[show]\nvariables = "a"',
        r"show\.variables is “a”, but must be a list",
    ),
    "bounds without room": (
        BASE + "[curve]\nlower = 2\nupper = 2",
        r"curve\.upper is 2\. It must be above lower",
    ),
    "no size": (BASE + '[page]\nsize = "big"', r"page\.size is “big”"),
    "a size for ants": (BASE + '[page]\nsize = "1x1mm"', r"page\.size is “1x1mm”.*too small"),
}


@pytest.mark.parametrize("case", WRONG)
def test_a_wrong_recipe_is_refused_with_path_value_and_what_is_allowed(case):
    text, sentence = WRONG[case]
    with pytest.raises(RecipeError, match=sentence):
        read_recipe(text, "r.toml")


@pytest.mark.parametrize(
    ("text", "edges"),
    [
        ("0, 5, 10", [0, 5, 10]),
        ("0, 5, 10 … 30", [0, 5, 10, 15, 20, 25, 30]),
        ("0 5 ... 20, 40", [0, 5, 10, 15, 20, 40]),
        ("40; 55; 60 .. 70", [40, 55, 60, 65, 70]),
        ("0,5; 1,5; 2,5", [0.5, 1.5, 2.5]),
        ("−10, 0, 1e2", [-10, 0, 100]),
        ("0, 0.1 … 0.5", [0, 0.1, 0.2, 0.3, 0.4, 0.5]),
        ("0, 2 × 10⁻⁶, 4 × 10⁻⁶ … 10⁻⁵", [0, 2e-6, 4e-6, 6e-6, 8e-6, 1e-5]),
        ("0; 2,5 × 10⁻⁶; 10^-5", [0, 2.5e-6, 1e-5]),
        ("1,000, 1,250 … 2,000", [1000, 1250, 1500, 1750, 2000]),
        ("0, 40,000, 1,060,000", [0, 40_000, 1_060_000]),
        ("10 000; 20\u202f000,5", [10_000, 20_000.5]),
        ("5,100,200, 300", [5, 100, 200, 300]),
        ("0 to 10⁶ by 2 × 10⁵", [0, 2e5, 4e5, 6e5, 8e5, 1e6]),
    ],
)
def test_edges_as_people_type_them(text, edges):
    assert list(read_edges(text)) == edges


@pytest.mark.parametrize(
    ("text", "reason"),
    [
        ("low, high", "“low” is not a number"),
        ("5", "at least two"),
        ("5, 4", "must increase"),
        ("40,000, 30,000", "must increase"),
        ("0, 5 … 61", "pass 61 by; the nearest edge before it is 60"),
        ("… 60", "two numbers"),
        ("0, 5 …", "the last edge"),
        ("0, 5 … 3", "never reach"),
        ("0, 0.0001 … 900", "at most"),
        ("", "at least two"),
    ],
)
def test_edges_that_make_no_sense(text, reason):
    with pytest.raises(BinningError, match=reason):
        read_edges(text)


@given(
    st.lists(st.decimals(-1000, 1000, places=1).map(float), min_size=2, max_size=12, unique=True)
)
def test_edges_survive_being_written_and_read(edges):
    edges = tuple(sorted(edges))
    assert read_edges(write_edges(edges)) == edges


def test_long_runs_of_edges_are_written_short():
    assert write_edges((0.0, 0.1, 0.2, 0.3, 0.4, 1.0, 2.0)) == "0, 0.1 … 0.4, 1, 2"


@pytest.mark.parametrize(
    ("text", "number"),
    [
        ("4", 4), ("4,5", 4.5), (" −2.5 ", -2.5), ("1e3", 1000), (".5", 0.5),
        ("1.2 × 10³⁰⁸", 1.2e308), ("−2,5 × 10⁻⁶", -2.5e-6), ("3*10^5", 3e5), ("2x10^-3", 2e-3),
        ("2·10^−3", 2e-3), ("10⁻¹²", 1e-12), ("12,500", 12_500), ("−1,234,567", -1_234_567),
        ("1,234.5", 1_234.5), ("1.234,5", 1_234.5), ("1.234.567", 1_234_567), ("10 000", 10_000),
        ("10’000,5", 10_000.5), ("0,125", 0.125), ("1.125", 1.125), ("1250,125", 1_250.125),
    ],
)  # fmt: skip
def test_numbers_as_people_type_them(text, number):
    assert read_number(text) == number


def test_what_may_be_thousands_or_decimals_is_as_the_figure_writes_numbers():
    assert [read_number(text, ",") for text in ("12,500", "1.234", "1,234.5")] == [
        12.5,
        1234,
        1234.5,
    ]
    field = next(each for each in PHRASES["value_axis"].settings if each.label == "To")
    english = read(Recipe(show=Show(variables=("Length",))), set_of([40.0, 90_000.0]))
    german = read(english.recipe.with_value_axis(decimal=","), set_of([40.0, 90_000.0]))
    assert [field.read("12,500", of) for of in (english, german)] == [12_500, 12.5]


@pytest.mark.parametrize(
    "text",
    [
        "", "four", "1e999", "nan", "inf", "4 mm", "1,2,3", "1,234,56", "1.234.5", "12 34", "--1",
        "110⁶", "1.10⁶", "16 × 10", "2 × 8⁶",
    ],
)  # fmt: skip
def test_what_is_no_number(text):
    assert read_number(text) is None


@given(st.floats(allow_nan=False, allow_infinity=False))
def test_numbers_are_read_as_they_are_written_with_twelve_digits(number):
    many = 999_999_999_999.5 <= abs(number) < 1e15  # that have more than twelve whole digits
    rounded = float(f"{number:.{14 if many else 11}e}")
    assert "e" not in exact(number)
    if abs(rounded) != float("inf"):
        assert read_number(exact(number)) == rounded


@pytest.mark.parametrize(
    ("text", "points"),
    [
        ("16x10cm", (453.54, 283.46)),
        ("6 × 4 in", (432, 288)),
        ("960x480px", (720, 360)),
        ("254*127 mm", (720, 360)),
    ],
)
def test_sizes(text, points):
    assert Size.parse(text).points() == pytest.approx(points, abs=0.01)


def test_pixels_are_taken_at_the_resolution():
    assert Size.parse("1600x1000px").points(dpi=400) == pytest.approx((288, 180))
    assert str(Size.parse("16x10cm").in_unit("px", 254)) == "1600x1000px"
    assert str(Size.parse("1600x1000px").in_unit("cm", 254)) == "16x10cm"
    assert str(Size.parse("16x10cm").in_unit("cm")) == "16x10cm"


@pytest.mark.parametrize("text", ["", "16", "16x10", "x10cm", "0x0cm", "900x900in", "1.2.3x4cm"])
def test_what_is_no_size(text):
    with pytest.raises(ValueError, match=r"no size|too small or too large"):
        Size.parse(text)


@pytest.mark.parametrize(
    "text",
    [
        '"0 to 60 by 5"',
        '"From 0 to 60 by 5"',
        '"0, 5 … 60"',
        "[0, 5, 10, 15, 20, 25, 30, 35, 40, 45, 50, 55, 60]",
    ],
)
def test_edges_in_a_recipe_may_be_a_sequence(text):
    recipe = read_recipe(f'rhabdos = 1\n[show]\nvariables = ["a"]\n[bins]\nedges = {text}')
    assert recipe.bins.edges == tuple(range(0, 61, 5))
    assert 'edges = "0, 5 … 60"' in write_recipe(recipe)
    assert read_recipe(write_recipe(recipe)) == recipe


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("0 to 60 by 7", "pass 60 by"),
        ("60 to 0 by 5", "never reach 0"),
        ("0 to x by 5", "“x” is not a number"),
    ],
)
def test_a_sequence_of_edges_that_makes_no_sense_is_refused_with_its_path(text, words):
    with pytest.raises(RecipeError, match=words) as refused:
        read_recipe(
            f'rhabdos = 1\n[show]\nvariables = ["a"]\n[bins]\nedges = "{text}"', "mine.toml"
        )
    assert str(refused.value).startswith(f"mine.toml: bins.edges is “{text}”.")


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (
            "[show]\nvariables = ['a']\n[compare]\nreference = 'b'\ncolour = 1\n",
            "compare.colour (here 1) is not a key",
        ),
        ("[show]\nvariables = ['a']\n[compare]\nreference = 3\n", "must be a level of the factor"),
        (
            "compare = 3\n[show]\nvariables = ['a']\n",
            "compare is 3, but must be a table of reference",
        ),
        ("prepare = [1]", "prepare is [1], but must be a list of tables"),
        ("prepare = [{step = 'keep'}, 3]", "prepare is [a table, 3], but must be a list of tables"),
        ("levels = [1]", "levels is [1], but must be a table, which begins with [levels]"),
        ("scatter = 'x'", "scatter is “x”, but must be a table, which begins with [scatter]"),
        ("[levels]\nvariable = 'a'\n[scatter]\n", "[levels] and [scatter], each of which is a"),
        ("[show]\nvariables = ['a']\nsplit = " + "[" * 1000 + "]" * 1000, "too deep to follow"),
        ("[show]\nvariables = ['a']\n[bins]\ncount = " + "9" * 5000, "over 400 digits"),
        ("[show]\nvariables = ['a']\n[bins]\ncount = 0x" + "f" * 5000, "over 400 digits"),
        ("[show]\nvariables = ['a']\nheights = '" + "x" * 1_000_000 + "'", "show.heights is “xxx"),
        ("[show]\nvariables = ['a']\nheights = '\u202ex\x9b'", "show.heights is “�x�”"),
        (
            "[show]\nvariables = ['a']\n[words]\ntitle = '" + "x" * 1001 + "'",
            "text of at most 1,000 letters",
        ),
        ("[show]\nvariables = ['" + "x" * 1001 + "']", "show.variables is"),
    ],
)
def test_a_recipe_that_is_meant_badly_is_refused_briefly(text, words):
    with pytest.raises(RecipeError) as refused:
        read_recipe(f"rhabdos = 1\n{text}")
    assert words in str(refused.value)
    assert len(str(refused.value)) <= 300


@pytest.mark.parametrize(
    ("where", "told"),
    [
        ('[{varaible = "x"}]', "where 1.varaible .* Did you mean where 1.variable?"),
        ('[{variable = "x", missing = true}, {}]', "where 2.variable is missing"),
        ('[{variable = "x"}, {variable = "x", to = [1]}]', r"where 2.to is \[1\], but must be a"),
        ("[3]", r"where is \[3\], but must be a list of one or more conditions"),
    ],
)
def test_a_condition_that_is_meant_badly_is_refused_with_its_place(where, told):
    with pytest.raises(RecipeError, match=told):
        read_work(f'rhabdos = 1\n[[prepare]]\nstep = "keep"\nwhere = {where}')


def test_parameters_that_are_no_numbers_are_refused_as_a_table():
    sample = '[{name = "a", parameters = {mean = "x"}}]'
    with pytest.raises(RecipeError, match="samples 1.parameters is .* a table of names and values"):
        read_work(f'rhabdos = 1\n[[prepare]]\nstep = "simulate"\nsamples = {sample}')
