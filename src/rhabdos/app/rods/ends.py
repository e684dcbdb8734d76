"""The ends of the value axis: two grips on the rod, to set by hand where it begins and ends."""

from msgspec import structs
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QWidget

from rhabdos.app.controls.heard import Standing
from rhabdos.app.controls.theme import theme
from rhabdos.app.rods.gestures import ENDS_HINT
from rhabdos.app.rods.grips import OnGrips
from rhabdos.app.rods.ruler import BAR_HEIGHT, paint_focus, paint_readout, units_per_pixel
from rhabdos.data.columns import DateColumn
from rhabdos.figure.edits import drag_edits
from rhabdos.figure.readings.axis_limits import beyond_limits
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe_axes import Axes, ValueAxis
from rhabdos.scene.coordinates import Frame
from rhabdos.wording import counted

_GRIP = 9.0  # pixels beside a grip within which it is still meant
_WIDE, _HIGH = 9.0, 18.0  # pixels of a grip


class Ends(OnGrips[Axes]):
    """A grip at either end of the axis; what lies beyond them is hidden, and told."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Rod: the ends of the value axis", ENDS_HINT, parent)
        self.chosen_end = "low"
        """The end that keys move."""

    @property
    def _asked(self) -> ValueAxis:
        assert self._readings
        axis: ValueAxis = self._readings.recipe.axes.value
        return axis

    def grip(self, end: str) -> float:
        """Pixel position of the grip of the "low" or the "high" end."""
        assert self._frame
        value = self._frame.low if end == "low" else self._frame.high
        if self._taken is not None:
            moved = getattr(self._asked, end)
            value = moved if isinstance(moved, float) else value
        return self._frame.along(value) * self._scale

    def readout(self) -> str:
        """Where the axis begins and ends, and what that hides."""
        if self._readings is None or self._frame is None:
            return ""
        told, asked = self._readings.variable.format_with_unit, self._asked
        low = asked.low if isinstance(asked.low, float) else self._frame.low
        high = asked.high if isinstance(asked.high, float) else self._frame.high
        hidden = beyond_limits(self._readings).hidden
        words = counted(hidden, "value hidden", "values hidden") if hidden else "all values shown"
        return f"{told(_short(low))} to {told(_short(high))} · {words}"

    def grip_near(self, place: QPointF) -> str | None:
        """The end whose grip is at a place."""
        if self._frame is None or place.y() > BAR_HEIGHT:
            return None
        away = {end: abs(place.x() - self.grip(end)) for end in ("low", "high")}
        nearest = min(away, key=lambda end: away[end])
        if away[nearest] > _GRIP:
            return None
        self.chosen_end = nearest
        return nearest

    def dragged_to(self, along: float, frame: Frame) -> Axes | None:
        """The axes with the held end at a place."""
        if self._readings is None:
            return None
        value = drag_edits.limit_dragged(
            frame.value(along / self._scale), units_per_pixel(frame, self._scale, along), frame.axis
        )
        return self._with_end(str(self._taken), value, frame)

    def stepped(self, steps: int) -> Axes | None:
        """The axes with the chosen end a fiftieth of the axis farther on, or back."""
        if self._readings is None or self._frame is None:
            return None
        frame, end = self._frame, self.chosen_end
        here = frame.along(frame.low if end == "low" else frame.high)
        away = (frame.end - frame.start) / 50 * steps * (-1 if frame.reversed else 1)
        value = drag_edits.limit_dragged(
            frame.value(here + away),
            frame.units_over(here + away, (frame.end - frame.start) / 1_200),
            frame.axis,
        )
        return self._with_end(end, value, frame)

    def _with_end(self, end: str, value: float, frame: Frame) -> Axes | None:
        assert self._readings
        ends = {"low": frame.low, "high": frame.high, end: value}
        if ends["low"] >= ends["high"] or not frame.axis.admits(ends["low"]):
            return None
        bound: float | str = value
        if isinstance(self._readings.variable, DateColumn):
            bound = self._readings.variable.written(value).split(" ")[0]
        axes = self._readings.recipe.axes
        changed = axes.changed(value=structs.replace(axes.value, **{end: bound}))
        return changed if _shows_something(self._readings, changed) else None

    def standing(self) -> Standing | None:
        """Where the chosen end stands."""
        if self._readings is None or self._frame is None:
            return None
        frame, pooled = self._frame, self._readings.samples.pooled
        low, high = min(frame.low, pooled.minimum), max(frame.high, pooled.maximum)
        value = frame.low if self.chosen_end == "low" else frame.high
        unit = self._readings.variable.place_unit
        what = f"{self.chosen_end} end"
        return Standing(what, value, low, high, (frame.high - frame.low) / 50, unit)

    def with_value(self, value: float) -> Axes | None:
        """The axes with the chosen end at a value."""
        return self._with_end(self.chosen_end, value, self._frame) if self._frame else None

    def step_name(self, part: Axes) -> str:
        """ "Value axis begins at 40"."""
        end = str(self._taken or self.chosen_end)
        bound = getattr(part.value, end)
        assert self._readings
        told = bound if isinstance(bound, str) else self._readings.variable.format_with_unit(bound)
        return f"Value axis {'begins' if end == 'low' else 'ends'} at {told}"

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        if self._readings is None or self._frame is None:
            return
        painter = self.painter()
        self.paint_bar(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        for end in ("low", "high"):
            chosen = end in (self._taken, self._hover) or (
                self.hasFocus() and end == self.chosen_end
            )
            painter.setBrush(QColor("#FFFFFF") if chosen else QColor(theme().brass))
            x, inwards = self.grip(end), 1.0 if (end == "low") is not self._frame.reversed else -1.0
            shape = [(0, 3), (_WIDE, 3), (_WIDE, 6), (3, 6), (3, _HIGH), (0, _HIGH)]
            painter.drawPolygon(QPolygonF([QPointF(x + inwards * dx, dy) for dx, dy in shape]))
        if self.hasFocus():
            paint_focus(painter, self)
        if self._in_hand:
            end = str(self._taken or self._hover or self.chosen_end)
            paint_readout(painter, self, self.readout(), self.grip(end))


def _short(value: float) -> float:
    return float(f"{value:.6g}")


def _shows_something(readings: Readings, axes: Axes) -> bool:
    """Whether some value lies between the limits."""
    beyond = beyond_limits(Readings(readings.recipe.changed(axes=axes), readings.gathered))
    return beyond.hidden < readings.samples.pooled.n
