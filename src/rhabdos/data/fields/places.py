"""Columns of a text at the same places in every line, or parted by runs of blanks."""

import re
from collections.abc import Sequence

from rhabdos.data.fields.names import is_number

_LOOKED_AT = 200  # lines that tell where columns stand
_FEWEST_FIXED = 4  # lines that may have their columns at the same places by design
_WIDEST_FIXED = 5_000  # letters of a line whose fields stand at fixed places


def fixed_places(text: str) -> tuple[int, ...]:
    """Where columns begin in a text whose lines have them at fixed places; empty of all others.

    Between columns there are blanks in every line; a column of numbers shows that they are meant.
    """
    lines = [line.rstrip() for line in text.splitlines() if line.strip()]
    lines = [line for line in lines if not line.lstrip().startswith("#")][:_LOOKED_AT]
    if len(lines) < _FEWEST_FIXED or "\t" in text or aligned(text):
        return ()
    width = max(map(len, lines))
    if width > _WIDEST_FIXED:
        return ()
    inked = [any(at < len(line) and line[at] != " " for line in lines) for at in range(width)]
    begins = [at for at in range(width) if inked[at] and (at == 0 or not inked[at - 1])]
    if not any(map(str.isdigit, lines[0])):  # names, of which each column has one
        ends = [*begins[1:], None]
        begins = [at for at, end in zip(begins, ends, strict=True) if lines[0][at:end].strip()]
    columns = [
        [line[at:end].strip() for line in lines[1:]]
        for at, end in zip(begins, [*begins[1:], None], strict=True)
    ]
    known = [[field for field in column if field] for column in columns]
    numbers = [sum(is_number(f, False) or is_number(f, True) for f in column) for column in known]
    # One list of numbers under a name of several words has one column.
    several = sum(map(bool, known)) > 1 and any(
        count * 2 > len(column) for count, column in zip(numbers, known, strict=True)
    )
    return (0, *begins[1:]) if several else ()


def words_begin(lines: Sequence[str]) -> tuple[int, ...]:
    """Where words begin in the first line, as places of columns to start from."""
    first = next((line for line in lines if line.strip()), "")
    return (0, *(match.start() for match in re.finditer(r"(?<=\s)\S", first) if match.start()))


def aligned(text: str) -> bool:
    """Whether columns are parted by runs of blanks: all rows have as many words, some numbers."""
    rows = [line.split() for line in text.splitlines() if line.strip()]
    if len(rows) < 3 or len({len(row) for row in rows[1:]}) != 1 or len(rows[1]) < 2:
        return False
    named = len(rows[1]) - len(rows[0])  # rows may have names of their own, before their numbers
    if named not in (0, 1):
        return False
    return all(any(is_number(word, False) for word in row[named:]) for row in rows[1:])
