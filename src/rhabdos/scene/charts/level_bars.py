"""Bars of levels with gaps between them, lying or standing."""

from collections.abc import Sequence

import numpy as np

from rhabdos.figure.planning.titles import value_axis_title
from rhabdos.figure.readings.plain_chart_readings import (
    LevelBar,
    LevelsReading,
    height_told,
    height_words,
    levels_note,
)
from rhabdos.figure.recipe.plain_charts import LevelBars
from rhabdos.scene.axes import axes
from rhabdos.scene.charts.sheet import PAD, Paper, Sheet, sheet_of, usual_colour, widest
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.marks import Area, Mark, Meaning, Scene, Segments, Text, Zone
from rhabdos.scene.style.lettering import Measure, shortened
from rhabdos.scene.style.style import Style

_LEAST_ROW = 9.0  # points from bar to bar, below which letters are smaller
_BAR_SHARE = 0.7  # of a row that its bar fills


def levels_scene(chart: LevelBars, reading: LevelsReading, measure: Measure, paper: Paper) -> Scene:
    """Bars with gaps between them, one a level, with their names at their feet and their numbers at
    their ends."""
    bars = reading.bars
    title = value_axis_title(reading.variable.label, "")
    sheet = sheet_of(chart, paper, title, levels_note(reading), measure)
    numbers = [_said(chart, reading, place) if paper.numbers else "" for place in range(len(bars))]
    draw = _standing if chart.upright else _lying
    return draw(chart, reading, numbers, sheet, measure)


def _lying(
    chart: LevelBars, reading: LevelsReading, numbers: Sequence[str], sheet: Sheet, measure: Measure
) -> Scene:
    bars, style, width = reading.bars, sheet.style, sheet.width
    right = width - PAD - widest(numbers, measure) - 8
    names = min(widest([bar.level for bar in bars], measure), width * sheet.paper.names)
    deepest = 3 * axes.TITLE_ROW + axes.TICK_SIZE + 6  # what stands under the frame, at most
    high = sheet.bottom - sheet.top - deepest
    of_names = sheet.titled(chart.value_axis, "", high, measure)
    left = PAD + len(of_names) * axes.TITLE_ROW + names + 8
    below = sheet.titled(chart.height_axis, height_words(reading), right - left, measure)
    top = sheet.top
    bottom = sheet.bottom - len(below) * axes.TITLE_ROW - axes.TITLE_ROW - axes.TICK_SIZE - 6
    row = (bottom - top) / max(1, len(bars))
    scale = _heights(bars, right - left)
    ticks, end = scale.ticks, scale.top
    xs = [left + place / end * (right - left) for place in ticks.places]
    marks: list[Mark] = []
    zones = []
    for place, bar in enumerate(bars):
        y, tip = top + place * row, left + bar.height / end * (right - left)
        low, high = y + row * (1 - _BAR_SHARE) / 2, y + row * (1 + _BAR_SHARE) / 2
        meaning = Meaning("levels", place, bar.level)
        size = axes.TICK_SIZE if row >= _LEAST_ROW else max(4.0, row * 0.8)
        base = y + row / 2 + size * 0.34
        name = shortened(bar.level, names, size, False, measure)
        marks += [
            _bar(left, tip, low, high, _colour_of(chart, bar.level), meaning),
            Text(left - 6, base, name, size, "end", style.ink, meaning),
            Text(tip + 5, base, numbers[place], size, "start", style.quiet, meaning),
        ]
        zones.append(Zone(0, y, width, y + row, meaning))
    ends = [[left, top, left, bottom], [left, bottom, xs[-1], bottom]]
    line = np.array([*ends, *([x, bottom, x, bottom + axes.TICK] for x in xs)])
    marks.append(Segments(line, style.ink, style.axis_line, 1.0, Meaning("value-axis")))
    face = style.face("numbers")
    marks += axes.bottom_labels(xs, ticks.labels, bottom, Meaning("height-axis"), face)
    middle, foot = (left + right) / 2, sheet.bottom
    marks += axes.bottom_title(below, middle, foot, Meaning("height-title"), style)
    across = (top + bottom) / 2
    marks += axes.left_title(of_names, PAD, across, Meaning("value-title"), style)
    frame = Frame(left, top, right, bottom, 0.0, end, sheet.height)
    return sheet.scene([mark for mark in marks if not _silent(mark)], zones, frame)


def _standing(
    chart: LevelBars, reading: LevelsReading, numbers: Sequence[str], sheet: Sheet, measure: Measure
) -> Scene:
    bars, style, width = reading.bars, sheet.style, sheet.width
    top = sheet.top + axes.TICK_SIZE + 4
    below = sheet.titled(chart.value_axis, "", width * 0.8, measure)
    names = [bar.level for bar in bars]
    deepest = min(widest(names, measure), sheet.height * sheet.paper.names)
    under = len(below) * axes.TITLE_ROW + max(deepest, axes.TICK_SIZE) + axes.TICK + 8
    high = sheet.bottom - top - under
    of_heights = sheet.titled(chart.height_axis, height_words(reading), high, measure)
    # The room of numbers beside the axis is known once its ticks are; they hardly differ.
    scale = _heights(bars, sheet.bottom - top)
    labels = widest(scale.ticks.labels, measure)
    left = PAD + len(of_heights) * axes.TITLE_ROW + labels + axes.TICK + axes.LABEL_GAP + 4
    right = width - PAD
    column = (right - left) / max(1, len(bars))
    turned = widest(names, measure) > column - 4
    names = [
        shortened(name, deepest if turned else column - 4, axes.TICK_SIZE, False, measure)
        for name in names
    ]
    deep = deepest if turned else axes.TICK_SIZE
    bottom = sheet.bottom - len(below) * axes.TITLE_ROW - deep - axes.TICK - 8
    scale = _heights(bars, bottom - top)
    ticks, end = scale.ticks, scale.top
    ys = [bottom - place / end * (bottom - top) for place in ticks.places]
    marks: list[Mark] = []
    zones = []
    size = axes.TICK_SIZE
    for place, bar in enumerate(bars):
        x, tip = left + place * column, bottom - bar.height / end * (bottom - top)
        low, high = x + column * (1 - _BAR_SHARE) / 2, x + column * (1 + _BAR_SHARE) / 2
        meaning = Meaning("levels", place, bar.level)
        marks.append(_bar(low, high, tip, bottom, _colour_of(chart, bar.level), meaning))
        middle = x + column / 2
        if measure(numbers[place], size, False) <= column - 2:
            text = Text(middle, tip - 4, numbers[place], size, "middle", style.quiet, meaning)
            marks.append(text)
        marks.append(_name_under(names[place], middle, bottom, turned, style, meaning))
        zones.append(Zone(x, top, x + column, sheet.bottom, meaning))
    line = [[left, bottom, right, bottom], [left, ys[-1], left, bottom]]
    at_left = [[left - axes.TICK, y, left, y] for y in ys]
    lines = np.array([*line, *at_left])
    marks.append(Segments(lines, style.ink, style.axis_line, 1.0, Meaning("value-axis")))
    face = style.face("numbers")
    marks += axes.left_labels(ys, ticks.labels, left, Meaning("height-axis"), face)
    across = (top + bottom) / 2
    marks += axes.left_title(of_heights, PAD, across, Meaning("height-title"), style)
    middle = (left + right) / 2
    marks += axes.bottom_title(below, middle, sheet.bottom, Meaning("value-title"), style)
    frame = Frame(left, top, right, bottom, 0.0, end, sheet.height)
    return sheet.scene([mark for mark in marks if not _silent(mark)], zones, frame)


def _name_under(
    name: str, middle: float, bottom: float, turned: bool, style: Style, meaning: Meaning
) -> Text:
    """The name at the foot of a standing bar, turned where names are wider than bars."""
    size = axes.TICK_SIZE
    foot = bottom + axes.TICK
    if turned:
        aside = middle + size * 0.34
        return Text(aside, foot + 2, name, size, "end", style.ink, meaning, angle=90.0)
    return Text(middle, foot + size + 1, name, size, "middle", style.ink, meaning)


def _silent(mark: Mark) -> bool:
    """Whether it is a text without letters."""
    return isinstance(mark, Text) and not mark.text


def _heights(bars: Sequence[LevelBar], extent: float) -> axes.HeightScale:
    most = max((bar.height for bar in bars), default=1.0) or 1.0
    whole = all(bar.height == round(bar.height) for bar in bars)
    return axes.height_scale(most, extent, whole, 1.0)


def _bar(x0: float, x1: float, y0: float, y1: float, colour: str, meaning: Meaning) -> Area:
    corners = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
    return Area(corners, colour, 1.0, meaning)


def _colour_of(chart: LevelBars, level: str) -> str:
    """The colour of a level's bar: its own, that of all bars, or that of the look."""
    return chart.colours.get(level, chart.colour or usual_colour(chart))


def _said(chart: LevelBars, reading: LevelsReading, index: int) -> str:
    """The number at the end of a bar: its height, its share, or both; of heights that are no
    counts, as usual, the height alone."""
    bar, numbers = reading.bars[index], chart.numbers
    if numbers == "none":
        return ""
    share = f"{100 * bar.share:.1f} %"
    if numbers == "percent":
        return share
    if reading.heights is not None:
        return height_told(reading.heights, bar.height)
    return f"{bar.height:,.0f}" if numbers == "count" else f"{bar.height:,.0f}  ({share})"
