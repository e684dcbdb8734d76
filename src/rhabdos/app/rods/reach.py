"""The reach of the whiskers: two grips on the rod, to set by hand which values lie beyond."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from rhabdos.app.controls.heard import Standing
from rhabdos.app.controls.theme import theme
from rhabdos.app.rods.gestures import REACH_HINT
from rhabdos.app.rods.grips import OnGrips
from rhabdos.app.rods.ruler import BAR_HEIGHT, paint_focus, paint_readout, units_per_pixel
from rhabdos.figure.edits import drag_edits
from rhabdos.figure.edits.stops import Stop
from rhabdos.figure.forms.box import boxes
from rhabdos.figure.planning.titles import whiskers_phrase
from rhabdos.figure.recipe.recipe import Boxes
from rhabdos.scene.coordinates import Frame
from rhabdos.stats.boxes import Box
from rhabdos.wording import counted

_USUAL = 1.5  # where keys begin from another rule
_GRIP = 9.0  # pixels beside a grip within which it is still meant
_HALF, _HEIGHT = 5.0, 14.0  # pixels of a grip to either side, and along
_BOX = 7.0  # half the thickness of the small box on the bar


class Reach(OnGrips[Boxes]):
    """Shows the box that was pointed at last on the rod, with a grip at the end of each reach."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Rod: the reach of the whiskers", REACH_HINT, parent)
        self.group = 0

    # Where things are

    def point_at(self, stop: Stop | None) -> None:
        """Hold the reach of the box that is read."""
        if stop and stop.form == "box" and stop.group is not None and self._taken is None:
            self.group = stop.group
            self.tell()
            self.update()

    @property
    def shown_group(self) -> int | None:
        """The group whose reach is held: that which was pointed at last, if it still has a box."""
        if self._readings is None:
            return None
        filled = [group.index for group in self._readings.groups if group.n]
        return self.group if self.group in filled else next(iter(filled), None)

    @property
    def box(self) -> Box | None:
        """The box whose reach is held; None where there is none."""
        if self._readings is None or self.shown_group is None:
            return None
        return boxes(self._readings)[self.shown_group]

    @property
    def multiple(self) -> float | None:
        """The present multiple of the IQR; None where whiskers follow another rule."""
        whiskers = self._readings.recipe.box.whiskers if self._readings else None
        return float(whiskers) if isinstance(whiskers, int | float) else None

    def grip(self, upper: bool) -> float:
        """Pixel position of a grip: at the fence, or at the whisker's end by another rule."""
        box = self.box
        assert box
        assert self._frame
        multiple = self.multiple
        if multiple is None:
            value = box.whisker_high if upper else box.whisker_low
        else:
            away = multiple * (box.q3 - box.q1)
            value = box.q3 + away if upper else box.q1 - away
        value = min(max(value, self._frame.low), self._frame.high)
        return self._frame.along(value) * self._scale

    def readout(self) -> str:
        """The reach and what lies beyond it, in words."""
        box = self.box
        if self._readings is None or box is None:
            return ""
        assert self.shown_group is not None
        label = self._readings.groups[self.shown_group].label if self._readings.divided else ""
        beyond = sum(tail.stop - tail.start for tail in box.tails)
        words = f"whiskers reach {whiskers_phrase(self._readings.recipe.box.whiskers)}"
        told = counted(beyond, "value", "values")
        return f"{words} · {label + ': ' if label else ''}{told} beyond"

    def grip_near(self, place: QPointF) -> str | None:
        """The "lower" or the "upper" grip at a place."""
        if self.box is None or place.y() > BAR_HEIGHT:
            return None
        away = {name: abs(place.x() - self.grip(name == "upper")) for name in ("lower", "upper")}
        nearest = min(away, key=lambda name: away[name])
        return nearest if away[nearest] <= _GRIP else None

    # By hand

    def dragged_to(self, along: float, frame: Frame) -> Boxes | None:
        """The boxes whose whiskers reach up to a place."""
        box = self.box
        if box is None or not self._readings:
            return None
        value = frame.value(along / self._scale)
        upper = self._taken == "upper"
        multiple = drag_edits.reach_dragged(
            box, value, upper, units_per_pixel(frame, self._scale, along)
        )
        return None if multiple is None else self._readings.recipe.box.changed(whiskers=multiple)

    def stepped(self, steps: int) -> Boxes | None:
        """The boxes with whiskers that reach a little farther, or less far."""
        if self._readings is None:
            return None
        multiple = self.multiple if self.multiple is not None else _USUAL
        whiskers = drag_edits.reach_stepped(multiple, steps)
        return self._readings.recipe.box.changed(whiskers=whiskers)

    def standing(self) -> Standing | None:
        """How many interquartile ranges the whiskers may reach."""
        multiple = self.multiple
        if multiple is None:
            return None
        step = abs(drag_edits.reach_stepped(multiple, 1) - multiple)
        return Standing("reach", multiple, 0.0, max(10.0, multiple), step, "IQR")

    def with_value(self, value: float) -> Boxes | None:
        """The boxes whose whiskers may reach so far."""
        if self._readings is None or value < 0:
            return None
        return self._readings.recipe.box.changed(whiskers=value)

    def step_name(self, part: Boxes) -> str:
        """ "Whiskers to 2 × IQR"."""
        return f"Whiskers to {whiskers_phrase(part.whiskers)}"

    # Painting

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        if self._readings is None or self._frame is None:
            return
        painter = self.painter()
        self.paint_bar(painter)
        box = self.box
        if box is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_box(painter, box)
        if self.hasFocus():
            paint_focus(painter, self)
        if self._in_hand:
            lower = "lower" in (self._taken, self._hover if self._taken is None else None)
            paint_readout(painter, self, self.readout(), self.grip(not lower))

    def _paint_box(self, painter: QPainter, box: Box) -> None:
        """The box without its whiskers, lines to how far they may reach, and the grips there."""
        assert self._frame
        brass, middle = QColor(theme().brass), BAR_HEIGHT / 2 - 2
        q1, q3 = (self._frame.along(value) * self._scale for value in (box.q1, box.q3))
        painter.setPen(QPen(brass, 1.2))
        painter.drawLine(QPointF(self.grip(False), middle), QPointF(q1, middle))
        painter.drawLine(QPointF(q3, middle), QPointF(self.grip(True), middle))
        fill = QColor(brass)
        fill.setAlphaF(0.25)
        painter.setBrush(fill)
        corners = ((q1, -_BOX), (q3, -_BOX), (q3, _BOX), (q1, _BOX))
        painter.drawPolygon(QPolygonF([QPointF(x, middle + dy) for x, dy in corners]))
        painter.setPen(Qt.PenStyle.NoPen)
        for upper in (False, True):
            chosen = ("upper" if upper else "lower") in (self._taken, self._hover)
            painter.setBrush(QColor("#FFFFFF") if chosen else brass)
            x, top = self.grip(upper), middle - _HEIGHT / 2
            shape = [(-_HALF, 0.0), (_HALF, 0.0), (_HALF, 9.0), (0.0, _HEIGHT), (-_HALF, 9.0)]
            painter.drawPolygon(QPolygonF([QPointF(x + dx, top + dy) for dx, dy in shape]))
