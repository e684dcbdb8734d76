"""Cells as people read them, rows that are found, and rows in order."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhabdos.data.cells import cell_reader, kind_words
from rhabdos.data.columns import CategoryColumn, DateColumn, LabelColumn, NumberColumn, Stood
from rhabdos.data.finding import in_order, rows_with
from rhabdos.data.table import Table

STOOD = Stood(np.array([1]), np.array([0]), ("−9",))
LENGTH = NumberColumn(
    "Length", unit="mm", values=np.array([64.5, np.nan, 70, np.nan]), stood=STOOD,
    missing_as={"−9": 1, "blank": 1},
)  # fmt: skip
BAY = CategoryColumn(
    "Bay", codes=np.array([1, 0, -1, 1]), levels=("Gull Spit", "Saltmere"), missing_as={"blank": 1}
)
TAG = LabelColumn("Tag", texts=["T-10", "T-2", None, "T-1"], distinct=3, missing_as={"blank": 1})
DAY = DateColumn("Day", values=np.array([0.0, 0.5, np.nan, 365]), missing_as={"blank": 1})
TABLE = Table("t", (LENGTH, BAY, TAG, DAY))


def test_cells_say_what_stands_there_and_what_stood():
    shown = [[cell_reader(c)(row).text for row in range(4)] for c in TABLE.columns]
    assert shown == [
        ["64.5", "−9 · missing", "70.0", "missing"],
        ["Saltmere", "Gull Spit", "missing", "Saltmere"],
        ["T-10", "T-2", "missing", "T-1"],
        ["1970-01-01", "1970-01-01 12:00", "missing", "1971-01-01"],
    ]
    assert cell_reader(LENGTH)(1).missing
    assert not cell_reader(LENGTH)(0).missing


@pytest.mark.parametrize(
    ("values", "first"),
    [
        ([1.0, 2], "1"),
        ([1.25, 2], "1.25"),
        ([1 / 3, 2], "0.333"),
        ([1e300, 2], "1 × 10³⁰⁰"),
        ([-0.5, 2], "−0.5"),
    ],
)
def test_numbers_of_a_column_have_as_many_places(values, first):
    assert cell_reader(NumberColumn("v", values=np.array(values)))(0).text == first


def test_headers_tell_unit_kind_and_what_was_made():
    assert [kind_words(c) for c in TABLE.columns] == ["mm", "2 groups", "label", "date"]
    assert kind_words(NumberColumn("v", made_by="log")) == "made here"


@pytest.mark.parametrize(
    ("sought", "rows"),
    [
        ("salt", [0, 3]), ("T-1", [0, 3]), ("64.5", [0]), ("64,5", [0]), ("−9", [1]),
        ("1971", [3]), ("nothing", []), ("", []), ("70", [0, 1, 2]),
    ],
)  # fmt: skip
def test_rows_are_found_by_text_number_and_what_stood_there(sought, rows):
    assert rows_with(TABLE, sought).tolist() == rows
    within = np.array([3, 0])
    assert rows_with(TABLE, sought, within).tolist() == [row for row in (3, 0) if row in rows]


@pytest.mark.parametrize("unit", [1.0, 1e-7, 1e16, 1 / 3])
@pytest.mark.parametrize("decimals", [0, 1, 3, 15])
def test_a_number_is_found_as_it_is_shown(unit, decimals):
    """Also of a logarithm, of which a few digits are shown, and of halves, which go either way."""
    values = np.random.default_rng(1).lognormal(0, 1.5, 400).round(decimals) * unit
    values[::7] = np.nan
    values[:5] = np.array([0.5, 1.5, 2.5, -0.5, 0.0]) * unit
    column = NumberColumn("v", values=values, missing_as={"blank": 1})
    read = cell_reader(column)
    shown = [read(row).text for row in range(400)]
    for row in (*range(12), 100, 399):
        if not np.isnan(values[row]):
            expected = [at for at, text in enumerate(shown) if text == shown[row]]
            assert rows_with(Table("t", (column,)), shown[row]).tolist() == expected
    written = f"{values[11]:.12g}"  # with more digits than are shown
    assert 11 in rows_with(Table("t", (column,)), written)


def test_a_number_with_a_power_has_its_places():
    few = Table("t", (NumberColumn("v", values=np.array([0.0002, 0.0003, 0.5])),))
    for sought, rows in (
        ("2.5e-4", []),
        ("3 × 10⁻⁴", [1]),
        ("5e-1", [2]),
        ("1e-400", []),
        ("inf", []),
    ):
        assert rows_with(few, sought).tolist() == rows


def test_rows_are_put_in_order_and_those_without_a_value_come_last():
    assert in_order(LENGTH).tolist() == [0, 2, 1, 3]
    assert in_order(LENGTH, falling=True).tolist() == [2, 0, 1, 3]
    assert in_order(BAY).tolist() == [1, 0, 3, 2]
    assert in_order(BAY, falling=True).tolist() == [0, 3, 1, 2]
    assert in_order(TAG).tolist() == [3, 0, 1, 2]
    assert in_order(LENGTH, within=np.array([3, 2, 0])).tolist() == [0, 2, 3]


@given(st.lists(st.one_of(st.none(), st.integers(-3, 3)), min_size=1, max_size=30), st.booleans())
def test_order_is_that_of_a_stable_sort(values, falling):
    column = NumberColumn("v", values=np.array([np.nan if v is None else v for v in values], float))
    known = [row for row, v in enumerate(values) if v is not None]
    expected = sorted(known, key=lambda row: -values[row] if falling else values[row])
    lacking = [row for row, v in enumerate(values) if v is None]
    assert in_order(column, falling).tolist() == expected + lacking
