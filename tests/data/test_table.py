"""Names, tables, samples and the demo data."""

import bisect

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, LabelColumn, NumberColumn
from rhabdos.data.demo import BAYS, demo_csv, demo_table
from rhabdos.data.fields.units import label_and_unit
from rhabdos.data.files.reading import read_table
from rhabdos.data.gathering import can_split, gather
from rhabdos.data.samples import Sample
from rhabdos.data.table import Table, VariableError
from rhabdos.stats.summary import summarise


@pytest.mark.parametrize(
    ("name", "label", "unit"),
    [
        ("Shell length (mm)", "Shell length", "mm"), ("Salinity [psu]", "Salinity", "psu"),
        ("air temp in °C", "air temp", "°C"), ("born in Wick", "born in Wick", ""),
        ("shell_length_mm", "Shell length", "mm"), ("meat_yield_pct", "Meat yield", "%"),
        ("BMI_group", "BMI group", ""), ("v (2)", "v (2)", ""), ("pH", "pH", ""), ("g", "g", ""),
        ("_", "_", ""), ("two  blanks", "two blanks", ""),
    ],
)  # fmt: skip
def test_a_name_becomes_words_and_a_unit(name, label, unit):
    assert label_and_unit(name) == (label, unit)


def small_table() -> Table:
    return Table(
        "small",
        (
            NumberColumn(
                "Shell length (mm)",
                values=np.array([3.0, 1.0, np.nan, 2.0, 5.0]),
                missing_as={"blank": 1},
            ),
            CategoryColumn(
                "Bay",
                codes=np.array([0, 1, 0, -1, 0], np.int8),
                levels=("A", "B"),
                missing_as={"blank": 1},
            ),
            NumberColumn("Cracked", values=np.array([0.0, 1, 0, 1, 0])),
            LabelColumn("Tag", texts=["a", "b", "c", "d", "e"], distinct=5),
            NumberColumn("Nothing", values=np.full(5, np.nan), missing_as={"blank": 5}),
            CategoryColumn(
                "Empty", codes=np.full(5, -1, np.int8), levels=(), missing_as={"blank": 5}
            ),
        ),
    )


@pytest.mark.parametrize(
    "asked", ["Shell length (mm)", "Shell length", "Shell length (cm)", "shell_length_mm"]
)
def test_a_variable_answers_to_its_name_and_its_label(asked):
    found = small_table().columns[0]
    if asked == "shell_length_mm":
        assert small_table().column(asked).label == "Shell length"
    else:
        assert small_table().column(asked).name == found.name


def test_a_variable_that_is_not_there_is_refused_with_what_is_near():
    with pytest.raises(VariableError, match="“Shel lengt”.*Did you mean “Shell length"):
        small_table().column("Shel lengt")
    with pytest.raises(VariableError, match="It has “Shell length"):
        small_table().column("zzz")


def test_text_is_no_number():
    with pytest.raises(VariableError, match="“Bay” holds text"):
        small_table().number("Bay")


def test_samples_are_sorted_and_count_what_is_missing():
    samples = gather(small_table(), "Shell length", "Bay")
    assert [(s.label, s.values.tolist(), s.missing) for s in samples.samples] == [
        ("A", [3, 5], 1),
        ("B", [1], 0),
        ("no Bay", [2], 0),
    ]
    assert samples.ungrouped == 1
    whole = gather(small_table(), "Shell length").samples[0]
    assert (whole.values.tolist(), whole.missing) == ([1, 2, 3, 5], 1)


def test_samples_of_several_variables_are_called_by_these_first():
    table = Table(
        "t",
        (
            NumberColumn("a", values=np.array([1.0, 2, 3, 4])),
            NumberColumn("b", values=np.array([5.0, 6, 7, 8])),
            CategoryColumn("bay", codes=np.array([0, 0, 1, -1], np.int8), levels=("N", "S")),
        ),
    )
    several = gather(table, ("a", "b"), ("bay",)).samples
    assert [s.label for s in several] == [
        "a, N", "a, S", "a, no Bay", "b, N", "b, S", "b, no Bay"
    ]  # fmt: skip
    assert [s.label for s in gather(table, ("a",), ("bay",)).samples] == ["N", "S", "no Bay"]


def test_the_values_of_the_table_are_left_as_they_were():
    table = small_table()
    before = table.columns[0].values.copy()
    gather(table, "Shell length")
    gather(table, "Shell length", "Bay")
    assert np.array_equal(table.columns[0].values, before, equal_nan=True)


def test_a_number_of_few_values_can_split():
    samples = gather(small_table(), "Shell length", "Cracked")
    assert [(s.label, s.n) for s in samples.samples] == [("0", 2), ("1", 2)]
    assert [c.name for c in can_split(small_table())] == ["Bay", "Shell length (mm)", "Cracked"]


@pytest.mark.parametrize(
    ("split", "reason"), [("Tag", "too many"), ("Empty", "no levels"), ("Elsewhere", "no variable")]
)
def test_what_cannot_split_is_refused(split, reason):
    with pytest.raises(VariableError, match=reason):
        gather(small_table(), "Shell length", split)


def test_a_variable_without_values_is_refused():
    with pytest.raises(VariableError, match="all 5 rows are missing"):
        gather(small_table(), "Nothing")


def test_the_demo_has_the_shapes_that_people_meet(demo):
    assert demo.rows == 2416
    bays = {s.label: s for s in gather(demo, "Shell length", "Bay").samples}
    assert tuple(bays) == BAYS

    def valley(sample):  # values in the middle, against those of the two humps beside it
        middle, low, high = (
            np.diff(sample.below(np.array(part)))[0] for part in ([74, 80], [62, 68], [86, 92])
        )
        return middle / min(low, high)

    assert valley(bays["Saltmere"]) < 0.7
    assert valley(bays["Heron Sound"]) > 2
    mean = {c.name: summarise(gather(demo, c.name).samples[0]) for c in demo.numbers}
    assert mean["Wet mass"].mean > mean["Wet mass"].median
    assert mean["Salinity"].mean < mean["Salinity"].median
    assert mean["Salinity"].max <= 35
    assert np.mean(demo.number("Barnacles").values == 0) > 0.4
    assert np.mean(demo.number("Days to harvest").values % 5 == 0) > 0.6
    assert mean["Grit"].max > 10 * mean["Grit"].q3
    assert set(np.unique(demo.number("Cracked").values)) == {0, 1}
    assert set(demo.number("Wet mass").missing_as) == {"blank", "n/a"}
    assert np.count_nonzero(demo.number("Water temperature").values == -9) > 5
    assert demo.column("Tag").distinct == demo.rows
    assert demo.column("Season").levels == ("Spring", "Summer", "Autumn", "Winter")
    assert len({level.strip().lower() for level in demo.column("Culture").levels}) == 3
    assert len([c for c in demo.numbers if c.name.startswith("Growth week")]) == 6


def test_the_demo_is_the_same_at_every_call_and_as_a_file(tmp_path, demo):
    path = tmp_path / "demo.csv"
    path.write_text(demo_csv())
    for again in (demo_table(), read_table(path)):
        for ours, theirs in zip(demo.columns, again.columns, strict=True):
            assert (ours.kind, ours.label, ours.unit) == (theirs.kind, theirs.label, theirs.unit)
            assert dict(ours.missing_as) == dict(theirs.missing_as)
            if isinstance(ours, NumberColumn):
                assert np.array_equal(ours.values, theirs.values, equal_nan=True)
            elif isinstance(ours, CategoryColumn):
                assert [ours.levels[c] for c in ours.codes] == [
                    theirs.levels[c] for c in theirs.codes
                ]


def test_the_demo_file_in_the_repository_is_this_one(pytestconfig):
    assert (pytestconfig.rootpath / "demo" / "oyster-landings.csv").read_text() == demo_csv()


@pytest.mark.parametrize("extra", [0, 1, 255, 4321])
@pytest.mark.parametrize("shape", ["spread", "tied", "one", "ends"])
def test_many_points_are_found_among_many_values_as_one_by_one(shape, extra):
    rng, n = np.random.default_rng(extra), (1 << 18) + extra
    values = np.sort(
        {
            "spread": rng.normal(0, 1, n),
            "tied": np.round(rng.normal(0, 3, n)),
            "one": np.full(n, 2.0),
            "ends": np.r_[np.full(n - 5, 1.0), 1.0, 2.0, 3.0, 4.0, 5.0],
        }[shape]
    )
    sample = Sample("Saltmere", values)
    own = rng.choice(values, 90)
    for points in (
        rng.normal(0, 3, 500),
        np.r_[own, np.nextafter(own, 9), np.nextafter(own, -9)],
        np.r_[values[:50], values[-50:]],
        np.r_[-np.inf, np.zeros(70), np.inf],
    ):
        listed, order = values.tolist(), np.sort(points)
        for asked in (points, order):
            under = sample.below(asked)
            assert under.tolist() == [bisect.bisect_left(listed, point) for point in asked]
            upto = sample.below(asked, inclusive=True)
            assert upto.tolist() == [bisect.bisect_right(listed, point) for point in asked]
