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
    window = Window()
    window.show()
    for phrase, forms, name in (
        ("bins", ("bars",), "the rod"),
        ("curve", ("curve",), "the bell"),
        ("box", ("box",), "the whiskers"),
    ):
        show = Show(variables=("Shell length",), split=("Bay",), forms=forms, arrange="overlaid")
        recipe = Recipe(show=show, bins=Bins(width=(_HIGH - _LOW) / BINS, start=_LOW))
        _step(report, window, Table("Shells", (length, bay)), recipe, phrase, name)
    window.session.finish()
    window.deleteLater()


def _step(
    report: Report, window: Window, table: Table, recipe: Recipe, phrase: Key, name: str
) -> None:
    session, figure = window.session, window.figure
    document = Document.of(Source(), recipe)
    session.store.keep_table(document, table)
    session.go("Open", document)
    while session.runner.running():
        QApplication.processEvents()
    QTest.qWait(_SETTLES)
    window.choose_phrase(phrase)
    QTest.qWait(_SETTLES)
    rod = figure.stage.held_rod
    assert rod is not None
    grip = _grip(rod)
    QTest.mousePress(rod, Qt.MouseButton.LeftButton, pos=grip)
    turn = 0

    def hand() -> None:
        """The mouse moves by a pixel; what it leads to is on the screen."""
        nonlocal turn
        turn = (turn + 1) % _FEW_PIXELS
        QTest.mouseMove(rod, grip + QPoint(turn + 1, 0))
        QApplication.processEvents()

    def bare() -> None:
        """The same parts of the window are painted again, and nothing is worked out."""
        canvas = figure.stage.canvas
        assert canvas.scene
        assert session.readings
        canvas.show_scene(canvas.scene, session.readings)
        for part in (canvas, rod, window.sentence):
            part.update()
        QApplication.processEvents()

    ours, theirs = side_by_side(hand, bare, rounds=31, in_a_row=3)
    QTest.mouseRelease(rod, Qt.MouseButton.LeftButton, pos=grip)
    report.ratio(f"a step of {name} in the window", ours, theirs, 1.5, "painting what it changes")


def _grip(rod: OnRod) -> QPoint:
    """A place where a hand can take hold of the rod."""
    for along in range(rod.length // 3, rod.length):
        place = rod.place_of(along, 8).toPoint()
        QTest.mouseMove(rod, place)
        if rod.cursor().shape() == rod.along_cursor:
            return place
    raise LookupError("no grip was found on the rod")
