"""The step that keeps some of the rows."""

import functools
import operator
from typing import TYPE_CHECKING, Annotated

import numpy as np
from msgspec import Meta, Struct, field, structs

from rhabdos.arrays import BoolArray
from rhabdos.data.columns import (
    CategoryColumn,
    Column,
    DateColumn,
    LabelColumn,
    NumberColumn,
    places_of,
)
from rhabdos.data.date_bounds import date_bound
from rhabdos.data.fields.numerals import as_float, written_so
from rhabdos.data.fields.texts import label_series, missing_rows, texts_of
from rhabdos.data.rows import with_rows
from rhabdos.data.steps.step import Applied, Others, Piece, Step, StepError, choice, words_of
from rhabdos.data.table import Table
from rhabdos.quoting import brief, listed, quoted
from rhabdos.wording import exact, in_running_text, with_unit

if TYPE_CHECKING:
    import polars as pl

Bound = float | str
_FEW = 6  # levels


class Condition(Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, kw_only=True):
    """What must hold of a row, of one variable.

    One of: it has one of these ``levels``; it lies ``from`` … ``to``, both included, or ``above``
    and ``below``, which are left out; its text ``contains`` something; it is ``missing`` or is not.
    ``other`` turns it round.
    """

    variable: str
    levels: tuple[str, ...] | None = None
    low: Annotated[Bound, Meta(description="a number or a date")] | None = field(
        default=None, name="from"
    )
    high: Annotated[Bound, Meta(description="a number or a date")] | None = field(
        default=None, name="to"
    )
    above: Annotated[Bound, Meta(description="a number or a date")] | None = None
    below: Annotated[Bound, Meta(description="a number or a date")] | None = None
    contains: str | None = None
    missing: bool | None = None
    other: bool = False

    def met(self, table: Table) -> "pl.Series":
        """Of which rows it holds, as truths; a row without a value only where that is asked."""
        import polars as pl

        column = table.column(self.variable)
        asked = (self.missing, self.contains)
        if isinstance(column, NumberColumn) and self.levels is None and asked == (None, None):
            return self._in_range(column)
        alone = asked == (None, None) and not self._ranged
        if isinstance(column, CategoryColumn) and self.levels is not None and alone:
            return self._in_levels(column, self.levels)
        return pl.Series(self.holds(table))

    @property
    def _ranged(self) -> bool:
        """Whether it has an end at all."""
        return any(end is not None for end in (self.low, self.high, self.above, self.below))

    def _in_range(self, column: NumberColumn) -> "pl.Series":
        """A range alone, in one pass over the values; NaN is in none."""
        import polars as pl

        value = pl.col("v")
        within = value.is_not_nan()
        if self.low is not None:
            within &= value >= bound_of(column, self.low, False)
        if self.high is not None:
            within &= value <= bound_of(column, self.high, True)
        if self.above is not None:
            within &= value > bound_of(column, self.above, True)
        if self.below is not None:
            within &= value < bound_of(column, self.below, False)
        if self.other:
            within = ~within & value.is_not_nan()
        return pl.DataFrame({"v": column.values}).lazy().select(within).collect().to_series()

    def _in_levels(self, column: CategoryColumn, levels: tuple[str, ...]) -> "pl.Series":
        """Levels alone, in one pass over the codes."""
        import polars as pl

        at = places_of(column.levels)
        wanted = [at[level] for level in levels if level in at]
        code = pl.col("c")
        if 1 <= len(wanted) <= _FEW:  # comparing is faster than looking up
            met = functools.reduce(operator.or_, (code == index for index in wanted))
        else:
            met = code.is_in(wanted)
        if self.other:
            met = ~met & (code >= 0)
        return pl.DataFrame({"c": column.codes}).lazy().select(met).collect().to_series()

    def holds(self, table: Table) -> BoolArray:
        """Of which rows it holds, shape (rows,); a row without a value only where that is asked."""
        column = table.column(self.variable)
        present = ~missing_rows(column)
        if self.missing is not None:
            return ~present if self.missing is not self.other else present
        met = np.ones(column.rows, dtype=bool)
        if self.levels is not None:
            met &= _has_level(column, self.levels)
        if self._ranged:
            met &= self._within(column)
        if self.contains is not None:
            met &= _containing(column, self.contains)
        return present & (~met if self.other else met)

    def _within(self, column: Column) -> BoolArray:
        if not isinstance(column, NumberColumn):
            raise StepError(
                f"{quoted(column.name)} holds no numbers, so its rows cannot be kept by a range. "
                "Keep them by levels."
            )
        met = np.ones(column.rows, dtype=bool)
        if self.low is not None:
            met &= column.values >= bound_of(column, self.low, False)
        if self.high is not None:
            met &= column.values <= bound_of(column, self.high, True)
        if self.above is not None:
            met &= column.values > bound_of(column, self.above, True)
        if self.below is not None:
            met &= column.values < bound_of(column, self.below, False)
        return met

    def describe(self, table: Table | None = None) -> tuple[str, str]:
        """The variable, and what must hold of it, in words."""
        unit = ""
        if table is not None and isinstance(column := table.column(self.variable), NumberColumn):
            unit = column.unit
        name = brief(self.variable)
        if self.missing is not None:
            return name, "is missing" if self.missing is not self.other else "is known"
        parts = []
        no = "not " if self.other else ""
        if self.levels is not None:
            parts.append(f"is {no}{listed(self.levels, 'or')}")
        if ends := self._ends(unit):
            parts.append(f"is {no}{ends}")
        if self.contains is not None:
            parts.append(f"{'lacks' if self.other else 'has'} {quoted(self.contains)} in it")
        return name, " and ".join(parts) or ("has no value" if self.other else "has a value")

    @property
    def ranges(self) -> bool:
        """Whether it is a range with two ends."""
        return (self.low is not None or self.above is not None) and (
            self.high is not None or self.below is not None
        )

    def _ends(self, unit: str) -> str:
        """A range in words: "from 40 to 110 mm", "from 60 to below 64 mm", "0 mm or more"."""
        low = self.low if self.low is not None else self.above
        high = self.high if self.high is not None else self.below
        if low is not None and high is not None:
            begins = "from" if self.low is not None else "from above"
            ends = "to" if self.high is not None else "to below"
            return f"{begins} {bound_written(low)} {ends} {with_unit(bound_written(high), unit)}"
        if low is not None:
            text = with_unit(bound_written(low), unit)
            return f"{text} or more" if self.low is not None else f"above {text}"
        if high is not None:
            text = with_unit(bound_written(high), unit)
            return f"{text} or less" if self.high is not None else f"below {text}"
        return ""


class KeepRows(Step, frozen=True, tag="keep"):
    """Rows of which all conditions hold are kept; with ``any``, those of which one does.

    ``out`` leaves these rows out instead.
    """

    where: Annotated[
        tuple[Condition, ...], Meta(min_length=1, description="a list of one or more conditions")
    ]
    any: bool = False
    out: bool = False

    def apply(self, table: Table, _others: Others) -> Applied:
        """The table with these rows only, which knows of how many."""
        kept = self.kept(table)
        before = table.of_rows or table.rows
        count = int(kept.sum())
        told = f"{count:,} of {table.rows:,} rows"
        if count == table.rows:
            return Applied(table, told)
        words = self.short_words(table)
        rest = with_rows(table, kept)
        both = f"{table.kept}, {words}" if table.kept else words
        return Applied(structs.replace(rest, of_rows=before, kept=both), told)

    def kept(self, table: Table) -> "pl.Series":
        """Which rows are kept, as truths."""
        met = self.where[0].met(table)
        for condition in self.where[1:]:
            other = condition.met(table)
            met = met | other if self.any else met & other
        return ~met if self.out else met

    def holds(self, table: Table) -> BoolArray:
        """Which rows are kept, shape (rows,)."""
        met: BoolArray = self.kept(table).to_numpy()
        return met

    def short_words(self, table: Table) -> str:
        """Which rows are kept, as the figure says it: "from 40 to 110 mm"."""
        joint = " or " if self.any else " and "
        words = []
        for condition in self.where:
            name, what = condition.describe(table)
            if condition.ranges and not condition.other:
                words.append(f"{what.removeprefix('is ')} of {in_running_text(name)}")
            else:
                words.append(f"whose {in_running_text(name)} {what}")
        text = joint.join(words)
        return f"not {text}" if self.out else text

    def describe(self) -> tuple[Piece, ...]:
        """Kept rows whose Season is Winter."""
        words: list[str | Piece] = ["Left out rows" if self.out else "Kept rows"]
        for index, condition in enumerate(self.where):
            joint = "" if not index else " or" if self.any else " and"
            name, what = condition.describe()
            words += [f"{joint} whose {name} ", choice(what)]
        return words_of(*words, ".")

    @property
    def about(self) -> tuple[str, ...]:
        """It is about the rows."""
        return ()


def _has_level(column: Column, levels: tuple[str, ...]) -> BoolArray:
    if isinstance(column, CategoryColumn):
        asked = set(levels)
        wanted = np.array([*(level in asked for level in column.levels), False])
        return wanted[column.codes]
    if isinstance(column, NumberColumn) and not isinstance(column, DateColumn):
        among = np.zeros(column.rows, dtype=bool)
        for low, high in filter(None, map(written_so, levels)):
            among |= (column.values >= low) & (column.values <= high)
        return among
    met: BoolArray = texts_of(column).is_in(list(levels)).fill_null(False).to_numpy()
    return met


def _containing(column: Column, part: str) -> BoolArray:
    if isinstance(column, CategoryColumn):
        return _has_level(
            column, tuple(v for v in column.levels if part.casefold() in v.casefold())
        )
    text = label_series(column) if isinstance(column, LabelColumn) else texts_of(column)
    lowered = text.str.to_lowercase().str.contains(part.lower(), literal=True)
    met: BoolArray = lowered.fill_null(False).to_numpy()
    return met


def bound_of(column: NumberColumn, bound: Bound, upper: bool) -> float:
    """A bound as the column counts; the end of a day where it is a date without a time."""
    if isinstance(bound, float):
        return bound
    if isinstance(column, DateColumn):
        return date_bound(bound, upper)
    number = as_float(bound)
    if number is None:
        raise StepError(f"{quoted(bound)} is no number, as {quoted(column.name)} holds them.")
    return number


def bound_written(bound: Bound) -> str:
    """A bound as a sentence names it."""
    return bound if isinstance(bound, str) else exact(bound)
