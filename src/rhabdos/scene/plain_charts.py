"""Plain charts on a page: bars of levels with gaps between them, and two numbers as a scatter."""

from collections import Counter
from collections.abc import Iterator, Sequence
from functools import partial

import numpy as np
from msgspec import Struct, structs

from rhabdos.arrays import FloatArray
from rhabdos.data.columns import DateColumn
from rhabdos.data.table import Table
from rhabdos.figure.planning.titles import value_axis_title
from rhabdos.figure.readings.plain_chart_readings import (
    LevelBar,
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
from rhabdos.figure.recipe.plain_charts import LevelBars, PlainChart, Scatter
from rhabdos.figure.recipe.recipe_look import Look
from rhabdos.scene.axes import axes
from rhabdos.scene.axes.limits import Limits
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.marks import Anchor, Area, Dots, Mark, Meaning, Scene, Segments, Text, Zone
from rhabdos.scene.style.lettering import Measure, shortened, wrapped
from rhabdos.scene.style.look import style_of_look
from rhabdos.scene.style.style import Style
from rhabdos.scene.words.label_overlap import cleared
from rhabdos.scene.words.rich import lines_of, marks_of
from rhabdos.wording import exact


def _stands_for_nothing(_name: str) -> None:
    """Of a chart no numbers stand in its words."""


_SCATTER_SIZE = Size(16.0, 12.0, "cm")
_PAD = 12.0  # points around a chart
_TITLE, _TOLD = 12.0, 7.5  # points
_NAMES_SHARE = 0.3  # of the page's width, that names of levels may take
_ROW, _LEAST_ROW = 23.0, 9.0  # points from bar to bar, as usual and where there are many
_BAR_SHARE = 0.7  # of a row that its bar fills
_LEVEL_COLOUR = "#95826A"
_SIDE_SHARE = 0.16  # of the page, for the distribution along a side
_LEAST_WIDE, _LEAST_HIGH = 0.35, 0.3  # of the page, that what is drawn has
_SMALLER = (1.5, 2.0, 3.0, 5.0, 8.0)  # times smaller than usual, letters of pages too small for any
_ROOM = 0.04  # of the range of values, on both sides of them


def chart_scene(
    chart: PlainChart, table: Table, measure: Measure, size: Size | None = None
) -> Scene:
    """A chart of a table on its page: of its own size, unless another is given.

    Raises
    ------
    Refusal
        The table does not have what it draws.
    """
    size = size or chart_size(chart, table)
    if isinstance(chart, LevelBars):
        draw = partial(_levels_scene, chart, levels_reading(chart, table), measure)
    else:
        draw = partial(_scatter_scene, chart, scatter_reading(chart, table), measure)
    words = chart_sentence(chart, table)
    tried = []
    for paper in _papers(size):
        tried.append(draw(paper))
        if _has_room(tried[-1]):
            break
    scene = tried[-1]
    kept, gone = cleared(scene.marks, scene.width, scene.height, scene.frames, measure)
    lost = (*scene.left_out, *_lost(tried[0].marks, kept), *gone)
    return structs.replace(
        scene, marks=tuple(kept), left_out=tuple(dict.fromkeys(lost)), describe=lambda: words
    )


def _lost(wanted: Sequence[Mark], kept: Sequence[Mark]) -> list[str]:
    """The parts of which words, or of levels some words, are not there any more."""
    before, after = (
        Counter(mark.meaning.part for mark in marks if isinstance(mark, Text) and mark.meaning)
        for marks in (wanted, kept)
    )
    return [
        part
        for part in before
        if not after[part] or (part == "levels" and after[part] < before[part])
    ]


class _Paper(Struct, frozen=True):
    """A page, and how sparing with words it is: more so where it is too small for all of them.

    Attributes
    ----------
    width, height : float
        In units of ``letters`` points.
    lines : int
        That the title and the note may take each.
    """

    width: float
    height: float
    letters: float = 1.0
    lines: int = 99
    note: bool = True
    numbers: bool = True
    axis_titles: bool = True
    title: bool = True
    names: float = _NAMES_SHARE


def _papers(size: Size) -> Iterator[_Paper]:
    """The page with all words, with fewer and fewer, and last with letters that are smaller."""
    whole = _Paper(*size.points())
    yield whole
    yield (short := structs.replace(whole, lines=2))
    yield (few := structs.replace(short, lines=1, note=False))
    yield (fewer := structs.replace(few, axis_titles=False, names=_NAMES_SHARE * 0.8))
    yield (bare := structs.replace(fewer, numbers=False, title=False))
    for times in _SMALLER:
        yield structs.replace(
            bare, width=whole.width * times, height=whole.height * times, letters=1 / times
        )


def _has_room(scene: Scene) -> bool:
    """Whether what is drawn has a fair share of its page."""
    (frame,) = scene.frames
    wide, high = frame.right - frame.left, frame.bottom - frame.top
    return wide >= _LEAST_WIDE * scene.width and high >= _LEAST_HIGH * scene.height


class _Sheet(Struct, frozen=True, eq=False):
    """A page with its title and its note, and the room that these leave."""

    paper: _Paper
    style: Style
    marks: tuple[Mark, ...]
    top: float
    bottom: float
    left_out: tuple[str, ...]

    @property
    def width(self) -> float:
        """Of the page."""
        return self.paper.width

    @property
    def height(self) -> float:
        """Of the page."""
        return self.paper.height

    def titled(self, text: str | None, usual: str, room: float, measure: Measure) -> list[str]:
        """The lines of the title of an axis; none where it is taken off, or has no room."""
        words = usual if text is None else text
        if not words or not self.paper.axis_titles or room <= 0:
            return []
        return wrapped(words, room, axes.TITLE_SIZE, False, measure, 2)

    def scene(self, marks: Sequence[Mark], zones: Sequence[Zone], frame: Frame) -> Scene:
        """The page with what is drawn on it."""
        style = self.style
        ground = [axes.ground(frame, style)] if style.ground else []
        return Scene(
            self.width,
            self.height,
            (*ground, *self.marks, *marks),
            tuple(zones),
            (frame,),
            lambda: "",
            style.paper,
            style.font,
            self.paper.letters,
            left_out=self.left_out,
        )


def _sheet(chart: PlainChart, paper: _Paper, title: str, told: str, measure: Measure) -> _Sheet:
    """A page with the words that a chart has above and under it.

    Parameters
    ----------
    title : str
        What stands above where nothing else is asked for.
    told : str
        What is to be said under it of the data.
    """
    style = style_of_look(Look(base=chart.base))
    room, face = paper.width - 2 * _PAD, style.face("title", size=_TITLE)
    marks: list[Mark] = []
    left_out: list[str] = []
    top = _PAD
    text = title if chart.title is None else chart.title
    lines = lines_of(text, room, face, measure, _stands_for_nothing)
    shown = lines[: paper.lines] if paper.title else []
    if len(shown) < len(lines):
        left_out.append("title")
    for line in shown:
        top += _TITLE + 3
        marks += marks_of(line, _PAD, top - 4, "start", face, Meaning("title"), measure)
    top += 6 if marks else 0
    bottom = paper.height - _PAD
    if told and paper.note and measure(told, _TOLD, False) <= room:
        right = paper.width - _PAD
        marks.append(Text(right, bottom + 2, told, _TOLD, "end", style.quiet, Meaning("note")))
        bottom -= axes.TITLE_ROW
    note = style.face("note")
    lines = lines_of(chart.note or "", room, note, measure, _stands_for_nothing)
    shown = lines[: paper.lines] if paper.note else []
    if len(shown) < len(lines):
        left_out.append("own-note")
    for line in reversed(shown):
        marks += marks_of(line, _PAD, bottom, "start", note, Meaning("own-note"), measure)
        bottom -= note.row
    bottom -= 4 if shown else 0
    return _Sheet(paper, style, tuple(marks), top, bottom, tuple(left_out))


def _levels_scene(
    chart: LevelBars, reading: LevelsReading, measure: Measure, paper: _Paper
) -> Scene:
    """Bars with gaps between them, one a level, with their names at their feet and their numbers at
    their ends."""
    bars = reading.bars
    title = value_axis_title(reading.variable.label, "")
    sheet = _sheet(chart, paper, title, levels_note(reading), measure)
    numbers = [_said(chart, reading, place) if paper.numbers else "" for place in range(len(bars))]
    draw = _standing if chart.upright else _lying
    return draw(chart, reading, numbers, sheet, measure)


def _lying(
    chart: LevelBars,
    reading: LevelsReading,
    numbers: Sequence[str],
    sheet: _Sheet,
    measure: Measure,
) -> Scene:
    bars, style, width = reading.bars, sheet.style, sheet.width
    right = width - _PAD - _widest(numbers, measure) - 8
    names = min(_widest([bar.level for bar in bars], measure), width * sheet.paper.names)
    deepest = 3 * axes.TITLE_ROW + axes.TICK_SIZE + 6  # what stands under the frame, at most
    high = sheet.bottom - sheet.top - deepest
    of_names = sheet.titled(chart.value_axis, "", high, measure)
    left = _PAD + len(of_names) * axes.TITLE_ROW + names + 8
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
    marks += axes.left_title(of_names, _PAD, across, Meaning("value-title"), style)
    frame = Frame(left, top, right, bottom, 0.0, end, sheet.height)
    return sheet.scene([mark for mark in marks if not _silent(mark)], zones, frame)


def _standing(
    chart: LevelBars,
    reading: LevelsReading,
    numbers: Sequence[str],
    sheet: _Sheet,
    measure: Measure,
) -> Scene:
    bars, style, width = reading.bars, sheet.style, sheet.width
    top = sheet.top + axes.TICK_SIZE + 4
    below = sheet.titled(chart.value_axis, "", width * 0.8, measure)
    names = [bar.level for bar in bars]
    deepest = min(_widest(names, measure), sheet.height * sheet.paper.names)
    under = len(below) * axes.TITLE_ROW + max(deepest, axes.TICK_SIZE) + axes.TICK + 8
    high = sheet.bottom - top - under
    of_heights = sheet.titled(chart.height_axis, height_words(reading), high, measure)
    # The room of numbers beside the axis is known once its ticks are; they hardly differ.
    scale = _heights(bars, sheet.bottom - top)
    labels = _widest(scale.ticks.labels, measure)
    left = _PAD + len(of_heights) * axes.TITLE_ROW + labels + axes.TICK + axes.LABEL_GAP + 4
    right = width - _PAD
    column = (right - left) / max(1, len(bars))
    turned = _widest(names, measure) > column - 4
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
        aside = middle + size * 0.34 if turned else middle
        base = bottom + axes.TICK + (2 if turned else size + 1)
        anchor: Anchor = "end" if turned else "middle"
        angle = 90.0 if turned else 0.0
        marks.append(Text(aside, base, names[place], size, anchor, style.ink, meaning, angle=angle))
        zones.append(Zone(x, top, x + column, sheet.bottom, meaning))
    line = [[left, bottom, right, bottom], [left, ys[-1], left, bottom]]
    at_left = [[left - axes.TICK, y, left, y] for y in ys]
    lines = np.array([*line, *at_left])
    marks.append(Segments(lines, style.ink, style.axis_line, 1.0, Meaning("value-axis")))
    face = style.face("numbers")
    marks += axes.left_labels(ys, ticks.labels, left, Meaning("height-axis"), face)
    across = (top + bottom) / 2
    marks += axes.left_title(of_heights, _PAD, across, Meaning("height-title"), style)
    middle = (left + right) / 2
    marks += axes.bottom_title(below, middle, sheet.bottom, Meaning("value-title"), style)
    frame = Frame(left, top, right, bottom, 0.0, end, sheet.height)
    return sheet.scene([mark for mark in marks if not _silent(mark)], zones, frame)


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


def _widest(texts: Sequence[str], measure: Measure) -> float:
    return max((measure(text, axes.TICK_SIZE, False) for text in texts), default=0.0)


def usual_colour(chart: PlainChart) -> str:
    """The colour of bars and dots that no other is given for."""
    if isinstance(chart, LevelBars) and chart.base == "house":
        return _LEVEL_COLOUR
    return style_of_look(Look(base=chart.base)).colours(1)[0]


def chart_size(chart: PlainChart, table: Table) -> Size:
    """How large a chart is that no other size is given for."""
    if chart.page is not None:
        return chart.page
    if isinstance(chart, LevelBars):
        return _usual_size(chart, levels_reading(chart, table))
    return _SCATTER_SIZE


def _usual_size(chart: LevelBars, reading: LevelsReading) -> Size:
    """As high as lying bars need with the words about them."""
    if chart.upright:
        return Size(16.0, 10.0, "cm")
    words = sum(0.5 for text in (chart.note, levels_note(reading)) if text)
    height = min(24.0, max(5.0, 2.9 + len(reading.bars) * _ROW / 28.35) + words)
    return Size(16.0, round(height, 1), "cm")


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
        return exact(bar.height)
    return f"{bar.height:,.0f}" if numbers == "count" else f"{bar.height:,.0f}  ({share})"


def _scatter_scene(
    chart: Scatter, reading: ScatterReading, measure: Measure, paper: _Paper
) -> Scene:
    """A dot a row, with the distribution of one number above and of the other at the right."""
    told = f"n = {len(reading.rows):,}"
    if reading.lacking:
        told += f"; {reading.lacking:,} rows lack one of them"
    sheet = _sheet(chart, paper, "", told, measure)
    width, height, style = sheet.width, sheet.height, sheet.style
    colour = chart.colour or usual_colour(chart)
    lows_highs = [_reach(side) for side in (reading.x, reading.y)]
    side_height, side_width = height * _SIDE_SHARE, width * _SIDE_SHARE
    top = sheet.top + side_height + 6
    right = width - _PAD - side_width - 6
    x_title = sheet.titled(chart.value_axis, _title(reading.x), right - 60, measure)
    foot = sheet.bottom
    beside = right / 2 + 30 + _widest(x_title, measure) < width - _PAD - measure(told, _TOLD, False)
    if beside and not chart.note and len(x_title) == 1:
        foot += axes.TITLE_ROW - 2  # the number of rows stands beside the title
    bottom = foot - max(1, len(x_title)) * axes.TITLE_ROW - axes.TITLE_ROW - axes.TICK_SIZE
    y_title = sheet.titled(chart.height_axis, _title(reading.y), bottom - top, measure)
    whole = [bool(np.all(s.values == np.round(s.values))) for s in (reading.x, reading.y)]
    dates = [isinstance(s.variable, DateColumn) for s in (reading.x, reading.y)]
    y_ticks = axes.value_ticks(
        Limits(*lows_highs[1]), bottom - top, True, whole[1], measure, dates[1]
    )
    left = _PAD + len(y_title) * axes.TITLE_ROW + _widest(y_ticks.labels, measure)
    left += axes.TICK + axes.LABEL_GAP + 4
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
        *axes.left_title(y_title, _PAD, (top + bottom) / 2, Meaning("height-title"), style),
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
    alongs = frame.alongs(side.edges.copy())
    steps = np.repeat(alongs, 2)
    heights = np.concatenate([[0.0], np.repeat(side.counts / most * reach, 2), [0.0]])
    across = base + heights
    if upright:
        points = np.stack([across, page_height - steps], axis=1)
    else:
        points = np.stack([steps, across], axis=1)
    return [Area(points, colour, 0.45, Meaning("scatter"))]
