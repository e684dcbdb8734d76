"""The axes: ticks with their labels, titles and grids, at the bottom and at the left of a frame.

Which of the two measures values, and which heights, the plane decides.
"""

import itertools
import math
from collections.abc import Callable, Sequence, Set
from functools import lru_cache

import numpy as np
from msgspec import Struct

from rhabdos.figure.readings.axis_limits import MOST_SPACED
from rhabdos.figure.recipe.recipe_axes import Axes, Axis, HeightAxis, ValueAxis
from rhabdos.scene.axes.limits import Limits
from rhabdos.scene.axes.ticks import Ticks, Writing, ticks, ticks_at, ticks_by, writing_of
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.marks import Anchor, Area, Mark, Meaning, Segments, Text
from rhabdos.scene.style.lettering import Face, Measure
from rhabdos.scene.style.style import HOUSE, Style
from rhabdos.stats.rounding import round_steps

_AS_USUAL = Axes()
TITLE_SIZE, TITLE_ROW = 9.0, 11.5  # points, and those of a row
_PLAIN = HOUSE.face("numbers")
TICK_SIZE = _PLAIN.size
"""Usual size of the numbers at ticks, in points."""
TICK = 3.5  # points of a tick's mark
LABEL_GAP = 3.0  # between a tick and its label
ROOM_ABOVE = 1.02  # the axis reaches at least this much beyond the tallest bar …
_SLACK = 1e-9  # of an axis, by which a tick may lie beyond it
_LEAST_SPAN = 1e-6  # of where an axis begins, that it reaches at least
_MOST_ROOM_ABOVE = 1.25  # … and to the next tick only if that is no further than this
_HIGHEST = 1.7e308  # where axes end, just short of the range of numbers
_POINTS_PER_TICK = 42  # of an axis, from which ticks are chosen
_BETWEEN_LABELS = 9.0  # points that must stay between labels
_PAST_THE_END = 13.0  # points by which a label may reach past the end of its axis, as a year does
_TURNED_ROW = 1.5  # … of turned ones, one beside the other
_LEAST_ROW = 2.2  # heights of a letter from one label to the next, one under the other


class HeightScale(Struct, frozen=True):
    """Ticks of an axis of heights, where it begins and ends, and how far heights reach."""

    ticks: Ticks
    top: float
    least: float = 0.0
    reached: float = 0.0

    @property
    def cuts(self) -> bool:
        """Whether it ends below the greatest height."""
        return self.reached > self.top * (1 + 1e-9)  # which adding up may take it beyond


NO_HEIGHTS = HeightScale(Ticks((), ()), 1.0)


def height_scale(
    tallest: float,
    extent: float,
    whole: bool,
    room: float = ROOM_ABOVE,
    settings: HeightAxis = _AS_USUAL.height,
    writing: Writing | None = None,
    ends_at: float | None = None,
) -> HeightScale:
    """The axis of heights: by default from 0 to a tick above the tallest bar if one is near.

    Parameters
    ----------
    extent : float
        Of the page or the lane, in points.
    room : float
        How far the axis reaches beyond the tallest, at least.
    writing : Writing, optional
        How numbers are written, instead of how they are asked to be.
    ends_at : float, optional
        Where it ends exactly, as another figure's does beside it.
    """
    writing = writing or writing_of(settings)
    least = min(max(settings.low or 0.0, -_HIGHEST / 100), _HIGHEST)
    reach = min((tallest or 1.0) * room if settings.high is None else settings.high, _HIGHEST)
    reach = reach if ends_at is None else ends_at
    if reach <= least:  # nothing that is drawn is as high
        reach = least + max(min(tallest or 1.0, _HIGHEST - least), abs(least) * _LEAST_SPAN)
    span = reach - least
    most = max(2, min(8, int(extent / _POINTS_PER_TICK)))
    ends = span / most, min(span * 10, _HIGHEST)
    # Curves may be less than one value high, where no whole number is a step.
    step = next(iter(round_steps(*ends, whole or settings.whole) or round_steps(*ends)), span)
    top = reach
    if settings.high is None and ends_at is None:
        next_tick = step * math.ceil(reach / step)
        top = next_tick if next_tick <= min(_MOST_ROOM_ABOVE * reach, _HIGHEST) else reach
    if settings.ticks == "none":
        return HeightScale(Ticks((), ()), top, least, tallest)
    listed = settings.ticks
    if listed is None and settings.words:
        listed = tuple(number for number, _ in settings.words)
    if isinstance(listed, tuple):
        inside = sorted({tick for tick in listed if least <= tick <= top})
        return HeightScale(
            in_words(ticks_at(inside, writing), settings, least, top), top, least, tallest
        )
    if isinstance(listed, float) and (top - least) / listed <= MOST_SPACED:
        step = listed
    ticks = in_words(ticks_by(least, top, step, writing), settings, least, top)
    return HeightScale(ticks, top, least, tallest)


def in_words(ticks: Ticks, settings: Axis, low: float, high: float) -> Ticks:
    """Ticks with the words that stand for numbers; such a number from ``low`` to ``high`` has a
    tick of its own where there is none."""
    if not settings.words:
        return ticks
    labels = dict(zip(ticks.places, ticks.labels, strict=True))
    labels |= {place: word for place, word in settings.words if low <= place <= high}
    return Ticks(tuple(sorted(labels)), tuple(labels[place] for place in sorted(labels)))


class _Beside(Struct, frozen=True):
    """What labels take along the value axis, and whether they have it."""

    limits: Limits
    extent: float
    upright: bool
    turn: int
    face: Face
    measure: Measure

    def room(self, text: str) -> float:
        """What a label takes along the axis, with what is left free beside it."""
        if bool(self.turn) is not self.upright or self.turn == 45:
            return (_LEAST_ROW if self.upright else _TURNED_ROW) * self.face.size
        return self.face.wide(text, self.measure) + _BETWEEN_LABELS

    def fits(self, candidates: Ticks, step: float) -> bool:
        """Whether labels of ticks a step apart have room beside one another."""
        if not self.limits.axis.even:
            return self._clear(candidates)
        apart = step / (self.limits.high - self.limits.low) * self.extent
        return all(self.room(text) <= apart for text in candidates.labels)

    def _clear(self, candidates: Ticks) -> bool:
        """The same, of ticks that may be anywhere."""
        rooms = [self.room(text) for text in candidates.labels]
        both = zip(itertools.pairwise(self.ats(candidates)), itertools.pairwise(rooms), strict=True)
        return all(abs(b - a) >= (first + second) / 2 for (a, b), (first, second) in both)

    def ats(self, candidates: Ticks) -> list[float]:
        """How far along the axis each tick is, in points."""
        return [self.limits.share(place) * self.extent for place in candidates.places]


@lru_cache(maxsize=64)  # the axis mostly stands still
def value_ticks(
    limits: Limits,
    extent: float,
    upright: bool,
    whole: bool,
    measure: Measure,
    dates: bool = False,
    settings: ValueAxis = _AS_USUAL.value,
    bins: tuple[float, ...] = (),
    face: Face = _PLAIN,
    percents: bool = False,
) -> Ticks:
    """The ticks of the value axis: the closest round ones whose labels have room, or as asked.

    Parameters
    ----------
    extent : float
        Of the axis, in points.
    upright : bool
        Whether labels stand one under the other.
    whole : bool
        Whether only whole numbers get ticks.
    dates : bool
        Whether values are days since 1970, and ticks are those of the calendar.
    bins : tuple of float
        Edges, at which or between which ticks may be asked for.
    face : Face
        How labels are set.
    percents : bool
        Whether values are percents.
    """
    low, high = limits.low, limits.high
    turn, writing = settings.turn or 0, writing_of(settings, percents)
    labels = _Beside(limits, extent, upright, turn, face, measure)
    if settings.ticks == "none":
        return Ticks((), ())
    listed = settings.ticks
    if listed is None and settings.words:
        listed = tuple(number for number, _ in settings.words)
    if listed is not None:
        wanted = _wanted(listed, limits, bins, writing, dates)
        wanted = in_words(wanted, settings, low, high)
        words = {word for _, word in settings.words}
        return _thinned(wanted, labels.ats(wanted), labels.room, words)
    if dates:
        from rhabdos.scene.axes.date_ticks import date_ticks

        along = date_ticks(low, high, labels.fits)
        return along if upright or turn else _within_the_page(along, limits, extent, measure, face)
    if not limits.axis.even:
        from rhabdos.scene.axes.uneven_ticks import ticks_along

        return ticks_along(limits.axis, low, high, labels.fits, writing)
    return ticks(low, high, labels.fits, whole or settings.whole, writing)


def _wanted(
    settings: float | tuple[float, ...] | str,
    limits: Limits,
    bins: Sequence[float],
    writing: Writing,
    dates: bool,
) -> Ticks:
    """The ticks that a recipe names, within the limits."""
    if dates:
        from rhabdos.scene.axes.date_ticks import dates_at, dates_by
    if isinstance(settings, float):
        low, high = limits.low, limits.high
        return dates_by(low, high, settings) if dates else ticks_by(low, high, settings, writing)
    places: Sequence[float] = bins
    if isinstance(settings, tuple):
        places = sorted(set(settings))
    elif settings == "middles":
        shown = (edge if limits.axis.admits(edge) else limits.low for edge in bins)
        ends = itertools.pairwise(limits.axis.place(edge) for edge in shown)
        places = [limits.axis.value(a / 2 + b / 2) for a, b in ends]
    shown = (place for place in places if limits.axis.admits(place))
    within = (p for p in shown if -_SLACK <= limits.share(p) <= 1 + _SLACK)
    if dates:
        return dates_at(list(within), roughly=isinstance(settings, str))
    return ticks_at(list(within), writing, apart=not isinstance(settings, tuple))


def _thinned(
    wanted: Ticks, ats: Sequence[float], room: Callable[[str], float], first: Set[str]
) -> Ticks:
    """The same ticks without the labels that would touch one before, or some that come first."""
    kept = dict.fromkeys(range(len(ats)), "")
    taken: list[tuple[float, float]] = []
    along = sorted(range(len(ats)), key=lambda index: ats[index])
    for index in sorted(along, key=lambda index: wanted.labels[index] not in first):
        half = room(wanted.labels[index]) / 2
        begins, ends = ats[index] - half, ats[index] + half
        if all(begins >= others_end or ends <= other for other, others_end in taken):
            kept[index] = wanted.labels[index]
            taken.append((begins, ends))
    return Ticks(wanted.places, tuple(kept[index] for index in range(len(ats))))


def _within_the_page(
    wanted: Ticks, limits: Limits, extent: float, measure: Measure, face: Face
) -> Ticks:
    """The same ticks without the labels that would reach past the ends of the axis too far."""
    kept = []
    for place, label in zip(wanted.places, wanted.labels, strict=True):
        half = face.wide(label, measure) / 2
        at = limits.share(place) * extent
        kept.append(label if min(at, extent - at) + _PAST_THE_END >= half else "")
    return Ticks(wanted.places, tuple(kept))


def grid_along(frame: Frame, at: Sequence[float], style: Style) -> Mark:
    """Hairlines at values, across the whole frame."""
    places = frame.alongs(np.array(at))
    first, last = np.full(len(places), frame.first), np.full(len(places), frame.last)
    lines = frame.lines(places, first, places, last)
    return Segments(lines, style.hairline, style.grid_line, 1.0, None)


def grid_across(frame: Frame, levels: Sequence[float], style: Style) -> Mark:
    """Hairlines at places across, along the whole frame."""
    places = np.array(levels)
    start, end = np.full(len(places), frame.start), np.full(len(places), frame.end)
    return Segments(
        frame.lines(start, places, end, places), style.hairline, style.grid_line, 1.0, None
    )


def deep(labels: Sequence[str], turn: int, measure: Measure, face: Face) -> float:
    """How far labels under an axis reach down, in points."""
    if not turn:
        return face.size
    widest = face.widest(labels, measure)
    return widest if turn == 90 else (widest + face.size) * math.sqrt(0.5)


def wide(labels: Sequence[str], turn: int, measure: Measure, face: Face) -> float:
    """How far labels beside an axis reach out, in points."""
    if turn == 90:
        return face.size
    widest = face.widest(labels, measure)
    return widest if not turn else (widest + face.size) * math.sqrt(0.5)


def bottom_labels(
    xs: Sequence[float],
    labels: Sequence[str],
    base: float,
    meaning: Meaning,
    face: Face = _PLAIN,
    turn: int = 0,
) -> list[Text]:
    """Labels of ticks under an axis whose line lies at ``base``; turned ones end at their tick."""
    y, aside = base + TICK + face.size + 1, 0.0
    anchor: Anchor = "end" if turn else "middle"
    if turn:
        y = base + TICK + LABEL_GAP + (0.0 if turn == 90 else face.size * 0.4)
        aside = face.size * (0.33 if turn == 90 else 0.5)
    return _labels([x + aside for x in xs], [y] * len(xs), labels, anchor, meaning, face, turn)


def left_labels(
    ys: Sequence[float],
    labels: Sequence[str],
    right: float,
    meaning: Meaning,
    face: Face = _PLAIN,
    turn: int = 0,
) -> list[Text]:
    """Labels of ticks beside an axis that stands at ``right``; turned upright they are centred."""
    x = right - TICK - LABEL_GAP
    anchor: Anchor = "middle" if turn == 90 else "end"
    down = 0.0 if turn == 90 else face.size * 0.33
    return _labels([x] * len(ys), [y + down for y in ys], labels, anchor, meaning, face, turn)


def right_labels(
    ys: Sequence[float], labels: Sequence[str], left: float, meaning: Meaning, face: Face
) -> list[Text]:
    """Labels of ticks at the right of an axis that stands at ``left``."""
    x, down = left + TICK + LABEL_GAP, face.size * 0.33
    return _labels([x] * len(ys), [y + down for y in ys], labels, "start", meaning, face)


def top_labels(
    xs: Sequence[float], labels: Sequence[str], top: float, meaning: Meaning, face: Face
) -> list[Text]:
    """Labels of ticks over an axis that lies at ``top``."""
    return _labels(xs, [top - TICK] * len(xs), labels, "middle", meaning, face)


def _labels(
    xs: Sequence[float],
    ys: Sequence[float],
    labels: Sequence[str],
    anchor: Anchor,
    meaning: Meaning,
    face: Face,
    turn: int = 0,
) -> list[Text]:
    return [
        Text(
            x, y, text, face.size, anchor, face.colour, meaning, face.bold, float(turn), face.slant
        )
        for x, y, text in zip(xs, ys, labels, strict=True)
        if text
    ]


def bottom_title(
    lines: Sequence[str], middle: float, bottom: float, meaning: Meaning, style: Style
) -> list[Mark]:
    """The title of the axis at the bottom; the base line of its last line is at ``bottom``."""
    first = bottom - (len(lines) - 1) * TITLE_ROW
    return [
        Text(middle, first + row * TITLE_ROW, line, TITLE_SIZE, "middle", style.ink, meaning)
        for row, line in enumerate(lines)
    ]


def left_title(
    lines: Sequence[str], left: float, middle: float, meaning: Meaning, style: Style
) -> list[Mark]:
    """The title of the axis at the left, turned upright."""
    first = left + TITLE_SIZE - 1
    return [
        Text(
            first + row * TITLE_ROW,
            middle,
            line,
            TITLE_SIZE,
            "middle",
            style.ink,
            meaning,
            angle=90,
        )
        for row, line in enumerate(lines)
    ]


def ground(frame: Frame, style: Style) -> Mark:
    """The ground of a frame, where it differs from the paper."""
    left, top, right, bottom = frame.left, frame.top, frame.right, frame.bottom
    corners = np.array([[left, top], [right, top], [right, bottom], [left, bottom]])
    return Area(corners, style.ground, 1.0, Meaning("panel"))


def outline(frame: Frame, style: Style) -> Mark:
    """A hairline around a frame."""
    left, top, right, bottom = frame.left, frame.top, frame.right, frame.bottom
    sides = [
        [left, top, right, top],
        [right, top, right, bottom],
        [right, bottom, left, bottom],
        [left, bottom, left, top],
    ]
    return Segments(np.array(sides), style.hairline, style.grid_line, 1.0, None)


@lru_cache(maxsize=64)  # the axis mostly stands still
def value_line(frame: Frame, at: Ticks, style: Style, marked: str = "outside") -> Mark:
    """The line of the value axis with its ticks, at the bottom or left of a frame without lanes."""
    base, out = (frame.left, -TICK) if frame.upright else (frame.bottom, TICK)
    out = {"outside": out, "inside": -out, "none": 0.0}[marked]
    places = frame.alongs(np.array(at.places)) if at.places and out else np.empty(0)
    line = frame.lines(*(np.array([end]) for end in (frame.start, base, frame.end, base)))
    bases = np.full(len(places), base)
    marks = frame.lines(places, bases, places, bases + out)
    return Segments(
        np.vstack([line, marks]), style.ink, style.axis_line, 1.0, Meaning("value-axis")
    )


def sides(frame: Frame, shown: Sequence[str], style: Style) -> Mark:
    """The sides of a frame that are asked for, in ink."""
    left, top, right, bottom = frame.left, frame.top, frame.right, frame.bottom
    ends = {
        "left": [left, top, left, bottom],
        "right": [right, top, right, bottom],
        "top": [left, top, right, top],
        "bottom": [left, bottom, right, bottom],
    }
    lines = np.array([ends[side] for side in dict.fromkeys(shown)])
    return Segments(lines, style.ink, style.axis_line, 1.0, None)


def height_marks(frame: Frame, levels: Sequence[float], marked: str, style: Style) -> Mark:
    """Small lines at the ticks of heights, where a side of the frame stands beside them."""
    out = {"outside": -TICK, "inside": TICK, "none": 0.0}[marked]
    places = np.array(levels)
    start = np.full(len(places), frame.start)
    lines = frame.lines(start, places, start + out, places)
    return Segments(lines, style.ink, style.axis_line, 1.0, Meaning("height-axis"))
