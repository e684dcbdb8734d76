"""Levels: when texts are some, and which stand for yes and no."""

from collections.abc import Sequence

import numpy as np
from msgspec import structs

from rhabdos.data.columns import CategoryColumn, natural, places_of
from rhabdos.data.fields.coding import codes_for

MOST_LEVELS = 1_000
"""Different texts that are still taken for levels without being asked."""
_PAIRS = (
    ("nej", "ja"), ("nee", "ja"), ("nein", "ja"), ("no", "sí"), ("no", "si"), ("no", "yes"),
    ("n", "y"), ("false", "true"), ("non", "oui"),
)  # fmt: skip


def repeats(distinct: int, present: int) -> bool:
    """Whether levels come back often enough to be groups rather than names of rows."""
    if distinct > MOST_LEVELS:
        return False
    return (
        distinct * 2 <= present
        or (distinct < present and distinct <= 12)
        or (present <= 2 and distinct > 0)
    )


def as_pair(column: CategoryColumn) -> CategoryColumn:
    """The same levels as yes and no, where they are called so."""
    pair = pair_of(column.levels) if column.grouping == "category" else None
    return paired(column, pair) if pair else column


def regrouped(column: CategoryColumn) -> CategoryColumn:
    """The same levels, of which some came or went: more than two are no longer yes and no, and a
    category lists them in their natural order."""
    if column.grouping != "yes/no" or len(column.levels) <= 2:
        return as_pair(column)
    order = tuple(sorted(column.levels, key=natural))
    at = places_of(order)
    places = np.array([*(at[level] for level in column.levels), -1])
    codes = places[column.codes].astype(codes_for(len(order)))
    return structs.replace(column, codes=codes, levels=order, grouping="category")


def opposite(word: str) -> str:
    """What is called no where a word says yes, and the other way round; "no" for all others."""
    bare = word.strip()
    pairs = {yes: no for no, yes in _PAIRS} | dict(_PAIRS)
    other = pairs.get(bare.casefold(), "no")
    return other.upper() if bare.isupper() else other.title() if bare.istitle() else other


def pair_of(levels: Sequence[str]) -> tuple[str, str] | None:
    """The words for no and yes that the levels are, in any case of letters."""
    if len(levels) != 2:
        return None
    folded = {level.strip().casefold() for level in levels}
    return next((pair for pair in _PAIRS if folded == set(pair)), None)


def paired(column: CategoryColumn, pair: tuple[str, str]) -> CategoryColumn:
    """The same two levels, that for no first."""
    order = sorted(column.levels, key=lambda level: pair.index(level.strip().casefold()))
    codes = column.codes
    if tuple(order) != column.levels:
        codes = np.where(codes < 0, codes, 1 - codes).astype(codes.dtype)
    return structs.replace(column, codes=codes, levels=tuple(order), grouping="yes/no")
