"""Text that comes from files and from users, as it may stand in a sentence, on a page and on a
terminal."""

import os
import re
from functools import cache, lru_cache
from unicodedata import bidirectional

LONGEST_QUOTED = 60
_LONGEST_BRIEF = 40  # letters of a name in a sentence
_LONGEST_PATH = 90  # letters of a path in a sentence
_COMPARED, _MOST_COMPARED = 60, 3_000  # letters of a name, and names, that are looked through
_APART, _TOGETHER = "\u2068", "\u2069"  # before and behind a text of a direction of its own
_TO_THE_LEFT = ("R", "AL")  # classes of letters that run to the left (Unicode, bidirectional class)
_STANDS_FOR_AN_OBJECT = "\ufffc"  # printable to Python alone


@lru_cache(maxsize=4096)  # the same names stand in sentences, lists and cells
def printable(text: str) -> str:
    """The same text with a visible sign for each character that has none: "␊" for a line break, "�"
    for most."""
    if text.isprintable() and _STANDS_FOR_AN_OBJECT not in text:
        return text
    return _unseen().sub(_sign, text)


@cache  # a long list of letters, built and compiled
def _unseen() -> re.Pattern[str]:
    """Controls and their kin, marks that turn the direction of writing, halves of characters, and
    what is no character; made when first met, since it takes its time."""
    ends = (chr(plane << 16 | last) for plane in range(1, 17) for last in (0xFFFE, 0xFFFF))
    return re.compile(
        f"{_APART}[^\u2066-\u2069]*{_TOGETHER}|"
        "[\x00-\x1f\x7f-\x9f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ud800-\udfff\ufdd0-\ufdef"
        f"\ufeff\ufff9-\uffff{''.join(ends)}]"
    )


def _sign(found: re.Match[str]) -> str:
    if found[0][0] == _APART:  # a name that was set apart here stays so
        return f"{_APART}{printable(found[0][1:-1])}{_TOGETHER}"
    code = ord(found[0])
    return chr(0x2400 + code) if code < 32 else "␡" if code == 127 else "�"


def printable_lines(text: str) -> str:
    """The same, with line breaks kept."""
    return "\n".join(printable(line) for line in text.split("\n"))


def shortened_to(most: int, text: str) -> str:
    """The text in one printable line of at most so many characters, ending in "…" where some are
    left out."""
    return printable(text if len(text) <= most else f"{text[: most - 1]}…")


def set_apart(text: str) -> str:
    """A text as it may stand within a sentence of another direction: one with letters of a script
    that runs from right to left is set apart (first strong isolate of the Unicode Bidirectional
    Algorithm), so that it moves neither the numbers nor the marks beside it."""
    if text.isascii() or not any(bidirectional(letter) in _TO_THE_LEFT for letter in text):
        return text
    return text if text[0] == _APART and text[-1] == _TOGETHER else f"{_APART}{text}{_TOGETHER}"


def brief(name: str) -> str:
    """A name as it stands in the middle of a sentence."""
    return set_apart(shortened_to(_LONGEST_BRIEF, name))


def quoted(text: str, most: int = LONGEST_QUOTED) -> str:
    """A name or value within quotation marks, cut to a length that leaves a sentence readable."""
    return f"“{set_apart(shortened_to(most, text))}”"


def file_named(path: str | os.PathLike[str]) -> str:
    """A path as sentences name it: printable, and without its beginning where it is long."""
    text = printable(str(path))
    if len(text) <= _LONGEST_PATH:
        return text
    name = printable(os.path.basename(os.fspath(path).rstrip("/")))
    return f"…/{name}" if len(name) < _LONGEST_PATH else f"…{name[-_LONGEST_PATH:]}"


def listed(names: list[str] | tuple[str, ...], joined: str = "and", most: int = 6) -> str:
    """Some names within quotation marks, and how many more there are."""
    marked = [quoted(name, 24) for name in names[:most]]
    if len(names) > most:
        return f"{', '.join(marked)} and {len(names) - most:,} more"
    if len(marked) < 2:
        return "".join(marked)
    return f"{', '.join(marked[:-1])} {joined} {marked[-1]}"


def near_to(text: str, names: list[str] | tuple[str, ...], most: int = 3) -> list[str]:
    """The names that look most like the one asked for; of long names their beginnings are
    compared."""
    import difflib

    beginnings = {name[:_COMPARED]: name for name in names[:_MOST_COMPARED]}
    return [
        beginnings[near]
        for near in difflib.get_close_matches(text[:_COMPARED], beginnings, n=most, cutoff=0.6)
    ]
