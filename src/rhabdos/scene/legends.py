"""Where a legend goes that does not stand over the frame: beside it, under it, in it, or in words
at the lines themselves."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import LegendPlace
from rhabdos.scene import legend
from rhabdos.scene.legend import LARGEST, ROW, Named
from rhabdos.scene.marks import Area, Mark, Meaning, Path, Scene, Text, Zone
from rhabdos.scene.names import Rect, rect_of
from rhabdos.scene.page import Page
from rhabdos.scene.plane import Frame
from rhabdos.scene.style import Style
from rhabdos.scene.text import Measure

_CORNERS = ("top-left", "top-right", "bottom-left", "bottom-right")
_BASE = 3.5  # from the bottom of a row up to the base line of its text
_BESIDE = 10.0  # points between the frames and a legend beside them
_INSET = 5.0
_AT_LINE = 8.5  # size of names at lines
_TRIED = 48  # places along a line at which its name is tried


class Placed(Struct, frozen=True):
    """A legend and its place; ``where`` "none" leaves it out."""

    where: LegendPlace
    title: str
    levels: tuple[Named, ...]
    style: Style

    def _entries(self, room: float, measure: Measure) -> list[legend.Entry]:
        return legend.entries(self.title, self.levels, room, measure)

    def rows_below(self, page: Page, room: float) -> list[list[legend.Entry]]:
        """The rows of a legend under the figure."""
        if self.where != "below":
            return []
        most = max(1, int(page.height * LARGEST / ROW))
        return legend.rows(self._entries(room, page.measure), room, most, page.measure)

    def _column(
        self, page: Page, most_width: float, most_height: float
    ) -> list[list[legend.Entry]]:
        most = max(1, int(most_height / ROW))
        entries = self._entries(most_width, page.measure)
        return legend.column(entries, most, page.measure)

    def _beside(self, page: Page) -> list[list[legend.Entry]]:
        """One entry a row; as wide as a third of the page at most."""
        return self._column(page, page.width * LARGEST - _BESIDE, page.height * 0.75)

    def width_right(self, page: Page) -> float:
        """The room of a legend at the right, in points."""
        if self.where != "right":
            return 0.0
        return max(legend.width(row) for row in self._beside(page)) + _BESIDE

    def drawn(
        self,
        page: Page,
        frames: Sequence[Frame],
        under: Sequence[Sequence[legend.Entry]],
        left: float,
        foot: float,
    ) -> tuple[list[Mark], list[Zone]]:
        """The marks and zones of a legend beside, below or in the figure.

        ``left`` and ``foot`` are where the room for a legend below begins and ends.
        """
        if self.where == "right":
            return self._at_right(page, frames)
        if self.where == "below":
            top = foot - ROW * len(under) + _BASE + 1
            return self._listed(under, left, top, page)
        if self.where in _CORNERS:
            return self._in_corner(page, frames[0])
        return [], []

    def _at_right(self, page: Page, frames: Sequence[Frame]) -> tuple[list[Mark], list[Zone]]:
        rows = self._beside(page)
        left = page.width - 15.0 - max(legend.width(row) for row in rows)
        return self._listed(rows, left, frames[0].top, page)

    def _in_corner(self, page: Page, frame: Frame) -> tuple[list[Mark], list[Zone]]:
        most_wide = min(page.width * LARGEST, frame.right - frame.left - 4 * _INSET)
        most_high = min(page.height * LARGEST, frame.bottom - frame.top - 4 * _INSET)
        rows = self._column(page, most_wide, most_high)
        wide, high = max(legend.width(row) for row in rows), ROW * len(rows)
        right, bottom = "right" in self.where, "bottom" in self.where
        left = frame.right - wide - 2 * _INSET if right else frame.left + 2 * _INSET
        top = frame.bottom - high - 1.5 * _INSET if bottom else frame.top + 1.5 * _INSET
        box = Rect(left - _INSET, top - 2, left + wide + _INSET, top + high + 2)
        marks, zones = self._listed(rows, left, top, page)
        return [_ground(box, self.style), *marks], zones

    def _listed(
        self, rows: Sequence[Sequence[legend.Entry]], left: float, top: float, page: Page
    ) -> tuple[list[Mark], list[Zone]]:
        """Rows one under the other, from a place on."""
        marks: list[Mark] = []
        wide = max((legend.width(row) for row in rows), default=0.0)
        bottom = top + ROW * len(rows)
        zones = [Zone(left, top, left + wide, bottom, Meaning("legend"))]
        for number, row in enumerate(rows, 1):
            base = top + number * ROW - _BASE
            marks += legend.marks(row, left, base, self.style)
            zones += legend.zones(row, left, base)
        return marks, zones


def _ground(box: Rect, style: Style) -> Mark:
    corners = [
        [box.left, box.top],
        [box.right, box.top],
        [box.right, box.bottom],
        [box.left, box.bottom],
    ]
    return Area(np.array(corners), style.paper, 0.86, Meaning("legend"))


def placed(readings: Readings, style: Style, where: LegendPlace | None = None) -> Placed:
    """The legend of a figure, where it is asked for, or at another place."""
    place = legend.place_of(readings) if where is None else where
    levels = legend.named(readings, style) if place not in ("none", "lines") else ()
    return Placed(place, legend.title_of(readings), levels, style)


# Names at the lines themselves


def at_lines(
    readings: Readings, scene: Scene, page: Page
) -> tuple[tuple[Mark, ...], tuple[Zone, ...]] | None:
    """The name of each level at one of its lines, in the first panel that has it.

    None where some line has no room for its name.
    """
    measure, style = page.measure, page.style
    levels = legend.named(readings, style)
    coloured = readings.plan.coloured
    if coloured is None:
        return (), ()
    order = coloured.levels[::-1] if readings.recipe.legend.reverse else coloured.levels
    taken = [rect_of(mark, measure) for mark in scene.marks if isinstance(mark, Text)]
    marks: list[Mark] = []
    zones: list[Zone] = []
    for named, level in zip(levels, order, strict=True):
        groups = [g for g in readings.groups if g.colour == level.place and g.n]
        if not groups:
            continue
        text = _worded(named)
        place = None
        for group in groups:
            place = _place(scene, group.place, scene.frames[group.panel], text, taken, measure)
            if place:
                break
        if place is None:
            return None
        x, y = place
        meaning = Meaning("legend", level=named.label)
        mark = Text(x, y, text, _AT_LINE, "middle", named.colour, meaning, bold=True)
        rect = rect_of(mark, measure)
        taken.append(rect)
        grounds = Rect(rect.left - 1, rect.top, rect.right + 1, rect.bottom)
        marks += [_ground(grounds, style), mark]
        zones.append(Zone(rect.left, rect.top, rect.right, rect.bottom, meaning))
    return tuple(marks), tuple(zones)


def _worded(named: Named) -> str:
    name = " ".join(named.label.split()) or "“ ”"
    return name if named.n is None else f"{name}  n = {named.n:,}"


def _lines(scene: Scene, frame: Frame) -> list[tuple[int, FloatArray]]:
    """The lines of each group in a frame: its place, and points on the page."""
    return [
        (mark.meaning.group, mark.points)
        for mark in scene.marks
        if isinstance(mark, Path)
        and mark.meaning.group is not None
        and len(mark.points) > 1
        and frame.holds(*mark.points[len(mark.points) // 2].tolist())
    ]


def _place(
    scene: Scene, group: int, frame: Frame, text: str, taken: Sequence[Rect], measure: Measure
) -> tuple[float, float] | None:
    """A place for a name over its own line, nearest to where that is highest, and on no other."""
    lines = _lines(scene, frame)
    own = [points for of, points in lines if of == group]
    if not own:
        return None
    room = Rect(frame.left + 2, frame.top, frame.right - 2, frame.bottom)
    steps = np.linspace(0, len(own[-1]) - 1, _TRIED).astype(int)
    spots = own[-1][np.unique(steps)]
    base = frame.lanes[0].heights[0].band.base if frame.lanes[0].heights else frame.last
    _, across = frame.backs(spots)
    nearest = np.argsort(-np.abs(across - base), kind="stable")
    wide = measure(text, _AT_LINE, True)
    for x, y in spots[nearest].tolist():
        for dx, dy in ((0.0, -4.0), (wide / 2 + 4, 3.0), (-wide / 2 - 4, 3.0), (0.0, 11.0)):
            mark = Text(x + dx, y + dy, text, _AT_LINE, "middle", "", None, bold=True)
            rect = rect_of(mark, measure)
            free = rect.within(room) and not any(rect.meets(other) for other in taken)
            if free and not any(_crosses(points, rect) for _, points in lines):
                return x + dx, y + dy
    return None


def _crosses(points: FloatArray, rect: Rect) -> bool:
    """Whether a line passes through a rectangle, to judge by its points and the middles between."""
    every = np.concatenate([points, (points[1:] + points[:-1]) / 2])
    x, y = every[:, 0], every[:, 1]
    inside = (x > rect.left) & (x < rect.right) & (y > rect.top) & (y < rect.bottom)
    return bool(inside.any())
