"""Violins: densities mirrored about the middle of their strip, all on one scale."""

from collections.abc import Sequence

import numpy as np
from msgspec import structs

from rhabdos.figure.forms.lines import CurveReading
from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.coordinates import Band
from rhabdos.scene.forms.form import Drawing, Layers, SceneForm
from rhabdos.scene.forms.lines import drawn_curves, line_of, seen
from rhabdos.scene.marks import Area, Mark, Meaning, Path


def _reach(readings: Readings, groups: Sequence[int]) -> tuple[float, float] | None:
    ends = [seen(curve) for curve in drawn_curves(readings, "violin", groups)]
    return (min(low for low, _ in ends), max(high for _, high in ends)) if ends else None


def _worth_seeing(curve: CurveReading) -> CurveReading:
    """The curve without its thin ends, which would look like whiskers."""
    low, high = seen(curve)
    shown = (curve.x >= low) & (curve.x <= high)
    return structs.replace(curve, x=curve.x[shown], y=curve.y[shown])


def _tallest(readings: Readings, axis: int) -> float:
    """The greatest density of all groups on a value axis."""
    on_axis = [group.index for group in readings.groups if group.axis == axis]
    curves = drawn_curves(readings, "violin", on_axis)
    return max((float(curve.y.max()) for curve in curves), default=1.0)


def _layers(drawing: Drawing, band: Band, groups: Sequence[int]) -> Layers:
    fills: list[Mark] = []
    lines: list[Mark] = []
    # Equal areas stand for equal shares, so the widest place of all fills a strip.
    tallest = _tallest(drawing.readings, drawing.readings.groups[groups[0]].axis)
    for curve in drawn_curves(drawing.readings, "violin", groups):
        meaning, colour = Meaning("curve", curve.group), drawing.colours[curve.group]
        up = Band(band.middle, band.tip, tallest)
        along, upper = line_of(_worth_seeing(curve), drawing.frame, up)
        if not len(along):
            continue
        lower = 2 * band.middle - upper
        over, under = drawing.frame.points(along, upper), drawing.frame.points(along, lower)
        shape = np.concatenate([over, under[::-1]])
        opacity = drawing.style.filled(drawing.style.curve_fill)
        hatch = drawing.style.hatch_of(drawing.tones[curve.group])
        fills.append(Area(shape, colour, opacity, meaning, True, hatch))
        lines += [
            Path(points, colour, drawing.style.outline, 1.0, meaning, smooth=True)
            for points in (over, under)
        ]
    return fills, lines


DRAWN = {"violin": SceneForm(_reach, _layers)}
