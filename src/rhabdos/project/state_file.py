"""Small files in the desktop's folder for what a program remembers."""

from pathlib import Path
from typing import TypeVar

import msgspec

from rhabdos.errors import Refusal

_Value = TypeVar("_Value", bound=msgspec.Struct)


def state_file(name: str) -> Path:
    """Where a file of that name is kept."""
    import platformdirs

    return Path(platformdirs.user_state_dir("rhabdos")) / name


def recalled(name: str, usual: _Value, most: int) -> _Value:
    """What a file holds; as usual where there is none, or it cannot be read, which the log says.

    Parameters
    ----------
    most : int
        Bytes of it that are read.
    """
    try:
        with state_file(name).open("rb") as file:
            return msgspec.json.decode(file.read(most), type=type(usual))
    except FileNotFoundError:
        return usual
    except (OSError, msgspec.DecodeError) as error:
        _record(error)
        return usual


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
