"""A table: named columns of equal length."""

from msgspec import Struct

from rhabdos.data.columns import Column, NumberColumn, label_and_unit
from rhabdos.errors import Refusal
from rhabdos.quoting import listed, near_to, quoted, shortened_to


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
    """

    name: str
    columns: tuple[Column, ...]
    remarks: tuple[str, ...] = ()

    @property
    def rows(self) -> int:
        """How many rows every column has."""
        return self.columns[0].rows if self.columns else 0

    @property
    def numbers(self) -> tuple[NumberColumn, ...]:
        """The columns that hold numbers."""
        return tuple(c for c in self.columns if isinstance(c, NumberColumn))

    @property
    def all_remarks(self) -> tuple[str, ...]:
        """What reading noticed of the file and of its columns."""
        return self.remarks + tuple(c.remark for c in self.columns if c.remark)

    def column(self, asked: str) -> Column:
        """Find a column by its name in the file or by its label.

        "Shell length" finds the column "Shell length (mm)" and the other way round.

        Raises
        ------
        VariableError
            No column, or more than one, answers to the name.
        """
        for column in self.columns:
            if column.name == asked:
                return column
        label = label_and_unit(asked)[0]
        labelled = [column for column in self.columns if label == column.label]
        if len(labelled) == 1:
            return labelled[0]
        if labelled:
            names = listed([column.name for column in labelled])
            raise VariableError(
                f"{quoted(asked)} could be any of {names} in {self._called}; use one of these "
                "names."
            )
        raise VariableError(f"{self._called} has no variable {quoted(asked)}. {self._near(asked)}")

    def number(self, asked: str) -> NumberColumn:
        """Find a column that holds numbers, or raise VariableError."""
        column = self.column(asked)
        if isinstance(column, NumberColumn):
            return column
        if not self.numbers:
            raise VariableError(
                f"{self._called} has no numeric variable, and a histogram needs one."
            )
        raise VariableError(
            f"{quoted(asked)} holds text, and a histogram needs numbers. "
            f"Numeric variables are {listed([c.name for c in self.numbers])}."
        )

    @property
    def _called(self) -> str:
        """The name as sentences say it."""
        return shortened_to(40, self.name)

    def _near(self, asked: str) -> str:
        names = [column.name for column in self.columns]
        near = near_to(asked, names)
        if near:
            return f"Did you mean {listed(near, 'or')}?"
        return f"It has {listed(names)}."
