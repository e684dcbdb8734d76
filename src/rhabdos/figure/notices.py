"""Notices: where a picture would mislead, and the cure."""

import numpy as np
from msgspec import Struct

from rhabdos.data.samples import Pooled
from rhabdos.figure.curves import CurveReading, curves, density_curves
from rhabdos.figure.ladder import ladder
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import Bins, Recipe
from rhabdos.figure.wording import counted, exact, in_running_text, with_unit
from rhabdos.quoting import brief
from rhabdos.stats.binning import Edges
from rhabdos.stats.oddities import heaping, missing_code
from rhabdos.stats.rounding import multiple_below
from rhabdos.stats.rules import MOST_RULE_BINS, RULES

_UNEQUAL_N = 1.5
_SMALL = 10
_MOST_PEAKS = 6  # more are more likely the grain of the values than their shape
_SHARE_PAST = 0.01
_FINEST = 2_000  # bandwidths from the smallest to the largest value that a page can show


class Notice(Struct, frozen=True):
    """Something the reader of a figure should know.

    Attributes
    ----------
    code : str
        For scripts.
    text : str
        A sentence.
    cure : Recipe or None
        The figure with the trouble gone, and what the cure does, in a few words.
    """

    code: str
    text: str
    cure: Recipe | None = None
    cure_text: str = ""


def notices(readings: Readings) -> tuple[Notice, ...]:
    """All notices of a figure, the most important first."""
    found = [
        _outside(readings),
        _unequal_bins(readings),
        _missing_code(readings),
        _ungrouped(readings),
        _unweighted(readings),
        _empty_groups(readings),
        _small_groups(readings),
        _unequal_n(readings),
        _heaped(readings),
        _too_few_bins(readings),
        *_curve_notices(readings),
        _limited(readings),
        _instead(readings),
    ]
    return tuple(notice for notice in found if notice)


def _outside(readings: Readings) -> Notice | None:
    if not readings.outside:
        return None
    edges = readings.edges
    lie = "value lies" if readings.outside == 1 else "values lie"
    text = (
        f"{readings.outside:,} {lie} outside the bins ({exact(edges.low)} to {exact(edges.high)})."
    )
    return Notice("hidden-values", text, _with_all(readings), "show all")


def _with_all(readings: Readings) -> Recipe | None:
    """The figure with bins for all values, or None where no number of bins can hold them."""
    edges, pooled, bins = readings.edges, readings.samples.pooled, readings.recipe.bins
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
        return Bins(edges=tuple(widened), closed=bins.closed, shared=bins.shared)
    if bins.width is None or bins.start is None:
        return bins.changed(start=None)
    steps = -(
        -(bins.start - pooled.minimum) // bins.width
    )  # keeps the edges where they are and begins further down
    start = float(f"{bins.start - steps * bins.width:.12g}")
    return Bins(width=bins.width, start=start, closed=bins.closed, shared=bins.shared)


def _unequal_bins(readings: Readings) -> Notice | None:
    if readings.edges.width is not None or readings.cumulative:
        return None
    asked = readings.recipe.show.heights
    if asked == "density":
        return Notice(
            "unequal-bins", "The bins are unequal: compare the areas of bars, not their heights."
        )
    return Notice(
        "unequal-bins",
        f"The bins are unequal, so heights show density instead of {asked}: "
        "a wide bin would look taller than its values deserve.",
    )


def _ungrouped(readings: Readings) -> Notice | None:
    count = readings.samples.ungrouped
    if not count or not readings.split:
        return None
    has, are = ("has", "is") if count == 1 else ("have", "are")
    values, level = counted(count, "value", "values"), in_running_text(brief(readings.split.label))
    return Notice("ungrouped-values", f"{values} {has} no {level} and {are} in no group.")


def _unweighted(readings: Readings) -> Notice | None:
    count, weight = readings.samples.unweighted, readings.samples.weight
    if not count or weight is None:
        return None
    has, are = ("has", "is") if count == 1 else ("have", "are")
    return Notice(
        "unweighted-rows",
        f"{counted(count, 'row', 'rows')} {has} no {brief(weight.label)} and {are} left out.",
    )


def _empty_groups(readings: Readings) -> Notice | None:
    empty = [group.label for group in readings.groups if not group.n]
    if not empty:
        return None
    return Notice("empty-groups", f"No values in {_listed(empty)}.")


def _small_groups(readings: Readings) -> Notice | None:
    small = [f"{group.label} ({group.n})" for group in readings.groups if 0 < group.n < _SMALL]
    if not small:
        return None
    return Notice("small-groups", f"Too few values to show a shape: {_listed(small)}.")


def _listed(words: list[str], most: int = 5) -> str:
    return ", ".join(brief(word) for word in words[:most]) + (
        f" and {len(words) - most} more" if len(words) > most else ""
    )


def _missing_code(readings: Readings) -> Notice | None:
    spike = missing_code(readings.samples.pooled)
    if spike is None or not readings.edges.low <= spike.code <= readings.edges.high:
        return None
    text = (
        f"{spike.count:,} values are exactly {exact(spike.code)}, far from all others: is "
        "that a code for missing?"
    )
    bins, width = readings.recipe.bins, readings.edges.width
    if bins.edges is not None or width is None or spike.code > spike.nearest:
        return Notice("missing-code", text)
    start = multiple_below(spike.nearest, width)
    cure = readings.recipe.binned(bins.changed(start=start)) if start > spike.code else None
    return Notice("missing-code", text, cure, "begin above it" if cure else "")


def _heaped(readings: Readings) -> Notice | None:
    heap = heaping(readings.samples.pooled)
    width = readings.edges.width
    if heap is None or width is None:
        return None
    text = f"{100 * heap.share:.0f} % of the values are multiples of {heap.step:g}"
    if width >= heap.step and width % heap.step == 0:
        return Notice("heaped-values", f"{text}: they were rounded, or guessed.")
    wider = heap.step * max(1, round(width / heap.step))
    bins = Bins(width=wider, closed=readings.recipe.bins.closed)
    return Notice(
        "heaped-values",
        f"{text}, so bins {exact(width)} wide catch now more, now fewer of them.",
        readings.recipe.binned(bins),
        f"make bins {wider:g} wide",
    )


def _unequal_n(readings: Readings) -> Notice | None:
    sizes = [group.n for group in readings.groups if group.n]
    show = readings.recipe.show
    by_group = readings.scale == "density" or readings.scale in ("percent", "proportion")
    if len(sizes) < 2 or max(sizes) <= _UNEQUAL_N * min(sizes) or (by_group and show.of == "group"):
        return None
    assert readings.split is not None
    return Notice(
        "unequal-n",
        f"Groups hold from {min(sizes):,} to {max(sizes):,} values, so heights show size as well "
        "as shape.",
        readings.recipe.showing(
            heights="percent" if readings.scale == "count" else show.heights, of="group"
        ),
        f"show percent of each {in_running_text(brief(readings.split.label))}"
        if readings.scale == "count"
        else "show shares of each group",
    )


def _too_few_bins(readings: Readings) -> Notice | None:
    """Narrower bins show a peak more, at two widths in a row, and the noise in them does not
    explain it."""
    if heaping(readings.samples.pooled):
        return None  # narrow bins then show heaps, not peaks
    rungs = ladder(readings)
    here = next(
        (place for place, rung in enumerate(rungs) if rung.width == readings.edges.width), 0
    )
    for group, reading in enumerate(readings.groups):
        now = rungs[here].peaks[group] if rungs else 0
        for place in range(here - 1, 0, -1):
            found = rungs[place].peaks[group]
            if now < found <= _MOST_PEAKS and rungs[place - 1].peaks[group] == found:
                width = rungs[place].width
                peaks = counted(now, "peak", "peaks") if now else "no peak"
                wide = with_unit(exact(width), readings.variable.unit)
                text = (
                    f"{brief(reading.label)} shows {found} peaks in bins {wide} wide, and "
                    f"only {peaks} in these."
                )
                cure = readings.recipe.binned(Bins(width=width, closed=readings.recipe.bins.closed))
                return Notice("too-few-bins", text, cure, f"make bins {wide} wide")
    return None


def _past_bound(readings: Readings) -> Notice | None:
    """A density curve says that values may lie where the data, and what they measure, say that none
    can."""
    recipe, pooled = readings.recipe, readings.samples.pooled
    drawn = [curve for curve in curves(readings) if curve.kind == "density" and not curve.lack]
    bounds = [("lower", 0.0)] if pooled.minimum >= 0 else []
    if readings.variable.unit == "%" and pooled.maximum <= 100:
        bounds.append(("upper", 100.0))
    for name, bound in bounds:
        if getattr(recipe.curve, name) is not None:
            continue
        past = max(
            (_share_past(curve, bound, name == "lower", readings.cumulative) for curve in drawn),
            default=0.0,
        )
        if past > _SHARE_PAST:
            side = "below" if name == "lower" else "above"
            text = (
                f"A curve puts up to {100 * past:.1f} % of its values {side} {bound:g}, where "
                "no value lies."
            )
            cure = recipe.changed(curve=recipe.curve.changed(**{name: bound}))
            return Notice("past-bound", text, cure, f"end the curve at {bound:g}")
    return None


def _share_past(curve: CurveReading, bound: float, below: bool, cumulative: bool) -> float:
    x, y = curve.x, curve.y
    risen = (
        y if cumulative else np.concatenate([[0.0], np.cumsum((y[1:] + y[:-1]) / 2 * np.diff(x))])
    )
    upto = float(np.interp(bound, x, risen)) / (float(risen[-1]) or 1.0)
    return upto if below else 1 - upto


def _curve_notices(readings: Readings) -> tuple[Notice | None, ...]:
    if "curve" not in readings.recipe.show.forms and "normal" not in readings.recipe.show.forms:
        return ()
    lacking: dict[str, list[str]] = {}
    for curve in curves(readings):
        if curve.lack:
            lacking.setdefault(curve.lack, []).append(readings.groups[curve.group].label)
    without = tuple(
        Notice("no-curve", f"No curve of {_listed(names)}. {lack}")
        for lack, names in lacking.items()
    )
    if "curve" not in readings.recipe.show.forms:
        return without
    return (*without, _past_bound(readings), _bandwidth_instead(readings), _too_fine(readings))


def _bandwidth_instead(readings: Readings) -> Notice | None:
    """The bandwidth rule has no answer for some groups."""
    asked = readings.recipe.curve.bandwidth
    names = [
        group.label
        for group, reading in zip(readings.groups, density_curves(readings), strict=True)
        if reading.rule not in (asked, None)
    ]
    if not names:
        return None
    why = "values are rounded too coarsely, or lie too far apart"
    text = (
        f"The bandwidth’s rule has no answer for {_listed(names)}: {why}. Silverman’s is used "
        "there."
    )
    return Notice("bandwidth-instead", text)


def _too_fine(readings: Readings) -> Notice | None:
    """A curve has more detail than a page can show."""
    pooled = readings.samples.pooled
    span = pooled.maximum - pooled.minimum
    for group, reading in zip(readings.groups, density_curves(readings), strict=True):
        curve = reading.curve
        if curve is None or not (curve.averaged_over or curve.bandwidth < span / _FINEST):
            continue
        unit = readings.variable.unit
        width = with_unit(exact(float(f"{curve.bandwidth:.3g}")), unit)
        text = (
            f"The curve of {_listed([group.label])} is smoothed over {width} only, finer than "
            "a page shows it all."
        )
        if curve.averaged_over:
            over = with_unit(exact(float(f"{curve.averaged_over:.3g}")), unit)
            text += f" Its points are averages over {over}."
        return Notice("fine-curve", text)
    return None


def _instead(readings: Readings) -> Notice | None:
    instead, asked = readings.ruled.instead, readings.recipe.bins.rule
    if instead is None or asked is None:
        return None
    return Notice(
        "rule-instead",
        f"{RULES[asked].title} gives no width where the quartiles are equal; "
        f"{RULES[instead].title}’s rule is used.",
    )


def _limited(readings: Readings) -> Notice | None:
    if not readings.ruled.limited:
        return None
    return Notice(
        "bins-limited",
        "The rule asks for more bins than can be told apart; it was held to at most "
        f"{MOST_RULE_BINS:,}.",
    )
