"""Plain charts: the levels of a category as bars, and two numbers as a scatter."""

from typing import Annotated, Literal, Self

from msgspec import Meta, field

from rhabdos.data.limits import LONGEST_NAME
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.recipe_look import MOST_COLOURS, Base
from rhabdos.figure.recipe.recipe_part import Colour, Part, Truth, Wording

LevelOrder = Literal["level", "count", "name"]
BarNumbers = Literal["both", "count", "percent", "none"]
Variable = Annotated[str, Meta(description="the name of a variable")]


class _PlainChart(Part, frozen=True):
    """What both may be asked: their words, their look, and how large they are."""

    title: Wording | None = None
    note: Wording | None = None
    value_axis: Wording | None = None
    height_axis: Wording | None = None
    colour: Colour | None = None
    base: Annotated[Base, Meta(description="house, paper, slide, ink or night")] = "house"
    size: Annotated[str, Meta(max_length=80, description="a size such as 16 x 10 cm")] | None = None

    def __post_init__(self) -> None:
        if self.size is not None:
            try:
                Size.parse(self.size).points()
            except ValueError as error:
                raise ValueError(f"size: {error}") from error

    @property
    def page(self) -> Size | None:
        """How large it is asked to be."""
        return Size.parse(self.size) if self.size is not None else None


class LevelBars(_PlainChart, frozen=True, kw_only=True):
    """How many rows have each level of a category, or how much of a number they have together.

    ``order`` is that of the levels themselves, of their counts, or of their names. Bars lie unless
    they are ``upright``; a level may have a colour of its own.
    """

    variable: Variable
    order: Annotated[LevelOrder, Meta(description="level, count or name")] = "level"
    reverse: Truth = False
    heights: Variable | None = None
    upright: Truth = False
    numbers: Annotated[BarNumbers, Meta(description="both, count, percent or none")] = "both"
    colours: Annotated[
        dict[Annotated[str, Meta(max_length=LONGEST_NAME)], Colour],
        Meta(max_length=MOST_COLOURS, description="levels, and a colour such as #1F838A for each"),
    ] = field(default_factory=dict)

    @property
    def names(self) -> tuple[str, ...]:
        """The variables that it draws."""
        return (self.variable, self.heights) if self.heights is not None else (self.variable,)

    def of(self, variable: str) -> Self:
        """The same of another variable, without what is said of the former one and its levels."""
        return self.changed(variable=variable, title=None, value_axis=None, colours={})


class Scatter(_PlainChart, frozen=True, kw_only=True):
    """Two numbers of each row as a place, with their distributions along both sides."""

    x: Variable
    y: Variable
    dot: Annotated[float, Meta(ge=1, le=20, description="points, from 1 to 20")] = 3.2

    @property
    def names(self) -> tuple[str, ...]:
        """The variables that it draws."""
        return (self.x, self.y)

    def of(self, x: str, y: str) -> Self:
        """The same of other numbers; the title of an axis goes with the number that it names."""
        titles = {self.x: self.value_axis, self.y: self.height_axis}
        title = self.title if {x, y} == {self.x, self.y} else None
        return self.changed(
            x=x, y=y, title=title, value_axis=titles.get(x), height_axis=titles.get(y)
        )


PlainChart = LevelBars | Scatter
# By the table of a recipe that asks for it in place of a figure.
PLAIN_CHARTS: dict[str, type[LevelBars] | type[Scatter]] = {"levels": LevelBars, "scatter": Scatter}
