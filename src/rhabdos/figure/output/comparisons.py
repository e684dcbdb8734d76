"""Comparisons: every group beside the reference that the recipe names."""

import math
from typing import Any

import numpy as np
from msgspec import Struct

from rhabdos.data.samples import Sample
from rhabdos.figure.forms.curve import density_curves
from rhabdos.figure.readings.pairing import Paired, paired_values
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
from rhabdos.stats.density import DensityError
from rhabdos.stats.quantiles import quantiles
from rhabdos.stats.two_samples import comparing, paired, shifting
from rhabdos.stats.two_samples.comparing import ASSUMES, DECILES, Estimate
from rhabdos.stats.two_samples.exceedance import Ahead, ahead, exceedance
from rhabdos.stats.two_samples.paired import ASSUMES_PAIRED


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
    paired : Paired or None
        Where cases were measured twice, which: then mean, median and shift are of their
        differences, and ``exceeds`` counts cases.
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
    paired: Paired | None = None


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
        if group is not reference and group.n and group.axis == reference.axis
    )


def _compare(
    readings: Readings, settings: Compare, group: Group, reference_group: Group
) -> Comparison:
    sure, seed = confidence_of_each(readings, settings), settings.seed
    sample, reference = group.sample, reference_group.sample
    definition = quantile_definition(readings)
    deciles = decile_differences(readings, group, reference_group, sure)
    chance, ratios = ahead(sample, reference), in_ratios(readings)
    ours, theirs = (compared_sample(readings, each) for each in (group, reference_group))
    pairs = paired_values(readings, group, reference_group)
    if pairs is not None:
        return _compare_pairs(readings, settings, group, reference_group, pairs)
    mean, shift = comparing.mean_difference(ours, theirs, sure), shifting.shift(ours, theirs, sure)
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
        chance,
        exceedance(sample, reference, chance, sure),
        deciles,
        ratios,
    )


def _compare_pairs(
    readings: Readings, settings: Compare, group: Group, reference: Group, pairs: Paired
) -> Comparison:
    """By what the cases differ that both have; what is no matter of pairs is of all values."""
    sure, ratios = confidence_of_each(readings, settings), in_ratios(readings)
    ours, theirs, definition = pairs.ours, pairs.theirs, quantile_definition(readings)
    off = np.log10(ours) - np.log10(theirs) if ratios else ours - theirs
    share, sample = 0.5, Sample("", np.sort(off))
    median = Estimate(math.nan, math.nan, math.nan)
    if sample.n:
        middle = float(quantiles(sample, np.array([share]), definition)[0])
        least = comparing.least_for_interval(share, sure)
        lack = f"An interval needs {least} pairs; these are {sample.n}."
        median = Estimate(middle, math.nan, math.nan, lack)
        if sample.n >= least:
            median = Estimate(middle, *comparing.quantile_interval(sample, share, sure))
    mean, shift = paired.mean_of_pairs(off, sure), paired.shift_of_pairs(off, sure)
    if ratios:
        mean, median, shift = as_ratio(mean), as_ratio(median), as_ratio(shift)
    spread = comparing.iqr_ratio(group.sample, reference.sample, definition, sure, settings.seed)
    chance, above = ahead(group.sample, reference.sample), float(np.mean(ours > theirs))
    return Comparison(
        group.label,
        settings.reference,
        mean,
        median,
        shift,
        paired.sd_ratio_of_pairs(ours, theirs, sure),
        Estimate(spread.value, math.nan, math.nan, paired.NO_INTERVAL),
        _overlap(readings, group, reference),
        Ahead(above, float(np.mean(ours == theirs)), chance.distance, chance.at),
        paired.greater_of_pairs(off, sure),
        decile_differences(readings, group, reference, sure),
        ratios,
        pairs,
    )


def _overlap(readings: Readings, group: Group, reference: Group) -> float:
    try:
        drawn = density_curves(readings)
    except DensityError:
        return math.nan
    first, second = drawn[group.index].curve, drawn[reference.index].curve
    return comparing.overlap(first, second) if first and second else math.nan


def assumptions(comparison: Comparison) -> dict[str, str]:
    """What each number of a comparison supposes."""
    return ASSUMES | (ASSUMES_PAIRED if comparison.paired is not None else {})


def _pairs_told(pairs: Paired | None) -> dict[str, Any]:
    if pairs is None:
        return {}
    alone = [pairs.alone, pairs.alone_there]
    return {"pairs": len(pairs.ours), "without_partner": alone}


def comparison_data(
    comparison: Comparison, confidence: float, together: bool = False
) -> dict[str, Any]:
    """A comparison as plain data, each number with what it supposes."""
    assumes = assumptions(comparison)

    def interval(name: str, estimate: Estimate, value: str) -> dict[str, Any]:
        """A number with its interval, and what that supposes."""
        told = {
            value: estimate.value,
            "low": estimate.low,
            "high": estimate.high,
            "assumes": assumes[name],
        }
        return {**told, "lack": estimate.lack} if estimate.lack else told

    apart = "ratio" if comparison.ratios else "difference"
    return {
        "sample": comparison.sample,
        "reference": comparison.reference,
        "confidence": confidence,
        "together": together,
        **_pairs_told(comparison.paired),
        "mean": interval("mean", comparison.mean, apart),
        "median": interval("median", comparison.median, apart),
        "shift": interval("shift", comparison.shift, apart),
        "sd_ratio": interval("sd_ratio", comparison.sd_ratio, "ratio"),
        "iqr_ratio": interval("iqr_ratio", comparison.iqr_ratio, "ratio"),
        "overlap": {"share": comparison.overlap, "assumes": assumes["overlap"]},
        "exceeds": {
            **interval("exceeds", comparison.exceeds, "probability"),
            "equal": comparison.ahead.level,
        },
        "cliffs_delta": {"delta": comparison.ahead.delta, "assumes": assumes["cliffs_delta"]},
        "ecdf_distance": {
            "distance": comparison.ahead.distance,
            "at": comparison.ahead.at,
            "assumes": assumes["ecdf_distance"],
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
            "assumes": assumes["quantiles"],
        },
    }
