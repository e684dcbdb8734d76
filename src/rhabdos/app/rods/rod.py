"""The rod: a ruler under the figure with a brass tab at every bin edge, to take hold of the bins by
hand."""

from msgspec import Struct
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QWidget

from rhabdos.app.controls.heard import Standing
from rhabdos.app.controls.theme import theme
from rhabdos.app.rods.gestures import ROD_HINT
from rhabdos.app.rods.ruler import BAR_HEIGHT, OnRod, paint_focus, paint_readout, units_per_pixel
from rhabdos.figure.edits import drag_edits
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.value_scale import WORDS
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.scene.coordinates import Frame
from rhabdos.wording import about, counted

_TAB_WIDTH, _TAB_HEIGHT = 9.0, 15.0  # pixels
_GRIP = 7.0  # pixels beside a tab within which it is still meant
_CLOSEST_TABS = 7.0  # pixels; of nearer ones some are left out


class _Hold(Struct, frozen=True):
    """What was taken hold of, and how things stood then; values follow from it alone, so nothing
    drifts."""

    tab: int | None
    alone: bool
    value: float
    readings: Readings
    frame: Frame


class Rod(OnRod):
    """Shows the edges on a ruler, aligned with the value axis; asks for other bins."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Rod: the bin edges", ROD_HINT, parent)
        self._hold: _Hold | None = None
        self._hover: int | None = None
        self.tab: int = 1

    def show_figure(self, readings: Readings, frame: Frame, scale: float) -> None:
        """Show the tabs of a figure."""
        self.tab = min(self.tab, readings.edges.count)
        if self._hover is not None and self._hover > readings.edges.count:
            self._hover = None
        super().show_figure(readings, frame, scale)

    @property
    def in_hand(self) -> bool:
        return self._hold is not None

    # Where things are

    def x_of(self, value: float) -> float:
        """Pixel position of a value."""
        assert self._frame
        return self._frame.along(value) * self._scale

    def _value_at(self, x: float, frame: Frame) -> float:
        return frame.value(x / self._scale)

    def _stride(self) -> int:
        """Every how many edges a tab is shown, so that tabs can be told apart."""
        assert self._readings
        edges = self._readings.edges
        closest = abs(self.x_of(edges.high) - self.x_of(edges.low)) / edges.count
        return max(
            1, int(_CLOSEST_TABS / max(closest, 0.01)) + (1 if closest < _CLOSEST_TABS else 0)
        )

    def _tabs(self) -> list[tuple[int, float]]:
        """Edge numbers and pixel positions of the tabs in sight."""
        assert self._readings
        edges = self._readings.edges.values
        shown = [(i, self.x_of(float(edges[i]))) for i in range(0, len(edges), self._stride())]
        return [(i, x) for i, x in shown if -1 <= x <= self.length + 1]

    def _tab_near(self, x: float) -> int | None:
        near = [(abs(place - x), i) for i, place in self._tabs()]
        distance, tab = min(near, default=(_GRIP + 1, -1))
        return tab if distance <= _GRIP else None

    def readout(self, tab: int | None = None) -> str:
        """One edge (by default the chosen one), the width and the number of bins, as they stand."""
        if self._readings is None:
            return ""
        edges, variable = self._readings.edges, self._readings.variable
        edge, bins = (
            float(edges.values[self.tab if tab is None else tab]),
            counted(edges.count, "bin", "bins"),
        )
        if edges.ratio is not None:
            near, times = (variable.format_with_unit(float(f"{edge:.4g}")), about(edges.ratio, 4))
            return f"edge {near} · each {times} times the one before · {bins}"
        width = (
            variable.format_difference(float(f"{edges.width:.4g}")) if edges.width else "unequal"
        )
        if edges.along is not None:
            width = f"equal {WORDS[edges.along.kind].said}"
            edge = float(f"{edge:.4g}")
        width = f"a {edges.every}" if edges.every else width
        return f"edge {variable.format_with_unit(edge)} · width {width} · {bins}"

    def standing(self) -> Standing | None:
        """The width of the bins; of bins of several widths where the chosen edge stands, and of
        those equal in logs or roots how many there are."""
        if self._readings is None:
            return None
        edges, variable = self._readings.edges, self._readings.variable
        reach = edges.high - edges.low
        if edges.along is not None:
            return Standing("number of bins", float(edges.count), 1.0, 1_000.0, 1.0)
        if edges.width is None:
            edge = float(edges.values[self.tab])
            return Standing("edge", edge, edges.low, edges.high, reach / 100, variable.place_unit)
        pooled = self._readings.samples.pooled
        step = reach / 100
        if (wider := drag_edits.width_stepped(edges, pooled, 1)).width is not None:
            step = abs(wider.width - edges.width) or step
        return Standing(
            "width", edges.width, 0.0, max(reach, edges.width), step, variable.distance_unit
        )

    def set_to(self, value: float) -> None:
        """Set the width, or whatever stands for it."""
        if self._readings is None:
            return
        edges, pooled = self._readings.edges, self._readings.samples.pooled
        bins = self._readings.recipe.bins
        if edges.width is None and edges.along is None:
            self._ask(drag_edits.edge_moved(edges, pooled, self.tab, value, 0.0), "Move an edge")
        elif value > 0 and edges.along is not None:
            many = max(1, round(value))
            self._ask(bins.with_count(many), counted(many, "bin", "bins"))
        elif value > 0:
            self._ask(
                bins.with_width(value, edges.low),
                f"Bin width {self._readings.variable.difference_written(value)}",
            )

    # By mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if (
            event is None
            or self._readings is None
            or self._frame is None
            or event.button() != Qt.MouseButton.LeftButton
        ):
            return
        x = self.at(event).x()
        if self.at(event).y() > BAR_HEIGHT:
            return
        tab = self._tab_near(x)
        alone = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if tab is not None:
            self.tab = tab
        self._hold = _Hold(tab, alone, self._value_at(x, self._frame), self._readings, self._frame)
        self._dragged = False
        self.held.emit(True)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._readings is None:
            return
        x = self.at(event).x()
        if self._hold is None:
            self._hover = self._tab_near(x) if self.at(event).y() <= BAR_HEIGHT else None
            on_rod = self.at(event).y() <= BAR_HEIGHT
            shape = self.along_cursor if self._hover is not None else Qt.CursorShape.OpenHandCursor
            self.setCursor(shape if on_rod else Qt.CursorShape.ArrowCursor)
            self.update()
            return
        bins = self._dragged_to(self._hold, self._value_at(x, self._hold.frame))
        if bins:
            self._dragged = True
            self.moved.emit(bins)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        hold, self._hold = self._hold, None
        if event is None or hold is None:
            return
        bins = (
            self._dragged_to(hold, self._value_at(self.at(event).x(), hold.frame))
            if self._dragged
            else None
        )
        self.held.emit(False)
        if bins:
            self.part_asked.emit(bins, self._step_name(hold, bins))
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if (
            event is None
            or self._readings is None
            or self._frame is None
            or self.at(event).y() > BAR_HEIGHT
        ):
            return
        edges = self._readings.edges
        value = self._value_at(self.at(event).x(), self._frame)
        if edges.low < value < edges.high:
            self._split(
                min(edges.count - 1, int(edges.values.searchsorted(value, side="right")) - 1)
            )

    def let_go(self) -> None:
        if self._hold:
            self._hold = None
            self.held.emit(False)

    def leaveEvent(self, _event: object) -> None:
        self._hover = None
        self.update()

    def _dragged_to(self, hold: _Hold, value: float) -> Bins | None:
        readings, here = hold.readings, hold.frame.along(value) * self._scale
        edges, pooled = readings.edges, readings.samples.pooled
        per_pixel = units_per_pixel(hold.frame, self._scale, here)
        if edges.along is not None and not hold.alone:
            if not hold.tab:
                return drag_edits.even_shifted(edges, hold.value, value)
            return drag_edits.even_dragged(edges, pooled, hold.tab, value)
        if hold.tab is not None and (hold.alone or (edges.width is None)):
            return drag_edits.edge_moved(edges, pooled, hold.tab, value, per_pixel)
        if hold.tab:
            return drag_edits.width_dragged(edges, pooled, hold.tab, value, per_pixel)
        return drag_edits.start_dragged(edges, pooled, value - hold.value, per_pixel)

    @staticmethod
    def _step_name(hold: _Hold, bins: Bins) -> str:
        variable = hold.readings.variable
        if bins.edges is not None:
            return "Move edges" if hold.tab is None else "Move an edge"
        if hold.tab and bins.width is not None:
            return f"Bin width {variable.difference_written(bins.width)}"
        if bins.logs:
            return counted(bins.count or 1, "bin equal in logs", "bins equal in logs")
        if bins.count is not None:
            return counted(bins.count, "bin", "bins")
        if bins.start is None:
            return "Move the bins"
        return f"Bins start at {variable.written(bins.start)}"

    # By keyboard

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self._readings is None:
            return
        edges, pooled = self._readings.edges, self._readings.samples.pooled
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        key = event.key()
        if key == Qt.Key.Key_Escape and self._hold:
            self.let_go()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            steps = 1 if key == Qt.Key.Key_Right else -1
            if control:
                self._ask(drag_edits.edge_stepped(edges, pooled, self.tab, steps), "Move an edge")
            elif shift:
                self._ask(drag_edits.start_stepped(edges, pooled, steps), "Move the start")
            else:
                self.tab = min(edges.count, max(0, self.tab + steps * self._stride()))
                self.tell()
                self.update()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            steps = 1 if key == Qt.Key.Key_Up else -1
            self._ask(drag_edits.width_stepped(edges, pooled, steps), "Change the bin width")
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End):
            self.tab = 0 if key == Qt.Key.Key_Home else edges.count
            self.tell()
            self.update()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Insert):
            self._split(min(self.tab, edges.count - 1))
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._ask(drag_edits.bin_merged(edges, self.tab), "Merge two bins")
        else:
            event.ignore()

    def _split(self, position: int) -> None:
        assert self._readings
        self._ask(drag_edits.bin_split(self._readings.edges, position), "Split a bin")

    def _ask(self, bins: Bins | None, name: str) -> None:
        if bins:
            self.part_asked.emit(bins, name)

    # Painting

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        if self._readings is None or self._frame is None:
            return
        painter = self.painter()
        self.paint_bar(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        current = self.hasFocus() or self._hold is not None
        for tab, x in self._tabs():
            chosen = (current and tab == self.tab) or (self._hold is None and tab == self._hover)
            self._paint_tab(
                painter, x, QColor("#FFFFFF" if chosen else theme().brass), first=tab == 0
            )
        if self.hasFocus():
            paint_focus(painter, self)
        if current or self._hover is not None:
            self._paint_readout(painter)

    @staticmethod
    def _paint_tab(painter: QPainter, x: float, colour: QColor, first: bool) -> None:
        half = _TAB_WIDTH / 2
        if first:  # the start: a tab of its own shape, which moves all the others
            shape = [(x, 0.0), (x + half + 1, 7.0), (x, 15.0), (x - half - 1, 7.0)]
        else:
            shape = [
                (x - half, 0.0),
                (x + half, 0.0),
                (x + half, 9.0),
                (x, _TAB_HEIGHT),
                (x - half, 9.0),
            ]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawPolygon(QPolygonF([QPointF(*corner) for corner in shape]))

    def _paint_readout(self, painter: QPainter) -> None:
        assert self._readings
        tab = self._hover if self._hold is None and self._hover is not None else self.tab
        text = self.readout(tab)
        paint_readout(painter, self, text, self.x_of(float(self._readings.edges.values[tab])))
