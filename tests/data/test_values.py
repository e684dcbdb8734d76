"""Values put in the place of others, and the notices that propose it."""

import pytest

from rhabdos.data.preparing import prepared, stages
from rhabdos.data.problems.problems import problems_of
from rhabdos.data.steps.filling import FillDown
from rhabdos.data.steps.kind import ChangeKind
from rhabdos.data.steps.naming import RenameLevels
from rhabdos.data.steps.recoding import Recode
from rhabdos.data.steps.step import StepError
from tests.data.test_steps import shown, written


def test_a_word_becomes_a_number_and_the_variable_numbers(tmp_path):
    table = written(tmp_path, "values.csv", "wind,z\n3.5,a\ncalm,a\n,b\ncalm,b\nn/a,b\n7,b\n")
    step = Recode(variable="wind", become={"calm": "0"})
    assert step.words == "In wind, “calm” becomes 0."
    (done,) = stages(table, [step])
    wind = done.table.column("wind")
    assert (wind.kind, done.told) == ("number", "2 values")
    assert [None if v != v else v for v in wind.values.tolist()] == [3.5, 0, None, 0, None, 7]
    assert wind.missing_as == {"blank": 1, "n/a": 1}
    assert wind.stood.word_at(4) == "n/a"


def test_a_word_that_a_kind_lost_becomes_a_number(tmp_path):
    table = written(tmp_path, "values.csv", "wind,z\n3.5,a\ncalm,a\nlost,b\n7,b\n")
    steps = [
        ChangeKind(variable="wind", kind="number"),
        Recode(variable="wind", become={"calm": "0"}),
    ]
    wind = prepared(table, steps).column("wind")
    assert [None if v != v else v for v in wind.values.tolist()] == [3.5, 0, None, 7]
    assert wind.missing_as == {"lost": 1}
    label = prepared(table, [*steps, ChangeKind(variable="wind", kind="label")]).column("wind")
    assert list(label.texts) == ["3.5", "0", "lost", "7"]
    with pytest.raises(StepError, match="is not a number"):
        prepared(table, [steps[0], Recode(variable="wind", become={"7": "strong"})])


def test_na_is_kept_as_a_code_and_told(tmp_path):
    rows = "".join(
        f"{code},{n}\n" for n, code in enumerate(["NA", "ZA", "BW", "NA", "ZA", "MZ"] * 2)
    )
    table = written(tmp_path, "values.csv", "country,n\n" + rows)
    (problem,) = problems_of(table.column("country"))
    assert (problem.code, problem.n) == ("code-na", 4)
    assert problem.cure.words == "In country, “NA” is a value."
    country = prepared(table, [problem.cure]).column("country")
    assert country.levels == ("BW", "MZ", "NA", "ZA")
    assert country.level_counts.tolist() == [2, 2, 4, 4]
    assert (country.missing, problems_of(country)) == (0, ())


def test_a_word_and_blanks_are_told_and_a_blank_becomes_a_level(tmp_path):
    cells = ["Y", "", "", "Y", "", ""]
    table = written(
        tmp_path, "values.csv", "cracked,n\n" + "".join(f"{c},{n}\n" for n, c in enumerate(cells))
    )
    (problem,) = problems_of(table.column("cracked"))
    assert (problem.code, problem.n, problem.cure_text) == ("one-word", 4, "a blank means “N”")
    cracked = prepared(table, [problem.cure]).column("cracked")
    assert (cracked.kind, cracked.levels) == ("yes/no", ("N", "Y"))
    assert cracked.codes.tolist() == [1, 0, 0, 1, 0, 0]


def test_levels_keep_their_places_when_one_is_renamed_or_changed(tmp_path):
    table = written(tmp_path, "values.csv", "size,n\n" + "".join(f"{c},1\n" for c in "cabcab"))
    become = {"a": "small", "b": "middling", "c": "large"}
    for one in become:
        table = prepared(table, [RenameLevels(variable="size", become={one: become[one]})])
    assert table.column("size").levels == ("small", "middling", "large")
    changed = prepared(table, [Recode(variable="size", become={"middling": "huge"})]).column("size")
    assert changed.levels == ("small", "huge", "large")
    assert changed.codes.tolist() == [2, 0, 1, 2, 0, 1]


def test_blanks_take_over_what_stands_above_them(tmp_path):
    cells = ["", "Saltmere", "", "", "n/a", "", "Gull Spit", ""]
    table = written(
        tmp_path, "values.csv", "bay,n\n" + "".join(f"{c},{n}\n" for n, c in enumerate(cells))
    )
    step = FillDown(variables=("bay",))
    (done,) = stages(table, [step])
    assert done.told == "4 blanks filled"
    bay = done.table.column("bay")
    assert shown(bay) == [
        None, "Saltmere", "Saltmere", "Saltmere", None, None, "Gull Spit", "Gull Spit",
    ]  # fmt: skip
    assert bay.stood.word_at(5) == "n/a"


def test_merged_cells_and_totals_are_told_with_their_cures(tmp_path):
    rows = "Saltmere,1\n,2\n,3\nGull Spit,4\n,5\nWick,6\n,7\n,8\n"
    table = written(tmp_path, "values.csv", "bay,n\n" + rows)
    (problem,) = problems_of(table.column("bay"))
    assert (problem.code, problem.n) == ("blanks-beneath", 5)
    assert prepared(table, [problem.cure]).column("bay").level_counts.tolist() == [2, 3, 3]
    rows = "".join(f"site {n % 4},{n}\n" for n in range(12)) + ",9\nTotal,66\n"
    table = written(tmp_path, "values.csv", "bay,n\n" + rows)
    (problem,) = problems_of(table.column("bay"))
    assert (problem.code, problem.n, problem.cure_text) == ("total-rows", 1, "leave them out")
    assert prepared(table, [problem.cure]).column("n").values.sum() == 66 + 9
