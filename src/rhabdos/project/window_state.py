"""How the window stood when it was closed: its place and size, its columns, and the last folder."""

from pathlib import Path

import msgspec

from rhabdos.errors import Refusal

_LONGEST = 1 << 16


class WindowState(msgspec.Struct, frozen=True, omit_defaults=True):
    """Place and size, and the widths of the columns where they were moved by hand, as Qt saves
    them, in base 64; and the folder of the last file."""

    geometry: str = ""
    columns: str = ""
    folder: str = ""


def state_file() -> Path:
    """Where it is kept."""
    import platformdirs

    return Path(platformdirs.user_state_dir("rhabdos")) / "window.json"


def window_state() -> WindowState:
    """How the window stood; as usual where that is not known, or cannot be read."""
    try:
        with state_file().open("rb") as file:
            return msgspec.json.decode(file.read(_LONGEST), type=WindowState)
    except FileNotFoundError:
        return WindowState()
    except (OSError, msgspec.DecodeError) as error:
        _record(error)
        return WindowState()


def keep_window_state(state: WindowState) -> None:
    """Keep it; where that cannot be done, the log says so, and nothing else is lost."""
    from rhabdos.project.files import write_whole

    path = state_file()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(path, msgspec.json.encode(state))
    except (OSError, Refusal) as error:
        _record(error)


def _record(error: Exception) -> None:
    from rhabdos.log import record  # which a start without a fault does not need

    record(error)
