"""The paper: the figure as it will be printed, and what lies under the pointer."""

from typing import TYPE_CHECKING

from msgspec import structs
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt
from PyQt6.QtGui import (
    QColor,
    QContextMenuEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QMoveEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QApplication, QWidget

from rhabdos.app.controls.theme import theme
from rhabdos.app.paper.figure_signals import FigureSignals
from rhabdos.app.paper.heard_figure import HeardFigure
from rhabdos.app.paper.held_part import STEPS, Held, What, adds_to, cursor_over, middle_of
from rhabdos.app.paper.over_figure import OverFigure
from rhabdos.app.paper.range_hand import RangeHand
from rhabdos.app.paper.reading_card import paint_card
from rhabdos.figure.edits.stops import Stop, card_of, rows_of_stops, stepped, still_there
from rhabdos.figure.edits.typed_words import PARTS
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.words.tooltip import Card
from rhabdos.paint.painter import paint, painter_on
from rhabdos.scene.marks import Meaning, Scene
from rhabdos.scene.pointing import Pointing
from rhabdos.scene.style.look import colours_of

if TYPE_CHECKING:
    from rhabdos.data.steps.keep import KeepRows

_NEAR, _MOVES = 5.0, 6.0  # pixels beside a line, and that a hand moves before a text leaves


class Canvas(FigureSignals):
    """Shows a scene scaled to its own width; reads its parts on pointing or by arrow keys."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Figure")
        self.heard = HeardFigure(self)
        self.scene: Scene | None = None
        self._readings: Readings | None = None
        self._drawn: QPixmap | None = None
        self.stop: Stop | None = None
        self._pointer: QPointF | None = None
        self._held: Held | None = None
        self.range_hand = RangeHand(self)
        """The range that a hand has marked in the figure."""
        self.range_hand.changed.connect(self.update)
        self.range_hand.changed.connect(self.heard.show_range)
        self.pointed_row: tuple[str, int] | None = None
        """A row of the table and the variable whose value of it is marked."""
        self.hovering = True
        self.among_others = False
        """Whether figures stand beside this one, which is the one in sight."""
        self.painted = False
        """Whether a figure has ever been painted."""

    @property
    def scale(self) -> float:
        """Pixels for a point of the page."""
        return self.width() / self.scene.width if self.scene else 1.0

    def show_scene(self, scene: Scene, readings: Readings) -> None:
        """Show a figure that was laid out."""
        if self._readings is not None and readings.plan != self._readings.plan:
            # What was pressed is not there any more.
            self._held = None
        self.scene, self._readings = scene, readings
        self._drawn = None
        self.range_hand.show_figure(readings)
        if self.stop is not None and not still_there(self.stop, readings):
            self.stop = None
        self.heard.show_figure(readings)
        self.update()

    def show_nothing(self) -> None:
        """There is no figure any more: nothing of it is held, read or marked."""
        self._held = self.pointed_row = None
        self.range_hand.show(None)
        self._read(None)
        self.scene = self._readings = None
        self.hide()

    def point_at(self, variable: str, row: int) -> None:
        """Mark where a row's value lies, until something else is pointed at."""
        self.pointed_row = variable, row
        self.update()

    @property
    def _pointing(self) -> Pointing | None:
        if self.scene is None or self._readings is None:
            return None
        return Pointing(self.scene, self._readings, 1 / self.scale, _NEAR / self.scale)

    def _on_page(self, place: QPointF) -> tuple[float, float]:
        """A place of the widget in points of the page."""
        return place.x() / self.scale, place.y() / self.scale

    def _pointed_group(self) -> int | None:
        """The group whose line is next to the pointer, or whose bar is the lowest over it."""
        pointing = self._pointing
        if self._pointer is None or pointing is None:
            return None
        return pointing.group(*self._on_page(self._pointer), self.stop)

    @property
    def read_group(self) -> int | None:
        """The group of what is read, if it is of one."""
        if self.stop is None:
            return None
        return self.stop.group if self.stop.group is not None else self._pointed_group()

    def _meaning_at(self, event: QMouseEvent) -> Meaning | None:
        """What a place means: a line or a bar of a group, or else what lies there."""
        pointing = self._pointing
        if pointing is None:
            return None
        self._pointer = event.position()
        return pointing.meaning(*self._on_page(event.position()))

    def card(self) -> Card | None:
        """What the part under the pointer (or reached by key) says."""
        if self._readings is None or self.stop is None:
            return None
        return card_of(self._readings, self.stop, self._pointed_group())

    # Painting

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self.scene is None or self._readings is None:
            return
        over = OverFigure(self.scene, self._readings, self.scale)
        painter.drawPixmap(0, 0, self._picture(self.scene))
        if not self.painted:
            self.painted = True
            self.first_painted.emit()
        if self.stop is not None and self.hovering:
            places = over.places(self.stop)
            tint = QColor("#3D4EA1")
            tint.setAlphaF(0.12)
            for place in places:
                painter.fillRect(place, tint)
            if (card := self.card()) and places:
                colours = colours_of(self._readings)
                within = QRectF(self.rect())
                paint_card(painter, card, self._beside(places[0]), within, colours, self.font())
        if (marked := self.range_hand.marked) is not None:
            over.paint_range(painter, marked.panel, *marked.ends)
        if self.pointed_row is not None:
            over.paint_row(painter, *self.pointed_row)
        taken = self.hasFocus() or self.among_others
        edge = QColor(theme().chosen if taken else theme().hairline)
        painter.setPen(QPen(edge, 1 + 2 * self.among_others))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def range_rect(self) -> QRectF | None:
        """Where the range that is marked lies, in the first frame that has it; in pixels."""
        marked = self.range_hand.marked
        if marked is None or self.scene is None or self._readings is None:
            return None
        rects = OverFigure(self.scene, self._readings, self.scale).range_rects(
            marked.panel, *marked.ends
        )
        return rects[0] if rects else None

    def _picture(self, scene: Scene) -> QPixmap:
        """The painted scene, kept until it changes, so that hovering costs no painting."""
        ratio = self.devicePixelRatioF()
        if self._drawn is None or self._drawn.size() != self.size() * ratio:
            self._drawn = QPixmap(self.size() * ratio)
            self._drawn.setDevicePixelRatio(ratio)
            with painter_on(self._drawn) as painter:
                painter.scale(self.scale, self.scale)
                paint(scene, painter, live=True)
        return self._drawn

    def _beside(self, place: QRectF) -> QRectF:
        """What a card stands beside; only a strip that lies has it under or over it."""
        if place.width() > self.width() / 3:
            return place
        return QRectF(place.left(), place.top() + 6, place.width(), 0)

    # Larger and smaller

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.heard.resize()
        self.placed.emit()

    def moveEvent(self, event: QMoveEvent | None) -> None:
        super().moveEvent(event)
        self.placed.emit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """With Ctrl larger and smaller about the pointer; else along the page, where it is
        larger than its room."""
        if event is None:
            return
        turned = event.angleDelta() if event.pixelDelta().isNull() else event.pixelDelta()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            place = event.position()
            steps = event.angleDelta().y() / 120  # Qt tells a notch of the wheel as 120
            self.zoomed.emit(steps, place.x() / self.width(), place.y() / self.height())
            return
        across, down = float(turned.x()), float(turned.y())
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            across, down = down, across
        self.scrolled.emit(across, down)

    # Pointing

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.scene is None:
            return
        self._pointer = event.position()
        if self._held is not None and self._drag(self._held, event):
            return
        x, y = self._on_page(self._pointer)
        inside = self.scene.frame_at(x, y) is not None
        pointing = self._pointing
        self._read(pointing.stop(x, y) if pointing and inside else None)
        self.pointed.emit(pointing.reading_at(x, y) if pointing else None)
        meaning = self.scene.meaning_at(x, y)
        if self.range_hand.taken_at(self.scene, x, y, self.scale) is not None:
            upright = self.scene.frame.upright
            self.setCursor(Qt.CursorShape.SplitVCursor if upright else Qt.CursorShape.SplitHCursor)
            return
        self.setCursor(cursor_over(meaning, inside))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.pointed_row = None
        self.update()
        if event is None or self.scene is None or event.button() != Qt.MouseButton.LeftButton:
            return
        x, y = self._on_page(event.position())
        taken = self.range_hand.taken_at(self.scene, x, y, self.scale)
        if taken is not None and not event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.range_hand.take(taken)
            self._held = Held("range", event.position(), None, False)
            return
        meaning = self._words_at(event) or self._meaning_at(event)
        what: What = "words"
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:
            what = "paper"
        elif meaning and meaning.part == "swatch":
            self.swatch_clicked.emit(meaning.level)
            return
        elif meaning is None or meaning.part not in PARTS:
            inside = self.scene.frame_at(x, y) is not None
            what = "part" if inside else "margin" if meaning else "paper"
            if meaning and meaning.level is not None:
                what = "level"
        self._held = Held(what, event.position(), meaning, adds_to(event))

    def _drag(self, held: Held, event: QMouseEvent) -> bool:
        """What follows from moving what is held; tells whether something does."""
        if held.what in ("part", "range"):
            return self._mark_range(held, event)
        moved = (event.position() - held.place).manhattanLength()
        if held.what == "paper" and moved >= QApplication.startDragDistance():
            self._held = None
            self.dragged_out.emit()
            return True
        if held.moves_text and (moved >= _MOVES or held.moving):
            self._held = structs.replace(held, moving=True)
            self._place_text(held, event.position(), False)
            return True
        return False

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        held, self._held = self._held, None
        if event is None or held is None:
            return
        meaning = held.meaning
        if held.what == "words" and meaning is not None:
            if held.moving:
                self._place_text(held, event.position(), True)
            else:
                self.part_clicked.emit(meaning, False)
                self.words_clicked.emit(meaning)
        elif held.marks:
            self.range_hand.let_go()
        elif held.what == "level" and meaning is not None and meaning.level is not None:
            there = self._meaning_at(event)
            if there == meaning:
                self.part_clicked.emit(meaning, adds_to(event))
            elif there and there.level is not None and there.part == meaning.part:
                self.level_moved.emit(meaning.level, there.level)
        elif held.what in ("part", "margin") and meaning is not None:
            self.part_clicked.emit(meaning, held.more)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """A double click on the name of a level lets it be typed."""
        meaning = self._meaning_at(event) if event and self.scene else None
        if meaning and meaning.level is not None and meaning.part in ("legend", "lane", "panel"):
            self.words_clicked.emit(meaning)
        elif event is not None:
            self.mousePressEvent(event)

    def _words_at(self, event: QMouseEvent) -> Meaning | None:
        """The words at a place, which lie above everything else."""
        assert self.scene
        meaning = self.scene.meaning_at(*self._on_page(event.position()))
        return meaning if meaning and meaning.part in PARTS else None

    def _place_text(self, held: Held, place: QPointF, let_go: bool) -> None:
        """Tell where a text is dragged to, by its middle, or the tip of its arrow."""
        middle, meaning = held.middle or middle_of(held, self.scene, self.scale), held.meaning
        frame = self.scene.frame_at(middle.x(), middle.y()) if self.scene and middle else None
        if frame is None or middle is None or meaning is None or meaning.level is None:
            return
        if self._held is not None:
            self._held = structs.replace(self._held, middle=middle)
        to = place / self.scale
        if not held.more:
            to = middle + (place - held.place) / self.scale
        pointing = self._pointing
        if pointing is None:
            return
        spot = pointing.spot(frame, to.x(), to.y())
        self.text_placed.emit(int(meaning.level), spot, held.more, let_go)

    # Rows of a part, and of a range

    def _mark_range(self, held: Held, event: QMouseEvent) -> bool:
        """Mark the range from where the button was pressed, or move an end of one; tells whether
        there is one already."""
        pointing = self._pointing
        if pointing is None:
            return False
        snap = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        places = held.place / self.scale, event.position() / self.scale
        if not self.range_hand.drag(pointing, *places, self.scale, snap):
            return False
        self._held = structs.replace(held, marks=True)
        self.stop = None
        return True

    def rows_of_range(self) -> "KeepRows | None":
        """What would keep the rows of the range that is marked, if one is."""
        from rhabdos.figure.edits.part_rows import rows_between

        marked = self.range_hand.marked
        if self._readings is None or marked is None:
            return None
        return rows_between(self._readings, *marked.ends, self.range_hand.groups())

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """Offer what can be done with the level under the pointer, or the rows of the part there,
        or of the one that is read by keys."""
        if event is None:
            return
        pointing = self._pointing
        meaning = pointing.meaning(*self._on_page(QPointF(event.pos()))) if pointing else None
        if meaning is not None and meaning.part in ("legend", "swatch") and meaning.level:
            self.level_asked.emit(meaning.level, event.globalPos())
        else:
            self.offer_rows(event.globalPos())

    def offer_rows(self, place: QPoint) -> bool:
        """Offer the rows of the range that is marked, or of the part that is read; tells whether
        there is one."""
        from rhabdos.figure.edits.part_rows import rows_of_stop

        step = self.rows_of_range()
        if step is None and self._readings is not None and self.stop is not None:
            step = rows_of_stop(self._readings, self.stop, self._pointed_group())
        if step is not None:
            self.rows_asked.emit(step, place)
        return step is not None

    def leaveEvent(self, _event: object) -> None:
        self._pointer = None
        self._read(None)
        self.pointed.emit(None)

    def read_at(self, reading: tuple[float, float] | None) -> None:
        """Read what lies at a value that is pointed at in another figure."""
        pointing = self._pointing
        place = pointing.place_of(*reading) if pointing and reading else None
        self._pointer = QPointF(*place) * self.scale if place else None
        self._read(pointing.stop(*place) if pointing and place else None)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if not self.heard.is_taking_over:
            self._read(None)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and right step along a row of parts, up and down from row to row."""
        if event is None or self._readings is None:
            return
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if shift and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.stop = self.range_hand.widen(
                self.stop, 1 if event.key() == Qt.Key.Key_Right else -1
            )
            return
        if (
            event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            and self.range_hand.marked is not None
        ):
            self.offer_rows(self.mapToGlobal(QPoint(40, 40)))
            return
        if event.key() == Qt.Key.Key_Escape and self._held is not None and self._held.follows:
            self._held = None
            self.range_hand.give_up()
            self.given_up.emit()
            return
        if event.key() == Qt.Key.Key_Escape and (self.range_hand.marked or self.pointed_row):
            self.pointed_row = None
            self.range_hand.show(None)
            self.update()
            return
        rows = rows_of_stops(self._readings)
        if not rows or event.key() not in STEPS:
            super().keyPressEvent(event)
            return
        self._pointer = None
        stop = stepped(rows, self.stop, STEPS[event.key()])
        self._read(stop)
        self.heard.read(stop)

    def _read(self, stop: Stop | None) -> None:
        if stop != self.stop or stop is not None:
            changed = stop != self.stop
            self.stop = stop
            self.update()
            if changed:
                self.read.emit(stop)
