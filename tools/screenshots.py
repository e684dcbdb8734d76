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

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"


def settle() -> None:
    QTest.qWait(60)


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
    here, there = QPoint(round(held.x_of(60)), 8), QPoint(round(held.x_of(66)), 8)
    QTest.mousePress(held, Qt.MouseButton.LeftButton, pos=here)
    QTest.mouseMove(held, there)
    settle()
    picture = window.grab()
    QTest.mouseRelease(held, Qt.MouseButton.LeftButton, pos=there)
    return picture


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
    held = window.stage.bell
    here = QPoint(round(held.flank()), 12)
    QTest.mousePress(held, Qt.MouseButton.LeftButton, pos=here)
    QTest.mouseMove(held, here + QPoint(9, 0))
    settle()
    picture = window.grab()
    QTest.mouseRelease(held, Qt.MouseButton.LeftButton, pos=here + QPoint(9, 0))
    return picture


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
    for view in (demo, rod, sentence, curves, bell, forms, unequal, notice, export, dark, welcome)
}


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
        window.close()


if __name__ == "__main__":
    main(*([Path(sys.argv[1]), *sys.argv[2:]] if len(sys.argv) > 1 else []))
