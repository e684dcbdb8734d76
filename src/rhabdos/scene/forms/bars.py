"""Bars and their outline as silhouettes: one polygon a group, however many bins."""

from collections.abc import Sequence
from functools import partial

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.figure.forms.bars import Bars, bars, labels_of
from rhabdos.figure.readings import Readings
from rhabdos.scene.forms.form import Drawing, Layers, SceneForm
from rhabdos.scene.marks import Area, Mark, Meaning, Path, Segments, Text
from rhabdos.scene.names import Rect, rect_of
from rhabdos.scene.plane import Band
from rhabdos.scene.text import Measure

_NARROWEST_PARTED = 3.5  # points; closer bars are told apart by their steps alone
_PARTING = 0.6
_LABEL, _LEAST_LABEL, _SHRINK = 8.0, 5.5, 0.5  # sizes of the numbers on bars
_LABEL_GAP = 2.0
_OVER = 4.0  # points by which a number may reach past the ends of the axis
_MOST_THINNED = 4  # every so manieth bar is labelled at least, or none is


def _reach(readings: Readings) -> tuple[float, float]:
    edges = [readings.edges, *readings.own_edges]
    return min(own.low for own in edges), max(own.high for own in edges)


def _tallest(readings: Readings) -> float:
    return max((float(own.heights.max(initial=0.0)) for own in bars(readings)), default=0.0)


def _layers(drawing: Drawing, band: Band, groups: Sequence[int], *, filled: bool) -> Layers:
    fills: list[Mark] = []
    lines: list[Mark] = []
    of_groups = bars(drawing.readings)
    alongs: dict[int, FloatArray] = {}  # groups that share their bins share these
    for group in groups:
        if drawing.readings.groups[group].n:
            edges = of_groups[group].edges.values
            if id(edges) not in alongs:
                alongs[id(edges)] = drawing.frame.alongs(edges)
            place = alongs[id(edges)]
            below, above = _silhouette(drawing, band, group, of_groups[group], len(groups), place)
            fills += below if filled else []
            lines += above if filled else above[-1:]
    if drawing.readings.recipe.bars.labels is not None and (filled or not _with_bars(drawing)):
        texts = [text for group in groups for text in _labels(drawing, band, group, len(groups))]
        lines += _with_room(drawing, band, texts)
    return fills, lines


def _with_bars(drawing: Drawing) -> bool:
    return "bars" in drawing.readings.recipe.show.forms


def _silhouette(
    drawing: Drawing,
    band: Band,
    group: int,
    of_group: Bars,
    together: int,
    alongs: FloatArray,
) -> tuple[list[Mark], list[Mark]]:
    """Fills and lines of one group's bars, whose edges lie ``alongs``.

    Alone, bars are solid and parted by paper; ``together`` with others, see-through.
    """
    style = drawing.style
    standing = np.flatnonzero(of_group.heights)
    if not len(standing):
        return [], []
    # A silhouette does not run along the base line beyond its bars.
    first, last = standing[0], standing[-1]
    edges = alongs[first : last + 2]
    tops = band.ats(of_group.heights[first : last + 1])
    meaning, colour = Meaning("bars", group), drawing.colours[group]
    gap = drawing.readings.recipe.bars.gap
    outline = _gapped(edges, tops, band.base, gap) if gap else _steps(edges, tops, band.base)
    points = drawing.frame.points(outline[:, 0], outline[:, 1])
    alone = together == 1
    lines: list[Mark] = []
    narrow = (edges[-1] - edges[0]) / len(tops) < _NARROWEST_PARTED
    if len(tops) > 1 and not narrow and not gap:
        lower = np.where(
            np.abs(tops[:-1] - band.base) < np.abs(tops[1:] - band.base), tops[:-1], tops[1:]
        )
        met = lower != band.base
        inner, lower = edges[1:-1][met], lower[met]
        parting = drawing.frame.lines(inner, np.full(len(inner), band.base), inner, lower)
        lines.append(
            Segments(
                parting, style.paper if alone else colour, _PARTING, 1.0 if alone else 0.45, meaning
            )
        )
    width = style.fine_outline if narrow else style.outline
    lines.append(Path(points, colour, width, 1.0, meaning))
    return [Area(points, colour, style.bar_fill(together), meaning)], lines


def _steps(edges: FloatArray, tops: FloatArray, base: float) -> FloatArray:
    """Touching bars: up at the first edge, along their tops, and down at the last one."""
    outline = np.empty((2 * len(tops) + 2, 2))
    outline[0] = edges[0], base
    outline[-1] = edges[-1], base
    outline[1:-1:2, 0], outline[2:-1:2, 0] = edges[:-1], edges[1:]
    outline[1:-1:2, 1] = outline[2:-1:2, 1] = tops
    return outline


def _gapped(edges: FloatArray, tops: FloatArray, base: float, gap: float) -> FloatArray:
    """Bars with a share of their width left free between them, each down to the base line."""
    free = np.diff(edges) * gap / 2
    outline = np.empty((4 * len(tops), 2))
    outline[0::4, 0] = outline[1::4, 0] = edges[:-1] + free
    outline[2::4, 0] = outline[3::4, 0] = edges[1:] - free
    outline[0::4, 1] = outline[3::4, 1] = base
    outline[1::4, 1] = outline[2::4, 1] = tops
    return outline


def _with_room(drawing: Drawing, band: Band, texts: list[Text]) -> list[Text]:
    """The numbers that lie in their lane and over no other word; the others give way."""
    frame, kept = drawing.frame, []
    lane = next(lane for lane in frame.lanes if lane.heights == band)
    ends = np.array([frame.start, frame.end])
    corners = frame.points(ends, np.array([lane.first, lane.last]))
    left, top = corners.min(axis=0).tolist()
    right, bottom = corners.max(axis=0).tolist()
    room = Rect(left - _OVER, top - 1, right + (_OVER if frame.upright else 0), bottom)
    busy = list(drawing.taken)
    for text in texts:
        rect = rect_of(text, drawing.measure)
        if rect.within(room) and not any(rect.meets(other) for other in busy):
            busy.append(rect)
            kept.append(text)
    return kept


def _labels(drawing: Drawing, band: Band, group: int, together: int) -> list[Text]:
    """Numbers beyond the tips of a group's bars, as large and as many as have room.

    They lie level, or turned where bars are narrow; then smaller; then only every second, third or
    fourth bar has one; and where that is too many, pointing tells.
    """
    frame, measure = drawing.frame, drawing.measure
    texts = labels_of(drawing.readings, group)
    of_group = bars(drawing.readings)[group]
    edges = of_group.edges.values
    shown = [
        place
        for place, text in enumerate(texts)
        if text and edges[place] < frame.high and edges[place + 1] > frame.low
    ]
    if not shown or (together > 1 and len(shown) * together > 60):
        return []
    alongs = frame.alongs(edges)
    room = float(np.diff(alongs)[shown].min())
    fit = _fitting(texts, shown, room, frame.upright, measure)
    if fit is None:
        return []
    size, turned, every = fit
    colour = drawing.style.ink if together == 1 else drawing.colours[group]
    marks: list[Text] = []
    highest = max(shown, key=lambda place: float(of_group.heights[place]))
    for place in shown:
        if (place - highest) % every:
            continue
        middle = (alongs[place] + alongs[place + 1]) / 2
        tip = band.at(float(of_group.heights[place]))
        marks.append(_number(drawing, texts[place], middle, tip, size, turned, colour, group))
    return marks


def _fitting(
    texts: Sequence[str], shown: Sequence[int], room: float, upright: bool, measure: Measure
) -> tuple[float, bool, int] | None:
    """Size of the letters, whether they are turned, and every how manieth bar has a number."""
    for every in range(1, _MOST_THINNED + 1):
        size = _LABEL
        while size >= _LEAST_LABEL:
            wide = max(measure(texts[place], size, False) for place in shown)
            along = size if upright else wide
            if along + _LABEL_GAP <= room * every:
                return size, False, every
            if not upright and size * 1.05 <= room * every:
                return size, True, every
            size -= _SHRINK
    return None


def _number(
    drawing: Drawing,
    text: str,
    along: float,
    tip: float,
    size: float,
    turned: bool,
    colour: str,
    group: int,
) -> Text:
    frame, meaning = drawing.frame, Meaning("bars", group)
    if frame.upright:
        x, y = frame.point(along, tip + _LABEL_GAP)
        return Text(x, y + size * 0.35, text, size, "start", colour, meaning)
    if turned:
        return Text(
            along + size * 0.35, tip - _LABEL_GAP, text, size, "start", colour, meaning, angle=90
        )
    return Text(along, tip - _LABEL_GAP, text, size, "middle", colour, meaning)


def _label_room(readings: Readings, upright: bool, room: float, measure: Measure) -> float:
    """How far numbers reach beyond the tips of bars, in points; ``room`` is the narrowest bar's."""
    if readings.recipe.bars.labels is None:
        return 0.0
    texts = [text for group in readings.groups for text in labels_of(readings, group.place) if text]
    if not texts:
        return 0.0
    fit = _fitting(texts, range(len(texts)), room, upright, measure)
    if fit is None:
        return 0.0
    size, turned, _ = fit
    wide = max(measure(text, size, False) for text in texts)
    return _LABEL_GAP + 1.0 + (wide if upright or turned else size)


DRAWN = {
    "bars": SceneForm(_reach, partial(_layers, filled=True), _tallest, over=_label_room),
    "outline": SceneForm(_reach, partial(_layers, filled=False), _tallest, over=_label_room),
}
