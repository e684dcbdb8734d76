"""What is laid where the desktop and shells look."""

import os
import shutil
import subprocess
from pathlib import Path

import pytest
from PyQt6.QtGui import QImage
from tools.share import SHARE, SIZES, made

from rhabdos import APPLICATION, RELEASED, __version__
from rhabdos.cli import main
from rhabdos.parsers import COMMANDS
from tests.desktop.needing import need

pytestmark = pytest.mark.usefixtures("qapp")
ENTRY = SHARE / "applications" / f"{APPLICATION}.desktop"


def test_what_is_made_of_the_parser_and_the_icon_is_up_to_date():
    """Otherwise: python tools/share.py."""
    for path, content in made().items():
        there = (SHARE / path).read_bytes()
        if path.endswith(".png"):
            assert QImage.fromData(there) == QImage.fromData(content), path
        else:
            assert there == content, path


def test_icons_are_of_their_sizes_and_not_empty():
    for size in SIZES:
        image = QImage(str(SHARE / f"icons/hicolor/{size}x{size}/apps/{APPLICATION}.png"))
        assert (image.width(), image.height()) == (size, size)
        colours = {image.pixel(x, y) for x in range(size) for y in range(size)}
        assert len(colours) >= 4


@pytest.mark.parametrize(
    "command",
    [
        ["desktop-file-validate", str(ENTRY)],
        ["appstreamcli", "validate", "--no-net",
         str(SHARE / "metainfo" / f"{APPLICATION}.metainfo.xml")],
        ["bash", "-n", str(SHARE / "bash-completion/completions/rhabdos")],
        ["zsh", "-n", str(SHARE / "zsh/site-functions/_rhabdos")],
        ["fish", "-n", str(SHARE / "fish/vendor_completions.d/rhabdos.fish")],
    ],
    ids=lambda command: command[0],
)  # fmt: skip
def test_standards_are_kept(command):
    need(command[0])
    run = subprocess.run(command, capture_output=True, text=True, timeout=60)
    assert run.returncode == 0, run.stdout + run.stderr
    assert "error" not in run.stdout.casefold().replace("errors: 0", "")


def test_the_page_of_the_manual_reads_without_a_warning_and_names_everything():
    need("man")
    page = str(SHARE / "man/man1/rhabdos.1")
    run = subprocess.run(
        ["man", "--warnings", "-E", "UTF-8", "-l", "-Tutf8", "-Z", page],
        capture_output=True, text=True, timeout=60, env={**os.environ, "MANWIDTH": "80", "LC_ALL": "C.UTF-8"},
    )  # fmt: skip
    assert run.returncode == 0
    assert run.stderr == ""
    text = Path(page).read_text()
    for word in (*COMMANDS, "new\\-window", "integrate", "one\\-page", "EXIT STATUS"):
        assert word in text


def test_bash_completes_commands_options_and_files(tmp_path):
    need("bash")
    (tmp_path / "landings.csv").write_text("a\n1\n")
    script = SHARE / "bash-completion/completions/rhabdos"

    def completed(*words: str) -> set[str]:
        line = " ".join(f"'{word}'" for word in words)
        asked = (
            f"source {script}; COMP_WORDS=({line}); COMP_CWORD={len(words) - 1}; "
            "_shtab_rhabdos; echo ${COMPREPLY[@]}"
        )
        run = subprocess.run(
            ["bash", "-c", asked], capture_output=True, text=True, cwd=tmp_path, timeout=30
        )
        return set(run.stdout.split())

    assert completed("rhabdos", "dr") == {"draw"}
    assert "--new-window" in completed("rhabdos", "--n")
    assert "--scales" in completed("rhabdos", "draw", "--s")
    assert completed("rhabdos", "variables", "land") == {"landings.csv"}


def test_kinds_of_files_are_told_by_name_and_by_what_they_hold(tmp_path):
    need("update-mime-database", "gio")
    home = tmp_path / "share"
    shutil.copytree(SHARE / "mime", home / "mime")
    subprocess.run(["update-mime-database", str(home / "mime")], check=True, capture_output=True)
    work = "rhabdos-work = 1\n"
    files = {
        "landings.rhabdos": (work, "application/x-rhabdos-work"),
        "no-ending": (work, "application/x-rhabdos-work"),
        "bays.rhabdos.toml": ("rhabdos = 1\n", "application/x-rhabdos-recipe"),
        "bays": ("rhabdos = 1\n[show]\n", "application/x-rhabdos-recipe"),
        "other.toml": ("title = 'of another program'\n", "application/toml"),
    }
    env = {**os.environ, "XDG_DATA_HOME": str(home)}
    for name, (content, kind) in files.items():
        path = tmp_path / name
        path.write_text(content)
        run = subprocess.run(
            ["gio", "info", "-a", "standard::content-type", str(path)],
            capture_output=True, text=True, env=env, timeout=30,
        )  # fmt: skip
        assert kind in run.stdout, (name, run.stdout)


def test_integrating_lays_everything_out_and_takes_it_out_again(tmp_path, monkeypatch, capsys):
    home, odd = tmp_path / "data", tmp_path / 'a "$b\\ `c`'
    odd.mkdir()
    program = odd / "rhabdos"
    program.write_text('#!/bin/sh\nprintf \'%s\\n\' "$@" > "$(dirname "$0")/asked"\n')
    program.chmod(0o755)
    monkeypatch.setenv("XDG_DATA_HOME", str(home))
    monkeypatch.setattr("sys.argv", [str(program)])
    (home / "applications").mkdir(parents=True)
    other = home / "applications" / "other.desktop"
    other.write_text("[Desktop Entry]\nType=Application\nName=Other\nExec=other\n")
    assert main(["--integrate"]) == 0
    assert f"files in {home}" in capsys.readouterr().out
    for path in (path for path in SHARE.rglob("*") if path.is_file()):
        assert (home / path.relative_to(SHARE)).exists()
    entry = home / "applications" / ENTRY.name
    need("desktop-file-validate", "gio")
    subprocess.run(["desktop-file-validate", str(entry)], check=True, timeout=30)
    launched = subprocess.run(
        ["gio", "launch", str(entry), str(program)], capture_output=True, text=True, timeout=30
    )
    assert launched.returncode == 0, launched.stderr
    asked = odd / "asked"
    for _ in range(100):
        if asked.exists() and asked.read_text():
            break
        subprocess.run(["sleep", "0.05"], check=True)
    assert asked.read_text().strip() == str(program)
    assert main(["--integrate", "remove"]) == 0
    assert not entry.exists()
    assert not (home / "man/man1/rhabdos.1").exists()
    assert other.exists()


def test_integrating_refuses_a_home_that_cannot_be_written(tmp_path, monkeypatch, capsys):
    blocked = tmp_path / "file"
    blocked.write_text("")
    monkeypatch.setenv("XDG_DATA_HOME", str(blocked))
    assert main(["--integrate"]) == 2
    assert "cannot be changed" in capsys.readouterr().err
    assert main(["--integrate", "remove", "x.csv"]) == 2


def test_one_version_and_one_day_stand_everywhere():
    news = (SHARE / "metainfo" / f"{APPLICATION}.metainfo.xml").read_text()
    assert f'<release version="{__version__}" date="{RELEASED}">' in news
    changes = (SHARE.parents[2] / "CHANGELOG.md").read_text()
    assert f"\n## {__version__}, {RELEASED}\n" in changes
