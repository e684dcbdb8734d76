"""Lines at the mean and the median of each group, through all of a lane, with their values."""

from collections.abc import Iterator, Sequence

import numpy as np
from msgspec import Struct

from rhabdos.figure.readings import Readings
from rhabdos.scene.limits import Limits
from rhabdos.scene.marks import Area, Mark, Meaning, Path, Segments, Text
from rhabdos.scene.names import Rect, rect_of
from rhabdos.scene.plane import Frame, Lane
from rhabdos.scene.style import Style
from rhabdos.scene.text import Measure
from rhabdos.wording import places_for

SIZE, ROW = 8.0, 10.5
NAMES = ("mean", "median")
_WIDTH = 1.0
_DASHES: dict[str, tuple[float, ...]] = {"mean": (4.0, 2.5), "median": ()}
_APART = 3.0
_LEADER = 12.0  # points, in which a thin line leads from a standing frame to its words
_MOST_ROWS = 6


class Centre(Struct, frozen=True):
    """One line: its value, the text beside it, and the row of it above the frame, if any."""

    value: float
    name: str
    group: int
    text: str
    row: int | None


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
    return tuple(
        Centre(value, name, group, f"{name} {readings.marked(written(value, places))}", None)
        for value, name, group in sorted(lines, reverse=not limits.reversed)
    )


def in_rows(
    lines: tuple[Centre, ...], left: float, right: float, limits: Limits, measure: Measure
) -> tuple[Centre, ...]:
    """Give each line the row above the frame that its words stand in, to the right of it.

    The further left a line is, the higher its words: so that no line has to pass through the words
    of another. Words that would need a seventh row are left out.

    Parameters
    ----------
    left, right : float
        Ends of the value axis on the page, in points.
    limits : Limits
        Of the value axis.
    """
    placed: list[Centre] = []
    free: list[float] = []  # up to where words may reach in each row: the nearest line in it
    for line in lines:
        x = left + limits.share(line.value) * (right - left)
        end = x + _APART + measure(line.text, SIZE, False)
        row = next((row for row, limit in enumerate(free) if end + _APART <= limit), len(free))
        if row < _MOST_ROWS:
            free[row:] = [x] if row == len(free) else free[row:]
            free = [min(limit, x) if above <= row else limit for above, limit in enumerate(free)]
        shown = row if row < _MOST_ROWS else None
        placed.append(Centre(line.value, line.name, line.group, line.text, shown))
    return tuple(placed)


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
    right: float,
    beyond: bool,
    alone: bool,
    colours: Sequence[str],
    measure: Measure,
    style: Style,
) -> list[Mark]:
    """A dashed line at each mean and a whole one at each median, with its words.

    ``right`` ends the page; ``beyond`` says that words stand beyond the frame, not in its lanes;
    ``alone`` that there is no other panel.
    """
    if not lines:
        return []
    if not beyond:
        return _in_lanes(lines, frame, alone, colours, measure, style)
    words = (
        _beside(lines, frame, colours, style)
        if frame.upright
        else _above(lines, frame, right, measure, style)
    )
    marks: list[Mark] = []
    for line in lines:
        top = frame.first
        if not frame.upright and line.row is not None:
            top -= (line.row + 1) * ROW - 2
        marks.append(_line(line, frame, top, frame.last, colours))
    return [*marks, *words]


def _line(line: Centre, frame: Frame, first: float, last: float, colours: Sequence[str]) -> Mark:
    place = np.array([frame.along(line.value)])
    ends = frame.lines(place, np.array([first]), place, np.array([last]))
    meaning, dash = Meaning("centre", line.group), _DASHES[line.name]
    return Segments(ends, colours[line.group], _WIDTH, 1.0, meaning, dash)


def _above(
    lines: tuple[Centre, ...], frame: Frame, right: float, measure: Measure, style: Style
) -> list[Mark]:
    """Words in rows above a lying frame."""
    marks: list[Mark] = []
    for line in lines:
        if line.row is not None:
            start = frame.along(line.value) + _APART
            start = min(start, right - measure(line.text, SIZE, False))
            base = frame.top - line.row * ROW - 3
            meaning = Meaning("centre", line.group)
            marks.append(Text(start, base, line.text, SIZE, "start", style.ink, meaning))
    return marks


def _beside(
    lines: tuple[Centre, ...], frame: Frame, colours: Sequence[str], style: Style
) -> list[Mark]:
    """Words at the right of a standing frame, one under the other, near their lines."""
    bases = [frame.page_height - frame.along(line.value) + SIZE * 0.33 for line in lines]
    for place in range(1, len(bases)):  # from the top down: none over the one before
        bases[place] = max(bases[place], bases[place - 1] + ROW)
    over = bases[-1] - (frame.bottom + SIZE) if bases else 0.0
    if over > 0:  # and back up where they would run off the page
        bases[-1] -= over
        for place in range(len(bases) - 2, -1, -1):
            bases[place] = min(bases[place], bases[place + 1] - ROW)
    x = frame.right + _LEADER + _APART
    marks: list[Mark] = []
    for line, base in zip(lines, bases, strict=True):
        if base - SIZE < frame.top - ROW:  # no room beside the frame
            continue
        meaning = Meaning("centre", line.group)
        ends = [frame.right, frame.page_height - frame.along(line.value)]
        leader = np.array([ends, [x - _APART / 2, base - SIZE * 0.33]])
        marks.append(Path(leader, colours[line.group], _WIDTH, 1.0, meaning, smooth=True))
        marks.append(Text(x, base, line.text, SIZE, "start", style.ink, meaning))
    return marks


def _in_lanes(
    lines: tuple[Centre, ...],
    frame: Frame,
    alone: bool,
    colours: Sequence[str],
    measure: Measure,
    style: Style,
) -> list[Mark]:
    """Each line through its own lane, with words where they meet no others; else without."""
    marks: list[Mark] = []
    for lane in frame.lanes:
        busy: list[Rect] = []
        for line in (line for line in lines if line.group in lane.groups):
            first, last = _through(lane, line.group)
            marks.append(_line(line, frame, first, last, colours))
            room = _room(frame, lane, beyond=alone)
            for words in _lane_words(line, frame, lane, measure, style):
                rect = rect_of(words, measure)
                if rect.within(room) and not any(rect.meets(other) for other in busy):
                    busy.append(rect)
                    marks += _on_paper(words, rect, style)
                    break
    return marks


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
    line: Centre, frame: Frame, lane: Lane, measure: Measure, style: Style
) -> Iterator[Text]:
    """Where the words of a line may stand in its lane, the best place first."""
    along, meaning = frame.along(line.value), Meaning("centre", line.group)
    if frame.upright:
        wide = measure(line.text, SIZE, False)
        text = line.text if wide <= lane.last - lane.first - 4 else line.text.partition(" ")[2]
        level = frame.page_height - along
        for away in (-2.5, SIZE, -2.5 - ROW, SIZE + ROW):
            yield Text(lane.last - 2, level + away, text, SIZE, "end", style.ink, meaning)
        return
    for row in range(3):
        base = lane.first + SIZE + row * ROW
        yield Text(along + _APART, base, line.text, SIZE, "start", style.ink, meaning)
        yield Text(along - _APART, base, line.text, SIZE, "end", style.ink, meaning)


def _on_paper(words: Text, rect: Rect, style: Style) -> list[Mark]:
    """Words with paper behind them, since bars and curves may lie there."""
    left, right = rect.left - 1, rect.right + 1
    corners = np.array(
        [[left, rect.top], [right, rect.top], [right, rect.bottom], [left, rect.bottom]]
    )
    return [Area(corners, style.paper, 0.85, words.meaning or Meaning("centre")), words]
