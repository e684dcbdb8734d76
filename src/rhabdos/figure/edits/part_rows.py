"""From a part of the figure to its rows: the step that would keep just these."""

from rhabdos.data.columns import DateColumn
from rhabdos.data.date_bounds import bound_written
from rhabdos.data.steps.keep import Bound, Condition, KeepRows
from rhabdos.figure.edits.stops import Stop, groups_at, span_of
from rhabdos.figure.readings.between import ends_belong
from rhabdos.figure.readings.readings import Readings


def rows_of_stop(readings: Readings, stop: Stop, group: int | None = None) -> KeepRows | None:
    """The rows of a bar, of a box, or of a place on a curve; None where values are not those of
    the rows. A bar of heights that add up stands for all values up to its end."""
    group = stop.group if group is None else group
    groups = (group,) if group is not None else groups_at(readings, stop)
    span = span_of(readings, stop)
    if span is None or span[0] == span[1]:
        return rows_between(readings, None, None, groups)
    low = None if readings.cumulative else span[0]
    return rows_between(readings, low, span[1], groups)


def rows_between(
    readings: Readings, low: float | None, high: float | None, groups: tuple[int, ...]
) -> KeepRows | None:
    """The rows of some groups from a value to another; all of them where no values are given.

    Where the ends are edges of their bins, an edge belongs to the bin that it belongs to in the
    figure.
    """
    if readings.recipe.show.standardised or not groups:
        return None
    names = {readings.groups[group].variable.name for group in groups}
    if len(names) > 1:
        return None
    name = names.pop()
    if high is None:
        condition = Condition(variable=name, missing=False)
    else:
        with_low, with_high = ends_belong(readings, groups, low, high)
        first: Bound | None = low
        last: Bound | None = high
        if isinstance(readings.groups[groups[0]].variable, DateColumn):  # a step tells no days
            if low is not None:
                first = bound_written(low, upper=not with_low, ahead=with_low) or low
            last = bound_written(high, upper=with_high, ahead=not with_high) or high
        condition = Condition(
            variable=name,
            low=first if with_low else None,
            above=None if with_low else first,
            high=last if with_high else None,
            below=None if with_high else last,
        )
    return KeepRows(where=(condition, *_levels(readings, groups)))


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
