"""A file that a second start was given goes to a window that is open already, if one takes it.

Each window listens at a socket in the folder of the session ($XDG_RUNTIME_DIR, which only its user
can read). A message is one line of JSON, the answer is "taken" or nothing.
"""

import os
import socket
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

from msgspec import DecodeError, Struct, ValidationError, json

MOST = 1 << 16  # bytes of a message
TAKEN = b"taken\n"
_PATIENCE = 2.0  # seconds that a window has to answer; one that works does so at once


class Asked(Struct, frozen=True):
    """What a window is asked to open.

    Attributes
    ----------
    open : str
        A file with its whole path, or an address.
    token : str
        What lets a window come to the front on Wayland (XDG activation).
    """

    open: str
    token: str = ""


def folder() -> Path | None:
    """Where windows listen; None where there is no such folder."""
    of_session = os.environ.get("XDG_RUNTIME_DIR", "")
    return Path(of_session) / "rhabdos" if os.path.isabs(of_session) else None


def handed_over(file: str) -> bool:
    """Whether a window that is open has taken a file or an address."""
    whole = file if not os.path.lexists(file) else os.path.abspath(file)
    token = os.environ.get("XDG_ACTIVATION_TOKEN", "")
    message = json.encode(Asked(whole, token)) + b"\n"
    return any(_taken(path, message) for path in _windows())


def _windows() -> Iterator[Path]:
    there = folder()
    if there is not None:
        with suppress(OSError):
            yield from sorted(path for path in there.iterdir() if path.suffix == ".window")


def _taken(path: Path, message: bytes) -> bool:
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as line:
        line.settimeout(_PATIENCE)
        try:
            line.connect(str(path))
            line.sendall(message)
            return line.recv(len(TAKEN)) == TAKEN
        except ConnectionRefusedError:  # its window ended without a farewell
            with suppress(OSError):
                path.unlink()
        except OSError:  # it is busy, or its path is longer than a socket's may be
            pass
    return False


def read_message(line: bytes) -> Asked | None:
    """What a message asks; None where it is none."""
    try:
        return json.decode(line, type=Asked)
    except (DecodeError, ValidationError):
        return None
