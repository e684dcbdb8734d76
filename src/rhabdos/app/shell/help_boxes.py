"""What the Help menu opens."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QMainWindow,
    QMenuBar,
    QMessageBox,
    QTextBrowser,
)

from rhabdos import __version__
from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.controls.theme import sized
from rhabdos.app.shell.keys import keys_text


def show_keys(window: QMainWindow) -> None:
    """The page of keys and gestures, which scrolls in whatever window there is."""
    page = QTextBrowser()
    page.setAccessibleName("Keys and gestures")
    page.setFrameShape(QTextBrowser.Shape.NoFrame)
    actions = actions_with_keys(window)  # whose words hold marks of letters, but for these
    page.setHtml(keys_text({a.iconText(): a.shortcut().toString() for a in actions}))
    dialog = QDialog(window)
    dialog.setWindowTitle("Keys and gestures")
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
    buttons.rejected.connect(dialog.reject)
    in_a_column((page, 1), buttons, around=(16, 12, 16, 12), gap=8, of=dialog)
    dialog.resize(
        min(sized(760), window.width() - 40), min(sized(680), max(320, window.height() - 60))
    )
    page.setFocus()
    dialog.open()


def show_about(window: QMainWindow) -> None:
    """What this is."""
    box = _box(window, "About Rhabdos")
    box.setText(
        f"Rhabdos {__version__}\n\nNamed after the rod along which values lie: "
        "histograms of numeric variables, and how they differ from group to group."
    )
    box.open()


def _box(window: QMainWindow, title: str) -> QMessageBox:
    box = QMessageBox(QMessageBox.Icon.NoIcon, title, "", QMessageBox.StandardButton.Ok, window)
    box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    return box


def actions_with_keys(window: QMainWindow) -> list[QAction]:
    """The menu entries that a key reaches."""
    actions: list[QAction] = []
    bar = window.findChild(QMenuBar)
    for top in bar.actions() if bar else ():
        if menu := top.menu():
            actions += [action for action in menu.actions() if not action.shortcut().isEmpty()]
    return actions
