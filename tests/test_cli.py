"""The command line, as scripts use it."""

import csv
import io
import json
import os
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from rhabdos import __version__
from rhabdos.cli import main

pytestmark = pytest.mark.usefixtures(
    "qapp"
)  # drawing would make an application that the window's tests cannot use

DEMO = Path(__file__).parents[1] / "demo"
DATA, RECIPE = str(DEMO / "oyster-landings.csv"), str(DEMO / "two-harvests.toml")


def test_variables_as_json(capsys):
    assert main(["variables", DATA, "--format", "json"]) == 0
    listed = json.loads(capsys.readouterr().out)
    keys = {"name", "kind", "n", "missing", "levels", "label", "unit", "missing_as", "problems"}
    assert all(set(one) == keys for one in listed)
    problems = {one["name"]: [p["code"] for p in one["problems"]] for one in listed}
    assert problems["Culture"] == ["similar-levels"]
    assert problems["Water temperature (°C)"] == ["missing-code"]
    assert problems["Cracked"] == ["group-codes"]
    (code,) = next(one for one in listed if one["name"].startswith("Water"))["problems"]
    assert (set(code), code["n"]) == ({"code", "text", "n"}, 23)
    kinds = {one["name"]: one["kind"] for one in listed}
    assert (kinds["Tag"], kinds["Bay"], kinds["Shell length (mm)"]) == (
        "label",
        "category",
        "number",
    )


def test_variables_as_text_and_remarks_on_standard_error(capsys):
    assert main(["variables", DATA]) == 0
    out, err = capsys.readouterr()
    assert "Saltmere (820)" in out
    assert "“rack” (449) and “Rack ” (54)" in err


def test_numbers_of_a_chart(capsys, tmp_path):
    chart = tmp_path / "chart.toml"
    chart.write_text('rhabdos = 1\n[levels]\nvariable = "Bay"\n')
    assert main(["numbers", str(chart), "--data", DATA]) == 0
    told = json.loads(capsys.readouterr().out)
    rows = Path(DATA).read_text(encoding="utf-8").splitlines()[1:]
    assert {bar["level"]: bar["height"] for bar in told["levels"]} == {
        bay: sum(f",{bay}," in row for row in rows)
        for bay in ("Saltmere", "Heron Sound", "Wick Narrows")
    }
    assert main(["numbers", str(chart), "--data", DATA, "--format", "csv"]) == 0
    assert capsys.readouterr().out.startswith("Bay,count,percent\n")


def test_numbers(capsys):
    assert main(["numbers", RECIPE, "--data", DATA]) == 0
    data = json.loads(capsys.readouterr().out)
    assert [s["n"] for s in data["samples"]] == [820, 817, 776]
    assert all(
        sum(row) + out == s["n"]
        for row, out, s in zip(
            data["bins"]["counts"], data["bins"]["outside"], data["samples"], strict=True
        )
    )
    assert main(["numbers", RECIPE, "--data", DATA, "--format", "csv"]) == 0
    assert len(list(csv.reader(io.StringIO(capsys.readouterr().out)))) > 100


def test_draw_to_several_files_without_a_display(tmp_path):
    outputs = [str(tmp_path / f"figure.{ending}") for ending in ("png", "svg", "pdf")]
    words = [word for output in outputs for word in ("--output", output)]
    environment = {
        k: v
        for k, v in os.environ.items()
        if k not in ("DISPLAY", "QT_QPA_PLATFORM", "WAYLAND_DISPLAY")
    }
    command = [
        sys.executable, "-m", "rhabdos.cli", "draw", RECIPE, "--data", DATA, *words, "--size",
        "800x500px", "--dpi", "100",
    ]  # fmt: skip
    subprocess.run(command, check=True, env=environment, capture_output=True)
    from PyQt6.QtGui import QImage

    picture = QImage(outputs[0])
    assert (picture.width(), picture.height()) == (800, 500)
    assert all(Path(output).stat().st_size > 5000 for output in outputs)


def test_the_demo_without_a_display_draws_to_files_and_says_where(tmp_path):
    environment = {
        k: v
        for k, v in os.environ.items()
        if k not in ("DISPLAY", "QT_QPA_PLATFORM", "WAYLAND_DISPLAY")
    }
    command = [sys.executable, "-m", "rhabdos.cli", "--demo"]
    done = subprocess.run(
        command, check=True, env=environment, cwd=tmp_path, capture_output=True, text=True
    )
    assert str(tmp_path / "rhabdos-demo") in done.stdout
    assert {p.suffix for p in (tmp_path / "rhabdos-demo").iterdir()} == {
        ".csv",
        ".toml",
        ".png",
        ".svg",
        ".pdf",
    }


def test_version(capsys):
    assert main(["--version"]) == 0
    assert capsys.readouterr().out.strip() == f"rhabdos {__version__}"


def recipe_file(tmp_path, text):
    path = tmp_path / "r.toml"
    path.write_text('rhabdos = 1\n[show]\nvariables = ["Shell length"]\n' + text)
    return str(path)


FAULTS = {
    "no data file": (
        lambda t: ["numbers", RECIPE, "--data", str(t / "gone.csv")],
        "There is no file",
    ),
    "no recipe": (lambda t: ["numbers", str(t / "gone.toml"), "--data", DATA], "could not be read"),
    "a wrong recipe": (
        lambda t: ["numbers", recipe_file(t, "[bins]\nwidth = -4"), "--data", DATA],
        "r.toml: bins.width is -4",
    ),
    "bins that hold nothing": (
        lambda t: ["numbers", recipe_file(t, "[bins]\nwidth = 4\nstart = 900"), "--data", DATA],
        "no values",
    ),
    "a wrong ending": (
        lambda t: ["draw", RECIPE, "--data", DATA, "--output", str(t / "a.doc")],
        "must end in .png",
    ),
    "a wrong size": (
        lambda t: ["draw", RECIPE, "--data", DATA, "--output", "a.png", "--size", "big"],
        "no size",
    ),
    "a wrong resolution": (
        lambda t: ["draw", RECIPE, "--data", DATA, "--output", "a.png", "--dpi", "1"],
        "--dpi must be",
    ),
    "a variable of names that is not there": (
        lambda t: [
            "draw",
            recipe_file(t, 'forms = ["box"]\n[box]\nnames = "Tagg"'),
            "--data",
            DATA,
            "--output",
            str(t / "a.png"),
        ],
        "box.names: oyster-landings has no variable “Tagg”. Did you mean “Tag”?",
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
    monkeypatch.setattr("rhabdos.data.preparing.begun", lambda *_given: 1 / 0)
    assert main(["variables", DATA]) == 2
    assert "something unforeseen" in capsys.readouterr().err


PREPARED = """rhabdos = 1
[show]
variables = ["Shell length"]

[[prepare]]
step = "levels"
variable = "Culture"
become = {"Rack " = "rack"}

[[prepare]]
step = "keep"
where = [{variable = "Shell length", from = 60, to = 110}, {variable = "Bay", levels = ["Saltmere"]}]
"""


def test_steps_of_a_recipe_prepare_what_is_converted_counted_and_drawn(tmp_path, capsys):
    recipe = tmp_path / "r.toml"
    recipe.write_text(PREPARED)
    with open(DATA, encoding="utf-8") as file:
        rows = list(csv.DictReader(file))
    kept = [
        row
        for row in rows
        if row["Shell length (mm)"]
        and 60 <= float(row["Shell length (mm)"]) <= 110
        and row["Bay"] == "Saltmere"
    ]
    out = tmp_path / "out.csv"
    assert main(["convert", DATA, str(out), "--recipe", str(recipe)]) == 0
    with open(out, encoding="utf-8") as file:
        written = list(csv.DictReader(file))
    assert [row["Tag"] for row in written] == [row["Tag"] for row in kept]
    assert {row["Culture"] for row in written} == {row["Culture"].strip().lower() for row in kept}
    capsys.readouterr()
    assert main(["numbers", str(recipe), "--data", DATA]) == 0
    numbers = json.loads(capsys.readouterr().out)
    assert sum(sample["n"] for sample in numbers["samples"]) == len(kept)
    assert main(["variables", DATA, "--format", "json", "--recipe", str(recipe)]) == 0
    listed = json.loads(capsys.readouterr().out)
    assert {level["value"] for level in listed[1]["levels"]} == {"Saltmere"}


def test_convert_refuses_what_it_cannot_write(tmp_path, capsys):
    copy = tmp_path / "data.csv"
    copy.write_text("a\n1\n")
    assert main(["convert", str(copy), str(copy)]) == 2
    assert "is what is read" in capsys.readouterr().err
    assert main(["convert", str(copy), str(tmp_path / "out.xml")]) == 2
    assert "“.xml” is no format" in capsys.readouterr().err


def test_a_recipe_may_make_its_data_itself(tmp_path, capsys):
    recipe = tmp_path / "r.toml"
    recipe.write_text(
        'rhabdos = 1\n[show]\nvariables = ["Value"]\nsplit = ["Sample"]\n[[prepare]]\nstep = "simulate"\n'
        'samples = [{name = "a", n = 50}, {name = "b", n = 70, distribution = "beta"}]\n'
    )
    assert main(["numbers", str(recipe)]) == 0
    assert [s["n"] for s in json.loads(capsys.readouterr().out)["samples"]] == [50, 70]
    recipe.write_text('rhabdos = 1\n[show]\nvariables = ["Value"]\n')
    assert main(["numbers", str(recipe)]) == 2
    assert "name them with --data FILE" in capsys.readouterr().err
    recipe.write_text('rhabdos = 1\n[[prepare]]\nstep = "name"\nvariable = "a"\nunit = "mm"\n')
    assert main(["draw", str(recipe), "--data", DATA, "--output", str(tmp_path / "o.svg")]) == 2
    assert "holds steps but no figure" in capsys.readouterr().err


def test_the_core_needs_no_qt():
    code = (
        "import sys\n"
        "import rhabdos.data.files.reading, rhabdos.data.demo, rhabdos.figure.output.numbers, rhabdos.figure.edits.drag_edits\n"
        "import rhabdos.figure.recipe.toml_text, rhabdos.scene.build, rhabdos.project.history, rhabdos.project.files\n"
        "print([name for name in sys.modules if 'PyQt' in name])"
    )
    done = subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True)
    assert done.stdout.strip() == "[]"


def run(words, tmp_path, **more):
    """The real command, in a folder of its own; its status, output and what it says on standard error."""
    command = [str(Path(sys.executable).with_name("rhabdos")), *words]
    done = subprocess.run(
        command,
        cwd=more.pop("cwd", tmp_path),
        stderr=subprocess.PIPE,
        timeout=60,
        check=False,
        **more,
    )
    return done.returncode, done.stdout, done.stderr.decode(errors="surrogateescape")


NUMBERS = ["numbers", str(RECIPE), "--data", str(DATA)]


def test_output_that_cannot_be_written_is_told(tmp_path):
    with open("/dev/full", "wb") as full:
        for words in (NUMBERS, ["--help"], ["--version"], ["variables", str(DATA)]):
            status, _, said = run(words, tmp_path, stdout=full)
            assert status == 2
            assert said.endswith(
                "output could not be written: no space left on device. Send it elsewhere.\n"
            )
    status, _, said = run(NUMBERS, tmp_path, preexec_fn=lambda: os.close(1))
    assert status == 2
    assert "Standard output is closed" in said


@pytest.mark.parametrize("encoding", ["ascii", "latin-1", "utf-8"])
def test_no_letter_is_lost_to_a_poor_encoding(encoding, tmp_path):
    (tmp_path / "u.csv").write_text("Möwe 日本 😀,b\n1,2\n3,4\n")
    poor = {**os.environ, "PYTHONIOENCODING": encoding}
    status, printed, said = run(
        ["variables", "u.csv", "--format", "json"], tmp_path, stdout=subprocess.PIPE, env=poor
    )
    assert (status, said) == (0, "")
    assert json.loads(printed.decode(encoding))[0]["name"] == "Möwe 日本 😀"
    status, printed, said = run(["variables", "u.csv"], tmp_path, stdout=subprocess.PIPE, env=poor)
    assert (status, said) == (0, "")
    assert "number" in printed.decode(encoding)


def test_nothing_that_data_hold_reaches_the_terminal_as_a_command(tmp_path):
    (tmp_path / "e.csv").write_text("\x1b[31mred,b\n1,\x1b]0;x\x07\n2,\x1b]0;x\x07\n")
    status, printed, said = run(["variables", "e.csv"], tmp_path, stdout=subprocess.PIPE)
    assert status == 0
    assert b"\x1b" not in printed
    assert "\x1b" not in said


def test_a_path_is_a_name_and_nothing_more(tmp_path):
    for name, column in (
        ("*.csv", "a"),
        ("[a].csv", "z"),
        ("~", None),
        ("x.csv", "x^2"),
        ("\udcff\udcfe.csv", "q"),
    ):
        if column is None:
            (tmp_path / name).mkdir()
            (tmp_path / name / "k.csv").write_text("k\n1\n2\n")
            name, column = "~/k.csv", "k"
        else:
            (tmp_path / name).write_text(f"{column},n\n1,2\n3,4\n")
        status, printed, _ = run(
            ["variables", name, "--format", "json"], tmp_path, stdout=subprocess.PIPE
        )
        assert status == 0
        assert json.loads(printed)[0]["name"] == column
    for missing in ("file:x.csv", "http://x.csv", "?.csv", "\udcff.csv"):
        status, _, said = run(["variables", missing], tmp_path)
        assert status == 2
        assert "There is no file" in said


def test_pipes_are_read_and_those_without_a_writer_are_refused(tmp_path):
    for name in ("data", "recipe"):
        os.mkfifo(tmp_path / name)
    with open(DATA, "rb") as content:
        status, printed, _ = run(
            ["variables", "/dev/stdin"], tmp_path, stdin=content, stdout=subprocess.PIPE
        )
    assert status == 0
    piped = subprocess.run(["cat", str(DATA)], capture_output=True, check=True).stdout
    assert (
        run(["variables", "/dev/stdin"], tmp_path, input=piped, stdout=subprocess.PIPE)[1]
        == printed
    )
    pipes = ["variables", "data"], ["numbers", "recipe", "--data", str(DATA)]
    with ThreadPoolExecutor() as both:  # each waits some seconds for a writer
        told = list(both.map(lambda words: run(words, tmp_path), pipes))
    for status, _, said in told:
        assert status == 2
        assert "nothing writes to" in said


def test_an_output_never_replaces_its_own_data_or_recipe(tmp_path):
    (tmp_path / "data.svg").write_bytes(Path(DATA).read_bytes())
    (tmp_path / "recipe.svg").write_bytes(Path(RECIPE).read_bytes())
    os.link(tmp_path / "data.svg", tmp_path / "same.svg")
    (tmp_path / "link.svg").symlink_to("recipe.svg")
    for output in ("data.svg", "recipe.svg", "same.svg", "link.svg"):
        words = [
            "draw", "recipe.svg", "--data", "data.svg", "--output", "good.svg", "--output", output,
        ]  # fmt: skip
        status, _, said = run(words, tmp_path)
        assert status == 2
        assert "itself. Name another file" in said
        assert not (tmp_path / "good.svg").exists()
    assert (tmp_path / "data.svg").read_bytes() == Path(DATA).read_bytes()


def test_a_folder_that_has_gone_is_told(tmp_path):
    gone = tmp_path / "gone"
    gone.mkdir()
    leave = {"preexec_fn": gone.rmdir, "cwd": gone}
    status, _, said = run(
        ["draw", str(RECIPE), "--data", str(DATA), "--output", "x.svg"], tmp_path, **leave
    )
    assert status == 2
    assert "no longer there" in said
    gone.mkdir()
    status, _, said = run(["variables", "d.csv"], tmp_path, **leave)
    assert status == 2
    assert "There is no file" in said


@pytest.mark.parametrize(
    ("size", "dpi", "words"),
    [
        ("50x50px", "300", "too small"),
        ("14000x14000px", "300", ""),
        ("20000x20000px", "300", "at most 250,000,000 are painted"),
        ("100x100cm", "600", "at most 250,000,000 are painted"),
    ],
)
def test_sizes_are_checked_at_the_resolution_asked_for(
    size, dpi, words, tmp_path, capsys, monkeypatch, qapp
):
    monkeypatch.setattr("rhabdos.paint.export.write_figure", lambda *_args, **_more: None)
    output = str(tmp_path / "a.png")
    status = main(
        ["draw", str(RECIPE), "--data", str(DATA), "--output", output, "--size", size, "--dpi", dpi]
    )
    assert status == (2 if words else 0)
    assert words in capsys.readouterr().err


def test_exports_of_a_recipe_are_the_same_bytes_on_every_run(tmp_path):
    import os
    import subprocess
    import sys

    written = []
    for seed in ("1", "4711"):
        folder = tmp_path / seed
        folder.mkdir()
        outputs = [str(folder / f"figure.{ending}") for ending in ("svg", "pdf", "png")]
        given = [word for output in outputs for word in ("--output", output)]
        code = "import sys; from rhabdos.cli import main; sys.exit(main(sys.argv[1:]))"
        command = [sys.executable, "-c", code, "draw", str(RECIPE), "--data", str(DATA), *given]
        environment = {**os.environ, "PYTHONHASHSEED": seed, "QT_HASH_SEED": seed}
        subprocess.run(command, check=True, env=environment, capture_output=True)
        written.append([(folder / f"figure.{e}").read_bytes() for e in ("svg", "pdf", "png")])
    assert written[0] == written[1]


def test_a_figure_is_drawn_in_a_look_by_name_or_file(tmp_path, capsys, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    folder = tmp_path / "rhabdos" / "looks"
    folder.mkdir(parents=True)
    look = "rhabdos-look = 1\n[words.title_style]\nsize = 31\n[look]\npaper = '#FFEECC'\n"
    by_name, by_file = folder / "Quay.look.toml", tmp_path / "mine.toml"
    by_name.write_text(look)
    by_file.write_text(look)
    output = tmp_path / "a.svg"
    draw = ["draw", RECIPE, "--data", DATA, "--output", str(output)]
    written = set()
    for asked in ([], ["--look", "Quay"], ["--look", str(by_file)]):
        assert main([*draw, *asked]) == 0
        written.add(output.read_text(encoding="utf-8"))
        told = 'font-size="31' in output.read_text(encoding="utf-8")
        assert told == bool(asked)
    assert len(written) == 2
    assert main([*draw, "--look", "Nowhere"]) == 2
    chart = tmp_path / "chart.toml"
    chart.write_text("rhabdos = 1\n[levels]\nvariable = 'Harvest'\n")
    capsys.readouterr()
    drawn = ["draw", str(chart), "--data", DATA, "--output", str(output)]
    assert main([*drawn, "--look", "Quay"]) == 2
    assert "draws no figure that could wear it" in capsys.readouterr().err


def test_a_file_that_is_drawn_holds_the_size_it_has(tmp_path, qapp):
    from rhabdos.figure.recipe.toml_text import read_recipe
    from rhabdos.paint.inside import recipe_in

    for size, told in (("9x6cm", "9x6cm"), ("1200x600px", "10.16x5.08cm"), (None, None)):
        output = tmp_path / "a.svg"
        asked = ["--size", size] if size else []
        assert main(["draw", RECIPE, "--data", DATA, "--output", str(output), *asked]) == 0
        assert read_recipe(recipe_in(output)).page.size == told


@pytest.mark.parametrize(
    ("words", "sentence"),
    [
        (["drwa"], "no file and no command “drwa” (did you mean draw?)"),
        (["help", "dra"], "no command “dra” (did you mean draw?)"),
        (["nosuch.csv"], "There is no file “nosuch.csv”"),
        (["file:///none/such%20one.csv"], "There is no file “/none/such one.csv”"),
        (["draw", "--dta", "x"], "unrecognized arguments: --dta (did you mean --data?)"),
        (["draw", RECIPE], "required: --output. See rhabdos help draw."),
        (["variables", DATA, "--form", "json"], "unrecognized arguments: --form"),
        (["--demo", DATA], "choose either FILE or --demo"),
    ],
)
def test_what_is_typed_wrongly_is_refused_in_one_sentence(capsys, words, sentence):
    assert main(words) == 2
    out, err = capsys.readouterr()
    assert not out
    assert err.startswith("rhabdos: ")
    assert sentence in err
    assert err.count("\n") == 1


@pytest.mark.parametrize("words", [["help"], ["--help"], ["-h"]])
def test_help_tells_of_every_command(capsys, words):
    assert main(words) == 0
    out = capsys.readouterr().out
    for name in ("variables", "convert", "numbers", "draw", "report", "--demo", "--integrate"):
        assert name in out


@pytest.mark.parametrize("words", [["help", "draw"], ["draw", "--help"]])
def test_help_explains_one_command_with_an_example(capsys, words):
    assert main(words) == 0
    out = capsys.readouterr().out
    assert "--transparent" in out
    assert "example: rhabdos draw bays.toml" in out


def test_addresses_of_files_are_opened_wherever_a_file_stands(capsys, tmp_path):
    address = Path(DATA).as_uri()
    assert main(["variables", address]) == 0
    assert "Saltmere (820)" in capsys.readouterr().out
    assert main(["numbers", Path(RECIPE).as_uri(), f"--data={address}"]) == 0
    assert json.loads(capsys.readouterr().out)
    assert main(["variables", "file://elsewhere/x.csv"]) == 2
