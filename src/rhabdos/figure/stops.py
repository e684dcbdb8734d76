"""Stops: the parts of a figure that are read one by one, by pointing or by keys."""

from msgspec import Struct

from rhabdos.figure.forms import figure_form
from rhabdos.figure.hover import Card
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import Form


class Stop(Struct, frozen=True):
    """One part: a form, a group (None: all groups that lie there), and a value along the axis.

    Of a strip that is read as a whole there is no value.
    """

    form: Form
    group: int | None
    value: float | None = None


def rows_of_stops(readings: Readings) -> tuple[tuple[Stop, ...], ...]:
    """What keys step through: along a row with the values, and from row to row.

    Bars, or else curves, come first, place by place; then each strip form, group by group.
    """
    rows: list[tuple[Stop, ...]] = []
    filled = [group.place for group in readings.groups if group.n]
    if readings.plan.heights:
        form = reading_form(readings)
        stops = figure_form(form).stops
        if readings.recipe.bins.shared or not readings.needs_bins:
            rows.append(tuple(Stop(form, None, value) for value in stops(readings, None)))
        else:
            rows += [
                tuple(Stop(form, group, value) for value in stops(readings, group))
                for group in filled
            ]
    rows += [tuple(Stop(form, group) for group in filled) for form in readings.plan.strips]
    return tuple(row for row in rows if row)


def reading_form(readings: Readings) -> Form:
    """The form over the axis of heights that is read where several lie over one another."""
    return readings.plan.heights[0]


def stop_at(readings: Readings, form: Form | None, group: int | None, value: float) -> Stop | None:
    """The stop at a place: in the strip of a form, or (None) among the heights of a lane."""
    if form is not None:
        return Stop(form, group, None if form == "box" else value)
    if not readings.plan.heights:
        return None
    form = reading_form(readings)
    alone = group if not readings.recipe.bins.shared and readings.needs_bins else None
    home = figure_form(form)
    low, high = home.reach(readings, alone)
    if not low <= value <= high:
        return None
    first, last = home.span(readings, alone, value)
    return Stop(form, alone, value if first == last else first / 2 + last / 2)


def card_of(readings: Readings, stop: Stop, pointed: int | None = None) -> Card:
    """What a stop says; ``pointed`` is the group whose line or bar the pointer is on."""
    group = stop.group if stop.group is not None else pointed
    value = stop.value
    if value is None:
        value = readings.summaries[stop.group or 0].median
    return figure_form(stop.form).card(readings, group, value)


def span_of(readings: Readings, stop: Stop) -> tuple[float, float] | None:
    """From which value to which a stop reaches; None for a strip as a whole."""
    if stop.value is None:
        return None
    return figure_form(stop.form).span(readings, stop.group, stop.value)
