"""Which number of a file is drawn first: one that measures something, and no code."""

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, DateColumn, NumberColumn
from rhabdos.data.preparing import prepared
from rhabdos.data.problems.measuring import may_be_codes, measuring, paired_text
from rhabdos.data.problems.problems import problems_in
from rhabdos.data.table import Table
from rhabdos.project.making import first_figure

RNG = np.random.default_rng(4)
SOAK = NumberColumn("soak_min", values=RNG.lognormal(3, 0.6, 60))
BAYS = CategoryColumn("bay", codes=(np.arange(60) % 3).astype(np.int8), levels=("A", "B", "C"))


def number(name, values):
    return NumberColumn(name, values=np.asarray(values, dtype=float))


@pytest.mark.parametrize(
    ("column", "code"),
    [
        (number("crew", np.arange(60) % 4 + 1), "group-codes"),
        (number("cracked", np.arange(60) % 2), "group-codes"),
        (number("bay_id", RNG.integers(100, 900, 60)), "named-code"),
        (number("Harvest year", RNG.integers(1998, 2026, 60)), "named-code"),
        (number("postcode", RNG.integers(10_000, 99_999, 60)), "named-code"),
        (number("rackCode", RNG.integers(10, 99, 60)), "named-code"),
        (number("station", np.array([11, 24, 37])[np.arange(60) % 3]), "paired-codes"),
        (number("line", np.arange(60) + 1), None),
        (
            number("day", [20_000_000 + 10_000 * (at % 30) + 1231 for at in range(60)]),
            "digit-dates",
        ),
        (number("logged", 1.77e9 + 600 * np.arange(60)), "counted-times"),
        (number("logged", 1.77e12 + 600 * np.arange(60)), "counted-times"),
        (number("time_utc", 1.77e9 + RNG.random(60)), "counted-times"),
    ],
)
def test_numbers_that_stand_for_groups_or_rows_are_not_drawn_first_and_are_told(column, code):
    table = Table("t", (column, SOAK, BAYS))
    assert may_be_codes(table, column)
    assert first_figure(table).show.variables == ("soak_min",)
    told = [problem.code for problem in problems_in(table, column)]
    assert told == ([code] if code else [])
    for problem in problems_in(table, column):
        assert problem.cure.variable == column.name
        assert "may" in problem.text or code == "digit-dates"


@pytest.mark.parametrize(
    "column",
    [
        number("Shell length", RNG.normal(70, 9, 60)),
        number("barnacles", RNG.poisson(9, 60)),
        number("condition index", RNG.normal(3, 0.4, 60)),
        number("Growth week 3", RNG.normal(2, 0.4, 60)),
        number("idle_hours", RNG.gamma(2, 3, 60)),
        number("price per code", RNG.gamma(2, 3, 60)),  # not whole
        number("ratings", np.arange(60) % 13),
        number("weight", RNG.integers(20_000_000, 20_300_000, 60)),
        number("catch", [*([20_251_231] * 59), 20_251_301]),  # no month has that
        number("pulls", np.arange(60) % 4 + 2),  # neither from 0 nor from 1 on
        number("distance", 1.77e9 + RNG.random(60)),  # neither whole nor named for time
        number("debt", RNG.integers(10**8, 4 * 10**9, 60)),  # no time that is ours
        number("dips", np.array([1, 2, 4, 8])[np.arange(60) % 4]),  # not one after the other
    ],
)
def test_numbers_that_measure_are_drawn_though_they_come_first(column):
    table = Table("t", (column, SOAK, BAYS))
    assert not may_be_codes(table, column)
    assert first_figure(table).show.variables == (column.name,)


@pytest.mark.parametrize("parts", [1, 1_000, 1_000_000])
def test_times_that_are_counted_become_dates(parts):
    times = number("t", [1_772_353_800.0 * parts, np.nan, *(1.5e9 * parts + np.arange(9.0))])
    (problem,) = problems_in(Table("t", (times,)), times)
    assert "is 2026-03-01 08:30 in UTC." in problem.text
    cured = prepared(Table("t", (times,)), [problem.cure]).column("t")
    assert cured.written(cured.values[0]) == "2026-03-01 08:30"
    assert np.isnan(cured.values).tolist() == [False, True, *[False] * 9]


def test_dates_in_digits_become_dates():
    days = number("day", [20_240_229, np.nan, *range(20_251_201, 20_251_232)])
    (problem,) = problems_in(Table("t", (days,)), days)
    assert "20240229 is 2024-02-29" in problem.text
    cured = prepared(Table("t", (days,)), [problem.cure]).column("day")
    assert (cured.written(cured.values[0]), cured.n) == ("2024-02-29", 32)


def test_measures_come_before_dates_and_dates_before_codes():
    crew = number("crew", np.arange(60) % 4 + 1)
    landed = DateColumn("landed", values=np.arange(60) + 20_000.0)
    assert measuring(Table("t", (crew, landed, SOAK))) == (SOAK, landed, crew)
    assert first_figure(Table("t", (crew, landed))).show.variables == ("landed",)
    assert first_figure(Table("t", (crew, BAYS))).show.variables == ("crew",)
    assert first_figure(Table("t", (BAYS,))) is None


def test_a_number_beside_two_levels_is_no_code_of_them():
    mixed = number("station", [11, 24, 37, *([11, 24, 37] * 19)])
    other = CategoryColumn("bay", codes=np.array([1, *BAYS.codes[1:]], np.int8), levels=BAYS.levels)
    assert not may_be_codes(Table("t", (mixed, other)), mixed)


@pytest.mark.parametrize(
    ("values", "paired"),
    [
        ([1.0, 2.0, 3.0] * 4, True),
        ([1.0, 2.0, 3.0] * 3, False),  # too few to tell
        ([1.5, 2.0, 3.0] * 4, False),  # codes are whole
    ],
)
def test_codes_beside_levels_are_whole_and_not_too_few(values, paired):
    station = number("place", values)
    bay = CategoryColumn(
        "bay", codes=(np.arange(len(values)) % 3).astype(np.int8), levels=BAYS.levels
    )
    assert (paired_text(Table("t", (station, bay)), station) is bay) == paired


@pytest.mark.parametrize(
    ("name", "label"),
    [
        ("county", "County"), ("item_name", "Item name"), ("pH", "pH"), ("x", "x"), ("SAL", "SAL"),
        ("two words", "two words"), ("länge", "Länge"), ("soak (min)", "Soak"), ("soak_min", "Soak"),
    ],
)  # fmt: skip
def test_technical_names_follow_one_rule(name, label):
    assert NumberColumn(name, values=np.zeros(1)).label == label
