"""The steps that put rows beneath others: of other tables, or of columns that measure the same."""

from collections.abc import Callable, Sequence
from typing import Annotated, Any, Self

import numpy as np
from msgspec import Meta, structs

from rhabdos.data.columns import (
    CategoryColumn,
    Column,
    DateColumn,
    LabelColumn,
    NumberColumn,
    natural,
)
from rhabdos.data.fields.kinds import column_from
from rhabdos.data.fields.levels import regrouped
from rhabdos.data.fields.texts import joined_stood, texts_of
from rhabdos.data.rows import taken
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.step import (
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
from rhabdos.quoting import brief, quoted
from rhabdos.wording import counted


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

    def apply(self, table: Table, others: Others) -> Applied:
        """The tables beneath one another; what a table does not have is missing there."""
        if table.has(self.factor):
            raise StepError(
                f"There is a variable {quoted(self.factor)} already. Call the new factor otherwise."
            )
        tables = [table, *(others(file, self.read) for file in self.files)]
        rows = sum(part.rows for part in tables)
        order = dict.fromkeys(column.name for part in tables for column in part.columns)
        refuse_large(rows, len(order) + 1, "Stack fewer tables.")
        if self.names and len(self.names) != len(tables):
            raise StepError(
                f"{len(tables)} tables are stacked, and {len(self.names)} names are given. Give "
                "one for each, this table's first."
            )
        names = list(self.names) or _distinct([part.name for part in tables])
        columns = []
        for name in order:
            parts = [_or_absent(part, name) for part in tables]
            columns.append(stacked_columns(parts))
        levels = tuple(dict.fromkeys(names))
        codes = np.repeat(
            np.array([levels.index(name) for name in names], np.int16), [t.rows for t in tables]
        )
        factor = CategoryColumn(
            self.factor, self.factor, codes=codes, levels=levels, made_by=self.words
        )
        stacked = structs.replace(
            table, columns=(*columns, factor), of_rows=0, kept="", numbering=None
        )
        return Applied(stacked, f"{rows:,} rows of {len(tables)} tables")

    def with_files(self, renamed: Callable[[str], str]) -> Self:
        """The same stack of files that are called otherwise."""
        return structs.replace(self, files=tuple(renamed(file) for file in self.files))

    def describe(self) -> tuple[Piece, ...]:
        """Stacked north.csv beneath; File says which is which."""
        files = [called(file) for file in self.files]
        words = files[0] if len(files) == 1 else f"{len(files)} files"
        return words_of(
            "Stacked ",
            choice(words),
            " beneath; ",
            choice(brief(self.factor)),
            " tells which is which.",
        )


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
        column = column_from(first.name, text)
        return structs.replace(column, label=first.label, unit=first.unit)
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
    places = {level: index for index, level in enumerate(levels)}
    codes = np.concatenate(
        [np.array([*(places[v] for v in part.levels), -1], np.int32)[part.codes] for part in parts]
    )
    stacked = structs.replace(first, codes=codes, levels=tuple(levels), **common)
    return regrouped(stacked)


class Gather(Step, frozen=True, tag="gather"):
    """Several columns that measure the same come to be one number and one group.

    Each row becomes as many as there are columns; all other variables are repeated.
    """

    variables: Annotated[
        tuple[str, ...], Meta(min_length=2, max_length=1_000, description="a list of variables")
    ]
    number: str
    group: str

    def apply(self, table: Table, _others: Others) -> Applied:
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
        cure = "Gather fewer columns, or keep fewer rows first."
        refuse_large(rows, len(others) + 2, cure)
        number = stacked_columns(measured)
        units = {column.unit for column in measured}
        number = structs.replace(
            number,
            name=self.number,
            label=brief(self.number),
            unit=units.pop() if len(units) == 1 else "",
            made_by=self.words,
        )
        levels = tuple(_distinct([column.label for column in measured]))
        codes = np.repeat(np.arange(len(measured), dtype=np.int16), table.rows)
        group = CategoryColumn(
            self.group,
            brief(self.group),
            codes=codes,
            levels=levels,
            grouping="ordered category",
            made_by=self.words,
        )
        again = np.tile(np.arange(table.rows), len(measured))
        columns = (*taken(others, again, ""), group, number)
        told = f"{counted(rows, 'row', 'rows')}, {len(measured):,} for each of {table.rows:,}"
        of_rows = table.of_rows * len(measured)
        return Applied(
            structs.replace(table, columns=columns, of_rows=of_rows, numbering=None), told
        )

    def describe(self) -> tuple[Piece, ...]:
        """Growth week 1 and 5 more were gathered into Growth, by Week."""
        names = [brief(name) for name in self.variables]
        which = f"{names[0]} to {names[-1]}" if len(names) > 2 else " and ".join(names)
        return words_of(
            "Gathered ", choice(which), " into ", choice(brief(self.number)), " by ",
            choice(brief(self.group)), ".",
        )  # fmt: skip


def _distinct(names: Sequence[str]) -> list[str]:
    """The same names; one that another has already gets a number behind it."""
    distinct: list[str] = []
    for name in names:
        free, number = name, 1
        while free in distinct:
            number += 1
            free = f"{name} ({number})"
        distinct.append(free)
    return distinct
