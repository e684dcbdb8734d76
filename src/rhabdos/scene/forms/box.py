"""Boxes: box, median, whiskers, the values beyond in two grades, their names, and the mean."""

import math
from collections.abc import Sequence

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.figure.forms.box import box_widths, boxes, letter_values, named_beyond
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.swaying import swaying
from rhabdos.scene.coordinates import Band
from rhabdos.scene.forms.form import SWAY_SHADE, Drawing, Layers, SceneForm
from rhabdos.scene.forms.pixel_thinning import spots
from rhabdos.scene.forms.points import padded_reach
from rhabdos.scene.marks import Area, Dots, Mark, Meaning, Path, Segments, Shape, Text
from rhabdos.scene.words.label_places import Rect, placed_names
from rhabdos.stats.boxes import Box, Tail

_SHARE = 0.86  # of its strip's extent, that the widest box takes
_CAP = 0.45  # of a box's half extent, that the ends of whiskers take
_WAIST = 0.5  # of it, at the median of a notched box
_THIN = 5.0  # half the extent of a box in points, from which on letter values are outlined
_MOST_NAMED = 60  # values a box, from the farthest out, for which room is sought
# Of a box's places in order (whisker, quartile, notch, median, notch, quartile, whisker): which its
# outline goes round by, and how far from its middle; a notched one has a waist at the median.
_PLAIN, _PLAIN_AWAY = [1, 5, 5, 1, 1], np.array([1.0, 1.0, -1.0, -1.0, 1.0])
_NOTCHED = [1, 2, 3, 4, 5, 5, 4, 3, 2, 1, 1]
_NOTCHED_AWAY = np.array([1.0, 1.0, _WAIST, 1.0, 1.0, -1.0, -1.0, -_WAIST, -1.0, -1.0, 1.0])
_WHISKERS = [0, 1, 5, 6]


def _reach(readings: Readings, groups: Sequence[int]) -> tuple[float, float] | None:
    """As far as values reach, and as notches do that fold past their quartile."""
    reach = padded_reach(readings, groups)
    settings = readings.recipe.box
    if reach is None or not settings.notches or settings.letters:
        return reach
    drawn = [boxes(readings)[group] for group in groups]
    ends = [end for box in drawn if box.n for end in (box.notch_low, box.notch_high)]
    if readings.scale_of(groups[0]).axis.log:  # where what is not above 0 has no place
        ends = [end for end in ends if end > 0]
    ends = [end for end in ends if math.isfinite(end)]
    return min([reach[0], *ends]), max([reach[1], *ends])


def _layers(drawing: Drawing, band: Band, groups: Sequence[int]) -> Layers:
    fills: list[Mark] = []
    lines: list[Mark] = []
    for group in groups:
        drawn = boxes(drawing.readings)[group]
        if not drawn.n:
            continue
        half = _half(drawing, band, group)
        outside: Sequence[Tail] = drawn.tails
        if drawing.readings.recipe.box.letters:
            below, above, first, stop = _letter_boxes(drawing, band, group, half)
            outside = (Tail(0, first, False), Tail(stop, drawn.n, False))
        else:
            below, above = _box(drawing, band, group, drawn, half)
        fills += below
        fills += _sway(drawing, band, group, half)
        lines += above
        lines += _beyond(drawing, band, group, drawn, outside)
        lines += _mean(drawing, band, group, drawn)
    return fills, lines


def _sway(drawing: Drawing, band: Band, group: int, half: float) -> list[Mark]:
    """Where the quartiles and the median would mostly lie, as shades across the box."""
    if not swaying(drawing.readings, "box"):
        return []
    from rhabdos.figure.forms.sway import box_ends  # which no start needs

    frame, middle, marks = drawing.frame, band.middle, list[Mark]()
    for ends in box_ends(drawing.readings, group):
        if ends is None or ends[1] < frame.low or ends[0] > frame.high:
            continue
        low, high = frame.alongs(np.array(ends)).tolist()
        near, far = middle - half, middle + half
        corners = [(low, near), (high, near), (high, far), (low, far)]
        points = np.array([frame.point(*corner) for corner in corners])
        marks.append(Area(points, drawing.inks[group], SWAY_SHADE / 2, Meaning("sway", group)))
    return marks


def _box(
    drawing: Drawing, band: Band, group: int, drawn: Box, half: float
) -> tuple[list[Mark], list[Mark]]:
    frame, style, meaning = drawing.frame, drawing.style, Meaning("box", group)
    middle = band.middle
    notched = drawing.readings.recipe.box.notches
    ends = [drawn.whisker_low, drawn.q1, drawn.notch_low, drawn.median]
    ends += [drawn.notch_high, drawn.q3, drawn.whisker_high]
    places = frame.alongs(np.array(ends))  # all at once, which a hand on the whiskers waits for
    side, away = (_NOTCHED, _NOTCHED_AWAY) if notched else (_PLAIN, _PLAIN_AWAY)
    points = frame.points(places[side], middle + half * away)
    paper = "violin" in drawing.readings.recipe.show.forms
    fill = style.paper if paper else drawing.colours[group]
    opacity = 0.9 if paper else style.filled(style.box_fill)
    hatch = 0 if paper else style.hatch_of(drawing.tones[group])
    body = Area(points, fill, opacity, meaning, notched, hatch)
    ink, width, dash = drawing.stroke("box", group, drawing.inks[group], style.box_line, ())
    outline = Path(points, ink, width, 1.0, meaning, smooth=notched, dash=dash)
    low, q1, q3, high = places[_WHISKERS]
    cap = half * _CAP
    whiskers = frame.lines(
        np.array([q1, q3, low, high]),
        np.array([middle, middle, middle - cap, middle - cap]),
        np.array([low, high, low, high]),
        np.array([middle, middle, middle + cap, middle + cap]),
    )
    reach = half * _WAIST if notched else half
    return [body], [
        outline,
        Segments(whiskers, ink, width, 1.0, meaning, dash),
        _median(drawing, group, places[3:4], middle, reach),
    ]


def _median(
    drawing: Drawing, group: int, place: FloatArray, middle: float, reach: float
) -> Segments:
    low, high = np.array([middle - reach]), np.array([middle + reach])
    line = drawing.frame.lines(place, low, place, high)
    usual = drawing.inks[group], drawing.style.median_line
    ink, width, dash = drawing.stroke("median", group, *usual, ())
    return Segments(line, ink, width, 1.0, Meaning("box", group), dash)


def _letter_boxes(
    drawing: Drawing, band: Band, group: int, half: float
) -> tuple[list[Mark], list[Mark], int, int]:
    """Boxes within boxes, one a pair of letter values, the farther out the narrower.

    Also the ranks between which all values lie in one of them.
    """
    frame, style, meaning = drawing.frame, drawing.style, Meaning("box", group)
    pairs = letter_values(drawing.readings)[group]
    sample, middle = drawing.readings.groups[group].sample, band.middle
    fills: list[Mark] = []
    lines: list[Mark] = []
    nested = pairs[1:]
    for step, pair in reversed(list(enumerate(nested))):
        reach = half * (1 - step / len(nested))
        ends = frame.alongs(np.array([pair.low, pair.high]))
        along = ends[[0, 1, 1, 0, 0]]
        points = frame.points(along, middle + reach * np.array([1.0, 1.0, -1.0, -1.0, 1.0]))
        # Each lies on paper of its own, over those that are narrower; the nearer, the darker.
        shade = style.box_fill * (1.3 - step / len(nested))
        fills.append(Area(points, style.paper, 1.0, meaning))
        fills.append(Area(points, drawing.colours[group], shade, meaning))
        if half > _THIN:
            fills.append(Path(points, drawing.inks[group], style.box_line * 0.75, 1.0, meaning))
    median = frame.alongs(np.array([pairs[0].low]))
    lines.append(_median(drawing, group, median, middle, half))
    outermost = pairs[-1]
    first = int(sample.below(np.array([outermost.low]))[0])
    stop = int(sample.below(np.array([outermost.high]), inclusive=True)[0])
    return fills, lines, first, stop


def _beyond(
    drawing: Drawing, band: Band, group: int, drawn: Box, tails: Sequence[Tail]
) -> list[Mark]:
    """Rings for values beyond the whiskers, discs for those far beyond."""
    frame, meaning = drawing.frame, Meaning("box", group)
    marks: list[Mark] = []
    for far in (False, True):
        alongs = [
            spots(drawn.sample, tail.start, tail.stop, frame) for tail in tails if tail.far is far
        ]
        along = np.concatenate(alongs) if alongs else np.empty(0)
        if len(along):
            places = frame.points(along, np.full(len(along), band.middle))
            shape: Shape = "disc" if far else "ring"
            size = _mark_size(drawing)
            marks.append(Dots(places, shape, size, drawing.inks[group], 1.0, meaning))
    return marks


def _mark_size(drawing: Drawing) -> float:
    """How large the marks of values beyond are, in points of the page."""
    size: float | None = drawing.readings.recipe.box.mark_size
    return drawing.style.dot if size is None else size / drawing.style.letters


def _words(drawing: Drawing, band: Band, groups: Sequence[int]) -> list[Text]:
    """The names of values beyond whiskers."""
    if drawing.readings.recipe.box.names is None:
        return []
    return [name for group in groups for name in _names(drawing, band, group)]


def _half(drawing: Drawing, band: Band, group: int) -> float:
    """Half the extent of a box, in points."""
    share = drawing.readings.recipe.box.share or _SHARE
    return band.thickness / 2 * share * box_widths(drawing.readings)[group]


def _names(drawing: Drawing, band: Band, group: int) -> list[Text]:
    frame, drawn = drawing.frame, boxes(drawing.readings)[group]
    if not drawn.n:
        return []
    half = _half(drawing, band, group)
    named = [
        value_beyond
        for value_beyond in named_beyond(drawing.readings, group, _MOST_NAMED)
        if frame.low <= value_beyond.value <= frame.high
    ]
    dots = [
        (*frame.point(frame.along(value_beyond.value), band.middle), value_beyond.name)
        for value_beyond in named
    ]
    lane = next(lane for lane in frame.lanes if group in lane.groups)
    whiskers = frame.alongs(np.array([drawn.whisker_low, drawn.whisker_high]))
    box = frame.points(whiskers, np.array([band.middle - half, band.middle + half]))
    room = frame.points(np.array([frame.start, frame.end]), np.array([lane.first, lane.last]))
    bands = [strip.band for strip in lane.strips if not strip.band.holds(band.middle)]
    bands += [heights.band for heights in lane.heights]
    ends = np.array([frame.start, frame.end])
    others = [_rect(frame.points(ends, np.array([other.base, other.tip]))) for other in bands]
    return placed_names(
        dots,
        _mark_size(drawing) / 2,
        [_rect(box), *others, *drawing.taken],
        _rect(room),
        Meaning("box", group),
        drawing.measure,
        drawing.style,
        drawing.readings.recipe.box.name_size,
    )


def _rect(corners: FloatArray) -> Rect:
    left, top = corners.min(axis=0).tolist()
    right, bottom = corners.max(axis=0).tolist()
    return Rect(left, top, right, bottom)


def _mean(drawing: Drawing, band: Band, group: int, drawn: Box) -> list[Mark]:
    settings = drawing.readings.recipe.box
    if not settings.mean or not drawing.frame.low <= drawn.mean <= drawing.frame.high:
        return []
    place = np.array([drawing.frame.point(drawing.frame.along(drawn.mean), band.middle)])
    style = drawing.style
    return [
        Dots(
            place,
            settings.mean_shape,
            min(settings.mean_size, band.thickness),
            drawing.inks[group],
            1.0,
            Meaning("box", group),
            style.paper,
        )
    ]


DRAWN = {"box": SceneForm(_reach, _layers, words=_words)}
