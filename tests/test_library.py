"""Rhabdos from Python: the recipes and numbers of the window, without Qt but for pixels and PDF."""

import json
import subprocess
import sys
import tomllib
from datetime import date, datetime
from pathlib import Path

import numpy as np
import polars as pl
import pytest

import rhabdos
from rhabdos.cli import main
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.toml_text import read_work
from rhabdos.paint.inside import recipe_text

pytestmark = pytest.mark.usefixtures("qapp")
DEMO = Path(__file__).parents[1] / "demo" / "oyster-landings.csv"


@pytest.fixture(scope="module")
def landings():
    return rhabdos.open(DEMO)


@pytest.fixture(scope="module")
def frame():
    return pl.read_csv(DEMO)


def test_numbers_are_those_of_the_command_line_for_the_same_recipe(landings, tmp_path, capsys):
    figure = landings.histogram(
        "Shell length", split="Bay", heights="percent", width=4, reference="Saltmere"
    )
    figure.save(tmp_path / "r.toml")
    assert main(["numbers", str(tmp_path / "r.toml"), "--data", str(DEMO)]) == 0
    assert json.loads(capsys.readouterr().out) == json.loads(json.dumps(figure.numbers()))
    assert figure.csv().startswith("sample,measure")
    assert [row["with"] for row in figure.tables()["Comparisons"]] == ["Saltmere", "Saltmere"]


def test_counts_are_those_of_the_rows(landings, frame):
    figure = landings.keep("Shell length", low=60).histogram("Shell length", width=5, start=60)
    values = frame["Shell length (mm)"].drop_nulls().to_numpy()
    edges = figure.readings.edges.values
    expected, _ = np.histogram(values[values >= 60], edges)
    assert figure.numbers()["samples"][0]["n"] == expected.sum()
    assert figure.tables()["Bins"][0]["count"] == expected[0]
    salt = landings.keep("Bay", levels=["Saltmere"])
    assert len(salt) == (frame["Bay"] == "Saltmere").sum()


def test_settings_may_be_what_a_notebook_holds(landings):
    plain = landings.histogram("Shell length", width=2.5, start=20.0)
    for width, start in ((np.float64(2.5), np.int64(20)), (np.float32(2.5), 20)):
        assert landings.histogram("Shell length", width=width, start=start).recipe == plain.recipe
    edges = plain.changed(bins={"width": None, "start": None, "edges": np.arange(20, 120, 10.0)})
    assert edges.readings.edges.count == 9
    tables = landings.histogram("Shell length", bins={"width": 2.5}, start=20, of="all")
    assert tables.recipe == plain.changed(show={"of": "all"}).recipe
    assert len(landings.keep("Shell length", low=np.int64(60))) == len(
        landings.keep("Shell length", low=60)
    )
    assert len(landings.keep("Bay", levels="Saltmere")) == len(
        landings.keep("Bay", levels=["Saltmere"])
    )
    assert (
        landings.figure("Shell length", forms="box").recipe == landings.boxes("Shell length").recipe
    )
    for wrong in (
        {"width": "wide"}, {"width": True}, {"heights": "tall"}, {"title": 5}, {"colour": 1},
    ):  # fmt: skip
        with pytest.raises(Refusal, match=f"^The figure: .*{next(iter(wrong))}"):
            landings.histogram("Shell length", **wrong)


def test_dates_may_be_of_any_library(tmp_path):
    (tmp_path / "d.csv").write_text(
        "Day\n" + "\n".join(f"2026-02-{day:02}" for day in range(1, 29))
    )
    data = rhabdos.open(tmp_path / "d.csv")
    first = date(2026, 2, 11)
    for start in (
        first,
        "2026-02-11",
        np.datetime64("2026-02-11"),
        np.datetime64("2026-02-11", "ns"),
    ):
        figure = data.histogram("Day", start=start, width=7)
        assert figure.numbers()["bins"]["outside"] == [10]
        assert len(data.keep("Day", high=start)) == 11
    assert len(data.keep("Day", low=datetime(2026, 2, 11, 0, 1))) == 17


def test_nothing_is_changed_and_each_deed_gives_another(landings):
    rows = len(landings)
    figure = landings.boxes("Shell length", "Bay")
    other = figure.changed(box={"whiskers": "range"}, show={"upright": False})
    assert figure.recipe != other.recipe
    assert 'whiskers = "range"' in other.recipe
    assert len(landings) == rows
    with pytest.raises(Refusal, match="widht"):
        figure.changed(bins={"widht": 3})
    with pytest.raises(Refusal, match="no variable “Nix”"):
        landings.histogram("Nix")
    with pytest.raises(Refusal, match="must end in"):
        figure.save("x.bmp")


def test_pictures_hold_their_recipe_and_draw_again(landings, tmp_path):
    figure = landings.curve("Wet mass", title="Masses")
    for name in ("a.svg", "a.png", "a.pdf"):
        figure.save(tmp_path / name, dpi=60)
        assert recipe_text(tmp_path / name) == figure.recipe
        assert landings.draw(tmp_path / name).numbers() == figure.numbers()
    assert landings.draw(figure.recipe).recipe == figure.recipe
    assert tomllib.loads(figure.recipe)["words"]["title"] == "Masses"
    assert figure._repr_svg_() == figure.svg()
    assert "Masses" in figure.svg()


def test_steps_of_a_recipe_prepare_the_data(landings):
    text = 'rhabdos = 1\n[show]\nvariables = ["Shell length"]\n[[prepare]]\nstep = "keep"\nwhere = [{ variable = "Shell length", from = 80.0 }]\n'
    figure = landings.draw(text)
    assert figure.numbers()["samples"][0]["min"] >= 80
    assert len(read_work(figure.recipe).steps) == 1


def test_no_qt_is_needed_but_for_pixels_and_widths_are_qt_s():
    code = (
        "import sys, rhabdos\n"
        f"figure = rhabdos.open({str(DEMO)!r}).histogram('Shell length', split='Bay')\n"
        "figure.svg(), figure.numbers(), figure.seen, figure.notices\n"
        "assert not [name for name in sys.modules if name.startswith('PyQt6')]\n"
    )
    subprocess.run([sys.executable, "-c", code], check=True, timeout=120)
    from rhabdos.paint import fonts, typeface

    for text in ("Shell length (mm)", "AVATAR To", "0.025", "Ä µ − 12 °C", "Bay – fi"):
        for face in range(4):
            assert typeface.measure(text, 10.0, face) == pytest.approx(
                fonts.measure(text, 10.0, face), abs=0.02
            )


def test_a_start_of_the_program_imports_nothing_of_it():
    code = "import sys, rhabdos; rhabdos.__version__; assert 'rhabdos.library' not in sys.modules"
    subprocess.run([sys.executable, "-c", code], check=True, timeout=60)
    with pytest.raises(AttributeError, match="no attribute 'nix'"):
        _ = rhabdos.nix


def test_the_examples_of_the_page_run(monkeypatch, tmp_path):
    text = (Path(__file__).parents[1] / "docs" / "python.md").read_text()
    code = text.partition("```python\n")[2].partition("```")[0]
    (tmp_path / "demo").symlink_to(DEMO.parent)
    monkeypatch.chdir(tmp_path)
    exec(code, {})
    assert (tmp_path / "figure.svg").exists()
