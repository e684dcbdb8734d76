"""What a recipe asks of the look: colours, lines, letters, and the ground."""

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from rhabdos.data.limits import LONGEST_NAME
from rhabdos.figure.recipe.recipe_part import Colour, Part, Truth

Base = Literal["house", "paper", "slide", "ink", "night"]
PaletteName = Literal["reef", "shell", "lamp", "tide", "kelp", "dusk", "slate", "black"]
Dashes = Literal["whole", "dashed", "dotted", "by-group"]
PointShape = Literal["disc", "ring", "diamond", "square", "cross"]
BASES: tuple[Base, ...] = ("house", "paper", "slide", "ink", "night")
PALETTES: tuple[PaletteName, ...] = (
    "reef", "shell", "lamp", "tide", "kelp", "dusk", "slate", "black",
)  # fmt: skip
Width = Annotated[float, Meta(ge=0, le=10, description="points, from 0 to 10")]
Share = Annotated[float, Meta(ge=0, le=1, description="a share from 0 to 1")]
MOST_COLOURS = 1_000  # of levels by name
LONGEST_FONT = 80  # letters of a font's name


class LookDress(Part, frozen=True):
    """How any figure may look; None stands for what the whole look ``base`` has."""

    base: Annotated[Base, Meta(description="house, paper, slide, ink or night")] = "house"
    palette: (
        Annotated[
            PaletteName, Meta(description="reef, shell, lamp, tide, kelp, dusk, slate or black")
        ]
        | None
    ) = None
    see_through: Share | None = None
    outline: Width | None = None
    curve: Width | None = None
    box: Width | None = None
    dashes: Annotated[Dashes, Meta(description="whole, dashed, dotted or by-group")] | None = None
    hatching: Truth | None = None
    point: (
        Annotated[PointShape, Meta(description="disc, ring, diamond, square or cross")] | None
    ) = None
    point_size: Annotated[float, Meta(ge=1, le=20, description="points, from 1 to 20")] | None = (
        None
    )
    many_colours: Truth | None = None
    sizes: Truth | None = None
    ink: Colour | None = None
    paper: Colour | None = None
    ground: Colour | None = None
    font: (
        Annotated[
            str, Meta(max_length=LONGEST_FONT, description="the name of a font installed here")
        ]
        | None
    ) = None
    letters: (
        Annotated[float, Meta(ge=0.5, le=3, description="how many times as large, from 0.5 to 3")]
        | None
    ) = None


class Look(LookDress, frozen=True):
    """How a figure looks, with the colours that levels of its own have."""

    colours: Annotated[
        dict[Annotated[str, Meta(max_length=LONGEST_NAME)], Colour],
        Meta(max_length=MOST_COLOURS, description="levels, and a colour such as #1F838A for each"),
    ] = msgspec.field(default_factory=dict)
