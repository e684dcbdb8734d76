"""What a recipe asks of the words in a figure."""

import math
from typing import Annotated

import msgspec
from msgspec import Meta

from rhabdos.data.dialect import LONGEST_NAME
from rhabdos.figure.recipe_part import Colour, Finite, Part, Place, TextSize, Truth, Wording

MOST_TEXTS = 200
MOST_NAMES = 1_000


class TextStyle(Part, frozen=True):
    """How a text is set: where along its side it stands, how large, and in what colour."""

    place: Annotated[Place, Meta(description="left, middle or right")] | None = None
    size: TextSize | None = None
    bold: Truth | None = None
    slant: Truth = False
    colour: Colour | None = None


class Words(Part, frozen=True):
    """Texts of the figure; None stands for the default, an empty text for none.

    ``names`` says what levels, variables and panels are called in the figure; a line break in one
    is kept where there is room.
    """

    title: Wording | None = None
    subtitle: Wording | None = None
    note: Wording | None = None
    value_axis: Wording | None = None
    height_axis: Wording | None = None
    names: Annotated[
        dict[str, Annotated[str, Meta(max_length=LONGEST_NAME)]],
        Meta(max_length=MOST_NAMES, description="names, and what is shown for each"),
    ] = msgspec.field(default_factory=dict)
    title_style: TextStyle = TextStyle()
    subtitle_style: TextStyle = TextStyle()
    note_style: TextStyle = TextStyle()
    value_axis_style: TextStyle = TextStyle()
    height_axis_style: TextStyle = TextStyle()


class Arrow(Part, frozen=True):
    """Where an arrow points to: a value, and a height or a share of the frame."""

    value: Finite
    height: Finite | None = None
    share: Annotated[float, Meta(ge=0, le=1, description="a share from 0 to 1")] = 0.5

    def __post_init__(self) -> None:
        _refuse_endless("value", self.value, self.height)


class FigureText(Part, frozen=True):
    """A text in the figure, tied to a value so that it moves with the axis; and an arrow from it.

    Across the value axis it is tied to a ``height``, or stands at a ``share`` of the frame.
    """

    text: Wording
    value: Finite
    height: Finite | None = None
    share: Annotated[float, Meta(ge=0, le=1, description="a share from 0 to 1")] = 0.9
    arrow: Arrow | None = None
    panel: Annotated[str, Meta(description="the name of a panel")] | None = None
    style: TextStyle = TextStyle()

    def __post_init__(self) -> None:
        _refuse_endless("value", self.value, self.height)


def _refuse_endless(key: str, *numbers: float | None) -> None:
    if not all(math.isfinite(number) for number in numbers if number is not None):
        raise ValueError(f"{key}: places in the figure must be finite numbers")
