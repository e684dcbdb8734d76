"""Looks that are saved by name, and the one that new figures have."""

import re
from pathlib import Path

from rhabdos.desktop import settings_folder
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.dress import Dress
from rhabdos.figure.recipe.toml_text import read_dress, write_dress
from rhabdos.log import record
from rhabdos.project.files import StorageError, read_text, write_whole
from rhabdos.quoting import quoted

_NAME = re.compile(r"[^/\x00-\x1f\x7f.][^/\x00-\x1f\x7f]{0,79}")
_ENDING = ".look.toml"
_FOR_NEW = "new figures.txt"


def looks_folder() -> Path:
    """Where looks are kept: in the desktop's folder for what a user has set."""
    return settings_folder() / "looks"


def look_names() -> list[str]:
    """The names of all that are saved, in order."""
    try:
        files = list(looks_folder().glob(f"*{_ENDING}"))
    except OSError as error:
        record(error)
        return []
    return sorted((file.name.removesuffix(_ENDING) for file in files), key=str.casefold)


def save_look(name: str, dress: Dress) -> Path:
    """Keep a look by a name; one of the same name gives way.

    Raises
    ------
    Refusal
        The name is none that a file can have, or the folder cannot be written to.
    """
    tidy = name.strip()
    if not _NAME.fullmatch(tidy):
        raise Refusal(
            f"{quoted(name)} is no name for a look. Choose one of at most 80 letters, without / "
            "and without a point at its beginning."
        )
    path = looks_folder() / f"{tidy}{_ENDING}"
    _write(path, dress)
    return path


def saved_look(name: str) -> Dress:
    """A look that was saved by a name.

    Raises
    ------
    Refusal
        There is none, or its file is damaged.
    """
    path = looks_folder() / f"{name}{_ENDING}"
    return read_dress(read_text(path), str(path))


def forget_look(name: str) -> None:
    """Take a saved look away.

    Raises
    ------
    Refusal
        Its file cannot be taken away.
    """
    _take_away(looks_folder() / f"{name}{_ENDING}")


def use_for_new(dress: Dress | None) -> None:
    """Let new figures have a look; None for the usual one."""
    path = looks_folder() / _FOR_NEW
    if dress is None:
        _take_away(path)
        return
    _write(path, dress)


def for_new() -> Dress:
    """The look of new figures; the usual one where none is set, or its file is damaged."""
    path = looks_folder() / _FOR_NEW
    if not path.exists():
        return Dress()
    try:
        return read_dress(read_text(path), str(path))
    except Refusal as refusal:
        record(refusal)
        return Dress()


def _write(path: Path, dress: Dress) -> None:
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise StorageError(f"The folder for looks cannot be made: {error.strerror}.") from error
    write_whole(path, write_dress(dress).encode())


def _take_away(path: Path) -> None:
    try:
        path.unlink(missing_ok=True)
    except OSError as error:
        raise StorageError(f"{path.name} cannot be taken away: {error.strerror}.") from error
