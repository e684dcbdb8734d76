"""Quantile pairs: each quantile of a group beside that of a named shape, or of the group that
others are compared with."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray
from rhabdos.data.pooled import AnySample
from rhabdos.figure.forms.form import FigureForm
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.figure.readings.reference import (
    compared_with,
    difference_told,
    rounded_for,
    shown_reference,
)
from rhabdos.figure.readings.value_scale import placed
from rhabdos.figure.words.notice import LACKS, Notice
from rhabdos.figure.words.tooltip import Card, Line
from rhabdos.memo import memoised
from rhabdos.quoting import listed
from rhabdos.stats.axis_scale import LINEAR_AXIS, AxisScale
from rhabdos.stats.named_shapes import SHAPES, ShapeName
from rhabdos.wording import counted, exact

SHAPE_WORDS: dict[ShapeName, str] = {
    "normal": "a normal shape",
    "lognormal": "a lognormal shape",
    "uniform": "a uniform shape",
    "logistic": "a logistic shape",
    "exponential": "an exponential shape",
}
_MOST_STOPS = 41  # at which a reader stops who steps through them by keys


class PairsReading(Struct, frozen=True, eq=False):
    """The pairs of one group.

    Attributes
    ----------
    shares : array, shape (k,)
        At which both quantiles are taken.
    x, y : array, shape (k,)
        What they stand beside, and the group's own; in the variable's unit.
    low, high : array, shape (k,)
        Between which all ``y`` lie in so many other samples; NaN where no band is drawn.
    lack : str
        Why there are none.
    """

    group: int
    shares: FloatArray
    x: FloatArray
    y: FloatArray
    low: FloatArray
    high: FloatArray
    lack: str = ""

    @property
    def beyond(self) -> int:
        """How many of the points lie beyond the band."""
        return int(np.count_nonzero((self.y < self.low) | (self.y > self.high)))


def beside_words(readings: Readings) -> str:
    """What quantiles stand beside: "a normal shape", or the name of the reference."""
    beside = readings.recipe.pairs.beside
    if beside != "reference":
        along = readings.recipe.axes.value.scale
        words = SHAPE_WORDS[beside]
        of = {"log": " of logs", "root": " of roots", "arsinh": " of logs to both sides of 0"}
        return words + (of.get(along, "") if _follows_axis(beside) else "")
    reference = shown_reference(readings)
    return reference.label if reference is not None else compared_with(readings).reference


def pairs_of(readings: Readings, group: int) -> PairsReading:
    """The pairs of a group; kept with its sample."""
    of_group, settings = readings.groups[group], readings.recipe.pairs
    sample = of_group.sample
    sure = settings.confidence if settings.band else 0.0
    axis = readings.scale_of(group).axis
    if settings.beside != "reference":
        if lack := _shape_lacks(of_group, settings.beside):
            return _none(group, lack)
        return _with(_beside_shape(sample, settings.beside, sure, axis), group)
    reference = shown_reference(readings)
    if reference is None or reference.axis != of_group.axis:
        return _none(group, "there is no other group to stand beside")
    if not of_group.n:
        return _none(group, "there are no values")
    if reference.index == group:
        sure = 0.0
    return _with(_beside_sample(sample, reference.sample, sure), group)


def _follows_axis(name: ShapeName) -> bool:
    """Whether a shape is one of the places along the axis, such as logs."""
    return not SHAPES[name].begins_at_0 and not SHAPES[name].of_logs


def _shape_lacks(group: Group, name: ShapeName) -> str:
    shape = SHAPES[name]
    if not group.n:
        return "there are no values"
    if shape.of_logs and group.sample.minimum <= 0:
        return f"{SHAPE_WORDS[name]} has only values above 0"
    if shape.begins_at_0 and group.sample.minimum < 0:
        return f"{SHAPE_WORDS[name]} has no values below 0"
    if group.n < 2 or group.sample.minimum == group.sample.maximum:
        return "it takes two different values"
    return ""


def _none(group: int, lack: str) -> PairsReading:
    nothing = np.empty(0)
    return PairsReading(group, nothing, nothing, nothing, nothing, nothing, lack)


def _with(found: PairsReading, group: int) -> PairsReading:
    return PairsReading(group, found.shares, found.x, found.y, found.low, found.high, found.lack)


@memoised
def _beside_shape(
    sample: AnySample, name: ShapeName, confidence: float, axis: AxisScale
) -> PairsReading:
    from rhabdos.stats.pairs import band_of_shape, beside_shape  # which no start needs

    along = axis if _follows_axis(name) else LINEAR_AXIS
    told = placed(sample, along) if not along.even else sample
    pairs = beside_shape(told, name)
    if not len(pairs.y):
        return _none(0, "its values are too far apart, or too few have a place on the axis")
    low = high = np.full(len(pairs.y), np.nan)
    if confidence:
        band = band_of_shape(told, name, confidence)
        low, high = along.values(band.low), along.values(band.high)
    return PairsReading(0, pairs.shares, along.values(pairs.x), along.values(pairs.y), low, high)


@memoised  # every step of a hand draws the pairs again, and their band is dear
def _beside_sample(sample: AnySample, reference: AnySample, confidence: float) -> PairsReading:
    from rhabdos.stats.pairs import band_of_reference, beside

    pairs = beside(sample, reference)
    low = high = np.full(len(pairs.y), np.nan)
    if confidence:
        band = band_of_reference(sample, reference, confidence)
        low, high = band.low, band.high
    return PairsReading(0, pairs.shares, pairs.x, pairs.y, low, high)


def band_told(readings: Readings) -> str:
    """How often all points lie in the band: 95 %."""
    return f"{exact(round(100 * readings.recipe.pairs.confidence, 10))} %"


def card(readings: Readings, groups: Sequence[int], _pointed: int | None, value: float) -> Card:
    """The pair next to a value: both quantiles, and whether chance would have it there."""
    group = readings.groups[groups[0]]
    pairs = pairs_of(readings, group.index)
    if not len(pairs.y):
        return Card(group.label, (), (), notes=(f"No quantile pairs: {pairs.lack}.",))
    at = _nearest(pairs, value)
    beside = beside_words(readings)
    ours, theirs = float(pairs.y[at]), float(pairs.x[at])
    told = group.variable.format_with_unit
    lines = [
        Line(group.label, (told(rounded_for(readings, group, ours)),), group.index),
        Line(beside, (told(rounded_for(readings, group, theirs)),)),
        Line("difference", (difference_told(readings, group, ours - theirs),)),
    ]
    title = f"{100 * pairs.shares[at]:.3g} % of {group.label} lie below"
    return Card(title, ("",), tuple(lines), notes=tuple(_outcome(readings, pairs)))


def _outcome(readings: Readings, found: PairsReading) -> list[str]:
    """Whether all points lie in the band, and what that means."""
    reference = shown_reference(readings)
    if readings.recipe.pairs.beside == "reference":
        if reference is not None and reference.index == found.group:
            return ["The reference, which the others stand beside."]
        alike = "Groups from one distribution have all points in the band"
    else:
        alike = "Samples of that shape have all points in the band"
    if not readings.recipe.pairs.band:
        return []
    often = f"{alike} in {band_told(readings).removesuffix(' %')} of 100 cases"
    many = counted(len(found.y), "point", "points")
    if not found.beyond:
        return [f"{often}; here all {many} lie in it."]
    return [f"{often}; here {found.beyond:,} of {many} lie beyond it."]


def _nearest(found: PairsReading, value: float) -> int:
    return int(np.abs(found.y - value).argmin())


def span(readings: Readings, groups: Sequence[int], value: float) -> tuple[float, float]:
    """The values that are nearer to a point than to the next ones."""
    pairs = pairs_of(readings, groups[0])
    if not len(pairs.y):
        return value, value
    at = float(pairs.y[_nearest(pairs, value)])
    places = np.unique(pairs.y)
    here = int(np.searchsorted(places, at))
    low = places[here - 1] / 2 + at / 2 if here else at
    high = places[here + 1] / 2 + at / 2 if here + 1 < len(places) else at
    return float(low), float(high)


def stops(readings: Readings, groups: Sequence[int]) -> tuple[float, ...]:
    """So many of the points, the outermost included."""
    pairs = pairs_of(readings, groups[0])
    if not len(pairs.y):
        return ()
    at = np.linspace(0, len(pairs.y) - 1, min(_MOST_STOPS, len(pairs.y))).round().astype(np.int64)
    return tuple(np.unique(pairs.y[at]).tolist())


def notices(readings: Readings) -> tuple[Notice | None, ...]:
    """That groups have no pairs, and what else they could stand beside."""
    recipe = readings.recipe
    if "pairs" not in recipe.show.forms:
        return ()
    if recipe.pairs.beside == "reference" and shown_reference(readings) is None:
        text = "Beside a reference, quantile pairs need two groups with values: split by a factor."
        normal = recipe.changed(pairs=recipe.pairs.changed(beside="normal"))
        return (Notice("no-pairs", text, normal, "stand beside a normal shape", LACKS),)
    lacking = [
        (group.label, lack)
        for group in readings.groups
        if group.n and (lack := pairs_of(readings, group.index).lack)
    ]
    if not lacking:
        return ()
    names = listed([label for label, _ in lacking[:3]])
    more = f" and {len(lacking) - 3:,} more" if len(lacking) > 3 else ""
    text = f"No quantile pairs of {names}{more}: {lacking[0][1]}."
    return (Notice("no-pairs", text, weight=LACKS),)


def numbers(readings: Readings) -> dict[str, Any]:
    """Both quantiles of each pair, and the band."""
    rows = []
    for group in readings.groups:
        pairs = pairs_of(readings, group.index)
        if len(pairs.y):
            beside = readings.recipe.pairs.beside
            rows.append(
                {
                    "sample": group.label,
                    "beside": beside_words(readings) if beside == "reference" else beside,
                    "shares": pairs.shares.tolist(),
                    "x": pairs.x.tolist(),
                    "y": pairs.y.tolist(),
                    "low": pairs.low.tolist() if readings.recipe.pairs.band else None,
                    "high": pairs.high.tolist() if readings.recipe.pairs.band else None,
                }
            )
    return {"quantile_pairs": rows} if rows else {}


FORM = FigureForm(card=card, stops=stops, span=span, notices=notices, numbers=numbers)
