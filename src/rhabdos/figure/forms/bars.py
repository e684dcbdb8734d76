"""Bars, their outline and polygon: counts and heights of bins, and what they say."""

import math
from collections.abc import Callable, Sequence
from functools import partial

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.data.pooled import Pooled
from rhabdos.figure.forms.form import FigureForm
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.figure.words.notice import DIFFERS, HIDES, Notice
from rhabdos.figure.words.tooltip import Card, Line, few_of, panel_words
from rhabdos.memo import memoised
from rhabdos.quoting import brief
from rhabdos.stats.binning import BinningError, Edges, counts
from rhabdos.stats.heights import Scale, cumulated, heights
from rhabdos.stats.oddities import heaping
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.rounding import multiple_below
from rhabdos.stats.rules import MOST_RULE_BINS, RULES
from rhabdos.wording import counted, exact, in_three_figures, scientific

_ROUND = 1e-9  # by which a number may miss a round one and still be it
_LARGE_SHARE = 0.1  # shares that are all as large need a decimal less
_PLAIN_FROM, _PLAIN_TO = 1e-4, 1e6  # densities beyond are written with powers of ten
_MOST_PEAKS = 6  # more are more likely the grain of the values than their shape


class Bars(Struct, frozen=True, eq=False):
    """The bars of one group.

    Attributes
    ----------
    edges : Edges
        k bins; those of the figure, or the group's own.
    counts, heights : array, shape (k,)
        For each bin; cumulative heights also count the values below the first.
    outside : int
        Values that lie in no bin.
    """

    edges: Edges
    counts: IntArray
    heights: FloatArray
    outside: int


@memoised  # painted, told, pointed at and tabled
def bars(readings: Readings) -> tuple[Bars, ...]:
    """The bars of each group, in order.

    Raises
    ------
    BinningError
        Bins so narrow that no number holds their densities.
    """
    return tuple(_bars(readings, group) for group in readings.groups)


def _bars(readings: Readings, group: Group) -> Bars:
    edges, sample = readings.own_edges[group.index], group.sample
    inside = counts(sample, edges)
    shown = inside
    if readings.cumulative:
        shown = cumulated(inside, lying_below(sample, edges))
    widths = readings.scale_of(group.index).widths(edges)
    drawn = heights(shown, widths, readings.scale, readings.total(group.index))
    if readings.scale == "density" and not np.all(np.isfinite(drawn)):
        raise BinningError(
            "The bins are so narrow that densities pass the largest number. Choose wider ones."
        )
    return Bars(edges, inside, drawn, sample.n - int(inside.sum()))


@memoised  # each layer of a stack asks for all below it
def grounds(readings: Readings) -> tuple[FloatArray, ...]:
    """The heights from which each group's bars rise: 0, or where stacked the top of those before.

    Shape (k,) each; groups stack in the order of their lane.
    """
    stacked = readings.plan.arrange == "stacked"
    answers: list[FloatArray] = [np.empty(0)] * len(readings.groups)
    for panel in readings.plan.panels:
        for lane in panel.lanes:
            ground: FloatArray | None = None
            for group in lane.groups:
                heights_of = bars(readings)[group.index].heights
                if ground is None or not stacked:
                    ground = np.zeros(len(heights_of))
                answers[group.index] = ground
                ground = ground + heights_of
    return tuple(answers)


def lying_below(sample: Ordered, edges: Edges) -> int:
    """How many values lie below the first bin."""
    if not sample.n or sample.minimum >= edges.low:
        return 0
    return int(sample.below(edges.values[:1])[0])


def outside(readings: Readings) -> int:
    """How many values of all groups lie in no bin."""
    return sum(of_group.outside for of_group in bars(readings))


def labels_of(readings: Readings, group: int) -> list[str]:
    """The number on each bar of a group, in the scale that the recipe asks labels for.

    Bars without a value have none. All bars of a figure have as many decimals.
    """
    numbers, write = _label_numbers(readings)[group], _label_writing(readings)
    return [readings.marked(write(value)) if value else "" for value in numbers]


def label_scale(readings: Readings) -> Scale | None:
    """What numbers on bars are in: as asked for, but what adds up has no density."""
    asked = readings.recipe.bars.labels
    return "proportion" if asked == "density" and readings.cumulative else asked


@memoised  # layout asks for them to make room, and drawing once more
def _label_numbers(readings: Readings) -> tuple[list[float], ...]:
    """The number on each bar, group by group; 0 where there is none."""
    asked = label_scale(readings)
    answers = []
    for index, of_group in enumerate(bars(readings)):
        if asked is None:
            answers.append([0.0] * of_group.edges.count)
            continue
        inside = counts_in(readings, index)
        widths = readings.scale_of(index).widths(of_group.edges)
        answers.append(heights(inside, widths, asked, readings.total(index)).tolist())
    return tuple(answers)


def counts_in(readings: Readings, group: int) -> IntArray:
    """How many values the bars of a group stand for: those of their bins, or where heights add up
    those below their ends too."""
    of_group, sample = bars(readings)[group], readings.groups[group].sample
    if not readings.cumulative:
        return of_group.counts
    return cumulated(of_group.counts, lying_below(sample, of_group.edges))


@memoised  # of all labels together, so that they have the same decimals
def _label_writing(readings: Readings) -> Callable[[float], str]:
    """How the numbers on bars are written, all with as many decimals."""
    asked = label_scale(readings)
    numbers = [number for of_group in _label_numbers(readings) for number in of_group if number]
    if asked == "count" or not numbers:
        return "{:,.0f}".format
    if asked == "density":
        return _densities(numbers)
    whole, end = (100.0, " %") if asked == "percent" else (1.0, "")
    decimals = (1 if asked == "percent" else 3) - (min(numbers) >= _LARGE_SHARE * whole)
    return partial(_share_written, decimals=_fewest(numbers, decimals), end=end)


def _densities(numbers: Sequence[float]) -> Callable[[float], str]:
    """Densities with three digits of the greatest one."""
    if not _PLAIN_FROM <= max(numbers) < _PLAIN_TO:
        return partial(scientific, digits=2)
    decimals = max(0, 2 - math.floor(math.log10(max(numbers))))
    return f"{{:,.{_fewest(numbers, decimals)}f}}".format


def _fewest(numbers: Sequence[float], decimals: int) -> int:
    """How many decimals say as much as so many."""
    while decimals and all(abs(n - round(n, decimals - 1)) < _ROUND for n in numbers):
        decimals -= 1
    return decimals


def _share_written(share: float, decimals: int, end: str) -> str:
    """A share that is not 0 is never written as 0."""
    least = 10.0**-decimals
    if share < least / 2:
        return f"<{least:.{decimals}f}{end}"
    return f"{share:.{decimals}f}{end}"


# What a bin says


def card(readings: Readings, groups: Sequence[int], pointed: int | None, value: float) -> Card:
    """The bin that a value lies in, and what each of some groups has in it."""
    edges = readings.own_edges[groups[0]]
    return bin_card(readings, bin_at(edges, value), groups, pointed)


def stops(readings: Readings, groups: Sequence[int]) -> tuple[float, ...]:
    """The middles of the bins, as the axis shows them."""
    edges = readings.own_edges[groups[0]]
    return tuple(readings.scale_of(groups[0]).middles(edges).tolist())


def span(readings: Readings, groups: Sequence[int], value: float) -> tuple[float, float]:
    """The ends of the bin over a value."""
    edges = readings.own_edges[groups[0]]
    low, high = edges.values[bin_at(edges, value) :][:2].tolist()
    return low, high


def reach(readings: Readings, groups: Sequence[int]) -> tuple[float, float]:
    """The ends of all bins."""
    edges = readings.own_edges[groups[0]]
    return edges.low, edges.high


def bin_at(edges: Edges, value: float) -> int:
    """The number of the bin that is shown over a value, from 0; the nearest one beyond them."""
    index = int(edges.values.searchsorted(value, side="right")) - 1
    return min(edges.count - 1, max(0, index))


def bar_over(readings: Readings, groups: Sequence[int], value: float, height: float) -> int | None:
    """The group, among some, whose bar over a value is the lowest that reaches a height.

    Parameters
    ----------
    groups : sequence of int
        Their places in the plan.
    value : float
        In the variable's unit.
    height : float
        On the scale of the heights that are drawn.
    """
    tops = []
    for group in groups:
        of_group = bars(readings)[group]
        position = bin_at(of_group.edges, value)
        ground = float(grounds(readings)[group][position])
        tops.append((ground + float(of_group.heights[position]), group))
    above = [top for top in tops if top[0] >= height]
    return min(above)[1] if above else None


def bin_card(
    readings: Readings, position: int, groups: Sequence[int], pointed: int | None = None
) -> Card:
    """Describe bin number ``position`` (from 0) of groups that share their bins.

    Of many groups those with the most values in it are told of.
    """
    edges = readings.own_edges[groups[0]]
    width = float(readings.scale_of(groups[0]).widths(edges)[position])
    filled = [index for index in groups if readings.groups[index].n]
    inside = {index: int(counts_in(readings, index)[position]) for index in filled}
    chosen = few_of(filled, inside, pointed)
    lines = []
    for index in chosen:
        total = readings.total(index)
        share = inside[index] / total
        cells = [f"{inside[index]:,} of {total:,}", f"{100 * share:.1f} %"]
        if not readings.cumulative:
            cells.append(in_three_figures(share / width))
        lines.append(Line(readings.groups[index].name, tuple(cells), index, index == pointed))
    of_all = " of all" if readings.recipe.show.of == "all" and readings.divided else ""
    headings = ["count", f"percent{of_all}"]
    if not readings.cumulative:
        headings.append(f"density{of_all}" + (f" per {readings.per}" if readings.per else ""))
    return Card(
        _bin_title(readings, edges, position, groups[0]),
        tuple(headings),
        tuple(lines),
        len(filled) - len(chosen),
    )


def _bin_title(readings: Readings, edges: Edges, position: int, group: int) -> str:
    """The interval of a bin; where heights add up, all up to its end."""
    variable, pool = readings.groups[group].variable, readings.pools[readings.groups[group].axis]
    words = interval(edges, position, variable, pool.whole)
    if readings.cumulative:
        end = float(edges.values[position + 1])
        last = edges.closed == "right" or position == edges.count - 1
        if edges.centred and pool.whole:
            words = f"up to {words}"
        else:
            words = f"{'up to' if last else 'under'} {variable.format_with_unit(end)}"
    return words + panel_words(readings, group)


def interval(edges: Edges, position: int, variable: NumberColumn, whole: bool = False) -> str:
    """A bin's interval in words that say which edge belongs to it; the number that it is about,
    where values are ``whole`` and it holds one of them."""
    first, last = (float(edge) for edge in edges.values[position : position + 2])
    if edges.centred and whole:
        return variable.format_with_unit((first + last) / 2)
    low, high = variable.written(first), variable.format_with_unit(last)
    if edges.closed == "left":
        joined = "to" if position == edges.count - 1 else "to under"
        return f"{low} {joined} {high}"
    return f"{low} to {high}" if position == 0 else f"over {low} to {high}"


# Notices


def bar_notices(readings: Readings) -> tuple[Notice | None, ...]:
    """Where bins would mislead."""
    return (
        _outside(readings),
        _own_bins(readings),
        _heaped(readings),
        _too_few_bins(readings),
        _limited(readings),
        _instead(readings),
    )


def _own_bins(readings: Readings) -> Notice | None:
    """Bars of different widths are compared by their areas only."""
    widths: dict[int, set[float]] = {}
    for group, edges in zip(readings.groups, readings.own_edges, strict=True):
        widths.setdefault(group.axis, set()).add(edges.width or edges.step)
    alike = all(len(of_axis) < 2 for of_axis in widths.values())
    if alike or readings.scale == "density" or readings.cumulative:
        return None
    return Notice(
        "own-bins",
        "Each group has bins of its own width, so the same height does not mean as many values.",
        readings.recipe.showing(heights="density"),
        "show density",
    )


def _outside(readings: Readings) -> Notice | None:
    if not outside(readings):
        return None
    edges, written = readings.edges, readings.variable.written
    lie = "value lies" if outside(readings) == 1 else "values lie"
    where = f" ({written(edges.low)} to {written(edges.high)})" if readings.plan.axes == 1 else ""
    text = f"{outside(readings):,} {lie} outside the bins{where}."
    return Notice("hidden-values", text, _with_all(readings), "show all", HIDES)


def _with_all(readings: Readings) -> Recipe | None:
    """The figure with bins for all values, or None where no number of bins can hold them."""
    edges, pooled, bins = readings.edges, readings.samples.pooled, readings.recipe.bins
    if readings.plan.axes > 1:
        return readings.recipe.binned(bins.with_rule("automatic"))
    try:
        return readings.recipe.binned(_widened(bins, edges, pooled))
    except ValueError:  # the widened bins are none
        return None


def _widened(bins: Bins, edges: Edges, pooled: Pooled) -> Bins:
    if bins.edges is not None:
        width = float(edges.widths.max())
        widened = list(bins.edges)
        if pooled.minimum < widened[0]:
            widened.insert(0, multiple_below(pooled.minimum, width))
        if pooled.maximum > widened[-1]:
            widened.append(multiple_below(pooled.maximum, width) + width)
        return bins.with_edges(tuple(widened))
    if bins.width is None or bins.start is None:
        return bins.changed(start=None)
    # The edges stay where they are and begin further down.
    steps = -(-(bins.start - pooled.minimum) // bins.width)
    start = float(f"{bins.start - steps * bins.width:.12g}")
    return bins.with_width(bins.width, start)


def _heaped(readings: Readings) -> Notice | None:
    if readings.plan.axes > 1 or readings.kind != "linear":
        return None
    if isinstance(readings.variable, DateColumn):  # so many days apart: they were not rounded
        return None
    heap = heaping(readings.samples.pooled)
    width = readings.edges.width
    if heap is None or width is None:
        return None
    text = f"{100 * heap.share:.0f} % of the values are multiples of {exact(heap.step)}"
    if width >= heap.step and width % heap.step == 0:
        return Notice("heaped-values", f"{text}: they were rounded, or guessed.")
    wider = heap.step * max(1, round(width / heap.step))
    bins = readings.recipe.bins.with_width(wider)
    return Notice(
        "heaped-values",
        f"{text}, so bins {exact(width)} wide catch now more, now fewer of them.",
        readings.recipe.binned(bins),
        f"make bins {exact(wider)} wide",
    )


def _too_few_bins(readings: Readings) -> Notice | None:
    """Narrower bins show a peak more, at two widths in a row, and the noise in them does not
    explain it."""
    if heaping(readings.samples.pooled):
        return None  # narrow bins then show heaps, not peaks
    from rhabdos.figure.readings.ladder import ladder

    rungs = ladder(readings)
    here = next(
        (index for index, rung in enumerate(rungs) if rung.width == readings.edges.width), 0
    )
    for group, reading in enumerate(readings.groups):
        now = rungs[here].peaks[group] if rungs else 0
        for index in range(here - 1, 0, -1):
            narrower = rungs[index].peaks[group]
            if now < narrower <= _MOST_PEAKS and rungs[index - 1].peaks[group] == narrower:
                width = rungs[index].width
                few = f"only {counted(now, 'peak', 'peaks')}" if now else "none"
                many = counted(narrower, "peak", "peaks")
                wide = readings.variable.format_difference(width)
                text = (
                    f"{brief(reading.label)} shows {many} in bins {wide} wide, and {few} in these."
                )
                cure = readings.recipe.binned(readings.recipe.bins.with_width(width))
                return Notice("too-few-bins", text, cure, f"make bins {wide} wide")
    return None


def _instead(readings: Readings) -> Notice | None:
    asked = readings.recipe.bins.rule
    of_axes = [ruled.instead for ruled in readings.ruled_by_axis if ruled and ruled.instead]
    instead = of_axes[0] if of_axes else None
    if instead is None or asked is None:
        return None
    return Notice(
        "rule-instead",
        f"{RULES[asked].title} gives no width where the quartiles are equal; "
        f"{RULES[instead].title}’s rule is used.",
        weight=DIFFERS,
    )


def _limited(readings: Readings) -> Notice | None:
    if not any(ruled.limited for ruled in readings.ruled_by_axis if ruled):
        return None
    return Notice(
        "bins-limited",
        "The rule asks for more bins than can be told apart; it was held to at most "
        f"{MOST_RULE_BINS:,}.",
        weight=DIFFERS,
    )


FORM = FigureForm(card=card, stops=stops, span=span, reach=reach, notices=bar_notices)
