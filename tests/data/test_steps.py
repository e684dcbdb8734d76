"""Every kind of step: what it does to a table, what it says, and what it refuses."""

import math
from datetime import date, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from rhabdos.data.columns import CategoryColumn, DateColumn, NumberColumn
from rhabdos.data.date_bounds import bound_written, date_bound
from rhabdos.data.files.reading import read_table
from rhabdos.data.gathering import as_factor
from rhabdos.data.preparing import OtherTables, begun, prepared, stages
from rhabdos.data.steps.derive import Make
from rhabdos.data.steps.joining import Join, matching
from rhabdos.data.steps.keep import Condition, KeepRows
from rhabdos.data.steps.kind import ChangeKind
from rhabdos.data.steps.missing import DeclareMissing
from rhabdos.data.steps.naming import Bound, Describe, OrderLevels, RenameLevels
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.recoding import Recode
from rhabdos.data.steps.sources import DISTRIBUTIONS, Drawn, Simulate, Values
from rhabdos.data.steps.stacking import Gather, Stack
from rhabdos.data.steps.step import MOST_ROWS, StepError, no_others
from rhabdos.data.table import Table, VariableError
from rhabdos.errors import Refusal
from tests.data.test_formats import shown

SMALL = (
    "tag,bay,length (mm),mass,day,cracked\n"
    "T-1,Saltmere,64.5,0,2026-05-01,0\n"
    "T-2,saltmere ,70,n/a,2026-05-02,1\n"
    "T-3,Gull Spit,-9,2.5,2026-12-31,0\n"
    "T-4,Gull Spit,,4,2027-01-01,1\n"
    "T-5,Saltmere,82,16,,0\n"
    "T-6,Saltmere,64.5,9,2026-05-03,1\n"
)
TAGS = [f"T-{i}" for i in range(1, 7)]


@pytest.fixture
def small(tmp_path):
    return written(tmp_path, "small.csv", SMALL)


def written(folder, name, content):
    path = folder / name
    path.write_text(content)
    return read_table(path)


def after(table, *steps, others=None):
    return prepared(table, steps, others) if others else prepared(table, steps)


def told(table, *steps):
    return [stage.told for stage in stages(table, steps)]


def tags(table):
    return list(table.column("tag").texts) if table.rows else []


# Missing codes


def test_several_codes_are_missing_and_what_stood_there_stays_known(small):
    column = after(small, DeclareMissing(variable="length (mm)", codes=(-9.0, 82.0))).columns[2]
    assert shown(column) == [64.5, 70, None, None, None, 64.5]
    assert column.missing_as == {"blank": 1, "−9": 1, "82": 1}
    assert [column.stood.word_at(row) for row in range(6)] == [None, None, "−9", None, "82", None]


def test_a_level_or_a_label_may_be_a_code(small):
    bay, tag = after(
        small,
        DeclareMissing(variable="bay", codes=("Gull Spit",)),
        DeclareMissing(variable="tag", codes=("T-2",)),
    ).columns[1::-1]
    assert shown(tag)[:2] == ["T-1", None] or shown(bay)[:2] == ["T-1", None]
    table = after(small, DeclareMissing(variable="bay", codes=("Gull Spit",)))
    assert shown(table.columns[1])[2:4] == [None, None]
    assert "Gull Spit" not in table.columns[1].levels
    assert dict(table.columns[1].missing_as) == {"“Gull Spit”": 2}


# Kinds


def test_a_number_becomes_a_category_and_comes_back_as_it_was(small):
    there = after(small, ChangeKind(variable="mass", kind="category")).columns[3]
    assert shown(there) == ["0", None, "2.5", "4", "16", "9"]
    assert there.levels == ("0", "2.5", "4", "9", "16")
    back = after(
        small,
        ChangeKind(variable="mass", kind="category"),
        ChangeKind(variable="mass", kind="number"),
    ).columns[3]
    assert shown(back) == shown(small.columns[3])
    assert dict(back.missing_as) == dict(small.columns[3].missing_as)


def test_text_with_a_few_words_becomes_numbers_and_what_is_none_stays_reachable(tmp_path):
    rows = ["1.5", "2,5", "n/a", "broken", "3", "broken", "lost", ""]
    table = written(tmp_path, "m.csv", "mass;x\n" + "".join(f"{row};1\n" for row in rows))
    assert table.columns[0].kind in ("category", "label")
    stage = stages(table, [ChangeKind(variable="mass", kind="number", decimal=",")])[0]
    mass = stage.table.columns[0]
    assert shown(mass) == [None, 2.5, None, None, 3, None, None, None]
    assert dict(mass.missing_as) == {"blank": 1, "n/a": 1, "broken": 2, "lost": 1, "1.5": 1}
    assert stage.told == "4 values have no place in it"
    assert mass.stood.word_at(3) == "broken"
    again = after(
        table,
        ChangeKind(variable="mass", kind="number", decimal=","),
        ChangeKind(variable="mass", kind="label"),
    ).columns[0]
    assert shown(again)[3] is None or shown(again)[3] == "broken"


NOTATIONS = [
    ("1,234.5", {"thousands": ","}, 1234.5),
    ("1.234,5", {"decimal": ",", "thousands": "."}, 1234.5),
    ("1 234,5", {"decimal": ",", "thousands": " "}, 1234.5),
    ("1'234.5", {"thousands": "'"}, 1234.5),
    ("12,5 mm", {"decimal": ",", "unit": "mm"}, 12.5),
    ("−3.5", {}, -3.5),
    ("1e3", {}, 1000.0),
    ("+4", {}, 4.0),
]


@pytest.mark.parametrize(("text", "how", "number"), NOTATIONS)
def test_numbers_in_every_notation(tmp_path, text, how, number):
    table = written(tmp_path, "n.tsv", f"x\ty\n{text}\t1\nword\t2\nother\t3\n")
    column = after(table, ChangeKind(variable="x", kind="number", **how)).columns[0]
    assert shown(column) == [number, None, None]


DATES = [
    ("31.05.2026", "", "2026-05-31"),
    ("05/31/2026", "", "2026-05-31"),
    ("01/02/2026", "day month year", "2026-02-01"),
    ("01/02/2026", "month day year", "2026-01-02"),
    ("2026-05-31T14:30", "", "2026-05-31 14:30"),
    ("2026-05-31T14:30:00+02:00", "", "2026-05-31 12:30"),
    ("20260531", "year month day", "2026-05-31"),
    ("31 May 2026", "", "2026-05-31"),
]


@pytest.mark.parametrize(("text", "order", "day"), DATES)
def test_dates_in_every_order(tmp_path, text, order, day):
    table = written(tmp_path, "d.csv", f"x,y\n{text},1\n{text},2\nword,3\n")
    column = after(table, ChangeKind(variable="x", kind="date/time", order=order)).columns[0]
    assert shown(column) == [day, day, None]
    assert dict(column.missing_as) == {"word": 1}


@pytest.mark.parametrize(
    ("written_as", "order", "moment"),
    [
        ("1772353800", "seconds since 1970", "2026-03-01 08:30"),
        ("1772353800000", "milliseconds since 1970", "2026-03-01 08:30"),
        ("1772353800000000", "microseconds since 1970", "2026-03-01 08:30"),
        ("44197.75", "days since 1900", "2021-01-01 18:00"),
    ],
)
def test_moments_that_are_counted_are_dates_as_told_from_them_or_as_asked(
    tmp_path, written_as, order, moment
):
    table = written(tmp_path, "s.csv", f"t,x\n{written_as},1\n,2\n")
    for asked in ("", order):
        column = after(table, ChangeKind(variable="t", kind="date/time", order=asked)).columns[0]
        assert (column.kind, shown(column)) == ("date/time", [moment, None])
    other = ChangeKind(variable="t", kind="date/time", order="seconds since 1970")
    assert (shown(after(table, other).columns[0])[0] == moment) == (order == other.order)
    back = ChangeKind(variable="t", kind="number")
    again = after(table, ChangeKind(variable="t", kind="date/time", order=order), back)
    assert again.columns[0].values[0] == float(written_as)


def test_whole_numbers_among_others_are_levels_without_a_point():
    half = NumberColumn("half", values=np.array([0.0, 0.5, 1.0, np.nan, -2.0]))
    column = after(Table("t", (half,)), ChangeKind(variable="half", kind="category")).columns[0]
    assert shown(column) == ["0", "0.5", "1", None, "-2"]


def test_zeros_and_ones_become_yes_and_no_and_get_names(small):
    table = after(
        small,
        ChangeKind(variable="cracked", kind="yes/no"),
        RenameLevels(variable="cracked", become={"0": "no", "1": "yes"}),
    )
    cracked = table.columns[5]
    assert (cracked.kind, cracked.levels) == ("yes/no", ("no", "yes"))
    assert shown(cracked) == ["no", "yes", "no", "yes", "no", "yes"]


@pytest.mark.parametrize(
    ("step", "words"),
    [
        ({"kind": "category"}, "Mass is read as a category."),
        ({"kind": "ordered category"}, "Mass is read as an ordered category."),
        (
            {"kind": "number", "decimal": ",", "unit": "g"},
            "Mass is read as a number, decimal “,”, in g.",
        ),
    ],
)
def test_how_a_kind_was_changed_is_a_sentence(step, words):
    assert ChangeKind(variable="Mass", **step).words == words


def test_more_than_two_are_not_yes_and_no(small):
    with pytest.raises(StepError, match=r"Step 1, “mass is read as yes or no\.”, cannot be done"):
        after(small, ChangeKind(variable="mass", kind="yes/no"))


# Names, levels, bounds


def test_levels_that_differ_by_case_become_one_and_the_counts_add_up(small):
    assert len(small.columns[1].levels) == 3
    step = RenameLevels(variable="bay", become={"saltmere ": "Saltmere"})
    bay = after(small, step).columns[1]
    assert bay.levels == ("Gull Spit", "Saltmere")
    assert bay.level_counts.tolist() == [2, 4]
    assert step.words == "In bay, “saltmere ” became Saltmere."
    assert told(small, step) == ["1 row"]


def test_the_order_of_levels_is_the_users(small):
    step = OrderLevels(variable="bay", levels=("saltmere ", "Gull Spit"))
    bay = after(small, step).columns[1]
    assert (bay.kind, bay.levels) == ("ordered category", ("saltmere ", "Gull Spit", "Saltmere"))
    assert shown(bay) == shown(small.columns[1])


def test_a_name_and_a_unit_are_for_the_reader(small):
    column = after(small, Describe(variable="mass", label="Wet mass", unit="g")).columns[3]
    assert (column.name, column.label, column.unit) == ("mass", "Wet mass", "g")


def test_bounds_are_noted_and_what_lies_beyond_is_counted(small):
    step = Bound(variable="length (mm)", lower=0.0, upper=80.0)
    column = after(small, step).columns[2]
    assert (column.lower, column.upper) == (0, 80)
    assert told(small, step) == ["2 values lie beyond"]
    with pytest.raises(StepError, match="must rise"):
        after(small, Bound(variable="length (mm)", lower=1.0, upper=0.0))


# Rows

KEPT = [
    ({"levels": ("Saltmere",)}, "bay", ["T-1", "T-5", "T-6"]),
    ({"levels": ("Saltmere",), "other": True}, "bay", ["T-2", "T-3", "T-4"]),
    ({"low": 64.5, "high": 70.0}, "length (mm)", ["T-1", "T-2", "T-6"]),
    ({"low": 64.5, "high": 70.0, "other": True}, "length (mm)", ["T-3", "T-5"]),
    ({"low": 70.0}, "length (mm)", ["T-2", "T-5"]),
    ({"above": 64.5, "high": 82.0}, "length (mm)", ["T-2", "T-5"]),
    ({"low": 64.5, "below": 70.0}, "length (mm)", ["T-1", "T-6"]),
    ({"below": 64.5}, "length (mm)", ["T-3"]),
    ({"above": "2026-05-02"}, "day", ["T-3", "T-4", "T-6"]),
    ({"below": "2026-05-02"}, "day", ["T-1"]),
    ({"missing": True}, "length (mm)", ["T-4"]),
    ({"missing": False}, "length (mm)", ["T-1", "T-2", "T-3", "T-5", "T-6"]),
    ({"contains": "SALT"}, "bay", ["T-1", "T-2", "T-5", "T-6"]),
    ({"contains": "-3"}, "tag", ["T-3"]),
    ({"low": "2026-05-02", "high": "2026-12-31"}, "day", ["T-2", "T-3", "T-6"]),
    ({"levels": ("64.5",)}, "length (mm)", ["T-1", "T-6"]),
]


@pytest.mark.parametrize(("what", "variable", "kept"), KEPT)
def test_rows_are_kept_by_a_condition(small, what, variable, kept):
    step = KeepRows(where=(Condition(variable=variable, **what),))
    table = after(small, step)
    assert tags(table) == kept
    assert (table.of_rows, table.rows) == (6, len(kept))
    assert told(small, step) == [f"{len(kept)} of 6 rows"]
    out = after(small, KeepRows(where=step.where, out=True))
    assert tags(out) == [tag for tag in TAGS if tag not in kept]


def test_conditions_combine(small):
    both = (Condition(variable="bay", levels=("Saltmere",)), Condition(variable="mass", low=9.0))
    assert tags(after(small, KeepRows(where=both))) == ["T-5", "T-6"]
    assert tags(after(small, KeepRows(where=both, any=True))) == ["T-1", "T-5", "T-6"]


def test_what_is_missing_stays_counted_where_rows_go(small):
    table = after(
        small,
        DeclareMissing(variable="length (mm)", codes=(-9.0,)),
        KeepRows(where=(Condition(variable="tag", contains="T"),)),
        KeepRows(where=(Condition(variable="mass", missing=False),)),
    )
    length = table.columns[2]
    assert tags(table) == ["T-1", "T-3", "T-4", "T-5", "T-6"]
    assert dict(length.missing_as) == {"blank": 1, "−9": 1}
    assert [length.stood.word_at(row) for row in range(5)] == [None, "−9", None, None, None]
    assert table.of_rows == 6


def test_kept_rows_know_their_number_in_the_file(small):
    table = after(small, KeepRows(where=(Condition(variable="bay", levels=("Saltmere",)),)))
    again = after(table, KeepRows(where=(Condition(variable="mass", low=9.0),)))
    assert [table.row_number(row) for row in range(3)] == [1, 5, 6]
    assert [again.row_number(row) for row in range(2)] == [5, 6]


# Derived variables

MASS = [0, None, 2.5, 4, 16, 9]
MADE = [
    ("log", {}, [None, None, math.log10(2.5), math.log10(4), math.log10(16), math.log10(9)]),
    ("log", {"base": 2.0}, [None, None, math.log2(2.5), 2, 4, math.log2(9)]),
    ("log", {"base": "e"}, [None, None, math.log(2.5), math.log(4), math.log(16), math.log(9)]),
    ("root", {}, [0, None, math.sqrt(2.5), 2, 4, 3]),
    ("reciprocal", {}, [None, None, 0.4, 0.25, 0.0625, 1 / 9]),
    (
        "standardised",
        {},
        [None if v is None else (v - 6.3) / np.std([0, 2.5, 4, 16, 9], ddof=1) for v in MASS],
    ),
]


@pytest.mark.parametrize(("by", "how", "expected"), MADE)
def test_a_variable_is_made_of_one(small, by, how, expected):
    table = after(small, Make(name="new", by=by, of=("mass",), **how))
    got = shown(table.columns[-1])
    assert [v is None for v in got] == [v is None for v in expected]
    assert [v for v in got if v is not None] == pytest.approx(
        [v for v in expected if v is not None]
    )


def test_a_variable_is_made_of_two_and_what_has_no_result_is_counted(small):
    length = [64.5, 70, -9, None, 82, 64.5]
    for by, law in (
        ("difference", lambda a, b: a - b),
        ("sum", lambda a, b: a + b),
        ("ratio", lambda a, b: a / b if b else None),
    ):
        made = after(small, Make(name="new", by=by, of=("length (mm)", "mass"))).columns[-1]
        both = zip(length, MASS, strict=True)
        assert shown(made) == [None if None in pair else law(*pair) for pair in both]
    assert dict(made.missing_as) == {"no Length": 1, "no Mass": 1, "Mass is 0": 1}


def test_what_has_no_logarithm_is_said(small):
    step = Make(name="log", by="log", of=("length (mm)",))
    made = after(small, step).columns[-1]
    assert dict(made.missing_as) == {"no Length": 1, "log of a negative": 1}
    assert "1" in told(small, step)[0]
    assert "none" in told(small, step)[0] or "without" in told(small, step)[0]


def test_a_derived_variable_follows_its_source(small):
    table = after(
        small,
        DeclareMissing(variable="length (mm)", codes=(82.0,)),
        Make(name="half", by="root", of=("length (mm)",)),
    )
    assert shown(table.columns[-1])[4] is None


def test_classes_at_edges_and_by_quantiles(small):
    at = after(small, Make(name="class", by="classes", of=("mass",), edges=(2.5, 9.0))).columns[-1]
    assert shown(at) == ["below 2.5", None, "2.5 to 9", "2.5 to 9", "9 or more", "9 or more"]
    assert at.kind == "ordered category"
    assert dict(at.missing_as) == {"no Mass": 1}
    values = np.arange(100.0)
    table = begun(Values(text="v\n" + "\n".join(f"{v:g}" for v in values)), None)
    for parts in ({}, {"quantiles": 4}):  # as many as are made where no number is asked for
        quarters = after(table, Make(name="q", by="classes", of=("v",), **parts)).columns[-1]
        assert quarters.level_counts.tolist() == [25, 25, 25, 25]


def test_parts_of_dates(small):
    days = [date(2026, 5, 1), date(2026, 5, 2), date(2026, 12, 31), date(2027, 1, 1), None]
    days.append(date(2026, 5, 3))
    for by, law in (
        ("year", lambda d: str(d.year)),
        ("month", lambda d: d.strftime("%B")),
        ("weekday", lambda d: d.strftime("%A")),
    ):
        made = after(small, Make(name="part", by=by, of=("day",))).columns[-1]
        assert shown(made) == [None if d is None else law(d) for d in days]
    with pytest.raises(StepError, match="holds no dates"):
        after(small, Make(name="part", by="year", of=("mass",)))


@given(st.dates(date(1700, 1, 1), date(2300, 12, 31)))
def test_every_date_is_written_and_parted_as_the_calendar_has_it(day):
    days = (day - date(1970, 1, 1)).days
    column = DateColumn("d", values=np.array([float(days)]))
    assert column.written(float(days)) == day.isoformat()
    assert column.written(days + 0.5) == f"{day.isoformat()} 12:00"
    assert date(1970, 1, 1) + timedelta(days=days) == day


# Other tables

SITES = "site,depth\nSaltmere,3\nGull Spit,5\nLee Bank,8\nSaltmere,4\n"


@pytest.fixture
def others(tmp_path):
    (tmp_path / "sites.csv").write_text(SITES)
    return OtherTables([tmp_path])


def brute_join(keep):
    here = [
        (tag, bay)
        for tag, bay in zip(
            TAGS,
            ("Saltmere", "saltmere", "Gull Spit", "Gull Spit", "Saltmere", "Saltmere"),
            strict=True,
        )
    ]
    there = [("Saltmere", 3), ("Gull Spit", 5), ("Lee Bank", 8), ("Saltmere", 4)]
    rows = []
    for tag, bay in here:
        found = [(tag, bay, depth) for site, depth in there if site == bay]
        rows += found or ([(tag, bay, None)] if keep != "matched" else [])
    if keep == "both":
        rows += [(None, site, depth) for site, depth in there if site not in {b for _, b in here}]
    return rows


@pytest.mark.parametrize("keep", ["matched", "this", "both"])
def test_tables_are_joined_as_by_hand(small, others, keep):
    step = Join(file="sites.csv", keys=(("bay", "site"),), keep=keep)
    table = after(small, step, others=others)
    got = [
        (tag, bay.strip() if bay else bay, depth)
        for tag, bay, depth in zip(
            shown(table.column("tag")),
            shown(table.column("bay")),
            shown(table.column("depth")),
            strict=True,
        )
    ]
    assert sorted(got, key=str) == sorted(brute_join(keep), key=str)


def test_what_matches_is_counted_before_it_is_done(small, others):
    match = matching(small, others("sites.csv", None), (("bay", "site"),))
    assert (match.matched, match.unmatched) == ((5, 3), (1, 1))
    assert match.lone == (("saltmere",), ("Lee Bank",))
    assert {keep: match.rows_with(keep) for keep in ("matched", "this", "both")} == {
        keep: len(brute_join(keep)) for keep in ("matched", "this", "both")
    }


def test_a_join_that_would_make_a_billion_rows_is_refused_before_it_is_done(tmp_path):
    many = written(tmp_path, "many.csv", "k,v\n" + "a,1\n" * 40_000)
    with pytest.raises(StepError, match="would make 1,600,000,000 rows"):
        after(many, Join(file="many.csv", keys=("k",)), others=OtherTables([tmp_path]))
    assert MOST_ROWS < 1_600_000_000


@pytest.mark.parametrize(
    "keys", [("Length",), ("Length (mm)",), ("Length [mm]",), ("Length (cm)",)]
)
def test_a_key_may_be_called_by_its_label_or_with_another_unit(tmp_path, keys):
    mine = written(tmp_path, "mine.csv", "Length (mm),a\n1,x\n2,y\n")
    (tmp_path / "theirs.csv").write_text("Length (mm),b\n2,u\n3,w\n")
    step = Join(file="theirs.csv", keys=keys, keep="both")
    table = after(mine, step, others=OtherTables([tmp_path]))
    got = [shown(column) for column in table.columns]
    assert got == [[1, 2, 3], ["x", "y", None], [None, "u", "w"]]


def test_tables_are_stacked_with_a_factor_that_tells_which_is_which(tmp_path, small):
    (tmp_path / "more.csv").write_text("tag,mass,note\nT-7,3,wet\nT-8,n/a,dry\n")
    step = Stack(files=("more.csv",), factor="Year", names=("2026", "2027"))
    table = after(small, step, others=OtherTables([tmp_path]))
    assert table.rows == 8
    assert shown(table.column("Year")) == ["2026"] * 6 + ["2027"] * 2
    assert shown(table.column("mass")) == [0, None, 2.5, 4, 16, 9, 3, None]
    assert dict(table.column("mass").missing_as) == {"n/a": 2}
    assert step.words == "Stacked more.csv beneath; Year tells which is which."
    two = Stack(files=("more.csv", "other.csv"), factor="Year", names=("1", "2", "3"))
    assert two.words == "Stacked 2 files beneath; Year tells which is which."
    assert shown(table.column("bay"))[6:] == [None, None]
    assert shown(table.column("note"))[:6] == [None] * 6
    assert dict(table.column("note").missing_as) == {"not in this table": 6}


def test_columns_are_gathered_into_one_number_and_one_group(tmp_path):
    table = written(tmp_path, "w.csv", "tag,week 1 (mm),week 2 (mm)\na,1,4\nb,,5\nc,3,6\n")
    step = Gather(variables=("week 1 (mm)", "week 2 (mm)"), number="Growth", group="Week")
    long = after(table, step)
    assert shown(long.column("Growth")) == [1, None, 3, 4, 5, 6]
    assert shown(long.column("Week")) == ["week 1"] * 3 + ["week 2"] * 3
    assert shown(long.column("tag")) == ["a", "b", "c"] * 2
    assert (long.column("Growth").unit, dict(long.column("Growth").missing_as)) == (
        "mm",
        {"blank": 1},
    )


# Practice samples and typed values

LAWS = {
    "normal": ({"mean": 70.0, "sd": 10.0}, stats.norm(70, 10)),
    "uniform": ({"low": 2.0, "high": 5.0}, stats.uniform(2, 3)),
    "exponential": ({"mean": 3.0}, stats.expon(scale=3)),
    "gamma": ({"shape": 2.5, "scale": 4.0}, stats.gamma(2.5, scale=4)),
    "lognormal": ({"logmean": 1.0, "logsd": 0.4}, stats.lognorm(0.4, scale=math.e)),
    "beta": ({"a": 2.0, "b": 5.0}, stats.beta(2, 5)),
    "poisson": ({"mean": 4.0}, stats.poisson(4)),
    "binomial": ({"trials": 12.0, "p": 0.3}, stats.binom(12, 0.3)),
    "t": ({"df": 5.0, "mean": 2.0, "scale": 3.0}, stats.t(5, 2, 3)),
}


@pytest.mark.parametrize("name", LAWS)
def test_practice_samples_follow_their_law(name):
    parameters, law = LAWS[name]
    step = Simulate(samples=(Drawn(name="a", distribution=name, n=20_000, parameters=parameters),))
    values = begun(step, None).columns[0].values
    grid = np.quantile(values, [0.05, 0.25, 0.5, 0.75, 0.95])
    shares = [(values <= x).mean() for x in grid]
    assert shares == pytest.approx(law.cdf(grid).tolist(), abs=0.015)
    assert values.mean() == pytest.approx(law.mean(), abs=5 * law.std() / math.sqrt(len(values)))


def test_a_mixture_has_two_humps_in_their_shares():
    parameters = {"mean": 0.0, "sd": 1.0, "mean2": 100.0, "sd2": 1.0, "share": 0.3}
    step = Simulate(
        samples=(Drawn(name="m", distribution="mixture", n=10_000, parameters=parameters),)
    )
    values = begun(step, None).columns[0].values
    assert (values < 50).mean() == pytest.approx(0.3, abs=0.02)


def test_samples_are_the_same_for_a_seed_and_do_not_change_one_another():
    first = Drawn(name="a", n=50)
    alone = begun(Simulate(samples=(first,), seed=7), None)
    both = begun(
        Simulate(samples=(first, Drawn(name="b", distribution="beta", n=30)), seed=7), None
    )
    assert both.columns[0].values[:50].tolist() == alone.columns[0].values.tolist()
    assert shown(both.columns[1]) == ["a"] * 50 + ["b"] * 30
    other = begun(Simulate(samples=(first,), seed=8), None)
    assert other.columns[0].values.tolist() != alone.columns[0].values.tolist()


def test_every_distribution_draws_with_its_usual_parameters():
    for name in DISTRIBUTIONS:
        assert begun(Simulate(samples=(Drawn(name="a", distribution=name),)), None).rows == 100


@pytest.mark.parametrize(
    ("parameters", "words"),
    [({"sd": 0.0}, "sd must be above 0"), ({"p": 1.0}, "has no p"), ({"sd": math.inf}, "finite")],
)
def test_parameters_that_make_no_sense_are_refused(parameters, words):
    with pytest.raises(ValueError, match=words):
        Drawn(name="a", parameters=parameters)


def test_typed_values_are_read_like_a_file():
    table = begun(Values(text="21\n24.5\n19\n"), None)
    assert (table.name, shown(table.columns[0])) == ("Typed values", [21, 24.5, 19])
    table = begun(Values(text="score\tclass\n1,5\tA\n2,5\tA\n", name="Scores"), None)
    assert (table.name, [c.name for c in table.columns]) == ("Scores", ["score", "class"])
    assert shown(table.columns[0]) == [1.5, 2.5]


# The list of steps


def test_a_step_that_is_struck_out_does_nothing_and_stays_in_its_place(small):
    keep = KeepRows(where=(Condition(variable="bay", levels=("Saltmere",)),), off=True)
    done = stages(small, [keep, DeclareMissing(variable="length (mm)", codes=(-9.0,))])
    assert [stage.told for stage in done] == ["struck out", "1 value"]
    assert done[-1].table.rows == 6


def test_only_what_a_change_touches_is_done_again(small):
    steps = [
        DeclareMissing(variable="length (mm)", codes=(-9.0,)),
        Describe(variable="mass", label="Wet mass"),
        Describe(variable="mass", unit="g"),
    ]
    before = stages(small, steps)
    now = stages(small, [*steps[:2], Describe(variable="mass", unit="kg")], known=before)
    assert now[0] is before[0]
    assert now[1] is before[1]
    assert now[2].table.columns[3].unit == "kg"


def test_a_beginning_stands_first_or_is_refused(small):
    assert told(small, Read(separator=","))[0] == "6 rows, 6 variables"
    for late in (Read(), Simulate(samples=(Drawn(name="a"),)), Values(text="1")):
        with pytest.raises(StepError, match="Move it up"):
            after(small, Describe(variable="mass", unit="g"), late)
    with pytest.raises(Refusal, match="without it there are none"):
        begun(Values(text="1", off=True), None)


@pytest.mark.parametrize(
    "step",
    [
        ChangeKind(variable="lost", kind="number"),
        KeepRows(where=(Condition(variable="lost", missing=True),)),
        Make(name="x", by="log", of=("lost",)),
        Gather(variables=("mass", "lost"), number="n", group="g"),
        RenameLevels(variable="lost", become={"a": "b"}),
        Bound(variable="lost", lower=0.0),
    ],
)
def test_a_step_about_a_variable_that_is_not_there_says_which_step_it_is(small, step):
    with pytest.raises(VariableError, match=r"^Step 1, “.*no variable “lost”"):
        after(small, step)


def test_every_step_is_a_sentence_that_ends():
    for step in (
        DeclareMissing(variable="a", codes=(-9.0, "x")),
        ChangeKind(variable="a", kind="number", decimal=","),
        Describe(variable="a", label="A", unit="mm"),
        Describe(variable="a", label="A"),
        Describe(variable="a", unit=""),
        RenameLevels(variable="a", become={"x": "y", "z": "y"}),
        OrderLevels(variable="a", levels=("x", "y", "z")),
        Bound(variable="a", lower=0.0),
        KeepRows(where=(Condition(variable="a", low=1.0, high=2.0),)),
        Make(name="b", by="log", of=("a",)),
        Join(file="f.csv", keys=("a",)),
        Stack(files=("f.csv", "g.csv")),
        Gather(variables=("a", "b"), number="n", group="g"),
        Read(separator=";"),
        Simulate(samples=(Drawn(name="a"),)),
        Values(text="1"),
    ):
        assert step.words.endswith(".")
        assert len({step, step}) == 1
        assert step.words[0].isupper() or step.words.startswith(("a ", "b ", "log"))
        assert (
            any(piece.choice for piece in step.describe()) or step.words == "a is without a unit."
        )
        assert step.words != "a is called A, without a unit."  # of which nothing was said


def test_numbers_come_out_of_parquet_and_csv_as_they_went_in(tmp_path, small):
    from rhabdos.data.files.writing import written as bytes_of

    for ending in (".csv", ".parquet"):
        path = tmp_path / f"out{ending}"
        path.write_bytes(bytes_of(small, ending))
        back = read_table(path)
        assert [shown(c) for c in back.columns] == [shown(c) for c in small.columns]
        assert [c.kind for c in back.columns] == [c.kind for c in small.columns]
    with pytest.raises(Refusal, match="no format that tables are written in"):
        bytes_of(small, ".doc")


def test_a_number_column_with_nothing_in_it_can_be_made_of():
    empty = NumberColumn("e", values=np.full(3, np.nan), missing_as={"blank": 3})
    from rhabdos.data.table import Table

    made = after(Table("t", (empty,)), Make(name="l", by="log", of=("e",))).columns[-1]
    assert (made.n, dict(made.missing_as)) == (0, {"no e": 3})


@pytest.mark.parametrize(
    "values", [[3.0, 1, 2, 1, math.nan], [-5.0, -7, -5], [1e9, 2e9], [0.5, 1], [math.nan], []]
)
def test_whole_numbers_as_levels_are_as_their_texts(values):
    from rhabdos.data.table import Table

    gone = sum(math.isnan(v) for v in values)
    column = NumberColumn("v", values=np.array(values), missing_as={"blank": gone} if gone else {})
    table = Table("t", (column,))
    if len(values) == gone:
        return
    made = after(table, ChangeKind(variable="v", kind="category")).columns[0]
    expected = [None if math.isnan(v) else f"{v:.15g}" for v in values]
    assert [text if text is None else f"{float(text):.15g}" for text in shown(made)] == expected
    assert list(made.levels) == sorted(made.levels, key=float)
    back = after(
        table, ChangeKind(variable="v", kind="category"), ChangeKind(variable="v", kind="number")
    ).columns[0]
    assert shown(back) == shown(column)


@pytest.mark.parametrize("kinds", [2, 4, 6, 12, 40, 200])
@pytest.mark.parametrize("left", [1, 2, 3, 5, 30])
def test_levels_of_which_no_row_is_left_go_and_the_others_keep_their_rows(kinds, left):
    rng = np.random.default_rng(kinds + left)
    names = tuple(f"Bay {place}" for place in range(kinds))
    codes = rng.integers(-1, kinds, 300_000).astype(np.int8 if kinds < 128 else np.int16)
    column = CategoryColumn("Bay", codes=codes, levels=names, missing_as={"blank": 1})
    wanted = tuple(names[place] for place in range(kinds - 1, -1, -2)[:left])
    step = KeepRows(where=(Condition(variable="Bay", levels=wanted),))
    kept = step.apply(Table("t", (column,)), no_others).table.column("Bay")
    before = [names[code] for code in codes.tolist() if code >= 0 and names[code] in wanted]
    assert [kept.levels[code] for code in kept.codes.tolist()] == before
    assert set(kept.levels) == set(wanted)


@pytest.mark.parametrize(
    ("samples", "said"),
    [
        (1, "10 of s0: "),
        (2, " and 10 of s1: "),
        (3, ", 10 of s1: "),
        (4, " and 1 more sample, by seed 3."),
        (6, " and 3 more samples, by seed 3."),
    ],
)
def test_practice_samples_are_said_one_by_one_and_then_in_number(samples, said):
    drawn = tuple(Drawn(name=f"s{k}", distribution="normal", n=10) for k in range(samples))
    words = Simulate(samples=drawn, seed=3).words
    assert said in words
    assert words.count(" of s") == min(samples, 3)
    assert ("more" in words) == (samples > 3)


@given(
    st.datetimes(datetime(1902, 1, 1), datetime(2100, 12, 31)),
    st.sampled_from([0, 1, -1, 2, 999_999]),
)
def test_an_hour_is_that_of_the_clock_to_the_last_microsecond(moment, beside):
    """Also just before and after a full hour, and in the last moment of a day."""
    moment = moment.replace(minute=0, second=0, microsecond=0) + timedelta(microseconds=beside)
    days = np.datetime64(moment, "us").astype(np.int64) / 86_400e6
    table = Table("t", (DateColumn("d", values=np.array([days])),))
    (hour,) = after(table, Make(name="h", by="hour", of=("d",))).columns[-1].levels
    assert hour == moment.strftime("%H:00")


@given(st.datetimes(datetime(1902, 1, 1), datetime(2100, 12, 31)), st.booleans())
def test_a_moment_lies_within_a_range_that_names_it_or_its_day(moment, last):
    if last:
        moment = moment.replace(hour=23, minute=59, second=59, microsecond=999_999)
    days = np.datetime64(moment, "us").astype(np.int64) / 86_400e6
    table = Table("t", (DateColumn("d", values=np.array([days])),))
    day, now = moment.date().isoformat(), moment.isoformat(sep=" ")

    def kept(**ends):
        return after(table, KeepRows(where=(Condition(variable="d", **ends),))).rows

    assert kept(low=day, high=day) == kept(low=now, high=now) == 1
    assert kept(below=day) == kept(above=day) == kept(above=now) == kept(below=now) == 0
    assert kept(above=(moment.date() - timedelta(days=1)).isoformat()) == 1
    assert kept(high=(moment.date() - timedelta(days=1)).isoformat()) == 0


@pytest.mark.parametrize(
    ("here", "there", "levels", "kind"),
    [
        ("yes no yes no", "may no lost may lost no", ("lost", "may", "no", "yes"), "category"),
        ("no NA yes no", "maybe NA maybe yes no", ("maybe", "no", "yes"), "category"),
        ("no no yes yes", "yes no yes no", ("no", "yes"), "yes/no"),
        ("no no no no", "yes yes yes yes", ("no", "yes"), "yes/no"),
    ],
)
def test_stacked_yes_and_no_with_a_third_word_are_a_category(tmp_path, here, there, levels, kind):
    tables = [
        f"x,sold\n{chr(10).join(f'1,{word}' for word in side.split())}\n" for side in (here, there)
    ]
    for name, text in zip(("here.csv", "there.csv"), tables, strict=True):
        (tmp_path / name).write_text(text)
    others = OtherTables([tmp_path])
    step = Stack(files=(str(tmp_path / "there.csv"),))
    stacked = prepared(read_table(tmp_path / "here.csv"), (step,), others).column("sold")
    assert (stacked.levels, stacked.kind) == (levels, kind)
    words = [*here.split(), *there.split()]
    assert shown(stacked) == [word if word != "NA" else None for word in words]


def test_a_third_word_in_a_yes_and_no_makes_it_a_category():
    table = begun(Values(text="x\tsold\n1\tyes\n2\tno\n3\t\n4\tyes\n5\tno\n6\t\n"), None)
    assert table.column("sold").kind == "yes/no"
    made = after(table, Recode(variable="sold", become={"": "lost"})).column("sold")
    assert (made.levels, made.kind) == (("lost", "no", "yes"), "category")
    assert shown(made) == ["yes", "no", "lost", "yes", "no", "lost"]
    back = after(
        table,
        Recode(variable="sold", become={"": "lost"}),
        Recode(variable="sold", become={"lost": "yes"}),
    ).column("sold")
    assert (back.levels, back.kind) == (("no", "yes"), "yes/no")


def test_what_two_sources_lack_is_told_once_and_what_comes_back_is_no_loss(tmp_path):
    holes = Table("t", (NumberColumn("x", values=np.array([1, np.nan, np.nan, 4.0])),))
    assert told(holes, Make(name="d", by="sum", of=("x", "x"))) == ["2 values"]
    table = written(tmp_path, "v.csv", "v\n" + "1\n2\n" * 40 + "much\nmore\n")
    kinds = (ChangeKind(variable="v", kind="number"), ChangeKind(variable="v", kind="label"))
    assert told(table, *kinds)[1] == "82 values, of which 2 are back"


def test_groups_that_are_named_alike_get_names_of_their_own():
    named = zip("pqr", ("a", "a (2)", "a"), strict=True)
    table = Table("t", tuple(NumberColumn(n, label, values=np.ones(2)) for n, label in named))
    gathered = after(table, Gather(variables=("p", "q", "r"), number="n", group="k"))
    assert gathered.column("k").levels == ("a", "a (2)", "a (3)")


def test_a_number_is_found_as_cells_show_it():
    table = Table("t", (NumberColumn("x", values=np.array([0.1 + 0.2, 0.3, 1 / 3, 1e-7, 9e12])),))
    for text, rows in (("0.3", 2), ("0.333333333333", 1), ("1 × 10⁻⁷", 1), ("9000000000001", 0)):
        kept = after(table, KeepRows(where=(Condition(variable="x", levels=(text,)),)))
        changed = after(table, Recode(variable="x", become={text: "7"}))
        assert kept.rows == (changed.column("x").values == 7).sum() == rows
    assert as_factor(table.column("x")).levels[:3] == ("1e-07", "0.3", "0.333333333333333")


def test_dates_are_groups_and_cut_into_classes_as_dates():
    days = np.array([date(2026, month, 1).toordinal() - 719_163.0 for month in (2, 3, 3)])
    table = Table("t", (DateColumn("Landed", values=days),))
    assert as_factor(table.column("Landed")).levels == ("2026-02-01", "2026-03-01")
    step = Make(name="c", by="classes", of=("Landed",), edges=("2026-03-01",))
    assert after(table, step).column("c").levels == ("below 2026-03-01", "2026-03-01 or more")
    assert step.words == "c is Landed, cut at 2026-03-01."
    with pytest.raises(ValueError, match="must rise"):
        Make(name="c", by="classes", of=("Landed",), edges=("2026-03-01", "2026-02-01"))


@given(
    st.integers(-(10**15), 4 * 10**15), st.sampled_from([0.0, 1e-12, 4e-12, 1e-9, -1e-11, -1e-5])
)
def test_a_bound_that_is_written_parts_moments_as_the_number_does(microseconds, off):
    value = microseconds / 86_400e6
    end = value + off
    first, last = (bound_written(end, upper, not upper) for upper in (False, True))
    start, close = date_bound(first, False), date_bound(last, True)
    assert (value >= start, value < start) == (value >= end, value < end)
    assert (value <= close, value > close) == (value <= end, value > end)
