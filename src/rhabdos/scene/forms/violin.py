"""Violins: densities mirrored about the middle of their strip, all on one scale."""

from collections.abc import Sequence

import numpy as np
from msgspec import structs

from rhabdos.figure.forms.lines import CurveReading
from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.coordinates import Band
from rhabdos.scene.forms.form import SWAY_SHADE, Drawing, Layers, SceneForm
from rhabdos.scene.forms.lines import Standing, drawn_curves, line_of, seen, standing
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
    each = _each(readings, on_axis)
    tops = (risen.sway[1] if risen.sway else risen.curve for risen in each)
    return max((float(top.y.max()) for top in tops), default=1.0)


def _layers(drawing: Drawing, band: Band, groups: Sequence[int]) -> Layers:
    fills: list[Mark] = []
    lines: list[Mark] = []
    # Equal areas stand for equal shares, so the widest place of all fills a strip.
    tallest = _tallest(drawing.readings, drawing.readings.groups[groups[0]].axis)
    for risen in _each(drawing.readings, groups):
        curve = risen.curve
        meaning, colour = Meaning("curve", curve.group), drawing.colours[curve.group]
        up = Band(band.middle, band.tip, tallest)
        along, upper = line_of(_worth_seeing(curve), drawing.frame, up)
        if not len(along):
            continue
        lower = 2 * band.middle - upper
        over, under = drawing.frame.points(along, upper), drawing.frame.points(along, lower)
        shape = np.concatenate([over, under[::-1]])
        fills += _sway(drawing, up, risen)
        opacity = drawing.style.filled(drawing.style.curve_fill)
        hatch = drawing.style.hatch_of(drawing.tones[curve.group])
        fills.append(Area(shape, colour, opacity, meaning, True, hatch))
        lines += [
            Path(points, colour, drawing.style.outline, 1.0, meaning, smooth=True)
            for points in (over, under)
        ]
    return fills, lines


def _each(readings: Readings, groups: Sequence[int]) -> list[Standing]:
    """The curves of some groups, of which violins never stack."""
    of_groups = [standing(readings, "violin", (group,)) for group in groups]
    return [risen for violins in of_groups for risen in violins]


def _sway(drawing: Drawing, up: Band, risen: Standing) -> list[Mark]:
    """Where both sides of a violin would mostly lie, as shades."""
    if risen.sway is None:
        return []
    shades: list[Mark] = []
    places = [line_of(_within_seen(risen, line), drawing.frame, up) for line in risen.sway]
    for side in (1, -1):
        sides = [
            drawing.frame.points(along, up.base + side * (across - up.base))
            for along, across in places
        ]
        shape = np.concatenate([sides[0], sides[1][::-1]])
        colour, meaning = drawing.colours[risen.curve.group], Meaning("sway", risen.curve.group)
        shades.append(Area(shape, colour, SWAY_SHADE, meaning, smooth=True))
    return shades


def _within_seen(risen: Standing, line: CurveReading) -> CurveReading:
    """A line over the places at which the violin itself is drawn."""
    low, high = seen(risen.curve)
    shown = (line.x >= low) & (line.x <= high)
    return structs.replace(line, x=line.x[shown], y=line.y[shown])


DRAWN = {"violin": SceneForm(_reach, _layers)}
