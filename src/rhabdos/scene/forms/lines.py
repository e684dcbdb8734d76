"""What the forms that are a line a group share."""

from collections.abc import Sequence

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.figure.curves import CurveReading, curves_of
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import Form
from rhabdos.scene.forms.form import Drawing, Layers, SceneForm
from rhabdos.scene.marks import Area, Mark, Meaning, Part, Path
from rhabdos.scene.plane import Band, Frame

_SEEN = 2e-3  # of its greatest height, from which on a curve is worth a place on the axis
_COLUMN = 1.0  # points of the page, in which a line needs one place …
_STANDS_OUT = 0.1  # … but for what rises or falls by more between it and the next


def drawn_curves(readings: Readings, form: Form) -> list[CurveReading]:
    """The curves of a form that there are."""
    return [curve for curve in curves_of(readings, form) if not curve.lack]


def line_form(form: Form, part: Part) -> SceneForm:
    """A form that draws a line for each group."""

    def reach(readings: Readings) -> tuple[float, float] | None:
        """The stretch in which there is something to see."""
        ends = [seen(curve, readings.cumulative) for curve in drawn_curves(readings, form)]
        return (min(low for low, _ in ends), max(high for _, high in ends)) if ends else None

    def tallest(readings: Readings) -> float:
        """The greatest height of all groups."""
        drawn = drawn_curves(readings, form)
        return max((float(curve.y.max(initial=0.0)) for curve in drawn), default=0.0)

    def layers(drawing: Drawing, band: Band, groups: Sequence[int]) -> Layers:
        """A line a group, and the area under it where it is filled."""
        fills: list[Mark] = []
        lines: list[Mark] = []
        style, frame = drawing.style, drawing.frame
        for curve in drawn_curves(drawing.readings, form):
            if curve.group not in groups:
                continue
            meaning, colour = Meaning(part, curve.group), drawing.colours[curve.group]
            along, across = line_of(curve, frame, band)
            points = frame.points(along, across)
            fill = drawing.readings.recipe.curve.fill if form == "curve" else False
            if fill and len(points):
                ground = frame.points(along[[-1, 0]], np.full(2, band.base))
                shape = np.concatenate([points, ground])
                fills.append(Area(shape, colour, style.curve_fill, meaning, smooth=True))
            if fill != "only":
                smooth = form != "ecdf"
                lines.append(Path(points, colour, style.curve, 1.0, meaning, smooth=smooth))
        return fills, lines

    return SceneForm(reach, layers, tallest)


def seen(curve: CurveReading, cumulative: bool = False) -> tuple[float, float]:
    """From where to where there is something to see of a curve."""
    top = float(curve.y.max(initial=0.0))
    shown = (curve.y > _SEEN * top) & (curve.y < (1 - _SEEN) * top if cumulative else True)
    if curve.kind in ("polygon", "ecdf") or not shown.any():
        return float(curve.x[0]), float(curve.x[-1])
    places = np.flatnonzero(shown)
    last = min(len(curve.x) - 1, places[-1] + 1)
    return float(curve.x[max(0, places[0] - 1)]), float(curve.x[last])


def line_of(curve: CurveReading, frame: Frame, band: Band) -> tuple[FloatArray, FloatArray]:
    """A line along and across, cut at the frame's ends; an ECDF from one of them to the other."""
    x, y = curve.x, curve.y
    if curve.kind == "ecdf":
        before = np.concatenate([[0.0], y])
        x = np.concatenate([[min(frame.low, x[0])], np.repeat(x, 2), [max(frame.high, x[-1])]])
        return frame.alongs(x), band.ats(np.repeat(before, 2))
    x, y = _within(x, y, frame.low, frame.high)
    return _thinned(frame.alongs(x), band.ats(y))


def _within(x: FloatArray, y: FloatArray, low: float, high: float) -> tuple[FloatArray, FloatArray]:
    """The part of a line between two places, which it is cut at."""
    inside = (x > low) & (x < high)
    ends = np.array([end for end in (low, high) if x[0] <= end <= x[-1]])
    places = np.union1d(x[inside], ends)
    return places, np.asarray(np.interp(places, x, y))


def _thinned(along: FloatArray, across: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Of each narrow column of the page, the first point of a line, and what stands out in it."""
    if not len(along):
        return along, across
    starts = np.flatnonzero(np.concatenate([[True], np.diff(np.floor(along / _COLUMN)) > 0]))
    following = np.append(across[starts[1:]], across[-1])
    kept = {*starts.tolist(), len(along) - 1}
    for extreme in (np.maximum, np.minimum):
        reduced = extreme.reduceat(across, starts)
        away = np.abs(reduced - extreme(across[starts], following))
        for place in np.flatnonzero(away > _STANDS_OUT).tolist():
            stop = starts[place + 1] if place + 1 < len(starts) else len(along)
            column = across[starts[place] : stop]
            kept.add(int(starts[place]) + int((column == reduced[place]).argmax()))
    chosen = sorted(kept)
    return along[chosen], across[chosen]
