"""Ranges of the value axis that are shaded, and their words."""

from collections.abc import Iterator, Sequence

import numpy as np

from rhabdos.figure.readings.axis_limits import range_ends
from rhabdos.figure.recipe.recipe_words import LetterStyle
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.layout.page_parts import Page
from rhabdos.scene.marks import Anchor, Area, Mark, Meaning, Segments, Text, Zone
from rhabdos.scene.words.cover import Cover, ground_of
from rhabdos.scene.words.label_places import Rect, rect_of
from rhabdos.scene.words.rich import lines_of, marks_of, width_of

_OPACITY = 0.13  # of a shade
_EDGE = 0.8  # points of the lines at its ends
_INSIDE = 3.0  # points between words and the edge of the frame
_NARROWEST = 90.0  # points, in which words of a range may stand, however narrow it is
_MOST_LINES = 3  # of words on a shaded range


def _ranges_of(page: Page, frame: Frame) -> Iterator[tuple[int, float, float]]:
    """The ranges in a frame, each with the part of it that the axis shows."""
    panel = page.readings.plan.panels[frame.panel]
    for number, kept in enumerate(page.readings.recipe.range):
        low, high = range_ends(page.readings, number)
        here = kept.panel is None or kept.panel == panel.label
        if here and low <= frame.high and high >= frame.low:
            yield number, max(low, frame.low), min(high, frame.high)


def range_shades(page: Page, frame: Frame) -> list[Mark]:
    """A shade behind everything in a frame for each of its ranges, with a line at either end that
    the axis shows."""
    marks: list[Mark] = []
    for number, low, high in _ranges_of(page, frame):
        colour = page.readings.recipe.range[number].colour or page.style.quiet
        meaning = _meaning(number)
        start, end = frame.along(low), frame.along(high)
        first, last = frame.first, frame.last
        corners = [(start, first), (end, first), (end, last), (start, last)]
        points = np.array([frame.point(*corner) for corner in corners])
        marks.append(Area(points, colour, _OPACITY, meaning))
        shown = range_ends(page.readings, number)
        ends = [frame.along(e) for e, real in ((low, shown[0]), (high, shown[1])) if e == real]
        lines = [[*frame.point(at, first), *frame.point(at, last)] for at in ends]
        if lines:
            marks.append(Segments(np.array(lines), colour, _EDGE, 1.0, meaning))
    return marks


def range_words(page: Page, frame: Frame, cover: Cover) -> list[Mark]:
    """The words of each range at the far end of the frame, those that would meet one under the
    other; on paper where something is drawn there."""
    marks: list[Mark] = []
    taken: list[Rect] = []
    for number, low, high in _ranges_of(page, frame):
        words = _set(page, frame, number, low, high, taken)
        rects = [rect_of(word, page.measure) for word in words]
        taken += rects
        marks += [ground_of(rect, page.style) for rect in rects if cover.crosses(rect)]
        marks += words
    return marks


def _set(
    page: Page, frame: Frame, number: int, low: float, high: float, taken: Sequence[Rect]
) -> list[Text]:
    """The words of a range as texts, below all that is taken where they stand."""
    kept = page.readings.recipe.range[number]
    text = kept.words
    if text is None:
        from rhabdos.figure.edits.ranges import range_told  # which no start needs

        group = page.readings.plan.panels[frame.panel].groups[0]
        variable = page.readings.groups[group].variable
        text = range_told(variable, *range_ends(page.readings, number))
    face, measure = page.style.face("text", LetterStyle()), page.measure
    start, end = sorted((frame.along(low), frame.along(high)))
    wide = frame.right - frame.left - 2 * _INSIDE
    room = wide if page.upright else min(wide, max(end - start - 4, _NARROWEST))
    lines = lines_of(text, room, face, measure, page.stands, _MOST_LINES)
    if not lines:
        return []
    widest = max(width_of(line, face, measure) for line in lines)
    high_all = len(lines) * face.row
    x, y = frame.point((start + end) / 2, frame.first + _INSIDE)
    anchor: Anchor = "middle"
    if page.upright:
        x, y, anchor = frame.right - _INSIDE, y - high_all / 2, "end"
    else:
        x = min(max(x, frame.left + _INSIDE + widest / 2), frame.right - _INSIDE - widest / 2)
    y = max(y, frame.top + _INSIDE)
    left = x - widest * (1.0 if anchor == "end" else 0.5)
    for rect in sorted(taken, key=lambda rect: rect.top):
        apart = rect.right <= left or rect.left >= left + widest
        if not apart and rect.top < y + high_all and rect.bottom > y:
            y = rect.bottom + 1
    marks: list[Mark] = []
    for row, line in enumerate(lines):
        base = y + face.size * 0.98 + row * face.row
        marks += marks_of(line, x, base, anchor, face, _meaning(number), measure)
    return [mark for mark in marks if isinstance(mark, Text)]


def range_zones(marks: Sequence[Mark], page: Page) -> list[Zone]:
    """Where the words of ranges are pointed at."""
    zones = []
    for mark in marks:
        if isinstance(mark, Text) and mark.meaning and mark.meaning.part == "range":
            rect = rect_of(mark, page.measure)
            zones.append(Zone(rect.left, rect.top, rect.right, rect.bottom, mark.meaning))
    return zones


def _meaning(number: int) -> Meaning:
    return Meaning("range", level=str(number))
