"""What a figure tells is what it shows: titles, notices, numbers on bars, cards, rows, tables."""

import itertools
import re

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.edits.part_rows import rows_of_stop
from rhabdos.figure.edits.stops import Stop, card_of
from rhabdos.figure.forms.bars import labels_of
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.tables import NumberTable, as_csv
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.readings.between import between
from rhabdos.figure.recipe.toml_text import read_recipe
from rhabdos.figure.words.naming import usual_height_title
from rhabdos.figure.words.placeholders import stands_in
from tests.kept_figures import told_of

VALUES = np.array([1.0, 2, 2, 3, 5, 8, 9, 4, 6, 6, 7, 12, 20, 40])
GROUPS = np.array([0] * 7 + [1] * 7, dtype=np.int8)
TABLE = Table(
    "t",
    (
        NumberColumn("v", label="Mass", unit="g", values=VALUES),
        CategoryColumn("g", label="Bay", codes=GROUPS, levels=("A", "B")),
    ),
)


def figure(text, table=TABLE):
    text = text if "[show]" in text else f"[show]\n{text}"
    text = text.replace("[show]", '[show]\nvariables = ["v"]', 1)
    recipe = read_recipe(f"rhabdos = 1\n{text}")
    return read(recipe, gather(table, recipe.show.variables, recipe.factors))


LOG = '\n[axes.value]\nscale = "log"'


@pytest.mark.parametrize(
    ("asked", "title"),
    [
        ('heights = "density"', "Density (per g)"),
        ('split = ["g"]\nheights = "density"', "Density of each bay (per g)"),
        ('split = ["g"]\nheights = "density"\nof = "all"', "Density of all (per g)"),
        ('split = ["g"]\nforms = ["ecdf"]', "Cumulative count"),
        ('split = ["g"]\nforms = ["ecdf"]\nheights = "percent"', "Cumulative percent of each bay"),
        ('forms = ["bars", "ecdf"]', "Count, cumulative for the ECDF"),
        ('forms = ["bars", "ecdf"]\ncumulative = true', "Cumulative count"),
        (f'forms = ["curve"]\nheights = "density"{LOG}', "Density (per factor of 10)"),
    ],
)
def test_the_title_of_heights_says_what_they_are_of_and_per_what(asked, title):
    readings = figure(asked)
    assert usual_height_title(readings) == title
    if "factor of 10" in title:
        assert "heights in density per factor of 10" in plain(readings)


@pytest.mark.parametrize(
    ("asked", "why"),
    [
        ('[show]\nsplit = ["g"]\nheights = "percent"', "the heights are in percent already"),
        (
            '[show]\nsplit = ["g"]\n[panels]\nby = ["g"]\nfree = ["height"]',
            "panels with heights of their own would need one each",
        ),
        ("[show]\n[bins]\nedges = [0, 3, 10, 50]", "bins of different width"),
        ('[show]\nsplit = ["g"]\nof = "all"\narrange = "back-to-back"', None),
        ('[show]\nsplit = ["g"]\nof = "all"\narrange = "lanes"', None),
    ],
)
def test_a_second_axis_that_is_not_drawn_is_told_with_its_reason(asked, why):
    readings = figure(f'{asked}\n[axes.height]\nsecond = "percent"')
    told = [notice.text for notice in notices(readings) if notice.code == "no-second-axis"]
    assert bool(told) is (why is not None)
    assert why is None or why in told[0]


def test_an_ecdf_beside_densities_is_told_and_cured():
    readings = figure('forms = ["bars", "ecdf"]\nheights = "density"')
    notice = next(n for n in notices(readings) if n.code == "ecdf-on-density")
    cured = read(notice.cure, readings.gathered)
    assert not any(n.code == "ecdf-on-density" for n in notices(cured))
    assert cured.scale == "proportion"
    assert not any(n.code == "ecdf-on-density" for n in notices(figure('forms = ["ecdf"]')))


def test_bins_of_each_groups_own_are_told_as_they_are():
    readings = figure('[show]\nsplit = ["g"]\n[bins]\nshared = false\ncount = 2')
    widths = sorted({edges.width for edges in readings.own_edges})
    assert len(widths) == 2
    assert stands_in(readings)("width") == f"{widths[0]:g} to {widths[1]:g}"
    assert stands_in(readings)("bins") == "2"
    assert stands_in(figure("[bins]\nwidth = 12500"))("width") == "12,500"
    assert stands_in(figure(f"[show]{LOG}"))("width").startswith("a factor of ")


@pytest.mark.parametrize(
    ("values", "why"),
    [([2.0] * 90 + [5.0] * 30, "so many values are equal"), ([1.0, 2, 3, 9], "with so few values")],
)
def test_why_notches_reach_past_their_box(values, why):
    table = Table("t", (NumberColumn("v", values=np.array(values)),))
    readings = figure('[show]\nforms = ["box"]\n[box]\nnotches = true', table)
    (told,) = [n.text for n in notices(readings) if n.code == "folded-notches"]
    assert why in told


@pytest.mark.parametrize(
    ("counts", "asked", "texts"),
    [
        ((99, 102, 140, 659), "percent", ["9.9 %", "10.2 %", "14.0 %", "65.9 %"]),
        ((1, 1, 2), "percent", ["25 %", "25 %", "50 %"]),
        ((1, 1, 1), "percent", ["33 %", "33 %", "33 %"]),
        ((1, 4999), "percent", ["<0.1 %", "100.0 %"]),
        ((1, 3), "proportion", ["0.25", "0.75"]),
        ((1, 2, 997), "proportion", ["0.001", "0.002", "0.997"]),
        ((1, 3), "density", ["0.25", "0.75"]),
        ((1200, 3), "count", ["1,200", "3"]),
    ],
)
def test_numbers_on_bars_have_as_many_decimals_as_one_another(counts, asked, texts):
    values = np.repeat(np.arange(len(counts)) + 0.5, counts)
    table = Table("t", (NumberColumn("v", values=values),))
    readings = figure(f'[show]\n[bins]\nwidth = 1\nstart = 0\n[bars]\nlabels = "{asked}"', table)
    assert labels_of(readings, 0) == texts


def test_where_heights_add_up_cards_numbers_and_rows_do_too():
    readings = figure(
        '[show]\nsplit = ["g"]\ncumulative = true\n[bins]\nwidth = 5\nstart = 0\n[bars]\nlabels = "count"'
    )
    assert labels_of(readings, 0)[:2] == ["4", "7"]
    card = card_of(readings, Stop("bars", None, 7.5))
    assert card.title == "under 10 g"
    assert [line.cells[0] for line in card.lines] == ["7 of 7", "4 of 7"]
    assert card.headings == ("count", "percent")
    step = rows_of_stop(readings, Stop("bars", None, 7.5), 1)
    assert VALUES[step.holds(TABLE)].tolist() == [4, 6, 6, 7]


def test_shares_of_all_are_told_as_such():
    readings = figure(
        '[show]\nsplit = ["g"]\nheights = "percent"\nof = "all"\n[bins]\nwidth = 5\nstart = 0'
    )
    card = card_of(readings, Stop("bars", None, 2.5))
    assert card.headings == ("count", "percent of all", "density of all per g")
    assert card.lines[0].cells[:2] == ("4 of 14", "28.6 %")
    readings = figure('[show]\nsplit = ["g"]\nforms = ["ecdf"]\nof = "all"\nheights = "percent"')
    card = card_of(readings, Stop("ecdf", None, 100.0))
    assert card.headings == ("cumulative percent", "lie up to there of all")
    assert [line.cells for line in card.lines] == [("50", "50.0 %")] * 2


@pytest.mark.parametrize("closed", ["left", "right"])
def test_the_rows_of_a_bar_are_those_of_its_groups_own_bins(closed):
    readings = figure(
        f'[show]\nsplit = ["g"]\n[bins]\nshared = false\nclosed = "{closed}"\ncount = 3'
    )
    for group in (0, 1):
        edges = readings.own_edges[group].values
        found = 0
        for low, high in itertools.pairwise(edges):
            stop = Stop("bars", group, (low + high) / 2)
            rows = rows_of_stop(readings, stop).holds(TABLE)
            assert rows.sum() == int(card_of(readings, stop).lines[0].cells[0].split(" ")[0])
            found += rows.sum()
        assert found == 7  # no value on an edge is in two bars, or in none


def test_a_marked_range_of_whole_bins_counts_what_its_rows_are():
    readings = figure("[show]\n[bins]\nwidth = 2\nstart = 0")
    (whole,), (part,) = (between(readings, (0,), 2.0, high) for high in (6.0, 6.5))
    assert (whole.within, whole.n) == (5, 14)  # 2 2 3 4 5
    assert (part.within, part.n) == (7, 14)


def test_whole_numbers_lie_in_the_middle_of_their_bins_and_are_told_so():
    values = np.array([1, 2, 2, 3, 3, 3, 4, 5, 7] * 5, dtype=float)
    table = Table("t", (NumberColumn("v", label="Grade", values=values),))
    readings = figure("[show]\n[bins]\ncount = 7", table)
    assert readings.edges.values.tolist() == [k + 0.5 for k in range(8)]
    assert "1 wide, each about a whole number" in plain(readings)
    card = card_of(readings, Stop("bars", None, 3.0))
    assert card.title == "3"
    assert card.lines[0].cells[0] == "15 of 45"
    typed = figure("[show]\n[bins]\nwidth = 1\nstart = 0", table)
    assert typed.edges.values[0] == 0  # a typed start wins
    assert figure("[show]\n[bins]\nwidth = 2", table).edges.values[0] == 0


def test_tables_are_rounded_to_what_tells_their_numbers_apart():
    table = NumberTable("T", ("a", "b", "c", "d", "n"), (
        ("x", 83.7588888889, 1610012345.25, 0.5, 3),
        ("y", 79.2, 1610012400.9, 0.25, 4),
    ))  # fmt: skip
    assert as_csv(table.rounded()).splitlines()[1:] == [
        "x,83.759,1610012345.2,0.5,3",
        "y,79.200,1610012400.9,0.25,4",
    ]
    assert "83.7588888889" in as_csv(table)
    gone = NumberTable("T", ("a", "b"), (("x", float("nan")), ("y", 0.0)))
    assert as_csv(gone.rounded()).splitlines()[1:] == ["x,", "y,0"]


@pytest.mark.parametrize("form", ["polygon", "curve", "normal"])
def test_groups_with_bins_of_their_own_are_not_stacked_by_count(form):
    asked = (
        f'[show]\nsplit = ["g"]\nforms = ["{form}"]\narrange = "stacked"\n[bins]\nshared = false'
    )
    with pytest.raises(Refusal, match="stacked share their bins"):
        figure(asked)


def test_bins_in_logs_of_numbers_near_the_largest_end_within_all_numbers():
    table = Table("t", (NumberColumn("v", values=np.array([1.0, 1e300, 1.7e308])),))
    for count in (1, 3, 7):
        edges = figure(f"[show]\n[bins]\nlogs = true\ncount = {count}", table).edges.values
        assert np.all(np.isfinite(edges))
        assert edges[-1] >= 1.7e308


def test_a_long_key_that_is_none_is_refused_in_a_sentence_that_can_be_read():
    with pytest.raises(Refusal) as refused:
        figure(f'[show]\n[words]\n{"k" * 200} = "{"w" * 200}"')
    assert len(str(refused.value)) <= 300


@pytest.mark.parametrize("size", [-1e-7, 2e-4, -40.0, 3e4, 2e6, -1e12])
def test_no_number_is_told_as_a_computer_writes_it(size):
    mass = NumberColumn("v", label="Mass", unit="g", values=(np.arange(4_000) % 617 + 90) * size)
    table = Table(
        "t", (mass, CategoryColumn("g", codes=np.tile(GROUPS, 286)[:4_000], levels=("A", "B")))
    )
    for text in (
        'forms = ["bars", "curve", "box"]\n[bins]\nround = false\ncount = 9',
        'forms = ["normal", "ecdf", "points"]\nsplit = ["g"]\nheights = "density"\n[bins]\ncount = 7',
    ):
        for line in told_of(figure(text, table)):
            assert not re.search(r"\d[eE][+−-]?\d|(?<![\w.)-])-\d", line), line
