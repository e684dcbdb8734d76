"""What stands around the frames: titles, labels of ticks, names of lanes, and notes."""

from collections.abc import Sequence
from typing import cast

import numpy as np

from rhabdos.figure.recipe.forms import FORMS
from rhabdos.scene.axes import axes
from rhabdos.scene.axes.ticks import Ticks
from rhabdos.scene.coordinates import Band, Frame
from rhabdos.scene.forms import box_numbers, scene_form
from rhabdos.scene.layout import lane_names
from rhabdos.scene.layout.layout import Layout, tick_room
from rhabdos.scene.layout.page_parts import EDGE, NOTE_ROW, PAD, Page
from rhabdos.scene.marks import Anchor, Mark, Meaning, Text
from rhabdos.scene.style.lettering import shortened
from rhabdos.scene.words.boxed import around, padding
from rhabdos.scene.words.label_places import Rect, rect_of
from rhabdos.scene.words.rich import marks_of, width_of

_NOTE_SIZE = 7.5  # points
_APART = 2.0  # points between labels of neighbouring panels
_NEIGHBOURS = 24  # labels of panels before, with which one may collide


def titles(page: Page, frames: Sequence[Frame], under: float) -> list[Mark]:
    """The titles of both axes, once for all panels; a legend below is ``under`` points high."""
    left, right = min(f.left for f in frames), max(f.right for f in frames)
    top, bottom = min(f.top for f in frames), max(f.bottom for f in frames)
    base = page.height - PAD - page.notes_height - under
    marks: list[Mark] = []
    level, upright = page.bottom_title, page.left_title
    x, anchor = {
        "left": (left, "start"),
        "middle": ((left + right) / 2, "middle"),
        "right": (right, "end"),
    }[level.place]
    y = base - (len(level.lines) - 1) * level.face.row
    if page.title_over_names:
        rooms = zip(page.grid.cells, frames, strict=True)
        y = max(frame.bottom + tick_room(page, cell) for cell, frame in rooms) + level.face.row
    wide = max((width_of(line, level.face, page.measure) for line in level.lines), default=0.0)
    x = _held(x, wide, anchor, PAD, page.width - PAD)
    for number, line in enumerate(level.lines):
        at = y + number * level.face.row
        marks += marks_of(
            line, x, at, cast(Anchor, anchor), level.face, Meaning(level.part), page.measure
        )
    # Turned upright, a title begins at the lower end of the axis.
    y, anchor = {
        "left": (bottom, "start"),
        "middle": ((top + bottom) / 2, "middle"),
        "right": (top, "end"),
    }[upright.place]
    wide = max((width_of(line, upright.face, page.measure) for line in upright.lines), default=0.0)
    foot = page.height - PAD - page.notes_height
    y = foot + PAD - _held(foot + PAD - y, wide, anchor, PAD, foot)
    for number, line in enumerate(upright.lines):
        x = PAD + upright.face.size - 1 + number * upright.face.row
        marks += marks_of(
            line, x, y, cast(Anchor, anchor), upright.face, Meaning(upright.part), page.measure, 90
        )
    return marks


def _held(at: float, wide: float, anchor: str, low: float, high: float) -> float:
    """Where a text is anchored so that it lies between two places, or its middle in the middle."""
    before = {"start": 0.0, "middle": 0.5, "end": 1.0}[anchor] * wide
    return max(low, min(at - before, high - wide)) + before


def tick_labels(page: Page, frames: Sequence[Frame], at: Sequence[Ticks]) -> list[Mark]:
    """The labels of ticks where a panel has its own, or none of its neighbours has the same.

    Of labels of neighbouring panels that would touch, the later one is left out.
    """
    marks: list[Mark] = []
    lines: dict[tuple[str, int], list[Rect]] = {}
    asked, face = page.readings.recipe.axes, page.style.face("numbers")
    value, height = Meaning("value-axis"), Meaning("height-axis")
    for cell, frame, ticks in zip(page.grid.cells, frames, at, strict=True):
        row, column = ("row", cell.row), ("column", cell.column)
        turns = [axis.turn or 0 for axis in (asked.value, asked.height)]
        if cell.values:
            alongs = frame.alongs(np.array(ticks.places)).tolist() if ticks.places else []
            if page.upright:
                ys = [frame.page_height - along for along in alongs]
                labels_made = axes.left_labels(ys, ticks.labels, frame.left, value, face, turns[0])
            else:
                labels_made = axes.bottom_labels(
                    alongs, ticks.labels, frame.bottom, value, face, turns[0]
                )
            marks += _clear_of(
                labels_made, lines.setdefault(column if page.upright else row, []), page
            )
        of_heights = page.heights[frame.panel].ticks
        if cell.heights and of_heights.labels:
            wide = [face.wide(text, page.measure) + 3 for text in of_heights.labels]
            level = page.upright if turns[1] == 0 else turns[1] == 90 and not page.upright
            extents = wide if level else [face.size * 1.1] * len(wide)
            levels, texts = _apart(frame, of_heights, extents)
            if page.upright:
                labels_made = axes.bottom_labels(
                    levels, texts, frame.bottom, height, face, turns[1]
                )
            else:
                labels_made = axes.left_labels(levels, texts, frame.left, height, face, turns[1])
            marks += _clear_of(
                labels_made, lines.setdefault(row if page.upright else column, []), page
            )
    return marks


def second_axis(page: Page, frames: Sequence[Frame], beside: float) -> list[Mark]:
    """Labels and title of a second axis of heights: at the right, past the numbers ``beside``
    frames, or over a standing figure."""
    ticks = page.second
    if ticks is None:
        return []
    marks: list[Mark] = []
    meaning, face = Meaning("height-axis"), page.style.face("numbers")
    over = page.style.face("height_axis")
    room = page.width * 0.8 if page.upright else page.height * 0.7
    title = shortened(page.second_title, room, over.size, over.number, page.measure)
    lift = box_numbers.written_height(page.readings) if page.upright else 0.0
    for cell, frame in zip(page.grid.cells, frames, strict=True):
        extents = [face.wide(text, page.measure) + 3 for text in ticks.labels]
        extents = extents if page.upright else [face.size * 1.1] * len(extents)
        levels, texts = _apart(frame, ticks, extents)
        if page.upright and cell.row == 0:
            marks += axes.top_labels(levels, texts, frame.top - lift, meaning, face)
        elif not page.upright and cell.column == page.grid.columns - 1:
            marks += axes.right_labels(levels, texts, frame.right + beside, meaning, face)
    if page.upright:
        x, angle = (frames[0].left + frames[0].right) / 2, 0.0
        y = frames[0].top - lift - axes.TICK - face.size - 5
    else:
        x = max(f.right for f in frames) + beside + axes.TICK + axes.LABEL_GAP + over.size + 4
        x += axes.wide(ticks.labels, 0, page.measure, face)
        y, angle = (min(f.top for f in frames) + max(f.bottom for f in frames)) / 2, 90.0
    return [
        *marks,
        Text(x, y, title, over.size, "middle", over.colour, meaning, over.bold, angle, over.slant),
    ]


def _clear_of(wanted: Sequence[Text], taken: list[Rect], page: Page) -> list[Text]:
    """The labels that touch none of the last ones of neighbouring panels."""
    if page.alone:
        return list(wanted)
    near, kept = taken[-_NEIGHBOURS:], []
    for text in wanted:
        rect = rect_of(text, page.measure)
        grown = Rect(rect.left - _APART, rect.top, rect.right + _APART, rect.bottom)
        if not any(grown.meets(other) for other in near):
            kept.append(text)
            taken.append(rect)
    return kept


def _apart(frame: Frame, ticks: Ticks, extents: Sequence[float]) -> tuple[list[float], list[str]]:
    """Where the labels of heights lie across, band by band; those that would touch are left out.

    ``extents`` tells how much room each label takes across. The 0 of a band always stays.
    """
    bands = [heights.band for lane in frame.lanes for heights in lane.heights]
    if len(bands) > 1 and bands[0].thickness < 2 * max(extents, default=0.0):
        # No band has room for two labels: the top one of the first says how high heights are.
        bands, ticks, extents = bands[:1], _topmost(ticks), extents[-1:]
    return _apart_in(bands, ticks, extents)


def _topmost(ticks: Ticks) -> Ticks:
    """The last tick alone, and none where that is 0."""
    last = slice(-1, None) if ticks.places and ticks.places[-1] > 0 else slice(0, 0)
    return Ticks(ticks.places[last], ticks.labels[last])


def _apart_in(
    bands: Sequence[Band], ticks: Ticks, extents: Sequence[float]
) -> tuple[list[float], list[str]]:
    if not ticks.places:
        return [], []
    if len(bands) == 1 and bands[0].thickness >= sum(extents):
        return bands[0].ats(np.array(ticks.places)).tolist(), list(ticks.labels)
    levels: list[float] = []
    texts: list[str] = []
    taken: list[tuple[float, float]] = []
    wanted = [
        (number > 0, band.at(place), text, extent / 2)
        for band in bands
        for number, (place, text, extent) in enumerate(
            zip(ticks.places, ticks.labels, extents, strict=True)
        )
    ]
    for _, level, text, half in sorted(wanted, key=lambda label: label[0]):
        if all(level + half <= low or level - half >= high for low, high in taken):
            taken.append((level - half, level + half))
            levels.append(level)
            texts.append(text)
    return levels, texts


def names(page: Page, frames: Sequence[Frame], layout: Layout) -> list[Mark]:
    """The names of lanes, and the numbers beside boxes."""
    readings, style, measure = page.readings, page.style, page.measure
    marks: list[Mark] = []
    lowest = 0.0
    for cell, frame in zip(page.grid.cells, frames, strict=True):
        room = tick_room(page, cell)
        if page.upright:
            room += page.title_over_names
            left = PAD if cell.column == 0 else frame.left
            marks += box_numbers.table_beneath(
                readings, frame, frame.bottom + room + 2, left, measure, style
            )
            room += box_numbers.table_height(readings, page.upright)
            if page.grid.ends_column(cell):
                lowest = max(lowest, frame.bottom + room)
                marks += lane_names.bottom_marks(page, layout.names, frame, frame.bottom + room)
            marks += box_numbers.written_top(readings, frame, style, measure)
        else:
            if cell.column == 0:
                over = cell.row == 0
                marks += lane_names.left_marks(page, layout.names, frame, frame.left - room, over)
            extent = frame.bottom - frame.top
            marks += box_numbers.written_right(
                readings, frame, extent, layout.beside, measure, style
            )
    if page.upright:
        marks += lane_names.factor_mark(page, layout.names, frames, lowest)
    return marks


def note(page: Page, drawn: Sequence[Mark]) -> list[Mark]:
    """What is said under the figure: how many rows were kept, how many values the axis does not
    show, and what forms say, such as how many of the values they could draw."""
    said = [(page.kept_rows, "rows")] if page.kept_rows else []
    said += [(page.beyond, "value-axis")] if page.beyond else []
    said += [(page.sway, "note")] if page.sway else []
    for form in page.noted:
        written = scene_form(form).note
        said.append((written(page.readings, drawn) if written else "", FORMS[form].part))
    x, foot = page.width - EDGE, page.height - PAD
    marks: list[Mark] = [
        Text(x, foot - row * NOTE_ROW, text, _NOTE_SIZE, "end", page.style.quiet, Meaning(part))
        for row, (text, part) in enumerate(said)
        if text
    ]
    own, asked = page.own_note, page.style.lettering.note
    free = padding(asked, page.style)
    foot -= len(said) * NOTE_ROW + (len(own.lines) - 1) * own.face.row + free
    ends = {"left": PAD + free, "middle": page.width / 2, "right": x - free}
    anchors: dict[str, Anchor] = {"left": "start", "middle": "middle", "right": "end"}
    if own.lines:
        wide = max(width_of(line, own.face, page.measure) for line in own.lines)
        before = {"left": 0.0, "middle": 0.5, "right": 1.0}[own.place] * wide
        left, top = ends[own.place] - before, foot - 0.8 * own.face.size
        bottom = foot + (len(own.lines) - 1) * own.face.row + 0.25 * own.face.size
        words = Rect(left, top, left + wide, bottom)
        marks += around(words, asked, page.style, Meaning(own.part))
    for number, line in enumerate(own.lines):
        base = foot + number * own.face.row
        place, anchor = ends[own.place], anchors[own.place]
        marks += marks_of(line, place, base, anchor, own.face, Meaning(own.part), page.measure)
    return marks
