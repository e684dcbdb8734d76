"""What a recipe asks of ranges of the value axis: that they are shaded, and called something."""

import math
from typing import Annotated

import msgspec
from msgspec import Meta

from rhabdos.figure.recipe.recipe_axes import Bound
from rhabdos.figure.recipe.recipe_part import Colour, Part, Wording

MOST_RANGES = 40  # shaded in a figure


class Range(Part, frozen=True):
    """A range of values that is shaded in the figure, with its words: by default its ends, and
    none where they are empty."""

    low: Bound = msgspec.field(name="from")
    high: Bound = msgspec.field(name="to")
    words: Wording | None = None
    colour: Colour | None = None
    panel: Annotated[str, Meta(description="the name of a panel")] | None = None

    def __post_init__(self) -> None:
        for key, end in (("from", self.low), ("to", self.high)):
            if isinstance(end, float) and not math.isfinite(end):
                raise ValueError(f"{key}: ends of a range must be finite numbers")
