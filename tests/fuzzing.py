"""Hostile files and recipes, made from a seed, and what no case of them may do.

Run as ``python -m tests.fuzzing [CASES] [SEED]`` for a long search; every fault is printed with its case.
"""

import io
import json
import math
import os
import random
import re
import signal
import sys
import tempfile
import time
import warnings
from collections.abc import Callable, Iterator
from contextlib import contextmanager, redirect_stderr, redirect_stdout
from pathlib import Path
from xml.etree import ElementTree

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from msgspec import Struct

from rhabdos.cli import main
from tests.data.corpus import CASES
from tests.figures import BESIDE
from tests.fuzzing_dress import dress, marked
from tests.fuzzing_steps import steps

_LONGEST_SENTENCE = 300
_LONGEST_WAIT = 60  # seconds; what it takes of the processor itself, a sixth of them

NUMBERS = (
    "0", "-0.0", "1", "-1", "2.5", "1e-5", "0.1", "7", "40", "99", "-9", "1e15",
    "1000000000000001", "12345678.9", "1.7976931348623157e308", "-1.797e308", "1.7e308", "5e-324",
    "-5e-324", "2.2e-308", "1e-300", "1e300", "-1e300", "1e16", "9007199254740993",
    "3.0000000000000004", "1e999", "-1e999", "nan", "inf", "1e400", "9" * 400, "0x1F",
)  # fmt: skip
WORDS = (
    "", " ", "A", "B", "a", "A ", "north bay", "Möwe", "日本", "n/a", "NA", "none", "-", "true",
    "1,5", "1.234,5", "\x1b[31mred\x1b[0m", "tab\there", "\u202eabc", "\ufffe", "\U0001fffe",
    "<b>bold</b>", "&amp;", 'say "hi"', '"open', "two\nlines", "x" * 2000, "é" * 300, "😀", "]]>",
    "=1+1", "x^2",
)  # fmt: skip
RECIPE_KEYS = {
    "show": (
        *("variables", "split", "forms", "forms", "heights", "of", "cumulative", "weight"),
        *("arrange", "upright", "standardised"),
    ),
    "panels": ("by", "by", "columns", "free", "variables"),
    "groups": ("order", "reverse", "hidden", "missing", "forward"),
    "legend": ("place", "legend title", "reverse", "legend n", "legend forms"),
    "bins": ("rule", "count", "width", "edges", "start", "closed", "round", "shared"),
    "curve": ("kernel", "bandwidth", "factor", "lower", "upper", "fill"),
    "bars": ("gap", "labels"),
    "box": (
        *("quartiles", "whiskers", "far", "width", "notches", "mean", "mean_shape", "mean_size"),
        *("names", "numbers", "letters", "numbers_as", "mark_size", "name_size"),
    ),
    "points": ("spread", "seed", "points colour"),
    "lines": ("mean", "median"),
    "check": ("ladder", "slide", "pairs", "range"),
    "compare": ("reference", "confidence", "together", "paired", "seed"),
    "sway": ("sway of", "confidence"),
    "pairs": ("pairs beside", "band", "confidence"),
    "words": ("title", "subtitle", "note", "value_axis", "height_axis"),
    "page": ("size",),
}
TOML_NUMBERS = (
    "0", "1", "-1", "2", "5", "0.1", "1e-300", "1e300", "1.7e308", "5e-324", "-1e308", "1e308",
    "inf", "-inf", "nan", "0.999999999999", "1e-9", "40.0", "1000000", "10000", "10001",
    "9" * 5000, "0x" + "f" * 5000, "1e15", "0.25",
)  # fmt: skip
TOML_OTHER = (
    "true", "false", "[]", "[1, 2]", "{}", "{a = 1}", "1979-05-27", '""', "[[1], [2]]",
    "[nan, inf]", "[0, 1e308]",
)  # fmt: skip


_DATED = (
    '["2024-05-01", "2026-05-31"]',
    '"2024-01-01 to 2026-05-31 by 7"',
    '["May", "2026-05-31"]',
)


class Case(Struct, frozen=True):
    """A data file, a recipe, and the words of a command on them."""

    data: bytes
    recipe: bytes
    command: str


def cases(seed: int) -> Iterator[Case]:
    """Cases without end; the same ones for the same seed."""
    rng = random.Random(seed)
    while True:
        # One or two things are odd in a case: where all are, the first one hides the others.
        odd = set(
            rng.choices(
                ("numbers", "words", "recipe", "bytes", "recipe bytes", "steps", "format"),
                (5, 2, 3, 1, 1, 4, 2),
                k=2,
            )
        )
        data, names = _data(rng, odd)
        if "format" in odd:
            content, _, columns, _ = rng.choice(list(CASES.values()))
            data, names = content, [name for name, _, _ in columns] * 6
        command = rng.choice(
            ("numbers", "numbers", "csv", "draw", "draw", "draw", "variables", "json", "convert")
        )
        recipe = _recipe(rng, names, "recipe" in odd)
        if "steps" in odd or command == "convert":
            numbers = TOML_NUMBERS[:-5] if "numbers" in odd else ("0", "1.5", "40", "70.0", "-9")
            recipe += steps(rng, names, numbers, "d.csv").encode("utf-8", "replace")
        if "format" in odd:
            odd.add("bytes")
        if "bytes" in odd:
            data = _mutated(rng, data)
        if "recipe bytes" in odd:
            recipe = _mutated(rng, recipe)
        yield Case(data, recipe, command)


def _data(rng: random.Random, odd: set[str]) -> tuple[bytes, list[str]]:
    separator = rng.choice((",", ",", ";", "\t", "|"))
    words = WORDS if "words" in odd else ("A", "B", "north bay", "Möwe")
    numbers = NUMBERS if "numbers" in odd else ("0", "1", "2.5", "-9", "40")
    names = ["Length", "Bay", "n", "x^2", rng.choice(words), rng.choice(words)]
    near = [rng.choice(numbers) for _ in range(rng.randint(1, 3))]
    rows = []
    flavour = rng.choice(
        ("calm", "wild", "wild", "ties", "heavy") if "numbers" in odd else ("calm", "calm", "ties")
    )
    for _ in range(rng.choice((1, 2, 3, 8, 40, 200))):
        if flavour == "wild":
            number = rng.choice((*near, rng.choice(NUMBERS[:-7])))
        elif flavour == "ties":
            number = rng.choice(near)
        elif flavour == "heavy":
            number = repr(
                math.tan(math.pi * (rng.random() - 0.5)) * 10 ** rng.choice((0, 0, 5, 150))
            )
        else:
            number = f"{rng.gauss(70, 8):.{rng.choice((0, 1, 6))}f}"
        level = rng.choice("ABC") if rng.random() < 0.9 else rng.choice(words)
        fields = [
            number,
            level,
            str(rng.randint(0, 4)),
            rng.choice(numbers),
            rng.choice(words),
            rng.choice(numbers),
        ]
        if "words" in odd and rng.random() < 0.02:
            fields = fields[: rng.randint(1, 6)] + ["more"] * rng.randint(0, 2)
        rows.append(fields)
    lines = [separator.join(_field(rng, text, separator) for text in row) for row in (names, *rows)]
    text = rng.choice(("\n", "\n", "\r\n", "\r")).join(lines)
    encoding = rng.choice(("utf-8",) * 6 + ("utf-16", "cp1252", "utf-8-sig"))
    return text.encode(encoding, "replace"), names


def _field(rng: random.Random, text: str, separator: str) -> str:
    if rng.random() < 0.98 and (separator in text or '"' in text or "\n" in text):
        return '"' + text.replace('"', '""') + '"'
    return text


def _recipe(rng: random.Random, names: list[str], odd: bool) -> bytes:
    numbers = TOML_NUMBERS if odd else ("0.5", "1", "2", "5", "1.5", "40.0", "0.25")
    likely: dict[str, Callable[[], str]] = {
        "variables": lambda: rng.choice(
            (
                *(f"[{_text(rng.choice(('Length',) * 7 + (names[3],)))}]",) * 3,
                f"[{_text('Length')}, {_text(names[3])}]",
                '"numbers"',
            )
        ),
        "split": lambda: _listed(rng, ("Bay", "Bay", "Bay", "n", names[4]), 2),
        "by": lambda: _listed(rng, ("Bay", "Bay", "n", names[4], names[5]), 2),
        "columns": lambda: rng.choice(("1", "2", "60", "61")),
        "free": lambda: rng.choice(('["value"]', '["height"]', '["value", "height"]', "[]")),
        "order": lambda: rng.choice(
            (
                *map(_text, ("data", "name", "n", "mean", "median", "sd")),
                _listed(rng, ("A", "B", "Z", *WORDS), 3),
            )
        ),
        "reverse": lambda: "true",
        "missing": lambda: "true",
        "standardised": lambda: "true",
        "hidden": lambda: _listed(rng, ("A", "B", "C", *WORDS), 2),
        "forward": lambda: _listed(rng, ("A", "B", "no bay", *WORDS), 2),
        "place": lambda: _text(
            rng.choice(("above", "right", "below", "top-left", "bottom-right", "lines", "none"))
        ),
        "legend title": lambda: _text(rng.choice(WORDS)),
        "legend forms": lambda: rng.choice(("true", "false")),
        "numbers_as": lambda: _text(rng.choice(("table", "words"))),
        "mark_size": lambda: rng.choice(("2", "20", *numbers)),
        "name_size": lambda: rng.choice(("3", "72", *numbers)),
        "sway of": lambda: _text(rng.choice(("sample", "start"))),
        "pairs beside": lambda: _text(rng.choice((*BESIDE, "square"))),
        "paired": lambda: rng.choice(("true", "false", _text("Bay"), _text("n"), _text("no such"))),
        "band": lambda: rng.choice(("true", "false")),
        "together": lambda: rng.choice(("true", "false")),
        "points colour": lambda: _text(rng.choice(("#AA0000", "#FFFFFF", "red"))),
        "legend n": lambda: rng.choice(("true", "false")),
        "cumulative": lambda: rng.choice(("true", "false")),
        "weight": lambda: _text("n"),
        "count": lambda: rng.choice(("1", "7", "500", "10000")),
        "start": lambda: rng.choice(("0", "40", "-5.5", '"2026-05-31"', *numbers)),
        "round": lambda: rng.choice(("true", "false")),
        "shared": lambda: rng.choice(("true", "false")),
        "upright": lambda: rng.choice(("true", "false")),
        "arrange": lambda: _text(
            rng.choice(("overlaid", "stacked", "side-by-side", "back-to-back", "lanes"))
        ),
        "gap": lambda: rng.choice(("0.2", "0.9", *numbers)),
        "labels": lambda: _text(rng.choice(("count", "percent", "density"))),
        "notches": lambda: "true",
        "letters": lambda: "true",
        "numbers": lambda: rng.choice(('["n"]', '["n", "mean", "median"]', "[]")),
        "names": lambda: _text(rng.choice(("row", "value", "n", "Bay", names[4], names[5]))),
        "mean_shape": lambda: _text(rng.choice(("diamond", "cross"))),
        "mean_size": lambda: rng.choice(("4", "20", *numbers)),
        "spread": lambda: _text(rng.choice(("stacked", "jittered"))),
        "ladder": lambda: "true",
        "mean": lambda: "true",
        "median": lambda: "true",
        "fill": lambda: "true",
        "slide": lambda: "true",
        "pairs": lambda: "true",
        "confidence": lambda: rng.choice(("0.95", "0.5", "0.9999999999999999", "1e-9", *numbers)),
        "seed": lambda: rng.choice(("1", "7", "18446744073709551616")),
        "width": lambda: rng.choice(numbers),
        "value_axis": lambda: _text(rng.choice(WORDS)),
        "height_axis": lambda: _text(rng.choice(WORDS)),
        "upper": lambda: rng.choice(("100", "150.5", '"2026-05-31T12:00"', *numbers)),
        "lower": lambda: rng.choice(("0", "-1000", *numbers)),
        "forms": lambda: _some(rng, _FORMS),
        "heights": lambda: _text(rng.choice(("count", "percent", "proportion", "density"))),
        "of": lambda: _text(rng.choice(("group", "all"))),
        "rule": lambda: _text(
            rng.choice(("automatic", "sturges", "freedman-diaconis", "knuth", "stone", "doane"))
        ),
        "closed": lambda: _text(rng.choice(("left", "right"))),
        "kernel": lambda: _text(
            rng.choice(
                ("gaussian", "epanechnikov", "biweight", "triangular", "rectangular", "cosine")
            )
        ),
        "bandwidth": lambda: rng.choice(
            (
                *map(_text, ("silverman", "scott", "sheather-jones", "improved-sheather-jones")),
                rng.choice(numbers),
            )
        ),
        "whiskers": lambda: rng.choice(('"range"', "[5, 95]", "[0, 100]", rng.choice(numbers))),
        "quartiles": lambda: rng.choice(('"hinges"', "1", "6", "9")),
        "reference": lambda: _text(rng.choice(("A", "A", "B", "Z"))),
        "size": lambda: _text(rng.choice(("16x10cm", "6x4in", "3x3in", "120x2.6cm", "400x300px"))),
        "range": lambda: (
            f"[{rng.choice(('0', '60', *numbers))}, {rng.choice(('80', '1e5', *numbers))}]"
        ),
        "edges": lambda: rng.choice(
            (
                "[0, 50, 60, 100]",
                '"0 to 90 by 7.5"',
                f"[0, {rng.choice(numbers)}]",
                "[70, 71.5]",
                *_DATED,
            )
        ),
        "title": lambda: _text(rng.choice((*WORDS, "t" * 900, marked(rng, WORDS)))),
        "subtitle": lambda: _text(marked(rng, WORDS)),
        "note": lambda: _text(marked(rng, WORDS)),
    }
    lines = ["rhabdos = 1"]
    for table, keys in RECIPE_KEYS.items():
        if table != "show" and rng.random() < (0.85 if table == "compare" else 0.5):
            continue
        lines.append(f"[{table}]")
        chosen = (
            ["variables", *rng.sample(keys[1:], rng.randint(0, 4))]
            if table == "show"
            else rng.sample(keys, rng.randint(1, min(5, len(keys))))
        )
        if table == "compare":
            chosen = ["reference", *chosen]
        if table == "bins" and rng.random() < 0.9:
            chosen = [
                rng.choice(("rule", "count", "width", "edges")),
                *rng.sample(("closed", "round", "shared"), rng.randint(0, 2)),
            ]
        for key in dict.fromkeys(chosen):
            value = likely.get(key, lambda: rng.choice(numbers))()
            if table == "panels" and key == "variables":
                value = rng.choice(("true", "false"))
            if key == "width" and table == "box":
                value = '"by-n"'
            if odd and rng.random() < 0.03:
                value = rng.choice(
                    (*TOML_NUMBERS, *TOML_OTHER, _text(rng.choice(WORDS)), "[" * 200 + "]" * 200)
                )
            if odd and rng.random() < 0.01:
                key = rng.choice(("colour", "nice", "k" * 400, '"a b"'))
            lines.append(f"{key.removeprefix('legend ')} = {value}")
    if rng.random() < 0.5:
        lines += dress(rng, WORDS, numbers)
    return "\n".join(lines).encode("utf-8", "replace")


_FORMS = (
    *("bars", "outline", "polygon", "curve", "normal", "ecdf"),
    *("violin", "box", "box", "points"),
)


def _some(rng: random.Random, forms: tuple[str, ...]) -> str:
    return "[" + ", ".join(f'"{form}"' for form in rng.sample(forms, rng.randint(1, 4))) + "]"


def _listed(rng: random.Random, names: tuple[str, ...], most: int) -> str:
    """One or a few names as a list."""
    return f"[{', '.join(_text(rng.choice(names)) for _ in range(rng.randint(1, most)))}]"


def _text(text: str) -> str:
    return json.dumps(text, ensure_ascii=_lacks_letters(text))


def _lacks_letters(text: str) -> bool:
    """Whether a text has letters that TOML wants written as escapes."""
    return any(ord(letter) < 32 or ord(letter) == 127 for letter in text)


def _mutated(rng: random.Random, content: bytes) -> bytes:
    """A few bytes flipped, cut, doubled or put in."""
    held = bytearray(content)
    for _ in range(rng.randint(1, 4)):
        place = rng.randrange(len(held) + 1)
        match rng.randrange(4):
            case 0 if place < len(held):
                held[place] ^= 1 << rng.randrange(8)
            case 1:
                del held[place : place + rng.randint(1, 40)]
            case 2:
                held[place:place] = held[place : place + rng.randint(1, 200)]
            case _:
                held[place:place] = rng.choice(
                    (b'"', b"\x00", b"\xff", b"\n", b",", b"[", b"\x1b", b"=", b"''' ")
                )
    return bytes(held)


def faults(case: Case, folder: Path) -> list[str]:
    """What a case did that no case may do."""
    data, recipe, output = folder / "d.csv", folder / "r.toml", folder / "o.svg"
    table = folder / "t.csv"
    table.unlink(missing_ok=True)
    data.write_bytes(case.data)
    recipe.write_bytes(case.recipe)
    output.unlink(missing_ok=True)
    words = {
        "numbers": ["numbers", str(recipe), "--data", str(data)],
        "csv": ["numbers", str(recipe), "--data", str(data), "--format", "csv"],
        "draw": ["draw", str(recipe), "--data", str(data), "--output", str(output)],
        "variables": ["variables", str(data)],
        "json": ["variables", str(data), "--format", "json", "--recipe", str(recipe)],
        "convert": ["convert", str(data), str(table), "--recipe", str(recipe)],
    }[case.command]
    status, printed, wrong = typed(words, _LONGEST_WAIT / 6)
    if status == 0:
        wrong += _faults_of(case.command, printed, output)
    elif status is not None and (output.exists() or printed or table.exists()):
        wrong.append("refused, and wrote all the same")
    return wrong


def typed(words: list[str], longest: float) -> tuple[int | None, str, list[str]]:
    """Type a command: its status, None where it raised; what it printed; and what none may do.

    Parameters
    ----------
    longest : float
        Seconds that it may have the processor, which others may want too.
    """
    out, err = io.StringIO(), io.StringIO()
    began = time.process_time()
    with (
        warnings.catch_warnings(record=True) as warned,
        redirect_stdout(out),
        redirect_stderr(err),
        time_limit(),
    ):
        warnings.simplefilter("always")
        try:
            status = main(words)
        except BaseException as error:  # noqa: BLE001 - whatever comes out is a fault
            return None, "", [f"raised {error!r}"]
    took, said = time.process_time() - began, err.getvalue()
    wrong = [f"warned {warning.message}" for warning in warned]
    wrong += [f"took {took:.1f} s"] * (took > longest)
    wrong += [f"said {said!r}"] if "unforeseen" in said or "Traceback" in said else []
    for line in said.splitlines():
        if len(line) > _LONGEST_SENTENCE + 20:
            wrong.append(f"a sentence of {len(line)}: {line}")
        if not re.match(r"rhabdos: .*[.?!”)]$", line):
            wrong.append(f"no sentence: {line!r}")
    if re.search(r"[\x00-\x08\x0b-\x1f\x7f-\x9f]", said):
        wrong.append(f"control characters in {said!r}")
    refused = [line for line in said.splitlines() if "note: " not in line]
    if status not in (0, 2) or (status == 2) != bool(refused):
        wrong.append(f"status {status} with {said!r}")
    return status, out.getvalue(), wrong


def _faults_of(command: str, printed: str, output: Path) -> list[str]:
    """What is wrong with what was printed or drawn."""
    if command == "draw":
        try:
            ElementTree.fromstring(output.read_bytes())
        except (OSError, ElementTree.ParseError) as error:
            return [f"drew no SVG: {error}"]
    if command in ("numbers", "json"):

        def refuse(constant: str) -> None:
            raise ValueError(constant)

        try:
            json.loads(printed, parse_constant=refuse)
        except ValueError as error:
            return [f"printed no JSON: {error}"]
    values = re.sub(r"^.*level of .*$", "", printed, flags=re.MULTILINE)  # which may be any word
    if command == "csv" and re.search(r",(nan|inf|-inf)$", values, re.MULTILINE):
        return ["printed a number that is none"]
    return []


@contextmanager
def time_limit() -> Iterator[None]:
    """What is done within must end by itself."""

    def stop(_signal: int, _frame: object) -> None:
        raise TimeoutError("hangs")

    former = signal.signal(signal.SIGALRM, stop)
    signal.alarm(_LONGEST_WAIT)
    try:
        yield
    finally:
        signal.alarm(0)
        signal.signal(signal.SIGALRM, former)


def search(count: int, seed: int) -> int:
    """Try so many cases and print every fault; returns how many cases had one."""
    found = 0
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_STATE_HOME"] = folder
        for number, case in zip(range(count), cases(seed), strict=False):
            if wrong := faults(case, Path(folder)):
                found += 1
                print(
                    f"case {number} of seed {seed}: {case.command}\n  {case.recipe[:400]!r}\n  {case.data[:300]!r}"
                )
                print(*(f"  -> {one[:400]}" for one in wrong), sep="\n", flush=True)
    print(f"{found} of {count:,} cases went wrong.")
    return found


if __name__ == "__main__":
    asked = [int(word) for word in sys.argv[1:]]
    sys.exit(search(asked[0] if asked else 10_000, asked[1] if len(asked) > 1 else 1) > 0)
