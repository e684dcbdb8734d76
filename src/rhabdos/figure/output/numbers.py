"""The readings as plain data, for scripts."""

import json
import math
from collections.abc import Iterator
from typing import Any

import numpy as np

from rhabdos.data.columns import NumberColumn
from rhabdos.data.pooled import AnySample
from rhabdos.figure.forms import figure_form
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.forms.curve import modes
from rhabdos.figure.forms.lines import curves_of
from rhabdos.figure.forms.sway import curve_band, own_bar_bands
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.comparisons import comparison_data, comparisons
from rhabdos.figure.output.variable_numbers import spread_share
from rhabdos.figure.readings.axis_limits import range_ends
from rhabdos.figure.readings.between import between
from rhabdos.figure.readings.ladder import ladder, slides
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.figure.readings.reference import reference_of
from rhabdos.figure.readings.swaying import swaying
from rhabdos.figure.recipe.forms import FORMS
from rhabdos.stats.pairs import beside, beside_normal
from rhabdos.stats.summary import Summary

_SUMMARY = (
    *("mean", "sd", "min", "q1", "median", "q3", "max", "iqr"),
    *("se", "variance", "cv", "skewness", "kurtosis", "mad", "trimmed_mean"),
)


def numbers_data(readings: Readings) -> dict[str, Any]:
    """Every number behind a figure, as ``rhabdos numbers`` prints it."""
    samples = [
        {
            "label": group.label,
            "variable": group.variable.name,
            "levels": dict(group.levels),
            "panel": readings.plan.panels[group.panel].label or None,
            "n": group.n,
            "missing": group.missing,
            **of_summary(summary, group.variable),
            "mode": _number(mode),
        }
        for group, summary, mode in zip(
            readings.groups, readings.summaries, modes(readings), strict=True
        )
    ]
    told = [{"code": notice.code, "text": notice.text} for notice in notices(readings)]
    data: dict[str, Any] = _finite(
        {
            "samples": samples,
            "bins": _bins(readings) if readings.needs_bins else None,
            **_forms(readings),
            **_checks(readings),
            **_ranges(readings),
            **_sway(readings),
            **_comparisons(readings),
            "notices": told,
        }
    )
    return data


def of_summary(summary: Summary, variable: NumberColumn) -> dict[str, float | None]:
    """Location, spread and shape of a sample of a variable; null where there are too few values,
    and what means nothing of it."""
    numbers = {name: _number(getattr(summary, name)) for name in _SUMMARY}
    return numbers | {"cv": _number(spread_share(variable, summary))}


def _bins(readings: Readings) -> dict[str, Any]:
    drawn = bars(readings)
    own = [edges.values.tolist() for edges in readings.own_edges]
    shared = readings.recipe.bins.shared and readings.plan.axes == 1
    return {
        "edges": readings.edges.values.tolist() if shared else own,
        "closed": readings.edges.closed,
        "counts": [of_group.counts.tolist() for of_group in drawn],
        "heights": [of_group.heights.tolist() for of_group in drawn],
        "heights_in": readings.scale,
        "outside": [of_group.outside for of_group in drawn],
    }


def _forms(readings: Readings) -> dict[str, Any]:
    """The tables of the forms that the recipe asks for; those of one name are one table."""
    tables: dict[str, Any] = {}
    settings = dict.fromkeys(readings.recipe.show.forms)
    homes = dict.fromkeys(FORMS[form].home for form in settings)
    for home in homes:
        form = next(form for form in settings if FORMS[form].home == home)
        for name, rows in figure_form(form).numbers(readings).items():
            tables[name] = tables.get(name, []) + rows
    return tables


def _checks(readings: Readings) -> dict[str, Any]:
    """What other bins would show, where the recipe asks for it."""
    settings = readings.recipe.check
    checks: dict[str, Any] = {}
    if settings.ladder:
        checks["ladder"] = [
            {"width": rung.width, "bins": rung.bins, "peaks": list(rung.peaks)}
            for rung in ladder(readings)
        ]
    if settings.slide:
        checks["slides"] = [
            {
                "sample": readings.groups[slid.group].label,
                "x": slid.x.tolist(),
                "low": slid.low.tolist(),
                "high": slid.high.tolist(),
            }
            for slid in slides(readings)
        ]
    if settings.pairs:
        checks["pairs"] = list(_pairs(readings))
    if settings.range:
        checks["range"] = [
            _within(group.label, sample, *settings.range) for group, sample in _filled(readings)
        ]
    return checks


def _filled(readings: Readings) -> list[tuple[Group, AnySample]]:
    both = zip(readings.groups, readings.samples.samples, strict=True)
    return [(group, sample) for group, sample in both if group.n]


def _pairs(readings: Readings) -> Iterator[dict[str, Any]]:
    """Quantiles of every group beside those of a normal shape, and of the reference where there is
    one."""
    settings = readings.recipe.compare
    for group, sample in _filled(readings):
        quantiles = beside_normal(sample)
        yield {
            "sample": group.label,
            "beside": "normal",
            "x": quantiles.x.tolist(),
            "y": quantiles.y.tolist(),
        }
        if settings and group.label != settings.reference:
            quantiles = beside(sample, reference_of(readings, settings).sample)
            yield {
                "sample": group.label,
                "beside": settings.reference,
                "x": quantiles.x.tolist(),
                "y": quantiles.y.tolist(),
            }


def _sway(readings: Readings) -> dict[str, Any]:
    """Between which heights each group would mostly lie, where the recipe asks for it."""
    rows: list[dict[str, Any]] = []
    violins = [form for form in readings.plan.strips if form == "violin"]
    for form in (*readings.plan.heights, *violins):
        if not swaying(readings, form):
            continue
        if form in ("bars", "outline"):
            bands = list(enumerate(own_bar_bands(readings)))
        else:
            curves = [curve for curve in curves_of(readings, form) if not curve.lack]
            bands = [(curve.group, curve_band(readings, curve)) for curve in curves]
        rows += [
            {
                "sample": readings.groups[group].label,
                "form": form,
                "x": band.x.tolist(),
                "low": band.low.tolist(),
                "high": band.high.tolist(),
            }
            for group, band in bands
            if band is not None
        ]
    return {"sway": rows} if rows else {}


def _ranges(readings: Readings) -> dict[str, Any]:
    """What lies in each range that is shaded, below it and above it."""
    rows = []
    for number, kept in enumerate(readings.recipe.range):
        low, high = range_ends(readings, number)
        groups = [
            index
            for panel in readings.plan.panels
            if kept.panel is None or kept.panel == panel.label
            for index in panel.groups
        ]
        rows += [
            {
                "sample": readings.groups[each.group].label,
                "from": low,
                "to": high,
                "below": each.below,
                "within": each.within,
                "above": each.above,
                "share": each.share(each.within),
            }
            for each in between(readings, groups, low, high)
        ]
    return {"ranges": rows} if rows else {}


def _within(label: str, sample: AnySample, low: float, high: float) -> dict[str, Any]:
    """How many values of a group lie from ``low`` to ``high``, both included."""
    count = int(
        sample.below(np.array([high]), inclusive=True)[0] - sample.below(np.array([low]))[0]
    )
    return {"sample": label, "from": low, "to": high, "n": count, "share": count / sample.n}


def _comparisons(readings: Readings) -> dict[str, Any]:
    """Groups beside a reference, where the recipe asks for it."""
    settings = readings.recipe.compare
    if settings is None:
        return {}
    return {
        "comparisons": [
            comparison_data(comparison, settings.confidence, settings.together)
            for comparison in comparisons(readings)
        ]
    }


def _finite(data: Any) -> Any:
    """The same data with null for numbers that do not exist."""
    if isinstance(data, dict):
        return {key: _finite(value) for key, value in data.items()}
    if isinstance(data, list):
        return [_finite(value) for value in data]
    return _number(data) if isinstance(data, float) else data


def numbers_json(readings: Readings) -> str:
    """Every number behind a figure as JSON, which knows no infinity."""
    return json.dumps(numbers_data(readings), ensure_ascii=False, indent=1, allow_nan=False)


def _number(value: float) -> float | None:
    return value if math.isfinite(value) else None
