"""A query of one's own: one SELECT that changes nothing."""

from typing import cast

from sqlglot import exp

from rhabdos.data.far.connection import FarError


def one_select(text: str, dialect: str) -> exp.Expression:
    """The query, once it is seen to be one SELECT that changes nothing.

    Raises
    ------
    FarError
        It is something else.
    """
    import sqlglot
    from sqlglot.errors import SqlglotError

    try:
        parsed = [query for query in sqlglot.parse(text, dialect=dialect) if query]
    except SqlglotError:
        parsed = []
    writes = (exp.Insert, exp.Update, exp.Delete, exp.Merge, exp.Into, exp.Lock, exp.Command)
    only = parsed[0] if len(parsed) == 1 else None
    if not isinstance(only, exp.Query) or only.find(*writes):
        raise FarError(
            "The query must be one SELECT, which changes nothing. Write it as SELECT … FROM …"
        )
    return cast("exp.Expression", only)
