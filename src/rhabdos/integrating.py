"""Puts the program where the desktop looks for those of one user: its menu entry, icon, kinds of
files, page of the manual and completions; and takes all of it out again.

``share/`` holds them as they lie under a data folder (XDG Base Directory Specification).
"""

import os
import re
import shutil
import subprocess
import sys
from collections.abc import Iterator
from importlib.resources import as_file, files
from pathlib import Path

from xdg_base_dirs import xdg_data_home

from rhabdos import APPLICATION
from rhabdos.errors import Refusal
from rhabdos.output import write

_ENTRY = f"applications/{APPLICATION}.desktop"
_TOLD = {
    "applications": ("update-desktop-database", "-q"),
    "mime": ("update-mime-database",),
    "icons/hicolor": ("gtk-update-icon-cache", "-q", "-t", "-f"),
}
"""Who is told that something in a folder has changed, where that program is there."""
_SECONDS = 60  # that another program may take before it is given up


def integrate(remove: bool = False) -> int:
    """Put everything in its place, or take it out; tells where.

    Raises
    ------
    Refusal
        The folder cannot be written.
    """
    try:
        home = xdg_data_home()
    except RuntimeError:
        raise Refusal("There is no home to put it into. Set HOME or XDG_DATA_HOME.") from None
    try:
        with as_file(files("rhabdos") / "share") as share:
            done = _taken_out(share, home) if remove else _put(share, home)
    except OSError as error:
        where, why = error.filename or home, (error.strerror or str(error)).lower()
        raise Refusal(f"{where} cannot be changed: {why}.") from None
    for folder, program in _TOLD.items():
        _tell(program, home / folder)
    if remove:
        write(f"Rhabdos is out of the menu: {done} files were taken out of {home}.")
        return 0
    write(
        f"Rhabdos is in the menu now, with its icon, its kinds of files, its page of the manual "
        f"and completions: {done} files in {home}.\nFor zsh, {home / 'zsh/site-functions'} must be "
        "in fpath. rhabdos --integrate remove takes all of it out again."
    )
    return 0


def _each(share: Path) -> Iterator[Path]:
    """All files, by their path under share."""
    for path in sorted(share.rglob("*")):
        if path.is_file():
            yield path.relative_to(share)


def _put(share: Path, home: Path) -> int:
    count = 0
    for path in _each(share):
        to = home / path
        to.parent.mkdir(parents=True, exist_ok=True)
        if str(path) == _ENTRY:
            to.write_text(_entry((share / path).read_text(encoding="utf-8")), encoding="utf-8")
        else:
            shutil.copyfile(share / path, to)
        count += 1
    return count


def _taken_out(share: Path, home: Path) -> int:
    count = 0
    for path in _each(share):
        if (home / path).exists():
            (home / path).unlink()
            count += 1
    return count


def _entry(text: str) -> str:
    """The entry of the menu, which names the program by its whole path: the desktop's PATH may be
    another one."""
    whole = _program()
    if whole is None:
        return text
    lines = []
    for line in text.splitlines():
        key, _, rest = line.partition("=")
        if key == "Exec":
            line = f"Exec={_in_an_exec(whole)}{rest.removeprefix('rhabdos')}"
        elif key == "TryExec":
            line = "TryExec=" + whole.replace("\\", "\\\\")
        lines.append(line)
    return "\n".join(lines) + "\n"


def _program() -> str | None:
    """The whole path of the program that was started."""
    started = os.path.abspath(sys.argv[0]) if os.sep in sys.argv[0] else None
    if started and os.path.basename(started) == "rhabdos" and os.access(started, os.X_OK):
        return started
    beside = Path(sys.executable).with_name("rhabdos")
    return str(beside) if beside.exists() else shutil.which("rhabdos")


def _in_an_exec(path: str) -> str:
    """A path as it stands in the Exec key of an entry (Desktop Entry Specification)."""
    if re.fullmatch(r"[\w/.+-]+", path):
        return path
    escaped = path.replace("\\", "\\\\\\\\").replace("%", "%%")
    for letter in '"`$':
        escaped = escaped.replace(letter, f"\\\\{letter}")
    return f'"{escaped}"'


def _tell(program: tuple[str, ...], folder: Path) -> None:
    if shutil.which(program[0]) and folder.is_dir():
        subprocess.run(
            [*program, str(folder)],
            check=False,
            timeout=_SECONDS,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
