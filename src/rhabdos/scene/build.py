"""Lay readings out on a page."""

import math
from dataclasses import dataclass

import numpy as np

from rhabdos.figure.page import Size
from rhabdos.figure.readings import Readings
from rhabdos.figure.sentence import plain
from rhabdos.figure.wording import height_axis_title, value_axis_title
from rhabdos.scene import legend
from rhabdos.scene.bars import bars
from rhabdos.scene.marks import Frame, Mark, Meaning, Scene, Segments, Text, Zone
from rhabdos.scene.palette import HAIRLINE, INK, QUIET, group_colours
from rhabdos.scene.text import Measure, wrapped
from rhabdos.scene.ticks import Ticks, ticks, ticks_by
from rhabdos.stats.rounding import round_steps

TITLE_SIZE, AXIS_SIZE, TICK_SIZE = 12.5, 9.0, 8.5
_TITLE_ROW, _AXIS_ROW = 15.0, 11.5
_PAD = 9.0
_TICK = 3.5
_ROOM_ABOVE = 1.02  # the axis reaches at least this much beyond the tallest bar …
_MOST_ROOM_ABOVE = 1.25  # … and to the next tick only if that is no further than this


@dataclass(frozen=True)
class Limits:
    """Where the value axis begins and ends, in the variable's unit."""

    low: float
    high: float


def limits_of(readings: Readings) -> Limits:
    """The limits that show every bin."""
    return Limits(readings.edges.low, readings.edges.high)


def build(
    readings: Readings, measure: Measure, limits: Limits | None = None, size: Size | None = None, dpi: float = 96.0
) -> Scene:
    """Lay out a figure.

    Parameters
    ----------
    measure : callable
        Tells how wide a text is.
    limits : Limits, optional
        Of the value axis; bins beyond are cut at the frame. By default every bin is shown.
    size : Size, optional
        Instead of the recipe's page; pixels are taken at ``dpi``.
    """
    width, height = (size or Size.parse(readings.recipe.page.size)).points(dpi)
    colours = group_colours(len(readings.groups))
    marks: list[Mark] = []
    zones: list[Zone] = []
    limits = limits or limits_of(readings)

    top_ticks, tallest = _height_ticks(readings, height)
    label_width = max(measure(text, TICK_SIZE, False) for text in top_ticks.labels)
    value_lines, height_lines = _axis_titles(readings, width, height, measure)
    left = _PAD + len(height_lines) * _AXIS_ROW + (4 if height_lines else 0) + label_width + _TICK + 3
    right = width - _PAD - 6
    bottom = height - _PAD - len(value_lines) * _AXIS_ROW - (2 if value_lines else 0) - TICK_SIZE - _TICK - 4

    top = _heading(readings, colours, left, right, measure, marks, zones)
    frame = Frame(left, min(top, bottom - 20), right, bottom, limits.low, limits.high, tallest)
    marks += _grid(frame, top_ticks)
    lines: list[Mark] = []
    for group, reading in enumerate(readings.groups):
        if reading.n:
            filled, lined = bars(frame, readings.edges.values, reading.heights, colours[group], group, len(colours))
            marks += filled
            lines += lined
    marks += lines
    marks += _axes(frame, top_ticks, measure, readings.samples.pooled.whole)
    marks += _titles(frame, value_lines, height_lines, height)
    zones += [
        Zone(frame.left, frame.top, frame.right, frame.bottom, Meaning("bars")),
        Zone(0, frame.top, frame.left, frame.bottom, Meaning("height-axis")),
        Zone(frame.left, frame.bottom, frame.right, height, Meaning("value-axis")),
    ]
    return Scene(width, height, tuple(marks), tuple(zones), frame, plain(readings))


def _height_ticks(readings: Readings, page_height: float) -> tuple[Ticks, float]:
    """Ticks of the height axis, and where it ends: at a tick above the tallest bar."""
    reach = (readings.tallest or 1.0) * _ROOM_ABOVE
    most = max(2, min(8, int(page_height / 42)))
    step = next(step for step in round_steps(reach / most, reach * 10, readings.scale == "count"))
    next_tick = step * math.ceil(reach / step)
    top = next_tick if next_tick <= _MOST_ROOM_ABOVE * reach else reach
    return ticks_by(0.0, top, step), top


def _axis_titles(readings: Readings, width: float, height: float, measure: Measure) -> tuple[list[str], list[str]]:
    words, variable = readings.recipe.words, readings.variable
    value = value_axis_title(variable.label, variable.unit) if words.value_axis is None else words.value_axis
    split = readings.split.label if readings.split else None
    heights = words.height_axis
    if heights is None:
        heights = height_axis_title(readings.scale, readings.recipe.show.of, split, variable.unit)
    value_lines = wrapped(value, width * 0.8, AXIS_SIZE, False, measure) if value else []
    height_lines = wrapped(heights, height * 0.7, AXIS_SIZE, False, measure) if heights else []
    return value_lines, height_lines


def _heading(
    readings: Readings,
    colours: tuple[str, ...],
    left: float,
    right: float,
    measure: Measure,
    marks: list[Mark],
    zones: list[Zone],
) -> float:
    """Place title and legend; returns where the frame may begin."""
    room = right - left
    title = readings.recipe.words.title or ""
    y = _PAD
    title_width = measure(title, TITLE_SIZE, True)
    labels = [group.label for group in readings.groups]
    sizes = [group.n for group in readings.groups]
    entries = legend.entries(labels, sizes, colours, room, measure) if readings.split else []
    rows = legend.rows(entries, room) if entries else []
    beside = len(rows) == 1 and bool(title) and title_width + 24 + legend.width(rows[0]) <= room
    lines = wrapped(title, room, TITLE_SIZE, True, measure) if title else []
    for line in lines:
        y += _TITLE_ROW
        marks.append(Text(left, y - 3.5, line, TITLE_SIZE, "start", INK, Meaning("title"), bold=True))
    if lines:
        zones.append(Zone(0, 0, left + title_width if beside else right, y, Meaning("title")))
    if beside:
        start = right - legend.width(rows[0])
        marks += legend.marks(rows[0], start, y - 3.5)
        zones.append(Zone(start, 0, right, y, Meaning("legend")))
    elif rows:
        above = y
        y += 2 if lines else 0
        for row in rows:
            y += legend.ROW
            marks += legend.marks(row, left, y - 3)
        zones.append(Zone(left, above, right, y, Meaning("legend")))
    if not readings.split:
        size = f"n = {readings.groups[0].n:,}"
        free = title_width + 12 + measure(size, legend.SIZE, False) <= room
        if not lines or not free:
            y += legend.ROW
        marks.append(Text(right, y - 3.5, size, legend.SIZE, "end", QUIET, Meaning("note")))
    return y + 8


def _grid(frame: Frame, height_ticks: Ticks) -> list[Mark]:
    levels = frame.ys(np.array([place for place in height_ticks.places if place > 0]))
    lines = np.column_stack([np.full(len(levels), frame.left), levels, np.full(len(levels), frame.right), levels])
    return [Segments(lines, HAIRLINE, 0.6, 1.0, None)]


def _axes(frame: Frame, height_ticks: Ticks, measure: Measure, whole: bool) -> list[Mark]:
    marks: list[Mark] = []
    meaning = Meaning("height-axis")
    levels = frame.ys(np.array(height_ticks.places))
    for y, text in zip(levels.tolist(), height_ticks.labels, strict=True):
        marks.append(Text(frame.left - _TICK - 3, y + TICK_SIZE * 0.33, text, TICK_SIZE, "end", INK, meaning))

    def fits(made: Ticks, step: float) -> bool:
        apart = step / (frame.high - frame.low) * (frame.right - frame.left)
        return all(measure(text, TICK_SIZE, False) + 9 <= apart for text in made.labels)

    meaning = Meaning("value-axis")
    value_ticks = ticks(frame.low, frame.high, fits, whole)
    xs = frame.xs(np.array(value_ticks.places))
    base = frame.bottom
    lines = [[frame.left, base, frame.right, base], *([x, base, x, base + _TICK] for x in xs.tolist())]
    marks.append(Segments(np.array(lines), INK, 0.8, 1.0, meaning))
    for x, text in zip(xs.tolist(), value_ticks.labels, strict=True):
        marks.append(Text(x, base + _TICK + TICK_SIZE + 1, text, TICK_SIZE, "middle", INK, meaning))
    return marks


def _titles(frame: Frame, value_lines: list[str], height_lines: list[str], height: float) -> list[Mark]:
    marks: list[Mark] = []
    middle = (frame.left + frame.right) / 2
    y = height - _PAD - (len(value_lines) - 1) * _AXIS_ROW
    for line in value_lines:
        marks.append(Text(middle, y, line, AXIS_SIZE, "middle", INK, Meaning("value-axis")))
        y += _AXIS_ROW
    x = _PAD + AXIS_SIZE - 1
    for line in height_lines:
        marks.append(
            Text(x, (frame.top + frame.bottom) / 2, line, AXIS_SIZE, "middle", INK, Meaning("height-axis"), angle=90)
        )
        x += _AXIS_ROW
    return marks
