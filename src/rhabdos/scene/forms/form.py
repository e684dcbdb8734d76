"""What the file of every form answers."""

from collections.abc import Callable, Sequence

from msgspec import Struct

from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe_strokes import Drawn
from rhabdos.scene.coordinates import Band, Frame
from rhabdos.scene.marks import Mark, Text
from rhabdos.scene.style.lettering import Measure
from rhabdos.scene.style.style import Style
from rhabdos.scene.words.label_places import Rect

SWAY_SHADE = 0.3
"""Opacity of shades that show where another sample would lie."""
Layers = tuple[list[Mark], list[Mark]]
"""Fills and lines: the lines of all groups lie above all fills, so that no fill dulls a line."""


class Drawing(Struct, frozen=True, eq=False):
    """What forms are drawn from, and where.

    Attributes
    ----------
    colours, inks : sequence of str
        Those of each group's fills, and of its lines that are ink: both quiet for groups that
        others are brought forward of.
    tones : sequence of int
        The number of each group's colour, which hatching and dashes follow.
    taken : tuple of Rect
        Where words may not lie.
    """

    readings: Readings
    frame: Frame
    style: Style
    colours: Sequence[str]
    inks: Sequence[str]
    tones: Sequence[int]
    measure: Measure
    taken: tuple[Rect, ...] = ()

    def stands_out(self, group: int) -> bool:
        """Whether a group is brought forward of others."""
        groups = self.readings.groups
        return groups[group].forward and not all(other.forward for other in groups)

    def stroke(
        self,
        drawn: Drawn,
        group: int,
        colour: str,
        width: float,
        dash: tuple[float, ...] | None = None,
    ) -> tuple[str, float, tuple[float, ...]]:
        """Colour, width and dash of a line of a group: as asked for, or else as given, and as the
        look dashes the group's lines; quiet where others are brought forward."""
        own = self.readings.recipe.strokes.of(drawn)
        if not self.readings.groups[group].forward:
            own = own.changed(colour=None)
        usual = self.style.dash_of(self.tones[group]) if dash is None else dash
        return self.style.stroked(own, colour, width, usual)

    def in_front(self, groups: Sequence[int]) -> list[int]:
        """Some groups, those that are brought forward last."""
        return sorted(groups, key=lambda group: self.readings.groups[group].forward)


class SceneForm(Struct, frozen=True):
    """How a form is drawn.

    Attributes
    ----------
    reach : callable
        The stretch of the value axis that it needs for some groups, or None where it draws
        nothing.
    layers : callable
        Its marks in a band, of the groups that are in it together.
    tallest : callable
        Its greatest height for some groups; 0 for what is drawn in a strip.
    words : callable, optional
        Its words in the frame, such as numbers on bars; they are drawn over all marks.
    note : callable, optional
        What it says under the figure of its marks, such as how many of the values they are.
    over : callable, optional
        How far words reach beyond its greatest height, in points; told whether the value axis
        stands, and how wide the narrowest bin is on the page.
    """

    reach: Callable[[Readings, Sequence[int]], tuple[float, float] | None]
    layers: Callable[[Drawing, Band, Sequence[int]], Layers]
    tallest: Callable[[Readings, Sequence[int]], float] = lambda _readings, _groups: 0.0
    words: Callable[[Drawing, Band, Sequence[int]], list[Text]] | None = None
    note: Callable[[Readings, Sequence[Mark]], str] | None = None
    over: Callable[[Readings, bool, float, Measure], float] | None = None
