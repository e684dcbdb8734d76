"""What a hand wishes of a range that it marks: to be told, kept in the figure, moved, or listed."""

from PyQt6.QtCore import QObject, QRect

from rhabdos.app.paper.canvas import Canvas
from rhabdos.app.paper.range_card import RangeCard
from rhabdos.app.paper.range_hand import MarkedRange
from rhabdos.app.session.session import Session
from rhabdos.figure.edits.drag_edits import place_dragged
from rhabdos.figure.edits.ranges import moved_range

_A_LITTLE = 6.0  # points to which the ends of a first range are round


class RangeActions(QObject):
    """Shows the card of the range that is marked, and lets ranges of the figure be moved."""

    def __init__(self, session: Session, canvas: Canvas) -> None:
        super().__init__(canvas)
        self._session, self._canvas, self._hand = session, canvas, canvas.range_hand
        stage = canvas.parentWidget()
        assert stage is not None
        self.card = RangeCard(session, self._hand, stage)
        self.card.rows_asked.connect(canvas.offer_rows)
        self.card.left.connect(self._leave)
        self._hand.kept_moved.connect(self._move)
        canvas.placed.connect(self._place)

    def follow(self) -> None:
        """Tell of the range that is marked now, or of none."""
        self.card.show_range(self._hand.marked)
        self._place()

    def open(self) -> None:
        """Mark a range, unless one is marked, and let its ends be typed."""
        scene, readings = self._canvas.scene, self._session.readings
        if scene is None or readings is None:
            return
        if self._hand.marked is None:
            frame = scene.frame
            ends = []
            for share in (0.25, 0.75):
                along = frame.start + share * (frame.end - frame.start)
                little = frame.units_over(along, _A_LITTLE)
                ends.append(place_dragged(frame.value(along), little, frame.low, frame.high))
            panel = frame.panel if readings.plan.axes > 1 else None
            self._hand.show(MarkedRange(min(ends), max(ends), panel))
        self.card.low.setFocus()

    def _place(self) -> None:
        rect = self._canvas.range_rect()
        if rect is not None and self.card.isVisible():
            at = self._canvas.pos()
            stage = self._canvas.parentWidget()
            assert stage is not None
            within = QRect(self._canvas.geometry()).intersected(stage.rect())
            self.card.place_beside(rect.toAlignedRect().translated(at), within)

    def _move(self, number: int, low: float, high: float, let_go: bool) -> None:
        readings = self._session.readings
        if readings is None or number >= len(readings.recipe.range):
            return
        moved = moved_range(readings, number, low, high)
        if let_go:
            self._session.ask("Move a range", moved)
        else:
            self._session.preview(moved)

    def _leave(self, to_figure: bool) -> None:
        self._hand.show(None)
        if to_figure:
            self._canvas.setFocus()
