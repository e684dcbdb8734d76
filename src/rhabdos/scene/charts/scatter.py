"""Two numbers as a scatter, with the distribution of each at its side."""

from collections.abc import Sequence

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.data.columns import DateColumn
from rhabdos.figure.planning.titles import value_axis_title
from rhabdos.figure.readings.plain_chart_readings import ScatterReading, Side
from rhabdos.figure.recipe.plain_charts import Scatter
from rhabdos.scene.axes import axes
from rhabdos.scene.axes.limits import Limits
from rhabdos.scene.charts.sheet import PAD, TOLD, Paper, sheet_of, usual_colour, widest
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.marks import Area, Dots, Mark, Meaning, Scene, Zone
from rhabdos.scene.style.lettering import Measure

_SIDE_SHARE = 0.16  # of the page, for the distribution along a side
_ROOM = 0.04  # of the range of values, on both sides of them


def scatter_scene(chart: Scatter, reading: ScatterReading, measure: Measure, paper: Paper) -> Scene:
    """A dot a row, with the distribution of one number above and of the other at the right."""
    told = f"n = {len(reading.rows):,}"
    if reading.lacking:
        told += f"; {reading.lacking:,} rows lack one of them"
    sheet = sheet_of(chart, paper, "", told, measure)
    width, height, style = sheet.width, sheet.height, sheet.style
    colour = chart.colour or usual_colour(chart)
    lows_highs = [_reach(side) for side in (reading.x, reading.y)]
    side_height, side_width = height * _SIDE_SHARE, width * _SIDE_SHARE
    top = sheet.top + side_height + 6
    right = width - PAD - side_width - 6
    x_title = sheet.titled(chart.value_axis, _title(reading.x), right - 60, measure)
    foot = sheet.bottom
    beside = right / 2 + 30 + widest(x_title, measure) < width - PAD - measure(told, TOLD, False)
    if beside and not chart.note and len(x_title) == 1:
        foot += axes.TITLE_ROW - 2  # the number of rows stands beside the title
    bottom = foot - max(1, len(x_title)) * axes.TITLE_ROW - axes.TITLE_ROW - axes.TICK_SIZE
    y_title = sheet.titled(chart.height_axis, _title(reading.y), bottom - top, measure)
    whole = [bool(np.all(s.values == np.round(s.values))) for s in (reading.x, reading.y)]
    dates = [isinstance(s.variable, DateColumn) for s in (reading.x, reading.y)]
    y_ticks = axes.value_ticks(
        Limits(*lows_highs[1]), bottom - top, True, whole[1], measure, dates[1]
    )
    left = PAD + len(y_title) * axes.TITLE_ROW + widest(y_ticks.labels, measure)
    left += axes.TICK + axes.LABEL_GAP + 4
    x_ticks = axes.value_ticks(
        Limits(*lows_highs[0]), right - left, False, whole[0], measure, dates[0]
    )
    frame = Frame(left, top, right, bottom, *lows_highs[0], height)
    upright = Frame(left, top, right, bottom, *lows_highs[1], height, True)
    xs = [frame.along(place) for place in x_ticks.places]
    ys = [height - upright.along(place) for place in y_ticks.places]
    places = _apart(frame.alongs(reading.x.values), height - upright.alongs(reading.y.values))
    opacity = min(0.8, max(0.1, 22.0 / float(np.sqrt(len(reading.rows) + 1.0))))
    meaning, face = Meaning("scatter"), style.face("numbers")
    marks: list[Mark] = [
        axes.grid_along(frame, x_ticks.places, style),
        axes.grid_along(upright, y_ticks.places, style),
        axes.outline(frame, style),
        Dots(places, "disc", chart.dot, colour, opacity, meaning),
        *_bars(reading.x, frame, top - 6, -side_height, False, height, colour),
        *_bars(reading.y, upright, right + 6, side_width, True, height, colour),
        axes.value_line(frame, x_ticks, style),
        axes.value_line(upright, y_ticks, style),
        *axes.bottom_labels(xs, x_ticks.labels, bottom, Meaning("value-axis"), face),
        *axes.left_labels(ys, y_ticks.labels, left, Meaning("height-axis"), face),
        *axes.bottom_title(x_title, (left + right) / 2, foot, Meaning("value-title"), style),
        *axes.left_title(y_title, PAD, (top + bottom) / 2, Meaning("height-title"), style),
    ]
    return sheet.scene(marks, (Zone(left, top, right, bottom, meaning),), frame)


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
    alongs = frame.alongs(side.edges)
    steps = np.repeat(alongs, 2)
    heights = np.concatenate([[0.0], np.repeat(side.counts / most * reach, 2), [0.0]])
    across = base + heights
    if upright:
        points = np.stack([across, page_height - steps], axis=1)
    else:
        points = np.stack([steps, across], axis=1)
    return [Area(points, colour, 0.45, Meaning("scatter"))]
