"""Tables of the numbers behind a figure, and how they are written for other programs."""

import csv
import io
import math
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from html import escape
from pathlib import Path

from msgspec import Struct, structs

from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.data.fields.numerals import as_float
from rhabdos.errors import Refusal
from rhabdos.figure.output.comparisons import comparisons
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.reference import in_ratios, sure_told
from rhabdos.figure.recipe.recipe import Compare
from rhabdos.quoting import file_named, printable
from rhabdos.stats.summary import Summary

Cell = str | float | int
_SUMMARY = (
    "mean", "sd", "se", "min", "q1", "median", "q3", "max", "iqr", "skewness", "kurtosis",
    "trimmed_mean", "mad", "cv",
)  # fmt: skip
_PLACES = {"mean", "min", "q1", "median", "q3", "max", "trimmed_mean"}
_COMPARED = (
    ("mean difference", "mean"),
    ("median difference", "median"),
    ("shift", "shift"),
    ("ratio of sd", "sd_ratio"),
    ("ratio of IQR", "iqr_ratio"),
)


class NumberTable(Struct, frozen=True):
    """Rows of texts and numbers under names of columns.

    ``places`` are those to which the numbers of each column are rounded; none where they have all
    their digits.
    """

    title: str
    columns: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]
    places: tuple[int | None, ...] = ()

    def rounded(self) -> "NumberTable":
        """The same with as many digits as tell the numbers of a column apart."""
        each = zip(*self.rows, strict=True) if self.rows else ()
        return structs.replace(self, places=tuple(_places(cells) for cells in each))

    @property
    def texts(self) -> tuple[tuple[str, ...], ...]:
        """The cells as they are written."""
        places = self.places or (None,) * len(self.columns)
        return tuple(
            tuple(written(cell, to) for cell, to in zip(row, places, strict=True))
            for row in self.rows
        )

    @property
    def formulas(self) -> tuple[str, ...]:
        """Texts that a spreadsheet would take for formulas and run, each once."""
        cells = (cell for row in (self.columns, *self.rows) for cell in row)
        return tuple(dict.fromkeys(c for c in cells if isinstance(c, str) and is_formula(c)))

    def guarded(self) -> "NumberTable":
        """The same with an apostrophe before those texts, so that they stay texts."""

        def guard(cell: Cell) -> Cell:
            return f"'{cell}" if isinstance(cell, str) and is_formula(cell) else cell

        columns = tuple(f"'{name}" if is_formula(name) else name for name in self.columns)
        rows = tuple(tuple(guard(cell) for cell in row) for row in self.rows)
        return structs.replace(self, columns=columns, rows=rows)


def turned(table: NumberTable) -> list[list[str]]:
    """The texts of a table with its columns as rows, so that many numbers of few groups stand
    under one another; the first line has its heads."""
    lines = [list(table.columns), *(list(row) for row in table.texts)]
    return [list(line) for line in zip(*lines, strict=True)]


def is_formula(text: str) -> bool:
    """Whether a spreadsheet would run a text; numbers with a sign are none."""
    if text.startswith(("=", "@", "\t", "\r")):
        return True
    return len(text) > 1 and text[0] in "+-" and as_float(text) is None


def _places(cells: Sequence[Cell]) -> int | None:
    """The decimals that show five digits of the largest number of a column, and three of how far
    they lie apart; None where the numbers have no more than these."""
    numbers = [c for c in cells if isinstance(c, float) and math.isfinite(c)]
    largest = max((abs(number) for number in numbers), default=0.0)
    if not largest:
        return None
    places = _DIGITS - 1 - math.floor(math.log10(largest))
    apart = max(numbers) - min(numbers)
    if apart:
        places = max(places, _DIGITS_APART - 1 - math.floor(math.log10(apart)))
    if not 0 <= places <= _MOST_PLACES:
        return None if places > _MOST_PLACES else 0
    return places if any(round(number, places) != number for number in numbers) else None


_DIGITS, _DIGITS_APART, _MOST_PLACES = 5, 3, 12


def _place(variable: NumberColumn, value: float) -> Cell:
    """A place along the axis as a cell: a date is written as one."""
    if isinstance(variable, DateColumn):
        return variable.written(value) if math.isfinite(value) else ""
    return value


def summary_table(readings: Readings) -> NumberTable:
    """Each group in numbers."""
    of = readings.divided or "group"
    rows: list[tuple[Cell, ...]] = []
    for group, summary in zip(readings.groups, readings.summaries, strict=True):
        cells = summary_cells(group.variable, summary)
        rows.append((group.label, group.n, group.missing, *cells))
    return NumberTable("Summary", (of, "n", "missing", *summary_names()), tuple(rows))


def summary_names() -> tuple[str, ...]:
    """What the cells of a summary are called."""
    return tuple(name.replace("_", " ") for name in _SUMMARY)


def summary_cells(variable: NumberColumn, summary: Summary) -> list[Cell]:
    """Location, spread and shape of a sample, a cell each."""
    cells: list[Cell] = []
    for name in _SUMMARY:
        value = float(getattr(summary, name))
        cells.append(_place(variable, value) if name in _PLACES else value)
        if name == "cv" and isinstance(variable, DateColumn):
            cells[-1] = ""  # dates have no zero for a spread to be a share of
    return cells


def bins_table(readings: Readings) -> NumberTable:
    """Each bin of each group: its edges, how many values it holds, and its height."""
    from rhabdos.figure.forms.bars import bars

    rows: list[tuple[Cell, ...]] = []
    for group, drawn in zip(readings.groups, bars(readings), strict=True):
        edges = drawn.edges.values.tolist()
        both = zip(edges, edges[1:], drawn.counts.tolist(), drawn.heights.tolist(), strict=False)
        rows += [
            (group.label, _place(group.variable, low), _place(group.variable, high), count, height)
            for low, high, count, height in both
        ]
        if drawn.outside:
            rows.append((group.label, "outside", "", drawn.outside, ""))
    heights = f"cumulative {readings.scale}" if readings.cumulative else readings.scale
    names = (readings.divided or "group", "from", "to", "count", heights)
    if heights == "count":
        return NumberTable("Bins", names[:-1], tuple(row[:-1] for row in rows))
    return NumberTable("Bins", names, tuple(rows))


def boxes_table(readings: Readings) -> NumberTable:
    """Each box: quartiles, whiskers, notches, and how many values lie beyond."""
    from rhabdos.figure.forms.box import boxes

    rows: list[tuple[Cell, ...]] = []
    for group, box in zip(readings.groups, boxes(readings), strict=True):
        tails = box.tails
        beyond = sum(tail.stop - tail.start for tail in tails if not tail.far)
        far = sum(tail.stop - tail.start for tail in tails if tail.far)
        places = (
            box.whisker_low, box.q1, box.median, box.q3, box.whisker_high, box.mean, box.notch_low,
            box.notch_high,
        )  # fmt: skip
        told = (_place(group.variable, float(value)) for value in places)
        rows.append((group.label, box.n, *told, beyond, far))
    columns = (
        readings.divided or "group", "n", "whisker from", "q1", "median", "q3", "whisker to",
        "mean", "notch from", "notch to", "beyond", "far beyond",
    )  # fmt: skip
    return NumberTable("Boxes", columns, tuple(rows))


def comparison_table(readings: Readings) -> NumberTable:
    """Each group compared with the reference; with the first group where none is asked for.

    Raises
    ------
    Refusal
        The reference is no group, or has no values.
    """
    settings = readings.recipe.compare
    if settings is None:
        first = next(group.label for group in readings.groups if group.n)
        settings = Compare(reference=first)
        readings = Readings(readings.recipe.changed(compare=settings), readings.gathered)
    columns: list[str] = [readings.divided or "group", "with"]
    ratios = in_ratios(readings)
    for words, _ in _COMPARED:
        columns += [words.replace("difference", "ratio") if ratios else words, "from", "to"]
    columns += ["overlap", "exceeds", "from", "to"]
    rows = []
    for compared in comparisons(readings):
        row: list[Cell] = [compared.sample, compared.reference]
        for _, key in _COMPARED:
            estimate = getattr(compared, key)
            ends = ("none", "none") if estimate.lack else (estimate.low, estimate.high)
            row += [estimate.value, *ends]
        exceeds = compared.exceeds
        ends = ("none", "none") if exceeds.lack else (exceeds.low, exceeds.high)
        rows.append((*row, compared.overlap, exceeds.value, *ends))
    return NumberTable(
        f"Comparisons, intervals of {sure_told(readings)}", tuple(columns), tuple(rows)
    )


def tables_of(readings: Readings) -> dict[str, Callable[[], NumberTable]]:
    """The tables that a figure has, by name."""
    offered: dict[str, Callable[[Readings], NumberTable]] = {"Summary": summary_table}
    if readings.needs_bins:
        offered["Bins"] = bins_table
    if "box" in readings.recipe.show.forms:
        offered["Boxes"] = boxes_table
    if readings.divided is not None and sum(1 for group in readings.groups if group.n) > 1:
        offered["Comparisons"] = comparison_table
    return {name: partial(table, readings) for name, table in offered.items()}


# Writing


def written(cell: Cell, places: int | None = None) -> str:
    """A cell with all its digits, or rounded; nothing where there is no number."""
    if isinstance(cell, float):
        if not math.isfinite(cell):
            return ""
        return f"{cell:.12g}" if places is None else f"{cell:.{places}f}"
    return str(cell)


def as_csv(table: NumberTable, delimiter: str = ",") -> str:
    """Comma-separated values (RFC 4180), or separated by something else."""
    text = io.StringIO()
    writer = csv.writer(text, delimiter=delimiter, lineterminator="\n")
    writer.writerow([printable(name) for name in table.columns])
    writer.writerows([printable(cell) for cell in row] for row in table.texts)
    return text.getvalue()


def as_tabs(table: NumberTable) -> str:
    """Separated by tabs, as spreadsheets paste cells."""
    return as_csv(table, "\t")


def as_markdown(table: NumberTable) -> str:
    """A table in Markdown, numbers to the right."""
    names = [_in_markdown(name) for name in table.columns]
    first = table.rows[0] if table.rows else ()
    sides = ["---" if isinstance(cell, str) else "---:" for cell in first] or ["---"] * len(names)
    lines = [names, sides, *([_in_markdown(cell) for cell in row] for row in table.texts)]
    return "".join(f"| {' | '.join(line)} |\n" for line in lines)


def _in_markdown(text: str) -> str:
    return printable(text).replace("\\", "\\\\").replace("|", "\\|").replace("<", "&lt;")


def as_html(table: NumberTable) -> str:
    """A table in HTML."""
    head = "".join(f"<th>{escape(printable(name))}</th>" for name in table.columns)
    rows = "".join(
        "<tr>" + "".join(f"<td>{escape(printable(cell))}</td>" for cell in row) + "</tr>\n"
        for row in table.texts
    )
    caption = f"<caption>{escape(table.title)}</caption>"
    return (
        f'<meta charset="utf-8"><table>{caption}\n<thead><tr>{head}</tr></thead>\n'
        f"<tbody>\n{rows}</tbody></table>\n"
    )


WRITERS: Mapping[str, Callable[[NumberTable], str]] = {
    ".csv": as_csv,
    ".md": as_markdown,
    ".html": as_html,
}
"""How tables are written, by the ending of a file."""


def written_for(path: str | Path, table: NumberTable) -> bytes:
    """A table as the ending of a file asks for.

    Raises
    ------
    Refusal
        The ending is none of them.
    """
    ending = Path(path).suffix.lower()
    if ending not in WRITERS:
        raise Refusal(f"{file_named(path)} must end in .csv, .md or .html, which tells the format.")
    return WRITERS[ending](table).encode()
