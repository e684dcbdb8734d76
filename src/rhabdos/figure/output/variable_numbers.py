"""Numbers of a variable by itself, as the overview lists them for all."""

import math

import numpy as np

from rhabdos.data.columns import CategoryColumn, Column, DateColumn, LabelColumn, NumberColumn
from rhabdos.data.samples import Sample
from rhabdos.figure.output.listed import NOTHING, Listed, as_count
from rhabdos.memo import memoised
from rhabdos.quoting import printable
from rhabdos.stats.summary import Summary, summarise
from rhabdos.wording import places_for, rounded

TITLES = (
    "Variable", "Kind", "n", "Missing", "Mean", "sd", "Min", "Q1", "Median", "Q3", "Max", "Skew",
    "Levels",
)  # fmt: skip
"""What the columns of such a list hold."""
FIRST_LOOK = 4
"""How many of them are known without looking at the values one by one."""
_MEASURES = ("mean", "sd", "min", "q1", "median", "q3", "max")


def first_cells(column: Column) -> list[Listed]:
    """Name, kind, n and missing of a variable."""
    label = printable(column.label)
    if isinstance(column, NumberColumn) and column.unit and not isinstance(column, DateColumn):
        label += f" ({printable(column.unit)})"
    return [
        Listed(label, label.casefold()),
        Listed(column.kind, column.kind),
        as_count(column.n),
        as_count(column.missing),
    ]


def further_cells(column: Column) -> list[Listed]:
    """Mean, sd, extremes and quartiles, skew and levels of a variable; quartiles are those of
    definition 7."""
    if isinstance(column, CategoryColumn):
        return [*(NOTHING,) * 8, as_count(len(column.levels))]
    if isinstance(column, LabelColumn):
        return [*(NOTHING,) * 8, as_count(column.distinct)]
    assert isinstance(column, NumberColumn)
    if not column.n:
        return [NOTHING] * 9
    summary = summary_of(column)
    reach = max(abs(summary.min), abs(summary.max))
    places = places_for(summary.sd if summary.sd == summary.sd else 0.0, reach)
    cells = []
    for name in _MEASURES:
        number = getattr(summary, name)
        written = column.format_rounded_difference if name == "sd" else column.rounded
        known = math.isfinite(number)
        cells.append(Listed(written(number, places), number) if known else NOTHING)
    skew = summary.skewness
    cells.append(Listed(rounded(skew, 2), skew) if math.isfinite(skew) else NOTHING)
    return [*cells, NOTHING]


def spread_share(variable: NumberColumn, summary: Summary) -> float:
    """The sd as a share of the mean; NaN of dates, which have no zero that a share begins at."""
    return math.nan if isinstance(variable, DateColumn) else summary.cv


@memoised  # the overview, its search and its file ask for the same
def summary_of(column: NumberColumn) -> Summary:
    """The summary of all values of a number; kept with it."""
    values = np.sort(column.values[~np.isnan(column.values)])
    return summarise(Sample(column.label, values))
