"""The phrases of both axes: limits, ticks, how numbers are written, and the frame."""

from collections.abc import Callable
from functools import partial

from rhabdos.data.date_bounds import date_bound_or_none
from rhabdos.figure.phrases.axis_ticks import axis_of, has_numbers, tick_words, ticks, written
from rhabdos.figure.phrases.letters import size_of
from rhabdos.figure.phrases.phrase import Phrase, Said, Setting, always, in_unit, number, or_usual
from rhabdos.figure.readings.axis_limits import bounds_on
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.value_scale import WORDS
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.recipe.recipe_axes import HeightAxis, Side, ValueAxis
from rhabdos.wording import exact, with_unit

_SIDES: tuple[tuple[str, object], ...] = (
    ("as usual", None),
    ("left and below", ("left", "bottom")),
    ("all around", ("left", "bottom", "right", "top")),
    ("below", ("bottom",)),
    ("none", ()),
)


_SIDE_LABELS: tuple[tuple[Side, str], ...] = (
    ("left", "Left side"),
    ("bottom", "Lower side"),
    ("right", "Right side"),
    ("top", "Upper side"),
)


def _side(side: Side, label: str) -> Setting:
    """One side of a frame that has sides of its own."""

    def change(recipe: Recipe, wanted: object) -> Recipe:
        """The recipe with that side drawn, or without it."""
        others = [known for known in recipe.axes.frame or () if known != side]
        sides = [*others, side] if wanted else others
        ordered = tuple(known for known, _ in _SIDE_LABELS if known in sides)
        return recipe.changed(axes=recipe.axes.changed(frame=ordered))

    return Setting(
        "axes.frame",
        label,
        "toggle",
        f"{label} of the frame|Without the {label.lower()} of the frame",
        value=lambda readings: side in (readings.recipe.axes.frame or ()),
        change=change,
        matters=lambda readings: readings.recipe.axes.frame is not None,
    )


def _limit(name: str, key: str, label: str) -> Setting:
    end = "begins" if key == "low" else "ends"

    def shown(readings: Readings) -> str:
        """The limit that is asked for."""
        bound = getattr(axis_of(readings, name), key)
        if isinstance(bound, str):
            return bound
        if name == "height" or readings.plan.axes > 1:  # which may measure in several units
            return "" if bound is None else exact(bound)
        return in_unit(bound, readings)

    def read(text: str, readings: Readings) -> object:
        """A number, or a date where values are dates."""
        if not text:
            return None
        dates = [readings.dates_on(axis) for axis in range(readings.plan.axes)]
        day = any(dates) and date_bound_or_none(text, False) is not None
        if name == "value" and (all(dates) or day):
            wanted = readings.recipe.with_value_axis(**{key: text})
            bounds_on(Readings(wanted, readings.gathered), 0)  # refuses what is no date
            return text
        return number("Where an axis ends")(text, readings)

    return Setting(
        f"axes.{name}.{key}",
        label,
        "typed",
        f"{name.capitalize()} axis {end} at {{}}",
        shown=shown,
        placeholder=lambda _readings: (
            "0" if (name, key) == ("height", "low") else "as the values do"
        ),
        read=read,
    )


def _span(low: object, high: object, told: Callable[[object], str]) -> str:
    if low is not None and high is not None:
        return f"from {told(low)} to {told(high)}"
    if low is not None:
        return f"from {told(low)}"
    return f"to {told(high)}" if high is not None else ""


def _value_words(readings: Readings) -> str:
    """What the value axis is asked to be, in words."""
    axis: ValueAxis = readings.recipe.axes.value
    unit = readings.variable.unit if readings.plan.axes == 1 else ""

    def told(bound: object) -> str:
        """A limit in words."""
        return bound if isinstance(bound, str) else with_unit(exact(float(str(bound))), unit)

    words = [_span(axis.low, axis.high, told)]
    words += [WORDS[axis.scale].said] if axis.scale != "linear" else []
    words += ["backwards"] if axis.reversed else []
    return ", ".join(word for word in words if word)


def _height_words(readings: Readings) -> str:
    """What the axis of heights is asked to be, in words."""
    axis: HeightAxis = readings.recipe.axes.height
    span = _span(axis.low, axis.high, lambda bound: exact(float(str(bound))))
    if not axis.second:
        return span
    other = f"{'counts' if axis.second == 'count' else axis.second} at its other side"
    return f"{span}, with {other}" if span else other


def _only_another(readings: Readings) -> bool:
    """Whether nothing is asked of the axis of heights but a second one."""
    axis = readings.recipe.axes.height
    return axis.second is not None and axis.low is None and axis.high is None


def _logs(recipe: Recipe, wanted: object) -> Recipe:
    return recipe.binned(recipe.bins.in_logs(bool(wanted)))


def _along(recipe: Recipe, wanted: object) -> Recipe:
    bins = recipe.bins
    kind = recipe.axes.value.scale
    return recipe.binned(bins.along_the_axis(kind) if wanted else bins.in_logs(False))


def _rounded_near(readings: Readings) -> str:
    return exact(readings.scales[0].axis.near)


VALUE_AXIS = Phrase(
    "value_axis",
    "Value axis",
    "Ctrl+Alt+X",
    lambda readings: Said(
        "the value axis runs " if readings.plan.axes == 1 else "value axes run ",
        _value_words(readings),
    ),
    clause=True,
    matters=lambda readings: bool(_value_words(readings)),
    settings=(
        _limit("value", "low", "From"),
        _limit("value", "high", "To"),
        Setting(
            "axes.value.scale",
            "Scale",
            "choice",
            "Value axis {}",
            choices=lambda _readings: [(words.said, kind) for kind, words in WORDS.items()],
            change=lambda recipe, scale: recipe.with_value_axis(scale=scale),
            matters=partial(has_numbers, "value"),
        ),
        Setting(
            "bins.logs",
            "Bins equal in logs",
            "toggle",
            "Bins equal in logs|Bins of one width",
            change=_logs,
            value=lambda readings: readings.edges.ratio is not None,
            matters=lambda readings: (
                readings.needs_bins and (readings.kind == "log" or bool(readings.recipe.bins.logs))
            ),
        ),
        Setting(
            "bins.logs",
            "Bins equal along the axis",
            "toggle",
            "Bins equal along the axis|Bins of one width",
            change=_along,
            value=lambda readings: readings.edges.along is not None,
            matters=lambda readings: (
                readings.needs_bins
                and readings.kind in ("root", "arsinh")
                and not readings.recipe.bins.logs
            ),
        ),
        Setting(
            "axes.value.near",
            "Even about 0 up to",
            "typed",
            "Value axis even about 0 up to {}",
            shown=lambda readings: in_unit(readings.recipe.axes.value.near, readings),
            placeholder=_rounded_near,
            read=or_usual(None, number("Where logs begin", 0, above=True)),
            matters=lambda readings: readings.kind == "arsinh",
            tip="Nearer to 0 than this the axis is even in values, farther from it in logs.",
        ),
        Setting(
            "axes.value.reversed", "Backwards", "toggle", "Value axis backwards|Value axis forwards"
        ),
        ticks("value"),
        tick_words("value"),
        Setting(
            "axes.value.whole",
            "Whole numbers",
            "toggle",
            "Ticks at whole numbers|Ticks anywhere",
            matters=partial(has_numbers, "value"),
        ),
        *written("value"),
        size_of("numbers", "Size of numbers"),
        Setting("axes.frame", "Frame", "choice", "Frame {}", choices=lambda _readings: _SIDES),
        *(_side(side, label) for side, label in _SIDE_LABELS),
        Setting(
            "axes.aspect",
            "Aspect",
            "typed",
            "Frame {} as high as wide",
            shown=lambda readings: (
                "" if (share := readings.recipe.axes.aspect) is None else exact(share)
            ),
            placeholder=lambda _readings: "fills the page",
            read=or_usual(None, number("The frame’s height by its width", 0.1, 10)),
        ),
    ),
    hint="Bars, boxes and curves are worked out from all values, whatever the limits. Or drag the "
    "ends of the rod.",
    parts=("value-axis",),
    besides=always,
)


HEIGHT_AXIS = Phrase(
    "height_axis",
    "Height axis",
    "Ctrl+Alt+Y",
    lambda readings: Said(
        "the height axis has " if _only_another(readings) else "the height axis runs ",
        _height_words(readings),
    ),
    clause=True,
    matters=lambda readings: bool(readings.plan.heights) and bool(_height_words(readings)),
    settings=(
        _limit("height", "low", "From"),
        _limit("height", "high", "To"),
        ticks("height"),
        tick_words("height"),
        Setting(
            "axes.height.whole",
            "Whole numbers",
            "toggle",
            "Ticks at whole heights|Ticks at any height",
        ),
        Setting(
            "axes.height.second",
            "Other side",
            "choice",
            "At the other side {}",
            choices=lambda _readings: (
                ("nothing", None),
                ("count", "count"),
                ("percent", "percent"),
                ("proportion", "proportion"),
                ("density", "density"),
            ),
        ),
        *written("height"),
        size_of("numbers", "Size of numbers"),
    ),
    hint="Heights that begin above 0 make small differences look large; a notice says so.",
    parts=("height-axis",),
    besides=lambda readings: bool(readings.plan.heights),
)
