"""What a recipe asks of the lines of each form."""

from typing import Annotated, Literal

from msgspec import Meta

from rhabdos.figure.recipe.recipe_look import Width
from rhabdos.figure.recipe.recipe_part import Colour, Part

Dash = Literal["whole", "dashed", "dotted"]
Drawn = Literal[
    "curve", "normal", "polygon", "ecdf", "bars", "box", "median", "mean_line", "median_line"
]


class Stroke(Part, frozen=True):
    """A line of a form; None stands for the group's colour, and for what the look has."""

    colour: Colour | None = None
    width: Width | None = None
    dash: Annotated[Dash, Meta(description="whole, dashed or dotted")] | None = None


class Strokes(Part, frozen=True):
    """The lines of curves, the outlines of bars, the lines of boxes, and those at the mean and the
    median of each group."""

    curve: Stroke = Stroke()
    normal: Stroke = Stroke()
    polygon: Stroke = Stroke()
    ecdf: Stroke = Stroke()
    bars: Stroke = Stroke()
    box: Stroke = Stroke()
    median: Stroke = Stroke()
    mean_line: Stroke = Stroke()
    median_line: Stroke = Stroke()

    def of(self, drawn: Drawn) -> Stroke:
        """The line of one of them."""
        stroke: Stroke = getattr(self, drawn)
        return stroke
