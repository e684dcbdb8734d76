"""A plate: several figures of a work on one page, with letters, as a recipe holds it."""

import math
from typing import Annotated, Literal

from msgspec import Meta, Struct

from rhabdos.figure.recipe.page_size import Size

_WIDE, _HIGH = 12.0, 8.5  # centimetres that a new page has for each figure
MOST_ON_PLATE = 26
"""Figures of one plate, of which each has a letter."""
_Share = Annotated[float, Meta(gt=0, description="a share of the page above 0")]


class Plate(Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Figures in rows and columns on one page.

    Attributes
    ----------
    figures : tuple of int
        Places of figures in the row of the work, from 0, line by line.
    widths, heights : tuple of float
        Shares of columns and rows; all alike where there are none.
    legend : {"one", "own"}
        Whether figures that have the same legend share the first one's.
    """

    figures: tuple[int, ...]
    columns: Annotated[int, Meta(ge=1, le=MOST_ON_PLATE, description="1 to 26")] = 2
    size: str = "18x12cm"
    title: str = ""
    note: str = ""
    letters: bool = True
    legend: Annotated[Literal["one", "own"], Meta(description="one or own")] = "one"
    widths: tuple[_Share, ...] = ()
    heights: tuple[_Share, ...] = ()

    def __post_init__(self) -> None:
        if not self.figures or len(self.figures) > MOST_ON_PLATE:
            raise ValueError(f"figures: a page holds 1 to {MOST_ON_PLATE} figures")
        try:
            Size.parse(self.size)
        except ValueError as error:
            raise ValueError(f"size: {error}") from None

    @property
    def rows(self) -> int:
        """How many rows the figures take."""
        return -(-len(self.figures) // self.columns)

    @property
    def across(self) -> tuple[float, ...]:
        """The share of each column, which add up to 1."""
        return _shares(self.widths, min(self.columns, len(self.figures)))

    @property
    def down(self) -> tuple[float, ...]:
        """The share of each row, which add up to 1."""
        return _shares(self.heights, self.rows)

    def letter(self, at: int) -> str:
        """The letter of a figure."""
        return chr(ord("A") + at)


def new_plate(figures: tuple[int, ...], columns: int | None = None) -> Plate:
    """A page on which each figure has the room of a small one.

    Raises
    ------
    ValueError
        They are none, or too many.
    """
    count = max(1, len(figures))
    columns = columns or math.ceil(math.sqrt(count))
    rows = -(-count // columns)
    return Plate(figures, columns, f"{columns * _WIDE:g}x{rows * _HIGH:g}cm")


def _shares(asked: tuple[float, ...], count: int) -> tuple[float, ...]:
    each = (*asked[:count], *([1.0] * (count - len(asked))))
    return tuple(share / sum(each) for share in each)
