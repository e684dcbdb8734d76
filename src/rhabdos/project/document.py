"""The document: where the data come from, how they are prepared and what is drawn of them."""

from typing import TYPE_CHECKING, Self

from msgspec import Struct, structs

from rhabdos.data.steps.step import Step
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
    """Everything that undo goes back to, as one immutable value.

    Attributes
    ----------
    sources : tuple of Source
        What was opened; the first one is drawn.
    steps : tuple of Step
        How its table is prepared, in order.
    figures : tuple of Recipe
        What is drawn of it; ``shown`` is the place of the one in sight.
    """

    sources: tuple[Source, ...] = ()
    steps: tuple[Step, ...] = ()
    figures: tuple[Recipe, ...] = ()
    shown: int = 0

    @classmethod
    def of(cls, source: Source | None, recipe: Recipe | None = None) -> Self:
        """One source with one figure; either may still be missing."""
        sources = (source,) if source is not None else ()
        return cls(sources, (), (recipe,) if recipe is not None else ())

    @property
    def source(self) -> Source | None:
        """What is drawn, if anything is open."""
        return self.sources[0] if self.sources else None

    @property
    def recipe(self) -> Recipe | None:
        """The figure in sight, if there is one."""
        return self.figures[self.shown] if self.figures else None

    def with_recipe(self, recipe: Recipe | None) -> Self:
        """The same data with another recipe for the figure in sight, or without it."""
        new = (recipe,) if recipe is not None else ()
        figures = (*self.figures[: self.shown], *new, *self.figures[self.shown + 1 :])
        return structs.replace(
            self, figures=figures, shown=min(self.shown, max(0, len(figures) - 1))
        )

    def with_step(self, step: Step) -> Self:
        """The same figures of data that are prepared by one step more."""
        return structs.replace(self, steps=(*self.steps, step))
