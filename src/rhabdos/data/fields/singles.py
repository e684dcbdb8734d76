"""Numbers that are kept in single precision, four bytes each, where 40.3 is 40.29999923706055."""

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    import polars as pl

_LOOKED_AT = 2_000  # values, of which is told how they were written
_DIGITS = 6  # of a decimal, which four bytes give back whatever they are
ALL_WHOLE = 2.0**24
"""From here on numbers of four bytes are whole, and none is a decimal."""


def of_few_digits(series: "pl.Series") -> bool:
    """Whether values in single precision are decimals of at most six digits, as people write and
    instruments round them; told of some at evenly spaced rows.

    Parameters
    ----------
    series : Series
        Of single precision.
    """
    values = series.to_numpy()[:: max(1, len(series) // _LOOKED_AT)]  # NaN where there is none
    values = values[np.isfinite(values) & (values != 0)].astype(np.float64)
    if not len(values) or np.abs(values).max() >= ALL_WHOLE:
        return False
    unit = 10.0 ** (np.floor(np.log10(np.abs(values))) - (_DIGITS - 1))
    written = np.rint(values / unit) * unit
    return np.array_equal(written.astype(np.float32), values)


def doubles_of(series: "pl.Series") -> "pl.Series":
    """Values in single precision as doubles: decimals of few digits as those that are written
    alike, so that 40.3 lies at the edge 40.3 and not below it.

    Parameters
    ----------
    series : Series
        Of single precision.
    """
    import polars as pl

    plain = series.cast(pl.Float64)
    if not of_few_digits(series):
        return plain
    decimals = (series.abs() < ALL_WHOLE) & (series != series.floor())
    if not decimals.any():
        return plain
    return series.cast(pl.String).cast(pl.Float64).zip_with(decimals, plain)
