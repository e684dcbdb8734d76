"""What a recipe asks of the axes."""

import math
from typing import Annotated, Literal

from msgspec import Meta, field

from rhabdos.data.limits import LONGEST_NAME
from rhabdos.figure.recipe.recipe_part import NUMBER_OR_DATE, Finite, Part, Truth
from rhabdos.stats.axis_scale import ScaleKind
from rhabdos.stats.heights import Scale

Turn = Literal[0, 45, 90]
TickMarks = Literal["outside", "inside", "none"]
Writing = Literal["plain", "powers", "percent"]
Side = Literal["left", "bottom", "right", "top"]
Bound = Annotated[float | str, Meta(description=NUMBER_OR_DATE)]
MOST_TICKS = 200  # of one axis by hand
TickList = Annotated[
    tuple[Finite, ...], Meta(max_length=MOST_TICKS, description=f"at most {MOST_TICKS} numbers")
]
TickWord = Annotated[str, Meta(max_length=LONGEST_NAME, description="a word")]
Ticked = Literal["edges", "middles", "none"]


class AxisDress(Part, frozen=True):
    """How an axis is drawn and its numbers are written, whatever they are."""

    thousands: (
        Annotated[
            Literal[",", ".", " ", "’", ""],
            Meta(description="a comma, a point, a blank, an apostrophe or nothing"),
        ]
        | None
    ) = None
    decimal: Annotated[Literal[".", ","], Meta(description="a point or a comma")] | None = None
    tick_marks: Annotated[TickMarks, Meta(description="outside, inside or none")] = "outside"
    grid: Truth | None = None

    def __post_init__(self) -> None:
        if self.thousands == (self.decimal or "."):
            raise ValueError(
                "thousands: thousands and decimals are parted by the same mark; choose another"
            )

    @property
    def marks(self) -> tuple[str, str]:
        """What parts thousands, and what parts decimals."""
        decimal = self.decimal or "."
        if self.thousands is not None:
            return self.thousands, decimal
        return "." if decimal == "," else ",", decimal


class Axis(AxisDress, frozen=True):
    """What both axes may be asked: limits, ticks, and how their numbers are written."""

    ticks: (
        Annotated[
            float | TickList | Ticked,
            Meta(
                description="the distance from tick to tick, a list of numbers, edges, middles "
                "or none"
            ),
        ]
        | None
    ) = None
    whole: Truth = False
    decimals: (
        Annotated[int, Meta(ge=0, le=12, description="a whole number from 0 to 12")] | None
    ) = None
    numbers: Annotated[Writing, Meta(description="plain, powers or percent")] | None = None
    turn: Annotated[Turn, Meta(description="0, 45 or 90 degrees")] | None = None
    words: Annotated[
        tuple[tuple[Finite, TickWord], ...],
        Meta(
            max_length=MOST_TICKS,
            description='a list of pairs such as [0, "none"], each a number and its word',
        ),
    ] = ()

    def __post_init__(self) -> None:
        super().__post_init__()
        numbers = [number for number, _ in self.words]
        if len(set(numbers)) < len(numbers) or not all(map(math.isfinite, numbers)):
            raise ValueError("words: each must stand for a finite number of its own")
        if isinstance(self.ticks, float) and not 0 < self.ticks < math.inf:
            raise ValueError("ticks: the distance from tick to tick must be above 0")
        if isinstance(self.ticks, tuple) and not all(math.isfinite(tick) for tick in self.ticks):
            raise ValueError("ticks: all of them must be finite numbers")

    def _refuse_limits(self, low: object, high: object) -> None:
        for key, bound in (("from", low), ("to", high)):
            if isinstance(bound, float) and not math.isfinite(bound):
                raise ValueError(f"{key}: it must be a finite number")
        if isinstance(low, float) and isinstance(high, float) and low >= high:
            raise ValueError("to: an axis must end above where it begins")


class ValueAxis(Axis, frozen=True):
    """The axis along which values lie."""

    low: Bound | None = field(name="from", default=None)
    high: Bound | None = field(name="to", default=None)
    scale: Annotated[ScaleKind, Meta(description="linear, log, root or arsinh")] = "linear"
    near: Annotated[float, Meta(description="a finite number above 0")] | None = None
    reversed: Truth = False

    def __post_init__(self) -> None:
        super().__post_init__()
        self._refuse_limits(self.low, self.high)
        if self.near is not None and not 0 < self.near < math.inf:
            raise ValueError("near: it must be a finite number above 0")
        if self.near is not None and self.scale != "arsinh":
            raise ValueError('near: it is for an axis whose scale is "arsinh"; leave it out')


class HeightAxis(Axis, frozen=True):
    """The axis of heights; ``second`` writes another scale of the same heights at the other
    side."""

    low: Finite | None = field(name="from", default=None)
    high: Finite | None = field(name="to", default=None)
    second: Annotated[Scale, Meta(description="count, percent, proportion or density")] | None = (
        None
    )

    def __post_init__(self) -> None:
        super().__post_init__()
        self._refuse_limits(self.low, self.high)
        if self.ticks in ("edges", "middles"):
            raise ValueError("ticks: only the value axis has bins")


class AxesDress(Part, frozen=True):
    """The same of both axes, and the sides of the frame that are drawn."""

    value: AxisDress = AxisDress()
    height: AxisDress = AxisDress()
    frame: (
        Annotated[
            tuple[Side, ...],
            Meta(max_length=4, description="a list of left, bottom, right and top"),
        ]
        | None
    ) = None


class Axes(AxesDress, frozen=True):
    """Both axes, and the frame: the sides of it that are drawn, and its shape."""

    value: ValueAxis = ValueAxis()
    height: HeightAxis = HeightAxis()
    aspect: (
        Annotated[
            float,
            Meta(ge=0.1, le=10, description="the frame’s height by its width, from 0.1 to 10"),
        ]
        | None
    ) = None

    @property
    def height_marks(self) -> tuple[str, str]:
        """What parts thousands and decimals of heights: as of values, where nothing else is
        asked."""
        own = self.height.thousands is not None or self.height.decimal is not None
        return (self.height if own else self.value).marks
