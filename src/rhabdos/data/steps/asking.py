"""The step that rows begin with which stay in a database or on a cluster, and are asked there."""

from typing import ClassVar

from rhabdos.data.far.place import Place, PlaceError, place_of
from rhabdos.data.reporting import Report, silent
from rhabdos.data.steps.step import Applied, Others, Piece, Step, StepError, choice, words_of
from rhabdos.data.table import Table
from rhabdos.quoting import brief


class Ask(Step, frozen=True, tag="ask"):
    """Rows lie at a server, and are asked there.

    Attributes
    ----------
    server : str
        ``postgresql://user@host/database#schema.table``, ``service:NAME#schema.table`` or
        ``sc://host#table``; never with a password.
    query : str
        A SELECT in place of the table.
    """

    begins: ClassVar[bool] = True
    makes_rows: ClassVar[bool] = True
    server: str
    query: str = ""

    def __post_init__(self) -> None:
        try:
            place, password = place_of(self.server, self.query)
        except PlaceError as error:
            raise ValueError(f"server: {error}") from None
        if password:
            raise ValueError("server: an address that is kept holds no password; leave it out")
        if not place.table and not self.query:
            raise ValueError("server: say which table, after #; or give a query")

    @property
    def place(self) -> Place:
        """Where the rows lie."""
        return place_of(self.server, self.query)[0]

    def table(self, report: Report = silent) -> Table:
        """The table there, as far as it was looked at.

        Raises
        ------
        Refusal
            It cannot be reached, or not be asked.
        """
        from rhabdos.data.far.reaching import reached  # brings another engine

        return reached(self.place, report)

    def apply(self, _table: Table, _others: Others) -> Applied:
        """Rows only begin so."""
        raise StepError("Rows can only begin with what a server holds. Put this step first.")

    def describe(self) -> tuple[Piece, ...]:
        """Rows are asked of the database “oysters” on cluster: landings."""
        place = self.place
        what = "a query" if self.query else place.table
        return words_of(f"Rows are asked of {place.server}: ", choice(brief(what)), ".")

    @property
    def about(self) -> tuple[str, ...]:
        """It is about the rows."""
        return ()
