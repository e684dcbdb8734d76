"""Lay readings out on a page."""

from functools import partial

import numpy as np
from msgspec import Struct, structs

from rhabdos.errors import Refusal
from rhabdos.figure.page import Size
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import Form, Recipe
from rhabdos.figure.sentence import plain
from rhabdos.figure.wording import height_axis_title, value_axis_title
from rhabdos.scene import axes, legend
from rhabdos.scene.forms import HEIGHTS_FORMS
from rhabdos.scene.forms.centres import centre_lines, centres, height_of
from rhabdos.scene.forms.form import HeightsForm
from rhabdos.scene.heading import heading
from rhabdos.scene.marks import Frame, Mark, Meaning, Scene, Segments, Zone
from rhabdos.scene.palette import QUIET, group_colours
from rhabdos.scene.text import Measure, wrapped

_PAD = 9.0
_LEAST_FRAME = 20.0
_MOST_LEGEND = 0.25  # of the paper's height


def check_drawable(recipe: Recipe) -> None:
    """Refuse a recipe with a form that has numbers but no drawing yet."""
    for form in recipe.show.forms:
        if form not in HEIGHTS_FORMS:
            raise Refusal(
                f"The form “{form}” cannot be drawn yet. "
                "Take it out of show.forms, or print its numbers with rhabdos numbers."
            )
    if not recipe.bins.shared:
        raise Refusal(
            "Groups with bins of their own cannot be drawn yet. "
            "Take bins.shared out, or print their numbers with rhabdos numbers."
        )


class Limits(Struct, frozen=True):
    """Where the value axis begins and ends, in the variable's unit."""

    low: float
    high: float


def limits_of(readings: Readings) -> Limits:
    """The limits that show all of every form."""
    reaches = [reach for form in _forms(readings) if (reach := form.reach(readings))]
    if not reaches:
        return Limits(readings.edges.low, readings.edges.high)
    low, high = min(low for low, _ in reaches), max(high for _, high in reaches)
    return Limits(low, high) if low < high else Limits(readings.edges.low, readings.edges.high)


def _forms(readings: Readings) -> list[HeightsForm]:
    """The forms of a figure, in the order in which they lie over one another."""
    return [form for name, form in HEIGHTS_FORMS.items() if name in readings.recipe.show.forms]


def build(
    readings: Readings,
    measure: Measure,
    limits: Limits | None = None,
    size: Size | None = None,
    dpi: float = 96.0,
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
    """
    width, height = (size or Size.parse(readings.recipe.page.size)).points(dpi)
    limits = limits or limits_of(readings)
    # What adds up to a whole may end at it; any other bar has some room above.
    room = 1.0 if readings.cumulative or "ecdf" in readings.recipe.show.forms else axes.ROOM_ABOVE
    reached = max((form.tallest(readings) for form in _forms(readings)), default=readings.tallest)
    heights, tallest = axes.height_ticks(reached, height, readings.scale == "count", room)
    value_title, height_title = _axis_titles(readings, width, height, measure)

    labels = max(measure(text, axes.TICK_SIZE, False) for text in heights.labels)
    upright = len(height_title) * axes.TITLE_ROW + 4 if height_title else 0
    below = len(value_title) * axes.TITLE_ROW + 2 if value_title else 0
    left = _PAD + upright + labels + axes.TICK + axes.LABEL_GAP
    right = width - _PAD - 6
    bottom = height - _PAD - below - axes.TICK_SIZE - axes.TICK - 4
    groups = tuple((group.label, group.n) for group in readings.groups)
    rows = max(1, int(height * _MOST_LEGEND / legend.ROW))
    above = heading(
        readings.recipe.words.title or "",
        groups,
        bool(readings.split),
        left,
        right,
        _PAD,
        rows,
        measure,
    )
    lines = centres(readings, left, right, limits.low, limits.high, measure)
    top = above.bottom + height_of(lines)
    frame = Frame(
        left, min(top, bottom - _LEAST_FRAME), right, bottom, limits.low, limits.high, tallest
    )

    whole = readings.samples.pooled.whole
    marks: list[Mark] = [
        *above.marks,
        axes.grid(frame, heights),
        *_drawn(readings, frame),
        *centre_lines(lines, readings, frame, width - 2, measure),
        *axes.height_axis(frame, heights, height_title, _PAD),
        *axes.value_axis(
            left,
            right,
            bottom,
            limits.low,
            limits.high,
            tuple(value_title),
            height - _PAD,
            whole,
            measure,
        ),
    ]
    zones = (
        *above.zones,
        Zone(frame.left, frame.top, frame.right, frame.bottom, Meaning("bars")),
        Zone(0, frame.top, frame.left, frame.bottom, Meaning("height-axis")),
        Zone(frame.left, frame.bottom, frame.right, height, Meaning("value-axis")),
    )
    return Scene(width, height, tuple(marks), zones, frame, partial(plain, readings))


def miniature(readings: Readings, form: Form, width: float, height: float) -> Scene:
    """A figure drawn as one form alone, without axes and words, on a page of so many points."""
    alone = structs.replace(readings, recipe=readings.recipe.showing(forms=(form,)))
    limits, drawn = limits_of(alone), HEIGHTS_FORMS[form]
    frame = Frame(
        2.0, 3.0, width - 2.0, height - 1.0, limits.low, limits.high, drawn.tallest(alone) or 1.0
    )
    ground = np.array([[frame.left, frame.bottom, frame.right, frame.bottom]])
    fills, lines = drawn.layers(alone, frame, group_colours(len(readings.groups)))
    marks = (*fills, *lines, Segments(ground, QUIET, 0.8, 1.0, None))
    return Scene(width, height, marks, (), frame, partial(plain, alone))


def _drawn(readings: Readings, frame: Frame) -> list[Mark]:
    """The fills of all groups, then the lines of all, form upon form."""
    colours = group_colours(len(readings.groups))
    layers = [form.layers(readings, frame, colours) for form in _forms(readings)]
    return [mark for fills, _ in layers for mark in fills] + [
        mark for _, lines in layers for mark in lines
    ]


def _axis_titles(
    readings: Readings, width: float, height: float, measure: Measure
) -> tuple[list[str], list[str]]:
    words, variable = readings.recipe.words, readings.variable
    value = (
        value_axis_title(variable.label, variable.unit)
        if words.value_axis is None
        else words.value_axis
    )
    split = readings.split.label if readings.split else None
    heights = words.height_axis
    if heights is None:
        heights = height_axis_title(
            readings.scale, readings.recipe.show.of, split, variable.unit, readings.cumulative
        )
    value_lines = wrapped(value, width * 0.8, axes.TITLE_SIZE, False, measure) if value else []
    height_lines = (
        wrapped(heights, height * 0.7, axes.TITLE_SIZE, False, measure) if heights else []
    )
    return value_lines, height_lines
