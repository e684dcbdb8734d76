"""What every engine answers, however it is reached."""

import threading
from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol

from rhabdos.errors import Cancelled, Refusal

if TYPE_CHECKING:
    import polars as pl
    from sqlglot import exp


class FarError(Refusal):
    """Far data cannot be reached, or not be asked."""


class Question:
    """One question on its way, which can be stopped without disturbing any other."""

    def __init__(self) -> None:
        self._lock = threading.Lock()  # stopping comes from another thread than asking
        self._stop: Callable[[], None] | None = None
        self.stopped = False

    def begin(self, stop: Callable[[], None]) -> None:
        """Say how it is stopped from now on.

        Raises
        ------
        Cancelled
            It was stopped before it began.
        """
        with self._lock:
            if self.stopped:
                raise Cancelled
            self._stop = stop

    def end(self) -> None:
        """It is answered."""
        with self._lock:
            self._stop = None

    def stop(self) -> None:
        """Stop it, at the engine too."""
        with self._lock:
            self.stopped = True
            if self._stop is not None:
                self._stop()


class Connection(Protocol):
    """A way to ask data where they lie. It sends nothing but SELECT and EXPLAIN."""

    @property
    def dialect(self) -> str:
        """The engine's own SQL, by its name in the writer of queries."""

    @property
    def base(self) -> "exp.Expression":
        """What is read: a table, or a query in brackets."""

    @property
    def decimals(self) -> frozenset[str]:
        """The columns that hold decimals which may be larger than any double."""

    @property
    def strict(self) -> bool:
        """Whether it refuses to work out what is no double, such as the square of 1e-200."""

    @property
    def guarded(self) -> bool:
        """Whether it refuses to round a number down that no whole number of its own holds."""

    @property
    def joins(self) -> bool:
        """Whether it finds numbers faster in a table that is joined than in a list."""

    def ask(self, query: "exp.Query", question: Question | None = None) -> "pl.DataFrame":
        """The rows that answer a query.

        Raises
        ------
        FarError
            The engine cannot answer; the sentence holds nothing secret.
        Cancelled
            It was stopped meanwhile.
        """
        ...

    def look(self, rows: int, seed: int) -> "pl.DataFrame":
        """Some rows of all columns, of their own types, drawn by chance where that is cheap."""
        ...

    def about_rows(self) -> tuple[int | None, bool]:
        """How many rows there are, as far as that is known without counting them, and whether that
        is an estimate."""
        ...

    def cost(self) -> str:
        """What it takes to go through all rows once, in words, told without doing it; empty where
        that is not known."""
        ...

    def apart(self, query: "exp.Select") -> "exp.Select":
        """The same query, so that the engine works its columns out once a row, however often they
        are mentioned around it."""
        ...

    def column(self, name: str) -> "exp.Expression":
        """A column by its name, of a type that it can be asked in."""
        ...

    def days_of(self, moment: "exp.Expression") -> "exp.Expression":
        """A date or time as days since 1970, a double."""
        ...

    def hours_of(self, span: "exp.Expression", kind: "pl.DataType", /) -> "exp.Expression | None":
        """A time of day or a span of the type that was looked at as hours, a double; None where
        there is no way to ask for them."""
        ...

    def tables(self) -> list[tuple[str, str, int]]:
        """Schemas and names of what may be read there, with about how many rows each has; 0 where
        that is not known."""
        ...

    def close(self) -> None:
        """Let the engine go."""
        ...
