"""The group that others are compared with."""

import math
from typing import TYPE_CHECKING

import numpy as np

from rhabdos.data.pooled import AnySample
from rhabdos.errors import Refusal
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.figure.readings.value_scale import placed
from rhabdos.figure.recipe.recipe import Compare
from rhabdos.quoting import listed, quoted
from rhabdos.stats.axis_scale import AxisScale
from rhabdos.stats.quantiles import Definition

if TYPE_CHECKING:
    from rhabdos.stats.two_samples.comparing import Estimate


OF_PAIRS = "Of pairs no interval is worked out for a tenth."
"""Why the tenths of groups that are compared case by case have none."""


def compared_with(readings: Readings) -> Compare:
    """What is compared with which confidence: what the recipe asks, or the first group that has
    values."""
    if readings.recipe.compare is not None:
        return readings.recipe.compare
    return Compare(reference=reference_label(readings) or "")


def confidence_of_each(readings: Readings, settings: Compare) -> float:
    """How sure the interval of one group is: as sure as is asked for, or so much surer that those
    of all groups hold together as often (Dunn 1961)."""
    reference = shown_reference(readings)
    axis = reference.axis if reference is not None else 0
    others = sum(group.n > 0 and group.axis == axis for group in readings.groups) - 1
    if not settings.together or others < 2:
        return settings.confidence
    return 1 - (1 - settings.confidence) / others


def sure_told(readings: Readings) -> str:
    """How sure intervals are, in words: 95 %, or 95 % together."""
    settings = compared_with(readings)
    return f"{100 * settings.confidence:g} %{' together' if settings.together else ''}"


def reference_label(readings: Readings) -> str | None:
    """The name of the group that others are compared with: the one that is asked for, or the first
    that has values."""
    if readings.recipe.compare is not None:
        return readings.recipe.compare.reference
    return next((group.label for group in readings.groups if group.n), None)


def shown_reference(readings: Readings) -> Group | None:
    """The group that arrows begin at: the one that is asked for, or the first that has values where
    it is none of the figure's; None where there are no groups to compare."""
    filled = [group for group in readings.groups if group.n]
    if readings.divided is None or len(filled) < 2:
        return None
    asked = compared_with(readings).reference
    return next((group for group in filled if group.label == asked), filled[0])


def quantile_definition(readings: Readings) -> Definition:
    """The definition of quantiles that is chosen for quartiles; of hinges, which are quartiles
    alone, the usual one."""
    rule = readings.recipe.box.quartiles
    return 7 if rule == "hinges" else rule


def in_ratios(readings: Readings) -> bool:
    """Whether groups are compared by ratios: on an axis of logs where every value has a place."""
    if readings.recipe.axes.value.scale != "log" or readings.recipe.show.standardised:
        return False
    return all(group.sample.minimum > 0 for group in readings.groups if group.n)


def compared_sample(readings: Readings, group: Group) -> AnySample:
    """The values of a group as they are compared: their logs where that is by ratios."""
    return placed(group.sample, AxisScale("log")) if in_ratios(readings) else group.sample


def as_ratio(estimate: "Estimate") -> "Estimate":
    """A difference of logs as the ratio that it is of values."""
    from rhabdos.stats.two_samples.comparing import Estimate

    # A ratio may pass the largest double, and is endless then.
    with np.errstate(over="ignore"):
        value, low, high = (
            float(np.power(10.0, each)) for each in (estimate.value, estimate.low, estimate.high)
        )
    return Estimate(value, low, high, estimate.lack)


def decile_differences(
    readings: Readings, group: Group, reference: Group, confidence: float
) -> "tuple[Estimate, ...]":
    """The difference of a group from the reference at each tenth, with its interval; the ratio to
    it where groups are compared by ratios."""
    from rhabdos.stats.two_samples.comparing import (  # no start's need
        DECILES,
        Estimate,
        quantile_differences,
    )

    shares, definition = np.array(DECILES), quantile_definition(readings)
    ours, theirs = (compared_sample(readings, each) for each in (group, reference))
    differences = quantile_differences(ours, theirs, shares, definition, confidence)
    if compared_with(readings).paired is not False:  # intervals suppose independent rows
        differences = tuple(
            Estimate(each.value, math.nan, math.nan, OF_PAIRS) for each in differences
        )
    return tuple(map(as_ratio, differences)) if in_ratios(readings) else differences


def reference_of(readings: Readings, settings: Compare) -> Group:
    """The group that the others are compared with, or a Refusal that tells which there are."""
    if readings.divided is None:
        raise Refusal(
            "Comparing needs groups. Name a factor in show.split, or take the table compare out."
        )
    by_label = {group.label: group for group in readings.groups}
    if settings.reference not in by_label:
        raise Refusal(
            f"compare.reference is {quoted(settings.reference)}, which is no group of this figure. "
            f"Groups are {listed(list(by_label))}."
        )
    if not by_label[settings.reference].n:
        raise Refusal(
            f"The group {quoted(settings.reference)} has no values to compare with. Choose another "
            "reference."
        )
    return by_label[settings.reference]


def rounded_for(readings: Readings, group: Group, value: float) -> float:
    """A value to as many places as its summary has."""
    spread = readings.summaries[group.index].sd
    if not (math.isfinite(value) and math.isfinite(spread) and spread > 0):
        return value
    return round(value, 2 - math.floor(math.log10(spread)))


def difference_told(readings: Readings, group: Group, by: float) -> str:
    """How far two values lie apart, with its sign and unit."""
    told = group.variable.format_difference(abs(rounded_for(readings, group, by)))
    return f"{'−' if by < 0 else '+' if by > 0 else ''}{told}"
