"""The rows behind a figure, as the foot of the window lists them: of a range that is read, of the
groups that are brought forward, or all."""

from collections.abc import Callable, Iterator
from itertools import islice
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from rhabdos.data.cells import Cell, cell_reader
from rhabdos.data.columns import CategoryColumn, Column, NumberColumn
from rhabdos.data.steps.keep import KeepRows
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.edits.part_rows import rows_between
from rhabdos.figure.output.faces import Face, FaceRow
from rhabdos.figure.output.listed import Listed
from rhabdos.figure.readings.readings import Readings
from rhabdos.wording import counted

if TYPE_CHECKING:
    from rhabdos.arrays import IntArray

MOST_LISTED = 500  # rows; the place of rows has all of them
_MOST_COLUMNS = 60  # variables, those of the figure first; the same holds
_NONE = -1  # the group of a row that is in none


class ListedRows(Struct, frozen=True):
    """Rows of a table, the first of them listed.

    Attributes
    ----------
    face : Face
        Their numbers in the file, the variables and the factors of the figure, then all others.
    rows : tuple of int
        Which row of the table each is.
    total : int
        How many there are in all.
    """

    face: Face
    rows: tuple[int, ...]
    total: int


def forward_rows(readings: Readings) -> KeepRows | None:
    """The rows of the groups that are brought forward; None where all groups are alike."""
    forward = tuple(group.index for group in readings.groups if group.forward)
    if len(forward) in (0, len(readings.groups)):
        return None
    return rows_between(readings, None, None, forward)


def all_rows(readings: Readings) -> Face:
    """The first of all rows."""
    return rows_face(readings, None).face


def rows_face(readings: Readings, step: KeepRows | None) -> ListedRows:
    """The rows that a step would keep, or all of them (None)."""
    table = readings.gathered.table
    if table is None:
        return ListedRows(Face((), ()), (), 0)
    if table.far is not None:
        return _far_face(readings, table, step)
    chosen: IntArray = np.flatnonzero(step.holds(table)) if step else np.arange(table.rows)
    listed = chosen[:MOST_LISTED].tolist()
    columns = _columns(readings, table)
    readers = [cell_reader(column) for column in columns]
    groups = _groups_of(readings, listed)
    rows = []
    for row, group in zip(listed, groups, strict=True):
        stood_at = table.row_number(row)
        number = Listed(f"{stood_at:,}", float(stood_at))
        rows.append(FaceRow(group, (number, *_cells(columns, readers, row))))
    titles = ("row", *(column.label for column in columns))
    said = _told(len(chosen), f"the first {MOST_LISTED}", table)
    return ListedRows(Face(titles, tuple(rows), said), tuple(listed), len(chosen))


def _told(rows: int, those: str, table: Table) -> str:
    """How many rows there are, and of what not all is listed."""
    said = counted(rows, "row", "rows")
    if rows > MOST_LISTED:
        said += f", of which {those} are listed"
    if len(table.columns) > _MOST_COLUMNS:
        said += f", with {_MOST_COLUMNS} of {len(table.columns):,} variables"
    return f"{said}."


def _cells(
    columns: list[Column], readers: "list[Callable[[int], Cell]]", row: int
) -> Iterator[Listed]:
    for column, read in zip(columns, readers, strict=True):
        text = read(row).text
        if isinstance(column, NumberColumn):
            yield Listed(text, float(column.values[row]))
        else:
            yield Listed(text, text.casefold())


def _far_face(readings: Readings, table: Table, step: KeepRows | None) -> ListedRows:
    """The same of rows that stay where they lie, asked there in the order of what is drawn; they
    have no numbers."""
    from rhabdos.data.far.rows import some_rows  # which few sessions need

    by = readings.gathered.variable.name
    try:
        seen, total = some_rows(table, step, by, MOST_LISTED)
    except Refusal as refusal:
        return ListedRows(Face((), (), str(refusal)), (), 0)
    columns = _columns(readings, seen)
    readers = [cell_reader(column) for column in columns]
    rows = tuple(
        FaceRow(group, tuple(_cells(columns, readers, row)))
        for row, group in enumerate(_groups_seen(readings, seen))
    )
    said = _told(total, f"the {MOST_LISTED} lowest", seen)
    titles = tuple(column.label for column in columns)
    return ListedRows(Face(titles, rows, said), (), total)


def _groups_seen(readings: Readings, table: Table) -> list[int]:
    """The group that each row of a table that was looked at is in, if it is in one."""
    names = dict.fromkeys(name for group in readings.groups for name, _level in group.levels)
    levels = [_levels_of(table.column(name)) for name in names]
    by_levels = {
        tuple(dict(group.levels)[name] for name in names): group.index
        for group in readings.groups
        if group.levels
    }
    rows = zip(*levels, strict=True) if levels else [()] * table.rows
    return [by_levels.get(row, _NONE) for row in rows]


def _levels_of(column: Column) -> list[str | None]:
    """The level of each row; of what is no category, as it is written."""
    if isinstance(column, CategoryColumn):
        levels = (*column.levels, None)
        return [levels[code] for code in column.codes.tolist()]
    read = cell_reader(column)
    return [read(row).text for row in range(column.rows)]


def _columns(readings: Readings, table: Table) -> list[Column]:
    """Those of the figure first, and of very many no more than can be looked through."""
    gathered = readings.gathered
    first = [
        table.column(c.name) for c in (*gathered.variables, *gathered.factors) if table.has(c.name)
    ]
    names = {column.name for column in first}
    others = (column for column in table.columns if column.name not in names)
    return [*first, *islice(others, max(0, _MOST_COLUMNS - len(first)))]


def _groups_of(readings: Readings, rows: list[int]) -> list[int]:
    """The group that each row is in, if it is in one: by its levels."""
    factors = [f for f in readings.gathered.factors if isinstance(f, CategoryColumn)]
    by_levels: dict[tuple[str | None, ...], int] = {}
    for group in readings.groups:
        levels = dict(group.levels)
        key = tuple(levels.get(f.name, levels.get(f.label)) for f in factors)
        by_levels.setdefault(key, group.index)
    answers = []
    for row in rows:
        codes = [int(factor.codes[row]) for factor in factors]
        key = tuple(f.levels[c] if c >= 0 else None for f, c in zip(factors, codes, strict=True))
        answers.append(by_levels.get(key, _NONE))
    return answers
