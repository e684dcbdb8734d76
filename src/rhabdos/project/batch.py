"""Many figures at once: the same one of every variable, of every level of a factor, or of every
file."""

import re
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
from msgspec import Struct, structs

from rhabdos.data.columns import CategoryColumn, Column, NumberColumn
from rhabdos.data.preparing import OtherTables, begun, prepared
from rhabdos.data.reporting import Report, silent
from rhabdos.data.steps.keep import Condition, KeepRows
from rhabdos.data.steps.step import Step
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.phrases.bins import as_drawn
from rhabdos.figure.phrases.grouping import split_by
from rhabdos.figure.phrases.shown import showing
from rhabdos.figure.planning.data_request import gathered, samples_for, wanted
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import NUMBERS, Recipe
from rhabdos.figure.words.markup import as_written
from rhabdos.quoting import quoted

MOST = 2_000
"""Figures of one batch."""
_LONGEST_NAME = 80  # letters of a file's name that come from a variable, a level or a file
_UNFIT = re.compile(r"[\s/\\:*?\"<>|\x00-\x1f.]+")


class BatchError(Refusal):
    """Figures cannot be made as many as asked."""


class Item(Struct, frozen=True):
    """One figure of a batch.

    Attributes
    ----------
    name : str
        The variable, the level or the file that it is of.
    rows : KeepRows or None
        Which rows it is drawn of, where not of all.
    data : str or None
        The file that it is drawn of, where each has its own.
    """

    name: str
    recipe: Recipe
    rows: KeepRows | None = None
    data: str | None = None


def each_variable(recipe: Recipe, table: Table) -> list[Item]:
    """A figure of each numeric variable that has a value, but for factors and weights."""
    used = {table.column(n).name for n in (*recipe.factors, recipe.show.weight) if n}
    columns = [c for c in table.numbers if c.n and c.name not in used]
    return [Item(c.label, showing(recipe, c.name)) for c in columns]


def each_level(recipe: Recipe, table: Table, factor: str, same_bins: bool = False) -> list[Item]:
    """A figure of the rows of each level of a factor, which has no groups by it any more.

    Parameters
    ----------
    same_bins : bool
        Whether all have the bins that all rows would have, so that their heights compare.

    Raises
    ------
    Refusal
        The table has no such factor.
    """
    column = table.column(factor)
    others = [n for n in recipe.show.split if table.column(n).name != column.name]
    by = tuple(n for n in recipe.panels.by if table.column(n).name != column.name)
    alone = split_by(recipe, *others).paneled(by=by)
    if same_bins:
        readings = read(recipe, samples_for(recipe, table))
        if readings.needs_bins and readings.plan.axes == 1:
            alone = alone.binned(as_drawn(readings))
    items = []
    for level, condition in _levels(column):
        title = recipe.words.title
        words = f"{title}: {as_written(level)}" if title else as_written(level)
        items.append(Item(level, alone.worded(title=words), KeepRows((condition,))))
    return items


def _levels(column: Column) -> Iterator[tuple[str, Condition]]:
    """The levels that a column has rows of; of numbers, their different values."""
    if isinstance(column, CategoryColumn):
        for level, count in zip(column.levels, column.level_counts.tolist(), strict=True):
            if count:
                yield level, Condition(variable=column.name, levels=(level,))
    elif isinstance(column, NumberColumn):
        values = np.unique(column.values[np.isfinite(column.values)])
        if len(values) > MOST:
            raise BatchError(
                f"{quoted(column.label)} has {len(values):,} different values, too many for a "
                "figure each. Name a variable with levels after “level:”."
            )
        for level in dict.fromkeys(map(column.written, values.tolist())):
            yield level, Condition(variable=column.name, levels=(level,))
    else:
        raise BatchError(
            f"{quoted(column.label)} names rows, and has no levels. Name a variable with levels "
            "after “level:”."
        )


def each_file(recipe: Recipe, files: Sequence[str]) -> list[Item]:
    """A figure of each file."""
    return [Item(Path(file).stem, recipe, None, file) for file in files]


def readings_of(
    item: Item,
    steps: Sequence[Step],
    table: Table | None,
    report: Report = silent,
    only_looked_at: bool = False,
) -> Readings:
    """What a figure of a batch shows.

    Parameters
    ----------
    table : Table or None
        The prepared rows; None where the figure has a file of its own, whose rows are prepared
        first.
    only_looked_at : bool
        Of data that lie elsewhere only the rows that were looked at, as for a small picture.

    Raises
    ------
    Refusal
        It cannot be drawn.
    Cancelled
        From ``report``.
    """
    if item.data is not None:
        others = OtherTables((str(Path(item.data).parent),))
        beginning = steps[0] if steps and steps[0].begins and not steps[0].makes_rows else None
        rows = begun(beginning, item.data, report)  # type: ignore[arg-type]
        table = prepared(rows, steps, others)
    assert table is not None
    if item.rows is not None:
        table = prepared(_needed(table, item), (item.rows,))
    samples = gathered(table, wanted(item.recipe), report, only_looked_at)
    if table.far is not None and not only_looked_at:
        from rhabdos.project.making import ask_ahead  # brings the drawing of figures

        ask_ahead(item.recipe, samples)
    return read(item.recipe, samples)


def _needed(table: Table, item: Item) -> Table:
    """The columns that a figure of some rows needs, so that no others are looked through."""
    recipe = item.recipe
    if recipe.show.variables == NUMBERS or item.rows is None:
        return table
    names = {*recipe.show.variables, *recipe.factors, *(c.variable for c in item.rows.where)}
    paired = recipe.compare.paired if recipe.compare else None
    names |= {n for n in (recipe.show.weight, recipe.box.names, paired) if isinstance(n, str)}
    there = {table.column(name).name for name in names if table.has_any(name)}
    return structs.replace(table, columns=tuple(c for c in table.columns if c.name in there))


def file_names(pattern: str, items: Sequence[Item]) -> list[str]:
    """The file of each figure, by a pattern with {name} or {number} in it; of figures that would
    have the same, the later ones are numbered.

    Raises
    ------
    BatchError
        The pattern has neither, or other braces.
    """
    left = pattern.replace("{name}", "").replace("{number}", "")
    if "{" in left or "}" in left:
        raise BatchError(f"{quoted(pattern)}: only {{name}} and {{number}} may stand in braces.")
    if left == pattern:
        raise BatchError(
            f"{quoted(pattern)} would be the same file for every figure. Put {{name}} or "
            "{number} into it, or end it with .pdf for a page each."
        )
    taken: set[str] = set()
    names = []
    width = len(str(len(items)))
    for number, item in enumerate(items, 1):
        filled = pattern.replace("{number}", f"{number:0{width}}").replace("{name}", fit(item.name))
        ending = Path(filled).suffix
        unlike, again = filled, 2
        while unlike.casefold() in taken:
            unlike = f"{filled.removesuffix(ending)}-{again}{ending}"
            again += 1
        taken.add(unlike.casefold())
        names.append(unlike)
    return names


def fit(name: str) -> str:
    """A name as a part of a file's name: nothing in it leads to another folder."""
    return _UNFIT.sub("-", name).strip("-")[:_LONGEST_NAME] or "figure"


def with_rows(steps: Sequence[Step], item: Item) -> tuple[Step, ...]:
    """The steps of a figure by itself, as its recipe holds them."""
    return (*steps, item.rows) if item.rows is not None else tuple(steps)


def limited(items: list[Item], what: str) -> list[Item]:
    """The figures, if there are any, and not too many.

    Raises
    ------
    BatchError
        With what to do.
    """
    if not items:
        raise BatchError(f"There is no {what} to draw.")
    if len(items) > MOST:
        raise BatchError(
            f"{len(items):,} figures are too many; at most {MOST:,} are drawn at once."
        )
    return items
