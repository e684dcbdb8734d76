"""The ladder: the same values at other bin widths, and what of a shape stays."""

import math

from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.data.sample_sets import SampleSet
from rhabdos.figure.readings.readings import Readings
from rhabdos.memo import memoised
from rhabdos.stats.binning import BinningError, Edges, Side, by_width, counts
from rhabdos.stats.heights import heights
from rhabdos.stats.peaks import PHASES, peaks, slide
from rhabdos.stats.rounding import round_steps
from rhabdos.wording import counted

_TO_EITHER_SIDE = 4  # rungs finer and coarser than the width in use
_FURTHEST = 64.0  # times narrower or wider than the figure's bins
_MOST_BINS = 2_000  # of a rung, past which peaks are noise


class Rung(Struct, frozen=True):
    """One width of the ladder: how many bins it makes, and the peaks of each group above counting
    noise."""

    width: float
    bins: int
    peaks: tuple[int, ...]


def ladder(readings: Readings) -> tuple[Rung, ...]:
    """The figure's own width and up to four round widths to either side, from narrow to wide.

    Unequal bins have no width to start from, and no ladder.
    """
    return rungs_at(readings, ladder_widths(readings))


def ladder_widths(readings: Readings) -> tuple[float, ...]:
    """The widths of a ladder about the figure's own; none where there is none."""
    width, pooled = readings.edges.width, readings.samples.pooled
    if readings.plan.axes > 1:  # bins of one width mean something else on each axis
        return ()
    if width is None or pooled.minimum == pooled.maximum or readings.edges.count > _MOST_BINS:
        return ()
    # Widths that doubles hold, however far apart they lie.
    steps = round_steps(max(width / _FURTHEST, 1e-300), min(width * _FURTHEST, 1e300), pooled.whole)
    # A width that is typed may be a round one but for its last digits; it is no rung of its own.
    narrower = [step for step in steps if step < width * (1 - 1e-9)][-_TO_EITHER_SIDE:]
    wider = [step for step in steps if step > width * (1 + 1e-9)][:_TO_EITHER_SIDE]
    return (*narrower, width, *wider)


def rungs_at(readings: Readings, widths: tuple[float, ...]) -> tuple[Rung, ...]:
    """The rungs of some widths, of which the figure's own is counted by its own bins."""
    samples, edges = readings.samples, readings.edges
    rungs = [
        _rung(samples, edges, width)
        if width == edges.width
        else _round_rung(samples, width, edges.closed)
        for width in widths
    ]
    return tuple(rung for rung in rungs if rung)


def peaks_said(rungs: tuple[Rung, ...]) -> list[tuple[str, bool]]:
    """The peaks of each rung in words, and whether one is lost that the rung before it had."""
    said = []
    for before, rung in zip((None, *rungs), rungs, strict=False):
        lost = before is not None and any(
            now < then for now, then in zip(rung.peaks, before.peaks, strict=True)
        )
        least, most = min(rung.peaks), max(rung.peaks)
        many = counted(most, "peak", "peaks") if least == most else f"{least} to {most} peaks"
        said.append((f"{many}: one is lost" if lost else many, lost))
    return said


@memoised  # round widths stay the same while a hand drags, and with them their peaks
def _round_rung(samples: SampleSet, width: float, closed: Side) -> Rung | None:
    pooled = samples.pooled
    if pooled.maximum / width - pooled.minimum / width > _MOST_BINS:
        return None
    try:
        return _rung(samples, by_width(pooled, width, None, closed), width)
    except BinningError:
        return None


def _rung(samples: SampleSet, edges: Edges, width: float) -> Rung:
    each = tuple(len(peaks(counts(sample, edges))) for sample in samples.samples)
    return Rung(width, edges.count, each)


class SlidReading(Struct, frozen=True, eq=False):
    """For each place between two of ``x``: the least and the greatest height of a bin of the
    figure's width over it."""

    group: int
    x: FloatArray
    low: FloatArray
    high: FloatArray


def slides(readings: Readings) -> tuple[SlidReading, ...]:
    """How each group's heights change as the start of the bins slides through one width."""
    edges = readings.edges
    if readings.plan.axes > 1 or readings.kind != "linear":
        return ()
    if edges.width is None or readings.cumulative or edges.count > _MOST_BINS:
        return ()  # what adds up does not depend on where bins begin
    if edges.width / PHASES < math.ulp(max(abs(edges.low), abs(edges.high))):
        return ()  # nothing lies between two starts
    if not math.isfinite(edges.high + 2 * edges.width) or not math.isfinite(
        edges.low - 2 * edges.width
    ):
        return ()  # the range of numbers ends before the bins have slid
    readings_slid = []
    for position, sample in enumerate(readings.samples.samples):
        slid = slide(sample, edges.width, edges.low, edges.high, closed=edges.closed)
        total = readings.total(position)
        widths = (slid.x[1:] - slid.x[:-1]) * PHASES
        low, high = (
            heights(counts_slid, widths, readings.scale, total)
            for counts_slid in (slid.low, slid.high)
        )
        readings_slid.append(SlidReading(position, slid.x, low, high))
    return tuple(readings_slid)
