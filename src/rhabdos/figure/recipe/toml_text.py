"""Recipes as TOML text, with the steps that prepare the data, and the sentences that refuse a wrong
one."""

import datetime
import re
import tomllib
from collections.abc import Sequence
from itertools import islice
from typing import Any, TypeVar, get_args, get_type_hints

import msgspec
import tomli_w

from rhabdos.data.preparing import AnyStep
from rhabdos.data.steps.step import Step
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.dress import Dress
from rhabdos.figure.recipe.edge_text import read_edges, write_edges
from rhabdos.figure.recipe.plain_charts import LevelBars, PlainChart, Scatter
from rhabdos.figure.recipe.recipe import VERSION, Recipe
from rhabdos.quoting import LONGEST_QUOTED, file_named, near_to, quoted, shortened_to
from rhabdos.wording import listed_within


class RecipeError(Refusal):
    """A recipe cannot be read."""


_Struct = TypeVar("_Struct", bound=msgspec.Struct)
_Root = type[msgspec.Struct]
_PLAIN_KINDS: tuple[tuple[type, str], ...] = (
    (bool, "true or false"),
    (str, "text"),
    (float, "a number"),
    (int, "a whole number"),
)


_MOST_DIGITS = 400  # of a whole number: the standard library takes quadratic time to read it
_MOST_SHOWN = 40  # letters of a wrong value that a sentence quotes
_LONG_NUMBER = re.compile(rf"(?m)^[^\n\"'#]*[=,\[\s][-+]?(0[xob])?[0-9a-fA-F_]{{{_MOST_DIGITS},}}")
LOOK_KEY = "rhabdos-look"
MOST_PREPARED = 1_000  # steps of one recipe
"""Steps that one recipe may hold."""
PREPARE = "prepare"
PLAIN_CHARTS: dict[str, type[LevelBars] | type[Scatter]] = {"levels": LevelBars, "scatter": Scatter}
_KINDS = get_args(AnyStep)
_STEPS: dict[str, type[Step]] = {str(kind.__struct_config__.tag): kind for kind in _KINDS}


class Work(msgspec.Struct, frozen=True):
    """What a recipe's file holds: steps that prepare the data, and the figure or the chart that is
    drawn of them, if it has one."""

    steps: tuple[Step, ...] = ()
    recipe: Recipe | None = None
    chart: PlainChart | None = None


_LONGEST_KEY, _KEYS = 40, 180  # letters of one whose value is told too, and of a list of all


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
        raise RecipeError(f"{file_named(name)}: show is missing. It must be {_allowed(['show'])}.")
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
            f"{name}: rhabdos is {_shown(version)}, but must be {VERSION}. "
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
    bins = raw.get("bins")
    if isinstance(bins, dict) and isinstance(typed := bins.get("edges"), str):
        try:
            bins["edges"] = read_edges(typed)
        except Refusal as refusal:
            raise RecipeError(f"{name}: bins.edges is {_shown(typed)}. {refusal}") from None
    return converted(raw, Recipe, name)


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
    for key, kind in PLAIN_CHARTS.items():
        if isinstance(table := raw.get(key), dict):
            del raw[key]
            return converted(table, kind, f"{name}: {key}")
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
        raise RecipeError(f"{name}: {_explained(str(error), raw, struct)}") from None
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
            f"{name}: {PREPARE} is {_shown(raw)}, but must be a list of tables, each of which "
            f"begins with [[{PREPARE}]]."
        )
    if len(raw) > MOST_PREPARED:
        raise RecipeError(f"{name} has {len(raw):,} steps; at most {MOST_PREPARED:,} are done.")
    steps = []
    for index, table in enumerate(raw, 1):
        kind = table.get("step")
        if not isinstance(kind, str) or kind not in _STEPS:
            here = f"is {_shown(kind)}, but must be" if kind is not None else "is missing. It is"
            near = near_to(kind, list(_STEPS), 1) if isinstance(kind, str) else []
            hint = f" Did you mean {near[0]}?" if near else ""
            raise RecipeError(
                f"{name}: the step of {PREPARE} {index} {here} one of {', '.join(_STEPS)}.{hint}"
            )
        where = f"{name}: {PREPARE} {index} ({kind})"
        steps.append(converted(_plain(table), _STEPS[kind], where))
    return tuple(steps)


def _plain(value: Any) -> Any:
    """TOML's own dates as the texts that steps hold."""
    if isinstance(value, dict):
        return {key: _plain(part) for key, part in value.items()}
    if isinstance(value, list):
        return [_plain(part) for part in value]
    if isinstance(value, datetime.date | datetime.time):
        return value.isoformat(" ") if isinstance(value, datetime.datetime) else value.isoformat()
    return value


def _explained(complaint: str, raw: dict[str, Any], root: _Root) -> str:
    parted = re.fullmatch(r"(.*?)(?: - at `(\$.*)`)?", complaint, re.DOTALL)
    problem, place = (parted[1], parted[2] or "$") if parted else (complaint, "$")
    keys = [
        part for part in re.split(r"[.\[\]]+", place.removeprefix("$")) if part and part != "..."
    ]
    if unknown := re.search(r"unknown field `(.+)`", problem):
        return _unknown_key([*keys, unknown[1]], raw, root)
    if lacking := re.search(r"missing required field `(.+)`", problem):
        path = [*keys, lacking[1]]
        return f"{_path_told(path)} is missing. It must be {_allowed(path, root)}."
    own = re.fullmatch(r"(\w+): (.+)", problem, re.DOTALL)
    while keys and keys[-1].isdecimal() and not (own and own[1] in _known_keys(keys, root)):
        keys.pop()  # a list is refused as a whole
    if own and own[1] in _known_keys(keys, root):
        path = [*keys, own[1]]
        return (
            f"{_path_told(path)} is {_shown(_value_at(raw, path))}. "
            f"{own[2][0].upper()}{own[2][1:].rstrip('.')}."
        )
    return (
        f"{_path_told(keys) or _called(root)} is {_shown(_value_at(raw, keys))}, but must be "
        f"{_allowed(keys, root)}."
    )


def _unknown_key(path: list[str], raw: dict[str, Any], root: _Root) -> str:
    known = _known_keys(path[:-1], root)
    near = near_to(path[-1], known, 1)
    hint = f" Did you mean {_path_told([*path[:-1], near[0]])}?" if near else ""
    where = _path_told(path[:-1]) or _called(root)
    value, key = _shown(_value_at(raw, path)), shortened_to(40, _path_told(path))
    here = f" (here {value})" if len(path[-1]) <= _LONGEST_KEY else ""
    whose = "a recipe" if root is Recipe else "a look" if root is Dress else "it"
    keys = sorted(known, key=lambda each: each.endswith("_style"))  # what is asked for least, last
    listed = listed_within(_KEYS, keys)
    return f"{key}{here} is not a key of {whose}.{hint} Keys of {where} are {listed}."


def _called(root: _Root) -> str:
    if root in (Recipe, Dress):
        return "the recipe" if root is Recipe else "the look"
    if issubclass(root, Step):
        return "this step"
    return getattr(root, "called", "it")


def _known_keys(path: list[str], root: _Root = Recipe) -> list[str]:
    struct = _struct_at(path, root)
    names = [field.encode_name for field in msgspec.structs.fields(struct)]
    if path:
        return names
    if root is Recipe:
        return ["rhabdos", *names, *PLAIN_CHARTS, PREPARE]
    if root is Dress:
        return [LOOK_KEY, *names]
    return ["step", *names] if issubclass(root, Step) else names


def _path_told(path: list[str]) -> str:
    """A path as people read it, places in lists counted from 1: "where 2.variable"."""
    told = ""
    for key in path:
        told += f" {int(key) + 1}" if key.isdecimal() else f".{key}" if told else key
    return told


def _named(path: list[str]) -> list[str]:
    """A path without the places in lists, which have no names."""
    return [key for key in path if not key.isdecimal()]


def _struct_at(path: list[str], root: _Root) -> type[msgspec.Struct]:
    struct = _struct_in(_hint_at(path, root))
    assert struct is not None
    return struct


def _hint_at(path: list[str], root: _Root) -> Any:
    """The type of what stands at a path of a recipe or of a step."""
    hint: Any = root
    for key in _named(path):
        struct = _struct_in(hint)
        if struct is None:
            return None
        fields = {field.encode_name: field.name for field in msgspec.structs.fields(struct)}
        hint = get_type_hints(struct, include_extras=True).get(fields.get(key, key))
    return hint


def _struct_in(hint: Any) -> type[msgspec.Struct] | None:
    """The table that a type is, by itself, as "table or None", or in a list of them."""
    if isinstance(hint, type) and issubclass(hint, msgspec.Struct):
        return hint
    return next((struct for part in get_args(hint) if (struct := _struct_in(part))), None)


def _allowed(path: list[str], root: _Root = Recipe) -> str:
    """What a key may hold, from the description beside its type."""
    hint = _hint_at(path, root)
    for part in [hint, *get_args(hint)]:  # the description may stand within "… | None"
        for meta in getattr(part, "__metadata__", ()):
            if isinstance(meta, msgspec.Meta) and meta.description:
                return meta.description
    if getattr(hint, "__origin__", None) is dict and _struct_in(hint) is None:
        return "a table of names and values"
    for plain, words in _PLAIN_KINDS:
        if plain in (hint, *get_args(hint)):
            return words
    if _struct_in(hint) is None:
        return "a list"
    return f"a table of {', '.join(_known_keys(path, root))}"


def _value_at(raw: Any, path: list[str]) -> Any:
    for key in path:
        if isinstance(raw, dict) and key in raw:
            raw = raw[key]
        elif isinstance(raw, list) and key.isdecimal() and int(key) < len(raw):
            raw = raw[int(key)]
    return raw


def _shown(value: Any) -> str:
    """A value as TOML writes it; of tables, that they are some."""
    if isinstance(value, str):
        return quoted(value)
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, dict):
        return "a table"
    try:
        if isinstance(value, list | tuple):
            if any(isinstance(part, dict) for part in value):
                return "a list of tables"
            parts = (f'"{part}"' if isinstance(part, str) else _shown(part) for part in value)
            return shortened_to(LONGEST_QUOTED, f"[{', '.join(islice(parts, _MOST_SHOWN))}]")
        return shortened_to(LONGEST_QUOTED, str(value))
    except (ValueError, RecursionError):  # a number of thousands of digits, or lists within lists
        return "too long to repeat"
