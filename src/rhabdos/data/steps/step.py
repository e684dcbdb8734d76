"""What every step of preparing is: a declared, pure function from a table to a table."""

from collections.abc import Callable
from pathlib import PurePath
from typing import TYPE_CHECKING, ClassVar, Self

from msgspec import Struct

from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.quoting import file_named

if TYPE_CHECKING:
    from rhabdos.data.steps.reading import Read


class StepError(Refusal):
    """A step cannot be done on the table that it is given."""


Others = Callable[[str, "Read | None"], Table]
"""Fetches another table by the name of its file, read as it is asked for."""


MOST_ROWS = 50_000_000
"""Rows that a step may make of others."""


MOST_CELLS = 600_000_000
"""Cells that a step may make of others, some five gigabytes of them."""


def refuse_large(rows: int, columns: int, cure: str) -> None:
    """Refuse to make a table of more rows or cells than can be held.

    Raises
    ------
    StepError
        It would have more.
    """
    if rows > MOST_ROWS:
        raise StepError(f"That would make {rows:,} rows; at most {MOST_ROWS:,} are made. {cure}")
    if rows * columns > MOST_CELLS:
        raise StepError(
            f"That would make {rows:,} rows of {columns:,} variables; at most {MOST_CELLS:,} "
            f"values are made. {cure}"
        )


def no_others(file: str, _how: "Read | None") -> Table:
    """There are no other tables."""
    raise StepError(f"No other table can be opened here, and {file} is needed.")


class Piece(Struct, frozen=True):
    """A piece of a step's sentence; ``choice`` marks a phrase that may be chosen otherwise."""

    text: str
    choice: bool = False


def choice(text: str) -> Piece:
    """A phrase that may be chosen otherwise."""
    return Piece(text, True)


def words_of(*words: str | Piece) -> tuple[Piece, ...]:
    """The pieces of a sentence, of plain words and choices."""
    return tuple(word if isinstance(word, Piece) else Piece(word) for word in words if word)


class Applied(Struct, frozen=True, eq=False):
    """What a step led to, and how many rows or values it touched, in words."""

    table: Table
    told: str


class Step(
    Struct,
    frozen=True,
    forbid_unknown_fields=True,
    omit_defaults=True,
    kw_only=True,
    tag_field="step",
):
    """One sentence of how the rows came about.

    ``off`` strikes it out: it stays in its place and does nothing. A step that ``begins`` can only
    be the first one, and may make its rows without a file.
    """

    begins: ClassVar[bool] = False
    makes_rows: ClassVar[bool] = False
    off: bool = False

    def apply(self, table: Table, others: Others) -> Applied:
        """The table after the step.

        Raises
        ------
        Refusal
            The table does not have what the step needs.
        """
        raise TypeError(f"{type(self).__name__} is no step by itself")

    def describe(self) -> tuple[Piece, ...]:
        """The step as a sentence, in pieces."""
        raise TypeError(f"{type(self).__name__} says nothing by itself")

    @property
    def words(self) -> str:
        """The step as one sentence."""
        return "".join(piece.text for piece in self.describe())

    @property
    def knows_all_first(self) -> bool:
        """Whether all values must be known before it can be done: of data that stay where they lie
        it asks one question more."""
        return False

    @property
    def files(self) -> tuple[str, ...]:
        """Other files that it brings in."""
        return ()

    def with_files(self, renamed: Callable[[str], str]) -> Self:
        """The same step with its files called otherwise, as where a recipe moves."""
        return self

    @property
    def about(self) -> tuple[str, ...]:
        """The names of the variables that it puts right; empty where it is about the rows."""
        variable = getattr(self, "variable", None)
        return (variable,) if isinstance(variable, str) else ()


def called(file: str) -> str:
    """A file as sentences name it, wherever it lies."""
    return file_named(PurePath(file).name)
