"""Tables of a Spark cluster: make far starts one, and runs these."""

import os

import numpy as np
import pytest

from rhabdos.data.far.connection import FarError
from rhabdos.data.far.gathering import gather_far
from rhabdos.data.far.place import place_of
from rhabdos.data.far.table import far_table
from rhabdos.data.files.reading import read_table
from rhabdos.data.gathering import gather
from rhabdos.data.preparing import stages
from tests.data.far.sameness import KINDS, assert_same, frame_of, stopped
from tests.data.far.test_files import _CUT, _MADE, _STEPS

pytestmark = pytest.mark.spark
_ADDRESS = os.environ.get("RHABDOS_SPARK", "")


@pytest.fixture(scope="module")
def both(tmp_path_factory):
    """Rows in memory, and the same on the cluster, by kind."""
    from rhabdos.data.far.spark import SparkTable

    folder, known = tmp_path_factory.mktemp("rows"), {}

    def opened(kind, n=3_000):
        if kind not in known:
            path = folder / f"{KINDS.index(kind)}.parquet"
            frame_of(kind, n, KINDS.index(kind)).write_parquet(path, row_group_size=1_000)
            place, _ = place_of(_ADDRESS, f"SELECT * FROM parquet.`{path}`")
            known[kind] = read_table(path), far_table("rows", SparkTable(place), place.server)
        return known[kind]

    return opened


@pytest.mark.parametrize("kind", KINDS)
def test_the_answer_is_that_of_the_rows_in_memory(both, kind):
    here, far = both(kind)
    factors = [(), ("bay",), ("bay", "grade"), ("sold",)][KINDS.index(kind) % 4]
    assert_same(gather(here, ("x",), factors), gather_far(far, ("x",), factors), 1)


def test_dates_are_those_of_the_rows_in_memory(both):
    here, far = both("normal")
    assert_same(gather(here, ("landed",)), gather_far(far, ("landed",)), 2)


@pytest.mark.parametrize("name", _STEPS)
def test_rows_and_values_are_prepared_on_the_cluster(both, name):
    here, far = (stages(table, (_STEPS[name],))[-1].table for table in both("normal"))
    assert_same(gather(here, ("x",), ("bay",)), gather_far(far, ("x",), ("bay",)), 1)


@pytest.mark.parametrize("name", _MADE)
def test_variables_are_made_on_the_cluster(both, name):
    here, far = (stages(table, (_MADE[name],))[-1].table for table in both("normal"))
    told, asked = gather(here, ("new",)).samples[0], gather_far(far, ("new",)).samples[0]
    assert (told.n, told.missing) == (asked.n, asked.missing)
    ranks = np.arange(0, told.n, 7)
    np.testing.assert_allclose(asked.at(ranks), told.at(ranks), rtol=1e-13, atol=1e-15)


@pytest.mark.parametrize("name", _CUT)
def test_classes_and_parts_of_dates_group_on_the_cluster(both, name):
    here, far = (stages(table, (_CUT[name],))[-1].table for table in both("normal"))
    told, asked = gather(here, ("x",), ("new",)), gather_far(far, ("x",), ("new",))
    assert {x.label: x.n for x in told.samples} == {x.label: x.n for x in asked.samples}


def test_a_table_that_is_not_there_and_a_cluster_that_is_not_are_told():
    from rhabdos.data.far.spark import SparkTable

    place, _ = place_of(f"{_ADDRESS}#nothing")
    with pytest.raises(FarError, match="no table or view"):
        far_table("nothing", SparkTable(place), "there")
    place, password = place_of("sc://me:s3cr3t@127.0.0.1:9#rows")
    with pytest.raises(FarError, match="does not answer") as told:
        SparkTable(place, password)
    assert "s3cr3t" not in str(told.value)


def test_a_question_is_stopped_on_the_cluster_too():
    from rhabdos.data.far.spark import SparkTable

    place, _ = place_of(
        _ADDRESS, "SELECT CAST(a.id * b.id AS DOUBLE) AS x FROM range(200000) a, range(200000) b"
    )
    connection = SparkTable(place)
    connection.look = lambda rows, seed: connection.ask(
        __import__("sqlglot").parse_one("SELECT CAST(id AS DOUBLE) AS x FROM range(1000)")
    )
    connection.about_rows = lambda: (None, True)
    far = far_table("endless", connection, "there")
    assert stopped(far, 3) < 60
