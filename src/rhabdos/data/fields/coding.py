"""Texts that come back often: each held once, with a number in every row."""

from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from rhabdos.arrays import IntArray
from rhabdos.data.chunks import in_pieces
from rhabdos.data.columns import natural
from rhabdos.data.fields.texts import missing_words

if TYPE_CHECKING:
    import polars as pl

_FIRST = 5_000  # rows that are looked at for words first
_FEW = 100  # words that find a place of their own in a table by hash
_BITS = 14  # of a hash that say the place
_SEEDS = range(1, 33)
_WORTHWHILE = 100_000  # rows


class Coded(Struct, frozen=True):
    """A column of texts.

    Attributes
    ----------
    words : series of str
        The different ones in the order of levels, with those for missing values behind them.
    codes : array of int, shape (rows,)
        Which word stands in each row; −1 where nothing stands.
    absent : int
        Rows in which nothing stands.
    """

    words: "pl.Series"
    codes: IntArray
    absent: int


def coded_texts(text: "pl.Series", most: int) -> Coded | None:
    """The same texts as words and numbers; None where more than ``most`` are different.

    The first rows tell most of them; what is new further down is looked for afterwards.
    """
    import polars as pl

    if text.dtype != pl.String:
        text = text.cast(pl.String)
    words = text.head(_FIRST).drop_nulls().unique()
    while len(words) <= most:
        words = _in_level_order(words)
        coded = _coded(text, words)
        if coded.absent == text.null_count():
            return coded
        new = text.filter(pl.Series(coded.codes < 0) & text.is_not_null()).unique()
        words = pl.concat([words, new])
    return None


def codes_for(levels: int) -> type[np.signedinteger]:
    """The narrowest numbers that so many levels and −1 fit."""
    return np.int8 if levels < 127 else np.int16 if levels < 2**15 - 1 else np.int32


def _in_level_order(words: "pl.Series") -> "pl.Series":
    import polars as pl

    gone = missing_words(words, among_numbers=False).to_list()
    both = sorted(
        zip(words.to_list(), gone, strict=True), key=lambda pair: (pair[1], natural(pair[0]))
    )
    return pl.Series([word for word, _ in both], dtype=pl.String)


def _coded(text: "pl.Series", words: "pl.Series") -> Coded:
    """Texts as numbers of these words, −1 for all others."""
    import polars as pl

    if len(text) >= _WORTHWHILE and (coded := _by_hash(text, words)) is not None:
        return coded
    word = pl.col("t").cast(pl.Enum(words), strict=False)
    # Lazily, since polars then parts the work among processors.
    codes = text.to_frame("t").lazy().select(word.to_physical()).collect().to_series()
    absent = codes.null_count()
    if absent:
        codes = codes.cast(pl.Int64).fill_null(-1)
    return Coded(words, codes.to_numpy().astype(codes_for(len(words)), copy=False), absent)


def _by_hash(text: "pl.Series", words: "pl.Series") -> Coded | None:
    """The same by the texts' hashes of 64 bits, which takes half as long; None of many words.

    The first bits of a hash say a place in a table, and the whole hash stands there.
    """
    if not 0 < len(words) <= _FEW:
        return None
    down = np.uint64(64 - _BITS)
    for seed in _SEEDS:
        hashes = words.hash(seed).to_numpy()
        places = hashes >> down
        if len(np.unique(places)) == len(words):
            break
    else:
        return None
    code_at = np.full(1 << _BITS, -1, dtype=np.int8)
    code_at[places] = np.arange(len(words))
    hash_at = np.zeros(1 << _BITS, dtype=np.uint64)
    hash_at[places] = hashes
    codes = np.empty(len(text), dtype=np.int8)

    def look_up(piece: slice) -> int:
        """Write the codes of a piece; how many of its texts are none of the words."""
        hashes = text[piece].hash(seed).to_numpy()
        at = (hashes >> down).astype(np.int64)
        code_at.take(at, out=codes[piece], mode="clip")  # all are in range, which "clip" trusts
        other = hash_at[at] != hashes
        if not other.any():
            return 0
        codes[piece][other] = -1
        return int(np.count_nonzero(other))

    return Coded(words, codes, sum(in_pieces(len(text), look_up)))
