"""Several factors and variables: who is in which panel, lane and colour, and in which order."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec import structs

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.demo import BAYS, SEASONS
from rhabdos.data.gathering import MOST_SAMPLES, gather
from rhabdos.data.table import Table, VariableError
from rhabdos.errors import Refusal
from rhabdos.figure.edits.level_edits import brought_forward, left_out, level_lists, moved
from rhabdos.figure.forms.bars import bars, grounds
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.grouping import arrangements, in_panels, swapped
from rhabdos.figure.phrases.heights import HEIGHTS
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.phrases.shown import families, with_variable
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.readings.readings import size_words
from rhabdos.figure.recipe.recipe import Groups, Panels, Recipe, Show

STOCKS = ("diploid", "triploid")


def table_of(values, **factors) -> Table:
    """A table with a number "Length" and categories given as lists of levels, None where missing."""
    values = np.array(values, float)
    gone = int(np.isnan(values).sum())
    missing_as = {"": gone} if gone else {}
    columns = [
        NumberColumn("Length", label="Length", unit="mm", values=values, missing_as=missing_as)
    ]
    for name, given_levels in factors.items():
        levels = sorted({level for level in given_levels if level is not None})
        codes = [levels.index(level) if level is not None else -1 for level in given_levels]
        gone = codes.count(-1)
        columns.append(
            CategoryColumn(
                name,
                label=name,
                codes=np.array(codes, np.int8),
                levels=tuple(levels),
                missing_as={"": gone} if gone else {},
            )
        )
    return Table("t", tuple(columns))


def asked(variables=("Shell length",), split=(), by=(), groups=None, panels=None, **show) -> Recipe:
    return Recipe(
        show=Show(variables=variables, split=split, **show),
        panels=Panels(by=by, **(panels or {})),
        groups=Groups(**(groups or {})),
    )


def drawn(table, *args, **kwargs):
    recipe = asked(*args, **kwargs)
    return read(recipe, samples_for(recipe, table))


def codes_of(notes):
    return [notice.code for notice in notices(notes)]


def column_values(table, name):
    column = table.column(name)
    return np.array([*column.levels, None], dtype=object)[column.codes]


# Who is where


@pytest.mark.parametrize(
    ("split", "by"),
    [
        (("Bay",), ()),
        (("Bay", "Stock"), ()),
        ((), ("Season",)),
        (("Stock",), ("Bay", "Season")),
        (("Bay", "Stock"), ("Season", "Culture")),
        (("Bay",), ("Bay",)),
    ],
)
def test_every_value_is_in_just_the_group_of_its_levels(demo, split, by):
    readings = drawn(demo, split=split, by=by)
    lengths = demo.column("Shell length").values
    for group in readings.groups:
        rows = np.ones(demo.rows, bool)
        for factor, level in group.levels:
            rows &= column_values(demo, factor) == level
        known = np.sort(lengths[rows & ~np.isnan(lengths)])
        assert np.array_equal(group.sample.values, known)
        assert group.missing == int(np.isnan(lengths[rows]).sum())
    assert sum(group.n for group in readings.groups) == np.count_nonzero(~np.isnan(lengths))
    placed = [place for panel in readings.plan.panels for place in panel.groups]
    assert sorted(placed) == list(range(len(readings.groups)))


def test_of_two_factors_the_first_makes_lanes_and_the_second_has_the_colours(demo):
    readings = drawn(demo, split=("Bay", "Stock"))
    assert [lane.label for lane in readings.plan.lanes] == list(BAYS)
    for lane in readings.plan.lanes:
        assert [group.colour for group in lane.groups] == [0, 1]
    assert readings.plan.arrange == "overlaid"
    assert "split by Bay in lanes and Stock in colour" in plain(readings)
    other = read(swapped(readings.recipe), samples_for(swapped(readings.recipe), demo))
    assert [lane.label for lane in other.plan.lanes] == list(STOCKS)
    assert [group.colour for group in other.plan.lanes[0].groups] == [0, 1, 2]
    assert "split by Stock in lanes and Bay in colour" in plain(other)


def test_panels_by_two_factors_stand_in_rows_and_columns(demo):
    plan = drawn(demo, split=("Stock",), by=("Bay", "Season")).plan
    assert (plan.rows, plan.columns) == (BAYS, ("Spring", "Summer", "Autumn", "Winter"))
    places = {
        (panel.row, panel.column): dict(panel.lanes[0].groups[0].levels) for panel in plan.panels
    }
    for (row, column), levels in places.items():
        assert (levels["Bay"], levels["Season"]) == (BAYS[row], SEASONS[column])
    assert len(places) == 12


def test_a_combination_that_no_row_has_is_an_empty_group(demo):
    table = table_of([1.0, 2, 3], Bay=["A", "A", "B"], Gear=["rake", "tongs", "rake"])
    readings = drawn(table, ("Length",), ("Bay", "Gear"))
    assert [(dict(g.levels), g.n) for g in readings.groups] == [
        ({"Bay": "A", "Gear": "rake"}, 1),
        ({"Bay": "A", "Gear": "tongs"}, 1),
        ({"Bay": "B", "Gear": "rake"}, 1),
        ({"Bay": "B", "Gear": "tongs"}, 0),
    ]
    told = {notice.code: notice.text for notice in notices(readings)}
    assert told["empty-groups"] == "No values in B, tongs."


def test_numbers_say_variable_levels_and_panel_of_every_sample(demo):
    printed = numbers_data(drawn(demo, split=("Stock",), by=("Bay",)))
    first = printed["samples"][0]
    assert first["variable"] == "Shell length"
    assert first["levels"] == {"Stock": "diploid", "Bay": "Heron Sound"}
    assert first["panel"] == "Heron Sound"
    assert [sample["panel"] for sample in printed["samples"]] == [b for b in BAYS for _ in STOCKS]
    assert len(printed["bins"]["counts"]) == len(printed["samples"]) == 6
    assert numbers_data(drawn(demo))["samples"][0]["panel"] is None


def test_ten_thousand_combinations_are_refused_with_what_to_do():
    rng = np.random.default_rng(0)
    levels = [str(i) for i in range(50)]
    table = table_of(rng.random(500), A=rng.choice(levels, 500), B=rng.choice(levels, 500))
    with pytest.raises(VariableError, match=r"make [\d,]+ groups.*at most 1,200.*Take one of them"):
        gather(table, "Length", ["A", "B"])
    assert MOST_SAMPLES == 1200


def test_ten_thousand_levels_are_refused(demo):
    many = CategoryColumn(
        "Tag",
        label="Tag",
        codes=np.arange(9_000, dtype=np.int16),
        levels=tuple(map(str, range(9_000))),
    )
    number = NumberColumn("Length", label="Length", values=np.arange(9_000.0))
    with pytest.raises(VariableError, match="too many different values"):
        gather(Table("t", (number, many)), "Length", "Tag")


def test_one_level_is_told(demo):
    readings = drawn(table_of([1.0, 2, 3], Bay=["A"] * 3), ("Length",), ("Bay",))
    assert "one-level" in codes_of(readings)


# Arrangements against numbers

SCALES = ("count", "percent", "proportion", "density")


@pytest.mark.parametrize("arrange", ["overlaid", "stacked", "side-by-side", "lanes"])
@pytest.mark.parametrize("scale", SCALES)
@pytest.mark.parametrize("of", ["group", "all"])
def test_heights_are_each_groups_own_whatever_the_arrangement(demo, arrange, scale, of):
    readings = drawn(demo, split=("Bay",), arrange=arrange, heights=scale, of=of)
    edges = readings.edges.values
    every = demo.column("Shell length").values
    total = np.count_nonzero(~np.isnan(every))
    assert readings.plan.arrange == arrange
    for group, of_group in zip(readings.groups, bars(readings), strict=True):
        counts, _ = np.histogram(group.sample.values, edges)
        whole = {"count": 1, "percent": 100, "proportion": 1, "density": 1}[scale]
        known = counts * whole / (1 if scale == "count" else total if of == "all" else group.n)
        if scale == "density":
            known = known / np.diff(edges)
        # the last bin also holds its upper edge in numpy as here
        assert of_group.heights == pytest.approx(known)


@pytest.mark.slow
@given(st.data())
def test_stacks_add_up_to_the_whole(data):
    rows = data.draw(st.integers(3, 60))
    values = data.draw(st.lists(st.floats(-20, 20), min_size=rows, max_size=rows))
    bays = data.draw(st.lists(st.sampled_from("ABC"), min_size=rows, max_size=rows))
    table = table_of(values, Bay=bays)
    for scale, of in (("count", "group"), ("percent", "all"), ("density", "all")):
        readings = drawn(table, ("Length",), ("Bay",), arrange="stacked", heights=scale, of=of)
        whole = drawn(table, ("Length",), heights=scale)
        together = read(whole.recipe.binned(readings.recipe.bins), whole.gathered)
        last = readings.plan.lanes[-1].groups[-1].index
        top = grounds(readings)[last] + bars(readings)[last].heights
        assert top == pytest.approx(bars(together)[0].heights)


def test_a_stack_of_densities_of_each_group_is_refused_where_curves_are_drawn(demo):
    wanted = {"split": ("Bay",), "arrange": "stacked", "heights": "density"}
    for forms in (("curve",), ("bars", "normal")):
        with pytest.raises(Refusal, match="density of each group cannot be stacked"):
            drawn(demo, forms=forms, **wanted)
        stack = drawn(demo, forms=forms, of="all", **wanted)
        for choice in HEIGHTS.alternatives(drawn(demo, forms=forms, **wanted | {"heights": None})):
            drawn(demo, **structs.asdict(choice.recipe.show))  # whatever is offered can be had
        fields = {setting.path: setting.choices(stack) for setting in HEIGHTS.settings}
        assert fields["show.of"] == [("all values", "all")]
        assert len(fields["show.heights"]) == 4
    assert "stacked-shares" in codes_of(drawn(demo, **wanted))
    assert "stacked-shares" not in codes_of(drawn(demo, of="all", **wanted))


def test_back_to_back_has_room_for_two(demo):
    assert drawn(demo, split=("Stock",), arrange="back-to-back").plan.arrange == "back-to-back"
    with pytest.raises(Refusal, match="room for two groups, and “Bay” has 3"):
        drawn(demo, split=("Bay",), arrange="back-to-back")
    two = drawn(demo, split=("Bay",), arrange="back-to-back", groups={"hidden": ("Saltmere",)})
    assert [group.label for group in two.groups] == ["Heron Sound", "Wick Narrows"]


def test_groups_in_one_bin_share_their_bins(demo):
    recipe = asked(split=("Bay",), arrange="stacked")
    recipe = recipe.binned(recipe.bins.changed(shared=False))
    with pytest.raises(Refusal, match=r"stacked share their bins"):
        read(recipe, samples_for(recipe, demo))


@pytest.mark.parametrize("split", [("Bay",), ("Stock",), ("Bay", "Stock")])
@pytest.mark.parametrize("forms", [("bars",), ("curve",), ("box",), ("bars", "box")])
@pytest.mark.parametrize("scale", ["count", "percent", "density"])
def test_every_arrangement_that_is_offered_can_be_drawn(demo, split, forms, scale):
    readings = drawn(demo, split=split, forms=forms, heights=scale)
    for _key, _text, recipe, why in arrangements(readings):
        if not why:
            read(recipe, samples_for(recipe, demo))
    step = in_panels(readings)
    assert step is not None
    other = read(step[1], samples_for(step[1], demo))
    assert len(other.plan.panels) == len(readings.gathered.factors[0].levels)


@pytest.mark.parametrize(
    ("levels", "forms", "arrange", "upright"),
    [
        (2, ("bars",), "overlaid", False),
        (5, ("bars",), "lanes", False),
        (12, ("box",), "lanes", True),
        (30, ("box",), "lanes", False),
        (60, ("bars",), "lanes", False),
    ],
)
def test_any_number_of_groups_starts_so_that_it_can_be_read(levels, forms, arrange, upright):
    names = [f"Mooring {i % levels + 1}" for i in range(levels * 4)]
    readings = drawn(
        table_of(range(levels * 4), Mooring=names), ("Length",), ("Mooring",), forms=forms
    )
    assert (readings.plan.arrange, readings.plan.upright) == (arrange, upright)
    assert "crowded-groups" not in codes_of(readings)


def test_more_groups_than_colours_on_one_base_line_are_told_with_a_cure():
    names = [f"Mooring {i % 12}" for i in range(48)]
    readings = drawn(
        table_of(range(48), Mooring=names), ("Length",), ("Mooring",), arrange="overlaid"
    )
    (notice,) = [n for n in notices(readings) if n.code == "crowded-groups"]
    assert read(notice.cure, readings.gathered).plan.arrange == "lanes"


# Several variables

WEEKS = tuple(f"Growth week {week}" for week in range(1, 7))


def test_variables_of_one_unit_are_as_if_they_were_groups(demo):
    readings = drawn(demo, WEEKS[:3])
    assert [group.label for group in readings.groups] == list(WEEKS[:3])
    assert readings.plan.axes == len(readings.plan.panels) == 1
    for group, name in zip(readings.groups, WEEKS, strict=False):
        values = demo.column(name).values
        assert np.array_equal(group.sample.values, np.sort(values[~np.isnan(values)]))
    assert "Growth week 1, Growth week 2 and Growth week 3" in plain(readings)


def test_variables_of_two_units_have_panels_and_bins_of_their_own(demo):
    readings = drawn(demo, ("Shell length", "Wet mass"), ("Bay",))
    assert [panel.label for panel in readings.plan.panels] == ["Shell length (mm)", "Wet mass (g)"]
    assert readings.plan.axes == 2
    alone = drawn(demo, ("Wet mass",), ("Bay",))
    for group, other in zip(readings.groups[3:], alone.groups, strict=True):
        assert readings.own_edges[group.index].values.tolist() == alone.edges.values.tolist()
        assert (
            bars(readings)[group.index].counts.tolist() == bars(alone)[other.index].counts.tolist()
        )


def test_standardised_variables_share_an_axis(demo):
    readings = drawn(demo, ("Shell length", "Wet mass"), standardised=True)
    assert readings.plan.axes == len(readings.plan.panels) == 1
    for group, name in zip(readings.groups, ("Shell length", "Wet mass"), strict=True):
        values = demo.column(name).values
        values = np.sort(values[~np.isnan(values)])
        known = (values - values.mean()) / values.std(ddof=1)
        assert group.sample.values == pytest.approx(known, abs=1e-12)
    assert "standardised" in plain(readings)


def test_a_constant_cannot_be_standardised():
    with pytest.raises(VariableError, match="values do not differ"):
        gather(table_of([2.0, 2, 2]), "Length", standardised=True)


def test_numbers_stands_for_every_numeric_variable_with_a_value(demo):
    readings = drawn(demo, "numbers", forms=("box",))
    assert [v.name for v in readings.variables] == [c.name for c in demo.numbers if c.n]
    assert f"all {len(readings.variables)} numeric variables" in plain(readings)


def test_unitless_variables_share_an_axis_only_where_they_overlap_in_size():
    def table(scale):
        first = NumberColumn("a", label="a", values=np.arange(50.0))
        return Table("t", (first, NumberColumn("b", label="b", values=np.arange(50.0) * scale)))

    assert drawn(table(2.0), ("a", "b")).plan.axes == 1
    assert drawn(table(1000.0), ("a", "b")).plan.axes == 2


def test_one_variable_more_and_one_less(demo):
    readings = drawn(demo, ("Shell length",))
    two = with_variable(readings.recipe, readings, "Wet mass")
    assert two.show.variables == ("Shell length", "Wet mass")
    both = read(two, samples_for(two, demo))
    assert with_variable(two, both, "Shell length").show.variables == ("Wet mass",)
    (family,) = families(demo.numbers)
    assert [column.name for column in family] == list(WEEKS)


def test_variables_with_two_factors_go_to_panels(demo):
    readings = drawn(demo, WEEKS[:2], ("Bay", "Stock"))
    assert [panel.label for panel in readings.plan.panels] == list(WEEKS[:2])
    assert readings.plan.axes == 1


# Order, hiding, bringing forward


def by_level(readings):
    return {group.label: group for group in readings.groups}


@pytest.mark.parametrize(
    ("order", "known"),
    [
        (None, ["A", "B", "C"]), ("name", ["A", "B", "C"]), ("data", ["C", "A", "B"]),
        ("n", ["C", "B", "A"]), ("mean", ["B", "C", "A"]), ("median", ["C", "B", "A"]),
        ("sd", ["A", "B", "C"]), (("B", "C"), ["B", "C", "A"]),
    ],
)  # fmt: skip
def test_groups_are_ordered_by_rule_or_by_hand(order, known):
    values = {"C": [2.0, 2.0, 35.0], "A": [20.0] * 5, "B": [5.0, 6, 7, 8]}
    bays = [bay for bay, of in values.items() for _ in of]
    table = table_of([v for of in values.values() for v in of], Bay=bays)
    for reverse in (False, True):
        groups = {"order": order, "reverse": reverse}
        readings = drawn(table, ("Length",), ("Bay",), groups=groups)
        labels = [group.label for group in readings.groups]
        assert labels == (known[::-1] if reverse else known)
        assert {g.label: g.colour for g in readings.groups} == {"A": 0, "B": 1, "C": 2}


def test_panels_are_ordered_like_groups(demo):
    readings = drawn(demo, by=("Bay",), groups={"order": "median"})
    medians = [np.median(group.sample.values) for group in readings.groups]
    assert medians == sorted(medians)
    assert [panel.label for panel in readings.plan.panels] != list(BAYS)


@pytest.mark.slow
@given(st.permutations(BAYS), st.sets(st.sampled_from(BAYS), max_size=2), st.booleans())
def test_neither_order_nor_hiding_changes_a_groups_colour_or_values(order, hidden, reverse):
    table = table_of(range(30), Bay=[BAYS[i % 3] for i in range(30)])
    usual = by_level(drawn(table, ("Length",), ("Bay",)))
    groups = {"order": tuple(order), "hidden": tuple(hidden), "reverse": reverse}
    other = by_level(drawn(table, ("Length",), ("Bay",), groups=groups))
    assert set(other) == set(BAYS) - hidden
    for label, group in other.items():
        assert group.colour == usual[label].colour
        assert group.sample is usual[label].sample or np.array_equal(
            group.sample.values, usual[label].sample.values
        )


def test_what_is_left_out_is_told_and_can_be_shown_again(demo):
    readings = drawn(demo, split=("Bay",), groups={"hidden": ("Saltmere",)})
    (notice,) = [n for n in notices(readings) if n.code == "hidden-levels"]
    shown = sum(group.n for group in readings.groups)
    every = np.count_nonzero(~np.isnan(demo.column("Shell length").values))
    assert notice.text == f"Saltmere is left out: {shown:,} of {every:,} values are shown."
    assert len(read(notice.cure, readings.gathered).groups) == 3
    assert "without Saltmere" in plain(readings)
    with pytest.raises(Refusal, match="All levels of “Bay” are left out"):
        drawn(demo, split=("Bay",), groups={"hidden": BAYS})


def test_rows_without_a_level_are_counted_and_can_be_a_group():
    table = table_of([1.0, 2, 3, 4], Bay=["A", None, "B", "A"], Gear=["rake", "rake", None, "rake"])
    readings = drawn(table, ("Length",), ("Bay", "Gear"))
    (notice,) = [n for n in notices(readings) if n.code == "ungrouped-values"]
    assert notice.text == "2 values have no bay or gear and are in no group."
    cured = read(notice.cure, readings.gathered)
    assert sum(group.n for group in cured.groups) == 4
    lacking = [g for g in cured.groups if dict(g.levels)["Bay"] is None and g.n]
    assert [group.label for group in lacking] == ["no bay, rake"]
    assert lacking[0].colour == 0
    assert "ungrouped-values" not in codes_of(cured)


def test_names_that_no_level_has_are_told(demo):
    readings = drawn(demo, split=("Bay",), groups={"forward": ("Nowhere",), "order": ("Saltmere",)})
    assert "unknown-levels" in codes_of(readings)
    assert all(group.forward for group in readings.groups)


def test_one_or_several_groups_are_brought_forward(demo):
    readings = drawn(demo, split=("Bay",))
    words, recipe = brought_forward(readings.recipe, "Saltmere")
    assert words == "Bring Saltmere forward"
    forward = read(recipe, readings.gathered)
    assert [g.label for g in forward.groups if g.forward] == ["Saltmere"]
    assert "Saltmere brought forward" in plain(forward)
    _, two = brought_forward(recipe, "Heron Sound", more=True)
    assert [g.forward for g in read(two, readings.gathered).groups] == [True, True, False]
    assert brought_forward(recipe, "Saltmere") == ("All groups alike", readings.recipe)


def test_of_two_factors_levels_of_both_narrow_what_is_forward(demo):
    readings = drawn(demo, split=("Bay", "Stock"), groups={"forward": ("Saltmere", "triploid")})
    assert [g.label for g in readings.groups if g.forward] == ["Saltmere, triploid"]


def test_the_list_of_levels_shows_what_is_left_out_last(demo):
    readings = drawn(demo, split=("Bay",), by=("Stock",), groups={"hidden": ("Heron Sound",)})
    bays, stocks = level_lists(readings)
    assert [(level.label, level.shown) for level in bays.levels] == [
        ("Saltmere", True),
        ("Wick Narrows", True),
        ("Heron Sound", False),
    ]
    lengths, of = demo.column("Shell length").values, column_values(demo, "Bay")
    for level in bays.levels:
        assert level.n == np.count_nonzero(~np.isnan(lengths[of == level.label]))
    assert [level.colour for level in stocks.levels] == [None, None]
    _, recipe = left_out(readings.recipe, bays.levels[-1])
    assert recipe.groups.hidden == ()
    words, recipe = moved(readings, "Wick Narrows", "Saltmere")
    assert words == "Order groups by hand"
    assert [d.label for d in level_lists(read(recipe, readings.gathered))[0].levels][:2] == [
        "Wick Narrows",
        "Saltmere",
    ]
    assert moved(readings, "Saltmere", "diploid") is None


@pytest.mark.parametrize("weighted", [False, True])
def test_many_parts_are_the_same_as_masks(weighted):
    rng = np.random.default_rng(8)
    rows = 3_000
    levels = {name: rng.choice([*"pqrst", None], rows) for name in ("A", "B")}
    values = np.where(rng.random(rows) < 0.05, math.nan, rng.normal(size=rows))
    table = table_of(values, **levels)
    weights = rng.integers(0, 4, rows).astype(float)
    column = NumberColumn("Cases", label="Cases", values=weights)
    table = Table("t", (*table.columns, column))
    gathered = gather(table, "Length", ["A", "B"], weight="Cases" if weighted else None)
    for cell, sample in zip(gathered.cells, gathered.samples, strict=True):
        rows_of = np.ones(rows, bool)
        for name, code in zip(("A", "B"), cell.codes, strict=True):
            rows_of &= table.column(name).codes == code
        held = values[rows_of & ~np.isnan(values)]
        if weighted:
            held = np.repeat(held, weights[rows_of & ~np.isnan(values)].astype(int))
        assert np.array_equal(sample.values, np.sort(held))
    every = set(itertools.product(range(-1, 5), repeat=2))
    assert {cell.codes for cell in gathered.cells} == every


def test_rows_beyond_whiskers_are_those_of_their_own_combination(demo):
    readings = drawn(demo, ("Wet mass",), ("Bay", "Stock"), by=("Season",), forms=("box",))
    printed = numbers_data(readings)["boxes"]
    mass = demo.column("Wet mass").values
    for group, box in zip(readings.groups, printed, strict=True):
        for row, value in zip(box["beyond_rows"], box["beyond"], strict=True):
            assert mass[row - 1] == value
            for factor, level in group.levels:
                assert column_values(demo, factor)[row - 1] == level


def test_a_factor_may_make_both_lanes_and_panels(demo):
    readings = drawn(demo, split=("Bay", "Stock"), by=("Bay",), forms=("box",))
    step = in_panels(readings)
    assert step is not None
    assert step[1].panels.by == ("Bay",)
    for panel in readings.plan.panels:
        filled = [lane.label for lane in panel.lanes if lane.groups]
        assert filled == [panel.label]


def test_lanes_too_many_for_a_page_are_told():
    names = [f"Mooring {i % 40}" for i in range(160)]
    gears = ["rake" if i % 3 else "tongs" for i in range(160)]
    table = table_of(range(160), Mooring=names, Gear=gears)
    readings = drawn(table, ("Length",), ("Mooring", "Gear"), forms=("box",))
    assert "crowded-lanes" in codes_of(readings)


@pytest.mark.parametrize("panels", [48, 49])
def test_panels_too_many_for_a_page_are_told_and_put_in_lanes(panels):
    table = table_of(range(panels), Mooring=[f"Mooring {i}" for i in range(panels)])
    readings = drawn(table, ("Length",), (), ("Mooring",))
    told = [notice for notice in notices(readings) if notice.code == "crowded-panels"]
    assert len(told) == panels - 48
    for notice in told:
        assert notice.text.startswith("49 panels are too small")
        assert (notice.cure.show.split, notice.cure.panels.by) == (("Mooring",), ())


def test_what_differs_from_axis_to_axis_is_not_told_of_all(demo):
    recipe = asked(("Shell length", "Wet mass"), ("Bay",), forms=("bars", "curve"))
    readings = read(recipe, samples_for(recipe, demo))
    words = plain(readings)
    assert "Bins are each variable’s own, automatic" in words
    assert "curve bandwidth is by Silverman" in words
    assert " mm" not in words
    choices = [choice.text for choice in PHRASES["bins"].alternatives(readings)]
    assert "Sturges" in choices
    assert not any("wide" in text for text in choices)


def test_a_level_has_the_size_of_each_variable_or_at_most_that(demo):
    readings = drawn(demo, ("Shell length", "Wet mass"), ("Bay",))
    heron = [g.index for g in readings.groups if g.label.startswith("Heron Sound")]
    sizes = [readings.groups[place].n for place in heron]
    assert len(set(sizes)) == 2
    assert size_words(readings, heron) == f"n ≤ {max(sizes):,}"
    both = drawn(demo, split=("Bay",), by=("Stock",))
    heron = [g.index for g in both.groups if g.label.startswith("Heron Sound")]
    assert size_words(both, heron) == "n = 820"


def test_shares_of_all_are_of_all_values_of_the_same_variable(demo):
    readings = drawn(demo, ("Shell length", "Wet mass"), ("Bay",), heights="percent", of="all")
    totals = {}
    for group, of_group in zip(readings.groups, bars(readings), strict=True):
        totals[group.variable.name] = totals.get(group.variable.name, 0) + of_group.heights.sum()
    assert list(totals.values()) == pytest.approx([100, 100])


def test_medians_are_put_in_order_by_the_definition_that_is_told():
    """Of two values the first definition tells the lower one, the seventh the middle between."""
    table = table_of([1, 10, 4, 4.5], Bay=["A", "A", "B", "B"])
    recipe = Recipe(show=Show(variables=("Length",), split=("Bay",)), groups=Groups(order="median"))
    orders = []
    gathered = samples_for(recipe, table)
    for rule in (7, 1, 7):
        readings = read(recipe.changed(box=recipe.box.changed(quartiles=rule)), gathered)
        medians = [summary.median for summary in readings.summaries]
        assert medians == sorted(medians)
        orders.append([group.label for group in readings.groups])
    assert orders == [["B", "A"], ["A", "B"], ["B", "A"]]


def test_a_variable_that_a_recipe_leaves_out_by_its_name_is_shown_again_by_a_hand():
    columns = [
        NumberColumn(f"{name} (mm)", name, "mm", values=np.arange(9.0) + at)
        for at, name in enumerate(("Length", "Width", "Depth"))
    ]
    show = Show(variables=("Length", "Width", "Depth"))
    recipe = Recipe(show=show).grouped(hidden=("Length (mm)",))
    readings = read(recipe, gather(Table("t", tuple(columns)), show.variables))
    ((width, depth, listed),) = [each.levels for each in level_lists(readings)]
    assert [(level.label, level.shown) for level in (width, depth, listed)] == [
        ("Width", True),
        ("Depth", True),
        ("Length", False),
    ]
    assert left_out(recipe, listed)[1].groups.hidden == ()


@pytest.mark.parametrize("hidden", [(), ("Length",), ("Width (mm)",)])
def test_each_variable_that_makes_a_group_is_listed_once(hidden):
    columns = tuple(
        NumberColumn(f"{name} ({unit})", name, unit, values=np.arange(9.0))
        for name, unit in (("Length", "mm"), ("Width", "mm"), ("Depth", "mm"))
    )
    show = Show(variables=("Length", "Width", "Depth"))
    recipe = Recipe(show=show).grouped(hidden=hidden)
    (listed,) = level_lists(read(recipe, gather(Table("t", columns), show.variables)))
    assert sorted(level.label for level in listed.levels) == ["Depth", "Length", "Width"]
    assert sum(level.shown for level in listed.levels) == 3 - len(hidden)


def test_of_two_variables_with_one_label_the_one_that_is_meant_is_left_out():
    columns = (
        NumberColumn("Length (mm)", "Length", "mm", values=np.arange(9.0)),
        NumberColumn("Length (cm)", "Length", "cm", values=np.arange(9.0) / 10),
        NumberColumn("Width (mm)", "Width", "mm", values=np.arange(9.0)),
    )
    table = Table("t", columns)
    show = Show(variables=tuple(column.name for column in columns))
    recipe = Recipe(show=show)
    (listed,) = level_lists(read(recipe, gather(table, show.variables)))
    without = left_out(recipe, listed.levels[1])[1]
    readings = read(without, gather(table, show.variables))
    assert [group.variable.name for group in readings.groups] == ["Length (mm)", "Width (mm)"]
    (listed,) = level_lists(readings)
    assert [level.shown for level in listed.levels] == [True, True, False]
    assert left_out(without, listed.levels[2])[1] == recipe
