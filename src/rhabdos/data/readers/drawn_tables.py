"""Tables that are drawn in text, as notes and shells of databases have them: cells between bars,
and a rule of dashes beneath their names."""

import csv
import io
import re

_OF_RULES = frozenset("-=|+: \t")  # letters of a rule, two dashes of which stand together
_CELL = re.compile(r"(?<!\\)\|")
_COUNT = re.compile(r"\(\d+ rows?\)")  # that a shell writes beneath
_TOP = 8  # lines, among which the names and the rule beneath them are looked for
LARGEST = 64 << 20  # bytes of a text that is taken for such a table


def looks_drawn(head: str) -> bool:
    """Whether a text begins as such a table does."""
    lines = [line for line in head[:100_000].splitlines()[:_TOP] if line.strip()]
    if lines and _is_rule(lines[0]):
        del lines[0]
    return len(lines) > 2 and "|" in lines[0] and _is_rule(lines[1])


def undrawn(text: str) -> str | None:
    """The same table with its cells parted by tabs; None of a text that is anything else, or more.

    Its first row is that of the names, as it is there.
    """
    lines = [line.strip() for line in text.splitlines()]
    lines = [line for line in lines if line and not _is_rule(line)]
    if lines and _COUNT.fullmatch(lines[-1]):
        del lines[-1]
    rows = [_cells(line, bool(lines) and lines[0].startswith("|")) for line in lines]
    if len(rows) < 2 or len(rows[0]) < 2 or any(len(row) != len(rows[0]) for row in rows):
        return None
    parted = io.StringIO()
    csv.writer(parted, delimiter="\t", lineterminator="\n").writerows(rows)
    return parted.getvalue()


def _is_rule(line: str) -> bool:
    dashes, bars = "--" in line or "==" in line, "|" in line or "+" in line
    return dashes and bars and _OF_RULES.issuperset(line)


def _cells(line: str, framed: bool) -> list[str]:
    """The cells of a row; ``framed`` says that bars stand at its ends too. Of others one that
    begins with a bar has nothing in its first cell."""
    bare = line
    if framed:
        bare = line.removeprefix("|")
        bare = bare[:-1] if bare.endswith("|") and not bare.endswith("\\|") else bare
    return [cell.strip().replace("\\|", "|").replace("\t", " ") for cell in _CELL.split(bare)]
