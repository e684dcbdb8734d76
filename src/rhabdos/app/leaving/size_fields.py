"""The fields of a size: width, height and unit, or a common size by its name."""

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDoubleSpinBox, QLabel, QWidget

from rhabdos.app.controls.flow import put_in_lines
from rhabdos.app.controls.rows_and_columns import in_a_row
from rhabdos.app.controls.typed_fields import ChoiceBox
from rhabdos.figure.recipe.page_size import COMMON, UNITS, Size

_DECIMALS = {"cm": 2, "mm": 1, "in": 2, "px": 0}
_STEPS = {"cm": 0.5, "mm": 10.0, "in": 0.5, "px": 50.0}


class SizeFields(QWidget):
    """A size that is typed or chosen; another unit says the same size. Where there is little room,
    the common sizes stand beneath what is typed.

    Signals
    -------
    changed : the size may be another one.
    wrong : a sentence about a unit that it cannot be said in.
    """

    changed = pyqtSignal()
    wrong = pyqtSignal(str)

    def __init__(
        self, usual: Size, dpi: Callable[[], float], usual_words: str = "as the figure"
    ) -> None:
        super().__init__()
        self._usual, self._dpi, self._unit = usual, dpi, usual.unit
        self.width_, self.height_ = QDoubleSpinBox(), QDoubleSpinBox()
        for spin, name in ((self.width_, "Width"), (self.height_, "Height")):
            spin.setAccessibleName(name)
            spin.setRange(0.01, 100_000)
            spin.valueChanged.connect(self.changed)
        self.unit = ChoiceBox("Unit", ((unit, unit) for unit in UNITS))
        self.unit.activated.connect(self._change_unit)
        common = ((f"{name}, {size}", name) for name, size in COMMON.items())
        self.common = ChoiceBox("Common sizes", ((usual_words, None), *common))
        self.common.activated.connect(self._take_common)
        typed = QWidget()
        in_a_row(self.width_, QLabel("×"), self.height_, self.unit, gap=8, of=typed)
        put_in_lines(self, typed, self.common, apart=16)
        self.show_size(usual)

    @property
    def size_(self) -> Size:
        """The size as the fields say."""
        return Size(self.width_.value(), self.height_.value(), self.unit.currentText())

    def show_size(self, size: Size) -> None:
        """Fill in a size."""
        self._unit = size.unit
        self.unit.setCurrentText(size.unit)
        for spin, value in ((self.width_, size.width), (self.height_, size.height)):
            spin.setDecimals(_DECIMALS[size.unit])
            spin.setSingleStep(_STEPS[size.unit])
            spin.setValue(value)

    def _take_common(self, row: int) -> None:
        name = self.common.itemData(row)
        self.show_size(COMMON[name] if name else self._usual)

    def _change_unit(self) -> None:
        old = Size(self.width_.value(), self.height_.value(), self._unit)
        try:
            self.show_size(old.in_unit(self.unit.currentText(), self._dpi()))
        except ValueError as error:
            self.wrong.emit(f"{str(error)[0].upper()}{str(error)[1:]}.")
            self.unit.setCurrentText(self._unit)
