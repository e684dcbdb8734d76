"""What statistics ask of a sample."""

from collections.abc import Iterator
from typing import Protocol

from rhabdos.arrays import FloatArray, IntArray


class Spread(Protocol):
    """The mean, and the roots of the summed second, third and fourth powers of deviations from
    it."""

    @property
    def mean(self) -> float: ...
    @property
    def norm(self) -> float: ...
    @property
    def cube(self) -> float: ...
    @property
    def fourth(self) -> float: ...


class Ordered(Protocol):
    """n finite values in ascending order, in memory or elsewhere."""

    @property
    def n(self) -> int: ...
    @property
    def minimum(self) -> float: ...
    @property
    def maximum(self) -> float: ...
    @property
    def whole(self) -> bool: ...
    @property
    def moments(self) -> Spread: ...
    def below(self, points: FloatArray, *, inclusive: bool = False) -> IntArray:
        """Number of values less than each point, or less than or equal to it if ``inclusive``."""
        ...

    def at(self, ranks: IntArray) -> FloatArray:
        """Values at ranks 0 … n - 1."""
        ...

    def run(self, start: int, stop: int) -> FloatArray:
        """Values at ranks ``start`` … ``stop`` - 1, in order."""
        ...

    def mean_of(self, start: int, stop: int) -> float:
        """Mean of the values at ranks ``start`` … ``stop`` - 1; NaN of none."""
        ...

    def pieces(self) -> Iterator[tuple[FloatArray, IntArray | None]]:
        """All values, and how many cases each stands for (None: one), in pieces that fit the
        processor's cache."""
        ...
