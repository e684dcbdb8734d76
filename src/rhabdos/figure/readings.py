"""Readings: every number in the figure, each worked out when it is first asked for.

The readings have the shape of the plan. A form's numbers are worked out by its own file, group by
group, and kept here: drawing, hovering, notices and ``rhabdos numbers`` all read the same ones.
"""

from functools import cached_property

import numpy as np
from msgspec import Struct

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.samples import AnySample, SampleSet
from rhabdos.errors import Refusal
from rhabdos.figure.forms import needs_bins
from rhabdos.figure.plan import Levels, Plan, plan_of
from rhabdos.figure.recipe import Bins, Recipe
from rhabdos.keeping import kept_last, kept_with
from rhabdos.stats.binning import Edges, by_count, by_width, own_edges
from rhabdos.stats.heights import Scale
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import QuartileRule
from rhabdos.stats.rules import Ruled, by_rule
from rhabdos.stats.summary import Summary, summarise


class Group(Struct, frozen=True, eq=False):
    """One group of the figure: its place, its name and levels, and its sample."""

    place: int
    label: str
    levels: Levels
    sample: AnySample

    @property
    def n(self) -> int:
        """How many values it has."""
        return self.sample.n

    @property
    def missing(self) -> int:
        """How many of its rows have none."""
        return self.sample.missing


class Readings(Struct, frozen=True, eq=False, dict=True):
    """All that is known of a figure before it is drawn."""

    recipe: Recipe
    samples: SampleSet

    @property
    def plan(self) -> Plan:
        """Which lanes and groups there are."""
        return self._planned[0]

    @property
    def groups(self) -> tuple[Group, ...]:
        """All groups, in the order of their samples."""
        return self._planned[1]

    @cached_property
    def _planned(self) -> tuple[Plan, tuple[Group, ...]]:
        """Plan and groups, which stay while a hand moves bins, a bandwidth or a reach."""
        key = self.recipe.show, self.recipe.bins.shared
        return kept_last(self.samples, "plan", key, self._plan)

    def _plan(self) -> tuple[Plan, tuple[Group, ...]]:
        split = self.split.name if self.split else None
        plan = plan_of(self.recipe, split, [sample.label for sample in self.samples.samples])
        both = zip(plan.groups, self.samples.samples, strict=True)
        return plan, tuple(
            Group(planned.place, planned.label, planned.levels, s) for planned, s in both
        )

    def group(self, **levels: str) -> Group:
        """The group with these levels: ``readings.group(Bay="Saltmere")``."""
        return next(group for group in self.groups if dict(group.levels) == levels)

    @property
    def variable(self) -> NumberColumn:
        """What is measured."""
        return self.samples.variable

    @property
    def split(self) -> CategoryColumn | None:
        """The factor that splits it, if any."""
        return self.samples.split

    @property
    def cumulative(self) -> bool:
        """Whether heights add up from left to right."""
        return self.recipe.show.cumulative

    @cached_property
    def ruled(self) -> Ruled:
        """The bins of the figure, and how they came about."""
        return edges_for(self.recipe.bins, self.samples.pooled)

    @property
    def edges(self) -> Edges:
        """Shared by all groups, unless each has its own: then those of all values together."""
        return self.ruled.edges

    @cached_property
    def own_edges(self) -> tuple[Edges, ...]:
        """The bins of each group: those of the figure, or its own."""
        bins, edges = self.recipe.bins, self.edges
        if bins.shared:
            return (edges,) * len(self.groups)
        samples = self.samples.samples
        return tuple(edges_for(bins, sample).edges if sample.n else edges for sample in samples)

    @property
    def needs_bins(self) -> bool:
        """Whether the figure changes with its bins."""
        return needs_bins(self.recipe)

    @cached_property
    def scale(self) -> Scale:
        """The heights that are drawn.

        Unequal bins allow none but densities. What densities add up to is a proportion, and so is
        an ECDF that stands alone.
        """
        asked: Scale = self.recipe.show.heights
        if self.cumulative or self.plan.heights == ("ecdf",):
            return "proportion" if asked == "density" else asked
        if not self.needs_bins:
            return asked
        unequal = any(own.width is None for own in (self.edges, *self.own_edges))
        return "density" if unequal else asked

    @cached_property
    def summaries(self) -> tuple[Summary, ...]:
        """One per group, in order; they do not depend on the bins."""
        return summaries_of(self.samples, self.recipe.box.quartiles)

    def total(self, group: int) -> int:
        """What the shares of a group are of: its own values, or those of all groups."""
        of_all = self.recipe.show.of == "all"
        return self.samples.pooled.n if of_all else self.groups[group].n


def read(recipe: Recipe, samples: SampleSet) -> Readings:
    """Answer a recipe with numbers; those of bars at once, since they may be refused.

    Raises
    ------
    BinningError
        The bins cannot be made from these values.
    VariableError
        The variable that names the values beyond boxes is not in the table.
    """
    readings = Readings(recipe, samples)
    if needs_bins(recipe):
        from rhabdos.figure.forms.bars import bars

        bars(readings)
    if "box" in recipe.show.forms:
        from rhabdos.figure.forms.box import check_names

        check_names(readings)
    return readings


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
