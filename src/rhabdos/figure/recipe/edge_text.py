"""Bin edges as people type them: ``0, 5, 10 … 60``."""

import re

import numpy as np

from rhabdos.quoting import quoted
from rhabdos.stats.binning import MOST_BINS, BinningError, own_edges
from rhabdos.stats.rounding import sequence
from rhabdos.wording import without_powers

_ELLIPSIS = "…"


def read_number(text: str) -> float | None:
    """A number as people type it, with a decimal point or comma, a power of ten as 2 × 10⁻⁶, and
    perhaps a true minus; None where it is none."""
    tidy = (
        without_powers(text.strip()).replace("−", "-").replace("\u202f", "").replace("\u00a0", "")
    )
    if re.fullmatch(r"[-+]?\d+,\d+(e[-+]?\d+)?", tidy):
        tidy = tidy.replace(",", ".")
    if not re.fullmatch(r"[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?", tidy, re.IGNORECASE):
        return None
    value = float(tidy)
    return value if abs(value) != float("inf") else None


def read_edges(text: str) -> tuple[float, ...]:
    """Read a list of edges; an ellipsis goes on in the step of the two numbers before it.

    Numbers are parted by commas, semicolons or blanks. "40, 55, 60 … 110" is 40, 55, 60, 65 and so
    on to 110, "0 to 60 by 5" is 0, 5, 10 and so on to 60.

    Raises
    ------
    BinningError
        A word is no number, an ellipsis has no step or misses its end, or the edges do not
        increase.
    """
    if sequence := re.fullmatch(
        r"\s*(?:from\s+)?(\S+)\s+to\s+(\S+)\s+by\s+(\S+)\s*", without_powers(text), re.IGNORECASE
    ):
        start, end, step = (_number(word) for word in sequence.groups())
        steps = (start, *_steps_to(start, step, end))
        own_edges(np.array(steps))
        return steps
    spaced = re.sub(r"\.{2,}|…", f" {_ELLIPSIS} ", without_powers(text))
    edges: list[float] = []
    continued = False
    parting = (
        r"[;\s]+" if ";" in text else r"[,\s]+"
    )  # beside semicolons, a comma is a decimal mark
    for word in [word for word in re.split(parting, spaced) if word]:
        if word == _ELLIPSIS:
            if len(edges) < 2 or continued:
                raise BinningError(
                    "Before “…” there must be two numbers that give the step, as in 0, 5 … 60."
                )
            continued = True
            continue
        value = _number(word)
        if continued:
            edges.extend(_steps_to(edges[-1], float(f"{edges[-1] - edges[-2]:.12g}"), value))
            continued = False
        else:
            edges.append(value)
    if continued:
        raise BinningError("After “…” there must be the last edge, as in 0, 5 … 60.")
    own_edges(np.array(edges))
    return tuple(edges)


def _number(word: str) -> float:
    value = read_number(word)
    if value is None:
        raise BinningError(
            f"{quoted(word)} is not a number. List the edges as 0, 5, 10 or as 0, 5 … 60."
        )
    return value


def _steps_to(last: float, step: float, end: float) -> list[float]:
    if step <= 0 or end <= last:
        raise BinningError(f"From {last:.15g}, steps of {step:.15g} never reach {end:.15g}.")
    count = (end - last) / step
    if count > MOST_BINS:
        raise BinningError(
            f"Steps of {step:.15g} to {end:.15g} make {count:,.0f} bins; at most {MOST_BINS:,} "
            "are drawn."
        )
    if abs(count - round(count)) > 1e-6:  # 1.1 / 0.1 is not 11 to the last digit
        nearest = float(sequence(last, step, int(count) + 1)[-1])
        raise BinningError(
            f"Steps of {step:.15g} from {last:.15g} pass {end:.15g} by; the nearest edge before "
            f"it is {nearest:.15g}."
        )
    return [float(edge) for edge in sequence(last, step, round(count) + 1)[1:]]


def write_edges(edges: tuple[float, ...]) -> str:
    """Edges as ``read_edges`` reads them, with an ellipsis where four or more go on in equal
    steps."""
    words: list[str] = []
    position = 0
    while position < len(edges):
        run = _run_from(edges, position)
        if run >= 4:
            words.append(
                f"{edges[position]:.15g}, {edges[position + 1]:.15g} … "
                f"{edges[position + run - 1]:.15g}"
            )
            position += run
        else:
            words.append(f"{edges[position]:.15g}")
            position += 1
    return ", ".join(words)


def _run_from(edges: tuple[float, ...], position: int) -> int:
    """How many edges from ``position`` on follow in exactly equal steps."""
    if position + 1 >= len(edges):
        return 1
    step = float(f"{edges[position + 1] - edges[position]:.12g}")
    expected = sequence(edges[position], step, len(edges) - position)
    run = 0
    while position + run < len(edges) and edges[position + run] == expected[run]:
        run += 1
    return run
