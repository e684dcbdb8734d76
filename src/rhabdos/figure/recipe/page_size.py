"""Sizes of a page."""

import re
from typing import Self

from msgspec import Struct

from rhabdos.quoting import quoted

POINTS_PER_INCH = 72.0
SCREEN_DPI = 96.0
_INCHES = {"cm": 1 / 2.54, "mm": 1 / 25.4, "in": 1.0}
UNITS = ("cm", "mm", "in", "px")
_LEAST, _MOST = 1.0, 120.0  # inches


class Size(Struct, frozen=True):
    """Width and height in cm, mm, in or px."""

    width: float
    height: float
    unit: str

    @classmethod
    def parse(cls, text: str) -> Self:
        """Read "16x10cm", "16 × 10 cm" or "1600x1000px".

        Raises
        ------
        ValueError
            The text is no size, or one that no figure fits.
        """
        sides = re.fullmatch(
            r"\s*([\d.]+)\s*[x×*]\s*([\d.]+)\s*(cm|mm|in|px)\s*", text, re.IGNORECASE
        )
        try:
            if not sides:
                raise ValueError
            size = cls(float(sides[1]), float(sides[2]), sides[3].lower())
        except ValueError:
            raise ValueError(
                f"{quoted(text)} is no size; write a width and a height such as 16x10cm, 6x4in or "
                "1600x1000px"
            ) from None
        if (
            size.unit != "px"
        ):  # what pixels come to depends on the resolution, which points() is told
            size.points()
        return size

    def points(self, dpi: float = SCREEN_DPI) -> tuple[float, float]:
        """Width and height in points; pixels are taken at ``dpi``.

        Parameters
        ----------
        dpi : float
            Pixels for an inch.

        Raises
        ------
        ValueError
            A side is shorter than an inch or longer than ten feet.
        """
        per_unit = 1 / dpi if self.unit == "px" else _INCHES[self.unit]
        inches = self.width * per_unit, self.height * per_unit
        if not all(_LEAST <= side <= _MOST for side in inches):
            raise ValueError(
                f"a figure of {self} is too small or too large; each side must be from 2.54 cm to "
                "3 m"
            )
        return inches[0] * POINTS_PER_INCH, inches[1] * POINTS_PER_INCH

    def in_unit(self, unit: str, dpi: float = SCREEN_DPI) -> Self:
        """The same size in another unit, rounded as people write it.

        Parameters
        ----------
        unit : str
            cm, mm, in or px.
        dpi : float
            Pixels for an inch.
        """
        if unit == self.unit:
            return self
        width, height = self.points(dpi)
        per_unit = 1 / dpi if unit == "px" else _INCHES[unit]
        digits = 0 if unit in ("px", "mm") else 2
        across, down = (
            round(side / POINTS_PER_INCH / per_unit, digits) for side in (width, height)
        )
        return type(self)(across, down, unit)

    def on_paper(self, dpi: float) -> Self:
        """The same in cm, where it is in pixels of a resolution."""
        return self.in_unit("cm", dpi) if self.unit == "px" else self

    def __str__(self) -> str:
        return f"{self.width:g}x{self.height:g}{self.unit}"


COMMON: dict[str, Size] = {
    "one column": Size(8.5, 6.5, "cm"),
    "two columns": Size(17.5, 10.0, "cm"),
    "slide": Size(25.4, 14.3, "cm"),
    "square": Size(12.0, 12.0, "cm"),
}
"""Sizes that figures often have, by name."""
