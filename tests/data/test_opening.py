"""Files that change, lie or never end while they are read."""

import os
import sqlite3
import subprocess
import sys
import threading
import zipfile

import numpy as np
import polars as pl
import pytest

from rhabdos.apart import Limits, Overrun, apart
from rhabdos.data import preparing
from rhabdos.data.files.opening import OpenFile
from rhabdos.data.files.reading import read_table
from rhabdos.data.limits import ReadingError
from rhabdos.data.preparing import prepared, stages
from rhabdos.data.readers import database, sheets
from rhabdos.data.readers.guarded import limits_for
from rhabdos.data.steps.derive import Make
from rhabdos.data.steps.step import no_others
from rhabdos.errors import Refusal
from tests.data.corpus import workbook
from tests.data.corpus_formats import lying_workbook

ROWS = "".join(f"{at % 997}.25,{'ABC'[at % 3]}\n" for at in range(400_000))


@pytest.mark.parametrize("name", ["landings.csv", "landings.parquet"])
def test_a_file_that_shrinks_while_it_is_read_is_told(tmp_path, name):
    path = tmp_path / name
    if name.endswith("csv"):
        path.write_text("mass,site\n" + ROWS)
    else:
        pl.DataFrame({"mass": np.arange(900_000.0)}).write_parquet(path)
    size = path.stat().st_size

    def cut(_stage, _share):
        os.truncate(path, size // 3)

    with pytest.raises(ReadingError, match="changed while it was read|cut short"):
        read_table(path, report=cut)


def test_a_file_that_shrinks_at_any_moment_ends_nothing(tmp_path):
    """Many times over, cut by another thread at a moment by chance: a sentence or a table."""
    path = tmp_path / "landings.csv"
    ended = []
    for number in range(12):
        path.write_text("mass,site\n" + ROWS)
        cutter = threading.Timer(0.004 * number, lambda: os.truncate(path, 1_000))
        cutter.start()
        try:
            rows = read_table(path).rows
            ended.append(rows == 400_000 or rows < 200)  # cut before it was opened
        except ReadingError as error:
            assert "changed while it was read" in str(error)  # noqa: PT017 - or it is read
            ended.append(None)
        cutter.join()
    assert False not in ended
    assert None in ended


def test_a_file_that_grows_is_read_as_it_was_and_told(tmp_path):
    path = tmp_path / "logger.csv"
    path.write_text("mass\n" + "1\n" * 1_000)

    def add(_stage, _share):
        with path.open("a") as file:
            file.write("2\n")

    table = read_table(path, report=add)
    assert any("grew while it was read" in remark for remark in table.remarks)
    assert set(table.columns[0].values[:1_000]) == {1}


def test_large_files_are_copied_aside(tmp_path, monkeypatch):
    monkeypatch.setattr("rhabdos.data.files.opening._IN_MEMORY", 100)
    path = tmp_path / "landings.csv"
    path.write_text("mass,site\n" + ROWS[:50_000])
    beats = []
    with OpenFile.open(path) as opened, opened.settled(lambda: beats.append(1)) as copy:
        assert copy.read() == path.read_bytes()
        assert copy is not opened.stream()
    assert beats
    assert read_table(path).rows == ROWS[:50_000].count("\n") + 1


def test_a_pipe_without_end_is_refused_beside_the_memory(tmp_path):
    path = tmp_path / "pipe"
    os.mkfifo(path)
    endless = subprocess.Popen(
        [sys.executable, "-c", "import sys\nwith open(sys.argv[1], 'wb') as p:\n"
         " while True: p.write(b'1,2\\n' * 99999)", path], stderr=subprocess.DEVNULL)  # fmt: skip
    with pytest.raises(ReadingError, match="gives more than 50 MiB"), OpenFile.open(path, 50 << 20):
        pass
    endless.wait(timeout=10)


def base_of(tmp_path, *statements):
    path = tmp_path / "base.db"
    base = sqlite3.connect(path)
    for statement in statements:
        base.execute(statement)
    base.commit()
    base.close()
    return path


ENDLESS = "WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c) SELECT {} FROM c"


def test_a_larger_file_may_take_longer():
    assert [limits_for(mib << 20).seconds for mib in (0, 1, 5)] == [10, 18, 50]  # docs/formats.md


def test_views_without_end_are_stopped(tmp_path, monkeypatch):
    monkeypatch.setattr(database, "_MOST_OF_VIEW", 100_000)
    monkeypatch.setattr(database, "_BATCH_CELLS", 10_000)
    path = base_of(tmp_path, "CREATE VIEW v AS " + ENDLESS.format("x"))
    with pytest.raises(ReadingError, match="more than 100,000 rows"):
        read_table(path)
    path.unlink()
    monkeypatch.setattr(database, "_LONGEST_SILENCE", 3.0)
    path = base_of(tmp_path, "CREATE VIEW v AS " + ENDLESS.format("sum(x)"))
    with pytest.raises(ReadingError, match="gave no row within"):
        read_table(path)


def test_texts_of_a_database_are_bounded(tmp_path, monkeypatch):
    monkeypatch.setattr(database, "_MOST_BYTES", 10_000)
    many = "INSERT INTO t SELECT hex(randomblob(40)) FROM generate_rows"
    rows = "CREATE VIEW generate_rows AS WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c LIMIT 900) SELECT x FROM c"
    path = base_of(tmp_path, "CREATE TABLE t (a TEXT)", rows, many, "DROP VIEW generate_rows")
    with pytest.raises(ReadingError, match="GiB of text"):
        read_table(path)


def test_a_database_whose_path_is_no_utf_8_is_read(tmp_path):
    path = base_of(tmp_path, "CREATE TABLE t (a)", "INSERT INTO t VALUES (1), (2)")
    odd = os.fsencode(tmp_path) + b"/\xff\xfe.db"
    os.rename(path, odd)
    assert read_table(os.fsdecode(odd)).rows == 2


# Work in a process of its own


@pytest.mark.parametrize(
    ("work", "reason"), [("greedy", "memory"), ("endless", "time"), ("dying", "memory")]
)
def test_whatever_ends_the_work_apart_is_told(tmp_path, monkeypatch, pytestconfig, work, reason):
    monkeypatch.setenv("PYTHONPATH", str(pytestconfig.rootpath))  # where this work is found
    path = tmp_path / "file"
    path.write_bytes(b"abc")
    with path.open("rb") as source, pytest.raises(Overrun) as ended:
        apart(f"tests.data.apart_work:{work}", source, {}, Limits(memory=1 << 30, seconds=1))
    assert ended.value.reason == reason


def test_work_apart_answers_and_refuses(tmp_path, monkeypatch, pytestconfig):
    monkeypatch.setenv("PYTHONPATH", str(pytestconfig.rootpath))
    path = tmp_path / "file"
    path.write_bytes(b"abc")
    limits = Limits(memory=1 << 30, seconds=5)
    with path.open("rb") as source:
        answer = apart("tests.data.apart_work:answering", source, {"of": "é"}, limits)
        with pytest.raises(Refusal, match=r"No\."):
            apart("tests.data.apart_work:refusing", source, {}, limits)
    assert answer == ({"asked": "é"}, b"cba")


def test_a_workbook_that_lies_about_its_size_is_stopped(tmp_path, monkeypatch):
    """What its process may take counts, not what it says: 120 MB where there is room for as many."""
    monkeypatch.setattr("rhabdos.data.readers.guarded.MEMORY", 1 << 30)
    path = tmp_path / "lying.xlsx"
    path.write_bytes(lying_workbook())
    assert path.stat().st_size < 4 << 20
    with pytest.raises(ReadingError, match="more than 1 GiB of memory"):
        read_table(path)


def test_a_workbook_that_would_unpack_to_very_many_times_its_size_is_not_unpacked(
    tmp_path, monkeypatch
):
    path = tmp_path / "wide.xlsx"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as parts:
        parts.writestr("xl/worksheets/sheet1.xml", b" " * (4 << 20))
    monkeypatch.setattr(sheets, "_UNSUSPECTED", 1 << 20)
    with pytest.raises(ReadingError, match="would unpack to 4 MiB"):
        read_table(path)


# Tables between steps


def test_tables_between_steps_are_let_go_and_made_again(tmp_path, monkeypatch):
    path = tmp_path / "a.csv"
    path.write_text("x\n" + "".join(f"{at + 1}\n" for at in range(5_000)))
    table = read_table(path)
    steps = [Make(name=f"y{at}", by="log", of=("x",)) for at in range(12)]
    whole = stages(table, steps)
    monkeypatch.setattr(preparing, "MOST_HELD", 100_000)
    few = stages(table, steps)
    held = [stage._table is not None for stage in few]
    assert held.count(True) <= 5
    for one, other in zip(whole, few, strict=True):
        assert [c.name for c in one.table.columns] == [c.name for c in other.table.columns]
        assert np.array_equal(one.table.columns[-1].values, other.table.columns[-1].values)
    again = stages(table, steps[:4], no_others, few)
    assert [c.name for c in again[-1].table.columns] == ["x", "y0", "y1", "y2", "y3"]
    assert len(prepared(table, steps).columns) == 13


def test_modules_beside_the_data_are_not_run(tmp_path, monkeypatch):
    """A stranger's folder, in which the user stands, holds a module of a library's name."""
    for name in ("fastexcel", "polars", "rhabdos"):
        (tmp_path / f"{name}.py").write_text("import os\nopen('run', 'w').close()\nos._exit(3)\n")
    path = tmp_path / "book.xlsx"
    path.write_bytes(workbook(S=[["length"], [1.5], [2.5]]))
    monkeypatch.chdir(tmp_path)
    assert read_table(path).rows == 2
    assert not (tmp_path / "run").exists()
