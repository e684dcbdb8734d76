"""Decile arrows: from each tenth of the reference to the same tenth of every other group."""

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.data.columns import NumberColumn
from rhabdos.data.sample_sets import SampleSet
from rhabdos.figure.forms.form import FigureForm
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.figure.readings.reference import (
    compared_with,
    confidence_of_each,
    decile_differences,
    difference_told,
    in_ratios,
    quantile_definition,
    rounded_for,
    shown_reference,
    sure_told,
)
from rhabdos.figure.words.notice import LACKS, Notice
from rhabdos.figure.words.tooltip import Card, Line
from rhabdos.memo import last_answers
from rhabdos.quoting import quoted
from rhabdos.stats.quantiles import quantiles
from rhabdos.stats.two_samples.comparing import DECILES
from rhabdos.wording import rounded

TENTHS = ("1st", "2nd", "3rd", "4th", "5th", "6th", "7th", "8th", "9th")


class Arrows(Struct, frozen=True, eq=False):
    """The arrows of one group, nine of them.

    Attributes
    ----------
    starts, ends : array, shape (9,)
        The tenths of the reference and of the group.
    low, high : array, shape (9,)
        Where the ends would be at either end of the interval of their difference; NaN where too
        few values give none, and ``lack`` says why of the outermost that has none.
    """

    group: int
    reference: int
    starts: FloatArray
    ends: FloatArray
    low: FloatArray
    high: FloatArray
    lack: str = ""


def arrows(readings: Readings) -> dict[int, Arrows]:
    """The arrows of each group with values that is not the reference, by its place in the plan."""
    return _arrows(readings.samples, readings)


def _depends_on(_samples: SampleSet, readings: Readings) -> tuple[object, ...]:
    recipe = readings.recipe
    groups = recipe.groups.changed(forward=())
    scale = recipe.axes.value.scale
    return recipe.show, recipe.panels, groups, recipe.compare, recipe.box.quartiles, scale


@last_answers(_depends_on, most=2)  # of the figure and of the variant beside it
def _arrows(_samples: SampleSet, readings: Readings) -> dict[int, Arrows]:
    reference = shown_reference(readings)
    if reference is None:
        return {}
    shares, definition = np.array(DECILES), quantile_definition(readings)
    starts = quantiles(reference.sample, shares, definition)
    sure = confidence_of_each(readings, compared_with(readings))
    drawn = {}
    for group in readings.groups:
        if group.index == reference.index or not group.n or group.axis != reference.axis:
            continue
        differences = decile_differences(readings, group, reference, sure)
        ends = quantiles(group.sample, shares, definition)
        ends_of = [np.array([getattr(each, at) for each in differences]) for at in ("low", "high")]
        # An end may pass the largest double, and is endless then.
        with np.errstate(over="ignore", invalid="ignore"):
            low, high = (
                starts * each if in_ratios(readings) else starts + each for each in ends_of
            )
        lack = next((each.lack for each in differences if each.lack), "")
        drawn[group.index] = Arrows(group.index, reference.index, starts, ends, low, high, lack)
    return drawn


def card(readings: Readings, groups: Sequence[int], _pointed: int | None, value: float) -> Card:
    """The tenth whose arrow ends next to a value: both values, and their difference."""
    group = readings.groups[groups[0]]
    of_group = arrows(readings).get(group.index)
    if of_group is None:
        return _of_reference(readings, group, value)
    near = np.minimum(np.abs(of_group.ends - value), np.abs(of_group.starts - value))
    tenth = int(near.argmin())
    variable: NumberColumn = group.variable
    start, end = float(of_group.starts[tenth]), float(of_group.ends[tenth])
    told = readings.groups[of_group.reference].label
    places = [variable.format_with_unit(rounded_for(readings, group, at)) for at in (start, end)]
    lines = [
        Line(told, (places[0],)),
        Line(group.label, (places[1],), group.index),
        Line("difference", (difference_told(readings, group, end - start),)),
    ]
    if in_ratios(readings) and start > 0:
        lines[-1] = Line("ratio", (f"× {rounded(end / start, 3)}",))
    low, high = float(of_group.low[tenth]), float(of_group.high[tenth])
    notes: tuple[str, ...] = (of_group.lack,) if of_group.lack else ()
    if math.isfinite(low) and math.isfinite(high):
        ends = [difference_told(readings, group, each - start) for each in (low, high)]
        if in_ratios(readings) and start > 0:
            ends = [f"× {rounded(each / start, 3)}" for each in (low, high)]
        sure = sure_told(readings).replace(" %", " % interval", 1)
        lines.append(Line(sure, (f"{ends[0]} to {ends[1]}",)))
        notes = ()
    title = f"{TENTHS[tenth]} tenth of {group.label}, from {told}"
    return Card(title, ("",), tuple(lines), notes=notes)


def _of_reference(readings: Readings, group: Group, value: float) -> Card:
    """The tenth of the reference that is next to a value."""
    reference = shown_reference(readings)
    if reference is None or reference.index != group.index:
        return Card(group.label, (), (), notes=("Nothing to compare.",))
    tenths = quantiles(group.sample, np.array(DECILES), quantile_definition(readings))
    tenth = int(np.abs(tenths - value).argmin())
    told = group.variable.format_with_unit(rounded_for(readings, group, float(tenths[tenth])))
    line = Line(group.label, (told,), group.index)
    note = "The reference, at whose tenths arrows begin."
    return Card(f"{TENTHS[tenth]} tenth of {group.label}", ("",), (line,), notes=(note,))


def notices(readings: Readings) -> tuple[Notice | None, ...]:
    """That there is nothing to compare, or that the reference is no group of the figure."""
    if "shift" not in readings.recipe.show.forms:
        return ()
    reference, asked = shown_reference(readings), readings.recipe.compare
    if reference is None:
        text = "Decile arrows need two groups with values: split by a factor in the sentence."
        return (Notice("nothing-to-compare", text, weight=LACKS),)
    if asked is not None and asked.reference != reference.label:
        text = (
            f"{quoted(asked.reference)} is no group with values here, so arrows begin at "
            f"{quoted(reference.label)}."
        )
        recipe = readings.recipe.changed(compare=asked.changed(reference=reference.label))
        return (Notice("no-such-reference", text, recipe, "compare with that", LACKS),)
    return ()


def numbers(readings: Readings) -> dict[str, Any]:
    """Both values of each tenth, and the interval of their difference."""
    rows = [
        {
            "sample": readings.groups[of.group].label,
            "reference": readings.groups[of.reference].label,
            "share": share,
            "from": float(of.starts[at]),
            "to": float(of.ends[at]),
            "low": float(of.low[at] - of.starts[at]),
            "high": float(of.high[at] - of.starts[at]),
        }
        for of in arrows(readings).values()
        for at, share in enumerate(DECILES)
    ]
    return {"arrows": rows} if rows else {}


FORM = FigureForm(card=card, notices=notices, numbers=numbers)
