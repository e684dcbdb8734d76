"""Tables of a PostgreSQL server, asked there."""

import json
import threading
import weakref
from contextlib import suppress
from datetime import datetime
from typing import TYPE_CHECKING, Any

from sqlglot import exp

from rhabdos.data.far.connection import FarError, Question
from rhabdos.data.far.own_query import one_select
from rhabdos.data.far.place import Place
from rhabdos.data.far.words import both, column, decimal, every, named, number, text, when
from rhabdos.errors import Cancelled
from rhabdos.quoting import quoted, shortened_to

if TYPE_CHECKING:
    import polars as pl

_SECONDS_TO_CONNECT = 10
_DECIMALS = ("numeric", "money")
_CAST = {"money": "decimal", "oid": "bigint"}
_USUAL_PORT = 5432  # registered for it
_MICROSECONDS = 86_400e6  # in a day, which dates count in
_MORE_PAGES = 1.3  # than would hold as many rows, since pages are drawn by chance
_LEAST_PERCENT = 1e-4  # of a table, that a server is asked for a sample of
# What the server says by its codes, and in words of ours: its own may repeat what was typed.
_REFUSED = {
    "28P01": "does not know this user with this password. Check both, or put the password into "
    "your password file",
    "28000": "does not let this user in. Ask who looks after it",
    "3D000": "has no such database. Check its name",
    "53300": "has too many connections open. Try again later",
    "57P03": "is starting up or shutting down. Try again in a moment",
}


class PostgresTable:
    """A table, a view or a query of a server.

    All statements are SELECT and EXPLAIN, each by itself, and the server is asked to let this
    connection only read.
    """

    dialect = "postgres"
    strict = True
    guarded = True
    joins = False

    def __init__(self, place: Place, password: str = "") -> None:
        self.place = place
        self._lock = threading.Lock()  # one statement at a time on one connection
        self._answered = datetime.now()
        self._driver = _driver()
        try:
            self._connection = self._driver.connect(_address(place, password), autocommit=True)
        except self._driver.Error as error:
            raise self._not_reached(error) from None
        # A table that nobody shows any more leaves no connection open.
        self._ended = weakref.finalize(self, _closed, self._connection)
        self.kinds: dict[str, str] = {}

    @property
    def base(self) -> exp.Expression:
        """The table, or the query in brackets."""
        if self.place.query:
            return exp.Subquery(
                this=one_select(self.place.query, self.dialect),
                alias=exp.TableAlias(this=exp.to_identifier("q", quoted=True)),
            )
        schema = self.place.schema
        return exp.Table(
            this=exp.to_identifier(self.place.table, quoted=True),
            db=exp.to_identifier(schema, quoted=True) if schema else None,
        )

    @property
    def decimals(self) -> frozenset[str]:
        """The columns that hold decimals of any size, sums of money too."""
        return frozenset(name for name, kind in self.kinds.items() if kind in _DECIMALS)

    def column(self, name: str) -> exp.Expression:
        """A column; as another type where nothing else can be made of its own."""
        there, other = column(name), _CAST.get(self.kinds.get(name, ""))
        return exp.cast(there, other) if other else there

    def ask(self, query: exp.Query, question: Question | None = None) -> "pl.DataFrame":
        """The rows that answer a query."""
        return self._rows(query.sql(self.dialect), question or Question())

    def _rows(self, statement: str, question: Question) -> "pl.DataFrame":
        import polars as pl

        with self._lock:
            cursor = self._connection.cursor()

            def stop() -> None:
                """Stop it at the server."""
                with suppress(self._driver.Error):  # it may have ended meanwhile
                    cursor.adbc_cancel()

            try:
                question.begin(stop)
                # Without this the driver would send COPY, for which not every role has leave.
                cursor.adbc_statement.set_options(**{"adbc.postgresql.use_copy": "false"})
                cursor.execute(statement)
                answer = pl.DataFrame(cursor.fetch_arrow())
            except self._driver.Error as error:
                if question.stopped:
                    raise Cancelled from None
                if _code(error) == "57014":
                    raise FarError(
                        f"{self._server} has stopped the question: it took longer than is allowed "
                        "there. Ask for fewer rows, or have the limit raised."
                    ) from None
                raise self._refusal(error) from None
            finally:
                question.end()
                _closed(cursor)
            self._answered = datetime.now()
            return answer

    def look(self, rows: int, seed: int) -> "pl.DataFrame":
        """Rows from pages drawn by chance; of views and queries, the first that come."""
        import polars as pl

        self.kinds = self._kinds()
        chosen = [self._looked_at(name) for name in self.kinds]
        base = self.base
        about, _estimated = self.about_rows()
        if self._is_table and about and about > rows:
            percent = max(100 * rows * _MORE_PAGES / about, _LEAST_PERCENT)
            base = exp.Table(
                this=base.this,
                db=base.args.get("db"),
                sample=exp.TableSample(
                    method=exp.Var(this="SYSTEM"),
                    percent=exp.Literal.number(f"{percent:.9f}"),
                    seed=exp.Literal.number(seed),
                ),
            )
        seen = self.ask(exp.select(*chosen).from_(base).limit(rows))
        if not seen.height and base is not self.base:  # few pages, all of them without rows
            seen = self.ask(exp.select(*chosen).from_(self.base).limit(rows))
        spans = [name for name, kind in self.kinds.items() if kind == "interval"]
        return seen.with_columns(
            seen[name].round().cast(pl.Int64).cast(pl.Duration("us")) for name in spans
        )

    def _looked_at(self, name: str) -> exp.Expression:
        """A column as it is fetched: what no frame can hold is made a double."""
        if name in self.decimals:
            return named(decimal(self.column(name)), name)
        return (
            named(_micros_of(column(name)), name)
            if self.kinds[name] == "interval"
            else column(name)
        )

    def _kinds(self) -> dict[str, str]:
        """The type of each column, by name, also where there are no rows."""
        none = exp.select("*").from_(self.base).limit(0)
        single = exp.select(named(exp.Literal.number(1), "one")).subquery("o")
        # A frame without rows would tell the names, but there are types that no frame can have.
        row = exp.select(exp.Column(this=exp.Star(), table=exp.to_identifier("t")))
        row = row.from_(single.copy()).join(none.subquery("t"), on=exp.true(), join_type="left")
        whole = exp.Column(this=exp.Star(), table=exp.to_identifier("r"))
        written = exp.Anonymous(this="row_to_json", expressions=[whole])
        keys = exp.Anonymous(this="json_object_keys", expressions=[written])
        names = self.ask(exp.select(named(keys, "k")).from_(row.subquery("r"))).to_series(0)
        if not len(names):
            return {}
        typed = [named(_type_of(_of("t", name)), f"k{at}") for at, name in enumerate(names)]
        query = (
            exp.select(*typed)
            .from_(single)
            .join(none.subquery("t"), on=exp.true(), join_type="left")
        )
        return dict(zip(names, (str(kind) for kind in self.ask(query).row(0)), strict=True))

    def about_rows(self) -> tuple[int | None, bool]:
        """How many rows the server takes the table to have."""
        if not self.place.table:
            return self._planned_rows(), True
        catalogued = self._catalogued()
        if catalogued is None or catalogued[1] < 0:
            return self._planned_rows(), True
        return int(catalogued[1]), True

    def _planned_rows(self) -> int | None:
        plan = self.plan()
        return int(plan.get("Plan Rows", 0)) or None

    def plan(self) -> dict[str, Any]:
        """What the server would do to go through all rows once, without doing it."""
        query = exp.select("*").from_(self.base).sql(self.dialect)
        told = self._rows(f"EXPLAIN (FORMAT JSON) {query}", Question()).item(0, 0)
        plan = json.loads(told if isinstance(told, str) else str(told))
        first: dict[str, Any] = plan[0]["Plan"]
        return first

    def cost(self) -> str:
        """What the server's own plan says of it."""
        plan = self.plan()
        size = int(plan.get("Plan Rows", 0)) * int(plan.get("Plan Width", 0))
        return f"some {size >> 20:,} MB by its plan" if size >> 20 else "less than 1 MB by its plan"

    @property
    def _is_table(self) -> bool:
        catalogued = self._catalogued() if self.place.table else None
        return catalogued is not None and catalogued[0] in ("r", "m", "p")

    def _catalogued(self) -> tuple[str, float] | None:
        """What sort of thing is read, and how many rows it was last found to have."""
        name = exp.Table(
            this=exp.to_identifier(self.place.table, quoted=True),
            db=exp.to_identifier(self.place.schema, quoted=True) if self.place.schema else None,
        ).sql(self.dialect)
        known = exp.Anonymous(this="to_regclass", expressions=[text(name)])
        same = both(_of("c", "oid"), known, exp.EQ)
        kind = exp.cast(exp.column("relkind", table="c"), "text")
        query = (
            exp.select(named(kind, "k"), named(exp.cast(_of("c", "reltuples"), "double"), "n"))
            .from_(exp.alias_(exp.to_table("pg_catalog.pg_class"), "c", table=True))
            .where(every([same]))
        )
        answer = self.ask(query)
        return (str(answer.item(0, 0)), float(answer.item(0, 1))) if answer.height else None

    def apart(self, query: exp.Select) -> exp.Select:
        """With an offset of 0, which the planner does not look through."""
        return query.offset(0)

    def days_of(self, moment: exp.Expression) -> exp.Expression:
        """A date or time as days since 1970, a double."""
        return both(_micros_of(moment), number(_MICROSECONDS), exp.Div)

    def hours_of(self, span: exp.Expression, _kind: "pl.DataType", /) -> exp.Expression | None:
        """A time of day or an interval as hours."""
        return both(_micros_of(span), number(_MICROSECONDS / 24), exp.Div)

    def tables(self) -> list[tuple[str, str, int]]:
        """Schemas and names of what may be read, with about how many rows each has."""
        c, n = "c", "n"
        query = (
            exp.select(
                named(exp.cast(_of(n, "nspname"), "text"), "s"),
                named(exp.cast(_of(c, "relname"), "text"), "t"),
                named(exp.cast(_of(c, "reltuples"), "double"), "r"),
            )
            .from_(exp.alias_(exp.to_table("pg_catalog.pg_class"), c, table=True))
            .join(
                exp.alias_(exp.to_table("pg_catalog.pg_namespace"), n, table=True),
                on=both(_of(n, "oid"), _of(c, "relnamespace"), exp.EQ),
            )
            .where(
                exp.In(
                    this=exp.cast(_of(c, "relkind"), "text"),
                    expressions=[text(kind) for kind in "rmvpf"],
                ),
                exp.Not(
                    this=exp.In(
                        this=exp.cast(_of(n, "nspname"), "text"),
                        expressions=[text(name) for name in ("pg_catalog", "information_schema")],
                    )
                ),
                exp.Anonymous(
                    this="has_table_privilege", expressions=[_of(c, "oid"), text("SELECT")]
                ),
            )
            .order_by("1", "2")
        )
        return [(str(s), str(t), max(0, int(r))) for s, t, r in self.ask(query).rows()]

    def close(self) -> None:
        """Close the connection."""
        self._ended()

    # What goes wrong

    @property
    def _server(self) -> str:
        server = self.place.server
        return server[:1].upper() + server[1:] if server.startswith("the ") else server

    def _not_reached(self, error: Exception) -> FarError:
        code = _code(error)
        said = str(error)
        for known, sentence in _REFUSED.items():
            if code == known or (known == "28P01" and "password authentication failed" in said):
                return FarError(f"{self._server} {sentence}.")
        if 'database "' in said and "does not exist" in said:
            return FarError(f"{self._server} {_REFUSED['3D000']}.")
        if 'role "' in said and "does not exist" in said:
            return FarError(f"{self._server} {_REFUSED['28P01']}.")
        if "no password supplied" in said:
            return FarError(
                f"{self._server} asks for a password. Put it into your password file, or type it "
                "where you choose the data."
            )
        if "definition of service" in said or "service file" in said:
            return FarError(
                f"{self._server} is in no service file. Check the name, or the file that "
                "PGSERVICEFILE names."
            )
        if "refused" in said:
            return FarError(
                f"{self._server} does not answer at port {self.place.port or _USUAL_PORT}. Check "
                "the address, and whether the server runs."
            )
        if "translate host name" in said:
            return FarError(
                f"There is no machine {quoted(self.place.host)} to be found. Check the address."
            )
        if "imeout" in said or "timed out" in said:
            return FarError(
                f"{self._server} has not answered within {_SECONDS_TO_CONNECT} seconds. Check the "
                "network, or try again."
            )
        return FarError(
            f"{self._server} could not be reached. Check the address, the user and the network."
        )

    def _refusal(self, error: Exception) -> FarError:
        code, said = _code(error), " ".join(str(error).split())
        lost = code.startswith(("08", "57P")) or any(
            words in said for words in ("closed the connection", "no connection", "Broken pipe")
        )
        if lost:
            at = self._answered.strftime("%H:%M:%S")
            return FarError(
                f"{self._server} has stopped answering. What is shown is as it was at {at}. Reload "
                "the data when the server is back."
            )
        what = self.place.table or "the query"
        if code == "42P01":
            return FarError(
                f"{self._server} has no table or view {quoted(what)}, or has none any more. Check "
                "the name and its schema."
            )
        if code == "42501":
            return FarError(
                f"You may not read {quoted(what)} there. Ask who looks after it for SELECT."
            )
        if code == "42703":
            return FarError(
                f"{quoted(what)} has changed: a variable of it is there no more. Open the data "
                "again."
            )
        said = said.partition("ERROR: ")[2] or said
        said = said.partition(" LINE 1")[0].partition(" Query was")[0].partition(" Query: ")[0]
        return FarError(
            f"{self._server} cannot answer: {shortened_to(140, said.rstrip('. '))}. Check the "
            "table, or the query."
        )


def _micros_of(moment: exp.Expression) -> exp.Expression:
    """A date, a time or an interval in microseconds, a double."""
    seconds = exp.Extract(this=exp.Var(this="EPOCH"), expression=moment.copy())
    micros = exp.Mul(this=seconds, expression=exp.Literal.number("1000000"))
    return exp.cast(exp.paren(micros), "double")


def _type_of(expression: exp.Expression) -> exp.Expression:
    """The name of a type; of a domain, that of the type that it is made of."""
    kind, base = _of("y", "oid"), _of("y", "typbasetype")
    own = exp.Anonymous(this="pg_typeof", expressions=[expression])
    plain = when((both(base, exp.Literal.number(0), exp.EQ), kind), other=base)
    told = exp.Anonymous(this="format_type", expressions=[plain, exp.null()])
    types = exp.alias_(exp.to_table("pg_catalog.pg_type"), "y", table=True)
    return exp.select(told).from_(types).where(both(kind, own, exp.EQ)).subquery()


def _of(table: str, name: str) -> exp.Expression:
    return exp.column(name, table=table, quoted=True)


def _code(error: Exception) -> str:
    return str(getattr(error, "sqlstate", "") or "")


def _closed(what: Any) -> None:
    """Close a cursor or a connection, whatever has become of it."""
    with suppress(Exception):  # of what is lost already nothing is to be said
        what.close()


def _driver() -> Any:
    try:
        from adbc_driver_postgresql import dbapi
    except ImportError:  # the driver is an extra, which not every installation has
        raise FarError(
            "To read from PostgreSQL a driver is needed that is not installed. Install it with: "
            "pip install 'rhabdos[postgres]'"
        ) from None
    return dbapi


def _address(place: Place, password: str) -> str:
    """How the driver is told where to connect; it looks into service and password files itself."""
    parts = {
        "service": place.service,
        "host": place.host,
        "port": str(place.port) if place.port else "",
        "dbname": place.database,
        "user": place.user,
        "password": password,
        "connect_timeout": str(_SECONDS_TO_CONNECT),
        "application_name": "rhabdos",
        "options": "-c default_transaction_read_only=on",
    }
    parts |= dict(option.split("=", 1) for option in place.options)
    return " ".join(f"{key}={_in_quotes(value)}" for key, value in parts.items() if value)


def _in_quotes(value: str) -> str:
    escaped = value.replace("\\", "\\\\").replace("'", "\\'")
    return f"'{escaped}'"
