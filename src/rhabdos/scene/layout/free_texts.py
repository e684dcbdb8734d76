"""Texts that a recipe places in the figure, and the arrows from them."""

import math
from collections.abc import Sequence

import numpy as np

from rhabdos.figure.edits.placed_texts import Standing, value_of
from rhabdos.figure.recipe.recipe_words import FigureText
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.layout.page_parts import Page
from rhabdos.scene.marks import Area, Mark, Meaning, Segments, Text, Zone
from rhabdos.scene.words.boxed import around, padding
from rhabdos.scene.words.label_places import Rect, rect_of
from rhabdos.scene.words.rich import Line, lines_of, marks_of, width_of

_LINE = 0.8  # points of an arrow
_HEAD, _HALF = 5.0, 2.2  # length and half the width of an arrow's head, in points
_CLEAR = 3.0  # between a text and its arrow


def texts_in(page: Page, frames: Sequence[Frame]) -> list[Mark]:
    """Each text in the frames that it belongs to, where its value lies on their axis."""
    marks: list[Mark] = []
    for number, text in enumerate(page.readings.recipe.text):
        for frame in frames:
            panel = page.readings.plan.panels[frame.panel]
            if text.panel is None or text.panel == panel.label:
                marks += _text(page, frame, text, number)
    return marks


def text_zones(page: Page, marks: Sequence[Mark]) -> list[Zone]:
    """Where the texts in the frames are pointed at."""
    zones: dict[Meaning, Rect] = {}
    for mark in marks:
        if isinstance(mark, Text) and mark.meaning and mark.meaning.part == "text":
            rect, known = rect_of(mark, page.measure), zones.get(mark.meaning)
            if known is not None:
                rect = Rect(
                    min(rect.left, known.left),
                    min(rect.top, known.top),
                    max(rect.right, known.right),
                    max(rect.bottom, known.bottom),
                )
            zones[mark.meaning] = rect
    return [Zone(r.left, r.top, r.right, r.bottom, meaning) for meaning, r in zones.items()]


def _text(page: Page, frame: Frame, text: FigureText, number: int) -> list[Mark]:
    value = value_of(page.readings, text, text.panel)
    if not frame.low <= value <= frame.high:
        return []
    dressed = page.style.face("text", text.style)
    meaning = _of(number)
    room = frame.right - frame.left - 4
    lines = lines_of(text.text, room, dressed, page.measure, page.stands, 6)
    x, y = _place(frame, value, text)
    widest = max((width_of(line, dressed, page.measure) for line in lines), default=0.0)
    high = len(lines) * dressed.row
    # Within the frame, whatever it is tied to: nothing is clipped.
    free = padding(text.style, page.style)
    aside, above = 2 + free + widest / 2, 2 + free + high / 2
    x = min(max(x, frame.left + aside), frame.right - aside)
    y = min(max(y, frame.top + above), frame.bottom - above)
    marks: list[Mark] = []
    to = value_of(page.readings, text.arrow, text.panel) if text.arrow else math.nan
    if text.arrow is not None and frame.low <= to <= frame.high:
        tip = _place(frame, to, text.arrow)
        half = widest / 2 + free, high / 2 + free
        colour = text.style.colour or page.style.ink  # it lies on the paper, the text on its ground
        marks += _arrow((x, y), half, tip, colour, meaning)
    words = Rect(x - widest / 2, y - high / 2, x + widest / 2, y + high / 2)
    marks += around(words, text.style, page.style, meaning)
    first = y - high / 2 + dressed.size * 0.98
    for row, line in enumerate(lines):
        marks += _line(page, line, x, first + row * dressed.row, text, widest, number)
    return marks


def _line(
    page: Page, line: Line, x: float, base: float, text: FigureText, wide: float, number: int
) -> list[Mark]:
    dressed = page.style.face("text", text.style)
    place = text.style.place or "middle"
    if place == "left":
        return marks_of(line, x - wide / 2, base, "start", dressed, _of(number), page.measure)
    if place == "right":
        return marks_of(line, x + wide / 2, base, "end", dressed, _of(number), page.measure)
    return marks_of(line, x, base, "middle", dressed, _of(number), page.measure)


def _of(number: int) -> Meaning:
    return Meaning("text", level=str(number))


def _place(frame: Frame, value: float, standing: Standing) -> tuple[float, float]:
    """A place on the page: along at a value, across at a height or at a share of the frame."""
    if standing.height is not None and frame.lanes and frame.lanes[0].heights:
        across = frame.band.at(standing.height)
    else:
        across = frame.first + standing.share * (frame.last - frame.first)
        if not frame.upright:
            across = frame.last - standing.share * (frame.last - frame.first)
    return frame.point(frame.along(value), across)


def _arrow(
    middle: tuple[float, float],
    half: tuple[float, float],
    tip: tuple[float, float],
    colour: str,
    meaning: Meaning,
) -> list[Mark]:
    """A line from the edge of a text to a place, with a head there."""
    dx, dy = tip[0] - middle[0], tip[1] - middle[1]
    length = math.hypot(dx, dy)
    reach = [
        (side + _CLEAR) / abs(step)
        for side, step in zip(half, (dx, dy), strict=True)
        if abs(step) > 1e-9  # a level arrow never leaves through the top
    ]
    share = min(reach, default=1.0)
    if length < 1 or share >= 1:
        return []
    start = middle[0] + share * dx, middle[1] + share * dy
    ux, uy = dx / length, dy / length
    neck = tip[0] - ux * _HEAD, tip[1] - uy * _HEAD
    head = np.array(
        [
            [tip[0], tip[1]],
            [neck[0] - uy * _HALF, neck[1] + ux * _HALF],
            [neck[0] + uy * _HALF, neck[1] - ux * _HALF],
        ]
    )
    line = np.array([[*start, *neck]])
    return [
        Segments(line, colour, _LINE, 1.0, meaning, smooth=True),
        Area(head, colour, 1.0, meaning, smooth=True),
    ]
