"""Marks on a page: all that a figure is made of when it is drawn."""

from collections.abc import Callable
from typing import Literal

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.scene.coordinates import Frame

Part = str
"""A part of the figure: that of a form, "centre", "lane", "factor" (what lanes are levels of), an
axis, "title", "legend", "note"."""
Shape = Literal["ring", "disc", "diamond", "circle", "square", "cross"]
Anchor = Literal["start", "middle", "end"]


class Meaning(Struct, frozen=True):
    """What a mark stands for: a part of the figure, and the group or the level that it shows."""

    part: Part
    group: int | None = None
    level: str | None = None


class Area(Struct, frozen=True, eq=False):
    """A filled polygon; ``points`` has shape (n, 2), in points from the page's top left.

    ``smooth`` says that its edges slant or bend; otherwise they are level and upright, and lie on
    whole pixels. ``hatch`` is the number of its hatching, 0 for none. ``bars``, of shape (k, 4),
    are two opposite corners of each of the rectangles that it consists of: of polygons in many
    parts, a painter fills a line of pixels at a time.
    """

    points: FloatArray
    fill: str
    opacity: float
    meaning: Meaning
    smooth: bool = False
    hatch: int = 0
    bars: FloatArray | None = None


class Path(Struct, frozen=True, eq=False):
    """A line through points of shape (n, 2), level and upright unless it is ``smooth``."""

    points: FloatArray
    colour: str
    width: float
    opacity: float
    meaning: Meaning
    smooth: bool = False
    dash: tuple[float, ...] = ()


class Segments(Struct, frozen=True, eq=False):
    """Separate straight lines of shape (n, 4): x1, y1, x2, y2 each; level or upright unless they
    are ``smooth``.

    ``dash`` tells how much is drawn and left out by turns, in points.
    """

    lines: FloatArray
    colour: str
    width: float
    opacity: float
    meaning: Meaning | None
    dash: tuple[float, ...] = ()
    smooth: bool = False


class Dots(Struct, frozen=True, eq=False):
    """The same small shape at many places of shape (n, 2): a ring, a disc, or a marker on paper.

    ``size`` is its diameter. Rings are open, discs filled and see-through by ``opacity``; markers
    (diamond, circle, square) are filled with ``fill`` and outlined.
    """

    places: FloatArray
    shape: Shape
    size: float
    colour: str
    opacity: float
    meaning: Meaning
    fill: str = ""
    width: float = 0.8


class Swatch(Struct, frozen=True):
    """A small square with its left top at (x, y), filled see-through and outlined."""

    x: float
    y: float
    size: float
    colour: str
    opacity: float
    meaning: Meaning
    hatch: int = 0


class Text(Struct, frozen=True):
    """One line of text; (x, y) is its anchor on the base line, ``angle`` turns it anticlockwise
    about that."""

    x: float
    y: float
    text: str
    size: float
    anchor: Anchor
    colour: str
    meaning: Meaning | None
    bold: bool = False
    angle: float = 0.0
    slant: bool = False


class Zone(Struct, frozen=True):
    """A rectangle of the page that stands for a part of the figure, for pointing at."""

    left: float
    top: float
    right: float
    bottom: float
    meaning: Meaning

    def holds(self, x: float, y: float) -> bool:
        """Whether a place on the page lies in it."""
        return self.left <= x <= self.right and self.top <= y <= self.bottom


Mark = Area | Path | Segments | Dots | Swatch | Text


class Scene(Struct, frozen=True, eq=False):
    """A figure on its page.

    Attributes
    ----------
    width, height : float
        Of the page, in units of ``letters`` points.
    marks : tuple
        In the order in which they are drawn.
    frames : tuple of Frame
        One a panel.
    zones : tuple of Zone
        What the parts of the page mean; the later ones lie on top.
    describe : callable
        Gives the figure in words, for files and screen readers.
    paper, font : str
        The colour of the ground, and the family of letters; nothing for the usual one.
    letters : float
        How many points a unit is: letters and lines that much larger than usual.
    groups : tuple of str
        What the groups are called.
    left_out : tuple of str
        Parts of the figure of which words found no room on the page.
    title : str
        What stands over the figure, in one line of plain letters.
    cut : (float, float), optional
        Where an axis of heights ends, and how far the heights reach that it cuts.
    """

    width: float
    height: float
    marks: tuple[Mark, ...]
    zones: tuple[Zone, ...]
    frames: tuple[Frame, ...]
    describe: Callable[[], str]
    paper: str = "#FFFFFF"
    font: str = ""
    letters: float = 1.0
    groups: tuple[str, ...] = ()
    left_out: tuple[str, ...] = ()
    title: str = ""
    cut: tuple[float, float] | None = None

    @property
    def points(self) -> tuple[float, float]:
        """Width and height of the page in points."""
        return self.width * self.letters, self.height * self.letters

    @property
    def name(self) -> str:
        """What a file of it is called within: its title, or what it shows."""
        return self.title or self.describe().partition(". ")[0].removesuffix(".")

    @property
    def frame(self) -> Frame:
        """The frame of the first panel, along which the rod is laid."""
        return self.frames[0]

    def frame_at(self, x: float, y: float) -> Frame | None:
        """The frame that holds a place on the page."""
        return next((frame for frame in self.frames if frame.holds(x, y)), None)

    def line_at(self, x: float, y: float, near: float) -> Meaning | None:
        """The slanting or bent line that passes a place at most so far across the value axis.

        The nearest one, where there are several.
        """
        along, across = self.frame.back(x, y)
        passing = []
        for index, mark in enumerate(self.marks):
            if not isinstance(mark, Path) or not mark.smooth or not len(mark.points):
                continue
            alongs, acrosses = self.frame.backs(mark.points)
            if alongs[0] > alongs[-1]:
                alongs, acrosses = alongs[::-1], acrosses[::-1]
            if alongs[0] <= along <= alongs[-1]:
                passing.append((abs(float(np.interp(along, alongs, acrosses)) - across), index))
        distance, index = min(passing, default=(near + 1, 0))
        mark = self.marks[index]
        return mark.meaning if distance <= near and isinstance(mark, Path) else None

    def meaning_at(self, x: float, y: float) -> Meaning | None:
        """What the topmost zone at a place means."""
        for zone in reversed(self.zones):
            if zone.holds(x, y):
                return zone.meaning
        return None
