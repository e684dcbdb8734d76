"""A walk by mouse and keys through the demo data: how the window looks under a hand.

Where it points, drags, types and turns a wheel, in windows of other sizes, in the dark, and on the
tour. The walks of kept_windows set what there is to set; here is what follows a hand.
"""

from collections.abc import Iterator
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractScrollArea, QApplication, QWidget

from rhabdos.app.controls import theme
from rhabdos.app.panels.words_panel import WordsPanel
from rhabdos.app.rods.ruler import OnRod
from rhabdos.app.shell.tour import DEEDS, take_tour
from rhabdos.figure.recipe.toml_text import write_recipe
from rhabdos.project.document import Document

if TYPE_CHECKING:
    from tests.kept_windows import Walk

_LEFT = Qt.MouseButton.LeftButton
_SIZES = ((1024, 700), (800, 560), (640, 480), (1700, 1000))
_PLACES = ("rows", "overview", "figure")
_SPOTS = ((0.5, 0.02), (0.3, 0.3), (0.45, 0.75), (0.6, 0.85), (0.02, 0.5), (0.5, 0.97))
"""Shares of the canvas, where there are words, bars and axes."""


def by_hand(walk: "Walk") -> Iterator[str]:
    """All that a hand does on this walk."""
    walk.window.session.opening.open_demo()
    walk.look("demo")
    for part in (_rows, _overview, _figure, _words, _rods, _sizes, _dark, _tour):
        part(walk)
        assert walk.window.session.recipe is not None
        yield f"# after {part.__name__.strip('_')}"
        yield from write_recipe(walk.window.session.recipe).splitlines()


def _rows(walk: "Walk") -> None:
    """Cells by keys, by mouse and by wheel, and rows that are found and marked."""
    place = walk.window.rows_place
    walk.window.go_to("rows")
    view = place.view
    _keys(walk, view, "Down", "Down", "Right", "PageDown", "End", "Home", "Up", "Left")
    port = view.viewport()
    QTest.mouseClick(port, _LEFT, pos=QPoint(260, 140))
    walk.look("clicked a cell")
    _dragged(walk, "the end of a head", port, QPoint(view._x(2), 12), (30, 0), (-20, 0))
    wheel(port, -3)
    walk.look("wheel")
    wheel(port, 1, Qt.KeyboardModifier.ShiftModifier)
    walk.look("wheel with Shift")
    place.search.setFocus()
    QTest.keyClicks(place.search, "Salt")
    walk.look("found as it is typed")
    _keys(walk, place.search, "Return", "Return")
    _key(place.search, "Return", Qt.KeyboardModifier.ShiftModifier)
    walk.look("the one before")
    place.search.clear()
    place.choose("Wet mass")
    walk.look("chosen")


def _overview(walk: "Walk") -> None:
    """Cards by keys and under a pointer, and those that a search leaves."""
    overview = walk.window.overview
    walk.window.go_to("overview")
    areas = [a for a in overview.findChildren(QAbstractScrollArea) if a.isVisible()]
    cards = max(areas, key=lambda area: area.width() * area.height())
    _keys(walk, cards, "Right", "Down", "Down", "End", "Left", "Up", "Home")
    walk.window.resize(760, 520)
    _keys(walk, cards, "PageDown", "PageUp", "End", "PageUp")
    walk.window.resize(1280, 800)
    _pointed(walk, cards.viewport(), QPoint(420, 150))
    wheel(cards.viewport(), -2)
    walk.look("wheel")
    for words in ("mass", "nothing is called so", ""):
        overview.search.setText(words)
        walk.look(f"searched for {words!r}")


def _figure(walk: "Walk") -> None:
    """What is pointed at, clicked, marked and enlarged."""
    window = walk.window
    window.go_to("figure")
    canvas = window.figure.stage.canvas
    for across, down in _SPOTS:
        _pointed(walk, canvas, _spot(canvas, across, down))
    for times in ("", "again"):
        QTest.mouseClick(canvas, _LEFT, pos=_spot(canvas, 0.45, 0.75))
        walk.look(f"clicked bars {times}")
    _key(canvas, "Right")
    walk.window.explaining.ask()
    walk.look("explained")
    _key(walk.window.explaining.card or canvas, "Escape")
    _dragged(walk, "a range", canvas, _spot(canvas, 0.3, 0.6), (60, 0), (140, 0))
    end = _spot(canvas, 0.3, 0.6) + QPoint(140, 0)
    _pointed(walk, canvas, end - QPoint(40, 0))
    _dragged(walk, "an end of it", canvas, end, (-50, 0), (30, 0))
    _key(canvas, "Escape")
    for steps in (1, 2, -1):
        wheel(canvas, steps, Qt.KeyboardModifier.ControlModifier)
        walk.look(f"wheel {steps}")
    window.figure.stage.fit_page()
    walk.look("all of the page")
    for name in ("Left", "Right", "Down", "Up", "Return"):
        _key(window.sentence, name)
        walk.look(f"sentence {name}")
    if menu := QApplication.activePopupWidget():
        menu.close()


def _words(walk: "Walk") -> None:
    """Words that are typed where they stand, and one that is moved."""
    window, before = walk.window, walk.window.session.document
    window.choose_phrase("words")
    canvas, field = window.figure.stage.canvas, window.figure_actions.words.field
    for part in ("value-title", "height-title", "legend", "value-axis"):
        zone = next(z for z in canvas.scene.zones if z.meaning.part == part)
        middle = QPointF(zone.left + zone.right, zone.top + zone.bottom) / 2 * canvas.scale
        QTest.mouseDClick(canvas, _LEFT, pos=middle.toPoint())
        walk.look(f"to type {part}")
        if field.isVisible():
            field.setPlainText(f"{part}\nof a hand")
            walk.look("typed")
            _key(field, "Return", Qt.KeyboardModifier.ControlModifier)
            walk.look("kept")
        _key(canvas, "Escape")
    panel = window.figure.side.panel("words")
    assert isinstance(panel, WordsPanel)
    panel.write.click()
    walk.look("a text of its own")
    zones = [zone for zone in canvas.scene.zones if zone.meaning.part == "text"]
    if zones:
        corner = QPointF(zones[-1].left + 6, zones[-1].top + 6) * canvas.scale
        _dragged(walk, "the text", canvas, corner.toPoint(), (40, 30), (90, -20))
    _take_back(walk, before)


def _rods(walk: "Walk") -> None:
    """What the rods hold, while it is dragged and when it is let go."""
    window, before = walk.window, walk.window.session.document
    for phrase, form in (
        ("bins", "bars"),
        ("curve", "curve"),
        ("box", "box"),
        ("variable", "bars"),
    ):
        window.session.ask("Draw", window.session.recipe.showing(forms=(form,)))
        window.choose_phrase(phrase)
        walk.settle()
        rod = window.figure.stage.held_rod
        if rod is not None:
            ways = ((0, -9), (0, -25)) if rod.upright else ((9, 0), (25, 0))
            for start in _grips(rod):
                _dragged(walk, f"{phrase} at {start.x()}", rod, start, *ways)
    _take_back(walk, before)


def _sizes(walk: "Walk") -> None:
    """Windows that are smaller and larger, at each place."""
    for wide, high in _SIZES:
        walk.window.resize(wide, high)
        for place in _PLACES:
            walk.window.go_to(place)
            walk.look(f"{place} in {wide} x {high}")
    walk.window.resize(1280, 800)


def _dark(walk: "Walk") -> None:
    """Each place on a desktop that is dark, or asks for more contrast."""
    application = QApplication.instance()
    assert isinstance(application, QApplication)
    try:
        theme.dress(application, theme.DARK)
        for place in _PLACES:
            walk.window.go_to(place)
            walk.look(f"{place} in the dark")
    finally:
        theme.dress(application, theme.LIGHT)


def _tour(walk: "Walk") -> None:
    """The tour, which does each step itself."""
    tour = take_tour(walk.window)
    walk.look("tour")
    for step in range(len(DEEDS)):
        tour.show_me.click()
        walk.look(f"step {step}")
    tour.close()


def _grips(rod: OnRod) -> list[QPoint]:
    """Where a hand can take hold: some places, and the first that its cursor tells of."""
    found = [rod.place_of(round(rod.length * share), 8).toPoint() for share in (0.25, 0.5, 0.75)]
    for along in range(rod.length // 3, rod.length):
        place = rod.place_of(along, 8).toPoint()
        QTest.mouseMove(rod, place)
        if rod.cursor().shape() == rod.along_cursor:
            return [*found, place]
    return found


def _take_back(walk: "Walk", before: Document) -> None:
    while walk.window.session.document != before:
        walk.window.session.undo()
        walk.settle()


def _spot(canvas: QWidget, across: float, down: float) -> QPoint:
    return QPoint(round(canvas.width() * across), round(canvas.height() * down))


def _key(
    widget: QWidget, name: str, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
) -> None:
    widget.setFocus()
    QTest.keyClick(widget, getattr(Qt.Key, f"Key_{name}"), held)


def _keys(walk: "Walk", widget: QWidget, *names: str) -> None:
    for name in names:
        _key(widget, name)
        walk.look(f"key {name}")


def _pointed(walk: "Walk", widget: QWidget, at: QPoint) -> None:
    QTest.mouseMove(widget, at)
    walk.look(f"pointed at {at.x()} {at.y()}, {widget.cursor().shape().name}")


def _dragged(
    walk: "Walk", what: str, widget: QWidget, start: QPoint, *ways: tuple[int, int]
) -> None:
    """Press, move and let go; how it looks is told each time."""
    QTest.mouseMove(widget, start)
    walk.look(f"over {what}, {widget.cursor().shape().name}")
    QTest.mousePress(widget, _LEFT, pos=start)
    for way in ways:
        QTest.mouseMove(widget, start + QPoint(*way))
        walk.look(f"dragged {what} by {way}")
    QTest.mouseRelease(widget, _LEFT, pos=start + QPoint(*ways[-1]))
    walk.look(f"let go of {what}")


def wheel(
    over: QWidget,
    steps: float,
    held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
    at: tuple[float, float] = (0.5, 0.5),
) -> None:
    """Turn the wheel over a place of a widget, given in shares of it."""
    place = QPointF(over.width() * at[0], over.height() * at[1])
    event = QWheelEvent(
        place, over.mapToGlobal(place), QPoint(), QPoint(0, round(120 * steps)),
        Qt.MouseButton.NoButton, held, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(over, event)
    QApplication.processEvents()
