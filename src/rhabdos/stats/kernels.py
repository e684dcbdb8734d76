"""Kernels of density curves, all with standard deviation 1."""

import math
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Literal

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray

KernelName = Literal["gaussian", "epanechnikov", "biweight", "triangular", "rectangular", "cosine"]

TAIL = 8.0
"""Standard deviations after which a Gaussian is nothing to a double's eye."""


class Kernel(Struct, frozen=True):
    """A kernel with standard deviation 1, so that one bandwidth smooths as much with any of them.

    Attributes
    ----------
    reach : float
        Beyond which it is 0.
    height : callable
        Of |u| <= reach.
    """

    reach: float
    height: Callable[[FloatArray], FloatArray]


_COSINE = 1 / math.sqrt(1 - 8 / math.pi**2)  # its reach, from which its standard deviation is 1


def _within(reach: float, shape: Callable[[FloatArray], FloatArray]) -> Kernel:
    """A kernel that is ``shape`` of u / reach, for |u| <= reach."""
    return Kernel(reach, lambda u: shape(np.minimum(np.abs(u) / reach, 1.0)) / reach)


KERNELS: Mapping[KernelName, Kernel] = {
    "gaussian": Kernel(TAIL, lambda u: np.exp(-u * u / 2) / math.sqrt(2 * math.pi)),
    "epanechnikov": _within(math.sqrt(5), lambda t: 0.75 * (1 - t * t)),
    "biweight": _within(math.sqrt(7), lambda t: 15 / 16 * (1 - t * t) ** 2),
    "triangular": _within(math.sqrt(6), lambda t: 1 - t),
    "rectangular": _within(math.sqrt(3), lambda t: np.full_like(t, 0.5)),
    "cosine": _within(_COSINE, lambda t: math.pi / 4 * np.cos(math.pi * t / 2)),
}


@lru_cache(maxsize=8)  # an integral of each kernel
def roughness(name: KernelName) -> float:
    """The integral of a kernel's square, for standard deviation 1: of a Gaussian 1/(2 √π)."""
    kernel = KERNELS[name]
    u = np.asarray((np.arange(20_000) + 0.5) * (kernel.reach / 20_000), dtype=np.float64)
    return float(2 * np.square(kernel.height(u)).sum() * kernel.reach / 20_000)


_Terms = tuple[Callable[[FloatArray], FloatArray], Callable[[FloatArray], FloatArray]]


def _one(t: FloatArray) -> FloatArray:
    return np.ones_like(t)


def _turn(t: FloatArray) -> FloatArray:
    return math.pi / 2 * t


# Kernels of t = u / reach as sums of products of a term in the place x and a term in the value v,
# so that running sums over the values answer for every place. The triangle has two: left and right
# of the place.
PARTS: Mapping[KernelName, tuple[tuple[_Terms, ...], tuple[_Terms, ...]]] = {
    "rectangular": (((lambda x: 0.5 * _one(x), _one),), ((lambda x: 0.5 * _one(x), _one),)),
    "triangular": (
        ((lambda x: 1 - x, _one), (_one, lambda v: v)),
        ((lambda x: 1 + x, _one), (_one, lambda v: -v)),
    ),
    "epanechnikov": (
        (
            (lambda x: 0.75 * (1 - x * x), _one),
            (lambda x: 1.5 * x, lambda v: v),
            (_one, lambda v: -0.75 * v * v),
        ),
    )
    * 2,
    "biweight": (
        (
            (lambda x: 15 / 16 * (1 - x * x) ** 2, _one),
            (lambda x: 15 / 4 * x * (1 - x * x), lambda v: v),
            (lambda x: 15 / 8 * (3 * x * x - 1), lambda v: v**2),
            (lambda x: -15 / 4 * x, lambda v: v**3),
            (_one, lambda v: 15 / 16 * v**4),
        ),
    )
    * 2,
    "cosine": (
        (
            (lambda x: math.pi / 4 * np.cos(_turn(x)), lambda v: np.cos(_turn(v))),
            (lambda x: math.pi / 4 * np.sin(_turn(x)), lambda v: np.sin(_turn(v))),
        ),
    )
    * 2,
}
