"""The plane of *along* and *across*: what alone knows whether the value axis lies or stands.

*Along* runs with the values: from the page's left, or from its bottom where the axis stands.
*Across* is the other direction as the page counts it: down from its top, or right from its left.
Both are in points. Forms are drawn in these two alone.
"""

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.figure.recipe.recipe import Form
from rhabdos.stats.axis_scale import LINEAR_AXIS, AxisScale


def share_of(value: float, low: float, high: float, axis: AxisScale) -> float:
    """How far along an axis from ``low`` to ``high`` a value lies: 0 at its beginning, 1 at its
    end."""
    if axis.even:
        return (value - low) / (high - low)
    first = axis.place(low)
    if axis.log:
        value = max(value, low * 1e-6)  # six decades below the page is as far down as any
    return (axis.place(value) - first) / (axis.place(high) - first)


class Band(Struct, frozen=True):
    """A stretch across the value axis: heights from ``least`` at its base to ``tallest`` at its
    tip; those beyond are cut there."""

    base: float
    tip: float
    tallest: float = 1.0
    least: float = 0.0

    def at(self, height: float) -> float:
        """Where a height lies across."""
        within = min(max(height, self.least), self.tallest)
        return self.base + (within - self.least) / self._span * (self.tip - self.base)

    def ats(self, heights: FloatArray) -> FloatArray:
        """Where many heights lie across.

        Parameters
        ----------
        heights : array, shape (n,)
            In the unit of the axis of heights; held within the band.
        """
        within = np.minimum(np.maximum(heights, self.least), self.tallest)
        return np.asarray(self.base + (within - self.least) / self._span * (self.tip - self.base))

    def height(self, across: float) -> float:
        """The height at a place across."""
        share = (across - self.base) / (self.tip - self.base)
        return self.least + share * self._span

    @property
    def foot(self) -> float:
        """Where heights of 0 lie; its base where it begins above them."""
        return self.at(0.0)

    @property
    def _span(self) -> float:
        return self.tallest - self.least

    @property
    def thickness(self) -> float:
        """Its extent, in points."""
        return abs(self.tip - self.base)

    @property
    def middle(self) -> float:
        """The place between base and tip."""
        return (self.base + self.tip) / 2

    def holds(self, across: float) -> bool:
        """Whether a place lies in it."""
        return min(self.base, self.tip) <= across <= max(self.base, self.tip)


class Strip(Struct, frozen=True):
    """The band of one group's box, points or violin."""

    form: Form
    group: int
    band: Band


class Heights(Struct, frozen=True):
    """The groups that rise from one base line, and the band of their heights."""

    groups: tuple[int, ...]
    band: Band


class Lane(Struct, frozen=True):
    """A lane on the page: its extent across, and the bands of what is drawn in it.

    Attributes
    ----------
    first, last : float
        Where it begins and ends across; first is less.
    heights : tuple of Heights
        Where forms over an axis of heights are drawn: all groups in one band, two back to back, or
        each in a band of its own.
    """

    label: str
    groups: tuple[int, ...]
    first: float
    last: float
    heights: tuple[Heights, ...]
    strips: tuple[Strip, ...]

    def heights_at(self, across: float) -> Heights | None:
        """The band of heights that holds a place; an only one has all of the lane."""
        if len(self.heights) == 1:
            return self.heights[0]
        return next((heights for heights in self.heights if heights.band.holds(across)), None)

    def strip_at(self, across: float) -> Strip | None:
        """The strip that holds a place; the innermost one where they lie within one another."""
        here = [strip for strip in self.strips if strip.band.holds(across)]
        return min(here, key=lambda strip: strip.band.thickness, default=None)


class Frame(Struct, frozen=True):
    """The rectangle between the axes, and how values lie along it.

    Edges are in points from the page's top left.
    """

    left: float
    top: float
    right: float
    bottom: float
    low: float
    high: float
    page_height: float = 0.0
    upright: bool = False
    lanes: tuple[Lane, ...] = ()
    panel: int = 0
    axis: AxisScale = LINEAR_AXIS
    reversed: bool = False

    @property
    def start(self) -> float:
        """Where the value axis begins, along."""
        return self.page_height - self.bottom if self.upright else self.left

    @property
    def end(self) -> float:
        """Where the value axis ends, along."""
        return self.page_height - self.top if self.upright else self.right

    @property
    def first(self) -> float:
        """The lesser end of the frame, across."""
        return self.left if self.upright else self.top

    @property
    def last(self) -> float:
        """The greater end of the frame, across."""
        return self.right if self.upright else self.bottom

    def along(self, value: float) -> float:
        """Where a value lies along."""
        share = share_of(value, self.low, self.high, self.axis)
        return self.start + (1 - share if self.reversed else share) * (self.end - self.start)

    def alongs(self, values: FloatArray) -> FloatArray:
        """Where many values lie along, held within the frame.

        Parameters
        ----------
        values : array, shape (n,)
            In the variable's unit.
        """
        along = np.minimum(np.maximum(values, self.low), self.high)
        low, high = self.low, self.high
        if not self.axis.even:
            along = self.axis.placed(along)
            low, high = self.axis.place(low), self.axis.place(high)
        along -= low
        along /= high - low  # first, since spans may be very small
        if self.reversed:
            np.subtract(1.0, along, out=along)
        along *= self.end - self.start
        along += self.start
        return along

    def value(self, along: float) -> float:
        """The value at a place along."""
        return float(self.values(np.array([along]))[0])

    def values(self, along: FloatArray) -> FloatArray:
        """The values at many places along.

        Parameters
        ----------
        along : array, shape (n,)
            Points on the paper.
        """
        shares = (along - self.start) / (self.end - self.start)
        shares = 1 - shares if self.reversed else shares
        if not self.axis.even:
            low, high = self.axis.place(self.low), self.axis.place(self.high)
            places = low + shares * (high - low)
            return self.axis.values(np.maximum(places, -300.0) if self.axis.log else places)
        with np.errstate(over="ignore"):  # places off the frame may lie past all numbers
            return np.asarray(self.low + shares * (self.high - self.low))

    def units_over(self, along: float, by: float) -> float:
        """How far two values lie apart that are so many points apart, about a place along."""
        share = by / abs(self.end - self.start)
        if not self.axis.even:
            places = (self.axis.place(self.high) - self.axis.place(self.low)) * share
            if self.axis.kind == "root":  # at 0 itself it does not change with places at all
                here = self.axis.place(self.value(along))
                return self.axis.value(abs(here) + places) - self.axis.value(abs(here))
            return self.axis.per_place(self.value(along)) * places
        return share * (self.high - self.low)

    def point(self, along: float, across: float) -> tuple[float, float]:
        """A place on the page, from its left and its top."""
        return (across, self.page_height - along) if self.upright else (along, across)

    def points(self, along: FloatArray, across: FloatArray) -> FloatArray:
        """Places on the page, shape (n, 2).

        Parameters
        ----------
        along, across : array, shape (n,)
            Points on the paper, along the value axis and across it.
        """
        places = np.empty((len(along), 2))
        places[:, 0] = across if self.upright else along
        places[:, 1] = self.page_height - along if self.upright else across
        return places

    def lines(
        self, along: FloatArray, across: FloatArray, along_end: FloatArray, across_end: FloatArray
    ) -> FloatArray:
        """Straight lines on the page from places to places, shape (n, 4).

        Parameters
        ----------
        along, across, along_end, across_end : array, shape (n,)
            Points on the paper: where each line begins, and where it ends.
        """
        return np.hstack([self.points(along, across), self.points(along_end, across_end)])

    def back(self, x: float, y: float) -> tuple[float, float]:
        """Along and across of a place on the page."""
        return (self.page_height - y, x) if self.upright else (x, y)

    def backs(self, points: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Along and across of places on the page.

        Parameters
        ----------
        points : array, shape (n, 2)
            Points on the paper, from its left and its top.
        """
        x, y = points[:, 0], points[:, 1]
        return (self.page_height - y, x) if self.upright else (x, y)

    def holds(self, x: float, y: float) -> bool:
        """Whether a place on the page lies within the frame."""
        return self.left <= x <= self.right and self.top <= y <= self.bottom

    def lane_at(self, across: float) -> Lane | None:
        """The lane that holds a place across."""
        return next((lane for lane in self.lanes if lane.first <= across <= lane.last), None)

    @property
    def band(self) -> Band:
        """The heights of the first lane; the whole frame where there are none."""
        for lane in self.lanes:
            if lane.heights:
                return lane.heights[0].band
        return Band(self.first, self.last) if self.upright else Band(self.last, self.first)
