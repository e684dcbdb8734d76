"""A colour: shown, typed as hexadecimal digits or by name, or picked."""

import re

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QIcon, QPixmap
from PyQt6.QtWidgets import QColorDialog, QToolButton, QWidget

from rhabdos.app.controls.rows_and_columns import in_a_row
from rhabdos.app.controls.typed_fields import Field

_HEX = re.compile(r"#?([0-9A-Fa-f]{6}|[0-9A-Fa-f]{3})")
_SIDE = 16  # pixels of the square


def read_colour(text: str) -> str | None:
    """A colour as people type it: its digits with # or without, or its name on the web (CSS Color
    Module Level 4); None where it is none."""
    match = _HEX.fullmatch(text.strip())
    if not match:
        return _named(text.strip().lower())
    digits = match[1]
    if len(digits) == 3:
        digits = "".join(2 * digit for digit in digits)
    return f"#{digits.upper()}"


def _named(name: str) -> str | None:
    from coloraide import Color  # which few fields need

    if not name.isalpha() or name == "transparent":
        return None
    try:
        return Color(name).convert("srgb").to_string(hex=True).upper()
    except ValueError:
        return None


def swatch(colour: str, side: int = _SIDE) -> QIcon:
    """A small square of a colour."""
    picture = QPixmap(side, side)
    picture.fill(QColor(colour))
    return QIcon(picture)


class ColourField(QWidget):
    """A square of the colour, which opens a picker, and a field with its hexadecimal digits.

    ``picked`` tells the new colour, or "" for the usual one.
    """

    picked = pyqtSignal(str)
    wrong = pyqtSignal(str)

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._name = name
        self._colour = "#000000"
        self.square = QToolButton()
        self.square.setObjectName("swatch")
        self.square.setAccessibleName(f"{name}: pick")
        self.square.setIconSize(QSize(_SIDE, _SIDE))
        self.square.clicked.connect(self.pick)
        self.field = Field(name)
        self.field.entered.connect(self._enter)
        self.setFocusProxy(self.field)
        in_a_row(self.square, (self.field, 1), gap=5, of=self)

    def show_colour(self, colour: str, own: bool) -> None:
        """Show the colour in use; in the field only where it is the figure's ``own``."""
        self._colour = colour
        self.square.setIcon(swatch(colour))
        self.field.show_value(colour if own else "")
        self.field.setPlaceholderText(colour)

    def pick(self) -> None:
        """Open the picker."""
        dialog = QColorDialog(QColor(self._colour), self.window())
        # A desktop's own picker is another on each of them.
        dialog.setOption(QColorDialog.ColorDialogOption.DontUseNativeDialog)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.setWindowTitle(self._name)
        dialog.colorSelected.connect(lambda colour: self.picked.emit(colour.name().upper()))
        dialog.open()

    def _enter(self, text: str) -> None:
        colour = read_colour(text) if text else ""
        if colour is None:
            self.field.mark_wrong(True)
            self.wrong.emit(
                "A colour is a name of the web, such as teal, or six hexadecimal digits, such as "
                "#1F838A."
            )
            return
        self.picked.emit(colour)
