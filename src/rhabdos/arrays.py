"""The arrays that numbers travel in."""

from typing import TYPE_CHECKING, Any

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    FloatArray = NDArray[np.float64]
    IntArray = NDArray[np.integer[Any]]
else:  # numpy.typing takes a sixth of numpy's time to import, and only a type checker needs it
    FloatArray = IntArray = np.ndarray
