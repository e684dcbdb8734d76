"""Recipes as TOML text, with the steps that prepare the data, and the sentences that refuse a wrong
one."""

import datetime
import re
import tomllib
from collections.abc import Sequence
from typing import Any, TypeVar, get_args

import msgspec
import tomli_w

from rhabdos.data.date_bounds import date_bound_or_none
from rhabdos.data.preparing import AnyStep
from rhabdos.data.steps.step import Step
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.dress import LOOK_KEY, Dress
from rhabdos.figure.recipe.edge_text import read_edges, write_edges
from rhabdos.figure.recipe.plain_charts import PLAIN_CHARTS, PlainChart
from rhabdos.figure.recipe.recipe import PREPARE, VERSION, Recipe
from rhabdos.figure.recipe.toml_mistakes import allowed, explained, shown
from rhabdos.quoting import file_named, near_to, shortened_to


class RecipeError(Refusal):
    """A recipe cannot be read."""


_Struct = TypeVar("_Struct", bound=msgspec.Struct)
_MOST_DIGITS = 400  # of a whole number: the standard library takes quadratic time to read it
_LONG_NUMBER = re.compile(rf"(?m)^[^\n\"'#]*[=,\[\s][-+]?(0[xob])?[0-9a-fA-F_]{{{_MOST_DIGITS},}}")
MOST_PREPARED = 1_000  # steps of one recipe
"""Steps that one recipe may hold."""
_KINDS = get_args(AnyStep)
_STEPS: dict[str, type[Step]] = {str(kind.__struct_config__.tag): kind for kind in _KINDS}


class Work(msgspec.Struct, frozen=True):
    """What a recipe's file holds: steps that prepare the data, and the figure or the chart that is
    drawn of them, if it has one."""

    steps: tuple[Step, ...] = ()
    recipe: Recipe | None = None
    chart: PlainChart | None = None


def write_recipe(recipe: Recipe) -> str:
    """The recipe of a figure as TOML, without what is left at its default."""
    return write_work(Work((), recipe))


def write_work(work: Work) -> str:
    """Steps and a figure as TOML, without what is left at its default."""
    tables: dict[str, Any] = {"rhabdos": VERSION}
    if work.recipe is not None:
        tables |= figure_tables(work.recipe)
    if work.chart is not None:
        name = next(name for name, kind in PLAIN_CHARTS.items() if isinstance(work.chart, kind))
        tables[name] = without_none(msgspec.to_builtins(work.chart))
    if work.steps:
        tables[PREPARE] = step_tables(work.steps)
    return tomli_w.dumps(tables, multiline_strings=True)


def figure_tables(recipe: Recipe) -> dict[str, Any]:
    """The tables of a figure, without what is left at its default."""
    figure = msgspec.to_builtins(recipe)
    edges = recipe.bins.edges
    if edges and "…" in (text := write_edges(edges)) and read_edges(text) == edges:
        figure["bins"]["edges"] = text
    return without_empty(figure)


def step_tables(steps: Sequence[Step]) -> list[dict[str, Any]]:
    """The tables of steps, each with its kind first."""
    tables = [without_none(msgspec.to_builtins(step)) for step in steps]
    return [{"step": table.pop("step"), **table} for table in tables]


def refuse_unwritable(work: Work, before: Work) -> None:
    """Refuse a figure or a step that a recipe could not hold, so that whatever is shown can be
    saved; what stood there ``before`` is taken for granted.

    Raises
    ------
    RecipeError
        With the key and what it must be.
    """
    parts: list[tuple[msgspec.Struct | None, str]] = []
    if work.recipe != before.recipe:
        parts.append((work.recipe, "The figure"))
    if work.chart != before.chart:
        parts.append((work.chart, "The chart"))
    parts += [
        (step, f"Step {n}") for n, step in enumerate(work.steps, 1) if step not in before.steps
    ]
    for part, name in parts:
        if part is not None:
            converted(msgspec.to_builtins(part), type(part), name)


def without_empty(table: dict[str, Any]) -> dict[str, Any]:
    """A table without tables in it that say nothing."""
    kept = {
        key: without_empty(value) if isinstance(value, dict) else value
        for key, value in table.items()
    }
    return {key: value for key, value in kept.items() if value != {} and value != []}


def read_dress(text: str, name: str = "The look") -> Dress:
    """Read a look that was saved: TOML that begins with "rhabdos-look = 1", and holds the tables of
    a recipe that another figure can wear.

    Raises
    ------
    RecipeError
        The text is no TOML, of another version, or holds a key or value that looks do not have.
    """
    name = file_named(name)
    raw = parsed_toml(text, name)
    version = raw.pop(LOOK_KEY, None)
    if version != VERSION or isinstance(version, bool):
        raise RecipeError(f"{name} is no look: one begins with the line “{LOOK_KEY} = {VERSION}”.")
    return converted(raw, Dress, name)


def write_dress(dress: Dress) -> str:
    """A look as TOML, without what is as usual."""
    return tomli_w.dumps({LOOK_KEY: VERSION, **without_empty(msgspec.to_builtins(dress))})


def without_none(value: Any) -> Any:
    """A value without the keys that hold nothing, which TOML cannot write."""
    if isinstance(value, dict):
        return {key: without_none(part) for key, part in value.items() if part is not None}
    if isinstance(value, list | tuple):
        return [without_none(part) for part in value]
    return value


def read_recipe(text: str, name: str = "The recipe") -> Recipe:
    """Read the figure of a recipe, or say which key is wrong, what it holds and what it may hold.

    Raises
    ------
    RecipeError
        The text is no TOML, of another version, or holds a key or value that recipes do not have.
    """
    recipe = read_work(text, name).recipe
    if recipe is None:
        raise RecipeError(f"{file_named(name)}: show is missing. It must be {allowed(['show'])}.")
    return recipe


def read_work(text: str, name: str = "The recipe") -> Work:
    """Read a recipe with its steps; a text of steps alone has no figure.

    Raises
    ------
    RecipeError
        The text is no TOML, of another version, or holds a key or value that recipes do not have.
    """
    name = file_named(name)
    raw = parsed_toml(text, name)
    version = raw.pop("rhabdos", None)
    if version is None:
        raise RecipeError(
            f"{name}: rhabdos is missing. A recipe begins with the line “rhabdos = {VERSION}”."
        )
    if version != VERSION or isinstance(version, bool):
        raise RecipeError(
            f"{name}: rhabdos is {shown(version)}, but must be {VERSION}. "
            "The recipe may come from a newer Rhabdos; update, or change the line."
        )
    prepared = PREPARE in raw
    steps = steps_in(raw.pop(PREPARE, []), name)
    chart = _chart(raw, name)
    if (prepared or chart is not None) and not raw:
        return Work(steps, None, chart)
    return Work(steps, figure_in(raw, name), chart)


def figure_in(raw: dict[str, Any], name: str) -> Recipe:
    """The figure that tables hold, or a sentence that says what is wrong with them.

    Raises
    ------
    RecipeError
        With the key, after the name.
    """
    raw = _plain(raw)
    bins, curve = raw.get("bins"), raw.get("curve")
    if isinstance(bins, dict):
        typed = bins.get("edges")
        text = ", ".join(map(str, typed)) if isinstance(typed, list) else typed
        dates = isinstance(text, str) and re.search(r"\d{4}-\d\d-\d\d", text) is not None
        if isinstance(text, str) and (dates or not isinstance(typed, list)):
            try:
                bins["edges"] = read_edges(text, dates)
            except Refusal as refusal:
                raise RecipeError(f"{name}: bins.edges is {shown(typed)}. {refusal}") from None
    for table, keys in ((bins, ("start",)), (curve, ("lower", "upper"))):
        if isinstance(table, dict):
            table |= {key: _days(table[key]) for key in keys if key in table}
    axes = raw.get("axes")
    along = axes.get("value") if isinstance(axes, dict) else None
    if isinstance(along, dict):
        for key in ("ticks", "words"):
            if isinstance(listed := along.get(key), list):
                along[key] = [_day_of_pair(each) for each in listed]
    return converted(raw, Recipe, name)


def _day_of_pair(listed: Any) -> Any:
    """A date, or the date of a pair, as days since 1970."""
    return [_days(listed[0]), *listed[1:]] if listed and isinstance(listed, list) else _days(listed)


def _days(place: Any) -> Any:
    """A date as days since 1970; everything else as it is."""
    days = date_bound_or_none(place, False) if isinstance(place, str) else None
    return place if days is None else days


def parsed_toml(text: str, name: str) -> dict[str, Any]:
    """What a text of TOML holds, or a sentence that says where it is none.

    Raises
    ------
    RecipeError
        With the line.
    """
    if long := _LONG_NUMBER.search(text):
        line = text.count("\n", 0, long.start()) + 1
        raise RecipeError(
            f"{name} holds a number of over {_MOST_DIGITS} digits in line {line:,}. Write it "
            "shorter."
        )
    try:
        return tomllib.loads(text)
    except RecursionError:
        raise RecipeError(
            f"{name} holds tables or lists within one another, too deep to follow."
        ) from None
    except ValueError as error:  # also of whole numbers with thousands of digits
        raise RecipeError(
            f"{name} is not valid TOML: {shortened_to(120, str(error))}. Correct that line."
        ) from error


def _chart(raw: dict[str, Any], name: str) -> PlainChart | None:
    """The chart that a recipe draws in place of its figure, taken out of it."""
    keys = [key for key in PLAIN_CHARTS if key in raw]
    if len(keys) > 1:
        raise RecipeError(
            f"{name} has [{keys[0]}] and [{keys[1]}], each of which is a chart by itself. "
            "Leave one of them out."
        )
    for key in keys:
        table = raw.pop(key)
        if not isinstance(table, dict):
            raise RecipeError(
                f"{name}: {key} is {shown(table)}, but must be a table, which begins with [{key}]."
            )
        return converted(table, PLAIN_CHARTS[key], f"{name}: {key}")
    return None


def converted(raw: dict[str, Any], struct: type[_Struct], name: str) -> _Struct:
    """A table of TOML as a value, or a sentence that says what is wrong with it.

    Raises
    ------
    RecipeError
        With the key, what it holds, and what it may hold.
    """
    try:
        return msgspec.convert(raw, struct)
    except msgspec.ValidationError as error:
        raise RecipeError(f"{name}: {explained(str(error), raw, struct)}") from None
    except (ValueError, OverflowError, RecursionError):
        raise RecipeError(
            f"{name} holds a number or a table that is too large to read. Correct it."
        ) from None


def steps_in(raw: Any, name: str) -> tuple[Step, ...]:
    """The steps of preparing, each by its kind.

    Raises
    ------
    RecipeError
        With the number of the step that is wrong.
    """
    if not isinstance(raw, list) or not all(isinstance(step, dict) for step in raw):
        raise RecipeError(
            f"{name}: {PREPARE} is {shown(raw)}, but must be a list of tables, each of which "
            f"begins with [[{PREPARE}]]."
        )
    if len(raw) > MOST_PREPARED:
        raise RecipeError(f"{name} has {len(raw):,} steps; at most {MOST_PREPARED:,} are done.")
    steps = []
    for index, table in enumerate(raw, 1):
        kind = table.get("step")
        if not isinstance(kind, str) or kind not in _STEPS:
            here = f"is {shown(kind)}, but must be" if kind is not None else "is missing. It is"
            near = near_to(kind, list(_STEPS), 1) if isinstance(kind, str) else []
            hint = f" Did you mean {near[0]}?" if near else ""
            raise RecipeError(
                f"{name}: the step of {PREPARE} {index} {here} one of {', '.join(_STEPS)}.{hint}"
            )
        where = f"{name}: {PREPARE} {index} ({kind})"
        steps.append(converted(_plain(table), _STEPS[kind], where))
    return tuple(steps)


def _plain(value: Any) -> Any:
    """TOML's own dates as texts."""
    if isinstance(value, dict):
        return {key: _plain(part) for key, part in value.items()}
    if isinstance(value, list):
        return [_plain(part) for part in value]
    if isinstance(value, datetime.date | datetime.time):
        return value.isoformat(" ") if isinstance(value, datetime.datetime) else value.isoformat()
    return value
