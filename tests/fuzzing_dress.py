"""Random axes, looks, words and texts for the recipes of the fuzzer."""

import json
import random
from collections.abc import Sequence

_DATE = '"2026-05-31"'
_MARKUP = (
    "{up 2}", "{down i}", "{slant x}", "{bold {slant y}}", "{mu}", "{n}", "{mean of A}", "{", "}",
    "{{n}}", "{nothing}", "{up {up {up 1}}}", "{mean of }", "{ }", "a{up }b",
)  # fmt: skip
_AXIS = (
    ("from", ("numbers",)),
    ("to", ("numbers",)),
    ("ticks", ("5", "[0, 40, 60]", "[]", '"edges"', '"middles"', '"none"', "numbers")),
    ("whole", ("true",)),
    ("decimals", ("0", "3", "12", "13")),
    ("thousands", ('" "', '"."', '""', '","')),
    ("decimal", ('","', '"."')),
    ("numbers", ('"plain"', '"powers"', '"percent"')),
    ("turn", ("0", "45", "90", "30")),
    ("tick_marks", ('"inside"', '"none"')),
    ("grid", ("true", "false")),
    ("words", ('[[0, "none"]]', '[[60, "some"], [1e300, "all"]]', '[[-1, ""]]', "[]")),
)
_VALUE = (
    *_AXIS,
    ("scale", ('"log"', '"linear"', '"root"', '"arsinh"')),
    ("scale", ('"arsinh"\nnear = 5', '"arsinh"\nnear = 1e-300', '"arsinh"\nnear = 1e300')),
    ("reversed", ("true",)),
)
_HEIGHT = (*_AXIS, ("second", ('"percent"', '"count"', '"density"')))
_FRAME = (("frame", ('["left", "bottom"]', "[]", '["top", "top"]')), ("aspect", ("0.5", "2", "11")))
_LOOK = (
    ("base", ('"paper"', '"slide"', '"ink"', '"night"')),
    ("palette", ('"kelp"', '"dusk"', '"black"', '"lamp"', '"rainbow"')),
    ("colours", ('{A = "#AA0000"}', '{"no bay" = "#00ff00"}', '{A = "red"}')),
    ("see_through", ("0", "1", "0.5", "numbers")),
    ("outline", ("0", "3", "numbers")),
    ("curve", ("0", "2")),
    ("box", ("0", "1.5")),
    ("dashes", ('"dotted"', '"by-group"')),
    ("hatching", ("true",)),
    ("point", ('"cross"', '"ring"', '"square"')),
    ("point_size", ("1", "20")),
    ("ink", ('"#000000"',)),
    ("paper", ('"#102030"',)),
    ("ground", ('"#EEEEEE"',)),
    ("font", ('"Nowhere Sans"', '"DejaVu Sans"', '""')),
    ("letters", ("0.5", "1.7", "3")),
)
_STYLE = (
    ("place", ('"left"', '"middle"', '"right"')),
    ("size", ("3", "20", "72", "numbers")),
    ("bold", ("true", "false")),
    ("slant", ("true",)),
    ("colour", ('"#123456"',)),
    ("ground", ('"#FFF3C4"', '"none"')),
    ("border", ('"#222222"',)),
    ("padding", ("0", "30", "numbers")),
)
_STYLED = (
    "title_style", "subtitle_style", "note_style", "value_axis_style", "height_axis_style",
    "legend_title_style", "levels_style", "panels_style", "numbers_style",
)  # fmt: skip


def dress(rng: random.Random, words: Sequence[str], numbers: Sequence[str]) -> list[str]:
    """Lines of tables to stand at the end of a recipe."""
    lines: list[str] = []
    for table, keys in (
        ("axes.value", _VALUE),
        ("axes.height", _HEIGHT),
        ("axes", _FRAME),
        ("look", _LOOK),
    ):
        if rng.random() < 0.4:
            lines += _table(rng, f"[{table}]", keys, numbers)
    if rng.random() < 0.4:
        style = rng.choice(_STYLED)
        lines += _table(rng, f"[words.{style}]", _STYLE, numbers)
    if rng.random() < 0.2:
        name, shown = rng.choice(("A", "B", "no bay")), json.dumps(marked(rng, words))
        lines += ["[words.names]", f"{json.dumps(name)} = {shown}"]
    for _ in range(rng.choice((0, 0, 1, 3))):
        lines += ["[[text]]", f"text = {json.dumps(marked(rng, words))}"]
        lines.append(f"value = {rng.choice(('60', '70.5', _DATE, *numbers))}")
        if rng.random() < 0.5:
            lines.append(f"height = {rng.choice(('3', *numbers))}")
        if rng.random() < 0.5:
            height = rng.choice(("height = 1", "share = 0.2", "share = 2"))
            lines.append(f"arrow = {{value = {rng.choice(('50', *numbers))}, {height}}}")
    for _ in range(rng.choice((0, 0, 0, 1, 2))):
        ends = (rng.choice(("60", "70.5", "80", _DATE, *numbers)) for _ in range(2))
        lines += [
            "[[range]]",
            *(f"{key} = {end}" for key, end in zip(("from", "to"), ends, strict=True)),
        ]
        if rng.random() < 0.5:
            lines.append(f"words = {json.dumps(marked(rng, words))}")
        if rng.random() < 0.2:
            lines.append(f"panel = {json.dumps(rng.choice(words))}")
    return lines


def marked(rng: random.Random, words: Sequence[str]) -> str:
    """Words with markup in them."""
    return "".join(rng.choice((*_MARKUP, " ", rng.choice(words))) for _ in range(rng.randint(1, 6)))


def _table(
    rng: random.Random,
    header: str,
    keys: Sequence[tuple[str, Sequence[str]]],
    numbers: Sequence[str],
) -> list[str]:
    lines = [header]
    picked = dict(rng.sample(keys, rng.randint(1, min(4, len(keys)))))  # each key once
    for key, values in picked.items():
        value = rng.choice(values)
        lines.append(f"{key} = {rng.choice(numbers) if value == 'numbers' else value}")
    return lines
