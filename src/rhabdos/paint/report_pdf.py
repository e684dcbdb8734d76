"""A report as PDF: figures as they are drawn everywhere, words and tables set by Qt."""

from html import escape

from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QRectF, QSizeF
from PyQt6.QtGui import QFont, QPageLayout, QPageSize, QPainter, QPdfWriter, QTextDocument

from rhabdos.figure.output.report import Told
from rhabdos.figure.output.tables import NumberTable, turned
from rhabdos.paint import fonts
from rhabdos.paint.painter import paint, painter_on
from rhabdos.paint.report import DrawnReport
from rhabdos.paint.typeface import FAMILY
from rhabdos.quoting import printable
from rhabdos.scene.marks import Scene

_MARGIN = 18.0  # millimetres
_RESOLUTION = 1200  # dots an inch, of Qt's whole units
_POINTS_AN_INCH = 72
_GAP = 8.0  # points between parts
_MOST_COLUMNS, _FEW_ROWS = 9, 6  # of a table on a page, and of one that is turned
# A pixel of these documents is a point of the page.
_STYLE = (
    "h1 { font-size: 18px; } h2 { font-size: 14px; } h3 { font-size: 11px; }"
    "td, th { padding: 1px 5px; } .quiet { color: #55646b; } pre { font-size: 7px; }"
)
_LETTERS = 10  # points


class _Flow:
    """Puts parts under one another on pages, each whole where it fits on one."""

    def __init__(self, writer: QPdfWriter, painter: QPainter) -> None:
        page = writer.pageLayout().paintRect(QPageLayout.Unit.Point)
        self._writer, self._painter = writer, painter
        self.width, self._height = page.width(), page.height()
        self._down = 0.0

    def put_figure(self, heading: QTextDocument, scene: Scene) -> None:
        """A figure under its heading, as large as a page lets both be together."""
        heading.setTextWidth(self.width)
        above = heading.size().height() + _GAP
        wide, high = scene.points
        scale = min(1.0, self.width / wide, (self._height - above) / high)
        self._make_room(above + high * scale)
        self.put(heading)
        painter = self._painter
        painter.save()
        painter.translate(0, self._down)
        painter.scale(wide * scale / scene.width, high * scale / scene.height)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint(scene, painter)
        painter.restore()
        self._down += high * scale + _GAP

    def put(self, document: QTextDocument, keep_after: float = 0.0) -> None:
        """Words; of more than a page as many pages as they take."""
        document.setTextWidth(self.width)
        high = document.size().height()
        if high + keep_after <= self._height:
            self._make_room(high + keep_after)
            self._draw(document, 0.0, high)
            self._down += high + _GAP
            return
        self._make_room(self._height)
        document.setPageSize(QSizeF(self.width, self._height))
        for number in range(document.pageCount()):
            if number:
                self._turn()
            self._draw(document, number * self._height, self._height)
        self._down = self._height  # whatever follows begins a page

    def _draw(self, document: QTextDocument, top: float, high: float) -> None:
        self._painter.save()
        self._painter.translate(0, self._down - top)
        document.drawContents(self._painter, QRectF(0, top, self.width, high))
        self._painter.restore()

    def _make_room(self, high: float) -> None:
        if self._down and self._down + high > self._height:
            self._turn()

    def _turn(self) -> None:
        self._writer.newPage()
        self._down = 0.0


def as_pdf(drawn: DrawnReport) -> bytes:
    """The file of a report, on A4."""
    fonts.load()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.ReadWrite)
    writer = QPdfWriter(buffer)
    writer.setResolution(_RESOLUTION)
    margins = QMarginsF(_MARGIN, _MARGIN, _MARGIN, _MARGIN)
    size, upright = QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Portrait
    writer.setPageLayout(QPageLayout(size, upright, margins, QPageLayout.Unit.Millimeter))
    writer.setTitle(printable(drawn.report.title))
    with painter_on(writer) as painter:
        scale = _RESOLUTION / _POINTS_AN_INCH
        painter.scale(scale, scale)
        _fill(_Flow(writer, painter), drawn)
    return buffer.data().data()


def _fill(flow: _Flow, drawn: DrawnReport) -> None:
    report = drawn.report
    flow.put(_html(f"<h1>{_plain(report.title)}</h1><p class='quiet'>{_plain(report.data)}</p>"))
    for told, scene in zip(report.figures, drawn.scenes, strict=True):
        flow.put_figure(_html(f"<h2>{_plain(told.name)}</h2>"), scene)
        flow.put(_html(_words(told)))
        for table in told.tables:
            flow.put(_html(_table(table)))
    if report.rows:
        steps = "".join(
            f"<li>{_plain(words)}{f' ({_plain(what)})' if what else ''}</li>"
            for words, what in report.rows
        )
        flow.put(_html(f"<h2>How the rows came about</h2><ol>{steps}</ol>"))
    if report.methods:
        flow.put(_html("<h2>Methods</h2>"), 6 * _GAP)
        for method in report.methods:
            flow.put(_markdown(f"### {method.title}\n\n{method.text}"))
    if report.sources:
        flow.put(_html("<h2>Sources</h2>"), 6 * _GAP)
        flow.put(_markdown("\n".join(f"- {source}" for source in report.sources)))
    flow.put(_html("<h2>Recipes</h2>"), 6 * _GAP)
    for told, recipe in zip(report.figures, report.recipes, strict=True):
        text = escape("\n".join(printable(line) for line in recipe.rstrip().split("\n")))
        flow.put(_html(f"<h3>{_plain(told.name)}</h3><pre>{text}</pre>"))


def _html(text: str) -> QTextDocument:
    document = _document()
    document.setHtml(f"<body>{text}</body>")
    return document


def _markdown(text: str) -> QTextDocument:
    document = _document()
    document.setMarkdown(text)
    return document


def _document() -> QTextDocument:
    document = QTextDocument()
    document.setDocumentMargin(0)
    document.setDefaultStyleSheet(_STYLE)
    font = QFont(FAMILY)
    font.setPixelSize(_LETTERS)
    font.setFeature(QFont.Tag(b"liga"), 0)  # as in figures
    document.setDefaultFont(font)
    document.setUseDesignMetrics(True)
    return document


def _words(told: Told) -> str:
    parts = [f"<p class='quiet'>{_plain(told.sentence)}</p>"]
    if told.seen:
        parts.append(f"<p>{_plain(' '.join(told.seen))}</p>")
    parts += [f"<p><i>{_plain(notice)}</i></p>" for notice in told.notices]
    return "".join(parts)


def _table(table: NumberTable) -> str:
    """A table; one too wide for the page is turned, its rows as columns, or parted."""
    grid = [list(table.columns), *(list(row) for row in table.texts)]
    if len(table.columns) > _MOST_COLUMNS and len(table.rows) <= _FEW_ROWS:
        grid = turned(table)
    wide = max(len(line) for line in grid) - 1
    parts = []
    for first in range(1, max(wide, 1) + 1, _MOST_COLUMNS - 1):
        part = [[line[0], *line[first : first + _MOST_COLUMNS - 1]] for line in grid]
        lines = "".join(f"<tr>{_line(line)}</tr>" for line in part)
        parts.append(f"<table border='0' cellspacing='0'>{lines}</table>")
    return f"<h3>{_plain(table.title)}</h3>{'<br>'.join(parts)}"


def _line(cells: list[str]) -> str:
    sides = ("left", *("right" for _ in cells[1:]))
    each = zip(sides, cells, strict=True)
    return "".join(f"<td align='{side}'>{_plain(cell)}</td>" for side, cell in each)


def _plain(words: str) -> str:
    return escape(printable(words))
