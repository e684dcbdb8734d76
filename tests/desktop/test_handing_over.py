"""A second start, and the window that is open."""

import stat
import subprocess
import sys
import threading
import time
from contextlib import contextmanager, suppress

import pytest

from rhabdos.app.shell.listening import Listening
from rhabdos.handing_over import Asked, folder, handed_over

_WINDOW = """
import os, sys
from rhabdos.app.shell import run
from rhabdos.cli import main
started = run.started
def watched(files, demo):
    application, window = started(files, demo)
    def told():
        source = window.session.document.source
        print("shows", source.path.name if source and source.path else "the demo", flush=True)
    window.session.table_changed.connect(told)
    from PyQt6.QtCore import QTimer
    QTimer.singleShot(0, lambda: print("ready", flush=True))
    return application, window
run.started = watched
sys.exit(main(sys.argv[1:]))
"""


@pytest.fixture
def runtime(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path))
    return tmp_path


def _handed(file):
    """Hand a file over from a thread, as another process would."""
    answers = []
    hand = threading.Thread(target=lambda: answers.append(handed_over(file)))
    hand.start()
    return hand, answers


def _answered(qtbot, file):
    hand, answers = _handed(file)
    qtbot.waitUntil(lambda: not hand.is_alive(), timeout=10_000)
    return answers[0]


def test_a_window_takes_a_file_or_leaves_it(runtime, tmp_path, qtbot, qapp, monkeypatch):
    asked = []
    monkeypatch.setenv("XDG_ACTIVATION_TOKEN", "a token")
    monkeypatch.chdir(tmp_path)
    (tmp_path / "b.csv").write_text("x\n1\n")
    listening = Listening(lambda what: asked.append(what) or what.open.endswith("b.csv"), qapp)
    assert stat.S_IMODE(folder().stat().st_mode) == 0o700
    assert not _answered(qtbot, "postgresql://host/base#t")
    assert _answered(qtbot, "b.csv")
    assert asked == [
        Asked("postgresql://host/base#t", "a token"),
        Asked(str(tmp_path / "b.csv"), "a token"),
    ]
    listening.end()
    assert list(folder().iterdir()) == []
    assert not handed_over("b.csv")


def test_what_a_killed_window_left_is_cleared_away(runtime, qapp):
    listening = Listening(lambda _what: True, qapp)
    (there,) = folder().iterdir()
    listening._called.setEnabled(False)
    listening._socket.close()  # as the system does for a process that ends
    assert not handed_over("x.csv")
    assert not there.exists()


@pytest.mark.parametrize("message", [b"", b"{}\n", b"\xff\xfe\n", b'{"open": 3}\n', b"x" * 70_000])
def test_a_message_that_is_none_is_left(runtime, qtbot, qapp, message):
    import socket

    taken = []
    listening = Listening(lambda what: taken.append(what) or True, qapp)
    (path,) = folder().iterdir()

    def send():
        with socket.socket(socket.AF_UNIX) as line:
            line.settimeout(5)
            line.connect(str(path))
            with suppress(ConnectionError):  # more than a message may be is not read to its end
                line.sendall(message)
                line.shutdown(socket.SHUT_WR)
                answers.append(line.recv(10))

    answers = []
    hand = threading.Thread(target=send)
    hand.start()
    qtbot.waitUntil(lambda: not hand.is_alive(), timeout=10_000)
    assert not taken
    assert answers in ([b""], [])
    listening.end()


def test_without_a_folder_of_the_session_nothing_is_handed_over(monkeypatch, qapp):
    monkeypatch.delenv("XDG_RUNTIME_DIR", raising=False)
    listening = Listening(lambda _what: True, qapp)
    assert not handed_over("x.csv")
    listening.end()


@contextmanager
def _start(*words):
    """A start of the program, ended with the test."""
    started = subprocess.Popen(
        [sys.executable, "-c", _WINDOW, *map(str, words)], stdout=subprocess.PIPE, text=True
    )
    with started:
        try:
            yield started
        finally:
            started.terminate()
            started.wait(timeout=30)


def test_a_second_start_goes_to_the_window_without_data_and_then_to_its_own(runtime, tmp_path):
    for name in ("one.csv", "two.csv"):
        (tmp_path / name).write_text("length\n" + "\n".join(str(i) for i in range(40)))
    with _start("--new-window") as first:
        assert first.stdout.readline() == "ready\n"
        until = time.monotonic() + 20
        while not list(folder().glob("*.window")) and time.monotonic() < until:
            time.sleep(0.05)  # it listens once it stands
        with _start(tmp_path / "one.csv") as second:
            assert second.wait(timeout=30) == 0
        assert first.stdout.readline() == "shows one.csv\n"
        with _start(tmp_path / "one.csv") as again:  # which it shows
            assert again.wait(timeout=30) == 0
        with _start(tmp_path / "two.csv") as third:
            lines = {third.stdout.readline() for _ in range(2)}
            assert lines == {"ready\n", "shows two.csv\n"}
    assert list(folder().iterdir()) == []


def test_data_and_a_recipe_are_drawn_in_one_window(runtime, tmp_path):
    data, recipe = tmp_path / "one.csv", tmp_path / "of.toml"
    data.write_text("length,mass\n" + "\n".join(f"{i},{i * i}" for i in range(40)))
    recipe.write_text('rhabdos = 1\n[show]\nvariables = ["mass"]\n')
    code = _WINDOW.replace(
        'print("shows", source',
        'print(window.session.recipe.show.variables[0], flush=True)\n        print("shows", source',
    ).replace("table_changed.connect(told)", "recipe_opened.connect(told)")
    window = subprocess.Popen(
        [sys.executable, "-c", code, data, recipe], stdout=subprocess.PIPE, text=True
    )
    try:
        lines = [window.stdout.readline().strip() for _ in range(3)]
        assert set(lines) == {"ready", "mass", "shows one.csv"}
    finally:
        window.terminate()
        window.wait(timeout=30)
        window.stdout.close()
