"""Preparing: steps from the table that was read to the one that is drawn, as plain values.

Steps are redone whenever a source is read, and undone by leaving them out.
"""

from collections.abc import Iterable

import numpy as np
from msgspec import Struct, structs

from rhabdos.data.columns import NumberColumn
from rhabdos.data.table import Table


class DeclareMissing(Struct, frozen=True):
    """The values of a variable that are exactly a code stand for missing ones."""

    variable: str
    code: float

    def applied(self, table: Table) -> Table:
        """The table without these values; as it was where the variable holds none.

        Raises
        ------
        VariableError
            The table has no such variable, or it holds no numbers.
        """
        column = table.number(self.variable)
        coded = column.values == self.code
        count = int(coded.sum())
        if not count:
            return table
        name = f"{self.code:.12g}".replace("-", "−")
        missing_as = {**column.missing_as, name: column.missing_as.get(name, 0) + count}
        values = np.where(coded, np.nan, column.values)
        return _replacing(
            table, column, structs.replace(column, values=values, missing_as=missing_as)
        )


Step = DeclareMissing
"""Every kind of step there is."""


def prepared(table: Table, steps: Iterable[Step]) -> Table:
    """The table after all steps, in their order."""
    for step in steps:
        table = step.applied(table)
    return table


def _replacing(table: Table, former: NumberColumn, column: NumberColumn) -> Table:
    columns = tuple(column if old is former else old for old in table.columns)
    return structs.replace(table, columns=columns)
