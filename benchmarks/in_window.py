"""A step of a hand in the window, from the event to the painted window, at ten million values."""

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from benchmarks.timing import Report, painting, side_by_side
from rhabdos.app.rods.ruler import OnRod
from rhabdos.app.shell.window import Window
from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.table import Table
from rhabdos.figure.phrases.phrase import Key
from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.project.document import Document, Source

ROWS, GROUPS, BINS = 10_000_000, 6, 200
_LOW, _HIGH = 20.0, 120.0
_FEW_PIXELS = 24
_IN_A_ROW = 12
_SETTLES = 300  # milliseconds after which nothing is laid out any more


def run(report: Report) -> None:
    painting()
    rng = np.random.default_rng(1)
    bay = CategoryColumn(
        "Bay",
        codes=rng.integers(0, GROUPS, ROWS).astype(np.int8),
        levels=tuple(f"Bay {i}" for i in range(GROUPS)),
    )
    length = NumberColumn("Shell length", values=rng.normal(70, 11, ROWS))
    table = Table("Shells", (length, bay))
    drawn = Recipe(
        show=Show(variables=("Shell length",), split=("Bay",), forms=("bars",), arrange="overlaid"),
        bins=Bins(width=(_HIGH - _LOW) / BINS, start=_LOW),
    )
    window = Window()
    window.show()
    for phrase, forms, name in (
        ("variable", ("bars",), "the rod"),
        ("curve", ("curve",), "the bell"),
        ("box", ("box",), "the whiskers"),
    ):
        with _Hand(window, table, drawn.showing(forms=forms), phrase) as hand:
            ours, theirs = side_by_side(hand.step, hand.bare, rounds=31, in_a_row=3)
        report.ratio(f"a step of {name} in the window", ours, theirs, 1.5, "painting its changes")
    with _Hand(window, table, drawn, "bins") as hand:
        ours, theirs = side_by_side(hand.steps, hand.steps_without_ladder, rounds=15)
    report.ratio(f"{_IN_A_ROW} steps with the ladder of widths", ours, theirs, 1.5, "those without")
    window.session.finish()
    window.deleteLater()


class _Hand:
    """A hand that holds the rod of a setting."""

    def __init__(self, window: Window, table: Table, recipe: Recipe, phrase: Key) -> None:
        self._window, self._turn = window, 0
        session = window.session
        document = Document.of(Source(), recipe)
        session.store.keep_table(document, table)
        session.go("Open", document)
        while session.runner.running():
            QApplication.processEvents()
        QTest.qWait(_SETTLES)
        window.choose_phrase(phrase)
        QTest.qWait(_SETTLES)
        rod = window.figure.stage.held_rod
        assert rod is not None
        self._rod, self._at = rod, _grip(rod)

    def __enter__(self) -> "_Hand":
        QTest.mousePress(self._rod, Qt.MouseButton.LeftButton, pos=self._at)
        return self

    def __exit__(self, *_: object) -> None:
        QTest.mouseRelease(self._rod, Qt.MouseButton.LeftButton, pos=self._at)

    def step(self) -> None:
        """The mouse moves by a pixel; what it leads to is on the screen."""
        self._turn = (self._turn + 1) % _FEW_PIXELS
        QTest.mouseMove(self._rod, self._at + QPoint(self._turn + 1, 0))
        QApplication.processEvents()

    def steps(self) -> None:
        """Some movements in a row, since not each of them paints all that follows."""
        for _ in range(_IN_A_ROW):
            self.step()

    def steps_without_ladder(self) -> None:
        """The same, with nothing beside the figure that follows it."""
        side = self._window.figure.side
        followed, side.follow = side.follow, lambda _: None
        self.steps()
        side.follow = followed

    def bare(self) -> None:
        """The same parts of the window are painted again, and nothing is worked out."""
        session, canvas = self._window.session, self._window.figure.stage.canvas
        assert canvas.scene
        assert session.readings
        canvas.show_scene(canvas.scene, session.readings)
        for part in (canvas, self._rod, self._window.sentence):
            part.update()
        QApplication.processEvents()


def _grip(rod: OnRod) -> QPoint:
    """A place where a hand can take hold of the rod."""
    for along in range(rod.length // 3, rod.length):
        place = rod.place_of(along, 8).toPoint()
        QTest.mouseMove(rod, place)
        if rod.cursor().shape() == rod.along_cursor:
            return place
    raise LookupError("no grip was found on the rod")
