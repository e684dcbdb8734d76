"""Tables that stay where they lie: what a count of them takes beside a bare grouped scan.

make bench counts ten million rows in a file. By name, more: ``python -m benchmarks.far files``
(10⁸ rows), ``postgres`` (2 × 10⁷) and ``spark`` (5 × 10⁷, started by make far); RHABDOS_FAR_ROWS
says otherwise.
"""

import os
import resource
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median
from typing import TYPE_CHECKING

import numpy as np
from sqlglot import exp

from benchmarks.timing import Report, side_by_side
from rhabdos.data.far.connection import Connection, Question
from rhabdos.data.far.duck import DuckFiles
from rhabdos.data.far.gathering import gather_far
from rhabdos.data.far.laying_out import text_laid_out
from rhabdos.data.far.table import far_table
from rhabdos.data.files.opening import OpenFile
from rhabdos.data.reporting import silent
from rhabdos.data.sample_sets import SampleSet
from rhabdos.data.table import Table

if TYPE_CHECKING:
    import polars as pl

_MEMORY = 500 << 20
_BAYS = "CASE WHEN r < 0.3 THEN 'Ebba' WHEN r < 0.7 THEN 'Kilen' ELSE 'Marsund' END"
_NORMAL = "sqrt(-2 * ln(1 - {0})) * cos(6.283185307179586 * {1})"
FEW, CONTINUOUS = "shell_length_mm", "wet_mass_g"


def run(report: Report) -> None:
    """Ten million rows in a file, in three groups."""

    with tempfile.TemporaryDirectory() as folder:
        _files(report, Path(folder), 10_000_000)


def _files(report: Report, folder: Path, rows: int) -> None:
    path = folder / "landings.parquet"
    _write(path, rows)
    connection = DuckFiles((path,), _MEMORY)
    _measured(report, connection, path.stem, rows)
    connection.close()
    _laid_out(report, path)


def _laid_out(report: Report, path: Path) -> None:
    """The same rows as a text that is larger than memory, beside a library's own way."""
    import polars as pl

    text = path.with_suffix(".csv")
    pl.scan_parquet(path).sink_csv(text)

    def ours() -> None:
        with tempfile.TemporaryDirectory() as folder, OpenFile.open(text) as opened:
            text_laid_out(opened, Path(folder), silent)

    def theirs() -> None:
        with tempfile.TemporaryDirectory() as folder:
            pl.scan_csv(text).sink_parquet(Path(folder) / "rows.parquet")

    took, bare = side_by_side(ours, theirs)
    report.ratio("a text laid out on disk", took, bare, 2, "polars.scan_csv and sink_parquet")


def _write(path: Path, rows: int) -> None:
    import duckdb

    engine = duckdb.connect()
    engine.execute(f"COPY ({_rows(rows, 'random()', 'range({})')}) TO '{path}' (FORMAT parquet)")
    engine.close()


def _rows(rows: int, chance: str, numbers: str) -> str:
    length = _NORMAL.format(chance, chance)
    mass = _NORMAL.format(chance, chance)
    return (
        f"SELECT round(CAST(60 + 8 * {length} AS DECIMAL(9, 1)), 1) * 1.0e0 AS {FEW}, "
        f"exp(2.5 + 0.5 * {mass}) AS {CONTINUOUS}, {_BAYS} AS bay "
        f"FROM (SELECT {chance} AS r FROM {numbers.format(rows)}) AS n"
    )


def _measured(report: Report, connection: Connection, name: str, rows: int) -> None:
    begun = time.perf_counter()
    table = far_table(name, connection, name)
    looked = time.perf_counter() - begun
    ask, scan = connection.ask, _bare(connection)
    bare = _best(lambda: ask(scan))
    report.say(f"a look at {rows:,} rows: {looked:.2f} s, a bare grouped scan {bare:.2f} s")
    for variable, what, most in ((FEW, "few values", 2.5), (CONTINUOUS, "continuous ones", 6.0)):
        samples: list[SampleSet] = []
        within = _asked_last(connection)
        # By turns: what a shared machine has to give changes from second to second.
        took, bare = side_by_side(
            lambda v=variable, s=samples: s.append(_gathered(table, v)),
            lambda: ask(scan),
            7 if rows <= 10_000_000 else 3,
        )
        report.ratio(f"all counts of {what}", took, bare, most, "the bare grouped scan")
        last = samples[-1]
        if variable == CONTINUOUS:
            asked = median(within)
            report.ratio("of which quartiles", asked, bare, 1.0, "the bare grouped scan")
        pool = last.pooled
        edges = np.arange(np.floor(pool.minimum), np.ceil(pool.maximum), 0.5)
        bins = _best(lambda s=last, e=edges: [sample.below(e) for sample in s.samples], 20)
        report.say(f"new bins of {what}: {1e6 * bins:,.0f} µs (at most 1,000)")
    used = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss >> 10
    report.say(f"most memory of this process so far: {used:,} MB")


def _asked_last(connection: Connection) -> list[float]:
    """How long the question within cells takes, which is the last one of a count, each time."""
    took: list[float] = []
    whole = connection.ask

    def ask(query: exp.Query, question: Question | None = None) -> "pl.DataFrame":
        begun = time.perf_counter()
        answer = whole(query, question)
        if "s1" not in answer.columns and "v" not in answer.columns:
            took.append(time.perf_counter() - begun)
        return answer

    connection.ask = ask
    return took


def _bare(connection: Connection) -> exp.Select:
    bay, mass = (exp.column(name, quoted=True) for name in ("bay", CONTINUOUS))
    return (
        exp.select(bay, exp.Count(this=exp.Star()), exp.Min(this=mass), exp.Max(this=mass.copy()))
        .from_(connection.base)
        .group_by(bay)
    )


def _gathered(table: Table, variable: str) -> SampleSet:
    return gather_far(table, (variable,), ("bay",))


def _best(work: Callable[[], object], times: int = 3) -> float:
    took = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        took.append(time.perf_counter() - begun)
    return min(took)


def _postgres(report: Report, rows: int) -> None:
    from tests.data.far.server import Server

    from rhabdos.data.far.place import place_of
    from rhabdos.data.far.postgres import PostgresTable

    with Server() as server:
        numbers = "generate_series(1, {})"
        server.do(f"CREATE TABLE landings AS {_rows(rows, 'random()', numbers)}")
        server.do("VACUUM ANALYZE landings")
        connection = PostgresTable(place_of(f"{server.address}#landings")[0])
        _measured(report, connection, "landings", rows)
        connection.close()


def _spark(report: Report, rows: int) -> None:
    from rhabdos.data.far.place import place_of
    from rhabdos.data.far.spark import SparkTable

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "landings.parquet"
        os.chmod(folder, 0o755)  # the workers read it
        _write(path, rows)
        query = f"SELECT * FROM parquet.`{path}`"
        connection = SparkTable(place_of(os.environ["RHABDOS_SPARK"], query)[0])
        _measured(report, connection, "landings", rows)
        connection.close()


if __name__ == "__main__":
    asked = sys.argv[1]
    usual = {"files": 10**8, "postgres": 2 * 10**7, "spark": 5 * 10**7}[asked]
    many = int(os.environ.get("RHABDOS_FAR_ROWS", usual))
    to = Report()
    print(f"{many:,} rows by {asked}.")
    if asked == "files":
        with tempfile.TemporaryDirectory() as there:
            _files(to, Path(there), many)
    else:
        {"postgres": _postgres, "spark": _spark}[asked](to, many)
