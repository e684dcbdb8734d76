"""Widgets side by side and one under another."""

from collections.abc import Sequence
from typing import TypeVar

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QBoxLayout, QHBoxLayout, QLayout, QVBoxLayout, QWidget

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
