"""Take pictures of the main views, from the demo data: ``screenshots.py [FOLDER [VIEW …]]``."""

import sys
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QPainter, QPixmap
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu

from rhabdos.app import theme
from rhabdos.app.export_dialog import ExportDialog
from rhabdos.app.window import Window
from rhabdos.data.demo import demo_table
from rhabdos.data.gathering import gather
from rhabdos.figure.demo_recipe import demo_recipe
from rhabdos.figure.forms import FORMS
from rhabdos.figure.phrases.shown import showing
from rhabdos.figure.readings import read
from rhabdos.paint.export import write_figure
from rhabdos.scene.miniature import miniature

_SMALL = 150.0, 78.0
FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"


def settle() -> None:
    QTest.qWait(150)


def in_hand(window: Window, start: float, end: float) -> QPixmap:
    """The window while a hand drags on its rod, from one pixel along it to another."""
    held = window.stage.held_rod
    here, there = (held.place_of(along, 8).toPoint() for along in (start, end))
    QTest.mousePress(held, Qt.MouseButton.LeftButton, pos=here)
    QTest.mouseMove(held, there)
    settle()
    picture = window.grab()
    QTest.mouseRelease(held, Qt.MouseButton.LeftButton, pos=there)
    return picture


def demo(window: Window) -> QPixmap:
    """The demo figure, a bar under the pointer."""
    canvas = window.stage.canvas
    frame, scale = canvas.scene.frame, canvas.scale
    QTest.mouseMove(
        canvas, QPoint(round(frame.along(90) * scale), round(frame.bottom * scale - 30))
    )
    settle()
    return window.grab()


def rod(window: Window) -> QPixmap:
    """A tab of the rod in the hand."""
    held = window.stage.rod
    return in_hand(window, held.x_of(60), held.x_of(66))


def sentence(window: Window) -> QPixmap:
    """A phrase with its alternatives open."""
    window.open_phrase("bins")
    settle()
    menu = next(menu for menu in window.findChildren(QMenu) if menu.isVisible())
    picture = window.grab()
    painter = QPainter(picture)
    button = window.sentence.button("bins")
    painter.drawPixmap(button.mapTo(window, QPoint(0, button.height() + 1)), menu.grab())
    painter.end()
    menu.close()
    return picture


def unequal(window: Window) -> QPixmap:
    """Own edges of unequal width, drawn by density, with the notice."""
    window.choose_phrase("bins")
    field = window.side.panel("bins").edges
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "40, 55, 60 ... 80, 110")
    QTest.keyClick(field, Qt.Key.Key_Return)
    window.choose_phrase("heights")
    settle()
    return window.grab()


def notice(window: Window) -> QPixmap:
    """A notice that asks about a code for missing values."""
    window.session.ask("All together", window.session.recipe.showing(split=()))
    window.variables.chosen.emit("Water temperature")
    window.choose_phrase("variable")
    settle()
    return window.grab()


def export(window: Window) -> QPixmap:
    """The export dialog."""
    window.filing.folder = Path("figures")
    window.filing.export()
    settle()
    dialog = window.findChild(ExportDialog)
    picture = dialog.grab()
    dialog.reject()
    return picture


def curves(window: Window) -> QPixmap:
    """Density curves over bars, with the curve's settings."""
    recipe = window.session.recipe
    window.session.ask("Draw curves", recipe.showing(forms=("bars", "curve")))
    window.choose_phrase("curve")
    settle()
    return window.grab()


def bell(window: Window) -> QPixmap:
    """The bell's flank in the hand."""
    curves(window)
    flank = window.stage.bell.flank()
    return in_hand(window, flank, flank + 9)


def lanes(window: Window) -> QPixmap:
    """Half curves with boxes and points, a lane a bay."""
    recipe = window.session.recipe
    shown = recipe.showing(forms=("curve", "box", "points"), heights="density")
    shown = shown.changed(
        curve=recipe.curve.changed(fill=True), box=recipe.box.changed(mean=True, names="Tag")
    )
    window.session.ask("Draw curves, boxes and points", shown)
    window.choose_phrase("arrange")
    QTest.qWait(300)
    return window.grab()


def boxes(window: Window) -> QPixmap:
    """Standing boxes with names, and the reach of their whiskers in the hand."""
    recipe = window.session.recipe
    named = recipe.box.changed(names="Tag", mean=True, notches=True, numbers=("mean",))
    shown = recipe.showing(forms=("box",)).changed(box=named)
    window.session.ask("Draw boxes", shown.worded(title="Saltmere’s oysters differ most"))
    window.choose_phrase("box")
    grip = window.stage.reach.grip(True)
    return in_hand(window, grip, grip - 9)


def box(window: Window) -> QPixmap:
    """One box is read."""
    recipe = window.session.recipe
    window.session.ask("Draw bars and boxes", recipe.showing(forms=("bars", "box")))
    window.choose_phrase("box")
    settle()
    canvas = window.stage.canvas
    frame = canvas.scene.frame
    strip = frame.lanes[0].strips[0]
    x, y = frame.point(frame.along(77), strip.band.middle)
    QTest.mouseMove(canvas, QPoint(round(x * canvas.scale), round(y * canvas.scale)))
    settle()
    return window.grab()


def panels(window: Window) -> QPixmap:
    """Stocks overlaid in panels by season, and the arrangements as pictures."""
    recipe = window.session.recipe.showing(split=("Stock",)).paneled(by=("Season",))
    window.session.ask("Panels", recipe.worded(title="Both stocks grow alike in every season"))
    window.choose_phrase("arrange")
    QTest.qWait(300)
    return window.grab()


def clusters(window: Window) -> QPixmap:
    """Boxes of two factors in clusters, and the list of groups."""
    recipe = window.session.recipe
    numbered = recipe.box.changed(mean=True)
    shown = recipe.showing(split=("Bay", "Stock"), forms=("box",)).changed(box=numbered)
    window.session.ask("Clusters", shown.worded(title="The stock matters less than the bay"))
    window.choose_phrase("split")
    settle()
    return window.grab()


def back_to_back(window: Window) -> QPixmap:
    """Two stocks back to back along a standing axis."""
    recipe = window.session.recipe.showing(
        split=("Stock",), arrange="back-to-back", forms=("bars", "curve"), upright=True
    )
    recipe = recipe.binned(recipe.bins.with_width(3.0))
    window.session.ask("Back to back", recipe.worded(title="Diploid and triploid oysters"))
    window.choose_phrase("way")
    settle()
    return window.grab()


def forward(window: Window) -> QPixmap:
    """One bay brought forward by a click in the legend."""
    canvas = window.stage.canvas
    zone = next(zone for zone in canvas.scene.zones if zone.meaning.level == "Saltmere")
    x, y = (zone.left + zone.right) / 2, (zone.top + zone.bottom) / 2
    place = QPoint(round(x * canvas.scale), round(y * canvas.scale))
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=place)
    settle()
    return window.grab()


def variables(window: Window) -> QPixmap:
    """Several variables at once: growth in six weeks, as if they were groups."""
    weeks = tuple(f"Growth week {week}" for week in range(1, 7))
    recipe = showing(window.session.recipe, *weeks).showing(split=(), forms=("violin", "box"))
    window.session.ask("Weeks", recipe.worded(title="Six weeks of growth"))
    window.choose_phrase("variable")
    settle()
    return window.grab()


def forms(window: Window) -> QPixmap:
    """The forms as small pictures, beside filled curves."""
    recipe = window.session.recipe
    filled = recipe.curve.changed(fill=True, bandwidth="sheather-jones")
    window.session.ask(
        "Draw curves", recipe.showing(forms=("curve",), heights="density").changed(curve=filled)
    )
    window.choose_phrase("forms")
    QTest.qWait(300)
    return window.grab()


def dark(window: Window) -> QPixmap:
    """The window on a dark desktop."""
    application = QApplication.instance()
    theme.dress(application, theme.DARK)
    window.choose_phrase("split")
    window.variables.list.setFocus()
    settle()
    picture = window.grab()
    theme.dress(application, theme.LIGHT)
    return picture


def welcome(window: Window) -> QPixmap:
    """The window before anything is open."""
    empty = Window()
    empty.resize(1280, 800)
    empty.show()
    settle()
    return empty.grab()


VIEWS: dict[str, Callable[[Window], QPixmap]] = {
    view.__name__: view
    for view in (
        *(demo, rod, sentence, curves, bell, forms, lanes, boxes, box),
        *(panels, clusters, back_to_back, forward, variables),
        *(unequal, notice, export, dark, welcome),
    )
}


def draw_forms(folder: Path) -> None:
    """A small picture of every form, of the demo's shell lengths at three bays."""
    samples = gather(demo_table(), "Shell length", "Bay")
    folder.mkdir(exist_ok=True)
    for form in FORMS:
        readings = read(demo_recipe(), samples)
        scene = miniature(readings, form, *_SMALL)
        write_figure(scene, folder / f"{form}.svg")


def main(folder: Path = FOLDER, *names: str) -> None:
    application = QApplication(["rhabdos", *theme.PLAIN])
    theme.apply(application)
    for name in names or VIEWS:
        window = Window()
        window.resize(1280, 800)
        window.session.open_demo()
        window.show()
        settle()
        VIEWS[name](window).save(str(Path(folder) / f"{name}.png"))
        window.filing.may_close = lambda: True
        window.close()
    if not names:
        draw_forms(Path(folder).parent / "forms")


if __name__ == "__main__":
    main(*([Path(sys.argv[1]), *sys.argv[2:]] if len(sys.argv) > 1 else []))
