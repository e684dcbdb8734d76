"""A report as Markdown, with its pictures beside it."""

import re
from collections.abc import Sequence

from rhabdos.figure.output.tables import as_markdown as table_as_markdown
from rhabdos.paint.report import DrawnReport
from rhabdos.quoting import printable

_SPECIAL = "\\`*_{}[]<>#|"


def as_markdown(drawn: DrawnReport, pictures: Sequence[str]) -> str:
    """The text of a report.

    Parameters
    ----------
    pictures : sequence of str
        The file of each figure, beside the text.
    """
    report = drawn.report
    parts = [f"# {_plain(report.title)}", _plain(report.data)]
    for told, scene, file in zip(report.figures, drawn.scenes, pictures, strict=True):
        parts += [
            f"## {_plain(told.name)}",
            f"![{_plain(scene.describe())}](<{file}>)",
            f"*{_plain(told.sentence)}*",
        ]
        if told.seen:
            parts.append(" ".join(_plain(text) for text in told.seen))
        parts += [f"> {_plain(text)}" for text in told.notices]
        for table in told.tables:
            parts += [f"### {_plain(table.title)}", table_as_markdown(table).rstrip("\n")]
    if report.rows:
        lines = [
            f"{number}. {_plain(words)}" + (f" ({_plain(what)})" if what else "")
            for number, (words, what) in enumerate(report.rows, 1)
        ]
        parts += ["## How the rows came about", "\n".join(lines)]
    if report.methods:
        parts.append("## Methods")
        parts += [f"### {_plain(method.title)}\n\n{method.text}" for method in report.methods]
    if report.sources:
        parts += ["## Sources", "\n".join(f"- {source}" for source in report.sources)]
    parts.append("## Recipes")
    parts += map(_fenced, report.recipes)
    return "\n\n".join(parts) + "\n"


def _fenced(recipe: str) -> str:
    """A recipe as it is, between more marks than stand anywhere in it."""
    fence = "`" * max(3, 1 + max(map(len, re.findall("`+", recipe)), default=0))
    return f"{fence}toml\n{recipe.rstrip()}\n{fence}"


def _plain(text: str) -> str:
    """Letters that are no markup."""
    words = " ".join(printable(text).split())
    return "".join(f"\\{letter}" if letter in _SPECIAL else letter for letter in words)
