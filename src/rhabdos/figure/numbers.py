"""The readings as plain data, for scripts."""

import csv
import io
import json
import math
from typing import Any

import numpy as np

from rhabdos.data.columns import CategoryColumn
from rhabdos.data.table import Table
from rhabdos.figure.comparisons import comparison_data, comparisons
from rhabdos.figure.curves import KINDS, curves, modes
from rhabdos.figure.ladder import ladder, slides
from rhabdos.figure.notices import notices
from rhabdos.figure.readings import Readings
from rhabdos.stats.boxes import Box, letters

_BOX = ("q1", "median", "q3", "whisker_low", "whisker_high", "mean", "notch_low", "notch_high")
_SUMMARY = (
    *("mean", "sd", "min", "q1", "median", "q3", "max", "iqr"),
    *("se", "variance", "cv", "skewness", "kurtosis", "mad", "trimmed_mean"),
)


def numbers_data(readings: Readings) -> dict[str, Any]:
    """Every number behind a figure, as ``rhabdos numbers`` prints it."""
    samples = [
        {
            "label": group.label,
            "n": group.n,
            "missing": group.missing,
            **{name: _number(getattr(summary, name)) for name in _SUMMARY},
            "mode": _number(mode),
        }
        for group, summary, mode in zip(readings.groups, readings.summaries, modes(readings), strict=True)
    ]
    shared = readings.recipe.bins.shared
    bins = {
        "edges": readings.edges.values.tolist() if shared else [g.edges.values.tolist() for g in readings.groups],
        "closed": readings.edges.closed,
        "counts": [group.counts.tolist() for group in readings.groups],
        "heights": [group.heights.tolist() for group in readings.groups],
        "heights_in": readings.scale,
        "outside": [group.outside for group in readings.groups],
    }
    told = [{"code": notice.code, "text": notice.text} for notice in notices(readings)]
    return {
        "samples": samples,
        "bins": bins,
        **_curves(readings),
        **_boxes(readings),
        **_checks(readings),
        **_comparisons(readings),
        "notices": told,
    }


def _curves(readings: Readings) -> dict[str, Any]:
    """The curves, where the recipe asks for such forms."""
    if not any(form in KINDS for form in readings.recipe.show.forms):
        return {}
    made = [
        {
            "sample": readings.groups[curve.group].label,
            "kind": curve.kind,
            "bandwidth": curve.bandwidth,
            "x": curve.x.tolist(),
            "y": curve.y.tolist(),
        }
        for curve in curves(readings)
    ]
    return {"curves": made}


def _checks(readings: Readings) -> dict[str, Any]:
    """What other bins would show, where the recipe asks for it."""
    asked = readings.recipe.check
    made: dict[str, Any] = {}
    if asked.ladder:
        made["ladder"] = [
            {"width": rung.width, "bins": rung.bins, "peaks": list(rung.peaks)} for rung in ladder(readings)
        ]
    if asked.slide:
        made["slides"] = [
            {
                "sample": readings.groups[found.group].label,
                "x": found.x.tolist(),
                "low": found.low.tolist(),
                "high": found.high.tolist(),
            }
            for found in slides(readings)
        ]
    return made


def _comparisons(readings: Readings) -> dict[str, Any]:
    """Groups beside a reference, where the recipe asks for it."""
    asked = readings.recipe.compare
    if asked is None:
        return {}
    made = [comparison_data(one, asked.confidence) for one in comparisons(readings)]
    finite: dict[str, Any] = _finite({"comparisons": made})
    return finite


def _finite(data: Any) -> Any:
    """The same data with null for numbers that do not exist."""
    if isinstance(data, dict):
        return {key: _finite(value) for key, value in data.items()}
    if isinstance(data, list):
        return [_finite(value) for value in data]
    return _number(data) if isinstance(data, float) else data


def _boxes(readings: Readings) -> dict[str, Any]:
    """The boxes, where the recipe asks for that form."""
    if "box" not in readings.recipe.show.forms:
        return {}
    boxes = [
        {
            "sample": group.label,
            **{name: _number(getattr(made, name)) for name in _BOX},
            "width": width,
            **_beyond(readings, position, made),
            "letters": [{"depth": one.depth, "low": one.low, "high": one.high} for one in letters(sample)],
        }
        for position, (group, made, width, sample) in enumerate(
            zip(readings.groups, readings.boxes, readings.box_widths, readings.samples.samples, strict=True)
        )
    ]
    return {"boxes": boxes}


def _beyond(readings: Readings, group: int, made: Box) -> dict[str, Any]:
    """Values beyond the whiskers in two grades, and the rows (from 1) that hold them."""
    rows = readings.samples.rows_outside(group, made.whisker_low, made.whisker_high)
    values = readings.variable.values[rows]
    far = np.isin(values, made.far)
    return {
        "beyond": values[~far].tolist(),
        "far": values[far].tolist(),
        "beyond_rows": (rows[~far] + 1).tolist(),
        "far_rows": (rows[far] + 1).tolist(),
    }


def numbers_json(readings: Readings) -> str:
    return json.dumps(numbers_data(readings), ensure_ascii=False, indent=1)


def numbers_csv(readings: Readings) -> str:
    """One number a row: sample, measure, the bin it belongs to (if any), value."""
    data = numbers_data(readings)
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(["sample", "measure", "bin_from", "bin_to", "value"])
    for position, sample in enumerate(data["samples"]):
        label = sample["label"]
        edges = readings.groups[position].edges.values.tolist()
        for measure in ("n", "missing", *_SUMMARY, "mode"):
            writer.writerow([label, measure, "", "", sample[measure]])
        writer.writerow([label, "outside", "", "", data["bins"]["outside"][position]])
        if "boxes" in data:
            _write_box(writer, label, data["boxes"][position])
        for measure, rows in (("count", "counts"), (data["bins"]["heights_in"], "heights")):
            if measure == "count" and rows == "heights":
                continue
            for low, high, value in zip(edges, edges[1:], data["bins"][rows][position], strict=False):
                writer.writerow([label, measure, low, high, value])
    return text.getvalue()


def _write_box(writer: Any, label: str, made: dict[str, Any]) -> None:
    for measure in _BOX[3:]:
        writer.writerow([label, measure, "", "", made[measure]])
    for measure in ("beyond", "far"):
        for value in made[measure]:
            writer.writerow([label, measure, "", "", value])


def variables_data(table: Table) -> list[dict[str, Any]]:
    """The variables of a table, as ``rhabdos variables`` prints them."""
    described = []
    for column in table.columns:
        levels: list[dict[str, Any]] = []
        if isinstance(column, CategoryColumn):
            levels = [{"value": v, "n": int(n)} for v, n in zip(column.levels, column.level_counts, strict=True)]
        described.append(
            {"name": column.name, "kind": column.kind, "n": column.n, "missing": column.missing, "levels": levels}
        )
    return described


def variables_json(table: Table) -> str:
    return json.dumps(variables_data(table), ensure_ascii=False, indent=1)


def variables_text(table: Table) -> str:
    """One line a variable, aligned."""
    lines = [["name", "kind", "n", "missing", "levels"]]
    for one in variables_data(table):
        levels = ", ".join(f"{level['value']} ({level['n']:,})" for level in one["levels"][:8])
        more = f", and {len(one['levels']) - 8:,} more" if len(one["levels"]) > 8 else ""
        lines.append([one["name"], one["kind"], f"{one['n']:,}", f"{one['missing']:,}", levels + more])
    widths = [max(len(line[i]) for line in lines) for i in range(5)]
    right = (2, 3)
    return "\n".join(
        "  ".join(
            cell.rjust(w) if i in right else cell.ljust(w) for i, (cell, w) in enumerate(zip(line, widths, strict=True))
        ).rstrip()
        for line in lines
    )


def _number(value: float) -> float | None:
    return value if math.isfinite(value) else None
