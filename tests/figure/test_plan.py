"""What stands where, which bins are asked for, and what each part of a figure says."""

import itertools
import re

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.edits.stops import card_of, rows_of_stops, stop_at
from rhabdos.figure.forms import figure_form
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.forms.box import boxes, named_beyond
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.phrases import PHRASES, phrase_of
from rhabdos.figure.phrases.sentence import plain, sentence
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.planning.titles import common_words
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.forms import FORMS, needs_bins
from rhabdos.figure.recipe.recipe import Boxes, Points, Recipe, Show
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.figure.recipe.toml_text import read_recipe, write_recipe
from tests.conftest import asking, set_of

TWO = ([1.0, 2, 3, 4, 9, 40], [2.0, 2, 7])


def planned(forms, groups=2, **show):
    samples = set_of(*([1.0, 3, place + 4.0] for place in range(groups)))
    split = ("Bay",) if groups > 1 else ()
    return read(asking().showing(forms=forms, split=split, **show), samples).plan


@pytest.mark.parametrize(
    ("forms", "groups", "show", "arrange", "upright"),
    [
        (("bars",), 1, {}, "overlaid", False),
        (("bars",), 4, {}, "overlaid", False),
        (("bars",), 5, {}, "lanes", False),
        (("curve",), 5, {"arrange": "overlaid"}, "overlaid", False),
        (("bars",), 2, {"arrange": "lanes", "upright": True}, "lanes", True),
        (("bars", "box"), 2, {}, "lanes", False),
        (("bars", "box"), 2, {"arrange": "overlaid"}, "overlaid", False),
        (("box",), 2, {}, "lanes", True),
        (("box", "points"), 2, {}, "lanes", True),
        (("box",), 2, {"arrange": "overlaid"}, "lanes", True),
        (("box",), 2, {"upright": False}, "lanes", False),
        (("box",), 1, {}, "overlaid", False),
    ],
)
def test_where_groups_stand_unasked_and_asked(forms, groups, show, arrange, upright):
    plan = planned(forms, groups, **show)
    assert (plan.arrange, plan.upright) == (arrange, upright)
    assert len(plan.lanes) == (groups if arrange == "lanes" else 1)
    keys = [group.levels for group in plan.groups]
    assert keys == [(("Bay", level),) for level in "ABCDEFGH"[:groups]] or groups == 1
    held = [[group.index for group in lane.groups] for lane in plan.lanes]
    assert held == ([[g] for g in range(groups)] if arrange == "lanes" else [list(range(groups))])


def test_a_group_is_found_by_its_levels():
    readings = read(asking().showing(split=("Bay",)), set_of(*TWO))
    assert readings.group(Bay="B").n == 3
    assert readings.group(Bay="B").levels == (("Bay", "B"),)


@pytest.mark.parametrize(
    ("forms", "heights", "needed"),
    [
        (("bars",), "density", True), (("outline",), "count", True),
        (("polygon",), "density", True), (("curve",), "density", False),
        (("curve",), "count", True), (("normal",), "percent", True), (("ecdf",), "percent", False),
        (("box", "points", "violin"), "count", False), (("box", "bars"), "count", True),
    ],
)  # fmt: skip
def test_a_figure_without_bars_asks_for_no_bins(forms, heights, needed, monkeypatch):
    recipe = asking(width=1.0).showing(forms=forms, heights=heights)
    assert needs_bins(recipe) is needed
    if not needed:
        monkeypatch.setattr("rhabdos.figure.readings.readings.edges_for", None)
    data = numbers_data(read(recipe, set_of([1.0, 2, 2, 3, 5, 8])))
    assert (data["bins"] is not None) is needed


def test_bins_that_cannot_be_made_trouble_no_figure_without_them():
    recipe = asking(width=1e-300)
    with pytest.raises(Refusal):
        read(recipe, set_of([1.0, 5]))
    boxed = read(recipe.showing(forms=("box",)), set_of([1.0, 5]))
    assert boxes(boxed)[0].median == 3
    assert "Bins" not in plain(boxed)
    assert not [n for n in notices(boxed) if "bin" in n.code]


def test_samples_tell_their_levels_and_forms_have_tables_of_their_own():
    readings = read(
        asking().showing(split=("Bay",), forms=("box", "violin", "ecdf"), heights="percent"),
        set_of(*TWO),
    )
    data = numbers_data(readings)
    assert [sample["levels"] for sample in data["samples"]] == [{"Bay": "A"}, {"Bay": "B"}]
    assert [curve["kind"] for curve in data["curves"]] == ["violin", "violin", "ecdf", "ecdf"]
    for curve in data["curves"][:2]:
        assert np.trapezoid(curve["y"], curve["x"]) == pytest.approx(1, abs=2e-3)
    assert [box["sample"] for box in data["boxes"]] == ["A", "B"]
    alone = numbers_data(read(asking(), set_of([1.0, 2])))
    assert alone["samples"][0]["levels"] == {}


def test_a_recipe_of_every_new_key_is_written_and_read_again():
    recipe = asking().showing(forms=("violin", "box"), arrange="lanes", upright=True)
    recipe = recipe.changed(
        bars=recipe.bars.changed(gap=0.25, labels="percent"),
        box=Boxes(
            notches=True, mean=True, mean_shape="cross", mean_size=8.0, names="Tag",
            numbers=("n", "median"), letters=True,
        ),
        points=Points(spread="stacked", seed=7),
    )  # fmt: skip
    assert read_recipe(write_recipe(recipe)) == recipe


@pytest.mark.parametrize(
    ("text", "path"),
    [
        ("[bars]\ngap = 0.95", "bars.gap is 0.95"),
        ('[bars]\nlabels = "n"', "bars.labels is “n”"),
        ("[box]\nmean = 1", "box.mean is 1"),
        ('[box]\nmean_shape = "star"', "box.mean_shape is “star”"),
        ("[box]\nmean_size = 100", "box.mean_size is 100"),
        ('[points]\nspread = "loose"', "points.spread is “loose”"),
        ("[points]\nseed = -1", "points.seed is -1"),
    ],
)
def test_a_wrong_value_of_a_new_key_is_refused_with_its_path(text, path):
    with pytest.raises(Refusal, match="must be") as caught:
        read_recipe(f'rhabdos = 1\nshow = {{variables = ["x"]}}\n{text}')
    assert path in str(caught.value)


# Bins change by their own methods


def test_bins_let_go_of_one_way_for_another_and_keep_the_rest():
    bins = Bins(rule="scott", closed="right", shared=False, round=False)
    assert bins.with_width(2.0) == Bins(width=2.0, closed="right", shared=False)
    assert bins.with_count(7) == Bins(count=7, closed="right", shared=False, round=False)
    assert bins.with_rule("automatic") == Bins(closed="right", shared=False, round=False)
    assert bins.with_edges((0.0, 1)) == Bins(edges=(0.0, 1), closed="right", shared=False)
    assert Bins(width=2.0, start=1.0).with_count(3) == Bins(count=3, start=1.0)


# Reading part by part


def boxed(*groups, **box):
    recipe = asking().showing(forms=("box",), split=("Bay",) if len(groups) > 1 else ())
    return read(recipe.changed(box=Boxes(**box)), set_of(*groups))


def test_a_box_is_read_with_its_own_numbers_and_rows():
    card = figure_form("box").card(boxed(*TWO), [0], None, 0.0)
    cells = {line.label: line.cells for line in card.lines}
    assert card.title == "A, n = 6"
    assert cells["median"][0] == "3.5 mm"
    assert cells["lower quartile"][0] == "2.2 mm"  # 2.25, rounded to even
    assert cells["upper whisker"] == ("9.0 mm", "largest value within 1.5 × IQR of the box")
    assert cells["maximum"] == ("40.0 mm", "lies beyond the whisker")
    assert "minimum" not in cells
    assert card.notes[0] == "1 value lies beyond the whiskers, more than 3 × IQR from the box."
    assert card.notes[1] == "It is row 6: 40."
    assert "row 6: 40" in card.spoken()


def test_letter_values_are_read_pair_by_pair():
    values = np.random.default_rng(2).normal(0, 1, 1000)
    card = figure_form("box").card(boxed(values.tolist(), letters=True), [0], None, 0.0)
    assert [line.label for line in card.lines] == [
        *("median", "fourths", "eighths", "sixteenths", "1/32", "1/64"),
        "1/128",
    ]
    assert card.lines[1].cells[1] == "50 % lie between"
    assert card.lines[2].cells[1] == "75 % lie between"
    ordered = np.sort(values)
    depths = [500.5]
    for _ in range(6):
        depths.append((np.floor(depths[-1]) + 1) / 2)
    low, high = int(np.floor(depths[-1])) - 1, int(np.ceil(depths[-1])) - 1
    outermost = (ordered[low] + ordered[high]) / 2, (ordered[-1 - low] + ordered[-1 - high]) / 2
    beyond = np.sum((values < outermost[0]) | (values > outermost[1]))
    assert card.notes[0].startswith(f"{beyond} values lie beyond the outermost")


def test_a_box_with_nothing_beyond_says_that_whiskers_end_at_the_extremes():
    card = figure_form("box").card(boxed([1.0, 2, 3, 4]), [0], None, 0.0)
    assert "their ends are the minimum and the maximum" in card.notes[0]


def test_rows_beyond_are_found_among_the_rows_of_the_group():
    readings = boxed([5.0, 6, 5, 6, 5, 99], [1.0, 2, 1, 2, 1, -50, 60], names="row")
    assert [(n.row, n.value) for n in named_beyond(readings, 0)] == [(5, 99)]
    assert [(n.row, n.name) for n in named_beyond(readings, 1)] == [(12, "13"), (11, "12")]


def test_only_the_two_hundred_farthest_are_named_and_a_notice_says_so():
    values = [*range(100), *range(1000, 1300)]
    readings = boxed([float(v) for v in values] + [50.0] * 2000, names="row")
    assert len(named_beyond(readings, 0)) == 50 + 200  # below and above 50
    assert "names-withheld" in [notice.code for notice in notices(readings)]


@pytest.mark.parametrize("form", list(FORMS))
def test_every_form_is_stepped_through_and_says_something_of_each_group(form):
    recipe = asking(width=2.0).showing(forms=(form,), split=("Bay",))
    readings = read(recipe, set_of(*TWO))
    rows = rows_of_stops(readings)
    assert rows
    for stop in itertools.chain.from_iterable(rows):
        spoken = card_of(readings, stop).spoken()
        assert len(spoken) > 20
        assert ("A" in spoken) or ("B" in spoken)
    stop = stop_at(readings, form if FORMS[form].strip else None, 0, 1, 2.0)
    card = card_of(readings, stop)
    assert card.lines


def test_an_ecdf_says_what_share_lies_up_to_a_place():
    readings = read(asking().showing(forms=("ecdf",), heights="percent"), set_of([1.0, 2, 2, 5]))
    card = figure_form("ecdf").card(readings, [0], None, 2.0)
    assert card.lines[0].cells == ("75", "75.0 %")
    assert figure_form("ecdf").card(readings, [0], None, 0.5).lines[0].cells == ("0", "0.0 %")


def test_a_point_says_its_value_how_many_have_it_and_where_it_stands():
    readings = read(asking().showing(forms=("points",)), set_of([1.0, 2, 2, 5, 9]))
    card = figure_form("points").card(readings, [0], None, 2.4)
    assert card.title == "Length: 2 mm"
    assert [line.cells for line in card.lines] == [("2 of 5",), ("20.0 %",), ("40.0 %",)]


# Notices


def test_two_humps_in_a_box_are_told_and_the_cure_shows_them():
    rng = np.random.default_rng(3)
    humps = [*rng.normal(10, 1, 400).tolist(), *rng.normal(20, 1, 400).tolist()]
    readings = boxed(humps, rng.normal(15, 1, 400).tolist())
    (notice,) = [n for n in notices(readings) if n.code == "hidden-peaks"]
    assert notice.text.startswith("More than one peak hides in A (2)")
    cured = read(notice.cure, readings.gathered)
    assert cured.recipe.show.forms == ("violin", "box")
    assert "hidden-peaks" not in [n.code for n in notices(cured)]
    assert "hidden-peaks" not in [n.code for n in notices(boxed([5.0, 5.0, 5.0], [5.0, 5.0]))]


def test_notches_past_the_box_and_bins_of_different_widths_are_told():
    readings = boxed([1.0, 2, 8, 9], notches=True)
    assert "folded-notches" in [n.code for n in notices(readings)]
    rng = np.random.default_rng(5)
    wide, near = rng.normal(0, 10, 300).tolist(), rng.normal(0, 1, 300).tolist()
    own = read(asking(rule="scott", shared=False).showing(split=("Bay",)), set_of(wide, near))
    (notice,) = [n for n in notices(own) if n.code == "own-bins"]
    assert "own-bins" not in [n.code for n in notices(read(notice.cure, own.gathered))]
    assert len({o.edges.width for o in bars(own)}) == 2


# Phrases are declarations


def test_every_phrase_has_its_own_keys_and_title_and_every_part_leads_to_one():
    keys = [phrase.keys for phrase in PHRASES.values()]
    assert len(set(keys)) == len(keys) == len(PHRASES)
    parts = (
        "bars", "curve", "normal", "ecdf", "box", "points", "centre", "lane", "value-axis", "height-axis", "title",
        "legend", "note",
    )  # fmt: skip
    assert all(phrase_of(part) in PHRASES for part in parts)


def everything(**show):
    table = Table(
        "t",
        (
            NumberColumn("Length", unit="mm", values=np.arange(40.0) ** 1.1),
            CategoryColumn("Bay", codes=(np.arange(40) % 2).astype(np.int8), levels=("A", "B")),
        ),
    )
    recipe = asking().showing(
        forms=("bars", "curve", "box", "points"), split=("Bay",), heights="percent", **show
    )
    recipe = recipe.changed(lines=recipe.lines.changed(mean=True))
    return read(recipe, gather(table, "Length", "Bay"))


@pytest.mark.parametrize(
    "key", [key for key, phrase in PHRASES.items() if phrase.alternatives and key != "rows"]
)
def test_every_alternative_of_a_phrase_is_a_figure_and_one_is_the_present(key):
    readings = everything()
    choices = [c for c in PHRASES[key].alternatives(readings) if c.recipe]
    assert len(choices) >= 1
    assert sum(choice.current for choice in choices) <= 1
    for choice in choices:
        assert choice.text
        assert choice.step
        other = read(choice.recipe, samples_for(choice.recipe, readings.gathered.table))
        if choice.current:
            assert plain(other) == plain(readings)


@pytest.mark.parametrize("unit", [1e-7, 1.0, 1e17])  # most numbers of the others are powers of ten
@pytest.mark.parametrize("forms", [("bars", "curve"), ("box", "points")])
def test_what_stands_in_a_field_can_be_typed_there(unit, forms):
    values = np.random.default_rng(1).lognormal(1, 0.4, 300) * unit
    bay = CategoryColumn("Bay", codes=np.arange(300) % 3, levels=("A", "B", "C"))
    table = Table("t", (NumberColumn("Length", unit="m", values=values), bay))
    recipe = Recipe(show=Show(variables=("Length",), split=("Bay",), forms=forms))
    readings = read(recipe, samples_for(recipe, table))
    shown = 0
    for setting in (s for phrase in PHRASES.values() for s in phrase.settings if s.kind == "typed"):
        for typed in ("{2}", "{1}, {2}, {4}", "{2} low; {4} high", "{1} to {3}", "{2.3456}"):
            typed = re.sub(r"{(.+?)}", lambda found: f"{float(found[1]) * unit:g}", typed)
            try:
                other = setting.changed(recipe, setting.read(typed, readings))
                there = read(other, samples_for(other, table))
            except Refusal:  # that is no value of this setting
                continue
            again = setting.changed(other, setting.read(setting.shown(there), there))
            if setting.path.partition(".")[0] not in ("look", "page"):  # which show less digits
                assert again == other, (setting.path, typed)
                shown += 1
    assert shown > 25


@pytest.mark.parametrize(
    ("key", "label"), [(key, s.label) for key, phrase in PHRASES.items() for s in phrase.settings]
)
def test_every_setting_shows_its_value_and_changes_its_part_of_the_recipe(key, label):
    readings = everything()
    if label == "Even about 0 up to":
        readings = Readings(readings.recipe.with_value_axis(scale="arsinh"), readings.gathered)
    (setting,) = [s for s in PHRASES[key].settings if s.label == label]
    part = setting.path.partition(".")[0]
    if setting.kind == "toggle":
        wanted = [not setting.value_in(readings)]
    elif setting.kind == "choice":
        offered = [value for _, value in setting.choices(readings)]
        assert setting.value_in(readings) in offered
        wanted = [v for v in offered if v != setting.value_in(readings)]
        if setting.chosen:
            wanted = [setting.chosen(value, readings) for value in wanted]
    elif setting.kind == "colour":
        wanted = ["#123456"]
    else:
        usual = {"look.letters": "60", "page.size": "9 x 8 cm"}.get(setting.path, "5")
        typed = {"Own edges": "0, 5, 10", "In words": "0 none", "Ranges": "1 to 2"}.get(
            setting.label, usual
        )
        wanted = [setting.read(typed, readings)]
        assert setting.read(setting.shown(readings), readings) is not False
    if label == "Cases":  # of which these data offer none
        wanted = [setting.chosen("Length", readings)]
    assert wanted
    for value in wanted:
        other = setting.changed(readings.recipe, value)
        assert isinstance(other, Recipe)
        assert getattr(other, part) != getattr(readings.recipe, part), (value, label)
        parts = (part, "pairs") if label == "Quantile pairs" else (part,)
        assert other.changed(**{p: getattr(readings.recipe, p) for p in parts}) == readings.recipe
        assert setting.step_to("5", value)


@pytest.mark.parametrize(
    ("key", "label", "text", "words"),
    [
        ("box", "Whiskers", "far out", "no reach of whiskers"),
        ("box", "Far from", "-1", "must be 0 or more"),
        ("box", "Its size", "100 pt", "must be from 2 to 20"),
        ("points", "Seed", "1.5", "must be a whole number"),
        ("points", "Seed", "x", "“x” is none"),
        ("bars", "Gap", "95 %", "must be from 0 to 90"),
        ("curve", "Bandwidth", "0", "must be above 0"),
    ],
)
def test_nonsense_typed_into_a_setting_gets_a_sentence(key, label, text, words):
    (setting,) = [s for s in PHRASES[key].settings if s.label == label]
    with pytest.raises(Refusal, match=words):
        setting.read(text, everything())


@pytest.mark.parametrize(
    ("text", "whiskers"),
    [
        ("1.5", 1.5),
        ("2 × IQR", 2.0),
        ("range", "range"),
        ("5 and 95", (5.0, 95.0)),
        ("2.5, 97.5", (2.5, 97.5)),
        ("", 1.5),
    ],
)
def test_the_reach_of_whiskers_is_typed_in_words(text, whiskers):
    (setting,) = [s for s in PHRASES["box"].settings if s.label == "Whiskers"]
    assert setting.read(text, everything()) == whiskers


def test_whiskers_by_falling_percentiles_are_refused_with_a_reason():
    (setting,) = [s for s in PHRASES["box"].settings if s.label == "Whiskers"]
    with pytest.raises(Refusal, match="Two percentiles must rise"):
        setting.changed(everything().recipe, (95.0, 5.0))


def besides(readings):
    """What a figure can have though its sentence does not say it."""
    said = {fragment.phrase for fragment in sentence(readings)}
    return {key for key, phrase in PHRASES.items() if phrase.applies(readings)} - said


def test_what_a_figure_could_have_besides_depends_on_its_forms():
    readings = read(asking(), set_of([1.0, 2, 3]))
    bare = {"words", "look", "page", "value_axis", "lines", "sway", "pairs"}
    assert besides(readings) == bare | {"height_axis", "bars"}
    assert besides(read(asking().showing(forms=("box",)), set_of([1.0, 2, 3]))) == bare


@pytest.mark.parametrize(
    ("labels", "common"),
    [
        (("Growth week 1", "Growth week 2"), "Growth week"),
        (("Growth week", "Growth week 2"), "Growth week"),
        (("Growth", "Mass"), ""),
        (("Mass of meat", "Mass of shell", "Mass by day"), "Mass"),
    ],
)
def test_variables_share_the_words_that_all_begin_with(labels, common):
    assert common_words(labels) == common


def test_usual_whiskers_are_offered_with_what_they_are():
    recipe = read_recipe('rhabdos = 1\n[show]\nvariables = ["Length"]\nforms = ["box"]')
    offered = PHRASES["box"].alternatives(read(recipe, set_of([1.0, 2, 3, 4, 9])))
    drawn = [(c.recipe.box.whiskers, c.recipe.box.letters) for c in offered]
    assert drawn[:-1] == [(w, False) for w in (1.5, 3.0, "range", (5.0, 95.0), (2.0, 98.0))]
    assert drawn[-1][1]
    assert [c.current for c in offered] == [True, False, False, False, False, False]
    lettered = read(recipe.changed(box=recipe.box.changed(letters=True)), set_of([1.0, 2, 3, 4, 9]))
    again = PHRASES["box"].alternatives(lettered)
    assert [c.current for c in again] == [False] * 5 + [True]


def test_round_widths_are_offered_from_a_quarter_of_the_width_to_four_times():
    values = np.random.default_rng(4).normal(70, 9, 300).round(1).tolist()
    readings = read(asking(width=4.0, start=20.0), set_of(values))
    offered = [
        c.text for c in PHRASES["bins"].alternatives(readings)
        if c.text.endswith("wide") and ":" not in c.text
    ]  # fmt: skip
    assert offered == [f"{width} mm wide" for width in ("1", "2", "2.5", "4", "5", "10")]


@pytest.mark.parametrize(("arrange", "told"), [("overlaid", False), ("lanes", True)])
def test_rows_of_panels_are_told_where_they_are_too_thin(arrange, told):
    rng, levels = np.random.default_rng(6), 40
    n = levels * 12
    table = Table(
        "t",
        (
            NumberColumn("v", values=rng.normal(0, 1, n)),
            CategoryColumn(
                "pond", codes=np.arange(n) % levels, levels=[f"P{i}" for i in range(levels)]
            ),
            CategoryColumn("bay", codes=(np.arange(n) // levels) % 2, levels=("N", "S")),
        ),
    )
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["v"]\nsplit = ["bay"]\narrange = "'
        f'{arrange}"\n[panels]\nby = ["pond"]\ncolumns = 1'
    )
    codes = [n.code for n in notices(read(recipe, samples_for(recipe, table)))]
    assert ("crowded-lanes" in codes) == told


def test_variables_may_be_groups_where_they_share_an_axis():
    columns = [
        NumberColumn(name, unit=unit, values=np.arange(9.0)) for name, unit in ("am", "bm", "cg")
    ]
    by_variable = next(each for each in PHRASES["panels"].settings if each.label == "By variable")
    for names, offered in (("a", False), ("ab", True), ("ac", False), ("abc", False)):
        recipe = Recipe(show=Show(variables=tuple(names)))
        drawn = read(recipe, gather(Table("t", tuple(columns)), recipe.show.variables))
        assert by_variable.matters(drawn) is offered, names
