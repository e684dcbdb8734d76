"""Plain charts on a page: bars of levels with gaps between them, and two numbers as a scatter."""

from collections.abc import Sequence

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.data.columns import DateColumn
from rhabdos.data.table import Table
from rhabdos.figure.planning.titles import value_axis_title
from rhabdos.figure.readings.plain_chart_readings import (
    LevelsReading,
    ScatterReading,
    Side,
    chart_sentence,
    height_words,
    levels_note,
    levels_reading,
    scatter_reading,
)
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.plain_charts import LevelBars, PlainChart
from rhabdos.scene.axes import axes
from rhabdos.scene.axes.limits import Limits
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.marks import Area, Dots, Mark, Meaning, Scene, Segments, Text, Zone
from rhabdos.scene.style.lettering import Measure, shortened, wrapped
from rhabdos.scene.style.style import HOUSE, Style
from rhabdos.wording import exact

_PAD = 12.0  # points around a chart
_TITLE = 12.0  # points
_NAMES_SHARE = 0.3  # of the page's width, that names of levels may take
_ROW, _LEAST_ROW = 23.0, 9.0  # points from bar to bar, as usual and where there are many
_BAR_SHARE = 0.7  # of a row that its bar fills
_LEVEL_COLOUR = "#AE9A82"
_SIDE_SHARE = 0.16  # of the page, for the distribution along a side
_ROOM = 0.04  # of the range of values, on both sides of them
_DOT = 3.2  # points across


def chart_scene(
    chart: PlainChart,
    table: Table,
    measure: Measure,
    size: Size | None = None,
    style: Style = HOUSE,
) -> Scene:
    """A chart of a table on its page.

    Raises
    ------
    Refusal
        The table does not have what it draws.
    """
    words = chart_sentence(chart, table)
    if isinstance(chart, LevelBars):
        return levels_scene(levels_reading(chart, table), measure, size, style, words)
    return scatter_scene(scatter_reading(chart, table), measure, size, style, words)


def levels_scene(
    reading: LevelsReading,
    measure: Measure,
    size: Size | None = None,
    style: Style = HOUSE,
    words: str = "",
) -> Scene:
    """Bars that lie, one a level, with their names at the left and their numbers at their ends."""
    bars = reading.bars
    width, height = (size or _size_for(len(bars))).points()
    numbers = [_said(reading, place) for place in range(len(bars))]
    right = width - _PAD - _widest(numbers, measure) - 8
    names = min(_widest([bar.level for bar in bars], measure), width * _NAMES_SHARE)
    left = _PAD + names + 8
    note = levels_note(reading)
    title = wrapped(
        value_axis_title(reading.variable.label, ""), width - 2 * _PAD, _TITLE, True, measure
    )
    top = _PAD + len(title) * (_TITLE + 3) + 6
    bottom = height - _PAD - 2 * axes.TITLE_ROW - axes.TICK_SIZE - 6
    row = (bottom - top) / max(1, len(bars))
    most = max((bar.height for bar in bars), default=1.0) or 1.0
    whole = all(bar.height == round(bar.height) for bar in bars)
    scale = axes.height_scale(most, right - left, whole, 1.0)
    ticks, end = scale.ticks, scale.top
    xs = [left + place / end * (right - left) for place in ticks.places]
    marks = _title_lines(title, style)
    zones = []
    for place, bar in enumerate(bars):
        y, tip = top + place * row, left + bar.height / end * (right - left)
        meaning = Meaning("levels", place, bar.level)
        marks += _level_bar(
            bar.level, numbers[place], (left, tip, y, row), names, measure, style, meaning
        )
        zones.append(Zone(0, y, width, y + row, meaning))
    ends = [[left, top, left, bottom], [left, bottom, xs[-1], bottom]]
    line = np.array([*ends, *([x, bottom, x, bottom + axes.TICK] for x in xs)])
    marks.append(Segments(line, style.ink, style.axis_line, 1.0, Meaning("value-axis")))
    marks += axes.bottom_labels(xs, ticks.labels, bottom, Meaning("height-axis"))
    middle = (left + right) / 2
    marks += axes.bottom_title(
        [height_words(reading)],
        middle,
        height - _PAD - (axes.TITLE_ROW if note else 0),
        Meaning("height-axis"),
        style,
    )
    if note:
        marks.append(
            Text(width - _PAD, height - _PAD + 2, note, 7.5, "end", style.quiet, Meaning("note"))
        )
    frame = Frame(left, top, right, bottom, 0.0, end, height)
    return Scene(width, height, tuple(marks), tuple(zones), (frame,), lambda: words)


def _title_lines(title: Sequence[str], style: Style) -> list[Mark]:
    return [
        Text(
            _PAD, _PAD + (line + 1) * (_TITLE + 3) - 4, text, _TITLE, "start", style.ink,
            Meaning("title"), bold=True,
        )
        for line, text in enumerate(title)
    ]  # fmt: skip


def _level_bar(
    level: str,
    number: str,
    place: tuple[float, float, float, float],
    room: float,
    measure: Measure,
    style: Style,
    meaning: Meaning,
) -> list[Mark]:
    """A bar with its name at its foot and its number at its tip; ``place`` is where it begins and
    ends, and the top and height of its row."""
    left, tip, y, row = place
    low, high = y + row * (1 - _BAR_SHARE) / 2, y + row * (1 + _BAR_SHARE) / 2
    size = axes.TICK_SIZE if row >= _LEAST_ROW else max(4.0, row * 0.8)
    base = y + row / 2 + size * 0.34
    name = shortened(level, room, size, False, measure)
    return [
        Area(
            np.array([[left, low], [tip, low], [tip, high], [left, high]]),
            _LEVEL_COLOUR,
            1.0,
            meaning,
        ),
        Text(left - 6, base, name, size, "end", style.ink, meaning),
        Text(tip + 5, base, number, size, "start", style.quiet, meaning),
    ]


def _widest(texts: Sequence[str], measure: Measure) -> float:
    return max((measure(text, axes.TICK_SIZE, False) for text in texts), default=0.0)


def _size_for(levels: int) -> Size:
    height = min(24.0, max(5.0, 2.9 + levels * _ROW / 28.35))
    return Size(16.0, round(height, 1), "cm")


def _said(reading: LevelsReading, index: int) -> str:
    """The number at the end of a bar: its height, and its share where heights are counts."""
    bar = reading.bars[index]
    if reading.heights is not None:
        return exact(bar.height)
    return f"{bar.height:,.0f}  ({100 * bar.share:.1f} %)"


def scatter_scene(
    reading: ScatterReading,
    measure: Measure,
    size: Size | None = None,
    style: Style = HOUSE,
    words: str = "",
) -> Scene:
    """A dot a row, with the distribution of one number above and of the other at the right."""
    width, height = (size or Size(16.0, 12.0, "cm")).points()
    colour = style.colours(1)[0]
    lows_highs = [_reach(side) for side in (reading.x, reading.y)]
    side_height, side_width = height * _SIDE_SHARE, width * _SIDE_SHARE
    top = _PAD + side_height + 6
    right = width - _PAD - side_width - 6
    bottom = height - _PAD - 2 * axes.TITLE_ROW - axes.TICK_SIZE - 2
    y_title = wrapped(_title(reading.y), bottom - top, axes.TITLE_SIZE, False, measure, 2)
    x_title = wrapped(_title(reading.x), right - 60, axes.TITLE_SIZE, False, measure, 2)
    whole = [bool(np.all(s.values == np.round(s.values))) for s in (reading.x, reading.y)]
    dates = [isinstance(s.variable, DateColumn) for s in (reading.x, reading.y)]
    y_ticks = axes.value_ticks(
        Limits(*lows_highs[1]), bottom - top, True, whole[1], measure, dates[1]
    )
    labels = max((measure(text, axes.TICK_SIZE, False) for text in y_ticks.labels), default=0.0)
    left = _PAD + len(y_title) * axes.TITLE_ROW + labels + axes.TICK + axes.LABEL_GAP + 4
    x_ticks = axes.value_ticks(
        Limits(*lows_highs[0]), right - left, False, whole[0], measure, dates[0]
    )
    frame = Frame(left, top, right, bottom, *lows_highs[0], height)
    upright = Frame(left, top, right, bottom, *lows_highs[1], height, True)
    xs = [frame.along(place) for place in x_ticks.places]
    ys = [height - upright.along(place) for place in y_ticks.places]
    places = _apart(
        frame.alongs(reading.x.values.copy()), height - upright.alongs(reading.y.values.copy())
    )
    opacity = min(0.8, max(0.1, 22.0 / float(np.sqrt(len(reading.rows) + 1.0))))
    meaning = Meaning("scatter")
    marks: list[Mark] = [
        axes.grid_along(frame, x_ticks.places, style),
        axes.grid_along(upright, y_ticks.places, style),
        axes.outline(frame, style),
        Dots(places, "disc", _DOT, colour, opacity, meaning),
        *_bars(reading.x, frame, top - 6, -side_height, False, height, colour),
        *_bars(reading.y, upright, right + 6, side_width, True, height, colour),
        axes.value_line(frame, x_ticks, style),
        axes.value_line(upright, y_ticks, style),
        *axes.bottom_labels(xs, x_ticks.labels, bottom, Meaning("value-axis")),
        *axes.left_labels(ys, y_ticks.labels, left, Meaning("height-axis")),
        *axes.bottom_title(
            x_title, (left + right) / 2, height - _PAD - 2, Meaning("value-axis"), style
        ),
        *axes.left_title(y_title, _PAD, (top + bottom) / 2, Meaning("height-axis"), style),
    ]
    note = f"n = {len(reading.rows):,}"
    if reading.lacking:
        note += f"; {reading.lacking:,} rows lack one of them"
    marks.append(Text(width - _PAD, height - _PAD, note, 7.5, "end", style.quiet, Meaning("note")))
    zone = Zone(left, top, right, bottom, meaning)
    return Scene(width, height, tuple(marks), (zone,), (frame,), lambda: words)


def _title(side: Side) -> str:
    return value_axis_title(side.variable.label, side.variable.unit)


def _reach(side: Side) -> tuple[float, float]:
    low, high = float(side.values.min()), float(side.values.max())
    room = (high - low) * _ROOM or abs(high) * _ROOM or 1.0
    return low - room, high + room


def _apart(xs: FloatArray, ys: FloatArray) -> FloatArray:
    """The places of dots, of which none is drawn twice on the same half point."""
    grid = np.unique(np.stack([np.round(xs * 2), np.round(ys * 2)], axis=1), axis=0)
    return grid / 2


def _bars(
    side: Side,
    frame: Frame,
    base: float,
    reach: float,
    upright: bool,
    page_height: float,
    colour: str,
) -> Sequence[Mark]:
    """The distribution along a side, as one silhouette."""
    most = max(int(side.counts.max()), 1)
    alongs = frame.alongs(side.edges.copy())
    steps = np.repeat(alongs, 2)
    heights = np.concatenate([[0.0], np.repeat(side.counts / most * reach, 2), [0.0]])
    across = base + heights
    if upright:
        points = np.stack([across, page_height - steps], axis=1)
    else:
        points = np.stack([steps, across], axis=1)
    return [Area(points, colour, 0.45, Meaning("scatter"))]
