"""Notices: where a picture would mislead, and the cure."""

from rhabdos.data.preparing import DeclareMissing
from rhabdos.figure.forms import homes
from rhabdos.figure.notice import HIDES, LACKS, Notice, listed_briefly
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import Recipe
from rhabdos.figure.wording import counted, exact, in_running_text
from rhabdos.quoting import brief
from rhabdos.stats.oddities import Spike, missing_code
from rhabdos.stats.rounding import multiple_below

_UNEQUAL_N = 1.5
_SMALL = 10


def notices(readings: Readings) -> tuple[Notice, ...]:
    """All notices of a figure, the most important first; forms add their own."""
    candidates = [
        _unequal_bins(readings),
        _missing_code(readings),
        _ungrouped(readings),
        _unweighted(readings),
        _empty_groups(readings),
        _small_groups(readings),
        _unequal_n(readings),
    ]
    for home in homes(readings.recipe):
        candidates += home.notices(readings)
    told = {(notice.code, notice.text): notice for notice in candidates if notice}
    return tuple(sorted(told.values(), key=lambda notice: notice.weight))


def _unequal_bins(readings: Readings) -> Notice | None:
    if not readings.needs_bins or readings.cumulative or readings.edges.width is not None:
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
    return Notice(
        "ungrouped-values", f"{values} {has} no {level} and {are} in no group.", weight=HIDES
    )


def _unweighted(readings: Readings) -> Notice | None:
    count, weight = readings.samples.unweighted, readings.samples.weight
    if not count or weight is None:
        return None
    has, are = ("has", "is") if count == 1 else ("have", "are")
    return Notice(
        "unweighted-rows",
        f"{counted(count, 'row', 'rows')} {has} no {brief(weight.label)} and {are} left out.",
        weight=HIDES,
    )


def _empty_groups(readings: Readings) -> Notice | None:
    empty = [group.label for group in readings.groups if not group.n]
    if not empty:
        return None
    return Notice("empty-groups", f"No values in {listed_briefly(empty)}.", weight=LACKS)


def _small_groups(readings: Readings) -> Notice | None:
    small = [f"{group.label} ({group.n})" for group in readings.groups if 0 < group.n < _SMALL]
    if not small:
        return None
    text = f"Too few values to show a shape: {listed_briefly(small)}."
    return Notice("small-groups", text, weight=LACKS)


def _missing_code(readings: Readings) -> Notice | None:
    spike = missing_code(readings.samples.pooled)
    if spike is None or _hidden(readings, spike.code):
        return None
    text = (
        f"{spike.count:,} values are exactly {exact(spike.code)}, far from all others: is "
        "that a code for missing?"
    )
    step = DeclareMissing(readings.variable.name, spike.code)
    cure, cure_text = _begun_above(readings, spike)
    words = f"count {exact(spike.code)} as missing"
    return Notice("missing-code", text, cure, cure_text, step=step, step_text=words)


def _hidden(readings: Readings, value: float) -> bool:
    """Whether no bin of the figure holds a value."""
    return readings.needs_bins and not readings.edges.low <= value <= readings.edges.high


def _begun_above(readings: Readings, spike: Spike) -> tuple[Recipe | None, str]:
    """The figure with bins that begin above a code, where they can."""
    if not readings.needs_bins:
        return None, ""
    bins, width = readings.recipe.bins, readings.edges.width
    if bins.edges is not None or width is None or spike.code > spike.nearest:
        return None, ""
    start = multiple_below(spike.nearest, width)
    if start <= spike.code:
        return None, ""
    return readings.recipe.binned(bins.changed(start=start)), "begin above it"


def _unequal_n(readings: Readings) -> Notice | None:
    if not readings.plan.heights:
        return None
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
