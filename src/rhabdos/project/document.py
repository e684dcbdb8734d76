"""The document: where the data come from, how they are prepared and what is drawn of them."""

from typing import TYPE_CHECKING, Self

from msgspec import Struct, structs

from rhabdos.data.steps.step import Step
from rhabdos.figure.recipe.recipe import Recipe

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence
    from pathlib import Path

    from rhabdos.figure.recipe.plain_charts import PlainChart
    from rhabdos.figure.recipe.plate import Plate


class Source(Struct, frozen=True):
    """A data file as it was when it was opened; without a path the demo data, or what the first
    step makes.

    ``revision`` tells one opening of a file from another, since the file may have changed.
    """

    path: "Path | None" = None
    revision: int = 0


class Figure(Struct, frozen=True):
    """One figure of a piece of work: its recipe, and the name that it was given by hand, if any."""

    recipe: Recipe
    name: str = ""


class Document(Struct, frozen=True):
    """Everything that undo goes back to, as one immutable value.

    Attributes
    ----------
    sources : tuple of Source
        What was opened; the first one is drawn.
    steps : tuple of Step
        How its table is prepared, in order.
    figures : tuple of Figure
        What is drawn of it; ``shown`` is the place of the one in sight.
    chart : PlainChart or None
        What is looked at in place of the figure, for a moment.
    beside : tuple of int
        The places of the figures that stand beside one another, the one in sight among them;
        none where that stands alone.
    plates : tuple of Plate
        Pages on which several of the figures are set together.
    """

    sources: tuple[Source, ...] = ()
    steps: tuple[Step, ...] = ()
    figures: tuple[Figure, ...] = ()
    shown: int = 0
    chart: "PlainChart | None" = None
    beside: tuple[int, ...] = ()
    plates: "tuple[Plate, ...]" = ()

    @classmethod
    def of(
        cls, source: Source | None, recipe: Recipe | None = None, steps: tuple[Step, ...] = ()
    ) -> Self:
        """One source with its steps and one figure; any may still be missing."""
        sources = (source,) if source is not None else ()
        return cls(sources, steps, (Figure(recipe),) if recipe is not None else ())

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
        return self.figures[self.shown].recipe if self.figures else None

    def with_recipe(self, recipe: Recipe | None) -> Self:
        """The same data with another recipe for the figure in sight, or without it."""
        if recipe is None:
            return self.without_figures((self.shown,))
        name = self.figures[self.shown].name if self.figures else ""
        new = Figure(recipe, name)
        figures = (*self.figures[: self.shown], new, *self.figures[self.shown + 1 :])
        return structs.replace(self, figures=figures, chart=None)

    def with_each_recipe(self, changed: "Callable[[Recipe], Recipe]") -> Self:
        """The same data with what comes of each figure."""
        figures = (structs.replace(f, recipe=changed(f.recipe)) for f in self.figures)
        return structs.replace(self, figures=tuple(figures))

    # Several figures

    def with_figure(self, figure: Figure, beside: bool = False) -> Self:
        """One figure more, after the one in sight, which it takes the place of there; or beside
        which it stands."""
        at = self.shown + 1 if self.figures else 0
        order = (*range(at), None, *range(at, len(self.figures)))
        figures = (*self.figures[:at], figure, *self.figures[at:])
        ordered = self._in_order(order, figures)
        together = (*(ordered.beside or (self.shown,)), at) if beside else ()
        return structs.replace(ordered, shown=at, beside=tuple(sorted(together)), chart=None)

    def showing(self, at: int) -> Self:
        """The figure at a place, in sight; by itself, unless it stands there already."""
        beside = self.beside if at in self.beside else ()
        return structs.replace(self, shown=at, beside=beside, chart=None)

    def standing_beside(self, places: tuple[int, ...]) -> Self:
        """Figures beside the one in sight; without any, that stands alone."""
        others = {place for place in places if place != self.shown}
        together = tuple(sorted({*others, self.shown})) if others else ()
        return structs.replace(self, beside=together, chart=None)

    def named(self, at: int, name: str) -> Self:
        """A figure by another name; without one it is called by what it shows."""
        figure = structs.replace(self.figures[at], name=name)
        return structs.replace(self, figures=(*self.figures[:at], figure, *self.figures[at + 1 :]))

    def moved(self, at: int, to: int) -> Self:
        """A figure at another place of the row; the one in sight stays in sight."""
        order = [place for place in range(len(self.figures)) if place != at]
        order.insert(to, at)
        ordered = self._in_order(order, tuple(self.figures[place] for place in order))
        return structs.replace(ordered, shown=order.index(self.shown))

    def without_figures(self, places: tuple[int, ...]) -> Self:
        """Without some figures; where the one in sight is among them, the one after it comes
        there, or the last."""
        order = [place for place in range(len(self.figures)) if place not in places]
        figures = tuple(self.figures[place] for place in order)
        ordered = self._in_order(order, figures)
        shown = sum(place < self.shown for place in order)
        shown = max(0, min(shown, len(figures) - 1))
        beside = ordered.beside if shown in ordered.beside else ()
        return structs.replace(ordered, shown=shown, beside=beside, chart=None)

    def _in_order(self, order: "Sequence[int | None]", figures: tuple[Figure, ...]) -> Self:
        """The figures in another order, of which the places before are given."""
        places = {before: now for now, before in enumerate(order)}
        beside = tuple(sorted(places[place] for place in self.beside if place in places))
        beside = beside if len(beside) > 1 else ()
        plates = tuple(filter(None, (_moved(plate, places) for plate in self.plates)))
        return structs.replace(self, figures=figures, beside=beside, plates=plates)

    def with_plates(self, plates: "tuple[Plate, ...]") -> Self:
        """The same figures, set together on other pages."""
        return structs.replace(self, plates=plates)

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


def _moved(plate: "Plate", places: "Mapping[int | None, int]") -> "Plate | None":
    """A page whose figures stand at other places of the row; None where none of them is left."""
    figures = tuple(places[place] for place in plate.figures if place in places)
    return structs.replace(plate, figures=figures) if figures else None
