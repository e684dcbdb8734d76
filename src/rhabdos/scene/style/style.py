"""The look of a figure as a value: layout is given it, and has no colour of its own."""

from collections.abc import Mapping
from functools import lru_cache
from typing import Literal

from msgspec import Struct

from rhabdos.figure.recipe.recipe_strokes import Stroke
from rhabdos.figure.recipe.recipe_words import BoxedStyle, Lettering, LetterStyle
from rhabdos.scene.style.lettering import Face
from rhabdos.scene.style.palette import (
    HAIRLINE,
    INK,
    PAPER,
    QUIET,
    RECEDED,
    group_colours,
    more_readable,
    palette_colours,
    readable,
)

WordsKind = Literal[
    "title", "subtitle", "note", "value_axis", "height_axis", "legend_title", "levels", "panels",
    "numbers", "text",
]  # fmt: skip
USUAL: dict[WordsKind, tuple[float, bool, Literal["ink", "quiet"]]] = {
    "title": (12.5, True, "ink"),
    "subtitle": (9.5, False, "quiet"),
    "note": (7.5, False, "quiet"),
    "value_axis": (9.0, False, "ink"),
    "height_axis": (9.0, False, "ink"),
    "legend_title": (8.5, False, "quiet"),
    "levels": (8.5, False, "ink"),
    "panels": (8.5, True, "ink"),
    "numbers": (8.5, False, "ink"),
    "text": (8.5, False, "ink"),
}
"""Size in points, weight and colour of words, where nothing else is asked for."""


class Style(Struct, frozen=True):
    """Colours, widths in points and opacities of all that is drawn.

    Attributes
    ----------
    palette : str or tuple of str
        The name of a palette, or the colours of the first groups; more get colours of their own.
    own : tuple of (level, colour)
        Colours that single levels have been given.
    ground : str
        The colour of frames, or nothing where they are as the paper.
    opacity : float, optional
        How opaque fills are, instead of what follows.
    alone, least_together, together, step : float
        How opaque bars are: one group alone; of several ``together``, less by a ``step`` a group.
    forward : float
        How opaque they are at least where one is brought forward of others.
    letters : float
        How many times as large letters are: so many points is a unit of the page.
    lettering : Lettering
        How words are asked to be set.
    """

    paper: str = PAPER
    ink: str = INK
    quiet: str = QUIET
    hairline: str = HAIRLINE
    palette: str | tuple[str, ...] = "reef"
    own: tuple[tuple[str, str], ...] = ()
    ground: str = ""
    opacity: float | None = None
    outline: float = 1.0
    fine_outline: float = 0.35
    curve: float = 1.4
    box_line: float = 0.8
    median_line: float = 1.8
    grid_line: float = 0.6
    axis_line: float = 0.8
    alone: float = 0.82
    together: float = 0.25
    step: float = 0.03
    forward: float = 0.5
    least_together: float = 0.09
    curve_fill: float = 0.22
    stacked_fill: float = 0.6
    receded: str = RECEDED
    box_fill: float = 0.42
    point_fill: float = 0.5
    dot: float = 3.4
    point: float = 2.4
    point_shape: str = "disc"
    dashes: str = "whole"
    hatching: bool = False
    font: str = ""
    letters: float = 1.0
    lettering: Lettering = Lettering()

    def face(
        self,
        words: WordsKind,
        asked: LetterStyle | None = None,
        size: float | None = None,
        bold: bool | None = None,
        colour: str = "",
    ) -> Face:
        """How words are set: as asked for, and otherwise as usual.

        Parameters
        ----------
        asked : LetterStyle, optional
            Instead of what all such words are asked to be.
        size, bold, colour : optional
            What is usual here, where that is not what is usual of such words.
        """
        usual_size, usual_bold, ink = USUAL[words]
        if asked is None:
            asked = getattr(self.lettering, words)
            assert asked is not None
        if asked.size is not None:
            size = asked.size / self.letters  # points are points, however large other letters are
        usual_bold = usual_bold if bold is None else bold
        usual_colour = self.ink if ink == "ink" else self.quiet
        return Face(
            usual_size if size is None else size,
            usual_bold if asked.bold is None else asked.bold,
            asked.slant,
            asked.colour or self._on_ground(asked, colour or usual_colour),
        )

    def _on_ground(self, asked: LetterStyle, usual: str) -> str:
        """What letters of no colour of their own have on a ground of their own: as much lighter or
        darker than usual as it takes to read them there."""
        ground = asked.ground if isinstance(asked, BoxedStyle) else None
        if ground is None:
            return usual
        return readable(usual, ground, more_readable(self.ink, self.paper, ground))

    def colours(self, count: int) -> tuple[str, ...]:
        """A colour for each of so many groups, all different."""
        if isinstance(self.palette, str):
            return palette_colours(self.palette, count)
        return _own_colours(self.palette, count)

    def dash_of(self, group: int) -> tuple[float, ...]:
        """How the lines of a group are dashed: drawn and left out by turns, in points."""
        if self.dashes == "by-group":
            return _DASHES[group % len(_DASHES)]
        return DASHES[self.dashes]

    def stroked(
        self, own: Stroke, colour: str, width: float, dash: tuple[float, ...]
    ) -> tuple[str, float, tuple[float, ...]]:
        """Colour, width and dash of a line: as asked for, or else as given."""
        if own.width is not None:
            width = own.width / self.letters  # points are points, whatever letters are
        return own.colour or colour, width, dash if own.dash is None else DASHES[own.dash]

    def hatch_of(self, group: int) -> int:
        """The number of the hatching of a group's fills; 0 for none."""
        return 1 + group % HATCHES if self.hatching else 0

    def filled(self, usual: float) -> float:
        """How opaque a fill is: as asked for, or as usual; under hatching hardly at all."""
        if self.hatching:
            return min(usual, _UNDER_HATCHING) if self.opacity is None else self.opacity
        return usual if self.opacity is None else self.opacity

    def bar_fill(self, groups: int) -> float:
        """How opaque the bars of a group are, of so many that lie over one another."""
        if self.opacity is not None or self.hatching:
            return self.filled(self.alone) if groups == 1 else self.filled(0.5) * 0.7
        if groups == 1:
            return self.alone
        return max(self.least_together, self.together - self.step * groups)


DASHES: Mapping[str, tuple[float, ...]] = {
    "whole": (), "dashed": (5.0, 3.0), "dotted": (1.2, 2.2),
}  # fmt: skip
HATCHES = 6  # that can be told apart in grey
"""Kinds of hatching: aslant, the other way, crossed, level, upright, and both."""
_DASHES: tuple[tuple[float, ...], ...] = (
    (), (6.0, 2.5), (1.2, 2.0), (7.0, 2.0, 1.2, 2.0), (3.0, 1.5), (9.0, 2.0, 3.0, 2.0),
)  # fmt: skip
_UNDER_HATCHING = 0.12  # opacity of a fill, so that the hatching carries the group
HOUSE = Style()


@lru_cache  # each step of a hand colours the groups again
def _own_colours(palette: tuple[str, ...], count: int) -> tuple[str, ...]:
    if count <= len(palette):
        return palette[:count]
    return palette + group_colours(count + len(palette))[len(palette) : count]
