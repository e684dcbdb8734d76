"""The numbers of the plain charts: how many rows have each level, and where two numbers lie."""

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.cells import places_of
from rhabdos.data.columns import (
    CategoryColumn,
    Column,
    DateColumn,
    LabelColumn,
    NumberColumn,
    natural,
)
from rhabdos.data.fields.kinds import as_category
from rhabdos.data.fields.texts import label_series
from rhabdos.data.gathering import as_factor
from rhabdos.data.samples import Sample
from rhabdos.data.table import Table, VariableError
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.plain_charts import LevelBars, PlainChart, Scatter
from rhabdos.quoting import brief, printable, quoted
from rhabdos.stats.binning import by_count, counts
from rhabdos.stats.rules import by_rule
from rhabdos.wording import about, counted, in_running_text, rounded, with_unit

MOST_LEVELS = 60  # bars of a level that a page has room for
"""Levels that are drawn; of more, how many are not is said."""
_MOST_NAMES = 1_000  # of a text that are counted as levels
_MOST_BINS = 60  # along the sides of a scatter


class LevelBar(Struct, frozen=True):
    """A level, its height, and its share of all heights."""

    level: str
    height: float
    share: float


class LevelsReading(Struct, frozen=True, eq=False):
    """Bars of levels.

    Attributes
    ----------
    bars : tuple of LevelBar
        In the order asked for.
    more : int
        Levels that there was no room for.
    missing : int
        Rows without a level, or without a height.
    """

    variable: Column
    heights: NumberColumn | None
    bars: tuple[LevelBar, ...]
    more: int
    missing: int
    rows: int


class Side(Struct, frozen=True, eq=False):
    """One of the two numbers: its values, and its bins along the side."""

    variable: NumberColumn
    values: FloatArray
    edges: FloatArray
    counts: IntArray


class ScatterReading(Struct, frozen=True, eq=False):
    """Two numbers of each row that has both; ``lacking`` rows have not."""

    x: Side
    y: Side
    lacking: int
    rows: IntArray


def check_chart(chart: PlainChart, table: Table) -> None:
    """Refuse what cannot be looked at of a table.

    Raises
    ------
    Refusal
        A variable is not there, or not of the kind that is needed.
    """
    if isinstance(chart, LevelBars):
        levels_reading(chart, table)
    else:
        scatter_reading(chart, table)


def levels_reading(chart: LevelBars, table: Table, most: int | None = MOST_LEVELS) -> LevelsReading:
    """How many rows have each level, or the sum of another variable in each; of the first ``most``
    levels, or of all.

    Raises
    ------
    VariableError
        The variable has no levels, a height is negative, or heights are dates.
    """
    column = table.column(chart.variable)
    factor = _levelled(column)
    heights = table.number(chart.heights) if chart.heights is not None else None
    known = factor.codes >= 0
    if heights is None:
        sizes = factor.level_counts.astype(np.float64)
    else:
        if isinstance(heights, DateColumn):
            raise VariableError(
                f"{quoted(heights.name)} holds dates, which do not add up to heights of bars. "
                "Choose a number."
            )
        known &= ~np.isnan(heights.values)
        values = heights.values[known]
        if len(values) and float(values.min()) < 0:
            raise VariableError(
                f"{quoted(heights.name)} holds negative numbers, which are no heights of bars."
            )
        summed = np.bincount(factor.codes[known], values, minlength=len(factor.levels))
        sizes = summed.astype(np.float64)
    total = float(sizes.sum())
    order = list(range(len(factor.levels)))
    if chart.order == "count":
        order.sort(key=lambda index: -sizes[index])
    elif chart.order == "name":
        order.sort(key=lambda index: natural(factor.levels[index]))
    if chart.reverse:
        order.reverse()
    bars = tuple(
        LevelBar(factor.levels[p], float(sizes[p]), float(sizes[p]) / total if total else 0.0)
        for p in order[:most]
    )
    missing = int(np.count_nonzero(~known))
    return LevelsReading(column, heights, bars, len(order) - len(bars), missing, table.rows)


def _levelled(column: Column) -> CategoryColumn:
    if isinstance(column, CategoryColumn):
        return column
    if isinstance(column, LabelColumn):
        if column.distinct > _MOST_NAMES:
            raise VariableError(
                f"{quoted(column.name)} holds {column.distinct:,} different labels, too many for "
                "bars. Draw a category."
            )
        return as_category(column.name, label_series(column))
    return as_factor(column)


def scatter_reading(chart: Scatter, table: Table) -> ScatterReading:
    """Where the rows lie that have both numbers.

    Raises
    ------
    VariableError
        A variable holds no numbers, both are the same, or no row has both.
    """
    x, y = table.number(chart.x), table.number(chart.y)
    if x.name == y.name:
        raise VariableError("Choose two different variables to look at.")
    both = ~(np.isnan(x.values) | np.isnan(y.values))
    rows = np.flatnonzero(both)
    if not len(rows):
        raise VariableError(f"No row has both {quoted(x.name)} and {quoted(y.name)}.")
    sides = (_side(x, x.values[rows]), _side(y, y.values[rows]))
    return ScatterReading(*sides, table.rows - len(rows), rows)


def _side(variable: NumberColumn, values: FloatArray) -> Side:
    sample = Sample(variable.label, np.sort(values))
    try:
        edges = by_rule(sample, "automatic").edges
        if edges.count > _MOST_BINS:
            edges = by_count(sample, _MOST_BINS)
        return Side(variable, values, edges.values, counts(sample, edges))
    except Refusal:  # values too far apart for bins are still places
        ends = np.array([sample.minimum, sample.maximum])
        return Side(variable, values, ends, np.array([sample.n]))


def chart_sentence(chart: PlainChart, table: Table) -> str:
    """What a chart shows, as one sentence that can be read aloud."""
    rows = rows_said(table)
    if isinstance(chart, LevelBars):
        said = "".join(levels_said(chart, table))
        return f"{said}{rows}, drawn as {bars_said(chart)}, {order_said(chart)}."
    x, y = table.column(chart.x), table.column(chart.y)
    return f"{y.label} against {x.label}, a dot a row{rows}, with their distributions."


def bars_told(chart: PlainChart, table: Table) -> tuple[str, ...]:
    """Each bar in words, in their order; nothing of a chart without bars."""
    if not isinstance(chart, LevelBars):
        return ()
    reading = levels_reading(chart, table)

    def told(bar: LevelBar) -> str:
        """What a bar is as high as."""
        if (of := reading.heights) is not None:
            return f"{in_running_text(of.label)} {with_unit(height_told(of, bar.height), of.unit)}"
        return f"{counted(round(bar.height), 'row', 'rows')}, {100 * bar.share:.1f} %"

    return tuple(f"{printable(bar.level)}: {told(bar)}" for bar in reading.bars)


def height_told(of: NumberColumn, height: float) -> str:
    """A sum of a variable, with as many decimals as it has."""
    places = places_of(of)
    return about(height, 4) if places is None else rounded(height, places)


def rows_said(table: Table) -> str:
    """How many rows are left, where some were left out; with a blank before."""
    if table.far is not None:
        return f" (of {table.rows:,} rows looked at)"
    return f" (of {table.rows:,} of {table.of_rows:,} rows)" if table.of_rows else ""


def levels_said(chart: LevelBars, table: Table) -> tuple[str, str]:
    """What the bars are as high as, up to the variable whose levels they are; and that."""
    variable = in_running_text(table.column(chart.variable).label)
    if chart.heights is not None:
        return f"{table.column(chart.heights).label} of each ", variable
    return "How many rows have each ", variable


def bars_said(chart: LevelBars) -> str:
    """How the bars are drawn."""
    return "standing bars with gaps" if chart.upright else "bars with gaps"


def order_said(chart: LevelBars) -> str:
    """In what order the bars are."""
    words = {"level": "in their order", "count": "by height", "name": "by name"}[chart.order]
    return f"{words}, the other way round" if chart.reverse else words


def levels_note(reading: LevelsReading) -> str:
    """What is not in the bars."""
    parts = []
    if reading.more:
        parts.append(f"{counted(reading.more, 'more level', 'more levels')} not drawn")
    if reading.missing:
        parts.append(f"{counted(reading.missing, 'row', 'rows')} without one")
    return "; ".join(parts)


def height_words(reading: LevelsReading) -> str:
    """What the bars measure: "Count", or the variable and its unit."""
    if reading.heights is None:
        return "Count"
    return with_unit(brief(reading.heights.label), f"({reading.heights.unit})").removesuffix(" ()")
