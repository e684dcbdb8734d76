"""Bars and their outline as silhouettes: one polygon a group, however many bins."""

from collections.abc import Sequence
from functools import partial

import numpy as np
from msgspec import Struct

from rhabdos.arrays import BoolArray, FloatArray
from rhabdos.figure.forms.bars import bars, grounds, labels_of
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.swaying import swaying
from rhabdos.figure.recipe.recipe import Form
from rhabdos.scene.coordinates import Band, Frame
from rhabdos.scene.forms.bar_outlines import Slot, apart, between_steps, slotted, steps
from rhabdos.scene.forms.form import SWAY_SHADE, Drawing, Layers, SceneForm
from rhabdos.scene.marks import Anchor, Area, Mark, Meaning, Path, Segments, Text
from rhabdos.scene.style.lettering import Measure
from rhabdos.scene.style.look import mix
from rhabdos.scene.style.palette import more_readable, readable
from rhabdos.scene.words.label_places import Rect, rect_of

_NARROWEST_PARTED = 3.5  # points; closer bars are told apart by their steps alone
_PARTING = 0.6  # points of paper between bars that stand side by side
_LABEL, _LEAST_LABEL, _SHRINK = 8.0, 5.5, 0.5  # sizes of the numbers on bars
_LABEL_GAP = 2.0  # points over a bar
_BESIDE_GAP = 0.14  # of a bin, left free between bins whose groups stand side by side
_OVER = 4.0  # points by which a number may reach past the ends of the axis
_MOST_NUMBERED = 60  # bars that lie over one another, with numbers on them
_MOST_THINNED = 4  # every so manieth bar is labelled at least, or none is


def _reach(readings: Readings, groups: Sequence[int]) -> tuple[float, float] | None:
    """All bins; of panels with value axes of their own, those that hold values."""
    own = readings.own_edges
    if "value" in readings.recipe.panels.free:
        return _filled(readings, groups)
    edges = {id(own[group]): own[group] for group in groups}.values()
    if not edges:
        return None
    return min(own.low for own in edges), max(own.high for own in edges)


def _filled(readings: Readings, groups: Sequence[int]) -> tuple[float, float] | None:
    """From the first bin that holds a value of some groups to the last."""
    ends = []
    for group in groups:
        of_group = bars(readings)[group]
        filled = np.flatnonzero(of_group.counts)
        if len(filled):
            edges = of_group.edges.values
            ends.append((float(edges[filled[0]]), float(edges[filled[-1] + 1])))
    return (min(low for low, _ in ends), max(high for _, high in ends)) if ends else None


def _tallest(readings: Readings, groups: Sequence[int]) -> float:
    each = bars(readings)
    if readings.plan.arrange == "stacked":
        tops = [grounds(readings)[group] + each[group].heights for group in groups]
    else:
        tops = [each[group].heights for group in groups]
    highest = [float(top.max(initial=0.0)) for top in tops]
    if swaying(readings, "bars") or swaying(readings, "outline"):
        from rhabdos.figure.forms.sway import bar_bands  # which no start needs

        bands = [band for group in groups if (band := bar_bands(readings)[group]) is not None]
        highest += [band.highest for band in bands]
    return max(highest, default=0.0)


def _slots(drawing: Drawing, groups: Sequence[int]) -> dict[int, Slot | None]:
    """Side by side, groups share each bin; otherwise each has all of it, and so no slot."""
    readings, gap = drawing.readings, drawing.readings.recipe.bars.gap
    if readings.plan.arrange != "side-by-side" or len(groups) < 2:
        return {group: Slot(gap / 2, 1 - gap / 2) if gap else None for group in groups}
    free = gap or _BESIDE_GAP
    each = (1 - free) / len(groups)
    return {
        group: Slot(free / 2 + index * each, free / 2 + (index + 1) * each)
        for index, group in enumerate(groups)
    }


def _layers(drawing: Drawing, band: Band, groups: Sequence[int], *, filled: bool) -> Layers:
    fills: list[Mark] = []
    lines: list[Mark] = []
    of_groups = bars(drawing.readings)
    binned: dict[int, _Placed] = {}  # groups that share their bins share these
    slots = _slots(drawing, groups)
    over = drawing.readings.plan.arrange == "overlaid"
    shades: list[Mark] = []
    for group in drawing.in_front(groups):
        if drawing.readings.groups[group].n:
            edges = of_groups[group].edges.values
            if id(edges) not in binned:
                binned[id(edges)] = _placed(drawing.frame, edges)
            placed = binned[id(edges)]
            below, above = _silhouette(
                drawing, band, group, len(groups) if over else 1, placed, slots[group]
            )
            fills += below if filled else []
            lines += above if filled else above[-1:]
            sway = _sway(drawing, band, group, slots[group], filled)
            if drawing.readings.plan.arrange == "stacked":  # which the next part would cover
                shades += sway
            else:
                fills += sway
    return fills + shades, lines


def _sway(drawing: Drawing, band: Band, group: int, slot: Slot | None, filled: bool) -> list[Mark]:
    """Where the tops of a group's bars would mostly lie, as a shade; once, where both bars and
    their outline are drawn."""
    readings = drawing.readings
    form: Form = "bars" if filled else "outline"
    if not swaying(readings, form) or (not filled and "bars" in readings.recipe.show.forms):
        return []
    from rhabdos.figure.forms.sway import bar_bands

    bands = bar_bands(readings)[group]
    if bands is None:
        return []
    frame = drawing.frame
    within = (bands.x[1:] > frame.low) & (bands.x[:-1] < frame.high) & (bands.high > 0)
    standing = np.flatnonzero(within)
    if not len(standing):
        return []
    first, last = int(standing[0]), int(standing[-1]) + 1
    edges = frame.alongs(bands.x[first : last + 1])
    low, high = band.ats(bands.low[first:last]), band.ats(bands.high[first:last])
    if readings.recipe.sway.of == "start":  # which moves where bars begin
        slot = None
    if slot is None:
        outline = between_steps(edges, high, low)
    else:
        outline = apart(edges, high, low, band.foot, slot)
    points = frame.points(outline[:, 0], outline[:, 1])
    boxes = _boxes(drawing, edges, high, low, slot)
    return [Area(points, drawing.colours[group], SWAY_SHADE, Meaning("sway", group), bars=boxes)]


def _words(drawing: Drawing, band: Band, groups: Sequence[int], *, filled: bool) -> list[Text]:
    """The numbers on bars, or on their outline where that is all there is of them."""
    if drawing.readings.recipe.bars.labels is None:
        return []
    if not filled and "bars" in drawing.readings.recipe.show.forms:
        return []
    texts = [text for group in groups for text in _labels(drawing, band, groups, group)]
    return _with_room(drawing, band, texts)


class _Placed(Struct, frozen=True, eq=False):
    """Bins on the page: where their edges lie along, shape (k + 1,), and which of them are within
    the frame, shape (k,)."""

    alongs: FloatArray
    within: BoolArray


def _placed(frame: Frame, edges: FloatArray) -> _Placed:
    within: BoolArray = (edges[1:] > frame.low) & (edges[:-1] < frame.high)
    return _Placed(frame.alongs(edges), within)


def _silhouette(
    drawing: Drawing, band: Band, group: int, together: int, placed: _Placed, slot: Slot | None
) -> tuple[list[Mark], list[Mark]]:
    """Fills and lines of one group's bars, in the bins that are ``placed``.

    Alone, bars are solid and parted by paper; ``together`` with others they are light, so that
    their mixture stays so too, and their outlines tell them apart.
    """
    style, of_group = drawing.style, bars(drawing.readings)[group]
    standing = np.flatnonzero((of_group.heights > 0) & placed.within)
    if not len(standing):
        return [], []
    # A silhouette does not run along the base line beyond its bars.
    shown = slice(standing[0], standing[-1] + 1)
    edges = placed.alongs[standing[0] : standing[-1] + 2]
    heights, base = of_group.heights[shown], np.full(len(edges) - 1, band.foot)
    tops = band.ats(heights)
    if drawing.readings.plan.arrange == "stacked":
        ground = grounds(drawing.readings)[group][shown]
        base, tops = band.ats(ground), band.ats(ground + heights)
    meaning, colour = Meaning("bars", group), drawing.colours[group]
    bars_alone = slot is not None and np.ptp(base) > 0
    if slot is None:
        outline = steps(edges, tops, base)
    elif bars_alone:
        outline = apart(edges, tops, base, band.foot, slot)
    else:
        outline = slotted(edges, tops, base, slot)
    points = drawing.frame.points(outline[:, 0], outline[:, 1])
    alone = together == 1
    lines: list[Mark] = []
    narrow = abs(edges[-1] - edges[0]) / len(tops) < _NARROWEST_PARTED
    if len(tops) > 1 and not narrow and slot is None and alone:
        parting = _parting(drawing, edges, tops, base)
        lines.append(Segments(parting, style.paper, _PARTING, 1.0, meaning))
    width = style.fine_outline if narrow else style.outline
    tone = drawing.tones[group]
    ink, width, dash = drawing.stroke("bars", group, colour, width)
    if slot is not None and bars_alone:
        sides = _sides(drawing, edges, tops, base, slot)
        lines.append(Segments(sides, ink, width, 1.0, meaning, dash))
    else:
        lines.append(Path(points, ink, width, 1.0, meaning, dash=dash))
    fill = style.bar_fill(together)
    if not alone and drawing.stands_out(group):
        fill = max(fill, style.forward)
    boxes = _boxes(drawing, edges, tops, base, slot)
    return [Area(points, colour, fill, meaning, hatch=style.hatch_of(tone), bars=boxes)], lines


def _boxes(
    drawing: Drawing, edges: FloatArray, tops: FloatArray, base: FloatArray, slot: Slot | None
) -> FloatArray | None:
    """Two opposite corners of each bar, shape (k, 4), where bars do not touch."""
    if slot is None:
        return None
    first, last = slot.of(edges)
    return drawing.frame.lines(first, base, last, tops)


def _parting(drawing: Drawing, edges: FloatArray, tops: FloatArray, base: FloatArray) -> FloatArray:
    """Lines between bars that touch, over the heights that both have."""
    up = 1.0 if (tops - base).sum() >= 0 else -1.0
    lower = up * np.minimum(up * tops[:-1], up * tops[1:])
    start = up * np.maximum(up * base[:-1], up * base[1:])
    met = up * (lower - start) > 0
    inner = edges[1:-1][met]
    return drawing.frame.lines(inner, start[met], inner, lower[met])


def _sides(
    drawing: Drawing, edges: FloatArray, tops: FloatArray, base: FloatArray, slot: Slot
) -> FloatArray:
    """The four sides of each bar that has a height, shape (m, 4)."""
    tall = tops != base
    first, last = (ends[tall] for ends in slot.of(edges))
    over, under = tops[tall], base[tall]
    lines = drawing.frame.lines
    return np.concatenate(
        [
            lines(first, under, first, over),
            lines(first, over, last, over),
            lines(last, over, last, under),
            lines(last, under, first, under),
        ]
    )


def _with_room(drawing: Drawing, band: Band, texts: list[Text]) -> list[Text]:
    """The numbers that lie in their lane and over no other word; the others give way."""
    frame, kept = drawing.frame, []
    lane = next(lane for lane in frame.lanes if any(h.band == band for h in lane.heights))
    ends = np.array([frame.start, frame.end])
    across = [lane.first, lane.last] if len(lane.heights) == 1 else [band.base, band.tip]
    corners = frame.points(ends, np.array(across))
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


def _labels(drawing: Drawing, band: Band, groups: Sequence[int], group: int) -> list[Text]:
    """Numbers beyond the tips of a group's bars, as large and as many as have room.

    They lie level, or turned where bars are narrow; then smaller; then only every second, third or
    fourth bar has one; and where that is too many, pointing tells.
    """
    frame, measure = drawing.frame, drawing.measure
    texts = labels_of(drawing.readings, group)
    of_group, together = bars(drawing.readings)[group], len(groups)
    slot = _slots(drawing, groups)[group] or Slot()
    edges = of_group.edges.values
    shown = [
        index
        for index, text in enumerate(texts)
        if text and edges[index] < frame.high and edges[index + 1] > frame.low
    ]
    stacked = together > 1 and drawing.readings.plan.arrange == "stacked"
    if not shown or (together > 1 and not stacked and len(shown) * together > _MOST_NUMBERED):
        return []
    alongs = frame.alongs(edges)
    side_by_side = drawing.readings.plan.arrange == "side-by-side"
    room = float(np.abs(np.diff(alongs))[shown].min()) * (
        slot.last - slot.first if side_by_side else 1.0
    )
    fit = _fitting(texts, shown, room, frame.upright, measure)
    if fit is None:
        return []
    size, turned, every = fit
    marks: list[Text] = []
    colour = _number_colour(drawing, group, together, stacked)
    highest = max(shown, key=lambda index: float(of_group.heights[index]))
    for index in shown:
        if (index - highest) % every:
            continue
        share = (slot.first + slot.last) / 2
        middle = alongs[index] + share * (alongs[index + 1] - alongs[index])
        ground = float(grounds(drawing.readings)[group][index])
        tip = band.at(ground + float(of_group.heights[index]))
        if stacked:
            ends = band.at(ground), tip
            marks += _within(drawing, texts[index], middle, ends, size, turned, colour, group)
            continue
        down = (band.tip > band.base) is not frame.upright
        marks.append(_number(drawing, texts[index], middle, tip, size, turned, colour, group, down))
    return marks


def _number_colour(drawing: Drawing, group: int, together: int, stacked: bool) -> str:
    """Numbers are ink; of several groups they are as these, and on bars what stands out there."""
    style, colour = drawing.style, drawing.colours[group]
    if together == 1:
        return style.ink
    paper = style.ground or style.paper
    if stacked and "bars" in drawing.readings.recipe.show.forms:
        fill = mix(paper, colour, style.bar_fill(1))
        return more_readable(style.ink, style.paper, fill)
    return readable(colour, paper, style.ink)


def _within(
    drawing: Drawing,
    text: str,
    along: float,
    ends: tuple[float, float],
    size: float,
    turned: bool,
    colour: str,
    group: int,
) -> list[Text]:
    """A number in the middle of a bar that others stand on, where that is high enough."""
    frame, meaning = drawing.frame, Meaning("bars", group)
    wide = drawing.measure(text, size, False)
    needed = wide if frame.upright or turned else size
    if abs(ends[1] - ends[0]) < needed + _LABEL_GAP:
        return []
    x, y = frame.point(along, (ends[0] + ends[1]) / 2)
    if turned:
        return [Text(x + size * 0.35, y, text, size, "middle", colour, meaning, angle=90)]
    return [Text(x, y + size * 0.35, text, size, "middle", colour, meaning)]


def _fitting(
    texts: Sequence[str], shown: Sequence[int], room: float, upright: bool, measure: Measure
) -> tuple[float, bool, int] | None:
    """Size of the letters, whether they are turned, and every how manieth bar has a number."""
    for every in range(1, _MOST_THINNED + 1):
        size = _LABEL
        while size >= _LEAST_LABEL:
            wide = max(measure(texts[index], size, False) for index in shown)
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
    down: bool,
) -> Text:
    """A number beyond the tip of a bar; ``down`` where bars run the other way, back to back."""
    frame, meaning = drawing.frame, Meaning("bars", group)
    anchor: Anchor = "end" if down else "start"
    if frame.upright:
        x, y = frame.point(along, tip + (-_LABEL_GAP if down else _LABEL_GAP))
        return Text(x, y + size * 0.35, text, size, anchor, colour, meaning)
    y = tip + (_LABEL_GAP if down else -_LABEL_GAP)
    if turned:
        return Text(along + size * 0.35, y, text, size, anchor, colour, meaning, angle=90)
    return Text(along, y + (size * 0.75 if down else 0), text, size, "middle", colour, meaning)


def _label_room(readings: Readings, upright: bool, room: float, measure: Measure) -> float:
    """How far numbers reach beyond the tips of bars, in points; ``room`` is the narrowest bar's."""
    if readings.recipe.bars.labels is None or _stand_on_others(readings):
        return 0.0
    texts = [text for group in readings.groups for text in labels_of(readings, group.index) if text]
    if not texts:
        return 0.0
    fit = _fitting(texts, range(len(texts)), room, upright, measure)
    if fit is None:
        return 0.0
    size, turned, _ = fit
    wide = max(measure(text, size, False) for text in texts)
    return _LABEL_GAP + 1.0 + (wide if upright or turned else size)


def _stand_on_others(readings: Readings) -> bool:
    """Whether the numbers of bars are within them, since others stand on them."""
    lanes = readings.plan.lanes
    return readings.plan.arrange == "stacked" and any(len(lane.groups) > 1 for lane in lanes)


DRAWN = {
    form: SceneForm(
        _reach,
        partial(_layers, filled=filled),
        _tallest,
        words=partial(_words, filled=filled),
        over=_label_room,
    )
    for form, filled in (("bars", True), ("outline", False))
}
