"""Values that were typed or pasted: cells are parted by tabs, and a line of numbers is a list."""

import re

_NUMBER = re.compile(r"[-+−]?(\d+([.,]\d*)?|[.,]\d+)([eE][-+]?\d+)?")
_WITH_COMMA = re.compile(r"[-+−]?\d*,\d+")


def one_a_line(text: str) -> str | None:
    """The same values one a line, where a pasted text is a list of numbers: on one line, on lines
    of unequal length, or beneath a name; None of all other texts."""
    lines = [line.strip() for line in _unbracketed(text).splitlines() if line.strip()]
    if not lines or "\t" in text or len(text) > _LONGEST_LIST:
        return None
    named = len(lines) > 1 and not any(map(str.isdigit, lines[0]))
    name, rows = (lines[:1], lines[1:]) if named else ([], lines)
    parted = [_numbers(line) for line in rows]
    if not all(parted):
        return None
    lengths = {len(numbers) for numbers in parted if numbers}
    if lengths == {1} or (len(rows) > 1 and len(lengths) == 1):
        return None
    numbers = [number for numbers in parted for number in numbers or ()]
    return "\n".join((*name, *numbers)) + "\n"


def _unbracketed(text: str) -> str:
    """What stands within brackets that are around a whole text, as around a list of a program."""
    bare = text.strip()
    within = bare[1:-1]
    around = bare[:1] + bare[-1:] in ("[]", "()")
    return within if around and not set(within) & set("[](){}") else text


_LONGEST_LIST = 2_000_000  # letters of a list without tabs; longer texts are read as tables


def _numbers(line: str) -> list[str] | None:
    """The numbers on a line, parted by blanks, semicolons or commas; None where one is none."""
    words = [word.strip(",") for word in re.split(r"[\s;]+", line)]
    if len(words) == 1:
        words = line.split(",") if line.count(",") > 1 else [line]
    numbers = [word for word in words if word]
    return numbers if numbers and all(_NUMBER.fullmatch(n) for n in numbers) else None


def is_one_column(text: str) -> bool:
    """Whether a text without tabs is one column of numbers, some with decimal commas, with a name
    above them or not."""
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if lines and "," not in lines[0] and not any(map(str.isdigit, lines[0])):
        del lines[0]
    return any(map(_WITH_COMMA.fullmatch, lines)) and all(map(_NUMBER.fullmatch, lines))
