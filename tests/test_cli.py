"""The command line, as scripts use it."""

import csv
import io
import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from rhabdos import __version__
from rhabdos.cli import main

DEMO = Path(__file__).parents[1] / "demo"
DATA, RECIPE = str(DEMO / "oyster-landings.csv"), str(DEMO / "two-harvests.toml")


def test_variables_as_json(capsys):
    assert main(["variables", DATA, "--format", "json"]) == 0
    listed = json.loads(capsys.readouterr().out)
    assert all(set(one) == {"name", "kind", "n", "missing", "levels"} for one in listed)
    kinds = {one["name"]: one["kind"] for one in listed}
    assert (kinds["Tag"], kinds["Bay"], kinds["Shell length (mm)"]) == ("label", "category", "number")


def test_variables_as_text_and_remarks_on_standard_error(capsys):
    assert main(["variables", DATA]) == 0
    out, err = capsys.readouterr()
    assert "Saltmere (820)" in out
    assert "“rack” and “Rack ”" in err


def test_numbers(capsys):
    assert main(["numbers", RECIPE, "--data", DATA]) == 0
    data = json.loads(capsys.readouterr().out)
    assert [s["n"] for s in data["samples"]] == [820, 817, 776]
    assert all(
        sum(row) + out == s["n"]
        for row, out, s in zip(data["bins"]["counts"], data["bins"]["outside"], data["samples"], strict=True)
    )
    assert main(["numbers", RECIPE, "--data", DATA, "--format", "csv"]) == 0
    assert len(list(csv.reader(io.StringIO(capsys.readouterr().out)))) > 100


def test_draw_to_several_files_without_a_display(tmp_path):
    outputs = [str(tmp_path / f"figure.{ending}") for ending in ("png", "svg", "pdf")]
    words = [word for output in outputs for word in ("--output", output)]
    environment = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "QT_QPA_PLATFORM", "WAYLAND_DISPLAY")}
    command = [
        sys.executable,
        "-m",
        "rhabdos.cli",
        "draw",
        RECIPE,
        "--data",
        DATA,
        *words,
        "--size",
        "800x500px",
        "--dpi",
        "100",
    ]
    subprocess.run(command, check=True, env=environment, capture_output=True)
    from PyQt6.QtGui import QImage

    picture = QImage(outputs[0])
    assert (picture.width(), picture.height()) == (800, 500)
    assert all(Path(output).stat().st_size > 5000 for output in outputs)


def test_the_demo_without_a_display_draws_to_files_and_says_where(tmp_path):
    environment = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "QT_QPA_PLATFORM", "WAYLAND_DISPLAY")}
    command = [sys.executable, "-m", "rhabdos.cli", "--demo"]
    done = subprocess.run(command, check=True, env=environment, cwd=tmp_path, capture_output=True, text=True)
    assert str(tmp_path / "rhabdos-demo") in done.stdout
    assert {p.suffix for p in (tmp_path / "rhabdos-demo").iterdir()} == {".csv", ".toml", ".png", ".svg", ".pdf"}


def test_version(capsys):
    assert main(["--version"]) == 0
    assert capsys.readouterr().out.strip() == f"rhabdos {__version__}"


def recipe_file(tmp_path, text):
    path = tmp_path / "r.toml"
    path.write_text('rhabdos = 1\n[show]\nvariables = ["Shell length"]\n' + text)
    return str(path)


FAULTS = {
    "no data file": (lambda t: ["numbers", RECIPE, "--data", str(t / "gone.csv")], "There is no file"),
    "no recipe": (lambda t: ["numbers", str(t / "gone.toml"), "--data", DATA], "could not be read"),
    "a wrong recipe": (
        lambda t: ["numbers", recipe_file(t, "[bins]\nwidth = -4"), "--data", DATA],
        "r.toml: bins.width is -4",
    ),
    "bins that hold nothing": (
        lambda t: ["numbers", recipe_file(t, "[bins]\nwidth = 4\nstart = 900"), "--data", DATA],
        "no values",
    ),
    "a wrong ending": (lambda t: ["draw", RECIPE, "--data", DATA, "--output", str(t / "a.doc")], "must end in .png"),
    "a wrong size": (lambda t: ["draw", RECIPE, "--data", DATA, "--output", "a.png", "--size", "big"], "no size"),
    "a wrong resolution": (
        lambda t: ["draw", RECIPE, "--data", DATA, "--output", "a.png", "--dpi", "1"],
        "--dpi must be",
    ),
    "a form without a drawing": (
        lambda t: ["draw", recipe_file(t, 'forms = ["bars", "box"]'), "--data", DATA, "--output", "a.png"],
        "cannot be drawn yet",
    ),
    "a folder that is not there": (
        lambda t: ["draw", RECIPE, "--data", DATA, "--output", str(t / "no" / "a.svg")],
        "no folder",
    ),
}


@pytest.mark.parametrize("fault", FAULTS)
def test_faults_are_a_sentence_on_standard_error_and_status_2(fault, tmp_path, capsys, qapp):
    arguments, sentence = FAULTS[fault]
    assert main(arguments(tmp_path)) == 2
    out, err = capsys.readouterr()
    assert out == ""
    assert err.startswith("rhabdos: ")
    assert sentence in err
    assert "Traceback" not in err


def test_a_variable_that_the_data_lack_is_named(tmp_path, capsys):
    data = tmp_path / "other.csv"
    data.write_text("length_of_shell,n\n4,1\n5,2\n")
    assert main(["numbers", RECIPE, "--data", str(data)]) == 2
    assert "other has no variable “Shell length”" in capsys.readouterr().err


def test_the_unforeseen_is_a_sentence_too(monkeypatch, capsys, tmp_path):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    monkeypatch.setattr("rhabdos.data.reading.read_table", lambda _path: 1 / 0)
    assert main(["variables", DATA]) == 2
    assert "something unforeseen" in capsys.readouterr().err


def test_the_core_needs_no_qt():
    code = (
        "import sys\n"
        "import rhabdos.data.reading, rhabdos.data.demo, rhabdos.figure.numbers, rhabdos.figure.handling\n"
        "import rhabdos.figure.recipe_text, rhabdos.scene.build, rhabdos.project.history, rhabdos.project.files\n"
        "print([name for name in sys.modules if 'PyQt' in name])"
    )
    done = subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True)
    assert done.stdout.strip() == "[]"
