"""The document: where the data come from and what is drawn of them, as one immutable value."""

from typing import TYPE_CHECKING, Self

from msgspec import Struct, structs

from rhabdos.figure.recipe import Recipe

if TYPE_CHECKING:
    from pathlib import Path


class Source(Struct, frozen=True):
    """A data file as it was when it was opened, or the demo data where there is no path.

    ``revision`` tells one opening of a file from another, since the file may have changed.
    """

    path: "Path | None" = None
    revision: int = 0


class Document(Struct, frozen=True):
    """A source and the recipe of its figure; either may still be missing."""

    source: Source | None = None
    recipe: Recipe | None = None

    def with_recipe(self, recipe: Recipe | None) -> Self:
        """The same source drawn after another recipe."""
        return structs.replace(self, recipe=recipe)
