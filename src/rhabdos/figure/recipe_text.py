"""Recipes as TOML text, and the sentences that refuse a wrong one."""

import re
import tomllib
from typing import Any, get_args, get_type_hints

import msgspec
import tomli_w

from rhabdos.errors import Refusal
from rhabdos.figure.edge_text import read_edges, write_edges
from rhabdos.figure.recipe import VERSION, Recipe
from rhabdos.quoting import LONGEST_QUOTED, file_named, near_to, quoted, shortened_to


class RecipeError(Refusal):
    """A recipe cannot be read."""


def write_recipe(recipe: Recipe) -> str:
    """The recipe as TOML, without what is left at its default."""
    tables = msgspec.to_builtins(recipe)
    edges = recipe.bins.edges
    if edges and "…" in (text := write_edges(edges)) and read_edges(text) == edges:
        tables["bins"]["edges"] = text
    return tomli_w.dumps(
        {"rhabdos": VERSION, **{name: table for name, table in tables.items() if table}}
    )


def read_recipe(text: str, name: str = "The recipe") -> Recipe:
    """Read a recipe, or say which key is wrong, what it holds and what it may hold.

    Raises
    ------
    RecipeError
        The text is no TOML, of another version, or holds a key or value that recipes do not have.
    """
    name = file_named(name)
    try:
        raw = tomllib.loads(text)
    except RecursionError:
        raise RecipeError(
            f"{name} holds tables or lists within one another, too deep to follow."
        ) from None
    except ValueError as error:  # also of whole numbers with thousands of digits
        raise RecipeError(
            f"{name} is not valid TOML: {shortened_to(120, str(error))}. Correct that line."
        ) from error
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
    bins = raw.get("bins")
    if isinstance(bins, dict) and isinstance(typed := bins.get("edges"), str):
        try:
            bins["edges"] = read_edges(typed)
        except Refusal as refusal:
            raise RecipeError(f"{name}: bins.edges is {_shown(typed)}. {refusal}") from None
    try:
        return msgspec.convert(raw, Recipe)
    except msgspec.ValidationError as error:
        raise RecipeError(f"{name}: {_explained(str(error), raw)}") from None
    except (ValueError, OverflowError, RecursionError):
        raise RecipeError(
            f"{name} holds a number or a table that is too large to read. Correct it."
        ) from None


def _explained(complaint: str, raw: dict[str, Any]) -> str:
    parted = re.fullmatch(r"(.*?)(?: - at `(\$.*)`)?", complaint, re.DOTALL)
    problem, place = (parted[1], parted[2] or "$") if parted else (complaint, "$")
    keys = [
        part for part in re.split(r"[.\[\]]+", place.removeprefix("$")) if part and part != "..."
    ]
    if unknown := re.search(r"unknown field `(.+)`", problem):
        return _unknown_key([*keys, unknown[1]], raw)
    if lacking := re.search(r"missing required field `(.+)`", problem):
        path = [*keys, lacking[1]]
        return f"{'.'.join(path)} is missing. It must be {_allowed(path)}."
    keys = [key for key in keys if not key.isdecimal()]  # a list is refused as a whole
    own = re.fullmatch(r"(\w+): (.+)", problem, re.DOTALL)
    if own and own[1] in _known_keys(keys):
        path = [*keys, own[1]]
        return (
            f"{'.'.join(path)} is {_shown(_value_at(raw, path))}. "
            f"{own[2][0].upper()}{own[2][1:].rstrip('.')}."
        )
    return (
        f"{'.'.join(keys) or 'the recipe'} is {_shown(_value_at(raw, keys))}, but must be "
        f"{_allowed(keys)}."
    )


def _unknown_key(path: list[str], raw: dict[str, Any]) -> str:
    known = _known_keys(path[:-1])
    near = near_to(path[-1], known, 1)
    hint = f" Did you mean {'.'.join([*path[:-1], near[0]])}?" if near else ""
    where = ".".join(path[:-1]) or "the recipe"
    value, key = _shown(_value_at(raw, path)), shortened_to(40, ".".join(path))
    return (
        f"{key} (here {value}) is not a key of a recipe.{hint} Keys of {where} are "
        f"{', '.join(known)}."
    )


def _known_keys(path: list[str]) -> list[str]:
    names = [field.name for field in msgspec.structs.fields(_struct_at(path))]
    return names if path else ["rhabdos", *names]


def _struct_at(path: list[str]) -> type[msgspec.Struct]:
    struct = _struct_in(_hint_at(path))
    assert struct is not None
    return struct


def _hint_at(path: list[str]) -> Any:
    """The type of what stands at a path of a recipe."""
    hint: Any = Recipe
    for key in path:
        struct = _struct_in(hint)
        hint = get_type_hints(struct, include_extras=True).get(key) if struct else None
    return hint


def _struct_in(hint: Any) -> type[msgspec.Struct] | None:
    """The table that a type is, by itself or as "table or None"."""
    for part in (hint, *get_args(hint)):
        if isinstance(part, type) and issubclass(part, msgspec.Struct):
            return part
    return None


def _allowed(path: list[str]) -> str:
    """What a key may hold, from the description beside its type."""
    hint = _hint_at(path)
    for part in [hint, *get_args(hint)]:  # the description may stand within "… | None"
        for meta in getattr(part, "__metadata__", ()):
            if isinstance(meta, msgspec.Meta) and meta.description:
                return meta.description
    return f"a table of {', '.join(_known_keys(path))}"


def _value_at(raw: Any, path: list[str]) -> Any:
    for key in path:
        if isinstance(raw, dict) and key in raw:
            raw = raw[key]
        elif isinstance(raw, list) and key.isdecimal() and int(key) < len(raw):
            raw = raw[int(key)]
    return raw


def _shown(value: Any) -> str:
    if isinstance(value, str):
        return quoted(value)
    if isinstance(value, bool):
        return str(value).lower()
    try:
        return shortened_to(LONGEST_QUOTED, str(value))
    except (ValueError, RecursionError):  # a number of thousands of digits, or tables within tables
        return "too long to repeat"
