"""What places on the page stand for, for pointing at."""

from collections.abc import Sequence

import numpy as np

from rhabdos.figure.recipe.forms import FORMS
from rhabdos.scene.axes import axes
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.layout.layout import tick_room
from rhabdos.scene.layout.page_parts import PAD, Page
from rhabdos.scene.marks import Meaning, Zone


def axis_zones(page: Page, frames: Sequence[Frame]) -> list[Zone]:
    """What stands left of all frames and under them; between them, the labels of ticks."""
    left, bottom = min(f.left for f in frames), max(f.bottom for f in frames)
    top, right = min(f.top for f in frames), max(f.right for f in frames)
    heights = Meaning("height-axis" if page.readings.plan.heights else "lane")
    value = Meaning("value-axis")
    at_left, at_bottom = (value, heights) if page.upright else (heights, value)
    zones = [Zone(0, top, left, bottom, at_left), Zone(left, bottom, right, page.height, at_bottom)]
    deep = axes.TICK + page.style.face("numbers").size + 3
    for cell, frame in zip(page.grid.cells, frames, strict=True):
        below, beside = (cell.heights, cell.values) if page.upright else (cell.values, cell.heights)
        if below and frame.bottom < bottom:
            base = frame.bottom + deep
            zones.append(Zone(frame.left, frame.bottom, frame.right, base, at_bottom))
        if beside and frame.left > left:
            zones.append(Zone(frame.left - 2 * deep, frame.top, frame.left, frame.bottom, at_left))
    return zones


def title_zones(page: Page, frames: Sequence[Frame], under: float) -> list[Zone]:
    """Where the titles of the axes stand, and the note under the figure: what may be typed over."""
    zones = []
    left, right = min(f.left for f in frames), max(f.right for f in frames)
    top, bottom = min(f.top for f in frames), max(f.bottom for f in frames)
    foot = page.height - PAD - page.notes_height
    level, upright = page.bottom_title, page.left_title
    if level.lines:
        base = foot - under + 3
        zones.append(Zone(left, base - level.deep - 2, right, base, Meaning(level.part)))
    if upright.lines:
        zones.append(Zone(0, top, PAD + upright.deep + 2, bottom, Meaning(upright.part)))
    if page.own_note.lines:
        high = len(page.own_note.lines) * page.own_note.face.row
        zones.append(Zone(0, foot + 2, page.width, foot + high + 2, Meaning("own-note")))
    return zones


def panel_zones(page: Page, frame: Frame) -> list[Zone]:
    """A frame stands for what is drawn on its ground, a strip for its form, a name for its lane."""
    zones = [Zone(frame.left, frame.top, frame.right, frame.bottom, _ground(page))]
    for lane in frame.lanes:
        for strip in lane.strips:
            corners = frame.points(
                np.array([frame.start, frame.end]), np.array([strip.band.base, strip.band.tip])
            )
            left, top = corners.min(axis=0).tolist()
            right, bottom = corners.max(axis=0).tolist()
            meaning = Meaning(FORMS[strip.form].part, strip.group)
            zones.append(Zone(left, top, right, bottom, meaning))
    if page.in_lanes:
        zones += _lane_zones(page, frame)
    return zones


def _lane_zones(page: Page, frame: Frame) -> list[Zone]:
    """Where the names of lanes stand."""
    cell = page.grid.cells[frame.panel]
    room = tick_room(page, cell)
    zones = []
    for planned, lane in zip(
        page.readings.plan.panels[frame.panel].lanes, frame.lanes, strict=True
    ):
        meaning = Meaning("lane", level=planned.label)
        if page.upright and page.grid.ends_column(cell):
            zones.append(
                Zone(lane.first, frame.bottom + room, lane.last, page.height - 2 * PAD, meaning)
            )
        elif not page.upright and cell.column == 0:
            start = PAD + page.left_title.deep if page.left_title.lines else 0.0
            zones.append(Zone(start, lane.first, frame.left - room, lane.last, meaning))
    return zones


def _ground(page: Page) -> Meaning:
    """What the paper between the marks stands for: the bins, or else the first form on it."""
    if page.readings.needs_bins:
        return Meaning("bars")
    drawn_forms = (*page.readings.plan.heights, *page.readings.plan.strips)
    return Meaning(FORMS[drawn_forms[0]].part)
