"""How the window stood when it was closed: its place and size, its columns, the last folders."""

import msgspec

from rhabdos.project.folders import Folders
from rhabdos.project.state_file import kept_in, recalled

FILE = "window.json"
_LONGEST = 1 << 16  # bytes that are read of the file


class WindowState(msgspec.Struct, frozen=True, omit_defaults=True):
    """Place and size, and the widths of the columns where they were moved by hand, as Qt saves
    them, in base 64; and the folders of the last files."""

    geometry: str = ""
    columns: str = ""
    folders: Folders = Folders()


def window_state() -> WindowState:
    """How the window stood; as usual where that is not known."""
    return recalled(FILE, WindowState(), _LONGEST)


def keep_window_state(state: WindowState) -> None:
    """Remember it."""
    kept_in(FILE, state)
