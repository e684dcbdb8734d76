"""The folders that files were last opened in and written to, by what they are."""

import os
from pathlib import Path
from typing import Literal, Self

import msgspec

Kept = Literal["data", "recipe", "figure", "table"]


class Folders(msgspec.Struct, frozen=True, omit_defaults=True):
    """The last folder for each kind of file, and the last of all."""

    data: str = ""
    recipe: str = ""
    figure: str = ""
    table: str = ""
    latest: str = ""

    def of(self, kind: Kept) -> Path:
        """Where to begin looking for a file: where such a one was last, or any; else at home.

        A folder that has gone is passed over.
        """
        for folder in (getattr(self, kind), self.latest):
            if folder and os.path.isdir(folder):
                return Path(folder)
        return Path.home()

    def after(self, kind: Kept, file: Path) -> Self:
        """The same after a file was opened or written."""
        folder = str(file.parent.absolute())
        return msgspec.structs.replace(self, **{kind: folder, "latest": folder})
