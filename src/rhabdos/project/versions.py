"""The last versions of each work that was saved, in the desktop's folder for what a program
remembers; without the data."""

import datetime
import hashlib
import os
from contextlib import suppress
from pathlib import Path

from msgspec import Struct

from rhabdos.errors import Refusal
from rhabdos.project.files import write_whole
from rhabdos.project.state_file import content_of, state_file
from rhabdos.project.work_file import LONGEST_WORK, WorkFile, read_work_file, write_work_file

MOST_KEPT = 20
"""Versions of one work."""
_FOLDER = "versions"
_ENDING = ".toml"


class Version(Struct, frozen=True):
    """A work as it was saved at some time."""

    path: Path

    @property
    def saved(self) -> datetime.datetime:
        """When it was saved, in local time."""
        return datetime.datetime.fromtimestamp(int(self.path.stem) / 1e9)

    def read(self) -> WorkFile:
        """What it holds.

        Raises
        ------
        OSError, Refusal
            It cannot be read.
        """
        return read_work_file(content_of(self.path, LONGEST_WORK).decode(), "The version")


def keep_version(path: Path, work: WorkFile, time_ns: int) -> None:
    """Keep a work as a version of the file that it was saved as, and let go of the oldest ones; a
    version like the last one is not kept twice. What fails is told to the log."""
    content = write_work_file(work).encode()
    folder = _folder_of(path)
    try:
        known = versions(path)
        if known and content_of(known[0].path, LONGEST_WORK) == content:
            return
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        write_whole(folder / f"{time_ns}{_ENDING}", content, lasting=False)
        for old in versions(path)[MOST_KEPT:]:
            with suppress(OSError):
                old.path.unlink()
    except (OSError, Refusal) as error:
        from rhabdos.log import record

        record(error)


def versions(path: Path) -> list[Version]:
    """The versions of a work's file, the last one first."""
    try:
        names = [file for file in _folder_of(path).iterdir() if file.suffix == _ENDING]
    except OSError:
        return []
    return [Version(file) for file in sorted(names, reverse=True) if file.stem.isdecimal()]


def _folder_of(path: Path) -> Path:
    whole = os.fsencode(os.path.realpath(path))
    return state_file(_FOLDER) / hashlib.sha256(whole).hexdigest()[:32]
