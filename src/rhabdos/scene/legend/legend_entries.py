"""The legend: a swatch, a name and the size of each group, in rows or one under the other."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct, structs

from rhabdos.figure.readings.legend_place import forms_told, place_of_levels
from rhabdos.figure.readings.readings import Readings, size_words
from rhabdos.figure.recipe.forms import FORMS, filled_forms, heights_forms
from rhabdos.figure.recipe.recipe import Form
from rhabdos.figure.words.markup import Run, Stands
from rhabdos.figure.words.naming import shown_words
from rhabdos.quoting import set_apart
from rhabdos.scene.marks import Mark, Meaning, Segments, Swatch, Zone
from rhabdos.scene.style.lettering import Face, Measure
from rhabdos.scene.style.look import LINE_STROKES, colours_of_levels, usual_line
from rhabdos.scene.style.style import Style
from rhabdos.scene.words.rich import Line, fitting, lines_of, marks_of, width_of, with_end

_ROW = 12.5 / 8.5  # of the size of its letters, that an entry of one line takes …
_LINE = 10.5 / 8.5  # … and each further line of it
LARGEST = 1 / 3  # of the paper's width and height
_SWATCH = 8.0 / 8.5  # of the size of letters, the side of a swatch
_LINE_LONG = 18.0 / 8.5  # of it, how long the line of a form is
_BASE = 3.5 / 8.5  # of it, from the bottom of an entry up to its base line
_GAP = 4.0  # points from a swatch to its name
_MOST_LINES = 4  # of a name
_BETWEEN = 14.0  # points from entry to entry
_CALLED: dict[Form, str] = {"curve": "density curve", "polygon": "frequency polygon"}


class Named(Struct, frozen=True):
    """A level with a colour: its name, what it is called, its colour, and its size in words, if
    told; of areas their hatching, and of lines that dashes tell apart, their width and dash."""

    label: str
    shown: str
    colour: str
    size: str = ""
    hatch: int = 0
    line: tuple[float, tuple[float, ...]] | None = None


class FormSample(Struct, frozen=True):
    """A form of the figure: what it is called, and how it is drawn; ``dash`` is None of one that is
    filled."""

    shown: str
    colour: str
    width: float = 0.0
    dash: tuple[float, ...] | None = None


class Entry(Struct, frozen=True):
    """A level of the legend, a form, or words alone, which have no colour.

    ``place`` is where narrower words stand in a column: 0 at its left, 1 at its right; ``line`` are
    the width and the dash of what is a line; ``indent`` is free behind a swatch that is
    narrower than others of a column, so that all words begin in line.
    """

    lines: tuple[Line, ...]
    face: Face
    width: float
    colour: str = ""
    level: str = ""
    part: str = "legend"
    hatch: int = 0
    place: float = 0.0
    line: tuple[float, tuple[float, ...]] | None = None
    indent: float = 0.0

    @property
    def height(self) -> float:
        """The room from its top to its bottom, in points."""
        return self.face.size * (_ROW + _LINE * (len(self.lines) - 1))

    @property
    def swatch(self) -> float:
        """The side of its swatch, in points; a line is longer."""
        return self.face.size * (_SWATCH if self.line is None else _LINE_LONG)


Row = Sequence[Entry]


def named(readings: Readings, style: Style) -> tuple[Named, ...]:
    """The levels that colours stand for, in the order of the legend."""
    plan, settings = readings.plan, readings.recipe.legend
    if plan.coloured is None or place_of_levels(readings) == "none":
        return ()
    groups: dict[int, list[int]] = {}
    forward: dict[int, bool] = {}
    for group in readings.groups:
        groups.setdefault(group.colour, []).append(group.index)
        forward[group.colour] = forward.get(group.colour, False) or group.forward
    colours = colours_of_levels(readings, style)
    levels = plan.coloured.levels[::-1] if settings.reverse else plan.coloured.levels
    filled = bool(filled_forms(readings.recipe))
    dashed = None if filled else _told_by_dashes(readings, style)
    entries = []
    for level in levels:
        colour = colours[level.index] if forward.get(level.index, True) else style.receded
        line, hatch = None, style.hatch_of(level.index) if filled else 0
        if dashed is not None:
            colour, width, dash = _line_of(dashed, readings, style, colour, level.index)
            line = width, dash
        shown = shown_words(readings, level.label) or "“ ”"
        size = size_words(readings, groups.get(level.index, [])) if settings.n else ""
        entries.append(Named(level.label, shown, colour, size, hatch, line))
    return tuple(entries)


def _told_by_dashes(readings: Readings, style: Style) -> Form | None:
    """The form of whose lines each group has a dash of its own, if there is one."""
    lines = (form for form in heights_forms(readings.recipe) if form in LINE_STROKES)
    if style.dashes != "by-group":
        return None
    return next((form for form in lines if usual_line(form, readings, style)[1] is None), None)


def _line_of(
    form: Form, readings: Readings, style: Style, colour: str, tone: int
) -> tuple[str, float, tuple[float, ...]]:
    """Colour, width and dash of the line of a form."""
    drawn = LINE_STROKES[form]
    width, dash = usual_line(form, readings, style)
    own = readings.recipe.strokes.of(drawn)
    return style.stroked(own, colour, width, dash or style.dash_of(tone))


def forms_named(readings: Readings, style: Style) -> tuple[FormSample, ...]:
    """The forms of the legend as they are drawn; of several groups in ink, since each group has its
    own colour."""
    levels = colours_of_levels(readings, style)
    usual = style.ink if len(levels) > 1 else levels[0]
    samples = []
    for form in forms_told(readings):
        words = shown_words(readings, _CALLED.get(form, FORMS[form].title))
        if form == "bars":
            samples.append(FormSample(words, style.quiet if len(levels) > 1 else usual))
            continue
        samples.append(FormSample(words, *_line_of(form, readings, style, usual, 0)))
    return tuple(samples)


def title_of(readings: Readings) -> str:
    """What stands before or over the legend: as asked, or the factor where there are several."""
    plan, asked = readings.plan, readings.recipe.legend.title
    if asked is not None:
        return asked
    several = len(plan.within) > 1 or plan.paneled
    return shown_words(readings, plan.coloured.label) if plan.coloured and several else ""


def entries(
    title: str,
    levels: Sequence[Named],
    forms: Sequence[FormSample],
    room: float,
    measure: Measure,
    style: Style,
    stands: Stands,
    in_line: bool = False,
) -> list[Entry]:
    """The legend's entries, levels before forms; a name too long for ``room`` is cut before its
    n. Where they stand one under the other, their words begin ``in_line``."""
    shown = []
    lines_among = in_line and any(
        [*(form.dash is not None for form in forms), *(level.line is not None for level in levels)]
    )
    if title:
        face, asked = style.face("legend_title"), style.lettering.legend_title
        lines = _lines(title, room, face, measure, stands)
        wide = max(width_of(line, face, measure) for line in lines)
        place = {"left": 0.0, "middle": 0.5, "right": 1.0}[asked.place or "left"]
        shown.append(Entry(lines, face, wide, part="legend-title", place=place))
    face = style.face("levels")
    beside = face.size * (_LINE_LONG - _SWATCH) if lines_among else 0.0
    for level in levels:
        indent = beside if level.line is None else 0.0
        before = face.size * (_SWATCH if level.line is None else _LINE_LONG) + _GAP + indent
        size = f"  {level.size}" if level.size else ""
        free = room - before - face.wide(size, measure)
        shown_name = set_apart(level.shown) if size else level.shown
        lines = _lines(shown_name, free, face, measure, stands)
        lines = (*lines[:-1], with_end(lines[-1], size))
        wide = before + max(width_of(line, face, measure) for line in lines)
        own = (level.colour, level.label)
        sample = Entry(lines, face, wide, *own, hatch=level.hatch, line=level.line)
        shown.append(structs.replace(sample, indent=indent))
    for form in forms:
        line = None if form.dash is None else (form.width, form.dash)
        aside = beside if line is None else 0.0
        before = face.size * (_SWATCH if line is None else _LINE_LONG) + _GAP + aside
        lines = _lines(form.shown, room - before, face, measure, stands)
        wide = before + max(width_of(each, face, measure) for each in lines)
        sample = Entry(lines, face, wide, form.colour, part="legend-form", line=line)
        shown.append(structs.replace(sample, indent=aside))
    return shown


def _lines(
    words: str, room: float, face: Face, measure: Measure, stands: Stands
) -> tuple[Line, ...]:
    """A name in the lines that it is given, each cut to its room."""
    given = words.split("\n")[:_MOST_LINES]
    broken = (lines_of(line, 1e9, face, measure, stands, 1) for line in given)
    return tuple(fitting(next(iter(line), ()), room, face, measure) for line in broken)


def rows(shown_entries: Sequence[Entry], room: float, most: float, measure: Measure) -> list[Row]:
    """Fill rows of at most ``room`` points in width, together at most ``most`` points high, in
    order; the last one tells how many are left out."""
    filled = _filled(shown_entries, room)
    fitting = _fitting(filled, most)
    if fitting == len(filled):
        return filled
    shown = filled[:fitting]
    while True:
        left_out = _coloured(shown_entries) - sum(_coloured(row) for row in shown)
        more = _more(shown_entries, left_out, measure)
        if not shown[-1] or width([*shown[-1], more]) <= room:
            return [*shown[:-1], [*shown[-1], more]]
        shown[-1] = shown[-1][:-1]


def column(shown_entries: Sequence[Entry], most: float, measure: Measure) -> list[Row]:
    """One entry a row, together at most so high; the last one tells how many are left out."""
    each: list[Row] = [[entry] for entry in shown_entries]
    fitting = _fitting(each, most)
    if fitting == len(each):
        return each
    kept = each[: max(0, fitting - 1)]
    left_out = _coloured(shown_entries) - sum(_coloured(row) for row in kept)
    return [*kept, [_more(shown_entries, left_out, measure)]]


def _fitting(filled: Sequence[Row], most: float) -> int:
    """How many rows are at most so high together; one at least."""
    reached, count = 0.0, 0
    for row in filled:
        reached += row_height(row)
        if reached > most + 1e-6:  # of a point, which summing widths may add
            break
        count += 1
    return max(1, count)


def _more(shown_entries: Sequence[Entry], left_out: int, measure: Measure) -> Entry:
    face, text = shown_entries[-1].face, f"and {left_out:,} more"
    return Entry(((Run(text),),), face, face.wide(text, measure))


def _coloured(row: Row) -> int:
    return sum(1 for entry in row if entry.colour)


def _filled(shown_entries: Sequence[Entry], room: float) -> list[Row]:
    filled: list[list[Entry]] = [[]]
    used = 0.0
    for entry in shown_entries:
        if filled[-1] and used + entry.width > room:
            filled.append([])
            used = 0.0
        filled[-1].append(entry)
        used += entry.width + _BETWEEN
    return list(filled)


def width(row: Row) -> float:
    """How wide a row of entries is, in points."""
    return sum(entry.width for entry in row) + _BETWEEN * (len(row) - 1)


def row_height(row: Row) -> float:
    """How high a row of entries is, in points."""
    return max((entry.height for entry in row), default=0.0)


def height(of_rows: Sequence[Row]) -> float:
    """How high rows of entries are together, in points."""
    return sum(row_height(row) for row in of_rows)


def _first_base(row: Row, top: float) -> float:
    """The base line of the first lines of a row that begins at ``top``; entries share it."""
    size = max(entry.face.size for entry in row)
    return top + size * (_ROW - _BASE)


def marks(
    row: Row, left: float, top: float, style: Style, measure: Measure, wide: float = 0.0
) -> list[Mark]:
    """Draw one row of entries from ``left`` and ``top`` on; ``wide`` is that of its column."""
    drawn: list[Mark] = []
    base = _first_base(row, top)
    for entry in row:
        x, face, meaning = left, entry.face, Meaning(entry.part)
        if entry.colour:
            meaning, side = _meaning_of(entry), entry.swatch
            x = left + side + entry.indent + _GAP
            if entry.line is None:
                corner = (left, base - side + 1)
                drawn.append(Swatch(*corner, side, entry.colour, 0.4, meaning, entry.hatch))
            else:
                level, (thick, dash) = base - face.size * 0.3, entry.line
                ends = np.array([[left, level, left + side, level]])
                drawn.append(Segments(ends, entry.colour, thick, 1.0, meaning, dash))
        elif entry.part == "legend":
            face = structs.replace(face, colour=style.quiet)
        for number, line in enumerate(entry.lines):
            y, at = base + number * face.size * _LINE, x
            if entry.place and wide:
                at += entry.place * (wide - width_of(line, face, measure))
            drawn += marks_of(line, at, y, "start", face, meaning, measure)
        left += entry.width + _BETWEEN
    return drawn


def _meaning_of(entry: Entry) -> Meaning:
    """What is meant by pointing at an entry: a level, or how the legend is."""
    if entry.part == "legend-form":
        return Meaning("legend-form")
    return Meaning("legend", level=entry.level)


def zones(row: Row, left: float, top: float, wide: float = 0.0) -> list[Zone]:
    """Where each entry of a row is pointed at."""
    places = []
    base = _first_base(row, top)
    for entry in row:
        head = base - entry.face.size * _SWATCH - 1
        foot = base + 3 + (len(entry.lines) - 1) * entry.face.size * _LINE
        right = left + entry.width
        if entry.colour and entry.part == "legend-form":
            places.append(Zone(left, head, right, foot, _meaning_of(entry)))
        elif entry.colour:
            meaning = _meaning_of(entry)
            places.append(Zone(left, head, right, foot, meaning))
            swatch = Meaning("swatch", level=entry.level)
            places.append(Zone(left - 1, head, left + entry.swatch + 1, base + 3, swatch))
        elif entry.part == "legend-title":
            far = max(right, left + wide) if entry.place else right
            places.append(Zone(left, head, far, foot, Meaning(entry.part)))
        left += entry.width + _BETWEEN
    return places
