"""What a phrase declares: its words, when it matters, its alternatives and its settings.

Menus, keys, panels and the help page are made from these declarations; so are their tests.
"""

import math
import re
from collections.abc import Callable, Sequence
from typing import Literal

from msgspec import Struct

from rhabdos.data.columns import DateColumn
from rhabdos.errors import Refusal
from rhabdos.figure.readings.axis_limits import number_typed
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.edge_text import read_number, read_place
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.recipe.recipe_part import Part
from rhabdos.quoting import quoted
from rhabdos.wording import exact

Key = Literal[
    "variable", "rows", "split", "arrange", "panels", "legend", "forms", "way", "heights", "bins",
    "bars", "curve", "box", "points", "pairs", "sway", "compare", "lines", "value_axis",
    "height_axis", "page", "look", "words",
]  # fmt: skip


class Said(Struct, frozen=True):
    """A phrase in its clause: "…, drawn as" **bars** "…"."""

    before: str
    text: str
    after: str = ""


class Choice(Struct, frozen=True):
    """One alternative: its words, what the step to it is called, and the figure it leads to.

    Without a recipe it is a dividing line, or asks for something else by ``step``.
    """

    text: str
    step: str
    recipe: Recipe | None
    current: bool = False


LINE = Choice("", "", None)


def _never(_readings: Readings) -> bool:
    return False


def always(_readings: Readings) -> bool:
    """Of every figure."""
    return True


def _nothing(_readings: Readings) -> str:
    return ""


def _no_choices(_readings: Readings) -> Sequence[tuple[str, object]]:
    return ()


def _as_typed(text: str, _readings: Readings) -> object:
    return text or None


class Setting(Struct, frozen=True):
    """One field of a panel, and the value of the recipe that it shows and changes.

    Attributes
    ----------
    path : str
        Where the value is: "box.notches".
    kind : {"toggle", "choice", "typed", "words", "colour", "font"}
        A tick, a list of choices, something typed, words that the figure follows while they are
        typed, a colour, or a font.
    step : str
        What a change is called, with {} for the choice or the text; of a toggle "on|off".
    choices : callable
        The words and values of a list.
    shown, placeholder : callable
        What stands in a typed field, and what stands there where it is empty.
    read : callable
        From what was typed to the value; raises Refusal with what is wrong.
    change : callable, optional
        How a recipe is changed, where more than the value itself changes.
    matters : callable
        Whether it changes anything in this figure.
    value : callable, optional
        The present value, where it is not just what the recipe holds.
    chosen : callable, optional
        From a choice to the value, where that is worked out of the figure.
    tip, tips : str, tuple of str
        What is said on pointing at the field, and at each of its choices.
    """

    path: str
    label: str
    kind: Literal["toggle", "choice", "typed", "words", "colour", "font"]
    step: str
    choices: Callable[[Readings], Sequence[tuple[str, object]]] = _no_choices
    shown: Callable[[Readings], str] = _nothing
    placeholder: Callable[[Readings], str] = _nothing
    read: Callable[[str, Readings], object] = _as_typed
    change: Callable[[Recipe, object], Recipe] | None = None
    matters: Callable[[Readings], bool] = always
    value: Callable[[Readings], object] | None = None
    chosen: Callable[[object, Readings], object] | None = None
    tip: str = ""
    tips: tuple[str, ...] = ()

    def value_in(self, readings: Readings) -> object:
        """The value that a figure has."""
        if self.value is not None:
            return self.value(readings)
        value: object = readings.recipe
        for key in self.path.split("."):
            value = getattr(value, key)
        return value

    def changed(self, recipe: Recipe, value: object) -> Recipe:
        """A recipe with another value.

        Raises
        ------
        Refusal
            No recipe holds it.
        """
        try:
            if self.change is not None:
                return self.change(recipe, value)
            changed = _changed(recipe, self.path.split("."), value)
            assert isinstance(changed, Recipe)
            return changed
        except ValueError as error:  # such as a bound that lies beyond the other
            words = str(error).partition(": ")[2] or str(error)
            raise Refusal(f"{words[0].upper()}{words[1:].rstrip('.')}.") from error

    def step_to(self, words: str, value: object) -> str:
        """What the change to a value is called."""
        if self.kind == "toggle":
            on, _, off = self.step.partition("|")
            return on if value else off
        return self.step.format(words) if words else f"{self.label} as usual"


def _changed(part: Part, path: Sequence[str], value: object) -> Part:
    """A part of the recipe with a value that lies somewhere in it changed."""
    key, *rest = path
    return part.changed(**{key: _changed(getattr(part, key), rest, value) if rest else value})


class Phrase(Struct, frozen=True):
    """One phrase of the sentence.

    Attributes
    ----------
    title : str
        Of its panel and its menu entry.
    keys : str
        That open it.
    said : callable
        Its words; the first phrases run on, later ones are clauses of their own.
    clause : bool
        Whether it is a clause of its own.
    matters : callable
        Whether the sentence has it now.
    alternatives : callable, optional
        The few that a click offers; without them it leads to the panel.
    facts : callable
        What the panel says first.
    hint : str
        What the panel says last.
    hinted : callable
        Whether that is about anything in this figure.
    parts : tuple of str
        Parts of the figure that lead to it when they are clicked.
    besides : callable
        Whether a figure can have it though the sentence does not say it, which is as usual then.
    """

    key: Key
    title: str
    keys: str
    said: Callable[[Readings], Said]
    clause: bool = False
    matters: Callable[[Readings], bool] = always
    alternatives: Callable[[Readings], list[Choice]] | None = None
    settings: tuple[Setting, ...] = ()
    facts: Callable[[Readings], str] = _nothing
    hint: str = ""
    hinted: Callable[[Readings], bool] = always
    parts: tuple[str, ...] = ()
    besides: Callable[[Readings], bool] = _never

    def applies(self, readings: Readings) -> bool:
        """Whether something in a figure follows from it, said or not."""
        return self.matters(readings) or self.besides(readings)


# What fields have in common


def number(
    what: str, least: float = -math.inf, most: float = math.inf, above: bool = False
) -> Callable[[str, Readings], float]:
    """A reader of numbers with the variable's unit or without, from ``least`` to ``most``.

    ``above`` leaves ``least`` itself out.
    """

    def read(text: str, readings: Readings) -> float:
        """The number that was typed."""
        value = number_typed(readings, text)
        if value is None:
            raise Refusal(
                f"{what} is to be a number, and {quoted(text)} is none. The figure is as it was."
            )
        if above and value <= least:
            raise Refusal(f"{what} must be above {exact(least)}.")
        if value < least or value > most:
            ends = (
                f"from {exact(least)} to {exact(most)}"
                if math.isfinite(most)
                else f"{exact(least)} or more"
            )
            raise Refusal(f"{what} must be {ends}.")
        return value

    return read


def or_usual(
    usual: object, read: Callable[[str, Readings], object]
) -> Callable[[str, Readings], object]:
    """A reader for which nothing typed means the usual value."""
    return lambda text, readings: read(text, readings) if text else usual


def place(what: str) -> Callable[[str, Readings], float]:
    """A reader of values of the variable, with its unit or without: numbers, or of dates a date or
    a number of days."""

    def read(text: str, readings: Readings) -> float:
        """The value that was typed."""
        if not isinstance(readings.variable, DateColumn):
            return number(what)(text, readings)
        days = read_place(re.sub(r"\s*d(ays?)?$", "", text, flags=re.IGNORECASE), True)
        if days is None:
            raise Refusal(f"{what} is to be a date such as 2026-05-31, and {quoted(text)} is none.")
        return days

    return read


def distance(what: str) -> Callable[[str, Readings], float]:
    """A reader of how far two values lie apart, above 0: a number with the variable's unit, or of
    dates days, or so many hours, minutes or weeks."""

    def read(text: str, readings: Readings) -> float:
        """The distance that was typed."""
        if not isinstance(readings.variable, DateColumn):
            return number(what, 0, above=True)(text, readings)
        days = read_distance(text)
        if days is None:
            raise Refusal(
                f"{what} is to be so many days, hours, minutes or weeks, such as 12 hours, and "
                f"{quoted(text)} is not."
            )
        if days <= 0:
            raise Refusal(f"{what} must be above 0.")
        return days

    return read


def read_distance(text: str) -> float | None:
    """Days, or so many weeks, hours, minutes or seconds, in days; None where the text is none of
    them."""
    typed = re.fullmatch(
        r"(.*?)\s*(weeks?|w|days?|d|hours?|h|minutes?|min|seconds?|s|)", text.strip().lower()
    )
    many = read_number(typed[1]) if typed else None
    if typed is None or many is None:
        return None
    times, parts = {"w": (7, 1), "h": (1, 24), "m": (1, 1_440), "s": (1, 86_400)}.get(
        typed[2][:1], (1, 1)
    )
    return many * times / parts


def in_unit(value: float | None, readings: Readings) -> str:
    """A value with the variable's unit, for a field; nothing for none."""
    return "" if value is None else readings.variable.format_with_unit(value)
