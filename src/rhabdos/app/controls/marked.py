"""Widgets that the style sheet dresses by a name or a mark of theirs."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget


def dressed_as(widget: QWidget, name: str) -> None:
    """Give a widget the ground and the border that the style sheet has under a name, which Qt
    paints for classes of its own only."""
    widget.setObjectName(name)
    widget.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)


def mark(widget: QWidget, name: str, value: bool) -> None:
    """Set a mark, and let the style look at it anew, which Qt does not by itself."""
    if bool(widget.property(name)) != value:
        widget.setProperty(name, value)
        if style := widget.style():
            style.unpolish(widget)
            style.polish(widget)
