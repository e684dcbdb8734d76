"""Rows of names: where they begin, how many there are, and what columns are called by them."""

import re
from collections import Counter
from collections.abc import Sequence
from itertools import pairwise

from rhabdos.data.fields.units import is_unit
from rhabdos.data.limits import LONGEST_NAME
from rhabdos.quoting import listed

NO_VALUES = ("na", "n/a", "#n/a", "nan", "null", "none", "-", "–", ".", "?", "missing")
"""Words that stand for a missing value among numbers."""
_REMARKS = ("#", "%", "//")
_YEARS = range(1500, 2201)
_MOST_ABOVE = 20  # lines that may stand above the names
_LOOKED_AT = 40  # rows that tell whether the first of them holds names


def preamble(rows: Sequence[Sequence[str | None]]) -> int:
    """How many rows above the names are no rows of the table: remarks behind a mark, or one field
    of words each."""
    remarks = _remarks(rows)
    return remarks + _single_words(rows[remarks:])


def _remarks(rows: Sequence[Sequence[str | None]]) -> int:
    """How many of the first rows begin with a mark that makes a remark of a line.

    The last of them may hold the names themselves, where numbers stand right beneath it.
    """
    marked = 0
    for row in rows[:_MOST_ABOVE]:
        if not (row and (row[0] or "").lstrip().startswith(_REMARKS)):
            break
        marked += 1
    if not 0 < marked < len(rows):
        return 0
    last, below = rows[marked - 1], rows[marked]
    if len(last) == len(below) and any(_has_number(field or "") for field in below):
        marked -= 1
    return marked


def _single_words(rows: Sequence[Sequence[str | None]]) -> int:
    filled = [sum(bool(field and field.strip()) for field in row) for row in rows]
    if not filled:
        return 0
    usual = Counter(filled).most_common(1)[0][0]
    if usual < 2:
        return 0
    for count, row in enumerate(rows[:_MOST_ABOVE]):
        if filled[count] > 1 or (filled[count] == 1 and not (row[0] and row[0].strip())):
            above = _above_names(rows, count, usual)
            return above if len(rows) - above > 1 else 0
    return 0


def _above_names(rows: Sequence[Sequence[str | None]], first: int, usual: int) -> int:
    """Where names begin: at a row, or beneath remarks that happen to hold a separator.

    Those have fewer fields than the row of names beneath them, which is known by numbers that
    stand beneath it and not in it.
    """
    if len(rows[first]) >= usual:  # names over several columns
        return first
    for at in range(first, min(len(rows), _MOST_ABOVE)):
        words = [(field or "").strip() for field in rows[at]]
        if sum(map(bool, words)) < usual:
            continue
        below = [[(field or "").strip() for field in row] for row in rows[at + 1 : _LOOKED_AT]]
        columns = [[row[index] for row in below if index < len(row)] for index in range(usual)]
        numbers = any(2 * sum(map(_has_number, column)) > len(column) > 0 for column in columns)
        return at if numbers and not any(map(_has_number, words)) else first
    return first


def _has_number(field: str) -> bool:
    return is_number(field, False) or is_number(field, True)


def rows_of_names(rows: Sequence[Sequence[str | None]], decimal_comma: bool = False) -> int:
    """Whether no, one, two or three of the first rows hold names."""
    if not rows:
        return 1
    if rows[0] and all(is_number(field or "", decimal_comma) for field in rows[0]):
        return 0
    if _like_those_below(rows, decimal_comma):
        return 0
    if _two_rows_of_names(rows, decimal_comma):
        return 2
    return 3 if _units_in_the_third(rows, decimal_comma) else 1


def _like_those_below(rows: Sequence[Sequence[str | None]], decimal_comma: bool) -> bool:
    """Whether the first row holds a number or a date over every column of such, and so no names;
    years and places in a series are names all the same."""
    over, beneath = [], list[str]()
    for index, field in enumerate(rows[0]):
        word = (field or "").strip()
        column = [(row[index] or "").strip() for row in rows[1:_LOOKED_AT] if index < len(row)]
        known = [text for text in column if text and text.casefold() not in NO_VALUES]
        if not word or not known or not all(_is_measure(text, decimal_comma) for text in known):
            continue
        if not _is_measure(word, decimal_comma):
            return False
        over.append(word)
        beneath += known
    if not over:
        return False
    if all(map(_is_year, over)):
        return all(map(_is_year, beneath))
    return not _in_series(over)


def _is_measure(text: str, decimal_comma: bool) -> bool:
    return is_number(text, decimal_comma) or bool(_DATE.fullmatch(text))


def _is_year(text: str) -> bool:
    return text.isdecimal() and int(text) in _YEARS


def _in_series(words: Sequence[str]) -> bool:
    """Whether at least three whole numbers rise by the same step, as names of columns do."""
    if len(words) < 3 or not all(word.isdecimal() for word in words):
        return False
    numbers = [int(word) for word in words]
    return len({after - before for before, after in pairwise(numbers)}) == 1


_DATE = re.compile(r"\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}([T ]\d{1,2}:\d\d.*)?")


def _two_rows_of_names(rows: Sequence[Sequence[str | None]], decimal_comma: bool) -> bool:
    """Whether the second row holds units or second names over columns of numbers."""
    if len(rows) < 4:
        return False
    second, below = rows[1], rows[2:_LOOKED_AT]
    if any(is_number(field or "", decimal_comma) for field in second):
        return False
    over_numbers = []
    for index, field in enumerate(second):
        word = (field or "").strip()
        column = [(row[index] or "").strip() for row in below if index < len(row)]
        known = [text for text in column if text]
        if word and word in known:
            return False  # a level, which names do not repeat
        if word and len(known) > 1 and all(is_number(text, decimal_comma) for text in known):
            over_numbers.append(word)
    if not over_numbers or any(word.casefold() in NO_VALUES for word in over_numbers):
        return False
    return len(over_numbers) > 1 or is_unit(over_numbers[0])


def _units_in_the_third(rows: Sequence[Sequence[str | None]], decimal_comma: bool) -> bool:
    """Whether the third row holds units, and nothing else, over columns of numbers, and the second
    a name over each of these."""
    if len(rows) < 5:
        return False
    second, third = ([(field or "").strip() for field in row] for row in rows[1:3])
    if any(is_number(word, decimal_comma) for word in (*second, *third)):
        return False
    units = 0
    for index, word in enumerate(third):
        column = [(row[index] or "").strip() for row in rows[3:_LOOKED_AT] if index < len(row)]
        known = [text for text in column if text]
        if not word or not known or not all(is_number(text, decimal_comma) for text in known):
            if word:
                return False
            continue
        if not is_unit(word) or index >= len(second) or not second[index]:
            return False
        units += 1
    return units > 0 and not all(is_unit(word) for word in second if word)


def joined_names(rows: Sequence[Sequence[str | None]], header_rows: int) -> tuple[str, ...]:
    """The names in the first row or the first two, with the units in a third; a name over several
    columns is each one's."""
    if not header_rows:
        return ()
    if header_rows == 3:
        return _with_units(joined_names(rows, 2), rows[2])
    upper = [field or "" for field in rows[0]] if rows else []
    if header_rows == 1:
        return tuple(upper)
    lower = [(field or "").strip() for field in rows[1]]
    upper += [""] * (len(lower) - len(upper))
    lower += [""] * (len(upper) - len(lower))
    names, over = [], ""
    for above, below in zip(upper, lower, strict=True):
        over = above.strip() or over
        if is_unit(below):
            names.append(f"{above.strip()} ({below.strip('()[]')})")
        else:
            names.append(f"{over if below else above.strip()} {below}".strip())
    return tuple(names)


def _with_units(names: Sequence[str], row: Sequence[str | None]) -> tuple[str, ...]:
    units = [(field or "").strip().strip("()[]") for field in row]
    units += [""] * (len(names) - len(units))
    return tuple(
        f"{name} ({unit})" if unit else name for name, unit in zip(names, units, strict=False)
    )


def is_number(field: str, decimal_comma: bool) -> bool:
    """Whether a field is a number as computers write it, or with a decimal comma."""
    text = field.strip()
    try:
        float(text.replace(",", ".") if decimal_comma else text)
    except ValueError:
        return False
    return text.lower() not in {"nan", "inf", "infinity"}


def unique_names(header: tuple[str, ...], count: int) -> tuple[list[str], list[str]]:
    """Name ``count`` columns after a header, each name once; returns the names and remarks on what
    was changed."""
    names: list[str] = []
    changed: list[str] = []
    cut = 0
    seen: set[str] = set()
    last_number: dict[str, int] = {}
    for position in range(count):
        given = header[position].strip() if position < len(header) else ""
        if len(given) > LONGEST_NAME:
            given, cut = given[:LONGEST_NAME], cut + 1
        base = given or f"Column {position + 1}"
        name, number = base, last_number.get(base, 1)
        while name in seen:
            number += 1
            name = f"{base} ({number})"
        last_number[base] = number
        if given and name != given:
            changed.append(name)
        seen.add(name)
        names.append(name)
    remarks = []
    if cut:
        remarks.append(
            f"{cut:,} of the names are longer than {LONGEST_NAME:,} letters and were cut there."
        )
    if changed:
        remarks.append(
            f"Several columns share a name; the later ones are now called {listed(changed)}."
        )
    return names, remarks
