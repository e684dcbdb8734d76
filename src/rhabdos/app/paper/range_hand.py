"""A range of values that a hand marks in the figure: drawn by dragging or by keys, moved at its
ends, and told in a card."""

from typing import TYPE_CHECKING

from msgspec import Struct, structs
from PyQt6.QtCore import QObject, QPointF, pyqtSignal

from rhabdos.figure.edits.stops import Stop, rows_of_stops, span_of
from rhabdos.figure.readings.axis_limits import range_ends
from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.marks import Scene
from rhabdos.scene.pointing import Pointing

if TYPE_CHECKING:
    from rhabdos.figure.words.tooltip import Card

_BEGINS = 6.0  # pixels that a hand moves before it marks a range
_NEAR = 4.0  # pixels beside an end within which it is taken


class MarkedRange(Struct, frozen=True):
    """A range of values, from one end to the other, in either order.

    Attributes
    ----------
    panel : int, optional
        The only one that it is of; None where all panels have one axis.
    kept : int, optional
        Its number among those that are kept in the figure.
    """

    start: float
    end: float
    panel: int | None = None
    kept: int | None = None

    @property
    def ends(self) -> tuple[float, float]:
        """The smaller and the larger end."""
        return min(self.start, self.end), max(self.start, self.end)


class RangeHand(QObject):
    """The range that is marked, and what moves it.

    Signals
    -------
    changed : another range is marked, or none.
    kept_moved : the number of a range of the figure whose end a hand drags, both ends, and whether
        it is let go there.
    """

    changed = pyqtSignal()
    kept_moved = pyqtSignal(int, float, float, bool)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.marked: MarkedRange | None = None
        self._readings: Readings | None = None
        self._begun: MarkedRange | None = None
        """What a hand has hold of: its end is what moves."""

    def show(self, marked: MarkedRange | None) -> None:
        """Mark a range, or none."""
        if marked != self.marked:
            self.marked = marked
            self.changed.emit()

    def show_figure(self, readings: Readings) -> None:
        """Another figure: the range stays as long as its axis does."""
        before, self._readings = self._readings, readings
        marked = self.marked
        if before is None or marked is None or before is readings:
            return
        if _axis_of(before) != _axis_of(readings):
            self._begun = None
            self.show(None)
        elif marked.panel is not None and marked.panel >= len(readings.plan.panels):
            self.show(None)
        elif marked.kept is not None and self._begun is None:
            there = marked.kept < len(readings.recipe.range)
            self.show(self._kept(readings, marked.kept) if there else None)
        else:
            self.changed.emit()  # its numbers may be others

    def _kept(self, readings: Readings, number: int) -> MarkedRange:
        """A range of the figure, as one that is marked."""
        name = readings.recipe.range[number].panel
        panels = [p.index for p in readings.plan.panels if p.label == name]
        return MarkedRange(
            *range_ends(readings, number),
            panels[0] if name is not None and panels else None,
            number,
        )

    def move_end(self, upper: bool, value: float) -> None:
        """One end comes to a value, as by keys of another program."""
        if self.marked is not None:
            low, high = self.marked.ends
            low, high = (low, max(low, value)) if upper else (min(value, high), high)
            self.show(structs.replace(self.marked, start=low, end=high))

    def open_kept(self, number: int) -> None:
        """Tell of a range of the figure."""
        if self._readings is not None and number < len(self._readings.recipe.range):
            self.show(self._kept(self._readings, number))

    # By mouse

    def taken_at(self, scene: Scene, x: float, y: float, scale: float) -> MarkedRange | None:
        """The range one end of which lies at a place of the page, with that end last."""
        frame = scene.frame_at(x, y)
        if frame is None or self._readings is None:
            return None
        along, _ = frame.back(x, y)
        there = [self.marked] if self.marked is not None else []
        names = {None, *(panel.label for panel in self._readings.plan.panels)}
        there += [
            self._kept(self._readings, number)
            for number, kept in enumerate(self._readings.recipe.range)
            if kept.panel in names  # of a panel that there is not, nothing is seen
        ]
        near = []
        for each in there:
            if each.panel is not None and each.panel != frame.panel:
                continue
            for still, moves in (each.ends, each.ends[::-1]):
                if frame.low <= moves <= frame.high:
                    far = abs(frame.along(moves) - along) * scale
                    near.append((far, structs.replace(each, start=still, end=moves)))
        reached = [(far, each) for far, each in near if far <= _NEAR]
        return min(reached, key=lambda pair: pair[0])[1] if reached else None

    def take(self, taken: MarkedRange) -> None:
        """Take hold of the last end of a range."""
        self._begun = taken
        self.show(taken)

    def drag(
        self, pointing: Pointing, pressed: QPointF, here: QPointF, scale: float, snap: bool
    ) -> bool:
        """The end that is held comes to a place of the page, or to the edge of a bin next to it; at
        first a range begins where the button was pressed. Tells whether there is one."""
        frame = pointing.scene.frame_at(pressed.x(), pressed.y())
        if frame is None:
            return self._begun is not None
        value = self._value(pointing, frame, here, snap)
        if self._begun is None:
            start = self._value(pointing, frame, pressed, snap)
            far = abs(frame.back(here.x(), here.y())[0] - frame.back(pressed.x(), pressed.y())[0])
            if far * scale < _BEGINS:
                return False
            several = pointing.readings.plan.axes > 1
            self._begun = MarkedRange(start, start, frame.panel if several else None)
        self._begun = structs.replace(self._begun, end=value)
        self._follow(False)
        return True

    def let_go(self) -> None:
        """The hand opens: the range stays where it is."""
        if self._begun is not None:
            self._follow(True)
            self._begun = None

    def give_up(self) -> None:
        """What a hand holds is let go of, and stays as it is."""
        self._begun = None

    def _follow(self, let_go: bool) -> None:
        assert self._begun is not None
        self.show(self._begun)
        low, high = self._begun.ends
        if self._begun.kept is not None and low < high:
            self.kept_moved.emit(self._begun.kept, low, high, let_go)

    def _value(self, pointing: Pointing, frame: Frame, place: QPointF, snap: bool) -> float:
        along, _ = frame.back(place.x(), place.y())
        along = min(max(along, min(frame.start, frame.end)), max(frame.start, frame.end))
        value = pointing.value(frame, along)
        if not snap:
            return value
        from rhabdos.figure.edits.ranges import snapped

        several = pointing.readings.plan.axes > 1
        return snapped(pointing.readings, frame.panel if several else None, value)

    # By keys

    def widen(self, stop: Stop | None, by: int) -> Stop | None:
        """Mark the part that is read, then one more with each step; the stop that it ends at."""
        readings = self._readings
        rows = rows_of_stops(readings) if readings else ()
        if readings is None or not rows:
            return stop
        here = stop or rows[0][0]
        span = span_of(readings, here)
        row = next((row for row in rows if here in row), None)
        if span is None or row is None:
            return stop
        if self.marked is None:
            self.show(MarkedRange(*span, here.panel if readings.plan.axes > 1 else None))
            return stop
        there = row[min(max(0, row.index(here) + by), len(row) - 1)]
        other = span_of(readings, there)
        if other is None:
            return stop
        forward = other[1] > self.marked.start
        self.show(structs.replace(self.marked, end=other[1 if forward else 0], kept=None))
        return there

    # What it tells

    def card(self) -> "Card | None":
        """How many values of each group lie in the range that is marked."""
        if self.marked is None or self._readings is None:
            return None
        from rhabdos.figure.edits.ranges import range_card  # which no start needs

        return range_card(self._readings, self.marked.panel, *self.marked.ends)

    def groups(self) -> tuple[int, ...]:
        """The groups that it tells of."""
        from rhabdos.figure.edits.ranges import groups_told

        assert self.marked is not None
        assert self._readings is not None
        return groups_told(self._readings, self.marked.panel)


def _axis_of(readings: Readings) -> tuple[object, ...]:
    """What a place on the value axis is of."""
    show = readings.recipe.show
    return tuple(variable.name for variable in readings.variables), show.standardised
