"""Lay readings out on a page."""

from collections.abc import Sequence
from functools import partial

import numpy as np
from msgspec import Struct, structs

from rhabdos.figure.forms import FORMS
from rhabdos.figure.page import Size
from rhabdos.figure.readings import Readings
from rhabdos.figure.sentence import plain
from rhabdos.scene import axes, heads, labels, legend, legends
from rhabdos.scene.centres import Centre, centre_marks, in_rows, rows_height, words_width
from rhabdos.scene.forms import scene_form
from rhabdos.scene.forms.form import Drawing
from rhabdos.scene.grid import Box, Cell, Margins, laid_out, page_size
from rhabdos.scene.heading import Heading, heading
from rhabdos.scene.lanes import lay_lanes
from rhabdos.scene.limits import Limits, limits_of
from rhabdos.scene.marks import Mark, Meaning, Scene, Segments, Text, Zone
from rhabdos.scene.names import Rect, rect_of
from rhabdos.scene.page import Page
from rhabdos.scene.plane import Frame
from rhabdos.scene.style import HOUSE, Style
from rhabdos.scene.text import Measure
from rhabdos.scene.ticks import Ticks

_PAD = 9.0
_RIGHT = _PAD + 6
_LEAST_FRAME = 20.0
_LEAST_ROOM = 14.0  # points of a frame, under which words give way
_MOST_SPARING = 2
_NAMES = (1.0, 0.6, 0.4)  # how much of their usual room names of lanes may have
_MOST_LEGEND = 0.25  # of the paper's height, that a legend over the frame takes
_NOTE, _NOTE_ROW = 7.5, 10.0
_APART = 2.0  # points between labels of neighbouring panels
_NO_VALUES = 7.5
_NEIGHBOURS = 24  # labels of panels before, with which one may collide


def build(
    readings: Readings,
    measure: Measure,
    limits: tuple[Limits, ...] | None = None,
    size: Size | None = None,
    dpi: float = 96.0,
    style: Style = HOUSE,
) -> Scene:
    """Lay out a figure.

    Parameters
    ----------
    measure : callable
        Tells how wide a text is.
    limits : tuple of Limits, optional
        Of the value axis of each panel; what lies beyond is cut at the frame. By default all of
        every form is shown.
    size : Size, optional
        Instead of the recipe's page; pixels are taken at ``dpi``.
    style : Style
        Colours and widths.
    """
    width, height = (size or page_size(readings)).points(dpi)
    page = Page(readings, width, height, limits or limits_of(readings), measure, style)
    if legend.place_of(readings) != "lines":
        return _built(page, legends.placed(readings, style))
    scene = _built(page, legends.placed(readings, style, "none"))
    written = legends.at_lines(readings, scene, page)
    if written is None:  # some line has no room for its name
        return _built(page, legends.placed(readings, style, "above"))
    marks, zones = written
    return structs.replace(scene, marks=(*scene.marks, *marks), zones=(*scene.zones, *zones))


class _Layout(Struct, frozen=True, eq=False):
    """Where everything stands, before any mark is made.

    Attributes
    ----------
    above : Heading
        Title and legend.
    under : list of list of Entry
        The rows of a legend below.
    names : LaneNames
        Beside lying lanes, or under standing ones.
    beside : float
        The room for numbers at the right of each frame.
    room : Box
        Of all panels with their labels.
    frames : tuple of Frame
        One a panel, without lanes.
    lines : tuple of Centre
        With rows for words beyond the frame, where they stand there.
    """

    above: Heading
    under: list[list[legend.Entry]]
    names: labels.LaneNames
    beside: float
    room: Box
    frames: tuple[Frame, ...]
    lines: tuple[Centre, ...]

    @property
    def cramped(self) -> bool:
        """Whether the frames have too little room."""
        frame = self.frames[0]
        return min(frame.right - frame.left, frame.bottom - frame.top) < _LEAST_ROOM


def _settled(page: Page, place: legends.Placed) -> tuple[Page, _Layout]:
    """The page with as many words as leave its frames room, and where everything stands on it."""
    layout = _layout(page, place)
    while page.spare < _MOST_SPARING and not page.alone and layout.cramped:
        page = structs.replace(page, spare=page.spare + 1)
        layout = _layout(page, place)
    return page, layout


def _layout(page: Page, place: legends.Placed) -> _Layout:
    """Find room for what stands around the frames; they get what is left."""
    readings, measure, width, height = page.readings, page.measure, page.width, page.height
    left = _PAD + (len(page.left_title) * axes.TITLE_ROW + 4 if page.left_title else 0.0)
    right = width - _RIGHT - place.width_right(page)
    lines = page.centres(0) if page.words_beyond else ()
    if page.upright:
        right -= words_width(lines, measure)
    under = place.rows_below(page, right - left)
    below = len(page.bottom_title) * axes.TITLE_ROW + 2 if page.bottom_title else 0.0
    bottom = height - _PAD - _NOTE_ROW * len(page.noted) - legend.ROW * len(under) - below
    top, names, beside = _PAD, labels.LaneNames(), 0.0
    for _ in range(2):  # names are as large as their lanes, and lanes begin where the heading ends
        room = Box(left, top, right, bottom)
        first = laid_out(page.grid, room, _margins(page, labels.LaneNames(), 0.0), _LEAST_FRAME)[0]
        deep, wide = first.bottom - first.top, first.right - first.left
        if page.upright:
            most = height * _NAMES[page.spare]
            names = labels.at_bottom(readings.plan, readings.groups, wide, most, measure)
        else:
            most = width * _NAMES[page.spare]
            names = labels.at_left(readings.plan, readings.groups, most, deep, measure)
            beside = labels.written_width(readings, deep, width / page.grid.columns, measure)
        margins = _margins(page, names, beside)
        above = _heading(page, place, left + margins[0].left, right - margins[0].right)
        settled, top = above.bottom == top, above.bottom
        if settled:
            break
    if lines and not page.upright:
        limits, margin = page.limits[0], margins[0]
        ends = left + margin.left, right - margin.right
        lines = in_rows(lines, *ends, limits.low, limits.high, measure)
        top += rows_height(lines)
    top = min(top + heads.columns_height(readings, page.spare), bottom - _LEAST_FRAME)
    room = Box(left, top, right, bottom)
    boxes = laid_out(page.grid, room, margins, _LEAST_FRAME)
    both = zip(page.grid.cells, boxes, strict=True)
    frames = tuple(_bare(page, cell, box) for cell, box in both)
    return _Layout(above, under, names, beside, room, frames, lines)


def _margins(page: Page, names: labels.LaneNames, beside: float) -> tuple[Margins, ...]:
    """The room for labels around each panel."""
    grid, top = page.grid, heads.height(page.readings, page.spare)
    answers = []
    for cell in grid.cells:
        ticks = page.heights[cell.panel][0].labels if cell.heights else ()
        if page.upright:
            of_names = names.height if grid.ends_column(cell) else 0.0
            of_ticks = axes.TICK_SIZE + axes.TICK + 2 if ticks else 0.0
            at_left = _value_labels_width(page, cell) if cell.values else 0.0
            above = top + labels.written_height(page.readings)
            answers.append(Margins(at_left, above, 0.0, of_names + of_ticks + 2))
        else:
            of_names = names.width if cell.column == 0 else 0.0
            of_ticks = _widest(ticks, page) + axes.TICK + axes.LABEL_GAP if ticks else 0.0
            under = axes.TICK_SIZE + axes.TICK + 4 if cell.values else 0.0
            answers.append(Margins(of_names + of_ticks, top, beside, under))
    return tuple(answers)


def _value_labels_width(page: Page, cell: Cell) -> float:
    """The room for labels of a standing axis, whose length is not known yet."""
    shares = (0.7,) if page.alone else (0.4, 0.55, 0.7, 0.85)
    each = page.height / page.grid.rows
    labels_of = (page.value_ticks(cell.panel, share * each).labels for share in shares)
    return max(_widest(texts, page) for texts in labels_of) + axes.TICK + axes.LABEL_GAP


def _widest(texts: Sequence[str], page: Page) -> float:
    return max((page.measure(text, axes.TICK_SIZE, False) for text in texts), default=0.0)


def _heading(page: Page, place: legends.Placed, left: float, right: float) -> Heading:
    readings = page.readings
    rows = max(1, int(page.height * _MOST_LEGEND / legend.ROW))
    levels = place.levels if place.where == "above" else ()
    size = readings.groups[0].n if len(readings.groups) == 1 else None
    title = readings.recipe.words.title or ""
    return heading(
        title, place.title, levels, size, left, right, _PAD, rows, page.measure, page.style
    )


def _bare(page: Page, cell: Cell, box: Box) -> Frame:
    """The frame of a panel, without its lanes."""
    limits = page.limits[cell.panel]
    return Frame(
        box.left,
        box.top,
        box.right,
        box.bottom,
        limits.low,
        limits.high,
        page.height,
        page.upright,
        (),
        cell.panel,
    )


def _with_lanes(page: Page, bare: Frame) -> Frame:
    plan, tallest = page.readings.plan, page.heights[bare.panel][1]
    lanes = lay_lanes(plan, plan.panels[bare.panel], bare.first, bare.last, tallest)
    return structs.replace(bare, lanes=lanes)


def _built(page: Page, place: legends.Placed) -> Scene:
    """Lay a figure out, and make its marks: frame by frame, then what stands around them."""
    page, layout = _settled(page, place)
    readings, style = page.readings, page.style
    frames = tuple(_with_lanes(page, bare) for bare in layout.frames)
    ticks = tuple(page.value_ticks(bare.panel, bare.end - bare.start) for bare in layout.frames)
    marks: list[Mark] = [*layout.above.marks]
    zones: list[Zone] = [*_axis_zones(page, frames), *layout.above.zones]
    for bare, frame, at in zip(layout.frames, frames, ticks, strict=True):
        marks += _panel_marks(page, frame, at, layout.lines)
        marks.append(axes.value_line(bare, at, style))
        zones += _panel_zones(page, frame)
    marks += _titles(page, frames, len(layout.under))
    marks += _tick_labels(page, frames, ticks)
    marks += _names(page, frames, layout)
    if page.spare < _MOST_SPARING:
        lift = labels.written_height(readings) if page.upright else 0.0
        marks += heads.marks(readings, page.grid, frames, layout.room, lift, page.measure, style)
        zones += heads.zones(readings, page.grid, frames, lift)
    foot = page.height - _PAD - _NOTE_ROW * len(page.noted)
    of_legend, legend_zones = place.drawn(page, frames, layout.under, layout.room.left, foot)
    marks += of_legend
    zones += legend_zones
    marks += _note(page, marks)
    describe = partial(plain, readings)
    return Scene(page.width, page.height, tuple(marks), tuple(zones), frames, describe)


def _panel_marks(page: Page, frame: Frame, at: Ticks, lines: tuple[Centre, ...]) -> list[Mark]:
    """What is in a frame: its grid, its forms, and lines at means and medians."""
    readings, style, measure = page.readings, page.style, page.measure
    panel = readings.plan.panels[frame.panel]
    if not any(readings.groups[group].n for group in panel.groups):
        return _nothing(page, frame)
    beyond = page.words_beyond
    lines = lines if beyond else page.centres(frame.panel)
    centred = centre_marks(
        lines, frame, page.width - 2, beyond, page.alone, page.colours, measure, style
    )
    edge = [] if page.alone else [axes.outline(frame, style)]
    ticks = page.heights[frame.panel][0]
    return [
        *_grid(page, frame, at, ticks),
        *edge,
        *drawn(page, frame, centred),
        *centred,
    ]


def _nothing(page: Page, frame: Frame) -> list[Mark]:
    """A panel that no row is in says so."""
    panel = page.readings.plan.panels[frame.panel]
    rows = sum(page.readings.groups[group].missing for group in panel.groups)
    text = "no values" if rows else "no rows"
    x, y = (frame.left + frame.right) / 2, (frame.top + frame.bottom) / 2 + 2.5
    style = page.style
    size = min(_NO_VALUES, 0.9 * _NO_VALUES * (frame.right - frame.left) / 30)
    return [
        axes.outline(frame, style),
        Text(x, y, text, size, "middle", style.quiet, Meaning("panel")),
    ]


def _grid(page: Page, frame: Frame, at: Ticks, ticks: Ticks) -> list[Mark]:
    """Hairlines at heights where there is one band of them, and else at values."""
    style, marks = page.style, []
    bands = [heights.band for lane in frame.lanes for heights in lane.heights]
    single = len(frame.lanes) == 1 and page.readings.plan.arrange != "lanes"
    if not single or not ticks.labels:
        marks.append(axes.grid_along(frame, at.places, style))
    for band in bands:
        if single:
            levels = [band.at(place) for place in ticks.places if place > 0]
            marks.append(axes.grid_across(frame, levels, style))
        if len(bands) > 1 or frame.lanes[0].strips:
            base = np.array([band.base])
            line = frame.lines(np.array([frame.start]), base, np.array([frame.end]), base)
            marks.append(Segments(line, style.quiet, style.grid_line, 1.0, None))
    return list(marks)


def drawn(page: Page, frame: Frame, centred: Sequence[Mark] = ()) -> list[Mark]:
    """Lane by lane the fills of all groups, then the lines of all, form upon form.

    No word lies over those of ``centred``.
    """
    plan, drawing = page.readings.plan, _drawing(page, frame)
    words = (mark for mark in centred if isinstance(mark, Text))
    taken = tuple(rect_of(word, page.measure) for word in words)
    drawing = structs.replace(drawing, taken=taken) if taken else drawing
    marks: list[Mark] = []
    for lane in frame.lanes:
        bands = [(form, of.band, of.groups) for form in plan.heights for of in lane.heights]
        bands += [(strip.form, strip.band, (strip.group,)) for strip in lane.strips]
        layers = [scene_form(form).layers(drawing, band, groups) for form, band, groups in bands]
        marks += [mark for fills, _ in layers for mark in fills]
        marks += [mark for _, lines in layers for mark in lines]
    return marks


def _drawing(page: Page, frame: Frame) -> Drawing:
    style = page.style
    inks = tuple(style.ink if group.forward else style.receded for group in page.readings.groups)
    return Drawing(page.readings, frame, style, page.colours, inks, page.measure)


# Around the frames


def _titles(page: Page, frames: Sequence[Frame], under: int) -> list[Mark]:
    """The titles of both axes, once for all panels; so many rows of a legend stand below."""
    left, right = min(f.left for f in frames), max(f.right for f in frames)
    top, bottom = min(f.top for f in frames), max(f.bottom for f in frames)
    value, height = Meaning("value-axis"), Meaning("height-axis")
    at_left, at_bottom = (value, height) if page.upright else (height, value)
    base = page.height - _PAD - _NOTE_ROW * len(page.noted) - legend.ROW * under
    return [
        *axes.left_title(page.left_title, _PAD, (top + bottom) / 2, at_left, page.style),
        *axes.bottom_title(page.bottom_title, (left + right) / 2, base, at_bottom, page.style),
    ]


def _tick_labels(page: Page, frames: Sequence[Frame], at: Sequence[Ticks]) -> list[Mark]:
    """The labels of ticks where a panel has its own, or none of its neighbours has the same.

    Of labels of neighbouring panels that would touch, the later one is left out.
    """
    marks: list[Mark] = []
    lines: dict[tuple[str, int], list[Rect]] = {}
    value, height = Meaning("value-axis"), Meaning("height-axis")
    for cell, frame, ticks in zip(page.grid.cells, frames, at, strict=True):
        row, column = ("row", cell.row), ("column", cell.column)
        if cell.values:
            alongs = frame.alongs(np.array(ticks.places)).tolist() if ticks.places else []
            if page.upright:
                ys = [frame.page_height - along for along in alongs]
                made = axes.left_labels(ys, ticks.labels, frame.left, value, page.style)
            else:
                made = axes.bottom_labels(alongs, ticks.labels, frame.bottom, value, page.style)
            marks += _clear_of(made, lines.setdefault(column if page.upright else row, []), page)
        of_heights = page.heights[frame.panel][0]
        if cell.heights and of_heights.labels:
            wide = [page.measure(text, axes.TICK_SIZE, False) + 3 for text in of_heights.labels]
            extents = wide if page.upright else [axes.TICK_SIZE * 1.1] * len(wide)
            levels, texts = _apart(frame, of_heights, extents)
            if page.upright:
                made = axes.bottom_labels(levels, texts, frame.bottom, height, page.style)
            else:
                made = axes.left_labels(levels, texts, frame.left, height, page.style)
            marks += _clear_of(made, lines.setdefault(row if page.upright else column, []), page)
    return marks


def _clear_of(made: Sequence[Text], taken: list[Rect], page: Page) -> list[Text]:
    """The labels that touch none of the last ones of neighbouring panels."""
    if page.alone:
        return list(made)
    near, kept = taken[-_NEIGHBOURS:], []
    for text in made:
        rect = rect_of(text, page.measure)
        grown = Rect(rect.left - _APART, rect.top, rect.right + _APART, rect.bottom)
        if not any(grown.meets(other) for other in near):
            kept.append(text)
            taken.append(rect)
    return kept


def _apart(frame: Frame, ticks: Ticks, extents: Sequence[float]) -> tuple[list[float], list[str]]:
    """Where the labels of heights lie across, band by band; those that would touch are left out.

    ``extents`` tells how much room each label takes across. The 0 of a band always stays.
    """
    bands = [heights.band for lane in frame.lanes for heights in lane.heights]
    if len(bands) == 1 and bands[0].thickness >= sum(extents):
        return bands[0].ats(np.array(ticks.places)).tolist(), list(ticks.labels)
    levels: list[float] = []
    texts: list[str] = []
    taken: list[tuple[float, float]] = []
    wanted = [
        (number > 0, band.at(place), text, extent / 2)
        for band in bands
        for number, (place, text, extent) in enumerate(
            zip(ticks.places, ticks.labels, extents, strict=True)
        )
    ]
    for _, level, text, half in sorted(wanted, key=lambda one: one[0]):
        if all(level + half <= low or level - half >= high for low, high in taken):
            taken.append((level - half, level + half))
            levels.append(level)
            texts.append(text)
    return levels, texts


def _names(page: Page, frames: Sequence[Frame], layout: _Layout) -> list[Mark]:
    """The names of lanes, and the numbers beside boxes."""
    readings, style, measure = page.readings, page.style, page.measure
    marks: list[Mark] = []
    for cell, frame in zip(page.grid.cells, frames, strict=True):
        ticks = page.heights[frame.panel][0].labels if cell.heights else ()
        if page.upright:
            room = axes.TICK_SIZE + axes.TICK + 2 if ticks else 0.0
            if page.grid.ends_column(cell):
                marks += labels.bottom_marks(layout.names, frame, frame.bottom + room, style)
            marks += labels.written_top(readings, frame, style, measure)
        else:
            room = _widest(ticks, page) + axes.TICK + axes.LABEL_GAP if ticks else 0.0
            if cell.column == 0:
                over = cell.row == 0
                marks += labels.left_marks(layout.names, frame, frame.left - room, over, style)
            extent = frame.bottom - frame.top
            marks += labels.written_right(readings, frame, extent, layout.beside, measure, style)
    return marks


def _note(page: Page, made: Sequence[Mark]) -> list[Mark]:
    """What forms say under the figure, such as how many of the values they could draw."""
    marks: list[Mark] = []
    for row, form in enumerate(page.noted):
        note = scene_form(form).note
        if note and (text := note(page.readings, made)):
            x, y = page.width - _RIGHT, page.height - _PAD - row * _NOTE_ROW
            meaning = Meaning(FORMS[form].part)
            marks.append(Text(x, y, text, _NOTE, "end", page.style.quiet, meaning))
    return marks


# What places on the page stand for


def _axis_zones(page: Page, frames: Sequence[Frame]) -> list[Zone]:
    """What stands left of all frames and under them; between them, the labels of ticks."""
    left, bottom = min(f.left for f in frames), max(f.bottom for f in frames)
    top, right = min(f.top for f in frames), max(f.right for f in frames)
    heights = Meaning("height-axis" if page.readings.plan.heights else "lane")
    value = Meaning("value-axis")
    at_left, at_bottom = (value, heights) if page.upright else (heights, value)
    zones = [Zone(0, top, left, bottom, at_left), Zone(left, bottom, right, page.height, at_bottom)]
    deep = axes.TICK + axes.TICK_SIZE + 3
    for cell, frame in zip(page.grid.cells, frames, strict=True):
        below, beside = (cell.heights, cell.values) if page.upright else (cell.values, cell.heights)
        if below and frame.bottom < bottom:
            base = frame.bottom + deep
            zones.append(Zone(frame.left, frame.bottom, frame.right, base, at_bottom))
        if beside and frame.left > left:
            zones.append(Zone(frame.left - 2 * deep, frame.top, frame.left, frame.bottom, at_left))
    return zones


def _panel_zones(page: Page, frame: Frame) -> list[Zone]:
    """A frame stands for what is drawn on its ground, a strip for its form, a name for its lane."""
    zones = [
        Zone(frame.left, frame.top, frame.right, frame.bottom, _ground(page)),
    ]
    for lane in frame.lanes:
        for strip in lane.strips:
            corners = frame.points(
                np.array([frame.start, frame.end]), np.array([strip.band.base, strip.band.tip])
            )
            left, top = corners.min(axis=0).tolist()
            right, bottom = corners.max(axis=0).tolist()
            meaning = Meaning(FORMS[strip.form].part, strip.group)
            zones.append(Zone(left, top, right, bottom, meaning))
    if page.in_lanes:
        zones += _lane_zones(page, frame)
    return zones


def _lane_zones(page: Page, frame: Frame) -> list[Zone]:
    """Where the names of lanes stand."""
    cell = page.grid.cells[frame.panel]
    ticks = page.heights[frame.panel][0].labels if cell.heights else ()
    zones = []
    for planned, lane in zip(
        page.readings.plan.panels[frame.panel].lanes, frame.lanes, strict=True
    ):
        meaning = Meaning("lane", level=planned.label)
        if page.upright and page.grid.ends_column(cell):
            room = axes.TICK_SIZE + axes.TICK + 2 if ticks else 0.0
            zones.append(
                Zone(lane.first, frame.bottom + room, lane.last, page.height - 2 * _PAD, meaning)
            )
        elif not page.upright and cell.column == 0:
            room = _widest(ticks, page) + axes.TICK + axes.LABEL_GAP if ticks else 0.0
            start = 0.0 if not page.left_title else _PAD + axes.TITLE_ROW
            zones.append(Zone(start, lane.first, frame.left - room, lane.last, meaning))
    return zones


def _ground(page: Page) -> Meaning:
    """What the paper between the marks stands for: the bins, or else the first form on it."""
    if page.readings.needs_bins:
        return Meaning("bars")
    drawn_forms = (*page.readings.plan.heights, *page.readings.plan.strips)
    return Meaning(FORMS[drawn_forms[0]].part)
