"""Columns of few rows are the same columns, whichever way they are read."""

import numpy as np
import polars as pl
from hypothesis import given
from hypothesis import strategies as st

from rhabdos.data.columns import CategoryColumn, LabelColumn
from rhabdos.data.fields import kinds
from tests.data.test_formats import shown

_ODD = [
    "", " ", "A", "b", "rock pool", "N/A", "na", "-", "Y", "n", "yes", "No", "12", "1.5 ", "-3",
    "1e5", "1_000", "inf", "nan", "007", "none", "#N/A", "9007199254740993", "1,234", "12,5",
    "$5", "2024-05-01", "09:05", "rack 2", "rack 10", "−4", "+5", ".5", "é",
]  # fmt: skip
FIELDS = st.lists(
    st.one_of(st.none(), st.sampled_from(_ODD), st.text(max_size=4)), min_size=1, max_size=40
)


@given(FIELDS)
def test_few_rows_and_many_are_read_alike(fields):
    series = pl.Series("v", fields, dtype=pl.String)
    quick = kinds.column_from("v", series)
    few, kinds.FEW = kinds.FEW, -1
    try:
        slow = kinds.column_from("v", series)
    finally:
        kinds.FEW = few
    assert (quick.kind, quick.unit, quick.doubts) == (slow.kind, slow.unit, slow.doubts)
    assert shown(quick) == shown(slow)
    assert dict(quick.missing_as) == dict(slow.missing_as)
    words = [
        [c.stood.word_at(at) if c.stood else None for at in range(c.rows)] for c in (quick, slow)
    ]
    assert words[0] == words[1]
    if isinstance(quick, CategoryColumn):
        assert quick.levels == slow.levels
        assert np.array_equal(quick.codes, slow.codes)
    if isinstance(quick, LabelColumn):
        assert quick.distinct == slow.distinct
