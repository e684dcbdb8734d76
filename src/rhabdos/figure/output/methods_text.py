"""What docs/methods.md says, passage by passage, so that the window explains in the same words."""

import re
from functools import cache
from importlib.resources import files

from msgspec import Struct

_FILE = "methods.md"  # in the package, the same file as docs/methods.md
_REFERENCE = re.compile(r"^([^,(]+?)(?:,.*?)? \((\d{4})\)")
_LEAD = re.compile(r"^\*([^*]+?)\.?\*")


class Passage(Struct, frozen=True):
    """One passage: a row of a table, or paragraphs.

    Attributes
    ----------
    section : str
        The heading that it stands under.
    parts : tuple of (str, str)
        What each part is, such as "formula", and the part, as Markdown; of paragraphs there is no
        name.
    """

    section: str
    parts: tuple[tuple[str, str], ...]

    def part(self, name: str) -> str:
        """One of its parts; nothing where it has none of that name."""
        return next((text for called, text in self.parts if called == name), "")


def passage(section: str, lead: str = "") -> Passage:
    """The passage of a section that begins with certain words; without any, its first paragraph.

    Parameters
    ----------
    section : str
        A heading, such as "Summary".
    lead : str
        The first cell of a row, one of several names in it, or the slanted words that a paragraph
        begins with.

    Raises
    ------
    KeyError
        There is no such passage.
    """
    return _passages()[section, lead]


def references(text: str) -> tuple[str, ...]:
    """The full references, as Markdown, of the works that a passage names by author and year."""
    sources = []
    for line in _passages()["Sources", ""].parts[0][1].split("\n"):
        entry = line.removeprefix("- ")
        if (named := _REFERENCE.match(entry)) is None:
            continue
        author, year = named[1], named[2]
        if re.search(rf"{re.escape(author)}[^()|;]*\(?{year}", text):
            sources.append(entry)
    return tuple(sources)


@cache  # reports ask for each passage
def _passages() -> dict[tuple[str, str], Passage]:
    text = (files("rhabdos") / _FILE).read_text(encoding="utf-8")
    passages: dict[tuple[str, str], Passage] = {}
    for block in text.split("\n## ")[1:]:
        section, _, body = block.partition("\n")
        for paragraph in _paragraphs(body):
            if paragraph.startswith("|"):
                _add_rows(passages, section, paragraph)
                continue
            lead = _LEAD.match(paragraph)
            key = (section, lead[1] if lead else "")
            if key not in passages:
                passages[key] = Passage(section, (("", paragraph),))
    return passages


def _paragraphs(body: str) -> list[str]:
    """Paragraphs, of which one begins at each line with slanted words; tables whole."""
    paragraphs: list[str] = []
    for block in body.strip().split("\n\n"):
        lines: list[str] = []
        for line in block.split("\n"):
            if lines and _LEAD.match(line) and not line.startswith("|"):
                paragraphs.append("\n".join(lines))
                lines = []
            lines.append(line)
        paragraphs.append("\n".join(lines))
    return paragraphs


def _add_rows(found: dict[tuple[str, str], Passage], section: str, table: str) -> None:
    """Each row by its first cell, and by each of the names in it."""
    heads, _, *rows = (_cells(line) for line in table.split("\n"))
    for row in rows:
        parts = tuple(
            (name, text) for name, text in zip(heads[1:], row[1:], strict=True) if text != "–"
        )
        names = [name.strip().strip("`") for name in row[0].split(",")]
        for name in (row[0], *names):
            found.setdefault((section, name), Passage(section, parts))


def _cells(line: str) -> list[str]:
    return [cell.strip() for cell in line.strip().strip("|").split("|")]
