"""What lies at a place on the page: a stop to be read, a group, a part, or a spot for words."""

from msgspec import Struct

from rhabdos.figure.edits.drag_edits import place_dragged
from rhabdos.figure.edits.placed_texts import Spot
from rhabdos.figure.edits.stops import Stop, stop_at
from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.marks import Meaning, Scene


class Pointing(Struct, frozen=True, eq=False):
    """A drawn figure that is pointed at; places are in points from the left and the top.

    Attributes
    ----------
    pixel : float
        Points that a pixel of the screen stands for.
    near : float
        Points beside a line within which it is meant.
    """

    scene: Scene
    readings: Readings
    pixel: float
    near: float

    def stop(self, x: float, y: float) -> Stop | None:
        """The part of the figure at a place."""
        frame = self.scene.frame_at(x, y)
        if frame is None:
            return None
        along, across = frame.back(x, y)
        lane = frame.lane_at(across)
        if lane is None:
            return None
        value = frame.value(along)
        if strip := lane.strip_at(across):
            return stop_at(self.readings, strip.form, frame.panel, strip.group, value)
        heights = lane.heights_at(across)
        alone = heights.groups[0] if heights and len(heights.groups) == 1 else None
        return stop_at(self.readings, None, frame.panel, alone, value)

    def reading_at(self, x: float, y: float) -> tuple[float, float] | None:
        """The value at a place, and how far across its frame it lies, from 0 to 1."""
        frame = self.scene.frame_at(x, y)
        if frame is None:
            return None
        along, across = frame.back(x, y)
        return frame.value(along), (across - frame.first) / (frame.last - frame.first)

    def place_of(self, value: float, share: float) -> tuple[float, float] | None:
        """Where a value lies so far across the first frame; None beyond its ends."""
        frame = self.scene.frame
        if not frame.low <= value <= frame.high:
            return None
        across = frame.first + share * (frame.last - frame.first)
        x, y = frame.point(frame.along(value), across)
        return x, y

    def group(self, x: float, y: float, stop: Stop | None) -> int | None:
        """The group whose line is next to a place, or whose bar at a stop is the lowest over it."""
        frame = self.scene.frame_at(x, y)
        if frame is None:
            return None
        _, across = frame.back(x, y)
        lane = frame.lane_at(across)
        heights = lane.heights_at(across) if lane else None
        if heights is None:
            return None
        if len(heights.groups) == 1:
            return heights.groups[0]
        line = self.scene.line_at(x, y, self.near)
        barred = {"bars", "outline"} & set(self.readings.plan.heights)
        if line or not barred or stop is None or stop.value is None:
            return line.group if line else None
        return self._bar(frame, stop.value, across)

    def meaning(self, x: float, y: float) -> Meaning | None:
        """What a place means: a line or a bar of a group, or else what lies there."""
        meaning = self.scene.line_at(x, y, self.near) or self.scene.meaning_at(x, y)
        if meaning and meaning.part == "bars" and meaning.group is None:
            frame = self.scene.frame_at(x, y)
            along, across = frame.back(x, y) if frame else (0.0, 0.0)
            group = self._bar(frame, frame.value(along), across) if frame else None
            return Meaning("bars", group)
        return meaning

    def _bar(self, frame: Frame, value: float, across: float) -> int | None:
        """The group whose bar over a value is the lowest over a place, if one is there."""
        lane = frame.lane_at(across)
        heights = lane.heights_at(across) if lane else None
        if heights is None or not self.readings.needs_bins:
            return None
        from rhabdos.figure.forms.bars import bar_over

        return bar_over(self.readings, heights.groups, value, heights.band.height(across))

    def spot(self, frame: Frame, x: float, y: float) -> Spot:
        """The spot for words at a place; of one outside the frame, at its edge."""
        x = min(max(x, frame.left), frame.right)
        along, across = frame.back(x, min(max(y, frame.top), frame.bottom))
        share = (across - frame.first) / (frame.last - frame.first)
        height = None
        if frame.lanes and frame.lanes[0].heights:
            band = frame.band
            per_pixel = (band.tallest - band.least) / band.thickness * self.pixel
            height = place_dragged(band.height(across), per_pixel, band.least, band.tallest)
        upwards = share if frame.upright else 1 - share
        return Spot(self.value(frame, along), round(upwards, 3), height)

    def value(self, frame: Frame, along: float) -> float:
        """The value at a place along a frame, as round as a pixel allows."""
        per_pixel = frame.units_over(along, self.pixel)
        return place_dragged(frame.value(along), per_pixel, frame.low, frame.high)
