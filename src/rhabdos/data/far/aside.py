"""Folders for what is put aside on disk for a while."""

import shutil
import tempfile
import weakref
from pathlib import Path


class Aside:
    """A folder that goes with whoever holds this, or when the program ends."""

    def __init__(self) -> None:
        self.path = Path(tempfile.mkdtemp(prefix="rhabdos-"))
        # Also where the program ends without closing the table.
        self._gone = weakref.finalize(self, shutil.rmtree, self.path, ignore_errors=True)

    def clear(self) -> None:
        """Take the folder away now."""
        self._gone()
