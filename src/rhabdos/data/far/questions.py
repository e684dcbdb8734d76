"""The questions that are asked of data where they lie."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np
from sqlglot import exp

from rhabdos.data.celled import Opening
from rhabdos.data.far.connection import Connection
from rhabdos.data.far.grid import Grid
from rhabdos.data.far.relation import FarColumn, Relation
from rhabdos.data.far.words import (
    between,
    both,
    column,
    decimal,
    is_null,
    known,
    less,
    named,
    number,
    of_rows,
    single,
    when,
)
from rhabdos.data.table import VariableError
from rhabdos.quoting import quoted

MOST_ROWS = 2_000_000
"""Cells that an answer may have."""

POWERS = ("s1", "s2")
_FEW_ROWS = 1_000_000  # which an engine sends sooner than it tells which of them are alike


def cells_query(
    connection: Connection,
    relation: Relation,
    asked: Sequence[FarColumn],
    by: Sequence[FarColumn],
    grids: Sequence[Grid],
) -> exp.Query:
    """All cells of all variables in all combinations of levels.

    A cell is what lies in a small range: how many values, the least and the greatest, the sum of
    how far they lie from where it begins in units of its grid's step, and that of the squares. What
    the third and fourth powers would add is less than a thousand millionth of those of the whole.
    A row whose begin is null counts rows without a value.
    """
    parts = [
        _cells_of(connection, relation, at, far, by, grid)
        for at, (far, grid) in enumerate(zip(asked, grids, strict=True))
    ]
    query: exp.Query = parts[0]
    for part in parts[1:]:
        query = exp.union(query, part, distinct=False)
    return query.limit(MOST_ROWS + 1)


def _cells_of(
    connection: Connection,
    relation: Relation,
    at: int,
    far: FarColumn,
    by: Sequence[FarColumn],
    grid: Grid,
) -> exp.Select:
    factors = {f"f{number}": each.key for number, each in enumerate(by)}
    weighed = _weighed(relation)
    rows = relation.select({**factors, **weighed, "x": far.in_cells})
    begun = grid.begins(rows, (*factors, *weighed), connection.apart)
    taken = [column(name) for name in factors]
    x, c, d = (column(name) for name in ("x", "c", "d"))
    cases = [column(name) for name in weighed]
    of_cell: list[exp.Expression] = [
        named(exp.Min(this=x), "lo"), named(exp.Max(this=x.copy()), "hi"),
        named(exp.Sum(this=_times(d, cases)), "s1"),
        named(exp.Sum(this=_times(both(d, d, exp.Mul), cases)), "s2"),
    ]  # fmt: skip
    if grid.by_value and far.plain is not None and not weighed:
        as_double = single if far.single else decimal
        return _as_doubles(at, relation.select({**factors, "x": far.plain}), taken, as_double)
    if grid.by_value:
        numbered = exp.select(named(exp.Literal.number(at), "v"), *taken, c)
        counted = numbered.select(_count(weighed))
        return of_rows(counted, begun, "b").group_by(*taken, c)
    away = exp.select(*taken, *cases, x, c, named(grid.away(connection.strict), "d"))
    away = connection.apart(of_rows(away, begun, "m"))
    numbered = exp.select(named(exp.Literal.number(at), "v"), *taken, c)
    counted = numbered.select(_count(weighed), *of_cell)
    return of_rows(counted, away, "b").group_by(*taken, c, copy=False)


def _as_doubles(
    at: int,
    rows: exp.Select,
    taken: Sequence[exp.Expression],
    as_double: Callable[[exp.Expression], exp.Expression],
) -> exp.Select:
    """Numbers counted as they stand, and then as the doubles that are made of them."""
    x, n = column("x"), column("n")
    each = exp.select(*taken, x, _count({})).from_(rows.subquery("r")).group_by(*taken, x)
    doubles = exp.select(*taken, named(as_double(x), "c"), n).from_(each.subquery("e"))
    count = exp.cast(exp.Sum(this=n.copy()), "bigint")
    numbered = exp.select(
        named(exp.Literal.number(at), "v"), *taken, column("c"), named(count, "n")
    )
    return numbered.from_(doubles.subquery("b")).group_by(*taken, column("c"))


def _weighed(relation: Relation) -> dict[str, exp.Expression]:
    """How many cases a row stands for, where that is not one."""
    return {} if relation.weight is None else {"w": relation.weight}


def _count(weighed: Mapping[str, exp.Expression]) -> exp.Expression:
    """How many cases there are."""
    return named(exp.Sum(this=column("w")) if weighed else exp.Count(this=exp.Star()), "n")


def _times(value: exp.Expression, cases: Sequence[exp.Expression]) -> exp.Expression:
    """A value as often as its row stands for cases."""
    return both(value, cases[0], exp.Mul) if cases else value


def weight_query(relation: Relation, weight: FarColumn) -> exp.Select:
    """How many rows have a weight that is no whole number or below 0, how many have none, and how
    many cases all stand for."""
    w, none, single = column("w"), number(0.0), number(1.0)
    wrong = both(less(w, none), both(w, exp.Floor(this=w.copy()), exp.NEQ), exp.Or)
    return exp.select(
        named(exp.Sum(this=when((wrong, single), other=none)), "wrong"),
        named(exp.Sum(this=when((is_null(w), single), other=none)), "none"),
        named(exp.Sum(this=w.copy()), "cases"),
    ).from_(relation.select({"w": weight.value}).subquery("r"))


def values_query(
    connection: Connection,
    relation: Relation,
    asked: FarColumn,
    by: Sequence[FarColumn],
    grid: Grid,
    opening: Opening,
) -> exp.Select:
    """The values within some cells, and how often each occurs, in all combinations of levels; as
    they stand, row by row, where they are few."""
    factors = {f"f{at}": each.key for at, each in enumerate(by)}
    weighed = _weighed(relation)
    rows = relation.select({**factors, **weighed, "x": asked.in_cells})
    # Where most values lie between the ends, it is no use to look which do, unless the engine
    # refuses to round all others down.
    if connection.guarded or not opening.most:
        low, high = number(opening.low), number(opening.high)
        rows = rows.where(between(asked.in_cells, low, high))
    inside = grid.within(rows, (*factors, *weighed), opening.begins, connection)
    if opening.n <= _FEW_ROWS and not weighed:
        return inside
    keys = [column(name) for name in (*factors, "x")]
    counted = exp.select(*keys, _count(weighed))
    return of_rows(counted, inside, "c").group_by(*keys, copy=False)


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
