"""Lay readings out on a page."""

import math
from collections.abc import Sequence
from functools import partial
from typing import Literal

import numpy as np
from msgspec import Struct, structs

from rhabdos.errors import Refusal
from rhabdos.figure.forms import FORMS
from rhabdos.figure.page import Size
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import Form
from rhabdos.figure.sentence import plain
from rhabdos.figure.wording import height_axis_title, value_axis_title
from rhabdos.scene import axes, labels, legend
from rhabdos.scene.centres import centre_marks, centres, in_rows, rows_height, words_width
from rhabdos.scene.forms import scene_form
from rhabdos.scene.forms.form import Drawing
from rhabdos.scene.heading import Heading, heading
from rhabdos.scene.lanes import lay_lanes
from rhabdos.scene.marks import Mark, Meaning, Scene, Segments, Text, Zone
from rhabdos.scene.names import rect_of
from rhabdos.scene.plane import Frame
from rhabdos.scene.style import HOUSE, Style
from rhabdos.scene.text import Measure, wrapped
from rhabdos.scene.ticks import Ticks
from rhabdos.stats.rules import by_rule

_PAD = 9.0
_LEAST_FRAME = 20.0
_MOST_LEGEND = 0.25  # of the paper's height
_NOTE, _NOTE_ROW = 7.5, 10.0


class Limits(Struct, frozen=True):
    """Where the value axis begins and ends, in the variable's unit."""

    low: float
    high: float


def limits_of(readings: Readings) -> Limits:
    """The limits that show all of every form."""
    asked = (*readings.plan.heights, *readings.plan.strips)
    reaches = [reach for form in asked if (reach := scene_form(form).reach(readings))]
    if reaches:
        low, high = min(low for low, _ in reaches), max(high for _, high in reaches)
        if not math.isfinite(high - low):
            raise Refusal(
                "The values lie farther apart than the largest number, so no axis holds them all. "
                "Divide them by a power of ten."
            )
        if low < high:
            return Limits(low, high)
    edges = by_rule(readings.samples.pooled, "automatic").edges  # round places about one value
    return Limits(edges.low, edges.high)


class _Page(Struct, frozen=True, eq=False):
    """What the layout of one figure is made from."""

    readings: Readings
    width: float
    height: float
    limits: Limits
    measure: Measure
    style: Style

    @property
    def upright(self) -> bool:
        """Whether the value axis stands."""
        return self.readings.plan.upright

    @property
    def in_lanes(self) -> bool:
        """Whether groups have lanes of their own."""
        return len(self.readings.plan.lanes) > 1


def build(
    readings: Readings,
    measure: Measure,
    limits: Limits | None = None,
    size: Size | None = None,
    dpi: float = 96.0,
    style: Style = HOUSE,
) -> Scene:
    """Lay out a figure.

    Parameters
    ----------
    measure : callable
        Tells how wide a text is.
    limits : Limits, optional
        Of the value axis; what lies beyond is cut at the frame. By default all of every form is
        shown.
    size : Size, optional
        Instead of the recipe's page; pixels are taken at ``dpi``.
    style : Style
        Colours and widths.
    """
    width, height = (size or Size.parse(readings.recipe.page.size)).points(dpi)
    page = _Page(readings, width, height, limits or limits_of(readings), measure, style)
    return _standing(page) if page.upright else _lying(page)


def _lying(page: _Page) -> Scene:
    """The value axis at the bottom; heights, or the lanes' names, at the left."""
    readings, measure, style, limits = page.readings, page.measure, page.style, page.limits
    width, height = page.width, page.height
    value_title, height_title = _axis_titles(page)
    upright_title = len(height_title) * axes.TITLE_ROW + 4 if height_title else 0
    below = len(value_title) * axes.TITLE_ROW + 2 if value_title else 0
    bottom = height - _PAD - below - _note_room(page) - axes.TICK_SIZE - axes.TICK - 4
    ticks, tallest = _heights(page, height)
    tick_room = _widest(ticks.labels, page) + axes.TICK + axes.LABEL_GAP if ticks.labels else 0.0
    extent = bottom - 3 * _PAD
    beside = labels.written_width(readings, extent, width, measure)
    right = width - _PAD - 6 - beside
    # Names are as large as their lanes let them be, and lanes begin where the heading ends.
    top = _PAD
    for _ in range(2 if page.in_lanes else 1):
        names = labels.at_left(readings.plan, readings.groups, width, bottom - top, measure)
        left = _PAD + upright_title + names.width + tick_room
        above = _heading(page, left, right)
        top = above.bottom
    lines = centres(readings, limits.low, limits.high)
    if not page.in_lanes:
        lines = in_rows(lines, left, right, limits.low, limits.high, measure)
    top = min(above.bottom + rows_height(lines), bottom - _LEAST_FRAME)
    bare, frame = _framed(page, left, top, right, bottom, tallest)
    at = axes.value_ticks(
        limits.low, limits.high, right - left, False, readings.samples.pooled.whole, measure
    )
    value_part, height_part = Meaning("value-axis"), Meaning("height-axis")
    centred = centre_marks(lines, frame, width - 2, measure, style)
    marks: list[Mark] = [
        *above.marks,
        *_grid(page, frame, at, ticks),
        *_drawn(page, frame, centred),
        *centred,
        *axes.value_axis(bare, at, tuple(value_title), height - _PAD - _note_room(page), style),
        *axes.left_title(height_title, _PAD, (top + bottom) / 2, height_part, style),
        *labels.left_marks(names, frame, left - tick_room, style),
        *labels.written_right(readings, frame, extent, beside, measure, style),
    ]
    levels, texts = _apart(frame, ticks, [axes.TICK_SIZE * 1.1] * len(ticks.labels))
    marks += axes.left_labels(levels, texts, left, height_part, style)
    marks += _note(page, marks)
    zones = (
        *above.zones,
        Zone(frame.left, frame.top, frame.right, frame.bottom, _ground(page)),
        *_part_zones(frame),
        Zone(
            0, frame.top, frame.left, frame.bottom, height_part if ticks.labels else Meaning("lane")
        ),
        *_lane_zones(page, frame, 0, frame.left - tick_room),
        Zone(frame.left, frame.bottom, frame.right, height, value_part),
    )
    return Scene(width, height, tuple(marks), zones, frame, partial(plain, readings))


def _standing(page: _Page) -> Scene:
    """The value axis at the left; heights, or the lanes' names, at the bottom."""
    readings, measure, style, limits = page.readings, page.measure, page.style, page.limits
    width, height = page.width, page.height
    value_title, height_title = _axis_titles(page)
    ticks, tallest = _heights(page, width)
    below = len(height_title) * axes.TITLE_ROW + 2 if height_title else 0.0
    tick_room = axes.TICK_SIZE + axes.TICK + 2 if ticks.labels else 0.0
    lines = centres(readings, limits.low, limits.high)
    right = width - _PAD - 6 - (0.0 if page.in_lanes else words_width(lines, measure))
    title_room = len(value_title) * axes.TITLE_ROW + 4 if value_title else 0.0
    whole = readings.samples.pooled.whole
    at = axes.value_ticks(limits.low, limits.high, height * 0.7, True, whole, measure)
    left = _PAD + title_room + _widest(at.labels, page) + axes.TICK + axes.LABEL_GAP
    names = labels.at_bottom(readings.plan, readings.groups, right - left, height, measure)
    bottom = height - _PAD - below - _note_room(page) - names.height - tick_room - 2
    above = _heading(page, left, right)
    top = above.bottom + labels.written_height(readings)
    top = min(top, bottom - _LEAST_FRAME)
    bare, frame = _framed(page, left, top, right, bottom, tallest)
    value_part, height_part = Meaning("value-axis"), Meaning("height-axis")
    centred = centre_marks(lines, frame, width - 2, measure, style)
    marks: list[Mark] = [
        *above.marks,
        *_grid(page, frame, at, ticks),
        *_drawn(page, frame, centred),
        *centred,
        *axes.value_axis(bare, at, tuple(value_title), _PAD, style),
        *axes.bottom_title(
            height_title, (left + right) / 2, height - _PAD - _note_room(page), height_part, style
        ),
        *labels.bottom_marks(names, frame, bottom + tick_room, style),
        *labels.written_top(readings, frame, style, measure),
    ]
    widths = [measure(text, axes.TICK_SIZE, False) + 3 for text in ticks.labels]
    levels, texts = _apart(frame, ticks, widths)
    marks += axes.bottom_labels(levels, texts, bottom, height_part, style)
    marks += _note(page, marks)
    zones = (
        *above.zones,
        Zone(frame.left, frame.top, frame.right, frame.bottom, _ground(page)),
        *_part_zones(frame),
        Zone(0, frame.top, frame.left, frame.bottom, value_part),
        Zone(
            frame.left,
            frame.bottom,
            frame.right,
            height,
            height_part if ticks.labels else Meaning("lane"),
        ),
        *_lane_zones(page, frame, bottom + tick_room, bottom + tick_room + names.height),
    )
    return Scene(width, height, tuple(marks), zones, frame, partial(plain, readings))


def _framed(
    page: _Page, left: float, top: float, right: float, bottom: float, tallest: float
) -> tuple[Frame, Frame]:
    """The frame, and the frame with its lanes."""
    bare = Frame(
        left, top, right, bottom, page.limits.low, page.limits.high, page.height, page.upright
    )
    lanes = lay_lanes(page.readings.plan, bare.first, bare.last, page.upright, tallest)
    return bare, structs.replace(bare, lanes=lanes)


def _heights(page: _Page, extent: float) -> tuple[Ticks, float]:
    """Ticks of the height axis, and where it ends; no ticks where nothing is drawn over one.

    What adds up to a whole may end at it; anything else has some room above.
    """
    readings, plan = page.readings, page.readings.plan
    if not plan.heights:
        return Ticks((), ()), 1.0
    reached = max(scene_form(form).tallest(readings) for form in plan.heights)
    room = 1.0 if readings.cumulative or "ecdf" in plan.heights else axes.ROOM_ABOVE
    if len(plan.lanes) > 1 or plan.strips:
        share = 0.85 if not plan.strips else 0.5
        extent = extent * 0.75 / len(plan.lanes) * share
    if any(scene_form(form).over for form in plan.heights):
        room = max(room, _room_for_words(page, extent))
    return axes.height_ticks(reached, extent, readings.scale == "count", room)


def _apart(frame: Frame, ticks: Ticks, extents: Sequence[float]) -> tuple[list[float], list[str]]:
    """Where the labels of heights lie across, lane by lane; those that would touch are left out.

    ``extents`` tells how much room each label takes across. The 0 of a lane always stays.
    """
    alone = frame.lanes[0].heights if len(frame.lanes) == 1 else None
    if alone and alone.thickness >= sum(extents):
        return alone.ats(np.array(ticks.places)).tolist(), list(ticks.labels)
    levels: list[float] = []
    texts: list[str] = []
    taken: list[tuple[float, float]] = []
    bands = [lane.heights for lane in frame.lanes if lane.heights]
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


def _room_for_words(page: _Page, extent: float) -> float:
    """How far the axis reaches beyond the greatest height, so that words over it have room."""
    edges, limits = page.readings.edges, page.limits
    along = (page.height if page.upright else page.width) * 0.8
    narrowest = float(edges.widths.min()) / (limits.high - limits.low) * along
    overs = (scene_form(form).over for form in page.readings.plan.heights)
    points = max(
        over(page.readings, page.upright, narrowest, page.measure) for over in overs if over
    )
    extent = max(extent * 0.85, 30.0)
    return extent / max(extent - points, extent / 3) * 1.01 if points else 0.0


def _widest(texts: Sequence[str], page: _Page) -> float:
    return max((page.measure(text, axes.TICK_SIZE, False) for text in texts), default=0.0)


def _heading(page: _Page, left: float, right: float) -> Heading:
    readings = page.readings
    groups = tuple((group.label, group.n) for group in readings.groups)
    rows = max(1, int(page.height * _MOST_LEGEND / legend.ROW))
    kind: Literal["legend", "size", "none"] = "legend" if readings.split else "size"
    kind = "none" if page.in_lanes else kind
    title = readings.recipe.words.title or ""
    return heading(title, groups, kind, left, right, _PAD, rows, page.measure, page.style)


def _grid(page: _Page, frame: Frame, at: Ticks, ticks: Ticks) -> list[Mark]:
    """Hairlines at heights where there is one lane of them, and else at values."""
    style, marks = page.style, []
    if page.in_lanes or not ticks.labels:
        marks.append(axes.grid_along(frame, at.places, style))
    for lane in frame.lanes:
        if lane.heights and not page.in_lanes:
            levels = [lane.heights.at(place) for place in ticks.places if place > 0]
            marks.append(axes.grid_across(frame, levels, style))
        if lane.heights and (page.in_lanes or lane.strips):
            base = np.array([lane.heights.base])
            line = frame.lines(np.array([frame.start]), base, np.array([frame.end]), base)
            marks.append(Segments(line, style.quiet, style.grid_line, 1.0, None))
    return list(marks)


def _drawn(page: _Page, frame: Frame, centred: Sequence[Mark] = ()) -> list[Mark]:
    """Lane by lane the fills of all groups, then the lines of all, form upon form.

    No word lies over those of ``centred``.
    """
    plan, drawing = page.readings.plan, _drawing(page, frame)
    words = (mark for mark in centred if isinstance(mark, Text))
    taken = tuple(rect_of(word, page.measure) for word in words)
    drawing = structs.replace(drawing, taken=taken) if taken else drawing
    marks: list[Mark] = []
    for lane in frame.lanes:
        bands = [(form, lane.heights, lane.groups) for form in plan.heights if lane.heights]
        bands += [(strip.form, strip.band, (strip.group,)) for strip in lane.strips]
        layers = [scene_form(form).layers(drawing, band, groups) for form, band, groups in bands]
        marks += [mark for fills, _ in layers for mark in fills]
        marks += [mark for _, lines in layers for mark in lines]
    return marks


def _ground(page: _Page) -> Meaning:
    """What the paper between the marks stands for: the bins, or else the first form on it."""
    if page.readings.needs_bins:
        return Meaning("bars")
    drawn = (*page.readings.plan.heights, *page.readings.plan.strips)
    return Meaning(FORMS[drawn[0]].part)


def _part_zones(frame: Frame) -> list[Zone]:
    """Each strip stands for its form."""
    zones = []
    for lane in frame.lanes:
        for strip in lane.strips:
            corners = frame.points(
                np.array([frame.start, frame.end]), np.array([strip.band.base, strip.band.tip])
            )
            left, top = corners.min(axis=0).tolist()
            right, bottom = corners.max(axis=0).tolist()
            meaning = Meaning(FORMS[strip.form].part, strip.group)
            zones.append(Zone(left, top, right, bottom, meaning))
    return zones


def _lane_zones(page: _Page, frame: Frame, first: float, last: float) -> list[Zone]:
    """The names of lanes stand for the factor that makes them."""
    if not page.in_lanes:
        return []
    if page.upright:
        return [Zone(frame.left, first, frame.right, last, Meaning("lane"))]
    return [Zone(first, frame.top, last, frame.bottom, Meaning("lane"))]


def _noted(page: _Page) -> list[Form]:
    """The forms of a figure that may have something to say under it."""
    plan = page.readings.plan
    return [form for form in (*plan.heights, *plan.strips) if scene_form(form).note]


def _note_room(page: _Page) -> float:
    return _NOTE_ROW * len(_noted(page))


def _note(page: _Page, drawn: Sequence[Mark]) -> list[Mark]:
    """What forms say under the figure, such as how many of the values they could draw."""
    marks: list[Mark] = []
    for row, form in enumerate(_noted(page)):
        note = scene_form(form).note
        if note and (text := note(page.readings, drawn)):
            x, y = page.width - _PAD - 6, page.height - _PAD - row * _NOTE_ROW
            meaning = Meaning(FORMS[form].part)
            marks.append(Text(x, y, text, _NOTE, "end", page.style.quiet, meaning))
    return marks


def _drawing(page: _Page, frame: Frame) -> Drawing:
    colours = page.style.colours(len(page.readings.groups))
    return Drawing(page.readings, frame, page.style, colours, page.measure)


def miniature(
    readings: Readings, form: Form, width: float, height: float, style: Style = HOUSE
) -> Scene:
    """A figure drawn as one form alone, without axes and words, on a page of so many points."""
    recipe = readings.recipe.showing(forms=(form,), upright=False, arrange=None)
    recipe = recipe.changed(
        bars=recipe.bars.changed(labels=None), box=recipe.box.changed(names=None, mean=False)
    )
    alone = Readings(recipe, readings.samples)
    limits, drawn = limits_of(alone), scene_form(form)
    page = _Page(alone, width, height, limits, lambda _text, _size, _bold: 0.0, style)
    _, frame = _framed(page, 2.0, 3.0, width - 2.0, height - 1.0, drawn.tallest(alone) or 1.0)
    marks = _drawn(page, frame)
    if not FORMS[form].strip:
        ground = np.array([[frame.left, frame.bottom, frame.right, frame.bottom]])
        marks.append(Segments(ground, style.quiet, 0.8, 1.0, None))
    return Scene(width, height, tuple(marks), (), frame, partial(plain, alone))


def _axis_titles(page: _Page) -> tuple[list[str], list[str]]:
    """The lines of the titles of both axes; a figure without heights has no height axis."""
    readings, measure = page.readings, page.measure
    words, variable = readings.recipe.words, readings.variable
    value = words.value_axis
    if value is None:
        value = value_axis_title(variable.label, variable.unit)
    heights = words.height_axis
    if not readings.plan.heights:
        heights = ""
    elif heights is None:
        heights = height_axis_title(
            readings.scale,
            readings.recipe.show.of,
            readings.split.label if readings.split else None,
            variable.unit,
            readings.cumulative,
        )
    along, across = (page.height * 0.7, page.width * 0.8)
    rooms = (along, across) if page.upright else (across, along)
    value_lines, height_lines = (
        wrapped(text, room, axes.TITLE_SIZE, False, measure) if text else []
        for text, room in zip((value, heights), rooms, strict=True)
    )
    return value_lines, height_lines
