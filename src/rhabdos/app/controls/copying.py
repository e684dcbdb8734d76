"""Ctrl+C in rows and lists, which elsewhere in the window copies the figure."""

from PyQt6.QtCore import QEvent
from PyQt6.QtGui import QKeyEvent, QKeySequence


def keeps_copy(event: QEvent | None) -> bool:
    """Whether an event asks who has a use for Ctrl+C; then it is taken."""
    if (
        isinstance(event, QKeyEvent)
        and event.type() == QEvent.Type.ShortcutOverride
        and event.matches(QKeySequence.StandardKey.Copy)
    ):
        event.accept()
        return True
    return False


def is_copy(event: QKeyEvent | None) -> bool:
    """Whether keys ask for a copy."""
    return event is not None and event.matches(QKeySequence.StandardKey.Copy)
