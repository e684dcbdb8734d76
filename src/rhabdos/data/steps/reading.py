"""How a file is read, where that is not told from the file itself."""

from itertools import pairwise
from typing import Annotated, ClassVar

from msgspec import Meta

from rhabdos.data.steps.step import Applied, Others, Piece, Step, StepError, choice, words_of
from rhabdos.data.table import Table

SEPARATOR_WORDS = {
    ",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars", " ": "blanks", ":": "colons",
    "^": "carets", "~": "tildes",
}  # fmt: skip

RANGE = r"^\$?[A-Za-z]{1,3}\$?[0-9]{1,7}:\$?[A-Za-z]{1,3}\$?[0-9]{1,7}$"
_Mark = Annotated[str, Meta(min_length=1, max_length=1, description="one character")]
_MarkOrNone = Annotated[str, Meta(max_length=1, description="one character, or none")]


class Read(Step, frozen=True, tag="read"):
    """How a file is read; what is absent is told from the file.

    Attributes
    ----------
    separator, quote, decimal, thousands : str
        One character each; an empty quote or thousands mark is none.
    encoding : str
        Of the text, such as "utf-8" or "windows-1252".
    header : int
        The row that holds the names, counted from 1; 0 where there is none.
    sheet : str
        Of a workbook.
    range : str
        Of a sheet, such as "B3:F200".
    table : str
        A table or a view of a database.
    places : tuple of int
        Where columns begin in lines of fixed places, rising, counted from 0; empty of all other
        texts.
    """

    begins: ClassVar[bool] = True
    separator: _Mark | None = None
    quote: _MarkOrNone | None = None
    decimal: Annotated[str, Meta(pattern="^[.,]$", description="a point or a comma")] | None = None
    thousands: _MarkOrNone | None = None
    encoding: str | None = None
    header: (
        Annotated[int, Meta(ge=0, le=1_000, description="a row from 1 to 1,000, or 0")] | None
    ) = None
    sheet: str | None = None
    range: Annotated[str, Meta(pattern=RANGE, description="cells such as B3:F200")] | None = None
    table: str | None = None
    places: Annotated[
        tuple[Annotated[int, Meta(ge=0, le=100_000)], ...],
        Meta(max_length=50_000, description="a list of whole numbers that rise"),
    ] = ()

    def __post_init__(self) -> None:
        if any(after <= before for before, after in pairwise(self.places)):
            raise ValueError("places: they must rise")

    def apply(self, table: Table, _others: Others) -> Applied:
        """A file is read before all else, so that this step has nothing left to do."""
        raise StepError("How the file is read must be the first step. Move it up.")

    @property
    def about(self) -> tuple[str, ...]:
        """It is about the rows."""
        return ()

    def describe(self) -> tuple[Piece, ...]:
        """Read parted by semicolons, names in row 3."""
        return words_of("Read", *self.manner(), ".")

    def manner(self) -> list[str | Piece]:
        """How it is read, behind "Read from a file"."""
        words: list[str | Piece] = []
        if self.table is not None:
            words += [", table ", choice(self.table)]
        if self.sheet is not None:
            words += [", sheet ", choice(self.sheet)]
        if self.range is not None:
            words += [", cells ", choice(self.range)]
        if self.places:
            words += [", with ", choice(f"columns at places {_listed(self.places)}")]
        if self.separator is not None and not self.places:
            mark = SEPARATOR_WORDS.get(self.separator, f"“{self.separator}”")
            words += [", parted by ", choice(mark)]
        if self.decimal == ",":
            words += [", with ", choice("decimal commas")]
        if self.encoding is not None:
            words += [", in ", choice(self.encoding)]
        if self.header is not None:
            where = f"names in row {self.header}" if self.header else "without names"
            words += [", ", choice(where)]
        return words


def _listed(places: tuple[int, ...]) -> str:
    shown = ", ".join(f"{place + 1}" for place in places[:_MOST_SAID])
    return f"{shown} …" if len(places) > _MOST_SAID else shown


_MOST_SAID = 8  # places where lines are cut, in the words of a step
