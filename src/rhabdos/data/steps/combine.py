"""Steps that bring other rows or columns in: joining, stacking, gathering."""

from collections.abc import Callable, Sequence
from pathlib import PurePath
from typing import TYPE_CHECKING, Annotated, Any, Literal, Self

import numpy as np
from msgspec import Meta, Struct, structs

from rhabdos.arrays import IntArray
from rhabdos.data.columns import (
    CategoryColumn,
    Column,
    DateColumn,
    LabelColumn,
    NumberColumn,
    natural,
)
from rhabdos.data.kinds import column_from
from rhabdos.data.rows import taken
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.step import Done, Others, Piece, Step, StepError, choice, said
from rhabdos.data.table import Table
from rhabdos.data.texts import joined_stood, texts_of
from rhabdos.quoting import brief, file_named, quoted
from rhabdos.wording import counted

if TYPE_CHECKING:
    import polars as pl

MOST_ROWS = 50_000_000
"""Rows that a join or a gathering may make."""
_LISTED = 20

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

    def done(self, table: Table, others: Others) -> Done:
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
        joined = _joined(table, other, self)
        left, right = match.unmatched
        told = f"{joined.rows:,} rows"
        if left or right:
            told += f"; without a match {left:,} of these and {right:,} of those"
        return Done(joined, told)

    @property
    def files(self) -> tuple[str, ...]:
        """The other table's."""
        return (self.file,)

    def with_files(self, renamed: Callable[[str], str]) -> Self:
        """The same join of a file that is called otherwise."""
        return structs.replace(self, file=renamed(self.file))

    def said(self) -> tuple[Piece, ...]:
        """Sites.csv was joined by Site, all rows of this table kept."""
        names = [key if isinstance(key, str) else key[0] for key in self.keys]
        kept = {
            "matched": "only matching rows",
            "this": "all rows of this table",
            "both": "all rows of both",
        }[self.keep]
        return said(
            "Joined ",
            choice(_called(self.file)),
            " by ",
            choice(" and ".join(brief(name) for name in names)),
            ", keeping ",
            choice(kept),
            ".",
        )


def _called(file: str) -> str:
    """A file as sentences name it, wherever it lies."""
    return file_named(PurePath(file).name)


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
        one, two = table.column(mine), other.column(theirs)
        if isinstance(one, NumberColumn) and isinstance(two, NumberColumn):
            here.append(pl.Series(f"k{at}", one.values).fill_nan(None))
            there.append(pl.Series(f"k{at}", two.values).fill_nan(None))
        else:
            here.append(_as_key(one).alias(f"k{at}"))
            there.append(_as_key(two).alias(f"k{at}"))
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
    keys_here = {table.column(mine).name for mine, _ in pairs}
    keys_there = {other.column(theirs).name: mine for mine, theirs in pairs}
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
    theirs = next(name for name, mine in keys.items() if mine in (column.name, column.label))
    fill = taken([other.column(theirs)], np.where(left < 0, right, -1), "")[0]
    upper, lower = np.flatnonzero(left >= 0), np.flatnonzero(left < 0)
    both = stacked_columns([taken([column], upper, "")[0], taken([fill], lower, "")[0]])
    order = np.empty(len(left), dtype=np.int64)
    order[upper] = np.arange(len(upper))
    order[lower] = len(upper) + np.arange(len(lower))
    return taken([both], order, "")[0]


class Stack(Step, frozen=True, tag="stack"):
    """Rows of other tables beneath those of this one, with a factor that says which is which.

    ``names`` are the levels of the factor, this table's first; by default the files' names.
    """

    files: Annotated[
        tuple[str, ...], Meta(min_length=1, max_length=60, description="a list of files")
    ]
    factor: str = "Table"
    names: tuple[str, ...] = ()
    read: Read | None = None

    def done(self, table: Table, others: Others) -> Done:
        """The tables beneath one another; what a table does not have is missing there."""
        if table.has(self.factor):
            raise StepError(
                f"There is a variable {quoted(self.factor)} already. Call the new factor otherwise."
            )
        tables = [table, *(others(file, self.read) for file in self.files)]
        rows = sum(part.rows for part in tables)
        if rows > MOST_ROWS:
            raise StepError(f"That would make {rows:,} rows; at most {MOST_ROWS:,} are made.")
        if self.names and len(self.names) != len(tables):
            raise StepError(
                f"{len(tables)} tables are stacked, and {len(self.names)} names are given. Give "
                "one for each, this table's first."
            )
        names = list(self.names) or _level_names(tables)
        columns = []
        order = dict.fromkeys(column.name for part in tables for column in part.columns)
        for name in order:
            parts = [_or_absent(part, name) for part in tables]
            columns.append(stacked_columns(parts))
        levels = tuple(dict.fromkeys(names))
        codes = np.repeat(
            np.array([levels.index(name) for name in names], np.int16), [t.rows for t in tables]
        )
        factor = CategoryColumn(
            self.factor, self.factor, codes=codes, levels=levels, made=self.words
        )
        stacked = structs.replace(
            table, columns=(*columns, factor), of_rows=0, kept="", numbering=None
        )
        return Done(stacked, f"{rows:,} rows of {len(tables)} tables")

    def with_files(self, renamed: Callable[[str], str]) -> Self:
        """The same stack of files that are called otherwise."""
        return structs.replace(self, files=tuple(renamed(file) for file in self.files))

    def said(self) -> tuple[Piece, ...]:
        """Stacked north.csv beneath; File says which is which."""
        files = [_called(file) for file in self.files]
        words = files[0] if len(files) == 1 else f"{len(files)} files"
        return said(
            "Stacked ",
            choice(words),
            " beneath; ",
            choice(brief(self.factor)),
            " tells which is which.",
        )


def _level_names(tables: Sequence[Table]) -> list[str]:
    names: list[str] = []
    for part in tables:
        name, number = part.name, 1
        while name in names:
            number += 1
            name = f"{part.name} ({number})"
        names.append(name)
    return names


def _or_absent(table: Table, name: str) -> Column | int:
    """A column of a table, or how many rows it lacks it for."""
    return table.column(name) if table.has(name) else table.rows


_ABSENT = "not in this table"


def stacked_columns(parts: Sequence[Column | int]) -> Column:
    """Columns beneath one another; where there is none, as many rows have no value.

    Columns of different kinds come to be of the kind that their text looks like.
    """
    import polars as pl

    known = [part for part in parts if isinstance(part, Column)]
    first = known[0]
    lengths = [part if isinstance(part, int) else part.rows for part in parts]
    whole = [
        part if isinstance(part, Column) else taken([first], np.full(part, -1), _ABSENT)[0]
        for part in parts
    ]
    kinds = {type(part) for part in known}
    if len(kinds) > 1:
        text = pl.concat([texts_of(part) for part in whole])
        made = column_from(first.name, text)
        return structs.replace(made, label=first.label, unit=first.unit)
    stood = joined_stood(
        [
            structs.replace(part.stood, rows=part.stood.rows + start) if part.stood else None
            for part, start in zip(whole, np.cumsum([0, *lengths[:-1]]), strict=True)
        ]
    )
    missing_as: dict[str, int] = {}
    for part in whole:
        for word, count in part.missing_as.items():
            missing_as[word] = missing_as.get(word, 0) + count
    common: dict[str, Any] = {"missing_as": missing_as, "stood": stood, "original": None}
    if isinstance(first, NumberColumn):
        values = np.concatenate([p.values for p in whole if isinstance(p, NumberColumn)])
        return structs.replace(first, values=values, **common)
    if isinstance(first, CategoryColumn):
        return _stacked_levels([p for p in whole if isinstance(p, CategoryColumn)], common)
    assert isinstance(first, LabelColumn)
    texts = pl.concat([texts_of(part) for part in whole])
    distinct = texts.n_unique() - bool(texts.null_count())
    return structs.replace(first, texts=texts, distinct=distinct, **common)


def _stacked_levels(parts: Sequence[CategoryColumn], common: dict[str, Any]) -> CategoryColumn:
    first = parts[0]
    levels = list(dict.fromkeys(level for part in parts for level in part.levels))
    if first.grouping == "category":
        levels.sort(key=natural)
    places = {level: place for place, level in enumerate(levels)}
    codes = np.concatenate(
        [np.array([*(places[v] for v in part.levels), -1], np.int32)[part.codes] for part in parts]
    )
    return structs.replace(first, codes=codes, levels=tuple(levels), **common)


class Gather(Step, frozen=True, tag="gather"):
    """Several columns that measure the same come to be one number and one group.

    Each row becomes as many as there are columns; all other variables are repeated.
    """

    variables: Annotated[
        tuple[str, ...], Meta(min_length=2, max_length=1_000, description="a list of variables")
    ]
    number: str
    group: str

    def done(self, table: Table, _others: Others) -> Done:
        """The table with one row for each value of these columns."""
        measured = [table.number(name) for name in self.variables]
        names = {column.name for column in measured}
        if len(names) < len(measured):
            raise StepError("A variable is named twice to be gathered. Name each once.")
        if len({isinstance(column, DateColumn) for column in measured}) > 1:
            raise StepError("Dates and numbers cannot be gathered into one variable.")
        others = [column for column in table.columns if column.name not in names]
        for new in (self.number, self.group):
            if any(column.name == new for column in others) or not new.strip():
                raise StepError(
                    f"There is a variable {quoted(new)} already. Give the new one another name."
                    if new.strip()
                    else "The new variables need names. Type them."
                )
        if self.number == self.group:
            raise StepError("The number and the group need names of their own.")
        rows = table.rows * len(measured)
        if rows > MOST_ROWS:
            raise StepError(f"That would make {rows:,} rows; at most {MOST_ROWS:,} are made.")
        number = stacked_columns(measured)
        units = {column.unit for column in measured}
        number = structs.replace(
            number,
            name=self.number,
            label=brief(self.number),
            unit=units.pop() if len(units) == 1 else "",
            made=self.words,
        )
        levels = tuple(_distinct([column.label for column in measured]))
        codes = np.repeat(np.arange(len(measured), dtype=np.int16), table.rows)
        group = CategoryColumn(
            self.group,
            brief(self.group),
            codes=codes,
            levels=levels,
            grouping="ordered category",
            made=self.words,
        )
        again = np.tile(np.arange(table.rows), len(measured))
        columns = (*taken(others, again, ""), group, number)
        told = f"{counted(rows, 'row', 'rows')}, {len(measured):,} for each of {table.rows:,}"
        of_rows = table.of_rows * len(measured)
        return Done(structs.replace(table, columns=columns, of_rows=of_rows, numbering=None), told)

    def said(self) -> tuple[Piece, ...]:
        """Growth week 1 and 5 more were gathered into Growth, by Week."""
        names = [brief(name) for name in self.variables]
        which = f"{names[0]} to {names[-1]}" if len(names) > 2 else " and ".join(names)
        return said(
            "Gathered ", choice(which), " into ", choice(brief(self.number)), " by ",
            choice(brief(self.group)), ".",
        )  # fmt: skip


def _distinct(names: Sequence[str]) -> list[str]:
    seen: dict[str, int] = {}
    distinct = []
    for name in names:
        seen[name] = seen.get(name, 0) + 1
        distinct.append(name if seen[name] == 1 else f"{name} ({seen[name]})")
    return distinct
