"""The desktop's folders for what a program keeps (XDG Base Directory Specification)."""

from collections.abc import Callable
from pathlib import Path

from xdg_base_dirs import xdg_config_home, xdg_data_home, xdg_state_home

_NOWHERE = Path("/nonexistent")  # nothing can be kept there, which whoever tries says


def state_folder() -> Path:
    """For what the program notes for itself: the log, windows, unsaved work."""
    return _ours(xdg_state_home)


def settings_folder() -> Path:
    """For what its user has set: looks."""
    return _ours(xdg_config_home)


def desktop_data_file(name: str) -> Path:
    """A file of the desktop itself among the data of its user."""
    try:
        return xdg_data_home() / name
    except RuntimeError:
        return _NOWHERE / name


def _ours(folder: Callable[[], Path]) -> Path:
    try:
        return folder() / "rhabdos"
    except RuntimeError:  # the user has no home
        return _NOWHERE
