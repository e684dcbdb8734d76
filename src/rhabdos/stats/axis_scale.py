"""What equal steps along a value axis stand for: values, their logs, their square roots, or logs to
both sides of zero."""

import math
from typing import Literal

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray

ScaleKind = Literal["linear", "log", "root", "arsinh"]
# Near the largest double, its log and its root: beyond, a width would overflow.
_FURTHEST, _LAST_LOG, _LAST_ROOT = 1.7e308, 308.25, 1.3e154
_LN10 = math.log(10.0)
_SMALLEST = math.ulp(0.0)


class AxisScale(Struct, frozen=True):
    """From values to places on an even axis, and back.

    Attributes
    ----------
    kind : {"linear", "log", "root", "arsinh"}
        A place is the value; its log to base 10; its square root, that of values below 0 being as
        far below 0; or arsinh(value / near) / ln 10, which is even about 0 and far from it rises by
        1 with each factor of 10.
    near : float
        Of "arsinh": up to about what distance from 0 places are even in values. Above 0, in the
        variable's unit.
    """

    kind: ScaleKind = "linear"
    near: float = 1.0

    @property
    def even(self) -> bool:
        """Whether places are the values themselves."""
        return self.kind == "linear"

    @property
    def log(self) -> bool:
        """Whether equal steps are equal ratios."""
        return self.kind == "log"

    @property
    def by_ratio(self) -> bool:
        """Whether a step is a ratio of values: everywhere, or far from 0."""
        return self.kind in ("log", "arsinh")

    def admits(self, value: float) -> bool:
        """Whether a value has a place on such an axis."""
        return value > 0 or self.kind in ("linear", "arsinh") or (self.kind == "root" and not value)

    def place(self, value: float) -> float:
        """The place of one value; one that has none lies below all others."""
        if self.kind == "linear":
            return value
        if self.kind == "log":
            return math.log10(max(value, _SMALLEST))
        if self.kind == "root":
            return math.copysign(math.sqrt(abs(value)), value)
        return math.asinh(value / self.near) / _LN10

    def placed(self, x: FloatArray) -> FloatArray:
        """Values as places; all of them must be such as the axis admits.

        Parameters
        ----------
        x : array, shape (k,)
            In the variable's unit.
        """
        if self.kind == "linear":
            return x
        if self.kind == "log":
            return np.asarray(np.log10(x))
        if self.kind == "root":
            return np.asarray(np.copysign(np.sqrt(np.abs(x)), x))
        return np.asarray(np.arcsinh(x / self.near) / _LN10)

    def value(self, place: float) -> float:
        """The value at one place."""
        return float(self.values(np.array([place]))[0])

    def values(self, places: FloatArray) -> FloatArray:
        """Places as values; those past all numbers are the largest one.

        Parameters
        ----------
        places : array, shape (k,)
            On the even axis.
        """
        if self.kind == "linear":
            return places
        if self.kind == "log":
            return np.minimum(np.power(10.0, np.minimum(places, _LAST_LOG)), _FURTHEST)
        if self.kind == "root":
            within = np.clip(places, -_LAST_ROOT, _LAST_ROOT)
            return np.asarray(within * np.abs(within))
        # Places beyond the last value are endless here, and stop there below.
        with np.errstate(over="ignore"):
            far = np.sinh(np.clip(places, -_LAST_LOG, _LAST_LOG) * _LN10) * self.near
        return np.clip(far, -_FURTHEST, _FURTHEST)

    def per_place(self, value: float) -> float:
        """How fast values change with places at a value, in the variable's unit."""
        if self.kind == "linear":
            return 1.0
        if self.kind == "log":
            return value * _LN10
        if self.kind == "root":
            return 2.0 * math.sqrt(abs(value))
        return math.hypot(value, self.near) * _LN10


LINEAR_AXIS = AxisScale()
LOGS = AxisScale("log")
