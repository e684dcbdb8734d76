"""Stops: the parts of a figure that are read one by one, by pointing or by keys."""

from typing import Literal

from msgspec import Struct

from rhabdos.figure.forms import figure_form
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Form
from rhabdos.figure.words.tooltip import Card


class Stop(Struct, frozen=True):
    """One part: a form, a panel, a group (None: all groups that lie there), and a value.

    Of a strip that is read as a whole there is no value.
    """

    form: Form
    group: int | None
    value: float | None = None
    panel: int = 0


def groups_at(readings: Readings, stop: Stop) -> tuple[int, ...]:
    """The groups that a stop tells of: one alone, or all of its panel."""
    return readings.plan.panels[stop.panel].groups if stop.group is None else (stop.group,)


def rows_of_stops(readings: Readings) -> tuple[tuple[Stop, ...], ...]:
    """What keys step through: along a row with the values, and from row to row.

    Bars, or else curves, come first, place by place and panel by panel; then each strip form,
    group by group.
    """
    rows: list[tuple[Stop, ...]] = []
    for panel in readings.plan.panels:
        filled = [index for index in panel.groups if readings.groups[index].n]
        if readings.plan.heights and filled:
            form = reading_form(readings)
            stops = figure_form(form).stops
            each = [None] if read_together(readings) else filled
            for group in each:
                of = filled if group is None else [group]
                rows.append(
                    tuple(Stop(form, group, value, panel.index) for value in stops(readings, of))
                )
        rows += [
            tuple(Stop(form, group, None, panel.index) for group in filled)
            for form in readings.plan.strips
        ]
    return tuple(row for row in rows if row)


def reading_form(readings: Readings) -> Form:
    """The form over the axis of heights that is read where several lie over one another."""
    return readings.plan.heights[0]


def read_together(readings: Readings) -> bool:
    """Whether the groups of a panel can be read at one place: not where each has its own bins."""
    return readings.recipe.bins.shared or not readings.needs_bins


def stop_at(
    readings: Readings, form: Form | None, panel: int, group: int | None, value: float
) -> Stop | None:
    """The stop at a place: in the strip of a form, or (None) among the heights of a lane.

    Parameters
    ----------
    form : str, optional
        Of the strip that the place is in.
    panel, group : int
        Their places in the plan; no group where several lie over one another.
    value : float
        In the variable's unit; of dates in days since 1970.
    """
    if form is not None:
        return Stop(form, group, None if form == "box" else value, panel)
    if not readings.plan.heights:
        return None
    form = reading_form(readings)
    alone = None if read_together(readings) else group
    there = groups_at(readings, Stop(form, alone, value, panel))
    if not any(readings.groups[index].n for index in there):
        return None
    home = figure_form(form)
    low, high = home.reach(readings, there)
    if not low <= value <= high:
        return None
    first, last = home.span(readings, there, value)
    return Stop(form, alone, value if first == last else first / 2 + last / 2, panel)


def card_of(readings: Readings, stop: Stop, pointed: int | None = None) -> Card:
    """What a stop says; ``pointed`` is the group whose line or bar the pointer is on."""
    groups = groups_at(readings, stop)
    value = readings.summaries[groups[0]].median if stop.value is None else stop.value
    return figure_form(stop.form).card(readings, groups, pointed, value)


def span_of(readings: Readings, stop: Stop) -> tuple[float, float] | None:
    """From which value to which a stop reaches; None for a strip as a whole."""
    if stop.value is None:
        return None
    return figure_form(stop.form).span(readings, groups_at(readings, stop), stop.value)


Towards = Literal["next", "before", "first", "last", "row above", "row below"]


def stepped(rows: tuple[tuple[Stop, ...], ...], here: Stop | None, towards: Towards) -> Stop:
    """The stop that a step leads to, of those in rows; at first, the nearest end of the first."""
    row = next((at for at, stops in enumerate(rows) if here in stops), None)
    if row is None or here is None:
        return rows[0][-1] if towards in ("before", "last") else rows[0][0]
    stops = rows[row]
    index, last = stops.index(here), len(stops) - 1
    match towards:
        case "row above" | "row below":
            other = rows[min(len(rows) - 1, max(0, row + (1 if towards == "row below" else -1)))]
            return other[min(index, len(other) - 1)]
        case "next":
            return stops[min(last, index + 1)]
        case "before":
            return stops[max(0, index - 1)]
    return stops[0] if towards == "first" else stops[last]


def still_there(stop: Stop, readings: Readings) -> bool:
    """Whether a figure still has the part, with values in it."""
    if stop.form not in readings.recipe.show.forms or stop.panel >= len(readings.plan.panels):
        return False
    if stop.group is not None and stop.group >= len(readings.groups):
        return False
    return any(readings.groups[group].n for group in groups_at(readings, stop))
