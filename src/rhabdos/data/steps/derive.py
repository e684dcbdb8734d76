"""The step that makes a variable of others; it follows when they change."""

import math
from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import Annotated, Literal

import numpy as np
from msgspec import Meta

from rhabdos.arrays import BoolArray, FloatArray, IntArray
from rhabdos.data.chunks import in_pieces
from rhabdos.data.columns import CategoryColumn, Column, DateColumn, NumberColumn, Stood
from rhabdos.data.date_bounds import date_bound_or_none
from rhabdos.data.fields.texts import joined_stood
from rhabdos.data.samples import Sample
from rhabdos.data.standard import scaled_mean_and_sd
from rhabdos.data.steps.keep import Bound, bound_of, bound_written
from rhabdos.data.steps.step import Applied, Others, Piece, Step, StepError, choice, words_of
from rhabdos.data.table import Table
from rhabdos.quoting import brief, quoted
from rhabdos.stats.quantiles import quantiles
from rhabdos.wording import counted, exact

Way = Literal[
    "log", "root", "reciprocal", "standardised", "difference", "sum", "ratio", "classes", "year",
    "month", "weekday", "hour",
]  # fmt: skip
WAYS: dict[Way, str] = {
    "log": "logarithm",
    "root": "square root",
    "reciprocal": "reciprocal",
    "standardised": "standardised",
    "difference": "difference of two",
    "sum": "sum",
    "ratio": "ratio of two",
    "classes": "cut into classes",
    "year": "year of a date",
    "month": "month of a date",
    "weekday": "day of the week of a date",
    "hour": "hour of a time",
}
OF_TWO: tuple[Way, ...] = ("difference", "ratio")
OF_DATES: tuple[Way, ...] = ("year", "month", "weekday", "hour")
MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September",
    "October", "November", "December",
)  # fmt: skip
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
HOURS, HOUR = 24, 3_600e6
"""Of a day, and microseconds of one."""
_MOST_YEARS = 400  # different, up to which they are levels
_MOST_CLASSES = 100  # of a number
_SUBSCRIPTS = str.maketrans("0123456789.", "₀₁₂₃₄₅₆₇₈₉.")


_Law = Callable[..., FloatArray]
_Reasons = list[tuple[Callable[..., BoolArray], str]]


class Make(Step, frozen=True, tag="make"):
    """A new variable, made of one or more others.

    ``base`` is that of a logarithm, a number or "e". Classes are cut at ``edges``, numbers or
    dates, each of which begins a class, or into ``quantiles`` classes of about as many values each.
    """

    name: str
    by: Annotated[Way, Meta(description=f"{', '.join(list(WAYS)[:-1])} or {list(WAYS)[-1]}")]
    of: Annotated[
        tuple[str, ...], Meta(min_length=1, max_length=60, description="a list of variables")
    ]
    base: (
        Annotated[float | Literal["e"], Meta(description="a number above 0 but 1, or e")] | None
    ) = None
    edges: (
        Annotated[
            tuple[Bound, ...],
            Meta(
                min_length=1,
                max_length=_MOST_CLASSES,
                description="a list of rising numbers or dates",
            ),
        ]
        | None
    ) = None
    quantiles: (
        Annotated[
            int,
            Meta(ge=2, le=_MOST_CLASSES, description=f"a whole number from 2 to {_MOST_CLASSES}"),
        ]
        | None
    ) = None

    def __post_init__(self) -> None:
        base = self.base
        if isinstance(base, float) and not (0 < base < math.inf and base != 1):
            raise ValueError("base: a logarithm needs a base above 0 that is not 1")
        if self.edges is not None:
            ends = [date_bound_or_none(e, False) if isinstance(e, str) else e for e in self.edges]
            known = [end for end in ends if end is not None and math.isfinite(end)]
            if len(known) < len(ends):
                raise ValueError("edges: every edge must be a finite number, or a date")
            if not all(a < b for a, b in pairwise(known)):
                raise ValueError("edges: they must rise")
        if self.edges is not None and self.quantiles is not None:
            raise ValueError("quantiles: it excludes edges; keep one of the two")

    @property
    def knows_all_first(self) -> bool:
        """Where values are standardised, or classes hold as many each."""
        return self.by == "standardised" or (self.by == "classes" and self.edges is None)

    def apply(self, table: Table, _others: Others) -> Applied:
        """The table with one variable more; what has no result is missing, by its reason."""
        if not self.name.strip():
            raise StepError("A new variable needs a name. Type one.")
        if table.has(self.name):
            raise StepError(
                f"There is a variable {quoted(self.name)} already. Give the new one another name."
            )
        sources = [table.number(name) for name in self.of]
        if self.by in OF_TWO and len(sources) != 2:
            raise StepError(f"A {self.by} is of two variables, and {len(sources)} are named.")
        if self.by not in (*OF_TWO, "sum") and len(sources) != 1:
            raise StepError(f"{self.words} It is of one variable, and {len(sources)} are named.")
        column = self._made(sources)
        reasons = {_lacking(source) for source in sources}  # which several may have in common
        without = column.missing - sum(column.missing_as.get(reason, 0) for reason in reasons)
        told = (
            f"{without:,} {'has' if without == 1 else 'have'} none"
            if without
            else counted(column.n, "value", "values")
        )
        if without and len(column.missing_as) == 1:
            told = f"{without:,} without one: {next(iter(column.missing_as))}"
        return Applied(table.with_column(column), told)

    def _made(self, sources: Sequence[NumberColumn]) -> Column:
        first = sources[0]
        if self.by in OF_DATES:
            return self._part_of(first)
        if self.by == "classes":
            return self._classes(first)
        unit, law, reasons = self._law(sources)
        values, without = _worked_out(law, [source.values for source in sources])
        return _numbers_with(self.name, unit, values, without, sources, reasons, self.words)

    def _law(self, sources: Sequence[NumberColumn]) -> tuple[str, _Law, _Reasons]:
        """The unit of the results, what works them out, and why a row may have none."""
        first = sources[0]
        match self.by:
            case "log":
                reasons: _Reasons = [
                    (lambda x: x == 0, "log of 0"),
                    (lambda x: x < 0, "log of a negative"),
                ]
                return "", lambda x: _log(x, self.base), reasons
            case "root":
                return _rooted(first.unit), np.sqrt, [(lambda x: x < 0, "root of a negative")]
            case "reciprocal":
                unit = f"1/{first.unit}" if first.unit else ""
                return unit, lambda x: 1 / x, [(lambda x: x == 0, "1 over 0")]
            case "standardised":
                scale, mean, sd = scaled_mean_and_sd(first, None)
                return "", lambda x: (x / scale - mean) / sd, []
            case "difference":
                unit = "d" if isinstance(first, DateColumn) else _shared_unit(sources)
                return unit, np.subtract, []
            case "ratio":
                both = sources[0].unit, sources[1].unit
                unit = "" if both[0] == both[1] else "/".join(u or "1" for u in both)
                return unit, np.divide, [(lambda _x, y: y == 0, f"{sources[1].label} is 0")]
            case _:
                return _shared_unit(sources), lambda *each: sum(each[1:], start=each[0]), []

    def _part_of(self, dates: NumberColumn) -> Column:
        if not isinstance(dates, DateColumn):
            raise StepError(
                f"{quoted(dates.name)} holds no dates, so it has no {self.by}. Read it as "
                "date/time first."
            )
        days = dates.values
        known = ~np.isnan(days)
        whole = np.floor(np.where(known, days, 0.0)).astype(np.int64)
        levels: tuple[str, ...]
        if self.by == "weekday":
            codes, levels = (whole + 3) % 7, WEEKDAYS  # 1970 began on a Thursday
        elif self.by == "hour":
            # Of a day an hour is no number that a double holds, and of a microsecond it is.
            microseconds = np.rint(np.where(known, days, 0.0) * (HOURS * HOUR))
            codes = (microseconds % (HOURS * HOUR) // HOUR).astype(np.int64)
            levels = tuple(f"{hour:02d}:00" for hour in range(HOURS))
        else:
            months = whole.astype("datetime64[D]").astype("datetime64[M]").astype(np.int64)
            if self.by == "month":
                codes, levels = months % 12, MONTHS
            else:
                years = months // 12 + 1970
                present = np.unique(years[known])
                if len(present) > _MOST_YEARS:
                    raise StepError(f"{quoted(dates.name)} spans more years than groups can be.")
                codes = np.searchsorted(present, years) if len(present) else years * 0
                levels = tuple(str(year) for year in present.tolist())
        return _grouped(self.name, codes, levels, known, dates, self.words)

    def _classes(self, source: NumberColumn) -> Column:
        known = ~np.isnan(source.values)
        edges = self._cuts(source, known)
        codes = np.searchsorted(edges, source.values, side="right")
        written = source.written
        levels = (
            f"below {written(edges[0])}",
            *(f"{written(a)} to {written(b)}" for a, b in pairwise(edges)),
            f"{written(edges[-1])} or more",
        )
        return _grouped(self.name, codes, levels, known, source, self.words)

    def edges_in(self, source: NumberColumn) -> list[float]:
        """Where its own edges lie among the values of a variable; none where it has no edges."""
        return [bound_of(source, edge, False) for edge in self.edges or ()]

    def _cuts(self, source: NumberColumn, known: BoolArray) -> list[float]:
        if self.edges is not None:
            return self.edges_in(source)
        parts = self.quantiles or 4
        if not known.any():
            raise StepError(f"{quoted(source.name)} has no values to cut into classes.")
        sample = Sample(source.label, np.sort(source.values[known]))
        shares = np.arange(1, parts) / parts
        return [float(cut) for cut in np.unique(quantiles(sample, shares))]

    def describe(self) -> tuple[Piece, ...]:
        """log₁₀ Grit was made of Grit, by its logarithm."""
        name, names = brief(self.name), [brief(source) for source in self.of]
        how: tuple[str | Piece, ...]
        match self.by:
            case "log":
                words = f"log{_based(self.base or 10.0)}"
                how = (choice(words), " of ", names[0])
            case "root":
                how = (choice("the square root"), " of ", names[0])
            case "reciprocal":
                how = ("1 over ", choice(names[0]))
            case "standardised":
                how = (names[0], ", ", choice("standardised"))
            case "difference":
                how = (choice(f"{names[0]} less {names[-1]}"),)
            case "ratio":
                how = (choice(f"{names[0]} over {names[-1]}"),)
            case "sum":
                shown = " + ".join(names[:4]) + (" + …" if len(names) > 4 else "")
                how = (choice(shown),)
            case "classes":
                if self.edges is not None:
                    cuts = ", ".join(bound_written(edge) for edge in self.edges[:6])
                    at = f"at {cuts}{' …' if len(self.edges) > 6 else ''}"
                else:
                    at = f"into {self.quantiles or 4} classes of as many values each"
                how = (names[0], ", cut ", choice(at))
            case _:
                how = (choice(f"the {self.by}"), " of ", names[0])
        return words_of(f"{name} is ", *how, ".")

    @property
    def about(self) -> tuple[str, ...]:
        """The variable that it makes."""
        return (self.name,)


def _log(x: FloatArray, base: float | str | None) -> FloatArray:
    if base == "e":
        return np.log(x)
    if base == 2:
        return np.log2(x)
    if base is None or base == 10:
        return np.log10(x)
    assert isinstance(base, float)
    return np.log(x) / math.log(base)


def _lacking(source: Column) -> str:
    return f"no {source.label}"


def _rooted(unit: str) -> str:
    return f"√{unit}" if unit else ""


def _shared_unit(sources: Sequence[NumberColumn]) -> str:
    units = {source.unit for source in sources}
    return units.pop() if len(units) == 1 else ""


def _worked_out(law: _Law, sources: Sequence[FloatArray]) -> tuple[FloatArray, IntArray]:
    """The results, NaN where there is none, and the rows that have none."""
    values = np.empty(len(sources[0]))

    def work(piece: slice) -> IntArray:
        """The results of some rows, and which of them have none."""
        part = values[piece]
        with np.errstate(all="ignore"):  # what has no value becomes missing, and is told
            if isinstance(law, np.ufunc):
                law(*(source[piece] for source in sources), out=part)
            else:
                part[:] = law(*(source[piece] for source in sources))
        finite = np.isfinite(part)
        if finite.all():
            return np.empty(0, dtype=np.int64)
        rows: IntArray = np.flatnonzero(~finite)
        part[rows] = np.nan
        rows += piece.start
        return rows

    return values, np.concatenate(in_pieces(len(values), work) or [np.empty(0, np.int64)])


def _numbers_with(
    name: str,
    unit: str,
    values: FloatArray,
    without: IntArray,
    sources: Sequence[NumberColumn],
    reasons: _Reasons,
    made_by: str,
) -> NumberColumn:
    """A column of numbers in which some rows have none, for the first reason that holds."""
    of_rows = [source.values[without] for source in sources]
    lacking = [(np.isnan(each), _lacking(s)) for each, s in zip(of_rows, sources, strict=True)]
    others = [(holds(*of_rows), word) for holds, word in reasons]
    any_other = np.ones(len(without), dtype=bool)
    stood, missing_as = _stood(without, (*lacking, *others, (any_other, "too large a number")))
    return NumberColumn(name, brief(name), unit, missing_as, stood, made_by=made_by, values=values)


def _stood(
    without: IntArray, reasons: Sequence[tuple[BoolArray, str]]
) -> tuple[Stood | None, dict[str, int]]:
    """What stands in rows that have no result, for the first reason that holds of each; and how
    often each does."""
    missing_as: dict[str, int] = {}
    parts: list[Stood | None] = []
    left = np.ones(len(without), dtype=bool)
    for holds, word in reasons:
        rows = without[holds & left]
        if len(rows):
            missing_as[word] = missing_as.get(word, 0) + len(rows)
            parts.append(Stood(rows, np.zeros(len(rows), np.int16), (word,)))
            left &= ~holds
    return joined_stood(parts), missing_as


def _grouped(
    name: str,
    codes: IntArray,
    levels: tuple[str, ...],
    known: BoolArray,
    source: NumberColumn,
    made_by: str,
) -> CategoryColumn:
    """An ordered category of the levels that some row has."""
    used = np.bincount(codes[known], minlength=len(levels)) > 0
    places = np.cumsum(used) - 1
    shown = np.where(known, places[np.where(known, codes, 0)], -1)
    unknown = np.flatnonzero(~known)
    stood, missing_as = _stood(unknown, [(np.ones(len(unknown), dtype=bool), _lacking(source))])
    kept = tuple(level for level, has in zip(levels, used, strict=True) if has)
    return CategoryColumn(
        name,
        brief(name),
        "",
        missing_as,
        stood,
        made_by=made_by,
        codes=shown.astype(np.int16),
        levels=kept,
        grouping="ordered category",
    )


def suggested_name(by: Way, labels: Sequence[str], base: float | str = 10.0) -> str:
    """What a new variable may be called."""
    label = labels[0]
    match by:
        case "log":
            return f"log{_based(base)} {label}"
        case "root":
            return f"√ {label}"
        case "reciprocal":
            return f"1 / {label}"
        case "difference":
            return " − ".join(labels)
        case "sum":
            return " + ".join(labels)
        case "ratio":
            return " / ".join(labels)
        case "classes":
            return f"{label}, in classes"
        case _:
            return f"{label}, {by}"


def _based(base: float | str) -> str:
    """The base of a logarithm as it stands below the line."""
    return exact(base).translate(_SUBSCRIPTS) if isinstance(base, float) else "ₑ"
