"""Rows that lie elsewhere: the first of them in some order are fetched, and all are counted."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec import Struct

from rhabdos.app.session.session import Session
from rhabdos.data.reporting import Report
from rhabdos.data.steps.keep import KeepRows
from rhabdos.quoting import brief
from rhabdos.wording import counted

if TYPE_CHECKING:
    from rhabdos.data.table import Table

MOST_FETCHED = 2_000
"""Rows that are fetched, to be looked at."""


class FetchedRows(Struct, frozen=True, eq=False):
    """Rows that were fetched.

    Attributes
    ----------
    table : Table
        The rows.
    step : KeepRows or None
        What they meet; None where they are of all.
    by, falling : str, bool
        The variable that they are in order of, and whether the greatest comes first.
    words : str
        How many there are, and which of them these are.
    """

    table: "Table"
    step: KeepRows | None
    by: str
    falling: bool
    words: str


def fetch_rows(
    session: Session,
    step: KeepRows | None,
    by: str,
    falling: bool,
    then: Callable[[FetchedRows], None],
) -> None:
    """Ask for the rows that a step would keep, or for all, beside the window."""
    table = session.table
    assert table is not None

    def work(_report: Report) -> "tuple[Table, int]":
        """Ask for them."""
        from rhabdos.data.far.rows import some_rows

        return some_rows(table, step, by, MOST_FETCHED, falling)

    def done(found: "tuple[Table, int]") -> None:
        """Hand them on, with their words."""
        rows, total = found
        which = step.words.removeprefix("Kept rows").rstrip(".") if step else ""
        words = f"{counted(total, 'row', 'rows')}{which}"
        if rows.rows < total:
            end = "highest" if falling else "lowest"
            words = f"The {rows.rows:,} {end} by {brief(table.column(by).label)} of {words}"
        then(FetchedRows(rows, step, by, falling, words))

    session.runner.run(
        "looking", "Asking for rows where they lie", work, done, session.refused.emit
    )
