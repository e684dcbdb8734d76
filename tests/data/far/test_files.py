"""Files that are asked where they lie."""

import re
from concurrent.futures import Future, ThreadPoolExecutor
from itertools import product

import duckdb
import numpy as np
import polars as pl
import pytest
from sqlglot import exp

import rhabdos
from rhabdos.data.celled import Celled, DataChanged
from rhabdos.data.columns import NumberColumn
from rhabdos.data.far import asking, questions
from rhabdos.data.far.connection import FarError
from rhabdos.data.far.duck import DuckFiles
from rhabdos.data.far.files import beyond_memory, far_file, memory_allowed
from rhabdos.data.far.gathering import gather_far
from rhabdos.data.far.grid import Grid, Step
from rhabdos.data.far.table import far_table
from rhabdos.data.files.reading import read_table
from rhabdos.data.files.writing import written
from rhabdos.data.gathering import gather
from rhabdos.data.preparing import begun, stages
from rhabdos.data.reporting import silent
from rhabdos.data.samples import Weighted
from rhabdos.data.steps.derive import Make
from rhabdos.data.steps.keep import Condition, KeepRows
from rhabdos.data.steps.kind import ChangeKind
from rhabdos.data.steps.missing import DeclareMissing
from rhabdos.data.steps.naming import OrderLevels, RenameLevels
from rhabdos.data.steps.recoding import Recode
from rhabdos.data.steps.step import StepError
from rhabdos.data.table import VariableError
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.output.rows_face import rows_face
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.recipe.toml_text import read_recipe
from tests.conftest import one_in
from tests.data.far.sameness import KINDS, assert_same, frame_of

_MEMORY = 1 << 30


def _far(path):
    return far_table("rows", DuckFiles((path,), _MEMORY), "the file")


@pytest.mark.parametrize("unit", ["ms", "us", "ns"])
def test_times_of_day_and_spans_are_hours(tmp_path, unit):
    whole = pl.Series("w", [90_000_000, None, -1_500, 86_399_999], dtype=pl.Int64)
    spans = (whole * {"ms": 1, "us": 1_000, "ns": 1_000_000}[unit]).cast(pl.Duration(unit))
    times = (whole.clip(0, 86_399_999) * 1_000_000).cast(pl.Time)
    near, far = _both(tmp_path, pl.DataFrame({"span": spans, "time": times}))
    assert [(c.name, c.kind, c.unit) for c in far.columns] == [
        (c.name, c.kind, c.unit) for c in near.columns
    ]
    for name in ("span", "time"):
        asked, told = (gather_far(far, (name,)).samples[0], gather(near, (name,)).samples[0])
        assert (asked.n, asked.missing) == (told.n, told.missing) == (3, 1)
        assert asked.at(np.arange(3)).tolist() == told.at(np.arange(3)).tolist()


def _groups(table):
    recipe = read_recipe('rhabdos = 1\n[show]\nvariables = ["x"]\nsplit = ["v"]')
    readings = read(recipe, samples_for(recipe, table))
    return [(group.label, group.n, group.missing) for group in readings.groups]


def test_bytes_that_are_letters_are_texts_as_older_programs_keep_them(tmp_path):
    bays = pl.Series("v", ["Möwe", "Süd", None, "Möwe"] * 30)
    frame = pl.DataFrame({"v": bays.cast(pl.Binary), "x": [1.5] * 120})
    near, far = _both(tmp_path, frame)
    assert _groups(near) == _groups(far) == [("Möwe", 60, 0), ("Süd", 30, 0)]
    path = tmp_path / "json.parquet"
    with duckdb.connect() as engine:
        engine.execute(f"COPY (SELECT 1.5 AS x, '{{}}'::JSON AS v FROM range(9)) TO '{path}'")
    assert _groups(read_table(path)) == _groups(_far(path)) == [("{}", 9, 0)]
    raw = frame.with_columns(v=pl.Series([b"\xff\x00", b"ab", b"a\x01", None] * 30))
    near, far = _both(tmp_path, raw)
    assert list(near.columns[0].texts)[:4] == ["ff00", "6162", "6101", None]
    assert "“v” is left out" in far.remarks[0]


@pytest.mark.parametrize("more", ["", ", '{\"a\": 1}'::JSON AS j"])
def test_intervals_that_no_frame_knows_are_hours(tmp_path, more):
    path = tmp_path / "rows.parquet"
    with duckdb.connect() as engine:
        engine.execute(
            "COPY (SELECT INTERVAL (i) MINUTE AS span, i % 3 AS bay, 'Ebba' AS v, 1.5 AS x"
            f"{more} FROM range(90) t(i) UNION ALL BY NAME SELECT 1.5 AS x) TO '{path}'"
        )
    assert far_file(tmp_path, silent).far.rows == 91
    near, far = read_table(path), _far(path)
    assert [(c.name, c.kind) for c in near.columns] == [(c.name, c.kind) for c in far.columns]
    assert near.columns[0].unit == far.columns[0].unit == "h"
    asked, told = gather_far(far, ("span",)).samples[0], gather(near, ("span",)).samples[0]
    assert (told.n, told.missing, asked.n, asked.missing) == (90, 1, 90, 1)
    assert asked.at(np.arange(90)).tolist() == [i / 60 for i in range(90)]
    assert told.at(np.arange(90)).tolist() == [i / 60 for i in range(90)]
    assert _groups(near) == _groups(far) == [("Ebba", 90, 0)]


def _both(tmp_path, frame):
    path = tmp_path / "rows.parquet"
    frame.write_parquet(path, row_group_size=5_000)
    return read_table(path), _far(path)


@pytest.mark.parametrize(
    ("n", "kind"), [*product([40, 3_000], KINDS), *one_in(3, product([30_000], KINDS))]
)
def test_whatever_is_asked_the_answer_is_that_of_the_rows_in_memory(tmp_path, kind, n):
    seed = KINDS.index(kind) * 10 + n % 7
    here, far = _both(tmp_path, frame_of(kind, n, seed))
    factors = [(), ("bay",), ("bay", "grade"), ("sold",)][seed % 4]
    assert_same(gather(here, ("x",), factors), gather_far(far, ("x",), factors), seed)


@pytest.mark.parametrize("kind", ["normal", "skewed", "ties of many digits"])
def test_values_of_cells_are_the_same_sent_row_by_row_or_counted(tmp_path, monkeypatch, kind):
    """Of many rows each value comes with how often it occurs."""
    made = "normal" if kind.startswith("ties") else kind
    frame = frame_of(made, 4_000, 7)
    if kind.startswith("ties"):
        again = np.random.default_rng(7).integers(0, 900, 4_000)
        frame = frame.with_columns(frame["x"][again])
    here, far = _both(tmp_path, frame)
    asked = []
    whole = DuckFiles.ask
    monkeypatch.setattr(DuckFiles, "ask", lambda self, q, *o: asked.append(q) or whole(self, q, *o))
    assert_same(gather(here, ("x",), ("bay",)), gather_far(far, ("x",), ("bay",)), 1)
    sent = [query for query in asked if "JOIN" in query.sql()]
    monkeypatch.setattr(questions, "_FEW_ROWS", 0)
    assert_same(gather(here, ("x",), ("bay",)), gather_far(far, ("x",), ("bay",)), 1)
    counted = [query for query in asked if "JOIN" in query.sql()][len(sent) :]
    assert [query for query in sent if "COUNT" in query.sql()] == []
    assert [query for query in counted if "COUNT" not in query.sql()] == []
    assert len(sent) == len(counted) > 0


@pytest.mark.parametrize(
    ("guarded", "joins", "centre"),
    one_in(
        2,
        (
            (*how, at)
            for how in ((False, True), (True, True), (True, False))
            for at in (0.55, -12.3)
        ),
    ),
)
def test_the_values_of_cells_are_those_that_began_there(tmp_path, centre, guarded, joins):
    """Also where cells grow: the first wide one may begin where a narrow one does."""
    x = np.concatenate([np.arange(-3_000, 3_000) / 20 + 0.013, [np.nan, np.inf, -np.inf, 1e308]])
    pl.DataFrame({"x": x}).write_parquet(tmp_path / "rows.parquet")
    connection = DuckFiles((tmp_path / "rows.parquet",), _MEMORY)
    connection.guarded, connection.joins = guarded, joins
    rows = exp.select(exp.column("x", quoted=True)).from_(connection.base)
    grid = Grid(Step(1, -1), centre, 100.0)
    began = connection.ask(grid.begins(rows, (), connection.apart))
    began = began.filter(pl.col("c").is_finite() & pl.col("x").is_finite())
    every = np.sort(began["c"].unique().to_numpy())
    near = np.abs(np.abs(every - centre) - 100) < 2.5
    for begin in (*every[near].tolist(), *every[::90].tolist()):
        some = np.array([begin])
        found = connection.ask(grid.within(rows, (), some, connection))["x"]
        expected = began.filter(pl.col("c") == begin)["x"]
        assert sorted(found) == sorted(expected), begin


def test_several_variables_and_dates_are_counted_in_one_question(tmp_path, monkeypatch):
    here, far = _both(tmp_path, frame_of("normal", 5_000, 3))
    asked = []
    whole = DuckFiles.ask
    monkeypatch.setattr(DuckFiles, "ask", lambda self, q, *o: asked.append(q) or whole(self, q, *o))
    names = ("x", "grade", "landed")
    gathered = gather_far(far, names, ("bay",))
    # One for the cells, and one for what lies within the cells of each variable that has such.
    assert len(asked) <= 3
    assert_same(gather(here, names, ("bay",)), gathered, 1)


def test_decimals_are_known_one_by_one(tmp_path):
    _here, far = _both(tmp_path, frame_of("decimals", 30_000, 1))
    samples = gather_far(far, ("x",), ("bay",)).samples
    assert all(isinstance(sample, Weighted) for sample in samples)


def test_whole_numbers_too_long_for_doubles_lose_no_digit_where_they_lie(tmp_path):
    tags = [2**60 + at % 3 for at in range(90)]
    here, far = _both(tmp_path, pl.DataFrame({"tag": tags, "x": range(90)}))
    assert not any(isinstance(table.column("tag"), NumberColumn) for table in (here, far))
    sample_set = gather_far(far, ("x",), ("tag",))
    assert sample_set.factors[0].levels == tuple(str(2**60 + at) for at in range(3))
    assert [sample.n for sample in sample_set.samples] == [30, 30, 30]


def test_bins_on_round_edges_and_quartiles_ask_nothing_more(tmp_path, monkeypatch):
    _here, far = _both(tmp_path, frame_of("normal", 30_000, 1))
    sample = gather_far(far, ("x",)).samples[0]
    assert isinstance(sample, Celled)
    monkeypatch.setattr(DuckFiles, "ask", lambda *_: pytest.fail("asked once more"))
    sample.below(np.arange(-3, 3, 0.01))
    sample.at(np.array([sample.n // 4, sample.n // 2, 3 * sample.n // 4]))
    with pytest.raises(pytest.fail.Exception):
        sample.below(np.linspace(-0.5, 0.5, 800))


_STEPS = {
    "a range": KeepRows(where=(Condition(variable="x", low=-0.5, high=1.25),)),
    "levels": KeepRows(where=(Condition(variable="bay", levels=("Ebba", "rack 2")),)),
    "other levels": KeepRows(where=(Condition(variable="bay", levels=("Ebba",), other=True),)),
    "what is known": KeepRows(where=(Condition(variable="bay", missing=False),)),
    "out": KeepRows(where=(Condition(variable="x", above=0.0),), out=True),
    "any of two": KeepRows(
        where=(Condition(variable="x", below=-1.0), Condition(variable="grade", levels=("2",))),
        any=True,
    ),
    "a part of the name": KeepRows(where=(Condition(variable="bay", contains="RACK"),)),
    "dates": KeepRows(where=(Condition(variable="landed", low="2024-02-01", high="2024-03-03"),)),
    "days": KeepRows(where=(Condition(variable="landed", levels=("2024-02-01", "2024-02-20")),)),
    "codes": DeclareMissing(variable="grade", codes=(3.0,)),
    "level codes": DeclareMissing(variable="bay", codes=("Kilen",)),
    "renamed": RenameLevels(variable="bay", become={"rack 2": "rack", "rack 10": "rack"}),
    "ordered": OrderLevels(variable="bay", levels=("Marsund", "Ebba")),
}
_MADE = {
    "log": Make(name="new", by="log", of=("x",)),
    "ln": Make(name="new", by="log", of=("x",), base="e"),
    "root": Make(name="new", by="root", of=("x",)),
    "reciprocal": Make(name="new", by="reciprocal", of=("x",)),
    "sum": Make(name="new", by="sum", of=("x", "grade")),
    "difference": Make(name="new", by="difference", of=("x", "grade")),
    "ratio": Make(name="new", by="ratio", of=("x", "grade")),
    "standardised": Make(name="new", by="standardised", of=("x",)),
}
_CUT = {
    "edges": Make(name="new", by="classes", of=("x",), edges=(-1.0, 0.0, 0.5)),
    "days": Make(name="new", by="classes", of=("landed",), edges=("2024-02-01", "2024-02-20")),
    "quantiles": Make(name="new", by="classes", of=("x",), quantiles=3),
    "year": Make(name="new", by="year", of=("landed",)),
    "month": Make(name="new", by="month", of=("landed",)),
    "weekday": Make(name="new", by="weekday", of=("landed",)),
    "hour": Make(name="new", by="hour", of=("landed",)),
}


def of_kinds():
    """Numbers that count time, and numbers that are codes."""
    rng = np.random.default_rng(8)
    seconds = rng.integers(700_000_000, 2_000_000_000, 2_000)
    return pl.DataFrame(
        {
            "x": rng.normal(size=2_000),
            "s": pl.Series([None, *seconds[1:].tolist()], dtype=pl.Int64),
            "ms": pl.Series([None, *(seconds[1:] * 1_000 + 250).tolist()], dtype=pl.Float64),
            "sheet": seconds / 86_400 + 25_569,
            "code": pl.Series([None, *(seconds[1:] % 2).tolist()], dtype=pl.Int8),
            "half": seconds % 3 / 2,
        }
    )


READ_ANEW = {
    "seconds": ("s", ChangeKind(variable="s", kind="date/time")),
    "milliseconds": ("ms", ChangeKind(variable="ms", kind="date/time")),
    "days": ("sheet", ChangeKind(variable="sheet", kind="date/time", order="days since 1900")),
    "yes or no": ("code", ChangeKind(variable="code", kind="yes/no")),
    "category": ("half", ChangeKind(variable="half", kind="category")),
    "ordered": ("code", ChangeKind(variable="code", kind="ordered category")),
}


def assert_read_anew(here, far, name):
    """Both tables have the same values, or the same parts of dates and levels."""
    variable, step = READ_ANEW[name]
    parts = [Make(name=by, by=by, of=(variable,)) for by in ("year", "month", "weekday", "hour")]
    dates = step.kind == "date/time"
    names = RenameLevels(variable=variable, become={"0": "whole", "1": "cracked"})
    here, far = (
        stages(table, (step, *(parts if dates else [names])))[-1].table for table in (here, far)
    )
    assert far.column(variable).kind == here.column(variable).kind == step.kind
    if dates:
        told, asked = gather(here, (variable,)).samples[0], gather_far(far, (variable,)).samples[0]
        assert (asked.n, asked.missing) == (told.n, told.missing)
        ranks = np.arange(0, told.n, 13)
        np.testing.assert_allclose(asked.at(ranks), told.at(ranks), rtol=0, atol=1e-9)
    for factor in [part.name for part in parts] if dates else [variable]:
        told, asked = gather(here, ("x",), (factor,)), gather_far(far, ("x",), (factor,))
        assert {x.label: x.n for x in told.samples} == {x.label: x.n for x in asked.samples}


@pytest.mark.parametrize("name", READ_ANEW)
def test_numbers_are_read_as_another_kind_where_they_lie(tmp_path, name):
    assert_read_anew(*_both(tmp_path, of_kinds()), name)


def test_texts_are_not_read_anew_where_they_lie(tmp_path):
    _, far = _both(tmp_path, pl.DataFrame({"v": ["1.5", "x", "2.5"] * 9, "x": [1.5] * 27}))
    with pytest.raises(StepError, match="“v” would have to be read anew from its texts"):
        _prepared(far, ChangeKind(variable="v", kind="number"))


def _prepared(table, step):
    return stages(table, (step,))[-1].table


@pytest.mark.parametrize("name", _STEPS)
def test_rows_and_values_are_prepared_where_they_lie(tmp_path, name):
    both = _both(tmp_path, frame_of("normal", 4_000, 5))
    here, far = (_prepared(table, _STEPS[name]) for table in both)
    assert_same(gather(here, ("x",), ("bay",)), gather_far(far, ("x",), ("bay",)), 1)
    assert_same(gather(here, ("grade",)), gather_far(far, ("grade",)), 2)


@pytest.mark.parametrize("name", _MADE)
def test_variables_are_made_where_they_lie(tmp_path, name):
    both = _both(tmp_path, frame_of("normal", 4_000, 6))
    here, far = (_prepared(table, _MADE[name]) for table in both)
    told, asked = gather(here, ("new",), ("bay",)), gather_far(far, ("new",), ("bay",))
    assert told.cells == asked.cells
    for sample, other in zip(told.samples, asked.samples, strict=True):
        assert (sample.n, sample.missing) == (other.n, other.missing)
        ranks = np.arange(0, sample.n, max(1, sample.n // 40))
        # An engine's logarithm may differ from this machine's in its last digit.
        np.testing.assert_allclose(other.at(ranks), sample.at(ranks), rtol=1e-13, atol=1e-15)


@pytest.mark.parametrize("name", _CUT)
def test_classes_and_parts_of_dates_group_where_they_lie(tmp_path, name):
    both = _both(tmp_path, frame_of("normal", 4_000, 7))
    here, far = (_prepared(table, _CUT[name]) for table in both)
    told, asked = gather(here, ("x",), ("new",)), gather_far(far, ("x",), ("new",))
    counts = [
        dict(zip(next(f.levels for f in s.factors), [x.n for x in s.samples], strict=False))
        for s in (told, asked)
    ]
    assert counts[0] == counts[1]


def test_an_answer_that_comes_as_its_wait_ends_is_an_answer(tmp_path, monkeypatch):
    class JustThen(Future):
        def result(self, timeout=None):
            if timeout is not None:  # it was not there within that time, and is there now
                raise TimeoutError
            return super().result()

    class Threads(ThreadPoolExecutor):
        def submit(self, work, /, *given, **named):
            answer = JustThen()
            answer.set_result(work(*given, **named))
            return answer

    monkeypatch.setattr(asking, "ThreadPoolExecutor", Threads)
    _, far = _both(tmp_path, frame_of("decimals", 300, 4))
    assert gather_far(far, ("x",)).pooled.n == 300 - gather_far(far, ("x",)).samples[0].missing


def test_an_engine_that_gives_up_is_heard(tmp_path, monkeypatch):
    _, far = _both(tmp_path, frame_of("decimals", 300, 4))

    def late(*_given):
        raise TimeoutError("the engine gave up")

    monkeypatch.setattr(DuckFiles, "ask", late)
    with pytest.raises(TimeoutError, match="gave up"):
        gather_far(far, ("x",))


def test_a_look_takes_as_many_rows_from_every_part_of_the_files(tmp_path):
    paths = tmp_path / "a.parquet", tmp_path / "b.parquet"
    pl.DataFrame({"x": np.arange(30_000.0)}).write_parquet(paths[0])
    pl.DataFrame({"x": np.arange(30_000.0, 80_000.0)}).write_parquet(paths[1])
    seen = np.sort(DuckFiles(paths, _MEMORY).look(8_000, 5)["x"].to_numpy())
    assert len(np.unique(seen)) == 8_000
    from_each = np.histogram(seen, np.linspace(0, 80_000, 41))[0]
    assert from_each.tolist() == [200] * 40
    assert np.array_equal(seen, np.sort(DuckFiles(paths, _MEMORY).look(8_000, 5)["x"].to_numpy()))


def test_a_rare_level_is_looked_for_where_it_lies(tmp_path):
    frame = frame_of("normal", 60_000, 8).with_columns(
        pl.when(pl.int_range(60_000) == 31_007).then(pl.lit("rare")).otherwise("bay").alias("bay")
    )
    _here, far = _both(tmp_path, frame)
    kept = _prepared(far, KeepRows(where=(Condition(variable="bay", levels=("rare",)),)))
    assert kept.rows == 1
    samples = gather_far(kept, ("x",))
    assert samples.pooled.n + samples.samples[0].missing == 1
    assert samples.table.all_rows == 1
    assert samples.table.of_all_rows == 60_000


def test_steps_that_need_all_rows_are_refused_by_a_sentence(tmp_path):
    _here, far = _both(tmp_path, frame_of("normal", 200, 5))
    with pytest.raises(StepError, match="asked where they lie"):
        _prepared(far, Recode(variable="bay", become={"Ebba": "Kilen"}))


def test_too_many_levels_are_refused_before_anything_is_asked(tmp_path, monkeypatch):
    frame = pl.DataFrame({"x": np.arange(9_000.0), "name": [f"shell {i}" for i in range(9_000)]})
    _here, far = _both(tmp_path, frame)
    monkeypatch.setattr(DuckFiles, "ask", lambda *_: pytest.fail("asked"))
    with pytest.raises(VariableError, match="too many different values"):
        gather_far(far, ("x",), ("name",))


def test_a_file_that_changes_between_questions_is_told(tmp_path):
    path = tmp_path / "rows.parquet"
    frame_of("normal", 5_000, 1).write_parquet(path)
    sample = gather_far(_far(path), ("x",)).samples[0]
    frame_of("normal", 5_000, 2).write_parquet(path)
    with pytest.raises((DataChanged, FarError), match="changed|Check whether"):
        sample.below(np.linspace(-0.5, 0.5, 800))


def test_a_file_that_goes_away_is_told(tmp_path):
    path = tmp_path / "rows.parquet"
    frame_of("normal", 5_000, 1).write_parquet(path)
    far = _far(path)
    path.unlink()
    with pytest.raises(FarError, match="There is no file"):
        gather_far(far, ("x",))


def test_memory_allowed_is_half_of_what_is_free_unless_it_is_said(monkeypatch):
    monkeypatch.delenv("RHABDOS_MEMORY", raising=False)
    with open("/proc/meminfo", encoding="ascii") as lines:
        (free,) = (int(n) for n in re.findall(r"MemAvailable:\s+(\d+) kB", lines.read()))
    assert memory_allowed() == pytest.approx(free * 1024 / 2, rel=0.25)  # others use it too
    monkeypatch.setenv("RHABDOS_MEMORY", "300")
    assert memory_allowed() == 300 * 1024 * 1024


def test_text_and_arrow_beyond_memory_are_laid_out_and_read_alike(tmp_path, monkeypatch):
    frame = frame_of("decimals", 3_000, 4).with_columns(pl.col("x").fill_nan(None))
    frame = frame.filter(pl.col("x").is_infinite().not_() | pl.col("x").is_null())
    frame = frame.with_columns(pl.col("landed").dt.truncate("1s"))
    frame.write_csv(tmp_path / "rows.csv")
    frame.write_ipc(tmp_path / "rows.arrow")
    monkeypatch.setenv("RHABDOS_MEMORY", "0")
    monkeypatch.setattr("rhabdos.data.preparing._SMALL", 0)
    for name in ("rows.csv", "rows.arrow"):
        far, here = begun(None, tmp_path / name), read_table(tmp_path / name)
        assert far.far is not None
        assert "read from disk as needed" in far.remarks[0]
        assert [(c.name, c.kind) for c in far.columns] == [(c.name, c.kind) for c in here.columns]
        for variable in ("x", "landed"):
            assert_same(
                gather(here, (variable,), ("bay",)), gather_far(far, (variable,), ("bay",)), 1
            )


def test_a_folder_of_files_is_one_table(tmp_path):
    frame = frame_of("skewed", 2_000, 4)
    (tmp_path / "days" / "one").mkdir(parents=True)
    frame.head(700).write_parquet(tmp_path / "days" / "a.parquet")
    frame.tail(1_300).write_parquet(tmp_path / "days" / "one" / "b.parquet")
    frame.write_parquet(tmp_path / "all.parquet")
    far, here = begun(None, tmp_path / "days"), read_table(tmp_path / "all.parquet")
    assert_same(gather(here, ("x",), ("bay",)), gather_far(far, ("x",), ("bay",)), 1)
    assert far.size == "2,000 rows"


def test_names_of_folders_are_variables_as_programs_that_part_tables_write_them(tmp_path):
    for year, day, bay, rows in (
        ("2025", "2025-03-01", "Saltmere", 3), ("2025", "2025-04-01", "Grey%20water", 4),
        ("2026", "2026-03-01", "__HIVE_DEFAULT_PARTITION__", 5),
    ):  # fmt: skip
        folder = tmp_path / "all" / f"year={year}" / f"day={day}" / f"bay={bay}"
        folder.mkdir(parents=True)
        pl.DataFrame({"x": [1.5] * rows}).write_parquet(folder / "part-0.parquet")
    aside = tmp_path / "all" / "_temporary"
    aside.mkdir()
    pl.DataFrame({"x": [9.0]}).write_parquet(aside / "part-0.parquet")
    (tmp_path / "all" / "_SUCCESS").write_text("")
    table = far_file(tmp_path / "all", silent)
    told = [(column.name, column.kind) for column in table.columns]
    assert told == [("x", "number"), ("year", "number"), ("day", "date/time"), ("bay", "category")]
    assert table.remarks[1] == "“year”, “day” and “bay” are told by names of folders."
    for factor, counts in (
        ("bay", {"Grey water": 4, "Saltmere": 3, "no Bay": 5}), ("year", {"2025": 7, "2026": 5}),
        ("day", {"2025-03-01": 3, "2025-04-01": 4, "2026-03-01": 5}),
    ):  # fmt: skip
        samples = gather_far(table, ("x",), (factor,)).samples
        assert {sample.label: sample.n for sample in samples if sample.n} == counts
    pl.DataFrame({"x": [1.0]}).write_parquet(tmp_path / "all" / "loose.parquet")
    assert [c.name for c in far_file(tmp_path / "all", silent).columns] == ["x"]


_UNEVEN = {
    "another type": ([{"x": [1, 2]}, {"x": [3.5]}], {"x": [1, 2, 3.5]}, ""),
    "larger numbers": ([{"x": pl.Series([1], dtype=pl.Int8)}, {"x": [300]}], {"x": [1, 300]}, ""),
    "nothing at first": ([{"x": [1.5], "y": [None]}, {"x": [2.5], "y": [9.5]}], {"y": [9.5]}, ""),
    "another order": ([{"x": [1.5], "y": [9.5]}, {"y": [8.5], "x": [2.5]}], {"x": [1.5, 2.5]}, ""),
    "one more": ([{"x": [1.5]}, {"x": [2.5], "y": [9.5]}], {"x": [1.5, 2.5], "y": [9.5]}, "“y” is"),
    "capitals": ([{"Len": [1.5], "y": [1]}, {"len": [2.5]}], {"Len": [1.5, 2.5]}, "“y” is"),
    "both": ([{"x": [1.5], "X": [9.5], "X_1": [7.5]}] * 2, {"X": [9.5] * 2, "X_1": [7.5] * 2}, ""),
}


@pytest.mark.parametrize("name", _UNEVEN)
def test_files_of_a_folder_may_differ_in_variables_types_and_capitals(tmp_path, name):
    frames, values, told = _UNEVEN[name]
    for at, frame in enumerate(frames):
        pl.DataFrame(frame).write_parquet(tmp_path / f"{at}.parquet")
    table = far_file(tmp_path, silent)
    for variable, held in values.items():
        sample = gather_far(table, (variable,)).samples[0]
        assert (sample.at(np.arange(sample.n)).tolist(), sample.n) == (held, len(held))
        looked_at = table.number(variable).values
        assert sorted(looked_at[~np.isnan(looked_at)]) == held
    assert [remark[: len(told)] for remark in table.remarks[1:]] == [told] * bool(told)


@pytest.mark.parametrize("name", ["a[1].parquet", "a*.parquet", "a?.parquet", "a[!b].arrow"])
def test_a_name_is_no_pattern(tmp_path, name):
    frames = [pl.DataFrame({"x": [float(n)] * n}) for n in (3, 5)]
    for frame, called in zip(frames, (name, "a1.parquet"), strict=True):
        path = tmp_path / called
        frame.write_ipc(path) if called.endswith("arrow") else frame.write_parquet(path)
    assert gather_far(far_file(tmp_path / name, silent), ("x",)).samples[0].n == 3


def test_an_empty_folder_and_a_damaged_file_are_refused(tmp_path):
    with pytest.raises(FarError, match="holds no Parquet files"):
        far_file(tmp_path, silent)
    (tmp_path / "bad.parquet").write_bytes(b"PAR1" + b"\0" * 40 + b"PAR1")
    with pytest.raises(FarError, match=r"bad\.parquet"):
        far_file(tmp_path, silent)


def test_only_what_is_larger_than_memory_stays_where_it_lies(tmp_path, monkeypatch):
    path = tmp_path / "rows.parquet"
    pl.DataFrame({"x": np.zeros(1_000_000)}).write_parquet(path)  # few bytes, many in memory
    assert path.stat().st_size < 1 << 20
    monkeypatch.setenv("RHABDOS_MEMORY", "9")
    assert not beyond_memory(path)
    monkeypatch.setenv("RHABDOS_MEMORY", "7")
    assert beyond_memory(path)


def test_names_with_quotes_and_semicolons_are_names(tmp_path):
    name, level = 'a";DROP "x\'', "l'; --\""
    frame = pl.DataFrame({name: [1.5, 2.5, 3.5] * 9, "f;": [level, "b", None] * 9})
    here, far = _both(tmp_path, frame)
    assert_same(gather(here, (name,), ("f;",)), gather_far(far, (name,), ("f;",)), 1)
    kept = KeepRows(where=(Condition(variable="f;", levels=(level,)),))
    assert gather_far(_prepared(far, kept), (name,)).pooled.n == 9


def test_rows_of_a_range_are_asked_where_they_lie(tmp_path):
    here, far = _both(tmp_path, frame_of("normal", 30_000, 3))
    recipe = read_recipe('rhabdos = 1\n[show]\nvariables = ["x"]\nsplit = ["bay"]')
    step = KeepRows(where=(Condition(variable="x", low=1.0, high=1.01),))
    faces = [rows_face(read(recipe, samples_for(recipe, t)), step) for t in (here, far)]
    assert faces[0].total == faces[1].total > 20
    values = sorted(row.cells[1].value for row in faces[0].face.rows)
    assert [row.cells[0].value for row in faces[1].face.rows] == values
    assert {row.group for row in faces[0].face.rows} == {row.group for row in faces[1].face.rows}


def test_no_part_of_the_rows_is_written_as_if_it_were_all(tmp_path, monkeypatch):
    frame_of("decimals", 30_000, 3).write_parquet(tmp_path / "rows.parquet")
    monkeypatch.setenv("RHABDOS_MEMORY", "0")
    data = rhabdos.open(tmp_path / "rows.parquet")
    assert len(data) == 30_000
    with pytest.raises(Refusal, match="only some were looked at"):
        written(data.table, ".csv")
    numbers = data.histogram("x").numbers()
    assert sum(s["n"] + s["missing"] for s in numbers["samples"]) == 30_000


@pytest.mark.parametrize("kind", ["decimals", "skewed", "far from 0"])
def test_rows_that_stand_for_several_cases_are_counted_so(tmp_path, kind):
    chance = np.random.default_rng(3)
    frame = frame_of(kind, 20_000, 9).with_columns(
        pl.Series("cases", chance.choice([0.0, 1.0, 2.0, 7.0, np.nan], 20_000)).fill_nan(None)
    )
    here, far = _both(tmp_path, frame)
    told, asked = (
        gather(here, ("x",), ("bay",), weight="cases"),
        gather_far(far, ("x",), ("bay",), weight="cases"),
    )
    assert told.unweighted == asked.unweighted > 0
    assert_same(told, asked, 2)


def test_what_is_no_weight_is_refused_where_it_lies(tmp_path):
    _here, far = _both(tmp_path, frame_of("normal", 2_000, 9))
    with pytest.raises(VariableError, match="no whole number or below 0"):
        gather_far(far, ("grade",), weight="x")
