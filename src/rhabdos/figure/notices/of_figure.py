"""Notices: where a picture would mislead, and the cure."""

import math

from rhabdos.data.gathering import MOST_GROUPS
from rhabdos.data.problems.problems import codes_among, written_code
from rhabdos.data.steps.missing import DeclareMissing
from rhabdos.errors import Refusal
from rhabdos.figure.forms import homes
from rhabdos.figure.notices.of_axes import axis_notices
from rhabdos.figure.notices.of_cells import in_cells
from rhabdos.figure.notices.of_tails import tail_notice
from rhabdos.figure.readings.pairing import paired_values
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.reference import shown_reference
from rhabdos.figure.readings.value_scale import WORDS
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.words.notice import DIFFERS, HIDES, LACKS, Notice, listed_briefly
from rhabdos.figure.words.placeholders import not_standing
from rhabdos.quoting import brief
from rhabdos.stats.oddities import Spike, missing_code
from rhabdos.stats.rounding import multiple_below
from rhabdos.wording import counted, in_running_text

_UNEQUAL_N = 1.5  # times as many values in one group as in another, from which on counts mislead
_SMALL = 10  # values of a group, below which its shape says little
_MOST_COLOURS = 8  # that an eye tells apart
_MOST_PANELS = 48  # of one page
# Lanes above one another that a page still shows; columns of panels where none are asked for.
_MOST_ACROSS, _USUAL_COLUMNS = 72, 5


def notices(readings: Readings) -> tuple[Notice, ...]:
    """All notices of a figure, the most important first; forms add their own."""
    candidates = [
        *axis_notices(readings),
        _standing_for_nothing(readings),
        _unequal_bins(readings),
        _missing_code(readings),
        _left_out(readings),
        _ungrouped(readings),
        _unweighted(readings),
        _empty_groups(readings),
        _small_groups(readings),
        _unequal_n(readings),
        _stacked_shares(readings),
        tail_notice(readings),
        _crowded(readings),
        _one_level(readings),
        _unknown_levels(readings),
        _not_paired(readings),
        in_cells(readings),
    ]
    for home in homes(readings.recipe):
        candidates += home.notices(readings)
    told = {(notice.code, notice.text): notice for notice in candidates if notice}
    return tuple(sorted(told.values(), key=lambda notice: notice.weight))


def _standing_for_nothing(readings: Readings) -> Notice | None:
    """Names within braces that no number of the data has."""
    missed = not_standing(readings)
    if not missed:
        return None
    named = listed_briefly([f"“{{{name}}}”" for name in missed])
    stand = "stands" if len(missed) == 1 else "stand"
    return Notice(
        "words-stand-for-nothing",
        f"{named} in the words of the figure {stand} for nothing. Write for example {{n}}, "
        "{mean} or {median of a group}; braces themselves are doubled.",
        weight=DIFFERS,
    )


def _unequal_bins(readings: Readings) -> Notice | None:
    if not readings.needs_bins or readings.cumulative or readings.fair:
        return None
    asked = readings.recipe.show.heights
    if readings.kind != "linear":
        return _unequal_along(readings)
    if asked == "density":
        return Notice(
            "unequal-bins", "The bins are unequal: compare the areas of bars, not their heights."
        )
    return Notice(
        "unequal-bins",
        f"The bins are unequal, so heights show density instead of {asked}: "
        "a wide bin would look taller than its values deserve.",
    )


def _unequal_along(readings: Readings) -> Notice:
    """Bins of one width are not as wide as one another on an axis of logs or roots."""
    words = WORDS[readings.kind]
    asked = readings.recipe.show.heights
    instead = f" instead of {asked}" if asked != "density" else ""
    return Notice(
        "unequal-bins",
        f"On {words.on} these bins are not equally wide, so heights show density per {words.per}"
        f"{instead}: compare the areas of bars, not their heights.",
        readings.recipe.binned(readings.recipe.bins.along_the_axis(readings.kind)),
        f"make bins equal {words.said}",
    )


def _ungrouped(readings: Readings) -> Notice | None:
    count = readings.gathered.ungrouped
    if not count or readings.recipe.groups.missing:
        return None
    has, are = ("has", "is") if count == 1 else ("have", "are")
    lacking = [
        factor.label
        for at, factor in enumerate(readings.gathered.factors)
        if any(cell.codes[at] == -1 for cell in readings.gathered.cells)
    ]
    values = counted(count, "value", "values")
    level = " or ".join(in_running_text(brief(label)) for label in lacking)
    return Notice(
        "ungrouped-values",
        f"{values} {has} no {level} and {are} in no group.",
        readings.recipe.grouped(missing=True),
        "show them as a group",
        weight=HIDES,
    )


def _left_out(readings: Readings) -> Notice | None:
    """Levels that are hidden, and how many values that leaves."""
    hidden, gathered = readings.recipe.groups.hidden, readings.gathered
    names = [
        name
        for name in dict.fromkeys(hidden)
        if any(name in factor.levels for factor in gathered.factors)
        or any(name in (variable.name, variable.label) for variable in gathered.variables)
    ]
    if not names:
        return None
    shown, every = readings.samples.pooled.n, gathered.pooled.n
    are = "is" if len(names) == 1 else "are"
    return Notice(
        "hidden-levels",
        f"{listed_briefly(names)} {are} left out: {shown:,} of {every:,} values are shown.",
        readings.recipe.grouped(hidden=()),
        "show all levels",
        weight=HIDES,
    )


def _unknown_levels(readings: Readings) -> Notice | None:
    """Levels that a recipe names and these data do not have."""
    asked, gathered = readings.recipe.groups, readings.gathered
    by_hand = () if isinstance(asked.order, str | None) else asked.order
    known = {level for factor in gathered.factors for level in factor.levels}
    known |= {name for v in gathered.variables for name in (v.name, v.label)}
    known |= {
        level.label for d in (*readings.plan.within, *readings.plan.paneled) for level in d.levels
    }
    unknown = [
        n for n in dict.fromkeys((*by_hand, *asked.hidden, *asked.forward)) if n not in known
    ]
    if not unknown:
        return None
    return Notice(
        "unknown-levels",
        f"No group is called {listed_briefly(unknown)}, which the recipe orders, leaves out or "
        "brings forward.",
        weight=DIFFERS,
    )


def _stacked_shares(readings: Readings) -> Notice | None:
    plan, show = readings.plan, readings.recipe.show
    several = any(len(lane.groups) > 1 for panel in plan.panels for lane in panel.lanes)
    if plan.arrange != "stacked" or not plan.heights or not several:
        return None
    if readings.scale == "count" or show.of == "all":
        return None
    return Notice(
        "stacked-shares",
        "Shares of each group are stacked, though each is a part of another whole.",
        readings.recipe.showing(of="all"),
        "show shares of all values",
    )


def _crowded(readings: Readings) -> Notice | None:
    """More groups or panels than can be told apart."""
    plan, recipe = readings.plan, readings.recipe
    together = max(len(lane.groups) for panel in plan.panels for lane in panel.lanes)
    shared = plan.heights and plan.arrange in ("overlaid", "side-by-side", "stacked")
    if shared and together > _MOST_COLOURS:
        return Notice(
            "crowded-groups",
            f"{together:,} groups share a base line: their colours can hardly be told apart.",
            recipe.showing(arrange="lanes"),
            "put them in lanes",
        )
    across = _strips_across(readings)
    if not plan.upright and across > _MOST_ACROSS:
        return Notice(
            "crowded-lanes",
            f"{across:,} lanes above one another are too thin to read on a page. Leave some levels "
            "out, put a factor in panels, or make the page larger.",
        )
    if len(plan.panels) > _MOST_PANELS:
        cure = None
        if len(plan.paneled) == 1 and not plan.within and len(plan.panels) <= MOST_GROUPS:
            cure = recipe.showing(split=recipe.panels.by).paneled(by=())
        return Notice(
            "crowded-panels",
            f"{len(plan.panels):,} panels are too small to read on a page. Leave some levels out, "
            "or make the page larger.",
            cure,
            "put them in lanes",
        )
    return None


def _strips_across(readings: Readings) -> int:
    """About how many strips or bands lie above one another on the page."""
    plan, columns = readings.plan, readings.recipe.panels.columns or _USUAL_COLUMNS
    rows = len(plan.rows) or math.ceil(len(plan.panels) / columns)
    lane = max(len(lane.groups) for lane in plan.lanes)
    return rows * len(plan.lanes) * (lane if plan.strips or plan.arrange == "lanes" else 1)


def _one_level(readings: Readings) -> Notice | None:
    """A factor that parts nothing."""
    alone = [d.label for d in (*readings.plan.within, *readings.plan.paneled) if d.total == 1]
    if not alone:
        return None
    has = "has one level only" if len(alone) == 1 else "have one level each"
    return Notice(
        "one-level", f"{listed_briefly(alone)} {has}: there is nothing to compare.", weight=DIFFERS
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
    for variable, pooled in readings.by_variable:
        spike = missing_code(pooled, codes_among(variable)) if pooled.n else None
        if spike is None or _hidden(readings, spike.code):
            continue
        of = f" of {brief(variable.label)}" if len(readings.variables) > 1 else ""
        code = variable.written(spike.code)
        text = (
            f"{spike.count:,} values{of} are exactly {code}, far from all others: is that a code "
            "for missing?"
        )
        step = DeclareMissing(variable=variable.name, codes=(written_code(variable, spike.code),))
        cure, cure_text = _begun_above(readings, spike)
        words = f"count {code} as missing"
        return Notice("missing-code", text, cure, cure_text, step=step, step_text=words)
    return None


def _hidden(readings: Readings, value: float) -> bool:
    """Whether no bin of the figure holds a value."""
    return (
        readings.needs_bins
        and readings.plan.axes == 1
        and not readings.edges.low <= value <= readings.edges.high
    )


def _begun_above(readings: Readings, spike: Spike) -> tuple[Recipe | None, str]:
    """The figure with bins that begin above a code, where they can."""
    if not readings.needs_bins or len(readings.variables) > 1:
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
    divided = in_running_text(brief(readings.divided or "group"))
    return Notice(
        "unequal-n",
        f"Groups hold from {min(sizes):,} to {max(sizes):,} values, so heights show size as well "
        "as shape.",
        readings.recipe.showing(
            heights="percent" if readings.scale == "count" else show.heights, of="group"
        ),
        f"show percent of each {divided}"
        if readings.scale == "count"
        else "show shares of each group",
    )


def _not_paired(readings: Readings) -> Notice | None:
    """Groups are to be compared case by case, and the cases cannot be found."""
    asked, reference = readings.recipe.compare, shown_reference(readings)
    if asked is None or asked.paired is False or reference is None:
        return None
    for group in readings.groups:
        if group.n and group.index != reference.index:
            try:
                paired_values(readings, group, reference)
            except Refusal as refusal:
                cure = readings.recipe.changed(compare=asked.changed(paired=False))
                return Notice("not-paired", str(refusal), cure, "take rows as independent", LACKS)
    return None
