"""What the Help menu opens."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMainWindow, QMessageBox

from rhabdos import __version__
from rhabdos.app.shell.keys import keys_text


def show_keys(window: QMainWindow) -> None:
    """The page of keys and gestures."""
    box = _box(window, "Keys and gestures")
    box.setTextFormat(Qt.TextFormat.RichText)
    box.setText(
        keys_text(
            {action.text(): action.shortcut().toString() for action in actions_with_keys(window)}
        )
    )
    box.open()


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
    bar = window.menuBar()
    for top in bar.actions() if bar else ():
        if menu := top.menu():
            actions += [action for action in menu.actions() if not action.shortcut().isEmpty()]
    return actions
