"""Which rows of a table are listed, and in which order."""

from msgspec import Struct

from rhabdos.arrays import IntArray


class Order(Struct, frozen=True, eq=False):
    """Which rows are listed, in which order.

    Attributes
    ----------
    rows : array of int or None
        Rows of the table, from 0; None for all as they stand.
    column : str
        By which they are in order, or nothing.
    falling : bool
        Whether the greatest comes first.
    words : str
        Which rows these are, where they are not all: "87 rows of this bar".
    """

    rows: IntArray | None = None
    column: str = ""
    falling: bool = False
    words: str = ""
