"""The ladder: the same values at other bin widths, and what of a shape stays."""

from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.figure.readings import Readings
from rhabdos.stats.binning import BinningError, Edges, Side, by_width, counts
from rhabdos.stats.heights import heights
from rhabdos.stats.peaks import PHASES, peaks, slide
from rhabdos.stats.rounding import round_steps

_TO_EITHER_SIDE = 4
_FURTHEST = 64.0  # times narrower or wider than the figure's bins
_MOST_BINS = 2_000


class Rung(Struct, frozen=True):
    """One width of the ladder: how many bins it makes, and the peaks of each group above counting noise."""

    width: float
    bins: int
    peaks: tuple[int, ...]


def ladder(readings: Readings) -> tuple[Rung, ...]:
    """The figure's own width and up to four round widths to either side, from narrow to wide.

    Unequal bins have no width to start from, and no ladder.
    """
    width, pooled = readings.edges.width, readings.samples.pooled
    if width is None or pooled.minimum == pooled.maximum or readings.edges.count > _MOST_BINS:
        return ()
    steps = round_steps(max(width / _FURTHEST, 1e-300), min(width * _FURTHEST, 1e300), pooled.whole)
    narrower = [step for step in steps if step < width * (1 - 1e-9)][-_TO_EITHER_SIDE:]
    wider = [step for step in steps if step > width * (1 + 1e-9)][:_TO_EITHER_SIDE]
    known: dict[tuple[float, Side], Rung | None] = readings.samples.__dict__.setdefault("_rungs", {})
    for step in (*narrower, *wider):  # which stay the same while a hand drags, and with them their peaks
        if (step, readings.edges.closed) not in known:
            known[step, readings.edges.closed] = _round_rung(readings, step)
    found = [known[step, readings.edges.closed] for step in narrower]
    found.append(_rung(readings, readings.edges, width))
    found += [known[step, readings.edges.closed] for step in wider]
    return tuple(rung for rung in found if rung)


def _round_rung(readings: Readings, width: float) -> Rung | None:
    pooled = readings.samples.pooled
    if pooled.maximum / width - pooled.minimum / width > _MOST_BINS:
        return None
    try:
        return _rung(readings, by_width(pooled, width, None, readings.edges.closed), width)
    except BinningError:
        return None


def _rung(readings: Readings, edges: Edges, width: float) -> Rung:
    found = tuple(len(peaks(counts(sample, edges))) for sample in readings.samples.samples)
    return Rung(width, edges.count, found)


class SlidReading(Struct, frozen=True, eq=False):
    """For each place between two of ``x``: the least and the greatest height of a bin of the figure's width over it."""

    group: int
    x: FloatArray
    low: FloatArray
    high: FloatArray


def slides(readings: Readings) -> tuple[SlidReading, ...]:
    """How each group's heights change as the start of the bins slides through one width."""
    edges = readings.edges
    if edges.width is None or readings.cumulative:
        return ()  # what adds up does not depend on where bins begin
    made = []
    for position, (group, sample) in enumerate(zip(readings.groups, readings.samples.samples, strict=True)):
        found = slide(sample, edges.width, edges.low, edges.high, closed=edges.closed)
        total = readings.samples.pooled.n if readings.recipe.show.of == "all" else group.n
        widths = (found.x[1:] - found.x[:-1]) * PHASES
        low, high = (heights(one, widths, readings.scale, total) for one in (found.low, found.high))
        made.append(SlidReading(position, found.x, low, high))
    return tuple(made)
