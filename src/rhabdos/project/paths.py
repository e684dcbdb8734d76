"""Names of files as recipes hold them: beside the recipe where they lie there, else whole."""

import os
from pathlib import Path


def seen_from(folder: Path, file: str) -> str:
    """How a recipe in a folder names a file: by its path from there, if it lies within."""
    try:
        return str(Path(file).relative_to(folder))
    except ValueError:
        return file


def beside(folder: Path, file: str) -> str:
    """The whole path of a file that a recipe in a folder names, if it lies there."""
    whole = os.path.join(os.path.realpath(folder), file)
    return whole if os.path.exists(whole) else file
