"""What a hand wishes of the words in the figure: to type them where they stand, or to move them."""

from PyQt6.QtCore import QObject, QRectF

from rhabdos.app.paper.canvas import Canvas
from rhabdos.app.paper.typing_in_place import InPlace
from rhabdos.app.session.session import Session
from rhabdos.figure.edits.placed_texts import Spot, moved_text, pointed_text, with_text
from rhabdos.figure.edits.typed_words import TypedWords, words_at
from rhabdos.figure.recipe.recipe_words import MOST_TEXTS
from rhabdos.paint.fonts import measure
from rhabdos.scene.marks import Meaning, Text
from rhabdos.scene.words.label_places import rect_of


class WordsActions(QObject):
    """Lets words be typed on the paper; the figure follows while they are."""

    def __init__(self, session: Session, canvas: Canvas) -> None:
        super().__init__(canvas)
        self._session, self._canvas = session, canvas
        self._words: TypedWords | None = None
        self.field = InPlace(canvas)
        self.field.typed.connect(self._follow)
        self.field.written.connect(self._write)
        self.field.given_up.connect(self._give_up)

    def type_over(self, meaning: Meaning) -> bool:
        """Begin typing the words of a part; tells whether it has any."""
        readings = self._session.readings
        words = words_at(readings, meaning.part, meaning.level) if readings else None
        if words is None:
            return False
        self._words = words
        self.field.begin(self._place_of(meaning), words.present)
        return True

    def write_here(self, value: float, share: float) -> None:
        """Place a text in the figure, and begin typing it."""
        readings = self._session.readings
        if readings is None:
            return
        if len(readings.recipe.text) >= MOST_TEXTS:
            self._session.refused.emit(f"A figure holds at most {MOST_TEXTS} texts.")
            return
        self._session.ask("Write in the figure", with_text(readings, value, share))
        number = len(readings.recipe.text)
        self.type_over(Meaning("text", level=str(number)))

    def place(self, number: int, spot: Spot, arrow: bool, let_go: bool) -> None:
        """Put a text of the figure, or the tip of an arrow from it, at a place; the figure follows
        until it is let go."""
        readings = self._session.readings
        if readings is None or number >= len(readings.recipe.text):
            return
        if arrow:
            wanted = pointed_text(readings, number, spot)
        else:
            wanted = moved_text(readings, number, spot)
        if let_go:
            self._session.ask("Point to" if arrow else "Move text", wanted)
        else:
            self._session.preview(wanted)

    def _place_of(self, meaning: Meaning) -> QRectF:
        """Where the words of a part stand, in pixels; at the top where there are none."""
        scene, scale = self._canvas.scene, self._canvas.scale
        assert scene
        words = [
            (rect_of(mark, measure), mark.meaning.level)
            for mark in scene.marks
            if isinstance(mark, Text)
            and mark.meaning is not None
            and mark.meaning.part == meaning.part
        ]
        rects = [rect for rect, level in words if level == meaning.level]
        if not rects:  # the names of lanes and panels are told apart by where they stand
            zones = [
                zone
                for zone in scene.zones
                if (zone.meaning.part, zone.meaning.level) == (meaning.part, meaning.level)
            ]
            middles = ((r, (r.left + r.right) / 2, (r.top + r.bottom) / 2) for r, _ in words)
            rects = [r for r, x, y in middles if any(zone.holds(x, y) for zone in zones)]
        if not rects:
            return QRectF(scene.frame.left * scale, 4, 300, 20)
        left, top = min(r.left for r in rects), min(r.top for r in rects)
        right, bottom = max(r.right for r in rects), max(r.bottom for r in rects)
        return QRectF(left * scale, top * scale, (right - left) * scale, (bottom - top) * scale)

    def _follow(self, text: str) -> None:
        if self._words:
            self._session.preview(self._words.changed(text.strip()))

    def _write(self, text: str) -> None:
        words, self._words = self._words, None
        if words:
            self._session.ask(words.step, words.changed(text))
            self._canvas.setFocus()

    def _give_up(self) -> None:
        self._words = None
        self._session.end_preview()
        self._canvas.setFocus()
