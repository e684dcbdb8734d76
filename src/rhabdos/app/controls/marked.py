"""Widgets that the style sheet dresses by a mark of theirs."""

from PyQt6.QtWidgets import QWidget


def mark(widget: QWidget, name: str, value: bool) -> None:
    """Set a mark, and let the style look at it anew, which Qt does not by itself."""
    if bool(widget.property(name)) != value:
        widget.setProperty(name, value)
        if style := widget.style():
            style.unpolish(widget)
            style.polish(widget)
