"""The questions that are asked of data where they lie."""

from collections.abc import Sequence

import numpy as np
from sqlglot import exp

from rhabdos.arrays import FloatArray
from rhabdos.data.far.connection import Connection
from rhabdos.data.far.grid import Apart, Grid
from rhabdos.data.far.relation import FarColumn, Relation
from rhabdos.data.far.words import both, column, known, named
from rhabdos.data.table import VariableError
from rhabdos.quoting import quoted

MOST_ROWS = 2_000_000
"""Cells that an answer may have."""

POWERS = ("s1", "s2", "s3", "s4")


def cells_query(
    relation: Relation,
    asked: Sequence[FarColumn],
    by: Sequence[FarColumn],
    grids: Sequence[Grid],
    apart: Apart,
) -> exp.Query:
    """All cells of all variables in all combinations of levels.

    A cell is what lies in a small range: how many values, the least and the greatest, and sums of
    their powers from where it begins in units of its grid's step, which keeps these sums small and
    their digits. A row whose begin is null counts rows without a value.
    """
    parts = [
        _cells_of(relation, at, far, by, grid, apart)
        for at, (far, grid) in enumerate(zip(asked, grids, strict=True))
    ]
    query: exp.Query = parts[0]
    for part in parts[1:]:
        query = exp.union(query, part, distinct=False)
    return query.limit(MOST_ROWS + 1)


def _cells_of(
    relation: Relation, at: int, far: FarColumn, by: Sequence[FarColumn], grid: Grid, apart: Apart
) -> exp.Select:
    factors = {f"f{number}": each.value for number, each in enumerate(by)}
    rows = relation.select({**factors, "x": far.value})
    begun = grid.cells(rows, tuple(factors), apart).subquery("b")
    x = column("x")
    sums, power = [], column("d")
    for name in POWERS:
        sums.append(named(exp.Sum(this=power), name))
        power = both(power, column("d"), exp.Mul)
    keys = [column(name) for name in (*factors, "c")]
    return (
        exp.select(
            named(exp.Literal.number(at), "v"),
            *(column(name) for name in factors),
            column("c"),
            named(exp.Count(this=exp.Star()), "n"),
            named(exp.Min(this=x.copy()), "lo"),
            named(exp.Max(this=x.copy()), "hi"),
            *sums,
        )
        .from_(begun)
        .group_by(*keys)
    )


def values_query(
    relation: Relation,
    asked: FarColumn,
    by: Sequence[FarColumn],
    grid: Grid,
    begins: FloatArray,
    apart: Apart,
) -> exp.Select:
    """The values within some cells, and how often each occurs, in all combinations of levels.

    Parameters
    ----------
    begins : array, shape (k,)
        Where each cell begins, in the variable's unit.
    """
    factors = {f"f{at}": each.value for at, each in enumerate(by)}
    rows = relation.select({**factors, "x": asked.value})
    within = grid.cells(rows, tuple(factors), apart, begins).subquery("w")
    keys = [column(name) for name in (*factors, "x")]
    return exp.select(*keys, named(exp.Count(this=exp.Star()), "n")).from_(within).group_by(*keys)


def mean_and_sd(
    connection: Connection, relation: Relation, asked: FarColumn, name: str
) -> tuple[float, float]:
    """The mean and the standard deviation of a variable, in two passes of one query.

    Raises
    ------
    VariableError
        Its values do not differ.
    """
    rows = relation.select({"x": asked.value})
    mean = exp.select(named(exp.Avg(this=column("x")), "m")).from_(rows.subquery("a"))
    away = both(column("x"), exp.column("m", table="c", quoted=True), exp.Sub)
    query = (
        exp.select(
            named(exp.Max(this=exp.column("m", table="c", quoted=True)), "m"),
            named(exp.Sum(this=both(away, away, exp.Mul)), "s"),
            named(exp.Count(this=column("x")), "n"),
        )
        .from_(rows.subquery("r"))
        .join(mean.subquery("c"), join_type="cross")
        .where(known(column("x")))
    )
    answer = connection.ask(query)
    centre, squares, count = answer.row(0)
    if not count or count < 2 or not squares > 0:
        raise VariableError(
            f"{quoted(name)} cannot be standardised: its values do not differ. Take it out, or "
            "show the values as they are."
        )
    return float(centre), float(np.sqrt(float(squares) / (int(count) - 1)))
