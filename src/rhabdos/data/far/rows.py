"""Some rows of those that stay where they lie."""

from sqlglot import exp

from rhabdos.data.far.pushing import pushed
from rhabdos.data.far.stepping import with_rows_seen
from rhabdos.data.steps.keep import KeepRows
from rhabdos.data.steps.step import StepError
from rhabdos.data.table import Table


def some_rows(
    table: Table, step: KeepRows | None, by: str, most: int, falling: bool = False
) -> tuple[Table, int]:
    """The first rows that a step would keep, or of all, in the order of a variable, rising or
    falling; and how many there are.

    Raises
    ------
    Refusal
        They cannot be asked.
    """
    far = table.far
    assert far is not None
    relation = far.relation
    if step is not None:
        relation = pushed(step, relation, table, _no_cuts, _no_means)
    order = relation.columns[by].value if by in relation.columns else None
    query = relation.select({name: known.value for name, known in relation.columns.items()})
    if order is not None:
        query = query.order_by(exp.Ordered(this=order.copy(), desc=falling, nulls_first=False))
    seen = far.connection.ask(query.limit(most))
    counted = relation.select({"n": exp.Count(this=exp.Star())})
    total = int(far.connection.ask(counted).item())
    return with_rows_seen(table, seen), total


def _no_cuts(*_: object) -> tuple[float, ...]:
    raise StepError("Rows are kept without classes.")


def _no_means(*_: object) -> tuple[float, float]:
    raise StepError("Rows are kept without means.")
