"""Gathering where the data lie: one grouped query, from whose answer samples are made."""

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from msgspec import structs
from sqlglot import exp

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.celled import Opening
from rhabdos.data.columns import CategoryColumn, Column, LabelColumn, NumberColumn
from rhabdos.data.far.answers import Parting, samples_of
from rhabdos.data.far.asking import asked_for
from rhabdos.data.far.connection import FarError
from rhabdos.data.far.grid import Grid, grid_for
from rhabdos.data.far.pushing import column_in
from rhabdos.data.far.questions import (
    MOST_ROWS,
    cells_query,
    mean_and_sd,
    values_query,
    weight_query,
)
from rhabdos.data.far.relation import FarColumn
from rhabdos.data.far.table import Far
from rhabdos.data.far.words import both, number
from rhabdos.data.gathering import (
    MOST_GROUPS,
    as_factor,
    few_values,
    label_of,
    refuse_twice,
    without_values,
)
from rhabdos.data.pooled import AnySample
from rhabdos.data.reporting import Report, silent
from rhabdos.data.sample_sets import Cell, SampleSet
from rhabdos.data.table import Table, VariableError
from rhabdos.quoting import quoted
from rhabdos.wording import counted

if TYPE_CHECKING:
    import polars as pl

_MOST_CASES = 2.0**53  # up to which doubles tell whole numbers apart


class FarSamples(SampleSet, frozen=True, eq=False, dict=True):
    """Samples of rows that stay where they lie, and are not named one by one."""

    def tail_rows(self, _group: int, _most: int = 0) -> IntArray:
        """No rows are at hand."""
        return np.empty(0, dtype=np.int64)

    def rows_past(self, _group: int, _low: float, _high: float) -> IntArray:
        """No rows are at hand."""
        return np.empty(0, dtype=np.int64)


def gather_far(
    table: Table,
    variables: Sequence[str],
    factors: Sequence[str] = (),
    report: Report = silent,
    weight: str | None = None,
    standardised: bool = False,
) -> SampleSet:
    """The samples of a figure, counted where the data lie.

    Parameters
    ----------
    variables, factors : sequence of str
        Names of columns.
    standardised : bool
        Each variable in standard deviations from its mean, which costs a query more.

    Raises
    ------
    VariableError
        A variable is not in the table or of the wrong kind, no row has a value, or there are more
        groups than a figure can hold.
    FarError
        The data cannot be asked.
    Cancelled
        The question was stopped.
    """
    far = table.far
    assert far is not None
    weigher, unweighted = None, 0
    if weight is not None:
        if standardised:
            raise VariableError(
                "Data that are asked where they lie are standardised without a weight. Take one "
                "of the two away."
            )
        weigher = table.number(weight)
        far, unweighted = _with_weight(far, table, weigher, report)
    measured = [table.number(name) for name in variables]
    refuse_twice(measured)
    looked = _factors(table, factors)
    asked = [column_in(far.relation, table, each.name) for each in measured]
    if standardised:
        report("Asking for means", None)
        asked, measured = _standardised(far, asked, measured)
    by = [column_in(far.relation, table, each.name) for each in looked]
    factors_found, cells, samples = _counted(far, asked, measured, by, looked, report)
    gathered = FarSamples(
        tuple(measured),
        factors_found,
        tuple(cells),
        tuple(samples),
        weigher,
        unweighted,
        table=table if weigher else _recounted(table, samples, len(measured)),
    )
    if gathered.ungrouped == gathered.pooled.n:
        raise without_values(gathered)
    return gathered


def _factors(table: Table, names: Sequence[str]) -> list[Column]:
    """The columns that split, each once."""
    looked = list({c.name: c for c in (table.column(name) for name in names)}.values())
    for each in looked:
        _refuse_many(each)
    return looked


def _recounted(table: Table, samples: Sequence[AnySample], times: int) -> Table:
    """The same table, which knows now how many rows there are."""
    assert table.far is not None
    kept = sum(sample.n + sample.missing for sample in samples) // times
    far = structs.replace(table.far, kept=kept, **_exact(table.far, kept))
    return structs.replace(table, far=far)


def _with_weight(far: Far, table: Table, weigher: NumberColumn, report: Report) -> tuple[Far, int]:
    """What is asked of the rows that stand for cases, and how many rows have no weight.

    Raises
    ------
    VariableError
        A weight is no whole number, or they add up to more than can be counted.
    """
    how = column_in(far.relation, table, weigher.name)
    answer = asked_for(far.connection, weight_query(far.relation, how), report)
    wrong, none, cases = (float(value or 0) for value in answer.row(0))
    if wrong:
        raise VariableError(
            f"{quoted(weigher.name)} cannot be a weight: {counted(int(wrong), 'row', 'rows')} hold "
            "what is no whole number or below 0, and a weight is the whole number of cases that a "
            "row stands for. Choose another variable."
        )
    if cases >= _MOST_CASES:
        raise VariableError(
            f"{quoted(weigher.name)} cannot be a weight: it adds up to more cases than can be "
            "counted."
        )
    weighed = structs.replace(
        far.relation.only(both(how.value, number(0.0), exp.GT)), weight=how.value
    )
    return structs.replace(far, relation=weighed), int(none)


def gather_relation(
    far: Far, asked: Sequence[FarColumn], measured: Sequence[NumberColumn]
) -> list[AnySample]:
    """The samples of some variables without groups."""
    return _counted(far, asked, measured, [], [], silent)[2]


def _counted(
    far: Far,
    asked: Sequence[FarColumn],
    measured: Sequence[NumberColumn],
    by: Sequence[FarColumn],
    looked: Sequence[Column],
    report: Report,
) -> tuple[tuple[CategoryColumn, ...], list[Cell], list[AnySample]]:
    """The factors with all their levels, and each sample with what it is of."""
    groups = _groups_seen(looked)
    grids = [grid_for(_seen(each), groups, far.kept or far.rows) for each in measured]
    if not all(grid.by_value for grid in grids):  # one question has one sort of answer
        grids = [structs.replace(grid, by_value=False) for grid in grids]
    answer = _answered(far, asked, by, grids, report)
    if answer.height > MOST_ROWS and any(grid.by_value for grid in grids):
        grids = [grid.by_cells if grid.by_value else grid for grid in grids]
        answer = _answered(far, asked, by, grids, report)
    if answer.height > MOST_ROWS:
        raise FarError(
            "The figure would need more cells than can be fetched. Choose fewer groups, or keep a "
            "part of the rows."
        )
    parting, combined = Parting.of(looked, by, answer, len(measured))
    variable = answer["v"].to_numpy()
    cells: list[Cell] = []
    samples: list[AnySample] = []
    for at, look in enumerate(measured):
        labels = [label_of(measured, at, parting.factors, codes) for codes in parting.codes]
        fetch = partial(_fetched, far, asked[at], by, parting, grids[at])
        rows = np.flatnonzero(variable == at) if len(measured) > 1 else slice(None)
        mine = samples_of(answer[rows], combined[rows], parting, grids[at], labels, fetch)
        if not sum(sample.n for sample in mine):
            raise VariableError(f"{quoted(look.name)} has no values: all rows are missing.")
        samples += mine
        cells += [Cell(at, codes) for codes in parting.codes]
    return parting.factors, cells, samples


def _exact(far: Far, kept: int) -> dict[str, object]:
    """What is known of all rows, once those that are kept were counted."""
    return {} if far.relation.where else {"rows": kept, "estimated": False}


def _seen(look: NumberColumn) -> FloatArray:
    return look.values[~np.isnan(look.values)]


def _groups_seen(looked: Sequence[Column]) -> int:
    """Among how many groups cells will be shared out, as far as was looked."""
    groups = 1
    for each in looked:
        groups *= max(len(as_factor(each).levels), 1)
    return groups


def _refuse_many(look: Column) -> None:
    """Refuse a factor of too many levels before anything is asked."""
    many = isinstance(look, LabelColumn) or (
        isinstance(look, CategoryColumn) and len(look.levels) > MOST_GROUPS
    )
    if many or (isinstance(look, NumberColumn) and few_values(look) is None):
        raise VariableError(
            f"{quoted(look.name)} has too many different values to split by: a figure shows at "
            f"most {MOST_GROUPS} groups. Choose a variable with fewer."
        )


def _answered(
    far: Far,
    asked: Sequence[FarColumn],
    by: Sequence[FarColumn],
    grids: Sequence[Grid],
    report: Report,
) -> "pl.DataFrame":
    """The cells of all variables; of those that are counted by value, each value is one."""
    import polars as pl

    query = cells_query(far.connection, far.relation, asked, by, grids)
    answer = asked_for(far.connection, query, report)
    if "lo" in answer.columns:
        return answer
    return answer.with_columns(
        pl.col("c").alias("lo"), pl.col("c").alias("hi"), s1=pl.lit(0.0), s2=pl.lit(0.0)
    )


def _fetched(
    far: Far,
    asked: FarColumn,
    by: Sequence[FarColumn],
    parting: Parting,
    grid: Grid,
    opening: Opening,
) -> list[tuple[FloatArray, IntArray]]:
    """The values within some cells, and how often each occurs, combination by combination."""
    query = values_query(far.connection, far.relation, asked, by, grid, opening)
    answer = far.connection.ask(query)
    return parting.values(answer)


def _standardised(
    far: Far, asked: Sequence[FarColumn], measured: Sequence[NumberColumn]
) -> tuple[list[FarColumn], list[NumberColumn]]:
    """Variables in standard deviations from their means."""
    scaled, shown = [], []
    for each, look in zip(asked, measured, strict=True):
        mean, sd = mean_and_sd(far.connection, far.relation, each, look.name)
        value = both(both(each.value, number(mean), exp.Sub), number(sd), exp.Div)
        scaled.append(FarColumn("number", value))
        values = (look.values - mean) / sd
        plain = look.name, look.label, "", look.missing_as, look.stood
        shown.append(NumberColumn(*plain, values=values))
    return scaled, shown
