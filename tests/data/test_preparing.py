"""Preparing: steps from the table that was read to the one that is drawn."""

import math

import numpy as np
import polars as pl
import pytest

from rhabdos.data.columns import CategoryColumn, NumberColumn, Stood
from rhabdos.data.gathering import gather
from rhabdos.data.preparing import DeclareMissing, prepared
from rhabdos.data.rows import with_rows
from rhabdos.data.steps.step import no_others
from rhabdos.data.table import Table, VariableError
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.project.document import Document, Figure, Source
from rhabdos.project.making import make
from rhabdos.project.store import Store
from tests.conftest import asking


def table(*values, missing_as=None):
    length = NumberColumn("Length", values=np.array(values), missing_as=missing_as or {})
    bay = CategoryColumn("Bay", codes=np.zeros(len(values), np.int8), levels=("A",), missing_as={})
    return Table("t", (length, bay))


def test_a_declared_code_is_missing_and_nothing_else_changes():
    before = table(1.0, -9, 3, -9, math.nan, missing_as={"blank": 1})
    after = prepared(before, (DeclareMissing(variable="Length", codes=(-9.0,)),))
    column = after.number("Length")
    assert np.array_equal(column.values, [1, math.nan, 3, math.nan, math.nan], equal_nan=True)
    assert dict(column.missing_as) == {"blank": 1, "−9": 2}
    assert (column.n, column.missing) == (2, 3)
    assert after.columns[1] is before.columns[1]
    assert before.number("Length").n == 4
    sample = gather(after, "Length").samples[0]
    assert (sample.n, sample.missing) == (2, 3)


def test_a_code_that_is_not_there_changes_nothing_and_steps_follow_one_another():
    before = table(1.0, 99, -9)
    assert prepared(before, (DeclareMissing(variable="Length", codes=(5.0,)),)) is before
    both = prepared(
        before,
        (
            DeclareMissing(variable="Length", codes=(99.0,)),
            DeclareMissing(variable="Length", codes=(-9.0,)),
        ),
    )
    assert both.number("Length").n == 1
    assert dict(both.number("Length").missing_as) == {"99": 1, "−9": 1}


@pytest.mark.parametrize(
    ("stood", "left"),
    [
        (None, {"n/a": 3}),  # of which it is not known where each stood
        (Stood(np.array([1, 2]), np.array([0, 1]), ("n/a", "?")), {"?": 1, "blank": 2}),
    ],
)
def test_what_is_missing_of_rows_that_are_kept_is_counted_by_what_stood_there(stood, left):
    values = np.array([1.0, *[math.nan] * 4, 6.0])
    length = NumberColumn("Length", values=values, missing_as={"n/a": 2, "?": 2}, stood=stood)
    kept = with_rows(Table("t", (length,)), pl.Series([True, False, True, True, True, False]))
    assert dict(kept.number("Length").missing_as) == left
    assert kept.number("Length").missing == 3


def test_a_step_for_another_table_is_refused():
    with pytest.raises(VariableError, match="no variable “Mass”"):
        prepared(table(1.0), (DeclareMissing(variable="Mass", codes=(1.0,)),))


def test_the_notice_of_a_code_offers_to_count_it_as_missing():
    values = [*(60 + np.arange(200.0) % 30).tolist(), -9.0, -9.0, -9.0]
    samples = gather(table(*values), "Length")
    (notice,) = [n for n in notices(read(asking(), samples)) if n.code == "missing-code"]
    ((words, step),) = notice.offers
    assert (words, step) == (
        "count −9 as missing",
        DeclareMissing(variable="Length", codes=(-9.0,)),
    )
    cured = gather(prepared(samples.table, (step,)), "Length")
    assert "missing-code" not in [n.code for n in notices(read(asking(), cured))]
    assert cured.samples[0].missing == 3


def test_a_document_holds_sources_steps_and_figures_and_the_store_answers_it():
    source, store = Source(revision=1), Store()
    first, second = asking(), asking(count=3)
    document = Document.of(source, first)
    assert (document.source, document.recipe, document.shown) == (source, first, 0)
    assert document.with_recipe(second).figures == (Figure(second),)
    assert document.with_recipe(None).recipe is None
    two = Document((source,), (), (Figure(first), Figure(second)), 1)
    assert two.recipe is second
    assert two.with_recipe(first).figures == (Figure(first), Figure(first))
    assert two.with_recipe(None) == Document((source,), (), (Figure(first),), 0)
    store.keep_table(document, table(1.0, -9))
    prepared_document = document.with_step(DeclareMissing(variable="Length", codes=(-9.0,)))
    assert store.table(document).number("Length").n == 2
    assert store.table(prepared_document) is None
    made = make(prepared_document, store, no_others, lambda _stage, _share: None)
    store.keep_stages(prepared_document, made.stages)
    assert store.table(prepared_document).number("Length").n == 1
    assert made.samples.samples[0].n == 1
    store.keep_samples(prepared_document, made.samples)
    assert store.samples(prepared_document) is made.samples
    assert store.samples(document) is None
    again = make(prepared_document, store, no_others, lambda _stage, _share: None)
    assert again.samples is made.samples
    assert again.stages is made.stages
