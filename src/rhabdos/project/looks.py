"""Looks that are saved by name, and the one that new figures have."""

import re
from pathlib import Path

from rhabdos.errors import Refusal
from rhabdos.figure.recipe_look import Look
from rhabdos.figure.recipe_text import read_look, write_look
from rhabdos.log import record
from rhabdos.project.files import StorageError, read_text, write_whole
from rhabdos.quoting import quoted

_NAME = re.compile(r"[^/\x00-\x1f\x7f.][^/\x00-\x1f\x7f]{0,79}")
_ENDING = ".look.toml"
_FOR_NEW = "new figures.txt"


def looks_folder() -> Path:
    """Where looks are kept: in the desktop's folder for what a user has set."""
    import platformdirs

    return Path(platformdirs.user_config_dir("rhabdos")) / "looks"


def look_names() -> list[str]:
    """The names of all that are saved, in order."""
    try:
        files = list(looks_folder().glob(f"*{_ENDING}"))
    except OSError as error:
        record(error)
        return []
    return sorted((file.name.removesuffix(_ENDING) for file in files), key=str.casefold)


def save_look(name: str, look: Look) -> Path:
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
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise StorageError(f"The folder for looks cannot be made: {error.strerror}.") from error
    write_whole(path, write_look(look).encode())
    return path


def saved_look(name: str) -> Look:
    """A look that was saved by a name.

    Raises
    ------
    Refusal
        There is none, or its file is damaged.
    """
    path = looks_folder() / f"{name}{_ENDING}"
    return read_look(read_text(path), str(path))


def forget_look(name: str) -> None:
    """Take a saved look away."""
    (looks_folder() / f"{name}{_ENDING}").unlink(missing_ok=True)


def use_for_new(look: Look | None) -> None:
    """Let new figures have a look; None for the usual one."""
    path = looks_folder() / _FOR_NEW
    if look is None:
        path.unlink(missing_ok=True)
        return
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise StorageError(f"The folder for looks cannot be made: {error.strerror}.") from error
    write_whole(path, write_look(look).encode())


def for_new() -> Look:
    """The look of new figures; the usual one where none is set, or its file is damaged."""
    path = looks_folder() / _FOR_NEW
    if not path.exists():
        return Look()
    try:
        return read_look(read_text(path), str(path))
    except Refusal as refusal:
        record(refusal)
        return Look()
