"""A report as one HTML file that needs nothing else: pictures inside, real tables, words for those
who cannot see them, a dress for light, dark and print."""

import base64
from collections.abc import Sequence

from lxml import etree, html
from lxml.builder import ElementMaker
from markdown_it import MarkdownIt

from rhabdos import __version__
from rhabdos.figure.output.report import Method, Told
from rhabdos.figure.output.tables import Cell, NumberTable, turned, written
from rhabdos.paint.report import DrawnReport
from rhabdos.quoting import printable
from rhabdos.scene.marks import Scene

_E = ElementMaker(makeelement=html.html_parser.makeelement)
_MARKDOWN = MarkdownIt("commonmark", {"html": False})
_WIDE, _FEW = 9, 6  # columns and rows of a table that is turned
_STYLE = """
:root { color-scheme: light dark; --ink: #1e2b2f; --quiet: #55646b; --paper: #fff; --line: #c9d0cb;
  --ground: #f3f5f2; --edge: #8a6a00; }
@media (prefers-color-scheme: dark) { :root { --ink: #e8ece7; --quiet: #b0bab5; --paper: #16201f;
  --line: #44524f; --ground: #202c2a; --edge: #e2cb8b; } }
body { font: 16px/1.5 "Source Sans 3", "Source Sans Pro", system-ui, sans-serif; color: var(--ink);
  background: var(--paper); max-width: 46rem; margin: 2rem auto; padding: 0 1rem; }
h1, h2, h3 { line-height: 1.2; } h2 { margin-top: 2.5rem; }
figure { margin: 1rem 0; } figure img { max-width: 100%; height: auto; background: #fff;
  border: 1px solid var(--line); }
figcaption, .quiet { color: var(--quiet); }
.wide { overflow-x: auto; } table { border-collapse: collapse; font-variant-numeric: tabular-nums; }
caption { text-align: left; font-weight: 600; padding: .3rem 0; }
th, td { padding: .15rem .7rem .15rem 0; border-bottom: 1px solid var(--line); text-align: left; }
th.number, td.number { text-align: right; }
.notice { border-left: 3px solid var(--edge); padding-left: .7rem; }
pre { background: var(--ground); padding: .7rem; overflow-x: auto; font-size: .85rem; }
@media print { .wide { overflow: visible; font-size: .7rem; }
  body { max-width: none; margin: 0; } figure, .method { break-inside: avoid; }
  h2, h3 { break-after: avoid; } }
"""


def as_html(drawn: DrawnReport, pictures: Sequence[bytes]) -> bytes:
    """The file of a report.

    Parameters
    ----------
    pictures : sequence of bytes
        Each figure as SVG.
    """
    report = drawn.report
    main = _E.main(_E.h1(_text(report.title)), _E.p(_text(report.data), _class("quiet")))
    each = zip(report.figures, drawn.scenes, pictures, strict=True)
    for number, (told, scene, picture) in enumerate(each, 1):
        main.append(_section(number, told, scene, picture))
    if report.rows:
        steps = [
            _E.li(_text(f"{words} ({what})" if what else words)) for words, what in report.rows
        ]
        main.append(_E.section(_E.h2("How the rows came about"), _E.ol(*steps)))
    if report.methods:
        methods = [_method(method) for method in report.methods]
        main.append(_E.section(_E.h2("Methods"), *methods))
    if report.sources:
        listed = _E.ul(*(_E.li(*_inline(source)) for source in report.sources))
        main.append(_E.section(_E.h2("Sources"), listed))
    recipes = [
        _E.details(_E.summary(_text(told.name)), _E.pre(_lines(recipe)))
        for told, recipe in zip(report.figures, report.recipes, strict=True)
    ]
    main.append(_E.section(_E.h2("Recipes"), *recipes))
    page = _E.html(
        _E.head(
            _E.meta(charset="utf-8"),
            _E.meta(name="viewport", content="width=device-width, initial-scale=1"),
            _E.meta(name="generator", content=f"Rhabdos {__version__}"),
            _E.title(_text(report.title)),
            _E.style(_STYLE),
        ),
        _E.body(main),
        lang="en",
    )
    etree.indent(page.find("head"))
    content: bytes = etree.tostring(
        page, doctype="<!DOCTYPE html>", method="html", encoding="utf-8"
    )
    return content


def _section(number: int, told: Told, scene: Scene, picture: bytes) -> html.HtmlElement:
    width, height = (round(side * 96 / 72) for side in scene.points)
    source = f"data:image/svg+xml;base64,{base64.b64encode(picture).decode()}"
    drawn = _E.img(src=source, alt=_text(scene.describe()), width=str(width), height=str(height))
    figure = _E.figure(drawn, _E.figcaption(_text(told.sentence)))
    section = _E.section(_E.h2(_text(told.name)), figure)
    if told.seen:
        section.append(_E.p(_text(" ".join(told.seen))))
    for notice in told.notices:
        section.append(_E.p(_text(notice), _class("notice")))
    for table in told.tables:
        named = _text(f"{table.title} of figure {number}, {told.name}")
        wide = {"aria-label": named, "tabindex": "0"}  # reached by keys, where it scrolls
        section.append(_E.section(_table(table), _class("wide"), **wide))
    return section


def _table(table: NumberTable) -> html.HtmlElement:
    """A table whose columns, and rows by their first cell, have heads."""
    if len(table.columns) > _WIDE and len(table.rows) <= _FEW:
        first, *lines = turned(table)
        heads = [_E.th(_text(name), _class("number" if at else ""), scope="col")
                 for at, name in enumerate(first)]  # fmt: skip
        rows = [
            _E.tr(_E.th(_text(line[0]), scope="row"), *(_number(cell) for cell in line[1:]))
            for line in lines
        ]
        return _E.table(_E.caption(_text(table.title)), _E.thead(_E.tr(*heads)), _E.tbody(*rows))
    cells = table.rows[0] if table.rows else ()
    numbers = [not isinstance(cell, str) for cell in cells] or [False] * len(table.columns)
    heads = [
        _E.th(_text(name), _class("number" if right else ""), scope="col")
        for name, right in zip(table.columns, numbers, strict=True)
    ]
    places = table.places or (None,) * len(table.columns)
    rows = [_E.tr(*_cells(row, places)) for row in table.rows]
    return _E.table(_E.caption(_text(table.title)), _E.thead(_E.tr(*heads)), _E.tbody(*rows))


def _number(text: str) -> html.HtmlElement:
    return _E.td(_text(text), _class("number"))


def _cells(row: Sequence[Cell], places: Sequence[int | None]) -> list[html.HtmlElement]:
    cells = []
    for at, (cell, to) in enumerate(zip(row, places, strict=True)):
        text = _text(written(cell, to))
        if at == 0:
            cells.append(_E.th(text, scope="row"))
        elif isinstance(cell, str):
            cells.append(_E.td(text))
        else:
            cells.append(_number(text))
    return cells


def _method(method: Method) -> html.HtmlElement:
    rendered = html.fragments_fromstring(_MARKDOWN.render(method.text))
    return _E.div(_E.h3(_text(method.title)), *rendered, _class("method"))


def _inline(text: str) -> list[html.HtmlElement | str]:
    return list(html.fragments_fromstring(_MARKDOWN.renderInline(text)))


def _class(name: str) -> dict[str, str]:
    return {"class": name} if name else {}


def _text(words: str) -> str:
    """Letters that a page can hold."""
    return printable(words)


def _lines(text: str) -> str:
    """The same of several lines, which stay."""
    return "\n".join(_text(line) for line in text.rstrip().split("\n"))
