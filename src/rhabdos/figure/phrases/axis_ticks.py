"""Settings of the ticks and numbers of an axis."""

from collections.abc import Callable
from functools import partial

from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.errors import Refusal
from rhabdos.figure.phrases.phrase import Setting, number, read_distance
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.edge_text import (
    read_number,
    read_place,
    ungrouped,
    with_whole_dates,
    written_place,
)
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.recipe.recipe_axes import Axis
from rhabdos.quoting import quoted
from rhabdos.wording import exact

_MARKS = (("1,234.5", (",", ".")), ("1.234,5", (".", ",")), ("1 234.5", (" ", ".")),
          ("1 234,5", (" ", ",")), ("1’234.5", ("’", ".")), ("1’234,5", ("’", ",")),
          ("1234.5", ("", ".")), ("1234,5", ("", ",")))  # fmt: skip


def axis_of(readings: Readings, name: str) -> Axis:
    """The settings of an axis of the figure, by its name in the recipe."""
    axis: Axis = getattr(readings.recipe.axes, name)
    return axis


def _ticks_shown(name: str) -> Callable[[Readings], str]:
    def shown(readings: Readings) -> str:
        """The ticks as they are typed."""
        ticks = axis_of(readings, name).ticks
        if ticks is None or isinstance(ticks, str):
            return ticks or ""
        along = _variable_along(readings, name)
        if isinstance(ticks, tuple):
            return ", ".join(_place_shown(tick, along) for tick in ticks)
        return f"every {along.difference_written(ticks) if along else exact(ticks)}"

    return shown


def _variable_along(readings: Readings, name: str) -> NumberColumn | None:
    """The variable whose values an axis has; none along heights."""
    return readings.variable if name == "value" else None


def has_numbers(name: str, readings: Readings) -> bool:
    """Whether numbers lie along an axis, and not dates."""
    return not isinstance(_variable_along(readings, name), DateColumn)


def _place_shown(place: float, along: NumberColumn | None) -> str:
    if isinstance(along, DateColumn):
        return written_place(place, True)
    return exact(place)


def _read_ticks(name: str, text: str, readings: Readings) -> object:
    """A distance, a list of places, or one of a few words."""
    along = _variable_along(readings, name)
    dates = isinstance(along, DateColumn)
    words = text.strip().casefold()
    if not words:
        return None
    if words in ("edges", "middles", "none"):
        return words
    unit = readings.variable.unit.casefold()
    alone = words.removeprefix("every").strip()
    bare = alone.removesuffix(unit).strip() if unit else alone
    decimal = axis_of(readings, name).marks[1]
    apart = read_distance(bare) if dates else read_number(bare, decimal)
    if apart is not None:
        if apart <= 0:
            raise Refusal("Ticks must be more than 0 apart.")
        return apart
    listed = _places(words, dates, decimal)
    if not dates and listed != sorted(listed):  # as of 1,000, 1,200 where commas part it
        listed = _places(ungrouped(words), dates, decimal)
    if len(listed) < 2:
        distance, several = ("7 days", "2026-01-31, 2026-02-28") if dates else ("10", "40, 60, 100")
        raise Refusal(
            f"{quoted(text)} names no ticks. Write their distance, such as {distance}; or their "
            f"places, such as {several}; or edges, middles or none."
        )
    return tuple(listed)


def _places(words: str, dates: bool, decimal: str) -> list[float]:
    """The places of a list; none where it holds something else."""
    separator = ";" if ";" in words else ","
    parts = [part for part in words.split(separator) if part.strip()]
    places = [read_place(part, dates, decimal) for part in parts]
    return [] if None in places else [place for place in places if place is not None]


def _words_shown(name: str) -> Callable[[Readings], str]:
    return lambda readings: "; ".join(
        f"{_place_shown(number, _variable_along(readings, name))} {word}"
        for number, word in axis_of(readings, name).words
    )


def _read_words(name: str, text: str, readings: Readings) -> object:
    """Numbers and the words that stand for them: "0 none; 1 some; 2 all"."""
    dates = not has_numbers(name, readings)
    pairs = []
    separator = ";" if ";" in text else ","
    for part in (part.strip() for part in text.split(separator) if part.strip()):
        number, word = _parted(part, dates, axis_of(readings, name).marks[1])
        if number is None or not word:
            raise Refusal(
                f"{quoted(part)} is no {'date' if dates else 'number'} with a word. Write for "
                f"example {_example(dates)}."
            )
        pairs.append((number, word))
    if len({number for number, _ in pairs}) < len(pairs):
        raise Refusal("A number stands there twice. Give each one word.")
    return tuple(pairs)


def _example(dates: bool) -> str:
    return "2026-02-11 storm; 2026-05-02 harvest" if dates else "0 none; 1 some; 2 all"


def _parted(typed: str, dates: bool, decimal: str) -> tuple[float | None, str]:
    """The place that something typed begins with, and the words behind it."""
    typed = with_whole_dates(typed) if dates else typed
    first, _, words = typed.replace("=", " ", 1).partition(" ")
    if words.startswith("× 10"):
        power, _, words = words.removeprefix("× ").partition(" ")
        first = f"{first} × {power}"
    return read_place(first, dates, decimal), words.strip()


def tick_words(name: str) -> Setting:
    """Words in place of numbers at an axis."""
    return Setting(
        f"axes.{name}.words",
        "In words",
        "typed",
        f"Words on the {name} axis {{}}",
        shown=_words_shown(name),
        placeholder=lambda readings: f"such as {_example(not has_numbers(name, readings))}",
        tip="Words that stand for numbers; without ticks of their own, the axis has these alone",
        read=partial(_read_words, name),
    )


def ticks(name: str) -> Setting:
    """Where an axis has ticks."""
    return Setting(
        f"axes.{name}.ticks",
        "Ticks",
        "typed",
        f"Ticks of the {name} axis {{}}",
        shown=_ticks_shown(name),
        placeholder=lambda _readings: "as many as fit",
        tip="Their distance, such as 10; their places, such as 40, 60, 100; none"
        + ("; edges or middles of the bins" if name == "value" else ""),
        read=partial(_read_ticks, name),
    )


def _marks(name: str) -> Setting:
    def value(readings: Readings) -> object:
        """Both marks, as a choice has them; None where heights have those of values."""
        axis = axis_of(readings, name)
        if name == "height" and axis.thousands is axis.decimal is None:
            return None
        return axis.marks

    def change(recipe: Recipe, marks: object) -> Recipe:
        """The recipe with other marks."""
        axis = getattr(recipe.axes, name).changed(thousands=None, decimal=None)
        if isinstance(marks, tuple):
            thousands, decimal = marks
            usual = (thousands, decimal) in ((",", "."), (".", ","))
            plain = name == "value" and decimal == "."
            axis = axis.changed(
                thousands=None if usual else thousands, decimal=None if plain else decimal
            )
        return recipe.changed(axes=recipe.axes.changed(**{name: axis}))

    as_values = (("as the value axis", None),) if name == "height" else ()
    return Setting(
        f"axes.{name}.decimal",
        "Written as",
        "choice",
        f"Numbers of the {name} axis as {{}}",
        choices=lambda _readings: (*as_values, *_MARKS),
        value=value,
        change=change,
        tip="Of the value axis: for all numbers in the figure." if name == "value" else "",
    )


def written(name: str) -> tuple[Setting, ...]:
    """How the numbers and ticks of an axis are drawn."""
    return (
        Setting(
            f"axes.{name}.decimals",
            "Decimals",
            "typed",
            f"Decimals of the {name} axis {{}}",
            shown=lambda readings: (
                "" if (n := axis_of(readings, name).decimals) is None else str(n)
            ),
            placeholder=lambda _readings: "as many as needed",
            read=_read_decimals,
            matters=partial(has_numbers, name),
        ),
        _marks(name),
        Setting(
            f"axes.{name}.numbers",
            "Numbers",
            "choice",
            f"Numbers of the {name} axis {{}}",
            choices=lambda _readings: (
                ("as usual", None),
                ("plain", "plain"),
                ("powers of ten", "powers"),
                ("percent", "percent"),
            ),
            matters=partial(has_numbers, name),
        ),
        Setting(
            f"axes.{name}.turn",
            "Labels",
            "choice",
            f"Labels of the {name} axis {{}}",
            choices=lambda _readings: (("level", None), ("aslant", 45), ("upright", 90)),
            value=lambda readings: axis_of(readings, name).turn or None,
        ),
        Setting(
            f"axes.{name}.tick_marks",
            "Tick marks",
            "choice",
            f"Tick marks of the {name} axis {{}}",
            choices=lambda _readings: (
                ("outside", "outside"),
                ("inside", "inside"),
                ("none", "none"),
            ),
            matters=partial(_has_line, name),
        ),
        Setting(
            f"axes.{name}.grid",
            "Grid lines",
            "choice",
            f"Grid lines of the {name} axis {{}}",
            choices=lambda _readings: (("as usual", None), ("drawn", True), ("none", False)),
        ),
    )


def _has_line(name: str, readings: Readings) -> bool:
    """Whether the line is drawn that the tick marks of an axis stand at: of heights, only where
    that side of the frame is asked for."""
    frame, lies = readings.recipe.axes.frame, (name == "value") != readings.plan.upright
    return name == "value" if frame is None else ("bottom" if lies else "left") in frame


def _read_decimals(text: str, readings: Readings) -> object:
    if not text:
        return None
    value = number("The number of decimals", 0, 12)(text, readings)
    assert isinstance(value, float)
    if value != int(value):
        raise Refusal("The number of decimals must be a whole number.")
    return int(value)
