"""Buttons that read as words rather than as keys."""

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QToolButton


def word_button(
    words: str, deed: Callable[[], object] | None = None, looks: str = "choice"
) -> QToolButton:
    """A button that is reached by key as well, and does a deed when it is clicked.

    Parameters
    ----------
    looks : str
        The name under which the style sheet dresses it.
    """
    button = QToolButton()
    button.setObjectName(looks)
    button.setText(words)
    button.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    if deed is not None:
        button.clicked.connect(lambda _checked: deed())
    return button
