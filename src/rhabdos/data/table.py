"""A table: named columns of equal length."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec import Struct, structs

from rhabdos.arrays import IntArray
from rhabdos.data.columns import Column, DateColumn, NumberColumn
from rhabdos.data.fields.units import label_and_unit
from rhabdos.errors import Refusal
from rhabdos.memo import memoised
from rhabdos.quoting import listed, near_to, quoted, shortened_to
from rhabdos.wording import counted

if TYPE_CHECKING:
    from rhabdos.data.far.table import Far


class VariableError(Refusal):
    """A variable is not in the table, or is not of the kind that is needed."""


class Table(Struct, frozen=True, eq=False, dict=True):
    """Columns of equal length, with what reading them noticed.

    Attributes
    ----------
    name : str
        What the window calls the table, such as the file's name without its ending.
    remarks : tuple of str
        Sentences about the file as a whole (an encoding that was guessed, rows of unequal length).
    of_rows : int
        How many rows there were before some were left out; 0 where none were.
    kept : str
        Which rows were kept, in words: "from 40 to 110 mm".
    numbering : callable or None
        Answers the place (from 0) at which each row stood before rows were left out.
    far : Far or None
        Where all rows lie and how they are asked, where these are only some that were looked at.
    """

    name: str
    columns: tuple[Column, ...]
    remarks: tuple[str, ...] = ()
    of_rows: int = 0
    kept: str = ""
    numbering: Callable[[], IntArray] | None = None
    far: "Far | None" = None

    @property
    def all_rows(self) -> int:
        """How many rows a figure draws, which may lie elsewhere; of these as far as is known."""
        if self.far is None:
            return self.rows
        known = self.far.kept if self.far.relation.where else self.far.rows
        return self.rows if known is None else known

    @property
    def of_all_rows(self) -> int:
        """Of how many rows these were kept; 0 where none were left out."""
        if self.far is None:
            return self.of_rows
        return (self.far.rows or 0) if self.far.relation.where else 0

    @property
    def size(self) -> str:
        """How many rows there are, in words."""
        told = counted(self.all_rows, "row", "rows")
        if self.far is None:
            return told
        if self.far.rows is None or (self.far.relation.where and self.far.kept is None):
            return f"{counted(self.rows, 'row', 'rows')} looked at"
        return f"{'about ' if self.far.estimated else ''}{told}"

    @property
    def rows(self) -> int:
        """How many rows every column has."""
        return self.columns[0].rows if self.columns else 0

    def row_number(self, row: int) -> int:
        """The number, from 1, that a row has in what was read."""
        if self.numbering is None:
            return row + 1
        return int(_stood_at(self)[row]) + 1

    @property
    def numbers(self) -> tuple[NumberColumn, ...]:
        """The columns that hold numbers, dates apart."""
        return tuple(
            c for c in self.columns if isinstance(c, NumberColumn) and not isinstance(c, DateColumn)
        )

    @property
    def drawable(self) -> tuple[NumberColumn, ...]:
        """The columns that hold numbers or dates and have a value."""
        return tuple(c for c in self.columns if isinstance(c, NumberColumn) and c.n)

    def column(self, name: str) -> Column:
        """Find a column by its name in the file or by its label.

        "Shell length" finds the column "Shell length (mm)" and the other way round.

        Raises
        ------
        VariableError
            No column, or more than one, answers to the name.
        """
        for column in self.columns:
            if column.name == name:
                return column
        label = label_and_unit(name)[0]
        labelled = [column for column in self.columns if label == column.label]
        if len(labelled) == 1:
            return labelled[0]
        if labelled:
            names = listed([column.name for column in labelled])
            raise VariableError(
                f"{quoted(name)} could be any of {names} in {self._called}; use one of these names."
            )
        raise VariableError(f"{self._called} has no variable {quoted(name)}. {self._near(name)}")

    def has(self, name: str) -> bool:
        """Whether a column is called so in the file."""
        return any(column.name == name for column in self.columns)

    def has_any(self, name: str) -> bool:
        """Whether just one column answers to a name or a label."""
        try:
            self.column(name)
        except VariableError:
            return False
        return True

    def with_column(self, column: Column) -> "Table":
        """The same table with a column in the place of the one of its name, or as one more."""
        if not self.has(column.name):
            return structs.replace(self, columns=(*self.columns, column))
        columns = tuple(column if old.name == column.name else old for old in self.columns)
        return structs.replace(self, columns=columns)

    def number(self, name: str) -> NumberColumn:
        """Find a column that holds numbers, or raise VariableError."""
        column = self.column(name)
        if isinstance(column, NumberColumn):
            return column
        if not any(isinstance(c, NumberColumn) for c in self.columns):
            raise VariableError(
                f"{self._called} has no numeric variable, and a histogram needs one."
            )
        raise VariableError(
            f"{quoted(name)} holds text, and a histogram needs numbers. "
            f"Numeric variables are {listed([c.name for c in self.numbers])}."
        )

    @property
    def _called(self) -> str:
        """The name as sentences say it."""
        return shortened_to(40, self.name)

    def _near(self, name: str) -> str:
        names = [column.name for column in self.columns]
        near = near_to(name, names)
        if near:
            return f"Did you mean {listed(near, 'or')}?"
        return f"It has {listed(names)}."


@memoised  # every row that is named asks
def _stood_at(table: Table) -> IntArray:
    """The place, from 0, at which each row stood before rows were left out."""
    assert table.numbering
    return table.numbering()
