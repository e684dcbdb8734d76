"""Small files in the desktop's folder for what a program remembers."""

import errno
import fcntl
import os
import stat
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TypeVar

import msgspec

from rhabdos.desktop import state_folder
from rhabdos.errors import Refusal

_TRIES, _PAUSE = 50, 0.01  # so long somebody else may take to write a small file
_Value = TypeVar("_Value", bound=msgspec.Struct)


def state_file(name: str) -> Path:
    """Where a file of that name is kept."""
    return state_folder() / name


def recalled(name: str, usual: _Value, most: int) -> _Value:
    """What a file holds; as usual where there is none, or it cannot be read, which the log says.

    Parameters
    ----------
    most : int
        Bytes of it that are read.
    """
    try:
        return msgspec.json.decode(content_of(state_file(name), most), type=type(usual))
    except FileNotFoundError:
        return usual
    except (OSError, ValueError, RecursionError) as error:  # no JSON, or no text
        _record(error)
        return usual


def content_of(path: Path, most: int) -> bytes:
    """The first bytes of a file that a program remembers something in.

    Raises
    ------
    OSError
        It cannot be read, or is a pipe, a folder or a device.
    """
    handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    with os.fdopen(handle, "rb") as file:
        if not stat.S_ISREG(os.fstat(handle).st_mode):
            raise OSError(errno.EINVAL, "It is no file", str(path))
        return file.read(most)


@contextmanager
def alone(name: str) -> Iterator[None]:
    """While nobody else who asks for the same changes what a file remembers; where it cannot be
    made sure, at once."""
    path = state_file(f"{name}.lock")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC | os.O_NONBLOCK, 0o600)
    except OSError as error:
        _record(error)
        yield
        return
    try:
        for _ in range(_TRIES):
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                break
            except OSError:
                time.sleep(_PAUSE)
        yield
    finally:
        os.close(handle)


def kept_in(name: str, value: msgspec.Struct) -> None:
    """Keep a value; where that cannot be done, the log says so, and nothing else is lost."""
    from rhabdos.project.files import write_whole

    path = state_file(name)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(path, msgspec.json.encode(value))
    except (OSError, Refusal) as error:
        _record(error)


def _record(error: Exception) -> None:
    from rhabdos.log import record  # which a start without a fault does not need

    record(error)
