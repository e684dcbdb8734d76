"""The recipe: what the user asked a figure to be, as one immutable value."""

import math
from typing import Annotated, Literal, Self

import msgspec
from msgspec import Meta

from rhabdos.data.limits import LONGEST_NAME
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.recipe_axes import Axes
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.figure.recipe.recipe_look import Look
from rhabdos.figure.recipe.recipe_part import Colour, Part, TextSize, Truth, ValuePlace, Wording
from rhabdos.figure.recipe.recipe_ranges import MOST_RANGES, Range
from rhabdos.figure.recipe.recipe_strokes import Strokes
from rhabdos.figure.recipe.recipe_words import MOST_TEXTS, FigureText, Words
from rhabdos.quoting import quoted
from rhabdos.stats.bandwidths import BandwidthRule
from rhabdos.stats.boxes import Whiskers
from rhabdos.stats.heights import Scale
from rhabdos.stats.kernels import KERNELS, KernelName
from rhabdos.stats.named_shapes import MOST_SURE, ShapeName
from rhabdos.stats.quantiles import QuartileRule

VERSION = 1  # of the format, which a later reader asks for
PREPARE = "prepare"  # the tables of the steps that prepare its data
Form = Literal[
    "bars", "outline", "polygon", "curve", "normal", "ecdf", "violin", "box", "points", "shift",
    "pairs",
]  # fmt: skip
Arrange = Literal["overlaid", "stacked", "side-by-side", "back-to-back", "lanes"]
OrderBy = Literal["data", "name", "n", "mean", "median", "sd"]
Axis = Literal["value", "height"]
LegendPlace = Literal[
    "above", "right", "below", "top-left", "top-right", "bottom-left", "bottom-right", "lines",
    "none",
]  # fmt: skip
MeanShape = Literal["diamond", "circle", "square", "cross"]
BoxNumber = Literal["n", "mean", "median"]
Spread = Literal["stacked", "jittered"]
Of = Literal["group", "all"]

# Each description completes the sentence "… must be" when a recipe is refused.
Name = Annotated[str, Meta(max_length=LONGEST_NAME)]
MOST_VARIABLES = 60  # of one figure: more would be no figure, and a hostile recipe a long wait
NUMBERS: Literal["numbers"] = "numbers"
"""In place of names: every numeric variable that has a value."""
VariableNames = Annotated[
    tuple[Name, ...],
    Meta(min_length=1, max_length=MOST_VARIABLES, description="a list of variables' names"),
]
Variables = Annotated[
    VariableNames | Literal["numbers"],
    Meta(description=f"a list of 1 to {MOST_VARIABLES} variables' names, or numbers"),
]
TwoFactors = Annotated[
    tuple[Name, ...], Meta(max_length=2, description="a list of at most two variables' names")
]
LevelNames = Annotated[
    tuple[Name, ...], Meta(max_length=MOST_VARIABLES, description="a list of levels")
]
Forms = Annotated[
    tuple[Form, ...],
    Meta(
        min_length=1,
        description="a list of forms: bars, outline, polygon, curve, normal, ecdf, violin, box, "
        "points, shift, pairs",
    ),
]
Scales = Annotated[Scale, Meta(description="count, percent, proportion or density")]
Whole = Annotated[Of, Meta(description="group or all")]
PageSize = Annotated[
    str, Meta(description="a width and a height, such as 16x10cm, 6x4in or 1600x1000px")
]


class Show(Part, frozen=True):
    """Which variables are shown, split by what, in which forms and heights."""

    variables: Variables
    split: TwoFactors = ()
    forms: Forms = ("bars",)
    heights: Scales = "count"
    of: Whole = "group"
    cumulative: Truth = False
    weight: Annotated[str, Meta(description="the name of a variable")] | None = None
    arrange: (
        Annotated[
            Arrange, Meta(description="overlaid, stacked, side-by-side, back-to-back or lanes")
        ]
        | None
    ) = None
    upright: Truth | None = None
    standardised: Truth = False

    def __post_init__(self) -> None:
        _refuse_twice("variables", () if self.variables == NUMBERS else self.variables)
        _refuse_twice("split", self.split)


class Panels(Part, frozen=True):
    """Panels: by which factors, in how many columns, and which axes they do not share.

    ``variables`` tells whether several variables have panels of their own; by default where they
    have no unit in common.
    """

    by: TwoFactors = ()
    columns: Annotated[int, Meta(ge=1, le=60, description="a whole number from 1 to 60")] | None = (
        None
    )
    free: Annotated[
        tuple[Axis, ...], Meta(max_length=2, description="a list of value, height")
    ] = ()
    variables: Truth | None = None

    def __post_init__(self) -> None:
        _refuse_twice("by", self.by)


class Groups(Part, frozen=True):
    """The order of groups and of panels, levels that are left out, and those brought forward.

    ``order`` is a rule or a list of levels; by default levels are in order of their names.
    """

    order: (
        Annotated[
            OrderBy | LevelNames,
            Meta(description="data, name, n, mean, median, sd or a list of levels"),
        ]
        | None
    ) = None
    reverse: Truth = False
    hidden: LevelNames = ()
    missing: Truth = False
    forward: LevelNames = ()


class LegendDress(Part, frozen=True):
    """Where the legend is, and whether it tells the size of groups."""

    place: (
        Annotated[
            LegendPlace,
            Meta(
                description="above, right, below, top-left, top-right, bottom-left, bottom-right, "
                "lines or none"
            ),
        ]
        | None
    ) = None
    n: Truth = True


class Legend(LegendDress, frozen=True):
    """The legend: what stands over it, and its order."""

    title: Wording | None = None
    reverse: Truth = False
    forms: Truth | None = None


def _refuse_twice(key: str, names: tuple[str, ...]) -> None:
    """Complain of a name that a list holds twice."""
    twice = next((name for index, name in enumerate(names) if name in names[:index]), None)
    if twice is not None:
        raise ValueError(f"{key}: it names {quoted(twice)} twice; once is enough")


class Bars(Part, frozen=True):
    """How bars are drawn: a gap as a share of their width, and the numbers on them."""

    gap: Annotated[float, Meta(ge=0, le=0.9, description="a share from 0 to 0.9")] = 0.0
    labels: Annotated[Scale, Meta(description="count, percent, proportion or density")] | None = (
        None
    )


class Boxes(Part, frozen=True):
    """How boxes are made; the quartiles also hold for the summary."""

    quartiles: Annotated[QuartileRule, Meta(description="a definition from 1 to 9, or hinges")] = 7
    whiskers: Annotated[
        Whiskers,
        Meta(
            description="a multiple of the IQR such as 1.5, range, or two percentiles such as [5, "
            "95]"
        ),
    ] = 1.5
    far: Annotated[float, Meta(ge=0, description="a multiple of the IQR, 0 or more")] = 3.0
    width: Annotated[Literal["fixed", "by-n"], Meta(description="fixed or by-n")] = "fixed"
    share: Annotated[float, Meta(ge=0.05, le=1, description="a share from 0.05 to 1")] | None = None
    notches: Truth = False
    mean: Truth = False
    mean_shape: Annotated[MeanShape, Meta(description="diamond, circle, square or cross")] = (
        "diamond"
    )
    mean_size: Annotated[float, Meta(ge=2, le=20, description="points, from 2 to 20")] = 6.0
    names: Annotated[Name, Meta(description="row, value or the name of a variable")] | None = None
    mark_size: Annotated[float, Meta(ge=1, le=20, description="points, from 1 to 20")] | None = None
    name_size: TextSize | None = None
    numbers: Annotated[
        tuple[BoxNumber, ...], Meta(max_length=3, description="a list of n, mean and median")
    ] = ()
    numbers_as: Annotated[Literal["words", "table"], Meta(description="words or table")] = "words"
    letters: Truth = False

    def __post_init__(self) -> None:
        if isinstance(self.whiskers, tuple) and not 0 <= self.whiskers[0] < self.whiskers[1] <= 100:
            raise ValueError("whiskers: two percentiles must rise, from 0 to 100")
        if isinstance(self.whiskers, float) and not 0 <= self.whiskers < math.inf:
            raise ValueError("whiskers: a multiple of the IQR must be 0 or more")


class Curves(Part, frozen=True):
    """How density curves are made."""

    kernel: Annotated[
        KernelName, Meta(description=f"{', '.join(list(KERNELS)[:-1])} or {list(KERNELS)[-1]}")
    ] = "gaussian"
    bandwidth: Annotated[
        float | BandwidthRule,
        Meta(
            description="a number above 0, silverman, scott, sheather-jones or "
            "improved-sheather-jones"
        ),
    ] = "silverman"
    factor: Annotated[float, Meta(gt=0, description="a factor above 0")] = 1.0
    lower: ValuePlace | None = None
    upper: ValuePlace | None = None
    fill: Annotated[
        bool | Literal["only"], Meta(description="true, false, or only for no line")
    ] = False

    def __post_init__(self) -> None:
        for name in ("bandwidth", "factor", "lower", "upper"):
            value = getattr(self, name)
            if isinstance(value, float) and not math.isfinite(value):
                raise ValueError(f"{name}: it must be a finite number")
        if isinstance(self.bandwidth, float) and self.bandwidth <= 0:
            raise ValueError("bandwidth: a number must be above 0")
        if self.lower is not None and self.upper is not None and self.lower >= self.upper:
            raise ValueError("upper: it must be above lower")


class Points(Part, frozen=True):
    """How the values themselves are drawn: as stacks of dots, or spread by chance."""

    spread: Annotated[Spread, Meta(description="stacked or jittered")] = "jittered"
    seed: Annotated[int, Meta(ge=0, description="a whole number, 0 or more")] = 1
    colour: Colour | None = None


class Lines(Part, frozen=True):
    """Lines through the figure at the centre of each group."""

    mean: Truth = False
    median: Truth = False


class Check(Part, frozen=True):
    """What to work out beside the figure, to see what its bins do to it."""

    ladder: Truth = False
    slide: Truth = False
    pairs: Truth = False
    range: (
        Annotated[tuple[float, float], Meta(description="a list of two rising numbers")] | None
    ) = None

    def __post_init__(self) -> None:
        if self.range is not None and not -math.inf < self.range[0] <= self.range[1] < math.inf:
            raise ValueError("range: two finite numbers must rise")


class Sway(Part, frozen=True):
    """What shades show: how the figure would come out in another sample, or in bins that begin
    elsewhere."""

    of: Annotated[Literal["sample", "start"], Meta(description="sample or start")] | None = None
    confidence: Annotated[
        float, Meta(gt=0, lt=1, description="a share between 0 and 1, such as 0.95")
    ] = 0.95


class Pairs(Part, frozen=True):
    """What the quantiles of each group stand beside, and how sure the band about them is."""

    beside: Annotated[
        ShapeName | Literal["reference"],
        Meta(description="normal, lognormal, uniform, logistic, exponential or reference"),
    ] = "normal"
    band: Truth = True
    confidence: Annotated[
        float, Meta(gt=0, le=MOST_SURE, description="a share above 0, up to 0.99")
    ] = 0.95


class Compare(Part, frozen=True):
    """Which group the others are compared with, and how sure intervals are."""

    reference: Annotated[str, Meta(description="a level of the factor that splits")]
    confidence: Annotated[
        float, Meta(gt=0, lt=1, description="a share between 0 and 1, such as 0.95")
    ] = 0.95
    together: Truth = False
    paired: Annotated[
        bool | Annotated[str, Meta(min_length=1)],
        Meta(description="true, false, or the name of a variable that names cases"),
    ] = False
    seed: Annotated[int, Meta(ge=0, description="a whole number, 0 or more")] = 1


class Page(Part, frozen=True):
    """The figure's size on paper; by default 16 x 10 cm, and higher for many lanes or panels."""

    size: PageSize | None = None

    def __post_init__(self) -> None:
        if self.size is None:
            return
        try:
            Size.parse(self.size).points()
        except ValueError as error:
            raise ValueError(f"size: {error}") from error


class Recipe(Part, frozen=True):
    """Everything that a figure is asked to be."""

    show: Show
    panels: Panels = Panels()
    groups: Groups = Groups()
    bins: Bins = Bins()
    curve: Curves = Curves()
    bars: Bars = Bars()
    box: Boxes = Boxes()
    points: Points = Points()
    lines: Lines = Lines()
    check: Check = Check()
    sway: Sway = Sway()
    pairs: Pairs = Pairs()
    compare: Compare | None = None
    legend: Legend = Legend()
    axes: Axes = Axes()
    look: Look = msgspec.field(default_factory=Look)
    strokes: Strokes = Strokes()
    words: Words = msgspec.field(default_factory=Words)
    text: Annotated[
        tuple[FigureText, ...],
        Meta(max_length=MOST_TEXTS, description=f"at most {MOST_TEXTS} texts"),
    ] = ()
    range: Annotated[
        tuple[Range, ...], Meta(max_length=MOST_RANGES, description=f"at most {MOST_RANGES} ranges")
    ] = ()
    page: Page = Page()

    @property
    def factors(self) -> tuple[str, ...]:
        """The factors whose levels make groups, then those that make panels."""
        return tuple(dict.fromkeys((*self.show.split, *self.panels.by)))

    @property
    def weight(self) -> str | None:
        """What tells how many cases a row stands for, if anything."""
        return self.show.weight

    def showing(self, **values: object) -> Self:
        """The same figure with another choice of what is shown."""
        return self.changed(show=self.show.changed(**values))

    def paneled(self, **values: object) -> Self:
        """The same figure with other panels."""
        return self.changed(panels=self.panels.changed(**values))

    def grouped(self, **values: object) -> Self:
        """The same figure with its groups in another order, or others of them shown."""
        return self.changed(groups=self.groups.changed(**values))

    def binned(self, bins: Bins) -> Self:
        """The same figure with other bins."""
        return self.changed(bins=bins)

    def with_value_axis(self, **values: object) -> Self:
        """The same figure with another value axis.

        A bandwidth that was set by hand is one along values, or along logs, and so is what an axis
        is near to: they are let go where the axis changes from the one to the other.
        """
        curve, before = self.curve, self.axes.value
        if values.get("scale", before.scale) != before.scale:
            values = {"near": None, **values}
        value = before.changed(**values)
        if value.scale != before.scale and not isinstance(curve.bandwidth, str):
            curve = curve.changed(bandwidth="silverman")
        return self.changed(axes=self.axes.changed(value=value), curve=curve)

    def with_height_axis(self, **values: object) -> Self:
        """The same figure with another axis of heights."""
        return self.changed(axes=self.axes.changed(height=self.axes.height.changed(**values)))

    def sized(self, size: Size) -> Self:
        """The same figure on a page of another size."""
        return self.changed(page=self.page.changed(size=str(size)))

    def looking(self, **values: object) -> Self:
        """The same figure with another look."""
        return self.changed(look=self.look.changed(**values))

    def worded(self, **values: object) -> Self:
        """The same figure with other words."""
        return self.changed(words=self.words.changed(**values))
