"""Shapes of distributions that have names, of which quantiles are known in closed form."""

import math
from collections.abc import Mapping
from typing import Literal

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray

ShapeName = Literal["normal", "lognormal", "uniform", "logistic", "exponential"]
MOST_SURE = 0.99
"""Confidence up to which samples by chance tell where points of such a shape lie."""


class NamedShape(Struct, frozen=True):
    """A shape in its plainest place and scale.

    Attributes
    ----------
    mean, sd : float
        Of the plainest one.
    begins_at_0 : bool
        Whether its place is fixed, so that its mean alone is fitted.
    of_logs : bool
        Whether it is one of the logs of values.
    """

    name: ShapeName
    mean: float
    sd: float
    begins_at_0: bool = False
    of_logs: bool = False

    def quantiles(self, shares: FloatArray) -> FloatArray:
        """The quantiles of the plainest one; of logs those of their logs.

        Parameters
        ----------
        shares : array, any shape
            Above 0 and below 1.
        """
        if self.name == "uniform":
            return shares
        if self.name == "logistic":
            return np.asarray(np.log(shares) - np.log1p(-shares))
        if self.name == "exponential":
            return np.asarray(-np.log1p(-shares))
        from scipy.special import ndtri  # which no start needs

        return np.asarray(ndtri(shares))


SHAPES: Mapping[ShapeName, NamedShape] = {
    shape.name: shape
    for shape in (
        NamedShape("normal", 0.0, 1.0),
        NamedShape("lognormal", 0.0, 1.0, of_logs=True),
        NamedShape("uniform", 0.5, math.sqrt(1 / 12)),
        NamedShape("logistic", 0.0, math.pi / math.sqrt(3)),
        NamedShape("exponential", 1.0, 1.0, begins_at_0=True),
    )
}
