"""Steps of preparing on a table that stays where it lies: done on what was looked at, for words and
kinds, and on what is asked there."""

from typing import TYPE_CHECKING

from msgspec import structs

from rhabdos.data.columns import CategoryColumn, Column, DateColumn, LabelColumn, NumberColumn
from rhabdos.data.far.gathering import gather_relation
from rhabdos.data.far.pushing import pushed
from rhabdos.data.far.questions import mean_and_sd
from rhabdos.data.far.relation import FarColumn, Relation
from rhabdos.data.far.table import LOOK_ROWS, Far
from rhabdos.data.fields.kinds import as_category, as_label
from rhabdos.data.steps.keep import KeepRows
from rhabdos.data.steps.step import Applied, Others, Step
from rhabdos.data.table import Table
from rhabdos.stats.quantiles import quantiles

if TYPE_CHECKING:
    import polars as pl

_FEW = 500  # rows left of those that were looked at, below which others are looked at


def applied_far(step: Step, table: Table, others: Others, look: bool = False) -> Applied:
    """The table after a step.

    Parameters
    ----------
    look : bool
        Ask nothing: what a step must know of all values is taken from those that were looked at.

    Raises
    ------
    Refusal
        The step cannot be done where the data lie, or not on what was looked at.
    """
    far = table.far
    assert far is not None
    if look:  # the relation will not be asked
        relation = pushed(step, far.relation, table, lambda *_: (0.0,), lambda *_: (0.0, 1.0))
    else:
        relation = pushed(
            step,
            far.relation,
            table,
            lambda asked, column, parts: _cuts(far, table, asked, column, parts),
            lambda asked, column: mean_and_sd(far.connection, asked, column, ", ".join(step.about)),
        )
    after = step.apply(table, others)
    told = f"{after.told} looked at" if isinstance(step, KeepRows) else after.told
    columns = tuple(
        column if column.some else structs.replace(column, some=True)
        for column in after.table.columns
    )
    done = structs.replace(
        after.table,
        columns=columns,
        far=structs.replace(far, relation=relation, kept=None),
        of_rows=0,
    )
    if isinstance(step, KeepRows):
        if not done.kept:
            kept = step.short_words(table)
            done = structs.replace(done, kept=f"{table.kept}, {kept}" if table.kept else kept)
        if done.rows < min(_FEW, table.rows) and not look:
            done = _looked_again(done, table)
    return Applied(done, told)


def _cuts(
    far: Far, table: Table, relation: Relation, column: FarColumn, parts: int
) -> tuple[float, ...]:
    """Where a variable is cut into classes of about as many values each."""
    import numpy as np

    name = next(name for name, known in relation.columns.items() if known is column)
    look = table.number(name)
    samples = gather_relation(structs.replace(far, relation=relation), [column], [look])
    shares = np.arange(1, parts) / parts
    return tuple(float(cut) for cut in np.unique(quantiles(samples[0], shares)))


def _looked_again(table: Table, before: Table) -> Table:
    """The same with other rows to look at: those that are kept are rare."""
    far = table.far
    assert far is not None
    query = far.relation.select({n: c.value for n, c in far.relation.columns.items()})
    return with_rows_seen(
        structs.replace(table, columns=before.columns), far.connection.ask(query.limit(LOOK_ROWS))
    )


def with_rows_seen(table: Table, seen: "pl.DataFrame") -> Table:
    """The same table with other rows to look at.

    Parameters
    ----------
    seen : frame
        Its columns by name, as they are asked where they lie.
    """
    columns = [structs.replace(_seen_anew(c, seen), some=True) for c in table.columns]
    return structs.replace(table, columns=tuple(columns), numbering=None)


def _seen_anew(column: Column, seen: "pl.DataFrame") -> Column:
    """A column with other rows."""
    import polars as pl

    if column.name not in seen.columns:
        return column
    series = seen[column.name]
    if isinstance(column, NumberColumn):
        kind = DateColumn if isinstance(column, DateColumn) else NumberColumn
        gone = {"blank": series.null_count()} if series.null_count() else {}
        values = series.cast(pl.Float64).fill_null(float("nan")).to_numpy()
        renewed = kind(column.name, column.label, column.unit, gone, values=values)
        return structs.replace(
            renewed, lower=column.lower, upper=column.upper, made_by=column.made_by
        )
    if isinstance(column, LabelColumn):
        label = as_label(column.name, series.cast(pl.String))
        return structs.replace(label, label=column.label, made_by=column.made_by)
    assert isinstance(column, CategoryColumn)
    category = as_category(column.name, series.cast(pl.String), column.grouping)
    return structs.replace(category, label=column.label, made_by=column.made_by)
