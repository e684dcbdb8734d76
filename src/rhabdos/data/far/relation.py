"""What is asked of far data: columns worked out of others, of some rows."""

from collections.abc import Mapping
from typing import Literal, Self

from msgspec import Struct, structs
from sqlglot import exp

from rhabdos.data.far.words import decimal, every, finite_double, named, single

FarKind = Literal["number", "date", "text"]


class FarColumn(Struct, frozen=True, eq=False):
    """How a variable is worked out where it lies.

    Attributes
    ----------
    kind : {"number", "date", "text"}
        A finite double, days since 1970, or a level.
    value : expression
        What it is, nothing where it is missing.
    moment : expression or None
        The date that days are counted of.
    field : expression or None
        A text as it stands there. It is grouped by as it is, which is faster than to see for each
        row whether it is a word for a missing value.
    loose : expression or None
        A double as it stands there, NaN and infinities among the numbers. Whoever asks for cells
        tells these apart by their cell, which is faster than to see it for each row.
    plain : expression or None
        A decimal, or a number in single precision, as it stands there: its few different values
        are made doubles once each, not row by row.
    single : bool
        Whether it is the latter.
    """

    kind: FarKind
    value: exp.Expression
    moment: exp.Expression | None = None
    field: exp.Expression | None = None
    loose: exp.Expression | None = None
    plain: exp.Expression | None = None
    single: bool = False

    @property
    def in_cells(self) -> exp.Expression:
        """What cells are made of."""
        return self.value if self.loose is None else self.loose

    @property
    def key(self) -> exp.Expression:
        """What is grouped by."""
        return self.value if self.field is None else self.field


def of_doubles(
    expression: exp.Expression,
    kind: Literal["number", "date"] = "number",
    moment: exp.Expression | None = None,
) -> FarColumn:
    """Doubles, of which NaN and infinities are missing values."""
    return FarColumn(kind, finite_double(expression), moment, loose=expression)


def of_decimals(expression: exp.Expression) -> FarColumn:
    """Decimals, of which those beyond all doubles are missing values."""
    return FarColumn("number", decimal(expression), plain=expression)


def of_singles(expression: exp.Expression) -> FarColumn:
    """Decimals of few digits in single precision, as the doubles that are written alike."""
    as_double = single(expression)
    return FarColumn(
        "number", finite_double(as_double), loose=as_double, plain=expression, single=True
    )


class Relation(Struct, frozen=True, eq=False):
    """Rows where they lie.

    Attributes
    ----------
    base : expression
        A table, or a query in brackets.
    columns : mapping of str to FarColumn
        By name.
    where : tuple of expression
        What must hold of a row.
    weight : expression or None
        How many cases a row stands for.
    """

    base: exp.Expression
    columns: Mapping[str, FarColumn]
    where: tuple[exp.Expression, ...] = ()
    weight: exp.Expression | None = None

    def with_column(self, name: str, column: FarColumn) -> Self:
        """With a column more, or another one in its place."""
        return structs.replace(self, columns={**self.columns, name: column})

    def only(self, condition: exp.Expression) -> Self:
        """Of its rows those of which this holds."""
        return structs.replace(self, where=(*self.where, condition))

    def select(self, expressions: Mapping[str, exp.Expression]) -> exp.Select:
        """These expressions, by name, of each row that is kept."""
        query = exp.select(*(named(value, name) for name, value in expressions.items()))
        query = query.from_(self.base)
        return query.where(every(self.where)) if self.where else query
