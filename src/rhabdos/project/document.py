"""The document: where the data come from, how they are prepared and what is drawn of them."""

from typing import TYPE_CHECKING, Self

from msgspec import Struct, structs

from rhabdos.data.steps.step import Step
from rhabdos.figure.recipe.recipe import Recipe

if TYPE_CHECKING:
    from pathlib import Path

    from rhabdos.figure.recipe.plain_charts import PlainChart


class Source(Struct, frozen=True):
    """A data file as it was when it was opened; without a path the demo data, or what the first
    step makes.

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
    chart : PlainChart or None
        What is looked at in place of the figure, for a moment.
    """

    sources: tuple[Source, ...] = ()
    steps: tuple[Step, ...] = ()
    figures: tuple[Recipe, ...] = ()
    shown: int = 0
    chart: "PlainChart | None" = None

    @classmethod
    def of(
        cls, source: Source | None, recipe: Recipe | None = None, steps: tuple[Step, ...] = ()
    ) -> Self:
        """One source with its steps and one figure; any may still be missing."""
        sources = (source,) if source is not None else ()
        return cls(sources, steps, (recipe,) if recipe is not None else ())

    @property
    def source(self) -> Source | None:
        """What is drawn, if anything is open."""
        return self.sources[0] if self.sources else None

    @property
    def beginning(self) -> Step | None:
        """The step that tells how rows begin, where there is one."""
        first = self.steps[0] if self.steps else None
        return first if first is not None and first.begins else None

    @property
    def recipe(self) -> Recipe | None:
        """The figure in sight, if there is one."""
        return self.figures[self.shown] if self.figures else None

    def with_recipe(self, recipe: Recipe | None) -> Self:
        """The same data with another recipe for the figure in sight, or without it."""
        new = (recipe,) if recipe is not None else ()
        figures = (*self.figures[: self.shown], *new, *self.figures[self.shown + 1 :])
        return structs.replace(
            self, figures=figures, shown=min(self.shown, max(0, len(figures) - 1)), chart=None
        )

    def with_chart(self, chart: "PlainChart | None") -> Self:
        """The same figures, with a chart in their place for a moment."""
        return structs.replace(self, chart=chart)

    def with_steps(self, steps: tuple[Step, ...]) -> Self:
        """The same figures of data that are prepared otherwise."""
        return structs.replace(self, steps=steps)

    def with_step(self, step: Step) -> Self:
        """The same figures of data that are prepared by one step more."""
        return self.with_steps((*self.steps, step))

    def with_source(self, source: Source) -> Self:
        """The same steps and figures of other data, such as a file that was read again."""
        return structs.replace(self, sources=(source, *self.sources[1:]))
