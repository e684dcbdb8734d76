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
    axes = AxesSoFar()
    for readings in figures:
        axes.add(readings, measure)
    return axes.shared


class AxesSoFar:
    """What the figures that were looked at so far can share, each of which may be let go then."""

    def __init__(self) -> None:
        self._limits: list[Limits] = []
        self._tops: list[float] = []
        self._values: set[object] = set()
        self._heights: set[object] = set()

    def add(self, readings: Readings, measure: Measure) -> None:
        """Look at one figure more.

        Raises
        ------
        Refusal
            It cannot be drawn.
        """
        limits = limits_of(readings)
        self._limits += limits
        self._values.add(_value_key(readings, limits))
        self._heights.add(_heights_key(readings))
        for lane in build(readings, measure).frame.lanes:
            self._tops += [heights.band.tallest for heights in lane.heights]

    @property
    def shared(self) -> CommonAxes:
        """What all of them can share."""
        value = None
        if len(self._values) == 1 and None not in self._values:
            low = min(limits.low for limits in self._limits)
            high = max(limits.high for limits in self._limits)
            value = structs.replace(self._limits[0], low=low, high=high)
        key = next(iter(self._heights)) if len(self._heights) == 1 else None
        if not isinstance(key, tuple) or (key[0] == "density" and value is None):
            return CommonAxes(value)
        return CommonAxes(value, max(self._tops, default=None))


def _value_key(readings: Readings, limits: tuple[Limits, ...]) -> object:
    """What value axes must have in common; None where one cannot be shared."""
    if readings.plan.axes > 1 or "value" in readings.recipe.panels.free:
        return None
    if value_bounds(readings) != (None, None):
        return None
    dates = isinstance(readings.variable, DateColumn)
    unit = "sd" if readings.recipe.show.standardised else readings.variable.unit
    return unit, dates, limits[0].axis, limits[0].reversed


def _heights_key(readings: Readings) -> object:
    """What axes of heights must have in common; None where one cannot be shared."""
    settings = readings.recipe.axes.height
    set_by_hand = settings.low is not None or settings.high is not None
    if not readings.plan.heights or "height" in readings.recipe.panels.free or set_by_hand:
        return None
    return readings.scale, readings.recipe.show.of, readings.cumulative
