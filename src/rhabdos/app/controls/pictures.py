"""Buttons that show a small true picture of the figure that they lead to."""

from collections.abc import Callable

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QGridLayout, QToolButton, QWidget

from rhabdos.errors import Refusal
from rhabdos.paint.painter import paint, painter_on
from rhabdos.scene.marks import Scene

SIZE = QSize(92, 38)
_COLUMNS, _UNDER = 2, 7  # of pictures, and pixels under each row
PAUSE = 80  # milliseconds without a change after which pictures are painted


def picture_button(name: str, size: QSize = SIZE) -> QToolButton:
    """A button for a picture, which is pressed in where it is the present one."""
    button = QToolButton()
    button.setObjectName("picture")
    button.setAccessibleName(name)
    button.setCheckable(True)
    button.setIconSize(size)
    button.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    return button


class PictureGrid(QGridLayout):
    """Pictures side by side, each with what is said or ticked under it."""

    def __init__(self) -> None:
        super().__init__()
        self.setContentsMargins(0, 6, 0, 0)
        self.setHorizontalSpacing(10)
        self.setVerticalSpacing(1)
        self.setColumnStretch(_COLUMNS, 1)
        self._held = 0

    def add(self, picture: QToolButton, under: QWidget) -> None:
        """Put a picture in the next place, and a widget under it."""
        row, column = 3 * (self._held // _COLUMNS), self._held % _COLUMNS
        self.addWidget(picture, row, column)
        self.addWidget(under, row + 1, column)
        self.setRowMinimumHeight(row + 2, _UNDER)
        self._held += 1


def show_picture(button: QToolButton, drawn: Callable[[float, float], Scene]) -> None:
    """Paint a figure of so many points on a button; a refusal becomes its tip."""
    try:
        button.setIcon(picture_of(drawn, button.iconSize(), button))
    except Refusal as refusal:
        button.setToolTip(str(refusal))


def picture_of(drawn: Callable[[float, float], Scene], size: QSize, on: QWidget) -> QIcon:
    """A figure as a small picture for a widget.

    Raises
    ------
    Refusal
        It cannot be drawn.
    """
    ratio = on.devicePixelRatioF()
    picture = QPixmap(size * ratio)
    picture.setDevicePixelRatio(ratio)
    scene = drawn(size.width(), size.height())
    with painter_on(picture) as painter:
        paint(scene, painter)
    icon = QIcon(picture)
    icon.addPixmap(picture, QIcon.Mode.Selected)  # which Qt would tint
    return icon
