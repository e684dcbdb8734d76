"""Steps that put names right: of a variable, and of its levels."""

from typing import Annotated

import numpy as np
from msgspec import Meta, structs

from rhabdos.data.columns import CategoryColumn, NumberColumn, places_of
from rhabdos.data.gathering import as_factor
from rhabdos.data.steps.step import Applied, Others, Piece, Step, StepError, choice, words_of
from rhabdos.data.table import Table
from rhabdos.quoting import brief, listed, quoted
from rhabdos.wording import counted, exact


class Describe(Step, frozen=True, tag="name"):
    """A variable gets a long name and a unit, for the reader of a figure."""

    variable: str
    label: str | None = None
    unit: str | None = None

    def apply(self, table: Table, _others: Others) -> Applied:
        """The table with the variable called so; its name in the file stays."""
        column = table.column(self.variable)
        label = column.label if self.label is None else self.label.strip() or column.name
        unit = column.unit if self.unit is None else self.unit.strip()
        named = structs.replace(column, label=label, unit=unit)
        return Applied(table.with_column(named), counted(column.rows, "row", "rows"))

    def describe(self) -> tuple[Piece, ...]:
        """shell_length is called Shell length, in mm."""
        called = ("called ", choice(brief(self.label or self.variable)))
        unit = ("in ", choice(brief(self.unit))) if self.unit else ("without a unit",)
        named, measured = self.label is not None, self.unit is not None
        joint = (", ",) if named and measured else ()
        words = (*(called if named else ()), *joint, *(unit if measured else ()))
        return words_of(f"{brief(self.variable)} is ", *words, ".")


class RenameLevels(Step, frozen=True, tag="levels"):
    """Levels get other names; those that come to have the same name become one."""

    variable: str
    become: dict[str, str]

    def __hash__(self) -> int:
        return hash((self.variable, tuple(sorted(self.become.items())), self.off))

    def apply(self, table: Table, _others: Others) -> Applied:
        """The table with the levels called so."""
        column = as_levels(table, self.variable)
        before = places_of(column.levels)
        known = [level for level in self.become if level in before]
        if not known:
            return Applied(table, "no row has such a level")
        names = [self.become.get(level, level) for level in column.levels]
        if any(not name.strip() for name in names):
            raise StepError(
                f"A level of {quoted(column.name)} would have no name. Give it one, or declare it "
                "as missing."
            )
        order = list(dict.fromkeys(names))  # each keeps its place, also while names are typed
        at = places_of(order)
        places = np.array([*(at[name] for name in names), -1])
        kind = column.codes.dtype
        counts = column.level_counts
        touched = sum(int(counts[before[level]]) for level in known)
        renamed = structs.replace(
            column, codes=places[column.codes].astype(kind), levels=tuple(order), original=None
        )
        return Applied(table.with_column(renamed), counted(touched, "row", "rows"))

    def describe(self) -> tuple[Piece, ...]:
        """In Culture, “Rack ” became rack."""
        merged: dict[str, list[str]] = {}
        for level, name in self.become.items():
            merged.setdefault(name, []).append(level)
        words: list[str | Piece] = [f"In {brief(self.variable)}, "]
        for index, (name, levels) in enumerate(list(merged.items())[:_MOST_SAID]):
            joint = "" if not index else " and " if index == len(merged) - 1 else ", "
            words += [f"{joint}{listed(levels)} became ", choice(brief(name))]
        more = len(merged) - _MOST_SAID
        return words_of(*words, f" and {more:,} more." if more > 0 else ".")


class OrderLevels(Step, frozen=True, tag="order"):
    """The levels of a category in an order that means something.

    Levels that are not named follow those that are.
    """

    variable: str
    levels: Annotated[tuple[str, ...], Meta(min_length=1, description="a list of levels")]

    def apply(self, table: Table, _others: Others) -> Applied:
        """The table with the levels in that order."""
        column = as_levels(table, self.variable)
        named = dict.fromkeys(self.levels)
        before = places_of(column.levels)
        order = [level for level in named if level in before]
        order += [level for level in column.levels if level not in named]
        at = places_of(order)
        places = np.array([*(at[level] for level in column.levels), -1])
        ordered = structs.replace(
            column,
            codes=places[column.codes].astype(column.codes.dtype),
            levels=tuple(order),
            grouping="ordered category",
        )
        return Applied(table.with_column(ordered), counted(len(order), "level", "levels"))

    def describe(self) -> tuple[Piece, ...]:
        """Season runs from Spring over Summer and Autumn to Winter."""
        over = " and ".join(brief(level) for level in self.levels[1:-1][:_MOST_SAID])
        first, last = brief(self.levels[0]), brief(self.levels[-1])
        words = f"from {first}{f' over {over}' if over else ''} to {last}"
        return words_of(f"{brief(self.variable)} runs ", choice(words), ".")


class Bound(Step, frozen=True, tag="bounds"):
    """Bounds that are known from nature: no true value lies beyond them."""

    variable: str
    lower: float | None = None
    upper: float | None = None

    def apply(self, table: Table, _others: Others) -> Applied:
        """The table with the bounds noted; values beyond them stay, and are told."""
        column = table.number(self.variable)
        if self.lower is not None and self.upper is not None and self.lower >= self.upper:
            raise StepError(f"The bounds of {quoted(column.name)} must rise. Change one of them.")
        bounded = structs.replace(column, lower=self.lower, upper=self.upper)
        beyond = beyond_bounds(bounded)
        told = f"{counted(beyond, 'value lies', 'values lie')} beyond" if beyond else "all within"
        return Applied(table.with_column(bounded), told)

    def describe(self) -> tuple[Piece, ...]:
        """Shell length cannot be below 0."""
        lower = ("below ", choice(exact(self.lower))) if self.lower is not None else ()
        upper = ("above ", choice(exact(self.upper))) if self.upper is not None else ()
        joint = (" or ",) if lower and upper else ()
        ends = (*lower, *joint, *upper) or ("of any size",)
        can = "cannot be " if lower or upper else "may be "
        return words_of(f"{brief(self.variable)} {can}", *ends, ".")


_MOST_SAID = 3  # levels, in the words of a step


def beyond_bounds(column: NumberColumn) -> int:
    """How many values lie beyond the bounds of a column."""
    below = int((column.values < column.lower).sum()) if column.lower is not None else 0
    above = int((column.values > column.upper).sum()) if column.upper is not None else 0
    return below + above


def as_levels(table: Table, variable: str) -> CategoryColumn:
    """A variable with levels: a category, or a number of which few are different."""
    column = table.column(variable)
    return column if isinstance(column, CategoryColumn) else as_factor(column)
