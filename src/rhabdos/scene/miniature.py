"""Figures as small pictures: what is drawn, without axes and words."""

from functools import partial

import numpy as np
from msgspec import structs

from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Form, Recipe
from rhabdos.scene.axes import axes
from rhabdos.scene.axes.limits import limits_of
from rhabdos.scene.build import drawn
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.layout.page_parts import Page
from rhabdos.scene.marks import Mark, Scene, Segments
from rhabdos.scene.panels.grid import Margins, laid_out, page_size
from rhabdos.scene.panels.lanes import lay_lanes
from rhabdos.scene.style.look import style_of
from rhabdos.scene.style.style import Style
from rhabdos.scene.words.label_places import Rect

_LEAST = 4.0  # points of a frame in a small picture


def miniature(
    readings: Readings, form: Form, width: float, height: float, style: Style | None = None
) -> Scene:
    """A figure drawn as one form alone, on a page of so many points."""
    recipe = readings.recipe.showing(forms=(form,), upright=False, arrange=None)
    return small(recipe, readings, width, height, style)


def small(
    recipe: Recipe, readings: Readings, width: float, height: float, style: Style | None = None
) -> Scene:
    """A recipe drawn of the same samples without axes and words, on a page of so many points.

    Raises
    ------
    Refusal
        It cannot be drawn of these samples.
    """
    bare = recipe.changed(
        bars=recipe.bars.changed(labels=None),
        box=recipe.box.changed(names=None, mean=False),
        lines=recipe.lines.changed(mean=False, median=False),
        sway=recipe.sway.changed(of=None),
    )
    style = style_of(recipe) if style is None else style
    alone = Readings(bare, readings.gathered)
    limits = limits_of(alone)
    whole = page_size(alone).points()
    page = Page(
        alone, width, height, limits, lambda _text, _size, _bold: 0.0, style, stands_for=whole
    )
    room = Rect(2.0, 3.0, width - 2.0, height - 1.0)
    boxes = laid_out(page.grid, room, (Margins(),) * len(page.grid.cells), _LEAST)
    marks: list[Mark] = []
    frames = []
    for cell, box, of in zip(page.grid.cells, boxes, limits, strict=True):
        sides = (box.left, box.top, box.right, box.bottom)
        frame = Frame(*sides, of.low, of.high, height, page.upright, (), cell.panel)
        frame = structs.replace(frame, axis=of.axis, reversed=of.reversed)
        panel, scale = alone.plan.panels[cell.panel], page.heights[cell.panel]
        lanes = lay_lanes(alone.plan, panel, frame.first, frame.last, scale.top, scale.least)
        frame = structs.replace(frame, lanes=lanes)
        frames.append(frame)
        marks += [axes.ground(frame, style)] if style.ground else []
        marks += drawn(page, frame)
        marks += _ground(page, frame)
    describe = partial(plain, alone)
    return Scene(width, height, tuple(marks), (), tuple(frames), describe, style.paper, style.font)


def _ground(page: Page, frame: Frame) -> list[Mark]:
    """The base lines of what has heights; the edges of each of several panels."""
    marks: list[Mark] = [] if page.alone else [axes.outline(frame, page.style)]
    bases = [heights.band.foot for lane in frame.lanes for heights in lane.heights]
    if bases:
        across = np.array(sorted(set(bases)))
        start, end = np.full(len(across), frame.start), np.full(len(across), frame.end)
        lines = frame.lines(start, across, end, across)
        marks.append(Segments(lines, page.style.quiet, 0.8, 1.0, None))
    return marks
