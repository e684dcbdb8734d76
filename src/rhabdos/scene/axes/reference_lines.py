"""Lines at the mean and the median of each group, through all of a lane, with their values."""

from collections.abc import Iterator, Sequence

import numpy as np
from msgspec import Struct, structs

from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe_strokes import Stroke
from rhabdos.scene.axes.limits import Limits
from rhabdos.scene.coordinates import Frame, Lane
from rhabdos.scene.marks import Anchor, Mark, Meaning, Path, Segments, Text
from rhabdos.scene.style.lettering import Measure
from rhabdos.scene.style.palette import readable
from rhabdos.scene.style.style import Style
from rhabdos.scene.words.cover import Cover
from rhabdos.scene.words.label_places import Rect, rect_of
from rhabdos.wording import places_for

SIZE, ROW = 8.0, 10.5  # points of its words, and of a row of them
NAMES = ("mean", "median")
_WIDTH = 1.0  # points of a line
_DASHES: dict[str, tuple[float, ...]] = {"mean": (4.0, 2.5), "median": ()}
_APART = 3.0  # points between words in a row
_LEADER = 12.0  # points, in which a thin line leads from a standing frame to its words
_MOST_ROWS = 6  # of words over a frame
_MOST_LANE_ROWS = 3  # … and within a lane
_WORDS_SHARE = 0.4  # of a lane, that words of lines take of it at most


class Centre(Struct, frozen=True):
    """One line: its value, the text beside it, its row and side above the frame, if any, and what
    is asked of how it is drawn."""

    value: float
    name: str
    group: int
    text: str
    row: int | None
    anchor: Anchor = "start"
    stroke: Stroke = Stroke()


def asked_lines(readings: Readings) -> list[str]:
    """Which lines a recipe asks for."""
    return [name for name in NAMES if getattr(readings.recipe.lines, name)]


def centres(readings: Readings, groups: Sequence[int], limits: Limits) -> tuple[Centre, ...]:
    """The lines of some groups within the limits, from the end of the axis to its beginning."""
    low, high = limits.low, limits.high
    asked = asked_lines(readings)
    if not asked:
        return ()
    summaries = [(group, readings.summaries[group]) for group in groups]
    spread = max((summary.sd for _, summary in summaries if summary.sd > 0), default=0.0)
    places = places_for(spread, max(abs(low), abs(high)))
    written = readings.groups[groups[0]].variable.rounded
    lines = [
        (getattr(summary, name), name, group)
        for group, summary in summaries
        for name in asked
        if low <= getattr(summary, name) <= high
    ]
    strokes = readings.recipe.strokes
    asked_of = {"mean": strokes.mean_line, "median": strokes.median_line}

    def stroke(name: str, group: int) -> Stroke:
        """What is asked of a line; one of a group that others are brought forward of stays
        quiet."""
        asked = asked_of[name]
        return asked if readings.groups[group].forward else asked.changed(colour=None)

    return tuple(
        Centre(
            value,
            name,
            group,
            f"{name} {readings.marked(written(value, places))}",
            None,
            stroke=stroke(name, group),
        )
        for value, name, group in sorted(lines, reverse=not limits.reversed)
    )


def in_rows(
    lines: tuple[Centre, ...],
    left: float,
    right: float,
    edge: float,
    limits: Limits,
    measure: Measure,
) -> tuple[Centre, ...]:
    """Give each line the row above the frame that its words stand in, at its right or its left.

    The outermost lines have their words in the lowest rows, outwards; those further in have theirs
    above them, so that no line has to pass through the words of another. Words that would need a
    seventh row are left out.

    Parameters
    ----------
    left, right : float
        Ends of the value axis on the page, in points.
    edge : float
        Up to where words may reach at the right.
    limits : Limits
        Of the value axis.
    """
    placed: dict[int, Centre] = {}
    xs = [left + limits.share(line.value) * (right - left) for line in lines]
    rows = _Rows(xs)
    order = range(len(lines))  # from right to left
    inwards = [at for pair in zip(order, reversed(order), strict=True) for at in pair]
    for at in dict.fromkeys(inwards):
        line, x = lines[at], xs[at]
        wide = _APART + measure(line.text, SIZE, False)
        sides: list[Anchor] = ["start", "end"] if at < len(lines) / 2 else ["end", "start"]
        fits = {"start": x + wide < edge, "end": x - wide > left}
        stands = rows.place(x, wide, [side for side in sides if fits[side]])
        row, anchor = stands or (None, line.anchor)
        placed[at] = structs.replace(line, row=row, anchor=anchor)
    return tuple(placed[at] for at in order)


class _Rows:
    """Words in rows above a frame, and the lines that rise to them: those at ``waiting`` have no
    row yet, and may need any."""

    def __init__(self, waiting: Sequence[float]) -> None:
        self._waiting = list(waiting)
        self._words: list[tuple[float, float, int]] = []
        self._risen: list[tuple[float, int]] = []

    def place(self, x: float, wide: float, sides: Sequence[Anchor]) -> tuple[int, Anchor] | None:
        """The lowest row in which words beside a line at ``x`` meet no others, and their side."""
        self._waiting.remove(x)
        for row in range(_MOST_ROWS):
            for side in sides:
                first, last = x + _APART, x + wide
                if side == "end":
                    first, last = x - wide, x - _APART
                if self._free(x, first, last, row):
                    self._words.append((first, last, row))
                    self._risen.append((x, row))
                    return row, side
        return None

    def _free(self, x: float, first: float, last: float, row: int) -> bool:
        passes = any(a < x < b and at < row for a, b, at in self._words)
        meets = any(a < last + 1 and first < b + 1 and at == row for a, b, at in self._words)
        cut = any(first < other < last and at >= row for other, at in self._risen)
        shuts = any(first < other < last for other in self._waiting)
        return not (passes or meets or cut or shuts)


def rows_height(placed: tuple[Centre, ...]) -> float:
    """The room that words need above a frame, in points."""
    rows = [centre.row for centre in placed if centre.row is not None]
    return (max(rows) + 1) * ROW if rows else 0.0


def words_width(lines: tuple[Centre, ...], measure: Measure) -> float:
    """The room that words need beside a standing frame, in points."""
    widest = max((measure(line.text, SIZE, False) for line in lines), default=0.0)
    return widest + 2 * _APART + _LEADER if lines else 0.0


def centre_marks(
    lines: tuple[Centre, ...],
    frame: Frame,
    beyond: bool,
    alone: bool,
    colours: Sequence[str],
    measure: Measure,
    style: Style,
    cover: Cover,
) -> list[Mark]:
    """A dashed line at each mean and a whole one at each median, with its words.

    ``beyond`` says that words stand beyond the frame, not in its lanes; ``alone`` that there is no
    other panel; ``cover`` is what lies in the frame.
    """
    if not lines:
        return []
    if not beyond:
        return _in_lanes(lines, frame, alone, colours, measure, style, cover)
    words = (
        _beside(lines, frame, colours, style)
        if frame.upright
        else _above(lines, frame, colours, style)
    )
    marks: list[Mark] = []
    for line in lines:
        top = frame.first
        if not frame.upright and line.row is not None:
            top -= (line.row + 1) * ROW - 2
        marks.append(_line(line, frame, top, frame.last, colours, style))
    return [*marks, *words]


def _line(
    line: Centre, frame: Frame, first: float, last: float, colours: Sequence[str], style: Style
) -> Mark:
    place = np.array([frame.along(line.value)])
    ends = frame.lines(place, np.array([first]), place, np.array([last]))
    colour, width, dash = _drawn(line, colours, style)
    return Segments(ends, colour, width, 1.0, Meaning("centre", line.group), dash)


def _drawn(
    line: Centre, colours: Sequence[str], style: Style
) -> tuple[str, float, tuple[float, ...]]:
    """Colour, width and dash of a line."""
    return style.stroked(line.stroke, colours[line.group], _WIDTH, _DASHES[line.name])


def _above(
    lines: tuple[Centre, ...], frame: Frame, colours: Sequence[str], style: Style
) -> list[Mark]:
    """Words in rows above a lying frame."""
    marks: list[Mark] = []
    for line in lines:
        if line.row is not None:
            x = frame.along(line.value) + (_APART if line.anchor == "start" else -_APART)
            base = frame.top - line.row * ROW - 3
            meaning = Meaning("centre", line.group)
            colour = _word_colour(line, colours, style)
            marks.append(Text(x, base, line.text, SIZE, line.anchor, colour, meaning))
    return marks


def _beside(
    lines: tuple[Centre, ...], frame: Frame, colours: Sequence[str], style: Style
) -> list[Mark]:
    """Words at the right of a standing frame, one under the other, near their lines."""
    bases = [frame.page_height - frame.along(line.value) + SIZE * 0.33 for line in lines]
    for index in range(1, len(bases)):  # from the top down: none over the one before
        bases[index] = max(bases[index], bases[index - 1] + ROW)
    over = bases[-1] - (frame.bottom + SIZE) if bases else 0.0
    if over > 0:  # and back up where they would run off the page
        bases[-1] -= over
        for index in range(len(bases) - 2, -1, -1):
            bases[index] = min(bases[index], bases[index + 1] - ROW)
    x = frame.right + _LEADER + _APART
    marks: list[Mark] = []
    for line, base in zip(lines, bases, strict=True):
        if base - SIZE < frame.top - ROW:  # no room beside the frame
            continue
        meaning = Meaning("centre", line.group)
        ends = [frame.right, frame.page_height - frame.along(line.value)]
        leader = np.array([ends, [x - _APART / 2, base - SIZE * 0.33]])
        colour, width, _ = _drawn(line, colours, style)
        marks.append(Path(leader, colour, width, 1.0, meaning, smooth=True))
        colour = _word_colour(line, colours, style)
        marks.append(Text(x, base, line.text, SIZE, "start", colour, meaning))
    return marks


def _in_lanes(
    lines: tuple[Centre, ...],
    frame: Frame,
    alone: bool,
    colours: Sequence[str],
    measure: Measure,
    style: Style,
    cover: Cover,
) -> list[Mark]:
    """Each line through its own lane, with words where nothing else lies; else without."""
    marks: list[Mark] = []
    words: list[Mark] = []
    for lane in frame.lanes:
        own = [line for line in lines if line.group in lane.groups]
        drawn = [_line(line, frame, *_through(lane, line.group), colours, style) for line in own]
        marks += drawn
        among, busy = Cover(drawn), list[Rect]()
        room = _room(frame, lane, beyond=alone)
        for line in own:
            for text in _lane_words(line, frame, lane, measure, colours, style):
                rect = rect_of(text, measure)
                if not rect.within(room) or any(rect.meets(other) for other in busy):
                    continue
                if cover.free(rect) and not among.crosses(rect):
                    busy.append(rect)
                    words.append(text)
                    break
    return [*marks, *words]


def _through(lane: Lane, group: int) -> tuple[float, float]:
    """From where to where a line runs across: all of a lane, or its group's own part of it."""
    own = [heights.band for heights in lane.heights if heights.groups == (group,)]
    if len(lane.heights) > 1 and own:
        return min(own[0].base, own[0].tip), max(own[0].base, own[0].tip)
    return lane.first, lane.last


def _room(frame: Frame, lane: Lane, beyond: bool) -> Rect:
    """Where the words of a lane may lie: in it, and of a standing one a row ``beyond`` its end."""
    if frame.upright:
        over = ROW if beyond else 0.0
        return Rect(lane.first, frame.top - over, lane.last, frame.bottom + 1)
    return Rect(frame.left, lane.first, frame.right + 2, lane.last)


def _lane_words(
    line: Centre, frame: Frame, lane: Lane, measure: Measure, colours: Sequence[str], style: Style
) -> Iterator[Text]:
    """Where the words of a line may stand in its lane, the best place first."""
    along, meaning = frame.along(line.value), Meaning("centre", line.group)
    first, last = _through(lane, line.group)
    colour = _word_colour(line, colours, style)
    if frame.upright:
        level = frame.page_height - along
        for text in (line.text, _number(line)):
            if measure(text, SIZE, False) <= last - first - 4:
                for away in (-2.5, SIZE, -2.5 - ROW, SIZE + ROW):
                    yield Text(last - 2, level + away, text, SIZE, "end", colour, meaning)
        return
    for row in range(3):
        base = first + SIZE + row * ROW
        yield Text(along + _APART, base, line.text, SIZE, "start", colour, meaning)
        yield Text(along - _APART, base, line.text, SIZE, "end", colour, meaning)


def _word_colour(line: Centre, colours: Sequence[str], style: Style) -> str:
    """The words of a line are in its own colour, or in its group's where there are several."""
    if len(colours) < 2 and line.stroke.colour is None:
        return style.ink
    return readable(
        line.stroke.colour or colours[line.group], style.ground or style.paper, style.ink
    )


def free_rows(lines: int, thickness: float) -> float:
    """The room at the end of a lane that is kept free for the words of so many lines, in points."""
    rows = min(_MOST_LANE_ROWS, -(-lines // 2), int(thickness * _WORDS_SHARE / ROW))
    return rows * ROW


def free_column(lines: Sequence[Centre], thickness: float, measure: Measure) -> float:
    """The same of a standing lane, where words lie at its right; where these would take too much
    of it, numbers alone."""
    for texts in ([line.text for line in lines], [_number(line) for line in lines]):
        widest = max((measure(text, SIZE, False) for text in texts), default=0.0) + 2 * _APART
        if widest <= thickness * _WORDS_SHARE:
            return widest
    return 0.0


def _number(line: Centre) -> str:
    """The words of a line without what it is, which its dashes tell."""
    return line.text.partition(" ")[2]
