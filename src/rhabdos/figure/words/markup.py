"""Markup in the words of a figure, in a notation that can be read aloud.

``{up 2}`` stands above the line and ``{down 2}`` below it; ``{slant Ostrea edulis}`` and
``{bold n}`` say what they do; ``{mu}`` is a Greek letter and ``{Sigma}`` a capital one; other names
stand for numbers of the data, such as ``{n}`` or ``{mean of Saltmere}``. Doubled braces are braces.
"""

import re
import unicodedata
from collections.abc import Callable, Sequence

from msgspec import Struct, structs

_TOKEN = re.compile(r"\{\{|\}\}|\{|\}|[^{}]+")
_DEEPEST = 8  # marks within marks, so that hostile words end
_GREEK = (
    "alpha", "beta", "gamma", "delta", "epsilon", "zeta", "eta", "theta", "iota", "kappa", "lamda",
    "lambda", "mu", "nu", "xi", "omicron", "pi", "rho", "sigma", "tau", "upsilon", "phi", "chi",
    "psi", "omega",
)  # fmt: skip
WRAPS = ("up", "down", "slant", "bold")

Stands = Callable[[str], str | None]
"""What a name stands for; None where it stands for nothing."""


class Run(Struct, frozen=True):
    """Letters that are set alike.

    ``level`` is 1 above the line, -1 below it, and 0 on it.
    """

    text: str
    bold: bool = False
    slant: bool = False
    level: int = 0


def greek(name: str) -> str | None:
    """The Greek letter of a name: "mu" is μ, "Sigma" Σ."""
    if name.lower() not in _GREEK:
        return None
    kind = "SMALL" if name[0].islower() else "CAPITAL"
    spelled = "LAMDA" if name.lower() == "lambda" else name.upper()
    return unicodedata.lookup(f"GREEK {kind} LETTER {spelled}")


def runs_of(text: str, stands: Stands = lambda _name: None) -> list[Run]:
    """A text with its markup as runs of letters; what stands for nothing stays as it is written."""
    if "{" not in text and "}" not in text:
        return [Run(text)] if text else []
    tokens = _TOKEN.findall(text)
    runs, _ = _within(tokens, 0, Run(""), stands, 0)
    return joined(runs)


def plain_text(text: str, stands: Stands = lambda _name: None) -> str:
    """The same as plain letters, for files' names and screen readers."""
    return "".join(run.text for run in runs_of(text, stands))


def as_written(text: str) -> str:
    """Letters that are no markup, in markup: as they are read from a file."""
    return text.replace("{", "{{").replace("}", "}}")


def unknown(text: str, stands: Stands) -> list[str]:
    """Names within braces that stand for nothing."""
    missed: list[str] = []

    def ask(name: str) -> str | None:
        """Remember what is not known."""
        answer = stands(name)
        if answer is None:
            missed.append(name)
        return answer

    runs_of(text, ask)
    return missed


def _within(
    tokens: Sequence[str], at: int, like: Run, stands: Stands, depth: int
) -> tuple[list[Run], int]:
    """The runs up to the closing brace of what is open, and where it is."""
    runs: list[Run] = []
    while at < len(tokens):
        token = tokens[at]
        if token == "}":
            if depth:
                return runs, at
            runs.append(structs.replace(like, text="}"))
        elif token in ("{{", "}}"):
            if token == "}}" and depth:  # closes two that are open
                return runs, _split(tokens, at)
            runs.append(structs.replace(like, text=token[0]))
        elif token == "{":
            more, at = _braced(tokens, at, like, stands, depth)
            runs += more
        else:
            runs.append(structs.replace(like, text=token))
        at += 1
    return runs, at


def _split(tokens: Sequence[str], at: int) -> int:
    """Take a doubled brace for two single ones, the first of which closes here."""
    assert isinstance(tokens, list)
    tokens[at : at + 1] = ["}", "}"]
    return at


def _braced(
    tokens: Sequence[str], at: int, like: Run, stands: Stands, depth: int
) -> tuple[list[Run], int]:
    """What a brace at a place opens, and where it is closed."""
    as_written = [structs.replace(like, text="{")]
    words = tokens[at + 1] if at + 1 < len(tokens) else ""
    name, blank, rest = words.partition(" ")
    if name in WRAPS and (blank or tokens[at + 2 : at + 3] == ["{"]) and depth < _DEEPEST:
        inner = {
            "up": structs.replace(like, level=1),
            "down": structs.replace(like, level=-1),
            "slant": structs.replace(like, slant=True),
            "bold": structs.replace(like, bold=True),
        }[name]
        assert isinstance(tokens, list)
        tokens[at + 1] = rest
        runs, end = _within(tokens, at + 1, inner, stands, depth + 1)
        if end < len(tokens):
            return runs, end
        tokens[at + 1] = words
        return as_written, at
    closing = tokens[at + 2] if at + 2 < len(tokens) else ""
    if closing == "}}":
        _split(tokens, at + 2)
        closing = "}"
    if closing == "}":
        meant = greek(words) if " " not in words else None
        meant = stands(words) if meant is None else meant
        if meant is not None:
            return [structs.replace(like, text=meant)], at + 2
        return [structs.replace(like, text="{" + words + "}")], at + 2
    return as_written, at


def joined(runs: Sequence[Run]) -> list[Run]:
    """Neighbours that are set alike as one."""
    answer: list[Run] = []
    for run in runs:
        if not run.text:
            continue
        if answer and structs.replace(answer[-1], text="") == structs.replace(run, text=""):
            answer[-1] = structs.replace(run, text=answer[-1].text + run.text)
        else:
            answer.append(run)
    return answer
