"""Readings: every number in the figure, from the samples and the recipe."""

import math
from functools import cached_property

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.samples import SampleSet
from rhabdos.errors import Refusal
from rhabdos.figure.recipe import Bins, Recipe
from rhabdos.keeping import kept_with
from rhabdos.stats.binning import BinningError, Edges, by_count, by_width, counts, own_edges
from rhabdos.stats.boxes import Box, box
from rhabdos.stats.heights import Scale, cumulated, heights
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import QuartileRule
from rhabdos.stats.rules import Ruled, by_rule
from rhabdos.stats.summary import Summary, summarise


class Group(Struct, frozen=True, eq=False, dict=True):
    """One sample as the figure shows it.

    Attributes
    ----------
    label : str
    n, missing, outside : int
        Values, rows without a value, and values that lie in no bin.
    edges : Edges
        k bins; those of the figure, or the group's own.
    counts, heights : array, shape (k,)
        For each bin; cumulative heights also count the values below the first.
    """

    label: str
    n: int
    missing: int
    outside: int
    edges: Edges
    counts: IntArray
    heights: FloatArray


class Readings(Struct, frozen=True, eq=False, dict=True):
    """All that is known of a figure before it is drawn.

    Attributes
    ----------
    scale : str
        The heights that are drawn: "density" where unequal bins allow no other; what densities add
        up to is a "proportion".
    edges : Edges
        Shared by all groups, unless each has its own: then those of all values together.
    """

    recipe: Recipe
    samples: SampleSet
    edges: Edges
    scale: Scale
    groups: tuple[Group, ...]
    ruled: Ruled

    @property
    def variable(self) -> NumberColumn:
        return self.samples.variable

    @property
    def split(self) -> CategoryColumn | None:
        return self.samples.split

    @property
    def cumulative(self) -> bool:
        return self.recipe.show.cumulative

    @property
    def outside(self) -> int:
        return sum(group.outside for group in self.groups)

    @cached_property
    def tallest(self) -> float:
        return max((float(group.heights.max(initial=0.0)) for group in self.groups), default=0.0)

    @cached_property
    def summaries(self) -> tuple[Summary, ...]:
        """One per group, in order; they do not depend on the bins."""
        return summaries_of(self.samples, self.recipe.box.quartiles)

    @cached_property
    def boxes(self) -> tuple[Box, ...]:
        """One per group, in order."""
        made = self.recipe.box
        return tuple(
            box(sample, made.quartiles, made.whiskers, made.far) for sample in self.samples.samples
        )

    @cached_property
    def box_widths(self) -> tuple[float, ...]:
        """Widths of the boxes, as shares of the widest: all the same, or as the square root of
        n."""
        if self.recipe.box.width == "fixed":
            return (1.0,) * len(self.groups)
        most = max(group.n for group in self.groups)
        return tuple(math.sqrt(group.n / most) for group in self.groups)


def read(recipe: Recipe, samples: SampleSet) -> Readings:
    """Answer a recipe with numbers.

    Raises
    ------
    BinningError
        The bins cannot be made from these values.
    """
    ruled = edges_for(recipe.bins, samples.pooled)
    edges = ruled.edges
    shared = recipe.bins.shared
    each = [
        edges if shared or not s.n else edges_for(recipe.bins, s).edges for s in samples.samples
    ]
    scale: Scale = recipe.show.heights
    if recipe.show.cumulative:
        scale = "proportion" if scale == "density" else scale
    elif any(own.width is None for own in (edges, *each)):
        scale = "density"
    groups = []
    for sample, own in zip(samples.samples, each, strict=True):
        inside = counts(sample, own)
        total = samples.pooled.n if recipe.show.of == "all" else sample.n
        outside = sample.n - int(inside.sum())
        shown = cumulated(inside, lying_below(sample, own)) if recipe.show.cumulative else inside
        drawn = heights(shown, own.widths, scale, total)
        if scale == "density" and not np.all(np.isfinite(drawn)):
            raise BinningError(
                "The bins are so narrow that densities pass the largest number. Choose wider ones."
            )
        groups.append(Group(sample.label, sample.n, sample.missing, outside, own, inside, drawn))
    return Readings(recipe, samples, edges, scale, tuple(groups), ruled)


def lying_below(sample: Ordered, edges: Edges) -> int:
    """How many values lie below the first bin."""
    return int(sample.below(edges.values[:1])[0]) if sample.n and sample.minimum < edges.low else 0


def edges_for(bins: Bins, pooled: Ordered) -> Ruled:
    """The edges that a recipe asks for, shared by all groups."""
    if not pooled.n:
        raise Refusal("There are no values to draw.")
    if bins.edges is not None:
        return Ruled(own_edges(np.array(bins.edges), bins.closed))
    if bins.width is not None:
        return Ruled(by_width(pooled, bins.width, bins.start, bins.closed))
    if bins.count is not None:
        return Ruled(by_count(pooled, bins.count, bins.start, bins.closed, bins.round))
    return by_rule(pooled, bins.rule or "automatic", bins.start, bins.closed, bins.round)


@kept_with
def summaries_of(samples: SampleSet, rule: QuartileRule = 7) -> tuple[Summary, ...]:
    """The summaries of a set of samples, by a definition of quartiles."""
    return tuple(summarise(sample, rule) for sample in samples.samples)
