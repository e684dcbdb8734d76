"""What a recipe asks of the words in a figure."""

import math
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from rhabdos.data.limits import LONGEST_NAME
from rhabdos.figure.recipe.recipe_axes import Bound
from rhabdos.figure.recipe.recipe_part import Colour, Finite, Part, Place, TextSize, Truth, Wording

MOST_TEXTS = 200  # written in a figure by hand
MOST_NAMES = 1_000  # that stand for others


class LetterStyle(Part, frozen=True):
    """How letters are set: how large in points, how heavy, and in what colour."""

    size: TextSize | None = None
    bold: Truth | None = None
    slant: Truth = False
    colour: Colour | None = None


class TextStyle(LetterStyle, frozen=True):
    """The same of a text that may stand at either end of its side, or in the middle."""

    place: Annotated[Place, Meta(description="left, middle or right")] | None = None


class BoxedStyle(TextStyle, frozen=True):
    """The same of a text that may lie on a ground, within a border."""

    ground: Colour | None = None
    border: Colour | None = None
    padding: Annotated[float, Meta(ge=0, le=30, description="points, from 0 to 30")] | None = None

    @property
    def boxed(self) -> bool:
        """Whether there is anything around the letters."""
        return self.ground is not None or self.border is not None


class Lettering(msgspec.Struct, frozen=True):
    """How all words of a figure that are not texts in it are set."""

    title: TextStyle = TextStyle()
    subtitle: TextStyle = TextStyle()
    note: BoxedStyle = BoxedStyle()
    value_axis: TextStyle = TextStyle()
    height_axis: TextStyle = TextStyle()
    legend_title: TextStyle = TextStyle()
    levels: LetterStyle = LetterStyle()
    panels: TextStyle = TextStyle()
    numbers: LetterStyle = LetterStyle()


STYLED = Lettering.__struct_fields__
"""Words that can be set; of each the recipe has a style."""


class WordsDress(Part, frozen=True):
    """How the words of a figure are set, whatever they are."""

    title_style: TextStyle = TextStyle()
    subtitle_style: TextStyle = TextStyle()
    note_style: BoxedStyle = BoxedStyle()
    value_axis_style: TextStyle = TextStyle()
    height_axis_style: TextStyle = TextStyle()
    legend_title_style: TextStyle = TextStyle()
    levels_style: LetterStyle = LetterStyle()
    panels_style: TextStyle = TextStyle()
    numbers_style: LetterStyle = LetterStyle()

    @property
    def lettering(self) -> Lettering:
        """How each of the words is set."""
        return Lettering(*(getattr(self, f"{words}_style") for words in STYLED))


SeenCode = Literal["middle", "peaks", "tail", "difference"]
"""Sentences of the data: by which rule each is said."""


class Words(WordsDress, frozen=True):
    """Texts of the figure; None stands for the default, an empty text for none.

    ``unsaid`` are sentences of the data that are struck out. ``names`` says what levels, variables
    and panels are called in the figure; a line break in one is kept where there is room.
    ``levels_style`` holds for names of levels wherever they stand, ``numbers_style`` for those at
    the ticks of axes.
    """

    title: Wording | None = None
    subtitle: Wording | None = None
    note: Wording | None = None
    value_axis: Wording | None = None
    height_axis: Wording | None = None
    unsaid: Annotated[
        tuple[SeenCode, ...],
        Meta(max_length=4, description="a list of middle, peaks, tail, difference"),
    ] = ()
    names: Annotated[
        dict[str, Annotated[str, Meta(max_length=LONGEST_NAME)]],
        Meta(max_length=MOST_NAMES, description="names, and what is shown for each"),
    ] = msgspec.field(default_factory=dict)


class Arrow(Part, frozen=True):
    """Where an arrow points to: a value, and a height or a share of the frame."""

    value: Bound
    height: Finite | None = None
    share: Annotated[float, Meta(ge=0, le=1, description="a share from 0 to 1")] = 0.5

    def __post_init__(self) -> None:
        _refuse_endless("value", self.value, self.height)


class FigureText(Part, frozen=True):
    """A text in the figure, tied to a value so that it moves with the axis; and an arrow from it.

    Across the value axis it is tied to a ``height``, or stands at a ``share`` of the frame.
    """

    text: Wording
    value: Bound
    height: Finite | None = None
    share: Annotated[float, Meta(ge=0, le=1, description="a share from 0 to 1")] = 0.9
    arrow: Arrow | None = None
    panel: Annotated[str, Meta(description="the name of a panel")] | None = None
    style: BoxedStyle = BoxedStyle()

    def __post_init__(self) -> None:
        _refuse_endless("value", self.value, self.height)


def _refuse_endless(key: str, *places: Bound | None) -> None:
    if not all(math.isfinite(place) for place in places if isinstance(place, float)):
        raise ValueError(f"{key}: places in the figure must be finite numbers")
