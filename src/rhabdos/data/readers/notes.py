"""Notes and remarks beneath the rows of a table, which are no rows of it."""

import re
from collections.abc import Sequence
from itertools import dropwhile

from rhabdos.data.files.opening import OpenFile
from rhabdos.quoting import quoted

_TAIL_BYTES = 1 << 14  # in which remarks at the end are looked for
_REMARK = re.compile(r"#+(?:\s|$)|#[^,;|\t]*$")  # and no tag such as #12 with a value beside it
MOST_NOTES = 20  # rows beneath a table; of more, each may be one of its rows


def is_note(row: Sequence[object]) -> bool:
    """Whether a row beneath a blank one is a sentence, and no row of a table: text in its first
    cell, and nothing beside it."""
    first = row[0] if row else None
    alone = len(row) > 1 and not any(cell not in (None, "") for cell in row[1:])
    return alone and isinstance(first, str) and any(map(str.isalpha, first))


def notes_told(notes: Sequence[str]) -> list[str]:
    """What is to be said of notes beneath a table."""
    if not notes:
        return []
    if len(notes) == 1:
        return [
            f"Beneath the rows stands {quoted(notes[0])}, which is no row of this table; it stayed "
            "out."
        ]
    return [
        f"Beneath the rows stand {len(notes)} notes, the first of which is {quoted(notes[0])}; "
        "they stayed out."
    ]


def remarks_at_end(opened: OpenFile, head: str) -> list[str]:
    """The remarks behind # that end a text in UTF-8, where no row of its first part begins so."""
    lines = lines_at_end(opened)
    rows = len(lines)
    while rows and _REMARK.match(lines[rows - 1]):
        rows -= 1
    remarks = lines[rows:]
    if not remarks or not rows or len(remarks) > MOST_NOTES:
        return []
    above = list(dropwhile(_REMARK.match, head.rstrip().splitlines()))
    above = above[: -len(remarks)] if len(head.encode()) >= opened.size else above
    return [] if len(above) < 2 or any(map(_REMARK.match, above)) else remarks


def lines_at_end(opened: OpenFile) -> list[str]:
    """The last lines of a text in UTF-8, of which the first may be cut."""
    return opened.tail(_TAIL_BYTES).decode("utf-8", errors="ignore").rstrip().splitlines()
