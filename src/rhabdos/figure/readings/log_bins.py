"""Bins that are equal in logs."""

from msgspec import structs

from rhabdos.figure.readings.value_scale import ValueScale, pooled_logs
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.stats.binning import BinningError, Edges, by_count
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.rules import Ruled, by_rule


def edges_in_logs(bins: Bins, pooled: Ordered, dates: bool) -> Ruled:
    """Edges of which each is so many times the one before; values of 0 and less are in no bin.

    Parameters
    ----------
    bins : Bins
        What the recipe asks of them: a rule or a number.
    pooled : Ordered
        All values on the axis.
    dates : bool
        Whether these are days, which have no logs.

    Raises
    ------
    BinningError
        No value is above 0, or they are dates.
    """
    if dates:
        raise BinningError("Dates have no logs. Choose bins along the calendar.")
    logs = pooled_logs(pooled)
    if not logs.n:
        raise BinningError(
            "Bins equal in logs need values above 0, and there are none. Choose bins of one width."
        )
    if bins.count is not None:
        ruled = Ruled(by_count(logs, bins.count, None, bins.closed, bins.round))
    else:
        ruled = by_rule(logs, bins.rule or "automatic", None, bins.closed, bins.round)
    of_logs = ruled.edges
    ratio = 10 ** min(308.0, float(of_logs.widths[0]))  # past all numbers there is none
    edges = Edges(ValueScale(True).values(of_logs.values), bins.closed, ratio=ratio)
    return structs.replace(ruled, edges=edges)
