"""What looks wrong with a variable, how many values it is about, and what would put it right."""

import numpy as np

from rhabdos.data.columns import (
    INFINITE,
    CategoryColumn,
    Column,
    DateColumn,
    Kind,
    LabelColumn,
    NumberColumn,
    date_written,
)
from rhabdos.data.fields.counted_times import COUNTINGS, likely_counting
from rhabdos.data.fields.notation import Doubt
from rhabdos.data.gathering import few_values
from rhabdos.data.problems.measuring import (
    counting_since_1970,
    dates_in_digits,
    few_codes,
    named_as_code,
    paired_text,
)
from rhabdos.data.problems.problem import Problem, misfits
from rhabdos.data.problems.problems_of_texts import of_labels, of_levels
from rhabdos.data.samples import Sample
from rhabdos.data.table import Table
from rhabdos.memo import memoised
from rhabdos.quoting import quoted
from rhabdos.stats.oddities import CODES, DATE_CODES, missing_code
from rhabdos.wording import counted, exact

_MOST_NAMED = 4  # values; of more the commonest
_ARE_CODES = ("group-codes", "named-code")


@memoised  # overview, list, facts and notices all ask
def problems_of(column: Column) -> tuple[Problem, ...]:
    """All that looks wrong with a variable, the most important first."""
    if column.n == 0 or (isinstance(column, NumberColumn) and np.isnan(column.values).all()):
        text = f"{quoted(column.name)} has no values: all {column.rows:,} rows are missing."
        return (Problem("no-values", text, column.rows),)
    noticed: list[Problem | None] = [_doubt(column, doubt) for doubt in column.doubts]
    if isinstance(column, DateColumn):
        noticed += [_lost(column, "date"), _spike(column), _beyond(column)]
    elif isinstance(column, NumberColumn):
        noticed += [
            _lost(column, "number"), _infinite(column), _spike(column), _beyond(column),
            _serial(column), _counted(column) or _in_digits(column) or _codes(column),
        ]  # fmt: skip
    elif isinstance(column, CategoryColumn):
        noticed += of_levels(column)
    elif isinstance(column, LabelColumn):
        noticed += of_labels(column)
    return tuple(problem for problem in noticed if problem)


_SAID = {
    "date-order": "Every date of {name} can be read in two orders",
    "short-years": "The years of {name} have two digits",
    "time-zones": "Times of {name} are of zones other than UTC",
    "thousands-or-decimals": "The marks in {name} may part thousands or decimals",
    "clock-times": "{name} holds times",
    "brackets": "Numbers of {name} in brackets are below 0",
}
_CURED = {
    "date-order": "read them in the other order",
    "short-years": "read them as of the last hundred years",
    "thousands-or-decimals": "read them the other way",
    "clock-times": "read them as minutes and seconds",
}


def _doubt(column: Column, doubt: Doubt) -> Problem:
    """What else the fields might have been taken for."""
    from rhabdos.data.steps.kind import ChangeKind

    said = _SAID[doubt.code].format(name=quoted(column.name))
    other = f"; it might be {doubt.other}" if doubt.other else ""
    text = f"{said}: {quoted(doubt.example)} was read as {doubt.taken}{other}."
    cure = None
    if doubt.cure:
        cure = ChangeKind(variable=column.name, **dict(doubt.cure))  # type: ignore[arg-type]
    return Problem(doubt.code, text, column.n, cure, _CURED[doubt.code] if cure else "")


def _infinite(column: NumberColumn) -> Problem | None:
    count = column.missing_as.get(INFINITE, 0)
    if not count:
        return None
    values = counted(count, "infinite value", "infinite values")
    text = f"{quoted(column.name)} holds {values}, counted as missing."
    return Problem("infinite", text, count)


def _lost(column: NumberColumn, thing: str) -> Problem | None:
    """Text that had no place among numbers or dates, where the kind was changed."""
    if column.stood is None or column.made_by or column.original is None:
        return None
    from rhabdos.data.fields.numerals import as_float
    from rhabdos.data.fields.texts import MISSING_AMONG_NUMBERS

    known = (*MISSING_AMONG_NUMBERS, "nan", INFINITE)
    words = {
        word: count
        for word, count in column.missing_as.items()
        if word.lower() not in known
        and word != "blank"
        # A number is missing from numbers where it was called a code; from dates it is lost.
        and (thing != "number" or as_float(word) is None)
    }
    total = sum(words.values())
    if not total:
        return None
    text = f"In {quoted(column.name)} {misfits(total, words, thing)}; they count as missing."
    return Problem(f"not-{thing}s", text, total)


def _spike(column: NumberColumn) -> Problem | None:
    """A code for missing among the values."""
    from rhabdos.data.steps.missing import DeclareMissing

    codes = codes_among(column)
    low, high = float(np.nanmin(column.values)), float(np.nanmax(column.values))
    if low not in codes and high not in codes:
        return None
    values = column.values[~np.isnan(column.values)]
    spike = missing_code(Sample(column.label, np.sort(values)), codes)
    if spike is None:
        return None
    code = column.written(spike.code)
    text = (
        f"In {quoted(column.name)} {counted(spike.count, 'value is', 'values are')} {code}, far "
        f"from all others, the nearest of which is {column.written(spike.nearest)}. {code} may "
        "stand for missing."
    )
    cure = DeclareMissing(variable=column.name, codes=(written_code(column, spike.code),))
    return Problem("missing-code", text, spike.count, cure, f"{code} stands for missing")


def codes_among(column: NumberColumn) -> tuple[float, ...]:
    """What people and programs write for “missing” among its values."""
    return DATE_CODES if isinstance(column, DateColumn) else CODES


def written_code(column: NumberColumn, code: float) -> float | str:
    """A code as a step names it: of dates the date."""
    return column.written(code) if isinstance(column, DateColumn) else code


def _beyond(column: NumberColumn) -> Problem | None:
    from rhabdos.data.steps.naming import beyond_bounds

    count = beyond_bounds(column)
    if not count:
        return None
    lie = "value lies" if count == 1 else "values lie"
    ends = [
        f"{where} {column.written(bound)}"
        for where, bound in (("below", column.lower), ("above", column.upper))
        if bound is not None
    ]
    text = f"In {quoted(column.name)} {count:,} {lie} {' or '.join(ends)}, where no true value can."
    return Problem("beyond-bounds", text, count)


def _serial(column: NumberColumn) -> Problem | None:
    """Numbers under a name of dates that are days as sheets count them."""
    from rhabdos.data.steps.kind import ChangeKind

    words = column.name.casefold().replace("_", " ").split()
    if not any(word.startswith(("date", "datum", "day of")) or word == "dato" for word in words):
        return None
    low, high = float(np.nanmin(column.values)), float(np.nanmax(column.values))
    if likely_counting(column.values) != "days since 1900":
        return None
    text = (
        f"{quoted(column.name)} is named for dates and holds numbers from {exact(low)} to "
        f"{exact(high)}: days since 1900, as spreadsheets count them."
    )
    cure = ChangeKind(variable=column.name, kind="date/time", order="days since 1900")
    return Problem("serial-dates", text, column.n, cure, "read them as dates")


def _counted(column: NumberColumn) -> Problem | None:
    """Numbers that are seconds, or parts of them, as computers count time."""
    from rhabdos.data.steps.kind import ChangeKind

    order = counting_since_1970(column)
    if not order:
        return None
    first = column.values[~np.isnan(column.values)][:1]
    day = date_written(float(COUNTINGS[order].days(first)[0]))
    text = (
        f"All values of {quoted(column.name)} may be {order}, as computers count time: "
        f"{exact(float(first[0]))} is {day} in UTC."
    )
    cure = ChangeKind(variable=column.name, kind="date/time", order=order)
    return Problem("counted-times", text, column.n, cure, "read them as dates")


def _in_digits(column: NumberColumn) -> Problem | None:
    """Numbers that are year, month and day in a row."""
    from rhabdos.data.steps.kind import ChangeKind

    if not dates_in_digits(column):
        return None
    first = exact(float(column.values[~np.isnan(column.values)][0]))
    text = (
        f"All values of {quoted(column.name)} are dates in digits: {first} is "
        f"{first[:4]}-{first[4:6]}-{first[6:]}. As numbers they leave gaps after each month."
    )
    cure = ChangeKind(variable=column.name, kind="date/time", order="year month day")
    return Problem("digit-dates", text, column.n, cure, "read them as dates")


def _codes(column: NumberColumn) -> Problem | None:
    """Whole numbers that stand for groups or rows more often than for measures."""
    from rhabdos.data.steps.kind import ChangeKind

    few = few_codes(column)
    if few is not None:
        pair = len(few) == 2 and few[0] == 0
        joint = "and" if len(few) == 2 else "to"
        values = f"{exact(few[0])} {joint} {exact(few[-1])}"
        text = f"{quoted(column.name)} holds only {values}, which may be codes of groups."
        cure = ChangeKind(variable=column.name, kind="yes/no" if pair else "category")
        words = f"read it as {'yes/no' if pair else 'a category'}"
        return Problem("group-codes", text, column.n, cure, words)
    if not named_as_code(column):
        return None
    groups = few_values(column)
    kind: Kind = "label" if groups is None or len(groups) > column.n / 2 else "category"
    text = f"{quoted(column.name)} is named like a code, and may measure nothing."
    cure = ChangeKind(variable=column.name, kind=kind)
    return Problem("named-code", text, column.n, cure, f"read it as a {kind}")


def problems_in(table: Table, column: Column) -> tuple[Problem, ...]:
    """The same, with what only the other variables of its table show."""
    known = problems_of(column)
    if not isinstance(column, NumberColumn) or any(p.code in _ARE_CODES for p in known):
        return known
    group = paired_text(table, column)
    if group is None:
        return known
    from rhabdos.data.steps.kind import ChangeKind

    text = (
        f"Each number of {quoted(column.name)} stands beside one level of {quoted(group.name)}, so "
        "that they may be codes of these."
    )
    cure = ChangeKind(variable=column.name, kind="category")
    return (*known, Problem("paired-codes", text, column.n, cure, "read it as a category"))
