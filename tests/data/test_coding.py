"""Texts as words and numbers, against a look-up of one text after another."""

import numpy as np
import polars as pl
import pytest

from rhabdos.data.fields.coding import coded_texts
from rhabdos.data.readers.frames import columns_from

BAYS = ["Heron Sound", "Saltmere", "Wick Narrows", "", "n/a", "Ærø", "a" * 40, "a" * 39 + "b"]


def series_of(words, rows, seed, late=(), absent=0.0):
    rng = np.random.default_rng(seed)
    texts = np.array(words, dtype=object)[rng.integers(0, len(words), rows)]
    texts[rng.random(rows) < absent] = None
    for place, word in enumerate(late):
        texts[rows - 7 * place - 1] = word
    return pl.Series("Bay", texts.tolist(), dtype=pl.String)


@pytest.mark.parametrize("rows", [300, 130_000])
@pytest.mark.parametrize("absent", [0.0, 0.02])
@pytest.mark.parametrize("late", [(), ("Far Bank", "NA", "Near Bank")])
@pytest.mark.parametrize("words", [BAYS, [f"Line {n}" for n in range(240)]])
def test_each_row_is_given_the_number_of_its_own_text(words, late, absent, rows):
    text = series_of(words, rows, len(words), late, absent)
    coded = coded_texts(text, 1_000)
    held = coded.words.to_list()
    assert sorted(held) == sorted({word for word in text.to_list() if word is not None})
    assert [held[code] if code >= 0 else None for code in coded.codes.tolist()] == text.to_list()
    assert coded.absent == text.null_count()


def test_too_many_different_texts_are_not_coded():
    text = series_of([f"Cage {n}" for n in range(900)], 130_000, 5)
    assert coded_texts(text, 899) is None
    assert len(coded_texts(text, 900).words) == 900


def test_a_long_column_in_pieces_is_the_same_column():
    parts = [series_of(BAYS, 70_000, seed, ("Far Bank",), 0.01) for seed in (1, 2, 3)]
    text = pl.concat(parts, rechunk=False)
    (column,) = columns_from([text], ["Bay"], lambda _stage, _share: None)
    expected = [
        None if word is None or word in ("", "n/a") else word for part in parts for word in part
    ]
    shown = [column.levels[code] if code >= 0 else None for code in column.codes.tolist()]
    assert shown == expected
    assert column.missing_as["n/a"] == sum(part.to_list().count("n/a") for part in parts)
    assert sum(column.missing_as.values()) == expected.count(None)
