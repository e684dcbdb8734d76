"""Figures of dates: bins along the calendar, words, axes, groups."""

import re
from datetime import date, timedelta

import numpy as np
import pytest
import scipy.stats

from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.data.gathering import gather
from rhabdos.data.preparing import prepared
from rhabdos.data.problems.problems import problems_of
from rhabdos.data.steps.derive import Make
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.edits.placed_texts import Spot, moved_text, put_at_value, value_of
from rhabdos.figure.edits.stops import Stop, card_of
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.faces import summary_face
from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.output.tables import tables_of
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.recipe.edge_text import read_edges, write_edges
from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.figure.recipe.toml_text import read_recipe, write_recipe
from rhabdos.figure.words.placeholders import stands_in
from rhabdos.scene.build import build
from rhabdos.scene.marks import Text
from tests.conftest import measure

DAYS = [date(2026, 1, 5) + timedelta(days=3 * i) for i in range(100)]
VALUES = np.array([float((day - date(1970, 1, 1)).days) for day in DAYS])
TABLE = Table("t", (DateColumn("Harvested", values=VALUES), NumberColumn("n", values=VALUES)))


def figure(**bins):
    recipe = Recipe(show=Show(variables=("Harvested",)), bins=Bins(**bins))
    return read(recipe, gather(TABLE, "Harvested"))


def test_automatic_bins_of_dates_are_months_and_counts_stay_counts():
    readings = figure()
    assert readings.edges.every == "month"
    assert readings.scale == "count"
    by_month = [sum(day.month == month for day in DAYS) for month in range(1, 11)]
    assert bars(readings)[0].counts.tolist() == by_month
    assert "Bins are a month wide from 2026-01-01, automatic." in plain(readings)


@pytest.mark.parametrize("every", ["day", "week", "month", "quarter", "year"])
def test_bins_of_every_step_count_every_date(every):
    readings = figure(every=every)
    assert bars(readings)[0].counts.sum() == 100
    assert f"a {every} wide" in plain(readings)
    recipe = readings.recipe
    assert read_recipe(write_recipe(recipe)) == recipe


def test_numbers_have_no_calendar():
    recipe = Recipe(show=Show(variables=("n",)), bins=Bins(every="month"))
    with pytest.raises(Refusal, match="are for dates, and these are numbers"):
        read(recipe, gather(TABLE, "n"))


def test_cards_axes_and_lines_tell_dates():
    readings = figure(every="month")
    middle = float(readings.edges.values[1] + 10)
    assert card_of(readings, Stop("bars", None, middle)).title == "2026-02-01 to under 2026-03-01"
    texts = [m.text for m in build(readings, measure).marks if isinstance(m, Text)]
    assert any(text.endswith(" 2026") for text in texts)
    lined = read(
        readings.recipe.changed(lines=readings.recipe.lines.changed(median=True)), readings.gathered
    )
    texts = [m.text for m in build(lined, measure).marks if isinstance(m, Text)]
    assert any(text.startswith("median 2026-06-0") for text in texts)
    boxed = read(readings.recipe.showing(forms=("box",)), readings.gathered)
    card = card_of(boxed, Stop("box", 0, None))
    assert card.lines[0].cells[0] == "2026-10-29"


def test_the_menu_of_bins_offers_steps_of_the_calendar():
    texts = [choice.text for choice in PHRASES["bins"].alternatives(figure())]
    assert texts[0] == "Automatic"
    assert any(text.startswith("A month wide:  10 bins") for text in texts)
    assert not any(text.startswith("A decade") for text in texts)


def test_months_and_weekdays_make_groups():
    table = prepared(TABLE, [Make(name="Month", by="month", of=("Harvested",))])
    recipe = Recipe(show=Show(variables=("n",), split=("Month",)))
    readings = read(recipe, gather(table, "n", "Month"))
    assert [group.label for group in readings.groups][:3] == ["January", "February", "March"]
    assert [group.n for group in readings.groups] == [
        sum(day.month == month for day in DAYS) for month in range(1, 11)
    ]


def test_standardised_dates_are_numbers():
    recipe = Recipe(show=Show(variables=("Harvested",), standardised=True))
    readings = read(recipe, gather(TABLE, "Harvested", standardised=True))
    assert readings.edges.every == ""
    assert abs(readings.summaries[0].mean) < 1e-9


def test_a_year_at_the_end_of_an_axis_is_written():
    table = Table("t", (DateColumn("Born", values=np.linspace(-25_567.0, 20_800.0, 400)),))
    recipe = Recipe(show=Show(variables=("Born",)), bins=Bins(every="year"))
    scene = build(read(recipe, gather(table, "Born")), measure)
    years = [m.text for m in scene.marks if isinstance(m, Text) and m.meaning.part == "value-axis"]
    assert years[0] == "1900"


def test_notices_of_dates_tell_days():
    rng = np.random.default_rng(3)
    humps = np.concatenate([rng.normal(at, 6, 300) for at in (20454, 20500, 20546)]).round()
    for values, told in (
        (humps, ["bins 20 days wide"]),
        (20450.0 + 10 * rng.integers(0, 40, 400), []),
    ):
        table = Table("t", (DateColumn("Harvested", values=values),))
        recipe = Recipe(show=Show(variables=("Harvested",)), bins=Bins(width=50.0))
        said = [notice.text for notice in notices(read(recipe, gather(table, "Harvested")))]
        assert len(said) == len(told)
        assert all(words in text for words, text in zip(told, said, strict=True))


@pytest.mark.parametrize(
    "code",
    [
        "1899-12-30", "1899-12-31", "1900-01-01", "1970-01-01", "2099-12-31", "2999-12-31",
        "9999-12-31",
    ],
)  # fmt: skip
def test_a_date_that_stands_for_none_is_noticed_and_counted_as_missing(code):
    day = float((date.fromisoformat(code) - date(1970, 1, 1)).days)
    dates = DateColumn("Harvested", values=np.concatenate([VALUES, [day] * 5]))
    table = Table("t", (dates,))
    told = notices(read(Recipe(show=Show(variables=("Harvested",))), gather(table, "Harvested")))
    notice = next(each for each in told if each.code == "missing-code")
    assert f"5 values are exactly {code}, far from all others" in notice.text
    (problem,) = problems_of(dates)
    for step in (notice.step, problem.cure):
        assert prepared(table, (step,)).columns[0].missing_as == {f"“{code}”": 5}
    assert problems_of(DateColumn("Harvested", values=VALUES)) == ()


def test_dates_and_numbers_have_axes_of_their_own():
    recipe = Recipe(show=Show(variables=("Harvested", "n")))
    readings = read(recipe, gather(TABLE, ("Harvested", "n")))
    assert readings.plan.axes == 2
    assert build(readings, measure).frames


def test_tables_hold_dates_as_dates():
    recipe = Recipe(show=Show(variables=("Harvested",), forms=("bars", "box")))
    readings = read(recipe, gather(TABLE, "Harvested"))
    summary, bins, boxes = (
        dict(zip((of := tables_of(readings)[name]()).columns, of.rows[0], strict=True))
        for name in ("Summary", "Bins", "Boxes")
    )
    assert (summary["min"], summary["max"]) == ("2026-01-05", str(DAYS[-1]))
    assert summary["median"].startswith(str(DAYS[49] + timedelta(days=1)))
    assert summary["sd"] == pytest.approx(np.std(VALUES, ddof=1))
    assert summary["cv"] == ""
    assert numbers_data(readings)["samples"][0]["cv"] is None
    *_, mad, cv = summary_face(readings, ("mad", "cv")).rows[0].cells
    tip = cv.tip.splitlines()
    assert cv.text == ""
    assert (
        mad.text == tip[-2].rpartition(": ")[2] == f"{scipy.stats.median_abs_deviation(VALUES)} d"
    )
    assert tip[1].endswith(f" {scipy.stats.sem(VALUES):.1f} d")
    assert tip[-1].endswith(f": {summary['trimmed mean'][:10]}")
    assert (bins["from"], bins["to"]) == ("2026-01-01", "2026-02-01")
    assert boxes["whisker from"] == "2026-01-05"


def test_a_text_stands_at_a_date_and_is_moved_to_another():
    text = (
        'rhabdos = 1\n[show]\nvariables = ["Harvested"]\n[[text]]\ntext = "storm"\n'
        'value = "2026-03-01"\narrow = {value = "2026-05-31 12:00"}\n'
    )
    recipe = read_recipe(text)
    assert read_recipe(write_recipe(recipe)) == recipe
    readings = read(recipe, gather(TABLE, "Harvested"))
    scene = build(readings, measure)
    (mark,) = [m for m in scene.marks if isinstance(m, Text) and m.meaning.part == "text"]
    day = float((date(2026, 3, 1) - date(1970, 1, 1)).days)
    assert mark.x == pytest.approx(scene.frame.along(day))
    moved = moved_text(readings, 0, Spot(day + 31.5, 0.4))
    assert moved.text[0].value == "2026-04-01 12:00"
    assert value_of(readings, moved.text[0], None) == day + 31.5
    assert put_at_value(readings, 0, "2026-07-01", arrow=True).text[0].arrow.value == "2026-07-01"
    with pytest.raises(Refusal, match="“spring” is no date"):
        put_at_value(readings, 0, "spring", arrow=False)
    with pytest.raises(Refusal, match="Text 1 in the figure: “spring” is no date"):
        read(read_recipe(text.replace("2026-03-01", "spring")), gather(TABLE, "Harvested"))
    with pytest.raises(Refusal, match="Text 1 in the figure: “2026-03-01” is no number"):
        read(recipe.showing(variables=("n",)), gather(TABLE, "n"))


def test_an_axis_far_beyond_calendars_is_refused_and_one_about_them_is_drawn():
    for bins in ({"width": 1e300}, {"edges": (-1e300, 0.0, 1e300)}, {"start": -1e9, "width": 1e8}):
        with pytest.raises(Refusal, match="years 0 to 9999"):
            build(figure(**bins), measure)
    last = DateColumn("Last", values=np.array([0.0, 100.0, 2_932_896.0]))  # 9999-12-31
    recipe = Recipe(show=Show(variables=("Last",), forms=("curve", "box")))
    scene = build(read(recipe, gather(Table("t", (last,)), "Last")), measure)
    assert scene.frame.high > 2_932_896


def days(*texts):
    since = (np.datetime64(text) - np.datetime64("1970-01-01") for text in texts)
    return [float(each / np.timedelta64(1, "D")) for each in since]


def setting(phrase, label):
    return next(each for each in PHRASES[phrase].settings if each.label == label)


@pytest.mark.parametrize(
    ("text", "edges"),
    [
        ("2026-01-01, 2026-07-01", days("2026-01-01", "2026-07-01")),
        (
            "2026-01-01 2026-01-08 … 2026-01-22",
            days("2026-01-01", "2026-01-08", "2026-01-15", "2026-01-22"),
        ),
        (
            "2026-02-01 to 2026-02-03 by 0.5",
            days(
                *(f"2026-02-0{day}T{hour}" for day in (1, 2) for hour in ("00", "12")), "2026-02-03"
            ),
        ),
        ("2026-02-01 08:30, 2026-02-01T08:30:20", days("2026-02-01T08:30", "2026-02-01T08:30:20")),
    ],
)
def test_edges_may_be_dates(text, edges):
    assert list(read_edges(text, dates=True)) == edges
    assert read_edges(write_edges(tuple(edges), True), True) == tuple(edges)
    for typed in (f'"{text}"', text.split(", ") if "," in text and "…" not in text else edges):
        recipe = read_recipe(
            f'rhabdos = 1\n[show]\nvariables = ["Harvested"]\n[bins]\nedges = {typed}'
        )
        assert list(recipe.bins.edges) == edges
        assert read_recipe(write_recipe(recipe)) == recipe
    readings = figure(edges=tuple(edges))
    assert re.match(r"2026-0", setting("bins", "Own edges").shown(readings))


@pytest.mark.parametrize(
    ("phrase", "label", "text", "value"),
    [
        ("bins", "Start at", "2026-02-03", days("2026-02-03")[0]),
        ("bins", "Start at", "20500 days", 20_500.0),
        ("bins", "Width", "2 weeks", 14.0),
        ("bins", "Width", "12 hours", 0.5),
        ("bins", "Width", "90 min", 0.0625),
        ("bins", "Width", "21600 s", 0.25),
        ("bins", "Width", "7", 7.0),
        ("curve", "Bandwidth", "5 days", 5.0),
        ("curve", "Not below", "2026-01-01", days("2026-01-01")[0]),
        ("curve", "Not above", "2027-01-01T06:00", days("2027-01-01T06:00")[0]),
    ],
)
def test_what_stands_in_fields_of_dates_may_be_typed_there(phrase, label, text, value):
    recipe = Recipe(show=Show(variables=("Harvested",), forms=("bars", "curve")))
    readings = read(recipe, gather(TABLE, "Harvested"))
    field = setting(phrase, label)
    read_value = field.read(text, readings)
    if phrase == "bins":
        changed, read_value = recipe.binned(read_value), read_value.start or read_value.width
    else:
        key = field.path.split(".")[1]
        changed = recipe.changed(curve=recipe.curve.changed(**{key: read_value}))
    assert read_value == value
    drawn = read(changed, gather(TABLE, "Harvested"))
    again = field.read(field.shown(drawn), drawn)  # what is shown is what may be typed
    assert (again if phrase == "curve" else again.start or again.width) == value


@pytest.mark.parametrize(
    ("more", "sentence"),
    [
        (
            '[bins]\nstart = "2030-01-01"',
            "Bins that start at 2030-01-01 would hold no values: the largest is 2026-10-29",
        ),
        ('[curve]\nlower = "2026-01-09"', "2 of the values lie below the lower bound 2026-01-09"),
        ('[bins]\nedges = ["2026-03-01", "2026-02-01"]', "2026-02-01 comes after 2026-03-01"),
        (
            '[bins]\nedges = "2026-02-01, 2026-02-08 … 2026-02-20"',
            "Steps of 7 days from 2026-02-08 pass 2026-02-20 by; .* it is 2026-02-15",
        ),
        ('[bins]\nedges = ["2026-02-01", "May"]', "“May” is not a date"),
        ('[bins]\nstart = "May"', "a finite number, or a date such as 2026-05-31"),
    ],
)
def test_what_is_wrong_with_dates_is_told_in_dates(more, sentence):
    text = f'rhabdos = 1\n[show]\nvariables = ["Harvested"]\nforms = ["bars", "curve"]\n{more}'
    with pytest.raises(Refusal, match=sentence):
        build(read(read_recipe(text), gather(TABLE, "Harvested")), measure)


@pytest.mark.parametrize(
    ("every", "first", "outside"),
    [("month", "2026-03-01", 19), ("week", "2026-03-09", 21), ("year", "2026-01-01", 0)],
)
def test_bins_of_the_calendar_begin_with_the_step_that_a_start_lies_in(every, first, outside):
    field = setting("bins", "Start at")
    for closed in ("left", "right"):
        recipe = figure(every=every, closed=closed).recipe
        drawn = read(
            recipe.binned(field.read("2026-03-15", figure(every=every, closed=closed))),
            gather(TABLE, "Harvested"),
        )
        assert field.shown(drawn) == first
        assert bars(drawn)[0].outside == outside == int((days(first)[0] > VALUES).sum())
        assert bars(drawn)[0].counts.sum() == 100 - outside


def test_dates_of_a_recipe_may_be_written_as_toml_has_them():
    text = """rhabdos = 1
[show]
variables = ["v"]
[bins]
edges = [2026-01-01, 2026-07-01T12:00:00]
[curve]
lower = DAY
[axes.value]
from = DAY
ticks = [DAY]
words = [[DAY, "storm"]]
[[range]]
from = DAY
to = 2026-03-01
[[text]]
text = "a storm"
value = DAY
"""
    assert read_recipe(text.replace("DAY", "2026-02-11")) == read_recipe(
        text.replace("DAY", '"2026-02-11"')
    )


def test_words_about_bins_of_dates():
    assert stands_in(figure(width=14.0))("width") == "14 days"
    assert stands_in(figure(every="month"))("width") == "a month"


def ticked(**settings):
    recipe = Recipe(show=Show(variables=("Harvested",))).with_value_axis(**settings)
    drawn = read(recipe, gather(TABLE, "Harvested"))
    texts = [mark.text for mark in build(drawn, measure).marks if isinstance(mark, Text)]
    return drawn, [text for text in texts if "2026" in text or text == "storm"]


@pytest.mark.parametrize(
    ("text", "value", "labels"),
    [
        ("every 10 weeks", 70.0, {"2 Mar 2026", "11 May 2026", "20 Jul 2026"}),
        (
            "2026-02-11, 2026-05-02",
            tuple(days("2026-02-11", "2026-05-02")),
            {"11 Feb 2026", "2 May 2026"},
        ),
        (
            "2026-02-11t12:00; 2026-05-02",
            tuple(days("2026-02-11T12", "2026-05-02")),
            {"11 Feb 2026 12:00"},
        ),
        ("middles", "middles", {"16 Jan 2026", "16 Sep 2026"}),
    ],
)
def test_ticks_of_dates(text, value, labels):
    field = setting("value_axis", "Ticks")
    assert field.read(text, figure()) == value
    drawn, shown = ticked(ticks=value)
    assert labels <= set(shown), shown
    assert field.read(field.shown(drawn), drawn) == value
    if isinstance(value, tuple):
        listed = ", ".join(f'"{word.strip().upper()}"' for word in re.split("[,;]", text))
        toml = f'rhabdos = 1\n[show]\nvariables = ["v"]\n[axes.value]\nticks = [{listed}]'
        assert read_recipe(toml).axes.value.ticks == value


def test_ticks_at_edges_within_a_day_have_their_times():
    hours = DateColumn("Harvested", values=days("2026-02-11T08") + np.arange(8) / 24)
    recipe = Recipe(show=Show(variables=("Harvested",)), bins=Bins(width=0.25)).with_value_axis(
        ticks="edges"
    )
    scene = build(read(recipe, gather(Table("t", (hours,)), "Harvested")), measure)
    shown = [mark.text for mark in scene.marks if isinstance(mark, Text) and "2026" in mark.text]
    assert "11 Feb 2026 12:00" in shown
    assert all(re.fullmatch(r"11 Feb 2026 \d\d:00", text) for text in shown)


def test_what_is_only_for_numbers_is_not_offered_for_dates():
    numbers = read(Recipe(show=Show(variables=("n",))), gather(TABLE, "n"))
    assert setting("value_axis", "Ticks").read("2x10^4, 3 × 10⁴", numbers) == (20_000, 30_000)
    for label in ("Scale", "Whole numbers", "Decimals", "Numbers"):
        assert setting("value_axis", label).matters(numbers)
        assert not setting("value_axis", label).matters(figure())


def test_words_at_dates():
    field = setting("value_axis", "In words")
    assert field.read("2026-02-11 12:00 noon", figure()) == ((days("2026-02-11T12")[0], "noon"),)
    words = field.read("2026-02-11 storm; 20600 calm", figure())
    assert words == ((days("2026-02-11")[0], "storm"), (20_600.0, "calm"))
    drawn, shown = ticked(words=words)
    assert shown == ["storm"]
    assert field.shown(drawn) == "2026-02-11 storm; 2026-05-27 calm"
    with pytest.raises(Refusal, match=r"“May storm” is no date with a word.*2026-02-11 storm"):
        field.read("May storm", figure())
    with pytest.raises(Refusal, match=r"names no ticks.*such as 7 days.*2026-01-31"):
        setting("value_axis", "Ticks").read("May, June", figure())
    with pytest.raises(Refusal, match="Ticks 6 minutes apart would be 71,280 of them, and at most"):
        ticked(ticks=1 / 240)


@pytest.mark.parametrize("text", ["3 months", "3 ms", "a while", "0 days", "2026-01-01"])
def test_what_is_no_width_of_dates_is_refused(text):
    with pytest.raises(Refusal, match=r"^The width (is to be so many days, hours|must be above 0)"):
        setting("bins", "Width").read(text, figure())
