"""The ground and the border of words."""

import numpy as np

from rhabdos.figure.recipe.recipe_words import BoxedStyle
from rhabdos.scene.marks import Area, Mark, Meaning, Path
from rhabdos.scene.style.style import Style
from rhabdos.scene.words.label_places import Rect

_PADDING = 3.0  # points around letters that have a ground or a border
_LINE = 0.8  # points of a border


def padding(asked: BoxedStyle, style: Style) -> float:
    """What is left free around letters, in units of the page; nothing where nothing is around
    them."""
    if not asked.boxed:
        return 0.0
    return (_PADDING if asked.padding is None else asked.padding) / style.letters


def around(words: Rect, asked: BoxedStyle, style: Style, meaning: Meaning) -> list[Mark]:
    """A ground under words and a border around them, as asked for.

    Parameters
    ----------
    words : Rect
        What the letters take.
    """
    if not asked.boxed:
        return []
    free = padding(asked, style)
    left, top = words.left - free, words.top - free
    right, bottom = words.right + free, words.bottom + free
    corners = np.array([[left, top], [right, top], [right, bottom], [left, bottom], [left, top]])
    marks: list[Mark] = []
    if asked.ground is not None:
        marks.append(Area(corners, asked.ground, 1.0, meaning))
    if asked.border is not None:
        marks.append(Path(corners, asked.border, _LINE, 1.0, meaning))
    return marks
