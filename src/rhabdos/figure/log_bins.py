"""Bins that are equal in logs."""

import numpy as np
from msgspec import structs

from rhabdos.data.samples import AnySample, Pooled, Sample, Weighted
from rhabdos.figure.recipe import Bins
from rhabdos.keeping import kept
from rhabdos.stats.binning import BinningError, Edges, by_count
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.rules import Ruled, by_rule


def edges_in_logs(bins: Bins, pooled: Ordered, dates: bool) -> Ruled:
    """Edges of which each is so many times the one before; values of 0 and less are in no bin.

    Raises
    ------
    BinningError
        No value is above 0, or they are dates.
    """
    if dates:
        raise BinningError("Dates have no logs. Choose bins along the calendar.")
    logs = _logs(pooled)
    if not logs.n:
        raise BinningError(
            "Bins equal in logs need values above 0, and there are none. Choose bins of one width."
        )
    if bins.count is not None:
        ruled = Ruled(by_count(logs, bins.count, None, bins.closed, bins.round))
    else:
        ruled = by_rule(logs, bins.rule or "automatic", None, bins.closed, bins.round)
    of_logs = ruled.edges
    ratio = 10 ** float(of_logs.widths[0])
    edges = Edges(np.power(10.0, of_logs.values), bins.closed, ratio=ratio)
    return structs.replace(ruled, edges=edges)


def _logs(pooled: Ordered) -> Ordered:
    """The logs of all values above 0; kept with their samples."""
    if isinstance(pooled, Pooled):
        return Pooled(tuple(_logs_of(sample) for sample in pooled.samples))
    assert isinstance(pooled, Sample | Weighted)
    return _logs_of(pooled)


def _logs_of(sample: AnySample) -> AnySample:
    return kept(sample, "logs", lambda: _logged(sample))


def _logged(sample: AnySample) -> AnySample:
    first = int(np.searchsorted(sample.values, 0.0, side="right"))
    values = np.log10(sample.values[first:])
    if isinstance(sample, Sample):
        return Sample(sample.label, values)
    before = int(sample.ends[first - 1]) if first else 0
    return Weighted(sample.label, values, sample.ends[first:] - before)
