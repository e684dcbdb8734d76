"""Quantile pairs: along lies the group's own quantile, across that which it stands beside; on the
line where both are alike, in a band as far as chance goes."""

from collections.abc import Sequence

import numpy as np
from msgspec import structs
from numpy.typing import NDArray

from rhabdos.arrays import FloatArray
from rhabdos.figure.forms.pairs import PairsReading, band_told, beside_words, pairs_of
from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.coordinates import Band
from rhabdos.scene.forms.form import Drawing, Layers, SceneForm
from rhabdos.scene.forms.points import padded_reach
from rhabdos.scene.marks import Anchor, Area, Dots, Mark, Meaning, Segments, Text
from rhabdos.scene.style.lettering import shortened
from rhabdos.scene.style.palette import readable
from rhabdos.scene.words.label_places import rect_of

_DOT = 3.0  # points across, at most …
_DOT_SHARE = 0.09  # … and of a strip
_LINE = 0.9  # points, of the line where both quantiles are alike
_SHADE = 0.22  # opacity of bands
_EDGE = 0.05  # of a strip, left free at either side
_SHARES = (0.5, 0.1, 0.9, 0.01, 0.99, 0.25, 0.75)  # told at the sides, those that matter first
_GAP = 2.0  # points between shares
_LETTERS = 7.5  # points, of shares and names
_LEAST_TOLD = 46.0  # points of a strip, in which there is room for shares
_NAME_SHARE = 0.4  # of the axis, that a name takes at most


def _reach(readings: Readings, groups: Sequence[int]) -> tuple[float, float] | None:
    """All values, and the whole of the line where both quantiles are alike."""
    usual = padded_reach(readings, groups)
    drawn = [pairs for group in groups if len((pairs := pairs_of(readings, group)).x)]
    if usual is None or not drawn:
        return usual
    low, high = (fitting(p.x[end] for p in drawn) for end, fitting in ((0, min), (-1, max)))
    axis = readings.scale_of(groups[0]).axis
    return (min(usual[0], float(low)) if axis.admits(float(low)) else usual[0]), max(
        usual[1], float(high)
    )


def _layers(drawing: Drawing, band: Band, groups: Sequence[int]) -> Layers:
    fills: list[Mark] = []
    lines: list[Mark] = []
    for group in groups:
        pairs = pairs_of(drawing.readings, group)
        if len(pairs.y):
            fills += _band(drawing, band, pairs)
            lines += [*_alike(drawing, band, pairs), *_dots(drawing, band, pairs)]
    return fills, lines


def _across(drawing: Drawing, band: Band, found: PairsReading, values: FloatArray) -> FloatArray:
    """Where quantiles of the other side lie across: as the value axis has them, from the least to
    the greatest of them."""
    axis = drawing.frame.axis
    ends = [axis.place(float(end)) for end in (found.x[0], found.x[-1])]
    room = (ends[1] - ends[0]) * _EDGE or 1.0
    low, high = ends[0] - room, ends[1] + room
    shares = (axis.placed(values) - low) / (high - low)
    return np.asarray(band.base + shares * (band.tip - band.base), dtype=np.float64)


def _shown(drawing: Drawing, values: FloatArray) -> NDArray[np.bool_]:
    """Which of the other side's quantiles have a place on such an axis."""
    axis = drawing.frame.axis
    return np.array([axis.admits(value) for value in values.tolist()], dtype=bool)


def _band(drawing: Drawing, band: Band, found: PairsReading) -> list[Mark]:
    frame, shown = drawing.frame, _shown(drawing, found.x)
    if not drawing.readings.recipe.pairs.band or np.isnan(found.low).any() or not shown.any():
        return []
    across = _across(drawing, band, found, found.x[shown])
    low, high = (frame.alongs(end[shown]) for end in (found.low, found.high))
    outline = frame.points(
        np.concatenate([low, high[::-1]]), np.concatenate([across, across[::-1]])
    )
    meaning = Meaning("pairs", found.group)
    return [Area(outline, drawing.colours[found.group], _SHADE, meaning, smooth=True)]


def _alike(drawing: Drawing, band: Band, found: PairsReading) -> list[Mark]:
    """The line on which both quantiles are alike, as far as the axis goes."""
    frame = drawing.frame
    low, high = max(frame.low, float(found.x[0])), min(frame.high, float(found.x[-1]))
    if not low < high or not frame.axis.admits(low):
        return []
    ends = np.array([low, high])
    along, across = frame.alongs(ends), _across(drawing, band, found, ends)
    lines = frame.lines(along[:1], across[:1], along[1:], across[1:])
    meaning = Meaning("pairs", found.group)
    return [Segments(lines, drawing.style.quiet, _LINE, 1.0, meaning, smooth=True)]


def _dots(drawing: Drawing, band: Band, found: PairsReading) -> list[Mark]:
    frame = drawing.frame
    shown = _shown(drawing, found.x) & (found.y >= frame.low) & (found.y <= frame.high)
    if not shown.any():
        return []
    across = _across(drawing, band, found, found.x[shown])
    places = frame.points(frame.alongs(found.y[shown]), across)
    size = min(_DOT, max(1.0, band.thickness * _DOT_SHARE))
    colour, meaning = drawing.colours[found.group], Meaning("pairs", found.group)
    return [Dots(places, "disc", size, colour, 1.0, meaning)]


def _words(drawing: Drawing, band: Band, groups: Sequence[int]) -> list[Text]:
    """The shares at the sides that no points reach, and the group's name where no lane tells it."""
    words: list[Text] = []
    for group in groups:
        pairs = pairs_of(drawing.readings, group)
        if len(pairs.y) and band.thickness >= _LEAST_TOLD:
            words += _told(drawing, band, pairs)
    return words


def _told(drawing: Drawing, band: Band, found: PairsReading) -> list[Text]:
    readings, frame, style = drawing.readings, drawing.frame, drawing.style
    meaning = Meaning("pairs", found.group)
    words = []
    shares = np.array([share for share in _SHARES if found.shares[0] <= share <= found.shares[-1]])
    if len(shares):
        at = np.interp(shares, found.shares, found.x)
        shown = _shown(drawing, at)
        across = _across(drawing, band, found, at[shown])
        for share, place in zip(shares[shown].tolist(), across.tolist(), strict=True):
            text = readings.marked(f"{100 * share:g} %")
            words.append(_beside(drawing, text, place, share < 0.5, meaning))
    if len(readings.plan.lanes) == 1 and len(readings.plan.panels[frame.panel].groups) > 1:
        colour = readable(drawing.colours[found.group], style.ground or style.paper, style.ink)
        name = readings.groups[found.group].label
        wide = abs(frame.end - frame.start)
        name = shortened(name, wide * _NAME_SHARE, _LETTERS, True, drawing.measure)
        x, y = frame.point((frame.start + frame.end) / 2, band.middle)
        words.append(Text(x, y, name, _LETTERS, "middle", colour, meaning, bold=True))
    free: list[Text] = []
    taken = list(drawing.taken)
    for word in words:
        rect = rect_of(word, drawing.measure)
        if not any(rect.meets(other) for other in taken):
            free.append(word)
            taken.append(structs.replace(rect, left=rect.left - _GAP, right=rect.right + _GAP))
    return free


def _beside(drawing: Drawing, text: str, across: float, at_end: bool, meaning: Meaning) -> Text:
    """A share at the beginning of the value axis, or at its end."""
    frame = drawing.frame
    if frame.reversed:
        at_end = not at_end
    if frame.upright:
        along = frame.end - 3 - _LETTERS if at_end else frame.start + 4
        x, y = frame.point(along, across)
        return Text(x, y, text, _LETTERS, "middle", drawing.style.quiet, meaning)
    anchor: Anchor = "end" if at_end else "start"
    x, y = frame.point(frame.end - 4 if at_end else frame.start + 4, across)
    return Text(x, y + _LETTERS * 0.35, text, _LETTERS, anchor, drawing.style.quiet, meaning)


def _note(readings: Readings, _marks: Sequence[Mark]) -> str:
    """What lies where."""
    if not any(len(pairs_of(readings, group.index).y) for group in readings.groups):
        return ""
    told = f"Points stand at a quantile of the group, as high as that of {beside_words(readings)}"
    if readings.plan.upright:
        told = told.replace("as high as", "as far right as")
    if not readings.recipe.pairs.band:
        return told
    if readings.recipe.pairs.beside == "reference":
        return f"{told}; of groups that are alike {band_told(readings)} have all points in the band"
    return f"{told}; the band holds all points of {band_told(readings)} of such samples"


DRAWN = {"pairs": SceneForm(_reach, _layers, words=_words, note=_note)}
