"""Rhabdos: histograms of numeric variables, and how they differ from group to group."""

import os
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from rhabdos.library import Data as Data
    from rhabdos.library import Figure as Figure
    from rhabdos.library import demo as demo
    from rhabdos.library import open as open  # noqa: A004

# numpy's linear algebra would start a thread a core while it is imported; nothing here is large
# enough for them.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "1.0.0"
RELEASED = "2026-11-29"
"""The day of this version."""

APPLICATION = "org.rhabdos.Rhabdos"
"""The program's name for the desktop: of its menu entry, its icon and its windows."""

# Imported when a script first asks for them, so that a start waits for none.
_LIBRARY = ("open", "demo", "Data", "Figure")


def __getattr__(name: str) -> object:
    """What notebooks and scripts use, which no start of the program imports."""
    if name not in _LIBRARY:
        raise AttributeError(f"module 'rhabdos' has no attribute {name!r}")
    from rhabdos import library

    return getattr(library, name)
