"""Words that give way: on a page too small for all of them, none lies over another or leaves it."""

import math
from collections.abc import Sequence

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.marks import Area, Mark, Meaning, Segments, Text
from rhabdos.scene.style.lettering import Measure, face_of
from rhabdos.scene.words.cover import GROUND, Cover
from rhabdos.scene.words.label_places import Rect

_ASCENT, _DESCENT = 0.7, 0.18  # of its size, by which letters reach over and under their line
_BACK = {"start": 0.0, "middle": 0.5, "end": 1.0}
_TICKS = 4.0  # points beyond a frame to which its ticks reach
_PLACED = ("bars", "box", "centre", "text", "range", "shift", "pairs")
"""Parts of which words lie in frames, where room was found for them."""
_SLACK = 0.2  # points that may be shared, or lie beyond the page
# What stays rather than what follows; a part that is not named comes last.
_ORDER = (
    "title", "value-title", "height-title", "value-axis", "height-axis", "lane", "factor",
    "legend-title", "legend", "panel", "subtitle", "own-note", "text", "range", "note", "rows",
    "centre",
)  # fmt: skip
_WHOLE = ("title", "subtitle", "own-note", "value-title", "height-title", "legend", "text", "range")
"""Parts of which all words go, or none."""
_LEGEND = ("legend", "legend-form", "legend-title")
"""What goes with the names of a legend: swatches, lines and the ground under them."""


def cleared(
    marks: Sequence[Mark], width: float, height: float, frames: Sequence[Frame], measure: Measure
) -> tuple[list[Mark], tuple[str, ...]]:
    """The same marks without words that would lie over others, over what is drawn in a frame, or
    beyond the page; and the parts of the figure that these were of."""
    places = [index for index, mark in enumerate(marks) if isinstance(mark, Text)]
    texts = [mark for mark in marks if isinstance(mark, Text)]
    if not texts:
        return list(marks), ()
    boxes = [_box(text, measure) for text in texts]
    right, bottom = width + _SLACK, height + _SLACK
    outside = {
        number
        for number, box in enumerate(boxes)
        if box[0] < -_SLACK or box[1] < -_SLACK or box[2] > right or box[3] > bottom
    }
    outside |= _struck(marks, places, boxes, frames)
    meets = _meeting(boxes)
    if not outside and not meets:
        return list(marks), ()
    gone = _giving_way(texts, outside, meets, measure)
    left_out = {places[number] for number in gone}
    parts = {texts[number].meaning for number in gone}
    without_legend = any(m is not None and _unit_part(m.part) == "legend" for m in parts)
    kept = [
        mark
        for index, mark in enumerate(marks)
        if index not in left_out
        and not (without_legend and mark.meaning and mark.meaning.part in _LEGEND)
    ]
    named = dict.fromkeys(texts[number].meaning for number in sorted(gone))
    return kept, tuple(dict.fromkeys(meaning.part for meaning in named if meaning))


_Box = tuple[float, float, float, float]


def _struck(
    marks: Sequence[Mark], places: Sequence[int], boxes: Sequence[_Box], frames: Sequence[Frame]
) -> set[int]:
    """The numbers of words about a frame that something drawn there would cross, as happens on
    pages that are too small; those within it have found their places, or have a ground."""
    answer: set[int] = set()
    risen = [
        float(mark.lines[:, [1, 3]].min())
        for mark in marks
        if isinstance(mark, Segments) and mark.meaning and mark.meaning.part == "centre"
    ]
    top = min(risen, default=math.inf)
    for number, (place, box) in enumerate(zip(places, boxes, strict=True)):
        meaning = marks[place].meaning
        part = meaning.part if meaning else ""
        if part in _PLACED or not any(_reaches(frame, top, box) for frame in frames):
            continue
        rect = Rect(*box)
        first = 0  # what lies under a ground does not count
        for under, mark in enumerate(marks[:place]):
            if isinstance(mark, Area) and mark.meaning.part in (GROUND, part, _ground_of(part)):
                (left, top), (right, bottom) = mark.points.min(axis=0), mark.points.max(axis=0)
                if rect.within(Rect(left, top, right, bottom)):
                    first = under + 1
        if Cover(marks[first:]).crosses(rect):
            answer.add(number)
    return answer


def _reaches(frame: Frame, risen: float, box: _Box) -> bool:
    """Whether a box reaches into a frame, its ticks, or lines that have risen above it."""
    left, top, right, bottom = box
    beside = right > frame.left - _TICKS and left < frame.right
    return beside and bottom > min(frame.top, risen) and top < frame.bottom + _TICKS


def _meeting(boxes: Sequence[_Box]) -> set[tuple[int, int]]:
    """The pairs of boxes that lie over one another, each both ways, found from left to right."""
    order = sorted(range(len(boxes)), key=lambda number: boxes[number][0])
    meets: set[tuple[int, int]] = set()
    for index, each in enumerate(order):
        _, top, right, bottom = boxes[each]
        right -= _SLACK
        for other in order[index + 1 :]:
            box = boxes[other]
            if box[0] >= right:
                break
            if box[1] < bottom - _SLACK and top < box[3] - _SLACK:
                meets |= {(each, other), (other, each)}
    return meets


def _giving_way(
    texts: Sequence[Text], outside: set[int], meets: set[tuple[int, int]], measure: Measure
) -> set[int]:
    """The numbers of texts that have no room, the least important first."""
    shapes = [shape_of(text, measure) for text in texts]
    units: dict[object, list[int]] = {}
    for number, text in enumerate(texts):
        units.setdefault(_unit(text, number), []).append(number)
    order = sorted(units.values(), key=lambda unit: (_rank(texts[unit[0]].meaning), unit[0]))
    kept: list[int] = []
    gone: set[int] = set()
    for unit in order:
        if any(n in outside for n in unit) or any(
            (n, other) in meets and overlapping(shapes[n], shapes[other])
            for n in unit
            for other in kept
        ):
            gone.update(unit)
        else:
            kept += unit
    return gone


def _box(text: Text, measure: Measure) -> _Box:
    """Left, top, right and bottom of the rectangle around a text."""
    wide = measure(text.text, text.size, face_of(text.bold, text.slant))
    back = _BACK[text.anchor] * wide
    over, under = _ASCENT * text.size, _DESCENT * text.size
    if not text.angle:
        return text.x - back, text.y - over, text.x - back + wide, text.y + under
    if text.angle == 90:
        return text.x - over, text.y + back - wide, text.x + under, text.y + back
    shape = shape_of(text, measure)
    (left, top), (right, bottom) = shape.min(axis=0).tolist(), shape.max(axis=0).tolist()
    return left, top, right, bottom


def _unit(text: Text, number: int) -> object:
    """What goes together: all words of a title, all of the legend, or a text by itself."""
    meaning = text.meaning
    part = _unit_part(meaning.part) if meaning else ""
    if part not in _WHOLE:
        return number
    return meaning if part in ("text", "range") else part


def _unit_part(part: str) -> str:
    """Names of forms are as much of a legend as those of levels, and go and stay with them."""
    return "legend" if part == "legend-form" else part


def _ground_of(part: str) -> str:
    """The part whose ground lies under words: all of a legend stands on one."""
    return "legend" if part in _LEGEND else part


def _rank(meaning: Meaning | None) -> int:
    part = _unit_part(meaning.part) if meaning else ""
    return _ORDER.index(part) if part in _ORDER else len(_ORDER)


def shape_of(text: Text, measure: Measure) -> FloatArray:
    """The corners of a text on the page, turned as it is, shape (4, 2)."""
    wide = measure(text.text, text.size, face_of(text.bold, text.slant))
    back = _BACK[text.anchor] * wide
    along = np.array([-back, wide - back, wide - back, -back])
    across = np.array([-_ASCENT, -_ASCENT, _DESCENT, _DESCENT]) * text.size
    turn = math.radians(text.angle)
    cos, sin = math.cos(turn), math.sin(turn)
    return np.stack(
        [text.x + along * cos + across * sin, text.y - along * sin + across * cos], axis=1
    )


def overlapping(one: FloatArray, other: FloatArray) -> bool:
    """Whether two rectangles share more than an edge, however they are turned.

    Parameters
    ----------
    one, other : array, shape (4, 2)
        Their corners on the page, one after the other.
    """
    for shape in (one, other):
        for start in (0, 1):
            side = shape[start + 1] - shape[start]
            length = math.hypot(float(side[0]), float(side[1]))
            if not length:
                return False
            ours, theirs = one @ side / length, other @ side / length
            shared = min(ours.max(), theirs.max()) - max(ours.min(), theirs.min())
            if shared <= _SLACK:
                return False
    return True
