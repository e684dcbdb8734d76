"""Bins that are equal along an axis of logs, roots or logs to both sides of 0."""

from msgspec import structs

from rhabdos.figure.readings.value_scale import WORDS, pooled_places
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.stats.axis_scale import AxisScale
from rhabdos.stats.binning import BinningError, Edges, by_count
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.rules import Ruled, by_rule


def even_edges(bins: Bins, pooled: Ordered, axis: AxisScale, dates: bool = False) -> Ruled:
    """Edges as far from one another on an axis; values that have no place on it are in no bin.

    Parameters
    ----------
    bins : Bins
        What the recipe asks of them: a rule or a number.
    pooled : Ordered
        All values on the axis.
    axis : AxisScale
        On which they are equal.
    dates : bool
        Whether these are days, which have no logs or roots.

    Raises
    ------
    BinningError
        No value has a place on the axis, or they are dates.
    """
    said = WORDS[axis.kind].said
    if dates:
        raise BinningError("Dates have no logs. Choose bins along the calendar.")
    places = pooled_places(pooled, axis)
    if not places.n:
        above = "values above 0" if axis.log else "values of 0 or more"
        raise BinningError(
            f"Bins equal {said} need {above}, and there are none. Choose bins of one width."
        )
    if bins.count is not None:
        ruled = Ruled(by_count(places, bins.count, None, bins.closed, bins.round))
    else:
        ruled = by_rule(places, bins.rule or "automatic", None, bins.closed, bins.round)
    even = ruled.edges
    step = float(even.widths[0])
    if axis.log:
        step = min(308.0, step)  # past all numbers there is no ratio
    edges = Edges(axis.values(even.values), bins.closed, along=axis, step=step)
    return structs.replace(ruled, edges=edges)
