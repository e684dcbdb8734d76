"""Comparisons: every group beside the reference that the recipe names."""

import math
from typing import Any

from msgspec import Struct

from rhabdos.figure.forms.curve import density_curves
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.figure.readings.reference import (
    as_ratio,
    compared_sample,
    confidence_of_each,
    decile_differences,
    in_ratios,
    quantile_definition,
    reference_of,
)
from rhabdos.figure.recipe.recipe import Compare
from rhabdos.stats import comparing
from rhabdos.stats.comparing import ASSUMES, DECILES, Estimate
from rhabdos.stats.density import DensityError
from rhabdos.stats.exceedance import Ahead, ahead, exceedance


class Comparison(Struct, frozen=True):
    """One group beside the reference; differences are group less reference, ratios group over
    reference.

    Attributes
    ----------
    shift : Estimate
        The median difference between a member of either.
    overlap : float
        Shared area of the two density curves; NaN where a group has no curve.
    exceeds : Estimate
        How often a random member is the greater, equal ones counted half.
    quantiles : tuple of Estimate
        Differences at the deciles.
    ratios : bool
        Whether means (geometric ones), medians, shift and deciles are ratios, as on axes of logs.
    """

    sample: str
    reference: str
    mean: Estimate
    median: Estimate
    shift: Estimate
    sd_ratio: Estimate
    iqr_ratio: Estimate
    overlap: float
    ahead: Ahead
    exceeds: Estimate
    quantiles: tuple[Estimate, ...]
    ratios: bool = False


def comparisons(readings: Readings) -> tuple[Comparison, ...]:
    """Every group with values but the reference, compared with it, where the recipe asks for that.

    Raises
    ------
    Refusal
        The figure has no groups, the reference is none of them, or it has no values.
    """
    settings = readings.recipe.compare
    if settings is None:
        return ()
    reference = reference_of(readings, settings)
    return tuple(
        _compare(readings, settings, group, reference)
        for group in readings.groups
        if group is not reference and group.n
    )


def _compare(
    readings: Readings, settings: Compare, group: Group, reference_group: Group
) -> Comparison:
    sure, seed = confidence_of_each(readings, settings), settings.seed
    sample, reference = group.sample, reference_group.sample
    definition = quantile_definition(readings)
    deciles = decile_differences(readings, group, reference_group, sure)
    found, ratios = ahead(sample, reference), in_ratios(readings)
    ours, theirs = (compared_sample(readings, each) for each in (group, reference_group))
    mean, shift = comparing.mean_difference(ours, theirs, sure), comparing.shift(ours, theirs, sure)
    if ratios:
        mean, shift = as_ratio(mean), as_ratio(shift)
    return Comparison(
        group.label,
        settings.reference,
        mean,
        deciles[DECILES.index(0.5)],  # one difference of medians has one interval
        shift,
        comparing.sd_ratio(sample, reference, sure),
        comparing.iqr_ratio(sample, reference, definition, sure, seed),
        _overlap(readings, group, reference_group),
        found,
        exceedance(sample, reference, found, sure),
        deciles,
        ratios,
    )


def _overlap(readings: Readings, group: Group, reference: Group) -> float:
    try:
        drawn = density_curves(readings)
    except DensityError:
        return math.nan
    first, second = drawn[group.index].curve, drawn[reference.index].curve
    return comparing.overlap(first, second) if first and second else math.nan


def comparison_data(
    comparison: Comparison, confidence: float, together: bool = False
) -> dict[str, Any]:
    """A comparison as plain data, each number with what it supposes."""

    def interval(name: str, estimate: Estimate, value: str) -> dict[str, Any]:
        """A number with its interval, and what that supposes."""
        told = {
            value: estimate.value,
            "low": estimate.low,
            "high": estimate.high,
            "assumes": ASSUMES[name],
        }
        return {**told, "lack": estimate.lack} if estimate.lack else told

    apart = "ratio" if comparison.ratios else "difference"
    return {
        "sample": comparison.sample,
        "reference": comparison.reference,
        "confidence": confidence,
        "together": together,
        "mean": interval("mean", comparison.mean, apart),
        "median": interval("median", comparison.median, apart),
        "shift": interval("shift", comparison.shift, apart),
        "sd_ratio": interval("sd_ratio", comparison.sd_ratio, "ratio"),
        "iqr_ratio": interval("iqr_ratio", comparison.iqr_ratio, "ratio"),
        "overlap": {"share": comparison.overlap, "assumes": ASSUMES["overlap"]},
        "exceeds": {
            **interval("exceeds", comparison.exceeds, "probability"),
            "equal": comparison.ahead.level,
        },
        "cliffs_delta": {"delta": comparison.ahead.delta, "assumes": ASSUMES["cliffs_delta"]},
        "ecdf_distance": {
            "distance": comparison.ahead.distance,
            "at": comparison.ahead.at,
            "assumes": ASSUMES["ecdf_distance"],
        },
        "quantiles": {
            "at": [
                {
                    "share": share,
                    apart: estimate.value,
                    "low": estimate.low,
                    "high": estimate.high,
                    **({"lack": estimate.lack} if estimate.lack else {}),
                }
                for share, estimate in zip(DECILES, comparison.quantiles, strict=True)
            ],
            "assumes": ASSUMES["quantiles"],
        },
    }
