"""What the tables of a recipe have in common."""

from typing import Annotated, Literal, Self

import msgspec
from msgspec import Meta

# Each description completes the sentence "… must be" when a recipe is refused.
Truth = Annotated[bool, Meta(description="true or false")]
LONGEST_WORDING = 1_000  # letters of a title, note or name
Wording = Annotated[
    str,
    Meta(max_length=LONGEST_WORDING, description=f"text of at most {LONGEST_WORDING:,} letters"),
]
Colour = Annotated[str, Meta(pattern=r"^#[0-9A-Fa-f]{6}$", description="a colour such as #1F838A")]
Finite = Annotated[float, Meta(description="a finite number")]
NUMBER_OR_DATE = "a finite number, or a date such as 2026-05-31"
ValuePlace = Annotated[float, Meta(description=NUMBER_OR_DATE)]  # of dates, days since 1970
TextSize = Annotated[float, Meta(ge=3, le=72, description="points, from 3 to 72")]
Place = Literal["left", "middle", "right"]


class Part(
    msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, kw_only=True
):
    """A table of the recipe; ``changed`` gives a copy with other values."""

    def changed(self, **values: object) -> Self:
        """A copy with other values."""
        return msgspec.structs.replace(self, **values)
