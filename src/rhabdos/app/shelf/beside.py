"""Figures beside the one in sight, on its axes where they can be, and in what they differ."""

from collections.abc import Callable
from functools import partial

import msgspec
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QWidget

from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.app.paper.canvas import Canvas
from rhabdos.app.paper.stage import Stage, whole_paper
from rhabdos.app.session.reaching import answered, is_quick
from rhabdos.app.session.session import Session
from rhabdos.errors import Refusal
from rhabdos.figure.phrases.differing import differences
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.readings.readings import Readings
from rhabdos.paint.fonts import measure_for
from rhabdos.project.making import Reached, make
from rhabdos.scene.build import build
from rhabdos.scene.common_axes import NOTHING_SHARED, CommonAxes, common_axes
from rhabdos.scene.marks import Scene

_AROUND = 12  # pixels about a paper
_MOST_TOLD = 3  # parts that differ, which are told


class Paper(QWidget):
    """One figure beside the one in sight: read by pointing, brought in sight by a click.

    Signals
    -------
    chosen : it was clicked.
    """

    chosen = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.canvas = Canvas(self)
        self.canvas.part_clicked.connect(lambda *_: self.chosen.emit())
        self.canvas.words_clicked.connect(lambda *_: self.chosen.emit())
        self.words = QLabel(self)
        self.words.setObjectName("quiet")
        self.words.setWordWrap(True)
        self.words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.words.setTextFormat(Qt.TextFormat.PlainText)

    def show_scene(self, scene: Scene, readings: Readings, name: str) -> None:
        """Show a figure that was laid out."""
        self.words.hide()
        self.canvas.setAccessibleName(f"Figure beside: {name}")
        self.canvas.show_scene(scene, readings)
        self.canvas.show()
        self._place()

    def say(self, words: str) -> None:
        """Say why there is no figure."""
        self.canvas.show_nothing()
        self.words.setText(words)
        self.words.show()
        self._place()

    def _place(self) -> None:
        self.words.setGeometry(self.rect().adjusted(_AROUND, _AROUND, -_AROUND, -_AROUND))
        scene = self.canvas.scene
        if scene is None:
            return
        self.canvas.setGeometry(whole_paper(self.size(), *scene.points, scene.frame.upright))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._place()

    def mousePressEvent(self, _event: QMouseEvent | None) -> None:
        self.chosen.emit()


class Beside(QWidget):
    """The figures that stand beside one another, in the order of the shelf, with a line of words
    beneath them."""

    def __init__(self, session: Session, stage: Stage, middle: QWidget) -> None:
        super().__init__()
        self._session, self._stage, self._middle = session, stage, middle
        self._papers: list[Paper] = []
        self._kept: dict[bytes, Readings] = {}
        self._row = QHBoxLayout()
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(0)
        self._row.addWidget(middle, 1)
        self.line = QWidget()
        self.told = QLabel()
        self.told.setObjectName("quiet")
        self.told.setTextFormat(Qt.TextFormat.PlainText)
        self.told.setWordWrap(True)
        self.keep = word_button("Keep them all", session.figures.part, "add")
        self.take = word_button("Take this one", session.figures.take, "add")
        in_a_row((self.told, 1), self.keep, self.take, around=(14, 2, 14, 6), gap=10, of=self.line)
        in_a_column((self._row, 1), self.line, gap=0, of=self)
        self.line.hide()
        stage.canvas.pointed.connect(lambda reading: self._read_all(stage.canvas, reading))

    @property
    def papers(self) -> tuple[Paper, ...]:
        """Those that are in sight, beside the stage."""
        return tuple(paper for paper in self._papers if paper.isVisibleTo(self))

    def show_figures(self) -> None:
        """Show those that stand beside the one in sight now."""
        document, readings = self._session.document, self._session.readings
        others = [place for place in document.beside if place != document.shown]
        together = bool(others) and readings is not None and document.chart is None
        self.line.setVisible(together)
        self._stage.canvas.among_others = together
        if not together or readings is None:
            for paper in self._papers:
                paper.hide()
            self._stage.common = NOTHING_SHARED
            return
        self._arrange(document.beside.index(document.shown), others)
        each = {place: self._readings(place) for place in others}
        known = {place: drawn for place, drawn in each.items() if isinstance(drawn, Readings)}
        self._kept = {self._key(place): drawn for place, drawn in known.items()}
        self._stage.common = shared = self._shared(readings, list(known.values()))
        for paper, place in zip(self._papers, others, strict=False):
            self._show(paper, place, each[place], shared)
        self._tell(readings, known, shared)

    def follow(self, readings: Readings) -> None:
        """Tell in what a figure differs that follows a hand; axes stand still meanwhile."""
        known = self._known()
        if self.line.isVisible() and known:
            self._tell(readings, known, self._stage.common)

    def _known(self) -> dict[int, Readings]:
        document = self._session.document
        others = [place for place in document.beside if place != document.shown]
        drawn = {place: self._kept.get(self._key(place)) for place in others}
        return {place: readings for place, readings in drawn.items() if readings is not None}

    def _key(self, place: int) -> bytes:
        return msgspec.json.encode(self._session.document.figures[place].recipe)

    def _arrange(self, at: int, others: list[int]) -> None:
        """As many papers as there are others, the stage among them at its place."""
        while len(self._papers) < len(others):
            paper = Paper()
            paper.canvas.pointed.connect(partial(self._read_all, paper.canvas))
            self._papers.append(paper)
        for paper in self._papers:
            self._row.removeWidget(paper)
        self._row.removeWidget(self._middle)
        row: list[QWidget] = list(self._papers[: len(others)])
        row.insert(at, self._middle)
        for widget in row:
            self._row.addWidget(widget, 1)
        for paper in self._papers[len(others) :]:
            paper.hide()
        for paper, place in zip(self._papers, others, strict=False):
            paper.show()
            _once(paper, partial(self._session.figures.show, place))

    def _readings(self, place: int) -> Readings | str:
        """The readings of a figure, or what is to be said instead: that it is being made, or why
        it cannot be."""
        session, key = self._session, self._key(place)
        document = session.document.showing(place)
        recipe, table = session.document.figures[place].recipe, session.table
        samples = session.store.samples(document)
        kept = self._kept.get(key)
        if kept is not None and samples is not None and kept.gathered is samples:
            return kept
        try:
            if samples is None and table is not None and is_quick(table):
                samples = samples_for(recipe, table)
                session.store.keep_samples(document, samples)
            if samples is None:
                self._gather(place)
                return "Sorting its values …"
            self._kept[key] = readings = answered(recipe, samples)
        except Refusal as refusal:
            return str(refusal)
        return readings

    def _gather(self, place: int) -> None:
        """Sort the values of a figure beside, off the interface thread."""
        session, document = self._session, self._session.document.showing(place)

        def done(reached: Reached) -> None:
            """Keep them, and show all figures on the axes that they share now."""
            session.keep_reached(reached)
            session.changed.emit()

        session.runner.run(
            "looking",
            "Sorting what stands beside",
            lambda report: make(document, session.store, session.others, report),
            done,
            session.refuse,
        )

    def _shared(self, readings: Readings, others: list[Readings]) -> CommonAxes:
        try:
            return common_axes([readings, *others], measure_for(readings.recipe))
        except Refusal:
            return NOTHING_SHARED

    def _show(self, paper: Paper, place: int, found: Readings | str, shared: CommonAxes) -> None:
        if isinstance(found, str):
            paper.say(found)
            return
        measure = measure_for(found.recipe)
        try:
            scene = build(found, measure, shared.limits(found), top=shared.top)
        except Refusal as refusal:
            paper.say(str(refusal))
            return
        paper.show_scene(scene, found, self._session.figures.name(place))

    def _tell(self, readings: Readings, others: dict[int, Readings], shared: CommonAxes) -> None:
        alike: dict[str, list[int]] = {}
        for place, other in others.items():
            # What stands at the left is told first, as it is read.
            before = place < self._session.figures.shown
            pair = (other, readings) if before else (readings, other)
            differing = differences(*pair)
            told = ", ".join(difference.words for difference in differing[:_MOST_TOLD])
            more = f" and {len(differing) - _MOST_TOLD} more" if len(differing) > _MOST_TOLD else ""
            alike.setdefault(told + more, []).append(place + 1)
        parts = [_axes_told(shared)]
        for told, numbers in alike.items():
            which = f" from {_numbered(numbers)}" if len(others) > 1 else ""
            parts.append(f"differs{which} in {told}" if told else f"no difference{which} yet")
        words = " · ".join(parts)
        self.told.setText(words[:1].upper() + words[1:])
        self.keep.setText("Keep both" if len(others) == 1 else "Keep them all")

    def _read_all(self, source: Canvas, reading: object) -> None:
        """Where one is pointed at, the others read the same value."""
        if self._stage.common.value is None or not self.line.isVisible():
            return
        value = reading if isinstance(reading, tuple) else None
        for canvas in (self._stage.canvas, *(paper.canvas for paper in self.papers)):
            if canvas is not source:
                canvas.read_at(value)


def _numbered(numbers: list[int]) -> str:
    """ "figure 3", "figures 3, 4 and 5"."""
    if len(numbers) == 1:
        return f"figure {numbers[0]}"
    return f"figures {', '.join(map(str, numbers[:-1]))} and {numbers[-1]}"


def _axes_told(shared: CommonAxes) -> str:
    if shared.value is not None and shared.top is not None:
        return "one value axis and one scale of heights"
    if shared.value is not None:
        return "one value axis"
    return "one scale of heights" if shared.top is not None else "axes of their own"


def _once(paper: Paper, deed: Callable[[], None]) -> None:
    """Let a click on a paper do this, and nothing that it did before."""
    if paper.receivers(paper.chosen):
        paper.chosen.disconnect()
    paper.chosen.connect(deed)
