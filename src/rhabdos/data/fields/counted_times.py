"""Numbers that count days, seconds or milliseconds since a day, as programs keep moments."""

import numpy as np
from msgspec import Struct

from rhabdos.arrays import FloatArray


class Counting(Struct, frozen=True):
    """How moments are counted.

    Attributes
    ----------
    a_day : float
        How many make a day.
    before : float
        Days from its beginning to that of 1970.
    usual : tuple of float
        The least and the greatest numbers that are likely to be moments of our time.
    """

    a_day: float
    before: float
    usual: tuple[float, float]

    def days(self, numbers: FloatArray) -> FloatArray:
        """What they are as days since 1970.

        Parameters
        ----------
        numbers : array, shape (n,)
            As moments are counted; NaN where there is none.
        """
        return np.asarray(numbers / self.a_day - self.before)


_OUR_TIME = 631_152_000.0, 2_524_608_000.0  # from 1990 to 2050, in seconds since 1970

COUNTINGS = {
    "days since 1900": Counting(1.0, 25_569.0, (20_000.0, 60_000.0)),
    "seconds since 1970": Counting(86_400.0, 0.0, _OUR_TIME),
    "milliseconds since 1970": Counting(86_400e3, 0.0, (_OUR_TIME[0] * 1e3, _OUR_TIME[1] * 1e3)),
    "microseconds since 1970": Counting(86_400e6, 0.0, (_OUR_TIME[0] * 1e6, _OUR_TIME[1] * 1e6)),
}
"""By the order of a step that reads numbers as dates. Sheets count from the last but one day of
1899, and call it 1900."""


def likely_counting(numbers: FloatArray) -> str:
    """Which counting numbers are likely to be of, all of them; empty for none.

    Parameters
    ----------
    numbers : array, shape (n,)
        NaN where there is none.
    """
    known = numbers[~np.isnan(numbers)]
    if not len(known):
        return ""
    low, high = float(known.min()), float(known.max())
    return next((o for o, c in COUNTINGS.items() if c.usual[0] <= low and high <= c.usual[1]), "")
