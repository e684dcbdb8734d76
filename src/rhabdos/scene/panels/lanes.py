"""Lanes: how a frame is divided among groups, and a lane among the forms in it."""

from msgspec import Struct

from rhabdos.figure.planning.plan import Plan, PlannedLane, PlannedPanel
from rhabdos.figure.recipe.recipe import Form
from rhabdos.scene.coordinates import Band, Heights, Lane, Strip

_PAD = 0.07  # of a lane's extent, left free at either side …
_MOST_PAD, _LEAST_PAD = 9.0, 0.6  # … in points
_BETWEEN = 0.12  # of a strip's extent, between it and the next
_LEAST_GAP = 3.0  # points between strips, where there is room
_WITHIN = 0.08  # of each band of heights, left free where a lane holds several
_HEIGHTS = 3.0  # parts of a lane that heights get, beside strips


class StripShare(Struct, frozen=True):
    """How much of a lane a strip wants: parts of it, and at most so many points."""

    parts: float
    most: float


STRIPS: dict[Form, StripShare] = {
    "violin": StripShare(2.0, 96.0),
    "box": StripShare(1.0, 54.0),
    "points": StripShare(1.0, 44.0),
    "shift": StripShare(1.8, 76.0),
    "pairs": StripShare(5.0, 900.0),
}
_BESIDE_HEIGHTS = 26.0  # the most that a strip gets beneath heights
_BOX_IN_VIOLIN = 0.16, 9.0  # of the violin's extent, and the most points


def lay_lanes(
    plan: Plan,
    panel: PlannedPanel,
    first: float,
    last: float,
    tallest: float,
    least: float = 0.0,
    free: float = 0.0,
) -> tuple[Lane, ...]:
    """Divide the extent of a frame across the value axis among the lanes of a panel; so much is
    kept ``free`` at the end of each to which heights rise."""
    each = (last - first) / len(panel.lanes)
    ends = (tallest, least)
    return tuple(
        _lane(plan, lane, first + number * each, first + (number + 1) * each, ends, free)
        for number, lane in enumerate(panel.lanes)
    )


def _lane(
    plan: Plan,
    planned: PlannedLane,
    first: float,
    last: float,
    ends: tuple[float, float],
    free_at_tip: float,
) -> Lane:
    """Heights stand over the strips: higher up on the page, or to their right."""
    groups = tuple(group.index for group in planned.groups)
    alone, upright = len(plan.lanes) == 1, plan.upright
    pad = 0.0 if alone else min(_MOST_PAD, max(_LEAST_PAD, _PAD * (last - first)))
    tip = max(pad, free_at_tip)
    low, high = (first + pad, last - tip) if upright else (last - pad, first + tip)
    if not plan.strips:
        return Lane(planned.label, groups, first, last, _heights(plan, groups, low, high, ends), ())
    room = abs(high - low)
    wanted = _asked_strips(plan, groups)
    if not wanted:
        return Lane(planned.label, groups, first, last, (), ())
    strips, used = _strip_extents(wanted, room, bool(plan.heights))
    # From the lane's foot up: strips from the last to the first, then the heights.
    sign = 1.0 if high > low else -1.0
    gap = max(_LEAST_GAP, _BETWEEN * used / max(1, len(strips)))
    gap = min(gap, max(0.0, (room - used) / (len(strips) + 1)))
    free = room - used - gap * len(strips)
    foot = low + sign * (gap / 2 if plan.heights else (free + gap) / 2)
    placed: list[Strip] = []
    for (form, group), extent in _from_foot(wanted, strips, groups, upright):
        placed.append(Strip(form, group, Band(foot, foot + sign * extent)))
        foot += sign * (extent + gap)
    if "violin" in plan.strips and "box" in plan.strips:
        placed += [_within(strip) for strip in placed if strip.form == "violin"]
    heights = _heights(plan, groups, foot, high, ends) if plan.heights else ()
    return Lane(planned.label, groups, first, last, heights, tuple(reversed(placed)))


def _heights(
    plan: Plan, groups: tuple[int, ...], foot: float, top: float, ends: tuple[float, float]
) -> tuple[Heights, ...]:
    """The bands of heights of a lane: one, two back to back, or one a group."""
    if len(groups) < 2 or plan.arrange not in ("back-to-back", "lanes"):
        return (Heights(groups, Band(foot, top, *ends)),)
    if plan.arrange == "back-to-back":
        middle = (foot + top) / 2
        tips = (foot, top) if plan.upright else (top, foot)  # the first to the left, or upwards
        pairs = zip(groups, tips, strict=True)
        return tuple(Heights((group,), Band(middle, tip, *ends)) for group, tip in pairs)
    each = (top - foot) / len(groups)
    free = each * _WITHIN
    places = range(len(groups)) if plan.upright else range(len(groups) - 1, -1, -1)
    return tuple(
        Heights((group,), Band(foot + band * each, foot + (band + 1) * each - free, *ends))
        for group, band in zip(groups, places, strict=True)
    )


def _asked_strips(plan: Plan, groups: tuple[int, ...]) -> list[tuple[Form, int]]:
    """The strips of a lane from top to bottom; a box beside a violin lies within it."""
    forms = [form for form in plan.strips if form != "box" or "violin" not in plan.strips]
    return [(form, group) for group in groups for form in forms]


def _from_foot(
    wanted: list[tuple[Form, int]], extents: list[float], groups: tuple[int, ...], upright: bool
) -> list[tuple[tuple[Form, int], float]]:
    """Strips with their extents from a lane's foot up, or from its left to its right.

    Standing, groups follow one another to the right; lying, they do downwards.
    """
    backwards = list(zip(wanted, extents, strict=True))[::-1]
    if not upright:
        return backwards
    return [strip for group in groups for strip in backwards if strip[0][1] == group]


def _strip_extents(
    wanted: list[tuple[Form, int]], room: float, heights: bool
) -> tuple[list[float], float]:
    """The extent of each strip in points, and of all together; heights get what is left."""
    parts = sum(STRIPS[form].parts for form, _ in wanted) + (_HEIGHTS if heights else 0.0)
    unit = room / parts / (1 + _BETWEEN)
    extents = []
    for form, _ in wanted:
        share = STRIPS[form]
        most = min(share.most, _BESIDE_HEIGHTS * share.parts) if heights else share.most
        extents.append(min(share.parts * unit, most))
    return extents, sum(extents)


def _within(violin: Strip) -> Strip:
    """The strip of a box in the middle of a violin."""
    share, most = _BOX_IN_VIOLIN
    half = min(share * violin.band.thickness, most) / 2
    sign = 1.0 if violin.band.tip > violin.band.base else -1.0
    middle = violin.band.middle
    return Strip("box", violin.group, Band(middle - sign * half, middle + sign * half))
