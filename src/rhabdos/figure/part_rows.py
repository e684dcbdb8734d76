"""From a part of the figure to its rows: the step that would keep just these."""

import numpy as np

from rhabdos.data.steps.keep import Condition, KeepRows
from rhabdos.figure.readings import Readings
from rhabdos.figure.stops import Stop, groups_at, span_of
from rhabdos.wording import with_unit


def rows_of_stop(readings: Readings, stop: Stop, group: int | None = None) -> KeepRows | None:
    """The rows of a bar, of a box, or of a place on a curve; None where values are not those of
    the rows."""
    group = stop.group if group is None else group
    groups = (group,) if group is not None else groups_at(readings, stop)
    span = span_of(readings, stop)
    if span is None or span[0] == span[1]:
        return rows_between(readings, None, None, groups)
    return rows_between(readings, *span, groups)


def rows_between(
    readings: Readings, low: float | None, high: float | None, groups: tuple[int, ...]
) -> KeepRows | None:
    """The rows of some groups from a value to another; all of them where no values are given.

    Where the ends are edges of bins, an edge belongs to the bin that it belongs to in the figure.
    """
    if readings.recipe.show.standardised or not groups:
        return None
    names = {readings.groups[group].variable.name for group in groups}
    if len(names) > 1:
        return None
    condition = _range(readings, names.pop(), low, high)
    return KeepRows(where=(condition, *_levels(readings, groups)))


def _range(readings: Readings, name: str, low: float | None, high: float | None) -> Condition:
    if low is None or high is None:
        return Condition(variable=name, missing=False)
    edges = set(readings.edges.values.tolist()) if readings.needs_bins else set()
    if not {low, high} <= edges:
        return Condition(variable=name, low=low, high=high)
    closed = readings.edges.closed
    if closed == "left" and high != readings.edges.high:
        return Condition(variable=name, low=low, below=high)
    if closed == "right" and low != readings.edges.low:
        return Condition(variable=name, above=low, high=high)
    return Condition(variable=name, low=low, high=high)


def _levels(readings: Readings, groups: tuple[int, ...]) -> list[Condition]:
    """What tells the rows of these groups from those of all that are shown."""
    conditions = []
    of_groups = [dict(readings.groups[group].levels) for group in groups]
    for factor in readings.gathered.factors:
        key = factor.name if factor.name in of_groups[0] else factor.label
        wanted = {levels.get(key) for levels in of_groups}
        if None in wanted:
            conditions.append(Condition(variable=factor.name, missing=True))
        elif len(wanted) < len(factor.levels):
            levels = tuple(level for level in factor.levels if level in wanted)
            conditions.append(Condition(variable=factor.name, levels=levels))
        elif factor.missing:
            conditions.append(Condition(variable=factor.name, missing=False))
    return conditions


def range_words(readings: Readings, groups: tuple[int, ...], low: float, high: float) -> str:
    """How many values of some groups lie from one value to another, and what share they are."""
    within = total = 0
    for group in groups:
        sample = readings.groups[group].sample
        if sample.n:
            up_to = int(sample.below(np.array([high]), inclusive=True)[0])
            within += up_to - int(sample.below(np.array([low]))[0])
        total += sample.n
    variable = readings.groups[groups[0]].variable if groups else readings.variable
    ends = f"{variable.written(low)} to {with_unit(variable.written(high), variable.unit)}"
    share = f" ({100 * within / total:.1f} %)" if total else ""
    return f"{ends}: {within:,} of {total:,} values{share}"
