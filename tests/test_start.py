"""Where the program begins: a sentence whatever ends it, and nothing of libraries on the terminal."""

import os
import resource
import signal
import subprocess
import sys
import time
from pathlib import Path

import polars as pl
import pytest

from rhabdos import cli

START = [sys.executable, "-m", "rhabdos.start"]


def started(*words, **how):
    environment = os.environ | {"QT_QPA_PLATFORM": "offscreen"}
    pipes = {"stdout": subprocess.PIPE, "stderr": subprocess.PIPE}
    return subprocess.Popen([*START, *words], env=environment, text=True, **pipes, **how)


def limited(megabytes):
    return lambda: resource.setrlimit(resource.RLIMIT_AS, (megabytes << 20, megabytes << 20))


@pytest.fixture
def small(tmp_path):
    path = tmp_path / "small.csv"
    path.write_text("length,bay\n1,A\n2,B\n3,A\n")
    return path


def test_it_answers_as_the_command_line_does(small):
    run = started("variables", str(small))
    said, wrong = run.communicate(timeout=30)
    assert (run.returncode, wrong) == (0, "")
    assert "length" in said
    run = started("variables", str(small) + "x")
    said, wrong = run.communicate(timeout=30)
    assert (run.returncode, said) == (2, "")
    assert wrong.startswith("rhabdos: There is no file")


def test_too_little_memory_is_told_at_once(small):
    run = started("variables", str(small), preexec_fn=limited(700))
    said, wrong = run.communicate(timeout=30)
    assert (run.returncode, said) == (2, "")
    assert wrong == (
        "rhabdos: the limit on memory here is 700 MiB, and less than 1536 MiB do not do. Raise it "
        "(ulimit -v).\n"
    )


def test_memory_that_runs_out_ends_with_a_sentence(tmp_path):
    path = tmp_path / "long.parquet"  # small on disk, and large in memory
    pl.DataFrame({"name": pl.zeros(150_000_000, pl.Int8, eager=True)}).write_parquet(path)
    run = started("variables", str(path), preexec_fn=limited(1_700))
    said, wrong = run.communicate(timeout=120)
    assert run.returncode == 2
    assert said == ""
    assert "too little memory" in wrong
    assert wrong.startswith("rhabdos: ")
    assert wrong.count("\n") == 1


def child_of(process):
    for _ in range(200):
        there = Path(f"/proc/{process.pid}/task/{process.pid}/children").read_text().split()
        if there:
            return int(there[0])
        time.sleep(0.02)
    raise AssertionError("nobody works")


def waiting(tmp_path):
    """The program waits for a pipe that somebody holds open."""
    path = tmp_path / "pipe"
    os.mkfifo(path)
    run = started("variables", str(path))
    writer = os.open(path, os.O_WRONLY)
    return run, writer


def test_work_that_the_system_ends_is_told(tmp_path):
    run, writer = waiting(tmp_path)
    os.kill(child_of(run), signal.SIGKILL)
    said, wrong = run.communicate(timeout=30)
    os.close(writer)
    assert (run.returncode, said) == (2, "")
    assert "the system ended it" in wrong


def test_what_it_is_told_is_passed_on(tmp_path):
    run, writer = waiting(tmp_path)
    time.sleep(0.3)
    run.send_signal(signal.SIGTERM)
    run.communicate(timeout=30)
    os.close(writer)
    assert run.returncode == 128 + signal.SIGTERM


@pytest.mark.parametrize(
    ("where", "reason"),
    [
        ({"DISPLAY": ":77", "QT_QPA_PLATFORM": "xcb"}, "the display cannot be reached"),
        ({"QT_QPA_PLATFORM": "nonsense"}, "QT_QPA_PLATFORM names none that is there"),
    ],
)
def test_a_display_that_cannot_be_used_is_said_in_a_sentence(tmp_path, where, reason):
    kept = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY")}
    environment = {**kept, "XDG_STATE_HOME": str(tmp_path), **where}
    command = [sys.executable, "-m", "rhabdos.start", "--demo"]
    run = subprocess.run(command, capture_output=True, text=True, env=environment, timeout=60)
    assert run.returncode == 2
    assert run.stderr.startswith(f"rhabdos: no window can be shown: {reason}")
    assert run.stderr.count("\n") == 1


def test_a_library_of_the_system_that_is_missing_is_named(monkeypatch, capsys):
    from rhabdos.app.shell import run as window

    def missing(_path, demo):
        raise ImportError("libEGL.so.1: cannot open shared object file: No such file or directory")

    monkeypatch.setattr(window, "run", missing)
    assert cli.main(["--demo"]) == 2
    assert "the system lacks libEGL.so.1" in capsys.readouterr().err


def test_what_libraries_say_goes_to_the_log(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    code = (
        "import os, sys\n"
        "import rhabdos.cli\n"
        "def main():\n"
        "    import logging, warnings\n"
        "    os.write(2, b'a library panics')\n"
        "    logging.getLogger('library').warning('is worried')\n"
        "    warnings.warn('old', DeprecationWarning)\n"
        "    print('rhabdos: ours.', file=sys.stderr)\n"
        "    return 0\n"
        "rhabdos.cli.main = main\n"
        "from rhabdos.start import main\n"
        "sys.exit(main())\n"
    )
    command = [sys.executable, "-W", "always", "-c", code]
    run = subprocess.run(command, capture_output=True, text=True, check=True, timeout=30)
    assert run.stderr == "rhabdos: ours.\n"
    log = (tmp_path / "state" / "rhabdos" / "log" / "rhabdos.log").read_text()
    assert all(words in log for words in ("a library panics", "is worried", "old"))


def test_the_first_figure_loads_nothing_that_it_does_not_need(tmp_path):
    """What compares, sways, reads recipes or files comes later: a start waits for none of it."""
    code = (
        "import os, sys\n"
        "from rhabdos.app.shell import run\n"
        "from rhabdos.cli import main\n"
        "started = run.started\n"
        "def painted(files, demo):\n"
        "    application, window = started(files, demo)\n"
        "    while not window.figure.stage.canvas.painted:\n"
        "        application.processEvents()\n"
        "    print(*sorted(sys.modules), sep='\\n', flush=True)\n"
        "    while 'coloraide.color' not in sys.modules:\n"  # unseen, before it is wanted
        "        application.processEvents()\n"
        "    import ast, ctypes, inspect, io, numpy, numpy.typing, pickle, platform\n"
        "    import textwrap, typing_extensions\n"
        "    for module in (ast, ctypes, inspect, pickle, platform, textwrap, typing_extensions):\n"
        "        assert module.__file__, module\n"
        "    assert numpy.typing.NDArray[numpy.float64].__origin__ is numpy.ndarray\n"
        "    dumped = io.BytesIO()\n"
        "    numpy.arange(3).dump(dumped)\n"
        "    assert pickle.loads(dumped.getvalue()).tolist() == [0, 1, 2]\n"
        "    assert numpy.arange(3).ctypes.data\n"
        "    print('later', 'all', flush=True)\n"
        "    os._exit(0)\n"
        "run.started = painted\n"
        "main(['--demo'])\n"
    )
    environment = os.environ | {"QT_QPA_PLATFORM": "offscreen", "XDG_STATE_HOME": str(tmp_path)}
    run = subprocess.run(
        [sys.executable, "-c", code], env=environment, capture_output=True, text=True, timeout=60
    )
    text, _, later = run.stdout.partition("later")
    assert later.strip() == "all", run.stderr  # whoever wants them finds them
    loaded = set(text.split())
    assert "rhabdos.scene.build" in loaded
    for late in (
        *("scipy", "polars", "coloraide", "statistics", "rhabdos.figure.recipe.toml_text"),
        *(
            "rhabdos.data.preparing",
            "rhabdos.stats.two_samples.comparing",
            "rhabdos.stats.resampling",
        ),
        *("rhabdos.figure.output.seen", "rhabdos.figure.forms.sway", "rhabdos.app.panels.foot"),
        *("typing_extensions", "rhabdos.app.shell.menus", "rhabdos.data.far.place"),
        *("ast", "ctypes", "inspect", "numpy._typing", "pickle", "platform", "textwrap"),
        *("rhabdos.data.fields.texts", "rhabdos.figure.forms.pairs"),
        *("rhabdos.figure.readings.ladder", "rhabdos.stats.kernel_sums"),
    ):
        assert late not in loaded, late
