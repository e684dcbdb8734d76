"""Steps of preparing, done where the data lie."""

import math
from collections.abc import Callable, Sequence
from itertools import pairwise

from sqlglot import exp

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.date_bounds import date_bound_or_none
from rhabdos.data.far.relation import FarColumn, Relation, of_doubles
from rhabdos.data.far.words import (
    at_least,
    between,
    both,
    every,
    is_in,
    is_null,
    known,
    less,
    number,
    only_when,
    some,
    text,
    when,
)
from rhabdos.data.fields.counted_times import Counting
from rhabdos.data.fields.numerals import written_so
from rhabdos.data.steps.derive import HOUR, HOURS, MONTHS, WEEKDAYS, Make
from rhabdos.data.steps.keep import Condition, KeepRows, bound_of
from rhabdos.data.steps.kind import ChangeKind
from rhabdos.data.steps.missing import DeclareMissing, number_meant
from rhabdos.data.steps.naming import Bound, Describe, OrderLevels, RenameLevels
from rhabdos.data.steps.step import Step, StepError
from rhabdos.data.table import Table
from rhabdos.quoting import quoted

_MOST_DAYS = 700_000.0  # to or from 1970, that dates of every engine reach
_MOST_WHOLE = 1e15  # that whole numbers of every engine reach

Quantiles = Callable[[Relation, FarColumn, int], Sequence[float]]
"""Where a variable is cut into so many classes, and its mean and standard deviation: what costs a
query of its own."""

MeanAndSd = Callable[[Relation, FarColumn], tuple[float, float]]


def pushed(
    step: Step, relation: Relation, before: Table, cuts: Quantiles, mean_and_sd: MeanAndSd
) -> Relation:
    """What is asked after a step.

    Parameters
    ----------
    before : Table
        What the step was done on, as far as it was looked at: it names and describes variables.
    cuts, mean_and_sd : callable
        Asked by the steps that need to know all values first.

    Raises
    ------
    StepError
        The step cannot be done where the data lie.
    """
    match step:
        case KeepRows():
            return relation.only(_kept(step, relation, before))
        case Make():
            derived = _made(step, relation, before, cuts, mean_and_sd)
            return relation.with_column(step.name, derived)
        case DeclareMissing():
            return _without_codes(step, relation, before)
        case RenameLevels():
            return _renamed(step, relation, before)
        case ChangeKind():
            return _of_another_kind(step, relation, before)
        case Describe() | Bound() | OrderLevels():
            return relation
    raise StepError(
        "This step needs all rows in memory, and these data are asked where they lie. Leave it "
        "out, or do it there and open what comes of it."
    )


def column_in(relation: Relation, table: Table, name: str) -> FarColumn:
    """How a variable is worked out, by its name or label."""
    exact = table.column(name).name
    if exact not in relation.columns:
        raise StepError(
            f"{quoted(exact)} is of a kind that is not asked where it lies: it holds no numbers, "
            "dates, levels or truths."
        )
    return relation.columns[exact]


# Rows


def _kept(step: KeepRows, relation: Relation, table: Table) -> exp.Expression:
    met = [_met(condition, relation, table) for condition in step.where]
    held = some(met) if step.any else every(met)
    # What is neither true nor false counts as not met: then "out" keeps it.
    truth = when((held, number(1.0)), other=number(0.0))
    return both(truth, number(0.0 if step.out else 1.0), exp.EQ)


def _met(condition: Condition, relation: Relation, table: Table) -> exp.Expression:
    far = column_in(relation, table, condition.variable)
    look = table.column(condition.variable)
    if condition.missing is not None:
        wanted = condition.missing is not condition.other
        return is_null(far.value) if wanted else known(far.value)
    parts: list[exp.Expression] = []
    if condition.levels is not None:
        parts.append(_has_level(far, condition.levels))
    for bound, compare, upper in (
        (condition.low, at_least, False),
        (condition.high, _at_most, True),
        (condition.above, _more, True),
        (condition.below, less, False),
    ):
        if bound is not None:
            parts.append(compare(far.value, number(_bound(look, bound, upper))))
    if condition.contains is not None:
        if far.kind != "text":
            raise StepError(
                f"{quoted(look.name)} holds no text where the data lie, so its rows are kept by a "
                "range or by levels."
            )
        lowered = exp.Lower(this=far.value.copy())
        parts.append(
            both(exp.StrPosition(this=lowered, substr=text(condition.contains.lower())),
                 number(0.0), exp.GT)
        )  # fmt: skip
    held = every(parts) if parts else known(far.value)
    if condition.other:
        return every([known(far.value), exp.Not(this=exp.paren(held))])
    return every([known(far.value), held])


def _at_most(a: exp.Expression, b: exp.Expression) -> exp.Expression:
    return both(a, b, exp.LTE)


def _more(a: exp.Expression, b: exp.Expression) -> exp.Expression:
    return both(a, b, exp.GT)


def _has_level(far: FarColumn, levels: Sequence[str]) -> exp.Expression:
    if far.kind == "text":
        return is_in(far.value, [text(level) for level in levels])
    if far.kind == "date":
        days = [date_bound_or_none(level, False) for level in levels]
        spans = [(day, day) for day in days if day is not None]
    else:
        spans = [span for level in levels if (span := written_so(level)) is not None]
    if not spans:
        return exp.false()
    return some(
        [
            every([at_least(far.value, number(low)), _at_most(far.value, number(high))])
            for low, high in spans
        ]
    )


def _bound(look: object, bound: float | str, upper: bool) -> float:
    if not isinstance(look, NumberColumn):
        raise StepError("Rows are kept by a range of numbers or dates only. Keep them by levels.")
    return bound_of(look, bound, upper)


# Values


def _without_codes(step: DeclareMissing, relation: Relation, table: Table) -> Relation:
    far = column_in(relation, table, step.variable)
    look = table.column(step.variable)
    codes: list[exp.Expression] = []
    for code in step.codes:
        if isinstance(look, NumberColumn):
            value = number_meant(look, code)
            codes += [number(value)] if value is not None else []
        else:
            codes.append(text(f"{code:.15g}" if isinstance(code, float) else code))
    if not codes:
        return relation
    kept = only_when(exp.Not(this=is_in(far.value, codes)), far.value)
    return relation.with_column(look.name, FarColumn(far.kind, kept, far.moment))


def _of_another_kind(step: ChangeKind, relation: Relation, table: Table) -> Relation:
    """Numbers that count time as dates, and numbers as levels; texts as levels of another kind are
    asked as before."""
    far = column_in(relation, table, step.variable)
    look = table.column(step.variable)
    if (counting := step.counting_of(look)) is not None and far.kind == "number":
        return relation.with_column(look.name, _counted(far, counting))
    if step.kind not in ("number", "date/time"):
        if far.kind == "text":
            return relation
        if far.kind == "number":
            written = FarColumn("text", only_when(known(far.value), _written(far.value)))
            return relation.with_column(look.name, written)
    raise StepError(
        f"{quoted(look.name)} would have to be read anew from its texts, which needs all rows in "
        "memory. Leave this step out, or do it where the data lie and open what comes of it."
    )


def _counted(far: FarColumn, counting: Counting) -> FarColumn:
    """Moments of which a number tells how many days, or parts of one, they lie from 1970."""
    days = both(both(far.value, number(counting.a_day), exp.Div), number(counting.before), exp.Sub)
    whole = only_when(
        between(days, number(-_MOST_DAYS), number(_MOST_DAYS)),
        exp.cast(exp.Floor(this=days.copy()), "int"),
    )
    moment = both(exp.cast(text("1970-01-01"), "date"), whole, exp.Add)
    return of_doubles(days, "date", moment)


def _written(value: exp.Expression) -> exp.Expression:
    """A number as a level is named: a whole one without a point."""
    as_text = exp.cast(value.copy(), "text")
    whole = exp.cast(exp.cast(value.copy(), "bigint"), "text")
    is_whole = every(
        [
            between(value, number(-_MOST_WHOLE), number(_MOST_WHOLE)),
            both(exp.Floor(this=value.copy()), value, exp.EQ),
        ]
    )
    return when((is_whole, whole), other=as_text)


def _renamed(step: RenameLevels, relation: Relation, table: Table) -> Relation:
    far = column_in(relation, table, step.variable)
    look = table.column(step.variable)
    if far.kind != "text" or not isinstance(look, CategoryColumn):
        raise StepError(f"{quoted(look.name)} has no levels of its own that could be renamed.")
    pairs = [
        (both(far.value, text(level), exp.EQ), text(name)) for level, name in step.become.items()
    ]
    return relation.with_column(look.name, FarColumn("text", when(*pairs, other=far.value)))


def _made(
    step: Make, relation: Relation, table: Table, cuts: Quantiles, mean_and_sd: MeanAndSd
) -> FarColumn:
    sources = [column_in(relation, table, name) for name in step.of]
    if any(source.kind == "text" for source in sources):
        raise StepError("A new variable is made of numbers or dates. Choose such.")
    first, values = sources[0], [source.value for source in sources]
    x = values[0]
    match step.by:
        case "log":
            result = only_when(both(x, number(0.0), exp.GT), _log(x, step.base))
        case "root":
            result = only_when(at_least(x, number(0.0)), exp.Sqrt(this=x.copy()))
        case "reciprocal":
            result = only_when(both(x, number(0.0), exp.NEQ), both(number(1.0), x, exp.Div))
        case "difference":
            result = both(values[0], values[1], exp.Sub)
        case "ratio":
            divided = both(values[0], values[1], exp.Div)
            result = only_when(both(values[1], number(0.0), exp.NEQ), divided)
        case "sum":
            result = values[0]
            for other in values[1:]:
                result = both(result, other, exp.Add)
        case "standardised":
            mean, sd = mean_and_sd(relation, first)
            result = both(both(x, number(mean), exp.Sub), number(sd), exp.Div)
        case "classes":
            look = table.number(step.of[0])
            edges = step.edges_in(look) or cuts(relation, first, step.quantiles or 4)
            return _classes(look, x, edges)
        case _:
            return _part_of(step.by, first)
    return of_doubles(result)


def _log(x: exp.Expression, base: float | str | None) -> exp.Expression:
    if base == "e":
        return exp.Ln(this=x.copy())
    if base is None or base == 10:
        return exp.Anonymous(this="LOG10", expressions=[x.copy()])
    assert isinstance(base, float)
    return both(exp.Ln(this=x.copy()), number(math.log(base)), exp.Div)


def _classes(look: NumberColumn, x: exp.Expression, edges: Sequence[float]) -> FarColumn:
    written = look.written
    levels = (
        f"below {written(edges[0])}",
        *(f"{written(a)} to {written(b)}" for a, b in pairwise(edges)),
    )
    pairs = [
        (less(x, number(edge)), text(level)) for edge, level in zip(edges, levels, strict=True)
    ]
    last = text(f"{written(edges[-1])} or more")
    return FarColumn("text", only_when(known(x), when(*pairs, other=last)))


def _part_of(by: str, source: FarColumn) -> FarColumn:
    """The year, month, weekday or hour of a date, as levels."""
    if source.kind != "date" or source.moment is None:
        raise StepError(f"A {by} is of a date. Choose one.")
    days = source.value
    whole = exp.Floor(this=days.copy())
    part: exp.Expression
    other: exp.Expression = exp.null()
    if by in ("year", "month"):
        part = exp.Extract(this=exp.Var(this=by.upper()), expression=source.moment.copy())
        if by == "year":
            return FarColumn("text", only_when(known(days), exp.cast(part, "text")))
        names = MONTHS
        pairs = [
            (both(part, exp.Literal.number(at + 1), exp.EQ), text(name))
            for at, name in enumerate(names)
        ]
    elif by == "weekday":
        # 1970 began on a Thursday; a remainder that every engine works out alike.
        shifted = both(whole, number(3.0), exp.Add)
        weeks = exp.Floor(this=both(shifted, number(7.0), exp.Div))
        part = both(shifted, both(weeks, number(7.0), exp.Mul), exp.Sub)
        pairs = [
            (both(part, number(float(at)), exp.EQ), text(name)) for at, name in enumerate(WEEKDAYS)
        ]
    else:
        # Of a day an hour is no number that a double holds, and of a microsecond it is.
        since = both(both(days, whole, exp.Sub), number(HOURS * HOUR), exp.Mul)
        rounded = exp.Floor(this=both(since, number(0.5), exp.Add))
        pairs = [
            (less(rounded, number((hour + 1) * HOUR)), text(f"{hour:02d}:00"))
            for hour in range(HOURS)
        ]
        other = pairs.pop()[1]
    return FarColumn("text", only_when(known(days), when(*pairs, other=other)))


def text_column(expression: exp.Expression, missing: Sequence[str]) -> FarColumn:
    """A text as levels: what is blank or a word for a missing value is none."""
    bare = exp.Lower(this=exp.Trim(this=expression.copy()))
    gone = is_in(bare, [text(word) for word in ("", *missing)])
    return FarColumn("text", only_when(exp.Not(this=gone), expression), None, expression)


def truth_column(expression: exp.Expression) -> FarColumn:
    """A truth as the levels "true" and "false"."""
    pairs = ((expression, text("true")), (exp.Not(this=exp.paren(expression)), text("false")))
    return FarColumn("text", when(*pairs, other=exp.null()))
