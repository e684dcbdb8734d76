"""What statistics ask of a sample."""

from collections.abc import Iterator
from typing import Protocol

from rhabdos.arrays import FloatArray, IntArray


class Spread(Protocol):
    """The mean, and the roots of the summed second, third and fourth powers of deviations from
    it."""

    @property
    def mean(self) -> float:
        """The mean."""

    @property
    def norm(self) -> float:
        """Root of the summed squares of deviations."""

    @property
    def cube(self) -> float:
        """Cube root of the summed cubes of deviations."""

    @property
    def fourth(self) -> float:
        """Fourth root of their summed fourth powers."""


class Ordered(Protocol):
    """n finite values in ascending order, in memory or elsewhere."""

    @property
    def n(self) -> int:
        """How many values there are."""

    @property
    def minimum(self) -> float:
        """The smallest value."""

    @property
    def maximum(self) -> float:
        """The largest value."""

    @property
    def whole(self) -> bool:
        """Whether every value is a whole number."""

    @property
    def moments(self) -> Spread:
        """Mean and summed powers of deviations."""

    def below(self, points: FloatArray, *, inclusive: bool = False) -> IntArray:
        """Number of values less than each point, or less than or equal to it if ``inclusive``.

        Parameters
        ----------
        points : array, shape (k,)
            In the variable's unit.
        inclusive : bool
            Whether values equal to a point count as well.
        """
        ...

    def at(self, ranks: IntArray) -> FloatArray:
        """Values at ranks 0 … n - 1.

        Parameters
        ----------
        ranks : array of int, shape (k,)
            From 0 to n - 1.
        """
        ...

    def about_below(self, points: FloatArray, *, inclusive: bool = False) -> IntArray:
        """The same as ``below``, for who asks at very many points: of values that lie elsewhere,
        as far as they are known here.

        Parameters
        ----------
        points : array, shape (k,)
            In the variable's unit.
        inclusive : bool
            Whether values equal to a point count as well.
        """
        ...

    def about_at(self, ranks: IntArray) -> FloatArray:
        """The same as ``at``, for who asks for very many ranks.

        Parameters
        ----------
        ranks : array of int, shape (k,)
            From 0 to n - 1.
        """
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
