"""Storage that never leaves half a file, and a history that names its steps."""

import errno
import os
import re
import stat
import subprocess
import sys
from pathlib import Path

import pytest

from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.project.document import Document, Source
from rhabdos.project.files import StorageError, read_text, write_whole
from rhabdos.project.history import History


def test_a_file_is_written_whole_and_replaced(tmp_path):
    path = tmp_path / "figure.svg"
    write_whole(path, b"old")
    os.chmod(path, 0o640)
    write_whole(path, b"new")
    assert path.read_bytes() == b"new"
    assert stat.S_IMODE(path.stat().st_mode) == 0o640
    assert os.listdir(tmp_path) == ["figure.svg"]


def test_a_full_disk_leaves_the_old_file_and_nothing_else(tmp_path):
    """A process that may write no more than 1,000 bytes to a file meets the same as one on a full disk."""
    path = tmp_path / "figure.png"
    path.write_bytes(b"old")
    code = (
        "import resource, signal, sys\n"
        "from rhabdos.project.files import StorageError, write_whole\n"
        "signal.signal(signal.SIGXFSZ, signal.SIG_IGN)\n"
        "resource.setrlimit(resource.RLIMIT_FSIZE, (1000, 1000))\n"
        "try:\n    write_whole(sys.argv[1], b'x' * 5000)\n"
        "except StorageError as error:\n    print(error)\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, str(path)], capture_output=True, text=True, check=True
    )
    assert "no room for figure.png" in done.stdout
    assert path.read_bytes() == b"old"
    assert os.listdir(tmp_path) == ["figure.png"]


@pytest.mark.parametrize(
    ("number", "sentence"),
    [
        (errno.ENOSPC, "no room"),
        (errno.EACCES, "may not be written"),
        (errno.EROFS, "may not be written"),
        (errno.EIO, "could not be written"),
    ],
)
def test_every_failure_has_its_sentence(tmp_path, monkeypatch, number, sentence):
    def fail(*_args):
        raise OSError(number, os.strerror(number))

    monkeypatch.setattr(os, "fsync", fail)
    with pytest.raises(StorageError, match=sentence):
        write_whole(tmp_path / "a.svg", b"x")
    assert os.listdir(tmp_path) == []


def test_a_run_that_is_killed_leaves_the_old_file_and_nothing_else(tmp_path):
    """Killed at every system call from the opening of the new file to its naming, one after the other."""
    path = tmp_path / "figure.png"
    path.write_bytes(b"old")
    code = (
        "import os, signal, sys\n"
        "from rhabdos.project import files\n"
        "def dying(name, real):\n"
        "    def call(*args, **more):\n"
        "        done = real(*args, **more) if sys.argv[3] == 'after' else None\n"
        "        os.kill(os.getpid(), signal.SIGKILL)\n"
        "    setattr(os, name, call)\n"
        "dying(sys.argv[2], getattr(os, sys.argv[2]))\n"
        "files.write_whole(sys.argv[1], b'new')\n"
    )
    for call in ("fdopen", "fsync", "fchmod", "link", "replace"):
        for when in ("before", "after"):
            subprocess.run([sys.executable, "-c", code, str(path), call, when], check=False)
            left = {name for name in os.listdir(tmp_path) if name != "figure.png"}
            assert all(
                re.fullmatch(r"\.figure\.png\.[0-9a-f]{16}\.rhabdos-new", name) for name in left
            )
            assert bool(left) == ((call, when) in (("link", "after"), ("replace", "before")))
            for name in left:
                os.utime(tmp_path / name, (0, 0))
                (tmp_path / ".figure.png.part").write_bytes(b"a stranger's")
                write_whole(path, b"old")  # the next run clears what the last one left
                assert sorted(os.listdir(tmp_path)) == [".figure.png.part", "figure.png"]
                (tmp_path / ".figure.png.part").unlink()
            assert path.read_bytes() == (b"new" if (call, when) == ("replace", "after") else b"old")


def test_a_link_keeps_leading_to_the_file_that_is_written(tmp_path):
    (tmp_path / "there.svg").write_bytes(b"old")
    (tmp_path / "link.svg").symlink_to("there.svg")
    write_whole(tmp_path / "link.svg", b"new")
    assert (tmp_path / "there.svg").read_bytes() == b"new"
    assert (tmp_path / "link.svg").is_symlink()


def test_what_is_no_file_is_neither_written_nor_waited_for(tmp_path):
    os.mkfifo(tmp_path / "pipe")
    (tmp_path / "loop").symlink_to("loop")
    for path, words in (
        (tmp_path / "pipe", "a device or a pipe"),
        (Path("/dev/full"), "a device or a pipe"),
        (tmp_path / "loop", "too many levels"),
        (tmp_path / ("x" * 300), "file name too long"),
    ):
        with pytest.raises(StorageError, match=words):
            write_whole(path, b"x")
    for path, words in (
        (tmp_path / "pipe", "nothing writes to"),
        (Path("/dev/zero"), "is a device"),
        (tmp_path / "loop", "too many levels"),
        (tmp_path, "is a folder"),
    ):
        with pytest.raises(StorageError, match=words):
            read_text(path)
    (tmp_path / "long.toml").write_bytes(b"#" * (4 << 20) + b"\n")
    with pytest.raises(StorageError, match="larger than a recipe"):
        read_text(tmp_path / "long.toml")


def test_a_folder_that_is_not_there_and_a_name_that_is_a_folder(tmp_path):
    with pytest.raises(StorageError, match="no folder"):
        write_whole(tmp_path / "nowhere" / "a.svg", b"x")
    with pytest.raises(StorageError, match="is a folder"):
        write_whole(tmp_path, b"x")


def test_a_file_that_may_not_be_overwritten_is_not(tmp_path, monkeypatch):
    path = tmp_path / "kept.svg"
    path.write_bytes(b"old")
    monkeypatch.setattr(os, "access", lambda p, mode: mode != os.W_OK)
    with pytest.raises(StorageError, match="may not be written"):
        write_whole(path, b"new")
    assert path.read_bytes() == b"old"


def test_reading_a_text(tmp_path):
    path = tmp_path / "r.toml"
    path.write_bytes(b"\xff\xfe")
    with pytest.raises(StorageError, match="UTF-8"):
        read_text(path)
    with pytest.raises(StorageError, match="could not be read"):
        read_text(tmp_path / "gone.toml")


def recipe(name: str) -> Recipe:
    return Recipe(show=Show(variables=(name,)))


def test_undo_and_redo_go_back_and_forth_by_name():
    start = Document.of(Source(Path("a.csv")), recipe("a"))
    history = (
        History(start)
        .did("Show b", start.with_recipe(recipe("b")))
        .did("Show c", start.with_recipe(recipe("c")))
    )
    assert history.undo_name == "Show c"
    back = history.undone()
    assert (back.present.recipe, back.undo_name, back.redo_name) == (
        recipe("b"),
        "Show b",
        "Show c",
    )
    assert back.redone().present == history.present
    assert back.undone().undone().present == start


def test_a_step_after_undoing_forgets_what_was_undone():
    history = (
        History(Document())
        .did("a", Document.of(None, recipe("a")))
        .undone()
        .did("b", Document.of(None, recipe("b")))
    )
    assert history.redo_name is None
    assert history.redone() is history


def test_a_step_that_changes_nothing_is_none():
    history = History(Document.of(None, recipe("a")))
    assert history.did("again", Document.of(None, recipe("a"))) is history


def test_a_file_is_written_where_processes_are_not_listed(tmp_path, monkeypatch):
    """As in a bare root, where /proc is not there to name a file by."""
    from rhabdos.project import files

    monkeypatch.setattr(files, "_HANDLES", str(tmp_path / "none"))
    path = tmp_path / "a.txt"
    for content in (b"one", b"two"):
        files.write_whole(path, content)
        assert path.read_bytes() == content
    assert [each.name for each in tmp_path.iterdir()] == ["a.txt"]
