"""Files larger than memory, asked in place by an embedded engine."""

import os
from pathlib import Path
from typing import TYPE_CHECKING
from urllib.parse import unquote

from sqlglot import exp

from rhabdos.data.far.aside import Aside
from rhabdos.data.far.connection import FarError, Question
from rhabdos.data.far.words import both, column, named, number
from rhabdos.data.fields.kinds import letters_of
from rhabdos.data.readers.columnar import exactly
from rhabdos.errors import Cancelled
from rhabdos.quoting import file_named, shortened_to

if TYPE_CHECKING:
    import polars as pl

_NO_VALUE = "__HIVE_DEFAULT_PARTITION__"  # in names of folders, by a convention of many programs
_VIEW = "data"
_CHUNKS = 40  # of rows that follow one another, in a look at a file
_LEAST_MEMORY = 200 << 20  # bytes, that an engine has in any case
_MICROSECONDS = 86_400e6  # in a day, which dates count in
_SECONDS = 3_600  # in an hour, which times of day and spans count in


class DuckFiles:
    """Parquet files as one table.

    The files are opened for each question anew, and none is written but what an engine that runs
    out of memory puts aside in a temporary folder.

    Parameters
    ----------
    paths : tuple of Path
        Parts of one table; of a variable that a file lacks, its rows have no value.
    memory : int
        Bytes that the engine may take.
    laid_out : Aside, optional
        Which holds the files, and goes with this.
    keys : tuple of str, optional
        Variables that folders on the way to each file are named for, as in bay=Saltmere.
    """

    dialect = "duckdb"
    strict = False
    guarded = False
    joins = True

    def __init__(
        self,
        paths: tuple[Path, ...],
        memory: int,
        laid_out: Aside | None = None,
        keys: tuple[str, ...] = (),
    ) -> None:
        import duckdb

        self._paths, self._laid_out, self._keys = paths, laid_out, keys
        self._folder = Aside()
        self._letters: frozenset[str] = frozenset()
        self._engine = duckdb.connect()
        # Besides what it is given, an engine holds the blocks of the file that it reads.
        megabytes = max(memory, _LEAST_MEMORY) >> 20
        for setting, value in (
            ("memory_limit", f"'{megabytes}MB'"),
            ("temp_directory", exp.Literal.string(str(self._folder.path)).sql("duckdb")),
            ("preserve_insertion_order", "false"),
        ):
            self._engine.execute(f"SET {setting} = {value}")
        try:
            rows = self._engine.read_parquet(
                [exactly(path) for path in paths],
                hive_partitioning=bool(keys),
                union_by_name=len(paths) > 1,  # else all are cast to what the first one holds
            )
            self._called = self._names_of(rows.columns)
            self._kinds = dict(zip(self._called, map(str, rows.types), strict=True))
            rows.create_view(_VIEW)
        except duckdb.Error as error:
            raise self._refusal(error) from None

    def _names_of(self, called: "list[str]") -> dict[str, str]:
        """What the engine calls each variable: it knows no capitals, and numbers the second of two
        names that differ by nothing else."""
        names = names_in(self._paths[0])
        return dict(zip([*names, *called[len(names) :]], called, strict=True))

    @property
    def base(self) -> exp.Expression:
        """The files as one table."""
        return exp.to_table(_VIEW)

    @property
    def decimals(self) -> frozenset[str]:
        """Those here are told by their type."""
        return frozenset()

    def ask(self, query: exp.Query, question: Question | None = None) -> "pl.DataFrame":
        """The rows that answer a query."""
        import duckdb
        import polars as pl

        question = question or Question()
        cursor: duckdb.DuckDBPyConnection = self._engine.cursor()
        question.begin(cursor.interrupt)
        try:
            return pl.DataFrame(cursor.sql(query.sql(self.dialect)))
        except duckdb.InterruptException:
            raise Cancelled from None
        except duckdb.Error as error:
            raise self._refusal(error) from None
        finally:
            question.end()
            cursor.close()

    def look(self, rows: int, seed: int) -> "pl.DataFrame":
        """Rows from places drawn by chance all over the files: short runs, since what is stored
        together is read together. The first rows, where a column is one that no frame can have."""
        import polars as pl

        spans = [name for name, kind in self._kinds.items() if kind == "INTERVAL"]
        if spans:
            chosen = [named(self.column(name), name) for name in self._kinds]
            seen = self.ask(exp.select(*chosen).from_(self.base).limit(rows))
            return seen.with_columns(pl.col(spans).cast(pl.Duration("us")))
        seen = self._runs(rows, seed)
        letters = {
            series.name: text
            for series in seen.get_columns()
            if series.dtype == pl.Binary and (text := letters_of(series)) is not None
        }
        self._letters = frozenset(letters)
        return seen.with_columns(**letters)

    def _runs(self, rows: int, seed: int) -> "pl.DataFrame":
        import random

        import polars as pl

        try:
            frames = [
                self._spelled(pl.scan_parquet(path, glob=False)).with_columns(
                    self._named_by_folders(path)
                )
                for path in self._paths
            ]
            counts = [int(frame.select(pl.len()).collect().item()) for frame in frames]
            whole = sum(counts)
            if whole <= rows:
                return pl.concat([frame.collect() for frame in frames], how="diagonal_relaxed")
            chance, each = random.Random(seed), rows // _CHUNKS
            parts = []
            # One run from each of as many equal parts, so that all of a file is looked at.
            for part in range(_CHUNKS):
                first, last = part * whole // _CHUNKS, (part + 1) * whole // _CHUNKS
                start = chance.randrange(first, max(last - each, first) + 1)
                for frame, count in zip(frames, counts, strict=True):
                    if start < count:
                        parts.append(frame.slice(start, min(each, count - start)))
                        break
                    start -= count
            return pl.concat(pl.collect_all(parts), how="diagonal_relaxed")
        except (pl.exceptions.PolarsError, OSError) as error:
            raise self._refusal(error) from None

    def _spelled(self, frame: "pl.LazyFrame") -> "pl.LazyFrame":
        """A file with its variables called as in the others, whose capitals may differ."""
        names = frame.collect_schema().names()
        known = {name.casefold(): name for name in self._called}
        others = {name: known.get(name.casefold(), name) for name in names}
        return frame.rename({a: b for a, b in others.items() if a != b and b not in names})

    def _named_by_folders(self, path: Path) -> "list[pl.Expr]":
        """What the folders on the way to a file say, of the type that it has in all of them."""
        import polars as pl

        said = []
        for key, text in folder_names(path).items():
            if key not in self._keys:
                continue
            value = pl.Series(key, [text], dtype=pl.String)
            match self._kinds[key]:
                case "BIGINT":
                    value = value.cast(pl.Int64)
                case "DATE":
                    value = value.str.to_date()
                case "TIMESTAMP":
                    value = value.str.to_datetime(time_unit="us")
            said.append(pl.lit(value.item(), value.dtype).alias(key))
        return said

    def about_rows(self) -> tuple[int | None, bool]:
        """How many rows the files say that they have."""
        frame = self.ask(exp.select(exp.Count(this=exp.Star())).from_(self.base))
        return int(frame.item()), False

    def cost(self) -> str:
        """How large the files are."""
        size = sum(path.stat().st_size for path in self._paths if path.exists())
        return f"{size >> 20:,} MB are read from disk"

    def apart(self, query: exp.Select) -> exp.Select:
        """As it is: this engine sees by itself what is the same."""
        return query

    def column(self, name: str) -> exp.Expression:
        """A column; intervals as whole numbers of microseconds, and bytes that are letters as
        texts."""
        there = column(self._called[name])
        if self._kinds[name] == "INTERVAL":
            return exp.Anonymous(this="EPOCH_US", expressions=[there])
        if name in self._letters and self._kinds[name] == "BLOB":
            decoded = exp.Anonymous(this="DECODE", expressions=[there])
            return exp.Anonymous(this="TRY", expressions=[decoded])
        return there

    def days_of(self, moment: exp.Expression) -> exp.Expression:
        """A date or time as days since 1970, a double."""
        micros = exp.Anonymous(this="EPOCH_US", expressions=[moment.copy()])
        return both(exp.cast(micros, "double"), number(_MICROSECONDS), exp.Div)

    def hours_of(self, span: exp.Expression, kind: "pl.DataType", /) -> exp.Expression | None:
        """A time of day or a span as hours: the engine takes spans for the whole numbers that they
        are stored as."""
        import polars as pl

        if not isinstance(kind, pl.Duration):
            micros = exp.Anonymous(this="EPOCH_US", expressions=[span.copy()])
            return both(exp.cast(micros, "double"), number(_SECONDS * 1e6), exp.Div)
        ticks = {"ms": 1e3, "us": 1e6, "ns": 1e9}[kind.time_unit]
        return both(exp.cast(span.copy(), "double"), number(_SECONDS * ticks), exp.Div)

    def tables(self) -> list[tuple[str, str, int]]:
        """A file is chosen as such."""
        return []

    def close(self) -> None:
        """Let the files and the memory go."""
        self._engine.close()
        self._folder.clear()
        if self._laid_out is not None:
            self._laid_out.clear()

    def _refusal(self, error: Exception) -> FarError:
        name = file_named(self._paths[0].name)
        gone = [path for path in self._paths if not os.path.exists(path)]
        if gone:
            return FarError(
                f"There is no file {file_named(gone[0].name)} any more. Check whether it was "
                "moved, and open it again."
            )
        said = shortened_to(120, " ".join(str(error).split()))
        if "memory" in said.lower():
            return FarError(
                f"The memory that is allowed does not suffice for this question about {name}. "
                "Choose fewer groups, or allow more memory."
            )
        return FarError(
            f"{name} cannot be asked where it lies: {said}. Check whether the file is whole, and "
            "open it again."
        )


def names_in(path: Path) -> list[str]:
    """The variables of a file; none where it is damaged, or has one of a type that no frame has."""
    import polars as pl

    try:
        return pl.scan_parquet(path, glob=False).collect_schema().names()
    except (pl.exceptions.PolarsError, pl.exceptions.PanicException, OSError):
        return []


def folder_names(path: Path) -> dict[str, str | None]:
    """What the folders on the way to a file say of its rows, as bay=Saltmere does; None where it
    is that there is no value."""
    parts = (part.partition("=") for part in path.parts[:-1] if "=" in part)
    return {key: None if value == _NO_VALUE else unquote(value) for key, _, value in parts if key}
