"""What figures beside one another share: a value axis, and a scale of heights, where they can."""

from collections.abc import Sequence

from msgspec import Struct, structs

from rhabdos.data.columns import DateColumn
from rhabdos.figure.readings.axis_limits import value_bounds
from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.axes.limits import Limits, limits_of
from rhabdos.scene.build import build
from rhabdos.scene.style.lettering import Measure


class CommonAxes(Struct, frozen=True):
    """What several figures share; None where they cannot.

    Attributes
    ----------
    value : Limits or None
        Of the value axis, so that all of every figure is shown.
    top : float or None
        The height at which each axis of heights ends.
    """

    value: Limits | None = None
    top: float | None = None

    def limits(self, readings: Readings) -> tuple[Limits, ...] | None:
        """The limits of each panel of a figure; None where they are its own."""
        return None if self.value is None else (self.value,) * len(readings.plan.panels)


NOTHING_SHARED = CommonAxes()


def common_axes(figures: Sequence[Readings], measure: Measure) -> CommonAxes:
    """What some figures can share: the value axis where it measures the same along the same scale,
    heights where they are the same shares of the same; nothing whose ends are set by hand."""
    value = _value(figures)
    heights = {_heights_key(readings) for readings in figures}
    key = next(iter(heights)) if len(heights) == 1 else None
    if key is None or (key[0] == "density" and value is None):
        return CommonAxes(value)
    shared = CommonAxes(value)
    tops = []
    for readings in figures:
        frame = build(readings, measure, shared.limits(readings)).frame
        tops += [heights.band.tallest for lane in frame.lanes for heights in lane.heights]
    return CommonAxes(value, max(tops, default=None))


def _value(figures: Sequence[Readings]) -> Limits | None:
    each: list[Limits] = []
    keys = set()
    for readings in figures:
        if readings.plan.axes > 1 or "value" in readings.recipe.panels.free:
            return None
        if value_bounds(readings) != (None, None):
            return None
        dates = isinstance(readings.variable, DateColumn)
        limits = limits_of(readings)
        each += limits
        unit = "sd" if readings.recipe.show.standardised else readings.variable.unit
        keys.add((unit, dates, limits[0].axis, limits[0].reversed))
    if len(keys) != 1:
        return None
    low, high = min(limits.low for limits in each), max(limits.high for limits in each)
    return structs.replace(each[0], low=low, high=high)


def _heights_key(readings: Readings) -> tuple[str, str, bool] | None:
    settings = readings.recipe.axes.height
    set_by_hand = settings.low is not None or settings.high is not None
    if not readings.plan.heights or "height" in readings.recipe.panels.free or set_by_hand:
        return None
    return readings.scale, readings.recipe.show.of, readings.cumulative
