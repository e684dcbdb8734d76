"""Many figures at once, and whole works, from the command line."""

import csv
import io
import json
import os
import re

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pypdf import PdfReader

from rhabdos.cli import main
from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.data.files.reading import read_table
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.sources import Values
from rhabdos.data.table import Table
from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.paint.inside import recipe_text
from rhabdos.paint.many import Batch
from rhabdos.project.batch import Item, each_level, each_variable, file_names, readings_of
from rhabdos.scene.common_axes import AxesSoFar

RECIPE = 'rhabdos = 1\n[show]\nvariables = ["Length"]\nsplit = ["Bay"]\n'
ROWS = "Length (mm),Mass,Bay,Year,Note,Empty\n" + "".join(
    f"{40 + (i * 7) % 50},{(i * i) % 31 / 10},{'North/East' if i % 3 else 'So:uth'},{2020 + i % 2},n{i},\n"
    for i in range(120)
)

pytestmark = pytest.mark.usefixtures("qapp")  # before the command line makes one of its own


@pytest.fixture
def folder(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "r.toml").write_text(RECIPE)
    (tmp_path / "d.csv").write_text(ROWS)
    return tmp_path


def files(folder, ending):
    return sorted(file.name for file in folder.glob(f"*{ending}"))


def test_a_figure_for_each_variable_each_with_its_recipe_inside(folder, capsys):
    asked = ["--data", "d.csv", "--each", "variable", "--output", "v-{name}.svg"]
    assert main(["draw", "r.toml", *asked]) == 0
    assert files(folder, ".svg") == ["v-Length.svg", "v-Mass.svg", "v-Year.svg"]
    inside = recipe_text(folder / "v-Mass.svg")
    assert "Mass" in inside
    assert 'split = [\n    "Bay",\n]' in inside
    assert main(["draw", "v-Mass.svg", "--data", "d.csv", "--output", "again.svg"]) == 0
    assert (folder / "again.svg").read_bytes() == (folder / "v-Mass.svg").read_bytes()


def test_a_page_for_each_level_and_all_numbers_beside(folder):
    asked = ["--data", "d.csv", "--each", "level:Bay", "--output", "all.pdf"]
    assert main(["draw", "r.toml", *asked, "--numbers", "all.csv"]) == 0
    pages = PdfReader(folder / "all.pdf").pages
    bays = [re.search(r"(North/East|So:uth)", page.extract_text())[1] for page in pages]
    assert bays == ["North/East", "So:uth"]
    rows = list(csv.DictReader(io.StringIO((folder / "all.csv").read_text())))
    told = {row["figure"]: float(row["value"]) for row in rows if row["measure"] == "mean"}
    frame = pl.read_csv(folder / "d.csv")
    for bay in ("North/East", "So:uth"):
        assert told[bay] == pytest.approx(
            float(frame.filter(pl.col("Bay") == bay)["Length (mm)"].mean())
        )


def test_levels_of_a_number_and_of_a_kept_part(folder):
    (folder / "r.toml").write_text(
        RECIPE + '[[prepare]]\nstep = "keep"\nwhere = [{ variable = "Mass", below = 2.0 }]\n'
    )
    asked = ["--data", "d.csv", "--each", "level:Year", "--output", "{name}.png", "--dpi", "40"]
    assert main(["draw", "r.toml", *asked]) == 0
    assert files(folder, ".png") == ["2020.png", "2021.png"]
    text = recipe_text(folder / "2021.png")
    assert text.count("[[prepare]]") == 2


def test_a_figure_for_each_file_and_what_failed_is_told_at_the_end(folder, capsys):
    (folder / "e.csv").write_text("Length\n1\n2\n")
    (folder / "f.csv").write_text(ROWS.replace("Length (mm)", "Length"))
    asked = ["--data", "d.csv", "e.csv", "f.csv", "--each", "file", "--output", "{name}.svg"]
    assert main(["draw", "r.toml", *asked]) == 2
    told = capsys.readouterr().err
    assert "1 of 3 figures could not be drawn.\ne: e has no variable “Bay”" in told
    assert files(folder, ".svg") == ["d.svg", "f.svg"]


def test_each_file_is_read_as_the_steps_say_and_typed_values_stand_for_none(folder):
    (folder / "e.csv").write_text("Length\n1,500\n2,500\n")
    item = Item("e", Recipe(show=Show(variables=("Length",))), None, "e.csv")
    typed = Values(text="Length\n7\n8\n9\n")
    for steps, least in (((), 1.5), ((Read(thousands=","),), 1500), ((typed,), 1.5)):
        assert readings_of(item, steps, None).summaries[0].min == least


def test_scales_are_the_same_where_it_is_asked_for(folder):
    given = ["draw", "r.toml", "--data", "d.csv", "--each", "level:Bay", "--dpi", "40"]
    assert main([*given, "--output", "free-{number}.svg"]) == 0
    assert main([*given, "--scales", "same", "--output", "same-{number}.svg"]) == 0

    def ticks(name):
        words = re.findall(r"<text[^>]*>([\d.]+)</text>", (folder / name).read_text())
        return [float(word) for word in words]

    assert ticks("same-1.svg")[:4] == ticks("same-2.svg")[:4]
    assert ticks("free-1.svg") != ticks("free-2.svg")
    table = read_table(folder / "d.csv")
    items = each_level(Recipe(show=Show(variables=("Length",))), table, "Bay", same_bins=True)
    edges = [readings_of(item, (), table).edges for item in items]
    assert len({each.width for each in edges}) == 1
    assert all((each.values[0] - edges[0].values[0]) % each.width == 0 for each in edges)
    axes = AxesSoFar()
    batch = Batch(items, (), table)
    for item in items:
        axes.add(batch.readings(item), lambda *_: 5.0)
    low, high = axes.shared.value.low, axes.shared.value.high
    assert low <= 40
    assert high >= 89
    frame = pl.read_csv(folder / "d.csv")
    tallest = max(
        np.histogram(frame.filter(pl.col("Bay") == item.name)["Length (mm)"], each.values)[0].max()
        for item, each in zip(items, edges, strict=True)
    )
    assert axes.shared.top >= tallest


@pytest.mark.parametrize(
    ("given", "told"),
    [
        (["--each", "colour", "--output", "x.pdf"], "must be variable, file, or level:"),
        (["--each", "level:Nix", "--output", "x.pdf"], "has no variable “Nix”"),
        (["--each", "level:Note", "--output", "x.pdf"], "names rows, and has no levels"),
        (["--each", "variable", "--output", "x.png"], "would be the same file for every figure"),
        (["--each", "variable", "--output", "{nam}.png"], "only {name} and {number} may stand"),
        (["--each", "variable", "--output", "{name}.bmp"], "must end in .png, .svg or .pdf"),
        (["--each", "variable", "--output", "no/{name}.png"], "There is no folder"),
        (["--scales", "same", "--output", "x.png"], "are of many figures"),
        (["--each", "variable", "--output", "x.pdf", "--numbers", "d.csv"], "is what is read"),
        (
            ["--each", "level:Bay", "--output", "{name}.png", "--numbers", "a.png"],
            "must end in .csv",
        ),
        (["--output", "."], ". must end in .png, .svg or .pdf"),
    ],
)
def test_wrong_wishes_are_refused_in_a_sentence(folder, capsys, given, told):
    assert main(["draw", "r.toml", "--data", "d.csv", *given]) == 2
    assert told in capsys.readouterr().err
    assert (folder / "d.csv").read_text() == ROWS


def test_several_files_are_drawn_only_where_it_is_said_so(folder, capsys):
    assert main(["draw", "r.toml", "--data", "d.csv", "d.csv", "--output", "x.png"]) == 2
    assert "Add “--each file”" in capsys.readouterr().err


@given(st.lists(st.text(max_size=30), min_size=1, max_size=8))
def test_no_two_files_have_one_name_and_none_leads_elsewhere(names):
    items = [Item(name, Recipe(show=Show(variables=("x",)))) for name in names]
    made = file_names("out/{name}.png", items)
    assert len({name.casefold() for name in made}) == len(names)
    for name in made:
        assert re.fullmatch(r"out/[^/\\\x00]+\.png", name)
        assert ".." not in name


def test_variables_that_split_or_weigh_are_not_drawn_themselves(folder):
    table = read_table(folder / "d.csv")
    recipe = Recipe(show=Show(variables=("Length",), split=("Year",), weight="Mass"))
    assert [item.name for item in each_variable(recipe, table)] == ["Length"]


def test_all_are_set_together_on_one_page_on_the_same_scales(folder, capsys):
    given = ["draw", "r.toml", "--data", "d.csv", "--each", "level:Bay", "--scales", "same"]
    assert main([*given, "--one-page", "--output", "all.svg"]) == 0
    text = (folder / "all.svg").read_text()
    ends = re.findall(r">([AB])<", text)
    assert ends == ["A", "B"]
    for bay in ("North/East", "So:uth"):
        assert bay in text
    rows = "x,g\n" + "".join(f"{i},l{i % 30}\n" for i in range(90))
    (folder / "many.csv").write_text(rows)
    (folder / "m.toml").write_text('rhabdos = 1\n[show]\nvariables = ["x"]\n')
    given = ["draw", "m.toml", "--data", "many.csv", "--each", "level:g", "--one-page"]
    assert main([*given, "--output", "x.pdf"]) == 2
    assert "30 figures are too many for one page, which holds 26" in capsys.readouterr().err
    assert main(["draw", "r.toml", "--data", "d.csv", "--one-page", "--output", "x.pdf"]) == 2


WORK = """rhabdos-work = 1
[source]
path = "d.csv"
rows = 100
size = 3
sha256 = "00"
variables = ["Length (mm)", "Gone"]
[[figure]]
name = "Lengths"
show.variables = ["Length"]
[[figure]]
show.variables = ["Mass"]
show.split = ["Bay"]
[[figure]]
name = "Bad"
show.variables = ["Gone"]
"""


def test_all_figures_of_a_work_are_drawn_and_what_did_not_fit_is_told(folder, capsys):
    (folder / "w.rhabdos").write_text(WORK)
    assert main(["draw", "w.rhabdos", "--output", "{number}-{name}.svg", "--output", "w.pdf"]) == 2
    told = capsys.readouterr().err
    assert files(folder, ".svg") == ["1-Lengths.svg", "2-Mass-by-Bay.svg"]
    assert len(PdfReader(folder / "w.pdf").pages) == 2
    assert "Bad: d has no variable “Gone”" in told
    assert (
        "d.csv has changed since the work was saved: 120 rows instead of 100; without “Gone”"
        in told
    )


def test_a_work_draws_other_data_and_reads_nothing_outside_unasked(folder, capsys):
    (folder / "sub").mkdir()
    (folder / "sub" / "w.rhabdos").write_text(WORK.replace('"d.csv"', '"../d.csv"'))
    assert main(["draw", "sub/w.rhabdos", "--output", "x.pdf"]) == 2
    assert "which is outside its folder" in capsys.readouterr().err
    assert not (folder / "x.pdf").exists()
    assert main(["draw", "sub/w.rhabdos", "--data", "d.csv", "--output", "x.pdf"]) == 2
    assert "1 of 3 figures" in capsys.readouterr().err
    (folder / "d.csv").unlink()
    (folder / "sub" / "w.rhabdos").write_text(WORK)
    assert main(["draw", "sub/w.rhabdos", "--output", "x.pdf"]) == 2
    assert "d.csv is not where it was. Name the data by --data FILE." in capsys.readouterr().err


def test_the_numbers_of_a_work_are_those_of_each_figure(folder, capsys):
    (folder / "w.rhabdos").write_text(
        WORK.replace('[[figure]]\nname = "Bad"\nshow.variables = ["Gone"]\n', "")
    )
    assert main(["numbers", "w.rhabdos"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert [figure["figure"] for figure in told["figures"]] == ["Lengths", "Mass by Bay"]
    assert [len(figure["samples"]) for figure in told["figures"]] == [1, 2]
    assert main(["numbers", "w.rhabdos", "--format", "csv"]) == 0
    assert capsys.readouterr().out.startswith("figure,sample,measure")


def test_a_page_of_a_work_is_drawn_by_its_number(folder, capsys):
    pages = '[[page]]\nfigures = [2, 1]\nsize = "20x8cm"\ntitle = "Both"\n'
    (folder / "w.rhabdos").write_text(WORK + pages)
    assert main(["draw", "w.rhabdos", "--page", "1", "--output", "p.pdf"]) == 0
    (page,) = PdfReader(folder / "p.pdf").pages
    text = " ".join(page.extract_text().split())
    assert "Both" in text
    assert text.index("Mass") < text.index("Length (mm)")
    assert main(["draw", "w.rhabdos", "--page", "2", "--output", "p.pdf"]) == 2
    assert "--page is 2, but w.rhabdos holds 1." in capsys.readouterr().err
    assert main(["draw", "r.toml", "--data", "d.csv", "--page", "1", "--output", "p.pdf"]) == 2


@pytest.mark.parametrize(
    "source",
    [
        *('path = "/dev/zero"', 'path = "pipe"', 'path = "."', 'path = "loop"'),
        *('path = "a\\u0000b"', f'path = "{"a" * 5000}"', "inside = true", 'path = "w.rhabdos"'),
    ],
)
def test_works_that_name_what_is_no_file_of_data_are_refused_in_a_sentence(folder, capsys, source):
    os.mkfifo(folder / "pipe")
    (folder / "loop").symlink_to("loop")
    text = f"rhabdos-work = 1\n[source]\n{source}\n[[figure]]\nshow.variables = ['x']\n"
    (folder / "w.rhabdos").write_text(text)
    assert main(["draw", "w.rhabdos", "--output", "x.pdf"]) == 2
    told = capsys.readouterr().err
    assert "unforeseen" not in told
    assert len(told) < 600
    assert not (folder / "x.pdf").exists()


def test_numbers_and_dates_are_levels_as_they_read():
    days = DateColumn("day", values=np.repeat([20_000.0, 20_001.0, 20_000.354166666668], 4))
    third = NumberColumn("third", values=np.tile([1 / 3, 0.3, 0.1 + 0.2], 4))
    table = Table("t", (NumberColumn("v", values=np.arange(12.0)), days, third))
    recipe = Recipe(show=Show(variables=("v",)))
    told = [
        {item.name: readings_of(item, (), table).groups[0].n for item in items}
        for items in (each_level(recipe, table, "day"), each_level(recipe, table, "third"))
    ]
    assert told[0] == {"2024-10-04": 4, "2024-10-04 08:30": 4, "2024-10-05": 4}
    assert told[1] == {"0.3": 8, "0.333333333333": 4}
