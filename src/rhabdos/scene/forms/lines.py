"""Forms that are a line a group: polygon, density curve, normal curve and ECDF."""

from collections.abc import Sequence

import numpy as np

from rhabdos.arrays import FloatArray
from rhabdos.figure.curves import CurveKind, CurveReading, curves_of
from rhabdos.figure.readings import Readings
from rhabdos.scene.forms.form import HeightsForm, Layers
from rhabdos.scene.marks import Area, Frame, Mark, Meaning, Part, Path

_LINE = 1.4
_FILL = 0.22
_SEEN = 2e-3  # of its greatest height, from which on a curve is worth a place on the axis
_COLUMN = 1.0  # points of the page, in which a line needs one place …
_STANDS_OUT = 0.1  # … but for what rises or falls by more between it and the next


def _form(kind: CurveKind, part: Part) -> HeightsForm:
    def drawn(readings: Readings) -> list[CurveReading]:
        return [curve for curve in curves_of(readings, kind) if not curve.lack]

    def reach(readings: Readings) -> tuple[float, float] | None:
        ends = [_seen(curve, readings.cumulative) for curve in drawn(readings)]
        return (min(low for low, _ in ends), max(high for _, high in ends)) if ends else None

    def tallest(readings: Readings) -> float:
        return max((float(curve.y.max(initial=0.0)) for curve in drawn(readings)), default=0.0)

    def layers(readings: Readings, frame: Frame, colours: Sequence[str]) -> Layers:
        fills: list[Mark] = []
        lines: list[Mark] = []
        for curve in drawn(readings):
            meaning = Meaning(part, curve.group)
            points = _points(curve, frame, stepped=kind == "ecdf")
            if kind == "density" and readings.recipe.curve.fill and len(points):
                ground = np.array([[points[-1, 0], frame.bottom], [points[0, 0], frame.bottom]])
                shape = np.concatenate([points, ground])
                fills.append(Area(shape, colours[curve.group], _FILL, meaning, smooth=True))
            lines.append(
                Path(points, colours[curve.group], _LINE, 1.0, meaning, smooth=kind != "ecdf")
            )
        return fills, lines

    return HeightsForm(reach, tallest, layers)


def _seen(curve: CurveReading, cumulative: bool) -> tuple[float, float]:
    """From where to where there is something to see of a curve."""
    top = float(curve.y.max(initial=0.0))
    shown = (curve.y > _SEEN * top) & (curve.y < (1 - _SEEN) * top if cumulative else True)
    if curve.kind in ("polygon", "ecdf") or not shown.any():
        return float(curve.x[0]), float(curve.x[-1])
    places = np.flatnonzero(shown)
    return float(curve.x[max(0, places[0] - 1)]), float(
        curve.x[min(len(curve.x) - 1, places[-1] + 1)]
    )


def _points(curve: CurveReading, frame: Frame, stepped: bool) -> FloatArray:
    """The line on the page, cut at the frame's sides; an ECDF from its left to its right."""
    x, y = curve.x, curve.y
    if stepped:
        before = np.concatenate([[0.0], y])
        x = np.concatenate([[min(frame.low, x[0])], np.repeat(x, 2), [max(frame.high, x[-1])]])
        y = np.repeat(before, 2)
    else:
        x, y = _within(x, y, frame.low, frame.high)
    points = np.column_stack([frame.xs(x), frame.ys(y)])
    return points if stepped else _thinned(points)


def _within(x: FloatArray, y: FloatArray, low: float, high: float) -> tuple[FloatArray, FloatArray]:
    """The part of a line between two places, which it is cut at."""
    inside = (x > low) & (x < high)
    ends = np.array([end for end in (low, high) if x[0] <= end <= x[-1]])
    places = np.union1d(x[inside], ends)
    return places, np.asarray(np.interp(places, x, y))


def _thinned(points: FloatArray) -> FloatArray:
    """Of each narrow column of the page, the first point of a line, and its highest and lowest
    where they stand out."""
    x, y = points[:, 0], points[:, 1]
    starts = np.flatnonzero(np.concatenate([[True], np.diff(np.floor(x / _COLUMN)) > 0]))
    following = np.append(y[starts[1:]], y[-1])
    kept = {*starts.tolist(), len(x) - 1}
    for extreme in (np.maximum, np.minimum):
        reduced = extreme.reduceat(y, starts)
        for place in np.flatnonzero(
            np.abs(reduced - extreme(y[starts], following)) > _STANDS_OUT
        ).tolist():
            stop = starts[place + 1] if place + 1 < len(starts) else len(x)
            kept.add(int(starts[place]) + int((y[starts[place] : stop] == reduced[place]).argmax()))
    return points[sorted(kept)]


POLYGON = _form("polygon", "bars")
CURVE = _form("density", "curve")
NORMAL = _form("normal", "curve")
ECDF = _form("ecdf", "curve")
