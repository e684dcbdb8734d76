"""Small silhouettes of every variable, worked out when they are first seen."""

import numpy as np
from msgspec import Struct
from PyQt6.QtCore import QObject, QRect, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QPainter

from rhabdos.app.controls.theme import theme
from rhabdos.app.session.tasks import Task
from rhabdos.arrays import FloatArray
from rhabdos.data.columns import CategoryColumn, Column, DateColumn, LabelColumn, NumberColumn
from rhabdos.data.pooled import AnySample
from rhabdos.data.reporting import Report
from rhabdos.data.samples import Sample
from rhabdos.errors import Refusal
from rhabdos.figure.readings.value_scale import WORDS
from rhabdos.memo import memoised
from rhabdos.stats.axis_scale import ScaleKind
from rhabdos.stats.binning import by_count, counts
from rhabdos.stats.oddities import missing_code
from rhabdos.stats.rules import by_rule

_MOST_BARS = 20  # in so little room
_MOST_LEVELS = 24  # in so little room
_AT_ONCE_ROWS = 20_000  # of a column that is worked out at once, and not in a task
# Of a longer column every k-th value is looked at, which no eye could tell at this size
_MOST_READ = 1_000_000


class Silhouette(Struct, frozen=True, eq=False):
    """Shares of the greatest height (numbers) or of all rows (groups), from left to right.

    ``ends`` are the smallest and the largest number; ``levels`` how many rows have each of the
    first levels, in their order. Where most values lie in a sliver of their span, numbers are
    pictured ``along`` the axis that suits them best.
    """

    shares: FloatArray
    bars: bool
    ends: tuple[float, float] | None = None
    levels: tuple[int, ...] = ()
    along: ScaleKind = "linear"

    @property
    def tail(self) -> bool:
        """Whether it is pictured along another axis than that of its values."""
        return self.along != "linear"

    @property
    def offer(self) -> str:
        """What is offered of that axis, in words; empty where there is nothing to offer."""
        return f"{WORDS[self.along].said} · draw it so" if self.tail else ""


@memoised  # the list of variables, the overview and other windows show the same
def silhouette(column: Column) -> Silhouette:
    """The shape of a variable in a few bars, or its levels' shares of the rows."""
    from rhabdos.data.problems.problems import problems_of

    problems_of(column)  # kept with it, for who asks next
    if isinstance(column, NumberColumn):
        return _bars(column)
    if isinstance(column, CategoryColumn):
        counted = column.level_counts
        tallest = np.sort(counted)[::-1]
        shares = tallest[:12] / max(1, int(tallest.sum()))
        return Silhouette(shares, bars=False, levels=tuple(counted[:_MOST_LEVELS].tolist()))
    assert isinstance(column, LabelColumn)
    return Silhouette(np.full(min(column.distinct, 12), 1 / 24), bars=False)


def _bars(column: NumberColumn) -> Silhouette:
    seen = column.values[:: max(1, -(-len(column.values) // _MOST_READ))]
    values = np.sort(seen[~np.isnan(seen)])
    nothing = Silhouette(np.empty(0), bars=True)
    if not len(values):
        return nothing
    kind, sample = _seen_best(column, Sample(column.label, values))
    try:
        edges = by_rule(sample, "automatic").edges
        if edges.count > _MOST_BARS:
            edges = by_count(sample, _MOST_BARS)
    except Refusal:
        return nothing
    heights = counts(sample, edges)
    shares = np.asarray(heights / max(1, heights.max()), dtype=np.float64)
    ends = float(np.nanmin(column.values)), float(np.nanmax(column.values))
    return Silhouette(shares, bars=True, ends=ends, along=kind)


def _seen_best(column: NumberColumn, sample: Sample) -> tuple[ScaleKind, AnySample]:
    """The kind of axis on which the values of a column are seen best, and their places on it."""
    # Which no first picture waits for.
    from rhabdos.figure.notices.of_tails import long_tail, scales_for
    from rhabdos.figure.readings.value_scale import placed, value_scale

    if isinstance(column, DateColumn) or not long_tail(sample) or missing_code(sample):
        return "linear", sample
    kind: ScaleKind = next(iter(scales_for(sample)), "linear")
    return kind, placed(sample, value_scale(kind, None, sample).axis)


def paint_silhouette(painter: QPainter, place: QRect, silhouette: Silhouette) -> None:
    """Paint bars that touch for numbers, and blocks of shares for groups."""
    t = theme()
    count = len(silhouette.shares)
    if not count:
        return
    if silhouette.bars:
        step = min(place.width() / count, max(8.0, place.height() / 3))
        for position, share in enumerate(silhouette.shares.tolist()):
            height = max(1, round(share * place.height())) if share > 0 else 0
            left, right = round(position * step), round((position + 1) * step)
            gap = 1 if step >= 2.5 else 0
            bar = QRect(
                place.left() + left, place.bottom() - height + 1, max(1, right - left - gap), height
            )
            painter.fillRect(bar, QColor(t.number_shape))
        return
    x = float(place.left())
    thick = min(12, place.height() // 2) if place.height() < 40 else 26
    top = place.top() + (place.height() - thick) // 2
    for position, share in enumerate(silhouette.shares.tolist()):
        width = share * place.width()
        colour = QColor(t.group_shape)
        colour.setAlphaF(max(0.35, 1.0 - 0.13 * position))
        painter.fillRect(QRect(round(x), top, max(1, round(width) - 1), thick), colour)
        x += width


class Silhouettes(QObject):
    """Keeps silhouettes, and works them out after they were asked for: for large tables off the
    interface thread."""

    ready = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._kept: dict[int, tuple[Column, Silhouette]] = {}
        self._waiting: list[Column] = []
        self._task: Task | None = None
        self._begin = QTimer(self)  # after the painting that asked, which shall not wait
        self._begin.setSingleShot(True)
        self._begin.timeout.connect(self._next)

    def of(self, column: Column) -> Silhouette | None:
        """The silhouette of a column, or None while it is being worked out."""
        kept = self._kept.get(id(column))
        if kept:
            return kept[1]
        if not any(column is waiting for waiting in self._waiting):
            self._waiting.append(column)
            self._begin.start()
        return None

    def known(self, column: Column) -> bool:
        """Whether the silhouette of a column was worked out."""
        return id(column) in self._kept

    def forget(self) -> None:
        """Let go of another table's silhouettes."""
        self.finish()
        self._kept.clear()

    def finish(self) -> None:
        """Stop for good."""
        self._waiting.clear()
        if self._task:
            self._task.cancel()
            self._task = None

    def _keep(self, column: Column, shape: Silhouette) -> None:
        self._kept[id(column)] = (
            column,
            shape,
        )  # the column is kept too, so that its id stays its own

    def _next(self) -> None:
        """Work out what is short at once, and begin with the next long one."""
        if self._task:
            return
        short = [column for column in self._waiting if column.rows <= _AT_ONCE_ROWS]
        for column in short:
            self._keep(column, silhouette(column))
        if short:
            self._waiting = [column for column in self._waiting if column.rows > _AT_ONCE_ROWS]
            self.ready.emit()
        if not self._waiting:
            return
        column = self._waiting[-1]  # the last asked for is the one that is in sight

        def work(_report: Report) -> Silhouette:
            """Work the shape of a variable out."""
            return silhouette(column)

        def done(shape: Silhouette) -> None:
            """Show it, and go on with the next."""
            self._keep(column, shape)
            self._task = None
            self._waiting = [waiting for waiting in self._waiting if waiting is not column]
            self.ready.emit()
            self._next()

        self._task = Task(work, self)
        self._task.succeeded.connect(done)
        self._task.begin()
