"""What figures name follows, where variables and levels are called otherwise."""

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.preparing import prepared
from rhabdos.data.steps.naming import Describe, RenameLevels
from rhabdos.data.steps.recoding import Recode
from rhabdos.data.table import Table
from rhabdos.figure.forms.read import read
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.recipe.plain_charts import LevelBars, Scatter
from rhabdos.figure.recipe.recipe import Groups, Recipe, Show
from rhabdos.figure.recipe.toml_text import read_recipe
from rhabdos.project.document import Document, Figure
from rhabdos.project.following import following
from rhabdos.project.making import what_is_left

N = 24
TABLE = Table(
    "t",
    (
        NumberColumn("shell_length_mm", "Shell length", "mm", values=np.arange(N, dtype=float)),
        NumberColumn("wet_mass_g", "Wet mass", "g", values=np.arange(N) * 2.0),
        NumberColumn("n_of", "How many", values=np.ones(N)),
        CategoryColumn("bay_name", "Bay", codes=np.arange(N) % 2, levels=("North", "South")),
        CategoryColumn("tag", "Tag", codes=np.arange(N) // 2, levels=tuple(map(str, range(12)))),
    ),
)
BY_LABELS = """rhabdos = 1
[show]
variables = ["Shell length", "Wet mass"]
split = ["Bay"]
weight = "How many"
[groups]
hidden = ["Wet mass"]
[panels]
by = ["Tag"]
[box]
names = "Tag"
[compare]
reference = "North"
paired = "Tag"
[words.names]
"Shell length" = "Length"
[look.colours]
"Shell length" = "#112233"
"""


def document(chart=None):
    figures = (Figure(read_recipe(BY_LABELS)), Figure(read_recipe(BY_LABELS), "second"))
    return Document((), (), figures, 0, chart)


def test_figures_that_name_a_variable_by_its_label_keep_it_under_another_label():
    step = Describe(variable="Shell length", label="Length of the shell")
    after = following(document(), (step,), TABLE)
    assert [figure.name for figure in after.figures] == ["", "second"]
    for drawn in (figure.recipe for figure in after.figures):
        assert drawn.show.variables == ("shell_length_mm", "wet_mass_g")
        assert (drawn.show.split, drawn.show.weight) == (("bay_name",), "n_of")
        assert (drawn.panels.by, drawn.box.names, drawn.compare.paired) == (("tag",), "tag", "tag")
        assert drawn.words.names == {"Length of the shell": "Length"}
        assert drawn.look.colours == {"Length of the shell": "#112233"}
        assert drawn.groups.hidden == ("Wet mass",)
    table = prepared(TABLE, (step,))
    plain = after.figures[0].recipe.showing(weight=None).paneled(by=())
    before = document().figures[0].recipe.showing(weight=None).paneled(by=())
    now = read(plain, samples_for(plain, table))
    former = read(before, samples_for(before, TABLE))
    assert [group.n for group in now.groups] == [group.n for group in former.groups]
    assert now.variable.label == "Length of the shell"


@pytest.mark.parametrize(
    "step",
    [
        Describe(variable="shell_length_mm", unit="cm"),
        Describe(variable="Shell length", label="Shell length"),
        Describe(variable="Beak", label="Bill"),
        RenameLevels(variable="Beak", become={"North": "Up"}),
    ],
)
def test_what_is_called_as_before_stays_as_it_is(step):
    assert following(document(), (step,), TABLE) == document()


def test_a_label_that_is_taken_away_is_the_name_of_the_column():
    step = Describe(variable="Shell length", label=" ")
    drawn = following(document(), (step,), TABLE).recipe
    assert drawn.words.names == {"shell_length_mm": "Length"}


def test_a_level_that_is_put_in_the_place_of_another_is_followed_and_a_blank_is_not():
    step = Recode(variable="Bay", become={"North": "Up", "": "South", "East": "North"})
    drawn = following(document(), (step,), TABLE).recipe
    assert drawn.compare.reference == "Up"
    number = Recode(variable="Shell length", become={"North": "4"})
    assert following(document(), (number,), TABLE) == document()


def test_levels_are_renamed_only_where_they_make_groups_or_panels():
    step = RenameLevels(variable="Bay", become={"North": "Up"})
    other = document().with_recipe(read_recipe(BY_LABELS).showing(split=()).paneled(by=("Tag",)))
    after = following(other, (step,), TABLE)
    assert after.figures[0].recipe.compare.reference == "North"
    assert after.figures[1].recipe.compare.reference == "Up"


def test_plain_charts_follow_too():
    bars = LevelBars(variable="Bay", heights="Wet mass", colours={"North": "#AA0000"})
    step = RenameLevels(variable="bay_name", become={"North": "Up"})
    assert following(document(bars), (step,), TABLE).chart.colours == {"Up": "#AA0000"}
    elsewhere = RenameLevels(variable="tag", become={"North": "Up"})
    assert following(document(bars), (elsewhere,), TABLE).chart == bars
    label = Describe(variable="Bay", label="Where")
    named = following(document(bars), (label,), TABLE).chart
    assert (named.variable, named.heights) == ("bay_name", "wet_mass_g")
    scatter = Scatter(x="Shell length", y="Wet mass")
    named = following(document(scatter), (label,), TABLE).chart
    assert (named.x, named.y) == ("shell_length_mm", "wet_mass_g")


def test_numbers_that_make_groups_are_followed_by_their_names_and_stay_when_a_variable_goes():
    recipe = Recipe(
        show=Show(variables=("v", "gone"), split=("k",)), groups=Groups(order=("2", "1"))
    )
    columns = [NumberColumn(n, values=np.tile([1.0, 2.0], 9)) for n in "vk"]
    table, step = Table("t", tuple(columns)), RenameLevels(variable="k", become={"1": "one"})
    assert following(Document.of(None, recipe), (step,), table).recipe.groups.order == ("2", "one")
    assert what_is_left(recipe, table).show == Show(variables=("v",), split=("k",))
