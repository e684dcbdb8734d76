"""The numbers behind a plain chart: as tables, and as they are printed."""

import json
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np

from rhabdos.data.samples import Sample
from rhabdos.data.table import Table
from rhabdos.figure.output.numbers import of_summary
from rhabdos.figure.output.tables import Cell, NumberTable, summary_cells, summary_names
from rhabdos.figure.readings.plain_chart_readings import Side, levels_reading, scatter_reading
from rhabdos.figure.recipe.plain_charts import LevelBars, PlainChart, Scatter
from rhabdos.stats.summary import summarise


def chart_tables(chart: PlainChart, table: Table) -> dict[str, Callable[[], NumberTable]]:
    """The tables that a chart has, by name."""
    if isinstance(chart, LevelBars):
        return {"Levels": partial(levels_table, chart, table)}
    return {"Summary": partial(scatter_table, chart, table)}


def levels_table(chart: LevelBars, table: Table) -> NumberTable:
    """Every level with its rows, or the sum of a number over them, and its share of all; at the
    end the rows that have none.

    Raises
    ------
    VariableError
        As for `levels_reading`.
    """
    reading = levels_reading(chart, table, most=None)
    counted = reading.heights is None
    rows: list[tuple[Cell, ...]] = [
        (bar.level, round(bar.height) if counted else bar.height, 100 * bar.share)
        for bar in reading.bars
    ]
    if reading.missing and counted:
        rows.append(("missing", reading.missing, ""))
    heights = "count" if reading.heights is None else reading.heights.label
    return NumberTable("Levels", (reading.variable.label, heights, "percent"), tuple(rows))


def scatter_table(chart: Scatter, table: Table) -> NumberTable:
    """Both numbers of the rows that have both.

    Raises
    ------
    VariableError
        As for `scatter_reading`.
    """
    reading = scatter_reading(chart, table)
    rows = []
    for side in (reading.x, reading.y):
        cells = summary_cells(side.variable, summarise(_sample(side)))
        rows.append((side.variable.label, len(side.values), reading.lacking, *cells))
    names = ("variable", "n", "missing either", *summary_names())
    return NumberTable("Summary", names, tuple(rows))


def chart_json(chart: PlainChart, table: Table) -> str:
    """Every number behind a chart as JSON.

    Raises
    ------
    VariableError
        The chart cannot be drawn of this table.
    """
    return json.dumps(chart_data(chart, table), ensure_ascii=False, indent=1, allow_nan=False)


def chart_data(chart: PlainChart, table: Table) -> dict[str, Any]:
    """Every number behind a chart, as ``rhabdos numbers`` prints it."""
    if isinstance(chart, LevelBars):
        bars = levels_reading(chart, table, most=None)
        return {
            "levels": [
                {"level": bar.level, "height": bar.height, "share": bar.share} for bar in bars.bars
            ],
            "variable": bars.variable.name,
            "heights": bars.heights.name if bars.heights is not None else None,
            "missing": bars.missing,
        }
    reading = scatter_reading(chart, table)
    return {
        "scatter": [
            {
                "variable": side.variable.name,
                "n": len(side.values),
                **of_summary(summarise(_sample(side)), side.variable),
                "bins": {"edges": side.edges.tolist(), "counts": side.counts.tolist()},
            }
            for side in (reading.x, reading.y)
        ],
        "missing": reading.lacking,
    }


def _sample(side: Side) -> Sample:
    return Sample(side.variable.label, np.sort(side.values))
