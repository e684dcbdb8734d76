"""Bin edges as people type them: ``0, 5, 10 … 60``, or ``2026-01-01, 2026-01-08 … 2026-03-05``."""

import re
from functools import partial

import numpy as np

from rhabdos.data.columns import date_written
from rhabdos.data.date_bounds import date_bound_or_none
from rhabdos.quoting import quoted
from rhabdos.stats.binning import MOST_BINS, BinningError, own_edges
from rhabdos.stats.rounding import sequence
from rhabdos.wording import without_powers

_ELLIPSIS = "…"
_GROUPED = re.compile(
    r"(?<![\d.,])[1-9]\d{0,2}(?:(?:,\d{3})+|(?:[ \u2009\u202f\u00a0’']\d{3})+)(?!\d)"
)


def read_number(text: str, decimal: str = ".") -> float | None:
    """A number as people type it, with a decimal point or comma, marks between thousands, a power
    of ten as 2 × 10⁻⁶, and perhaps a true minus; None where it is none.

    Parameters
    ----------
    decimal : {".", ","}
        What the mark of 1,234 or 1.234.567 is, which could be both.
    """
    tidy = without_powers(text.strip()).replace("−", "-")
    if re.fullmatch(r"[-+]?\d{1,3}([ \u2009\u202f\u00a0’']\d{3})+([.,]\d+)?", tidy):
        tidy = re.sub(r"[ \u2009\u202f\u00a0’']", "", tidy)
    parts = re.fullmatch(r"([-+]?[1-9]\d{0,2})(([.,])\d{3}(?:\3\d{3})*)((?!\3)[.,]\d+)?", tidy)
    # What stands there once, with three digits behind it, is of thousands unless it is of decimals.
    if parts and (parts[4] or parts[2].count(parts[3]) > 1 or parts[3] != decimal):
        tidy = parts[1] + parts[2].replace(parts[3], "") + (parts[4] or "")
    if re.fullmatch(r"[-+]?\d+,\d+(e[-+]?\d+)?", tidy):
        tidy = tidy.replace(",", ".")
    if not re.fullmatch(r"[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?", tidy, re.IGNORECASE):
        return None
    value = float(tidy)
    return value if abs(value) != float("inf") else None


def ungrouped(text: str) -> str:
    """A list of numbers without marks between thousands: 40000, 60000 for 40,000, 60,000."""
    return _GROUPED.sub(lambda number: re.sub(r"\D", "", number[0]), text)


def read_edges(text: str, dates: bool = False) -> tuple[float, ...]:
    """Read a list of edges; an ellipsis goes on in the step of the two edges before it.

    They are parted by commas, semicolons or blanks. "40, 55, 60 … 110" is 40, 55, 60, 65 and so on
    to 110, "0 to 60 by 5" is 0, 5, 10 and so on to 60. What cannot be parted so, such as "1,000,
    1,200", is read with marks between thousands.

    Parameters
    ----------
    text : str
        As it was typed.
    dates : bool
        Whether edges may be dates, such as 2026-05-31 or 2026-05-31T08:30, which are days since
        1970; a step is a number of days.

    Raises
    ------
    BinningError
        A word is no edge, an ellipsis has no step or misses its end, or the edges do not increase.
    """
    try:
        return _edges_read(text, dates)
    except BinningError:
        if dates or (plain := ungrouped(text)) == text:
            raise
    return _edges_read(plain, dates)


def _edges_read(text: str, dates: bool) -> tuple[float, ...]:
    """The edges of a list whose numbers have no marks between thousands."""
    tidy, written = without_powers(text), partial(written_place, dates=dates)
    tidy = with_whole_dates(tidy) if dates else tidy
    if sequence := re.fullmatch(
        r"\s*(?:from\s+)?(\S+)\s+to\s+(\S+)\s+by\s+(\S+)\s*", tidy, re.IGNORECASE
    ):
        start, end, step = (_edge(word, dates) for word in sequence.groups())
        steps = (start, *_steps_to(start, step, end, dates))
        own_edges(np.array(steps), written=written)
        return steps
    spaced = re.sub(r"\.{2,}|…", f" {_ELLIPSIS} ", tidy)
    edges: list[float] = []
    continued = False
    parting = (
        r"[;\s]+" if ";" in text else r"[,\s]+"
    )  # beside semicolons, a comma is a decimal mark
    for word in [word for word in re.split(parting, spaced) if word]:
        if word == _ELLIPSIS:
            if len(edges) < 2 or continued:
                kind = "dates" if dates else "numbers"
                raise BinningError(
                    f"Before “…” there must be two {kind} that give the step, as in "
                    f"{listed_as(dates)}."
                )
            continued = True
            continue
        value = _edge(word, dates, "," if ";" in text else ".")
        if continued:
            step = float(f"{edges[-1] - edges[-2]:.12g}")
            edges.extend(_steps_to(edges[-1], step, value, dates))
            continued = False
        else:
            edges.append(value)
    if continued:
        raise BinningError(f"After “…” there must be the last edge, as in {listed_as(dates)}.")
    own_edges(np.array(edges), written=written)
    return tuple(edges)


def with_whole_dates(text: str) -> str:
    """A text whose dates have their times behind a T, where they had them behind a blank."""
    return re.sub(r"(\d{4}-\d\d-\d\d)\s+(?=\d\d:\d\d)", r"\1T", text)


def listed_as(dates: bool) -> str:
    """An example of edges."""
    return "2026-01-01, 2026-01-08 … 2026-03-05" if dates else "0, 5, 10 … 60"


def read_place(text: str, dates: bool, decimal: str = ".") -> float | None:
    """A number, or where values are dates a date, as days since 1970; None where it is neither."""
    value = read_number(text, decimal)
    return date_bound_or_none(text, False) if value is None and dates else value


def _edge(word: str, dates: bool, decimal: str = ".") -> float:
    value = read_place(word, dates, decimal)
    if value is None:
        raise BinningError(
            f"{quoted(word)} is not a {'date' if dates else 'number'}. List the edges as "
            f"{listed_as(dates)}."
        )
    return value


def _steps_to(last: float, step: float, end: float, dates: bool) -> list[float]:
    here, there, by = written_place(last, dates), written_place(end, dates), f"{step:.15g}"
    by += " days" if dates else ""
    if step <= 0 or end <= last:
        raise BinningError(f"From {here}, steps of {by} never reach {there}.")
    count = (end - last) / step
    if count > MOST_BINS:
        raise BinningError(
            f"Steps of {by} to {there} make {count:,.0f} bins; at most {MOST_BINS:,} are drawn."
        )
    if abs(count - round(count)) > 1e-6:  # 1.1 / 0.1 is not 11 to the last digit
        nearest = written_place(float(sequence(last, step, int(count) + 1)[-1]), dates)
        raise BinningError(
            f"Steps of {by} from {here} pass {there} by; the nearest edge before it is {nearest}."
        )
    return [float(edge) for edge in sequence(last, step, round(count) + 1)[1:]]


def written_place(edge: float, dates: bool) -> str:
    """An edge as it is read again; the time of a day without a blank."""
    day = date_written(edge).replace(" ", "T") if dates else ""
    return day if date_bound_or_none(day, False) == edge else f"{edge:.15g}"


def write_edges(edges: tuple[float, ...], dates: bool = False) -> str:
    """Edges as ``read_edges`` reads them, with an ellipsis where four or more go on in equal
    steps."""
    words: list[str] = []
    position = 0
    while position < len(edges):
        run = _run_from(edges, position)
        if run >= 4:
            ends = (edges[position + at] for at in (0, 1, run - 1))
            first, second, last = (written_place(edge, dates) for edge in ends)
            words.append(f"{first}, {second} … {last}")
            position += run
        else:
            words.append(written_place(edges[position], dates))
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
