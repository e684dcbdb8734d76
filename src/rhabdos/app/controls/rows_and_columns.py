"""Widgets side by side and one under another, and the order in which Tab goes through them."""

from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import TypeVar

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QBoxLayout,
    QHBoxLayout,
    QLayout,
    QScrollArea,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

_Thing = QWidget | QLayout
Part = _Thing | tuple[_Thing, int] | tuple[_Thing, int, Qt.AlignmentFlag] | int | None
"""A thing, alone or with its share of free room and where it stands in that; so many pixels; free
room."""
_Lines = TypeVar("_Lines", bound=QBoxLayout)
_Around = tuple[int, int, int, int]
_NONE = (0, 0, 0, 0)


def in_a_row(
    *parts: Part, around: _Around = _NONE, gap: int | None = None, of: QWidget | None = None
) -> QHBoxLayout:
    """Parts from left to right.

    Parameters
    ----------
    around : sequence of int
        Pixels at the left, above, at the right and below.
    gap : int
        Pixels from part to part; as the style has them if not given.
    of : QWidget
        Which holds them.
    """
    return _filled(QHBoxLayout(of), parts, around, gap)


def in_a_column(
    *parts: Part, around: _Around = _NONE, gap: int | None = None, of: QWidget | None = None
) -> QVBoxLayout:
    """The same from top to bottom."""
    return _filled(QVBoxLayout(of), parts, around, gap)


def _filled(lines: _Lines, parts: Sequence[Part], around: _Around, gap: int | None) -> _Lines:
    lines.setContentsMargins(*around)
    if gap is not None:
        lines.setSpacing(gap)
    for part in parts:
        if part is None:
            lines.addStretch()
        elif isinstance(part, int):
            lines.addSpacing(part)
        else:
            item, share, *at = part if isinstance(part, tuple) else (part, 0)
            if isinstance(item, QLayout):
                lines.addLayout(item, share)
            else:
                lines.addWidget(item, share, *at)
    return lines


def keys_in(of: QWidget) -> QWidget | None:
    """What in a widget has the keys of its window; None where they are elsewhere."""
    window = of.window()
    held = None if window is None else window.focusWidget()
    return held if held is not None and of.isAncestorOf(held) else None


def give_keys(of: QWidget) -> None:
    """Give the keys to the first part of a widget that takes them."""
    for part in _within(of):
        if part.isEnabled() and part.isVisibleTo(of):
            part.setFocus(Qt.FocusReason.TabFocusReason)
            return


def tab_in_order(of: QWidget) -> None:
    """Let Tab go through what is in a widget as it is laid out; by itself it goes as things were
    made, and what came later, such as another condition, would follow the buttons below it."""
    for before, after in pairwise(list(_within(of))):
        QWidget.setTabOrder(before, after)


def _within(widget: QWidget) -> Iterator[QWidget]:
    """What takes keys in a widget, in the order in which that is read."""
    if isinstance(widget, QScrollArea) and (inside := widget.widget()) is not None:
        yield from _within(inside)
    elif isinstance(widget, QSplitter):
        for at in range(widget.count()):
            if (part := widget.widget(at)) is not None:
                yield from _within(part)
    else:
        if widget.focusPolicy() & Qt.FocusPolicy.TabFocus:
            yield widget
        if (layout := widget.layout()) is not None:
            yield from _laid_out_in(layout)


def _laid_out_in(layout: QLayout) -> Iterator[QWidget]:
    for at in range(layout.count()):
        item = layout.itemAt(at)
        if item is None:
            continue
        if (widget := item.widget()) is not None:
            yield from _within(widget)
        elif (inner := item.layout()) is not None:
            yield from _laid_out_in(inner)
