"""Windows with fields at the left and what comes of them at the right."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QLayout, QPushButton, QWidget

from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.theme import sized

_BAR = 10  # pixels of a bar that scrolls
_WIDEST = 460  # pixels of fields, however large letters are


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
    """Fields in a column of some width, which scrolls where letters are large; beside it what is
    shown, the first of which has all free room, and buttons beneath both, with room where there is
    none."""
    from rhabdos.app.controls.typed_fields import scrolled

    column = QWidget()
    column.setLayout(fields)
    # Fields that want more are made narrower, and none is cut.
    wide = max(width, min(sized(width), _WIDEST), column.minimumSizeHint().width())
    column.setFixedWidth(wide)
    side = scrolled(column)
    side.setFixedWidth(wide + _BAR)
    right = in_a_column((shown[0], 1), *shown[1:])
    both = in_a_row(side, (right, 1), gap=14)
    in_a_column((both, 1), in_a_row(*buttons), around=(14, 12, 14, 12), gap=10, of=window)
