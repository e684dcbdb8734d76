"""Long tails: where most values crowd in a sliver of the axis, and the ways to show them."""

import math

import numpy as np
from msgspec import Struct

from rhabdos.data.columns import DateColumn
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.value_scale import WORDS, value_scale
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.words.notice import Cure, Notice
from rhabdos.memo import memoised
from rhabdos.stats.axis_scale import ScaleKind
from rhabdos.stats.binning import BinningError
from rhabdos.stats.evenness import most_within, stretch_of_most
from rhabdos.stats.oddities import missing_code
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.rounding import multiple_below, nearest_round_step, sequence

SLIVER = 0.06  # of the axis: where most values lie in less, the figure hardly shows them
_FEW = 20  # values, of which a shape is looked at
_MIDDLE = (0.01, 0.99)  # the shares of values between which the middle lies
_BINS = 30  # about so many in it


class Showing(Struct, frozen=True):
    """A way to show values that have a long tail: its words, the figure, and how evenly values
    then fill the axis (see ``stretch_of_most``)."""

    words: str
    recipe: Recipe
    evenness: float


def long_tail(values: Ordered) -> bool:
    """Whether most values lie in a sliver of the stretch that they span."""
    return values.n >= _FEW and most_within(values, SLIVER)


def scales_for(values: Ordered) -> dict[ScaleKind, float]:
    """The kinds of axis that have a place for all values, and how evenly they lie on each; the
    most even first.

    Parameters
    ----------
    values : Ordered
        In the variable's unit, not dates.
    """
    kinds: list[ScaleKind] = ["root"] if values.minimum >= 0 else []
    kinds = ["log", *kinds] if values.minimum > 0 else [*kinds, "arsinh"]
    evenness = {
        kind: stretch_of_most(values, value_scale(kind, None, values).axis) for kind in kinds
    }
    return dict(sorted(evenness.items(), key=lambda each: -each[1]))


def ways_to_show(readings: Readings) -> list[Showing]:
    """The figure on axes that suit its values better, the most even first; none where they suit
    the one that it has."""
    recipe, pool = readings.recipe, readings.pools[0]
    asked = recipe.axes.value
    free = asked.scale == "linear" and asked.low is None and asked.high is None
    if not free or readings.plan.axes > 1 or recipe.show.standardised:
        return []
    if isinstance(readings.variable, DateColumn) or not long_tail(pool) or missing_code(pool):
        return []
    ways = [
        Showing(WORDS[kind].said, recipe.with_value_axis(scale=kind), even)
        for kind, even in scales_for(pool).items()
    ]
    ways += [way] if (way := _middle(readings, pool)) else []
    return sorted(ways, key=lambda way: -way.evenness)


def _middle(readings: Readings, pool: Ordered) -> Showing | None:
    """The middle 98 % of the values, and the rest counted."""
    recipe = readings.recipe
    low, high = _ends_of_middle(pool)
    if low >= high or not math.isfinite(high - low):
        return None
    step = nearest_round_step((high - low) / _BINS, pool.whole)
    low = multiple_below(low, step)
    count = math.ceil((high - low) / step)
    edges = tuple(sequence(low, step, count + 1).tolist())
    try:
        shown = recipe.with_value_axis(low=edges[0], high=edges[-1])
        shown = shown.binned(recipe.bins.with_edges(edges)) if readings.needs_bins else shown
    except (ValueError, BinningError):  # numbers hold no such edges
        return None
    evenness = stretch_of_most(pool, low=edges[0], high=edges[-1])
    return Showing("the middle 98 %", shown, evenness)


@memoised  # every figure of the values asks
def _ends_of_middle(pool: Ordered) -> tuple[float, float]:
    low, high = pool.at(np.array([math.floor(share * (pool.n - 1)) for share in _MIDDLE])).tolist()
    return low, high


def tail_notice(readings: Readings) -> Notice | None:
    """Most values lie in a sliver of the axis: the ways to show them, the best marked by standing
    first."""
    ways = ways_to_show(readings)
    if not ways:
        return None
    taken = 100 * stretch_of_most(readings.pools[0])
    share = f"{taken:.0f} %" if taken >= 1 else "less than 1 %"
    best, *others = ways
    return Notice(
        "long-tail",
        f"Three quarters of the values lie in {share} of the value axis.",
        best.recipe,
        f"show {best.words}" if best.words.startswith("the") else f"show them {best.words}",
        others=tuple(Cure(way.words, way.recipe) for way in others),
    )
