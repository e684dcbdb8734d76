"""What is seen of a widget, as words: what it says, how it is laid out, and what it paints."""

import itertools
import re
from collections.abc import Iterator
from xml.etree import ElementTree

from PyQt6.QtCore import QAbstractListModel, QBuffer, QPoint, Qt
from PyQt6.QtGui import QAction, QPainter, QRegion
from PyQt6.QtSvg import QSvgGenerator
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractScrollArea,
    QAbstractSpinBox,
    QBoxLayout,
    QComboBox,
    QFormLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QPushButton,
    QTextEdit,
    QWidget,
)

from rhabdos.app.controls.font_field import FontField
from rhabdos.app.controls.heard import HeardList, HeardTable
from rhabdos.app.controls.small_figure import SmallFigure
from rhabdos.app.leaving.plate_page import PlatePage
from rhabdos.app.paper.canvas import Canvas
from rhabdos.app.rods.ruler import OnRod
from rhabdos.app.sentence.sentence_bar import SentenceBar

_SVG = "{http://www.w3.org/2000/svg}"
_PLACES = ("x", "y", "width", "height", "cx", "cy", "r", "points", "d")
_LETTERS = 12  # of painted words that are written; where they are cut hangs on a machine's fonts
_NUMBER = re.compile(r"-?\d+\.?\d*(?:e-?\d+)?")
_ROWS = 8  # of a list or a table, of which the words are written
_TOLD_ELSEWHERE = (Canvas, SentenceBar)  # by kept_figures, and by the phrases themselves
_PAINTED_ELSEWHERE = (
    SentenceBar,
    SmallFigure,
    PlatePage,
)  # words alone, and what kept_figures tell
_UNSEEN = (QMenu, HeardList, HeardTable)  # what is only heard is made once somebody listens


def in_sight(widget: QWidget) -> Iterator[str]:
    """What a widget and those in it say, in the order in which they were made."""
    said = _said(widget)
    if said and not isinstance(widget, _TOLD_ELSEWHERE):
        yield said
    if isinstance(widget, QAbstractItemView):
        yield from _rows_of(widget)
        return
    yield from _laid_out(widget)
    for child in widget.children():
        inside = isinstance(child, QWidget) and child.isVisible() and not child.isWindow()
        part = isinstance(widget, QComboBox | QAbstractSpinBox) and not isinstance(child, QLineEdit)
        if part or (isinstance(child, QWidget) and child.objectName().endswith("container")):
            continue  # Qt's own parts of what is scrolled, picked and counted
        if inside and not isinstance(child, _UNSEEN):
            yield from in_sight(child)


def _said(widget: QWidget) -> str:
    """The words and the state of one widget; nothing of one that has none."""
    said, tip = _text_of(widget), re.sub(r"<p [^>]*>|</p>", "", widget.toolTip())
    for whole in (widget.accessibleName(), tip):  # which is cut where there is no room for it
        said = whole if (said or isinstance(widget, QLabel)) and said.rstrip("…") in whole else said
    parts = [f"“{said}”"] * bool(said)
    for kind, text in (
        ("called", widget.accessibleName()),
        ("heard", widget.accessibleDescription()),
        ("tip", "" if isinstance(widget, OnRod) else tip),
    ):
        if text and text not in said:
            parts.append(f"{kind} “{text}”")
    if isinstance(widget, QAbstractButton) and widget.isCheckable():
        parts.append("on" if widget.isChecked() else "off")
    if not widget.isEnabled():
        parts.append("cannot be used")
    if isinstance(widget, QPushButton) and widget.isDefault():
        parts.append("by Return")
    return f"{type(widget).__name__} {' '.join(parts)}".replace("\n", " ⏎ ") if parts else ""


def _text_of(widget: QWidget) -> str:
    match widget:
        case QLabel() | QAbstractButton():
            return widget.text()
        case QLineEdit():
            empty = not widget.text() and widget.placeholderText()
            return f"{widget.text()}{f' ({empty})' if empty else ''}"
        case FontField():  # what others there are is another machine's
            return widget.currentText()
        case QComboBox():
            others = [widget.itemText(index) for index in range(widget.count())]
            return f"{widget.currentText()} of {others[:_ROWS]}"
        case QPlainTextEdit() | QTextEdit():
            return widget.toPlainText()
    return ""


def painted_in(widget: QWidget) -> Iterator[str]:
    """What our own widgets paint, and our own delegates in lists."""
    for each in (widget, *widget.findChildren(QWidget)):
        if not each.isVisible() or each.window() is not widget.window():
            continue
        if isinstance(each, QAbstractItemView):
            ours = type(each.itemDelegate()).__module__.startswith("rhabdos")
            if ours and each.accessibleName() != "Figures":  # whose pictures come one by one, later
                yield from painted(type(each).__name__, each.viewport())
        elif isinstance(each, _PAINTED_ELSEWHERE):
            continue
        elif isinstance(each, QAbstractScrollArea) and "paintEvent" in vars(type(each)):
            yield from painted(type(each).__name__, each.viewport())
        elif "paintEvent" in vars(type(each)) and type(each).__module__.startswith("rhabdos"):
            yield from painted(type(each).__name__, each)


def painted(name: str, widget: QWidget) -> Iterator[str]:
    """What a widget paints: each run of shapes of one kind and colour, with where they are."""
    for (kind, look), shapes in itertools.groupby(_shapes(widget), key=lambda shape: shape[:2]):
        places = [numbers for _, _, numbers in shapes]
        middle = [sum(at) / len(places) for at in zip(*places, strict=False)]
        if name == "Canvas":  # cards are as wide as their words
            yield f"  {name} paints {len(places)} {kind} {look}"
            continue
        told = " ".join(f"{at:.2f}" for at in (*places[0][:8], *places[-1][:8], *middle[:8]))
        yield f"  {name} paints {len(places)} {kind} {look} ~ {told}"


def _shapes(widget: QWidget) -> Iterator[tuple[str, str, list[float]]]:
    """Each shape with its colours, and the numbers of its places."""
    buffer, drawing = QBuffer(), QSvgGenerator()
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    drawing.setOutputDevice(buffer)
    drawing.setSize(widget.size())
    painter = QPainter(drawing)
    widget.render(painter, QPoint(), QRegion(), QWidget.RenderFlag(0))
    painter.end()
    for group in ElementTree.fromstring(bytes(buffer.data())).iter(f"{_SVG}g"):
        colours = [group.get(key) for key in ("fill", "stroke", "fill-opacity", "stroke-width")]
        moved = _NUMBER.findall(group.get("transform", ""))[4:6]
        for shape in group:
            if shape.tag == f"{_SVG}g":
                continue
            kept = {key: shape.get(key, "") for key in _PLACES}
            words = "".join(shape.itertext()).strip()[:_LETTERS]
            numbers = [float(n) for n in (*moved, *_NUMBER.findall(" ".join(kept.values())))]
            look = " ".join(str(colour) for colour in colours if colour)
            if shape.tag == f"{_SVG}text":  # where it begins hangs on its width
                numbers = [float(shape.get("y", "0"))]
                look = f"{look} {shape.get('font-size')} {shape.get('font-weight')} “{words}”"
            yield shape.tag.removeprefix(_SVG), look, numbers


def _laid_out(widget: QWidget) -> Iterator[str]:
    """How what is in a widget is laid out, and what bounds it has; of Qt's own parts nothing."""
    layout = widget.layout()
    if not isinstance(layout, QBoxLayout | QFormLayout):
        return
    yield f"  {type(widget).__name__} is laid out {_gaps(layout)}"
    yield from _laid_out_in(layout, "    ")


def _laid_out_in(layout: QBoxLayout | QFormLayout, indent: str) -> Iterator[str]:
    """The rows and columns in a layout, and those in them."""
    for index in range(layout.count()):
        item = layout.itemAt(index)
        if item is not None and isinstance(inner := item.layout(), QBoxLayout | QFormLayout):
            yield f"{indent}in it {_gaps(inner)}"
            yield from _laid_out_in(inner, f"{indent}  ")


def _gaps(layout: QBoxLayout | QFormLayout) -> str:
    around = layout.contentsMargins()
    said = [type(layout).__name__, around.left(), around.top(), around.right(), around.bottom()]
    if isinstance(layout, QFormLayout):
        said += [layout.horizontalSpacing(), layout.verticalSpacing(), layout.labelAlignment().name]
    else:
        said += [layout.spacing(), layout.count()]
    return " ".join(map(str, said))


def _rows_of(view: QAbstractItemView) -> Iterator[str]:
    """The first rows of a list or a table, and what is told of them."""
    model = view.model()
    if model is None:
        return
    several = not isinstance(model, QAbstractListModel)  # which hides how many columns it has
    across = range(min(model.columnCount(), _ROWS) if several else 1)
    heads = [model.headerData(at, Qt.Orientation.Horizontal) for at in across]
    yield f"  {type(view).__name__} {model.rowCount()} {heads}"
    for row in range(min(model.rowCount(), _ROWS)):
        cells = [model.index(row, column) for column in across]
        yield f"  | {' | '.join(_cell(cell) for cell in cells)}".replace("\n", " ⏎ ")


def _cell(cell) -> str:
    role = Qt.ItemDataRole
    said = [str(cell.data() or "")]
    for kind in (role.ToolTipRole, role.AccessibleTextRole, role.CheckStateRole):
        value = cell.data(kind)
        if value not in (None, "", said[0]):
            said.append(f"{kind.name.removesuffix('Role')} {value}")
    return "; ".join(said)


def entries(actions: list[QAction], above: str = "") -> Iterator[str]:
    """The entries of a menu, and of those that it opens."""
    for action in actions:
        name = f"{above}{action.text()}"
        if "Recent" in name:  # those of other tests
            continue
        if menu := action.menu():
            menu.aboutToShow.emit()
            yield from entries(menu.actions(), f"{name} › ")
        elif action.text():
            keys = " ".join(keys.toString() for keys in action.shortcuts())
            state = " ".join(
                word
                for word, holds in (
                    (keys, keys),
                    ("on", action.isChecked()),
                    ("cannot be used", not action.isEnabled()),
                    ("not there", not action.isVisible()),
                    (action.toolTip(), action.toolTip() != action.iconText()),
                )
                if holds
            )
            yield f"menu {name} {state}".rstrip()
