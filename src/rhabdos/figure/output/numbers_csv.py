"""The numbers behind a figure as a table, one number a row."""

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.readings.readings import Readings

_HEADER = ("sample", "measure", "from", "to", "value")
_Row = tuple[str, str, Any, Any, Any]
# What a sample is called by, which is a column of its own.
_NAMED = ("label", "variable", "levels", "panel")
_IN_RANGES = {
    "below": "n below shaded range",
    "within": "n in shaded range",
    "above": "n above shaded range",
    "share": "share in shaded range",
}
_LISTS = ("beyond", "far", "beyond_rows", "far_rows", "letters", "sample")


def numbers_csv(readings: Readings) -> str:
    """One number a row: sample, measure, the place along the scale that it belongs to (if any),
    value.

    ``from`` and ``to`` hold the edges of a bin, the x of a curve, the width of a ladder's rung, the
    share of a quantile, the depth of a letter value, or the row that holds a value beyond the
    whiskers.
    """
    return _as_csv([_HEADER, *_rows(readings)])


def numbers_of_many(figures: Iterable[tuple[str, Sequence[tuple[Any, ...]]]]) -> str:
    """The rows of many figures as one table, each behind the name of its figure."""
    rows = [(name, *row) for name, of_figure in figures for row in of_figure]
    return _as_csv([("figure", *_HEADER), *rows])


def numbers_rows(readings: Readings) -> list[tuple[Any, ...]]:
    """The rows of a figure, without their header."""
    return list(_rows(readings))


def _as_csv(rows: Iterable[tuple[Any, ...]]) -> str:
    text = io.StringIO()
    csv.writer(text, lineterminator="\n").writerows(rows)
    return text.getvalue()


def _rows(readings: Readings) -> Iterator[_Row]:
    data = numbers_data(readings)
    for position in range(len(data["samples"])):
        yield from _sample(data, readings, position)
    for rung in data.get("ladder", ()):
        yield "", "bins at width", rung["width"], "", rung["bins"]


def _sample(data: dict[str, Any], readings: Readings, position: int) -> Iterator[_Row]:
    """The rows of one sample."""
    sample = data["samples"][position]
    label = sample["label"]
    yield from (
        (label, name, "", "", value) for name, value in sample.items() if name not in _NAMED
    )
    if len(readings.variables) > 1:
        yield label, "variable", "", "", sample["variable"]
    if sample["panel"]:
        yield label, "panel", "", "", sample["panel"]
    yield from (
        (label, f"level of {factor}", "", "", level) for factor, level in sample["levels"].items()
    )
    if data["bins"]:
        yield from _bins(label, data["bins"], readings, position)
    for table in _of(data, "boxes", label):
        yield from _box(label, table)
    for table in _of(data, "curves", label):
        name = f"{table['kind']} curve"
        if table["bandwidth"] is not None:
            yield label, f"{name} bandwidth", "", "", table["bandwidth"]
        yield from (
            (label, name, x, "", y) for x, y in zip(table["x"] or (), table["y"] or (), strict=True)
        )
    for table in _of(data, "slides", label):
        for name in ("low", "high"):
            places = zip(table["x"], table["x"][1:], table[name], strict=False)
            yield from (
                (label, f"sliding {name}", first, last, value) for first, last, value in places
            )
    for rung in data.get("ladder", ()):
        yield label, "peaks at width", rung["width"], "", rung["peaks"][position]
    for table in _of(data, "pairs", label):
        name = f"quantile beside {table['beside']}"
        yield from ((label, name, x, "", y) for x, y in zip(table["x"], table["y"], strict=True))
    for table in _of(data, "quantile_pairs", label):
        for name, words in (("x", f"quantile of {table['beside']}"), ("y", "quantile beside it")):
            rows = zip(table["shares"], table[name], strict=True)
            yield from ((label, f"{words} at share", share, "", value) for share, value in rows)
        for name in ("low", "high"):
            rows = zip(table["shares"], table[name] or (), strict=False)
            yield from ((label, f"{name} end of the band at share", p, "", v) for p, v in rows)
    for table in _of(data, "range", label):
        for name in ("n", "share"):
            yield label, f"{name} in range", table["from"], table["to"], table[name]
    for table in _of(data, "arrows", label):
        for name, words in (("to", "tenth"), ("from", "tenth of the reference")):
            yield label, f"{words} at share", table["share"], "", table[name]
    for table in _of(data, "ranges", label):
        for name, words in _IN_RANGES.items():
            yield label, words, table["from"], table["to"], table[name]
    for table in _of(data, "comparisons", label):
        yield from _comparison(label, table)


def _of(data: dict[str, Any], key: str, label: str) -> Iterator[dict[str, Any]]:
    return (row for row in data.get(key, ()) if row["sample"] == label)


def _bins(label: str, bins: dict[str, Any], readings: Readings, position: int) -> Iterator[_Row]:
    yield label, "outside", "", "", bins["outside"][position]
    edges = readings.own_edges[position].values.tolist()
    scale = f"cumulative {bins['heights_in']}" if readings.cumulative else bins["heights_in"]
    for measure, rows in {"count": "counts", scale: "heights"}.items():
        for low, high, value in zip(edges, edges[1:], bins[rows][position], strict=False):
            yield label, measure, low, high, value


def _box(label: str, table: dict[str, Any]) -> Iterator[_Row]:
    for name, value in table.items():
        if name not in (
            *_LISTS,
            "q1",
            "median",
            "q3",
            "mean",
        ):  # which are among the sample's numbers
            yield label, "box width" if name == "width" else name, "", "", value
    for grade in ("beyond", "far"):
        for row, value in zip(table[f"{grade}_rows"], table[grade], strict=True):
            yield label, grade, "" if row is None else row, "", value
    for letter in table["letters"]:
        for end in ("low", "high"):
            yield label, f"letter {end}", letter["depth"], "", letter[end]


def _comparison(label: str, comparison: dict[str, Any]) -> Iterator[_Row]:
    beside = f"beside {comparison['reference']}"
    for name, part_of in comparison.items():
        if not isinstance(part_of, dict):
            continue
        for key, value in part_of.items():
            if key == "at" and isinstance(value, list):
                for quantile in value:
                    for part in ("difference", "ratio", "low", "high"):
                        if part not in quantile:
                            continue
                        yield (
                            label,
                            f"{beside}: quantile {part}",
                            quantile["share"],
                            "",
                            quantile[part],
                        )
            elif key != "assumes":
                yield label, f"{beside}: {name} {key}", "", "", value
