"""Rows of cells, of sheets and pages: where their names stand, and which are blank."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from rhabdos.data.fields.dialect import NUMBERED, TOGETHER
from rhabdos.data.fields.names import preamble, rows_of_names
from rhabdos.data.readers.notes import MOST_NOTES, is_note, notes_told
from rhabdos.quoting import quoted
from rhabdos.wording import counted

if TYPE_CHECKING:
    import polars as pl


def names_at(
    rows: Sequence[Sequence[str | None]], header: int | None, top: int = 0
) -> tuple[int, int, list[str]]:
    """How many rows stand above the names, how many hold names, and what is to be said of them.

    Parameters
    ----------
    header : int or None
        The row from 1 that holds them, where that was asked for; 0 for none.
    top : int
        The first of these rows, from 0.
    """
    if header is not None:
        above = max(0, header - 1 - top)
        return above if header else 0, min(1, header), []
    above = preamble(rows)
    blank = next((at for at, row in enumerate(rows) if any(row)), 0)
    above = max(above, blank)
    header_rows = rows_of_names(rows[above:])
    remarks = []
    if said := next((cell for row in rows[:above] for cell in row if cell), ""):
        remarks.append(
            f"Above the names stands {quoted(said)}, which is no row of this table; it stayed out."
        )
    if header_rows > 1:
        remarks.append(TOGETHER[header_rows])
    if not header_rows:
        remarks.append(NUMBERED)
    return above, header_rows, remarks


def without_blank_rows(series: "list[pl.Series]") -> "tuple[pl.DataFrame, list[str]]":
    """The rows in which anything stands and that are no notes beneath the others, and what is to
    be said of what stayed out."""
    import polars as pl

    frame = pl.DataFrame(series)
    if not frame.width or not frame.height:
        return frame, []
    filled = frame.select(pl.any_horizontal(pl.all().is_not_null())).to_series()
    if not filled.any():
        return frame.filter(filled), []
    frame = frame.head(int(filled.arg_true()[-1]) + 1)
    notes = _notes_beneath(frame, filled.head(frame.height))
    frame = frame.head(frame.height - len(notes))
    filled = filled.head(frame.height)
    between = filled[: int(filled.arg_true()[-1]) + 1] if filled.any() else filled
    blank = int((~between).sum())
    rows = counted(blank, "blank row", "blank rows")
    were = "was" if blank == 1 else "were"
    told = [f"{rows} between others {were} passed over."] if blank else []
    return frame.filter(filled), [*told, *notes_told(notes)]


def _notes_beneath(frame: "pl.DataFrame", filled: "pl.Series") -> list[str]:
    """The notes beneath the last blank row, where nothing else stands there."""
    blank = (~filled).arg_true()
    last = int(blank[-1]) if len(blank) else frame.height
    rows = frame[last + 1 :].head(MOST_NOTES + 1).rows()
    notes = len(rows) <= MOST_NOTES and filled.head(last).any() and all(map(is_note, rows))
    return [str(row[0]) for row in rows] if notes else []
