"""Tables of a Spark cluster, asked through Spark Connect."""

import socket
import threading
from typing import TYPE_CHECKING, Any

from sqlglot import exp

from rhabdos.data.far.connection import FarError, Question
from rhabdos.data.far.own_query import one_select
from rhabdos.data.far.place import Place
from rhabdos.data.far.words import both, column, number
from rhabdos.errors import Cancelled
from rhabdos.quoting import quoted, shortened_to

if TYPE_CHECKING:
    import polars as pl

_USUAL_PORT = 15002  # as its documentation has it
_SECONDS_TO_CONNECT = 10
_MICROSECONDS = 86_400e6  # in a day, which dates count in
_MORE = 1.2  # as many as are wanted, since each row is drawn by chance


class SparkTable:
    """A table, a view or a query of a cluster."""

    dialect = "spark"
    strict = False
    guarded = True
    joins = False

    def __init__(self, place: Place, password: str = "") -> None:
        self.place = place
        self._lock = threading.Lock()  # one statement at a time in one session
        session = _sessions()
        token = f";token={password}" if password else ""
        user = f";user_id={place.user}" if place.user else ""
        host = f"[{place.host}]" if ":" in place.host else place.host
        self._refuse_deaf()
        try:
            self._session = session.builder.remote(
                f"sc://{host}:{place.port or _USUAL_PORT}/{user}{token}"
            ).create()
            self._session.sql("SELECT 1").collect()
        except Exception:  # noqa: BLE001 - whatever the client says may hold the token
            raise self._deaf() from None

    def _refuse_deaf(self) -> None:
        """Refuse a server that does not listen at once: the client would try for ten minutes."""
        try:
            address = self.place.host, self.place.port or _USUAL_PORT
            socket.create_connection(address, _SECONDS_TO_CONNECT).close()
        except OSError:
            raise self._deaf() from None

    def _deaf(self) -> FarError:
        return FarError(
            f"{self._server} does not answer at port {self.place.port or _USUAL_PORT}. Check the "
            "address, and whether Spark Connect runs there."
        )

    @property
    def base(self) -> exp.Expression:
        """The table, or the query in brackets."""
        if self.place.query:
            alias = exp.TableAlias(this=exp.to_identifier("q", quoted=True))
            return exp.Subquery(this=one_select(self.place.query, self.dialect), alias=alias)
        schema = self.place.schema or self.place.database
        return exp.Table(
            this=exp.to_identifier(self.place.table, quoted=True),
            db=exp.to_identifier(schema, quoted=True) if schema else None,
        )

    @property
    def decimals(self) -> frozenset[str]:
        """Those here are told by their type, and none is beyond a double."""
        return frozenset()

    def ask(self, query: exp.Query, question: Question | None = None) -> "pl.DataFrame":
        """The rows that answer a query."""
        import polars as pl

        with self._lock:
            question = question or Question()
            tag = f"rhabdos-{id(question)}"
            question.begin(lambda: self._session.interruptTag(tag))
            try:
                self._session.addTag(tag)
                answer = self._session.sql(query.sql(self.dialect)).toArrow()
                return pl.DataFrame(pl.from_arrow(answer))
            except Exception as error:  # noqa: BLE001 - the client has no class of its own for most
                if question.stopped:
                    raise Cancelled from None
                raise self._refusal(error) from None
            finally:
                question.end()
                self._session.removeTag(tag)

    def look(self, rows: int, seed: int) -> "pl.DataFrame":
        """Rows drawn by chance of a table; of views and queries, the first that come."""
        about, _estimated = self.about_rows()
        base = self.base
        if isinstance(base, exp.Table) and about and about > rows:
            percent = min(100.0, 100 * rows * _MORE / about)
            base = exp.Table(
                this=base.this,
                db=base.args.get("db"),
                sample=exp.TableSample(
                    percent=exp.Literal.number(f"{percent:.9f}"), seed=exp.Literal.number(seed)
                ),
            )
        return self.ask(exp.select("*").from_(base).limit(rows))

    def about_rows(self) -> tuple[int | None, bool]:
        """How many rows there are, which a cluster tells of most files without reading them."""
        counted = self.ask(exp.select(exp.Count(this=exp.Star())).from_(self.base))
        return int(counted.item()), False

    def cost(self) -> str:
        """A cluster does not tell it alike for all that it reads."""
        return ""

    def apart(self, query: exp.Select) -> exp.Select:
        """As it is: this engine sees by itself what is the same."""
        return query

    def column(self, name: str) -> exp.Expression:
        """A column as it is."""
        return column(name)

    def days_of(self, moment: exp.Expression) -> exp.Expression:
        """A date or time as days since 1970, a double."""
        zoned = exp.Anonymous(
            this="UNIX_MICROS", expressions=[exp.cast(moment.copy(), "timestamptz")]
        )
        return both(exp.cast(zoned, "double"), number(_MICROSECONDS), exp.Div)

    def hours_of(self, _span: exp.Expression, _kind: "pl.DataType", /) -> exp.Expression | None:
        """A cluster has no times of day, and spans of several kinds."""
        return None

    def tables(self) -> list[tuple[str, str, int]]:
        """Databases and tables of the cluster's catalogue."""
        listed: list[tuple[str, str, int]] = []
        try:
            catalog = self._session.catalog
            for database in catalog.listDatabases():
                tables = catalog.listTables(database.name)
                listed += [(database.name, table.name, 0) for table in tables]
        except Exception as error:  # noqa: BLE001 - the client has no class of its own for most
            raise self._refusal(error) from None
        return listed

    def close(self) -> None:
        """End the session."""
        self._session.stop()

    @property
    def _server(self) -> str:
        return self.place.server

    def _refusal(self, error: Exception) -> FarError:
        said = " ".join(str(error).split())
        if "TABLE_OR_VIEW_NOT_FOUND" in said:
            return FarError(
                f"{self._server} has no table or view {quoted(self.place.table)}, or has none any "
                "more. Check the name and its schema."
            )
        if any(words in said for words in ("UNAVAILABLE", "failed to connect", "SESSION_CLOSED")):
            return FarError(
                f"{self._server} has stopped answering. What is shown is as it was before. Reload "
                "the data when the cluster is back."
            )
        return FarError(
            f"{self._server} cannot answer: {shortened_to(140, said)}. Check the table, or the "
            "query."
        )


def _sessions() -> Any:
    try:
        from pyspark.sql.connect.session import SparkSession
    except ImportError:  # the driver is an extra, which not every installation has
        raise FarError(
            "To read from Spark a client is needed that is not installed. Install it with: "
            "pip install 'rhabdos[spark]'"
        ) from None
    return SparkSession
