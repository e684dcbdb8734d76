"""Where a legend goes that does not stand over the frame: beside it, under it, in it, or in words
at the lines themselves."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct, structs

from rhabdos.arrays import FloatArray
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import LegendPlace
from rhabdos.scene import legend
from rhabdos.scene.legend import LARGEST, Named
from rhabdos.scene.marks import Area, Mark, Meaning, Path, Scene, Segments, Text, Zone
from rhabdos.scene.names import Rect, rect_of
from rhabdos.scene.page import Page
from rhabdos.scene.plane import Frame
from rhabdos.scene.rich import Line, lines_of, marks_of, width_of, with_end
from rhabdos.scene.style import Style
from rhabdos.scene.text import Face

_CORNERS = ("top-left", "top-right", "bottom-left", "bottom-right")
_BESIDE = 10.0  # points between the frames and a legend beside them
_INSET = 5.0
_NO_GROUP = -1
_TRIED = 30  # places along a line at which its name is tried, on four sides
_CLOSE = 4.0  # points between two places of a line
_LEAST_GAP = 1.0  # points between a name and its own line
_LEAST_CLEAR, _CLEAR, _FAR = 1.5, 7.0, 22.0  # points to other lines: needed, clear, far enough
_HIGH = 12.0  # what a place at the top of the frame is worth, in points


class Placed(Struct, frozen=True):
    """A legend and its place; ``where`` "none" leaves it out."""

    where: LegendPlace
    title: str
    levels: tuple[Named, ...]
    style: Style

    def _entries(self, page: Page, room: float) -> list[legend.Entry]:
        return legend.entries(self.title, self.levels, room, page.measure, self.style, page.stands)

    def above(self, page: Page, room: float) -> tuple[legend.Entry, ...]:
        """The entries of a legend over the frame; none of one that is elsewhere."""
        return tuple(self._entries(page, room)) if self.where == "above" and self.levels else ()

    def rows_below(self, page: Page, room: float) -> list[legend.Row]:
        """The rows of a legend under the figure."""
        if self.where != "below":
            return []
        most = page.height * LARGEST
        return legend.rows(self._entries(page, room), room, most, page.measure)

    def _column(self, page: Page, most_width: float, most_height: float) -> list[legend.Row]:
        return legend.column(self._entries(page, most_width), most_height, page.measure)

    def _beside(self, page: Page) -> list[legend.Row]:
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
        under: Sequence[legend.Row],
        left: float,
        foot: float,
    ) -> tuple[list[Mark], list[Zone]]:
        """The marks and zones of a legend beside, below or in the figure.

        ``left`` and ``foot`` are where the room for a legend below begins and ends.
        """
        if self.where == "right":
            return self._at_right(page, frames)
        if self.where == "below":
            return self._listed(under, left, foot - legend.height(under) + 4.5, page)
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
        wide, high = max(legend.width(row) for row in rows), legend.height(rows)
        right, bottom = "right" in self.where, "bottom" in self.where
        left = frame.right - wide - 2 * _INSET if right else frame.left + 2 * _INSET
        top = frame.bottom - high - 1.5 * _INSET if bottom else frame.top + 1.5 * _INSET
        box = Rect(left - _INSET, top - 2, left + wide + _INSET, top + high + 2)
        marks, zones = self._listed(rows, left, top, page)
        return [_ground(box, self.style), *marks], zones

    def _listed(
        self, rows: Sequence[legend.Row], left: float, top: float, page: Page
    ) -> tuple[list[Mark], list[Zone]]:
        """Rows one under the other, from a place on."""
        marks: list[Mark] = []
        wide = max((legend.width(row) for row in rows), default=0.0)
        bottom = top + legend.height(rows)
        zones = [Zone(left, top, left + wide, bottom, Meaning("legend"))]
        for row in rows:
            alone = wide if len(row) == 1 else 0.0
            marks += legend.marks(row, left, top, self.style, page.measure, alone)
            zones += legend.zones(row, left, top, alone)
            top += legend.row_height(row)
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

    None where some line has no room for its name: where nobody asked for names there, that means
    clearly apart from all other lines.
    """
    measure, style = page.measure, page.style
    levels = legend.named(readings, style)
    coloured = readings.plan.coloured
    if coloured is None:
        return (), ()
    order = coloured.levels[::-1] if readings.recipe.legend.reverse else coloured.levels
    least = _CLEAR if readings.recipe.legend.place is None else _LEAST_CLEAR
    taken = [rect_of(mark, measure) for mark in scene.marks if isinstance(mark, Text)]
    lines = {frame.panel: _lines(scene, frame) for frame in scene.frames}
    marks: list[Mark] = []
    zones: list[Zone] = []
    for named, level in zip(levels, order, strict=True):
        groups = [g for g in readings.groups if g.colour == level.place and g.n]
        if not groups:
            continue
        face = style.face("levels", bold=True, colour=named.colour)
        line = _worded(page, named, face)
        size = width_of(line, face, measure)
        places = (
            _place(scene.frames[g.panel], lines[g.panel], g.place, (size, face.size), taken, least)
            for g in groups
        )
        place = next((place for place in places if place is not None), None)
        if place is None:
            return None
        meaning = Meaning("legend", level=named.label)
        rect = rect_of(Text(*place, "", face.size, "middle", "", meaning), measure)
        rect = structs.replace(rect, left=rect.left - size / 2, right=rect.right + size / 2)
        taken.append(rect)
        marks += marks_of(line, *place, "middle", face, meaning, measure)
        zones.append(Zone(rect.left, rect.top, rect.right, rect.bottom, meaning))
    return tuple(marks), tuple(zones)


def _worded(page: Page, named: Named, face: Face) -> Line:
    """A name at a line, with its size: in one line, whatever it is given."""
    words = " ".join(named.shown.split())
    line = next(iter(lines_of(words, 1e9, face, page.measure, page.stands, 1)), ())
    return with_end(line, f"  {named.size}" if named.size else "")


def _lines(scene: Scene, frame: Frame) -> dict[int, FloatArray]:
    """The points that the lines of each group in a frame pass through, close to one another; those
    of means and medians, which no name belongs to, are of no group."""
    lines: dict[int, list[FloatArray]] = {}
    for mark in scene.marks:
        if isinstance(mark, Segments) and mark.meaning and mark.meaning.part == "centre":
            ends = mark.lines.reshape(-1, 2, 2)
            inside = [line for line in ends if frame.holds(*line.mean(axis=0).tolist())]
            lines.setdefault(_NO_GROUP, []).extend(_close(line) for line in inside)
        if isinstance(mark, Path) and mark.meaning.group is not None and len(mark.points) > 1:
            middle = mark.points[len(mark.points) // 2]
            if frame.holds(float(middle[0]), float(middle[1])):
                lines.setdefault(mark.meaning.group, []).append(_close(mark.points))
    return {group: np.concatenate(parts) for group, parts in lines.items() if parts}


def _close(points: FloatArray) -> FloatArray:
    """A line as points that are at most so far apart."""
    steps = np.hypot(*np.diff(points, axis=0).T)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    places = np.arange(0.0, along[-1] + _CLOSE, _CLOSE)
    return np.stack([np.interp(places, along, points[:, axis]) for axis in (0, 1)], axis=1)


def _place(
    frame: Frame,
    lines: dict[int, FloatArray],
    group: int,
    size: tuple[float, float],
    taken: Sequence[Rect],
    least: float,
) -> tuple[float, float] | None:
    """Where the middle of a name's base line lies: beside its own line, farthest from all others.

    Parameters
    ----------
    size : (float, float)
        The name's width, and the size of its letters, in points.
    taken : sequence of Rect
        Where other words lie.
    least : float
        How far any other line must be, in points.
    """
    own = lines.get(group)
    if own is None:
        return None
    others = [points for of, points in lines.items() if of != group]
    spots = own[np.unique(np.linspace(0, len(own) - 1, _TRIED).astype(int))]
    wide, letters = size
    half = wide / 2 + 5
    beside, under = 3.0 / 8.5 * letters, 2.5 + letters
    around = np.array([[0.0, -4.5], [half, beside], [-half, beside], [0.0, under]])
    places = (spots[:, None, :] + around[None, :, :]).reshape(-1, 2)
    rects = np.stack(
        [
            places[:, 0] - wide / 2,
            places[:, 1] - 0.74 * letters,
            places[:, 0] + wide / 2,
            places[:, 1] + 0.22 * letters,
        ],
        axis=1,
    )
    inside = (rects[:, 0] > frame.left + 2) & (rects[:, 2] < frame.right - 2)
    inside &= (rects[:, 1] > frame.top) & (rects[:, 3] < frame.bottom - 2)
    for other in taken:
        inside &= ~(
            (rects[:, 0] < other.right)
            & (rects[:, 2] > other.left)
            & (rects[:, 1] < other.bottom)
            & (rects[:, 3] > other.top)
        )
    places, rects = places[inside], rects[inside]
    near = _away(rects, own)
    apart = near >= _LEAST_GAP
    places, rects, near = places[apart], rects[apart], near[apart]
    away = _away(rects, np.concatenate(others)) if others else np.full(len(rects), _FAR)
    fits = (away >= least) & (away > near)  # a name belongs to the line that is nearest to it
    if not fits.any():
        return None
    base = frame.lanes[0].heights[0].band.base if frame.lanes[0].heights else frame.last
    _, across = frame.backs(places)
    high = np.abs(across - base) / max(1.0, frame.last - frame.first)
    worth = np.where(fits, np.minimum(away, _FAR) + _HIGH * high, -np.inf)
    x, y = places[int(worth.argmax())].tolist()
    return x, y


def _away(rects: FloatArray, points: FloatArray) -> FloatArray:
    """How far each rectangle is from the nearest of some points; 0 where one lies in it."""
    x, y = points[:, 0], points[:, 1]
    beside = np.maximum(rects[:, :1] - x, x - rects[:, 2:3]).clip(min=0)
    over = np.maximum(rects[:, 1:2] - y, y - rects[:, 3:4]).clip(min=0)
    return np.asarray(np.hypot(beside, over).min(axis=1))
