"""What the documents show works as they show it."""

import re
from pathlib import Path

import pytest

from rhabdos.data.demo import demo_table
from rhabdos.data.preparing import OtherTables, begun, stages
from rhabdos.data.steps.asking import Ask
from rhabdos.data.steps.sources import DISTRIBUTIONS, Drawn, Simulate
from rhabdos.errors import Refusal
from rhabdos.figure.readings.plain_chart_readings import check_chart
from rhabdos.figure.recipe.toml_text import read_dress, read_work, write_dress, write_work

DOCUMENT = Path(__file__).parents[1] / "docs" / "recipe.md"
_SHOWN = re.findall(r"```toml\n(.*?)```", DOCUMENT.read_text(encoding="utf-8"), re.DOTALL)
LOOKS = [block for block in _SHOWN if block.startswith("rhabdos-look")]
BLOCKS = [block for block in _SHOWN if block not in LOOKS]
KINDS = {
    "read", "simulate", "values", "missing", "kind", "name", "levels", "order", "bounds", "keep",
    "make", "join", "stack", "gather", "recode", "fill", "ask",
}  # fmt: skip


def work_of(block):
    return read_work(block if "rhabdos = 1" in block else f"rhabdos = 1\n{block}")


@pytest.fixture
def others(tmp_path):
    (tmp_path / "bays.csv").write_text("Bay,Depth (m)\nSaltmere,4.5\nWick Narrows,11\n")
    (tmp_path / "second-year.csv").write_text("Bay,Shell length (mm)\nSaltmere,71.5\n")
    return OtherTables((tmp_path,))


def test_every_kind_of_step_has_an_example_and_no_other():
    shown = [
        step for block in BLOCKS for step in re.findall(r'^step = "(\w+)"', block, re.MULTILINE)
    ]
    assert set(shown) == KINDS
    with pytest.raises(Refusal) as refusal:
        work_of('[[prepare]]\nstep = "colour"')
    assert all(kind in str(refusal.value) for kind in KINDS)


def test_the_example_of_a_look_is_one_and_is_written_back():
    (block,) = LOOKS
    assert write_dress(read_dress(block)) == block.lstrip("\n")


@pytest.mark.parametrize("block", BLOCKS, ids=lambda block: block.strip().replace("\n", " ")[:60])
def test_every_example_does_what_it_says_and_is_written_back(block, others):
    work = work_of(block)
    assert read_work(write_work(work)) == work
    table = demo_table()
    if work.steps and isinstance(work.steps[0], Ask):
        with pytest.raises(Refusal, match="no machine"):  # which the example makes up
            begun(work.steps[0], None)
    elif work.steps and work.steps[0].begins:
        demo = DOCUMENT.parents[1] / "demo" / "oyster-landings.csv"
        table = begun(work.steps[0], demo, lambda *_: None)
        assert table.rows in (2_416, 1_000, 3)
    else:
        for stage in stages(table, work.steps, others):
            assert stage.told
    if work.chart is not None:
        check_chart(work.chart, table)


def test_a_normal_and_each_other_distribution_has_the_parameters_that_are_documented():
    text = DOCUMENT.read_text(encoding="utf-8")
    for name, parameters in DISTRIBUTIONS.items():
        row = next(line for line in text.splitlines() if line.startswith(f'| `"{name}"`'))
        told = {key: float(value) for key, value in re.findall(r"`(\w+)` ([\d.]+)", row)}
        assert told == {parameter.name: parameter.usual for parameter in parameters}
        given = Drawn(name="A", distribution=name, n=50, parameters=told)
        bare = Drawn(name="A", distribution=name, n=50)
        drawn = [
            begun(Simulate(samples=(sample,)), None, lambda *_: None) for sample in (given, bare)
        ]
        assert drawn[0].number("Value").values.tolist() == drawn[1].number("Value").values.tolist()
