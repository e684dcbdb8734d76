"""Printing with a preview: the figure in its true size on the printer's paper."""

from collections.abc import Callable

from PyQt6.QtCore import QMarginsF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QPageLayout, QPainter
from PyQt6.QtPrintSupport import QPrinter, QPrintPreviewDialog, QPrintPreviewWidget
from PyQt6.QtWidgets import QComboBox, QLabel, QLineEdit, QWidget

from rhabdos.app.controls.theme import sized
from rhabdos.paint.painter import paint
from rhabdos.quoting import printable
from rhabdos.scene.marks import Scene

_EDGE = 12.0  # mm of paper left free
_ZOOM = 104  # pixels, for “100 %” in Qt's own box


def preview(scene: Scene, window: QWidget, tell: Callable[[str], object]) -> QPrintPreviewDialog:
    """A preview of a figure on paper, from which it is printed."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setDocName(printable(scene.name)[:120])
    wide, high = scene.points
    if wide > high:
        printer.setPageOrientation(QPageLayout.Orientation.Landscape)
    printer.setPageMargins(QMarginsF(_EDGE, _EDGE, _EDGE, _EDGE), QPageLayout.Unit.Millimeter)
    if not fits(printer, scene):
        tell("The figure is larger than the paper: it is printed smaller. Choose another size.")
    return _Preview(printer, scene, window)


class _Preview(QPrintPreviewDialog):
    """Holds its printer, which Qt does not."""

    def __init__(self, printer: QPrinter, scene: Scene, window: QWidget) -> None:
        super().__init__(printer, window)
        self._printer = printer
        self._scene = scene
        self.paintRequested.connect(self._paint_on)
        self._name_parts()
        self.resize(sized(900), sized(680))

    def _name_parts(self) -> None:
        """Say what Qt's fields are for, which have no names; the paper itself takes no keys."""
        for zoom in self.findChildren(QComboBox):
            label = QLabel("Zoom", zoom.parentWidget())
            label.setBuddy(zoom)
            label.hide()
            zoom.setMinimumWidth(sized(_ZOOM))  # Qt measures it without our letters and padding
            if (typed := zoom.lineEdit()) is not None:
                typed.setAccessibleName("Zoom")
        for field in self.findChildren(QLineEdit):
            if not field.accessibleName():
                field.setAccessibleName("Page")
        for paper in self.findChildren(QPrintPreviewWidget):
            for widget in (paper, *paper.findChildren(QWidget)):
                widget.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def _paint_on(self, printer: QPrinter | None) -> None:
        """Paint, and say in the title where the paper that is chosen is too small."""
        if printer is not None:
            smaller = "" if fits(printer, self._scene) else ", smaller than it is: it has no room"
            self.setWindowTitle(f"Print figure{smaller}")
            print_on(printer, self._scene)


def room_on(printer: QPrinter) -> QSizeF:
    """The part of the paper that may be printed on, in points."""
    return printer.pageLayout().paintRect(QPageLayout.Unit.Point).size()


def fits(printer: QPrinter, scene: Scene) -> bool:
    """Whether the paper is large enough for the figure."""
    room, (wide, high) = room_on(printer), scene.points
    return wide <= room.width() + 1 and high <= room.height() + 1


def print_on(printer: QPrinter, scene: Scene) -> None:
    """Paint a figure on paper: a centimetre is a centimetre; smaller only where it has no room."""
    room, (wide, high) = room_on(printer), scene.points
    shrunk = min(1.0, room.width() / wide, room.height() / high)
    painter = QPainter(printer)
    dots = printer.resolution() / 72
    painter.scale(dots * shrunk * scene.letters, dots * shrunk * scene.letters)
    painter.setClipRect(QRectF(0, 0, scene.width, scene.height))
    paint(scene, painter)
    painter.end()
