"""The names of lanes: at the left of lying ones, under standing ones."""

from collections.abc import Sequence

from msgspec import Struct, structs

from rhabdos.figure.planning.ordering import VARIABLE
from rhabdos.figure.readings.readings import Readings, size_words
from rhabdos.figure.words.markup import Run
from rhabdos.figure.words.naming import shown_name, shown_words
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.layout.page_parts import Page
from rhabdos.scene.marks import Anchor, Mark, Meaning, Text, Zone
from rhabdos.scene.style.lettering import Face, Measure, shortened
from rhabdos.scene.words.label_places import rect_of
from rhabdos.scene.words.rich import Line, lines_of, marks_of, width_of, with_end

ROW = 10.5 / 8.5  # of the size of its letters, that a line takes
_FACTOR = 7.5  # size of what lying lanes are levels of
_WIDEST = 0.27  # of the page's width that names take at the left …
_HIGHEST = 0.30  # … and of its height at the bottom
_MOST_N = 0.4  # of the room of a name, that its n may take where the name is cut
_GAP = 7.0  # points between names and frame
_SMALLEST = 3.0  # points of a lane that has its name written
_MOST_LINES = 4  # of a name
_BROKEN = 3  # lines into which names under standing lanes are broken
_SMALLER = (1.0, 0.9, 0.8)  # letters of names that are tried before any is cut
_CUT_OF = 3  # one of so many of them may be cut …
_LEAST_LETTERS = 6  # … where a line has room for so many letters
_MEANING = Meaning("lane")

Row = tuple[Line, Face]
"""A line beside a lane, and how it is set."""


class LaneNames(Struct, frozen=True):
    """The lines beside each lane, and the room they take.

    Attributes
    ----------
    rows : tuple of tuple of Row
        For each lane, from the top down.
    factor : str
        What the levels are levels of.
    """

    rows: tuple[tuple[Row, ...], ...] = ()
    factor: str = ""
    turned: bool = False
    width: float = 0.0
    height: float = 0.0


def _labels(page: Page) -> list[tuple[str, str]]:
    """Name and n of each lane; of several panels, which all have other sizes, no n."""
    readings, without_sizes = page.readings, page.without_sizes
    plan = readings.plan
    names = [shown_words(readings, lane.label) or "“ ”" for lane in plan.lanes]
    if len(plan.panels) > 1 or without_sizes:
        return [(name, "") for name in names]
    named = []
    for number, name in enumerate(names):
        all_panels = (panel.lanes[number].groups for panel in plan.panels)
        groups = [group.index for of_panel in all_panels for group in of_panel]
        named.append((name, size_words(readings, groups)))
    return named


def _factor(readings: Readings) -> str:
    laned = readings.plan.laned
    return shown_name(readings, laned.label) if laned and laned.name != VARIABLE else ""


def _factor_face(page: Page) -> Face:
    if page.upright:
        return page.style.face("legend_title", colour=page.style.ink)
    return page.style.face("legend_title", size=_FACTOR)


def _most_lines(words: str, usual: int = 2) -> int:
    """How many lines a name may have: as many as usual, or as it is given."""
    return min(_MOST_LINES, max(usual, words.count("\n") + 1))


def told_apart(
    names: Sequence[str], rooms: Sequence[float], face: Face, measure: Measure
) -> list[str]:
    """Names cut to their rooms: at their ends, or where these are alike, in their middles."""
    both = list(zip(names, rooms, strict=True))
    cut = [shortened(name, room, face.size, face.number, measure) for name, room in both]
    if len(set(cut)) == len(set(names)):
        return cut
    return [_cut_within(name, room, face, measure) for name, room in both]


def _cut_within(name: str, room: float, face: Face, measure: Measure) -> str:
    """As much of both ends of a name as fits around "…", more of its end than of its beginning."""
    if face.wide(name, measure) <= room:
        return name
    for kept in range(len(name) - 1, 1, -1):
        head = kept // 3
        text = f"{name[:head].rstrip()}…{name[len(name) - (kept - head) :].lstrip()}"
        if face.wide(text, measure) <= room:
            return text
    return "…"


def lines_apart(page: Page, words: Sequence[str], rooms: Sequence[float], face: Face) -> list[Line]:
    """Names in one line each; those without room are cut so that they still differ."""
    whole = [
        next(iter(lines_of(" ".join(text.split()), 1e9, face, page.measure, page.stands, 1)), ())
        for text in words
    ]
    fit = [
        width_of(line, face, page.measure) <= room for line, room in zip(whole, rooms, strict=True)
    ]
    if all(fit):
        return whole
    flat = ["".join(run.text for run in line) for line in whole]
    cut = told_apart(flat, rooms, face, page.measure)
    return [
        line if fits else (Run(text),) for line, fits, text in zip(whole, fit, cut, strict=True)
    ]


def at_left(page: Page, page_width: float, extent: float) -> LaneNames:
    """Names beside lying lanes: over their n where there is room, else before it."""
    measure, lanes = page.measure, len(page.readings.plan.lanes)
    each = extent / lanes
    if lanes == 1 or each < _SMALLEST:  # nobody could read them: pointing tells
        return LaneNames()
    most, named = page_width * _WIDEST, _labels(page)
    names = [name for name, _ in named]
    face = page.style.face("levels", bold=True)
    row = face.size * ROW
    two_rows = each >= 2.2 * row
    if not two_rows:
        plain = page.style.face("levels")
        face = structs.replace(plain, size=max(_SMALLEST, min(plain.size, 0.82 * each)))
    rest = _of_sizes(page, face)
    rows: list[tuple[Row, ...]]
    lines_each = int(each / row - 1.3)
    broken = [
        lines_of(name, most, face, measure, page.stands, min(_most_lines(name), max(1, lines_each)))
        for name in names
    ]
    apart = len({tuple(lines) for lines in broken}) == len(set(names))
    if lines_each >= 2 and apart:
        rows = [_rows(lines, face, n, rest) for lines, (_, n) in zip(broken, named, strict=True)]
    elif two_rows:
        cut = lines_apart(page, names, [most] * lanes, face)
        rows = [_rows([line], face, n, rest) for line, (_, n) in zip(cut, named, strict=True)]
    else:
        rows = _in_one_row(page, named, most, face)
    factor_face = _factor_face(page)
    factor = shortened(_factor(page.readings), most, factor_face.size, factor_face.number, measure)
    widest = max(width_of(line, face, measure) for lines in rows for line, face in lines)
    return LaneNames(
        tuple(rows), factor, width=max(widest, factor_face.wide(factor, measure)) + _GAP
    )


def _of_sizes(page: Page, face: Face) -> Face:
    """How the n under a name is set."""
    return Face(face.size, False, face.slant, page.style.quiet)


def _rows(lines: Sequence[Line], face: Face, n: str, rest: Face) -> tuple[Row, ...]:
    """A name in lines with its n under it, if that is told."""
    rows = [(line, face) for line in lines]
    return (*rows, ((Run(n),), rest)) if n else tuple(rows)


def _in_one_row(
    page: Page, named: Sequence[tuple[str, str]], most: float, face: Face
) -> list[tuple[Row, ...]]:
    """Names with their n behind them, which gives way where it would leave little of a name."""
    names, ends = [name for name, _ in named], [f"  {n}" if n else "" for _, n in named]
    widths = [face.wide(end, page.measure) for end in ends]
    short = any(
        face.wide(name, page.measure) + wide > most
        for name, wide in zip(names, widths, strict=True)
    )
    if short and max(widths) > most * _MOST_N:
        ends, widths = [""] * len(named), [0.0] * len(named)
    cut = lines_apart(page, names, [most - wide for wide in widths], face)
    return [((with_end(line, end), face),) for line, end in zip(cut, ends, strict=True)]


def at_bottom(page: Page, page_height: float, extent: float) -> LaneNames:
    """Names under standing lanes: broken into up to three lines where they have room so, then a
    little smaller, then with the longest of them cut, and turned where that would leave too little.
    """
    measure, lanes = page.measure, len(page.readings.plan.lanes)
    each = extent / lanes - 4
    if lanes == 1 or each + 4 < _SMALLEST:
        return LaneNames()
    named = _labels(page)
    factor_face = _factor_face(page)
    factor = shortened(
        _factor(page.readings), extent, factor_face.size, factor_face.number, measure
    )
    under = factor_face.size * ROW if factor else 2.0
    for smaller in _SMALLER:
        face = page.style.face("levels", bold=True)
        face = structs.replace(face, size=face.size * smaller)
        level = _level(page, named, each, face, may_cut=smaller == _SMALLER[-1])
        if level is not None:
            height = max(len(rows) for rows in level) * face.size * ROW + 4 + under
            return LaneNames(tuple(level), factor, False, 0.0, height)
    plain = page.style.face("levels")
    plain = structs.replace(plain, size=max(_SMALLEST, min(plain.size, 0.85 * (each + 4))))
    turned = _in_one_row(page, named, page_height * _HIGHEST, plain)
    longest = max(width_of(line, plain, measure) for ((line, _),) in turned)
    return LaneNames(tuple(turned), factor, True, 0.0, longest + 6 + under)


def _level(
    page: Page, named: Sequence[tuple[str, str]], each: float, face: Face, may_cut: bool
) -> list[tuple[Row, ...]] | None:
    """Names broken into lines as wide as their lanes; None where they cannot be read so."""
    measure, rest = page.measure, _of_sizes(page, face)
    broken = [
        lines_of(name, each, face, measure, page.stands, _most_lines(name, _BROKEN))
        for name, _ in named
    ]
    if not _readable(broken, named, each if may_cut else 0.0, face, measure):
        return None
    rows = [_rows(lines, face, n, rest) for lines, (_, n) in zip(broken, named, strict=True)]
    wide = max(width_of(line, of, measure) for lines in rows for line, of in lines)
    return rows if wide <= each else None


def _readable(
    broken: Sequence[Sequence[Line]],
    named: Sequence[tuple[str, str]],
    room: float,
    face: Face,
    measure: Measure,
) -> bool:
    """Whether names that are broken into lines can be read so: none is cut, or few of them are, and
    keep so much that they are told apart."""
    cut = [lines for lines in broken if any(_is_cut(line) for line in lines)]
    if not cut:
        return True
    few = len(cut) <= max(1, len(named) // _CUT_OF)
    told = {tuple("".join(run.text for run in line) for line in lines) for lines in broken}
    apart = len(told) == len({name for name, _ in named})
    return few and apart and room >= face.wide("n" * _LEAST_LETTERS, measure)


def _is_cut(line: Line) -> bool:
    return bool(line) and line[-1].text.endswith("…")


def left_marks(
    page: Page, names: LaneNames, frame: Frame, right: float, titled: bool
) -> list[Mark]:
    """The names of lying lanes, right against ``right``; the factor over them where ``titled``."""
    marks: list[Mark] = []
    x = right - _GAP
    if names.factor and titled:
        marks.append(_factor_mark(page, names, x, frame.top - 2, "end"))
    for lane, rows in zip(frame.lanes, names.rows, strict=False):
        if not rows:
            continue
        # Lanes can turn out narrower than they were when their names were set.
        row = min(rows[0][1].size * ROW, (lane.last - lane.first) / len(rows))
        size = row / ROW
        if size < _SMALLEST:
            continue
        base = (lane.first + lane.last) / 2 - (len(rows) / 2 - 0.78) * row
        for number, (line, face) in enumerate(rows):
            smaller, y = structs.replace(face, size=size), base + number * row
            marks += marks_of(line, x, y, "end", smaller, _MEANING, page.measure)
    return marks


def bottom_marks(page: Page, names: LaneNames, frame: Frame, top: float) -> list[Mark]:
    """The names of standing lanes below ``top``."""
    marks: list[Mark] = []
    for lane, rows in zip(frame.lanes, names.rows, strict=False):
        middle = (lane.first + lane.last) / 2
        for number, (line, face) in enumerate(rows):
            if names.turned:
                x, y = middle + face.size * 0.33, top + 4
                marks += marks_of(line, x, y, "end", face, _MEANING, page.measure, 90.0)
            else:
                y = top + 2 + (number + 0.85) * face.size * ROW
                marks += marks_of(line, middle, y, "middle", face, _MEANING, page.measure)
    return marks


def factor_mark(page: Page, names: LaneNames, frames: Sequence[Frame], top: float) -> list[Mark]:
    """What standing lanes are levels of, once under all frames; their names begin at ``top``."""
    if not names.factor:
        return []
    left, right = min(f.left for f in frames), max(f.right for f in frames)
    y = top + names.height - 2
    return [_factor_mark(page, names, (left + right) / 2, y, "middle")]


def _factor_mark(page: Page, names: LaneNames, x: float, y: float, anchor: Anchor) -> Text:
    face, laned = _factor_face(page), page.readings.plan.laned
    meaning = Meaning("factor", level=laned.label if laned else "")
    return Text(
        x, y, names.factor, face.size, anchor, face.colour, meaning, face.bold, 0.0, face.slant
    )


def factor_zones(page: Page, marks: Sequence[Mark]) -> list[Zone]:
    """Where that is pointed at."""
    rects = [
        (rect_of(mark, page.measure), mark.meaning)
        for mark in marks
        if isinstance(mark, Text) and mark.meaning and mark.meaning.part == "factor"
    ]
    return [Zone(r.left - 4, r.top - 1, r.right + 4, r.bottom + 1, m) for r, m in rects]
