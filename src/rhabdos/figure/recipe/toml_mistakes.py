"""Sentences that say what is wrong with a table of TOML, where, and what may stand there."""

import re
from itertools import islice
from typing import Any, get_args, get_type_hints

import msgspec

from rhabdos.data.steps.step import Step
from rhabdos.figure.recipe.dress import LOOK_KEY, Dress
from rhabdos.figure.recipe.plain_charts import PLAIN_CHARTS
from rhabdos.figure.recipe.recipe import PREPARE, Recipe
from rhabdos.quoting import LONGEST_QUOTED, near_to, quoted, shortened_to
from rhabdos.wording import listed_within

_Root = type[msgspec.Struct]
_PLAIN_KINDS: tuple[tuple[type, str], ...] = (
    (bool, "true or false"),
    (str, "text"),
    (float, "a number"),
    (int, "a whole number"),
)
_MOST_SHOWN = 40  # values of a list that a sentence quotes
_LONGEST_KEY, _KEYS = 40, 180  # letters of one whose value is told too, and of a list of all


def explained(complaint: str, raw: dict[str, Any], root: _Root) -> str:
    """What is wrong with a table, and what may stand there.

    ``complaint`` is what reading it as ``root`` was refused with.
    """
    parted = re.fullmatch(r"(.*?)(?: - at `(\$.*)`)?", complaint, re.DOTALL)
    problem, place = (parted[1], parted[2] or "$") if parted else (complaint, "$")
    keys = [
        part for part in re.split(r"[.\[\]]+", place.removeprefix("$")) if part and part != "..."
    ]
    if unknown := re.search(r"unknown field `(.+)`", problem):
        return _unknown_key([*keys, unknown[1]], raw, root)
    if lacking := re.search(r"missing required field `(.+)`", problem):
        path = [*keys, lacking[1]]
        return f"{_path_told(path)} is missing. It must be {allowed(path, root)}."
    own = re.fullmatch(r"(\w+): (.+)", problem, re.DOTALL)
    while keys and keys[-1].isdecimal() and not (own and own[1] in _known_keys(keys, root)):
        keys.pop()  # a list is refused as a whole
    if own and own[1] in _known_keys(keys, root):
        path = [*keys, own[1]]
        return (
            f"{_path_told(path)} is {shown(_value_at(raw, path))}. "
            f"{own[2][0].upper()}{own[2][1:].rstrip('.')}."
        )
    return (
        f"{_path_told(keys) or _called(root)} is {shown(_value_at(raw, keys))}, but must be "
        f"{allowed(keys, root)}."
    )


def _unknown_key(path: list[str], raw: dict[str, Any], root: _Root) -> str:
    known = _known_keys(path[:-1], root)
    near = near_to(path[-1], known, 1)
    hint = f" Did you mean {_path_told([*path[:-1], near[0]])}?" if near else ""
    where = _path_told(path[:-1]) or _called(root)
    value, key = shown(_value_at(raw, path)), shortened_to(40, _path_told(path))
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


def allowed(path: list[str], root: _Root = Recipe) -> str:
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


def shown(value: Any) -> str:
    """A value as TOML writes it; of tables, that they are some."""
    if isinstance(value, str):
        return quoted(value)
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, dict):
        return "a table"
    try:
        if isinstance(value, list | tuple):
            if value and all(isinstance(part, dict) for part in value):
                return "a list of tables"
            parts = (f'"{part}"' if isinstance(part, str) else shown(part) for part in value)
            return shortened_to(LONGEST_QUOTED, f"[{', '.join(islice(parts, _MOST_SHOWN))}]")
        return shortened_to(LONGEST_QUOTED, str(value))
    except (ValueError, RecursionError):  # a number of thousands of digits, or lists within lists
        return "too long to repeat"
