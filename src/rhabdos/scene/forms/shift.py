"""Decile arrows: nine of them under one another in a group's strip, the interval as a shade at the
tip."""

import math
from collections.abc import Sequence

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.figure.forms.shift import Arrows, arrows
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.reference import quantile_definition, shown_reference, sure_told
from rhabdos.scene.coordinates import Band, Frame
from rhabdos.scene.forms.form import Drawing, Layers, SceneForm
from rhabdos.scene.forms.points import padded_reach
from rhabdos.scene.marks import Anchor, Area, Mark, Meaning, Segments, Text
from rhabdos.scene.style.lettering import shortened
from rhabdos.scene.style.palette import readable
from rhabdos.scene.words.label_places import rect_of
from rhabdos.stats.quantiles import quantiles
from rhabdos.stats.two_samples.comparing import DECILES

_LINE = 0.9  # points of an arrow
_HEAD, _HALF = 5.0, 2.1  # length of an arrow's head and half its width, in points, at most
_ROW_SHARE = 0.36  # of a row, that half a shade takes at most
_HEAD_SHARE = 0.6  # … and half a head, which hardly ever stand over one another
_SHADE = 0.28  # opacity of intervals
_NAME = 8.0  # points, of the names in strips
_LEAST_NAMED = 13.0  # points of a strip, in which there is room for a name
_NAME_SHARE = 0.4  # of the axis, that a name takes at most


def _reach(readings: Readings, groups: Sequence[int]) -> tuple[float, float] | None:
    """The tenths of these groups and of the reference, and the ends of their intervals."""
    drawn = arrows(readings)
    of = [drawn[group] for group in groups if group in drawn]
    if not of:
        return padded_reach(readings, groups)
    ends = np.concatenate([np.concatenate([a.starts, a.ends, a.low, a.high]) for a in of])
    ends = ends[np.isfinite(ends)]
    low, high = float(ends.min()), float(ends.max())
    axis = readings.scale_of(groups[0]).axis
    if not axis.admits(low):  # an interval may reach where the axis has no place
        low = min(float(min(a.starts.min(), a.ends.min())) for a in of)
    usual = padded_reach(readings, groups)
    return (min(low, usual[0]), max(high, usual[1])) if usual else (low, high)


def _layers(drawing: Drawing, band: Band, groups: Sequence[int]) -> Layers:
    fills: list[Mark] = []
    lines: list[Mark] = []
    drawn, reference = arrows(drawing.readings), shown_reference(drawing.readings)
    for group in groups:
        if group in drawn:
            below, above = _arrows(drawing, band, drawn[group])
            fills += below
            lines += above
        elif reference is not None and group == reference.index:
            lines += _tenths(drawing, band, group)
    return fills, lines


def _rows(band: Band) -> tuple[FloatArray, float]:
    """The middle of each row across, the first tenth at the top or at the left; and a row's
    extent."""
    each = band.thickness / len(DECILES)
    middles = min(band.base, band.tip) + each * (np.arange(len(DECILES)) + 0.5)
    return np.asarray(middles, dtype=np.float64), each


def _arrows(drawing: Drawing, band: Band, of: Arrows) -> Layers:
    frame, meaning = drawing.frame, Meaning("shift", of.group)
    across, row = _rows(band)
    colour, ink = drawing.colours[of.group], drawing.inks[of.group]
    line = colour if drawing.readings.groups[of.group].forward else ink
    half = min(_HALF, row * _HEAD_SHARE)
    starts, ends = frame.alongs(of.starts), frame.alongs(of.ends)
    fills = _shades(frame, of, across, min(row * _ROW_SHARE, 3.0), colour, meaning)
    shown = np.array([_seen(frame, *ends) for ends in zip(of.starts, of.ends, strict=True)])
    begins = shown & (of.starts >= frame.low) & (of.starts <= frame.high)
    ending = np.flatnonzero((of.ends >= frame.low) & (of.ends <= frame.high)).tolist()
    marks: list[Mark] = []
    if shown.any():
        lines = frame.lines(starts[shown], across[shown], ends[shown], across[shown])
        marks.append(Segments(lines, line, _LINE, 1.0, meaning))
    if begins.any():
        at, middle = starts[begins], across[begins]
        lines = frame.lines(at, middle - half, at, middle + half)
        marks.append(Segments(lines, drawing.colours[of.reference], _LINE, 1.0, meaning))
    marks += [_head(frame, (starts[n], ends[n]), across[n], half, line, meaning) for n in ending]
    return fills, marks


def _seen(frame: Frame, start: float, end: float) -> bool:
    return min(start, end) <= frame.high and max(start, end) >= frame.low


def _shades(
    frame: Frame, of: Arrows, across: FloatArray, half: float, colour: str, meaning: Meaning
) -> list[Mark]:
    """The interval at each tip, where there is one."""
    marks: list[Mark] = []
    for low, high, middle in zip(of.low, of.high, across, strict=True):
        if not (math.isfinite(low) and math.isfinite(high) and _seen(frame, low, high)):
            continue
        first, last = frame.alongs(np.array([low, high])).tolist()
        corners = [
            (first, middle - half),
            (last, middle - half),
            (last, middle + half),
            (first, middle + half),
        ]
        points = np.array([frame.point(*corner) for corner in corners])
        marks.append(Area(points, colour, _SHADE, meaning))
    return marks


def _head(
    frame: Frame,
    ends: tuple[float, float],
    across: float,
    half: float,
    colour: str,
    meaning: Meaning,
) -> Area:
    """The head of an arrow; of one that is shorter than a head, as long as it is."""
    start, end = ends
    long = min(_HEAD, max(abs(end - start), half))
    back = end - math.copysign(long, end - start)
    corners = [(end, across), (back, across - half), (back, across + half)]
    points = np.array([frame.point(*corner) for corner in corners])
    return Area(points, colour, 1.0, meaning, smooth=True)


def _tenths(drawing: Drawing, band: Band, group: int) -> list[Mark]:
    """The tenths of the reference, as ticks."""
    frame = drawing.frame
    values = _deciles(drawing.readings, group)
    values = values[(values >= frame.low) & (values <= frame.high)]
    at, half = frame.alongs(values), band.thickness * 0.3
    ends = np.full(len(at), band.middle)
    lines = frame.lines(at, ends - half, at, ends + half)
    return [Segments(lines, drawing.colours[group], _LINE, 1.0, Meaning("shift", group))]


def _deciles(readings: Readings, group: int) -> FloatArray:
    """Those that its arrows begin at, by the same definition."""
    return quantiles(
        readings.groups[group].sample, np.array(DECILES), quantile_definition(readings)
    )


def _words(drawing: Drawing, band: Band, groups: Sequence[int]) -> list[Text]:
    """The name of the group at that end of its strip where no arrow is, unless it stands beside its
    lane."""
    readings, frame, style = drawing.readings, drawing.frame, drawing.style
    if len(readings.plan.lanes) > 1 or frame.upright or band.thickness < _LEAST_NAMED:
        return []
    words: list[Text] = []
    anchor: Anchor
    wide = abs(frame.end - frame.start)
    for group in groups:
        own = arrows(readings).get(group)
        if own is None and not readings.groups[group].n:
            continue
        colour = readable(drawing.colours[group], style.ground or style.paper, style.ink)
        name = readings.groups[group].label
        name = shortened(name, wide * _NAME_SHARE, _NAME, True, drawing.measure)
        places = frame.alongs(_values(drawing, group))
        first, last = float(places.min()), float(places.max())
        length = drawing.measure(name, _NAME, True)
        if first - frame.start > length + 8:
            x, anchor = frame.start + 4, "start"
        elif frame.end - last > length + 8:
            x, anchor = frame.end - 4, "end"
        else:
            continue
        y, meaning = band.middle + _NAME * 0.33, Meaning("shift", group)
        text = Text(x, y, name, _NAME, anchor, colour, meaning, bold=True)
        rect = rect_of(text, drawing.measure)
        if not any(rect.meets(other) for other in drawing.taken):
            words.append(text)
    return words


def _values(drawing: Drawing, group: int) -> FloatArray:
    """All places of a strip, within the axis."""
    own = arrows(drawing.readings).get(group)
    if own is None:
        return _deciles(drawing.readings, group)
    values = np.concatenate([own.starts, own.ends, own.low, own.high])
    return np.asarray(values[np.isfinite(values)])


def _note(readings: Readings, _marks: Sequence[Mark]) -> str:
    """What arrows and shades mean."""
    reference = shown_reference(readings)
    if reference is None or not arrows(readings):
        return ""
    sure = sure_told(readings).replace(" %", " % intervals", 1)
    told = f"Arrows go from each tenth of {reference.label} to the group’s"
    return f"{told}; shades are {sure}"


DRAWN = {"shift": SceneForm(_reach, _layers, words=_words, note=_note)}
