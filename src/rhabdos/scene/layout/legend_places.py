"""Where a legend goes that does not stand over the frame: beside it, under it, in it, or in words
at the lines themselves."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct, structs

from rhabdos.arrays import FloatArray
from rhabdos.data.sample_sets import SampleSet
from rhabdos.figure.readings.legend_place import legend_place
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import LegendPlace
from rhabdos.memo import last_answers
from rhabdos.scene.coordinates import Band, Frame, Lane
from rhabdos.scene.layout.page_parts import Page, as_laid_out
from rhabdos.scene.legend import legend_entries
from rhabdos.scene.legend.legend_entries import LARGEST, FormSample, Named
from rhabdos.scene.marks import Area, Mark, Meaning, Path, Scene, Segments, Text, Zone
from rhabdos.scene.style.lettering import Face
from rhabdos.scene.style.palette import readable
from rhabdos.scene.style.style import Style
from rhabdos.scene.words.cover import Cover
from rhabdos.scene.words.label_places import Rect, rect_of
from rhabdos.scene.words.rich import Line, lines_of, marks_of, width_of, with_end

_CORNERS = ("top-left", "top-right", "bottom-left", "bottom-right")
_BESIDE = 10.0  # points between the frames and a legend beside them
_INSET = 5.0  # points of a legend from the edges of a frame it stands in
_NO_GROUP = -1  # the cover's number for what is no group's
_TRIED = 30  # places along a line at which its name is tried, on eight sides
_CLOSE = 4.0  # points between two places of a line
_LEAST_GAP = 1.0  # points between a name and its own line
_LEAST_CLEAR, _CLEAR, _FAR = 1.5, 7.0, 22.0  # points to other lines: needed, clear, far enough
_HIGH = 12.0  # what a place at the top of the frame is worth, in points


class Placed(Struct, frozen=True):
    """A legend and its place; ``where`` "none" leaves it out."""

    where: LegendPlace
    title: str
    levels: tuple[Named, ...]
    forms: tuple[FormSample, ...]
    style: Style

    def _entries(
        self, page: Page, room: float, in_line: bool = False
    ) -> list[legend_entries.Entry]:
        levels = self.levels
        if page.without_sizes:
            levels = tuple(structs.replace(level, size="") for level in levels)
        return legend_entries.entries(
            self.title, levels, self.forms, room, page.measure, self.style, page.stands, in_line
        )

    def above(self, page: Page, room: float) -> tuple[legend_entries.Entry, ...]:
        """The entries of a legend over the frame; none of one that is elsewhere."""
        some = self.levels or self.forms
        return tuple(self._entries(page, room)) if self.where == "above" and some else ()

    def rows_below(self, page: Page, room: float) -> list[legend_entries.Row]:
        """The rows of a legend under the figure."""
        if self.where != "below":
            return []
        most = page.height * LARGEST
        return legend_entries.rows(self._entries(page, room), room, most, page.measure)

    def _column(
        self, page: Page, most_width: float, most_height: float
    ) -> list[legend_entries.Row]:
        entries = self._entries(page, most_width, in_line=True)
        return legend_entries.column(entries, most_height, page.measure)

    def _beside(self, page: Page) -> list[legend_entries.Row]:
        """One entry a row; as wide as a third of the page at most."""
        return self._column(page, page.width * LARGEST - _BESIDE, page.height * 0.75)

    def width_right(self, page: Page) -> float:
        """The room of a legend at the right, in points."""
        if self.where != "right":
            return 0.0
        return max(legend_entries.width(row) for row in self._beside(page)) + _BESIDE

    def drawn(
        self,
        page: Page,
        frames: Sequence[Frame],
        under: Sequence[legend_entries.Row],
        left: float,
        foot: float,
        drawn: Sequence[Mark],
    ) -> tuple[list[Mark], list[Zone]]:
        """The marks and zones of a legend beside, below or in the figure.

        ``left`` and ``foot`` are where the room for a legend below begins and ends; in a corner it
        lies where least is ``drawn``.
        """
        if self.where == "right":
            return self._at_right(page, frames)
        if self.where == "below":
            return self._listed(under, left, foot - legend_entries.height(under) + 4.5, page)
        if self.where in _CORNERS:
            return self._in_corner(page, frames[0], drawn)
        return [], []

    def _at_right(self, page: Page, frames: Sequence[Frame]) -> tuple[list[Mark], list[Zone]]:
        rows = self._beside(page)
        left = page.width - 15.0 - max(legend_entries.width(row) for row in rows)
        return self._listed(rows, left, frames[0].top, page)

    def _in_corner(
        self, page: Page, frame: Frame, drawn: Sequence[Mark]
    ) -> tuple[list[Mark], list[Zone]]:
        """In the corner that is asked for, or where something lies there in that with the least."""
        most_wide = min(page.width * LARGEST, frame.right - frame.left - 4 * _INSET)
        most_high = min(page.height * LARGEST, frame.bottom - frame.top - 4 * _INSET)
        rows = self._column(page, most_wide, most_high)
        wide, high = max(legend_entries.width(row) for row in rows), legend_entries.height(rows)
        cover = Cover(drawn)
        corners = [self.where, *(corner for corner in _CORNERS if corner != self.where)]
        boxes = [_corner(corner, frame, wide, high) for corner in corners]
        box = min(boxes, key=cover.lies_under)
        marks, zones = self._listed(rows, box.left + _INSET, box.top + 2, page)
        ground = [] if cover.free(box) else [_ground(box, self.style)]
        return [*ground, *marks], zones

    def _listed(
        self, rows: Sequence[legend_entries.Row], left: float, top: float, page: Page
    ) -> tuple[list[Mark], list[Zone]]:
        """Rows one under the other, from a place on."""
        marks: list[Mark] = []
        wide = max((legend_entries.width(row) for row in rows), default=0.0)
        bottom = top + legend_entries.height(rows)
        zones = [Zone(left, top, left + wide, bottom, Meaning("legend"))]
        for row in rows:
            alone = wide if len(row) == 1 else 0.0
            marks += legend_entries.marks(row, left, top, self.style, page.measure, alone)
            zones += legend_entries.zones(row, left, top, alone)
            top += legend_entries.row_height(row)
        return marks, zones


def _corner(where: str, frame: Frame, wide: float, high: float) -> Rect:
    """The box of a legend in a corner of a frame."""
    left = frame.right - wide - 2 * _INSET if "right" in where else frame.left + 2 * _INSET
    top = frame.bottom - high - 1.5 * _INSET if "bottom" in where else frame.top + 1.5 * _INSET
    return Rect(left - _INSET, top - 2, left + wide + _INSET, top + high + 2)


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
    return _placed(readings.samples, readings, style, where)


def _depends_on(
    _samples: SampleSet, readings: Readings, style: Style, where: LegendPlace | None, /
) -> tuple[object, ...]:
    return as_laid_out(readings.recipe), readings.plan, style, where


@last_answers(_depends_on)
def _placed(
    _samples: SampleSet, readings: Readings, style: Style, where: LegendPlace | None, /
) -> Placed:
    index = legend_place(readings) if where is None else where
    shown = index not in ("none", "lines")
    levels = legend_entries.named(readings, style) if shown else ()
    forms = legend_entries.forms_named(readings, style) if shown else ()
    return Placed(index, legend_entries.title_of(readings), levels, forms, style)


# Names at the lines themselves


def at_lines(
    readings: Readings, scene: Scene, page: Page
) -> tuple[tuple[Mark, ...], tuple[Zone, ...]] | None:
    """The name of each level at one of its lines, all of them in the first lane that has room.

    None where no lane has room for all names: where nobody asked for names there, that means
    clearly apart from all other lines.
    """
    coloured = readings.plan.coloured
    if coloured is None:
        return (), ()
    levels = legend_entries.named(readings, page.style)
    order = coloured.levels[::-1] if readings.recipe.legend.reverse else coloured.levels
    drawn = {group.colour for group in readings.groups if group.n}
    wanted = [
        (named, level.index)
        for named, level in zip(levels, order, strict=True)
        if level.index in drawn
    ]
    taken = [rect_of(mark, page.measure) for mark in scene.marks if isinstance(mark, Text)]
    cover = Cover(scene.marks)
    for frame in scene.frames:
        lines = _lines(scene, frame)
        for lane in frame.lanes:
            written = _in_lane(page, frame, lane, lines, wanted, taken, cover)
            if written is not None:
                return written
    return None


def _in_lane(
    page: Page,
    frame: Frame,
    lane: Lane,
    lines: dict[int, FloatArray],
    wanted: Sequence[tuple[Named, int]],
    around: Sequence[Rect],
    cover: Cover,
) -> tuple[tuple[Mark, ...], tuple[Zone, ...]] | None:
    """The names of all levels at the lines of one lane, if it has them all and room for them."""
    readings, measure = page.readings, page.measure
    least = _CLEAR if readings.recipe.legend.place is None else _LEAST_CLEAR
    group_of = {readings.groups[g].colour: g for g in lane.groups if readings.groups[g].n}
    taken, marks, zones = list(around), list[Mark](), list[Zone]()
    for named, tone in wanted:
        if tone not in group_of:
            return None
        face = page.style.face("levels", bold=True, colour=named.colour)
        line = _worded(page, named, face)
        size = width_of(line, face, measure)
        group = group_of[tone]
        bands = [heights.band for heights in lane.heights if group in heights.groups]
        room = _room(frame, lane, bands[0]) if bands else Rect(0, 0, 0, 0)
        place = _place(room, frame, lines, group, (size, face.size), taken, least, cover)
        if place is None:
            return None
        meaning = Meaning("legend", level=named.label)
        rect = rect_of(Text(*place, "", face.size, "middle", "", meaning), measure)
        rect = structs.replace(rect, left=rect.left - size / 2, right=rect.right + size / 2)
        taken.append(rect)
        colour = readable(face.colour, page.style.ground or page.style.paper, page.style.ink)
        shown = structs.replace(face, colour=colour)
        marks += marks_of(line, *place, "middle", shown, meaning, measure)
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
        if isinstance(mark, Segments) and mark.meaning and mark.meaning.group is not None:
            ends = mark.lines.reshape(-1, 2, 2)
            inside = [line for line in ends if frame.holds(*line.mean(axis=0).tolist())]
            group = _NO_GROUP if mark.meaning.part == "centre" else mark.meaning.group
            lines.setdefault(group, []).extend(_close(line) for line in inside)
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


def _room(frame: Frame, lane: Lane, band: Band) -> Rect:
    """Where the name of a line may lie: in its frame, and in its own part of that."""
    across = (lane.first, lane.last) if len(lane.heights) == 1 else (band.base, band.tip)
    ends = np.array([frame.start, frame.end])
    corners = frame.points(ends, np.array(across))
    left, top = corners.min(axis=0).tolist()
    right, bottom = corners.max(axis=0).tolist()
    return Rect(left + 2, top, right - 2, bottom - 2)


def _place(
    room: Rect,
    frame: Frame,
    lines: dict[int, FloatArray],
    group: int,
    size: tuple[float, float],
    taken: Sequence[Rect],
    least: float,
    cover: Cover,
) -> tuple[float, float] | None:
    """Where the middle of a name's base line lies: beside its own line, farthest from all others.

    Parameters
    ----------
    room : Rect
        Where it may lie.
    size : (float, float)
        The name's width, and the size of its letters, in points.
    taken : sequence of Rect
        Where other words lie.
    least : float
        How far any other line must be, in points.
    cover : Cover
        Of all that is drawn.
    """
    own = lines.get(group)
    if own is None:
        return None
    others = [points for of, points in lines.items() if of != group]
    places, rects = _beside(own, *size)
    inside = (rects[:, 0] > room.left) & (rects[:, 2] < room.right)
    inside &= (rects[:, 1] > room.top) & (rects[:, 3] < room.bottom)
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
    _, across = frame.backs(places)
    foot, extent = (room.left, room.right) if frame.upright else (room.bottom, room.top)
    high = np.abs(across - foot) / max(1.0, abs(extent - foot))
    worth = np.where(fits, np.minimum(away, _FAR) + _HIGH * high, -np.inf)
    # Places that are as good come in order, whatever the processor sorts and rounds by.
    order = np.argsort(-worth.round(6), kind="stable")
    for best in order[: int(fits.sum())].tolist():
        if not cover.crosses(Rect(*rects[best].tolist())):  # lines are looked at in steps above
            x, y = places[best].tolist()
            return x, y
    return None


def _beside(line: FloatArray, wide: float, letters: float) -> tuple[FloatArray, FloatArray]:
    """The places about a line at which a name is tried, and the rectangles that it takes there,
    shape (k, 2) and (k, 4)."""
    spots = line[np.unique(np.linspace(0, len(line) - 1, _TRIED).astype(int))]
    half = wide / 2 + 5
    level, under = 3.0 / 8.5 * letters, 2.5 + letters
    sides = [[0.0, -4.5], [half, level], [-half, level], [0.0, under]]
    aslant = [[side * half, away] for side in (1, -1) for away in (-4.5, under)]
    around = np.array([*sides, *aslant])
    places = (spots[:, None, :] + around[None, :, :]).reshape(-1, 2)
    x, y = places[:, 0], places[:, 1]
    rects = [x - wide / 2, y - 0.74 * letters, x + wide / 2, y + 0.22 * letters]
    return places, np.stack(rects, axis=1)


def _away(rects: FloatArray, points: FloatArray) -> FloatArray:
    """How far each rectangle is from the nearest of some points; 0 where one lies in it."""
    x, y = points[:, 0], points[:, 1]
    beside = np.maximum(rects[:, :1] - x, x - rects[:, 2:3]).clip(min=0)
    over = np.maximum(rects[:, 1:2] - y, y - rects[:, 3:4]).clip(min=0)
    return np.asarray(np.hypot(beside, over).min(axis=1))
