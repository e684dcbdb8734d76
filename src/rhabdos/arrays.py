"""The arrays that numbers travel in."""

from typing import TYPE_CHECKING, Any

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray = NDArray[np.float64]
    IntArray = NDArray[np.integer[Any]]
    BoolArray = NDArray[np.bool_]
    ByteArray = NDArray[np.uint8]
    ComplexArray = NDArray[np.complex128]
else:  # numpy.typing takes a sixth of numpy's time to import, and only a type checker needs it
    FloatArray = IntArray = BoolArray = ByteArray = ComplexArray = np.ndarray


def to_ordinal(value: float) -> int:
    """The place of a double among all doubles in order, 0 for 0."""
    bits = int(np.float64(value).view(np.int64))
    return bits if bits >= 0 else -(bits & 0x7FFFFFFFFFFFFFFF)


def from_ordinals(ordinals: IntArray) -> FloatArray:
    """The doubles at places among all doubles in order.

    Parameters
    ----------
    ordinals : array of int64, any shape
        0 for 0.0, 1 for the least double above it, −1 for the one below it.
    """
    doubles: FloatArray = np.where(
        ordinals >= 0,
        ordinals.view(np.float64),
        -np.where(ordinals < 0, -ordinals, 0).view(np.float64),
    )
    return doubles


def from_ordinal(ordinal: int) -> float:
    """The double at a place among all doubles in order."""
    return float(from_ordinals(np.array([ordinal], dtype=np.int64))[0])
