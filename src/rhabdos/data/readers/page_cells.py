"""The tables of a web page, read by the library in a process of its own: see `rhabdos.apart`."""

import re
from collections.abc import Iterator
from typing import Any, BinaryIO

import polars as pl
from lxml import etree, html

from rhabdos.apart import Answer
from rhabdos.data.fields.names import joined_names, unique_names
from rhabdos.data.limits import MOST_COLUMNS, ReadingError
from rhabdos.data.readers.cell_rows import names_at, without_blank_rows
from rhabdos.data.readers.guarded import arrow_of
from rhabdos.quoting import listed, quoted, shortened_to

_HEAD_ROWS = 60  # among which the row of names is looked for
_MOST_CELLS = 30_000_000  # of a page, spans multiplied: no page has them but to do harm
_MOST_TABLES = 500  # of a page
_LONGEST_TITLE = 60  # letters

_LINES = ("br", "p", "div", "li")
_NO_WORDS = ("script", "style", "template", "noscript")
_HIDDEN = re.compile(r"display\s*:\s*none|visibility\s*:\s*hidden", re.IGNORECASE)
_NOTE = re.compile(r"(\[[^\]]{1,12}\])+")

_Row = list[str | None]


def table(source: BinaryIO, options: dict[str, Any]) -> Answer:
    """The cells of a table of a page: its columns as bytes of Arrow, and how they are called.

    Asked are ``name``, and where wanted ``table`` and ``header``.
    """
    name: str = options["name"]
    parser = html.HTMLParser(encoding=options.get("encoding"), huge_tree=False, no_network=True)
    try:
        page = html.parse(source, parser).getroot()
    except (etree.LxmlError, AssertionError) as error:
        raise ReadingError(
            f"{name} cannot be read as a web page ({shortened_to(80, str(error))}). Save it again."
        ) from error
    every = page.findall(".//table")[:_MOST_TABLES] if page is not None else []
    tables = [each for each in every if each.find(".//table") is None]  # those within others
    titles = _titles(tables)
    if not tables:
        raise ReadingError(
            f"{name} is a web page without a table, whatever its name says. Look for the file "
            "itself, or save the data as CSV."
        )
    chosen = options.get("table")
    if chosen is not None and chosen not in titles:
        raise ReadingError(f"{name} has no table {quoted(chosen)}. It has {listed(titles)}.")
    if chosen is None:
        sizes = [len(each.findall(".//td")) for each in tables]
        chosen = titles[sizes.index(max(sizes))]
    element = tables[titles.index(chosen)]
    rows = _rows(element, name)
    width = max(map(len, rows), default=0)
    if width > MOST_COLUMNS:
        raise ReadingError(f"{name} has {width:,} columns; at most {MOST_COLUMNS:,} are read.")
    above, header_rows, remarks = names_at(rows[:_HEAD_ROWS], options.get("header"))
    names, renamed = unique_names(joined_names(rows[above:], header_rows), width)
    below = rows[above + header_rows :]
    columns = [[row[at] if at < len(row) else None for row in below] for at in range(width)]
    frame, passed_over = without_blank_rows(
        [pl.Series(f"{at}", column, dtype=pl.String) for at, column in enumerate(columns)]
    )
    if not frame.height:
        raise ReadingError(
            f"Table {quoted(chosen)} of {name} holds no rows of values. Choose another table."
        )
    told = [f"{name} is a web page; its table {quoted(chosen)} was read."]
    if options.get("table") is not None:
        told = []
    answer = {
        "table": chosen,
        "tables": titles,
        "names": names,
        "remarks": [*told, *remarks, *renamed, *passed_over, *_notes(element)],
    }
    return answer, arrow_of(frame)


def _notes(table: html.HtmlElement) -> list[str]:
    """What is to be said of marks of notes in a table."""
    marks = [part.text_content().strip() for part in table.iter("sup") if _is_note(part)]
    return [f"Marks of notes, such as {quoted(marks[0])}, stayed out."] if marks else []


def _titles(tables: list[html.HtmlElement]) -> list[str]:
    """What tables are called: by their caption, or their number."""
    titles: list[str] = []
    for number, each in enumerate(tables, 1):
        caption = each.find("caption")
        said = _text(caption) if caption is not None else None
        title = shortened_to(_LONGEST_TITLE, said) if said else f"Table {number}"
        titles.append(title if title not in titles else f"{title} ({number})")
    return titles


def _rows(table: html.HtmlElement, name: str) -> list[_Row]:
    """The cells row by row; one over several rows or columns stands in the first of them, and in
    each column of a row of names."""
    rows: list[_Row] = []
    reaching: dict[int, int] = {}  # by column, the rows that a cell above still takes
    count = 0
    for line in table.iter("tr"):
        row: _Row = []
        for cell in line:
            if cell.tag not in ("td", "th"):
                continue
            while reaching.get(len(row), 0) > 0:
                reaching[len(row)] -= 1
                row.append(None)
            across, down = _span(cell, "colspan"), _span(cell, "rowspan")
            for at in range(across):
                if down > 1:
                    reaching[len(row)] = down - 1
                row.append(_text(cell) if at == 0 else None)
            count += across
            if count > _MOST_CELLS:
                raise ReadingError(f"{name} holds more cells than can be read. Save it as CSV.")
        while reaching.get(len(row), 0) > 0:
            reaching[len(row)] -= 1
            row.append(None)
        if row:
            rows.append(row)
    return rows


def _span(cell: html.HtmlElement, name: str) -> int:
    said = str(cell.get(name, "1")).strip()
    return min(max(1, int(said)), 1_000) if said.isdecimal() and len(said) < 6 else 1


def _text(element: html.HtmlElement) -> str | None:
    """What is seen of a cell: no scripts, nothing that is hidden, no marks of notes; lines that
    stand one under the other are parted by a blank."""
    return " ".join("".join(_seen(element)).split()) or None


def _seen(element: html.HtmlElement) -> Iterator[str]:
    yield element.text or ""
    for part in element:
        apart = " " if part.tag in _LINES else ""
        yield apart
        if isinstance(part.tag, str) and not _unseen(part):
            yield from _seen(part)
        yield apart + (part.tail or "")


def _unseen(part: html.HtmlElement) -> bool:
    """Whether a part of a cell is not shown, or is the mark of a note such as "[3]"."""
    if part.tag in _NO_WORDS or _HIDDEN.search(part.get("style", "")) or "hidden" in part.attrib:
        return True
    return _is_note(part)


def _is_note(part: html.HtmlElement) -> bool:
    return part.tag == "sup" and _NOTE.fullmatch(part.text_content().strip()) is not None
