"""What was last chosen for an export; remembered from one start to the next."""

from typing import Literal

import msgspec

Lettering = Literal["text", "embedded", "outlines"]
"""How an SVG holds words: as text; as text with the font in the file; or as outlines."""


class ExportChoice(msgspec.Struct, frozen=True, omit_defaults=True):
    """What is chosen in the export dialog, but for the file's name.

    Attributes
    ----------
    formats : tuple of str
        The first one is that of the name.
    size : str
        As a recipe has it.
    also : tuple of str
        Names of common sizes, of which files are written beside.
    """

    formats: tuple[str, ...] = ("png",)
    size: str = ""
    also: tuple[str, ...] = ()
    dpi: int = 300
    transparent: bool = False
    letters: Lettering = "text"
    with_recipe: bool = True
    folder: str = ""
