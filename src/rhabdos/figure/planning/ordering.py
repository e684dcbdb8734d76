"""The order of groups and of panels: by a rule, or by hand."""

import math
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from msgspec import Struct

from rhabdos.data.columns import CategoryColumn, natural
from rhabdos.data.gathering import without_level
from rhabdos.data.pooled import Pooled
from rhabdos.data.sample_sets import SampleSet
from rhabdos.data.samples import parts_of
from rhabdos.figure.planning.titles import value_axis_title
from rhabdos.figure.recipe.recipe import Groups, OrderBy, Recipe
from rhabdos.memo import memoised
from rhabdos.stats.quantiles import QuartileRule, quartiles
from rhabdos.wording import in_running_text

VARIABLE = ""
"""The name of the dimension whose levels are the variables of a figure."""


class Level(Struct, frozen=True):
    """A level of a dimension, as the figure calls it.

    Attributes
    ----------
    name : str or None
        None for the rows that have none.
    index : int
        Among all levels of its factor, also those that are hidden: that of its colour.
    code : int
        Which it is in the data; -1 where it has no name.
    head : str
        What a panel of its own is called: a variable with its unit.
    """

    name: str | None
    label: str
    index: int
    code: int
    head: str


class Dimension(Struct, frozen=True):
    """A factor, or the variables, with the levels that are shown in the order in which they are.

    ``total`` counts all levels, also those that are hidden, and the rows without one as another.
    """

    name: str
    label: str
    levels: tuple[Level, ...]
    total: int


def levels_of(factor: CategoryColumn) -> list[Level]:
    """All levels of a factor, in the order of the data."""
    return [Level(name, name, index, index, name) for index, name in enumerate(factor.levels)]


def level_without(factor: CategoryColumn) -> Level:
    """The rows that have no level, as one."""
    words = without_level(in_running_text(factor.label))
    return Level(None, words, len(factor.levels), -1, words)


def variables_as_levels(gathered: SampleSet) -> list[Level]:
    """All variables of a figure as levels, in their order."""
    return [
        Level(column.name, column.label, index, index, value_axis_title(column.label, column.unit))
        for index, column in enumerate(gathered.variables)
    ]


def factor_dimension(gathered: SampleSet, at: int, recipe: Recipe) -> Dimension:
    """The levels of factor number ``at`` that are shown, in the order that a recipe asks for."""
    groups = recipe.groups
    factor = gathered.factors[at]
    levels = levels_of(factor)
    shown = [level for level in levels if level.label not in groups.hidden]
    cells = [index for index in shown_cells(gathered, groups) if not gathered.cells[index].variable]

    def of_level(level: Level) -> tuple[int, ...]:
        """The samples of a level; of several variables the first one tells."""
        return tuple(index for index in cells if gathered.cells[index].codes[at] == level.code)

    ordered = _ordered(
        gathered,
        shown,
        recipe,
        named=lambda level: level.index,
        first=lambda level: _first_rows(gathered, at)[level.code],
        samples_of=of_level,
    )
    lacking = any(cell.codes[at] == -1 for cell in gathered.cells)
    if groups.missing and lacking:
        ordered.append(level_without(factor))
    return Dimension(factor.name, factor.label, tuple(ordered), len(levels) + lacking)


def variable_dimension(gathered: SampleSet, recipe: Recipe) -> Dimension:
    """The variables of a figure as levels, in the order that a recipe asks for."""
    groups = recipe.groups
    levels = variables_as_levels(gathered)
    hidden = set(groups.hidden)
    shown = [level for level in levels if not {level.name, level.label} & hidden]
    cells = shown_cells(gathered, groups)

    def of_variable(level: Level) -> tuple[int, ...]:
        """The samples of a variable."""
        return tuple(index for index in cells if gathered.cells[index].variable == level.code)

    ordered = _ordered(
        gathered,
        shown if len(levels) > 1 else levels,
        recipe,
        named=lambda level: natural(level.label),
        first=lambda level: _place_in_table(gathered, level.code),
        samples_of=of_variable,
    )
    return Dimension(VARIABLE, "Variable", tuple(ordered), len(levels))


def shown_cells(gathered: SampleSet, groups: Groups) -> list[int]:
    """The places of the samples that have no hidden level."""
    hidden = [
        {code for code, name in enumerate(factor.levels) if name in groups.hidden}
        | (set() if groups.missing else {-1})
        for factor in gathered.factors
    ]
    return [
        index
        for index, cell in enumerate(gathered.cells)
        if not any(code in out for code, out in zip(cell.codes, hidden, strict=True))
    ]


def _ordered(
    gathered: SampleSet,
    levels: Sequence[Level],
    recipe: Recipe,
    named: Callable[[Level], Any],
    first: Callable[[Level], int],
    samples_of: Callable[[Level], tuple[int, ...]],
) -> list[Level]:
    """Levels in order; those that a measure says nothing of stand last, whichever way round."""
    order = recipe.groups.order
    unknown: list[Level] = []
    if order is None:
        ordered = list(levels)
    elif not isinstance(order, str):
        rank = {name: index for index, name in reversed(list(enumerate(order)))}
        ordered = sorted(
            levels,
            key=lambda level: min(
                rank.get(name or "", len(rank)) for name in (level.name, level.label)
            ),
        )
    elif order == "name":
        ordered = sorted(levels, key=named)
    elif order == "data":
        ordered = sorted(levels, key=first)
    else:
        rule = recipe.box.quartiles
        measures = {level: _measured(gathered, order, samples_of(level), rule) for level in levels}
        unknown = [level for level in levels if math.isnan(measures[level])]
        told = [level for level in levels if level not in unknown]
        ordered = sorted(told, key=lambda level: measures[level])
    return [*(reversed(ordered) if recipe.groups.reverse else ordered), *unknown]


@memoised  # an order by medians is asked for by each level list, and goes through the values
def _measured(
    gathered: SampleSet, how: OrderBy, places: tuple[int, ...], rule: QuartileRule
) -> float:
    """The n, mean, sd, or median by a definition, of all values of some samples; NaN where there is
    none."""
    pooled = Pooled(tuple(gathered.samples[index] for index in places))
    if how == "n":
        return float(pooled.n)
    if not pooled.n:
        return math.nan
    if how == "median":
        return quartiles(pooled, rule)[1]
    if how == "mean":
        return pooled.moments.mean
    return pooled.moments.norm / math.sqrt(pooled.n - 1) if pooled.n > 1 else math.nan


@memoised  # goes through all rows
def _first_rows(gathered: SampleSet, at: int) -> tuple[int, ...]:
    """The first row that has each level of a factor; levels that no row has come last."""
    factor = gathered.factors[at]
    first = [factor.rows] * len(factor.levels)
    unseen, start = set(range(len(first))), 0
    for part in parts_of(factor.codes):
        if not unseen:
            break
        codes, rows = np.unique(part, return_index=True)
        for code, row in zip(codes.tolist(), rows.tolist(), strict=True):
            if code in unseen:
                first[code] = start + row
                unseen.discard(code)
        start += len(part)
    return tuple(first)


def _place_in_table(gathered: SampleSet, variable: int) -> int:
    """Where a variable stands among the columns of its table."""
    if gathered.table is None:
        return variable
    names = [column.name for column in gathered.table.columns]
    return names.index(gathered.variables[variable].name)
