"""Hostile steps of preparing, for the search in ``fuzzing``."""

import json
import random

WORDS = ("A", "B", "north bay", "Z", "", "Möwe", "1,5", "x" * 80, "<b>", "\u202eabc", "n/a")
KINDS = ("number", "category", "ordered category", "label", "date/time", "yes/no")
WAYS = (
    *("log", "root", "reciprocal", "standardised", "difference", "sum", "ratio", "classes"),
    *("year", "month", "weekday", "hour"),
)


def steps(rng: random.Random, names: list[str], numbers: tuple[str, ...], beside: str) -> str:
    """A few tables of steps, most of which make sense; ``beside`` is a file that can be joined."""
    some = []
    for _ in range(rng.randint(0, 4)):
        kind = rng.choice(list(_MAKERS))
        some.append(f'[[prepare]]\nstep = "{kind}"\n' + _MAKERS[kind](rng, names, numbers, beside))
        if rng.random() < 0.1:
            some[-1] += "off = true\n"
    if rng.random() < 0.05:
        some.insert(0, '[[prepare]]\nstep = "read"\n' + _read(rng))
    return "".join(f"\n{step}" for step in some)


def text(word: str) -> str:
    return json.dumps(word, ensure_ascii=any(ord(c) < 32 or ord(c) == 127 for c in word))


def _name(rng, names):
    return text(rng.choice((*names, *("Length", "Length", "Bay", "n"))))


def _missing(rng, names, numbers, _beside):
    codes = ", ".join(
        rng.choice((*numbers, text(rng.choice(WORDS)))) for _ in range(rng.randint(1, 3))
    )
    return f"variable = {_name(rng, names)}\ncodes = [{codes}]\n"


def _kind(rng, names, _numbers, _beside):
    lines = f"variable = {_name(rng, names)}\nkind = {text(rng.choice(KINDS))}\n"
    if rng.random() < 0.4:
        lines += rng.choice(
            (
                'decimal = ","\n',
                'thousands = "."\n',
                'unit = "mm"\n',
                'order = "day month year"\n',
                'order = "days since 1900"\n',
            )
        )
    return lines


def _describe(rng, names, _numbers, _beside):
    return f"variable = {_name(rng, names)}\nlabel = {text(rng.choice(WORDS))}\nunit = {text(rng.choice(WORDS))}\n"


def _levels(rng, names, _numbers, _beside):
    become = ", ".join(
        f"{text(rng.choice(('A', 'B', 'C')) + ' ' * i)} = {text(rng.choice(WORDS))}"
        for i in range(rng.randint(1, 2))
    )
    return f"variable = {_name(rng, names)}\nbecome = {{{become}}}\n"


def _recode(rng, names, numbers, _beside):
    pairs = (
        f"{text(rng.choice(('', 'A', 'n/a', *numbers, *WORDS)))} = {text(rng.choice(('B', '0', *numbers, *WORDS)))}"
        for _ in range(rng.randint(1, 2))
    )
    return (
        f"variable = {_name(rng, names)}\n[prepare.become]\n"
        + "\n".join(dict.fromkeys(pairs))
        + "\n"
    )


def _fill(rng, names, _numbers, _beside):
    return f"variables = [{', '.join(_name(rng, names) for _ in range(rng.randint(1, 2)))}]\n"


def _order(rng, names, _numbers, _beside):
    levels = ", ".join(text(rng.choice(WORDS)) for _ in range(rng.randint(1, 4)))
    return f"variable = {_name(rng, names)}\nlevels = [{levels}]\n"


def _bounds(rng, names, numbers, _beside):
    return f"variable = {_name(rng, names)}\nlower = {rng.choice(numbers)}\nupper = {rng.choice(numbers)}\n"


def _condition(rng, names, numbers):
    what = rng.choice(
        (
            f"from = {rng.choice(numbers)}, to = {rng.choice(numbers)}",
            f"above = {rng.choice(numbers)}",
            f"below = {rng.choice(numbers)}",
            f"levels = [{text(rng.choice(WORDS))}, {text('A')}]",
            f"contains = {text(rng.choice(WORDS))}",
            "missing = false",
            "missing = true",
            "from = 2020-01-01",
            'to = "2026-05-31"',
        )
    )
    other = ", other = true" if rng.random() < 0.2 else ""
    return f"{{variable = {_name(rng, names)}, {what}{other}}}"


def _keep(rng, names, numbers, _beside):
    where = ", ".join(_condition(rng, names, numbers) for _ in range(rng.randint(1, 3)))
    return f"where = [{where}]\n" + rng.choice(("", "any = true\n", "out = true\n"))


def _make(rng, names, numbers, _beside):
    of = ", ".join(_name(rng, names) for _ in range(rng.randint(1, 2)))
    more = rng.choice(
        (
            "",
            "",
            f"base = {rng.choice(numbers)}\n",
            'base = "e"\n',
            "edges = [0, 60, 70]\n",
            "quantiles = 4\n",
        )
    )
    return f"name = {text(rng.choice(('new', 'Length', *WORDS)))}\nby = {text(rng.choice(WAYS))}\nof = [{of}]\n{more}"


def _join(rng, names, _numbers, beside):
    file = rng.choice((beside, beside, "none.csv"))
    return f"file = {text(file)}\nkeys = [{_name(rng, names)}]\nkeep = {text(rng.choice(('matched', 'this', 'both')))}\n"


def _stack(rng, _names, _numbers, beside):
    return f"files = [{text(beside)}]\nfactor = {text(rng.choice(('Table', 'Bay', *WORDS)))}\n"


def _gather(rng, names, _numbers, _beside):
    return f"variables = [{_name(rng, names)}, {_name(rng, names)}]\nnumber = {text(rng.choice(('v', *WORDS)))}\ngroup = {text(rng.choice(('g', *WORDS)))}\n"


def _read(rng):
    return rng.choice(
        (
            'separator = ";"\n',
            "header = 0\n",
            "header = 3\n",
            'decimal = ","\n',
            'encoding = "latin-1"\n',
            'encoding = "x"\n',
            'sheet = "A"\n',
            'range = "A1:C9"\n',
            'quote = ""\n',
            'thousands = "."\n',
        )
    )


_MAKERS = {
    "missing": _missing, "kind": _kind, "name": _describe, "levels": _levels, "recode": _recode,
    "fill": _fill, "order": _order, "bounds": _bounds, "keep": _keep, "make": _make,
    "join": _join, "stack": _stack, "gather": _gather,
}  # fmt: skip
