"""What is painted by ourselves, as a screen reader hears it.

The binding of Qt cannot describe a widget of our own to the desktop's accessibility (AT-SPI); only
Qt's widgets are described. So over what we paint lies one of these: it paints nothing and takes no
click, but it has the focus, a role, and children with words and places. Its keys go on to what
lies under it.
"""

import math
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from msgspec import Struct
from PyQt6.QtCore import QAbstractListModel, QAbstractTableModel, QModelIndex, QRect, Qt, QTimer
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QPaintEvent, QPixmap, QWheelEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QAbstractScrollArea,
    QLabel,
    QListView,
    QSlider,
    QTableView,
    QWidget,
)
from PyQt6.sip import isdeleted

from rhabdos.wording import exact

_MOST = 2_000  # things that are listed one by one
_LATER = 120  # milliseconds after which a list is made anew, so that no hand waits for it

_LARGEST = 2.0e9  # whole numbers that a slider counts to
_NEAR_ENOUGH = 5e-3  # of a value, to which a slider tells it
_FINEST = 12  # decimal places

# The roles that a screen reader asks for.
_SPOKEN = (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole)


def be_a_picture(label: QLabel) -> None:
    """Let a label that paints itself be heard as a picture, which one with a picture is."""
    blank = QPixmap(1, 1)
    blank.fill(Qt.GlobalColor.transparent)
    label.setPixmap(blank)


class Spoken(Struct, frozen=True, eq=False):
    """Things that are painted one by one.

    Attributes
    ----------
    count : callable
        How many there are.
    words : callable
        What is said of one, by its number from 0.
    place : callable
        Where one lies in the widget that paints it.
    """

    count: Callable[[], int]
    words: Callable[[int], str]
    place: Callable[[int], QRect]


class _Words(QAbstractListModel):
    def __init__(self, spoken: Spoken, parent: QWidget) -> None:
        super().__init__(parent)
        self._spoken = spoken
        self._count = 0

    def renew(self) -> None:
        """Other things are there, or say something else."""
        self.beginResetModel()
        self._count = min(self._spoken.count(), _MOST)
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else self._count

    def has(self, index: QModelIndex) -> bool:
        """Whether one is there still: the list is made anew a moment after what it tells of."""
        return index.isValid() and index.row() < self._spoken.count()

    def data(self, index: QModelIndex, role: int = 0) -> str | None:
        asked = role in _SPOKEN and self.has(index)
        return self._spoken.words(index.row()) if asked else None


class Grid(Struct, frozen=True, eq=False):
    """Cells that are in sight.

    Attributes
    ----------
    rows, columns : callable
        How many are in sight.
    words : callable
        What stands in a cell, by its row and column in sight.
    heading : callable
        The name of a column.
    number : callable
        The name of a row.
    place : callable
        Where a cell lies in the viewport.
    """

    rows: Callable[[], int]
    columns: Callable[[], int]
    words: Callable[[int, int], str]
    heading: Callable[[int], str]
    number: Callable[[int], str]
    place: Callable[[int, int], QRect]


class _Cells(QAbstractTableModel):
    def __init__(self, grid: Grid, parent: QWidget) -> None:
        super().__init__(parent)
        self._grid = grid
        self._size = (0, 0)

    def renew(self) -> None:
        """Other cells are in sight."""
        self.beginResetModel()
        self._size = self._grid.rows(), self._grid.columns()
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else self._size[0]

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else self._size[1]

    def has(self, index: QModelIndex) -> bool:
        """Whether a cell is in sight still."""
        within = index.row() < self._grid.rows() and index.column() < self._grid.columns()
        return index.isValid() and within

    def data(self, index: QModelIndex, role: int = 0) -> str | None:
        asked = role in _SPOKEN and self.has(index)
        return self._grid.words(index.row(), index.column()) if asked else None

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> str | None:
        across = orientation == Qt.Orientation.Horizontal
        if role not in _SPOKEN or section >= (self._grid.columns if across else self._grid.rows)():
            return None
        return self._grid.heading(section) if across else self._grid.number(section)


if TYPE_CHECKING:
    _View = QAbstractItemView
else:  # two classes of Qt cannot be joined
    _View = object


class _Silent(_View):
    """What a list and a table have in common: they lie over what paints, and are seen by nobody."""

    _model: "_Words | _Cells"
    _over: QWidget

    def lie_over(self, name: str, model: "_Words | _Cells", over: QWidget) -> None:
        """Take the focus of a widget, and nothing else of it."""
        self._model, self._over = model, over
        self.setModel(model)
        self.setObjectName("heard")
        self.setAccessibleName(name)
        self.setFrameShape(QAbstractItemView.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        for each in (self, self.viewport()):
            if each is not None:
                # What lies under it is seen and takes the mouse; this is there to be heard.
                each.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
                each.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
                each.setAutoFillBackground(False)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        over.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        over.setFocusProxy(self)  # a screen reader follows the focus, so it lies on what is heard
        self._later = QTimer(self)
        # Several changes of one turn are told once.
        self._later.setSingleShot(True)
        self._later.setInterval(_LATER)
        self._later.timeout.connect(model.renew)

    def renew_later(self) -> None:
        """Tell of other things once nothing has changed for a moment."""
        self._later.start()

    def now(self) -> None:
        """Tell of them now, if that is due."""
        if self._later.isActive():
            self._later.stop()
            self._model.renew()

    def scrollTo(self, index: QModelIndex, hint: object = None) -> None:
        """What lies under it scrolls by itself."""

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Nothing."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Keys are for what lies under it."""
        if event is not None:
            event.ignore()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        if not isdeleted(self._over):  # Qt may tell of the focus while a window is taken down
            self._over.focusInEvent(event)
            self._painted().update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if not isdeleted(self._over):  # the window may be going
            self._over.focusOutEvent(event)
            self._painted().update()

    def _painted(self) -> QWidget:
        """What is painted on: the widget itself, or what scrolls in it."""
        within = self._over.viewport() if isinstance(self._over, QAbstractScrollArea) else None
        return within or self._over


class HeardList(_Silent, QListView):
    """Things one after the other, such as cards, or the parts of a figure.

    Parameters
    ----------
    on : QWidget
        Where it lies: the widget that paints, or its viewport.
    over : QWidget
        What paints, and takes keys.
    """

    def __init__(self, name: str, spoken: Spoken, on: QWidget, over: QWidget) -> None:
        super().__init__(on)
        self._spoken = spoken
        self.setUniformItemSizes(True)
        self.lie_over(name, _Words(spoken, self), over)

    def go_to(self, index: int) -> None:
        """Tell that another one is current."""
        self.now()
        self.setCurrentIndex(self._model.index(index, 0))

    def visualRect(self, index: QModelIndex) -> QRect:
        """Where one lies on the screen is where it is painted."""
        return self._spoken.place(index.row()) if self._model.has(index) else QRect()


class HeardTable(_Silent, QTableView):
    """Cells in rows and columns, those that are in sight; see HeardList."""

    def __init__(self, name: str, grid: Grid, on: QWidget, over: QWidget) -> None:
        super().__init__(on)
        self._grid = grid
        for header in (self.horizontalHeader(), self.verticalHeader()):
            if header is not None:
                header.hide()
        self.lie_over(name, _Cells(grid, self), over)

    def go_to(self, row: int, column: int) -> None:
        """Tell that another cell is current."""
        self.now()
        self.setCurrentIndex(self._model.index(row, column))

    def visualRect(self, index: QModelIndex) -> QRect:
        """Where one lies on the screen is where it is painted."""
        return self._grid.place(index.row(), index.column()) if self._model.has(index) else QRect()


class Standing(Struct, frozen=True):
    """A number that can be set.

    Attributes
    ----------
    what : str
        What it is of, in a word.
    value, low, high : float
        The number, and between which it lies.
    step : float
        By how much a key moves it.
    unit : str
        Its unit, if it has one.
    """

    what: str
    value: float
    low: float
    high: float
    step: float
    unit: str = ""


class HeardValue(QSlider):
    """A number that is set by hand, as a slider with its value, its range and its step.

    A slider of Qt counts in whole numbers, so it counts in parts of the unit that are fine enough
    for the value and the step; its name says which.
    """

    def __init__(self, name: str, parent: QWidget | None, takes: Callable[[float], object]) -> None:
        super().__init__(parent)
        self._called = name
        self._takes = takes
        self._part = 1.0
        self._telling = False
        self.setAccessibleName(name)
        self.valueChanged.connect(self._take)

    def show_value(self, standing: Standing) -> None:
        """Tell where it stands; what was typed may lie beyond where a hand can move it."""
        value, step = standing.value, standing.step
        low, high = min(standing.low, value), max(standing.high, value)
        self._part = part = _part_for(value, step, max(abs(low), abs(high)))
        counts = "" if part == 1 else f"{exact(part)} "
        told = f" in {counts}{standing.unit}".rstrip() if standing.unit or counts else ""
        self._telling = True
        self.setRange(math.floor(low / part), math.ceil(high / part))
        self.setSingleStep(max(1, round(step / part)))
        self.setPageStep(max(1, round(10 * step / part)))
        self.setValue(round(value / part))
        self._telling = False
        name = f"{self._called}, {standing.what}{told}" if standing.what else self._called + told
        if self.accessibleName() != name:
            self.setAccessibleName(name)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """A wheel scrolls what is around, and sets nothing."""
        if event is not None:
            event.ignore()

    def _take(self, value: int) -> None:
        if not self._telling:
            self._takes(value * self._part)


class HeardRange:
    """Both ends of a range that is marked on a widget, as sliders that nobody sees."""

    def __init__(self, name: str, on: QWidget, moves: Callable[[bool, float], object]) -> None:
        self._sliders = (
            _Unseen(f"Lower end of the {name}", on, partial(moves, False)),
            _Unseen(f"Upper end of the {name}", on, partial(moves, True)),
        )

    def show_ends(
        self, ends: tuple[float, float] | None, low: float, high: float, unit: str
    ) -> None:
        """Tell both ends, which lie on an axis from low to high; None where none is marked."""
        for slider, place in zip(self._sliders, (0, 1), strict=True):
            slider.setVisible(ends is not None)
            if ends is not None:
                step = (high - low) / 100
                slider.show_value(Standing("", ends[place], low, high, step, unit))


class _Unseen(HeardValue):
    def __init__(self, name: str, parent: QWidget, takes: Callable[[float], object]) -> None:
        super().__init__(name, parent, takes)
        self.setObjectName("heard")
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setGeometry(0, 0, 40, 10)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        """Nothing."""


def _part_for(value: float, step: float, most: float) -> float:
    """The largest power of ten, 1 at most where numbers are not too large for that, of which a
    value is a whole number and a step one or more."""
    part = 10.0 ** max(0, math.ceil(math.log10(max(most, 1.0) / _LARGEST)))
    for _ in range(_FINEST):
        # 0.3 / 0.1 is no whole number of doubles.
        whole = math.isclose(round(value / part), value / part, rel_tol=_NEAR_ENOUGH, abs_tol=1e-9)
        if (whole and step >= part * 0.999) or most / part * 10 > _LARGEST:
            break
        part /= 10
    return part
