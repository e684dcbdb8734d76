"""Plain charts: level bars and scatter, their numbers, recipes and pages; and the rows of parts."""

import itertools
import json

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, DateColumn, LabelColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table, VariableError
from rhabdos.figure.edits.part_rows import rows_between, rows_of_stop
from rhabdos.figure.edits.stops import Stop
from rhabdos.figure.forms.read import read
from rhabdos.figure.output.chart_numbers import chart_json, chart_tables
from rhabdos.figure.readings.between import between
from rhabdos.figure.readings.plain_chart_readings import (
    MOST_LEVELS,
    bars_told,
    chart_sentence,
    levels_reading,
    scatter_reading,
)
from rhabdos.figure.recipe.plain_charts import LevelBars, Scatter
from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.figure.recipe.toml_text import RecipeError, Work, read_work, write_work
from rhabdos.scene.marks import Area, Dots, Text
from rhabdos.scene.plain_charts import chart_scene
from tests.conftest import measure

CODES = np.array([1, 1, 0, 2, 1, -1, 0])
BAY = CategoryColumn(
    "Bay", codes=CODES, levels=("rack 2", "rack 10", "line"), missing_as={"blank": 1}
)
X = NumberColumn(
    "x", unit="mm", values=np.array([1.0, 2, 3, np.nan, 5, 6, 7]), missing_as={"blank": 1}
)
Y = NumberColumn("y", values=np.array([2.0, 4, np.nan, 8, 10, 12, 14]), missing_as={"blank": 1})
TABLE = Table("t", (BAY, X, Y))


@pytest.mark.parametrize(
    ("chart", "levels"),
    [
        (LevelBars(variable="Bay"), ["rack 2", "rack 10", "line"]),
        (LevelBars(variable="Bay", order="count"), ["rack 10", "rack 2", "line"]),
        (LevelBars(variable="Bay", order="name"), ["line", "rack 2", "rack 10"]),
        (LevelBars(variable="Bay", order="count", reverse=True), ["line", "rack 2", "rack 10"]),
    ],
)
def test_levels_are_counted_in_the_order_asked_for(chart, levels):
    reading = levels_reading(chart, TABLE)
    counts = {"rack 2": 2, "rack 10": 3, "line": 1}
    assert [(bar.level, bar.height) for bar in reading.bars] == [(v, counts[v]) for v in levels]
    assert sum(bar.share for bar in reading.bars) == pytest.approx(1)
    assert reading.missing == 1


def test_named_heights_are_added_up_by_level():
    reading = levels_reading(LevelBars(variable="Bay", heights="x"), TABLE)
    assert {bar.level: bar.height for bar in reading.bars} == {
        "rack 2": 10,
        "rack 10": 8,
        "line": 0,
    }
    assert reading.missing == 2
    below = NumberColumn("x", values=np.array([-1.0, 2, 3, 4, 5, 6, 7]))
    with pytest.raises(VariableError, match="negative"):
        levels_reading(LevelBars(variable="Bay", heights="x"), Table("t", (BAY, below)))
    days = DateColumn("x", values=np.arange(20_000.0, 20_007))
    with pytest.raises(VariableError, match="“x” holds dates, which do not add up"):
        levels_reading(LevelBars(variable="Bay", heights="x"), Table("t", (BAY, days)))


def test_bars_are_told_with_their_rows_and_shares_or_with_what_they_add_up_to():
    assert bars_told(LevelBars(variable="Bay"), TABLE) == (
        "rack 2: 2 rows, 33.3 %", "rack 10: 3 rows, 50.0 %", "line: 1 row, 16.7 %"
    )  # fmt: skip
    added = bars_told(LevelBars(variable="Bay", heights="x"), TABLE)
    assert added == ("rack 2: x 10 mm", "rack 10: x 8 mm", "line: x 0 mm")
    tenths = NumberColumn("x", unit="g", values=np.array([1234.1, 2, 3, 4, 5, 6, 4321.9]))
    added = bars_told(LevelBars(variable="Bay", heights="x"), Table("t", (BAY, tenths)))
    assert added == ("rack 2: x 4,324.9 g", "rack 10: x 1,241.1 g", "line: x 4.0 g")


def test_labels_are_bars_of_their_own_if_they_are_few():
    tag = LabelColumn("Tag", texts=["a", "b", "c"], distinct=3)
    reading = levels_reading(LevelBars(variable="Tag"), Table("t", (tag,)))
    assert [bar.level for bar in reading.bars] == ["a", "b", "c"]
    many = LabelColumn("Tag", texts=["a"], distinct=5000)
    with pytest.raises(VariableError, match="5,000 different labels"):
        levels_reading(LevelBars(variable="Tag"), Table("t", (many,)))


def test_more_levels_than_there_is_room_for_are_said():
    levels = tuple(f"l{i}" for i in range(100))
    wide = CategoryColumn("g", codes=np.arange(100), levels=levels)
    table = Table("t", (wide,))
    reading = levels_reading(LevelBars(variable="g"), table)
    assert (len(reading.bars), reading.more) == (MOST_LEVELS, 100 - MOST_LEVELS)
    texts = [
        m.text
        for m in chart_scene(LevelBars(variable="g"), table, measure).marks
        if isinstance(m, Text)
    ]
    assert "40 more levels not drawn" in texts


def test_a_scatter_has_the_rows_with_both_numbers_and_their_distributions():
    reading = scatter_reading(Scatter(x="x", y="y"), TABLE)
    assert reading.rows.tolist() == [0, 1, 4, 5, 6]
    assert reading.lacking == 2
    assert reading.x.values.tolist() == [1, 2, 5, 6, 7]
    for side in (reading.x, reading.y):
        assert side.counts.sum() == 5
        inside = np.histogram(side.values, side.edges)[0]
        assert inside.tolist() == side.counts.tolist()
    for other, words in (("Bay", "holds text"), ("x", "two different")):
        with pytest.raises(VariableError, match=words):
            scatter_reading(Scatter(x="x", y=other), TABLE)


def test_dots_lie_where_their_numbers_are_and_never_outnumber_the_page():
    rng = np.random.default_rng(1)
    table = Table(
        "t",
        (
            NumberColumn("a", values=rng.normal(size=200_000)),
            NumberColumn("b", values=rng.normal(size=200_000)),
        ),
    )
    scene = chart_scene(Scatter(x="a", y="b"), table, measure)
    (dots,) = [mark for mark in scene.marks if isinstance(mark, Dots)]
    assert len(dots.places) < 4 * scene.width * scene.height
    frame = scene.frame
    assert dots.places[:, 0].min() >= frame.left - 1
    assert dots.places[:, 1].max() <= frame.bottom + 1
    two = Table(
        "t",
        (
            NumberColumn("a", values=np.array([0.0, 10])),
            NumberColumn("b", values=np.array([5.0, 1])),
        ),
    )
    small = chart_scene(Scatter(x="a", y="b"), two, measure)
    (dots,) = [mark for mark in small.marks if isinstance(mark, Dots)]
    (left, high), (right, low) = sorted(dots.places.tolist())
    assert left < right
    assert high < low


def test_a_title_that_is_longer_than_its_frame_is_high_is_broken():
    def drawn(label):
        table = Table("t", (X, NumberColumn("y", label=label, values=Y.values)))
        scene = chart_scene(Scatter(x="x", y="y"), table, measure)
        turned = [m for m in scene.marks if isinstance(m, Text) and m.angle and m.text in label]
        return turned, scene.frame.bottom - scene.frame.top

    (short,), high = drawn("week of a year")
    a_letter = measure("a", short.size, short.bold)
    words = ("ab " * round(1.1 * high / a_letter / 3)).strip()
    turned, high = drawn(words)
    assert len(turned) == 2
    for line in turned:
        assert measure(line.text, line.size, line.bold) <= high


def test_bars_have_gaps_and_lengths_by_their_counts():
    scene = chart_scene(LevelBars(variable="Bay"), TABLE, measure)
    bars = [mark.points for mark in scene.marks if isinstance(mark, Area)]
    lengths = [float(np.ptp(points[:, 0])) for points in bars]
    assert lengths[1] / lengths[0] == pytest.approx(3 / 2)
    for upper, lower in itertools.pairwise(bars):
        assert upper[:, 1].max() < lower[:, 1].min()


def test_plain_charts_are_told_saved_and_read():
    chart = LevelBars(variable="Bay", order="count")
    assert (
        chart_sentence(chart, TABLE)
        == "How many rows have each bay, drawn as bars with gaps, by height."
    )
    assert "y against x" in chart_sentence(Scatter(x="x", y="y"), TABLE)
    for each in (chart, Scatter(x="x", y="y")):
        assert read_work(write_work(Work((), None, each))).chart == each
    recipe = Recipe(show=Show(variables=("x",)))
    assert read_work(write_work(Work((), recipe, chart))) == Work((), recipe, chart)
    with pytest.raises(RecipeError, match="order is “size”, but must be level, count or name"):
        read_work('rhabdos = 1\n[levels]\nvariable = "Bay"\norder = "size"\n')


DRESSED = LevelBars(
    variable="Bay",
    upright=True,
    title="Where {slant they} lay",
    note="Seven rows.",
    value_axis="Gear",
    height_axis="Rows",
    colour="#AA0000",
    colours={"line": "#00AA00"},
    numbers="percent",
    base="night",
    size="12x9cm",
)


def texts_of(scene, part):
    return [m.text for m in scene.marks if isinstance(m, Text) and m.meaning.part == part]


def test_words_colours_and_size_of_a_chart_are_drawn_and_kept():
    scene = chart_scene(DRESSED, TABLE, measure)
    assert "".join(texts_of(scene, "title")) == "Where they lay"
    assert texts_of(scene, "own-note") == ["Seven rows."]
    assert texts_of(scene, "value-title") == ["Gear"]
    assert texts_of(scene, "height-title") == ["Rows"]
    assert [round(s / 72 * 2.54, 2) for s in (scene.width, scene.height)] == [12.0, 9.0]
    colours = {m.meaning.level: m.fill for m in scene.marks if isinstance(m, Area)}
    assert [colours[level] for level in BAY.levels] == ["#AA0000", "#AA0000", "#00AA00"]
    assert scene.paper == "#141B1E"
    assert {"33.3 %", "50.0 %", "16.7 %"} <= set(texts_of(scene, "levels"))
    assert read_work(write_work(Work((), None, DRESSED))).chart == DRESSED


@pytest.mark.parametrize("chart", [LevelBars(variable="Bay"), Scatter(x="x", y="y")])
def test_an_empty_title_takes_the_usual_one_off(chart):
    bare = chart_scene(chart.changed(title="", value_axis="", height_axis=""), TABLE, measure)
    assert not [t for p in ("title", "value-title", "height-title") for t in texts_of(bare, p)]


def test_standing_bars_are_as_high_as_their_counts_and_numbers_give_way_to_room():
    scene = chart_scene(LevelBars(variable="Bay", upright=True), TABLE, measure)
    bars = {m.meaning.level: m.points for m in scene.marks if isinstance(m, Area)}
    feet = {float(points[:, 1].max()) for points in bars.values()}
    assert len(feet) == 1
    highs = {level: float(np.ptp(points[:, 1])) for level, points in bars.items()}
    assert highs["rack 10"] / highs["rack 2"] == pytest.approx(3 / 2)
    assert highs["rack 10"] / highs["line"] == pytest.approx(3)
    names = tuple(f"a long name of a level, number {i}" for i in range(40))
    many = CategoryColumn("g", codes=np.arange(400) % 40, levels=names)
    crowded = chart_scene(LevelBars(variable="g", upright=True), Table("t", (many,)), measure)
    texts = [m for m in crowded.marks if isinstance(m, Text) and m.meaning.part == "levels"]
    assert {text.angle for text in texts} == {90.0}
    assert len(texts) == 40
    for text in texts:
        assert text.y + measure(text.text, text.size, False) <= crowded.height


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ('size = "3"', "is no size"),
        ('colour = "redder"', "a colour such as"),
        ('numbers = "some"', "both, count, percent or none"),
        ('colours = {"a" = "x"}', "colours"),
    ],
)
def test_what_a_chart_cannot_be_is_refused_with_its_key(line, said):
    with pytest.raises(RecipeError, match=said):
        read_work(f'rhabdos = 1\n[levels]\nvariable = "Bay"\n{line}\n')


# Rows of parts

VALUES = np.array([1.0, 2, 2.5, 4, 4, 5, 6, 7.5, 8, np.nan])
GROUPS = np.array([0, 0, 1, 1, 0, 1, 0, 0, 1, 0])
FIGURE = Table(
    "t",
    (
        NumberColumn("v", unit="mm", values=VALUES, missing_as={"blank": 1}),
        CategoryColumn("g", codes=GROUPS, levels=("a", "b")),
    ),
)


@pytest.mark.parametrize("closed", ["left", "right"])
@pytest.mark.parametrize("group", [None, 0, 1])
def test_the_rows_of_every_bar_are_as_many_as_it_counts(closed, group):
    recipe = Recipe(
        show=Show(variables=("v",), split=("g",)), bins=Bins(edges=(1, 2, 4, 8), closed=closed)
    )
    readings = read(recipe, gather(FIGURE, "v", "g"))
    from rhabdos.figure.forms.bars import bars

    seen = []
    for place in range(3):
        edges = readings.edges.values
        stop = Stop("bars", None, float(edges[place] + edges[place + 1]) / 2)
        step = rows_of_stop(readings, stop, group)
        rows = np.flatnonzero(step.holds(FIGURE))
        counted = sum(
            int(bars(readings)[g].counts[place]) for g in ((0, 1) if group is None else (group,))
        )
        assert len(rows) == counted
        seen += rows.tolist()
    assert (
        len(seen)
        == len(set(seen))
        == sum(readings.groups[g].n for g in ((0, 1) if group is None else (group,)))
    )


def test_the_rows_of_a_range_and_what_it_says():
    readings = read(Recipe(show=Show(variables=("v",), split=("g",))), gather(FIGURE, "v", "g"))
    step = rows_between(readings, 2.0, 4.0, (0, 1))
    assert np.flatnonzero(step.holds(FIGURE)).tolist() == [1, 2, 3, 4]
    told = between(readings, (0, 1), 2.0, 4.0)
    assert (sum(each.within for each in told), sum(each.n for each in told)) == (4, 9)
    box = rows_of_stop(readings, Stop("box", 1, None), None)
    assert np.flatnonzero(box.holds(FIGURE)).tolist() == [2, 3, 5, 8]


def test_standardised_values_have_no_rows_by_their_range():
    recipe = Recipe(show=Show(variables=("v",), standardised=True))
    readings = read(recipe, gather(FIGURE, "v", standardised=True))
    assert rows_between(readings, 0.0, 1.0, (0,)) is None


# Numbers behind charts


def test_tables_of_levels_hold_every_level_and_the_rows_without_one():
    (name, made), *more = chart_tables(LevelBars(variable="Bay", order="count"), TABLE).items()
    assert (name, more) == ("Levels", [])
    table = made()
    assert table.columns == ("Bay", "count", "percent")
    assert [row[:2] for row in table.rows] == [
        ("rack 10", 3), ("rack 2", 2), ("line", 1), ("missing", 1)
    ]  # fmt: skip
    assert [row[2] for row in table.rows[:3]] == pytest.approx([50, 100 / 3, 100 / 6])
    many = MOST_LEVELS + 15
    levels = tuple(f"pen {i}" for i in range(many))
    long = Table("t", (CategoryColumn("Pen", codes=np.arange(many), levels=levels),))
    (made,) = chart_tables(LevelBars(variable="Pen"), long).values()
    assert [row[0] for row in made().rows] == list(levels)


def test_sums_of_a_number_are_named_by_it_and_leave_rows_without_it_out():
    (made,) = chart_tables(LevelBars(variable="Bay", heights="x"), TABLE).values()
    assert made().columns == ("Bay", "x", "percent")
    assert {level: height for level, height, _ in made().rows} == {
        "rack 2": 3 + 7, "rack 10": 1 + 2 + 5, "line": 0,
    }  # fmt: skip
    told = json.loads(chart_json(LevelBars(variable="Bay", heights="x"), TABLE))
    assert (told["variable"], told["heights"], told["missing"]) == ("Bay", "x", 2)
    assert sum(bar["share"] for bar in told["levels"]) == pytest.approx(1)


def test_numbers_of_a_scatter_are_those_of_the_rows_that_have_both():
    both = ~np.isnan(X.values) & ~np.isnan(Y.values)
    (made,) = chart_tables(Scatter(x="x", y="y"), TABLE).values()
    told = json.loads(chart_json(Scatter(x="x", y="y"), TABLE))
    for row, side, column in zip(made().rows, told["scatter"], (X, Y), strict=True):
        cells = dict(zip(made().columns, row, strict=True))
        values = column.values[both]
        assert (cells["n"], cells["missing either"], side["n"]) == (5, 2, 5)
        assert cells["mean"] == side["mean"] == pytest.approx(values.mean())
        assert cells["sd"] == side["sd"] == pytest.approx(values.std(ddof=1))
        assert cells["q3"] == side["q3"] == pytest.approx(np.percentile(values, 75))
        assert sum(side["bins"]["counts"]) == 5
    assert told["missing"] == 2


def test_a_chart_of_other_variables_keeps_its_look_and_lets_go_of_what_named_the_former_ones():
    kept = {"base": "ink", "size": "12 x 9 cm", "note": "Made up"}
    drawn = Scatter(x="a", y="b", dot=5.0, title="b by a", value_axis="A", height_axis="B", **kept)
    assert drawn.of("b", "a") == drawn.changed(x="b", y="a", value_axis="B", height_axis="A")
    assert drawn.of("a", "c") == Scatter(x="a", y="c", dot=5.0, value_axis="A", **kept)
    bars = LevelBars(variable="g", title="G", colours={"p": "#112233"}, upright=True, **kept)
    assert bars.of("h") == LevelBars(variable="h", upright=True, **kept)
