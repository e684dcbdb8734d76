"""Windows with fields at the left and what comes of them at the right."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QHBoxLayout, QLayout, QPushButton, QVBoxLayout, QWidget


def pause(parent: QObject, milliseconds: int, then: Callable[[], object]) -> QTimer:
    """A timer that is started anew by each keystroke, and does something once they end."""
    timer = QTimer(parent)
    timer.setSingleShot(True)
    timer.setInterval(milliseconds)
    timer.timeout.connect(then)
    return timer


def lay_out_beside(
    window: QWidget,
    fields: QLayout,
    width: int,
    shown: Sequence[QWidget],
    buttons: Sequence[QPushButton | None],
) -> None:
    """Fields in a column of some width; beside it what is shown, the first of which has all free
    room, and buttons beneath, with room where there is none."""
    side = QWidget()
    side.setLayout(fields)
    side.setFixedWidth(width)
    row = QHBoxLayout()
    for button in buttons:
        if button is None:
            row.addStretch()
        else:
            row.addWidget(button)
    right = QVBoxLayout()
    for place, widget in enumerate(shown):
        right.addWidget(widget, 1 if place == 0 else 0)
    right.addLayout(row)
    layout = QHBoxLayout(window)
    layout.setContentsMargins(14, 12, 14, 12)
    layout.setSpacing(14)
    layout.addWidget(side)
    layout.addLayout(right, 1)
