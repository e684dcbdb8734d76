"""The step that fills blanks from above, as merged cells of a sheet leave them."""

from typing import Annotated

import numpy as np
from msgspec import Meta, structs

from rhabdos.data.columns import CategoryColumn, Column, LabelColumn
from rhabdos.data.fields.kinds import column_from
from rhabdos.data.fields.texts import label_series
from rhabdos.data.rows import taken
from rhabdos.data.steps.recoding import rows_saying
from rhabdos.data.steps.step import Applied, Others, Piece, Step, choice, words_of
from rhabdos.data.table import Table
from rhabdos.quoting import brief
from rhabdos.wording import counted

_MOST_SAID = 3  # variables, in the words of a step


def _grouped(column: Column) -> Column:
    """Labels that come back often once they are filled as levels; all else as it is."""
    if not isinstance(column, LabelColumn):
        return column
    read = column_from(column.name, label_series(column))
    if not isinstance(read, CategoryColumn):
        return column
    known = {"label": column.label, "missing_as": column.missing_as, "stood": column.stood}
    return structs.replace(read, **known)


class FillDown(Step, frozen=True, tag="fill"):
    """Blanks of variables take over what stands above them; words for missing values stay."""

    variables: Annotated[tuple[str, ...], Meta(min_length=1, description="a list of variables")]

    def apply(self, table: Table, _others: Others) -> Applied:
        """The table without these blanks; those above the first value stay."""
        filled = 0
        for name in self.variables:
            column = table.column(name)
            blank = rows_saying(column, "")
            if not len(blank):
                continue
            from_row = np.arange(column.rows)
            from_row[blank] = -1
            from_row = np.maximum.accumulate(from_row)
            # Those above the first value stay what they are.
            from_row = np.where(from_row < 0, np.arange(column.rows), from_row)
            (after,) = taken((column,), from_row, "")
            filled += column.missing_as.get("blank", 0) - after.missing_as.get("blank", 0)
            table = table.with_column(_grouped(after))
        return Applied(table, counted(filled, "blank filled", "blanks filled"))

    def describe(self) -> tuple[Piece, ...]:
        """Blanks of Site take over what stands above them."""
        names = " and ".join(brief(name) for name in self.variables[:_MOST_SAID])
        more = len(self.variables) - _MOST_SAID
        rest = f" and {more:,} more" if more > 0 else ""
        return words_of("Blanks of ", choice(names + rest), " take over what stands above them.")

    @property
    def about(self) -> tuple[str, ...]:
        """The variables that it fills."""
        return self.variables
