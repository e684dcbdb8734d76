"""Lay readings out on a page."""

from functools import partial

from msgspec import Struct

from rhabdos.errors import Refusal
from rhabdos.figure.page import Size
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import Recipe
from rhabdos.figure.sentence import plain
from rhabdos.figure.wording import height_axis_title, value_axis_title
from rhabdos.scene import axes
from rhabdos.scene.bars import bars
from rhabdos.scene.heading import heading
from rhabdos.scene.marks import Frame, Mark, Meaning, Scene, Zone
from rhabdos.scene.palette import group_colours
from rhabdos.scene.text import Measure, wrapped

_PAD = 9.0
_LEAST_FRAME = 20.0


DRAWN = ("bars",)


def check_drawable(recipe: Recipe) -> None:
    """Refuse a recipe with a form that has numbers but no drawing yet."""
    for form in recipe.show.forms:
        if form not in DRAWN:
            raise Refusal(
                f"The form “{form}” cannot be drawn yet. "
                "Take it out of show.forms, or print its numbers with rhabdos numbers."
            )
    if not recipe.bins.shared:
        raise Refusal(
            "Groups with bins of their own cannot be drawn yet. "
            "Take bins.shared out, or print their numbers with rhabdos numbers."
        )
    if "bars" not in recipe.show.forms:
        raise Refusal("A figure needs the form “bars” for now. Add it to show.forms.")


class Limits(Struct, frozen=True):
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
    limits = limits or limits_of(readings)
    # What adds up to a whole may end at it; any other bar has some room above.
    room = 1.0 if readings.cumulative else axes.ROOM_ABOVE
    heights, tallest = axes.height_ticks(readings.tallest, height, readings.scale == "count", room)
    value_title, height_title = _axis_titles(readings, width, height, measure)

    labels = max(measure(text, axes.TICK_SIZE, False) for text in heights.labels)
    upright = len(height_title) * axes.TITLE_ROW + 4 if height_title else 0
    below = len(value_title) * axes.TITLE_ROW + 2 if value_title else 0
    left = _PAD + upright + labels + axes.TICK + axes.LABEL_GAP
    right = width - _PAD - 6
    bottom = height - _PAD - below - axes.TICK_SIZE - axes.TICK - 4
    groups = tuple((group.label, group.n) for group in readings.groups)
    above = heading(readings.recipe.words.title or "", groups, bool(readings.split), left, right, _PAD, measure)
    frame = Frame(left, min(above.bottom, bottom - _LEAST_FRAME), right, bottom, limits.low, limits.high, tallest)

    whole = readings.samples.pooled.whole
    marks: list[Mark] = [
        *above.marks,
        axes.grid(frame, heights),
        *_bars(readings, frame),
        *axes.height_axis(frame, heights, height_title, _PAD),
        *axes.value_axis(
            left, right, bottom, limits.low, limits.high, tuple(value_title), height - _PAD, whole, measure
        ),
    ]
    zones = (
        *above.zones,
        Zone(frame.left, frame.top, frame.right, frame.bottom, Meaning("bars")),
        Zone(0, frame.top, frame.left, frame.bottom, Meaning("height-axis")),
        Zone(frame.left, frame.bottom, frame.right, height, Meaning("value-axis")),
    )
    return Scene(width, height, tuple(marks), zones, frame, partial(plain, readings))


def _bars(readings: Readings, frame: Frame) -> list[Mark]:
    """The fills of all groups, then the lines of all, so that no fill dulls a line."""
    fills: list[Mark] = []
    lines: list[Mark] = []
    colours = group_colours(len(readings.groups))
    xs = frame.xs(readings.edges.values)
    for group, (reading, colour) in enumerate(zip(readings.groups, colours, strict=True)):
        if reading.n:
            filled, lined = bars(frame, xs, reading.heights, colour, group, len(colours))
            fills += filled
            lines += lined
    return fills + lines


def _axis_titles(readings: Readings, width: float, height: float, measure: Measure) -> tuple[list[str], list[str]]:
    words, variable = readings.recipe.words, readings.variable
    value = value_axis_title(variable.label, variable.unit) if words.value_axis is None else words.value_axis
    split = readings.split.label if readings.split else None
    heights = words.height_axis
    if heights is None:
        heights = height_axis_title(readings.scale, readings.recipe.show.of, split, variable.unit, readings.cumulative)
    value_lines = wrapped(value, width * 0.8, axes.TITLE_SIZE, False, measure) if value else []
    height_lines = wrapped(heights, height * 0.7, axes.TITLE_SIZE, False, measure) if heights else []
    return value_lines, height_lines
