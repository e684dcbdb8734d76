"""Plain charts: the levels of a category as bars, and two numbers as a scatter."""

from typing import Annotated, Literal, Self

import msgspec
from msgspec import Meta

LevelOrder = Literal["level", "count", "name"]


class _PlainChart(
    msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, kw_only=True
):
    def changed(self, **values: object) -> Self:
        """The same chart with other values."""
        return msgspec.structs.replace(self, **values)


class LevelBars(_PlainChart, frozen=True):
    """How many rows have each level of a category, or how much of a number they have together.

    ``order`` is that of the levels themselves, of their counts, or of their names.
    """

    variable: Annotated[str, Meta(description="the name of a variable")]
    order: Annotated[LevelOrder, Meta(description="level, count or name")] = "level"
    reverse: Annotated[bool, Meta(description="true or false")] = False
    heights: Annotated[str, Meta(description="the name of a variable")] | None = None

    @property
    def names(self) -> tuple[str, ...]:
        """The variables that it draws."""
        return (self.variable, self.heights) if self.heights is not None else (self.variable,)


class Scatter(_PlainChart, frozen=True):
    """Two numbers of each row as a place, with their distributions along both sides."""

    x: Annotated[str, Meta(description="the name of a variable")]
    y: Annotated[str, Meta(description="the name of a variable")]

    @property
    def names(self) -> tuple[str, ...]:
        """The variables that it draws."""
        return (self.x, self.y)


PlainChart = LevelBars | Scatter
