"""What the forms that are a line a group share."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct, structs

from rhabdos.arrays import FloatArray
from rhabdos.figure.forms.lines import CurveReading, curves_of
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.swaying import swaying
from rhabdos.figure.recipe.recipe import Form
from rhabdos.memo import memoised
from rhabdos.scene.coordinates import Band, Frame
from rhabdos.scene.forms.form import SWAY_SHADE, Drawing, Layers, SceneForm
from rhabdos.scene.marks import Area, Mark, Meaning, Part, Path
from rhabdos.scene.style.look import LINE_STROKES, usual_line
from rhabdos.scene.style.palette import edge_of
from rhabdos.stats.axis_scale import AxisScale

_SEEN = 2e-3  # of its greatest height, from which on a curve is worth a place on the axis
_COLUMN = 1.0  # points of the page, in which a line needs one place …
_EDGE = 0.5  # points of an edge at either side of a line that is nearly as light as the paper
_MANY_PLACES = 8_192  # of stacked curves, past which …
_FINER = 4  # … there are so many times as many as one of them has by itself
_STANDS_OUT = 0.1  # … but for what rises or falls by more between it and the next


def drawn_curves(readings: Readings, form: Form, groups: Sequence[int]) -> list[CurveReading]:
    """The curves of a form that some groups have."""
    of_groups = {curve.group: curve for curve in curves_of(readings, form) if not curve.lack}
    return [of_groups[group] for group in groups if group in of_groups]


class Standing(Struct, frozen=True, eq=False):
    """A curve as it is drawn: its points, from what height it rises at each of them, and the lowest
    and the highest line of where it would mostly lie."""

    curve: CurveReading
    ground: FloatArray | None = None
    sway: tuple[CurveReading, CurveReading] | None = None


@memoised  # limits ask how high they stand, and then they are drawn
def standing(readings: Readings, form: Form, groups: tuple[int, ...]) -> tuple[Standing, ...]:
    """The curves of a form as they are drawn: each over 0, or stacked over those before it."""
    drawn = drawn_curves(readings, form, groups)
    if readings.plan.arrange != "stacked" or len(drawn) < 2:
        return tuple(Standing(curve, None, _sway_lines(readings, form, curve)) for curve in drawn)
    return _stacked(readings, form, drawn)


def _sway_lines(
    readings: Readings, form: Form, curve: CurveReading
) -> tuple[CurveReading, CurveReading] | None:
    """The lowest and the highest line of where a curve would mostly lie, where that is shown."""
    if not swaying(readings, form):
        return None
    from rhabdos.figure.forms.sway import curve_band  # which no start needs

    band = curve_band(readings, curve)
    if band is None:
        return None
    return structs.replace(curve, x=band.x, y=band.low), structs.replace(
        curve, x=band.x, y=band.high
    )


def _stacked(readings: Readings, form: Form, drawn: Sequence[CurveReading]) -> tuple[Standing, ...]:
    """Curves over one another, all of them at all places that any of them has."""
    axis = readings.scale_of(drawn[0].group).axis
    places = np.unique(np.concatenate([curve.x for curve in drawn]))
    if form == "ecdf":
        from rhabdos.figure.forms.ecdf import shown_of  # which no start needs

        places = places[shown_of(len(places))]
    elif form != "polygon" and len(places) > _MANY_PLACES:  # closer than any curve needs them
        places = np.unique(np.append(places[:: 1 + len(drawn) // _FINER], places[-1]))
    ground = np.zeros(len(places))
    answers, stack = [], None
    if swaying(readings, form):
        from rhabdos.figure.forms.sway import Band as Swayed
        from rhabdos.figure.forms.sway import Stack

        stack = Stack()
    for curve in drawn:
        own = _heights_at(curve, places, axis)
        raised = structs.replace(curve, x=places, y=ground + own)
        lines = _sway_lines(readings, form, curve)
        if stack is not None and lines is not None:
            ends = [_heights_at(line, places, axis) for line in lines]
            upon = stack.raised(Swayed(places, *ends), own)
            lines = structs.replace(raised, y=upon.low), structs.replace(raised, y=upon.high)
        answers.append(Standing(raised, ground, lines))
        ground = ground + own
    return tuple(answers)


def _heights_at(curve: CurveReading, places: FloatArray, axis: AxisScale) -> FloatArray:
    """The heights of a curve at many places; an ECDF keeps its steps, and what rises stays up."""
    if curve.kind == "ecdf":
        return np.concatenate([[0.0], curve.y])[curve.x.searchsorted(places, side="right")]
    ends = (float(curve.y[0]), float(curve.y[-1])) if curve.rises else (0.0, 0.0)
    return _between(places, curve.x, curve.y, axis, *ends)


def _between(
    places: FloatArray,
    x: FloatArray,
    y: FloatArray,
    axis: AxisScale,
    before: float | None = None,
    beyond: float | None = None,
) -> FloatArray:
    """The heights at places between points of a line that is straight on its axis."""
    places, x = axis.placed(places), axis.placed(x)
    return np.asarray(np.interp(places, x, y, left=before, right=beyond))


def line_form(form: Form, part: Part) -> SceneForm:
    """A form that draws a line for each group."""

    def reach(readings: Readings, groups: Sequence[int]) -> tuple[float, float] | None:
        """The stretch in which there is something to see."""
        drawn = drawn_curves(readings, form, groups)
        ends = [seen(curve, readings.cumulative) for curve in drawn]
        return (min(low for low, _ in ends), max(high for _, high in ends)) if ends else None

    def tallest(readings: Readings, groups: Sequence[int]) -> float:
        """The greatest height of some groups."""
        drawn = standing(readings, form, tuple(groups))
        tops = [risen.sway[1] if risen.sway else risen.curve for risen in drawn]
        highest = (float(top.y.max(initial=0.0, where=np.isfinite(top.y))) for top in tops)
        return max(highest, default=0.0)

    def layers(drawing: Drawing, band: Band, groups: Sequence[int]) -> Layers:
        """A line a group, and the area under it where it is filled."""
        fills: list[Mark] = []
        lines: list[Mark] = []
        shades: list[Mark] = []  # of stacks, whose next part would cover them
        style, frame = drawing.style, drawing.frame
        each = {
            risen.curve.group: risen for risen in standing(drawing.readings, form, tuple(groups))
        }
        for group in drawing.in_front(list(each)):
            curve, ground = each[group].curve, each[group].ground
            meaning, colour = Meaning(part, group), drawing.colours[group]
            tone = drawing.tones[group]
            along, across = line_of(curve, frame, band)
            points = frame.points(along, across)
            stacked = each[group].ground is not None
            (shades if stacked else fills).extend(_sway(drawing, band, each[group]))
            fill = drawing.readings.recipe.curve.fill if form == "curve" else False
            if fill and len(points):
                under = _ground_line(curve, ground, along, frame, band)
                shape = np.concatenate([points, under])
                opacity = style.filled(style.curve_fill if ground is None else style.stacked_fill)
                hatch = style.hatch_of(tone)
                fills.append(Area(shape, colour, opacity, meaning, smooth=True, hatch=hatch))
            if fill != "only":
                smooth = form != "ecdf"
                usual = usual_line(form, drawing.readings, style)
                ink, width, dash = drawing.stroke(LINE_STROKES[form], group, colour, *usual)
                edge = edge_of(ink, style.ground or style.paper, style.ink)
                if edge is not None and width and drawing.readings.groups[group].forward:
                    around = width + 2 * _EDGE
                    lines.append(Path(points, edge, around, 1.0, meaning, smooth, dash))
                lines.append(Path(points, ink, width, 1.0, meaning, smooth, dash))
        return fills + shades, lines

    return SceneForm(reach, layers, tallest)


def _sway(drawing: Drawing, band: Band, risen: Standing) -> list[Mark]:
    """Where a curve would mostly lie, as a shade."""
    if risen.sway is None:
        return []
    points = [
        drawing.frame.points(*line_of(line, drawing.frame, band)) for line in risen.sway[::-1]
    ]
    shape = np.concatenate([points[0], points[1][::-1]])
    group = risen.curve.group
    shade = Area(shape, drawing.colours[group], SWAY_SHADE, Meaning("sway", group), smooth=True)
    return [shade] if len(shape) else []


def _ground_line(
    curve: CurveReading, ground: FloatArray | None, along: FloatArray, frame: Frame, band: Band
) -> FloatArray:
    """What the area under a curve stands on, from its end back to its beginning."""
    if ground is None:
        return frame.points(along[[-1, 0]], np.full(2, band.foot))
    back, level = line_of(structs.replace(curve, y=ground), frame, band)
    return frame.points(back[::-1], level[::-1])


def seen(curve: CurveReading, cumulative: bool = False) -> tuple[float, float]:
    """From where to where there is something to see of a curve."""
    top = float(curve.y.max(initial=0.0))
    shown = curve.y > _SEEN * top
    if cumulative:
        shown &= curve.y < (1 - _SEEN) * top
    if curve.kind in ("polygon", "ecdf") or not shown.any():
        return float(curve.x[0]), float(curve.x[-1])
    before, after = int(shown.argmax()), int(shown[::-1].argmax())
    return float(curve.x[max(0, before - 1)]), float(curve.x[-max(1, after)])


def line_of(curve: CurveReading, frame: Frame, band: Band) -> tuple[FloatArray, FloatArray]:
    """A line along and across, cut at the frame's ends; an ECDF from one of them to the other."""
    x, y = curve.x, curve.y
    if curve.kind == "ecdf":
        # What has risen before the frame, it begins with; what rises beyond, it does not show.
        begun, ended = int(x.searchsorted(frame.low)), int(x.searchsorted(frame.high, "right"))
        before = np.concatenate([[y[begun - 1] if begun else 0.0], y[begun:ended]])
        x = np.concatenate([[frame.low], np.repeat(x[begun:ended], 2), [frame.high]])
        return frame.alongs(x), band.ats(np.repeat(before, 2))
    if curve.rises:  # before its first point and past its last one it stays as high
        low, high = min(frame.low, x[0]), max(frame.high, x[-1])
        x = np.concatenate([[low], x, [high]])
        y = np.concatenate([y[:1], y, y[-1:]])
    x, y = _within(x, y, frame.low, frame.high, frame.axis)
    if frame.reversed:
        x, y = x[::-1], y[::-1]
    return _thinned(frame.alongs(x), band.ats(y))


def _within(
    x: FloatArray, y: FloatArray, low: float, high: float, axis: AxisScale
) -> tuple[FloatArray, FloatArray]:
    """The part of a line between two places, which it is cut at."""
    inside = slice(int(x.searchsorted(low, "right")), int(x.searchsorted(high)))
    begins, ends = (np.array([end] if x[0] <= end <= x[-1] else []) for end in (low, high))
    first, last = (_between(end, x, y, axis) for end in (begins, ends))
    return np.concatenate([begins, x[inside], ends]), np.concatenate([first, y[inside], last])


def _thinned(along: FloatArray, across: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Of each narrow column of the page, the first point of a line, and what stands out in it."""
    if not len(along):
        return along, across
    columns, keep = np.floor(along / _COLUMN), np.ones(len(along), dtype=np.bool_)
    np.greater(columns[1:], columns[:-1], out=keep[1:])
    starts = keep.nonzero()[0]
    keep[-1] = True
    following = across[np.concatenate([starts[1:], [-1]])]
    for extreme, outwards in ((np.maximum, 1), (np.minimum, -1)):
        reduced = extreme.reduceat(across, starts)
        away = outwards * (reduced - extreme(across[starts], following)) > _STANDS_OUT
        if not away.any():  # as of most lines, which are smooth
            continue
        column = np.repeat(np.arange(len(starts)), np.diff(np.append(starts, len(along))))
        reached = np.flatnonzero((across == reduced[column]) & away[column])
        first = np.diff(column[reached], prepend=-1) > 0  # of each column
        keep[reached[first]] = True
    return along[keep], across[keep]
