"""The few words of SQL that all queries are made of, so that every engine answers alike."""

from collections.abc import Collection, Sequence
from typing import cast

from sqlglot import exp

from rhabdos.data.fields.singles import ALL_WHOLE

LARGEST = 1.7976931348623157e308
_SMALLEST = 1e-307  # nearer to 0 not every engine keeps a decimal apart from 0


def column(name: str) -> exp.Expression:
    """A column by its name, quoted whatever it holds."""
    return exp.column(name, quoted=True)


def number(value: float) -> exp.Expression:
    """A number that every engine reads as just this double: decimals without an exponent are
    another kind for some of them."""
    text = repr(float(abs(value)))
    literal = exp.Literal.number(text if "e" in text else f"{text}e0")
    signed = exp.Neg(this=literal) if value < 0 else literal
    return exp.Cast(this=signed, to=exp.DataType(this=exp.DataType.Type.DOUBLE, nested=False))


def text(value: str) -> exp.Expression:
    """A text as it is."""
    return exp.Literal.string(value)


def double(expression: exp.Expression) -> exp.Expression:
    """An expression as a double."""
    return cast("exp.Expression", exp.cast(expression, "double"))


def both(first: exp.Expression, second: exp.Expression, kind: type[exp.Binary]) -> exp.Expression:
    """An operation or a comparison of two."""
    return cast("exp.Expression", kind(this=exp.paren(first), expression=exp.paren(second)))


def less(a: exp.Expression, b: exp.Expression) -> exp.Expression:
    """Whether a < b."""
    return both(a, b, exp.LT)


def at_least(a: exp.Expression, b: exp.Expression) -> exp.Expression:
    """Whether a ≥ b."""
    return both(a, b, exp.GTE)


def between(a: exp.Expression, low: exp.Expression, high: exp.Expression) -> exp.Expression:
    """Whether low ≤ a ≤ high."""
    return exp.Between(this=exp.paren(a), low=low, high=high)


def every(conditions: Sequence[exp.Expression]) -> exp.Expression:
    """Whether all of them hold."""
    return cast("exp.Expression", exp.and_(*conditions))


def some(conditions: Sequence[exp.Expression]) -> exp.Expression:
    """Whether one of them holds."""
    return cast("exp.Expression", exp.or_(*conditions))


def when(*pairs: tuple[exp.Expression, exp.Expression], other: exp.Expression) -> exp.Expression:
    """The first result whose condition holds; else another."""
    case = exp.Case()
    for condition, result in pairs:
        case = case.when(condition, result, copy=False)  # a copy of all before it each time
    return case.else_(other, copy=False)


def only_when(condition: exp.Expression, result: exp.Expression) -> exp.Expression:
    """A result where a condition holds, and nothing elsewhere."""
    return when((condition, result), other=exp.null())


def decimal(expression: exp.Expression) -> exp.Expression:
    """A decimal as a double, 0 where it is smaller than any, and nothing where it is beyond all.

    Bounds are decimals too: to be compared with doubles it would be made one, and be refused.
    """
    return when(
        (between(expression, _plain(-_SMALLEST), _plain(_SMALLEST)), number(0.0)),
        (between(expression, _plain(-LARGEST), _plain(LARGEST)), finite_double(double(expression))),
        other=exp.null(),
    )


def single(expression: exp.Expression) -> exp.Expression:
    """A number in single precision as the double that is written alike; larger ones are whole, and
    engines write them differently."""
    size = exp.Abs(this=double(expression))
    written = double(cast("exp.Expression", exp.cast(expression, "text")))
    return when((less(size, number(ALL_WHOLE)), written), other=double(expression))


def _plain(value: float) -> exp.Expression:
    literal = exp.Literal.number(repr(abs(value)))
    return exp.Neg(this=literal) if value < 0 else literal


def finite_double(expression: exp.Expression) -> exp.Expression:
    """A double, and nothing where it is NaN or infinite.

    Of these alone the difference from itself is not 0. A range would not do: an engine may take it
    to hold for all rows from what a file says of its least and greatest value, which NaN is not
    part of.
    """
    return only_when(finite(expression), expression)


def finite(expression: exp.Expression) -> exp.Expression:
    """Whether a double is neither NaN nor infinite."""
    return both(both(expression, expression, exp.Sub), number(0.0), exp.EQ)


def is_null(expression: exp.Expression) -> exp.Expression:
    """Whether there is nothing."""
    return exp.Is(this=exp.paren(expression), expression=exp.null())


def known(expression: exp.Expression) -> exp.Expression:
    """Whether there is something."""
    return exp.Not(this=is_null(expression))


def is_in(expression: exp.Expression, values: Sequence[exp.Expression]) -> exp.Expression:
    """Whether it is one of these."""
    return exp.In(this=exp.paren(expression), expressions=list(values))


def of_rows(selected: exp.Select, rows: exp.Query, alias: str) -> exp.Select:
    """A selection from the rows of another query, which becomes a part of it: a copy of all that is
    inside at each level would take longer than to write it."""
    return selected.from_(rows.subquery(alias, copy=False), copy=False)


def where_one_of(
    rows: exp.Select, expression: exp.Expression, numbers: Collection[float], joined: bool
) -> exp.Select:
    """Those of some rows of which an expression is one of these doubles: told by a list of them, or
    ``joined`` with a table of them, which some engines look up in two thirds of the time."""
    if not joined:
        return rows.where(is_in(expression, [number(value) for value in numbers]))
    key = exp.to_identifier("k", quoted=True)
    each = [exp.Tuple(expressions=[number(value)]) for value in dict.fromkeys(numbers)]
    alias = exp.TableAlias(this=exp.to_identifier("w", quoted=True), columns=[key])
    equal = exp.EQ(this=expression, expression=exp.column("k", table="w", quoted=True))
    return rows.join(exp.Values(expressions=each, alias=alias), on=equal)


def named(expression: exp.Expression, name: str) -> exp.Expression:
    """An expression under a name."""
    return cast("exp.Expression", exp.alias_(expression, name, quoted=True))
