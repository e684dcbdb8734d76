"""The step that brings columns of another table in, by keys."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Annotated, Literal, Self

import numpy as np
from msgspec import Meta, Struct, structs

from rhabdos.arrays import IntArray
from rhabdos.data.columns import Column, NumberColumn, natural
from rhabdos.data.fields.texts import texts_of
from rhabdos.data.rows import taken
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.stacking import stacked_columns
from rhabdos.data.steps.step import (
    MOST_ROWS,
    Applied,
    Others,
    Piece,
    Step,
    StepError,
    called,
    choice,
    refuse_large,
    words_of,
)
from rhabdos.data.table import Table
from rhabdos.quoting import brief, file_named

if TYPE_CHECKING:
    import polars as pl

_LISTED = 20  # keys without a partner that are kept to be named

Keep = Literal["matched", "this", "both"]
Key = str | tuple[str, str]


class Matching(Struct, frozen=True, eq=False):
    """How the rows of two tables match by their keys.

    Attributes
    ----------
    matched, unmatched : tuple of int
        Rows of this table and of the other.
    rows : int
        Pairs of matching rows.
    most : int
        The most rows of the other table that one row matches.
    lone : tuple of tuple of str
        Keys that match nothing, the first few of each table.
    """

    matched: tuple[int, int]
    unmatched: tuple[int, int]
    rows: int
    most: int
    lone: tuple[tuple[str, ...], tuple[str, ...]]

    def rows_with(self, keep: Keep) -> int:
        """Rows of the joined table."""
        return (
            self.rows
            + (self.unmatched[0] if keep != "matched" else 0)
            + (self.unmatched[1] if keep == "both" else 0)
        )


class Join(Step, frozen=True, tag="join"):
    """Columns of another table beside those of this one, where the keys are the same.

    ``keys`` are names that both tables have, or pairs of this one's and the other's. ``keep``
    says which rows stay: those that match, all of this table, or all of both. ``read`` says how
    the other file is read, where that cannot be told from it.
    """

    file: str
    keys: Annotated[
        tuple[Key, ...], Meta(min_length=1, max_length=10, description="a list of variables' names")
    ]
    keep: Annotated[Keep, Meta(description="matched, this or both")] = "this"
    read: Read | None = None

    def apply(self, table: Table, others: Others) -> Applied:
        """The joined table."""
        other = others(self.file, self.read)
        match = matching(table, other, self.keys)
        rows = match.rows_with(self.keep)
        if rows > MOST_ROWS:
            raise StepError(
                f"Joining {file_named(self.file)} would make {rows:,} rows, since keys repeat in "
                f"both tables; at most {MOST_ROWS:,} are made. Add another key, or take a table "
                "in which each key stands once."
            )
        cure = "Take a table with fewer variables."
        refuse_large(rows, len(table.columns) + len(other.columns), cure)
        joined = _joined(table, other, self)
        left, right = match.unmatched
        told = f"{joined.rows:,} rows"
        if left or right:
            told += f"; without a match {left:,} of these and {right:,} of those"
        return Applied(joined, told)

    @property
    def files(self) -> tuple[str, ...]:
        """The other table's."""
        return (self.file,)

    def with_files(self, renamed: Callable[[str], str]) -> Self:
        """The same join of a file that is called otherwise."""
        return structs.replace(self, file=renamed(self.file))

    def describe(self) -> tuple[Piece, ...]:
        """Sites.csv was joined by Site, all rows of this table kept."""
        names = [key if isinstance(key, str) else key[0] for key in self.keys]
        kept = {
            "matched": "only matching rows",
            "this": "all rows of this table",
            "both": "all rows of both",
        }[self.keep]
        return words_of(
            "Joined ",
            choice(called(self.file)),
            " by ",
            choice(" and ".join(brief(name) for name in names)),
            ", keeping ",
            choice(kept),
            ".",
        )


def _pairs(keys: Sequence[Key]) -> list[tuple[str, str]]:
    return [(key, key) if isinstance(key, str) else key for key in keys]


def _key_frames(
    table: Table, other: Table, keys: Sequence[Key]
) -> tuple["pl.DataFrame", "pl.DataFrame"]:
    """The keys of both tables as columns that can be compared, and the number of each row."""
    import polars as pl

    here: list[pl.Series] = []
    there: list[pl.Series] = []
    for at, (mine, theirs) in enumerate(_pairs(keys)):
        near, far = table.column(mine), other.column(theirs)
        if isinstance(near, NumberColumn) and isinstance(far, NumberColumn):
            here.append(pl.Series(f"k{at}", near.values).fill_nan(None))
            there.append(pl.Series(f"k{at}", far.values).fill_nan(None))
        else:
            here.append(_as_key(near).alias(f"k{at}"))
            there.append(_as_key(far).alias(f"k{at}"))
    numbered = (
        pl.Series("left", np.arange(table.rows, dtype=np.int64)),
        pl.Series("right", np.arange(other.rows, dtype=np.int64)),
    )
    return pl.DataFrame([*here, numbered[0]]), pl.DataFrame([*there, numbered[1]])


def _as_key(column: Column) -> "pl.Series":
    return texts_of(column).str.strip_chars()


def matching(table: Table, other: Table, keys: Sequence[Key]) -> Matching:
    """How many rows of two tables match, and which keys match nothing.

    Raises
    ------
    VariableError
        A table does not have a key.
    """
    import polars as pl

    here, there = _key_frames(table, other, keys)
    names = [name for name in here.columns if name != "left"]
    mine = here.drop_nulls(names).group_by(names).agg(pl.len().cast(pl.Int64).alias("n"))
    theirs = there.drop_nulls(names).group_by(names).agg(pl.len().cast(pl.Int64).alias("m"))
    both = mine.join(theirs, on=names, how="inner")
    matched = int(both["n"].sum()), int(both["m"].sum())
    rows = int((both["n"].cast(pl.Float64) * both["m"].cast(pl.Float64)).sum())
    lone = (
        _few(mine.join(theirs, on=names, how="anti").select(names)),
        _few(theirs.join(mine, on=names, how="anti").select(names)),
    )
    most = int(both["m"].max() or 0)  # type: ignore[arg-type]
    unmatched = table.rows - matched[0], other.rows - matched[1]
    return Matching(matched, unmatched, rows, most, lone)


def _few(frame: "pl.DataFrame") -> tuple[str, ...]:
    import polars as pl

    texts = frame.select(pl.concat_str(pl.all().cast(pl.String), separator=" · ")).to_series()
    return tuple(sorted(texts.unique().to_list(), key=natural)[:_LISTED])


def _joined(table: Table, other: Table, join: Join) -> Table:
    here, there = _key_frames(table, other, join.keys)
    names = [name for name in here.columns if name != "left"]
    how: Literal["inner", "left", "full"] = (
        "inner" if join.keep == "matched" else "left" if join.keep == "this" else "full"
    )
    order: Literal["left_right"] = "left_right"
    both = here.join(there, on=names, how=how, maintain_order=order)
    left = both["left"].fill_null(-1).to_numpy()
    right = both["right"].fill_null(-1).to_numpy()
    pairs = _pairs(join.keys)
    # By the names of their columns: a key may be called by its label.
    keys_there = {other.column(theirs).name: table.column(mine).name for mine, theirs in pairs}
    keys_here = set(keys_there.values())
    absent = f"no match in {brief(other.name)}"
    columns = list(taken(table.columns, left, f"no match in {brief(table.name)}"))
    if join.keep == "both":
        columns = [
            _filled_key(column, other, keys_there, left, right)
            if column.name in keys_here
            else column
            for column in columns
        ]
    added = [column for column in other.columns if column.name not in keys_there]
    used = {column.name for column in columns}
    for column in taken(added, right, absent):
        name = _free(column.name, other.name, used)
        used.add(name)
        if name != column.name:
            column = structs.replace(
                column, name=name, label=f"{column.label} ({brief(other.name)})"
            )
        columns.append(column)
    return structs.replace(table, columns=tuple(columns), of_rows=0, kept="", numbering=None)


def _free(name: str, beside: str, used: set[str]) -> str:
    """A name that no column has yet."""
    free, number = name, 1
    while free in used:
        free = f"{name} ({brief(beside)}{f' {number}' if number > 1 else ''})"
        number += 1
    return free


def _filled_key(
    column: Column, other: Table, keys: dict[str, str], left: IntArray, right: IntArray
) -> Column:
    """A key of this table, with the other's where only that has the row."""
    theirs = next(name for name, mine in keys.items() if mine == column.name)
    fill = taken([other.column(theirs)], np.where(left < 0, right, -1), "")[0]
    upper, lower = np.flatnonzero(left >= 0), np.flatnonzero(left < 0)
    both = stacked_columns([taken([column], upper, "")[0], taken([fill], lower, "")[0]])
    order = np.empty(len(left), dtype=np.int64)
    order[upper] = np.arange(len(upper))
    order[lower] = len(upper) + np.arange(len(lower))
    return taken([both], order, "")[0]
